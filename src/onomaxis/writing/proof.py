"""The proof of a change before it is written: its files read as before, and apps are called what was meant."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Collection, Iterable, Iterator, Sequence
from dataclasses import replace
from enum import StrEnum
from typing import NamedTuple, TypeVar

from onomaxis import late
from onomaxis.errors import FaultError, FormatError, RefusedError
from onomaxis.flavor_names import made_of
from onomaxis.formats.source import detect_encoding, looks_binary
from onomaxis.model import HIDDEN_PARTS, Facet, Part, Role, ShippedApp, Value
from onomaxis.projects.ownership import is_service_file
from onomaxis.projects.project import Project, flavors_together
from onomaxis.surveys.identity import identity_of
from onomaxis.wishes import Renaming
from onomaxis.writing.change import FileChange
from onomaxis.writing.planned import PlannedChange
from onomaxis.writing.structure import WORDY, structure_of

# What identifiers, versions and numbers are made of: no syntax gives these a meaning of their own in a value.
_WORD = late.compile(rb"[A-Za-z0-9_.-]++")


def prove_files(changes: Sequence[FileChange]) -> None:
    """Make sure that every edited file decodes and parses as it did before. Raises FaultError with file and line."""
    for change in changes:
        before, after = change.before, change.after
        if change.link or before is None or after is None or not change.edited:
            continue
        path = change.target or ""
        if looks_binary(before):
            continue
        if not path.endswith(WORDY) and _same_marks(before, after):
            continue  # words became words and nothing else: every mark, quote and line end stands where it stood
        was, now = detect_encoding(before), detect_encoding(after)
        if was != now and not (before.isascii() or after.isascii()):  # the one letter beyond ASCII may have gone
            raise fault(path, 1, f"its encoding would change from {was[0]} to {now[0]}")
        structure = structure_of(change.source or path)
        if structure is None:
            continue
        try:
            old = structure(before)
        except (FormatError, RecursionError):
            continue  # it was not readable before
        try:
            new = structure(after)
        except (FormatError, RecursionError) as error:
            line = error.line if isinstance(error, FormatError) else 1
            raise fault(path, line, f"it could no longer be read ({error})") from None
        if new - old:
            raise fault(path, 1, min(new - old)[0])


def _same_marks(before: bytes, after: bytes) -> bool:
    """Tell whether two texts differ in words alone, which lie within lines."""
    one, other = before.split(b"\n"), after.split(b"\n")
    pairs = zip(one, other, strict=False)
    return len(one) == len(other) and all(a == b or _WORD.sub(b"w", a) == _WORD.sub(b"w", b) for a, b in pairs)


def fault(path: str, line: int, message: str) -> FaultError:
    """Return the error for a change that is not right at a place: nothing was changed."""
    return FaultError(
        f"the change would not be right: {message}",
        file=path,
        line=line,
        remedy="Nothing was changed. This is a fault of Onomaxis: change this place by hand first.",
    )


def prove_nothing_left(changes: Sequence[FileChange]) -> None:
    """Make sure that a second plan, made from the result of the first, is empty. Raises FaultError at the place."""
    for change in changes:
        before, after = change.before or b"", change.after or b""
        first = next((at for at, (a, b) in enumerate(zip(before, after, strict=False)) if a != b), len(before))
        path = change.target or change.source or ""
        line = before.count(b"\n", 0, first) + 1
        raise fault(path, line, "the change would be incomplete: the same command would change this file again")


# -- what the apps are called


class Told(StrEnum):
    """What is told of a shipped app, as messages call it."""

    ID = "the ID"
    NAME = "the name"
    VERSION = "the version"
    BUILD = "the build number"
    ICON = "the icon"


class Seen(NamedTuple):
    """One thing told of an app (or of *part*, embedded in it; or in the language *locale*), before and after."""

    told: Told
    old: Value | None
    new: Value | None
    part: Part | None = None
    locale: str = ""

    @property
    def label(self) -> str:
        """How a message speaks of it."""
        said = f"the {self.locale} name" if self.locale else str(self.told)
        return f"{said} of {self.part.target}" if self.part is not None else said


_Planned = TypeVar("_Planned", bound=PlannedChange)
Allowed = Callable[[Project, ShippedApp, Seen], set[str]]
Gone = Callable[[Project, ShippedApp], bool]


def unchanged(project: Project, app: ShippedApp, seen: Seen) -> set[str]:
    """Allow what a value was before, and nothing else."""
    return {seen.old.text} if seen.old is not None else set()


def none_gone(project: Project, app: ShippedApp) -> bool:
    """Allow no app to ship no more."""
    return False


def proved(
    before: Sequence[Project],
    after: Sequence[Project],
    plan: _Planned,
    allowed: Allowed = unchanged,
    gone: Gone = none_gone,
    first: Callable[[], None] = lambda: None,
    drawn: Collection[str] | None = (),
) -> _Planned:
    """Prove a plan by what its result reads as, and return it with what all apps are called before and after.

    *after* are the projects of the tree that it leads to. Every edited file reads as before, and every app, shipped
    or in any flavor and configuration, is called as before or as is *allowed*; a framework's own files say of it what
    its apps say. *first* looks at what must read otherwise than before. Pictures and service files stay as they are,
    but those of the flavors in *drawn* (the app itself is empty; None: all may change). Raises FaultError with file
    and line.
    """
    prove_files(plan.changes)
    _refuse_shared(before, after)
    first()
    prove_apps(before, after, allowed, gone)
    _prove_frameworks(before, after)
    if drawn is not None:
        _prove_pictures(before, plan.changes, drawn)
    return replace(plan, called_before=identity_of(before), called_after=identity_of(after))


def _refuse_shared(before: Sequence[Project], after: Sequence[Project]) -> None:
    """Refuse to give an app the ID that another flavor of the same app has: a store would take one for the other."""
    ids = {(p.key, *_key(app)): app.id.text for p in before for app in p.apps if app.id is not None}
    for project in after:
        known: dict[tuple[str, str], ShippedApp] = {}

        def is_new(app: ShippedApp, project: Project = project) -> bool:
            return app.id is None or ids.get((project.key, *_key(app))) != app.id.text

        for app in sorted(project.apps, key=is_new):
            if app.id is None or not app.flavor or app.platform != project.platform:
                continue
            other = known.setdefault((app.module, app.id.text), app)
            were = {ids.get((project.key, *_key(item))) for item in (app, other)}
            if is_new(app) and other.flavor != app.flavor and (len(were) > 1 or None in were):
                raise RefusedError(
                    f"{app.flavor} would have the ID {app.id.text}, and so has {other.flavor}",
                    file=app.id.origin.file,
                    line=app.id.origin.line,
                    remedy="Give each an ID of its own; nothing was changed.",
                )


def prove_apps(
    before: Sequence[Project], after: Sequence[Project], allowed: Allowed = unchanged, gone: Gone = none_gone
) -> None:
    """Compare what every app is called after a change with what it was called and with what is *allowed*.

    Those are the apps that ship, and each single flavor in every configuration; not the app itself where only its
    flavors ship. *gone* tells which may be no more. Raises FaultError with file and line.
    """
    by_key = {project.key: project for project in after}
    for project in before:
        if project.umbrella:
            continue
        now = by_key.get(project.key)
        later = {_key(app): app for app in (*now.brands(), *now.apps)} if now else {}
        for app in _every(project):
            if _key(app) in later:
                _prove_app(project, app, later[_key(app)], allowed)
            elif not gone(project, app):
                raise fault(project.folder or ".", 1, f"{_called(app)} would no longer be built")


def _prove_frameworks(before: Sequence[Project], after: Sequence[Project]) -> None:
    """Make sure that what a framework's files say of an app, and say otherwise than before, is what that app says.

    Its own tools copy it back into the native halves. What is said of a variant that only those files know stays, or
    goes on from an app's ID as before.
    """
    said: dict[str, set[str]] = defaultdict(set)
    for app in (app for project in after if not project.umbrella for app in (*project.brands(), *project.apps)):
        said[app.flavor.casefold()].update(_texts(app))
    every = set().union(*said.values())
    ids = {(project.key, *_key(app)): app.id.text for project in after for app in project.apps if app.id is not None}
    renamed = {
        Renaming(Facet.APPLICATION_ID, app.id.text, become)
        for project in before
        for app in project.apps
        if app.id is not None and (become := ids.get((project.key, *_key(app)), app.id.text)) != app.id.text
    }
    later = {(project.kind, project.folder): _stated(project) for project in after if project.umbrella}
    for project in before:
        now = later.get((project.kind, project.folder), {})
        for key, old in _stated(project).items() if project.umbrella else ():
            if len(now.get(key, ())) < len(old) and not key[2]:
                raise fault(old[0].origin.file, old[0].origin.line, f"the {key[0]} could no longer be determined")
            texts = said[key[2].casefold()] if key[2] else every
            for was, new in zip(old, now.get(key, ()), strict=False):
                if new.text not in (was.text, *texts, *(item.apply(was.text) for item in renamed)):
                    message = f"the {key[0]} would be “{new.text}” here, which no app would be"
                    raise fault(new.origin.file, new.origin.line, message)


def _stated(project: Project) -> dict[tuple[Facet, str, str, str], list[Value]]:
    """Return what a framework's files say, by facet, platform, flavor and language."""
    found: dict[tuple[Facet, str, str, str], list[Value]] = {}
    for owner in project.owners:
        if owner.owner is not None and owner.role is Role.OWNER and owner.facet in _STATED:
            key = (owner.facet, owner.scope.platform, owner.scope.flavor, owner.scope.locale)
            found.setdefault(key, []).append(owner.owner)
    return found


