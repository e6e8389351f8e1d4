"""What a build script declares for itself: local variables by the block they live in, and functions it calls.

A helper is a function or closure (``def brand = { name -> … }``, ``fun brand(name: String): Properties { … }``) whose
last statement is what it gives. Followed are those that do one thing after another: a ``return`` before the end or a
branch is not.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

from onomaxis.formats.lexer import Token, items_of, matching, nesting

# As many variables of one name around an expression are looked at.
_MOST_SHADOWED = 20
# What functions and extra properties of scripts are asked of.
HOLDERS = frozenset({"project", "rootProject", "ext", "extra", "this"})
_DECLARES = frozenset({"def", "val", "var", "final"})
_ASSIGNS = frozenset({"=", "+=", "-=", "?="})
_BRANCHES = frozenset({"if", "else", "when", "switch", "for", "while", "try", "catch"})


class Call(NamedTuple):
    """A call of a function by its name alone, and the tokens between its parentheses."""

    name: str
    inner: tuple[Token, ...]

    def given(self, parameters: Sequence[str]) -> dict[str, tuple[Token, ...]] | None:
        """Return the expression that each parameter is given, by place or by name; None where they do not fit."""
        found: dict[str, tuple[Token, ...]] = {}
        parts = items_of(self.inner)
        for at, part in enumerate(part for part in parts if part):
            labelled = len(part) > 2 and part[0].kind == "name" and part[1].text in ("=", ":")
            name = part[0].text if labelled else parameters[at] if at < len(parameters) else ""
            if name not in parameters or name in found:
                return None
            found[name] = part[2:] if labelled else part
        return found if len(found) == len(parameters) else None


class Helper(NamedTuple):
    """A function: its parameters, its statements, the last of which gives the value."""

    parameters: tuple[str, ...]
    body: tuple[Token, ...]
    result: tuple[Token, ...]


class Local(NamedTuple):
    """A variable that a block declares: the tokens of its value, and the span in which it is seen."""

    value: tuple[Token, ...]
    start: int
    end: int


@dataclass(frozen=True)
class Declared:
    """What a script's tokens declare."""

    tokens: Sequence[Token]
    locals: Mapping[str, Sequence[tuple[int, int, int]]]  # index of the "=", span in which the variable is seen
    assigned: frozenset[str]

    def local(self, name: str, position: int) -> Local | None:
        """Return the variable that *name* is at a view position; None where it may have been given another value."""
        if name in self.assigned:
            return None
        around = [spot for spot in self.locals.get(name, ()) if spot[1] < position < spot[2]]
        for equals, start, end in around[:-_MOST_SHADOWED:-1]:  # the innermost one first
            value = tuple(statement(self.tokens, equals)[1:])
            if value and value[-1].end <= position:
                return Local(value, start, end)
        return None

    def inside(self, local: Local) -> Sequence[Token]:
        """Return the tokens of the block that a variable lives in, from its declaration on."""
        first = bisect_left(self.tokens, local.start, key=lambda token: token.start)
        return self.tokens[first : bisect_left(self.tokens, local.end, key=lambda token: token.start)]

    def helper(self, name: str) -> Helper | None:
        """Return the one function or closure of that name; None for none, several, or one with branches."""
        found = self._introduced.get(name, ())
        if len(found) != 1:
            return None
        return self._function(found[0]) if self.tokens[found[0]].kind == "name" else self._closure(found[0])

    @cached_property
    def _introduced(self) -> Mapping[str, Sequence[int]]:
        """Where functions are declared: the index of the name, or of the brace that opens a closure."""
        found: dict[str, list[int]] = {}
        for at, token in enumerate(self.tokens[:-2]):
            follows = self.tokens[at + 1].text if token.kind == "name" else ""
            if follows == "(" and _introduces(self.tokens, at):
                found.setdefault(token.text.strip("`"), []).append(at)
            elif follows in ("=", ":"):
                start = _assignment(self.tokens, at)
                if start and self.tokens[start].text == "{":
                    found.setdefault(token.text.strip("`"), []).append(start)
        return found

    def _function(self, at: int) -> Helper | None:
        close = matching(self.tokens, at + 1)
        start = close + 1
        while start < len(self.tokens) and self.tokens[start].text not in ("{", "=", ";", "}"):
            start += 1
        if start >= len(self.tokens) or self.tokens[start].text not in ("{", "="):
            return None
        names = _parameters(self.tokens[at + 2 : close])
        if self.tokens[start].text == "=":
            value = statement(self.tokens, start)[1:]
            return Helper(names, tuple(value), tuple(value))
        return _helper(names, self.tokens[start + 1 : matching(self.tokens, start)])

    def _closure(self, start: int) -> Helper | None:
        body = self.tokens[start + 1 : matching(self.tokens, start)]
        arrow = next((n for n, token in enumerate(body) if token.text == "->"), None)
        if arrow is None or any(token.text in "{};=" for token in body[:arrow]):
            return _helper(("it",), body)
        return _helper(_parameters(body[:arrow]), body[arrow + 1 :])


