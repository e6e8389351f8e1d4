"""Pixels as arrays: linear light, premultiplied alpha, resampling, masks.

A *picture* here is a float32 array of shape (height, width, 4): red, green, blue in linear light, premultiplied by
alpha, then alpha; all from 0 to 1.
"""

from __future__ import annotations

import math
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from onomaxis.icons.slots import MAC_RADIUS

Picture = NDArray[np.float32]
Bytes = NDArray[np.uint8]

_LANCZOS_LOBES = 3
# Icons are compared small. How far they differ is in levels of 255: compression and scaling stay below three, another
# drawing is far above.
COMPARED_AT, ALIKE = 64, 8.0
# So little alpha shows no colour.
_CLEAR = np.float32(1e-6)
# Rows that are converted at once while a large picture is reduced: bounds the memory.
_BAND = 256


@lru_cache(maxsize=1)
def _linear_table() -> NDArray[np.float32]:
    """The sRGB transfer function (IEC 61966-2-1) for the 256 byte values."""
    values = np.arange(256, dtype=np.float64) / 255
    low = values / 12.92
    high = ((values + 0.055) / 1.055) ** 2.4
    return np.where(values <= 0.04045, low, high).astype(np.float32)


@lru_cache(maxsize=1)
def _encoded_table() -> Bytes:
    """The inverse transfer function for linear light in 65,536 steps: finer than a byte can show."""
    linear = np.arange(65536, dtype=np.float64) / 65535
    encoded = np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055)
    table: Bytes = np.rint(encoded * 255).astype(np.uint8)
    return table


def to_picture(pixels: Bytes) -> Picture:
    """Turn straight-alpha sRGB bytes of shape (h, w, 4) into a picture."""
    linear: Picture = np.take(_linear_table(), pixels, mode="clip")  # every byte is in the table: not looked after
    if (pixels[..., 3] == 255).all():
        return linear
    alpha = pixels[..., 3].astype(np.float32) / np.float32(255)
    linear[..., :3] *= alpha[..., None]
    linear[..., 3] = alpha
    return linear


def to_bytes(picture: Picture) -> Bytes:
    """Turn a picture into straight-alpha sRGB bytes."""
    alpha = np.clip(picture[..., 3], 0, 1)
    opaque = bool((alpha == 1).all())
    steps: Picture = np.clip(picture if opaque else picture / np.maximum(alpha, _CLEAR)[..., None], 0, 1)
    if not opaque:
        steps[alpha <= _CLEAR] = 0
    steps *= np.float32(65535)
    steps += np.float32(0.5)
    result: Bytes = np.take(_encoded_table(), steps.astype(np.uint16), mode="clip")
    result[..., 3] = 255 if opaque else np.rint(alpha * 255)
    return result


def colour(red: int, green: int, blue: int) -> NDArray[np.float32]:
    """Return an opaque sRGB colour as one pixel of a picture."""
    table = _linear_table()
    return np.array([table[red], table[green], table[blue], 1], dtype=np.float32)


def _lanczos(x: NDArray[np.float64]) -> NDArray[np.float64]:
    inside = np.abs(x) < _LANCZOS_LOBES
    return np.where(inside, np.sinc(x) * np.sinc(x / _LANCZOS_LOBES), 0.0)


class _Taps(NamedTuple):
    """How one axis is resampled: for each target pixel its first source pixel and the weights from there on."""

    first: NDArray[np.intp]
    weights: NDArray[np.float32]


