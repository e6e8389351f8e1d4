"""Rules as data, and what they find."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from onomaxis.checks.families import FAMILIES

SEVERITIES = ("error", "warning", "note")


class Rule(NamedTuple):
    """One rule: stable code, severity, what it is about in a line, what to do, the document it comes from.

    What counts for an app alone that is about to be published is a note elsewhere: ``publish``.
    """

    code: str
    severity: str
    title: str
    remedy: str
    source: str
    publish: bool = False

    @property
    def family(self) -> str:
        """The family that the rule belongs to: its code without the number, in the plural."""
        return FAMILIES[self.code.rstrip("0123456789")]


class Finding(NamedTuple):
    """One place that breaks a rule."""

    rule: Rule
    message: str
    at: tuple[tuple[str, int], ...]
    flavor: str = ""

    @property
    def place(self) -> str:
        """``file:line`` of the first place, ``file`` where a line means nothing (a picture)."""
        if not self.at:
            return ""
        file, line = self.at[0]
        return f"{file}:{line}" if line else file


def sorted_findings(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """Return findings once each: errors first, then by place and code.

    What says the same of several places becomes one with all of them; of several flavors, it is about all.
    """
    alike: dict[tuple[Rule, str, str], Finding] = {}
    for item in findings:
        key = item.rule, item.message, item.at[0][0] if item.at else ""
        known = alike.get(key)
        if known is None:
            alike[key] = item
        else:
            flavor = known.flavor if known.flavor == item.flavor else ""
            alike[key] = Finding(item.rule, item.message, tuple(dict.fromkeys((*known.at, *item.at))), flavor)
    order = {name: number for number, name in enumerate(SEVERITIES)}
    return tuple(sorted(alike.values(), key=lambda f: (order[f.rule.severity], f.at, f.rule.code, f.message)))
