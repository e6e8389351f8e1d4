"""Rules about identifiers."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

from onomaxis.brands.subjects import Difference, Subject, differences
from onomaxis.checks.context import Context, at, called
from onomaxis.checks.examples import EXAMPLES
from onomaxis.checks.finding import Finding, Rule
from onomaxis.checks.registry import check
from onomaxis.errors import InputError
from onomaxis.identity import rules
from onomaxis.model import HIDDEN_PARTS, Facet, ShippedApp

_ANDROID = "developer.android.com, Set the application ID"
_APPLE = "Apple, CFBundleIdentifier"

CLASH = Rule(
    "ID01",
    "error",
    "Two flavors ship under one ID: they cannot stand side by side",
    "Give each an ID of its own.",
    _ANDROID,
)
PART = Rule(
    "ID02",
    "error",
    "An embedded product's ID does not go on from the app's",
    "Let it begin with the app's ID and a dot; an extension adds one segment.",
    "Apple, Creating an app extension",
)
EXAMPLE = Rule(
    "ID03",
    "error",
    "The ID is an example's or a template's: stores refuse it",
    "Rename it: onomaxis rename --id.",
    _ANDROID,
    publish=True,
)
FORM = Rule("ID04", "error", "The ID breaks the platform's rules", "Rename it: onomaxis rename --id.", _APPLE)
UNRESOLVED = Rule(
    "ID05",
    "warning",
    "The ID is computed in a way that cannot be told here",
    "Write it as a literal, or check the built app.",
    _ANDROID,
)
AUTHORITY = Rule(
    "ID06",
    "warning",
    "A provider's authority does not begin with the ID: two apps may collide",
    "Write ${applicationId} into it.",
    "developer.android.com, <provider>",
)
NOT_AS_SAID = Rule(
    "ID07", "error", "The ID is not as the identity file says", "Run onomaxis stamp.", "docs/identity-file.md"
)
PACKAGE = Rule(
    "ID08",
    "warning",
    "Code or tests stand in a package that is not the namespace's",
    "Move them: onomaxis rename --code-package.",
    "developer.android.com, Set the namespace",
)

CONDITION = Rule(
    "ID10",
    "warning",
    "The ID is another one for other devices or processors",
    "Write the ID once, without a condition.",
    "Apple, Adding a build configuration file to your project",
)
NONE = Rule(
    "ID09",
    "error",
    "The app states no ID: none can be published",
    "State it: onomaxis rename --id.",
    "developer.android.com, Set the application ID; Apple, CFBundleIdentifier",
    publish=True,
)


@check(CLASH, PART, EXAMPLE, FORM, UNRESOLVED, AUTHORITY, NOT_AS_SAID, PACKAGE, NONE, CONDITION)
def check_ids(context: Context) -> Iterator[Finding]:
    """Check every identifier."""
    for subject in context.subjects:
        by_id: dict[str, list[str]] = defaultdict(list)
        apps = [app for app in subject.project.apps if app.module == subject.module]
        for app in apps:
            if app.id is None:
                yield from _none(subject, app)
                continue
            if app.flavor not in by_id[app.id.text]:
                by_id[app.id.text].append(app.flavor)
            yield from _one(subject.platform, app.id.text, at(app.id), app.flavor)
            for part in app.parts:
                if part.id is not None and part.kind not in HIDDEN_PARTS:
                    yield from _one(subject.platform, part.id.text, at(part.id), app.flavor)
        for id_, flavors in by_id.items():
            itself = subject.platform == "ios" and len(flavors) == 2 and "" in flavors  # that flavor is the app
            if len(flavors) > 1 and not itself:
                spots = tuple(spot for app in apps if app.id and app.id.text == id_ for spot in at(app.id))
                listed = ", ".join(name or "the app itself" for name in flavors)
                yield Finding(CLASH, f"{listed} are all {id_}", tuple(dict.fromkeys(spots)), flavors[-1])
        for item in subject.project.unresolved:
            if item.facet in (Facet.APPLICATION_ID, Facet.BUNDLE_ID):
                yield Finding(UNRESOLVED, f"{item.text}: {item.reason}", ((item.file, item.line),))
    for rule, codes in (
        (PART, ("part-id-differs", "part-id-too-deep")),
        (AUTHORITY, ("authority-differs",)),
        (PACKAGE, ("test-package-differs", "folder-differs")),
        (CONDITION, (f"{Facet.BUNDLE_ID}-by-condition",)),
    ):
        for found in context.disagreements(*codes):
            yield Finding(rule, found.message, found.at)
    yield from _as_said(context)


def _none(subject: Subject, app: ShippedApp) -> Iterator[Finding]:
    """Say that an app has no ID, where nothing is known to give it one: at what else it is called by."""
    faults = [item for item in subject.project.unresolved if item.facet in (Facet.APPLICATION_ID, Facet.BUNDLE_ID)]
    spots = at(app.name) or at(app.version)
    if not faults and spots:
        yield Finding(NONE, f"{called(subject.platform, app.flavor)} has no ID", spots, app.flavor)


def _one(platform: str, id_: str, spots: tuple[tuple[str, int], ...], flavor: str) -> Iterator[Finding]:
    if EXAMPLES.match(id_):
        yield Finding(EXAMPLE, f"{called(platform, flavor)} is {id_}", spots, flavor)
    try:
        (rules.bundle_id if platform == "ios" else rules.android_id)(id_)
    except InputError as error:
        yield Finding(FORM, error.message, spots, flavor)


def _as_said(context: Context) -> Iterator[Finding]:
    yield from said_otherwise(context, ("id", "code-package"), NOT_AS_SAID)


def said_otherwise(context: Context, keys: tuple[str, ...], rule: Rule) -> Iterator[Finding]:
    """Yield where facets differ from the identity file; its line comes first, then where the facet is written."""
    file = context.file
    if file is None:
        return
    for subject in context.named:
        flavors = [f for f in subject.flavors if file.named(f) in file.flavors]
        alike: dict[tuple[object, ...], list[Difference]] = defaultdict(list)
        for flavor in (*([""] if subject.of("") or not subject.flavors else []), *flavors):
            brand = file.brand(file.named(flavor) if flavor else "", subject.platform)
            for item in differences(subject, brand, flavor):
                if item.key in keys:
                    alike[item.key, item.locale, item.line, item.today, item.wanted].append(item)
        for items in alike.values():
            item = items[0]
            key = "name" if item.key == "names" else item.key
            value = subject.value(item.flavor, key) if key in _VALUES else None
            label = f"{item.key} {item.locale}".strip()
            more = f" and {len(items) - 1} more" if len(items) > 1 else ""
            who = f"{called(subject.platform, item.flavor)}{more}"
            message = f"{who}: {label} is “{item.today or ''}”, not “{item.wanted}”"
            of = item.flavor if len(items) == 1 else ""
            yield Finding(rule, message, ((file.home(item.line), item.line), *at(value)), of)


_VALUES = ("id", "name", "version", "build")
