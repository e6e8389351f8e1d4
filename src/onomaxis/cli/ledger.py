"""``onomaxis ledger``: what was published, kept so that no build number is used twice."""

from __future__ import annotations

import argparse
import datetime
from collections.abc import Sequence

from onomaxis.brands.flavors import chosen_subjects
from onomaxis.brands.ledger import RESERVED, Published
from onomaxis.brands.publishing import COLUMNS, checked, ledger_change, load_ledger, new_rows
from onomaxis.brands.subjects import load_identity
from onomaxis.brands.tree_brand import flavor_here
from onomaxis.cli.flow import carry_through, plain_view
from onomaxis.cli.layout import Cell, put, table
from onomaxis.cli.output import make_console, print_json
from onomaxis.cli.session import open_project, open_to_write, say_selected
from onomaxis.errors import InputError
from onomaxis.flavor_names import selects
from onomaxis.platforms import PLATFORM_NAMES
from onomaxis.surveys.flavors import flavors_of, known_flavor
from onomaxis.surveys.survey import read_projects
from onomaxis.surveys.variants import keys_of
from onomaxis.tree import Tree


def execute(options: argparse.Namespace) -> int:
    """Run one of the two."""
    return {"list": _list, "add": _add}[options.what](options)


def _add(options: argparse.Namespace) -> int:
    tree = open_to_write(options)
    known = load_ledger(tree)
    date = options.date or datetime.date.today().isoformat()
    if options.reserve and options.packages:
        raise InputError("a number is reserved before it is built: --reserve goes without --from")
    if options.packages:
        rows = _of_packages(options, tree, known, date)
    else:
        projects, subjects = chosen_subjects(tree, load_identity(tree), options.app)
        flavor, standing = flavor_here(tree, projects, options.flavor)
        say_selected(options, projects, flavor)
        mark = RESERVED if options.reserve else ""
        rows = new_rows(subjects, known, date, flavor, options.platform, options.fingerprint, standing, mark)
    return carry_through(options, tree, ledger_change(tree, rows), plain_view())


def _of_packages(options: argparse.Namespace, tree: Tree, known: Sequence[Published], date: str) -> list[Published]:
    """Return a row for each package, as it says itself; its flavor is told by its ID."""
    from onomaxis.checks.context import look
    from onomaxis.packages.expected import expected_of
    from onomaxis.packages.opening import digest_of, open_package
    from onomaxis.rehearsal.rehearse import row_of

    context = look(tree)
    rows = []
    for path in options.packages:
        package = open_package(path)
        app = expected_of(context, package)
        if app is None:
            raise InputError(
                f"{package.id} is not an app of the project",
                file=path,
                remedy="Name its project: ledger add PROJECT --from …",
            )
        if options.flavor and not selects(options.flavor, app.flavor, app.subject.singles):
            raise InputError(f"{package.id} is flavor {app.flavor or 'none'}, not {options.flavor}", file=path)
        rows.append(row_of(package, app.flavor, date, digest_of(package)))
    return checked(known, rows)


def _list(options: argparse.Namespace) -> int:
    tree = open_project(options)
    rows = load_ledger(tree)
    projects = read_projects(tree) if options.flavor or options.json else []
    if options.flavor:
        named = known_flavor(projects, options.flavor, (row.flavor for row in rows), combined=True)
        known = flavors_of(projects)
        rows = tuple(row for row in rows if selects(named, row.flavor, known))
    if options.json:
        keys = keys_of((row.flavor for row in rows), projects, tree)
        told = (dict(zip(COLUMNS, row[:-1], strict=True)) for row in rows)
        print_json({"published": [{**row, "key": key} for row, key in zip(told, keys, strict=True)]})
        return 0
    console = make_console(options)
    if not rows:
        put(console, Cell("Nothing was published yet: onomaxis ledger add keeps it."))
        return 0
    apps: dict[tuple[str, str, str], list[Published]] = {}
    for row in rows:
        apps.setdefault((row.platform, row.flavor, row.id), []).append(row)
    for (platform, flavor, id_), mine in apps.items():
        named = f"{PLATFORM_NAMES[platform]} {flavor}".strip()
        put(console, Cell(f"{named}  ", "bold"), Cell(id_), hang=2)
        lines = [_told(row) for row in mine]
        if not table(console, ["", "", ""], [[Cell(text) for text in texts] for texts in lines], indent=2):
            for texts in lines:
                put(console, Cell("  ".join(filter(None, texts))), indent=2, hang=4)
    return 0


def _told(row: Published) -> tuple[str, str, str]:
    """Return when a build was published, as what, and signed with which certificate or only kept."""
    more = RESERVED if row.reserved else f"SHA-256 {row.fingerprint[:11]}…" if row.fingerprint else ""
    return row.date, f"{row.version} ({row.build})", more
