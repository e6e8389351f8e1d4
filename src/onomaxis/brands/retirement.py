"""The end of a flavor: everything that belongs to it alone is taken out, on every platform at once."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Sequence
from dataclasses import replace
from pathlib import PurePosixPath

from onomaxis.brands.documents import homes
from onomaxis.brands.flavors import add_flavor, chosen_subjects, flavor_title
from onomaxis.brands.neighbours import own_paths, staying, without_neighbour
from onomaxis.brands.new_flavor import FlavorWish, called_as, listed_siblings
from onomaxis.brands.subjects import Subject, left_out, load_identity, refuse_unread, umbrellas
from onomaxis.errors import FormatError, OnomaxisError, RefusedError
from onomaxis.flavor_names import same_flavor, selects
from onomaxis.formats.source import SPACE, Source
from onomaxis.identity.file import IdentityFile
from onomaxis.identity.table import without_brand
from onomaxis.model import Edit, Line, Note, ShippedApp
from onomaxis.platforms import PLATFORM_NAMES, PLATFORMS
from onomaxis.projects.draft import Draft
from onomaxis.projects.project import Flavor, Project
from onomaxis.rename.way_back import changes_back, way_back
from onomaxis.surveys.flavors import known_flavor
from onomaxis.surveys.survey import kind_of, read_projects
from onomaxis.tree import Tree
from onomaxis.writing.planned import PlannedChange, Stages
from onomaxis.writing.proof import proved


def plan_retirement(tree: Tree, name: str, app: str = "") -> PlannedChange:
    """Plan the removal of everything that belongs to one flavor alone; no other app is called otherwise after it.

    Raises InputError when nobody knows the flavor, FaultError where the result is not right.
    """
    before = read_projects(tree)
    file = load_identity(tree)
    projects, meant = chosen_subjects(tree, file, app)
    refuse_unread(meant)
    having = [subject for subject in meant if subject.of(name) or subject.combinations(name)]
    listed = file is not None and any(same_flavor(name, known) for known in file.flavors)
    if not having and not listed:
        known_flavor((), name, [flavor for subject in meant for flavor in subject.flavors])
    draft = Draft(notes=left_out(projects, meant, app))
    for subject in having:
        made = () if subject.of(name) else tuple(subject.combinations(name))
        modules = dict.fromkeys(subject.branch(built).module for built in made or (name,))
        flavor = subject.branch(name)._replace(made=made)
        mates = [app.flavor for app in subject.brands if app.module in modules]
        whole = subject.targets and all(selects(name, mate, subject.singles) for mate in mates)
        if whole or not flavor.name:
            what = f"target {', '.join(modules)}" if whole else f"the plain configurations of {flavor.module}"
            said = f"{PLATFORM_NAMES[subject.platform]} builds {name} as {what}"
            way = "Take the target out in Xcode first" if whole else "They are the app itself"
            raise RefusedError(said, remedy=f"{way}; nothing was changed.")
        draft.join(kind_of(subject.project).retire_flavor(subject.project, tree, flavor))
    for umbrella in umbrellas(projects, having):
        draft.join(kind_of(umbrella).retire_flavor(umbrella, tree, Flavor("", name)))
    if file is not None and listed:
        draft.join(_unlisted(tree, file, name))
    stages = Stages(tree)
    stages.add_draft(draft)
    stages.say(Line(subject.platform, f"{name} is gone") for subject in having)
    mine = own_paths(projects, [subject.project for subject in having])
    known_as = (flavor for subject in having for flavor in (*subject.flavors, *subject.singles))
    there = called_as(having, next((flavor for flavor in known_as if same_flavor(flavor, name)), name))
    flavors = [*listed_siblings(tree, having, name), there]
    if having and not _elsewhere(projects, having, name):
        stages.add_draft(without_neighbour(stages.tree, flavors, there.name, mine))
    known = {s.project.key: s.singles for s in having}  # companions of its targets go with it

    def gone(project: Project, shipped: ShippedApp) -> bool:
        flavors = known.get(project.key)
        return flavors is not None and selects(name, shipped.variant, flavors)

    after = read_projects(stages.tree)
    planned = proved(before, after, stages.planned(f"flavor retire: {name}"), gone=gone, drawn=(name,))
    told = {note.file for note in planned.notes}
    left = [n for n in staying(stages.tree, flavors, there, mine) if n.file not in told] if having else []
    notes = (*_own_lines(stages, having, file, there.name), *left)
    return _as_it_was(tree, replace(planned, notes=(*planned.notes, *notes)), name)


def _elsewhere(projects: Sequence[Project], having: Sequence[Subject], name: str) -> bool:
    """Tell whether another app of the tree has a flavor of the name: what all of them read speaks of that one too."""
    keys = {subject.project.key for subject in having}
    rest = (app for project in projects if project.key not in keys for app in project.apps)
    return any(same_flavor(app.flavor, name) for app in rest)


# As many of a file's own lines are named one by one; of more, the count.
_NAMED = 8
_LONGEST_LINE = 120


def _own_lines(stages: Stages, having: Sequence[Subject], file: IdentityFile | None, name: str) -> list[Note]:
    """Name what goes with a flavor and comes back with no new one of its name: lines that people wrote themselves."""
    shown = [app for subject in having for app in subject.of(name)]
    wish = FlavorWish(
        name,
        id=next((app.id.text for app in shown if app.id), ""),
        shown=next((app.name.text for app in shown if app.name), ""),
    )
    again = Stages(stages.tree)
    with contextlib.suppress(OnomaxisError):  # Then nothing is known to come back.
        add_flavor(again, wish)
    made = {change.target: change.after or b"" for change in again.changes if change.source is None}
    notes: list[Note] = []
    for change in stages.changes:
        if change.target is not None or change.source is None or change.link or change.before is None:
            continue
        notes += _own_of(change.source, change.before, made.get(change.source, b""))
    secret = _secrets(file, name)
    return [note._replace(text=_hidden(note.text, secret)) for note in notes]


def _secrets(file: IdentityFile | None, name: str) -> list[str]:
    """Return the texts of a flavor that are not to be shown."""
    if file is None:
        return []
    names = {value.name for value in file.values if value.secret}
    tables = [file.brand(file.named(name), platform).values for platform in PLATFORMS]
    return sorted({said.text for table in tables for key, said in table.items() if key in names and said.text})


def _hidden(text: str, secret: Sequence[str]) -> str:
    for item in secret:
        text = text.replace(item, "••••")
    return text if len(text) <= _LONGEST_LINE else f"{text[:_LONGEST_LINE]}…"


def _own_of(path: str, gone: bytes, made: bytes) -> list[Note]:
    """Return the notes on what a removed file holds beyond what a new flavor's file would."""
    if PurePosixPath(path).suffix == ".xcscheme" or PurePosixPath(path).name == "Contents.json":
        return []  # Xcode's own pen: nobody writes these by hand.
    try:
        lines, usual = _lines(gone), set(_lines(made))
    except FormatError:
        return []  # no text
    own = [(number, line) for number, line in enumerate(lines, 1) if line and line not in usual]
    if len(own) > _NAMED:
        return [Note(path, f"is deleted with the flavor: {len(own)} lines of its own")]
    return [Note(f"{path}:{number}", f"is deleted with the flavor: {line}") for number, line in own]


