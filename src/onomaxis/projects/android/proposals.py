"""Values of an Android module that brands usually vary: resources, meta-data, what the build script fills in."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from onomaxis.formats.escapes import decode_android, decode_backslashes
from onomaxis.formats.gradle_statements import Setting, literal_text
from onomaxis.formats.lexer import Token
from onomaxis.formats.source import SPACE
from onomaxis.formats.xml import parse_xml
from onomaxis.projects.android.apps import ModuleReader
from onomaxis.projects.android.loaded import map_keys, mapped
from onomaxis.projects.android.manifest import ANDROID_NS
from onomaxis.projects.android.modules import setting_path
from onomaxis.projects.android.scope import Unknown
from onomaxis.projects.android.variants import field_arguments, flavor_names
from onomaxis.projects.project import guarded
from onomaxis.projects.proposals import Proposed, proposed

# A place as an identity file has it, and the key that says what is in it.
Named = tuple[tuple[str, str], str]


def module_values(reader: ModuleReader) -> Iterator[Proposed]:
    """Yield what strings, colours, meta-data and the build script hold for the app, or for its flavors alone."""
    told: dict[str, dict[Named, str]] = {}
    for flavor in ("", *flavor_names(reader.module)):
        told[flavor] = {**dict(_resources(reader, flavor or "main")), **dict(_filled_in(reader, flavor))}
    told[""] |= {key: text for key, text in _meta_data(reader) if key not in told[""]}
    for flavor, found in told.items():
        for (place, key), text in found.items():
            if not flavor or (place, key) not in told[""]:
                yield from proposed(key, text, dict([place]), flavor)


def _resources(reader: ModuleReader, source_set: str) -> Iterator[tuple[Named, str]]:
    for path, qualifier in reader.table(reader.module, source_set).paths():
        data = reader.tree.read(path) if not qualifier else None
        document = guarded(path, [], lambda data=data: parse_xml(data)) if data else None  # type: ignore[misc]
        for element in document.root.children if document is not None else ():
            name = element.value("name")
            if element.name in ("string", "color") and name and not element.children:
                text = decode_android(element.text) if element.name == "string" else element.text.strip(SPACE)
                yield (("resource", f"{element.name}/{name}"), name), text


def _meta_data(reader: ModuleReader) -> Iterator[tuple[Named, str]]:
    manifest = reader.manifest("main")
    application = manifest.application if manifest is not None else None
    for element in application.children if application is not None else ():
        if element.name == "meta-data":
            name, text = element.value("name", ANDROID_NS), element.value("value", ANDROID_NS)
            yield (("meta-data", name), name), text


def _filled_in(reader: ModuleReader, flavor: str) -> Iterator[tuple[Named, str]]:
    """Yield what the script says to a flavor, or to all: placeholders, constants of the build, resources it makes."""
    module = reader.module
    for item in module.settings("productFlavors", flavor) if flavor else module.settings("defaultConfig"):
        for place, key, value in (*_placeholders(item), *_fields(item)):
            try:
                text = module.environment.value(tuple(value)).text
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
