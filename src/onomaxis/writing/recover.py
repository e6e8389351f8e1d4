"""Bringing back the tree as it was before a change that was interrupted, from whatever state it was left in."""

from __future__ import annotations

from pathlib import Path

from onomaxis.errors import RefusedError
from onomaxis.writing.disk import Disk
from onomaxis.writing.journal import FOLDER, Entry, Journal, Record, digest
from onomaxis.writing.moves import route, take_back


def waiting(root: Path) -> Entry | None:
    """Return the interrupted change that waits to be taken back, if there is one."""
    return Journal(root).interrupted()


def recover(root: Path, entry: Entry, disk: Disk | None = None) -> str:
    """Take back *entry*, which was interrupted; return what was done in words. The lock must be held.

    Raises RefusedError when a file of it was changed by hand since.
    """
    roll_back(Journal(root, disk), entry)
    return f"an interrupted change ({entry.title}) was taken back"


def roll_back(journal: Journal, entry: Entry) -> None:
    """Take everything back that *entry* began, in the reverse of its order; each step may have been done or not.

    May itself be interrupted and begun anew.
    """
    disk = journal.disk
    for folder, mode in reversed(entry.removed_folders):
        if not disk.kind(folder):
            disk.make_folder(folder, _masked(entry, mode))
    way = route(entry.records)
    leaving = {record.source: record.target for record in entry.records if record.moved}
    for record in entry.records:
        if record.source is None:
            _unmake(record, leaving, disk)
    for record in entry.records:
        if record.target is not None:
            disk.unstage(record.target)
    if journal.marked(entry, "turned"):
        take_back(way.closing, disk)
        journal.unmark(entry, "turned")
    take_back(way.first, disk)
    for record in entry.records:
        if record.source is not None:
            _restore(journal, entry, record)
    for folder in reversed(entry.folders):
        if disk.kind(folder) == "folder":
            disk.remove_folder(folder)
    for old, new in reversed(entry.respelled):
        if disk.spelled(new) and not disk.spelled(old):
            disk.rename(new, old)
    disk.flush()
    journal.drop(entry.id)


def _unmake(record: Record, leaving: dict[str | None, str | None], disk: Disk) -> None:
    """Remove what was made anew.

    Where a file stood that was to move away first, what stands there is the new one only once that file has arrived
    and nothing waits to be put into place.
    """
    target = record.target or ""
    if target in leaving:
        arrived = leaving[target]
        if disk.kind(disk.beside(target)) or arrived is None or not disk.kind(arrived):
            return
    if disk.kind(target) in ("file", "link") and digest(disk.read(target)) == record.after:
        disk.remove(target)


def _restore(journal: Journal, entry: Entry, record: Record) -> None:
    """Put back one file's old bytes."""
    disk, source = journal.disk, record.source or ""
    now = disk.read(source)
    if digest(now) == record.before and now is not None:
        return
    if now is not None and digest(now) != record.after:
        raise RefusedError(
            "the file was changed by hand after an interrupted change; both versions are kept",
            file=source,
            remedy=f"The bytes before it are in {FOLDER}/{entry.id}/old.bin at {record.start}: put them back, "
            f"or keep yours and remove {FOLDER}/{entry.id}.",
        )
    if now is None and disk.kind(source):
        raise RefusedError("something stands where a file is to be put back", file=source, remedy="Move it away.")
    disk.unstage(source)
    mode = disk.mode(source) if now is not None else _masked(entry, record.mode)
    disk.write(source, journal.old_bytes(entry, record) or b"", mode, record.link)


def _masked(entry: Entry, mode: int) -> int:
    """Return the permission bits for what is made again: an entry from elsewhere makes nothing executable."""
    return mode & 0o777 if entry.own else (mode & 0o666) | 0o600
