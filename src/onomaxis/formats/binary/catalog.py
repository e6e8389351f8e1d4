"""The names in a compiled asset catalog (``Assets.car``), and no more: what stands behind them is not documented.

The file is a store of blocks, big-endian, with a table of variables; one of them, FACETKEYS, is a tree whose keys are
the names. Its outline is that of the platform's bill-of-materials files (``BOMStore``), read here with bounds on
everything; a catalog of another form has no names that can be told.
"""

from __future__ import annotations

from onomaxis.errors import FormatError
from onomaxis.formats.binary.reader import Reader

_MAGIC = b"BOMStore"
_MOST_BLOCKS = 500_000
_MOST_PAGES = 20_000
_MOST_VARIABLES = 1000


def catalog_names(data: bytes) -> tuple[str, ...]:
    """Return the names in a catalog, in the tree's order; none where they cannot be determined."""
    try:
        return tuple(_names(Reader(data, "the catalog")))
    except FormatError:
        return ()


def _names(reader: Reader) -> list[str]:
    if bytes(reader.take(0, 8)) != _MAGIC:
        raise FormatError("this is not a catalog")
    _, _, index, _, variables, _ = reader.unpack(">6I", 8)
    count = reader.number(">I", index)
    if count > _MOST_BLOCKS:
        raise FormatError("the catalog counts more blocks than any has")

    def block(number: int) -> Reader:
        if not 0 < number < count:
            raise FormatError("the catalog names a block that it does not have")
        at, size = reader.unpack(">II", index + 4 + 8 * number)
        return reader.part(at, size)

    tree = block(_variable(reader, variables, b"FACETKEYS"))
    if bytes(tree.take(0, 4)) != b"tree":
        raise FormatError("the catalog's names are no tree")
    page = block(tree.number(">I", 8))
    for _ in range(_MOST_PAGES):  # down to the first leaf
        if page.number(">H", 0):
            break
        page = block(page.number(">I", 12))
    found: list[str] = []
    for _ in range(_MOST_PAGES):  # and on from leaf to leaf
        size, following = page.unpack(">HI", 2)
        for number in range(size):
            key = block(page.number(">I", 12 + 8 * number + 4))
            found.append(bytes(key.data).rstrip(b"\0").decode("utf-8", "replace"))
        if not following:
            return found
        page = block(following)
    raise FormatError("the catalog's names go round in a circle")


def _variable(reader: Reader, at: int, wanted: bytes) -> int:
    """Return the block that a variable names."""
    count = reader.number(">I", at)
    at += 4
    for _ in range(min(count, _MOST_VARIABLES)):
        block, size = reader.unpack(">IB", at)
        if bytes(reader.take(at + 5, size)) == wanted:
            return block
        at += 5 + size
    raise FormatError("the catalog has no names")
