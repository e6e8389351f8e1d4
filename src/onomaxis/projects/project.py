"""What a project is, as data: its apps, owners, openings, identifiers, icons; what an app declares."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence, Set
from dataclasses import dataclass, field
from functools import cached_property
from typing import NamedTuple, TypeVar

from onomaxis.errors import FormatError
from onomaxis.flavor_names import Singles, each_once, flavor_word, made_of, same_flavor, singles, words_of
from onomaxis.formats.source import Source
from onomaxis.model import WHOLE_FILE, Disagreement, Facet, IconHome, Mention, Opening, Place, ShippedApp, Unresolved
from onomaxis.tree import join


class Identifier(NamedTuple):
    """An identifier that a project goes by: searched for in every file.

    ``tests`` marks the package that only tests of the module live in.
    """

    facet: Facet
    value: str
    module: str = ""
    tests: bool = False


class Occurrence(NamedTuple):
    """An identifier found as a token: view span, what the whole dotted token reads, and where it stands.

    ``context`` is ``code``, ``string``, ``comment``, ``tag``, ``attribute``, ``element`` or ``text``; ``holder``
    names the element and attribute (``tag@name``), element or key around it; ``before`` is what precedes the
    token in its literal.
    """

    start: int
    end: int
    identifier: str
    token: str
    context: str
    holder: str = ""
    before: str = ""
    syntax: str = "raw"


@dataclass(frozen=True)
class Project:
    """One project of one kind: its folder, what it ships, where that is set, and what could not be read.

    ``platform`` is what it ships for. An ``umbrella`` ships nothing itself: its owners repeat what the projects below
    its folder are called; ``keeps`` says why their technical names must stay. ``brands`` reads what
    each single flavor is called, in every configuration, the archived one first; ``""`` is the app without any.
    ``told`` are flavors of one dimension each that the identity file tells, whatever combinations the build has;
    ``ranks`` the places of their dimensions, as the tree's Gradle build has them.
    """

    kind: str
    folder: str
    label: str
    apps: tuple[ShippedApp, ...]
    owners: tuple[Mention, ...]
    openings: tuple[Opening, ...] = ()
    identifiers: tuple[Identifier, ...] = ()
    unresolved: tuple[Unresolved, ...] = ()
    disagreements: tuple[Disagreement, ...] = ()
    detail: object = None
    foreign: tuple[str, ...] = ()
    icons: tuple[IconHome, ...] = ()
    platform: str = ""
    umbrella: bool = False
    own_ids: tuple[Opening, ...] = ()
    keeps: str = ""
    brands: Callable[[], tuple[ShippedApp, ...]] = field(default=tuple, compare=False)
    brand_names: Callable[[], Iterable[str]] | None = field(default=None, compare=False)
    told: tuple[str, ...] = ()
    ranks: Mapping[str, int] = field(default_factory=dict, compare=False)

    @property
    def key(self) -> tuple[str, str, str, str, bool]:
        """What tells a project from every other one of a tree, also after it was narrowed to one app."""
        return self.kind, self.folder, self.label, self.platform, self.umbrella

    @cached_property
    def modules(self) -> frozenset[str]:
        """The modules or targets of its apps."""
        return frozenset(app.module for app in self.apps)

    @cached_property
    def spots(self) -> Set[tuple[str, int]]:
        """Where its apps take their names and versions from: file and offset."""
        own = (value for app in self.apps for value in (app.name, app.version, app.build) if value is not None)
        return {(spot.file, spot.start) for value in own for spot in (value.origin, value.place)}

    @cached_property
    def built(self) -> tuple[str, ...]:
        """The flavors that the build knows by themselves, combinations where it has those alone."""
        return each_once(self.brand_names() if self.brand_names else (app.flavor for app in self.brands()))

    @cached_property
    def spoken(self) -> tuple[str, ...]:
        """The flavors that the project sets, draws or ships anything for, and those that are told beside them."""
        named = [owner.scope.flavor for owner in self.owners] + [home.flavor for home in self.icons]
        return each_once([*named, *(name for app in self.apps for name in (app.flavor, *app.beside))])

    @cached_property
    def flavors(self) -> Singles:
        """The flavors of one dimension each that the project builds, draws icons or sets anything for."""
        return flavors_together([self])

    @cached_property
    def combined(self) -> Mapping[str, Sequence[Mention]]:
        """The owners that are a combination's own, by each flavor that it is made of, in small letters."""
        found: dict[str, list[Mention]] = {}
        for owner in self.owners:
            parts = self.flavors.parts(owner.scope.flavor) if owner.scope.flavor else frozenset[str]()
            for name in parts if len(parts) > 1 else ():
                found.setdefault(name.casefold(), []).append(owner)
        return found

    @cached_property
    def bases(self) -> dict[str, str]:
        """The ID that the flavors of each module share."""
        return _bases(self)


