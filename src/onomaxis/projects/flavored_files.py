"""Files that one flavor alone has beside its build: a web manifest, a page, an environment file.

They are told by what they are called: the usual name with the flavor's in it (``manifest.mossgate.json``,
``.env.mossgate``), or the usual name in the flavor's own folder (``mossgate/index.html``). Sources: W3C, "Web
Application Manifest" (file names in use); HTML standard.
"""

from __future__ import annotations

import html
import json
import re
from collections.abc import Callable, Iterator, Sequence

from onomaxis.errors import FormatError
from onomaxis.formats.source import Source, looks_binary
from onomaxis.model import Note
from onomaxis.projects.draft import Draft
from onomaxis.projects.neighbours.called import Called, renamed
from onomaxis.projects.siblings import majority
from onomaxis.tree import Tree

_USUAL = frozenset(
    ("manifest.json", "manifest.webmanifest", "site.webmanifest", "app.webmanifest", "index.html", ".env")
)
# Files that the flavor's name alone is the name of.
_ALONE = frozenset(("webmanifest", "env"))
# What else may stand in a flavor's own folder.
_BESIDE = (".json", ".webmanifest", ".html", ".env", ".xml", ".txt", ".png", ".svg", ".ico", ".jpg", ".jpeg", ".webp")
# Folders of native halves: what stands there is the flavor's of that build.
_NATIVE = ("android", "ios", "macos", "windows", "linux")
_LARGEST = 1 << 20


def twin_files(tree: Tree, folder: str, siblings: Sequence[Called], new: Called) -> Draft:
    """Return the files that a new flavor has as the sibling that has most of them, names replaced.

    What most siblings have is not among them: that is told by comparing them.
    """
    draft = Draft()
    theirs = {item.name: list(files_of(tree, folder, item.name)) for item in siblings}
    model = max(siblings, key=lambda item: len(theirs[item.name]), default=None)
    if model is None:
        return draft
    for path in theirs[model.name]:
        alike = [_word(model.name).sub(item.name, path) for item in siblings]
        if majority(sum(tree.exists(other) for other in alike), siblings):
            continue
        target = f"{path[: _start(folder)]}{_word(model.name).sub(new.name, path[_start(folder) :])}"
        if tree.exists(target):
            continue
        data = twin_of(tree.read(path) or b"", path, model, new)
        if data is not None:
            draft.created.append((target, data))
            draft.notes.append(Note(target, f"made from {path}: look it over"))
    return draft


def files_of(tree: Tree, folder: str, name: str) -> Iterator[str]:
    """Yield the files of a flavor below a folder."""
    word, start = _word(name), _start(folder)
    for path in tree.kept(("flavored files", folder), lambda: _candidates(tree, folder)):
        inner = path[start:]
        native = inner.split("/", 1)[0] in _NATIVE or "/src/" in f"/{inner}"
        if native or not word.search(inner) or not is_file_of(inner, name):
            continue
        above, found, _ = f"/{inner}".rpartition(f"/{name}/")
        if not found or not _is_site(tree, f"{path[:start]}{above}/{name}".replace("//", "/").strip("/")):
            yield path


def _candidates(tree: Tree, folder: str) -> list[str]:
    """Return the files that may be some flavor's, by how their names end."""
    endings = tuple(item.rpartition(".")[2] for item in _USUAL) + ("webmanifest",)
    return [path for path in tree.below(folder) if path.endswith(endings) or "/.env" in f"/{path}"]


def _is_site(tree: Tree, folder: str) -> bool:
    """Tell whether a folder holds a site of its own, with code or styles: more than a flavor's page and manifest."""
    names = [path.rpartition("/")[2] for path in tree.below(folder)]
    return any(name == "package.json" or not name.endswith(_BESIDE) for name in names)


def _start(folder: str) -> int:
    return len(folder) + 1 if folder else 0


def _word(name: str) -> re.Pattern[str]:
    return re.compile(rf"(?<![A-Za-z0-9]){re.escape(name)}(?![A-Za-z0-9])")


def is_file_of(path: str, name: str) -> bool:
    """Tell whether a path is a file of a flavor, by its form."""
    *above, base = path.split("/")
    if base in _USUAL:
        return name in above
    own = re.escape(name)
    bare = {re.sub(rf"[._-]{own}(?![A-Za-z0-9])", "", base, count=1), re.sub(rf"\A{own}[._-]", "", base, count=1)}
    return bool(_USUAL & bare) or bool(_ALONE & bare)


def twin_of(data: bytes, path: str, model: Called, new: Called) -> bytes | None:
    """Return a file's bytes for another flavor; None where it is not text, or cannot say it."""
    if len(data) > _LARGEST or looks_binary(data):
        return None
    try:
        source = Source.read(data)
        text = source.text(0, len(source.view))
        return data[: source.mark] + source.raw(renamed(text, model, new, _form(path)))
    except FormatError:
        return None


def _form(path: str) -> Callable[[str], str]:
    """Return how a title is written in a file."""
    if path.endswith(".html"):
        return lambda title: html.escape(title, quote=False)
    if path.endswith((".json", ".webmanifest")):
        return lambda title: json.dumps(title, ensure_ascii=False)[1:-1]
    return str
