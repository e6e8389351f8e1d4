"""``onomaxis check``: is the project consistent, is it ready for the stores."""

from __future__ import annotations

import argparse
import datetime
import sys
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from onomaxis.brands.publishing import load_ledger
from onomaxis.checks.context import Context, look
from onomaxis.checks.finding import Finding, rule_called
from onomaxis.checks.inspection import judged
from onomaxis.checks.report import as_document, as_text
from onomaxis.checks.since import fresh
from onomaxis.cli.findings import counted, show_findings
from onomaxis.cli.layout import Cell, pairs, put
from onomaxis.cli.output import count, make_console, print_json
from onomaxis.cli.progress import working
from onomaxis.cli.session import open_project, say_selected
from onomaxis.errors import InputError
from onomaxis.identity.schema import NAME
from onomaxis.surveys.survey import read_projects, some_projects
from onomaxis.tree import Tree


def execute(options: argparse.Namespace) -> int:
    """Run the command; the exit code is 1 when errors were found."""
    if options.explain:
        return _explain(options)
    if options.fix:
        return _mend(options)
    tree = open_project(options)
    with working(options, "Checking"):
        findings, rules = judged(_context(options, tree), options.only, options.flavor, options.publish)
    say_selected(options, some_projects(tree), options.flavor)
    known = 0
    if options.since:
        with working(options, f"Checking {options.since}"):
            new = fresh(tree, findings, options.since, options.only, options.flavor, options.publish)
        findings, known = new.findings, new.known
    form = "json" if options.json else options.form
    if form == "json":
        print_json(as_document(findings))
    elif form != "text":
        sys.stdout.write(as_text(form, findings, rules))
    else:
        _show(options, findings, known)
    return 1 if any(finding.rule.severity == "error" for finding in findings) else 0


def _context(options: argparse.Namespace, tree: Tree) -> Context:
    """Return the look at a tree on the day that is meant, with the ledgers that are."""
    on = options.on or datetime.date.today().isoformat()
    context = replace(look(tree), on=on, beside=_beside(options.profiles))
    return replace(context, ledger=load_ledger(tree, options.ledger_ref)) if options.ledger_ref else context


def _beside(folder: str) -> dict[str, bytes]:
    """Return the profiles and certificates of a folder that a person named. Raises InputError."""
    from onomaxis.checks.profiles import ENDINGS, MOST

    found = {}
    try:
        for path in sorted(Path(folder).iterdir()) if folder else ():
            if path.name.endswith(ENDINGS) and path.is_file():
                with path.open("rb") as file:
                    found[path.as_posix()] = file.read(MOST)
    except OSError as error:
        raise InputError(f"the profiles cannot be read: {error.strerror}", file=folder) from None
    return found


def _mend(options: argparse.Namespace) -> int:
    """Bring the project in step with its identity file, and say what is left to a person."""
    from onomaxis.brands.stamp import stamp
    from onomaxis.brands.tree_brand import flavor_here
    from onomaxis.cli.flow import carry_through, plain_view
    from onomaxis.cli.progress import drawing
    from onomaxis.cli.session import open_to_write
    from onomaxis.writing.change import applied

    if options.since or options.form not in ("text", "json"):
        said = "--fix works with text or JSON output, and not together with --since"
        raise InputError(said, remedy="Check again afterwards.")
    options.json = options.json or options.form == "json"
    tree = open_to_write(options)
    if not tree.exists(NAME):
        said = f"there is no {NAME}, which says what is right"
        raise InputError(said, remedy="onomaxis adopt writes it; or mend each finding by its own command.")
    with drawing(options) as tick:
        plan = stamp(tree, options.flavor or flavor_here(tree, read_projects(tree), "")[1], tick=tick)
    left: list[Finding] = []

    def look_again() -> Sequence[Finding]:
        later = applied(tree, plan.changes)
        left[:] = judged(_context(options, later), options.only, options.flavor, options.publish)[0]
        return left

    plain = plain_view()
    view = replace(
        plain,
        document=lambda plan, journal: {**plain.document(plan, journal), **as_document(look_again())},
        left=lambda console, plan: _show(options, look_again(), 0),
    )
    code = carry_through(options, tree, plan, view)
    if plan.empty and not options.dry_run and not options.json:
        _show(options, look_again(), 0)
    return code or int(any(finding.rule.severity == "error" for finding in left))


def _explain(options: argparse.Namespace) -> int:
    """Show a rule: what it is about, what to do, where it comes from, an example."""
    rule = rule_called(options.explain)
    if options.json:
        print_json(
            {
                "code": rule.code,
                "severity": rule.severity,
                "title": rule.title,
                "remedy": rule.remedy,
                "source": rule.source,
                "fault": rule.fault,
                "mend": rule.mend,
            }
        )
        return 0
    console = make_console(options)
    when = " (a note, until --publish)" if rule.publish else ""
    put(console, Cell(f"{rule.code}  {rule.severity}{when}", "bold"))
    put(console, Cell(f"{rule.title}."), indent=2)
    rows = (("do", rule.remedy), ("source", rule.source), ("fault", rule.fault), ("mend", rule.mend))
    pairs(console, rows, styles=("dim", ""))
    return 0


def _show(options: argparse.Namespace, findings: Sequence[Finding], known: int) -> None:
    console = make_console(options)
    # The one further place of a comparison is what the message tells of.
    show_findings(console, findings, silent=1, each=options.each)
    said = counted(findings)
    nothing = "Nothing found: the project is consistent."
    if options.since:
        nothing = f"Nothing new since {options.since}."
        known_before = f"; {count(known, 'finding')} known before" if known else ""
        said = (f"{said}, new since {options.since}" if said else nothing.rstrip(".")) + known_before
    put(console, Cell(said or nothing))
    mended = sum(finding.rule.by == "stamp" for finding in findings)
    if mended and not options.each and not options.fix:
        put(console, Cell(f"onomaxis check --fix mends {count(mended, 'finding')}, as onomaxis stamp does.", "dim"))
