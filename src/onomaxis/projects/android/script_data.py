"""What an expression of a build script comes to: text by its pieces, lists and maps, files, closures; and text calls.

A text keeps the literals that it was written in as long as nothing but joining and trimming happens to it.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Protocol, TypeAlias, Union

from onomaxis.formats.escapes import replaced, trimmed
from onomaxis.formats.gradle_expressions import Block
from onomaxis.formats.lexer import Region, Token
from onomaxis.model import Piece
from onomaxis.projects.android.catalogs import Catalog
from onomaxis.projects.android.scope import IsNull, NotSet, ScriptFile, Unknown


@dataclass(frozen=True, slots=True)
class Text:
    """A text or a number, piece by piece.

    ``path`` is the file whose whole content it is, ``token`` the literal of the script that says all of it.
    """

    pieces: tuple[Piece, ...]
    number: bool = False
    path: str = ""
    token: Token | None = None

    def __str__(self) -> str:
        return "".join(piece.text for piece in self.pieces)


@dataclass(frozen=True, slots=True)
class Nothing:
    """No value, and why: it is ``null``, it is ``missing`` where Onomaxis looks, or nobody can tell (``unknown``)."""

    reason: str
    kind: str = "null"

    @classmethod
    def of(cls, error: Unknown) -> Nothing:
        """Return what stands for a value that was not found out."""
        kind = "null" if isinstance(error, IsNull) else "missing" if isinstance(error, NotSet) else "unknown"
        return cls(str(error), kind)

    def doubt(self) -> Unknown:
        """Return why what asks for it cannot be determined."""
        return {"null": IsNull, "missing": NotSet}.get(self.kind, Unknown)(self.reason)


@dataclass(frozen=True, slots=True)
class File:
    """A file or folder of the tree, whether it is there or not."""

    path: str


@dataclass(slots=True)
class Table:
    """A map: of a script, or of a file that was loaded. ``said`` is what it is called where a key is not in it.

    ``keys`` are the literals that say its keys, where a script does; ``live`` is what a block is applied to and may
    set; ``doubt`` tells why entries may be others than these.
    """

    entries: dict[str, Data] = field(default_factory=dict)
    said: str = "the map"
    keys: Mapping[str, Token] = field(default_factory=dict)
    live: bool = False
    doubt: str = ""

    def get(self, key: str) -> Data:
        """Return the entry of a key; Nothing where there is none, or where nobody can tell."""
        found = self.entries.get(key)
        if found is None and self.doubt:
            return Nothing(self.doubt, "unknown")
        return Nothing(f"“{key}” is not set in {self.said}") if found is None else found

    def whole(self) -> dict[str, Data]:
        """Return all entries. Raises Unknown where there may be others."""
        if self.doubt:
            raise Unknown(self.doubt)
        return self.entries


@dataclass(frozen=True, slots=True)
class Host:
    """What scripts ask for properties, files and providers: ``project``, ``rootProject``, ``ext``, a type's name."""

    name: str


@dataclass(frozen=True, slots=True)
class Function:
    """A closure or a function with the names that it sees."""

    block: Block
    file: ScriptFile
    scope: Scope | None
    names: Names


@dataclass(slots=True)
class Room:
    """How many values may still be copied for one script: it may have come from anywhere."""

    left: int = 1_000_000


@dataclass(slots=True)
class Scope:
    """The variables of one block, and of those around it; ``it`` is what calls without a receiver are asked of.

    ``body`` is what the block is known by: after each of its statements there is another scope of it.
    """

    above: Scope | None = None
    names: dict[str, Data | Unknown] = field(default_factory=dict)
    it: Data | None = None
    body: object = None

    def holder(self, name: str) -> Scope | None:
        """Return the scope that a variable is declared in."""
        scope: Scope | None = self
        while scope is not None and name not in scope.names:
            scope = scope.above
        return scope

    def copied(self, room: Room) -> Scope:
        """Return these variables with all that they hold: what changes the ones leaves the others alone.

        Closures of the copy see the variables of the copy, and each other's changes. Raises Unknown where all copies
        together take more than there is room for.
        """
        seen: dict[int, Scope | Data] = {}

        def scope(old: Scope | None) -> Scope | None:
            if old is None:
                return None
            key = id(old.body) if old.body is not None else id(old)
            found = seen.get(key)
            if not isinstance(found, Scope):
                found = seen[key] = Scope(None, {}, None, old.body)
                found.above = scope(old.above)
                found.names.update((name, data(value, 0)) for name, value in old.names.items())
                found.it = data(old.it, 0) if old.it is not None else None  # type: ignore[assignment]
            return found

        def data(old: Data | Unknown, depth: int) -> Data | Unknown:
            room.left -= 1
            if room.left < 0:
                raise Unknown("too much is changed in this script")
            if isinstance(old, Function):
                return replace(old, scope=scope(old.scope)) if old.scope is not None else old
            if not isinstance(old, list | Table):
                return old
            found = seen.get(id(old))
            if found is not None and not isinstance(found, Scope):
                return found
            if depth > _DEEPEST:
                return Nothing("lists and maps are nested too deeply", "unknown")
            if isinstance(old, list):
                items: list[Data] = []
                seen[id(old)] = items
                items.extend(data(item, depth + 1) for item in old)  # type: ignore[misc]
                return items
            table = seen[id(old)] = replace(old, entries={})
            table.entries.update((key, data(value, depth + 1)) for key, value in old.entries.items())  # type: ignore[misc]
            return table

        twin = scope(self)
        assert twin is not None
        return twin

    def receiver(self) -> Data | None:
        """Return what the innermost block that has one is applied to."""
        scope: Scope | None = self
        while scope is not None and scope.it is None:
            scope = scope.above
        return scope.it if scope is not None else None


