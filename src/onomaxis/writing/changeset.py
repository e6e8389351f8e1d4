"""A change as pure data: edits, moves and new files, resolved into what each file was and becomes."""

from __future__ import annotations

import itertools
import os
from collections import defaultdict
from collections.abc import Iterable
from typing import NamedTuple

from onomaxis.errors import FaultError, RefusedError
from onomaxis.model import Edit, Move
from onomaxis.tree import Tree
from onomaxis.writing.change import FileChange, joined
from onomaxis.writing.links import with_links


class Changeset(NamedTuple):
    """Edits, moves, new files, files written whole (there already or not) and removals that belong together."""

    edits: tuple[Edit, ...] = ()
    moves: tuple[Move, ...] = ()
    created: tuple[tuple[str, bytes], ...] = ()
    written: tuple[tuple[str, bytes], ...] = ()
    removed: tuple[str, ...] = ()

    def resolve(self, tree: Tree) -> tuple[FileChange, ...]:
        """Return what every touched file was and becomes. Raises RefusedError for edits that overlap."""
        targets = {move.source: move.target for move in self.moves}
        by_file: dict[str, list[Edit]] = defaultdict(list)
        for edit in self.edits:  # over a link inside the root: at the file's real place
            by_file[tree.real(edit.file) or edit.file].append(edit)
        changes = []
        for path in sorted({*targets, *by_file}):
            text = tree.link(path) if path in tree.links or path not in tree.known else None
            if text is not None:
                changes.append(FileChange(path, targets.get(path, path), os.fsencode(text), os.fsencode(text), True))
                continue
            before = tree.read(path)
            if before is None:
                raise RefusedError("the file is gone or cannot be read", file=path, remedy="Run the command again.")
            after = apply_edits(path, before, by_file.get(path, ()))
            change = FileChange(path, targets.get(path, path), before, after)
            if change.edited or change.moved:
                changes.append(change)
        changes += [FileChange(None, path, None, data) for path, data in sorted(self.created)]
        for path, data in sorted(self.written):
            old = tree.named_file(path)
            if old != data:
                changes.append(FileChange(None if old is None else path, path, old, data))
        for path in sorted(set(self.removed)):
            text = tree.link(path) if path in tree.links else None
            before = tree.read(path) if text is None else os.fsencode(text)
            changes.append(FileChange(path, None, before, None, text is not None))
        return joined(with_links(tree, changes))


def apply_edits(path: str, data: bytes, edits: Iterable[Edit]) -> bytes:
    """Replace spans.

    Equal edits count once; insertions at one place follow each other; overlapping edits are refused.
    """
    alike = {(e.start, e.end, e.new, e.facet if e.start == e.end else ""): e for e in edits}
    ordered = sorted(alike.values(), key=lambda edit: (edit.start, edit.end, edit.facet, edit.new))
    for left, right in itertools.pairwise(ordered):
        if right.start < left.end or (right.start == left.start and right.end == left.end > left.start):
            line = data.count(b"\n", 0, right.start) + 1
            raise RefusedError(
                f"two changes meet in one place: {_shown(left)} and {_shown(right)}",
                file=path,
                line=line,
                remedy="Give the identifiers of both platforms separately, or change it by hand.",
            )
    parts, at = list[bytes](), 0
    for edit in ordered:
        parts += [data[at : edit.start], edit.new]
        at = edit.end
    after = b"".join([*parts, data[at:]])
    _prove_rest(path, data, after, ordered)
    return after


def _prove_rest(path: str, before: bytes, after: bytes, ordered: list[Edit]) -> None:
    """Make sure that outside the edited spans every byte is the old one, by another reckoning than the writing's."""
    at = shift = 0
    for edit in ordered:
        inside = 0 <= edit.start <= edit.end <= len(before)
        same = before[at : edit.start] == after[at + shift : edit.start + shift]
        there = after[edit.start + shift : edit.start + shift + len(edit.new)] == edit.new
        if not (inside and same and there):
            raise FaultError("an edit would reach outside its span; nothing was changed", file=path)
        shift += len(edit.new) - (edit.end - edit.start)
        at = edit.end
    if before[at:] != after[at + shift :]:
        raise FaultError("an edit would reach outside its span; nothing was changed", file=path)


def _shown(edit: Edit) -> str:
    return f"{edit.facet or 'an edit'} “{edit.new.decode('utf-8', 'replace')}”"
