"""Values that a build script reads from a file: a properties file or a JSON file that a variable is loaded from.

Followed are the ordinary ways: ``props.load(new FileInputStream(file("x.properties")))``, a stream or reader block
around the call, ``Properties().apply { load(…) }``, ``JsonSlurper().parse(file("x.json"))``.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from itertools import pairwise
from typing import NamedTuple

from onomaxis import late
from onomaxis.errors import FormatError
from onomaxis.formats.gradle_statements import literal_text
from onomaxis.formats.jsonc import parse_json
from onomaxis.formats.lexer import Token, enclosing, item_end, matching
from onomaxis.formats.properties import parse_properties
from onomaxis.model import Piece
from onomaxis.projects.android.script_functions import Helper, statement
from onomaxis.projects.project import place
from onomaxis.tree import Tree, join, parent

_ROOT = late.compile(r"\$\{?(?:rootProject\.(?:projectDir|rootDir)|rootDir|project\.rootDir)\}?/?")
_OWN = late.compile(r"\$\{?(?:project\.projectDir|projectDir|layout\.projectDirectory)\}?/?")
_ROOT_NAMES = frozenset({"rootProject", "rootDir"})
_GIVEN = late.compile(r"\$\{(\w+)\}|\$(\w+)")
# What a folder is called before a path is added to it: ``rootDir.path + "/x.properties"``.
_FOLDERS = frozenset({"rootDir", "projectDir", "path", "absolutePath"})
_FILE = late.compile(r"[\w./$ {}-]*\.(?:properties|json|version|env|gradle|kts)\Z")


class LoadedFile(NamedTuple):
    """A file that a variable is loaded from: its path, and its bytes (None while it does not exist)."""

    path: str
    data: bytes | None

    def entry(self, *keys: str) -> Piece | None:
        """Return the value at a path of keys, which only JSON has more than one of. None where there is none."""
        if self.data is None:
            return None
        if self.path.endswith(".json"):
            return self._json_entry(keys) or self._json_entry(tuple(part for key in keys for part in key.split(".")))
        key = ".".join(keys)
        properties = parse_properties(self.data)
        found = properties.get(key)
        if found is None:
            return None
        return Piece(found.value, place(self.path, properties.source, found.start, found.end, "properties"))

    def _json_entry(self, keys: tuple[str, ...]) -> Piece | None:
        try:
            document = parse_json(self.data or b"")
        except FormatError:
            return None
        node = document.top.get(*keys)
        if node is None or node.kind not in ("string", "bare"):
            return None
        inset, syntax = (1, "json") if node.kind == "string" else (0, "number")
        spot = place(self.path, document.source, node.start + inset, node.end - inset, syntax)
        return Piece(str(node.value), spot)


def loaded_files(
    found: Sequence[Token], path: str, name: str, root: str, tree: Tree, given: Mapping[str, str]
) -> list[LoadedFile]:
    """Return the files that the variable *name* is loaded from by tokens of the script at *path*.

    *root* is the build's folder, *given* what the parameters of a function are. A path that the build computes
    keeps its ``$``.
    """
    return _loaded_by(found, _expressions(found, name), path, root, tree, given)


def returned_files(helper: Helper, path: str, root: str, tree: Tree, given: Mapping[str, str]) -> list[LoadedFile]:
    """Return the files from which the result of a function of the script at *path* is loaded."""
    result = [token for token in helper.result if token.kind != "newline"]
    if len(result) == 1 and result[0].kind == "name":
        return loaded_files(helper.body, path, result[0].text, root, tree, given)
    return _loaded_by(helper.body, [result] if _loads(result) else [], path, root, tree, given)


def _loaded_by(
    found: Sequence[Token],
    expressions: Iterable[Sequence[Token]],
    path: str,
    root: str,
    tree: Tree,
    given: Mapping[str, str],
) -> list[LoadedFile]:
    files = dict.fromkeys(
        target for expression in expressions if (target := _file(found, expression, path, root, given))
    )
    return [LoadedFile(file, tree.named_file(file)) for file in files]


def _loads(expression: Sequence[Token]) -> bool:
    texts = {token.text for token in expression}
    return "JsonSlurper" in texts or {"Properties", "load"} <= texts


def _expressions(found: Sequence[Token], name: str) -> Iterator[Sequence[Token]]:
    """Yield the tokens that say what a variable is loaded from."""
    for at, token in enumerate(found):
        following = [item.text for item in found[at + 1 : at + 4]]
        if token.text != name or token.kind != "name":
            continue
        if following[:3] == [".", "load", "("] or following[:3] == ["?.", "load", "("]:
            inner = found[at + 4 : matching(found, at + 3)]
            yield [*inner, *_around(found, at, inner)]
        elif following[:1] in (["="], [":"]) and (at == 0 or found[at - 1].text not in (".", "?.")):
            whole = statement(found, at)
            if _loads(whole):
                yield whole


def _around(found: Sequence[Token], at: int, inner: Sequence[Token]) -> Sequence[Token]:
    """Return what stands before the block that a call stands in, where its argument is that block's parameter."""
    if any(token.kind == "string" for token in inner):
        return []
    index = enclosing(found, at)
    while index >= 0 and found[index].text != "{":
        index = enclosing(found, index)
    start = index
    while start > 0 and found[start - 1].kind != "newline" and found[start - 1].text not in ("{", "}", ";"):
        start -= 1
    before = found[max(start, 0) : max(index, 0)]
    return before if not before or before[0].text not in ("if", "else") else []


