"""Constants that build scripts see: of ``buildSrc``, of included builds, of objects in the script itself.

Source of the rules: docs.gradle.org, "Sharing build logic" (buildSrc, composite builds).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import NamedTuple

from onomaxis.formats.gradle import Script, parse_gradle
from onomaxis.formats.gradle_statements import Setting, Statement, literal_text
from onomaxis.formats.lexer import GROOVY, JAVA, KOTLIN, Token, tokens
from onomaxis.formats.source import Source, flat
from onomaxis.platforms import SETTINGS_SCRIPTS
from onomaxis.projects.project import guarded
from onomaxis.tree import Tree, join

_LANGUAGES = {".kt": KOTLIN, ".java": JAVA, ".groovy": GROOVY}
_TYPES = frozenset({"object", "class", "interface", "enum"})
_KEYWORDS = frozenset(
    {"const", "private", "public", "internal", "static", "final", "override", "lateinit", "@JvmStatic"}
)


class ConstantFile(NamedTuple):
    """One source: constants by their path of types (``Versions.NAME``), and as settings of their own names."""

    path: str
    source: Source
    kotlin: bool
    values: dict[tuple[str, ...], tuple[Token, ...]]
    settings: tuple[Setting, ...]

    def find(self, parts: Sequence[str]) -> tuple[Token, ...] | None:
        """Return the value of a constant; packages before the outermost type may be written or not."""
        for skip in range(len(parts) - 1):
            found = self.values.get(tuple(parts[skip:]))
            if found is not None and all(part[:1].islower() for part in parts[:skip]):
                return found
        return None


@dataclass
class Constants:
    """The constants of one build, read when a script first asks for one. ``root`` is the build's folder."""

    root: str
    tree: Tree
    included: tuple[str, ...] = ()
    _read: dict[str, ConstantFile | None] = field(default_factory=dict)

    @cached_property
    def files(self) -> list[ConstantFile]:
        """Every source of ``buildSrc`` and the included builds that defines a constant."""
        found = []
        for folder in dict.fromkeys((join(self.root, "buildSrc"), *self.included)):
            for path in self.tree.below(folder):
                ending = path[path.rfind(".") :]
                data = self.tree.read(path) if ending in _LANGUAGES and "/src/" in path else None
                file = _constants(path, Source.read(data), ending) if data and b"=" in flat(data) else None
                if file is not None:
                    found.append(file)
        return found


def included_builds(root: str, tree: Tree) -> tuple[str, ...]:
    """Return the folders of the builds that a settings script includes."""
    found = []
    for name in SETTINGS_SCRIPTS:
        path = join(root, name)
        data = tree.read(path) if path in tree.known else None
        if not data or b"includeBuild" not in flat(data):
            continue
        kotlin = name.endswith(".kts")
        script = guarded(path, [], lambda data=data, kotlin=kotlin: parse_gradle(data, kotlin))  # type: ignore[misc]
        for item in script.settings if script is not None else ():
            if item.full[-1] == "includeBuild":
                found += [join(root, text) for token in item.value if (text := literal_text([token]))]
    return tuple(folder for folder in found if folder)


def script_constants(path: str, script: Script) -> ConstantFile | None:
    """Return the constants of the objects that a build script itself declares."""
    if "object " not in script.source.view and "class " not in script.source.view:
        return None
    return _constants(path, script.source, ".kt" if script.kotlin else ".groovy")


def _constants(path: str, source: Source, ending: str) -> ConstantFile | None:
    found = tokens(source.view, _LANGUAGES[ending])
    values: dict[tuple[str, ...], tuple[Token, ...]] = {}
    types: list[str | None] = []  # one entry for each open brace; None for a block that is not a type
    pending: str | None = None
    for at, token in enumerate(found):
        if token.kind == "name" and token.text in _TYPES and at + 1 < len(found):
            after = found[at + 1]
            pending = (
                after.text
                if after.kind == "name" and after.text not in _TYPES
                else ""
                if after.text == "{"
                else pending
            )
        elif token.kind == "mark" and token.text == "{":
            types.append(pending)
            pending = None
        elif token.kind == "mark" and token.text == "}" and types:
            types.pop()
        elif token.text == "=" and None not in types and (name := _declared(found, at, ending)):
            value = _value(found, at + 1)
            if value:
                values[(*(item for item in types if item), name)] = value
    settings = tuple(
        Setting((), key[-1], value, False, True, Statement("declare", key[-1], value[0].start), (key[-1],))
        for key, value in values.items()
    )
    return ConstantFile(path, source, ending == ".kt", values, settings) if values else None


def _declared(found: list[Token], at: int, ending: str) -> str:
    """Return the name that is declared before the ``=`` at *at*, or nothing where none is."""
    start = at
    while start > 0 and found[start - 1].kind != "newline" and found[start - 1].text not in ("{", "}", ";"):
        start -= 1
    words = [token.text for token in found[start:at]]
    if ending == ".kt":
        if "val" not in words:
            return ""
        name = words[words.index("val") + 1 :][:1]
        rest = words[words.index("val") + 2 :]
        return name[0] if name and (not rest or rest[0] == ":") else ""
    plain = [word for word in words if word not in _KEYWORDS]
    return plain[1] if len(plain) == 2 and ("static" in words or "final" in words or plain[0] == "def") else ""


def _value(found: list[Token], at: int) -> tuple[Token, ...]:
    """Return the tokens of an expression up to the end of its line."""
    value: list[Token] = []
    for token in found[at:]:
        if (token.kind == "newline" and value) or token.text in (";", "}"):
            break
        if token.kind != "newline":
            value.append(token)
    return tuple(value)
