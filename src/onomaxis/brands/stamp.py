"""Everything that an identity file says, put on a project in one change."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

from onomaxis.brands.facets import Stamping, is_template, stamp_identity
from onomaxis.brands.launch import LaunchWish, stamp_launch
from onomaxis.brands.services import Placed, place_service
from onomaxis.brands.subjects import Subject, required_identity, subjects_of
from onomaxis.brands.values import stamp_values
from onomaxis.errors import InputError
from onomaxis.identity.file import Brand, IdentityFile, Said
from onomaxis.model import same_flavor
from onomaxis.projects.draft import join_created
from onomaxis.projects.project import Draft, Project
from onomaxis.survey.survey import read_projects, umbrella_of
from onomaxis.tree import Tree, inside, join, parent

Tick = Callable[[int, int], None]


@dataclass(frozen=True)
class Dress:
    """One flavor of one app that is dressed: *built* is the build's flavor, empty for the app itself."""

    subject: Subject
    built: str
    brand: Brand


def stamp(
    tree: Tree, flavor: str = "", services: Sequence[tuple[str, bytes]] = (), tick: Tick | None = None
) -> Stamping:
    """Plan what makes a project as its identity file says; *services* are further service files, name and bytes.

    Raises InputError or RefusedError; nothing is written.
    """
    file = required_identity(tree)
    stamping = Stamping(tree)
    stamp_identity(stamping, file, flavor)
    stamp_values(stamping, file, flavor)
    subjects = subjects_of(file, read_projects(stamping.tree))
    dressed = list(_dressed(file, subjects, flavor))
    _services(stamping, file, subjects, dressed, services, flavor)
    _launch(stamping, file, dressed)
    _icons(stamping, file, dressed, tick)
    return stamping


def _dressed(file: IdentityFile, subjects: Sequence[Subject], flavor: str) -> Iterator[Dress]:
    """Yield the app itself (as the template's flavor), then each flavor that the build knows."""
    for subject in subjects:
        if not flavor or is_template(subject, flavor):
            yield Dress(subject, "", file.brand(flavor, subject.platform))
        for name in subject.flavors:
            if file.named(name) in file.flavors and (not flavor or same_flavor(name, flavor)):
                yield Dress(subject, name, file.brand(file.named(name), subject.platform))


def _differs(file: IdentityFile, item: Dress, table: str) -> bool:
    """Tell whether a flavor of the build says something of its own in a table; the app itself always does."""
    return not item.built or getattr(item.brand, table) != getattr(file.brand("", item.subject.platform), table)


# -- service files


def _services(
    stamping: Stamping, file: IdentityFile, subjects: Sequence[Subject], dressed: Sequence[Dress],
    further: Sequence[tuple[str, bytes]], flavor: str,
) -> None:  # fmt: skip
    placed = [place_service(stamping.tree, subjects, name, data, flavor) for name, data in further]
    for item in dressed:
        said = item.brand.files.get(f"google-{item.subject.platform}")
        if said is None or not _differs(file, item, "files"):
            continue
        data = _read(stamping.tree, file, said)
        placed.append(place_service(stamping.tree, [item.subject], said.text, data, item.built))
    _put(stamping, placed)


def _put(stamping: Stamping, placed: Sequence[Placed]) -> None:
    written = {item.path: item.data for item in placed if stamping.tree.read(item.path) != item.data}
    stamping.summary += [f"{i.flavor or 'app'} service file: {i.path}" for i in placed if i.path in written]
    stamping.notes += [item.note for item in placed if item.note and item.path in written]
    stamping.do_draft(Draft(), written=written.items())


def put_services(
    stamping: Stamping, subjects: Sequence[Subject], services: Sequence[tuple[str, bytes]], flavor: str
) -> None:
    """Put service files in their places."""
    _put(stamping, [place_service(stamping.tree, subjects, name, data, flavor) for name, data in services])


def _read(tree: Tree, file: IdentityFile, said: Said) -> bytes:
    """Return a file that the identity file names. Raises InputError at its line."""
    path = join(parent(file.path), said.text)
    data = tree.read(path) if path and inside(path) and tree.exists(path) else None
    if data is None:
        remedy = "Paths start from the folder of the identity file."
        raise InputError(f"there is no file {said.text}", file=file.path, line=said.line, remedy=remedy)
    return data


# -- launch screens


def _launch(stamping: Stamping, file: IdentityFile, dressed: Sequence[Dress]) -> None:
    draft, written = Draft(), dict[str, bytes]()
    for item in dressed:
        said = item.brand.launch
        if not said or not _differs(file, item, "launch"):
            continue
        if "logo" in said:
            _read(stamping.tree, file, said["logo"])
        wish = LaunchWish(**{key: value.text for key, value in said.items()})
        found = stamp_launch(stamping.tree, item.subject, item.built, wish)
        draft.edits += found.draft.edits
        draft.refusals += found.draft.refusals
        draft.notes += found.draft.notes
        join_created(draft, found.draft)
        written |= {path: data for path, data in found.written.items() if stamping.tree.read(path) != data}
        if found.draft.edits or any(path in written for path in found.written):
            stamping.summary.append(f"{item.built or 'app'} launch screen: {item.subject.platform}")
    stamping.do_draft(draft, written=written.items())


# -- icons


def _icons(stamping: Stamping, file: IdentityFile, dressed: Sequence[Dress], tick: Tick | None) -> None:
    """Draw the icon sets of the app and of every flavor with art of its own."""
    from onomaxis.icons.layers import IconWish
    from onomaxis.icons.plan import plan_icons

    wishes: dict[IconWish, None] = {}
    for item in dressed:
        said = item.brand.icon
        if not said or not _differs(file, item, "icon"):
            continue
        files = {key.replace("-", "_"): _art(stamping.tree, file, value) for key, value in said.items()}
        others = [d for d in dressed if same_flavor(d.built, item.built) and d.brand.icon != said]
        only = (item.subject.platform,) if others else ()
        wishes[replace(IconWish(platforms=only, flavor=item.built), **files)] = None  # type: ignore[arg-type]
    if not wishes:
        return
    projects = beside(read_projects(stamping.tree), [item.subject for item in dressed])
    plan = plan_icons(stamping.tree, projects, list(wishes), tick)
    told = [warning for warning in plan.warnings if warning.code != "flavor-keeps"]
    stamping.do(plan.changes, 0, (f"{warning.file or 'art'}: {warning.message}" for warning in told))
    if plan.changes:
        stamping.summary.append(f"icons: {len(plan.changes)} files")


def beside(projects: Sequence[Project], subjects: Sequence[Subject]) -> list[Project]:
    """Return the projects of some apps, and what stands with them below the same framework's project."""
    keys = {subject.project.key for subject in subjects}
    above = [umbrella_of(projects, subject.project) for subject in subjects]
    shared = {item.key for item in above if item is not None}

    def mine(project: Project) -> bool:
        over = umbrella_of(projects, project)
        return project.key in keys | shared or (over is not None and over.key in shared)

    return [project for project in projects if mine(project)]


def _art(tree: Tree, file: IdentityFile, said: Said) -> str:
    if said.text.startswith("#"):
        return said.text
    _read(tree, file, said)
    return str(tree.root / join(parent(file.path), said.text))
