"""Statements of a build script, run one after another: what its variables hold where an expression stands.

A statement that is not followed spoils the variables that it gives values, and nothing else.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

from onomaxis.formats.gradle_expressions import (
    Call,
    Index,
    Member,
    Name,
    Node,
    Reader,
    Unread,
    read_expression,
    statements_of,
)
from onomaxis.formats.lexer import Token, matching, nesting
from onomaxis.projects.android import script_calls
from onomaxis.projects.android.expressions import Evaluator
from onomaxis.projects.android.scope import ScriptFile, Unknown
from onomaxis.projects.android.script_data import Data, Function, Names, Nothing, Scope, Table, added, same, text_of

_DECLARES = frozenset({"def", "val", "var", "final", "const", "private", "internal", "public", "static", "lateinit"})
_TYPE = frozenset(".<>,?[]*:")
_GIVES = frozenset({"=", "+="})
# Calls that change what they are asked of.
_CHANGES = frozenset(
    {"load", "put", "putAll", "add", "addAll", "set", "setProperty", "plusAssign", "remove", "clear", "leftShift"}
)
_LOOPS = frozenset({"while", "do", "try", "synchronized"})


@dataclass
class Returned(Exception):
    """A function ends with this value."""

    value: Data


def run_function(
    names: Names, function: Function, args: list[Data], named: Mapping[str, Data], it: Data | None = None
) -> Data:
    """Return what a function or closure gives. Raises Unknown where it does not fit what it is given."""
    params = function.block.params
    if len(args) == 1 and isinstance(args[0], list) and len(params) == len(args[0]) > 1:
        args = args[0]  # (a, b) -> …
    scope = Scope(function.scope, it=it)
    if params == ("it",) and len(args) < 2 and not named:
        scope.names["it"] = args[0] if args else Nothing("nothing is given")
    else:
        given = dict(zip(params, args, strict=False)) | dict(named)
        if set(given) != set(params) or len(args) + len(named) != len(params):
            raise Unknown("a function is given something else than it takes")
        scope.names |= given
    try:
        return Run(names, function.file, scope).body(function.block.body, wanted=True)
    except Returned as done:
        return done.value


class Run:
    """Runs statements of one script in one scope."""

    def __init__(self, names: Names, file: ScriptFile, scope: Scope, depth: int = 0) -> None:
        self.names = names
        self.file = file
        self.scope = scope
        self.evaluator = Evaluator(names, file, scope, depth)
        self.depth = depth

    def body(self, found: Sequence[Token], wanted: bool = False) -> Data:
        """Run the statements of a body; return what the last one gives where that is wanted. Raises Returned."""
        spans = statements_of(found)
        result: Data = Nothing("it gives nothing")
        for at, (start, end) in enumerate(spans):
            self.names.enter()
            self.names.leave()
            last = wanted and at == len(spans) - 1
            result = self.statement(_stripped(found[start:end]), last)
        return result

    def statement(self, part: Sequence[Token], wanted: bool = False) -> Data:
        """Run one statement; return what it gives where that is wanted. Raises Returned, Unknown."""
        try:
            return self._statement(part, wanted)
        except (Unknown, Unread) as error:
            texts = {token.text for token in part}
            why = error if isinstance(error, Unknown) else Unknown("a statement is computed when the build runs")
            self.spoil(part)
            if wanted or "return" in texts or self.names.strict:
                raise why from None
            return Nothing.of(why)

    def _statement(self, part: Sequence[Token], wanted: bool) -> Data:
        head = part[0].text if part[0].kind == "name" else ""
        if head == "return":
            raise Returned(self.evaluator.of_tokens(part[1:]) if len(part) > 1 else Nothing("it gives nothing"))
        if head == "if":
            return self.branch(part, wanted)
        if head == "switch":
            return self.switch(part, wanted)
        if head == "for":
            return self.loop(part)
        if head in _LOOPS:
            raise Unknown("a loop or an attempt is not followed")
        if head in ("class", "enum", "object", "import", "fun", "apply", "package"):
            return Nothing("it gives nothing")
        equals = self.assigned(part)
        if equals:
            self.assign(part[:equals], part[equals].text, part[equals + 1 :])
            return Nothing("it gives nothing")
        if len(part) > 1 and head in _DECLARES and all(token.kind == "name" for token in part):
            self.scope.names[part[-1].text] = Nothing("it has no value yet")  # def id
        elif wanted or self.names.strict or self.touches(part):
            return self.evaluator.of(_command(part))
        return Nothing("it is not asked")

    # -- values

    def assigned(self, part: Sequence[Token]) -> int:
        """Return the index of the ``=`` that gives a variable its value, 0 where none does."""
        at = 0
        while at < len(part):
            if (
                part[at].kind == "mark"
                and part[at].text in _GIVES
                and (at + 1 >= len(part) or part[at + 1].text != "=")
            ):
                return at
            if part[at].text == "{":
                return 0
            at = matching(part, at) + 1 if nesting(part[at]) > 0 else at + 1
        return 0

    def assign(self, target: Sequence[Token], sign: str, value: Sequence[Token]) -> None:
        names = [token for token in target if token.kind == "name"]
        declared = (
            names
            and target[0].kind == "name"
            and (target[0].text in _DECLARES or len(names) > 1)
            and not _is_path(target)
        )
        if declared and target[-1].text == ")":  # def (a, b) = …
            found = self.evaluator.of_tokens(value)
            several = [token.text for token in names if token.text not in _DECLARES]
            for at, name in enumerate(several):
                self.scope.names[name] = (
                    found[at] if isinstance(found, list) and at < len(found) else Unknown("it is one of several")
                )
            return
        if declared:
            colon = next((at for at, token in enumerate(target) if token.text == ":"), len(target))
            name = target[colon - 1].text.strip("`")
            self.scope.names[name] = self.safe(value)
            return
        path = read_expression(target) if target else None
        if isinstance(path, Name):
            holder = self.scope.holder(path.text)
            if holder is not None:
                before = holder.names[path.text]
                after = self.safe(value)
                holder.names[path.text] = _added(before, after) if sign == "+=" else after
                return
            receiver = self.scope.receiver()
            if isinstance(receiver, Table) and receiver.live:
                receiver.entries[path.text] = self.evaluator.of_tokens(value)
            return
        self.set_part(path, sign, value)

    def set_part(self, path: Node | None, sign: str, value: Sequence[Token]) -> None:
        """Set an entry of a map: ``config.id = …``, ``config["id"] = …``."""
        if not isinstance(path, Member | Index) or not isinstance(path.of, Name):
            raise Unknown("what is set is not followed")
        holder = self.scope.holder(path.of.text)
        table = holder.names[path.of.text] if holder is not None else None
        if holder is None or not isinstance(table, Table):
            return
        key = path.name if isinstance(path, Member) else str(text_of(self.evaluator.of(path.key)))
        if table.live:
            table.entries[key] = self.evaluator.of_tokens(value)
            return
        after = self.evaluator.later_tokens(value)
        if sign == "+=":
            raise Unknown("an entry is added to")
        holder.names[path.of.text] = Table({**table.entries, key: after}, table.said)

    def safe(self, value: Sequence[Token]) -> Data | Unknown:
        """Return what tokens come to, or why nobody can tell."""
        try:
            return self.evaluator.of_tokens(value)
        except Unknown as error:
            return error

    def touches(self, part: Sequence[Token]) -> bool:
        """Tell whether a statement may change a variable that is seen here."""
        known = any(token.kind == "name" and self.scope.holder(token.text) is not None for token in part)
        return known and any(
            token.text in _CHANGES or token.text in ("each", "forEach", "<", "+=", "=") for token in part
        )

    def spoil(self, part: Sequence[Token]) -> None:
        """Make unknown what a statement that is not followed gives a value, or changes."""
        for at, token in enumerate(part):
            after = part[at + 1].text if at + 1 < len(part) else ""
            changed = after in (".", "?.") and at + 2 < len(part) and part[at + 2].text in _CHANGES
            entry = at == 0 and after in ("[", ".", "?.") and self.assigned(part) > 0
            doubled = after == "=" and at + 2 < len(part) and part[at + 2].text == "="
            if token.kind == "name" and ((after in _GIVES and not doubled) or changed or entry or after == "<"):
                holder = self.scope.holder(token.text)
                if holder is not None:
                    holder.names[token.text] = Unknown(f"“{token.text}” is set under a condition or more than once")

    # -- branches and loops

    def inside(self, found: Sequence[Token], wanted: bool) -> Data:
        scope = Scope(self.scope)
        return Run(self.names, self.file, scope, self.depth + 1).body(found, wanted)

    def side(self, found: Sequence[Token], wanted: bool) -> Data:
        found = _stripped(found)
        if found and found[0].text == "{" and matching(found, 0) == len(found) - 1:
            return self.inside(found[1:-1], wanted)
        return self.inside(found, wanted)

    def branch(self, part: Sequence[Token], wanted: bool) -> Data:
        close = matching(part, 1)
        at = close + 1
        while at < len(part) and part[at].kind == "newline":
            at += 1
        end = matching(part, at) + 1 if at < len(part) and part[at].text == "{" else at
        while end < len(part) and part[end].text != "else":
            end = matching(part, end) + 1 if nesting(part[end]) > 0 else end + 1
        if self.evaluator.holds(part[2:close]):
            return self.side(part[at:end], wanted)
        return self.side(part[end + 1 :], wanted) if end < len(part) else Nothing("no case fits")

    def switch(self, part: Sequence[Token], wanted: bool) -> Data:
        close = matching(part, 1)
        subject = self.evaluator.of_tokens(part[2:close])
        start = next((at for at in range(close + 1, len(part)) if part[at].text == "{"), len(part))
        body = part[start + 1 : matching(part, start)]
        marks = [at for at in _level(body) if body[at].text in ("case", "default") and body[at].kind == "name"]
        runs = False
        for at, mark in enumerate(marks):
            colon = next((index for index in range(mark, len(body)) if body[index].text in (":", "->")), len(body))
            test = body[mark + 1 : colon]
            runs = runs or not test or same(self.evaluator.of_tokens(test), subject)
            inner = body[colon + 1 : marks[at + 1] if at + 1 < len(marks) else len(body)]
            stop = next((index for index in _level(inner) if inner[index].text == "break"), len(inner))
            if runs and (
                stop < len(inner) or wanted or at + 1 == len(marks) or "return" in {token.text for token in inner}
            ):
                return self.inside(inner[:stop], wanted)
            if runs and _stripped(inner):
                self.inside(inner, False)
        return Nothing("no case fits")

    def loop(self, part: Sequence[Token]) -> Data:
        close = matching(part, 1)
        head = part[2:close]
        split = next((at for at, token in enumerate(head) if token.text in ("in", ":")), 0)
        if not split:
            raise Unknown("a loop is not followed")
        found = script_calls.items(self.evaluator.of_tokens(head[split + 1 :]))
        for item in found:
            scope = Scope(self.scope, {head[split - 1].text: item})
            Run(self.names, self.file, scope, self.depth + 1).side(part[close + 1 :], False)
        return Nothing("it gives nothing")


def _added(before: Data | Unknown, after: Data | Unknown) -> Data | Unknown:
    if isinstance(before, Unknown):
        return before
    if isinstance(after, Unknown):
        return after
    try:
        return added(before, after)
    except Unknown as error:
        return error


def _is_path(target: Sequence[Token]) -> bool:
    """Tell ``a.b`` and ``a["b"]``, which are set, from ``String a``, which is declared."""
    return (
        not any(before.kind == "name" and after.kind == "name" for before, after in pairwise(target))
        and not any(token.text in ("<", ":") for token in target)
        and target[0].text not in _DECLARES
    )


def _command(part: Sequence[Token]) -> Node:
    """Return a statement as an expression: a call may have its arguments without parentheses."""
    reader = Reader(part)
    node = reader.expression()
    if not reader.peek():
        return node
    if not isinstance(node, Name | Member):
        raise Unknown("a statement is not followed")
    args = [reader.expression()]
    while reader.take(","):
        args.append(reader.expression())
    if reader.peek():
        raise Unread
    return Call(None, node.text, tuple(args)) if isinstance(node, Name) else Call(node.of, node.name, tuple(args))


def _stripped(found: Sequence[Token]) -> Sequence[Token]:
    start, end = 0, len(found)
    while start < end and found[start].kind == "newline":
        start += 1
    while end > start and found[end - 1].kind == "newline":
        end -= 1
    return found[start:end]


def _level(found: Sequence[Token]) -> list[int]:
    """Return the indices of the tokens that stand in no bracket."""
    at, indices = 0, []
    while at < len(found):
        indices.append(at)
        at = matching(found, at) + 1 if nesting(found[at]) > 0 else at + 1
    return indices
