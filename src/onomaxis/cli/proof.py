"""``onomaxis proof``: pictures of the icons as home screens, settings and stores show them."""

from __future__ import annotations

import argparse
from pathlib import Path

from onomaxis.cli.layout import pairs
from onomaxis.cli.output import count, make_console, print_json
from onomaxis.cli.progress import working
from onomaxis.cli.session import named_flavor, open_project, say_selected
from onomaxis.errors import InputError
from onomaxis.icons.sheets.pages import SheetFile, SheetWish, draw_sheets
from onomaxis.surveys.flavors import known_flavor, refuse_one_sided
from onomaxis.surveys.survey import read_projects


def execute(options: argparse.Namespace) -> int:
    """Run the command."""
    tree = open_project(options)
    width, height = options.size
    projects = read_projects(tree)
    flavor = known_flavor(projects, named_flavor(tree, options.flavor), combined=True)
    refuse_one_sided(projects, flavor, options.platform)
    say_selected(options, projects, flavor)
    wish = SheetWish(tuple(options.sheet), flavor, width, height, options.appearance, tuple(options.platform))
    with working(options, "Drawing"):
        found = draw_sheets(tree, projects, wish, options.out, tree.root.name)
    for file in found:
        try:
            Path(file.name).write_bytes(file.data)
        except OSError as error:
            raise InputError(f"the picture cannot be written: {error.strerror}", file=file.name) from None
    if options.json:
        print_json({"files": [_described(file) for file in found]})
        return 0
    pairs(make_console(options), ((Path(file.name).as_posix(), _shown(file)) for file in found), indent=0)
    return 0


def _shown(file: SheetFile) -> str:
    flavors = f", {count(len(file.flavors), 'flavor')}" if any(file.flavors) else ""
    return f"{file.sheet}, {file.width} x {file.height} pixels{flavors}"


def _described(file: SheetFile) -> dict[str, object]:
    return {
        "path": Path(file.name).as_posix(),
        "sheet": file.sheet,
        "page": file.page,
        "width": file.width,
        "height": file.height,
        "flavors": list(file.flavors),
    }
