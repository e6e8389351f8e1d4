"""The proof of a rename: every facet wished for reads back, every other one as before, and nothing is left to do."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Sequence
from functools import cache

from onomaxis.errors import FaultError, OnomaxisError, RefusedError
from onomaxis.flavor_names import same_flavor, selects
from onomaxis.model import Facet, Mention, Note, ShippedApp, Value
from onomaxis.projects.android.packages import SOURCE_ENDINGS
from onomaxis.projects.project import Project, Targets, brand_of
from onomaxis.rename.identifiers import remaining
from onomaxis.rename.plan import Plan
from onomaxis.rename.targets import SAID, Target, has_flavor, present, value_of, variants_with, with_name
from onomaxis.surveys.survey import Survey, take_survey
from onomaxis.tree import Tree
from onomaxis.writing.proof import Allowed, Seen, Told, fault, prove_nothing_left, unchanged

_FACETS = {Told.NAME: Facet.DISPLAY_NAME, Told.VERSION: Facet.VERSION_NAME, Told.BUILD: Facet.VERSION_CODE}


def prove_wished(after: Sequence[Project], plan: Plan) -> None:
    """Make sure that every ID and name that was wished stands somewhere at all. Raises FaultError."""
    for target in plan.targets:
        _prove_there(target, after)


def outdone(after: Sequence[Project], plan: Plan) -> tuple[Note, ...]:
    """Return notes on variants that keep what another flavor says, and on numbers computed from a version."""
    found = []
    for target in plan.targets:
        flavor, key = target.aim.flavor, target.project.key
        wished = [(item.facet, item.new) for item in target.values if item.facet is not Facet.DISPLAY_NAME]
        found += _following(after, target)
        wished += [(Facet.APPLICATION_ID, target.aim.id)] if target.aim.id else []
        for project in (item for item in after if flavor and item.key == key):
            apps = [app for app in project.apps if app.module in target.modules and len(app.flavor) > len(flavor)]
            for app in (app for app in apps if selects(flavor, app.flavor, project.flavors)):
                for facet, new in wished:
                    value = value_of(app, facet) if facet in SAID else app.id
                    if value is not None and new not in value.text:
                        said = f"{app.variant} keeps {value.text}: another flavor of it says so"
                        found.append(Note(value.origin.at, said))
    return tuple(dict.fromkeys(found))


def _following(after: Sequence[Project], target: Target) -> list[Note]:
    before = {(app.module, app.variant): app.build for app in target.project.apps}
    if target.becoming(Facet.VERSION_NAME) is None or target.becoming(Facet.VERSION_CODE) is not None:
        return []
    found = []
    for app in (app for item in after if item.key == target.project.key for app in item.apps):
        old, new = before.get((app.module, app.variant)), app.build
        if old is not None and new is not None and old.text != new.text:
            said = f"the build number is computed from the version: {old.text} → {new.text}"
            found.append(Note(new.place.at, said))
    return found


def of_rename(plan: Plan) -> Allowed:
    """Return what a rename may change: an app that is meant reads as wished, every other one and facet as before."""
    targets = {target.project.key: target for target in plan.targets}

    @cache
    def main(key: tuple[object, ...], facet: Facet) -> str | None:
        project = targets[key].project  # type: ignore[index]
        return present(project, facet, "") if project.apps else None

    def allowed(project: Project, app: ShippedApp, seen: Seen) -> set[str]:
        target = targets.get(project.key)
        mine = target if target is not None and app.module in target.modules else None
        if seen.told is Told.ICON:
            return unchanged(project, app, seen)
        if seen.told is Told.ID:
            return _identifiers(project, app, seen.old, mine, plan.targets)
        return _wished(project, app, seen, mine, lambda facet: main(project.key, facet))

    return allowed


def _prove_there(target: Target, after: Sequence[Project]) -> None:
    """Make sure that the ID and the name that were wished stand somewhere at all."""
    project, aim = target.project, target.aim
    now = [item for item in after if item.platform == project.platform]
    ids = {app.id.text for item in now for app in item.apps if app.id}
    ids |= {owner.value for item in now for owner in item.owners}
    names = {app.name.text for item in after for app in item.apps if app.name}
    names |= {owner.value for item in after for owner in item.owners if owner.facet is Facet.DISPLAY_NAME}
    spoken = not aim.flavor or has_flavor(project, aim.flavor)
    alone = target.base in {app.id.text for app in project.apps if app.id} or project.platform == "android"
    below = () if alone else (id_ for id_ in ids if id_.startswith(f"{aim.id}."))
    if aim.id and ids and aim.id not in ids and spoken and not any(below):
        at = _owner(project, Facet.APPLICATION_ID, Facet.BUNDLE_ID)
        raise fault(*at, f"the ID for {project.platform} would not read back as {aim.id}")
    if aim.name is not None and not aim.flavor and aim.name not in names:
        said = f"the display name would not read back as “{aim.name}”"
        if Facet.DISPLAY_NAME not in {item.facet for item in project.owners} | {o.facet for o in project.openings}:
            remedy = "Nothing here states a name that Onomaxis can write: add one first. Nothing was changed."
            raise RefusedError(said, file=project.folder or ".", line=1, remedy=remedy)
        raise fault(*_owner(project, Facet.DISPLAY_NAME), said)


def _owner(project: Project, *facets: Facet) -> tuple[str, int]:
    """Return where a facet is owned, the project's folder where that is not known."""
    owner: Mention | None = next((item for item in project.owners if item.facet in facets), None)
    return (owner.place.file, owner.place.line) if owner is not None else (project.folder or ".", 1)


