"""How a file is built, by its format: what of that is odd, so that a change can be held to add nothing to it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Sequence

from onomaxis import late
from onomaxis.errors import FormatError
from onomaxis.formats.jsonc import parse_json
from onomaxis.formats.lexer import LANGUAGES, Language, Token, matching, tokens, unpaired
from onomaxis.formats.openstep import Dict, parse_openstep
from onomaxis.formats.source import Source
from onomaxis.formats.toml import parse_toml
from onomaxis.formats.xml import parse_xml
from onomaxis.formats.yaml import parse_yaml

# What is said of something odd, and what tells it from another of its sort.
Odd = frozenset[tuple[str, str]]
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
# What Xcode calls an object: 24 hexadecimal digits in capitals.
_OBJECT = late.compile(r"[0-9A-F]{24}")


def structure_of(path: str) -> Callable[[bytes], Odd] | None:
    """Return what reads a file of this name, and tells what is odd in it; None where its format is not known.

    What it returns raises FormatError or RecursionError for what cannot be read.
    """
    ending = "." + path.rpartition("/")[2].rpartition(".")[2]
    if ending == ".pbxproj":
        return _objects
    if ending in (".json", ".json5"):
        return _json
    plain: dict[str, Callable[[bytes], object]] = {
        ".strings": parse_openstep,
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


def _json(data: bytes) -> Odd:
    """Tell whether a file can be read as JSON5 alone."""
    try:
        parse_json(data)
    except FormatError:
        parse_json(data, loose=True)
        return Odd([("it could be read as JSON5 alone", "")])
    return Odd()


def _objects(data: bytes) -> Odd:
    """Tell which objects of a project file stand there twice, and which are named and are not there."""
    document = parse_openstep(data)
    objects = document.top.get("objects")
    keys = Counter(entry.key.value for entry in objects.entries) if isinstance(objects, Dict) else Counter[str]()
    named = {text.value for _, text in document.texts() if _OBJECT.fullmatch(text.value)}
    twice = {(f"two objects would be called {key}", "") for key, number in keys.items() if number > 1}
    return Odd(twice | {(f"there would be no object {key}", "") for key in named - keys.keys()})


def _script(data: bytes, language: Language, typed: bool) -> Odd:
    """Tell which brackets of a script do not pair; where it is *typed*, its types are a part of what it is."""
    view = Source.read(data).view
    items = [item for item in tokens(view, language) if item.kind != "newline"]
    odd = "".join(item.text for item in unpaired(items))
    found = {(f"its brackets would no longer pair as they did ({odd})", "")} if odd else set[tuple[str, str]]()
    return Odd(found | (set(_types(view, items)) if typed else set()))


def _types(view: str, items: Sequence[Token]) -> Iterator[tuple[str, str]]:
    """Yield the types that are written as blocks. Source: typescriptlang.org, "Object Types"."""
    for at, item in enumerate(items[:-1]):
        if item.kind != "name" or item.text not in ("type", "interface") or items[at + 1].kind != "name":
            continue
        head = next((n for n in range(at + 2, len(items)) if items[n].text in ("{", ";", "(", ")")), len(items))
        if head < len(items) and items[head].text == "{" and (item.text != "type" or items[head - 1].text == "="):
            close = matching(items, head)
            if close < len(items):
                said = f"the {item.text} {items[at + 1].text} would read otherwise"
                yield said, view[item.start : items[close].end]
