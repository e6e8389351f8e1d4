"""Which icons are drawn: the homes that a wish means, whose apps they are, and which keep their old art."""

from __future__ import annotations

from collections.abc import Sequence

from onomaxis.errors import InputError, RefusedError
from onomaxis.flavor_names import same_flavor, selects
from onomaxis.icons.standing import has_own_icon, names_own_set
from onomaxis.icons.wish import IconWish, Warning, is_covered, is_for
from onomaxis.model import IconHome
from onomaxis.platforms import PLATFORM_NAMES, PLATFORMS
from onomaxis.projects.project import Project, apps_called, flavor_called, variant_targets
from onomaxis.surveys.flavors import known_flavor, refuse_one_sided
from onomaxis.surveys.variants import environments
from onomaxis.tree import Tree


def chosen_homes(tree: Tree, projects: list[Project], wish: IconWish) -> list[IconHome]:
    """Return the homes to fill, in order; one per icon set."""
    meant = _with_icons_of(projects, wish.apps)
    known_flavor(meant, wish.flavor, combined=True)
    refuse_one_sided(meant, wish.flavor, wish.platforms)
    of_each = [(project, _homes_of(project, wish.flavor)) for project in meant]
    found = [home for _, homes in of_each for home in homes]
    for project, homes in of_each if wish.flavor and found else ():
        asked = project.platform in (wish.platforms or PLATFORMS)
        if asked and project.built and project.icons and not homes:
            said = f"no icon of {PLATFORM_NAMES[project.platform]} belongs to “{wish.flavor}” alone"
            way = f"--platform {found[0].platform} where that one alone is meant; nothing was changed."
            raise RefusedError(said, file=project.folder or ".", remedy=f"Name a variant, or say {way}")
    if wish.platforms:
        found = [home for home in found if _is_on(home, wish.platforms)]
    _refuse_several(projects, found, wish)
    found = [home for home in found if not wish.apps or _is_of(projects, home, wish.apps)]
    if not wish.apps:
        kept = variants_apart(projects, found)
        found = [home for home in found if home not in kept]
    foreign = [home for home in found if home.style == "foreign"]
    found = [home for home in found if home.style != "foreign" and is_covered(home, wish.parts)]
    if not found and foreign:
        form = foreign[0].folder.rpartition(".")[2]
        raise InputError(
            f"this icon is kept as “.{form}”, a form that is not drawn",
            file=foreign[0].folder,
            remedy="Draw an icon set (.appiconset) and name it in the build settings.",
        )
    if not found:
        raise InputError(
            "no launcher icon is declared here that could be drawn", file=str(tree.root), remedy=_remedy(projects)
        )
    return found


def drawn_flavors(tree: Tree, projects: list[Project], apps: tuple[str, ...]) -> list[str]:
    """Return the flavors that have an icon of some apps (of all, where none is named), in order.

    Environments are left out where there are others: their icons are their brands'.
    """
    drawn = {home.flavor for p in _with_icons_of(projects, apps) for home in p.icons if home.flavor in p.flavors}
    return sorted(drawn - environments(drawn, projects, tree) or drawn)


def _with_icons_of(projects: list[Project], apps: tuple[str, ...]) -> list[Project]:
    """Return the projects that have an icon of some apps; all of them where no app is named, or none has one."""
    found = [p for p in projects if any(_is_of(projects, home, apps) for home in p.icons)] if apps else []
    return found or projects


def _homes_of(project: Project, flavor: str) -> list[IconHome]:
    """Return a project's icons of a flavor: its own, or the one that it would get and those of its combinations.

    A combination that a Gradle build puts together may have a source set of its own, whether it is there or not.
    """
    parts = project.flavors.parts(flavor)

    def is_it(name: str) -> bool:
        return same_flavor(name, flavor) or (len(parts) > 1 and project.flavors.parts(name) == parts)

    own = [home for home in project.icons if is_it(home.flavor)]
    if not flavor or (own and not any(home.references for home in own)):
        return own
    built = next((app.flavor for app in project.apps if is_it(app.flavor)), "")
    if len(parts) > 1 and project.platform == "android" and built and not own:
        mains = (home for home in project.icons if not home.flavor and home.style == "android-resource")
        made = ((home, home.folder.replace("/src/main/", f"/src/{built}/")) for home in mains)
        return [home._replace(flavor=built, folder=folder) for home, folder in made if folder != home.folder]
    found = [home for home in project.icons if home.flavor and selects(flavor, home.flavor, project.flavors)]
    return [*own, *(home for home in found if names_own_set(home) and home not in own)]


