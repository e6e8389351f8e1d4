"""``onomaxis report``: one page that shows what every flavor is called, to whoever signs it off."""

from __future__ import annotations

import argparse
from pathlib import Path

from onomaxis.cli.output import count, print_json, say
from onomaxis.cli.progress import working
from onomaxis.cli.session import open_project
from onomaxis.errors import InputError, RefusedError
from onomaxis.history.timeline import timeline
from onomaxis.past import tree_at
from onomaxis.paths import read_named
from onomaxis.report.facts import report_of
from onomaxis.report.page import TITLE, page_of

# What the page is called where nobody names it; others' reports often bear that name too.
_NAME = "report.html"


def _is_report(data: bytes) -> bool:
    return TITLE.encode() in data[:4000]


def execute(options: argparse.Namespace) -> int:
    """Run the command."""
    tree = open_project(options)
    with working(options, "Putting the report together"):
        before = tree_at(tree.root, options.since) if options.since else None
        events = timeline(tree.root) if options.history else ()
        report = report_of(tree, options.title or tree.root.name, options.since, before, options.publish, events)
        data = page_of(report).encode("utf-8", "backslashreplace")
    path = Path(options.out or _NAME)
    try:
        if not options.out and path.exists() and not _is_report(read_named(path)):
            said = f"{_NAME} is there already, and is no report of Onomaxis"
            raise RefusedError(said, remedy="Name the page: --out FILE. Nothing was changed.")
        path.write_bytes(data)
    except OSError as error:
        raise InputError(f"the report cannot be written: {error.strerror}", file=path.as_posix()) from None
    findings = sum(map(len, report.findings.values()))
    if options.json:
        print_json({"path": path.as_posix(), "flavors": [card.flavor for card in report.cards], "findings": findings})
        return 0
    flavors = count(len([card for card in report.cards if card.flavor]), "flavor")
    say(options, f"{path.as_posix()}: {flavors}, {count(findings, 'finding')}")
    return 0
