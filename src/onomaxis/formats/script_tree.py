"""JavaScript and TypeScript as a tree: what configuration scripts are made of; types are passed over.

Source: ECMA-262 ("Expressions", "Statements"); typescriptlang.org, "Handbook" (annotations, assertions, enums).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from onomaxis.formats.lexer import LANGUAGES, Token, matching, nesting, refuse_unpaired, tokens
from onomaxis.formats.source import Source

_OPERATORS = ("===", "!==", "...", "??=", "||=", "&&=", "**=", ">>>") + (
    "=>",
    "==",
    "!=",
    "<=",
    ">=",
    "&&",
    "||",
    "??",
    "?.",
    "++",
    "--",
    "+=",
    "-=",
    "*=",
    "/=",
    "**",
    "<<",
    ">>",
)
_BINARY = (
    ("??",),
    ("||",),
    ("&&",),
    ("==", "!=", "===", "!=="),
    ("<", ">", "<=", ">=", "in", "instanceof"),
    ("+", "-"),
    ("*", "/", "%"),
)
_BINDS = {sign: level for level, signs in enumerate(_BINARY) for sign in signs}
_ASSIGNS = frozenset({"=", "+=", "-=", "*=", "??=", "||=", "&&="})
_PREFIXES = frozenset({"!", "-", "+", "typeof", "await", "void", "new", "delete", "++", "--"})
_TYPED = frozenset({"name", "string"})
_DECLARE = frozenset({"const", "let", "var"})
_DEEPEST = 60


class Unread(Exception):
    """The tokens say nothing that is read here."""


@dataclass(frozen=True, slots=True)
class Node:
    """An expression or a statement, and where it stands."""

    start: int
    end: int


@dataclass(frozen=True, slots=True)
class Literal(Node):
    """A string, a template or a number: one token."""

    token: Token


@dataclass(frozen=True, slots=True)
class Name(Node):
    """A name alone, ``true`` and ``null`` included; a fixed key, which stands for itself, behind a ``'``."""

    text: str


@dataclass(frozen=True, slots=True)
class Member(Node):
    """``of.name``, ``of?.name``, ``of[key]``."""

    of: Node
    key: Node
    optional: bool = False


@dataclass(frozen=True, slots=True)
class Call(Node):
    """``of(args)``, ``new of(args)``."""

    of: Node
    args: tuple[Node, ...]
    optional: bool = False


@dataclass(frozen=True, slots=True)
class Unary(Node):
    """``!of``, ``-of``, ``typeof of``; ``of++`` and ``of--`` as ``post++``, ``post--``."""

    sign: str
    of: Node


@dataclass(frozen=True, slots=True)
class Binary(Node):
    """Two operands and their operator."""

    sign: str
    left: Node
    right: Node


@dataclass(frozen=True, slots=True)
class Choice(Node):
    """``test ? yes : no``."""

    test: Node
    yes: Node
    no: Node


@dataclass(frozen=True, slots=True)
class Spread(Node):
    """``...of``."""

    of: Node


@dataclass(frozen=True, slots=True)
class ListOf(Node):
    """``[a, ...b]``."""

    items: tuple[Node, ...]


@dataclass(frozen=True, slots=True)
class ObjectOf(Node):
    """``{ a: 1, [k]: 2, ...b }``: a key is None for what is spread."""

    entries: tuple[tuple[Node | None, Node], ...]


@dataclass(frozen=True, slots=True)
class Pattern(Node):
    """What is declared: a name, or parts of what is given, each by its key; ``rest`` takes all others."""

    name: str = ""
    parts: tuple[tuple[str, Pattern], ...] = ()
    default: Node | None = None
    rest: bool = False


@dataclass(frozen=True, slots=True)
class Function(Node):
    """A function or arrow; its body is a block, or the expression that it gives."""

    params: tuple[Pattern, ...]
    body: Node
    name: str = ""


@dataclass(frozen=True, slots=True)
class Assign(Node):
    """``target = value``, ``target += value``."""

    sign: str
    target: Node
    value: Node


@dataclass(frozen=True, slots=True)
class Block(Node):
    """Statements one after another."""

    statements: tuple[Node, ...]


@dataclass(frozen=True, slots=True)
class Group(Node):
    """Statements that are one, without a block: ``const a = 1, b = 2``."""

    statements: tuple[Node, ...]


