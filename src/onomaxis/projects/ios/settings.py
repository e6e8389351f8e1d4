"""Build settings as Xcode resolves them: levels, references, operators, conditions.

Source of the rules: Apple, "Build settings reference" and "Adding a build configuration file to your project".
"""

from __future__ import annotations

import fnmatch
import re
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass, field
from typing import NamedTuple

from onomaxis import late
from onomaxis.formats.openstep import Array, Dict, Text
from onomaxis.formats.source import Source
from onomaxis.formats.xcconfig import Include, Setting, parse_xcconfig
from onomaxis.model import WHOLE_FILE, Piece, Place, Unresolved, Value
from onomaxis.projects.project import guarded, place
from onomaxis.tree import Tree, join, parent

_CONDITIONAL = late.compile(r"([A-Za-z_][A-Za-z0-9_]*)((?:\[[^\]]*\])*)\Z")
_CONDITION = late.compile(r"(?<!\w)(\w++)=([^,\]]*+)")
# What a release build for a device matches.
_BUILD = {"sdk": "iphoneos18.0", "arch": "arm64"}
# Settings whose value names a product: an identifier may be built from them, but is never changed through them.
PRODUCT_SETTINGS = frozenset(
    {
        "PRODUCT_NAME",
        "TARGET_NAME",
        "PROJECT_NAME",
        "PRODUCT_MODULE_NAME",
        "EXECUTABLE_NAME",
        "CONFIGURATION",
        "DEVELOPMENT_TEAM",
        "SDK_NAME",
        "PLATFORM_NAME",
        "WRAPPER_NAME",
        "TARGETNAME",
    }
)


# Parts of the names of files that tools make when dependencies are fetched.
_MADE_LATER = ("Pods", "Generated", "ephemeral")


class Undefined(Exception):
    """A setting that is referred to and defined nowhere."""


class Definition(NamedTuple):
    """One definition of a setting: expression text, place of the literal, condition."""

    text: str
    place: Place | None
    condition: str = ""


Level = dict[str, list[Definition]]

# References that one value may be made of, those within them counted: a file may have come from anywhere.
_MOST_STEPS = 400


@dataclass
class Table:
    """The settings of one target in one configuration, the winning level first."""

    levels: list[Level]
    configuration: str
    _steps: int = 0

    def define(self, name: str, level: int = 0) -> tuple[Definition, int] | None:
        """Return the definition of *name* that wins from *level* on, and its level."""
        for index in range(level, len(self.levels)):
            items = self.levels[index].get(name)
            if not items:
                continue
            if len(items) == 1 and not items[0].condition:
                return items[0], index
            matching = [item for item in items if self._holds(item.condition)]
            if matching:
                plain = [item for item in matching if item.condition] or matching
                return plain[-1], index
        return None

    def _holds(self, condition: str) -> bool:
        wanted = {**_BUILD, "config": self.configuration}
        return all(
            fnmatch.fnmatchcase(wanted.get(key, ""), pattern) for key, pattern in _CONDITION.findall(condition)
        )

    def value(self, name: str) -> Value | None:
        """Resolve *name*; None when it is not defined. Raises Undefined for a reference to nothing."""
        found = self.define(name)
        if found is None or found[0].place is None:
            return None
        definition, level = found
        assert definition.place is not None
        return Value(tuple(self.expand(definition.text, definition.place, name, level)), definition.place)

    def beside(self, name: str) -> Iterator[Value]:
        """Yield what a setting is under other conditions, at the level that wins."""
        found = self.define(name)
        for item in self.levels[found[1]][name] if found is not None else ():
            if found is not None and item is not found[0] and item.place is not None and item.text:
                with suppress(Undefined):
                    yield Value(tuple(self.expand(item.text, item.place, name, found[1])), item.place)

    def text(self, name: str, default: str = "") -> str:
        """Return the resolved text of *name*; *default* when it is not defined or refers to nothing."""
        found = self.define(name)
        if found is None:
            return default
        try:
            return "".join(piece.text for piece in self.expand(found[0].text, found[0].place, name, found[1]))
        except Undefined:
            return default

    def expand(self, text: str, spot: Place | None, name: str = "", level: int = 0, depth: int = 0) -> list[Piece]:
        """Expand the references in *text*, which stands at *spot*."""
        self._steps = self._steps + 1 if depth else 0
        if depth > 25 or self._steps > _MOST_STEPS:
            raise Undefined(f"{name} refers to itself" if depth > 25 else f"{name} is put together of too many parts")
        pieces: list[Piece] = []
        at = 0
        for start, end in _references(text):
            if start > at:
                pieces.append(Piece(text[at:start], spot, text[:at], text[start:]))
            pieces.extend(self._reference(text[start + 2 : end - 1], name, level, depth))
            at = end
        if at < len(text) or not pieces:
            pieces.append(Piece(text[at:], spot, text[:at], ""))
        return pieces

    def _reference(self, inner: str, name: str, level: int, depth: int) -> list[Piece]:
        if _references(inner):  # a nested name: $(A_$(B))
            inner = "".join(piece.text for piece in self.expand(inner, None, name, level, depth + 1))
        key, *operators = inner.split(":")
        found = self.define(name, level + 1) if key == "inherited" else self.define(key)
        if key == "inherited" and found is None:
            return []
        default = next((item[8:] for item in operators if item.startswith("default=")), None)
        if found is None:
            if default is None:
                raise Undefined(key)
            return [Piece(default)]
        definition, at = found
        pieces = self.expand(definition.text, definition.place, name if key == "inherited" else key, at, depth + 1)
        if default is not None and not "".join(piece.text for piece in pieces):
            return [Piece(default)]
        if key in PRODUCT_SETTINGS or operators:
            text = "".join(piece.text for piece in pieces)
            for operator in operators:
                text = _operate(text, operator)
            return [Piece(text)]
        return pieces


