"""What git says about files that a change would touch."""

from __future__ import annotations

import os
import subprocess
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path

from onomaxis.errors import RefusedError
from onomaxis.writing.changeset import FileChange
from onomaxis.writing.journal import Journal, digest

_SHOWN = 8


@dataclass(frozen=True)
class Status:
    """What git says of files: changed or new to it, and ignored; ``known`` is false outside a work tree."""

    known: bool
    dirty: tuple[str, ...] = ()
    ignored: tuple[str, ...] = ()


def status(root: Path, paths: Iterable[str]) -> Status:
    """Ask git about *paths*, which are relative to *root*."""
    wanted = sorted(set(paths))
    command = [
        "git",
        "-C",
        os.fspath(root),
        "status",
        "--porcelain",
        "-z",
        "--untracked-files=all",
        "--ignored=matching",
    ]
    environment = {k: v for k, v in os.environ.items() if k not in ("GIT_DIR", "GIT_WORK_TREE", "GIT_INDEX_FILE")}
    try:
        prefix = subprocess.run(
            ["git", "-C", os.fspath(root), "rev-parse", "--show-prefix"],
            capture_output=True,
            check=False,
            env=environment,
        )
        done = subprocess.run(
            [*command, "--", "."], capture_output=True, check=False, env={**environment, "GIT_OPTIONAL_LOCKS": "0"}
        )
    except OSError:
        return Status(False)
    if prefix.returncode or done.returncode:
        return Status(False)
    base = os.fsdecode(prefix.stdout).rstrip("\n")
    changed: set[str] = set()
    ignored: set[str] = set()
    fields = iter(done.stdout.split(b"\0"))
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

    A file that is exactly as the last change of the journal left it is our own work and can be undone.
    """
    foreign = _foreign(root, changes, status(root, _sources(changes)).dirty)
    if foreign:
        raise RefusedError(
            f"these files have uncommitted changes: {_listed(foreign)}",
            remedy="Commit or stash them first, or pass --allow-dirty; nothing was changed.",
        )


def unprotected(root: Path, changes: Sequence[FileChange]) -> str:
    """Return why what *changes* touch could not be had back from version control; empty where it could."""
    sources = _sources(changes)
    if not sources:
        return ""
    found = status(root, sources)
    if not found.known:
        return "the project is under no version control that could tell what changed"
    lost = _foreign(root, changes, (*found.dirty, *found.ignored))
    return f"version control does not keep these files as they are: {_listed(lost)}" if lost else ""


def _sources(changes: Sequence[FileChange]) -> list[str]:
    return [change.source for change in changes if change.source]


def _foreign(root: Path, changes: Sequence[FileChange], paths: Sequence[str]) -> list[str]:
    """Return those of *paths* that are not exactly as the last change of the journal left them."""
    if not paths:
        return []
    entry = Journal(root).last_own()
    ours = {record.target: record.after for record in entry.records} if entry else {}
    before = {change.source: digest(change.before) for change in changes}
    return [path for path in paths if ours.get(path) != before[path]]


def _listed(paths: Sequence[str]) -> str:
    more = f" and {len(paths) - _SHOWN} more" if len(paths) > _SHOWN else ""
    return f"{', '.join(paths[:_SHOWN])}{more}"
