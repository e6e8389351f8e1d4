"""Which files an icon has in a project, told by their paths alone: nothing is opened, no pixel is looked at."""

from __future__ import annotations

from onomaxis.model import IconHome
from onomaxis.tree import Tree


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


def has_own_icon(tree: Tree, home: IconHome) -> bool:
    """Tell whether any file of an icon stands in its home."""
    if home.style == "android-resource":
        kind, _, name = home.name.partition("/")
        return (kind, name) in resource_files(tree, home.folder)
    if home.style == "tiles":
        return any(tile.file in tree.known for tile in home.tiles)
    return tree.exists(f"{home.folder}/Contents.json")
