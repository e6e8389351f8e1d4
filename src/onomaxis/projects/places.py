"""A place of a value as it was found: what it reads, where, and the edit that gives it another text."""

from __future__ import annotations

from collections.abc import Iterable

from onomaxis.errors import InputError
from onomaxis.identity.schema import nearest
from onomaxis.model import Place
from onomaxis.projects.edits import place_edit
from onomaxis.projects.project import Draft, Spot
from onomaxis.tree import Tree


def literal_spot(tree: Tree, text: str, spot: Place) -> Spot:
    """Return the spot of one literal."""
    return Spot(text, spot.file, spot.line, lambda new: Draft(edits=[place_edit(tree, spot, new, "")]))


def refusing(text: str, spot: Place, why: str) -> Spot:
    """Return a spot that cannot be written for a flavor alone."""
    return Spot(text, spot.file, spot.line, lambda new: Draft(refusals=[f"{spot.at}: “{new}”: {why}"]))


def gone(what: str, name: str, file: str, known: Iterable[str], line: int = 0) -> InputError:
    """Return the error for a place that is not there: the file, and what is there instead."""
    there = sorted(dict.fromkeys(known))
    guess = nearest(name, there)
    listed = ", ".join(there[:8]) + (" …" if len(there) > 8 else "")
    advice = f"Is it “{guess}” now?" if guess else f"There are: {listed}." if there else "There is none at all."
    return InputError(f"there is no {what} “{name}” any more", file=file, line=line, remedy=advice)
