"""Flavors of the build systems: a new one on every platform at once, and the end of one."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import replace

from onomaxis import late
from onomaxis.brands.brand_table import table_of
from onomaxis.brands.documents import with_brand
from onomaxis.brands.facets import is_template
from onomaxis.brands.neighbours import Wanted, as_neighbours, lacking_files, own_paths, suggested
from onomaxis.brands.new_flavor import (
    FlavorWish,
    as_sibling,
    listed_as,
    listed_siblings,
    new_flavor,
    wanted_id,
    wanted_name,
)
from onomaxis.brands.owed import owed_values
from onomaxis.brands.services import ServiceWish
from onomaxis.brands.stamp import Tick, beside, put_services, stamp
from onomaxis.brands.subjects import (
    FACETS,
    Subject,
    left_out,
    load_identity,
    refuse_unread,
    subjects,
    subjects_called,
    subjects_of,
    umbrellas,
)
from onomaxis.errors import FaultError, InputError, RefusedError
from onomaxis.flavor_names import same_flavor
from onomaxis.identity import rules
from onomaxis.identity.file import IdentityFile
from onomaxis.identity.reserved import JAVA
from onomaxis.identity.schema import FLAVOR
from onomaxis.model import Line, Note
from onomaxis.platforms import PLATFORM_NAMES, PLATFORMS
from onomaxis.projects.draft import Draft
from onomaxis.projects.neighbours.literals import literals
from onomaxis.projects.neighbours.twins import plain_key
from onomaxis.projects.project import Flavor, Project
from onomaxis.surveys.flavors import known_flavor
from onomaxis.surveys.survey import kind_of, read_projects, some_projects
from onomaxis.tree import Tree
from onomaxis.writing.planned import PlannedChange, Stages, with_notes
from onomaxis.writing.proof import prove_nothing_left, proved

# developer.android.com, "Configure build variants": names that source sets and build types have already.
_TYPES = ("debug", "release", "profile")
_TAKEN = ("main", "test", "androidTest", *_TYPES, "all", "default")


def check_flavor_name(name: str, gradle: bool) -> None:
    """Check that the build systems can bear a flavor's name: any, and Gradle where it is one of them.

    Raises InputError.
    """
    if gradle and (not re.fullmatch(r"[a-z][A-Za-z0-9_]*", name) or name in JAVA):
        raise InputError(
            f"“{name}” cannot name a flavor: it begins with a small letter, then letters, digits and underscores, "
            "and is not a word of Java"
        )
    if gradle and (name in _TAKEN or name.startswith(("test", "androidTest"))):
        raise InputError(f"“{name}” cannot name a flavor: the build tool uses the word itself")
    if not FLAVOR.match(name) or name.casefold() in _TYPES:
        raise InputError(
            f"“{name}” cannot name a flavor: it begins with a letter or a digit, and is not a build type"
        )


def chosen_subjects(
    tree: Tree, file: IdentityFile | None, app: str = ""
) -> tuple[list[Project], tuple[Subject, ...]]:
    """Return the projects of a tree and the apps that are meant: those of the identity file, else the only ones."""
    projects = some_projects(tree)
    if file is not None and not app:
        return projects, subjects_of(file, projects)
    return projects, subjects_called(projects, app) if app else subjects(projects)


def flavor_title(name: str) -> str:
    """Return what the journal calls the addition of a flavor."""
    return f"flavor add: {name}"


def plan_flavor(tree: Tree, wish: FlavorWish, tick: Tick | None = None) -> PlannedChange:
    """Plan a new flavor on every platform that lacks it.

    The result is read again: the flavor is called as wished, every app that shipped ships as before, and the same
    wish would change nothing more. Raises InputError or RefusedError; FaultError where the result is not right.
    """
    before = read_projects(tree)
    stages, bare = Stages(tree), _lacking_any(tree, wish)
    add_flavor(stages, wish)
    projects, meant = chosen_subjects(stages.tree, load_identity(stages.tree), wish.app)
    put_services(stages, _service_wishes(wish, meant))
    stamped = _stamp(stages, wish, tick)
    if wish.art and not (stamped and wish.briefing.table):
        _draw(stages, meant, wish, tick)
    planned = stages.planned(flavor_title(wish.name), f"Nothing to change: every platform has flavor {wish.name}.")
    if planned.empty:
        return planned
    after = read_projects(stages.tree)
    planned = proved(
        before,
        after,
        planned,
        gone=lambda project, app: not app.flavor and (project.key, app.module) in bare,
        drawn=(wish.name,),
    )
    again = Stages(stages.tree)
    add_flavor(again, wish)
    _, later = chosen_subjects(again.tree, load_identity(again.tree), wish.app)
    put_services(again, _service_wishes(wish, later))
    prove_nothing_left(again.changes)
    siblings = listed_siblings(stages.tree, meant, wish.name)
    mine = own_paths(projects, [subject.project for subject in meant])
    wanted = Wanted(listed_as(load_identity(stages.tree), meant, wish), siblings, wish.like, wish.given)
    seen = list(suggested(stages.tree, wanted, mine))
    notes = [note for _, said in seen for note in said]
    notes += _said_otherwise(after, wish.name)
    notes += lacking_files(stages.tree, wanted, mine)
    marks = owed_values(stages.tree, (wish.name, *(item.name for item in siblings))).get(wish.name, [])
    planned = replace(
        planned,
        owed=(*marks, *(item for item in planned.owed if item.kept)),
        proposed=tuple(item for item, _ in seen if item.edited),
    )
    return with_notes(planned, [*notes, *_unused(wish, planned)])


def _said_otherwise(projects: Sequence[Project], flavor: str) -> Iterator[Note]:
    """Say where a framework's file has another ID for a flavor than its builds."""
    for item in (item for project in projects for item in project.disagreements):
        if item.flavor == flavor and item.code == "framework-id-differs":
            file, line = item.at[0]
            yield Note(f"{file}:{line}", f"{item.message}: write it alike by hand")


