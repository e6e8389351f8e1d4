"""Tables of resources as packages hold them (``resources.arsc``).

Source: ``ResourceTypes.h`` (``ResTable_header``, ``ResTable_package``, ``ResTable_type``, ``ResTable_entry``):
offsets of 32 bits, of 16 bits, sparse; entries plain, compact, and of several values. Values are read when they are
asked for.
"""

from __future__ import annotations

import struct
from collections.abc import Iterator
from typing import NamedTuple

from onomaxis.errors import FormatError
from onomaxis.formats.binary.reader import Reader
from onomaxis.formats.binary.string_pool import CHUNK as POOL
from onomaxis.formats.binary.string_pool import StringPool
from onomaxis.formats.binary.values import STRING, Config, Typed

_TABLE, _PACKAGE, _TYPE = 0x0002, 0x0200, 0x0201
_SPARSE, _SHORT = 0x01, 0x02
_COMPLEX, _COMPACT = 0x0001, 0x0008
_NONE, _NONE_SHORT = 0xFFFFFFFF, 0xFFFF
_MOST_CHUNKS = 200_000


class _Type(NamedTuple):
    """The values of one type in one configuration."""

    reader: Reader
    config: Config
    flags: int
    size: int
    header: int
    start: int

    def spots(self) -> Iterator[tuple[int, int]]:
        """Yield number and offset of every entry that is there."""
        if self.flags & _SPARSE:
            for number in range(self.size):
                entry, offset = self.reader.unpack("<HH", self.header + 4 * number)
                yield entry, self.start + offset * 4
            return
        short = bool(self.flags & _SHORT)
        form, none, scale = ("H", _NONE_SHORT, 4) if short else ("I", _NONE, 1)
        for number, offset in enumerate(self.reader.unpack(f"<{self.size}{form}", self.header)):
            if offset != none:
                yield number, self.start + offset * scale

    def spot(self, number: int) -> int | None:
        """Return the offset of an entry, None where there is none."""
        if self.flags & _SPARSE:
            return next((spot for entry, spot in self.spots() if entry == number), None)
        if number >= self.size:
            return None
        if self.flags & _SHORT:
            offset = self.reader.number("<H", self.header + 2 * number)
            return None if offset == _NONE_SHORT else self.start + offset * 4
        offset = self.reader.number("<I", self.header + 4 * number)
        return None if offset == _NONE else self.start + offset


class ResourceTable:
    """One table. Raises FormatError."""

    def __init__(self, data: bytes) -> None:
        reader = Reader(data, "the table of resources")
        kind, header, size = reader.unpack("<HHI", 0)
        if kind != _TABLE or size > len(reader):
            raise FormatError("the table of resources is cut off or damaged")
        self._pool: StringPool | None = None
        self._types: dict[tuple[int, int], list[_Type]] = {}
        self._kinds: dict[str, list[tuple[int, int]]] = {}
        self._keys: dict[int, StringPool] = {}
        for at, kind, long in _chunks(reader, header, size):
            if kind == POOL and self._pool is None:
                self._pool = StringPool(reader.part(at, long))
            elif kind == _PACKAGE:
                self._take_package(reader.part(at, long))

    def values(self, identifier: int) -> list[tuple[Config, Typed]]:
        """Return the values of a resource; one of several values is none. The first of a configuration counts."""
        package, kind, number = identifier >> 24, (identifier >> 16) & 0xFF, identifier & 0xFFFF
        found: dict[Config, tuple[Config, Typed]] = {}
        for item in self._types.get((package, kind), ()):
            spot = item.spot(number)
            value = self._value(item.reader, spot) if spot is not None else None
            if value is not None and (item.config not in found or item.config.more):
                key = item.config if not item.config.more else Config(str(len(found)), more=True)
                found[key] = (item.config, value)
        return list(found.values())

    def named(self, kind: str, names: frozenset[str]) -> dict[str, int]:
        """Return the identifiers of resources of a type by their names."""
        found: dict[str, int] = {}
        for package, number in self._kinds.get(kind, ()):
            keys = self._keys[package]
            wanted = {index: name for index in range(len(keys)) if (name := keys[index]) in names}
            for item in self._types.get((package, number), ()) if wanted else ():
                if len(found) == len(wanted):
                    break  # further configurations have no others
                for entry, spot in item.spots():
                    key = self._key(item.reader, spot)
                    if key in wanted:
                        found.setdefault(wanted[key], package << 24 | number << 16 | entry)
        return found

    def _take_package(self, reader: Reader) -> None:
        _, header, size = reader.unpack("<HHI", 0)
        package, kinds_at, keys_at = reader.number("<I", 8), *reader.unpack("<I4xI", 268)
        base = reader.number("<I", 284) if header >= 288 else 0
        kinds = StringPool(reader.part(kinds_at, len(reader) - kinds_at))
        self._keys.setdefault(package, StringPool(reader.part(keys_at, len(reader) - keys_at)))
        for number in range(len(kinds)):
            self._kinds.setdefault(kinds[number], []).append((package, number + 1 + base))
        for at, kind, long in _chunks(reader, header, size):
            if kind == _TYPE:
                item = reader.part(at, long)
                number, flags, count, start = item.unpack("<BB2xII", 8)
                inner = item.number("<H", 2)
                config = read_config(item.part(20, inner - 20))
                found = _Type(item, config, flags, count, inner, start)
                self._types.setdefault((package, number), []).append(found)

    def _key(self, reader: Reader, spot: int) -> int:
        first, flags, key = reader.unpack("<HHI", spot)
        return first if flags & _COMPACT else key

    def _value(self, reader: Reader, spot: int) -> Typed | None:
        first, flags = reader.unpack("<HH", spot)
        if flags & _COMPACT:
            kind, data = flags >> 8, reader.number("<I", spot + 4)
        elif flags & _COMPLEX:
            return None
        else:
            kind, data = reader.unpack("<xxxBI", spot + first)
        if kind == STRING and self._pool is None:
            raise FormatError("the table of resources lacks its strings")
        return Typed(kind, data, self._pool[data] if kind == STRING and self._pool is not None else "")


