"""A wish turned, once, into targets: the projects that it is for, and what each facet there is and becomes."""

from __future__ import annotations

import re
import shlex
from collections.abc import Sequence
from typing import NamedTuple

from onomaxis.errors import RefusedError
from onomaxis.flavor_names import same_flavor, selects
from onomaxis.identity.rules import version_in
from onomaxis.model import Facet, Mention, ShippedApp, Value
from onomaxis.platforms import PLATFORM_NAMES
from onomaxis.projects.project import Project, base_id, brand_of, flavor_called, main_id, shared_id
from onomaxis.rename.choice import chosen_projects, platforms
from onomaxis.rename.limits import check_aims, refuse_unreadable
from onomaxis.rename.renamings import renamings_of
from onomaxis.surveys.flavors import known_flavor, refuse_one_sided, spelled_flavor
from onomaxis.surveys.halves import umbrella_of
from onomaxis.surveys.survey import Survey
from onomaxis.wishes import Renaming, Wish

SAID = {Facet.DISPLAY_NAME: "display name", Facet.VERSION_NAME: "version", Facet.VERSION_CODE: "build number"}


class Becoming(NamedTuple):
    """A facet of an app: what it reads today (None: nothing), and what it shall read.

    ``unclear``: there is no app without a flavor, and the flavors differ.
    """

    facet: Facet
    old: str | None
    new: str
    unclear: bool = False


class Target(NamedTuple):
    """One project that a wish is for, with only the apps that are meant.

    ``renamings`` say which identifiers become which, ``values`` what becomes of name, version and build number;
    ``aim`` is the wish as it concerns this project; ``umbrella`` is the framework's project over it,
    ``others`` are the modules or targets of the project that ship apps which are not meant. ``base`` is the ID that
    stands for the app without its flavors, empty where each has one of its own.
    """

    project: Project
    aim: Wish
    renamings: tuple[Renaming, ...] = ()
    values: tuple[Becoming, ...] = ()
    umbrella: Project | None = None
    others: frozenset[str] = frozenset()
    base: str = ""

    @property
    def modules(self) -> frozenset[str]:
        """The modules or targets whose apps are meant."""
        return self.project.modules

    def becoming(self, facet: Facet) -> Becoming | None:
        """Return what a facet becomes; None where the wish does not speak of it."""
        return next((item for item in self.values if item.facet is facet), None)


def targets_of(survey: Survey, wish: Wish) -> tuple[Target, ...]:
    """Return what a wish means in a tree. Raises InputError or RefusedError where that is not clear or allowed."""
    refuse_unreadable(survey, wish, platforms(wish))
    chosen = chosen_projects(survey, wish)
    wish = wish._replace(flavor=known_flavor(chosen, wish.flavor))
    refuse_one_sided(chosen, wish.flavor, wish.platforms, combined=False)
    _refuse_flavors_name(chosen, wish)
    aims = [(project, _aim(project, wish)) for project in chosen]
    check_aims(aims, wish.both_id)
    found = tuple(_target(survey, wish, project, aim, [item for item, _ in aims]) for project, aim in aims)
    for target in found:
        for file in _version_files(target) if target.aim.version else ():
            version_in(file, target.aim.version)
    return found


def _refuse_flavors_name(chosen: Sequence[Project], wish: Wish) -> None:
    """Refuse to take a whole app, with all its flavors, for the one flavor that --app names."""
    for project in chosen:
        flavor = flavor_called(project, wish.app)
        if flavor and not same_flavor(flavor, wish.flavor):
            platform, module = PLATFORM_NAMES[project.platform], project.apps[0].module
            remedy = f"Say --app {shlex.quote(module)} --flavor {flavor} --platform {project.platform}."
            other = next((item.platform for item in chosen if item.platform != project.platform), "")
            more = f" {PLATFORM_NAMES[other]} takes a command of its own: --platform {other}." if other else ""
            raise RefusedError(f"“{wish.app}” is flavor {flavor} of {module} on {platform}", remedy=remedy + more)


