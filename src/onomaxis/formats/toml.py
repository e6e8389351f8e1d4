"""TOML with lines: the standard reader gives the data, a scanner over the same text says where each key stands.

Source of the syntax: toml.io, "TOML v1.0.0".
"""

from __future__ import annotations

import re
import tomllib
from collections.abc import Mapping
from typing import Any, NamedTuple

from onomaxis import late
from onomaxis.errors import FormatError

_BLANK = late.compile(r"(?:[ \t\r\n]|#[^\n]*)*")
_SPACE = late.compile(r"[ \t]*")
_BARE = late.compile(r"[A-Za-z0-9_-]+")
_STRING = late.compile(r'"""(?:[^\\]|\\.)*?"{3,5}|' r"'''.*?'{3,5}|" r'"(?:[^"\\\n]|\\.)*"|' r"'[^'\n]*'", re.DOTALL)
_PLAIN = late.compile(r"[^,\]}\s#]+(?:[ ][0-9][^,\]}\s#]*)?")
_AT = late.compile(r" \(at line (\d+), column \d+\)| \(at end of document\)")

Path = tuple[str, ...]


class FileLine(int):
    """A line number that knows its file, where one document is put together of several."""

    file: str

    def __new__(cls, line: int, file: str) -> FileLine:
        made = super().__new__(cls, line)
        made.file = file
        return made


class TomlDocument(NamedTuple):
    """The data of a file, and the 1-based line of every key; items of arrays count as keys ``0``, ``1``, …"""

    top: Mapping[str, Any]
    lines: Mapping[Path, int]

    def line(self, path: Path) -> int:
        """Return the line of a path: of its first key where it has none itself, else of the nearest one above it."""
        while path and path not in self.lines:
            below = [line for key, line in self.lines.items() if key[: len(path)] == path]
            if below:
                return min(below)
            path = path[:-1]
        return self.lines.get(path, 1)


def parse_toml(data: bytes) -> TomlDocument:
    """Parse a file. Raises FormatError with the line."""
    try:
        text = data.decode("utf-8-sig")
        top = tomllib.loads(text)
    except UnicodeDecodeError as error:
        line = data.count(b"\n", 0, error.start) + 1
        raise FormatError("the file is not UTF-8, as TOML asks for", line=line) from None
    except tomllib.TOMLDecodeError as error:
        found = _AT.search(str(error))
        line = int(found[1]) if found and found[1] else text.count("\n") + 1
        raise FormatError(f"not readable TOML: {_AT.sub('', str(error))}", line=line) from None
    return TomlDocument(top, _Scanner(text).lines)


class _Scanner:
    """Walks over a text that is known to be right, and keeps the line of each key."""

    def __init__(self, text: str) -> None:
        self.text = text
        self.at = 0
        self.lines: dict[Path, int] = {}
        self._counted = (0, 1)
        self._arrays: dict[Path, int] = {}
        base: Path = ()
        while self._skip(_BLANK) < len(text):
            if text[self.at] == "[":
                base = self._header()
            else:
                self._pair(base)

    def _skip(self, pattern: re.Pattern[str]) -> int:
        match = pattern.match(self.text, self.at)
        self.at = match.end() if match else self.at
        return self.at

    def _line(self) -> int:
        at, line = self._counted
        line += self.text.count("\n", at, self.at)
        self._counted = (self.at, line)
        return line

    def _keep(self, path: Path) -> None:
        self.lines.setdefault(path, self._line())

    def _key(self) -> Path:
        parts: list[str] = []
        while True:
            self._skip(_SPACE)
            if self.text[self.at] in "\"'":
                start = self.at
                self._skip(_STRING)
                parts.append(str(next(iter(tomllib.loads(f"{self.text[start : self.at]} = 0")))))
            else:
                start = self.at
                self._skip(_BARE)
                parts.append(self.text[start : self.at])
            self._skip(_SPACE)
            if self.text[self.at] != ".":
                return tuple(parts)
            self.at += 1

    def _header(self) -> Path:
        array = self.text.startswith("[[", self.at)
        self.at += 2 if array else 1
        path = self._placed(self._key())
        if array:
            number = self._arrays.get(path, -1) + 1
            self._arrays[path] = number
            self._keep(path)
            path = (*path, str(number))
        self._keep(path)
        self.at += 2 if array else 1
        return path

    def _placed(self, key: Path) -> Path:
        """Return where a header's key leads: into the last item of each array of tables on the way."""
        path: Path = ()
        for index, part in enumerate(key):
            path = (*path, part)
            if path in self._arrays and index < len(key) - 1:
                path = (*path, str(self._arrays[path]))
        return path

    def _pair(self, base: Path) -> None:
        start = self.at
        key = self._key()
        end, self.at = self.at, start
        for index in range(1, len(key) + 1):
            self._keep((*base, *key[:index]))
        self.at = end + 1
        self._skip(_SPACE)
        self._value((*base, *key))

    def _value(self, path: Path) -> None:
        mark = self.text[self.at]
        if mark == "[":
            self.at += 1
            number = 0
            while self.text[self._skip(_BLANK)] != "]":
                self._keep((*path, str(number)))
                self._value((*path, str(number)))
                number += 1
                self._skip(_BLANK)
                self.at += self.text[self.at] == ","
            self.at += 1
        elif mark == "{":
            self.at += 1
            while self.text[self._skip(_BLANK)] != "}":
                self._pair(path)
                self._skip(_BLANK)
                self.at += self.text[self.at] == ","
            self.at += 1
        else:
            self._skip(_STRING if mark in "\"'" else _PLAIN)
