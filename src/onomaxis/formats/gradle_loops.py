"""Loops over literal lists and maps in build scripts, written out: one copy of their statements for each item.

Also what a container says of all its items (``all``, ``configureEach``), written out for each. A copy reads the
item's literal wherever the script names it; its positions are the originals', which is why it is marked.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from onomaxis import late
from onomaxis.formats.gradle_statements import BRANCHES, CREATORS, Statement, block_path, literal_text
from onomaxis.formats.lexer import Region, Token, items_of
from onomaxis.formats.source import Source

_EACH = frozenset({"each", "forEach", "onEach"})
MAKERS = frozenset(
    {"listOf", "mutableListOf", "arrayOf", "setOf", "linkedSetOf", "sequenceOf", "arrayListOf"}
    | {"mapOf", "mutableMapOf", "linkedMapOf", "hashMapOf"}
)
# Containers whose items are looked at; what they say of all items.
CONTAINERS = ("productFlavors", "buildTypes")
_ALL = frozenset({"all", "configureEach"}) | _EACH
# More copied statements than any script that people write needs: a file may have come from anywhere.
_MOST = 20_000


@dataclass(frozen=True)
class Item:
    """What a name in a loop stands for: a literal, or parts by key (``key``, ``value``, a nested map's own)."""

    token: Token | None = None
    parts: Mapping[str, Item] = field(default_factory=dict)


Bindings = Mapping[str, Item]
# Source: kotlinlang.org, "Data classes", "Classes" (primary constructors).
_CLASS = late.compile(r"\bclass[ \t]+([A-Z]\w*)[ \t]*\(([^(){}]{0,2000})\)", re.ASCII)
_PARAMETER = late.compile(r"(?:\A|,)\s*(?:(?:private|internal|public)\s+)?(?:va[lr]\s+)?(\w+)\s*:", re.ASCII)


def unrolled(statements: Sequence[Statement], source: Source) -> list[Statement]:
    """Return statements with every loop over literals written out, on every level."""
    return _Unroller(source, _declared(statements)).level(statements)


def _declared(statements: Sequence[Statement]) -> dict[str, list[Token]]:
    found: dict[str, list[Token]] = {}
    for item in statements:
        if item.kind == "declare" or (item.kind == "set" and item.name.startswith(("ext.", "extra."))):
            found.setdefault(item.name.rpartition(".")[2], item.value)
        found |= {key: value for key, value in _declared(item.children).items() if key not in found}
    return found


class _Unroller:
    def __init__(self, source: Source, declared: Mapping[str, list[Token]]) -> None:
        self.source = source
        self.declared = declared
        self.made = 0

    @cached_property
    def fields(self) -> Mapping[str, Sequence[str]]:
        """The parameters of the classes that the script declares, in their order."""
        found = _CLASS.finditer(self.source.view)
        return {match[1]: _PARAMETER.findall(match[2]) for match in found}

    def level(self, statements: Sequence[Statement]) -> list[Statement]:
        found: list[Statement] = []
        for item in statements:
            rows = self.rows(item) if item.kind == "block" else None
            if rows is None:
                item.children = self.level(item.children) if item.children else item.children
                found.append(item)
                continue
            for row in rows:
                copies = [
                    self.copied(child, row, item.outer if item.name == "for" else None) for child in item.children
                ]
                found += self.level(copies)
        return found + self.everywhere(found)

    # -- what is said of all items of a container

    def everywhere(self, level: Sequence[Statement]) -> list[Statement]:
        """Return copies of what containers on this level say of all their items, one for each item."""
        found: list[Statement] = []
        for name in CONTAINERS:
            items = [item for statement in level for item in _items(statement, name)]
            for statement in level:
                for said, conditional in _of_all(statement, name):
                    said.heavy = not self.affords(said, len(items))
                    if said.heavy:
                        continue
                    for item in dict.fromkeys(items):
                        params = said.params or ("it",)
                        own = Item(item, {"name": Item(item)})
                        bound = {params[0]: own, "name": Item(item)}
                        inner = [self.copied(child, bound, None) for child in said.children]
                        block = Statement("block", "getByName", said.start, [item], children=inner, looped=True)
                        block.end, block.conditional = said.end, conditional
                        found.append(
                            Statement("block", name, said.start, children=[block], looped=True, end=said.end)
                        )
        return found

    # -- loops

    def rows(self, loop: Statement) -> list[Bindings] | None:
        """Return what a loop's names stand for, turn by turn; None where it is no loop over literals."""
        parts = loop.name.split(".")
        names, tokens = loop.params or ("it",), None
        if loop.name == "for":
            names, tokens = self.header(loop.args)
        elif parts[-1] in _EACH and len(parts) == 2:
            if parts[0] == "[]" or parts[0] in MAKERS:
                tokens = loop.args
            elif parts[0] in self.declared:
                tokens = _inner(self.declared[parts[0]])
        if tokens is None:
            return None
        items = [self.item(list(part)) for part in items_of(tokens) if part]
        rows = [_bound(names, item) for item in items if item is not None]
        return rows if len(rows) == len(items) and rows and self.affords(loop, len(rows)) else None

    def affords(self, statement: Statement, times: int) -> bool:
        """Tell whether what a statement holds may be copied so many times; if not, it stays as it is."""
        self.made += times * _size(statement)
        return self.made <= _MOST

    def header(self, tokens: Sequence[Token]) -> tuple[tuple[str, ...], Sequence[Token] | None]:
        """Return the names and the list of ``for (name in list)``."""
        at = next((index for index, token in enumerate(tokens) if token.text in ("in", ":")), -1)
        names = tuple(token.text for token in tokens[: max(at, 0)] if token.kind == "name")
        rest = list(tokens[at + 1 :])
        if at < 0 or not names:
            return names, None
        if len(rest) == 1 and rest[0].text in self.declared:
            rest = self.declared[rest[0].text]
        return (names if tokens[0].text == "(" else names[-1:]), _inner(rest)

    def item(self, tokens: Sequence[Token]) -> Item | None:
        """Return one item of a list: a literal, a pair, a nested list or map; None for anything else."""
        if len(tokens) == 1:
            return Item(tokens[0]) if tokens[0].kind in ("string", "number") and _is_plain(tokens[0]) else None
        if len(tokens) > 2 and tokens[1].text in (":", "to"):
            key, value = _as_text(tokens[0]), self.item(tokens[2:])
            if key is None or value is None:
                return None
            return Item(None, {**{name: Item(key) for name in _KEYS}, **dict.fromkeys(_VALUES, value)})
        inner = _inner(tokens)
        if inner is None:
            return self.record(tokens)
        pairs: dict[str, Item] = {}
        for number, part in enumerate(part for part in items_of(inner) if part):
            found = self.item(part)
            if found is None:
                return None
            label = found.parts["key"].token if "key" in found.parts else None
            value = found.parts["value"] if label is not None else found
            pairs[literal_text([label]) if label is not None else str(number)] = value
        return Item(None, pairs)

    def record(self, tokens: Sequence[Token]) -> Item | None:
        """Return what a constructor is given, by the names and places of its parameters; None where it is none."""
        called = tokens[1:] if tokens[0].text == "new" else tokens
        if [token.kind for token in called[:1]] != ["name"] or [t.text for t in (*called[1:2], called[-1])] != [
            "(",
            ")",
        ]:
            return None
        if not called[0].text[:1].isupper():
            return None
        fields = self.fields.get(called[0].text, ())
        parts: dict[str, Item] = {}
        for number, part in enumerate(part for part in items_of(called[2:-1]) if part):
            label = part[0].text if len(part) > 2 and part[0].kind == "name" and part[1].text in ("=", ":") else ""
            found = self.item(part[2:] if label else part)
            names = [label] if label else [str(number), *fields[number : number + 1]]
            parts |= dict.fromkeys(names, found) if found is not None else {}  # what is computed stays unknown
        return Item(None, parts)

    # -- copies

    def copied(self, statement: Statement, bound: Bindings, outer: bool | None) -> Statement:
        """Return a copy of a statement that reads bound names as what they stand for."""
        branch = statement.name in BRANCHES and statement.conditional and statement.kind == "block"
        inner = outer if not branch else None
        return replace(
            statement,
            args=self.tokens(statement.args, bound),
            value=self.tokens(statement.value, bound),
            children=[self.copied(child, bound, inner) for child in statement.children],
            conditional=statement.conditional if outer is None or branch else outer,
            looped=True,
        )

    def tokens(self, tokens: Sequence[Token], bound: Bindings) -> list[Token]:
        found: list[Token] = []
        at = 0
        while at < len(tokens):
            token = tokens[at]
            after_dot = bool(found) and found[-1].text in (".", "?.")
            if token.kind == "name" and token.text in bound and not after_dot:
                item, at = _followed(bound[token.text], tokens, at + 1)
                found.append(item.token if item.token is not None else token)
                continue
            found.append(self.string(token, bound) if token.kind == "string" else token)
            at += 1
        return found

    def string(self, token: Token, bound: Bindings) -> Token:
        """Return a string with the interpolated names that are bound as literal stretches of it."""
        parts: list[Region | tuple[int, int]] = []
        whole = [part for part in token.parts if not isinstance(part, Region) or part.end > part.start]
        for part in whole:
            if isinstance(part, Region):
                parts += self.stretch(part, bound)
                continue
            item = _named(self.source.text(*part).strip().strip("{}").split("."), bound)
            if item is None or item.token is None:
                parts.append(part)
                continue
            if len(whole) == 1:
                return item.token
            parts += [inner for inner in item.token.parts if isinstance(inner, Region)]
        if parts == whole:
            return token
        only = next((item.token for item in _every(bound) if item.token and list(item.token.parts) == parts), None)
        return only or token._replace(parts=tuple(parts))

    def stretch(self, region: Region, bound: Bindings) -> list[Region | tuple[int, int]]:
        """Return a literal stretch with its ``$name`` and ``$name.key`` that are bound taken apart."""
        found: list[Region | tuple[int, int]] = []
        at = region.start
        for match in _SIMPLE.finditer(self.source.view, region.start, region.end):
            words = match[1].split(".")
            item, length = None, 0
            while words and length < len(words):
                named = _named(words[: length + 1], bound)
                if named is None:
                    break
                item, length = named, length + 1
            if item is None or item.token is None:
                continue
            if match.start() > at:
                found.append(region._replace(start=at, end=match.start()))
            found += [inner for inner in item.token.parts if isinstance(inner, Region)]
            at = match.start(1) + len(".".join(words[:length]))
        if at < region.end:
            found.append(region._replace(start=at))
        return found or [region]


# A name in a string without braces, with what it is asked for.
_SIMPLE = late.compile(r"(?<!\\)\$([A-Za-z_]\w*(?:\.[A-Za-z_]\w*)*)", re.ASCII)


def _size(statement: Statement) -> int:
    return 1 + len(statement.value) + sum(map(_size, statement.children))


def _every(bound: Bindings) -> Iterator[Item]:
    for item in bound.values():
        yield item
        yield from _every(item.parts)


_KEYS, _VALUES = ("key", "first", "0"), ("value", "second", "1")


def _named(words: Sequence[str], bound: Bindings) -> Item | None:
    item = bound.get(words[0])
    for word in words[1:]:
        item = item.parts.get(word) if item is not None else None
    return item


def _followed(item: Item, tokens: Sequence[Token], at: int) -> tuple[Item, int]:
    """Follow keys behind a name (``.suffix``, ``['suffix']``); return what they lead to, and the position behind."""
    while at + 1 < len(tokens):
        if tokens[at].text in (".", "?.") and tokens[at + 1].text in item.parts:
            item, at = item.parts[tokens[at + 1].text], at + 2
        elif tokens[at].text == "[" and at + 2 < len(tokens) and tokens[at + 2].text == "]":
            key = literal_text([tokens[at + 1]])
            if key not in item.parts:
                break
            item, at = item.parts[key], at + 3
        else:
            break
    return item, at


def _bound(names: tuple[str, ...], item: Item) -> Bindings:
    if len(names) > 1 and item.parts:
        pair = [item.parts.get("key") or item.parts.get("0"), item.parts.get("value") or item.parts.get("1")]
        return {name: part for name, part in zip(names, pair, strict=False) if part is not None}
    return {names[0]: item}


def _inner(tokens: Sequence[Token]) -> list[Token] | None:
    """Return what stands in a list or map literal: ``[…]``, ``listOf(…)``, ``mapOf<A, B>(…)``; else None."""
    tokens = [token for token in tokens if token.kind != "newline"]
    at = next((index for index, token in enumerate(tokens) if token.text in ("[", "(")), -1)
    if at < 0 or tokens[-1].text not in ("]", ")"):
        return None
    before = [token.text for token in tokens[:at]]
    if (before and before[0] not in MAKERS) or (not before and tokens[at].text != "["):
        return None
    return tokens[at + 1 : -1]


def _is_plain(token: Token) -> bool:
    return token.kind == "number" or all(isinstance(part, Region) for part in token.parts)


def _as_text(token: Token) -> Token | None:
    """Return a map's key as the literal that it is: Groovy's keys stand without quotes."""
    if token.kind == "string" and _is_plain(token):
        return token
    if token.kind != "name":
        return None
    return Token("string", token.start, token.end, f'"{token.text}"', (Region("string", token.start, token.end),))


def _items(statement: Statement, container: str) -> list[Token]:
    """Return the names of a container's items that a statement declares, as literals."""
    own = statement.name.split(".")
    if container not in own or own[-1] in _ALL:
        return []
    if CREATORS.intersection(own):
        return [statement.args[0]] if literal_text(statement.args) else []
    if own[-1] != container:
        return []
    found = []
    for child in statement.children:
        parts = child.name.split(".")
        if literal_text(child.args) and (CREATORS.intersection(parts) or not child.name):
            found.append(child.args[0])
        elif child.kind == "block" and len(parts) == 1 and not child.args and not child.conditional:
            start = child.start
            plain = parts[0] and parts[0] not in _ALL and block_path(child) == (parts[0],)
            region = Region("string", start, start + len(parts[0]))  # in a view a character is a byte
            found += [Token("string", start, region.end, f'"{parts[0]}"', (region,))] if plain else []
    return found


def _of_all(statement: Statement, container: str) -> list[tuple[Statement, bool]]:
    """Return the blocks of a statement that speak of all items of a container."""
    own = statement.name.split(".")
    if own[-2:-1] == [container] and own[-1] in _ALL and statement.kind == "block":
        return [(statement, statement.conditional)]
    if own[-1] != container:
        return []
    blocks = [child for child in statement.children if child.kind == "block" and child.name in _ALL]
    return [(child, child.conditional) for child in blocks]
