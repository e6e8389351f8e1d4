"""Pictures as files: PNG with or without alpha, WebP without loss; the same picture gives the same bytes."""

from __future__ import annotations

import io
from collections.abc import Sequence

from onomaxis.icons.pixels import Bytes, Picture, to_bytes


def encoded(picture: Picture, kind: str = "png", opaque: bool = False) -> bytes:
    """Encode a picture as ``png``, ``webp`` or ``jpeg``; *opaque* leaves the alpha channel out."""
    return encoded_bytes(to_bytes(picture), kind, opaque)


def encoded_bytes(pixels: Bytes, kind: str = "png", opaque: bool = False) -> bytes:
    """Encode straight-alpha sRGB bytes of shape (h, w, 4)."""
    from PIL import Image

    image = Image.fromarray(pixels[..., :3] if opaque else pixels)
    out = io.BytesIO()
    if kind == "webp":
        image.save(out, "WEBP", lossless=True, quality=80, method=4, exact=True)
    elif kind == "jpeg":
        image.convert("RGB").save(out, "JPEG", quality=95, subsampling=0)
    else:
        image.save(out, "PNG", compress_level=6)
    return out.getvalue()


def joined(pictures: Sequence[bytes], kind: str) -> bytes:
    """Join square PNG files into one ``ico`` or ``icns``.

    Sources: Microsoft, "Icons" (PNG entries since Windows Vista); Apple, "Icon Services".
    """
    from PIL import Image

    images = sorted((Image.open(io.BytesIO(data)) for data in pictures), key=lambda image: image.width)
    out = io.BytesIO()
    more = {"sizes": [image.size for image in images]} if kind == "ico" else {}
    images[-1].save(out, kind.upper(), append_images=images[:-1], **more)
    return out.getvalue()
