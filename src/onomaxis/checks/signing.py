"""Rules about signing: releases cannot be debugged, are signed for release, and links trust their certificate."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from onomaxis.checks.context import Context, called, in_a_row, whose
from onomaxis.checks.finding import Finding, Rule, rule
from onomaxis.checks.registry import check
from onomaxis.projects.project import Fact
from onomaxis.projects.services import link_files

DEBUGGABLE = rule("SIGN01")
DEBUG_KEY = rule("SIGN02")
PASSWORD = rule("SIGN03")
FINGERPRINT = rule("SIGN04")
ENTITLEMENT = rule("SIGN05")
_SWITCHES: tuple[tuple[str, Rule, Callable[[str], bool]], ...] = (
    ("debuggable", DEBUGGABLE, lambda text: text == "true"),
    ("signing", DEBUG_KEY, lambda text: "debug" in text.lower()),
    ("password", PASSWORD, lambda text: True),
    ("push", ENTITLEMENT, lambda text: text == "development"),
)

# What is wrong, of which shipped app.
_SAID = {
    "debuggable": "{who}: its release build is debuggable",
    "signing": "{who}: its release build is signed with {text}",
    "password": "{who}: a password stands in its build script",
    "push": "{who}: aps-environment is {text}",
}


@check(DEBUGGABLE, DEBUG_KEY, PASSWORD, FINGERPRINT, ENTITLEMENT)
def check_signing(context: Context) -> Iterator[Finding]:
    """Check how releases are signed."""
    for subject in context.subjects:
        found: dict[tuple[str, Rule, Fact], list[str]] = {}
        for flavor in context.flavored(subject):
            switches = context.facts(subject, flavor).switches
            for name, broken, bad in _SWITCHES:
                fact = switches.get(name)
                if fact and bad(fact.text):
                    found.setdefault((name, broken, fact), []).append(flavor)
        for (name, broken, fact), flavors in found.items():  # what flavors share is said once
            who = called(subject.platform, in_a_row(flavors))
            said = _SAID[name].format(who=f"{who} ({subject.module})", text=fact.text)
            flavor = flavors[0] if len(flavors) == 1 else ""
            yield Finding(broken, said, ((fact.file, fact.line),), whose(flavor, fact.file))
    yield from _fingerprints(context)


def _fingerprints(context: Context) -> Iterator[Finding]:
    file = context.file
    links = [item for item in link_files(context.tree) if item.platform == "android"]
    for subject in context.named if file is not None and links else ():
        assert file is not None
        if subject.platform != "android":
            continue
        for flavor in context.flavored(subject):
            value = subject.value(flavor, "id")
            brand = file.variant(flavor, subject.singles, "android")
            apps = [(link, app) for link in links for app in link.apps if value and app.id == value.text]
            for wanted in brand.fingerprints:
                if apps and not any(wanted.text.upper() in app.certificates for _, app in apps):
                    link, app = apps[0]
                    said = f"{called('android', flavor)}: the file does not trust {wanted.text[:23]}…"
                    yield Finding(
                        FINGERPRINT, said, ((link.path, app.line), (file.home(wanted.line), wanted.line)), flavor
                    )
