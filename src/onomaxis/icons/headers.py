"""What a picture file is, by its first bytes: nothing is decoded, and NumPy is not loaded for it."""

from __future__ import annotations

import io
from typing import NamedTuple


def kind_of_bytes(data: bytes) -> str:
    """Tell what a picture file really holds: ``png``, ``webp``, ``jpeg``, ``ico``, ``icns``, ``xml`` or nothing."""
    if data.startswith(b"\x89PNG\r\n\x1a\n"):
        return "png"
    if data[:4] == b"RIFF" and data[8:12] == b"WEBP":
        return "webp"
    if data[:4] == b"\0\0\1\0":
        return "ico"
    if data[:4] == b"icns":
        return "icns"
    if data.startswith(b"\xff\xd8\xff"):
        return "jpeg"
    if data.lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"<"):
        return "xml"
    return ""


class PictureFile(NamedTuple):
    """What a picture file is by its header: format, size, whether it has an alpha channel."""

    kind: str
    width: int
    height: int
    alpha: bool


def picture_file(data: bytes) -> PictureFile | None:
    """Read the header of a picture; None when it is not a picture."""
    from PIL import Image

    kind = kind_of_bytes(data)
    if kind in ("", "xml"):
        return None
    try:
        with Image.open(io.BytesIO(data)) as image:
            alpha = image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info
            return PictureFile(kind, image.width, image.height, alpha)
    except Exception:
        return None


def ico_edges(data: bytes) -> tuple[int, ...]:
    """Return the edges of the pictures in an ICO file, PNG or BMP; empty when it cannot be read."""
    from PIL import Image

    try:
        with Image.open(io.BytesIO(data), formats=("ICO",)) as image:
            return tuple(sorted(width for width, _ in image.info["sizes"]))
    except Exception:
        return ()
