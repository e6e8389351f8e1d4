"""The kind "nativescript": ``nativescript.config`` and ``App_Resources``; native projects are generated.

Source of the keys: NativeScript documentation, "nativescript.config.ts" (id) and "App_Resources".
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence

from onomaxis.formats.escapes import decode_android, encode
from onomaxis.formats.plist import parse_plist
from onomaxis.model import Facet, IconHome, Opening, Piece, Scope, Value
from onomaxis.platforms import ANDROID_NS
from onomaxis.projects.draft import Draft
from onomaxis.projects.frameworks.files import ID_OF, Files, single
from onomaxis.projects.frameworks.hybrid import HybridKind
from onomaxis.projects.frameworks.npm import has_dependency, packages
from onomaxis.projects.project import Project, guarded, place
from onomaxis.tree import Tree, join, parent
from onomaxis.wishes import Renaming, Wish

_CONFIGS = ("nativescript.config.ts", "nativescript.config.js")
_PLIST_KEYS = {
    "CFBundleDisplayName": (Facet.DISPLAY_NAME, "ios"),
    "CFBundleShortVersionString": (Facet.VERSION_NAME, "ios"),
    "CFBundleVersion": (Facet.VERSION_CODE, "ios"),
}


# Where Android's resources stand: as Gradle lays them, and as the framework's first versions did, with the version in
# the manifest.
_LAYOUTS = ("src/main/", "")
_MANIFEST_KEYS = {"versionName": Facet.VERSION_NAME, "versionCode": Facet.VERSION_CODE}
# What the framework's manifest calls the application's and the activity's label.
_NAMES = ("app_name", "title_activity_kimera")


class NativeScriptKind(HybridKind):
    """Reads NativeScript projects."""

    name = "nativescript"
    scripts = _CONFIGS
    manifests = (
        ("package.json", rb'"nativescript"\s*:\s*\{[^{}]*"id"\s*:|"(?:@nativescript/core|tns-core-modules)"\s*:'),
    )

    def roots(self, tree: Tree) -> Iterable[str]:
        """Return the folders with a configuration, or whose ``package.json`` holds an ID for the framework.

        A template has neither: its resources, and what it depends on, tell it. The tools write its configuration.
        """
        for path in tree.named(*_CONFIGS):
            yield parent(path)
        for folder, document in packages(tree):
            depends = has_dependency(document, "@nativescript/core", "tns-core-modules")
            resources = (join(folder, name) for name in ("App_Resources", "app/App_Resources"))
            template = depends and any(next(tree.below(path), None) for path in resources)
            if template or document.top.get("nativescript", "id") is not None:
                yield folder

    def read(self, files: Files) -> None:
        """Read the ID, then versions and names where each platform's resources state them."""
        for name in _CONFIGS:
            for platform in ("ios", "android"):
                facet = Facet.BUNDLE_ID if platform == "ios" else Facet.APPLICATION_ID
                for variant, value in files.script_values(name, facet, platform, "id"):
                    files.own(facet, value, platform, flavor=variant)
            for variant, value in files.script_values(name, Facet.APPLICATION_ID, "id"):
                files.own(Facet.APPLICATION_ID, value, flavor=variant)
            self._offer_ids(files, name)
        files.own(Facet.APPLICATION_ID, files.json_value("package.json", "nativescript", "id"))
        for resources in ("App_Resources", "app/App_Resources"):
            self._resources(files, resources)
            self._icons(files, resources)

    def _offer_ids(self, files: Files, name: str) -> None:
        """Offer the spot where a platform's own ID goes: in its object, which is made where it is missing."""
        file = files.script(name)
        holders = [item for item in file.objects() if item.find(["id"])] if file is not None else []
        for platform, facet in ID_OF.items():
            if file is None or not holders or any(file.members(platform, "id")):
                continue
            inner = next(file.objects(platform), None)
            at, before, after = file.opening(inner or holders[0], "id" if inner else platform)
            if inner is None:
                quote = before[-1]
                before, after = f"{before[:-1]}{{ id: {quote}", f"{quote} }}{after[1:]}"
            spot = place(files.path(name), file.source, at, at, "single")
            files.openings.append(Opening(facet, spot, before, after, Scope(platform, files.folder), "id"))

    def follow(self, project: Project, tree: Tree, renamings: Sequence[Renaming], aim: Wish) -> Draft:
        """Create the string that names the app on Android, where the resources have none yet."""
        draft = super().follow(project, tree, renamings, aim)
        if aim.name is None or project.platform != "android" or any(app.name for app in project.apps):
            return draft
        for folder in ("App_Resources", "app/App_Resources"):
            values = join(project.folder, f"{folder}/Android/src/main/res/values")
            if next(tree.below(values), None) and not tree.exists(f"{values}/strings.xml"):
                text = encode("android-text", aim.name)
                lines = "".join(f'    <string name="{key}">{text}</string>\n' for key in _NAMES)
                head = '<?xml version="1.0" encoding="utf-8"?>\n'
                data = f"{head}<resources>\n{lines}</resources>\n".encode()
                draft.created.append((f"{values}/strings.xml", data))
        return draft

    def _icons(self, files: Files, folder: str) -> None:
        """Declare the icon of each platform, as the framework's manifest and build settings name it."""
        label = files.folder.rpartition("/")[2] or files.tree.root.name
        res, icon_set = f"{folder}/Android/src/main/res", f"{folder}/iOS/Assets.xcassets/AppIcon.appiconset"
        manifest = files.data(f"{folder}/Android/src/main/AndroidManifest.xml") or b""
        name = re.search(rb'android:icon="@([a-z]+/\w+)"', manifest)
        if next(files.tree.below(files.path(res)), None) is not None and name:
            home = IconHome("android-resource", "android", label, "", files.path(res), name[1].decode(), lowest=21)
            files.icons.append(home)
        if files.data(f"{icon_set}/Contents.json"):
            families = ("iphone", "ipad")
            folder = files.path(icon_set)
            files.icons.append(IconHome("asset-catalog", "ios", label, "", folder, "AppIcon", families=families))

    def _resources(self, files: Files, folder: str) -> None:
        gradle = f"{folder}/Android/app.gradle"
        for facet, key in ((Facet.VERSION_NAME, "versionName"), (Facet.VERSION_CODE, "versionCode")):
            pattern = rf"^\s*{key}\s*=?\s*(?P<quote>[\"']?)(?P<value>[^\"'\s]+)(?P=quote)"
            for value in files.matched(gradle, pattern, "raw"):
                files.own(facet, value, "android")
        for value in files.matched(gradle, r"^\s*applicationId\s*=?\s*[\"'](?P<value>[\w.]+)[\"']", "raw"):
            files.own(Facet.APPLICATION_ID, value, "android")
        for layout in _LAYOUTS:
            manifest = f"{folder}/Android/{layout}AndroidManifest.xml"
            document = files.xml(manifest)
            for key, facet in _MANIFEST_KEYS.items() if document is not None else ():
                if document is not None:
                    said = files.attribute(manifest, document.root, key, document.source, ANDROID_NS)
                    files.own(facet, said, "android")
            for element in self._strings(files, f"{folder}/Android/{layout}res/values/strings.xml"):
                files.own(Facet.DISPLAY_NAME, element, "android")
        name = f"{folder}/iOS/Info.plist"
        data = files.data(name)
        plist = guarded(files.path(name), files.faults, lambda: parse_plist(data)) if data else None
        for key, (facet, platform) in _PLIST_KEYS.items():
            entry = plist.string(key) if plist else None
            if plist is not None and entry is not None:
                spot = place(files.path(name), plist.document.source, entry.start, entry.end, entry.syntax)
                # ${PRODUCT_NAME} is what the tools call the project: by its folder
                label = files.folder.rpartition("/")[2] or files.tree.root.name
                computed = "$(" in entry.value or "${" in entry.value
                value = Value((Piece(label),), spot) if computed else single(entry.value, spot)
                files.own(facet, value, platform)

    def _strings(self, files: Files, name: str) -> Iterable[Value]:
        document = files.xml(name)
        for element in document.root.find("string") if document else ():
            if element.value("name") in _NAMES:
                value = files.content(name, element, document) if document else None
                if value is not None:  # the resource syntax has escapes of its own
                    syntax = value.place.syntax.replace("xml-", "android-")
                    yield single(decode_android(value.text), value.place._replace(syntax=syntax))
