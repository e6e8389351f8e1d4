"""What shipped apps are called otherwise in one tree than in another: rows, what came, what went."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

from onomaxis.errors import InputError
from onomaxis.history.state import Entity, Open, State, Told

# What a guard watches, and the facets that it means; a colon ends what has more behind it.
GUARDS = {
    "id": ("id",),
    "name": ("name", "name:"),
    "version": ("version",),
    "build": ("build",),
    "icon": ("icon",),
    "values": ("value:",),
    "services": ("service:",),
    "permissions": ("permission",),
}


class Row(NamedTuple):
    """One facet of one app, or of a part of one, that differs; None where a side has none, or where it is secret."""

    platform: str
    module: str
    flavor: str
    configuration: str
    facet: str
    before: str | None
    after: str | None
    at: tuple[str, int] | None
    was_at: tuple[str, int] | None
    secret: bool = False
    part: bool = False


class Untold(NamedTuple):
    """What cannot be compared: on which side (``then``, ``now``), facet, place, reason."""

    when: str
    facet: str
    file: str
    line: int
    reason: str


@dataclass(frozen=True)
class Differences:
    """All that differs between two trees."""

    rows: tuple[Row, ...] = ()
    added: tuple[Entity, ...] = ()
    retired: tuple[Entity, ...] = ()
    untold: tuple[Untold, ...] = field(default=())

    @property
    def any(self) -> bool:
        """True where anything differs."""
        return bool(self.rows or self.added or self.retired)

    def guarded(self, guards: Sequence[str]) -> list[Row | Entity]:
        """Return what guards are there to see: rows of their facets; a retired app counts as its ID."""
        found: list[Row | Entity] = [row for row in self.rows if any(_means(guard, row.facet) for guard in guards)]
        return [*found, *(self.retired if "id" in guards else ())]

    def unsure(self, guards: Sequence[str]) -> list[Untold]:
        """Return what keeps guards from telling."""
        return [
            item
            for item in self.untold
            if item.facet in ("file", "flavor") or any(_means(guard, item.facet) for guard in guards)
        ]


def _means(guard: str, facet: str) -> bool:
    return any(
        facet == known or (known.endswith(":") and (facet.startswith(known) or facet == known[:-1]))
        for known in GUARDS[guard]
    )


def guards_of(text: str) -> tuple[str, ...]:
    """Return the guards that an option names, with commas. Raises InputError for an unknown one."""
    names = tuple(dict.fromkeys(part.strip() for part in text.split(",") if part.strip()))
    unknown = next((name for name in names if name not in GUARDS), "")
    if unknown or not names:
        raise InputError(f"“{unknown}” is nothing to guard", remedy=f"One or several of: {', '.join(GUARDS)}.")
    return names


def differences(then: State, now: State) -> Differences:
    """Compare two states, app by app; a renamed module or flavor is one row, a moved module none."""
    pairs, retired, added = paired(then.entities, now.entities)
    rows = [row._replace(part=after.part) for before, after in pairs for row in _compared(before, after)]
    untold = [Untold("then", *item) for item in _once(then.open)] + [Untold("now", *item) for item in _once(now.open)]
    return Differences(tuple(rows), tuple(added), tuple(retired), tuple(untold))


def _once(found: Sequence[Open]) -> list[Open]:
    return list(dict.fromkeys(found))


_Key = Callable[[Entity], object]


def paired(
    then: Sequence[Entity], now: Sequence[Entity]
) -> tuple[list[tuple[Entity, Entity]], list[Entity], list[Entity]]:
    """Find for each app what it is now: by what it is called, then by its ID, then by its name.

    Returned are the pairs, what is gone, what came.
    """
    keys: tuple[_Key, ...] = (
        lambda e: (e.platform, e.part, e.folder, e.module, e.flavor, e.configuration),
        lambda e: (e.platform, e.part, e.module, e.flavor, e.configuration),
        lambda e: (e.platform, e.part, e.flavor, e.configuration, e.id) if e.id else None,
        lambda e: (e.platform, e.part, e.module, e.id) if e.id else None,
        lambda e: (e.platform, e.part, e.id) if e.id and not e.part else None,
        lambda e: (e.platform, e.part, e.module, _name(e)) if _name(e) and not e.part else None,
        lambda e: (e.platform, e.part, e.module, _icon(e)) if _icon(e) and not e.part else None,
    )
    pairs: list[tuple[Entity, Entity]] = []
    before, after = list(then), list(now)
    for key in keys:
        found = _alike(before, after, key)
        pairs += found
        old, new = {id(one) for one, _ in found}, {id(other) for _, other in found}
        before = [item for item in before if id(item) not in old]
        after = [item for item in after if id(item) not in new]
    return pairs, before, after


def _alike(before: Sequence[Entity], after: Sequence[Entity], key: _Key) -> list[tuple[Entity, Entity]]:
    """Pair what has a key in common that no other on either side has."""
    left: dict[object, list[Entity]] = {}
    right: dict[object, list[Entity]] = {}
    for items, table in ((before, left), (after, right)):
        for item in items:
            found = key(item)
            if found is not None:
                table.setdefault(found, []).append(item)
    return [(left[k][0], right[k][0]) for k in left if k in right and len(left[k]) == len(right[k]) == 1]


def _name(entity: Entity) -> str:
    return entity.facets["name"].text if "name" in entity.facets else ""


def _icon(entity: Entity) -> str:
    return entity.facets["icon"].text if "icon" in entity.facets else ""


def _compared(before: Entity, after: Entity) -> Iterator[Row]:
    """Yield the facets in which an app differs."""
    key = (after.platform, after.module, after.flavor, after.configuration)
    spots = [(told.file, told.line) if (told := _anchor(one)) else None for one in (before, after)]
    for facet, was, is_ in (("module", before.module, after.module), ("flavor", before.flavor, after.flavor)):
        if was != is_:
            yield Row(*key, facet, was, is_, spots[1], spots[0])
    for facet in dict.fromkeys((*before.facets, *after.facets)):
        old, new = before.facets.get(facet), after.facets.get(facet)
        if (old is None and _hidden(before, facet)) or (new is None and _hidden(after, facet)):
            continue
        if old is not None and new is not None and (old.text, old.digest) == (new.text, new.digest):
            continue
        yield _row(key, facet, old, new)


def _anchor(entity: Entity) -> Told | None:
    return entity.facets.get("id") or next(iter(entity.facets.values()), None)


def _hidden(entity: Entity, facet: str) -> bool:
    """Tell whether what an app lacks may be there all the same: nobody can tell."""
    if facet.startswith("service:google") and not entity.id and "id" in entity.open:
        return True
    return "*" in entity.open or facet in entity.open or facet.partition(":")[0] in entity.open


def _row(key: tuple[str, str, str, str], facet: str, old: Told | None, new: Told | None) -> Row:
    secret = bool((old and old.secret) or (new and new.secret))
    same = old is not None and new is not None and old.text == new.text
    texts = [(told and (told.digest if same and told.digest else told.text)) or None for told in (old, new)]
    spots = [(told.file, told.line) if told else None for told in (old, new)]
    name = "permission" if facet.startswith("permission:") else facet
    before, after = (None, None) if secret else (texts[0], texts[1])
    return Row(*key, name, before, after, spots[1], spots[0], secret)
