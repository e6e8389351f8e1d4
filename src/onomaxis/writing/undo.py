"""Taking a change back, after looking whether its files are still as it left them."""

from __future__ import annotations

from pathlib import Path

from onomaxis.errors import InputError, RefusedError
from onomaxis.writing.changeset import FileChange
from onomaxis.writing.disk import Disk
from onomaxis.writing.journal import Entry, Journal, digest
from onomaxis.writing.write import Labels, carry_out

_SHOWN = 8


def undo_changes(root: Path, entry: Entry, despite: bool = False) -> tuple[FileChange, ...]:
    """Return the changes that take *entry* back.

    Raises RefusedError when a file is no longer as the entry left it; with *despite* such a file is put back too,
    if it is there.
    """
    disk = Disk(root)
    journal = Journal(root)
    found: list[FileChange] = []
    different: list[str] = []
    for record in entry.records:
        now = disk.read(record.target) if record.target else None
        old = journal.old_bytes(entry, record)
        if digest(now) != record.after:
            different.append(record.target or record.source or "")
        if record.target is not None and now is None and despite:
            found.append(FileChange(None, record.source, None, old))
        else:
            found.append(FileChange(record.target, record.source, now, old))
    if different and not despite:
        more = f" and {len(different) - _SHOWN} more" if len(different) > _SHOWN else ""
        raise RefusedError(
            f"changed since: {', '.join(different[:_SHOWN])}{more}",
            remedy="Undo would lose that; pass --despite-changes to take the change back all the same.",
        )
    return tuple(change for change in found if change.source or change.target)


def chosen_entry(root: Path, wanted: str) -> Entry:
    """Return the entry to undo: the named one, else the last that stands. Raises InputError."""
    journal = Journal(root)
    entry = journal.entry(wanted) if wanted else journal.last()
    if entry is None:
        raise InputError(
            "there is nothing to undo here", file=str(root), remedy="onomaxis history lists the changes."
        )
    if any(other.undoes == entry.id for other in journal.entries()):
        raise InputError(f"change {entry.id} has been undone already", remedy="onomaxis history lists the changes.")
    return entry


def undo(root: Path, entry: Entry, changes: tuple[FileChange, ...]) -> str:
    """Carry the undoing out; return the ID of its own journal entry. The lock must be held."""
    labels = Labels(f"undo of {entry.id}", entry.identity_after, entry.identity_before, entry.id)
    return carry_out(root, changes, labels)
