"""What every place of every value reads, for the app itself and for everything that a build makes of its flavors."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import NamedTuple

from onomaxis.brands.assets import Asset, brand_files, in_source_set, spelled_for
from onomaxis.brands.facets import is_template
from onomaxis.brands.subjects import Subject, subjects_of
from onomaxis.brands.worn import Worn, worn
from onomaxis.errors import InputError
from onomaxis.formats.color import channels
from onomaxis.identity.declared import DeclaredValue, PlaceOfValue
from onomaxis.identity.file import Brand, IdentityFile
from onomaxis.identity.schema import OWED
from onomaxis.projects.places import Places, Spot
from onomaxis.projects.text_places import (
    attribute_spot,
    constant_spot,
    env_spot,
    label_spot,
    pointer_spot,
    property_spot,
    version_info_spot,
)
from onomaxis.surveys.survey import kind_of, read_projects
from onomaxis.tree import Tree, inside

FILED = {
    "env": env_spot,
    "version-info": version_info_spot,
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
        """True when the place reads as wanted; colours are compared as colours. What is owed is nobody's wish."""
        return OWED in self.wanted or same_text(self.value.type, self.spot.text, self.wanted)

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
            if not _is_read(file, subject, item, value, place):
                continue
            filed = is_filed(place, value)
            called = item.named if filed and item.named else flavor
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
            try:
                spot = value_spot(tree, file, value, own_place, subject, spelled, built)
            except InputError:
                if (
                    filed
                    and said == base.values.get(value.name)
                    and _others_have(tree, file, value, place, subject, called)
                ):
                    continue  # such files are of another dimension: brands have them, environments do not
                raise
            yield Reading(value, place, built, subject.platform, spot, said.text, said.line)


def _is_read(file: IdentityFile, subject: Subject, item: Worn, value: DeclaredValue, place: PlaceOfValue) -> bool:
    """Tell whether a place of a value is one that a flavor, or the app itself, reads by itself."""
    flavor, filed = item.built or item.named, is_filed(place, value)
    if place.platform and place.platform != subject.platform:
        return False
    if (place.selector, subject.platform) == ("level", "ios") and not _is_on_phones(subject):
        return False
    if not flavor:  # an entry of each flavor's is none of the app; where nothing is built of it, each flavor reads it
        return not place.parted and (subject.stands_alone or _is_shared(place, value))
    if not subject.flavors:
        return True
    if filed and is_inherited(file, subject, item, value.name):
        return False  # its flavors' files say it
    return bool(item.named if filed else item.built)


def _is_on_phones(subject: Subject) -> bool:
    """Tell whether an Apple app runs on iOS: levels of iOS are none of a desktop's app beside it."""
    return any(app.platform == "ios" for app in subject.project.apps if subject.owns(app.module))


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


def is_inherited(file: IdentityFile, subject: Subject, item: Worn, name: str) -> bool:
    """Tell whether a combination has a value from one of its flavors, or from the app."""
    parts = subject.singles.parts(item.built or item.named)
    brands = [file.brand(part, subject.platform) for part in parts] if len(parts) > 1 else []
    return any(brand.values.get(name) == item.brand.values.get(name) for brand in brands)


def _others_have(
    tree: Tree, file: IdentityFile, value: DeclaredValue, place: PlaceOfValue, subject: Subject, flavor: str
) -> bool:
    """Tell whether flavors of another dimension have a place of their own, in files that are called after them."""
    for mate in map(file.named, sorted(subject.mates(flavor))):
        try:
            value_spot(tree, file, value, place.for_flavor(mate), subject, spelled_for(place.file, mate), mate)
        except InputError:
            continue
        return True
    return False


def is_filed(place: PlaceOfValue, value: DeclaredValue) -> bool:
    """Tell whether a place stands in a file that the build knows nothing of."""
    named = "{flavor}" in place.file or place.parted
    return _is_shared(place, value) or (named and (place.selector in FILED or not place.selector))


def _is_shared(place: PlaceOfValue, value: DeclaredValue) -> bool:
    """Tell whether all flavors share a place whose file does not name them: writing it for one would change all."""
    if value.type == "file" and not place.selector:
        return "/src/main/" not in f"/{place.file}"
    if place.selector in ("property", "color-set") or (place.selector, place.name) == ("level", "compile-sdk"):
        return True
    return bool(place.file) and place.selector not in ("resource", "plist", "entitlement", "url-scheme")


def value_spot(
    tree: Tree,
    file: IdentityFile,
    value: DeclaredValue,
    place: PlaceOfValue,
    subject: Subject,
    path: str,
    flavor: str,
) -> Spot:
    """Return one place of a value as a flavor reads it. Raises InputError at the file's line where it is gone."""
    try:
        if path and not inside(path):
            raise InputError("the place lies outside the project", file=file.home(place.line), line=place.line)
        path = _where_now(tree, path)
        if place.selector in FILED and (place.selector != "property" or path):
            return FILED[place.selector](tree, place.name, path)
        reader = value_reader(tree, subject, flavor)
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


def value_reader(tree: Tree, subject: Subject, flavor: str) -> Places | None:
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
