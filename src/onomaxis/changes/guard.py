"""What git says about files that a change would touch."""

from __future__ import annotations

import os
import subprocess
from collections.abc import Iterable, Sequence
from pathlib import Path

from onomaxis.changes.changeset import FileChange
from onomaxis.changes.journal import Journal, digest
from onomaxis.errors import RefusedError

_SHOWN = 8


def uncommitted(root: Path, paths: Iterable[str]) -> list[str]:
    """Return those of *paths* that git has uncommitted changes for, or does not know; empty outside a work tree."""
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
        return []
    if prefix.returncode or done.returncode:
        return []
    base = os.fsdecode(prefix.stdout).rstrip("\n")
    changed: set[str] = set()
    fields = iter(done.stdout.split(b"\0"))
    for raw in fields:
        if not raw:
            continue
        state, name = raw[:2], os.fsdecode(raw[3:])
        if state[:1] in (b"R", b"C"):
            next(fields, None)
        if state != b"!!":
            changed.add(name.removeprefix(base))
    return [path for path in wanted if path in changed]


def refuse_uncommitted(root: Path, changes: Sequence[FileChange]) -> None:
    """Raise RefusedError when *changes* touch files with uncommitted changes of somebody else.

    A file that is exactly as the last change of the journal left it is our own work and can be undone.
    """
    dirty = uncommitted(root, (change.source for change in changes if change.source))
    if not dirty:
        return
    entry = Journal(root).last()
    ours = {record.target: record.after for record in entry.records} if entry else {}
    before = {change.source: digest(change.before) for change in changes}
    foreign = [path for path in dirty if ours.get(path) != before[path]]
    if foreign:
        more = f" and {len(foreign) - _SHOWN} more" if len(foreign) > _SHOWN else ""
        raise RefusedError(
            f"these files have uncommitted changes: {', '.join(foreign[:_SHOWN])}{more}",
            remedy="Commit or stash them first, or pass --allow-dirty; nothing was changed.",
        )
