"""Which flavors are siblings of each other: those of one app over its platforms that vary one thing."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

from onomaxis.brands.subjects import Subject
from onomaxis.checks.context import Context
from onomaxis.projects.project import Project
from onomaxis.projects.siblings import Group
from onomaxis.surveys.halves import home_of
from onomaxis.surveys.variants import dimensions_of


def groups(context: Context) -> Iterator[Group]:
    """Yield the siblings of a tree, those of one dimension each."""
    found: dict[tuple[str, str], dict[str, str]] = defaultdict(dict)
    halves: dict[str, list[Project]] = defaultdict(list)
    for project in context.projects:
        halves[home_of(context.projects, project)].append(project)
    tiers = {folder: dimensions_of(projects, context.tree) for folder, projects in halves.items()}
    for subject in context.subjects:
        folder, apps = home_of(context.projects, subject.project), _apps(subject)
        for flavor in subject.flavors:
            if flavor not in apps:
                dimension = tiers[folder].get(flavor.casefold(), "")
                found[folder, dimension].setdefault(flavor.casefold(), flavor)
    for (folder, _), flavors in found.items():
        if len(flavors) > 1:
            inner = (home for home in halves if home != folder and any(project.apps for project in halves[home]))
            apart = tuple(f"{home}/" for home in inner if not folder or home.startswith(f"{folder}/"))
            yield Group(folder, tuple(flavors.values()), apart)


def _apps(subject: Subject) -> set[str]:
    """Return the flavors that stand for the app itself: theirs is the ID that others go on from."""
    base = subject.text("", "id")
    ids = {name: value.text for name in subject.flavors if (value := subject.value(name, "id"))}
    below = any(base and id_.startswith(f"{base}.") for id_ in ids.values())
    return {name for name, id_ in ids.items() if below and id_ == base}
