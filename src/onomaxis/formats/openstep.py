"""OpenStep property lists with spans: ``project.pbxproj`` and ``.strings`` files."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import NamedTuple

from onomaxis.errors import FormatError
from onomaxis.formats.escapes import decode_backslashes
from onomaxis.formats.source import Source

_TOKEN = re.compile(
    r"""(?P<space>(?:\s+|//[^\n]*|/\*.*?\*/)+)
      |(?P<bare>(?:[A-Za-z0-9_$.:@+~-]|/(?![/*])|[\x80-\xff])+)
      |(?P<double>"(?:[^"\\]|\\.)*")
      |(?P<single>'(?:[^'\\]|\\.)*')
      |(?P<data><[0-9A-Fa-f\s]*>)
      |(?P<mark>[{}();=,])""",
    re.VERBOSE | re.DOTALL,
)


@dataclass(slots=True)
class Text:
    """A string: its value, and the view span of it as written, quotes included."""

    value: str
    start: int
    end: int

    @property
    def items(self) -> tuple[Node, ...]:
        """No children."""
        return ()


@dataclass(slots=True)
class Array:
    """An array and its items."""

    items: list[Node] = field(default_factory=list)
    start: int = 0
    end: int = 0


@dataclass(slots=True)
class Entry:
    """One ``key = value;``; *end* is the view position after the semicolon."""

    key: Text
    value: Node
    end: int


@dataclass(slots=True)
class Dict:
    """A dictionary; a key that stands twice keeps both entries, look-ups give the last, as the readers do."""

    entries: list[Entry] = field(default_factory=list)
    start: int = 0
    end: int = 0
    _index: dict[str, Node] | None = None

    def get(self, key: str) -> Node | None:
        """Return the value of *key*."""
        if self._index is None:
            self._index = {entry.key.value: entry.value for entry in self.entries}
        return self._index.get(key)

    def text(self, key: str, default: str = "") -> str:
        """Return the string at *key*, or *default*."""
        node = self.get(key)
        return node.value if isinstance(node, Text) else default

    def dict(self, key: str) -> Dict:
        """Return the dictionary at *key*, an empty one if there is none."""
        node = self.get(key)
        return node if isinstance(node, Dict) else Dict()

    def texts(self, key: str) -> list[str]:
        """Return the strings of the array at *key*."""
        node = self.get(key)
        return [item.value for item in node.items if isinstance(item, Text)] if isinstance(node, Array) else []


Node = Text | Array | Dict


class _Parser:
    def __init__(self, source: Source) -> None:
        self.source = source
        self.view = source.view
        self.at = 0
        self.kind = ""
        self.start = 0
        self.end = 0
        self.advance()

    def advance(self) -> None:
        while True:
            if self.at >= len(self.view):
                self.kind, self.start, self.end = "end", self.at, self.at
                return
            match = _TOKEN.match(self.view, self.at)
            if match is None:
                raise self.fault("unexpected character")
            self.at = match.end()
            if match.lastgroup != "space":
                self.kind, self.start, self.end = str(match.lastgroup), match.start(), match.end()
                return

    def fault(self, what: str) -> FormatError:
        position = min(self.at, self.start) if self.kind == "end" else self.start
        return FormatError(f"not a readable property list: {what}", line=self.source.line(position))

    def is_mark(self, mark: str) -> bool:
        return self.kind == "mark" and self.view[self.start] == mark

    def expect(self, mark: str) -> int:
        if not self.is_mark(mark):
            raise self.fault(f"“{mark}” expected")
        end = self.end
        self.advance()
        return end

    def text(self) -> Text:
        if self.kind not in ("bare", "double", "single", "data"):
            raise self.fault("a string expected")
        if self.kind in ("double", "single"):
            value = decode_backslashes(self.source.text(self.start + 1, self.end - 1))
        else:
            value = self.source.text(self.start, self.end)
        node = Text(value, self.start, self.end)
        self.advance()
        return node

    def node(self, depth: int) -> Node:
        if depth > 100:
            raise self.fault("nested too deeply")
        if self.is_mark("{"):
            start = self.start
            self.advance()
            found = self.entries(depth, "}")
            found.start, found.end = start, self.expect("}")
            return found
        if self.is_mark("("):
            return self.array(depth)
        return self.text()

    def array(self, depth: int) -> Array:
        found = Array(start=self.start)
        self.advance()
        while not self.is_mark(")"):
            found.items.append(self.node(depth + 1))
            if not self.is_mark(","):
                break
            self.advance()
        found.end = self.expect(")")
        return found

    def entries(self, depth: int, closing: str) -> Dict:
        found = Dict()
        while self.kind != "end" and not (closing and self.is_mark(closing)):
            key = self.text()
            value: Node = key
            if self.is_mark("="):
                self.advance()
                value = self.node(depth + 1)
            if closing and self.is_mark(closing):
                found.entries.append(Entry(key, value, value.end))
                break
            found.entries.append(Entry(key, value, self.expect(";")))
        return found


class OpenStepDocument(NamedTuple):
    """A parsed file: its source and the dictionary at its top."""

    source: Source
    top: Dict

    def texts(self) -> Iterator[tuple[tuple[str, ...], Text]]:
        """Yield every string value with the keys that lead to it, in file order."""
        stack: list[tuple[tuple[str, ...], Node]] = [((), self.top)]
        while stack:
            path, node = stack.pop()
            if isinstance(node, Text):
                yield path, node
            elif isinstance(node, Array):
                stack.extend((path, item) for item in reversed(node.items))
            else:
                stack.extend(((*path, e.key.value), e.value) for e in reversed(node.entries))


def parse_openstep(data: bytes) -> OpenStepDocument:
    """Parse a property list whose top is ``{…}``, or a ``.strings`` file (entries without braces).

    Raises FormatError with the line.
    """
    source = Source.read(data)
    parser = _Parser(source)
    if parser.is_mark("{"):
        top = parser.node(0)
        if parser.kind != "end":
            raise parser.fault("text after the end")
        assert isinstance(top, Dict)
    else:
        top = parser.entries(0, "")
    return OpenStepDocument(source, top)


def opening(document: OpenStepDocument, block: Dict, key: str) -> tuple[int, str, str]:
    """Return where the missing *key* goes in *block*: view position, text before the value, text after.

    The entry takes its place in alphabetical order, as Xcode keeps build settings, in the block's own layout.
    """
    source = document.source
    if not block.entries:
        raise FormatError("an empty dictionary gives no layout to follow", line=source.line(block.start))
    written_key = key if re.fullmatch(r"[A-Za-z0-9_$/:.]+", key) else f'"{key}"'
    first = block.entries[0]
    line_start = source.view.rfind("\n", 0, first.key.start) + 1
    lead = source.view[line_start : first.key.start]
    separator = source.newline + lead if not lead.strip() else " "
    for entry in block.entries:
        if entry.key.value > key:
            return entry.key.start, f"{written_key} = ", f";{separator}"
    return block.entries[-1].end, f"{separator}{written_key} = ", ";"
