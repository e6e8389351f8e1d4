"""The files that an identity is written in, to be changed: comments stay, and every brand stays where it stands."""

from __future__ import annotations

import copy
import re
import tomllib
from bisect import bisect_right
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from onomaxis import late
from onomaxis.errors import InputError
from onomaxis.identity.file import IdentityFile
from onomaxis.identity.reading import read_identity
from onomaxis.identity.schema import NAME
from onomaxis.identity.table import flattened, new_table, rewritten_table
from onomaxis.surveys.beside import Beside
from onomaxis.tree import Tree
from onomaxis.writing.proof import fault

# UTF-8's byte order mark, which some editors write.
_MARK = b"\xef\xbb\xbf"


class Documents:
    """An identity's files as documents: the identity file itself, files of brands, the table of brands."""

    def __init__(self, tree: Tree, file: IdentityFile) -> None:
        self.tree = tree
        self.file = file
        self._read: dict[str, bytes] = {NAME: tree.read(NAME) or b""}
        self._open: dict[str, Any] = {NAME: parsed_document(self._read[NAME])}
        self._rows: dict[str, tuple[str, Any, Any]] = {}

    @property
    def main(self) -> Any:
        """The identity file's own document."""
        return self._open[NAME]

    def of(self, flavor: str) -> Any:
        """Return the document in which a flavor's table stands, or would stand."""
        name = self.file.named(flavor)
        home = self.file.home(self.file.line("flavors", name)) if self.file.lists(flavor) else NAME
        if home.endswith(".toml"):
            return self._opened(home)
        if name not in self._rows:
            self._read.setdefault(home, self.tree.read(home) or b"")
            row = {"flavors": {name: copy.deepcopy(dict(self.file.top["flavors"][name]))}}
            self._rows[name] = (home, row, copy.deepcopy(row))
        return self._rows[name][1]

    def all(self) -> Iterable[Any]:
        """Return every document: the identity file's and those of all its brands."""
        for flavor in self.file.flavors:
            self.of(flavor)
        return [*self._open.values(), *(row for _, row, _ in self._rows.values())]

    def contents(self) -> dict[str, bytes]:
        """Return the files that differ from what they were, by path."""
        found = {path: self._written(path) for path in self._open}
        for path in dict.fromkeys(home for home, _, _ in self._rows.values()):
            cells: dict[str, dict[str, str]] = {}
            for name, (home, row, before) in self._rows.items():
                new, old = flattened(row["flavors"][name]), flattened(before["flavors"][name])
                changed = {key: new.get(key, "") for key in {**old, **new} if new.get(key, "") != old.get(key, "")}
                if home == path and changed:
                    cells[name] = changed
            found[path] = rewritten_table(path, self._read[path], cells) if cells else self._read[path]
        return {path: data for path, data in found.items() if data != self._read[path]}

    def identity(self) -> IdentityFile:
        """Return the identity as the documents say it now. Raises InputError where it is not right."""
        changed = self.contents()
        return read_identity(NAME, changed.get(NAME, self._read[NAME]), around=Beside(self.tree, changed))

    def _opened(self, path: str) -> Any:
        if path not in self._open:
            self._read[path] = self.tree.read(path) or b""
            self._open[path] = parsed_document(self._read[path])
        return self._open[path]

    def _written(self, path: str) -> bytes:
        import tomlkit

        mark = _MARK if self._read[path].startswith(_MARK) else b""
        return mark + tomlkit.dumps(self._open[path]).encode("utf-8")


def parsed_document(data: bytes) -> Any:
    """Return a TOML file as a document that keeps its comments."""
    import tomlkit

    return tomlkit.parse(data.decode("utf-8-sig"))


def homes(file: IdentityFile) -> Mapping[str, list[str]]:
    """Return the flavors of each file of an identity."""
    found: dict[str, list[str]] = {}
    for flavor in file.flavors:
        found.setdefault(file.home(file.line("flavors", flavor)), []).append(flavor)
    return found


def with_brand(
    tree: Tree, file: IdentityFile, flavor: str, table: str, changed: Mapping[str, bytes]
) -> tuple[str, bytes]:
    """Return the file that a new brand goes into, and what it is with it: *table* is its ``[flavors.NAME]`` in TOML.

    It goes where its siblings stand: a file of its own beside theirs, the table of brands, else the identity file.
    *changed* are the files that differ already.
    """
    home, like = _home_of_new(file, flavor)
    data = changed.get(home)
    if data is None:
        data = (tree.read(home) or b"") if tree.exists(home) else b""
    if like:  # a file of its own
        return home, table.encode("utf-8")
    if not home.endswith(".toml"):
        brand = parsed_document(table.encode("utf-8")).unwrap()["flavors"][flavor]
        return home, rewritten_table(home, data, {flavor: flattened(brand)})
    newline = "\r\n" if b"\r\n" in data else "\n"
    lead = newline if data.endswith(b"\n") else newline * 2
    return home, data + (lead + table.replace("\n", newline)).encode("utf-8")


def _home_of_new(file: IdentityFile, flavor: str) -> tuple[str, bool]:
    """Return where a new brand goes, and whether that is a file of its own."""
    known = homes(file)
    own = [path for path, flavors in known.items() if path != NAME and path.endswith(".toml") and len(flavors) == 1]
    beside = [path for path in own if path.rpartition("/")[2] == f"{known[path][0]}.toml"]
    if beside and "include" in file.top:
        return f"{beside[0].rpartition('/')[0]}/{flavor}.toml".lstrip("/"), True
    table = file.top.get("brands")
    if table and NAME not in known:
        return str(table), False
    return NAME, False


