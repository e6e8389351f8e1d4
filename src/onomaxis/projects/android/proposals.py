"""Values of an Android module that brands usually vary: resources of the main source set, meta-data."""

from __future__ import annotations

from collections.abc import Iterator

from onomaxis.formats.escapes import decode_android
from onomaxis.formats.source import SPACE
from onomaxis.formats.xml import parse_xml
from onomaxis.projects.android.apps import ModuleReader
from onomaxis.projects.android.manifest import ANDROID_NS
from onomaxis.projects.project import guarded
from onomaxis.projects.proposals import Proposed, proposed


def module_values(reader: ModuleReader) -> Iterator[Proposed]:
    """Yield what strings, colours and meta-data hold."""
    for path, qualifier in reader.table(reader.module, "main").paths():
        data = reader.tree.read(path) if not qualifier else None
        document = guarded(path, [], lambda data=data: parse_xml(data)) if data else None  # type: ignore[misc]
        for element in document.root.children if document is not None else ():
            name = element.value("name")
            if element.name in ("string", "color") and name and not element.children:
                text = decode_android(element.text) if element.name == "string" else element.text.strip(SPACE)
                yield from proposed(name, text, {"resource": f"{element.name}/{name}"})
    manifest = reader.manifest("main")
    application = manifest.application if manifest is not None else None
    for element in application.children if application is not None else ():
        if element.name == "meta-data":
            name, text = element.value("name", ANDROID_NS), element.value("value", ANDROID_NS)
            yield from proposed(name, text, {"meta-data": name})
