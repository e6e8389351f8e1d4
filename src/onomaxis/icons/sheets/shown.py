"""What is shown on the sheets: every flavor of every app, with its name and its icon as each platform draws it."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from typing import NamedTuple

import numpy as np

from onomaxis.flavor_names import selects
from onomaxis.icons.layers import grey, silhouette
from onomaxis.icons.pixels import Picture, colour, flat, masked, over, placed
from onomaxis.icons.present import AndroidIcon, AppleIcon, TileIcon
from onomaxis.icons.slots import LAYER_DP, SHOWN_DP
from onomaxis.icons.standing import has_own_icon, of_app
from onomaxis.model import IconHome, ShippedApp
from onomaxis.projects.project import Project
from onomaxis.surveys.flavors import flavors_of as all_flavors
from onomaxis.tree import Tree

# What the system puts below a dark icon on transparency, about the middle of its gradient.
DARK_GROUND = (34, 34, 36)
# Two palettes as a themed home screen derives them from a wallpaper: ground and glyph.
THEMES = {"light": ((214, 226, 216), (30, 74, 52)), "dark": ((34, 51, 43), (190, 221, 201))}
# The tint that a tinted home screen lays over grey levels.
TINT = (196, 150, 84)
APPLE_CORNER = "squircle"
# The share of the mask that launchers leave to a picture that is not adaptive.
SHRUNK = 0.7

# How an icon may look: ``plain``, and what each platform makes of it beside that.
LOOKS = {"android": ("plain", "themed light", "themed dark"), "ios": ("plain", "dark", "tinted")}


class Shown(NamedTuple):
    """One flavor of an app on one platform; ``draw`` takes a look and an edge in pixels, and gives a cut picture."""

    platform: str
    flavor: str
    label: str
    draw: Callable[[str, int], Picture | None]
    square: Callable[[int], Picture | None]


def all_shown(tree: Tree, projects: Iterable[Project], flavor: str = "") -> list[Shown]:
    """Return every flavor that has a name and an icon, those of one flavor together."""
    every = list(projects)
    known = all_flavors(every)
    found: dict[tuple[str, str, str, str], Shown] = {}
    for project in every:
        for app in project.apps:
            home = homes_of(every, project, app, tree) if project.platform in LOOKS else None
            chosen = not flavor or selects(flavor, app.variant, known)
            key = (project.platform, app.module, app.variant, project.folder)
            if home is not None and chosen and key not in found:
                label = app.name.text if app.name is not None else app.module
                found[key] = _shown(tree, project.platform, app.variant, label, home)
    order = {item.flavor: number for number, item in reversed(list(enumerate(found.values())))}
    return sorted(found.values(), key=lambda item: (order[item.flavor], item.platform))


Homes = tuple[IconHome, IconHome]


def homes_of(projects: Sequence[Project], project: Project, app: ShippedApp, tree: Tree) -> Homes | None:
    """Return an app's icon and the one that it falls back on: its module's, or the framework's single pictures."""
    style = "android-resource" if project.platform == "android" else "asset-catalog"
    own = [home for home in project.icons if home.module == app.module and home.style == style]
    own += [
        home
        for other in projects
        if other.umbrella and other.folder == project.folder
        for home in other.icons
        if home.style == style and home.platform == project.platform and not project.icons
    ]
    main = next((home for home in own if not home.flavor), None)
    for home in of_app(own, app, project.flavors):
        if home.flavor and has_own_icon(tree, home):
            return home, main or home
    if main is not None:
        return main, main
    single = (home for other in projects if other.umbrella and other.folder == project.folder for home in other.icons)
    tiles = next((home for home in single if home.style == "tiles" and home.platform == project.kind), None)
    return (tiles, tiles) if tiles is not None else None


