"""The kind "react-native": a component that both native halves ask for by name.

Source of the rules: React Native documentation, "AppRegistry" (the registered key), "Integration with existing apps".
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator

from onomaxis import late
from onomaxis.formats.source import Source, flat
from onomaxis.model import Disagreement, Facet, Value
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import span_edit
from onomaxis.projects.frameworks.files import Files, value_edit
from onomaxis.projects.frameworks.hybrid import HybridKind
from onomaxis.projects.frameworks.npm import has_dependency, npm_rename, packages
from onomaxis.projects.project import Flavor, Project
from onomaxis.tree import Tree, join

# Where native code asks for the component, in every spelling of the framework's templates, old and new.
_ASKED = {
    (".kt", ".java"): (
        r"getMainComponentName\s*\(\s*\)[^\"{]*(?:\{\s*return\s*)?\"(?P<value>[^\"\n]+)\"",
        r"mainComponentName[^\"\n]*=\s*\"(?P<value>[^\"\n]+)\"",
    ),
    (".swift", ".m", ".mm"): (
        r"(?:withModuleName|moduleName)\s*[:=]\s*@?\"(?P<value>[^\"\n]+)\"",
        r"RCTAppSetupDefaultRootView\([^\"\n]*@\"(?P<value>[^\"\n]+)\"",
    ),
}
# reactnative.dev, "Using Codegen": the package of the code that is made of a library's specification.
_SPEC_PACKAGE = ("codegenConfig", "android", "javaPackageName")
_REGISTERED = r"registerComponent\(\s*(?P<quote>[\"'])(?P<value>[^\"'\n]+)(?P=quote)"


class ReactNativeKind(HybridKind):
    """Reads React Native projects with native halves."""

    name = "react-native"
    manifests = (("package.json", rb'(?s)\A(?!.*"expo"\s*:).*"react-native(?:-tvos|-macos)?"\s*:'),)

    def roots(self, tree: Tree) -> Iterable[str]:
        """Return the folders whose package depends on the framework and that have an app configuration.

        Those of libraries, too, which say what package their native half is found in.
        """
        for folder, document in packages(tree):
            native = has_dependency(document, "react-native", "react-native-tvos", "react-native-macos")
            files = Files(tree, folder)
            named = native and (files.json_value("app.json", "name") or files.faults)
            linked = files.json_value("package.json", *_SPEC_PACKAGE) or files.data("react-native.config.js")
            library = linked and document.top.get("peerDependencies", "react-native") is not None
            if (named or library) and not has_dependency(document, "expo"):
                yield folder

    def read(self, files: Files) -> None:
        """Read the shown name; compare the component's name wherever it is registered and asked for."""
        files.own(Facet.DISPLAY_NAME, files.json_value("app.json", "displayName"))
        files.own(Facet.CODE_PACKAGE, files.json_value("package.json", *_SPEC_PACKAGE))
        files.disagreements += _unequal(files)

    def add_flavor(self, project: Project, tree: Tree, flavor: Flavor, id_: str, shown: str) -> Draft:
        """Let the debug build of a flavor take its code from the packager: a variant that is not listed bundles it.

        Source: reactnative.dev, "React Native Gradle Plugin", ``debuggableVariants``: by default ``debug`` alone,
        which a build with flavors does not have. What several dimensions make together is listed as siblings are.
        """
        draft = super().add_flavor(project, tree, flavor, id_, shown)
        for path, source, block in _react_blocks(tree, project.folder):
            listed, names = _DEBUGGABLE.search(source.view, block), _debug_builds(flavor.name, source)
            if _SEVERAL.search(source.view):
                continue
            if listed is None:
                style = "listOf({})" if path.endswith(".kts") else "[{}]"
                quoted = ", ".join(f'"{name}"' for name in names)
                line = f"{source.newline}    debuggableVariants = {style.format(quoted)}"
                draft.edits.append(span_edit(path, source, block, block, line))
                continue
            held = listed[1].rstrip()
            quote = "'" if "'" in held else '"'
            new = [f"{quote}{name}{quote}" for name in names if f"{quote}{name}{quote}" not in held]
            at = listed.start(1) + len(held)
            more = ", ".join([*([""] if held.strip() else []), *new])
            draft.edits += [span_edit(path, source, at, at, more)] if new else []
        return draft

    def retire_flavor(self, project: Project, tree: Tree, flavor: Flavor) -> Draft:
        """Take the flavor's debug builds out of the variants that are listed, the list with its last ones."""
        draft = super().retire_flavor(project, tree, flavor)
        for path, source, block in _react_blocks(tree, project.folder):
            listed = _DEBUGGABLE.search(source.view, block)
            if listed is None:
                continue
            mine = {f"{quote}{name}{quote}" for name in _debug_builds(flavor.name, source) for quote in "\"'"}
            items = listed[1].split(",")
            kept = [item for item in items if item.strip() not in mine]
            if not kept:
                draft.edits.append(span_edit(path, source, listed.start() - len(source.newline), listed.end(), ""))
            elif len(kept) < len(items):
                text = ",".join(kept)
                text = text.lstrip() if kept[0] != items[0] else text
                draft.edits.append(span_edit(path, source, *listed.span(1), text))
        return draft

    def technical(self, files: Files, name: str, draft: Draft) -> None:
        """Give the component its new name everywhere at once, then the npm package."""
        component = re.sub(r"\W+", "", name, flags=re.ASCII) or name
        for value in component_names(files):
            if value.text != component and value.text != "main":
                draft.edits.append(value_edit(files.tree, value, component))
        npm_rename(files, name, draft)


