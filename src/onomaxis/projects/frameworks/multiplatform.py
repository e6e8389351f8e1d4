"""The kind "multiplatform": shared Kotlin modules with an Android app and an Xcode project in one Gradle build.

Source of the rules: Kotlin documentation, "Multiplatform project structure"; Compose Multiplatform, "Native
distributions" (packageName, packageVersion).
"""

from __future__ import annotations

from collections.abc import Iterable

from onomaxis.model import Facet
from onomaxis.projects.draft import Draft
from onomaxis.projects.frameworks.files import Files
from onomaxis.projects.frameworks.hybrid import HybridKind
from onomaxis.tree import Tree, parent

_SCRIPTS = ("/build.gradle.kts", "/build.gradle")
_PLUGINS = (b"multiplatform", b"Multiplatform")


class MultiplatformKind(HybridKind):
    """Reads Kotlin Multiplatform projects; the Android and Xcode halves are read by their own kinds."""

    name = "multiplatform"

    def roots(self, tree: Tree) -> Iterable[str]:
        """Return the folders of Gradle builds with a shared module and an Xcode project below."""
        xcode = [parent(parent(path)) for path in tree.named("project.pbxproj")]
        for path in tree.named("settings.gradle.kts", "settings.gradle"):
            folder = parent(path)
            inside = f"{folder}/" if folder else ""
            if any(f"{project}/".startswith(inside) for project in xcode) and self._shares(tree, folder):
                yield folder

    def _shares(self, tree: Tree, folder: str) -> bool:
        scripts = (tree.read(path) or b"" for path in tree.below(folder) if path.endswith(_SCRIPTS))
        return any(word in script for script in scripts for word in _PLUGINS)

    def read(self, files: Files) -> None:
        """Read what a desktop distribution repeats."""
        for name in list(files.below(*_SCRIPTS)):
            for value in files.matched(name, r"\bpackageName\s*=\s*\"(?P<value>[\w.]+)\"", "double-dollar"):
                files.follow(Facet.APPLICATION_ID, value)
            for value in files.matched(name, r"\bpackageVersion\s*=\s*\"(?P<value>[\w.]+)\"", "double-dollar"):
                files.own(Facet.VERSION_NAME, value)

    def technical(self, files: Files, name: str, draft: Draft) -> None:
        """Nothing beside the Gradle build and the Xcode project bears a technical name."""
