"""Rules about what stores ask for beside the app's identity."""

from __future__ import annotations

import re
from collections.abc import Iterator

from onomaxis import late
from onomaxis.checks.context import Context, called, whose
from onomaxis.checks.finding import Finding, Rule
from onomaxis.checks.registry import check
from onomaxis.identity.store_levels import TARGET_LEVELS

LOWEST_TARGET = TARGET_LEVELS[-1].level

TARGET = Rule(
    "LIST01",
    "error",
    f"The target API level is below {LOWEST_TARGET}: the store takes no update",
    "Raise targetSdk.",
    TARGET_LEVELS[-1].source,
)
PURPOSE = Rule(
    "LIST02",
    "error",
    "A usage description is empty or a placeholder: the store rejects the app",
    "Say in a sentence what the permission is for.",
    "Apple, Requesting access to protected resources",
)
EXPORT = Rule(
    "LIST03",
    "note",
    "Nothing answers the export question: every upload waits for the answer",
    "Add ITSAppUsesNonExemptEncryption.",
    "Apple, Complying with encryption export regulations",
)
UNUSED = Rule(
    "ALLOW01", "note", "An allowance of the identity file allows nothing", "Take it out.", "docs/identity-file.md"
)
_PURPOSE = late.compile(r"NS[A-Za-z]{1,80}UsageDescription\Z")
_EMPTY = late.compile(
    r"\s*+(?:(?:todo|fixme|lorem|your ).*+|description|usage description|\.++)?\s*+\Z", re.IGNORECASE | re.DOTALL
)


@check(TARGET, PURPOSE, EXPORT, UNUSED)
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
