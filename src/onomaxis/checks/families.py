"""The families of rules that need no pixels, and what the identity file allows."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from fnmatch import fnmatchcase

from onomaxis.checks import flavors, ids, listing, names, services, signing, values, versions
from onomaxis.checks.context import Situation
from onomaxis.checks.finding import Finding, Rule
from onomaxis.identity.file import Allowed

Check = Callable[[Situation], Iterator[Finding]]

FAMILIES: dict[str, tuple[Check, Sequence[Rule]]] = {
    "ids": (ids.check, ids.RULES),
    "names": (names.check, names.RULES),
    "versions": (versions.check, versions.RULES),
    "flavors": (flavors.check, flavors.RULES),
    "services": (services.check, services.RULES),
    "values": (values.check, values.RULES),
    "signing": (signing.check, signing.RULES),
    "listing": (listing.check, listing.RULES),
}


def of_flavor(findings: Iterable[Finding], flavor: str) -> list[Finding]:
    """Return the findings about a flavor: its own, and those about what all flavors share."""
    wanted = flavor.casefold()
    return [
        item
        for item in findings
        if not item.flavor or item.flavor.casefold() == wanted or item.flavor.casefold().startswith(wanted)
    ]


def allowed(situation: Situation, findings: Sequence[Finding], looked_at: Sequence[Rule]) -> list[Finding]:
    """Leave out what the identity file allows; an allowance for nothing is a finding of its own."""
    file = situation.file
    if file is None:
        return list(findings)
    codes = {rule.code for rule in looked_at}
    used: set[Allowed] = set()
    kept = []
    for finding in findings:
        mine = [item for item in file.allowed if _covers(item, finding)]
        used.update(mine)
        kept += [] if mine else [finding]
    for item in file.allowed:
        if item not in used and item.rule in codes:
            kept.append(Finding(listing.UNUSED, f"{item.rule}: {item.reason}", ((file.path, item.line),)))
        elif item.rule not in ALL_CODES:
            kept.append(Finding(listing.UNUSED, f"there is no rule {item.rule}", ((file.path, item.line),)))
    return kept


def _covers(item: Allowed, finding: Finding) -> bool:
    here = not item.file or any(fnmatchcase(file, item.file) for file, _ in finding.at)
    return (
        item.rule == finding.rule.code
        and here
        and (not item.flavor or item.flavor.casefold() == finding.flavor.casefold())
    )


ALL_CODES = frozenset(
    [rule.code for _, rules in FAMILIES.values() for rule in rules]
    + [f"ICON{number:02d}" for number in range(1, 100)]
)
