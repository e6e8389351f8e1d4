"""Launch screens with a brand's logo: the pictures that a kind names, drawn at the size that they have."""

from __future__ import annotations

import re
from pathlib import Path

from onomaxis.formats.color import channels
from onomaxis.formats.source import remembered
from onomaxis.projects.launch import LaunchPicture, LaunchWish
from onomaxis.tree import Tree

# The share of a filling picture's shorter edge that the logo takes.
_SHARE = 0.36
# Templates keep the place of the logo with a picture of one pixel; what stands there has this edge, in points.
_VISIBLE = 8
_POINTS = 168


def draw_launch(tree: Tree, pictures: list[LaunchPicture], wish: LaunchWish) -> dict[str, bytes]:
    """Draw the logo into every picture: alone on transparency, or in the middle of the ground."""
    if not wish.logo or not pictures:
        return {}
    from onomaxis.icons.art import art_data
    from onomaxis.icons.headers import picture_file

    logo = art_data(Path(tree.root) / wish.logo)
    drawn: dict[str, bytes] = {}
    for picture in pictures:
        data = tree.read(picture.source) if picture.source else None
        head = picture_file(data) if data else None
        if head is None and not picture.size:
            continue
        width, height = _room(picture, (head.width, head.height) if head else (0, 0))
        filling = 0 < picture.filling <= min(width, height)
        ground = wish.background if filling else ""
        kind = {"webp": "webp", "jpg": "jpeg"}.get(picture.target.rpartition(".")[2], "png")
        drawn[picture.target] = _picture(logo, wish.logo, width, height, ground, kind)
    return drawn


def _room(picture: LaunchPicture, there: tuple[int, int]) -> tuple[int, int]:
    """Return the size of a picture: what it has, and what a person can see where it only keeps a place."""
    if picture.size:
        return picture.size, picture.size
    if min(there) >= _VISIBLE:
        return there
    edge = _POINTS * int(scale[1] if (scale := re.search(r"@([123])x\.", picture.target)) else 1)
    return edge, edge


@remembered(64, 1 << 20)
def _picture(logo: bytes, name: str, width: int, height: int, ground: str, kind: str) -> bytes:
    import numpy as np

    from onomaxis.icons.art import art_of
    from onomaxis.icons.encode import encoded
    from onomaxis.icons.pixels import colour, over

    edge = round(min(width, height) * (_SHARE if ground else 1.0))
    canvas = np.zeros((height, width, 4), dtype=np.float32)
    if ground:
        red, green, blue, _ = channels(ground)
        canvas[...] = colour(red, green, blue)
    shown = art_of(name, logo).draw(max(edge, 1))
    top, left = (height - shown.shape[0]) // 2, (width - shown.shape[1]) // 2
    layer = np.zeros_like(canvas)
    layer[top : top + shown.shape[0], left : left + shown.shape[1]] = shown
    return encoded(over(layer, canvas), kind, opaque=bool(ground))
