"""A wish turned, once, into targets: the projects that it is for, and what each facet there is and becomes."""

from __future__ import annotations

from dataclasses import dataclass

from onomaxis.model import Aim, Facet, Renaming, ShippedApp, Value, Wish, same_flavor
from onomaxis.projects.project import Project
from onomaxis.rename.choice import chosen_projects, platforms
from onomaxis.rename.limits import check_aims, refuse_unreadable
from onomaxis.rename.renamings import flavors, renamings_of
from onomaxis.survey.survey import Survey, umbrella_of


@dataclass(frozen=True)
class Becoming:
    """A facet of an app: what it reads today (None: nothing), and what it shall read."""

    facet: Facet
    old: str | None
    new: str


@dataclass(frozen=True)
class Target:
    """One project that a wish is for, with only the apps that are meant.

    ``renamings`` say which identifiers become which, ``values`` what becomes of name, version and build number;
    ``aim`` is the wish as it concerns this project; ``umbrella`` is the framework's project over it,
    ``others`` are the modules or targets of the project that ship apps which are not meant.
    """

    project: Project
    aim: Aim
    renamings: tuple[Renaming, ...] = ()
    values: tuple[Becoming, ...] = ()
    umbrella: Project | None = None
    others: frozenset[str] = frozenset()

    @property
    def modules(self) -> frozenset[str]:
        """The modules or targets whose apps are meant."""
        return frozenset(app.module for app in self.project.apps)

    def becoming(self, facet: Facet) -> Becoming | None:
        """Return what a facet becomes; None where the wish does not speak of it."""
        return next((item for item in self.values if item.facet is facet), None)


def targets_of(survey: Survey, wish: Wish) -> tuple[Target, ...]:
    """Return what a wish means in a tree. Raises InputError or RefusedError where that is not clear or allowed."""
    refuse_unreadable(survey, wish, platforms(wish))
    aims = [(project, _aim(project, wish)) for project in chosen_projects(survey, wish)]
    check_aims(aims, wish.both_id)
    return tuple(
        Target(
            project,
            aim,
            tuple(renamings_of(project, aim, wish.app)),
            _values(project, aim),
            umbrella_of(survey.projects, project),
            _others(survey, project),
        )
        for project, aim in aims
    )


def _others(survey: Survey, project: Project) -> frozenset[str]:
    whole = (item for item in survey.projects if item.key == project.key)
    return frozenset(app.module for item in whole for app in item.apps) - {app.module for app in project.apps}


def _aim(project: Project, wish: Wish) -> Aim:
    return Aim(
        id={"android": wish.android_id, "ios": wish.ios_id}.get(project.platform, ""),
        code_package=wish.code_package,
        name=wish.name,
        names=wish.locale_names,
        version=wish.version,
        build=wish.build,
        project_name=wish.project_name,
        team=wish.team,
        flavor=wish.flavor,
        keep_code=wish.keep_code,
        unify=wish.unify,
        shared=wish.shared,
        prose=wish.prose,
        services=wish.services,
        groups=wish.groups,
        apart=_apart(project, wish),
    )


def _apart(project: Project, wish: Wish) -> bool:
    """Tell whether a platform gets an ID of its own; of two that differ, iOS: Android keeps the framework's one."""
    if wish.android_id and wish.ios_id:
        return wish.android_id != wish.ios_id and project.platform == "ios"
    return bool(wish.android_id or wish.ios_id)


def _values(project: Project, aim: Aim) -> tuple[Becoming, ...]:
    if not project.apps:
        return ()
    wished = (
        (Facet.DISPLAY_NAME, aim.name),
        (Facet.VERSION_NAME, aim.version or None),
        (Facet.VERSION_CODE, aim.build or None),
    )
    return tuple(
        Becoming(facet, present(project, facet, aim.flavor), new) for facet, new in wished if new is not None
    )


def present(project: Project, facet: Facet, flavor: str) -> str | None:
    """Return the value that *facet* has today in the app itself: what ships, where the app has no flavors."""
    plain = next((app for app in project.apps if not app.flavor), None) if not flavor else None
    shipped = _value(plain, facet) if plain is not None else None
    if shipped is not None:
        return shipped.text
    for owner in project.owners:
        if owner.facet is not facet or owner.scope.locale or not same_flavor(owner.scope.flavor, flavor):
            continue
        app = next((app for app in project.apps if app.module == owner.scope.module), None)
        if app is not None and owner.scope.configuration in ("", app.configuration):
            return owner.value
    first = next((item for item in project.apps if same_flavor(item.flavor, flavor)), project.apps[0])
    value = _value(first, facet)
    return value.text if value else None


def _value(app: ShippedApp, facet: Facet) -> Value | None:
    return {Facet.DISPLAY_NAME: app.name, Facet.VERSION_NAME: app.version, Facet.VERSION_CODE: app.build}[facet]


def has_flavor(project: Project, flavor: str) -> bool:
    """Tell whether a project ships a flavor or sets anything for it."""
    return any(same_flavor(flavor, name) for name in flavors(project))
