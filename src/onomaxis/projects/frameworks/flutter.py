"""The kind "flutter": one Dart package, native runners for each platform.

Source of the rules: Flutter documentation, "Creating flavors", "Build and release" for each platform; Dart, "The
pubspec file" (package names).
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence

from onomaxis import late
from onomaxis.errors import FormatError, InputError
from onomaxis.flavor_names import same_flavor
from onomaxis.formats.escapes import encode
from onomaxis.formats.lexer import LANGUAGES, regions
from onomaxis.formats.source import Source
from onomaxis.formats.yaml import YamlDocument, parse_yaml
from onomaxis.identity.reserved import DART
from onomaxis.model import Edit, Facet, IconHome, Note, Tile, Value
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import span_edit
from onomaxis.projects.frameworks.files import Files, value_edit
from onomaxis.projects.frameworks.hybrid import HybridKind
from onomaxis.projects.frameworks.pages import web_names
from onomaxis.projects.neighbours.called import Called, renamed, snake
from onomaxis.projects.project import Flavor, Project
from onomaxis.projects.pubspec import pubspec_version
from onomaxis.projects.run_lists import LAUNCHES, appended, names_flavors
from onomaxis.tree import Tree, join, parent
from onomaxis.wishes import Wish

# The body of a literal in double quotes.
_BODY = r"(?P<value>(?:[^\"\\\n]|\\.)*)"
# Where the desktop runners and the Dart code repeat the name that users see: file, pattern, syntax.
_SHOWN = (
    ("linux/runner/my_application.cc", rf"_set_title\([^\"\n]*\"{_BODY}\"", "double"),
    ("linux/my_application.cc", rf"_set_title\([^\"\n]*\"{_BODY}\"", "double"),
    ("windows/runner/main.cpp", rf"\.Create(?:AndShow)?\(L\"{_BODY}\"", "double"),
    (
        "windows/runner/Runner.rc",
        r"VALUE \"(?:ProductName|FileDescription)\", \"(?P<value>(?:[^\"\n]|\"\")*)\"",
        "resource-script",
    ),
    ("lib/main.dart", r"\btitle:\s*'(?P<value>(?:[^'\\\n]|\\.)*)'", "single-dollar"),
    ("lib/main.dart", rf"\btitle:\s*\"{_BODY}\"", "double-dollar"),
)
# Where the package's own name is written beside the pubspec.
_NAMED = (
    ("linux/CMakeLists.txt", r"set\(BINARY_NAME \"(?P<value>[^\"\n]*)\"\)", "raw"),
    ("windows/CMakeLists.txt", r"(?:set\(BINARY_NAME \"|project\()(?P<value>[\w-]+)", "raw"),
    ("windows/runner/Runner.rc", r"\"(?:InternalName|OriginalFilename)\", \"(?P<value>[\w-]+?)(?:\.exe)?\"", "raw"),
    ("linux/runner/my_application.cc", rf"_set_title\([^\"\n]*\"{_BODY}\"", "double"),
    ("windows/runner/main.cpp", rf"\.Create(?:AndShow)?\(L\"{_BODY}\"", "double"),
    ("macos/Runner/Configs/AppInfo.xcconfig", r"^PRODUCT_NAME = (?P<value>[\w-]+)", "raw"),
    ("ios/Runner/Info.plist", r"<key>CFBundleName</key>\s*<string>(?P<value>[\w-]+)</string>", "raw"),
    ("README.md", r"^# (?P<value>[\w-]+)$", "raw"),
)
_ID = (("linux/CMakeLists.txt", r"set\(APPLICATION_ID \"(?P<value>[^\"\n]*)\"\)", "raw"),)


_ICO_EDGES = (16, 24, 32, 48, 64, 256)
_ICO = "windows/runner/resources/app_icon.ico"


# A run configuration that the team shares (JetBrains, "Run/debug configurations": the folder .run).
_RUN = """<component name="ProjectRunConfigurationManager">
  <configuration default="false" name="{flavor}" type="FlutterRunConfigurationType" factoryName="Flutter">
    <option name="buildFlavor" value="{flavor}" />
    <option name="filePath" value="$PROJECT_DIR$/{entry}" />
    <method v="2" />
  </configuration>
