"""Values of an Android module that brands usually vary: resources, meta-data, what the build script fills in."""

from __future__ import annotations

from collections.abc import Iterator

from onomaxis.formats.escapes import decode_android
from onomaxis.formats.source import SPACE
from onomaxis.formats.xml import parse_xml
from onomaxis.platforms import ANDROID_NS
from onomaxis.projects.android.apps import ModuleReader
from onomaxis.projects.android.resources import locale_of
from onomaxis.projects.android.script_values import Named, filled_in
from onomaxis.projects.android.variants import flavor_names
from onomaxis.projects.project import guarded
from onomaxis.projects.proposals import Proposed, proposed


def module_values(reader: ModuleReader) -> Iterator[Proposed]:
    """Yield what strings, colours, meta-data and the build script hold for the app, or for its flavors alone."""
    told: dict[str, dict[Named, str]] = {}
    for flavor in ("", *flavor_names(reader.module)):
        told[flavor] = {**dict(_resources(reader, flavor or "main")), **dict(filled_in(reader, flavor))}
    told[""] |= {key: text for key, text in _meta_data(reader) if key not in told[""]}
    for flavor, found in told.items():
        for (place, key), text in found.items():
            if not flavor or (place, key) not in told[""]:
                yield from proposed(key, text, dict([place]), flavor)


def module_texts(reader: ModuleReader) -> Iterator[Proposed]:
    """Yield every string of the app in every language."""
    for path, qualifier in reader.table(reader.module, "main").paths():
        locale = locale_of(qualifier)
        if (qualifier and not locale) or not (data := reader.tree.read(path)):
            continue
        document = guarded(path, [], lambda data=data: parse_xml(data))  # type: ignore[misc]
        for element in document.root.children if document is not None else ():
            name = element.value("name")
            if element.name == "string" and name and not element.children:
                where = {"resource": f"string/{name}", **({"locale": locale} if locale else {})}
                yield Proposed(name, decode_android(element.text), "text", where, "", locale)


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
