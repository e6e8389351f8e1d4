"""Everything that shipped apps are called by in one tree: facets with their places, as they are compared."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import NamedTuple

from onomaxis.brands.subjects import Subject, subjects_of
from onomaxis.brands.tree_brand import identity_of_tree
from onomaxis.errors import OnomaxisError
from onomaxis.flavor_names import in_order
from onomaxis.history.pictures import icon_files
from onomaxis.identity.file import IdentityFile, Said
from onomaxis.identity.schema import NAME
from onomaxis.model import FLAVORS, Facet, Part, ShippedApp, Unresolved, Value
from onomaxis.projects.project import Flavor, Project
from onomaxis.projects.services import GOOGLE_ANDROID, GOOGLE_IOS, ServiceFile, for_variant, service_files
from onomaxis.surveys.survey import kind_of, read_projects
from onomaxis.tree import Tree

# What facets of the projects are called here.
CALLED = {
    Facet.APPLICATION_ID: "id",
    Facet.BUNDLE_ID: "id",
    Facet.DISPLAY_NAME: "name",
    Facet.VERSION_NAME: "version",
    Facet.VERSION_CODE: "build",
    Facet.ICON: "icon",
    FLAVORS: "flavor",
}


class Told(NamedTuple):
    """What a facet is: its text, where it is said, whether it is shown; *digest* tells apart what reads the same."""

    text: str
    file: str
    line: int
    secret: bool = False
    digest: str = ""


class Entity(NamedTuple):
    """One shipped app, or a part of one: what it is found by, and all it is called by."""

    platform: str
    folder: str
    module: str
    flavor: str
    configuration: str
    part: bool
    facets: Mapping[str, Told]
    open: frozenset[str]
    """Facets that nobody can tell; ``*`` where all may be meant."""

    @property
    def id(self) -> str:
        """Its ID, empty where none can be told."""
        return self.facets["id"].text if "id" in self.facets else ""


class Open(NamedTuple):
    """What cannot be determined: facet, place, reason."""

    facet: str
    file: str
    line: int
    reason: str


@dataclass
class State:
    """One tree, told: its apps and parts, what of them cannot be determined."""

    entities: list[Entity] = field(default_factory=list)
    open: list[Open] = field(default_factory=list)


def state_of(tree: Tree) -> State:
    """Return what all shipped apps of a tree are called; one without projects has a state too."""
    state = State()
    try:
        projects = read_projects(tree)
    except OnomaxisError as error:
        state.open.append(Open("file", error.file, error.line, error.message))
        return state
    file, subjects = _identity(tree, projects, state)
    for project in projects:
        if project.umbrella:
            continue
        unresolved = [item for item in project.unresolved if item.blocking]
        state.open += [_open(item) for item in unresolved]
        hidden = frozenset(_open(item).facet for item in unresolved)
        hidden |= {"*"} if hidden & {"file", "flavor"} else frozenset()
        if any(item.facet == "value" for item in state.open):  # the identity file is not right
            hidden |= {"value", "service:hosts", "service:fingerprints"}
        services = list(_service_files(tree, project))
        for app in project.apps:
            facets = dict(_facets(app))
            facets |= dict(_icon(tree, project, app))
            facets |= dict(_permissions(tree, project, app))
            facets |= dict(_service(project, app, services))
            subject = next((s for s in subjects if s.project.key == project.key and s.owns(app.module)), None)
            if file is not None and subject is not None:
                facets |= dict(_said(file, subject, app))
            key = (app.platform, project.folder, app.module, app.flavor, app.configuration)
            state.entities.append(Entity(*key, False, facets, hidden))
            for part in app.parts:
                key = (app.platform, project.folder, part.target, app.flavor, app.configuration)
                state.entities.append(Entity(*key, True, dict(_facets(part)), hidden))
    return state


def _identity(tree: Tree, projects: list[Project], state: State) -> tuple[IdentityFile | None, tuple[Subject, ...]]:
    try:
        file = identity_of_tree(tree, projects)
        return file, subjects_of(file, projects) if file is not None else ()
    except OnomaxisError as error:
        state.open.append(Open("value", error.file or NAME, error.line, error.message))
        return None, ()


def _open(item: Unresolved) -> Open:
    facet = next((name for known, name in CALLED.items() if item.facet == known), str(item.facet))
    return Open("file" if item.whole else facet, item.file, item.line, item.reason)


def _facets(app: ShippedApp | Part) -> Iterator[tuple[str, Told]]:
    for name, value in (("id", app.id), ("name", app.name), ("version", app.version), ("build", app.build)):
        if value is not None:
            yield name, _told(value)
    for locale, value in app.names if isinstance(app, ShippedApp) else ():
        yield f"name:{locale}", _told(value)


def _told(value: Value) -> Told:
    return Told(value.text, value.origin.file, value.origin.line)


def _icon(tree: Tree, project: Project, app: ShippedApp) -> Iterator[tuple[str, Told]]:
    """Yield the icon: a digest of all its files, which are opaque but for being alike or not."""
    files = icon_files(tree, project, app)
    if files:
        whole = hashlib.sha256("".join(f"{name}\0{digest}\n" for name, (_, digest) in sorted(files.items())).encode())
        first = min(path for path, _ in files.values())
        yield "icon", Told(f"sha256:{whole.hexdigest()}", first, 1)


def _permissions(tree: Tree, project: Project, app: ShippedApp) -> Iterator[tuple[str, Told]]:
    try:
        facts = kind_of(project).facts(project, tree, Flavor(app.module, app.flavor))
    except (OnomaxisError, StopIteration):
        return
    for fact in facts.permissions:
        yield f"permission:{fact.text}", Told(fact.text, fact.file, fact.line)


def _service_files(tree: Tree, project: Project) -> Iterator[ServiceFile]:
    for name in (GOOGLE_ANDROID, GOOGLE_IOS):
        yield from service_files(tree, name, project.folder)


def _service(project: Project, app: ShippedApp, files: list[ServiceFile]) -> Iterator[tuple[str, Told]]:
    """Yield the app's ID in its service file, with a digest of all that the file says."""
    mine = [file for file in files if file.platform == app.platform and app.id is not None]
    if not mine or app.id is None:
        return
    chosen = None
    if project.kind == "android":
        folders = {file.path.partition("/src/")[0] for file in mine if "/src/" in file.path}
        folders |= {file.path.rpartition("/")[0] for file in mine}
        module = next((f for f in sorted(folders, key=len) if f.rpartition("/")[2] == app.module), project.folder)
        parts = in_order(app.flavor, (brand.flavor for brand in project.brands()))
        chosen = for_variant(mine, module, [app.flavor, *parts], app.configuration or "release")
    chosen = chosen or next((file for file in mine if file.knows(app.id.text)), None)
    if chosen is not None:
        entry = next((item for item in chosen.apps if item.id == app.id.text), None)
        at = entry.line if entry is not None else 1
        text = entry.id if entry is not None else ""
        said = repr((chosen.apps, chosen.project, chosen.reversed))
        yield (
            f"service:google-{app.platform}",
            Told(text, chosen.path, at, digest=f"sha256:{hashlib.sha256(said.encode()).hexdigest()}"),
        )


def _said(file: IdentityFile, subject: Subject, app: ShippedApp) -> Iterator[tuple[str, Told]]:
    """Yield values, hosts and fingerprints as the identity file gives them."""
    brand = file.variant(app.flavor, subject.singles, subject.platform)
    secret = {value.name for value in file.values if value.secret}
    for name, said in brand.values.items():
        yield f"value:{name}", Told(said.text, file.home(said.line), said.line, name in secret)
    for key in ("hosts", "fingerprints"):
        listed: tuple[Said, ...] = getattr(brand, key)
        if listed:
            text = " ".join(said.text for said in listed)
            yield f"service:{key}", Told(text, file.home(listed[0].line), listed[0].line)
