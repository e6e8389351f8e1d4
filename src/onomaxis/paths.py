"""Which relative paths may be used at all: the one gate for every path that is read from a file."""

from __future__ import annotations

import os
import stat

from onomaxis import late
from onomaxis.errors import InputError

# Version control's own folders: what is written there is run by its hooks, or changes what counts as committed.
_CLOSED = frozenset({".git", ".hg", ".svn"})
# Characters that some file systems leave out of comparisons (HFS+ ignores them; so does git, "core.protectHFS").
_IGNORED = late.compile("[\u200c-\u200f\u202a-\u202e\u2060-\u206f\ufeff]")
_COMMON = late.compile(r"[A-Za-z0-9_][A-Za-z0-9_./ +@-]*+")
_DRIVE = late.compile(r"[A-Za-z]:")


def fault_of(path: object) -> str:
    """Return why *path* is not a plain path below a root, in words; empty when it is one.

    A plain path is relative, has forward slashes, no empty, ``.`` or ``..`` segment, and leads into no folder of a
    version control system.
    """
    if not isinstance(path, str) or not path or "\0" in path:
        return "it is not a path"
    if _COMMON.fullmatch(path) and "//" not in path and "/." not in path and path[-1] != "/":
        return ""  # no segment begins with a dot: thousands of paths of a change are like this
    if path.startswith(("/", "\\")) or _DRIVE.match(path):
        return "it is absolute"
    parts = path.split("/")
    if os.name == "nt" and ("\\" in path or ":" in path):
        return "it is not a path with forward slashes"
    if any(part in ("", ".", "..") for part in parts):
        return "it leads out of the project, or in circles"
    if any(_IGNORED.sub("", part).rstrip(" .").casefold() in _CLOSED for part in parts):
        return "it leads into version control's own files"
    return ""


# Pictures, keystores, plans: what a person names and the program reads whole is not larger.
_MOST = 256 << 20


def read_named(path: str | os.PathLike[str], most: int = _MOST) -> bytes:
    """Return the bytes of a file that is named on the command line, or that lies where a tool keeps one.

    Raises InputError for what is not a regular file (a pipe may never end) or larger than *most* bytes, and
    OSError where it cannot be read.
    """
    flags = os.O_RDONLY | getattr(os, "O_NONBLOCK", 0) | getattr(os, "O_CLOEXEC", 0) | getattr(os, "O_BINARY", 0)
    with open(os.open(path, flags), "rb") as handle:
        info = os.fstat(handle.fileno())
        if not stat.S_ISREG(info.st_mode):
            raise InputError(
                "this is not a file that could be read: a device, a pipe or a folder", file=os.fspath(path)
            )
        if info.st_size > most:
            said = f"it is larger than what is read here ({info.st_size >> 20} MB; the most is {most >> 20} MB)"
            raise InputError(said, file=os.fspath(path))
        return handle.read(most)
