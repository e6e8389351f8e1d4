"""Rules about flavors: the same on every platform, apart from each other, nothing of one in the files of another."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator

from onomaxis.brands.missing_flavors import missing_flavors
from onomaxis.brands.odd_configurations import strays
from onomaxis.brands.odd_values import stray_values
from onomaxis.brands.subjects import Subject
from onomaxis.checks.context import Context, at, called, in_a_row
from onomaxis.checks.finding import Finding, rule
from onomaxis.checks.registry import check
from onomaxis.errors import FormatError
from onomaxis.flavor_names import made_of
from onomaxis.formats.source import Source, flat
from onomaxis.icons.standing import has_own_icon, names_own_set
from onomaxis.identity.file import IdentityFile, Said
from onomaxis.model import ShippedApp
from onomaxis.needles import Needles
from onomaxis.projects.occurrences import occurrences
from onomaxis.surveys.survey import kind_of, own_files
from onomaxis.tree import Tree

HOLE = rule("FLAVOR01")
UNLISTED = rule("FLAVOR02")
ICONS = rule("FLAVOR03")
FOREIGN = rule("FLAVOR04")
SCHEME = rule("FLAVOR05")
ALIKE = rule("FLAVOR06")
DEFAULT_ICON = rule("FLAVOR07")
STRAY_ID = rule("FLAVOR08")
STRAY = rule("FLAVOR09")


@check(STRAY_ID, STRAY)
def in_line(context: Context) -> Iterator[Finding]:
    """Compare every configuration with the one that ships, and with those of the other flavors."""
    for subject in context.subjects:
        spoken = _spoken(context, subject)
        values = stray_values(context.tree, spoken, subject) if spoken is not None else ()
        for item in (*(stray for stray in strays(subject, spoken) if stray.key != "icon"), *values):
            rule = STRAY_ID if item.key == "id" else STRAY
            yield Finding(rule, item.said, at(item.value, item.beside), item.flavor)


def _spoken(context: Context, subject: Subject) -> IdentityFile | None:
    """Return the identity file where it speaks of an app."""
    named = {(item.project.key, item.module) for item in context.named}
    return context.file if (subject.project.key, subject.module) in named else None


@check(HOLE, UNLISTED)
def listed(context: Context) -> Iterator[Finding]:
    """Compare the flavors of the builds with those that the identity file speaks of."""
    file = context.file
    if file is None:
        return
    for flavor, subject in missing_flavors(context.tree, file, context.named):
        line, said = file.line("flavors", flavor), f"{called(subject.platform, '')} has no flavor {flavor}"
        yield Finding(HOLE, said, ((file.home(line), line),), flavor)
    for subject in (item for item in context.named if item.flavors):
        dimensions = kind_of(subject.project).dimensions(subject.project, context.tree, subject.module)
        spoken = {dimensions.get(flavor, "") for flavor in subject.flavors if file.lists(flavor)}
        for flavor in subject.flavors:
            if spoken and dimensions.get(flavor, "") not in spoken:
                continue  # the file speaks of brands, and this one is an environment, or a tier
            listed = any(file.lists(name) for name in (flavor, *made_of(flavor, subject.singles)))
            if not listed and file.flavors:
                value = subject.value(flavor, "id")
                said = f"{called(subject.platform, flavor)}: {file.path} has no [flavors.{flavor}]"
                yield Finding(UNLISTED, said, at(value) or ((file.path, 1),), flavor)


@check(ALIKE)
def alike(context: Context) -> Iterator[Finding]:
    """Compare the names of flavors that differ in their ID."""
    for subject in context.subjects:
        yield from _alike(subject)
    called_so: dict[tuple[str, str], list[tuple[str, Said]]] = defaultdict(list)
    for subject, flavor, brand in context.unbuilt():
        if "name" in brand.facets:
            called_so[subject.platform, brand.facets["name"].text].append((flavor, brand.facets["name"]))
    for (_, name), brands in called_so.items():
        if len(brands) > 1:
            spots = tuple(dict.fromkeys(spot for _, said in brands for spot in context.spot(said)))
            listed = in_a_row([flavor for flavor, _ in brands])
            yield Finding(ALIKE, f"{listed} are all called “{name}”", spots, brands[-1][0])


def _alike(subject: Subject) -> Iterator[Finding]:
    by_name: dict[str, list[ShippedApp]] = defaultdict(list)
    for app in subject.apps:
        if app.flavor and app.name and app.id:
            by_name[app.name.text].append(app)
    for name, apps in by_name.items():
        ids = {app.id.text: app for app in apps if app.id}
        related = [id_ for id_ in ids if any(other != id_ and id_.startswith(f"{other}.") for other in ids)]
        if len(ids) - len(related) > 1:
            *_, last = ids.values()
            first = next(iter(ids.values()))
            said = f"{', '.join(app.flavor for app in ids.values())} are all called “{name}”"
            yield Finding(ALIKE, said, at(first.name, last.name), last.flavor)


@check(FOREIGN)
def foreign(context: Context) -> Iterator[Finding]:
    """Search the files of a flavor's own for what other flavors are called by."""
    for subject in context.subjects:
        yield from _foreign(context, subject)


