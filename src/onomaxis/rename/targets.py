"""A wish turned, once, into targets: the projects that it is for, and what each facet there is and becomes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from onomaxis.errors import InputError, RefusedError
from onomaxis.model import Aim, Facet, Renaming, ShippedApp, Value, Wish, same_flavor
from onomaxis.projects.project import Project, apps_called, apps_meant, base_id
from onomaxis.rename.renamings import flavors, renamings_of
from onomaxis.survey.survey import Survey, umbrella_of

PLATFORM_NAMES = {"android": "Android", "ios": "iOS"}


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
    ``aim`` is the wish as it concerns this project; ``umbrella`` is the framework's project over it.
    """

    project: Project
    aim: Aim
    renamings: tuple[Renaming, ...] = ()
    values: tuple[Becoming, ...] = ()
    umbrella: Project | None = None

    @property
    def modules(self) -> frozenset[str]:
        """The modules or targets whose apps are meant."""
        return frozenset(app.module for app in self.project.apps)

    def becoming(self, facet: Facet) -> Becoming | None:
        """Return what a facet becomes; None where the wish does not speak of it."""
        return next((item for item in self.values if item.facet is facet), None)


def targets_of(survey: Survey, wish: Wish) -> tuple[Target, ...]:
    """Return what a wish means in a tree. Raises InputError or RefusedError where that is not clear, or not allowed."""
    from onomaxis.rename.refusals import check_aims, refuse_unreadable

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
        )
        for project, aim in aims
    )


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
    )


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


# -- which projects


def chosen_projects(survey: Survey, wish: Wish) -> list[Project]:
    """Return the one project per platform that the wish is for. Raises RefusedError when it is not clear which."""
    if wish.targets:
        meant = [(project, apps_meant(project, "", wish.targets)) for project in survey.projects]
        return [replace(project, apps=apps) for project, apps in meant if apps and not project.umbrella]
    chosen: list[Project] = []
    for platform in ("android", "ios"):
        if platform not in platforms(wish):
            continue
        here = [p for p in survey.projects if p.platform == platform]
        libraries = _libraries(here, wish) if platform == "android" else []
        if libraries:
            return libraries
        candidates = [p for p in here if p.apps]
        candidates = [one for p in candidates if (one := narrowed(p, wish.app))]
        chosen += one_app(survey.projects, platform, candidates)
    if wish.app and not chosen:
        names = sorted({app.module for app in survey.apps})
        raise InputError(f"there is no app “{wish.app}” here", remedy=f"The apps are: {', '.join(names)}.")
    if not chosen:
        wanted = " or ".join(PLATFORM_NAMES[p] for p in platforms(wish))
        raise InputError(f"there is no {wanted} app here to change", file=str(survey.tree.root))
    return chosen


def one_app(projects: Sequence[Project], platform: str, candidates: Sequence[Project]) -> Sequence[Project]:
    """Return *candidates* when they are one app. Raises RefusedError with all of them when they are several."""
    ids = {(p.folder, p.label, m) for p in candidates for m in _modules(p)}
    if len(ids) > 1 and not _one_app(projects, candidates):
        listed = ", ".join(sorted(f"{_shown(p, m)} ({p.folder or '.'})" for p in candidates for m in _modules(p)))
        raise RefusedError(
            f"there are several {PLATFORM_NAMES[platform]} apps here: {listed}",
            remedy="Pick one with --app (an ID, a name, a module or target), or give the folder of one app.",
        )
    return candidates


def _shown(project: Project, module: str) -> str:
    """Name an app by what tells it from others: its ID, else its module or target."""
    app = next((item for item in project.apps if item.module == module), None)
    return base_id(project, app) or module if app else module


def _one_app(projects: Sequence[Project], candidates: Sequence[Project]) -> bool:
    """Tell whether projects are halves of one framework's app: below one umbrella and called the same."""
    above = [umbrella_of(projects, project) for project in candidates]
    bases = {base_id(project, project.apps[0]) for project in candidates}
    same = len(bases) == 1 and all(len(_modules(project)) == 1 for project in candidates)
    return same and above[0] is not None and all(item is above[0] for item in above)


def _libraries(projects: Sequence[Project], wish: Wish) -> list[Project]:
    """Return the project whose library alone is meant: its code package shall move, and no app of its is named."""
    if not wish.code_package or wish.android_id or _general(wish):
        return []
    if wish.app:
        named = [p for p in projects if any(item.module == wish.app for item in p.identifiers)]
        named = [p for p in named if all(wish.app not in (app.module, p.label, p.folder) for app in p.apps)]
        return [replace(p, apps=()) for p in named]
    return [] if any(p.apps for p in projects) else [p for p in projects if p.identifiers]


def _general(wish: Wish) -> bool:
    """Tell whether the wish speaks of what every platform has."""
    return bool(wish.name is not None or wish.locale_names or wish.version or wish.build)


def platforms(wish: Wish) -> tuple[str, ...]:
    """Return the platforms that the wish speaks of."""
    android = bool(wish.android_id or wish.code_package or wish.project_name) or _general(wish)
    ios = bool(wish.ios_id or wish.project_name or wish.team or wish.unify) or _general(wish)
    return tuple(name for name, wanted in (("android", android), ("ios", ios)) if wanted)


def narrowed(project: Project, app: str) -> Project | None:
    """Return *project* with only the apps of module or target *app*; by default those of its main platform.

    An iOS project's television or desktop apps are apps of their own: they are named with --app.
    """
    if not app:
        main = tuple(item for item in project.apps if item.platform == project.platform)
        return replace(project, apps=main or project.apps)
    apps = apps_called(project, app)
    return replace(project, apps=apps) if apps else None


def _modules(project: Project) -> list[str]:
    """Return the modules that ship apps of their own: those whose base ID differs from the first one's."""
    seen: dict[str, str] = {}
    for app in project.apps:
        seen.setdefault(base_id(project, app), app.module)
    bases = [base for base in seen if base]
    return list(dict.fromkeys(seen[base] for base in bases)) or [""]


def has_flavor(project: Project, flavor: str) -> bool:
    """Tell whether a project ships a flavor or sets anything for it."""
    return any(same_flavor(flavor, name) for name in flavors(project))
