"""What happens to files, each before and after; changes joined, put one after the other, applied in memory."""

from __future__ import annotations

import os
from collections.abc import Iterable
from typing import NamedTuple

from onomaxis.errors import RefusedError
from onomaxis.paths import fault_of
from onomaxis.tree import Tree


class FileChange(NamedTuple):
    """One file before and after: ``source`` is None for a new file, ``target`` None for a removed one.

    Of a link the bytes are its target as text.
    """

    source: str | None
    target: str | None
    before: bytes | None
    after: bytes | None
    link: bool = False

    @property
    def edited(self) -> bool:
        """True when the bytes differ."""
        return self.before != self.after

    @property
    def moved(self) -> bool:
        """True when the file gets another path."""
        return self.source is not None and self.target is not None and self.source != self.target


def joined(changes: Iterable[FileChange]) -> tuple[FileChange, ...]:
    """Return *changes* with a removal and a creation of one path made one edit.

    Raises RefusedError for paths that are none below the root, or that two changes would give something to.
    """
    found: list[FileChange] = []
    changes = list(changes)
    made = {change.target: change for change in changes if change.source is None}
    gone = {change.source for change in changes if change.target is None}
    for change in changes:
        if change.source is None and change.target in gone:
            continue
        if change.target is None and change.source in made:
            other = made[change.source]
            change = FileChange(change.source, change.source, change.before, other.after, other.link)
            if not change.edited:
                continue
        found.append(change)
    for side in ("source", "target"):
        seen: set[str] = set()
        for change in found:
            path = getattr(change, side)
            if path is None:
                continue
            fault = fault_of(path)
            if fault:
                raise RefusedError(f"a change would leave the project: {fault}", file=path)
            if path in seen:
                raise RefusedError("two changes meet at one path", file=path, remedy="Nothing was changed.")
            seen.add(path)
    return tuple(found)


def followed_by(first: Iterable[FileChange], second: Iterable[FileChange]) -> tuple[FileChange, ...]:
    """Return the one change that does *first* and then *second*, which starts from the result of *first*."""
    by_target = {change.target: change for change in first if change.target is not None}
    found = [change for change in first if change.target is None]
    for change in second:
        earlier = by_target.pop(change.source, None) if change.source is not None else None
        if earlier is None:
            found.append(change)
            continue
        both = FileChange(earlier.source, change.target, earlier.before, change.after, earlier.link)
        if both.edited or both.moved:
            found.append(both)
    found += by_target.values()
    return joined(sorted(found, key=lambda change: change.source or change.target or ""))


def applied(tree: Tree, changes: Iterable[FileChange]) -> Tree:
    """Return the tree as it will be after *changes*."""
    changes = tuple(changes)
    contents = {c.target: c.after for c in changes if c.target is not None and c.after is not None and not c.link}
    links = {c.target: os.fsdecode(c.after or b"") for c in changes if c.link and c.target is not None}
    return tree.overlay(contents, [c.source for c in changes if c.source is not None], links)
