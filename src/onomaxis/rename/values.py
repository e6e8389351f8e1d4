"""Names, versions and missing IDs: every owner of a facet gets its new value, in the place's own syntax."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field

from onomaxis.errors import RefusedError
from onomaxis.flavor_names import same_flavor
from onomaxis.identity import rules
from onomaxis.model import HIDDEN_PARTS, Edit, Facet, Line, Mention, Note, Opening, Value
from onomaxis.platforms import PLATFORM_NAMES, PLATFORMS
from onomaxis.projects.edits import opening_edit
from onomaxis.projects.literals import rewrite
from onomaxis.projects.project import Project, base_id
from onomaxis.rename.targets import (
    SAID,
    Becoming,
    Target,
    combined_owners,
    has_flavor,
    value_of,
    variants_with,
    with_name,
)
from onomaxis.surveys.survey import Survey
from onomaxis.wishes import Wish


@dataclass
class Work:
    """What is gathered while a plan is made."""

    edits: list[Edit] = field(default_factory=list)
    notes: list[Note] = field(default_factory=list)
    summary: list[Line] = field(default_factory=list)
    names: list[tuple[str, str]] = field(default_factory=list)


def rewrite_values(survey: Survey, target: Target, work: Work) -> None:
    """Add to *work* what gives a project its wished names, versions and, where one is not stated yet, its ID."""
    project, aim = target.project, target.aim
    if aim.flavor and project.kind in PLATFORMS and not has_flavor(project, aim.flavor):
        return  # nothing here is called by it
    for item in target.values:
        _rewrite_facet(survey, target, item, work)
    if aim.name is not None and project.platform == "ios" and len(aim.name) > rules.LONGEST_NAME:
        said = f"the name is {len(aim.name)} characters long: the App Store takes {rules.LONGEST_NAME} at most"
        work.notes.append(Note(project.folder or ".", said))
    for locale, text in aim.names:
        _rewrite_locale(survey, project, locale, text, aim, work)
    if aim.project_name and project.kind == "android":
        _rewrite_project_name(survey, project, aim.project_name, work)
    if aim.id and project.kind == "android" and not aim.flavor:
        _open_id(survey, target, work)
    if project.kind not in PLATFORMS and not aim.flavor:
        _open_missing_id(survey, project, aim.id, work)


def _rewrite_project_name(survey: Survey, project: Project, new: str, work: Work) -> None:
    """Give the Gradle build its new name."""
    owners = [item for item in project.owners if item.facet is Facet.PROJECT_NAME]
    for owner in owners:
        if owner.value != new:
            _replace(survey, owner, new, work)
            work.summary.append(Line("Gradle build", f"{owner.value} → {new}"))
    if not owners:
        work.notes.append(
            Note(project.folder or ".", "the settings script gives the Gradle build no name of its own")
        )


def _rewrite_locale(survey: Survey, project: Project, locale: str, text: str, aim: Wish, work: Work) -> None:
    """Give the localized name its new text; a flavor's own one stays, unless that flavor was named."""
    owners = [item for item in project.owners if item.facet is Facet.DISPLAY_NAME and item.scope.locale == locale]
    general = {item.value for item in owners if not item.scope.flavor}
    changed: list[str] = []
    for owner in owners:
        mine = same_flavor(owner.scope.flavor, aim.flavor)
        if owner.value == text:
            continue
        if mine or (not aim.flavor and owner.value in general):
            changed.append(owner.value)
            _replace(survey, owner, text, work)
        elif not aim.flavor:
            work.notes.append(
                Note(owner.place.at, f"the {locale} name “{owner.value}” of {owner.scope.flavor} stays")
            )
    if changed:
        work.summary.append(Line(f"name in {locale}", f"{' or '.join(dict.fromkeys(changed))} → {text}"))
    elif not any(locale in dict(app.names) for app in project.apps):
        work.summary.append(Line(f"name in {locale}", text))  # a place for it is made


def _open_id(survey: Survey, target: Target, work: Work) -> None:
    """Write an application ID of its own where it would not follow from the namespace."""
    project, new = target.project, target.aim.id
    namespace = base_id(project, project.apps[0])
    moved = next((r.apply(namespace) for r in target.renamings if r.facet is Facet.NAMESPACE), None) or namespace
    for opening in project.openings:
        if opening.facet is Facet.APPLICATION_ID and moved != new and _main(project, opening):
            work.edits.append(opening_edit(survey.tree, opening, new))