</component>
"""


# The framework's own section of the package's file, which flavor is taken by default.
_SECTION = late.compile(r"^flutter:[ \t]*(?:#[^\n]*)?\n(?:[ \t]*(?:#[^\n]*)?\n)*([ \t]+)(?=[\w-])", re.MULTILINE)
_DEFAULT = late.compile(r"^[ \t]+default-flavor:[ \t]*[\"']?([\w-]+)[\"']?[ \t]*(?:#[^\n]*)?\n", re.MULTILINE)
# An entry point where no flavor has one of its own.
_START = "import 'main.dart' as app;\n\n/// Starts {flavor}.\nvoid main() => app.main();\n"
_ENTRY = late.compile(r"(?:.*/)?lib/main_\w+\.dart")


def _entry(flavor: str) -> str:
    return f"lib/main_{snake(flavor)}.dart"


def _run(flavor: str) -> str:
    return f".run/{flavor}.run.xml"


class FlutterKind(HybridKind):
    """Reads Flutter apps; packages and plug-ins without a runner are none."""

    name = "flutter"
    manifests = (("pubspec.yaml", rb"(?m)^[ \t]+sdk:[ \t]*flutter\b"),)

    def roots(self, tree: Tree) -> Iterable[str]:
        """Return the folders with a pubspec that asks for the framework and a runner or an entry point."""
        for path in tree.named("pubspec.yaml"):
            document = _pubspec(tree, path)
            folder = parent(path)
            runners = ("android/app", "ios/Runner", "macos/Runner", "linux", "windows", "web")
            runs = any(next(tree.below(join(folder, runner)), None) for runner in runners)
            framework = document is not None and document.get("dependencies", "flutter", "sdk") is not None
            plugin = document is not None and any(item.path[:2] == ("flutter", "plugin") for item in document.scalars)
            if framework and runs and not plugin:
                yield folder

    def read(self, files: Files) -> None:
        """Read the version, which the runners are given, and what desktop and web runners repeat."""
        files.keeps = "the framework's tools look for the Xcode project Runner"
        name = files.yaml_value("pubspec.yaml", "name")
        files.label = name.text if name else ""
        version = pubspec_version(files.tree, files.folder)
        if version is not None and version.name.place is not None:
            files.own(Facet.VERSION_NAME, Value((version.name,), version.name.place))
            if version.number is not None and version.number.place is not None:
                files.own(Facet.VERSION_CODE, Value((version.number,), version.number.place))
        for file, pattern, syntax in _ID:
            for value in files.matched(file, pattern, syntax):
                files.follow(Facet.APPLICATION_ID, value)
        for file, pattern, syntax in _SHOWN:
            for value in files.matched(file, pattern, syntax):
                files.follow(Facet.DISPLAY_NAME, value)
        web_names(files, "web")
        if files.data(_ICO):
            tile = Tile(files.path(_ICO), 256, 256, "rounded", "windows icon", "ico", _ICO_EDGES, least=16)
            folder = files.path("windows")
            files.icons.append(IconHome("tiles", "windows", "windows", "", folder, "app icon", tiles=(tile,)))

    def prepare(self, project: Project, tree: Tree, aim: Wish) -> Draft:
        """Add a build number to a version that has none."""
        draft = super().prepare(project, tree, aim)
        version = pubspec_version(tree, project.folder)
        if aim.build and version is not None and version.number is None and version.name.place is not None:
            spot = version.name.place
            draft.edits.append(Edit(spot.file, spot.end, spot.end, f"+{aim.build}".encode(), Facet.VERSION_CODE))
        return draft

    def add_flavor(self, project: Project, tree: Tree, flavor: Flavor, id_: str, shown: str) -> Draft:
        """Add an entry point and a run configuration, which hand the flavor to the framework's tools.

        An entry point is not made anew where flavors have theirs, a run configuration where other lists have them.
        """
        draft = Draft()
        entry = join(project.folder, _entry(flavor.name))
        others = any(_ENTRY.fullmatch(path) for path in tree.below(join(project.folder, "lib")))
        if tree.exists(join(project.folder, "lib/main.dart")) and not tree.exists(entry) and not others:
            draft.created.append((entry, _START.format(flavor=flavor.name).encode()))
        run = join(project.folder, _run(flavor.name))
        runs = any(path.endswith(".run.xml") for path in tree.below(join(project.folder, ".run")))
        if not tree.exists(run) and (runs or not names_flavors(tree, join(project.folder, LAUNCHES))):
            draft.created.append((run, _RUN.format(flavor=flavor.name, entry=_entry(flavor.name)).encode()))
        program, arguments = _entry(flavor.name), ["--flavor", flavor.name]
        launch = {"name": flavor.name, "request": "launch", "type": "dart", "program": program, "args": arguments}
        draft.join(appended(tree, join(project.folder, LAUNCHES), launch))
        return draft

    def first_flavor(self, project: Project, tree: Tree, flavor: str, ways: Mapping[str, str]) -> Draft:
        """Let the framework's tools take the flavor where none is named.

        Source: docs.flutter.dev, "Flutter pubspec options", ``default-flavor``.
        """
        draft = super().first_flavor(project, tree, flavor, ways)
        path = join(project.folder, "pubspec.yaml")
        source = Source.read(tree.read(path) or b"")
        found = _SECTION.search(source.view)
        if found is not None and not _DEFAULT.search(source.view):
            line = f"{found[1]}default-flavor: {flavor}{source.newline}"
            draft.edits.append(span_edit(path, source, found.start(1), found.start(1), line))
        return draft

    def written_variant(self, files: Files, siblings: Sequence[Called], new: Called) -> Draft:
        """Make the entry point as a sibling has its own; without one, one that starts the app."""
        draft, tree, entry = super().written_variant(files, siblings, new), files.tree, files.path(_entry(new.name))
        model = next((item for item in siblings if tree.exists(files.path(_entry(item.name)))), None)
        if model is not None and len(siblings) > 1:
            return draft  # told by comparing them
        if tree.exists(entry) or not any(_ENTRY.fullmatch(path) for path in tree.below(files.path("lib"))):
            return draft
        if model is None:
            if tree.exists(files.path("lib/main.dart")):
                draft.created.append((entry, _START.format(flavor=new.name).encode()))
            return draft
        source = Source.read(tree.read(files.path(_entry(model.name))) or b"")
        text = renamed(source.text(0, len(source.view)), model, new)
        draft.created.append((entry, source.data[: source.mark] + source.raw(text)))
        said = f"made from {files.path(_entry(model.name))}: look it over"
        draft.notes.append(Note(entry, said))
        return draft

    def retire_flavor(self, project: Project, tree: Tree, flavor: Flavor) -> Draft:
        """Take out the entry point and the run configuration."""
        draft = super().retire_flavor(project, tree, flavor)
        path = join(project.folder, "pubspec.yaml")
        source = Source.read(tree.read(path) or b"")
        for found in _DEFAULT.finditer(source.view):
            if same_flavor(found[1], flavor.name):
                draft.edits.append(span_edit(path, source, found.start(), found.end(), b""))
        names = (join(project.folder, name) for name in (_entry(flavor.name), _run(flavor.name)))
        draft.removed += [path for path in names if tree.exists(path) and path not in draft.removed]
        return draft

    def technical(self, files: Files, name: str, draft: Draft) -> None:
        """Rename the Dart package: pubspec, ``package:`` addresses, packages that depend on it, desktop binaries."""
        value = files.yaml_value("pubspec.yaml", "name")
        new = dart_name(name)
        if value is None or value.text == new:
            return
        old = value.text
        draft.edits.append(value_edit(files.tree, value, new))
        if new != name:
            draft.notes.append(Note(value.place.at, f"a Dart package is called in lower case: {new}"))
        for file, pattern, syntax in _NAMED:
            for found in files.matched(file, pattern, syntax):
                if found.text == old:
                    draft.edits.append(value_edit(files.tree, found, new))
        folders = [files.folder, *_dependents(files.tree, files.folder, old)]
        for folder in folders:
            draft.edits += _addresses(files.tree, folder, old, new)
        for folder in folders[1:]:
            path = join(folder, "pubspec.yaml")
            draft.edits += _dependency(files.tree, path, old, new)
            draft.notes.append(Note(path, "depends on the package by path: fetch its packages anew"))


def dart_name(name: str) -> str:
    """Return *name* as a Dart package's: lower case with underscores. Raises InputError when nothing is left."""
    words = re.sub(r"(?<=[a-z0-9])(?=[A-Z])", "_", name)
    found = re.sub(r"[^a-z0-9]+", "_", words.lower()).strip("_")
    if not found or found[0].isdigit() or found in DART:
        raise InputError(
            f"“{name}” gives no name for a Dart package: “{found}” is a word of Dart, or begins with a digit",
            remedy="Lower-case letters, digits and underscores, such as tool_shed.",
        )
    return found


