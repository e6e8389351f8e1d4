"""From a survey and a wish to a changeset: which identifier becomes which, and every edit that follows."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from onomaxis.errors import FormatError, RefusedError
from onomaxis.formats.source import Source, flat
from onomaxis.identity import rules
from onomaxis.model import Facet, Mention, Renaming, Residue, Role, Wish, same_flavor
from onomaxis.projects.edits import place_edit
from onomaxis.projects.literals import rewrite
from onomaxis.projects.occurrences import occurrences
from onomaxis.projects.ownership import is_service_file, other_app
from onomaxis.projects.project import Draft, Project
from onomaxis.rename.proof import Meant
from onomaxis.rename.refusals import check_wish, refuse_shared, refuse_unreadable, refuse_unresolved
from onomaxis.rename.renamings import kept_code, renamings_of, said
from onomaxis.rename.targets import chosen_projects, narrowed
from onomaxis.rename.umbrellas import repeat
from onomaxis.rename.values import SAID, Work, rewrite_values
from onomaxis.survey.survey import Survey, classified, kind_of, read_projects, umbrella_of
from onomaxis.tree import Tree
from onomaxis.writing.changeset import Changeset, FileChange, followed_by

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
    meant: tuple[Meant, ...] = ()

    @property
    def empty(self) -> bool:
        """True when there is nothing to do."""
        return not self.changes


def make_plan(survey: Survey, wish: Wish) -> Plan:
    """Compute every change that *wish* asks for. Raises InputError or RefusedError; nothing is written."""
    refuse_unreadable(survey, wish)
    projects = chosen_projects(survey, wish)
    check_wish(projects, wish)
    work = Work()
    renamings: list[Renaming] = []
    made: list[tuple[Project, list[Renaming]]] = []
    draft = Draft()
    for project in projects:
        own = renamings_of(project, wish)
        refuse_unresolved(survey, project, wish, own)
        refuse_shared(survey, project, own, wish)
        work.summary.extend(said(project, own))
        _rewrite_identifiers(survey, project, own, wish, work)
        if project.apps:
            rewrite_values(survey, project, wish, own, work)
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
        meant=tuple(
            Meant(project, frozenset(app.module for app in project.apps), tuple(own)) for project, own in made
        ),
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
        mine = narrowed(project, wish.app) if native else None
        if mine is None or not mine.apps or project.key not in meant:
            continue
        found = kind_of(project).rename_project(mine, tree, wish.project_name)
        _merge(draft, found)
        if found.edits or found.moves:
            old = mine.apps[0].module
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
    return line.startswith(tuple(SAID.values()))


def _merge(draft: Draft, other: Draft) -> None:
    draft.edits += other.edits
    draft.moves += other.moves
    draft.created += other.created
    draft.refusals += other.refusals
    draft.notes += other.notes


# -- identifiers


def _rewrite_identifiers(
    survey: Survey, project: Project, renamings: Sequence[Renaming], wish: Wish, work: Work
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


def remaining(
    projects: Sequence[Project],
    meant: Sequence[Meant],
    path: str,
    data: bytes,
    wish: Wish,
    owned: Sequence[tuple[int, int]] = (),
) -> Mention | None:
    """Return a mention in a changed file that should have changed and did not, if there is one.

    What stands in the spans *owned* sets a value: those are compared as values.
    """
    renamings = [item for one in meant for item in one.renamings]
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
        for one in meant:
            renaming = _renaming_of(one.renamings, mention)
            mine = renaming is not None and mention.facet in _ID_FACETS and _changes(mention, wish, one.project)
            if mine and mention.owner is None and not (wish.flavor and not _of_flavor(mention, wish.flavor)):
                return mention
    return None


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


def _rewrite_one(survey: Survey, mention: Mention, new: str, work: Work) -> None:
    if mention.owner is None:
        work.edits.append(place_edit(survey.tree, mention.place, new, mention.facet))
        return
    if mention.role is Role.FOLLOWER and mention.owner.text != mention.value:
        new = new + mention.owner.text[len(mention.value) :]
    done = rewrite(survey.tree, mention.facet, mention.owner, new)
    work.edits.append(done.edit)
    if done.replaced:
        work.notes.append(f"{done.replaced.at}: {done.replaced.written} was replaced by a literal")


def _loose_mentions(survey: Survey, renamings: Sequence[Renaming], wish: Wish, work: Work) -> None:
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
