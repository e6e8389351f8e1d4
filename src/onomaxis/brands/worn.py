"""What an identity file says of everything that a build makes of its flavors, and what is called otherwise today."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

from onomaxis.brands.subjects import Subject
from onomaxis.flavor_names import same_flavor, selects
from onomaxis.identity.file import Brand, IdentityFile, Said
from onomaxis.model import ShippedApp
from onomaxis.projects.project import goes_on
from onomaxis.rename.targets import named_by_variants, with_name


class Worn(NamedTuple):
    """What a file says of one flavor or combination: ``built`` as the build calls it, ``named`` as the file does.

    One of the two may be empty: a flavor that the build has in combinations alone, a combination without a table.
    """

    built: str
    named: str
    brand: Brand


def worn(file: IdentityFile, subject: Subject, flavor: str = "") -> Iterator[Worn]:
    """Yield everything that a build makes of what a file tells of; with *flavor* what that selects."""
    built = {name.casefold() for name in (*subject.flavors, *subject.made)}
    for name in (*subject.flavors, *subject.made):
        named = file.table_of(name, subject.singles)
        whole = name in subject.flavors or bool(subject.targets)
        spoken = named or (whole and any(file.lists(part) for part in subject.singles.parts(name)))
        if spoken and (not flavor or selects(flavor, name, subject.singles)):
            brand = file.variant(name, subject.singles, subject.platform)
            if not whole:  # its flavors wear what is theirs
                parts = [file.brand(part, subject.platform) for part in subject.singles.parts(name)]
                brand = _own_of(brand, parts)
            yield Worn(name, named, brand)
    for name in file.flavors:
        held = subject.flavors and name.casefold() not in built and subject.combinations(name)
        if held and (not flavor or selects(flavor, name, subject.singles)):
            yield Worn("", name, file.brand(name, subject.platform))


def _own_of(brand: Brand, others: Sequence[Brand]) -> Brand:
    """Return a brand without what others give it."""

    def own(table: str) -> Mapping[str, Said]:
        items: Mapping[str, Said] = getattr(brand, table)
        return {k: said for k, said in items.items() if all(getattr(item, table).get(k) != said for item in others)}

    return brand._replace(icon=own("icon"), launch=own("launch"), values=own("values"), files=own("files"))


def told_of(file: IdentityFile, subject: Subject, flavor: str = "") -> Iterator[tuple[str, str]]:
    """Yield the flavors that a file tells of and a build has, as the build calls each, and as the file does.

    One that is built in combinations alone is told of their main one. With *flavor* that one alone.
    """
    for named in file.flavors:
        built = subject.main_of(named) if not flavor or same_flavor(flavor, named) else ""
        if built and (same_flavor(built, named) or file.table_of(built, subject.singles) in ("", named)):
            yield built, named


class Difference(NamedTuple):
    """One facet that is not as the identity file says; *key* may be ``names`` with a *locale*."""

    subject: Subject
    flavor: str
    key: str
    locale: str
    today: str | None
    wanted: str
    line: int


def differences(subject: Subject, brand: Brand, flavor: str) -> Iterator[Difference]:
    """Compare what a flavor of the build is called with what the identity file says of it.

    Of an app that is built in flavors alone, what the file says of the app itself is what they share: nothing is
    called so by itself.
    """
    if not flavor and not subject.stands_alone:
        return
    keys = ("id", "name", "version", "build", *(("code-package",) if not flavor else ()))
    for key in keys:
        said = brand.facets.get(key)
        today = subject.text(flavor, key)
        if said is None or today == said.text or (key == "code-package" and subject.code_package is None):
            continue
        yield Difference(subject, flavor, key, "", today, said.text, said.line)
    names = subject.names(flavor)
    for locale, said in brand.names.items():
        if names.get(locale) != said.text:
            yield Difference(subject, flavor, "names", locale, names.get(locale), said.text, said.line)


def brand_differences(file: IdentityFile, subject: Subject, flavor: str = "") -> Iterator[Difference]:
    """Compare the flavors of a build with what the identity file says of them; with *flavor* that one alone.

    Where a build has combinations alone, their main one is compared; the others go along in what they have in common
    with it: the beginning of the ID, a number that is the same.
    """
    for built, named in told_of(file, subject, flavor):
        brand = file.variant(named, subject.singles, subject.platform)
        apart = named_by_variants(subject.project, subject.module, built)
        yield from (item for item in differences(subject, brand, built) if not apart or item.key != "name")
        yield from _named_apart(subject, brand, apart)
        for other in subject.combinations(named):
            if other != built and not file.table_of(other, subject.singles):
                yield from _along(subject, brand, built, other)


def _named_apart(subject: Subject, brand: Brand, variants: Sequence[ShippedApp]) -> Iterator[Difference]:
    """Compare the names that variants have of their own: the main one's, and those that go on from it."""
    said = brand.facets.get("name")
    texts = [(app.flavor, app.name.text) for app in variants if app.name is not None] if said is not None else []
    for flavor, text in texts:
        main = texts[0][1]
        wanted = said.text if said is not None and text == main else with_name(text, main, said.text if said else "")
        if said is not None and wanted and wanted != text:
            yield Difference(subject, flavor, "name", "", text, wanted, said.line)


def _along(subject: Subject, brand: Brand, main: str, other: str) -> Iterator[Difference]:
    for key in ("id", "name", "version", "build"):
        said, today, mains = brand.facets.get(key), subject.text(other, key), subject.text(main, key)
        if said is None or today is None or mains is None or said.text == mains:
            continue
        wanted = said.text if today == mains else ""
        if key == "id" and goes_on(today, mains):
            wanted = said.text + today[len(mains) :]
        elif key == "name":
            wanted = wanted or with_name(today, mains, said.text)
        if wanted:
            yield Difference(subject, other, key, "", today, wanted, said.line)
