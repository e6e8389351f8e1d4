"""Loops in build scripts, written out: one copy of their statements for each turn.

Also what a container says of all its items (``all``, ``configureEach``), written out for each. A copy reads the
item's literal wherever the script names it; its positions are the originals', which is why it is marked. What a loop
goes through is evaluated by the caller.
"""

from __future__ import annotations

import re
from bisect import bisect_left
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Protocol

from onomaxis import late
from onomaxis.formats.gradle import read_statements
from onomaxis.formats.gradle_expressions import Block
from onomaxis.formats.gradle_statements import BRANCHES, CREATORS, Statement, block_path, literal_text
from onomaxis.formats.lexer import Given, Region, Token, item_end, items_of
from onomaxis.formats.source import Source

_EACH = frozenset({"each", "forEach", "onEach"})
_NUMBERED = frozenset({"eachWithIndex", "forEachIndexed", "onEachIndexed"})
# Containers whose items are looked at; what they say of all items.
CONTAINERS = ("productFlavors", "buildTypes")
_TIMES = frozenset({"times"})
_LOOPED = _EACH | _NUMBERED | _TIMES
_ALL = frozenset({"all", "configureEach"}) | _EACH
# What ends a turn of a loop, a loop or a function.
_LEAVES = frozenset({"return", "break", "continue"})
# More copied statements than any script that people write needs: a file may have come from anywhere.
_MOST = 20_000


@dataclass(frozen=True)
class Item:
    """What a name in a loop stands for: a literal, or parts by key (``key``, ``value``, a nested map's own).

    ``data`` is what it comes to, ``whole`` tells that there are no other parts.
    """

    token: Token | None = None
    parts: Mapping[str, Item] = field(default_factory=dict)
    data: object = None
    whole: bool = False


Bindings = Mapping[str, Item]


class Asked(Protocol):
    """Who evaluates expressions of a script, with what names around them stand for."""

    def items(self, found: Sequence[Token], around: Bindings) -> Sequence[Item] | None:
        """Return the items of a list or a map; None where nobody can tell."""

    def owner(self, name: Token) -> Item:
        """Return what a closure is given that speaks of an item of a container, by the item's name."""

    def item(self, found: Sequence[Token], around: Bindings) -> Item:
        """Return what an expression comes to; nothing is known of what nobody can tell."""

    def holds(self, found: Sequence[Token], around: Bindings) -> bool | None:
        """Tell whether a condition holds; None where only the build knows."""

    def function(self, name: str) -> Block | None:
        """Return a function or closure that the script declares."""


def unrolled(
    statements: Sequence[Statement], source: Source, found: Sequence[Token], asked: Asked, kotlin: bool
) -> list[Statement]:
    """Return statements with loops whose items are known, and calls of the script's own functions, written out."""
    unroller = _Unroller(source, found, asked, kotlin)
    return unroller.beside(unroller.body(statements, {}))


@dataclass
class _Chain:
    """The branches of one ``if … else if … else``: whether one was taken, None where nobody can tell."""

    taken: bool | None = False
    goes_on: bool = False

    def decided(self, item: Statement, holds: Callable[[Sequence[Token]], bool | None]) -> bool | None:
        """Tell whether the branch that comes next is taken; an ``else`` alone says that an ``if`` belongs to it."""
        if item.name == "if":
            self.taken = self.taken if self.goes_on else False
            found = False if self.taken else holds(item.args)
            found = None if self.taken is None and found else found
        else:
            found = None if self.taken is None else not self.taken
        self.goes_on = item.name == "else" and item.end - item.start == len("else")
        if not self.goes_on and found is not False:
            self.taken = self.taken or found
        return found


@dataclass
class _Left(Exception):
    """The statements of a body end early; these are the ones before."""

    word: str
    found: list[Statement]


