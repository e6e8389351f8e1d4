"""Names, versions and missing IDs: every owner of a facet gets its new value, in the place's own syntax."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from onomaxis.errors import RefusedError
from onomaxis.identity import rules
from onomaxis.model import HIDDEN_PARTS, Edit, Facet, Mention, Opening, Renaming, ShippedApp, Value, Wish, same_flavor
from onomaxis.projects.edits import opening_edit
from onomaxis.projects.literals import rewrite
from onomaxis.projects.project import Project, base_id
from onomaxis.rename.targets import PLATFORM_NAMES
from onomaxis.survey.survey import Survey


@dataclass
class Work:
    """What is gathered while a plan is made."""

    edits: list[Edit] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    summary: list[str] = field(default_factory=list)
    names: list[tuple[str, str]] = field(default_factory=list)


def rewrite_values(survey: Survey, project: Project, wish: Wish, renamings: Sequence[Renaming], work: Work) -> None:
    """Add to *work* what gives a project its wished names, versions and, where one is not stated yet, its ID."""
    for facet, new in (
        (Facet.DISPLAY_NAME, wish.name),
        (Facet.VERSION_NAME, wish.version or None),
        (Facet.VERSION_CODE, wish.build or None),
    ):
        if new is not None:
            _rewrite_facet(survey, project, facet, new, wish, work)
    if wish.name is not None and project.platform == "ios" and len(wish.name) > rules.LONGEST_NAME:
        work.notes.append(
            f"the name is {len(wish.name)} characters long: the App Store takes {rules.LONGEST_NAME} at most"
        )
    for locale, text in wish.locale_names:
        _rewrite_locale(survey, project, locale, text, wish, work)
    if wish.project_name and project.kind == "android":
        _rewrite_project_name(survey, project, wish.project_name, work)
    if wish.android_id and project.kind == "android" and not wish.flavor:
        _open_id(survey, project, wish, renamings, work)
    if project.kind not in ("android", "ios") and not wish.flavor:
        _open_missing_id(survey, project, wish, work)


def _rewrite_project_name(survey: Survey, project: Project, new: str, work: Work) -> None:
    """Give the Gradle build its new name."""
    owners = [item for item in project.owners if item.facet is Facet.PROJECT_NAME]
    for owner in owners:
        if owner.value != new:
            _replace(survey, owner, new, work)
            work.summary.append(f"Gradle build: {owner.value} → {new}")
    if not owners:
        work.notes.append(f"{project.folder or '.'}: the settings script gives the Gradle build no name of its own")


def _rewrite_locale(survey: Survey, project: Project, locale: str, text: str, wish: Wish, work: Work) -> None:
    """Give the localized name its new text; a flavor's own one stays, unless that flavor was named."""
    owners = [item for item in project.owners if item.facet is Facet.DISPLAY_NAME and item.scope.locale == locale]
    general = {item.value for item in owners if not item.scope.flavor}
    for owner in owners:
        mine = same_flavor(owner.scope.flavor, wish.flavor)
        if owner.value == text:
            continue
        if mine or (not wish.flavor and owner.value in general):
            _replace(survey, owner, text, work)
        elif not wish.flavor:
            work.notes.append(f"{owner.place.at}: the {locale} name “{owner.value}” of {owner.scope.flavor} stays")


def _open_id(survey: Survey, project: Project, wish: Wish, renamings: Sequence[Renaming], work: Work) -> None:
    """Write an application ID of its own where it would not follow from the namespace."""
    namespace = base_id(project, project.apps[0])
    moved = next((r.apply(namespace) for r in renamings if r.facet is Facet.NAMESPACE), None) or namespace
    for opening in project.openings:
        if opening.facet is Facet.APPLICATION_ID and moved != wish.android_id and _main(project, opening):
            work.edits.append(opening_edit(survey.tree, opening, wish.android_id))


def _open_missing_id(survey: Survey, project: Project, wish: Wish, work: Work) -> None:
    """Write the ID of a platform that a framework's file does not state yet."""
    facet, new = {
        "android": (Facet.APPLICATION_ID, wish.android_id), "ios": (Facet.BUNDLE_ID, wish.ios_id),
    }.get(project.platform, (None, ""))  # fmt: skip
    spots = [opening for opening in project.openings if opening.facet is facet]
    if not new or any(app.id for app in project.apps):
        return
    if not spots:
        raise RefusedError(
            f"the {project.kind} project states no ID for {PLATFORM_NAMES.get(project.platform, project.platform)}",
            file=project.folder or ".",
            remedy="Write it into the framework's file once; nothing was changed.",
        )
    for opening in spots:
        work.edits.append(opening_edit(survey.tree, opening, new))
        work.summary.append(f"{_ID_SAID[project.platform]}: {new}")


