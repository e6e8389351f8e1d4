"""From a survey and a wish to a changeset: which identifier becomes which, and every edit that follows."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace

from onomaxis.changes.changeset import Changeset, FileChange, followed_by
from onomaxis.changes.renamings import base_id, flavors, kept_code, renamings_of, said
from onomaxis.changes.repeating import repeat
from onomaxis.changes.rewriting import opening_edit, place_edit, rewrite
from onomaxis.errors import InputError, RefusedError
from onomaxis.identity import rules
from onomaxis.model import (
    HIDDEN_PARTS,
    Edit,
    Facet,
    Mention,
    Opening,
    Renaming,
    Residue,
    Role,
    Unresolved,
    Wish,
    same_flavor,
)
from onomaxis.projects.base import Draft, Project, apps_called
from onomaxis.projects.rules import is_service_file, other_app
from onomaxis.survey.survey import Survey, kind_of, read_projects, umbrella_of
from onomaxis.tree import Tree

_ID_FACETS = (Facet.APPLICATION_ID, Facet.NAMESPACE, Facet.CODE_PACKAGE, Facet.BUNDLE_ID, Facet.APP_GROUP)


@dataclass(frozen=True)
class Plan:
    """A change that can be shown, written and stored."""

    changes: tuple[FileChange, ...]
    edits: int
    renamings: tuple[Renaming, ...]
    names: tuple[tuple[str, str], ...]
    notes: tuple[str, ...]
    summary: tuple[str, ...]
    residue: tuple[Residue, ...] = ()
    technical: tuple[tuple[str, str], ...] = ()
    elsewhere: tuple[str, ...] = ()
    restored: str = ""

    @property
    def empty(self) -> bool:
        """True when there is nothing to do."""
        return not self.changes


@dataclass
class _Work:
    """What is gathered while a plan is made."""

    edits: list[Edit] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    summary: list[str] = field(default_factory=list)
    names: list[tuple[str, str]] = field(default_factory=list)


def make_plan(survey: Survey, wish: Wish) -> Plan:
    """Compute every change that *wish* asks for. Raises InputError or RefusedError; nothing is written."""
    _refuse_unreadable(survey, wish)
    projects = chosen_projects(survey, wish)
    _check_wish(projects, wish)
    work = _Work()
    renamings: list[Renaming] = []
    made: list[tuple[Project, list[Renaming]]] = []
    draft = Draft()
    for project in projects:
        own = renamings_of(project, wish)
        _refuse_unresolved(survey, project, wish, own)
        _refuse_shared(survey, project, own, wish)
        work.summary.extend(said(project, own))
        _rewrite_identifiers(survey, project, own, wish, work)
        if project.apps:
            _rewrite_values(survey, project, wish, own, work)
        _merge(draft, kind_of(project).follow(project, survey.tree, own, wish))
        renamings.extend(item for item in own if item not in renamings)
        made.append((project, own))
        work.notes.extend(kept_code(project, own, wish))
    if not wish.flavor:
        work.edits += repeat(survey, made, wish, work.notes)
    _refuse_unsafe(draft)
    _loose_mentions(survey, renamings, wish, work)
    edits = list(dict.fromkeys([*work.edits, *draft.edits]))
    changeset = Changeset(tuple(edits), tuple(dict.fromkeys(draft.moves)), tuple(draft.created))
    changes = changeset.resolve(survey.tree)
    return Plan(
        changes,
        len({(e.file, e.start, e.end) for e in edits}),
        tuple(renamings),
        tuple(dict.fromkeys(work.names)),
        tuple(dict.fromkeys([*work.notes, *draft.notes])),
        tuple(sorted(dict.fromkeys(work.summary), key=_is_value)),
        elsewhere=_elsewhere(survey, projects),
    )


def _elsewhere(survey: Survey, chosen: Sequence[Project]) -> tuple[str, ...]:
    """Return the folders of the projects that a plan is not for: what they are called is no residue of it."""
    mine = [f"{project.folder}/" for project in chosen]
    others = {f"{project.folder}/" for project in survey.projects if project.folder}
    return tuple(
        sorted(
            other
            for other in others
            if not any(folder.startswith(other) or other.startswith(folder) for folder in mine)
        )
    )


def plan_prepared(survey: Survey, wish: Wish) -> Plan | None:
    """Plan what the wish asks to be set right first; None when that is nothing."""
    projects = chosen_projects(survey, wish)
    framework = any(umbrella_of(survey.projects, p) is not None for p in projects)
    if not (wish.unify or wish.team or framework):
        return None
    if wish.team:
        rules.team(wish.team)
    draft = Draft()
    above = [umbrella_of(survey.projects, project) for project in projects]
    umbrellas = {item.key: item for item in above if item is not None}
    for project in (*projects, *umbrellas.values()):
        _merge(draft, kind_of(project).prepare(project, survey.tree, wish))
    _refuse_unsafe(draft)
    edits = tuple(dict.fromkeys(draft.edits))
    if not edits and not draft.notes:
        return None
    changes = Changeset(edits).resolve(survey.tree)
    summary = (f"signing team: {wish.team}",) if wish.team and edits else ()
    return Plan(changes, len(edits), (), (), tuple(draft.notes), summary)


def after(first: Plan, second: Plan) -> Plan:
    """Return the plan that does *first*, then *second*, which was made for its result."""
    return replace(
        second,
        changes=followed_by(first.changes, second.changes),
        edits=first.edits + second.edits,
        notes=tuple(dict.fromkeys([*first.notes, *second.notes])),
        summary=(*first.summary, *second.summary),
    )


def plan_technical(survey: Survey, tree: Tree, wish: Wish, plan: Plan) -> Plan:
    """Add to *plan*, which leads to *tree*, the technical rename of the projects that the wish is for."""
    meant = {project.key for project in chosen_projects(survey, wish)}
    draft = Draft()
    technical: list[tuple[str, str]] = []
    summary = list(plan.summary)
    projects = read_projects(tree, wish.app)
    concerned: dict[tuple[object, ...], Project] = {}
    for project in projects:
        above = umbrella_of(projects, project)
        if above is not None and project.key in meant:
            concerned[above.key] = above
            if above.keeps and project.platform == "ios":
                draft.notes.append(f"{project.folder or '.'}: the Xcode project keeps its name: {above.keeps}")
                continue
        native = not project.umbrella and (above is None or project.kind != above.kind)
        narrowed = _narrowed(project, wish.app) if native else None
        if narrowed is None or not narrowed.apps or project.key not in meant:
            continue
        found = kind_of(project).rename_project(narrowed, tree, wish.project_name)
        _merge(draft, found)
        if found.edits or found.moves:
            old = narrowed.apps[0].module
            technical.append((old, wish.project_name))
            summary.append(f"Xcode project: {old} → {wish.project_name}")
    for umbrella in concerned.values():
        found = kind_of(umbrella).rename_project(umbrella, tree, wish.project_name)
        _merge(draft, found)
        summary += [f"{umbrella.kind} project: {wish.project_name}"] if found.edits else []
    _refuse_unsafe(draft)
    edits = tuple(dict.fromkeys(draft.edits))
    changes = Changeset(edits, tuple(dict.fromkeys(draft.moves)), tuple(draft.created)).resolve(tree)
    return replace(
        plan,
        changes=followed_by(plan.changes, changes),
        edits=plan.edits + len({(e.file, e.start, e.end) for e in edits}),
        notes=tuple(dict.fromkeys([*plan.notes, *draft.notes])),
        summary=tuple(summary),
        technical=tuple(technical),
    )


def _refuse_unsafe(draft: Draft) -> None:
    if draft.refusals:
        raise RefusedError("\n  ".join(["this cannot be done safely:", *dict.fromkeys(draft.refusals)]))


def _is_value(line: str) -> bool:
    """Sort what identifiers become before names and versions."""
    return line.startswith(tuple(_SAID.values()))


def _merge(draft: Draft, other: Draft) -> None:
    draft.edits += other.edits
    draft.moves += other.moves
    draft.created += other.created
    draft.refusals += other.refusals
    draft.notes += other.notes


# -- which projects


def chosen_projects(survey: Survey, wish: Wish) -> list[Project]:
    """Return the one project per platform that the wish is for. Raises RefusedError when it is not clear which."""
    chosen: list[Project] = []
    for platform in ("android", "ios"):
        if platform not in _platforms(wish):
            continue
        here = [p for p in survey.projects if p.platform == platform]
        libraries = _libraries(here, wish) if platform == "android" else []
        if libraries:
            return libraries
        candidates = [p for p in here if p.apps]
        candidates = [narrowed for p in candidates if (narrowed := _narrowed(p, wish.app))]
        ids = {(p.folder, p.label, m) for p in candidates for m in _modules(p)}
        if len(ids) > 1 and not _one_app(survey, candidates):
            listed = ", ".join(sorted(f"{_shown(p, m)} ({p.folder or '.'})" for p in candidates for m in _modules(p)))
            raise RefusedError(
                f"there are several {_PLATFORM_NAMES[platform]} apps here: {listed}",
                remedy="Pick one with --app (an ID, a name, a module or target), or give the folder of one app.",
            )
        chosen += candidates
    if wish.app and not chosen:
        names = sorted({app.module for app in survey.apps})
        raise InputError(f"there is no app “{wish.app}” here", remedy=f"The apps are: {', '.join(names)}.")
    if not chosen:
        wanted = " or ".join(_PLATFORM_NAMES[p] for p in _platforms(wish))
        raise InputError(f"there is no {wanted} app here to change", file=str(survey.tree.root))
    return chosen


def _shown(project: Project, module: str) -> str:
    """Name an app by what tells it from others: its ID, else its module or target."""
    app = next((item for item in project.apps if item.module == module), None)
    return base_id(project, app) or module if app else module


def _one_app(survey: Survey, candidates: Sequence[Project]) -> bool:
    """Tell whether projects are halves of one framework's app: below one umbrella and called the same."""
    above = [umbrella_of(survey.projects, project) for project in candidates]
    bases = {base_id(project, project.apps[0]) for project in candidates}
    same = len(bases) == 1 and all(len(_modules(project)) == 1 for project in candidates)
    return same and above[0] is not None and all(item is above[0] for item in above)


