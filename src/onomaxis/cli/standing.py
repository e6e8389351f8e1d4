"""Places as a person reads them: from the folder that they stand in, where the project is around or below it."""

from __future__ import annotations

import os
import re
from pathlib import Path

from onomaxis import late

_LINE = late.compile(r"(.+?)((?::\d+){0,2})\Z", re.DOTALL)


def from_here(root: Path | None, place: str) -> str:
    """Return a place of a project (``file``, ``file:line``) as a path from the current folder.

    Where the project lies elsewhere, the place stays as the project's own.
    """
    if root is None or not place or place == "." or place.startswith("("):
        return place
    here = Path.cwd()
    if root == here or not (root.is_relative_to(here) or here.is_relative_to(root)):
        return place
    match = _LINE.fullmatch(place)
    file, line = (match[1], match[2]) if match else (place, "")
    return os.path.relpath(root / file, here).replace(os.sep, "/") + line
