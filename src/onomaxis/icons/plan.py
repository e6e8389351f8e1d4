"""One icon set into a whole project: which homes are filled, the store's pictures, references to a new name."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from onomaxis.errors import FormatError, InputError, RefusedError
from onomaxis.formats.jsonc import parse_json
from onomaxis.icons.android import AndroidIcons
from onomaxis.icons.apple import AppleIcons
from onomaxis.icons.geometry import border_colour
from onomaxis.icons.layers import IconSet, IconWish, Warning, build_icon_set
from onomaxis.icons.output import Image, Output
from onomaxis.icons.pixels import to_bytes
from onomaxis.icons.present import AndroidIcon, has_own_icon
from onomaxis.icons.slots import STORE
from onomaxis.icons.tiles import draw_tiles
from onomaxis.identity.reserved import JAVA
from onomaxis.model import Edit, Facet, IconHome, Mention, Opening, Tile, same_flavor
from onomaxis.projects.edits import opening_edit
from onomaxis.projects.literals import rewrite
from onomaxis.projects.project import Project, apps_called
from onomaxis.survey.identity import identity_of
from onomaxis.survey.survey import read_projects
from onomaxis.tree import Tree, inside, join
from onomaxis.workers import MOST, spread
from onomaxis.writing.change import FileChange, applied
from onomaxis.writing.changeset import Changeset
from onomaxis.writing.planned import PlannedChange
from onomaxis.writing.proof import fault, prove_apps, prove_files, prove_nothing_left

Tick = Callable[[int, int], None]


@dataclass(frozen=True)
class IconPlan(PlannedChange):
    """A planned change of icons: which images stand in which slots, what to know of them, whose icons they are."""

    images: tuple[Image, ...] = ()
    warnings: tuple[Warning, ...] = ()
    homes: tuple[IconHome, ...] = ()


def plan_icons(tree: Tree, projects: list[Project], wishes: Sequence[IconWish], tick: Tick | None = None) -> IconPlan:
    """Draw the icons that *wishes* ask for (one each for several flavors) into every home; nothing is written.

    The result is read again: every home is there under its name with all its pictures, apps are called what they
    were, and the same wishes would change nothing more.

    Raises InputError for art that cannot be used, RefusedError for a project that cannot take it, FaultError where
    the result is not right.
    """
    jobs = [(wish, _homes(tree, projects, wish)) for wish in wishes]
    for wish, _ in jobs:
        _check_name(wish)

    sets: dict[IconWish, IconSet] = {}

    def prepare(job: tuple[IconWish, list[IconHome]]) -> Output:
        icons = sets[job[0]] = build_icon_set(job[0], _todays_ground(tree, projects, job[1]))
        out = _prepared(tree, projects, *job, icons)
        if len(jobs) > 1:
            out.draw(1)
        return out

    def told(done: int) -> None:
        if tick and len(jobs) > 1:
            tick(min(done, len(jobs)), len(jobs))

    out = Output()
    for part in spread(jobs, prepare, told):
        out.gather(part)
    out.draw(MOST, tick)
    images = tuple(sorted(out.images, key=lambda image: (image.path, image.slot)))
    homes = tuple(dict.fromkeys(home for _, found in jobs for home in found))
    plan = IconPlan(
        _changeset(out).resolve(tree),
        title=_title(wishes),
        nothing="Nothing to change: the icons are drawn so already.",
        images=images,
        warnings=tuple(dict.fromkeys(out.warnings)),
        homes=homes,
    )
    return _proved(tree, projects, plan, jobs, sets, out.written) if plan.changes else plan


def _changeset(out: Output) -> Changeset:
    return Changeset(
        tuple(dict.fromkeys(out.edits)),
        (),
        (),
        tuple(out.written.items()),
        tuple(sorted(out.removed - set(out.written))),
    )


def _title(wishes: Sequence[IconWish]) -> str:
    first = wishes[0]
    said = [first.art, first.foreground, first.background, *(wish.flavor for wish in wishes)]
    return f"icons: {', '.join(filter(None, said))}"


Jobs = Sequence[tuple[IconWish, list[IconHome]]]


def _proved(
    tree: Tree,
    projects: list[Project],
    plan: IconPlan,
    jobs: Jobs,
    sets: Mapping[IconWish, IconSet],
    drawn: Mapping[str, bytes],
) -> IconPlan:
    """Read the result again.

    The second plan is made for the first set, which stands for those of the other flavors. No picture is drawn twice:
    it takes the bytes of the first plan.
    """
    later = applied(tree, plan.changes)
    after = read_projects(later)
    prove_files(plan.changes)
    prove_apps(projects, after)
    there = [home for project in after for home in project.icons]
    for wish, homes in jobs:
        for home in homes:
            _prove_home(tree, later, there, home, wish)
    for image in plan.images:
        if not later.exists(image.path):
            raise fault(image.path, 1, "a picture of the set would be missing")
    keys = {project.key for project in projects}
    mine = [project for project in after if project.key in keys]
    wish = jobs[0][0]
    prove_nothing_left(
        _second(
            later,
            mine,
            wish,
            sets.get(wish) or build_icon_set(wish, _todays_ground(tree, projects, jobs[0][1])),
            drawn,
        )
    )
    return replace(plan, called_before=identity_of(projects), called_after=identity_of(after))


def _prove_home(tree: Tree, later: Tree, there: Sequence[IconHome], home: IconHome, wish: IconWish) -> None:
    """Make sure that an icon is still declared, under the name that was wished, and that its list lost no file."""
    tail = wish.icon_name if wish.icon_name and home.style != "tiles" else home.name.rpartition("/")[2]
    same = [other for other in there if (other.platform, other.module, other.style) == _kind(home)]
    if not any(other.name.rpartition("/")[2] == tail and same_flavor(other.flavor, home.flavor) for other in same):
        at = (home.owner.file, home.owner.line) if home.owner is not None else (home.folder, 1)
        raise fault(*at, f"the icon of {home.module} would not be called {tail}")
    for other in same:
        path = join(other.folder, "Contents.json")
        listed = other.name.rpartition("/")[2] == tail and home.style == "asset-catalog" and later.exists(path)
        items = parse_json(later.read(path) or b"").top.get("images") if listed else None
        for item in items.items if items is not None else ():
            name = item.text("filename")
            lost = tree.exists(join(other.folder, name)) and not later.exists(join(other.folder, name))
            if name and lost:
                raise fault(path, 1, f"the set would name {name}, and it would not be there")


def _kind(home: IconHome) -> tuple[str, str, str]:
    return home.platform, home.module, home.style


def _second(
    later: Tree, projects: list[Project], wish: IconWish, icons: IconSet, drawn: Mapping[str, bytes]
) -> tuple[FileChange, ...]:
    """Return what the same wish would change in the result."""
    out = _prepared(later, projects, wish, _homes(later, projects, wish), icons)
    for path in out.drawings:
        if path not in drawn:
            raise fault(path, 1, "it would not be whole: the same command would draw another picture")
        out.written[path] = drawn[path]
    out.drawings.clear()
    return _changeset(out).resolve(later)


# What is said of Android's layers alone: nobody wants it where there are none.
_OF_LAYERS = ("masked", "no-monochrome", "flat-monochrome", "opaque-foreground")


def _prepared(tree: Tree, projects: list[Project], wish: IconWish, homes: list[IconHome], icons: IconSet) -> Output:
    """Gather what one wish draws, edits and removes."""
    layered = any(home.style == "android-resource" for home in homes)
    out = Output(warnings=[item for item in icons.warnings if layered or item.code not in _OF_LAYERS])
    for home in homes:
        out.gather(_draw(tree, projects, home, icons, wish))
        out.edits += _named_by_flavor(tree, home)
    out.edits += _references(tree, projects, homes, wish)
    out.warnings += _untouched(tree, projects, homes, wish)
    if wish.store_art:
        _store(tree, wish, icons, out)
    return out


def _todays_ground(tree: Tree, projects: Sequence[Project], homes: Sequence[IconHome]) -> tuple[int, int, int] | None:
    """Return the one colour of the ground that the icon has today, a flavor's or the app's; None without one."""
    mains = {home.module: home.folder for project in projects for home in project.icons if not home.flavor}
    for home in homes:
        if home.style == "android-resource":
            try:
                ground = AndroidIcon(tree, home, mains.get(home.module, "")).layer("background", _GROUND_AT)
            except (FormatError, InputError):
                continue
            found = border_colour(to_bytes(ground)) if ground is not None else None
            if found is not None:
                return found
    return None


_GROUND_AT = 48


def _covered(home: IconHome, wish: IconWish) -> bool:
    """Tell whether the art that was given is for a home: Apple's alone draws Apple's icons alone."""
    return bool(wish.art or wish.foreground or not wish.ios_art) or home.style == "asset-catalog"


def _check_name(wish: IconWish) -> None:
    name = wish.icon_name
    if name and (not re.fullmatch(r"[a-z][a-z0-9_]*", name) or name in JAVA):
        raise InputError(
            f"“{name}” cannot name an icon: Android resources are named with lower-case letters, digits and "
            "underscores, and no word of Java"
        )
    if wish.notification and not re.fullmatch(r"[a-z][a-z0-9_]*", wish.notification):
        raise InputError(f"“{wish.notification}” cannot name a resource: lower-case letters, digits, underscores")
    if wish.inset is not None and not 0 <= wish.inset < 0.5:
        raise InputError(f"an inset of {wish.inset} leaves nothing: give a share from 0 to below 0.5")


def _homes(tree: Tree, projects: list[Project], wish: IconWish) -> list[IconHome]:
    """Return the homes to fill, in order; one per icon set."""
    _check_flavor(projects, wish.flavor)
    found = [home for project in projects for home in project.icons if same_flavor(home.flavor, wish.flavor)]
    if wish.platforms:
        found = [home for home in found if _PLATFORM_OF.get(home.platform, home.platform) in wish.platforms]
    _refuse_several(projects, found, wish)
    found = [home for home in found if not wish.apps or _is_of(projects, home, wish.apps)]
    foreign = [home for home in found if home.style == "foreign"]
    found = [home for home in found if home.style != "foreign" and _covered(home, wish)]
    if not found and foreign:
        form = foreign[0].folder.rpartition(".")[2]
        raise InputError(
            f"this icon is kept as “.{form}”, a form that is not drawn",
            file=foreign[0].folder,
            remedy="Draw an icon set (.appiconset) and name it in the build settings.",
        )
    if not found:
        raise InputError(
            "no launcher icon is declared here that could be drawn",
            file=str(tree.root),
            remedy="Android names it in the manifest (android:icon), iOS in the build settings (app icon set name).",
        )
    return found


def _refuse_several(projects: list[Project], homes: list[IconHome], wish: IconWish) -> None:
    """Raise RefusedError where one art would go to several apps, and none of them was picked."""
    if wish.apps:
        unknown = [app for app in wish.apps if not any(_is_of(projects, home, (app,)) for home in homes)]
        if unknown:
            listed = ", ".join(sorted({home.module for home in homes}))
            raise InputError(f"there is no icon of an app “{unknown[0]}” here", remedy=f"The apps are: {listed}.")
        return
    for platform in ("android", "ios"):
        apps = {
            project.folder if platform == "ios" else home.folder.rpartition("/src/")[0]: home.module
            for project in projects
            for home in project.icons
            if home in homes and home.style == _STYLE_OF[platform]
        }
        if len(apps) > 1:
            listed = ", ".join(f"{name} ({folder or '.'})" for folder, name in sorted(apps.items()))
            raise RefusedError(
                f"there are several apps here whose icons would all be drawn: {listed}",
                remedy="Pick with --app NAME or FOLDER (repeatable), or give the folder of one app.",
            )


_STYLE_OF = {"android": "android-resource", "ios": "asset-catalog"}


def _is_of(projects: list[Project], home: IconHome, apps: tuple[str, ...]) -> bool:
    """Tell whether an icon belongs to one of *apps*: a module, a target, a project's name, or a folder above it."""
    project = next(item for item in projects if home in item.icons)
    return any(
        app in (home.module, project.label)
        or f"{home.folder}/".startswith(f"{app}/")
        or any(item.module == home.module for item in apps_called(project, app))
        for app in apps
    )


