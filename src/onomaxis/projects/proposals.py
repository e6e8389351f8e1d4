"""Values that brands usually vary, found where they usually stand: what is offered for an identity file.

What tells one is its key and its form: server addresses, IDs and keys of services, colours of the brand, addresses of
people, currencies, schemes. Nothing is taken for one by its form alone.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

from onomaxis import late
from onomaxis.errors import FormatError, InputError
from onomaxis.formats.escapes import decode
from onomaxis.formats.lexer import LANGUAGES, Region, Token, tokens
from onomaxis.formats.source import Source
from onomaxis.identity.schema import COLOR
from onomaxis.projects.text_places import env_names, env_spot
from onomaxis.tree import Tree

# The most that a file of constants has, and the most that is looked at.
_LONGEST_FILE, _MOST_FILES = 60_000, 400


class Proposed(NamedTuple):
    """A value that a brand may vary: what it would be called, what it reads, its place as an identity file has it.

    ``flavor`` is whose text it is where the app itself has none.
    """

    name: str
    text: str
    kind: str
    place: Mapping[str, str]
    flavor: str = ""

    @property
    def secret(self) -> bool:
        """True where its name says that it is not for everyone's eyes."""
        return bool(set(self.name.split("-")) & {"secret", "password", "token"})


_URL = late.compile(r"(?:https?|wss?)://[\w.-]+(?::\d+)?(?:/[^\s\"'<>]*)?")
_HOST = late.compile(r"[a-z0-9-]+(?:\.[a-z0-9-]+)+", re.IGNORECASE)
_MAIL = late.compile(r"[\w.+-]+@[\w-]+(?:\.[\w-]+)+")
_PHONE = late.compile(r"\+?[\d ()/-]{6,}")
_IDENTIFIER = late.compile(r"[A-Za-z0-9_~.:/+=-]{6,}")
_SCHEME = late.compile(r"[a-z][a-z0-9+.-]{2,}")
_CURRENCY = late.compile(r"[A-Z]{3}|[€$£¥₹]")
_SERVERS = {"api", "server", "host", "endpoint", "url", "uri", "backend", "socket", "site", "domain", "base"}
_SERVICES = {"key", "token", "secret", "id", "appid", "dsn", "tenant", "merchant", "publishable", "identifier"}
_BRAND_COLORS = {"primary", "accent", "brand", "secondary", "tint", "splash", "theme"}
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
_CODE = (".dart", ".kt", ".java", ".swift", ".ts", ".js")


def in_files(tree: Tree) -> Iterator[Proposed]:
    """Yield what variables of ``.env`` files and constants of small files of constants hold."""
    looked = 0
    for path in tree.files:
        name = path.rpartition("/")[2]
        if name == ".env" or name.endswith(".env"):
            yield from _variables(tree, path)
        elif name.endswith(_CODE) and _CONSTANTS.search(name) and "/test" not in f"/{path}" and looked < _MOST_FILES:
            looked += 1
            data = tree.read(path) or b""
            if len(data) <= _LONGEST_FILE:
                yield from _constants(path, data)


def _variables(tree: Tree, path: str) -> Iterator[Proposed]:
    try:
        for name in env_names(tree.read(path) or b""):
            yield from proposed(name, env_spot(tree, name, path).text, {"env": name, "file": path})
    except (FormatError, InputError):
        return  # no text, or gone


def _constants(path: str, data: bytes) -> Iterator[Proposed]:
    try:
        source = Source.read(data)
    except FormatError:
        return
    found = [item for item in tokens(source.view, LANGUAGES["." + path.rpartition(".")[2]]) if item.kind != "newline"]
    for name, token in _declared(found):
        regions = [part for part in token.parts if isinstance(part, Region)]
        if len(regions) == 1 and len(token.parts) == 1:
            text = decode(regions[0].syntax, source.text(regions[0].start, regions[0].end))
            yield from proposed(name, text, {"constant": name, "file": path})


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
