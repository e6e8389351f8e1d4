"""Finding identifiers as tokens in any text file, and saying where each stands.

A token border keeps ``com.ab.c`` out of ``com.ab.cd``, ``com.ab.c_d``, ``com.ab.c-d`` and ``x.com.ab.c``.
"""

from __future__ import annotations

import re
from bisect import bisect_right
from collections.abc import Iterable, Iterator
from functools import lru_cache
from typing import NamedTuple

from onomaxis import late
from onomaxis.formats.escapes import encode
from onomaxis.formats.lexer import LANGUAGES, Language, Region, regions
from onomaxis.formats.source import Source, as_viewed, shown
from onomaxis.needles import Needles
from onomaxis.projects.project import Occurrence

_XML_ENDINGS = frozenset(
    """.xml .plist .entitlements .storyboard .xib .xcscheme .xcworkspacedata .xcprivacy .stringsdict .html .htm
    .svg .iml .intentdefinition .csproj .targets .props""".split()
)
_PROSE_ENDINGS = frozenset(""".md .markdown .rst .txt .adoc .org .log .csv""".split())
_ATTRIBUTE_BEFORE = late.compile(r"""(?<![\w:.-])([A-Za-z_][\w:.-]*+)\s*+=\s*+(["'])((?>(?:(?!\2)[^<])*))\Z""")
_TAG_BEFORE = late.compile(r"</?\s*\Z")
_TAG_OPEN = late.compile(r"<([A-Za-z_][\w:.-]*+)\s[^<]*+\Z")
_ELEMENT_BEFORE = late.compile(r"<([A-Za-z_][\w:.-]*+)[^<>]*+>\s*+((?:<!\[CDATA\[)?[^<]*+)\Z")
_KEY_BEFORE = late.compile(r"<key>([^<]*+)</key>\s*+(?:<array>\s*+(?:<string>[^<]*+</string>\s*+)*)?<string>[^<]*+\Z")
_TAIL = late.compile(r"(?:\.[A-Za-z_$\udc80-\udcff][\w$\udc80-\udcff-]*)*", re.ASCII)
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
    if name.startswith(("PROGUARD", "CONSUMER", "CMAKELISTS", "BASELINE-PROF", "STARTUP-PROF")):
        return False
    return ending(path) in _PROSE_ENDINGS or name in ("README", "LICENSE", "CHANGELOG", "AUTHORS", "NOTICE")


# Lists of settings and of commands: an identifier that stands in them without quotes is a value.
_TOLD_ENDINGS = frozenset((".properties", ".yml", ".yaml", ".toml", ".sh", ".cfg"))


def is_told(path: str) -> bool:
    """Tell whether what *path* says without quotes are values: settings and commands, not code."""
    return ending(path) in _TOLD_ENDINGS or is_script_file(path)


# A capital letter, no ending, "file": scripts that drive a tool are called so, most of them in Ruby. Comments begin
# with a hash and texts stand in quotes in all of them.
_SCRIPT_FILE = late.compile(r"[A-Z][A-Za-z]*+(?<=file)")


def is_script_file(path: str) -> bool:
    """Tell by its name's form whether *path* is a script that drives some tool."""
    return bool(_SCRIPT_FILE.fullmatch(path.rpartition("/")[2]))


def language_of(path: str) -> Language | None:
    """Return the lexical rules for a source file, by its name."""
    name = path.rpartition("/")[2]
    if name in _FORM_NAMES:
        return LANGUAGES[".pro"]
    if is_script_file(name):
        return LANGUAGES[".rb"]
    if name.startswith(("proguard", "consumer")) and ending(path) in (".txt", ".cfg", ".pro", ".rules"):
        return LANGUAGES[".pro"]
    if ending(path) in _TOLD_ENDINGS:
        return LANGUAGES[".pro"]
    return LANGUAGES.get(ending(path))