@dataclass(frozen=True, slots=True)
class Declare(Node):
    """``const a = 1``: what is declared, and what it is given."""

    pattern: Pattern
    value: Node | None


@dataclass(frozen=True, slots=True)
class If(Node):
    """``if (test) yes else no``."""

    test: Node
    yes: Node
    no: Node | None


@dataclass(frozen=True, slots=True)
class Switch(Node):
    """``switch (subject) { case a: …; default: … }``: a case without a test is the default."""

    subject: Node
    cases: tuple[tuple[Node | None, tuple[Node, ...]], ...]


@dataclass(frozen=True, slots=True)
class ForOf(Node):
    """``for (const a of list) body``."""

    pattern: Pattern
    over: Node
    body: Node


@dataclass(frozen=True, slots=True)
class Leave(Node):
    """``return value``, ``break``, ``continue``, ``throw``."""

    word: str
    value: Node | None = None


@dataclass(frozen=True, slots=True)
class Import(Node):
    """``import a, { b as c } from "module"``: names, each with what it is of the module (``default``, ``*``)."""

    names: tuple[tuple[str, str], ...]
    module: str


@dataclass(frozen=True, slots=True)
class Export(Node):
    """``export default value``, ``export const a = 1``, ``export { a as b } from "module"`` (``*`` for all of it).

    ``names`` are the names outside, each with what it is called inside; ``value`` is what is declared there, if any.
    """

    value: Node | None
    names: tuple[tuple[str, str], ...] = ()
    module: str = ""


@dataclass(frozen=True, slots=True)
class Unknown(Node):
    """A statement that is not read: nobody can tell what it does."""

    names: frozenset[str]


@dataclass(frozen=True)
class ScriptTree:
    """A script as statements."""

    source: Source
    statements: tuple[Node, ...]


def parse_script(data: bytes) -> ScriptTree:
    """Read a script; a statement that is not understood is :class:`Unknown`. Raises FormatError for open brackets."""
    source = Source.read(data)
    plain = [item for item in tokens(source.view, LANGUAGES[".ts"]) if item.kind != "newline"]
    refuse_unpaired(plain, source)
    reader = _Reader(_merged(plain), source.view)
    return ScriptTree(source, tuple(reader.statements("")))


def template_parts(source: Source, start: int, end: int) -> Node:
    """Read the expression of a template's ``${…}``. Raises Unread."""
    plain = [item for item in tokens(source.view, LANGUAGES[".ts"], start, end) if item.kind != "newline"]
    reader = _Reader(_merged(plain), source.view)
    node = reader.expression()
    if reader.at < len(reader.items):
        raise Unread
    return node


def _merged(found: Sequence[Token]) -> list[Token]:
    """Return tokens with operators of several marks as one token."""
    merged: list[Token] = []
    at = 0
    while at < len(found):
        token, end = found[at], at + 1
        if token.kind == "mark":
            text = token.text
            pieces = [text]
            while (
                end < len(found)
                and len("".join(pieces)) < 3
                and found[end].kind == "mark"
                and found[end].start == found[end - 1].end
            ):
                pieces.append(found[end].text)
                end += 1
            while len(pieces) > 1 and "".join(pieces) not in _OPERATORS:
                pieces.pop()
            end = at + len(pieces)
            text = "".join(pieces)
            if text in ("?:", "!!"):  # two marks that another language joins
                merged += [
                    token._replace(text=text[0], end=token.start + 1),
                    token._replace(text=text[1], start=token.start + 1),
                ]
            else:
                merged.append(token._replace(text=text, end=found[end - 1].end))
        else:
            merged.append(token)
        at = end
    return merged


def _names(pattern: Pattern) -> list[str]:
    """Return the names that a pattern declares."""
    own = [pattern.name] if pattern.name else []
    return [*own, *(name for _, part in pattern.parts for name in _names(part))]


def _beside(token: Token, other: Token) -> bool:
    return other.kind == "mark" and other.start == token.end


