"""Opening a project for a command: the tree, and before it what an interrupted change left."""

from __future__ import annotations

import argparse
from collections import Counter
from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from onomaxis.cli.output import count, say, warn
from onomaxis.errors import InputError
from onomaxis.flavor_names import selects
from onomaxis.identity.schema import NAME
from onomaxis.paths import read_named
from onomaxis.tree import Tree

if TYPE_CHECKING:
    from onomaxis.model import ShippedApp
    from onomaxis.projects.project import Project


def open_project(options: argparse.Namespace) -> Tree:
    """Return the tree of the project that the command names, for a command that only reads.

    An interrupted change is named and left alone.
    """
    locate(options)
    _name_waiting(options, options.project)
    return _opened(options)


def open_to_write(options: argparse.Namespace) -> Tree:
    """Return the tree of the project for a command that writes; an interrupted change is taken back first.

    Raises RefusedError for a preview while a change waits, which would show the change of a half-changed tree, and
    where a merge is not resolved.
    """
    from onomaxis.surveys.survey import read_projects
    from onomaxis.writing.guard import refuse_unmerged

    locate(options)
    repair(options, options.project)
    tree = _opened(options)
    read_projects(tree)
    refuse_unmerged(tree)
    return tree


def service_files(paths: Sequence[str]) -> list[tuple[str, bytes]]:
    """Read newly downloaded service files. Raises InputError for one that cannot be read."""
    return [(path, read_given(path, "service file")) for path in paths]


def read_given(path: str, what: str) -> bytes:
    """Read a file that the command line names. Raises InputError where that cannot be."""
    try:
        return read_named(path)
    except OSError as error:
        raise InputError(f"the {what} cannot be read: {error.strerror}", file=path) from None


def locate(options: argparse.Namespace) -> None:
    """Take the build that the folder is a part of, and say so; a module that was meant is the app to change."""
    from onomaxis.surveys.root import located

    found = None if getattr(options, "here", False) else located(Path(options.project))
    if found is None:
        return
    warn(options, f"{options.project} is a part of the build in {found.root}, which is taken (--here keeps to it)")
    options.project = str(found.root)
    if found.module and not getattr(options, "app", "-"):
        options.app = [found.module] if isinstance(options.app, list) else found.module


def _opened(options: argparse.Namespace) -> Tree:
    """Open the tree; say what of it cannot be seen."""
    tree = Tree.open(options.project)
    options.root = tree.root
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


def named_flavor(tree: Tree, flavor: str) -> str:
    """Return the flavor of the build that a command line means: none, for the brand that the whole tree is today."""
    if not flavor or not tree.exists(NAME):
        return flavor
    from onomaxis.brands.tree_brand import flavor_here
    from onomaxis.surveys.survey import read_projects

    return flavor_here(tree, read_projects(tree), flavor)[0]


def say_selected(options: argparse.Namespace, projects: Sequence[Project], flavor: str) -> None:
    """Say what a flavor, or several of them, select where that is more than one app of a platform."""
    from onomaxis.surveys.flavors import flavors_of

    known = flavors_of(projects) if flavor else ()
    apps = [app for project in projects for app in project.apps if flavor and selects(flavor, app.variant, known)]
    if len({app.platform for app in apps}) < len(apps):
        say(options, selection(flavor, apps))


def selection(flavor: str, apps: Iterable[ShippedApp]) -> str:
    """Return what a flavor selects, in words: “alderbank: 2 Android variants, 2 iOS configurations”."""
    what = {"android": "Android variant", "ios": "iOS configuration"}
    counted = Counter(app.platform for app in apps)
    return f"{flavor}: " + ", ".join(count(number, what.get(name, name)) for name, number in counted.items())


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