@lru_cache(maxsize=128)
def _taps(source: int, target: int) -> _Taps:
    """Return the taps that resample one axis.

    Reducing averages the area that a target pixel covers, which rings nowhere; enlarging uses Lanczos.
    """
    ratio = source / target
    if ratio >= 1:
        edges = np.arange(target + 1) * ratio
        first = np.floor(edges[:-1] + 1e-9).astype(np.intp)
        count = int(np.max(np.ceil(edges[1:] - 1e-9) - first))
        near = first[:, None] + np.arange(count)[None, :]
        weights = np.clip(np.minimum(edges[1:, None], near + 1) - np.maximum(edges[:-1, None], near), 0, None)
    else:
        centres = (np.arange(target) + 0.5) * ratio
        first = np.floor(centres - _LANCZOS_LOBES + 0.5).astype(np.intp)
        near = first[:, None] + np.arange(2 * _LANCZOS_LOBES + 1)[None, :]
        weights = np.where((near >= 0) & (near < source), _lanczos(near + 0.5 - centres[:, None]), 0.0)
    return _Taps(first, (weights / weights.sum(axis=1, keepdims=True)).astype(np.float32))


# Rows that are summed at once: what a processor keeps near.
_ROWS = 32


def _along(lines: NDArray[np.float32], target: int) -> NDArray[np.float32]:
    """Resample the first axis of an array of shape (source, n) to (target, n).

    It is summed tap by tap in a fixed order, not by a linear algebra library: the same bytes on every machine.
    """
    source = lines.shape[0]
    first, weights = _taps(source, target)
    out = np.empty((target, *lines.shape[1:]), dtype=np.float32)
    for top in range(0, target, _ROWS):
        rows = slice(top, min(top + _ROWS, target))
        total = lines.take(first[rows], axis=0, mode="clip") * weights[rows, :1]
        for tap in range(1, weights.shape[1]):
            part = lines.take(first[rows] + tap, axis=0, mode="clip")
            part *= weights[rows, tap : tap + 1]
            total += part
        out[rows] = total
    return out


def resample(picture: Picture, width: int, height: int) -> Picture:
    """Resample a picture to a size in pixels, in linear light with premultiplied alpha: no dark fringes."""
    rows, columns = picture.shape[:2]
    if (rows, columns) == (height, width):
        return picture
    opaque = bool((picture[..., 3] == 1).all())
    depth = 3 if opaque else 4
    lines = np.ascontiguousarray(picture[..., :depth]).reshape(rows, columns * depth)
    lowered = _along(lines, height).reshape(height, columns, depth).transpose(1, 0, 2)
    done = _along(np.ascontiguousarray(lowered).reshape(columns, height * depth), width)
    result = np.ones((height, width, 4), dtype=np.float32)
    result[..., :depth] = done.reshape(width, height, depth).transpose(1, 0, 2)
    if columns < width or rows < height:
        raw = result[..., 3:4].copy()
        alpha = np.clip(raw, 0, 1)
        # Where the filter overshoots, colour is taken back with alpha, so that its hue stays.
        result[..., :3] *= np.divide(alpha, raw, out=np.zeros_like(raw), where=raw > 1e-6)
        result[..., :3] = np.clip(result[..., :3], 0, alpha)
        result[..., 3:4] = alpha
    return result


def halves(picture: Picture, least: int) -> list[Picture]:
    """Return a picture and its halves, each the exact mean of four pixels, down to a shorter edge of *least*."""
    found = [picture]
    while min(found[-1].shape[:2]) >= 2 * least and not (found[-1].shape[0] % 2 or found[-1].shape[1] % 2):
        last = found[-1]
        rows = last[0::2] + last[1::2]
        found.append((rows[:, 0::2] + rows[:, 1::2]) * np.float32(0.25))
    return found


