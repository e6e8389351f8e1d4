"""The files below a root: listed once, each read at most once, no link followed out of it.

A path that leads over a link inside the root means the file at its real place; one that leads out means nothing.
"""

from __future__ import annotations

import copy
import os
import stat
from bisect import bisect_left
from collections.abc import Callable, Iterable, Iterator, Mapping
from functools import cached_property
from pathlib import Path, PurePosixPath
from typing import TypeVar, cast

from onomaxis.errors import InputError
from onomaxis.formats.source import detect_encoding, looks_binary, unmerged
from onomaxis.git_search import without_any
from onomaxis.listing import Lister, Listing
from onomaxis.needles import Needles, shortest
from onomaxis.paths import fault_of
from onomaxis.workers import spread

_BINARY_ENDINGS = frozenset(
    """png jpg jpeg gif webp ico icns bmp heic avif pdf jar aar apk aab ipa class dex so a o
    dylib dll exe wasm ttf otf woff woff2 eot mp3 mp4 m4a mov wav ogg caf zip gz tgz bz2
    xz 7z tar keystore jks p12 pfx mobileprovision car nib bin db sqlite psd sketch lottie""".split()
)
_OPEN_FLAGS = os.O_RDONLY | getattr(os, "O_NOFOLLOW", 0) | getattr(os, "O_BINARY", 0)
_OPEN_FLAGS |= getattr(os, "O_NONBLOCK", 0)  # a pipe that stands where a file should is not waited for
# What may well show git's marks to people, or to a tool.
_PROSE = (".md", ".markdown", ".rst", ".adoc", ".patch", ".diff", ".rej", ".orig")
_CHUNK = 1 << 16
# Larger files are searched in pieces and never held: no file that owns an identity comes near it.
LARGEST = 32 << 20
_LONGEST_NEEDLE = 1024
# From so many files on, git searches faster; and where it does not, a second process pays for itself.
_WORTH_ASKING = 500
_WORTH_SHARING = 3000
_WIDE_STARTS = (b"\xff\xfe", b"\xfe\xff")


_T = TypeVar("_T")


