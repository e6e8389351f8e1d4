"""How a file is built, by its format: what of that is odd, so that a change can be held to add nothing to it."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable

from onomaxis import late
from onomaxis.formats.jsonc import parse_json
from onomaxis.formats.lexer import LANGUAGES, Language, regions
from onomaxis.formats.openstep import Dict, parse_openstep
from onomaxis.formats.source import Source
from onomaxis.formats.toml import parse_toml
from onomaxis.formats.xml import parse_xml
from onomaxis.formats.yaml import parse_yaml

Odd = frozenset[str]
_XML = (
    ".xml",
    ".plist",
    ".entitlements",
    ".storyboard",
    ".xib",
    ".xcscheme",
    ".xcworkspacedata",
    ".xcprivacy",
    ".svg",
    ".csproj",
    ".stringsdict",
    ".iml",
)
# Formats in which a word outside quotes may itself be part of the syntax: a tag, ``true``, a number.
WORDY = (*_XML, ".json", ".json5", ".xcstrings", ".toml")
_PAIRS = {")": "(", "]": "[", "}": "{"}
_MARKS = late.compile(r"[()\[\]{}]")
# What Xcode calls an object: 24 hexadecimal digits in capitals.
_OBJECT = late.compile(r"[0-9A-F]{24}")
# A type that is written as a block. Source: typescriptlang.org, "Object Types".
_TYPE = late.compile(r"\b(?:type\s+\w+(?:<[^=;{}]*>)?\s*=|interface\s+\w[^{};=]*)\s*(?=\{)")


def structure_of(path: str) -> Callable[[bytes], Odd] | None:
    """Return what reads a file of this name, and tells what is odd in it; None where nothing is known of its format.

    What it returns raises FormatError or RecursionError for what cannot be read.
    """
    ending = "." + path.rpartition("/")[2].rpartition(".")[2]
    if ending == ".pbxproj":
        return _objects
    plain: dict[str, Callable[[bytes], object]] = {
        ".strings": parse_openstep,
        ".json": parse_json,
        ".json5": parse_json,
        ".xcstrings": parse_json,
        ".yaml": parse_yaml,
        ".yml": parse_yaml,
        ".toml": parse_toml,
        **dict.fromkeys(_XML, parse_xml),
    }
    if ending in plain:

        def parsed(data: bytes) -> Odd:
            plain[ending](data)
            return Odd()

        return parsed
    language = LANGUAGES.get(ending)
    if language is None:
        return None
    return lambda data: _script(data, language, ending in (".ts", ".tsx", ".mts", ".cts"))


def _objects(data: bytes) -> Odd:
    """Tell which objects of a project file stand there twice, and which are named and are not there."""
    document = parse_openstep(data)
    objects = document.top.get("objects")
    keys = Counter(entry.key.value for entry in objects.entries) if isinstance(objects, Dict) else Counter[str]()
    named = {text.value for _, text in document.texts() if _OBJECT.fullmatch(text.value)}
    twice = {f"two objects would be called {key}" for key, number in keys.items() if number > 1}
    return Odd(twice | {f"there would be no object {key}" for key in named - keys.keys()})


def _script(data: bytes, language: Language, typed: bool) -> Odd:
    """Tell which brackets of a script do not pair; where it is *typed*, its types are a part of what it is."""
    view = Source.read(data).view
    code: list[str] = []
    at = 0
    for region in regions(view, language):
        code += [view[at : region.start], " " * (region.end - region.start)]
        at = region.end
    bare = "".join([*code, view[at:]])
    stack: list[str] = []
    odd: list[str] = []
    for mark in _MARKS.findall(bare):
        if mark in _PAIRS and stack and stack[-1] == _PAIRS[mark]:
            stack.pop()
        elif mark in _PAIRS:
            odd.append(mark)
        else:
            stack.append(mark)
    found = _types(view, bare) if typed else set[str]()
    if odd or stack:
        found.add(f"its brackets would no longer pair as they did ({''.join(odd + stack)})")
    return Odd(found)


def _types(view: str, bare: str) -> set[str]:
    found: set[str] = set()
    for match in _TYPE.finditer(bare):
        depth = 0
        for mark in re.compile(r"[{}]").finditer(bare, match.end()):
            depth += 1 if mark[0] == "{" else -1
            if not depth:
                said = view[match.start() : mark.end()]
                found.add(f"a type would read otherwise: {said}")
                break
    return found
