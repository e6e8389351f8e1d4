"""The size of a picture and whether it has an alpha channel, from its first bytes: nothing is decoded.

Sources: W3C, "Portable Network Graphics" (IHDR, tRNS); Google, "WebP Container Specification"; ITU T.81 (JPEG).
Apple's build tools put a chunk of their own (CgBI) before a PNG's first.
"""

from __future__ import annotations

import struct
from typing import NamedTuple

# So many bytes tell all of it, unless a colour profile or a thumbnail stands before.
HEAD = 64 * 1024
_PNG = b"\x89PNG\r\n\x1a\n"
_FRAMES = frozenset(range(0xC0, 0xD0)) - {0xC4, 0xC8, 0xCC}
_MOST_CHUNKS = 1000


class Picture(NamedTuple):
    """Width and height in pixels, whether there is an alpha channel."""

    width: int
    height: int
    alpha: bool


def measure(head: bytes) -> Picture | None:
    """Return what a picture's first bytes say; None for what is not a PNG, WebP, JPEG or GIF."""
    try:
        if head.startswith(_PNG):
            return _png(head)
        if head[:4] == b"RIFF" and head[8:12] == b"WEBP":
            return _webp(head)
        if head[:2] == b"\xff\xd8":
            return _jpeg(head)
        if head[:6] in (b"GIF87a", b"GIF89a"):
            wide, high = struct.unpack_from("<HH", head, 6)
            return Picture(wide, high, b"\x21\xf9\x04\x01" in head[:1024])
    except struct.error:
        return None
    return None


def _png(head: bytes) -> Picture | None:
    at, found, clear = 8, None, False
    for _ in range(_MOST_CHUNKS):
        if at + 8 > len(head):
            break
        long, name = struct.unpack_from(">I4s", head, at)
        if name == b"IHDR":
            width, height, _, kind = struct.unpack_from(">IIBB", head, at + 8)
            found, clear = (width, height), kind in (4, 6)
        clear = clear or name == b"tRNS"
        if name == b"IDAT":
            break
        at += 12 + long
    return Picture(found[0], found[1], clear) if found else None


def _webp(head: bytes) -> Picture | None:
    kind = head[12:16]
    if kind == b"VP8X" and len(head) >= 30:
        wide, high = (int.from_bytes(head[at : at + 3], "little") + 1 for at in (24, 27))
        return Picture(wide, high, bool(head[20] & 0x10))
    if kind == b"VP8L":
        (bits,) = struct.unpack_from("<I", head, 21)
        return Picture((bits & 0x3FFF) + 1, (bits >> 14 & 0x3FFF) + 1, bool(bits >> 28 & 1))
    if kind == b"VP8 ":
        wide, high = struct.unpack_from("<HH", head, 26)
        return Picture(wide & 0x3FFF, high & 0x3FFF, False)
    return None


def _jpeg(head: bytes) -> Picture | None:
    at = 2
    for _ in range(_MOST_CHUNKS):
        mark, kind, long = struct.unpack_from(">BBH", head, at)
        if mark != 0xFF or long < 2:
            return None
        if kind in _FRAMES:
            high, wide = struct.unpack_from(">HH", head, at + 5)
            return Picture(wide, high, False)
        at += 2 + long
    return None
