"""What an identity file speaks of: one app a platform, and what each of its flavors is called today."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from onomaxis.brands.keys import Keys
from onomaxis.errors import InputError, OnomaxisError, RefusedError
from onomaxis.flavor_names import Singles, same_flavor, selects
from onomaxis.identity.file import IdentityFile
from onomaxis.identity.reading import read_identity
from onomaxis.identity.schema import NAME
from onomaxis.model import FLAVORS, Facet, Note, ShippedApp, Value
from onomaxis.platforms import PLATFORM_NAMES, PLATFORMS, PUBLISHED, STAGES
from onomaxis.projects.project import Flavor, Project, Targets, apps_called, base_id, main_id, variant_targets
from onomaxis.rename.choice import narrowed, one_app, refuse_strangers
from onomaxis.rename.targets import named_by_variants
from onomaxis.surveys.beside import Beside
from onomaxis.surveys.halves import umbrella_of
from onomaxis.tree import Tree

OWN_KEY = {"android": "module", "ios": "target"}
# A facet's key in the identity file, and the facet.
FACETS = {
    "id": {"android": Facet.APPLICATION_ID, "ios": Facet.BUNDLE_ID},
    "name": {"android": Facet.DISPLAY_NAME, "ios": Facet.DISPLAY_NAME},
    "version": {"android": Facet.VERSION_NAME, "ios": Facet.VERSION_NAME},
    "build": {"android": Facet.VERSION_CODE, "ios": Facet.VERSION_CODE},
}


@dataclass(frozen=True)
class Subject:
    """One app of one platform that the identity file speaks of; ``brands`` are its flavors as they are today.

    Where each brand or environment is a target of its own, ``targets`` are all of them, and ``module`` the main one.
    """

    project: Project
    platform: str
    module: str
    targets: tuple[str, ...] = ()

    def owns(self, module: str) -> bool:
        """Tell whether a module or target is a part of the app."""
        return module in (self.targets or (self.module,))

    def as_variant(self, app: ShippedApp) -> ShippedApp:
        """Return an app under the flavor that it is: that of its target, where it has one of its own."""
        return app._replace(flavor=app.variant, beside=()) if self.targets else app

    @cached_property
    def apps(self) -> tuple[ShippedApp, ...]:
        """What ships of the app."""
        return tuple(self.as_variant(app) for app in self.project.apps if self.owns(app.module))

    @cached_property
    def brands(self) -> tuple[ShippedApp, ...]:
        """The app in every flavor and configuration; of each flavor the one that is archived first."""
        return tuple(self.as_variant(app) for app in self.project.brands() if self.owns(app.module))

    @cached_property
    def _branches(self) -> Mapping[str, Flavor]:
        every = [
            app for app in (*self.project.brands(), *self.project.apps) if self.targets and self.owns(app.module)
        ]
        return {app.variant.casefold(): Flavor(app.module, app.flavor or _stage(app)) for app in every}

    def branch(self, flavor: str, locale: str = "") -> Flavor:
        """Return the target and its flavor that a flavor of the app is; in one language where that is meant."""
        return self._branches.get(flavor.casefold(), Flavor(self.module, flavor))._replace(locale=locale)

    @cached_property
    def flavors(self) -> tuple[str, ...]:
        """The flavors that the build knows."""
        return tuple(dict.fromkeys(app.flavor for app in self.brands if app.flavor))

    @cached_property
    def made(self) -> Mapping[str, ShippedApp]:
        """What ships as a combination that the build puts together of its flavors, by its name."""
        mine = (app for app in self.apps if app.flavor and not self.of(app.flavor))
        return {app.flavor: app for app in mine}

    @property
    def singles(self) -> Singles:
        """The flavors of one dimension each that the build's are made of."""
        return self.project.flavors

    @cached_property
    def _holding(self) -> Mapping[str, list[str]]:
        """What the build has by each flavor that it is made of, in small letters."""
        found: dict[str, list[str]] = {}
        for name in self.flavors:
            for part in self.singles.parts(name) or {name}:
                found.setdefault(part.casefold(), []).append(name)
        return found

    @cached_property
    def stands_alone(self) -> bool:
        """True where the app is built without a flavor too; False where every configuration belongs to one."""
        return not self.flavors or any(not app.flavor for app in self.brands)

    @cached_property
    def ships_alone(self) -> bool:
        """True where an app without any flavor ships."""
        return any(not app.flavor for app in self.apps)

    def main_of(self, flavor: str) -> str:
        """Return the built flavor that stands for one: itself; where it is built in combinations alone, the main one.

        That is the one whose ID the others' go on from, else the one that is published; empty where there is none.
        """
        if not flavor:
            return ""
        known = self.built_as(flavor)
        if known:
            return known
        ids = {name: self.text(name, "id") or "" for name in self.combinations(flavor)}
        main = main_id(ids.values())
        mains = (name for name, id_ in ids.items() if main and id_ == main)
        published = (name for name in ids if any(selects(stage, name, self.singles) for stage in PUBLISHED))
        return next(mains, "" if flavor.casefold() in STAGES else next(published, ""))

    def built_as(self, flavor: str) -> str:
        """Return what a build calls a flavor, or a combination of the same flavors; empty where it has none."""
        every = (*self.flavors, *self.made)
        parts = self.singles.parts(flavor)
        same = (name for name in every if len(parts) > 1 and self.singles.parts(name) == parts)
        return next((name for name in every if same_flavor(name, flavor)), "") or next(same, "")

    def bound(self, file: IdentityFile, built: str) -> bool:
        """Tell whether what a file says of flavors in general must fit one that is built: not every combination."""
        parts = self.singles.parts(built)
        own = len(parts) < 2 or bool(file.table_of(built, self.singles))
        return own or any(file.lists(part) and self.main_of(part) == built for part in parts)

    def mates(self, flavor: str) -> frozenset[str]:
        """Return the flavors of other dimensions, which stand beside one in what is built."""
        parts = (self.singles.parts(name) for name in (*self.flavors, *self.made))
        mine = self.singles.parts(flavor)
        return frozenset(name for several in parts if mine <= several for name in several - mine)

    def combinations(self, flavor: str) -> list[str]:
        """Return the combinations that a build makes of a flavor and others."""
        parts = self.singles.parts(flavor) or {flavor}
        fewest = min((self._holding.get(name.casefold(), ()) for name in parts), key=len)
        return [n for n in fewest if not same_flavor(flavor, n) and selects(flavor, n, self.singles)]

    @property
    def target(self) -> tuple[str, str, str]:
        """What a wish calls it by."""
        return self.platform, self.project.folder, self.module

    @property
    def wished(self) -> Targets:
        """What a wish for all of it calls it by."""
        return [(self.platform, self.project.folder, module) for module in self.targets or (self.module,)]

    def of(self, flavor: str) -> list[ShippedApp]:
        """Return a flavor in all its configurations."""
        return list(self._by_flavor.get(flavor.casefold(), ()))

    @cached_property
    def _by_flavor(self) -> Mapping[str, list[ShippedApp]]:
        found: dict[str, list[ShippedApp]] = {}
        for app in self.brands:
            found.setdefault(app.flavor.casefold(), []).append(app)
        return found

    def value(self, flavor: str, key: str) -> Value | None:
        """Return what a flavor's facet is today."""
        app = next(iter(self.of(flavor)), self.made.get(flavor))
        return {"id": app.id, "name": app.name, "version": app.version, "build": app.build}[key] if app else None

    def text(self, flavor: str, key: str) -> str | None:
        """Return what a flavor's facet reads today; the ID without any flavor is the one that its owner states.

        Where no ID can be determined there is none: the namespace is the ID by default alone.
        """
        if key == "code-package":
            return self.code_package
        if key == "id" and not flavor:
            known = any(app.id for app in self.project.apps)
            return (base_id(self.project, self.project.apps[0]) or None) if known else None
        apart = named_by_variants(self.project, self.module, flavor) if key == "name" and flavor else []
        value = apart[0].name if apart else self.value(flavor, key)
        return value.text if value else None

    def names(self, flavor: str) -> dict[str, str]:
        """Return the localized display names of a flavor."""
        app = next(iter(self.of(flavor)), None)
        return {locale: value.text for locale, value in (app.names if app else ()) if locale != "Base"}

    @property
    def code_package(self) -> str | None:
        """The package of the Android code."""
        own = (i for i in self.project.identifiers if i.module == self.module and not i.tests)
        mine = (i for i in own if i.facet is Facet.CODE_PACKAGE)
        return next((item.value for item in mine), None) if self.project.kind == "android" else None


