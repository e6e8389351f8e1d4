"""The kind "maui": a .NET project file that describes the app for every platform.

Source of the properties: Microsoft Learn, ".NET MAUI single project" (ApplicationId, ApplicationTitle,
ApplicationDisplayVersion, ApplicationVersion).
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence

from onomaxis.formats.source import flat
from onomaxis.model import Disagreement, Facet, IconHome, Mention, Note, Unresolved
from onomaxis.platforms import PLATFORMS
from onomaxis.projects.draft import Draft
from onomaxis.projects.drawn import DrawnIcon
from onomaxis.projects.frameworks.declared import list_facts, manifest_facts
from onomaxis.projects.frameworks.dotnet import Doubt, Properties, properties
from onomaxis.projects.frameworks.files import Files
from onomaxis.projects.frameworks.hybrid import HybridKind
from onomaxis.projects.frameworks.maui_icons import icon_home, name_icons
from onomaxis.projects.project import EVERY, AppFacts, Flavor, Project
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
            if path.endswith(".csproj") and _may_ship(flat(tree.read(path) or b"")):
                files = Files(tree, parent(path))
                if _project(files, parent(path), path):
                    yield parent(path)

    def read(self, files: Files) -> None:
        """Read what the project files say of each platform, with all that they import."""
        for name in list(files.below(".csproj")):
            if "/" in name or not _project(files, files.folder, files.path(name)):
                continue
            each = {platform: properties(files, name, platform) for platform in PLATFORMS}
            stated = each["android"].text("TargetFrameworks") or each["android"].text("TargetFramework")
            files.ships = tuple(platform for platform in each if f"-{platform}" in stated)
            for key, facet in _PROPERTIES.items():
                self._property(files, key, facet, each)
        home = icon_home(files)
        files.icons += [home] if home is not None else []
        self._copies(files)
        files.disagreements += _unlike(files.owners)

    def _property(self, files: Files, key: str, facet: Facet, each: Mapping[str, Properties]) -> None:
        found = {platform: item.get(key) for platform, item in each.items()}
        alike = len({(v.place.file, v.place.start) for v in found.values() if v is not None}) == 1 and all(
            found.values()
        )
        for platform, value in found.items():
            if isinstance(value, Doubt):
                spot = value.place
                fault = Unresolved(facet, spot.file, spot.line, spot.written, value.reason)
                files.faults += [fault] if fault not in files.faults else []
            elif not alike or platform == "android":
                files.own(facet, value, EVERY if alike else platform)
        owned = {item.place for item in files.owners}
        for value in each["android"].stated.get(key.casefold(), ()):
            if facet is Facet.DISPLAY_NAME and value.place not in owned:
                files.follow(facet, value)

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
                ("CFBundleShortVersionString", Facet.VERSION_NAME),
                ("CFBundleVersion", Facet.VERSION_CODE),
            ):
                for value in files.matched(plist, key.format(entry), "xml-text"):
                    files.own(facet, value, "ios")

    def facts(self, project: Project, tree: Tree, flavor: Flavor) -> AppFacts:
        """Return what the platform's own file declares."""
        files = Files(tree, project.folder)
        if project.platform == "ios":
            return list_facts(files, "Platforms/iOS/Info.plist")
        return manifest_facts(files, "Platforms/Android/AndroidManifest.xml")

    def technical(self, files: Files, name: str, draft: Draft) -> None:
        """Leave the project file's name: solutions and build scripts refer to it."""
        draft.notes.append(Note(files.folder or ".", "the project file and its solution keep their names"))


_SAID = {
    Facet.APPLICATION_ID: ("framework-id-differs", "ID"),
    Facet.BUNDLE_ID: ("framework-id-differs", "ID"),
    Facet.DISPLAY_NAME: ("framework-name-differs", "display name"),
    Facet.VERSION_NAME: ("framework-version-differs", "version"),
    Facet.VERSION_CODE: ("framework-build-differs", "build number"),
}


def _unlike(owners: Sequence[Mention]) -> Iterator[Disagreement]:
    """Name what a platform's own file says otherwise than the project file: which of the two wins is not told."""
    stated = [item for item in owners if item.place.file.endswith(".csproj") and not item.scope.locale]
    for item in owners:
        if item.facet not in _SAID or "/Platforms/" not in f"/{item.place.file}":
            continue
        code, label = _SAID[item.facet]
        above = next((o for o in stated if _SAID.get(o.facet, ("", ""))[0] == code), None)
        if above is not None and above.value != item.value and not item.value.startswith("@"):
            said = f"the {label} is {item.value} here, {above.value} in the project file"
            places = ((item.place.file, item.place.line), (above.place.file, above.place.line))
            yield Disagreement(code, said, places)


def _may_ship(data: bytes) -> bool:
    """Tell whether a project file can be an app's for a phone: it names the framework, a platform or an ID."""
    return any(word in data for word in (b"UseMaui", b"Maui", b"-android", b"-ios", b"ApplicationId"))


def _project(files: Files, folder: str, path: str) -> bool:
    """Tell whether a project file uses the framework, as its build evaluates it."""
    name = path[len(folder) + 1 if folder else 0 :]
    return properties(files, name, "android").text("UseMaui").casefold() == "true"
