"""Rules about one app on several platforms: links that open it, and what further platforms and pages call it."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from onomaxis import late
from onomaxis.brands.subjects import Subject, elsewhere
from onomaxis.checks.context import Context, called
from onomaxis.checks.finding import Finding, Rule, rule
from onomaxis.checks.registry import check
from onomaxis.flavor_names import same_flavor
from onomaxis.model import Facet
from onomaxis.needles import Needles
from onomaxis.platforms import PLATFORM_NAMES, PLATFORMS
from onomaxis.projects.project import Fact, Project, base_id
from onomaxis.surveys.halves import umbrella_of
from onomaxis.surveys.survey import kind_of

SCHEMES = rule("PLATFORM01")
HOSTS = rule("PLATFORM02")
TWICE = rule("PLATFORM03")
AMONG = rule("PLATFORM04")
ELSEWHERE = rule("PLATFORM05")

# Schemes that the web, the system or a login SDK has; they belong to one platform or to a service.
_OTHERS = late.compile(
    r"https?|file|content|mailto|tel|geo|market|[a-z]{1,30}\d{4,40}|com\.googleusercontent\..*|msauth.*|exp\+.*|\$.*|.*[{(].*",
    re.IGNORECASE,
)


@check(SCHEMES, HOSTS)
def links(context: Context) -> Iterator[Finding]:
    """Compare what opens an app on its platforms."""
    for android, ios in _pairs(context):
        ids = Needles({app.id.text.casefold() for app in (*android.brands, *ios.brands) if app.id})
        for flavor in _both(context, android, ios):
            left, right = context.facts(android, flavor), context.facts(ios, flavor)
            schemes = [
                [f for f in facts.schemes if not _OTHERS.fullmatch(f.text) and not ids.within(f.text.casefold())]
                for facts in (left, right)
            ]
            yield from _unlike(SCHEMES, "scheme", schemes, flavor)
            hosts = [[f for f in facts.hosts if "." in f.text and "$" not in f.text] for facts in (left, right)]
            yield from _unlike(HOSTS, "host", hosts, flavor)


def _unlike(rule: Rule, what: str, sides: Sequence[Sequence[Fact]], flavor: str) -> Iterator[Finding]:
    """Say what one side declares and the other does not, where both declare any."""
    texts = [{fact.text.casefold() for fact in side} for side in sides]
    for number, platform in enumerate(PLATFORMS):
        other = texts[1 - number]
        told: set[str] = set()
        for fact in sides[number] if other else ():
            text = fact.text.casefold()
            if text not in other and text not in told and not _covered(text, other):
                told.add(text)
                beside = sides[1 - number][0]
                where = PLATFORM_NAMES["ios" if platform == "android" else "android"]
                said = f"{called(platform, flavor)}: {what} {fact.text}; {where} has {beside.text}"
                own = flavor if flavor and flavor.casefold() in fact.file.casefold() else ""
                yield Finding(rule, said, ((fact.file, fact.line), (beside.file, beside.line)), own)


def _covered(text: str, others: set[str]) -> bool:
    """Tell whether one side says with a wildcard what the other spells out."""
    return any(
        text.endswith(item.removeprefix("*"))
        if item.startswith("*")
        else item.endswith(text.removeprefix("*")) and text.startswith("*")
        for item in others
    )


def _pairs(context: Context) -> Iterator[tuple[Subject, Subject]]:
    """Yield the Android and the iOS half of each app."""
    halves: dict[object, dict[str, list[Subject]]] = defaultdict(lambda: defaultdict(list))
    for subject in context.subjects:
        if all(app.platform != subject.platform for app in subject.brands):
            continue  # a desktop's or a television's app
        above = umbrella_of(context.projects, subject.project)
        halves[above.key if above else None][subject.platform].append(subject)
    for sides in halves.values():
        if all(len(sides[platform]) == 1 for platform in PLATFORMS):
            yield sides["android"][0], sides["ios"][0]


def _both(context: Context, android: Subject, ios: Subject) -> Iterator[str]:
    """Yield the flavors that both halves ship; the app itself where neither has any."""
    for flavor in context.flavored(ios):
        if any(same_flavor(flavor, other) for other in context.flavored(android)):
            yield flavor


@check(TWICE)
def stated_twice(context: Context) -> Iterator[Finding]:
    """Compare what a framework's file states with what its halves state."""
    for found in context.disagreements("framework-id-differs"):
        yield Finding(TWICE, found.message, found.at, found.flavor)


