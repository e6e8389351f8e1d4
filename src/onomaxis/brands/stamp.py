"""Everything that an identity file says, put on a project in one change."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from typing import NamedTuple

from onomaxis import late
from onomaxis.brands.facets import is_template, stamp_identity
from onomaxis.brands.launch import draw_launch
from onomaxis.brands.odd_configurations import Stray, in_step, strays
from onomaxis.brands.odd_values import stray_values
from onomaxis.brands.proof import of_stamp
from onomaxis.brands.services import Placed, ServiceWish, place_service, serves
from onomaxis.brands.subjects import Subject, elsewhere, refuse_unread, required_identity, subjects_of
from onomaxis.brands.values import prove_others, stamp_values
from onomaxis.brands.worn import worn
from onomaxis.errors import InputError
from onomaxis.flavor_names import same_flavor, selects
from onomaxis.icons.standing import of_app
from onomaxis.identity.file import Brand, IdentityFile, Said
from onomaxis.identity.schema import NAME, RIBBON
from onomaxis.model import Line, Note
from onomaxis.projects.draft import Draft
from onomaxis.projects.launch import LaunchWish
from onomaxis.projects.project import Project
from onomaxis.surveys.halves import umbrella_of
from onomaxis.surveys.survey import kind_of, read_projects
from onomaxis.tree import Tree, join, parent
from onomaxis.writing.planned import PlannedChange, Stages
from onomaxis.writing.proof import prove_nothing_left, proved

Tick = Callable[[int, int], None]


class Dress(NamedTuple):
    """What is dressed of one app: *built* is the build's flavor or combination, empty for the app itself."""

    subject: Subject
    built: str
    brand: Brand


def stamp(
    tree: Tree, flavor: str = "", services: Sequence[tuple[str, bytes]] = (), tick: Tick | None = None
) -> PlannedChange:
    """Plan what makes a project as its identity file says; *services* are further service files, name and bytes.

    These alone are put in place where there is no such file.

    The result is read again: it says what the file says, nothing else is called otherwise, and the same stamp would
    change nothing more. Raises InputError or RefusedError; FaultError where the result is not right.
    """
    file = required_identity(tree, bare=bool(services))
    stages = Stages(tree)
    before = read_projects(tree)
    stages.note(elsewhere(file, before))
    refuse_unread(subjects_of(file, before))
    _stamp(stages, file, flavor, services)
    dressed = list(_dressed(file, subjects_of(file, read_projects(stages.tree)), flavor))
    _icons(stages, file, dressed, flavor, tick)
    planned = stages.planned(
        f"stamp: {flavor or (file.path if tree.exists(NAME) else services[0][0])}",
        f"Nothing to change: the project is as {file.path} says." if tree.exists(NAME) else "Nothing to change.",
    )
    if planned.empty:
        return planned
    after = read_projects(stages.tree)
    own = flavor and not any(is_template(subject, flavor) for subject in subjects_of(file, before))
    planned = proved(
        before,
        after,
        planned,
        of_stamp(before, file, flavor),
        first=lambda: prove_others(tree, stages.tree, file, flavor) if own else None,
        drawn=(flavor,) if own else None,
    )
    again = Stages(stages.tree)
    _stamp(again, file, flavor, services, draw=False)
    prove_nothing_left(again.changes)
    return planned


def _stamp(
    stages: Stages, file: IdentityFile, flavor: str, services: Sequence[tuple[str, bytes]], draw: bool = True
) -> None:
    """Do everything but icons; without *draw* no picture is drawn."""
    stamp_identity(stages, file, flavor)
    _strays(stages, file, flavor)
    stamp_values(stages, file, flavor)
    subjects = subjects_of(file, read_projects(stages.tree))
    dressed = list(_dressed(file, subjects, flavor))
    _services(stages, file, subjects, dressed, services, flavor)
    _launch(stages, file, dressed, draw)


def _strays(stages: Stages, file: IdentityFile, flavor: str) -> None:
    """Bring the configurations in step that are called otherwise than their flavor's others."""
    found = [
        stray
        for subject in subjects_of(file, read_projects(stages.tree))
        for stray in (*strays(subject, file), *stray_values(stages.tree, file, subject))
        if (not flavor or same_flavor(stray.flavor, flavor))
        and (not stray.flavor or file.named(stray.flavor) in file.flavors)
        and _spoken_of(file, stray)
    ]
    draft, lines = in_step(stages.tree, found)
    stages.add_draft(draft)
    stages.say(lines)


def _spoken_of(file: IdentityFile, stray: Stray) -> bool:
    """Tell whether the file says what is off; what icon sets and profiles are called is the project's own affair."""
    brand = file.variant(stray.flavor, stray.subject.singles, stray.subject.platform)
    return stray.key in ("icon", "profile", "value") or stray.key in brand.facets


