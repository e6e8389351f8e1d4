"""Gradle builds and their Android modules: which script belongs to which, and what each module is."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

from onomaxis.formats.gradle import parse_gradle
from onomaxis.formats.gradle_statements import Setting, literal_text
from onomaxis.formats.lexer import item_end
from onomaxis.formats.properties import Properties, parse_properties
from onomaxis.formats.source import flat
from onomaxis.model import Facet, Mention, Role, Scope, Unresolved
from onomaxis.platforms import BUILD_SCRIPTS, SETTINGS_SCRIPTS
from onomaxis.projects.android.catalogs import Catalog, read_catalogs
from onomaxis.projects.android.constants import Constants, included_builds
from onomaxis.projects.android.scope import ScriptFile, Unknown
from onomaxis.projects.android.script_loops import written_out
from onomaxis.projects.android.values import Environment
from onomaxis.projects.project import guarded
from onomaxis.projects.pubspec import gradle_values
from onomaxis.tree import Tree, join, parent

# Plug-in ID to what the module builds (developer.android.com, "Android Gradle plugin API").
_PLUGINS = {
    "com.android.application": "application",
    "com.android.library": "library",
    "com.android.dynamic-feature": "feature",
    "com.android.test": "test",
    "com.android.instantapp": "instant",
}


@dataclass(frozen=True)
class Module:
    """One Android module: its folder, what it builds, its script and where names are looked up.

    ``inherited`` are settings of its ``android`` block that other scripts make: applied ones, convention plug-ins,
    the root's ``subprojects``; the module's own come after them.
    """

    folder: str
    kind: str
    file: ScriptFile
    environment: Environment
    inherited: tuple[Setting, ...] = ()

    @property
    def name(self) -> str:
        """The folder's last segment, as people call the module."""
        return self.folder.rpartition("/")[2] or "app"

    def find(self, *path: str) -> Setting | None:
        """Return the last setting at *path* below ``android``: one under a condition only where it says otherwise."""
        hits = self.every(*path)
        plain = next((at for at in range(len(hits) - 1, -1, -1) if not hits[at].conditional), -1)
        said = [token.text for token in hits[plain].value] if plain >= 0 else []
        other = [item for item in hits[plain + 1 :] if [token.text for token in item.value] != said]
        return other[-1] if other else hits[plain] if hits else None

    def every(self, *path: str) -> list[Setting]:
        """Return every setting at *path* below ``android``, in order."""
        wanted = ("android", *path)
        return [item for full, item in self._below.get(wanted, ()) if full == wanted and item.value]

    def settings(self, *path: str) -> Iterable[Setting]:
        """Yield the settings below ``android`` whose path starts with *path*."""
        return (item for _, item in self._below.get(("android", *path), ()))

    @cached_property
    def _below(self) -> Mapping[tuple[str, ...], list[tuple[tuple[str, ...], Setting]]]:
        """The settings by each beginning of their path: a script of many flavors is asked about each of them."""
        found: dict[tuple[str, ...], list[tuple[tuple[str, ...], Setting]]] = {}
        for item in (*self.inherited, *self.file.settings):
            full = setting_path(item)
            for length in range(1, len(full) + 1):
                found.setdefault(full[:length], []).append((full, item))
        return found


@dataclass
class Build:
    """One Gradle build: its root folder and its Android modules."""

    folder: str
    modules: list[Module] = field(default_factory=list)
    scripts: dict[str, ScriptFile] = field(default_factory=dict)
    faults: list[Unresolved] = field(default_factory=list)


def setting_path(item: Setting) -> tuple[str, ...]:
    """Return a setting's path with its spelling taken out: ``setX(…)`` and ``x.set(…)`` are ``x``."""
    full = item.full
    if len(full) > 1 and full[-1] in ("set", "value"):
        full = full[:-1]
    last = full[-1]
    if last.startswith("set") and last[3:4].isupper():
        full = (*full[:-1], last[3].lower() + last[4:])
    return full


def find_builds(tree: Tree) -> list[Build]:
    """Return every Gradle build in *tree* that has an Android module: read once for a tree."""
    return tree.kept("gradle builds", lambda: _find_builds(tree))