# What may precede an identifier although it looks like a longer name's segment: prefixes that a platform asks for.
_PREFIXED = late.compile(r"(?:\b(?:group|iCloud|merchant|pass)|\b[A-Z0-9]{10})\.\Z")
# The forms an identifier takes in paths and class descriptors, and in the names of native functions.
FORMS = ("slashed", "jni")
# Files in which such a form can name a package: sources, native sources, keep rules, build and lint files.
_FORM_ENDINGS = frozenset(
    """.java .kt .kts .groovy .gradle .aidl .c .cc .cpp .cxx .h .hh .hpp .hxx .inl .mk .cmake .pro .txt .xml .map .def
    .lds .yml .yaml .toml .properties .cfg .bzl .bazel .sh .proto .sq .sqm""".split()
)
_FORM_NAMES = frozenset({"BUCK", "BUILD", "BUILD.bazel", "Android.mk"})
# What may stand before a path that begins with a package: the source roots of the build systems.
_ROOT_BEFORE = late.compile(r"(?:\b(?:java|kotlin|groovy|aidl|src|resources|javatests)|\*\*)/\Z")
_DESCRIPTOR_AFTER = late.compile(r"[\w/$]*[;<]", re.ASCII)
_PATH_TAIL = late.compile(r"(?:/[A-Za-z_][\w$]*)*", re.ASCII)
_SYMBOL_BEFORE = late.compile(r"\w*\Z", re.ASCII)
_SYMBOL_TAIL = late.compile(r"\w*", re.ASCII)
_BORDER_BEFORE = frozenset("$.-_")
_BORDER_AFTER = frozenset("-_")


class Span(NamedTuple):
    """An identifier found: view span, value, the whole dotted token, how it is written."""

    start: int
    end: int
    value: str
    token: str
    syntax: str = "raw"


def occurrences(
    path: str, source: Source, identifiers: Iterable[str], packages: Iterable[str] = ()
) -> list[Occurrence]:
    """Return every occurrence of *identifiers* as tokens in a file, in order; at one place the longest counts.

    *packages* are looked for as paths (``a/b/C``, ``La/b/C;``) and native symbols (``Java_a_b_C_m``) too.

    Segments may stand in backticks (Kotlin). ``group.``, ``iCloud.`` and a ten-character team ID before an
    identifier do not make it part of a longer name.
    """
    view = source.view
    spans = _token_spans(view, identifiers)
    name = path.rpartition("/")[2]
    if packages and (ending(path) in _FORM_ENDINGS or name in _FORM_NAMES):
        spans = sorted([*spans, *_form_spans(view, packages)])
    if not spans:
        return []
    if ending(path) in _XML_ENDINGS:
        return _in_xml(view, spans)
    language = language_of(path)
    if language:
        return _in_code(view, spans, language)
    return [_plain(view, span, "text") for span in spans]


def _form_spans(view: str, packages: Iterable[str]) -> Iterator[Span]:
    """Yield packages written as paths or as native symbols; at one place the longest counts."""
    found: dict[int, Span] = {}
    for value, needle, symbol in _forms_of(tuple(packages)):
        for start in _places(view, needle):
            end = start + len(needle)
            if _is_path(view, start, end):
                tail = _PATH_TAIL.match(view, end)
                token = shown(view[start:end] + (tail[0] if tail else "")).replace("/", ".").rstrip(".")
                found[start] = Span(start, end, value, token, "slashed")
        for start in _places(view, symbol):
            end = start + len(symbol)
            token = _symbol(view, start, end, value)
            if token:
                found[start] = Span(start, end, value, token, "jni")
    yield from found.values()


@lru_cache(maxsize=16)
def _forms_of(packages: tuple[str, ...]) -> list[tuple[str, str, str]]:
    """Return each package, the shortest first, as it is written in paths and in native symbols."""
    dotted = sorted({item for item in packages if "." in item}, key=len)
    return [(value, as_viewed(encode("slashed", value)), encode("jni", value)) for value in dotted]


def _places(view: str, needle: str) -> Iterator[int]:
    start = view.find(needle)
    while start >= 0:
        yield start
        start = view.find(needle, start + len(needle))


def _is_path(view: str, start: int, end: int) -> bool:
    after = view[end : end + 1]
    if after.isalnum() or (after in ("_", "-", "$", ".") and view[end + 1 : end + 2].isalnum()) or after > "\x7f":
        return False
    before = view[start - 1 : start] if start else ""
    if before == "/":
        return bool(_ROOT_BEFORE.search(view, max(0, start - 24), start))
    if before == "L":
        return bool(_DESCRIPTOR_AFTER.match(view, end))
    return not (before.isalnum() or before in _BORDER_BEFORE or before > "\x7f")


