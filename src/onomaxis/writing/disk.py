"""The few operations that touch the disk, each of them durable, behind one class so that faults can be tried.

No path leads out of the root: each is a plain path (:mod:`onomaxis.paths`), and no folder on its way is a link.
"""

from __future__ import annotations

import hashlib
import os
import stat
from collections.abc import Sequence
from pathlib import Path

from onomaxis.errors import RefusedError
from onomaxis.paths import fault_of
from onomaxis.tree import parent

STAGED = ".onomaxis-staged"
ASIDE = ".onomaxis-aside"
_MANY = 16
# Longest name of a file in bytes (NAME_MAX of common file systems).
_LONGEST = 255
_NEW = os.O_WRONLY | os.O_CREAT | os.O_EXCL | getattr(os, "O_NOFOLLOW", 0) | getattr(os, "O_BINARY", 0)
_READ = os.O_RDONLY | getattr(os, "O_NOFOLLOW", 0) | getattr(os, "O_BINARY", 0) | getattr(os, "O_NONBLOCK", 0)
# Permissions of a folder, and the bits that decide whose what is made in it becomes, and who may remove it.
_OF_FOLDERS = 0o3777


class Disk:
    """Writes below one root. Paths are relative, with forward slashes; nothing leaves the root."""

    def __init__(self, root: Path) -> None:
        self.root = root
        self._prefix = os.fspath(root) + os.sep
        self._plain: set[str] = set()
        self._names: dict[str, str] = {}
        self._changed: set[str] = set()

    def name(self, relative: str) -> str:
        """Return the absolute path of *relative*.

        Raises RefusedError when the path is none below the root, or a link stands on its way.
        """
        known = self._names.get(relative)
        if known is not None:
            return known
        fault = fault_of(relative)
        if fault:
            raise RefusedError(f"this path is not used: {fault}", file=str(relative))
        folder = parent(relative)
        self._walk(folder)
        name = self._prefix + relative
        if not folder or folder in self._plain:  # what is not there yet is looked at again
            self._names[relative] = name
        return name

    def _walk(self, folder: str) -> None:
        """Make sure that no folder on the way is a link."""
        if not folder or folder in self._plain:
            return
        self._walk(parent(folder))
        info = self._look(self._prefix + folder)
        if info is None:
            return
        if stat.S_ISLNK(info.st_mode) or getattr(info, "st_reparse_tag", False):
            raise RefusedError(
                "a link stands where a folder of the project should",
                file=folder,
                remedy="Nothing is written through links: put the folder itself there.",
            )
        self._plain.add(folder)

    @staticmethod
    def _look(name: str) -> os.stat_result | None:
        try:
            return os.lstat(name)
        except (FileNotFoundError, NotADirectoryError):
            return None

    def unhindered(self) -> Disk:
        """Return a disk of the same root on which every operation is tried: for taking back."""
        return Disk(self.root)

    def step(self, name: str, relative: str) -> None:
        """Called before each operation that changes the disk."""

    def _change(self, name: str, *paths: str) -> None:
        """Begin an operation, and note the folders whose entries it changes."""
        self.step(name, paths[0])
        self._changed.update(map(parent, paths))

    # -- looking

    def kind(self, relative: str) -> str:
        """Return what stands at a path: ``file``, ``folder``, ``link``, ``other``, or an empty string for nothing."""
        info = self._look(self.name(relative))
        if info is None:
            return ""
        for test, kind in ((stat.S_ISREG, "file"), (stat.S_ISDIR, "folder"), (stat.S_ISLNK, "link")):
            if test(info.st_mode):
                return kind
        return "other"

    def spelled(self, relative: str) -> bool:
        """Tell whether something stands at a path in just this spelling, also where case does not count."""
        last = relative.rpartition("/")[2]
        return bool(self.kind(relative)) and last in self.names(parent(relative))

    def same(self, one: str, other: str) -> bool:
        """Tell whether two paths are the same file or folder."""
        first, second = self._look(self.name(one)), self._look(self.name(other))
        return first is not None and second is not None and os.path.samestat(first, second)

    def names(self, folder: str) -> list[str]:
        """Return what stands in a folder."""
        return sorted(os.listdir(self.name(folder) if folder else self._prefix))

    def read(self, relative: str, limit: int = -1) -> bytes | None:
        """Return a file's bytes, of a link its target, or None when there is neither.

        With *limit*, a file with more bytes counts as none.
        """
        name = self.name(relative)
        info = self._look(name)
        if info is None or not (stat.S_ISREG(info.st_mode) or stat.S_ISLNK(info.st_mode)):
            return None
        if stat.S_ISLNK(info.st_mode):
            return os.fsencode(os.readlink(name))
        if 0 <= limit < info.st_size:
            return None
        with open(os.open(name, _READ), "rb") as handle:
            return handle.read()

    def read_span(self, relative: str, start: int, length: int) -> bytes:
        """Return a stretch of a file's bytes, shorter where the file ends."""
        with open(os.open(self.name(relative), _READ), "rb") as handle:
            handle.seek(start)
            return handle.read(length)

    def mode(self, relative: str) -> int:
        """Return the permission bits of a file, or of a folder with what its files inherit."""
        mode = os.lstat(self.name(relative)).st_mode
        return stat.S_IMODE(mode) & (_OF_FOLDERS if stat.S_ISDIR(mode) else 0o777)

    def may_write(self, folder: str) -> bool:
        """Tell whether entries of a folder may be made and removed."""
        return os.access(self.name(folder) if folder else self._prefix, os.W_OK | os.X_OK)

    # -- writing

    @staticmethod
    def beside(relative: str, suffix: str = STAGED) -> str:
        """Return the path beside *relative* at which something waits for its place."""
        last = relative.rpartition("/")[2]
        if len(os.fsencode(last + suffix)) <= _LONGEST:
            return relative + suffix
        short = hashlib.sha256(os.fsencode(last)).hexdigest()[:24] + suffix
        return f"{parent(relative)}/{short}".lstrip("/")

    def write(self, relative: str, data: bytes, mode: int | None = None, link: bool = False) -> None:
        """Write a file whole: staged beside the target, made durable, then renamed into place."""
        self.stage(relative, data, mode, link)
        if not link:
            self.settle([relative])
        self.replace(relative)
        self.flush()

    def stage(self, relative: str, data: bytes, mode: int | None = None, link: bool = False) -> None:
        """Write the new bytes of a file, or a new link, beside it. What exists already is an error."""
        self._change("stage", relative)
        staged = self.name(self.beside(relative))
        if link:
            os.symlink(os.fsdecode(data), staged)
            return
        with open(os.open(staged, _NEW, 0o666 if mode is None else 0o600), "wb") as handle:
            handle.write(data)
            if mode is not None and hasattr(os, "fchmod"):
                os.fchmod(handle.fileno(), mode & 0o777)

    def settle(self, staged: Sequence[str]) -> None:
        """Make staged files durable: one by one when they are few, by one call for the whole system when many."""
        if len(staged) > _MANY and hasattr(os, "sync"):
            os.sync()
            return
        for relative in staged:
            with open(os.open(self.name(self.beside(relative)), os.O_RDWR | (_READ & ~os.O_RDONLY)), "rb+") as handle:
                os.fsync(handle.fileno())

    def replace(self, relative: str) -> None:
        """Rename a staged file into place."""
        self._change("replace", relative)
        os.replace(self.name(self.beside(relative)), self.name(relative))

    def unstage(self, relative: str) -> None:
        """Remove what is staged for a path, if anything is."""
        staged = self.beside(relative)
        if self.kind(staged) in ("file", "link"):
            self._change("unstage", relative)
            os.unlink(self.name(staged))

    def rename(self, source: str, target: str) -> None:
        """Rename a file, link or folder; nothing must stand at the target, except the same thing in another case."""
        self._change("rename", source, target)
        name = self.name(source)
        info = self._look(name)
        os.rename(name, self.name(target))
        if info is None or stat.S_ISDIR(info.st_mode):
            self._forget()

    def remove(self, relative: str) -> None:
        """Remove a file or link if it is there."""
        self._change("remove", relative)
        Path(self.name(relative)).unlink(missing_ok=True)

    def _forget(self) -> None:
        """Look again at the folders on every way: one of them stands elsewhere now, or nowhere."""
        self._plain.clear()
        self._names.clear()

    def make_folder(self, relative: str, mode: int | None = None) -> None:
        """Make one folder if it is not there; its parent exists."""
        self.step("make folder", relative)
        name = self.name(relative)
        if self.kind(relative) == "folder":
            return
        self._changed.add(parent(relative))
        os.mkdir(name)
        if mode is not None:
            os.chmod(name, mode & _OF_FOLDERS | 0o700)

    def remove_folder(self, relative: str) -> bool:
        """Remove a folder if it is empty; tell whether it is gone."""
        self._change("remove folder", relative)
        try:
            os.rmdir(self.name(relative))
        except FileNotFoundError:
            return True
        except OSError:
            return False
        self._forget()
        return True

    def flush(self) -> None:
        """Make durable what was entered into folders and taken out since the last time, where the system can."""
        changed, self._changed = sorted(self._changed), set()
        if os.name == "nt":
            return
        there = [folder for folder in changed if not folder or self.kind(folder) == "folder"]
        if len(there) > _MANY:
            os.sync()
            return
        for folder in there:
            handle = os.open(self.name(folder) if folder else self._prefix, os.O_RDONLY)
            try:
                os.fsync(handle)
            finally:
                os.close(handle)
