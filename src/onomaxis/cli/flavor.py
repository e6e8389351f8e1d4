"""``onomaxis flavor``: the matrix of flavors, a new one, the end of one."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from onomaxis.brands.briefing import read_briefing
from onomaxis.brands.builds import builds
from onomaxis.brands.effective import Effective, effective
from onomaxis.brands.flavors import chosen_subjects, plan_flavor
from onomaxis.brands.matrix import Row, flavor_matrix
from onomaxis.brands.new_flavor import FlavorWish
from onomaxis.brands.owed import owed_values
from onomaxis.brands.retirement import plan_retirement
from onomaxis.brands.subjects import load_identity
from onomaxis.brands.tree_brand import identity_of_tree
from onomaxis.cli.flow import carry_through, plain_view, show_owed
from onomaxis.cli.layout import Cell, below, blank, in_code_page, put, table
from onomaxis.cli.output import count, make_console, print_json, tell
from onomaxis.cli.progress import drawing, working
from onomaxis.cli.session import open_project, open_to_write, read_given, service_files
from onomaxis.errors import InputError
from onomaxis.history.changed import changed_apps
from onomaxis.icons.standing import has_own_icon
from onomaxis.model import Owed
from onomaxis.platforms import PLATFORM_NAMES
from onomaxis.projects.neighbours.twins import plain_key
from onomaxis.projects.project import Project
from onomaxis.surveys.flavors import known_flavor
from onomaxis.surveys.survey import some_projects
from onomaxis.surveys.variants import dimensions_of
from onomaxis.tree import Tree
from onomaxis.visible import visible

if TYPE_CHECKING:
    from onomaxis.cli.console import SafeConsole


def execute(options: argparse.Namespace) -> int:
    """Run one of the four."""
    return {"list": _list, "show": _show_one, "add": _add, "retire": _retire}[options.what](options)


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
        options.like,
        dict(_pair(text) for text in options.value),
    )
    if options.briefing:
        wish = wish.briefed(read_briefing(options.briefing, read_given(options.briefing, "briefing"), options.name))
    with drawing(options) as tick:
        plan = plan_flavor(tree, wish, tick)
    answers = _asked(options, plan.owed)
    if answers:
        with drawing(options) as tick:
            plan = plan_flavor(tree, wish._replace(given={**wish.given, **answers}), tick)
    return carry_through(options, tree, plan, plain_view())


def _pair(text: str) -> tuple[str, str]:
    key, equals, value = text.partition("=")
    if not equals or not key.strip():
        raise InputError(f"--value {text} gives no value", remedy="Write --value KEY=TEXT.")
    return key.strip(), value


def _asked(options: argparse.Namespace, owed: Sequence[Owed]) -> dict[str, str]:
    """Ask the person at the terminal for the values that are owed, each once; what is not answered stays owed."""
    if not sys.stdin.isatty() or options.json or options.yes or options.dry_run or options.quiet:
        return {}
    places: dict[str, Owed] = {}
    for item in owed:
        if item.key:
            places.setdefault(plain_key(item.key), item)
    if places:
        tell(f"{count(len(places), 'value')} of {options.name} belong to this flavor alone; Enter leaves one open.")
    answers: dict[str, str] = {}
    for item in places.values():
        shown = in_code_page(visible(f"  {item.key} ({item.at}): "), sys.stderr.encoding)
        print(shown, end="", file=sys.stderr, flush=True)
        text = sys.stdin.readline().strip()
        answers |= {item.key: text} if text else {}
    return answers


def _retire(options: argparse.Namespace) -> int:
    tree = open_to_write(options)
    with working(options, "Planning, and reading the result again"):
        plan = plan_retirement(tree, options.name, options.app)
    return carry_through(options, tree, plan, plain_view())


def _show_one(options: argparse.Namespace) -> int:
    tree = open_project(options)
    file = load_identity(tree)
    projects, meant = chosen_subjects(tree, file, options.app)
    file = identity_of_tree(tree, projects)
    name = known_flavor([subject.project for subject in meant], options.name, file.flavors if file else (), True)
    rows = effective(file, meant, name)
    owed = owed_values(tree, (flavor for subject in meant for flavor in subject.flavors)).get(name, [])
    if options.json:
        values = [_row(row, options.reveal) for row in rows]
        print_json({"flavor": name, "values": values, "owed": [{"at": item.at, "key": item.key} for item in owed]})
        return 0
    console = make_console(options)
    for number, platform in enumerate(dict.fromkeys(row.platform for row in rows)):
        if number:
            blank(console)
        put(console, Cell(PLATFORM_NAMES.get(platform, platform), "bold"))
        lines = [
            [
                Cell(_label(row.facet)),
                Cell("••••" if row.secret and not options.reveal else row.text, "green"),
                Cell(row.level, "dim"),
                Cell(row.at, "dim"),
            ]
            for row in rows
            if row.platform == platform
        ]
        if not table(console, ["", "", "level", "said at"], lines):
            for line in lines:
                put(console, Cell(f"{line[0].text}  {line[1].text}"), indent=2, hang=4)
                put(console, Cell(f"{line[2].text}, {line[3].text}", "dim"), indent=6)
    show_owed(console, owed)
    return 0


def _label(facet: str) -> str:
    kind, _, name = facet.partition(":")
    if kind == "service" and name.startswith("google"):
        return "service file"
    return f"{kind} ({name})" if kind == "name" and name else name or kind


def _row(row: Effective, reveal: bool) -> dict[str, Any]:
    hidden = row.secret and not reveal
    told = {"facet": row.facet, "platform": row.platform, "value": None if hidden else row.text}
    return {**told, "from": row.at, "level": row.level, **({"secret": True} if hidden else {})}


def _matrix(options: argparse.Namespace, tree: Tree, projects: Sequence[Project]) -> int:
    """Print what a CI system's jobs are made from: no document of ours, but the form that such systems take."""
    chosen: set[tuple[str, str, str, str]] | None = None
    if options.changed_since:
        with working(options, f"Comparing with {options.changed_since}"):
            chosen = changed_apps(tree, options.changed_since)
    entries = list(
        builds(
            tree,
            projects,
            lambda _, app: chosen is None or (app.platform, app.module, app.flavor, app.configuration) in chosen,
        )
    )
    print(json.dumps({"include": entries}, ensure_ascii=False))
    return 0


