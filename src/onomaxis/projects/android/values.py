"""What a Gradle expression comes to, piece by piece, with the literal each piece was written in.

Followed: literals, templates, sums, lists and maps, conditions that the scripts decide, variables in the order in
which they are set, functions and closures, extra properties of a script and of those above and beside it,
``gradle.properties``, version catalogs, files that are loaded, constants of ``buildSrc`` and included builds.
Anything else raises :class:`Unknown`: nothing is guessed.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field, replace

from onomaxis.formats.gradle import Script
from onomaxis.formats.gradle_statements import Setting
from onomaxis.formats.lexer import Token
from onomaxis.formats.properties import Properties
from onomaxis.model import Piece, Place, Value
from onomaxis.projects.android.catalogs import Catalog
from onomaxis.projects.android.constants import Constants, script_constants
from onomaxis.projects.android.expressions import Evaluator
from onomaxis.projects.android.scope import ScriptFile, Unknown
from onomaxis.projects.android.script_calls import file_of
from onomaxis.projects.android.script_data import TREE, Data, Function, Nothing, Room, Scope, Table, Text, text_of
from onomaxis.projects.android.script_runs import Left, Returned, Run, acts, run_function
from onomaxis.projects.project import place

# A script may have come from anywhere: what it asks for comes to an end.
_MOST_CALLS = 100
_MOST_STEPS = 20_000
_DEEPEST = 20
_DEEPEST_STEP = 100
_DEEPEST_CALL = 12


@dataclass
class Spent:
    """What one value has cost so far."""

    calls: int = 0
    running: int = 0
    steps: int = 0
    depth: int = 0
    weighing: int = 0
    strict: bool = False
    following: list[str] = field(default_factory=list)
    known: dict[str, Data] = field(default_factory=dict)

    def clear(self) -> None:
        """Begin anew for another value."""
        self.calls = self.steps = self.depth = self.running = self.weighing = 0
        self.strict = False
        self.following.clear()
        self.known.clear()


@dataclass
class Environment:
    """Where names are looked up from one script: itself first, then ``others`` in order, then properties."""

    own: ScriptFile
    others: list[ScriptFile] = field(default_factory=list)
    properties: list[tuple[str, Properties]] = field(default_factory=list)
    catalogs: dict[str, Catalog] = field(default_factory=dict)
    constants: Constants | None = None
    given: Mapping[str, Piece] = field(default_factory=dict)
    # What names mean in one flavor's own block alone.
    inside: Mapping[str, Piece] = field(default_factory=dict)
    # What the names of closures and loops stand for, in the turn that is looked at.
    bound: Mapping[str, object] = field(default_factory=dict)
    _spent: Spent = field(default_factory=Spent)
    _room: Room = field(default_factory=Room)
    # The variables of each body, statement by statement.
    _bodies: dict[tuple[object, ...], _Body] = field(default_factory=dict)

    def named(self, flavor: str) -> Environment:
        """Return the environment inside a flavor's own block, where ``name`` is what the flavor is called."""
        try:
            own = self.setting_of("name") is None
        except Unknown:
            own = False
        called = {key: Piece(flavor) for key in ("name", "it.name", "this.name")} if own else {}
        return replace(self, inside=called)

    def value(self, found: Sequence[Token], file: ScriptFile | None = None) -> Value:
        """Evaluate an expression of *file* (default: the script that holds it). Raises Unknown."""
        file = file or self.file_of(found)
        self._spent.clear()
        pieces = text_of(self._evaluated(file, found)).pieces
        if any(TREE in piece.text for piece in pieces):
            raise Unknown("where the project lies is part of the value")
        return Value(pieces, self.place(found, file))

    def data(self, found: Sequence[Token], file: ScriptFile, given: Mapping[str, object]) -> Data:
        """Return what an expression comes to where some names stand for something. Raises Unknown."""
        self._spent.clear()
        return self._asked(file, found, given).of_tokens(found)

    def entry(self, found: Sequence[Token], key: str) -> Value | None:
        """Return an entry of a map that an expression comes to; None where it has none. Raises Unknown."""
        self._spent.clear()
        table = self._evaluated(self.file_of(found), found)
        if not isinstance(table, Table):
            raise Unknown("what placeholders are filled with is not a map")
        said = table.get(key)
        if isinstance(said, Nothing) and said.kind == "null":
            return None
        return Value(text_of(said).pieces, self.place(found))

    def holds(self, found: Sequence[Token], file: ScriptFile, given: Mapping[str, object]) -> bool:
        """Tell whether a condition of a script holds. Raises Unknown where only the build knows."""
        if not found:
            raise Unknown("there is no condition")
        self._spent.clear()
        return self._asked(file, found, given).holds(found)

    def run_strictly(self, function: Function, given: Data) -> None:
        """Run a closure for what it changes. Raises Unknown where a statement of it is not followed."""
        self._spent.clear()
        self._spent.strict = True
        run_function(self, function, [given], {}, given)

    def path(self, found: Sequence[Token]) -> str:
        """Return the path of the file that an expression names, or nothing where nobody can tell."""
        try:
            data = self._evaluated(self.own, found)
            return file_of(Evaluator(self, self.own), data, None).path
        except Unknown:
            return ""

    def place(self, found: Sequence[Token], file: ScriptFile | None = None) -> Place:
        """Return the span of a whole expression, to be replaced by a quoted literal where all else fails."""
        file = file or self.file_of(found)
        syntax = "gradle-expression"
        return place(file.path, file.script.source, *file.span(found), syntax)

    def file_of(self, found: Sequence[Token]) -> ScriptFile:
        """Return the script that holds an expression: the own one, or one of the others."""
        for file in self.others:
            if file.holds(found[0]):
                return file
        return self.own

    # -- what expressions ask for

    def shared(self, name: str) -> Data:
        """Return an extra property, a variable of a script or a property; Nothing for none. Raises Unknown."""
        spent = self._spent
        if name in spent.known:  # a name is followed once in an expression, however often it stands there
            return spent.known[name]
        found = self.setting_of(name) if name not in spent.following else None
        if found is not None:
            if len(spent.following) > _DEEPEST:
                raise Unknown(f"“{name}” refers to itself")
            spent.following.append(name)
            try:
                data = self._outside()._evaluated(found[0], found[1].value)
            finally:
                spent.following.pop()
            spent.known[name] = data
            return data
        for path, properties in self.properties:
            entry = properties.get(name)
            if entry:
                spot = place(path, properties.source, entry.start, entry.end, "properties")
                return Text((Piece(entry.value, spot),))
        return Nothing(f"“{name}” is not set where Onomaxis looks", "missing")

    def setting_of(self, name: str) -> tuple[ScriptFile, Setting] | None:
        """Return the one setting that gives *name* its value, and its script. Raises Unknown for several."""
        for file in (self.own, *self.others):
            hits = [
                item
                for item in file.called(name)
                if _declares(item) and item.value and (file is self.own or _shared(item)) and not _delegated(item)
            ]
            if not hits:
                continue
            if len(hits) > 1 or hits[0].conditional:
                raise Unknown(f"“{name}” is set under a condition or more than once")
            return file, hits[0]
        return None

    def setting(self, parts: Sequence[str]) -> Data:
        """Return what the script's own ``android`` block says. Raises Unknown."""
        wanted = tuple(parts if parts[0] == "android" else ["android", *parts])
        named = ".".join(parts)
        for item in self.own.called(wanted[-1]):
            if item.full == wanted and not item.conditional and item.value and named not in self._spent.following:
                self._spent.following.append(named)
                try:
                    return self._outside()._evaluated(self.own, item.value)
                finally:
                    self._spent.following.pop()
        raise Unknown(f"“{named}” is not set in this script")

    def constant(self, parts: Sequence[str]) -> Data | None:
        """Return the value of ``Object.NAME`` of the script itself, ``buildSrc`` or an included build."""
        if self.constants is None or len(self._spent.following) > _DEEPEST:
            return None
        sources = [script_constants(self.own.path, self.own.script), *self.constants.files]
        hits = [(file, found) for file in sources if file and (found := file.find(parts)) is not None]
        if not hits:
            return None
        if len(hits) > 1:
            raise Unknown(f"“{'.'.join(parts)}” is defined more than once")
        file, value = hits[0]
        script = ScriptFile(file.path, Script(file.source, (), file.kotlin))
        script.settings = file.settings  # there are no statements: its constants are known already
        inner = replace(self, own=script, others=[], inside={})
        self._spent.following.append(".".join(parts))
        try:
            return Evaluator(inner, script).of_tokens(value)
        finally:
            self._spent.following.pop()

    def function(self, name: str) -> Function | None:
        """Return a function of the scripts; None where it is none of theirs. Raises Unknown for several."""
        for file in (self.own, *self.others):
            if name in file.functions:
                block = file.functions[name]
                if block is None:
                    raise Unknown(f"there are several functions {name}()")
                return Function(block, file, None, self._outside())
        return None

    def run(self, function: Function, args: list[Data], named: Mapping[str, Data], it: Data | None = None) -> Data:
        """Return what a function gives. Raises Unknown."""
        self._spent.calls += 1
        if self._spent.calls > _MOST_CALLS:
            raise Unknown("functions are called too often for one value")
        if self._spent.running > _DEEPEST_CALL:
            raise Unknown("functions call each other too deeply")
        self._spent.running += 1
        try:
            return run_function(function.names, function, args, named, it)
        finally:
            self._spent.running -= 1

    def folder(self, file: ScriptFile, root: bool) -> str:
        """Return the folder that paths of a script are seen from, or that of the whole build."""
        return self.constants.root if root and self.constants is not None else file.path.rpartition("/")[0]

    def read(self, path: str) -> bytes | None:
        """Return a file of the tree; None where there is none."""
        return self.constants.tree.named_file(path) if self.constants is not None else None

    def is_folder(self, path: str) -> bool:
        """Tell whether the tree has a folder with something in it."""
        return self.constants is not None and next(self.constants.tree.below(path), None) is not None

    def enter(self) -> None:
        """Begin a step. Raises Unknown after too many, or below too many."""
        self.step()
        self._spent.depth += 1
        if self._spent.depth > _DEEPEST_STEP:
            raise Unknown("the expression is nested too deeply")

    def step(self) -> None:
        """Count a step. Raises Unknown after too many."""
        self._spent.steps += 1
        if self._spent.steps > _MOST_STEPS:
            raise Unknown("too much is computed for one value")

    def weigh(self, step: int) -> None:
        """Begin (1) or end (-1) a condition."""
        self._spent.weighing += step

    @property
    def strict(self) -> bool:
        """Whether a statement that is not followed makes all of it unknown."""
        return self._spent.strict

    @property
    def weighing(self) -> bool:
        """Whether a condition is being told: what only a command line gives decides none."""
        return self._spent.weighing > 0

    def leave(self) -> None:
        """End a step."""
        self._spent.depth -= 1

    # -- where an expression stands

    def _outside(self) -> Environment:
        """Return the environment of what stands elsewhere: names of flavors and loops mean nothing there."""
        return replace(self, inside={}, bound={}) if self.inside or self.bound else self

    def _evaluated(self, file: ScriptFile, found: Sequence[Token]) -> Data:
        """Evaluate tokens of a script where they stand."""
        if not found:
            raise Unknown("the expression is empty")
        if any(token.text == "{" for token in found):
            found = file.with_lines(found)
        return self._asked(file, found, {}).of_tokens(found)

    def _asked(self, file: ScriptFile, found: Sequence[Token], given: Mapping[str, object]) -> Evaluator:
        """Return who evaluates an expression where it stands, where some names stand for something."""
        said = file.copy_of(found)
        bound = given or (said.bound if said is not None else {})
        # What a loop wrote out stands where the loop does, its literals before it.
        position = said.start if said is not None else max(token.start for token in found)
        scope = (replace(self, bound=bound) if bound else self).scope(file, position)
        scope = Scope(scope, _data(given)) if given else scope
        if acts(file, found, scope):  # a value is asked for again and again: it must not change what it sees
            scope = scope.copied(self._room)
        return Evaluator(self, file, scope)

    def scope(self, file: ScriptFile, position: int) -> Scope:
        """Return the variables that are seen at a position: of the script, and of each block around it."""
        outside = replace(self, inside={}) if self.inside else self
        scope = outside._body(file, -1, len(file.tokens), None).before(outside, position)
        blocks = file.around(position)
        if len(blocks) > _DEEPEST:
            raise Unknown("the expression is nested too deeply")
        for depth, (opening, closing) in enumerate(blocks):
            names = self if depth == len(blocks) - 1 else outside
            if file.repeats(opening):
                scope = _loosened(scope, file, opening)
            scope = names._body(file, opening, closing, scope).before(names, position)
        return scope

    def _body(self, file: ScriptFile, opening: int, end: int, outer: Scope | None) -> _Body:
        """Return the statements of a body, with the variables that are seen in it; of all of the script for -1."""
        start, params = file.inner(opening, end) if opening >= 0 else (0, ())
        repeats = opening >= 0 and file.repeats(opening)
        own = {name: name for name in (*params, *(["name"] if repeats else [])) if name in self.bound}
        if file.script.kotlin and params == ("it",) and not repeats:
            params = ()  # it has a receiver, and sees what is called “it” around it
            own.pop("it", None)
        if "it" in own:
            own["it"] = f"it@{file.tokens[opening].end}"
        turn = tuple(id(self.bound.get(said)) for said in own.values())
        key = (file.path, start, id(outer), tuple(self.inside.items()), tuple(own), turn)
        found = self._bodies.get(key)
        if found is None:
            why = Unknown("a block's parameter has a value only when the build runs")
            given: dict[str, Data | Unknown] = dict.fromkeys(params, why)
            given |= _data({name: self.bound.get(said) for name, said in own.items()})
            found = self._bodies[key] = _Body(file, start, end, outer)
            found.scopes.append(Scope(outer, dict(given), body=found))
        return found


