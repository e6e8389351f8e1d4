"""Which pictures were drawn from what: those that stand there still need not be drawn again.

Remembered are, for each picture, the digest of everything that its drawing depends on, and that of its bytes. A
picture counts as drawn only where both are found again: the first reckoned anew, the second from the file in the
project. The memory bears this user's seal for this checkout (:mod:`onomaxis.writing.trust`): one that came with a
repository, and says that a wrong picture is the right one, is not believed.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping
from functools import partial
from pathlib import Path
from typing import Any, NamedTuple

from onomaxis import __version__
from onomaxis.errors import InputError, OnomaxisError
from onomaxis.icons.output import Output
from onomaxis.icons.wish import IconWish
from onomaxis.model import Tile
from onomaxis.paths import read_named
from onomaxis.writing.disk import Disk
from onomaxis.writing.journal import HOME, digest
from onomaxis.writing.trust import is_sealed, seal, user_key

FILE = f"{HOME}/drawn.json"
# Some 150,000 pictures: a larger file is none that was written here.
_LARGEST = 1 << 25
# Of so many sets, the latest, what was measured is kept.
_MOST_SETS = 1000
# What of an icon is a file, or may be one.
_ART = ("art", "foreground", "background", "monochrome", "legacy_art", "ios_art", "ios_dark", "ios_tinted")

# What a picture was drawn from and what it is, as digests, by its path.
Pictures = Mapping[str, tuple[str, str]]


class Memory(NamedTuple):
    """What is remembered of a project: its pictures, and what was measured of the art that they were drawn from."""

    pictures: dict[str, tuple[str, str]]
    measured: dict[str, object]


def of_wish(wish: IconWish, today: tuple[int, int, int] | None) -> str:
    """Return the digest of all that measuring depends on: as :func:`of_set`, with the ground that stands today."""
    return of_set(wish, today)


def of_set(wish: IconWish, ground: tuple[int, int, int] | None) -> str:
    """Return the digest of what a set is drawn from: art by its bytes, options, its ground, program and libraries.

    *ground* is the one that the set has in the end: all that today's icon may lend to it.
    """
    import numpy as np
    import PIL
    import resvg_py

    program = (__version__, np.__version__, PIL.__version__, resvg_py.__version__)
    art: dict[str, Any] = {name: _art(getattr(wish, name)) for name in _ART}
    return digest(ascii((program, wish._replace(**art), ground)).encode("ascii"))


def _art(text: str) -> str:
    """Return art as its bytes' digest; a colour, or what cannot be read, as it is called."""
    try:
        return digest(read_named(text)) if text else ""
    except (OSError, ValueError, InputError):
        return text


def of_pictures(out: Output, whole: str) -> dict[str, str]:
    """Return by path the digest of what each picture is drawn from: the set, its slots, what its drawing is told."""
    slots: dict[str, list[str]] = {}
    for image in out.images:
        slots.setdefault(image.path, []).append(repr(image))
    found = {}
    for path, draw in out.drawings.items():
        told = [repr(item) for item in _told(draw) if isinstance(item, (str, int, float, Tile))]
        found[path] = digest(ascii((whole, path, sorted(slots[path]), told)).encode("ascii"))
    return found


def _told(draw: object) -> Iterable[Any]:
    return (getattr(draw.func, "__name__", ""), *draw.args) if isinstance(draw, partial) else ()


def recalled(root: Path) -> Memory:
    """Return what is remembered of a project; nothing where nobody can say that it was this user who wrote it."""
    disk = Disk(root)
    try:
        if disk.kind(HOME) != "folder" or disk.kind(FILE) != "file":
            return Memory({}, {})
        sealed, _, text = (disk.read(FILE, _LARGEST) or b"").partition(b"\n")
        if not is_sealed(root, text, sealed):
            return Memory({}, {})
        found = json.loads(text.decode("utf-8"))
        pictures = {path: (str(drawn), str(made)) for path, (drawn, made) in found["pictures"].items()}
        return Memory(pictures, dict(found.get("measured", {})))
    except (OSError, ValueError, TypeError, KeyError, RecursionError, OnomaxisError):
        return Memory({}, {})


def remember(root: Path, pictures: Pictures, measured: Mapping[str, object] | None = None) -> None:
    """Remember pictures that stand in a project now, beside those that were remembered; what cannot be kept is not.

    Only where the program has written before: a project in which nothing is to be done gets no folder.
    """
    disk, new = Disk(root), dict(measured or {})
    before, sets = recalled(root) if pictures else ({}, {})
    if all(before.get(path) == said for path, said in pictures.items()) and new.keys() <= sets.keys():
        return
    try:
        key = user_key(make=True)
        if key is None or disk.kind(HOME) != "folder":
            return
        kept = {path: said for path, said in before.items() if (root / path).is_file()} | dict(pictures)
        latest = list({**{key: said for key, said in sets.items() if key not in new}, **new}.items())[-_MOST_SETS:]
        document = {"format": 1, "pictures": dict(sorted(kept.items())), "measured": dict(latest)}
        text = json.dumps(document, separators=(",", ":")).encode("ascii")
        disk.unstage(FILE)
        disk.write(FILE, seal(key, root, text) + b"\n" + text)
    except (OSError, OnomaxisError):
        return