def _libraries(projects: Sequence[Project], wish: Wish) -> list[Project]:
    """Return the project whose library alone is meant: its code package shall move, and no app of its is named."""
    if not wish.code_package or wish.android_id or _general(wish):
        return []
    if wish.app:
        named = [p for p in projects if any(item.module == wish.app for item in p.identifiers)]
        named = [p for p in named if all(wish.app not in (app.module, p.label, p.folder) for app in p.apps)]
        return [replace(p, apps=()) for p in named]
    return [] if any(p.apps for p in projects) else [p for p in projects if p.identifiers]


_PLATFORM_NAMES = {"android": "Android", "ios": "iOS"}


def _general(wish: Wish) -> bool:
    """Tell whether the wish speaks of what every platform has."""
    return bool(wish.name is not None or wish.locale_names or wish.version or wish.build)


def _platforms(wish: Wish) -> tuple[str, ...]:
    """Return the platforms that the wish speaks of."""
    android = bool(wish.android_id or wish.code_package or wish.project_name) or _general(wish)
    ios = bool(wish.ios_id or wish.project_name or wish.team or wish.unify) or _general(wish)
    return tuple(name for name, wanted in (("android", android), ("ios", ios)) if wanted)


def _refuse_unreadable(survey: Survey, wish: Wish) -> None:
    """Refuse while a project file cannot be read at all: its app would be forgotten. --app says it is not meant."""
    for project in survey.projects:
        if project.apps or wish.app or project.platform not in _platforms(wish):
            continue
        for item in project.unresolved:
            if item.facet == "file" and _is_project_file(item):
                _refuse(item, item.reason)


