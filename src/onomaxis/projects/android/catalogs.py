"""Version catalogs: which there are, under which name scripts reach them, and what they hold.

Source of the rules: docs.gradle.org, "Version Catalogs".
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import NamedTuple

from onomaxis import late
from onomaxis.formats.gradle import Script, parse_gradle
from onomaxis.formats.gradle_statements import Setting, literal_text
from onomaxis.formats.source import Source, flat
from onomaxis.model import Piece, Unresolved
from onomaxis.platforms import SETTINGS_SCRIPTS
from onomaxis.projects.project import guarded, place
from onomaxis.tree import Tree, join

_ENTRY = late.compile(
    r"""^[ \t]*["']?([\w.-]+)["']?[ \t]*=[ \t]*"""
    r"""(?:\{[^}\n]*?\b(?:strictly|require|prefer)[ \t]*=[ \t]*)?(["'])([^"'\n]*)\2""",
    re.MULTILINE,
)
_PLUGIN_ID = late.compile(r"""\bid\s*=\s*["']([\w.-]+)["']""")


class Catalog(NamedTuple):
    """The version entries and plug-in IDs of a catalog; accessor names have dots for dashes."""

    versions: dict[str, Piece]
    plugins: dict[str, str]


def read_catalogs(folder: str, tree: Tree, faults: list[Unresolved]) -> dict[str, Catalog]:
    """Read the catalogs of a build: files in ``gradle/`` go by their name, others by what the settings call them."""
    found: dict[str, Catalog] = {}
    for path in tree.below(join(folder, "gradle")):
        if path.endswith(".versions.toml") and (data := tree.read(path)):
            read = guarded(path, faults, lambda path=path, data=data: read_catalog(path, data))  # type: ignore[misc]
            if read is not None:
                found[path.rpartition("/")[2].removesuffix(".versions.toml")] = read
    for name in SETTINGS_SCRIPTS:
        path = join(folder, name)
        data = tree.read(path) if path in tree.known else None
        if data and b"versionCatalogs" in flat(data):
            kotlin = name.endswith(".kts")
            script = guarded(path, faults, lambda data=data, kotlin=kotlin: parse_gradle(data, kotlin))  # type: ignore[misc]
            found |= dict(_declared(folder, path, script, tree)) if script is not None else {}
    return found


def _declared(folder: str, path: str, script: Script, tree: Tree) -> Iterator[tuple[str, Catalog]]:
    """Yield the catalogs that a settings script makes from other files, or writes out itself."""
    written: dict[str, dict[str, Piece]] = {}
    for item in script.settings:
        full = item.full
        inner = full[full.index("versionCatalogs") + 1 :] if "versionCatalogs" in full else ()
        inner = tuple(part for part in inner if part not in ("create", "register", "getByName", "named"))
        if len(inner) < 2:
            continue
        name = inner[0]
        texts = [text for token in item.value if (text := literal_text([token]))]
        if full[-1] == "from" and texts:
            source = join(folder, texts[0])
            data = tree.named_file(source)
            if data:
                yield name, read_catalog(source, data)
        if full[-1] == "version" and len(texts) == 2:
            written.setdefault(name, {})[accessor(texts[0])] = _literal(path, script, item, texts[1])
    for name, versions in written.items():
        yield name, Catalog(versions, {})


def _literal(path: str, script: Script, item: Setting, text: str) -> Piece:
    token = next(token for token in reversed(item.value) if token.kind == "string")
    syntax = "double-dollar" if token.text.startswith('"') else "single"
    return Piece(text, place(path, script.source, token.start + 1, token.end - 1, syntax))


def read_catalog(path: str, data: bytes) -> Catalog:
    """Read the ``[versions]`` and ``[plugins]`` tables."""
    source = Source.read(data)
    versions: dict[str, Piece] = {}
    plugins: dict[str, str] = {}
    for table in re.finditer(r"^\[(\w+)\][^\n]*\n(.*?)(?=^\[|\Z)", source.view, re.MULTILINE | re.DOTALL):
        if table[1] == "versions":
            for entry in _ENTRY.finditer(source.view, table.start(2), table.end(2)):
                spot = place(path, source, entry.start(3), entry.end(3), "double")
                versions[accessor(entry[1])] = Piece(entry[3], spot)
        if table[1] == "plugins":
            for line in table[2].splitlines():
                name, _, rest = line.partition("=")
                found = _PLUGIN_ID.search(rest) or re.match(r"""\s*["']([\w.-]+):""", rest)
                if found:
                    plugins[accessor(name.strip())] = found[1]
    return Catalog(versions, plugins)


def accessor(name: str) -> str:
    """Return how scripts write a catalog's key: dashes and underscores are dots."""
    return re.sub(r"[-_]", ".", name)
