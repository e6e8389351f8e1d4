"""The proof of a stamp: who is spoken of reads as the identity file says, everyone else as before."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from onomaxis.brands.subjects import Subject, app_as, subjects_of
from onomaxis.identity.file import Brand, IdentityFile
from onomaxis.model import ShippedApp, made_of, same_flavor
from onomaxis.projects.project import Project
from onomaxis.writing.proof import Seen, Told, prove_apps, unchanged

_KEYS = {Told.ID: "id", Told.NAME: "name", Told.VERSION: "version", Told.BUILD: "build"}


def prove_stamp(before: Sequence[Project], after: Sequence[Project], file: IdentityFile, flavor: str) -> None:
    """Make sure that a stamp changed nothing but what *file* speaks of. Raises FaultError with file and line.

    That the flavors that it names read as it says was seen already; here no other app, flavor or facet may differ.
    """
    subjects = {(s.project.key, s.module): s for s in subjects_of(file, before)}
    made: dict[tuple[object, str], frozenset[str]] = {}

    def parts_of(subject: Subject, shipped: str) -> frozenset[str]:
        key = (subject.target, shipped)
        if key not in made:
            made[key] = made_of(shipped, subject.flavors)
        return made[key]

    def allowed(project: Project, app: ShippedApp, seen: Seen) -> set[str]:
        kept = unchanged(project, app, seen)
        subject = subjects.get((project.key, app.module))
        if subject is None:
            return kept
        parts = parts_of(subject, app.flavor)
        if flavor and subject.flavors and not any(same_flavor(flavor, name) for name in parts):
            return kept
        for name, brand in _brands(file, subject, parts, flavor):
            kept |= _said(subject, name, brand, seen)
        return kept

    prove_apps(before, after, allowed)


def _brands(file: IdentityFile, subject: Subject, parts: frozenset[str], flavor: str) -> Iterator[tuple[str, Brand]]:
    """Yield what the file says of an app: of the app itself, and of each of the flavors that it is made of."""
    if not flavor or not subject.flavors:
        yield "", app_as(file, flavor, subject.platform)
    for name in sorted(parts):
        if file.lists(name):
            yield name, file.brand(file.named(name), subject.platform)


def _said(subject: Subject, name: str, brand: Brand, seen: Seen) -> set[str]:
    """Return what a value may become by the words of one brand: they, and what was around the old text."""
    if seen.locale and seen.locale in brand.names:
        return {brand.names[seen.locale].text}
    key = _KEYS[seen.told]
    said, old = brand.get(key), seen.old
    if said is None:
        return set()
    today = subject.text(name, key)
    if old is None or not today:
        return {said}
    if seen.told is Told.ID:
        longer = old.text.startswith(f"{today}.")
        return {said + old.text[len(today) :]} if longer or old.text == today else {said}
    return {said} | ({old.text.replace(today, said, 1)} if today in old.text else set())
