"""The survey: one table of shipped apps over all projects of a tree, every mention, what disagrees."""

from __future__ import annotations

import sys
from bisect import bisect_right
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence, Set
from dataclasses import dataclass, replace
from functools import cached_property
from typing import NamedTuple

from onomaxis.errors import FormatError, InputError
from onomaxis.formats.escapes import encode
from onomaxis.formats.source import Source, flat
from onomaxis.identity.schema import LEDGER, NAME
from onomaxis.model import UNMERGED, WHOLE_FILE, Disagreement, Facet, Mention, Role, ShippedApp, Unresolved, Value
from onomaxis.projects import kind_named, kinds_in
from onomaxis.projects.kind import Kind
from onomaxis.projects.occurrences import FORMS, occurrences
from onomaxis.projects.ownership import is_service_file, prose
from onomaxis.projects.project import (
    EVERY,
    Occurrence,
    Project,
    Targets,
    apps_meant,
    base_id,
    place,
    together,
    unread,
)
from onomaxis.surveys.beside import Beside
from onomaxis.surveys.halves import across, umbrella_of
from onomaxis.surveys.variants import Variant, variants_of, with_flavors_told
from onomaxis.tree import Tree
from onomaxis.workers import halved

# Files of Onomaxis' own: no command but the one that each is for writes them.
OWN_FILES = {
    NAME: "the identity file says so: change it there too, or onomaxis adopt --again",
    LEDGER: "the ledger keeps what was published",
}
# A shorter display name is too common in text to be searched for.
SHORTEST_NAME = 3


def own_files(tree: Tree) -> Mapping[str, str]:
    """Return the files of Onomaxis' own, those with brands among them, with what is said of each."""
    return tree.kept("own files", lambda: {**OWN_FILES, **dict.fromkeys(_of_brands(tree), OWN_FILES[NAME])})


def _of_brands(tree: Tree) -> set[str]:
    """Return the files of brands that the identity file includes; what of it is not right is told elsewhere."""
    if not tree.exists(NAME):
        return set()
    from onomaxis.identity.gathering import files_named

    return files_named(NAME, tree.read(NAME) or b"", Beside(tree)) - {NAME}


def written_forms(identifier: str) -> tuple[str, ...]:
    """Return the other forms an identifier takes in text: as a path and as part of a native symbol."""
    if "." not in identifier:
        return ()
    forms = (encode("slashed", identifier), encode("jni", identifier), identifier.replace(".", "_"))
    return tuple(dict.fromkeys(forms))


@dataclass(frozen=True)
class Survey:
    """Everything found in one tree; ``held`` are the files that hold an identifier or a name in any form."""

    tree: Tree
    projects: tuple[Project, ...]
    mentions: tuple[Mention, ...]
    disagreements: tuple[Disagreement, ...]
    unresolved: tuple[Unresolved, ...]
    held: frozenset[str] = frozenset()

    @cached_property
    def apps(self) -> tuple[ShippedApp, ...]:
        """The shipped apps of all projects."""
        return tuple(app for project in self.projects for app in project.apps)

    @cached_property
    def variants(self) -> tuple[Variant, ...]:
        """What each of the apps is built as, in their order; apps of one ``key`` are one on all platforms."""
        return tuple(variants_of(self.projects, self.tree))

    @property
    def kinds(self) -> tuple[str, ...]:
        """The kinds of project found."""
        return tuple(dict.fromkeys(project.kind for project in self.projects))


def kind_of(project: Project) -> Kind:
    """Return the kind that reads *project*."""
    return kind_named(project.kind)


# Why a value is not told where no place says it at all.
UNSTATED = "nothing here states it"


def unstated(projects: Iterable[Project]) -> Iterator[Unresolved]:
    """Yield the facets of apps that are not told, where their project says nothing else of them."""
    for project in projects:
        known = {str(item.facet) for item in project.unresolved}
        for app in project.apps:
            told = (
                (Facet.BUNDLE_ID if app.platform == "ios" else Facet.APPLICATION_ID, app.id),
                (Facet.DISPLAY_NAME, app.name),
                (Facet.VERSION_NAME, app.version),
                (Facet.VERSION_CODE, app.build),
                (Facet.ICON, app.icon),
            )
            for facet in (facet for facet, value in told if value is None and str(facet) not in known):
                known.add(str(facet))
                yield Unresolved(facet, project.folder or ".", 1, "", UNSTATED, False)