def _chunks(reader: Reader, at: int, end: int) -> Iterator[tuple[int, int, int]]:
    """Yield offset, type and size of each chunk in a row."""
    for _ in range(_MOST_CHUNKS):
        if at + 8 > end:
            return
        kind, header, size = reader.unpack("<HHI", at)
        if size < 8 or header > size or at + size > end:
            raise FormatError(f"{reader.what} is cut off or damaged")
        yield at, kind, size
        at += size
    raise FormatError(f"{reader.what} holds more parts than any app needs")


# The bytes of a configuration that say language, density and level; a bit anywhere else is another qualifier.
_LOCALE, _DENSITY, _LEVEL, _SCRIPT = slice(8, 12), slice(14, 16), slice(24, 28), slice(36, 48)
# Where the builder noted what it worked out by itself: of no meaning for a match.
_WORKED_OUT = 52


def read_config(reader: Reader) -> Config:
    """Read a ``ResTable_config``, of any age's size."""
    size = reader.number("<I", 0)
    data = bytes(reader.take(0, min(size, len(reader)))).ljust(64, b"\0")
    rest = bytearray(data[4:64])
    for part in (_LOCALE, _DENSITY, _LEVEL, _SCRIPT):
        begin, end = part.start - 4, part.stop - 4
        rest[begin:end] = bytes(end - begin)
    rest[_WORKED_OUT - 4] = 0
    density, level = struct.unpack_from("<H8xH", data, 14)
    return Config(_locale(data), density, level, any(rest))


def _locale(data: bytes) -> str:
    """Return the language as BCP 47 writes it: language, script, region, variant."""
    language, region = _letters(data[8:10], "a"), _letters(data[10:12], "0")
    script = "" if data[_WORKED_OUT] else data[36:40].rstrip(b"\0").decode("ascii", "replace")
    variant = data[40:48].rstrip(b"\0").decode("ascii", "replace")
    return "-".join(part for part in (language, script, region.upper(), variant) if part) if language else ""


def _letters(pair: bytes, base: str) -> str:
    """Return a language or region: two letters, or three of five bits each."""
    if not pair[0] & 0x80:
        return pair.rstrip(b"\0").decode("ascii", "replace")
    packed = (pair[1] & 0x1F, (pair[1] & 0xE0) >> 5 | (pair[0] & 0x03) << 3, (pair[0] & 0x7C) >> 2)
    return "".join(chr(ord(base) + value) for value in packed)
