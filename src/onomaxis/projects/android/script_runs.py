"""Statements of a build script, run one after another: what its variables hold where an expression stands.

A statement that is not followed makes unknown what it may change, and nothing else.
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
from onomaxis.formats.lexer import Token, item_end, items_of, level_of, matching, nesting
from onomaxis.projects.android import script_calls
from onomaxis.projects.android.expressions import Evaluator
from onomaxis.projects.android.scope import ScriptFile, Unknown
from onomaxis.projects.android.script_changes import ARGUMENTS, ASSIGNS, changed_in
from onomaxis.projects.android.script_data import (
    Data,
    Function,
    Names,
    Nothing,
    Scope,
    Table,
    number_of,
    same,
    spoiled,
    text_of,
)

_DECLARES = frozenset({"def", "val", "var", "final", "const", "private", "internal", "public", "static", "lateinit"})
# What only declares something, whatever its body holds.
_DECLARATIONS = frozenset({"class", "enum", "object", "interface", "import", "fun", "package", "static", "private"})
_NOTHING = Nothing("it gives nothing")


@dataclass
class Returned(Exception):
    """A function ends with this value."""

    value: Data


@dataclass
class Left(Exception):
    """A loop, or a turn of it, or a ``switch`` ends here: ``break``, ``continue``."""

    word: str


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
        defaults = {name: value for name, value in function.block.defaults if name not in given}
        if {*given, *defaults} != set(params) or len(args) + len(named) + len(defaults) != len(params):
            raise Unknown("a function is given something else than it takes")
        scope.names |= given
        for name, value in defaults.items():
            scope.names[name] = Evaluator(names, function.file, scope).of_tokens(value)
    try:
        return Run(names, function.file, scope).body(function.block.body, wanted=True)
    except Returned as done:
        return done.value
    except Left:
        raise Unknown("a function leaves a loop that is not its own") from None


def acts(file: ScriptFile, part: Sequence[Token], scope: Scope) -> bool:
    """Tell whether a statement, or an expression, may change a variable that is seen where it stands."""
    return any(scope.holder(name) is not None for name in _touched(file, part))


def _touched(file: ScriptFile, part: Sequence[Token]) -> frozenset[str]:
    """Return what tokens may change, by functions that they call too."""
    found = set(changed_in(part))
    for at, token in enumerate(part):
        if token.kind == "name" and token.text in file.changing:
            found |= file.changing[token.text]
            if ARGUMENTS in file.changing[token.text]:
                end = item_end(part, at + 1, (";", "}", ")"))
                found |= {inner.text for inner in part[at + 1 : end] if inner.kind == "name"}
    return frozenset(found)


class Run:
    """Runs statements of one script in one scope."""

    def __init__(self, names: Names, file: ScriptFile, scope: Scope) -> None:
        self.names = names
        self.file = file
        self.scope = scope
        self.evaluator = Evaluator(names, file, scope)

    def body(self, found: Sequence[Token], wanted: bool = False) -> Data:
        """Run the statements of a body; return what the last one gives where that is wanted.

        Raises Returned and Left, and Unknown where nobody can tell what it gives: then what the rest of it may change
        is unknown as well.
        """
        spans = statements_of(found)
        result: Data = _NOTHING
        at = 0
        self.names.enter()
        try:
            for at, (start, end) in enumerate(spans):
                self.names.step()
                result = self.statement(_stripped(found[start:end]), wanted and at == len(spans) - 1)
        except Unknown:
            for start, end in spans[at + 1 :]:
                self.spoil(found[start:end])
            raise
        finally:
            self.names.leave()
        return result

    def statement(self, part: Sequence[Token], wanted: bool = False) -> Data:
        """Run one statement; return what it gives where that is wanted. Raises Returned, Left, Unknown."""
        try:
            return self._statement(part, wanted)
        except (Unknown, Unread) as error:
            why = error if isinstance(error, Unknown) else Unknown("a statement is computed when the build runs")
            self.spoil(part)
            if wanted or self.names.strict or not _LEAVES.isdisjoint(token.text for token in part):
                raise why from None
            return Nothing.of(why)

    def _statement(self, part: Sequence[Token], wanted: bool) -> Data:
        head = part[0].text if part[0].kind == "name" else ""
        if head == "return":
            raise Returned(self.evaluator.of_tokens(part[1:]) if len(part) > 1 else _NOTHING)
        if head in ("break", "continue") and len(part) == 1:
            raise Left(head)
        if head == "if":
            return self.branch(part, wanted)
        if head == "switch":
            return self.switch(part, wanted)
        if head == "when":
            return self.when(part, wanted)
        if head in ("for", "while"):
            return self.loop(part)
        if head in ("do", "try", "synchronized"):
            raise Unknown("a loop or an attempt is not followed")
        if head == "apply" or (head in _DECLARATIONS and "=" not in {token.text for token in part[:5]}):
            return _NOTHING
        equals = self.assigned(part)
        if equals:
            self.assign(part[:equals], part[equals].text, part[equals + 1 :])
            return _NOTHING
        if len(part) > 1 and head in _DECLARES and all(token.kind == "name" for token in part):
            self.scope.names[part[-1].text] = Nothing("it has no value yet")  # def id
            return _NOTHING
        if self.file.script.kotlin and not _is_function(part) and "return" in {token.text for token in part}:
            raise Unknown("a statement is not followed that may end a function")
        if not _is_function(part) and (wanted or self.names.strict or acts(self.file, part, self.scope)):
            return self.evaluator.of(_command(part))
        return Nothing("it is not asked")

    # -- values

    def assigned(self, part: Sequence[Token]) -> int:
        """Return the index of the sign that gives a variable its value, 0 where none does."""
        signs = (at for at in level_of(part) if part[at].kind == "mark" and part[at].text in (*ASSIGNS, "{"))
        first = next(signs, 0)
        return first if first and part[first].text != "{" else 0

    def assign(self, target: Sequence[Token], sign: str, value: Sequence[Token]) -> None:
        names = [token for token in target if token.kind == "name"]
        several = [token.text for token in names if token.text not in _DECLARES]
        declared = (
            names
            and target[0].kind == "name"
            and (target[0].text in _DECLARES or len(names) > 1)
            and not _is_path(target)
        )
        if target[-1].text == ")" and (declared or target[0].text == "("):  # def (a, b) = …, (a, b) = …
            found = self.evaluator.of_tokens(value)
            for at, name in enumerate(several):
                given = found[at] if isinstance(found, list) and at < len(found) else None
                holder = self.scope if declared else self.scope.holder(name)
                if holder is not None:
                    holder.names[name] = (
                        Unknown("fewer values are given than variables are named") if given is None else given
                    )
        elif declared:
            colon = next((at for at, token in enumerate(target) if token.text == ":"), len(target))
            others = [part for part in items_of(value)[1:] if len(part) > 2 and part[1].text == "="]
            first = value[: value.index(others[0][0]) - 1] if others else value
            self.scope.names[target[colon - 1].text.strip("`")] = self.safe(first)
            for other, _, *rest in others:  # def a = 1, b = 2
                self.scope.names[other.text] = self.safe(rest)
        else:
            self.set(read_expression(target), sign, value)

    def set(self, path: Node, sign: str, value: Sequence[Token]) -> None:
        """Give a variable, or an entry of a map or a list, its value. Raises Unknown."""
        if isinstance(path, Name):
            holder = self.scope.holder(path.text)
            if holder is not None:
                before = holder.names[path.text]
                holder.names[path.text] = self.safe(value) if sign == "=" else self.combined(sign, before, value)
                return
            receiver = self.scope.receiver()
            if isinstance(receiver, Table) and receiver.live:
                receiver.entries[path.text] = self.evaluator.of_tokens(value)
            return
        root: Node = path
        while isinstance(root, Member | Index):
            root = root.of
        if not isinstance(root, Name) or self.scope.holder(root.text) is None:
            return  # a setting, an extra property: no variable
        assert isinstance(path, Member | Index)
        of = self.evaluator.of(path.of)
        key = self.evaluator.of(path.key) if isinstance(path, Index) else path.name
        if isinstance(of, list) and not isinstance(key, str) and sign == "=" and number_of(key) < len(of):
            of[number_of(key)] = self.evaluator.later_tokens(value)
        elif isinstance(of, Table):
            text = key if isinstance(key, str) else str(text_of(key))
            after = self.evaluator.later_tokens(value) if sign == "=" else self.combined(sign, of.get(text), value)
            of.entries[text] = Nothing.of(after) if isinstance(after, Unknown) else after
        else:
            raise Unknown("what is set is not followed")

    def combined(self, sign: str, before: Data | Unknown, value: Sequence[Token]) -> Data | Unknown:
        """Return what ``+=`` and the like give, or why nobody can tell."""
        if isinstance(before, Unknown):
            return before
        try:
            return self.evaluator.combined(sign[0], before, self.evaluator.of_tokens(value))
        except Unknown as error:
            return error

    def safe(self, value: Sequence[Token]) -> Data | Unknown:
        """Return what tokens come to, or why nobody can tell; what they may have changed is unknown then."""
        try:
            return self.evaluator.of_tokens(value)
        except Unknown as error:
            self.spoil(value)
            return error

    def spoil(self, part: Sequence[Token]) -> None:
        """Make unknown what a statement that is not followed gives a value, or changes."""
        for name in _touched(self.file, part):
            holder = self.scope.holder(name)
            if holder is not None:
                why = Unknown(f"“{name}” is set under a condition or more than once")
                spoiled(holder.names[name], str(why))
                holder.names[name] = why

    # -- branches and loops

    def inside(self, found: Sequence[Token], wanted: bool) -> Data:
        return Run(self.names, self.file, Scope(self.scope)).body(found, wanted)

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
        return self.side(part[end + 1 :], wanted) if end < len(part) else Nothing("no branch is taken")

    def switch(self, part: Sequence[Token], wanted: bool) -> Data:
        """Run what stands behind the label that fits, as far as a ``break``."""
        close = matching(part, 1)
        subject = self.evaluator.of_tokens(part[2:close])
        start = next((at for at in range(close + 1, len(part)) if part[at].text == "{"), len(part))
        body = part[start + 1 : matching(part, start)]
        labels = [at for at in level_of(body) if body[at].text in ("case", "default") and body[at].kind == "name"]
        colons = [next((at for at in range(mark, len(body)) if body[at].text == ":"), len(body)) for mark in labels]
        fits = None
        for number, (mark, colon) in enumerate(zip(labels, colons, strict=True)):
            if body[mark].text == "case" and same(self.evaluator.of_tokens(body[mark + 1 : colon]), subject):
                fits = number
                break
        if fits is None:
            fits = next((number for number, mark in enumerate(labels) if body[mark].text == "default"), None)
        if fits is None:
            return Nothing("no case fits")
        ends = [*labels[1:], len(body)]
        behind = [
            token for colon, end in zip(colons[fits:], ends[fits:], strict=True) for token in body[colon + 1 : end]
        ]
        breaks = (
            at for at in level_of(behind) if behind[at].text == "break" and not (at and behind[at - 1].text == ")")
        )
        try:
            return self.inside(behind[: next(breaks, len(behind))], wanted)
        except Left as left:
            if left.word != "break":
                raise
            if wanted:
                raise Unknown("what a case gives is not followed") from None
        return _NOTHING

    def when(self, part: Sequence[Token], wanted: bool) -> Data:
        """Run what stands behind the first case that fits: ``when (a) { b, c -> …; else -> … }``."""
        start = next((at for at in level_of(part) if part[at].text == "{"), len(part))
        subject = self.evaluator.of_tokens(part[2 : matching(part, 1)]) if part[1].text == "(" else None
        body = part[start + 1 : matching(part, start)]
        for begin, end in statements_of(body):
            case = _stripped(body[begin:end])
            arrow = item_end(case, 0, ("->",))
            for test in items_of(case[:arrow]):
                if test[0].text in ("in", "is", "!"):
                    raise Unknown("a case is not followed")
                if subject is None:
                    fits = test[0].text == "else" or self.evaluator.holds(test)
                else:
                    fits = test[0].text == "else" or same(self.evaluator.of_tokens(test), subject)
                if fits:
                    return self.side(case[arrow + 1 :], wanted)
        return Nothing("no case fits")

    def loop(self, part: Sequence[Token]) -> Data:
        """Run ``for (a in list)``, ``for (a; b; c)`` and ``while (a)``."""
        close = matching(part, 1)
        head, inner = part[2:close], part[close + 1 :]
        split = next((at for at, token in enumerate(head) if token.text in ("in", ":")), 0)
        if part[0].text == "for" and split:
            names = [token.text for token in head[:split] if token.kind == "name"]
            names = names if head[0].text == "(" else names[-1:]
            for item in script_calls.turns(self.evaluator.of_tokens(head[split + 1 :])):
                given = script_calls.parts(item) if len(names) > 1 else [item]
                scope = Scope(self.scope, dict(zip(names, given, strict=False)))
                if len(given) < len(names) or not Run(self.names, self.file, scope).turn(inner):
                    break
            return _NOTHING
        marks = [at for at, token in enumerate(head) if token.text == ";"]
        run = Run(self.names, self.file, Scope(self.scope))
        begin, test, after = head[:0], head, head[:0]
        if part[0].text == "for" and len(marks) == 2:
            begin, test, after = head[: marks[0]], head[marks[0] + 1 : marks[1]], head[marks[1] + 1 :]
        elif part[0].text == "for" or marks:
            raise Unknown("a loop is not followed")
        run.body(begin)
        while run.evaluator.holds(test) and run.turn(inner):
            self.names.step()
            run.body(after)
        return _NOTHING

    def turn(self, found: Sequence[Token]) -> bool:
        """Run one turn of a loop; tell whether it goes on."""
        try:
            self.side(found, False)
        except Left as left:
            return left.word == "continue"
        return True


_LEAVES = frozenset({"return", "break", "continue"})


def _is_function(part: Sequence[Token]) -> bool:
    """Tell ``String f(a) { … }``, which declares a function, from ``task f(a) { … }`` and ``f(a) { … }``."""
    at = next((at for at, token in enumerate(part) if token.kind != "name"), 0)
    if at < 2 or part[at].text != "(" or part[0].text == "task":
        return False
    close = matching(part, at)
    return close + 1 < len(part) and part[close + 1].text in ("{", ":", "=")


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
    of, name = (None, node.text) if isinstance(node, Name) else (node.of, node.name)
    return Call(of, name, tuple(args))


def _stripped(found: Sequence[Token]) -> Sequence[Token]:
    start, end = 0, len(found)
    while start < end and found[start].kind == "newline":
        start += 1
    while end > start and found[end - 1].kind == "newline":
        end -= 1
    return found[start:end]
