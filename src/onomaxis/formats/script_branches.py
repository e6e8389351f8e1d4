"""The values that an expression of a script can have, a choice's branches one by one.

What is read: string and template literals, numbers, names declared in the same file (set again under an ``if``: a
branch), ``a + b``, ``a ?? 'b'``, ``a || 'b'``, choices ``c ? 'a' : 'b'``, calls of functions of the file (``if``,
``switch``), entries of constant tables, keys of JSON files that the script imports, ``String()`` and its
like, type assertions. Everything else raises :class:`Computed`.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple

from onomaxis.formats.escapes import decode_backslashes, trimmed
from onomaxis.formats.lexer import LANGUAGES, Region, Token, tokens
from onomaxis.formats.script import ScriptFile
from onomaxis.formats.script_tokens import (
    Computed,
    Decided,
    access_path,
    bare,
    block,
    case_end,
    closing,
    is_enclosed,
    key_of,
    members,
    split_at,
    statement_end,
    without_trailer,
)

_DEEPEST = 24
# The most expressions that are looked at for one value: names may stand for names that stand for names.
_MOST = 2000
# Calls that give back what they are given.
_WRAPPERS = frozenset(("String", "Number", "parseInt"))


class Literal(NamedTuple):
    """A stretch of text from one literal: view span of what may be rewritten, its syntax; no span where none may.

    ``file`` and ``keys`` say where it stands in a JSON file that the script imports, relative to the script.
    """

    text: str
    start: int = -1
    end: int = -1
    syntax: str = ""
    file: str = ""
    keys: tuple[str, ...] = ()


class Branch(NamedTuple):
    """One of the values that an expression can have; *condition* is empty for the last, the default one.

    *start* and *end* are the span of the expression that puts several literals together, if it can be nothing else.
    """

    condition: str
    literals: tuple[Literal, ...]
    start: int = -1
    end: int = -1


def branches_of(file: ScriptFile, value: Sequence[Token]) -> list[Branch]:
    """Return what an expression of a script can be, a choice's branches one by one. Raises Computed."""
    return _Reader(file).whole(list(value))


