"""How a place is written anew, and a missing entry inserted: in the place's own syntax and the file's encoding."""

from __future__ import annotations

from onomaxis.errors import FormatError
from onomaxis.formats.escapes import encode
from onomaxis.formats.source import Source
from onomaxis.model import Edit, Opening, Place
from onomaxis.tree import Tree


def place_edit(tree: Tree, spot: Place, text: str, facet: str, syntax: str = "") -> Edit:
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