def _version_files(target: Target) -> set[str]:
    """Return the files that state the version of what a target means: of its apps, and of the framework over them."""
    above = target.umbrella.owners if target.umbrella is not None else ()
    modules = {"", *target.modules}
    return {
        (owner.owner or owner).place.file
        for owner in (*target.project.owners, *above)
        if owner.facet is Facet.VERSION_NAME
        and owner.scope.module in modules
        and same_flavor(owner.scope.flavor, target.aim.flavor)
    }


def _target(survey: Survey, wish: Wish, project: Project, aim: Wish, chosen: Sequence[Project]) -> Target:
    base = _base(project, chosen)
    return Target(
        project,
        aim,
        tuple(renamings_of(project, aim, base, wish.app)),
        _values(project, aim, chosen),
        umbrella_of(survey.projects, project),
        _others(survey, project),
        base,
    )


def _base(project: Project, chosen: Sequence[Project]) -> str:
    """Return the ID that stands for an app without its flavors: its own, else its other half's."""
    if not project.apps or project.platform != "ios":
        return base_id(project, project.apps[0]) if project.apps else ""
    module = project.apps[0].module
    ids = [app.id.text for app in project.apps if app.module == module and app.id]
    halves = [base_id(half, half.apps[0]) for half in chosen if half.apps and half.platform != project.platform]
    above = (half for half in halves if half and all(id_.startswith(f"{half}.") for id_ in ids))
    return shared_id(project, module) or next(above, "")


def _others(survey: Survey, project: Project) -> frozenset[str]:
    whole = (item for item in survey.projects if item.key == project.key)
    return frozenset(app.module for item in whole for app in item.apps) - {app.module for app in project.apps}


def _aim(project: Project, wish: Wish) -> Wish:
    """Return a wish as it concerns the apps of one project."""
    flavor = spelled_flavor([project], wish.flavor) or wish.flavor
    return wish._replace(platform=project.platform, flavor=flavor, apart=_apart(project, wish))


def _apart(project: Project, wish: Wish) -> bool:
    """Tell whether a platform gets an ID of its own; of two that differ, iOS: Android keeps the framework's one."""
    if wish.android_id and wish.ios_id:
        return wish.android_id != wish.ios_id and project.platform == "ios"
    return bool(wish.android_id or wish.ios_id)


def _values(project: Project, aim: Wish, chosen: Sequence[Project]) -> tuple[Becoming, ...]:
    if not project.apps:
        return ()
    wished = (
        (Facet.DISPLAY_NAME, aim.name),
        (Facet.VERSION_NAME, aim.version or None),
        (Facet.VERSION_CODE, aim.build or None),
    )
    return tuple(_becoming(project, aim, chosen, facet, new) for facet, new in wished if new is not None)


def _becoming(project: Project, aim: Wish, chosen: Sequence[Project], facet: Facet, new: str) -> Becoming:
    """Return what a facet becomes; where only flavors state it, and differ, what the app's other half says counts."""
    if aim.flavor and facet is Facet.DISPLAY_NAME and combined_owners(project, facet, aim.flavor):
        shown = (value.text for app in variants_with(project, aim.flavor) if (value := value_of(app, facet)))
        return Becoming(facet, next(shown, None), new)
    if aim.flavor or not _flavors_differ(project, facet):
        return Becoming(facet, present(project, facet, aim.flavor), new)
    halves = (half for half in chosen if half.apps and half.platform != project.platform)
    known = (present(half, facet, "") for half in halves if not _flavors_differ(half, facet))
    old = next((text for text in known if text is not None), None)
    return Becoming(facet, old, new, unclear=old is None)


def _flavors_differ(project: Project, facet: Facet) -> bool:
    """Tell whether nothing states a facet for the app itself, and its flavors do not agree on it."""
    module = project.apps[0].module
    mine = [app for app in project.apps if app.module == module]
    owners = (item for item in project.owners if item.facet is facet and item.scope.module == module)
    if any(not app.flavor for app in mine) or any(not (o.scope.flavor or o.scope.locale) for o in owners):
        return False
    return _main(project, mine, facet) is None and len({v.text for app in mine if (v := value_of(app, facet))}) > 1


