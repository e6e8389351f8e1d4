"""Pools of strings in compiled resources, UTF-8 and UTF-16.

Source: ``ResourceTypes.h`` (``ResStringPool_header``).
"""

from __future__ import annotations

from onomaxis.errors import FormatError
from onomaxis.formats.binary.reader import Reader

CHUNK = 0x0001
_UTF8 = 0x100


class StringPool:
    """A pool; a string is decoded when it is asked for."""

    def __init__(self, reader: Reader) -> None:
        """Read the header of a pool that begins where *reader* does. Raises FormatError."""
        kind, header, size = reader.unpack("<HHI", 0)
        if kind != CHUNK or size > len(reader):
            raise FormatError("there is no pool of strings where one belongs")
        self._reader = reader.part(0, size, "a pool of strings")
        count, _, flags, start, _ = self._reader.unpack("<5I", 8)
        if header + 4 * count > size:
            raise FormatError("a pool of strings counts more than it holds")
        self._count, self._start, self._offsets = count, start, header
        self.wide = not flags & _UTF8
        self._known: dict[int, str] = {}

    def __len__(self) -> int:
        return self._count

    def __getitem__(self, number: int) -> str:
        known = self._known.get(number)
        if known is None:
            known = self._known[number] = self._decoded(number)
        return known

    def text(self, number: int) -> str:
        """Return a string; empty where the number says that there is none."""
        return "" if number == 0xFFFFFFFF else self[number]

    def _decoded(self, number: int) -> str:
        if not 0 <= number < self._count:
            raise FormatError("a string beyond its pool is named")
        at = self._start + self._reader.number("<I", self._offsets + 4 * number)
        if self.wide:
            length, at = self._long(at, "<H", 2, 0x8000, 16)
            return bytes(self._reader.take(at, length * 2)).decode("utf-16-le", "replace")
        _, at = self._long(at, "<B", 1, 0x80, 8)
        length, at = self._long(at, "<B", 1, 0x80, 8)
        return decoded(bytes(self._reader.take(at, length)))

    def _long(self, at: int, form: str, width: int, mark: int, bits: int) -> tuple[int, int]:
        first = self._reader.number(form, at)
        if not first & mark:
            return first, at + width
        return ((first & (mark - 1)) << bits) | self._reader.number(form, at + width), at + 2 * width


def decoded(data: bytes) -> str:
    """Decode UTF-8 whose characters beyond the first plane may be written as two halves, as Java writes them."""
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError:
        halves = data.decode("utf-8", "surrogatepass" if b"\xed" in data else "replace")
        return halves.encode("utf-16", "surrogatepass").decode("utf-16", "replace")
