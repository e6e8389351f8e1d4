"""A new flavor among those that are there: beside which it stands, what it is to be called, how lists speak of it."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Mapping, Sequence
from types import MappingProxyType
from typing import NamedTuple

from onomaxis.brands.briefing import Briefing
from onomaxis.brands.subjects import Subject, shared_flavors
from onomaxis.flavor_names import same_flavor, singles
from onomaxis.identity.file import IdentityFile
from onomaxis.identity.schema import OWED
from onomaxis.projects.neighbours.called import Called
from onomaxis.projects.project import Flavor, goes_on
from onomaxis.projects.siblings import majority
from onomaxis.rename.targets import with_name
from onomaxis.surveys.survey import kind_of, read_projects
from onomaxis.tree import Tree


class FlavorWish(NamedTuple):
    """A flavor to be: its name, what it is called (an empty field comes from the identity file, or the app's).

    A build that has no flavors yet builds nothing but flavors from its first one on: ``keep`` names the flavor that
    the app goes on as, ``only`` says that it shall not. ``services`` are its service files (name and bytes), ``art``
    and ``background`` what its icons are drawn from, ``dimension`` what it varies, where a build has several. It is
    made after the flavor ``like`` (empty: the one most like the others), but for the values ``given``, by name; a
    ``briefing`` says all that an identity file says of a brand.
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
    like: str = ""
    given: Mapping[str, str] = MappingProxyType({})
    briefing: Briefing = Briefing()

    def briefed(self, briefing: Briefing) -> FlavorWish:
        """Return the wish with what a briefing says, where it says nothing itself."""
        text = briefing.text
        return self._replace(
            id=self.id or text("id"),
            suffix=self.suffix or text("id-suffix"),
            shown=self.shown or text("name"),
            dimension=self.dimension or text("dimension"),
            art=self.art or text("foreground", "icon") or text("art", "icon"),
            background=self.background or text("background", "icon"),
            given={**dict(briefing.texts()), **self.given},
            briefing=briefing,
        )


def listed_as(file: IdentityFile | None, built: Sequence[Subject], wish: FlavorWish) -> Called:
    """Return how lists shall speak of the new flavor."""
    ids = {subject.platform: wanted_id(file, subject, wish) for subject in built}
    theirs = {subject.text(flavor, "name") for subject in built for flavor in subject.flavors}
    wanted = [wanted_name(file, subject, wish) for subject in built]
    told = [*wanted, *((subject.text("", "name") or "") for subject in built)]
    return Called(
        wish.name, ids, next((text for text in told if text and (text in wanted or text not in theirs)), OWED)
    )


def listed_siblings(tree: Tree, built: Sequence[Subject], name: str, asked: Sequence[Flavor] = ()) -> list[Called]:
    """Return how lists speak of the flavors that are there, but for those that vary another thing.

    *asked* says of a flavor that is not there yet what it shall vary.
    """
    projects = {project.key: project for project in read_projects(tree)}
    apart: set[str] = set()
    for number, subject in enumerate(built):
        project = projects[subject.project.key]
        kind = kind_of(project)
        dimensions = kind.dimensions(project, tree, subject.module)
        mine = next((text for known, text in dimensions.items() if same_flavor(known, name)), "")
        mine = mine or (kind.new_dimension(project, tree, asked[number]) if asked else "")
        apart |= {known.casefold() for known, text in dimensions.items() if mine and text != mine}
    names = [flavor for subject in built for flavor in subject.flavors]
    known = singles(names, (flavor for subject in built for flavor in subject.singles))
    brands: dict[str, str] = {}
    for flavor in names:  # of a combination the parts that do not vary another thing
        parts = [part for part in known.parts(flavor) if part.casefold() not in apart]
        whole = parts[0] if len(parts) == 1 else flavor
        if whole.casefold() not in apart:
            brands.setdefault(whole.casefold(), whole)
    return [called_as(built, flavor) for flavor in brands.values() if not same_flavor(flavor, name)]


def called_as(built: Sequence[Subject], name: str) -> Called:
    """Return how texts speak of a flavor that is there."""
    mains = [(subject, subject.main_of(name) or name) for subject in built]
    ids = {subject.platform: subject.text(main, "id") or "" for subject, main in mains}
    return Called(name, ids, next((text for subject, main in mains if (text := subject.text(main, "name"))), ""))


def new_flavor(
    tree: Tree, file: IdentityFile | None, subject: Subject, meant: Sequence[Subject], wish: FlavorWish
) -> Flavor:
    """Return the flavor to add to a build: beside one of other platforms or the identity file as well.

    Where those vary several things, nothing is said of what the new one varies.
    """
    new = Flavor(subject.module, wish.name, dimension=wish.dimension, given=tuple(wish.given.items()))
    dimensions = kind_of(subject.project).dimensions(subject.project, tree, subject.module)
    like = next((name for name in subject.flavors if same_flavor(name, wish.like)), "") or _in_combinations(
        tree, subject, meant, wish
    )
    elsewhere = [] if like else shared_flavors(subject, meant)
    listed = [] if like else [name for name in subject.flavors if file is not None and file.lists(name)]
    for names in (elsewhere, listed):
        if names and len({dimensions.get(name, "") for name in names}) == 1:
            return new._replace(beside=names[0])
    return new._replace(beside=like, like=like)


def _in_combinations(tree: Tree, subject: Subject, meant: Sequence[Subject], wish: FlavorWish) -> str:
    """Return the brand whose combinations a new one's are made after, where a build has brands in combinations alone.

    What is a brand, and what an environment, another build says.
    """
    asked = [Flavor(item.module, wish.name, dimension=wish.dimension) for item in meant]
    brands = [item.name for item in listed_siblings(tree, meant, wish.name, asked)] if len(meant) > 1 else []
    alone = [name for name in brands if subject.combinations(name) and not subject.of(name)]
    return next((name for name in alone if same_flavor(name, wish.like)), next(iter(alone), ""))


def wanted_id(file: IdentityFile | None, subject: Subject, wish: FlavorWish) -> str:
    """Return the ID that the new flavor is to have; empty where the app's cannot be determined."""
    if wish.id:
        return wish.id
    base = subject.text("", "id") or ""
    said = _said(file, subject, wish, "id")
    if said and said != base and not wish.suffix:
        return said
    own = plain_name(wish.name)
    theirs = "" if wish.suffix else id_before_names(subject)
    if theirs:
        return theirs + own
    return base + (wish.suffix or f".{own}") if base else ""


def plain_name(name: str) -> str:
    """Return a flavor's name as a part of an ID."""
    return re.sub(r"[^a-z0-9]", "", name.lower())


def id_before_names(subject: Subject) -> str:
    """Return what most flavors' IDs have before the flavor's own name; empty where most end otherwise."""
    counted: Counter[str] = Counter()
    for flavor in subject.flavors:
        id_ = subject.text(flavor, "id") or ""
        front, dot, last = id_.rpartition(".")
        counted[f"{front}{dot}"] += plain_name(last) == plain_name(flavor)
    front, number = next(iter(counted.most_common(1)), ("", 0))
    return front if majority(number, subject.flavors) else ""


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
