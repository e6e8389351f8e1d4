"""XML with byte spans: expat decides what is well-formed and decodes, a scan of each tag finds the spans.

Namespaces are resolved here (expat's own namespace mode hides the prefixes as written).
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import NamedTuple
from xml.parsers import expat

from onomaxis import late
from onomaxis.errors import FormatError
from onomaxis.formats.source import SPACE, Source, bytes_of, remembered

_DECLARED = late.compile(rb"""\A\s*<\?xml[^>]*?encoding\s*=\s*["']([A-Za-z0-9._-]+)["']""")
_ATTRIBUTE = late.compile(r"""\s+([^\s=/>]+)\s*=\s*(?:"([^"]*)"|'([^']*)')""")


@dataclass(slots=True)
class Attribute:
    """One attribute: qualified name as written, decoded value, view span of the text between the quotes."""

    name: str
    value: str
    start: int
    end: int
    syntax: str


@dataclass(slots=True)
class Element:
    """One element: spans are view positions. ``inner_start`` to ``inner_end`` is what stands between the tags."""

    tag: str
    start: int
    parent: Element | None
    prefixes: dict[str, str]
    attributes: list[Attribute] = field(default_factory=list)
    children: list[Element] = field(default_factory=list)
    inner_start: int = 0
    inner_end: int = 0
    end: int = 0
    text: str = ""
    empty: bool = False

    @property
    def name(self) -> str:
        """The tag without its prefix."""
        return self.tag.rpartition(":")[2]

    def attribute(self, name: str, namespace: str = "") -> Attribute | None:
        """Return the attribute *name* in *namespace* (a URI; empty for none)."""
        for item in self.attributes:
            prefix, _, local = item.name.rpartition(":")
            if local == name and (self.prefixes.get(prefix, "") == namespace if prefix else not namespace):
                return item
        return None

    def value(self, name: str, namespace: str = "") -> str:
        """Return the decoded value of an attribute, or an empty string."""
        found = self.attribute(name, namespace)
        return found.value if found else ""

    def walk(self) -> Iterator[Element]:
        """Yield this element and everything below it, in document order."""
        yield self
        for child in self.children:
            yield from child.walk()

    def find(self, *names: str) -> Iterator[Element]:
        """Yield the elements reached by following child tags *names*."""
        if not names:
            yield self
            return
        for child in self.children:
            if child.name == names[0]:
                yield from child.find(*names[1:])


class XmlDocument(NamedTuple):
    """A parsed file: its source and its root element."""

    source: Source
    root: Element


# The most letters that entities may stand for in one text.
_LONGEST_MADE = 4096


class _Builder:
    """Collects expat events into elements."""

    def __init__(self, source: Source, parser: expat.XMLParserType) -> None:
        self.source = source
        self.parser = parser
        self.base = 0 if source.wide else source.mark
        self.root: Element | None = None
        self.open: list[Element] = []
        parser.StartElementHandler = self.start
        parser.EndElementHandler = self.finish
        parser.CharacterDataHandler = self.characters

    def start(self, tag: str, attributes: list[str]) -> None:
        at = self.parser.CurrentByteIndex - self.base
        parent = self.open[-1] if self.open else None
        if len(self.open) > 500:
            raise FormatError("elements are nested too deeply", line=self.parser.CurrentLineNumber)
        element = Element(tag, at, parent, parent.prefixes if parent else {})
        declared = {
            name[6:]: value
            for name, value in zip(attributes[::2], attributes[1::2], strict=True)
            if name.startswith("xmlns:")
        }
        if declared:
            element.prefixes = {**element.prefixes, **declared}
        self._scan_tag(element, attributes)
        if parent:
            parent.children.append(element)
        else:
            self.root = element
        self.open.append(element)

    def _scan_tag(self, element: Element, attributes: list[str]) -> None:
        view = self.source.view
        at = element.start + 1 + len(element.tag.encode("utf-8"))
        values = dict(zip(attributes[::2], attributes[1::2], strict=True))
        while match := _ATTRIBUTE.match(view, at):
            group = 2 if match[2] is not None else 3
            name = self.source.text(match.start(1), match.end(1))
            syntax = "xml-double" if group == 2 else "xml-single"
            self._made(len(values.get(name, "")), match.end(group) - match.start(group))
            element.attributes.append(
                Attribute(name, values.get(name, ""), match.start(group), match.end(group), syntax)
            )
            at = match.end()
        close = view.find(">", at)
        element.inner_start = element.inner_end = element.end = close + 1
        element.empty = view[close - 1] == "/"

    def _made(self, said: int, written: int) -> None:
        """Refuse a text that entities make far longer than it is written: no name and no value is."""
        if said - written > _LONGEST_MADE:
            message = f"entities stand for {said} letters here; the most are {_LONGEST_MADE}"
            raise FormatError(message, line=self.parser.CurrentLineNumber)

    def finish(self, tag: str) -> None:
        element = self.open.pop()
        self._made(len(element.text), self.parser.CurrentByteIndex - self.base - element.inner_start)
        if not element.empty:
            element.inner_end = self.parser.CurrentByteIndex - self.base
            element.end = self.source.view.find(">", element.inner_end) + 1

    def characters(self, data: str) -> None:
        if self.open:
            self.open[-1].text += data


def declared_encoding(data: bytes) -> str | None:
    """Return the encoding that an XML file states, where its bytes do not tell it already."""
    found = _DECLARED.match(data[:1024])
    name = found[1].decode("ascii").lower() if found else ""
    return name if name and name not in ("utf-16", "utf-8") else None


@remembered(128, 1 << 17)
def parse_xml(data: bytes) -> XmlDocument:
    """Parse *data*. No external entity is fetched; entity bombs are refused by expat.

    Raises FormatError with the line when the file is not well-formed.
    """
    source = Source.read(data, declared_encoding(data))
    parser = expat.ParserCreate("utf-8" if source.wide or source.codec == "utf-8" else None)
    parser.ordered_attributes = True
    parser.specified_attributes = True
    parser.buffer_text = True
    builder = _Builder(source, parser)
    try:
        parser.Parse(bytes_of(source.view) if source.wide else data, True)
    except expat.ExpatError as error:
        raise FormatError(f"not well-formed XML: {expat.ErrorString(error.code)}", line=error.lineno) from None
    except (LookupError, ValueError) as error:
        raise FormatError(f"not readable XML: {error}", line=1) from None
    if builder.root is None:
        raise FormatError("no element found", line=1)
    return XmlDocument(source, builder.root)


def text_span(document: XmlDocument, element: Element) -> tuple[int, int, bool] | None:
    """Return the view span that holds the text of *element* and whether it is CDATA.

    White space around a lone CDATA section stays outside the span. None when comments or elements stand inside,
    or when the element has no inner span (``<a/>``).
    """
    if element.children or element.empty:
        return None
    inner = document.source.view[element.inner_start : element.inner_end]
    whole = re.fullmatch(r"\s*<!\[CDATA\[(.*?)\]\]>\s*", inner, re.DOTALL)
    if whole and "<![CDATA[" not in whole[1]:
        return element.inner_start + whole.start(1), element.inner_start + whole.end(1), True
    if "<" in inner:
        return None
    left = len(inner) - len(inner.lstrip(SPACE))
    right = len(inner.rstrip(SPACE))
    if right < left:
        return element.inner_start, element.inner_end, False
    return element.inner_start + left, element.inner_start + right, False


def innermost(element: Element) -> Element:
    """Return the element that holds the whole text of another: itself, or an only child without text beside it."""
    while len(element.children) == 1 and not element.text.strip(SPACE):
        element = element.children[0]
    return element


def whole_text(document: XmlDocument, element: Element) -> str:
    """Return the text of an element with that of the elements inside it, in order."""
    if not element.children:
        return element.text
    parser = expat.ParserCreate("utf-8" if document.source.wide or document.source.codec == "utf-8" else None)
    base = 0 if document.source.wide else document.source.mark
    found: list[str] = []

    def characters(data: str) -> None:
        if element.inner_start <= parser.CurrentByteIndex - base < element.inner_end:
            found.append(data)

    parser.CharacterDataHandler = characters
    parser.Parse(bytes_of(document.source.view) if document.source.wide else document.source.data, True)
    return "".join(found)


_ONLY_ENTITY = late.compile(r"\s*&([A-Za-z_][\w.-]*);\s*", re.ASCII)
_DECLARATION = r"""<!ENTITY\s+{}\s+(?:"(?P<double>[^"]*)"|'(?P<single>[^']*)')\s*>"""


def entity_span(document: XmlDocument, start: int, end: int) -> tuple[int, int, str] | None:
    """Return the literal, and ``double`` or ``single``, that the only entity between two view positions stands for.

    Through entities that stand for nothing but another; None where there is more than one, or none of the document's.
    """
    head = document.source.view[: document.root.start]
    inner, found = document.source.view[start:end], None
    for _ in range(5):
        named = _ONLY_ENTITY.fullmatch(inner)
        declared = re.search(_DECLARATION.format(re.escape(named[1])), head) if named else None
        if declared is None:
            return found
        quote = "double" if declared["double"] is not None else "single"
        found = (*declared.span(quote), quote)
        inner = declared[quote]
    return None


def indentation(source: Source, position: int) -> str:
    """Return the white space that starts the line of *position*."""
    start = source.line_start(position)
    match = re.compile(r"[ \t]*").match(source.view, start)
    return match[0] if match else ""


def new_child(document: XmlDocument, element: Element, text: str) -> tuple[int, int, str]:
    """Return the insertion (view span, text) that puts *text*, an element, at the end of another's children."""
    source = document.source
    newline, lead = source.newline, indentation(source, element.start)
    if element.children:
        last = element.children[-1]
        between = indentation(source, last.start)
        return last.end, last.end, "".join(f"{newline}{between}{line}" for line in text.split("\n"))
    step = "\t" if "\t" in lead else "    "
    if element.parent is not None and lead:
        above = indentation(source, element.parent.start)
        step = lead[len(above) :] if lead.startswith(above) and len(lead) > len(above) else step
    lines = "".join(f"{newline}{lead}{step}{line}" for line in text.split("\n")) + f"{newline}{lead}"
    if element.empty:
        tag = source.view[element.start : element.end].rstrip("/> \t\r\n")
        return element.start, element.end, f"{tag}>{lines}</{element.tag}>"
    blank = not source.view[element.inner_start : element.inner_end].strip(SPACE)
    return (element.inner_start if blank else element.inner_end), element.inner_end, lines
