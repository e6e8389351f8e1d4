"""What a Mach-O executable is signed with: entitlements, team, the signing certificate.

Sources: Apple's public headers ``mach-o/loader.h``, ``mach-o/fat.h`` and ``kern/cs_blobs.h`` (CS_SuperBlob,
0xfade0cc0; entitlements, 0xfade7171; signature, 0xfade0b01).
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import Any, NamedTuple

from onomaxis.errors import FormatError
from onomaxis.formats.binary.plist import read_any_plist
from onomaxis.formats.binary.reader import Reader
from onomaxis.formats.binary.signatures import read_message

_FAT, _FAT64 = 0xCAFEBABE, 0xCAFEBABF
_THIN = {0xFEEDFACE: ("<", 28), 0xFEEDFACF: ("<", 32), 0xCEFAEDFE: (">", 28), 0xCFFAEDFE: (">", 32)}
_SIGNATURE = 0x1D
_SUPER, _ENTITLEMENTS, _MESSAGE = 0xFADE0CC0, 0xFADE7171, 0xFADE0B01
_MOST = 64
_MOST_COMMANDS = 10_000


class CodeSignature(NamedTuple):
    """Entitlements and the certificates of the signers (DER); empty where the executable has none."""

    entitlements: Mapping[str, Any]
    signers: tuple[bytes, ...]


# Takes an offset and a number of bytes, gives those bytes of the executable: it is too large to be read whole.
Window = Callable[[int, int], bytes]
_HEAD = 64 * 1024
_MOST_BYTES = 16 * 1024 * 1024


def read_code_signature(window: Window) -> CodeSignature | None:
    """Return the signature of an executable, None where it has none. Raises FormatError for what is damaged."""
    head = Reader(window(0, _HEAD), "the executable")
    for start in _slices(head):
        part = head if start == 0 else Reader(window(start, _HEAD), "the executable")
        spot = _signature_spot(part)
        if spot is not None:
            if spot[1] > _MOST_BYTES:
                raise FormatError("the code signature is larger than any that is made")
            return _read(Reader(window(start + spot[0], spot[1]), "the code signature"))
    return None


def _slices(reader: Reader) -> Iterator[int]:
    """Yield where each architecture's executable begins."""
    magic = reader.number(">I", 0) if len(reader) >= 4 else 0
    if magic not in (_FAT, _FAT64):
        yield 0
        return
    count = reader.number(">I", 4)
    if count > _MOST:
        raise FormatError("the executable lists more architectures than there are")
    for number in range(count):
        form, width = (">8xQ", 32) if magic == _FAT64 else (">8xI", 20)
        yield reader.number(form, 8 + width * number)


def _signature_spot(reader: Reader) -> tuple[int, int] | None:
    """Return offset and size of the code signature in one architecture's executable."""
    kind = _THIN.get(reader.number("<I", 0)) if len(reader) >= 32 else None
    if kind is None:
        return None
    order, at = kind
    count = reader.number(f"{order}I", 16)
    if count > _MOST_COMMANDS:
        raise FormatError("the executable lists more commands than it can hold")
    for _ in range(count):
        command, size = reader.unpack(f"{order}II", at)
        if command == _SIGNATURE:
            offset, long = reader.unpack(f"{order}II", at + 8)
            return offset, long
        if size < 8:
            raise FormatError("the executable is damaged")
        at += size
    return None


def _read(reader: Reader) -> CodeSignature:
    magic, _, count = reader.unpack(">III", 0)
    if magic != _SUPER or count > _MOST:
        raise FormatError("the code signature is damaged")
    entitlements: Mapping[str, Any] = {}
    signers: tuple[bytes, ...] = ()
    for number in range(count):
        at = reader.number(">4xI", 12 + 8 * number)
        kind, size = reader.unpack(">II", at)
        if kind in (_ENTITLEMENTS, _MESSAGE):
            body = bytes(reader.part(at, size).take(8, size - 8)) if size >= 8 else b""
            if kind == _ENTITLEMENTS:
                entitlements = read_any_plist(body, "the entitlements")
            elif body:
                signers = read_message(body, "the code signature").signers
    return CodeSignature(entitlements, signers)
