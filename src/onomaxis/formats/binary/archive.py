"""ZIP archives as packages use them: the directory is read once, entries when they are asked for.

Source: PKWARE, "APPNOTE.TXT - .ZIP File Format Specification" 6.3 (4.3 structure, 4.5 extra fields). The platforms
read what the central directory says; what contradicts it, hides in it or multiplies is refused.
"""

from __future__ import annotations

import mmap
import struct
import zlib
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from onomaxis.errors import FormatError
from onomaxis.formats.binary.reader import Reader

_END, _END64, _LOCATOR = b"PK\x05\x06", b"PK\x06\x06", b"PK\x06\x07"
_CENTRAL = struct.Struct("<4s6H3I5H2I")
_LOCAL = struct.Struct("<4s5H3I2H")
_MAGIC = (b"PK\x03\x04", _END)
_STORED, _DEFLATED = 0, 8
_ENCRYPTED = 1
# Far more than the largest apps hold: beyond it an archive is made to be costly.
MOST_ENTRIES = 250_000
# The largest entry that is taken into memory whole, in bytes.
MOST_BYTES = 96 * 1024 * 1024
# Larger entries that shrank by more than this factor are no content: text shrinks to a tenth, empty pictures to less.
_LARGE, _MOST_SHRUNK = 48 * 1024 * 1024, 150
_LARGE_ALL, _MOST_SHRUNK_ALL = 512 * 1024 * 1024, 60
_CHUNK = 1024 * 1024
_WIDE = 0xFFFFFFFF


class Entry(NamedTuple):
    """One entry as the central directory lists it; sizes in bytes, ``offset`` is that of its local header."""

    name: str
    method: int
    flags: int
    crc: int
    packed: int
    size: int
    offset: int


class Archive:
    """A ZIP archive. Raises FormatError for one that is damaged, or made to mislead or to be costly."""

    def __init__(self, data: bytes | memoryview | mmap.mmap) -> None:
        self.raw = memoryview(data)
        self._reader = Reader(self.raw, "the archive")
        start, size, count, end = self._directory()
        self.directory_offset, self.end_offset = start, end
        self.entries = {item.name: item for item in self._listed(start, size, count)}
        self._refuse_overlaps(start)
        self._refuse_growth()

    @classmethod
    def open(cls, path: Path) -> Archive:
        """Open a file. Raises OSError, FormatError."""
        with path.open("rb") as file:
            if path.stat().st_size == 0:
                raise FormatError("the file is empty")
            return cls(mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ))

    def names(self) -> list[str]:
        """Return the names of all files, in the directory's order."""
        return [name for name in self.entries if not name.endswith("/")]

    def __contains__(self, name: str) -> bool:
        return name in self.entries

    def _entry(self, name: str) -> Entry:
        entry = self.entries.get(name)
        if entry is None:
            raise FormatError(f"{name} is missing")
        return entry

    def size(self, name: str) -> int:
        """Return the size of an entry as it is unpacked."""
        return self._entry(name).size

    def packed(self, name: str) -> int:
        """Return how many bytes an entry takes in the archive."""
        return self._entry(name).packed

    def read(self, name: str, most: int = MOST_BYTES) -> bytes:
        """Return an entry's bytes. Raises FormatError where they are more than *most*, or not what was listed."""
        entry = self._entry(name)
        if entry.size > most:
            raise FormatError(f"{name} holds {entry.size:,} bytes: too large to be read")
        return b"".join(self._checked(entry))

    def head(self, name: str, count: int) -> bytes:
        """Return the first bytes of an entry, not held against its checksum."""
        found = b""
        for part in self._unpacked(self._entry(name), max(count, 64)):
            found += part
            if len(found) >= count:
                break
        return found[:count]

    def chunks(self, name: str) -> Iterator[bytes]:
        """Yield an entry's bytes in parts of at most a megabyte."""
        yield from self._checked(self._entry(name))

    def window(self, name: str, at: int, count: int) -> bytes:
        """Return *count* bytes of an entry from *at* on, fewer at its end: the rest is not kept."""
        return cut_out(self._unpacked(self._entry(name), _CHUNK), at, count)

    def stored_at(self, name: str) -> memoryview:
        """Return the packed bytes of an entry."""
        entry = self._entry(name)
        signature, _, _, _, _, _, _, _, _, long, extra = _LOCAL.unpack(self._reader.take(entry.offset, _LOCAL.size))
        if signature != _MAGIC[0]:
            raise FormatError(f"{name}: there is no entry where the directory says")
        at = entry.offset + _LOCAL.size
        if bytes(self._reader.take(at, long)) != _raw_name(entry):
            raise FormatError(f"{name}: the entry is called otherwise where it lies")
        return self._reader.take(at + long + extra, entry.packed)

    # -- the directory

    def _directory(self) -> tuple[int, int, int, int]:
        """Return offset, size and number of entries of the central directory, and the offset of the end's record."""
        tail = max(0, len(self.raw) - 22 - 65535)
        at = bytes(self.raw[tail:]).rfind(_END)
        if at < 0:
            raise FormatError("this is not a ZIP archive, or its end is missing")
        at += tail
        count, size, start = self._reader.unpack("<HII", at + 10)
        if at >= 20 and bytes(self.raw[at - 20 : at - 16]) == _LOCATOR:
            wide = self._reader.number("<Q", at - 20 + 8)
            if bytes(self._reader.take(wide, 4)) != _END64:
                raise FormatError("the archive's 64-bit directory is not where it is said to be")
            count, size, start = self._reader.unpack("<QQQ", wide + 32)
        if count > MOST_ENTRIES:
            raise FormatError(f"the archive lists {count:,} entries: too many")
        if start + size > at or count * _CENTRAL.size > size:
            raise FormatError("the archive's directory is cut off or damaged")
        return start, size, count, at

    def _listed(self, start: int, size: int, count: int) -> Iterator[Entry]:
        seen: set[str] = set()
        at, end = start, start + size
        data = self._reader.take(start, size).tobytes()
        for _ in range(count):
            fields = _CENTRAL.unpack_from(data, at - start) if at + _CENTRAL.size <= end else (b"",) * 17
            if fields[0] != b"PK\x01\x02":
                raise FormatError("the archive's directory is cut off or damaged")
            flags, method, crc, packed, full = fields[3], fields[4], fields[7], fields[8], fields[9]
            long, extra, comment, offset = fields[10], fields[11], fields[12], fields[16]
            begin = at - start + _CENTRAL.size
            raw = data[begin : begin + long]
            if _WIDE in (packed, full, offset):
                packed, full, offset = _widened(data[begin + long : begin + long + extra], packed, full, offset)
            name = _name(raw)
            if name in seen:
                raise FormatError(f"{name} stands in the archive twice")
            seen.add(name)
            if full > _LARGE and full > packed * _MOST_SHRUNK:
                raise FormatError(f"{name} grows from {packed:,} to {full:,} bytes: it is made to fill the memory")
            yield Entry(name, method, flags, crc, packed, full, offset)
            at += _CENTRAL.size + long + extra + comment

    def _refuse_overlaps(self, directory: int) -> None:
        """Refuse entries that share bytes: one packed stretch could be unpacked many times."""
        free = 0
        for entry in sorted(self.entries.values(), key=lambda item: item.offset):
            if entry.offset < free:
                raise FormatError(f"{entry.name} lies over another entry of the archive")
            free = entry.offset + _LOCAL.size + len(_raw_name(entry)) + entry.packed
            if free > directory:
                raise FormatError(f"{entry.name} lies beyond the entries of the archive")

    def _refuse_growth(self) -> None:
        """Refuse what is small entry by entry, and all in all would fill a disk."""
        packed, size = (sum(getattr(entry, key) for entry in self.entries.values()) for key in ("packed", "size"))
        if size > _LARGE_ALL and size > packed * _MOST_SHRUNK_ALL:
            raise FormatError(f"the archive grows from {packed:,} to {size:,} bytes: it is made to fill the memory")

    # -- the entries

    def _checked(self, entry: Entry) -> Iterator[bytes]:
        """Yield what an entry holds; raise FormatError where it is not what the directory says."""
        crc, size = 0, 0
        for part in self._unpacked(entry, _CHUNK):
            crc = zlib.crc32(part, crc)
            size += len(part)
            if size > entry.size:
                break
            yield part
        if size != entry.size or crc != entry.crc:
            raise FormatError(f"{entry.name} does not hold what the archive's directory says of it: it is damaged")

    def _unpacked(self, entry: Entry, step: int) -> Iterator[bytes]:
        if entry.flags & _ENCRYPTED:
            raise FormatError(f"{entry.name} is encrypted")
        packed = self.stored_at(entry.name)
        if entry.method == _STORED:
            for at in range(0, len(packed), step):
                yield packed[at : at + step].tobytes()
            return
        if entry.method != _DEFLATED:
            raise FormatError(f"{entry.name} is packed in a way that the platforms do not read ({entry.method})")
        engine = zlib.decompressobj(-15)
        pending: bytes | memoryview = packed
        try:
            while not engine.eof:
                part = engine.decompress(pending, step)
                pending = engine.unconsumed_tail
                if not part and not pending:
                    break
                yield part
        except zlib.error:
            raise FormatError(f"{entry.name} cannot be unpacked: it is damaged") from None


