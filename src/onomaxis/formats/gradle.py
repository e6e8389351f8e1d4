"""The block reader for Gradle build scripts, Groovy and Kotlin alike.

A script becomes a tree of statements: blocks (``android { … }``, ``create("free") { … }``), settings in every
ordinary spelling (``x "v"``, ``x = "v"``, ``x("v")``, ``setX("v")``, ``x.set("v")``) and declarations
(``val x = …``, ``def x = …``, ``ext { x = … }``). What a value means is left to the caller.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

from onomaxis.formats.lexer import GROOVY, KOTLIN, Token, tokens
from onomaxis.formats.source import Source, remembered

_OPEN = {"(": ")", "{": "}", "[": "]"}
_DECLARE = {"val", "var", "def", "const", "final", "String", "int", "Integer", "private", "internal", "public"}
# The calls of a named container that make one of its items, or open one that is there.
CREATORS = frozenset({"create", "register", "getByName", "named", "maybeCreate"})
_DEEPEST = 60
# Calls that open the receiver's own scope.
_SCOPES = frozenset({"apply", "with", "run", "configure", "all", "configureEach", "also", "let"})
BRANCHES = {"if", "else", "for", "while", "when", "switch", "try", "catch", "finally"}
# Operators that let an expression go on in the next line when they end or start one.
_CONTINUES = {"+", "-", "*", ".", "?.", "?:", ",", "=", "(", "[", "&&", "||", "->", "as", "/"}
_LEADS = {".", "?.", "?:", "&&", "||"}


@dataclass(slots=True)
class Statement:
    """One statement: ``kind`` is ``block``, ``set``, ``declare`` or ``other``.

    ``name`` is dotted as written; ``args`` are the tokens between its parentheses, ``value`` those of its value;
    ``conditional`` is true below a branch; ``end`` is the position behind its last token.
    """

    kind: str
    name: str
    start: int
    args: list[Token] = field(default_factory=list)
    value: list[Token] = field(default_factory=list)
    children: list[Statement] = field(default_factory=list)
    conditional: bool = False
    body: tuple[int, int] = (0, 0)
    end: int = 0


class Setting(NamedTuple):
    """A setting with the blocks around it: ``path`` holds block names, or a block's quoted argument."""

    path: tuple[str, ...]
    name: str
    value: tuple[Token, ...]
    conditional: bool
    declared: bool
    statement: Statement

    @property
    def full(self) -> tuple[str, ...]:
        """Path and name, with dotted names taken apart."""
        return tuple(part for item in (*self.path, self.name) for part in item.split("."))


class Script(NamedTuple):
    """A parsed build script."""

    source: Source
    statements: tuple[Statement, ...]
    kotlin: bool

    def settings(self) -> Iterator[Setting]:
        """Yield every setting and declaration with its path, in file order."""
        yield from _settings((), list(self.statements), False)

    def blocks(self, *path: str) -> Iterator[Statement]:
        """Yield the blocks reached by following names, dotted ones (``android.buildTypes { }``) taken apart."""
        yield from _followed(self.statements, path)


def _followed(level: Sequence[Statement], path: tuple[str, ...]) -> Iterator[Statement]:
    for item in level:
        own = block_path(item) if item.kind == "block" else ()
        if own and own == path[: len(own)]:
            if len(own) == len(path):
                yield item
            else:
                yield from _followed(item.children, path[len(own) :])


def block_path(statement: Statement) -> tuple[str, ...]:
    """Name a block as the settings below it see it: its parts, with a named container's item for its creator."""
    parts = statement.name.split(".")
    at = next((index for index, part in enumerate(parts) if part in CREATORS), None)
    if at is not None or not statement.name:
        text = literal_text(statement.args)
        if text:
            return (*parts[: at or 0], text)
    if parts[0] in ("configure", "extensions") and "Extension" in "".join(t.text for t in statement.args):
        return ("android",)
    if parts[-1] in _SCOPES and len(parts) > 1:
        parts = parts[:-1]
    return tuple(parts)


def literal_text(value: list[Token] | tuple[Token, ...]) -> str:
    """Return the body of the first token when it is a string without interpolation, else an empty string."""
    if value and value[0].kind == "string" and len(value[0].parts) == 1:
        quote = 3 if value[0].text[:3] in ('"""', "'''") else 1
        return value[0].text[quote:-quote]
    return ""