def _refuse(item: Unresolved, reason: str) -> None:
    remedy = "Change this place by hand, or write the value as a literal; nothing was changed."
    raise RefusedError(reason, file=item.file, line=item.line, remedy=remedy)


def _narrowed(project: Project, app: str) -> Project | None:
    """Return *project* with only the apps of module or target *app*; by default those of its main platform.

    An iOS project's television or desktop apps are apps of their own: they are named with --app.
    """
    if not app:
        main = tuple(item for item in project.apps if item.platform == project.platform)
        return replace(project, apps=main or project.apps)
    apps = apps_called(project, app)
    return replace(project, apps=apps) if apps else None


def _modules(project: Project) -> list[str]:
    """Return the modules that ship apps of their own: those whose base ID differs from the first one's."""
    seen: dict[str, str] = {}
    for app in project.apps:
        seen.setdefault(base_id(project, app), app.module)
    bases = [base for base in seen if base]
    return list(dict.fromkeys(seen[base] for base in bases)) or [""]


# -- checks


def _check_wish(projects: Sequence[Project], wish: Wish) -> None:
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
        rules.display_name(wish.name)
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


def _refuse_unresolved(survey: Survey, project: Project, wish: Wish, renamings: Sequence[Renaming]) -> None:
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


def _refuse_shared(survey: Survey, project: Project, renamings: Sequence[Renaming], wish: Wish) -> None:
    """Refuse to change a framework's one ID for all platforms when just one platform is to be renamed."""
    places = {(o.place.file, o.place.start): o for o in project.owners if o.facet in _ID_FACETS}
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
                    f"{_PLATFORM_NAMES[other.platform]} takes its ID from here too",
                    file=owner.place.file,
                    line=owner.place.line,
                    remedy="Give --id for both, or state the ID per platform in this file first.",
                )


