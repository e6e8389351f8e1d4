"""What an Android app's files name: classes, packages of shortcuts and intents, authorities, modules.

Sources of the rules: developer.android.com, "App manifest overview" (names of classes), "Create shortcuts"
(targetPackage, targetClass), "<provider>" (authorities), "Configure your build" (included modules).
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import cached_property

from onomaxis import late
from onomaxis.errors import FormatError
from onomaxis.formats.source import Source, flat
from onomaxis.formats.xml import Element, XmlDocument, parse_xml
from onomaxis.platforms import ANDROID_NS, SETTINGS_SCRIPTS
from onomaxis.projects.android.apps import ModuleReader
from onomaxis.projects.android.manifest import COMPONENTS, RESOURCE_CLASSES, Manifest
from onomaxis.projects.dangling import Broken, Sort
from onomaxis.projects.project import Project
from onomaxis.tree import Tree, join

_SOURCES = (".kt", ".java", ".cs")
_MODULE = late.compile(r"""['"](:[\w.:-]+)['"]""")


class References:
    """Reads what one module of a build names; *ids* are those of all its variants."""

    def __init__(self, project: Project, tree: Tree, reader: ModuleReader, namespace: str) -> None:
        self.tree = tree
        self.reader = reader
        self.folder = reader.module.folder
        self.namespace = namespace
        self.packages = {i.value for i in project.identifiers if i.facet.endswith("code-package") and i.value}
        apps = [app for app in project.apps if app.module == reader.module.name and app.id]
        self.ids = {app.id.text: app.flavor for app in apps if app.id}
        self.others = {app.id.text for app in project.apps if app.id} - self.ids.keys()
        # A class that is missing is sought in the whole tree: once, however many places name it.
        self._sought: dict[str, bool] = {}

    def broken(self) -> Iterator[Broken]:
        """Yield every reference that leads nowhere."""
        for source_set, manifest in self._manifests():
            yield from self._manifest(source_set, manifest)
        for path, document in self._resources():
            yield from self._resource(path, document)
        yield from self._code()

    def _manifests(self) -> Iterator[tuple[str, Manifest]]:
        inside = join(self.folder, "src") + "/"
        for path in self.tree.named("AndroidManifest.xml"):
            if path.startswith(inside) and path.count("/") == inside.count("/") + 1:
                source_set = path[len(inside) :].partition("/")[0]
                manifest = self.reader.manifest(source_set)
                if manifest is not None:
                    yield source_set, manifest

    def _manifest(self, source_set: str, manifest: Manifest) -> Iterator[Broken]:
        package = manifest.root.attribute("package")
        line = manifest.document.source.line
        if source_set != "main" and package is not None and package.value not in ("", self.namespace):
            said = f"the manifest of {source_set} is of package {package.value}, the app's is {self.namespace}"
            yield Broken(Sort.MANIFEST, said, manifest.path, line(package.start))
        for element in manifest.root.walk():
            for name in ("name", *RESOURCE_CLASSES) if element.name in {*COMPONENTS, "activity-alias"} else ():
                item = element.attribute(name, ANDROID_NS)
                if item is None or (name == "name" and element.name == "activity-alias"):
                    continue
                if not self._exists(item.value):
                    yield Broken(Sort.CLASS, f"there is no class {item.value}", manifest.path, line(item.start))

    # -- classes

    @cached_property
    def _by_name(self) -> dict[str, list[str]]:
        """The source files of the tree by the name that a class of theirs has."""
        found: dict[str, list[str]] = {}
        for path in self.tree.files:
            if path.endswith(_SOURCES):
                found.setdefault(path.rpartition("/")[2].rpartition(".")[0], []).append(path)
        return found

    @cached_property
    def _own(self) -> list[str]:
        inside = join(self.folder, "src") + "/"
        return [path for paths in self._by_name.values() for path in paths if path.startswith(inside)]

    def _exists(self, name: str) -> bool:
        """Tell whether a class is there, or is none of the app's own."""
        if name not in self._sought:
            self._sought[name] = self._found(name)
        return self._sought[name]

    def _found(self, name: str) -> bool:
        full = f"{self.namespace}{name}" if name.startswith(".") else name
        full = f"{self.namespace}.{full}" if "." not in full and full else full
        package, _, simple = full.replace("$", ".").rpartition(".")
        mine = any(package == own or package.startswith(f"{own}.") for own in {*self.packages, self.namespace} if own)
        if not mine or not self._own or "{" in full or not simple:
            return True
        if any(self._declares(path, package) for path in self._by_name.get(simple, ())):
            return True
        words = re.compile(rf"\b(?:class|object|interface)\s+{re.escape(simple)}\b|\bas\s+{re.escape(simple)}\b")
        for path, data in self.tree.holding([simple]):
            named = path.endswith(_SOURCES) and words.search(flat(data).decode("utf-8", "replace"))
            if named and self._declares(path, package):
                return True
        return False

    def _declares(self, path: str, package: str) -> bool:
        """Tell whether a file is of a package, or of a class in it that holds others."""
        match = re.search(
            rb"^[ \t]*(?:package|namespace)[ \t]+([\w.]+)", flat(self.tree.read(path) or b""), re.MULTILINE
        )
        said = match[1].decode() if match else ""
        return said == package or not said or package.startswith(f"{said}.")

    # -- resources

    def _resources(self) -> Iterator[tuple[str, XmlDocument]]:
        inside = join(self.folder, "src") + "/"
        for path in self.tree.below(join(self.folder, "src")):
            parts = path[len(inside) :].split("/")
            if len(parts) > 3 and parts[1] == "res" and path.endswith(".xml") and parts[2].split("-")[0] in _FOLDERS:
                try:
                    yield path, parse_xml(self.tree.read(path) or b"")
                except FormatError:
                    continue

    def _resource(self, path: str, document: XmlDocument) -> Iterator[Broken]:
        line = document.source.line
        for element in document.root.walk():
            own = any(
                element.tag.startswith(f"{package}.") for package in {*self.packages, self.namespace} if package
            )
            if own and not self._exists(element.tag):
                yield Broken(Sort.CLASS, f"there is no class {element.tag}", path, line(element.start))
            for item in element.attributes:
                name = item.name.rpartition(":")[2]
                if name in RESOURCE_CLASSES or (name == "name" and element.name == "fragment"):
                    if not self._exists(item.value if "." in item.value else f"android.{item.value}"):
                        yield Broken(Sort.CLASS, f"there is no class {item.value}", path, line(item.start))
                elif name == "targetPackage":
                    yield from self._package(element, item.value, path, line(item.start))

    def _package(self, element: Element, value: str, path: str, line: int) -> Iterator[Broken]:
        """Judge the package that a shortcut or an intent goes to: the application ID, not the code's package."""
        if not re.fullmatch(r"[A-Za-z]\w*(?:\.\w+)+", value) or not self.ids:
            return
        own = path.partition("/src/")[2].partition("/")[0]
        mine = [id_ for id_, flavor in self.ids.items() if own in ("main", flavor) or flavor.startswith(own)]
        target = element.value("targetClass", ANDROID_NS)
        meant = any(target.startswith(f"{package}.") for package in self.packages) or not target
        if value in self.others or not meant:
            return
        if value not in mine:
            known = ", ".join(sorted(mine)[:3])
            yield Broken(
                Sort.PACKAGE,
                f"targetPackage is {value}, the app is {known}",
                path,
                line,
                own if own != "main" else "",
            )
        elif len(set(mine)) > 1:
            others = sorted(set(mine) - {value})
            said = f"targetPackage is {value} for every variant, and {others[0]} is one of them"
            yield Broken(Sort.FIXED, said, path, line)

    # -- code

    def _code(self) -> Iterator[Broken]:
        """Compare the authorities that code asks for with those that the manifest declares."""
        declared = set(self._authorities())
        if not declared:
            return
        call = re.compile(r'getUriForFile\s*\([^()]*?,\s*"([\w.]+)"', re.DOTALL)
        for path, data in self.tree.holding(["getUriForFile"]):
            if not path.endswith(_SOURCES) or path not in self._own:
                continue
            try:
                source = Source.read(data)
            except FormatError:
                continue
            for match in call.finditer(source.view):
                told = {template.replace("${applicationId}", id_) for template in declared for id_ in self.ids}
                everywhere = [t for t in declared if "$" not in t]
                if match[1] not in told:
                    said = f"the code asks for {match[1]}, the manifest declares {', '.join(sorted(told)[:3])}"
                    yield Broken(Sort.AUTHORITY, said, path, source.line(match.start(1)))
                elif match[1] not in everywhere and len(self.ids) > 1:
                    said = f"the code asks for {match[1]} in every variant, the manifest follows the ID"
                    yield Broken(Sort.FIXED, said, path, source.line(match.start(1)))

    def _authorities(self) -> Iterator[str]:
        for _, manifest in self._manifests():
            for element in manifest.root.walk():
                if element.name == "provider":
                    yield from element.value("authorities", ANDROID_NS).split(";")


_FOLDERS = ("layout", "xml", "navigation", "menu", "values")


def missing_modules(tree: Tree, folder: str) -> Iterator[Broken]:
    """Yield the modules that a build includes and that are not there."""
    for name in SETTINGS_SCRIPTS:
        path = join(folder, name)
        data = tree.named_file(path)
        try:
            source = Source.read(data or b"")
        except FormatError:
            continue
        moved = set(re.findall(r"['\"]([^'\"\n]{1,300})['\"]\s{0,99}\)\s{0,99}\.projectDir", source.view))
        for call in re.finditer(r"^[ \t]*include\b[^\n]*(?:,\s*\n[^\n]*)*", source.view, re.MULTILINE):
            for match in _MODULE.finditer(call[0]):
                where = join(folder, match[1].strip(":").replace(":", "/"))
                if where and match[1] not in moved and not _any(tree, where):
                    at = source.line(call.start() + match.start(1))
                    yield Broken(Sort.MODULE, f"the module {match[1]} has no folder {where}", path, at)


def _any(tree: Tree, folder: str) -> bool:
    return next(iter(tree.below(folder)), None) is not None or next(iter(tree.on_disk(folder)), None) is not None
