"""Values brought in step with the identity file: every declared place reads what the brand gives it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import NamedTuple

from onomaxis.brands.assets import Asset, brand_files, checked_asset, in_source_set, spelled_for
from onomaxis.brands.facets import is_template
from onomaxis.brands.keys import locked
from onomaxis.brands.subjects import Subject, Worn, subjects_of, worn
from onomaxis.errors import FormatError, InputError, RefusedError
from onomaxis.flavor_names import selects
from onomaxis.formats.color import channels
from onomaxis.identity.declared import DeclaredValue, PlaceOfValue
from onomaxis.identity.file import Brand, IdentityFile, Said
from onomaxis.model import Line, Note
from onomaxis.projects.draft import Draft
from onomaxis.projects.made_places import made_place
from onomaxis.projects.places import Places, Spot
from onomaxis.projects.text_places import (
    attribute_spot,
    constant_spot,
    env_spot,
    label_spot,
    pointer_spot,
    property_spot,
)
from onomaxis.surveys.flavors import flavors_of
from onomaxis.surveys.survey import kind_of, read_projects
from onomaxis.tree import Tree, inside
from onomaxis.writing.planned import Stages
from onomaxis.writing.proof import fault

_FILED = {
    "env": env_spot,
    "property": property_spot,
    "constant": constant_spot,
    "pointer": pointer_spot,
    "attribute": attribute_spot,
    "label": label_spot,
}
_HIDDEN = "••••"


class Reading(NamedTuple):
    """One place of one value for one flavor: what it reads, what it shall read."""

    value: DeclaredValue
    place: PlaceOfValue
    flavor: str
    platform: str
    spot: Spot
    wanted: str
    line: int

    @property
    def right(self) -> bool:
        """True when the place reads as wanted; colours are compared as colours."""
        return same_text(self.value.type, self.spot.text, self.wanted)

    def shown(self, text: str) -> str:
        """Return a text as it may be shown."""
        return _HIDDEN if self.value.secret else text


class Unheld(NamedTuple):
    """A value of a flavor that one of its places cannot hold, because all flavors share it."""

    value: DeclaredValue
    place: PlaceOfValue
    flavor: str
    line: int


def same_text(kind: str, one: str, other: str) -> bool:
    """Tell whether two texts say the same as values of a type."""
    if kind == "color" and one.startswith("#") and other.startswith("#"):
        try:
            return channels(one) == channels(other)
        except ValueError:
            return False
    return one == other


def stamp_values(stages: Stages, file: IdentityFile, flavor: str = "") -> None:
    """Write every value where it differs. Raises InputError for a place that is gone, RefusedError if shared."""
    if not file.values:
        return
    _refuse_locked(file, stages.tree, flavor)
    _make_places(stages, file, flavor)
    items = list(read_values(stages.tree, file, flavor))
    found = subjects_of(file, read_projects(stages.tree))
    # What flavors take from the app, and combinations from their flavors, is there before they are looked at.
    several = {n for s in found for n in s.flavors if s.targets and len(s.singles.parts(n)) > 1}
    made = {*several, *(name for subject in found for name in subject.made)}
    written: list[bool] = []
    for level in range(3):
        items = list(read_values(stages.tree, file, flavor)) if any(written[-1:]) else items
        chosen = [item for item in items if bool(item.flavor) + (item.flavor in made) == level]
        written.append(_write(stages, file, chosen, items))
    if any(written):
        _prove(stages, file, flavor)


def _write(
    stages: Stages,
    file: IdentityFile,
    chosen: Sequence[Reading | Asset | Unheld],
    items: Sequence[Reading | Asset | Unheld],
) -> bool:
    """Write some values of *items*, and tell whether anything but whole files was written."""
    draft = Draft()
    lines: list[Line] = []
    for item in chosen:
        if isinstance(item, Unheld):
            said = f"all flavors share this file: “{item.value.name}” of {item.flavor} is not written"
            stages.note([Note(item.place.file or item.place.shown, f"{said}; put {{flavor}} into its file or name")])
        elif isinstance(item, Asset):
            data = checked_asset(stages.tree, file, item)
            if stages.tree.read(item.file) != data:
                draft.written[item.file] = data
                lines.append(Line(f"{_of(item.flavor)}{item.value.name}", item.file))
        elif not item.right:
            draft.join(_written(item, items))
            shown = "another secret, not shown" if item.value.secret else f"{item.spot.text} → {item.wanted}"
            lines.append(Line(f"{_of(item.flavor)}{item.value.name}", shown))
    try:
        stages.add_draft(draft)
    except FormatError as error:
        raise InputError(error.message, file=error.file, line=error.line) from None
    stages.say(lines)
    return bool(draft.edits or draft.created)


def _refuse_locked(file: IdentityFile, tree: Tree, flavor: str) -> None:
    """Refuse to leave out a value that comes from a keystore whose password is not there."""
    for subject in subjects_of(file, read_projects(tree)):
        names = [flavor] if is_template(subject, flavor) else [item.built for item in worn(file, subject, flavor)]
        for name in names or [""]:
            for value, keystore in locked(file, file.variant(name, subject.singles, subject.platform)):
                said = f"“{value}” comes from {keystore.file}, whose password is not in {keystore.password}"
                remedy = f"Set the environment variable {keystore.password}; nothing was changed."
                raise InputError(said, file=file.home(keystore.line), line=keystore.line, remedy=remedy)


def _written(item: Reading, items: Sequence[Reading | Asset | Unheld]) -> Draft:
    """Return what writes a value: where flavors share a place and all want the same of it, the place itself."""
    draft = item.spot.write(item.wanted)
    if not draft.refusals:
        return draft
    mates = [
        other
        for other in items
        if isinstance(other, Reading)
        and (other.value, other.place, other.platform) == (item.value, item.place, item.platform)
        and other.spot.at == item.spot.at
    ]
    wanted = dict.fromkeys((other.flavor or "the app itself", other.shown(other.wanted)) for other in mates)
    if len({other.wanted for other in mates}) == 1 and len(mates) > 1:
        whole = next((other.spot.whole for other in mates if other.spot.whole is not None), None)
        if whole is not None:
            return whole(item.wanted)
    said = ", ".join(f"{text} for {name}" for name, text in wanted)
    ways = (
        "Either let it refer to what differs (a build setting, a resource, a placeholder), or put {flavor} into the "
        "place's file, or give all flavors one value below [app.values]."
    )
    reason = f"“{item.value.name}” is to be {said}, and all of them share this place. {ways}"
    return Draft(refusals=[Note(item.spot.at, reason)]) if len(wanted) > 1 else draft


def _make_places(stages: Stages, file: IdentityFile, flavor: str) -> None:
    """Make every place that is missing and may be made. Raises InputError where one cannot be."""
    wanted = [(value, place) for value in file.values for place in value.places if place.create]
    for value, place in wanted:
        for platform in dict.fromkeys(s.platform for s in subjects_of(file, read_projects(stages.tree))):
            if place.platform in ("", platform):
                lacking = _lacking(stages, file, value, place, platform, flavor)
                alone = lacking is not None
                for built in _builds(stages, file, platform, flavor, value, place) if lacking is None else lacking:
                    _make_place(stages, file, value, place, platform, built, flavor, alone)


def _lacking(
    stages: Stages, file: IdentityFile, value: DeclaredValue, place: PlaceOfValue, platform: str, flavor: str
) -> list[str] | None:
    """Return the flavors that lack a place which others have of their own.

    None where no flavor has it, or the identity file gives the app itself a text: then it is made for all; and where
    all share it already.
    """
    subject = next(s for s in subjects_of(file, read_projects(stages.tree)) if s.platform == platform)
    if "{flavor}" in place.file or place.parted or value.name in file.brand("", platform).values:
        return None

    def has(name: str) -> bool:
        try:
            _spot(stages.tree, file, value, place, subject, place.file, name)
        except InputError:
            return False
        return True

    having = {name: has(name) for name in subject.flavors}
    if not any(having.values()) or (all(having.values()) and has("")):
        return None
    return [item.built for item in worn(file, subject, flavor) if not having.get(item.built, True)]


def _builds(
    stages: Stages, file: IdentityFile, platform: str, flavor: str, value: DeclaredValue, place: PlaceOfValue
) -> list[str]:
    """Return the flavors for which a place is looked for: each, where its file is called after them."""
    subject = next(s for s in subjects_of(file, read_projects(stages.tree)) if s.platform == platform)
    if not ("{flavor}" in place.file or place.parted) or is_template(subject, flavor):
        listed = (item.built for item in worn(file, subject) if item.built)
        if subject.targets:
            return [item.built for item in worn(file, subject, flavor) if item.built]
        return ["" if subject.stands_alone else next(listed, "")]
    itself = [""] if subject.ships_alone and not flavor and not place.parted else []
    named = (item for item in worn(file, subject, flavor) if item.named)
    return [*itself, *(item.named for item in named if not _inherited(file, subject, item, value.name))]


def _make_place(
    stages: Stages,
    file: IdentityFile,
    value: DeclaredValue,
    place: PlaceOfValue,
    platform: str,
    built: str,
    flavor: str,
    alone: bool,
) -> None:
    """Make a place where it is missing; *alone* in the flavor that lacks it, since others have one of their own."""
    subject = next(s for s in subjects_of(file, read_projects(stages.tree)) if s.platform == platform)
    base, own = file.brand("", platform).values, file.variant(built or flavor, subject.singles, platform).values
    said = base.get(value.name) if not built else own.get(value.name)
    said = said or own.get(value.name) or _any_brand(file, platform, value.name)
    reader, branch = _reader(stages.tree, subject, built), subject.branch(built)
    path, place = spelled_for(place.file, built or flavor), place.for_flavor(built or flavor)
    if said is None or (path and not inside(path)):
        return
    texts = [file.brand(name, platform).values.get(value.name) for name in ("", *file.flavors)]
    varied = len({item.text for item in texts if item is not None}) > 1
    try:
        _spot(stages.tree, file, value, place, subject, path, built)
        alike = not varied or subject.targets  # each target has a property list, or shares one
        opened = reader.opened(place.selector, place.name) if reader and not alike and not path else None
        if opened is not None:
            stages.add_draft(opened)
            stages.say([Line(value.name, f"{place.shown} refers to a build setting now: each flavor has its own")])
    except InputError as missing:
        filed = place.selector in _FILED and (place.selector != "property" or path)
        if filed:
            draft = made_place(stages.tree, place.selector, place.name, path, said.text, value.type)
        else:
            whose = branch.name if alone or subject.targets else ""
            several = varied and not subject.targets
            what = (place.selector, place.name, said.text, value.type, place.locale, several, whose)
            draft = reader.made(*what) if reader is not None else None
        if draft is None:
            raise missing from None
        stages.add_draft(draft)
        where = next((edit.file for edit in draft.edits), next((name for name, _ in draft.created), path))
        stages.say([Line(value.name, f"made: {place.shown} in {where}")])


def _any_brand(file: IdentityFile, platform: str, name: str) -> Said | None:
    return next((said for flavor in file.flavors if (said := file.brand(flavor, platform).values.get(name))), None)


def _of(flavor: str) -> str:
    return f"{flavor} " if flavor else ""


def _prove(stages: Stages, file: IdentityFile, flavor: str) -> None:
    wrong = [i for i in read_values(stages.tree, file, flavor) if isinstance(i, Reading) and not i.right]
    if wrong:
        lines = [
            f"{file.home(i.line)}:{i.line}: {i.value.name} would read “{i.shown(i.spot.text)}” at {i.spot.at}"
            for i in wrong
        ]
        raise RefusedError("\n  ".join(["not every value can be brought in step:", *lines]))


def prove_others(before: Tree, after: Tree, file: IdentityFile, flavor: str) -> None:
    """Make sure that the values of every other flavor than *flavor* read as before. Raises FaultError."""

    def others(tree: Tree) -> dict[tuple[str, str, str, str], Spot]:
        every = (item for item in read_values(tree, file) if isinstance(item, Reading))
        known = flavors_of(read_projects(tree))
        kept = (item for item in every if not selects(flavor, item.flavor, known))
        return {(i.value.name, i.flavor, i.platform, f"{i.place.selector} {i.place.file}"): i.spot for i in kept}

    now = others(after)
    for key, spot in others(before).items():
        if key not in now or now[key].text != spot.text:
            raise fault(spot.file, spot.line, f"{key[0]} of {key[1] or 'the app'} would read otherwise")


def read_values(tree: Tree, file: IdentityFile, flavor: str = "") -> Iterator[Reading | Asset | Unheld]:
    """Read every place of every value, for the app itself and for each flavor that the build knows.

    Raises InputError for a place that is gone, with the identity file's line of it.
    """
    flavor = flavor or file.standing
    subjects = subjects_of(file, read_projects(tree))
    for subject in subjects:
        if not flavor or is_template(subject, flavor):
            itself = Worn("", flavor, file.brand(flavor, subject.platform))
            yield from _of_brand(tree, file, subjects, subject, itself)
        for item in worn(file, subject, flavor) if subject.flavors else ():
            yield from _of_brand(tree, file, subjects, subject, item)


def _of_brand(
    tree: Tree, file: IdentityFile, subjects: Sequence[Subject], subject: Subject, item: Worn
) -> Iterator[Reading | Asset | Unheld]:
    """Read the values of one flavor on one platform.

    What stands in files that the build knows nothing of is read for the flavors that the identity file names, all
    else for what the build makes.
    """
    brand, base = item.brand, file.brand("", subject.platform)
    flavor = item.built or item.named
    built = flavor if subject.flavors else ""
    first = next(s for s in subjects if s is subject or not built or s.of(flavor) or s.combinations(flavor))
    for value in file.values:
        if value.files and (item.named or not built):
            yield from _many(tree, file, value, subject, subject is first, built, flavor)
        said = brand.values.get(value.name)
        if said is None or value.files:
            continue
        for place in value.places:
            if place.platform and place.platform != subject.platform:
                continue
            filed = _is_filed(place, value)
            if built and not (item.named if filed else item.built):
                continue
            if filed and built and _inherited(file, subject, item, value.name):
                continue  # its flavors' files say it
            called = item.named if filed and item.named else flavor
            if not (flavor or subject.stands_alone or _is_shared(place, value)):
                continue  # nothing is built of the app itself: what it says is read of each flavor
            if place.parted and not flavor:
                continue  # an entry of each flavor's, and none of the app itself
            if not place.platform and subject is not first:
                _refuse_unequal(file, value, place, flavor, (brand, file.brand(flavor, first.platform)))
                continue
            if not flavor and "{flavor}" in place.file and not any(s.ships_alone for s in subjects):
                continue  # each flavor has its own, and nothing else ships
            spelled = spelled_for(place.file, called)
            if built and spelled == place.file and not place.parted and _is_shared(place, value):
                if value.name not in base.values or not same_text(
                    value.type, said.text, base.values[value.name].text
                ):
                    yield Unheld(value, place, flavor, said.line)
                continue
            if value.type == "file" and not place.selector:
                own = in_source_set(spelled, built)
                shown = built and own != spelled and not tree.exists(own)  # the app's own file is seen through
                if not shown or value.name not in base.values or said.text != base.values[value.name].text:
                    yield Asset(value, built, own, said.text, said.line)
                continue
            own_place = place.for_flavor(called)
            spot = _spot(tree, file, value, own_place, subject, spelled, built)
            yield Reading(value, place, built, subject.platform, spot, said.text, said.line)


def _many(
    tree: Tree, file: IdentityFile, value: DeclaredValue, subject: Subject, first: bool, built: str, flavor: str
) -> Iterator[Asset | Unheld]:
    """Yield the files of a brand that a value gives all at once, each with the one that it replaces."""
    sources = brand_files(tree, file, value, built or flavor)
    for place in value.places if sources else ():
        if place.platform != subject.platform and (place.platform or not first):
            continue
        spelled = spelled_for(place.file, built or flavor)
        if built and spelled == place.file and _is_shared(place, value):
            yield Unheld(value, place, flavor, value.line)
            continue
        for source, name in sources:
            target = in_source_set(spelled.replace("*", name), built)
            yield Asset(value, built, target, source, value.line)


def _refuse_unequal(
    file: IdentityFile, value: DeclaredValue, place: PlaceOfValue, flavor: str, brands: Iterable[Brand]
) -> None:
    texts = {said.text for brand in brands if (said := brand.values.get(value.name))}
    if len(texts) > 1:
        message = f"value “{value.name}” differs between the platforms{f' in {flavor}' if flavor else ''}"
        remedy = 'Give the place a platform: platform = "android" or "ios".'
        raise InputError(message, file=file.home(place.line), line=place.line, remedy=remedy)


def _inherited(file: IdentityFile, subject: Subject, item: Worn, name: str) -> bool:
    """Tell whether a combination has a value from one of its flavors, or from the app."""
    parts = subject.singles.parts(item.built or item.named)
    brands = [file.brand(part, subject.platform) for part in parts] if len(parts) > 1 else []
    return any(brand.values.get(name) == item.brand.values.get(name) for brand in brands)


def _is_filed(place: PlaceOfValue, value: DeclaredValue) -> bool:
    """Tell whether a place stands in a file that the build knows nothing of."""
    named = "{flavor}" in place.file or place.parted
    return _is_shared(place, value) or (named and (place.selector in _FILED or not place.selector))


def _is_shared(place: PlaceOfValue, value: DeclaredValue) -> bool:
    """Tell whether all flavors share a place whose file does not name them: writing it for one would change all."""
    if value.type == "file" and not place.selector:
        return "/src/main/" not in f"/{place.file}"
    if place.selector in ("property", "color-set") or (place.selector, place.name) == ("level", "compile-sdk"):
        return True
    return bool(place.file) and place.selector not in ("resource", "plist", "entitlement", "url-scheme")


def _spot(
    tree: Tree,
    file: IdentityFile,
    value: DeclaredValue,
    place: PlaceOfValue,
    subject: Subject,
    path: str,
    flavor: str,
) -> Spot:
    try:
        if path and not inside(path):
            raise InputError("the place lies outside the project", file=file.home(place.line), line=place.line)
        path = _where_now(tree, path)
        if place.selector in _FILED and (place.selector != "property" or path):
            return _FILED[place.selector](tree, place.name, path)
        reader = _reader(tree, subject, flavor)
        if reader is None:
            raise InputError(
                f"this kind of project has no “{place.selector}”", file=file.home(place.line), line=place.line
            )
        return reader.spot(place.selector, place.name, path, subject.branch(flavor).name, place.locale)
    except InputError as error:
        where = (
            f"{error.file}:{error.line}: " if error.line and error.file else f"{error.file}: " if error.file else ""
        )
        if error.file == file.path:
            raise
        whose = f" of {flavor}" if flavor else ""
        message = f"value “{value.name}”{whose}, {place.shown}: {where}{error.message}"
        remedy = f"{error.remedy} Or let it be made: create = true." if not place.create else error.remedy
        raise InputError(message, file=file.home(place.line), line=place.line, remedy=remedy) from None


def _reader(tree: Tree, subject: Subject, flavor: str) -> Places | None:
    """Return what reads the places of a flavor: of its target, where it has one of its own."""
    module = subject.branch(flavor).module
    read = lambda: kind_of(subject.project).places(subject.project, tree, module)  # noqa: E731
    return tree.kept(("places", subject.project.key, module), read)


def _where_now(tree: Tree, path: str) -> str:
    """Return where a file of code stands today: where its package moved, the one of its name in its source root."""
    root = next((head + word for word in ("/java", "/kotlin") if (head := path.partition(f"{word}/")[0]) != path), "")
    if not root or tree.exists(path):
        return path
    name = path.rpartition("/")[2]
    named = [item for item in tree.below(root) if item.rpartition("/")[2] == name]
    return named[0] if len(named) == 1 else path
