"""What is refused before anything is planned: bad values, what cannot be read, resolved or told apart."""

from __future__ import annotations

from collections.abc import Sequence

from onomaxis.errors import InputError, RefusedError
from onomaxis.identity import rules
from onomaxis.model import Facet, Renaming, Unresolved, Wish, same_flavor
from onomaxis.projects.project import Project
from onomaxis.rename.renamings import flavors
from onomaxis.rename.targets import PLATFORM_NAMES, platforms
from onomaxis.survey.survey import Survey

_SHARED = (Facet.APPLICATION_ID, Facet.BUNDLE_ID)


def refuse_unreadable(survey: Survey, wish: Wish) -> None:
    """Refuse while a project file cannot be read at all: its app would be forgotten. --app says it is not meant."""
    for project in survey.projects:
        if project.apps or wish.app or wish.targets or project.platform not in platforms(wish):
            continue
        for item in project.unresolved:
            if item.facet == "file" and _is_project_file(item):
                _refuse(item, item.reason)


def _refuse(item: Unresolved, reason: str) -> None:
    remedy = "Change this place by hand, or write the value as a literal; nothing was changed."
    raise RefusedError(reason, file=item.file, line=item.line, remedy=remedy)


def check_wish(projects: Sequence[Project], wish: Wish) -> None:
    """Check every wished value by the rules of the platforms concerned. Raises InputError."""
    android = any(p.platform == "android" for p in projects)
    ios = any(p.platform == "ios" for p in projects)
    if wish.both_id:
        rules.both_ids(wish.both_id, android, ios)
    if android and wish.android_id:
        rules.android_id(wish.android_id)
    if ios and wish.ios_id:
        rules.bundle_id(wish.ios_id)
    if wish.code_package:
        rules.code_package(wish.code_package)
    if wish.name is not None:
        rules.display_name(wish.name, ios)
    for tag, text in wish.locale_names:
        rules.locale(tag)
        rules.display_name(text)
    if wish.project_name:
        rules.project_name(wish.project_name)
    if wish.version:
        rules.version_name(wish.version, ios)
    if wish.build:
        rules.build_number(wish.build, android, ios)
    if wish.flavor and not any(same_flavor(wish.flavor, f) for p in projects for f in flavors(p)):
        known = sorted({flavor for p in projects for flavor in flavors(p)})
        raise InputError(
            f"there is no flavor “{wish.flavor}” here",
            remedy=f"The flavors are: {', '.join(known)}." if known else "The project has no flavors.",
        )


def refuse_unresolved(survey: Survey, project: Project, wish: Wish, renamings: Sequence[Renaming]) -> None:
    """Refuse to change a facet whose owner is computed in a way that is not followed."""
    wanted = {
        Facet.APPLICATION_ID: bool(wish.android_id),
        Facet.BUNDLE_ID: bool(wish.ios_id),
        Facet.NAMESPACE: any(item.facet is Facet.CODE_PACKAGE for item in renamings),
        Facet.DISPLAY_NAME: wish.name is not None,
        Facet.VERSION_NAME: bool(wish.version),
        Facet.VERSION_CODE: bool(wish.build),
    }
    for item in project.unresolved:
        if item.facet == "file" and _is_project_file(item):
            _refuse(item, item.reason)
        if item.blocking and any(item.facet == facet and asked for facet, asked in wanted.items()):
            _refuse(item, f"{item.facet} cannot be resolved: {item.reason}")


def refuse_shared(survey: Survey, project: Project, renamings: Sequence[Renaming], wish: Wish) -> None:
    """Refuse to change a framework's one ID for all platforms when just one platform is to be renamed."""
    places = {(o.place.file, o.place.start): o for o in project.owners if o.facet in _SHARED}
    changed = {r.old for r in renamings}
    for other in survey.projects:
        if other.kind != project.kind or other.folder != project.folder or other.key == project.key:
            continue
        wished = {"android": wish.android_id, "ios": wish.ios_id}.get(other.platform, "")
        mine = {"android": wish.android_id, "ios": wish.ios_id}.get(project.platform, "")
        for owner in other.owners:
            shared = places.get((owner.place.file, owner.place.start))
            if shared is not None and shared.value in changed and wished != mine and not other.umbrella:
                raise RefusedError(
                    f"{PLATFORM_NAMES[other.platform]} takes its ID from here too",
                    file=owner.place.file,
                    line=owner.place.line,
                    remedy="Give --id for both, or state the ID per platform in this file first.",
                )


def _is_project_file(item: Unresolved) -> bool:
    name = item.file.rpartition("/")[2]
    return name in ("AndroidManifest.xml", "project.pbxproj", "Info.plist") or name.startswith("build.gradle")