def reduced(pixels: Bytes, limit: int) -> Picture:
    """Turn bytes into a picture whose longer edge is at most *limit*, a band of rows at a time."""
    height, width = pixels.shape[:2]
    factor = math.ceil(max(height, width) / limit)
    if factor <= 1:
        return to_picture(pixels)
    rows: list[Picture] = []
    band = max(factor, _BAND // factor * factor)
    for top in range(0, height, band):
        part = to_picture(pixels[top : top + band])
        rows.append(resample(part, max(1, round(width / factor)), max(1, round(part.shape[0] / factor))))
    return np.concatenate(rows, axis=0)


def over(top: Picture, bottom: Picture) -> Picture:
    """Lay one picture over another of the same size."""
    if (top[..., 3] == 1).all():
        return top
    return top + bottom * (1 - top[..., 3:4])


def flat(size: int, pixel: NDArray[np.float32]) -> Picture:
    """Return a square of one colour."""
    return np.broadcast_to(pixel, (size, size, 4)).astype(np.float32)


def placed(picture: Picture, size: int, scale: float, shift: tuple[float, float] = (0.0, 0.0)) -> Picture:
    """Draw a picture into an empty square of *size* pixels.

    *scale* is the share of the square's edge that the picture's longer edge takes; *shift* moves its centre by
    shares of the square's edge. The position is rounded to whole pixels.
    """
    height, width = picture.shape[:2]
    longer = max(height, width)
    wide, high = max(1, round(size * scale * width / longer)), max(1, round(size * scale * height / longer))
    drawn = resample(picture, wide, high)
    canvas = np.zeros((size, size, 4), dtype=np.float32)
    left = round((size - wide) / 2 + shift[0] * size)
    top = round((size - high) / 2 + shift[1] * size)
    x0, y0, x1, y1 = max(left, 0), max(top, 0), min(left + wide, size), min(top + high, size)
    if x0 < x1 and y0 < y1:
        canvas[y0:y1, x0:x1] = drawn[y0 - top : y1 - top, x0 - left : x1 - left]
    return canvas


@lru_cache(maxsize=64)
def mask(shape: str, size: int) -> NDArray[np.float32]:
    """Return the coverage (0 to 1) of a shape that fills a square: circle, rounded, squircle, teardrop, square."""
    samples = 4 if size > 256 else 8
    steps = (np.arange(size * samples) + 0.5) / (size * samples) * 2 - 1
    x, y = steps[None, :], steps[:, None]
    whole = np.broadcast_to(_inside(shape, x, y), (size * samples, size * samples)).astype(np.float32)
    cover: NDArray[np.float32] = whole.reshape(size, samples, size, samples).mean(axis=(1, 3))
    return cover


# The corner's radius of a rounded shape, as a share of half the edge.
_RADII = {"rounded": 0.35, "card": 2 * MAC_RADIUS, "store": 0.4}


def _inside(shape: str, x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Tell which points of the square from -1 to 1 lie in a shape."""
    circle = x**2 + y**2 <= 1
    if shape == "circle":
        return np.asarray(circle)
    if shape in _RADII:
        return _rounded(x, y, _RADII[shape])
    if shape == "squircle":
        return np.asarray(x**4 + y**4 <= 1)
    if shape == "teardrop":
        return np.asarray(circle | ((x > 0) & (y > 0) & _rounded(x, y, 0.3)))
    return np.asarray((np.abs(x) <= 1) & (np.abs(y) <= 1))


def _rounded(x: NDArray[np.float64], y: NDArray[np.float64], radius: float) -> NDArray[np.bool_]:
    inner = 1 - radius
    dx, dy = np.clip(np.abs(x) - inner, 0, None), np.clip(np.abs(y) - inner, 0, None)
    return np.asarray(dx**2 + dy**2 <= radius**2)


def masked(picture: Picture, shape: str) -> Picture:
    """Cut a picture to a shape."""
    if shape == "square":
        return picture
    return picture * mask(shape, picture.shape[0])[..., None]


def difference(one: Picture, other: Picture) -> float:
    """Return how far two pictures of ``COMPARED_AT`` pixels differ on a middle grey, as a mean of all colours."""
    ground = flat(COMPARED_AT, colour(128, 128, 128))
    first, second = (to_bytes(over(item, ground))[..., :3].astype(np.int16) for item in (one, other))
    return float(np.abs(first - second).mean())