Data: TypeAlias = Union[Text, Nothing, File, Table, Host, Function, bool, "list[Data]"]
# A script may have come from anywhere: what doubles with every line is not followed.
MOST_PIECES = 300
_DEEPEST = 40
LONGEST = 20_000


def computed(value: object) -> Text:
    """Return a text that no literal says. Raises Unknown for one that is too long."""
    text = str(value)
    if len(text) > LONGEST:
        raise Unknown("the value is too long")
    return Text((Piece(text),), isinstance(value, int))


def told(value: Data) -> Data:
    """Return a value. Raises Unknown where nobody can tell it."""
    if isinstance(value, Nothing) and value.kind == "unknown":
        raise value.doubt()
    return value


def sure(value: list[Data]) -> list[Data]:
    """Return a list. Raises Unknown where nobody can tell what is in it."""
    if len(value) == 1:
        told(value[0])
    return value


def spoiled(value: Data | Unknown, why: str) -> None:
    """Make unknown what a list or a map holds, whatever else it is called."""
    if isinstance(value, list):
        value[:] = [Nothing(why, "unknown")]
    elif isinstance(value, Table):
        value.entries.clear()
        value.doubt = why


def truth(value: Data) -> bool:
    """Return what a condition makes of a value."""
    if isinstance(value, bool):
        return value
    if isinstance(value, Nothing) and value.kind != "null":
        raise value.doubt()
    if isinstance(value, Text):
        return int(str(value) or 0) != 0 if value.number and str(value).isdecimal() else bool(str(value))
    if isinstance(value, Table):
        return bool(value.whole())
    return bool(sure(value)) if isinstance(value, list) else not isinstance(value, Nothing)


def text_of(value: Data) -> Text:
    """Return a value as text. Raises NotSet for no value, Unknown for what is none."""
    if isinstance(value, Text):
        return value
    if isinstance(value, Nothing):
        raise value.doubt()
    if isinstance(value, File):
        return Text((Piece(TREE + value.path),))
    if isinstance(value, bool):
        return computed(str(value).lower())
    raise Unknown("a list, a map or a function is not text")


# What the path of a file of the tree begins with inside a text: no text of a script does.
TREE = "\0/"


def number_of(value: Data) -> int:
    """Return a value as a whole number. Raises Unknown."""
    text = str(text_of(value))
    if not text.isdecimal() or len(text) > 30:
        raise Unknown(f"“{text}” is not a number")
    return int(text)


def as_number(value: Data) -> Text:
    """Return a value as a number, by the pieces of its text where they say it so. Raises Unknown."""
    text = text_of(value)
    plain = str(number_of(text))
    return Text(text.pieces, True) if plain == str(text) else computed(int(plain))


def joined(values: list[Data], between: str = "") -> Text:
    """Return texts one behind the other."""
    pieces: list[Piece] = []
    for at, value in enumerate(values):
        pieces += ([Piece(between)] if at and between else []) + list(text_of(value).pieces)
    if len(pieces) > MOST_PIECES:
        raise Unknown("the value is put together of too many parts")
    if sum(len(piece.text) for piece in pieces) > LONGEST:
        raise Unknown("the value is too long")
    return Text(tuple(pieces))


def grown(left: list[Data], more: list[Data]) -> list[Data]:
    """Return a list with more items. Raises Unknown where it would be too long."""
    if len(left) + len(more) > LONGEST:
        raise Unknown("the list is too long")
    return [*sure(left), *more]


def added(left: Data, right: Data) -> Data:
    """Return a sum: of numbers, of lists, of maps; texts are joined. Raises Unknown."""
    if isinstance(left, list):
        return grown(left, right if isinstance(right, list) else [right])
    if isinstance(left, Table) and isinstance(right, Table):
        return Table(left.whole() | right.whole(), left.said)
    if isinstance(left, Text) and isinstance(right, Text) and left.number and right.number:
        return computed(number_of(left) + number_of(right))
    return joined([left, right])


