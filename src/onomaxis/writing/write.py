"""Carrying out a change, all or nothing: the only place that writes into a project.

Order: lock, finish or take back an interrupted change, compare every file with what was surveyed, store the old
bytes and the entry, make folders, stage every new content beside its file, rename them into place, rename what
moves, remove emptied folders, mark the entry as done. Any fault on the way takes everything back.
"""

from __future__ import annotations

import itertools
import os
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path

from onomaxis.errors import FaultError, InputError, RefusedError
from onomaxis.tree import parent
from onomaxis.writing.changeset import FileChange
from onomaxis.writing.disk import STAGED, Disk
from onomaxis.writing.journal import HOME, Entry, Journal, Record, digest


@dataclass(frozen=True)
class Labels:
    """What the journal keeps of a change beside its files."""

    title: str
    identity_before: str = ""
    identity_after: str = ""
    undoes: str = ""


@contextmanager
def locked(root: Path) -> Iterator[Path]:
    """Hold the project's lock. Raises RefusedError when another run holds it, InputError when none can be made."""
    from filelock import FileLock, Timeout

    home = root / HOME
    try:
        home.mkdir(exist_ok=True)
        ignore = home / ".gitignore"
        if not ignore.exists():
            ignore.write_bytes(b"*\n")
        lock = FileLock(home / "lock", timeout=0)
        lock.acquire()
    except Timeout:
        raise RefusedError("another run of onomaxis is writing here", remedy="Wait for it to end.") from None
    except OSError as error:
        raise InputError(f"cannot write here: {error.strerror}", file=str(root)) from None
    try:
        yield root
    finally:
        lock.release()


def recover(root: Path, disk: Disk | None = None) -> str:
    """Take back a change that was interrupted; return what was done in words, empty if nothing was.

    Must be called with the lock held. Raises RefusedError when a file of it was changed by hand since.
    """
    journal = Journal(root)
    entry = journal.interrupted()
    if entry is None:
        return ""
    _roll_back(journal, entry, disk or Disk(root))
    return f"an interrupted change ({entry.title}) was taken back"


def needs_recovery(root: Path) -> bool:
    """Tell whether an interrupted change waits to be taken back."""
    return Journal(root).interrupted() is not None


def carry_out(
    root: Path,
    changes: Sequence[FileChange],
    labels: Labels,
    tick: Callable[[int], None] | None = None,
    disk: Disk | None = None,
) -> str:
    """Write *changes* below *root*; return the ID of the journal entry. The lock must be held.

    Raises RefusedError when a file is not as it was surveyed, InputError when the disk refuses.
    """
    disk = disk or Disk(root)
    journal = Journal(root)
    journal.disk = disk
    entry: Entry | None = None
    try:
        _compare(disk, changes)
        _may_write(disk, changes)
        _sweep(journal)
        entry = journal.begin(_entry(disk, changes, labels), changes)
        _perform(disk, entry, changes, tick)
        journal.finish(entry)
    except OSError as error:
        _take_back(journal, entry, disk)
        name = os.path.relpath(error.filename, root) if isinstance(error.filename, str) else ""
        raise InputError(
            f"the disk refused: {error.strerror}; nothing was changed",
            file=name.replace(os.sep, "/").removesuffix(STAGED),
        ) from None
    except BaseException:
        _take_back(journal, entry, disk)
        raise
    return entry.id


def _take_back(journal: Journal, entry: Entry | None, disk: Disk) -> None:
    """Undo what was begun, with a plain disk, whatever the one in use does."""
    plain = Disk(disk.root)
    journal.disk = plain
    begun = journal.interrupted()
    if begun is not None and (entry is None or entry.id == begun.id):
        _roll_back(journal, begun, plain)
    _sweep(journal)


def _sweep(journal: Journal) -> None:
    """Drop a half-written entry, which nothing on disk follows from yet."""
    if journal.folder.is_dir():
        for place in journal.folder.iterdir():
            if place.is_dir() and not (place / "entry.json").exists():
                with suppress(OSError):
                    for item in sorted(place.rglob("*"), reverse=True):
                        item.rmdir() if item.is_dir() else item.unlink()
                    place.rmdir()


def _compare(disk: Disk, changes: Sequence[FileChange]) -> None:
    leaving = {change.source for change in changes if change.moved}
    for change in changes:
        if change.source is not None and disk.read(change.source) != change.before:
            raise RefusedError(
                "the file changed while the command ran",
                file=change.source,
                remedy="Nothing was changed; run it again.",
            )
        if change.target is not None and change.target != change.source and change.target not in leaving:
            if not os.path.lexists(disk.name(change.target)):
                continue
            target = disk.path(change.target)
            same = change.source is not None and target.exists() and target.samefile(disk.path(change.source))
            if not same:
                raise RefusedError("a file stands there already", file=change.target, remedy="Move it away first.")


def _may_write(disk: Disk, changes: Sequence[FileChange]) -> None:
    """Ask for permission before the first byte, so that most refusals cost nothing."""
    asked: set[Path] = set()
    for change in changes:
        for relative in (change.source, change.target):
            folder = disk.path(parent(relative or ""))
            while not folder.exists() and folder != disk.root:
                folder = folder.parent
            if folder in asked:
                continue
            asked.add(folder)
            if not folder.resolve().is_relative_to(disk.root.resolve()):
                raise RefusedError("a link leads out of the project", file=relative or "")
            if not os.access(folder, os.W_OK | os.X_OK):
                raise InputError(
                    "no permission to write here; nothing was changed",
                    file=str(folder),
                    remedy="Change the permissions.",
                )


