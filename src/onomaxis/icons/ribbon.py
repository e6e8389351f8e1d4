"""A word on a band across an icon: which environment a build is of, seen on the home screen.

The band lies inside the circle that no mask cuts (developer.android.com, "Adaptive icons": 66 of a layer's 108 dp),
as outlines: the same on every machine, in pictures as in vector drawables.
"""

from __future__ import annotations

import json
import math
import re
from functools import lru_cache
from importlib.resources import files
from typing import NamedTuple

import numpy as np

from onomaxis.errors import InputError
from onomaxis.icons.matrix import Matrix, Segment, parse_path, path_data, transformed
from onomaxis.icons.pixels import Picture, over
from onomaxis.icons.scaled import Scaled
from onomaxis.icons.slots import LAYER_DP, SAFE_DP
from onomaxis.identity.schema import RIBBON_CORNERS

# For each place of a band: below or above the middle, and how far it is turned about it (degrees, clockwise).
_TURNS = ((1, 0), (1, -45), (1, 45), (-1, 0), (-1, 45), (-1, -45))
CORNERS = dict(zip(RIBBON_CORNERS, _TURNS, strict=True))
COLOR, INK = "#B3261E", "#FFFFFF"
LONGEST = 12
# In dp of a layer: how far its middle is from the icon's, its height, its corners, the room beside the word, the
# largest capitals, and what is kept free around it in a silhouette.
_AWAY, _HIGH, _ROUND, _MARGIN, _CAPITALS, _FREE = 17.5, 16.0, 3.0, 3.0, 9.0, 2.0
_MIDDLE = LAYER_DP / 2
# The share of a circle's radius by which a curve of four pieces leads around it.
_KAPPA = 0.5523


class Ribbon(NamedTuple):
    """What the band says, its colour and its letters' (``#RRGGBB``), and where it lies."""

    text: str
    color: str = COLOR
    ink: str = INK
    corner: str = "bottom"

    def over(self, picture: Picture, shown: float) -> Picture:
        """Return a picture, which shows the middle *shown* dp of an icon's layers, with the band over it."""
        return over(_drawn(self.markup(shown)).at(picture.shape[1], picture.shape[0]), picture)

    def cut(self, silhouette: Picture) -> Picture:
        """Return a layer's silhouette with the band in it: its letters, and what is around it, are left out."""
        height, width = silhouette.shape[:2]
        band, word = _band(self), _word(self)
        free = _drawn(_svg(f'<path d="{path_data(_band(self, _FREE))}"/>', LAYER_DP)).at(width, height)[..., 3:4]
        form = f'<path fill="#fff" fill-rule="evenodd" d="{path_data(band)}{path_data(word)}"/>'
        left: Picture = silhouette * (1 - free) + _drawn(_svg(form, LAYER_DP)).at(width, height)
        return np.asarray(left, dtype=np.float32)

    def markup(self, shown: float) -> str:
        """Return the band as SVG of the middle *shown* dp."""
        return _svg("".join(f'<path fill="{fill}" d="{data}"/>' for fill, data in self.paths()), shown)

    def paths(self) -> tuple[tuple[str, str], tuple[str, str]]:
        """Return colour and path data of the band and of its word, in dp of a layer."""
        return (self.color, path_data(_band(self))), (self.ink, path_data(_word(self)))


def ribbon_of(text: str, color: str = "", ink: str = "", corner: str = "") -> Ribbon | None:
    """Return a ribbon as it was asked for; None without a word. Raises InputError for what cannot be drawn."""
    if not text:
        return None
    if corner and corner not in CORNERS:
        raise InputError(f"a ribbon does not lie at “{corner}”", remedy=f"It can lie at: {', '.join(CORNERS)}.")
    for value in (color, ink):
        if value and not re.fullmatch(r"#[0-9A-Fa-f]{6}", value):
            raise InputError(f"“{value}” is not a colour for a ribbon", remedy=f"Six digits: {COLOR}.")
    lacking = sorted({char for char in text if char not in _letters().outlines})
    if lacking:
        raise InputError(f"a ribbon has no letter “{lacking[0]}”", remedy="Latin, Greek and Cyrillic ones are drawn.")
    if len(text) > LONGEST or not text.strip():
        raise InputError(f"the ribbon's word has {len(text)} characters: give one to {LONGEST}")
    return Ribbon(text.strip(), color or COLOR, ink or INK, corner or "bottom")


def _svg(inner: str, shown: float) -> str:
    start = _MIDDLE - shown / 2
    box = f"{start:g} {start:g} {shown:g} {shown:g}"
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{box}">{inner}</svg>'


def _turned(ribbon: Ribbon) -> Matrix:
    """Return what brings a band around the origin into its place."""
    side, angle = CORNERS[ribbon.corner]
    sine, cosine = math.sin(math.radians(angle)), math.cos(math.radians(angle))
    away = side * _AWAY
    return Matrix(cosine, sine, -sine, cosine, _MIDDLE - sine * away, _MIDDLE + cosine * away)


def _band(ribbon: Ribbon, more: float = 0.0) -> list[Segment]:
    """Return the band's outline, larger by *more* on all sides: as long as the safe circle lets it be."""
    outer = _AWAY + _HIGH / 2
    x, y = math.sqrt((SAFE_DP / 2) ** 2 - outer**2) + more, _HIGH / 2 + more
    r = _ROUND + more
    k = r * (1 - _KAPPA)
    found: list[Segment] = [("M", ((-x + r, -y),))]
    for sx, sy, across in ((1, -1, True), (1, 1, False), (-1, 1, True), (-1, -1, False)):
        ends = [(sx * (x - r), sy * y), (sx * (x - k), sy * y), (sx * x, sy * (y - k)), (sx * x, sy * (y - r))]
        first, second, third, last = ends if across else ends[::-1]
        found += [("L", (first,)), ("C", (second, third, last))]
    return transformed([*found, ("Z", ())], _turned(ribbon))


def _word(ribbon: Ribbon) -> list[Segment]:
    """Return the outlines of the word, in the middle of the band: as large as its height and length let it be."""
    letters = _letters()
    width = sum(letters.outlines[char][0] for char in ribbon.text)
    outer = _AWAY + _HIGH / 2
    room = 2 * (math.sqrt((SAFE_DP / 2) ** 2 - outer**2) - _MARGIN)
    scale = min(_CAPITALS / letters.capital, room / width)
    found: list[Segment] = []
    at = -width * scale / 2
    for char in ribbon.text:
        advance, data = letters.outlines[char]
        matrix = Matrix(scale, 0, 0, -scale, at, letters.capital * scale / 2)
        found += transformed(parse_path(data), matrix) if data else []
        at += advance * scale
    return transformed(found, _turned(ribbon))


class _Letters(NamedTuple):
    """Height of capitals, and advance and path of each letter, in units of the face (the y axis upward)."""

    capital: float
    outlines: dict[str, tuple[float, str]]


@lru_cache(maxsize=1)
def _letters() -> _Letters:
    data = json.loads(files("onomaxis.icons").joinpath("faces", "ribbon-letters.json").read_text("utf-8"))
    return _Letters(data["capital"], {char: (item[0], item[1]) for char, item in data["letters"].items()})


@lru_cache(maxsize=16)
def _drawn(markup: str) -> Scaled:
    """Return a band that is drawn at many sizes: of few brands and environments at a time."""
    return Scaled(markup)
