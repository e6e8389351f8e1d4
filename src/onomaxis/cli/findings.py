"""Findings as people read them: shared by the commands that check a project and those that check a package."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from typing import TYPE_CHECKING

from onomaxis.checks.finding import SEVERITIES, Finding
from onomaxis.cli.layout import Cell, listed, put
from onomaxis.cli.output import count

if TYPE_CHECKING:
    from onomaxis.cli.console import SafeConsole

_STYLES = {"error": "bold red", "warning": "yellow", "note": "cyan"}


def show_findings(console: SafeConsole, findings: Sequence[Finding], silent: int = 0) -> None:
    """Print findings; of one with no more than *silent* further places these are not listed."""
    for finding in findings:
        severity = Cell(f"{finding.rule.severity:<7} ", _STYLES[finding.rule.severity])
        code, place = Cell(f"{finding.rule.code} ", "bold"), Cell(f" {console.place(finding.place)}", "cyan")
        put(console, severity, code, place, hang=8)
        put(console, Cell(finding.message), indent=8)
        others = [console.place(f"{file}:{line}" if line else file) for file, line in finding.at[1:]]
        if len(others) > silent:
            put(console, Cell(f"also {listed(others)}", "dim"), indent=8)
        put(console, Cell(f"{finding.rule.title}. {finding.rule.remedy}", "dim"), indent=8)


def counted(findings: Sequence[Finding]) -> str:
    """Return how many findings there are of each severity, in words; empty where there are none."""
    numbers = Counter(finding.rule.severity for finding in findings)
    return ", ".join(count(numbers[name], name) for name in SEVERITIES if numbers[name])
