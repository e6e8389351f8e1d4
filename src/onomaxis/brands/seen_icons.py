"""Icons as an identity file would say them: art in the project from which today's pictures are drawn as they are."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

from onomaxis.brands.adopt import bare, quoted
from onomaxis.brands.proposing import by_dimension
from onomaxis.brands.stamp import beside, icon_changes
from onomaxis.brands.subjects import Subject
from onomaxis.errors import OnomaxisError
from onomaxis.flavor_names import Singles, combined, flavor_word, usual_name
from onomaxis.icons.derive import build_icon_set
from onomaxis.icons.geometry import border_colour
from onomaxis.icons.headers import picture_file
from onomaxis.icons.pixels import ALIKE, COMPARED_AT, Picture, difference, to_bytes
from onomaxis.icons.plan import todays_ground
from onomaxis.icons.sheets.shown import all_shown, homes_of
from onomaxis.icons.standing import has_own_icon
from onomaxis.icons.wish import IconWish
from onomaxis.identity.reading import read_identity
from onomaxis.identity.schema import NAME
from onomaxis.model import IconHome, Note
from onomaxis.projects.project import Project, flavors_together
from onomaxis.tree import Tree

_ENDINGS = (".svg", ".png", ".webp", ".jpg", ".jpeg")
# Smaller pictures are no art: they would be enlarged in most slots.
_LEAST_EDGE = 256
# Folders whose pictures go into an app as they are.
_BUILT_IN = (".xcassets/", "/res/")
# Pictures that are looked at for one icon, those first whose names say that they are art.
_MOST = 40
_TELLING = ("icon", "logo", "art", "launcher", "brand")
# Of those that look like it so many are tried, as the whole art and as the foreground.
_TRIED = 4


# Platform, folder and name of an icon.
Key = tuple[str, str, str]


class SeenIcons(NamedTuple):
    """Tables that name the art of icons, its files, and what a person should know of icons without."""

    text: str = ""
    files: tuple[str, ...] = ()
    notes: tuple[Note, ...] = ()


class _Icon(NamedTuple):
    """An icon of one platform: where it stands, what it looks like, which variants show it."""

    platform: str
    home: IconHome
    picture: Picture | None
    names: tuple[str, ...]
    shared: frozenset[str]
    """The flavors that all of them have in common."""

    @property
    def key(self) -> Key:
        """What tells it from others."""
        return self.platform, self.home.folder, self.home.name

    def holds(self, path: str) -> bool:
        """Tell whether a file belongs to it."""
        inside = self.home.style != "tiles" and path.startswith(f"{self.home.folder}/")
        return inside or any(tile.file == path for tile in self.home.tiles)


class _Art(NamedTuple):
    """A file that looks like an icon: as which key, on which ground."""

    path: str
    key: str
    ground: str

    @property
    def lines(self) -> str:
        """What the table of the icon says."""
        ground = f"background = {quoted(self.ground)}\n" if self.ground else ""
        return f"{self.key} = {quoted(self.path)}\n{ground}"


def seen_icons(tree: Tree, projects: Sequence[Project], subjects: Sequence[Subject], identity: str) -> SeenIcons:
    """Find the art of icons.

    Art is named only where drawing from it changes no picture. *identity* is the file's text without icons.
    """
    known = flavors_together([subject.project for subject in subjects])
    mine = beside(projects, subjects)
    icons = list(_icons(tree, mine, subjects, known))
    pictures = _pictures(tree, mine)
    near = {icon.key: _resembling(tree, mine, icon, pictures, known) for icon in icons}
    asked = {icon.key: _together(near, [i for i in icons if i.shared == icon.shared], icon) for icon in icons}
    kept: dict[Key, _Art] = {}
    wrong: dict[Key, str] = {}
    for number in range(_TRIED):
        tried = {key: arts[number] for key, arts in asked.items() if key not in kept and number < len(arts)}
        off = _off(tree, identity, kept, tried, icons, known) if tried else {}
        kept |= {key: art for key, art in tried.items() if key not in off}
        wrong = {key: said for key, said in {**off, **wrong}.items() if key not in kept}
    labels = {icon.key: usual_name(combined(icon.shared), known) or "the app itself" for icon in icons}
    near_to = {key: f"it looks like the icon of {labels[key]}" for key in wrong}
    notes = [Note(asked[key][0].path, f"{near_to[key]}, but {said}") for key, said in wrong.items()]
    notes += _without([labels[icon.key] for icon in icons if icon.picture is not None and not asked[icon.key]])
    files = tuple(dict.fromkeys(kept[icon.key].path for icon in icons if icon.key in kept))
    return SeenIcons(_tables(kept, icons, known), files, tuple(notes))


def _icons(tree: Tree, projects: Sequence[Project], subjects: Sequence[Subject], known: Singles) -> Iterator[_Icon]:
    """Yield every icon that some variant of the app shows."""
    drawn = {(item.platform, item.flavor): item for item in reversed(all_shown(tree, projects))}
    found: dict[Key, _Icon] = {}
    for subject in subjects:
        for app in (*subject.project.apps, *subject.project.brands()):
            homes = homes_of(projects, subject.project, app, tree) if subject.owns(app.module) else None
            shown = drawn.get((subject.platform, app.variant))
            if homes is None or shown is None or not has_own_icon(tree, homes[0]):
                continue
            home, name = homes[0], usual_name(app.variant, known)
            key = subject.platform, home.folder, home.name
            shared = known.parts(name if subject.targets else home.flavor)
            if key in found:
                old = found[key]
                names = tuple(dict.fromkeys((*old.names, name)))
                found[key] = old._replace(names=names, shared=old.shared & shared)
            else:
                found[key] = _Icon(subject.platform, home, shown.square(COMPARED_AT), (name,), shared)
    yield from found.values()


def _pictures(tree: Tree, projects: Sequence[Project]) -> list[str]:
    """Return the pictures of a project that may be art: none that an icon is made of, none in a resource folder."""
    homes = [home for project in projects for home in project.icons]
    drawn = {tile.file for home in homes for tile in home.tiles}
    folders = tuple(f"{home.folder}/" for home in homes if home.style != "tiles")
    paths = (path for path in tree.known if path.lower().endswith(_ENDINGS) and path not in drawn)
    found = (path for path in paths if not path.startswith(folders) and not any(part in path for part in _BUILT_IN))
    return sorted(found, key=lambda path: (not any(word in path.lower() for word in _TELLING), path))


def _resembling(
    tree: Tree, projects: Sequence[Project], icon: _Icon, pictures: Sequence[str], known: Singles
) -> dict[_Art, float]:
    """Return the pictures from which an icon that looks like today's would be drawn, and how far each is off.

    A flavor's art has its name in its path; the app's own has that of none.
    """
    words = {name: flavor_word(name) for name in known}
    named = ((path, {name for name, word in words.items() if word.search(path)}) for path in pictures)
    mine = [path for path, told in named if told <= icon.shared and bool(told) == bool(icon.shared)]
    found: dict[_Art, float] = {}
    if icon.picture is None:
        return found
    ground = todays_ground(tree, projects, [icon.home]) or border_colour(to_bytes(icon.picture))
    for path in [path for path in mine if _is_art(tree, path)][:_MOST]:
        for key in ("art", "foreground"):
            try:
                icons = build_icon_set(IconWish()._replace(**{key: str(tree.root / path)}), ground)  # type: ignore[arg-type]
                drawn = icons.apple(COMPARED_AT) if icon.platform == "ios" else icons.full(COMPARED_AT)
            except OnomaxisError:
                continue
            off = difference(icon.picture, drawn)
            if off <= ALIKE:
                stated = ground if icons.form == "layered" else None
                found[_Art(path, key, "#{:02X}{:02X}{:02X}".format(*stated) if stated else "")] = off
    return found


def _together(near: Mapping[Key, Mapping[_Art, float]], mates: Sequence[_Icon], icon: _Icon) -> list[_Art]:
    """Return what an icon looks like, that first which the same flavor's icons on other platforms look like too."""
    told = [near[mate.key] for mate in mates]
    return sorted(near[icon.key], key=lambda art: sum(own.get(art, 2 * ALIKE) for own in told))