_STATED = (Facet.APPLICATION_ID, Facet.BUNDLE_ID, Facet.DISPLAY_NAME, Facet.VERSION_NAME, Facet.VERSION_CODE)


def _texts(app: ShippedApp) -> Iterator[str]:
    values = (app.id, app.name, app.version, app.build, *(value for _, value in app.names))
    yield from (value.text for value in values if value is not None)


def _prove_pictures(projects: Sequence[Project], changes: Sequence[FileChange], drawn: Collection[str]) -> None:
    """Make sure that no picture and no service file changes but those of some flavors."""
    names = {name.casefold() for name in drawn}
    homes = sorted((home.folder, home.flavor) for project in projects for home in project.icons if home.folder)
    known = flavors_together(projects)
    flavors = {
        *known,
        *(name for project in projects for name in (*project.built, *(a.flavor for a in project.apps))),
    }
    for change in changes:
        path = change.source or ""
        if change.before is None or change.link or (change.after == change.before):
            continue
        if not (path.lower().endswith(_PICTURES) or is_service_file(path)):
            continue
        own = {flavor for folder, flavor in homes if path.startswith(f"{folder}/")}
        own |= {flavor for flavor in flavors if flavor and f"/src/{flavor}/" in f"/{path}"}
        parts = {part.casefold() for flavor in own for part in (flavor, *known.parts(flavor))}
        if not (names & parts if own else names):
            whose = next((f"{flavor}'s" for flavor in own if flavor), "a picture or a service file")
            raise fault(path, 1, f"{whose} would change here, which was not asked for")


