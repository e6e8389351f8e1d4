"""What is refused before anything is planned: questions that every target is asked."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from onomaxis.errors import RefusedError
from onomaxis.flavor_names import same_flavor, selects
from onomaxis.model import Facet, Value
from onomaxis.platforms import PLATFORM_NAMES
from onomaxis.projects.project import Project
from onomaxis.rename.limits import is_project_file, refuse_item
from onomaxis.rename.targets import SAID, Target, value_of, variants_with
from onomaxis.surveys.survey import Survey

_SHARED = (Facet.APPLICATION_ID, Facet.BUNDLE_ID)


def _resolved(survey: Survey, targets: Sequence[Target], target: Target) -> None:
    """Refuse to change a facet whose owner is computed in a way that is not followed."""
    asked = {item.facet for item in target.values}
    asked |= {Facet.APPLICATION_ID, Facet.BUNDLE_ID} if target.aim.id else set()
    asked |= {Facet.NAMESPACE} if any(item.facet is Facet.CODE_PACKAGE for item in target.renamings) else set()
    above = target.umbrella.unresolved if target.umbrella is not None else ()
    for item in (*above, *target.project.unresolved):
        if item.whole and is_project_file(item):
            refuse_item(item, item.reason)
        if item.blocking and item.facet in asked:
            refuse_item(item, f"{item.facet} cannot be resolved: {item.reason}")


def _of_one_platform(survey: Survey, targets: Sequence[Target], target: Target) -> None:
    """Refuse to change a framework's one ID for all platforms when just one platform is to be renamed."""
    project = target.project
    places = {(o.place.file, o.place.start): o for o in project.owners if o.facet in _SHARED}
    changed = {item.old for item in target.renamings}
    used = {
        (app.id.origin.file, app.id.origin.start) for p in survey.projects for app in p.apps if app.id is not None
    }
    wished = {(item.project.kind, item.project.folder, item.project.platform): item.aim.id for item in targets}
    for other in survey.projects:
        if other.kind != project.kind or other.folder != project.folder or other.key == project.key:
            continue
        alike = wished.get((other.kind, other.folder, other.platform), "") == target.aim.id
        for owner in other.owners:
            shared = places.get((owner.place.file, owner.place.start))
            if (owner.place.file, owner.place.start) not in used:
                continue  # each platform states its own
            if shared is not None and shared.value in changed and not alike and not other.umbrella:
                raise RefusedError(
                    f"{PLATFORM_NAMES[other.platform]} takes its ID from here too",
                    file=owner.place.file,
                    line=owner.place.line,
                    remedy="Give --id for both, or state the ID per platform in this file first.",
                )


def _of_other_flavors(survey: Survey, targets: Sequence[Target], target: Target) -> None:
    """Refuse to change for one flavor what is written in a place from which another one takes its own."""
    project, flavor = target.project, target.aim.flavor
    asked = {item.facet for item in target.values} | ({*_SHARED} if target.aim.id else set())
    owners = [item for item in project.owners if flavor and item.facet in asked and item.scope.flavor]
    others = {
        (item.place.file, item.place.start): item.scope.flavor
        for item in owners
        if not same_flavor(item.scope.flavor, flavor) and not selects(flavor, item.scope.flavor, project.flavors)
    }
    for owner in (item for item in owners if same_flavor(item.scope.flavor, flavor)):
        other = others.get((owner.place.file, owner.place.start))
        if other is not None:
            raise RefusedError(
                f"flavor {other} takes its {SAID.get(owner.facet, 'ID')} from here too",
                file=owner.place.file,
                line=owner.place.line,
                remedy="Write it for each of them by itself first; nothing was changed.",
            )


def _values_of_others(survey: Survey, targets: Sequence[Target], target: Target) -> None:
    """Refuse to change a name or number in a place from which another app, that is not meant, takes its own."""
    meant = {(item.project.key, module) for item in targets for module in item.project.modules}
    shipped = [(p, app) for p in survey.projects if not p.umbrella for app in p.apps]
    others = [(p, app) for p, app in shipped if (p.key, app.module) not in meant]
    flavor = target.aim.flavor
    mine = variants_with(target.project, flavor) if flavor else target.project.apps
    for item in target.values:
        here = {
            (value.origin.file, value.origin.start)
            for app in mine
            if (value := value_of(app, item.facet)) is not None and value.text != item.new
        }
        for project, app in others:
            value = value_of(app, item.facet)
            if value is not None and (value.origin.file, value.origin.start) in here:
                name = PLATFORM_NAMES.get(project.platform, project.platform)
                whose = name if project.platform != target.project.platform else f"{name} app {app.module}"
                raise RefusedError(
                    f"{whose} takes its {SAID[item.facet]} from here too",
                    file=value.origin.file,
                    line=value.origin.line,
                    remedy="Change it for both, or state it for each in this file first.",
                )


def _one_meant(survey: Survey, targets: Sequence[Target], target: Target) -> None:
    """Refuse to take one flavor for the app itself, where every configuration belongs to a flavor."""
    project, aim = target.project, target.aim
    if not project.apps or aim.flavor:
        return
    said = [(SAID[item.facet], _texts(project, item.facet)) for item in target.values if item.unclear]
    if aim.id and project.platform == "ios" and not target.base:
        said += [("ID", [(app.flavor, app.id) for app in project.apps if app.id])]
    for label, values in said:
        if len({value.text for _, value in values}) > 1:
            listed = ", ".join(f"{value.text} ({flavor})" for flavor, value in values)
            spot = values[0][1].origin
            what = "an ID" if label == "ID" else f"a {label}"
            raise RefusedError(
                f"every configuration belongs to a flavor, each with {what} of its own: {listed}",
                file=spot.file,
                line=spot.line,
                remedy="Say which is meant with --flavor; the app without a flavor is not built here.",
            )


def _texts(project: Project, facet: Facet) -> list[tuple[str, Value]]:
    return [(app.flavor, value) for app in project.apps if (value := value_of(app, facet)) is not None]


Question = Callable[[Survey, Sequence[Target], Target], None]
QUESTIONS: tuple[Question, ...] = (_resolved, _of_one_platform, _of_other_flavors, _values_of_others, _one_meant)


def refuse(survey: Survey, targets: Sequence[Target]) -> None:
    """Ask every question of every target. Raises RefusedError, nothing is planned."""
    for target in targets:
        for question in QUESTIONS:
            question(survey, targets, target)