def table_of(pairs: Sequence[Data]) -> Table:
    """Return a map of pairs of a key and a value; a later pair of a key wins. Raises Unknown."""
    entries: dict[str, Data] = {}
    keys: dict[str, Token] = {}
    for pair in pairs:
        if not isinstance(pair, list) or len(pair) != 2:
            raise Unknown("a map is made of something else than pairs")
        key = text_of(pair[0])
        entries[str(key)] = pair[1]
        if key.token is not None:
            keys[str(key)] = key.token
    return Table(entries, keys=keys)


def as_string(token: Token) -> Token:
    """Return a name as the literal that it is as a key: Groovy's keys stand without quotes."""
    text = token.text.strip("`")
    return Token("string", token.start, token.end, f'"{text}"', (Region("string", token.start, token.end),))


def same(left: Data, right: Data) -> bool:
    """Tell whether two values are equal: numbers and texts by what they say."""
    if isinstance(left, Text) and isinstance(right, Text):
        if left.number and right.number and str(left) != str(right) and "." in str(left) + str(right):
            raise Unknown("numbers with a fraction are compared")
        return str(left) == str(right) and left.number == right.number
    if isinstance(left, Nothing) or isinstance(right, Nothing):
        unsure = next((item for item in (left, right) if isinstance(item, Nothing) and item.kind != "null"), None)
        if unsure is not None:
            raise unsure.doubt()
        return isinstance(left, Nothing) and isinstance(right, Nothing)
    if isinstance(left, list) and isinstance(right, list):
        return len(left) == len(right) and all(map(same, left, right))
    if isinstance(left, bool) and isinstance(right, bool):
        return left == right
    raise Unknown("what is compared is not followed")


def _replaced(text: str, old: str, new: str) -> str:
    if re.search(r"[\\\[(.*+?{|^$]", old) or re.search(r"[\\$]", new):
        raise Unknown("a pattern is replaced")
    return replaced(text, old, new)


def _padded(text: str, length: str, fill: str = " ") -> str:
    return text.rjust(min(int(length), 200), fill)


_Plain: TypeAlias = Callable[..., object]
# Calls on a text that give another text, number or answer; arguments are texts. Names of both languages.
_CALLS: Mapping[str, _Plain] = {
    "toLowerCase": str.lower,
    "lowercase": str.lower,
    "toUpperCase": str.upper,
    "uppercase": str.upper,
    "capitalize": lambda text: text[:1].upper() + text[1:],
    "capitalized": lambda text: text[:1].upper() + text[1:],
    "uncapitalize": lambda text: text[:1].lower() + text[1:],
    "decapitalize": lambda text: text[:1].lower() + text[1:],
    "replace": replaced,
    "replaceAll": _replaced,
    "replaceFirst": lambda text, old, new: (
        _replaced(text[: text.find(old) + len(old)], old, new) + text[text.find(old) + len(old) :]
        if old in text
        else text
    ),
    "removePrefix": str.removeprefix,
    "removeSuffix": str.removesuffix,
    "minus": lambda text, old: text.replace(old, "", 1),
    "substring": lambda text, start, end="": text[int(start) : int(end) if end else None],
    "take": lambda text, count: text[: int(count)],
    "drop": lambda text, count: text[int(count) :],
    "substringBefore": lambda text, mark: text.partition(mark)[0],
    "substringAfter": lambda text, mark: text.partition(mark)[2] if mark in text else text,
    "substringAfterLast": lambda text, mark: text.rpartition(mark)[2],
    "substringBeforeLast": lambda text, mark: text.rpartition(mark)[0] if mark in text else text,
    "padLeft": _padded,
    "padStart": _padded,
    "contains": lambda text, part: part in text,
    "startsWith": str.startswith,
    "endsWith": str.endswith,
    "equals": lambda text, other: text == other,
    "equalsIgnoreCase": lambda text, other: text.lower() == other.lower(),
    "isEmpty": lambda text: not text,
    "isNotEmpty": bool,
    "isBlank": lambda text: not text.strip(),
    "isNotBlank": lambda text: bool(text.strip()),
    "isNullOrEmpty": lambda text: not text,
    "isNullOrBlank": lambda text: not text.strip(),
    "length": len,
    "size": len,
    "toBoolean": lambda text: text.strip().lower() in ("true", "y", "1"),
    "toBooleanStrict": lambda text: ("false", "true").index(text) == 1,
}


def as_boolean(text: str) -> bool:
    """Return what Java and Kotlin make of a text (docs.oracle.com, java.lang.Boolean, "parseBoolean").

    Groovy's own ``toBoolean`` takes ``y`` and ``1`` for true as well.
    """
    return text.lower() == "true"


