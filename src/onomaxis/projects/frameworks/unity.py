"""The kind "unity": one settings file for every platform.

Source of the keys: Unity manual, "Player settings" (ProjectSettings/ProjectSettings.asset).
"""

from __future__ import annotations

from collections.abc import Iterable

from onomaxis.model import Facet
from onomaxis.projects.draft import Draft
from onomaxis.projects.frameworks.hybrid import EVERY, Files, HybridKind
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

    def technical(self, files: Files, name: str, draft: Draft) -> None:
        """Nothing but the product's name says what the project is called."""
