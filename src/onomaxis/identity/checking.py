"""A table of an identity file held against the schema: known keys, values of the right kind."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from onomaxis.errors import FormatError, InputError
from onomaxis.formats.toml import Path, TomlDocument, parse_toml
from onomaxis.identity.declared import fault
from onomaxis.identity.schema import COLOR, REQUIRED, TABLES, Key, nearest


def parsed(path: str, data: bytes) -> TomlDocument:
    """Parse a file. Raises InputError with file and line."""
    try:
        return parse_toml(data)
    except FormatError as error:
        raise InputError(error.message, file=path, line=error.line) from None


def check_table(path: str, document: TomlDocument, table: str, data: Mapping[str, Any], at: Path) -> None:
    """Check a table against the schema. Raises InputError with file and line."""
    keys = TABLES[table]
    for name, value in data.items():
        if name not in keys:
            guess = nearest(name, tuple(keys))
            where = f"[{'.'.join(at)}]" if at else "the file"
            advice = f"Did you mean “{guess}”?" if guess else f"It takes: {', '.join(keys)}."
            raise fault(path, document, (*at, name), f"{where} has no key “{name}”", advice)
        _check_kind(path, document, keys[name], value, (*at, name))
    for name in REQUIRED.get(table, ()):
        if name not in data:
            raise fault(path, document, at, f"the key “{name}” is missing", f"Add {name} = {_EXAMPLES[name]}.")


_EXAMPLES = {"format": "1", "rule": '"NAME03"', "reason": '"why it is so"', "file": '"keys/upload.p12"'}
_PYTHON: Mapping[str, tuple[type, ...]] = {
    "text": (str,),
    "word": (str,),
    "color": (str,),
    "integer": (int,),
    "boolean": (bool,),
    "scalar": (str, int, float, bool),
    "table": (dict,),
    "map": (dict,),
    "list": (list,),
}
_SAID = {
    "text": "a text in quotes",
    "word": "a text in quotes",
    "color": 'a colour such as "#7A3E2B"',
    "integer": "a whole number",
    "boolean": "true or false",
    "scalar": "a text, a number, true or false",
    "table": "a table",
    "map": "a table",
    "list": "a list",
}


def _check_kind(path: str, document: TomlDocument, key: Key, value: Any, at: Path) -> None:
    kind = key.kind if key.kind in _PYTHON else "table"
    right = isinstance(value, _PYTHON[kind]) and not (kind == "integer" and isinstance(value, bool))
    if not right or (kind == "color" and not COLOR.match(value)):
        raise fault(path, document, at, f"“{at[-1]}” takes {_SAID[kind]}")
    if key.words and value not in key.words:
        guess = nearest(value, key.words)
        advice = f"Did you mean “{guess}”?" if guess else ""
        raise fault(path, document, at, f"“{value}” is none of: {', '.join(key.words)}", advice)
    if kind == "table":
        check_table(path, document, key.of, value, at)
    elif kind in ("map", "list"):
        inner = Key(key.of, "") if key.of in _PYTHON else Key("table", "", key.of)
        items = value.items() if kind == "map" else ((str(number), item) for number, item in enumerate(value))
        for name, item in items:
            _check_kind(path, document, inner, item, (*at, name))
