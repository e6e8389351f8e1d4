"""``onomaxis report``: one page that shows what every flavor is called, to whoever signs it off."""

from __future__ import annotations

import argparse
from contextlib import ExitStack, closing
from pathlib import Path

from onomaxis.cli.output import count, print_json, say
from onomaxis.cli.progress import working
from onomaxis.cli.session import open_project
from onomaxis.errors import InputError, RefusedError
from onomaxis.history.timeline import timeline
from onomaxis.past import day_of, tree_at
from onomaxis.paths import read_named
from onomaxis.report.facts import report_of
from onomaxis.report.page import TITLE, page_of
from onomaxis.report.release import Span, as_data, as_markdown
from onomaxis.tree import Tree

# What the page is called where nobody names it; others' reports often bear that name too.
_NAME = "report.html"


def _is_report(data: bytes) -> bool:
    return TITLE.encode() in data[:4000]


def _release(options: argparse.Namespace, tree: Tree, past: ExitStack) -> tuple[Span | None, Tree]:
    """Return the release that is asked for, and the tree to report on: the later one's. Raises InputError."""
    if not options.release:
        if Path(options.out or _NAME).suffix == ".md":
            raise InputError("only the sheet of a release is written as Markdown", remedy="Give --release FROM..TO.")
        return None, tree
    since, dots, until = options.release.partition("..")
    if options.since or not dots or not since or until.startswith("."):
        said = "--release takes two revisions, such as v1.2..v1.3, and no --since beside it"
        raise InputError(said, remedy="FROM.. means up to what is checked out.")
    later, before = (past.enter_context(closing(tree_at(tree.root, name))) for name in (until or "HEAD", since))
    return Span(since, until or "HEAD", before, later.commit, day_of(tree.root, later.commit)), later


def execute(options: argparse.Namespace) -> int:
    """Run the command."""
    tree: Tree = open_project(options)
    path = Path(options.out or _NAME)
    with working(options, "Putting the report together"), ExitStack() as past:
        span, tree = _release(options, tree, past)
        since, before = (span.since, span.before) if span is not None else (options.since, None)
        before = past.enter_context(closing(tree_at(tree.root, since))) if since and before is None else before
        events = timeline(tree.root) if options.history else ()
        report = report_of(tree, options.title or "", since, before, options.publish, events, span)
        sheet = report.release
        page = as_markdown(report.title, sheet) if sheet is not None and path.suffix == ".md" else page_of(report)
        data = page.encode("utf-8", "backslashreplace")
    try:
        if not options.out and path.exists() and not _is_report(read_named(path)):
            said = f"{_NAME} is there already, and is not a report of Onomaxis"
            raise RefusedError(said, remedy="Name the page: --out FILE. Nothing was changed.")
        path.write_bytes(data)
    except OSError as error:
        raise InputError(f"the report cannot be written: {error.strerror}", file=path.as_posix()) from None
    findings = sum(map(len, report.findings.values()))
    if options.json:
        told = {"path": path.as_posix(), "flavors": [card.flavor for card in report.cards], "findings": findings}
        print_json({**told, **({"release": as_data(sheet)} if sheet is not None else {})})
        return 0
    flavors = count(len([card for card in report.cards if card.flavor]), "flavor")
    say(options, f"{path.as_posix()}: {flavors}, {count(findings, 'finding')}")
    return 0
