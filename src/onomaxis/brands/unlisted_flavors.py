"""Where a project speaks of flavors beside its build files: in code and data that a new flavor has to be added to."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from onomaxis import late
from onomaxis.brands.neighbours import LONGEST, LOOKED_AT
from onomaxis.errors import FormatError
from onomaxis.formats.source import Source, flat
from onomaxis.model import Note
from onomaxis.projects.siblings import Group, majority
from onomaxis.surveys.survey import own_files
from onomaxis.tree import Tree

_FLAVORS = late.compile(r"\bproductFlavors\s*\{")
_BRACES = late.compile(r"[{}]")
# As many places of one file are named.
_MOST = 3


def named_elsewhere(tree: Tree, siblings: Sequence[str], new: str) -> Iterator[Note]:
    """Yield the places that name most of a new flavor's siblings alike, and not the new one.

    Alike is what stands beside others in a line, and lines that say the same of one flavor each.
    """
    if len(siblings) < 2:
        return
    group = Group("", (*siblings, new))
    first = [name.casefold().encode() for name in siblings]
    own = own_files(tree)
    for path in tree.files:
        if not LOOKED_AT.search(path) or path in own or group.mentions(path):
            continue
        data = tree.read(path) or b""
        folded = flat(data).lower() if len(data) <= LONGEST else b""
        if not majority(sum(name in folded for name in first), siblings):
            continue
        try:
            yield from _in_text(group, path, Source.read(data).view, siblings, new)
        except FormatError:
            continue  # no text


def _undeclared(path: str, view: str) -> str:
    """Return a build script without what its flavors' own blocks hold: the command has written the new one's."""
    if not path.endswith((".gradle", ".gradle.kts")):
        return view
    kept, at = [], 0
    for match in _FLAVORS.finditer(view):
        if match.start() < at:
            continue
        depth, end = 1, match.end()
        for brace in _BRACES.finditer(view, match.end()):
            depth, end = depth + (1 if brace[0] == "{" else -1), brace.end()
            if depth == 0:
                break
        kept += [view[at : match.end()], "\n" * view.count("\n", match.end(), end)]
        at = end
    return "".join([*kept, view[at:]])


def _in_text(group: Group, path: str, view: str, siblings: Sequence[str], new: str) -> Iterator[Note]:
    found = group.listed(_undeclared(path, view))
    told = [(number, named) for number, named in found if new not in named and majority(len(named), siblings)]
    for number, named in told[:_MOST]:
        shown = ", ".join(named[:3]) + (" and others" if len(named) > 3 else "")
        yield Note(f"{path}:{number}", f"names {shown}, not {new}: add it where it belongs")
