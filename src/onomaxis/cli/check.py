"""``onomaxis check``: is the project consistent, is it ready for the stores."""

from __future__ import annotations

import argparse
import json
import sys
from collections import Counter
from collections.abc import Sequence

from onomaxis.checks.explained import explained
from onomaxis.checks.finding import SEVERITIES, Finding
from onomaxis.checks.inspection import look_over
from onomaxis.checks.report import as_document, as_sarif
from onomaxis.checks.since import fresh
from onomaxis.cli.output import count, make_console, print_json
from onomaxis.cli.session import open_project

_STYLES = {"error": "bold red", "warning": "yellow", "note": "cyan"}


def execute(options: argparse.Namespace) -> int:
    """Run the command; the exit code is 1 when errors were found."""
    if options.explain:
        return _explain(options)
    tree = open_project(options)
    findings, rules = look_over(tree, options.only, options.flavor, options.publish)
    known = 0
    if options.since:
        new = fresh(tree, findings, options.since, options.only, options.flavor, options.publish)
        findings, known = new.findings, new.known
    form = "json" if options.json else options.form
    if form == "json":
        print_json(as_document(findings))
    elif form == "sarif":
        sys.stdout.write(json.dumps(as_sarif(findings, rules), ensure_ascii=False, indent=2) + "\n")
    else:
        _show(options, findings, known)
    return 1 if any(finding.rule.severity == "error" for finding in findings) else 0


def _explain(options: argparse.Namespace) -> int:
    """Show a rule: what it is about, what to do, where it comes from, an example."""
    found = explained(options.explain)
    rule = found.rule
    if options.json:
        print_json(
            {
                "code": rule.code,
                "severity": rule.severity,
                "title": rule.title,
                "remedy": rule.remedy,
                "source": rule.source,
                "fault": found.fault,
                "mend": found.mend,
            }
        )
        return 0
    from rich.text import Text

    console = make_console(options)
    when = " (a note, until --publish)" if rule.publish else ""
    console.print(Text(f"{rule.code}  {rule.severity}{when}", style="bold"), soft_wrap=True)
    rows = (
        ("", f"{rule.title}."),
        ("do", rule.remedy),
        ("source", rule.source),
        ("fault", found.fault),
        ("mend", found.mend),
    )
    for label, text in rows:
        console.print(Text(f"  {label:<8}", style="dim").append(text, style="default"), soft_wrap=True)
    return 0


def _show(options: argparse.Namespace, findings: Sequence[Finding], known: int) -> None:
    from rich.text import Text

    console = make_console(options)
    for finding in findings:
        line = Text(f"{finding.rule.severity:<8}", style=_STYLES[finding.rule.severity])
        line.append(f"{finding.rule.code}  ", style="bold")
        line.append(finding.place, style="cyan")
        console.print(line, soft_wrap=True)
        console.print(Text(f"        {finding.message}"), soft_wrap=True)
        console.print(Text(f"        {finding.rule.title}. {finding.rule.remedy}", style="dim"), soft_wrap=True)
    numbers = Counter(finding.rule.severity for finding in findings)
    said = ", ".join(count(numbers[name], name) for name in SEVERITIES if numbers[name])
    nothing = "Nothing found: everything is as it should be."
    if options.since:
        nothing = f"Nothing new since {options.since}."
        known_before = f"; {count(known, 'finding')} known before" if known else ""
        console.print((f"{said}, new since {options.since}" if said else nothing.rstrip(".")) + known_before)
        return
    console.print(said or nothing)
