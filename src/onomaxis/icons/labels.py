"""The name below an icon: in the platform's text size, cut off where the platform cuts it.

Widths are those of two open faces that ship with the program: Roboto, which is Android's own, and Inter for Apple's
face, which is not free. They are laid out without kerning; what neither face has counts as wide as it usually is.
"""

from __future__ import annotations

import unicodedata
from functools import lru_cache
from importlib.resources import files
from typing import TYPE_CHECKING, NamedTuple

if TYPE_CHECKING:
    from PIL import ImageFont

_MORE = "…"
# Text is measured at this many times its size, so that no rounding to pixels counts.
_FINE = 32
# What both faces hold: Latin, Greek, Cyrillic, and their punctuation.
_COVERED = (
    *((0x20, 0x7E), (0xA0, 0x24F), (0x2BB, 0x2DD), (0x370, 0x3FF), (0x400, 0x4FF), (0x1E00, 0x1EFF)),
    *((0x2010, 0x2027), (0x2030, 0x203A), (0x20AC, 0x20AC), (0x2122, 0x2122), (0x2212, 0x2212)),
)


class LabelRule(NamedTuple):
    """How a home screen writes a name: face, size and room, in dp (Android) or points (Apple)."""

    face: str
    size: float
    room: float


# No document states these. Android: device_profiles.xml of the open source launcher (five columns on a phone of 411
# dp, text of 14.4 sp, less the cell's padding). Apple: four columns on a phone of 390 points, text of 12 points.
LABELS = {"android": LabelRule("roboto-regular.ttf", 14.4, 76.0), "ios": LabelRule("inter-regular.otf", 12.0, 76.0)}
PLAIN = LABELS["ios"].face


@lru_cache(maxsize=64)
def face(name: str, size: float) -> ImageFont.FreeTypeFont:
    """Return a face that ships, at a size in pixels."""
    from io import BytesIO

    from PIL import ImageFont

    data = files("onomaxis.icons").joinpath("faces", name).read_bytes()
    return ImageFont.truetype(BytesIO(data), size, layout_engine=ImageFont.Layout.BASIC)


def width(text: str, name: str, size: float) -> float:
    """Return how wide *text* is at a size, in the unit of the size."""
    font = face(name, _FINE)
    known = "".join(char for char in text if any(low <= ord(char) <= high for low, high in _COVERED))
    foreign = [char for char in text if char not in known and not unicodedata.combining(char)]
    rest = sum(1.0 if unicodedata.east_asian_width(char) in "WF" else 0.6 for char in foreign)
    return (font.getlength(known) / _FINE + rest) * size


def shortened(text: str, name: str, size: float, room: float) -> str:
    """Return *text*, or as much of its beginning as fits a room with an ellipsis behind it."""
    if width(text, name, size) <= room:
        return text
    while text and width(text.rstrip() + _MORE, name, size) > room:
        text = text[:-1]
    return text.rstrip() + _MORE


def seen(text: str, platform: str) -> str:
    """Return what a home screen of a platform shows of a name."""
    rule = LABELS.get(platform)
    return shortened(text, *rule) if rule is not None else text
