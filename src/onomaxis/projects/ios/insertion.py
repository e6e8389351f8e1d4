"""Putting new objects and list items into a project file, in the layout of what stands there."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterable, Iterator, Mapping, Set
from dataclasses import dataclass, field
from typing import NamedTuple

from onomaxis.formats.openstep import Array, Dict, Entry, Node, Text
from onomaxis.formats.source import Source
from onomaxis.model import Edit
from onomaxis.projects.edits import span_edit
from onomaxis.projects.ios.project_file import Target, XcodeProject


def object_entries(project: XcodeProject) -> Mapping[str, Entry]:
    """Return every object's entry in the file, by identifier."""
    return {entry.key.value: entry for entry in project.document.top.dict("objects").entries}


def line_span(source: Source, start: int, end: int) -> tuple[int, int]:
    """Return the span of the whole lines that hold an entry and nothing else; the entry's own span where they do."""
    return source.whole_lines(start, end, r"(?:/\*[^*]*+\*/)?[ \t]*+[,;]?")


def items_out(source: Source, node: Node | None, gone: Set[str]) -> Iterator[tuple[int, int]]:
    """Yield the spans that take items out of an array: each with its comment, its comma and a line of its own."""
    items = node.items if isinstance(node, Array) else []
    comment = r"[ \t]*(?:/\*[^*]*\*/)?"
    stays = False  # one before it stays: the comma between the two goes, else the one behind
    for item in items:
        if not isinstance(item, Text) or item.value not in gone:
            stays = True
            continue
        start, end = line_span(source, item.start, item.end)
        if (start, end) == (item.start, item.end):
            before = re.compile(r",[ \t]*\Z").search(source.view, max(0, start - 8), start) if stays else None
            after = re.compile(comment if before else rf"{comment}(?:[ \t]*,[ \t]*)?").match(source.view, end)
            start, end = before.start() if before else start, after.end() if after else end
        yield start, end


def isa(entry: Entry) -> str:
    """Return what an object is."""
    return entry.value.text("isa") if isinstance(entry.value, Dict) else ""


class ResourceLists(NamedTuple):
    """Where a new resource of a target is listed: among the children of a group in *folder*, and to be copied."""

    folder: str
    children: Array
    files: Array

    def place(self, project: XcodeProject, path: str) -> tuple[str, str]:
        """Return the path of a file as its reference says it, and what it starts from."""
        if self.folder and path.startswith(f"{self.folder}/"):
            return path[len(self.folder) + 1 :], '"<group>"'
        return project.from_start(path), "SOURCE_ROOT" if project.start else '"<group>"'

    def add(self, insertion: Insertion, key: str, name: str, build: str) -> None:
        """List a file or group; *build* identifies what says that it is copied."""
        inner = f"isa = PBXBuildFile; fileRef = {key} /* {name} */;"
        insertion.add("PBXBuildFile", [f"{build} /* {name} in Resources */ = {{{inner} }};"], "PBXGroup")
        insertion.append(self.children, [f"{key} /* {name} */"])
        insertion.append(self.files, [f"{build} /* {name} in Resources */"])


def resource_lists(project: XcodeProject, target: Target, folder: str) -> ResourceLists | None:
    """Return where a resource in a folder is listed; None where a target copies no resources."""
    phases = (project.object(key) for key in target.node.texts("buildPhases"))
    phase = next((item for item in phases if item.text("isa") == "PBXResourcesBuildPhase"), None)
    files = phase.get("files") if phase is not None else None
    root = project.root or Dict()
    holder = _group_at(project, folder) or root.text("mainGroup")
    children = project.object(holder).get("children")
    if not isinstance(files, Array) or not isinstance(children, Array):
        return None
    return ResourceLists(project.path_of(holder) or "", children, files)


def _group_at(project: XcodeProject, folder: str) -> str:
    """Return the group whose folder it is."""
    for key, path in project.paths.items():
        if path == folder and project.object(key).text("isa") == "PBXGroup" and project.object(key).text("path"):
            return key
    return ""


@dataclass
class Insertion:
    """Gathers what is put into one project file; *facet* marks its edits, *salt* makes its identifiers its own."""

    project: XcodeProject
    facet: str
    salt: str = ""
    edits: list[Edit] = field(default_factory=list)
    _taken: set[str] = field(default_factory=set)

    @property
    def source(self) -> Source:
        """The project file's text."""
        return self.project.document.source

    def identifier(self, *words: str) -> str:
        """Return an unused object identifier, the same on every machine."""
        taken = self._taken or set(self.project.objects)
        number = 0
        while True:
            text = "|".join((self.project.path, self.salt, *words, str(number)))
            found = hashlib.sha1(text.encode(), usedforsecurity=False).hexdigest()[:24].upper()
            if found not in taken:
                self._taken = taken | {found}
                return found
            number += 1

    def insert(self, position: int, text: str) -> None:
        """Add text at a view position."""
        self.edits.append(span_edit(self.project.path, self.source, position, position, text, self.facet))

    def add(self, kind: str, texts: Iterable[str], beside: str) -> None:
        """Add objects behind the last of their kind, else behind the last of kind *beside*, else behind all."""
        entries = list(object_entries(self.project).values())
        alike = ([item for item in entries if isa(item) == name] for name in (kind, beside))
        model = max(next(filter(None, alike), entries), key=lambda item: item.key.start)
        begin, end = line_span(self.source, model.key.start, model.end)
        alone = not self.source.view[begin : model.key.start].strip()
        margin = self.source.view[begin : model.key.start] if alone else " "
        self.insert(end, "".join(f"{margin}{text}{self.source.newline if alone else ''}" for text in texts))

    def add_lines(self, kind: str, lines: Iterable[str], beside: str) -> None:
        """Add one object of several lines, as Xcode lays it out."""
        self.add(kind, [f"{self.source.newline}\t\t".join(lines)], beside)

    def append(self, listed: Array, items: Iterable[str]) -> None:
        """Add items at the end of an array, one a line where its items stand so."""
        source = self.source
        if not listed.items:
            start = source.view.index("(", listed.start) + 1
            close = source.view.index(")", start)
            line = source.line_start(close)
            if line > start and not source.view[start:close].strip():  # an empty list on two lines
                margin = source.view[line:close]
                self.insert(line, "".join(f"{margin}\t{item},{source.newline}" for item in items))
            else:
                self.insert(start, ", ".join(items))
            return
        first, last = listed.items[0], listed.items[-1]
        margin = source.view[source.line_start(first.start) : first.start]
        end = line_span(source, last.start, last.end)[1]
        if margin.strip() or end == last.end:
            self.insert(last.end, "".join(f", {item}" for item in items))
        else:
            self.insert(end, "".join(f"{margin}{item},{source.newline}" for item in items))
