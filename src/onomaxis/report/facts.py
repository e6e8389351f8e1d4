"""What a report shows, as data: a card for each flavor with its platforms, findings, the ledger, what changed."""

from __future__ import annotations

import base64
import io
import itertools
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import NamedTuple

from onomaxis.brands.ledger import Published, published
from onomaxis.checks.context import Context, look
from onomaxis.checks.finding import SEVERITIES, Finding
from onomaxis.checks.inspection import judged
from onomaxis.flavor_names import in_order, same_flavor
from onomaxis.history.differences import Row, differences
from onomaxis.history.state import Entity, state_of
from onomaxis.history.timeline import Event
from onomaxis.icons.pixels import Picture, to_bytes
from onomaxis.icons.sheets.shown import Shown, all_shown
from onomaxis.identity.schema import COLOR
from onomaxis.model import Part, ShippedApp, Value
from onomaxis.past import checked_out
from onomaxis.platforms import PLATFORM_NAMES, PLATFORMS, STAGES
from onomaxis.projects.project import Project
from onomaxis.projects.services import GOOGLE_ANDROID, GOOGLE_IOS, ServiceFile, service_files
from onomaxis.report.drawing import Drawing, history_drawing
from onomaxis.report.release import Sheet, Span, sheet_of
from onomaxis.surveys.flavors import flavors_of
from onomaxis.surveys.halves import home_of
from onomaxis.surveys.survey import read_projects
from onomaxis.tree import Tree
from onomaxis.writing.guard import status

# The edge of an icon on a card, in pixels, and what it is drawn with: twice, for sharp screens.
ICON_EDGE = 72
_DRAWN = 144


class Said(NamedTuple):
    """One thing that is said of an app, with the place where it is written."""

    label: str
    text: str
    place: str = ""
    swatch: str = ""


class Half(NamedTuple):
    """A flavor on one platform: one shipped app. ``icon`` is a picture as a data address."""

    platform: str
    title: str
    icon: str
    facts: tuple[Said, ...]


class Card(NamedTuple):
    """One flavor (empty: the app itself) with all its apps, what its brand gives, and how many findings it has."""

    flavor: str
    name: str
    halves: tuple[Half, ...]
    values: tuple[Said, ...]
    errors: int
    warnings: int
    anchor: str = ""
    family: str = ""

    @property
    def icon(self) -> str:
        """The first of its apps' icons; empty where none has one."""
        return next((half.icon for half in self.halves if half.icon), "")


class Change(NamedTuple):
    """What apps were called at a revision, and what they are called now; empty where there was or is none.

    Of an icon ``was`` and ``now`` are its pictures. Apps of which the same is said stand together.
    """

    apps: tuple[str, ...]
    label: str
    before: str
    after: str
    was: str = ""
    now: str = ""


class Report(NamedTuple):
    """Everything that the page shows; ``state`` says which commit it is of."""

    title: str
    cards: tuple[Card, ...]
    findings: Mapping[str, tuple[Finding, ...]]
    ledger: tuple[Published, ...]
    since: str
    changes: tuple[Change, ...]
    history: Drawing | None = None
    release: Sheet | None = None
    state: str = ""


def report_of(
    tree: Tree,
    title: str = "",
    since: str = "",
    before: Tree | None = None,
    publish: bool = False,
    events: Sequence[Event] = (),
    release: Span | None = None,
) -> Report:
    """Return what a report of *tree* shows, called after its app where it has no *title*.

    *before* is the tree at *since*, *events* what the history tells. Of a *release* it is the later tree.
    """
    context = look(tree)
    found, _ = judged(context, publish=publish)
    shown = all_shown(tree, context.projects)
    by_family: dict[str, list[Finding]] = {}
    for item in sorted(found, key=lambda one: SEVERITIES.index(one.rule.severity)):
        by_family.setdefault(item.rule.family, []).append(item)
    changes = _together(_changes(before, tree, shown)) if before is not None else ()
    cards = tuple(_cards(context, shown, found))
    return Report(
        title or _app_name(context.projects) or tree.root.name,
        cards,
        {family: tuple(items) for family, items in by_family.items()},
        published(context.ledger),
        since,
        changes,
        history_drawing(events) if events else None,
        sheet_of(release, tree, found, published(context.ledger), flavors_of(context.projects))
        if release is not None
        else None,
        _state(tree) if release is None else "",
    )


