"""The path that an expression takes into nested maps: ``cfg.app.id``, ``(cfg["app"] as Map<*, *>)["id"] as String``.

A path is a variable, or a call of a function, and the keys below it. Casts, ``!!`` and
conversions on the way change nothing of it.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from onomaxis.formats.gradle_statements import literal_text
from onomaxis.formats.lexer import Token, matching
from onomaxis.projects.android.script_functions import HOLDERS, Call, call_of

# Calls that ask a map or an object of a JSON library for one entry, and calls that only change the type.
_GETTERS = frozenset(
    {
        "get",
        "getValue",
        "getProperty",
        "getString",
        "getInt",
        "getLong",
        "getJSONObject",
        "getAsJsonObject",
        "optString",
    }
)
_CONVERSIONS = frozenset({"toString", "toInteger", "toInt", "toLong", "asInteger", "trim", "asString", "asInt"})
_DEEPEST = 40


class Access(NamedTuple):
    """A variable, or a call, and the keys that lead from it to a value."""

    owner: str
    keys: tuple[str, ...]
    call: Call | None = None


def access_path(found: Sequence[Token]) -> Access | None:
    """Return the path that a whole expression takes; None where it is anything else, or a variable alone."""
    reader = _Reader([token for token in found if token.kind != "newline"])
    path = reader.path(0)
    whole = path is not None and reader.at == len(reader.items)
    if path is None or not whole:
        return None
    names = list(path)
    while len(names) > 2 and names[0] in HOLDERS:
        names.pop(0)
    return Access(names[0], tuple(names[1:]), reader.call) if len(names) > 1 else None


class _Reader:
    def __init__(self, items: list[Token]) -> None:
        self.items = items
        self.at = 0
        self.call: Call | None = None

    def text(self, ahead: int = 0) -> str:
        at = self.at + ahead
        return self.items[at].text if at < len(self.items) else ""

    def path(self, depth: int) -> list[str] | None:
        """Read an atom and what follows it."""
        if depth > _DEEPEST or self.at >= len(self.items):
            return None
        token = self.items[self.at]
        names: list[str] | None = None
        if token.kind == "name":
            names = [token.text.strip("`")]
            self.at += 1
            if self.text() == "(":
                self.called()
        elif token.text == "(":
            self.at += 1
            names = self.path(depth + 1)
            if names is None or self.text() != ")":
                return None
            self.at += 1
        return self.suffixes(names) if names is not None else None

    def suffixes(self, names: list[str]) -> list[str] | None:
        while self.at < len(self.items):
            mark = self.text()
            if mark == "!!":
                self.at += 1
            elif mark == "as":
                self.at += 1
                self.type_name()
            elif mark == "[" and self.text(2) == "]" and self.key(1):
                names.append(self.key(1))
                self.at += 3
            elif mark in (".", "?.") and self.at + 1 < len(self.items) and self.items[self.at + 1].kind == "name":
                if not self.member(names):
                    return None
            else:
                break
        return names

    def key(self, ahead: int) -> str:
        at = self.at + ahead
        return literal_text(self.items[at : at + 1])

    def member(self, names: list[str]) -> bool:
        """Read ``.name``, ``.get("key")`` or a conversion."""
        name = self.text(1)
        if self.text(2) != "(":
            if name not in _CONVERSIONS:
                names.append(name)
            self.at += 2
            return True
        if name in _GETTERS and self.key(3) and self.text(4) == ")":
            names.append(self.key(3))
            self.at += 5
            return True
        if name in _CONVERSIONS and self.text(3) == ")":
            self.at += 4
            return True
        if HOLDERS.issuperset(names):
            names[:] = [name.strip("`")]
            self.at += 2
            self.called()
            return True
        return False

    def called(self) -> None:
        """Step over the arguments of the function that was just named."""
        close = matching(self.items, self.at)
        self.call = call_of(self.items[self.at - 1 : close + 1])
        self.at = close + 1

    def type_name(self) -> None:
        """Step over ``String``, ``Map<String, Any>?``, ``java.util.Map``."""
        while self.at < len(self.items) and (self.items[self.at].kind == "name" or self.text() == "."):
            self.at += 1
        depth = 0
        while self.at < len(self.items) and (self.text() == "<" or depth):
            depth += self.text().count("<") - self.text().count(">")
            self.at += 1
        if self.text() == "?":
            self.at += 1
