"""Carrying out a change, all or nothing: the only place that writes into a project.

Order: lock, compare every file with what was surveyed, store the old bytes and the entry, make folders, stage every
new content beside the place where it will stand, remove what goes, rename what moves, rename what was staged into
place, remove emptied folders, mark the entry as done. Any fault before the mark takes everything back; what happens
after it no longer does.
"""

from __future__ import annotations

import itertools
import os
from collections.abc import Callable, Iterator, Sequence
from contextlib import ExitStack, contextmanager, suppress
from pathlib import Path
from typing import NamedTuple

from onomaxis.errors import InputError, OnomaxisError, RefusedError
from onomaxis.tree import parent
from onomaxis.writing.change import FileChange
from onomaxis.writing.disk import STAGED, Disk
from onomaxis.writing.journal import HOME, Entry, Journal, Record, digest, prepare_home
from onomaxis.writing.moves import route
from onomaxis.writing.recover import roll_back

_DONE, _TURNED = "done", "turned"
_PLAIN_MODE = 0o644


class Labels(NamedTuple):
    """What the journal keeps of a change beside its files."""

    title: str
    identity_before: str = ""
    identity_after: str = ""
    undoes: str = ""


class Written(NamedTuple):
    """What was carried out: the entry's ID, and the emptied folders that could not be removed."""

    id: str
    left: tuple[str, ...] = ()


@contextmanager
def locked(root: Path) -> Iterator[Path]:
    """Hold the project's lock. Raises RefusedError when another run holds it, InputError when none can be made."""
    from filelock import FileLock, Timeout

    disk = Disk(root)
    with ExitStack() as held:
        try:
            disk.make_folder(HOME)
            if disk.kind(f"{HOME}/lock") not in ("", "file"):
                raise RefusedError("the lock is not a plain file", file=f"{HOME}/lock", remedy="Remove it.")
            held.enter_context(FileLock(disk.name(f"{HOME}/lock"), timeout=0))
            prepare_home(disk)
        except Timeout:
            raise RefusedError("another run of onomaxis is writing here", remedy="Wait for it to end.") from None
        except OSError as error:
            raise InputError(f"cannot write here: {error.strerror}", file=str(root)) from None
        yield root


def carry_out(
    root: Path,
    changes: Sequence[FileChange],
    labels: Labels,
    tick: Callable[[int], None] | None = None,
    disk: Disk | None = None,
) -> Written:
    """Write *changes* below *root*. The lock must be held.

    Raises RefusedError when a file is not as it was surveyed, InputError when the disk refuses.
    """
    disk = disk or Disk(root)
    journal = Journal(root, disk)
    entry: Entry | None = None
    left: tuple[str, ...] = ()
    try:
        _compare(disk, changes)
        _may_write(disk, changes)
        journal.sweep()
        entry = journal.begin(_entry(disk, changes, labels), changes)
        left = _perform(journal, entry, changes, tick)
        journal.mark(entry, _DONE)
    except BaseException as error:
        if entry is None or not journal.marked(entry, _DONE):
            _take_back(root, disk, entry, error)
            if isinstance(error, OSError):
                raise _refused_by_disk(root, error) from None
            raise
    with suppress(OSError, OnomaxisError):
        journal.prune()
    return Written(entry.id, left)


def _refused_by_disk(root: Path, error: OSError) -> InputError:
    name = os.path.relpath(error.filename, root) if isinstance(error.filename, str) else ""
    shown = name.replace(os.sep, "/").removesuffix(STAGED)
    return InputError(f"the disk could not be written: {error.strerror}; nothing was changed", file=shown)


def _take_back(root: Path, disk: Disk, entry: Entry | None, cause: BaseException) -> None:
    """Undo what was begun, with a plain disk of the same kind, whatever goes wrong in the one in use."""
    journal = Journal(root, disk.unhindered())
    try:
        if entry is not None and journal.load(entry.id) is not None:
            roll_back(journal, entry)
        journal.sweep()
    except OSError as error:
        raise InputError(
            f"the disk refused ({error.strerror}), and refused again when the change was taken back",
            file=str(root),
            remedy="The change waits half done: the next command that writes, or onomaxis undo, takes it back.",
        ) from cause


# -- before


def _compare(disk: Disk, changes: Sequence[FileChange]) -> None:
    leaving = {change.source for change in changes if change.source != change.target}
    for change in changes:
        source, target = change.source, change.target
        if source is not None and (disk.read(source) != change.before or disk.kind(source) != _kind(change)):
            raise RefusedError(
                "the file changed while the command ran", file=source, remedy="Nothing was changed; run it again."
            )
        if target is None:
            continue
        if change.edited or source is None:
            _refuse_taken(disk, disk.beside(target), "what is written is staged under this name")
        if target == source or target in leaving or not disk.kind(target):
            continue
        if source is None or not disk.same(source, target):
            raise RefusedError("a file of this name exists already", file=target, remedy="Move it away first.")


def _kind(change: FileChange) -> str:
    return "link" if change.link else "file"