def _lines(data: bytes) -> list[str]:
    source = Source.read(data)
    return [line.strip(SPACE) for line in source.text(0, len(source.view)).split("\n")]


def _as_it_was(tree: Tree, planned: PlannedChange, name: str) -> PlannedChange:
    """Put the old bytes back where the flavor's addition was the last change and nothing was touched since."""
    entry = way_back(tree, planned)
    if entry is None or entry.title != flavor_title(name):
        return planned
    return replace(planned, changes=changes_back(tree, entry))


def _unlisted(tree: Tree, file: IdentityFile, name: str) -> Draft:
    """Cut a flavor out of the identity file; say where it is not a table with a head of its own."""
    named = file.named(name)
    home = file.home(file.line("flavors", named))
    if home != file.path and home.endswith(".toml") and homes(file)[home] == [named]:
        return Draft(removed=[home])
    draft = Draft(edits=_tables_out(tree, file, name))
    if not draft.edits:
        line = file.line("flavors", file.named(name))
        said = f"{name} is not a table with a head of its own: take it out by hand"
        draft.notes.append(Note(f"{file.home(line)}:{line}", said))
    return draft


def _tables_out(tree: Tree, file: IdentityFile, name: str) -> list[Edit]:
    """Cut a flavor's tables out of the identity file, with the empty line before each."""
    home = file.home(file.line("flavors", file.named(name)))
    data = tree.read(home) or b""
    if not home.endswith(".toml"):
        return [Edit(home, 0, len(data), without_brand(home, data, name), "flavor")]
    quoted = re.escape(file.named(name).encode())
    head = re.compile(
        rb"(?:\r?\n)?^[ \t]*\[flavors\.(?:" + quoted + rb"|\"" + quoted + rb"\")(?:\.[^\]\n]*)?\]", re.MULTILINE
    )
    edits = []
    for match in head.finditer(data):
        following = re.compile(rb"(?:\r?\n)?^[ \t]*\[", re.MULTILINE).search(data, match.end())
        edits.append(Edit(home, match.start(), following.start() if following else len(data), b""))
    return edits
