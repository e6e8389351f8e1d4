"""The kind "maui": a .NET project file that describes the app for every platform.

Source of the properties: Microsoft Learn, ".NET MAUI single project" (ApplicationId, ApplicationTitle,
ApplicationDisplayVersion, ApplicationVersion).
"""

from __future__ import annotations

from collections.abc import Iterable

from onomaxis.formats.xml import Element
from onomaxis.model import Facet, IconHome, Note
from onomaxis.projects.draft import Draft
from onomaxis.projects.drawn import DrawnIcon
from onomaxis.projects.frameworks.hybrid import EVERY, Files, HybridKind
from onomaxis.projects.frameworks.maui_icons import icon_home, name_icons
from onomaxis.projects.project import Project
from onomaxis.tree import Tree, parent

_PROPERTIES = {
    "ApplicationId": Facet.APPLICATION_ID,
    "ApplicationTitle": Facet.DISPLAY_NAME,
    "ApplicationDisplayVersion": Facet.VERSION_NAME,
    "ApplicationVersion": Facet.VERSION_CODE,
}


_PLIST_KEYS = {"CFBundleIdentifier": Facet.BUNDLE_ID, "CFBundleDisplayName": Facet.DISPLAY_NAME}


# The namespace of manifest attributes (developer.android.com, "<manifest>").
ANDROID = "http://schemas.android.com/apk/res/android"


class MauiKind(HybridKind):
    """Reads .NET MAUI projects."""

    name = "maui"

    def roots(self, tree: Tree) -> Iterable[str]:
        """Return the folders with a project file that uses the framework."""
        for path in tree.files:
            if path.endswith(".csproj") and b"<UseMaui>true" in (tree.read(path) or b""):
                yield parent(path)

    def read(self, files: Files) -> None:
        """Read the properties of every project file, those under a platform's condition first."""
        for name in list(files.below(".csproj")):
            document = files.xml(name) if "/" not in name else None
            for group in document.root.find("PropertyGroup") if document else ():
                for element in sorted(group.children, key=lambda item: not _platform(item, group)):
                    facet = _PROPERTIES.get(element.name)
                    value = files.content(name, element, document) if document and facet else None
                    if facet is not None and value is not None and "$(" not in value.text:
                        files.own(facet, value, _platform(element, group) or EVERY)
        home = icon_home(files)
        files.icons += [home] if home is not None else []
        self._copies(files)

    def name_icons(self, project: Project, tree: Tree, home: IconHome, drawn: DrawnIcon) -> Draft:
        """Let the items name the pictures that were drawn."""
        return name_icons(Files(tree, project.folder), drawn)

    def _copies(self, files: Files) -> None:
        """Take in what the platforms' own files repeat."""
        name = "Platforms/Android/AndroidManifest.xml"
        document = files.xml(name)
        if document is not None:
            package = files.attribute(name, document.root, "package", document.source)
            files.own(Facet.APPLICATION_ID, package, "android")
            for element in document.root.find("application"):
                label = files.attribute(name, element, "label", document.source, ANDROID)
                files.follow(Facet.DISPLAY_NAME, label)
        for folder in ("iOS", "MacCatalyst"):
            key = r"<key>{}</key>\s*<string>(?P<value>[^<$]*)</string>"
            plist = f"Platforms/{folder}/Info.plist"
            for entry, facet in (
                ("CFBundleIdentifier", Facet.BUNDLE_ID),
                ("CFBundleDisplayName", Facet.DISPLAY_NAME),
            ):
                for value in files.matched(plist, key.format(entry), "xml-text"):
                    files.own(facet, value, "ios")

    def technical(self, files: Files, name: str, draft: Draft) -> None:
        """Leave the project file's name: solutions and build scripts refer to it."""
        draft.notes.append(Note(files.folder or ".", "the project file and its solution keep their names"))


def _platform(element: Element, group: Element) -> str:
    condition = (element.value("Condition") + group.value("Condition")).lower()
    if "ios" in condition or "maccatalyst" in condition:
        return "ios"
    return "android" if "android" in condition else ""
