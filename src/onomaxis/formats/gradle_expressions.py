"""Expressions of build scripts, Groovy and Kotlin alike, as trees; and how a body falls into statements.

Source: docs.groovy-lang.org, "Operators"; kotlinlang.org, "Grammar" (precedence of operators, calls with a closure).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from onomaxis.formats.lexer import Token, items_of, matching

# Operators that let an expression go on in the next line when they end or start one.
CONTINUES = frozenset({"+", "-", "*", ".", "?.", "?:", ",", "=", "(", "[", "&&", "||", "->", "as", "/", "?", ":"})
LEADS = frozenset({".", "?.", "?:", "&&", "||", "?"})
_BINARY = (
    ("?:",),
    ("||",),
    ("&&",),
    ("==", "!="),
    ("<", ">", "<=", ">=", "in", "is", "instanceof", "!in", "!is"),
    ("to",),
    ("..", "until"),
    ("<<",),
    ("+", "-"),
    ("*", "/", "%"),
)
_BINDS = {sign: level for level, signs in enumerate(_BINARY) for sign in signs}
_LONGEST = 300
_DEEPEST = 60


class Unread(Exception):
    """The tokens are no expression that is read here."""


@dataclass(frozen=True, slots=True)
class Literal:
    """A string or a number: one token."""

    token: Token


@dataclass(frozen=True, slots=True)
class Name:
    """A name alone, ``true`` and ``null`` included."""

    text: str


@dataclass(frozen=True, slots=True)
class Member:
    """``of.name``; the dot may be a safe one, or ask every item of a list (``of*.name``)."""

    of: Node
    name: str
    spread: bool = False


@dataclass(frozen=True, slots=True)
class Index:
    """``of[key]``."""

    of: Node
    key: Node


@dataclass(frozen=True, slots=True)
class Call:
    """``of.name(args)``, ``name(args)``, ``name { }``: arguments by place and by name; a closure is the last one."""

    of: Node | None
    name: str
    args: tuple[Node, ...]
    named: tuple[tuple[str, Node], ...] = ()
    spread: bool = False


@dataclass(frozen=True, slots=True)
class Binary:
    """Two operands and their operator; a cast or ``!!`` leaves no trace."""

    sign: str
    left: Node
    right: Node


@dataclass(frozen=True, slots=True)
class Not:
    """``!of``."""

    of: Node


@dataclass(frozen=True, slots=True)
class Step:
    """``of++``, ``--of``: a variable counted up or down (``by``), before its value is taken or after (``first``)."""

    of: Node
    by: int
    first: bool


@dataclass(frozen=True, slots=True)
class Choice:
    """``test ? yes : no``, ``if (test) yes else no``."""

    test: Node
    yes: Node
    no: Node


@dataclass(frozen=True, slots=True)
class Cases:
    """``when (subject) { a, b -> x; else -> y }``: without a subject each case is a condition."""

    subject: Node | None
    cases: tuple[tuple[tuple[Node, ...], Node], ...]


@dataclass(frozen=True, slots=True)
class ListOf:
    """``[a, b]``."""

    items: tuple[Node, ...]


@dataclass(frozen=True, slots=True)
class MapOf:
    """``[a: b]``: a key is an expression where it stands in parentheses, else what it says."""

    entries: tuple[tuple[Node, Node], ...]


@dataclass(frozen=True, slots=True)
class Block:
    """A closure or a function: its parameters, the tokens of its body, what parameters are where none is given."""

    params: tuple[str, ...]
    body: tuple[Token, ...]
    defaults: tuple[tuple[str, tuple[Token, ...]], ...] = ()


Node = Literal | Name | Member | Index | Call | Binary | Not | Step | Choice | Cases | ListOf | MapOf | Block


def read_expression(found: Sequence[Token]) -> Node:
    """Return what tokens say as a whole. Raises Unread where they are no expression, or more than one."""
    reader = Reader(found)
    node = reader.expression()
    if reader.peek():
        raise Unread
    return node


class Reader:
    """Reads one expression after another from tokens; line ends count inside of closures alone."""

    def __init__(self, found: Sequence[Token]) -> None:
        self.items = found
        self.at = 0
        self.depth = 0

    def token(self, ahead: int = 0) -> Token | None:
        """Return the token that comes next, or one behind it."""
        at = self.at
        while True:
            while at < len(self.items) and self.items[at].kind == "newline":
                at += 1
            if at >= len(self.items):
                return None
            if not ahead:
                return self.items[at]
            ahead, at = ahead - 1, at + 1

    def peek(self, ahead: int = 0) -> str:
        """Return the text of what comes next, nothing at the end."""
        token = self.token(ahead)
        return "" if token is None else f"'{token.text}" if token.kind == "string" else token.text

    def step(self) -> Token:
        """Return the next token and go behind it. Raises Unread at the end."""
        token = self.token()
        if token is None:
            raise Unread
        while self.items[self.at] is not token:
            self.at += 1
        self.at += 1
        return token

    def take(self, *texts: str) -> str:
        """Go behind the next token if it is one of these; return it, or nothing."""
        return self.step().text if self.peek() in texts else ""

    def need(self, text: str) -> None:
        """Go behind a token that must come. Raises Unread."""
        if not self.take(text):
            raise Unread

    def expression(self) -> Node:
        """Read an expression. Raises Unread."""
        self.depth += 1
        if self.depth > _DEEPEST:
            raise Unread
        try:
            return self.choice()
        finally:
            self.depth -= 1

    def choice(self) -> Node:
        test = self.binary(0)
        if not self.take("?"):
            return test
        yes = self.expression()
        self.need(":")
        return Choice(test, yes, self.expression())

    def sign(self) -> str:
        """Return the operator that comes next, nothing where none does; ``<=`` and ``>=`` are two tokens."""
        text = self.peek()
        if text == "!" and self.peek(1) in ("in", "is"):
            return f"!{self.peek(1)}"
        return text + "=" if text in ("<", ">") and self.peek(1) == "=" else text

    def binary(self, weakest: int) -> Node:
        """Read operands and the operators between them that bind at least as strongly as a level."""
        left = self.unary()
        for _ in range(_LONGEST):
            sign = self.sign()
            level = _BINDS.get(sign, -1)
            if level < weakest:
                return left
            for _ in range(2 if sign in ("<=", ">=", "!in", "!is") else 1):
                self.step()
            if sign in ("==", "!="):
                self.take("=")  # Kotlin's identity
            right = self.binary(level + (sign != "?:"))
            left = Binary(sign, left, right)
        raise Unread

    def unary(self) -> Node:
        if self.take("!"):
            return Not(self.unary())
        if self.peek() in _STEPS:
            by = _STEPS[self.step().text]
            return Step(self.unary(), by, True)
        if self.take("-"):
            return Binary("-", Literal(Token("number", 0, 0, "0")), self.unary())
        if self.peek() == "(" and self.peek(1) in _CASTS and self.peek(2) == ")" and self.peek(3) not in _ENDS:
            for _ in range(3):  # (String) x
                self.step()
            return self.unary()
        return self.postfix(self.atom())

    def atom(self) -> Node:
        token = self.step()
        if token.kind in ("string", "number", "regex"):
            return Literal(token)
        if token.text == "(":
            inner = self.expression()
            self.need(")")
            return inner
        if token.text == "[":
            return self.collection()
        if token.text == "{":
            return self.block()
        if token.kind != "name":
            raise Unread
        if token.text == "new":
            token = self.step()
        if token.text == "if":
            return self.branches()
        if token.text == "when":
            return self.when()
        text = token.text.strip("`")
        if self.generics():
            return self.call(None, text) if self.peek() == "(" else Name(text)
        return self.call(None, text) if self.peek() in ("(", "{") else Name(text)

    def generics(self) -> bool:
        """Step over ``<String, Any>`` before a call; nothing is stepped over where it is a comparison."""
        if self.peek() != "<":
            return False
        ahead, depth = 0, 0
        while True:
            token = self.token(ahead)
            if token is None or not (token.kind == "name" or token.text in "<>,?*."):
                return False
            depth += (token.text == "<") - (token.text == ">")
            ahead += 1
            if not depth:
                break
        if self.peek(ahead) not in ("(", "{", ")", "?", ""):
            return False
        for _ in range(ahead):
            self.step()
        return True

    def branches(self) -> Node:
        """Read what follows ``if``: a choice with both of its sides."""
        self.need("(")
        test = self.expression()
        self.need(")")
        yes = self.side()
        self.need("else")
        return Choice(test, yes, self.side())

    def side(self) -> Node:
        if self.take("{"):
            inner = self.expression()
            self.need("}")
            return inner
        return self.expression()

    def when(self) -> Node:
        subject = None
        if self.take("("):
            subject = self.expression()
            self.need(")")
        self.need("{")
        cases = []
        while not self.take("}"):
            tests: list[Node] = []
            if not self.take("else"):
                tests.append(self.expression())
                while self.take(","):
                    tests.append(self.expression())
            self.need("->")
            cases.append((tuple(tests), self.side()))
            self.take(";")
        return Cases(subject, tuple(cases))

    def collection(self) -> Node:
        """Read a list or a map behind its bracket."""
        if self.peek() == ":" and self.peek(1) == "]":
            self.step()
            self.step()
            return MapOf(())
        items: list[Node] = []
        entries: list[tuple[Node, Node]] = []
        while not self.take("]"):
            bare = self.token()
            item = self.expression()
            if self.take(":"):
                key = Literal(bare) if isinstance(item, Name) and bare and bare.text != "(" else item
                entries.append((key, self.expression()))
            else:
                items.append(item)
            if self.peek() != "]":
                self.need(",")
        if items and entries:
            raise Unread
        return MapOf(tuple(entries)) if entries else ListOf(tuple(items))

    def block(self) -> Block:
        """Read a closure behind its brace."""
        close = matching(self.items, self.at - 1)
        body = self.items[self.at : close]
        self.at = close + 1
        params, rest = parameters(body)
        return Block(params, tuple(rest))

    def postfix(self, node: Node) -> Node:
        while True:
            mark = self.peek()
            if mark == "!!" or (mark == "!" and self.peek(1) == "!"):
                self.step()
            elif mark == "as":
                self.step()
                self.take("?")
                self.type_name()
            elif mark in (".", "?.") or (mark == "*" and self.peek(1) == "."):
                spread = bool(self.take("*"))
                self.step()
                name = self.step()
                if name.kind not in ("name", "string"):
                    raise Unread
                text = name.text.strip("`'\"")
                self.generics()
                called = self.peek() in ("(", "{")
                node = self.call(node, text, spread) if called else Member(node, text, spread)
            elif mark in _STEPS and self.items[self.at].kind != "newline":
                node = Step(node, _STEPS[self.step().text], False)
            elif mark == "[" and self.items[self.at].kind != "newline":
                self.step()
                node = Index(node, self.expression())
                self.need("]")
            else:
                return node

    def type_name(self) -> None:
        """Step over ``String``, ``Map<String, Any>?``, ``java.util.Map``."""
        self.step()
        while self.take("."):
            self.step()
        depth = 0
        while self.peek() == "<" or depth:
            depth += {"<": 1, ">": -1}.get(self.step().text, 0)
        if self.peek() == "?" and self.peek(1) in (*_ENDS, ".", "?."):
            self.step()

    def call(self, of: Node | None, name: str, spread: bool = False) -> Node:
        """Read the arguments of a call, in parentheses or not, and a closure behind them."""
        args: list[Node] = []
        named: list[tuple[str, Node]] = []
        if self.take("("):
            while not self.take(")"):
                if self.peek(1) in ("=", ":") and self.peek(2) != "=":
                    label = self.step().text
                    self.step()
                    named.append((label, self.expression()))
                else:
                    args.append(self.expression())
                if self.peek() != ")":
                    self.need(",")
        if self.at < len(self.items) and self.items[self.at].text == "{" and self.items[self.at].kind == "mark":
            self.step()
            args.append(self.block())
        return Call(of, name, tuple(args), tuple(named), spread)


_STEPS = {"++": 1, "--": -1}
_HEADS = frozenset({"if", "for", "while", "switch", "when"})
_CASTS = frozenset({"String", "int", "Integer", "long", "Long", "boolean", "Map", "List", "Object", "def"})
_ENDS = frozenset({"", ")", "]", "}", ",", ";", ":", "+", "-", "*", "/", "?:", "&&", "||", "==", "!="})


def parameters(body: Sequence[Token]) -> tuple[tuple[str, ...], Sequence[Token]]:
    """Return the names that a closure begins with, and the rest of its body; ``it`` where it names none."""
    ends = (at for at, token in enumerate(body) if token.text in ("->", "{", "}", ";", "=") or token.kind == "string")
    arrow = next(ends, None)
    if arrow is None or body[arrow].text != "->":
        return ("it",), body
    head = [token for token in body[:arrow] if token.text not in ("(", ")")]
    return parameter_names(head), body[arrow + 1 :]


def parameter_names(found: Sequence[Token]) -> tuple[str, ...]:
    """Return the names of parameters: ``String name``, ``name``, ``name: String = "x"``."""
    names = []
    for items in items_of(found):
        end = next((at for at, token in enumerate(items) if token.text in (":", "=")), len(items))
        if end:
            names.append(items[end - 1].text.strip("`"))
    return tuple(names)


def parameter_defaults(found: Sequence[Token]) -> tuple[tuple[str, tuple[Token, ...]], ...]:
    """Return what parameters are where nothing is given for them: ``name: String = "x"``."""
    split = (
        (items, next((at for at, token in enumerate(items) if token.text == "="), 0)) for items in items_of(found)
    )
    return tuple((parameter_names(items[:at])[0], items[at + 1 :]) for items, at in split if at)


def statements_of(found: Sequence[Token]) -> list[tuple[int, int]]:
    """Return where each statement of a body begins and ends: with a line that does not go on, or at ``;``."""
    spans: list[tuple[int, int]] = []
    at = start = 0
    while at <= len(found):
        token = found[at] if at < len(found) else None
        if (
            token is None
            or (token.kind == "mark" and token.text == ";")
            or (token.kind == "newline" and not _goes_on(found, start, at))
        ):
            if any(item.kind != "newline" for item in found[start:at]):
                spans.append((start, at))
            start = at + 1
        at = matching(found, at) + 1 if token is not None and token.kind == "mark" and token.text in "([{" else at + 1
    return spans


def _first(found: Sequence[Token], start: int) -> Token:
    while found[start].kind == "newline":
        start += 1
    return found[start]


def _opens(found: Sequence[Token], start: int, at: int) -> bool:
    """Tell whether the parenthesis before *at* is the one that a statement's head begins with."""
    opening = next((index for index in range(start, at) if found[index].text == "("), at)
    return matching(found, opening) == at - 1


def _goes_on(found: Sequence[Token], start: int, at: int) -> bool:
    before = found[at - 1] if at > start else None
    if before is None or before.kind == "newline":
        return before is None
    if before.text in CONTINUES and before.kind in ("mark", "name"):
        return True
    if before.text == "else" or (
        _first(found, start).text in _HEADS and before.text == ")" and _opens(found, start, at)
    ):
        return True  # what a condition decides may stand on the next line
    while at < len(found) and found[at].kind == "newline":
        at += 1
    return at < len(found) and (found[at].text in LEADS or found[at].text == "else") and found[at].kind != "string"
