"""``onomaxis proof``: a picture of the icons as launchers, settings and stores show them."""

from __future__ import annotations

import argparse
from pathlib import Path

from onomaxis.cli.output import count, print_json
from onomaxis.cli.session import open_project
from onomaxis.errors import InputError
from onomaxis.icons.proof import draw_proof, proof_rows
from onomaxis.survey.survey import read_projects


def execute(options: argparse.Namespace) -> int:
    """Run the command."""
    tree = open_project(options)
    rows = proof_rows(tree, read_projects(tree), options.flavor)
    width, height = options.size
    title = f"{tree.root.name}: launcher icons" + (f", flavor {options.flavor}" if options.flavor else "")
    data = draw_proof(rows, width, height, title)
    target = Path(options.out)
    try:
        target.write_bytes(data)
    except OSError as error:
        raise InputError(f"the picture cannot be written: {error.strerror}", file=options.out) from None
    if options.json:
        print_json({"file": target.as_posix(), "rows": [{"title": r.title, "subtitle": r.subtitle} for r in rows]})
    else:
        print(f"{target.as_posix()}: {count(len(rows), 'row')}, {width} x {height} pixels")
    return 0
