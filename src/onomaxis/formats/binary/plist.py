"""Property lists of every form, as values: binary, XML, OpenStep.

Python's own plistlib reads the first two; it refuses entities. What it raises for damaged lists becomes one error.
"""

from __future__ import annotations

import plistlib
from collections.abc import Mapping
from typing import TYPE_CHECKING, Any
from xml.parsers.expat import ExpatError

from onomaxis.errors import FormatError

if TYPE_CHECKING:
    from onomaxis.formats.openstep import Dict, Node

_MOST = 16 * 1024 * 1024
_DEEPEST = 64
_MOST_NODES = 200_000


# What the standard library's reader stops with; AttributeError where a date is none.
_DAMAGED = (
    ArithmeticError,
    AttributeError,
    ExpatError,
    LookupError,
    MemoryError,
    RecursionError,
    TypeError,
    ValueError,
)


def read_any_plist(data: bytes, what: str) -> Mapping[str, Any]:
    """Return the table at a list's top. Raises FormatError for a damaged list, or one whose top is not a table."""
    if len(data) > _MOST:
        raise FormatError(f"{what}: {len(data):,} bytes are too many for a property list")
    try:
        found = plistlib.loads(data) if _is_known(data) else _openstep(data)
    except _DAMAGED as e:
        raise FormatError(f"{what}: the property list is damaged") from e
    except FormatError as error:
        raise FormatError(f"{what}: {error.message}", line=error.line) from None
    if not isinstance(found, Mapping):
        raise FormatError(f"{what}: the property list holds no table")
    _refuse_depth(found, what)
    return found


def _refuse_depth(top: Any, what: str) -> None:
    """Refuse a list that nests beyond all use, or holds itself: whoever walks it would not come back."""
    level = [top]
    for _ in range(_DEEPEST):
        level = [
            item
            for node in level
            for item in (node.values() if isinstance(node, Mapping) else node if isinstance(node, list) else ())
            if isinstance(item, Mapping | list)
        ]
        if not level:
            return
        if len(level) > _MOST_NODES:
            break
    raise FormatError(f"{what}: the property list nests or repeats its parts beyond all use")


def _is_known(data: bytes) -> bool:
    head = data[:256].lstrip(b"\xef\xbb\xbf\xff\xfe\0 \t\r\n").replace(b"\0", b"")
    return data.startswith(b"bplist") or head.startswith(b"<?xml") or b"<plist" in head


def _openstep(data: bytes) -> Mapping[str, Any]:
    """Return the entries of a ``.strings`` file, or of an old list."""
    from onomaxis.formats.openstep import parse_openstep

    return _table(parse_openstep(data).top)


def _table(node: Dict) -> dict[str, Any]:
    return {entry.key.value: _plain(entry.value) for entry in node.entries}


def _plain(node: Node) -> Any:
    from onomaxis.formats.openstep import Dict, Text

    if isinstance(node, Text):
        return node.value
    return _table(node) if isinstance(node, Dict) else [_plain(item) for item in node.items]
