"""The kind "godot": export presets, one per platform, and the project's own name.

Source of the keys: Godot documentation, "Exporting for Android", "Exporting for iOS" (export_presets.cfg).
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence

from onomaxis import late
from onomaxis.formats.escapes import decode
from onomaxis.formats.source import Source
from onomaxis.identity.rules import VERSION_FORMS
from onomaxis.model import Facet, IconHome, Note, Piece, Place, Tile, Unresolved, Value
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import place_edit
from onomaxis.projects.frameworks.files import ID_OF, Files, single
from onomaxis.projects.frameworks.hybrid import HybridKind
from onomaxis.projects.project import Project, place
from onomaxis.tree import Tree, inside, parent
from onomaxis.wishes import Renaming, Wish

_PRESETS = "export_presets.cfg"
_KEYS = {
    "android": {
        "package/unique_name": Facet.APPLICATION_ID,
        "package/name": Facet.DISPLAY_NAME,
        "version/name": Facet.VERSION_NAME,
        "version/code": Facet.VERSION_CODE,
    },
    "ios": {
        "application/bundle_identifier": Facet.BUNDLE_ID,
        "application/short_version": Facet.VERSION_NAME,
        "application/version": Facet.VERSION_CODE,
    },
}
_LINE = late.compile(
    r"^(?P<key>[\w/]+)=(?:\"(?P<text>(?:[^\"\\\r\n]|\\[^\r\n])*)\"|(?P<bare>[^\"\r\n]*))\r?$", re.MULTILINE
)
_PRESET = late.compile(r"^\[preset\.(\d+)(\.options)?\]", re.MULTILINE)


# What stands for the project's name in an ID, and what a build is called where neither preset nor project says so
# (Godot, EditorExportPreset::get_version).
_MADE, _NO_VERSION = "$genname", "1.0.0"
_FORM = VERSION_FORMS["project.godot"]


def _valid_basename(name: str) -> str:
    """Return what the export makes of a project's name (Godot, "Exporting for Android", unique name)."""
    kept = "".join(char for char in name.lower() if char == "_" or (char.isascii() and char.isalnum()))
    return kept.lstrip("0123456789") or "noname"


def _of_project(files: Files, key: str) -> Iterator[Value]:
    pattern = rf"^config/{key}=\"(?P<value>(?:[^\"\\\r\n]|\\[^\r\n])+)\""
    yield from files.matched("project.godot", pattern, "double")


def _preset_lines(files: Files) -> Iterator[tuple[str, Facet, Place]]:
    """Yield what presets state of an app: the platform, the facet, the place of the text."""
    source = Source.read(files.data(_PRESETS) or b"")
    heads = list(_PRESET.finditer(source.view))
    platforms: dict[str, str] = {}
    for at, head in enumerate(heads):
        end = heads[at + 1].start() if at + 1 < len(heads) else len(source.view)
        for line in _LINE.finditer(source.view, head.end(), end):
            group = "text" if line["text"] is not None else "bare"
            if not head[2] and line["key"] == "platform":
                platforms[head[1]] = line[group].lower()
            platform = platforms.get(head[1], "")
            facet = _KEYS.get(platform, {}).get(line["key"]) if head[2] else None
            if facet is not None:
                syntax = "double" if group == "text" else "number"
                yield platform, facet, place(files.path(_PRESETS), source, *line.span(group), syntax)


class GodotKind(HybridKind):
    """Reads Godot projects that are exported for phones."""

    name = "godot"

    def roots(self, tree: Tree) -> Iterable[str]:
        """Return the folders with export presets."""
        for path in tree.named(_PRESETS):
            yield parent(path)

    def read(self, files: Files) -> None:
        """Read each preset by its platform, then the project's name; what a preset leaves empty is the project's."""
        name, version = (next(iter(_of_project(files, key)), None) for key in ("name", "version"))
        for platform, facet, spot in _preset_lines(files):
            text = decode(spot.syntax, spot.written)
            is_id = facet in (Facet.APPLICATION_ID, Facet.BUNDLE_ID)
            if is_id and _MADE in text:
                made = _valid_basename(name.text if name is not None else "")
                before, _, after = text.partition(_MADE)
                files.own(facet, Value((Piece(before), Piece(made), Piece(after)), spot), platform)
            elif text:
                files.own(facet, single(text, spot), platform)
            elif is_id:
                files.faults.append(Unresolved(facet, spot.file, spot.line, "", "the preset states no ID"))
            elif facet is not Facet.DISPLAY_NAME:
                said = version if version is not None and _FORM.tells(version.text) else None
                files.own(facet, said or Value((Piece(_NO_VERSION),), spot), platform)
        tiles = tuple(_tiles(files))
        if tiles:
            label = files.folder.rpartition("/")[2] or "app"
            files.icons.append(IconHome("tiles", "godot", label, "", files.folder, "project icons", tiles=tiles))
        files.own(Facet.DISPLAY_NAME, name)

    def follow(self, project: Project, tree: Tree, renamings: Sequence[Renaming], aim: Wish) -> Draft:
        """Write the ID out where it is made of the name, and only that changes: it is what stores know the app by."""
        draft = super().follow(project, tree, renamings, aim)
        for app in project.apps if aim.name is not None and not aim.id else ():
            if app.id is not None and _MADE in app.id.place.written:
                draft.edits.append(place_edit(tree, app.id.place, app.id.text, ID_OF[project.platform]))
                said = (
                    f"the ID was made of the name ({app.id.place.written}): it is written out and stays {app.id.text}"
                )
                draft.notes.append(Note(app.id.place.at, said))
        return draft

    def technical(self, files: Files, name: str, draft: Draft) -> None:
        """Nothing but the shown name says what the project is called."""


# The project's own icon may be of any size; this is the engine's.
_OWN = 128
_ICON = late.compile(
    r"^(?:launcher_icons|icons)/(\w+?)_?(\d{2,4})x\2(_dark|_tinted)?=\"res://([^\"\r\n]+)\"", re.MULTILINE
)
_SHAPES = {
    "adaptive_foreground": "foreground",
    "adaptive_background": "background",
    "adaptive_monochrome": "monochrome",
    "main": "rounded",
}


def _tiles(files: Files) -> Iterator[Tile]:
    """Yield the project's icon and the pictures that the presets name, each with its size in its key."""
    presets = Source.read(files.data(_PRESETS) or b"")
    found: dict[str, Tile] = {}
    for value in files.matched("project.godot", r"^config/icon=\"res://(?P<value>[^\"\r\n]+)\"", "double"):
        form = value.text.rpartition(".")[2].lower()
        if form in ("png", "svg", "webp") and inside(value.text):
            path = files.path(value.text)
            found[path] = Tile(path, _OWN, _OWN, "full", "project icon", form, least=1)
    for match in _ICON.finditer(presets.view):
        name, edge, appearance = match[1], match[2], match[3] or ""
        text = decode("double", presets.text(match.start(4), match.end(4)))
        shape = f"apple{appearance.replace('_', '-')}" if name not in _SHAPES else _SHAPES[name]
        if text.endswith(".png") and inside(text):
            path = files.path(text)
            found[path] = Tile(path, int(edge), int(edge), shape, f"{name.replace('_', ' ')} {edge}")
    yield from found.values()