def take_survey(tree: Tree, app: str = "", targets: Targets = (), within: Iterable[str] | None = None) -> Survey:
    """Find every project in *tree* and every mention of what they are called.

    *within* are the only files that are searched, where it is known that no other can hold one. *app* names the
    module or target that counts as this app where a repository holds several: identifiers of the others that begin
    with its own are theirs.

    Raises InputError when there is no project of a known kind.
    """
    found = some_projects(tree, app, targets)
    identifiers = {item.value for project in found for item in project.identifiers if item.value}
    if within is None:
        held = dict(tree.holding({*_forms(identifiers), *_shown_names(found)}))
    else:
        held = {path: data for path in within if (data := tree.read(path)) is not None}
    projects = tuple(kind_of(project).index(project, held) for project in found)
    mentions, faults = _mentions(projects, held, identifiers, own_files(tree))
    unreadable = [
        Unresolved(UNMERGED if path in tree.unmerged else WHOLE_FILE, path, tree.unmerged.get(path, 1), "", why)
        for path, why in sorted(tree.unreadable.items())
    ]
    unresolved = [*(item for project in projects for item in project.unresolved), *faults, *unreadable]
    disagreements = [*(item for project in projects for item in project.disagreements), *across(projects)]
    return Survey(
        tree,
        projects,
        mentions,
        tuple(dict.fromkeys(disagreements)),
        tuple(dict.fromkeys(unresolved)),
        frozenset(held),
    )


def some_projects(tree: Tree, app: str = "", targets: Targets = ()) -> list[Project]:
    """Return every project of a known kind. Raises InputError when there is none."""
    found = read_projects(tree, app, targets)
    if not found:
        raise InputError(
            "no project of a known kind was found here",
            file=str(tree.root),
            remedy="Give the folder of a build.gradle(.kts), an .xcodeproj or a framework's file, or one above it."
            + "".join(
                f"\n  {path}:{tree.unmerged.get(path, 1)}: {why}" for path, why in sorted(tree.unreadable.items())
            ),
        )
    return found


def _forms(identifiers: set[str]) -> set[str]:
    return identifiers | {form for value in identifiers for form in written_forms(value)}


def _shown_names(projects: Sequence[Project]) -> set[str]:
    """Return the display names that are long enough to be searched for."""
    names = {app.name.text for project in projects for app in project.apps if app.name}
    return {name for name in names if len(name) >= SHORTEST_NAME}


def read_projects(tree: Tree, app: str = "", targets: Targets = ()) -> list[Project]:
    """Return every project of a known kind, with what its own files say; no other file is read."""
    found = tree.kept("projects", lambda: [project for kind in kinds_in(tree) for project in kind.find(tree)])
    return _with_umbrellas(_with_foreign(with_flavors_told(found, tree), app, targets))


def _with_foreign(projects: Sequence[Project], app: str, targets: Targets) -> list[Project]:
    """Tell each project which longer identifiers below its own belong to another project or app module."""
    result = []
    for project in projects:
        own = [app for app in project.apps if app.id]
        named = apps_meant(project, app, targets)
        modules = {app.module for app in named} or {app.module for app in (*own, *project.apps)[:1]}
        modules = together(project, modules)
        mine = {app.id.text for app in own if app.module in modules and app.id}
        mine |= {base_id(project, app) for app in project.apps if app.module in modules}
        others = _identifiers(project, {app.module for app in own if app.module not in modules})
        for other in projects:
            if other is not project and other.platform == project.platform and not other.umbrella:
                others |= _identifiers(other, {app.module for app in other.apps})
        below = {text for text in others - mine if any(text.startswith(base + ".") for base in mine if base)}
        foreign = tuple(sorted(below))
        result.append(replace(project, foreign=foreign))
    return result


def _identifiers(project: Project, modules: Set[str]) -> set[str]:
    """Return what apps of a project are called: the IDs of every flavor, the ID they share, their code packages."""
    apps = [app for app in project.apps if app.module in modules]
    found = {app.id.text for app in apps if app.id} | {base_id(project, app) for app in apps}
    return found | {i.value for i in project.identifiers if i.module in modules and i.value and not i.tests}


def _with_umbrellas(projects: Sequence[Project]) -> list[Project]:
    """Give each framework's project the identifiers of what it stands over, and compare what it repeats with them."""
    found = []
    for project in projects:
        if project.umbrella:
            parts = [item for item in projects if not item.umbrella and umbrella_of(projects, item) is project]
            identifiers = tuple(dict.fromkeys(i for part in parts for i in part.identifiers if i.facet in _ID_FACETS))
            foreign = tuple(dict.fromkeys(text for part in parts for text in part.foreign))
            differences = (*project.disagreements, *_repeated(project, parts))
            project = replace(project, identifiers=identifiers, foreign=foreign, disagreements=differences)
        found.append(project)
    return found


