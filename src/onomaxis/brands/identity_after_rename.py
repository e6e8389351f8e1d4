"""The identity file in step with a rename: what it said rightly before is said rightly after, in the same change."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence, Set
from dataclasses import replace
from typing import Any

from onomaxis.brands.adopt import bring_up
from onomaxis.brands.documents import Documents
from onomaxis.brands.subjects import OWN_KEY, Subject, load_identity, subjects_of
from onomaxis.brands.tree_brand import identity_of_tree
from onomaxis.brands.values import follow_templates
from onomaxis.brands.worn import Difference, differences
from onomaxis.errors import InputError, OnomaxisError
from onomaxis.identity.file import IdentityFile
from onomaxis.identity.schema import NAME
from onomaxis.model import Note
from onomaxis.projects.project import Project
from onomaxis.rename.plan import Plan
from onomaxis.surveys.survey import Survey
from onomaxis.tree import Tree
from onomaxis.writing.change import FileChange, applied, followed_by
from onomaxis.writing.changeset import Changeset
from onomaxis.writing.planned import Stages


def with_identity(survey: Survey, plan: Plan) -> Plan:
    """Return the plan of a rename with the identity file brought along.

    A key that was as the project is takes the new value, where it stands; one that said something else is left, and
    so is a file that cannot be read: that is noted.
    """
    if not survey.tree.exists(NAME) or plan.empty or any(change.source == NAME for change in plan.changes):
        return plan
    try:
        moves = {c.source: c.target for c in plan.changes if c.moved and c.source and c.target}
        new = followed(survey.tree, survey.projects, plan.after, moves, dict(plan.technical))
    except OnomaxisError as error:
        note = Note(error.file or NAME, f"the identity file was not updated: {error.message}")
        return replace(plan, notes=(*plan.notes, note))
    if not new:
        return plan
    changes = _sorted(plan.changes, Changeset((), (), (), tuple(new.items()), ()).resolve(survey.tree))
    said = Note(next(iter(new)), "the identity file is changed to match, so stamping it changes nothing")
    return _with_values(survey, replace(plan, changes=changes, notes=(*plan.notes, said)), new)


def _with_values(survey: Survey, plan: Plan, new: Mapping[str, bytes]) -> Plan:
    """Return the plan with the values that follow from what the app is called; what they said is not a residue."""
    file, stages = load_identity(survey.tree), Stages(applied(survey.tree, plan.changes))
    notes = plan.notes
    try:
        if file is not None:
            follow_templates(survey.tree, file, stages)
    except OnomaxisError as error:
        notes = (*notes, Note(error.file or NAME, f"values that follow were not updated: {error.message}"))
        stages = Stages(applied(survey.tree, plan.changes))
    texts = {path: data.decode("utf-8") for path, data in new.items()}
    texts |= {item.target: (item.after or b"").decode("utf-8", "replace") for item in stages.changes if item.target}
    residue = tuple(item for item in plan.residue if item.text.strip() in texts.get(item.file, item.text))
    changes, edits = followed_by(plan.changes, stages.changes), plan.edits + stages.edits
    summary = (*plan.summary, *stages.summary)
    return replace(plan, changes=changes, edits=edits, summary=summary, notes=notes, residue=residue)


def _sorted(first: Sequence[FileChange], more: Sequence[FileChange]) -> tuple[FileChange, ...]:
    return tuple(sorted((*first, *more), key=lambda change: change.target or change.source or ""))


def followed(
    tree: Tree,
    projects: Sequence[Project],
    later: Sequence[Project],
    moves: Mapping[str, str] | None = None,
    technical: Mapping[str, str] | None = None,
) -> dict[str, bytes]:
    """Return the identity's files of *tree* that must read otherwise once *projects* are called as they are *later*.

    *moves* are files that get another path, *technical* names of modules and targets that change.
    Raises OnomaxisError for a wrong result.
    """
    file = identity_of_tree(tree, projects)
    if file is None:
        return {}
    before, moves, technical = subjects_of(file, projects), moves or {}, technical or {}
    documents = Documents(tree, file)
    document = documents.main
    for platform, key in OWN_KEY.items():  # what the module or target is called has to be found again
        name = file.own(platform, key)
        if name in technical:
            document[platform][key] = technical[name]
    for item in documents.all() if moves else ():
        _moved(item, moves, file.flavors)
    now = documents.identity().as_brand(file.standing)
    after = subjects_of(now, later)
    right = {flavor: set(_all_right(before, file, flavor)) for flavor in ("", *file.flavors)}
    for flavor in right:
        named = flavor or file.standing
        having = [subject for subject in after if not flavor or subject.of(flavor)]
        wrong = _wrong(after, now, flavor, right[flavor])
        for key, locale in sorted({(item.key, item.locale) for item in wrong}):
            off = {item.subject.platform for item in wrong if (item.key, item.locale) == (key, locale)}
            holder = documents.of(named) if named else document
            bring_up(holder, ["flavors", named] if named else ["app"], having, off, flavor, key, locale)
        if not flavor:  # every flavor takes from the app, and none from another
            now = documents.identity().as_brand(file.standing)
    now = documents.identity().as_brand(file.standing)
    for item in (item for flavor, keys in right.items() for item in _wrong(after, now, flavor, keys)):
        said = f"{item.flavor or 'the app itself'} is {item.today} now, and it would say {item.wanted}"
        raise InputError(said, file=now.home(item.line), line=item.line)
    return documents.contents()


def _all_right(subjects: Sequence[Subject], file: IdentityFile, flavor: str) -> Iterator[tuple[str, str, str]]:
    """Yield platform, key and language of all that the file says rightly of a flavor before the rename."""
    for subject in subjects:
        yield from ((subject.platform, key, locale) for key, locale in _right(subject, file, flavor))


def _wrong(
    subjects: Sequence[Subject], file: IdentityFile, flavor: str, right: Set[tuple[str, str, str]]
) -> list[Difference]:
    """Return what the file says wrongly of a flavor, of that which it said rightly."""
    return [
        item
        for subject in subjects
        if not flavor or subject.of(flavor)
        for item in differences(subject, file.brand(flavor, subject.platform), flavor)
        if (subject.platform, item.key, item.locale) in right
    ]


def _moved(table: Any, moves: Mapping[str, str], flavors: Sequence[str]) -> None:
    """Let every path that the file names follow what a rename moves: places of values, art, service files."""
    items = table.items() if isinstance(table, dict) else enumerate(table)
    for key, item in list(items):
        if isinstance(item, str):
            new = _moved_path(str(item), moves, flavors)
            if new != item:
                table[key] = new
        elif isinstance(item, (dict, list)):
            _moved(item, moves, flavors)


def _moved_path(path: str, moves: Mapping[str, str], flavors: Sequence[str]) -> str:
    if "{flavor}" not in path:
        return moves.get(path, path)
    for flavor in ("main", *flavors):
        spelled = path.replace("{flavor}", flavor)
        new = moves.get(spelled, "")
        if new.count(flavor) == spelled.count(flavor) == path.count("{flavor}"):
            return new.replace(flavor, "{flavor}")
    return path


def _right(subject: Subject, file: IdentityFile, flavor: str) -> Iterator[tuple[str, str]]:
    """Yield the keys (and languages) in which the file says what a flavor is called before the rename."""
    if flavor and not subject.of(flavor):
        return
    brand = file.brand(flavor, subject.platform)
    off = {(item.key, item.locale) for item in differences(subject, brand, flavor)}
    for key in brand.facets:
        if (key, "") not in off:
            yield key, ""
    for locale in brand.names:
        if ("names", locale) not in off:
            yield "names", locale
