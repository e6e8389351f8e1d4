"""Which projects a wish is for, and which of their apps."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from onomaxis.errors import InputError, RefusedError
from onomaxis.model import ShippedApp
from onomaxis.platforms import PLATFORM_NAMES, PLATFORMS
from onomaxis.projects.project import Project, apps_called, apps_meant, base_id, together
from onomaxis.surveys.halves import home_of, umbrella_of
from onomaxis.surveys.survey import Survey
from onomaxis.wishes import Wish


def chosen_projects(survey: Survey, wish: Wish) -> list[Project]:
    """Return the one project per platform that the wish is for. Raises RefusedError when it is not clear which."""
    if wish.targets:
        meant = [(project, apps_meant(project, "", wish.targets)) for project in survey.projects]
        found = [(project, apps) for project, apps in meant if apps and not project.umbrella]
        return [replace(project, apps=_main_first(project, apps)) for project, apps in found]
    chosen: list[Project] = []
    for platform in PLATFORMS:
        if platform not in platforms(wish):
            continue
        here = [p for p in survey.projects if p.platform == platform]
        libraries = _libraries(here, wish) if platform == "android" else []
        if libraries:
            return libraries
        candidates = [p for p in here if p.apps]
        candidates = [one for p in candidates if (one := narrowed(p, wish.app))]
        chosen += one_app(survey.projects, platform, candidates)
    if wish.app and chosen:
        chosen += _other_halves(survey.projects, chosen, platforms(wish))
    apart = wish.android_id and wish.ios_id and wish.android_id != wish.ios_id  # both are spoken of by themselves
    if not wish.app and not apart:
        advice = ", or give each its ID with --android-id and --ios-id" if wish.both_id else " or --platform"
        what = "both would get this ID" if wish.both_id else "both would get the same"
        refuse_strangers(survey.projects, chosen, what, f"Pick one with --app{advice}.")
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
            remedy="Pick one with --app (an ID, a name, a module or target, its folder), or run it in that folder.",
        )
    return candidates


def _other_halves(projects: Sequence[Project], chosen: Sequence[Project], wanted: Sequence[str]) -> list[Project]:
    """Return what the chosen app is on platforms where its name in the wish meant none: below the same framework.

    It is called the same there (ID or display name, whatever the case and separators), or both are the only ones.
    """
    found: list[Project] = []
    for platform in set(wanted) - {project.platform for project in chosen}:
        for project in chosen:
            above = umbrella_of(projects, project)
            if above is None:
                continue
            beside = [p for p in projects if p.platform == platform and p.apps and umbrella_of(projects, p) is above]
            halves = [half for p in beside for module in _modules(p) if (half := narrowed(p, module))]
            alike = [half for half in halves if _titles(project) & _titles(half)]
            whole = next(item for item in projects if item.key == project.key)
            alone = len(halves) == 1 and len(_modules(whole)) == 1
            found += alike if len(alike) == 1 else halves if alone else []
    return list({half.key: half for half in found}.values())


def _titles(project: Project) -> set[str]:
    """Return the IDs and display names of a project's apps, without case and separators."""
    texts = [value.text for app in project.apps for value in (app.id, app.name) if value is not None]
    return {"".join(char for char in text.casefold() if char.isalnum()) for text in texts} - {""}


def refuse_strangers(projects: Sequence[Project], chosen: Sequence[Project], what: str, remedy: str) -> None:
    """Raise RefusedError where an Android and an iOS app that have nothing to do with each other would become one.

    *what* says what would happen to them. They are one app when they stand below one framework, in one folder, in two
    that are called after the platforms, or share a name or the beginning of the ID.
    """
    androids = [project for project in chosen if project.platform == "android"]
    others = [project for project in chosen if project.platform == "ios"]
    for one in androids:
        for other in others:
            if not _related(projects, one, other):
                listed = ", ".join(
                    f"{_shown(p, p.apps[0].module)} ({PLATFORM_NAMES[p.platform]}, {p.folder or '.'})"
                    for p in (one, other)
                )
                raise RefusedError(f"these look like two apps, and {what}: {listed}", remedy=remedy)


def _related(projects: Sequence[Project], one: Project, other: Project) -> bool:
    if home_of(projects, one) == home_of(projects, other):
        return True
    names = [_words(project) for project in (one, other)]
    heads = [{head for app in project.apps if (head := _head(project, app))} for project in (one, other)]
    return bool(names[0] & names[1]) or not all(heads) or bool(heads[0] & heads[1])


def _words(project: Project) -> set[str]:
    """Return what a project and its apps are called, without case and separators."""
    found = {project.label, *(app.module for app in project.apps)} - {"app", "App", "Runner"}
    found |= {app.name.text for app in project.apps if app.name is not None}
    return {"".join(char for char in name.casefold() if char.isalnum()) for name in found} - {""}


def _head(project: Project, app: ShippedApp) -> str:
    """Return the beginning of an app's ID: its first two parts."""
    return ".".join(base_id(project, app).casefold().split(".")[:2])


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
    return bool(wish.name is not None or wish.names or wish.version or wish.build)


def platforms(wish: Wish) -> tuple[str, ...]:
    """Return the platforms that the wish speaks of."""
    android = bool(wish.android_id or wish.code_package or wish.project_name) or _general(wish)
    ios = bool(wish.ios_id or wish.project_name or wish.team or wish.unify) or _general(wish)
    spoken = {"android": android, "ios": ios}
    return tuple(name for name, wanted in spoken.items() if wanted and name in (wish.platforms or spoken))


def narrowed(project: Project, app: str) -> Project | None:
    """Return *project* with only the apps of module or target *app*; by default those of its main platform.

    An iOS project's television or desktop apps are apps of their own: they are named with --app.
    """
    if not app:
        main = {item.module for item in project.apps if item.platform == project.platform}
        meant = together(project, main)
        found = tuple(item for item in project.apps if item.module in meant)
        return replace(project, apps=_main_first(project, found or project.apps))
    apps = apps_called(project, app)
    return replace(project, apps=_main_first(project, apps)) if apps else None


def _main_first(project: Project, apps: Sequence[ShippedApp]) -> tuple[ShippedApp, ...]:
    """Return apps with the one that the others are variants of at the beginning: the rest keep their order."""
    return tuple(sorted(apps, key=lambda app: (app.platform != project.platform, len(base_id(project, app)))))


def _modules(project: Project) -> list[str]:
    """Return the modules that ship apps of their own: one of each that are one app together."""
    found: list[str] = []
    taken: set[str] = set()
    for app in sorted(project.apps, key=lambda item: len(base_id(project, item))):
        if app.module not in taken and base_id(project, app):
            found.append(app.module)
            taken |= together(project, {app.module})
    return found or [""]
