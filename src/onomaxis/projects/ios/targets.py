"""What each target of an Xcode project is called, in each configuration, and which places own that.

Source of the rules: Apple, "Information Property List" (CFBundleDisplayName, CFBundleName and their fall-backs),
"Build settings reference" (GENERATE_INFOPLIST_FILE, INFOPLIST_KEY_*, MARKETING_VERSION).
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import NamedTuple

from onomaxis import late
from onomaxis.formats.jsonc import parse_json
from onomaxis.formats.openstep import OpenStepDocument, Text, parse_openstep
from onomaxis.formats.openstep import opening as openstep_opening
from onomaxis.formats.plist import Plist, PlistString, is_binary_plist, parse_plist
from onomaxis.model import (
    WHOLE_FILE,
    Disagreement,
    Facet,
    Mention,
    Opening,
    Piece,
    Place,
    Role,
    Scope,
    Signing,
    Unresolved,
    Value,
)
from onomaxis.projects.ios.project_file import Configuration, Target, XcodeProject
from onomaxis.projects.ios.settings import (
    ConfigurationFiles,
    Definition,
    Level,
    Table,
    Undefined,
    builtin,
    file_named,
    level_of,
)
from onomaxis.projects.ios.signing import signing_of
from onomaxis.projects.ios.text_folders import FILE, SETTING, is_parted, texts_in
from onomaxis.projects.project import guarded, place
from onomaxis.projects.pubspec import xcode_values
from onomaxis.tree import Tree, parent

# What an SDK is called by, without the version that old projects name with it (macosx10.15, …/MacOSX10.5.sdk), to the
# platform that the product runs on; anything else is iOS.
_PLATFORMS = {"appletvos": "tvos", "watchos": "watchos", "macosx": "macos", "xros": "visionos"}
_SDK = late.compile(r"(?:.*/)?([a-z]+)[\d.]*(?:\.sdk)?/?\Z")
_NAME_KEYS = ("CFBundleDisplayName", "CFBundleName")
_SETTING_OF = {
    "CFBundleShortVersionString": "MARKETING_VERSION",
    "CFBundleVersion": "CURRENT_PROJECT_VERSION",
    "CFBundleIdentifier": "PRODUCT_BUNDLE_IDENTIFIER",
}


def _platform(table: Table) -> str:
    """Return what a product runs on: by its SDK, else the first platform that it supports, else what it is built for.

    Source: Apple, "Build settings reference", SDKROOT, SUPPORTED_PLATFORMS, MACOSX_DEPLOYMENT_TARGET.
    """
    root = table.text("SDKROOT")
    if root in ("", "auto"):
        root = (table.text("SUPPORTED_PLATFORMS").split() or [""])[0]
    mac = table.text("MACOSX_DEPLOYMENT_TARGET") and not table.text("IPHONEOS_DEPLOYMENT_TARGET")
    if not root and mac:
        return "macos"
    sdk = _SDK.match(root.casefold())
    return _PLATFORMS.get(sdk[1] if sdk else "", "ios")


class Identity(NamedTuple):
    """One target in one configuration."""

    target: Target
    configuration: Configuration
    id: Value | None
    name: Value | None
    version: Value | None
    build: Value | None
    icon: Value | None
    names: tuple[tuple[str, Value], ...]
    platform: str
    signing: Signing | None = None


class UndefinedId(NamedTuple):
    """A bundle identifier that refers to a setting nobody defines: the expression, where it stands, whose it is."""

    target: str
    kind: str
    text: str
    place: Place
    missing: str


class Literal(NamedTuple):
    """A property list's own value where a build setting for it exists: facet, value, the setting it does not use."""

    facet: Facet
    value: Value
    setting_name: str
    setting: Value


