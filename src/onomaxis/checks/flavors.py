"""Rules about flavors: the same on every platform, apart from each other, nothing of one in the files of another."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

from onomaxis.brands.subjects import Subject
from onomaxis.checks.context import Situation, at, called, of_flavor
from onomaxis.checks.finding import Finding, Rule
from onomaxis.errors import FormatError
from onomaxis.formats.source import Source, flat
from onomaxis.model import ShippedApp
from onomaxis.projects.occurrences import occurrences

_GRADLE = "developer.android.com, Configure build variants"
_XCODE = "Apple, Build settings reference"

HOLE = Rule(
    "FLAVOR01", "error", "The identity file has a flavor that a platform's build lacks",
    "Add it: onomaxis flavor add.", "docs/identity-file.md",
)  # fmt: skip
UNLISTED = Rule(
    "FLAVOR02", "warning", "The build has a flavor that the identity file does not speak of",
    "Add its table, or retire it: onomaxis flavor retire.", "docs/identity-file.md",
)  # fmt: skip
ICONS = Rule(
    "FLAVOR03", "error", "One configuration of a flavor shows another icon than its others",
    "Name the same icon set in each: onomaxis icons --flavor.", _XCODE,
)  # fmt: skip
FOREIGN = Rule(
    "FLAVOR04",
    "error",
    "A flavor's own files bear the ID of another flavor",
    "Change it to the flavor's own.",
    _GRADLE,
)
SCHEME = Rule(
    "FLAVOR05", "warning", "No shared scheme archives the flavor: CI cannot build it",
    "Share a scheme that archives its release configuration.", "Apple, Customizing the build schemes for a project",
)  # fmt: skip
ALIKE = Rule(
    "FLAVOR06", "warning", "Two flavors have the same display name", "Give each a name of its own.", "docs/checks.md"
)
DEFAULT_ICON = Rule(
    "FLAVOR07", "warning", "A flavor shows the app's icon where others show their own",
    "Draw its icons: onomaxis icons --flavor.", _GRADLE,
)  # fmt: skip
RULES = (HOLE, UNLISTED, ICONS, FOREIGN, SCHEME, ALIKE, DEFAULT_ICON)


def check(situation: Situation) -> Iterator[Finding]:
    """Check the flavors of every app."""
    yield from _listed(situation)
    for subject in situation.subjects:
        yield from _alike(subject)
        yield from _foreign(situation, subject)
        if subject.platform == "ios":
            yield from _icons(subject)
            yield from _schemes(situation, subject)


def _listed(situation: Situation) -> Iterator[Finding]:
    file = situation.file
    if file is None:
        return
    flavored = [subject for subject in situation.named if subject.flavors]
    for flavor in file.flavors:
        for subject in flavored:
            if not of_flavor([subject], subject.platform, flavor):
                line = file.line("flavors", flavor)
                yield Finding(
                    HOLE, f"{called(subject.platform, '')} has no flavor {flavor}", ((file.path, line),), flavor
                )
    for subject in flavored:
        for flavor in subject.flavors:
            if file.named(flavor) not in file.flavors and file.flavors:
                value = subject.value(flavor, "id")
                yield Finding(UNLISTED, called(subject.platform, flavor), at(value) or ((file.path, 1),), flavor)


def _alike(subject: Subject) -> Iterator[Finding]:
    """Compare the names of apps that differ in their ID."""
    by_name: dict[str, list[ShippedApp]] = defaultdict(list)
    for app in subject.project.apps:
        if app.module == subject.module and app.flavor and app.name and app.id:
            by_name[app.name.text].append(app)
    for name, apps in by_name.items():
        ids = {app.id.text: app for app in apps if app.id}
        related = [id_ for id_ in ids if any(other != id_ and id_.startswith(f"{other}.") for other in ids)]
        if len(ids) - len(related) > 1:
            *_, last = ids.values()
            first = next(iter(ids.values()))
            said = f"{', '.join(app.flavor for app in ids.values())} are all called “{name}”"
            yield Finding(ALIKE, said, at(first.name, last.name), last.flavor)


def _foreign(situation: Situation, subject: Subject) -> Iterator[Finding]:
    """Search the files of a flavor's own for what other flavors are called by."""
    ids = {flavor: value.text for flavor in subject.flavors if (value := subject.value(flavor, "id"))}
    own_files: dict[str, list[str]] = {}
    for flavor in ids:
        marks = (f"/src/{flavor}/",) if subject.platform == "android" else (f"/{flavor}.xcconfig", f"/{flavor}/")
        inside = f"{subject.project.folder}/" if subject.project.folder else ""
        own_files[flavor] = [
            path
            for path in situation.tree.files
            if path.startswith(inside) and any(mark in f"/{path}" for mark in marks)
        ]
    for flavor, paths in own_files.items():
        # What begins with the flavor's own ID is its own; the app's ID is a part of every suffixed one.
        others = {id_: name for name, id_ in ids.items() if name != flavor and not ids[flavor].startswith(id_)}
        for path in paths:
            data = situation.tree.read(path) or b""
            if not any(id_.encode() in flat(data) for id_ in others):
                continue
            try:
                source = Source.read(data)
                hits = occurrences(path, source, tuple(others), ())
            except FormatError:
                continue
            for hit in hits:
                id_ = hit.identifier
                said = f"{path.rpartition('/')[2]} of {flavor} bears {id_}, the ID of {others[id_]}"
                yield Finding(FOREIGN, said, ((path, source.line(hit.start)),), flavor)


def _icons(subject: Subject) -> Iterator[Finding]:
    for flavor in subject.flavors:
        apps = subject.of(flavor)
        names = {app.icon.text if app.icon else "" for app in apps}
        if len(names) < 2:
            continue
        archived = apps[0].icon.text if apps[0].icon else "none"
        for app in apps[1:]:
            mine = app.icon.text if app.icon else "none"
            if mine != archived:
                spots = at(app.icon) or at(apps[0].icon)
                yield Finding(
                    ICONS, f"{app.configuration} shows {mine}, {apps[0].configuration} {archived}", spots, flavor
                )


def _schemes(situation: Situation, subject: Subject) -> Iterator[Finding]:
    inside = f"{subject.project.folder}/" if subject.project.folder else ""
    texts = [
        (situation.tree.read(path) or b"").decode("utf-8", "replace")
        for path in situation.tree.files
        if path.endswith(".xcscheme") and path.startswith(inside)
    ]
    for flavor in subject.flavors if texts else ():
        names = {app.configuration for app in subject.of(flavor)}
        if not any(f'"{name}"' in text.partition("<ArchiveAction")[2] for text in texts for name in names):
            yield Finding(SCHEME, called("ios", flavor), at(subject.value(flavor, "id")), flavor)


def default_icons(situation: Situation, own: set[tuple[str, str]]) -> Iterator[Finding]:
    """Yield flavors without an icon of their own; *own* are platform and flavor of those that have one."""
    for subject in situation.named or situation.subjects:
        having = [flavor for flavor in subject.flavors if (subject.platform, flavor.casefold()) in own]
        for flavor in subject.flavors if having else ():
            listed = situation.file is None or situation.file.named(flavor) in situation.file.flavors
            ids = subject.value(flavor, "id")
            if flavor not in having and listed and ids and ids.text != (subject.text("", "id") or ""):
                yield Finding(DEFAULT_ICON, called(subject.platform, flavor), at(ids), flavor)
