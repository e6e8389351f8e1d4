"""String resources that carry the app's name: by source set, by qualifier, through references."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import NamedTuple

from onomaxis import late
from onomaxis.formats.escapes import decode_android, string_element
from onomaxis.formats.source import flat
from onomaxis.formats.xml import (
    Element,
    XmlDocument,
    entity_span,
    indentation,
    innermost,
    parse_xml,
    text_span,
    whole_text,
)
from onomaxis.model import Edit, Facet, Piece, Place, Unresolved, Value
from onomaxis.projects.edits import span_edit
from onomaxis.projects.project import guarded, place
from onomaxis.tree import Tree

# Resource qualifiers that name a language (developer.android.com, "App resources overview", table 2).
_LOCALE = late.compile(r"([a-z]{2,3})(?:-r([A-Z]{2}))?\Z")
_BCP47 = late.compile(r"b\+([A-Za-z0-9+]+)\Z")


class StringEntry(NamedTuple):
    """One ``<string>``: the folder's qualifier (``values-de`` is ``de``), decoded value, place if editable."""

    name: str
    qualifier: str
    value: Value
    editable: bool


class ValuesFile(NamedTuple):
    """One parsed file of a ``values*`` folder."""

    path: str
    qualifier: str
    document: XmlDocument

    def strings(self) -> Iterable[Element]:
        """Return its ``<string>`` elements."""
        return [child for child in self.document.root.children if child.name == "string"]


class StringTable:
    """The strings of one resource folder, read only as far as they are asked for."""

    def __init__(self, tree: Tree, folders: Iterable[str], faults: list[Unresolved]) -> None:
        self._tree = tree
        self._folders = tuple(folders)
        self._faults = faults
        self._files: dict[str, ValuesFile | None] = {}

    @property
    def folders(self) -> tuple[str, ...]:
        """The resource folders, whether they exist or not."""
        return self._folders

    def paths(self) -> list[tuple[str, str]]:
        """Return the values files with their qualifiers."""
        found = []
        for folder in self._folders:
            for path in self._tree.below(folder):
                inner = path[len(folder) + 1 :].split("/")
                if len(inner) == 2 and inner[0].split("-")[0] == "values" and path.endswith(".xml"):
                    found.append((path, inner[0].partition("-")[2]))
        return found

    def entries(self, name: str) -> list[StringEntry]:
        """Return every entry called *name*, the unqualified ones first."""
        mark = name.encode()
        found: list[StringEntry] = []
        for path, qualifier in self.paths():
            data = self._tree.read(path)
            # One that breaks off may have lost just this entry: reading it says so.
            if data and (mark in (plain := flat(data)) or not plain.rstrip().endswith(b"</resources>")):
                file = self._file(path, qualifier, data)
                if file:
                    found.extend(_entry(file, item) for item in file.strings() if item.value("name") == name)
        return sorted(found, key=lambda entry: (entry.qualifier != "", entry.qualifier, entry.value.place.file))

    def _file(self, path: str, qualifier: str, data: bytes) -> ValuesFile | None:
        if path not in self._files:
            self._files[path] = guarded(path, self._faults, lambda: ValuesFile(path, qualifier, parse_xml(data)))
        return self._files[path]


def _entry(file: ValuesFile, element: Element) -> StringEntry:
    source = file.document.source
    inner = innermost(element)
    span = text_span(file.document, inner)
    text = decode_android(whole_text(file.document, element))
    entity = entity_span(file.document, span[0], span[1]) if span is not None and not span[2] else None
    if entity is not None:
        spot = place(file.path, source, entity[0], entity[1], f"android-entity-{entity[2]}")
        return StringEntry(element.value("name"), file.qualifier, Value((Piece(text, spot),), spot), True)
    if span is None:
        spot = place(file.path, source, element.start, element.end, "none")
        return StringEntry(element.value("name"), file.qualifier, Value((Piece(text),), spot), False)
    start, end, cdata = span
    spot = place(file.path, source, start, end, "android-cdata" if cdata else "android-text")
    return StringEntry(element.value("name"), file.qualifier, Value((Piece(text, spot),), spot), True)


def locale_of(qualifier: str) -> str:
    """Return the BCP 47 tag in a qualifier (``pt-rBR`` is ``pt-BR``, ``b+sr+Latn`` is ``sr-Latn``), or empty."""
    tagged = _BCP47.match(qualifier.split("-")[0])
    if tagged:
        return tagged[1].replace("+", "-")
    parts = [part for part in qualifier.split("-") if not part.startswith(("mcc", "mnc"))]
    plain = _LOCALE.match("-".join(parts[:2])) or (_LOCALE.match(parts[0]) if parts else None)
    if not plain or plain[1] in ("car",):
        return ""
    return f"{plain[1]}-{plain[2]}" if plain[2] else plain[1]


def qualifier_of(locale: str) -> str:
    """Return the folder qualifier of a BCP 47 tag."""
    parts = locale.split("-")
    if len(parts) == 1 and len(parts[0]) in (2, 3):
        return parts[0]
    if len(parts) == 2 and len(parts[1]) == 2 and parts[1].isalpha():
        return f"{parts[0].lower()}-r{parts[1].upper()}"
    return "b+" + "+".join(parts)


def qualifiers_of(locale: str) -> tuple[str, ...]:
    """Return the folder qualifiers that mean a BCP 47 tag: the usual one, and the long form of it."""
    return (qualifier_of(locale), "b+" + "+".join(locale.split("-")))


def reference(text: str) -> str:
    """Return the name in ``@string/name`` (with or without a package), or an empty string."""
    match = re.fullmatch(r"@(?:[\w.]+:)?string/([\w.]+)", text)
    return match[1] if match else ""


def is_place(spot: Place) -> bool:
    """Tell whether a string can be edited where it stands."""
    return spot.syntax != "none"


def string_name_at(data: bytes, offset: int) -> str:
    """Return the name of the ``<string>`` whose text holds byte *offset*."""
    document = parse_xml(data)
    position = offset - document.source.mark
    for element in document.root.walk():
        if element.name == "string" and element.inner_start <= position <= element.inner_end:
            return element.value("name")
    return "app_name"


def added_string(path: str, data: bytes, name: str, text: str) -> Edit:
    """Return the edit that adds a string after the last one of a values file. Raises FormatError."""
    document = parse_xml(data)
    source = document.source
    written = string_element(name, text)
    siblings = document.root.children
    if siblings:
        at = siblings[-1].end
        lead = source.newline + indentation(source, siblings[-1].start)
        return span_edit(path, source, at, at, lead + written, Facet.DISPLAY_NAME)
    if document.root.empty:
        tag = source.view[document.root.start : document.root.end].rstrip(">").rstrip("/").rstrip()
        body = f"{tag}>{source.newline}    {written}{source.newline}</{document.root.tag}>"
        return span_edit(path, source, document.root.start, document.root.end, body, Facet.DISPLAY_NAME)
    at = document.root.inner_start
    return span_edit(path, source, at, at, f"{source.newline}    {written}", Facet.DISPLAY_NAME)


def new_strings_file(model: bytes, name: str, text: str) -> bytes:
    """Write a strings file that holds one string, with the head and line ends of *model*."""
    document = parse_xml(model)
    newline = document.source.newline
    head = f'<?xml version="1.0" encoding="utf-8"?>{newline}' if document.source.view.startswith("<?xml") else ""
    line = f"    {string_element(name, text)}"
    return f"{head}<resources>{newline}{line}{newline}</resources>{newline}".encode()
