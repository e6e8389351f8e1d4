"""Which projects are halves of one app, below one framework or as a native pair, and what they say differently."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import replace

from onomaxis.model import Disagreement, ShippedApp, made_of, same_flavor
from onomaxis.projects.project import Project


def umbrella_of(projects: Sequence[Project], project: Project) -> Project | None:
    """Return the framework's project that *project* is a part of: the nearest one above it, or beside it."""
    inside = f"{project.folder}/"
    above = [
        item
        for item in projects
        if item.umbrella and item.key != project.key and (not item.folder or inside.startswith(f"{item.folder}/"))
    ]
    return max(above, key=lambda item: len(item.folder), default=None)


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
    found: list[Disagreement] = []
    android = [app for project in projects if project.platform == "android" for app in project.apps]
    ios = [app for project in projects if project.platform == "ios" for app in project.apps]
    if not android or not ios:
        return found
    both = list(_pairs(android, ios))
    for one, other in both or [(android[0], ios[0])]:
        # A flavor of one platform alone is called what it likes; versions are the app's on every platform.
        shared = (
            ("versions-differ", "version", one.version, other.version),
            ("builds-differ", "build number", one.build, other.build),
        )
        own = not both and one.flavor and one.name is not None and "/src/main/" not in one.name.origin.file
        names = () if own else (("names-differ", "display name", one.name, other.name),)
        of = f" of {other.flavor}" if both and one.flavor else ""
        for code, label, left, right in (*shared, *names):
            made = left and right and not (left.is_written and right.is_written)
            if left and right and left.text != right.text and not made:
                message = f"the {label}{of} is {left.text} on Android and {right.text} on iOS"
                at = ((left.origin.file, left.origin.line), (right.origin.file, right.origin.line))
                found.append(Disagreement(code, message, at))
    return list(dict.fromkeys(found))


def _pairs(android: Sequence[ShippedApp], ios: Sequence[ShippedApp]) -> Iterator[tuple[ShippedApp, ShippedApp]]:
    """Yield what is one flavor on both platforms; a combination of several is compared with the one that it holds.

    What combinations of a flavor are called differs by their other halves: then no name is compared.
    """
    known = {app.flavor for app in ios if app.flavor}
    for other in ios:
        alike = [app for app in android if same_flavor(app.flavor, other.flavor)]
        yield from ((app, other) for app in alike)
        parts = [app for app in android if other.flavor in made_of(app.flavor, known | _rest(app, other))]
        names = {app.name.text for app in parts if app.name}
        for app in parts if not alike else ():
            yield (app if len(names) < 2 else replace(app, name=None)), other


def _rest(app: ShippedApp, other: ShippedApp) -> set[str]:
    """Return what a combination is called without a flavor in front or behind, in any case."""
    whole, part = app.flavor.casefold(), other.flavor.casefold()
    return {app.flavor[len(part) :] if whole.startswith(part) else app.flavor[: -len(part)]} - {""}