def _stage(app: ShippedApp) -> str:
    """Return the stage that a configuration of a target is called after; empty for its main ones."""
    return next((name for name in app.beside if same_flavor(name, app.configuration)), "")


def shared_flavors(subject: Subject, meant: Sequence[Subject]) -> list[str]:
    """Return the flavors of a build that other builds have as well."""
    return [name for name in subject.flavors if any(other.of(name) for other in meant if other is not subject)]


def load_identity(tree: Tree, strict: bool = True) -> IdentityFile | None:
    """Return the identity file at a tree's root, or None. Raises InputError for one that is not right.

    Without *strict* values may be such as their type or pattern forbids: that is told of each brand.
    """
    data = tree.required(NAME)
    if data is None:
        return None
    file = tree.kept("identity", lambda: read_identity(NAME, data, Keys(tree), Beside(tree), strict=False))
    if strict:
        tree.kept("identity is right", file.refuse_wrong)
    return file


def required_identity(tree: Tree, bare: bool = False) -> IdentityFile:
    """Return the identity file at a tree's root; *bare*: one that says nothing where there is none.

    Raises InputError when there is none.
    """
    file = load_identity(tree)
    if file is None and bare:
        return read_identity(NAME, b"format = 1\n")
    if file is None:
        raise InputError(
            f"there is no {NAME} here",
            file=str(tree.root),
            remedy="onomaxis adopt writes one from what the project is called today.",
        )
    return file


