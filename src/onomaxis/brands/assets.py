"""Whole files of a brand in the place of the app's own: which stand for which, and whether they may."""

from __future__ import annotations

import re
from typing import NamedTuple

from onomaxis.errors import InputError
from onomaxis.icons.headers import picture_file
from onomaxis.identity.declared import DeclaredValue
from onomaxis.identity.file import IdentityFile
from onomaxis.tree import Tree, inside, join, parent


class Asset(NamedTuple):
    """One file of one value for one flavor: what stands in the project, and the brand's file for it."""

    value: DeclaredValue
    flavor: str
    file: str
    source: str
    line: int


def spelled_for(path: str, flavor: str) -> str:
    """Return a path with a flavor's name in it; the app itself is ``main``."""
    return path.replace("{flavor}", flavor or "main")


def in_source_set(path: str, flavor: str) -> str:
    """Return where a flavor's own file of the main source set stands."""
    return f"/{path}".replace("/src/main/", f"/src/{flavor}/")[1:] if flavor else path


def brand_files(tree: Tree, file: IdentityFile, value: DeclaredValue, flavor: str) -> list[tuple[str, str]]:
    """Return a brand's files for a value that stands for many: as the file names them, and their star's text.

    The app itself may have none. Raises InputError for a flavor without any.
    """
    spelled = spelled_for(value.files, flavor)
    pattern = join(parent(file.path), spelled)
    if not pattern or not inside(pattern):
        raise InputError(f"{value.files} leads out of the project", file=file.home(value.line), line=value.line)
    before, _, after = pattern.rpartition("/")[2].partition("*")
    found = (path.rpartition("/")[2] for path in tree.below(parent(pattern)) if parent(path) == parent(pattern))
    least = len(before) + len(after)
    names = sorted(name for name in found if name.startswith(before) and name.endswith(after) and len(name) >= least)
    if not names and flavor:
        remedy = "Paths start from the folder of the identity file."
        said = f"value “{value.name}”: {flavor} has no files {spelled}"
        raise InputError(said, file=file.home(value.line), line=value.line, remedy=remedy)
    return [(join(parent(spelled), name), name[len(before) : len(name) - len(after)]) for name in names]


_MAGIC = (("PDF document", rb"%PDF"), ("font", rb"\x00\x01\x00\x00|OTTO|true|ttcf|wOFF|wOF2"))


def checked_asset(tree: Tree, file: IdentityFile, item: Asset) -> bytes:
    """Return the bytes of a brand's file. Raises InputError where type or size are not those of what it replaces."""

    def fault(message: str, remedy: str = "") -> InputError:
        return InputError(
            f"value “{item.value.name}”: {message}", file=file.home(item.line), line=item.line, remedy=remedy
        )

    path = join(parent(file.path), item.source)
    if path == item.file:
        raise fault(
            f"{item.source} is the file that stamping replaces: it would be lost", "Keep the brand's file elsewhere."
        )
    data = tree.named_file(path)
    if data is None:
        raise fault(tree.lacking(path, item.source), "Paths start from the folder of the identity file.")
    model = item.file if tree.exists(item.file) else item.file.replace(f"/src/{item.flavor}/", "/src/main/")
    there = tree.named_file(model)
    if there is None:
        raise fault(f"the file {item.file} that it replaces is gone", "Correct its place.")
    if _ending(item.source) != _ending(item.file):
        raise fault(f"{item.source} cannot stand in for {item.file}: another type of file")
    kind, size = _kind(data)
    wanted, wanted_size = _kind(there)
    if kind != wanted:
        raise fault(f"{item.source} is {kind or 'no picture, font or document'}, {model} is {wanted or 'none'}")
    if size != wanted_size:
        asked = f"{wanted_size[0]} x {wanted_size[1]}"
        raise fault(f"{item.source} has {size[0]} x {size[1]} pixels, and {asked} are asked for by {model}")
    return data


def _ending(path: str) -> str:
    ending = path.rpartition(".")[2].lower()
    return {"jpeg": "jpg"}.get(ending, ending)


def _kind(data: bytes) -> tuple[str, tuple[int, int]]:
    """Return what a file is by its first bytes, and a picture's size in pixels."""
    picture = picture_file(data)
    if picture is not None:
        return f"{picture.kind.upper()} picture", (picture.width, picture.height)
    if data.startswith(b"GIF8"):
        return "GIF picture", (int.from_bytes(data[6:8], "little"), int.from_bytes(data[8:10], "little"))
    return next((name for name, pattern in _MAGIC if re.match(pattern, data)), ""), (0, 0)
