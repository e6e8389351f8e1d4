"""Where the content of art is: bounding box, smallest enclosing circle, border colour.

The safe zone of an adaptive icon is a *circle* of 66 dp in a layer of 108 dp (developer.android.com, "Adaptive
icons"): a square scaled to 66 dp would leave it by its corners, so distance from the centre is what counts.
"""

from __future__ import annotations

import math
import random
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from onomaxis.icons.pixels import Bytes

# Where art is measured; the result is in shares of the edge.
MEASURED_AT = 512
_VISIBLE = 8
_SAME_COLOUR = 6


class Circle(NamedTuple):
    """A circle, in shares of the picture's edge."""

    x: float
    y: float
    radius: float


def visible(pixels: Bytes, against: tuple[int, int, int] | None = None) -> NDArray[np.bool_]:
    """Return which pixels show: not transparent, and, given a ground colour, different from it."""
    shown = pixels[..., 3] >= _VISIBLE
    if against is not None:
        distance = np.abs(pixels[..., :3].astype(np.int16) - np.array(against, dtype=np.int16)).max(axis=2)
        shown &= (distance > _SAME_COLOUR * 2) | (pixels[..., 3] < 250)
    return np.asarray(shown)


def enclosing_circle(shown: NDArray[np.bool_]) -> Circle | None:
    """Return the smallest circle around all set pixels (their outer corners), or None when none is set."""
    rows = np.flatnonzero(shown.any(axis=1))
    if not rows.size:
        return None
    size = shown.shape[0]
    points: list[tuple[float, float]] = []
    for row in rows:
        columns = np.flatnonzero(shown[row])
        for x in (float(columns[0]), float(columns[-1] + 1)):
            points += [(x, float(row)), (x, float(row + 1))]
    x, y, radius = _welzl(_hull(points))
    return Circle(x / size, y / size, radius / size)


def beyond_circle(shown: NDArray[np.bool_]) -> float:
    """Return which share of what shows lies outside the circle that touches the square's edges."""
    total = np.count_nonzero(shown)
    size = shown.shape[0]
    steps = (np.arange(size) + 0.5) / size * 2 - 1
    outside = np.hypot(steps[None, :], steps[:, None]) > 1
    return float(np.count_nonzero(shown & outside) / total) if total else 0.0


def _hull(points: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """Return the convex hull (monotone chain)."""
    ordered = sorted(set(points))
    if len(ordered) < 3:
        return ordered

    def half(sequence: list[tuple[float, float]]) -> list[tuple[float, float]]:
        chain: list[tuple[float, float]] = []
        for point in sequence:
            while len(chain) > 1 and _turn(chain[-2], chain[-1], point) <= 0:
                chain.pop()
            chain.append(point)
        return chain

    return half(ordered)[:-1] + half(ordered[::-1])[:-1]


def _turn(a: tuple[float, float], b: tuple[float, float], c: tuple[float, float]) -> float:
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])


def _welzl(points: list[tuple[float, float]]) -> tuple[float, float, float]:
    """Return centre and radius of the smallest enclosing circle, by the incremental method in a fixed order."""
    order = points[:]
    random.Random(1).shuffle(order)
    circle = (order[0][0], order[0][1], 0.0)
    for i, p in enumerate(order):
        if _outside(circle, p):
            circle = (p[0], p[1], 0.0)
            for j, q in enumerate(order[:i]):
                if _outside(circle, q):
                    circle = _of_two(p, q)
                    for r in order[:j]:
                        if _outside(circle, r):
                            circle = _of_three(p, q, r)
    return circle


def _outside(circle: tuple[float, float, float], point: tuple[float, float]) -> bool:
    return math.hypot(point[0] - circle[0], point[1] - circle[1]) > circle[2] + 1e-9


def _of_two(a: tuple[float, float], b: tuple[float, float]) -> tuple[float, float, float]:
    return (a[0] + b[0]) / 2, (a[1] + b[1]) / 2, math.dist(a, b) / 2


def _of_three(a: tuple[float, float], b: tuple[float, float], c: tuple[float, float]) -> tuple[float, float, float]:
    d = 2 * (a[0] * (b[1] - c[1]) + b[0] * (c[1] - a[1]) + c[0] * (a[1] - b[1]))
    if abs(d) < 1e-12:
        return max((_of_two(*pair) for pair in ((a, b), (b, c), (a, c))), key=lambda found: found[2])
    sa, sb, sc = (p[0] ** 2 + p[1] ** 2 for p in (a, b, c))
    x = (sa * (b[1] - c[1]) + sb * (c[1] - a[1]) + sc * (a[1] - b[1])) / d
    y = (sa * (c[0] - b[0]) + sb * (a[0] - c[0]) + sc * (b[0] - a[0])) / d
    return x, y, math.hypot(a[0] - x, a[1] - y)


def border_colour(pixels: Bytes) -> tuple[int, int, int] | None:
    """Return the one opaque colour of the outermost pixels, or None when they differ or are transparent."""
    edge = np.concatenate([pixels[0], pixels[-1], pixels[:, 0], pixels[:, -1]])
    if (edge[:, 3] < 255).any():
        return None
    middle = np.median(edge[:, :3], axis=0)
    if np.abs(edge[:, :3] - middle).max() > _SAME_COLOUR:
        return None
    red, green, blue = (round(float(value)) for value in middle)
    return red, green, blue
