"""What an Android module is called: labels, the strings that they refer to in every language, and who owns them."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import NamedTuple

from onomaxis import late
from onomaxis.formats.escapes import decode_manifest
from onomaxis.formats.gradle_statements import literal_text
from onomaxis.formats.xml import Attribute
from onomaxis.model import (
    Disagreement,
    Facet,
    Launcher,
    Mention,
    Opening,
    Piece,
    Place,
    Role,
    Scope,
    ShippedApp,
    Unresolved,
    Value,
)
from onomaxis.platforms import ANDROID_NS
from onomaxis.projects.android import variants
from onomaxis.projects.android.manifest import Manifest, read_manifest
from onomaxis.projects.android.modules import Module
from onomaxis.projects.android.resources import StringEntry, StringTable, is_place, locale_of, reference
from onomaxis.projects.android.scope import Unknown
from onomaxis.projects.android.variants import RELEASE, Variant
from onomaxis.projects.project import guarded
from onomaxis.tree import Tree, join

# Where the main source set stands in multiplatform modules and in projects older than the Gradle layout.

_OTHER_MAIN = ("src/androidMain/", "")


PLACEHOLDER = late.compile(r"\$\{([\w.-]+)\}", re.ASCII)


def _of_several(source_set: str) -> str:
    """Return what a source set is called in a multiplatform module (kotlinlang.org, "Android source set layout")."""
    return f"android{source_set[:1].upper()}{source_set[1:]}"


def _parts(text: str) -> Iterator[tuple[str, str]]:
    """Yield the stretches of a text, each with the placeholder behind it (empty behind the last)."""
    at = 0
    for match in PLACEHOLDER.finditer(text):
        yield text[at : match.start()], match[1]
        at = match.end()
    yield text[at:], ""


class Named(NamedTuple):
    """What an application is called: its label, that in other languages, its launcher entries' own labels."""

    name: Value | None
    names: list[tuple[str, Value]]
    launchers: tuple[Launcher, ...] = ()


@dataclass
class Reading:
    """What was found in one module."""

    apps: list[ShippedApp] = field(default_factory=list)
    owners: dict[tuple[str, str, int], Mention] = field(default_factory=dict)
    openings: list[Opening] = field(default_factory=list)
    faults: list[Unresolved] = field(default_factory=list)
    disagreements: dict[str, Disagreement] = field(default_factory=dict)

    def own(self, mention: Mention) -> None:
        """Keep *mention* once per facet and place."""
        spot = mention.place
        self.owners.setdefault((mention.facet, spot.file, spot.start), mention)