def _service_wishes(wish: FlavorWish, subjects: Sequence[Subject]) -> list[ServiceWish]:
    return [ServiceWish(name, data, wish.name, tuple(subjects)) for name, data in wish.services]


def _stamp(stages: Stages, wish: FlavorWish, tick: Tick | None) -> bool:
    """Let the new flavor be what the identity file says of it; what forbids that is said, but for a briefing's.

    Where no build knows flavors the tree would become the new one: that is another command's.
    """
    file = load_identity(stages.tree)
    if file is None or any(is_template(item, wish.name) for item in subjects_of(file, read_projects(stages.tree))):
        return False
    try:
        stages.add_plan(stamp(stages.tree, wish.name, tick=tick))
    except (InputError, RefusedError) as error:
        if wish.briefing.table:
            raise
        stages.note([Note(f"{error.file}:{error.line}" if error.line else error.file or ".", error.message)])
        return False
    return True


def _unused(wish: FlavorWish, planned: PlannedChange) -> Iterator[Note]:
    """Say which of the values that were given stand nowhere under their names."""
    lines = [line for item in planned.changes for line in (item.after or b"").decode("utf-8", "replace").splitlines()]
    for key, text in wish.given.items():
        said = (
            item for line in lines if text in line for item in literals(line) if plain_key(item.key) == plain_key(key)
        )
        if not any(text in item.text for item in said):
            yield Note(".", f"no flavor beside {wish.name} has a value called {key}: it was not written")


def _lacking_any(tree: Tree, wish: FlavorWish) -> set[tuple[object, str]]:
    """Return the Android apps without any flavor: from the first one on, they ship as flavors only."""
    _, meant = chosen_subjects(tree, load_identity(tree), wish.app)
    return {(s.project.key, s.module) for s in meant if s.platform == "android" and not s.flavors}


