"""Values of an Apple target that brands usually vary: keys and schemes of its property list."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Iterator

from onomaxis import late
from onomaxis.errors import FormatError, InputError
from onomaxis.formats.plist import parse_plist
from onomaxis.projects.ios.color_places import color_spot
from onomaxis.projects.ios.project_file import Target
from onomaxis.projects.ios.settings import Table
from onomaxis.projects.ios.string_places import texts_of
from onomaxis.projects.ios.targets import TargetReader
from onomaxis.projects.project import goes_on, guarded
from onomaxis.projects.proposals import Proposed, proposed

# Keys of Apple's own that a brand varies.
_OF_A_BRAND = ("CFBundleURLTypes", "NSHumanReadableCopyright")
_REFERENCE = late.compile(r"\$[({](\w+)[)}]", re.ASCII)


def target_values(reader: TargetReader, target: Target) -> Iterator[Proposed]:
    """Yield what keys of services, URL schemes, app groups and colour sets hold."""
    yield from _groups(reader, target)
    if not target.flavors():  # flavors share them
        yield from _colors(reader)
    release = target.release()
    own = reader.identity(target, release).id if release is not None else None
    listed = reader.plist(reader.table(target, release)) if release is not None else None
    names: dict[tuple[str, ...], str] = {}
    for item in listed[1].strings() if listed is not None else ():
        if item.path[0].startswith(("CFBundle", "UI", "NS", "LS")) and item.path[0] not in _OF_A_BRAND:
            continue
        if item.path[-1:] == ("CFBundleURLName",):
            names[item.path[:-1]] = item.value
        elif "CFBundleURLSchemes" in item.path:
            base = item.path[: item.path.index("CFBundleURLSchemes")]
            label = names.get(base) or base[-1]
            if item.path[-1] == "0" and "." not in item.value:
                yield from proposed("url-scheme", item.value, {"url-scheme": label})
            elif item.path[-1] == "0" and own is not None and goes_on(item.value, own.text):
                yield Proposed("id-scheme", item.value, "text", {"url-scheme": label})
        elif all(not part.isdecimal() for part in item.path):
            called = item.path[-1].removeprefix("NSHumanReadable")
            for flavor, text in _told(reader, target, item.value):
                yield from proposed(called, text, {"plist": "/".join(item.path)}, flavor)


def _told(reader: TargetReader, target: Target, text: str) -> Iterator[tuple[str, str]]:
    """Yield what a key reads: what the build setting that it refers to is, for the app or else for each flavor."""
    named = _REFERENCE.fullmatch(text)
    if named is None:
        yield "", text
        return
    for flavor, table in _tables(reader, target):
        if table.text(named[1]):
            yield flavor, table.text(named[1])


def _tables(reader: TargetReader, target: Target) -> Iterator[tuple[str, Table]]:
    """Yield the settings of what archives: of the app itself, or else of each flavor."""
    alone = not target.flavors() or any(not item.flavor for item in target.configurations)
    for flavor in [""] if alone else target.flavors():
        release = target.release_of(flavor) if flavor else target.release()
        if release is not None:
            yield flavor, reader.table(target, release)


def target_texts(reader: TargetReader, target: Target) -> Iterator[Proposed]:
    """Yield every text of the app's own table in every language."""
    root = reader.project.root
    own = (root.text("developmentRegion") if root is not None else "") or "en"
    for language, key, text in texts_of(reader, target, "Localizable"):
        mine = language in (own, "Base")
        where = {"string": f"Localizable/{key}", **({} if mine else {"locale": language})}
        yield Proposed(key, text, "text", where, "", "" if mine else language)


_GROUPS = "com.apple.security.application-groups"


def _groups(reader: TargetReader, target: Target) -> Iterator[Proposed]:
    """Yield the app groups that entitlements ask for."""
    for flavor, table in _tables(reader, target):
        path = reader.file(table, "CODE_SIGN_ENTITLEMENTS")
        data = reader.tree.read(path) if path else None
        plist = guarded(path, [], lambda data=data: parse_plist(data)) if data else None  # type: ignore[misc]
        for item in plist.strings() if plist is not None else ():
            named = _REFERENCE.fullmatch(item.value)
            text = table.text(named[1]) if named else item.value
            if item.path[0] == _GROUPS and text and "$" not in text:
                yield Proposed("app-group", text, "text", {"entitlement": "/".join(item.path)}, flavor)


def _colors(reader: TargetReader) -> Iterator[Proposed]:
    """Yield the colour sets that are called as a brand's colours are."""
    folder = reader.project.folder
    for path in reader.tree.below(folder):
        if path.endswith(".colorset/Contents.json"):
            name = path.split("/")[-2].removesuffix(".colorset")
            with contextlib.suppress(InputError, FormatError):
                yield from proposed(name, color_spot(reader.tree, folder, name, path).text, {"color-set": name})