def _dressed(file: IdentityFile, subjects: Sequence[Subject], flavor: str) -> Iterator[Dress]:
    """Yield the app itself (as the template's flavor), then each flavor that the build knows."""
    for subject in subjects:
        if (not flavor or is_template(subject, flavor)) and subject.stands_alone:
            yield Dress(subject, "", file.brand(flavor, subject.platform))
        items = worn(file, subject, flavor) if subject.flavors else ()
        yield from (Dress(subject, item.built, item.brand) for item in items if item.built)


def _differs(file: IdentityFile, item: Dress, table: str) -> bool:
    """Tell whether a flavor of the build says something of its own in a table; the app itself always does."""
    return not item.built or getattr(item.brand, table) != getattr(file.brand("", item.subject.platform), table)


# -- service files


def _services(
    stages: Stages,
    file: IdentityFile,
    subjects: Sequence[Subject],
    dressed: Sequence[Dress],
    further: Sequence[tuple[str, bytes]],
    flavor: str,
) -> None:
    wanted = [ServiceWish(name, data, flavor, tuple(subjects)) for name, data in further]
    for item in dressed:
        said = item.brand.files.get(f"google-{item.subject.platform}")
        if said is None or not _differs(file, item, "files"):
            continue
        data = _read(stages.tree, file, said)
        if item.subject.bound(file, item.built) or serves(item.subject, data, item.built):
            wanted.append(ServiceWish(said.text, data, item.built, (item.subject,)))
    put_services(stages, wanted)


def put_services(stages: Stages, wanted: Sequence[ServiceWish]) -> None:
    """Put service files in their places, twice where the first time one file for all made room."""
    for _ in range(2):
        projects = read_projects(stages.tree) if wanted else []
        placed = [place_service(stages.tree, wish.standing(projects), wish) for wish in wanted]
        _put(stages, placed)
        if not any(item.naming is not None and item.naming.edits for item in placed):
            break


def _put(stages: Stages, placed: Sequence[Placed]) -> None:
    written = {item.path: item.data for item in placed if stages.tree.read(item.path) != item.data}
    stages.say(Line(f"{i.flavor or 'app'} service file", i.path) for i in placed if i.path in written)
    draft = Draft(written=written)
    brought = dict.fromkeys(item.flavor or "app" for item in placed if item.naming is not None and item.naming.edits)
    stages.say([Line("copied by the build", f"the service files of {', '.join(brought)}")] if brought else [])
    for item in placed:
        draft.join(item.naming or Draft())
    stages.add_draft(draft)


def _read(tree: Tree, file: IdentityFile, said: Said) -> bytes:
    """Return a file that the identity file names. Raises InputError at its line."""
    path = join(parent(file.path), said.text)
    data = tree.named_file(path)
    if data is None:
        remedy = "Paths start from the folder of the identity file."
        raise InputError(tree.lacking(path, said.text), file=file.home(said.line), line=said.line, remedy=remedy)
    return data


# -- launch screens


def _launch(stages: Stages, file: IdentityFile, dressed: Sequence[Dress], draw: bool) -> None:
    draft = Draft()
    for item in dressed:
        said = item.brand.launch
        if not said or not _differs(file, item, "launch"):
            continue
        if "logo" in said:
            _read(stages.tree, file, said["logo"])
        wish = LaunchWish(**{key: value.text for key, value in said.items()})
        project, tree = item.subject.project, stages.tree
        found = kind_of(project).launch(project, tree, item.subject.branch(item.built), wish)
        drawn = draw_launch(tree, found.pictures, wish) if draw else {}
        written = {**found.draft.written, **drawn}
        found.draft.written = {path: data for path, data in written.items() if tree.read(path) != data}
        draft.join(found.draft)
        if found.draft.edits or found.draft.written:
            stages.say([Line(f"{item.built or 'app'} launch screen", item.subject.platform)])
    stages.add_draft(draft)


# -- icons


def _icons(stages: Stages, file: IdentityFile, dressed: Sequence[Dress], flavor: str, tick: Tick | None) -> None:
    """Draw the icon sets of the app and of every flavor with art of its own."""
    from onomaxis.icons.plan import plan_icons
    from onomaxis.icons.wish import IconWish

    wishes: dict[IconWish, None] = {}
    subjects = list({item.subject.target: item.subject for item in dressed}.values())
    dressed = [*dressed, *_shared_sets(file, subjects, flavor), *_ribboned(file, subjects, flavor)]
    for item in dressed:
        said = item.brand.icon
        if not said or not _differs(file, item, "icon") or _seen_through(file, item, dressed):
            stages.note(_undrawn(file, item) if said and item.subject.targets else ())
            continue
        if not item.brand.art:
            stages.note([Note(NAME, f"{item.built or 'the app'} gets its ribbon once [icon] names its art")])
            continue
        files = {key: _art(stages.tree, file, value) for key, value in item.brand.art.items()}
        files |= {key: value.text for key, value in said.items() if key.startswith(RIBBON)}
        files = {key.replace("-", "_"): value for key, value in files.items()}
        mates = [d for d in dressed if same_flavor(d.built, item.built) and not d.subject.targets]
        alike = {d.subject.platform for d in mates if d.brand.icon == said}
        branch = item.subject.branch(item.built)
        own = {"apps": (branch.module,), "flavor": branch.name} if item.subject.targets else {"flavor": item.built}
        only = () if alike == {d.subject.platform for d in dressed} else (item.subject.platform,)
        wishes[IconWish(platforms=only)._replace(**own, **files)] = None  # type: ignore[arg-type]
    if not wishes:
        return
    projects = beside(read_projects(stages.tree), [item.subject for item in dressed])
    plan = plan_icons(stages.tree, projects, list(wishes), tick)
    stages.draws(plan)
    told = [warning for warning in plan.warnings if warning.code != "flavor-keeps"]
    stages.add(plan.changes, 0, (Note(warning.file or "art", _in_keys(warning.message)) for warning in told))
    if plan.changes:
        stages.say([Line("icons", f"{len(plan.changes)} file{'s' if len(plan.changes) > 1 else ''}")])