@check(ELSEWHERE)
def named_elsewhere(context: Context) -> Iterator[Finding]:
    """Tell of apps that the identity file names, and that are not here."""
    for note in elsewhere(context.file, context.projects) if context.file is not None else ():
        yield Finding(ELSEWHERE, note.text, ((note.file, note.line),))


class _Said(NamedTuple):
    """What one place calls an app."""

    text: str
    file: str
    line: int


@check(AMONG)
def among_all(context: Context) -> Iterator[Finding]:
    """Compare what all platforms, files and pages of one framework's project call the app."""
    seen: set[tuple[str, str]] = set()
    told = {item.at[0] for item in context.disagreements("framework-id-differs", "framework-name-differs")}
    for above in context.projects:
        kind = kind_of(above)
        if above.kind in PLATFORMS or (above.kind, above.folder) in seen:
            continue
        seen.add((above.kind, above.folder))
        kin = [item for item in context.projects if (item.kind, item.folder) == (above.kind, above.folder)]
        halves = [item for item in context.projects if not item.umbrella]
        parts = [item for item in halves if umbrella_of(context.projects, item) is above] or kin
        copies = kind.statements(above, context.tree)
        more = [(facet, _Said(value.text, value.origin.file, value.origin.line)) for facet, value in copies]
        for what, facets, found in (("ID", _ID_FACETS, _ids(parts)), ("name", (Facet.DISPLAY_NAME,), _names(parts))):
            stated = [item for one in kin for item in _stated(one, *facets)]
            said = [*found, *stated, *(item for facet, item in more if facet in facets)]
            odd = _odd(what, list(dict.fromkeys(said)))
            yield from (finding for finding in odd if finding.at[0] not in told)


_ID_FACETS = (Facet.APPLICATION_ID, Facet.BUNDLE_ID)


def _ids(parts: Sequence[Project]) -> Iterator[_Said]:
    for part in parts:
        alone = part.platform != "ios" or any(not app.flavor for app in part.apps)
        for app in part.apps[:1] if alone else ():  # else there are the flavors' own IDs and no other
            base = base_id(part, app)
            own = next((o.place for o in part.owners if o.value == base and o.facet in _ID_FACETS), None)
            if base and own is not None:
                yield _Said(base, own.file, own.line)


def _names(parts: Sequence[Project]) -> Iterator[_Said]:
    for part in parts:
        plain = next((app.name for app in part.apps if not app.flavor and app.name), None)
        main = next(
            (o for o in part.owners if o.facet is Facet.DISPLAY_NAME and not (o.scope.flavor or o.scope.locale)), None
        )
        if plain is not None:
            yield _Said(plain.text, plain.origin.file, plain.origin.line)
        elif main is not None:
            yield _Said(main.value, main.place.file, main.place.line)


def _stated(above: Project, *facets: Facet) -> Iterator[_Said]:
    full = {(owner.facet, owner.place.file) for owner in above.owners if owner.compared}
    for owner in above.owners:
        short = not owner.compared and (owner.facet, owner.place.file) in full  # beside the whole name, in one file
        if owner.facet in facets and not short and not owner.scope.flavor and not owner.scope.locale:
            yield _Said(owner.value, owner.place.file, owner.place.line)


def _odd(what: str, said: Sequence[_Said]) -> Iterator[Finding]:
    """Yield the places that stand alone against all others, of which there are two at least.

    Names that differ in case and separators alone are the same here: each platform's templates have their own way.
    """
    counted = Counter(_plain(item.text) for item in said)
    (most, number), *_ = counted.most_common(1) or [("", 0)]
    if number < 2 or number * 3 < len(said) * 2:
        return
    for item in said:
        short = what == "name" and _plain(item.text) in most  # a short name
        if _plain(item.text) != most and not short:
            beside = next(other for other in said if _plain(other.text) == most)
            message = f"the {what} is {item.text} here, {beside.text} in {number} other places"
            yield Finding(AMONG, message, ((item.file, item.line), (beside.file, beside.line)))


def _plain(text: str) -> str:
    return "".join(char for char in text.casefold() if char.isalnum())
