"""Every text in a package's files, wherever it stands: in lists, compiled resources, code, scripts, libraries.

A search through a file's bytes says whether it is worth a look; then the file is read by what it is, so that a text's
borders are known: lengths and marks that stand beside a text in compiled files often look like letters.
"""

from __future__ import annotations

import itertools
import struct
from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Any

from onomaxis import late
from onomaxis.errors import FormatError
from onomaxis.formats.binary.compiled_xml import is_compiled
from onomaxis.formats.binary.plist import read_any_plist
from onomaxis.formats.binary.reader import Reader
from onomaxis.formats.binary.signatures import read_message
from onomaxis.formats.binary.string_pool import CHUNK as POOL
from onomaxis.formats.binary.string_pool import StringPool, decoded

# What can hold no text of an app: pictures, fonts, sounds, films, archives in an archive, catalogs.
_SILENT = (
    b"\x89PNG",
    b"\xff\xd8\xff",
    b"GIF8",
    b"RIFF",
    b"OggS",
    b"ID3",
    b"\0\1\0\0\0",
    b"OTTO",
    b"wOF",
    b"PK\x03\x04",
    b"\x1f\x8b",
    b"BOMStore",
)
_HERMES = 0x1F1903C103BC1FC6


def is_silent(head: bytes) -> bool:
    """Tell whether a file that begins so holds no text of an app."""
    return head.startswith(_SILENT) or head[4:8] == b"ftyp"


Needles = Sequence[bytes]
TextReader = Callable[[bytes, Needles], Iterator[str]]


def texts(name: str, data: bytes, needles: Needles) -> Iterator[str]:
    """Yield the texts of a file in which *needles* may stand.

    One that cannot be read as what it seems to be is taken as bytes; of what has no form of its own, only the
    neighbourhoods of the needles are looked at.
    """
    for reader in _readers(name, data):
        try:
            yield from list(reader(data, needles))
            return
        except (FormatError, struct.error, ValueError, RecursionError):
            continue


def _readers(name: str, data: bytes) -> Iterator[TextReader]:
    if data.startswith(b"bplist"):
        yield _listed
    elif is_compiled(data) or data[:4] in (b"\x02\x00\x0c\x00",):
        yield _pooled
    elif data[:8] == struct.pack("<Q", _HERMES):
        yield _hermes
    elif name.endswith((".pb", "/manifest/AndroidManifest.xml")) or (name.endswith(".xml") and data[:1] == b"\x0a"):
        yield _messages
    elif data[:1] == b"\x30" and name.endswith((".mobileprovision", ".provisionprofile")):
        yield _signed
    elif b"\0" in data[:4096]:
        yield _raw
    yield _plain


def _listed(data: bytes, needles: Needles) -> Iterator[str]:
    yield from _in(read_any_plist(data, ""))


def _signed(data: bytes, needles: Needles) -> Iterator[str]:
    yield from _in(read_any_plist(read_message(data, "").content, ""))


def _in(node: Any) -> Iterator[str]:
    """Yield the texts of a list, keys among them."""
    if isinstance(node, str):
        yield node
    elif isinstance(node, Mapping):
        yield from itertools.chain.from_iterable(_in(item) for pair in node.items() for item in pair)
    elif isinstance(node, list):
        yield from itertools.chain.from_iterable(_in(item) for item in node)


def _pooled(data: bytes, needles: Needles) -> Iterator[str]:
    """Yield the strings of every pool of a compiled file, and what its packages are called."""
    pending = [Reader(data, "the compiled file")]
    while pending:
        reader = pending.pop()
        _, at, _ = reader.unpack("<HHI", 0)
        while at + 8 <= len(reader):
            kind, _, size = reader.unpack("<HHI", at)
            if size < 8:
                raise FormatError("a part of no size")
            part = reader.part(at, size)
            if kind == POOL:
                pool = StringPool(part)
                yield from (pool[number] for number in range(len(pool)))
            elif kind == 0x0200:
                yield bytes(part.take(12, 256)).decode("utf-16-le", "replace").partition("\0")[0]
                pending.append(part)
            at += size


# How far before and behind a needle is looked: no ID, host or name is as long.
_NEAR = 400
# Places of one needle in one file that are looked at: the first tell what all of them do.
_MOST_PLACES = 2000


