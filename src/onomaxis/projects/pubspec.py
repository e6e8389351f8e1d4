"""Values that a framework's tools hand to the native builds: today the version in a Flutter project's pubspec.

Source: Flutter documentation, "Build and release an Android app" (version: name+number; ``flutter.versionName``), and
the settings that its tool writes for Xcode (``FLUTTER_BUILD_NAME``, ``FLUTTER_BUILD_NUMBER``).
"""

from __future__ import annotations

from typing import NamedTuple

from onomaxis.errors import FormatError
from onomaxis.formats.yaml import parse_yaml
from onomaxis.model import Piece
from onomaxis.projects.project import place
from onomaxis.tree import Tree, join, parent


class PubspecVersion(NamedTuple):
    """The two halves of ``version: 1.2.3+45``; the second is None where only a name is given."""

    name: Piece
    number: Piece | None


def pubspec_version(tree: Tree, folder: str) -> PubspecVersion | None:
    """Return the version in the pubspec of *folder*, each half with its own span; read once for a tree."""
    path = join(folder, "pubspec.yaml")
    if path not in tree.known:
        return None
    return tree.kept(("pubspec", path), lambda: _version(tree, path))


def _version(tree: Tree, path: str) -> PubspecVersion | None:
    try:
        document = parse_yaml(tree.read(path) or b"")
    except FormatError:
        return None
    found = document.get("version")
    if found is None:
        return None
    written = document.source.text(found.start, found.end)
    start = found.start + (written[:1] in "\"'")
    name, _, number = found.value.partition("+")
    end = start + len(name.encode())
    after = end + 1 + len(number.encode())
    return PubspecVersion(
        Piece(name, place(path, document.source, start, end, "raw")),
        Piece(number, place(path, document.source, end + 1, after, "raw")) if number else None,
    )


def schemes_by_flavor(tree: Tree, project_file: str) -> bool:
    """Tell whether the tools above an Xcode project look for a scheme by a flavor's bare name.

    Source: Flutter documentation, "Create flavors of an app" (iOS: the scheme is called as the flavor).
    """
    container = parent(project_file)
    folder = parent(parent(container))
    return container.endswith("Runner.xcodeproj") and tree.exists(join(folder, "pubspec.yaml"))


def gradle_values(tree: Tree, folder: str) -> dict[str, Piece]:
    """Return what a Gradle build in *folder* is told about the version, under every name that scripts use."""
    version = pubspec_version(tree, parent(folder)) if folder else None
    if version is None:
        return {}
    given = dict.fromkeys(("flutter.versionName", "flutterVersionName"), version.name)
    if version.number:
        given |= dict.fromkeys(("flutter.versionCode", "flutterVersionCode"), version.number)
    return given


def xcode_values(tree: Tree, folder: str) -> dict[str, Piece]:
    """Return the build settings that an Xcode project in *folder* is given."""
    version = pubspec_version(tree, parent(folder)) if folder else None
    if version is None:
        return {}
    number = {"FLUTTER_BUILD_NUMBER": version.number} if version.number else {}
    return {"FLUTTER_BUILD_NAME": version.name, **number}
