"""What the expressions of a build script come to.

Names are asked of whoever knows them (:class:`~onomaxis.projects.android.scope.Names`). What is not followed raises
:class:`Unknown`: nothing is guessed.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

from onomaxis import late
from onomaxis.formats.escapes import decode
from onomaxis.formats.gradle_expressions import (
    Binary,
    Block,
    Call,
    Cases,
    Choice,
    Index,
    ListOf,
    Literal,
    MapOf,
    Member,
    Name,
    Node,
    Not,
    Step,
    Unread,
    read_expression,
)
from onomaxis.formats.lexer import GROOVY, KOTLIN, Given, Region, Token, tokens
from onomaxis.model import Piece, Place
from onomaxis.projects.android import script_calls
from onomaxis.projects.android.scope import NotSet, ScriptFile, Unknown
from onomaxis.projects.android.script_data import (
    MOST_PIECES,
    Data,
    File,
    Function,
    Host,
    Names,
    Nothing,
    Scope,
    Table,
    Text,
    added,
    as_string,
    computed,
    grown,
    joined,
    number_of,
    same,
    sure,
    table_of,
    text_of,
    told,
    truth,
)
from onomaxis.projects.project import place

# What scripts and functions ask for properties, files, providers.
HOLDERS = frozenset(
    {
        "project",
        "rootProject",
        "ext",
        "extra",
        "this",
        "properties",
        "gradle",
        "parent",
        "providers",
        "layout",
        "settings",
    }
)
_TYPES = frozenset({"Boolean", "Integer", "Long", "Int", "String", "System", "JsonParser"})
_FOLDERS = frozenset({"projectDir", "rootDir", "projectDirectory"})
_SIMPLE = {
    "kotlin": late.compile(r"(?<!\\)\$([A-Za-z_]\w*)", re.ASCII),
    "groovy": late.compile(r"(?<!\\)\$([A-Za-z_]\w*(?:\.[A-Za-z_]\w*)*)", re.ASCII),
}


class Evaluator:
    """Evaluates expressions of one script, with the variables that are seen where they stand."""

    def __init__(self, names: Names, file: ScriptFile, scope: Scope | None = None) -> None:
        self.names = names
        self.file = file
        self.scope = scope

    def of_tokens(self, found: Sequence[Token]) -> Data:
        """Return what tokens come to as a whole. Raises Unknown."""
        if not found:
            raise Unknown("the expression is empty")
        try:
            node = read_expression(found)
        except Unread:
            text = self.file.script.source.text(found[0].start, found[-1].end)
            raise Unknown(f"“{text}” is computed when the build runs") from None
        return self.of(node)

    def of(self, node: Node) -> Data:
        """Return what an expression comes to. Raises Unknown."""
        self.names.enter()
        try:
            return self._of(node)
        finally:
            self.names.leave()

    def _of(self, node: Node) -> Data:
        match node:
            case Literal():
                return self.literal(node)
            case Name():
                return self.name(node)
            case Member():
                return self.member(node)
            case Index():
                return self.index(node)
            case Call():
                return self.call(node)
            case Binary():
                return self.binary(node)
            case Not():
                return not truth(self.of(node.of))
            case Step():
                return self.counted(node)
            case Choice():
                return self.of(node.yes if truth(self.of(node.test)) else node.no)
            case Cases():
                return self.cases(node)
            case ListOf():
                return [self.later(item) for item in node.items]
            case MapOf():
                return table_of([[self.of(key), self.later(value)] for key, value in node.entries])
            case Block():
                return Function(node, self.file, self.scope, self.names)

    def holds(self, found: Sequence[Token]) -> bool:
        """Tell whether a condition holds that decides over statements. Raises Unknown."""
        self.names.weigh(1)
        try:
            return truth(self.of_tokens(found))
        finally:
            self.names.weigh(-1)

    # -- literals

    def literal(self, node: Literal) -> Data:
        token = node.token
        if token.kind == "number" and token.parts:  # it stands elsewhere
            return Text(tuple(_elsewhere(part) for part in token.parts if isinstance(part, Given)), True, token=token)
        if token.kind == "number":
            digits = token.text.replace("_", "").rstrip("lLiIgG")
            if not re.fullmatch(r"(?:0|[1-9]\d*)(?:\.\d+)?", digits, re.ASCII):
                raise Unknown(f"the number “{token.text}” is not read")
            return Text((Piece(digits, self.place(token.start, token.end, "number")),), True, token=token)
        if token.kind != "string":  # a key without quotes, a pattern
            return replace(computed(token.text.strip("/`")), token=as_string(token))
        pieces: list[Piece] = []
        for part in token.parts:
            if isinstance(part, Region):
                pieces.extend(self.stretch(part))
            elif isinstance(part, Given):
                pieces.append(_elsewhere(part))
            else:
                language = KOTLIN if self.file.script.kotlin else GROOVY
                inner = tokens(self.file.script.source.view, language, *part)
                pieces.extend(text_of(self.of_tokens(inner)).pieces)
        kept = tuple(piece for piece in pieces if piece.text)
        plain = len(kept) < 2 and all(isinstance(part, Region | Given) for part in token.parts)
        return Text(kept or self.empty(token), token=token if plain else None)

    def empty(self, token: Token) -> tuple[Piece, ...]:
        part = token.parts[0] if token.parts else None
        return (self.piece(part),) if isinstance(part, Region) else ()

    def place(self, start: int, end: int, syntax: str) -> Place:
        return place(self.file.path, self.file.script.source, start, end, syntax)

    def piece(self, part: Region) -> Piece:
        written = self.file.script.source.text(part.start, part.end)
        return Piece(decode(part.syntax, written), self.place(part.start, part.end, part.syntax))

    def stretch(self, part: Region) -> list[Piece]:
        """Split a literal stretch at ``$name`` references."""
        if part.syntax not in ("double-dollar", "kotlin-raw"):
            return [self.piece(part)]
        pattern = _SIMPLE["kotlin" if self.file.script.kotlin else "groovy"]
        pieces: list[Piece] = []
        at = part.start
        for match in pattern.finditer(self.file.script.source.view, part.start, part.end):
            pieces.append(self.piece(Region("string", at, match.start(), part.syntax)))
            node: Node = Name(match[1].partition(".")[0])
            for word in match[1].split(".")[1:]:
                node = Member(node, word)
            pieces.extend(text_of(self.of(node)).pieces)
            at = match.end()
        pieces.append(self.piece(Region("string", at, part.end, part.syntax)))
        return pieces

    def later_tokens(self, found: Sequence[Token]) -> Data:
        """Return what tokens come to, or why nobody can tell."""
        try:
            return self.of_tokens(found)
        except Unknown as error:
            return Nothing.of(error)

    def later(self, node: Node) -> Data:
        """Return what an entry of a map comes to, or why nobody can tell."""
        try:
            return self.of(node)
        except Unknown as error:
            return Nothing.of(error)

    # -- names

    def name(self, node: Name) -> Data:
        text = node.text
        if text in ("true", "false"):
            return text == "true"
        if text == "null":
            return Nothing("it is null")
        if text in self.names.given:
            return _given(self.names.given[text])
        holder = self.scope.holder(text) if self.scope is not None else None
        if holder is not None:
            found = holder.names[text]
            if isinstance(found, Unknown):
                raise Unknown(str(found))
            return found
        if text in self.names.inside:
            return _given(self.names.inside[text])
        receiver = self.scope.receiver() if self.scope is not None else None
        if isinstance(receiver, Table) and text in receiver.entries:
            return receiver.get(text)
        if text in _FOLDERS:
            return File(self.names.folder(self.file, text == "rootDir"))
        if text in HOLDERS or text in _TYPES:
            return Host(text)
        return self.names.shared(text)

    def member(self, node: Member) -> Data:
        parts = dotted(node)
        if parts and not node.spread:
            found = self.whole_name(parts)
            if found is not None:
                return found
        of = self.of(node.of)
        if node.spread:
            return [self.part(item, node.name) for item in script_calls.items(of)]
        return self.part(of, node.name)

    def whole_name(self, parts: Sequence[str]) -> Data | None:
        """Return what a dotted name stands for as a whole: something given, a version of a catalog, a constant."""
        if self.scope is not None and self.scope.holder(parts[0]) is not None:
            return None
        whole = ".".join(parts)
        bound = self.names.given.get(whole) or self.names.inside.get(whole)
        if bound is not None:
            return _given(bound)
        catalog = self.names.catalogs.get(parts[0])
        if catalog is not None and parts[1] == "versions" and len(parts) > 2:
            key = ".".join(parts[2:])
            found = catalog.versions.get(key)
            return _given(found) if found is not None else Nothing(f"“{key}” is not in the version catalog")
        if parts[0] in ("android", "defaultConfig"):
            return self.names.setting(parts)
        while len(parts) > 1 and parts[0] in HOLDERS:
            parts = parts[1:]
        return self.names.constant(parts) if len(parts) > 1 else None

    def part(self, of: Data, name: str) -> Data:
        """Return ``of.name``."""
        if isinstance(of, Table) and name in of.entries:
            return self.entry(of, name)
        if isinstance(of, Host):
            if name in _FOLDERS or name in HOLDERS:
                root = of.name == "rootProject" or name == "rootDir"
                return (
                    File(self.names.folder(self.file, root))
                    if name in _FOLDERS
                    else Host("rootProject" if root else name)
                )
            if of.name in HOLDERS:
                return self.names.shared(name)
            raise Unknown(f"“{of.name}.{name}” is not followed")
        found = script_calls.called(self, of, name, [], {})
        if found is not None:
            return found
        if isinstance(of, Table):
            return self.entry(of, name)
        if isinstance(of, Nothing):
            return of
        raise Unknown(f"“{name}” is not followed")

    def entry(self, of: Table, key: str) -> Data:
        return told(of.get(key))

    def index(self, node: Index) -> Data:
        of = self.of(node.of)
        key = self.of(node.key)
        if isinstance(of, list):
            at = number_of(key)
            return told(sure(of)[at]) if at < len(of) else Nothing("the list is shorter")
        if isinstance(of, Table):
            return self.entry(of, str(text_of(key)))
        if isinstance(of, Host) and of.name in HOLDERS:
            return self.names.shared(str(text_of(key)))
        if isinstance(of, Nothing):
            return of
        raise Unknown("what is asked for a part is neither a list nor a map")

    def counted(self, node: Step) -> Data:
        """Count a variable up or down; return what it was, or what it is then."""
        holder = self.scope.holder(node.of.text) if self.scope is not None and isinstance(node.of, Name) else None
        if holder is None or not isinstance(node.of, Name):
            raise Unknown("what is counted is not a variable")
        before = self.name(node.of)
        after = self.combined("+" if node.by > 0 else "-", before, computed(1))
        holder.names[node.of.text] = after
        return after if node.first else before

    # -- operators

    def binary(self, node: Binary) -> Data:
        if node.sign in ("?:", "||", "&&"):
            return self.either(node)
        if node.sign == "+":
            return self.sum(node)
        return self.combined(node.sign, self.of(node.left), self.of(node.right))

    def combined(self, sign: str, left: Data, right: Data) -> Data:
        """Return what an operator makes of two values. Raises Unknown."""
        if sign == "+":
            return added(left, right)
        if sign in ("==", "!="):
            return same(left, right) == (sign == "==")
        if sign == "to":
            return [left, right]
        if sign in ("in", "!in"):
            return any(same(item, left) for item in script_calls.items(right)) == (sign == "in")
        if sign in ("..", "until"):
            first, last = number_of(left), number_of(right)
            if abs(last - first) > _LONGEST_RANGE:
                raise Unknown("the range is too long")
            if sign == "until":
                return [computed(at) for at in range(first, last)]
            step = 1 if first <= last or self.file.script.kotlin else -1  # Kotlin's never goes down
            return [computed(at) for at in range(first, last + step, step)]
        if sign == "<<" and isinstance(left, list):
            left[:] = grown(left, [right])
            return left
        if sign == "-" and isinstance(left, Text) and not left.number:
            return computed(str(left).replace(str(text_of(right)), "", 1))
        if sign == "*" and isinstance(left, Text) and not left.number and not self.file.script.kotlin:
            return joined([left] * min(number_of(right), MOST_PIECES + 1))
        if sign not in _NUMBERS or not all(isinstance(item, Text) and item.number for item in (left, right)):
            raise Unknown(f"“{sign}” is not followed here")
        if sign == "/" and (
            number_of(right) == 0 or (number_of(left) % number_of(right) and not self.file.script.kotlin)
        ):
            raise Unknown("what is left of a division is not followed")
        found = _NUMBERS[sign](number_of(left), number_of(right))
        if isinstance(found, int) and not isinstance(found, bool) and found < 0:
            raise Unknown("a number below nought is not followed")
        return found if isinstance(found, bool) else computed(found)

    def sum(self, node: Node) -> Data:
        parts: list[Node] = []
        while isinstance(node, Binary) and node.sign == "+":
            parts.append(node.right)
            node = node.left
        found = self.of(node)
        for part in reversed(parts):
            found = added(found, self.of(part))
        return found

    def either(self, node: Binary) -> Data:
        try:
            left = self.of(node.left)
        except NotSet as error:
            if node.sign != "?:":
                raise
            left = Nothing(str(error))
        if node.sign == "?:":
            if isinstance(left, Nothing) and left.kind != "unknown":
                return self.of(node.right)
            return left if self.file.script.kotlin or truth(left) else self.of(node.right)
        return left if truth(left) == (node.sign == "||") else truth(self.of(node.right))

    def cases(self, node: Cases) -> Data:
        subject = self.of(node.subject) if node.subject is not None else True
        for tests, result in node.cases:
            if not tests or any(same(self.of(test), subject) for test in tests):
                return self.of(result)
        return Nothing("no case fits")

    # -- calls

    def call(self, node: Call) -> Data:
        args = [self.later(arg) for arg in node.args]
        named = {key: self.later(value) for key, value in node.named}
        parts = dotted(node.of) if node.of is not None else []
        package = parts and node.name[:1].isupper() and all(part.islower() for part in parts)
        if node.of is None or package:
            return self.alone(node.name, args, named)
        of = self.of(node.of)
        if node.spread:
            return [self.on(item, node.name, args, named) for item in script_calls.items(of)]
        return self.on(of, node.name, args, named)

    def alone(self, name: str, args: list[Data], named: Mapping[str, Data]) -> Data:
        """Return what a call without a receiver gives."""
        holder = self.scope.holder(name) if self.scope is not None else None
        found = holder.names[name] if holder is not None else self.names.function(name)
        if isinstance(found, Unknown):
            raise Unknown(str(found))
        if isinstance(found, Function):
            return self.names.run(self.rooted(found), args, named)
        receiver = self.scope.receiver() if self.scope is not None else None
        if receiver is not None:
            given = script_calls.called(self, receiver, name, args, named)
            if given is not None:
                return given
        given = script_calls.made(self, name, args) if not named else None
        if given is None:
            given = self.record(name, args, named)
        if given is None:
            shared = self.names.shared(name)
            if isinstance(shared, Function):
                return self.names.run(shared, args, named)
            raise Unknown(f"{name}() is called when the build runs")
        return given

    def record(self, name: str, args: list[Data], named: Mapping[str, Data]) -> Table | None:
        """Return what a constructor is given, by the names and places of its parameters; None where it is none."""
        fields = self.file.classes.get(name)
        if fields is None and (args or not named or not name[:1].isupper()):
            return None
        placed = {str(at): arg for at, arg in enumerate(args)} | dict(zip(fields or (), args, strict=False))
        return Table({**placed, **named}, name, doubt=f"{name} may have a value of its own")

    def rooted(self, function: Function) -> Function:
        """Return a function that sees the variables of the script that it is called from, if it is of that one."""
        if function.scope is not None or function.file is not self.file:
            return function
        scope = self.scope
        while scope is not None and scope.above is not None:
            scope = scope.above
        return replace(function, scope=scope)

    def on(self, of: Data, name: str, args: list[Data], named: Mapping[str, Data]) -> Data:
        """Return what a call on something gives."""
        if isinstance(of, Host) and of.name in HOLDERS:
            function = self.names.function(name)
            if function is not None:
                return self.names.run(self.rooted(function), args, named)
            shared = self.names.shared(name) if name not in script_calls.ASKED else None
            if isinstance(shared, Function):
                return self.names.run(shared, args, named)
        found = script_calls.called(self, of, name, args, named)
        if found is None:
            raise Unknown(f"{name}() is called when the build runs")
        return found


def _elsewhere(part: Given) -> Piece:
    return Piece(part.text, part.origin if isinstance(part.origin, Place) else None)


def _given(piece: Piece) -> Text:
    return Text((piece,), piece.text.isdecimal())


def dotted(node: Node) -> list[str]:
    """Return the parts of a dotted name; none where an expression is anything else."""
    parts: list[str] = []
    while isinstance(node, Member) and not node.spread:
        parts.append(node.name)
        node = node.of
    return [*parts, node.text][::-1] if isinstance(node, Name) else []


_LONGEST_RANGE = 1000
_NUMBERS: Mapping[str, Callable[[int, int], int | bool]] = {
    "-": lambda left, right: left - right,
    "*": lambda left, right: left * right,
    "%": lambda left, right: left % max(right, 1),
    "/": lambda left, right: left // right,
    "<": lambda left, right: left < right,
    ">": lambda left, right: left > right,
    "<=": lambda left, right: left <= right,
    ">=": lambda left, right: left >= right,
}
