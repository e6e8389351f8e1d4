"""The whole of a rename: plan, proof by a second reading, residue, and the way back when it is one."""

from __future__ import annotations

import json
import os
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace

from onomaxis.errors import FaultError, OnomaxisError, RefusedError
from onomaxis.model import HIDDEN_PARTS, Residue, Value, Wish, same_flavor
from onomaxis.projects.android.packages import SOURCE_ENDINGS
from onomaxis.projects.project import Project
from onomaxis.rename.plan import Plan, after, make_plan, plan_prepared, plan_technical, remaining
from onomaxis.rename.proof import prove_apps, prove_files
from onomaxis.rename.renamings import flavors
from onomaxis.survey.residue import find_residue
from onomaxis.survey.survey import Survey, read_projects, take_survey
from onomaxis.tree import Tree
from onomaxis.writing.changeset import FileChange
from onomaxis.writing.journal import Entry, Journal, digest
from onomaxis.writing.undo import undo_changes


def plan_rename(survey: Survey, wish: Wish) -> Plan:
    """Plan a rename, read the result again before a byte is written, and list what stays.

    Raises FaultError when the result would not be what was asked for.
    """
    plan = plan_values(survey, wish)
    later = changed_tree(survey.tree, plan.changes)
    if wish.project_name:
        before = read_projects(later)
        plan = plan_technical(survey, later, wish, plan)
        later = changed_tree(survey.tree, plan.changes)
        _prove_kept(before, read_projects(later), dict(plan.technical))
    if plan.empty:
        return plan
    projects = read_projects(later)
    prove_files(plan.changes)
    _prove(survey, projects, wish)
    prove_apps(survey.projects, projects, plan.meant, wish, dict(plan.technical))
    _prove_followers(survey, later, projects, plan, wish)
    _prove_stable(survey, later, plan, wish)
    entry = None if wish.team or wish.unify else way_back(survey.tree, survey.projects, identity(projects))
    if entry is not None:
        changes = tuple(c for c in undo_changes(survey.tree.root, entry) if c.edited or c.moved)
        later = changed_tree(survey.tree, changes)
        plan = replace(plan, changes=changes, restored=entry.id, notes=())
    return replace(plan, residue=_residue(survey, later, plan))


def plan_values(survey: Survey, wish: Wish) -> Plan:
    """Plan what is set right first, and then every identifier, name and version of a wish."""
    prepared = plan_prepared(survey, wish)
    if prepared is None:
        return make_plan(survey, wish)
    between = changed_tree(survey.tree, prepared.changes)
    return after(prepared, make_plan(take_survey(between, wish.app, wish.targets), wish))


def changed_tree(tree: Tree, changes: tuple[FileChange, ...]) -> Tree:
    """Return the tree as it will be."""
    contents = {c.target: c.after for c in changes if c.target is not None and c.after is not None and not c.link}
    links = {c.target: os.fsdecode(c.after or b"") for c in changes if c.link and c.target is not None}
    return tree.overlay(contents, [c.source for c in changes if c.source is not None], links)


def identity(projects: list[Project] | tuple[Project, ...]) -> str:
    """Return what all apps of a tree are called, as one comparable text."""
    rows = []
    for project in projects:
        for app in project.apps:
            values = [value.text if value else None for value in (app.id, app.name, app.version, app.build)]
            names = [[locale, value.text] for locale, value in app.names]
            rows.append([project.kind, app.module, app.flavor, *values, names])
        rows.append([project.kind, "identifiers", sorted([str(i.facet), i.value] for i in project.identifiers)])
    return json.dumps(rows, ensure_ascii=False)


def prove_called_same(tree: Tree, projects: list[Project], changes: tuple[FileChange, ...]) -> str:
    """Return what all apps are called, as text. Raises FaultError where *changes* would make it something else."""
    now = identity(projects)
    if identity(read_projects(changed_tree(tree, changes))) != now:
        raise FaultError("the change would give an app another identity; nothing was changed")
    return now


def _prove(survey: Survey, projects: list[Project], wish: Wish) -> None:
    """Compare the wish with what a fresh reading of the changed files gives."""
    wanted = {"android": wish.android_id, "ios": wish.ios_id}
    found: dict[str, set[str]] = defaultdict(set)
    names: set[str] = set()
    for project in projects:
        platform = project.platform
        for app in project.apps:
            found[platform].add(app.id.text if app.id else "")
            names.add(app.name.text if app.name else "")
        found[platform].update(owner.value for owner in project.owners)
    for platform, value in wanted.items():
        if value and found[platform] and value not in found[platform]:
            here = [p for p in survey.projects if p.platform == platform and p.apps]
            if not here or (wish.flavor and not any(_has(p, wish.flavor) for p in here)):
                continue
            raise FaultError(f"the change would not give {platform} the ID {value}; nothing was changed")
    if wish.name is not None and wish.name not in names and not wish.flavor:
        raise RefusedError(
            f"the display name would not read back as “{wish.name}”",
            remedy="Its owner is not a place that Onomaxis can write; nothing was changed.",
        )


def _has(project: Project, flavor: str) -> bool:
    return any(same_flavor(flavor, name) for name in flavors(project))


