"""Thousands of texts sought in many megabytes at once.

Every stretch of eight bytes (of four, for short texts) is looked up in a table of the beginnings that are sought: a
fleet of brands costs hardly more than one.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator

import numpy as np
from numpy.typing import NDArray

# The shortest text that can be sought, in bytes.
LEAST = 4
_BITS = 20
_FACTOR = np.uint64(0x9E3779B97F4A7C15)
_SHIFT = np.uint64(64 - _BITS)


class Search:
    """Seeks some texts, given as bytes; they have at least ``LEAST`` of them."""

    def __init__(self, needles: Iterable[bytes]) -> None:
        # By width and beginning: the texts of each length.
        self._groups: dict[int, dict[bytes, dict[int, set[bytes]]]] = {8: {}, 4: {}}
        self._longest = 0
        for needle in needles:
            width = 8 if len(needle) >= 8 else 4
            lengths = self._groups[width].setdefault(needle[:width], {})
            lengths.setdefault(len(needle), set()).add(needle)
            self._longest = max(self._longest, len(needle))
        self._tables = {width: _table(width, group) for width, group in self._groups.items() if group}

    def found_in(self, parts: Iterator[bytes]) -> list[bytes]:
        """Return which texts stand in a file, given in parts; none is missed where it is cut in two."""
        found: dict[bytes, None] = {}
        tail = b""
        for part in parts:
            data = tail + part
            for width, table in self._tables.items():
                for at in _hits(data, width, table):
                    for length, needles in self._groups[width].get(data[at : at + width], {}).items():
                        if (text := data[at : at + length]) in needles:
                            found[text] = None
            tail = data[len(data) - self._longest + 1 :] if len(data) >= self._longest > 1 else data
        return list(found)


def _table(width: int, group: Iterable[bytes]) -> NDArray[np.bool_]:
    table = np.zeros(1 << _BITS, np.bool_)
    keys = np.array([int.from_bytes(prefix, "little") for prefix in group], np.uint64)
    table[_hashed(keys)] = True
    return table


def _hashed(keys: NDArray[np.uint64]) -> NDArray[np.uint64]:
    found: NDArray[np.uint64] = (keys * _FACTOR) >> _SHIFT
    return found


def _hits(data: bytes, width: int, table: NDArray[np.bool_]) -> Iterator[int]:
    """Yield every offset at which a beginning may stand."""
    form = np.dtype("<u8") if width == 8 else np.dtype("<u4")
    for shift in range(width):
        count = (len(data) - shift) // width
        if count > 0:
            keys = np.frombuffer(data[shift : shift + count * width], form).astype(np.uint64, copy=False)
            for number in np.flatnonzero(table[_hashed(keys)]).tolist():
                yield shift + number * width