def _list(options: argparse.Namespace) -> int:
    tree = open_project(options)
    if options.changed_since and options.form != "matrix":
        raise InputError("--changed-since chooses what a CI system builds", remedy="Give --as matrix with it.")
    if options.form == "matrix":
        return _matrix(options, tree, some_projects(tree))
    file = load_identity(tree)
    projects, meant = chosen_subjects(tree, file, options.app)
    file = identity_of_tree(tree, projects)
    own = {
        (home.platform, home.flavor.casefold())
        for project in projects
        for home in project.icons
        if not home.flavor or has_own_icon(tree, home)
    }
    rows = flavor_matrix(meant, file, own, dimensions_of([subject.project for subject in meant], tree))
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
    return {
        "flavor": row.flavor,
        **cells,
        "holes": list(row.holes),
        "in_identity_file": row.listed,
        "is_tree": row.is_tree,
        "dimension": row.dimension,
    }


def _show(options: argparse.Namespace, rows: Sequence[Row], platforms: Sequence[str], filed: bool) -> None:
    """Print the flavors, those of each dimension for themselves; what is wrong stands at the end once more."""
    console = make_console(options)
    groups: dict[str, list[Row]] = {}
    for row in rows:
        groups.setdefault(row.dimension, []).append(row)
    wanted = {
        dimension: [
            row
            for row in mine
            if (row.troubled(filed) or not options.only_problems) and not {*platforms} <= {*row.apart}
        ]
        for dimension, mine in groups.items()
    }
    for number, (dimension, shown) in enumerate(item for item in wanted.items() if item[1]):
        if number:
            blank(console)
        if dimension:
            put(console, Cell(dimension, "bold underline"))
        _group(console, shown, platforms, filed)
    for dimension, mine in groups.items():
        inside = [row.flavor for row in mine if row.flavor and {*platforms} <= {*row.apart}]
        if inside and not options.only_problems:
            blank(console)
            put(console, Cell(f"{dimension or 'flavors'} within these: {', '.join(inside)}"))
    if options.only_problems and not any(row.troubled(filed) for row in rows):
        put(console, Cell(f"No holes and no clashes in {count(len([row for row in rows if row.flavor]), 'flavor')}."))
    _problems(console, rows)


def _group(console: SafeConsole, rows: Sequence[Row], platforms: Sequence[str], filed: bool) -> None:
    lines = []
    for row in rows:
        name = row.flavor or "(app)"
        told = "not in the identity file" if filed and row.left_out else ""
        told = "this tree" if row.is_tree else told
        for platform in platforms:
            if platform in row.apart:
                continue
            lines.append([Cell(name, "bold"), Cell(PLATFORM_NAMES[platform], "dim"), *_cells(row, platform, told)])
            name = told = ""
    titles = ["", "", "ID", "name", "version", "icon", ""]
    kept = [at for at in range(len(titles)) if any(line[at].text for line in lines)]
    titles, lines = [titles[at] for at in kept], [[line[at] for at in kept] for line in lines]
    if not lines or table(console, titles, lines) or below(console, lines):
        return
    for line in lines:
        if line[0].text:
            put(console, line[0])
        put(console, line[1], indent=2)
        for cell in line[2:]:
            if cell.text:
                put(console, cell, indent=4)


def _problems(console: SafeConsole, rows: Sequence[Row]) -> None:
    clashes = [
        f"{row.flavor or 'the app'} ({PLATFORM_NAMES[p]})" for row in rows for p, c in row.cells.items() if c.clash
    ]
    if clashes:
        blank(console)
        put(console, Cell(f"These have the ID of another flavor: {', '.join(clashes)}", "bold red"), hang=2)
    holes = [f"{row.flavor} ({PLATFORM_NAMES[p]})" for row in rows for p in row.holes if row.flavor]
    if holes:
        blank(console)
        said = f"Missing: {', '.join(holes)}. onomaxis flavor add NAME adds one."
        put(console, Cell(said, "yellow"), hang=2)


def _cells(row: Row, platform: str, told: str) -> list[Cell]:
    cell = row.cells[platform]
    if platform in row.holes:
        return [Cell("missing", "yellow"), Cell(""), Cell(""), Cell(""), Cell(told, "yellow")]
    number = " ".join(filter(None, (cell.version, f"({cell.build})" if cell.build else "")))
    said = "the ID of another flavor" if cell.clash else told
    return [
        Cell(cell.id or "not resolved", "bold red" if cell.clash else "green"),
        Cell(cell.name or "not resolved"),
        Cell(number),
        Cell("own icon" if cell.own_icon else ""),
        Cell(said, "bold red" if cell.clash else "yellow"),
    ]
