"""One icon set into a whole project: which homes are filled, the store's pictures, references to a new name."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from onomaxis.errors import FormatError, InputError, RefusedError
from onomaxis.flavor_names import Singles, same_flavor, selects
from onomaxis.formats.jsonc import parse_json
from onomaxis.icons.android import AndroidIcons
from onomaxis.icons.apple import AppleIcons
from onomaxis.icons.derive import build_icon_set, parse_colour
from onomaxis.icons.geometry import border_colour
from onomaxis.icons.homes import chosen_homes, untouched
from onomaxis.icons.layers import IconSet
from onomaxis.icons.measured import kept, taken
from onomaxis.icons.memory import Pictures, of_pictures, of_set, of_wish, recalled
from onomaxis.icons.output import Image, Output
from onomaxis.icons.pixels import to_bytes
from onomaxis.icons.present import AndroidIcon
from onomaxis.icons.slots import STORE
from onomaxis.icons.tiles import draw_tiles
from onomaxis.icons.wish import IconWish, Warning
from onomaxis.identity.reserved import JAVA
from onomaxis.model import Edit, Facet, IconHome, Mention, Opening, ShippedApp, Tile
from onomaxis.projects.drawn import DrawnIcon
from onomaxis.projects.edits import opening_edit
from onomaxis.projects.literals import rewrite
from onomaxis.projects.project import Project, flavors_together
from onomaxis.surveys.survey import kind_of, read_projects
from onomaxis.tree import Tree, inside, join
from onomaxis.workers import MOST, spread
from onomaxis.writing.change import FileChange, applied
from onomaxis.writing.changeset import Changeset
from onomaxis.writing.journal import digest
from onomaxis.writing.planned import PlannedChange
from onomaxis.writing.proof import Allowed, Seen, Told, fault, prove_nothing_left, proved, unchanged

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
    for wish in wishes:
        _check_wish(wish)
    jobs = [(wish, chosen_homes(tree, projects, wish)) for wish in wishes]

    sets: dict[IconWish, IconSet] = {}
    known = recalled(tree.root)

    def prepare(job: tuple[IconWish, list[IconHome]]) -> Output:
        key, icons = _measured(tree, projects, *job, known.measured)
        out = _prepared(tree, projects, *job, icons)
        out.measured = dict.fromkeys((key, *_later_keys(job[0], icons)), kept(job[0], icons))
        _keep_drawn(tree, out, known.pictures, of_set(job[0], icons.ground))
        if len(jobs) > 1:
            out.draw(1)
        else:
            sets[job[0]] = icons  # of many only what they draw is kept
        return out

    def told(done: int) -> None:
        if tick and len(jobs) > 1:
            tick(min(done, len(jobs)), len(jobs))

    out = Output()
    for part in spread(jobs, prepare, told):
        out.gather(part)
    out.draw(MOST, tick)
    plan = _planned(tree, jobs, out)
    return _proved(tree, projects, plan, jobs, sets, out.written) if plan.changes else plan


def _planned(tree: Tree, jobs: Jobs, out: Output) -> IconPlan:
    return IconPlan(
        _changeset(out).resolve(tree),
        title=_title([wish for wish, _ in jobs]),
        nothing="Nothing to change: the project has these icons already.",
        images=tuple(sorted(out.images, key=lambda image: (image.path, image.slot))),
        warnings=tuple(dict.fromkeys(out.warnings)),
        homes=tuple(dict.fromkeys(home for _, found in jobs for home in found)),
        pictures={path: (said, digest(out.written[path])) for path, said in out.drawn_from.items()},
        measured=out.measured,
    )


def _measured(
    tree: Tree, projects: list[Project], wish: IconWish, homes: list[IconHome], known: Mapping[str, object]
) -> tuple[str, IconSet]:
    """Return a set as it was measured before, or measure its art, with the digest that it goes by."""
    today = None if wish.background else todays_ground(tree, projects, homes)
    key = of_wish(wish, today)
    return key, taken(wish, known.get(key)) or build_icon_set(wish, today)


def _later_keys(wish: IconWish, icons: IconSet) -> list[str]:
    """Return the digest under which a set is asked for once it is drawn: its ground is today's then.

    A ground that was chosen for want of any is not chosen again: it stands then, and nothing is said of it.
    """
    chosen = wish.background or any(item.code == "ground-chosen" for item in icons.warnings)
    return [] if chosen else [of_wish(wish, icons.ground)]


def _keep_drawn(tree: Tree, out: Output, known: Pictures, whole: str) -> None:
    """Take pictures that stand in the project as they were drawn from just this; *whole* is the set's digest."""
    out.drawn_from = of_pictures(out, whole)
    for path, said in out.drawn_from.items():
        drawn, made = known.get(path, ("", ""))
        data = tree.read(path) if drawn == said and tree.exists(path) else None
        if data is not None and digest(data) == made:
            out.written[path] = data
            del out.drawings[path]


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


