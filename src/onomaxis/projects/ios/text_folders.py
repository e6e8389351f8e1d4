"""Where the texts of a property list lie that every configuration of a target has for itself."""

from __future__ import annotations

from collections.abc import Iterator

from onomaxis.projects.ios.phases import phase_of
from onomaxis.projects.ios.project_file import Target, XcodeProject
from onomaxis.tree import Tree, inside, join, parent

# The build setting that names a configuration's folder of them: our own.
SETTING = "TEXTS_FOLDER"
FILE = "InfoPlist.strings"


def is_parted(project: XcodeProject, target: Target) -> bool:
    """Tell whether each configuration of a target has texts of its own."""
    return phase_of(project, target, f"$({SETTING})") is not None


def texts_in(tree: Tree, project: XcodeProject, folder: str) -> list[tuple[str, str]]:
    """Return language and path of the texts in a folder that a setting names."""
    where = join(project.start, folder)
    paths = (join(where, name) for name in _languages(tree, where)) if folder and inside(where) else ()
    return [(parent(path).rpartition("/")[2].removesuffix(".lproj"), path) for path in paths]


def _languages(tree: Tree, where: str) -> Iterator[str]:
    for path in tree.below(where):
        inner = path[len(where) + 1 :] if where else path
        if inner.endswith(f".lproj/{FILE}") and inner.count("/") == 1:
            yield inner
