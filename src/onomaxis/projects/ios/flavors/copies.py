"""What a new flavor takes over from the one that it is made from, where no configuration is without a flavor.

A file of settings that is the sibling's own is copied, what the sibling is called replaced in it: standing on the
sibling's own file, the new flavor would get everything that the sibling alone has.
"""

from __future__ import annotations

import posixpath
import re
from collections.abc import Callable, Iterator, Mapping, Sequence, Set
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

from onomaxis.flavor_names import flavor_word, same_flavor
from onomaxis.formats.escapes import encode
from onomaxis.formats.source import Source
from onomaxis.formats.xcconfig import Include, Setting, parse_xcconfig
from onomaxis.identity.schema import OWED
from onomaxis.model import Note, Owed, Value
from onomaxis.projects.ios.flavors.common_file import included_files
from onomaxis.projects.ios.flavors.shared import BRAND_ID, BRAND_NAME, NewFlavor, begins, recut
from onomaxis.projects.ios.project_file import Configuration, Target, XcodeProject
from onomaxis.projects.ios.targets import TargetReader
from onomaxis.projects.neighbours.called import Called, Names, snake, spelled
from onomaxis.projects.neighbours.literals import is_choice
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
    owed: tuple[Owed, ...] = ()

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


def copies_of(project: XcodeProject, tree: Tree, app: Target, reader: TargetReader, new: NewFlavor) -> Copies:
    """Return the copies that a new flavor needs of the files of the one that it is made from."""
    names = set(new.templates.values())
    models = [item for item in app.configurations if item.name in names]
    if not new.model or same_flavor(new.model, new.flavor) or not models:
        return Copies()
    identity = reader.identity(app, main_of(reader, app, models))
    id_, shown = (value.text if value is not None else "" for value in (identity.id, identity.name))
    copies = Copies(Sibling(new.model, id_, shown))
    paths = {old: _path(old, copies, new) for old in _own(project, tree, names, copies)}
    files, notes, owed = {}, list[Note](), list[Owed]()
    for old, path in paths.items():
        users = {item.name for item in models if old in included_files(tree, item.base)} or names
        told = Told(app, reader, new, named_in_files(project, tree), users)
        files[old], left = _copied(tree, old, path, paths, copies, new, told)
        owed += (Owed(path, key) for key, said in left.items() if said == OWED)
        for said in dict.fromkeys(said for said in left.values() if said != OWED):
            keys = ", ".join(sorted(key for key, text in left.items() if text == said))
            notes.append(Note(path, f"{keys}: {said}; say what it is for {new.flavor}"))
    return copies._replace(files=files, notes=tuple(notes), owed=tuple(owed))


def main_of(reader: TargetReader, app: Target, models: Sequence[Configuration]) -> Configuration:
    """Return the configuration that archives what others' IDs go on from: that of the shortest ID."""
    releases = [item for item in models if "release" in item.name.lower()] or [models[-1]]
    ids = {item.name: value.text for item in releases if (value := reader.identity(app, item).id) is not None}
    return min(releases, key=lambda item: len(ids.get(item.name, "x" * 999)))


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
    tree: Tree, old: str, path: str, paths: Mapping[str, str], copies: Copies, new: NewFlavor, told: Told
) -> tuple[Copy, dict[str, str]]:
    """Return the copy of a file, and the settings that only the new flavor can say, with what stands there.

    Those that name what each flavor has of its own are left out of it.
    """
    file = parse_xcconfig(tree.read(old) or b"")
    cuts: list[tuple[int, int, str]] = []
    keys: set[str] = set()
    left: dict[str, str] = {}
    for item in file.statements:
        if isinstance(item, Include):
            start = file.source.view.index('"', item.position) + 1
            end = file.source.view.index('"', start)
            cuts.append((start, end, _include(tree, old, path, item.path, paths, copies, new)))
        elif (text := copies.renamed(item.value, new)) is not None:
            cuts.append((item.start, item.end, encode("xcconfig", text)))
            keys |= {item.name} if new.id and begins(text, new.id) else set()
        elif (text := copies.respelled(item.value, new)) is not None:
            cuts.append((item.start, item.end, encode("xcconfig", text)))
        elif item.name in OWN and told.varies(item.name, item.value):
            left[item.name] = "left out"
            view = file.source.view
            cuts.append((view.rfind("\n", 0, item.start) + 1, view.find("\n", item.end) + 1 or len(view), ""))
        elif told.own(item.name, item.value):
            text = new.value(item.name)
            left |= {item.name: OWED} if text == OWED else {}
            cuts.append((item.start, item.end, encode("xcconfig", text)))
        elif told.varies(item.name, item.value):
            left[item.name] = f"as {copies.sibling.flavor if copies.sibling else 'the model'} has it still"
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