def subjects(projects: Sequence[Project], names: Mapping[str, str] | None = None) -> tuple[Subject, ...]:
    """Return the one app per platform that is meant; *names* calls it by module, target or folder, by platform.

    Raises RefusedError when a platform has several apps and none is named.
    """
    given = names or {}
    found = tuple(item for name in PLATFORMS for item in _of_platform(projects, name, given.get(name, "")))
    what, way = "they would be taken for one", "Pick one with --app."
    try:
        refuse_strangers(projects, [item.project for item in found], what, way)
    except RefusedError:
        if not given:
            raise
        return tuple(item for item in found if item.platform in given)
    return found


def subjects_called(projects: Sequence[Project], name: str) -> tuple[Subject, ...]:
    """Return the app that *name* means on each platform that has it. Raises InputError where none has."""
    known = sorted({app.module for project in projects if not project.umbrella for app in project.apps})
    having = [
        platform
        for platform in PLATFORMS
        if any(apps_called(p, name) for p in projects if p.platform == platform and not p.umbrella)
    ]
    if not having:
        raise InputError(f"there is no app “{name}” here", remedy=f"There are: {', '.join(known) or 'none'}.")
    return tuple(item for platform in having for item in _of_platform(projects, platform, name))


def left_out(projects: Sequence[Project], subjects: Sequence[Subject], name: str) -> list[Note]:
    """Say which platforms have apps, and none of the *name* that was asked for."""
    taken = {subject.platform for subject in subjects}
    others = {p.platform for p in projects if p.apps and not p.umbrella and p.platform in PLATFORMS} - taken
    return [Note(".", f"no {item} app is called “{name}”: there nothing changes") for item in sorted(others) if name]