# The platform that an option names to those whose icons belong to it.
_PLATFORM_OF = {"watchos": "ios", "tvos": "ios", "visionos": "ios"}


def _check_flavor(projects: list[Project], flavor: str) -> None:
    """Raise InputError when nothing here has a flavor of this name."""
    known = {app.flavor for project in projects for app in project.apps}
    known |= {home.flavor for project in projects for home in project.icons}
    known |= {owner.scope.flavor for project in projects for owner in project.owners}
    if not any(same_flavor(flavor, name) for name in known | {""}):
        listed = ", ".join(sorted(name for name in known if name))
        raise InputError(
            f"there is no flavor “{flavor}” here",
            remedy=f"The flavors are: {listed}." if listed else "The project has no flavors.",
        )


def _untouched(tree: Tree, projects: list[Project], homes: list[IconHome], wish: IconWish) -> list[Warning]:
    """Say which icons of the same apps keep their old art: a flavor's or build type's own, and forms not drawn."""
    found = []
    modules = {(home.platform, home.module) for home in homes}
    drawn = {home.folder for home in homes}
    for project in projects:
        for home in project.icons:
            covered = _covered(home, wish)
            if ((home.platform, home.module) not in modules and covered) or home.folder in drawn:
                continue
            if same_flavor(home.flavor, wish.flavor) and home.style != "foreign" and not _covered(home, wish):
                said = f"the icon “{home.name}” is not drawn: no art for it was given (--art, or --foreground)"
                found.append(Warning("not-drawn", said, home.folder))
            elif home.style == "foreign" and same_flavor(home.flavor, wish.flavor):
                found.append(
                    Warning("not-drawn", f"the icon “{home.name}” is of a form that is not drawn", home.folder)
                )
            elif home.flavor and not wish.flavor and has_own_icon(tree, home):
                message = f"flavor {home.flavor} has an icon of its own and keeps it (--flavor {home.flavor})"
                found.append(Warning("flavor-keeps", message, home.folder))
    for folder in _other_source_sets(tree, projects, homes, wish):
        found.append(Warning("source-set-keeps", "these resources have an icon of their own and keep it", folder))
    return found


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


