"""Places of values that are made where they are missing: variables, properties, JSON, YAML, attributes."""

from __future__ import annotations

import json
import re

from onomaxis.errors import FormatError
from onomaxis.formats.escapes import encode
from onomaxis.formats.json_members import new_members
from onomaxis.formats.jsonc import parse_json
from onomaxis.formats.source import Source
from onomaxis.formats.xml import parse_xml
from onomaxis.formats.yaml import parse_yaml
from onomaxis.model import Edit
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import span_edit
from onomaxis.projects.text_places import BARE, env_text
from onomaxis.tree import Tree


def made_place(tree: Tree, selector: str, name: str, path: str, text: str, kind: str) -> Draft | None:
    """Return what makes a place in a file, or the file with it; None where such a place is not made."""
    data = tree.named_file(path)
    try:
        if selector == "env":
            return _appended(path, data, f"{name}={env_text(text)}")
        if selector == "property":
            key = re.sub(r"(?=[ :=\\])", r"\\", name)
            return _appended(path, data, f"{key}={encode('properties', text)}")
        if selector == "pointer":
            keys = tuple(part.replace("~1", "/").replace("~0", "~") for part in name.split("/")[1:])
            bare = kind in ("integer", "boolean", "number") and bool(BARE.fullmatch(text))
            if path.endswith((".yaml", ".yml")):
                return _in_yaml(path, data, keys, text, bare)
            return _in_json(path, data, keys, json.loads(text) if bare else text)
        if selector == "attribute" and data is not None:
            return _attribute(path, data, name, text)
    except FormatError:
        return None
    return None


def _appended(path: str, data: bytes | None, line: str) -> Draft:
    """Add a line at the end of a file, or make the file."""
    if data is None:
        return Draft(created=[(path, f"{line}\n".encode())])
    source = Source.read(data)
    lead = "" if not source.view or source.view.endswith("\n") else source.newline
    end = len(data)
    return Draft(edits=[Edit(path, end, end, source.raw(f"{lead}{line}{source.newline}"), line)])


def _in_json(path: str, data: bytes | None, keys: tuple[str, ...], value: object) -> Draft | None:
    if data is None:
        for key in reversed(keys):
            value = {key: value}
        return Draft(created=[(path, (json.dumps(value, indent=2, ensure_ascii=False) + "\n").encode())])
    document = parse_json(data)
    source = document.source
    edits = [
        span_edit(path, source, first, last, text, "/".join(keys))
        for first, last, text in new_members(document, {keys: value})
    ]
    return Draft(edits=edits) if edits else None


def _in_yaml(path: str, data: bytes | None, keys: tuple[str, ...], text: str, bare: bool) -> Draft | None:
    """Add an entry to a block mapping: behind the last one of the deepest mapping that is there."""
    written = text if bare else encode("yaml", text)
    if data is None:
        return Draft(created=[(path, _nested(keys, written, "", "  ").encode() + b"\n")])
    document = parse_yaml(data)
    source = document.source
    depth = max((len(_shared(item.path, keys)) for item in document.scalars), default=0)
    inside = [item for item in document.scalars if len(item.path) > depth and item.path[:depth] == keys[:depth]]
    if depth == len(keys):
        return None  # something else than one value stands there
    if depth == 0 or not inside:
        return _appended(path, data, _nested(keys, written, "", "  ").replace("\n", source.newline))
    last = max(inside, key=lambda item: item.start)
    start = source.line_start(last.start)
    margin = re.match(r"[ ]*", source.view[start : last.start])
    step = len(margin[0]) // max(len(last.path) - 1, 1) if margin else 2
    end = source.view.find("\n", last.end)
    at = source.offset(len(source.view) if end < 0 else end + 1)
    lead = source.newline if end < 0 else ""
    entry = _nested(keys[depth:], written, " " * (step * depth), " " * (step or 2)).replace("\n", source.newline)
    return Draft(edits=[Edit(path, at, at, source.raw(f"{lead}{entry}{source.newline}"), "/".join(keys))])


def _shared(one: tuple[str, ...], other: tuple[str, ...]) -> tuple[str, ...]:
    count = 0
    while count < min(len(one), len(other)) and one[count] == other[count]:
        count += 1
    return one[:count]


def _nested(keys: tuple[str, ...], value: str, margin: str, step: str) -> str:
    lines = [f"{margin}{step * number}{encode('yaml', key)}:" for number, key in enumerate(keys)]
    return "\n".join(lines) + f" {value}"


def _attribute(path: str, data: bytes, name: str, text: str) -> Draft | None:
    tag, _, key = name.partition("@")
    document = parse_xml(data)
    source = document.source
    for element in document.root.walk():
        if key and tag in (element.tag, element.name):
            at = source.offset(element.start + 1 + len(element.tag.encode()))
            written = f' {key}="{encode("xml-double", text)}"'
            return Draft(edits=[Edit(path, at, at, source.raw(written), name)])
    return None
