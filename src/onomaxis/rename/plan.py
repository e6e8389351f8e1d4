"""From a survey and targets to a planned change: every edit, move and new file that follows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from onomaxis.errors import RefusedError
from onomaxis.identity import rules
from onomaxis.model import Line
from onomaxis.projects.draft import Draft
from onomaxis.projects.project import Project
from onomaxis.rename.bridges import settle_bridges
from onomaxis.rename.identifiers import rewrite_identifiers, rewrite_loose
from onomaxis.rename.own_entries import own_entries
from onomaxis.rename.refusals import refuse
from onomaxis.rename.renamings import apart_by_condition, kept_code, said
from onomaxis.rename.targets import SAID, Target, targets_of
from onomaxis.rename.titles import shown_edits
from onomaxis.rename.umbrellas import repeat
from onomaxis.rename.values import Work, rewrite_values, unplaced
from onomaxis.surveys.survey import Survey, kind_of, take_survey
from onomaxis.wishes import Renaming, Wish
from onomaxis.writing.change import applied, followed_by
from onomaxis.writing.planned import PlannedChange, changeset_of, places

NOTHING = "Nothing to change: the project has these IDs, names and numbers already."


@dataclass(frozen=True)
class Plan(PlannedChange):
    """A planned rename: what it is for, and what of the old identity still stands after it.

    ``names`` are the display names, old and new; ``technical`` the technical ones; ``kept`` are texts that
    code of several platforms shares, and that stay for it; ``elsewhere`` the folders of
    projects that it is not for; ``restored`` the change in the journal that it leads back behind, ``after`` the
    projects as they will be read.
    """

    targets: tuple[Target, ...] = ()
    renamings: tuple[Renaming, ...] = ()
    names: tuple[tuple[str, str], ...] = ()
    technical: tuple[tuple[str, str], ...] = ()
    kept: tuple[str, ...] = ()
    elsewhere: tuple[str, ...] = ()
    restored: str = ""
    after: tuple[Project, ...] = field(default=(), compare=False, repr=False)


def plan_values(survey: Survey, wish: Wish) -> Plan:
    """Plan what is set right first, and then every identifier, name and version of a wish.

    Raises InputError or RefusedError; nothing is written.
    """
    targets = targets_of(survey, wish)
    prepared = _prepared(survey, targets)
    if prepared is None:
        return _planned(survey, targets)
    between = take_survey(applied(survey.tree, prepared.changes), wish.app, wish.targets)
    return after(prepared, _planned(between, targets_of(between, wish)))


def _planned(survey: Survey, targets: Sequence[Target]) -> Plan:
    refuse(survey, targets)
    work, draft = Work(), Draft()
    for target in targets:
        work.summary += said(target.renamings)
        rewrite_identifiers(survey, target, work)
        if target.project.apps:
            rewrite_values(survey, target, work)
        if target.project.apps and target.aim.flavor:
            draft.join(own_entries(survey, target, work))
        kind = kind_of(target.project)
        draft.join(kind.follow(target.project, survey.tree, target.renamings, target.aim))
        work.notes += kept_code(target.project, target.renamings, target.aim)
        changed = {item.facet for item in target.renamings} | {item.facet for item in target.values}
        work.notes += apart_by_condition(target.project, changed)
    work.edits += repeat(survey, targets, work.notes)
    if not any(target.aim.flavor for target in targets):
        work.edits += shown_edits(survey, targets, work.edits)
    rewrite_loose(survey, targets, work)
    settled = settle_bridges(survey, targets, work.edits)
    work.edits, work.notes = settled.edits, [*work.notes, *settled.notes]
    draft.refuse()
    draft.edits = [*work.edits, *draft.edits]
    made = {edit.facet for edit in draft.edits}
    lacking = [note for target in targets for note in unplaced(target, made, bool(draft.created))]
    asked = sum(len(target.values) + bool(target.aim.id) for target in targets)
    if lacking and len(lacking) == asked and not places(draft):
        remedy = "State it where the project's tools look for it; nothing was changed."
        raise RefusedError(lacking[0].text, file=lacking[0].at.removeprefix("."), remedy=remedy)
    work.notes += lacking
    return Plan(
        changeset_of(draft).resolve(survey.tree),
        places(draft),
        tuple(sorted(dict.fromkeys(work.summary), key=_is_value)),
        tuple(dict.fromkeys([*work.notes, *draft.notes])),
        nothing=NOTHING if not lacking else "Nothing to change: every place that exists has these values already.",
        targets=tuple(targets),
        renamings=tuple(dict.fromkeys(item for target in targets for item in target.renamings)),
        names=tuple(dict.fromkeys(work.names)),
        kept=settled.kept,
        elsewhere=_elsewhere(survey, targets),
    )


def _is_value(line: Line) -> bool:
    """Sort what identifiers become before names and versions."""
    return line.label in SAID.values()


def _elsewhere(survey: Survey, targets: Sequence[Target]) -> tuple[str, ...]:
    """Return the folders of the projects that a plan is not for: what they are called is not a residue of it."""
    mine = [f"{target.project.folder}/" for target in targets]
    others = {f"{project.folder}/" for project in survey.projects if project.folder}
    return tuple(
        sorted(
            other
            for other in others
            if not any(folder.startswith(other) or other.startswith(folder) for folder in mine)
        )
    )


def _prepared(survey: Survey, targets: Sequence[Target]) -> Plan | None:
    """Plan what the wish asks to be set right first; None when that is nothing."""
    teams = {target.aim.team for target in targets} - {""}
    asked = any(item.aim.unify or item.aim.names or item.aim.apart or item.umbrella is not None for item in targets)
    if not teams and not asked:
        return None
    for team in teams:
        rules.team(team)
    draft = Draft()
    above = {target.umbrella.key: (target.umbrella, target.aim) for target in targets if target.umbrella is not None}
    for project, aim in (*((target.project, target.aim) for target in targets), *above.values()):
        draft.join(kind_of(project).prepare(project, survey.tree, aim))
    draft.refuse()
    if not draft.edits and not draft.notes:
        return None
    summary = tuple(Line("signing team", team) for team in teams if draft.edits)
    return Plan(changeset_of(draft).resolve(survey.tree), places(draft), summary, tuple(draft.notes))


def after(first: Plan, second: Plan) -> Plan:
    """Return the plan that does *first*, then *second*, which was made for its result."""
    return replace(
        second,
        changes=followed_by(first.changes, second.changes),
        edits=first.edits + second.edits,
        notes=tuple(dict.fromkeys([*first.notes, *second.notes])),
        summary=tuple(dict.fromkeys([*first.summary, *second.summary])),
        targets=(*first.targets, *second.targets),
        renamings=tuple(dict.fromkeys([*first.renamings, *second.renamings])),
        names=tuple(dict.fromkeys([*first.names, *second.names])),
    )
