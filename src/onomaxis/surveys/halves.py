"""Which projects are halves of one app, below one framework or as a native pair, and what they say differently."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from onomaxis.flavor_names import made_of
from onomaxis.model import Disagreement, ShippedApp, Value
from onomaxis.projects.project import Project
from onomaxis.surveys.flavors import flavors_of


def umbrella_of(projects: Sequence[Project], project: Project) -> Project | None:
    """Return the framework's project that *project* is a part of: the nearest one above it, or beside it."""
    inside = f"{project.folder}/"
    above = [
        item
        for item in projects
        if item.umbrella and item.key != project.key and (not item.folder or inside.startswith(f"{item.folder}/"))
    ]
    return max(above, key=lambda item: len(item.folder), default=None)


def home_of(projects: Sequence[Project], project: Project) -> str:
    """Return the folder of the app that a project is a half of: its framework's, else what both halves stand in.

    A half's folder is called after its platform (``ios``, ``iosApp``), or lies in one that is.
    """
    above = umbrella_of(projects, project)
    if above is not None:
        return above.folder
    parts, platform = project.folder.split("/"), project.platform
    halves = (part.startswith(platform) or part.endswith(platform) for part in map(str.casefold, parts))
    return next(("/".join(parts[:at]) for at, half in enumerate(halves) if platform and half), project.folder)


def across(projects: Sequence[Project]) -> list[Disagreement]:
    """Name what the halves of one app say differently: version, build number, display name.

    Halves belong together below one framework's project; those below none are taken for one native pair.
    """
    groups: dict[tuple[object, ...] | None, list[Project]] = defaultdict(list)
    for project in projects:
        above = umbrella_of(projects, project)
        groups[above.key if above else None].append(project)
    return [item for group in groups.values() for item in _between(group)]


def _between(projects: Sequence[Project]) -> list[Disagreement]:
    android = [app for project in projects if project.platform == "android" for app in project.apps]
    ios = [app for project in projects if project.platform == "ios" for app in project.apps]
    if not android or not ios:
        return []
    both = list(_pairs(android, ios, flavors_of(projects)))
    found: dict[_Difference, list[str]] = defaultdict(list)
    for one, other in both or [(android[0], ios[0])]:
        # A flavor of one platform alone is called what it likes; versions are the app's on every platform.
        shared = (
            ("versions-differ", "version", one.version, other.version),
            ("builds-differ", "build number", one.build, other.build),
        )
        own = not both and one.flavor and one.name is not None and "/src/main/" not in one.name.origin.file
        names = () if own else (("names-differ", "display name", one.name, other.name),)
        for code, label, left, right in (*shared, *names):
            made = left and right and not (left.is_written and right.is_written)
            if left and right and left.text != right.text and not made:
                at = ((left.origin.file, left.origin.line), (right.origin.file, right.origin.line))
                found[_Difference(code, label, left.text, right.text, at)].append(other.variant if both else "")
    return [_said(item, list(dict.fromkeys(flavors))) for item, flavors in found.items()]


_Pair = tuple[ShippedApp, ShippedApp]


class _Difference(NamedTuple):
    code: str
    label: str
    android: str
    ios: str
    at: tuple[tuple[str, int], ...]


def _said(item: _Difference, flavors: Sequence[str]) -> Disagreement:
    """Say once what several flavors take from the same two places."""
    one = flavors[0] if len(flavors) == 1 else ""
    of = f" of {one}" if one else f" of {len(flavors)} flavors" if len(flavors) > 1 else ""
    message = f"the {item.label}{of} is {item.android} on Android and {item.ios} on iOS"
    return Disagreement(item.code, message, item.at, one)


def _pairs(android: Sequence[ShippedApp], ios: Sequence[ShippedApp], known: Sequence[str]) -> Iterator[_Pair]:
    """Yield what is one variant on both platforms; combinations of several are compared with the one that they hold.

    A facet in which combinations differ (a tier's own name, the suffix of its version) is not compared.
    """
    by_parts: dict[frozenset[str], list[ShippedApp]] = defaultdict(list)
    for app in android:
        by_parts[_parts(app, known)].append(app)
    for other in ios:
        mine = _parts(other, known)
        yield from ((app, other) for app in by_parts.get(mine, ()))
        holding = [app for parts, apps in by_parts.items() if mine < parts for app in apps]
        if holding and mine and mine not in by_parts:
            shown, version, build = (
                _agreed([value.text if value else "" for value in values], values)
                for values in zip(*((app.name, app.version, app.build) for app in holding), strict=True)
            )
            yield holding[0]._replace(name=shown, version=version, build=build), other


def _parts(app: ShippedApp, known: Sequence[str]) -> frozenset[str]:
    """Return the flavors that an app is made of, in small letters."""
    return frozenset(name.casefold() for name in made_of(app.variant, known) or {app.variant} if name)


def _agreed(texts: Sequence[str], values: Sequence[Value | None]) -> Value | None:
    return values[0] if len(set(texts)) == 1 else None
