"""What a change would do to apps that were published: users of an ID that is gone get no update.

Source of the rules: developer.android.com, "Set the application ID", "Version your app"; Apple, CFBundleIdentifier,
CFBundleVersion: a store takes another ID for another app, and no number that is lower than one it has.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence, Set
from typing import NamedTuple

from onomaxis.brands.ledger import Published, build_number
from onomaxis.model import ShippedApp
from onomaxis.platforms import PLATFORM_NAMES
from onomaxis.projects.project import Project


class Loss(NamedTuple):
    """What a change would do to a published app, and the ledger's row that says it was published."""

    row: Published
    message: str


_Key = tuple[str, str, str]
_Apps = dict[_Key, ShippedApp]


def losses(
    before: Sequence[Project],
    after: Sequence[Project],
    ledger: Sequence[Published],
    others: Set[tuple[str, str]] = frozenset(),
) -> tuple[Loss, ...]:
    """Return what becomes of published apps between two states of a tree: an ID that is gone, a number that falls.

    *others* are platforms and IDs of brands that the tree can become at any time: none of them is gone.
    """
    if not ledger:
        return ()
    old, new = _shipped(before), _shipped(after)
    last: dict[_Key, Published] = {}
    for row in sorted(ledger, key=lambda item: item.number):
        last[row.platform, row.flavor.casefold(), row.id] = row
    gone = {key: row for key, row in last.items() if (row.platform, row.id) not in others}
    return tuple(dict.fromkeys([*_gone(old, new, gone), *_lowered(old, new, last)]))


def _shipped(projects: Sequence[Project]) -> _Apps:
    """Return every shipped app by platform, module and flavor; of several configurations the first."""
    found: _Apps = {}
    for project in projects:
        for app in project.apps if not project.umbrella else ():
            found.setdefault((app.platform, f"{project.folder}/{app.module}", app.variant.casefold()), app)
    return found


def _id(app: ShippedApp | None) -> str:
    return app.id.text if app is not None and app.id is not None else ""


def _gone(old: _Apps, new: _Apps, last: dict[_Key, Published]) -> Iterator[Loss]:
    flavors = {(platform, flavor) for platform, _, flavor in old}
    for (platform, flavor, id_), row in last.items():
        known = (platform, flavor) in flavors
        for key, app in old.items():
            mine = key[0] == platform and (key[2] == flavor or not known)
            if not mine or _id(app) != id_ or _id(new.get(key)) == id_:
                continue
            if key not in new and any(
                _id(one) == id_ and at[0] == platform and at[2] == key[2] for at, one in new.items()
            ):
                continue  # a module or target that is called otherwise now
            left = _id(new.get(key))
            become = f"becomes {left}" if left else "is gone"
            who = f"{PLATFORM_NAMES[platform]} {row.flavor}".strip()
            yield Loss(
                row,
                f"{who}: {id_} was published on {row.date} ({row.version}, build {row.build}) and {become}: "
                "its users would get no more updates",
            )


def _lowered(old: _Apps, new: _Apps, last: dict[_Key, Published]) -> Iterator[Loss]:
    for key, app in new.items():
        row = last.get((key[0], key[2], _id(app))) or last.get((key[0], "", _id(app)))
        number = build_number(app.build.text) if app.build is not None else ()
        then = old.get(key)
        before = build_number(then.build.text) if then is not None and then.build is not None else ()
        if row is None or app.build is None or not number or number == before:
            continue
        if number < row.number or (number == row.number and number < before):
            who = f"{PLATFORM_NAMES[key[0]]} {row.flavor}".strip()
            yield Loss(
                row,
                f"{who}: build {app.build.text} of {row.id} is not higher than {row.build}, which was published on "
                f"{row.date}: stores refuse it",
            )
