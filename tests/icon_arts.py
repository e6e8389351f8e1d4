"""The kinds of art that people hold in hand, made here, by the names of their files."""

from __future__ import annotations

import io
from collections.abc import Callable
from functools import cache

import numpy as np
from PIL import Image, ImageCms, ImageDraw


def photo(size: int = 1024) -> Image.Image:
    """Art of many colours that fills its edges, with a drawing in the middle."""
    y, x = np.mgrid[0:size, 0:size] / size
    picture = Image.fromarray(np.stack([200 * x + 30, 120 * y + 60, 180 * (1 - x) + 40], axis=-1).astype(np.uint8))
    ImageDraw.Draw(picture).ellipse([size * 0.3] * 2 + [size * 0.7] * 2, fill=(250, 240, 210))
    return picture


def rounded(share: float = 0.18, size: int = 1024) -> Image.Image:
    """The same with transparent corners."""
    mask = Image.new("L", (size, size), 0)
    ImageDraw.Draw(mask).rounded_rectangle((0, 0, size - 1, size - 1), size * share, fill=255)
    picture = photo(size).convert("RGBA")
    picture.putalpha(mask)
    return picture


def logo(colour: tuple[int, ...] = (40, 90, 160, 255), size: int = 1024) -> Image.Image:
    """A drawing on transparency."""
    picture = Image.new("RGBA", (size, size), (0, 0, 0, 0))
    ImageDraw.Draw(picture).polygon([(size / 2, size * 0.2), (size * 0.8, size * 0.8), (size * 0.2, size * 0.8)], fill=colour)
    return picture


def flat(reach: float, size: int = 1024) -> Image.Image:
    """A square on one colour, which begins at a share of the edge."""
    picture = Image.new("RGB", (size, size), (30, 110, 80))
    ImageDraw.Draw(picture).rectangle([size * reach] * 2 + [size * (1 - reach)] * 2, fill=(250, 240, 210))
    return picture


def saved(picture: Image.Image, kind: str, **options: object) -> bytes:
    out = io.BytesIO()
    picture.save(out, kind, **options)
    return out.getvalue()


def _jpeg(picture: Image.Image, **options: object) -> bytes:
    return saved(picture, "JPEG", quality=97, **options)


def _turned() -> bytes:
    exif = Image.Exif()
    exif[0x112] = 6  # shown a quarter turn to the right
    return _jpeg(photo(512), exif=exif)


def _svg(size: str, body: str) -> bytes:
    return f'<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" {size}>{body}</svg>'.encode()


_BOX = 'viewBox="0 0 100 100"'
_FULL = '<rect width="100" height="100" fill="#1E6E50"/><circle cx="50" cy="50" r="20" fill="#FAF0D2"/>'
_DRAWING = '<path d="M50 20L80 80H20z" fill="#285AA0"/>'
_SHADES = (
    '<defs><linearGradient id="g"><stop offset="0" stop-color="#204060"/><stop offset="1" stop-color="#60a0e0"/></linearGradient>'
    '<path id="p" d="M0 0h10v10z"/></defs><style>.a{fill:url(#g)} #b{stroke:#fff;stroke-width:2}</style>'
)
_NESTED = (
    '<g transform="translate(50 50) rotate(20)"><g transform="scale(2)"><circle class="a" id="b" r="12"/><use xlink:href="#p" x="3" y="3" fill="#f80"/></g></g>'
)

_MADE: dict[str, Callable[[], bytes]] = {
    "full.jpg": lambda: _jpeg(photo(512)),
    "full.png": lambda: saved(photo(), "PNG"),
    "full-1500.png": lambda: saved(photo(1500), "PNG"),
    "rounded.png": lambda: saved(rounded(size=512), "PNG"),
    "circle.png": lambda: saved(rounded(0.5, 512), "PNG"),
    "logo.png": lambda: saved(logo(size=512), "PNG"),
    "white.png": lambda: saved(logo((255, 255, 255, 255), 512), "PNG"),
    "flat.png": lambda: saved(flat(0.3, 512), "PNG"),
    "flat-wide.png": lambda: saved(flat(0.03, 512), "PNG"),
    "one-colour.png": lambda: saved(Image.new("RGB", (512, 512), (200, 30, 30)), "PNG"),
    "oblong.png": lambda: saved(photo(512).resize((512, 300)), "PNG"),
    "grey.png": lambda: saved(photo(512).convert("L"), "PNG"),
    "grey-16.png": lambda: saved(Image.fromarray(np.tile(np.linspace(0, 65535, 512).astype(np.uint16), (512, 1))), "PNG"),
    "palette.png": lambda: saved(logo(size=512).quantize(64), "PNG"),
    "cmyk.jpg": lambda: _jpeg(photo(512).convert("CMYK")),
    "turned.jpg": _turned,
    "profile.png": lambda: saved(photo(512), "PNG", icc_profile=ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()),
    "full.webp": lambda: saved(photo(512), "WEBP", lossless=True),
    "animated.gif": lambda: saved(photo(256).convert("P"), "GIF", save_all=True, append_images=[photo(256).rotate(90).convert("P")]),
    "full.svg": lambda: _svg(_BOX, _FULL),
    "millimetres.svg": lambda: _svg('width="100mm" height="100mm" viewBox="0 0 100 100"', _FULL),
    "points.svg": lambda: _svg('width="75pt" height="75pt"', _FULL),
    "drawing.svg": lambda: _svg('width="100%" height="100%" viewBox="0 0 100 100"', _DRAWING),
    "styled.svg": lambda: _svg(_BOX, _SHADES + _NESTED),
    "shaded-ground.svg": lambda: _svg(_BOX, _SHADES + '<rect width="100" height="100" class="a"/>' + _DRAWING),
    "text.svg": lambda: _svg(_BOX, _FULL + '<text x="10" y="50" font-size="30">Lend</text>'),
    "damaged.png": lambda: saved(photo(64), "PNG")[:200],
}


@cache
def art_file(name: str) -> bytes:
    """Return the file of a kind of art."""
    return _MADE[name]()
