"""Flavors that are siblings of each other, and how texts and paths speak of them."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sized
from dataclasses import dataclass
from functools import cached_property

from onomaxis import late

_WORDS = late.compile(r"\{flavor\}|\w+")


@dataclass(frozen=True)
class Group:
    """Flavors that are compared with each other, the folder that everything of theirs stands below.

    ``apart`` are folders in it, with a slash, that are other apps'.

    What stands for the app itself (its ID goes before the others') is not a sibling: it lives on the app's own files.
    """

    folder: str
    flavors: tuple[str, ...]
    apart: tuple[str, ...] = ()

    def reaches(self, path: str) -> bool:
        """Tell whether a path lies below the folder, and in no other app's."""
        inside = f"{self.folder}/" if self.folder else ""
        return path.startswith(inside) and not path.startswith(self.apart)

    @cached_property
    def _spelled(self) -> Mapping[str, str]:
        return {flavor.casefold(): flavor for flavor in self.flavors}

    @cached_property
    def _pattern(self) -> re.Pattern[str]:
        """What finds flavors as words, also before a build type, in any case; with a capital as parts of names."""
        longest = sorted(self.flavors, key=len, reverse=True)
        words = "|".join(re.escape(flavor) for flavor in longest)
        parts = "|".join(re.escape(flavor[:1].upper() + flavor[1:]) for flavor in longest)
        ends = r"(?![A-Za-z0-9])|(?=(?i:debug|release|profile)(?![A-Za-z0-9]))"
        return re.compile(rf"(?<![A-Za-z0-9])(?i:{words})(?:{ends})|(?<=[a-z0-9])(?:{parts})(?![a-z0-9])")

    def mentions(self, text: str) -> dict[str, int]:
        """Return the flavors that a text names, each with where it stands first."""
        found: dict[str, int] = {}
        for match in self._pattern.finditer(text):
            found.setdefault(self._spelled[match[0].casefold()], match.start())
        return found

    def braced(self, path: str) -> str:
        """Return a path with the flavors in it in braces."""
        return self._pattern.sub("{flavor}", path)

    def braced_line(self, line: str) -> str:
        """Return the words of a line with the flavor in braces, however they are set apart."""
        return " ".join(_WORDS.findall(self.braced(line)))


def majority(having: int, every: Sized) -> bool:
    """Tell whether what *having* of some siblings have is what all should: more than half, and two at least."""
    return having > 1 and having * 2 > len(every)
