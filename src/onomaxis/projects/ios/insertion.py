"""Putting new objects and list items into a project file, in the layout of what stands there."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from onomaxis.formats.openstep import Array, Dict, Entry
from onomaxis.formats.source import Source
from onomaxis.model import Edit
from onomaxis.projects.edits import span_edit
from onomaxis.projects.ios.project_file import XcodeProject


def object_entries(project: XcodeProject) -> Mapping[str, Entry]:
    """Return every object's entry in the file, by identifier."""
    return {entry.key.value: entry for entry in project.document.top.dict("objects").entries}


def line_span(source: Source, start: int, end: int) -> tuple[int, int]:
    """Return the span of the whole lines that hold an entry and nothing else; the entry's own span where they do."""
    return source.whole_lines(start, end, r"(?:/\*[^*]*+\*/)?[ \t]*+[,;]?")


def isa(entry: Entry) -> str:
    """Return what an object is."""
    return entry.value.text("isa") if isinstance(entry.value, Dict) else ""


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
        """Add objects behind the last of their kind; where there is none, behind the last of kind *beside*."""
        entries = object_entries(self.project).values()
        models = [item for item in entries if isa(item) == kind] or [item for item in entries if isa(item) == beside]
        model = max(models, key=lambda item: item.key.start)
        begin, end = line_span(self.source, model.key.start, model.end)
        alone = not self.source.view[begin : model.key.start].strip()
        margin = self.source.view[begin : model.key.start] if alone else " "
        self.insert(end, "".join(f"{margin}{text}{self.source.newline if alone else ''}" for text in texts))

    def append(self, listed: Array, items: Iterable[str]) -> None:
        """Add items at the end of an array, one a line where its items stand so."""
        source = self.source
        if not listed.items:
            self.insert(source.view.index("(", listed.start) + 1, ", ".join(items))
            return
        first, last = listed.items[0], listed.items[-1]
        margin = source.view[source.line_start(first.start) : first.start]
        end = line_span(source, last.start, last.end)[1]
        if margin.strip() or end == last.end:
            self.insert(last.end, "".join(f", {item}" for item in items))
        else:
            self.insert(end, "".join(f"{margin}{item},{source.newline}" for item in items))
