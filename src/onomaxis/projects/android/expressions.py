"""One Gradle expression read by its tokens: literals, templates, sums, defaults, calls that ask for a value.

Names are asked of whoever knows them (:class:`Names`). What is not followed raises :class:`Unknown`: nothing is
guessed.
"""

from __future__ import annotations

import re

from onomaxis import late
from onomaxis.formats.escapes import decode, trimmed
from onomaxis.formats.lexer import GROOVY, KOTLIN, Region, Token, matching, nesting, tokens
from onomaxis.model import Piece
from onomaxis.projects.android.access import access_path
from onomaxis.projects.android.scope import Names, NotSet, ScriptFile, Unknown
from onomaxis.projects.android.script_functions import Call
from onomaxis.projects.project import place

_CONVERSIONS = frozenset({"toInteger", "toInt", "toString", "get", "trim", "toLong", "asInteger", "orNull"})
# Calls that ask the project for one of its properties, and calls that ask a map or a loaded file for an entry.
_LOOKUPS = frozenset({"property", "findProperty", "getProperty", "get", "properties", "ext", "extra"})
_ENTRY_CALLS = frozenset({"get", "getProperty", "getValue", "getOrDefault"})
_HOLDERS = frozenset({"project", "rootProject", "ext", "extra", "this", "properties", "gradle", "parent"})
_SIMPLE = {
    "kotlin": late.compile(r"(?<!\\)\$([A-Za-z_]\w*)", re.ASCII),
    "groovy": late.compile(r"(?<!\\)\$([A-Za-z_]\w*(?:\.[A-Za-z_]\w*)*)", re.ASCII),
}


# What people write by hand stays far below: a script may have come from anywhere.
_MOST_PIECES = 300
_DEEPEST = 60