_ID_SAID = {"android": "application ID", "ios": "bundle identifier"}


def _main(project: Project, opening: Opening) -> bool:
    return opening.scope.module == project.apps[0].module


def _rewrite_facet(survey: Survey, project: Project, facet: Facet, new: str, wish: Wish, work: Work) -> None:
    """Give *facet* its new value at every owner that holds the app's present one, or that a flavor owns."""
    old = present(project, facet, wish.flavor)
    kept: dict[str, str] = {}
    in_step = {p.target for app in project.apps for p in app.parts if p.kind not in HIDDEN_PARTS}
    for owner in project.owners:
        if owner.facet is not facet:
            continue
        if wish.flavor and not same_flavor(owner.scope.flavor, wish.flavor):
            continue
        if facet is Facet.DISPLAY_NAME and owner.scope.locale and owner.scope.locale in dict(wish.locale_names):
            continue
        embedded = facet in _IN_STEP and owner.scope.module in in_step
        if old is None or owner.value == old or embedded or (wish.flavor and not owner.scope.locale):
            if owner.value != new:
                _replace(survey, owner, new, work)
        elif owner.value != new:
            kept.setdefault(owner.value, owner.place.at)
    for value, at in kept.items():
        work.notes.append(f"{at}: {SAID[facet]} “{value}” stays (it was not “{old}”)")
    if not wish.flavor:
        openings = [o for o in project.openings if o.facet is facet and _of_app(project, o)]
        work.edits.extend(
            opening_edit(survey.tree, opening, new) for opening in openings if old != new or opening.shown
        )
        if old is None and openings:
            work.summary.append(f"{SAID[facet]}: {new}")
        if old is None and not openings and facet is not Facet.DISPLAY_NAME:
            work.notes.append(f"{project.folder or '.'}: there is no place for the {SAID[facet]} of {project.label}")
    if old is not None and old != new:
        work.summary.append(f"{SAID[facet]}: {old} → {new}")
        if facet is Facet.DISPLAY_NAME:
            work.names.append((old, new))


# What the store wants to be equal in an app and in everything embedded in it (Apple, "CFBundleVersion").
_IN_STEP = (Facet.VERSION_NAME, Facet.VERSION_CODE)
SAID = {Facet.DISPLAY_NAME: "display name", Facet.VERSION_NAME: "version", Facet.VERSION_CODE: "build number"}


def _of_app(project: Project, opening: Opening) -> bool:
    """Tell whether an opening belongs to a shipped app itself, not to something embedded in it."""
    return any(opening.scope.module == app.module for app in project.apps)


def present(project: Project, facet: Facet, flavor: str) -> str | None:
    """Return the value that *facet* has today in the app itself: what ships, where the app has no flavors."""
    plain = next((app for app in project.apps if not app.flavor), None) if not flavor else None
    shipped = _value(plain, facet) if plain is not None else None
    if shipped is not None:
        return shipped.text
    for owner in project.owners:
        if (
            owner.facet is facet
            and not owner.scope.locale
            and same_flavor(owner.scope.flavor, flavor)
            and _ships(project, owner)
        ):
            return owner.value
    app = next((item for item in project.apps if same_flavor(item.flavor, flavor)), project.apps[0])
    value = _value(app, facet)
    return value.text if value else None


def _value(app: ShippedApp, facet: Facet) -> Value | None:
    return {Facet.DISPLAY_NAME: app.name, Facet.VERSION_NAME: app.version, Facet.VERSION_CODE: app.build}[facet]


def _ships(project: Project, owner: Mention) -> bool:
    shipped = next((app for app in project.apps if app.module == owner.scope.module), None)
    return shipped is not None and owner.scope.configuration in ("", shipped.configuration)


def _replace(survey: Survey, owner: Mention, new: str, work: Work) -> None:
    assert owner.owner is not None
    done = rewrite(survey.tree, owner.facet, owner.owner, new)
    work.edits.append(done.edit)
    if done.replaced:
        work.notes.append(f"{done.replaced.at}: {done.replaced.written} was replaced by a literal")
