"""Rules about identifiers."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

from onomaxis.brands.subjects import Subject
from onomaxis.brands.worn import Difference, brand_differences, differences
from onomaxis.checks.context import Context, at, called
from onomaxis.checks.examples import EXAMPLES
from onomaxis.checks.finding import Finding, Rule, rule
from onomaxis.checks.registry import check
from onomaxis.errors import InputError
from onomaxis.identity import rules
from onomaxis.identity.file import Said
from onomaxis.model import HIDDEN_PARTS, Facet, ShippedApp

CLASH = rule("ID01")
PART = rule("ID02")
EXAMPLE = rule("ID03")
FORM = rule("ID04")
UNRESOLVED = rule("ID05")
AUTHORITY = rule("ID06")
NOT_AS_SAID = rule("ID07")
PACKAGE = rule("ID08")

CONDITION = rule("ID10")
NONE = rule("ID09")


@check(CLASH, PART, EXAMPLE, FORM, UNRESOLVED, AUTHORITY, NOT_AS_SAID, PACKAGE, NONE, CONDITION)
def check_ids(context: Context) -> Iterator[Finding]:
    """Check every identifier."""
    for subject in context.subjects:
        by_id: dict[str, list[str]] = defaultdict(list)
        apps = subject.apps
        for app in apps:
            if app.id is None:
                yield from _none(subject, app)
                continue
            if app.flavor not in by_id[app.id.text]:  # its stages may well share an ID
                by_id[app.id.text].append(app.flavor)
            yield from _one(subject.platform, app.id.text, at(app.id), app.variant)
            for part in app.parts:
                if part.id is not None and part.kind not in HIDDEN_PARTS:
                    yield from _one(subject.platform, part.id.text, at(part.id), app.variant)
        for id_, flavors in by_id.items():
            itself = subject.platform == "ios" and len(flavors) == 2 and "" in flavors  # that flavor is the app
            if len(flavors) > 1 and not itself:
                spots = tuple(spot for app in apps if app.id and app.id.text == id_ for spot in at(app.id))
                listed = ", ".join(name or "the app itself" for name in flavors)
                yield Finding(CLASH, f"{listed} are all {id_}", tuple(dict.fromkeys(spots)), flavors[-1])
        for item in subject.project.unresolved:
            if item.facet in (Facet.APPLICATION_ID, Facet.BUNDLE_ID):
                yield Finding(UNRESOLVED, f"{item.text}: {item.reason}", ((item.file, item.line),))
    for broken, codes in (
        (PART, ("part-id-differs", "part-id-too-deep")),
        (AUTHORITY, ("authority-differs",)),
        (_of_tests(context), ("test-package-differs",)),
        (PACKAGE, ("folder-differs",)),
        (CONDITION, (f"{Facet.BUNDLE_ID}-by-condition",)),
    ):
        for found in context.disagreements(*codes):
            yield Finding(broken, found.message, found.at)
    yield from _as_said(context)
    yield from _of_brands(context)


def _of_brands(context: Context) -> Iterator[Finding]:
    """Check the IDs of the brands that a tree can become: their form, and that no two are alike."""
    having: dict[tuple[str, str], list[tuple[str, Said]]] = defaultdict(list)
    for subject, flavor, brand in context.unbuilt():
        said = brand.facets.get("id")
        if said is not None:
            yield from _one(subject.platform, said.text, context.spot(said), flavor)
            having[subject.platform, said.text].append((flavor, said))
    alike: dict[tuple[str, tuple[str, ...]], Finding] = {}
    for (_, id_), brands in having.items():
        flavors = tuple(flavor for flavor, _ in brands)
        if len(brands) > 1:
            spots = tuple(spot for _, said in brands for spot in context.spot(said))
            message = f"{', '.join(flavors)} are all {id_}"
            alike.setdefault((id_, flavors), Finding(CLASH, message, tuple(dict.fromkeys(spots)), flavors[-1]))
    yield from alike.values()


def _none(subject: Subject, app: ShippedApp) -> Iterator[Finding]:
    """Say that an app has no ID, where nothing is known to give it one: at what else it is called by."""
    faults = [item for item in subject.project.unresolved if item.facet in (Facet.APPLICATION_ID, Facet.BUNDLE_ID)]
    spots = at(app.name) or at(app.version)
    if not faults and spots:
        yield Finding(NONE, f"{called(subject.platform, app.variant)} has no ID", spots, app.variant)


def _of_tests(context: Context) -> Rule:
    """Return the rule for tests in a package of their own: what a template left there does no harm."""
    left = [item.value for project in context.projects for item in project.identifiers if item.tests]
    return PACKAGE._replace(severity="note") if all(map(EXAMPLES.match, left)) else PACKAGE


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
        alike: dict[tuple[object, ...], list[Difference]] = defaultdict(list)
        itself = subject.of("") or not subject.flavors
        own = differences(subject, file.brand("", subject.platform), "") if itself else ()
        for item in (*own, *brand_differences(file, subject)):
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