def _identifiers(
    project: Project, app: ShippedApp, old: Value | None, target: Target | None, targets: Sequence[Target]
) -> set[str]:
    """Return what an identifier may become: the one that it was, where nothing speaks of it."""
    if old is None:
        return {item.aim.id for item in targets} - {""}
    flavor = target.aim.flavor if target is not None else ""
    mine = same_flavor(app.flavor, flavor)
    if target is None or (flavor and not mine and not selects(flavor, app.flavor, project.flavors)):
        return {old.text}
    own = [item for item in target.renamings if item.facet in (Facet.APPLICATION_ID, Facet.BUNDLE_ID)]
    found = {text for item in own or target.renamings if (text := item.apply(old.text))}
    if not own:  # no ID is meant, or none was stated: a namespace, or nothing, said it
        found |= {target.aim.id, old.text} - {""}
    if target.aim.flavor and target.aim.id and f"{old.text}.".startswith(f"{target.base}."):
        found |= {target.aim.id + old.text[len(target.base) :]}  # what other flavors of a combination append
    if target.aim.flavor and target.aim.id and not same_flavor(app.flavor, target.aim.flavor):
        parts = old.text.split(".")  # a combination may take the ID from this flavor now, and append what it did
        found |= {".".join([target.aim.id, *parts[at:]]) for at in range(1, len(parts))}
    if not found or (target.aim.flavor and not same_flavor(app.flavor, target.aim.flavor)):
        found |= {old.text}  # another ID, or one that a combination of flavors shares
    return found