def _named_by_flavor(tree: Tree, home: IconHome) -> list[Edit]:
    """Make a flavor's configurations name the icon set that is drawn for it."""
    return [
        opening_edit(tree, item, home.name)
        if isinstance(item, Opening)
        else rewrite(tree, Facet.ICON, item, home.name).edit
        for item in home.references
    ]


def _draw(tree: Tree, projects: list[Project], home: IconHome, icons: IconSet, wish: IconWish) -> Output:
    if not inside(home.folder) or _leaves_root(tree, home.folder):
        raise RefusedError("a link leads out of the project", file=home.folder)
    if home.style == "android-resource":
        mine = _module_of(home)
        modules = {
            _module_of(other) for project in projects for other in project.icons if other.platform == "android"
        }
        others = [
            folder for folder in modules if folder and folder != mine and not f"{mine}/".startswith(f"{folder}/")
        ]
        return AndroidIcons(tree, home, icons, wish, others).draw()
    if home.style == "tiles":
        return draw_tiles(tree, home, icons)
    return AppleIcons(tree, home, icons, wish).draw()


def _module_of(home: IconHome) -> str:
    """Return the folder of the module that an Android icon belongs to."""
    return home.folder.rpartition("/src/")[0]


def _leaves_root(tree: Tree, folder: str) -> bool:
    """Tell whether a folder, or the nearest one above it that exists, leads out of the root by a link."""
    place = tree.root / folder
    while not place.exists() and place != tree.root:
        place = place.parent
    return not place.resolve().is_relative_to(tree.root.resolve())