def _pubspec(tree: Tree, path: str) -> YamlDocument | None:
    try:
        return parse_yaml(tree.read(path) or b"")
    except FormatError:
        return None


def _dependents(tree: Tree, folder: str, name: str) -> Iterator[str]:
    """Yield the folders of packages in the tree that depend on a package by its path."""
    for path in tree.named("pubspec.yaml"):
        document = _pubspec(tree, path)
        for group in ("dependencies", "dev_dependencies", "dependency_overrides"):
            found = document.get(group, name, "path") if document else None
            if found is not None and join(parent(path), found.value) == folder:
                yield parent(path)
                break


def _dependency(tree: Tree, path: str, old: str, new: str) -> Iterator[Edit]:
    source = Source.read(tree.read(path) or b"")
    for match in re.finditer(
        rf"^[ \t]+(?P<name>{old})(?=:\s*(?:\n[ \t]+path:|\{{\s*path:))", source.view, re.MULTILINE
    ):
        yield span_edit(path, source, match.start("name"), match.end("name"), new, Facet.PROJECT_NAME)


def _addresses(tree: Tree, folder: str, old: str, new: str) -> Iterator[Edit]:
    """Yield the edits of ``package:old/…`` in Dart strings and of ``packages/old/`` asset keys."""
    pattern = re.compile(rf"package:(?P<name>{old})(?=/)|packages/(?P<asset>{old})(?=/)")
    needle = old.encode()
    for path in tree.below(folder):
        data = tree.read(path) if path.endswith((".dart", ".yaml")) else None
        if not data or needle not in data:
            continue
        source = Source.read(data)
        if path.endswith(".yaml"):
            spans = [(0, len(source.view))]
        else:
            spans = [(r.start, r.end) for r in regions(source.view, LANGUAGES[".dart"]) if r.kind == "string"]
        for start, end in spans:
            for match in pattern.finditer(source.view, start, end):
                group = "name" if match["name"] else "asset"
                yield span_edit(
                    path, source, match.start(group), match.end(group), encode("raw", new), Facet.PROJECT_NAME
                )