def declared(tokens: Sequence[Token]) -> Declared:
    """Return what the blocks of a script declare, and the names that are given a value without being declared.

    Variables of the script itself are not among them: they are settings like any other.
    """
    waiting: list[list[tuple[int, int]]] = [[]]
    found: dict[str, list[tuple[int, int, int]]] = {}
    assigned = set()
    for at, token in enumerate(tokens):
        if nesting(token) > 0:
            waiting.append([])
        elif nesting(token) < 0 and len(waiting) > 1:
            for name, equals in waiting.pop():
                spot = (equals, tokens[name].start, token.start)
                found.setdefault(tokens[name].text.strip("`"), []).append(spot)
        elif token.text in _ASSIGNS and at:
            first = _first(tokens, at - 1)
            typed = first < at - 1 and tokens[at - 1].kind == "name" and tokens[at - 2].kind == "name"
            if token.text == "=" and first < at - 1 and (typed or tokens[first].text in _DECLARES):
                waiting[-1].append((_declared_name(tokens, first, at), at))
            elif first == at - 1:
                assigned.add(tokens[at - 1].text)
    return Declared(tokens, {name: sorted(spots) for name, spots in found.items()}, frozenset(assigned))


def call_of(found: Sequence[Token]) -> Call | None:
    """Return the call that a whole expression is: ``brand("a")``, ``rootProject.ext.brand("a")``; None elsewhere."""
    items = [token for token in found if token.kind != "newline"]
    while len(items) > 4 and items[0].text in HOLDERS and items[1].text == ".":
        items = items[2:]
    if len(items) < 3 or items[0].kind != "name" or items[1].text != "(":
        return None
    close = matching(items, 1)
    return Call(items[0].text.strip("`"), tuple(items[2:close])) if close == len(items) - 1 else None


def statement(found: Sequence[Token], at: int) -> Sequence[Token]:
    """Return the tokens of a statement from *at*: to the end of its line, blocks and brackets included."""
    depth, end = 0, at
    while end < len(found):
        token = found[end]
        depth += nesting(token)
        ends = token.kind == "newline" and (end + 1 >= len(found) or found[end + 1].text != ".")
        if depth < 0 or (depth == 0 and (ends or token.text == ";")):
            break
        end += 1
    return found[at:end]


def _helper(parameters: tuple[str, ...], body: Sequence[Token]) -> Helper | None:
    result: Sequence[Token] = ()
    last = at = 0
    while at < len(body):
        if body[at].kind == "newline" or body[at].text == ";":
            at += 1
            continue
        result, last = statement(body, at), at
        if not result or result[0].text in _BRANCHES:
            return None
        at += len(result)
    early = any(token.text == "return" for token in body[:last])
    result = result[1:] if result and result[0].text == "return" else result
    return None if early or not result else Helper(parameters, tuple(body), tuple(result))


def _introduces(tokens: Sequence[Token], at: int) -> bool:
    """Tell whether a name before a parenthesis is declared there: ``fun x(``, ``fun Project.x(``, ``def x(``."""
    first = _first(tokens, at)
    heads = {token.text for token in tokens[first:at]}
    if "fun" in heads:
        return True
    if first == at or any(token.kind != "name" for token in tokens[first:at]):
        return False
    close = matching(tokens, at + 1)
    return close + 1 < len(tokens) and tokens[close + 1].text == "{"


def _first(tokens: Sequence[Token], at: int) -> int:
    """Return the index of the first token of the statement that *at* stands in."""
    while at > 0 and tokens[at - 1].kind != "newline" and tokens[at - 1].text not in ("{", "}", ";", "->", "("):
        at -= 1
    return at


def _declared_name(tokens: Sequence[Token], first: int, equals: int) -> int:
    """Return the index of the name that ``val name: Type =`` or ``def name =`` declares."""
    return next((n for n in range(first, equals) if tokens[n].text == ":"), equals) - 1


def _assignment(tokens: Sequence[Token], at: int) -> int:
    """Return the index behind the ``=`` that follows a name and perhaps its type, 0 where none does."""
    for index in range(at + 1, min(at + 30, len(tokens) - 1)):
        if tokens[index].text == "=":
            return index + 1
        if tokens[index].kind == "newline" or tokens[index].text in "{};":
            return 0
    return 0


def _parameters(tokens: Sequence[Token]) -> tuple[str, ...]:
    """Return the names of parameters: ``String name``, ``name``, ``name: String``."""
    found = []
    for items in items_of(tokens):
        colon = next((n for n, token in enumerate(items) if token.text in (":", "=")), len(items))
        if colon:
            found.append(items[colon - 1].text.strip("`"))
    return tuple(found)
