"""All files that an app's icon is made of: pictures and XML, with what they refer to."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterator

from onomaxis import late
from onomaxis.formats.source import flat
from onomaxis.icons.standing import of_app
from onomaxis.model import ShippedApp
from onomaxis.projects.project import Project
from onomaxis.tree import Tree

_REFERENCE = late.compile(rb"@(?:[\w.]+:)?(mipmap|drawable|color)/([\w.]+)")
# How far references of one picture to another are followed.
_DEEPEST = 6


def icon_files(tree: Tree, project: Project, app: ShippedApp) -> dict[str, tuple[str, str]]:
    """Return the files of an app's icon: by a name that stays where a folder moves, the path and a digest."""
    name = app.icon.text if app.icon is not None else ""
    if name.startswith("@"):
        kind, _, entry = name.removeprefix("@").rpartition(":")[2].partition("/")
        return dict(_resources(tree, _folders(project, app), kind, entry))
    if name and project.kind == "ios":
        mark = f"/{name}.appiconset/"
        inside = [path for path in tree.below(project.folder) if mark in f"/{path}" or f"/{name}.icon/" in f"/{path}"]
        return {f"/{path}".partition(f"/{name}.")[2]: (path, _digest(tree, path)) for path in inside}
    homes = [home for home in project.icons if home.style == "tiles" and home.flavor in ("", app.flavor)]
    tiles = {tile.file: tile.slot for home in homes for tile in home.tiles}
    return {slot: (path, _digest(tree, path)) for path, slot in tiles.items() if tree.exists(path)}


def _folders(project: Project, app: ShippedApp) -> list[str]:
    """Return the resource folders that an app's icon may stand in: a flavor's before the app's own."""
    homes = [home for home in project.icons if home.module == app.module]
    return [home.folder for home in of_app(homes, app, project.flavors)]


def _resources(tree: Tree, folders: list[str], kind: str, entry: str) -> Iterator[tuple[str, tuple[str, str]]]:
    """Yield a resource's files in every qualifier, from the first folder that has any; and those they refer to."""
    pending, seen = [(kind, entry, 0)], {(kind, entry)}
    while pending:
        kind, entry, depth = pending.pop()
        for path in _found(tree, folders, kind, entry):
            data = flat(tree.read(path) or b"")
            inner = path.rpartition("/res/")[2]
            if inner.startswith("values"):  # one colour of a file of many
                element = re.search(rb'<[^<>]*"%s"[^<>]*>[^<>]*' % re.escape(entry.encode()), data)
                yield f"{inner}#{entry}", (path, hashlib.sha256(element[0] if element else b"").hexdigest())
                continue
            yield inner, (path, _digest(tree, path))
            if path.endswith(".xml") and kind != "color" and depth < _DEEPEST:
                for match in _REFERENCE.finditer(data):
                    key = (match[1].decode(), match[2].decode())
                    if key not in seen:
                        seen.add(key)
                        pending.append((*key, depth + 1))


def _found(tree: Tree, folders: list[str], kind: str, entry: str) -> list[str]:
    for folder in folders:
        found = []
        for path in tree.below(folder):
            inner = path[len(folder) + 1 :].split("/")
            if len(inner) != 2:
                continue
            whole = inner[0].split("-")[0] == kind and inner[1].partition(".")[0] == entry
            values = kind == "color" and inner[0].split("-")[0] == "values" and path.endswith(".xml")
            if whole or (values and f'"{entry}"'.encode() in flat(tree.read(path) or b"")):
                found.append(path)
        if found:
            return found
    return []


def _digest(tree: Tree, path: str) -> str:
    return hashlib.sha256(tree.read(path) or b"").hexdigest()
