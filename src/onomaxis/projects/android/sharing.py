"""Who else uses a version: a catalog entry, a property or a variable that sets a library's version too."""

from __future__ import annotations

import re

from onomaxis import late
from onomaxis.formats.source import Source
from onomaxis.model import Place
from onomaxis.tree import Tree

_ENDINGS = (".gradle", ".gradle.kts", ".toml", ".kt", ".properties")
_KEY_BEFORE = late.compile(
    r"""(?<![\w.-])([A-Za-z_][\w.-]*+)["'\])]*+\s*+(?::\s*+\w++\s*+(?=[=:,]))?[=:,]\s*+["']?\Z"""
)


def other_users(tree: Tree, folder: str, spot: Place) -> list[str]:
    """Return ``file:line`` of the libraries and plug-ins below *folder* whose version is the entry at *spot*."""
    source = Source.read(tree.read(spot.file) or b"")
    line = source.line_around(spot.start - source.mark) if not source.wide else ""
    named = _KEY_BEFORE.search(line[: spot.column - 1][-400:])
    if named is None:
        return []
    key = re.escape(named[1].rpartition(".")[2] if not spot.file.endswith((".toml", ".properties")) else named[1])
    uses = re.compile(
        rf"""version\.ref\s*+=\s*+["']{key}["']|["'][\w.-]++:[\w.-]++:[^"'\n$]*+\$\{{?(?:\w+\.)*{key}\b"""
        rf"""|["'][\w.-]++:[\w.-]++:["']\s*+\+\s*+(?:\w+\.)*{key}\b"""
    )
    found = []
    for path in tree.below(folder):
        data = tree.read(path) if path.endswith(_ENDINGS) else None
        if data:
            text = Source.read(data)
            found += [f"{path}:{text.line(match.start())}" for match in uses.finditer(text.view)]
    return found
