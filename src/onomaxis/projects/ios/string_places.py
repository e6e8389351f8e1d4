"""Texts of an app as places of values: strings files and string catalogs, a table and a language each.

Source of the rules: Apple, "Localizing your app" (tables of strings, string catalogs, InfoPlist.strings).
"""

from __future__ import annotations

from collections.abc import Iterator

from onomaxis.formats.jsonc import parse_json
from onomaxis.formats.openstep import Text
from onomaxis.model import Note, Place
from onomaxis.projects.draft import Draft
from onomaxis.projects.ios.languages import Entry, localize
from onomaxis.projects.ios.project_file import Target
from onomaxis.projects.ios.targets import TargetReader
from onomaxis.projects.places import Spot, gone, literal_spot, refusing
from onomaxis.projects.project import guarded, place

_SHARED = "all configurations share these texts"


def table_and_key(selector: str, name: str) -> tuple[str, str]:
    """Return the table of strings that a place is in, and its key: a property list's texts have one of their own."""
    if selector == "plist":
        return "InfoPlist", name
    table, _, key = name.partition("/")
    return table, key


def string_spot(reader: TargetReader, target: Target, named: tuple[str, str], locale: str, flavor: str) -> Spot:
    """Return the spot of a text; without a language that of the one the project is developed in.

    Raises InputError when it is gone.
    """
    table, key = named
    known: list[str] = []
    for language in _languages(reader, locale):
        for found, text, spot in _texts(reader, target, table, language):
            if found == key:
                alone = literal_spot(reader.tree, text, spot)
                return refusing(text, spot, _SHARED, alone.write) if flavor else alone
            known.append(found)
    said = f"text in {locale}" if locale else "text"
    raise gone(said, key, f"{reader.project.path} ({table})", known)


def made_string(reader: TargetReader, target: Target, named: tuple[str, str], locale: str, text: str) -> Draft | None:
    """Return what makes a text in a language, or in the one that the project is developed in."""
    table, key = named
    language = locale or next(iter(_present(reader, target, table)), _languages(reader, "")[0])
    if table == "InfoPlist" and "/" in key:
        said = f"only the keys of a property list's top have texts in languages, and {key} lies deeper"
        return Draft(refusals=[Note(reader.project.path, said)])
    draft = localize(reader, target, language, Entry(text, key, table, key))
    return draft if draft.edits or draft.created or draft.refusals else None


def _languages(reader: TargetReader, locale: str) -> list[str]:
    """Return the languages that a text is looked for in, the first best."""
    root = reader.project.root
    own = (root.text("developmentRegion") if root is not None else "") or "en"
    return [locale] if locale else [own, "Base", "en"]


def _present(reader: TargetReader, target: Target, table: str) -> list[str]:
    """Return those languages of development that a table has a file in."""
    having = {language for language, _ in reader.strings_files(target, table)}
    return [language for language in _languages(reader, "") if language in having]


def texts_of(reader: TargetReader, target: Target, table: str) -> Iterator[tuple[str, str, str]]:
    """Yield language, key and text of all that a table says, each once."""
    languages = dict.fromkeys(language for language, _ in reader.strings_files(target, table))
    for path in reader.string_catalogs(target, table):
        document = guarded(path, [], lambda path=path: parse_json(reader.tree.read(path) or b""))  # type: ignore[misc]
        strings = document.top.get("strings") if document is not None else None
        for _, item in strings.members if strings is not None else ():
            told = item.get("localizations")
            languages |= dict.fromkeys(name for name, _ in told.members) if told is not None else {}
    for language in languages:
        texts = {key: text for key, text, _ in _texts(reader, target, table, language)}
        yield from ((language, key, text) for key, text in texts.items())


def _texts(reader: TargetReader, target: Target, table: str, locale: str) -> Iterator[tuple[str, str, Place]]:
    """Yield key, text and place of everything that a table says in a language."""
    for language, path in reader.strings_files(target, table):
        document = reader.strings_document(path) if language.casefold() == locale.casefold() else None
        for entry in document.top.entries if document is not None else ():
            if isinstance(entry.value, Text) and document is not None:
                at = place(path, document.source, entry.value.start, entry.value.end, "openstep-entry")
                yield entry.key.value, entry.value.value, at
    for path in reader.string_catalogs(target, table):
        yield from _in_catalog(reader, path, locale)


def _in_catalog(reader: TargetReader, path: str, locale: str) -> Iterator[tuple[str, str, Place]]:
    data = reader.tree.read(path) or b""
    document = guarded(path, [], lambda: parse_json(data))
    strings = document.top.get("strings") if document is not None else None
    for key, item in strings.members if strings is not None else ():
        unit = item.get("localizations", locale, "stringUnit", "value")
        if document is not None and unit is not None and unit.kind == "string":
            yield key, str(unit.value), place(path, document.source, unit.start + 1, unit.end - 1, "json")