def _symbol(view: str, start: int, end: int, value: str) -> str:
    """Return the dotted class that a native symbol names, or nothing where the package is but part of a word."""
    tail = _SYMBOL_TAIL.match(view, end)
    rest = tail[0] if tail else ""
    if rest[:1] != "_" or rest[1:2].isdigit():
        return ""
    head = _SYMBOL_BEFORE.search(view, max(0, start - 200), start)
    before = head[0] if head else ""
    native = before.startswith("Java_")
    if before not in ("", "Java_", "_Included_") and not (native and before.endswith("L")):
        return ""
    name = rest[1:].split("_")[0]
    return f"{value}.{name}" if not native else value


def _token_spans(view: str, identifiers: Iterable[str]) -> list[Span]:
    found: dict[int, tuple[int, str]] = {}
    values = tuple(identifiers)
    by_view, needles = _viewed(values)
    for start, needle in needles.places(view):
        end = start + len(needle)
        if _is_token(view, start, end):
            found[start] = (end, by_view[needle])
    if "`" in view:
        for value in values:
            for match in _backticked(value).finditer(view):
                if "`" in match[0] and _is_token(view, match.start(), match.end()):
                    found[match.start()] = (match.end(), value)
    return [Span(start, end, value, _token(view, start, end)) for start, (end, value) in sorted(found.items())]


@lru_cache(maxsize=16)
def _viewed(identifiers: tuple[str, ...]) -> tuple[dict[str, str], Needles[str]]:
    """Return each identifier by what it is in a view, and the search for all of them."""
    by_view = {as_viewed(value): value for value in identifiers}
    return by_view, Needles(by_view)


@lru_cache(maxsize=64)
def _backticked(value: str) -> re.Pattern[str]:
    """Return the pattern of an identifier some segments of which stand in backticks."""
    segments = [re.escape(as_viewed(part)) for part in value.split(".")]
    return re.compile(r"\.".join(f"(?:`{part}`|{part})" for part in segments))


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
    return shown(view[start:end] + (tail[0] if tail else "")).replace("`", "")


def _plain(view: str, span: Span, context: str, syntax: str = "raw") -> Occurrence:
    before = "" if context == "code" else _before(view, span.start)
    form = span.syntax if span.syntax in FORMS else syntax
    return Occurrence(span.start, span.end, span.value, span.token, context, "", before, form)


def _before(view: str, start: int) -> str:
    """Return what precedes a position in its word: back to white space, a quote or an angle bracket."""
    low = max(0, start - 200)
    at = max(view.rfind(mark, low, start) for mark in _WORD_ENDS)
    return view[max(at + 1, low) : start]


def _in_code(view: str, spans: list[Span], language: Language) -> list[Occurrence]:
    found: list[Occurrence] = []
    marked: list[Region] = list(regions(view, language, 0, spans[-1].end))
    starts = [region.start for region in marked]
    for span in spans:
        index = bisect_right(starts, span.start) - 1
        region = marked[index] if index >= 0 and marked[index].end > span.start else None
        if region is None:
            found.append(_plain(view, span, "code"))
            continue
        found.append(_plain(view, span, region.kind, region.syntax or "raw"))
    return found


def _comments(view: str) -> Iterator[tuple[int, int]]:
    """Yield the spans of the comments of a document; one that does not end is none."""
    start = view.find("<!--")
    while start >= 0:
        end = view.find("-->", start + 4)
        if end < 0:
            return
        yield start, end + 3
        start = view.find("<!--", end + 3)


def _in_xml(view: str, spans: list[Span]) -> list[Occurrence]:
    comments = list(_comments(view))
    begins = [low for low, _ in comments]
    found: list[Occurrence] = []
    for start, end, value, token, syntax in spans:
        at = bisect_right(begins, start) - 1
        if at >= 0 and start < comments[at][1]:
            found.append(Occurrence(start, end, value, token, "comment", syntax=syntax))
            continue
        head = view[max(0, start - 600) : start]
        attribute = _ATTRIBUTE_BEFORE.search(head)
        if attribute:
            tag = _TAG_OPEN.search(head)
            holder = f"{tag[1] if tag else ''}@{attribute[1]}"
            found.append(Occurrence(start, end, value, token, "attribute", holder, attribute[3], syntax))
        elif _TAG_BEFORE.search(head):
            found.append(Occurrence(start, end, value, token, "tag", syntax=syntax))
        else:
            key = _KEY_BEFORE.search(head)
            element = _ELEMENT_BEFORE.search(head)
            holder = key[1] if key else element[1] if element else ""
            before = element[2].removeprefix("<![CDATA[") if element else ""
            found.append(Occurrence(start, end, value, token, "element", holder, before, syntax))
    return found
