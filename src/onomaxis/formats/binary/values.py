"""What compiled resources hold, whatever form they have: typed values, configurations, elements.

Source of the types: the platform's ``ResourceTypes.h`` (``Res_value``, ``ResTable_config``).
"""

from __future__ import annotations

import struct
from collections.abc import Iterator, Mapping
from typing import NamedTuple, Protocol

REFERENCE, ATTRIBUTE, STRING, FLOAT, DIMENSION, FRACTION, DYNAMIC = 1, 2, 3, 4, 5, 6, 7
DECIMAL, HEXADECIMAL, BOOLEAN = 0x10, 0x11, 0x12
COLORS = range(0x1C, 0x20)
_UNITS = ("px", "dp", "sp", "pt", "in", "mm")
_SHIFTS = (1.0, 1 / (1 << 7), 1 / (1 << 15), 1 / (1 << 23))


class Typed(NamedTuple):
    """One value: its type (``Res_value::dataType``), its 32 bits, the text of a string."""

    kind: int
    data: int
    text: str = ""

    @property
    def refers(self) -> bool:
        """True where it names another resource."""
        return self.kind in (REFERENCE, DYNAMIC) and self.data != 0

    def shown(self) -> str | None:
        """Return the value as text; None for a reference, an attribute of a theme, nothing."""
        if self.kind == STRING:
            return self.text
        if self.kind == DECIMAL:
            return str(self.data - (1 << 32) if self.data >> 31 else self.data)
        if self.kind == HEXADECIMAL:
            return f"0x{self.data:x}"
        if self.kind == BOOLEAN:
            return "true" if self.data else "false"
        if self.kind in COLORS:
            return f"#{self.data:08x}"
        if self.kind == FLOAT:
            return f"{struct.unpack('<f', struct.pack('<I', self.data))[0]:.7g}"
        if self.kind in (DIMENSION, FRACTION):
            return _measured(self)
        return None


def _measured(value: Typed) -> str:
    """Return a dimension or a fraction: 24 bits of mantissa, two of radix, four of unit."""
    mantissa = value.data >> 8
    number = (mantissa - (1 << 24) if mantissa >> 23 else mantissa) * _SHIFTS[(value.data >> 4) & 3]
    unit = value.data & 0xF
    if value.kind == FRACTION:
        return f"{number * 100:.7g}%" + ("p" if unit else "")
    return f"{number:.7g}{_UNITS[unit] if unit < len(_UNITS) else ''}"


class Config(NamedTuple):
    """What a value of a resource is for: language (BCP 47), density (``dpi``), API level, ``more`` qualifiers."""

    locale: str = ""
    density: int = 0
    level: int = 0
    more: bool = False


# The densities that are no number of dots: any (drawn to fit) and none (never scaled).
ANY_DENSITY, NO_DENSITY = 0xFFFE, 0xFFFF


class Resources(Protocol):
    """A table of resources."""

    def values(self, identifier: int) -> list[tuple[Config, Typed]]:
        """Return the values of a resource, one for each configuration, the table's order kept."""
        ...

    def named(self, kind: str, names: frozenset[str]) -> dict[str, int]:
        """Return the identifiers of resources of a type (``string``) by their names."""
        ...


class Node(NamedTuple):
    """One element: its name, attributes by name (those of Android's namespace bare), what stands in it."""

    name: str
    attributes: Mapping[str, Typed]
    children: list[Node]

    def walk(self) -> Iterator[Node]:
        """Yield the element and all below it."""
        pending = [self]
        while pending:
            node = pending.pop()
            yield node
            pending.extend(reversed(node.children))

    def named(self, *names: str) -> Iterator[Node]:
        """Yield the elements directly below that are called so."""
        yield from (child for child in self.children if child.name in names)

    def first(self, name: str) -> Node | None:
        """Return the first element directly below that is called so."""
        return next(self.named(name), None)


# Attributes by their resource IDs, which count where a name was taken out (``android.R.attr``).
ATTRIBUTES = {
    0x01010001: "label",
    0x01010002: "icon",
    0x01010003: "name",
    0x01010006: "permission",
    0x0101000F: "debuggable",
    0x01010018: "authorities",
    0x01010021: "targetPackage",
    0x01010024: "value",
    0x01010025: "resource",
    0x01010026: "mimeType",
    0x01010027: "scheme",
    0x01010028: "host",
    0x01010199: "drawable",
    0x0101020C: "minSdkVersion",
    0x0101021B: "versionCode",
    0x0101021C: "versionName",
    0x01010270: "targetSdkVersion",
    0x01010272: "testOnly",
    0x0101052C: "roundIcon",
    0x01010576: "versionCodeMajor",
}
ANDROID = "http://schemas.android.com/apk/res/android"
