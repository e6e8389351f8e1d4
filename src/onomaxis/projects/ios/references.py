"""What an Xcode project names: files, targets and configurations of schemes, hosts of tests, companions, profiles.

Sources of the rules: Apple, "Build settings reference" (INFOPLIST_FILE, CODE_SIGN_ENTITLEMENTS, TEST_HOST,
TEST_TARGET_NAME), "WKCompanionAppBundleIdentifier", "Customizing the build schemes for a project", "Distributing your
app for beta testing and releases" (export options), "Configuring app groups".
"""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping
from functools import cached_property

from onomaxis.errors import FormatError
from onomaxis.flavor_names import flavor_word
from onomaxis.formats.plist import is_binary_plist, parse_plist
from onomaxis.formats.source import Source
from onomaxis.model import HIDDEN_PARTS, Place
from onomaxis.projects.dangling import Broken, Sort
from onomaxis.projects.ios.places import entry
from onomaxis.projects.ios.pod_platform import PLATFORM, level
from onomaxis.projects.ios.project_file import Configuration, Target, XcodeProject
from onomaxis.projects.ios.scheme_references import scheme_references
from onomaxis.projects.ios.settings import Table, Undefined, file_named
from onomaxis.projects.ios.targets import TargetReader
from onomaxis.projects.project import Project, build_type
from onomaxis.projects.siblings import majority
from onomaxis.tree import join

_FILES = ("INFOPLIST_FILE", "CODE_SIGN_ENTITLEMENTS", "SWIFT_OBJC_BRIDGING_HEADER")
# What the tools of a framework or a package manager write when the project is built.
_MADE = ("Pods/", "Generated", "ephemeral/", "DerivedData", "build/")
_BOARDS = {"UIMainStoryboardFile": ".storyboard", "UILaunchStoryboardName": ".storyboard", "NSMainNibFile": ".xib"}
_COMPANION = ("WKCompanionAppBundleIdentifier",)
_GROUPS = "com.apple.security.application-groups"


