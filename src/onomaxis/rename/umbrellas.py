"""What a framework's own files repeat of the apps that ship: they are kept in step with every rename."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from onomaxis.model import Edit, Facet, Mention, Renaming, Role, Wish
from onomaxis.projects.edits import place_edit
from onomaxis.projects.frameworks.hybrid import EVERY
from onomaxis.projects.literals import rewrite
from onomaxis.projects.project import Project
from onomaxis.survey.survey import Survey, umbrella_of

_IDS = (Facet.APPLICATION_ID, Facet.BUNDLE_ID)
_CODE = (Facet.CODE_PACKAGE, Facet.NAMESPACE)
Made = Sequence[tuple[Project, list[Renaming]]]


def repeat(survey: Survey, made: Made, wish: Wish, notes: list[str]) -> list[Edit]:
    """Return the edits of the framework files over the projects that were renamed; *made* are those and how."""
    edits: list[Edit] = []
    for umbrella in survey.projects:
        parts = [
            (project, own)
            for project, own in made
            if umbrella.umbrella and umbrella_of(survey.projects, project) is umbrella
        ]
        if not parts:
            continue
        for owner in umbrella.owners:
            edits += _owner(survey, umbrella, owner, parts, wish, notes)
        for mention in survey.mentions:
            if mention.scope.platform == EVERY and mention.scope.module == umbrella.folder and mention.owner is None:
                edits += _mentioned(survey, umbrella, mention, parts, wish)
    return edits


def _owner(
    survey: Survey, umbrella: Project, owner: Mention, parts: Made, wish: Wish, notes: list[str]
) -> Iterable[Edit]:
    """Yield the edit of one value that a framework's file states."""
    mine = [(p, own) for p, own in parts if owner.scope.platform in (EVERY, p.platform)]
    new = _wished(owner, mine, wish)
    if new is None or new == owner.value or owner.owner is None:
        return
    if owner.facet in _IDS and not _shared_by_all(survey, umbrella, owner, mine):
        notes.append(f"{owner.place.at}: {owner.value} stays: the other platform takes its ID from here too")
        return
    yield rewrite(survey.tree, owner.facet, owner.owner, new).edit


def _wished(owner: Mention, parts: Made, wish: Wish) -> str | None:
    if owner.facet in (*_IDS, *_CODE):
        facets = _IDS if owner.facet in _IDS else _CODE
        changed = [r for _, own in parts for r in own if r.facet in facets]
        applied = {r.apply(owner.value) for r in changed} - {None}
        if owner.facet in _IDS and not applied and owner.role is Role.OWNER:  # it differed, and shall not any more
            applied = {r.new for r in changed}
        return applied.pop() if len(applied) == 1 else None
    values = {Facet.DISPLAY_NAME: wish.name, Facet.VERSION_NAME: wish.version, Facet.VERSION_CODE: wish.build}
    wished = values.get(owner.facet) or None
    if wished is None or owner.role is Role.OWNER:
        return wished
    shown = {app.name.text for project, _ in parts for app in project.apps if app.name}
    return wished if owner.value in shown else None


def _shared_by_all(survey: Survey, umbrella: Project, owner: Mention, parts: Made) -> bool:
    """Tell whether every platform that goes by an ID for all is renamed with it."""
    if owner.scope.platform != EVERY:
        return True
    changed = {project.platform for project, own in parts if any(r.facet in _IDS for r in own)}
    going_by = {
        p.platform
        for p in survey.projects
        if not p.umbrella and umbrella_of(survey.projects, p) is umbrella
        and any(i.value == owner.value for i in p.identifiers)
    }  # fmt: skip
    return going_by <= changed


def _mentioned(survey: Survey, umbrella: Project, mention: Mention, parts: Made, wish: Wish) -> Iterable[Edit]:
    """Yield the edit of a place in the framework's code or configuration that names an ID."""
    if mention.role is not Role.FOLLOWER and not (mention.role is Role.PROSE and wish.prose):
        return
    applied = {r.apply(mention.value) for _, own in parts for r in own} - {None}
    going_by = [i for i in umbrella.identifiers if i.value == mention.value and i.facet in _IDS]
    changed = {r.facet for _, own in parts for r in own if r.apply(mention.value) is not None}
    if len(applied) == 1 and all(i.facet in changed for i in going_by):
        yield place_edit(survey.tree, mention.place, str(applied.pop()), mention.facet)
