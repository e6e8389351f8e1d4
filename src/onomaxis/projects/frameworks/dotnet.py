"""The properties of a .NET project file as its build evaluates them: imports, conditions, references, in order.

Source of the rules: Microsoft Learn, "MSBuild properties", "MSBuild conditions" and "Customize your build"
(``Directory.Build.props`` is the nearest one above a project, ``Directory.Build.targets`` comes after it).
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from typing import NamedTuple

from onomaxis import late
from onomaxis.formats.xml import Element, XmlDocument
from onomaxis.model import Piece, Place, Value
from onomaxis.projects.frameworks.files import Files
from onomaxis.tree import join, parent

_REFERENCE = late.compile(r"\$\(([A-Za-z_][\w-]*)\)")
# What a release build for the stores is called, where nobody says otherwise.
_GIVEN = {"configuration": "Release", "platform": "AnyCPU"}
_DEEPEST = 8
# How deep a condition may be nested, and of how many pieces a property may be made: each may hold others twice.
_DEEPEST_CONDITION, _MOST_PIECES = 20, 100
# Properties that a project may leave to itself: without a value, one is asked whether they are empty.
_NAMED = frozenset(("applicationid", "applicationtitle", "applicationdisplayversion", "applicationversion"))


class Doubt(NamedTuple):
    """A property whose value cannot be determined from the files: where that is decided, and why not."""

    place: Place
    reason: str


@dataclass
class Properties:
    """The properties of one project file, evaluated for one platform (``android``, ``ios``).

    ``stated`` are all literals that any definition of a property holds, whether it counts in a release or not.
    """

    files: Files
    platform: str
    values: dict[str, Value | Doubt] = field(default_factory=dict)
    stated: dict[str, list[Value]] = field(default_factory=dict)
    _read: set[str] = field(default_factory=set)

    def get(self, name: str) -> Value | Doubt | None:
        """Return a property; its name counts without case."""
        return self.values.get(name.casefold())

    def text(self, name: str) -> str:
        """Return a property's text; nothing where it has none or it is in doubt."""
        found = self.get(name)
        return found.text if isinstance(found, Value) else ""

    # -- evaluation

    def take(self, path: str, certain: bool | None = True, why: str = "", depth: int = 0) -> None:
        """Evaluate a file of the build, by its path in the tree, and what it imports.

        *certain* is None where it cannot be determined whether it counts; *why* is the condition that decides.
        """
        name = self._relative(path)
        document = self.files.xml(name) if path in self.files.tree.known else None
        if document is None or depth > _DEEPEST or path in self._read:
            return
        self._read.add(path)
        for element in document.root.children:
            held = self._both(certain, self._holds(element.value("Condition")))
            reason = why or element.value("Condition")
            if element.name == "PropertyGroup":
                self._group(name, document, element, held, reason)
            elif element.name == "Choose":
                self._choose(name, document, element, held)
            elif element.name == "Import" and held is not False:
                target = self._target(path, element.value("Project"))
                if target:
                    self.take(target, held, reason, depth + 1)

    def _choose(self, name: str, document: XmlDocument, chosen: Element, certain: bool | None) -> None:
        """Evaluate the first branch whose condition holds; those behind an undetermined one are in doubt."""
        for branch in chosen.children:
            held = self._both(certain, self._holds(branch.value("Condition")))
            for group in branch.find("PropertyGroup"):
                self._group(name, document, group, held, branch.value("Condition") or "another branch")
            if held is not False:
                certain = False if held else None

    def _group(self, name: str, document: XmlDocument, group: Element, certain: bool | None, why: str) -> None:
        for item in group.children:
            value = self.files.content(name, item, document)
            if value is None:
                continue
            if "$(" not in value.text:
                self.stated.setdefault(item.name.casefold(), []).append(value)
            held = self._both(certain, self._holds(item.value("Condition")))
            if held is not False:
                self._define(item.name.casefold(), value, held, why or item.value("Condition"))

    def _define(self, key: str, value: Value, certain: bool | None, why: str) -> None:
        """Set a property; in doubt where a condition cannot be determined, unless it says what it said before."""
        found = self._expanded(value)
        before = self.values.get(key)
        same = isinstance(before, Value) and isinstance(found, Value) and before.text == found.text
        if certain:
            self.values[key] = found
        elif not same:
            self.values[key] = Doubt(value.place, f"a condition decides it: {why or 'of an import'}")

    def _relative(self, path: str) -> str:
        depth = self.files.folder.count("/") + 1 if self.files.folder else 0
        below = not depth or path.startswith(self.files.folder + "/")
        return path[len(self.files.folder) + 1 if depth else 0 :] if below else "../" * depth + path

    def _expanded(self, value: Value) -> Value | Doubt:
        """Return a value with its references followed; property functions and unknown names are in doubt."""
        if "$(" not in value.text:
            return value
        written = value.place.written
        if written != value.text:
            return Doubt(value.place, "a reference beside characters that are escaped")
        pieces: list[Piece] = []
        at = 0
        for match in _REFERENCE.finditer(written):
            pieces += self._literal(value.place, at, match.start())
            found = self.get(match[1])
            if isinstance(found, Doubt):
                return found
            if found is None:
                return Doubt(value.place, f"property {match[1]} is not set in these files")
            pieces += found.pieces
            at = match.end()
            if len(pieces) > _MOST_PIECES:
                return Doubt(value.place, "it is made of more pieces than are followed")
        pieces += self._literal(value.place, at, len(written))
        if any("$(" in piece.text for piece in pieces):
            return Doubt(value.place, "it is computed by a function of the build")
        return Value(tuple(pieces), value.place)

    def _literal(self, spot: Place, low: int, high: int) -> list[Piece]:
        text = spot.written[low:high]
        if not text:
            return []
        start, end = (len(spot.written[:at].encode("utf-8")) for at in (low, high))
        exact = spot.end - spot.start == len(spot.written.encode("utf-8"))
        part = Place(spot.file, spot.start + start, spot.start + end, spot.line, spot.column + low, text, spot.syntax)
        return [Piece(text, part if exact else None)]

    # -- conditions

    def _holds(self, condition: str, depth: int = 0) -> bool | None:
        """Return what a condition says in a release build: true, false, or None where it cannot be determined."""
        text = _unwrapped(condition.strip())
        if not text:
            return True
        if depth > _DEEPEST_CONDITION:
            return None
        for word, absorbing in (("or", True), ("and", False)):
            parts = _split(text, word)
            if len(parts) > 1:
                found = [self._holds(part, depth + 1) for part in parts]
                return absorbing if absorbing in found else None if None in found else not absorbing
        if text.startswith("!") and not text.startswith("!="):
            inner = self._holds(text[1:], depth + 1)
            return None if inner is None else not inner
        mark = "!=" if "!=" in text else "=="
        first, compared, second = text.partition(mark)
        if not compared:
            side = self._side(text)
            return None if side is None else side.casefold() == "true"
        left, right = self._side(first), self._side(second)
        if left is None or right is None:
            return None
        return (left.casefold() == right.casefold()) == (mark == "==")

    def _side(self, text: str) -> str | None:
        """Return what one side of a comparison says; None where the files do not tell."""
        text = text.strip().strip("'\"")
        asked = re.fullmatch(
            r"\$\(TargetFramework\.(?:Contains|EndsWith)\(\s*['\"]-?(\w+)['\"]\s*\)\)", text, re.IGNORECASE
        )
        if asked:
            return str(self._is_for(asked[1])).lower()
        if re.match(r"\$\(\[MSBuild\]::GetTargetPlatformIdentifier\(", text, re.IGNORECASE):
            return self.platform
        framework = re.fullmatch(r"net[\d.]+-(\w+?)[\d.]*", text, re.IGNORECASE)
        if framework:
            return f"@{self.platform}" if self._is_for(framework[1]) else f"@{framework[1].casefold()}"
        out, at = "", 0
        for match in _REFERENCE.finditer(text):
            name = match[1].casefold()
            found = self.values.get(name)
            if name == "targetframework":
                said: str | None = f"@{self.platform}"
            elif isinstance(found, Value):
                said = found.text
            elif isinstance(found, Doubt):
                return None
            else:
                said = _GIVEN.get(name, "" if _REFERENCE.fullmatch(text) and name in _NAMED else None)
            if said is None:
                return None
            out += text[at : match.start()] + said
            at = match.end()
        rest = text[at:]
        return None if "$(" in rest or "(" in rest else out + rest

    def _is_for(self, word: str) -> bool:
        return word.casefold() in ((self.platform,) if self.platform == "android" else ("ios", "maccatalyst"))

    @staticmethod
    def _both(left: bool | None, right: bool | None) -> bool | None:
        return False if left is False or right is False else None if left is None or right is None else True

    def _target(self, path: str, project: str) -> str:
        """Return the file that an import names, if it lies in the tree."""
        own = parent(path)
        here = {"$(MSBuildThisFileDirectory)": own, "$(MSBuildProjectDirectory)": self.files.folder}
        text = project.replace("\\", "/")
        base = own
        for word, folder in here.items():
            if text.startswith(word):
                text, base = text[len(word) :].lstrip("/"), folder
        if "$(" in text or not text or text.startswith("/"):
            return ""
        return join(base, text)


