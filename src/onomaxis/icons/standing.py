"""Which files an icon has in a project, told by their paths alone: nothing is opened, no pixel is looked at."""

from __future__ import annotations

from collections.abc import Iterable

from onomaxis.flavor_names import Singles, in_order
from onomaxis.icons.slots import LAYERS
from onomaxis.model import IconHome, ShippedApp
from onomaxis.tree import Tree


def of_app(homes: Iterable[IconHome], app: ShippedApp, known: Singles) -> list[IconHome]:
    """Return the icons that an app may show, what it would show first: a combination's before its flavors', theirs
    before the app's own.

    An Apple app shows the set that its configuration names, whosever it is.
    """
    order = [name.casefold() for name in (app.flavor, *in_order(app.flavor, known), "")]
    mine = [home for home in homes if home.flavor.casefold() in order]
    named = app.icon.text if app.icon is not None and app.platform == "ios" else None
    return sorted(mine, key=lambda home: (home.name != named, order.index(home.flavor.casefold())))


def resource_files(tree: Tree, folder: str) -> dict[tuple[str, str], list[str]]:
    """Return the files of a resource folder, in every qualifier, by type and name of the resource."""
    found: dict[tuple[str, str], list[str]] = {}
    for path in tree.below(folder):
        inner = path[len(folder) + 1 :].split("/")
        if len(inner) == 2:
            found.setdefault((inner[0].split("-")[0], inner[1].split(".")[0]), []).append(path)
    return found


def names_own_set(home: IconHome) -> bool:
    """Tell whether a flavor's own settings name its icon set, whether that is there or not."""
    return home.style == "asset-catalog" and not home.references


# The types of resources that a layer of pixels or shapes may have.
_DRAWN = ("drawable", "mipmap")


def has_own_icon(tree: Tree, home: IconHome) -> bool:
    """Tell whether any file of an icon stands in its home, or of a flavor's one of its layers, as they are called."""
    if home.style == "android-resource":
        kind, _, name = home.name.partition("/")
        files = resource_files(tree, home.folder)
        layers = (f"{name}_{layer}" for layer in LAYERS if home.flavor)
        return (kind, name) in files or any((kind, layer) in files for layer in layers for kind in _DRAWN)
    if home.style == "tiles":
        return any(tile.file in tree.known for tile in home.tiles)
    return tree.exists(f"{home.folder}/Contents.json")
