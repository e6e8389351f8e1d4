"""The kind "capacitor": a web app in native shells, with ``capacitor.config``.

Source of the keys: Capacitor documentation, "Capacitor configuration" (appId, appName); Ionic, "ionic.config.json".
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from onomaxis.model import Facet, Value
from onomaxis.projects.frameworks.files import Files
from onomaxis.projects.frameworks.hybrid import HybridKind
from onomaxis.projects.frameworks.pages import config_copies, web_names
from onomaxis.projects.project import Project
from onomaxis.tree import Tree, parent

# Strings of the Android half that repeat what the configuration says.
_STRINGS = "android/app/src/main/res/values/strings.xml"
_REPEATED = (
    ("package_name", Facet.APPLICATION_ID),
    ("custom_url_scheme", Facet.APPLICATION_ID),
    ("title_activity_main", Facet.DISPLAY_NAME),
)
_KEYS = (("appId", Facet.APPLICATION_ID), ("appName", Facet.DISPLAY_NAME))
# Where the tools copy the configuration and the web page to.
_ANDROID, _IOS = "android/app/src/main/assets", "ios/App/App"
_CONFIGS = ("capacitor.config.ts", "capacitor.config.js", "capacitor.config.json")


class CapacitorKind(HybridKind):
    """Reads Capacitor and Ionic projects."""

    name = "capacitor"
    manifests = (("package.json", b""),)
    copies = tuple(f"{folder}/{name}" for folder in (_ANDROID, _IOS) for name in (_CONFIGS[2], "public/index.html"))
    scripts = _CONFIGS[:2]
    again = "build the web app and let the framework's tools copy it"

    def roots(self, tree: Tree) -> Iterable[str]:
        """Return the folders with a configuration; the tools' copies inside the native halves are none."""
        for path in tree.named(*_CONFIGS):
            folder = parent(path)
            if not folder.endswith(("/assets", "/App")):
                yield folder

    def read(self, files: Files) -> None:
        """Read ID and name from the configuration; what repeats the name follows."""
        files.keeps = "its tools look for the Xcode project under the name it has"
        for key, facet in _KEYS:
            for name in _CONFIGS[:2]:
                for condition, value in files.script_values(name, facet, key):
                    files.own(facet, value, flavor=condition)
            files.own(facet, files.json_value(_CONFIGS[2], key))
        for name in config_copies(files, _CONFIGS[2]):
            for key, facet in _KEYS:
                files.follow(facet, files.json_value(name, key), compared=True)
        files.follow(Facet.DISPLAY_NAME, files.json_value("ionic.config.json", "name"))
        web_names(files, "src", "www", "public", ".", f"{_ANDROID}/public", f"{_IOS}/public")

    def statements(self, project: Project, tree: Tree) -> Iterator[tuple[Facet, Value]]:
        """Yield what the Android half's strings repeat."""
        files = Files(tree, project.folder)
        document = files.xml(_STRINGS)
        if document is None:
            return
        for element in document.root.children:
            for name, facet in _REPEATED:
                value = files.content(_STRINGS, element, document) if element.value("name") == name else None
                if value is not None:
                    yield facet, value