def _is_art(tree: Tree, path: str) -> bool:
    picture = picture_file(tree.named_file(path) or b"")
    if picture is None:
        return path.lower().endswith(".svg")
    return picture.width == picture.height >= _LEAST_EDGE


def _tables(found: Mapping[Key, _Art], icons: Sequence[_Icon], known: Singles) -> str:
    """Return the tables: what a brand's variants share is said of the brand, what platforms share once."""
    told: dict[str, dict[str, str]] = {}
    for icon in icons:
        lines = found[icon.key].lines if icon.key in found else ""
        told.setdefault(icon.platform, {}).update(dict.fromkeys(icon.names, lines))
    said: dict[str, dict[str, str]] = {}
    for platform, own in told.items():
        mains = (icon for icon in icons if icon.platform == platform and not icon.shared and icon.key in found)
        general = next((found[icon.key].lines for icon in mains), "")
        least = by_dimension({name: lines or general for name, lines in own.items() if name}, general, known)
        if any(lines == general for lines in least.values()):  # a flavor would outdo what nothing is known of
            mine = (icon for icon in icons if icon.platform == platform and icon.shared and icon.key in found)
            least = {usual_name(combined(icon.shared), known): found[icon.key].lines for icon in mine}
        said[platform] = {"": general, **least}
    text = ""
    for name in dict.fromkeys(name for own in said.values() for name in own):
        table = f"flavors.{bare(name)}" if name else "app"
        each = {platform: own.get(name, "") for platform, own in said.items()}
        if len({*each.values()}) == 1:
            each = {"": next(iter(each.values()))}
        elif not name:
            table = ""
        heads = {".".join(filter(None, (table, platform, "icon"))): lines for platform, lines in each.items()}
        text += "".join(f"\n[{head}]\n{lines}" for head, lines in heads.items() if lines)
    return text


