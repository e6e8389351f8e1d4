"""``onomaxis check``: is the project consistent, is it ready for the stores."""

from __future__ import annotations

import argparse
import json
import sys
from collections import Counter
from collections.abc import Sequence

from onomaxis.checks.finding import SEVERITIES, Finding
from onomaxis.checks.inspection import look_over
from onomaxis.checks.report import as_document, as_sarif
from onomaxis.cli.output import count, make_console, print_json
from onomaxis.cli.session import open_project

_STYLES = {"error": "bold red", "warning": "yellow", "note": "cyan"}


def execute(options: argparse.Namespace) -> int:
    """Run the command; the exit code is 1 when errors were found."""
    findings, rules = look_over(open_project(options), options.only, options.flavor, options.publish)
    form = "json" if options.json else options.form
    if form == "json":
        print_json(as_document(findings))
    elif form == "sarif":
        sys.stdout.write(json.dumps(as_sarif(findings, rules), ensure_ascii=False, indent=2) + "\n")
    else:
        _show(options, findings)
    return 1 if any(finding.rule.severity == "error" for finding in findings) else 0


def _show(options: argparse.Namespace, findings: Sequence[Finding]) -> None:
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
    console.print(said or "Nothing found: everything is as it should be.")
