"""What a person has to do after a change, outside the files: accounts and consoles, tools that make files anew."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator, Sequence

from onomaxis import late
from onomaxis.platforms import PLATFORMS
from onomaxis.projects.services import GOOGLE_ANDROID, GOOGLE_IOS, service_files
from onomaxis.tree import Tree, join, parent
from onomaxis.writing.change import FileChange, applied
from onomaxis.writing.planned import PlannedChange

# So many lines are told at most; so many IDs are named one by one.
_MOST, _NAMED = 5, 3
_CONFIGURATION = late.compile(rb"isa = XCBuildConfiguration;[^{}]*+\{[^{}]*+\};\s*+name = ([^;]*+);")
_PUBSPEC_NAME = late.compile(rb"^name:[ \t]*+(\S*+)", re.MULTILINE)
_COPIED_BY_TOOL = ("capacitor.config.json", "capacitor.config.ts", "capacitor.config.js")


def next_steps(tree: Tree, plan: PlannedChange) -> tuple[str, ...]:
    """Return what is left for a person, each only where it is so; *tree* is the one that the plan starts from."""
    if plan.empty:
        return ()
    later = applied(tree, plan.changes)
    old, new = _ids(plan.called_before), _ids(plan.called_after)
    fresh = {platform: [id_ for id_ in new[platform] if id_ not in old[platform]] for platform in PLATFORMS}
    return (*_accounts(fresh), *_services(later, fresh), *_tools(later, plan.changes))[:_MOST]


def _ids(called: str) -> dict[str, list[str]]:
    """Return the IDs of a tree's apps by platform, from what they are called."""
    found: dict[str, list[str]] = {platform: [] for platform in PLATFORMS}
    for row in json.loads(called or "[]"):
        kind, second, id_ = row[0], row[1], row[3] if len(row) > 3 else None
        if second != "identifiers" and isinstance(id_, str):
            for platform in (kind,) if kind in PLATFORMS else PLATFORMS:
                found[platform].append(id_)
    return {platform: list(dict.fromkeys(ids)) for platform, ids in found.items()}


def _accounts(fresh: dict[str, list[str]]) -> Iterator[str]:
    if fresh["ios"]:
        yield f"Register {_listed(fresh['ios'])} with Apple, and make the provisioning profiles."
    if fresh["android"]:
        yield f"Google Play treats a new ID as a new app: create it there for {_listed(fresh['android'])}."


def _services(later: Tree, fresh: dict[str, list[str]]) -> Iterator[str]:
    lacking = []
    for platform, name in (("android", GOOGLE_ANDROID), ("ios", GOOGLE_IOS)):
        files = service_files(later, name, "") if fresh[platform] else []
        lacking += [id_ for id_ in fresh[platform] if files and not any(file.knows(id_) for file in files)]
    if lacking:
        yield f"Download the service files of {_listed(list(dict.fromkeys(lacking)))}."
        yield "onomaxis stamp --service FILE puts such a file in its place."


def _tools(later: Tree, changes: Sequence[FileChange]) -> Iterator[str]:
    folders = {}
    for item in changes:
        path = item.target or ""
        name = path.rpartition("/")[2]
        if name == "Podfile":
            folders[parent(path)] = True
        elif name == "project.pbxproj":
            folder = parent(parent(path))
            named = [_CONFIGURATION.findall(data or b"") for data in (item.before, item.after)]
            folders[folder] = folders.get(folder, False) or item.moved or sorted(named[0]) != sorted(named[1])
    for folder in (folder for folder, due in folders.items() if due and later.exists(join(folder, "Podfile"))):
        yield f"Run pod install in {folder or '.'}: targets and configurations are others now."
    targets = {(item.target or "").rpartition("/")[2]: item for item in changes}
    if any(name in targets for name in _COPIED_BY_TOOL):
        yield "Run npx cap sync: the native halves have copies of the configuration."
    pubspec = targets.get("pubspec.yaml")
    sides = (pubspec.before, pubspec.after) if pubspec is not None else ()
    if len({tuple(_PUBSPEC_NAME.findall(data or b"")) for data in sides}) > 1:
        yield "Run flutter pub get: the package has another name."


def _listed(ids: Sequence[str]) -> str:
    more = f" and {len(ids) - _NAMED} more" if len(ids) > _NAMED else ""
    return ", ".join(ids[:_NAMED]) + more