def add_flavor(stages: Stages, wish: FlavorWish) -> None:
    """Add the structure of a flavor, its ID and its name to what is gathered in *stages*.

    Raises InputError or RefusedError.
    """
    file = load_identity(stages.tree)
    projects, meant = chosen_subjects(stages.tree, file, wish.app)
    _refuse_other(meant, file, wish)
    if wish.like:
        known_flavor((), wish.like, [flavor for subject in meant for flavor in (*subject.flavors, *subject.singles)])
    lacking = [s for s in meant if not s.main_of(wish.name) and (not wish.platforms or s.platform in wish.platforms)]
    built = [s for s in lacking if kind_of(s.project).has_variants(s.project, stages.tree)]
    stamped = [s.project for s in lacking if s not in built]
    check_flavor_name(wish.name, any(subject.platform == "android" for subject in built) or not built)
    refuse_unread(built)
    _refuse_clash(meant, lacking, file, wish)
    if _keep_app(stages, built, file, wish):
        later = read_projects(stages.tree)
        projects = [next((p for p in later if p.key == project.key), project) for project in projects]
        built = [replace(s, project=next(p for p in later if p.key == s.project.key)) for s in built]
    _as_neighbours(stages, built, meant, file, wish, in_gradle=True)
    tree, draft = stages.tree, Draft(notes=left_out(projects, meant, wish.app))
    for subject in built:
        id_ = wanted_id(file, subject, wish)
        stages.say([Line(f"{subject.platform} {wish.name}", id_)])
    for subject in _still_lacking(tree, built, wish.name):
        flavor, id_ = new_flavor(stages.tree, file, subject, meant, wish), wanted_id(file, subject, wish)
        kind = kind_of(subject.project)
        draft.join(kind.add_flavor(subject.project, tree, flavor, id_, wanted_name(file, subject, wish)))
    stages.add_draft(draft)
    texts = Draft()
    for subject in (_now(stages.tree, item) for item in built):
        shown, flavor = wanted_name(file, subject, wish), Flavor(subject.module, subject.main_of(wish.name))
        if shown and flavor.name:
            texts.join(kind_of(subject.project).part_texts(subject.project, stages.tree, flavor, shown))
    stages.add_draft(texts)
    tree, draft = stages.tree, Draft()
    there, new = listed_siblings(tree, built, wish.name), listed_as(file, built, wish)
    for umbrella in umbrellas(projects, built):
        draft.join(kind_of(umbrella).add_flavor(umbrella, tree, Flavor("", wish.name), "", ""))
        draft.join(kind_of(umbrella).add_variant(umbrella, tree, there, new))
    if file is not None and not any(same_flavor(wish.name, name) for name in file.flavors):
        path, data = with_brand(
            tree, file, wish.name, table_of(file, built, wish, listed_siblings(tree, built, wish.name)) + "\n", {}
        )
        draft.written[path] = data
    draft.notes += [Note(item.folder or ".", f"{item.kind} has no flavors: it is stamped") for item in stamped]
    stages.add_draft(draft)
    _as_neighbours(stages, built, meant, file, wish)
    _name_it(stages, built, file, wish)


_IN_GRADLE = late.compile(r"\.gradle(?:\.kts)?\Z")


def _as_neighbours(
    stages: Stages,
    built: Sequence[Subject],
    meant: Sequence[Subject],
    file: IdentityFile | None,
    wish: FlavorWish,
    in_gradle: bool = False,
) -> None:
    """Give the new flavor what its neighbours have: the files that are called after them, its place in lists.

    First *in_gradle*, where a build that lacks it has it then: a block like theirs, or an entry of their list.
    """
    tree = stages.tree
    asked = [new_flavor(tree, file, subject, meant, wish) for subject in built]
    siblings = listed_siblings(tree, built, wish.name, asked)
    wanted = Wanted(listed_as(file, built, wish), siblings, wish.like, wish.given)
    mine = own_paths(read_projects(tree), [subject.project for subject in (built if in_gradle else meant)])
    gradle = [s for s in built if s.platform == "android" and s.project.kind == "android"]
    if in_gradle and not gradle:
        return
    keys = {(subject.project.key, subject.module) for subject in built}
    left = [s.project.folder for s in meant if (s.project.key, s.module) not in keys and not s.main_of(wish.name)]

    def allowed(path: str) -> bool:
        if any(folder and path.startswith(f"{folder}/") for folder in left):
            return False
        return mine(path) and (bool(_IN_GRADLE.search(path)) == in_gradle or not gradle)

    draft = as_neighbours(tree, wanted, allowed)
    if not in_gradle:
        stages.add_draft(draft)
        return
    draft = Draft(edits=draft.edits, owed=draft.owed)
    trial = Stages(tree)
    trial.add_draft(draft)
    if all(_is_called(trial.tree, _now(trial.tree, subject), file, wish) for subject in gradle):
        stages.add_draft(draft)


def _is_called(tree: Tree, subject: Subject, file: IdentityFile | None, wish: FlavorWish) -> bool:
    """Tell whether a build has the new flavor with its ID, or can be given it."""
    built = subject.main_of(wish.name)
    id_, wanted = subject.text(built, "id") if built else "", wanted_id(file, subject, wish)
    if not id_ or id_ == wanted:
        return bool(id_)
    kind = kind_of(subject.project)
    flavor = Flavor(subject.module, wish.name)
    return not kind.own_facet(subject.project, tree, flavor, FACETS["id"][subject.platform], wanted).refusals


def _still_lacking(tree: Tree, built: Sequence[Subject], name: str) -> list[Subject]:
    """Return the builds without a flavor, as they are now."""
    now = (_now(tree, subject) for subject in built)
    return [subject for subject in now if not subject.main_of(name)]


def _now(tree: Tree, subject: Subject) -> Subject:
    """Return a build as it is in a tree."""
    project = next(item for item in read_projects(tree) if item.key == subject.project.key)
    return replace(subject, project=project)


