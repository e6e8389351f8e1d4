"""The tree of a revision, read from git's own store: nothing is checked out, no filter of the repository's runs.

Source: git-scm.com, ``git-ls-tree``, ``git-cat-file`` (``--batch``), ``git-rev-parse``.
"""

from __future__ import annotations

import os
import subprocess
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import NamedTuple

from onomaxis.errors import InputError
from onomaxis.listing import GIT, SKIPPED_FOLDERS, Listing, git_environment
from onomaxis.tree import LARGEST, Tree


class Blob(NamedTuple):
    """A file as git keeps it: the name of its contents, its size in bytes, whether it is a link."""

    name: str
    size: int
    link: bool


class PastTree(Tree):
    """The files below a folder as they were at a commit; each is read when it is asked for."""

    def __init__(self, root: Path, commit: str, blobs: Mapping[str, Blob], said: str) -> None:
        super().__init__(root)
        self.commit = commit
        self.said = said
        self.blobs = blobs
        self.files = tuple(sorted(blobs))
        self.listing = Listing()
        self._reader: subprocess.Popen[bytes] | None = None
        self._reads_for = 0

    def real(self, path: str) -> str:
        """Return the path itself where a file stood there: links of the past are not followed."""
        blob = self.blobs.get(path)
        return path if blob is not None and not blob.link else ""

    def exists(self, path: str) -> bool:
        """Tell whether a file stood there."""
        return bool(self.real(path))

    def link(self, path: str) -> str | None:
        """Return nothing: links of the past are not followed."""
        return None

    def _fetch(self, path: str, needed: object = None) -> bytes | None:
        blob = self.blobs.get(path)
        if blob is None or blob.size > LARGEST:
            return None
        return self.contents(blob.name)

    def contents(self, name: str) -> bytes | None:
        """Return the contents of a blob. Raises InputError where the repository does not hold them."""
        if self._reader is None or self._reads_for != os.getpid():  # helpers that inherit this ask a git of their own
            self._reads_for = os.getpid()
            command = [*GIT, "-C", os.fspath(self.root), "cat-file", "--batch"]
            self._reader = subprocess.Popen(
                command,
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                stderr=subprocess.DEVNULL,
                env=git_environment(),
            )
        asked, answers = self._reader.stdin, self._reader.stdout
        assert asked is not None and answers is not None
        asked.write(f"{name}\n".encode())
        asked.flush()
        head = answers.readline().rsplit(b" ", 1)
        if len(head) < 2 or not head[1].strip().isdigit():
            raise InputError(
                f"the repository does not hold all files of {self.said}",
                remedy="A clone that is partial or shallow lacks them: fetch that revision first.",
            )
        data = answers.read(int(head[1]))
        answers.read(1)
        return data

    def close(self) -> None:
        """End the reading of git's store."""
        if self._reader is not None:
            self._reader.communicate()
            self._reader = None


def tree_at(root: Path, revision: str) -> PastTree:
    """Return the tree of a revision; ``REV...`` means where it parted from what is checked out.

    Raises InputError where git does not know the revision.
    """
    return tree_of(root, commit_of(root, revision), revision)


def tree_of(root: Path, commit: str, said: str = "") -> PastTree:
    """Return the tree of a commit, by its full name; *said* is what it is called in messages."""
    listed = git(root, ["ls-tree", "-r", "-z", "-l", commit], said or commit)
    blobs: dict[str, Blob] = {}
    for line in os.fsdecode(listed).split("\0"):
        head, tab, path = line.partition("\t")
        mode, kind, name, size = head.split() if tab else ("", "", "", "-")
        if kind == "blob" and size.isdecimal() and not SKIPPED_FOLDERS.intersection(path.split("/")[:-1]):
            blobs[path] = Blob(name, int(size), mode == "120000")
    return PastTree(root, commit, blobs, said or commit[:12])


def file_at(root: Path, revision: str, path: str) -> bytes | None:
    """Return a file below *root* as it was at a revision; None where there was none.

    Raises InputError where git does not know the revision.
    """
    commit = commit_of(root, revision)
    listed = git(root, ["ls-tree", "-z", commit, "--", path], revision).partition(b"\t")[0].split()
    return git(root, ["cat-file", "blob", listed[2].decode()], revision) if len(listed) == 3 else None


def remotes(root: Path) -> list[str]:
    """Return the branches of other repositories that this one has fetched."""
    told = git(root, ["for-each-ref", "--format=%(refname)", "refs/remotes"], "refs/remotes")
    return [name for name in told.decode("utf-8", "replace").split() if not name.endswith("/HEAD")]


def commit_of(root: Path, revision: str) -> str:
    """Return the full name of the commit that a revision means. Raises InputError where git does not know it."""
    parted = revision.endswith("...")
    plain = revision.removesuffix("...")
    if plain.startswith("-") or not plain.isprintable() or not plain:
        raise InputError(f"“{revision}” names no revision", remedy="Give a commit, a branch or a tag.")
    commit = git(root, ["rev-parse", "--verify", "--quiet", "--end-of-options", f"{plain}^{{commit}}"], revision)
    if parted:
        commit = git(root, ["merge-base", commit.decode().strip(), "HEAD"], revision)
    return commit.decode().strip()


def day_of(root: Path, commit: str) -> str:
    """Return the day on which a commit was made (ISO 8601)."""
    words = ["log", "-1", "--no-show-signature", "--format=%cs", commit]
    return git(root, words, commit).decode("ascii", "replace").strip()


def checked_out(root: Path) -> str:
    """Return the commit that is checked out, in words: its short name, branch and day; empty without git."""
    try:
        told = git(root, ["log", "-1", "--no-show-signature", "--format=%h %cs"], "HEAD").decode("ascii", "replace")
        branch = git(root, ["rev-parse", "--abbrev-ref", "HEAD"], "HEAD").decode("utf-8", "replace").strip()
    except InputError:
        return ""
    commit, _, day = told.strip().partition(" ")
    return f"commit {commit}{f' of {branch}' if branch != 'HEAD' else ''}, {day}"


def git(root: Path, words: Sequence[str], revision: str) -> bytes:
    """Return what git answers about a revision. Raises InputError in words where it cannot."""
    try:
        done = subprocess.run(
            [*GIT, "-C", os.fspath(root), *words], capture_output=True, check=False, env=git_environment()
        )
    except OSError as error:
        remedy = "Revisions are read with git."
        raise InputError(f"git cannot be started: {error.strerror}", remedy=remedy) from None
    if done.returncode:
        lines = done.stderr.decode("utf-8", "replace").strip().splitlines()
        reason = lines[-1] if lines else "there is none of that name"
        raise InputError(f"git cannot read revision {revision}: {reason}", remedy=_advice(root))
    return done.stdout


def _advice(root: Path) -> str:
    """Return what to do where a revision cannot be read: a shallow clone lacks what is older."""
    command = [*GIT, "-C", os.fspath(root), "rev-parse", "--is-shallow-repository"]
    done = subprocess.run(command, capture_output=True, check=False, env=git_environment())
    if done.stdout.strip() == b"true":
        return "This clone is shallow: git fetch --unshallow, or git fetch --deepen 100, brings what is older."
    return "Give a commit, a branch or a tag of this repository."
