"""Runs a configuration script as far as it can be followed, under given variables of the environment.

Nothing is guessed: what is not followed is a :class:`Doubt`, and so is whatever it may have changed. What variables
of the environment are compared with, or choose by, is kept: these are the values that make another app.
Source: ECMA-262; nodejs.org, "CommonJS modules" and "process.env".
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field, replace

from onomaxis import late
from onomaxis.errors import FormatError
from onomaxis.formats import script_tree as tree
from onomaxis.formats.escapes import decode
from onomaxis.formats.jsonc import Node as JsonNode
from onomaxis.formats.lexer import Region
from onomaxis.formats.script_tree import ScriptTree, parse_script
from onomaxis.model import Piece, Place
from onomaxis.projects.frameworks import script_calls
from onomaxis.projects.frameworks.script_data import (
    Absent,
    Closure,
    Data,
    Doubt,
    Ended,
    Host,
    Scope,
    Table,
    Text,
    asked_by,
    computed,
    grown,
    joined,
    spoiled,
    sure,
    text_of,
    truth,
)
from onomaxis.projects.project import place
from onomaxis.tree import join, parent

# A script may have come from anywhere: what it asks for comes to an end.
_MOST_STEPS = 30_000
_DEEPEST = 40
_TOO_MUCH = "too much is computed in this script"
_ENDINGS = ("", ".js", ".ts", ".cjs", ".mjs", ".json", "/index.js", "/index.ts")
# A configuration plug-in takes a configuration and gives it back, with what it does to the native projects later.
# Source: Expo documentation, "Config plugins" (names begin with ``with``).
_PLUGIN = late.compile(r"with[A-Z]")
_HOSTS = frozenset(
    {"process", "Object", "JSON", "String", "Number", "Boolean", "Array", "Math", "console", "parseInt"}
)


@dataclass(frozen=True)
class Script:
    """A script and the path that it stands at; ``literals`` are what its plain ones say, by where they begin."""

    path: str
    tree: ScriptTree
    literals: dict[int, Data] = field(default_factory=dict)


@dataclass
class _Left(Exception):
    """A function, a loop or a case ends here."""

    word: str
    value: Data = field(default_factory=Absent)


@dataclass
class Machine:
    """Runs scripts of a project; ``read`` gives a file, ``json`` a parsed one, ``below`` the files of a folder."""

    read: Callable[[str], bytes | None]
    json: Callable[[str], Data | None]
    below: Callable[[str], Iterable[str]]
    environment: Mapping[str, str]
    # Scripts that were read, for all runs together.
    scripts: dict[str, Script | None]
    # What each variable of the environment is compared with, in order.
    candidates: dict[str, dict[str, None]] = field(default_factory=dict)
    # What counts where a variable says nothing.
    defaults: dict[str, str] = field(default_factory=dict)
    # Files that a variable of the environment chose.
    chosen: list[str] = field(default_factory=list)
    _modules: dict[str, Data] = field(default_factory=dict)
    _steps: int = 0
    _depth: int = 0

    def result(self, path: str, given: Data) -> Data:
        """Return what a configuration script gives, called with *given* where it is a function."""
        try:
            found = self.module(path)
            if isinstance(found, Table) and isinstance(found.entries.get("default"), Table | Closure):
                found = found.entries["default"]
            return self.called(found, [given]) if isinstance(found, Closure) else found
        except Ended as error:
            return Doubt(str(error))
        except RecursionError:
            return Doubt(_TOO_MUCH)

    # -- modules

    def module(self, path: str) -> Data:
        """Return what a script or a JSON file exports."""
        if path in self._modules:
            return self._modules[path]
        if path.endswith(".json"):
            found = self.json(path)
            return found if found is not None else Doubt(f"{path} cannot be read")
        exports: Data = Table()
        self._modules[path] = exports
        script = self.script(path)
        if script is None:
            self._modules[path] = Doubt(f"{path} cannot be read")
            return self._modules[path]
        scope = Scope(script, None, {"module": Table({"exports": exports}), "exports": exports})
        self.hoist(script.tree.statements, scope)
        with suppress(_Left):
            self.run(script.tree.statements, scope)
        found = self.member(scope.names["module"], "exports")
        self._modules[path] = found
        return found

    def script(self, path: str) -> Script | None:
        """Return a parsed script, None where it cannot be read."""
        if path not in self.scripts:
            data = self.read(path)
            try:
                self.scripts[path] = Script(path, parse_script(data)) if data is not None else None
            except FormatError:
                self.scripts[path] = None
        return self.scripts[path]

    def required(self, scope: Scope, name: Data) -> Data:
        """Return what ``require`` gives: a file of the project, or nothing that is known."""
        text = text_of(name)
        script = scope.file
        if isinstance(text, Doubt) or not isinstance(script, Script):
            return text if isinstance(text, Doubt) else Doubt("a module is not followed")
        if not str(text).startswith("."):
            return Doubt(f"the package “{text}” is not followed")
        path = join(parent(script.path), str(text))
        if text.asked:
            self.listed(text, path)
        for ending in _ENDINGS:
            if path and self.read(path + ending) is not None:
                self.chosen += [path + ending] if text.asked else []
                return self.module(path + ending)
        if text.asked:  # there is no such app
            raise Ended(f"there is no module {text}")
        return Doubt(f"there is no module {text}")

    def listed(self, text: Text, path: str) -> None:
        """Keep what a variable of the environment may be that is part of a module's path: files that are there."""
        said = self.environment.get(text.asked) or self.defaults.get(text.asked, "")
        head, found, tail = path.partition(said)
        if said and found and "/" not in tail:
            names = (other[len(head) :] for other in self.below(parent(path)) if other.startswith(head))
            known = self.candidates.setdefault(text.asked, {})
            known.update(dict.fromkeys(name.removesuffix(tail) for name in names if tail and name.endswith(tail)))

    # -- statements

    def hoist(self, statements: Iterable[tree.Node], scope: Scope) -> None:
        """Declare the functions of a block: they may be called before they stand."""
        for item in statements:
            item = item.value if isinstance(item, tree.Export) and isinstance(item.value, tree.Declare) else item
            if isinstance(item, tree.Declare) and item.pattern.name and isinstance(item.value, tree.Function):
                scope.names[item.pattern.name] = Closure(item.value, scope)

    def run(self, statements: Sequence[tree.Node], scope: Scope) -> None:
        """Run statements. Raises _Left where they end early."""
        for number, item in enumerate(statements):
            self._steps += 1
            if self._steps > _MOST_STEPS:
                raise Ended(_TOO_MUCH)
            doubt = self.statement(item, scope)
            if doubt is not None:  # it may have returned
                for other in statements[number + 1 :]:
                    self.spoil(other, scope, doubt)
                raise _Left("return", doubt)

    def statement(self, item: tree.Node, scope: Scope) -> Doubt | None:
        """Run one statement; return why nobody can tell whether it ends the function, None where it goes on."""
        match item:
            case tree.Declare():
                self.declare(item.pattern, self.of(item.value, scope) if item.value else Absent(), scope)
            case tree.Group():
                for part in item.statements:
                    self.statement(part, scope)
            case tree.Block():
                inner = Scope(scope.file, scope)
                self.hoist(item.statements, inner)
                self.run(item.statements, inner)
            case tree.If():
                return self.branch(item, scope)
            case tree.Switch():
                return self.switch(item, scope)
            case tree.ForOf():
                return self.loop(item, scope)
            case tree.Leave(word="throw"):
                raise Ended("the script stops with an error here")
            case tree.Leave():
                raise _Left(item.word, self.of(item.value, scope) if item.value else Absent())
            case tree.Import():
                module = self.required(scope, computed(item.module))
                for name, what in item.names:
                    scope.names[name] = module if what == "*" else self.imported(module, what)
            case tree.Export():
                self.export(item, scope)
            case tree.Unknown():
                why = Doubt("a statement is not followed", self.spot(item, scope))
                self.spoil(item, scope, why)
                return why if {"return"} & item.names else None
            case _:
                self.of(item, scope)
        return None

    def imported(self, module: Data, name: str) -> Data:
        if isinstance(module, Table) and name == "default" and "default" not in module.entries:
            return module
        return self.member(module, name)

    def export(self, item: tree.Export, scope: Scope) -> None:
        """Give other scripts what a script says is theirs."""
        exports = scope.names["exports"]
        module = self.required(scope, computed(item.module)) if item.module else None
        if not isinstance(exports, Table):
            return
        if item.value is not None and item.names == (("default", ""),):
            named = isinstance(item.value, tree.Function) and item.value.name
            exports.entries["default"] = self.of(item.value, scope)
            if named:
                scope.names[str(named)] = exports.entries["default"]
            return
        if item.value is not None:
            self.statement(item.value, scope)
        for outside, inside in item.names:
            if outside == "*" and isinstance(module, Table):
                exports.entries.update((key, value) for key, value in module.entries.items() if key != "default")
                exports.doubt = exports.doubt or module.doubt
            elif outside == "*":
                exports.doubt = module if isinstance(module, Doubt) else Doubt("a module is not followed")
            elif module is not None:
                exports.entries[outside] = module if inside == "*" else self.imported(module, inside)
            else:
                exports.entries[outside] = self.name(tree.Name(item.start, item.end, inside), scope)

    def branch(self, item: tree.If, scope: Scope) -> Doubt | None:
        holds = truth(self.of(item.test, scope))
        if isinstance(holds, Doubt):
            sides = [side for side in (item.yes, item.no) if side is not None]
            if all(_throws(side) for side in sides):
                return None  # a build that goes on did not go there
            for side in sides:
                self.spoil(side, scope, holds)
            return holds if any(_leaves(side) for side in sides) else None
        taken = item.yes if holds else item.no
        return self.statement(taken, scope) if taken is not None else None

    def switch(self, item: tree.Switch, scope: Scope) -> Doubt | None:
        subject = self.of(item.subject, scope)
        taken: int | None = None
        for number, (test, _) in enumerate(item.cases):
            same = self.same(subject, self.of(test, scope)) if test is not None else False
            if isinstance(same, Doubt):
                self.spoil(item, scope, same)
                return same if _leaves(item) else None
            if same and taken is None:
                taken = number  # all the others are asked for what they compare
        if taken is None:
            taken = next((number for number, (test, _) in enumerate(item.cases) if test is None), None)
        inner = Scope(scope.file, scope)
        try:
            for _, statements in item.cases[taken:] if taken is not None else ():
                self.run(statements, inner)
        except _Left as left:
            if left.word != "break":
                raise
        return None

    def loop(self, item: tree.ForOf, scope: Scope) -> Doubt | None:
        over = self.of(item.over, scope)
        over = sure(over) if isinstance(over, list) else over
        if not isinstance(over, list):
            why = (
                over
                if isinstance(over, Doubt)
                else Doubt("what is gone through is not a list", self.spot(item, scope))
            )
            self.spoil(item.body, scope, why)
            return why if _leaves(item.body) else None
        for one in list(over):
            inner = Scope(scope.file, scope)
            self.declare(item.pattern, one, inner)
            try:
                self.run([item.body], inner)
            except _Left as left:
                if left.word == "break":
                    break
                if left.word != "continue":
                    raise
        return None

    def declare(self, pattern: tree.Pattern, value: Data, scope: Scope) -> None:
        """Give the names of a pattern what it takes from a value."""
        if isinstance(value, Absent) and not value.null and pattern.default is not None:
            value = self.default(value, self.of(pattern.default, scope))
        if pattern.name:
            scope.names[pattern.name] = value
        taken = set()
        for key, part in pattern.parts:
            if part.rest:
                rest: Data = value if isinstance(value, Doubt) else Doubt("the rest of a value is not followed")
                if isinstance(value, Table):
                    rest = Table({k: v for k, v in value.entries.items() if k not in taken}, value.doubt)
                self.declare(replace(part, rest=False), rest, scope)
                continue
            taken.add(key)
            self.declare(part, self.member(value, key), scope)

    def spoil(self, item: tree.Node, scope: Scope, why: Doubt) -> None:
        """Make unknown what a statement may change that is not followed."""
        for name in _changed(item):
            holder = scope.holder(name)
            if holder is not None:
                old = holder.names[name]
                if isinstance(old, Table):
                    old.spoil(why)
                elif isinstance(old, list):
                    spoiled(old, why)
                if name not in ("module", "exports"):
                    holder.names[name] = why

    # -- expressions

    def of(self, node: tree.Node | None, scope: Scope) -> Data:
        """Return what an expression comes to."""
        self._steps += 1
        self._depth += 1
        if self._steps > _MOST_STEPS or self._depth > 4 * _DEEPEST:
            raise Ended(_TOO_MUCH)
        try:
            return self._of(node, scope)
        finally:
            self._depth -= 1

    def _of(self, node: tree.Node | None, scope: Scope) -> Data:
        match node:
            case tree.Literal():
                return self.literal(node, scope)
            case tree.Name():
                return self.name(node, scope)
            case tree.Member():
                return self.part(node, scope)
            case tree.Call():
                return self.call(node, scope)
            case tree.Unary():
                return self.unary(node, scope)
            case tree.Binary():
                return self.binary(node, scope)
            case tree.Choice():
                chosen: tree.Node = node
                while isinstance(chosen, tree.Choice):
                    holds = truth(self.of(chosen.test, scope))
                    if isinstance(holds, Doubt):
                        return holds
                    chosen = chosen.yes if holds else chosen.no
                return self.of(chosen, scope)
            case tree.ListOf():
                return self.items(node.items, scope)
            case tree.ObjectOf():
                return self.table(node, scope)
            case tree.Function():
                return Closure(node, scope)
            case tree.Assign():
                return self.assign(node, scope)
        return Doubt("this expression is not followed", self.spot(node, scope) if node is not None else None)

    def spot(self, node: tree.Node, scope: Scope) -> Place | None:
        script = scope.file
        if not isinstance(script, Script):
            return None
        return place(script.path, script.tree.source, node.start, max(node.end, node.start), "script-expression")

    def literal(self, node: tree.Literal, scope: Scope) -> Data:
        script = scope.file
        assert isinstance(script, Script)
        known = script.literals.get(node.token.start)
        if known is None:
            known = self.read_literal(node, script, scope)
            if all(isinstance(part, Region) for part in node.token.parts):  # the same in every run
                script.literals[node.token.start] = known
        return known

    def read_literal(self, node: tree.Literal, script: Script, scope: Scope) -> Data:
        """Return what a string, a template or a number says."""
        token, source = node.token, script.tree.source
        if token.kind == "number":
            spot = place(script.path, source, token.start, token.end, "number")
            plain = token.text.isdecimal() and (token.text == "0" or token.text[0] != "0")
            return Text((Piece(token.text, spot),), True) if plain else Doubt(f"{token.text} is not read", spot)
        if token.kind != "string":
            return Doubt("this expression is not followed", self.spot(node, scope))
        pieces: list[Data] = []
        if not token.parts:
            syntax = {"'": "single", "`": "template"}.get(token.text[0], "double")
            return Text((Piece("", place(script.path, source, token.start + 1, token.end - 1, syntax)),))
        for part in token.parts:
            if isinstance(part, Region):
                spot = place(script.path, source, part.start, part.end, part.syntax)
                pieces.append(Text((Piece(decode(part.syntax, source.text(part.start, part.end)), spot),)))
            elif isinstance(part, tuple) and len(part) == 2:
                try:
                    inner = tree.template_parts(source, *part)
                except tree.Unread:
                    return Doubt("this expression is not followed", self.spot(node, scope))
                pieces.append(self.of(inner, scope))
        found = joined(pieces)
        if isinstance(found, Doubt):
            return replace(found, spot=found.spot or self.spot(node, scope))
        asked = next((item.asked for item in pieces if isinstance(item, Text) and item.asked), "")
        return replace(found, spot=self.spot(node, scope), asked=asked)

    def name(self, node: tree.Name, scope: Scope) -> Data:
        text = node.text
        if text in ("true", "false"):
            return text == "true"
        if text in ("undefined", "null"):
            return Absent(text == "null")
        holder = scope.holder(text)
        if holder is not None:
            return holder.names[text]
        if text in _HOSTS or text == "require":
            return Host(text)
        return Doubt(f"“{text}” is not followed", self.spot(node, scope))

    def part(self, node: tree.Member, scope: Scope) -> Data:
        of = self.of(node.of, scope)
        found = self.index(of, self.key(node.key, scope))
        if isinstance(found, Doubt) and found.spot is None:
            return replace(found, spot=self.spot(node, scope))
        return found

    def index(self, of: Data, key: Data) -> Data:
        """Return ``of[key]``; a key that the environment gives makes every other one a candidate."""
        asked = getattr(key, "asked", "")
        if asked and isinstance(of, Table):
            self.candidates.setdefault(asked, {}).update(dict.fromkeys(of.entries))
        if isinstance(key, Absent):
            return Absent(asked=key.asked)
        text = text_of(key)
        return text if isinstance(text, Doubt) else self.member(of, str(text))

    def member(self, of: Data, name: str) -> Data:
        """Return a member of a value."""
        if isinstance(of, Doubt):
            return of
        if isinstance(of, Table):
            found = of.entries.get(name)
            return found if found is not None else of.doubt or Absent()
        if isinstance(of, Absent):
            return Absent(asked=of.asked)
        if isinstance(of, list) and isinstance(doubt := sure(of), Doubt):
            return doubt
        if isinstance(of, list) and name.isdecimal():
            return of[int(name)] if int(name) < len(of) else Absent()
        if isinstance(of, Host):
            if of.name == "process" and name == "env":
                return Host("env")
            if of.name == "env":
                return self.variable(name)
        if name == "length" and isinstance(of, list | Text):
            return computed(len(of) if isinstance(of, list) else len(str(of)))
        return Doubt(f"“{name}” is not followed")

    def variable(self, name: str) -> Data:
        """Return a variable of the environment, as what it is asked for."""
        self.candidates.setdefault(name, {})
        if name in self.environment:
            return Text((Piece(self.environment[name]),), asked=name)
        return Absent(asked=name)

    def default(self, value: Data, other: Data) -> Data:
        """Return what counts where a value is absent: the default of a variable, if it is one."""
        asked = getattr(value, "asked", "")
        if asked and isinstance(other, Text):
            self.defaults.setdefault(asked, str(other))
        return asked_by(other, asked) if asked else other

    def items(self, nodes: Sequence[tree.Node], scope: Scope) -> list[Data]:
        found: list[Data] = []
        for node in nodes:
            value = self.of(node.of if isinstance(node, tree.Spread) else node, scope)
            found = grown(found, value if isinstance(node, tree.Spread) and isinstance(value, list) else [value])
        return found

    def table(self, node: tree.ObjectOf, scope: Scope) -> Data:
        found = Table()
        for key, said in node.entries:
            value = self.of(said.of if key is None and isinstance(said, tree.Spread) else said, scope)
            if key is None:
                found.take(value)
                continue
            name = text_of(self.key(key, scope))
            if isinstance(name, Doubt):
                found.spoil(name)
                continue
            found.entries[str(name)] = self.placed(value, said, scope)
        return found

    def key(self, node: tree.Node, scope: Scope) -> Data:
        """Return a key: a fixed one, or what an expression in brackets comes to."""
        if isinstance(node, tree.Name) and node.text.startswith("'"):
            return computed(node.text[1:])
        return self.of(node, scope)

    def placed(self, value: Data, node: tree.Node, scope: Scope) -> Data:
        """Return a member's value with where it is written, if nothing in it says so."""
        plain = isinstance(node, tree.Name) and node.text == "undefined"
        if isinstance(value, Doubt | Absent) and value.spot is None and not plain:
            return replace(value, spot=self.spot(node, scope))
        if isinstance(value, Text) and value.spot is None and not (len(value.pieces) == 1 and value.pieces[0].place):
            return replace(value, spot=self.spot(node, scope))
        return value

    def unary(self, node: tree.Unary, scope: Scope) -> Data:
        if node.sign in ("++", "--", "post++", "post--"):
            before = self.of(node.of, scope)
            after = script_calls.counted(before, 1 if node.sign.endswith("++") else -1)
            self.set(node.of, after, scope)
            return before if node.sign.startswith("post") else after
        value = self.of(node.of, scope)
        if node.sign == "!":
            holds = truth(value)
            return holds if isinstance(holds, Doubt) else not holds
        if node.sign == "+":
            return script_calls.number(value)
        return Doubt(f"“{node.sign}” is not followed", self.spot(node, scope))

    def sum(self, node: tree.Binary, scope: Scope) -> Data:
        """Return a sum of however many parts."""
        parts: list[tree.Node] = []
        first: tree.Node = node
        while isinstance(first, tree.Binary) and first.sign == "+":
            parts.append(first.right)
            first = first.left
        found = self.of(first, scope)
        for part in reversed(parts):
            other = self.of(part, scope)
            asked = getattr(found, "asked", "") or getattr(other, "asked", "")
            found = script_calls.combined("+", found, other)
            if isinstance(found, Text):
                found = replace(found, spot=self.spot(node, scope), asked=asked)
        return replace(found, spot=found.spot or self.spot(node, scope)) if isinstance(found, Doubt) else found

    def binary(self, node: tree.Binary, scope: Scope) -> Data:
        if node.sign == "+":
            return self.sum(node, scope)
        left = self.of(node.left, scope)
        if node.sign in ("??", "||", "&&"):
            return self.either(node, left, scope)
        right = self.of(node.right, scope)
        if node.sign in ("===", "!==", "==", "!="):
            same = self.same(left, right, loose=len(node.sign) == 2)
            return same if isinstance(same, Doubt) else same == (node.sign[0] == "=")
        if node.sign == "in" and isinstance(right, Table):
            return not isinstance(self.index(right, left), Absent)
        found = script_calls.combined(node.sign, left, right)
        if isinstance(found, Doubt):
            return replace(found, spot=found.spot or self.spot(node, scope))
        return replace(found, spot=self.spot(node, scope)) if isinstance(found, Text) else found

    def either(self, node: tree.Binary, left: Data, scope: Scope) -> Data:
        if node.sign == "??":
            if isinstance(left, Doubt):
                return left
            return self.default(left, self.of(node.right, scope)) if isinstance(left, Absent) else left
        holds = truth(left)
        if isinstance(holds, Doubt):
            return holds
        if node.sign == "&&":
            return self.of(node.right, scope) if holds else left
        return left if holds else self.default(left, self.of(node.right, scope))

    def same(self, left: Data, right: Data, loose: bool = False) -> bool | Doubt:
        """Tell whether two values are equal; what a variable of the environment is compared with is kept."""
        for one, other in ((left, right), (right, left)):
            asked = getattr(one, "asked", "")
            if asked and isinstance(other, Text) and not other.asked:
                self.candidates.setdefault(asked, {})[str(other)] = None
        if isinstance(left, Doubt) or isinstance(right, Doubt):
            return left if isinstance(left, Doubt) else right  # type: ignore[return-value]
        if isinstance(left, Text) and isinstance(right, Text):
            return str(left) == str(right) and (loose or left.number == right.number)
        if isinstance(left, Absent) and isinstance(right, Absent):
            return loose or left.null == right.null
        if isinstance(left, bool) and isinstance(right, bool):
            return left == right
        if type(left) is not type(right):
            return False if not loose else Doubt("values of two kinds are compared")
        return left is right

    def assign(self, node: tree.Assign, scope: Scope) -> Data:
        value = self.of(node.value, scope)
        if node.sign != "=":
            before = self.of(node.target, scope)
            if node.sign in ("??=", "||="):
                holds = not isinstance(before, Absent) if node.sign == "??=" else truth(before)
                value = (
                    before if holds is True else holds if isinstance(holds, Doubt) else self.default(before, value)
                )
            else:
                value = script_calls.combined(node.sign[0], before, value)
                value = replace(value, spot=None) if isinstance(value, Text) else value
        self.set(node.target, value, scope)
        return value

    def set(self, target: tree.Node, value: Data, scope: Scope) -> None:
        """Give a variable or a member its value."""
        if isinstance(target, tree.Name):
            holder = scope.holder(target.text)
            (holder or scope).names[target.text] = value
        elif isinstance(target, tree.Member):
            of = self.of(target.of, scope)
            text = text_of(self.key(target.key, scope))
            if isinstance(of, Table) and isinstance(text, Text):
                of.entries[str(text)] = self.placed(value, target, scope)
            elif isinstance(of, Table) and isinstance(text, Doubt):
                of.spoil(text)
            elif isinstance(of, list):
                spoiled(of, Doubt("an item is set", self.spot(target, scope)))

    # -- calls

    def call(self, node: tree.Call, scope: Scope) -> Data:
        args = self.items(node.args, scope)
        spot = self.spot(node, scope)
        found: Data
        if isinstance(node.of, tree.Member) and isinstance(node.of.key, tree.Name) and node.of.key.text[:1] == "'":
            name = node.of.key.text[1:]
            of = self.of(node.of.of, scope)
            own = of.entries.get(name) if isinstance(of, Table) else None
            if isinstance(own, Closure):
                found = self.called(own, args)
            elif isinstance(of, Doubt | Absent):
                found = of if isinstance(of, Doubt) or node.of.optional else Doubt(f"{name}() is called on nothing")
            else:
                found = script_calls.method(self, of, name, args)
        else:
            of = self.of(node.of, scope)
            if isinstance(of, Host) and of.name == "require":
                found = self.required(scope, args[0] if args else Absent())
            elif isinstance(of, Host):
                found = script_calls.made(of.name, args)
            elif isinstance(of, Doubt) and isinstance(node.of, tree.Name) and _PLUGIN.match(node.of.text) and args:
                return args[0]
            else:
                found = self.called(of, args)
        if isinstance(found, Doubt):
            for arg in args:  # whoever is given it may change it
                if isinstance(arg, Table) and not _is_silent(node):
                    arg.spoil(replace(found, spot=found.spot or spot))
            return replace(found, spot=found.spot or spot)
        return found

    def called(self, of: Data, args: list[Data]) -> Data:
        """Return what a function gives."""
        if isinstance(of, Doubt):
            return of
        if isinstance(of, Host):
            return script_calls.made(of.name, args[:1])
        if not isinstance(of, Closure):
            return Doubt("what is called is not a function")
        self._depth += 3
        if self._depth > 4 * _DEEPEST:
            raise Ended(_TOO_MUCH)
        scope = Scope(of.scope.file, of.scope)
        for number, param in enumerate(of.function.params):
            if param.rest:
                self.declare(replace(param, rest=False), args[number:], scope)
            else:
                self.declare(param, args[number] if number < len(args) else Absent(), scope)
        try:
            if not isinstance(of.function.body, tree.Block):
                return self.of(of.function.body, scope)
            self.hoist(of.function.body.statements, scope)
            self.run(of.function.body.statements, scope)
            return Absent()
        except _Left as left:
            return left.value
        finally:
            self._depth -= 3


