"""The journal: what each change wrote, with the old bytes, so that it can be finished, taken back or undone.

Layout below ``.onomaxis/``::

    .gitignore            keeps the folder out of version control
    lock                  held while something is written
    journal/0001/entry.json   what the change is; written last of all, so an entry that can be read is whole
    journal/0001/old.bin      the bytes of the files before the change, one after the other
    journal/0001/done         stands when the change has been carried out

An entry without ``done`` was interrupted.
"""

from __future__ import annotations

import hashlib
import json
import shutil
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, fields, replace
from pathlib import Path
from typing import Any

from onomaxis.errors import InputError
from onomaxis.writing.changeset import FileChange
from onomaxis.writing.disk import Disk

HOME = ".onomaxis"
_KEPT_ENTRIES = 30
_KEPT_BYTES = 200 * 1024 * 1024


def digest(data: bytes | None) -> str:
    """Return the SHA-256 of *data* in hexadecimal, an empty string for no file."""
    return "" if data is None else hashlib.sha256(data).hexdigest()


@dataclass(frozen=True, slots=True)
class Record:
    """One file of an entry: paths, digests before and after, permission bits, span of its bytes in ``old.bin``."""

    source: str | None
    target: str | None
    before: str
    after: str
    mode: int
    start: int
    length: int


@dataclass(frozen=True, slots=True)
class Entry:
    """One change. ``undoes`` names the entry it takes back, ``state`` is ``done`` or ``open``."""

    id: str
    title: str
    records: tuple[Record, ...]
    folders: tuple[str, ...]
    removed_folders: tuple[tuple[str, int], ...]
    identity_before: str
    identity_after: str
    undoes: str = ""
    state: str = "open"


_RECORD_FIELDS = tuple(item.name for item in fields(Record))
_ENTRY_FIELDS = tuple(item.name for item in fields(Entry))


class Journal:
    """The entries of one project."""

    def __init__(self, root: Path) -> None:
        self.disk = Disk(root)
        self.folder = root / HOME / "journal"

    def entries(self) -> list[Entry]:
        """Return the readable entries, the oldest first."""
        return list(self._read())

    def _read(self) -> Iterator[Entry]:
        if not self.folder.is_dir():
            return
        yield from (entry for place in sorted(self.folder.iterdir()) if (entry := _load(place)))

    def entry(self, wanted: str) -> Entry:
        """Return the entry with ID *wanted*. Raises InputError."""
        for entry in self.entries():
            if entry.id == wanted or entry.id.lstrip("0") == wanted.lstrip("0"):
                return entry
        raise InputError(f"there is no change {wanted} in the journal", remedy="onomaxis history lists them.")

    def interrupted(self) -> Entry | None:
        """Return the entry that was begun and not finished. Finished ones are not read."""
        if not self.folder.is_dir():
            return None
        places = [place for place in sorted(self.folder.iterdir()) if not (place / "done").exists()]
        return next((entry for place in places if (entry := _load(place))), None)

    def last(self) -> Entry | None:
        """Return the newest change that stands: done, no undo, not undone since."""
        entries = [entry for entry in self.entries() if entry.state == "done"]
        undone = {entry.undoes for entry in entries if entry.undoes}
        standing = [entry for entry in entries if not entry.undoes and entry.id not in undone]
        return standing[-1] if standing else None

    def old_bytes(self, entry: Entry, record: Record) -> bytes | None:
        """Return the bytes of a file before *entry*."""
        if record.source is None:
            return None
        with (self.folder / entry.id / "old.bin").open("rb") as handle:
            handle.seek(record.start)
            return handle.read(record.length)

    def begin(self, entry: Entry, changes: Sequence[FileChange]) -> Entry:
        """Store the old bytes, then the entry; return it with its ID."""
        self._prepare()
        known = [int(path.name) for path in self.folder.iterdir() if path.name.isdecimal()]
        entry = replace(entry, id=f"{max(known, default=0) + 1:04d}")
        base = f"{HOME}/journal/{entry.id}"
        self.disk.make_folder(base)
        self.disk.write(f"{base}/old.bin", b"".join(change.before or b"" for change in changes))
        text = json.dumps(_plain(entry), ensure_ascii=False, indent=1, sort_keys=True)
        self.disk.write(f"{base}/entry.json", text.encode("utf-8"))
        return entry

    def _prepare(self) -> None:
        self.disk.make_folder(HOME)
        ignore = f"{HOME}/.gitignore"
        if self.disk.read(ignore) is None:
            self.disk.write(ignore, b"*\n")
        self.disk.make_folder(f"{HOME}/journal")

    def finish(self, entry: Entry) -> None:
        """Mark *entry* as carried out, and drop the oldest ones beyond the bounds."""
        self.disk.write(f"{HOME}/journal/{entry.id}/done", b"")
        self._prune()

    def drop(self, entry: Entry) -> None:
        """Forget an entry that was taken back."""
        self.disk.step("drop", entry.id)
        (self.folder / entry.id / "entry.json").unlink(missing_ok=True)
        shutil.rmtree(self.folder / entry.id, ignore_errors=True)

    def _prune(self) -> None:
        places = sorted(path for path in self.folder.iterdir() if path.name.isdecimal())
        sizes = {path: sum(item.stat().st_size for item in path.rglob("*") if item.is_file()) for path in places}
        while len(places) > 1 and (len(places) > _KEPT_ENTRIES or sum(sizes[path] for path in places) > _KEPT_BYTES):
            oldest = places.pop(0)
            shutil.rmtree(oldest, ignore_errors=True)


def _plain(entry: Entry) -> dict[str, Any]:
    plain = {name: getattr(entry, name) for name in _ENTRY_FIELDS if name not in ("state", "records")}
    records = [{name: getattr(record, name) for name in _RECORD_FIELDS} for record in entry.records]
    return {"format": 1, **plain, "records": records}


def _load(place: Path) -> Entry | None:
    """Read the entry in a folder; None when it was never completed."""
    try:
        return _entry(place, json.loads((place / "entry.json").read_text("utf-8")))
    except (OSError, ValueError):
        return None


def _entry(place: Path, raw: dict[str, Any]) -> Entry:
    return Entry(
        raw["id"],
        raw["title"],
        tuple(Record(**record) for record in raw["records"]),
        tuple(raw["folders"]),
        tuple((name, mode) for name, mode in raw["removed_folders"]),
        raw["identity_before"],
        raw["identity_after"],
        raw["undoes"],
        "done" if (place / "done").exists() else "open",
    )
