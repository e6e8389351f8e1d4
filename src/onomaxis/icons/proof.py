"""One picture of the icons as users will see them: masks, themed icons, legacy, Apple's sizes, the store tile."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import partial
from typing import TYPE_CHECKING

import numpy as np

from onomaxis.icons.geometry import LAYER_DP, SAFE_DP
from onomaxis.icons.layers import silhouette
from onomaxis.icons.pixels import Picture, colour, flat, masked, over, placed, to_bytes
from onomaxis.icons.present import AndroidIcon, AppleIcon, has_own_icon, tile_today
from onomaxis.icons.slots import SHOWN_DP
from onomaxis.model import IconHome, same_flavor
from onomaxis.projects.project import Project
from onomaxis.tree import Tree

if TYPE_CHECKING:
    from PIL import Image, ImageDraw, ImageFont

Draw = Callable[[int], Picture | None]

_PAGE, _INK, _DIM, _LINE = (246, 244, 238), (32, 48, 42), (110, 122, 116), (206, 208, 200)
# Two palettes as a themed home screen derives them from a wallpaper: ground and glyph.
# What the system puts below a dark icon on transparency, about the middle of its gradient.
_DARK_GROUND = (34, 34, 36)
_THEMES = {"light": ((214, 226, 216), (30, 74, 52)), "dark": ((34, 51, 43), (190, 221, 201))}
_APPLE_CORNER = "squircle"
_LABEL, _GAP, _LEFT, _TOP, _LOWEST_BAND = 16, 14, 150, 64, 96


@dataclass(frozen=True)
class Cell:
    """One drawing with its label. ``edge`` is the true edge in pixels, 0 for as large as the grid allows."""

    label: str
    draw: Draw
    edge: int = 0


@dataclass(frozen=True)
class Row:
    """One line of cells: whose icons they are, and what they show."""

    title: str
    subtitle: str
    cells: tuple[Cell, ...]


def proof_rows(tree: Tree, projects: Iterable[Project], flavor: str = "") -> list[Row]:
    """Return the rows to draw: one per icon, and one per flavor that has an icon of its own."""
    rows: list[Row] = []
    for project in projects:
        mains = {home.module: home for home in project.icons if not home.flavor and home.style != "tiles"}
        for home in project.icons:
            chosen = same_flavor(home.flavor, flavor) if flavor else not home.flavor or has_own_icon(tree, home)
            if chosen:
                rows += _rows_of(tree, home, mains.get(home.module, home))
    return rows


def _rows_of(tree: Tree, home: IconHome, main: IconHome) -> list[Row]:
    title = f"{_PLATFORMS.get(home.platform, home.platform)} {home.module}"
    if home.style == "android-resource":
        icon = AndroidIcon(tree, home, main.folder)
        return [Row(title, home.flavor or "main", _android_cells(icon, home))]
    if home.style == "asset-catalog":
        own = home if has_own_icon(tree, home) else main
        return [Row(title, own.name, _apple_cells(AppleIcon(tree, own)))]
    there = [tile for tile in home.tiles if tile.file in tree.known or not (tile.offered or tile.when)]
    shown = tuple(Cell(tile.slot, partial(tile_today, tree, tile.file), tile.height) for tile in there[:_MOST_TILES])
    return [Row(title, home.name, shown)] if shown else []


# More single pictures than this are not told apart in one row.
_MOST_TILES = 8
_PLATFORMS = {
    "android": "Android",
    "web": "Web",
    "ios": "iOS",
    "macos": "macOS",
    "tvos": "tvOS",
    "watchos": "watchOS",
    "visionos": "visionOS",
}


def _android_cells(icon: AndroidIcon, home: IconHome) -> tuple[Cell, ...]:
    def adaptive(shape: str) -> Draw:
        return lambda size: _adaptive(icon, shape, size)

    cells = [Cell(name, adaptive(shape)) for name, shape in _MASKS]
    cells += [Cell(f"themed {name}", _themed(icon, name)) for name in _THEMES]
    cells.append(Cell("legacy", lambda size: icon.legacy(size)))
    if home.round_name:
        cells.append(Cell("round", lambda size: icon.legacy(size, home.round_name)))
    return tuple(cells)


_MASKS = (("circle", "circle"), ("rounded", "rounded"), ("squircle", "squircle"), ("teardrop", "teardrop"))


def _adaptive(icon: AndroidIcon, shape: str, size: int) -> Picture | None:
    """Compose the layers as a launcher does, cut to a mask, with the safe zone drawn faintly."""
    edge = round(size * LAYER_DP / SHOWN_DP)
    edge += (edge - size) % 2
    front, back = icon.layer("foreground", edge), icon.layer("background", edge)
    if front is None and back is None:
        return _shrunk(icon, shape, size)
    empty = np.zeros((edge, edge, 4), dtype=np.float32)
    both = over(front if front is not None else empty, back if back is not None else empty)
    start = (edge - size) // 2
    shown = masked(np.ascontiguousarray(both[start : start + size, start : start + size]), shape)
    return over(_ring(size, _luminance(shown) > _LIGHT), shown)


def _shrunk(icon: AndroidIcon, shape: str, size: int) -> Picture | None:
    """Draw what a launcher makes of an icon without layers: the old picture, shrunk onto white."""
    legacy = icon.legacy(size)
    if legacy is None:
        return None
    white = np.ones((size, size, 4), dtype=np.float32)
    return masked(over(placed(legacy, size, _SHRUNK), white), shape)


# The share of the mask that launchers leave to a picture that is not adaptive.
_SHRUNK = 0.7


# From this mean luminance on, a ground is light, and the safe zone is drawn on it in black.
_LIGHT = 0.4


def _luminance(picture: Picture) -> float:
    weights = np.array([0.2126, 0.7152, 0.0722], dtype=np.float32)
    return float((picture[..., :3] @ weights).mean())


def _ring(size: int, dark: bool) -> Picture:
    """Draw the safe zone: a faint circle of 66 dp, in a picture whose edge is 72 dp."""
    steps = (np.arange(size) + 0.5) / size * 2 - 1
    distance = np.abs(np.hypot(steps[None, :], steps[:, None]) - SAFE_DP / SHOWN_DP) * size / 2
    cover = np.clip(1.0 - distance, 0, 1).astype(np.float32) * np.float32(0.45)
    ink = colour(0, 0, 0) if dark else colour(255, 255, 255)
    return (cover[..., None] * ink).astype(np.float32)


def _themed(icon: AndroidIcon, theme: str) -> Draw:
    def draw(size: int) -> Picture | None:
        edge = round(size * LAYER_DP / SHOWN_DP)
        edge += (edge - size) % 2
        glyph = icon.layer("monochrome", edge)
        if glyph is None:
            return None
        ground, ink = _THEMES[theme]
        start = (edge - size) // 2
        cut = silhouette(glyph)[start : start + size, start : start + size]
        picture = over(cut * colour(*ink), np.ones_like(cut) * colour(*ground))
        return masked(np.ascontiguousarray(picture), "circle")

    return draw


def _apple_cells(icon: AppleIcon) -> tuple[Cell, ...]:
    def at(appearance: str) -> Draw:
        def draw(size: int) -> Picture | None:
            picture = icon.picture(size, appearance)
            if picture is None:
                return None
            return masked(over(picture, flat(size, colour(*_DARK_GROUND))), _APPLE_CORNER)

        return draw

    return (
        Cell("home 60@2x", at(""), 120),
        Cell("spotlight 40@2x", at(""), 80),
        Cell("settings 29@2x", at(""), 58),
        Cell("dark", at("dark"), 120),
        Cell("tinted", at("tinted"), 120),
        Cell("store tile", at("")),
        Cell("as delivered", lambda size: icon.picture(size)),
    )


def draw_proof(rows: list[Row], width: int, height: int, title: str) -> bytes:
    """Draw the rows into one PNG of *width* x *height* pixels; it grows downwards where the rows need more."""
    from PIL import Image, ImageDraw

    columns = max((len(row.cells) for row in rows), default=1)
    height = max(height, _TOP + _GAP + len(rows) * _LOWEST_BAND)
    band = (height - _TOP - _GAP) // max(len(rows), 1)
    cell_width = (width - _LEFT - _GAP * 2) // columns
    page = Image.new("RGB", (width, height), _PAGE)
    pen = ImageDraw.Draw(page)
    pen.text((_GAP * 2, 20), title, font=_font(22), fill=_INK)
    edge = max(16, min(cell_width - _GAP, band - _LABEL - _GAP * 3, 160))
    for number, row in enumerate(rows):
        top = _TOP + number * band
        _draw_row(page, pen, row, top, band, cell_width, edge)
    if not rows:
        pen.text((_GAP * 2, _TOP), "No launcher icon is declared here.", font=_font(16), fill=_DIM)
    out = io.BytesIO()
    page.save(out, "PNG")
    return out.getvalue()


def _draw_row(
    page: Image.Image, pen: ImageDraw.ImageDraw, row: Row, top: int, band: int, cell_width: int, edge: int
) -> None:
    pen.line((_GAP * 2, top, page.width - _GAP * 2, top), fill=_LINE)
    middle = top + (band - _LABEL) // 2
    pen.text((_GAP * 2, middle - 12), _fitting(row.title, _LEFT - _GAP * 2, 15), font=_font(15), fill=_INK)
    pen.text((_GAP * 2, middle + 8), _fitting(row.subtitle, _LEFT - _GAP * 2, 12), font=_font(12), fill=_DIM)
    for index, cell in enumerate(row.cells):
        centre = _LEFT + _GAP + index * cell_width + cell_width // 2
        size = min(cell.edge or edge, edge)
        left, up = centre - size // 2, middle - size // 2
        picture = cell.draw(size)
        if picture is None:
            _draw_absent(pen, left, up, size)
        else:
            _paste(page, picture, left, up)
        true = f"{cell.label}" if not cell.edge or size == cell.edge else f"{cell.label} (reduced)"
        text = _fitting(true, cell_width - 4, 12)
        pen.text((centre, middle + edge // 2 + _GAP), text, font=_font(12), fill=_DIM, anchor="mm")


def _paste(page: Image.Image, picture: Picture, left: int, top: int) -> None:
    from PIL import Image

    image = Image.fromarray(to_bytes(picture))
    page.paste(image, (left, top), image)


def _draw_absent(pen: ImageDraw.ImageDraw, left: int, top: int, size: int) -> None:
    """Draw a dashed frame with “none” where there is nothing to show."""
    for offset in range(0, size, 10):
        stop = min(offset + 5, size)
        for line in (
            (left + offset, top, left + stop, top),
            (left + offset, top + size, left + stop, top + size),
            (left, top + offset, left, top + stop),
            (left + size, top + offset, left + size, top + stop),
        ):
            pen.line(line, fill=_DIM)
    pen.text((left + size // 2, top + size // 2), "none", font=_font(12), fill=_DIM, anchor="mm")


def _font(size: int) -> ImageFont.FreeTypeFont | ImageFont.ImageFont:
    """Return the face that ships with the imaging library: the same on every machine."""
    from PIL import ImageFont

    return ImageFont.load_default(size)


def _fitting(text: str, width: int, size: int) -> str:
    """Shorten *text* to a width in pixels."""
    font = _font(size)
    if font.getlength(text) <= width:
        return text
    while text and font.getlength(text + "…") > width:
        text = text[:-1]
    return text + "…"