class NameReader:
    """Reads the names of one module, and the files that they stand in."""

    def __init__(self, module: Module, others: list[Module], tree: Tree, project: str, plain: bool = False) -> None:
        """Read *module*; a *plain* reader leaves the build types' suffixes out."""
        self.module = module
        self.others = others
        self.tree = tree
        self.project = project
        self.found = Reading()
        self.plain = plain
        self._manifests: dict[str, Manifest | None] = {}
        self._tables: dict[tuple[str, str], StringTable] = {}

    def launchers_differ(self, named: Named) -> None:
        """Say where a launcher entry is called otherwise than the application."""
        for item in named.launchers:
            if named.name is not None and item.label.text != named.name.text:
                entry = item.component.rpartition(".")[2] or "the launcher"
                message = (
                    f"the launcher shows “{item.label.text}” for {entry}, the application is “{named.name.text}”"
                )
                at = (
                    (item.label.origin.file, item.label.origin.line),
                    (named.name.origin.file, named.name.origin.line),
                )
                found = Disagreement("launcher-name-differs", message, at)
                self.found.disagreements.setdefault(f"launcher {item.label.origin.at} {named.name.origin.at}", found)

    def display(self, variant: Variant) -> Named:
        """Return what the application is called, in every language, and what its launcher entries are called.

        Without a label of the application it is the first launcher's.
        """
        found: Named | None = None
        labelled = False
        launchers: dict[str, Launcher] = {}
        entries: set[str] = set()
        for source_set in variant.source_sets():
            manifest = self.manifest(source_set)
            if manifest is None:
                continue
            entries |= {activity.value("name", ANDROID_NS) for activity, _ in manifest.launchers()}
            own = manifest.label()
            if own is not None:
                value, names = self.label(manifest, own, variant)
                found = found if labelled or value is None else Named(value, names)
                labelled = True
            for component, label in manifest.launcher_labels():
                value, names = self.label(manifest, label, variant)
                if value is not None:
                    launchers.setdefault(component, Launcher(component, value, tuple(names)))
        listed = tuple(item._replace(only=len(entries) == 1) for item in launchers.values())
        if found is None:
            first = listed[0] if listed and not labelled else None
            return Named(first.label, list(first.names), listed[1:]) if first else Named(None, [], listed)
        return found._replace(launchers=listed)

    def label(
        self, manifest: Manifest, attribute: Attribute, variant: Variant
    ) -> tuple[Value | None, list[tuple[str, Value]]]:
        """Resolve a label: a literal, a placeholder, or a string resource through any chain of references."""
        scope = Scope("android", self.module.name)
        if PLACEHOLDER.search(attribute.value):
            return self._filled(manifest, attribute, variant)
        name = reference(attribute.value)
        if not name:
            value = manifest.shown(attribute)
            self.found.own(Mention(Facet.DISPLAY_NAME, Role.OWNER, value.place, value.text, scope, value))
            return value, []
        return self.string(name, variant, manifest, attribute)

    def _filled(
        self, manifest: Manifest, attribute: Attribute, variant: Variant
    ) -> tuple[Value | None, list[tuple[str, Value]]]:
        """Resolve a label that placeholders make up, wholly or in part."""
        spot = manifest.place(attribute)
        pieces: list[Piece] = []
        origin = spot
        for text, key in _parts(attribute.value):
            if text:
                pieces.append(Piece(decode_manifest(text)))
            if not key:
                continue
            value = self._placeholder(spot, key, variant)
            if value is None:
                return None, []
            pieces += value.pieces
            if attribute.value == f"${{{key}}}":
                name = reference(value.text)
                if name:
                    return self.string(name, variant, manifest, attribute)
                origin = value.origin
        found = Value(tuple(pieces), origin)
        scope = Scope("android", self.module.name)
        self.found.own(Mention(Facet.DISPLAY_NAME, Role.OWNER, origin, found.text, scope, found))
        return found, []

    def _placeholder(self, spot: Place, key: str, variant: Variant) -> Value | None:
        """Return what a script fills a placeholder with; say so where that is not known."""
        reason = "no script fills this placeholder"
        try:
            value = variants.filled(self.module, key, variant.flavors)
            if value is not None:
                return value
        except Unknown as error:
            reason = str(error)
        self.found.faults.append(Unresolved(Facet.DISPLAY_NAME, spot.file, spot.line, spot.written, reason))
        return None

    def string(
        self, name: str, variant: Variant, manifest: Manifest, attribute: Attribute, depth: int = 0
    ) -> tuple[Value | None, list[tuple[str, Value]]]:
        """Resolve a string resource for *variant*; own every entry of it, in all source sets and languages."""
        winner: Value | None = None
        branded = False
        names: dict[str, Value] = {}
        for source_set, entry in self._entries(name, variant):
            locale = locale_of(entry.qualifier)
            chained = reference(entry.value.text)
            if chained and depth < 10:
                value, _ = self.string(chained, variant, manifest, attribute, depth + 1)
            else:
                value = entry.value
                self._own_name(entry, source_set, locale)
            if not entry.qualifier and winner is None:
                winner, branded = value, source_set in variant.flavors or source_set == variant.name
            elif locale and value is not None:
                if locale not in names and branded and winner is not None and source_set == "main":
                    self._shadowed(variant, locale, value, winner)
                names.setdefault(locale, value)
        if winner is None:
            spot = manifest.place(attribute)
            self.found.faults.append(
                Unresolved(
                    Facet.DISPLAY_NAME, spot.file, spot.line, attribute.value, f"no string “{name}” is defined"
                )
            )
        return winner, sorted(names.items())

    def _shadowed(self, variant: Variant, locale: str, value: Value, winner: Value) -> None:
        """Say that a flavor's name is hidden by a language of the main source set, which the flavor does not have."""
        spot = value.place
        message = f"in {locale} flavor {variant.name} is still called “{value.text}”, elsewhere “{winner.text}”"
        at = ((spot.file, spot.line), (winner.place.file, winner.place.line))
        found = Disagreement("localized-name-shadows", message, at)
        self.found.disagreements.setdefault(f"{locale} {winner.place.at}", found)

    def _own_name(self, entry: StringEntry, source_set: str, locale: str) -> None:
        spot = entry.value.place
        flavor = source_set if source_set not in ("main", RELEASE, "debug") else ""
        scope = Scope("android", self.module.name, flavor, "debug" if source_set == "debug" else "", locale)
        if not is_place(spot):
            reason = "markup stands inside the string"
            self.found.faults.append(Unresolved(Facet.DISPLAY_NAME, spot.file, spot.line, spot.written, reason))
            return
        role = Role.OWNER if not entry.qualifier or locale else Role.FOLLOWER
        self.found.own(Mention(Facet.DISPLAY_NAME, role, spot, entry.value.text, scope, entry.value))

    def _entries(self, name: str, variant: Variant) -> Iterator[tuple[str, StringEntry]]:
        for source_set in (*variant.source_sets(), "debug"):
            yield from ((source_set, entry) for entry in self._generated(name, source_set))
            yield from ((source_set, entry) for entry in self.table(self.module, source_set).entries(name))
        for other in self.others:
            if other.kind in ("library", "feature"):
                yield from (("main", entry) for entry in self.table(other, "main").entries(name))

    def _generated(self, name: str, source_set: str) -> Iterator[StringEntry]:
        """Yield the string that ``resValue("string", name, …)`` makes in a source set."""
        scope = {"main": ("defaultConfig",), RELEASE: ("buildTypes", RELEASE), "debug": ("buildTypes", "debug")}.get(
            source_set, ("productFlavors", source_set)
        )
        for item in reversed([*self.module.settings(*scope)]):  # what is said last counts
            parts = variants.field_arguments(item, "resValue")
            if parts and literal_text(parts[0]) == "string" and literal_text(parts[1]) == name:
                try:
                    value = variants.around(self.module, item).value(parts[2])
                except Unknown as error:
                    spot = self.module.environment.place(parts[2])
                    self.found.faults.append(
                        Unresolved(Facet.DISPLAY_NAME, spot.file, spot.line, spot.written, str(error))
                    )
                    continue
                yield StringEntry(name, "", Value(value.pieces, value.origin), True)

    # -- files

    def manifest(self, source_set: str) -> Manifest | None:
        """Return the parsed manifest of a source set."""
        if source_set not in self._manifests:
            folders = [f"src/{source_set}", f"src/{_of_several(source_set)}"]
            paths = [join(self.module.folder, f"{folder}/AndroidManifest.xml") for folder in folders]
            if source_set == "main":
                chosen = self.module.find("sourceSets", "main", "manifest", "srcFile")
                named = next((text for t in (chosen.value if chosen else ()) if (text := literal_text([t]))), "")
                usual = [*paths, *(join(self.module.folder, f"{place}AndroidManifest.xml") for place in _OTHER_MAIN)]
                paths = [join(self.module.folder, named)] if named else usual
            self._manifests[source_set] = next((m for path in paths if (m := self._parse(path))), None)
        return self._manifests[source_set]

    def _parse(self, path: str) -> Manifest | None:
        data = self.tree.read(path) if path in self.tree.known else None
        if data is None:
            return None
        return guarded(path, self.found.faults, lambda: read_manifest(path, data))

    def table(self, module: Module, source_set: str) -> StringTable:
        """Return the strings of a module's source set."""
        key = (module.folder, source_set)
        if key not in self._tables:
            folders = [join(module.folder, f"src/{name}/res") for name in (source_set, _of_several(source_set))]
            for item in module.settings("sourceSets", source_set, "res"):
                folders += [join(module.folder, text) for token in item.value if (text := literal_text([token]))]
            if source_set == "main":
                folders += [join(module.folder, f"{place}res") for place in _OTHER_MAIN]
            self._tables[key] = StringTable(self.tree, dict.fromkeys(folders), self.found.faults)
        return self._tables[key]
