"""OpenStep property lists with spans: ``project.pbxproj`` and ``.strings`` files."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import NamedTuple

from onomaxis import late
from onomaxis.errors import FormatError
from onomaxis.formats.escapes import decode_backslashes
from onomaxis.formats.source import Source, remembered

# Groups are atomic, not possessive: Python before 3.11.5 goes on where a possessive group's last try had come to.
_SPACE = r"(?>(?:[ \t\r\n\f\v]++|//[^\n]*+|/\*[^*]*+\*++(?>(?:[^/*][^*]*+\*++)*)/)*)"
_WORD = r"[A-Za-z0-9_$.:@+~\udc80-\udcff-]"
_BARE_TEXT = rf"{_WORD}++(?>(?:/(?![/*]){_WORD}*+)*)|(?>(?:/(?![/*]){_WORD}*+)+)"
_STRING = r'"[^"\\]*+(?>(?:\\.[^"\\]*+)*)"'
_QUOTED = r'"([^"\\]*+(?>(?:\\.[^"\\]*+)*))"'
# Space and comments, then one token. Each alternative begins with a different character, so none is tried in vain.
_TOKEN = late.compile(
    rf"{_SPACE}(?:({_BARE_TEXT})|{_QUOTED}|'([^'\\]*(?:\\.[^'\\]*)*)'|(<[0-9A-Fa-f\s]*>)|([{{}}();=,])|(\Z))",
    re.DOTALL,
)
# What a project file mostly consists of, read at one stroke: a whole entry with two strings, a whole array item.
_PAIR = late.compile(
    rf"{_SPACE}(?:({_BARE_TEXT})|{_QUOTED}){_SPACE}={_SPACE}(?:({_BARE_TEXT})|{_QUOTED}){_SPACE};", re.DOTALL
)
_PLAIN = late.compile(
    rf"{_SPACE}(?:({_BARE_TEXT})|{_QUOTED}){_SPACE}={_SPACE}\{{"
    rf"((?>(?:{_SPACE}(?:{_BARE_TEXT}|{_STRING}){_SPACE}={_SPACE}(?:{_BARE_TEXT}|{_STRING}){_SPACE};)*){_SPACE})"
    rf"\}}{_SPACE};",
    re.DOTALL,
)
_ITEM = late.compile(rf"{_SPACE}(?:({_BARE_TEXT})|{_QUOTED}){_SPACE},", re.DOTALL)
_BARE, _DOUBLE, _SINGLE, _DATA, _MARK, _END = range(1, 7)
_DEEPEST = 100


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


class Dict:
    """A dictionary; a key that stands twice keeps both entries, look-ups give the last, as the readers do.

    The entries of one that holds only strings are made when they are first asked for: a large project file has
    thousands of them, and most are never looked at.
    """

    __slots__ = ("_entries", "_index", "_unread", "end", "start")

    def __init__(self, start: int = 0, end: int = 0, unread: _Parser | None = None) -> None:
        self.start = start
        self.end = end
        self._unread = unread
        self._entries: list[Entry] = []
        self._index: dict[str, Node] | None = None

    @property
    def unread(self) -> bool:
        """Whether the dictionary holds only strings, and none of them was asked for yet."""
        return self._unread is not None

    @property
    def entries(self) -> list[Entry]:
        """The entries in file order."""
        if self._unread is not None:
            parser, self._unread = self._unread, None
            self._entries = parser.pairs(self.start, self.end)
        return self._entries

    def get(self, key: str) -> Node | None:
        """Return the value of *key*."""
        if self._index is None:
            self._index = {entry.key.value: entry.value for entry in self.entries}
        return self._index.get(key)

    def text(self, key: str, default: str = "") -> str:
        """Return the string at *key*, or *default*."""
        glanced = self._unread.glance(self.start, self.end, key) if self._unread is not None else None
        if glanced is not None:
            return glanced
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
    """Reads one token at a time; the next one is always at hand as ``kind``, ``start``, ``end``."""

    def __init__(self, source: Source) -> None:
        self.source = source
        self.view = source.view
        self.ascii = source.view.isascii()
        self.kind = self.start = self.end = self.at = self.before = 0
        self.advance()

    def advance(self) -> None:
        """Read the token at ``at``; ``before`` is where the space in front of it began."""
        match = _TOKEN.match(self.view, self.at)
        if match is None or match.lastindex is None:
            raise self.fault("unexpected character", self.at)
        self.before = self.at
        self.kind = match.lastindex
        self.start, self.end = match.span(self.kind)
        self.at = match.end()

    def fault(self, what: str, position: int = -1) -> FormatError:
        position = self.start if position < 0 else position
        rest = self.view[position:]
        position += len(rest) - len(rest.lstrip()) if self.kind != _END else 0
        return FormatError(f"not a readable property list: {what}", line=self.source.line(position))

    def matched(self, match: re.Match[str], bare: int) -> Text:
        """Return the string in group *bare*, or quoted in the group after it."""
        start, end = match.span(bare)
        if start >= 0:
            return Text(self.view[start:end] if self.ascii else self.source.text(start, end), start, end)
        start, end = match.span(bare + 1)
        return Text(self.unquoted(start, end), start - 1, end + 1)

    def unquoted(self, start: int, end: int) -> str:
        value = self.view[start:end] if self.ascii else self.source.text(start, end)
        return decode_backslashes(value) if "\\" in value else value

    def is_mark(self, mark: str) -> bool:
        return self.kind == _MARK and self.view[self.start] == mark

    def expect(self, mark: str) -> int:
        if self.kind != _MARK or self.view[self.start] != mark:
            raise self.fault(f"“{mark}” expected")
        end = self.end
        self.advance()
        return end

    def text(self) -> Text:
        kind, start, end = self.kind, self.start, self.end
        if kind > _DATA:
            raise self.fault("a string expected")
        self.advance()
        if kind in (_DOUBLE, _SINGLE):
            return Text(self.unquoted(start, end), start - 1, end + 1)
        return Text(self.view[start:end] if self.ascii else self.source.text(start, end), start, end)

    def node(self, depth: int) -> Node:
        if self.kind != _MARK:
            return self.text()
        if depth > _DEEPEST:
            raise self.fault("nested too deeply")
        if self.view[self.start] == "{":
            start = self.start
            self.advance()
            found = self.entries(depth, "}")
            found.start, found.end = start, self.expect("}")
            return found
        if self.view[self.start] == "(":
            return self.array(depth)
        raise self.fault("a string expected")

    def array(self, depth: int) -> Array:
        found = Array(start=self.start)
        items, view = found.items, self.view
        while True:
            while match := _ITEM.match(view, self.at):
                items.append(self.matched(match, 1))
                self.at = match.end()
            self.advance()
            if self.is_mark(")"):
                break
            items.append(self.node(depth + 1))
            if not self.is_mark(","):
                break
        found.end = self.expect(")")
        return found

    def pairs(self, start: int, end: int) -> list[Entry]:
        """Return the entries between two braces that hold nothing but pairs of strings."""
        found = []
        at = start + 1
        while match := _PAIR.match(self.view, at, end):
            found.append(Entry(self.matched(match, 1), self.matched(match, 3), match.end()))
            at = match.end()
        return found

    def glance(self, start: int, end: int, key: str) -> str | None:
        """Return what the first of some pairs says, where that is *key* and no other can be: what an object is."""
        match = _PAIR.match(self.view, start + 1, end)
        if match is None or self.view.find(key, match.end(), end) >= 0 or "\\" in self.view[start:end]:
            return None
        return self.matched(match, 3).value if self.matched(match, 1).value == key else None

    def entries(self, depth: int, closing: str) -> Dict:
        found = Dict()
        entries, view = found.entries, self.view
        while True:
            self.at = self.before
            while True:
                while match := _PAIR.match(view, self.at):
                    entries.append(Entry(self.matched(match, 1), self.matched(match, 3), match.end()))
                    self.at = match.end()
                before = self.at
                while match := _PLAIN.match(view, self.at):
                    inner = Dict(match.start(3) - 1, match.end(3) + 1, self)
                    entries.append(Entry(self.matched(match, 1), inner, match.end()))
                    self.at = match.end()
                if self.at == before:
                    break
            self.advance()
            if self.kind == _END or (closing and self.is_mark(closing)):
                return found
            key = self.text()
            value: Node = key
            if self.is_mark("="):
                self.advance()
                value = self.node(depth + 1)
            if closing and self.is_mark(closing):
                entries.append(Entry(key, value, value.end))
                return found
            entries.append(Entry(key, value, self.expect(";")))


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


@remembered(6, 1 << 20)
def parse_openstep(data: bytes) -> OpenStepDocument:
    """Parse a property list whose top is ``{…}``, or a ``.strings`` file (entries without braces).

    Raises FormatError with the line.
    """
    source = Source.read(data)
    parser = _Parser(source)
    if parser.is_mark("{"):
        top = parser.node(0)
        if parser.kind != _END:
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
    line_start = source.line_start(first.key.start)
    lead = source.view[line_start : first.key.start]
    separator = source.newline + lead if not lead.strip() else " "
    for entry in block.entries:
        if entry.key.value > key:
            return entry.key.start, f"{written_key} = ", f";{separator}"
    return block.entries[-1].end, f"{separator}{written_key} = ", ";"
