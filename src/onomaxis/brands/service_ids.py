"""An app that takes its ID from a service file: the ID that it is renamed to, and the file in its place."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from onomaxis.brands.services import ServiceWish, known_by
from onomaxis.brands.stamp import put_services
from onomaxis.brands.subjects import Subject, subjects, subjects_called
from onomaxis.errors import InputError
from onomaxis.flavor_names import same_flavor
from onomaxis.projects.project import Project
from onomaxis.rename.plan import Plan
from onomaxis.surveys.survey import Survey, read_projects
from onomaxis.writing.change import applied, followed_by
from onomaxis.writing.planned import Stages
from onomaxis.writing.proof import proved

Files = Sequence[tuple[str, bytes]]


def ids_of(projects: Sequence[Project], files: Files, flavor: str, app: str) -> Mapping[str, str]:
    """Return by platform the ID that the app, or a flavor of it, is to have by its service *files* (name and bytes).

    Raises InputError where a file knows none, or several that no other flavor has.
    """
    meant = _meant(projects, app)
    found: dict[str, str] = {}
    for name, data in files:
        platform, known = known_by(name, data)
        subject = next((item for item in meant if item.platform == platform), None)
        if subject is None:
            raise InputError(f"it is for {platform}, and there is no {platform} app here", file=name)
        others = {
            item.id.text
            for item in (*subject.brands, *subject.apps)
            if item.id is not None and not same_flavor(item.flavor, flavor)
        }
        fitting = [id_ for id_ in dict.fromkeys(known) if id_ not in others]
        if len(fitting) != 1 or found.get(platform, fitting[0]) != fitting[0]:
            listed = ", ".join(known) or "none"
            raise InputError(
                f"which ID the {platform} app should get cannot be determined: the file lists {listed}",
                file=name,
                remedy=f"Give it with --{platform}-id; onomaxis stamp --service {name} puts the file in its place.",
            )
        found[platform] = fitting[0]
    return found


def with_services(survey: Survey, plan: Plan, files: Files, flavor: str, app: str) -> Plan:
    """Return the plan of a rename with the service files put in their places, in the same change.

    Raises InputError or RefusedError; FaultError where the result is not right.
    """
    stages = Stages(applied(survey.tree, plan.changes))
    before = read_projects(stages.tree)
    meant = tuple(_meant(before, app))
    put_services(stages, [ServiceWish(name, data, flavor, meant) for name, data in files])
    if not stages.changes:
        return plan
    put = proved(before, read_projects(stages.tree), stages.planned(plan.title), drawn=None)
    placed = {change.target for change in put.changes}
    return replace(
        plan,
        changes=followed_by(plan.changes, put.changes),
        edits=plan.edits + put.edits,
        summary=(*plan.summary, *put.summary),
        notes=(*plan.notes, *put.notes),
        residue=tuple(item for item in plan.residue if item.file not in placed),
        called_before=plan.called_before or put.called_before,
        called_after=plan.called_after or put.called_after,
    )


def _meant(projects: Sequence[Project], app: str) -> Sequence[Subject]:
    return subjects_called(projects, app) if app else subjects(projects)
