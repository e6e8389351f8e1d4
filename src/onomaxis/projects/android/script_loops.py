"""The loops of a build script written out, and its conditions decided, as far as the scripts say."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, replace

from onomaxis.formats.gradle import Script
from onomaxis.formats.gradle_expressions import Block
from onomaxis.formats.gradle_loops import KEYS, VALUES, Bindings, Item, unrolled
from onomaxis.formats.gradle_statements import literal_text
from onomaxis.formats.lexer import Given, Token
from onomaxis.model import Piece
from onomaxis.projects.android.scope import ScriptFile, Unknown
from onomaxis.projects.android.script_data import Data, Nothing, Table, Text, computed, number_of, sure
from onomaxis.projects.android.values import Environment

_DEEPEST = 8
_MOST_TURNS = 1000


def written_out(file: ScriptFile, environment: Environment) -> ScriptFile:
    """Return a script with its loops and calls written out: what they are given is evaluated where they stand."""
    source = file.script.source
    statements = unrolled(file.script.statements, source, file.tokens, _Asked(file, environment), file.script.kotlin)
    return ScriptFile(file.path, Script(source, tuple(statements), file.script.kotlin))


@dataclass(frozen=True)
class _Asked:
    """Evaluates what the loops and calls of one script are given."""

    file: ScriptFile
    environment: Environment

    def items(self, found: Sequence[Token], around: Bindings) -> Sequence[Item] | None:
        data = self.data(found, around)
        if isinstance(data, Table):
            return [_pair(self.file, data, key) for key in data.entries] if not data.doubt else None
        with suppress(Unknown):
            if isinstance(data, Text) and data.number:  # 3.times
                return [_item(self.file, computed(at)) for at in range(min(number_of(data), _MOST_TURNS))]
            return [_item(self.file, part) for part in sure(data)] if isinstance(data, list) else None
        return None

    def owner(self, name: Token) -> Item:
        said = _item(self.file, Text((Piece(literal_text([name])),), token=name))
        data = Table({"name": said.data}, "what it is called with", doubt="what is set of each is not followed")  # type: ignore[dict-item]
        return Item(name, {"name": replace(said, token=name)}, data)

    def item(self, found: Sequence[Token], around: Bindings) -> Item:
        data = self.data(found, around)
        return Item() if data is None else _item(self.file, data)

    def holds(self, found: Sequence[Token], around: Bindings) -> bool | None:
        try:
            return self.environment.holds(found, self.file, {name: item.data for name, item in around.items()})
        except Unknown:
            return None

    def function(self, name: str) -> Block | None:
        return self.file.functions.get(name) or self.file.closures.get(name)

    def data(self, found: Sequence[Token], around: Bindings) -> Data | None:
        try:
            return self.environment.data(found, self.file, {name: item.data for name, item in around.items()})
        except Unknown:
            return None


def _pair(file: ScriptFile, table: Table, key: str) -> Item:
    said = Text(computed(key).pieces, token=table.keys.get(key))
    parts = dict.fromkeys(KEYS, _item(file, said)) | dict.fromkeys(VALUES, _item(file, table.entries[key]))
    return Item(None, parts, Table({"key": said, "value": table.entries[key]}))


def _item(file: ScriptFile, data: Data, depth: int = 0) -> Item:
    """Return what a name stands for: by the literal of the script, or by a text that stands elsewhere."""
    if depth > _DEEPEST:
        return Item(None, {}, data)
    if isinstance(data, Text):
        return Item(_token(file, data), {}, data)
    if isinstance(data, Table):
        parts = {key: _item(file, part, depth + 1) for key, part in data.entries.items()}
        return Item(None, parts, data, not data.doubt)
    if isinstance(data, list):
        parts = {str(at): _item(file, part, depth + 1) for at, part in enumerate(data)}
        if len(data) == 2:
            parts |= dict.fromkeys(KEYS, parts["0"]) | dict.fromkeys(VALUES, parts["1"])
        return Item(None, parts, data)
    if isinstance(data, bool):
        return Item(Token("name", 0, 0, str(data).lower()), {}, data)
    if isinstance(data, Nothing) and data.kind == "null":
        return Item(Token("name", 0, 0, "null"), {}, data)
    return Item(None, {}, data)


def _token(file: ScriptFile, text: Text) -> Token:
    own = text.token
    spot = text.pieces[0].place if len(text.pieces) == 1 else None
    if own is not None and (spot is None or spot.file == file.path):
        return own
    parts = tuple(Given(piece.text, piece.place) for piece in text.pieces)
    if text.number:
        return Token("number", 0, 0, str(text), parts)
    return Token("string", 0, 0, f'"{text}"', parts)
