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
_WORD_ENDS = " \t\n\"'<>`"


@lru_cache(maxsize=1024)
def ending(path: str) -> str:
    """Return the file ending of *path* in lower case, with its dot."""
    name = path.rpartition("/")[2]
    dot = name.rfind(".")
    return name[dot:].lower() if dot > 0 else ""


@lru_cache(maxsize=1024)
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


# What may precede an identifier although it looks like a longer name's segment: prefixes that a platform asks for.
_PREFIXED = re.compile(r"(?:\b(?:group|iCloud|merchant|pass)|\b[A-Z0-9]{10})\.\Z")
_BORDER_BEFORE = frozenset("$.-_")
_BORDER_AFTER = frozenset("-_")


def occurrences(path: str, source: Source, identifiers: Iterable[str]) -> list[Occurrence]:
    """Return every occurrence of *identifiers* as tokens in a file, in order; at one place the longest counts.

    Segments may stand in backticks (Kotlin). ``group.``, ``iCloud.`` and a ten-character team ID before an
    identifier do not make it part of a longer name.
    """
    view = source.view
    spans = _token_spans(view, identifiers)
    if not spans:
        return []
    if ending(path) in _XML_ENDINGS:
        return _in_xml(view, spans)
    language = language_of(path)
    if language:
        return _in_code(view, spans, language)
    return [_plain(view, start, end, value, "text") for start, end, value in spans]


def _token_spans(view: str, identifiers: Iterable[str]) -> list[tuple[int, int, str]]:
    found: dict[int, tuple[int, str]] = {}
    for value in sorted(set(identifiers), key=len):
        needle = value.encode("utf-8").decode("latin-1")
        start = view.find(needle)
        while start >= 0:
            end = start + len(needle)
            if _is_token(view, start, end):
                found[start] = (end, value)
            start = view.find(needle, end)
        if "`" in view:
            for match in _backticked(value).finditer(view):
                if "`" in match[0] and _is_token(view, match.start(), match.end()):
                    found[match.start()] = (match.end(), value)
    return [(start, end, value) for start, (end, value) in sorted(found.items())]


@lru_cache(maxsize=64)
def _backticked(value: str) -> re.Pattern[str]:
    """Return the pattern of an identifier some segments of which stand in backticks."""
    segments = [re.escape(part.encode("utf-8").decode("latin-1")) for part in value.split(".")]
    return re.compile(r"`?\.`?".join(segments))


def _is_token(view: str, start: int, end: int) -> bool:
    """Tell whether a span is bordered as a token: ``com.ab.c`` is not inside ``com.ab.cd`` or ``x.com.ab.c``."""
    after = view[end : end + 1]
    if after.isalnum() or after in _BORDER_AFTER or after > "\x7f":
        return False
    before = view[start - 1 : start] if start else ""
    if before.isalnum() or before in _BORDER_BEFORE or before > "\x7f":
        return bool(_PREFIXED.search(view, max(0, start - 12), start))
    return True


def _token(view: str, start: int, end: int) -> str:
    """Return the whole dotted token that starts at *start*."""
    tail = _TAIL.match(view, end)
    return (view[start:end] + (tail[0] if tail else "")).replace("`", "")


def _plain(view: str, start: int, end: int, value: str, context: str, syntax: str = "raw") -> Occurrence:
    before = "" if context == "code" else _before(view, start)
    return Occurrence(start, end, value, _token(view, start, end), context, "", before, syntax)


def _before(view: str, start: int) -> str:
    """Return what precedes a position in its word: back to white space, a quote or an angle bracket."""
    low = max(0, start - 200)
    at = max(view.rfind(mark, low, start) for mark in _WORD_ENDS)
    return view[max(at + 1, low) : start]


def _in_code(view: str, spans: list[tuple[int, int, str]], language: Language) -> list[Occurrence]:
    found: list[Occurrence] = []
    marked: list[Region] = list(regions(view, language, 0, spans[-1][1]))
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