def _references(tree: Tree, projects: list[Project], homes: list[IconHome], wish: IconWish) -> list[Edit]:
    """Point the manifest and the build settings at the icon's new name."""
    if not wish.icon_name:
        return []
    edits: list[Edit] = []
    for home in homes:
        owners = [
            owner
            for project in projects
            for owner in project.owners
            if owner.facet is Facet.ICON and owner.value.rpartition("/")[2] == home.name.rpartition("/")[2]
        ]
        for owner in owners:
            if _same_platform(owner, home) and owner.owner is not None:
                kind = home.name.partition("/")[0]
                new = f"@{kind}/{wish.icon_name}" if home.style == "android-resource" else wish.icon_name
                edits.append(rewrite(tree, Facet.ICON, owner.owner, new).edit)
        edits += _round_reference(tree, home, wish)
    return edits


def _same_platform(owner: Mention, home: IconHome) -> bool:
    return (owner.scope.platform == "android") == (home.style == "android-resource")


def _round_reference(tree: Tree, home: IconHome, wish: IconWish) -> list[Edit]:
    if not home.round_name or home.owner is None:
        return []
    path = home.owner.file
    data = tree.read(path) or b""
    kind = home.name.partition("/")[0]
    old = f'"@{kind}/{home.round_name}"'.encode()
    at = data.find(old)
    new = f'"@{kind}/{wish.icon_name}_round"'.encode()
    return [Edit(path, at, at + len(old), new, Facet.ICON)] if at >= 0 else []


def _store(tree: Tree, wish: IconWish, icons: IconSet, out: Output) -> None:
    """Draw the store listing's pictures: two icons and the feature graphic, all without alpha."""
    folder = join("", wish.store_art)
    if not folder or not inside(wish.store_art) or _leaves_root(tree, folder):
        raise InputError("the folder for store art must lie inside the project", file=wish.store_art)
    tiles = tuple(
        Tile(f"{folder}/{name}.png", width, height, "wide" if width > height else "full", name)
        for name, width, height in STORE
    )
    home = IconHome("tiles", "store", "", wish.flavor, folder, "store art", tiles=tiles)
    out.gather(draw_tiles(tree, home, icons))
