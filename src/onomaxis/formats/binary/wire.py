"""Protocol buffers, as bytes: the fields of a message, in their order.

Source: protobuf.dev, "Encoding". The bundle's own messages are few, and read lazily: generated classes would decode a
whole table of resources, and bring a library for six messages.
"""

from __future__ import annotations

from collections.abc import Iterator

from onomaxis.errors import FormatError

Value = int | memoryview
_VARINT, _FIXED64, _BYTES, _FIXED32 = 0, 1, 2, 5


def fields(data: memoryview, what: str) -> Iterator[tuple[int, Value]]:
    """Yield number and value of each field: a number, or the bytes of a text or message. Raises FormatError."""
    at, size = 0, len(data)
    while at < size:
        key, at = _varint(data, at, what)
        kind = key & 7
        if kind == _VARINT:
            value, at = _varint(data, at, what)
            yield key >> 3, value
            continue
        if kind == _BYTES:
            long, at = _varint(data, at, what)
        elif kind in (_FIXED32, _FIXED64):
            long = 4 if kind == _FIXED32 else 8
        else:
            raise FormatError(f"{what} is damaged")
        if at + long > size:
            raise FormatError(f"{what} is cut off or damaged")
        part = data[at : at + long]
        yield key >> 3, part if kind == _BYTES else int.from_bytes(part, "little")
        at += long


def _varint(data: memoryview, at: int, what: str) -> tuple[int, int]:
    value = shift = 0
    while True:
        if at >= len(data) or shift > 63:
            raise FormatError(f"{what} is cut off or damaged")
        byte = data[at]
        at += 1
        value |= (byte & 0x7F) << shift
        if byte < 0x80:
            return value, at
        shift += 7


def first(data: memoryview, number: int, what: str) -> Value | None:
    """Return the first value of a field, None where there is none."""
    return next((value for found, value in fields(data, what) if found == number), None)


def messages(data: memoryview, number: int, what: str) -> Iterator[memoryview]:
    """Yield the values of a repeated field that are messages or texts."""
    yield from (value for found, value in fields(data, what) if found == number and isinstance(value, memoryview))


def text(value: Value | None) -> str:
    """Return a text."""
    return bytes(value).decode("utf-8", "replace") if isinstance(value, memoryview) else ""


def whole(value: Value | None, otherwise: int = 0) -> int:
    """Return a number."""
    return value if isinstance(value, int) else otherwise