def variants_apart(projects: Sequence[Project], homes: Sequence[IconHome]) -> list[IconHome]:
    """Return the icons that the environments of an app have of their own, each a target: they are no art of the app.

    An environment's target that names the app's own set shares it.
    """
    found = []
    for project in projects:
        above = variant_targets(project)
        mine = [home for home in project.icons if home in homes]
        shared = {home.folder for home in mine if home.module not in above}
        found += [home for home in mine if home.module in above and home.folder not in shared] if shared else []
    return found


def _remedy(projects: list[Project]) -> str:
    """Say how an icon is begun in the projects that are here."""
    kinds, platforms = ({getattr(item, what) for item in projects} & _BEGUN.keys() for what in ("kind", "platform"))
    said = "; ".join(text for name, text in _BEGUN.items() if name in (kinds or platforms or ("android", "ios")))
    return f"To begin one, {said}. Then run this again."


# How an icon is named for the first time: the pictures need not be there.
_BEGUN = {
    "android": 'write android:icon="@mipmap/ic_launcher" into <application> of the manifest (Android)',
    "ios": "set ASSETCATALOG_COMPILER_APPICON_NAME to AppIcon and give the target an asset catalog (iOS)",
    "expo": "name a PNG file in the configuration (icon; of a configuration that is a program literals are read)",
    "maui": "name one file in the project file (MauiIcon Include)",
    "unity": "name a PNG file that has its .meta file in the player settings",
    "godot": "name a picture in the project (config/icon), for each size in the presets",
    "tauri": "list the pictures in the bundle (bundle.icon)",
}


def _refuse_several(projects: list[Project], homes: list[IconHome], wish: IconWish) -> None:
    """Raise RefusedError where one art would go to several apps, and none of them was picked."""
    if wish.apps:
        unknown = [app for app in wish.apps if not any(_is_of(projects, home, (app,)) for home in homes)]
        if unknown:
            listed = ", ".join(sorted({home.module for home in homes}))
            raise InputError(f"there is no icon of an app “{unknown[0]}” here", remedy=f"The apps are: {listed}.")
        return
    apps: dict[str, dict[str, str]] = {}
    for project in projects:
        for home in project.icons:
            if home in homes and home.style in _ONE_EACH:
                key, label = _app_of(project, home)
                apps.setdefault(home.platform, {}).setdefault(key, label)
    for found in apps.values():
        if len(found) > 1:
            listed = ", ".join(sorted(found.values()))
            raise RefusedError(
                f"there are several apps here whose icons would all be drawn: {listed}",
                remedy="Pick with --app NAME or FOLDER (repeatable), or give the folder of one app.",
            )


def _app_of(project: Project, home: IconHome) -> tuple[str, str]:
    """Return what tells the app of an icon from others of its platform, and what to call it.

    Modules that ship under one ID are one app, and so are the targets of one Apple project.
    """
    if home.style == "asset-catalog":
        return project.folder, f"{home.module} ({project.folder or '.'})"
    folder = home.folder.rpartition("/src/")[0]
    ids = sorted({app.id.text for app in project.apps if app.id and app.module == home.module and not app.flavor})
    return ids[0] if ids else folder, f"{home.module} ({folder or '.'})"


# Homes of which an app has one for each platform.
_ONE_EACH = ("android-resource", "asset-catalog")


def _is_of(projects: list[Project], home: IconHome, apps: tuple[str, ...]) -> bool:
    """Tell whether an icon belongs to one of *apps*: a module, a target, a project's name, or a folder above it."""
    project = next(item for item in projects if home in item.icons)
    return any(
        app in (home.module, project.label)
        or f"{home.folder}/".startswith(f"{app}/")
        or (
            flavor_called(project, app) in ("", home.flavor)
            and any(item.module == home.module for item in apps_called(project, app))
        )
        for app in apps
    )


