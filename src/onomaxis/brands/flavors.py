"""Flavors of the build systems: a new one on every platform at once, and the end of one."""

from __future__ import annotations

import json
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from onomaxis.brands.facets import Stamping, refuse
from onomaxis.brands.subjects import FACETS, Subject, load_identity, subjects, subjects_of
from onomaxis.errors import FaultError, InputError, RefusedError
from onomaxis.identity import rules
from onomaxis.identity.file import IdentityFile
from onomaxis.identity.reserved import JAVA
from onomaxis.identity.schema import PLATFORMS
from onomaxis.model import Edit, same_flavor
from onomaxis.projects.draft import join_created
from onomaxis.projects.project import Draft, Flavor, Project
from onomaxis.rename.rename import changed_tree, identity, way_back
from onomaxis.survey.survey import kind_of, read_projects, some_projects, umbrella_of
from onomaxis.tree import Tree
from onomaxis.writing.undo import undo_changes

# developer.android.com, "Configure build variants": names that source sets and build types have already.
_TAKEN = ("main", "test", "androidTest", "debug", "release", "profile", "all", "default")


@dataclass(frozen=True)
class FlavorWish:
    """A flavor to be: its name, what it is called (an empty field comes from the identity file, or the app's).

    A build that has no flavors yet builds nothing but flavors from its first one on: ``keep`` names the flavor that
    the app goes on as, ``only`` says that it shall not.
    """

    name: str
    id: str = ""
    suffix: str = ""
    shown: str = ""
    app: str = ""
    platforms: tuple[str, ...] = ()
    keep: str = ""
    only: bool = False


def check_flavor_name(name: str) -> str:
    """Check that every build system can bear a flavor's name. Raises InputError."""
    if not re.fullmatch(r"[a-z][A-Za-z0-9_]*", name) or name in JAVA:
        raise InputError(
            f"“{name}” cannot name a flavor: it begins with a small letter, then letters, digits and underscores, "
            "and is no word of Java"
        )
    if name in _TAKEN or name.startswith(("test", "androidTest")):
        raise InputError(f"“{name}” cannot name a flavor: the build tool uses the word itself")
    return name


def chosen_subjects(
    tree: Tree, file: IdentityFile | None, app: str = ""
) -> tuple[list[Project], tuple[Subject, ...]]:
    """Return the projects of a tree and the apps that are meant: those of the identity file, else the only ones."""
    projects = some_projects(tree)
    if file is not None and not app:
        return projects, subjects_of(file, projects)
    return projects, subjects(projects, {platform: app for platform in PLATFORMS if app})


def plan_flavor(tree: Tree, wish: FlavorWish) -> Stamping:
    """Plan a new flavor on every platform that lacks it. Raises InputError or RefusedError."""
    check_flavor_name(wish.name)
    file = load_identity(tree)
    projects, meant = chosen_subjects(tree, file, wish.app)
    stamping = Stamping(tree)
    lacking = [s for s in meant if not s.of(wish.name) and (not wish.platforms or s.platform in wish.platforms)]
    built = [s for s in lacking if s.project.kind in PLATFORMS]
    _refuse_clash(meant, lacking, file, wish)
    if _keep_app(stamping, built, wish):
        later = read_projects(stamping.tree)
        projects = [next((p for p in later if p.key == project.key), project) for project in projects]
        built = [replace(s, project=next(p for p in later if p.key == s.project.key)) for s in built]
    tree = stamping.tree
    draft = Draft()
    for subject in built:
        flavor = Flavor(subject.module, wish.name)
        found = kind_of(subject.project).add_flavor(
            subject.project, tree, flavor, _wanted_id(file, subject, wish), _wanted_name(file, subject, wish)
        )
        _take(draft, found)
        stamping.summary.append(f"{subject.platform} {wish.name}: {_wanted_id(file, subject, wish)}")
    for umbrella in _umbrellas(projects, built):
        _take(draft, kind_of(umbrella).add_flavor(umbrella, tree, Flavor("", wish.name), "", ""))
    if file is not None and not any(same_flavor(wish.name, name) for name in file.flavors):
        draft.edits.append(_appended(tree, file, _table(meant, wish)))
    for subject in lacking:
        if subject not in built:
            draft.notes.append(
                f"{subject.project.folder or '.'}: {subject.project.kind} has no flavors: it is stamped"
            )
    stamping.do_draft(draft)
    _name_it(stamping, built, file, wish)
    return stamping


