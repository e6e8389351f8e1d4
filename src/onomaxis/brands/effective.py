"""Everything that holds for one flavor, with the place that says so and the level that gave it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

from onomaxis.brands.subjects import Subject
from onomaxis.flavor_names import in_order, same_flavor
from onomaxis.identity.file import Brand, IdentityFile, Said
from onomaxis.model import Value

_FACETS = ("id", "name", "version", "build")


class Effective(NamedTuple):
    """One thing that holds on one platform: its text, the file and line that say so, the level that gave it."""

    facet: str
    platform: str
    text: str
    file: str
    line: int
    level: str
    secret: bool = False

    @property
    def at(self) -> str:
        """``file:line``."""
        return f"{self.file}:{self.line}"


def effective(file: IdentityFile | None, subjects: Sequence[Subject], flavor: str) -> list[Effective]:
    """Return all that holds for a flavor (``""``: the app itself) on each platform.

    What the identity file does not speak of is told as the project says it, with the level ``project``.
    """
    return [item for subject in subjects for item in _on(file, subject, flavor)]


def _on(file: IdentityFile | None, subject: Subject, flavor: str) -> Iterator[Effective]:
    brand = file.variant(flavor, subject.singles, subject.platform) if file is not None else None
    built = "" if file is not None and same_flavor(flavor, file.standing) else subject.main_of(flavor) or flavor
    own = file.table_of(flavor, subject.singles) if file is not None else ""
    names_of = (
        [*([own] if own else []), *(n for n in in_order(flavor, subject.singles) if n != own)] if flavor else []
    )
    named: Mapping[str, Said] = brand.facets if brand is not None else {}
    for key in _FACETS:
        value = subject.value(built, key)
        if file is not None and key in named:
            yield _said(file, names_of, subject.platform, key, named[key], ((key,), (f"{key}-suffix",)))
        elif value is not None:
            yield _found(key, subject.platform, value)
    names = dict(subject.of(built)[0].names) if subject.of(built) else {}
    languages: Mapping[str, Said] = brand.names if brand is not None else {}
    for locale in dict.fromkeys((*languages, *(item for item in names if item != "Base"))):
        if file is not None and locale in languages:
            yield _said(file, names_of, subject.platform, f"name:{locale}", languages[locale], (("names", locale),))
        else:
            yield _found(f"name:{locale}", subject.platform, names[locale])
    if file is not None and brand is not None:
        yield from _rest(file, brand, names_of, subject.platform)


def _rest(file: IdentityFile, brand: Brand, flavors: Sequence[str], platform: str) -> Iterator[Effective]:
    """Yield icon, values and services."""
    main = next((key for key in ("art", "foreground") if key in brand.icon), "")
    for key, said in brand.icon.items():
        yield _said(file, flavors, platform, "icon" if key == main else f"icon:{key}", said, (("icon", key), (key,)))
    secret = {value.name for value in file.values if value.secret}
    for name, said in brand.values.items():
        row = _said(file, flavors, platform, f"value:{name}", said, (("values", name), ("colors", name)))
        yield row._replace(secret=name in secret)
    for key, said in ((key, said) for key, said in brand.files.items() if key == f"google-{platform}"):
        yield _said(file, flavors, platform, f"service:{key}", said, (("services", key),))
    for key, listed in (("hosts", brand.hosts), ("fingerprints", brand.fingerprints)):
        if listed:
            whole = Said(" ".join(said.text for said in listed), listed[0].line)
            yield _said(file, flavors, platform, f"service:{key}", whole, (("services", key),))


def _said(
    file: IdentityFile, flavors: Sequence[str], platform: str, facet: str, said: Said, keys: Sequence[tuple[str, ...]]
) -> Effective:
    level = file.level(flavors, platform, keys)
    if not level:
        declared = next((item for item in file.values if facet == f"value:{item.name}"), None)
        level = "template" if declared is not None and declared.template else "value"
    return Effective(facet, platform, said.text, file.home(said.line), said.line, level)


def _found(facet: str, platform: str, value: Value) -> Effective:
    return Effective(facet, platform, value.text, value.origin.file, value.origin.line, "project")
