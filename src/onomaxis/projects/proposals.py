"""Values that brands usually vary, found where they usually stand: what is offered for an identity file.

What tells one is its key and its form: server addresses, IDs and keys of services, colours of the brand, addresses of
people, currencies, schemes. Nothing is taken for one by its form alone.
"""

from __future__ import annotations

import contextlib
import re
from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

from onomaxis import late
from onomaxis.errors import FormatError, InputError
from onomaxis.formats.escapes import decode
from onomaxis.formats.jsonc import Node, parse_json
from onomaxis.formats.lexer import LANGUAGES, Region, Token, tokens
from onomaxis.formats.source import Source
from onomaxis.formats.xcconfig import Setting, parse_xcconfig
from onomaxis.identity.schema import COLOR
from onomaxis.projects.siblings import Group
from onomaxis.projects.text_places import env_names, env_spot, version_info_spot
from onomaxis.tree import Tree

# The most that a file of constants has, and the most that is looked at.
_LONGEST_FILE, _MOST_FILES = 60_000, 400


class Proposed(NamedTuple):
    """A value that a brand may vary: what it would be called, what it reads, its place as an identity file has it.

    ``flavor`` is whose text it is where the app itself has none, ``locale`` the language of a text in one.
    """

    name: str
    text: str
    kind: str
    place: Mapping[str, str]
    flavor: str = ""
    locale: str = ""

    @property
    def secret(self) -> bool:
        """True where its name says that it is not for everyone's eyes."""
        return bool(set(self.name.split("-")) & {"secret", "password", "token"})


_URL = late.compile(r"(?:https?|wss?)://(?:[\w-]+@)?[\w.-]+(?::\d+)?(?:/[^\s\"'<>]*)?")
_HOST = late.compile(r"[a-z0-9-]+(?:\.[a-z0-9-]+)+", re.IGNORECASE)
_MAIL = late.compile(r"[\w.+-]+@[\w-]+(?:\.[\w-]+)+")
_PHONE = late.compile(r"\+?[\d ()/-]{6,}")
_IDENTIFIER = late.compile(r"[A-Za-z0-9_~.:/+=-]{6,}")
_SCHEME = late.compile(r"[a-z][a-z0-9+.-]{2,}")
_CURRENCY = late.compile(r"[A-Z]{3}|[€$£¥₹]")
_SERVERS = {"api", "server", "host", "endpoint", "url", "uri", "backend", "socket", "site", "domain", "base"}
_SERVICES = {"key", "token", "secret", "id", "appid", "dsn", "tenant", "merchant", "publishable", "identifier"}
_BRAND_COLORS = {"primary", "accent", "brand", "secondary", "tint", "splash", "theme"}
# What an operator has to state by law, and words of keys that are about such a text and do not say it.
_LEGAL = {"legal", "imprint", "impressum", "copyright", "company", "publisher", "operator"}
_ABOUT = {"hint", "label", "title", "error", "message", "placeholder", "button", "description"}
_PROSE = late.compile(r"(?=.*[A-Z\u00a9\u00c0-\u00de])[^\r\n{}<>%@]{3,160}")
_NO_SERVERS = ("schemas.android.com", "www.w3.org", "www.apple.com", "example.com", "localhost")


def words_of(key: str) -> list[str]:
    """Return the words of a key, whatever it is spelled in, in lower case."""
    parted = re.sub(r"(?<=[a-z0-9])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])", " ", key)
    return [word.lower() for word in re.split(r"[^A-Za-z0-9]+", parted) if word]


def kind_of_value(key: str, text: str) -> str | None:
    """Return the type of a value that a brand usually varies; None where neither key nor form say so."""
    words = set(words_of(key))
    if not text or "$" in text or text.startswith(("@", "?")):
        return None
    if COLOR.match(text):
        return "color" if words & _BRAND_COLORS else None
    if _URL.fullmatch(text):
        return "url" if not any(name in text for name in _NO_SERVERS) else None
    if words & _SERVERS and _HOST.fullmatch(text) and not text.replace(".", "").isdigit() and len(words) < 6:
        return "text"
    if words & _SERVICES and _IDENTIFIER.fullmatch(text) and re.search(r"\d", text):
        return "text"
    if words & {"mail", "email", "support", "contact"} and _MAIL.fullmatch(text):
        return "text"
    if words & {"phone", "tel", "hotline"} and _PHONE.fullmatch(text):
        return "text"
    if words & _LEGAL and not words & _ABOUT and _PROSE.fullmatch(text):
        return "text"
    if "currency" in words and _CURRENCY.fullmatch(text):
        return "text"
    return "text" if words & {"scheme", "deeplink"} and _SCHEME.fullmatch(text) else None


