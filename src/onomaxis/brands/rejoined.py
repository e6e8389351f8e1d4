"""Every flavor that the identity file has, added where a build lacks it: the way out of a merge that conflicts."""

from __future__ import annotations

from dataclasses import replace

from onomaxis.brands.flavors import plan_flavor
from onomaxis.brands.missing_flavors import missing_flavors
from onomaxis.brands.neighbours import files_alike
from onomaxis.brands.new_flavor import FlavorWish
from onomaxis.brands.stamp import Tick, stamp
from onomaxis.brands.subjects import load_identity, subjects_of
from onomaxis.model import Note, Owed
from onomaxis.projects.neighbours.called import Called
from onomaxis.surveys.flavors import flavors_of
from onomaxis.surveys.survey import read_projects
from onomaxis.tree import Tree
from onomaxis.writing.change import FileChange
from onomaxis.writing.planned import PlannedChange, Stages
from onomaxis.writing.proof import proved


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
            home = file.home(file.line("flavors", flavor))
            meant = any(item.covers("FLAVOR01", flavor, [home]) for item in file.allowed)  # it is missed on purpose
            if flavor not in tried and not meant:
                lacking.setdefault(flavor, []).append(subject.platform)
        if not lacking:
            break
        # What is made of several comes of itself with them.
        name = min(lacking, key=lambda flavor: max(len(subject.singles.parts(flavor)) for subject in named))
        tried.add(name)
        given = {key: said.text for key, said in file.brand(name, lacking[name][0]).values.items()}
        # Files that are called after it as others are after theirs came with the merge: they stay as they are.
        every = [Called(other, {}, "") for other in dict.fromkeys((*flavors_of(read_projects(stages.tree)), name))]
        there = [paths[name] for paths in files_alike(stages.tree, every, settings=True) if name in paths]
        wish = FlavorWish(name, platforms=(*lacking[name],), given=given)
        plan = plan_flavor(stages.tree.overlay({}, there), wish, tick)
        made = [item for item in plan.changes if item.source is not None or item.target not in there]
        stages.add_plan(replace(plan, changes=tuple(made)))
        owed += (item for item in plan.owed if Note(item.at, "").file not in there)
        proposed |= {item.target: item for item in plan.proposed}
    proved(read_projects(tree), read_projects(stages.tree), stages.planned(""), drawn=tuple(tried))
    stages.add_plan(stamp(stages.tree, tick=tick))
    planned = stages.planned("stamp: what was missing", "Nothing to change: every build has each flavor.")
    return replace(planned, owed=tuple(dict.fromkeys(owed)), proposed=tuple(proposed.values()))
