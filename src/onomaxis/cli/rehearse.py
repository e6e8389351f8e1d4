"""``onomaxis rehearse``: hand packages to the stand-in of a store, and see what it answers."""

from __future__ import annotations

import argparse
import datetime
from pathlib import Path
from typing import TYPE_CHECKING, Any

from onomaxis.brands.publishing import ledger_change
from onomaxis.checks.context import Context, look
from onomaxis.cli.flow import asked_and_written, show
from onomaxis.cli.guide import is_project
from onomaxis.cli.layout import Cell, blocks, put, table
from onomaxis.cli.output import count, make_console, print_json, say
from onomaxis.cli.progress import working
from onomaxis.cli.session import open_project, open_to_write, say_selected
from onomaxis.cli.writing import show_diff
from onomaxis.errors import InputError
from onomaxis.identity.schema import LEDGER
from onomaxis.rehearsal.answers import STORE_NAMES, Answer
from onomaxis.rehearsal.rehearse import Rehearsed, closed, rehearse
from onomaxis.rehearsal.state import StoreState, default_folder, read_state, write_state
from onomaxis.surveys.survey import read_projects
from onomaxis.surveys.variants import keys_of
from onomaxis.tree import Tree

if TYPE_CHECKING:
    from onomaxis.cli.console import SafeConsole

_SIMULATED = "This is a simulation: nothing was uploaded, and a store may answer otherwise."


def execute(options: argparse.Namespace) -> int:
    """Run the command; the exit code is 1 when a package was refused, 2 when one cannot be read."""
    if not options.packages and not options.show and not options.close:
        raise InputError("no package is named", remedy="Give packages, or --show, or --close VERSION.")
    tree = _project(options)
    folder = Path(options.state) if options.state else default_folder(tree.root if tree is not None else Path())
    state = read_state(folder)
    if options.close:
        state = closed(state, options.close, options.flavor)
        if not options.dry_run:
            write_state(folder, state)
    if not options.packages:
        return _state(options, state)
    with working(options, "Reading packages"):
        found = _handed_in(options, tree, state)
    if options.ledger and found.rows and tree is not None:
        _keep(options, tree, found)  # first: it may be refused, and then nothing was accepted
    if found.rows and not options.dry_run:
        write_state(folder, found.state)
    if options.json:
        names = [item.flavor or "" for item in found.answers]
        keys = keys_of(names, read_projects(tree), tree) if tree is not None else [None] * len(names)
        told = [{**as_document(item), "key": key} for item, key in zip(found.answers, keys, strict=True)]
        print_json({"simulated": True, "answers": told})
    else:
        _show(make_console(options), found)
    if found.unread:
        return 2
    return 0 if all(item.accepted for item in found.answers) else 1


def _project(options: argparse.Namespace) -> Tree | None:
    """Return the project that the packages are of: the one named, else this folder, where it is one."""
    if not (options.against or is_project(Path())):
        if options.ledger:
            raise InputError("there is no project whose ledger could be kept", remedy="Name it: --against PROJECT.")
        if options.flavor and options.packages:
            raise InputError("--flavor names a flavor of a project", remedy="Say which: --against PROJECT.")
        return None
    options.project, options.here = options.against or ".", False
    return (open_to_write if options.ledger else open_project)(options)


def _handed_in(options: argparse.Namespace, tree: Tree | None, state: StoreState) -> Rehearsed:
    context: Context | None = look(tree) if tree is not None else None
    day = datetime.date.fromisoformat(options.day) if options.day else datetime.date.today()
    if context is not None:
        say_selected(options, context.projects, options.flavor)
    return rehearse(options.packages, state, day, options.store, context, options.flavor)


def _keep(options: argparse.Namespace, tree: Tree, found: Rehearsed) -> None:
    """Write what was taken into the project's ledger; the journal keeps the change."""
    plan = ledger_change(tree, found.rows)
    if options.dry_run:
        if not options.json:
            show_diff(options, plan.changes)
        return
    written = asked_and_written(options, tree, plan, lambda console: show(console, plan), "Keep this in the ledger?")
    kept = count(len(found.rows), "build")
    say(options, f"{LEDGER}: {kept} kept. Change {written.id}; onomaxis undo takes it back.")


def as_document(answer: Answer) -> dict[str, Any]:
    """Return one answer as JSON."""
    return {
        "package": answer.package,
        "store": answer.store,
        "id": answer.id,
        "flavor": answer.flavor,
        "version": answer.version,
        "build": answer.build,
        "accepted": answer.accepted,
        "reasons": [item._asdict() for item in answer.reasons],
        "notes": list(answer.notes),
    }


def _show(console: SafeConsole, found: Rehearsed) -> None:
    put(console, Cell(_SIMULATED, "dim"))
    for answer in found.answers:
        word, style = ("accepted", "green") if answer.accepted else ("refused ", "bold red")
        if answer.unread:
            word, style = "unread  ", "bold red"
        store = "" if answer.unread else f" {STORE_NAMES[answer.store]}"
        put(console, Cell(f"{word} ", style), Cell(answer.package, "bold"), Cell(store), hang=9)
        if not answer.unread:
            named = f", flavor {answer.flavor}" if answer.flavor else ""
            notes = f" ({'; '.join(answer.notes)})" if answer.accepted else ""
            said = f"{answer.id} {answer.version} ({answer.build}){named}{notes}"
            put(console, Cell(said, "dim"), indent=9)
        for item in answer.reasons:
            put(console, Cell(f"{item.code} ", "yellow"), Cell(item.message), indent=9)
            where = f" {item.entry}" if item.entry else ""
            put(console, Cell(f"{item.source}.{where}", "dim"), indent=9)
    taken = sum(item.accepted for item in found.answers)
    put(console, Cell(f"{taken} of {count(len(found.answers), 'package')} accepted."))


def _state(options: argparse.Namespace, state: StoreState) -> int:
    """Show what the stand-in holds."""
    rows = [
        {"store": store, "flavor": app.flavor, "id": app.id, "version": build.version, "build": build.build}
        for (store, _), app in sorted(state.apps.items())
        for build in app.builds
        if (not options.store or store == options.store)
        and (not options.flavor or app.flavor.casefold() == options.flavor.casefold())
    ]
    if options.json:
        print_json({"state": rows})
        return 0
    console = make_console(options)
    put(console, Cell(_SIMULATED, "dim"))
    if not rows:
        put(console, Cell("The stand-in holds nothing yet."))
        return 0
    titles = ["store", "flavor", "id", "version", "build"]
    shut = {(app.id, version) for app in state.apps.values() for version in app.closed}
    cells = [
        [
            Cell(row["store"]),
            Cell(row["flavor"] or "–"),
            Cell(row["id"]),
            Cell(f"{row['version']} closed" if (row["id"], row["version"]) in shut else row["version"]),
            Cell(row["build"]),
        ]
        for row in rows
    ]
    if not table(console, titles, cells):
        blocks(console, titles, cells)
    return 0
