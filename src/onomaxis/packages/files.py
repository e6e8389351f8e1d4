"""Where a package's files lie: an archive, a folder, archives in an archive, archives in a folder."""

from __future__ import annotations

import os
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import NamedTuple, Protocol

from onomaxis.errors import FormatError
from onomaxis.formats.binary.archive import MOST_BYTES, MOST_ENTRIES

_CHUNK = 1024 * 1024


class Files(Protocol):
    """Files by name, ``/`` between folders."""

    def names(self) -> list[str]:
        """Return the names of all files."""
        ...

    def __contains__(self, name: str) -> bool: ...

    def size(self, name: str) -> int:
        """Return a file's size in bytes."""
        ...

    def packed(self, name: str) -> int:
        """Return how many bytes a file takes where it lies."""
        ...

    def read(self, name: str, most: int = MOST_BYTES) -> bytes:
        """Return a file's bytes. Raises FormatError where they are more than *most*, or damaged."""
        ...

    def head(self, name: str, count: int) -> bytes:
        """Return a file's first bytes."""
        ...

    def window(self, name: str, at: int, count: int) -> bytes:
        """Return some bytes out of a file."""
        ...

    def chunks(self, name: str) -> Iterator[bytes]:
        """Yield a file's bytes in parts."""
        ...


class Folder:
    """A folder. Links are not followed: what a package holds lies in it."""

    def __init__(self, root: Path) -> None:
        """List the folder. Raises FormatError for one that holds more than any package does."""
        self.root = root
        self._sizes: dict[str, int] = {}
        pending = [(root, "")]
        while pending:
            folder, lead = pending.pop()
            for item in sorted(os.scandir(folder), key=lambda entry: entry.name):
                if item.is_dir(follow_symlinks=False):
                    pending.append((Path(item.path), f"{lead}{item.name}/"))
                elif item.is_file(follow_symlinks=False):
                    self._sizes[lead + item.name] = item.stat(follow_symlinks=False).st_size
            if len(self._sizes) > MOST_ENTRIES:
                raise FormatError(f"the folder holds more than {MOST_ENTRIES:,} files: it is not a package")

    def names(self) -> list[str]:
        """Return the names of all files, in order."""
        return sorted(self._sizes)

    def __contains__(self, name: str) -> bool:
        return name in self._sizes

    def size(self, name: str) -> int:
        """Return a file's size."""
        return self._sizes[name]

    def packed(self, name: str) -> int:
        """Return how many bytes a file takes."""
        return self._sizes[name]

    def read(self, name: str, most: int = MOST_BYTES) -> bytes:
        """Return a file's bytes."""
        if self._sizes[name] > most:
            raise FormatError(f"{name} holds {self._sizes[name]:,} bytes: too large to be read")
        return b"".join(self.chunks(name))

    def head(self, name: str, count: int) -> bytes:
        """Return a file's first bytes."""
        return self.window(name, 0, count)

    def window(self, name: str, at: int, count: int) -> bytes:
        """Return some bytes out of a file."""
        try:
            with (self.root / name).open("rb") as file:
                file.seek(at)
                return file.read(count)
        except OSError as error:
            raise FormatError(f"{name} cannot be read: {error.strerror}") from None

    def chunks(self, name: str) -> Iterator[bytes]:
        """Yield a file's bytes in parts."""
        try:
            with (self.root / name).open("rb") as file:
                while part := file.read(_CHUNK):
                    yield part
        except OSError as error:
            raise FormatError(f"{name} cannot be read: {error.strerror}") from None


class Inner:
    """The files below one folder of others."""

    def __init__(self, files: Files, lead: str) -> None:
        self._files, self.lead = files, lead

    def names(self) -> list[str]:
        """Return the names, without the folder."""
        return [name[len(self.lead) :] for name in self._files.names() if name.startswith(self.lead)]

    def __contains__(self, name: str) -> bool:
        return self.lead + name in self._files

    def size(self, name: str) -> int:
        """Return a file's size."""
        return self._files.size(self.lead + name)

    def packed(self, name: str) -> int:
        """Return how many bytes a file takes where it lies."""
        return self._files.packed(self.lead + name)

    def read(self, name: str, most: int = MOST_BYTES) -> bytes:
        """Return a file's bytes."""
        return self._files.read(self.lead + name, most)

    def head(self, name: str, count: int) -> bytes:
        """Return a file's first bytes."""
        return self._files.head(self.lead + name, count)

    def window(self, name: str, at: int, count: int) -> bytes:
        """Return some bytes out of a file."""
        return self._files.window(self.lead + name, at, count)

    def chunks(self, name: str) -> Iterator[bytes]:
        """Yield a file's bytes in parts."""
        return self._files.chunks(self.lead + name)


class Content(NamedTuple):
    """All files of a package: those of each archive under the name that it has in the package."""

    layers: Sequence[tuple[str, Files]] = ()

    def holder(self, name: str) -> Files | None:
        """Return the first layer that has a file of a name."""
        return next((files for _, files in self.layers if name in files), None)
