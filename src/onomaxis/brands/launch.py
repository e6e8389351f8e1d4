"""Launch screens with a brand's logo: the pictures that a kind names, drawn at the size that they have."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from onomaxis.formats.color import channels
from onomaxis.projects.launch import LaunchPicture, LaunchWish
from onomaxis.tree import Tree

if TYPE_CHECKING:
    from onomaxis.icons.art import Art

# The share of a filling picture's shorter edge that the logo takes.
_SHARE = 0.36


def draw_launch(tree: Tree, pictures: list[LaunchPicture], wish: LaunchWish) -> dict[str, bytes]:
    """Draw the logo into every picture: alone on transparency, or in the middle of the ground."""
    if not wish.logo or not pictures:
        return {}
    from onomaxis.icons.art import load_art
    from onomaxis.icons.present import picture_file

    art = load_art(Path(tree.root) / wish.logo)
    drawn: dict[str, bytes] = {}
    for picture in pictures:
        data = tree.read(picture.source)
        head = picture_file(data) if data else None
        if head is not None:
            filling = 0 < picture.filling <= min(head.width, head.height)
            ground = wish.background if filling else ""
            drawn[picture.target] = _picture(art, head.width, head.height, ground, picture.target)
    return drawn


def _picture(art: Art, width: int, height: int, ground: str, path: str) -> bytes:
    import numpy as np

    from onomaxis.icons.encode import encoded
    from onomaxis.icons.pixels import colour, over

    edge = round(min(width, height) * (_SHARE if ground else 1.0))
    canvas = np.zeros((height, width, 4), dtype=np.float32)
    if ground:
        red, green, blue, _ = channels(ground)
        canvas[...] = colour(red, green, blue)
    logo = art.draw(max(edge, 1))
    top, left = (height - logo.shape[0]) // 2, (width - logo.shape[1]) // 2
    layer = np.zeros_like(canvas)
    layer[top : top + logo.shape[0], left : left + logo.shape[1]] = logo
    kind = "webp" if path.endswith(".webp") else "jpeg" if path.endswith(".jpg") else "png"
    return encoded(over(layer, canvas), kind, opaque=bool(ground))
