"""Numbers out of bytes that nobody vouches for: every read is inside, or a FormatError."""

from __future__ import annotations

import struct

from onomaxis.errors import FormatError


class Reader:
    """A view of bytes; offsets are absolute, and what lies outside is refused."""

    __slots__ = ("data", "size", "what")

    def __init__(self, data: bytes | memoryview, what: str) -> None:
        self.data = memoryview(data)
        self.size = len(self.data)
        self.what = what

    def __len__(self) -> int:
        return self.size

    def unpack(self, form: str, at: int) -> tuple[int, ...]:
        """Return numbers as ``struct.unpack_from`` does. Raises FormatError beyond the end."""
        try:
            if at < 0:
                raise FormatError(f"{self.what} points before its beginning")
            return struct.unpack_from(form, self.data, at)
        except struct.error:
            raise FormatError(f"{self.what} ends too early") from None

    def number(self, form: str, at: int) -> int:
        """Return one number."""
        return self.unpack(form, at)[0]

    def take(self, at: int, count: int) -> memoryview:
        """Return *count* bytes from *at* on. Raises FormatError where there are fewer."""
        if at < 0 or count < 0 or at + count > self.size:
            raise FormatError(f"{self.what} points beyond its end")
        return self.data[at : at + count]

    def part(self, at: int, count: int, what: str = "") -> Reader:
        """Return a reader of a stretch, whose offsets begin at zero."""
        return Reader(self.take(at, count), what or self.what)
