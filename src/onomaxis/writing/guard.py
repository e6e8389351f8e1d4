"""What git says about files that a change would touch."""

from __future__ import annotations

import os
from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import NamedTuple

from onomaxis.errors import RefusedError
from onomaxis.listing import git_answer
from onomaxis.model import Note
from onomaxis.tree import Tree, parent
from onomaxis.writing.change import FileChange
from onomaxis.writing.journal import Journal, digest

_SHOWN = 8


def refuse_unmerged(tree: Tree) -> None:
    """Raise RefusedError where a merge is not resolved in a file that was read."""
    for path, line in sorted(tree.unmerged.items()):
        remedy = "Resolve it first; nothing was changed."
        raise RefusedError("a merge is not resolved in this file", file=path, line=line, remedy=remedy)


class Status(NamedTuple):
    """What git says of files: changed or new to it, and ignored; ``known`` is false outside a work tree."""

    known: bool
    dirty: tuple[str, ...] = ()
    ignored: tuple[str, ...] = ()


def status(root: Path, paths: Iterable[str]) -> Status:
    """Ask git about *paths*, which are relative to *root*; those in a repository of their own are asked of that."""
    known, dirty, ignored = True, list[str](), list[str]()
    for folder, inner in _homes(root, paths).items():
        found = _status(root / folder, inner)
        lead = f"{folder}/" if folder else ""
        known = known and found.known
        dirty += [lead + path for path in found.dirty]
        ignored += [lead + path for path in found.ignored]
    return Status(known, tuple(sorted(dirty)), tuple(sorted(ignored)))


def repository_notes(root: Path, changes: Sequence[FileChange]) -> tuple[Note, ...]:
    """Say which of the files lie in a repository of their own: what is changed there is committed there."""
    homes = _homes(root, (change.source or change.target or "" for change in changes))
    return tuple(
        Note(folder, f"a repository of its own: its changed files ({len(paths)}) are committed there")
        for folder, paths in sorted(homes.items())
        if folder
    )


def refuse_crossing(root: Path, changes: Sequence[FileChange]) -> None:
    """Raise RefusedError when a file would move from one repository into another: neither would know of it."""
    moved = [change for change in changes if change.source and change.target and change.moved]
    sources = _by_path(_homes(root, (change.source for change in moved if change.source)))
    targets = _by_path(_homes(root, (change.target for change in moved if change.target)))
    for change in moved:
        if sources[change.source or ""] != targets[change.target or ""]:
            raise RefusedError(
                f"this file would move out of the repository {sources[change.source or ''] or '.'} into "
                f"{targets[change.target or ''] or 'the one around it'}",
                file=change.source or "",
                remedy="Move that repository first (git mv), or pass --keep-code; nothing was changed.",
            )


def _by_path(homes: dict[str, list[str]]) -> dict[str, str]:
    return {f"{folder}/{path}" if folder else path: folder for folder, paths in homes.items() for path in paths}


def _homes(root: Path, paths: Iterable[str]) -> dict[str, list[str]]:
    """Return the paths by the innermost repository that they lie in, relative to it."""
    known: dict[str, str] = {"": ""}

    def home(folder: str) -> str:
        if folder not in known:
            known[folder] = folder if (root / folder / ".git").exists() else home(parent(folder))
        return known[folder]

    found: dict[str, list[str]] = {}
    for path in sorted(set(paths)):
        folder = home(parent(path))
        found.setdefault(folder, []).append(path[len(folder) + 1 :] if folder else path)
    return found


def _status(root: Path, wanted: Sequence[str]) -> Status:
    prefix = git_answer(root, "rev-parse", "--show-prefix")
    if prefix is None:
        return Status(False)
    states = git_answer(root, "status", "--porcelain", "-z", "--untracked-files=all", "--ignored=matching", "--", ".")
    listed = git_answer(root, "ls-files", "-v", "-z")
    if states is None or listed is None:
        return Status(False)
    base = os.fsdecode(prefix).rstrip("\n")
    # Of a file that git was told to take for unchanged, or to leave alone, it cannot tell (git-ls-files, -v).
    tags = (os.fsdecode(line) for line in listed.split(b"\0"))
    changed = {line[2:] for line in tags if line[:1].islower() or line[:1] == "S"}
    ignored: set[str] = set()
    fields = iter(states.split(b"\0"))
    for raw in fields:
        if not raw:
            continue
        state, name = raw[:2], os.fsdecode(raw[3:])
        if state[:1] in (b"R", b"C"):
            next(fields, None)
        (ignored if state == b"!!" else changed).add(name.removeprefix(base))
    folders = tuple(name for name in ignored if name.endswith("/"))
    return Status(
        True,
        tuple(path for path in wanted if path in changed),
        tuple(path for path in wanted if path in ignored or path.startswith(folders)),
    )


def refuse_uncommitted(root: Path, changes: Sequence[FileChange]) -> None:
    """Raise RefusedError when *changes* touch files with uncommitted changes of somebody else.

    A file that is exactly as a change of the journal left it is our own work and can be undone.
    """
    foreign = _foreign(root, changes, status(root, _sources(changes)).dirty)
    if foreign:
        raise RefusedError(
            f"these files have uncommitted changes: {_listed(foreign)}",
            remedy="Commit or stash them first, or pass --allow-dirty; nothing was changed.",
        )


def unprotected(root: Path, changes: Sequence[FileChange]) -> tuple[str, str]:
    """Return why version control could not give back what *changes* touch, and the way out; empty where it could."""
    sources = _sources(changes)
    if not sources:
        return "", ""
    found = status(root, sources)
    if not found.known:
        return "the project is under no version control that could tell what changed", "Pass --yes"
    lost = _foreign(root, changes, (*found.dirty, *found.ignored))
    said = f"version control does not keep these files as they are: {_listed(lost)}"
    return (said, "Commit them first, or pass --yes") if lost else ("", "")


def _sources(changes: Sequence[FileChange]) -> list[str]:
    return [change.source for change in changes if change.source]


def _foreign(root: Path, changes: Sequence[FileChange], paths: Sequence[str]) -> list[str]:
    """Return those of *paths* that are not exactly as the last change of one's own that touched them left them."""
    if not paths:
        return []
    own = (entry for entry in Journal(root).entries() if entry.own and entry.state == "done")
    ours = {record.target: record.after for entry in own for record in entry.records}
    before = {change.source: digest(change.before) for change in changes}
    return [path for path in paths if ours.get(path) != before[path]]


def _listed(paths: Sequence[str]) -> str:
    more = f" and {len(paths) - _SHOWN} more" if len(paths) > _SHOWN else ""
    return f"{', '.join(paths[:_SHOWN])}{more}"