def _main(project: Project, apps: Sequence[ShippedApp], facet: Facet) -> Value | None:
    """Return what the flavor says whose ID the others' begin with: that is the app, the others are variants of it."""
    base = shared_id(project, apps[0].module)
    return next((value_of(app, facet) for app in apps if base and app.id and app.id.text == base), None)


def present(project: Project, facet: Facet, flavor: str) -> str | None:
    """Return the value that *facet* has today in the app itself, or in a flavor: what ships."""
    modules = {app.module for app in project.apps}
    if flavor:
        brand = brand_of(project, modules, flavor)
        value = value_of(brand, facet) if brand is not None else None
        if value is not None:
            return value.text
    plain = next((app for app in project.apps if not app.flavor), None) if not flavor else None
    shipped = value_of(plain, facet) if plain is not None else None
    if shipped is not None:
        return shipped.text
    for owner in project.owners:
        if owner.facet is not facet or owner.scope.locale or not same_flavor(owner.scope.flavor, flavor):
            continue
        app = next((app for app in project.apps if app.module == owner.scope.module), None)
        if app is not None and owner.scope.configuration in ("", app.configuration):
            return owner.value
    first = next((item for item in project.apps if same_flavor(item.flavor, flavor)), project.apps[0])
    value = (_main(project, project.apps, facet) if not flavor else None) or value_of(first, facet)
    return value.text if value else None


def with_name(text: str, old: str, new: str) -> str:
    """Return what a variant's own name becomes that holds the main one's: ``Oak Staging``; empty for another name."""
    word = re.compile(rf"(?<!\w){re.escape(old)}(?!\w)") if old and new and text != old else None
    return word.sub(lambda _: new, text, count=1) if word is not None and word.search(text) else ""


def variants_with(project: Project, flavor: str) -> list[ShippedApp]:
    """Return what ships of a flavor, be it in combinations: the main one first, whose ID the others go on from."""
    mine = [app for app in project.apps if selects(flavor, app.variant, project.flavors)]
    main = main_id(_ids(mine))
    return sorted(mine, key=lambda app: app.id is None or app.id.text != main)


def _ids(apps: Sequence[ShippedApp]) -> list[str]:
    return [app.id.text for app in apps if app.id is not None]


def combined_owners(project: Project, facet: Facet, flavor: str) -> list[Mention]:
    """Return the owners of a facet that are a combination's own, of a flavor and others."""
    parts = project.flavors.parts(flavor) or {flavor}
    fewest = min((project.combined.get(name.casefold(), ()) for name in parts), key=len)
    made = ((owner, owner.scope.flavor) for owner in fewest if owner.facet is facet)
    return [o for o, name in made if not same_flavor(name, flavor) and selects(flavor, name, project.flavors)]


def named_by_variants(project: Project, module: str, flavor: str) -> list[ShippedApp]:
    """Return what ships of a flavor where all of it has names of its own, the main one first; else nothing.

    An environment, whose variants are of several brands, has no main one.
    """
    own = {(owner.place.file, owner.place.start) for owner in combined_owners(project, Facet.DISPLAY_NAME, flavor)}
    mine = [app for app in variants_with(project, flavor) if app.module == module] if own else []
    told = [(app.name.origin.file, app.name.origin.start) in own for app in mine if app.name is not None]
    return mine if told and all(told) and len(told) == len(mine) and main_id(_ids(mine)) else []


def value_of(app: ShippedApp, facet: Facet) -> Value | None:
    """Return an app's name, version or build number."""
    return {Facet.DISPLAY_NAME: app.name, Facet.VERSION_NAME: app.version, Facet.VERSION_CODE: app.build}[facet]


def has_flavor(project: Project, flavor: str) -> bool:
    """Tell whether a project ships a flavor or sets anything for it."""
    return bool(spelled_flavor([project], flavor))