def flavors_together(projects: Sequence[Project]) -> Singles:
    """Return the flavors of one dimension each of several projects, as they are spelled first."""
    alone = each_once(name for project in projects for name in project.built)
    told = each_once(name for project in projects for name in project.told)
    # Names of configurations are made up of flavors; what scripts and builds declare is one each, unless it is told.
    scripts = (name for project in projects if project.kind != "ios" for name in project.built)
    declared = [name for name in scripts if len(made_of(name, told)) < 2]
    plain = Singles(n for n in singles([*alone, *told], declared) if n not in told or _is_part(n, alone))
    others = (name for project in projects for name in project.spoken)
    found = Singles(each_once([*plain, *(name for name in others if not made_of(name, plain))]))
    found.ranks = {name: rank for project in projects for name, rank in project.ranks.items()}
    return found


def _is_part(name: str, built: Iterable[str]) -> bool:
    """Tell whether something that is built is a flavor, or is called by it."""
    return any(flavor_word(name).search(other) for other in built)


Hits = Sequence[Occurrence]
_T = TypeVar("_T")
# Scope.platform of what a framework's own files say for every platform.
EVERY = "hybrid"


class Flavor(NamedTuple):
    """One flavor of one module or target, in one language where that is meant.

    Of a new one, ``dimension`` is what it varies, ``beside`` a flavor that it is to stand in one dimension with,
    ``like`` the one that it is made after, ``given`` its own values by name. ``made`` are the combinations that a
    build has in its place.
    """

    module: str
    name: str
    locale: str = ""
    dimension: str = ""
    beside: str = ""
    like: str = ""
    made: tuple[str, ...] = ()
    given: tuple[tuple[str, str], ...] = ()


class Fact(NamedTuple):
    """One thing that a shipped app declares: its text after all indirection, and where it is written."""

    text: str
    file: str
    line: int


@dataclass(frozen=True)
class AppFacts:
    """What one flavor of an app declares to the system and to services, in its release build.

    ``keys`` are property-list keys (slashes below dictionaries) or meta-data names; ``schemes`` and ``hosts`` open
    the app; ``switches`` are single facts by name: ``debuggable``, ``target-sdk``, ``push``, ``signing``. ``where``
    is the file that declares, for what is missing in it. ``suffixes`` are what build types append to the ID;
    ``permissions`` are asked for and ``authorities`` provided by an Android app's own manifests.
    """

    keys: Mapping[str, Fact] = field(default_factory=dict)
    schemes: tuple[Fact, ...] = ()
    hosts: tuple[Fact, ...] = ()
    switches: Mapping[str, Fact] = field(default_factory=dict)
    where: Fact = field(default_factory=lambda: Fact("", "", 0))
    suffixes: Mapping[str, Fact] = field(default_factory=dict)
    permissions: tuple[Fact, ...] = ()
    authorities: tuple[Fact, ...] = ()


Targets = Sequence[tuple[str, str, str]]


def apps_meant(project: Project, app: str, targets: Targets = ()) -> tuple[ShippedApp, ...]:
    """Return the apps of a project that are meant: by a name, or by platform, folder and module."""
    if targets:
        modules = {
            module for platform, folder, module in targets if (platform, folder) == (project.platform, project.folder)
        }
        return tuple(item for item in project.apps if item.module in modules)
    return apps_called(project, app) if app else ()


def apps_called(project: Project, name: str) -> tuple[ShippedApp, ...]:
    """Return the apps of a project that *name* means, with all their flavors.

    It is a module or target by its name or folder, an ID, a display name; else the project's own name, its folder or
    one above.
    """
    folder = name.removeprefix("./").rstrip("/")
    modules = {app.module for app in project.apps if name == app.module}
    modules = modules or {app.module for app in project.apps if folder == join(project.folder, app.module)}
    modules = modules or {
        app.module
        for app in project.apps
        if any(value and value.text == name for value in (app.id, app.name)) or base_id(project, app) == name
    }
    if not modules and (name == project.label or (project.folder and f"{project.folder}/".startswith(f"{folder}/"))):
        return project.apps
    modules = together(project, modules)
    return tuple(app for app in project.apps if app.module in modules)