class _Reader:
    """Reads the values of one script's expressions."""

    def __init__(self, file: ScriptFile) -> None:
        self.file = file
        self.looked = 0

    def whole(self, items: list[Token], depth: int = 0) -> list[Branch]:
        """Return what an expression can be. Raises Computed."""
        self.looked += 1
        if depth > _DEEPEST or self.looked > _MOST:
            raise Computed("it refers to itself")
        items = bare(items)
        choice = split_at(items, "?")
        if choice is not None:
            return self._choice(*choice, depth)
        for mark in ("??", "||"):
            parts = split_at(items, mark)
            if parts is not None:
                return self._with_default(*parts, depth)
        parts = split_at(items, "+")
        if parts is not None:
            return _spanned(_joined(self.whole(parts[0], depth + 1), self.whole(parts[1], depth + 1)), items)
        return self._one(items, depth)

    def _choice(self, condition: list[Token], rest: list[Token], depth: int) -> list[Branch]:
        yes_no = split_at(rest, ":")
        if yes_no is None or not condition:
            raise Computed("a choice without an alternative")
        first = [_under(self._text(condition), item) for item in self.whole(yes_no[0], depth + 1)]
        return [*first, *self.whole(yes_no[1], depth + 1)]

    def _with_default(self, value: list[Token], default: list[Token], depth: int) -> list[Branch]:
        """Return what ``value ?? default`` can be: the default where the environment decides, or says nothing."""
        try:
            found = self.whole(value, depth + 1)
        except Decided:
            return self.whole(default, depth + 1)
        return found if not found or not found[-1].condition else [*found, *self.whole(default, depth + 1)]

    def _text(self, items: Sequence[Token]) -> str:
        return self.file.source.text(items[0].start, items[-1].end)

    def _one(self, items: list[Token], depth: int) -> list[Branch]:
        whole, items = items, without_trailer(items)
        if len(items) < len(whole):
            trims = any(token.text == "trim" for token in whole[len(items) :])
            found = self.whole(items, depth + 1)
            return [item._replace(literals=trimmed(item.literals)) for item in found] if trims else found
        if len(items) == 1:
            token = items[0]
            if token.kind == "string":
                return self._string(token, depth)
            if token.kind == "number":
                return [Branch("", (Literal(token.text, token.start, token.end, "number"),))]
            if token.kind == "name":
                return self._named(token.text, depth)
        if len(items) > 2 and items[0].kind == "name" and items[1].text == "(" and is_enclosed(items[1:]):
            return self._called(items, depth)
        path = access_path(items)
        if path is not None:
            return self._accessed(items[0].text, path, depth)
        raise Computed(f"“{self._text(items)[:60]}” is computed" if items else "nothing is said")

    # -- names

    def _named(self, name: str, depth: int) -> list[Branch]:
        value = self.file.declared(name)
        if value is None:
            module = self.file.taken(name)
            if module is not None:
                return [Branch("", (Literal("", file=module, keys=(name,)),))]
            raise Computed(f"“{name}” is not a constant of this file")
        found = self.whole(value, depth + 1)
        for position, again in self.file.assigned(name):
            conditions = self.file.conditions(position)
            if not conditions:
                raise Computed(f"“{name}” is set more than once")
            said = " && ".join(conditions)
            found = [*(_under(said, item) for item in self.whole(again, depth + 1)), *found]
        return found

    def _called(self, items: list[Token], depth: int) -> list[Branch]:
        if items[0].text in _WRAPPERS:
            comma = split_at(items[2:-1], ",")
            return self.whole(comma[0] if comma is not None else items[2:-1], depth + 1)
        body = self.file.function(items[0].text)
        if not body:
            raise Computed(f"“{self._text(items)[:60]}” is computed")
        if body[0].text != "{":
            return self.whole(body, depth + 1)
        found, ended = self._returned(body[1:-1], "", depth + 1)
        if not ended:
            raise Computed(f"{items[0].text} does not always return a value")
        return found

    def _accessed(self, name: str, path: list[list[Token]], depth: int) -> list[Branch]:
        """Return an entry of a constant table, or of a JSON file that the script imports."""
        if name == "process":
            raise Decided(f"the environment decides it: {'.'.join(['process', *map(key_of, path)])}")
        module = self.file.module(name)
        if module is not None:
            keys = tuple(key_of(part) for part in path)
            if all(keys):
                return [Branch("", (Literal("", file=module, keys=keys),))]
        value = self.file.declared(name)
        if value is None:
            raise Computed(f"“{name}” is not a constant of this file")
        value = bare(value)
        if value and value[0].text == "{":
            return self._entry(value, path, depth)
        inner = access_path(value)
        if inner is None or depth > _DEEPEST:
            raise Computed(f"an entry of “{name}” is computed")
        return self._accessed(value[0].text, [*inner, *path], depth + 1)

    def _entry(self, table: list[Token], path: list[list[Token]], depth: int) -> list[Branch]:
        """Return the values at a path of keys in a table: of every entry, where a key is decided elsewhere."""
        if not path:
            return self.whole(table, depth + 1)
        entries = members(table)
        key = key_of(path[0])
        if key:
            if key not in entries:
                raise Computed(f"there is no entry {key}")
            return self._below(entries[key], path[1:], depth)
        default = self._usual(path[0], entries, depth)
        asked = next((parts[0] for mark in ("??", "||") if (parts := split_at(bare(path[0]), mark))), path[0])
        said = self._text(bare(asked))
        found = []
        for name, value in entries.items():
            if name != default:
                found += [_under(f"{said} === '{name}'", item) for item in self._below(value, path[1:], depth)]
        return [*found, *(self._below(entries[default], path[1:], depth) if default else ())]

    def _usual(self, key: list[Token], entries: Mapping[str, list[Token]], depth: int) -> str:
        """Return the entry that counts where nothing is asked for; empty where the environment must name one."""
        try:
            chosen = self.whole(key, depth + 1)
        except Decided:
            if not entries:
                raise
            return ""
        default = "".join(item.text for item in chosen[-1].literals)
        if default not in entries:
            raise Computed(f"there is no entry {default}")
        return default

    def _below(self, value: list[Token], path: list[list[Token]], depth: int) -> list[Branch]:
        if path and value and value[0].text == "{":
            return self._entry(value, path, depth + 1)
        if path:
            raise Computed("an entry is computed")
        return self.whole(value, depth + 1)

    # -- functions

    def _returned(self, body: list[Token], condition: str, depth: int) -> tuple[list[Branch], bool]:
        """Return what a block returns, and whether it always does. Raises Computed."""
        found: list[Branch] = []
        at = 0
        while at < len(body):
            word = body[at].text
            if word == "return":
                end = statement_end(body, at + 1)
                found += [_under(condition, item) for item in self.whole(body[at + 1 : end], depth + 1)]
                return found, True
            if word == "if":
                close = closing(body, at + 1)
                said = _both(condition, self._text(body[at + 2 : close]))
                then, at = block(body, close + 1)
                branches, ended = self._returned(then, said, depth + 1)
                found += branches
                if at < len(body) and body[at].text == "else":
                    other, at = block(body, at + 1)
                    branches, other_ended = self._returned(other, condition, depth + 1)
                    found += branches
                    if ended and other_ended:
                        return found, True
            elif word == "switch":
                close = closing(body, at + 1)
                cases = body[close + 2 : closing(body, close + 1)]
                branches, ended = self._switched(self._text(body[at + 2 : close]), cases, condition, depth)
                found += branches
                if ended:
                    return found, True
                at = closing(body, close + 1) + 1
            elif word in ("const", "let", "var"):
                at = statement_end(body, at + 1)
            elif word == ";":
                at += 1
            else:
                raise Computed(f"“{self._text(body[at : at + 4])}” stands in a function")
        return found, False

    def _switched(self, asked: str, cases: list[Token], condition: str, depth: int) -> tuple[list[Branch], bool]:
        found: list[Branch] = []
        default: list[Branch] = []
        labels: list[str] = []
        at = 0
        while at < len(cases):
            word = cases[at].text
            colon = next((i for i in range(at, len(cases)) if cases[i].text == ":"), len(cases))
            if word not in ("case", "default") or colon == len(cases):
                raise Computed("a case of a switch is not read")
            labels.append("" if word == "default" else f"{asked} === {self._text(cases[at + 1 : colon])}")
            at = colon + 1
            end = case_end(cases, at)
            if end > at:
                body, _ = block(cases[:end], at) if cases[at].text == "{" else (cases[at:end], end)
                said = "" if "" in labels else _both(condition, " || ".join(labels))
                branches, ended = self._returned(body, said, depth + 1)
                if not ended:
                    raise Computed("a case of a switch returns nothing")
                default, found = (branches, found) if "" in labels else (default, [*found, *branches])
                labels = []
            at = end
        return [*found, *default], bool(default)

    def _string(self, token: Token, depth: int) -> list[Branch]:
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
        return _spanned(found, [token])


def _under(condition: str, branch: Branch) -> Branch:
    return branch._replace(condition=_both(condition, branch.condition))


def _spanned(found: list[Branch], items: Sequence[Token]) -> list[Branch]:
    if len(found) != 1 or found[0].condition:
        return found
    return [found[0]._replace(start=items[0].start, end=items[-1].end)]


def _both(outer: str, inner: str) -> str:
    return f"{outer} && {inner}" if outer and inner and outer != inner else outer or inner


def _joined(left: list[Branch], right: list[Branch]) -> list[Branch]:
    """Combine two lists of branches; where both depend on one condition, they are taken together."""
    found = []
    for one in left:
        same = [other for other in right if one.condition and other.condition == one.condition]
        plain = [other for other in right if not other.condition]
        for other in same or (plain if one.condition and plain else right):
            found.append(Branch(one.condition or other.condition, (*one.literals, *other.literals)))
    return found