def properties(files: Files, project: str, platform: str) -> Properties:
    """Return the properties of the project file *project* (its name in the folder) for a platform."""
    found = Properties(files, platform)
    for name in ("Directory.Build.props", "", "Directory.Build.targets"):
        path = files.path(project) if not name else _above(files, name)
        if path:
            found.take(path)
    return found


def _above(files: Files, name: str) -> str:
    """Return the nearest file of a name in the project's folder or above it."""
    folder = files.folder
    while True:
        path = join(folder, name)
        if path in files.tree.known:
            return path
        if not folder:
            return ""
        folder = parent(folder)


def _unwrapped(text: str) -> str:
    """Return a condition without parentheses around the whole of it."""
    for _ in range(_DEEPEST_CONDITION):
        if not (text.startswith("(") and text.endswith(")")):
            break
        depth = 0
        for at, char in enumerate(text):
            depth += (char == "(") - (char == ")")
            if depth == 0 and at < len(text) - 1:
                return text
        text = text[1:-1].strip()
    return text


def _split(text: str, word: str) -> list[str]:
    """Return the parts of a condition between *word*, outside parentheses and quotes."""
    parts, depth, quote, start = [], 0, "", 0
    for at, char in enumerate(text):
        if quote:
            quote = "" if char == quote else quote
        elif char in "'\"":
            quote = char
        else:
            depth += (char == "(") - (char == ")")
            end = at + len(word)
            alone = text[at - 1 : at] in (" ", ")", "'") and text[end : end + 1] in (" ", "(", "'", "!")
            if depth == 0 and text[at:end].casefold() == word and alone and at >= start:
                parts.append(text[start:at])
                start = end
    return [*parts, text[start:]]
