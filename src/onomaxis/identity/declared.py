"""What an identity file declares beside brands: values with their places, findings that are meant to be so."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping
from fnmatch import fnmatchcase
from typing import Any, NamedTuple

from onomaxis import late
from onomaxis.errors import InputError
from onomaxis.flavor_names import same_flavor
from onomaxis.formats.toml import FileLine, Path, TomlDocument
from onomaxis.identity import rules
from onomaxis.identity.schema import SELECTORS, WORD


class PlaceOfValue(NamedTuple):
    """Where a value stands: *selector* names the sort of place, *name* the entry, *file* the file.

    With *create* it is made where it is missing. *locale* is the language it is of, where it has several.
    """

    selector: str
    name: str
    file: str
    platform: str
    line: int
    create: bool = False
    locale: str = ""

    @property
    def parted(self) -> bool:
        """True where each flavor has an entry of its own in one file: its name speaks of the flavor."""
        return "{flavor}" in self.name

    def for_flavor(self, flavor: str) -> PlaceOfValue:
        """Return the place as it is for one flavor."""
        return self._replace(name=self.name.replace("{flavor}", flavor)) if flavor and self.parted else self

    @property
    def shown(self) -> str:
        """The place as people say it."""
        inside = f" in {self.file}" if self.file and self.selector else ""
        tongue = f" ({self.locale})" if self.locale else ""
        return f"{self.selector} {self.name}{tongue}{inside}" if self.selector else self.file


class DeclaredValue(NamedTuple):
    """A value as it is declared: type, pattern, default or template, places.

    ``files`` stands for many files at once: the path of a brand's, a star in its last part.
    """

    name: str
    type: str
    pattern: str
    default: str | None
    template: str
    places: tuple[PlaceOfValue, ...]
    secret: bool
    line: int
    files: str = ""


class Keystore(NamedTuple):
    """A keystore that brands are signed with: its name in templates, file, alias, the variable of its password."""

    name: str
    file: str
    alias: str
    password: str
    line: int


class Allowed(NamedTuple):
    """A finding that is meant to be so."""

    rule: str
    file: str
    flavor: str
    reason: str
    line: int
    owner: str = ""
    until: str = ""

    def has_ended(self, on: str) -> bool:
        """Tell whether it allows nothing any more on a day (``2026-12-31``; empty: it still does)."""
        return bool(self.until) and self.until < on

    def covers(self, rule: str, flavor: str, files: Iterable[str]) -> bool:
        """Tell whether it is about a finding: the rule, the flavor that is meant, one of the files."""
        here = not self.file or any(fnmatchcase(file, self.file) for file in files)
        return self.rule == rule and here and (not self.flavor or same_flavor(self.flavor, flavor))


def fault(path: str, document: TomlDocument, at: Path, message: str, remedy: str = "") -> InputError:
    """Return the error for what stands at a path of keys."""
    line = document.line(at)
    return InputError(message, file=line.file if isinstance(line, FileLine) else path, line=line, remedy=remedy)


def text_of(value: object) -> str:
    """Return a scalar as text."""
    return ("true" if value else "false") if isinstance(value, bool) else str(value)


def declared_values(path: str, document: TomlDocument) -> Iterator[DeclaredValue]:
    """Yield the values that the file declares. Raises InputError with its line for one that is not right."""
    for name, data in document.top.get("values", {}).items():
        at = ("values", name)
        if not WORD.match(name):
            said = "letters, digits, hyphens and underscores"
            raise fault(path, document, at, f"“{name}” names no value: {said}")
        if "value" in data and "template" in data:
            raise fault(path, document, (*at, "template"), f"value “{name}” has both a value and a template")
        if "pattern" in data:
            try:
                re.compile(data["pattern"])
            except re.error as error:
                message = f"the pattern is not a regular expression: {error}"
                raise fault(path, document, (*at, "pattern"), message) from None
        many = data.get("files", "")
        if many:
            _check_files(path, document, data, at)
        places = tuple(_place(path, document, data, at, number) for number in range(len(data.get("places", ()))))
        default = text_of(data["value"]) if "value" in data else None
        yield DeclaredValue(
            name,
            data.get("type", "file" if many else "text"),
            data.get("pattern", ""),
            default,
            data.get("template", ""),
            places,
            data.get("secret", False),
            document.line(at),
            many,
        )


def _check_files(path: str, document: TomlDocument, data: Mapping[str, Any], at: Path) -> None:
    """Refuse files of brands that cannot be told apart, or whose places cannot."""
    other = next((key for key in ("value", "template", "pattern") if key in data), "")
    if other or data.get("type", "file") != "file":
        raise fault(path, document, (*at, other or "type"), "“files” gives whole files: it takes places, and no more")
    stars: list[tuple[Path, str]] = [(("files",), data["files"])]
    stars += [(("places", str(number)), item.get("file", "")) for number, item in enumerate(data.get("places", ()))]
    for keys, text in stars:
        folder, _, name = text.rpartition("/")
        if "*" in folder or name.count("*") != 1:
            said = f"“{text}” holds no single star in its last part, for what the files are called"
            raise fault(path, document, (*at, *keys), said, "Such as brands/{flavor}/drawable/*.")


_FILED = ("env", "constant", "pointer", "attribute", "label")
_ANDROID = ("resource", "meta-data", "placeholder", "build-field", "permission")
_IOS = ("plist", "entitlement", "setting", "color-set", "url-scheme", "label", "string")
_LOCALIZED = ("resource", "plist", "string")


def _place(path: str, document: TomlDocument, value: Mapping[str, Any], at: Path, number: int) -> PlaceOfValue:
    data = value["places"][number]
    spot = (*at, "places", str(number))
    selectors = [key for key in data if key in SELECTORS]
    asset = value.get("type") == "file" or "files" in value
    if len(selectors) > 1 or (not selectors and not (asset and "file" in data)):
        listed = ", ".join(SELECTORS)
        said = f"a place says one of: {listed}" if not asset else "an asset's place says its file"
        raise fault(path, document, spot, said)
    selector = selectors[0] if selectors else ""
    if selector in _FILED and "file" not in data:
        raise fault(path, document, spot, f"“{selector}” needs the file that it stands in", 'Add file = "…".')
    name = data.get(selector, "")
    if selector == "resource" and not re.fullmatch(r"(string|color|dimen|bool|integer)/[A-Za-z_][\w.]*", name):
        raise fault(
            path, document, spot, f"“{name}” is not a resource that a value can stand in", "Such as string/server."
        )
    if selector == "pointer" and not name.startswith("/"):
        raise fault(path, document, spot, f"“{name}” is not a JSON pointer: it begins with a slash")
    implied = "android" if selector in _ANDROID else "ios" if selector in _IOS else ""
    if selector == "level":
        implied = "ios" if name in ("ios", "families") else "android"
    if selector == "string" and not re.fullmatch(r"[\w-]+/.+", name):
        said = f"“{name}” is not a string of a table: it is TABLE/KEY"
        raise fault(path, document, spot, said, "Such as Localizable/greeting.")
    locale = data.get("locale", "")
    if locale:
        if selector not in _LOCALIZED:
            said = f"“{selector or 'file'}” has no language; {', '.join(_LOCALIZED)} have one"
            raise fault(path, document, (*spot, "locale"), said)
        try:
            rules.locale(locale)
        except InputError as error:
            raise fault(path, document, (*spot, "locale"), error.message) from None
    platform, create = data.get("platform", implied), data.get("create", False)
    return PlaceOfValue(selector, name, data.get("file", ""), platform, document.line(spot), create, locale)


def allowances(path: str, document: TomlDocument) -> Iterator[Allowed]:
    """Yield the findings that the file allows. Raises InputError for an end that is not a day."""
    for number, data in enumerate(document.top.get("allow", ())):
        at = ("allow", str(number))
        until, where = data.get("until", ""), (data.get("file", ""), data.get("flavor", ""))
        if until and not _DAY.match(until):
            raise fault(path, document, (*at, "until"), f"“{until}” is not a day", "Write it as 2026-12-31.")
        yield Allowed(data["rule"], *where, data["reason"], document.line(at), data.get("owner", ""), until)


_DAY = late.compile(r"\d{4}-(?:0[1-9]|1[0-2])-(?:0[1-9]|[12]\d|3[01])\Z")
