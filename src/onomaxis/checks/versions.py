"""Rules about versions and build numbers, and what the ledger says of those already used."""

from __future__ import annotations

from collections.abc import Iterator

from onomaxis.brands.ledger import build_number, mine, told_twice
from onomaxis.brands.subjects import Subject
from onomaxis.checks.context import Context, at, called
from onomaxis.checks.finding import Finding, rule
from onomaxis.checks.ids import said_otherwise
from onomaxis.checks.registry import check
from onomaxis.errors import InputError
from onomaxis.identity import rules
from onomaxis.identity.file import Said
from onomaxis.identity.schema import LEDGER
from onomaxis.model import ShippedApp, Value
from onomaxis.platforms import PLATFORM_NAMES

PART = rule("VERSION01")
PLATFORMS = rule("VERSION02")
FORM = rule("VERSION03")
RANGE = rule("VERSION04")
NOT_AS_SAID = rule("VERSION05")
USED = rule("VERSION06")
OVERRIDDEN = rule("VERSION07")
MISSING = rule("VERSION08")
MOVED = rule("VERSION09")
TWICE = rule("VERSION10")


@check(TWICE)
def ledger_told_twice(context: Context) -> Iterator[Finding]:
    """Look for rows of the ledger that cannot both be: two branches took one number, or a merge kept a row twice."""
    for first, row in told_twice(context.ledger):
        whose = f"{row.id} on {PLATFORM_NAMES[row.platform]}"
        told = f"{first.version} and as {row.version}" if first.version != row.version else f"{row.version}, twice"
        spots = tuple(dict.fromkeys((LEDGER, item.line) for item in (first, row)))
        done = "reserved" if row.reserved else "published"
        yield Finding(TWICE, f"build {row.build} of {whose} was {done} as {told}", spots, row.flavor)


@check(PART, PLATFORMS, FORM, RANGE, NOT_AS_SAID, USED, OVERRIDDEN, MISSING, MOVED)
def check_versions(context: Context) -> Iterator[Finding]:
    """Check every version and build number."""
    for subject, app in context.apps():
        ios = subject.platform == "ios"
        who = called(subject.platform, app.variant)
        for value, label in ((app.version, "version"), (app.build, "build number")):
            if value is None and not any(i.facet.startswith("version.") for i in subject.project.unresolved):
                spots = at(app.id) or at(app.name) or at(app.version)
                yield Finding(MISSING, f"{who}: no {label}", spots, app.variant)
        yield from _form(_text(app.version), _text(app.build), ios, app.variant)
        yield from _published(context, subject, app)
    for found in context.disagreements("part-version-differs", "part-build-differs"):
        yield Finding(PART, found.message, found.at)
    for found in context.disagreements(
        "versions-differ", "builds-differ", "framework-version-differs", "framework-build-differs"
    ):
        yield Finding(PLATFORMS, found.message, found.at, found.flavor)
    for found in context.disagreements("plist-overrides-setting"):
        yield Finding(OVERRIDDEN, found.message, found.at)
    for subject, flavor, brand in context.unbuilt():
        version, build = (_said(context, brand.facets.get(key)) for key in ("version", "build"))
        yield from _form(version, build, subject.platform == "ios", flavor)
    yield from said_otherwise(context, ("version", "build"), NOT_AS_SAID)


# A text, and where it is said.
_Text = tuple[str, tuple[tuple[str, int], ...]]


def _text(value: Value | None) -> _Text | None:
    return (value.text, at(value)) if value is not None else None


def _said(context: Context, said: Said | None) -> _Text | None:
    return (said.text, context.spot(said)) if said is not None else None


def _form(version: _Text | None, build: _Text | None, ios: bool, flavor: str) -> Iterator[Finding]:
    if version is not None:
        try:
            rules.version_name(version[0], ios)
        except InputError as error:
            yield Finding(FORM, error.message, version[1], flavor)
    if build is not None:
        try:
            rules.build_number(build[0], not ios, ios)
        except InputError as error:
            yield Finding(RANGE, error.message, build[1], flavor)


def _published(context: Context, subject: Subject, app: ShippedApp) -> Iterator[Finding]:
    platform, key = subject.platform, subject.project.key
    named = not context.named or any(s.project.key == key and s.owns(app.module) for s in context.named)
    standing = context.file.standing if context.file is not None else ""
    if not named or app.id is None:
        return
    rows = mine(context.ledger, platform, app.variant or standing, app.id.text)
    if not rows:
        return
    last, who = rows[-1], called(platform, app.variant)
    if app.build is not None and build_number(app.build.text) <= last.number:
        said = f"{who} has build {app.build.text}; {last.build} was published on {last.date}"
        yield Finding(USED, said, (*at(app.build), (LEDGER, last.line)), app.variant)
    if all(row.id != app.id.text for row in rows):
        said = f"{who} is {app.id.text}, and was published as {last.id}"
        yield Finding(MOVED, said, (*at(app.id), (LEDGER, last.line)), app.variant)