_ID_FACETS = (Facet.APPLICATION_ID, Facet.BUNDLE_ID, Facet.CODE_PACKAGE)
_REPEATED = {
    Facet.APPLICATION_ID: ("framework-id-differs", "ID"),
    Facet.BUNDLE_ID: ("framework-id-differs", "ID"),
    Facet.DISPLAY_NAME: ("framework-name-differs", "display name"),
    Facet.VERSION_NAME: ("framework-version-differs", "version"),
    Facet.VERSION_CODE: ("framework-build-differs", "build number"),
}


def _repeated(project: Project, parts: Sequence[Project]) -> list[Disagreement]:
    """Name what a framework's file says otherwise than the native half that ships."""
    found = []
    flavored = any(owner.scope.flavor for owner in project.owners)
    called = [
        {app.flavor.casefold(): app for app in (*(part.brands() if flavored else ()), *part.apps)[::-1]}
        for part in parts
    ]
    for owner in project.owners:
        flavor = owner.scope.flavor
        if owner.facet not in _REPEATED or not owner.compared:
            continue
        if owner.role is Role.FOLLOWER and any(owner.value in _called(part) for part in parts):
            continue
        code, label = _REPEATED[owner.facet]
        unlike: dict[str, list[tuple[str, Value]]] = defaultdict(list)
        for part, apps in zip(parts, called, strict=True):
            app = apps.get(flavor.casefold())
            if app is None or owner.scope.platform not in (EVERY, part.platform) or app.platform != part.platform:
                continue
            value = {
                Facet.DISPLAY_NAME: app.name,
                Facet.VERSION_NAME: app.version,
                Facet.VERSION_CODE: app.build,
            }.get(owner.facet, app.id)
            if value and value.text != owner.value and (value.origin.file, value.origin.start) != _spot(owner):
                unlike[value.text].append((part.platform, value))
        for text, halves in unlike.items():
            where = " and ".join(dict.fromkeys(platform for platform, _ in halves))
            of = f" of {flavor}" if flavor else ""
            message = f"the {label}{of} is {owner.value} in the {project.kind} file, {text} on {where}"
            spots = dict.fromkeys((value.origin.file, value.origin.line) for _, value in halves)
            found.append(Disagreement(code, message, ((owner.place.file, owner.place.line), *spots), flavor))
    return found


def _called(part: Project) -> set[str]:
    """Return everything that the apps of a project are called, whatever facet it is."""
    values = (value for app in part.apps for value in (app.id, app.name, app.version, app.build))
    return {value.text for value in values if value}


def _spot(owner: Mention) -> tuple[str, int]:
    return owner.place.file, owner.place.start


def _mentions(
    projects: Sequence[Project], held: dict[str, bytes], identifiers: set[str], own: Mapping[str, str]
) -> tuple[tuple[Mention, ...], list[Unresolved]]:
    """Merge the owners of all projects with every occurrence of an identifier in any text file."""
    owners = [owner for project in projects for owner in project.owners]
    owned: dict[str, list[tuple[int, int]]] = defaultdict(list)
    for owner in owners:
        owned[owner.place.file].append((owner.place.start, owner.place.end))
        if owner.owner is not None:
            whole = owner.owner.place
            if whole.file != owner.place.file or whole.start != owner.place.start:
                owned[whole.file].append((whole.start, whole.end))
    wanted = tuple(sorted(identifiers))
    packages = code_packages(projects)
    narrow = [value.encode("utf-8") for value in (*wanted, *_forms(set(packages)))]

    def look(items: Sequence[tuple[str, bytes]]) -> tuple[list[Mention], list[Unresolved]]:
        return _looked_through(projects, items, _Sought(wanted, packages, narrow, owned, own))

    items = list(held.items())
    parts = halved(items, look) if len(items) >= _WORTH_SHARING else [look(items)]
    found = [*owners, *(mention for mentions, _ in parts for mention in mentions)]
    faults = [fault for _, some in parts for fault in some]
    return tuple(sorted(found, key=lambda m: (m.place.file, m.place.start, m.facet))), faults


# From so many files on, a second process pays for itself.
_WORTH_SHARING = 400


class _Sought(NamedTuple):
    """What is looked for in files: identifiers, packages, both as bytes; the spans that owners have already."""

    identifiers: tuple[str, ...]
    packages: tuple[str, ...]
    narrow: list[bytes]
    owned: Mapping[str, Sequence[tuple[int, int]]]
    own: Mapping[str, str]


