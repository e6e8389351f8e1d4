"""``onomaxis adopt``: writes an identity file from what the project is called today."""

from __future__ import annotations

import argparse
import json
import sys

from onomaxis.brands.adopt import adopted, alike_halves, refreshed
from onomaxis.brands.documents import apart
from onomaxis.brands.proposing import offers, tables
from onomaxis.brands.seen_services import service_tables
from onomaxis.brands.subjects import Subject, refuse_unread, subjects, subjects_of
from onomaxis.brands.tree_brand import identity_of_tree
from onomaxis.cli.flow import carry_through, plain_view
from onomaxis.cli.output import count
from onomaxis.cli.progress import working
from onomaxis.cli.session import open_to_write
from onomaxis.errors import InputError, OnomaxisError, RefusedError
from onomaxis.identity.schema import NAME, json_schema
from onomaxis.model import Line, Note
from onomaxis.platforms import PLATFORMS
from onomaxis.projects.project import Project, apps_called, flavors_together
from onomaxis.surveys.survey import read_projects
from onomaxis.tree import Tree
from onomaxis.writing.change import applied
from onomaxis.writing.changeset import Changeset
from onomaxis.writing.planned import PlannedChange
from onomaxis.writing.proof import proved


def execute(options: argparse.Namespace) -> int:
    """Run the command."""
    if options.schema:
        sys.stdout.write(json.dumps(json_schema(), indent=2, ensure_ascii=False) + "\n")
        return 0
    tree = open_to_write(options)
    projects = read_projects(tree)
    names = _names(projects, options.app)
    file = identity_of_tree(tree, projects)
    again = file is not None and options.again  # then the file says which apps it speaks of
    present = subjects_of(file, projects) if file is not None and again else subjects(projects, names)
    found = present if again else alike_halves(present)
    if not found:
        raise InputError("there is no app here", file=str(tree.root), remedy="Give the folder of an app's project.")
    if tree.exists(NAME) and not options.again:
        raise RefusedError(
            f"{NAME} is there already",
            remedy="Pass --again to bring it up to what the project is called today; all else in it stays.",
        )
    offered: list[Line] = []
    notes: list[Note] = []
    if file is not None:
        contents = refreshed(tree, file, found)
    else:
        text, offered, notes = _written(options, tree, projects, names, found)
        contents = {NAME: text.encode("utf-8")}
    if options.split or options.table:
        contents = apart(tree, contents, options.table)
    refuse_unread(found)
    changes = Changeset(written=tuple(contents.items())).resolve(tree)
    nothing = f"Nothing to change: {NAME} already has all of this."
    every = flavors_together([subject.project for subject in found])
    flavors = sorted({part for subject in found for name in subject.flavors for part in every.parts(name) or {name}})
    apps = [Line(subject.platform, f"{subject.module} ({_id_of(subject)})") for subject in found]
    apps += [Line("flavors", ", ".join(flavors))] if flavors else []
    apps += offered
    said = "its ID or name differs from the app's beside it: the identity file does not describe it"
    notes += [Note(item.project.folder or ".", said) for item in present if item not in found]
    notes = [*_unresolved(found), *notes]
    plan = PlannedChange(changes, 0, tuple(apps), tuple(notes), f"adopt: {NAME}", nothing)
    plan = proved(projects, read_projects(applied(tree, changes)), plan)
    return carry_through(options, tree, plan, plain_view())


def _written(
    options: argparse.Namespace,
    tree: Tree,
    projects: list[Project],
    names: dict[str, str],
    found: tuple[Subject, ...],
) -> tuple[str, list[Line], list[Note]]:
    """Return a new identity file's text, what of the brands it takes in, and what a person should know."""
    there = {p.platform for p in projects if p.apps and not p.umbrella and p.platform in PLATFORMS}
    text = adopted(found, _needed(projects, names, found), sorted(there - {item.platform for item in found}))
    with working(options, "Looking for values that differ between brands"):
        offered = offers(tree, found, text, options.strike)
        if not options.values:
            told = ", ".join(offer.name for offer in offered)
            said = f"{count(len(offered), 'value')} that brands usually vary would be taken in by --values: {told}"
            return text, [], [Note(NAME, said)] if offered else []
        from onomaxis.brands.seen_icons import seen_icons  # only here is anything drawn

        text += tables(offered) + service_tables(tree, found)
        icons = seen_icons(tree, projects, found, text)
    lines = [Line(offer.name, offer.shown) for offer in offered]
    lines += [Line("icons", ", ".join(icons.files))] if icons.files else []
    return text + icons.text, lines, list(icons.notes)


def _names(projects: list[Project], app: str) -> dict[str, str]:
    """Return the platforms on which *app* calls something. Raises InputError when it calls nothing."""
    if not app:
        return {}
    found = {
        platform: app
        for platform in PLATFORMS
        if any(apps_called(p, app) for p in projects if p.platform == platform and not p.umbrella)
    }
    if not found:
        known = sorted({item.module for project in projects for item in project.apps})
        raise InputError(f"there is no app “{app}” here", remedy=f"The apps are: {', '.join(known)}.")
    return found


def _needed(projects: list[Project], names: dict[str, str], found: tuple[Subject, ...]) -> dict[str, str]:
    """Return the module or target of each platform that has several apps: by its folder where names are alike."""
    needed: dict[str, str] = {}
    for subject in found:
        try:
            every = subjects([p for p in projects if p.umbrella or p.platform == subject.platform])
            alone = len(every) == sum(item.platform == subject.platform for item in found)
        except OnomaxisError:
            alone = False
        if alone:
            continue
        here = [p for p in projects if p.platform == subject.platform and not p.umbrella]
        alike = [p for p in here if any(app.module == subject.module for app in p.apps)]
        needed[subject.platform] = subject.module if len(alike) == 1 else subject.project.folder or subject.module
    return needed


def _id_of(subject: Subject) -> str:
    """Return how the summary speaks of an app's ID; of one that ships in flavors alone each has its own."""
    id_ = subject.text("", "id") if subject.stands_alone else None
    return id_ or ("ID not resolved" if subject.stands_alone else "in flavors alone")


def _unresolved(found: tuple[Subject, ...]) -> list[Note]:
    """Say which facets are left out because nobody can tell them."""
    return [
        Note(f"{item.file}:{item.line}", f"{item.facet} is left out: {item.reason}")
        for subject in found
        for item in subject.project.unresolved
        if not item.whole
    ]