def _is_project_file(item: Unresolved) -> bool:
    name = item.file.rpartition("/")[2]
    return name in ("AndroidManifest.xml", "project.pbxproj", "Info.plist") or name.startswith("build.gradle")


# -- identifiers


def _rewrite_identifiers(
    survey: Survey, project: Project, renamings: Sequence[Renaming], wish: Wish, work: _Work
) -> None:
    for mention in survey.mentions:
        renaming = _renaming_of(renamings, mention)
        if renaming is None or mention.facet not in _ID_FACETS or not _changes(mention, wish, project):
            continue
        new = renaming.apply(mention.value)
        if mention.owner is not None and other_app(mention.value, project.foreign):
            continue
        if new is None or (wish.flavor and not _of_flavor(mention, wish.flavor)):
            continue
        _rewrite_one(survey, mention, new, work)


def _renaming_of(renamings: Iterable[Renaming], mention: Mention) -> Renaming | None:
    """Return the renaming that a mention falls under."""
    mine = (item for item in renamings if item.facet is mention.facet)
    return next((item for item in mine if item.apply(mention.value) is not None), None)


def _of_flavor(mention: Mention, flavor: str) -> bool:
    """Tell whether a mention counts for one flavor alone: its own setting, or a file of its source set."""
    return same_flavor(mention.scope.flavor, flavor) or f"/src/{flavor}/" in mention.place.file


def _changes(mention: Mention, wish: Wish, project: Project) -> bool:
    """Tell whether a mention's role lets it change under this wish."""
    if mention.scope.platform and mention.scope.platform != project.platform:
        return False
    if mention.scope.platform and project.folder and not mention.place.file.startswith(project.folder + "/"):
        return mention.owner is not None and mention.role is Role.OWNER
    if not mention.scope.platform:
        return False
    if mention.role is Role.PROSE:
        return wish.prose
    if mention.role is Role.OUTSIDE:
        service = is_service_file(mention.place.file) and wish.services == "rewrite"
        return service or (mention.facet is Facet.APP_GROUP and wish.groups == "rewrite")
    return True


def _rewrite_one(survey: Survey, mention: Mention, new: str, work: _Work) -> None:
    if mention.owner is None:
        work.edits.append(place_edit(survey.tree, mention.place, new, mention.facet))
        return
    if mention.role is Role.FOLLOWER and mention.owner.text != mention.value:
        new = new + mention.owner.text[len(mention.value) :]
    done = rewrite(survey.tree, mention.facet, mention.owner, new)
    work.edits.append(done.edit)
    if done.replaced:
        work.notes.append(f"{done.replaced.at}: {done.replaced.written} was replaced by a literal")


def _loose_mentions(survey: Survey, renamings: Sequence[Renaming], wish: Wish, work: _Work) -> None:
    """Change documents and service files outside every project, where asked."""
    for mention in survey.mentions:
        if mention.scope.platform or mention.owner is not None:
            continue
        service = is_service_file(mention.place.file) and wish.services == "rewrite"
        if not service and not (mention.role is Role.PROSE and wish.prose):
            continue
        renaming = _renaming_of(renamings, mention)
        new = renaming.apply(mention.value) if renaming else None
        if new is not None:
            work.edits.append(place_edit(survey.tree, mention.place, new, mention.facet))


# -- names and versions


def _rewrite_values(survey: Survey, project: Project, wish: Wish, renamings: Sequence[Renaming], work: _Work) -> None:
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


def _rewrite_project_name(survey: Survey, project: Project, new: str, work: _Work) -> None:
    """Give the Gradle build its new name."""
    owners = [item for item in project.owners if item.facet is Facet.PROJECT_NAME]
    for owner in owners:
        if owner.value != new:
            _replace(survey, owner, new, work)
            work.summary.append(f"Gradle build: {owner.value} → {new}")
    if not owners:
        work.notes.append(f"{project.folder or '.'}: the settings script gives the Gradle build no name of its own")


def _rewrite_locale(survey: Survey, project: Project, locale: str, text: str, wish: Wish, work: _Work) -> None:
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


