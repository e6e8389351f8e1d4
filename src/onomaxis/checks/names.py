"""Rules about display names."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from typing import NamedTuple

from onomaxis import late
from onomaxis.brands.subjects import Subject
from onomaxis.checks.context import Context, at, called, in_a_row
from onomaxis.checks.finding import Finding, rule
from onomaxis.checks.ids import said_otherwise
from onomaxis.checks.registry import check
from onomaxis.identity.rules import LONGEST_NAME
from onomaxis.model import Facet
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
SHARED = rule("NAME10")

# What wizards and templates of platforms and frameworks call a new app.
_TEMPLATES = late.compile(
    r"(?:my[ -]?app(?:lication)?|hello ?world|hello app display name|hellocordova|runner|app|ionic ?starter|untitled|"
    r"example|flutter ?demo|new ?unity ?project|tauri[- ]app|myapp1?|com\.companyname\.\w+)\Z",
    re.IGNORECASE,
)


@check(MISSING, TEMPLATE, LONG, PLATFORMS, NOT_AS_SAID, SHADOWED, UNRESOLVED, CUT, LAUNCHER, SHARED)
def check_names(context: Context) -> Iterator[Finding]:
    """Check every display name."""
    unresolved = {
        id(s.project): [i for i in s.project.unresolved if i.facet == Facet.DISPLAY_NAME] for s in context.subjects
    }
    for subject, app in context.apps():
        who = called(subject.platform, app.variant)
        if app.name is None:
            if not unresolved[id(subject.project)]:
                said = f"{who} ({app.id.text if app.id else app.module}) has no name"
                yield Finding(MISSING, said, at(app.id), app.variant)
            continue
    told = list(_told(context))
    for name in told:
        yield from _one(name)
    for subject in context.subjects:
        for item in unresolved[id(subject.project)]:
            yield Finding(UNRESOLVED, f"{item.text}: {item.reason}", ((item.file, item.line),))
    for found in context.disagreements("names-differ", "framework-name-differs"):
        yield Finding(PLATFORMS, found.message, found.at, found.flavor)
    for found in context.disagreements("launcher-name-differs"):
        yield Finding(LAUNCHER, found.message, found.at)
    for found in context.disagreements("localized-name-shadows"):
        yield Finding(SHADOWED, found.message, found.at)
    for subject in (item for item in context.subjects if item.platform == "ios"):
        yield from _shared(subject)
    yield from _cut(context, told)
    yield from said_otherwise(context, ("name", "names"), NOT_AS_SAID)


def _shared(subject: Subject) -> Iterator[Finding]:
    """Name the flavors that are called as others in some languages: their texts stand in one place for all.

    They are the app's where it is built without a flavor too; else those of the flavor that they name.
    """
    apps = [app for app in subject.apps if app.name is not None]
    for app in (item for item in apps if item.flavor or not subject.stands_alone):
        own = app.name.text if app.name is not None else ""
        others = [other for other in apps if other.name is not None and other.name.text != own]
        wrong = {
            language: value
            for language, value in app.names
            if value.text != own and any(dict(other.names).get(language) == value for other in others)
        }
        if wrong:
            said = ", ".join(f"“{value.text}” in {language}" for language, value in wrong.items())
            spots = tuple(dict.fromkeys(spot for value in wrong.values() for spot in at(value)))
            who = called(subject.platform, app.variant)
            yield Finding(SHARED, f"{who} is “{own}”, and is called {said}", spots, app.variant)


class _Name(NamedTuple):
    """One name, in a language or for all, that an app has, or that a brand would have; and where it is said."""

    platform: str
    flavor: str
    language: str
    text: str
    at: tuple[tuple[str, int], ...]


def _told(context: Context) -> Iterator[_Name]:
    """Yield every name of everything that ships, and of the brands that a tree can become."""
    for subject, app in context.apps():
        for language, value in (("", app.name), *app.names) if app.name is not None else app.names:
            if value is not None:
                yield _Name(subject.platform, app.variant, language, value.text, at(value))
    for subject, flavor, brand in context.unbuilt():
        own = {"": brand.facets["name"]} if "name" in brand.facets else {}
        for language, said in {**own, **brand.names}.items():
            yield _Name(subject.platform, flavor, language, said.text, context.spot(said))


def _one(name: _Name) -> Iterator[Finding]:
    who = called(name.platform, name.flavor)
    if not name.language and _TEMPLATES.match(name.text.strip()):
        yield Finding(TEMPLATE, f"{who} is called “{name.text}”", name.at, name.flavor)
    if len(name.text) > LONGEST_NAME:
        where = f" in {name.language}" if name.language else ""
        said = f"{who}{where}: “{name.text}” has {len(name.text)} characters"
        yield Finding(LONG, said, name.at, name.flavor)


def _cut(context: Context, told: Iterable[_Name]) -> Iterator[Finding]:
    """Say once per flavor and language what a home screen shows of a name that is too long for it."""
    from onomaxis.icons.labels import seen

    shown: dict[tuple[str, str, str], list[str]] = {}
    places: dict[tuple[str, str, str], list[tuple[str, int]]] = {}
    for name in told:
        text = name.text.strip()
        there = seen(text, name.platform)
        if there != text:
            key = (name.flavor, name.language, text)
            shown.setdefault(key, []).append(f"{PLATFORM_NAMES[name.platform]} shows “{there}”")
            places.setdefault(key, []).extend(name.at)
    alike: dict[tuple[str, tuple[tuple[str, int], ...]], list[str]] = {}
    for (flavor, language, text), views in shown.items():
        where = f" in {language}" if language else ""
        message = f"“{text}”{where}: {', '.join(dict.fromkeys(views))}"
        spots = tuple(dict.fromkeys(places[flavor, language, text]))
        alike.setdefault((message, spots), []).append(flavor)
    for (message, spots), flavors in alike.items():
        named = f"{in_a_row(flavors)}: {message}" if flavors != [""] else message
        yield Finding(CUT, named, spots, context.common(flavors))
