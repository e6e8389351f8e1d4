"""Permissions as values: whether a flavor asks for one, and what makes it so.

Source of the rules: developer.android.com, "<uses-permission>" and "Manage manifest files" (node markers): a flavor's
manifest adds to the app's, and takes out of it with ``tools:node="remove"``.
"""

from __future__ import annotations

from collections.abc import Iterator

from onomaxis.formats.escapes import encode
from onomaxis.formats.xml import Element, indentation, new_child
from onomaxis.model import Edit, Note
from onomaxis.platforms import ANDROID_NS, TOOLS_NS
from onomaxis.projects.android.apps import ModuleReader
from onomaxis.projects.android.manifest import Manifest
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import span_edit
from onomaxis.projects.places import Spot
from onomaxis.tree import join

_TAGS = ("uses-permission", "uses-permission-sdk-23")


def permission_spot(reader: ModuleReader, name: str, flavor: str) -> Spot:
    """Return whether a flavor (``""``: the app itself) asks for a permission, as ``true`` or ``false``."""
    main, own = reader.manifest("main"), reader.manifest(flavor) if flavor else None
    shared = next(_asked(main, name), None)
    mine = next(_asked(own, name), None)
    removed = next(_asked(own, name, taken_out=True), None)
    asked = mine is not None or (shared is not None and removed is None)
    path, element = next(
        ((m.path, e) for m, e in ((own, mine or removed), (main, shared)) if m is not None and e is not None),
        (main.path if main is not None else join(reader.module.folder, "src/main/AndroidManifest.xml"), None),
    )
    source = next((m.document.source for m in (own, main) if m is not None and m.path == path), None)
    line = source.line(element.start) if source is not None and element is not None else 1

    def write(new: str) -> Draft:
        if new not in ("true", "false"):
            return Draft(refusals=[Note(f"{path}:{line}", f"“{new}” is neither true nor false, as a permission is")])
        if (new == "true") == asked:
            return Draft()
        if not flavor:
            return _added(main, "", name) if new == "true" else _cut(main, shared)
        if new == "true":
            return _cut(own, removed) if shared is not None else _added(own, _own_path(reader, flavor), name)
        draft = _cut(own, mine)
        if shared is not None:
            draft.join(_added(own, _own_path(reader, flavor), name, taken_out=True))
        return draft

    return Spot("true" if asked else "false", path, line, write)


def _own_path(reader: ModuleReader, flavor: str) -> str:
    return join(reader.module.folder, f"src/{flavor}/AndroidManifest.xml")


def _asked(manifest: Manifest | None, name: str, taken_out: bool = False) -> Iterator[Element]:
    """Yield the elements that ask for a permission, or take it out."""
    for element in manifest.root.children if manifest is not None else ():
        named = element.name in _TAGS and element.value("name", ANDROID_NS) == name
        if named and (element.value("node", TOOLS_NS) == "remove") == taken_out:
            yield element


def _added(manifest: Manifest | None, path: str, name: str, taken_out: bool = False) -> Draft:
    called = encode("xml-double", name)
    if manifest is None:
        if not path:
            return Draft(refusals=[Note(name, "the module has no manifest to ask for it in")])
        out = f' xmlns:tools="{TOOLS_NS}"' if taken_out else ""
        node = ' tools:node="remove"' if taken_out else ""
        text = f'    <uses-permission android:name="{called}"{node} />\n'
        head = f'<manifest xmlns:android="{ANDROID_NS}"{out}>\n'
        return Draft(created=[(path, f"{head}{text}</manifest>\n".encode())])
    prefixes = {uri: key for key, uri in manifest.root.prefixes.items()}
    tools, declared = prefixes.get(TOOLS_NS, "tools"), TOOLS_NS in prefixes
    node = f' {tools}:node="remove"' if taken_out else ""
    node = node if declared or not taken_out else f' xmlns:tools="{TOOLS_NS}"{node}'
    text = f'<uses-permission {prefixes.get(ANDROID_NS, "android")}:name="{called}"{node} />'
    source = manifest.document.source
    mates = [item for item in manifest.root.children if item.name in _TAGS]
    application = manifest.application
    if mates:
        at, lead = mates[-1].end, source.newline + indentation(source, mates[-1].start)
        return Draft(edits=[_edit(manifest, at, at, f"{lead}{text}")])
    if application is not None:
        between = indentation(source, application.start)
        return Draft(
            edits=[_edit(manifest, application.start, application.start, f"{text}{source.newline}{between}")]
        )
    return Draft(edits=[_edit(manifest, *new_child(manifest.document, manifest.root, text))])


def _cut(manifest: Manifest | None, element: Element | None) -> Draft:
    """Take an element out, with its line where nothing else stands on it."""
    if manifest is None or element is None:
        return Draft()
    return Draft(edits=[_edit(manifest, *manifest.document.source.whole_lines(element.start, element.end), "")])


def _edit(manifest: Manifest, start: int, end: int, text: str) -> Edit:
    source = manifest.document.source
    return span_edit(manifest.path, source, start, end, text, "permission")
