"""The flavors of an app over all platforms as one table, with holes and clashes."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from onomaxis.brands.subjects import FACETS, Subject
from onomaxis.brands.tree_brand import becomes_brands
from onomaxis.flavor_names import each_once, made_of, same_flavor, selects
from onomaxis.identity.file import IdentityFile
from onomaxis.surveys.flavors import built_flavors


class Cell(NamedTuple):
    """One flavor on one platform: what it is called; ``own_icon`` where it has an icon of its own."""

    id: str | None
    name: str | None
    version: str | None
    build: str | None
    own_icon: bool
    clash: bool


class Row(NamedTuple):
    """One flavor (``""``: the app itself): a cell for each platform that has it.

    ``dimension`` is what it varies; ``apart`` are the platforms that know nothing of that dimension: a tier of one
    platform is not a hole of the other. ``is_tree`` where the whole tree is this brand today, one after the other.
    ``spoken`` where the identity file speaks of flavors that vary the same.
    """

    flavor: str
    cells: dict[str, Cell]
    listed: bool
    dimension: str = ""
    apart: tuple[str, ...] = ()
    is_tree: bool = False
    spoken: bool = True

    @property
    def lacking(self) -> tuple[str, ...]:
        """The platforms whose build does not have it."""
        return tuple(platform for platform, cell in self.cells.items() if cell.id is None and cell.name is None)

    @property
    def holes(self) -> tuple[str, ...]:
        """The platforms that lack it, though they should have it."""
        return tuple(platform for platform in self.lacking if platform not in self.apart)

    @property
    def left_out(self) -> bool:
        """Whether an identity file leaves it out, and speaks of others that vary the same."""
        return bool(self.flavor) and self.spoken and not self.listed

    def troubled(self, filed: bool) -> bool:
        """Tell whether something is missing or clashes, or the identity file, where there is one, leaves it out."""
        clash = any(cell.clash for cell in self.cells.values())
        return clash or bool(self.holes and self.flavor) or (filed and self.left_out)


def flavor_matrix(
    subjects: Sequence[Subject],
    file: IdentityFile | None,
    own_icons: set[tuple[str, str]],
    dimensions: Mapping[str, str],
) -> tuple[Row, ...]:
    """Return a row for the app itself and each flavor; *own_icons* are platform and flavor of icons of their own.

    *dimensions* says what each flavor varies, by name in small letters.
    """
    if file is not None and becomes_brands(file, subjects):
        return _one_at_a_time(subjects, file, own_icons)
    clashes = {(s.platform, flavor) for s in subjects for flavor in _clashing(s)}
    names: list[str] = [""] if any(subject.of("") for subject in subjects) else []
    built: Sequence[str] = built_flavors([subject.project for subject in subjects])
    if not any(subject.main_of(name) for subject in subjects for name in built):
        built = each_once(name for subject in subjects for name in subject.flavors)
    told = [flavor for s in subjects for flavor in s.flavors if any(same_flavor(flavor, name) for name in built)]
    names += each_once([*told, *built, *(file.flavors if file else ())])
    rows = []
    for flavor in names:
        cells = {}
        for subject in subjects:
            main = subject.main_of(flavor) if flavor else ""
            here = bool(main or (not flavor and subject.of("")))
            id_, name, version, build = (
                subject.text(main, key) if here else None for key in ("id", "name", "version", "build")
            )
            spot = (subject.platform, flavor.casefold())
            drawn = spot in own_icons or bool(main and (subject.platform, main.casefold()) in own_icons)
            cells[subject.platform] = Cell(id_, name, version, build, drawn, spot in clashes)
        listed = file is not None and (not flavor or any(same_flavor(flavor, name) for name in file.flavors))
        within = tuple(s.platform for s in subjects if flavor and not s.main_of(flavor) and _holds(s, flavor))
        rows.append(Row(flavor, cells, listed, dimensions.get(flavor.casefold(), ""), within))
    spoken = {row.dimension for row in rows if row.flavor and row.listed}
    rows = [row._replace(spoken=not spoken or row.dimension in spoken) for row in rows]
    alone = tuple(s.platform for s in subjects if s.flavors and not s.of(""))  # nothing is built there without one
    return tuple(row._replace(apart=(*row.apart, *(_apart(row, rows) if row.flavor else alone))) for row in rows)


def _holds(subject: Subject, flavor: str) -> bool:
    """Tell whether combinations that a platform builds hold a flavor that none of them stands for."""
    every = {app.variant for app in subject.project.apps} | {*subject.flavors}
    return any(selects(flavor, name, subject.singles) for name in every if name)


def _one_at_a_time(
    subjects: Sequence[Subject], file: IdentityFile, own_icons: set[tuple[str, str]]
) -> tuple[Row, ...]:
    """Return a row for each brand that a tree becomes, as the file says; for the one that it is, as it is today."""
    rows = []
    used = Counter(
        (s.platform, id_)
        for s in subjects
        for name in file.flavors
        if (id_ := file.as_app(name, s.platform).get("id"))
    )
    for flavor in ("", *file.flavors):
        cells, here = {}, flavor == file.standing
        for subject in subjects:
            brand = file.as_app(flavor, subject.platform)
            told = {key: subject.text("", key) if here else brand.get(key) for key in FACETS}
            own = (subject.platform, "") in own_icons if here else bool(brand.icon)
            clash = used[subject.platform, brand.get("id") or ""] > 1
            cells[subject.platform] = Cell(**told, own_icon=own, clash=clash and bool(flavor))
        rows.append(Row(flavor, cells, True, is_tree=here))
    return tuple(rows)


def _apart(row: Row, rows: Sequence[Row]) -> tuple[str, ...]:
    """Return the platforms that have no flavor of a row's dimension at all, while they have flavors of others."""
    mates = [other for other in rows if other.dimension == row.dimension and other.flavor]
    if not row.flavor or not row.dimension:
        return ()
    flavored = [other for other in rows if other.flavor]
    known = [p for p in row.cells if any(p not in other.lacking for other in flavored)]  # those that have flavors
    return tuple(platform for platform in known if all(platform in other.lacking for other in mates))


def _clashing(subject: Subject) -> set[str]:
    """Return the flavors whose shipped app has the ID of another one.

    On iOS one flavor may be the app itself: its plain configurations are still there.
    """
    by_id: dict[str, set[str]] = defaultdict(set)
    for app in subject.apps:
        if app.id:
            by_id[app.id.text].add(app.flavor)
    several = [
        names for names in by_id.values() if len(names - {""}) > 1 or (subject.platform != "ios" and len(names) > 1)
    ]
    shared = {variant for variants in several for variant in variants}
    parts = {part for variant in shared for part in (variant, *made_of(variant, subject.flavors))}
    return {flavor.casefold() for flavor in ("", *subject.flavors) for part in parts if same_flavor(part, flavor)}
