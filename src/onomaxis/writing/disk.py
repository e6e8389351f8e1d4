"""The few operations that touch the disk, each of them durable, behind one class so that faults can be tried."""

from __future__ import annotations

import os
import stat
from collections.abc import Sequence
from pathlib import Path

STAGED = ".onomaxis-staged"
_MANY = 16


class Disk:
    """Writes below one root. Paths are relative, with forward slashes; nothing leaves the root."""

    def __init__(self, root: Path) -> None:
        self.root = root
        self._prefix = os.fspath(root) + os.sep

    def path(self, relative: str) -> Path:
        """Return the absolute path of *relative*."""
        return self.root / relative

    def name(self, relative: str, staged: bool = False) -> str:
        """Return the absolute path of *relative* as text, or that of what is staged beside it."""
        return f"{self._prefix}{relative}{STAGED if staged else ''}"

    def step(self, name: str, relative: str) -> None:
        """Called before each operation that changes the disk."""

    def read(self, relative: str) -> bytes | None:
        """Return a file's bytes, or None when there is no plain file."""
        name = self.name(relative)
        try:
            if not stat.S_ISREG(os.lstat(name).st_mode):
                return None
            with open(name, "rb") as handle:
                return handle.read()
        except (FileNotFoundError, NotADirectoryError, IsADirectoryError):
            return None

    def mode(self, relative: str) -> int:
        """Return the permission bits of a file or folder."""
        return stat.S_IMODE(os.stat(self.name(relative)).st_mode)  # noqa: PTH116 - called for every file

    def write(self, relative: str, data: bytes, mode: int | None = None) -> None:
        """Write a file whole: staged beside the target, made durable, then renamed into place."""
        self.stage(relative, data, mode)
        self.settle([relative])
        self.replace(relative)
        self.flush(self.path(relative).parent)

    def stage(self, relative: str, data: bytes, mode: int | None = None) -> None:
        """Write the new bytes of a file beside it."""
        self.step("stage", relative)
        staged = self.name(relative, staged=True)
        with open(staged, "wb") as handle:
            handle.write(data)
        if mode is not None:
            os.chmod(staged, mode)  # noqa: PTH101 - called for every file

    def settle(self, staged: Sequence[str]) -> None:
        """Make staged files durable: one by one when they are few, by one call for the whole system when many."""
        if len(staged) > _MANY and hasattr(os, "sync"):
            os.sync()
            return
        for relative in staged:
            with open(self.name(relative, staged=True), "rb+") as handle:
                os.fsync(handle.fileno())

    def replace(self, relative: str) -> None:
        """Rename a staged file into place."""
        self.step("replace", relative)
        os.replace(self.name(relative, staged=True), self.name(relative))  # noqa: PTH105 - called for every file

    def rename(self, source: str, target: str) -> None:
        """Rename a file; the target must not exist, except as the same file in another case."""
        self.step("rename", source)
        os.rename(self.name(source), self.name(target))  # noqa: PTH104 - called for every file

    def remove(self, relative: str) -> None:
        """Remove a file if it is there."""
        self.step("remove", relative)
        self.path(relative).unlink(missing_ok=True)

    def make_folder(self, relative: str) -> None:
        """Make one folder; its parent exists."""
        self.step("make folder", relative)
        self.path(relative).mkdir(exist_ok=True)

    def remove_folder(self, relative: str) -> None:
        """Remove a folder if it is empty."""
        self.step("remove folder", relative)
        try:
            self.path(relative).rmdir()
        except OSError:
            return

    @staticmethod
    def flush(folder: Path) -> None:
        """Make a folder's entries durable, where the system can."""
        if os.name == "nt":
            return
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)
