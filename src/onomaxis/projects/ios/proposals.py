"""Values of an Apple target that brands usually vary: keys and schemes of its property list."""

from __future__ import annotations

from collections.abc import Iterator

from onomaxis.projects.ios.project_file import Target
from onomaxis.projects.ios.targets import TargetReader
from onomaxis.projects.proposals import Proposed, proposed


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
            yield from proposed(item.path[-1], item.value, {"plist": "/".join(item.path)})