def _state(tree: Tree) -> str:
    """Return which commit a tree is of, and whether its files are others by now; empty without git."""
    commit = checked_out(tree.root)
    return (
        f"{commit} and changes that are not committed" if commit and status(tree.root, tree.files).dirty else commit
    )


def _app_name(projects: Sequence[Project]) -> str:
    """Return the name of the app without a flavor; empty where none is stated, or several differ."""
    plain = (app.name for project in projects for app in (*project.brands(), *project.apps) if not app.flavor)
    names = {name.text for name in plain if name is not None}
    return names.pop() if len(names) == 1 else ""


def _cards(context: Context, shown: Sequence[Shown], found: Sequence[Finding]) -> Iterator[Card]:
    """Yield a card for each flavor of each app; combinations stand with the flavor that they hold."""
    families: dict[str, list[tuple[Project, ShippedApp]]] = {}
    services: dict[object, tuple[ServiceFile, ...]] = {}
    for project in context.projects:
        family = home_of(context.projects, project)
        name = GOOGLE_ANDROID if project.platform == "android" else GOOGLE_IOS
        services[project.key] = tuple(service_files(context.tree, name, project.folder))
        families.setdefault(family, []).extend((project, app) for app in project.apps)
    taken: set[str] = set()
    standing = context.file.standing if context.file is not None else ""
    for family, apps in families.items():
        for built, mine in _joined(apps).items():
            flavor = built or standing
            halves = tuple(_half(project, app, shown, services[project.key]) for project, app in mine)
            name = next((app.name.text for _, app in mine if app.name), "")
            names = {
                flavor.casefold(),
                *(name.casefold() for _, app in mine for name in (app.flavor, app.variant)),
            } - {""}
            own = [item for item in found if item.flavor.casefold() in names and _of_family(item, family)]
            errors, warnings = (sum(item.rule.severity == kind for item in own) for kind in ("error", "warning"))
            place = anchor(flavor if anchor(flavor) not in taken else f"{flavor or 'app'}-{family}")
            taken.add(place)
            yield Card(flavor, name, halves, tuple(_values(context, flavor)), errors, warnings, place, family)


_Apps = list[tuple[Project, ShippedApp]]


def _joined(apps: _Apps) -> dict[str, _Apps]:
    """Return the apps by the flavor that all platforms know: ``alderbankPlus`` stands with ``alderbank``."""
    platforms: dict[str, list[Project]] = {}
    for project, _ in apps:
        platforms.setdefault(project.platform, []).append(project)
    known = flavors_of([project for some in platforms.values() for project in some])
    told = [flavors_of(some).by_fold.keys() for some in platforms.values()]
    shared = set.intersection(*(set(names) for names in told if names)) if any(told) else set[str]()
    joined: dict[str, _Apps] = {}
    for project, app in apps:
        parts = in_order(app.variant, known)
        brands = [name for name in parts if name.casefold() not in STAGES] or parts
        name = next((name for name in brands if name.casefold() in shared), next(iter(brands), app.flavor))
        joined.setdefault(known.by_fold.get(name.casefold(), name), []).append((project, app))
    return joined


def _of_family(item: Finding, family: str) -> bool:
    return not family or any(file.startswith(f"{family}/") for file, _ in item.at)


def anchor(flavor: str) -> str:
    """Return a flavor's place in the page: ``flavor-NAME``; what an address cannot hold is a hyphen."""
    return "flavor-" + (re.sub(r"[^\w.-]+", "-", flavor) or "app")


def _half(project: Project, app: ShippedApp, shown: Sequence[Shown], services: Sequence[ServiceFile]) -> Half:
    mine = (item for item in shown if item.platform == project.platform)
    icon = next((item for item in mine if same_flavor(item.flavor, app.variant)), None)
    picture = icon.draw("plain", _DRAWN) if icon is not None else None
    title = _whose(app)
    return Half(app.platform, title, _address(picture), tuple(_facts(app, services)))


