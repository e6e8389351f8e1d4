"""Every flavor that the identity file has, added where a build lacks it: the way out of a merge that conflicts."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from onomaxis.brands.flavors import plan_flavor
from onomaxis.brands.missing_flavors import missing_flavors
from onomaxis.brands.new_flavor import FlavorWish
from onomaxis.brands.stamp import Tick, stamp
from onomaxis.brands.subjects import load_identity, subjects_of
from onomaxis.flavor_names import same_flavor
from onomaxis.identity.file import IdentityFile
from onomaxis.model import Note, Owed
from onomaxis.projects.neighbours.called import Called, Names
from onomaxis.surveys.survey import read_projects
from onomaxis.tree import Tree
from onomaxis.writing.change import FileChange
from onomaxis.writing.planned import PlannedChange, Stages


def _is_allowed(file: IdentityFile, flavor: str) -> bool:
    """Tell whether the identity file says that a flavor is missed on purpose (rule FLAVOR01)."""
    meant = (item.flavor for item in file.allowed if item.rule == "FLAVOR01")
    return any(not name or same_flavor(name, flavor) for name in meant)


def _called_after(tree: Tree, name: str, others: Iterable[str]) -> list[str]:
    """Return the files that are a flavor's as their like are other flavors'.

    They came with the merge, as they were made on its branch, and stay as they are.
    """
    siblings, own = [Called(other, {}, "") for other in others], Called(name, {}, "")
    names = Names([*siblings, own])
    return [
        path
        for path in tree.files
        if any(span.flavor == name for span in names.spans(path))
        and any(names.renamed(path, name, other) in tree.known for other in siblings)
    ]


def plan_missing(tree: Tree, tick: Tick | None = None) -> PlannedChange:
    """Plan every flavor that the identity file has and a build lacks, as a new one is made, then what the file says.

    Raises InputError or RefusedError; FaultError where the result is not right.
    """
    stages, tried, owed, proposed = Stages(tree), set[str](), list[Owed](), dict[str | None, FileChange]()
    while True:
        file = load_identity(stages.tree)
        if file is None:
            break
        named = subjects_of(file, read_projects(stages.tree))
        lacking: dict[str, list[str]] = {}
        for flavor, subject in missing_flavors(stages.tree, file, named):
            if flavor not in tried and not _is_allowed(file, flavor):
                lacking.setdefault(flavor, []).append(subject.platform)
        if not lacking:
            break
        # What is made of several comes of itself with them.
        name = min(lacking, key=lambda flavor: max(len(subject.singles.parts(flavor)) for subject in named))
        tried.add(name)
        given = {key: said.text for key, said in file.brand(name, lacking[name][0]).values.items()}
        there = _called_after(stages.tree, name, {other for subject in named for other in subject.flavors})
        wish = FlavorWish(name, platforms=(*lacking[name],), given=given)
        plan = plan_flavor(stages.tree.overlay({}, there), wish, tick)
        made = [item for item in plan.changes if item.source is not None or item.target not in there]
        stages.add_plan(replace(plan, changes=tuple(made)))
        owed += (item for item in plan.owed if Note(item.at, "").file not in there)
        proposed |= {item.target: item for item in plan.proposed}
    stages.add_plan(stamp(stages.tree, tick=tick))
    planned = stages.planned("stamp: what was missing", "Nothing to change: every build has each flavor.")
    return replace(planned, owed=tuple(dict.fromkeys(owed)), proposed=tuple(proposed.values()))
