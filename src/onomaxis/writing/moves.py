"""In which order files change places, so that none lands on another, and how far that had come."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from onomaxis.model import Move
from onomaxis.writing.disk import ASIDE, Disk
from onomaxis.writing.journal import Record


class Route(NamedTuple):
    """The renames of a change: *first* in their order, and those that close the circles of files that swap places.

    In a circle one file is put aside in *first* and comes to its place in *closing*. A mark in the journal stands
    between the two: without it the names alone would not tell an untouched circle from a finished one.
    """

    first: tuple[Move, ...]
    closing: tuple[Move, ...]


def route(records: Sequence[Record]) -> Route:
    """Return the renames that *records* ask for: each lands where nothing stands any more."""
    waiting = {record.source: record.target for record in records if record.moved}
    first: list[Move] = []
    closing: list[Move] = []
    leaving = {target: source for source, target in waiting.items()}
    ready = sorted(source for source, target in waiting.items() if source and target not in waiting)
    while waiting:
        if not ready:  # only circles are left: put one file aside, which frees its place
            source = min(filter(None, waiting))
            target = waiting.pop(source)
            aside = Disk.beside(source, ASIDE)
            first.append(Move(source, aside))
            closing.append(Move(aside, target or ""))
            freed = leaving.get(source)
        else:
            source = ready.pop()
            first.append(Move(source, waiting.pop(source) or ""))
            freed = leaving.get(source)
        if freed in waiting and freed is not None:
            ready.append(freed)
    return Route(tuple(first), tuple(closing))


def take_back(steps: Sequence[Move], disk: Disk) -> None:
    """Rename back what has arrived, the last first: a step was done when its target stands, its source not."""
    for step in reversed(steps):
        if disk.spelled(step.target) and not disk.spelled(step.source):
            disk.rename(step.target, step.source)
