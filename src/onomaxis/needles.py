"""Many texts sought at once: those that begin alike are found by what they begin with, then told apart."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import AnyStr, Generic, NamedTuple

# Texts that begin with so many characters in common are sought together.
_ALIKE = 6


class _Group(NamedTuple, Generic[AnyStr]):
    """Texts that begin alike: what they begin with, all of them, and how long they are, the shortest first."""

    stem: AnyStr
    texts: frozenset[AnyStr]
    lengths: tuple[int, ...]


class Needles(Generic[AnyStr]):
    """Texts, or bytes, to search for."""

    def __init__(self, texts: Iterable[AnyStr]) -> None:
        begun: dict[AnyStr, set[AnyStr]] = {}
        for text in texts:
            if text:
                begun.setdefault(text[:_ALIKE], set()).add(text)
        self._groups: list[_Group[AnyStr]] = [
            _Group(_shared(min(some), max(some)), frozenset(some), tuple(sorted(set(map(len, some)))))
            for some in begun.values()
        ]

    def places(self, where: AnyStr) -> Iterator[tuple[int, AnyStr]]:
        """Yield every place of each text, with the text; at one place the shorter before the longer."""
        for stem, texts, lengths in self._groups:
            at = where.find(stem)
            while at >= 0:
                for length in lengths:
                    found = where[at : at + length]
                    if len(found) == length and found in texts:
                        yield at, found
                at = where.find(stem, at + 1)

    def within(self, where: AnyStr) -> bool:
        """Tell whether any of the texts stands somewhere."""
        return next(self.places(where), None) is not None


def shortest(texts: Iterable[str]) -> list[str]:
    """Drop every text that holds another one: finding the shorter finds it too."""
    kept: list[str] = []
    known: set[str] = set()
    lengths: list[int] = []
    for text in sorted({item for item in texts if item}, key=len):
        parts = (text[at : at + length] for length in lengths for at in range(len(text) - length + 1))
        if not any(part in known for part in parts):
            kept.append(text)
            known.add(text)
            if len(text) not in lengths:
                lengths.append(len(text))
    return kept


def stems(texts: Iterable[AnyStr], most: int, least: int) -> list[AnyStr] | None:
    """Return at most *most* texts of *least* characters or more, with one of which every text begins.

    None where there are none; a single text may be shorter.
    """
    known = list(dict.fromkeys(texts))
    if len(known) <= most:
        return known
    for length in range(max(map(len, known)), least - 1, -1):
        found = {text[:length] for text in known}
        if len(found) <= most:
            return sorted(found)
    return None


def _shared(one: AnyStr, other: AnyStr) -> AnyStr:
    """Return what two texts begin with in common."""
    end = next((at for at in range(min(len(one), len(other))) if one[at] != other[at]), min(len(one), len(other)))
    return one[:end]
