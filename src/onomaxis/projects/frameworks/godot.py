"""The kind "godot": export presets, one per platform, and the project's own name.

Source of the keys: Godot documentation, "Exporting for Android", "Exporting for iOS" (export_presets.cfg).
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator

from onomaxis import late
from onomaxis.formats.escapes import decode
from onomaxis.formats.source import Source
from onomaxis.model import Facet, IconHome, Tile
from onomaxis.projects.draft import Draft
from onomaxis.projects.frameworks.files import Files, single
from onomaxis.projects.frameworks.hybrid import HybridKind
from onomaxis.projects.project import place
from onomaxis.tree import Tree, inside, parent

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


class GodotKind(HybridKind):
    """Reads Godot projects that are exported for phones."""

    name = "godot"

    def roots(self, tree: Tree) -> Iterable[str]:
        """Return the folders with export presets."""
        for path in tree.named(_PRESETS):
            yield parent(path)

    def read(self, files: Files) -> None:
        """Read each preset by its platform, then the project's name."""
        data = files.data(_PRESETS) or b""
        source = Source.read(data)
        heads = list(_PRESET.finditer(source.view))
        platforms: dict[str, str] = {}
        for at, head in enumerate(heads):
            end = heads[at + 1].start() if at + 1 < len(heads) else len(source.view)
            for line in _LINE.finditer(source.view, head.end(), end):
                group = "text" if line["text"] is not None else "bare"
                if not head[2] and line["key"] == "platform":
                    platforms[head[1]] = line[group].lower()
                facet = _KEYS.get(platforms.get(head[1], ""), {}).get(line["key"]) if head[2] else None
                if facet is None or not line[group]:
                    continue
                start, end = line.span(group)
                syntax = "double" if group == "text" else "number"
                text = decode(syntax, source.text(start, end))
                if "$" in text and facet in (Facet.APPLICATION_ID, Facet.BUNDLE_ID):
                    continue  # $genname: made of the project's name
                spot = place(files.path(_PRESETS), source, start, end, syntax)
                files.own(facet, single(text, spot), platforms[head[1]])
        tiles = tuple(_tiles(files, source))
        if tiles:
            label = files.folder.rpartition("/")[2] or "app"
            files.icons.append(IconHome("tiles", "godot", label, "", files.folder, "project icons", tiles=tiles))
        pattern = r"^config/name=\"(?P<value>(?:[^\"\\\r\n]|\\[^\r\n])*)\""
        for value in files.matched("project.godot", pattern, "double"):
            files.own(Facet.DISPLAY_NAME, value)

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


def _tiles(files: Files, presets: Source) -> Iterator[Tile]:
    """Yield the project's icon and the pictures that the presets name, each with its size in its key."""
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