def icon_changes(tree: Tree, file: IdentityFile) -> list[str]:
    """Return the files that drawing the icons of an identity file's art would change."""
    stages = Stages(tree)
    _icons(stages, file, list(_dressed(file, subjects_of(file, read_projects(tree)), "")), "", None)
    return [change.target or change.source or "" for change in stages.changes]


def _shared_sets(file: IdentityFile, subjects: Iterable[Subject], flavor: str) -> Iterator[Dress]:
    """Yield the flavors that a build has in combinations alone, and an icon of their own for."""
    for subject in (subject for subject in subjects if not subject.targets):
        drawn = {home.flavor.casefold() for home in subject.project.icons if home.module == subject.module}
        items = (item for item in worn(file, subject, flavor) if not item.built and item.named.casefold() in drawn)
        yield from (Dress(subject, item.named, item.brand) for item in items)


def _ribboned(file: IdentityFile, subjects: Iterable[Subject], flavor: str) -> Iterator[Dress]:
    """Yield the combinations that Gradle makes of one flavor's art and another's ribbon: neither's set shows both."""
    for subject in subjects:
        for name in subject.made:
            brand = file.variant(name, subject.singles, subject.platform)
            parts = (file.brand(part, subject.platform) for part in subject.singles.parts(name))
            told = RIBBON in brand.icon and all(part.icon != brand.icon for part in parts)
            if told and (not flavor or selects(flavor, name, subject.singles)):
                yield Dress(subject, name, brand)


def _undrawn(file: IdentityFile, item: Dress) -> Iterator[Note]:
    """Say which target shows an icon set that others show as well, and wants another icon than they."""
    subject, branch = item.subject, item.subject.branch(item.built)
    app = next(iter(subject.of(item.built)), None)
    named = app.icon.text if app is not None and app.icon is not None else ""
    for home in subject.project.icons:
        apps = (other for other in subject.brands if other.icon is not None and other.icon.text == named)
        theirs = [file.variant(other.flavor, subject.singles, subject.platform).icon for other in apps]
        if home.name == named and any(icon != item.brand.icon for icon in theirs):
            said = (
                f"{branch.module} shows {named}, as others do: give it a set of its own, and its icon is drawn there"
            )
            yield Note(home.owner.at if home.owner is not None else home.folder, said)
            return


def _seen_through(file: IdentityFile, item: Dress, dressed: Sequence[Dress]) -> bool:
    """Tell whether a combination shows an icon that is not its own, and that is drawn as it wants its icon."""
    subject, parts = item.subject, item.subject.singles.parts(item.built)
    if subject.targets:  # several may name one set: it is drawn for the one that it is
        branch = subject.branch(item.built)
        own = (home for home in subject.project.icons if home.module == branch.module)
        return not any(same_flavor(home.flavor, branch.name) for home in own)
    app = next(iter(subject.of(item.built)), None)
    homes = [home for home in subject.project.icons if home.module == subject.module]
    shown = next(iter(of_app(homes, app, subject.singles)), None) if app is not None and item.built else None
    if shown is None or same_flavor(shown.flavor, item.built):
        return False
    mates = (other for other in dressed if other.subject.target == subject.target and other.built != item.built)
    alike = (other.built for other in mates if other.brand.icon == item.brand.icon)
    if any(same_flavor(name, part) for name in alike for part in parts):
        return True
    return (
        not shown.references and file.variant(shown.flavor, subject.singles, subject.platform).icon == item.brand.icon
    )


_OPTIONS = late.compile(r"--(art|foreground|background|monochrome|legacy-art|ios-art|ios-dark|ios-tinted)\b")


def _in_keys(message: str) -> str:
    """Return what is said of an icon with the identity file's keys in place of the options, which stamping lacks."""
    return _OPTIONS.sub(r"\1 in [icon]", message.partition("; --inset")[0])


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
