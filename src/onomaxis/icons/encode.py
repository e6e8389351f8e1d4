"""Pictures as files: PNG with or without alpha, WebP without loss; the same picture gives the same bytes."""

from __future__ import annotations

import io

from onomaxis.icons.pixels import Picture, to_bytes


def encoded(picture: Picture, kind: str = "png", opaque: bool = False) -> bytes:
    """Encode a picture as ``png`` or ``webp``; *opaque* leaves the alpha channel out."""
    from PIL import Image

    pixels = to_bytes(picture)
    image = Image.fromarray(pixels[..., :3] if opaque else pixels)
    out = io.BytesIO()
    if kind == "webp":
        image.save(out, "WEBP", lossless=True, quality=80, method=4, exact=True)
    else:
        image.save(out, "PNG", compress_level=6)
    return out.getvalue()


def kind_of_bytes(data: bytes) -> str:
    """Tell what a picture file really holds, whatever it is called: ``png``, ``webp``, ``jpeg``, ``xml`` or empty."""
    if data.startswith(b"\x89PNG\r\n\x1a\n"):
        return "png"
    if data[:4] == b"RIFF" and data[8:12] == b"WEBP":
        return "webp"
    if data.startswith(b"\xff\xd8\xff"):
        return "jpeg"
    if data.lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"<"):
        return "xml"
    return ""