# Words that alone do not say what a value is of.
_GENERAL = {"application", "app", "api", "id", "key", "url", "value", "token", "source"}


def proposed(key: str, text: str, place: Mapping[str, str], flavor: str = "") -> Iterator[Proposed]:
    """Yield a value as a proposal, if it is one; *flavor* is the one that it is of, where the app has none."""
    kind = kind_of_value(key.rpartition(".")[2] if "constant" in place else key, text)
    *before, last = key.split(".")
    words = words_of(last)
    if before and set(words) <= _GENERAL and "constant" not in place:
        words = [*words_of(before[-1]), *words]  # “…ads.APPLICATION_ID” says more than “APPLICATION_ID”
    name = "-".join(words)
    if kind is not None and re.match(r"[a-z]", name):
        yield Proposed(name, text, kind, place, flavor)


# -- files that every platform has

# What files of constants are called.
_CONSTANTS = late.compile(
    r"(?:config|constants?|env|environment|brand|branding|secrets?|keys|api|urls?|flavor)", re.IGNORECASE
)
# What a build takes a flavor's files from, by itself: read as the build reads it.
_BUILT = late.compile(r"(?:\A|/)src/[^/]+/(?:res|java|kotlin|AndroidManifest\.xml)(?:/|\Z)|google-services\.json\Z")
_DEEPEST = 4
_CODE = (".dart", ".kt", ".java", ".swift", ".ts", ".js")


def in_files(tree: Tree, flavors: Sequence[str] = ()) -> Iterator[Proposed]:
    """Yield what variables of ``.env`` files and constants of small files of constants hold.

    A file that is called after one of *flavors* is that flavor's; members of its JSON files count as well.
    """
    looked = 0
    group = Group("", tuple(flavors)) if flavors else None
    for path in tree.files:
        name, flavor = path.rpartition("/")[2], _flavor_of(group, path)
        shown = group.braced(path) if group is not None and flavor else path
        if name.endswith((".rc", ".xcconfig")):
            yield from _of_desktop(tree, path)
        variables = name == ".env" or name.endswith(".env") or (flavor and name.startswith(".env"))
        told = name.endswith((*_CODE, ".json"))
        if variables:
            yield from _variables(tree, path, shown, flavor)
        elif told and _CONSTANTS.search(path if flavor else name) and looked < _MOST_FILES:
            if "/test" in f"/{path}":
                continue
            looked += 1
            data = tree.read(path) or b""
            if len(data) <= _LONGEST_FILE:
                owner = _Owner(path, shown, flavor, tuple(flavors))
                yield from (_members if name.endswith(".json") else _constants)(data, owner)


def _flavor_of(group: Group | None, path: str) -> str:
    """Return the one flavor that a file is called after; of the build's own files it is told by the build's kind."""
    named = list(group.mentions(path)) if group is not None else []
    own = len(named) == 1 and not _BUILT.search(path) and named[0] in path
    return named[0] if own else ""


def _variables(tree: Tree, path: str, shown: str, flavor: str) -> Iterator[Proposed]:
    try:
        for name in env_names(tree.read(path) or b""):
            yield from proposed(name, env_spot(tree, name, path).text, {"env": name, "file": shown}, flavor)
    except (FormatError, InputError):
        return  # no text, or gone


def _of_desktop(tree: Tree, path: str) -> Iterator[Proposed]:
    """Yield what runners on desktops say of their operator: version blocks, and the settings of a Mac app."""
    data = tree.read(path) or b""
    if len(data) > _LONGEST_FILE:
        return
    with contextlib.suppress(FormatError, InputError):
        if path.endswith(".rc"):
            for name in ("CompanyName", "LegalCopyright"):
                spot = version_info_spot(tree, name, path)
                yield from proposed(name, spot.text, {"version-info": name, "file": path})
        else:
            for item in parse_xcconfig(data).statements:
                if isinstance(item, Setting) and set(words_of(item.name)) & _LEGAL:
                    yield from proposed(item.name, item.value, {"property": item.name, "file": path})


# Texts in languages that code asks for, by files of a language: called after it, in a folder of such or by form.
_LANGUAGE_FILE = late.compile(
    r"(?:.*[_/])?(?P<locale>[a-z]{2}(?:[-_][A-Z]{2})?)\.(?:arb|json)\Z|(?P<none>\Z)", re.DOTALL
)
_LANGUAGE_FOLDER = late.compile(r"(?:\A|/)(?:locales?|i18n|l10n|lang|languages|translations)/")


