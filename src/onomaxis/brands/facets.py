"""A project made to say what its identity file says: identifiers, names, versions, of the app and its flavors."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence

from onomaxis.brands.subjects import FACETS, Subject, subjects_of
from onomaxis.brands.worn import Difference, brand_differences, differences
from onomaxis.errors import InputError, RefusedError
from onomaxis.flavor_names import same_flavor
from onomaxis.identity import rules
from onomaxis.identity.file import IdentityFile
from onomaxis.model import Edit, Facet, Line, Note, Role, ShippedApp, Value
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import place_edit
from onomaxis.projects.literals import rewrite
from onomaxis.projects.project import Targets
from onomaxis.rename.plan import plan_values
from onomaxis.rename.targets import SAID, Becoming, Target
from onomaxis.rename.umbrellas import repeat
from onomaxis.surveys.halves import umbrella_of
from onomaxis.surveys.survey import Survey, kind_of, read_projects, some_projects, take_survey
from onomaxis.tree import Tree
from onomaxis.wishes import Renaming, Wish
from onomaxis.writing.planned import Stages


def stamp_identity(stages: Stages, file: IdentityFile, flavor: str = "") -> None:
    """Bring identifiers, names and versions in step with *file*.

    With *flavor* the app itself becomes that flavor, in a project whose build does not know it; where the build does,
    only that flavor is brought in step. Raises RefusedError where the result would not read as the file says.
    """
    subjects = subjects_of(file, some_projects(stages.tree))
    stages.note(_refuse_unbuilt(subjects, flavor))
    _check(file, [*_based(file, subjects, flavor), *_flavor_differences(file, subjects, flavor)])
    stages.note(_repeating(file, _based(file, subjects, flavor), flavor))
    for wish in _wishes(file, subjects, flavor):
        survey = _surveyed(stages.tree, wish.targets)
        stages.add_plan(plan_values(survey, wish))
    subjects, wanted = _part_texts(stages, file, flavor)
    if wanted:
        survey = _surveyed(stages.tree, tuple(target for subject in subjects for target in subject.wished))
        stages.add_draft(_in_step(survey, wanted))
        stages.add_draft(_in_frameworks(survey, wanted))
        stages.add_draft(_launchers(stages.tree, wanted))
        stages.say(_said(wanted))
    _prove(stages, file, flavor)


def _part_texts(stages: Stages, file: IdentityFile, flavor: str) -> tuple[tuple[Subject, ...], list[Difference]]:
    """Give flavors that are to be called otherwise in a language texts of their own; return what differs then."""
    done: set[tuple[str, str]] = set()
    while True:
        subjects = subjects_of(file, read_projects(stages.tree))
        wanted = list(_flavor_differences(file, subjects, flavor))
        named = (item for item in wanted if item.key == "names")
        first = next((item for item in named if (item.subject.platform, item.flavor) not in done), None)
        if first is None:
            return subjects, wanted
        done.add((first.subject.platform, first.flavor))
        project, branch = first.subject.project, first.subject.branch(first.flavor)
        stages.add_draft(kind_of(project).part_texts(project, stages.tree, branch))


def _surveyed(tree: Tree, targets: Targets) -> Survey:
    """Return the survey of a tree, the last one kept: many flavors are stamped from one original."""
    last: list[tuple[Targets, Survey]] = tree.kept("survey", list)
    if not last or last[0][0] != targets:
        last[:] = [(targets, take_survey(tree, "", targets))]
    return last[0][1]


def is_template(subject: Subject, flavor: str) -> bool:
    """Tell whether a flavor is stamped over the app itself: its build knows no flavors at all."""
    return bool(flavor) and not subject.flavors


def _refuse_unbuilt(subjects: Sequence[Subject], flavor: str) -> list[Note]:
    """Refuse a flavor that builds with flavors do not know: stamping it over the app would change all of them.

    Where only some do not, return what to say of those.
    """
    lacking = [s for s in subjects if flavor and s.flavors and not s.main_of(flavor)]
    if lacking and len(lacking) == len(subjects):
        known = ", ".join(dict.fromkeys(name for s in subjects for name in s.flavors))
        raise RefusedError(
            f"no build here has flavor {flavor}; they have {known}", remedy=f"Add it: onomaxis flavor add {flavor}."
        )
    return [
        Note(s.project.folder or ".", f"the {s.platform} build has no flavor {flavor}: it stays") for s in lacking
    ]


def _based(file: IdentityFile, subjects: Sequence[Subject], flavor: str) -> Iterator[Difference]:
    """Yield what is to change in the app itself."""
    for subject in subjects:
        if not flavor or is_template(subject, flavor):
            yield from differences(subject, file.as_app(flavor, subject.platform), "")


def _flavor_differences(file: IdentityFile, subjects: Sequence[Subject], flavor: str) -> Iterator[Difference]:
    """Yield what is to change in the flavors that the build knows."""
    for subject in subjects:
        yield from brand_differences(file, subject, flavor)


# -- the app itself


def _repeating(file: IdentityFile, wanted: Iterable[Difference], flavor: str) -> Iterator[Note]:
    """Yield what stays in a language although it repeats the name that goes: the file says so, perhaps unmeant."""
    for item in wanted:
        names = file.as_app(flavor, item.subject.platform).names if item.key == "name" else {}
        for locale, said in names.items():
            if item.today and said.text == item.today:
                home = f"{file.home(said.line)}:{said.line}"
                yield Note(
                    home, f"the name in {locale} stays “{said.text}”, as it says; the app becomes “{item.wanted}”"
                )


def _wishes(file: IdentityFile, subjects: Sequence[Subject], flavor: str) -> list[Wish]:
    """Return what is to change in the app itself as wishes: one for what all platforms say alike, then one each."""
    based = list(_based(file, subjects, flavor))
    found = [*based, *(held for item in based for held in _held(file, item, flavor))]
    concerned = [s for s in subjects if not flavor or is_template(s, flavor)]
    brands = {subject.platform: file.as_app(flavor, subject.platform) for subject in concerned}
    wishes: dict[frozenset[str], Wish] = {}

    def wish_for(platforms: Iterable[str]) -> frozenset[str]:
        key = frozenset(platforms)
        targets = tuple(target for s in concerned if s.platform in key for target in s.wished)
        wishes.setdefault(key, Wish(targets=targets, keep_code=True))
        return key

    everywhere = [subject.platform for subject in concerned]
    for item in found:
        platform = item.subject.platform
        if item.key in ("id", "code-package"):
            key = wish_for(everywhere)
            changed = {
                "id": {f"{platform}_id": item.wanted},
                "code-package": {"code_package": item.wanted, "keep_code": False},
            }[item.key]
        else:
            alike = [p for p in everywhere if _wanted(brands[p], item) == item.wanted]
            key = wish_for(alike)
            changed = {item.key: item.wanted}
            if item.key == "names":
                pair = (item.locale, item.wanted)
                known = wishes[key].names
                changed = {"names": known if pair in known else (*known, pair)}
        wishes[key] = wishes[key]._replace(**changed)  # type: ignore[arg-type]
    return sorted(wishes.values(), key=lambda wish: -len(wish.targets))


def _held(file: IdentityFile, item: Difference, flavor: str) -> Iterator[Difference]:
    """Yield what is said of languages: it stays so, although what repeats the old name goes with the new one."""
    if item.key == "name":
        for locale, said in file.as_app(flavor, item.subject.platform).names.items():
            yield item._replace(key="names", locale=locale, wanted=said.text, line=said.line)


def _wanted(brand: object, item: Difference) -> str | None:
    table = getattr(brand, "names" if item.key == "names" else "facets")
    said = table.get(item.locale or item.key)
    return said.text if said else None


# -- flavors


def _check(file: IdentityFile, wanted: Sequence[Difference]) -> None:
    """Check every new value by the rules of its platform. Raises InputError with its line and whose it is."""
    for item in wanted:
        try:
            _check_one(item)
        except InputError as error:
            whose = f"{item.flavor or 'the app itself'} on {'iOS' if item.subject.platform == 'ios' else 'Android'}"
            advice = f"Change “{item.key}” there{_OWN.get(item.key, '')}; today it is {item.today or 'not set'}."
            raise InputError(
                f"{whose}: {error.message}", file=file.home(item.line), line=item.line, remedy=advice
            ) from None


# What one platform alone demands of a facet is best said for that platform alone.
_OWN = {"version": ", or below [ios] for iOS alone", "build": ", or below [android] or [ios] for one platform alone"}


def _check_one(item: Difference) -> None:
    ios = item.subject.platform == "ios"
    if item.key == "id":
        (rules.bundle_id if ios else rules.android_id)(item.wanted)
    elif item.key == "code-package":
        rules.code_package(item.wanted)
    elif item.key in ("name", "names"):
        rules.display_name(item.wanted, ios)
    elif item.key == "version":
        rules.version_name(item.wanted, ios)
    elif item.key == "build":
        rules.build_number(item.wanted, not ios, ios)


def _in_step(survey: Survey, wanted: Sequence[Difference]) -> Draft:
    """Return the edits that give flavors their values: where a flavor's own place is, else in a new one."""
    draft = Draft()
    together, done = _together(survey, wanted)
    draft.edits += together
    wanted = [item for item in wanted if item not in done]
    shared = {key: _shared_places(subject) for key, subject in {id(i.subject): i.subject for i in wanted}.items()}
    for item in wanted:
        places = shared[id(item.subject)] if item.subject.of(item.flavor) else _shared_places(item.subject, True)
        edits = _own_edits(survey.tree, item, places)
        if edits is None:
            branch = item.subject.branch(item.flavor, item.locale)
            facet = FACETS["name" if item.key == "names" else item.key][item.subject.platform]
            found = kind_of(item.subject.project).own_facet(
                item.subject.project, survey.tree, branch, facet, item.wanted
            )
            draft.join(found)
        else:
            draft.edits += edits
        if item.key == "id" and item.today:
            draft.edits += _followers(survey, item)
    return draft


