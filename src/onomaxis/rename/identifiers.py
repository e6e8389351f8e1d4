"""Mentions of identifiers: which of them change under which renaming, and which should have and did not."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from onomaxis.errors import FormatError
from onomaxis.flavor_names import same_flavor
from onomaxis.formats.source import Source, flat
from onomaxis.model import Facet, Mention, Note, Role
from onomaxis.projects.edits import place_edit
from onomaxis.projects.literals import rewrite
from onomaxis.projects.occurrences import occurrences
from onomaxis.projects.ownership import is_service_file, other_app
from onomaxis.projects.project import Project
from onomaxis.rename.bridges import bridge_at
from onomaxis.rename.targets import Target
from onomaxis.rename.values import Work
from onomaxis.surveys.survey import Survey, classified
from onomaxis.wishes import Renaming

_ID_FACETS = (Facet.APPLICATION_ID, Facet.NAMESPACE, Facet.CODE_PACKAGE, Facet.BUNDLE_ID, Facet.APP_GROUP)


def rewrite_identifiers(survey: Survey, target: Target, work: Work) -> None:
    """Add to *work* the edits of every mention of an identifier that falls under a renaming of the target."""
    flavor = target.aim.flavor
    shared = _of_several(survey, target) if target.aim.apart else set()
    for mention in survey.mentions:
        if (mention.place.file, mention.place.start) in shared:
            continue
        renaming = _renaming_of(target.renamings, mention)
        if renaming is None or mention.facet not in _ID_FACETS or not _changes(mention, target):
            continue
        new = renaming.apply(mention.value)
        if mention.owner is not None and other_app(mention.value, target.project.foreign):
            continue
        if new is None or (flavor and not _of_flavor(mention, flavor)):
            continue
        _rewrite_one(survey, mention, new, work)


def _of_several(survey: Survey, target: Target) -> set[tuple[str, int]]:
    """Return the places that projects of several platforms own, and that no app of the target takes its ID from."""
    places: dict[tuple[str, int], set[str]] = {}
    for project in survey.projects:
        for owner in project.owners if not project.umbrella else ():
            if owner.facet in _ID_FACETS:
                places.setdefault((owner.place.file, owner.place.start), set()).add(project.platform)
    own = {(app.id.origin.file, app.id.origin.start) for app in target.project.apps if app.id is not None}
    return {spot for spot, platforms in places.items() if len(platforms) > 1} - own


def remaining(
    projects: Sequence[Project],
    targets: Sequence[Target],
    path: str,
    data: bytes,
    owned: Sequence[tuple[int, int]] = (),
    kept: Sequence[str] = (),
) -> Mention | None:
    """Return a mention in a changed file that should have changed and did not, if there is one.

    What stands in the spans *owned* sets a value: those are compared as values. Texts *kept* stay for a reason.
    """
    renamings = [item for one in targets for item in one.renamings]
    plain = flat(data)
    olds = {item.old for item in renamings if item.old.encode() in plain}
    if not olds:
        return None
    try:
        source = Source.read(data)
    except FormatError:
        return None
    hits = [
        hit
        for hit in occurrences(path, source, olds, ())
        if not any(hit.token == item.new or hit.token.startswith(f"{item.new}.") for item in renamings)
        and not any(start <= source.offset(hit.start) < end for start, end in owned)
    ]
    for mention in classified(projects, path, source, hits) if hits else ():
        for one in targets:
            renaming = _renaming_of(one.renamings, mention)
            mine = renaming is not None and mention.facet in _ID_FACETS and _changes(mention, one)
            flavor = one.aim.flavor
            spot = mention.place
            if kept and bridge_at(data, spot.start, spot.end) in kept:
                continue
            if mine and mention.owner is None and not (flavor and not _of_flavor(mention, flavor)):
                return mention
    return None


def _renaming_of(renamings: Iterable[Renaming], mention: Mention) -> Renaming | None:
    """Return the renaming that a mention falls under."""
    mine = (item for item in renamings if item.facet is mention.facet)
    return next((item for item in mine if item.apply(mention.value) is not None), None)


def _of_flavor(mention: Mention, flavor: str) -> bool:
    """Tell whether a mention counts for one flavor alone: its own setting, or a file of its source set."""
    return same_flavor(mention.scope.flavor, flavor) or f"/src/{flavor}/" in mention.place.file


def _changes(mention: Mention, target: Target) -> bool:
    """Tell whether a mention's role lets it change."""
    project, aim, platform = target.project, target.aim, mention.scope.platform
    if not platform or platform != project.platform:
        return False
    if project.folder and not mention.place.file.startswith(project.folder + "/"):
        return mention.owner is not None and mention.role is Role.OWNER
    if mention.role is Role.PROSE:
        return aim.prose
    if mention.role is Role.OUTSIDE:
        service = is_service_file(mention.place.file) and aim.services == "rewrite"
        return service or (mention.facet is Facet.APP_GROUP and aim.groups == "rewrite")
    return True


def _rewrite_one(survey: Survey, mention: Mention, new: str, work: Work) -> None:
    if mention.owner is None:
        work.edits.append(place_edit(survey.tree, mention.place, new, mention.facet))
        return
    if mention.role is Role.FOLLOWER and mention.owner.text != mention.value:
        new = new + mention.owner.text[len(mention.value) :]
    done = rewrite(survey.tree, mention.facet, mention.owner, new)
    work.edits.append(done.edit)
    if done.replaced and done.replaced.written:
        work.notes.append(Note(done.replaced.at, f"{done.replaced.written} was replaced by a literal"))


def rewrite_loose(survey: Survey, targets: Sequence[Target], work: Work) -> None:
    """Change documents and service files outside every project, where asked."""
    renamings = list(dict.fromkeys(item for target in targets for item in target.renamings))
    prose = any(target.aim.prose for target in targets)
    services = any(target.aim.services == "rewrite" for target in targets)
    for mention in survey.mentions:
        if mention.scope.platform or mention.owner is not None:
            continue
        service = is_service_file(mention.place.file) and services
        if not service and not (mention.role is Role.PROSE and prose):
            continue
        renaming = _renaming_of(renamings, mention)
        new = renaming.apply(mention.value) if renaming else None
        if new is not None:
            work.edits.append(place_edit(survey.tree, mention.place, new, mention.facet))
