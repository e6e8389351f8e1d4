"""The sheets that were asked for, as files: one each, more where the flavors need more pages."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from pathlib import PurePath
from typing import NamedTuple

from onomaxis.icons.sheets.home import home_pages
from onomaxis.icons.sheets.lists import settings_pages, switcher_pages
from onomaxis.icons.sheets.masks import mask_pages, proof_rows
from onomaxis.icons.sheets.paper import PALETTES, Paper
from onomaxis.icons.sheets.shown import all_shown
from onomaxis.icons.sheets.store import store_pages
from onomaxis.platforms import PLATFORMS
from onomaxis.projects.project import Project
from onomaxis.tree import Tree
from onomaxis.workers import spread

SHEETS = ("home", "switcher", "settings", "store", "masks")
_OF_SHOWN = {"home": home_pages, "switcher": switcher_pages, "settings": settings_pages, "store": store_pages}


class SheetFile(NamedTuple):
    """One page of a sheet: its name, the page's number, the flavors on it, its size in pixels, its bytes (PNG)."""

    name: str
    sheet: str
    page: int
    flavors: tuple[str, ...]
    width: int
    height: int
    data: bytes


class SheetWish(NamedTuple):
    """What is asked for: sheets, a flavor, platforms (none: all), the size of a page, ``light`` or ``dark``."""

    sheets: Sequence[str] = ()
    flavor: str = ""
    width: int = 1280
    height: int = 800
    appearance: str = "light"
    platforms: Sequence[str] = ()


def draw_sheets(tree: Tree, projects: Iterable[Project], wish: SheetWish, out: str, title: str) -> list[SheetFile]:
    """Draw the sheets. One sheet of one page is called *out*; more are called after it."""
    left_out = {*PLATFORMS} - {*(wish.platforms or PLATFORMS)}
    every = [project for project in projects if project.platform not in left_out]
    sheets = [name for name in SHEETS if name in wish.sheets or not wish.sheets]
    paper = Paper(wish.width, wish.height, PALETTES[wish.appearance])
    shown = all_shown(tree, every, wish.flavor)

    def drawn(sheet: str) -> list[tuple[bytes, tuple[str, ...]]]:
        if sheet == "masks":
            pages = mask_pages(proof_rows(tree, every, wish.flavor), paper, title)
        else:
            pages = _OF_SHOWN[sheet](shown, paper, title)
        return [(page.data(), flavors) for page, flavors in pages]

    found = list(zip(sheets, spread(sheets, drawn), strict=True))
    alone = len(found) == 1 and len(found[0][1]) == 1
    path = PurePath(out) if PurePath(out).suffix else PurePath(f"{out}.png")
    return [
        SheetFile(
            str(path if alone else path.with_name(_called(path, sheet, number))),
            sheet,
            number,
            flavors,
            wish.width,
            wish.height,
            data,
        )
        for sheet, pages in found
        for number, (data, flavors) in enumerate(pages, 1)
    ]


def _called(path: PurePath, sheet: str, page: int) -> str:
    return f"{path.stem}-{sheet}{f'-{page}' if page > 1 else ''}{path.suffix}"