def _in_frameworks(survey: Survey, wanted: Sequence[Difference]) -> Draft:
    """Return the edits of what a framework's own file says of flavors that its native halves build."""
    draft, targets = Draft(), []
    for item in wanted:
        project, facet = item.subject.project, FACETS.get(item.key, {}).get(item.subject.platform)
        above = umbrella_of(survey.projects, project)
        if facet is not None and item.today and above is not None:
            renamed = (Renaming(facet, item.today, item.wanted),) if item.key == "id" else ()
            become = (Becoming(facet, item.today, item.wanted),) if item.key != "id" else ()
            platform = item.subject.platform
            aim = Wish(flavor=item.flavor, platform=platform).with_id(platform, item.wanted if renamed else "")
            targets.append(Target(project, aim, renamed, become, above))
    draft.edits += repeat(survey, targets, draft.notes)
    return draft


_NUMBERS = ("version", "build")


def _together(survey: Survey, wanted: Sequence[Difference]) -> tuple[list[Edit], list[Difference]]:
    """Return the edits of numbers in a place that all who ship take theirs from, and want the same there.

    Such a place is changed itself: nobody gets an entry of its own for what is alike.
    """
    by_place: dict[tuple[str, int], list[tuple[Difference, Value]]] = defaultdict(list)
    for item in wanted:
        value = item.subject.value(item.flavor, item.key) if item.key in _NUMBERS else None
        if value is not None and len(value.pieces) == 1 and value.text == item.today:
            by_place[value.place.file, value.place.start].append((item, value))
    edits: list[Edit] = []
    done: list[Difference] = []
    for place, items in by_place.items():
        (first, value), *_ = items
        alike = (
            len({item.wanted for item, _ in items}) == 1 and len({item.flavor.casefold() for item, _ in items}) > 1
        )
        if alike and all(_meant(app, [item for item, _ in items]) for app in _taking(survey, first.key, place)):
            facet = FACETS[first.key][first.subject.platform]
            edits += rewrite(survey.tree, facet, value, first.wanted).edits
            done += [item for item, _ in items]
    return edits, done


