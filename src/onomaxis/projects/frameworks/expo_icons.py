"""The pictures of an Expo configuration: which keys name them, and where those go that are missing.

Source of the keys: Expo documentation, "Splash screen and app icon" and the configuration reference (icon,
ios.icon with its appearances, android.adaptiveIcon, web.favicon, splash).
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from onomaxis.formats.json_members import Keys, new_members
from onomaxis.formats.jsonc import JsonDocument, Node
from onomaxis.model import Facet, IconHome, Tile
from onomaxis.projects.draft import Draft
from onomaxis.projects.drawn import DrawnIcon
from onomaxis.projects.edits import place_edit, span_edit
from onomaxis.projects.frameworks.files import Files
from onomaxis.projects.project import EVERY
from onomaxis.tree import inside

HOME = "app icons"
_GROUND: Keys = ("android", "adaptiveIcon", "backgroundColor")
# Keys, edge, shape, what it is for; the name that a new picture gets, empty where none is offered.
_PICTURES: tuple[tuple[Keys, int, str, str, str], ...] = (
    (("icon",), 1024, "full", "app icon", "assets/icon.png"),
    (("ios", "icon"), 1024, "apple", "app icon of iOS", ""),
    (("ios", "icon", "light"), 1024, "apple", "light icon of iOS", ""),
    (("ios", "icon", "dark"), 1024, "apple-dark", "dark icon of iOS", "assets/icon-dark.png"),
    (("ios", "icon", "tinted"), 1024, "apple-tinted", "tinted icon of iOS", "assets/icon-tinted.png"),
    (("android", "icon"), 1024, "full", "app icon of Android", ""),
    (
        ("android", "adaptiveIcon", "foregroundImage"),
        1024,
        "foreground",
        "foreground layer",
        "assets/icon-foreground.png",
    ),
    (("android", "adaptiveIcon", "backgroundImage"), 1024, "background", "background layer", ""),
    (
        ("android", "adaptiveIcon", "monochromeImage"),
        1024,
        "monochrome",
        "monochrome layer",
        "assets/icon-monochrome.png",
    ),
    (("web", "favicon"), 48, "rounded", "favicon", "assets/favicon.png"),
    (("splash", "image"), 1024, "art", "launch screen", "assets/splash-icon.png"),
)
# The framework's tools scale a square down to every density: what a picture must have at least.
_LEAST = {1024: 192, 48: 16}


def icon_home(files: Files, static: str, start: Keys, dynamic: Iterable[str]) -> IconHome | None:
    """Return the pictures that the configuration names, and those that it may name once they are drawn."""
    document = files.json(static) if static else None
    scripts = [name for name in dynamic if files.script(name) is not None]
    tiles: dict[str, Tile] = {}
    undrawn: list[str] = []
    for keys, edge, shape, slot, offered in _PICTURES:
        named = _named(files, static, scripts, start, keys)
        relative = named.removeprefix("./")
        if relative.endswith(".png") and inside(relative):
            tile = Tile(files.path(relative), edge, edge, shape, slot, least=_LEAST[edge])
            tiles.setdefault(tile.file, tile)
        elif named:
            undrawn.append(named)
        elif keys[0] == "splash" and any(_splash_plugins(document, start)):
            continue  # the plug-in's options count
        elif offered and document is not None and not scripts and _free(files, document, offered, (*start, *keys)):
            tile = Tile(files.path(offered), edge, edge, shape, slot, least=_LEAST[edge], offered=(*start, *keys))
            tiles.setdefault(tile.file, tile)
    for node in _splash_plugins(document, start):
        value = files.string_at(static, document, node) if document is not None else None
        relative = value.text.removeprefix("./") if value else ""
        if relative.endswith(".png") and inside(relative):
            tiles.setdefault(
                files.path(relative), Tile(files.path(relative), 1024, 1024, "art", "launch screen", least=192)
            )
    if not tiles:
        return None
    ground = files.json_value(static, *start, *_GROUND) if static else None
    label = files.folder.rpartition("/")[2] or "app"
    return IconHome(
        "tiles",
        "expo",
        label,
        "",
        files.folder,
        HOME,
        tiles=tuple(tiles.values()),
        ground=ground.text if ground else "",
        undrawn=tuple(undrawn),
    )


def _splash_plugins(document: JsonDocument | None, start: Keys) -> Iterator[Node]:
    """Yield the picture in the options of a plug-in for the launch screen."""
    if document is None:
        return
    plugins = document.top.get(*start, "plugins")
    for item in plugins.items if plugins is not None else ():
        if item.kind == "array" and len(item.items) == 2 and "splash" in str(item.items[0].value):
            image = item.items[1].get("image")
            if image is not None:
                yield image


def picture_keys() -> Iterator[tuple[Keys, str]]:
    """Yield the keys of pictures beside the app's icons, and of the ground, with the platform that they are for."""
    named = [keys for keys, *_ in _PICTURES if keys[-1] != "icon"]
    for keys in (*named, _GROUND):
        yield keys, keys[0] if keys[0] in ("android", "ios") else EVERY


def _named(files: Files, static: str, scripts: Iterable[str], start: Keys, keys: Keys) -> str:
    """Return what the configuration says at a path of keys; the dynamic one wins."""
    for name in scripts:
        for path in (("expo", *keys), keys):
            found = files.script_values(name, Facet.ICON, *path)
            if found:
                return found[0][1].text
    value = files.json_value(static, *start, *keys) if static else None
    return value.text if value else ""


def _free(files: Files, document: JsonDocument, offered: str, keys: Keys) -> bool:
    """Tell whether a member can be put here, nothing but objects on its way, and whether its file is nobody's yet."""
    node = document.top.get(*keys)
    above = [document.top.get(*keys[:depth]) for depth in range(len(keys))]
    clear = node is None and all(item is None or item.kind == "object" for item in above)
    return clear and files.data(offered) is None


def name_icons(files: Files, static: str, start: Keys, home: IconHome, drawn: DrawnIcon) -> Draft:
    """Return what makes the configuration name the pictures that were drawn, and the ground below the layers."""
    draft, document = Draft(), files.json(static)
    if document is None:
        return draft
    wanted: dict[Keys, object] = {
        tile.offered: "./" + tile.file[len(files.folder) + 1 if files.folder else 0 :]
        for tile in home.tiles
        if tile.offered and tile.file in drawn.files
    }
    icon = files.json_value(static, *start, "icon")
    light: Keys = (*start, "ios", "icon", "light")
    if any(keys[:-1] == light[:-1] for keys in wanted):
        wanted[light] = icon.text if icon else wanted.get((*start, "icon"), "./assets/icon.png")
    layer = (*start, "android", "adaptiveIcon", "foregroundImage")
    ground = files.json_value(static, *start, *_GROUND)
    if ground is not None and drawn.ground and ground.text.upper() != drawn.ground:
        draft.edits.append(place_edit(files.tree, ground.place, drawn.ground, Facet.ICON))
    elif ground is None and drawn.ground and layer in wanted:
        wanted[(*start, *_GROUND)] = drawn.ground
    if (*start, "splash", "image") in wanted:
        wanted[(*start, "splash", "resizeMode")] = "contain"
        wanted |= {(*start, "splash", "backgroundColor"): drawn.ground} if drawn.ground else {}
    source = document.source
    for first, last, text in new_members(document, wanted):
        draft.edits.append(span_edit(files.path(static), source, first, last, text, Facet.ICON))
    return draft