def _keep_app(stamping: Stamping, built: Sequence[Subject], wish: FlavorWish) -> bool:
    """Make the app as it is a flavor of its own where a build gets its first one; tell whether any was made.

    Source: developer.android.com, "Configure build variants": with flavors, every variant is one of a flavor.
    """
    bare = [subject for subject in built if subject.platform == "android" and not subject.flavors]
    if wish.keep and not bare:
        stamping.notes.append(f"--keep-app-as {wish.keep}: no build gets its first flavor here; nothing to keep")
    if not bare or (wish.only and not wish.keep):
        return False
    if not wish.keep:
        first = bare[0]
        raise RefusedError(
            f"{first.project.folder or first.module} has no flavors yet: from the first one on only flavors are "
            f"built, and the app itself ({first.text('', 'id')}) would ship no more",
            remedy="Name the flavor that it goes on as with --keep-app-as NAME (its ID and name stay), "
            "or pass --only-flavors.",
        )
    check_flavor_name(wish.keep)
    if same_flavor(wish.keep, wish.name):
        raise InputError(f"--keep-app-as {wish.keep} is the new flavor's own name")
    draft = Draft()
    for subject in bare:
        flavor = Flavor(subject.module, wish.keep)
        _take(draft, kind_of(subject.project).add_flavor(subject.project, stamping.tree, flavor, "", ""))
        stamping.summary.append(f"{subject.platform} {wish.keep}: {subject.text('', 'id')} (the app as it is)")
    stamping.do_draft(draft)
    for subject in bare:
        project = next(p for p in read_projects(stamping.tree) if p.key == subject.project.key)
        later = Subject(project, subject.platform, subject.module)
        for key in ("id", "name", "version", "build"):
            if later.text(wish.keep, key) != subject.text("", key):
                raise FaultError(f"the {key} of the app would change; nothing was changed")
    return True


def _refuse_clash(
    meant: Sequence[Subject], lacking: Sequence[Subject], file: IdentityFile | None, wish: FlavorWish
) -> None:
    """Refuse an ID that another flavor has: the two could not be installed or published side by side."""
    for subject in lacking:
        new = _wanted_id(file, subject, wish)
        if not new:
            raise InputError(
                f"the {subject.platform} app's ID cannot be told", remedy="Say what the flavor's is with --id."
            )
        (rules.bundle_id if subject.platform == "ios" else rules.android_id)(new)
        for app in subject.project.apps:
            if app.id and app.id.text == new:
                where = f"{app.flavor or 'the app itself'}"
                raise RefusedError(
                    f"{where} has the ID {new} already", file=app.id.place.file, line=app.id.place.line
                )
    if wish.shown:
        rules.display_name(wish.shown, any(subject.platform == "ios" for subject in lacking))


def _wanted_id(file: IdentityFile | None, subject: Subject, wish: FlavorWish) -> str:
    if wish.id:
        return wish.id
    base = subject.text("", "id") or ""
    said = _said(file, subject, wish, "id")
    if said and said != base and not wish.suffix:
        return said
    suffix = wish.suffix or "." + re.sub(r"[^a-z0-9]", "", wish.name.lower())
    return base + suffix if base else ""


def _wanted_name(file: IdentityFile | None, subject: Subject, wish: FlavorWish) -> str:
    return wish.shown or _said(file, subject, wish, "name") or ""


def _said(file: IdentityFile | None, subject: Subject, wish: FlavorWish, key: str) -> str | None:
    known = file is not None and any(same_flavor(wish.name, name) for name in file.flavors)
    return file.brand(wish.name, subject.platform).get(key) if known and file is not None else None


def _take(draft: Draft, found: Draft) -> None:
    draft.edits += found.edits
    draft.refusals += found.refusals
    draft.notes += found.notes
    join_created(draft, found)


def _umbrellas(projects: Sequence[Project], built: Sequence[Subject]) -> list[Project]:
    above = [umbrella_of(projects, subject.project) for subject in built]
    return list({item.key: item for item in above if item is not None}.values())


def _name_it(stamping: Stamping, built: Sequence[Subject], file: IdentityFile | None, wish: FlavorWish) -> None:
    """Give the new flavor the ID and name that its structure did not bring along."""
    projects = {project.key: project for project in read_projects(stamping.tree)}
    draft = Draft()
    for before in built:
        project = projects[before.project.key]
        subject = Subject(project, before.platform, before.module)
        for key, wanted in (("id", _wanted_id(file, before, wish)), ("name", _wanted_name(file, before, wish))):
            if wanted and subject.text(wish.name, key) != wanted:
                facet = FACETS[key][subject.platform]
                flavor = Flavor(subject.module, wish.name)
                _take(draft, kind_of(project).own_facet(project, stamping.tree, flavor, facet, wanted))
    stamping.do_draft(draft)
    for project in read_projects(stamping.tree):
        for before in built:
            subject = Subject(project, before.platform, before.module)
            wanted = _wanted_id(file, before, wish)
            if project.key == before.project.key and subject.text(wish.name, "id") != wanted:
                got = subject.text(wish.name, "id")
                raise RefusedError(
                    f"the {subject.platform} flavor would be called {got}, not {wanted}",
                    file=project.folder or ".",
                    remedy="Its ID comes from a place that all flavors share; nothing was changed.",
                )


