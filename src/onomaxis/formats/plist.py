"""XML property lists: keys and values with spans, and where a missing key goes."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from typing import NamedTuple

from onomaxis.errors import FormatError
from onomaxis.formats.xml import Element, XmlDocument, indentation, parse_xml, text_span


class PlistString(NamedTuple):
    """A ``<string>`` value: decoded text, its view span, the syntax to write it in, the key path to it."""

    path: tuple[str, ...]
    value: str
    start: int
    end: int
    syntax: str


def is_binary_plist(data: bytes) -> bool:
    """Tell whether *data* is a binary property list (never edited here)."""
    return data.startswith(b"bplist00")


class Plist:
    """One parsed XML property list."""

    def __init__(self, document: XmlDocument) -> None:
        self.document = document
        tops = [child for child in document.root.children if child.name in ("dict", "array")]
        if document.root.name != "plist" or not tops:
            raise FormatError("not a property list with a dictionary or an array at its top", line=1)
        self.top = tops[0]

    def string(self, *path: str) -> PlistString | None:
        """Return the string at a path of dictionary keys, or None."""
        node: Element | None = self.top
        for key in path:
            node = _entries(node).get(key) if node is not None and node.name == "dict" else None
        return self._string(path, node) if node is not None else None

    def strings(self) -> Iterator[PlistString]:
        """Yield every string value of the file; array positions appear as numbers in the path."""
        yield from self._walk((), self.top)

    def keys(self) -> Iterator[tuple[str, Element]]:
        """Yield every ``<key>`` element with its text."""
        for element in self.top.walk():
            if element.name == "key":
                yield element.text, element

    def _walk(self, path: tuple[str, ...], node: Element) -> Iterator[PlistString]:
        if node.name == "dict":
            for key, child in _entries(node).items():
                yield from self._walk((*path, key), child)
        elif node.name == "array":
            for index, child in enumerate(node.children):
                yield from self._walk((*path, str(index)), child)
        else:
            found = self._string(path, node)
            if found:
                yield found

    def _string(self, path: tuple[str, ...], node: Element) -> PlistString | None:
        if node.name != "string":
            return None
        if node.empty:
            return None
        span = text_span(self.document, node)
        if span is None:
            return None
        start, end, cdata = span
        # A property list keeps outer white space, so the whole inside is the value.
        if not cdata:
            start, end = node.inner_start, node.inner_end
        return PlistString(path, node.text, start, end, "xml-cdata" if cdata else "xml-text")

    def opening(self, key: str) -> tuple[int, int, str, str]:
        """Return the view span that gives way to a missing top-level *key*, the text before its string and after it.

        Keys are kept in order when the file is sorted; else the new one comes last. Nothing gives way, but for a
        dictionary that is empty and closed in one tag.
        """
        entries = [child for child in self.top.children if child.name == "key"]
        newline = self.document.source.newline
        if not entries:
            outer = indentation(self.document.source, self.top.start)
            step = outer + "\t"
            if self.top.empty:
                lead = f"<dict>{newline}{step}<key>{key}</key>{newline}{step}<string>"
                return self.top.start, self.top.end, lead, f"</string>{newline}{outer}</dict>"
            return (
                self.top.inner_start,
                self.top.inner_start,
                f"{newline}{step}<key>{key}</key>{newline}{step}<string>",
                "</string>"
                if "\n" in self.document.source.view[self.top.inner_start : self.top.inner_end]
                else f"</string>{newline}{outer}",
            )
        names = [child.text for child in entries]
        before = next((c for c in entries if c.text > key), None) if names == sorted(names) else None
        margin = indentation(self.document.source, entries[0].start)
        if before is not None:
            return (
                before.start,
                before.start,
                f"<key>{key}</key>{newline}{margin}<string>",
                f"</string>{newline}{margin}",
            )
        last = self.top.children[-1]
        return last.end, last.end, f"{newline}{margin}<key>{key}</key>{newline}{margin}<string>", "</string>"


def _entries(node: Element) -> dict[str, Element]:
    """Pair each ``<key>`` of a dictionary with the element after it; the first of two equal keys wins."""
    found: dict[str, Element] = {}
    children = node.children
    for key, value in itertools.pairwise(children):
        if key.name == "key" and value.name != "key":
            found.setdefault(key.text, value)
    return found


def parse_plist(data: bytes) -> Plist:
    """Parse an XML property list. Raises FormatError with the line."""
    return Plist(parse_xml(data))