class Tree:
    """A root folder and the files in it that count; paths are relative, with forward slashes."""

    def __init__(self, root: Path, lister: Lister | None = None) -> None:
        self.root = root
        self._lister = lister
        self.unreadable: dict[str, str] = {}
        self.large: set[str] = set()
        self.unmerged: dict[str, int] = {}
        self._cache: dict[str, bytes | None] = {}
        self._prefix = os.fspath(root) + os.sep
        self._kept: dict[object, object] = {}
        self._said: dict[str, str] = {}
        self._gone: frozenset[str] = frozenset()

    @classmethod
    def open(cls, folder: str | Path) -> Tree:
        """List the files below *folder*. Raises InputError when it is not a folder that can be read."""
        root = Path(folder)
        if not root.exists():
            raise InputError("there is no such folder", file=str(folder), remedy="Give the folder of a project.")
        if not root.is_dir():
            raise InputError("this is not a folder", file=str(folder), remedy="Give the folder of a project.")
        root = root.resolve()
        if not os.access(root, os.R_OK | os.X_OK):
            raise InputError("the folder cannot be read", file=str(folder), remedy="Check its permissions.")
        return cls(root, Lister(root))

    @classmethod
    def of(cls, contents: Mapping[str, bytes]) -> Tree:
        """Return a tree of files that stand nowhere but in memory."""
        return cls(Path("<memory>").absolute()).overlay(contents, ())

    @cached_property
    def files(self) -> tuple[str, ...]:
        """Every file that counts, sorted; links among them. The listing starts when the tree is made."""
        return tuple(sorted(self.listing.files))

    @cached_property
    def listing(self) -> Listing:
        """What was found on disk, with links, repositories within this one, and what a person should know of it."""
        return self._lister.result() if self._lister is not None else Listing()

    @cached_property
    def links(self) -> frozenset[str]:
        """The links among the files."""
        return frozenset(self.listing.links)

    def link(self, path: str) -> str | None:
        """Return what a link says, or None where no link stands."""
        if path in self._said:
            return self._said[path]
        try:
            return os.readlink(self._prefix + path)  # noqa: PTH115 - a path object would lose a closing slash
        except (OSError, ValueError):
            return None

    def real(self, path: str) -> str:
        """Return the path of the file that *path* means, over links inside the root; empty where it leads out of it.

        A path without links is itself, whether something stands there or not.
        """
        if path in self.known and path not in self.links:
            return path
        if not inside(path):
            return ""
        found = os.path.realpath(self._prefix + path)
        top = self._real_root
        if found == top or not found.startswith(top + os.sep):
            return ""
        return found[len(top) + 1 :].replace(os.sep, "/")

    @cached_property
    def _real_root(self) -> str:
        return os.path.realpath(self.root)

    @cached_property
    def known(self) -> frozenset[str]:
        """The files as a set."""
        return frozenset(self.files)

    def read(self, path: str) -> bytes | None:
        """Return the bytes of one file, or None when it is gone, outside or unreadable (see ``unreadable``)."""
        if path in self._cache:
            return self._cache[path]
        meant = self.real(path)
        if meant and meant not in self._cache:
            self._cache[meant] = self._fetch(meant)
        return self._cache[meant] if meant else None

    def _too_large(self, path: str, size: int, handle: int, needed: _Needles | None) -> None:
        """Say of a file that is never held whole that it is one, where it is asked for or holds what is sought."""
        if needed is None or _holds(handle, needed):
            most = LARGEST >> 20
            self.large.add(path)
            self.unreadable[path] = f"it is larger than what is edited ({size >> 20} MB; the most is {most} MB)"

    def _is_unmerged(self, path: str, data: bytes, needed: _Needles | None = None) -> bool:
        """Tell whether a file, where it is asked for or holds what is sought, is two at once: then it is not read."""
        line = unmerged(data) if not path.endswith(_PROSE) and (needed is None or needed.within(data)) else 0
        if line:
            self.unmerged[path] = line
            self.unreadable[path] = "a merge is not resolved here: git's marks stand in the file"
        return bool(line)

    def _fetch(self, path: str, needed: _Needles | None = None) -> bytes | None:
        try:
            handle = os.open(self._prefix + path, _OPEN_FLAGS)
        except OSError as error:
            if not (self.root / path).is_symlink() and not isinstance(error, FileNotFoundError):
                self.unreadable[path] = error.strerror or "unreadable"
            return None
        try:
            info = os.fstat(handle)
            if not stat.S_ISREG(info.st_mode):
                self.unreadable[path] = "it is not a regular file"
                return None
            data = os.read(handle, _CHUNK)
            if len(data) == _CHUNK:
                if info.st_size > LARGEST:
                    self._too_large(path, info.st_size, handle, needed)
                    return None
                chunks = [data]
                while chunk := os.read(handle, 1 << 20):
                    chunks.append(chunk)
                data = b"".join(chunks)
            return None if self._is_unmerged(path, data, needed) else data
        except OSError as error:
            self.unreadable[path] = error.strerror or "unreadable"
            return None
        finally:
            os.close(handle)

    def exists(self, path: str) -> bool:
        """Tell whether *path* is one of the files listed, or stands on disk inside the root though ignored."""
        meant = self.real(path)
        return bool(meant) and (meant in self.known or (meant not in self._gone and (self.root / meant).is_file()))

    def required(self, path: str) -> bytes | None:
        """Return the bytes of a file that counts where it is there, or None where it is not.

        Raises InputError for one that is there and cannot be read: nothing may go on as if there were none.
        """
        data = self.named_file(path)
        if data is None and path not in self._gone and os.path.lexists(self._prefix + path):
            why = self._why(path)
            remedy = "Mend it first; nothing was changed."
            raise InputError(
                f"this file cannot be read: {why}", file=path, line=self.unmerged.get(path, 1), remedy=remedy
            )
        return data

    def named_file(self, path: str) -> bytes | None:
        """Return the bytes of a file that is named somewhere; None where it is not there, outside, or unreadable."""
        return self.read(path) if path and inside(path) and self.exists(path) else None

    def lacking(self, path: str, named: str = "") -> str:
        """Say why the bytes of a file cannot be had, that is called *named* where a person wrote it."""
        named = named or path
        reason = fault_of(path)
        if reason:
            return f"“{named}” is not a path within the project: {reason}"
        if path not in self._gone and os.path.lexists(self._prefix + path):
            self.read(path)
            return f"{named} cannot be read: {self._why(path)}"
        return f"there is no file {named}"

    def _why(self, path: str) -> str:
        leads_out = Path(self._prefix + path).is_symlink() and not self.real(path)
        usual = "it is a link that leads out of the project" if leads_out else "it is not a regular file"
        return self.unreadable.get(path, usual)

    def overlay(
        self, contents: Mapping[str, bytes], gone: Iterable[str], links: Mapping[str, str] | None = None
    ) -> Tree:
        """Return this tree as it would be with *contents* and *links* made, the files *gone*; nothing is written."""
        other = copy.copy(self)
        other._said = {**self._said, **(links or {})}
        made = set(links or ())
        absent = set(gone) - set(contents) - made
        other.files = tuple(sorted((self.known - absent) | set(contents) | made))
        other.known = frozenset(other.files)
        other.links = (self.links - absent - set(contents)) | made
        other.__dict__.pop("_by_name", None)
        other.unreadable = dict(self.unreadable)
        other.large = set(self.large)
        other.unmerged = dict(self.unmerged)
        other._kept = {}
        other._gone = frozenset(self._gone | absent) - set(contents) - made
        for path in absent | set(contents):
            other.unmerged.pop(path, None)
            other.unreadable.pop(path, None)
        read = {path: None if other._is_unmerged(path, data) else data for path, data in contents.items()}
        other._cache = {**self._cache, **read, **dict.fromkeys(absent)}
        return other

    def kept(self, key: object, make: Callable[[], _T]) -> _T:
        """Return what *make* gives, made once for this tree: what is read of files that do not change."""
        if key not in self._kept:
            self._kept[key] = make()
        return cast("_T", self._kept[key])

    def below(self, folder: str) -> Iterator[str]:
        """Yield the files below *folder* (empty for the root)."""
        if not folder:
            yield from self.files
            return
        prefix = folder + "/"
        at = bisect_left(self.files, prefix)
        while at < len(self.files) and self.files[at].startswith(prefix):
            yield self.files[at]
            at += 1

    def on_disk(self, folder: str) -> Iterator[str]:
        """Yield the files and links below *folder*, ignored ones too: what would move with the folder.

        In an overlay the files that it took away are left out, the ones it added are there.
        """
        found = set(self.below(folder))
        for here, inner, names in os.walk(self.root / folder):
            for full in (Path(here) / name for name in (*names, *inner)):
                path = full.relative_to(self.root).as_posix()
                if (full.is_symlink() or not full.is_dir()) and self._cache.get(path, b"") is not None:
                    found.add(path)
        yield from sorted(found)

    def named(self, *names: str) -> list[str]:
        """Return the files whose last segment is one of *names*."""
        found = [path for name in names for path in self._by_name.get(name, ())]
        return found if len(names) == 1 else sorted(found)

    def ending(self, text: str) -> bool:
        """Tell whether any file's name ends so."""
        return any(name.endswith(text) for name in self._by_name)

    @cached_property
    def _by_name(self) -> dict[str, list[str]]:
        index: dict[str, list[str]] = {}
        for path in self.files:
            index.setdefault(path[path.rfind("/") + 1 :], []).append(path)
        return index

    def holding(self, needles: Iterable[str]) -> Iterator[tuple[str, bytes]]:
        """Yield every text file that holds one of *needles*, with its bytes. Reads each file at most once."""
        needed = _Needles(needles)
        cache = self._cache
        pending: list[str] = []
        links = self.links
        for path in self.files:
            if path not in cache:
                if path not in links and path.rpartition(".")[2].lower() not in _BINARY_ENDINGS:
                    pending.append(path)
            elif (data := cache[path]) and needed.within(data):
                yield path, data
        if len(pending) >= _WORTH_ASKING and self._lister is not None and self.listing.by_git:
            pending = self._heard(pending, needed)
        for path, data in self._search(pending, needed):
            cache[path] = data
            yield path, data

    def _heard(self, paths: list[str], needed: _Needles) -> list[str]:
        """Leave out the files that git looks through and finds nothing in."""
        attributes = (self.read(path) or b"" for path in self.named(".gitattributes"))
        silent = without_any(self.root, needed.patterns, attributes)
        if silent is None:
            return paths
        unread = self.listing.unread
        return [path for path in paths if path not in silent or path in unread]

    def _search(self, paths: list[str], needed: _Needles) -> list[tuple[str, bytes]]:
        """Read *paths* and return those that hold a needle; a large list is shared with a second process."""
        if len(paths) < _WORTH_SHARING:
            return self._search_here(paths, needed)
        half = len(paths) // 2

        def search(part: list[str]) -> tuple[list[tuple[str, bytes]], dict[str, str], set[str], dict[str, int]]:
            return self._search_here(part, needed), self.unreadable, self.large, self.unmerged

        found: list[tuple[str, bytes]] = []
        for some, unreadable, large, marked in spread((paths[:half], paths[half:]), search):
            found += some
            self.unreadable.update(unreadable)
            self.large.update(large)
            self.unmerged.update(marked)
        return found

    def _search_here(self, paths: list[str], needed: _Needles) -> list[tuple[str, bytes]]:
        fetch, within = self._fetch, needed.within
        return [(path, data) for path in paths if (data := fetch(path, needed)) and within(data)]