def _prove_followers(survey: Survey, later: Tree, projects: Sequence[Project], plan: Plan, wish: Wish) -> None:
    """Make sure that no place that must change with an identifier still spells the old one."""
    owned: dict[str, list[tuple[int, int]]] = defaultdict(list)
    for owner in (owner for project in projects for owner in project.owners):
        for spot in filter(None, (owner.place, owner.owner.place if owner.owner else None)):
            owned[spot.file].append((spot.start, spot.end))
    moved = {change.source: change.target for change in plan.changes if change.source and change.target}
    for path in sorted({moved.get(path, path) for path in survey.held} & later.known):
        data = later.read(path)
        if data is None:
            continue
        left = remaining(survey.projects, plan.meant, path, data, wish, owned.get(path, ()))
        if left is not None:
            raise FaultError(
                f"the change would not be whole: {left.value} would still stand here",
                file=path,
                line=left.place.line,
                remedy="Nothing was changed. This is a fault of Onomaxis: change this place by hand first.",
            )


def _prove_stable(survey: Survey, later: Tree, plan: Plan, wish: Wish) -> None:
    """Make sure that the same wish would change nothing more in the tree that the plan leads to.

    Sources are left out: what they spell was looked at already (:func:`_prove_followers`), and no value stands there.
    """
    moved = {change.source: change.target for change in plan.changes if change.source and change.target}
    searched = {moved.get(path, path) for path in survey.held} | {c.target for c in plan.changes if c.target}
    targets = tuple((m.project.platform, m.project.folder, name) for m in plan.meant for name in sorted(m.modules))
    again = replace(wish, app="", targets=targets)
    within = [path for path in sorted(searched & later.known) if not path.endswith(SOURCE_ENDINGS)]
    if plan.technical or not targets:
        return  # what a technical rename leads to is compared by what ships
    try:
        found = take_survey(later, "", targets, within)
        second = plan_values(found, again)
    except OnomaxisError:
        return  # the result cannot be planned from as it stands: nothing is known against it
    for change in second.changes:
        path = change.target or change.source or ""
        before, after = change.before or b"", change.after or b""
        first = next((at for at, (a, b) in enumerate(zip(before, after, strict=False)) if a != b), len(before))
        line = before.count(b"\n", 0, first) + 1
        raise FaultError(
            "the change would not be whole: the same command would change this file again",
            file=path,
            line=line,
            remedy="Nothing was changed. This is a fault of Onomaxis: change this place by hand first.",
        )


def _prove_kept(before: list[Project], after: list[Project], technical: dict[str, str]) -> None:
    """Make sure that a technical rename changed nothing that ships: no ID, no display name, no version."""
    old, new = _shipped(before, {}), _shipped(after, {name: was for was, name in technical.items()})
    if old != new:
        lost = next((f"{a} → {b}" for a, b in zip(old, new, strict=False) if a != b), "a target is lost")
        raise FaultError(f"the technical rename would change what ships: {lost}; nothing was changed")


def _shipped(projects: list[Project], technical: dict[str, str]) -> list[list[str | None]]:
    """Return what is seen of each product; nobody sees the name of a test bundle.

    A name that nothing but the product gives may change with it: there is no place to write it.
    """
    rows: list[list[str | None]] = []
    for app in (app for project in projects for app in project.apps):
        items = [(app.id, app.name, app.version, app.build)]
        items += [
            (part.id, None if part.kind in HIDDEN_PARTS else part.name, part.version, part.build)
            for part in app.parts
        ]
        rows += [[_said(value, technical) for value in item] for item in items]
    return sorted(rows, key=str)


def _said(value: Value | None, technical: dict[str, str]) -> str | None:
    if value is None or any(piece.place for piece in value.pieces):
        return value.text if value else None
    return technical.get(value.text, value.text)


def way_back(tree: Tree, projects: Sequence[Project], after: str) -> Entry | None:
    """Return the last change when this one would lead exactly back behind it, and nothing else was changed since.

    Then the old bytes are put back, with every expression and escape as it was written.
    """
    entry = Journal(tree.root).last_own()
    if entry is None or entry.identity_before != after or entry.identity_before == entry.identity_after:
        return None
    if entry.identity_after != identity(tuple(projects)):
        return None
    for record in entry.records:
        if record.target is not None and digest(tree.read(record.target)) != record.after:
            return None
    return entry


def _residue(survey: Survey, later: Tree, plan: Plan) -> tuple[Residue, ...]:
    """Search the files that held an old identifier or name, and those that were changed."""
    targets = {change.target for change in plan.changes if change.target}
    paths = sorted((survey.held & later.known) | targets)
    held = {path: data for path in paths if (data := later.read(path)) is not None}
    held |= later.holding(old for old, _ in plan.technical)
    here = {path: data for path, data in held.items() if not path.startswith(plan.elsewhere)}
    other = {path: data for path, data in held.items() if path not in here}
    found = find_residue(survey, here, plan.renamings, plan.names, plan.technical)
    large = ((path, why) for path, why in sorted(survey.tree.unreadable.items()) if why.startswith("it is larger"))
    found = (*found, *(Residue(path, 1, "", f"not looked into: {why}") for path, why in large))
    return (*found, *find_residue(survey, other, plan.renamings, (), ()))