def _looked_through(
    projects: Sequence[Project], items: Iterable[tuple[str, bytes]], sought: _Sought
) -> tuple[list[Mention], list[Unresolved]]:
    """Return the mentions in some files, and the files that cannot be read."""
    found: list[Mention] = []
    faults: list[Unresolved] = []
    wanted, packages, narrow, owned, own = sought
    for path, data in items:
        plain = flat(data)
        if not any(value in plain for value in narrow):
            continue
        try:
            source = Source.read(data)
            hits = occurrences(path, source, wanted, packages)
            spans = sorted(owned.get(path, ()))
            hits = [hit for hit in hits if not _within(spans, source.offset(hit.start))]
            if hits:
                found.extend(classified(projects, path, source, hits, own))
        except FormatError as error:
            faults.append(unread(path, error))
    return found, faults


def _within(spans: Sequence[tuple[int, int]], position: int) -> bool:
    """Tell whether a position lies in one of the spans, which are sorted; one may hold others."""
    at = bisect_right(spans, (position, sys.maxsize))
    return any(start <= position < end for start, end in spans[max(0, at - _NESTED) : at])


# So many spans may begin between a position and the one around it.
_NESTED = 8


def code_packages(projects: Sequence[Project]) -> tuple[str, ...]:
    """Return the packages that sources of the projects live in."""
    facets = (Facet.CODE_PACKAGE, Facet.NAMESPACE)
    return tuple(dict.fromkeys(i.value for project in projects for i in project.identifiers if i.facet in facets))


def classified(
    projects: Sequence[Project], path: str, source: Source, hits: list[Occurrence], own: Mapping[str, str] = OWN_FILES
) -> list[Mention]:
    """Say what each identifier in a file is, by the project that it belongs to; *own* are Onomaxis' own files."""
    if path in own:
        return [
            loose_mention(projects, path, source, hit)._replace(role=Role.OUTSIDE, reason=own[path]) for hit in hits
        ]
    project = project_of(projects, path)
    if project is None:
        return [loose_mention(projects, path, source, hit) for hit in hits]
    mine, others = _split(projects, project, hits)
    found = kind_of(project).mentions(project, path, source, mine)
    return [*found, *(loose_mention(projects, path, source, hit) for hit in others)]


def _split(
    projects: Sequence[Project], project: Project, hits: list[Occurrence]
) -> tuple[list[Occurrence], list[Occurrence]]:
    """Part the occurrences of a project's own identifiers from those of other projects.

    A longer identifier of another project that begins with one of this project's counts as this one's here.
    """
    own = sorted({item.value for item in project.identifiers}, key=len, reverse=True)
    mine: list[Occurrence] = []
    others: list[Occurrence] = []
    for hit in hits:
        known = next((value for value in own if hit.token == value or hit.token.startswith(value + ".")), "")
        if not known:
            others.append(hit)
        elif known == hit.identifier:
            mine.append(hit)
        else:
            form = hit.syntax if hit.syntax in FORMS else "raw"
            end = hit.end - (len(encode(form, hit.identifier).encode()) - len(encode(form, known).encode()))
            mine.append(hit._replace(end=end, identifier=known))
    return mine, others


def project_of(projects: Sequence[Project], path: str) -> Project | None:
    """Return the project whose folder holds *path*, the deepest one where they are nested."""
    best: Project | None = None
    for project in projects:
        if (
            (not project.folder or path.startswith(project.folder + "/"))
            and project.identifiers
            and (best is None or len(project.folder) > len(best.folder) or _closer(path, project, best))
        ):
            best = project
    return best


_IOS_ENDINGS = (
    ".swift",
    ".m",
    ".mm",
    ".plist",
    ".entitlements",
    ".xcconfig",
    ".pbxproj",
    ".xcscheme",
    ".storyboard",
    ".strings",
    ".xib",
    "Podfile",
)


def _closer(path: str, project: Project, best: Project) -> bool:
    """Of two projects in one folder, the file's own syntax tells which it belongs to."""
    return project.folder == best.folder and project.kind == "ios" != best.kind and path.endswith(_IOS_ENDINGS)


def loose_mention(projects: Sequence[Project], path: str, source: Source, hit: Occurrence) -> Mention:
    """Describe an occurrence in a file that no project owns."""
    facet = next(
        (item.facet for project in projects for item in project.identifiers if item.value == hit.identifier),
        Facet.APPLICATION_ID,
    )
    spot = place(path, source, hit.start, hit.end, "raw")
    reason = "" if is_service_file(path) else prose(path, source, hit)
    if reason:
        return Mention(facet, Role.PROSE, spot, hit.identifier, reason=reason)
    if is_service_file(path):
        reason = "a service's own file: fetch a new one for the new ID (or --services rewrite)"
    else:
        reason = "outside every known project: change it by hand if it means this app"
    return Mention(facet, Role.OUTSIDE, spot, hit.identifier, reason=reason)
