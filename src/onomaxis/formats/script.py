"""Object literals in JavaScript and TypeScript: nested members with spans, and the values that can be read.

What is read: string and template literals, numbers, constants of the same file, ``a + b``, ``a ?? 'b'``,
``a || 'b'``, a choice ``c ? 'a' : 'b'`` (every branch), type assertions. Everything else raises :class:`Computed`.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

from onomaxis.formats.escapes import decode_backslashes
from onomaxis.formats.lexer import LANGUAGES, Region, Token, tokens
from onomaxis.formats.source import Source

_CLOSING = {"{": "}", "(": ")", "[": "]"}
# What may stand before an object literal; before anything else a brace opens a block.
_BEFORE_OBJECT = frozenset({"=", "(", "default", "return", ":", ",", "?", "??", "||", "&&", "["})
_DEEPEST = 60


class Computed(Exception):
    """A value that is computed in a way that is not followed."""


@dataclass(frozen=True)
class Literal:
    """A stretch of text from one literal: view span of what may be rewritten, its syntax; no span where none may."""

    text: str
    start: int = -1
    end: int = -1
    syntax: str = ""


class Branch(NamedTuple):
    """One of the values that an expression can have; *condition* is empty for the last, the default one."""

    condition: str
    literals: tuple[Literal, ...]


# Returns what a name imported from another file holds at a path of keys.
Load = Callable[[str, Sequence[str]], str | None]


@dataclass
class Member:
    """One member of an object: key, the tokens of its value, the object it holds if it is one."""

    key: str
    value: list[Token]
    inner: ScriptObject | None = None


@dataclass
class ScriptObject:
    """An object literal with its members in order."""

    start: int
    end: int
    members: list[Member] = field(default_factory=list)

    def find(self, path: Sequence[str]) -> Member | None:
        """Return the member at a path of keys; the last of equal keys counts."""
        found = next((item for item in reversed(self.members) if item.key == path[0]), None)
        if found is None or len(path) == 1:
            return found
        return found.inner.find(path[1:]) if found.inner else None


class ScriptFile:
    """One script: the object literals that are not part of another one, a call's list or an array."""

    def __init__(self, data: bytes) -> None:
        self.source = Source.read(data)
        self.view = self.source.view
        self.tokens = [item for item in tokens(self.view, LANGUAGES[".ts"]) if item.kind != "newline"]
        self.roots: list[ScriptObject] = []
        self._scan()

    def _scan(self) -> None:
        at = 0
        while at < len(self.tokens):
            text = self.tokens[at].text
            before = self.tokens[at - 1].text if at else ""
            if text == "[" and before in _BEFORE_OBJECT:
                at = self._after(at)
            elif text == "{" and before in _BEFORE_OBJECT:
                found, at = self._object(at, 0)
                self.roots.append(found)
            else:
                at += 1

    def _after(self, at: int) -> int:
        """Return the position after the bracket that closes the one at *at*."""
        depth = 0
        for index in range(at, len(self.tokens)):
            token = self.tokens[index]
            if token.kind == "mark":
                depth += (token.text in _CLOSING) - (token.text in _CLOSING.values())
            if depth == 0:
                return index + 1
        return len(self.tokens)

    def _object(self, at: int, depth: int) -> tuple[ScriptObject, int]:
        after = self._after(at)
        found = ScriptObject(self.tokens[at].start, self.tokens[min(after, len(self.tokens)) - 1].end)
        at += 1
        while at < after - 1:
            key, value = self._key(at), at
            while value < after - 1 and self.tokens[value].text != ",":
                value = self._after(value) if self.tokens[value].text in _CLOSING else value + 1
            if key:
                found.members.append(self._member(key, at + 2, value, depth))
            at = value + 1
        return found, after

    def _key(self, at: int) -> str:
        token = self.tokens[at]
        follow = self.tokens[at + 1].text if at + 1 < len(self.tokens) else ""
        if follow != ":" or token.kind not in ("name", "string"):
            return ""
        return token.text.strip("\"'")

    def _member(self, key: str, start: int, end: int, depth: int) -> Member:
        value = self.tokens[start:end]
        inner = None
        if value and value[0].text == "{" and depth < _DEEPEST:
            inner, _ = self._object(start, depth + 1)
        return Member(key, value, inner)

    # -- what is looked for

    def members(self, *path: str) -> Iterator[Member]:
        """Yield the members at a path of keys, in whichever of the file's objects."""
        for root in self.roots:
            found = root.find(path)
            if found is not None:
                yield found

    def objects(self, *path: str) -> Iterator[ScriptObject]:
        """Yield the objects at a path of keys; the roots for none."""
        if not path:
            yield from self.roots
        else:
            yield from (item.inner for item in self.members(*path) if item.inner)

    def opening(self, inside: ScriptObject, key: str) -> tuple[int, str, str]:
        """Return where a missing member goes, in the object's style: position, text before the value, text after."""
        newline = self.source.newline
        line = self.view.rfind("\n", 0, inside.start) + 1
        outer = re.match(r"[ \t]*", self.view[line : inside.start])
        margin = outer[0] if outer else ""
        if not inside.members:
            return inside.start + 1, f"{newline}{margin}  {key}: '", f"',{newline}{margin}"
        last = inside.members[-1]
        end = last.value[-1].end if last.value else inside.end - 1
        first = self.tokens[next(i for i, t in enumerate(self.tokens) if t.start > inside.start)]
        start = self.view.rfind("\n", 0, first.start) + 1
        lead = self.view[start : first.start]
        comma = re.match(r"\s*,(?:[ \t]*//[^\n]*)?", self.view[end:])
        separator = newline + lead if not lead.strip() and newline in self.view[inside.start : first.start] else " "
        if comma:
            return end + comma.end(), f"{separator}{key}: '", "',"
        return end, f",{separator}{key}: '", "'"

    # -- values

    def branches(self, value: Sequence[Token], load: Load | None = None) -> list[Branch]:
        """Return what an expression can be, a choice's branches one by one. Raises Computed."""
        return _Reader(self, load).whole(list(value))

    def constant(self, name: str) -> list[Token]:
        """Return the tokens that a constant of the file is set to. Raises Computed when it is not one."""
        found = []
        for at, token in enumerate(self.tokens[:-2]):
            if token.text != name or at == 0 or self.tokens[at - 1].text not in ("const", "let", "var"):
                continue
            start = at + 1
            while start < len(self.tokens) and self.tokens[start].text not in ("=", ";"):
                start += 1
            end = start + 1
            while end < len(self.tokens) and not self._ends(end):
                end = self._after(end) if self.tokens[end].text in _CLOSING else end + 1
            found.append(self.tokens[start + 1 : end])
        if len(found) != 1 or not found[0]:
            raise Computed(f"“{name}” is not a constant of this file")
        return found[0]

    def _ends(self, at: int) -> bool:
        """Tell whether a statement ends before the token at *at*: a semicolon, or a new line with a new statement."""
        token, before = self.tokens[at], self.tokens[at - 1]
        if token.text == ";":
            return True
        fresh = "\n" in self.view[before.end : token.start]
        return fresh and token.kind == "name" and before.text not in ("=", "+", "?", ":", "??", "||")


