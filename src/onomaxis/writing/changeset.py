"""A change as pure data: edits, moves and new files, resolved into what each file was and becomes."""

from __future__ import annotations

import itertools
import os
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

from onomaxis.errors import FaultError, RefusedError
from onomaxis.model import Edit, Move
from onomaxis.paths import fault_of
from onomaxis.tree import Tree


@dataclass(frozen=True, slots=True)
class FileChange:
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


@dataclass(frozen=True)
class Changeset:
    """Edits, moves, new files, files written whole (there already or not) and removals that belong together."""

    edits: tuple[Edit, ...] = ()
    moves: tuple[Move, ...] = ()
    created: tuple[tuple[str, bytes], ...] = ()
    written: tuple[tuple[str, bytes], ...] = ()
    removed: tuple[str, ...] = ()

    def resolve(self, tree: Tree) -> tuple[FileChange, ...]:
        """Return what every touched file was and becomes. Raises RefusedError for edits that overlap."""
        from onomaxis.writing.links import with_links

        targets = {move.source: move.target for move in self.moves}
        by_file: dict[str, list[Edit]] = defaultdict(list)
        for edit in self.edits:  # over a link inside the root: at the file's real place
            by_file[tree.real(edit.file) or edit.file].append(edit)
        changes = []
        for path in sorted({*targets, *by_file}):
            text = tree.link(path) if path in tree.links or path not in tree.known else None
            if text is not None:
                changes.append(FileChange(path, targets.get(path, path), os.fsencode(text), os.fsencode(text), True))
                continue
            before = tree.read(path)
            if before is None:
                raise RefusedError("the file is gone or cannot be read", file=path, remedy="Run the command again.")
            after = apply_edits(path, before, by_file.get(path, ()))
            change = FileChange(path, targets.get(path, path), before, after)
            if change.edited or change.moved:
                changes.append(change)
        changes += [FileChange(None, path, None, data) for path, data in sorted(self.created)]
        for path, data in sorted(self.written):
            old = tree.read(path) if tree.exists(path) else None
            if old != data:
                changes.append(FileChange(None if old is None else path, path, old, data))
        for path in sorted(set(self.removed)):
            text = tree.link(path) if path in tree.links else None
            before = tree.read(path) if text is None else os.fsencode(text)
            changes.append(FileChange(path, None, before, None, text is not None))
        return joined(with_links(tree, changes))


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


def apply_edits(path: str, data: bytes, edits: Iterable[Edit]) -> bytes:
    """Replace spans, from the end backwards.

    Equal edits count once; insertions at one place follow each other; overlapping edits are refused.
    """
    alike = {(e.start, e.end, e.new, e.facet if e.start == e.end else ""): e for e in edits}
    ordered = sorted(alike.values(), key=lambda edit: (edit.start, edit.end, edit.facet, edit.new))
    for left, right in itertools.pairwise(ordered):
        if right.start < left.end or (right.start == left.start and right.end == left.end > left.start):
            line = data.count(b"\n", 0, right.start) + 1
            raise RefusedError(
                f"two changes meet in one place: {_shown(left)} and {_shown(right)}",
                file=path,
                line=line,
                remedy="Give the identifiers of both platforms separately, or change it by hand.",
            )
    after = data
    for edit in reversed(ordered):
        after = after[: edit.start] + edit.new + after[edit.end :]
    _prove_rest(path, data, after, ordered)
    return after


def _prove_rest(path: str, before: bytes, after: bytes, ordered: list[Edit]) -> None:
    """Make sure that outside the edited spans every byte is the old one, by another reckoning than the writing's."""
    at = shift = 0
    for edit in ordered:
        inside = 0 <= edit.start <= edit.end <= len(before)
        same = before[at : edit.start] == after[at + shift : edit.start + shift]
        there = after[edit.start + shift : edit.start + shift + len(edit.new)] == edit.new
        if not (inside and same and there):
            raise FaultError("an edit would reach outside its span; nothing was changed", file=path)
        shift += len(edit.new) - (edit.end - edit.start)
        at = edit.end
    if before[at:] != after[at + shift :]:
        raise FaultError("an edit would reach outside its span; nothing was changed", file=path)


def _shown(edit: Edit) -> str:
    return f"{edit.facet or 'an edit'} “{edit.new.decode('utf-8', 'replace')}”"
