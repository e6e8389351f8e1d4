"""What a ``package.json`` says, and how it takes a new name."""

from __future__ import annotations

import re
from collections.abc import Iterator

from onomaxis.errors import FormatError
from onomaxis.formats.jsonc import JsonDocument, parse_json
from onomaxis.projects.draft import Draft
from onomaxis.projects.frameworks.files import Files, value_edit
from onomaxis.tree import Tree, parent


def has_dependency(files_json: JsonDocument | None, *names: str) -> bool:
    """Tell whether a ``package.json`` depends on one of *names*."""
    if files_json is None:
        return False
    lists = (files_json.top.get(key) for key in ("dependencies", "devDependencies"))
    return any(found is not None and found.get(name) is not None for found in lists for name in names)


def packages(tree: Tree) -> Iterator[tuple[str, JsonDocument]]:
    """Yield the folder of every ``package.json`` that can be parsed, with its document."""
    for path in tree.named("package.json"):
        try:
            yield parent(path), parse_json(tree.read(path) or b"")
        except FormatError:
            continue


def npm_name(name: str, old: str = "") -> str:
    """Return *name* as a package's: lower case with hyphens, in the scope of *old* (npm, "package.json": name)."""
    plain = name if re.fullmatch(r"[A-Za-z0-9._-]+", name) and not old.islower() else ""
    humps = re.sub(r"(?<=[a-z0-9])(?=[A-Z])", "-", _ascii(name))
    words = re.sub(r"[^a-z0-9._-]+", "-", humps.lower()).strip("-._")
    scope = old.partition("/")[0] + "/" if old.startswith("@") and "/" in old else ""
    return scope + (plain or words or "app")


def _ascii(text: str) -> str:
    import unicodedata

    return unicodedata.normalize("NFKD", text).encode("ascii", "ignore").decode()


def npm_rename(files: Files, name: str, draft: Draft) -> None:
    """Give ``package.json`` and the lock file beside it the new name."""
    value = files.json_value("package.json", "name")
    if value is None:
        return
    new = npm_name(name, value.text)
    spots = [("package.json", "name"), ("package-lock.json", "name"), ("package-lock.json", "packages", "", "name")]
    for file, *path in spots:
        found = files.json_value(file, *path)
        if found is not None and found.text == value.text and found.text != new:
            draft.edits.append(value_edit(files.tree, found, new))
