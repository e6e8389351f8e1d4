"""Findings as people read them: shared by the commands that check a project and those that check a package."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Sequence
from typing import TYPE_CHECKING

from onomaxis.checks.finding import SEVERITIES, Finding
from onomaxis.cli.layout import Cell, blank, listed, put
from onomaxis.cli.output import count

if TYPE_CHECKING:
    from onomaxis.cli.console import SafeConsole

_STYLES = {"error": "bold red", "warning": "yellow", "note": "cyan"}


# So many faults of one rule are shown, so many flavors and places of one fault.
_MOST, _FEW = 4, 4


def show_findings(console: SafeConsole, findings: Sequence[Finding], silent: int = 0, each: bool = False) -> None:
    """Print findings by what to do, a fault once whatever it is wrong for; with *each* one by one.

    Of one with no more than *silent* further places these are not listed.
    """
    if each:
        _show_each(console, findings, silent)
        return
    by_rule: dict[str, dict[str, list[Finding]]] = defaultdict(lambda: defaultdict(list))
    for item in findings:  # the worst first, as they come
        by_rule[item.fault.partition(" ")[0]][item.fault].append(item)
    for number, faults in enumerate(by_rule.values()):
        if number:
            blank(console)
        rule = next(item.rule for mates in faults.values() for item in mates if not item.cause)
        severity, code = Cell(f"{rule.severity:<7} ", _STYLES[rule.severity]), Cell(f"{rule.code}  ", "bold")
        put(console, severity, code, Cell(f"{rule.title}.", "bold"), hang=8)
        put(console, Cell(rule.remedy, "dim"), indent=8)
        for mates in list(faults.values())[:_MOST]:
            _show_fault(console, mates, silent)
        if len(faults) > _MOST:
            more = f"… and {count(len(faults) - _MOST, 'more fault')} of this kind (--each lists all)"
            put(console, Cell(more, "dim"), indent=8)
    if by_rule:
        blank(console)


def _show_fault(console: SafeConsole, mates: Sequence[Finding], silent: int) -> None:
    """Print one fault: where it is, what it is, for whom else, which other rules it breaks."""
    parts = dict.fromkeys(item.rule.code for item in mates if item.cause)
    mates = [item for item in mates if not item.cause]
    first = mates[0]
    put(console, Cell(console.place(first.place), "cyan"), indent=8)
    put(console, Cell(first.message), indent=10)
    others = [console.place(f"{file}:{line}" if line else file) for file, line in first.at[1:]]
    if len(others) > silent:
        more = f" and {count(len(others) - _FEW, 'more place')}" if len(others) > _FEW else ""
        put(console, Cell(f"also {listed(others[:_FEW])}{more}", "dim"), indent=10)
    flavors = list(dict.fromkeys(item.flavor for item in mates if item.flavor not in ("", first.flavor)))
    if flavors:
        more = f" and {count(len(flavors) - _FEW, 'more flavor')}" if len(flavors) > _FEW else ""
        put(console, Cell(f"so for {', '.join(flavors[:_FEW])}{more} too", "dim"), indent=10)
    elif len(mates) > 1:
        put(console, Cell(f"and {count(len(mates) - 1, 'more finding')} of this fault", "dim"), indent=10)
    if parts:
        put(console, Cell(f"also found by {listed(list(parts))}", "dim"), indent=10)


def _show_each(console: SafeConsole, findings: Sequence[Finding], silent: int) -> None:
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
