"""Links that move, and links to what moves: each goes on meaning what it meant."""

from __future__ import annotations

import os
import posixpath
from collections import defaultdict
from collections.abc import Mapping, Sequence

from onomaxis.tree import Tree, parent
from onomaxis.writing.change import FileChange


def with_links(tree: Tree, changes: Sequence[FileChange]) -> tuple[FileChange, ...]:
    """Return *changes* with every link of *tree* that they concern.

    A relative link that moves, or whose target does, is written anew where its text would mean another place.
    """
    moved = {change.source: change.target for change in changes if change.source and change.target and change.moved}
    if not moved or not tree.links:
        return tuple(changes)
    folders = _moved_folders(tree, changes, moved)
    gone = {change.source for change in changes if change.target is None}
    found = {change.source: change for change in changes if change.link}
    for link in sorted(tree.links - gone):
        text = tree.link(link)
        if text is None:
            continue
        home = moved.get(link, link)
        new = _retargeted(tree.root.as_posix(), link, home, text, {**moved, **folders})
        if home != link or new != text:
            found[link] = FileChange(link, home, os.fsencode(text), os.fsencode(new), link=True)
    return (*(change for change in changes if not change.link or change.target is None), *found.values())


def _retargeted(root: str, link: str, home: str, text: str, moved: Mapping[str, str]) -> str:
    """Return what a link must say at *home* so that it means what it meant at *link*."""
    if posixpath.isabs(text) or "\\" in text:
        return text
    old_folder = posixpath.join(root, parent(link))
    aim = posixpath.normpath(posixpath.join(old_folder, text))
    inner = aim[len(root) + 1 :] if aim.startswith(root + "/") else ""
    new_aim = posixpath.join(root, _place(inner, moved)) if inner else aim
    if home == link and new_aim == aim:
        return text
    new = posixpath.relpath(new_aim, posixpath.join(root, parent(home)))
    if new == posixpath.relpath(aim, old_folder):
        return text
    return new + ("/" if text.endswith("/") else "")


def _place(path: str, moved: Mapping[str, str]) -> str:
    """Return where a file or folder is after the moves: its own place, or that below a folder that moved."""
    head = path
    while head:
        if head in moved:
            return moved[head] + path[len(head) :]
        head = parent(head)
    return path


def _moved_folders(tree: Tree, changes: Sequence[FileChange], moved: Mapping[str, str]) -> dict[str, str]:
    """Return the folders that move as a whole: everything in them goes to one other folder, by the same names."""
    wanted: dict[str, set[str]] = defaultdict(set)
    for source, target in moved.items():
        old, new = source.split("/"), target.split("/")
        while len(old) > 1 and len(new) > 1 and old[-1] == new[-1]:
            old.pop()
            new.pop()
            if old != new:
                wanted["/".join(old)].add("/".join(new))
    leaving = {change.source for change in changes if change.source != change.target}
    return {
        old: next(iter(new))
        for old, new in wanted.items()
        if len(new) == 1 and all(path in leaving for path in tree.below(old))
    }