def _places(data: bytes, needles: Needles) -> Iterator[tuple[int, int]]:
    """Yield where needles stand: begin and end."""
    for needle in needles:
        at = data.find(needle)
        for _ in range(_MOST_PLACES):
            if at < 0:
                break
            yield at, at + len(needle)
            at = data.find(needle, at + 1)


def _messages(data: bytes, needles: Needles) -> Iterator[str]:
    """Yield the texts of a message, at whatever depth: the length that stands before each tells its borders."""
    for begin, end in _places(data, needles):
        found = next(_prefixed(data, begin, end), None)
        yield found if found is not None else decoded(data[begin:end])


def _prefixed(data: bytes, begin: int, end: int) -> Iterator[str]:
    """Yield what a length right before it, of one byte or two, makes a text around a stretch; the nearest first."""
    for start in range(begin, max(1, begin - _NEAR), -1):
        last = data[start - 1]
        long = last if start < 2 or data[start - 2] < 0x80 else (data[start - 2] & 0x7F) | last << 7
        for length in dict.fromkeys((last, long)):
            body = data[start : start + length]
            if length < 0x4000 and start + length >= end and len(body) == length and min(body, default=0) >= 0x20:
                yield decoded(body)


def _hermes(data: bytes, needles: Needles) -> Iterator[str]:
    """Yield the strings of compiled JavaScript: they lie in one another, so only the table tells their borders.

    Source: the engine's public header of its file form (``BytecodeFileFormat.h``).
    """
    reader = Reader(data, "the compiled script")
    for width in _FUNCTION_WIDTHS:
        try:
            yield from list(_hermes_strings(reader, width))
            return
        except FormatError:
            continue
    raise FormatError("the compiled script is of a form that is not read")


# Bytes that a function takes in the table before that of the strings, by the form's age.
_FUNCTION_WIDTHS = (16, 12)


def _hermes_strings(reader: Reader, width: int) -> Iterator[str]:
    functions, kinds, identifiers, count, overflow, storage = reader.unpack("<6I", 40)
    at = 128 + width * functions + 4 * kinds + 4 * identifiers
    long = at + 4 * count
    start = long + 8 * overflow
    start += -start % 4
    for number in range(count):
        entry = reader.number("<I", at + 4 * number)
        is_wide, offset, length = entry & 1, entry >> 1 & 0x7FFFFF, entry >> 24
        if length == 0xFF:
            offset, length = reader.unpack("<II", long + 8 * offset)
        if offset + length * (1 + is_wide) > storage:
            raise FormatError("a string beyond the compiled script's own")
        body = bytes(reader.take(start + offset, length * (1 + is_wide)))
        yield body.decode("utf-16-le" if is_wide else "latin-1", "replace")


# What may stand in a text that was found among other bytes.
_TEXT = bytes(range(0x20, 0x7F)) + bytes(range(0x80, 0x100))
_BREAK = bytes(byte for byte in range(256) if byte not in _TEXT)
_BROKEN = bytes.maketrans(_BREAK, b"\n" * len(_BREAK))


def _raw(data: bytes, needles: Needles) -> Iterator[str]:
    """Yield the runs of what could be text round the needles, in one byte a character and in two."""
    for begin, end in _places(data, needles):
        wide = data[begin + 1 : begin + 2] == b"\0"
        start, stop = max(0, begin - _NEAR), end + _NEAR
        if wide:
            start += (begin - start) % 2
            yield from (run[::2].decode("ascii") for run in _WIDE.findall(data[start:stop]))
        else:
            runs = data[start:stop].translate(_BROKEN).split(b"\n")
            yield from (run.decode("utf-8", "replace") for run in runs if len(run) > 3)


_WIDE = late.compile(rb"(?:[\x20-\x7e]\0){4,}")


def _plain(data: bytes, needles: Needles) -> Iterator[str]:
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        yield data.decode("utf-16", "replace")
    elif len(data) <= _SHORT:
        yield data.decode("utf-8", "replace")
    else:
        for begin, end in _places(data, needles):
            yield data[max(0, begin - _NEAR) : end + _NEAR].decode("utf-8", "replace")


# A text file of up to so many bytes is looked at whole.
_SHORT = 1024 * 1024
