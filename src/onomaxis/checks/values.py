"""Rules about values: every place reads what the identity file gives it."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator

from onomaxis.brands.assets import Asset, brand_files, checked_asset
from onomaxis.brands.keys import locked
from onomaxis.brands.readings import Unheld, read_values
from onomaxis.brands.tree_brand import given_keys
from onomaxis.checks.context import Context, called
from onomaxis.checks.finding import Finding, rule
from onomaxis.checks.registry import check
from onomaxis.errors import InputError
from onomaxis.identity.file import Brand
from onomaxis.platforms import PLATFORMS

DIFFERS = rule("VALUE01")
GONE = rule("VALUE02")
SHARED = rule("VALUE03")
ASSET = rule("VALUE04")
LACKS = rule("VALUE05")
LOCKED = rule("VALUE06")
WRONG = rule("VALUE07")
SILENT = rule("VALUE08")


@check(WRONG)
def forms(context: Context) -> Iterator[Finding]:
    """Name values that their type or pattern forbids: those of every brand, whether it is built here or not."""
    file = context.file
    for flavor in ("", *file.flavors) if file is not None else ():
        for platform in PLATFORMS if file is not None else ():
            for said in file.as_app(flavor, platform).wrong if file is not None else ():
                yield Finding(WRONG, said.text, context.spot(said), flavor)


@check(SILENT)
def given(context: Context) -> Iterator[Finding]:
    """Name what a brand leaves open and the others give: the tree would keep what the brand before had."""
    brands: dict[str, list[tuple[str, Brand]]] = defaultdict(list)
    file = context.file
    for subject, flavor, brand in context.unbuilt():
        brands[subject.platform].append((flavor, brand))
    for platform, several in brands.items():
        if file is not None and file.standing:
            several = [(file.standing, file.as_app(file.standing, platform)), *several]
        told = {flavor: set(given_keys(brand, platform)) for flavor, brand in several}
        for flavor, keys in told.items():  # an ID is a brand's own, or none
            if file is not None and file.level([flavor], platform, (("id",), ("id-suffix",))) in ("app", "platform"):
                keys.discard("id")
        counted = Counter(key for keys in told.values() for key in keys)
        for flavor, keys in told.items() if file is not None else ():
            lacking = sorted(key for key, number in counted.items() if number * 2 > len(told) and key not in keys)
            if lacking and file is not None:
                line = file.line("flavors", flavor)
                yield Finding(SILENT, f"{flavor} gives no {', '.join(lacking)}", ((file.home(line), line),), flavor)


@check(LOCKED)
def keystores(context: Context) -> Iterator[Finding]:
    """Name what could not be compared without a password."""
    file = context.file
    for subject in context.named if file is not None else ():
        for flavor in context.flavored(subject):
            for value, keystore in (
                locked(file, file.variant(flavor, subject.singles, subject.platform)) if file is not None else ()
            ):
                said = f"{called(subject.platform, flavor)}: “{value}” needs {keystore.password}"
                yield Finding(LOCKED, said, ((file.home(keystore.line) if file else "", keystore.line),), flavor)


@check(LACKS)
def brands_alike(context: Context) -> Iterator[Finding]:
    """Compare the files that brands give for values which stand for many."""
    file = context.file
    built = {file.named(flavor) for subject in context.named for flavor in subject.flavors} if file else set()
    flavors = [flavor for flavor in file.flavors if flavor in built or not built] if file else []
    for value in (item for item in (file.values if file else ()) if item.files):
        having: dict[str, set[str]] = {}
        for flavor in flavors:
            assert file is not None
            try:
                having[flavor] = {name for _, name in brand_files(context.tree, file, value, flavor)}
            except InputError:
                continue  # told with the values
        counted = Counter(name for names in having.values() for name in names)
        for flavor, names in having.items():
            lacking = sorted(
                name for name, number in counted.items() if number * 2 > len(having) and name not in names
            )
            if lacking and file is not None:
                said = f"{flavor} has no {', '.join(lacking)} among {value.files}"
                yield Finding(LACKS, said, ((file.home(value.line), value.line),), flavor)


@check(DIFFERS, GONE, SHARED, ASSET)
def check_values(context: Context) -> Iterator[Finding]:
    """Check every place of every value."""
    file = context.file
    if file is None:
        return
    try:
        for item in read_values(context.tree, file):
            if isinstance(item, Unheld):
                said = f"“{item.value.name}” of {item.flavor} differs, and {item.place.shown} is one for all"
                yield Finding(SHARED, said, ((file.home(item.line), item.line),), item.flavor)
            elif isinstance(item, Asset):
                data = checked_asset(context.tree, file, item)
                if context.tree.read(item.file) != data:
                    said = f"“{item.value.name}”: {item.file} is not {item.source}"
                    yield Finding(ASSET, said, ((file.home(item.line), item.line), (item.file, 0)), item.flavor)
            elif not item.right:
                texts = f"“{item.spot.text}”, not “{item.wanted}”"
                if item.value.secret:
                    texts = "not the secret that the identity file gives it"
                said = f"{called(item.platform, item.flavor)}: “{item.value.name}” is {texts}"
                spots = ((item.spot.file, item.spot.line), (file.home(item.line), item.line))
                yield Finding(DIFFERS, said, spots, item.flavor)
    except InputError as error:
        yield Finding(GONE, error.message, ((error.file or file.path, error.line),))