def _renamed(jobs: Jobs) -> Allowed:
    """Return what icons may be called: as they are, or as the home that was filled for the flavor."""
    filled = [(wish, home) for wish, homes in jobs for home in homes]

    def allowed(project: Project, app: ShippedApp, seen: Seen) -> set[str]:
        kept = unchanged(project, app, seen)
        if seen.told is not Told.ICON or seen.new is None:
            return kept
        flavors = {name.casefold() for name in (app.flavor, *project.flavors.parts(app.flavor))}
        old = seen.old.text if seen.old is not None else ""
        for wish, home in filled:
            name = home.name.rpartition("/")[2]
            mine = home.flavor.casefold() in flavors or (not home.flavor and (name in old or home.style == "tiles"))
            names = {tile.file.rpartition("/")[2] for tile in home.tiles} or {wish.icon_name or name}
            if mine and seen.new.text.rpartition("/")[2] in names:
                kept |= {seen.new.text}
        return kept

    return allowed


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
    plan = proved(projects, after, plan, _renamed(jobs), drawn={wish.flavor for wish, _ in jobs})
    there = [home for project in after for home in project.icons]
    known = flavors_together(after)
    for wish, homes in jobs:
        for home in homes:
            _prove_home(tree, later, there, home, wish, known)
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
            sets.get(wish) or build_icon_set(wish, todays_ground(tree, projects, jobs[0][1])),
            drawn,
        )
    )
    return plan


def _prove_home(
    tree: Tree, later: Tree, there: Sequence[IconHome], home: IconHome, wish: IconWish, known: Singles
) -> None:
    """Make sure that an icon is still declared, under the name that was wished, and that its list lost no file."""
    tail = wish.icon_name if wish.icon_name and home.style != "tiles" else home.name.rpartition("/")[2]
    same = [other for other in there if (other.platform, other.module, other.style) == _kind(home)]
    called = (other for other in same if other.name.rpartition("/")[2] == tail)
    if not any(same_flavor(o.flavor, home.flavor) or selects(home.flavor, o.flavor, known) for o in called):
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
    out = _prepared(later, projects, wish, chosen_homes(later, projects, wish), icons)
    for path in out.drawings:
        if path not in drawn:
            raise fault(path, 1, "the change would be incomplete: the same command would draw another picture")
        out.written[path] = drawn[path]
    out.drawings.clear()
    return _changeset(out).resolve(later)


# What is said of Android's layers alone: nobody wants it where there are none.
_OF_LAYERS = ("masked", "no-monochrome", "flat-monochrome", "opaque-foreground")


def _prepared(tree: Tree, projects: list[Project], wish: IconWish, homes: list[IconHome], icons: IconSet) -> Output:
    """Gather what one wish draws, edits and removes."""
    layered = any(
        home.style == "android-resource" or any(tile.shape == "foreground" for tile in home.tiles) for home in homes
    )
    out = Output(warnings=[item for item in icons.warnings if layered or item.code not in _OF_LAYERS])
    for home in homes:
        drawn = _draw(tree, projects, home, icons, wish)
        _name(tree, projects, home, icons, drawn)
        out.gather(drawn)
        out.edits += _named_by_flavor(tree, home)
    out.edits += _references(tree, projects, homes, wish)
    out.warnings += untouched(tree, projects, homes, wish)
    if wish.store_art:
        _store(tree, wish, icons, out)
    return out


def todays_ground(tree: Tree, projects: Sequence[Project], homes: Sequence[IconHome]) -> tuple[int, int, int] | None:
    """Return the one colour of the ground that the icon has today, a flavor's or the app's; None without one."""
    mains = {home.module: home.folder for project in projects for home in project.icons if not home.flavor}
    for home in homes:
        stated = parse_colour(home.ground) if home.ground else None
        if stated is not None:
            return stated
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


def _check_wish(wish: IconWish) -> None:
    if not wish.parts:
        raise InputError(
            "no art was given", remedy="Give --art FILE, or the layers with --foreground and --background."
        )
    for option, asked, parts in (
        ("--icon-name", wish.icon_name, {"foreground"}),
        ("--ribbon", wish.ribbon, {"foreground"}),
        ("--store-art", wish.store_art, {"foreground"}),
        ("--notification", wish.notification, {"foreground", "monochrome"}),
    ):
        if asked and not wish.parts & parts:
            raise InputError(f"{option} needs art for the whole icon", remedy="Give --art FILE, or --foreground.")
    name = wish.icon_name
    if name and (not re.fullmatch(r"[a-z][a-z0-9_]*", name) or name in JAVA):
        raise InputError(
            f"“{name}” cannot name an icon: Android resources are named with lower-case letters, digits and "
            "underscores, and no word of Java"
        )
    if wish.notification and not re.fullmatch(r"[a-z][a-z0-9_]*", wish.notification):
        raise InputError(f"“{wish.notification}” cannot name a resource: lower-case letters, digits, underscores")
    if isinstance(wish.inset, float) and not 0 <= wish.inset < 0.5:
        raise InputError(f"an inset of {wish.inset} leaves nothing: give a share from 0 to below 0.5")


def _name(tree: Tree, projects: list[Project], home: IconHome, icons: IconSet, out: Output) -> None:
    """Let the project's own files name what was drawn."""
    project = next((item for item in projects if home in item.icons), None)
    if project is None:
        return
    ground = "#{:02X}{:02X}{:02X}".format(*icons.ground) if icons.ground is not None else ""
    files = frozenset((*out.drawings, *out.written))
    drawn = DrawnIcon(files, ground if icons.background is None else "", icons.form)
    draft = kind_of(project).name_icons(project, tree, home, drawn)
    out.edits += draft.edits
    out.written |= dict(draft.created)
    out.removed.update(path for path in draft.removed if path in tree.known and not out.writes(path))
    out.warnings += [Warning("not-drawn", note.text, note.file) for note in draft.notes]


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
        framework = wish.platforms if home.platform not in wish.platforms else ()
        return draw_tiles(tree, home, icons, framework)
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
