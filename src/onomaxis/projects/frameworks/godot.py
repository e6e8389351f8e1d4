"""The kind "godot": export presets, one per platform, and the project's own name.

Source of the keys: Godot documentation, "Exporting for Android", "Exporting for iOS" (export_presets.cfg).
"""

from __future__ import annotations

import re
from collections.abc import Iterable

from onomaxis.formats.escapes import decode
from onomaxis.formats.source import Source
from onomaxis.model import Facet
from onomaxis.projects.draft import Draft
from onomaxis.projects.frameworks.hybrid import Files, HybridKind, single
from onomaxis.projects.project import place
from onomaxis.tree import Tree, parent

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
_LINE = re.compile(
    r"^(?P<key>[\w/]+)=(?:\"(?P<text>(?:[^\"\\\r\n]|\\[^\r\n])*)\"|(?P<bare>[^\"\r\n]*))\r?$", re.MULTILINE
)
_PRESET = re.compile(r"^\[preset\.(\d+)(\.options)?\]", re.MULTILINE)


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
        pattern = r"^config/name=\"(?P<value>(?:[^\"\\\r\n]|\\[^\r\n])*)\""
        for value in files.matched("project.godot", pattern, "double"):
            files.own(Facet.DISPLAY_NAME, value)

    def technical(self, files: Files, name: str, draft: Draft) -> None:
        """Nothing but the shown name says what the project is called."""
