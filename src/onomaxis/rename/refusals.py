"""What is refused before anything is planned: bad values, what cannot be read, resolved or told apart."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from onomaxis.errors import InputError, RefusedError
from onomaxis.identity import rules
from onomaxis.model import Aim, Facet, Unresolved, Wish, same_flavor
from onomaxis.projects.project import Project
from onomaxis.rename.renamings import flavors
from onomaxis.rename.targets import PLATFORM_NAMES, Target
from onomaxis.survey.survey import Survey

_SHARED = (Facet.APPLICATION_ID, Facet.BUNDLE_ID)


def refuse_unreadable(survey: Survey, wish: Wish, platforms: Sequence[str]) -> None:
    """Refuse while a project file cannot be read at all: its app would be forgotten. --app says it is not meant."""
    for project in survey.projects:
        if project.apps or wish.app or wish.targets or project.platform not in platforms:
            continue
        for item in project.unresolved:
            if item.whole and _is_project_file(item):
                _refuse(item, item.reason)


def _refuse(item: Unresolved, reason: str) -> None:
    remedy = "Change this place by hand, or write the value as a literal; nothing was changed."
    raise RefusedError(reason, file=item.file, line=item.line, remedy=remedy)


def check_aims(aims: Sequence[tuple[Project, Aim]], both: str = "") -> None:
    """Check every value by the rules of the platforms concerned; *both* is one ID for all. Raises InputError."""
    android = any(project.platform == "android" for project, _ in aims)
    ios = any(project.platform == "ios" for project, _ in aims)
    if both:
        rules.both_ids(both, android, ios)
    for project, aim in aims:
        if aim.id and project.platform in PLATFORM_NAMES:
            (rules.bundle_id if project.platform == "ios" else rules.android_id)(aim.id)
    for aim in dict.fromkeys(aim for _, aim in aims):
        _check_values(aim, android, ios)
        if aim.flavor and not any(same_flavor(aim.flavor, name) for project, _ in aims for name in flavors(project)):
            known = sorted({name for project, _ in aims for name in flavors(project)})
            raise InputError(
                f"there is no flavor “{aim.flavor}” here",
                remedy=f"The flavors are: {', '.join(known)}." if known else "The project has no flavors.",
            )


def _check_values(aim: Aim, android: bool, ios: bool) -> None:
    if aim.code_package:
        rules.code_package(aim.code_package)
    if aim.name is not None:
        rules.display_name(aim.name, ios)
    for tag, text in aim.names:
        rules.locale(tag)
        rules.display_name(text)
    if aim.project_name:
        rules.project_name(aim.project_name)
    if aim.version:
        rules.version_name(aim.version, ios)
    if aim.build:
        rules.build_number(aim.build, android, ios)


# -- questions that every target is asked


def _resolved(survey: Survey, targets: Sequence[Target], target: Target) -> None:
    """Refuse to change a facet whose owner is computed in a way that is not followed."""
    asked = {item.facet for item in target.values}
    asked |= {Facet.APPLICATION_ID, Facet.BUNDLE_ID} if target.aim.id else set()
    asked |= {Facet.NAMESPACE} if any(item.facet is Facet.CODE_PACKAGE for item in target.renamings) else set()
    for item in target.project.unresolved:
        if item.whole and _is_project_file(item):
            _refuse(item, item.reason)
        if item.blocking and item.facet in asked:
            _refuse(item, f"{item.facet} cannot be resolved: {item.reason}")


def _of_one_platform(survey: Survey, targets: Sequence[Target], target: Target) -> None:
    """Refuse to change a framework's one ID for all platforms when just one platform is to be renamed."""
    project = target.project
    places = {(o.place.file, o.place.start): o for o in project.owners if o.facet in _SHARED}
    changed = {item.old for item in target.renamings}
    wished = {(item.project.kind, item.project.folder, item.project.platform): item.aim.id for item in targets}
    for other in survey.projects:
        if other.kind != project.kind or other.folder != project.folder or other.key == project.key:
            continue
        alike = wished.get((other.kind, other.folder, other.platform), "") == target.aim.id
        for owner in other.owners:
            shared = places.get((owner.place.file, owner.place.start))
            if shared is not None and shared.value in changed and not alike and not other.umbrella:
                raise RefusedError(
                    f"{PLATFORM_NAMES[other.platform]} takes its ID from here too",
                    file=owner.place.file,
                    line=owner.place.line,
                    remedy="Give --id for both, or state the ID per platform in this file first.",
                )


Question = Callable[[Survey, Sequence[Target], Target], None]
QUESTIONS: tuple[Question, ...] = (_resolved, _of_one_platform)


def refuse(survey: Survey, targets: Sequence[Target]) -> None:
    """Ask every question of every target. Raises RefusedError, nothing is planned."""
    for target in targets:
        for question in QUESTIONS:
            question(survey, targets, target)


def _is_project_file(item: Unresolved) -> bool:
    name = item.file.rpartition("/")[2]
    return name in ("AndroidManifest.xml", "project.pbxproj", "Info.plist") or name.startswith("build.gradle")
