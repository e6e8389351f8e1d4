"""The app switcher and the settings: small icons beside or above their names."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence

from onomaxis.icons.labels import LABELS
from onomaxis.icons.sheets.paper import NEUTRAL, Paper, neutral
from onomaxis.icons.sheets.shown import APPLE_CORNER, Shown, by_page, flavors_of
from onomaxis.platforms import PLATFORM_NAMES, PLATFORMS

Pages = list[tuple[Paper, tuple[str, ...]]]
Column = tuple[float, str, list[Shown]]


def pages_of(shown: Sequence[Shown], paper: Paper, title: str, draw: Callable[[Paper, list[Shown]], None]) -> Pages:
    """Return a sheet's pages, each drawn with what stands on it."""
    pages: Pages = []
    for part in by_page(shown, 6):
        page = paper.titled(title)
        draw(page, part)
        pages.append((page, flavors_of(part)))
    return pages


def columns(page: Paper, part: Sequence[Shown], titles: Mapping[str, str]) -> Iterator[Column]:
    """Yield a column for each platform: its left edge, the platform, and what is shown of it; its title is drawn."""
    for number, (platform, name) in enumerate(titles.items()):
        left = 28 + number * 618
        page.text(left + 4, 78, name, 13, page.palette.dim)
        yield left, platform, [item for item in part if item.platform == platform]


def switcher_pages(shown: Sequence[Shown], paper: Paper, title: str) -> Pages:
    """Draw the app switcher: a row of cards for each platform."""

    def draw(page: Paper, part: list[Shown]) -> None:
        for row, platform in enumerate(PLATFORMS):
            page.text(32, 78 + row * 366, PLATFORM_NAMES[platform], 13, page.palette.dim)
            for column, item in enumerate(item for item in part if item.platform == platform):
                _card(page, 28 + column * 206, 96 + row * 366, item)

    return pages_of(shown, paper, f"{title}: app switcher", draw)


def _card(page: Paper, left: float, top: float, item: Shown) -> None:
    """Draw a card with a page of no app: the icon on its edge (Android), or with the name above it (iOS)."""
    palette, rule = page.palette, LABELS[item.platform]
    box = (left, top + 34, left + 190, top + 330)
    page.panel(box, palette.panel, 18, palette.line)
    for step in range(4):
        wide = (150, 120, 136, 90)[step]
        page.panel((left + 20, top + 92 + step * 30, left + 20 + wide, top + 104 + step * 30), palette.line, 6)
    page.panel((left + 20, top + 232, left + 170, top + 306), palette.line, 10)
    if item.platform == "android":
        page.picture(item.draw("plain", page.px(44)), left + 73, top + 12, 44)
        page.text(left + 95, top + 70, item.label, 14, anchor="mm", name=rule.face, room=170)
    else:
        page.picture(item.draw("plain", page.px(24)), left + 2, top + 4, 24)
        page.text(left + 32, top + 16, item.label, 13, name=rule.face, room=158)


def settings_pages(shown: Sequence[Shown], paper: Paper, title: str) -> Pages:
    """Draw the list of apps in the settings of each platform, with neutral neighbours between."""

    titles = {platform: PLATFORM_NAMES[platform] for platform in PLATFORMS}

    def draw(page: Paper, part: list[Shown]) -> None:
        for left, platform, mine in columns(page, part, titles):
            page.panel((left, 92, left + 606, 772), page.palette.panel, 16, page.palette.line)
            for number in range(10):
                place = _ROWS.get(number, -1)
                _row(page, left, 104 + number * 66, platform, number, mine[place] if 0 <= place < len(mine) else None)

    return pages_of(shown, paper, f"{title}: settings", draw)


# In which row of the list which app stands.
_ROWS = {1: 0, 3: 1, 4: 2, 6: 3, 7: 4, 9: 5}


def _row(page: Paper, left: float, top: float, platform: str, number: int, item: Shown | None) -> None:
    edge = 40 if platform == "android" else 29
    shape, name = ("circle" if platform == "android" else APPLE_CORNER), LABELS[platform].face
    label = item.label if item is not None else NEUTRAL[number % len(NEUTRAL)][0]
    if item is not None:
        picture = item.draw("plain", page.px(edge))
    else:
        picture = neutral(number, page.px(edge), shape, "plain")
    page.picture(picture, left + 22, top + 28 - edge / 2, edge)
    if platform == "android":
        page.text(left + 82, top + 20, label, 16, name=name, room=440)
        page.text(left + 82, top + 42, "24 MB", 13, page.palette.dim, name=name)
    else:
        page.text(left + 68, top + 28, label, 17, name=name, room=470)
        page.text(left + 584, top + 28, "›", 20, page.palette.dim, anchor="rm")
    if number < 9:
        line = (page.px(left + 68), page.px(top + 61), page.px(left + 590), page.px(top + 61))
        page.pen.line(line, fill=page.palette.line)
