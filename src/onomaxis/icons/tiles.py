"""Single pictures that a kind of project declares as data: banners, web and desktop icons, the store's pictures."""

from __future__ import annotations

from functools import partial

import numpy as np

from onomaxis.icons.encode import encoded, joined
from onomaxis.icons.layers import Fitted, IconSet
from onomaxis.icons.output import Image, Output
from onomaxis.icons.pixels import Picture, colour, flat, masked, over, placed
from onomaxis.icons.slots import LAYER_DP, LAYERS, MAC_CARD, MASKABLE, SAFE_DP, SHOWN_DP
from onomaxis.icons.wish import Warning, is_for, part_of
from onomaxis.model import IconHome, Tile
from onomaxis.tree import Tree

# The share of a wide picture's height that the safe circle takes.
_WIDE_SHARE = 0.75
_OPAQUE = ("full", "wide", "maskable", "background", "apple", "apple-tinted")


def draw_tiles(tree: Tree, home: IconHome, icons: IconSet, platforms: tuple[str, ...] = ()) -> Output:
    """Return the pictures of a home that lists its tiles; what they take the place of is removed."""
    out = Output()
    for tile in home.tiles:
        if platforms and not is_for(tile, platforms):
            continue
        if part_of(tile) not in icons.parts or tile.when not in ("", icons.form):
            continue
        missing = _missing(tile, icons)
        if missing:
            if not tile.offered:
                said = f"the {tile.slot} keeps its old art: there is no art for it ({missing})"
                out.warnings.append(Warning("not-drawn", said, tile.file))
            continue
        image = Image(tile.file, tile.width, tile.height, home.platform, tile.slot, home.flavor)
        out.image(image, partial(tile_file, tile, icons))
    if "foreground" in icons.parts:
        out.removed.update(path for path in home.replaced if path in tree.known and not out.writes(path))
    return out


def _missing(tile: Tile, icons: IconSet) -> str:
    """Return the option that would give a tile art of its own where it needs one and has none."""
    if tile.format == "svg":
        art = icons.whole or (icons.foreground.art if icons.foreground is not None else None)
        plain = art is not None and art.vector and not art.squared and icons.background is None
        return "" if plain else "--art with an SVG"
    has = {"monochrome": icons.monochrome, "apple-dark": icons.ios_dark, "apple-tinted": icons.ios_tinted}
    options = {"monochrome": "--monochrome", "apple-dark": "--ios-dark", "apple-tinted": "--ios-tinted"}
    return options[tile.shape] if tile.shape in has and has[tile.shape] is None else ""


def tile_file(tile: Tile, icons: IconSet) -> bytes:
    """Draw and encode one tile."""
    if tile.format in ("ico", "icns"):
        edges = [encoded(drawn_tile(icons, tile.shape, edge, edge)) for edge in tile.sizes]
        return joined(edges, tile.format)
    if tile.format == "svg":
        return vector_tile(icons)
    picture = drawn_tile(icons, tile.shape, tile.width, tile.height)
    return encoded(picture, tile.format, opaque=tile.shape in _OPAQUE)


def vector_tile(icons: IconSet) -> bytes:
    """Write the square as SVG: the art's own markup, on its ground, as much of the layers as a launcher shows."""
    fitted = icons.foreground if icons.whole is None else Fitted(icons.whole)
    if fitted is None:
        raise ValueError("there is no art")
    grow = LAYER_DP / SHOWN_DP if icons.whole is None else 1.0
    inner = fitted.art.nested(fitted.scale * grow, (fitted.shift[0] * grow, fitted.shift[1] * grow))
    ground = "#{:02X}{:02X}{:02X}".format(*(icons.ground or (255, 255, 255)))
    start = inner.index(">") + 1
    worn = icons.ribbon.markup(SHOWN_DP).replace("<svg ", '<svg width="1000" height="1000" ') if icons.ribbon else ""
    drawn = f'{inner[:start]}<rect width="1000" height="1000" fill="{ground}"/>{inner[start:]}'
    return f"{drawn.removesuffix('</svg>')}{worn}</svg>\n".encode()


def drawn_tile(icons: IconSet, shape: str, width: int, height: int) -> Picture:
    """Draw an icon in the shape that a tile asks for, at its size in pixels."""
    if shape == "wide":
        return _wide(icons, width, height)
    square = _square(icons, shape, min(width, height))
    if width == height:
        return square
    canvas = np.zeros((height, width, 4), dtype=np.float32)
    top, left = (height - square.shape[0]) // 2, (width - square.shape[1]) // 2
    canvas[top : top + square.shape[0], left : left + square.shape[1]] = square
    return canvas if shape not in _OPAQUE else over(canvas, canvas * 0 + _ground(icons))


def _square(icons: IconSet, shape: str, size: int) -> Picture:
    if shape in LAYERS:
        return icons.layer(shape, size)
    if shape.startswith("apple"):
        return icons.apple(size, shape.partition("-")[2])
    if shape == "art":
        return icons.legacy_picture(size, "art")
    if shape == "maskable":
        return _maskable(icons, size)
    if icons.whole is not None and shape == "rounded":
        return icons.full(size)  # art that fills its edges is shown as it is
    if shape == "card":
        card = masked(icons.full(max(1, round(size * MAC_CARD))), "card")
        return placed(card, size, card.shape[0] / size)
    return masked(icons.full(size), shape if shape != "full" else "square")


def _maskable(icons: IconSet, size: int) -> Picture:
    """Fill the square with the background; the content lies inside the circle that every mask shows.

    The safe circle of the adaptive layers is 66 of 108, that of the web 80 %: a crop of the layers brings one to the
    other. A picture without layers keeps its content by being set smaller on its own ground.
    """
    if icons.bleeds:
        return icons.full(size)
    if icons.whole is not None:
        plain = over(placed(icons.whole.draw(size), size, MASKABLE), flat(size, _ground(icons)))
        return icons.ribbon.over(plain, SAFE_DP / MASKABLE) if icons.ribbon else plain
    return icons.cropped(size, SAFE_DP / MASKABLE)


def _wide(icons: IconSet, width: int, height: int) -> Picture:
    """Draw the foreground in the middle of a wide ground."""
    if icons.bleeds:
        left = (width - height) // 2
        sides = ((0, 0), (left, width - height - left), (0, 0))
        return np.pad(icons.full(height), sides, mode="edge")
    if icons.whole is not None:
        ground = np.broadcast_to(_ground(icons), (height, width, 4)).astype(np.float32)
        canvas = np.zeros_like(ground)
        left = (width - height) // 2
        canvas[:, left : left + height] = icons.full(height)
        return over(canvas, ground)
    edge = max(width, height)
    both = over(_front(icons, edge, height), icons.layer("background", edge))
    top, left = (edge - height) // 2, (edge - width) // 2
    strip = both[top : top + height, left : left + width]
    return over(strip, strip * 0 + _ground(icons))


def _front(icons: IconSet, edge: int, height: int) -> Picture:
    """Draw the foreground so large that its safe circle fits a strip's height."""
    scale = height / edge * _WIDE_SHARE * LAYER_DP / SAFE_DP
    drawn = icons.layer("foreground", max(1, round(edge * scale)))
    return placed(drawn, edge, drawn.shape[0] / edge)


def _ground(icons: IconSet) -> Picture:
    return colour(*(icons.ground or (255, 255, 255)))
