"""How a resolved value is made another one: which literal is rewritten, and to what."""

from __future__ import annotations

from dataclasses import dataclass

from onomaxis.errors import FormatError
from onomaxis.formats.escapes import encode
from onomaxis.formats.source import Source
from onomaxis.model import Edit, Facet, Opening, Place, Value
from onomaxis.tree import Tree


@dataclass(frozen=True)
class Rewriting:
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


def place_edit(tree: Tree, spot: Place, text: str, facet: Facet, syntax: str = "") -> Edit:
    """Write *text* at a place in the place's own syntax and encoding."""
    try:
        written = encode(syntax or spot.syntax, text, spot.written)
        return Edit(spot.file, spot.start, spot.end, _source(tree, spot.file).raw(written), facet)
    except FormatError as error:
        raise FormatError(error.message, file=spot.file, line=spot.line) from None


def opening_edit(tree: Tree, opening: Opening, text: str) -> Edit:
    """Insert a missing entry with value *text*."""
    spot = opening.place
    source = _source(tree, spot.file)
    try:
        written = opening.before + encode(spot.syntax, text) + opening.after
        return Edit(spot.file, spot.start, spot.end, source.raw(written), opening.facet)
    except FormatError as error:
        raise FormatError(error.message, file=spot.file, line=spot.line) from None


def _source(tree: Tree, path: str) -> Source:
    data = tree.read(path) or b""
    declared = "latin-1" if data.lstrip()[:5] == b"<?xml" and b"8859-1" in data[:80] else None
    return Source.read(data, declared)