class Evaluator:
    """A small recursive reader over the tokens of one expression."""

    def __init__(self, environment: Names, file: ScriptFile, items: list[Token], depth: int = 0) -> None:
        self.environment = environment
        self.file = file
        self.source = file.script.source
        self.items = [item for item in items if item.kind != "newline"]
        self.depth = depth
        self.at = 0
        self.nested = 0

    def peek(self) -> str:
        return self.items[self.at].text if self.at < len(self.items) else ""

    def whole(self) -> tuple[Piece, ...]:
        """Return the pieces of the whole expression. Raises Unknown."""
        if not self.items:
            raise Unknown("the expression is empty")
        path = access_path(self.items)
        found = self.environment.entry_at(path, self.depth) if path is not None else None
        if found is not None:
            return found
        pieces = self.elvis()
        if len(pieces) > _MOST_PIECES:
            raise Unknown("the value is put together of too many parts")
        if self.at < len(self.items):
            raise Unknown(f"“{self.text()}” is computed when the build runs")
        return pieces

    def text(self) -> str:
        return self.source.text(self.items[0].start, self.items[-1].end)

    def elvis(self) -> tuple[Piece, ...]:
        self.nested += 1
        if self.nested > _DEEPEST:
            raise Unknown("the expression is nested too deeply")
        try:
            return self._elvis()
        finally:
            self.nested -= 1

    def _elvis(self) -> tuple[Piece, ...]:
        save = self.at
        chosen = self.choice()
        if chosen is not None:
            return chosen
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

    def choice(self) -> tuple[Piece, ...] | None:
        """Read ``hasProperty("x") ? a : b`` and ``if (hasProperty("x")) a else b``; None where neither is."""
        match = [item.text for item in self.items[self.at :]]
        branch = match[:2] == ["if", "("]
        at = self.at + (2 if branch else 0)
        while at < len(self.items) and self.items[at].text in (*_HOLDERS, "."):
            at += 1
        texts = [item.text for item in self.items[at : at + 6]]
        if texts[:2] != ["hasProperty", "("] or self.items[at + 2].kind != "string" or texts[3] != ")":
            return None
        name = "".join(piece.text for piece in self.string(self.items[at + 2]))
        end, between = (")", "else") if branch else ("?", ":")
        if texts[4:5] != [end]:
            return None
        middle = self._matching(at + 5, between)
        if middle is None:
            return None
        try:
            self.environment.lookup(name, self.depth)
            part = self.items[at + 5 : middle]
        except NotSet:
            part = self.items[middle + 1 :]
        self.at = len(self.items)
        return Evaluator(self.environment, self.file, part, self.depth + 1).whole()

    def _matching(self, start: int, wanted: str) -> int | None:
        depth = 0
        for at in range(start, len(self.items)):
            depth += nesting(self.items[at])
            if depth == 0 and self.items[at].text == wanted:
                return at
        return None

    def sum(self) -> tuple[Piece, ...]:
        left = self.product()
        while self.peek() in ("+", "-"):
            sign = self.items[self.at].text
            self.at += 1
            right = self.product()
            left = _combine(left, right, sign)
            if len(left) > _MOST_PIECES:
                raise Unknown("the value is put together of too many parts")
        return left

    def product(self) -> tuple[Piece, ...]:
        left = self.postfix()
        while self.peek() == "*":
            self.at += 1
            right = self.postfix()
            left = (Piece(str(_number(left) * _number(right))),)
        return left

    def postfix(self) -> tuple[Piece, ...]:
        missing: NotSet | None = None
        pieces: tuple[Piece, ...] = ()
        try:
            pieces = self.primary()
        except NotSet as error:
            missing = error
        while self.peek() in (".", "?.", "!!", "as"):
            mark = self.peek()
            self.at += 1
            if mark == "!!":
                continue
            name = self.peek()
            self.at += 1
            if mark == "as":
                self.type_name()
                continue
            if name in ("orElse", "getOrElse") and self.peek() == "(":
                self.at += 1
                other = self.elvis()
                if self.peek() != ")":
                    raise Unknown(f"“{self.text()}” is computed when the build runs")
                self.at += 1
                pieces, missing = (other, None) if missing else (pieces, None)
                continue
            if name not in _CONVERSIONS:
                raise Unknown(f"“{self.text()}” calls {name}()")
            self.empty_call()
            pieces = trimmed(pieces) if name == "trim" else pieces
        if missing:
            raise missing
        return pieces

    def type_name(self) -> None:
        """Step over the rest of a type after ``as``: ``String?``, ``Map<*, *>``."""
        if self.peek() == "<":
            while self.at < len(self.items) and self.peek() != ">":
                self.at += 1
            self.at += 1
        if self.peek() == "?":
            self.at += 1

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
                pieces.extend(Evaluator(self.environment, self.file, inner, self.depth + 1).whole())
        return tuple(piece for piece in pieces if piece.text) or (self.literal(token.parts[0]),)

    def literal(self, part: Region | tuple[int, int]) -> Piece:
        assert isinstance(part, Region)
        written = self.source.text(part.start, part.end)
        spot = place(self.file.path, self.source, part.start, part.end, part.syntax)
        return Piece(decode(part.syntax, written), spot)

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
                asks = [item.text for item in self.items[self.at + 2 : self.at + 4]]
                converts = following and following.text in _CONVERSIONS and (asks[:1] != ["("] or asks == ["(", ")"])
                if following and following.kind == "name" and not converts:
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
        holder = [name for name in names[:-1] if name not in _HOLDERS]
        found = self.helped(last) if closing == ")" and not holder else None
        if found is not None:
            return found
        key = self.items[self.at + 1] if self.at + 2 < len(self.items) else None
        given = key is not None and key.kind == "name" and self.environment.bound(key.text) is not None
        if key is None or (key.kind != "string" and not given) or self.items[self.at + 2].text not in (closing, ","):
            raise Unknown(f"“{self.text()}” calls {'.'.join(names)}()")
        if not holder and last in _LOOKUPS and self.items[self.at + 2].text == closing:
            self.at += 3
            return self.environment.lookup(self.key(key), self.depth)
        if holder == ["providers"] and last == "gradleProperty":
            self.at += 3
            return self.environment.lookup(self.key(key), self.depth)
        if closing == "]" or last in _ENTRY_CALLS:
            owner = [*holder, last] if closing == "]" else holder
            if len(owner) == 1:
                return self.entry(owner[0], self.key(key), closing)
        raise Unknown(f"“{self.text()}” calls {'.'.join(names)}()")

    def key(self, token: Token) -> str:
        """Return the text of a key: a string, or a parameter that a function is given."""
        bound = self.environment.bound(token.text) if token.kind == "name" else None
        return bound.text if bound is not None else "".join(piece.text for piece in self.string(token))

    def helped(self, name: str) -> tuple[Piece, ...] | None:
        """Read a call of a function of the scripts; None where it is none of theirs."""
        close = matching(self.items, self.at)
        call = Call(name, tuple(self.items[self.at + 1 : close]))
        found = self.environment.called(call, self.depth)
        if found is not None:
            self.at = close + 1
        return found

    def entry(self, owner: str, key: str, closing: str) -> tuple[Piece, ...]:
        """Read ``owner["key"]``, ``owner.get("key")``, ``owner.getProperty("key", default)``."""
        self.at += 2
        default: tuple[Piece, ...] | None = None
        if self.peek() == ",":
            self.at += 1
            default = self.elvis()
        if self.peek() != closing:
            raise Unknown(f"“{self.text()}” is computed when the build runs")
        self.at += 1
        try:
            found = self.environment.entry(owner, key, self.depth)
        except NotSet:
            if default is None:
                raise
            return default
        if found is None:
            raise Unknown(f"“{owner}” is computed when the build runs")
        return found

    def name(self, dotted: str) -> tuple[Piece, ...]:
        bound = self.environment.bound(dotted)
        if bound is not None:
            return (bound,)
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
        if len(parts) > 1:
            found = self.environment.constant(parts, self.depth)
            if found is None and len(parts) == 2:
                found = self.environment.entry(parts[0], parts[1], self.depth)
            if found is not None:
                return found
        if len(parts) > 1 or parts[0] in ("true", "false", "null", "System"):
            raise Unknown(f"“{dotted}” is not followed")
        return self.environment.lookup(parts[-1], self.depth)

    def setting(self, parts: list[str]) -> tuple[Piece, ...]:
        wanted = tuple(parts if parts[0] == "android" else ["android", *parts])
        for item in self.environment.own.settings:
            if item.full == wanted and not item.conditional and item.value and self.depth < 20:
                return Evaluator(self.environment, self.environment.own, list(item.value), self.depth + 1).whole()
        raise Unknown(f"“{'.'.join(parts)}” is not set in this script")


def _is_number(pieces: tuple[Piece, ...]) -> bool:
    return (
        all(piece.place is None or piece.place.syntax == "number" for piece in pieces)
        and "".join(piece.text for piece in pieces).isdecimal()
    )


def _number(pieces: tuple[Piece, ...]) -> int:
    text = "".join(piece.text for piece in pieces)
    if not text.isdecimal() or len(text) > 30:
        raise Unknown(f"“{text}” is no number")
    return int(text)


def _combine(left: tuple[Piece, ...], right: tuple[Piece, ...], sign: str) -> tuple[Piece, ...]:
    """Add numbers, join strings."""
    if sign == "-":
        return (Piece(str(_number(left) - _number(right))),)
    if _is_number(left) and _is_number(right):
        return (Piece(str(_number(left) + _number(right))),)
    return (*left, *right)
