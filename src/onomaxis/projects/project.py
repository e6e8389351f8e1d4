"""What every kind of project offers, as types: the road above this floor knows kinds only by these."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple, Protocol, TypeVar

from onomaxis.errors import FormatError
from onomaxis.formats.source import Source
from onomaxis.model import (
    Disagreement,
    Edit,
    Facet,
    IconHome,
    Mention,
    Move,
    Opening,
    Place,
    Renaming,
    Residue,
    ShippedApp,
    Unresolved,
    Wish,
)
from onomaxis.tree import Tree


class Identifier(NamedTuple):
    """An identifier that a project goes by: searched for in every file."""

    facet: Facet
    value: str
    module: str = ""


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
    keeps: str = ""
    brands: Callable[[], tuple[ShippedApp, ...]] = field(default=tuple, compare=False)

    @property
    def key(self) -> tuple[str, str, str, str, bool]:
        """What tells a project from every other one of a tree, also after it was narrowed to one app."""
        return self.kind, self.folder, self.label, self.platform, self.umbrella


@dataclass
class Draft:
    """What a kind adds to a change beside the rewriting of mentions: edits, moves, new files, refusals, notes."""

    edits: list[Edit] = field(default_factory=list)
    moves: list[Move] = field(default_factory=list)
    created: list[tuple[str, bytes]] = field(default_factory=list)
    refusals: list[str] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    residue: list[Residue] = field(default_factory=list)


Hits = Sequence[Occurrence]
_T = TypeVar("_T")


class Kind(Protocol):
    """A kind of project."""

    name: str
    platform: str

    def find(self, tree: Tree) -> list[Project]:
        """Return the projects of this kind in *tree*."""

    def index(self, project: Project, held: Mapping[str, bytes]) -> Project:
        """Complete *project* with what only the files that hold an identifier of it can tell."""

    def mentions(self, project: Project, path: str, source: Source, hits: Hits) -> list[Mention]:
        """Say what each occurrence in a file of *project* is."""

    def prepare(self, project: Project, tree: Tree, wish: Wish) -> Draft:
        """Return what the wish asks to be set right before anything is renamed."""

    def rename_project(self, project: Project, tree: Tree, name: str) -> Draft:
        """Return what must change so that the project itself, not what it ships, is called *name*."""

    def own_facet(self, project: Project, tree: Tree, flavor: Flavor, facet: Facet, text: str) -> Draft:
        """Give a flavor that takes a facet from the app an entry of its own. Refused where there is no place."""

    def add_flavor(self, project: Project, tree: Tree, flavor: Flavor, id_: str, shown: str) -> Draft:
        """Add a flavor of a module or target, called *id_* and *shown*, beside those that there are."""

    def retire_flavor(self, project: Project, tree: Tree, flavor: Flavor) -> tuple[Draft, list[str]]:
        """Return what takes a flavor out again, and the files that belong to it alone."""

    def facts(self, project: Project, tree: Tree, flavor: Flavor) -> AppFacts:
        """Return what one flavor of a module or target declares; an empty table where the kind tells nothing."""

    def places(self, project: Project, tree: Tree, module: str) -> Places | None:
        """Return the reader of a module's places for values; None where the kind has none of its own."""

    def follow(self, project: Project, tree: Tree, renamings: Sequence[Renaming], wish: Wish) -> Draft:
        """Return what must change beside the mentions when *renamings* are carried out."""


class Flavor(NamedTuple):
    """One flavor of one module or target, in one language where that is meant."""

    module: str
    name: str
    locale: str = ""


@dataclass(frozen=True)
class Spot:
    """What a place of a value reads today for a flavor; ``write`` returns what gives it a new text, or refusals."""

    text: str
    file: str
    line: int
    write: Callable[[str], Draft]

    @property
    def at(self) -> str:
        """``file:line``."""
        return f"{self.file}:{self.line}"


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
    is the file that declares, for what is missing in it.
    """

    keys: Mapping[str, Fact] = field(default_factory=dict)
    schemes: tuple[Fact, ...] = ()
    hosts: tuple[Fact, ...] = ()
    switches: Mapping[str, Fact] = field(default_factory=dict)
    where: Fact = field(default_factory=lambda: Fact("", "", 0))


class Places(Protocol):
    """Reads the places of values in one module or target."""

    def spot(self, selector: str, name: str, file: str, flavor: str) -> Spot:
        """Return the place of a value for a flavor (``""``: the app itself). Raises InputError when it is gone."""


Targets = Sequence[tuple[str, str, str]]


def apps_meant(project: Project, app: str, targets: Targets = ()) -> tuple[ShippedApp, ...]:
    """Return the apps of a project that are meant: by a name, or by platform, folder and module."""
    if targets:
        modules = {
            module for platform, folder, module in targets if (platform, folder) == (project.platform, project.folder)
        }
        return tuple(item for item in project.apps if item.module in modules)
    return apps_called(project, app) if app else ()


class WithoutFlavors:
    """What a kind says whose builds have no flavors of their own: its flavors are stamped."""

    def add_flavor(self, project: Project, tree: Tree, flavor: Flavor, id_: str, shown: str) -> Draft:
        """Nothing to add."""
        return Draft()

    def retire_flavor(self, project: Project, tree: Tree, flavor: Flavor) -> tuple[Draft, list[str]]:
        """Nothing to take out."""
        return Draft(), []

    def facts(self, project: Project, tree: Tree, flavor: Flavor) -> AppFacts:
        """Nothing is told before a native half is there."""
        return AppFacts()

    def places(self, project: Project, tree: Tree, module: str) -> Places | None:
        """No places but files."""
        return None


def apps_called(project: Project, name: str) -> tuple[ShippedApp, ...]:
    """Return the apps of a project that *name* means, with all their flavors.

    It is the name of a module or target, an ID, a display name, or the project's own name, folder or one above.
    """
    if name == project.label or (project.folder and f"{project.folder}/".startswith(f"{name}/")):
        return project.apps
    modules = {
        app.module
        for app in project.apps
        if name == app.module or any(value and value.text == name for value in (app.id, app.name))
    }
    return tuple(app for app in project.apps if app.module in modules)


def base_id(project: Project, app: ShippedApp) -> str:
    """Return the ID that a module's flavors share: the default's, without a flavor's own or a suffix."""
    for owner in project.owners:
        if owner.facet is Facet.APPLICATION_ID and owner.scope.module == app.module and not owner.scope.flavor:
            return owner.value
    if project.kind == "android":
        for owner in project.owners:
            if owner.facet is Facet.NAMESPACE and owner.scope.module == app.module:
                return owner.value
    first = next(item for item in project.apps if item.module == app.module)
    return first.id.text if first.id else ""


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
        faults.append(Unresolved("file", path, error.line or 1, "", error.message))
        return None
