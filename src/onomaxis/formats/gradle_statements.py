"""The statements of a Gradle build script, and how they are walked: blocks by path, settings with their path."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from typing import NamedTuple

from onomaxis.formats.lexer import Token, item_end

# The calls of a named container that make one of its items, or open one that is there.
CREATORS = frozenset({"create", "register", "getByName", "named", "maybeCreate"})
# Calls that open the receiver's own scope.
_SCOPES = frozenset({"apply", "with", "run", "configure", "all", "configureEach", "also", "let"})
# Blocks that speak of what the block around them does.
_SAME = frozenset({"with", "tap", "run"})
BRANCHES = {"if", "else", "for", "while", "when", "switch", "try", "catch", "finally"}


@dataclass(slots=True)
class Statement:
    """One statement: ``kind`` is ``block``, ``set``, ``declare`` or ``other``.

    ``name`` is dotted as written; ``args`` are the tokens between its parentheses, ``value`` those of its value;
    ``conditional`` is true below a branch; ``end`` is the position behind its last token. ``params`` are the names
    that a closure gives what it is called with, ``looped`` marks what a loop over literals made: it stands elsewhere;
    ``outer`` is a loop's own ``conditional``, since what a loop holds counts as conditional until it is unrolled;
    ``heavy`` marks what would be copied more often than is followed; ``span`` is where the value of a copy stands,
    ``bound`` what the names of the loops around it stand for.
    """

    kind: str
    name: str
    start: int
    args: list[Token] = field(default_factory=list)
    value: list[Token] = field(default_factory=list)
    children: list[Statement] = field(default_factory=list)
    conditional: bool = False
    body: tuple[int, int] = (0, 0)
    end: int = 0
    params: tuple[str, ...] = ()
    looped: bool = False
    outer: bool = True
    heavy: bool = False
    span: tuple[int, int] = (0, 0)
    bound: Mapping[str, object] = field(default_factory=dict)


class Setting(NamedTuple):
    """A setting with the blocks around it: ``path`` holds block names, or a block's quoted argument.

    ``full`` is path and name, with dotted names taken apart.
    """

    path: tuple[str, ...]
    name: str
    value: tuple[Token, ...]
    conditional: bool
    declared: bool
    statement: Statement
    full: tuple[str, ...]

    def called(self, path: tuple[str, ...], name: str) -> Setting:
        """Return the setting as one of other blocks, or of another name."""
        return self._replace(path=path, name=name, full=full_path(path, name))


def full_path(path: Sequence[str], name: str) -> tuple[str, ...]:
    """Return path and name of a setting, with dotted names taken apart."""
    return tuple(".".join((*path, name)).split("."))


def followed(level: Sequence[Statement], path: tuple[str, ...]) -> Iterator[Statement]:
    """Yield the blocks reached by following names."""
    for item in level:
        own = block_path(item) if item.kind == "block" else ()
        if own and own == path[: len(own)]:
            if len(own) == len(path):
                yield item
            else:
                yield from followed(item.children, path[len(own) :])


def block_path(statement: Statement) -> tuple[str, ...]:
    """Name a block as the settings below it see it: its parts, with a named container's item for its creator."""
    parts = statement.name.split(".")
    at = next((index for index, part in enumerate(parts) if part in CREATORS), None)
    if at is not None or not statement.name:
        text = literal_text(statement.args)
        if text:
            return (*parts[: at or 0], text)
    if parts[0] in ("configure", "extensions") and "Extension" in "".join(t.text for t in statement.args):
        return ("android",)
    if parts[-1] in _SCOPES and len(parts) > 1:
        parts = parts[:-1]
    return tuple(parts)


def has_fields(text: str) -> bool:
    """Tell whether a literal in double quotes names something (``"brand$n"``), so that it stands for another text."""
    return text[:1] == '"' and re.search(r"(?<!\\)\$[A-Za-z_{]", text) is not None


def literal_text(value: list[Token] | tuple[Token, ...]) -> str:
    """Return the body of the first token when it is a string without interpolation, else an empty string."""
    if value and value[0].kind == "string" and len(value[0].parts) == 1 and not has_fields(value[0].text):
        quote = 3 if value[0].text[:3] in ('"""', "'''") else 1
        return value[0].text[quote:-quote]
    return ""


def settings_of(path: tuple[str, ...], level: Sequence[Statement], conditional: bool) -> Iterator[Setting]:
    """Yield every setting and declaration of some statements with its path, in order."""
    for item in level:
        full = full_path(path, item.name)
        branch = conditional or item.conditional
        if item.kind in ("set", "declare"):
            yield Setting(path, item.name, tuple(item.value), branch, item.kind == "declare", item, full)
        if item.kind == "block":
            own = block_path(item)
            open_ = own[0] in BRANCHES
            if (item.value or item.args) and not open_:
                yield Setting(path, item.name, tuple(item.args), branch, False, item, full)
            inner = path if open_ or (len(own) == 1 and own[0] in _SAME) else (*path, *own)
            yield from settings_of(inner, item.children, branch or open_)


def map_keys(found: Sequence[Token]) -> list[str]:
    """Return the keys of a map literal: ``[k: v]``, ``mapOf("k" to v)``."""
    pairs = pairwise(found)
    names = ((literal_text([key]) or (key.text if key.kind == "name" else ""), mark.text) for key, mark in pairs)
    return [name for name, mark in names if name and mark in (":", "to")]


def mapped(found: Sequence[Token], key: str) -> tuple[Token, ...] | None:
    """Return the value of *key* in a map literal: ``[k: v]``, ``mapOf("k" to v)``, ``put("k", v)``."""
    for index, token in enumerate(found[:-2]):
        name = literal_text([token]) or (token.text if token.kind == "name" else "")
        if name == key and found[index + 1].text in (":", "to", ","):
            value = found[index + 2 : item_end(found, index + 2)]
            return tuple(item for item in value if item.kind != "newline") or None
    return None