class _Needles:
    """Texts to search for, encoded once; a needle that holds another one is left out."""

    def __init__(self, needles: Iterable[str]) -> None:
        self.texts = shortest(needles)
        latin = (text for text in self.texts if not text.isascii() and all(ord(char) < 256 for char in text))
        self.patterns = [text.encode("utf-8") for text in self.texts] + [text.encode("latin-1") for text in latin]
        self.narrow = Needles(self.patterns)
        self._wide = Needles(self.texts)

    def within(self, data: bytes) -> bool:
        """Tell whether *data* is text that holds a needle, in UTF-8, Latin-1, UTF-16 or UTF-32."""
        if self.narrow.within(data):
            return not looks_binary(data)
        if b"\0" not in data[:64] and data[:2] not in _WIDE_STARTS:
            return False
        text = _wide_text(data)
        return self._wide.within(text)


def _holds(handle: int, needed: _Needles) -> bool:
    """Search an open file in pieces that overlap by more than a needle."""
    os.lseek(handle, 0, os.SEEK_SET)
    tail = b""
    while chunk := os.read(handle, 1 << 22):
        piece = tail + chunk
        if needed.narrow.within(piece):
            return True
        tail = piece[-_LONGEST_NEEDLE:]
    return False


def inside(path: str) -> bool:
    """Tell whether a relative path stays inside the root it is relative to."""
    parts = PurePosixPath(path).parts
    depth = 0
    for part in parts:
        depth += -1 if part == ".." else 0 if part == "." else 1
        if depth < 0:
            return False
    return not path.startswith("/") and ":" not in path.split("/")[0][1:2]


def join(folder: str, path: str) -> str:
    """Join a relative folder and a relative path and take ``.`` and ``..`` out; empty when it leaves the root."""
    parts: list[str] = [part for part in folder.split("/") if part]
    for part in path.replace("\\", "/").split("/"):
        if part in ("", "."):
            continue
        if part == "..":
            if not parts:
                return ""
            parts.pop()
        else:
            parts.append(part)
    return "/".join(parts)


def parent(path: str) -> str:
    """Return the folder of a relative path, empty for the root."""
    return path.rpartition("/")[0]


def _wide_text(data: bytes) -> str:
    codec, mark = detect_encoding(data)
    return data[mark:].decode(codec, "ignore") if codec.startswith(("utf-16", "utf-32")) else ""
