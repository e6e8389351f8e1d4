"""Object literals in JavaScript and TypeScript: nested members with spans, declarations, functions, imports."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from functools import cached_property

from onomaxis.formats.lexer import BRACKETS, LANGUAGES, Token, enclosing, matching, nesting, refuse_unpaired, tokens
from onomaxis.formats.source import Source

# What may stand before an object literal; before anything else a brace opens a block.
_BEFORE_OBJECT = frozenset({"=", "(", "default", "return", ":", ",", "?", "??", "||", "&&", "["})
_DEEPEST = 60


@dataclass
class Member:
    """One member of an object: key, the tokens of its value, the object it holds if it is one.

    *start* is where its key begins.
    """

    key: str
    value: list[Token]
    inner: ScriptObject | None = None
    start: int = -1


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
        refuse_unpaired(self.tokens, self.source)
        self.roots: list[ScriptObject] = []
        self._scan()

    def _scan(self) -> None:
        at = 0
        while at < len(self.tokens):
            text = self.tokens[at].text
            before = self.tokens[at - 1].text if at else ""
            if text == "[" and before in _BEFORE_OBJECT:
                at = self._after(at)
            elif text in ("const", "let", "var") and self._text_at(at + 2) == ":":
                at = self._value_start(at + 3)
            elif text == "{" and before in _BEFORE_OBJECT and self._is_type(at):
                at = self._after(at)
            elif text == "{" and before in _BEFORE_OBJECT:
                found, at = self._object(at, 0)
                self.roots.append(found)
            else:
                at += 1

    def _text_at(self, at: int) -> str:
        return self.tokens[at].text if 0 <= at < len(self.tokens) else ""

    def _value_start(self, at: int) -> int:
        """Return the position of what a declaration with a type assigns; of its end where it assigns nothing."""
        while at < len(self.tokens) and self.tokens[at].text not in ("=", ";"):
            at = self._after(at) if self.tokens[at].text in BRACKETS else at + 1
            if self._text_at(at) == "=" and self._text_at(at + 1) == ">":  # the type of a function
                at += 2
        return at

    def _is_type(self, at: int) -> bool:
        """Tell whether the brace at *at* opens a type: what an alias stands for, what a parameter or a result is."""
        before = at - 1
        if self._text_at(before) == "=":
            while before > 0 and (
                self.tokens[before - 1].kind == "name" or self._text_at(before - 1) in ("<", ">", ",")
            ):
                before -= 1
                if self._text_at(before) == "type" and before + 2 < at:
                    return True
            return False
        if self._text_at(before) != ":":
            return False
        depth = 0
        for index in range(before - 1, -1, -1):  # the colon of a choice has its question mark before it
            text = self.tokens[index].text
            depth -= nesting(self.tokens[index])
            if depth < 0 or (depth == 0 and text in (";", "{", "}", "return", "case", "default")):
                return True
            if depth == 0 and text == "?" and self._text_at(index + 1) not in (":", "."):
                return False
        return True

    def _after(self, at: int) -> int:
        """Return the position after the bracket that closes the one at *at*."""
        return min(matching(self.tokens, at) + 1, len(self.tokens))

    def _object(self, at: int, depth: int) -> tuple[ScriptObject, int]:
        after = self._after(at)
        found = ScriptObject(self.tokens[at].start, self.tokens[min(after, len(self.tokens)) - 1].end)
        at += 1
        while at < after - 1:
            key, value = self._key(at), at
            while value < after - 1 and self.tokens[value].text != ",":
                value = self._after(value) if self.tokens[value].text in BRACKETS else value + 1
            if key:  # a name alone stands for itself
                start = at if value == at + 1 else at + 2
                member = self._member(key, start, value, depth)
                member.start = self.tokens[at].start
                found.members.append(member)
            at = value + 1
        return found, after

    def _key(self, at: int) -> str:
        token = self.tokens[at]
        follow = self.tokens[at + 1].text if at + 1 < len(self.tokens) else ""
        before = self.tokens[at - 1].text if at else ""
        shorthand = follow in (",", "}") and before in (",", "{") and token.kind == "name"
        if (follow != ":" and not shorthand) or token.kind not in ("name", "string"):
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
        yield from self._assigned(path)

    def _assigned(self, path: Sequence[str]) -> Iterator[Member]:
        """Yield what is assigned to a path of keys of some object: ``config.ios = {…}``, ``config.ios.id = …``."""
        for at, token in enumerate(self.tokens):
            if token.text != "=" or at < 3 or self.tokens[at - 1].kind != "name":
                continue
            keys, start = [self.tokens[at - 1].text], at - 1
            while start >= 2 and self.tokens[start - 1].text == "." and self.tokens[start - 2].kind == "name":
                start -= 2
                keys.insert(0, self.tokens[start].text)
            rest = keys[1:]
            if not rest or rest != list(path[: len(rest)]) or rest == ["exports"]:
                continue
            end = self._statement_end(at + 1)
            member = self._member(rest[-1], at + 1, end, 0)
            inner = path[len(rest) :]
            found = member if not inner else member.inner.find(inner) if member.inner else None
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

    # -- names

    def declared(self, name: str) -> list[Token] | None:
        """Return the tokens that a name of the file is declared with; None where it is not declared just once."""
        found = [value for _, value in self._declarations.get(name, ())]
        return found[0] if len(found) == 1 and found[0] else None

    @cached_property
    def _declarations(self) -> dict[str, list[tuple[int, list[Token]]]]:
        """Where every name is declared, and with what, each time."""
        found: dict[str, list[tuple[int, list[Token]]]] = {}
        for at, token in enumerate(self.tokens[:-2]):
            if token.text not in ("const", "let", "var"):
                continue
            at, end = at + 1, self._statement_end(at + 1)
            while at < end and self.tokens[at].kind == "name":
                start = min(self._value_start(at + 1), end)
                comma = next(i for i in self._outside(start, end) if i == end or self._text_at(i) == ",")
                found.setdefault(self.tokens[at].text, []).append((at, self.tokens[start + 1 : comma]))
                at = comma + 1
        return found

    def _outside(self, at: int, end: int) -> Iterator[int]:
        """Yield the positions up to *end*, and *end* itself, that stand within no bracket."""
        while at < end:
            yield at
            at = self._after(at) if self._text_at(at) in BRACKETS else at + 1
        yield end

    def around(self, position: int) -> list[int]:
        """Return the braces that are open at a token, the outer first."""
        found: list[int] = []
        for at, token in enumerate(self.tokens[:position]):
            if token.kind == "mark" and token.text == "{":
                found.append(at)
            elif token.kind == "mark" and token.text == "}" and found:
                found.pop()
        return found

    def asked(self, brace: int, word: str) -> list[Token]:
        """Return what stands in parentheses between *word* and the block that a brace opens; nothing elsewhere."""
        if not brace or self.tokens[brace - 1].text != ")":
            return []
        start = enclosing(self.tokens, brace - 1)
        return self.tokens[start + 1 : brace - 1] if start > 0 and self.tokens[start - 1].text == word else []

    def _statement_end(self, at: int) -> int:
        while at < len(self.tokens) and not self._ends(at):
            at = self._after(at) if self.tokens[at].text in BRACKETS else at + 1
        return at

    def _ends(self, at: int) -> bool:
        """Tell whether a statement ends before the token at *at*: a semicolon, or a new line with a new statement."""
        token, before = self.tokens[at], self.tokens[at - 1]
        if token.text in (";", "}", ")"):
            return True
        fresh = "\n" in self.view[before.end : token.start]
        return fresh and token.kind == "name" and before.text not in ("=", "+", "?", ":", "??", "||", "&&", ",")
