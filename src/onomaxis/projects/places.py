"""A place of a value as it was found: what it reads, where, and the edit that gives it another text."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import NamedTuple, Protocol

from onomaxis.errors import InputError
from onomaxis.identity.schema import nearest
from onomaxis.model import Note, Place, Value
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import place_edit
from onomaxis.tree import Tree


class Spot(NamedTuple):
    """What a place of a value reads today for a flavor; ``write`` returns what gives it a new text, or refusals.

    Of a place that cannot be written for a flavor alone, ``whole`` writes it for all that share it.
    """

    text: str
    file: str
    line: int
    write: Callable[[str], Draft]
    whole: Callable[[str], Draft] | None = None

    @property
    def at(self) -> str:
        """``file:line``."""
        return f"{self.file}:{self.line}"


class Configured(NamedTuple):
    """What a place reads in one configuration; ``ships`` where that one is archived of its flavor."""

    name: str
    flavor: str
    value: Value
    ships: bool


class Places(Protocol):
    """Reads the places of values in one module or target."""

    def spot(self, selector: str, name: str, file: str, flavor: str, locale: str = "") -> Spot:
        """Return the place of a value for a flavor (``""``: the app itself), in a language where one is said.

        Raises InputError when it is gone.
        """

    def made(
        self, selector: str, name: str, text: str, kind: str, locale: str = "", varied: bool = True, flavor: str = ""
    ) -> Draft | None:
        """Return what makes a place that is missing, so that it reads *text*; None where such a one is not made.

        What is *varied* is made so that every flavor can have a text of its own there. *kind* is the value's type.
        With *flavor* it is made where that flavor alone has it.
        """

    def opened(self, selector: str, name: str) -> Draft | None:
        """Return what lets each flavor have its own text where all share one now; None where nothing is to do."""

    def configured(self, selector: str, name: str, file: str) -> list[Configured]:
        """Return what a place reads in every configuration; nothing where a build has one value a flavor."""


def literal_spot(tree: Tree, text: str, spot: Place) -> Spot:
    """Return the spot of one literal."""
    return Spot(text, spot.file, spot.line, lambda new: Draft(edits=[place_edit(tree, spot, new, "")]))


def refusing(text: str, spot: Place, why: str, whole: Callable[[str], Draft] | None = None) -> Spot:
    """Return a spot that cannot be written for a flavor alone; *whole* writes it for all that share it."""
    return Spot(text, spot.file, spot.line, lambda new: Draft(refusals=[Note(spot.at, f"“{new}”: {why}")]), whole)


def gone(what: str, name: str, file: str, known: Iterable[str], line: int = 0) -> InputError:
    """Return the error for a place that is not there: the file, and what is there instead."""
    there = sorted(dict.fromkeys(known))
    guess = nearest(name, there)
    listed = ", ".join(there[:8]) + (" …" if len(there) > 8 else "")
    advice = f"Did you mean “{guess}”?" if guess else f"There are: {listed}." if there else "The file has none."
    return InputError(f"there is no {what} “{name}”", file=file, line=line, remedy=advice)