def _find_builds(tree: Tree) -> list[Build]:
    scripts = tree.named(*BUILD_SCRIPTS)
    if not scripts:
        return []
    roots = {parent(path) for path in tree.named(*SETTINGS_SCRIPTS)}
    builds: dict[str, Build] = {}
    for path in scripts:
        folder = parent(path)
        root = _root_of(folder, roots, scripts)
        build = builds.setdefault(root, Build(root))
        data = tree.read(path) or b""
        file = _parse(path, data, build)
        if file:
            build.scripts[path] = file
    return [build for build in builds.values() if _fill(build, tree) or _is_lost(build, tree)]


def _is_lost(build: Build, tree: Tree) -> bool:
    """Tell whether a script that cannot be read may be that of an Android module."""
    return any(b"android" in flat(tree.read(fault.file) or b"") for fault in build.faults)


def _parse(path: str, data: bytes, build: Build) -> ScriptFile | None:
    def read() -> ScriptFile:
        return ScriptFile(path, parse_gradle(data, path.endswith(".kts")))

    return guarded(path, build.faults, read)


def build_name(folder: str, tree: Tree) -> tuple[list[Mention], list[Unresolved]]:
    """Return the name that a build's settings script gives it (``rootProject.name``), as its owner."""
    for name in SETTINGS_SCRIPTS:
        path = join(folder, name)
        data = tree.read(path) if path in tree.known else None
        if data is None or b"rootProject" not in flat(data):
            continue
        faults: list[Unresolved] = []
        script = guarded(path, faults, lambda data=data, name=name: parse_gradle(data, name.endswith(".kts")))  # type: ignore[misc]
        if script is None:
            return [], faults
        file = ScriptFile(path, script)
        for item in file.settings:
            if setting_path(item) != ("rootProject", "name") or not item.value:
                continue
            environment = Environment(file)
            try:
                value = environment.value(item.value)
            except Unknown as error:
                spot = environment.place(item.value)
                return [], [Unresolved(Facet.PROJECT_NAME, path, spot.line, spot.written, str(error), False)]
            return [Mention(Facet.PROJECT_NAME, Role.OWNER, value.origin, value.text, Scope("android"), value)], []
    return [], []


def _root_of(folder: str, roots: set[str], scripts: list[str]) -> str:
    """Return the nearest folder above with a settings script, else the topmost one with a build script."""
    at = folder
    while True:
        if at in roots:
            return at
        if not at:
            break
        at = parent(at)
    known = {parent(path) for path in scripts}
    top = folder
    while top and parent(top) in known and parent(top) != top:
        top = parent(top)
    return top


def _fill(build: Build, tree: Tree) -> bool:
    """Add the Android modules of *build*; tell whether there are any."""
    given = gradle_values(tree, build.folder)
    catalogs = read_catalogs(build.folder, tree, build.faults)
    constants = Constants(build.folder, tree, included_builds(build.folder, tree))
    conventions = _conventions(constants, build, tree)
    for path, file in build.scripts.items():
        others = _others(file, build, tree, conventions)
        mine = _applied(file, build, tree, conventions)
        mine += [inner for script in mine for inner in _applied(script, build, tree, conventions)]
        applied = (found for item in (file, *mine) if (found := _plugin_kind(item, catalogs)))
        kind = next(applied, "") or _kind(file, tree)
        if not kind or path in (item.path for item in conventions.values()):
            continue
        properties = _properties(build, parent(path), tree)
        environment = Environment(file, others, properties, catalogs, constants, given)
        file = written_out(file, environment)
        others = [written_out(other, environment) for other in others]
        environment = replace(environment, own=file, others=others)
        build.modules.append(Module(parent(path), kind, file, environment, tuple(_inherited(file, others, build))))
    build.modules.sort(key=lambda module: (module.kind != "application", module.folder))
    return bool(build.modules)


def _inherited(file: ScriptFile, others: list[ScriptFile], build: Build) -> Iterator[Setting]:
    """Yield the settings of ``android`` that other scripts make for a module, the weakest first."""
    folder = parent(file.path)
    for script in reversed(others):
        for item in script.settings:
            full = item.full
            if full[0] in _EVERY_PROJECT and "android" in full:
                yield item.called(tuple(full[full.index("android") : -1]), full[-1])
            elif full[0] == "android" and (script.path not in build.scripts or parent(script.path) == folder):
                yield item


# Blocks of a root script whose content counts for the modules below it.
_EVERY_PROJECT = ("allprojects", "subprojects")