_ID_SAID = {"android": (Facet.APPLICATION_ID, "application ID"), "ios": (Facet.BUNDLE_ID, "bundle identifier")}


def _open_missing_id(survey: Survey, project: Project, new: str, work: Work) -> None:
    """Write the ID of a platform that a framework's file does not state yet."""
    if not new or any(app.id for app in project.apps):
        return
    facet, label = _ID_SAID[project.platform]
    spots = [opening for opening in project.openings if opening.facet is facet]
    if not spots:
        raise RefusedError(
            f"the {project.kind} project states no ID for {PLATFORM_NAMES[project.platform]}",
            file=project.folder or ".",
            remedy="Write it into the framework's file once; nothing was changed.",
        )
    for opening in spots:
        work.edits.append(opening_edit(survey.tree, opening, new))
        work.summary.append(Line(label, new))


def _main(project: Project, opening: Opening) -> bool:
    return opening.scope.module == project.apps[0].module


def _rewrite_facet(survey: Survey, target: Target, item: Becoming, work: Work) -> None:
    """Give a facet its new value at every owner that holds the app's present one, or that a flavor owns."""
    project, aim = target.project, target.aim
    facet, old, new = item.facet, item.old, item.new
    kept: dict[str, Mention] = {}
    for owner in _owners(survey, target, item):
        if _changes(project, owner, item, aim):
            _replace(survey, owner, new, work)
        elif own := _own_name(project, owner, item, aim):
            _replace(survey, owner, own, work)
            work.summary.append(Line(SAID[facet], f"{owner.value} → {own}"))
        elif not (aim.flavor and owner.scope.locale):  # what a flavor is called in languages is told by itself
            kept.setdefault(owner.value, owner)
    written = {(edit.file, edit.start) for edit in work.edits}
    for value, owner in kept.items():
        pieces = owner.owner.pieces if owner.owner is not None else ()
        if not any(piece.place and (piece.place.file, piece.place.start) in written for piece in pieces):
            work.notes.append(Note(owner.place.at, f"{SAID[facet]} “{value}” stays (it was not “{old}”)"))
    if not aim.flavor:
        _open_facet(survey, project, item, work)
        work.notes += _taken_by_none(project, item)
    if old is not None and old != new:
        work.summary.append(Line(SAID[facet], f"{old} → {new}"))
        if facet is Facet.DISPLAY_NAME:
            work.names.append((old, new))


def _taken_by_none(project: Project, item: Becoming) -> Iterator[Note]:
    """Say where nothing that ships takes a facet from the app itself: each flavor states its own."""
    shipped = [(app.flavor, value) for app in project.apps if (value := value_of(app, item.facet)) is not None]
    if item.old in (None, item.new) or not shipped or any(item.old == value.text for _, value in shipped):
        return
    if all(flavor for flavor, _ in shipped):
        what = SAID[item.facet]
        said = f"every flavor has a {what} of its own and keeps it: nothing that ships is called “{item.new}”"
        yield Note(shipped[0][1].origin.at, f"{said} (--flavor changes one)")


def _owners(survey: Survey, target: Target, item: Becoming) -> Iterator[Mention]:
    """Yield the owners of a facet that do not read as wished, those of other apps, flavors and languages left out."""
    aim = target.aim
    named = item.facet is Facet.DISPLAY_NAME and bool(aim.flavor)
    combined = {id(owner) for owner in combined_owners(target.project, item.facet, aim.flavor)} if named else set()
    for owner in target.project.owners:
        if owner.facet is not item.facet or owner.value == item.new or _of_another(survey, target, owner):
            continue
        if aim.flavor and not same_flavor(owner.scope.flavor, aim.flavor) and id(owner) not in combined:
            continue
        spoken = item.facet is Facet.DISPLAY_NAME and owner.scope.locale in dict(aim.names)
        if not (owner.scope.locale and spoken):
            yield owner


def _of_another(survey: Survey, target: Target, owner: Mention) -> bool:
    """Tell whether an owner counts for an app that is not meant, of the project or of another platform."""
    project, module, here = target.project, owner.scope.module, (owner.place.file, owner.place.start)
    if here in project.spots:
        return False
    beside = (p for p in survey.projects if p.kind == project.kind and p.platform != project.platform)
    if any(here in other.spots for other in beside):
        return True
    if module not in target.others or module in target.modules:
        return False
    return all(part.target != module for app in project.apps for part in app.parts)