def _refuse_other(meant: Sequence[Subject], file: IdentityFile | None, wish: FlavorWish) -> None:
    """Refuse a name that differs from a known one in case only, and options that contradict a known flavor."""
    known = {name: subject for subject in meant for name in subject.flavors}
    names = [*known, *(file.flavors if file is not None else ())]
    other = next((name for name in names if same_flavor(name, wish.name) and name != wish.name), "")
    if other and wish.name not in names:
        raise InputError(
            f"there is a flavor {other} already, which differs from {wish.name} in case only",
            remedy="On many disks the two are one: choose another name, or spell it as it is.",
        )
    for subject in meant:
        if not subject.main_of(wish.name) or (wish.platforms and subject.platform not in wish.platforms):
            continue
        base = subject.text("", "id") or ""
        asked = {"id": wish.id or (base + wish.suffix if wish.suffix and base else ""), "name": wish.shown}
        for key, text in asked.items():
            value = subject.value(subject.main_of(wish.name), key)
            if text and value is not None and value.text != text:
                is_there = f"the {subject.platform} flavor {wish.name} is there already"
                raise RefusedError(
                    f"{is_there}: its {key} is {value.text}, not {text}",
                    file=value.origin.file,
                    line=value.origin.line,
                    remedy=f"onomaxis rename --flavor {wish.name} changes it; so does stamp, by the identity file.",
                )


def _draw(stages: Stages, meant: Sequence[Subject], wish: FlavorWish, tick: Tick | None) -> None:
    """Draw the new flavor's icons."""
    from onomaxis.icons.plan import plan_icons
    from onomaxis.icons.wish import IconWish

    projects = beside(read_projects(stages.tree), meant)
    icons = IconWish(
        art="" if wish.background else wish.art,
        foreground=wish.art if wish.background else "",
        background=wish.background,
        flavor=wish.name,
    )
    plan = plan_icons(stages.tree, projects, [icons], tick)
    stages.draws(plan)
    stages.add(plan.changes, 0, (Note(item.file or "art", item.message) for item in plan.warnings))
    stages.say([Line(f"{wish.name} icons", f"{len(plan.images)} pictures")])


def _keep_app(stages: Stages, built: Sequence[Subject], file: IdentityFile | None, wish: FlavorWish) -> bool:
    """Make the app as it is a flavor of its own where a build gets its first one; tell whether any was made.

    Source: developer.android.com, "Configure build variants": with flavors, every variant is one of a flavor.
    """
    native = [subject for subject in built if subject.project.kind in PLATFORMS]
    bare = [subject for subject in native if not subject.flavors and (wish.keep or subject.platform == "android")]
    if wish.keep and not bare:
        said = "every build here has flavors already: --base is for the first one"
        stages.note([Note(f"--base {wish.keep}", said)])
    if not bare or (wish.only and not wish.keep):
        return False
    if not wish.keep:
        first = bare[0]
        raise RefusedError(
            f"{first.project.folder or first.module} has no flavors yet: from the first one on only flavors are "
            f"built, and the app itself ({first.text('', 'id')}) would no longer be built",
            remedy="Name the flavor that it goes on as with --base NAME (its ID and name stay), "
            "or pass --only-flavors.",
        )
    check_flavor_name(wish.keep, any(subject.platform == "android" for subject in bare))
    if same_flavor(wish.keep, wish.name):
        raise InputError(f"--base {wish.keep} is the new flavor's own name")
    draft = Draft()
    for subject in bare:
        flavor = Flavor(subject.module, wish.keep)
        id_ = subject.text("", "id") or "" if subject.platform == "ios" else ""
        draft.join(kind_of(subject.project).add_flavor(subject.project, stages.tree, flavor, id_, ""))
        stages.say([Line(f"{subject.platform} {wish.keep}", f"{subject.text('', 'id')} (the app as it is)")])
    for umbrella in umbrellas(read_projects(stages.tree), bare):
        draft.join(kind_of(umbrella).add_flavor(umbrella, stages.tree, Flavor("", wish.keep), "", ""))
    if file is not None and not any(same_flavor(wish.keep, name) for name in file.flavors):
        path, data = with_brand(stages.tree, file, wish.keep, f"[flavors.{wish.keep}]\n", {})
        draft.written[path] = data  # it says nothing of its own: all of it is the app's
    stages.add_draft(draft)
    _run_as(stages, bare, wish.keep)
    for subject in bare:
        project = next(p for p in read_projects(stages.tree) if p.key == subject.project.key)
        later = Subject(project, subject.platform, subject.module)
        for key in ("id", "name", "version", "build"):
            if later.text(wish.keep, key) != subject.text("", key):
                raise FaultError(f"the {key} of the app would change; nothing was changed")
    return True


