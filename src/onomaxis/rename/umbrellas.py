"""What a framework's own files repeat of the apps that ship: they are kept in step with every rename."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from onomaxis.errors import FormatError
from onomaxis.flavor_names import same_flavor
from onomaxis.model import Edit, Facet, Mention, Note, Role
from onomaxis.projects.edits import place_edit
from onomaxis.projects.literals import rewrite
from onomaxis.projects.project import EVERY, Project
from onomaxis.rename.targets import Target
from onomaxis.surveys.halves import umbrella_of
from onomaxis.surveys.survey import Survey

_IDS = (Facet.APPLICATION_ID, Facet.BUNDLE_ID)
_CODE = (Facet.CODE_PACKAGE, Facet.NAMESPACE)
Parts = Sequence[Target]


def repeat(survey: Survey, targets: Parts, notes: list[Note]) -> list[Edit]:
    """Return the edits of the framework files over the projects that are renamed."""
    edits: list[Edit] = []
    for umbrella in survey.projects:
        parts = [target for target in targets if umbrella.umbrella and target.umbrella is umbrella]
        if not parts:
            continue
        for owner in umbrella.owners:
            edits += _owner(survey, umbrella, owner, parts, notes)
        for mention in survey.mentions if not any(target.aim.flavor for target in parts) else ():
            if mention.scope.platform == EVERY and mention.scope.module == umbrella.folder and mention.owner is None:
                edits += _mentioned(survey, umbrella, mention, parts)
    return edits


def _owner(survey: Survey, umbrella: Project, owner: Mention, parts: Parts, notes: list[Note]) -> Iterable[Edit]:
    """Yield the edit of one value that a framework's file states."""
    there = [target for target in parts if owner.scope.platform in (EVERY, target.project.platform)]
    mine = [target for target in there if same_flavor(owner.scope.flavor, target.aim.flavor)]
    new = _wished(owner, mine) if mine else _derived(owner, there)
    if new is None or new == owner.value or owner.owner is None:
        return
    if owner.facet in _IDS and not _shared_by_all(survey, umbrella, owner, mine or there):
        notes.append(Note(owner.place.at, f"{owner.value} stays: the other platform takes its ID from here too"))
        return
    try:
        yield rewrite(survey.tree, owner.facet, owner.owner, new).edit
    except FormatError as error:
        if not owner.scope.flavor:
            raise
        notes.append(Note(owner.place.at, f"{owner.value} of {owner.scope.flavor} stays: {error.message}"))


def _derived(owner: Mention, parts: Parts) -> str | None:
    """Return what a flavor's own ID becomes that goes on from the app's (``.dev``); its other values stay."""
    if owner.facet not in _IDS or not owner.scope.flavor:
        return None
    applied = {item.apply(owner.value) for part in parts if not part.aim.flavor for item in part.renamings}
    applied -= {None}
    return applied.pop() if len(applied) == 1 else None


def _wished(owner: Mention, parts: Parts) -> str | None:
    if owner.facet in (*_IDS, *_CODE):
        facets = _IDS if owner.facet in _IDS else _CODE
        changed = [item for target in parts for item in target.renamings if item.facet in facets]
        applied = {new for item in changed if (new := item.apply(owner.value)) is not None}
        if owner.facet in _IDS and not applied and owner.role is Role.OWNER:  # it differed, and shall not any more
            applied = {part.aim.id for part in parts} - {""}
        return applied.pop() if len(applied) == 1 else None
    wished = next((item.new for target in parts if (item := target.becoming(owner.facet))), None)
    if wished is None or owner.role is Role.OWNER:
        return wished
    shown = {app.name.text for target in parts for app in target.project.apps if app.name}
    return wished if owner.value in shown else None


def _shared_by_all(survey: Survey, umbrella: Project, owner: Mention, parts: Parts) -> bool:
    """Tell whether every platform that goes by an ID for all is renamed with it."""
    if owner.scope.platform != EVERY:
        return True
    changed = {part.project.platform for part in parts if any(item.facet in _IDS for item in part.renamings)}
    going_by = {
        p.platform
        for p in survey.projects
        if not p.umbrella
        and umbrella_of(survey.projects, p) is umbrella
        and any(i.value == owner.value for i in p.identifiers)
    }
    return going_by <= changed


def _mentioned(survey: Survey, umbrella: Project, mention: Mention, parts: Parts) -> Iterable[Edit]:
    """Yield the edit of a place in the framework's code or configuration that names an ID."""
    prose = mention.role is Role.PROSE and any(target.aim.prose for target in parts)
    if mention.role is not Role.FOLLOWER and not prose:
        return
    renamings = [item for target in parts for item in target.renamings if item.apply(mention.value) is not None]
    applied = {item.apply(mention.value) for item in renamings}
    going_by = [i for i in umbrella.identifiers if i.value == mention.value and i.facet in _IDS]
    if len(applied) == 1 and all(item.facet in {renaming.facet for renaming in renamings} for item in going_by):
        yield place_edit(survey.tree, mention.place, str(applied.pop()), mention.facet)