def _foreign(context: Context, subject: Subject) -> Iterator[Finding]:
    ids = {flavor: value.text for flavor in subject.flavors if (value := subject.value(flavor, "id"))}
    sought = Needles([id_.encode() for id_ in ids.values()])
    by_id: dict[str, str] = {}
    for name, id_ in ids.items():
        by_id.setdefault(id_, name)
    for flavor, paths in _own_files(context.tree, subject, ids).items():
        # What begins with the flavor's own ID is its own; the app's ID is a part of every suffixed one.
        mine = ids[flavor]
        for path in paths:
            data = context.tree.read(path) or b""
            there = {found.decode() for _, found in sought.places(flat(data))}
            others = {id_: by_id[id_] for id_ in sorted(there) if by_id[id_] != flavor and not mine.startswith(id_)}
            if not others:
                continue
            try:
                source = Source.read(data)
                hits = occurrences(path, source, (*others, mine), ())
            except FormatError:
                continue
            for hit in hits:
                id_ = hit.identifier
                if id_ not in others:
                    continue
                said = f"{path.rpartition('/')[2]} of {flavor} bears {id_}, the ID of {others[id_]}"
                yield Finding(FOREIGN, said, ((path, source.line(hit.start)),), flavor)


def _own_files(tree: Tree, subject: Subject, flavors: Iterable[str]) -> dict[str, list[str]]:
    """Return the files that are a flavor's own by where they lie, or by what they are called."""
    found: dict[str, list[str]] = {flavor: [] for flavor in flavors}
    own = own_files(tree)
    for path in (item for item in tree.below(subject.project.folder) if item not in own):
        parts = path.split("/")
        if subject.platform == "android":
            named = {parts[at + 1] for at in range(len(parts) - 2) if parts[at] == "src"}
        else:
            last = parts[-1]
            named = {*parts[:-1], last.removesuffix(".xcconfig") if last.endswith(".xcconfig") else ""}
        for name in named:
            if name in found:
                found[name].append(path)
    return found


@check(ICONS)
def icons_named(context: Context) -> Iterator[Finding]:
    """Compare the icon sets that the configurations of one flavor name."""
    for subject in context.subjects:
        if subject.platform == "ios":
            yield from _icons(subject, _spoken(context, subject))


def _icons(subject: Subject, file: IdentityFile | None) -> Iterator[Finding]:
    for item in strays(subject, file):
        if item.key == "icon" and item.wanted:
            said = f"{item.configuration} shows {item.value.text}, not {item.wanted}"
            yield Finding(ICONS, said, at(item.value, item.beside), item.flavor)
    for flavor in subject.flavors:
        archived, *others = subject.of(flavor)
        for app in others:
            if (app.icon is None) != (archived.icon is None):
                named = app.icon or archived.icon
                having, lacking = (app, archived) if app.icon else (archived, app)
                said = f"{having.configuration} shows {named.text if named else ''}, {lacking.configuration} none"
                yield Finding(ICONS, said, at(named), flavor)


@check(SCHEME)
def archived(context: Context) -> Iterator[Finding]:
    """Look for a shared scheme that archives each flavor."""
    for subject in context.subjects:
        if subject.platform == "ios":
            yield from _schemes(context, subject)


def _schemes(context: Context, subject: Subject) -> Iterator[Finding]:
    inside = f"{subject.project.folder}/" if subject.project.folder else ""
    texts = [
        (context.tree.read(path) or b"").decode("utf-8", "replace")
        for path in context.tree.files
        if path.endswith(".xcscheme") and path.startswith(inside)
    ]
    lacking = []
    for flavor in subject.flavors if texts else ():
        names = {app.configuration for app in subject.of(flavor)}
        if not any(f'"{name}"' in text.partition("<ArchiveAction")[2] for text in texts for name in names):
            lacking.append(flavor)
    for flavor in lacking if len(lacking) * 2 <= len(subject.flavors) else ():  # else they are built otherwise
        said = f"{called('ios', flavor)}: no shared scheme archives {subject.of(flavor)[0].configuration}"
        yield Finding(SCHEME, said, at(subject.value(flavor, "id")), flavor)


@check(DEFAULT_ICON)
def own_icons(context: Context) -> Iterator[Finding]:
    """Yield flavors without an icon of their own, where others that vary the same have one."""
    homes = [home for project in context.projects for home in project.icons if home.flavor]
    own = {
        (home.platform, home.flavor.casefold())
        for home in homes
        if names_own_set(home) or has_own_icon(context.tree, home)
    }
    for subject in context.named or context.subjects:
        varied = kind_of(subject.project).dimensions(subject.project, context.tree, subject.module)
        own |= {(platform, name.casefold()) for platform, flavor in own for name in subject.combinations(flavor)}
        having: dict[str, str] = {}  # by dimension, the first that has one
        for flavor in subject.flavors:
            if (subject.platform, flavor.casefold()) in own:
                having.setdefault(varied.get(flavor, ""), flavor)
        for flavor in subject.flavors if having else ():
            other = having.get(varied.get(flavor, ""))
            if other is None or (subject.platform, flavor.casefold()) in own:
                continue
            listed = context.file is None or context.file.named(flavor) in context.file.flavors
            ids = subject.value(flavor, "id")
            itself = subject.stands_alone and ids is not None and ids.text == subject.text("", "id")
            if listed and ids and not itself:
                said = f"{called(subject.platform, flavor)} has no icon of its own, {other} has"
                yield Finding(DEFAULT_ICON, said, at(ids), flavor)
