"""The way back: a change that leads behind the last one puts the old bytes back, however they were written."""

from __future__ import annotations

from onomaxis.tree import Tree
from onomaxis.writing.change import FileChange
from onomaxis.writing.journal import Entry, Journal, digest
from onomaxis.writing.planned import PlannedChange
from onomaxis.writing.undo import undo_changes


def way_back(tree: Tree, plan: PlannedChange) -> Entry | None:
    """Return the last change when *plan* would lead exactly back behind it, and nothing else was changed since."""
    entry = Journal(tree.root).last_own()
    if entry is None or entry.identity_before != plan.called_after or entry.identity_before == entry.identity_after:
        return None
    if entry.identity_after != plan.called_before:
        return None
    for record in entry.records:
        if record.target is not None and digest(tree.read(record.target)) != record.after:
            return None
    return entry


def changes_back(tree: Tree, entry: Entry) -> tuple[FileChange, ...]:
    """Return what puts the files of a change back as they were before it."""
    return tuple(change for change in undo_changes(tree.root, entry) if change.edited or change.moved)