def _entry(disk: Disk, changes: Sequence[FileChange], labels: Labels) -> Entry:
    starts = itertools.accumulate((len(change.before or b"") for change in changes), initial=0)
    records = tuple(
        Record(
            change.source,
            change.target,
            digest(change.before),
            digest(change.after),
            disk.mode(change.source) if change.source else 0o644,
            start,
            len(change.before or b""),
        )
        for change, start in zip(changes, starts, strict=False)
    )
    return Entry(
        "",
        labels.title,
        records,
        tuple(_new_folders(disk, changes)),
        tuple(_emptied(disk, changes)),
        labels.identity_before,
        labels.identity_after,
        labels.undoes,
    )


def _new_folders(disk: Disk, changes: Sequence[FileChange]) -> list[str]:
    wanted: set[str] = set()
    for change in changes:
        folder = parent(change.target or "")
        while folder and not disk.path(folder).is_dir():
            wanted.add(folder)
            folder = parent(folder)
    return sorted(wanted)


def _emptied(disk: Disk, changes: Sequence[FileChange]) -> list[tuple[str, int]]:
    """Return the folders that would hold nothing any more, the deepest first, with their permission bits."""
    leaving = {c.source for c in changes if c.source and c.source != c.target}
    arriving = {c.target for c in changes if c.target}
    gone: dict[str, int] = {}
    folders = {parent(path) for path in leaving if path}
    while folders:
        above: set[str] = set()
        for folder in sorted(folders):
            if not folder or folder in gone or any(path.startswith(folder + "/") for path in arriving):
                continue
            names = [f"{folder}/{entry.name}" for entry in os.scandir(disk.path(folder))]
            if all(name in leaving or name in gone for name in names):
                gone[folder] = disk.mode(folder)
                above.add(parent(folder))
        folders = above
    return sorted(gone.items(), key=lambda item: (-item[0].count("/"), item[0]))


def _perform(disk: Disk, entry: Entry, changes: Sequence[FileChange], tick: Callable[[int], None] | None) -> None:
    for folder in entry.folders:
        disk.make_folder(folder)
    staged: list[str] = []
    for number, (record, change) in enumerate(zip(entry.records, changes, strict=True)):
        path = change.source or change.target or ""
        if change.after is not None and change.edited:
            disk.stage(path, change.after, record.mode)
            staged.append(path)
        if tick:
            tick(number + 1)
    disk.settle(staged)
    for path in staged:
        disk.replace(path)
    for change in _in_order([change for change in changes if change.moved]):
        disk.rename(change.source or "", change.target or "")
    for change in changes:
        if change.target is None and change.source is not None:
            disk.remove(change.source)
    for folder, _ in entry.removed_folders:
        disk.remove_folder(folder)
    for path in {parent(change.target or "") for change in changes}:
        disk.flush(disk.path(path))


def _in_order(moves: Sequence[FileChange]) -> list[FileChange]:
    """Order moves so that none lands on a file that has still to leave."""
    waiting = {change.source: change for change in moves}
    ordered: list[FileChange] = []
    while waiting:
        ready = [
            change for change in waiting.values() if change.target not in waiting or change.target == change.source
        ]
        if not ready:
            raise FaultError("files would have to swap places", file=next(iter(waiting)) or "")
        for change in ready:
            ordered.append(change)
            del waiting[change.source]
    return ordered


def _roll_back(journal: Journal, entry: Entry, disk: Disk) -> None:
    """Bring back the tree as it was before *entry*, from whatever state it was left in."""
    for folder, mode in reversed(entry.removed_folders):
        if not disk.path(folder).is_dir():
            disk.make_folder(folder)
            disk.path(folder).chmod(mode)
    moved = [record for record in entry.records if record.source and record.target and record.source != record.target]
    for record in _reversed_moves(moved):
        source, target = record.source or "", record.target or ""
        arrived = disk.path(target).is_file() and digest(disk.read(target)) in (record.before, record.after)
        if arrived and (not disk.path(source).exists() or _is_other_case(disk, source, target)):
            disk.rename(target, source)
    for record in entry.records:
        _restore(journal, entry, record, disk)
    for folder in reversed(entry.folders):
        disk.remove_folder(folder)
    journal.drop(entry)


def _is_other_case(disk: Disk, source: str, target: str) -> bool:
    """Tell whether both paths are one file, on disk in the spelling of *target* (where case does not count)."""
    path = disk.path(source)
    if not path.samefile(disk.path(target)):
        return False
    return all(entry.name != path.name for entry in os.scandir(path.parent))


def _reversed_moves(records: Sequence[Record]) -> list[Record]:
    """Order the moves for taking them back: what moved last goes first."""
    changes = [FileChange(record.source, record.target, None, None) for record in records]
    by_source = {record.source: record for record in records}
    return [by_source[change.source] for change in reversed(_in_order(changes))]


def _restore(journal: Journal, entry: Entry, record: Record, disk: Disk) -> None:
    """Put back one file's old bytes, and remove what was staged for it or made anew."""
    for relative in {record.source, record.target} - {None}:
        staged = disk.path(f"{relative}{STAGED}")
        if staged.exists():
            staged.unlink()
    if record.source is None:
        now = disk.read(record.target or "")
        if now is not None and digest(now) == record.after:
            disk.remove(record.target or "")
        return
    now = disk.read(record.source)
    if digest(now) == record.before:
        return
    if now is not None and digest(now) != record.after:
        raise RefusedError(
            "the file was changed by hand after an interrupted change; both versions are kept",
            file=record.source,
            remedy=f"The bytes before it are in {HOME}/journal/{entry.id}/old.bin at {record.start}: put them back, "
            f"or keep yours and remove {HOME}/journal/{entry.id}.",
        )
    disk.write(record.source, journal.old_bytes(entry, record) or b"", record.mode)
