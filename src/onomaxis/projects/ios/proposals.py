"""Values of an Apple target that brands usually vary: keys and schemes of its property list."""

from __future__ import annotations

import re
from collections.abc import Iterator

from onomaxis import late
from onomaxis.projects.ios.project_file import Target
from onomaxis.projects.ios.targets import TargetReader
from onomaxis.projects.proposals import Proposed, proposed

_REFERENCE = late.compile(r"\$[({](\w+)[)}]", re.ASCII)


def target_values(reader: TargetReader, target: Target) -> Iterator[Proposed]:
    """Yield what keys of services and URL schemes hold."""
    release = target.release()
    listed = reader.plist(reader.table(target, release)) if release is not None else None
    names: dict[tuple[str, ...], str] = {}
    for item in listed[1].strings() if listed is not None else ():
        if item.path[0].startswith(("CFBundle", "UI", "NS", "LS")) and item.path[0] != "CFBundleURLTypes":
            continue
        if item.path[-1:] == ("CFBundleURLName",):
            names[item.path[:-1]] = item.value
        elif "CFBundleURLSchemes" in item.path:
            base = item.path[: item.path.index("CFBundleURLSchemes")]
            label = names.get(base) or base[-1]
            if item.path[-1] == "0" and "." not in item.value:
                yield from proposed("url-scheme", item.value, {"url-scheme": label})
        elif all(not part.isdecimal() for part in item.path):
            for flavor, text in _told(reader, target, item.value):
                yield from proposed(item.path[-1], text, {"plist": "/".join(item.path)}, flavor)


def _told(reader: TargetReader, target: Target, text: str) -> Iterator[tuple[str, str]]:
    """Yield what a key reads: what the build setting that it refers to is, for the app or else for each flavor."""
    named = _REFERENCE.fullmatch(text)
    if named is None:
        yield "", text
        return
    alone = not target.flavors() or any(not item.flavor for item in target.configurations)
    for flavor in [""] if alone else target.flavors():
        release = target.release_of(flavor) if flavor else target.release()
        found = reader.table(target, release).text(named[1]) if release is not None else ""
        if found:
            yield flavor, found
