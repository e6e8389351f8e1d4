"""``onomaxis icons``: draws the icon sets into the project."""

from __future__ import annotations

import argparse
import sys
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING, Any

from onomaxis.changes.guard import refuse_uncommitted
from onomaxis.changes.rename import identity
from onomaxis.changes.write import Labels
from onomaxis.cli.output import confirmed, count, make_console, print_json, say, section
from onomaxis.cli.session import open_project
from onomaxis.cli.writing import show_diff, write_changes
from onomaxis.icons.layers import IconWish
from onomaxis.icons.plan import IconPlan, Tick, plan_icons
from onomaxis.survey.survey import read_projects

if TYPE_CHECKING:
    from rich.console import Console

_SHOWN = 14


def wish_of(options: argparse.Namespace) -> IconWish:
    """Turn the options into a wish."""
    return IconWish(
        options.art,
        options.foreground,
        options.background,
        options.monochrome,
        options.legacy_art,
        options.ios_art,
        options.ios_dark,
        options.ios_tinted,
        options.inset,
        options.legacy_shape,
        options.slots,
        options.icon_name,
        tuple(options.platform),
        options.flavor,
        options.store_art,
        options.notification,
        options.strict,
    )


def execute(options: argparse.Namespace) -> int:
    """Run the command."""
    wish = wish_of(options)
    tree = open_project(options)
    projects = read_projects(tree)
    with _drawing(options) as tick:
        plan = plan_icons(tree, projects, wish, tick)
    if options.dry_run:
        if options.json:
            print_json(as_document(plan, ""))
        else:
            show_diff(options, plan.changes)
            _show(make_console(options, error=True), plan)
        return 0
    if not plan.changes:
        _report(options, plan, "")
        return 0
    if not options.allow_dirty:
        refuse_uncommitted(tree.root, plan.changes)
    if not options.json and not options.quiet:
        _show(make_console(options, error=True), plan)
    if not confirmed(options, "Write these icons?"):
        say(options, "Nothing was changed.")
        return 3
    now = identity(projects)
    title = f"icons: {', '.join(filter(None, (wish.art, wish.foreground, wish.background, wish.flavor)))}"
    journal = write_changes(options, tree.root, plan.changes, Labels(title, now, now))
    _report(options, plan, journal)
    return 0


@contextmanager
def _drawing(options: argparse.Namespace) -> Iterator[Tick | None]:
    """Show which icon is being drawn, on a terminal."""
    if options.quiet or options.json or not sys.stderr.isatty():
        yield None
        return
    from rich.progress import Progress, SpinnerColumn, TextColumn

    columns = (SpinnerColumn(), TextColumn("Drawing {task.description}"))
    with Progress(*columns, console=make_console(options, error=True), transient=True) as progress:
        task = progress.add_task("", total=None)
        yield lambda folder: progress.update(task, description=folder)


def as_document(plan: IconPlan, journal: str) -> dict[str, Any]:
    """Return the outcome as the JSON document that docs/json.md describes."""
    return {
        "images": [
            {
                "path": i.path,
                "width": i.width,
                "height": i.height,
                "platform": i.platform,
                "slot": i.slot,
                "flavor": i.flavor,
            }
            for i in plan.images
        ],
        "created": [change.target for change in plan.changes if change.source is None],
        "changed": [change.target for change in plan.changes if change.source and change.target],
        "removed": [change.source for change in plan.changes if change.target is None],
        "warnings": [{"code": w.code, "message": w.message, "file": w.file} for w in plan.warnings],
        "journal": journal,
    }


def _show(console: Console, plan: IconPlan) -> None:
    from rich.text import Text

    kinds = Counter(
        "new" if change.source is None else "removed" if change.target is None else "changed"
        for change in plan.changes
    )
    said = ", ".join(f"{number} {kind}" for kind, number in sorted(kinds.items()))
    console.print(
        Text(f"To draw: {count(len(plan.images), 'image')}; files: {said or 'none to change'}", style="bold")
    )
    section(console, "Icons", ((home.folder, f"{home.name} ({home.platform})") for home in plan.homes))
    removed = [(change.source or "", "an old leftover") for change in plan.changes if change.target is None]
    section(console, "To remove", removed, _SHOWN)
    section(console, "Warnings", ((warning.file or "art", warning.message) for warning in plan.warnings))


def _report(options: argparse.Namespace, plan: IconPlan, journal: str) -> None:
    if options.json:
        print_json(as_document(plan, journal))
    elif not plan.changes:
        say(options, "Nothing to change: the icons are drawn so already.")
        if not options.quiet:
            warnings = ((warning.file or "art", warning.message) for warning in plan.warnings)
            section(make_console(options, error=True), "Warnings", warnings)
    else:
        print(
            f"Done: {count(len(plan.images), 'image')} in {count(len(plan.homes), 'icon')}. "
            f"Change {journal}; onomaxis undo takes it back."
        )
