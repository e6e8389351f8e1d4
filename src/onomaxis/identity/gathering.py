"""An identity put together of several files: brands in files of their own, and in a table.

Whatever a brand's tables come from, they are what they would be in the identity file itself; every line knows its
file. One brand stands in one place.
"""

from __future__ import annotations

import tomllib
from collections.abc import Iterator, Mapping
from typing import Any, Protocol

from onomaxis.errors import InputError
from onomaxis.formats.toml import FileLine, Path, TomlDocument
from onomaxis.identity.checking import check_table, parsed
from onomaxis.identity.declared import fault
from onomaxis.identity.schema import NAME
from onomaxis.identity.table import brands_of
from onomaxis.paths import fault_of

# More files than any shop has brands; a pattern that names more means something else.
_MOST = 5000
_OWN_KEYS = ("format", "include", "flavors")


class Around(Protocol):
    """The files beside an identity file; paths start from its folder."""

    def read(self, path: str) -> bytes | None:
        """Return a file's bytes, None where there is none."""

    def lacking(self, path: str) -> str:
        """Say why a file's bytes cannot be had."""

    def matching(self, pattern: str) -> list[str]:
        """Return the files that a path with stars names, in order."""


def gathered(path: str, document: TomlDocument, around: Around) -> TomlDocument:
    """Return *document* with the brands of all files that it names. Raises InputError with file and line."""
    if "include" not in document.top and "brands" not in document.top:
        return document
    found = _Gathered(path, document)
    _include(found, path, document, around, (path,))
    table = document.top.get("brands")
    if table is not None:
        _refuse_outside(path, document, ("brands",), table)
        data = around.read(table)
        if data is None:
            raise fault(path, document, ("brands",), around.lacking(table))
        for name, brand, lines in brands_of(table, data):
            found.add(name, brand, lines)
    whole = TomlDocument({**document.top, "flavors": found.flavors}, found.lines)
    check_table(path, whole, "", whole.top, ())
    return whole


def brands_in(path: str, data: bytes) -> Mapping[str, Any]:
    """Return the brands of a file of brands, by name. Raises InputError with file and line."""
    document = parsed(path, data)
    _check_own(path, document)
    brands: Mapping[str, Any] = document.top.get("flavors", {})
    return brands


def files_named(path: str, data: bytes, around: Around) -> set[str]:
    """Return the files of an identity, whatever stands in them; of one that is not right those that can be told."""
    found: set[str] = set()
    pending = [(path, data)]
    while pending:
        here, text = pending.pop()
        found.add(here)
        try:
            top = tomllib.loads(text.decode("utf-8-sig"))
        except (ValueError, RecursionError):
            continue
        patterns = top.get("include") if isinstance(top.get("include"), list) else []
        for pattern in (item for item in patterns or () if isinstance(item, str) and not fault_of(item)):
            for inner in around.matching(pattern) if "*" in pattern or "?" in pattern else [pattern]:
                below = around.read(inner) if inner not in found else None
                if below is not None and len(found) < _MOST:
                    pending.append((inner, below))
        table = top.get("brands") if here == path else None
        if isinstance(table, str) and not fault_of(table):
            found.add(table)
    return found


class _Gathered:
    """The brands found so far, and the line of everything."""

    def __init__(self, path: str, document: TomlDocument) -> None:
        self.flavors: dict[str, Any] = dict(document.top.get("flavors", {}))
        self.lines: dict[Path, int] = dict(document.lines)
        self.files = {path}
        self._stands = {
            name.casefold(): (name, FileLine(document.line(("flavors", name)), path)) for name in self.flavors
        }

    def add(self, name: str, brand: Any, lines: Mapping[Path, FileLine]) -> None:
        """Take in a brand. Raises InputError where it stands somewhere already."""
        at = lines[("flavors", name)]
        other, before = self._stands.setdefault(name.casefold(), (name, at))
        if before is not at:
            said = f"the flavor {name} stands here and at {before.file}:{before}"
            if other != name:
                said += f", where it is spelled {other}"
            raise InputError(
                said, file=at.file, line=at, remedy="One brand stands in one place: take one of them out."
            )
        self.flavors[name] = brand
        self.lines.update(lines)


def _include(found: _Gathered, path: str, document: TomlDocument, around: Around, way: tuple[str, ...]) -> None:
    """Take in the brands of the files that one file includes, and of those that they include."""
    for number, pattern in enumerate(document.top.get("include", ())):
        at = ("include", str(number))
        for inner in _named(path, document, at, pattern, around):
            if inner in found.files and inner not in way:
                continue  # two files include it
            if inner in way:
                round_ = " → ".join((*way[way.index(inner) :], inner))
                raise fault(path, document, at, f"the files include each other: {round_}")
            data = around.read(inner)
            if data is None:
                raise fault(path, document, at, around.lacking(inner))
            found.files.add(inner)
            below = parsed(inner, data)
            _check_own(inner, below)
            for name, brand in below.top.get("flavors", {}).items():
                found.add(name, brand, dict(_lines_of(inner, below, name)))
            _include(found, inner, below, around, (*way, inner))


def _named(path: str, document: TomlDocument, at: Path, pattern: str, around: Around) -> list[str]:
    """Return the files that an include means. Raises InputError for one that is not there, or not inside."""
    _refuse_outside(path, document, at, pattern)
    if "*" not in pattern and "?" not in pattern:
        return [pattern]
    files = around.matching(pattern)
    if len(files) > _MOST:
        raise fault(path, document, at, f"“{pattern}” names {len(files)} files; the most are {_MOST}")
    return files


def _refuse_outside(path: str, document: TomlDocument, at: Path, named: str) -> None:
    reason = fault_of(named)
    if reason:
        said = f"“{named}” is not a path below the identity file's folder: {reason}"
        raise fault(path, document, at, said, f"Paths start from the folder of {NAME}.")


def _check_own(path: str, document: TomlDocument) -> None:
    """Check a file of brands: it holds flavors, and may include others."""
    for key in document.top:
        if key not in _OWN_KEYS:
            said = f"“{key}” stands in {NAME} only: a file of brands holds [flavors.NAME] tables"
            raise fault(path, document, (key,), said)
    check_table(path, document, "", {**document.top, "format": document.top.get("format", 1)}, ())


def _lines_of(path: str, document: TomlDocument, name: str) -> Iterator[tuple[Path, FileLine]]:
    head = ("flavors", name)
    yield head, FileLine(document.line(head), path)
    for keys, line in document.lines.items():
        if keys[:2] == head:
            yield keys, FileLine(line, path)