def _is_on(home: IconHome, platforms: tuple[str, ...]) -> bool:
    """Tell whether a home is one of some platforms', or a framework's that has pictures for them."""
    if home.platform in _FRAMEWORKS:
        return any(is_for(tile, platforms) for tile in home.tiles)
    return _PLATFORM_OF.get(home.platform, home.platform) in platforms


# Kinds whose one list of pictures serves several platforms.
_FRAMEWORKS = ("expo", "maui", "cordova", "unity", "godot")
# The platform that an option names to those whose icons belong to it.
_PLATFORM_OF = {"watchos": "ios", "tvos": "ios", "visionos": "ios"}


def untouched(tree: Tree, projects: list[Project], homes: list[IconHome], wish: IconWish) -> list[Warning]:
    """Say which icons of the same apps keep their old art: a flavor's or build type's own, and forms not drawn."""
    found = []
    modules = {(home.platform, home.module) for home in homes}
    every = [home for project in projects for home in project.icons]
    for home in variants_apart(projects, every) if not wish.apps and not wish.flavor else ():
        said = f"target {home.module} has an icon of its own and keeps it (--app “{home.module}”)"
        found.append(Warning("target-keeps", said, home.folder))
    drawn = {home.folder for home in homes}
    for home in homes:
        for name in home.undrawn if "foreground" in wish.parts else ():
            said = "this picture keeps its old art, because only PNG files inside the project are drawn: name one"
            found.append(Warning("not-drawn", said, name))
    for project in projects:
        for home in project.icons:
            covered = is_covered(home, wish.parts)
            if ((home.platform, home.module) not in modules and covered) or home.folder in drawn:
                continue
            if same_flavor(home.flavor, wish.flavor) and home.style != "foreign" and not is_covered(home, wish.parts):
                said = f"the icon “{home.name}” is not drawn: no art for it was given (--art, or --foreground)"
                found.append(Warning("not-drawn", said, home.folder))
            elif home.style == "foreign" and same_flavor(home.flavor, wish.flavor):
                found.append(
                    Warning("not-drawn", f"the icon “{home.name}” is of a form that is not drawn", home.folder)
                )
            elif home.flavor and not wish.flavor and has_own_icon(tree, home):
                message = f"flavor {home.flavor} has an icon of its own and keeps it (--flavor {home.flavor})"
                found.append(Warning("flavor-keeps", message, home.folder))
    found += _without_any(projects, homes, wish)
    for folder in _other_source_sets(tree, projects, homes, wish):
        found.append(Warning("source-set-keeps", "these resources have an icon of their own and keep it", folder))
    return found


def _without_any(projects: list[Project], homes: list[IconHome], wish: IconWish) -> list[Warning]:
    """Say which native apps name no icon that could be drawn, where another platform's is."""
    found = []
    for project in projects if not wish.apps else ():
        meant = not wish.platforms or project.platform in wish.platforms
        known = not wish.flavor or any(same_flavor(app.flavor, wish.flavor) for app in project.brands())
        drawn = any(home.platform in (project.platform, *_FRAMEWORKS) for home in homes)
        if project.kind in _NO_ICON and project.apps and not project.icons and meant and known and not drawn:
            found.append(Warning("not-drawn", _NO_ICON[project.kind], project.folder or "."))
    return found


# Where a native app would name its icon.
_NO_ICON = {
    "android": "the Android app names no icon, so none is drawn for it: name one in the manifest (android:icon)",
    "ios": "the iOS app names no icon set, so none is drawn for it: name one in the build settings, in a catalog",
}


def _other_source_sets(tree: Tree, projects: list[Project], homes: list[IconHome], wish: IconWish) -> list[str]:
    """Return resource folders beside the main one that hold the same icon, and belong to no flavor: build types."""
    declared = {home.folder for project in projects for home in project.icons}
    found = set()
    for home in homes:
        above = home.folder.partition("/src/main/")[0] if "/src/main/" in home.folder and not wish.flavor else ""
        kind, _, name = home.name.partition("/")
        for path in tree.below(f"{above}/src") if above and home.style == "android-resource" else ():
            folder, _, inner = path.partition("/res/")
            if inner.startswith(kind) and inner.partition("/")[2].split(".")[0] == name:
                found.add(f"{folder}/res")
    return sorted(found - declared)
