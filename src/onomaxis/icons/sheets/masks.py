"""One picture of the icons as users will see them: masks, themed icons, legacy, Apple's sizes, the store tile."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from functools import partial
from typing import NamedTuple

import numpy as np

from onomaxis.flavor_names import Singles, same_flavor
from onomaxis.icons.labels import PLAIN, face, shortened
from onomaxis.icons.pixels import Picture, colour, flat, masked, over
from onomaxis.icons.present import AndroidIcon, AppleIcon, tile_today
from onomaxis.icons.sheets.paper import Paper, absent
from onomaxis.icons.sheets.shown import APPLE_CORNER, DARK_GROUND, THEMES, composed, shrunk, themed
from onomaxis.icons.slots import SAFE_DP, SHOWN_DP
from onomaxis.icons.standing import has_own_icon
from onomaxis.model import IconHome
from onomaxis.platforms import PLATFORM_NAMES
from onomaxis.projects.project import Project, flavors_together
from onomaxis.tree import Tree

Draw = Callable[[int], Picture | None]

_LABEL, _GAP, _LEFT, _TOP, _LOWEST_BAND = 16, 14, 150, 64, 96


class Cell(NamedTuple):
    """One drawing with its label. ``edge`` is the true edge in pixels, 0 for as large as the grid allows."""

    label: str
    draw: Draw
    edge: int = 0


class Row(NamedTuple):
    """One line of cells: whose icons they are, and what they show."""

    title: str
    subtitle: str
    cells: tuple[Cell, ...]
    flavor: str = ""


def proof_rows(tree: Tree, projects: Iterable[Project], flavor: str = "") -> list[Row]:
    """Return the rows to draw: one per icon, and one per flavor that has an icon of its own; of one flavor its own.

    A combination of flavors shows the icon of the flavor that has one.
    """
    rows: list[Row] = []
    projects = tuple(projects)
    known = flavors_together(projects)
    for project in projects:
        mains = {home.module: home for home in project.icons if not home.flavor and home.style != "tiles"}
        for home in project.icons:
            own = not home.flavor or has_own_icon(tree, home)
            asked = same_flavor(home.flavor, flavor) or (own and _shows(flavor, home.flavor, known))
            chosen = asked if flavor else own
            if chosen:
                rows += _rows_of(tree, home, mains.get(home.module, home))
    return rows


def _shows(flavor: str, drawn: str, known: Singles) -> bool:
    """Tell whether the icon of some flavor is that of what is asked for, or of a part or variant of it."""
    parts, whose = known.parts(flavor), known.parts(drawn)
    return bool(parts and whose) and (parts <= whose or whose <= parts)


def _rows_of(tree: Tree, home: IconHome, main: IconHome) -> list[Row]:
    title = f"{PLATFORM_NAMES.get(home.platform, home.platform)} {home.module}"
    if home.style == "android-resource":
        icon = AndroidIcon(tree, home, main.folder)
        return [Row(title, home.flavor or "main", _android_cells(icon, home), home.flavor)]
    if home.style == "asset-catalog":
        own = home if has_own_icon(tree, home) else main
        return [Row(title, own.name, _apple_cells(AppleIcon(tree, own)), home.flavor)]
    there = [tile for tile in home.tiles if tile.file in tree.known or not (tile.offered or tile.when)]
    shown = tuple(Cell(tile.slot, partial(tile_today, tree, tile.file), tile.height) for tile in there[:_MOST_TILES])
    return [Row(title, home.name, shown)] if shown else []


# More single pictures than this are not told apart in one row.
_MOST_TILES = 8


def _android_cells(icon: AndroidIcon, home: IconHome) -> tuple[Cell, ...]:
    def adaptive(shape: str) -> Draw:
        return lambda size: _adaptive(icon, shape, size)

    cells = [Cell(name, adaptive(shape)) for name, shape in _MASKS]
    cells += [Cell(f"themed {name}", _themed(icon, name)) for name in THEMES]
    cells.append(Cell("legacy", lambda size: icon.legacy(size)))
    if home.round_name:
        cells.append(Cell("round", lambda size: icon.legacy(size, home.round_name)))
    return tuple(cells)


_MASKS = (("circle", "circle"), ("rounded", "rounded"), ("squircle", "squircle"), ("teardrop", "teardrop"))


def _adaptive(icon: AndroidIcon, shape: str, size: int) -> Picture | None:
    """Compose the layers as a launcher does, cut to a mask, with the safe zone drawn faintly."""
    both = composed(icon.layer, size)
    if both is None:
        legacy = icon.legacy(size)
        return shrunk(legacy, shape) if legacy is not None else None
    picture = masked(both, shape)
    return over(_ring(size, _luminance(picture) > _LIGHT), picture)


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
    return lambda size: themed(icon.layer, theme, size)


def _apple_cells(icon: AppleIcon) -> tuple[Cell, ...]:
    def at(appearance: str) -> Draw:
        def draw(size: int) -> Picture | None:
            picture = icon.picture(size, appearance)
            if picture is None:
                return None
            return masked(over(picture, flat(size, colour(*DARK_GROUND))), APPLE_CORNER)

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


def mask_pages(rows: Sequence[Row], paper: Paper, title: str) -> list[tuple[Paper, tuple[str, ...]]]:
    """Draw the sheet: as many pages as it takes, with the subtitles of the rows that are on each."""
    most = max(1, (paper.height - _TOP - _GAP) // _LOWEST_BAND)
    parts = [rows[at : at + most] for at in range(0, len(rows), most)] or [()]
    return [(_page(part, paper, title), tuple(dict.fromkeys(row.flavor for row in part))) for part in parts]


def _page(rows: Sequence[Row], paper: Paper, title: str) -> Paper:
    page = Paper(paper.width, paper.height, paper.palette)
    columns = max((len(row.cells) for row in rows), default=1)
    band = (page.height - _TOP - _GAP) // max(len(rows), 1)
    cell_width = (page.width - _LEFT - _GAP * 2) // columns
    page.pen.text((_GAP * 2, 20), f"{title}: masks", font=face(PLAIN, 22), fill=page.palette.ink)
    edge = max(16, min(cell_width - _GAP, band - _LABEL - _GAP * 3, 160))
    for number, row in enumerate(rows):
        _draw_row(page, row, _TOP + number * band, band, cell_width, edge)
    if not rows:
        said = "No launcher icon is declared here."
        page.pen.text((_GAP * 2, _TOP), said, font=face(PLAIN, 16), fill=page.palette.dim)
    return page


def _draw_row(page: Paper, row: Row, top: int, band: int, cell_width: int, edge: int) -> None:
    from PIL import Image

    from onomaxis.icons.pixels import to_bytes

    pen, palette = page.pen, page.palette
    pen.line((_GAP * 2, top, page.width - _GAP * 2, top), fill=palette.line)
    middle = top + (band - _LABEL) // 2
    for text, size, offset, ink in ((row.title, 15, -12, palette.ink), (row.subtitle, 12, 8, palette.dim)):
        shown = shortened(text, PLAIN, size, _LEFT - _GAP * 2)
        pen.text((_GAP * 2, middle + offset), shown, font=face(PLAIN, size), fill=ink)
    for index, cell in enumerate(row.cells):
        centre = _LEFT + _GAP + index * cell_width + cell_width // 2
        size = min(cell.edge or edge, edge)
        left, up = centre - size // 2, middle - size // 2
        picture = cell.draw(size)
        if picture is None:
            absent(pen, left, up, size, palette.dim)
        else:
            image = Image.fromarray(to_bytes(picture))
            page.image.paste(image, (left, up), image)
        true = f"{cell.label}" if not cell.edge or size == cell.edge else f"{cell.label} (reduced)"
        label = shortened(true, PLAIN, 12, cell_width - 4)
        pen.text((centre, middle + edge // 2 + _GAP), label, font=face(PLAIN, 12), fill=palette.dim, anchor="mm")