def _changes(project: Project, owner: Mention, item: Becoming, aim: Wish) -> bool:
    """Tell whether an owner takes the new value: it holds the app's, keeps step with it, or is the flavor's own."""
    embedded = {part.target for app in project.apps for part in app.parts if part.kind not in HIDDEN_PARTS}
    in_step = item.facet in _IN_STEP and owner.scope.module in embedded
    own = same_flavor(owner.scope.flavor, aim.flavor) and bool(aim.flavor) and not owner.scope.locale
    own = own and not _of_another_stage(project, owner, item, aim)
    if item.facet is Facet.DISPLAY_NAME and not (owner.scope.locale or owner.scope.flavor or aim.flavor):
        own = any(entry.only and entry.label.origin == owner.place for app in project.apps for entry in app.launchers)
    return item.old is None or owner.value == item.old or in_step or own


def _of_another_stage(project: Project, owner: Mention, item: Becoming, aim: Wish) -> bool:
    """Tell whether only other stages of a flavor than its main one take a value from a place: it is theirs."""
    mine = [app for app in project.brands() if same_flavor(app.flavor, aim.flavor)]
    spot = (owner.place.file, owner.place.start)
    takers = [app for app in mine if (value := value_of(app, item.facet)) and spot in _spots_of(value)]
    return bool(takers) and all(app.beside != mine[0].beside for app in takers)


def _own_name(project: Project, owner: Mention, item: Becoming, aim: Wish) -> str:
    """Return what a variant's own name becomes that is the main one's, or goes on from it; else nothing."""
    if item.facet is not Facet.DISPLAY_NAME or not aim.flavor or owner.scope.locale:
        return ""
    names = (value.text for app in variants_with(project, aim.flavor) if (value := value_of(app, item.facet)))
    main = next(names, "")
    return item.new if owner.value == main else with_name(owner.value, main, item.new)


def _spots_of(value: Value) -> set[tuple[str, int]]:
    return {(spot.file, spot.start) for spot in (value.origin, value.place)}


def _open_facet(survey: Survey, project: Project, item: Becoming, work: Work) -> None:
    """Write a facet where the app has room for it and states none yet; say where there is no room."""
    openings = [o for o in project.openings if o.facet is item.facet and _of_app(project, o)]
    work.edits += [
        opening_edit(survey.tree, opening, item.new) for opening in openings if item.old != item.new or opening.shown
    ]
    if item.old is None and openings:
        work.summary.append(Line(SAID[item.facet], item.new))


def unplaced(target: Target, made: Iterable[Facet | str], created: bool) -> Iterator[Note]:
    """Say which values a project neither states nor has room for; *made* are the facets that are written.

    A file that is *created* may hold a name.
    """
    project, there = target.project, set(made)
    for item in target.values:
        room = any(o.facet is item.facet and _of_app(project, o) for o in project.openings)
        named = item.facet is Facet.DISPLAY_NAME and (created or item.facet in there)
        if item.old is None and not (item.unclear or room or named):
            said = f"there is no place for the {SAID[item.facet]} of {project.label}"
            yield Note(project.folder or ".", said)
    if target.aim.id and project.apps and all(app.id is None for app in project.apps) and not there & {*_IDS}:
        yield Note(project.folder or ".", f"there is no place for the ID of {project.label}")


_IDS = (Facet.APPLICATION_ID, Facet.BUNDLE_ID)
# What the store wants to be equal in an app and in everything embedded in it (Apple, "CFBundleVersion").
_IN_STEP = (Facet.VERSION_NAME, Facet.VERSION_CODE)


def _of_app(project: Project, opening: Opening) -> bool:
    """Tell whether an opening belongs to a shipped app itself, not to something embedded in it."""
    return any(opening.scope.module == app.module for app in project.apps)


def _replace(survey: Survey, owner: Mention, new: str, work: Work) -> None:
    assert owner.owner is not None
    done = rewrite(survey.tree, owner.facet, owner.owner, new)
    work.edits += done.edits
    if done.replaced and done.replaced.written:
        work.notes.append(Note(done.replaced.at, f"{done.replaced.written} was replaced by a literal"))