def _run_as(stages: Stages, bare: Sequence[Subject], flavor: str) -> None:
    """Let what runs the app in a framework run its first flavor, called as the platforms' tools call it."""
    tree, ways, draft = stages.tree, dict[str, str](), Draft()
    now = [_now(tree, subject) for subject in bare]
    for subject in now:
        app = next((app for app in subject.brands if same_flavor(app.flavor, flavor)), None)
        if app is not None:
            ways |= {"id": app.id.text} if subject.platform == "android" and app.id else {}
            ways |= kind_of(subject.project).built_as(subject.project, tree, app)
    for umbrella in umbrellas(read_projects(tree), now):
        draft.join(kind_of(umbrella).first_flavor(umbrella, tree, flavor, ways))
    stages.add_draft(draft)


def _refuse_clash(
    meant: Sequence[Subject], lacking: Sequence[Subject], file: IdentityFile | None, wish: FlavorWish
) -> None:
    """Refuse an ID that another flavor has: the two could not be installed or published side by side."""
    for subject in lacking:
        if len(subject.targets) > 1:
            said = f"{PLATFORM_NAMES[subject.platform]} builds what varies as targets: {', '.join(subject.targets)}"
            way = "--platform android makes the flavor on Android alone"
            raise RefusedError(said, remedy=f"A new one is made in Xcode; {way}. Nothing was changed.")
        new = wanted_id(file, subject, wish)
        if not new:
            raise InputError(
                f"the {subject.platform} app's ID cannot be determined", remedy="Say what the flavor's is with --id."
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


def _name_it(stages: Stages, built: Sequence[Subject], file: IdentityFile | None, wish: FlavorWish) -> None:
    """Give the new flavor the ID and name that its structure did not bring along."""
    projects = {project.key: project for project in read_projects(stages.tree)}
    draft = Draft()
    for before in built:
        project = projects[before.project.key]
        subject = Subject(project, before.platform, before.module)
        for key, said in (("id", wanted_id(file, before, wish)), ("name", wanted_name(file, before, wish))):
            several = [] if subject.of(wish.name) else subject.combinations(wish.name)
            for built_as in several or [wish.name]:
                wanted = as_sibling(subject, built_as, wish.name, key, said) if several else said
                if wanted and subject.text(built_as, key) != wanted:
                    flavor, facet = Flavor(subject.module, built_as), FACETS[key][subject.platform]
                    draft.join(kind_of(project).own_facet(project, stages.tree, flavor, facet, wanted))
    stages.add_draft(draft)
    _launchers(stages, built, file, wish)
    for project in read_projects(stages.tree):
        for before in built:
            subject = Subject(project, before.platform, before.module)
            wanted = wanted_id(file, before, wish)
            got = subject.text(subject.main_of(wish.name) or wish.name, "id")
            if project.key == before.project.key and got != wanted:
                if got is None:
                    raise _untold(project, subject.platform, wish.name)
                raise RefusedError(
                    f"the {subject.platform} flavor would be called {got}, not {wanted}",
                    file=project.folder or ".",
                    remedy="Its ID comes from a place that all flavors share; nothing was changed.",
                )


def _untold(project: Project, platform: str, flavor: str) -> RefusedError:
    """Return the refusal of a flavor that a build would have, and of which nobody could tell the ID."""
    first = next((item for item in project.unresolved if not item.whole), None)
    why = f": {first.reason}" if first is not None else ""
    return RefusedError(
        f"the ID of the {platform} flavor {flavor} could not be determined{why}",
        file=first.file if first is not None else project.folder or ".",
        line=first.line if first is not None else 0,
        remedy="Write what decides it as literals, a table or a choice by one variable; nothing was changed.",
    )


def _launchers(stages: Stages, built: Sequence[Subject], file: IdentityFile | None, wish: FlavorWish) -> None:
    """Let labels of launcher entries, which a device shows instead of the name, be called by the flavor's name."""
    draft = Draft()
    for project in read_projects(stages.tree):
        for before in built:
            wanted = wanted_name(file, before, wish)
            if wanted and before.project.key == project.key:
                flavor, old = Flavor(before.module, wish.name), before.text("", "name") or ""
                draft.join(kind_of(project).launcher_labels(project, stages.tree, flavor, old, wanted))
    stages.add_draft(draft)
