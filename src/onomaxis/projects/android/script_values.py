"""What a build script fills in for the app or one flavor: placeholders, constants of the build, resources it makes.

Source: developer.android.com, "Manage manifest files" (placeholders), "Gradle tips and recipes" (fields, resources).
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from onomaxis.formats.escapes import decode_backslashes
from onomaxis.formats.gradle_statements import Setting, literal_text, map_keys, mapped
from onomaxis.formats.lexer import Token
from onomaxis.projects.android.apps import ModuleReader
from onomaxis.projects.android.modules import setting_path
from onomaxis.projects.android.scope import Unknown
from onomaxis.projects.android.variants import around, field_arguments

# A place as an identity file has it, and the key that says what is in it.
Named = tuple[tuple[str, str], str]


def filled_in(reader: ModuleReader, flavor: str) -> Iterator[tuple[Named, str]]:
    """Yield what the script says to a flavor, or to all: placeholders, constants of the build, resources it makes."""
    module = reader.module
    for item in module.settings("productFlavors", flavor) if flavor else module.settings("defaultConfig"):
        for place, key, value in (*_placeholders(item), *_fields(item)):
            try:
                text = around(module, item).value(tuple(value)).text
            except Unknown:
                continue
            if place[0] == "build-field" and text[:1] == text[-1:] == '"' and len(text) > 1:
                text = decode_backslashes(text[1:-1])
            yield (place, key), text


def _placeholders(item: Setting) -> Iterator[tuple[tuple[str, str], str, Sequence[Token]]]:
    path = setting_path(item)
    if path[-2:-1] == ("manifestPlaceholders",):
        yield ("placeholder", path[-1]), path[-1], item.value
    elif "anifestPlaceholders" in "".join(path[-2:]):
        for key in map_keys(item.value):
            value = mapped(item.value, key)
            if value:
                yield ("placeholder", key), key, value


def _fields(item: Setting) -> Iterator[tuple[tuple[str, str], str, Sequence[Token]]]:
    parts = field_arguments(item, "buildConfigField")
    if parts and literal_text(parts[0]) == "String" and literal_text(parts[1]):
        yield ("build-field", literal_text(parts[1])), literal_text(parts[1]), parts[2]
    parts = field_arguments(item, "resValue")
    if parts and literal_text(parts[0]) in ("string", "color") and literal_text(parts[1]):
        name = literal_text(parts[1])
        yield ("resource", f"{literal_text(parts[0])}/{name}"), name, parts[2]
