"""Rules about display names."""

from __future__ import annotations

import re
from collections.abc import Iterator

from onomaxis import late
from onomaxis.checks.context import Context, at, called, in_a_row
from onomaxis.checks.finding import Finding, rule
from onomaxis.checks.ids import said_otherwise
from onomaxis.checks.registry import check
from onomaxis.identity.rules import LONGEST_NAME
from onomaxis.model import Facet, Value
from onomaxis.platforms import PLATFORM_NAMES

MISSING = rule("NAME01")
TEMPLATE = rule("NAME02")
LONG = rule("NAME03")
PLATFORMS = rule("NAME04")
NOT_AS_SAID = rule("NAME05")
SHADOWED = rule("NAME06")
UNRESOLVED = rule("NAME07")
CUT = rule("NAME08")
LAUNCHER = rule("NAME09")

# What wizards and templates of platforms and frameworks call a new app.
_TEMPLATES = late.compile(
    r"(?:my[ -]?app(?:lication)?|hello ?world|hello app display name|hellocordova|runner|app|ionic ?starter|untitled|"
    r"example|flutter ?demo|new ?unity ?project|tauri[- ]app|myapp1?|com\.companyname\.\w+)\Z",
    re.IGNORECASE,
)


@check(MISSING, TEMPLATE, LONG, PLATFORMS, NOT_AS_SAID, SHADOWED, UNRESOLVED, CUT, LAUNCHER)
def check_names(context: Context) -> Iterator[Finding]:
    """Check every display name."""
    unresolved = {
        id(s.project): [i for i in s.project.unresolved if i.facet == Facet.DISPLAY_NAME] for s in context.subjects
    }
    for subject, app in context.apps():
        who = called(subject.platform, app.flavor)
        if app.name is None:
            if not unresolved[id(subject.project)]:
                said = f"{who} ({app.id.text if app.id else app.module}) has no name"
                yield Finding(MISSING, said, at(app.id), app.flavor)
            continue
        if _TEMPLATES.match(app.name.text.strip()):
            yield Finding(TEMPLATE, f"{who} is called “{app.name.text}”", at(app.name), app.flavor)
        for label, value in (("", app.name), *app.names):
            if len(value.text) > LONGEST_NAME:
                said = f"{who}{f' in {label}' if label else ''}: “{value.text}” has {len(value.text)} characters"
                yield Finding(LONG, said, at(value), app.flavor)
    for subject in context.subjects:
        for item in unresolved[id(subject.project)]:
            yield Finding(UNRESOLVED, f"{item.text}: {item.reason}", ((item.file, item.line),))
    for found in context.disagreements("names-differ", "framework-name-differs"):
        yield Finding(PLATFORMS, found.message, found.at, found.flavor)
    for found in context.disagreements("launcher-name-differs"):
        yield Finding(LAUNCHER, found.message, found.at)
    for found in context.disagreements("localized-name-shadows"):
        yield Finding(SHADOWED, found.message, found.at)
    yield from _cut(context)
    yield from said_otherwise(context, ("name", "names"), NOT_AS_SAID)


def _cut(context: Context) -> Iterator[Finding]:
    """Say once per flavor and language what a home screen shows of a name that is too long for it."""
    from onomaxis.icons.labels import seen

    shown: dict[tuple[str, str, str], list[str]] = {}
    places: dict[tuple[str, str, str], list[Value]] = {}
    for subject, app in context.apps():
        for language, value in (("", app.name), *app.names):
            text = value.text.strip() if value is not None else ""
            there = seen(text, subject.platform)
            if value is not None and there != text:
                key = (app.flavor, language, text)
                said = f"{PLATFORM_NAMES[subject.platform]} shows “{there}”"
                shown.setdefault(key, []).append(said)
                places.setdefault(key, []).append(value)
    alike: dict[tuple[str, tuple[tuple[str, int], ...]], list[str]] = {}
    for (flavor, language, text), views in shown.items():
        where = f" in {language}" if language else ""
        message = f"“{text}”{where}: {', '.join(dict.fromkeys(views))}"
        alike.setdefault((message, at(*places[flavor, language, text])), []).append(flavor)
    for (message, spots), flavors in alike.items():
        named = f"{in_a_row(flavors)}: {message}" if flavors != [""] else message
        yield Finding(CUT, named, spots, context.common(flavors))
