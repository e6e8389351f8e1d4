"""How a place is written anew, and a missing entry inserted: in the place's own syntax and the file's encoding."""

from __future__ import annotations

from collections.abc import Sequence

from onomaxis.errors import FormatError
from onomaxis.formats.escapes import UNFORMATTED, conversions, encode
from onomaxis.formats.source import Source
from onomaxis.formats.xml import declared_encoding
from onomaxis.model import Edit, Opening, Place
from onomaxis.tree import Tree


def span_edit(path: str, source: Source, start: int, end: int, new: str | bytes, facet: str = "") -> Edit:
    """Write a text, or bytes as they are, in place of a span of a file's view."""
    data = source.raw(new) if isinstance(new, str) else new
    return Edit(path, source.offset(start), source.offset(end), data, facet)


def place_edit(tree: Tree, spot: Place, text: str, facet: str, syntax: str = "") -> Edit:
    """Write *text* at a place in the place's own syntax and encoding."""
    try:
        written = encode(syntax or spot.syntax, text, spot.written)
        source = _source(tree, spot.file)
        if spot.syntax.startswith("android-") and max(conversions(text), conversions(spot.written)) > 1:
            return _string(source, spot, written, conversions(text) > 1, facet)
        return Edit(spot.file, spot.start, spot.end, source.raw(written), facet)
    except FormatError as error:
        raise FormatError(error.message, file=spot.file, line=spot.line) from None


def _string(source: Source, spot: Place, written: str, unformatted: bool, facet: str) -> Edit:
    """Write a string resource; one that is not a format string though it holds several ``%`` says so in its tag.

    The resource compiler refuses it otherwise (developer.android.com, "String resources", ``formatted``). The word
    goes again when the text that needed it does, if it stands where it is written here.
    """
    data = source.data
    opening = data.rfind(source.raw("<"), 0, spot.start)
    if data[opening:].startswith(source.raw("<!")):  # CDATA
        opening = data.rfind(source.raw("<"), 0, opening)
    closing = data.find(source.raw(">"), opening, spot.start)
    mark, tag = source.raw(UNFORMATTED), data[opening:closing]
    if closing >= 0 and unformatted and source.raw("formatted") not in tag:
        return Edit(spot.file, closing, spot.end, mark + data[closing : spot.start] + source.raw(written), facet)
    if closing >= 0 and not unformatted and tag.endswith(mark):
        return Edit(spot.file, closing - len(mark), spot.end, data[closing : spot.start] + source.raw(written), facet)
    return Edit(spot.file, spot.start, spot.end, source.raw(written), facet)


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
    return Source.read(data, declared_encoding(data))


def one_block(edits: Sequence[Edit]) -> list[Edit]:
    """Return insertions with those of one block at one place made one: the first and the last line count once."""
    found: dict[tuple[str, int, bytes, bytes], Edit] = {}
    for at, edit in enumerate(edits):
        lines = edit.new.splitlines(keepends=True)
        if edit.start != edit.end or len(lines) < 3:
            found[edit.file, edit.start, b"", str(at).encode()] = edit
            continue
        key = (edit.file, edit.start, lines[0], lines[-1])
        before = found.get(key)
        inner = [*before.new.splitlines(keepends=True)[1:-1], *lines[1:-1]] if before is not None else lines[1:-1]
        found[key] = edit._replace(new=b"".join([lines[0], *inner, lines[-1]]))
    return list(found.values())
