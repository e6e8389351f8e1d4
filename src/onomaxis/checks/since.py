"""What a check finds now and did not find at a revision: a team can start with a project that is not right yet."""

from __future__ import annotations

import os
import subprocess
from collections import Counter
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from onomaxis.checks.finding import Finding
from onomaxis.checks.inspection import look_over
from onomaxis.errors import InputError
from onomaxis.listing import GIT, SKIPPED_FOLDERS, git_environment
from onomaxis.tree import Tree

# No file is held that a tree would not hold either.
_LARGEST = 50_000_000


class Fresh(NamedTuple):
    """What is new since a revision, and how many findings were there already."""

    findings: tuple[Finding, ...]
    known: int


def fresh(
    tree: Tree, found: Sequence[Finding], revision: str, only: Sequence[str], flavor: str, publish: bool
) -> Fresh:
    """Return the findings that *revision* did not have. Raises InputError where git does not know it.

    A finding is the same one wherever it moved within its file.
    """
    before, _ = look_over(tree_at(tree, revision), only, flavor, publish)
    left = Counter(map(_key, before))
    kept = []
    for item in found:
        if left[_key(item)]:
            left[_key(item)] -= 1
        else:
            kept.append(item)
    return Fresh(tuple(kept), len(found) - len(kept))


def _key(item: Finding) -> tuple[str, str, str]:
    return item.rule.code, item.message, item.at[0][0] if item.at else ""


def tree_at(tree: Tree, revision: str) -> Tree:
    """Return the tree of a revision, read from git's own store: no filter runs, nothing is checked out.

    Raises InputError where git does not know the revision.
    """
    if revision.startswith("-") or not revision.isprintable():
        raise InputError(f"“{revision}” names no revision", remedy="Give a commit, a branch or a tag.")
    listed = _git(tree, ["ls-tree", "-r", "-z", "-l", revision], b"", revision)
    wanted: dict[str, str] = {}
    for line in os.fsdecode(listed).split("\0"):
        head, tab, path = line.partition("\t")
        mode, kind, name, size = head.split() if tab else ("", "", "", "-")
        plain = kind == "blob" and mode.startswith("100") and size.isdecimal() and int(size) <= _LARGEST
        if plain and not SKIPPED_FOLDERS.intersection(path.split("/")[:-1]):
            wanted[path] = name
    objects = "".join(f"{name}\n" for name in wanted.values()).encode()
    batch = _git(tree, ["cat-file", "--batch"], objects, revision)
    return Tree.of(dict(zip(wanted, _blobs(batch, revision), strict=True)))


def _blobs(batch: bytes, revision: str) -> Iterator[bytes]:
    """Yield the contents that ``git cat-file --batch`` wrote: a head line with the size, the bytes, a line end.

    Raises InputError where the repository does not have one: a clone may be partial.
    """
    at = 0
    while at < len(batch):
        end = batch.index(b"\n", at)
        size = batch[at:end].rsplit(b" ", 1)[1]
        if not size.isdigit():
            raise InputError(
                f"the repository does not hold all files of {revision}",
                remedy="A clone that is partial or shallow lacks them: fetch that revision first.",
            )
        yield batch[end + 1 : (at := end + 1 + int(size))]
        at += 1


def _git(tree: Tree, words: Sequence[str], said: bytes, revision: str) -> bytes:
    command = [*GIT, "-C", str(tree.root), *words]
    try:
        done = subprocess.run(command, input=said, capture_output=True, check=False, env=git_environment())
    except OSError as error:
        remedy = "--since reads revisions with git."
        raise InputError(f"git cannot be started: {error.strerror}", remedy=remedy) from None
    if done.returncode:
        lines = done.stderr.decode("utf-8", "replace").strip().splitlines()
        remedy = "Give a commit, a branch or a tag of this repository."
        raise InputError(f"git cannot read revision {revision}: {lines[-1] if lines else 'no reason'}", remedy=remedy)
    return done.stdout
