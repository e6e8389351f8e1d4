"""Resources in the form that bundles hold.

Source: the platform's ``Resources.proto`` and ``Configuration.proto`` (messages and numbers of fields).
"""

from __future__ import annotations

from onomaxis.errors import FormatError
from onomaxis.formats.binary.values import (
    ANDROID,
    ATTRIBUTE,
    ATTRIBUTES,
    BOOLEAN,
    DECIMAL,
    DIMENSION,
    FLOAT,
    FRACTION,
    HEXADECIMAL,
    REFERENCE,
    STRING,
    Config,
    Node,
    Typed,
)
from onomaxis.formats.binary.wire import Value, fields, first, messages, text, whole

_TABLE, _XML = "the table of resources", "the compiled XML"
_DEEPEST = 200
_MOST_NODES = 200_000
# Primitive's fields, and the type that each is.
_NUMBERS = {
    3: FLOAT,
    6: DECIMAL,
    7: HEXADECIMAL,
    8: BOOLEAN,
    13: DIMENSION,
    14: FRACTION,
    9: 0x1C,
    10: 0x1D,
    11: 0x1E,
    12: 0x1F,
}
# Configuration's fields for language, density, level; the product is a build's, any other field a qualifier.
_LOCALE, _DENSITY, _LEVEL, _PRODUCT = 3, 18, 24, 25


class ProtoTable:
    """A table of resources; entries are decoded when they are asked for. Raises FormatError."""

    def __init__(self, data: bytes) -> None:
        self._entries: dict[int, memoryview] = {}
        self._kinds: dict[str, list[tuple[int, memoryview]]] = {}
        for package in messages(memoryview(data), 2, _TABLE):
            top = _identifier(first(package, 1, _TABLE))
            for kind in messages(package, 3, _TABLE):
                number = _identifier(first(kind, 1, _TABLE))
                name = text(first(kind, 2, _TABLE))
                self._kinds.setdefault(name, []).append((top << 24 | number << 16, kind))
        self._indexed: set[int] = set()

    def values(self, identifier: int) -> list[tuple[Config, Typed]]:
        """Return the values of a resource, one for each configuration."""
        entry = self._entry(identifier)
        found: dict[Config, tuple[Config, Typed]] = {}
        for item in messages(entry, 6, _TABLE) if entry is not None else ():
            config = _config(first(item, 1, _TABLE))
            value = first(item, 2, _TABLE)
            inner = first(value, 4, _TABLE) if isinstance(value, memoryview) else None
            typed = _item(inner) if isinstance(inner, memoryview) else None
            if typed is not None:
                key = config if not config.more else Config(str(len(found)), more=True)
                found.setdefault(key, (config, typed))
        return list(found.values())

    def named(self, kind: str, names: frozenset[str]) -> dict[str, int]:
        """Return the identifiers of resources of a type by their names."""
        found: dict[str, int] = {}
        for base, data in self._kinds.get(kind, ()):
            for entry in messages(data, 3, _TABLE):
                name = text(first(entry, 2, _TABLE))
                if name in names:
                    found.setdefault(name, base | _identifier(first(entry, 1, _TABLE)))
        return found

    def _entry(self, identifier: int) -> memoryview | None:
        base = identifier & 0xFFFF0000
        if base not in self._indexed:
            self._indexed.add(base)
            for kinds in self._kinds.values():
                for own, data in kinds:
                    for entry in messages(data, 3, _TABLE) if own == base else ():
                        self._entries.setdefault(base | _identifier(first(entry, 1, _TABLE)), entry)
        return self._entries.get(identifier)


def _identifier(value: Value | None) -> int:
    return whole(first(value, 1, _TABLE)) if isinstance(value, memoryview) else 0


def _config(value: Value | None) -> Config:
    found = Config()
    for number, inner in fields(value, _TABLE) if isinstance(value, memoryview) else ():
        if number == _LOCALE:
            found = found._replace(locale=text(inner))
        elif number == _DENSITY:
            found = found._replace(density=whole(inner))
        elif number == _LEVEL:
            found = found._replace(level=whole(inner))
        elif number != _PRODUCT and inner:
            found = found._replace(more=True)
    return found


def _item(data: memoryview) -> Typed | None:
    """Read an ``Item``."""
    for number, value in fields(data, _TABLE):
        if not isinstance(value, memoryview):
            continue
        if number == 1:
            return _reference(value)
        if number in (2, 3, 4, 5):  # a string, a raw one, a styled one, a file: the text or path comes first in each
            return Typed(STRING, 0, text(first(value, 1, _TABLE)))
        if number == 7:
            return _primitive(value)
    return None


def _reference(data: memoryview) -> Typed:
    kind = whole(first(data, 1, _TABLE))
    return Typed(ATTRIBUTE if kind == 1 else REFERENCE, whole(first(data, 2, _TABLE)))


def _primitive(data: memoryview) -> Typed | None:
    for number, value in fields(data, _TABLE):
        if number in _NUMBERS and isinstance(value, int):
            return Typed(_NUMBERS[number], value & 0xFFFFFFFF)
    return None


def read_proto_xml(data: bytes) -> Node:
    """Return the top element of an ``XmlNode``. Raises FormatError."""
    counter = [0]
    top = first(memoryview(data), 1, _XML)
    if not isinstance(top, memoryview):
        raise FormatError(f"{_XML} holds no element")
    return _element(top, 0, counter)


def _element(data: memoryview, depth: int, counter: list[int]) -> Node:
    counter[0] += 1
    if depth > _DEEPEST or counter[0] > _MOST_NODES:
        raise FormatError(f"{_XML} nests or repeats its elements beyond all use")
    name = ""
    attributes: dict[str, Typed] = {}
    children: list[Node] = []
    for number, value in fields(data, _XML):
        if number == 3:
            name = text(value)
        elif number == 4 and isinstance(value, memoryview):
            key, typed = _attribute(value)
            attributes.setdefault(key, typed)
        elif number == 5 and isinstance(value, memoryview):
            inner = first(value, 1, _XML)
            if isinstance(inner, memoryview):
                children.append(_element(inner, depth + 1, counter))
    return Node(name, attributes, children)


def _attribute(data: memoryview) -> tuple[str, Typed]:
    space, name, said, resource = "", "", "", 0
    typed: Typed | None = None
    for number, value in fields(data, _XML):
        if number == 1:
            space = text(value)
        elif number == 2:
            name = text(value)
        elif number == 3:
            said = text(value)
        elif number == 5:
            resource = whole(value)
        elif number == 6 and isinstance(value, memoryview):
            typed = _item(value)
    known = ATTRIBUTES.get(resource) or (name if space in ("", ANDROID) else f"{space}:{name}")
    return known, typed or Typed(STRING, 0, said)
