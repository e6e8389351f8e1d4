"""JSON with spans, and JSON with comments and trailing commas: structure, positions, the file's own style.

JSON5 (json5.org) is read where a file's own tools read it: keys and texts in other quotes or none, more numbers.
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import NamedTuple

from onomaxis import late
from onomaxis.errors import FormatError
from onomaxis.formats.escapes import decode_backslashes
from onomaxis.formats.source import Source, remembered

_TOKEN = late.compile(
    r"""(?P<space>(?:\s+|//[^\n]*|/\*.*?\*/)+)
      |(?P<string>"(?:[^"\\\n]|\\.)*")
      |(?P<single>'(?:[^'\\\n]|\\.)*')
      |(?P<mark>[{}\[\]:,])
      |(?P<bare>[A-Za-z0-9+.$_\-]+)""",
    re.VERBOSE | re.DOTALL,
)


_NAME = late.compile(r"[^\W\d-][\w$]*|\$[\w$]*")
_NUMBER = late.compile(r"([+-]?)(?:0[xX]([0-9a-fA-F]+)|(\.\d+|\d+\.)|Infinity|NaN|\d+)")


@dataclass(slots=True)
class Node:
    """One value: ``kind`` is ``object``, ``array``, ``string`` or ``bare``; the span is that of the whole value.

    ``value`` is the decoded value of a string, number, ``true``, ``false`` or ``null``, ``syntax`` how a string is
    written.
    """

    kind: str
    start: int
    end: int
    value: object = None
    members: list[tuple[str, Node]] = field(default_factory=list)
    items: list[Node] = field(default_factory=list)
    syntax: str = "json"

    def get(self, *path: str) -> Node | None:
        """Return the member at a path of keys."""
        node: Node | None = self
        for key in path:
            node = next((item for name, item in reversed(node.members) if name == key), None) if node else None
        return node

    def text(self, key: str, default: str = "") -> str:
        """Return the string member *key*, or *default*."""
        node = self.get(key)
        return node.value if node is not None and isinstance(node.value, str) else default

    def walk(self) -> Iterator[Node]:
        """Yield this value and all below it."""
        yield self
        for child in (*self.items, *(node for _, node in self.members)):
            yield from child.walk()


class _Parser:
    def __init__(self, source: Source, loose: bool) -> None:
        self.source = source
        self.loose = loose
        self.view = source.view
        self.at = 0
        self.kind = ""
        self.start = 0
        self.advance()

    def advance(self) -> None:
        self.last_end = self.at
        while True:
            if self.at >= len(self.view):
                self.kind, self.start = "end", self.at
                return
            match = _TOKEN.match(self.view, self.at)
            if match is None:
                raise FormatError("not readable JSON: unexpected character", line=self.source.line(self.at))
            start, self.at = self.at, match.end()
            if match.lastgroup != "space":
                self.kind, self.start = str(match.lastgroup), start
                return

    def mark(self) -> str:
        return self.view[self.start] if self.kind == "mark" else ""

    def fault(self, what: str) -> FormatError:
        return FormatError(f"not readable JSON: {what}", line=self.source.line(self.start))

    def node(self, depth: int = 0) -> Node:
        if depth > 200:
            raise self.fault("nested too deeply")
        if self.mark() == "{":
            return self.collection("object", "}", depth)
        if self.mark() == "[":
            return self.collection("array", "]", depth)
        if self.kind not in ("string", "single", "bare"):
            raise self.fault("a value expected")
        return self.scalar()

    def scalar(self, key: bool = False) -> Node:
        start, end = self.start, self.at
        text = self.source.text(start, end)
        try:
            found = Node(self.kind, start, end, json.loads(text, strict=False))
        except ValueError:
            five = self.five(text, key)
            if five is None:
                raise self.fault(f"“{text}” is not a value") from None
            if not self.loose:
                raise self.fault(f"{text} is JSON5, which is not read here: put it into double quotes") from None
            found = five
        self.advance()
        return found

    def five(self, text: str, key: bool) -> Node | None:
        """Return what a key or a value says that JSON5 alone has; None where it has none such."""
        if self.kind == "single":
            return Node("string", self.start, self.at, decode_backslashes(text[1:-1]), syntax="single")
        if key and _NAME.fullmatch(text):
            return Node("string", self.start, self.at, text)
        number = _NUMBER.fullmatch(text)
        if number is None:
            return None
        value: int | float = int(number[2], 16) if number[2] else float(text.lstrip("+-"))
        return Node("bare", self.start, self.at, -value if number[1] == "-" else value)

    def collection(self, kind: str, closing: str, depth: int) -> Node:
        found = Node(kind, self.start, 0)
        self.advance()
        while self.mark() != closing:
            if kind == "object":
                key = self.scalar(key=True) if self.kind in ("string", "single", "bare") else None
                if key is None or not isinstance(key.value, str) or self.mark() != ":":
                    raise self.fault("a key and a colon expected")
                self.advance()
                found.members.append((key.value, self.node(depth + 1)))
            else:
                found.items.append(self.node(depth + 1))
            if self.mark() == ",":
                self.advance()
            elif self.mark() != closing:
                raise self.fault(f"a comma or “{closing}” expected")
        found.end = self.at
        self.advance()
        return found


class JsonDocument(NamedTuple):
    """A parsed file."""

    source: Source
    top: Node

    @property
    def colon(self) -> str:
        """What stands between key and value in this file: ``" : "`` or ``": "`` or ``":"``."""
        match = re.search(r'"(\s*:\s*)["\[{\dtfn]', self.source.view)
        return match[1] if match and "\n" not in match[1] else ": "

    @property
    def indent(self) -> str:
        """The step of indentation of this file."""
        match = re.search(r"\n([ \t]+)\S", self.source.view)
        return match[1] if match else "  "


@remembered(64, 1 << 17)
def parse_json(data: bytes, loose: bool = False) -> JsonDocument:
    """Parse JSON, with comments and trailing commas allowed; *loose*: JSON5. Raises FormatError with the line."""
    source = Source.read(data)
    parser = _Parser(source, loose)
    top = parser.node()
    if parser.kind != "end":
        raise parser.fault("text after the end")
    return JsonDocument(source, top)


def written(document: JsonDocument, value: object, depth: int) -> str:
    """Write *value* in the file's own style, as the value of a key that stands at *depth* steps."""
    newline = document.source.newline
    outer, inner = document.indent * depth, document.indent * (depth + 1)
    if isinstance(value, dict) and value:
        lines = [
            f"{inner}{json.dumps(key, ensure_ascii=False)}{document.colon}{written(document, item, depth + 1)}"
            for key, item in value.items()
        ]
        return "{" + newline + f",{newline}".join(lines) + newline + outer + "}"
    if isinstance(value, list) and value:
        lines = [f"{inner}{written(document, item, depth + 1)}" for item in value]
        return "[" + newline + f",{newline}".join(lines) + newline + outer + "]"
    return json.dumps(value, ensure_ascii=False)


def plain(node: Node) -> object:
    """Return a node as plain Python data, members in order."""
    if node.kind == "object":
        return {key: plain(item) for key, item in node.members}
    if node.kind == "array":
        return [plain(item) for item in node.items]
    return node.value
