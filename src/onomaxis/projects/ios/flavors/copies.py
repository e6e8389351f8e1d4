"""What a new flavor takes over from the one that it is made from, where no configuration is without a flavor.

A file of settings that is the sibling's own is copied, what the sibling is called replaced in it: standing on the
sibling's own file, the new flavor would get everything that the sibling alone has.
"""

from __future__ import annotations

import posixpath
import re
from collections.abc import Callable, Iterator, Mapping, Sequence, Set
from typing import NamedTuple

from onomaxis.flavor_names import flavor_word
from onomaxis.formats.escapes import encode
from onomaxis.formats.source import Source
from onomaxis.formats.xcconfig import Include, Setting, parse_xcconfig
from onomaxis.model import Note, Value
from onomaxis.projects.ios.flavors.common_file import included_files
from onomaxis.projects.ios.flavors.shared import BRAND_ID, BRAND_NAME, NewFlavor, begins, recut
from onomaxis.projects.ios.project_file import Configuration, Target, XcodeProject, flavor_of
from onomaxis.projects.ios.targets import TargetReader
from onomaxis.projects.run_lists import snake
from onomaxis.tree import Tree, join, parent

# Settings that name what each flavor has of its own: a profile is for one ID, an icon set for one brand.
PROFILES = ("PROVISIONING_PROFILE", "PROVISIONING_PROFILE_SPECIFIER")
OWN = (*PROFILES, "ASSETCATALOG_COMPILER_APPICON_NAME")


class Sibling(NamedTuple):
    """The flavor that a new one is made from: its name, its ID, what it is called."""

    flavor: str
    id: str
    name: str


class Copy(NamedTuple):
    """A file of the new flavor: what it holds, and the settings of it that hold the flavor's ID."""

    path: str
    data: bytes
    keys: frozenset[str]

    def saying(self, lines: Sequence[str]) -> Copy:
        """Return the copy with lines added at its end."""
        source = Source.read(self.data)
        text = source.text(0, len(source.view))
        lead = "" if not text or text.endswith("\n") else source.newline
        more = "".join(f"{line}{source.newline}" for line in lines)
        return self._replace(data=self.data + source.raw(lead + more))


class Copies(NamedTuple):
    """The sibling (None: plain configurations are the models), and the copies of its own files by their paths."""

    sibling: Sibling | None = None
    files: Mapping[str, Copy] = {}
    notes: tuple[Note, ...] = ()

    def says(self, value: Value | None) -> bool:
        """Tell whether a value of the sibling's comes from a file that is copied."""
        places = [piece.place for piece in value.pieces if piece.place] if value is not None else []
        return any(place.file in self.files for place in places)

    def renamed(self, text: str, new: NewFlavor) -> str | None:
        """Return what a setting of the sibling's is for the new flavor; None where it says nothing of it."""
        sibling = self.sibling
        if sibling is None:
            return None
        if sibling.id and new.id:
            named = _within(sibling.id).sub(lambda m: m[0].replace(sibling.id, new.id), text)
            if named != text:
                return named
        if sibling.name and new.name and text == sibling.name:
            return new.name
        if text.casefold() == sibling.flavor.casefold():
            return spelled(text, new.flavor)
        point = f"main_{snake(sibling.flavor)}.dart"
        return text.replace(point, f"main_{snake(new.flavor)}.dart") if point in text else None

    def respelled(self, text: str, new: NewFlavor) -> str | None:
        """Return a text with the new flavor's name where the sibling's stands as a word; None where it does not."""
        if self.sibling is None or not self.speaks_of(text):
            return None
        return flavor_word(self.sibling.flavor).sub(lambda m: spelled(m[0], new.flavor), text)

    def speaks_of(self, text: str) -> bool:
        """Tell whether a text has the sibling's name in it as a word."""
        return self.sibling is not None and flavor_word(self.sibling.flavor).search(text) is not None


def _within(id_: str) -> re.Pattern[str]:
    """Return what finds an ID: whole, in front of a longer one, behind what groups and containers begin with.

    Source: Apple, "App Groups Entitlement", "iCloud Container Identifiers Entitlement", "Merchant IDs Entitlement".
    """
    return re.compile(rf"(?<![\w.-])(?:(?:group|iCloud|merchant)\.)?{re.escape(id_)}(?![\w-])")


def spelled(old: str, new: str) -> str:
    """Return a name with capitals as another one has them."""
    if old.isupper():
        return new.upper()
    return new[:1].upper() + new[1:] if old[:1].isupper() else new


def copies_of(project: XcodeProject, tree: Tree, app: Target, reader: TargetReader, new: NewFlavor) -> Copies:
    """Return the copies that a new flavor needs of the files of the one that it is made from."""
    names = set(new.templates.values())
    flavors = {flavor_of(name).casefold() for name in names}
    if len(flavors) != 1 or flavors & {"", new.flavor.casefold()}:
        return Copies()
    models = [item for item in app.configurations if item.name in names]
    release = next((item for item in models if "release" in item.name.lower()), models[-1])
    identity = reader.identity(app, release)
    id_, shown = (value.text if value is not None else "" for value in (identity.id, identity.name))
    copies = Copies(Sibling(flavor_of(release.name), id_, shown))
    paths = {old: _path(old, copies, new) for old in _own(project, tree, names, copies)}
    files, notes = {}, []
    for old, path in paths.items():
        files[old], left = _copied(
            tree, old, path, paths, copies, new, lambda key, text: _varies(app, reader, names, key, text)
        )
        for keys, said in (
            (left - {*OWN}, f"as {flavor_of(release.name)} has it still"),
            (left & {*OWN}, "left out"),
        ):
            if keys:
                notes.append(Note(path, f"{', '.join(sorted(keys))}: {said}; say what it is for {new.flavor}"))
    return copies._replace(files=files, notes=tuple(notes))