_SEVERAL = late.compile(r"\bflavorDimensions\b[^\n,]{0,200},")
_REACT = late.compile(r"^react[ \t]*\{", re.MULTILINE)
_DEBUGGABLE = late.compile(
    r"^[ \t]*debuggableVariants[ \t]*=[ \t]*(?:\[|listOf\()([^\])]{0,5000})[\])]", re.MULTILINE
)


def _debug_builds(flavor: str, source: Source) -> list[str]:
    """Return what a flavor's builds for debugging are called; later templates have an optimized one."""
    names = [f"{flavor}Debug"]
    return [*names, f"{flavor}DebugOptimized"] if "ebugOptimized" in source.view else names


def _react_blocks(tree: Tree, folder: str) -> Iterator[tuple[str, Source, int]]:
    """Yield the build scripts of the Android half that set the framework's plugin up, and where that begins."""
    for name in ("android/app/build.gradle", "android/app/build.gradle.kts"):
        data = tree.named_file(join(folder, name))
        source = Source.read(data) if data else None
        found = _REACT.search(source.view) if source is not None else None
        if source is not None and found is not None:
            yield join(folder, name), source, found.end()


def component_names(files: Files) -> Iterator[Value]:
    """Yield every literal that names the registered component."""
    declared = files.json_value("app.json", "name")
    if declared is not None:
        yield declared
    for entry in ("index.js", "index.ts", "index.tsx", "index.android.js", "index.ios.js"):
        yield from files.matched(entry, _REGISTERED, "double")
    for endings, patterns in _ASKED.items():
        for name in files.below(*endings):
            data = files.data(name) or b""
            if any(word in flat(data) for word in (b"omponentName", b"oduleName", b"RootView")):
                for pattern in patterns:
                    yield from files.matched(name, pattern, "double")


def _unequal(files: Files) -> Iterator[Disagreement]:
    """Name components that differ: the app would show a blank screen."""
    found = list(component_names(files))
    if not found:
        return
    for value in found[1:]:
        if value.text != found[0].text:
            yield Disagreement(
                "components-differ",
                f"the component is {found[0].text} here and {value.text} there: the screen would stay blank",
                ((found[0].place.file, found[0].place.line), (value.place.file, value.place.line)),
            )
