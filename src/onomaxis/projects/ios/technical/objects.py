"""The objects of a project file under new names: targets, groups, files, products, proxies, and the comments on them.

Object identifiers stay; so does the order of everything.
"""

from __future__ import annotations

import re
from bisect import bisect_right
from collections.abc import Iterator

from onomaxis import late
from onomaxis.formats.escapes import encode
from onomaxis.formats.openstep import Array, Dict, Text
from onomaxis.model import Edit, Facet
from onomaxis.projects.edits import span_edit
from onomaxis.projects.ios.project_file import XcodeProject
from onomaxis.projects.ios.technical.names import Names

_TARGETS = ("PBXNativeTarget", "PBXAggregateTarget", "PBXLegacyTarget")
_GROUPS = ("PBXGroup", "PBXVariantGroup", "PBXFileSystemSynchronizedRootGroup", "XCVersionGroup")
_COMMENT = late.compile(r"(?<![A-Za-z0-9_])([A-Za-z0-9_]++)(\s*+/\* )([^*\n]*?)( \*/)")

# What newer projects write on the exceptions of a synchronized folder: the folder's and the target's name.
_EXCEPTIONS = late.compile(r'Exceptions for "[^"]*" folder in "[^"]*" (?:target|phase)')

Texts = dict[int, tuple[Text, str]]


def put(texts: Texts, node: object, new: str) -> None:
    """Keep that *node* shall read *new*, if that is another text."""
    if isinstance(node, Text) and node.value != new:
        texts[node.start] = (node, new)


def rename_objects(project: XcodeProject, names: Names, texts: Texts) -> None:
    """Gather the new texts of every object that bears a technical name."""
    for key, node in project.objects.items():
        isa = node.text("isa")
        if isa in _TARGETS:
            for field in ("name", "productName"):
                put(texts, node.get(field), names.targets.get(node.text(field), node.text(field)))
        elif isa == "PBXFileReference" or isa in _GROUPS:
            _rename_reference(project, names, key, node, texts)
        elif isa == "PBXContainerItemProxy" and project.root is project.objects.get(node.text("containerPortal")):
            put(texts, node.get("remoteInfo"), names.targets.get(node.text("remoteInfo"), node.text("remoteInfo")))
        elif isa == "PBXTargetDependency":
            put(texts, node.get("name"), names.targets.get(node.text("name"), node.text("name")))
        elif isa == "PBXShellScriptBuildPhase":
            for field in ("inputPaths", "outputPaths", "inputFileListPaths", "outputFileListPaths"):
                listed = node.get(field)
                for item in listed.items if isinstance(listed, Array) else ():
                    put(texts, item, names.script(item.value) if isinstance(item, Text) else "")


def _rename_reference(project: XcodeProject, names: Names, key: str, node: Dict, texts: Texts) -> None:
    path, name = node.text("path"), node.text("name")
    if node.text("sourceTree") == "BUILT_PRODUCTS_DIR":
        product = names.pods(names.product(path))
        put(texts, node.get("path"), product)
        put(texts, node.get("name"), names.pods(names.product(name)) if name else "")
        return
    full = project.path_of(key) or ""
    moved = names.node_path(path, full) if path else ""
    if moved == path:
        moved = names.pods(path)
    put(texts, node.get("path"), moved)
    if name and name == path.rpartition("/")[2]:
        put(texts, node.get("name"), moved.rpartition("/")[2])
    elif name:
        known = names.targets.get(name, name) if node.text("isa") in _GROUPS else names.product(name)
        put(texts, node.get("name"), names.pods(known))


def edits(project: XcodeProject, texts: Texts) -> Iterator[Edit]:
    """Yield the edits of the gathered texts, then of the comments that name the objects changed."""
    source = project.document.source
    for node, new in texts.values():
        written = encode("openstep", new, source.text(node.start, node.end))
        yield span_edit(project.path, source, node.start, node.end, written, Facet.PROJECT_NAME)


def comment_edits(project: XcodeProject, names: Names, texts: Texts) -> Iterator[Edit]:
    """Yield the edits of the comments in which Xcode repeats the names of objects."""
    source = project.document.source
    literals = sorted((node.start, node.end) for _, node in project.document.texts() if node.end - node.start > 40)
    starts = [start for start, _ in literals]
    labels: dict[str, dict[str, str]] = {}
    for match in _COMMENT.finditer(source.view):
        key = match[1]
        if key not in project.objects:
            continue
        at = bisect_right(starts, match.start()) - 1
        if at >= 0 and literals[at][1] > match.start():
            continue
        if _EXCEPTIONS.match(source.text(match.start(3), match.end(3))):
            said = source.text(match.start(3), match.end(3))
            new = re.sub(r'"([^"]*)"', lambda found: f'"{names.targets.get(found[1], found[1])}"', said)
            if new != said:
                yield span_edit(project.path, source, match.start(3), match.end(3), new, Facet.PROJECT_NAME)
            continue
        if key not in labels:
            labels[key] = _labels(project, names, texts, key)
        said = source.text(match.start(3), match.end(3))
        label, mark, rest = said.partition(" in ")
        new = labels[key].get(said) or (labels[key].get(label, label) + mark + rest)
        if new != said:
            yield span_edit(project.path, source, match.start(3), match.end(3), new, Facet.PROJECT_NAME)


def _labels(project: XcodeProject, names: Names, texts: Texts, key: str) -> dict[str, str]:
    """Return what a comment on an object may say today, and what it will say."""
    node = project.object(key)
    isa = node.text("isa")
    if isa == "PBXBuildFile":
        inner = node.text("fileRef") or node.text("productRef")
        return _labels(project, names, texts, inner) if inner in project.objects and inner != key else {}
    found: dict[str, str] = {}
    if isa == "XCConfigurationList":
        for kind, several in (("PBXProject", names.targets), *((kind, names.targets) for kind in _TARGETS)):
            for old, new in several.items():
                found[f'Build configuration list for {kind} "{old}"'] = f'Build configuration list for {kind} "{new}"'
        return found
    for field in ("name", "path"):
        entry = node.get(field)
        if isinstance(entry, Text) and entry.start in texts:
            old, new = entry.value, texts[entry.start][1]
            found.setdefault(old, new)
            if field == "path":
                found.setdefault(old.rpartition("/")[2], new.rpartition("/")[2])
    if isa == "XCBuildConfiguration":
        return {}
    return found


def script_edits(project: XcodeProject, names: Names) -> Iterator[Edit]:
    """Yield the edits of build scripts: only the names in them are touched, every escape stays as written."""
    source = project.document.source
    for node in project.objects.values():
        script = node.get("shellScript") if node.text("isa") == "PBXShellScriptBuildPhase" else None
        if not isinstance(script, Text):
            continue
        written = source.text(script.start, script.end)
        new = names.script(written)
        if new != written and written.startswith('"'):
            yield span_edit(project.path, source, script.start, script.end, new, Facet.PROJECT_NAME)
