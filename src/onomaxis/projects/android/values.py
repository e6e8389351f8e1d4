"""What a Gradle expression comes to, piece by piece, with the literal each piece was written in.

Followed: literals, templates, concatenation, sums, maps, variables of the script, extra properties of it and of the
scripts above and beside it, ``gradle.properties``, version catalogs, files that a variable is loaded from, constants
of ``buildSrc`` and included builds, defaults, ``toInteger()`` and its kind. Anything else raises :class:`Unknown`:
nothing is guessed.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from onomaxis.formats.gradle import Script
from onomaxis.formats.gradle_statements import Setting
from onomaxis.formats.lexer import Token, matching
from onomaxis.formats.properties import Properties
from onomaxis.model import Piece, Place, Value
from onomaxis.projects.android.access import Access, access_path
from onomaxis.projects.android.catalogs import Catalog
from onomaxis.projects.android.constants import Constants, script_constants
from onomaxis.projects.android.expressions import Evaluator
from onomaxis.projects.android.property_files import LoadedFile, loaded_files, mapped, returned_files
from onomaxis.projects.android.scope import NotSet, ScriptFile, Unknown
from onomaxis.projects.android.script_functions import Call, Helper, Local, call_of
from onomaxis.projects.project import place


@dataclass
class Environment:
    """Where names are looked up from one script: itself first, then ``others`` in order, then properties."""

    own: ScriptFile
    others: list[ScriptFile] = field(default_factory=list)
    properties: list[tuple[str, Properties]] = field(default_factory=list)
    catalogs: dict[str, Catalog] = field(default_factory=dict)
    constants: Constants | None = None
    given: Mapping[str, Piece] = field(default_factory=dict)
    # Where the expression stands that asks, script and view position, and what names mean there alone.
    spot: tuple[ScriptFile, int] | None = None
    inside: Mapping[str, Piece] = field(default_factory=dict)
    _known: dict[str, tuple[Piece, ...]] = field(default_factory=dict)
    _calls: list[str] = field(default_factory=list)  # the functions that one expression has called

    def named(self, flavor: str) -> Environment:
        """Return the environment inside a flavor's own block, where ``name`` is what the flavor is called."""
        try:
            own = self.setting_of("name") is None
        except Unknown:
            own = False
        called = {key: Piece(flavor) for key in ("name", "it.name", "this.name")} if own else {}
        return replace(self, inside=called)

    def bound(self, name: str) -> Piece | None:
        """Return what a name means where the expression stands, or wherever it is asked for."""
        return self.inside.get(name) or self.given.get(name)

    def value(self, found: Sequence[Token], file: ScriptFile | None = None) -> Value:
        """Evaluate an expression of *file* (default: the script that holds it). Raises Unknown."""
        file = file or self.file_of(found)
        self._known.clear()
        self._calls.clear()
        pieces = self._evaluated(file, found, -1)
        return Value(pieces, self.place(found, file))

    def place(self, found: Sequence[Token], file: ScriptFile | None = None) -> Place:
        """Return the span of a whole expression, to be replaced by a quoted literal where all else fails."""
        file = file or self.file_of(found)
        syntax = "gradle-expression"
        return place(file.path, file.script.source, found[0].start, found[-1].end, syntax)

    def file_of(self, found: Sequence[Token]) -> ScriptFile:
        """Return the script that holds an expression: the own one, or one of the others."""
        for file in self.others:
            if file.holds(found[0]):
                return file
        return self.own

    def lookup(self, name: str, depth: int) -> tuple[Piece, ...]:
        """Return the pieces of the variable or property *name*. Raises Unknown."""
        if depth > 20:
            raise Unknown(f"“{name}” refers to itself")
        bound = self.bound(name)
        if bound is not None:
            return (bound,)
        shared = self._local(name) is None
        if shared and name in self._known:  # a name is followed once in an expression, however often it stands there
            return self._known[name]
        found = self._held(name)
        if found is not None:
            there, file, held = found
            pieces = there._evaluated(file, held, depth)
            if shared:
                self._known[name] = pieces
            return pieces
        for path, properties in self.properties:
            entry = properties.get(name)
            if entry:
                spot = place(path, properties.source, entry.start, entry.end, "properties")
                return (Piece(entry.value, spot),)
        raise NotSet(f"“{name}” is not set where Onomaxis looks")

    def setting_of(self, name: str) -> tuple[ScriptFile, Setting] | None:
        """Return the one setting that gives *name* its value, and its script. Raises Unknown for several."""
        for file in (self.own, *self.others):
            hits = [
                item
                for item in file.settings
                if _declares(item, name) and item.value and (file is self.own or _shared(item))
            ]
            hits = [item for item in hits if not _delegated(item)]
            if not hits:
                continue
            if len(hits) > 1 or hits[0].conditional:
                raise Unknown(f"“{name}” is set under a condition or more than once")
            return file, hits[0]
        return None

    def entry(self, name: str, key: str, depth: int) -> tuple[Piece, ...] | None:
        """Return the entry *key* of a map, or of a file that a variable was loaded from; None where it is neither.

        Raises NotSet where the map or file has no such entry, Unknown where it cannot be told which file it is.
        """
        loaded = _one(self._loaded(name), name)
        if loaded is not None:
            spot = loaded.entry(key)
            if spot is None:
                raise NotSet(f"“{key}” is not set in {loaded.path}")
            return (spot,)
        found = self._held(name) if depth < 20 else None
        if found is None:
            return None
        there, file, held = found
        value = mapped(held, key)
        if value is None:
            if held[0].text in _MAPS and matching(held, int(held[0].text != "[")) == len(held) - 1:
                raise NotSet(f"“{key}” is not in “{name}”")
            return None
        return there._evaluated(file, value, depth)

    def _held(self, name: str) -> tuple[Environment, ScriptFile, tuple[Token, ...]] | None:
        """Return what a variable is set to: where that is evaluated, in which script. Raises Unknown for several."""
        local = self._local(name)
        if local is not None and self.spot is not None:
            return self, self.spot[0], local.value
        found = self.setting_of(name)
        return (self._outside(), found[0], found[1].value) if found is not None else None

    def entry_at(self, path: Access, depth: int) -> tuple[Piece, ...] | None:
        """Return what stands at a path into a loaded file, through variables that hold a part of it; None elsewhere.

        Raises NotSet where the file has nothing there, Unknown where it cannot be told which file it is.
        """
        if depth > 20:
            return None
        files = self._loaded(path.owner) if path.call is None else self._returned(path.call, depth)
        loaded = _one(files, path.owner)
        if loaded is not None:
            found = loaded.entry(*path.keys)
            if found is None:
                raise NotSet(f"“{'.'.join(path.keys)}” is not set in {loaded.path}")
            return (found,)
        if path.call is not None:
            return None
        try:
            held = self._held(path.owner)
        except Unknown:
            return None
        above = access_path(held[2]) if held is not None else None
        return self.entry_at(Access(above.owner, above.keys + path.keys), depth + 1) if above is not None else None

    def called(self, call: Call, depth: int) -> tuple[Piece, ...] | None:
        """Return what a function or closure of the scripts gives; None where it is none of theirs. Raises Unknown."""
        found = self._helper(call, depth)
        if found is None:
            return None
        file, helper, given = found
        return replace(self, inside=given)._evaluated(file, helper.result, depth)

    def _outside(self) -> Environment:
        """Return the environment of what stands elsewhere: a block's names and parameters mean nothing there."""
        return replace(self, inside={}) if self.inside else self

    def _evaluated(self, file: ScriptFile, found: Sequence[Token], depth: int) -> tuple[Piece, ...]:
        """Evaluate tokens of a script where they stand."""
        there = replace(self, spot=(file, found[0].start)) if found else self
        return Evaluator(there, file, list(found), depth + 1).whole()

    def _local(self, name: str) -> Local | None:
        """Return the variable of that name of the block that the expression stands in."""
        return self.spot[0].declared.local(name, self.spot[1]) if self.spot is not None else None

    def _helper(self, call: Call, depth: int) -> tuple[ScriptFile, Helper, dict[str, Piece]] | None:
        """Return a function of the scripts, the script, and what it is given; None where it is none of theirs."""
        for file in (self.own, *self.others) if depth < 20 else ():
            helper = file.declared.helper(call.name)
            given = call.given(helper.parameters) if helper is not None else None
            if helper is not None and given is not None:
                self._calls.append(call.name)
                if len(self._calls) > _MOST_CALLS:
                    raise Unknown(f"“{call.name}” is called too often for one value")
                own = self.spot[0] if self.spot is not None else self.own
                values = {name: self._evaluated(own, part, depth) for name, part in given.items()}
                return file, helper, {name: _whole(pieces) for name, pieces in values.items()}
        return None

    def _returned(self, call: Call, depth: int) -> list[LoadedFile]:
        """Return the files from which what a call gives is loaded."""
        found = self._helper(call, depth) if self.constants is not None else None
        if found is None or self.constants is None:
            return []
        file, helper, given = found
        texts = {name: piece.text for name, piece in given.items()}
        return returned_files(helper, file.path, self.constants.root, self.constants.tree, texts)

    def _loaded(self, name: str) -> list[LoadedFile]:
        if self.constants is None:
            return []
        root, tree = self.constants.root, self.constants.tree
        texts = {key: piece.text for key, piece in self.inside.items()}
        local = self._local(name)
        if local is not None and self.spot is not None:
            file = self.spot[0]
            call = call_of(local.value)
            found = self._returned(call, 0) if call is not None else []
            return found or loaded_files(file.declared.inside(local), file.path, name, root, tree, texts)
        for file in (self.own, *self.others):
            view = file.script.source.view
            if name in view and any(word in view for word in ("load", "JsonSlurper")):
                found = loaded_files(file.declared.tokens, file.path, name, root, tree, {})
                if found:
                    return found
        return []

    def constant(self, parts: Sequence[str], depth: int) -> tuple[Piece, ...] | None:
        """Return the value of ``Object.NAME`` of the script itself, ``buildSrc`` or an included build."""
        if self.constants is None or depth > 20:
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
        inner = replace(self, own=script, others=[])
        return Evaluator(inner, script, list(value), depth + 1).whole()


