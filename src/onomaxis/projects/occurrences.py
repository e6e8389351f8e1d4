"""Finding identifiers as tokens in any text file, and saying where each stands.

A token border keeps ``com.ab.c`` out of ``com.ab.cd``, ``com.ab.c_d``, ``com.ab.c-d`` and ``x.com.ab.c``.
"""

from __future__ import annotations

import re
from bisect import bisect_right
from collections.abc import Iterable
from functools import lru_cache

from onomaxis.formats.lexer import LANGUAGES, Language, Region, regions
from onomaxis.formats.source import Source
from onomaxis.projects.base import Occurrence

_XML_ENDINGS = frozenset(
    """.xml .plist .entitlements .storyboard .xib .xcscheme .xcworkspacedata .xcprivacy .stringsdict .html .htm
    .svg .iml .intentdefinition .csproj .targets .props""".split()
)
_PROSE_ENDINGS = frozenset(""".md .markdown .rst .txt .adoc .org .log .csv""".split())
_XML_COMMENT = re.compile(r"<!--.*?-->", re.DOTALL)
_ATTRIBUTE_BEFORE = re.compile(r"""([A-Za-z_][\w:.-]*)\s*=\s*(["'])((?:(?!\2)[^<])*)\Z""")
_TAG_BEFORE = re.compile(r"</?\s*\Z")
_TAG_OPEN = re.compile(r"<([A-Za-z_][\w:.-]*)\s[^<]*\Z")
_ELEMENT_BEFORE = re.compile(r"<([A-Za-z_][\w:.-]*)[^<>]*>\s*((?:<!\[CDATA\[)?[^<]*)\Z")
_KEY_BEFORE = re.compile(r"<key>([^<]*)</key>\s*(?:<array>\s*(?:<string>[^<]*</string>\s*)*)?<string>[^<]*\Z")
_TAIL = re.compile(r"(?:\.[A-Za-z_$\x80-\xff][\w$\x80-\xff-]*)*", re.ASCII)
_LITERAL_START = re.compile(r"""[^\s"'<>`]*\Z""")


def ending(path: str) -> str:
    """Return the file ending of *path* in lower case, with its dot."""
    name = path.rpartition("/")[2]
    dot = name.rfind(".")
    return name[dot:].lower() if dot > 0 else ""


def is_prose(path: str) -> bool:
    """Tell whether *path* is a document for people."""
    name = path.rpartition("/")[2].upper()
    if name.startswith(("PROGUARD", "CONSUMER", "CMAKELISTS")):
        return False
    return ending(path) in _PROSE_ENDINGS or name in ("README", "LICENSE", "CHANGELOG", "AUTHORS", "NOTICE")


def language_of(path: str) -> Language | None:
    """Return the lexical rules for a source file, by its name."""
    name = path.rpartition("/")[2]
    if name in ("Podfile", "Fastfile", "Appfile", "Matchfile", "Gemfile", "Deliverfile"):
        return LANGUAGES[".rb"]
    if name.startswith(("proguard", "consumer")) and ending(path) in (".txt", ".cfg", ".pro", ".rules"):
        return LANGUAGES[".pro"]
    if ending(path) in (".properties", ".yml", ".yaml", ".toml", ".sh", ".cfg"):
        return LANGUAGES[".pro"]
    return LANGUAGES.get(ending(path))


@lru_cache(maxsize=64)
def token_pattern(identifiers: tuple[str, ...]) -> re.Pattern[str]:
    """Return the pattern that finds any of *identifiers* as a token, the longest first.

    Segments may stand in backticks (Kotlin). ``group.``, ``iCloud.`` and their kind before an identifier do not
    make it part of a longer one, nor does a ten-character team ID: they are prefixes that the platform asks for.
    """
    alternatives = []
    for value in sorted(identifiers, key=len, reverse=True):
        segments = [re.escape(part.encode("utf-8").decode("latin-1")) for part in value.split(".")]
        alternatives.append(r"`?\.`?".join(segments))
    return re.compile(
        r"(?:(?<![\w$.\x80-\xff-])|(?<=group\.)|(?<=iCloud\.)|(?<=merchant\.)|(?<=\b[A-Z0-9]{10}\.))"
        rf"(?:{'|'.join(alternatives)})(?![\w\x80-\xff-])",
        re.ASCII,
    )


def occurrences(path: str, source: Source, identifiers: Iterable[str]) -> list[Occurrence]:
    """Return every occurrence of *identifiers* in a file, in order."""
    pattern = token_pattern(tuple(sorted(set(identifiers))))
    view = source.view
    spans = [(match.start(), match.end(), match[0].replace("`", "")) for match in pattern.finditer(view)]
    if not spans:
        return []
    if ending(path) in _XML_ENDINGS:
        return _in_xml(view, spans)
    language = language_of(path)
    if language:
        return _in_code(view, spans, language)
    return [_plain(view, start, end, value, "text") for start, end, value in spans]


def _token(view: str, start: int, end: int) -> str:
    """Return the whole dotted token that starts at *start*."""
    tail = _TAIL.match(view, end)
    return (view[start:end] + (tail[0] if tail else "")).replace("`", "")


def _plain(view: str, start: int, end: int, value: str, context: str, syntax: str = "raw") -> Occurrence:
    lead = _LITERAL_START.search(view, max(0, start - 200), start)
    return Occurrence(start, end, value, _token(view, start, end), context, "", lead[0] if lead else "", syntax)


def _in_code(view: str, spans: list[tuple[int, int, str]], language: Language) -> list[Occurrence]:
    found: list[Occurrence] = []
    marked: list[Region] = list(regions(view, language))
    starts = [region.start for region in marked]
    for start, end, value in spans:
        index = bisect_right(starts, start) - 1
        region = marked[index] if index >= 0 and marked[index].end > start else None
        if region is None:
            found.append(_plain(view, start, end, value, "code"))
            continue
        found.append(_plain(view, start, end, value, region.kind, region.syntax or "raw"))
    return found


def _in_xml(view: str, spans: list[tuple[int, int, str]]) -> list[Occurrence]:
    comments = [match.span() for match in _XML_COMMENT.finditer(view)]
    found: list[Occurrence] = []
    for start, end, value in spans:
        token = _token(view, start, end)
        if any(low <= start < high for low, high in comments):
            found.append(Occurrence(start, end, value, token, "comment"))
            continue
        head = view[max(0, start - 600) : start]
        attribute = _ATTRIBUTE_BEFORE.search(head)
        if attribute:
            tag = _TAG_OPEN.search(head)
            holder = f"{tag[1] if tag else ''}@{attribute[1]}"
            found.append(Occurrence(start, end, value, token, "attribute", holder, attribute[3]))
        elif _TAG_BEFORE.search(head):
            found.append(Occurrence(start, end, value, token, "tag"))
        else:
            key = _KEY_BEFORE.search(head)
            element = _ELEMENT_BEFORE.search(head)
            holder = key[1] if key else element[1] if element else ""
            before = element[2].removeprefix("<![CDATA[") if element else ""
            found.append(Occurrence(start, end, value, token, "element", holder, before))
    return found