def _references(text: str) -> list[tuple[int, int]]:
    """Return the spans of ``$(…)`` and ``${…}`` in *text*, outermost only."""
    spans: list[tuple[int, int]] = []
    at = text.find("$")
    while at >= 0:
        closing = {"(": ")", "{": "}"}.get(text[at + 1 : at + 2])
        if closing is None:
            at = text.find("$", at + 1)
            continue
        depth, end = 0, at + 1
        while end < len(text):
            depth += (text[end] == text[at + 1]) - (text[end] == closing)
            end += 1
            if depth == 0:
                break
        if depth:
            break
        spans.append((at, end))
        at = text.find("$", end)
    return spans


def _operate(text: str, operator: str) -> str:
    if operator == "lower":
        return text.lower()
    if operator == "upper":
        return text.upper()
    if operator == "rfc1034identifier":
        return re.sub(r"[^A-Za-z0-9.-]", "-", text)
    if operator in ("c99extidentifier", "identifier"):
        return re.sub(r"^(?=\d)|\W", "_", text)
    if operator in ("base", "file"):
        return text.rpartition("/")[2] if operator == "file" else text.rpartition("/")[2].partition(".")[0]
    return text


def builtin(target: str, project: str, folder: str, configuration: str) -> Level:
    """Return the settings that the build system itself defines, as far as identities use them.

    Folders begin with a slash, which here means the tree's root.
    """
    return {
        key: [Definition(text, None)]
        for key, text in {
            "TARGET_NAME": target,
            "TARGETNAME": target,
            "PROJECT_NAME": project,
            "CONFIGURATION": configuration,
            "PRODUCT_NAME": "$(TARGET_NAME)",
            "EXECUTABLE_NAME": "$(PRODUCT_NAME)",
            "PRODUCT_MODULE_NAME": "$(PRODUCT_NAME:c99extidentifier)",
            "SRCROOT": f"/{folder}",
            "PROJECT_DIR": f"/{folder}",
            "SOURCE_ROOT": f"/{folder}",
            "WRAPPER_NAME": "$(PRODUCT_NAME).app",
            "PRODUCT_TYPE_BUNDLE": "",
            "SDK_NAME": "iphoneos",
            "PLATFORM_NAME": "iphoneos",
        }.items()
    }


def file_named(tree: Tree, folder: str, text: str) -> str:
    """Return the file that the text of a build setting names, by its path from the tree's root.

    *text* is resolved, *folder* the project's: from there a path starts, but for one that begins with a slash, which
    the settings of folders do (see :func:`builtin`) and whole paths on this machine. Empty where that is unknown,
    and for a path that leads out of the tree.
    """
    text = text.strip().strip('"')
    if not text or "$" in text:
        return ""
    root = tree.root.as_posix()
    if text.startswith(f"{root}/"):
        text = text[len(root) :]
    return join("" if text.startswith("/") else folder, text)


def level_of(path: str, source: Source, settings: Dict) -> Level:
    """Turn a ``buildSettings`` dictionary into a level."""
    level: Level = {}
    for entry in settings.entries:
        match = _CONDITIONAL.match(entry.key.value)
        if match is None:
            continue
        if isinstance(entry.value, Text):
            spot = place(path, source, entry.value.start, entry.value.end, "openstep")
            definition = Definition(_joined(entry.value.value), spot, match[2])
        elif isinstance(entry.value, Array):
            definition = Definition(
                " ".join(item.value for item in entry.value.items if isinstance(item, Text)), None, match[2]
            )
        else:
            continue
        level.setdefault(match[1], []).append(definition)
    return level


@dataclass
class ConfigurationFiles:
    """Reads configuration files with their includes; each file is parsed once."""

    tree: Tree
    faults: list[Unresolved] = field(default_factory=list)
    _levels: dict[str, Level] = field(default_factory=dict)

    def level(self, path: str) -> Level:
        """Return the settings of the file at *path*, what it includes taken in where it stands."""
        if path not in self._levels:
            self._levels[path] = {}
            self._levels[path] = self._read(path, [])
        return self._levels[path]

    def _read(self, path: str, above: list[str]) -> Level:
        data = self.tree.named_file(path)
        level: Level = {}
        if data is None or path in above:
            return level
        file = guarded(path, self.faults, lambda: parse_xcconfig(data))
        if file is None:
            return level
        for statement in file.statements:
            if isinstance(statement, Include):
                for name, found in self._include(path, statement, file.source, above).items():
                    level[name] = [*level.get(name, []), *found]
            else:
                spot = place(path, file.source, statement.start, statement.end, "xcconfig")
                level.setdefault(statement.name, []).append(_definition(statement, spot))
        return level

    def _include(self, path: str, include: Include, source: Source, above: list[str]) -> Level:
        target = join(parent(path), include.path)
        if not target or not self.tree.exists(target):
            if not include.optional and not any(word in include.path for word in _MADE_LATER):
                self.faults.append(
                    Unresolved(
                        WHOLE_FILE, path, source.line(include.position), include.path, "the included file is missing"
                    )
                )
            return {}
        return self._read(target, [*above, path])


def _definition(statement: Setting, spot: Place) -> Definition:
    return Definition(_joined(statement.value), spot, statement.condition)


def _joined(text: str) -> str:
    """Take out references to nothing: they keep the slashes of an address apart, which would begin a comment."""
    return text.replace("$()", "").replace("${}", "") if "$" in text else text