def _one(files: Sequence[LoadedFile], name: str) -> LoadedFile | None:
    """Return the one file that a variable is loaded from, None for none. Raises Unknown where nobody can tell."""
    if len({file.path for file in files}) > 1:
        raise Unknown(f"“{name}” is loaded from several files")
    if files and "$" in files[0].path:
        raise Unknown(f"which file “{name}” is loaded from is computed when the build runs")
    return files[0] if files else None


def _whole(pieces: tuple[Piece, ...]) -> Piece:
    return pieces[0] if len(pieces) == 1 else Piece("".join(piece.text for piece in pieces))


def _declares(item: Setting, name: str) -> bool:
    full = item.full
    return full[-1] == name and (
        (item.declared and len(full) == 1)
        or (len(full) >= 2 and full[-2] in ("ext", "extra", "companion", "object"))
        or (len(full) == 1 and not item.statement.args)
        or (item.declared and len(full) <= 2)
        or (len(full) == 2 and full[0] in _EVERY_PROJECT and not item.statement.args)
    )


def _shared(item: Setting) -> bool:
    """A variable that other scripts see: an extra property, not a local."""
    return "ext" in item.full or "extra" in item.full or item.declared or item.full[0] in _EVERY_PROJECT


_EVERY_PROJECT = ("allprojects", "subprojects")
# A script may have come from anywhere: functions that call each other twice would not come to an end.
_MOST_CALLS = 100
# How a map begins that says all it holds.
_MAPS = frozenset({"[", "mapOf", "mutableMapOf", "hashMapOf", "linkedMapOf"})
_DELEGATES = frozenset({"project", "rootProject", "extra", "ext", "settings"})


def _delegated(item: Setting) -> bool:
    """Tell ``val x: String by project``: the value is that of the property of the same name."""
    return item.declared and all(token.text in _DELEGATES or token.text == "." for token in item.value)
