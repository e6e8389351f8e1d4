"""The home screen: each icon with its name below it among neutral neighbours, on light, dark and busy grounds."""

from __future__ import annotations

from collections.abc import Sequence

from onomaxis.icons.labels import LABELS
from onomaxis.icons.sheets.paper import NEUTRAL, Colour, Paper, neutral
from onomaxis.icons.sheets.shown import APPLE_CORNER, THEMES, TINT, Shown, by_page, flavors_of

# Platform, look, ground, title, and how the name is written: dark ink or light.
_PANELS = (
    ("android", "plain", "light", "Android, light", False),
    ("android", "plain", "dark", "Android, dark", True),
    ("android", "plain", "busy", "Android, busy", True),
    ("android", "themed light", "light", "Android, themed", False),
    ("ios", "plain", "light", "iOS, light", False),
    ("ios", "dark", "dark", "iOS, dark", True),
    ("ios", "plain", "busy", "iOS, busy", True),
    ("ios", "tinted", "dark", "iOS, tinted", True),
)
_EDGE = {"android": 56, "ios": 60}
_COLUMNS, _ROWS, _PER_PAGE = 4, 3, 6
# Where the apps stand among their neighbours, in reading order.
_PLACES = (0, 2, 5, 7, 8, 10)
_DARK_INK, _LIGHT_INK = (38, 42, 40), (250, 250, 250)


def home_pages(shown: Sequence[Shown], paper: Paper, title: str) -> list[tuple[Paper, tuple[str, ...]]]:
    """Draw the sheet: as many pages as it takes, each with the flavors that are on it."""
    platforms = [name for name in _EDGE if any(item.platform == name for item in shown)]
    pages = []
    for part in by_page(shown, _PER_PAGE):
        note = "names in the platforms' text size, cut off where they cut them"
        page = paper.titled(f"{title}: home screen", note)
        panels = [panel for panel in _PANELS if panel[0] in platforms]
        for number, panel in enumerate(panels):
            column, row = number % 4, number // 4
            mine = [item for item in part if item.platform == panel[0]]
            _panel(page, 28 + column * 309, 66 + row * 366, panel, mine)
        pages.append((page, flavors_of(part)))
    return pages


def _panel(page: Paper, left: float, top: float, panel: tuple[str, str, str, str, bool], mine: list[Shown]) -> None:
    platform, look, ground, title, bright = panel
    page.text(left + 4, top + 8, title, 13, page.palette.dim)
    box = (left, top + 22, left + 297, top + 350)
    page.wallpaper(box, ground)
    rule, edge = LABELS[platform], _EDGE[platform]
    for cell in range(_COLUMNS * _ROWS):
        x = left + 148.5 + (cell % _COLUMNS - 1.5) * 73
        y = top + 42 + (cell // _COLUMNS) * 102
        at = _PLACES.index(cell) if cell in _PLACES else -1
        if 0 <= at < len(mine):
            picture, label = mine[at].draw(look, page.px(edge)), mine[at].label
        else:
            shape = APPLE_CORNER if platform == "ios" else "circle"
            picture = neutral(cell, page.px(edge), shape, look, _theme(look))
            label = NEUTRAL[cell % len(NEUTRAL)][0]
        page.picture(picture, x - edge / 2, y, edge)
        ink: Colour = _LIGHT_INK if bright else _DARK_INK
        page.text(x, y + edge + 12, label, rule.size, ink, anchor="mm", name=rule.face, room=rule.room, shadow=bright)


def _theme(look: str) -> tuple[Colour, Colour] | None:
    if look.startswith("themed"):
        return THEMES[look.rpartition(" ")[2]]
    return ((58, 48, 34), TINT) if look == "tinted" else None