# Calls that change the type of a value and nothing of what it says.
_NUMBERS = frozenset({"toInteger", "toInt", "toLong", "asInteger", "asInt", "intValue", "toIntOrNull"})
_SAME = frozenset({"toString", "get", "orNull", "asString", "intern", "asText", "toText"})


def _split(text: str, name: str, words: Sequence[str], kotlin: bool) -> list[Data]:
    """Return the parts of a text. Groovy splits by a pattern and drops empty parts at the end, Kotlin does neither.

    Source: docs.oracle.com, java.lang.String ("split"); kotlinlang.org, "split"; docs.groovy-lang.org, "tokenize".
    """
    mark = words[0] if words else None
    if mark is not None and not kotlin and name == "split":
        plain = re.fullmatch(r"\\(\W)|\[([^\]\\^])\]|([^.*+?^$|()\[\]{}\\])", mark)
        if plain is None:
            raise Unknown("a text is split by a pattern")
        mark = plain[1] or plain[2] or plain[3]
    if len(words) > 1 or (mark is not None and len(mark) != 1):
        raise Unknown("a text is split by more than one mark")
    parts = text.split(mark)
    if name == "tokenize":
        parts = [part for part in parts if part]
    while not kotlin and len(parts) > 1 and not parts[-1]:
        del parts[-1]
    return [computed(part) for part in parts]


def text_call(value: Text, name: str, args: list[Data], kotlin: bool) -> Data | None:
    """Return what a call on a text gives; None where the call is not known. Raises Unknown."""
    text = str(value)
    if name == "toIntOrNull" and not args and not re.fullmatch(r"[+-]?\d+", text, re.ASCII):
        return Nothing("it is not a number")
    if name in _NUMBERS and not args:
        return as_number(value)
    if name in _SAME and not args:
        return Text(value.pieces, False) if name == "toString" else value
    if name == "trim" and not args:
        return Text(trimmed(value.pieces), value.number)
    if name in ("plus", "concat") and len(args) == 1:
        return joined([value, *args])
    words = [str(text_of(arg)) for arg in args]
    if name in ("split", "tokenize"):
        return _split(text, name, words, kotlin)
    found = as_boolean if kotlin and name == "toBoolean" else _CALLS.get(name)
    if found is None:
        return None
    try:
        given = found(text, *words)
    except (TypeError, ValueError) as error:
        raise Unknown(f"“{name}” is given something else than is read here") from error
    return given if isinstance(given, bool) else value if given == text else computed(given)


class Names(Protocol):
    """Who knows what names stand for: properties, catalogs, constants, functions, files of the tree."""

    catalogs: dict[str, Catalog]
    given: Mapping[str, Piece]  # what names mean wherever they are asked for
    inside: Mapping[str, Piece]  # what names mean in one flavor's own block

    def shared(self, name: str) -> Data:
        """Return an extra property, a variable of a script or a property; Nothing for none. Raises Unknown."""

    def setting(self, parts: Sequence[str]) -> Data:
        """Return what the script's own ``android`` block says. Raises Unknown."""

    def constant(self, parts: Sequence[str]) -> Data | None:
        """Return a constant of an object; None where nobody knows it. Raises Unknown."""

    def function(self, name: str) -> Function | None:
        """Return a function of the scripts; None where it is none of theirs. Raises Unknown for several."""

    def run(self, function: Function, args: list[Data], named: Mapping[str, Data], it: Data | None = None) -> Data:
        """Return what a function gives. Raises Unknown."""

    def folder(self, file: ScriptFile, root: bool) -> str:
        """Return the folder that paths of a script are seen from, or that of the whole build."""

    def read(self, path: str) -> bytes | None:
        """Return a file of the tree; None where there is none."""

    def is_folder(self, path: str) -> bool:
        """Tell whether the tree has a folder with something in it."""

    def enter(self) -> None:
        """Begin a step. Raises Unknown after too many, or below too many: a script may have come from anywhere."""

    def leave(self) -> None:
        """End a step."""

    def step(self) -> None:
        """Count a step. Raises Unknown after too many."""

    def weigh(self, step: int) -> None:
        """Begin (1) or end (-1) a condition."""

    @property
    def strict(self) -> bool:
        """Whether a statement that is not followed makes all of it unknown."""

    @property
    def weighing(self) -> bool:
        """Whether a condition is being told: what only a command line gives decides none."""


class Asker(Protocol):
    """Who evaluates an expression, for the calls in it."""

    names: Names
    file: ScriptFile

    def entry(self, of: Table, key: str) -> Data:
        """Return an entry of a map; Nothing where there is none. Raises Unknown where nobody can tell."""
