"""Values brought in step with the identity file: every declared place reads what the brand gives it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from onomaxis.brands.assets import Asset, checked_asset, spelled_for
from onomaxis.brands.facets import is_template
from onomaxis.brands.keys import locked
from onomaxis.brands.readings import (
    FILED,
    Reading,
    Unheld,
    is_filed,
    is_inherited,
    read_values,
    value_reader,
    value_spot,
)
from onomaxis.brands.subjects import Subject, load_identity, subjects_of
from onomaxis.brands.worn import worn
from onomaxis.errors import FormatError, InputError, RefusedError
from onomaxis.flavor_names import in_order, same_flavor, selects
from onomaxis.identity.declared import DeclaredValue, PlaceOfValue
from onomaxis.identity.file import IdentityFile, Said
from onomaxis.model import Line, Note
from onomaxis.platforms import PLATFORM_NAMES, PLATFORMS
from onomaxis.projects.draft import Draft
from onomaxis.projects.made_places import made_place
from onomaxis.projects.places import Spot
from onomaxis.surveys.flavors import flavors_of
from onomaxis.surveys.survey import read_projects
from onomaxis.tree import Tree, inside
from onomaxis.writing.planned import Stages
from onomaxis.writing.proof import fault


def stamp_values(stages: Stages, file: IdentityFile, flavor: str = "") -> None:
    """Write every value where it differs. Raises InputError for a place that is gone, RefusedError if shared."""
    if not file.values:
        return
    _refuse_locked(file, stages.tree, flavor)
    _make_places(stages, file, flavor)
    items = list(read_values(stages.tree, file, flavor))
    found = subjects_of(file, read_projects(stages.tree))
    # What flavors take from the app, and combinations from their flavors, is there before they are looked at.
    made = {
        (subject.platform, name)
        for subject in found
        for name in (*subject.made, *subject.flavors)
        if name in subject.made or (subject.targets and subject.branch(name).name)
    }

    def level_of(item: Reading | Asset | Unheld) -> int:
        platforms = (item.platform,) if isinstance(item, Reading) else PLATFORMS
        return bool(item.flavor) + any((platform, item.flavor) in made for platform in platforms)

    written: list[bool] = []
    for level in range(3):
        items = list(read_values(stages.tree, file, flavor)) if any(written[-1:]) else items
        chosen = [item for item in items if level_of(item) == level]
        written.append(_write(stages, file, chosen, items))
    if any(written):
        _prove(stages, file, flavor)
    stages.note(_left_to_flavors(stages.tree, file, found, flavor))


def follow_templates(before: Tree, file: IdentityFile, stages: Stages) -> None:
    """Let values that follow from what an app is called follow: those that read rightly in the tree *before*.

    *file* is the identity file of that tree; the one in *stages* says what they are to read now.
    """
    if not any(value.template for value in file.values):
        return

    def key(item: Reading) -> tuple[str, str, str, str]:
        return item.value.name, item.flavor, item.platform, f"{item.place.shown} {item.place.file}"

    right = {key(item) for item in read_values(before, file) if isinstance(item, Reading) and item.right}
    now = load_identity(stages.tree)
    items = list(read_values(stages.tree, now)) if now is not None and right else []
    wrong = [item for item in items if isinstance(item, Reading) and not item.right and key(item) in right]
    if now is not None and wrong:
        _write(stages, now, wrong, items)


def _left_to_flavors(tree: Tree, file: IdentityFile, subjects: Sequence[Subject], flavor: str) -> Iterator[Note]:
    """Say what a combination alone was not given, because it takes it from one of its flavors, as others do."""
    for subject in subjects:
        parts = subject.singles.parts(flavor) if subject.built_as(flavor) in subject.made else ()
        for part in in_order(flavor, parts):
            items = (item for item in read_values(tree, file, part) if isinstance(item, Reading) and not item.right)
            for item in items:
                own = same_flavor(item.flavor, part) and item.platform == subject.platform
                if own and not is_filed(item.place, item.value):
                    said = f"“{item.value.name}” is that of {part}, which others share: it stays"
                    yield Note(item.spot.at, f"{said} (--flavor {part} changes it)")


def _write(
    stages: Stages,
    file: IdentityFile,
    chosen: Sequence[Reading | Asset | Unheld],
    items: Sequence[Reading | Asset | Unheld],
) -> bool:
    """Write some values of *items*, and tell whether anything but whole files was written."""
    draft = Draft()
    lines: list[Line] = []
    told: dict[str, list[tuple[str, str]]] = {}
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
            label = f"{_of(item.flavor)}{item.value.name}"
            told.setdefault(label, []).append((PLATFORM_NAMES[item.platform], shown))
    for label, each in told.items():
        alike = len({shown for _, shown in each}) == 1 or len({platform for platform, _ in each}) == 1
        lines += [Line(label if alike else f"{label} ({platform})", shown) for platform, shown in each]
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
            value_spot(stages.tree, file, value, place, subject, place.file, name)
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
    base = file.brand("", platform).values.get(value.name)

    def general(name: str) -> bool:
        return file.brand(name, platform).values.get(value.name) == base

    mine = [item.named for item in named if not is_inherited(file, subject, item, value.name)]
    return [*itself, *(n for n in mine if not general(n) or all(map(general, subject.mates(n))))]


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
    reader, branch = value_reader(stages.tree, subject, built), subject.branch(built)
    path, place = spelled_for(place.file, built or flavor), place.for_flavor(built or flavor)
    if said is None or (path and not inside(path)):
        return
    texts = [file.brand(name, platform).values.get(value.name) for name in ("", *file.flavors)]
    varied = len({item.text for item in texts if item is not None}) > 1
    try:
        value_spot(stages.tree, file, value, place, subject, path, built)
        alike = not varied or subject.targets  # each target has a property list, or shares one
        opened = reader.opened(place.selector, place.name) if reader and not alike and not path else None
        if opened is not None:
            stages.add_draft(opened)
            stages.say([Line(value.name, f"{place.shown} refers to a build setting now: each flavor has its own")])
    except InputError as missing:
        filed = place.selector in FILED and (place.selector != "property" or path)
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
