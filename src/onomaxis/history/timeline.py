"""When what apps are called changed: the commits that did it, along first parents, from the newest to the oldest.

Only commits that touch a file which says what an app is called, or which a kind of project is known by, are read.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import NamedTuple

from onomaxis import late
from onomaxis.errors import InputError
from onomaxis.history.differences import Row, differences
from onomaxis.history.state import Entity, State, state_of
from onomaxis.identity.schema import NAME
from onomaxis.past import commit_of, git, tree_of
from onomaxis.projects import KINDS

_SIGNS = {sign for listed in KINDS for sign in listed.signs if not sign.startswith("*")} | {
    NAME,
    "AndroidManifest.xml",
    "Info.plist",
    "InfoPlist.strings",
    "gradle.properties",
    "libs.versions.toml",
    "settings.gradle",
    "settings.gradle.kts",
}
# Subjects and paths may hold any character but NUL: a commit begins where name and date stand behind the mark.
_HEAD = late.compile(r"(?:^|(?<=\0))\n?\x01(?P<name>[0-9a-f]{40,64})\0(?P<date>[0-9-]{10})\0(?P<subject>[^\0]*)\0")
_ENDINGS = (".xcconfig", ".csproj", ".gradle", ".gradle.kts", ".xcscheme")


class Commit(NamedTuple):
    """One commit: its full name, the day it was made (ISO 8601), its first line, the files that it touches."""

    name: str
    date: str
    subject: str
    files: tuple[str, ...]


class Event(NamedTuple):
    """One facet of one app that a commit changed; ``app`` as facet where the app came or went."""

    commit: str
    date: str
    subject: str
    platform: str
    module: str
    flavor: str
    facet: str
    before: str | None
    after: str | None
    secret: bool = False


def commits(root: Path, revision: str = "HEAD") -> list[Commit]:
    """Return the commits of a revision along first parents, the newest first, with the files that each touches."""
    name = commit_of(root, revision)
    form = "--format=%x01%H%x00%cs%x00%s%x00"
    # Signatures are not looked at: the repository's own settings name the command that would do it.
    words = ["log", "--no-show-signature", "--no-ext-diff", "--no-textconv", "--first-parent", "-m", "--no-renames"]
    told = os.fsdecode(git(root, [*words, "--name-only", "-z", "--relative", form, name], revision))
    heads = list(_HEAD.finditer(told))
    ends = [*(head.start() for head in heads[1:]), len(told)]
    found = []
    for head, end in zip(heads, ends, strict=True):
        files = tuple(path.lstrip("\n") for path in told[head.end() : end].split("\0") if path.strip("\n"))
        found.append(Commit(head["name"], head["date"], head["subject"], files))
    return found


def timeline(
    root: Path, facet: str = "", revision: str = "HEAD", tick: Callable[[int, int], None] | None = None
) -> list[Event]:
    """Return all changes of what apps are called, the newest first; of one facet where it is named.

    *tick* gets how many of how many commits were looked at. Raises InputError where git cannot tell.
    """
    every = commits(root, revision)
    events: list[Event] = []
    if not every:
        return events
    state = _state(root, every[0].name)
    for number, commit in enumerate(every):
        if tick:
            tick(number + 1, len(every))
        if not _concerns(commit, state):
            continue
        before = _state(root, every[number + 1].name) if number + 1 < len(every) else State()
        events += _events(commit, before, state)
        state = before
    return [event for event in events if _is(event.facet, facet)]


def _is(facet: str, wanted: str) -> bool:
    return not wanted or facet == wanted or facet.partition(":")[0] == wanted


def _state(root: Path, commit: str) -> State:
    past = tree_of(root, commit)
    try:
        return state_of(past)
    finally:
        past.close()


def _concerns(commit: Commit, state: State) -> bool:
    """Tell whether a commit touches a file that says what an app is called, then or now."""
    owners = {told.file for entity in state.entities for told in entity.facets.values()}
    owners |= {item.file for item in state.open}
    return any(
        path in owners
        or path.rpartition("/")[2] in _SIGNS
        or path.endswith(_ENDINGS)
        or "/res/values" in f"/{path}"
        or _beside(path, owners)
        for path in commit.files
    )


def _beside(path: str, owners: set[str]) -> bool:
    """Tell whether a file stands in the folder of an icon's picture: another of its pictures."""
    folder = path.rpartition("/")[0]
    pictures = folder.endswith(".appiconset") or "/mipmap" in f"/{folder}" or "/drawable" in f"/{folder}"
    return pictures or path in owners


def _events(commit: Commit, before: State, after: State) -> Iterator[Event]:
    found = differences(before, after)
    if not before.entities:  # the first commit makes them all
        yield from (_of_app(commit, entity, None, entity.id or None) for entity in after.entities if not entity.part)
        return
    for row in found.rows:
        yield _of_row(commit, row)
    for entity in found.added:
        yield _of_app(commit, entity, None, entity.id or None)
    for entity in found.retired:
        yield _of_app(commit, entity, entity.id or None, None)


def _of_row(commit: Commit, row: Row) -> Event:
    who = (row.platform, row.module, row.flavor, row.facet)
    return Event(commit.name, commit.date, commit.subject, *who, row.before, row.after, row.secret)


def _of_app(commit: Commit, entity: Entity, before: str | None, after: str | None) -> Event:
    who = (entity.platform, entity.module, entity.flavor, "app")
    return Event(commit.name, commit.date, commit.subject, *who, before, after)


FACETS = ("app", "id", "name", "version", "build", "icon", "module", "flavor", "value", "service", "permission")


def facet_of(text: str) -> str:
    """Return a facet that can be asked for. Raises InputError for another."""
    if text and text.partition(":")[0] not in FACETS:
        raise InputError(f"“{text}” is not a facet", remedy=f"One of: {', '.join(FACETS)}.")
    return text


def steps(events: Sequence[Event], facet: str) -> dict[str, list[tuple[str, str]]]:
    """Return by app the dates at which a facet changed, with what it was from then on, the oldest first."""
    found: dict[str, list[tuple[str, str]]] = {}
    for event in reversed(events):
        if event.facet == facet and event.after is not None:
            who = " ".join(filter(None, (event.platform, event.module, event.flavor)))
            found.setdefault(who, []).append((event.date, event.after))
    return found
