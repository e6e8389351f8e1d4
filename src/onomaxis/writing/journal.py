"""The journal: what each change wrote, with the old bytes, so that it can be finished, taken back or undone.

Layout below ``.onomaxis/``::

    .gitignore            keeps the folder out of version control
    lock                  held while something is written
    journal/0001/old.bin      the bytes of the files before the change, one after the other
    journal/0001/seal         says that this user made the entry in this checkout (see trust.py)
    journal/0001/entry.json   what the change is; written last of all, so an entry that can be read is whole
    journal/0001/turned       stands when of files that swap places all but the last of each circle have moved
    journal/0001/done         stands when the change has been carried out

An entry without ``done`` was interrupted. What stands here is input like any other: it may have come with the
repository. An entry is read only if everything in it has the form that this module writes, and every path is one
below the root.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from contextlib import suppress
from pathlib import Path
from typing import Any, NamedTuple

from onomaxis import late
from onomaxis.errors import InputError, OnomaxisError, RefusedError
from onomaxis.paths import fault_of
from onomaxis.writing.change import FileChange
from onomaxis.writing.disk import Disk
from onomaxis.writing.trust import is_sealed, seal, user_key

HOME = ".onomaxis"
FOLDER = f"{HOME}/journal"
_KEPT_ENTRIES = 30
_KEPT_BYTES = 200 * 1024 * 1024
_NUMBER = late.compile(r"[0-9]{1,9}")
# What a terminal would obey instead of showing it.
_CONTROL = late.compile(r"[\x00-\x1f\x7f-\x9f]")
# No change that this program makes needs more for its list of files.
_LONGEST_ENTRY = 64 * 1024 * 1024


def digest(data: bytes | None) -> str:
    """Return the SHA-256 of *data* in hexadecimal, an empty string for no file."""
    return "" if data is None else hashlib.sha256(data).hexdigest()


class Record(NamedTuple):
    """One file of an entry: paths, digests before and after, permission bits, span of its bytes in ``old.bin``.

    For a link the bytes are its target.
    """

    source: str | None
    target: str | None
    before: str
    after: str
    mode: int
    start: int
    length: int
    link: bool = False

    @property
    def moved(self) -> bool:
        """True when the file gets another path."""
        return self.source is not None and self.target is not None and self.source != self.target


class Entry(NamedTuple):
    """One change. ``undoes`` names the entry it takes back, ``state`` is ``done`` or ``open``.

    ``respelled`` are folders whose name changes in case alone, on a disk where case does not count. ``own`` tells
    whether this user made the entry in this checkout.
    """

    id: str
    title: str
    records: tuple[Record, ...]
    folders: tuple[str, ...]
    removed_folders: tuple[tuple[str, int], ...]
    identity_before: str
    identity_after: str
    undoes: str = ""
    respelled: tuple[tuple[str, str], ...] = ()
    state: str = "open"
    own: bool = True


_RECORD_FIELDS = Record._fields
_ENTRY_FIELDS = tuple(name for name in Entry._fields if name not in ("state", "own", "records"))


def prepare_home(disk: Disk) -> None:
    """Make the tool's own folder, which version control leaves alone, whatever a run that was ended left of it."""
    disk.make_folder(HOME)
    ignore = f"{HOME}/.gitignore"
    if not disk.kind(ignore):
        disk.unstage(ignore)
        disk.write(ignore, b"*\n")