# What pictures are told by; drawings in text may name the app.
_PICTURES = (".png", ".webp", ".jpg", ".jpeg", ".gif", ".ico", ".icns", ".heic", ".pdf")


def _every(project: Project) -> Iterable[ShippedApp]:
    """Return the apps that ship, and those of every flavor in the configurations that do not.

    What does not ship as itself is left out, the app without a flavor beside its flavors, a flavor that is only a
    part of combinations: what ships of it is looked at.
    """
    brands = project.brands()
    names = {app.flavor for app in brands}
    parts = {(app.module, part) for app in project.apps for part in made_of(app.flavor, names) if len(names) > 1} - {
        (app.module, app.flavor) for app in project.apps
    }
    alone = {app.module for app in project.apps if not app.flavor}
    kept = [app for app in brands if (app.module, app.flavor) not in parts and (app.flavor or app.module in alone)]
    return {_key(app): app for app in (*kept, *project.apps)}.values()


def _prove_app(project: Project, app: ShippedApp, later: ShippedApp, allowed: Allowed) -> None:
    for seen in _seen(app, later):
        new, old = seen.new, seen.old
        if new is not None and new.text not in (wanted := allowed(project, app, seen)):
            shown = " or ".join(f"“{text}”" for text in sorted(wanted)) or "no value"
            message = f"{seen.label} of {_called(app)} would be “{new.text}”, not {shown}"
            raise fault(new.place.file, new.place.line, message)
        if new is None and old is not None:
            raise fault(
                old.place.file, old.place.line, f"{seen.label} of {_called(app)} could no longer be determined"
            )


def _seen(old: ShippedApp, new: ShippedApp) -> Iterator[Seen]:
    """Yield everything that is told of an app, of its names in every language, and of what is embedded in it."""
    yield Seen(Told.ID, old.id, new.id)
    yield Seen(Told.NAME, old.name, new.name)
    yield Seen(Told.VERSION, old.version, new.version)
    yield Seen(Told.BUILD, old.build, new.build)
    yield Seen(Told.ICON, old.icon, new.icon)
    names, later = dict(old.names), dict(new.names)
    for locale in dict.fromkeys([*names, *later]):
        yield Seen(Told.NAME, names.get(locale), later.get(locale), locale=locale)
    parts = {part.target: part for part in new.parts}
    for part in old.parts:
        now = parts.get(part.target)
        if now is not None and part.kind not in HIDDEN_PARTS:
            yield Seen(Told.ID, part.id, now.id, part)
            yield Seen(Told.NAME, part.name, now.name, part)
            yield Seen(Told.VERSION, part.version, now.version, part)
            yield Seen(Told.BUILD, part.build, now.build, part)


def _key(app: ShippedApp) -> tuple[str, ...]:
    return app.platform, app.module, app.flavor.casefold(), app.configuration


def _called(app: ShippedApp) -> str:
    return " ".join(filter(None, (app.platform, app.module, app.flavor)))
