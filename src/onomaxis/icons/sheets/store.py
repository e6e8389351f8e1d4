"""The stores: the tile in a list of results, and the large picture of the listing."""

from __future__ import annotations

from collections.abc import Sequence

from onomaxis.icons.labels import LABELS
from onomaxis.icons.pixels import masked
from onomaxis.icons.sheets.lists import Pages, columns, pages_of
from onomaxis.icons.sheets.paper import Paper
from onomaxis.icons.sheets.shown import Shown

_STORES = {"android": "Google Play", "ios": "App Store"}
# Google Play, "Icon design specifications": corners of 20 % of the edge; Apple's squares get the home screen's.
_SHAPES = {"android": "store", "ios": "squircle"}


def store_pages(shown: Sequence[Shown], paper: Paper, title: str) -> Pages:
    """Draw each flavor's tile in both stores, small as in a list and large as in its listing."""

    def draw(page: Paper, part: list[Shown]) -> None:
        for left, _, mine in columns(page, part, _STORES):
            for number, item in enumerate(mine):
                _tile(page, left, 92 + number * 114, item)

    return pages_of(shown, paper, f"{title}: store tile", draw)


def _tile(page: Paper, left: float, top: float, item: Shown) -> None:
    palette, face = page.palette, LABELS[item.platform].face
    page.panel((left, top, left + 606, top + 104), palette.panel, 14, palette.line)
    for edge, x in ((88, left + 10), (64, left + 520)):
        whole = item.square(page.px(edge))
        cut = masked(whole, _SHAPES[item.platform]) if whole is not None else None
        page.picture(cut, x, top + (104 - edge) / 2, edge)
    page.text(left + 116, top + 34, item.label, 19, name=face, room=380)
    page.text(left + 116, top + 60, item.flavor or "the app itself", 13, palette.dim, name=face, room=380)
    page.panel((left + 116, top + 74, left + 186, top + 94), palette.line, 10)
    page.text(left + 151, top + 84, "Open", 12, palette.ink, anchor="mm", name=face)
