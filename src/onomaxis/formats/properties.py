"""Java properties files (``gradle.properties`` and its kind): keys and values with spans.

Source of the rules: java.util.Properties, ``load(Reader)``.
"""

from __future__ import annotations

import re
from typing import NamedTuple

from onomaxis import late
from onomaxis.formats.escapes import decode_backslashes
from onomaxis.formats.source import Source

_LOGICAL_LINE = late.compile(r"^[ \t\f]*(?![#!\s])((?:[^\\\r\n]|\\\r?\n|\\.)+)", re.MULTILINE)
_KEY = late.compile(r"(?:[^\\=:\s]|\\.)+")
_SEPARATOR = late.compile(r"[ \t\f]*[=:]?[ \t\f]*")
_CONTINUATION = late.compile(r"\\\r?\n[ \t\f]*")


class Property(NamedTuple):
    """One entry; the span is that of the value in the view."""

    key: str
    value: str
    start: int
    end: int


class Properties(NamedTuple):
    """A parsed file."""

    source: Source
    entries: tuple[Property, ...]

    def get(self, key: str) -> Property | None:
        """Return the last entry of *key*, as the loader does."""
        return next((entry for entry in reversed(self.entries) if entry.key == key), None)

    def opening(self, key: str) -> tuple[int, str, str]:
        """Return where a missing entry goes: view position, text before the value, text after."""
        view = self.source.view
        newline = self.source.newline
        spaced = bool(self.entries) and view[: self.entries[0].start].endswith(" ")
        lead = "" if not view or view.endswith("\n") else newline
        return len(view), f"{lead}{key}{' = ' if spaced else '='}", newline


def parse_properties(data: bytes) -> Properties:
    """Parse a properties file. Never fails on syntax."""
    source = Source.read(data)
    found = []
    for match in _LOGICAL_LINE.finditer(source.view):
        key = _KEY.match(match[1])
        if key is None:
            continue
        separator = _SEPARATOR.match(match[1], key.end())
        start = match.start(1) + (separator.end() if separator else key.end())
        end = match.end(1)
        value = decode_backslashes(_CONTINUATION.sub("", source.text(start, end)))
        name = decode_backslashes(source.text(match.start(1), match.start(1) + key.end()))
        found.append(Property(name, value, start, end))
    return Properties(source, tuple(found))
