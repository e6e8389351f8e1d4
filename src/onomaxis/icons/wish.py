"""What is asked for when icons are drawn, and what a person should know of the art that was given."""

from __future__ import annotations

from typing import Literal, NamedTuple

from onomaxis.model import IconHome, Tile


class IconWish(NamedTuple):
    """What was asked for: paths of art, the inset, shapes, strictness.

    The inset is a share of the edge, ``auto`` (what shows is fitted into the safe zone) or nothing: art that fills
    its edges is shown from edge to edge, all other art fitted.
    """

    art: str = ""
    foreground: str = ""
    background: str = ""
    monochrome: str = ""
    legacy_art: str = ""
    ios_art: str = ""
    ios_dark: str = ""
    ios_tinted: str = ""
    inset: float | Literal["auto"] | None = None
    legacy_shape: str = "rounded"
    slots: str = "keep"
    icon_name: str = ""
    platforms: tuple[str, ...] = ()
    apps: tuple[str, ...] = ()
    flavor: str = ""
    store_art: str = ""
    notification: str = ""
    strict: bool = False
    ribbon: str = ""
    ribbon_color: str = ""
    ribbon_ink: str = ""
    ribbon_corner: str = ""

    @property
    def parts(self) -> frozenset[str]:
        """What the art that was given covers: everything, or the single layers and appearances that have art."""
        if self.art or self.foreground:
            return EVERYTHING
        given = {
            "background": self.background,
            "monochrome": self.monochrome,
            "legacy": self.legacy_art,
            "light": self.ios_art,
            "dark": self.ios_dark,
            "tinted": self.ios_tinted,
        }
        return frozenset(name for name, path in given.items() if path)


# What an icon consists of: Android's layers and old pictures, Apple's appearances.
ANDROID_PARTS = frozenset(("foreground", "background", "monochrome", "legacy"))
APPLE_PARTS = frozenset(("light", "dark", "tinted"))
EVERYTHING = ANDROID_PARTS | APPLE_PARTS

_PART_OF = {"apple": "light", "apple-dark": "dark", "apple-tinted": "tinted"}


def part_of(tile: Tile) -> str:
    """Return the part of the icon that a single picture shows; ``foreground`` for what shows all of it."""
    return _PART_OF.get(tile.shape, tile.shape if tile.shape in ("background", "monochrome") else "foreground")


def is_for(tile: Tile, platforms: tuple[str, ...]) -> bool:
    """Tell whether a framework's picture is for one of some platforms; none named: for any."""
    if part_of(tile) in APPLE_PARTS:
        own = "ios"
    else:
        own = "android" if tile.shape in ANDROID_PARTS else "web" if tile.slot.startswith("favicon") else ""
    return not platforms or own in platforms or (not own and bool({"android", "ios"} & set(platforms)))


def is_covered(home: IconHome, parts: frozenset[str]) -> bool:
    """Tell whether any art is for a home: Apple's alone draws Apple's icons alone."""
    if home.style == "tiles":
        return "foreground" in parts or any(part_of(tile) in parts for tile in home.tiles)
    return bool(parts & (APPLE_PARTS if home.style == "asset-catalog" else ANDROID_PARTS))


class Warning(NamedTuple):
    """Something a person should know about the art; ``code`` is stable."""

    code: str
    message: str
    file: str = ""