def data_of(node: JsonNode, piece: Callable[[JsonNode], Piece | None]) -> Data:
    """Return what a JSON file holds, each value with its place."""
    if node.kind == "object":
        return Table({key: data_of(value, piece) for key, value in node.members})
    if node.kind == "array":
        return [data_of(item, piece) for item in node.items]
    if isinstance(node.value, bool):
        return node.value
    said = piece(node)
    return Text((said,), node.kind != "string") if said is not None else Absent(null=True)


def _is_silent(node: tree.Call) -> bool:
    return isinstance(node.of, tree.Member) and isinstance(node.of.of, tree.Name) and node.of.of.text == "console"


def _walked(item: object) -> Iterable[tree.Node]:
    """Yield a node and all nodes below it."""
    if isinstance(item, tree.Node):
        yield item
        for name in type(item).__slots__:
            yield from _walked(getattr(item, name))
    elif isinstance(item, tuple):
        for part in item:
            yield from _walked(part)


_CHANGES = frozenset(
    {"push", "pop", "shift", "unshift", "splice", "sort", "reverse", "assign", "fill", "set", "delete"}
)


def _changed(item: tree.Node) -> set[str]:
    """Return the variables that a statement may give a value, or change."""
    found: set[str] = set()
    for node in _walked(item):
        if isinstance(node, tree.Unknown):
            found |= node.names
        target = node.target if isinstance(node, tree.Assign) else None
        if isinstance(node, tree.Unary) and node.sign[-2:] in ("++", "--"):
            target = node.of
        if isinstance(node, tree.Call):
            target = node.of
            found |= {arg.text for arg in node.args if isinstance(arg, tree.Name)}
        while isinstance(target, tree.Member | tree.Call):
            target = target.of
        if isinstance(target, tree.Name) and not isinstance(node, tree.Call):
            found.add(target.text)
        elif isinstance(target, tree.Name) and isinstance(node, tree.Call) and isinstance(node.of, tree.Member):
            key = node.of.key
            if isinstance(key, tree.Name) and key.text[1:] in _CHANGES:
                found.add(target.text)
    return found


def _leaves(item: tree.Node) -> bool:
    """Tell whether a statement may end the function that it stands in."""
    inner = [node for node in _walked(item) if isinstance(node, tree.Function)]
    spans = [(node.start, node.end) for node in inner]
    found = (node for node in _walked(item) if isinstance(node, tree.Leave) and node.word == "return")
    return any(not any(start <= node.start < end for start, end in spans) for node in found)


def _throws(item: tree.Node) -> bool:
    while isinstance(item, tree.Block) and len(item.statements) == 1:
        item = item.statements[0]
    return isinstance(item, tree.Leave) and item.word == "throw"