class _Unroller:
    def __init__(self, source: Source, found: Sequence[Token], asked: Asked, kotlin: bool) -> None:
        self.source = source
        self.found = found
        self.asked = asked
        # Groovy's blocks have an ``it`` of their own, Kotlin's a receiver: they see the one around them.
        self.own = frozenset({"it"}) if not kotlin else frozenset()
        self.made = 0
        self.running: list[str] = []

    def level(self, statements: Sequence[Statement], around: Bindings) -> list[Statement]:
        """Return statements as far as they are decided: what a condition leaves out is gone."""
        found: list[Statement] = []
        chain = _Chain()
        unsure = False
        for item in statements:
            if item.kind == "block" and item.name in ("if", "else"):
                holds = chain.decided(item, lambda tokens: self.asked.holds(tokens, around))
                if holds is None:
                    found.append(replace(item, children=self.body(item.children, around)))
                    unsure = unsure or any(child.name in _LEAVES for child in item.children)
                elif holds:
                    try:
                        found += self.level([_freed(child, item.outer) for child in item.children], around)
                    except _Left as left:
                        raise _Left(left.word, found + left.found) from None
                continue
            chain = _Chain()
            if unsure:  # what ends a turn may have come before
                item = _freed(item, True)
            if item.name in _LEAVES and item.kind in ("other", "set"):
                raise _Left(item.name, found + self.everywhere(found, found))
            if item.kind == "block" and item.name in ("switch", "when"):
                found += self.level([replace(child, outer=item.outer) for child in item.children], around)
                continue
            rows = self.rows(item, around) if item.kind == "block" else None
            called = self.called(item, around) if item.kind == "set" and item.name else None
            if called is not None:
                found += called
            elif rows is None:
                item = self.named(item, around)
                children = self.body(item.children, self.below(around))
                children = _inherited(children) if item.name.rpartition(".")[2] in CONTAINERS else children
                found.append(replace(item, children=children) if item.children else item)
            for row in rows or ():
                inner = {**around, **row}
                outer = item.outer if item.name == "for" else None
                try:
                    found += self.level(
                        [self.copied(child, row, outer, _data(inner)) for child in item.children], inner
                    )
                except _Left as left:
                    found += left.found
                    if left.word == "break":
                        break
        return found + self.everywhere(found, found)

    def below(self, bound: Bindings) -> Bindings:
        """Return what names stand for in a block that is not a loop's."""
        return bound if self.own.isdisjoint(bound) else {name: bound[name] for name in bound if name not in self.own}

    def body(self, statements: Sequence[Statement], around: Bindings) -> list[Statement]:
        """Return the statements of a block as far as they are decided: ``return`` ends it, and nothing else."""
        try:
            return self.level(statements, around)
        except _Left as left:
            return left.found

    def named(self, item: Statement, around: Bindings) -> Statement:
        """Return a statement that makes an item of a container, its name as a literal where it is known."""
        end = item_end(item.args, 0, (",",))
        quoted = bool(item.args) and item.args[0].kind == "string"
        makes = CREATORS.intersection(item.name.split(".")) or (item.kind == "block" and not item.name and quoted)
        if not item.args or not makes or (end == 1 and literal_text(item.args)):
            return item
        token = self.asked.item(item.args[:end], around).token
        if token is not None and len(token.parts) > 1:
            text = "".join(part.text for part in token.parts if isinstance(part, Given))
            token = token._replace(text=f'"{text}"', parts=(Given(text, None),))
        if token is None and quoted:  # what it begins with is not all of it
            token = Token("name", item.args[0].start, item.args[0].end, "?")
        return replace(item, args=[token, *item.args[end:]]) if token is not None else item

    def called(self, call: Statement, around: Bindings) -> list[Statement] | None:
        """Return what a function of the script does that a call names; None where it is no such call.

        It may be given the container of flavors itself (``delegate``, ``this``), or stand on it.
        """
        name = call.name.rpartition(".")[2]
        block = self.asked.function(name) if name not in self.running else None
        if block is None or not self.is_call(call):
            return None
        given: dict[str, Item] = {}
        containers = {"this"}
        parts = [part for part in items_of(call.args or call.value) if part]
        for at, part in enumerate(parts):
            labelled = len(part) > 2 and part[0].kind == "name" and part[1].text in ("=", ":")
            label = part[0].text if labelled else block.params[at] if at < len(block.params) else ""
            if part[-1].text in _RECEIVERS:
                containers.add(label)
            else:
                given[label] = self.asked.item(part[2:] if labelled else part, around)
        if {*given, *containers} - {"this"} != set(block.params):
            return None
        statements = read_statements(block.body)
        if not self.affords(call, sum(map(_size, statements))):
            return None
        for item in statements:
            first, _, rest = item.name.partition(".")
            item.name = rest if rest and first in containers else item.name
        self.running.append(name)
        try:
            inner = {**around, **given}
            return self.body([self.copied(item, given, None, _data(inner)) for item in statements], inner)
        finally:
            self.running.pop()

    def is_call(self, statement: Statement) -> bool:
        """Tell ``brand("x")`` and ``brand "x"`` from ``brand = "x"``."""
        at = bisect_left(self.found, statement.start, key=lambda token: token.start)
        while at < len(self.found) and (self.found[at].kind == "name" or self.found[at].text in (".", "?.")):
            at += 1
        return at < len(self.found) and self.found[at].text not in ("=", "+=")

    # -- what is said of all items of a container

    def beside(self, level: list[Statement]) -> list[Statement]:
        """Return a script's statements with what is said beside the block: ``android.productFlavors.all { }``."""
        inside = [child for item in level if block_path(item) == ("android",) for child in item.children]
        outside = [replace(item, name=item.name[8:]) for item in level if item.name.startswith("android.")]
        copies = self.everywhere([*inside, *outside], outside)
        return (
            [*level, Statement("block", "android", copies[0].start, children=copies, looped=True)]
            if copies
            else level
        )

    def everywhere(self, level: Sequence[Statement], saying: Sequence[Statement]) -> list[Statement]:
        """Return copies of what statements say of all items of the containers on a level, one for each item."""
        found: list[Statement] = []
        for name in CONTAINERS:
            items = [item for statement in level for item in _items(statement, name)]
            items += _BUILD_TYPES if name == "buildTypes" else []
            for statement in saying:
                for said, conditional in _of_all(statement, name):
                    said.heavy = not self.affords(said, len(items))
                    if said.heavy:
                        continue
                    for item in dict.fromkeys(items):
                        params = said.params or ("it",)
                        own = self.asked.owner(item)
                        bound = {params[0]: own, f"it@{said.body[0]}": own, "name": own.parts["name"]}
                        copies = [self.copied(child, bound, None, _data(bound)) for child in said.children]
                        inner = self.body(copies, bound)
                        block = Statement("block", "getByName", said.start, [item], children=inner, looped=True)
                        block.end, block.conditional = said.end, conditional
                        found.append(
                            Statement("block", name, said.start, children=[block], looped=True, end=said.end)
                        )
        return found

    # -- loops

    def rows(self, loop: Statement, around: Bindings) -> list[Bindings] | None:
        """Return what a loop's names stand for, turn by turn; None where it is not a loop whose items are known."""
        last = loop.name.rpartition(".")[2]
        names: tuple[str, ...] = loop.params or ("it",)
        if loop.name == "for":
            names, asked = self.header(loop.args)
        elif last in _LOOPED and loop.body[1] and loop.name.partition(".")[0] not in _CONTAINED:
            asked = self.receiver(loop)
        else:
            return None
        if self.made > _MOST:
            return None
        items = self.asked.items(asked, around) if asked and names else None
        if not items or not self.affords(loop, len(items)):
            return None
        if last in _NUMBERED:
            return [_numbered(names, item, at, last) for at, item in enumerate(items)]
        return [{**_bound(names, item), f"it@{loop.body[0]}": item} for item in items]

    def affords(self, statement: Statement, times: int) -> bool:
        """Tell whether what a statement holds may be copied so many times; if not, it stays as it is."""
        self.made += times * _size(statement)
        return self.made <= _MOST

    def receiver(self, loop: Statement) -> Sequence[Token]:
        """Return the expression before ``.each``: it stands before the loop's body."""
        first = bisect_left(self.found, loop.start, key=lambda token: token.start)
        last = bisect_left(self.found, loop.body[0], key=lambda token: token.start)
        inner = [token for token in self.found[first:last] if token.kind != "newline"]
        at = next((index for index in range(len(inner) - 1, 0, -1) if inner[index].text in _LOOPED), 0)
        return inner[: at - 1] if at > 1 else []

    def header(self, tokens: Sequence[Token]) -> tuple[tuple[str, ...], Sequence[Token]]:
        """Return the names and the list of ``for (name in list)``."""
        at = next((index for index, token in enumerate(tokens) if token.text in ("in", ":")), -1)
        names = tuple(token.text for token in tokens[: max(at, 0)] if token.kind == "name")
        return (names if tokens and tokens[0].text == "(" else names[-1:]), tokens[at + 1 :] if at > 0 else ()

    # -- copies

    def copied(
        self, statement: Statement, bound: Bindings, outer: bool | None, data: Mapping[str, object]
    ) -> Statement:
        """Return a copy of a statement that reads bound names as what they stand for."""
        branch = statement.name in BRANCHES and statement.conditional and statement.kind == "block"
        inner = outer if not branch else None
        value = statement.value
        below = self.below(bound) if statement.kind == "block" and not branch else bound
        return replace(
            statement,
            outer=outer if branch and outer is not None else statement.outer,
            span=statement.span if statement.span[1] or not value else (value[0].start, value[-1].end),
            args=self.tokens(statement.args, bound),
            value=self.tokens(statement.value, bound),
            children=[self.copied(child, below, inner, data) for child in statement.children],
            bound=data,
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
                item, after = _followed(bound[token.text], tokens, at + 1)
                if item.token is None:  # a list or a map: what it is asked for is evaluated
                    found += [Token(*part) for part in tokens[at:after]]
                else:
                    found.append(_standing(item.token, token.start, tokens[after - 1].end))
                at = after
                continue
            # A token of a copy is one of its own: it tells what the names around it stand for.
            found.append(Token(*(self.string(token, bound) if token.kind == "string" else token)))
            at += 1
        return found

    def string(self, token: Token, bound: Bindings) -> Token:
        """Return a string with the interpolated names that are bound as literal stretches of it."""
        parts: list[Region | tuple[int, int] | Given] = []
        whole = [part for part in token.parts if not isinstance(part, Region) or part.end > part.start]
        for part in whole:
            if isinstance(part, Region):
                parts += self.stretch(part, bound)
                continue
            if isinstance(part, Given):
                parts.append(part)
                continue
            item = _named(self.source.text(*part).strip().strip("{}").split("."), bound)
            if item is None or item.token is None:
                parts.append(part)
                continue
            if len(whole) == 1:
                return _standing(item.token, token.start, token.end)
            parts += [inner for inner in item.token.parts if isinstance(inner, Region | Given)]
        if parts == whole:
            return token
        only = next((item.token for item in _every(bound) if item.token and list(item.token.parts) == parts), None)
        return _standing(only, token.start, token.end) if only else token._replace(parts=tuple(parts))

    def stretch(self, region: Region, bound: Bindings) -> list[Region | tuple[int, int] | Given]:
        """Return a literal stretch with its ``$name`` and ``$name.key`` that are bound taken apart."""
        found: list[Region | tuple[int, int] | Given] = []
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
            found += [inner for inner in item.token.parts if isinstance(inner, Region | Given)]
            at = match.start(1) + len(".".join(words[:length]))
        if at < region.end:
            found.append(region._replace(start=at))
        return found or [region]


# A name in a string without braces, with what it is asked for.
_SIMPLE = late.compile(r"(?<!\\)\$([A-Za-z_]\w*(?:\.[A-Za-z_]\w*)*)", re.ASCII)


# Build types that every module has. Source: developer.android.com, "Configure build variants".
_BUILD_TYPES = [Token("string", 0, 0, f'"{name}"', (Given(name, None),)) for name in ("debug", "release")]


def _inherited(children: list[Statement]) -> list[Statement]:
    """Return a container's items with what one takes over from another (``initWith(getByName("a"))``)."""
    items: dict[str, Statement] = {}
    found: list[Statement] = []
    for child in children:
        inner: list[Statement] = []
        for item in child.children:
            inner.append(item)
            if item.name == "initWith":
                named = [
                    literal_text([token]) or token.text for token in item.value if token.kind in ("string", "name")
                ]
                other = items.get(named[-1]) if named else None
                inner += [replace(one, looped=True) for one in other.children] if other is not None else []
        found.append(replace(child, children=inner) if len(inner) > len(child.children) else child)
        items[block_path(child)[-1]] = found[-1]
    return found


def _data(bound: Bindings) -> Mapping[str, object]:
    return {name: item.data for name, item in bound.items()}


def _freed(statement: Statement, outer: bool) -> Statement:
    """Return a statement of a branch that is taken: it stands under no other condition than the branch did."""
    if statement.name in BRANCHES and statement.kind == "block":
        return replace(statement, outer=outer)
    return replace(statement, conditional=outer, children=[_freed(child, outer) for child in statement.children])


def _size(statement: Statement) -> int:
    return 1 + len(statement.value) + sum(map(_size, statement.children))


def _every(bound: Bindings) -> Iterator[Item]:
    for item in bound.values():
        yield item
        yield from _every(item.parts)


KEYS, VALUES = ("key", "first", "0"), ("value", "second", "1")


def _standing(token: Token, start: int, end: int) -> Token:
    """Return a literal as the one that it is; what no literal of the script says stands where it is asked for."""
    return token if token.end else token._replace(start=start, end=end)


_GETTERS = frozenset({"get", "getValue", "getProperty"})
_RECEIVERS = frozenset({"delegate", "this", "it", "owner", *CONTAINERS})
_NULL = Item(Token("name", 0, 0, "null"))
# What is not a list: a container is asked of its items by :meth:`_Unroller.everywhere`.
_CONTAINED = frozenset({*CONTAINERS, "android"})


def _named(words: Sequence[str], bound: Bindings) -> Item | None:
    item = bound.get(words[0])
    for word in words[1:]:
        item = item.parts.get(word) if item is not None else None
    return item


def _followed(item: Item, tokens: Sequence[Token], at: int) -> tuple[Item, int]:
    """Follow keys behind a name (``.suffix``, ``['suffix']``, ``.getValue("suffix")``); return what they lead to."""
    while at + 1 < len(tokens):
        texts = [token.text for token in tokens[at : at + 5]]
        key, after = "", at
        if texts[0] in (".", "?.") and texts[1] in _GETTERS and texts[2:3] == ["("] and texts[4:] == [")"]:
            key, after = literal_text([tokens[at + 3]]), at + 5
        elif texts[0] in (".", "?.") and (texts[1] in item.parts or texts[2:3] not in (["("], ["{"])):
            key, after = texts[1], at + 2
        elif texts[0] == "[" and texts[2:3] == ["]"]:
            key, after = literal_text([tokens[at + 1]]), at + 3
        if not key or (key not in item.parts and not item.whole):
            break
        item, at = item.parts.get(key, _NULL), after
        if tokens[at : at + 1] and tokens[at].text == "!!":
            at += 1
    return item, at


def _numbered(names: tuple[str, ...], item: Item, at: int, called: str) -> Bindings:
    """Bind an item and its number: Kotlin says the number first."""
    number = Item(Token("number", 0, 0, str(at)), data=at)
    return dict(zip(names, (item, number) if called == "eachWithIndex" else (number, item), strict=False))


def _bound(names: tuple[str, ...], item: Item) -> Bindings:
    if len(names) > 1 and item.parts:
        pair = [item.parts.get("key") or item.parts.get("0"), item.parts.get("value") or item.parts.get("1")]
        found = [*pair, *(item.parts.get(str(at)) for at in range(2, len(names)))]
        return {name: part for name, part in zip(names, found, strict=False) if part is not None}
    return {names[0]: item}


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