# What brands are called in files of their own, and in a table.
FOLDER, TABLE = "brands", "brands.csv"
_HEAD = late.compile(r"^[ \t]*\[\[?[ \t]*(?P<path>[^\]\n]*?)[ \t]*\]\]?[ \t]*(?:#[^\n]*)?$", re.MULTILINE)
# A string over several lines may hold a line that looks like a table's head. Source: toml.io, v1.0.0, "String".
_QUOTED = late.compile(
    r'"""(?:\\.|[^\\])*?"{3,5}|\'\'\'.*?\'{3,5}|"(?:\\.|[^"\\\n])*"|\'[^\'\n]*\'|#[^\n]*', re.DOTALL
)
_ABOVE = late.compile(r"(?:^[ \t]*#[^\n]*\n)+\Z", re.MULTILINE)


def apart(tree: Tree, contents: Mapping[str, bytes], table: bool) -> dict[str, bytes]:
    """Return an identity's files with the brands of the identity file in files of their own, or in a *table*.

    *contents* are the files as they are to be. Comments go with the brand that they stand above; of a table there is
    no place for them. Raises InputError where a place is taken, or a brand is not written as tables.
    """
    data = contents[NAME] if NAME in contents else tree.read(NAME) or b""
    mark = _MARK if data.startswith(_MARK) else b""
    text = data.decode("utf-8-sig")
    blocks, rest = _blocks(text)
    if not blocks:
        return dict(contents)
    found = dict(contents)
    brands = tomllib.loads(text)["flavors"]
    inline = [name for name in brands if name not in blocks]
    if inline:
        said = f"the flavor {inline[0]} is not a table with a head of its own"
        raise InputError(said, file=NAME, remedy="Write it as [flavors.NAME] first.")
    if table:
        lead = f'brands = "{TABLE}"'
        found[TABLE] = new_table({name: brands[name] for name in blocks})
    else:
        lead = f'include = ["{FOLDER}/*.toml"]'
        found |= {f"{FOLDER}/{name}.toml": mark + block.encode("utf-8") for name, block in blocks.items()}
    for path in found:
        if path not in contents and path != NAME and tree.exists(path):
            raise InputError("a file of this name exists already", file=path, remedy="Move it away first.")
    found[NAME] = mark + _led(rest, lead).encode("utf-8")
    _prove_same(tree, text, found)
    return found


def _prove_same(tree: Tree, text: str, found: Mapping[str, bytes]) -> None:
    """Read the files again: they say what the one file said. Raises FaultError where they do not."""
    before = tomllib.loads(text)
    after = read_identity(NAME, found[NAME], around=Beside(tree, dict(found))).top
    for name in sorted({*before["flavors"], *after.get("flavors", {})}):
        brand = after.get("flavors", {}).get(name)
        if brand is None or flattened(dict(brand)) != flattened(before["flavors"].get(name, {"": ""})):
            raise fault(NAME, 1, f"the flavor {name} would not be what it is")
    for key in ({*before} | {*after}) - {"flavors", "include", "brands"}:
        if before.get(key) != after.get(key):
            raise fault(NAME, 1, f"{key} would not be what it is")


def _blocks(text: str) -> tuple[dict[str, str], str]:
    """Return the text of each brand's tables, and the text without them."""
    strings = [match.span() for match in _QUOTED.finditer(text)]
    heads = [head for head in _HEAD.finditer(text) if not _within(strings, head.start())]
    starts = [_with_comment(text, head.start()) for head in heads]
    ends = [*starts[1:], len(text)]
    blocks: dict[str, str] = {}
    rest, at = [], 0
    for head, start, end in zip(heads, starts, ends, strict=True):
        keys = _keys(head["path"])
        if len(keys) < 2 or keys[0] != "flavors":
            continue
        blocks[keys[1]] = blocks.get(keys[1], "") + text[start:end]
        rest.append(text[at:start])
        at = end
    rest.append(text[at:])
    return {name: block.strip("\r\n") + "\n" for name, block in blocks.items()}, "".join(rest).rstrip("\r\n") + "\n"


def _within(spans: Sequence[tuple[int, int]], at: int) -> bool:
    before = bisect_right(spans, (at, at)) - 1
    return before >= 0 and at < spans[before][1]


def _with_comment(text: str, start: int) -> int:
    """Return where a head begins with the comment lines right above it."""
    above = _ABOVE.search(text, max(0, start - 4000), start)
    return above.start() if above else start


def _keys(path: str) -> list[str]:
    """Return the keys of a table's head."""
    keys: list[str] = []
    try:
        node = tomllib.loads(f"[{path}]")
    except tomllib.TOMLDecodeError:
        return keys
    while isinstance(node, dict) and node:
        key = next(iter(node))
        keys.append(key)
        node = node[key]
    return keys


def _led(text: str, line: str) -> str:
    """Put a key of the top below ``format``."""
    found = re.search(r"^format[ \t]*=[^\n]*\n", text, re.MULTILINE)
    at = found.end() if found else 0
    newline = "\r\n" if "\r\n" in text else "\n"
    return text[:at] + line + newline + text[at:]
