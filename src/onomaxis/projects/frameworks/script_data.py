"""What a configuration script holds while it is run: text by the literals that say it, objects, functions, doubts."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import TypeAlias, Union

from onomaxis.formats.script_tree import Function
from onomaxis.model import Piece, Place

_LONGEST = 20_000
_MOST_PIECES = 200


@dataclass(frozen=True, slots=True)
class Text:
    """A text or a number, by the literals that say it.

    ``asked`` is the variable of the environment that gave it, or would have; ``spot`` is the expression that puts
    several literals together.
    """

    pieces: tuple[Piece, ...]
    number: bool = False
    asked: str = ""
    spot: Place | None = None

    def __str__(self) -> str:
        return "".join(piece.text for piece in self.pieces)


@dataclass(frozen=True, slots=True)
class Absent:
    """``undefined`` or ``null``; ``asked`` is the variable that says nothing, ``spot`` what comes to nothing."""

    null: bool = False
    asked: str = ""
    spot: Place | None = None


@dataclass(frozen=True, slots=True)
class Doubt:
    """What nobody can tell, why, and where it is written; ``whole`` stands in a list for all of its items."""

    reason: str
    spot: Place | None = None
    whole: bool = False


@dataclass(slots=True)
class Table:
    """An object. ``doubt`` tells why it may have other members than these."""

    entries: dict[str, Data] = field(default_factory=dict)
    doubt: Doubt | None = None

    def spoil(self, why: Doubt) -> None:
        """Make unknown what the object holds, whatever else it is called."""
        self.entries.clear()
        self.doubt = why

    def take(self, other: Data) -> None:
        """Take over the members of another object: ``...other``, ``Object.assign``."""
        if isinstance(other, Doubt):
            self.spoil(other)
        elif isinstance(other, Table):
            if other.doubt is not None:
                self.spoil(other.doubt)
            self.entries.update(other.entries)


@dataclass(frozen=True, slots=True)
class Host:
    """Something of the language's own: ``process.env``, ``Object``, ``JSON``."""

    name: str


@dataclass(slots=True)
class Scope:
    """The variables of one block, and of those around it; ``file`` is the script that it stands in."""

    file: object
    above: Scope | None = None
    names: dict[str, Data] = field(default_factory=dict)

    def holder(self, name: str) -> Scope | None:
        """Return the scope that a variable is declared in."""
        scope: Scope | None = self
        while scope is not None and name not in scope.names:
            scope = scope.above
        return scope


@dataclass(frozen=True, slots=True)
class Closure:
    """A function with the variables that it sees."""

    function: Function
    scope: Scope


Data: TypeAlias = Union[Text, Absent, Doubt, Table, Host, Closure, bool, "list[Data]"]


def computed(value: object) -> Text | Doubt:
    """Return a text or a number that no literal says."""
    text = str(value)
    if len(text) > _LONGEST:
        return Doubt("the value is too long")
    return Text((Piece(text),), isinstance(value, int))


def truth(value: Data) -> bool | Doubt:
    """Return what a condition makes of a value."""
    if isinstance(value, bool | Doubt):
        return value
    if isinstance(value, Text):
        return str(value) not in ("0", "") if value.number else bool(value.pieces and str(value))
    return not isinstance(value, Absent)


def text_of(value: Data) -> Text | Doubt:
    """Return a value as part of a text."""
    if isinstance(value, Text | Doubt):
        return value
    if isinstance(value, Absent) and value.asked:
        return Doubt(f"the environment decides it: process.env.{value.asked}")
    if isinstance(value, bool):
        return Text((Piece(str(value).lower()),))
    return Doubt("it is not text")


def joined(values: list[Data], between: str = "") -> Text | Doubt:
    """Return texts one behind the other."""
    pieces: list[Piece] = []
    for at, value in enumerate(values):
        text = text_of(value)
        if isinstance(text, Doubt):
            return text
        pieces += ([Piece(between)] if at and between else []) + list(text.pieces)
    if len(pieces) > _MOST_PIECES or sum(len(piece.text) for piece in pieces) > _LONGEST:
        return Doubt("the value is too long")
    return Text(tuple(piece for piece in pieces if piece.text) or tuple(pieces[:1]))


class Ended(Exception):
    """The script cannot be run to its end, or not here: more is computed than is followed, or a file is missing."""


def grown(items: list[Data], more: list[Data]) -> list[Data]:
    """Return a list with more items. Raises Ended where it would be too long."""
    if len(items) + len(more) > _LONGEST:
        raise Ended("the list is too long")
    return [*items, *more]


def spoiled(items: list[Data], why: Doubt) -> None:
    """Make unknown what a list holds, whatever else it is called."""
    items[:] = [replace(why, whole=True)]


def sure(items: list[Data]) -> list[Data] | Doubt:
    """Return a list, or why nobody can tell what is in it."""
    return next((item for item in items if isinstance(item, Doubt) and item.whole), items)


def asked_by(value: Data, asked: str) -> Data:
    """Return a default as what the environment would have given."""
    return replace(value, asked=asked) if isinstance(value, Text | Absent) and not value.asked else value
