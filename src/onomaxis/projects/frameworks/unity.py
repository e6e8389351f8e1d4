"""The kind "unity": one settings file for every platform.

Source of the keys: Unity manual, "Player settings" (ProjectSettings/ProjectSettings.asset).
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator

from onomaxis.model import Facet, IconHome, Tile
from onomaxis.projects.draft import Draft
from onomaxis.projects.frameworks.files import Files
from onomaxis.projects.frameworks.hybrid import HybridKind
from onomaxis.projects.project import EVERY
from onomaxis.tree import Tree, parent

_SETTINGS = "ProjectSettings/ProjectSettings.asset"
_KEYS = (
    (("applicationIdentifier", "iPhone"), Facet.BUNDLE_ID, "ios"),
    (("applicationIdentifier", "Android"), Facet.APPLICATION_ID, "android"),
    (("applicationIdentifier", "Standalone"), Facet.APPLICATION_ID, EVERY),
    (("productName",), Facet.DISPLAY_NAME, EVERY),
    (("bundleVersion",), Facet.VERSION_NAME, EVERY),
    (("AndroidBundleVersionCode",), Facet.VERSION_CODE, "android"),
    (("buildNumber", "iPhone"), Facet.VERSION_CODE, "ios"),
)


class UnityKind(HybridKind):
    """Reads Unity projects."""

    name = "unity"

    def roots(self, tree: Tree) -> Iterable[str]:
        """Return the folders with player settings."""
        for path in tree.named("ProjectSettings.asset"):
            yield parent(parent(path))

    def read(self, files: Files) -> None:
        """Read the player settings."""
        for path, facet, platform in _KEYS:
            files.own(facet, files.yaml_value(_SETTINGS, "PlayerSettings", *path), platform)

        tiles = tuple(_tiles(files))
        if tiles:
            label = files.folder.rpartition("/")[2] or "app"
            files.icons.append(IconHome("tiles", "unity", label, "", files.folder, "player icons", tiles=tiles))

    def technical(self, files: Files, name: str, draft: Draft) -> None:
        """Nothing but the product's name says what the project is called."""


# Unity manual, "Player settings for the Android platform": the kind of adaptive icons, whose textures are the ground,
# the drawing and the silhouette; kind 1 is round.
_ADAPTIVE, _ROUND = "2", "1"
_LAYERS = ("background", "foreground", "monochrome")
_LISTS = ("m_BuildTargetIcons", "m_BuildTargetPlatformIcons")


def _tiles(files: Files) -> Iterator[Tile]:
    """Yield the pictures that the settings refer to by the IDs of their ``.meta`` files, each at its largest size."""
    document = files.yaml(_SETTINGS)
    slots: dict[tuple[str, ...], dict[tuple[str, ...], str]] = {}
    for item in document.scalars if document else ():
        if item.path[:1] == ("PlayerSettings",) and item.path[1:2] and item.path[1] in _LISTS and len(item.path) > 5:
            slots.setdefault(item.path[:5], {})[item.path[5:]] = item.value
    files_of = _by_id(files) if slots else {}
    found: dict[str, Tile] = {}
    for slot in slots.values():
        edge, kind = slot.get(("m_Width",), ""), slot.get(("m_Kind",), "")
        for keys, value in slot.items():
            path = files_of.get(value, "") if keys[-1] == "guid" else ""
            if not path or not edge.isdecimal() or not int(edge):
                continue
            layer = int(keys[1]) if kind == _ADAPTIVE and len(keys) > 2 and keys[1].isdecimal() else -1
            shape = _LAYERS[layer] if 0 <= layer < len(_LAYERS) else "circle" if kind == _ROUND else "full"
            if path not in found or found[path].width < int(edge):
                found[path] = Tile(path, int(edge), int(edge), shape, f"player icon {edge}", least=int(edge))
    yield from found.values()


def _by_id(files: Files) -> dict[str, str]:
    """Return the PNG files of the project by the ID that their ``.meta`` file gives them."""
    found = {}
    for name in files.below(".png.meta"):
        match = re.search(rb"^guid: ([0-9a-f]{32})\s*$", files.data(name) or b"", re.MULTILINE)
        if match:
            found[match[1].decode()] = files.path(name.removesuffix(".meta"))
    return found
