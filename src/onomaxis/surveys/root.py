"""The build that a folder is a part of: asked from inside a module or a target, the whole of it is meant."""

from __future__ import annotations

from pathlib import Path
from typing import NamedTuple

# What stands at the root of a build: its settings script, its project or workspace, a framework's file.
_ROOTS = ("settings.gradle", "settings.gradle.kts", "pubspec.yaml")
_ROOT_ENDINGS = (".xcodeproj", ".xcworkspace")
# A folder with one of these is meant as it is.
_OWN = (*_ROOTS, "package.json", "config.xml", "onomaxis.toml", ".onomaxis", ".git")
_OWN_ENDINGS = (*_ROOT_ENDINGS, ".csproj", ".sln")
_MODULES = ("build.gradle", "build.gradle.kts")
_MOST_LEVELS = 12


class Located(NamedTuple):
    """The root of a build, and the module in it that was named: its path below the root, or nothing."""

    root: Path
    module: str


def located(folder: Path) -> Located | None:
    """Return the build that a folder lies in; None where the folder is one itself, or there is none above.

    Nothing above the repository's top, or the user's home, is looked at.
    """
    names = _names(folder)
    if not folder.is_dir() or names & set(_OWN) or any(name.endswith(_OWN_ENDINGS) for name in names):
        return None
    here, home = folder.resolve(), _home()
    module = here if names & set(_MODULES) else None
    for above in list(here.parents)[:_MOST_LEVELS]:
        if above == home or above == above.parent:
            return None
        names = _names(above)
        if names & set(_ROOTS) or any(name.endswith(_ROOT_ENDINGS) for name in names):
            return Located(above, module.relative_to(above).as_posix() if module is not None else "")
        if ".git" in names:
            return None
        if module is None and names & set(_MODULES):
            module = above
    return None


def _home() -> Path | None:
    try:
        return Path.home()
    except RuntimeError:  # a user without a home
        return None


def _names(folder: Path) -> set[str]:
    try:
        return {entry.name for entry in folder.iterdir()}
    except OSError:
        return set()