class _Reader:
    def __init__(self, file: ScriptFile, load: Load | None) -> None:
        self.file = file
        self.load = load

    def whole(self, items: list[Token], depth: int = 0) -> list[Branch]:
        if depth > 20:
            raise Computed("it refers to itself")
        items = _bare(items)
        choice = _split(items, "?")
        if choice is not None:
            return self.choice(*choice, depth)
        for mark in ("??", "||"):
            parts = _split(items, mark)
            if parts is not None:
                environment = parts[0] and parts[0][0].text == "process"
                return self.whole(parts[1] if environment else parts[0], depth + 1)
        parts = _split(items, "+")
        if parts is not None:
            return _joined(self.whole(parts[0], depth + 1), self.whole(parts[1], depth + 1))
        return self.one(items, depth)

    def choice(self, condition: list[Token], rest: list[Token], depth: int) -> list[Branch]:
        yes_no = _split(rest, ":")
        if yes_no is None or not condition:
            raise Computed("a choice without an alternative")
        said = self.file.source.text(condition[0].start, condition[-1].end)
        first = [Branch(item.condition or said, item.literals) for item in self.whole(yes_no[0], depth + 1)]
        return [*first, *self.whole(yes_no[1], depth + 1)]

    def one(self, items: list[Token], depth: int) -> list[Branch]:
        if len(items) == 1:
            token = items[0]
            if token.kind == "string":
                return self.string(token, depth)
            if token.kind == "number":
                return [Branch("", (Literal(token.text, token.start, token.end, "number"),))]
            if token.kind == "name":
                return self.whole(self.file.constant(token.text), depth + 1)
        names = [item.text for item in items]
        if self.load and names and all(text == "." or items[i].kind == "name" for i, text in enumerate(names)):
            text = self.load(names[0], [name for name in names[1:] if name != "."])
            if text is not None:
                return [Branch("", (Literal(text),))]
        shown = self.file.source.text(items[0].start, items[-1].end) if items else ""
        raise Computed(f"“{shown[:60]}” is computed")

    def string(self, token: Token, depth: int) -> list[Branch]:
        if not token.parts:
            syntax = {"'": "single", "`": "template"}.get(token.text[0], "double")
            return [Branch("", (Literal("", token.start + 1, token.end - 1, syntax),))]
        found = [Branch("", ())]
        for part in token.parts:
            if isinstance(part, Region):
                text = self.file.source.text(part.start, part.end)
                text = decode_backslashes(text) if "\\" in text else text
                found = _joined(found, [Branch("", (Literal(text, part.start, part.end, part.syntax),))])
            else:
                inner = [t for t in tokens(self.file.view, LANGUAGES[".ts"], *part) if t.kind != "newline"]
                found = _joined(found, self.whole(inner, depth + 1))
        return found