def _own(project: XcodeProject, tree: Tree, names: set[str], copies: Copies) -> list[str]:
    """Return the files that only the sibling's configurations stand on, and that say what it is called."""
    lists = [list(project.project_configurations.values()), *(target.configurations for target in project.targets)]
    used: dict[bool, set[str]] = {True: set(), False: set()}
    for item in (item for items in lists for item in items):
        used[item.name in names].update(included_files(tree, item.base))
    own = sorted(used[True] - used[False])
    return [path for path in own if copies.speaks_of(path) or _names_it(tree, path, copies)]


def _names_it(tree: Tree, path: str, copies: Copies) -> bool:
    settings = (item for item in parse_xcconfig(tree.read(path) or b"").statements if isinstance(item, Setting))
    sibling = copies.sibling
    return sibling is not None and any(item.value and item.value in sibling for item in settings)


def _path(old: str, copies: Copies, new: NewFlavor) -> str:
    """Return where a copy goes: the sibling's name in the path is replaced, else the new one is added to it."""
    stem, dot, ending = old.rpartition(".")
    return copies.respelled(old, new) or f"{stem}-{new.flavor}{dot}{ending}"


def _copied(
    tree: Tree,
    old: str,
    path: str,
    paths: Mapping[str, str],
    copies: Copies,
    new: NewFlavor,
    varies: Callable[[str, str], bool],
) -> tuple[Copy, set[str]]:
    """Return the copy of a file, and the settings that stay as the sibling has them though others differ.

    Those that name what each flavor has of its own are left out of it.
    """
    file = parse_xcconfig(tree.read(old) or b"")
    cuts: list[tuple[int, int, str]] = []
    keys: set[str] = set()
    left: set[str] = set()
    for item in file.statements:
        if isinstance(item, Include):
            start = file.source.view.index('"', item.position) + 1
            end = file.source.view.index('"', start)
            cuts.append((start, end, _include(tree, old, path, item.path, paths, copies, new)))
        elif (text := copies.renamed(item.value, new)) is not None:
            cuts.append((item.start, item.end, encode("xcconfig", text)))
            keys |= {item.name} if new.id and begins(text, new.id) else set()
        elif item.name in OWN and (text := copies.respelled(item.value, new)) is not None:
            cuts.append((item.start, item.end, encode("xcconfig", text)))
        elif varies(item.name, item.value):
            left.add(item.name)
            if item.name in OWN:
                view = file.source.view
                cuts.append((view.rfind("\n", 0, item.start) + 1, view.find("\n", item.end) + 1 or len(view), ""))
    text = recut(file.source, 0, len(file.source.view), cuts)
    return Copy(path, file.source.data[: file.source.mark] + file.source.raw(text), frozenset(keys)), left


def _include(
    tree: Tree, old: str, path: str, named: str, paths: Mapping[str, str], copies: Copies, new: NewFlavor
) -> str:
    """Return what a copy includes: the copy of what is copied too, the file of its own that tools will make."""
    target = join(parent(old), named)
    if target and tree.exists(target):
        return posixpath.relpath(paths.get(target, target), parent(path) or ".")
    return copies.respelled(named, new) or named


def _varies(app: Target, reader: TargetReader, names: set[str], key: str, text: str) -> bool:
    """Tell whether other flavors have another text, or none of them is there to ask."""
    others = [item for item in app.configurations if item.name not in names]
    said = [found[0].text for item in others if (found := reader.table(app, item).define(key)) is not None]
    told = text.replace("$()", "")
    return bool(told) and "$" not in told and (not others or any(other != told for other in said))


def unsaid(
    project: XcodeProject, app: Target, reader: TargetReader, new: NewFlavor, carried: Set[str]
) -> Iterator[Note]:
    """Say which settings all other flavors have, and neither the new one nor what it is made from.

    What carries its ID and its name, *carried*, it gets.
    """
    siblings = [flavor for flavor in app.flavors() if flavor.casefold() != new.flavor.casefold()]
    releases = [release for flavor in siblings if (release := app.release_of(flavor)) is not None]
    models = [item for item in app.configurations if item.name in new.templates.values()]
    if not releases or not models:
        return

    def said(item: Configuration) -> set[str]:
        return {key for level in reader.table(app, item).levels[:-1] for key, found in level.items() if found}

    release = next((item for item in models if "release" in item.name.lower()), models[-1])
    lacking = set.intersection(*map(said, releases)) - said(release) - {BRAND_ID, BRAND_NAME, *carried}
    if lacking:
        shown = ", ".join(siblings[:3]) + (f" and {len(siblings) - 3} more" if len(siblings) > 3 else "")
        yield Note(project.path, f"{shown} say {', '.join(sorted(lacking))}; {new.flavor} does not yet")


def settings_of(copies: Copies, new: NewFlavor, texts: Sequence[tuple[str, str]]) -> Iterator[tuple[str, str | None]]:
    """Yield a copied configuration's settings that speak of the sibling: what they become, None where that is open.

    Its ID and its name are not among them: they are settings of the new flavor's file.
    """
    sibling = copies.sibling
    for key, text in texts if sibling is not None else ():
        renamed = copies.renamed(text, new)
        if sibling is None or begins(text, sibling.id) or text == sibling.name:
            continue
        if renamed is None and key.partition("[")[0] in OWN:
            renamed = copies.respelled(text, new)
        if renamed is not None:
            yield key, renamed
        elif copies.speaks_of(text):
            yield key, None
