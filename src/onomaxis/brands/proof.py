"""The proof of a stamp: who is spoken of reads as the identity file says, everyone else as before."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from onomaxis.brands.subjects import Subject, subjects_of
from onomaxis.flavor_names import flavor_word, selects
from onomaxis.identity.file import Brand, IdentityFile
from onomaxis.model import ShippedApp
from onomaxis.projects.project import Project
from onomaxis.writing.proof import Allowed, Seen, Told, unchanged

_KEYS = {Told.ID: "id", Told.NAME: "name", Told.VERSION: "version", Told.BUILD: "build"}


def of_stamp(before: Sequence[Project], file: IdentityFile, flavor: str = "") -> Allowed:
    """Return what a stamp may change: nothing but what *file* speaks of.

    That the flavors that it names read as it says was seen already; no other app, flavor or facet may differ.
    """
    every = subjects_of(file, before)
    subjects = {(s.project.key, module): s for s in every for module in (s.module, *s.targets)}

    def allowed(project: Project, app: ShippedApp, seen: Seen) -> set[str]:
        kept = unchanged(project, app, seen)
        subject = subjects.get((project.key, app.module))
        if subject is None:
            return kept
        app = subject.as_variant(app)
        if flavor and subject.flavors and not selects(flavor, app.flavor, subject.singles):
            return kept
        for name, brand in _brands(file, subject, app.flavor, flavor):
            kept |= _said(subject, name, brand, seen)
        return kept

    return allowed


def _brands(file: IdentityFile, subject: Subject, shipped: str, flavor: str) -> Iterator[tuple[str, Brand]]:
    """Yield what the file says of an app: of the app itself, and of each of the flavors that it is made of."""
    parts = {*subject.singles.parts(shipped), *([shipped] if shipped else [])}
    if not flavor or not subject.flavors:
        yield "", file.as_app(flavor, subject.platform)
    for name in sorted(parts):
        if file.table_of(name, subject.singles):
            yield name, file.variant(name, subject.singles, subject.platform)


def _shown(subject: Subject, name: str, brand: Brand, seen: Seen) -> set[str]:
    """Return what an icon may be called: as another configuration of the flavor, or after it where it has art."""
    own = {app.icon.text for app in subject.of(name) if app.icon is not None} if name else set[str]()
    parts = subject.singles.parts(name) or {name}
    called = seen.new is not None and all(flavor_word(part).search(seen.new.text) for part in parts)
    drawn = bool(brand.icon) and (not name or called)
    return own | ({seen.new.text} if drawn and seen.new is not None else set())


def _said(subject: Subject, name: str, brand: Brand, seen: Seen) -> set[str]:
    """Return what a value may become by the words of one brand: they, and what was around the old text."""
    if seen.locale and seen.locale in brand.names:
        return {brand.names[seen.locale].text}
    if seen.told is Told.ICON:
        return _shown(subject, name, brand, seen)
    key = _KEYS[seen.told]
    said, old = brand.get(key), seen.old
    if said is None:
        return set()
    today, becomes = (
        subject.text(subject.main_of(name) if name else "", key),
        seen.new.text if seen.new is not None else "",
    )
    if old is None or not today:
        return {said}
    if today not in old.text:  # called otherwise than the flavor: it is brought in step with the flavor's others
        return {said, *([becomes] if said in becomes else [])}
    if seen.told is Told.ID:
        longer = old.text.startswith(f"{today}.")
        return {said + old.text[len(today) :]} if longer or old.text == today else {said}
    return {said} | ({old.text.replace(today, said, 1)} if today in old.text else set())