def _facts(app: ShippedApp, services: Sequence[ServiceFile]) -> Iterator[Said]:
    values: list[tuple[str, Value | None]] = [("ID", app.id), ("name", app.name)]
    values += [(f"name ({locale})", value) for locale, value in app.names]
    values += [("version", app.version), ("build", app.build)]
    for label, value in values:
        yield Said(label, value.text if value else "not stated", value.origin.at if value else "")
    for part in app.parts:
        yield Said(f"{part.kind} {part.target}", _part(part), part.id.origin.at if part.id else "")
    if app.signing is not None and (app.signing.team or app.signing.profile):
        signed = ", ".join(filter(None, (app.signing.team, app.signing.profile)))
        yield Said("signed by", signed, app.signing.place.at if app.signing.place else "")
    known = (
        (file, entry) for file in services for entry in file.apps if app.id is not None and entry.id == app.id.text
    )
    for file, entry in itertools.islice(known, 1):
        yield Said("service file", file.project or "known", f"{file.path}:{entry.line}")


def _part(part: Part) -> str:
    version = part.version.text if part.version else "?"
    return f"{part.id.text if part.id else 'no ID'} {version} ({part.build.text if part.build else '?'})"


def _values(context: Context, flavor: str) -> Iterator[Said]:
    """Yield what the identity file gives a flavor beside its identity, colours with a swatch; no secret is shown."""
    file = context.file
    known = {name.casefold(): name for name in file.flavors} if file is not None else {}
    if file is None or (flavor and flavor.casefold() not in known):
        return
    secret = {item.name for item in file.values if item.secret}
    told: set[str] = set()
    for platform in PLATFORMS:
        brand = file.brand(known.get(flavor.casefold(), ""), platform)
        for name, said in brand.values.items():
            if name not in told:
                told.add(name)
                text = "a secret" if name in secret else said.text
                swatch = _css(said.text) if COLOR.match(said.text) and name not in secret else ""
                yield Said(name, text, f"{file.home(said.line)}:{said.line}", swatch)
        for host in brand.hosts:
            if host.text not in told:
                told.add(host.text)
                yield Said("opens links of", host.text, f"{file.home(host.line)}:{host.line}")


def _css(color: str) -> str:
    """Return a colour as a page writes it: platforms write the alpha in front."""
    digits = color[1:]
    return (
        f"#{digits[2:]}{digits[:2]}"
        if len(digits) == 8
        else f"#{digits[1:]}{digits[0]}"
        if len(digits) == 4
        else color
    )


def _address(picture: Picture | None) -> str:
    """Return a picture as a data address, so that the page needs nothing beside itself."""
    if picture is None:
        return ""
    from PIL import Image

    out = io.BytesIO()
    Image.fromarray(to_bytes(picture)).save(out, "PNG", optimize=True)
    return "data:image/png;base64," + base64.b64encode(out.getvalue()).decode("ascii")


def _changes(before: Tree, tree: Tree, shown: Sequence[Shown]) -> Iterator[Change]:
    """Yield what apps are called otherwise than at a revision, those that came and went among them."""
    found = differences(state_of(before), state_of(tree))
    then = all_shown(before, read_projects(before)) if any(row.facet == "icon" for row in found.rows) else ()
    for row in found.rows:
        app = _whose(row)
        texts = ["••••" if row.secret else text or "" for text in (row.before, row.after)]
        if row.facet == "icon":
            pictures = [_icon_of(items, row.platform, row.flavor) for items in (then, shown)]
            yield Change((app,), "icon", "", "", *pictures)
        else:
            yield Change((app,), "ID" if row.facet == "id" else row.facet, *texts)
    for item in found.added:
        yield Change((_whose(item),), "comes", "", item.id)
    for item in found.retired:
        yield Change((_whose(item),), "goes", item.id, "")


def _together(changes: Iterable[Change]) -> tuple[Change, ...]:
    """Return one change for all apps of which the same is said, where the first of them stood."""
    apps: dict[Change, list[str]] = {}
    for item in changes:
        apps.setdefault(item._replace(apps=()), []).extend(item.apps)
    return tuple(item._replace(apps=tuple(names)) for item, names in apps.items())


def _whose(item: Row | Entity | ShippedApp) -> str:
    return " ".join(filter(None, (PLATFORM_NAMES.get(item.platform, item.platform), item.module, item.flavor)))


def _icon_of(shown: Sequence[Shown], platform: str, flavor: str) -> str:
    """Return an app's icon as an address for an image; the app's own where a flavor has none."""
    mine = [item for item in shown if item.platform == platform]
    icon = next((item for item in mine if same_flavor(item.flavor, flavor)), None)
    icon = icon or next((item for item in mine if not item.flavor), None)
    picture = icon.draw("plain", _DRAWN) if icon is not None else None
    return _address(picture)
