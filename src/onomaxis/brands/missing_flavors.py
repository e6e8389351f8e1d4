"""Flavors that the identity file has and a build lacks: as after a merge of two branches that each add one."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from onomaxis.brands.subjects import Subject
from onomaxis.flavor_names import selects
from onomaxis.identity.file import IdentityFile
from onomaxis.surveys.survey import kind_of
from onomaxis.tree import Tree


def knows_flavor(subjects: Sequence[Subject], platform: str, flavor: str) -> bool:
    """Tell whether a platform's build knows a flavor, be it in combinations alone."""
    mine = [s for s in subjects if s.platform == platform]
    if any(s.of(flavor) or s.combinations(flavor) for s in mine):
        return True
    shipped = ((app.variant, s.singles) for s in mine for app in s.project.apps if app.variant)
    return any(len(singles.parts(flavor)) > 1 and selects(flavor, name, singles) for name, singles in shipped)


def missing_flavors(tree: Tree, file: IdentityFile, named: Sequence[Subject]) -> Iterator[tuple[str, Subject]]:
    """Yield each flavor of the identity file with each build of flavors that lacks it.

    What a build does not vary at all, environments perhaps, while it varies another dimension is not missed there.
    """
    flavored = [subject for subject in named if subject.flavors]
    apart = {id(subject): _apart(tree, named, subject) for subject in flavored}
    for flavor in file.flavors:
        for subject in flavored:
            if flavor.casefold() not in apart[id(subject)] and not knows_flavor([subject], subject.platform, flavor):
                yield flavor, subject


def _apart(tree: Tree, named: Sequence[Subject], subject: Subject) -> set[str]:
    """Return the flavors of dimensions that a build does not vary at all, while it varies another one of theirs."""
    found: set[str] = set()
    for other in named:
        dimensions = kind_of(other.project).dimensions(other.project, tree, other.module)
        known = {dimension for name, dimension in dimensions.items() if dimension and subject.of(name)}
        if known:
            found |= {name.casefold() for name, dimension in dimensions.items() if dimension not in ("", *known)}
    return found
