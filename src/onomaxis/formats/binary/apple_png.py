"""The PNG variant of Apple's build tools: blue first, colours multiplied by alpha, packed without a wrapper.

It is marked by a chunk CgBI before the header (W3C, "Portable Network Graphics", describes everything else).
"""

from __future__ import annotations

import struct
import zlib

import numpy as np
from numpy.typing import NDArray

from onomaxis.errors import FormatError

_MAGIC = b"\x89PNG\r\n\x1a\n"
_MOST_PIXELS = 4096 * 4096


def is_apple_png(data: bytes) -> bool:
    """Tell whether a picture is of the variant."""
    return data[:8] == _MAGIC and data[12:16] == b"CgBI"


def read_apple_png(data: bytes) -> NDArray[np.uint8]:
    """Return the pixels: red, green, blue, alpha, not multiplied, of shape (height, width, 4). Raises FormatError."""
    width = height = kind = 0
    packed, at = [], 8
    while at + 12 <= len(data):
        long, name = struct.unpack_from(">I4s", data, at)
        body = data[at + 8 : at + 8 + long]
        if name == b"IHDR" and len(body) == 13:
            width, height, depth, kind, _, _, laced = struct.unpack(">IIBBBBB", body)
            if depth != 8 or kind not in (2, 6) or laced or not 0 < width * height <= _MOST_PIXELS:
                raise FormatError("the picture is of a form that is not read")
        elif name == b"IDAT":
            packed.append(body)
        at += 12 + long
    # The build tools give colour without alpha four bytes a pixel too where they made it so: the length tells.
    raw = _unpacked(b"".join(packed), height * (1 + 4 * width))
    step = (len(raw) // height - 1) // width if width and height else 0
    if step not in (3, 4) or len(raw) != height * (1 + step * width):
        raise FormatError("the picture is damaged")
    pixels = _unfiltered(raw, width, height, step)
    alpha = pixels[..., 3:] if step == 4 else np.full((height, width, 1), 255, np.uint8)
    shares = np.maximum(alpha.astype(np.uint16), 1)
    colours = np.minimum((pixels[..., 2::-1].astype(np.uint32) * 255 + shares // 2) // shares, 255).astype(np.uint8)
    return np.concatenate([colours, alpha], axis=2)


def _unpacked(data: bytes, most: int) -> bytes:
    engine = zlib.decompressobj(-15)
    try:
        return engine.decompress(data, most + 1)
    except zlib.error:
        raise FormatError("the picture cannot be unpacked") from None


def _unfiltered(raw: bytes, width: int, height: int, step: int) -> NDArray[np.uint8]:
    """Undo the filters of the lines (chapter 9 of the standard)."""
    lines = np.frombuffer(raw, np.uint8).reshape(height, 1 + step * width)
    found = np.zeros((height, width * step), np.uint8)
    above = np.zeros(width * step, np.uint8)
    for number in range(height):
        kind, line = int(lines[number, 0]), lines[number, 1:]
        found[number] = above = _line(kind, line, above, step)
    return found.reshape(height, width, step)


def _line(kind: int, line: NDArray[np.uint8], above: NDArray[np.uint8], step: int) -> NDArray[np.uint8]:
    if kind == 0:
        return line
    if kind == 1:
        return np.cumsum(line.reshape(-1, step), axis=0, dtype=np.uint8).reshape(-1)
    if kind == 2:
        return line + above
    if kind not in (3, 4):
        raise FormatError("the picture is damaged")
    out = bytearray(len(line))
    up = above.tolist()
    for at, value in enumerate(line.tolist()):
        left = out[at - step] if at >= step else 0
        corner = up[at - step] if at >= step else 0
        out[at] = (value + ((left + up[at]) // 2 if kind == 3 else _paeth(left, up[at], corner))) & 0xFF
    return np.frombuffer(bytes(out), np.uint8)


def _paeth(left: int, up: int, corner: int) -> int:
    guess = left + up - corner
    far = abs(guess - left), abs(guess - up), abs(guess - corner)
    return left if far[0] <= far[1] and far[0] <= far[2] else up if far[1] <= far[2] else corner