def _off(
    tree: Tree,
    identity: str,
    kept: Mapping[Key, _Art],
    tried: Mapping[Key, _Art],
    icons: Sequence[_Icon],
    known: Singles,
) -> dict[Key, str]:
    """Return which icons would be drawn otherwise from their art, with the reason; where that is unknown of all
    together, each is tried by itself.
    """
    chosen = [icon for icon in icons if icon.key in tried]
    try:
        return _redrawn(tree, identity + _tables({**kept, **tried}, icons, known), chosen)
    except OnomaxisError as error:
        if len(chosen) == 1:
            return {chosen[0].key: f"it cannot be drawn from it: {error.message}"}
    alone = (_off(tree, identity, kept, {icon.key: tried[icon.key]}, icons, known) for icon in chosen)
    return {key: said for off in alone for key, said in off.items()}


def _redrawn(tree: Tree, identity: str, icons: Sequence[_Icon]) -> dict[Key, str]:
    """Return which icons would be drawn otherwise from their art, with the reason. Raises OnomaxisError."""
    paths = icon_changes(tree, read_identity(NAME, identity.encode()))
    counts = {icon.key: sum(map(icon.holds, paths)) for icon in icons}
    wrong = {
        key: f"drawing from it would change {number} of its files: name it as art where that is meant"
        for key, number in counts.items()
        if number
    }
    return wrong if wrong or not paths else {i.key: f"drawing from it would change {paths[0]}" for i in icons}


def _without(labels: Sequence[str]) -> Iterator[Note]:
    """Say whose icons come from no art that is here."""
    if labels:
        said = f"no picture in this project is the art of the icon of {', '.join(dict.fromkeys(labels))}"
        way = 'copy the art into the project and name it, art = "FILE", in [app.icon] or [flavors.NAME.icon]'
        yield Note(NAME, f"{said}; to let stamp draw it, {way}")