def _wished(
    project: Project, app: ShippedApp, seen: Seen, target: Target | None, today: Callable[[Facet], str | None]
) -> set[str]:
    """Return what a value may become: the wished one where it was the app's, with what was around it; else itself."""
    old = seen.old
    kept = {old.text} if old is not None else set()
    if target is None:
        return kept
    becoming, spoken = target.becoming(_FACETS[seen.told]), dict(target.aim.names)
    said = {spoken[seen.locale]} if seen.locale in spoken else set()
    if seen.locale and old is None and seen.new is not None:
        said |= {seen.new.text}  # a language that had no name of its own: it takes what it is given
    if becoming is None:
        return kept | said | _follows(seen, target)
    new, main = becoming.new, becoming.old
    if target.aim.flavor:
        main = today(becoming.facet)
    if seen.part is not None and seen.told is not Told.NAME:
        main = old.text if old is not None else None  # embedded products keep step, whatever they said
    flavor = target.aim.flavor
    mine = same_flavor(app.flavor, flavor)
    if flavor and not (seen.part is not None and mine):
        if mine:
            brand = brand_of(project, target.modules, flavor)
            stage = brand is not None and app.beside != brand.beside  # a stage's own value stays
            return said | {new} | _around(old, main, new) | (kept if seen.locale or stage else set())
        if not selects(flavor, app.flavor, project.flavors):
            return said | kept
        mixed = {new} | _around(old, becoming.old, new)  # what other flavors of the combination append stays
        if seen.told is Told.NAME and old is not None:
            names = (value.text for one in variants_with(target.project, flavor) if (value := one.name) is not None)
            mixed |= {with_name(old.text, next(names, ""), new)} - {""}
        return said | kept | mixed
    shared = bool(flavor) and seen.told is Told.NAME  # what is embedded may say one name for all flavors
    if not shared and (old is None or old.text == main):
        return said | {new}
    return said | kept | _around(old, main, new)


def _follows(seen: Seen, target: Target) -> set[str]:
    """Return what a build number becomes that the scripts compute from the version, where a version was wished."""
    computed = seen.old is not None and seen.new is not None and not (seen.old.is_written or seen.new.is_written)
    wished = target.becoming(Facet.VERSION_NAME) is not None
    return {seen.new.text} if seen.told is Told.BUILD and computed and wished and seen.new is not None else set()


def _around(old: Value | None, main: str | None, new: str) -> set[str]:
    """Return *old* with the app's value in it made the new one: a suffix stays."""
    if old is None or not main:
        return set()
    return {old.text.replace(main, new, 1)} if main in old.text else {old.text}


def prove_followers(survey: Survey, later: Tree, projects: Sequence[Project], plan: Plan) -> None:
    """Make sure that no place that must change with an identifier still spells the old one."""
    owned: dict[str, list[tuple[int, int]]] = defaultdict(list)
    for owner in (owner for project in projects for owner in project.owners):
        for spot in filter(None, (owner.place, owner.owner.place if owner.owner else None)):
            owned[spot.file].append((spot.start, spot.end))
    moved = _moved(plan)
    for path in sorted({moved.get(path, path) for path in survey.held} & later.known):
        data = later.read(path)
        if data is None:
            continue
        left = remaining(survey.projects, plan.targets, path, data, owned.get(path, ()), plan.kept)
        if left is not None:
            raise fault(path, left.place.line, f"the change would be incomplete: {left.value} would still stand here")


def _moved(plan: Plan) -> dict[str, str]:
    return {change.source: change.target for change in plan.changes if change.source and change.target}


def prove_stable(survey: Survey, later: Tree, plan: Plan, again: Callable[[Survey, Targets], Plan]) -> None:
    """Make sure that the same wish would change nothing more in the tree that the plan leads to.

    *again* plans it for the same apps, which a technical rename may have given new names. Sources are left out:
    what they spell was looked at already (:func:`prove_followers`), and no value stands there.
    """
    moved, called = _moved(plan), dict(plan.technical)
    targets = tuple(
        (item.project.platform, item.project.folder, called.get(name, name))
        for item in plan.targets
        for name in sorted(item.modules)
    )
    if not targets:
        return
    searched = {moved.get(path, path) for path in survey.held} | {c.target for c in plan.changes if c.target}
    within = [path for path in sorted(searched & later.known) if not path.endswith(SOURCE_ENDINGS)]
    try:
        second = again(take_survey(later, "", targets, within), targets)
    except OnomaxisError as error:
        if isinstance(error, FaultError):
            raise
        return  # the result cannot be planned from as it stands: nothing is known against it
    prove_nothing_left(second.changes)