def texts_in_files(tree: Tree, folder: str) -> Iterator[Proposed]:
    """Yield every text of files of a language: bundles of resources (``.arb``), tables in folders of languages."""
    for path in tree.below(folder):
        match = _LANGUAGE_FILE.match(path) if path.endswith((".arb", ".json")) else None
        if match is None or not match["locale"] or not (path.endswith(".arb") or _LANGUAGE_FOLDER.search(path)):
            continue
        data = tree.read(path) or b""
        with contextlib.suppress(FormatError):
            top = parse_json(data).top if len(data) <= _LONGEST_FILE * 8 else None
            for key, node in top.members if top is not None else ():
                if isinstance(node.value, str) and not key.startswith("@"):
                    pointer = f"/{key.replace('~', '~0').replace('/', '~1')}"
                    where = {"pointer": pointer, "file": path}
                    yield Proposed(key, node.value, "text", where, "", match["locale"].replace("_", "-"))


class _Owner(NamedTuple):
    """A file of values: its path, how an identity file says it, whose it is.

    In a file of all, each of *flavors* may have entries of its own.
    """

    path: str
    shown: str
    flavor: str
    flavors: tuple[str, ...]

    def parted(self, keys: Sequence[str]) -> tuple[tuple[str, ...], str]:
        """Return the keys of an entry with the flavor among them in braces, and the flavor."""
        named = next((key for key in keys[:-1] if key in self.flavors), "") if not self.flavor else ""
        return tuple("{flavor}" if named and key == named else key for key in keys), named or self.flavor


def _members(data: bytes, owner: _Owner) -> Iterator[Proposed]:
    """Yield what the members of a flavor's JSON file hold, and what a flavor has in one of all flavors."""

    def walk(node: Node, above: tuple[str, ...]) -> Iterator[Proposed]:
        for key, value in node.members:
            keys = (*above, key)
            if key.startswith("$"):
                continue  # about the file
            if isinstance(value.value, str):
                named, flavor = owner.parted(keys)
                pointer = "".join(f"/{part.replace('~', '~0').replace('/', '~1')}" for part in named)
                if flavor:
                    words = ".".join(named[named.index("{flavor}") + 1 :] if "{flavor}" in named else named)
                    yield from proposed(words, value.value, {"pointer": pointer, "file": owner.shown}, flavor)
            elif len(keys) < _DEEPEST:
                yield from walk(value, keys)

    try:
        yield from walk(parse_json(data).top, ())
    except FormatError:
        return


def _constants(data: bytes, owner: _Owner) -> Iterator[Proposed]:
    path, own = owner.path, owner.flavor
    try:
        source = Source.read(data)
    except FormatError:
        return
    found = [item for item in tokens(source.view, LANGUAGES["." + path.rpartition(".")[2]]) if item.kind != "newline"]
    for name, token in _declared(found):
        regions = [part for part in token.parts if isinstance(part, Region)]
        if len(regions) == 1 and len(token.parts) == 1:
            text = decode(regions[0].syntax, source.text(regions[0].start, regions[0].end))
            *holders, last = name.split(".")
            if own and any(own.casefold() in holder.casefold() for holder in holders):
                name = last  # each flavor's type is called after it
            named, flavor = owner.parted(name.split("."))
            name = ".".join(named)
            yield from proposed(name, text, {"constant": name, "file": owner.shown}, flavor)


def _declared(found: Sequence[Token]) -> Iterator[tuple[str, Token]]:
    """Yield constants with their type's name before theirs, and the string that each is set to."""
    holders: list[tuple[str, int]] = []
    depth = 0
    for at, token in enumerate(found):
        if token.kind == "mark":
            depth += (token.text == "{") - (token.text == "}")
            holders = [item for item in holders if item[1] <= depth]
        before = found[at - 1].text if at else ""
        if token.text == "{" and token.kind == "mark" and before in ("=", ":", "default"):
            holder = before if before == "default" else _named(found, at - 2)
            holders += [(holder, depth)] if holder else []
        if before in ("class", "object", "enum", "struct", "interface") and token.kind == "name":
            holders.append((token.text, depth + 1))
        if token.kind == "string" and at > 1 and found[at - 1].text in ("=", ":"):
            name = _named(found, at - 2)
            if name and len(holders) < 3 and depth <= len(holders):
                yield ".".join([*(holder for holder, _ in holders), name]), token


def _named(found: Sequence[Token], at: int) -> str:
    """Return the name that is declared before a position, a type between or not: ``name: String = …``."""
    while at > 1 and found[at].kind == "name" and found[at - 1].text == ":" and found[at + 1].text == "=":
        at -= 2
    return found[at].text if at >= 0 and found[at].kind == "name" else ""
