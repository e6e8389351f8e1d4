"""A tree for one brand alone: nothing that is another brand's is left in it, and what could not go is named."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from onomaxis.brands.left_over import named_files, spelled
from onomaxis.brands.neighbours import Allowed, staying, without_neighbour
from onomaxis.brands.new_flavor import called_as, listed_siblings
from onomaxis.brands.retirement import plan_retirement
from onomaxis.brands.stamp import stamp
from onomaxis.brands.subjects import Subject, required_identity, subjects_of
from onomaxis.errors import RefusedError
from onomaxis.flavor_names import same_flavor
from onomaxis.identity.file import IdentityFile
from onomaxis.model import Residue
from onomaxis.projects.draft import Draft
from onomaxis.projects.neighbours.called import Called
from onomaxis.surveys.survey import own_files, read_projects
from onomaxis.tree import Tree
from onomaxis.writing.planned import PlannedChange, Stages


def alone(tree: Tree, flavor: str) -> PlannedChange:
    """Plan what makes a tree one brand's: stamped, the other brands retired, their art and the fleet's files removed.

    What the result still says of another brand is its ``residue``. Environments stay. Raises what stamping raises.
    """
    file = required_identity(tree)
    stages = Stages(tree)
    stages.add_plan(stamp(tree, flavor))
    subjects = subjects_of(file, read_projects(stages.tree))
    every = _brands(stages.tree, file, subjects, flavor)
    stuck: list[Residue] = []
    others = [item for item in every if not same_flavor(item.name, flavor)]
    for other in others:
        if any(subject.of(other.name) or subject.combinations(other.name) for subject in subjects):
            try:
                stages.add_plan(plan_retirement(stages.tree, other.name))
            except RefusedError as error:
                stuck.append(Residue(error.file or ".", error.line, "", f"{other.name} stays: {error.message}"))
    for other in others:  # what builds of other apps do not speak of
        stages.add_draft(without_neighbour(stages.tree, every, other.name, _apart(stages.tree, subjects, other.name)))
    stages.add_draft(Draft(removed=sorted(_files_of_others(stages.tree, file, subjects, flavor, every))))
    names = {item.name for item in others}
    found = (
        item for item in spelled(stages.tree, file, subjects, flavor) if item.reason.rpartition(" of ")[2] in names
    )
    left = {(item.file, item.line): item for item in found}
    for other in (item for item in others if not _is_app(item, every)):
        for note in staying(stages.tree, every, other, lambda path: True, prose=True):
            left.setdefault((note.file, note.line), Residue(note.file, note.line, "", note.text))
    plan = stages.planned(f"stamp: {flavor} alone")
    return PlannedChange(plan.changes, plan.edits, residue=(*stuck, *left.values()))


def _apart(tree: Tree, subjects: Sequence[Subject], flavor: str) -> Allowed:
    """Return what tells whether a path lies in no other app that builds a flavor of the name for itself."""
    keys = {subject.project.key for subject in subjects}
    rest = (project for project in read_projects(tree) if project.key not in keys and project.folder)
    having = (p.folder for p in rest if any(same_flavor(app.flavor, flavor) for app in p.apps))
    folders = tuple(f"{folder}/" for folder in having)
    return lambda path: not path.startswith(folders)


def _is_app(item: Called, every: Sequence[Called]) -> bool:
    """Tell whether a brand stands for the app itself: others' IDs go on from its, and the code is called so too."""
    mine = [id_ for id_ in item.ids.values() if id_]
    return any(other.startswith(f"{id_}.") for id_ in mine for each in every for other in each.ids.values())


def _brands(tree: Tree, file: IdentityFile, subjects: Sequence[Subject], flavor: str) -> list[Called]:
    """Return the brands that there are: the flavor, its siblings in the builds, those that the file alone knows."""
    built = {name.casefold() for subject in subjects for name in subject.flavors}
    found = listed_siblings(tree, subjects, flavor)
    found += [called_as(subjects, flavor)] if flavor.casefold() in built else []
    for name in file.flavors:
        if name.casefold() not in built and not any(subject.singles.parts(name) for subject in subjects):
            brands = {subject.platform: file.brand(name, subject.platform) for subject in subjects}
            ids = {platform: brand.get("id") or "" for platform, brand in brands.items()}
            found.append(Called(name, ids, next((t for b in brands.values() if (t := b.get("name"))), "")))
    return found


def _files_of_others(
    tree: Tree, file: IdentityFile, subjects: Sequence[Subject], flavor: str, every: Sequence[Called]
) -> Iterator[str]:
    """Yield the fleet's own files, and those that the identity file names for other brands alone."""
    yield from (path for path in own_files(tree) if tree.exists(path))
    kept = {*named_files(file, subjects, flavor), *named_files(file, subjects, "")}
    for other in every:
        if not same_flavor(other.name, flavor):
            yield from (
                path for path in named_files(file, subjects, other.name) if path not in kept and tree.exists(path)
            )
