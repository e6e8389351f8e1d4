"""Names that people see beside the launcher: task titles, window titles, product strings, launch screens' labels.

Each row of the table is a place that shows a literal to people wherever the framework puts it; the source of each is
the page of the platform's documentation that its comment names.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping
from typing import NamedTuple

from onomaxis import late
from onomaxis.errors import FormatError
from onomaxis.formats.escapes import decode
from onomaxis.formats.lexer import LANGUAGES, regions
from onomaxis.formats.source import Source, as_viewed, flat
from onomaxis.formats.xml import parse_xml
from onomaxis.model import Place
from onomaxis.projects.occurrences import ending
from onomaxis.projects.project import place


class ShownName(NamedTuple):
    """A literal that shows a name, decoded, and where it stands."""

    text: str
    place: Place


class _Spot(NamedTuple):
    """Files of these endings, and what precedes the literal; ``closed`` gives the literal's form by its quote."""

    endings: tuple[str, ...]
    before: str
    closed: Mapping[str, str]


_DART = {"'": "single-dollar", '"': "double-dollar"}
_DOUBLE = {'"': "double"}
_DOLLAR = {'"': "double-dollar"}
_WIDGET = r"\b\w*App(?:\.router|\.custom)?\((?:[^;]{0,1500}?[\s,(])?"
_SPOTS = (
    # Flutter, "MaterialApp.title": what the device's list of tasks shows.
    _Spot((".dart",), _WIDGET + r"title\s*:\s*", _DART),
    _Spot((".dart",), _WIDGET + r"onGenerateTitle\s*:\s*\(\w*\)\s*=>\s*", _DART),
    _Spot((".dart",), r"\bApplicationSwitcherDescription\((?:[^;]{0,300}?[\s,(])?label\s*:\s*", _DART),
    # Flutter desktop runners (GTK, "gtk_window_set_title"; Microsoft Learn, "CreateWindow").
    _Spot((".cc", ".cpp"), r"_set_title\([^\"\n]{0,200}", _DOUBLE),
    _Spot((".cc", ".cpp"), r"\.Create(?:AndShow)?\(\s*L", _DOUBLE),
    # Microsoft Learn, "VERSIONINFO resource".
    _Spot((".rc",), r"VALUE\s+\"(?:ProductName|FileDescription)\"\s*,\s*", {'"': "resource-script"}),
    # Microsoft Learn, "ActivityAttribute.Label" and ".NET MAUI windows" (Title).
    _Spot((".cs",), r"\[\s*(?:assembly\s*:\s*)?(?:Activity|Application)\s*\([^\]]{0,600}?\bLabel\s*=\s*", _DOUBLE),
    _Spot((".cs",), r"\bnew\s+Window\s*(?:\([^;)]{0,200}\))?\s*\{[^;}]{0,300}?\bTitle\s*=\s*", _DOUBLE),
    # developer.android.com, "ActivityManager.TaskDescription".
    _Spot((".kt",), r"\bTaskDescription(?:\(\s*|(?:\.Builder\(\))[^;]{0,200}?\.setLabel\(\s*)", _DOLLAR),
    _Spot((".java",), r"\bTaskDescription(?:\(\s*|(?:\.Builder\(\))[^;]{0,200}?\.setLabel\(\s*)", _DOUBLE),
)
_SPELLED = {'"': r'"(?P<value>(?:[^"\\\n]|\\.)*)"', "'": r"'(?P<value>(?:[^'\\\n]|\\.)*)'"}
_DOUBLED = r'"(?P<value>(?:[^"\n]|"")*)"'
# A title that is a constant: the last word of its name.
_NAMED = late.compile(_WIDGET + r"title\s*:\s*(?:\w+\.)*(?P<name>[A-Za-z_]\w*)\s*[,)]", re.ASCII)
_CONSTANT = r"\b(?:const|final)\s+(?:String\s+)?{}\s*=\s*"
# Elements and attributes of XML files that show a name: file ending, element, attribute (empty: its text).
# (Apple, "Interface Builder" documents; Microsoft Learn, "Package manifest schema" and ".NET MAUI Shell".)
_XML_SPOTS = (
    ("LaunchScreen.storyboard", "label", "text"),
    ("LaunchScreen.xib", "label", "text"),
    (".appxmanifest", "DisplayName", ""),
    (".appxmanifest", "VisualElements", "DisplayName"),
    ("AppShell.xaml", "Shell", "Title"),
)
ENDINGS = (
    ".dart",
    ".cc",
    ".cpp",
    ".rc",
    ".cs",
    ".kt",
    ".java",
    ".storyboard",
    ".xib",
    ".appxmanifest",
    ".xaml",
    ".desktop",
)
# What files hold that may give a title to a root widget: the name itself may stand in another file.
ROOT_WIDGETS = ("App(", "App.router(", "App.custom(")
# freedesktop.org, "Desktop Entry Specification": Name.
_ENTRY = late.compile(r"^Name=(?P<value>[^\n\r]*)", re.MULTILINE)


