"""``onomaxis flavor``: the matrix of flavors, a new one, the end of one."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from typing import Any

from onomaxis.brands.flavors import FlavorWish, chosen_subjects, plan_flavor
from onomaxis.brands.matrix import Cell, Row, flavor_matrix
from onomaxis.brands.retirement import plan_retirement
from onomaxis.brands.subjects import load_identity
from onomaxis.cli.flow import carry_through, plain_view
from onomaxis.cli.icons import drawing
from onomaxis.cli.output import make_console, print_json
from onomaxis.cli.session import open_project, open_to_write
from onomaxis.cli.stamp import service_files
from onomaxis.icons.present import has_own_icon

_LABELS = {"android": "Android", "ios": "iOS"}


def execute(options: argparse.Namespace) -> int:
    """Run one of the three."""
    return {"list": _list, "add": _add, "retire": _retire}[options.what](options)


def _add(options: argparse.Namespace) -> int:
    tree = open_to_write(options)
    wish = FlavorWish(
        options.name,
        options.id,
        options.id_suffix,
        options.shown,
        options.app,
        tuple(options.platform),
        options.base,
        options.only_flavors,
        tuple(service_files(options.service)),
        options.art,
        options.background,
        options.dimension,
    )
    with drawing(options) as tick:
        plan = plan_flavor(tree, wish, tick)
    return carry_through(options, tree, plan, plain_view())


def _retire(options: argparse.Namespace) -> int:
    tree = open_to_write(options)
    return carry_through(options, tree, plan_retirement(tree, options.name, options.app), plain_view())


def _list(options: argparse.Namespace) -> int:
    tree = open_project(options)
    file = load_identity(tree)
    projects, meant = chosen_subjects(tree, file, options.app)
    own = {
        (home.platform, home.flavor.casefold())
        for project in projects
        for home in project.icons
        if not home.flavor or has_own_icon(tree, home)
    }
    rows = flavor_matrix(meant, file, own)
    if options.json:
        print_json({"identity_file": file.path if file else None, "flavors": [_as_json(row) for row in rows]})
        return 0
    _show(options, rows, [subject.platform for subject in meant], file is not None)
    return 0


def _as_json(row: Row) -> dict[str, Any]:
    cells = {
        platform: None
        if platform in row.holes
        else {
            "id": cell.id,
            "name": cell.name,
            "version": cell.version,
            "build": cell.build,
            "own_icon": cell.own_icon,
            "clash": cell.clash,
        }
        for platform, cell in row.cells.items()
    }
    return {"flavor": row.flavor, **cells, "holes": list(row.holes), "in_identity_file": row.listed}


def _show(options: argparse.Namespace, rows: Sequence[Row], platforms: Sequence[str], filed: bool) -> None:
    from rich.table import Table
    from rich.text import Text

    console = make_console(options)
    table = Table(box=None, pad_edge=False, header_style="bold")
    table.add_column("Flavor", style="bold")
    for platform in platforms:
        for title in ("ID", "name", "version", "icon"):
            table.add_column(f"{_LABELS[platform]} {title}" if title == "ID" else title, overflow="fold")
    if filed:
        table.add_column("file")
    for row in rows:
        cells: list[Text] = [Text(row.flavor or "(app)")]
        for platform in platforms:
            cells += _cells(row, platform)
        if filed:
            cells.append(Text("yes" if row.listed else "–", style="" if row.listed else "yellow"))
        table.add_row(*cells)
    console.print(table)
    clashes = [f"{row.flavor or 'the app'} ({_LABELS[p]})" for row in rows for p, c in row.cells.items() if c.clash]
    if clashes:
        console.print(Text(f"\nSame ID as another flavor: {', '.join(clashes)}", style="bold red"))
    holes = [f"{row.flavor} ({_LABELS[p]})" for row in rows for p in row.holes if row.flavor]
    if holes:
        console.print(Text(f"\nMissing: {', '.join(holes)}. onomaxis flavor add NAME adds one.", style="yellow"))


def _cells(row: Row, platform: str) -> list[Any]:
    from rich.text import Text

    cell: Cell = row.cells[platform]
    if platform in row.holes:
        return [Text("–", style="yellow")] * 4
    number = " ".join(filter(None, (cell.version, f"({cell.build})" if cell.build else "")))
    icon = "own" if cell.own_icon else "the app’s"
    return [
        Text(cell.id or "not resolved", style="bold red" if cell.clash else "green"),
        Text(cell.name or "not resolved"),
        Text(number),
        Text(icon, style="" if cell.own_icon else "dim"),
    ]
