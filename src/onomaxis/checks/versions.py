"""Rules about versions and build numbers, and what the ledger says of those already used."""

from __future__ import annotations

from collections.abc import Iterator

from onomaxis.brands.ledger import Published, build_number, mine
from onomaxis.checks.context import Context, at, called
from onomaxis.checks.finding import Finding, Rule
from onomaxis.checks.ids import said_otherwise
from onomaxis.checks.registry import check
from onomaxis.errors import InputError
from onomaxis.identity import rules
from onomaxis.identity.schema import LEDGER
from onomaxis.model import ShippedApp, Value

_ANDROID = "developer.android.com, Version your app"
_APPLE = "Apple, CFBundleVersion, CFBundleShortVersionString"

PART = Rule(
    "VERSION01",
    "error",
    "An embedded product's version or build differs from the app's",
    "Renumber: onomaxis renumber sets all of them.",
    _APPLE,
)
PLATFORMS = Rule(
    "VERSION02",
    "warning",
    "Version or build differs between the platforms",
    "Renumber both: onomaxis renumber.",
    "docs/checks.md",
)
FORM = Rule("VERSION03", "error", "The version's form is not one that the store takes", "Renumber it.", _APPLE)
RANGE = Rule(
    "VERSION04",
    "error",
    "The build number is not one that the store takes",
    "Renumber: onomaxis renumber --build.",
    _ANDROID,
)
NOT_AS_SAID = Rule(
    "VERSION05",
    "error",
    "Version or build is not as the identity file says",
    "Run onomaxis stamp.",
    "docs/identity-file.md",
)
USED = Rule(
    "VERSION06",
    "error",
    "The build number was published before, or is lower than one that was",
    "Take the next: onomaxis renumber --build next.",
    _ANDROID,
)
OVERRIDDEN = Rule(
    "VERSION07",
    "error",
    "The property list overrides the build setting of the version with another value",
    "Let it refer to the setting: onomaxis rename --unify.",
    _APPLE,
)
MISSING = Rule("VERSION08", "warning", "The app states no version or no build number", "Renumber it.", _ANDROID)
MOVED = Rule(
    "VERSION09",
    "error",
    "A published app's ID changed: the store takes it for a new app",
    "Put the published ID back, or record the new app in the ledger.",
    _ANDROID,
)


@check(PART, PLATFORMS, FORM, RANGE, NOT_AS_SAID, USED, OVERRIDDEN, MISSING, MOVED)
def check_versions(context: Context) -> Iterator[Finding]:
    """Check every version and build number."""
    for subject, app in context.apps():
        ios = subject.platform == "ios"
        who = called(subject.platform, app.flavor)
        for value, label in ((app.version, "version"), (app.build, "build number")):
            if value is None and not any(i.facet.startswith("version.") for i in subject.project.unresolved):
                spots = at(app.id) or at(app.name) or at(app.version)
                yield Finding(MISSING, f"{who}: no {label}", spots, app.flavor)
        yield from _form(app.version, app.build, ios, app.flavor)
        yield from _published(context, subject.platform, app)
    for found in context.disagreements("part-version-differs", "part-build-differs"):
        yield Finding(PART, found.message, found.at)
    for found in context.disagreements(
        "versions-differ", "builds-differ", "framework-version-differs", "framework-build-differs"
    ):
        yield Finding(PLATFORMS, found.message, found.at, found.flavor)
    for found in context.disagreements("plist-overrides-setting"):
        yield Finding(OVERRIDDEN, found.message, found.at)
    yield from said_otherwise(context, ("version", "build"), NOT_AS_SAID)


def _form(version: Value | None, build: Value | None, ios: bool, flavor: str) -> Iterator[Finding]:
    if version is not None:
        try:
            rules.version_name(version.text, ios)
        except InputError as error:
            yield Finding(FORM, error.message, at(version), flavor)
    if build is not None:
        try:
            rules.build_number(build.text, not ios, ios)
        except InputError as error:
            yield Finding(RANGE, error.message, at(build), flavor)


def _published(context: Context, platform: str, app: ShippedApp) -> Iterator[Finding]:
    named = not context.named or any(s.platform == platform and app in s.project.apps for s in context.named)
    rows = mine(context.ledger, platform, app.flavor) if named else []
    if not rows or app.id is None:
        return
    last: Published = rows[-1]
    if app.build is not None and build_number(app.build.text) <= last.number:
        said = f"{called(platform, app.flavor)} has build {app.build.text}; {last.build} was published on {last.date}"
        yield Finding(USED, said, (*at(app.build), (LEDGER, last.line)), app.flavor)
    if all(row.id != app.id.text for row in rows):
        said = f"{called(platform, app.flavor)} is {app.id.text}, and was published as {last.id}"
        yield Finding(MOVED, said, (*at(app.id), (LEDGER, last.line)), app.flavor)