def flavor_called(project: Project, name: str) -> str:
    """Return the flavor that *name* means, an ID or display name that it alone has; empty where it means an app."""
    if name == project.label or any(name in (app.module, base_id(project, app)) for app in project.apps):
        return ""
    named = [app for app in project.apps if any(value and value.text == name for value in (app.id, app.name))]
    flavors = {app.flavor for app in named}
    return flavors.pop() if len(flavors) == 1 and len(named) < len(project.apps) else ""


def together(project: Project, modules: Set[str]) -> set[str]:
    """Return the modules or targets that are one app with some of *modules*.

    Those of the same ID (a phone's and its watch's, a telephone's and a television's), and targets of an Xcode
    project that are called as another one with something behind, ID and name alike (``Lend Dev``,
    ``org.lendspan.dev``).
    """
    bases = {app.module: base_id(project, app) for app in project.apps}
    beside = {module for module in bases for one in modules if bases[module] and bases[module] == bases.get(one)}
    return {*modules, *beside, *(module for module, above in variant_targets(project).items() if above in modules)}


def variant_targets(project: Project) -> dict[str, str]:
    """Return the targets of an Xcode project that are an environment of another one, and which one that is."""
    bases = {app.module: base_id(project, app) for app in project.apps} if project.platform == "ios" else {}
    return {
        module: other
        for module, base in bases.items()
        for other, above in bases.items()
        if above and base.startswith(f"{above}.") and module.startswith(other)
    }


def goes_on(id_: str, base: str) -> bool:
    """Tell whether an ID is another one, or goes on from it: ``org.lendspan.beta`` from ``org.lendspan``."""
    return f"{id_}.".startswith(f"{base}.")


def main_id(ids: Iterable[str]) -> str:
    """Return the one of some IDs that all others go on from; empty where there is none."""
    every = tuple(ids)
    return next((id_ for id_ in every if id_ and all(goes_on(other, id_) for other in every)), "")


def build_type(configuration: str, flavor: str) -> str:
    """Return the build type in a configuration's name: ``release`` of ``Release-alderbank``."""
    rest = configuration.casefold()
    for word in (flavor,) if flavor.casefold() in rest else words_of(flavor):
        rest = rest.replace(word.casefold(), "", 1)
    return rest.strip(" -_.()")


def base_id(project: Project, app: ShippedApp) -> str:
    """Return the ID that a module's flavors share: the default's, without a flavor's own or a suffix."""
    return project.bases.get(app.module, "")


def _bases(project: Project) -> dict[str, str]:
    """Return for each module the ID that its flavors share; see :func:`base_id`."""
    ids: dict[str, str] = {}
    namespaces: dict[str, str] = {}
    for owner in project.owners:
        if owner.facet is Facet.APPLICATION_ID and not owner.scope.flavor:
            ids.setdefault(owner.scope.module, owner.value)
        elif owner.facet is Facet.NAMESPACE and project.kind == "android":
            namespaces.setdefault(owner.scope.module, owner.value)
    for module in dict.fromkeys(app.module for app in project.apps):
        if not (module in ids or module in namespaces):
            first = next((item.id.text for item in project.apps if item.module == module and item.id), "")
            namespaces[module] = shared_id(project, module) or first
    return {**namespaces, **ids}


def shared_id(project: Project, module: str) -> str:
    """Return the ID that stands for a target without its flavors; empty where each has one of its own.

    It is that of the configuration without a flavor, else the one that all others are or begin with.
    """
    mine = [item for item in project.apps if item.module == module and item.id]
    plain = next((item.id.text for item in mine if item.id and not item.flavor), "")
    found = sorted({item.id.text for item in mine if item.id}, key=len)
    return plain or (found[0] if found and all(f"{id_}.".startswith(f"{found[0]}.") for id_ in found) else "")


def brand_of(project: Project, modules: Set[str], flavor: str) -> ShippedApp | None:
    """Return what one flavor is called, in the configuration that ships, over all its combinations with others."""
    return next((app for app in project.brands() if app.module in modules and same_flavor(app.flavor, flavor)), None)


def place(path: str, source: Source, start: int, end: int, syntax: str) -> Place:
    """Make a place from a view span."""
    return Place(
        path,
        source.offset(start),
        source.offset(end),
        source.line(start),
        source.column(start),
        source.text(start, end),
        syntax,
    )


def guarded(path: str, faults: list[Unresolved], read: Callable[[], _T]) -> _T | None:
    """Call *read*; on a syntax error add it to *faults* with file and line, so that the rest is still surveyed."""
    try:
        return read()
    except FormatError as error:
        faults.append(unread(path, error))
        return None


def unread(path: str, error: FormatError) -> Unresolved:
    """Return what is said of a file that cannot be read."""
    return Unresolved(WHOLE_FILE, path, error.line or 1, "", error.message)
