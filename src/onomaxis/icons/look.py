"""What art looks like before it is placed: opaque or not, its border, rounded corners, the ground that fits it."""

from __future__ import annotations

import colorsys
from typing import NamedTuple

import numpy as np

from onomaxis.icons.art import Art
from onomaxis.icons.geometry import MEASURED_AT, border_colour
from onomaxis.icons.pixels import Bytes, to_bytes

# From this alpha on a pixel counts as opaque.
_FULL = 250
# Rounded corners lie within this share of the edge and take at most that share of the art (a circle takes 21 %).
_CORNER, _MOST_ROUND = 0.3, 0.12
# A card with more around it on each side is a drawing on transparency.
_WIDEST_MARGIN = 0.2


class Look(NamedTuple):
    """Art as it was looked at: its pixels without padding, whether they are all opaque, the border's one colour.

    ``rounded`` art is opaque but for its corners. A ``card`` is that with a margin around it: its left, top and edge
    in shares of the width.
    """

    pixels: Bytes
    opaque: bool
    border: tuple[int, int, int] | None
    rounded: bool
    card: tuple[float, float, float] | None = None


def look_at(art: Art) -> Look:
    """Look at art as it is in its file."""
    pixels = art.measured(MEASURED_AT) if art.aspect == 1 else to_bytes(art.draw_bare(MEASURED_AT))
    opaque = bool((pixels[..., 3] >= _FULL).all())
    border = border_colour(pixels) if opaque else None
    return Look(pixels, opaque, border, not opaque and _rounded(pixels), None if opaque else _card(pixels))


def _card(pixels: Bytes) -> tuple[float, float, float] | None:
    """Return where a finished card lies in a margin; what stands around it, a shadow, is too faint to count."""
    solid = pixels[..., 3] >= _FULL
    rows, columns = np.flatnonzero(solid.any(axis=1)), np.flatnonzero(solid.any(axis=0))
    if not rows.size:
        return None
    top, left, high, wide = rows[0], columns[0], int(np.ptp(rows)) + 1, int(np.ptp(columns)) + 1
    edge, size = min(high, wide), max(pixels.shape[:2])
    if abs(high - wide) > 0.02 * size or not (1 - 2 * _WIDEST_MARGIN) * size <= edge < size:
        return None
    if not _rounded(pixels[top : top + edge, left : left + edge]):
        return None
    whole = pixels.shape[1]
    return float(left) / whole, float(top) / whole, edge / whole


def _rounded(pixels: Bytes) -> bool:
    """Tell whether nothing but the four corners is transparent."""
    clear = pixels[..., 3] < _FULL
    high, wide = clear.shape
    if not (clear[0, 0] and clear[0, -1] and clear[-1, 0] and clear[-1, -1]) or clear.mean() > _MOST_ROUND:
        return False
    rows, columns = round(high * _CORNER), round(wide * _CORNER)
    return not (clear[rows : high - rows].any() or clear[:, columns : wide - columns].any())


def edge_colour(pixels: Bytes) -> tuple[int, int, int]:
    """Return the mean colour of the outermost pixels."""
    edge = np.concatenate([pixels[0], pixels[-1], pixels[:, 0], pixels[:, -1]])
    red, green, blue = (round(float(value)) for value in edge[:, :3].mean(axis=0))
    return red, green, blue


def fitting_ground(pixels: Bytes) -> tuple[int, int, int]:
    """Return a ground on which art shows: its own hue, pale below dark art and dark below light art."""
    shown = pixels[pixels[..., 3] >= 128][:, :3] / 255
    mean = shown.mean(axis=0) if shown.size else np.array([0.0, 0.0, 0.0])
    light = float(mean @ np.array([0.2126, 0.7152, 0.0722]))
    hue, _, saturation = colorsys.rgb_to_hls(*(float(value) for value in mean))
    level, strength = (0.94, min(saturation, 0.5)) if light < 0.6 else (0.2, min(saturation, 0.6))
    red, green, blue = (round(value * 255) for value in colorsys.hls_to_rgb(hue, level, strength))
    return red, green, blue
