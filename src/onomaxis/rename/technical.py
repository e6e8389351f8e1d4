"""The technical rename: what the project itself is called; and the proof that nothing that ships changed."""

from __future__ import annotations

from dataclasses import replace

from onomaxis.errors import FaultError
from onomaxis.model import HIDDEN_PARTS, Line, Note, Value
from onomaxis.projects.draft import Draft
from onomaxis.projects.project import Project
from onomaxis.rename.plan import Plan
from onomaxis.rename.targets import Target
from onomaxis.surveys.halves import umbrella_of
from onomaxis.surveys.survey import kind_of, read_projects
from onomaxis.tree import Tree
from onomaxis.writing.change import followed_by
from onomaxis.writing.planned import changeset_of, places


def plan_technical(tree: Tree, plan: Plan, name: str) -> Plan:
    """Add to *plan*, which leads to *tree*, the technical rename to *name* of the projects that it is for."""
    draft = Draft()
    technical: list[tuple[str, str]] = []
    summary = list(plan.summary)
    projects = read_projects(tree)
    concerned: dict[tuple[object, ...], Project] = {}
    for project in projects:
        target = next((item for item in plan.targets if item.project.key == project.key), None)
        if target is None:
            continue
        above = umbrella_of(projects, project)
        if above is not None:
            concerned[above.key] = above
            if above.keeps and project.platform == "ios":
                said = f"the Xcode project keeps its name: {above.keeps}"
                draft.notes.append(Note(project.folder or ".", said))
                continue
        mine = _native(project, target, above)
        if mine is not None:
            found = kind_of(project).rename_project(mine, tree, name)
            draft.join(found)
            if found.edits or found.moves:
                technical.append((mine.apps[0].module, name))
                summary.append(Line("Xcode project", f"{mine.apps[0].module} → {name}"))
    for umbrella in concerned.values():
        found = kind_of(umbrella).rename_project(umbrella, tree, name)
        draft.join(found)
        summary += [Line(f"{umbrella.kind} project", name)] if found.edits else []
    draft.refuse()
    return replace(
        plan,
        changes=followed_by(plan.changes, changeset_of(draft).resolve(tree)),
        edits=plan.edits + places(draft),
        notes=tuple(dict.fromkeys([*plan.notes, *draft.notes])),
        summary=tuple(summary),
        technical=tuple(technical),
    )


def _native(project: Project, target: Target, above: Project | None) -> Project | None:
    """Return a native project with only the apps that are meant; None for one that a framework's file stands for."""
    native = not project.umbrella and (above is None or project.kind != above.kind)
    apps = tuple(app for app in project.apps if app.module in target.modules and app.platform == project.platform)
    apps = apps or tuple(app for app in project.apps if app.module in target.modules)
    return replace(project, apps=apps) if native and apps else None


def prove_kept(before: list[Project], after: list[Project], technical: dict[str, str]) -> None:
    """Make sure that a technical rename changed nothing that ships: no ID, no name in any language, no version."""
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
        rows += [[app.flavor, locale, value.text] for locale, value in app.names]
    return sorted(rows, key=str)


def _said(value: Value | None, technical: dict[str, str]) -> str | None:
    if value is None or any(piece.place for piece in value.pieces):
        return value.text if value else None
    return technical.get(value.text, value.text)
