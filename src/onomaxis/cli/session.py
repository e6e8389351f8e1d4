"""Opening a project for a command: the tree, and first the repair of an interrupted change."""

from __future__ import annotations

import argparse
from pathlib import Path

from onomaxis.cli.output import say
from onomaxis.tree import Tree


def repair(options: argparse.Namespace, folder: str) -> None:
    """Take back what an interrupted run left, before anything is read."""
    root = Path(folder)
    if not (root / ".onomaxis" / "journal").is_dir():
        return
    from onomaxis.writing.write import locked, needs_recovery, recover

    if needs_recovery(root):
        with locked(root):
            done = recover(root)
        if done:
            say(options, f"onomaxis: {done}")


def open_project(options: argparse.Namespace) -> Tree:
    """Return the tree of the project that the command names."""
    repair(options, options.project)
    return Tree.open(options.project)
