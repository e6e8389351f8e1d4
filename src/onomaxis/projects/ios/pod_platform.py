"""The level that a Podfile asks for, beside the project's deployment target: pods are not built for a lower one.

Source of the rule: Apple, "Build settings reference" (IPHONEOS_DEPLOYMENT_TARGET): a product is not linked with what
is built for a later system than its own.
"""

from __future__ import annotations

import re

from onomaxis import late
from onomaxis.errors import FormatError
from onomaxis.formats.source import Source
from onomaxis.model import Edit, Note
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import span_edit
from onomaxis.projects.places import Spot
from onomaxis.tree import Tree, join

# Where a Podfile states the level of its pods, as a literal.
PLATFORM = late.compile(r"^[ \t]*platform[ \t(]+:ios[ \t]*,[ \t]*(['\"])([\d.]+)\1", re.MULTILINE)


def with_platform(tree: Tree, folder: str, spot: Spot, flavor: str) -> Spot:
    """Return the spot of a deployment target that the Podfile's level follows; of one flavor alone it is said."""

    def write(new: str) -> Draft:
        draft = spot.write(new)
        for at, text, edit in _levels(tree, join(folder, "Podfile"), new):
            if not flavor:
                draft.edits.append(edit)
            elif level(text) > level(new):
                draft.notes.append(Note(at, f"pods are built for {text}, and {flavor} is for {new}: lower it here"))
        return draft

    return spot._replace(write=write)


def _levels(tree: Tree, path: str, new: str) -> list[tuple[str, str, Edit]]:
    """Return where a Podfile states a level otherwise: place, what it says, the edit that gives it the new one."""
    data = tree.named_file(path)
    try:
        source = Source.read(data or b"")
    except FormatError:
        return []
    return [
        (
            f"{path}:{source.line(match.start(2))}",
            match[2],
            span_edit(path, source, match.start(2), match.end(2), new, "level"),
        )
        for match in PLATFORM.finditer(source.view)
        if level(match[2]) != level(new)
    ]


def level(text: str) -> tuple[int, ...]:
    """Return a level as numbers that can be compared."""
    parts = [int(part) for part in text.split(".") if part.isdecimal()]
    while parts and not parts[-1]:
        parts.pop()
    return tuple(parts)
