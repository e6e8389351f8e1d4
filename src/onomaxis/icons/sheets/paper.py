"""What every sheet is drawn with: a page at a scale, text in faces that ship, pictures, grounds, neutral icons."""

from __future__ import annotations

import io
import math
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from onomaxis.icons.labels import PLAIN, face, shortened
from onomaxis.icons.pixels import Bytes, Picture, masked, to_bytes, to_picture

if TYPE_CHECKING:
    from PIL import Image, ImageDraw

Colour = tuple[int, int, int]
Box = tuple[float, float, float, float]


class Palette(NamedTuple):
    """The colours of a page: its ground, a panel's, ink, what is less important, lines."""

    page: Colour
    panel: Colour
    ink: Colour
    dim: Colour
    line: Colour


PALETTES = {
    "light": Palette((246, 244, 238), (255, 255, 255), (32, 48, 42), (110, 122, 116), (206, 208, 200)),
    "dark": Palette((22, 26, 25), (34, 39, 37), (232, 236, 230), (148, 158, 152), (62, 70, 66)),
}
LIGHT = PALETTES["light"]
# The size that sheets are laid out for, in units; a page of another size is scaled.
WIDE, HIGH = 1280, 800
# Corners are drawn this many times larger and reduced.
_SMOOTH = 4


@dataclass
class Paper:
    """A page of *width* x *height* pixels, laid out in units of a page of 1280 x 800."""

    width: int
    height: int
    palette: Palette = LIGHT

    @cached_property
    def scale(self) -> float:
        """Pixels of one unit."""
        return min(self.width / WIDE, self.height / HIGH)

    @cached_property
    def image(self) -> Image.Image:
        """The picture that is drawn on."""
        from PIL import Image

        return Image.new("RGB", (self.width, self.height), self.palette.page)

    @cached_property
    def pen(self) -> ImageDraw.ImageDraw:
        """What draws on it."""
        from PIL import ImageDraw

        return ImageDraw.Draw(self.image)

    def px(self, units: float) -> int:
        """Return units in whole pixels."""
        return round(units * self.scale)

    def titled(self, text: str, note: str = "") -> Paper:
        """Return a new page like this one, with its title and a note at its right."""
        page = Paper(self.width, self.height, self.palette)
        page.text(28, 34, text, 22)
        if note:
            page.text(WIDE - 28, 34, note, 13, page.palette.dim, anchor="rm")
        return page

    def text(
        self,
        x: float,
        y: float,
        text: str,
        size: float,
        ink: Colour | None = None,
        *,
        anchor: str = "lm",
        name: str = PLAIN,
        room: float = 0,
        shadow: bool = False,
    ) -> None:
        """Write a line at a place in units, shortened to a room where one is given."""
        shown = shortened(text, name, size, room) if room else text
        font = face(name, max(1.0, size * self.scale))
        at = (x * self.scale, y * self.scale)
        if shadow:
            self.pen.text(
                (at[0] + self.scale, at[1] + self.scale), shown, font=font, fill=(40, 40, 40), anchor=anchor
            )
        self.pen.text(at, shown, font=font, fill=ink or self.palette.ink, anchor=anchor)

    def panel(self, box: Box, fill: Colour, radius: float = 14, outline: Colour | None = None) -> None:
        """Draw a rounded panel."""
        from PIL import Image, ImageDraw

        left, top, right, bottom = (self.px(side) for side in box)
        for colour, inner in ((outline or fill, 0), (fill, 1 if outline else 0)):
            size = (right - left - 2 * inner, bottom - top - 2 * inner)
            large = Image.new("L", (size[0] * _SMOOTH, size[1] * _SMOOTH), 0)
            edge = (0, 0, large.width - 1, large.height - 1)
            ImageDraw.Draw(large).rounded_rectangle(edge, (self.px(radius) - inner) * _SMOOTH, fill=255)
            self.image.paste(colour, (left + inner, top + inner), large.resize(size, Image.Resampling.BOX))

    def picture(self, picture: Picture | None, x: float, y: float, size: float) -> None:
        """Put a picture with its left upper corner at a place; a dashed frame where there is none."""
        from PIL import Image

        if picture is None:
            absent(self.pen, self.px(x), self.px(y), self.px(size), self.palette.dim)
            return
        drawn = Image.fromarray(to_bytes(picture))
        self.image.paste(drawn, (self.px(x), self.px(y)), drawn)

    def wallpaper(self, box: Box, name: str) -> None:
        """Fill a box with a home screen's ground: ``light``, ``dark`` or ``busy``."""
        from PIL import Image, ImageDraw

        left, top, right, bottom = (self.px(side) for side in box)
        ground = Image.fromarray(_wallpaper(name, right - left, bottom - top))
        cut = Image.new("L", ground.size, 0)
        ImageDraw.Draw(cut).rounded_rectangle((0, 0, ground.width - 1, ground.height - 1), self.px(18), fill=255)
        self.image.paste(ground, (left, top), cut)

    def data(self) -> bytes:
        """Return the page as a PNG file."""
        out = io.BytesIO()
        self.image.save(out, "PNG")
        return out.getvalue()


