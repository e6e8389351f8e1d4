"""Every text in a package's files, wherever it stands: in lists, compiled resources, code, scripts, libraries.

A search through a file's bytes says whether it is worth a look; then the file is read by what it is, so that a text's
borders are known: lengths and marks that stand beside a text in compiled files often look like letters.
"""

from __future__ import annotations

import itertools
import struct
from collections.abc import Callable, Iterator, Mapping
from typing import Any

from onomaxis.errors import FormatError
from onomaxis.formats.binary.compiled_xml import is_compiled
from onomaxis.formats.binary.plist import read_any_plist
from onomaxis.formats.binary.reader import Reader
from onomaxis.formats.binary.signatures import read_message
from onomaxis.formats.binary.string_pool import CHUNK as POOL
from onomaxis.formats.binary.string_pool import StringPool, decoded
from onomaxis.formats.binary.wire import fields

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
_DEEPEST = 60


def is_silent(head: bytes) -> bool:
    """Tell whether a file that begins so holds no text of an app."""
    return head.startswith(_SILENT) or head[4:8] == b"ftyp"


def texts(name: str, data: bytes) -> Iterator[str]:
    """Yield the texts of a file. One that cannot be read as what it seems to be is taken as bytes."""
    for reader in _readers(name, data):
        try:
            yield from list(reader(data))
            return
        except (FormatError, struct.error, ValueError, RecursionError):
            continue


def _readers(name: str, data: bytes) -> Iterator[Callable[[bytes], Iterator[str]]]:
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


def _listed(data: bytes) -> Iterator[str]:
    yield from _in(read_any_plist(data, ""))


def _signed(data: bytes) -> Iterator[str]:
    yield from _in(read_any_plist(read_message(data, "").content, ""))


def _in(node: Any) -> Iterator[str]:
    """Yield the texts of a list, keys among them."""
    if isinstance(node, str):
        yield node
    elif isinstance(node, Mapping):
        yield from itertools.chain.from_iterable(_in(item) for pair in node.items() for item in pair)
    elif isinstance(node, list):
        yield from itertools.chain.from_iterable(_in(item) for item in node)


def _pooled(data: bytes) -> Iterator[str]:
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


def _messages(data: bytes) -> Iterator[str]:
    """Yield what may be text in a message, and in those within it: which is which, only its form could tell."""
    yield from _fields(memoryview(data), 0)


def _fields(data: memoryview, depth: int) -> Iterator[str]:
    inner = [value for _, value in fields(data, "the message") if isinstance(value, memoryview)]
    for value in inner:
        body = bytes(value)
        try:
            below = list(_fields(value, depth + 1)) if depth < _DEEPEST and body[:1] < b"\x20" else []
        except FormatError:
            below = []
        yield from below or [decoded(body)]


def _hermes(data: bytes) -> Iterator[str]:
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


def _raw(data: bytes) -> Iterator[str]:
    """Yield the runs of what could be text, in one byte a character and in two."""
    for run in data.translate(_BROKEN).split(b"\n"):
        if len(run) > 3:
            yield run.decode("utf-8", "replace")
    yield from _wide(data)


def _wide(data: bytes) -> Iterator[str]:
    """Yield runs of characters that take two bytes each."""
    for shift in (0, 1):
        even, odd = data[shift::2], data[shift + 1 :: 2]
        begin = None
        for at, (low, high) in enumerate(zip(even, odd, strict=False)):
            if high == 0 and 0x20 <= low < 0x7F:
                begin = at if begin is None else begin
            elif begin is not None:
                if at - begin > 3:
                    yield even[begin:at].decode("ascii")
                begin = None


def _plain(data: bytes) -> Iterator[str]:
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        yield data.decode("utf-16", "replace")
    else:
        yield data.decode("utf-8", "replace")