def shown_names(held: Mapping[str, bytes], name: str) -> Iterator[ShownName]:
    """Yield every place in *held* that shows *name* to people, and the constants that such a place refers to."""
    constants: set[str] = set()
    sources: dict[str, Source] = {}
    for path, data in held.items():
        try:
            sources[path] = Source.read(data)
        except FormatError:
            continue
        if path.endswith(".dart") and b"App" in flat(data):
            constants |= {match["name"] for match in _NAMED.finditer(sources[path].view)}
    for path, source in sources.items():
        yield from (found for found in _shown(path, source, held[path], constants) if found.text == name)


def needle(name: str) -> str:
    """Return the longest stretch of a name that every syntax spells as it is."""
    return max(re.findall(r"[A-Za-z0-9]+", name), key=len, default="")


def _shown(path: str, source: Source, data: bytes, constants: Iterable[str]) -> Iterator[ShownName]:
    if path.endswith(tuple(item[0] for item in _XML_SPOTS)):
        yield from _in_xml(path, source, data)
    elif path.endswith(".desktop"):
        for match in _ENTRY.finditer(source.view):
            spot = place(path, source, match.start("value"), match.end("value"), "raw")
            yield ShownName(spot.written, spot)
    else:
        yield from _in_code(path, source, constants)


def _in_code(path: str, source: Source, constants: Iterable[str]) -> Iterator[ShownName]:
    named = [_Spot((".dart",), _CONSTANT.format(re.escape(as_viewed(name))), _DART) for name in sorted(constants)]
    wanted = [item for item in (*_SPOTS, *named) if ending(path) in item.endings]
    language = LANGUAGES.get(ending(path))
    texts = {r.start for r in regions(source.view, language) if r.kind == "string"} if language and wanted else None
    for item in wanted:
        for quote, syntax in item.closed.items():
            literal = _DOUBLED if syntax == "resource-script" else _SPELLED[quote]
            for match in re.finditer(item.before + literal, source.view, re.ASCII):
                start, end = match.span("value")
                if texts is not None and start not in texts and start - 1 not in texts:
                    continue  # in a comment
                spot = place(path, source, start, end, syntax)
                yield ShownName(decode(syntax, spot.written), spot)


def _in_xml(path: str, source: Source, data: bytes) -> Iterator[ShownName]:
    try:
        document = parse_xml(data)
    except FormatError:
        return
    wanted = [(element, key) for name, element, key in _XML_SPOTS if path.endswith(name)]
    for element in document.root.walk():
        for tag, key in wanted:
            if element.name != tag:
                continue
            found = element.attribute(key) if key else None
            if found is not None:
                spot = place(path, source, found.start, found.end, found.syntax)
                yield ShownName(found.value, spot)
            elif not key and not element.children:
                spot = place(path, source, element.inner_start, element.inner_end, "xml-text")
                yield ShownName(element.text, spot)
