"""Opening a project for a command: the tree, and before it what an interrupted change left."""

from __future__ import annotations

import argparse
from pathlib import Path

from onomaxis.cli.output import say, warn
from onomaxis.tree import Tree


def open_project(options: argparse.Namespace) -> Tree:
    """Return the tree of the project that the command names, for a command that only reads.

    An interrupted change is named and left alone.
    """
    _name_waiting(options, options.project)
    return _opened(options)


def open_to_write(options: argparse.Namespace) -> Tree:
    """Return the tree of the project for a command that writes; an interrupted change is taken back first.

    Raises RefusedError for a preview while a change waits: it would show the change of a half-changed tree.
    """
    repair(options, options.project)
    return _opened(options)


def _opened(options: argparse.Namespace) -> Tree:
    """Open the tree; say what of it cannot be seen."""
    tree = Tree.open(options.project)
    for notice in tree.listing.notices:
        warn(options, notice)
    return tree


def _name_waiting(options: argparse.Namespace, folder: str) -> None:
    root = Path(folder)
    if not (root / ".onomaxis" / "journal").is_dir():
        return
    from onomaxis.writing.recover import waiting

    entry = waiting(root.resolve())
    if entry is not None:
        whose = "" if entry.own else " (it may have come with the repository)"
        warn(
            options,
            f"an interrupted change waits: {entry.id}, {entry.title}{whose}; what is said here is of the tree "
            "as it stands. onomaxis undo takes it back.",
        )


def repair(options: argparse.Namespace, folder: str) -> str:
    """Take back what an interrupted run of this user's left, before anything is read; return what was done."""
    root = Path(folder)
    if not (root / ".onomaxis" / "journal").is_dir():
        return ""
    from onomaxis.errors import RefusedError
    from onomaxis.writing.recover import recover, waiting
    from onomaxis.writing.undo import foreign_reason
    from onomaxis.writing.write import locked

    root = root.resolve()
    entry = waiting(root)
    if entry is None:
        return ""
    if foreign_reason(root, entry):
        _name_waiting(options, folder)
        return ""
    if options.dry_run:
        raise RefusedError(
            f"an interrupted change waits: {entry.id}, {entry.title}",
            remedy="onomaxis undo takes it back; a preview would show half of it. Nothing was changed.",
        )
    with locked(root):
        done = recover(root, entry)
    say(options, f"onomaxis: {done}")
    return done
