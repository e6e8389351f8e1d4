"""Taking a change back, after looking whether its files are still as it left them."""

from __future__ import annotations

import os
from pathlib import Path

from onomaxis.errors import InputError, RefusedError
from onomaxis.listing import git_answer
from onomaxis.writing.change import FileChange, joined
from onomaxis.writing.disk import Disk
from onomaxis.writing.journal import FOLDER, Entry, Journal, digest
from onomaxis.writing.write import Labels, Written, carry_out

_SHOWN = 8


def undo_changes(root: Path, entry: Entry, despite: bool = False) -> tuple[FileChange, ...]:
    """Return the changes that take *entry* back.

    Raises RefusedError when a file is no longer as the entry left it; with *despite* such a file is put back too,
    if it is there.
    """
    disk = Disk(root)
    journal = Journal(root, disk)
    found: list[FileChange] = []
    different: list[str] = []
    for record in entry.records:
        now = disk.read(record.target) if record.target else None
        old = journal.old_bytes(entry, record)
        if digest(now) != record.after:
            different.append(record.target or record.source or "")
        if record.target is not None and now is None and despite:
            found.append(FileChange(None, record.source, None, old, record.link))
        else:
            found.append(FileChange(record.target, record.source, now, old, record.link))
    if different and not despite:
        more = f" and {len(different) - _SHOWN} more" if len(different) > _SHOWN else ""
        raise RefusedError(
            f"changed since: {', '.join(different[:_SHOWN])}{more}",
            remedy="Undo would lose that; pass --despite-changes to take the change back all the same.",
        )
    return joined(change for change in found if change.source or change.target)


def chosen_entry(root: Path, wanted: str) -> Entry:
    """Return the entry to undo: the named one, else the last that stands. Raises InputError."""
    journal = Journal(root)
    entry = journal.entry(wanted) if wanted else journal.last_own() or next(iter(journal.standing()[-1:]), None)
    if entry is None:
        raise InputError(
            "there is nothing to undo here", file=str(root), remedy="onomaxis history lists the changes."
        )
    if any(other.undoes == entry.id for other in journal.entries()):
        raise InputError(f"change {entry.id} has been undone already", remedy="onomaxis history lists the changes.")
    return entry


def refuse_foreign(root: Path, entry: Entry) -> None:
    """Raise RefusedError for an entry that was not made by this user in this checkout: it may have come with it."""
    reason = foreign_reason(root, entry)
    if reason:
        raise RefusedError(
            f"change {entry.id} ({entry.title}) is not known to be made by you: {reason}",
            file=f"{FOLDER}/{entry.id}",
            remedy="Look at it (undo --dry-run --foreign-entry); pass --foreign-entry to take it back on purpose, "
            f"or remove {FOLDER}/{entry.id}. Nothing was changed.",
        )


def foreign_reason(root: Path, entry: Entry) -> str:
    """Return why *entry* may have come with the repository, in words; empty for one that was made here."""
    if not entry.own:
        return "it bears no seal of this user for this checkout"
    path = root / FOLDER / entry.id / "entry.json"
    if hasattr(os, "getuid") and path.lstat().st_uid != os.getuid():
        return "its files belong to another user"
    listed = git_answer(root, "ls-files", "--", f"{FOLDER}/{entry.id}")
    return "it is under version control" if listed else ""


def undo(root: Path, entry: Entry, changes: tuple[FileChange, ...]) -> Written:
    """Carry the undoing out. The lock must be held."""
    labels = Labels(f"undo of {entry.id}", entry.identity_after, entry.identity_before, entry.id)
    return carry_out(root, changes, labels)