def is_archive(head: bytes) -> bool:
    """Tell whether a file begins as a ZIP archive does."""
    return head[:4] in _MAGIC


def cut_out(parts: Iterator[bytes], at: int, count: int) -> bytes:
    """Return *count* bytes from *at* on out of parts in a row."""
    found, begin = [], 0
    for part in parts:
        end = begin + len(part)
        if end > at:
            found.append(part[max(0, at - begin) : at + count - begin])
        if end >= at + count:
            break
        begin = end
    return b"".join(found)


def _raw_name(entry: Entry) -> bytes:
    return entry.name.encode("utf-8", "surrogateescape")


def _name(raw: bytes) -> str:
    """Return an entry's name: UTF-8, which the platforms' tools write without saying so.

    Raises FormatError for a name that leads out of the folder it would be unpacked into.
    """
    name = raw.decode("utf-8", "surrogateescape")
    parts = name.rstrip("/").split("/")
    if "\\" in name or "\0" in name or name.startswith("/") or ".." in parts or not name or name[1:2] == ":":
        raise FormatError(f"the archive holds an entry with the name “{name[:80]}”, which leads elsewhere")
    return name


def _widened(extra: bytes, packed: int, full: int, offset: int) -> tuple[int, int, int]:
    """Return sizes and offset of an entry that states them in 64 bits (4.5.3)."""
    at = 0
    while at + 4 <= len(extra):
        kind, long = struct.unpack_from("<HH", extra, at)
        if kind == 1:
            field = Reader(extra[at + 4 : at + 4 + long], "an entry's 64-bit field")
            values, spot = [], 0
            for value in (full, packed, offset):
                wide = value == _WIDE
                values.append(field.number("<Q", spot) if wide else value)
                spot += 8 if wide else 0
            return values[1], values[0], values[2]
        at += 4 + long
    raise FormatError("an entry's 64-bit sizes are missing")