def _of_platform(projects: Sequence[Project], platform: str, name: str) -> list[Subject]:
    here = [p for p in projects if p.platform == platform and p.apps and not p.umbrella]
    if name:
        chosen: Sequence[Project] = _named(here, name)
        if not chosen:
            known = sorted({app.module for project in here for app in project.apps})
            raise InputError(
                f"there is no {platform} app “{name}” here", remedy=f"There are: {', '.join(known) or 'none'}."
            )
    else:
        mains = [one for p in here if (one := narrowed(p, ""))]
        whole = _of_targets(mains, platform)
        if whole is not None:
            return [whole]
        chosen = one_app(projects, platform, mains)
    return [Subject(project, platform, project.apps[0].module) for project in chosen]


def _of_targets(here: Sequence[Project], platform: str) -> Subject | None:
    """Return the one app of an Xcode project whose targets are its brands or environments; None for any other."""
    project = here[0] if len(here) == 1 else None
    modules = list(dict.fromkeys(app.module for app in project.apps)) if project is not None else []
    staged = project is not None and all(app.beside and not app.flavor for app in project.apps)
    if project is None or (len(modules) < 2 and not staged) or platform != "ios":
        return None
    above = variant_targets(project)
    plain = [name for name in modules if not all(app.beside for app in project.apps if app.module == name)]
    if len(plain) > 1 or any(above.get(name, main) != main for main in plain for name in modules):
        return None
    main = next(iter(plain), modules[0])
    apps = sorted(project.apps, key=lambda app: app.module != main)
    return Subject(replace(project, apps=tuple(apps)), platform, main, tuple(modules))


def _named(projects: Sequence[Project], name: str) -> list[Project]:
    """Return the projects with an app of a name; a folder's name means what stands nearest to it."""
    found = [replace(p, apps=apps) for p in projects if (apps := apps_called(p, name))]
    exact = [p for p in found if p.folder == name]
    top = exact or found
    return [one for p in top if (one := narrowed(p, ""))]


def subjects_of(file: IdentityFile, projects: Sequence[Project]) -> tuple[Subject, ...]:
    """Return the apps that an identity file speaks of. Raises InputError at the file's line where it is not clear.

    A platform may lie in another repository that shares the file: where no project is for it, none is sought, and
    ``elsewhere`` tells of it.
    """
    found: list[Subject] = []
    for platform in _present(projects):
        name = file.own(platform, OWN_KEY[platform])
        try:
            found += _of_platform(projects, platform, name)
        except OnomaxisError as error:
            keys = (platform, OWN_KEY[platform]) if name else ("format",)
            advice = 'Say which with module = "…" in [android], target = "…" in [ios].'
            raise InputError(
                error.message, file=file.home(file.line(*keys)), line=file.line(*keys), remedy=advice
            ) from None
    return tuple(found)


def elsewhere(file: IdentityFile, projects: Sequence[Project]) -> list[Note]:
    """Say which apps an identity file names on platforms that have no project here."""
    here = _present(projects)
    named = ((name, OWN_KEY[name]) for name in PLATFORMS if name not in here and file.own(name, OWN_KEY[name]))
    said = "{} is named for {}, which has no project here: it is neither checked nor changed"
    return [
        Note(file.home(line := file.line(*keys)) + f":{line}", said.format(file.own(*keys), PLATFORM_NAMES[keys[0]]))
        for keys in named
    ]


def _present(projects: Sequence[Project]) -> list[str]:
    return [name for name in PLATFORMS if any(item.platform == name for item in projects)]


def refuse_unread(subjects: Sequence[Subject]) -> None:
    """Raise RefusedError where an app has flavors that cannot be read: nothing is built on those that can alone."""
    for subject in subjects:
        for item in subject.project.unresolved:
            if item.facet == FLAVORS:
                raise RefusedError(
                    f"the flavors of {subject.module} cannot be determined: {item.reason} ({item.text})",
                    file=item.file,
                    line=item.line,
                    remedy="Declare the flavors one by one, or in a loop over literals; nothing was changed.",
                )


def umbrellas(projects: Sequence[Project], subjects: Sequence[Subject]) -> list[Project]:
    """Return the frameworks' projects over some apps, each once."""
    above = [umbrella_of(projects, subject.project) for subject in subjects]
    return list({item.key: item for item in above if item is not None}.values())
