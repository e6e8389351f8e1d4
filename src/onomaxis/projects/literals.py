"""How a resolved value is made another one: which literal is rewritten, and to what."""

from __future__ import annotations

from typing import NamedTuple

from onomaxis.model import Edit, Facet, Place, Value
from onomaxis.projects.edits import place_edit
from onomaxis.tree import Tree


class Rewriting(NamedTuple):
    """The edit that gives a value its new text; ``replaced`` is the expression that was given up for it."""

    edit: Edit
    replaced: Place | None = None


def rewrite(tree: Tree, facet: Facet, value: Value, new: str) -> Rewriting:
    """Return the edit that makes *value* read *new*.

    One literal of the value is edited when the rest of it already fits; else the whole expression becomes a
    literal. Raises FormatError when the file cannot hold the text.
    """
    for index, piece in enumerate(value.pieces):
        if piece.place is None:
            continue
        before = "".join(item.text for item in value.pieces[:index])
        after = "".join(item.text for item in value.pieces[index + 1 :])
        if len(new) > len(before) + len(after) and new.startswith(before) and new.endswith(after):
            middle = new[len(before) : len(new) - len(after)]
            text = piece.before + middle + piece.after
            return Rewriting(place_edit(tree, piece.place, text, facet))
    spot = value.place
    if spot.syntax == "gradle-expression" and facet is Facet.VERSION_CODE:
        edit = place_edit(tree, spot, new, facet, "number")
    else:
        edit = place_edit(tree, spot, new, facet)
    return Rewriting(edit, spot)
