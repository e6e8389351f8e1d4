"""Rules about what stores ask for beside the app's identity."""

from __future__ import annotations

import re
from collections.abc import Iterator

from onomaxis import late
from onomaxis.checks.context import Context, called, whose
from onomaxis.checks.finding import Finding, rule
from onomaxis.checks.registry import check
from onomaxis.identity.store_levels import TARGET_LEVELS

LOWEST_TARGET = TARGET_LEVELS[-1].level

TARGET = rule("LIST01")
PURPOSE = rule("LIST02")
EXPORT = rule("LIST03")
UNUSED = rule("ALLOW01")
ENDED = rule("ALLOW02")
_PURPOSE = late.compile(r"NS[A-Za-z]{1,80}UsageDescription\Z")
_EMPTY = late.compile(
    r"\s*+(?:(?:todo|fixme|lorem|your ).*+|description|usage description|\.++)?\s*+\Z", re.IGNORECASE | re.DOTALL
)


@check(TARGET, PURPOSE, EXPORT, UNUSED, ENDED)
def check_listing(context: Context) -> Iterator[Finding]:
    """Check what the stores ask for."""
    for subject in context.subjects:
        for flavor in context.flavored(subject):
            facts = context.facts(subject, flavor)
            target = facts.switches.get("target-sdk")
            if target and target.text.isdecimal() and int(target.text) < LOWEST_TARGET:
                said = f"{called(subject.platform, flavor)}: targetSdk is {target.text}, {LOWEST_TARGET} at least"
                yield Finding(TARGET, said, ((target.file, target.line),), whose(flavor, target.file))
            for key, fact in facts.keys.items():
                if _PURPOSE.match(key) and _EMPTY.match(fact.text):
                    said = f"{subject.module}: {key} is “{fact.text.strip()}”"
                    yield Finding(PURPOSE, said, ((fact.file, fact.line),), whose(flavor, fact.file))
            listed = subject.platform == "ios" and (
                facts.where.file.endswith(".plist") or "property-list" in facts.switches
            )
            if listed and "ITSAppUsesNonExemptEncryption" not in facts.keys:
                said = f"{subject.module}: no ITSAppUsesNonExemptEncryption"
                yield Finding(EXPORT, said, ((facts.where.file, facts.where.line),))
