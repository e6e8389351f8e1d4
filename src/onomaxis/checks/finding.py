"""Rules as data, and what they find."""

from __future__ import annotations

import tomllib
from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import cache
from importlib.resources import files
from typing import NamedTuple

from onomaxis.checks.families import FAMILIES
from onomaxis.errors import InputError
from onomaxis.identity.schema import nearest

SEVERITIES = ("error", "warning", "note")


class Rule(NamedTuple):
    """One rule: stable code, severity, what it is about in a line, what to do, the document it comes from.

    *fault* is one fault as it stands in a file, *mend* what mends it. What counts for an app alone that will soon be
    published is a note elsewhere: ``publish``. ``by`` is the command that mends it, where the files say all of it;
    ``within`` are the rules, in a row, that name the cause where they speak of the same line.
    """

    code: str
    severity: str
    title: str
    remedy: str
    source: str
    fault: str
    mend: str
    publish: bool = False
    by: str = ""
    within: str = ""

    @property
    def family(self) -> str:
        """The family that the rule belongs to: its code without the number, in the plural."""
        return FAMILIES[self.code.rstrip("0123456789")]


@cache
def all_rules() -> Mapping[str, Rule]:
    """Return all rules by their codes, as ``rules.toml`` tells them."""
    told = tomllib.loads(files(__package__).joinpath("rules.toml").read_text("utf-8"))
    return {code: Rule(code, **said) for code, said in told.items()}


def rule(code: str) -> Rule:
    """Return a rule by its code."""
    return all_rules()[code]


def rule_called(code: str) -> Rule:
    """Return the rule that a person names. Raises InputError where there is none of that code."""
    known = all_rules()
    found = known.get(code.upper())
    if found is None:
        guess = nearest(code.upper(), tuple(known))
        advice = (
            f"Did you mean {guess}?"
            if guess
            else "docs/checks.md lists all rules; each finding begins with its rule's code."
        )
        raise InputError(f"there is no rule {code}", remedy=advice)
    return found


class Finding(NamedTuple):
    """One place that breaks a rule."""

    rule: Rule
    message: str
    at: tuple[tuple[str, int], ...]
    flavor: str = ""
    cause: str = ""

    @property
    def place(self) -> str:
        """``file:line`` of the first place, ``file`` where a line means nothing (a picture)."""
        if not self.at:
            return ""
        file, line = self.at[0]
        return f"{file}:{line}" if line else file

    @property
    def fault(self) -> str:
        """What findings about one fault have in common: their cause's rule and place."""
        return self.cause or self.own

    @property
    def own(self) -> str:
        """The rule and the place, of pictures the folder.

        One line of a file may be wrong for several variants, and one art for all slots of a set.
        """
        file, line = self.at[0] if self.at else ("", 0)
        return f"{self.rule.code} {self.place if line else file.rpartition('/')[0] or file}"


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
    told = sorted(alike.values(), key=lambda f: (order[f.rule.severity], f.at, f.rule.code, f.message))
    return tuple(with_causes(told))


def with_causes(findings: Sequence[Finding]) -> Iterator[Finding]:
    """Yield findings; one whose line another of them, of its rule's ``within``, speaks of is a part of that fault."""
    causes: dict[tuple[str, tuple[str, int]], str] = {}
    for item in reversed(findings):
        causes |= dict.fromkeys(((item.rule.code, spot) for spot in item.at if spot[1]), item.own)
    for item in findings:
        spots = ((code, spot) for code in item.rule.within.split() for spot in item.at)
        yield item._replace(cause=next((causes[key] for key in spots if key in causes), ""))
