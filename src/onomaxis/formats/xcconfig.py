"""Xcode configuration files (``.xcconfig``): settings, conditions and includes, line by line."""

from __future__ import annotations

import re
from typing import NamedTuple

from onomaxis import late
from onomaxis.formats.source import Source

_SETTING = late.compile(
    r"^[ \t]*+([A-Za-z_][A-Za-z0-9_]*+)((?>(?:\[[^\]\n]*+\])*))[ \t]*+=[ \t]*+([^\r\n]*+)", re.MULTILINE
)
_INCLUDE = late.compile(r'^[ \t]*#include(\??)[ \t]*"([^"\r\n]+)"', re.MULTILINE)


class Setting(NamedTuple):
    """One ``NAME[condition] = value``; the span is that of the value in the view, without comment or semicolon."""

    name: str
    condition: str
    value: str
    start: int
    end: int


class Include(NamedTuple):
    """One ``#include``; *optional* for the ``#include?`` form."""

    path: str
    optional: bool
    position: int


class Xcconfig(NamedTuple):
    """A parsed file. Statements keep their order in ``statements``."""

    source: Source
    statements: tuple[Setting | Include, ...]

    def opening(self, name: str) -> tuple[int, str, str]:
        """Return where a missing setting goes: view position, text before the value, text after."""
        newline = self.source.newline
        view = self.source.view
        lead = "" if not view or view.endswith("\n") else newline
        return len(view), f"{lead}{name} = ", newline


def _value(text: str) -> str:
    """Return what counts of the text behind the equals sign: no comment, no closing semicolon, no outer space."""
    text = text.partition("//")[0].rstrip(" \t")
    return text.removesuffix(";").rstrip(" \t")


def parse_xcconfig(data: bytes) -> Xcconfig:
    """Parse a configuration file. Never fails on syntax: what is neither a setting nor an include is passed over."""
    source = Source.read(data)
    found: list[tuple[int, Setting | Include]] = []
    for match in _SETTING.finditer(source.view):
        start = match.start(3)
        end = start + len(_value(match[3]))
        found.append((match.start(), Setting(match[1], match[2], source.text(start, end), start, end)))
    for match in _INCLUDE.finditer(source.view):
        include = Include(source.text(match.start(2), match.end(2)), bool(match[1]), match.start())
        found.append((match.start(), include))
    return Xcconfig(source, tuple(item for _, item in sorted(found, key=lambda pair: pair[0])))