def _data(given: Mapping[str, object]) -> dict[str, Data | Unknown]:
    return {name: data for name, data in given.items() if isinstance(data, Text | Table | list | bool | Nothing)}


@dataclass
class _Body:
    """The statements of a body, and the variables after each of them that was run."""

    file: ScriptFile
    start: int
    end: int
    outer: Scope | None  # kept, so that nothing else gets its identity
    scopes: list[Scope] = field(default_factory=list)
    spans: Sequence[tuple[int, int]] = ()
    busy: bool = False

    def __post_init__(self) -> None:
        self.spans = self.file.statements(self.start, self.end)

    def before(self, names: Environment, position: int) -> Scope:
        """Return the variables before the statement that a position is in; run what was not run yet."""
        count = bisect_right(self.spans, position, key=lambda span: self.file.tokens[span[1] - 1].end - 1)
        if self.busy:  # a statement asks for what it is about to set
            return self.scopes[-1]
        self.busy = True
        try:
            while len(self.scopes) <= count:
                self.scopes.append(self._after(names, *self.spans[len(self.scopes) - 1]))
        finally:
            self.busy = False
        return self.scopes[count]

    def _after(self, names: Environment, begin: int, stop: int) -> Scope:
        """Return the variables after a statement: the same ones where it sets none."""
        scope = self.scopes[-1]
        part = self.file.tokens[begin:stop]
        if acts(self.file, part, scope):
            try:
                scope = scope.copied(names._room)
            except Unknown as error:
                return replace(scope, names=dict.fromkeys(scope.names, error))
        elif any(token.text in _EFFECTS for token in part):
            scope = replace(scope, names=dict(scope.names))
        else:
            return scope
        with suppress(Unknown, Returned, Left):  # what it may have changed is unknown by now
            Run(names, self.file, scope).body(part)
        return scope


