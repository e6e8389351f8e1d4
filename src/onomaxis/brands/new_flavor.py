"""A new flavor among those that are there: beside which it stands, what it is to be called, how lists speak of it."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import NamedTuple

from onomaxis.brands.subjects import Subject, shared_flavors
from onomaxis.flavor_names import same_flavor
from onomaxis.identity.file import IdentityFile
from onomaxis.projects.project import Flavor, goes_on
from onomaxis.projects.run_lists import Called
from onomaxis.rename.targets import with_name
from onomaxis.surveys.survey import kind_of, read_projects
from onomaxis.tree import Tree


class FlavorWish(NamedTuple):
    """A flavor to be: its name, what it is called (an empty field comes from the identity file, or the app's).

    A build that has no flavors yet builds nothing but flavors from its first one on: ``keep`` names the flavor that
    the app goes on as, ``only`` says that it shall not. ``services`` are its service files (name and bytes), ``art``
    and ``background`` what its icons are drawn from, ``dimension`` what it varies, where a build has several.
    """

    name: str
    id: str = ""
    suffix: str = ""
    shown: str = ""
    app: str = ""
    platforms: tuple[str, ...] = ()
    keep: str = ""
    only: bool = False
    services: tuple[tuple[str, bytes], ...] = ()
    art: str = ""
    background: str = ""
    dimension: str = ""


def listed_as(file: IdentityFile | None, built: Sequence[Subject], wish: FlavorWish) -> Called:
    """Return how lists shall speak of the new flavor."""
    ids = {subject.platform: wanted_id(file, subject, wish) for subject in built}
    return Called(wish.name, ids, next((wanted_name(file, subject, wish) for subject in built), ""))


def listed_siblings(tree: Tree, built: Sequence[Subject], name: str) -> list[Called]:
    """Return how lists speak of the flavors that are there, but for those that vary another thing."""
    projects = {project.key: project for project in read_projects(tree)}
    apart: set[str] = set()
    for subject in built:
        project = projects[subject.project.key]
        dimensions = kind_of(project).dimensions(project, tree, subject.module)
        mine = next((text for known, text in dimensions.items() if same_flavor(known, name)), "")
        apart |= {known.casefold() for known, text in dimensions.items() if mine and text != mine}
    found = []
    for flavor in dict.fromkeys(flavor for subject in built for flavor in subject.flavors):
        if flavor.casefold() in apart:
            continue
        ids = {subject.platform: subject.text(flavor, "id") or "" for subject in built}
        shown = next((text for subject in built if (text := subject.text(flavor, "name"))), "")
        found += [] if same_flavor(flavor, name) else [Called(flavor, ids, shown)]
    return found


def new_flavor(
    tree: Tree, file: IdentityFile | None, subject: Subject, meant: Sequence[Subject], wish: FlavorWish
) -> Flavor:
    """Return the flavor to add to a build: beside one of other platforms or the identity file as well.

    Where those vary several things, nothing is said of what the new one varies.
    """
    dimensions = kind_of(subject.project).dimensions(subject.project, tree, subject.module)
    elsewhere = shared_flavors(subject, meant)
    listed = [name for name in subject.flavors if file is not None and file.lists(name)]
    for names in (elsewhere, listed):
        if names and len({dimensions.get(name, "") for name in names}) == 1:
            return Flavor(subject.module, wish.name, dimension=wish.dimension, beside=names[0])
    return Flavor(subject.module, wish.name, dimension=wish.dimension)


def wanted_id(file: IdentityFile | None, subject: Subject, wish: FlavorWish) -> str:
    """Return the ID that the new flavor is to have; empty where the app's cannot be told."""
    if wish.id:
        return wish.id
    base = subject.text("", "id") or ""
    said = _said(file, subject, wish, "id")
    if said and said != base and not wish.suffix:
        return said
    suffix = wish.suffix or "." + re.sub(r"[^a-z0-9]", "", wish.name.lower())
    return base + suffix if base else ""


def wanted_name(file: IdentityFile | None, subject: Subject, wish: FlavorWish) -> str:
    """Return what the new flavor is to be called; empty where nobody says."""
    return wish.shown or _said(file, subject, wish, "name") or ""


def as_sibling(subject: Subject, built: str, flavor: str, key: str, wanted: str) -> str:
    """Return what a combination of a new flavor is to be called, as that of a sibling with all else alike."""
    rest = frozenset(name for name in subject.singles.parts(built) if not same_flavor(name, flavor))
    for other in subject.flavors:
        parts = subject.singles.parts(other)
        brand = parts - rest
        if len(brand) != 1 or not rest <= parts or any(same_flavor(name, flavor) for name in brand):
            continue
        text, base = subject.text(other, key) or "", subject.text(subject.main_of(next(iter(brand))), key) or ""
        if wanted and key == "id" and base and goes_on(text, base):
            return wanted + text[len(base) :]
        return with_name(text, base, wanted) or wanted if key == "name" else wanted
    return wanted


def _said(file: IdentityFile | None, subject: Subject, wish: FlavorWish, key: str) -> str | None:
    known = file is not None and any(same_flavor(wish.name, name) for name in file.flavors)
    return file.brand(wish.name, subject.platform).get(key) if known and file is not None else None