def _joined(left: list[Branch], right: list[Branch]) -> list[Branch]:
    """Combine two lists of branches; where both depend on one condition, they are taken together."""
    found = []
    for one in left:
        same = [other for other in right if one.condition and other.condition == one.condition]
        plain = [other for other in right if not other.condition]
        for other in same or (plain if one.condition and plain else right):
            found.append(Branch(one.condition or other.condition, (*one.literals, *other.literals)))
    return found


def _bare(items: list[Token]) -> list[Token]:
    """Take type assertions and outer parentheses away."""
    for at, token in enumerate(items):
        if at and token.text in ("as", "satisfies"):
            return _bare(items[:at])
    if len(items) > 2 and items[0].text == "(" and items[-1].text == ")" and _matches(items):
        return _bare(items[1:-1])
    return items


def _matches(items: list[Token]) -> bool:
    depth = 0
    for at, token in enumerate(items):
        depth += (token.text == "(") - (token.text == ")")
        if depth == 0:
            return at == len(items) - 1
    return False


def _split(items: list[Token], mark: str) -> tuple[list[Token], list[Token]] | None:
    """Split at the first *mark* that stands outside every bracket; ``??`` may be two marks in the token list."""
    depth = 0
    for at, token in enumerate(items):
        if token.kind == "mark":
            depth += (token.text in _CLOSING) - (token.text in _CLOSING.values())
        if depth:
            continue
        follow = items[at + 1].text if at + 1 < len(items) else ""
        doubled = token.text == "?" and follow == "?"
        if mark == "??" and doubled:
            return items[:at], items[at + 2 :]
        if token.text == mark and not (mark == "?" and (doubled or (at and items[at - 1].text == "?"))):
            return items[:at], items[at + 1 :]
    return None