def _taking(survey: Survey, key: str, place: tuple[str, int]) -> Iterator[ShippedApp]:
    """Yield the shipped apps that take a number from a place."""
    for app in survey.apps:
        value = app.version if key == "version" else app.build
        spots = [value.place, *(piece.place for piece in value.pieces if piece.place)] if value is not None else []
        if place in {(spot.file, spot.start) for spot in spots}:
            yield app


def _meant(app: ShippedApp, items: Sequence[Difference]) -> bool:
    """Tell whether a shipped app is one of the flavors that change, or a combination with one of them."""
    mine = [item for item in items if item.subject.platform == app.platform and item.subject.owns(app.module)]
    shipped = mine[0].subject.as_variant(app).flavor if mine else ""
    parts = mine[0].subject.singles.parts(shipped) if mine else frozenset[str]()
    return any(same_flavor(item.flavor, part) for item in mine for part in (shipped, *parts))


def _launchers(tree: Tree, wanted: Sequence[Difference]) -> Draft:
    """Return the edits by which what launcher entries are called follows the names of their flavors."""
    draft = Draft()
    named = [item for item in wanted if item.key in ("name", "names")]
    projects = {project.key: project for project in read_projects(tree)} if named else {}
    for item in named:
        subject, project = item.subject, projects[item.subject.project.key]
        old = item.today or subject.text(item.flavor, "name") or ""
        branch = subject.branch(item.flavor, item.locale)
        draft.join(kind_of(project).launcher_labels(project, tree, branch, old, item.wanted))
    return draft