def _settings(path: tuple[str, ...], level: list[Statement], conditional: bool) -> Iterator[Setting]:
    for item in level:
        branch = conditional or item.conditional
        if item.kind in ("set", "declare"):
            yield Setting(path, item.name, tuple(item.value), branch, item.kind == "declare", item)
        if item.kind == "block":
            own = block_path(item)
            if item.value or item.args:
                yield Setting(path, item.name, tuple(item.args), branch, False, item)
            inner = path if item.conditional and own[0] in BRANCHES else (*path, *own)
            yield from _settings(inner, item.children, branch)


class _Reader:
    def __init__(self, source: Source, kotlin: bool) -> None:
        self.items = tokens(source.view, KOTLIN if kotlin else GROOVY)
        self.at = 0

    def peek(self, ahead: int = 0) -> Token | None:
        index = self.at + ahead
        return self.items[index] if index < len(self.items) else None

    def skip_newlines(self) -> None:
        while (token := self.peek()) and token.text in ("\n", ";"):
            self.at += 1

    def group(self) -> list[Token]:
        """Read a bracketed group at the current token; return the tokens inside."""
        opening = self.items[self.at]
        stack = [_OPEN[opening.text]]
        begin = self.at + 1
        self.at += 1
        while stack and self.at < len(self.items):
            text = self.items[self.at].text if self.items[self.at].kind == "mark" else ""
            if text in _OPEN:
                stack.append(_OPEN[text])
            elif text == stack[-1]:
                stack.pop()
            self.at += 1
        return self.items[begin : self.at - 1 if not stack else self.at]

    def statements(self, conditional: bool, closing: bool, depth: int = 0) -> list[Statement]:
        found: list[Statement] = []
        while True:
            self.skip_newlines()
            token = self.peek()
            if token is None:
                return found
            if token.kind == "mark" and token.text == "}":
                self.at += 1
                if closing:
                    return found
                continue
            before = self.at
            statement = self.statement(conditional, depth)
            if statement:
                statement.end = self.ended(before)
                found.append(statement)
            if self.at == before:
                self.at += 1

    def ended(self, begin: int) -> int:
        """Return the position behind the last token read since *begin*, line ends aside."""
        last = self.at - 1
        while last > begin and self.items[last].kind == "newline":
            last -= 1
        return self.items[last].end

    def head(self) -> str:
        """Read a dotted name, with subscripts of literals (``extra["x"]``) folded into it."""
        parts: list[str] = []
        while (token := self.peek()) and token.kind == "name":
            parts.append(token.text.strip("`"))
            self.at += 1
            follow = self.peek()
            if follow and follow.text == "[" and parts[-1] in ("ext", "extra", "manifestPlaceholders"):
                inner = self.group()
                parts.append(literal_text(inner) or "?")
                follow = self.peek()
            after = self.peek(1)
            if follow and follow.text in (".", "?.") and after and after.kind == "name":
                self.at += 1
                continue
            break
        return ".".join(parts)

    def value(self) -> list[Token]:
        """Read an expression to the end of its line, or further where it clearly goes on."""
        begin = self.at
        while token := self.peek():
            if token.kind == "mark" and token.text in _OPEN:
                self.group()
                continue
            if token.text in ("}", ";") and token.kind == "mark":
                break
            if token.kind == "newline" and not self._goes_on(begin):
                break
            self.at += 1
        return [token for token in self.items[begin : self.at] if token.kind != "newline"]

    def _goes_on(self, begin: int) -> bool:
        before = self.items[self.at - 1] if self.at > begin else None
        if before and before.text in _CONTINUES and before.kind in ("mark", "name"):
            return True
        ahead = self.at
        while ahead < len(self.items) and self.items[ahead].kind == "newline":
            ahead += 1
        return ahead < len(self.items) and self.items[ahead].text in _LEADS

    def declaration(self, start: int, conditional: bool) -> Statement | None:
        """Read ``val x: T = v``, ``def x = v``, ``val x by extra(v)``, ``String x = v``."""
        save = self.at
        while (token := self.peek()) and token.text in _DECLARE:
            self.at += 1
        name = self.peek()
        if name is None or name.kind != "name" or self.at == save:
            self.at = save
            return None
        self.at += 1
        follow = self.peek()
        if follow and follow.text == ":":
            while (token := self.peek()) and token.text not in ("=", "by", "\n"):
                self.at += 1
            follow = self.peek()
        if follow and follow.text == "=":
            self.at += 1
            return Statement("declare", name.text.strip("`"), start, value=self.value(), conditional=conditional)
        if follow and follow.text == "by":
            self.at += 1
            by = self.value()
            inner = by[2:-1] if len(by) > 3 and by[0].text == "extra" and by[1].text in ("(", "{") else by
            return Statement("declare", name.text.strip("`"), start, value=inner, conditional=conditional)
        self.at = save
        return None

    def statement(self, conditional: bool, depth: int) -> Statement | None:
        token = self.items[self.at]
        if depth > _DEEPEST:  # what nobody writes by hand: passed over as a whole
            self.value()
            return Statement("other", "", token.start)
        if token.kind == "mark" and token.text == "{":
            self.at += 1
            children = self.statements(conditional, True, depth + 1)
            return Statement("block", "", token.start, children=children, conditional=conditional)
        if token.kind == "string" and (after := self.peek(1)) and after.text == "{" and after.kind == "mark":
            self.at += 1  # a named container's item by its quoted name: "free" { … }
            return self.after_head("", token, conditional, depth, [token])
        if token.kind != "name":
            self.value()
            return Statement("other", "", token.start)
        if token.text in BRANCHES:
            return self.branch(token, depth)
        if token.text in _DECLARE:
            declared = self.declaration(token.start, conditional)
            if declared:
                return declared
        name = self.head()
        generic = self.skip_generics()
        if generic.endswith("Extension") and name.split(".")[-1] in ("configure", "the", "getByType"):
            name = "android"
        return self.after_head(name, token, conditional, depth)

    def skip_generics(self) -> str:
        """Step over ``<Type>`` between a name and its block; return the type's last segment."""
        begin = self.peek()
        if begin is None or begin.text != "<" or begin.kind != "mark":
            return ""
        ahead = 1
        while (token := self.peek(ahead)) and (token.kind == "name" or token.text == "."):
            ahead += 1
        token = self.peek(ahead)
        if ahead == 1 or token is None or token.text != ">":
            return ""
        self.at += ahead + 1
        return self.items[self.at - 2].text

    def after_head(
        self, name: str, token: Token, conditional: bool, depth: int, given: list[Token] | None = None
    ) -> Statement:
        follow = self.peek()
        args: list[Token] = given or []
        if follow and follow.text == "(":
            args = [item for item in self.group() if item.kind != "newline"] or args
            follow = self.peek()
            if follow and follow.text in (".", "?."):
                return self._chain(name, args, token, conditional, depth)
            if not follow or follow.text != "{":
                rest = self.value()
                return Statement(
                    "set", name, token.start, args, args if not rest else [*args, *rest], conditional=conditional
                )
        if follow and follow.text == "{" and depth < _DEEPEST:
            start = follow.end
            self.at += 1
            children = self.statements(conditional, True, depth + 1)
            end = self.items[self.at - 1].start
            return Statement(
                "block", name, token.start, args, children=children, conditional=conditional, body=(start, end)
            )
        if follow and follow.text in ("=", "+="):
            self.at += 1
            return Statement("set", name, token.start, value=self.value(), conditional=conditional)
        if follow is None or follow.kind == "newline" or follow.text in ("}", ";"):
            return Statement("other", name, token.start, conditional=conditional)
        return Statement("set", name, token.start, value=self.value(), conditional=conditional)

    def _chain(self, name: str, args: list[Token], token: Token, conditional: bool, depth: int) -> Statement:
        """Read what follows ``name(args)`` by a dot; keep it as part of the value (``id("x").version("y")``)."""
        save = self.at
        rest = self.value()
        if rest and rest[-1].text == "}" and len(rest) > 2:
            self.at = save
            self.at += 1
            inner = self.head()
            return self.after_head(f"{name}.{inner}", token, conditional, depth, args)
        return Statement("set", name, token.start, args, [*args, *rest], conditional=conditional)

    def branch(self, token: Token, depth: int) -> Statement:
        self.at += 1
        follow = self.peek()
        if follow and follow.text == "(":
            self.group()
        self.skip_newlines()
        follow = self.peek()
        children: list[Statement] = []
        if follow and follow.text == "{" and depth < _DEEPEST:
            self.at += 1
            children = self.statements(token.text not in ("try", "finally"), True, depth + 1)
        elif follow and follow.kind == "name" and follow.text not in BRANCHES:
            child = self.statement(True, depth + 1)
            children = [child] if child else []
        return Statement("block", token.text, token.start, [], children=children, conditional=True)


@remembered(64, 1 << 18)
def parse_gradle(data: bytes, kotlin: bool) -> Script:
    """Parse a build script. Never fails on syntax: what is not understood becomes an ``other`` statement."""
    source = Source.read(data)
    reader = _Reader(source, kotlin)
    return Script(source, tuple(reader.statements(False, False)), kotlin)