def _refuse_taken(disk: Disk, path: str, why: str) -> None:
    if disk.kind(path):
        raise RefusedError(f"{why}, and something stands there", file=path, remedy="Remove it; nothing was changed.")


def _may_write(disk: Disk, changes: Sequence[FileChange]) -> None:
    """Ask for permission before the first byte, so that most refusals cost nothing."""
    asked: set[str] = set()
    for change in changes:
        for relative in (change.source, change.target):
            folder = parent(relative or "")
            while folder and folder not in asked and disk.kind(folder) != "folder":
                if disk.kind(folder):
                    raise RefusedError("a file stands where a folder shall be", file=folder)
                folder = parent(folder)
            if folder in asked:
                continue
            asked.add(folder)
            if not disk.may_write(folder):
                raise InputError(
                    "no permission to write here; nothing was changed",
                    file=str(disk.root / folder),
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
            disk.mode(change.source) if change.source else _PLAIN_MODE,
            start,
            len(change.before or b""),
            change.link,
        )
        for change, start in zip(changes, starts, strict=False)
    )
    folders = _new_folders(disk, changes)
    emptied = _emptied(disk, changes)
    respelled = _respelled(disk, changes, [folder for folder, _ in emptied])
    kept = {old for old, _ in respelled}
    return Entry(
        "",
        labels.title,
        records,
        tuple(folders),
        tuple(item for item in emptied if item[0] not in kept),
        labels.identity_before,
        labels.identity_after,
        labels.undoes,
        tuple(respelled),
    )


def _new_folders(disk: Disk, changes: Sequence[FileChange]) -> list[str]:
    wanted: set[str] = set()
    for change in changes:
        folder = parent(change.target or "")
        while folder and folder not in wanted and disk.kind(folder) != "folder":
            wanted.add(folder)
            folder = parent(folder)
    return sorted(wanted)


def _folder_modes(disk: Disk, changes: Sequence[FileChange], folders: Sequence[str]) -> dict[str, int]:
    """Return the permissions of new folders that files move to: those that every folder they come from has."""
    found: dict[str, int] = {}
    made = frozenset(folders)
    for old, new in {(parent(c.source or ""), parent(c.target or "")) for c in changes if c.moved}:
        while old and new in made:
            mode = disk.mode(old)
            found[new] = found.get(new, mode) & mode
            old, new = parent(old), parent(new)
    return found


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
            names = [f"{folder}/{name}" for name in disk.names(folder)]
            if all(name in leaving or name in gone for name in names):
                gone[folder] = disk.mode(folder)
                above.add(parent(folder))
        folders = above
    return sorted(gone.items(), key=lambda item: (-item[0].count("/"), item[0]))


def _respelled(disk: Disk, changes: Sequence[FileChange], emptied: Sequence[str]) -> list[tuple[str, str]]:
    """Return the emptied folders that are, on this disk, the very folders that files move to under another case."""
    wanted: set[str] = set()
    for change in changes:
        folder = parent(change.target or "") if change.moved else ""
        while folder:
            wanted.add(folder)
            folder = parent(folder)
    folded: dict[str, str] = {}
    for folder in sorted(wanted):
        folded.setdefault(folder.casefold(), folder)
    pairs = ((old, folded.get(old.casefold(), old)) for old in emptied)
    found = [(old, new) for old, new in pairs if new != old and disk.kind(new) == "folder" and disk.same(old, new)]
    return sorted(found, key=lambda pair: pair[0].count("/"))


# -- while


def _perform(
    journal: Journal, entry: Entry, changes: Sequence[FileChange], tick: Callable[[int], None] | None
) -> tuple[str, ...]:
    """Do it; return the emptied folders that could not be removed."""
    disk = journal.disk
    for old, new in entry.respelled:
        disk.rename(_along(old, entry.respelled), new)
    modes = _folder_modes(disk, changes, entry.folders)
    for folder in entry.folders:
        disk.make_folder(folder, modes.get(folder))
    staged: list[str] = []
    plain: list[str] = []
    for number, (record, change) in enumerate(zip(entry.records, changes, strict=True)):
        if change.after is not None and change.target is not None and (change.edited or change.source is None):
            disk.stage(change.target, change.after, record.mode, change.link)
            staged.append(change.target)
            plain += [] if change.link else [change.target]
        if tick:
            tick(number + 1)
    disk.settle(plain)
    for change in changes:
        if change.target is None and change.source is not None:
            disk.remove(change.source)
    way = route(entry.records)
    for step in way.first:
        disk.rename(step.source, step.target)
    if way.closing:
        journal.mark(entry, _TURNED)
    for step in way.closing:
        disk.rename(step.source, step.target)
    for path in staged:
        disk.replace(path)
    left = tuple(folder for folder, _ in entry.removed_folders if not disk.remove_folder(folder))
    disk.flush()
    return left


def _along(old: str, respelled: Sequence[tuple[str, str]]) -> str:
    """Return where a folder stands once those above it have got their new spelling."""
    for above, new in respelled:
        if old.startswith(above + "/"):
            old = new + old[len(above) :]
    return old
