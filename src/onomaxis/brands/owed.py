"""Values that a flavor has still to be given: marks stand where only its owner can say what belongs there."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping

from onomaxis.errors import FormatError
from onomaxis.formats.source import Source
from onomaxis.identity.schema import OWED
from onomaxis.model import Owed
from onomaxis.projects.neighbours.blocks import Layout
from onomaxis.projects.neighbours.called import Called, Names
from onomaxis.projects.neighbours.literals import literals
from onomaxis.tree import Tree


def owed_values(tree: Tree, flavors: Iterable[str]) -> Mapping[str, list[Owed]]:
    """Return what is owed in a tree by whose it is: by the file's path, else by the block that the mark stands in.

    What shows nobody is under the empty name.
    """
    every = [Called(flavor, {}, "") for flavor in dict.fromkeys(flavors)]
    found: dict[str, list[Owed]] = defaultdict(list)
    for path, data in sorted(tree.holding([OWED])):
        names = Names(every, path)
        layout = Layout(_text(data), names)
        named = next((span.flavor for span in names.spans(path)), "")
        for number, line in enumerate(layout.lines):
            if OWED not in line:
                continue
            inside = "" if named else _whose(layout, number)
            keys = [item.key for item in literals(line) if item.text == OWED] or [""]
            found[named or inside] += [Owed(f"{path}:{number + 1}", key) for key in keys]
    return found


def _whose(layout: Layout, number: int) -> str:
    """Return the flavor that a line speaks of alone, or the nearest one it stands below; else that of its run."""
    at = number
    while at >= 0:
        said = {span.flavor for span in layout.names.spans(layout.lines[at])}
        if len(said) == 1:
            return said.pop()
        at = layout.above[at]
    return next((run.flavor for run in layout.every if run.start <= number < run.end), "")


def _text(data: bytes) -> str:
    try:
        return Source.read(data).view
    except FormatError:
        return ""
