"""What a change would do to apps that were published: users of an ID that is gone get no update.

Source of the rules: developer.android.com, "Set the application ID", "Version your app"; Apple, CFBundleIdentifier,
CFBundleVersion: a store takes another ID for another app, and no number that is lower than one it has.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

from onomaxis.brands.ledger import Published, build_number
from onomaxis.model import ShippedApp
from onomaxis.projects.project import Project


class Loss(NamedTuple):
    """What a change would do to a published app, and the ledger's row that says it was published."""

    row: Published
    message: str


_Apps = dict[tuple[str, str], list[ShippedApp]]


def losses(before: Sequence[Project], after: Sequence[Project], ledger: Sequence[Published]) -> tuple[Loss, ...]:
    """Return what becomes of published apps between two states of a tree: an ID that is gone, a number that falls."""
    if not ledger:
        return ()
    old, new = _shipped(before), _shipped(after)
    last: dict[tuple[str, str, str], Published] = {}
    for row in sorted(ledger, key=lambda item: item.number):
        last[row.platform, row.flavor.casefold(), row.id] = row
    return tuple(dict.fromkeys([*_gone(old, new, last), *_lowered(old, new, last)]))


def _shipped(projects: Sequence[Project]) -> _Apps:
    found: _Apps = {}
    for project in projects:
        for app in project.apps if not project.umbrella else ():
            found.setdefault((app.platform, app.flavor.casefold()), []).append(app)
    return found


def _ids(apps: _Apps, platform: str, flavor: str) -> set[str]:
    """Return the IDs of a flavor; of a flavor that the build does not know, those of all apps."""
    keys = [(platform, flavor)] if (platform, flavor) in apps else [key for key in apps if key[0] == platform]
    return {app.id.text for key in keys for app in apps[key] if app.id is not None}


def _gone(old: _Apps, new: _Apps, last: dict[tuple[str, str, str], Published]) -> Iterator[Loss]:
    for (platform, flavor, id_), row in last.items():
        if id_ not in _ids(old, platform, flavor):
            continue
        if (platform, flavor) in old and (platform, flavor) not in new:
            left: set[str] = set()
        else:
            left = _ids(new, platform, flavor)
        if id_ not in left:
            become = f"becomes {', '.join(sorted(left))}" if left else "is gone"
            who = f"{_PLATFORMS[platform]} {row.flavor}".strip()
            yield Loss(
                row,
                f"{who}: {id_} was published on {row.date} ({row.version}, build {row.build}) and {become}: whoever "
                "has it gets no update",
            )


def _lowered(old: _Apps, new: _Apps, last: dict[tuple[str, str, str], Published]) -> Iterator[Loss]:
    for (platform, flavor), apps in new.items():
        known = {build_number(app.build.text) for app in old.get((platform, flavor), ()) if app.build is not None}
        for app in apps:
            number = build_number(app.build.text) if app.build is not None else ()
            if app.id is None or app.build is None or not number or number in known:
                continue
            row = last.get((platform, flavor, app.id.text))
            falls = known and number < max(known)
            if row is not None and (number < row.number or (falls and number == row.number)):
                who = f"{_PLATFORMS[platform]} {row.flavor}".strip()
                yield Loss(
                    row,
                    f"{who}: build {app.build.text} of {app.id.text} is not higher than {row.build}, which was "
                    f"published on {row.date}: no store takes it",
                )


_PLATFORMS = {"android": "Android", "ios": "iOS"}