def _shared_places(subject: Subject, combined: bool = False) -> dict[tuple[str, int], set[str]]:
    """Return for every place that a value comes from the flavors that take theirs from it; or what they make too."""
    found: dict[tuple[str, int], set[str]] = defaultdict(set)
    for app in (*subject.brands, *(subject.apps if combined else ())):
        for value in _values(app):
            for spot in (value.place, *(piece.place for piece in value.pieces if piece.place)):
                found[spot.file, spot.start].add(app.flavor.casefold())
    return found


def _values(app: ShippedApp) -> Iterator[Value]:
    items = [app.id, app.name, app.version, app.build, *(value for _, value in app.names)]
    items += [value for part in app.parts for value in (part.id, part.name, part.version, part.build)]
    return (value for value in items if value is not None)


def _own_edits(tree: Tree, item: Difference, places: dict[tuple[str, int], set[str]]) -> list[Edit] | None:
    """Return the edits at places that only this flavor uses; None where one of its values comes from a shared one."""
    edits: list[Edit] = []
    facet = FACETS["name" if item.key == "names" else item.key][item.subject.platform]
    for value, text in _targets(item):
        own = [p for p in value.pieces if p.place and places[p.place.file, p.place.start] == {item.flavor.casefold()}]
        whole = places[value.place.file, value.place.start] == {item.flavor.casefold()}
        fixed = Value(
            tuple(piece if piece in own else piece._replace(place=None) for piece in value.pieces), value.place
        )
        done = rewrite(tree, facet, fixed, text) if own or whole else None
        if done is None or (done.replaced is not None and not whole):
            return None
        edits += done.edits
    return edits or None


def _targets(item: Difference) -> Iterator[tuple[Value, str]]:
    """Yield every value of a flavor that a difference is about, and what it shall read: in all configurations."""
    old = item.today or ""
    combined = (app for app in item.subject.apps if same_flavor(app.flavor, item.flavor))
    for app in item.subject.of(item.flavor) or combined:
        if item.key == "names":
            value = dict(app.names).get(item.locale)
            if value is not None:
                yield value, item.wanted
            continue
        values = {"id": app.id, "name": app.name, "version": app.version, "build": app.build}
        mine = [values[item.key]]
        if item.key != "name":
            for part in app.parts:
                mine.append({"id": part.id, "version": part.version, "build": part.build}[item.key])
        for value in mine:
            if value is None or not old:
                continue
            longer = item.key == "id" and item.wanted.startswith(f"{old}.")
            if longer and f"{value.text}.".startswith(f"{item.wanted}."):
                continue  # called so already, while what ships had forgotten its own
            if value.text == old:
                yield value, item.wanted
            elif item.key == "id" and value.text.startswith(f"{old}."):
                yield value, item.wanted + value.text[len(old) :]


def _followers(survey: Survey, item: Difference) -> Iterator[Edit]:
    """Yield what follows a flavor's ID in the flavor's own files: authorities, links, schemes."""
    facet = FACETS["id"][item.subject.platform]
    renaming = Renaming(facet, item.today or "", item.wanted)
    mark = f"/src/{item.flavor}/"
    for mention in survey.mentions:
        if mention.owner is None and mention.facet is facet and mention.role is Role.FOLLOWER:
            new = renaming.apply(mention.value) if mark in mention.place.file else None
            if new is not None:
                yield place_edit(survey.tree, mention.place, new, facet)


def _said(wanted: Sequence[Difference]) -> list[Line]:
    labels = {
        "id": "ID",
        "name": "display name",
        "version": SAID[Facet.VERSION_NAME],
        "build": SAID[Facet.VERSION_CODE],
    }
    lines = []
    for item in wanted:
        label = f"name ({item.locale})" if item.key == "names" else labels[item.key]
        lines.append(Line(f"{item.flavor} {label}", f"{item.today or 'not set'} → {item.wanted}"))
    return list(dict.fromkeys(lines))


def _prove(stages: Stages, file: IdentityFile, flavor: str) -> None:
    """Read the result again. Raises RefusedError where it does not say what the file says."""
    subjects = subjects_of(file, read_projects(stages.tree))
    left = [*_based(file, subjects, flavor), *_flavor_differences(file, subjects, flavor)]
    if not left:
        return
    lines = [
        f"{file.home(item.line)}:{item.line}: {item.subject.platform} {item.flavor or 'app'}: {item.key}"
        f"{f' {item.locale}' if item.locale else ''} would read “{item.today or ''}”, not “{item.wanted}”"
        for item in left
    ]
    raise RefusedError(
        "\n  ".join(["not everything can be changed to what the identity file says:", *lines]),
        remedy="Give each flavor its own place for the value by hand, then run this again; nothing was changed.",
    )
