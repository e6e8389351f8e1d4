"""Store listings that are kept in folders: one for each language, in it a file for each text, as they are delivered.

They are told by their form: a folder that is called as a language and holds two texts that a store knows, whatever
stands between the words of their names (``full_description.txt``, ``full-description.txt``).
Sources of the texts: Play Console Help, "Create and set up your app"; App Store Connect Help, "App information".
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterator
from typing import NamedTuple

from onomaxis import late
from onomaxis.tree import Tree, parent

# BCP 47, as the stores write it: language, script or region.
_LANGUAGE = late.compile(r"(?:[a-z]{2}|fil)(?:-(?:[A-Z]{2}|[A-Z][a-z]{3}|\d{3}))?\Z")
# What each store's texts are called, and which text of a listing that is.
_ANDROID = {"title": "title", "shortdescription": "short", "fulldescription": "full"}
_APPLE = {"name": "title", "subtitle": "subtitle", "keywords": "keywords", "promotionaltext": "promotion"}
_APPLE |= {"description": "full", "releasenotes": "notes"}
# Folders in a language's, or around the languages', whose files say what is new.
_NOTES = ("changelogs", "releasenotes")


class ListingText(NamedTuple):
    """One text: its file, the folder that the languages lie in, its language, its store, which text it is."""

    path: str
    root: str
    language: str
    platform: str
    key: str
    text: str


def listing_texts(tree: Tree) -> Iterator[ListingText]:
    """Yield the texts of every listing of a tree."""
    roots: dict[str, list[tuple[str, str, str]]] = defaultdict(list)
    for path in tree.files:
        if path.endswith(".txt"):
            for root, language, word in _placed(path):
                roots[root].append((path, language, word))
    news = {root: roots.pop(root) for root in [*roots] if _plain(root.rpartition("/")[2]) in _NOTES}
    for root, texts in roots.items():
        beside = next((name for name in news if parent(name) in (root, parent(root))), "")
        found = [*texts, *news.get(beside, ())]
        words = {word for _, _, word in found}
        platform, known = ("android", _ANDROID) if words & {*_ANDROID} else ("ios", _APPLE)
        if len(words & {*known}) < 2:
            continue
        for path, language, word in found:
            key = known.get(word, "notes" if word in _NOTES else "")
            if key:
                text = (tree.read(path) or b"").decode("utf-8", "replace").removeprefix("\ufeff")
                yield ListingText(path, root, language, platform, key, text)


def _placed(path: str) -> Iterator[tuple[str, str, str]]:
    """Yield the listing's folder, the language and the plain name of a file that may be one of its texts."""
    parts = path.split("/")
    for depth in (2, 3):
        if len(parts) > depth and _LANGUAGE.match(parts[-depth]):
            root, language = parts[:-depth], parts[-depth]
            word = _plain(parts[-1].removesuffix(".txt") if depth == 2 else parts[-2])
            if depth == 2 and _plain(root[-1]) in _NOTES:  # what is new: release-notes/de/7.txt
                yield "/".join(root), language, _plain(root[-1])
            elif depth == 2 or word in _NOTES:
                yield "/".join(root), language, word
            return


def _plain(name: str) -> str:
    return re.sub(r"[-_. ]", "", name).casefold()