# What a statement has that may declare a variable.
_EFFECTS = frozenset({"def", "var", "val", "="})


def _loosened(scope: Scope, file: ScriptFile, opening: int) -> Scope:
    """Return the variables as a block sees them that may run several times, or later: what is changed is unknown."""
    names: set[str] = set()
    around: Scope | None = scope
    while around is not None:
        names.update(name for name in around.names if file.last_changed.get(name, -1) >= opening)
        around = around.above
    why = Unknown("it may have another value by the time that this block runs")
    return Scope(scope, dict.fromkeys(names, why)) if names else scope


def _declares(item: Setting) -> bool:
    full = item.full
    return (
        (item.declared and len(full) <= 2)
        or (len(full) >= 2 and full[-2] in ("ext", "extra", "companion", "object"))
        or (len(full) == 1 and not item.statement.args)
        or (len(full) == 2 and full[0] in _EVERY_PROJECT and not item.statement.args)
    )


def _shared(item: Setting) -> bool:
    """A variable that other scripts see: an extra property, not a local."""
    return "ext" in item.full or "extra" in item.full or item.declared or item.full[0] in _EVERY_PROJECT


_EVERY_PROJECT = ("allprojects", "subprojects")
_DELEGATES = frozenset({"project", "rootProject", "extra", "ext", "settings"})


def _delegated(item: Setting) -> bool:
    """Tell ``val x: String by project``: the value is that of the property of the same name."""
    return item.declared and all(token.text in _DELEGATES or token.text == "." for token in item.value)
