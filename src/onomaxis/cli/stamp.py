"""``onomaxis stamp``: makes the project as its identity file says."""

from __future__ import annotations

import argparse
import sys
from dataclasses import replace
from pathlib import Path

from onomaxis.brands.copies import CopyWish, copy_brands
from onomaxis.brands.left_over import with_left_over
from onomaxis.brands.rejoined import plan_missing
from onomaxis.brands.stamp import stamp
from onomaxis.brands.subjects import refuse_unread, required_identity, subjects, subjects_of
from onomaxis.brands.tree_brand import flavor_here
from onomaxis.cli.flow import View, carry_through, plain_view
from onomaxis.cli.output import count, make_console, print_json, say, section
from onomaxis.cli.progress import drawing
from onomaxis.cli.session import open_project, open_to_write, say_selected, service_files
from onomaxis.errors import InputError, RefusedError
from onomaxis.flavor_names import Singles
from onomaxis.identity.file import IdentityFile
from onomaxis.identity.schema import NAME
from onomaxis.model import Note
from onomaxis.projects.project import Project
from onomaxis.surveys.flavors import flavors_of
from onomaxis.surveys.flavors import known_flavor as built_flavor
from onomaxis.surveys.survey import read_projects
from onomaxis.surveys.variants import together
from onomaxis.writing.planned import PlannedChange, with_notes


def execute(options: argparse.Namespace) -> int:
    """Run the command."""
    if (options.only_brand or options.with_identity) and not options.into:
        raise InputError("--only-brand and --with-identity are of copies", remedy="Give --into FOLDER with them.")
    if options.into:
        return _copies(options)
    if options.missing:
        return _missing(options)
    tree = open_to_write(options)
    file, projects = required_identity(tree, bare=bool(options.service)), read_projects(tree)
    named = together(options.flavor, projects, tree)
    if options.every_flavor or len(named) > 1:
        raise InputError("a project becomes one flavor at a time", remedy="Give --into FOLDER for a copy each.")
    told = next(iter(named), "")
    flavor = known_flavor(file, told, flavors_of(projects)) if tree.exists(NAME) else _of_build(projects, told)
    say_selected(options, projects, flavor)
    standing = flavor_here(tree, projects, "")[1]
    with drawing(options) as tick:
        plan = stamp(tree, flavor, service_files(options.service), tick)
    plan, view = with_left_over(tree, plan, flavor, standing), plain_view()
    if standing and not flavor and plan.changes:
        plan, view = _turned_back(options, plan, standing)
    return carry_through(options, tree, plan, view)


def _missing(options: argparse.Namespace) -> int:
    """Add the flavors that the identity file has and a build lacks, then make the project as the file says."""
    if options.flavor or options.every_flavor or options.service:
        way = "Give it without --flavor, --every-flavor and --service."
        raise InputError("--missing is of every flavor", remedy=way)
    tree = open_to_write(options)
    required_identity(tree)
    with drawing(options) as tick:
        plan = plan_missing(tree, tick)
    return carry_through(options, tree, plan, plain_view())


def _of_build(projects: list[Project], flavor: str) -> str:
    """Return a flavor as the builds call it, where no identity file says which apps are meant: they must be one.

    Raises InputError where they are several, or know no such flavor.
    """
    try:
        subjects(projects)
    except RefusedError as error:
        raise InputError(error.message, remedy="Run it in the folder of the one that is meant.") from None
    return flavor and built_flavor(projects, flavor, combined=True)


def _turned_back(
    options: argparse.Namespace, plan: PlannedChange, standing: str
) -> tuple[PlannedChange, View[PlannedChange]]:
    """Say that a brand's tree becomes the app itself. Raises RefusedError where nobody says that this is meant."""
    said = f"this tree is {standing}, and would become the app without a flavor"
    way = f"onomaxis stamp --flavor {standing} keeps it as {standing}"
    if not (options.yes or options.dry_run or sys.stdin.isatty()):
        raise RefusedError(said, remedy=f"{way}; --yes says that it is meant. Nothing was changed.")
    question = f"This tree is {standing}. Make it the app without a flavor?"
    return with_notes(plan, [Note(".", f"{said}: {way}")]), replace(plain_view(), question=question)


def _copies(options: argparse.Namespace) -> int:
    """Make branded copies; the project itself is not written into."""
    tree = open_project(options)
    file = required_identity(tree)
    named = [*options.flavor, *(file.flavors if options.every_flavor else ())]
    known = flavors_of(read_projects(tree))
    flavors = list(dict.fromkeys(known_flavor(file, name, known) for name in named))
    if not flavors:
        raise InputError("no flavor was named", remedy="Give --flavor F, several times perhaps, or --every-flavor.")
    if options.service or options.dry_run:
        raise InputError("--service and --dry-run are of a stamp in place", remedy="Leave them out with --into.")
    refuse_unread(subjects_of(file, read_projects(tree)))
    with drawing(options, "Copying") as tick:
        told = (lambda done: tick(done, len(flavors))) if tick else None
        wish = CopyWish(options.only_brand, options.with_identity)
        made = copy_brands(tree, flavors, Path(options.into), told, wish)
    if options.json:
        print_json({"copies": [item._asdict() for item in made]})
        return int(any(item.left for item in made))
    for item in made:
        say(options, f"{item.folder}: {count(item.files, 'file')}, {item.changed} not as in the original")
    for item in made:
        if item.left:
            console = make_console(options)
            section(console, f"{item.flavor}'s copy still mentions other brands", [(said, "") for said in item.left])
    return int(any(item.left for item in made))


def known_flavor(file: IdentityFile, flavor: str, built: Singles) -> str:
    """Return a flavor as the identity file spells it, or a combination of those *built* that it speaks of.

    Raises InputError where it does not speak of it.
    """
    parts = built.parts(flavor)
    if flavor and not file.table_of(flavor, built) and not (parts and all(file.lists(part) for part in parts)):
        known = ", ".join(file.flavors)
        raise InputError(
            f"{file.path} has no flavor “{flavor}”",
            remedy=f"Its flavors are: {known}." if known else f"Add [flavors.{flavor}] to it.",
        )
    return file.table_of(flavor, built) or flavor
