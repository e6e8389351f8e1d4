"""How a place is written anew, and a missing entry inserted: in the place's own syntax and the file's encoding."""

from __future__ import annotations

from onomaxis.errors import FormatError
from onomaxis.formats.escapes import UNFORMATTED, conversions, encode
from onomaxis.formats.source import Source
from onomaxis.model import Edit, Opening, Place
from onomaxis.tree import Tree


def place_edit(tree: Tree, spot: Place, text: str, facet: str, syntax: str = "") -> Edit:
    """Write *text* at a place in the place's own syntax and encoding."""
    try:
        written = encode(syntax or spot.syntax, text, spot.written)
        source = _source(tree, spot.file)
        if spot.syntax.startswith("android-") and conversions(text) > 1:
            return _unformatted(source, spot, written, facet)
        return Edit(spot.file, spot.start, spot.end, source.raw(written), facet)
    except FormatError as error:
        raise FormatError(error.message, file=spot.file, line=spot.line) from None


def _unformatted(source: Source, spot: Place, written: str, facet: str) -> Edit:
    """Write a string resource that is no format string though it holds several ``%``, and say so in its tag.

    Source: developer.android.com, "String resources" (``formatted``); the resource compiler refuses it otherwise.
    """
    data = source.data
    marks = {sign: source.raw(sign) for sign in ("<", ">", "formatted")}
    opening = data.rfind(marks["<"], 0, spot.start)
    if data[opening:].startswith(source.raw("<!")):  # CDATA
        opening = data.rfind(marks["<"], 0, opening)
    closing = data.find(marks[">"], opening, spot.start)
    if closing < 0 or marks["formatted"] in data[opening:closing]:
        return Edit(spot.file, spot.start, spot.end, source.raw(written), facet)
    new = source.raw(UNFORMATTED) + data[closing : spot.start] + source.raw(written)
    return Edit(spot.file, closing, spot.end, new, facet)


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
