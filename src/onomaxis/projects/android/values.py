"""What a Gradle expression comes to, piece by piece, with the literal each piece was written in.

Followed: literals, templates, concatenation, sums, variables of the script, extra properties of it and of the
scripts above and beside it, ``gradle.properties``, version catalogs, ``toInteger()`` and its kind. Anything else
raises :class:`Unknown`: nothing is guessed.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from typing import NamedTuple

from onomaxis.formats.escapes import decode_backslashes
from onomaxis.formats.gradle import Script, Setting
from onomaxis.formats.lexer import GROOVY, KOTLIN, Region, Token, tokens
from onomaxis.formats.properties import Properties
from onomaxis.formats.source import Source
from onomaxis.model import Piece, Place, Value
from onomaxis.projects.base import place

_CONVERSIONS = frozenset({"toInteger", "toInt", "toString", "get", "trim", "toLong", "asInteger", "orNull"})
_HOLDERS = frozenset({"project", "rootProject", "ext", "extra", "this", "properties", "gradle", "parent"})
_SIMPLE = {
    "kotlin": re.compile(r"(?<!\\)\$([A-Za-z_]\w*)", re.ASCII),
    "groovy": re.compile(r"(?<!\\)\$([A-Za-z_]\w*(?:\.[A-Za-z_]\w*)*)", re.ASCII),
}
_CATALOG_ENTRY = re.compile(r"""^[ \t]*["']?([\w.-]+)["']?[ \t]*=[ \t]*(["'])([^"'\n]*)\2""", re.MULTILINE)
_PLUGIN_ID = re.compile(r"""\bid\s*=\s*["']([\w.-]+)["']""")


class Unknown(Exception):
    """The expression is computed in a way that is not followed; the message says which."""


class NotSet(Unknown):
    """The name is set nowhere: an elvis default applies."""


class Catalog(NamedTuple):
    """The version entries and plug-in IDs of a ``*.versions.toml``; accessor names have dots for dashes."""

    versions: dict[str, Piece]
    plugins: dict[str, str]


def read_catalog(path: str, data: bytes) -> Catalog:
    """Read the ``[versions]`` and ``[plugins]`` tables (docs.gradle.org, "Version Catalogs")."""
    source = Source.read(data)
    versions: dict[str, Piece] = {}
    plugins: dict[str, str] = {}
    for table in re.finditer(r"^\[(\w+)\][^\n]*\n(.*?)(?=^\[|\Z)", source.view, re.MULTILINE | re.DOTALL):
        if table[1] == "versions":
            for entry in _CATALOG_ENTRY.finditer(source.view, table.start(2), table.end(2)):
                spot = place(path, source, entry.start(3), entry.end(3), "double")
                versions[_accessor(entry[1])] = Piece(entry[3], spot)
        if table[1] == "plugins":
            for line in table[2].splitlines():
                name, _, rest = line.partition("=")
                found = _PLUGIN_ID.search(rest) or re.match(r"""\s*["']([\w.-]+):""", rest)
                if found:
                    plugins[_accessor(name.strip())] = found[1]
    return Catalog(versions, plugins)


def _accessor(name: str) -> str:
    return re.sub(r"[-_]", ".", name)


@dataclass
class ScriptFile:
    """A parsed script and its settings, by path."""

    path: str
    script: Script
    settings: tuple[Setting, ...] = ()

    def __post_init__(self) -> None:
        self.settings = tuple(self.script.settings())


@dataclass
class Environment:
    """Where names are looked up from one script: itself first, then ``others`` in order, then properties."""

    own: ScriptFile
    others: list[ScriptFile] = field(default_factory=list)
    properties: list[tuple[str, Properties]] = field(default_factory=list)
    catalogs: dict[str, Catalog] = field(default_factory=dict)

    def value(self, found: tuple[Token, ...], file: ScriptFile | None = None) -> Value:
        """Evaluate an expression of *file* (default: the own script). Raises Unknown."""
        file = file or self.own
        pieces = _Evaluator(self, file, list(found)).whole()
        return Value(pieces, self.place(found, file))

    def place(self, found: tuple[Token, ...], file: ScriptFile | None = None) -> Place:
        """Return the span of a whole expression, to be replaced by a quoted literal where all else fails."""
        file = file or self.own
        syntax = "gradle-expression"
        return place(file.path, file.script.source, found[0].start, found[-1].end, syntax)

    def lookup(self, name: str, depth: int) -> tuple[Piece, ...]:
        """Return the pieces of the variable or property *name*. Raises Unknown."""
        if depth > 20:
            raise Unknown(f"“{name}” refers to itself")
        for file in (self.own, *self.others):
            hits = [
                item
                for item in file.settings
                if _declares(item, name) and item.value and (file is self.own or _shared(item))
            ]
            if not hits:
                continue
            if len(hits) > 1 or hits[0].conditional:
                raise Unknown(f"“{name}” is set under a condition or more than once")
            return _Evaluator(self, file, list(hits[0].value), depth + 1).whole()
        for path, properties in self.properties:
            entry = properties.get(name)
            if entry:
                spot = place(path, properties.source, entry.start, entry.end, "properties")
                return (Piece(entry.value, spot),)
        raise NotSet(f"“{name}” is not set where Onomaxis looks")


def _declares(item: Setting, name: str) -> bool:
    full = item.full
    return full[-1] == name and (
        (item.declared and len(full) == 1)
        or (len(full) >= 2 and full[-2] in ("ext", "extra", "companion", "object"))
        or (len(full) == 1 and not item.statement.args)
        or (item.declared and len(full) <= 2)
    )


def _shared(item: Setting) -> bool:
    """A variable that other scripts see: an extra property, not a local."""
    return "ext" in item.full or "extra" in item.full or item.declared


class _Evaluator:
    """A small recursive reader over the tokens of one expression."""

    def __init__(self, environment: Environment, file: ScriptFile, items: list[Token], depth: int = 0) -> None:
        self.environment = environment
        self.file = file
        self.source = file.script.source
        self.items = [item for item in items if item.kind != "newline"]
        self.depth = depth
        self.at = 0

    def peek(self) -> str:
        return self.items[self.at].text if self.at < len(self.items) else ""

    def whole(self) -> tuple[Piece, ...]:
        if not self.items:
            raise Unknown("the expression is empty")
        pieces = self.elvis()
        if self.at < len(self.items):
            raise Unknown(f"“{self.text()}” is computed when the build runs")
        return pieces

    def text(self) -> str:
        return self.source.text(self.items[0].start, self.items[-1].end)

    def elvis(self) -> tuple[Piece, ...]:
        save = self.at
        try:
            left = self.sum()
        except NotSet:
            if "?:" not in [item.text for item in self.items[save:]]:
                raise
            while self.peek() != "?:":
                self.at += 1
            self.at += 1
            return self.elvis()
        if self.peek() == "?:":
            self.at = len(self.items)
        return left

    def sum(self) -> tuple[Piece, ...]:
        left = self.product()
        while self.peek() in ("+", "-"):
            sign = self.items[self.at].text
            self.at += 1
            right = self.product()
            left = _combine(left, right, sign)
        return left

    def product(self) -> tuple[Piece, ...]:
        left = self.postfix()
        while self.peek() == "*":
            self.at += 1
            right = self.postfix()
            left = (Piece(str(_number(left) * _number(right))),)
        return left

    def postfix(self) -> tuple[Piece, ...]:
        pieces = self.primary()
        while self.peek() in (".", "?.", "!!", "as"):
            mark = self.peek()
            self.at += 1
            if mark == "!!":
                continue
            name = self.peek()
            self.at += 1
            if mark == "as":
                if self.peek() == "?":
                    self.at += 1
                continue
            if name not in _CONVERSIONS:
                raise Unknown(f"“{self.text()}” calls {name}()")
            self.empty_call()
        return pieces

    def empty_call(self) -> None:
        if self.peek() == "(":
            if self.at + 1 < len(self.items) and self.items[self.at + 1].text == ")":
                self.at += 2
            else:
                raise Unknown(f"“{self.text()}” is computed when the build runs")

    def primary(self) -> tuple[Piece, ...]:
        if self.at >= len(self.items):
            raise Unknown(f"“{self.text()}” is not complete")
        token = self.items[self.at]
        if token.kind == "string":
            self.at += 1
            return self.string(token)
        if token.kind == "number":
            self.at += 1
            digits = token.text.replace("_", "").rstrip("lL")
            return (Piece(digits, place(self.file.path, self.source, token.start, token.end, "number")),)
        if token.text == "(":
            self.at += 1
            inner = self.elvis()
            if self.peek() != ")":
                raise Unknown(f"“{self.text()}” is computed when the build runs")
            self.at += 1
            return inner
        if token.kind == "name":
            return self.reference()
        raise Unknown(f"“{self.text()}” is computed when the build runs")

    def string(self, token: Token) -> tuple[Piece, ...]:
        pieces: list[Piece] = []
        for part in token.parts:
            if isinstance(part, Region):
                pieces.extend(self.stretch(part))
            else:
                language = KOTLIN if self.file.script.kotlin else GROOVY
                inner = tokens(self.source.view, language, *part)
                pieces.extend(_Evaluator(self.environment, self.file, inner, self.depth + 1).whole())
        return tuple(piece for piece in pieces if piece.text) or (self.literal(token.parts[0]),)

    def literal(self, part: Region | tuple[int, int]) -> Piece:
        assert isinstance(part, Region)
        written = self.source.text(part.start, part.end)
        value = written if part.syntax == "kotlin-raw" else decode_backslashes(written)
        return Piece(value, place(self.file.path, self.source, part.start, part.end, part.syntax))

    def stretch(self, part: Region) -> list[Piece]:
        """Split a literal stretch at ``$name`` references."""
        if part.syntax not in ("double-dollar", "kotlin-raw"):
            return [self.literal(part)]
        pattern = _SIMPLE["kotlin" if self.file.script.kotlin else "groovy"]
        pieces: list[Piece] = []
        at = part.start
        for match in pattern.finditer(self.source.view, part.start, part.end):
            pieces.append(self.literal(Region("string", at, match.start(), part.syntax)))
            pieces.extend(self.name(match[1]))
            at = match.end()
        pieces.append(self.literal(Region("string", at, part.end, part.syntax)))
        return pieces

    def reference(self) -> tuple[Piece, ...]:
        """Read ``a.b.c``, ``findProperty("x")``, ``extra["x"]``, ``libs.versions.x.get()``, ``parseInt(x)``."""
        names: list[str] = []
        while self.at < len(self.items) and self.items[self.at].kind == "name":
            names.append(self.items[self.at].text.strip("`"))
            self.at += 1
            if self.peek() in (".", "?.") and names[-1] not in _CONVERSIONS:
                following = self.items[self.at + 1] if self.at + 1 < len(self.items) else None
                if following and following.kind == "name" and following.text not in _CONVERSIONS:
                    self.at += 1
                    continue
            break
        if self.peek() in ("(", "["):
            return self.call(names)
        return self.name(".".join(names))

    def call(self, names: list[str]) -> tuple[Piece, ...]:
        closing = ")" if self.peek() == "(" else "]"
        last = names[-1]
        if last in ("parseInt", "valueOf", "String", "Integer"):
            self.at += 1
            inner = self.elvis()
            if self.peek() == closing:
                self.at += 1
                return inner
        wanted = last in (
            "property",
            "findProperty",
            "gradleProperty",
            "getProperty",
            "get",
            "properties",
            "ext",
            "extra",
        )
        key = self.items[self.at + 1] if self.at + 2 < len(self.items) else None
        if wanted and key and key.kind == "string" and self.items[self.at + 2].text == closing:
            self.at += 3
            name = "".join(piece.text for piece in self.string(key))
            return self.environment.lookup(name, self.depth)
        raise Unknown(f"“{self.text()}” calls {'.'.join(names)}()")

    def name(self, dotted: str) -> tuple[Piece, ...]:
        catalog, _, rest = dotted.partition(".versions.")
        if rest and catalog in self.environment.catalogs:
            key = rest.removesuffix(".get")
            versions = self.environment.catalogs[catalog].versions
            if key in versions:
                return (versions[key],)
            raise Unknown(f"“{dotted}” is not in the version catalog")
        parts = dotted.split(".")
        if parts[0] in ("android", "defaultConfig"):
            return self.setting(parts)
        while len(parts) > 1 and parts[0] in _HOLDERS:
            parts = parts[1:]
        if len(parts) > 2 or parts[0] in ("true", "false", "null", "System"):
            raise Unknown(f"“{dotted}” is not followed")
        return self.environment.lookup(parts[-1], self.depth)

    def setting(self, parts: list[str]) -> tuple[Piece, ...]:
        wanted = tuple(parts if parts[0] == "android" else ["android", *parts])
        for item in self.environment.own.settings:
            if item.full == wanted and not item.conditional and item.value and self.depth < 20:
                return _Evaluator(self.environment, self.environment.own, list(item.value), self.depth + 1).whole()
        raise Unknown(f"“{'.'.join(parts)}” is not set in this script")


def _is_number(pieces: tuple[Piece, ...]) -> bool:
    return (
        all(piece.place is None or piece.place.syntax == "number" for piece in pieces)
        and "".join(piece.text for piece in pieces).isdecimal()
    )


def _number(pieces: tuple[Piece, ...]) -> int:
    text = "".join(piece.text for piece in pieces)
    if not text.isdecimal():
        raise Unknown(f"“{text}” is no number")
    return int(text)


def _combine(left: tuple[Piece, ...], right: tuple[Piece, ...], sign: str) -> tuple[Piece, ...]:
    """Add numbers, join strings."""
    if sign == "-":
        return (Piece(str(_number(left) - _number(right))),)
    if _is_number(left) and _is_number(right):
        return (Piece(str(_number(left) + _number(right))),)
    return (*left, *right)