def _conventions(constants: Constants, build: Build, tree: Tree) -> dict[str, ScriptFile]:
    """Return the precompiled script plug-ins of ``buildSrc`` and the included builds, by their plug-in ID."""
    found = {}
    for folder in dict.fromkeys((join(build.folder, "buildSrc"), *constants.included)):
        for path in tree.below(folder):
            name = path.rpartition("/")[2]
            for ending in (".gradle.kts", ".gradle"):
                if name.endswith(ending) and "/src/main/" in path and (data := tree.read(path)):
                    file = _parse(path, data, build)
                    if file:
                        found[name.removesuffix(ending)] = file
                    break
    return found


def _others(file: ScriptFile, build: Build, tree: Tree, conventions: dict[str, ScriptFile]) -> list[ScriptFile]:
    """Return the scripts whose extra properties *file* sees: applied ones, then those of the folders above."""
    found: list[ScriptFile] = []
    folder = parent(file.path)
    chain = [file]
    while True:
        above = next((build.scripts[p] for n in BUILD_SCRIPTS if (p := join(folder, n)) in build.scripts), None)
        if above and above not in chain:
            chain.append(above)
        if folder == build.folder or not folder:
            break
        folder = parent(folder)
    for script in chain:
        if script is not file:
            found.append(script)
        found.extend(_applied(script, build, tree, conventions))
    return found


def _applied(file: ScriptFile, build: Build, tree: Tree, conventions: dict[str, ScriptFile]) -> list[ScriptFile]:
    """Return the scripts that *file* takes in by ``apply from:``, and the convention plug-ins it applies."""
    found = []
    for item in file.settings:
        if item.full[-1] in ("id", "alias", "apply", "plugin"):
            ids = [text for token in item.value if (text := literal_text([token]))]
            found += [conventions[name] for name in ids if name in conventions and conventions[name] is not file]
        if item.full[-1] != "apply" or not any(token.text == "from" for token in item.value):
            continue
        name = next((text for token in item.value if (text := literal_text([token]))), "")
        for path in (_named(file, item, build, tree), join(build.folder, name)):
            data = tree.named_file(path)
            if data is not None:
                applied = _parse(path, data, build)
                if applied:
                    found.append(applied)
                break
    return found


def _named(file: ScriptFile, item: Setting, build: Build, tree: Tree) -> str:
    """Return the path of the script that ``apply from:`` names, or nothing."""
    at = next(index for index, token in enumerate(item.value) if token.text == "from") + 2
    found = item.value[at : item_end(item.value, at)]
    return Environment(file, constants=Constants(build.folder, tree)).path(found)


def _kind(file: ScriptFile, tree: Tree) -> str:
    """Say what a module builds whose scripts apply no plug-in of Android's; empty when it is none of Android."""
    names = {setting_path(item) for item in file.settings}
    if ("android", "defaultConfig", "applicationId") in names:
        return "application"
    if not any(path[0] == "android" for path in names):
        return ""
    manifest = tree.read(join(parent(file.path), "src/main/AndroidManifest.xml")) or b""
    return "application" if b"android.intent.category.LAUNCHER" in manifest else "library"


def _plugin_kind(file: ScriptFile, catalogs: dict[str, Catalog]) -> str:
    """Say what the plug-ins that a script applies build; empty where none is Android's."""
    for item in file.settings:
        if item.full[-1] not in ("id", "alias", "apply", "plugin"):
            continue
        texts = [token.text for token in item.value]
        if "false" in texts:
            continue
        ids = [text for token in item.value if (text := literal_text([token]))]
        dotted = "".join(texts)
        for name, catalog in catalogs.items():
            accessor = dotted.removeprefix(f"{name}.plugins.")
            if accessor != dotted and accessor in catalog.plugins:
                ids.append(catalog.plugins[accessor])
        for plugin in ids:
            if plugin in _PLUGINS:
                return _PLUGINS[plugin]
    return ""


def _properties(build: Build, folder: str, tree: Tree) -> list[tuple[str, Properties]]:
    """Return the ``gradle.properties`` that a module sees, the winning one (the build's own) first."""
    found = []
    for place in dict.fromkeys((build.folder, folder)):
        path = join(place, "gradle.properties")
        data = tree.named_file(path)
        if data is not None:
            read = guarded(path, build.faults, lambda data=data: parse_properties(data))  # type: ignore[misc]
            found += [(path, read)] if read is not None else []
    return found