class Journal:
    """The entries of one project."""

    def __init__(self, root: Path, disk: Disk | None = None) -> None:
        self.root = root
        self.disk = disk or Disk(root)
        self._parsed: dict[bytes, Entry] = {}

    def ids(self) -> list[str]:
        """Return the names of the entries' folders, in the order of their numbers."""
        try:
            if self.disk.kind(HOME) != "folder" or self.disk.kind(FOLDER) != "folder":
                return []
            names = self.disk.names(FOLDER)
        except OSError:
            return []
        return sorted((name for name in names if _NUMBER.fullmatch(name)), key=lambda name: (int(name), name))

    def entries(self) -> list[Entry]:
        """Return the readable entries, the oldest first."""
        return [entry for name in self.ids() if (entry := self.load(name)) is not None]

    def damaged(self) -> list[str]:
        """Return the entries that are no entries: cut off, of another form, or with paths out of the root."""
        written = (name for name in self.ids() if self.disk.kind(f"{FOLDER}/{name}/entry.json"))
        return [name for name in written if self.load(name) is None]

    def load(self, name: str) -> Entry | None:
        """Return one entry; None when it was never completed or is damaged."""
        base = f"{FOLDER}/{name}"
        try:
            text = self.disk.read(f"{base}/entry.json", _LONGEST_ENTRY)
            if text is None or self.disk.kind(f"{base}/entry.json") != "file":
                return None
            entry = self._parsed.get(text)
            if entry is None or entry.id != name:
                entry = self._parsed[text] = _entry(name, json.loads(text.decode("utf-8")))
            found = self.disk.read(f"{base}/seal", 1024)
            state = "done" if self.disk.kind(f"{base}/done") else "open"
            return entry._replace(state=state, own=is_sealed(self.root, text, found))
        except (OSError, ValueError, RecursionError, OnomaxisError):
            return None

    def entry(self, wanted: str) -> Entry:
        """Return the entry with ID *wanted*. Raises InputError."""
        for name in self.ids():
            if name == wanted or (_NUMBER.fullmatch(wanted) and int(name) == int(wanted)):
                entry = self.load(name)
                if entry is not None:
                    return entry
                raise InputError(f"change {name} cannot be read: its entry is damaged", file=f"{FOLDER}/{name}")
        raise InputError(f"there is no change {wanted} in the journal", remedy="onomaxis history lists them.")

    def interrupted(self) -> Entry | None:
        """Return the entry that was begun and not finished, one made here first. Finished ones are not read."""
        places = [name for name in self.ids() if not self.disk.kind(f"{FOLDER}/{name}/done")]
        found = [entry for name in reversed(places) if (entry := self.load(name))]
        return next((entry for entry in found if entry.own), found[0] if found else None)

    def standing(self) -> list[Entry]:
        """Return the changes that stand: done, no undo, not undone since."""
        entries = [entry for entry in self.entries() if entry.state == "done"]
        undone = {entry.undoes for entry in entries if entry.undoes}
        return [entry for entry in entries if not entry.undoes and entry.id not in undone]

    def last_own(self) -> Entry | None:
        """Return the newest change that stands and was made in this checkout by this user: one whose word counts."""
        undone: set[str] = set()
        for name in reversed(self.ids()):  # an undoing is newer than what it undoes: the rest need not be read
            entry = self.load(name)
            if entry is None or entry.state != "done":
                continue
            if entry.undoes:
                undone.add(entry.undoes)
            elif entry.own and entry.id not in undone:
                return entry
        return None

    def old_bytes(self, entry: Entry, record: Record) -> bytes | None:
        """Return the bytes of a file before *entry*. Raises RefusedError when they are not those that it names."""
        if record.source is None:
            return None
        path = f"{FOLDER}/{entry.id}/old.bin"
        try:
            data = self.disk.read_span(path, record.start, record.length)
        except OSError:
            data = b""
        if digest(data) != record.before:
            raise RefusedError(
                f"the old bytes of {record.source} are damaged",
                file=path,
                remedy="This change cannot be taken back; nothing was changed.",
            )
        return data

    # -- writing

    def begin(self, entry: Entry, changes: Sequence[FileChange]) -> Entry:
        """Store the old bytes, then the entry; return it with its ID."""
        prepare_home(self.disk)
        self.disk.make_folder(FOLDER)
        entry = entry._replace(id=f"{max(map(int, self.ids()), default=0) + 1:04d}")
        base = f"{FOLDER}/{entry.id}"
        self.disk.make_folder(base)
        self.disk.write(f"{base}/old.bin", b"".join(change.before or b"" for change in changes))
        text = _written(entry).encode()
        key = user_key(make=True)
        if key is not None:
            self.disk.write(f"{base}/seal", seal(key, self.root, text))
        self.disk.write(f"{base}/entry.json", text)
        return entry

    def mark(self, entry: Entry, name: str) -> None:
        """Let the file *name* stand beside an entry."""
        self.disk.write(f"{FOLDER}/{entry.id}/{name}", b"")

    def unmark(self, entry: Entry, name: str) -> None:
        """Take a mark away."""
        self.disk.remove(f"{FOLDER}/{entry.id}/{name}")

    def marked(self, entry: Entry, name: str) -> bool:
        """Tell whether a mark stands."""
        return bool(entry.id) and self.disk.kind(f"{FOLDER}/{entry.id}/{name}") == "file"

    def drop(self, name: str) -> None:
        """Forget an entry: first what makes it one, then the rest."""
        base = f"{FOLDER}/{name}"
        self.disk.step("drop", name)
        for item in ("entry.json", *self._inside(base)):
            with suppress(OSError):
                self.disk.remove(f"{base}/{item}")
        self.disk.remove_folder(base)

    def _inside(self, base: str) -> list[str]:
        try:
            return self.disk.names(base)
        except OSError:
            return []

    def sweep(self) -> None:
        """Drop half-written entries, which nothing on disk follows from yet."""
        for name in self.ids():
            if not self.disk.kind(f"{FOLDER}/{name}/entry.json"):
                self.drop(name)

    def prune(self) -> None:
        """Drop the oldest entries beyond the bounds."""
        sizes = {name: self._size(name) for name in self.ids()}
        kept = list(sizes)
        while len(kept) > 1 and (len(kept) > _KEPT_ENTRIES or sum(sizes[name] for name in kept) > _KEPT_BYTES):
            self.drop(kept.pop(0))

    def _size(self, name: str) -> int:
        base = self.disk.name(f"{FOLDER}/{name}")
        return sum(path.lstat().st_size for path in Path(base).iterdir())


