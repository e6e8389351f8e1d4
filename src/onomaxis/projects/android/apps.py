"""The shipped apps of an Android application module, and the places that own what they are called."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import NamedTuple

from onomaxis.formats.gradle import Setting, literal_text
from onomaxis.formats.xml import Attribute
from onomaxis.model import (
    Disagreement,
    Facet,
    Launcher,
    Mention,
    Opening,
    Piece,
    Role,
    Scope,
    ShippedApp,
    Unresolved,
    Value,
)
from onomaxis.projects.android import variants
from onomaxis.projects.android.expressions import Unknown
from onomaxis.projects.android.manifest import ANDROID_NS, Manifest, read_manifest
from onomaxis.projects.android.modules import Module
from onomaxis.projects.android.resources import StringEntry, StringTable, is_place, locale_of, reference
from onomaxis.projects.android.variants import RELEASE, Variant, evaluate, joined, manifest_value
from onomaxis.projects.project import guarded, place
from onomaxis.tree import Tree, join

# Where the main source set stands in multiplatform modules and in projects older than the Gradle layout.
_OTHER_MAIN = ("src/androidMain/", "")
_VERSION_FACETS = ((Facet.VERSION_NAME, "versionName"), (Facet.VERSION_CODE, "versionCode"))


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


class ModuleReader:
    """Reads one module: namespace and versions for all kinds, apps for application modules."""

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

    def read(self) -> Reading:
        """Return everything the module owns."""
        namespace = self.namespace()
        if self.module.kind == "application":
            for variant in variants.variants(self.module):
                self.found.apps.append(self.app(variant, namespace))
            self.found.faults += variants.computed(self.module)
            self._flavor_owners()
            self._missing_entries(namespace)
        return self.found

    def brands(self) -> tuple[ShippedApp, ...]:
        """Return what the app is called without any flavor, and with each flavor alone; build types left out."""
        plain = ModuleReader(self.module, self.others, self.tree, self.project, plain=True)
        plain._manifests, plain._tables = self._manifests, self._tables  # what was read counts for both
        namespace = plain.namespace()
        flavors = variants.flavor_names(self.module)
        return tuple(plain.app(Variant(names), namespace) for names in ((), *((name,) for name in flavors)))

    # -- identifiers

    def namespace(self) -> Value | None:
        """Return the namespace: the script's, else the main manifest's package."""
        item = self.module.find("namespace")
        if item is not None and item.conditional and len(self.module.every("namespace")) == 1:
            # Set where the build tool is new enough to know it: there is no other value it could have.
            item = item._replace(conditional=False)
        value = self._own(Facet.NAMESPACE, item, Scope("android", self.module.name))
        manifest = self.manifest("main")
        package = manifest.package() if manifest else None
        if manifest and package:
            own = manifest.value(package)
            self.found.own(
                Mention(
                    Facet.NAMESPACE,
                    Role.OWNER if value is None else Role.FOLLOWER,
                    own.place,
                    own.text,
                    Scope("android", self.module.name),
                    own,
                )
            )
            return value or own
        return value

    def _own(self, facet: Facet, item: Setting | None, scope: Scope) -> Value | None:
        value = evaluate(self.module, item, facet, self.found.faults)
        if value is not None:
            self.found.own(Mention(facet, Role.OWNER, value.origin, value.text, scope, value))
        return value

    def layered(self, facet: Facet, name: str, variant: Variant) -> Value | None:
        """Return *name* of the first flavor that sets it, else the default's."""
        for flavor in variant.flavors:
            item = self.module.find("productFlavors", flavor, name)
            if item:
                return self._own(facet, item, Scope("android", self.module.name, flavor))
        return self._own(facet, self.module.find("defaultConfig", name), Scope("android", self.module.name))

    def _flavor_owners(self) -> None:
        """Own what flavors and the default set beside the value that wins, so that nothing set is overlooked."""
        for facet, name in (*_VERSION_FACETS, (Facet.APPLICATION_ID, "applicationId")):
            self._own(facet, self.module.find("defaultConfig", name), Scope("android", self.module.name))
        for flavor in variants.flavor_names(self.module):
            scope = Scope("android", self.module.name, flavor)
            for facet, name in (*_VERSION_FACETS, (Facet.APPLICATION_ID, "applicationId")):
                self._own(facet, self.module.find("productFlavors", flavor, name), scope)

    def suffixed(self, base: Value | None, name: str, variant: Variant) -> Value | None:
        """Append the suffixes of the flavors and, in what ships, of the release build type."""
        if base is None:
            return None
        parts = [base]
        scopes = [*(("productFlavors", flavor) for flavor in variant.flavors), ("buildTypes", RELEASE)]
        scopes = scopes[:-1] if self.plain else scopes
        for scope in scopes:
            suffix = evaluate(self.module, self.module.find(*scope, name), name, self.found.faults)
            if suffix and suffix.text:
                dotted = name == "applicationIdSuffix" and not suffix.text.startswith(".")
                parts += [Value((Piece("."),), suffix.place)] if dotted else []
                parts.append(suffix)
        return joined(parts)

    # -- apps

    def app(self, variant: Variant, namespace: Value | None) -> ShippedApp:
        """Resolve one variant."""
        own_id = self.layered(Facet.APPLICATION_ID, "applicationId", variant)
        declared = bool(self.module.find("defaultConfig", "applicationId"))
        base = own_id if own_id or declared else namespace
        version = self.layered(Facet.VERSION_NAME, "versionName", variant) or self._manifest_version("versionName")
        build = self.layered(Facet.VERSION_CODE, "versionCode", variant) or self._manifest_version("versionCode")
        named = self.display(variant)
        self._launchers_differ(named)
        return ShippedApp(
            "android",
            self.module.name,
            variant.name,
            RELEASE,
            self.project,
            self.suffixed(base, "applicationIdSuffix", variant),
            named.name,
            self.suffixed(version, "versionNameSuffix", variant),
            build,
            self.icon(variant),
            tuple(named.names),
            launchers=named.launchers,
        )

    def _launchers_differ(self, named: Named) -> None:
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

    def _manifest_version(self, name: str) -> Value | None:
        manifest = self.manifest("main")
        attribute = manifest.root.attribute(name, ANDROID_NS) if manifest else None
        if manifest is None or attribute is None:
            return None
        value = manifest.value(attribute)
        facet = Facet.VERSION_NAME if name == "versionName" else Facet.VERSION_CODE
        self.found.own(Mention(facet, Role.OWNER, value.place, value.text, Scope("android", self.module.name), value))
        return value

    def icon(self, variant: Variant) -> Value | None:
        """Return the icon reference of the winning manifest."""
        for name in variant.source_sets():
            manifest = self.manifest(name)
            application = manifest.application if manifest else None
            attribute = application.attribute("icon", ANDROID_NS) if application is not None else None
            if manifest and attribute:
                value = manifest_value(self.module, manifest, attribute, variant.flavors)
                self.found.own(
                    Mention(
                        Facet.ICON, Role.OWNER, value.origin, value.text, Scope("android", self.module.name), value
                    )
                )
                return value
        return None

    # -- names

    def display(self, variant: Variant) -> Named:
        """Return what the application is called, in every language, and what its launcher entries are called.

        Without a label of the application it is the first launcher's.
        """
        found: Named | None = None
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
                found = found if found is not None or value is None else Named(value, names)
            for component, label in manifest.launcher_labels():
                value, names = self.label(manifest, label, variant)
                if value is not None:
                    launchers.setdefault(component, Launcher(component, value, tuple(names)))
        listed = tuple(item._replace(only=len(entries) == 1) for item in launchers.values())
        if found is None:
            first = listed[0] if listed else None
            return Named(first.label, list(first.names), listed[1:]) if first else Named(None, [], ())
        return found._replace(launchers=listed)

    def label(
        self, manifest: Manifest, attribute: Attribute, variant: Variant
    ) -> tuple[Value | None, list[tuple[str, Value]]]:
        """Resolve a label: a literal, a placeholder, or a string resource through any chain of references."""
        scope = Scope("android", self.module.name)
        if attribute.value.startswith("${") and attribute.value.endswith("}"):
            return self._placeholder(manifest, attribute, variant), []
        name = reference(attribute.value)
        if not name:
            value = manifest.value(attribute)
            self.found.own(Mention(Facet.DISPLAY_NAME, Role.OWNER, value.place, value.text, scope, value))
            return value, []
        return self.string(name, variant, manifest, attribute)

    def _placeholder(self, manifest: Manifest, attribute: Attribute, variant: Variant) -> Value | None:
        key = attribute.value[2:-1]
        found = variants.placeholder(self.module, key, variant.flavors)
        spot = manifest.place(attribute)
        if not found:
            self.found.faults.append(
                Unresolved(
                    Facet.DISPLAY_NAME, spot.file, spot.line, attribute.value, "no script fills this placeholder"
                )
            )
            return None
        try:
            value = self.module.environment.value(found)
        except Unknown as error:
            self.found.faults.append(
                Unresolved(Facet.DISPLAY_NAME, spot.file, spot.line, attribute.value, str(error))
            )
            return None
        name = reference(value.text)
        if name:
            return self.string(name, variant, manifest, attribute)[0]
        self.found.own(
            Mention(
                Facet.DISPLAY_NAME, Role.OWNER, value.origin, value.text, Scope("android", self.module.name), value
            )
        )
        return value

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
        for item in self.module.settings(*scope):
            parts = variants.field_arguments(item, "resValue")
            if parts and literal_text(parts[0]) == "string" and literal_text(parts[1]) == name:
                try:
                    value = self.module.environment.value(parts[2])
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
            paths = [join(self.module.folder, f"src/{source_set}/AndroidManifest.xml")]
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
            folders = [join(module.folder, f"src/{source_set}/res")]
            for item in module.settings("sourceSets", source_set, "res"):
                folders += [join(module.folder, text) for token in item.value if (text := literal_text([token]))]
            if source_set == "main":
                folders += [join(module.folder, f"{place}res") for place in _OTHER_MAIN]
            self._tables[key] = StringTable(self.tree, dict.fromkeys(folders), self.found.faults)
        return self._tables[key]

    def _missing_entries(self, namespace: Value | None) -> None:
        """Offer a place for an application ID or a version that the script does not set."""
        blocks = list(self.module.file.script.blocks("android", "defaultConfig"))
        block = blocks[0] if blocks else None
        if block is None or not block.body[1] or not block.children:
            return
        script = self.module.file.script
        source = script.source
        first = block.children[0].start
        line_start = source.view.rfind("\n", 0, first) + 1
        margin = source.view[line_start:first]
        if margin.strip():
            return
        equals = " = " if script.kotlin or "=" in source.line_around(first) else " "
        quote = '"' if script.kotlin or '"' in source.view[block.body[0] : block.body[1]] else "'"
        for facet, name in ((Facet.APPLICATION_ID, "applicationId"), *_VERSION_FACETS):
            if self.module.find("defaultConfig", name):
                continue
            text = facet != Facet.VERSION_CODE
            syntax = ("double-dollar" if quote == '"' else "single") if text else "number"
            mark = quote if text else ""
            spot = place(self.module.file.path, source, first, first, syntax)
            self.found.openings.append(
                Opening(
                    facet,
                    spot,
                    f"{name}{equals}{mark}",
                    f"{mark}{source.newline}{margin}",
                    Scope("android", self.module.name),
                    name,
                )
            )