def _file(
    found: Sequence[Token],
    expression: Sequence[Token],
    path: str,
    root: str,
    given: Mapping[str, str],
    depth: int = 0,
) -> str:
    """Return the path of the one file that an expression names, through variables of the script."""
    at_root = any(token.text in _ROOT_NAMES for token in expression)
    for at in range(len(expression)):
        text = _joined(expression, at, given)
        if text and _FILE.match(text):
            if _ROOT.search(text):
                return join(root, _ROOT.sub("", text))
            return join(root if at_root else parent(path), _OWN.sub("", text))
    names = [token.text for token in expression if token.kind == "name"]
    for name in dict.fromkeys(names) if depth < 3 else ():
        for at, token in enumerate(found):
            assigned = [item.text for item in found[at + 1 : at + 2]] == ["="]
            if token.text == name and token.kind == "name" and assigned and found[at - 1].text not in (".", "?."):
                named = _file(found, statement(found, at)[2:], path, root, given, depth + 1)
                if named:
                    return named
    return ""


def _joined(expression: Sequence[Token], at: int, given: Mapping[str, str]) -> str:
    """Return the text of the strings and names that are joined from *at* on; a name that is not given is ``${name}``.

    Empty where nothing begins there.
    """
    added = at > 1 and expression[at - 1].text == "+"
    before = expression[at - 2] if added else None
    if before is not None and (before.kind == "string" or before.text in given):
        return ""  # a part of what began before
    parts = [f"${{{before.text}}}"] if before and before.kind == "name" and before.text not in _FOLDERS else []
    while at < len(expression) and expression[at].kind in ("string", "name"):
        token = expression[at]
        if token.kind == "string":
            parts.append(_GIVEN.sub(lambda match: given.get(match[1] or match[2], match[0]), _text(token)))
        elif token.text in given:
            parts.append(given[token.text])
        elif parts:
            parts.append(f"${{{token.text}}}")
        else:
            return ""
        if at + 1 >= len(expression) or expression[at + 1].text != "+":
            break
        at += 2
    return "".join(parts)


def named_file(found: Sequence[Token], expression: Sequence[Token], path: str, root: str) -> str:
    """Return the path of the file that an expression among the tokens of the script at *path* names, or nothing."""
    return _file(found, expression, path, root, {})


def _text(token: Token) -> str:
    return literal_text([token]) or token.text.strip("\"'")


def map_keys(found: Sequence[Token]) -> list[str]:
    """Return the keys of a map literal: ``[k: v]``, ``mapOf("k" to v)``."""
    pairs = pairwise(found)
    names = ((literal_text([key]) or (key.text if key.kind == "name" else ""), mark.text) for key, mark in pairs)
    return [name for name, mark in names if name and mark in (":", "to")]


def mapped(found: Sequence[Token], key: str) -> tuple[Token, ...] | None:
    """Return the value of *key* in a map literal: ``[k: v]``, ``mapOf("k" to v)``, ``put("k", v)``."""
    for index, token in enumerate(found[:-2]):
        name = literal_text([token]) or (token.text if token.kind == "name" else "")
        if name == key and found[index + 1].text in (":", "to", ","):
            value = found[index + 2 : item_end(found, index + 2)]
            return tuple(item for item in value if item.kind != "newline") or None
    return None