class References:
    """Reads what one project names."""

    def __init__(self, project: Project, parsed: XcodeProject, reader: TargetReader) -> None:
        self.project = project
        self.parsed = parsed
        self.reader = reader
        self.tree = reader.tree

    def broken(self) -> Iterator[Broken]:
        """Yield every reference that leads nowhere."""
        for target in self.parsed.targets:
            for item in target.configurations:
                yield from self._settings(target, item)
        yield from self._configurations()
        yield from scheme_references(self.tree, self.parsed)
        yield from self._exports()
        yield from self._pods()
        yield from self._groups()

    def _expanded(self, table: Table, name: str) -> tuple[str, Place] | None:
        """Return a setting with what can be told filled in, and where it stands."""
        found = table.define(name)
        if found is None or found[0].place is None:
            return None
        try:
            value = table.value(name)
        except Undefined:
            return None
        return (value.text, found[0].place) if value is not None else None

    # -- settings

    def _settings(self, target: Target, item: Configuration) -> Iterator[Broken]:
        table = self.reader.table(target, item)
        for name in _FILES:
            found = self._expanded(table, name)
            if found and not found[1].written.strip('"').startswith("/"):  # whole paths are of somebody's machine
                path = file_named(self.tree, self.parsed.folder, found[0])
                if path and not self.tree.exists(path) and not any(mark in path for mark in _MADE):
                    said = f"{target.name}: {name} is {found[0]}, and {self.tree.lacking(path)}"
                    yield Broken(Sort.FILE, said, found[1].file, found[1].line, item.flavor)
        yield from self._host(target, item, table)
        yield from self._companion(target, item, table)
        yield from self._screens(target, table)
        flavor = item.flavor
        for base in {item.base, self._above(item)} - {""}:
            others = [name for name in self.flavors if name.casefold() != flavor.casefold()]
            named = [name for name in others if flavor_word(name).search(base)]
            if flavor and named and not flavor_word(flavor).search(base):
                said = f"{item.name} of {target.name} is built with {base}, which is {named[0]}'s"
                yield Broken(Sort.BASE, said, self.parsed.path, self._line(item), flavor)
            if not self.tree.exists(base) and not any(mark in base for mark in _MADE):
                said = f"{item.name} is built with {base}, and {self.tree.lacking(base)}"
                yield Broken(Sort.FILE, said, self.parsed.path, self._line(item), flavor)

    def _above(self, item: Configuration) -> str:
        found = self.parsed.project_configurations.get(item.name)
        return found.base if found is not None else ""

    def _line(self, item: Configuration) -> int:
        return self.parsed.document.source.line(item.settings.start)

    @cached_property
    def flavors(self) -> tuple[str, ...]:
        """The flavors of all targets."""
        return tuple(dict.fromkeys(name for target in self.parsed.targets for name in target.flavors()))

    def _host(self, target: Target, item: Configuration, table: Table) -> Iterator[Broken]:
        """Compare the app that unit tests run in, and the one that UI tests drive, with the targets."""
        host = table.define("TEST_HOST")
        folders = host[0].text.split("/") if host and host[0].place else []
        named = next((part.removesuffix(".app") for part in folders if part.endswith(".app")), "")
        if host and host[0].place and named and "$" not in named:
            products = {self._product(other, item.name) for other in self.parsed.targets}
            if named not in products:
                said = f"{target.name}: TEST_HOST runs in {named}.app, which nothing here builds"
                yield Broken(Sort.HOST, said, host[0].place.file, host[0].place.line)
        driven = self._expanded(table, "TEST_TARGET_NAME")
        if driven and "$" not in driven[0] and driven[0] not in {other.name for other in self.parsed.targets}:
            said = f"{target.name}: TEST_TARGET_NAME is {driven[0]}, and there is no such target"
            yield Broken(Sort.HOST, said, driven[1].file, driven[1].line)

    def _product(self, target: Target, configuration: str) -> str:
        item = next((one for one in target.configurations if one.name == configuration), None)
        found = self._expanded(self.reader.table(target, item), "PRODUCT_NAME") if item else None
        return found[0] if found else target.name

    def _companion(self, target: Target, item: Configuration, table: Table) -> Iterator[Broken]:
        """Compare the app that a watch app says it belongs to with the app of the same configuration."""
        ids = self._app_ids(item.name)
        plist = self.reader.plist(table)
        for key in _COMPANION:
            said, spot = "", None
            node = entry(plist[1], (key,)) if plist else None
            if plist and node is not None:
                spot = (plist[0], plist[1].document.source.line(node.start))
                said = node.text
                try:
                    said = "".join(piece.text for piece in table.expand(said, None)) if "$" in said else said
                except Undefined:
                    continue
            found = self._expanded(table, f"INFOPLIST_KEY_{key}")
            if found:
                said, spot = found[0], (found[1].file, found[1].line)
            if spot and ids and said not in ids:
                wanted = ", ".join(sorted(ids))
                message = f"{target.name}, {item.name}: {key} is {said}, the app is {wanted}"
                yield Broken(Sort.COMPANION, message, *spot, item.flavor)

    def _app_ids(self, configuration: str) -> set[str]:
        found = set()
        for target in self.parsed.targets:
            item = next((one for one in target.configurations if one.name == configuration), None)
            if target.kind == "app" and item is not None:
                value = self.reader.identity(target, item).id
                found |= {value.text} if value is not None else set()
        return found

    def _screens(self, target: Target, table: Table) -> Iterator[Broken]:
        """Look for the storyboards that a property list names."""
        plist = self.reader.plist(table)
        if plist is None or target.kind not in ("app", "clip"):
            return
        for key, ending in _BOARDS.items():
            node = entry(plist[1], (key,))
            name = node.text if node is not None and "$" not in node.text else ""
            if name and not any(path.endswith(f"/{name}{end}") for path in self._boards for end in (ending, ".xib")):
                line = plist[1].document.source.line(node.start) if node is not None else 1
                yield Broken(Sort.SCREEN, f"{key} is {name}, and there is no {name}{ending}", plist[0], line)

    @cached_property
    def _boards(self) -> list[str]:
        return [path for path in self.tree.files if path.endswith((".storyboard", ".xib"))]

    # -- configurations

    def _configurations(self) -> Iterator[Broken]:
        """Compare the lists of configurations: of the project with its targets, of a flavor with the others."""
        names = list(self.parsed.project_configurations)
        for target in self.parsed.targets:
            own = {item.name for item in target.configurations}
            for name in names:
                if name not in own and own:
                    said = f"{target.name} has no configuration {name}, the project has"
                    line = self.parsed.document.source.line(target.node.start)
                    yield Broken(Sort.CONFIGURATION, said, self.parsed.path, line, self.parsed.flavor_named(name))
        every = self.parsed.project_configurations.values()
        types = {name: {build_type(c.name, name) for c in every if c.flavor == name} for name in self.flavors}
        counted = Counter(kind for kinds in types.values() for kind in kinds)
        for flavor, kinds in types.items():
            for kind, number in counted.items():
                if kind not in kinds and majority(number, types):
                    said = f"{flavor} has no {kind} configuration, the other flavors have"
                    item = next(item for item in every if item.flavor == flavor)
                    yield Broken(Sort.CONFIGURATION, said, self.parsed.path, self._line(item), flavor)

    # -- export options

    def _exports(self) -> Iterator[Broken]:
        """Compare the profiles that an export names with what is embedded in the app that it is for."""
        for path in self.tree.files:
            data = self.tree.read(path) if path.endswith(".plist") else None
            if data is None or b"provisioningProfiles" not in data or is_binary_plist(data):
                continue
            try:
                plist = parse_plist(data)
            except FormatError:
                continue
            node = entry(plist, ("provisioningProfiles",))
            if node is None or node.name != "dict":
                continue
            line = plist.document.source.line
            named = {item.text: line(item.start) for item in node.children if item.name == "key"}
            yield from self._export(path, named, line(node.start))
            team = entry(plist, ("teamID",))
            if team is not None:
                yield from self._team(path, team.text, set(named), line(team.start))

    @cached_property
    def _embedded(self) -> Mapping[str, set[str]]:
        """What is embedded in each app, by ID: in every flavor and configuration."""
        found: dict[str, set[str]] = defaultdict(set)
        for app in self.project.brands():
            if app.id is not None:
                found[app.id.text] |= {p.id.text for p in app.parts if p.id and p.kind not in HIDDEN_PARTS}
        return found

    def _export(self, path: str, named: Mapping[str, int], line: int) -> Iterator[Broken]:
        known = set(self._embedded) | {id_ for ids in self._embedded.values() for id_ in ids}
        if not known & set(named) and not any(
            id_.startswith(f"{k}.") or k.startswith(f"{id_}.") for id_ in named for k in known
        ):
            return  # another project's
        for id_, at in named.items():
            if id_ not in known and "*" not in id_ and "$" not in id_:
                yield Broken(Sort.EXPORT, f"a profile for {id_}, which no product here is", path, at)
        for id_ in named:
            for part in sorted(self._embedded.get(id_, ())):
                if part not in named:
                    yield Broken(Sort.EXPORT, f"no profile for {part}, which is embedded in {id_}", path, line)

    def _team(self, path: str, team: str, named: set[str], line: int) -> Iterator[Broken]:
        teams = {
            app.signing.team
            for app in self.project.brands()
            if app.signing is not None and app.signing.team and app.id is not None and app.id.text in named
        }
        if teams and team not in teams and "$" not in team:
            yield Broken(
                Sort.EXPORT, f"teamID is {team}, the app is signed by {', '.join(sorted(teams))}", path, line
            )

    # -- the Podfile

    def _pods(self) -> Iterator[Broken]:
        path = join(self.parsed.folder, "Podfile")
        try:
            source = Source.read(self.tree.read(path) or b"") if self.tree.exists(path) else None
        except FormatError:
            return
        if source is None:
            return
        text = re.sub(r"(?m)^[ \t]*#[^\n]*", lambda match: " " * len(match[0]), source.view)
        yield from self._pods_level(path, source, text)
        names = {target.name for target in self.parsed.targets}
        for match in re.finditer(r"^[ \t]*target[ \t(]+(['\"])([^'\"\n]+)\1", text, re.MULTILINE):
            if match[2] not in names and not self._elsewhere(match[2]):
                said = f"the Podfile is for target {match[2]}, and there is none"
                yield Broken(Sort.PODS, said, path, source.line(match.start(2)))
        mapped = {
            m[2]: m.start(2) for m in re.finditer(r"(['\"])([^'\"\n]+)\1[ \t]*=>[ \t]*:(?:debug|release)", text)
        }
        known = set(self.parsed.project_configurations)
        for name, at in mapped.items():
            if name not in known:
                said = f"the Podfile maps configuration {name}, and there is none"
                yield Broken(Sort.PODS, said, path, source.line(at), self.parsed.flavor_named(name))
        flavored = [name for name in known if self.parsed.flavor_named(name)]
        having = [name for name in flavored if name in mapped]
        if majority(len(having), flavored):
            for name in sorted(set(flavored) - set(having)):
                said = f"the Podfile maps {having[0]} and others, not {name}: its pods are built for release"
                yield Broken(Sort.PODS, said, path, source.line(mapped[having[0]]), self.parsed.flavor_named(name))

    def _pods_level(self, path: str, source: Source, text: str) -> Iterator[Broken]:
        """Compare the system that pods are built for with the one that the app runs on."""
        app = next((target for target in self.parsed.targets if target.kind == "app"), None)
        release = app.release() if app is not None else None
        found = (
            self._expanded(self.reader.table(app, release), "IPHONEOS_DEPLOYMENT_TARGET") if app and release else None
        )
        for match in PLATFORM.finditer(text) if found else ():
            if found and level(match[2]) > level(found[0]):
                said = f"the Podfile is for iOS {match[2]}, the app for {found[0]}: pods could not be linked"
                yield Broken(Sort.PODS, said, path, source.line(match.start(2)))

    def _elsewhere(self, name: str) -> bool:
        """Tell whether a target may stand in another project of the folder, or is an abstract one."""
        return sum(path.endswith(".xcodeproj/project.pbxproj") for path in self.tree.below(self.parsed.folder)) > 1

    # -- app groups

    def _groups(self) -> Iterator[Broken]:
        """Compare the app groups of what is embedded with the app's own, in what ships."""
        by_id = {target.id: target for target in self.parsed.targets}
        for app in (target for target in self.parsed.targets if target.kind == "app"):
            mine = dict(self._listed_groups(app))
            for part in (by_id[key] for key in (*app.embeds, *app.depends) if key in by_id):
                for group, spot in self._listed_groups(part) if mine else ():
                    alike = next((own for own in mine if own.casefold() == group.casefold()), None)
                    if group not in mine:
                        said = f"{part.name} is in group {group}, {app.name} in {alike or ', '.join(sorted(mine))}"
                        yield Broken(Sort.GROUP, said, *spot)

    def _listed_groups(self, target: Target) -> Iterator[tuple[str, tuple[str, int]]]:
        release = target.release()
        table = self.reader.table(target, release) if release is not None else None
        path = self.reader.file(table, "CODE_SIGN_ENTITLEMENTS") if table is not None else ""
        data = self.tree.named_file(path)
        if data is None or table is None or is_binary_plist(data):
            return
        try:
            plist = parse_plist(data)
        except FormatError:
            return
        node = entry(plist, (_GROUPS,))
        for item in node.children if node is not None else ():
            try:
                text = (
                    "".join(piece.text for piece in table.expand(item.text, None)) if "$" in item.text else item.text
                )
            except Undefined:
                continue
            yield text, (path, plist.document.source.line(item.start))
