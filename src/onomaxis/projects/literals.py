"""How a resolved value is made another one: which literal is rewritten, and to what."""

from __future__ import annotations

from typing import NamedTuple

from onomaxis.model import Edit, Facet, Place, Value
from onomaxis.projects.edits import place_edit
from onomaxis.tree import Tree


class Rewriting(NamedTuple):
    """The edits that give a value its new text; ``replaced`` is the expression that was given up for it."""

    edits: tuple[Edit, ...]
    replaced: Place | None = None

    @property
    def edit(self) -> Edit:
        """The only edit, where there can be but one."""
        return self.edits[0]


def rewrite(tree: Tree, facet: Facet, value: Value, new: str) -> Rewriting:
    """Return the edit that makes *value* read *new*.

    One literal of the value is edited when the rest of it already fits; a version that is put together of its
    numbers gets each of them; else the whole expression becomes a literal. Raises FormatError when the file cannot
    hold the text.
    """
    for index, piece in enumerate(value.pieces):
        if piece.place is None:
            continue
        before = "".join(item.text for item in value.pieces[:index])
        after = "".join(item.text for item in value.pieces[index + 1 :])
        if len(new) > len(before) + len(after) and new.startswith(before) and new.endswith(after):
            middle = new[len(before) : len(new) - len(after)]
            text = piece.before + middle + piece.after
            return Rewriting((place_edit(tree, piece.place, text, facet),))
    if facet is Facet.VERSION_NAME and (numbers := _numbers(value, new)):
        return Rewriting(tuple(place_edit(tree, spot, text, facet) for spot, text in numbers))
    spot = value.place
    if spot.syntax == "gradle-expression" and facet is Facet.VERSION_CODE:
        edit = place_edit(tree, spot, new, facet, "number")
    else:
        edit = place_edit(tree, spot, new, facet)
    return Rewriting((edit,), spot)


def _numbers(value: Value, new: str) -> list[tuple[Place, str]]:
    """Return the literals of a version's numbers and what each shall say: ``"$major.$minor"``; none elsewhere."""
    points = [piece.text for piece in value.pieces[1::2]]
    numbers = [(piece.place, piece.text) for piece in value.pieces[::2]]
    wanted = new.split(".")
    spots = {(spot.file, spot.start) for spot, _ in numbers if spot is not None}
    if len(numbers) < 2 or set(points) != {"."} or len(wanted) != len(numbers) or len(spots) != len(numbers):
        return []
    if not all(text.isdecimal() for text in (*wanted, *(text for _, text in numbers))):
        return []
    return [
        (spot, text) for (spot, old), text in zip(numbers, wanted, strict=True) if spot is not None and old != text
    ]
