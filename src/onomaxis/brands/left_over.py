"""What still spells another brand, or the template, where one tree becomes one brand after the other."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator, Sequence
from dataclasses import replace

from onomaxis.brands.subjects import Subject, load_identity, subjects_of
from onomaxis.brands.tree_brand import becomes_brands, given_keys
from onomaxis.errors import FormatError
from onomaxis.formats.source import Source, as_viewed
from onomaxis.identity.file import IdentityFile
from onomaxis.model import Facet, Note, Residue
from onomaxis.needles import Needles
from onomaxis.platforms import PLATFORM_NAMES
from onomaxis.projects.occurrences import is_prose
from onomaxis.surveys.residue import shown_line
from onomaxis.surveys.survey import own_files, read_projects
from onomaxis.tree import Tree, join, parent
from onomaxis.writing.change import applied
from onomaxis.writing.planned import PlannedChange, with_notes

# A shorter text is too common to tell a brand.
_SHORTEST = 4
# What brands are told by beside names in languages, hosts and values.
_TELLING = (("id", "ID"), ("name", "name"))
# Values of these types tell nothing: many brands have the same, and any text may hold them.
_PLAIN = ("integer", "boolean", "number", "dimension", "file")


def with_left_over(tree: Tree, plan: PlannedChange, flavor: str, standing: str) -> PlannedChange:
    """Return a stamp with what still is another brand's once the tree is *flavor* (empty: the app itself).

    *standing* is the brand that it is before.
    """
    file = load_identity(tree)
    subjects = subjects_of(file, read_projects(tree)) if file is not None else ()
    if file is None or plan.empty or not becomes_brands(file, subjects):
        return plan
    later = applied(tree, plan.changes)
    found = spelled(later, file, subjects, flavor, {file.path, *_own(later, file, subjects)})
    kept = with_notes(plan, _kept(file, subjects, flavor, standing))
    return replace(kept, residue=tuple(sorted(found, key=lambda item: (item.file, item.line, item.reason))))


def _kept(file: IdentityFile, subjects: Sequence[Subject], flavor: str, standing: str) -> Iterator[Note]:
    """Yield what the brand before gave and the new one does not: it stays as it is."""
    for subject in subjects if standing != flavor else ():
        before, now = (
            dict.fromkeys(given_keys(file.as_app(name, subject.platform), subject.platform))
            for name in (standing, flavor)
        )
        gone = [key for key in before if key not in now]
        if gone:
            at = file.line("flavors", flavor) if flavor else file.line("app")
            whose = f"{standing or 'the app itself'}'s stays on {PLATFORM_NAMES[subject.platform]}"
            yield Note(f"{file.home(at)}:{at}", f"{flavor or 'the app itself'} gives no {', '.join(gone)}: {whose}")


def _own(tree: Tree, file: IdentityFile, subjects: Sequence[Subject]) -> Iterator[str]:
    """Yield the files that are brands' own: the fleet's, those in folders called after them, art, service files."""
    yield from own_files(tree)
    for name in ("", *file.flavors):
        yield from named_files(file, subjects, name)
    names = {name.casefold() for name in file.flavors}
    yield from (path for path in tree.files if names & {part.casefold() for part in path.split("/")[:-1]})


def spelled(
    tree: Tree, file: IdentityFile, subjects: Sequence[Subject], flavor: str, but: Collection[str] = ()
) -> Iterator[Residue]:
    """Yield where a tree that is *flavor* spells what another brand, or the app itself, is told by; not in *but*."""
    packages = {
        item.value
        for subject in subjects
        for item in subject.project.identifiers
        if item.facet in (Facet.CODE_PACKAGE, Facet.NAMESPACE)
    }
    own = dict(_texts(file, subjects, flavor))
    others: dict[str, str] = {}
    for name in ("", *file.flavors):
        for text, label in _texts(file, subjects, name) if name != flavor else ():
            if text not in own and text not in packages:  # code packages stay when a tree becomes a brand
                others.setdefault(text, f"{label} of {name or 'the app itself'}")
    sought = Needles([as_viewed(text) for text in others])
    labels = {as_viewed(text): label for text, label in others.items()}
    mine = Needles([as_viewed(text) for text in own])
    for path, data in sorted(tree.holding(list(others))):
        if path in but:
            continue
        try:
            view = (source := Source.read(data)).view
        except FormatError:
            continue
        inside = [(at, at + len(text)) for at, text in mine.places(view)]
        for at, text in sought.places(view):
            end = at + len(text)
            if _whole(view, at, end) and not any(start <= at and end <= stop for start, stop in inside):
                reason = f"spells the {labels[text]}"
                yield Residue(path, source.line(at), shown_line(source, at), reason, is_prose(path))


def _whole(view: str, start: int, end: int) -> bool:
    """Tell whether a text stands for itself: no part of a longer word, host or ID."""
    return not re.match(r"[\w-]", view[end : end + 1]) and not re.search(r"[\w.-]\Z", view[max(0, start - 1) : start])


def _texts(file: IdentityFile, subjects: Sequence[Subject], flavor: str) -> Iterator[tuple[str, str]]:
    """Yield the texts that a brand is told by, and what each is."""
    types = {value.name: value.type for value in file.values if not value.secret}
    for subject in subjects:
        brand = file.as_app(flavor, subject.platform)
        told = [(said.text, label) for key, label in _TELLING if (said := brand.facets.get(key)) is not None]
        told += [(said.text, "name") for said in brand.names.values()]
        told += [(said.text, "host") for said in brand.hosts]
        values = ((key, said) for key, said in brand.values.items() if types.get(key, "file") not in _PLAIN)
        told += [(said.text, f"“{key}”") for key, said in values]
        yield from ((text, label) for text, label in told if len(text) >= _SHORTEST)


def named_files(file: IdentityFile, subjects: Sequence[Subject], flavor: str) -> Iterator[str]:
    """Yield the files that the identity file names for a flavor, or for the app itself: art, service files."""
    for subject in subjects:
        brand = file.as_app(flavor, subject.platform)
        for said in (*brand.art.values(), *brand.files.values(), *brand.launch.values()):
            yield join(parent(file.path), said.text)
