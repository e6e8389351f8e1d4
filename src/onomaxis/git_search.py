"""The files of a work tree in which git finds none of some texts: they need not be read.

What git says nothing about is searched by the caller: files that it takes for binary, does not know, or does not read
from the disk. So a file is passed over only where git itself looked through it. Source: git-scm.com, ``git-grep``
(``-L``, ``-I``), gitattributes ("diff").
"""

from __future__ import annotations

import os
import re
import subprocess
from collections.abc import Iterable, Sequence
from pathlib import Path

from onomaxis.errors import InputError
from onomaxis.listing import GIT, git_environment
from onomaxis.needles import stems
from onomaxis.paths import read_named

# Byte order marks: what begins with one is searched by the caller, in its own encoding.
_MARKS = (b"\xff\xfe", b"\xfe\xff")
# git looks for each pattern by itself: of more needles than this only what several begin with is sought.
_MOST = 6
_SHORTEST = 4
# What makes git read a file as text that holds NUL bytes: the attribute set, not the name of a driver.
_READ_AS_TEXT = re.compile(rb"(?:^|\s)diff(?:\s|$)", re.MULTILINE)


def without_any(root: Path, needles: Sequence[bytes], attributes: Iterable[bytes]) -> frozenset[str] | None:
    """Return the files below *root* that git reads as text and that hold none of *needles*.

    None where it cannot tell. *attributes* are the contents of the tree's attribute files.
    """
    sought = stems((needle for needle in needles if needle), _MOST, _SHORTEST)
    if sought is None or any(b"\n" in text for text in sought):
        return None
    if any(_READ_AS_TEXT.search(data) for data in (*attributes, _own_attributes(root))):
        return None
    words = [word for pattern in (*sought, *_MARKS) for word in (b"-e", pattern)]
    options = ("--no-textconv", "--no-recurse-submodules", "--no-color")
    settings = ("-c", "grep.fallbackToNoIndex=false", "-c", f"core.attributesFile={os.devnull}")
    try:
        done = subprocess.run(
            [*GIT, *settings, "-C", os.fspath(root), "grep", "-z", "-I", "-L", "-F", *options, *words, "--", "."],
            stdin=subprocess.DEVNULL,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            env=git_environment(),
            check=False,
        )
    except (OSError, ValueError):
        return None
    if done.returncode not in (0, 1):
        return None
    return frozenset(os.fsdecode(done.stdout).split("\0"))


def _own_attributes(root: Path) -> bytes:
    """Return what the repository's own settings, beside its files, say of attributes."""
    for folder in (root, *root.parents):
        if (folder / ".git").exists():
            try:
                return read_named(folder / ".git/info/attributes", 1 << 20)
            except (OSError, InputError):
                return b""
    return b""