def _open_id(survey: Survey, project: Project, wish: Wish, renamings: Sequence[Renaming], work: _Work) -> None:
    """Write an application ID of its own where it would not follow from the namespace."""
    namespace = base_id(project, project.apps[0])
    moved = next((r.apply(namespace) for r in renamings if r.facet is Facet.NAMESPACE), None) or namespace
    for opening in project.openings:
        if opening.facet is Facet.APPLICATION_ID and moved != wish.android_id and _main(project, opening):
            work.edits.append(opening_edit(survey.tree, opening, wish.android_id))


def _open_missing_id(survey: Survey, project: Project, wish: Wish, work: _Work) -> None:
    """Write the ID of a platform that a framework's file does not state yet."""
    facet, new = {
        "android": (Facet.APPLICATION_ID, wish.android_id), "ios": (Facet.BUNDLE_ID, wish.ios_id),
    }.get(project.platform, (None, ""))  # fmt: skip
    spots = [opening for opening in project.openings if opening.facet is facet]
    if not new or any(app.id for app in project.apps):
        return
    if not spots:
        raise RefusedError(
            f"the {project.kind} project states no ID for {_PLATFORM_NAMES.get(project.platform, project.platform)}",
            file=project.folder or ".",
            remedy="Write it into the framework's file once; nothing was changed.",
        )
    for opening in spots:
        work.edits.append(opening_edit(survey.tree, opening, new))
        work.summary.append(f"{_ID_SAID[project.platform]}: {new}")


_ID_SAID = {"android": "application ID", "ios": "bundle identifier"}


def _main(project: Project, opening: Opening) -> bool:
    return opening.scope.module == project.apps[0].module


def _rewrite_facet(survey: Survey, project: Project, facet: Facet, new: str, wish: Wish, work: _Work) -> None:
    """Give *facet* its new value at every owner that holds the app's present one, or that a flavor owns."""
    old = _present(project, facet, wish.flavor)
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
        work.notes.append(f"{at}: {_SAID[facet]} “{value}” stays (it was not “{old}”)")
    if not wish.flavor:
        openings = [o for o in project.openings if o.facet is facet and _of_app(project, o)]
        work.edits.extend(
            opening_edit(survey.tree, opening, new) for opening in openings if old != new or opening.shown
        )
        if old is None and openings:
            work.summary.append(f"{_SAID[facet]}: {new}")
        if old is None and not openings and facet is not Facet.DISPLAY_NAME:
            work.notes.append(f"{project.folder or '.'}: there is no place for the {_SAID[facet]} of {project.label}")
    if old is not None and old != new:
        work.summary.append(f"{_SAID[facet]}: {old} → {new}")
        if facet is Facet.DISPLAY_NAME:
            work.names.append((old, new))


# What the store wants to be equal in an app and in everything embedded in it (Apple, "CFBundleVersion").
_IN_STEP = (Facet.VERSION_NAME, Facet.VERSION_CODE)
_SAID = {Facet.DISPLAY_NAME: "display name", Facet.VERSION_NAME: "version", Facet.VERSION_CODE: "build number"}


def _of_app(project: Project, opening: Opening) -> bool:
    """Tell whether an opening belongs to a shipped app itself, not to something embedded in it."""
    return any(opening.scope.module == app.module for app in project.apps)


def _present(project: Project, facet: Facet, flavor: str) -> str | None:
    """Return the value that *facet* has today in the app itself."""
    for owner in project.owners:
        if (
            owner.facet is facet
            and not owner.scope.locale
            and same_flavor(owner.scope.flavor, flavor)
            and _ships(project, owner)
        ):
            return owner.value
    app = next((item for item in project.apps if same_flavor(item.flavor, flavor)), project.apps[0])
    value = {Facet.DISPLAY_NAME: app.name, Facet.VERSION_NAME: app.version, Facet.VERSION_CODE: app.build}[facet]
    return value.text if value else None


def _ships(project: Project, owner: Mention) -> bool:
    shipped = next((app for app in project.apps if app.module == owner.scope.module), None)
    return shipped is not None and owner.scope.configuration in ("", shipped.configuration)


def _replace(survey: Survey, owner: Mention, new: str, work: _Work) -> None:
    assert owner.owner is not None
    done = rewrite(survey.tree, owner.facet, owner.owner, new)
    work.edits.append(done.edit)
    if done.replaced:
        work.notes.append(f"{done.replaced.at}: {done.replaced.written} was replaced by a literal")