def _table(meant: Sequence[Subject], wish: FlavorWish) -> str:
    lines = [f"[flavors.{wish.name}]"]
    if wish.id:
        lines.append(f"id = {json.dumps(wish.id)}")
    else:
        suffix = wish.suffix or "." + re.sub(r"[^a-z0-9]", "", wish.name.lower())
        lines.append(f"id-suffix = {json.dumps(suffix)}")
    lines += [f"name = {json.dumps(wish.shown, ensure_ascii=False)}"] if wish.shown else []
    return "\n".join(lines)


def _appended(tree: Tree, file: IdentityFile, table: str) -> Edit:
    data = tree.read(file.path) or b""
    newline = "\r\n" if b"\r\n" in data else "\n"
    lead = newline if data.endswith(b"\n") else newline * 2
    text = lead + table.replace("\n", newline) + newline
    return Edit(file.path, len(data), len(data), text.encode("utf-8"), "flavor")


# -- the end of a flavor


def plan_retirement(tree: Tree, name: str, app: str = "") -> Stamping:
    """Plan the removal of everything that belongs to one flavor alone. Raises InputError when nobody knows it."""
    file = load_identity(tree)
    projects, meant = chosen_subjects(tree, file, app)
    having = [subject for subject in meant if subject.of(name)]
    listed = file is not None and any(same_flavor(name, known) for known in file.flavors)
    if not having and not listed:
        known = sorted({flavor for subject in meant for flavor in subject.flavors})
        raise InputError(
            f"there is no flavor “{name}” here",
            remedy=f"The flavors are: {', '.join(known)}." if known else "The project has no flavors.",
        )
    draft, gone = Draft(), list[str]()
    for subject in having:
        found, files = kind_of(subject.project).retire_flavor(subject.project, tree, Flavor(subject.module, name))
        _take(draft, found)
        gone += files
    for umbrella in _umbrellas(projects, having):
        found, files = kind_of(umbrella).retire_flavor(umbrella, tree, Flavor("", name))
        _take(draft, found)
        gone += files
    if file is not None and listed:
        tables = _tables_out(tree, file, name)
        draft.edits += tables
        if not tables:
            line = file.line("flavors", file.named(name))
            draft.notes.append(f"{file.path}:{line}: {name} is no table with a head of its own: take it out by hand")
    refuse(draft)
    stamping = Stamping(tree)
    stamping.do_draft(draft, removed=dict.fromkeys(gone))
    _prove_others(meant, stamping.tree, name)
    stamping.summary += [f"{subject.platform}: {name} is gone" for subject in having]
    return _as_it_was(tree, projects, stamping, name)


def _as_it_was(tree: Tree, projects: Sequence[Project], stamping: Stamping, name: str) -> Stamping:
    """Put the old bytes back where the flavor's addition was the last change and nothing was touched since."""
    entry = way_back(tree, projects, identity(read_projects(stamping.tree)))
    if entry is None or entry.title != flavor_title(name):
        return stamping
    changes = tuple(c for c in undo_changes(tree.root, entry) if c.edited or c.moved)
    return Stamping(changed_tree(tree, changes), changes, stamping.edits, stamping.notes, stamping.summary)


def flavor_title(name: str) -> str:
    """Return what the journal calls the addition of a flavor."""
    return f"flavor add: {name}"


def _prove_others(meant: Sequence[Subject], later: Tree, name: str) -> None:
    """Make sure that every other flavor is called what it was."""
    after = {project.key: project for project in read_projects(later)}
    for subject in meant:
        project = after.get(subject.project.key)
        now = Subject(project, subject.platform, subject.module) if project else None
        for flavor in ("", *subject.flavors):
            for key in ("id", "name", "version", "build"):
                if same_flavor(flavor, name) or (not flavor and not subject.of("")):
                    continue
                if now is None or now.text(flavor, key) != subject.text(flavor, key):
                    raise FaultError(f"the {key} of {flavor or 'the app'} would change; nothing was changed")


def _tables_out(tree: Tree, file: IdentityFile, name: str) -> list[Edit]:
    """Cut a flavor's tables out of the identity file, with the empty line before each."""
    data = tree.read(file.path) or b""
    quoted = re.escape(file.named(name).encode())
    head = re.compile(
        rb"(?:\r?\n)?^[ \t]*\[flavors\.(?:" + quoted + rb"|\"" + quoted + rb"\")(?:\.[^\]\n]*)?\]", re.MULTILINE
    )
    edits = []
    for match in head.finditer(data):
        following = re.compile(rb"(?:\r?\n)?^[ \t]*\[", re.MULTILINE).search(data, match.end())
        edits.append(Edit(file.path, match.start(), following.start() if following else len(data), b""))
    return edits