def _plain(entry: Entry) -> dict[str, Any]:
    plain = {name: getattr(entry, name) for name in _ENTRY_FIELDS}
    plain["title"] = _CONTROL.sub(" ", entry.title)
    records = [{name: getattr(record, name) for name in _RECORD_FIELDS} for record in entry.records]
    return {"format": 1, **plain, "records": records}


def _written(entry: Entry) -> str:
    """Return an entry's file: a key a line, and of the long lists an item a line."""
    lines = []
    for key, value in sorted(_plain(entry).items()):
        if key in ("records", "folders", "removed_folders") and value:
            inner = ",\n".join(f"  {json.dumps(item, sort_keys=True)}" for item in value)
            lines.append(f" {json.dumps(key)}: [\n{inner}\n ]")
        else:
            lines.append(f" {json.dumps(key)}: {json.dumps(value, sort_keys=True)}")
    return "{\n" + ",\n".join(lines) + "\n}\n"


def _entry(name: str, raw: object) -> Entry:
    """Make an entry of what an entry file holds. Raises ValueError where it has another form."""
    if not isinstance(raw, dict) or raw.get("id") != name:
        raise ValueError("no entry")
    texts = [raw.get(key) for key in ("title", "identity_before", "identity_after", "undoes")]
    title, before, after, undoes = (_text(item) for item in texts)
    if _CONTROL.search(title) or (undoes and not _NUMBER.fullmatch(undoes)):
        raise ValueError("no title")
    folders = tuple(_path(item) for item in _list(raw.get("folders")))
    removed = [_list(item, 2) for item in _list(raw.get("removed_folders"))]
    respelled = [_list(item, 2) for item in _list(raw.get("respelled", []))]
    return Entry(
        name,
        title,
        tuple(_record(item) for item in _list(raw.get("records"))),
        folders,
        tuple((_path(path), _number(mode) & 0o777) for path, mode in removed),
        before,
        after,
        undoes,
        tuple((_path(old), _path(new)) for old, new in respelled),
    )


def _record(raw: object) -> Record:
    if not isinstance(raw, dict) or not set(raw) <= set(_RECORD_FIELDS):
        raise ValueError("no record")
    source, target = raw.get("source"), raw.get("target")
    if source is None and target is None:
        raise ValueError("a record without a path")
    link = raw.get("link", False)
    if not isinstance(link, bool):
        raise ValueError("no switch")
    return Record(
        None if source is None else _path(source),
        None if target is None else _path(target),
        _text(raw.get("before")),
        _text(raw.get("after")),
        _number(raw.get("mode")) & 0o777,
        _number(raw.get("start")),
        _number(raw.get("length")),
        link,
    )


def _text(value: object) -> str:
    if not isinstance(value, str):
        raise ValueError("no text")
    return value


def _number(value: object) -> int:
    if not isinstance(value, int) or isinstance(value, bool) or not 0 <= value < 1 << 48:
        raise ValueError("no number")
    return value


def _list(value: object, length: int = -1) -> list[Any]:
    if not isinstance(value, list) or (length >= 0 and len(value) != length):
        raise ValueError("no list")
    return value


def _path(value: object) -> str:
    if fault_of(value) or not isinstance(value, str) or value.split("/")[0].casefold() == HOME:
        raise ValueError("no path below the root")
    return value