@dataclass(frozen=True)
class Told:
    """What the configurations of other flavors that correspond to some models say of a setting.

    ``used`` are the settings that files of the app ask for.
    """

    app: Target
    reader: TargetReader
    new: NewFlavor
    used: Set[str]
    models: Set[str]

    @cached_property
    def _alike(self) -> list[Configuration]:
        """The configurations that are called as the models but for the flavor."""
        word = flavor_word(self.new.model)
        forms = [re.compile("(.+)".join(map(re.escape, word.split(name)))) for name in self.models]
        every = (item for item in self.app.configurations if item.name not in self.new.templates.values())
        return [item for item in every if any(form.fullmatch(item.name) for form in forms)]

    def _others(self, key: str) -> list[str]:
        tables = (self.reader.table(self.app, item) for item in self._alike)
        return [found[0].text for table in tables if (found := table.define(key)) is not None]

    def varies(self, key: str, text: str) -> bool:
        """Tell whether other flavors have another text, or none of them is there to ask."""
        told = text.replace("$()", "")
        alone = all(item.name in self.new.templates.values() for item in self.app.configurations)
        return bool(told) and "$" not in told and (alone or any(other != told for other in self._others(key)))

    def own(self, key: str, text: str) -> bool:
        """Tell whether the app asks for a setting that every flavor has for itself alone: a new one has its own.

        Settings of Xcode's own are nobody's text; nor are switches.
        """
        told, others = text.replace("$()", ""), self._others(key)
        asked = key in self.used and bool(told) and "$" not in told and not is_choice(told)
        return asked and bool(others) and told not in others


def named_in_files(project: XcodeProject, tree: Tree) -> set[str]:
    """Return the settings that property lists and entitlements of a project ask for."""
    found: set[str] = set()
    for path in tree.below(parent(project.path.rpartition("/")[0])):
        if path.endswith((".plist", ".entitlements")):
            found.update(match.decode() for match in re.findall(rb"\$[({](\w+)", tree.read(path) or b""))
    return found


@dataclass(frozen=True)
class Lacking:
    """What all other flavors' configurations of a target say, and the models of a new one's do not."""

    target: Target
    reader: TargetReader
    new: NewFlavor
    names: Names

    def __call__(self, new: str, old: Configuration, carried: Set[str]) -> dict[str, str | None]:
        """Return the settings that one new configuration needs: as its siblings have them, else owed.

        None stands for what names a flavor's own profile or icon set and is called after none. What carries the new
        one's ID and name, *carried*, it gets.
        """
        by_name = {item.name: item for item in self.target.configurations}
        alike = {name: by_name.get(new.replace(self.new.flavor, name)) for name in self.names.flavors}
        said = {name: self._said(item) for name, item in alike.items() if item is not None}
        if len(said) < len(self.names.flavors) or not said:
            return {}
        keys = set.intersection(*map(set, said.values())) - set(self._said(old)) - {BRAND_ID, BRAND_NAME, *carried}
        return {key: self._for_new(key, {name: texts[key] for name, texts in said.items()}) for key in sorted(keys)}

    def _said(self, item: Configuration) -> dict[str, str]:
        levels = self.reader.table(self.target, item).levels[:-1]
        return {key: found[-1].text for level in levels for key, found in level.items() if found}

    def _for_new(self, key: str, texts: Mapping[str, str]) -> str | None:
        first, text = next(iter(texts.items()))
        if len({self.names.braced(said, name) for name, said in texts.items()}) == 1:
            called = Called(self.new.flavor, {"ios": self.new.id}, self.new.name)
            return self.names.renamed(text, first, called)
        return None if key in OWN else self.new.value(key)


def siblings_of(project: XcodeProject, app: Target, reader: TargetReader, new: NewFlavor) -> Names:
    """Return how settings speak of the other flavors."""
    found = []
    for flavor in app.flavors():
        release = app.release_of(flavor)
        if release is not None and flavor.casefold() != new.flavor.casefold():
            identity = reader.identity(app, release)
            id_, name = (value.text if value is not None else "" for value in (identity.id, identity.name))
            found.append(Called(flavor, {"ios": id_}, name))
    return Names(found, project.path, str)


def settings_of(
    copies: Copies, new: NewFlavor, texts: Sequence[tuple[str, str]], alone: Callable[[str], bool]
) -> Iterator[tuple[str, str | None]]:
    """Yield a copied configuration's settings that speak of the sibling: what they become, None where that is open.

    It is where they name a file that the sibling has *alone*: nobody makes the new one's.

    Its ID and its name are not among them: they are settings of the new flavor's file.
    """
    sibling = copies.sibling
    for key, text in texts if sibling is not None else ():
        renamed = copies.renamed(text, new)
        if sibling is None or begins(text, sibling.id) or text == sibling.name:
            continue
        if renamed is None and copies.speaks_of(text) and not alone(text):
            renamed = copies.respelled(text, new)
        if renamed is not None or copies.speaks_of(text):
            yield key, renamed
