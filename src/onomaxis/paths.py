"""Which relative paths may be used at all: the one gate for every path that is read from a file."""

from __future__ import annotations

import os

from onomaxis import late

# Version control's own folders: what is written there is run by its hooks, or changes what counts as committed.
_CLOSED = frozenset({".git", ".hg", ".svn"})
# Characters that some file systems leave out of comparisons (HFS+ ignores them; so does git, "core.protectHFS").
_IGNORED = late.compile("[\u200c-\u200f\u202a-\u202e\u2060-\u206f\ufeff]")
_COMMON = late.compile(r"[A-Za-z0-9_][A-Za-z0-9_./ +@-]*+")
_DRIVE = late.compile(r"[A-Za-z]:")


def fault_of(path: object) -> str:
    """Return why *path* is no plain path below a root, in words; empty when it is one.

    A plain path is relative, has forward slashes, no empty, ``.`` or ``..`` segment, and leads into no folder of a
    version control system.
    """
    if not isinstance(path, str) or not path or "\0" in path:
        return "it is no path"
    if _COMMON.fullmatch(path) and "//" not in path and "/." not in path and path[-1] != "/":
        return ""  # no segment begins with a dot: thousands of paths of a change are like this
    if path.startswith(("/", "\\")) or _DRIVE.match(path):
        return "it is absolute"
    parts = path.split("/")
    if os.name == "nt" and ("\\" in path or ":" in path):
        return "it is no path with forward slashes"
    if any(part in ("", ".", "..") for part in parts):
        return "it leads out of the project, or in circles"
    if any(_IGNORED.sub("", part).rstrip(" .").casefold() in _CLOSED for part in parts):
        return "it leads into version control's own files"
    return ""