def absent(pen: ImageDraw.ImageDraw, left: int, top: int, size: int, ink: Colour) -> None:
    """Draw a dashed frame with “none” where there is nothing to show."""
    for offset in range(0, size, 10):
        stop = min(offset + 5, size)
        for line in (
            (left + offset, top, left + stop, top),
            (left + offset, top + size, left + stop, top + size),
            (left, top + offset, left, top + stop),
            (left + size, top + offset, left + size, top + stop),
        ):
            pen.line(line, fill=ink)
    pen.text((left + size // 2, top + size // 2), "none", font=face(PLAIN, 12), fill=ink, anchor="mm")


def _wallpaper(name: str, width: int, height: int) -> Bytes:
    """Draw a ground: two calm ones, and one of many colours and edges."""
    y, x = np.mgrid[0:height, 0:width]
    fall = (y / max(height, 1))[..., None]
    if name == "light":
        ground = np.array([240, 242, 240]) - fall * np.array([26, 16, 22])
    elif name == "dark":
        ground = np.array([36, 40, 48]) - fall * np.array([22, 22, 24])
    else:
        unit = max(width, 1) / 300
        waves = [np.sin(x / (17 * unit) + 2 * np.sin(y / (31 * unit))), np.sin(y / (13 * unit) - x / (41 * unit))]
        steps = np.floor((waves[0] + waves[1]) * 1.6)[..., None]
        ground = 118 + 62 * np.sin(steps * np.array([1.9, 2.7, 3.4]) + fall * np.array([2.0, -1.5, 3.0]))
    pixels: Bytes = np.clip(ground, 0, 255).astype(np.uint8)
    return pixels


# Icons of no app: a name, a ground and a glyph's shape, drawn here.
NEUTRAL = (
    ("Notes", (196, 190, 178), "bars"),
    ("Clock", (150, 164, 178), "ring"),
    ("Files", (178, 184, 160), "square"),
    ("Music", (184, 164, 176), "dot"),
    ("Mail", (160, 176, 172), "wedge"),
    ("Photos", (190, 176, 152), "ring"),
    ("Weather", (166, 180, 194), "dot"),
    ("Camera", (172, 170, 184), "square"),
)
_GLYPH = (246, 246, 242)


def neutral(number: int, size: int, shape: str, look: str, palette: tuple[Colour, Colour] | None = None) -> Picture:
    """Draw a neutral neighbour in a mask; with a *palette*, ground and glyph as a theme has them."""
    from PIL import Image, ImageDraw

    _, ground, glyph = NEUTRAL[number % len(NEUTRAL)]
    ink: Colour = _GLYPH
    if palette is not None:
        ground, ink = palette
    elif look == "dark":
        ground, ink = (52, 54, 58), ground
    image = Image.new("RGBA", (size * 2, size * 2), (*ground, 255))
    pen, low, high = ImageDraw.Draw(image), size * 0.62, size * 1.38
    if glyph == "bars":
        for step in range(3):
            top = low + step * size * 0.28
            pen.rectangle((low, top, high, top + size * 0.14), fill=(*ink, 255))
    elif glyph == "ring":
        pen.ellipse((low, low, high, high), outline=(*ink, 255), width=max(1, math.ceil(size * 0.14)))
    elif glyph == "square":
        pen.rectangle((low, low, high, high), fill=(*ink, 255))
    elif glyph == "dot":
        pen.ellipse((low, low, high, high), fill=(*ink, 255))
    else:
        pen.polygon(((low, low), (high, low), (size, high)), fill=(*ink, 255))
    small = image.resize((size, size), Image.Resampling.BOX)
    return masked(to_picture(np.asarray(small)), shape)
