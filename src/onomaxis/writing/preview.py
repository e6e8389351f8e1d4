"""A change as text: the unified diff, the moves, the new and the removed files."""

from __future__ import annotations

import difflib
from collections.abc import Iterable, Iterator

from onomaxis.errors import FormatError
from onomaxis.formats.source import Source, looks_binary
from onomaxis.writing.changeset import FileChange


def unified_diff(changes: Iterable[FileChange]) -> str:
    """Return the whole change in the form that ``git diff`` prints and ``git apply`` takes."""
    return "".join(line for change in changes for line in _one(change))


def _one(change: FileChange) -> Iterator[str]:
    old, new = change.source or "/dev/null", change.target or "/dev/null"
    yield f"diff --git a/{change.source or change.target} b/{change.target or change.source}\n"
    if change.moved:
        yield f"rename from {old}\nrename to {new}\n"
    if change.source is None:
        yield "new file mode 100644\n"
    if change.target is None:
        yield "deleted file mode 100644\n"
    if not change.edited:
        return
    before, after = _lines(change.before), _lines(change.after)
    if before is None or after is None:
        yield f"Binary files {old} and {new} differ\n"
        return
    head_old = old if change.source is None else f"a/{old}"
    head_new = new if change.target is None else f"b/{new}"
    for line in difflib.unified_diff(before, after, head_old, head_new, n=1):
        yield line if line.endswith("\n") else f"{line}\n\\ No newline at end of file\n"


def _lines(data: bytes | None) -> list[str] | None:
    """Decode and split at line feeds only, so that carriage returns stay visible parts of their lines."""
    if data is None:
        return []
    if looks_binary(data):
        return None
    try:
        source = Source.read(data)
    except FormatError:
        return None
    text = source.text(0, len(source.view))
    pieces = text.split("\n")
    return [f"{piece}\n" for piece in pieces[:-1]] + ([pieces[-1]] if pieces[-1] else [])
