"""Shared schemes: which configuration each archives its app with. They stand in the project, or in a workspace."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from onomaxis.errors import FormatError
from onomaxis.formats.xml import parse_xml
from onomaxis.tree import Tree, join, parent

_CONTAINERS = (".xcodeproj/", ".xcworkspace/")


def archived_with(tree: Tree, project_file: str) -> Mapping[str, tuple[str, ...]]:
    """Return the configurations that shared schemes archive each target of a project with."""
    found: dict[str, list[str]] = {}
    for _, target, configuration in _archiving(tree, project_file):
        found.setdefault(target, []).append(configuration)
    return {target: tuple(dict.fromkeys(names)) for target, names in found.items()}


def scheme_of(tree: Tree, project_file: str, target: str, configuration: str) -> str:
    """Return the name of the first shared scheme that archives a target with a configuration; empty without one."""
    archiving = tree.kept(("archiving", project_file), lambda: list(_archiving(tree, project_file)))
    return next((name for name, *what in archiving if what == [target, configuration]), "")


def _archiving(tree: Tree, project_file: str) -> Iterator[tuple[str, str, str]]:
    """Yield each shared scheme with a target and the configuration that it archives it with.

    A scheme that cannot be parsed says nothing here.
    """
    for path in tree.files:
        if not path.endswith(".xcscheme"):
            continue
        try:
            root = parse_xml(tree.read(path) or b"").root
        except FormatError:
            continue
        name = path.rpartition("/")[2].removesuffix(".xcscheme")
        configuration = next((e.value("buildConfiguration") for e in root.find("ArchiveAction")), "")
        for entry in root.find("BuildAction", "BuildActionEntries", "BuildActionEntry"):
            for reference in entry.find("BuildableReference"):
                container = reference.value("ReferencedContainer").removeprefix("container:")
                mine = join(container_folder(path), container) == parent(project_file)
                if mine and configuration and entry.value("buildForArchiving") != "NO":
                    yield name, reference.value("BlueprintIdentifier"), configuration


def container_folder(path: str) -> str:
    """Return the folder that a scheme's ``container:`` paths start from: the one that holds its container."""
    for mark in _CONTAINERS:
        if mark in path:
            return parent(path[: path.index(mark) + len(mark) - 1])
    return parent(path)