class Forecast(NamedTuple):
    """How a project will read under other technical names.

    ``setting(key, text, file, start)`` is the value that a definition will have; ``today`` is where a file that will
    be at a path stands now.
    """

    setting: Callable[[str, str, str, int], str]
    targets: Mapping[str, str]
    project: str
    today: Callable[[str], str]

    def level(self, level: Level) -> Level:
        """Return a level with every definition as it will be."""
        return {key: [self._definition(key, item) for item in items] for key, items in level.items()}

    def _definition(self, key: str, item: Definition) -> Definition:
        spot = item.place
        return item._replace(text=self.setting(key, item.text, spot.file, spot.start)) if spot else item


@dataclass
class TargetReader:
    """Reads the targets of one project."""

    project: XcodeProject
    tree: Tree
    files: ConfigurationFiles
    owners: dict[tuple[str, str, int], Mention] = field(default_factory=dict)
    openings: dict[tuple[str, int, str], Opening] = field(default_factory=dict)
    faults: list[Unresolved] = field(default_factory=list)
    disagreements: list[Disagreement] = field(default_factory=list)
    undefined: list[UndefinedId] = field(default_factory=list)
    forecast: Forecast | None = None
    literals: list[Literal] = field(default_factory=list)
    _levels: dict[str, Level] = field(default_factory=dict)
    _tables: dict[tuple[str, str], Table] = field(default_factory=dict)
    _identities: dict[tuple[str, str], Identity] = field(default_factory=dict)
    _plists: dict[str, Plist | None] = field(default_factory=dict)
    _strings: dict[str, OpenStepDocument | None] = field(default_factory=dict)

    def identity(self, target: Target, configuration: Configuration) -> Identity:
        """Return what *target* is called in *configuration*; the places that own it are kept."""
        key = (target.id, configuration.id)
        if key not in self._identities:
            self._identities[key] = self._identity(target, configuration)
        return self._identities[key]

    def _identity(self, target: Target, configuration: Configuration) -> Identity:
        table = self.table(target, configuration)
        self._note_undefined(target, table)
        scope = Scope("ios", target.name, configuration.flavor, configuration.name)
        plist = self.plist(table)
        generated = table.text("GENERATE_INFOPLIST_FILE") == "YES"
        id_ = self._keyed(table, plist, "CFBundleIdentifier", Facet.BUNDLE_ID, scope)
        version = self._keyed(table, plist, "CFBundleShortVersionString", Facet.VERSION_NAME, scope)
        build = self._keyed(table, plist, "CFBundleVersion", Facet.VERSION_CODE, scope)
        icon = self._setting(table, "ASSETCATALOG_COMPILER_APPICON_NAME", Facet.ICON, scope)
        name = self._name(table, plist, generated, scope, target, configuration)
        platform = _platform(table)
        names = tuple(self._localized(target, configuration, scope))
        signing = signing_of(table)
        return Identity(target, configuration, id_, name, version, build, icon, names, platform, signing)

    def _note_undefined(self, target: Target, table: Table) -> None:
        """Keep where a bundle identifier cannot be resolved, so that a rename can write it anew."""
        found = table.define("PRODUCT_BUNDLE_IDENTIFIER")
        if found is None or found[0].place is None:
            return
        definition, level = found
        try:
            table.expand(definition.text, definition.place, "PRODUCT_BUNDLE_IDENTIFIER", level)
        except Undefined as error:
            assert definition.place is not None
            item = UndefinedId(target.name, target.kind, definition.text, definition.place, str(error))
            if item not in self.undefined:
                self.undefined.append(item)

    def table(self, target: Target, configuration: Configuration) -> Table:
        """Return the levels of a target's settings: target, its file, project, its file, the build system's."""
        key = (target.id, configuration.id)
        if key not in self._tables:
            self._tables[key] = self._table(target, configuration)
        return self._tables[key]

    def _table(self, target: Target, configuration: Configuration) -> Table:
        source = self.project.document.source
        above = self.project.project_configurations.get(configuration.name)
        levels: list[Level] = []
        for item in (configuration, above):
            if item is not None:
                if item.id not in self._levels:
                    self._levels[item.id] = level_of(self.project.path, source, item.settings)
                levels.append(self._levels[item.id])
                levels.append(self.files.level(item.base) if item.base else {})
        given = {k: [Definition(p.text, p.place)] for k, p in xcode_values(self.tree, self.project.folder).items()}
        if given:  # what the framework's tools write into a generated file, which may be there or not
            levels.insert(0, given)
        names = target.name, self.project.name
        if self.forecast is not None:
            levels = [self.forecast.level(level) for level in levels]
            names = self.forecast.targets.get(target.name, target.name), self.forecast.project
        levels.append(builtin(*names, self.project.folder, configuration.name))
        return Table(levels, configuration.name)

    # -- values

    def _own(self, facet: Facet, value: Value, scope: Scope, role: Role = Role.OWNER) -> Value:
        spot = value.origin
        key = (facet, spot.file, spot.start)
        known = self.owners.setdefault(key, Mention(facet, role, spot, value.text, scope, value))
        shared = known.scope
        if shared.flavor != scope.flavor:  # with another flavor, or with the main app
            shared = shared._replace(flavor="")
        if shared.configuration != scope.configuration:
            shared = shared._replace(configuration="")
        if shared != known.scope:
            self.owners[key] = known._replace(scope=shared)
        return value

    def _resolve(self, facet: Facet, read: Callable[[], Value | None], spot: tuple[str, int, str]) -> Value | None:
        try:
            return read()
        except Undefined as error:
            path, line, text = spot
            open_ = any((item.place.file, item.place.line) == (path, line) for item in self.undefined)
            reason = f"{error} is not defined in the project"
            fault = Unresolved(facet, path, line, text, reason, not (open_ and facet is Facet.BUNDLE_ID))
            if fault not in self.faults:
                self.faults.append(fault)
            return None

    def _setting(self, table: Table, name: str, facet: Facet, scope: Scope) -> Value | None:
        found = table.define(name)
        if found is None or found[0].place is None:
            return None
        spot = found[0].place
        value = self._resolve(facet, lambda: table.value(name), (spot.file, spot.line, spot.written))
        if value is None:
            return None
        for other in table.beside(name):
            if other.text == value.text:
                self._own(facet, other, scope)
            elif not (facet is Facet.BUNDLE_ID and other.text.startswith(f"{value.text}.")):
                said = f"{name} is {value.text} in what is shipped, and {other.text} under another condition"
                self._say(f"{facet}-by-condition", said, value, other)
        return self._own(facet, value, scope)

    def _plist_value(self, table: Table, path: str, plist: Plist, entry: PlistString, facet: Facet) -> Value | None:
        spot = place(path, plist.document.source, entry.start, entry.end, entry.syntax)
        return self._resolve(
            facet, lambda: Value(tuple(table.expand(entry.value, spot)), spot), (path, spot.line, spot.written)
        )

    def _keyed(
        self, table: Table, plist: tuple[str, Plist] | None, key: str, facet: Facet, scope: Scope
    ) -> Value | None:
        """Resolve a key that has a build setting of its own: the property list decides, the setting stands behind."""
        setting = self._setting(table, _SETTING_OF[key], facet, scope)
        entry = plist[1].string(key) if plist else None
        if plist is None or entry is None or not entry.value:
            return setting
        value = self._plist_value(table, plist[0], plist[1], entry, facet)
        if setting is not None and entry.value.strip("${()}") == _SETTING_OF[key]:
            return setting
        if value is None or f"({_SETTING_OF[key]}" in entry.value or f"{{{_SETTING_OF[key]}" in entry.value:
            return value
        if value.place == value.origin or len(value.pieces) > 1:
            self._own(facet, value, scope)
        if setting is not None and "$" not in entry.value and facet is not Facet.BUNDLE_ID:
            item = Literal(facet, value, _SETTING_OF[key], setting)
            if item not in self.literals:
                self.literals.append(item)
        if setting is not None and setting.text != value.text:
            self._differs(key, value, setting)
        return value

    def _differs(self, key: str, value: Value, setting: Value) -> None:
        said = f"{key} is {value.text} in the property list, {setting.text} in the build setting that it does not use"
        self._say("plist-overrides-setting", said, value, setting)

    def _say(self, code: str, message: str, value: Value, other: Value) -> None:
        """Keep once a place that two values differ at."""
        at = ((value.place.file, value.place.line), (other.place.file, other.place.line))
        found = Disagreement(code, message, at)
        if not any(item.code == found.code and item.at[0] == found.at[0] for item in self.disagreements):
            self.disagreements.append(found)

    def _name(
        self,
        table: Table,
        plist: tuple[str, Plist] | None,
        generated: bool,
        scope: Scope,
        target: Target,
        configuration: Configuration,
    ) -> Value | None:
        """Resolve the display name: generated key, the list's display name, bundle name, then the product's name."""
        found: list[Value] = []
        if generated:
            setting = self._setting(table, "INFOPLIST_KEY_CFBundleDisplayName", Facet.DISPLAY_NAME, scope)
            found += [setting] if setting else []
        entry = plist[1].string("CFBundleDisplayName") if plist else None
        if plist and entry is not None:
            value = self._plist_value(table, plist[0], plist[1], entry, Facet.DISPLAY_NAME)
            if value is not None:
                found.append(self._own(Facet.DISPLAY_NAME, value, scope))
        if found:
            return found[0]
        self._offer_name(plist, generated, scope, configuration)
        return self._fallback_name(table, plist)

    def _fallback_name(self, table: Table, plist: tuple[str, Plist] | None) -> Value | None:
        entry = plist[1].string("CFBundleName") if plist else None
        if plist and entry is not None and entry.value:
            value = self._plist_value(table, plist[0], plist[1], entry, Facet.DISPLAY_NAME)
            if value is not None:
                return Value((Piece(value.text),), value.place)
        text = table.text("PRODUCT_NAME")
        named = table.define("PRODUCT_NAME")
        spot = named[0].place if named else None
        if spot is None:
            source = self.project.document.source
            spot = place(self.project.path, source, 0, 0, "none")
        return Value((Piece(text),), spot) if text else None

    def _offer_name(
        self, plist: tuple[str, Plist] | None, generated: bool, scope: Scope, configuration: Configuration
    ) -> None:
        """Offer the spot where a display name would be added: the property list, else the configuration."""
        if plist is not None:
            path, parsed = plist
            source = parsed.document.source
            start, end, before, after = parsed.opening("CFBundleDisplayName")
            spot = place(path, source, start, end, "xml-text")
        elif generated and configuration.settings.entries:
            path, source = self.project.path, self.project.document.source
            at, before, after = openstep_opening(
                self.project.document, configuration.settings, "INFOPLIST_KEY_CFBundleDisplayName"
            )
            spot = place(path, source, at, at, "openstep")
        else:
            return
        opening = Opening(Facet.DISPLAY_NAME, spot, before, after, scope, "CFBundleDisplayName")
        self.openings.setdefault((path, spot.start, opening.shown), opening)

    def _localized(self, target: Target, item: Configuration, scope: Scope) -> list[tuple[str, Value]]:
        """Return the localized display names from ``InfoPlist.strings``, whatever key they are under."""
        found: dict[str, Value] = {}
        flavor = scope.flavor if is_parted(self.project, target) else ""
        for language, path in self.strings_files(target, configuration=item):
            document = self.strings_document(path)
            if document is None:
                continue
            for key in _NAME_KEYS:
                for entry in document.top.entries:
                    if entry.key.value != key or not isinstance(entry.value, Text):
                        continue
                    spot = place(path, document.source, entry.value.start, entry.value.end, "openstep-entry")
                    value = Value((Piece(entry.value.value, spot),), spot)
                    locale = "" if language == "Base" else language
                    self._own(
                        Facet.DISPLAY_NAME,
                        value,
                        Scope("ios", target.name, flavor, "", locale),
                        Role.OWNER if key == _NAME_KEYS[0] else Role.FOLLOWER,
                    )
                    found.setdefault(language, value)
        for path in self.string_catalogs(target):
            for language, value in self._in_catalog(path):
                self._own(Facet.DISPLAY_NAME, value, Scope("ios", target.name, "", "", language))
                found.setdefault(language, value)
        return sorted(found.items())

    def _in_catalog(self, path: str) -> Iterator[tuple[str, Value]]:
        """Yield the display names in a string catalog (Apple, "Localizing text with a string catalog")."""
        data = self.tree.read(path) or b""
        document = guarded(path, self.faults, lambda: parse_json(data))
        node = document.top.get("strings", _NAME_KEYS[0], "localizations") if document else None
        for language, entry in node.members if node else ():
            unit = entry.get("stringUnit", "value")
            if document is not None and unit is not None and unit.kind == "string":
                spot = place(path, document.source, unit.start + 1, unit.end - 1, "json")
                yield language, Value((Piece(str(unit.value), spot),), spot)

    def string_catalogs(self, target: Target, table: str = "InfoPlist") -> list[str]:
        """Return the string catalogs of a target that hold a table of texts: those of its property list."""
        names = (f"{table}.xcstrings", f"{target.name}-{table}.xcstrings")
        found = [path for name in names for path in self.project.resources(target, f"/{name}")]
        return [path for path in dict.fromkeys(found) if self.tree.exists(path)]

    def strings_files(
        self, target: Target, table: str = "InfoPlist", configuration: Configuration | None = None
    ) -> list[tuple[str, str]]:
        """Return language and path of a target's strings files of a table: ``InfoPlist.strings``.

        Where each configuration has its own, those of *configuration*, else of the one that is archived.
        """
        name = f"{table}.strings"
        item = configuration or target.release()
        if name == FILE and item is not None and is_parted(self.project, target):
            return texts_in(self.tree, self.project, self.table(target, item).text(SETTING))
        found = self.project.localized(target, name)
        for folder in self.project.synchronized_folders(target):
            for path in self.tree.below(folder):
                if path.endswith(f".lproj/{name}"):
                    found.append((parent(path).rpartition("/")[2].removesuffix(".lproj"), path))
        return [(language, path) for language, path in found if self.tree.exists(path)]

    # -- files

    def strings_document(self, path: str) -> OpenStepDocument | None:
        if path not in self._strings:
            data = self.tree.read(path) or b""
            self._strings[path] = guarded(path, self.faults, lambda: parse_openstep(data))
        return self._strings[path]

    def file(self, table: Table, setting: str) -> str:
        """Return the file that a build setting names; empty where it names none, or that cannot be determined."""
        return file_named(self.tree, self.project.folder, table.text(setting))

    def plist(self, table: Table) -> tuple[str, Plist] | None:
        """Return the property list that a target names, parsed, or None."""
        path = self.file(table, "INFOPLIST_FILE")
        if not path:
            return None
        if self.forecast is not None:
            path = self.forecast.today(path)
        if path not in self._plists:
            self._plists[path] = self._read_plist(path)
        parsed = self._plists[path]
        return (path, parsed) if parsed is not None else None

    def _read_plist(self, path: str) -> Plist | None:
        data = self.tree.named_file(path)
        if data is None:
            return None
        if is_binary_plist(data):
            self.faults.append(Unresolved(WHOLE_FILE, path, 1, "bplist00", "a binary property list is not edited"))
            return None
        return guarded(path, self.faults, lambda: parse_plist(data))
