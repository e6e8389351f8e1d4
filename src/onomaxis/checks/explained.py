"""A rule explained: what it says, where it comes from, one fault as it stands in a file and what mends it."""

from __future__ import annotations

import tomllib
from importlib.resources import files
from typing import NamedTuple

from onomaxis.checks.finding import Rule
from onomaxis.checks.registry import all_rules
from onomaxis.errors import InputError
from onomaxis.identity.schema import nearest


class Explained(NamedTuple):
    """One rule with its example."""

    rule: Rule
    fault: str
    mend: str


def explained(code: str) -> Explained:
    """Return what a rule is about. Raises InputError where there is none of that code."""
    rules = {rule.code: rule for rule in all_rules()}
    rule = rules.get(code.upper())
    if rule is None:
        guess = nearest(code.upper(), tuple(rules))
        advice = f"Did you mean {guess}?" if guess else "docs/checks.md lists them; a finding begins with its code."
        raise InputError(f"there is no rule {code}", remedy=advice)
    examples = tomllib.loads(files(__package__).joinpath("examples.toml").read_text("utf-8"))
    example = examples[rule.code]
    return Explained(rule, example["fault"], example["mend"])