class _Reader:
    def __init__(self, items: Sequence[Token], view: str) -> None:
        self.items = items
        self.view = view
        self.at = 0
        self.depth = 0

    def peek(self, ahead: int = 0) -> str:
        at = self.at + ahead
        if at >= len(self.items):
            return ""
        token = self.items[at]
        return f"'{token.text}" if token.kind == "string" else token.text

    def step(self) -> Token:
        if self.at >= len(self.items):
            raise Unread
        self.at += 1
        return self.items[self.at - 1]

    def take(self, *texts: str) -> str:
        return self.step().text if self.peek() in texts and self.peek() else ""

    def need(self, text: str) -> None:
        if not self.take(text):
            raise Unread

    def here(self) -> int:
        return self.items[self.at].start if self.at < len(self.items) else self.end()

    def end(self) -> int:
        return self.items[self.at - 1].end if self.at else 0

    def close(self, at: int) -> int:
        """Return the index of the bracket that closes the one at an index. Raises Unread."""
        found = matching(self.items, at)
        if found >= len(self.items):
            raise Unread
        return found

    # -- statements

    def statements(self, end: str) -> list[Node]:
        """Read statements up to a closing brace, or all."""
        found: list[Node] = []
        while self.at < len(self.items) and not (end and self.peek() == end):
            begin, depth = self.at, self.depth
            try:
                found.append(self.statement())
            except Unread:
                self.at, self.depth = begin, depth
                found.append(self.unread(end))
            self.take(";")
        return found

    def unread(self, end: str) -> Node:
        """Step over a statement: to a semicolon, or a new line that begins with a word."""
        begin, names = self.at, set()
        while self.at < len(self.items) and self.peek() not in (";", end or ";"):
            token = self.items[self.at]
            fresh = self.at > begin and "\n" in self.view[self.items[self.at - 1].end : token.start]
            if fresh and token.kind == "name" and nesting(self.items[self.at - 1]) <= 0:
                break
            stop = min(matching(self.items, self.at), len(self.items) - 1) if nesting(token) > 0 else self.at
            names |= {item.text for item in self.items[self.at : stop + 1] if item.kind == "name"}
            self.at = stop + 1
        self.at = max(self.at, begin + 1)
        return Unknown(self.items[begin].start, self.end(), frozenset(names))

    def statement(self) -> Node:
        self.depth += 1
        if self.depth > _DEEPEST:
            raise Unread
        start, word = self.here(), self.peek()
        found = self._statement(start, word)
        self.depth -= 1
        return found

    def _statement(self, start: int, word: str) -> Node:
        if word == ";":
            self.step()
            return Block(start, start, ())
        if word == "{":
            return self.block()
        if word == "export":
            self.step()
            if self.take("default"):
                value = self.expression()
                return Export(start, self.end(), value, (("default", ""),))
            if self.peek() in ("{", "*") or (self.peek() == "type" and self.peek(1) == "{"):
                return self.exported(start)
            inner = self.statement()
            parts = inner.statements if isinstance(inner, Group) else (inner,)
            names = [name for part in parts if isinstance(part, Declare) for name in _names(part.pattern)]
            return Export(start, self.end(), inner, tuple((name, name) for name in names))
        if word == "import" and self.peek(1) not in ("(", "."):
            return self.imported(start)
        if word in _DECLARE:
            return self.declared(start)
        if (word in ("function", "async") and self.peek(1) in ("function", "*")) or word == "function":
            name = self.peek(2) if word == "async" else self.peek(1)
            value = self.function(start)
            return Declare(start, self.end(), Pattern(start, start, name), value)
        if word in ("interface", "declare", "type", "enum") and self.items[self.at + 1 : self.at + 2]:
            found = self.typed(start, word)
            if found is not None:
                return found
        if word == "if":
            return self.condition(start)
        if word == "switch":
            return self.switch(start)
        if word == "for":
            return self.loop(start)
        if word in ("return", "throw", "break", "continue"):
            self.step()
            fresh = "\n" in self.view[self.end() : self.here()]
            given = None if fresh or self.peek() in (";", "}", "") else self.expression()
            return Leave(start, self.end(), word, given)
        if word in ("while", "do", "try", "class", "with"):
            raise Unread
        return self.expression()

    def block(self) -> Block:
        start = self.here()
        self.need("{")
        found = self.statements("}")
        self.need("}")
        return Block(start, self.end(), tuple(found))

    def exported(self, start: int) -> Node:
        """Read what is passed on: ``{ a, b as c } from "module"``, ``* from "module"``."""
        self.take("type")
        names: list[tuple[str, str]] = []
        if self.take("*"):
            names.append((self.step().text if self.take("as") else "*", "*"))
        else:
            self.need("{")
            while not self.take("}"):
                self.take("type")
                inside = self.step().text
                names.append((self.step().text if self.take("as") else inside, inside))
                self.take(",")
        module = self.step().text.strip("\"'`") if self.take("from") else ""
        return Export(start, self.end(), None, tuple(names), module)

    def imported(self, start: int) -> Node:
        self.step()
        names: list[tuple[str, str]] = []
        self.take("type")
        token = self.step()
        while token.kind != "string" and token.text != "from":
            if token.text == "*":
                self.need("as")
                names.append((self.step().text, "*"))
            elif token.text == "{":
                while not self.take("}"):
                    self.take("type")
                    what = self.step().text
                    names.append((self.step().text if self.take("as") else what, what))
                    self.take(",")
            elif token.kind == "name":
                names.append((token.text, "default"))
            token = self.step()
        token = self.step() if token.text == "from" else token
        if self.take("with", "assert"):
            self.at = self.close(self.at) + 1
        return Import(start, self.end(), tuple(names), token.text.strip("\"'`"))

    def declared(self, start: int) -> Node:
        self.step()
        found: list[Node] = []
        while True:
            begin, pattern = self.here(), self.pattern(False)
            value = self.expression() if self.take("=") else None
            found.append(Declare(begin, self.end(), pattern, value))
            if not self.take(","):
                break
        return found[0] if len(found) == 1 else Group(start, self.end(), tuple(found))

    def typed(self, start: int, word: str) -> Node | None:
        """Read an enum as the object that it is; step over types. None where the word is a plain name."""
        if self.items[self.at + 1].kind != "name":
            return None
        self.step()
        if word == "declare":
            return self.unread("")
        name = self.step().text
        if word == "enum":
            self.need("{")
            entries: list[tuple[Node | None, Node]] = []
            while not self.take("}"):
                key = self.step()
                self.need("=")
                entries.append((Name(key.start, key.end, "'" + key.text.strip("\"'")), self.expression()))
                self.take(",")
            value = ObjectOf(start, self.end(), tuple(entries))
            return Declare(start, self.end(), Pattern(start, start, name), value)
        if word == "type":
            if self.peek() == "<":
                self.generics()
            self.need("=")
            self.type()
        else:
            while self.peek() != "{":
                self.step()
            self.at = self.close(self.at) + 1
        return Block(start, self.end(), ())

    def condition(self, start: int) -> Node:
        self.step()
        self.need("(")
        test = self.expression()
        self.need(")")
        yes = self.statement()
        self.take(";")
        no = self.statement() if self.take("else") else None
        return If(start, self.end(), test, yes, no)

    def switch(self, start: int) -> Node:
        self.step()
        self.need("(")
        subject = self.expression()
        self.need(")")
        self.need("{")
        cases: list[tuple[Node | None, tuple[Node, ...]]] = []
        while not self.take("}"):
            test = self.expression() if self.take("case") else None
            if test is None:
                self.need("default")
            self.need(":")
            inner: list[Node] = []
            while self.peek() not in ("case", "default", "}", ""):
                inner.append(self.statement())
                self.take(";")
            cases.append((test, tuple(inner)))
        return Switch(start, self.end(), subject, tuple(cases))

    def loop(self, start: int) -> Node:
        self.step()
        self.need("(")
        if not self.take(*_DECLARE):
            raise Unread
        pattern = self.pattern(False)
        self.need("of")
        over = self.expression()
        self.need(")")
        body = self.statement()
        return ForOf(start, self.end(), pattern, over, body)

    # -- patterns and types

    def pattern(self, defaults: bool = True) -> Pattern:
        """Read what is declared; with *defaults* a value may follow that counts where nothing is given."""
        start = self.here()
        rest = bool(self.take("..."))
        parts: list[tuple[str, Pattern]] = []
        name = ""
        if self.take("{"):
            while not self.take("}"):
                if self.peek() == "...":
                    parts.append(("", self.pattern()))
                else:
                    token = self.step()
                    key = token.text.strip("\"'")
                    if self.take(":"):
                        parts.append((key, self.pattern()))
                    else:
                        default = self.expression() if self.take("=") else None
                        parts.append((key, Pattern(token.start, self.end(), key, default=default)))
                self.take(",")
        elif self.take("["):
            while not self.take("]"):
                if self.peek() != ",":
                    parts.append((str(len(parts)), self.pattern()))
                elif not parts or self.items[self.at - 1].text in (",", "["):
                    parts.append((str(len(parts)), Pattern(start, start)))
                self.take(",")
        else:
            token = self.step()
            if token.kind != "name":
                raise Unread
            name = token.text
        self.take("?", "!")
        if self.take(":"):
            self.type()
        default = self.expression() if defaults and self.take("=") else None
        return Pattern(start, self.end(), name, tuple(parts), default, rest)

    def type(self) -> None:
        """Step over a type."""
        while True:
            while self.take("keyof", "typeof", "readonly", "|", "&"):
                pass
            token = self.step()
            if nesting(token) > 0:
                self.at = self.close(self.at - 1) + 1
                if token.text == "(" and self.take("=>"):
                    continue
            elif token.kind not in ("name", "string", "number"):
                raise Unread
            while self.peek() == "." or self.peek() == "[" or self.peek() == "<":
                if self.take("."):
                    self.step()
                elif self.peek() == "[":
                    self.at = self.close(self.at) + 1
                else:
                    self.generics()
            if self.take("is"):
                continue
            if not self.take("|", "&"):
                return

    def generics(self) -> None:
        """Step over ``<T, U>``."""
        depth = 0
        while True:
            text = self.step().text
            depth += {"<": 1, "<<": 2, ">": -1, ">>": -2, ">>>": -3}.get(text, 0)
            if depth <= 0:
                return

    # -- expressions

    def expression(self) -> Node:
        self.depth += 1
        if self.depth > _DEEPEST:
            raise Unread
        start = self.here()
        found = self.arrow(start)
        if found is None:
            found = self.choice(start)
            sign = self.peek()
            if sign in _ASSIGNS:
                self.step()
                value = self.expression()
                found = Assign(start, self.end(), sign, found, value)
        self.depth -= 1
        return found

    def choice(self, start: int) -> Node:
        found = self.binary(0)
        chain: list[tuple[int, Node, Node]] = []  # a choice of as many as there are brands
        while self.take("?"):
            yes = self.expression()
            self.need(":")
            chain.append((start, found, yes))
            start = self.here()
            other = self.arrow(start)
            found = self.binary(0) if other is None else other
        for start, test, yes in reversed(chain):
            found = Choice(start, self.end(), test, yes, found)
        return found

    def binary(self, weakest: int) -> Node:
        start = self.here()
        left = self.unary()
        while True:
            sign = self.peek()
            if sign in ("as", "satisfies"):
                self.step()
                if not self.take("const"):
                    self.type()
                continue
            level = _BINDS.get(sign, -1)
            if level < weakest or level < 0:
                return left
            self.step()
            right = self.binary(level + 1)
            left = Binary(start, self.end(), sign, left, right)

    def unary(self) -> Node:
        start, sign = self.here(), self.peek()
        if sign == "new":
            self.step()
            return self.postfix(self.atom())
        if sign in _PREFIXES:
            self.step()
            self.depth += 1
            if self.depth > _DEEPEST:
                raise Unread
            of = self.unary()
            self.depth -= 1
            return of if sign == "await" else Unary(start, self.end(), sign, of)
        return self.postfix(self.atom())

    def arrow(self, start: int) -> Node | None:
        """Read an arrow function; None where none begins here."""
        ahead = 1 if self.peek() == "async" and self.peek(1) != "=>" else 0
        at = self.at + ahead
        if self.peek(ahead) == "<":  # <T>(x: T) => …
            save, self.at = self.at, at
            try:
                self.generics()
                at = self.at
            except Unread:
                return None
            finally:
                self.at = save
        if at >= len(self.items):
            return None
        if self.items[at].text == "(":
            after = self.close(at) + 1
            text = self.items[after].text if after < len(self.items) else ""
            if text == ":":  # a type of what it gives, or the other side of a choice
                save = self.at
                self.at = after + 1
                try:
                    self.type()
                    text = self.peek()
                except Unread:
                    text = ""
                self.at = save
            if text != "=>":
                return None
            self.at = at
            params = self.params()
            if self.take(":"):
                self.type()
        elif self.items[at].kind == "name" and self.peek(ahead + 1) == "=>":
            self.at = at + 1
            token = self.items[at]
            params = (Pattern(token.start, token.end, token.text),)
        else:
            return None
        self.need("=>")
        body = self.block() if self.peek() == "{" else self.expression()
        return Function(start, self.end(), params, body)

    def params(self) -> tuple[Pattern, ...]:
        self.need("(")
        found: list[Pattern] = []
        while not self.take(")"):
            found.append(self.pattern())
            self.take(",")
        return tuple(found)

    def function(self, start: int) -> Node:
        self.take("async")
        self.need("function")
        self.take("*")
        name = self.step().text if self.peek() not in ("(", "<") else ""
        if self.peek() == "<":
            self.generics()
        params = self.params()
        if self.take(":"):
            self.type()
        body = self.block()
        return Function(start, self.end(), params, body, name)

    def atom(self) -> Node:
        start = self.here()
        if self.peek() in ("function", "async") and (self.peek() == "function" or self.peek(1) == "function"):
            return self.function(start)
        token = self.step()
        if token.kind in ("string", "number", "regex"):
            return Literal(token.start, token.end, token)
        if token.text == "(":
            inner = self.expression()
            self.need(")")
            return inner
        if token.text == "[":
            items: list[Node] = []
            while not self.take("]"):
                items.append(self.item())
                self.take(",")
            return ListOf(start, self.end(), tuple(items))
        if token.text == "{":
            return self.object(start)
        if token.kind != "name":
            raise Unread
        return Name(token.start, token.end, token.text)

    def item(self) -> Node:
        start = self.here()
        if self.take("..."):
            inner = self.expression()
            return Spread(start, self.end(), inner)
        return self.expression()

    def object(self, start: int) -> Node:
        entries: list[tuple[Node | None, Node]] = []
        while not self.take("}"):
            begin = self.here()
            if self.peek() == "...":
                entries.append((None, self.item()))
            elif self.take("["):
                key = self.expression()
                self.need("]")
                self.need(":")
                entries.append((key, self.expression()))
            else:
                token = self.step()
                getter = token.text == "get" and self.peek() not in (":", ",", "}", "(")
                token = self.step() if getter else token
                said = Name(token.start, token.end, "'" + token.text.strip("\"'"))
                if self.take(":"):
                    entries.append((said, self.expression()))
                elif self.peek() == "(":  # a method
                    params = self.params()
                    if self.take(":"):
                        self.type()
                    body = self.block()
                    value: Node = Function(begin, self.end(), params, body)
                    entries.append((said, Call(begin, self.end(), value, ()) if getter else value))
                elif self.peek() in (",", "}"):
                    entries.append((said, Name(token.start, token.end, token.text)))
                else:
                    raise Unread
            if self.peek() != "}":
                self.need(",")
        return ObjectOf(start, self.end(), tuple(entries))

    def postfix(self, node: Node) -> Node:
        start = node.start
        while True:
            mark = self.peek()
            if mark in (".", "?."):
                self.step()
                if self.peek() == "(":
                    args = self.args()
                    node = Call(start, self.end(), node, args, True)
                elif self.peek() == "[":
                    self.step()
                    key = self.expression()
                    self.need("]")
                    node = Member(start, self.end(), node, key, True)
                else:
                    token = self.step()
                    if token.kind != "name":
                        raise Unread
                    node = Member(
                        start, self.end(), node, Name(token.start, token.end, f"'{token.text}"), mark == "?."
                    )
            elif mark == "[":
                self.step()
                key = self.expression()
                self.need("]")
                node = Member(start, self.end(), node, key)
            elif mark == "(":
                args = self.args()
                node = Call(start, self.end(), node, args)
            elif mark == "!" and self.peek(1) != "=" and "\n" not in self.view[self.end() : self.here()]:
                self.step()
            elif mark in ("++", "--") and "\n" not in self.view[self.end() : self.here()]:
                self.step()
                node = Unary(start, self.end(), f"post{mark}", node)
            elif mark == "<" and self.is_generic():
                self.generics()
            else:
                return node

    def is_generic(self) -> bool:
        """Tell ``f<T>(x)`` from a comparison."""
        at, depth = self.at, 0
        while at < len(self.items) and (
            self.items[at].kind in ("name", "string") or self.items[at].text in "<>,[]|."
        ):
            depth += (self.items[at].text == "<") - (self.items[at].text == ">")
            at += 1
            if not depth:
                return at < len(self.items) and self.items[at].text == "("
        return False

    def args(self) -> tuple[Node, ...]:
        self.need("(")
        found: list[Node] = []
        while not self.take(")"):
            found.append(self.item())
            self.take(",")
        return tuple(found)
