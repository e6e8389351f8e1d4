"""Shared schemes: which configuration each archives its app with. They stand in the project, or in a workspace."""

from __future__ import annotations

from collections.abc import Mapping

from onomaxis.errors import FormatError
from onomaxis.formats.xml import parse_xml
from onomaxis.tree import Tree, join, parent

_CONTAINERS = (".xcodeproj/", ".xcworkspace/")


def archived_with(tree: Tree, project_file: str) -> Mapping[str, tuple[str, ...]]:
    """Return the configurations that shared schemes archive each target of a project with.

    A scheme that cannot be parsed says nothing here.
    """
    found: dict[str, list[str]] = {}
    for path in tree.files:
        if not path.endswith(".xcscheme"):
            continue
        try:
            root = parse_xml(tree.read(path) or b"").root
        except FormatError:
            continue
        configuration = next((e.value("buildConfiguration") for e in root.find("ArchiveAction")), "")
        for entry in root.find("BuildAction", "BuildActionEntries", "BuildActionEntry"):
            for reference in entry.find("BuildableReference"):
                container = reference.value("ReferencedContainer").removeprefix("container:")
                mine = join(container_folder(path), container) == parent(project_file)
                if mine and configuration and entry.value("buildForArchiving") != "NO":
                    found.setdefault(reference.value("BlueprintIdentifier"), []).append(configuration)
    return {target: tuple(dict.fromkeys(names)) for target, names in found.items()}


def container_folder(path: str) -> str:
    """Return the folder that a scheme's ``container:`` paths start from: the one that holds its container."""
    for mark in _CONTAINERS:
        if mark in path:
            return parent(path[: path.index(mark) + len(mark) - 1])
    return parent(path)
