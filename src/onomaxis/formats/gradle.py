"""The block reader for Gradle build scripts, Groovy and Kotlin alike.

A script becomes a tree of statements: blocks (``android { … }``, ``create("free") { … }``), settings in every
ordinary spelling (``x "v"``, ``x = "v"``, ``x("v")``, ``setX("v")``, ``x.set("v")``) and declarations
(``val x = …``, ``def x = …``, ``ext { x = … }``). What a value means is left to the caller.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

from onomaxis.formats.gradle_expressions import CONTINUES, LEADS
from onomaxis.formats.gradle_statements import (
    BRANCHES,
    CREATORS,
    Setting,
    Statement,
    followed,
    literal_text,
    settings_of,
)
from onomaxis.formats.lexer import (
    BRACKETS,
    GROOVY,
    KOTLIN,
    Region,
    Token,
    item_end,
    items_of,
    level_of,
    nesting,
    refuse_unpaired,
    tokens,
)
from onomaxis.formats.source import Source, remembered

_DECLARE = {"val", "var", "def", "const", "final", "String", "int", "Integer", "private", "internal", "public"}
# Delegates that make an item of a container, or open one, and the call that each stands for.
_MAKERS = {"creating": "create", "registering": "register", "getting": "getByName", "existing": "named"}
_DEEPEST = 60
_OPERATORS = frozenset({"+", "-", "*", "/", "%", "?:", "?", "&&", "||", "==", "!=", "<", ">", "<<"})
# Settings of one value: what is added to one is not the value.
_ONE_VALUE = frozenset({"applicationId", "applicationIdSuffix", "versionName", "versionNameSuffix", "versionCode"})


@dataclass(frozen=True)
class Script:
    """A parsed build script."""

    source: Source
    statements: tuple[Statement, ...]
    kotlin: bool

    @cached_property
    def settings(self) -> tuple[Setting, ...]:
        """Every setting and declaration with its path, in file order."""
        return tuple(settings_of((), self.statements, False))

    def blocks(self, *path: str) -> Iterator[Statement]:
        """Yield the blocks reached by following names, dotted ones (``android.buildTypes { }``) taken apart."""
        yield from followed(self.statements, path)


class _Reader:
    def __init__(self, items: Sequence[Token]) -> None:
        self.items = items
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
        stack = [BRACKETS[opening.text]]
        begin = self.at + 1
        self.at += 1
        while stack and self.at < len(self.items):
            text = self.items[self.at].text if self.items[self.at].kind == "mark" else ""
            if text in BRACKETS:
                stack.append(BRACKETS[text])
            elif text == stack[-1]:
                stack.pop()
            self.at += 1
        return list(self.items[begin : self.at - 1 if not stack else self.at])

    def params(self) -> tuple[str, ...]:
        """Read the names that a closure begins with (``a, b ->``, ``(a, b) ->``), if it begins so."""
        ahead, names = 0, []
        while (token := self.peek(ahead)) and (
            token.kind in ("name", "newline") or token.text in (",", "(", ")", ":")
        ):
            before = self.peek(ahead - 1) if ahead else None
            if token.kind == "name" and not (before and (before.text == ":" or before.kind == "name")):
                names.append(token.text)
            elif token.kind == "name" and before and before.kind == "name":  # a type before the name
                names[-1:] = [token.text]
            if token.kind == "newline" and names:
                return ()
            ahead += 1
        if token is None or token.text != "->" or not names:
            return ()
        self.at += ahead + 1
        return tuple(names)

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
            if token.kind == "mark" and token.text in BRACKETS:
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
        if before and before.text in CONTINUES and before.kind in ("mark", "name"):
            return True
        ahead = self.at
        while ahead < len(self.items) and self.items[ahead].kind == "newline":
            ahead += 1
        return ahead < len(self.items) and self.items[ahead].text in LEADS

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
            maker, opening = self.peek(), self.peek(1)
            if maker and maker.text in _MAKERS and opening and opening.text == "{":
                self.at += 1  # val x by creating { … }: an item of a container, called as the value
                text = name.text.strip("`")
                called = Token("string", name.start, name.end, f'"{text}"', (Region("string", name.start, name.end),))
                return self.after_head(_MAKERS[maker.text], self.items[save], conditional, 0, [called])
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
        if token.text in ("[", "(") or token.kind == "number":
            done = self.done_with(token, conditional, depth)
            if done is not None:
                return done
        if token.kind == "string" and (after := self.peek(1)) and after.text == "{" and after.kind == "mark":
            self.at += 1  # a named container's item by its quoted name: "free" { … }
            return self.after_head("", token, conditional, depth, [token])
        if token.kind != "name":
            self.value()
            return Statement("other", "", token.start)
        if token.text in BRANCHES:
            found = self.branch(token, depth)
            found.outer = conditional
            return found
        if token.text in _DECLARE:
            declared = self.declaration(token.start, conditional)
            if declared:
                return declared
        name = self.head()
        generic = self.skip_generics()
        if generic.endswith("Extension") and name.split(".")[-1] in ("configure", "the", "getByType"):
            name = "android"
        return self.after_head(name, token, conditional, depth)

    def done_with(self, token: Token, conditional: bool, depth: int) -> Statement | None:
        """Read what is done with each of several values: ``[a].each { … }``, ``(1..3).findAll { … }.each { … }``."""
        begin = self.at
        args = self.group() if nesting(token) > 0 else []
        self.at += not args and token.kind == "number"
        while (follow := self.peek()) and (named := self.peek(1)):
            if follow.text in (".", "?.") and named.kind == "name":
                self.at += 2
                brace = self.peek()
                if brace and brace.text == "{" and not self._goes_on_behind():
                    return self.after_head(f"[].{named.text}", token, conditional, depth, args)
            elif follow.text in ("(", "{"):
                self.group()
            else:
                break
        self.at = begin
        return None

    def _goes_on_behind(self) -> bool:
        """Tell whether something is done with what a closure gives that begins here."""
        begin = self.at
        self.group()
        follow, self.at = self.peek(), begin
        return bool(follow and follow.text in (".", "?."))

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
            if len(args) > 2 and args[0].text == "name" and args[1].text == "=":
                args = args[2:]  # an argument by its name
            follow = self.peek()
            if follow and follow.text in (".", "?."):
                return self._chain(name, args, token, conditional, depth)
            if not follow or follow.text != "{":
                rest = self.value()
                if rest and rest[0].text in _OPERATORS:  # x(1) + 2 sets x to 1
                    rest = []
                return Statement("set", name, token.start, args, [*args, *rest], conditional=conditional)
        if follow and follow.text == "{" and depth < _DEEPEST:
            start = follow.end
            self.at += 1
            params = self.params()
            children = self.statements(conditional, True, depth + 1)
            end = self.items[self.at - 1].start
            return Statement(
                "block",
                name,
                token.start,
                args,
                children=_bare(children, params),
                conditional=conditional,
                body=(start, end),
                params=params,
            )
        if follow and follow.text in ("=", "+="):
            self.at += 1
            conditional = conditional or (follow.text == "+=" and name.rpartition(".")[2] in _ONE_VALUE)
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
        if CREATORS.intersection(name.split(".")) and "=" in [item.text for item in rest]:
            self.at = save + 1  # create("x").key = value
            only = Statement("set", self.head(), token.start, conditional=conditional)
            if (follow := self.peek()) and follow.text == "=":
                self.at += 1
                only.value = self.value()
                return Statement("block", name, token.start, args, children=[only], conditional=conditional)
            self.at = save
            rest = self.value()
        return Statement("set", name, token.start, args, [*args, *rest], conditional=conditional)

    def branch(self, token: Token, depth: int) -> Statement:
        self.at += 1
        follow = self.peek()
        asked = self.group() if follow and follow.text == "(" else []
        self.skip_newlines()
        follow = self.peek()
        children: list[Statement] = []
        if follow and follow.text == "{" and token.text in ("switch", "when") and depth < _DEEPEST:
            children = _chain(asked, _cases(self.group(), token.text == "switch", depth + 1))
        elif follow and follow.text == "{" and depth < _DEEPEST:
            self.at += 1
            children = self.statements(token.text not in ("try", "finally"), True, depth + 1)
        elif follow and follow.kind in ("name", "string") and follow.text not in BRANCHES:
            before = self.at
            child = self.statement(True, depth + 1)
            children = [child] if child else []
            if child:
                child.end = self.ended(before)
        return Statement("block", token.text, token.start, asked, children=children, conditional=True)


class _Case(NamedTuple):
    """A case: its tests, none for what is taken otherwise; ``whole`` tells that it does not go on in the next one."""

    start: int
    tests: list[tuple[Token, ...]]
    body: list[Statement]
    whole: bool


def _cases(found: list[Token], switch: bool, depth: int) -> Iterator[_Case]:
    """Yield the cases between the braces of a ``switch`` or a ``when``."""
    labels = [at for at in level_of(found) if found[at].kind == "name" and found[at].text in ("case", "default")]
    reader = _Reader(found)
    tests: list[tuple[Token, ...]] = []
    while True:
        reader.skip_newlines()
        start = reader.at
        end = item_end(found, start, (":",) if switch else ("->",))
        if end >= len(found):
            return
        label = found[start + switch : end]
        otherwise = not label or label[0].text == "else"
        tests += [] if otherwise else items_of(label)
        reader.at = end + 1
        if not switch:
            braced = (follow := reader.peek()) and follow.text == "{"
            reader.at += bool(braced)
            only = None if braced else reader.statement(True, depth)
            body = reader.statements(True, True, depth) if braced else [only] if only else []
            yield _Case(found[start].start, tests, body, True)
        else:
            stop = next((at for at in labels if at > end), len(found))
            inner = found[end + 1 : stop]
            reader.at = stop
            body = _Reader(inner).statements(True, False, depth)
            if not body and not otherwise and stop < len(found):
                continue  # case 'a': case 'b': …
            breaks = [token.text for token in inner if token.kind == "name"].count("break")
            ends = breaks == 1 and bool(body) and body[-1].name == "break"
            whole = ends or (stop >= len(found) and not breaks)
            yield _Case(found[start].start, tests, [item for item in body if item.name != "break"], whole)
        tests = []


def _chain(subject: list[Token], found: Iterator[_Case]) -> list[Statement]:
    """Return cases as a chain of ``if`` and ``else``; without conditions where one goes on in the next."""
    cases = list(found)
    plain = all(case.whole and case.tests for case in cases[:-1]) and all(case.whole for case in cases)
    chain: list[Statement] = []
    for number, case in enumerate(cases):
        at = case.start
        asked: list[Token] = []
        for test in case.tests if plain else ():
            asked += [Token("mark", at, at, "||")] if asked else []
            sign = [] if test[:1] and test[0].text in ("in", "!", "is") else [Token("mark", at, at, "==")]
            asked += [*subject, *sign, *test] if subject else test
        if number:
            chain.append(Statement("block", "else", at, conditional=True, end=at + len("else")))
        if number and plain and not case.tests:
            chain[-1].children, chain[-1].end = case.body, at + len("default")
        else:
            chain.append(Statement("block", "if", at, asked, children=case.body, conditional=True, end=at))
    return chain


def _bare(children: list[Statement], params: tuple[str, ...]) -> list[Statement]:
    """Take a closure's name for what it is called with off the settings in it: ``it.x``, ``this.x``, ``f.x``."""
    prefixes = {"this.", "it." if not params else f"{params[0]}."} if len(params) < 2 else {"this."}
    for child in children:
        prefix = next((item for item in prefixes if child.name.startswith(item)), "")
        child.name = child.name[len(prefix) :]
        if child.conditional:  # what stands below an ``if`` is still said of what the closure is called with
            _bare(child.children, params)
    return children


def read_statements(found: Sequence[Token]) -> list[Statement]:
    """Return the statements that the tokens of a body hold."""
    return _Reader(found).statements(False, False)


@remembered(64, 1 << 18)
def parse_gradle(data: bytes, kotlin: bool) -> Script:
    """Parse a build script: what is not understood becomes an ``other`` statement.

    Raises FormatError with the line for a string or a bracket that does not close.
    """
    source = Source.read(data)
    reader = _Reader(tokens(source.view, KOTLIN if kotlin else GROOVY))
    refuse_unpaired(reader.items, source)
    return Script(source, tuple(reader.statements(False, False)), kotlin)