def _shown(tree: Tree, platform: str, flavor: str, label: str, homes: Homes) -> Shown:
    home, main = homes
    if home.style == "tiles":
        tiles = TileIcon(tree, home)
        if platform == "ios":
            return Shown(platform, flavor, label, _apple(tiles.picture), tiles.picture)
        return Shown(
            platform, flavor, label, _android(tiles.layer, tiles.picture), _store(tiles.layer, tiles.picture)
        )
    if home.style == "android-resource":
        icon = AndroidIcon(tree, home, main.folder)
        return Shown(platform, flavor, label, _android(icon.layer, icon.legacy), _store(icon.layer, icon.legacy))
    apple = AppleIcon(tree, home)
    return Shown(platform, flavor, label, _apple(apple.picture), apple.picture)


Layer = Callable[[str, int], Picture | None]


def composed(layer: Layer, size: int) -> Picture | None:
    """Lay foreground over background as a launcher does, without a mask; None where there is neither."""
    edge = round(size * LAYER_DP / SHOWN_DP)
    edge += (edge - size) % 2
    front, back = layer("foreground", edge), layer("background", edge)
    if front is None and back is None:
        return None
    empty = np.zeros((edge, edge, 4), dtype=np.float32)
    both = over(front if front is not None else empty, back if back is not None else empty)
    start = (edge - size) // 2
    return np.ascontiguousarray(both[start : start + size, start : start + size])


def shrunk(legacy: Picture, shape: str) -> Picture:
    """Draw what a launcher makes of an icon without layers: the old picture, shrunk onto white."""
    size = legacy.shape[0]
    white = np.ones((size, size, 4), dtype=np.float32)
    return masked(over(placed(legacy, size, SHRUNK), white), shape)


def themed(layer: Layer, theme: str, size: int, shape: str = "circle") -> Picture | None:
    """Draw the silhouette in a theme's two colours; None where there is none."""
    edge = round(size * LAYER_DP / SHOWN_DP)
    edge += (edge - size) % 2
    glyph = layer("monochrome", edge)
    if glyph is None:
        return None
    ground, ink = THEMES[theme]
    start = (edge - size) // 2
    cut = silhouette(glyph)[start : start + size, start : start + size]
    picture = over(cut * colour(*ink), np.ones_like(cut) * colour(*ground))
    return masked(np.ascontiguousarray(picture), shape)


def _android(layer: Layer, legacy: Callable[[int], Picture | None]) -> Callable[[str, int], Picture | None]:
    def draw(look: str, size: int) -> Picture | None:
        if look.startswith("themed"):
            found = themed(layer, look.rpartition(" ")[2], size)
            if found is not None:
                return found  # without a silhouette the icon stays as it is
        both = composed(layer, size)
        if both is not None:
            return masked(both, "circle")
        old = legacy(size)
        return shrunk(old, "circle") if old is not None else None

    return draw


def _store(layer: Layer, legacy: Callable[[int], Picture | None]) -> Callable[[int], Picture | None]:
    def draw(size: int) -> Picture | None:
        both = composed(layer, size)
        return both if both is not None else legacy(size)

    return draw


def apple_look(picture: Callable[[int, str], Picture | None], look: str, size: int) -> Picture | None:
    """Draw Apple's square in an appearance: its own art, else what the system makes of the light one."""
    appearance = "" if look == "plain" else look
    own = picture(size, appearance)
    if own is None and appearance:
        own = picture(size, "")
    if own is None:
        return None
    whole = over(own, flat(size, colour(*DARK_GROUND)))
    if look == "tinted":
        whole = grey(whole) * colour(*TINT)
    return masked(whole, APPLE_CORNER)


def _apple(picture: Callable[[int, str], Picture | None]) -> Callable[[str, int], Picture | None]:
    return lambda look, size: apple_look(picture, look, size)


def by_page(shown: Sequence[Shown], most: int) -> list[list[Shown]]:
    """Return what stands on each page: so many of each platform at most; one empty page where there is none."""
    lanes = [[item for item in shown if item.platform == name] for name in LOOKS]
    longest = max((len(lane) for lane in lanes), default=0)
    starts = range(0, longest, most) if longest else (0,)
    return [[item for lane in lanes for item in lane[at : at + most]] for at in starts]


def flavors_of(shown: Iterable[Shown]) -> tuple[str, ...]:
    """Return the flavors of what is shown, each once."""
    return tuple(dict.fromkeys(item.flavor for item in shown))
