"""Checks register themselves: a function with :func:`check` over it is found, wherever in this package it stands."""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Callable, Iterator
from typing import NamedTuple

from onomaxis import checks
from onomaxis.checks.context import Context
from onomaxis.checks.families import FAMILIES
from onomaxis.checks.finding import Finding, Rule

Run = Callable[[Context], Iterator[Finding]]


class Check(NamedTuple):
    """What looks for breaches of some rules, all of one family."""

    rules: tuple[Rule, ...]
    run: Run

    @property
    def family(self) -> str:
        """The family of the rules."""
        return self.rules[0].family

    def __call__(self, context: Context) -> Iterator[Finding]:
        """Yield what breaks the rules."""
        return self.run(context)


def check(*rules: Rule) -> Callable[[Run], Check]:
    """Register a function as the one that looks for breaches of *rules*."""
    return lambda run: Check(rules, run)


def every_check() -> tuple[Check, ...]:
    """Return all checks, in the order of their families and codes."""
    names = sorted(module.name for module in pkgutil.iter_modules(checks.__path__))
    modules = [importlib.import_module(f"{checks.__name__}.{name}") for name in names]
    found = {item: None for module in modules for item in vars(module).values() if isinstance(item, Check)}
    order = list(FAMILIES.values())
    return tuple(sorted(found, key=lambda item: (order.index(item.family), item.rules[0].code)))


def every_rule() -> tuple[Rule, ...]:
    """Return the rules of all checks, each once."""
    return tuple(dict.fromkeys(rule for item in every_check() for rule in item.rules))
