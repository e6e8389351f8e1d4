"""New members in a JSON file: each at the end of its object, in the file's own style, with the objects above it."""

from __future__ import annotations

import json
from collections.abc import Mapping

from onomaxis.formats.jsonc import JsonDocument, Node, written

Keys = tuple[str, ...]


def new_members(document: JsonDocument, wanted: Mapping[Keys, object]) -> list[tuple[int, int, str]]:
    """Return the insertions (view span, text) that give *document* a value at each path of keys that has none.

    A path is left out where something else than an object stands on it.
    """
    additions: dict[int, tuple[Node, int, dict[str, object]]] = {}
    for keys, value in wanted.items():
        node, depth = document.top, 0
        while node.kind == "object" and depth < len(keys) and (below := node.get(keys[depth])) is not None:
            node, depth = below, depth + 1
        if node.kind != "object" or depth == len(keys):
            continue
        _, _, members = additions.setdefault(node.start, (node, depth, {}))
        for key in keys[depth:-1]:
            members = members.setdefault(key, {})  # type: ignore[assignment]  # only objects are made on the way
        members[keys[-1]] = value
    return [_insertion(document, *found) for found in additions.values()]


def _insertion(document: JsonDocument, holder: Node, depth: int, members: dict[str, object]) -> tuple[int, int, str]:
    newline = document.source.newline
    on_one_line = "\n" not in document.source.view[holder.start : holder.end] and holder.members
    plain = not any(isinstance(value, (dict, list)) for value in members.values())
    lead = " " if on_one_line and plain else newline + document.indent * (depth + 1)
    lines = [
        f"{lead}{json.dumps(key, ensure_ascii=False)}{document.colon}{written(document, value, depth + 1)}"
        for key, value in members.items()
    ]
    text = ",".join(lines)
    if holder.members:
        end = holder.members[-1][1].end
        return end, end, f",{text}"
    inner = document.source.view[holder.start + 1 : holder.end - 1]
    end = holder.start + 1 if inner.strip() else holder.end - 1  # a comment in an empty object stays
    return holder.start + 1, end, f"{text}{newline}{document.indent * depth}"
