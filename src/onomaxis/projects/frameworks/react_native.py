"""The kind "react-native": a component that both native halves ask for by name.

Source of the rules: React Native documentation, "AppRegistry" (the registered key), "Integration with existing apps".
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator

from onomaxis.formats.source import flat
from onomaxis.model import Disagreement, Facet, Value
from onomaxis.projects.draft import Draft
from onomaxis.projects.frameworks.files import Files, value_edit
from onomaxis.projects.frameworks.hybrid import HybridKind
from onomaxis.projects.frameworks.npm import has_dependency, npm_rename, packages
from onomaxis.tree import Tree

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
_REGISTERED = r"registerComponent\(\s*(?P<quote>[\"'])(?P<value>[^\"'\n]+)(?P=quote)"


class ReactNativeKind(HybridKind):
    """Reads React Native projects with native halves."""

    name = "react-native"
    manifests = (("package.json", rb'(?s)\A(?!.*"expo"\s*:).*"react-native(?:-tvos|-macos)?"\s*:'),)

    def roots(self, tree: Tree) -> Iterable[str]:
        """Return the folders whose package depends on the framework and that have an app configuration."""
        for folder, document in packages(tree):
            native = has_dependency(document, "react-native", "react-native-tvos", "react-native-macos")
            files = Files(tree, folder)
            named = native and (files.json_value("app.json", "name") or files.faults)
            if named and not has_dependency(document, "expo"):
                yield folder

    def read(self, files: Files) -> None:
        """Read the shown name; compare the component's name wherever it is registered and asked for."""
        files.own(Facet.DISPLAY_NAME, files.json_value("app.json", "displayName"))
        files.own(Facet.CODE_PACKAGE, files.json_value("package.json", "codegenConfig", "android", "javaPackageName"))
        files.disagreements += _unequal(files)

    def technical(self, files: Files, name: str, draft: Draft) -> None:
        """Give the component its new name everywhere at once, then the npm package."""
        component = re.sub(r"\W+", "", name, flags=re.ASCII) or name
        for value in component_names(files):
            if value.text != component and value.text != "main":
                draft.edits.append(value_edit(files.tree, value, component))
        npm_rename(files, name, draft)


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
