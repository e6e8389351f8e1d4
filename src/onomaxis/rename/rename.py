"""The whole of a rename: plan, proof by a second reading, residue, and the way back when it is one."""

from __future__ import annotations

from dataclasses import replace

from onomaxis.model import Residue
from onomaxis.rename.by_variant import steps_of
from onomaxis.rename.plan import Plan, after, plan_values
from onomaxis.rename.proof import of_rename, outdone, prove_followers, prove_stable, prove_wished
from onomaxis.rename.technical import plan_technical, prove_kept
from onomaxis.rename.way_back import changes_back, way_back
from onomaxis.surveys.residue import find_residue, other_spellings
from onomaxis.surveys.survey import Survey, read_projects, take_survey
from onomaxis.tree import Tree
from onomaxis.wishes import Wish
from onomaxis.writing.change import applied
from onomaxis.writing.guard import refuse_unmerged
from onomaxis.writing.proof import proved

_SHARED = "code of several platforms shares this name: it changes everywhere or nowhere"


def plan_rename(survey: Survey, wish: Wish) -> Plan:
    """Plan a rename, read the result again before a byte is written, and list what stays.

    Raises FaultError when the result would not be what was asked for.
    """
    refuse_unmerged(survey.tree)
    steps = steps_of(survey.projects, wish)
    if steps.wishes == (wish,):
        return _planned(survey, wish)
    plan, between = Plan(notes=steps.notes), survey
    for step in steps.wishes:
        plan = after(plan, _planned(between, step, back=False))
        between = take_survey(applied(survey.tree, plan.changes), wish.app)
    plan = replace(plan, after=between.projects)
    return replace(plan, residue=_residue(survey, between.tree, plan))


def _planned(survey: Survey, wish: Wish, back: bool = True) -> Plan:
    """Plan what each build knows by itself; with *back* also as the way back behind a change, where it is one."""
    plan = plan_all(survey, wish)
    later = applied(survey.tree, plan.changes)
    if plan.empty:
        return plan
    projects = read_projects(later)
    plan = proved(
        survey.projects,
        projects,
        plan,
        of_rename(plan),
        # Where the project itself gets a name, its modules and targets are called otherwise: compared in the plan.
        gone=lambda project, app: bool(plan.technical),
        first=lambda: prove_wished(projects, plan),
        drawn=None if wish.services == "rewrite" else (),
    )
    prove_followers(survey, later, projects, plan)
    prove_stable(
        survey, later, plan, lambda again, targets: plan_all(again, wish._replace(app="", targets=tuple(targets)))
    )
    plan = replace(plan, after=tuple(projects), notes=(*plan.notes, *outdone(projects, plan)))
    entry = None if wish.team or wish.unify or not back else way_back(survey.tree, plan)
    if entry is not None:
        changes = changes_back(survey.tree, entry)
        later = applied(survey.tree, changes)
        plan = replace(plan, changes=changes, restored=entry.id, notes=())
    return replace(plan, residue=_residue(survey, later, plan))


def plan_all(survey: Survey, wish: Wish) -> Plan:
    """Plan what ships, and then what the project itself is called, where that is wished."""
    plan = plan_values(survey, wish)
    if not wish.project_name:
        return plan
    between = applied(survey.tree, plan.changes)
    technical = plan_technical(between, plan, wish.project_name)
    later = read_projects(applied(survey.tree, technical.changes))
    prove_kept(read_projects(between), later, dict(technical.technical))
    return technical


def _residue(survey: Survey, later: Tree, plan: Plan) -> tuple[Residue, ...]:
    """Search the files that held an old identifier or name, and those that were changed."""
    targets = {change.target for change in plan.changes if change.target}
    paths = sorted((survey.held & later.known) | targets)
    held = {path: data for path in paths if (data := later.read(path)) is not None}
    spellings = (form for item in plan.renamings for form in other_spellings(item.old))
    held |= later.holding([*(old for old, _ in plan.technical), *spellings])
    here = {path: data for path, data in held.items() if not path.startswith(plan.elsewhere)}
    other = {path: data for path, data in held.items() if path not in here}
    found = find_residue(survey, here, plan.renamings, plan.names, plan.technical)
    found = tuple(
        item._replace(reason=_SHARED) if any(text in item.text for text in plan.kept) else item for item in found
    )
    large = ((path, survey.tree.unreadable[path]) for path in sorted(survey.tree.large))
    found = (*found, *(Residue(path, 1, "", f"not looked into: {why}") for path, why in large))
    return (*found, *find_residue(survey, other, plan.renamings, (), ()))
