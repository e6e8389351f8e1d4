"""The kind "cordova": a web app described by ``config.xml``; native halves are generated, unless they are kept.

Source of the rules: Apache Cordova documentation, "Config.xml" (widget, name, preferences, icon and splash elements).
"""

from __future__ import annotations

from collections.abc import Iterable

from onomaxis import late
from onomaxis.formats.source import flat
from onomaxis.formats.xml import Element, XmlDocument, new_child
from onomaxis.model import Facet, IconHome, Opening, Scope, Tile
from onomaxis.platforms import DENSITIES, FACTORS
from onomaxis.projects.draft import Draft
from onomaxis.projects.drawn import DrawnIcon
from onomaxis.projects.edits import span_edit
from onomaxis.projects.frameworks.declared import preference_facts
from onomaxis.projects.frameworks.files import Files
from onomaxis.projects.frameworks.hybrid import HybridKind
from onomaxis.projects.frameworks.npm import npm_rename
from onomaxis.projects.frameworks.pages import config_copies, web_names
from onomaxis.projects.project import EVERY, AppFacts, Flavor, Project, place
from onomaxis.tree import Tree, inside, parent

_ATTRIBUTES = (
    ("ios-CFBundleIdentifier", Facet.BUNDLE_ID, "ios"),
    ("android-packageName", Facet.APPLICATION_ID, "android"),
    ("id", Facet.APPLICATION_ID, EVERY),
    ("version", Facet.VERSION_NAME, EVERY),
    ("ios-CFBundleVersion", Facet.VERSION_CODE, "ios"),
    ("android-versionCode", Facet.VERSION_CODE, "android"),
)


# Where the tools copy the web page to.
_PAGES = ("platforms/android/app/src/main/assets/www", "platforms/ios/www", "platforms/browser/www")
# Attributes of an icon element for Android's adaptive layers; a colour instead of a picture stays.
_LAYERS = ("foreground", "background", "monochrome")


# Android's pictures at one dp for each pixel: an icon, and each of the adaptive layers.
_PLAIN, _LAYER = 48, 108
# What is written where the configuration names no picture: one for all platforms, and Android's by density, without
# which its tools cannot take layers (cordova.apache.org, "Customize icons": density).
_OFFERED = (
    ("res/launcher/all.png", 1024, "full", "all 1024", "", "src", ""),
    *(
        (
            f"res/launcher/android{end}-{density}.png",
            round(edge * factor),
            shape,
            f"android {density}",
            "android",
            key,
            density,
        )
        for density, factor in DENSITIES
        for end, edge, shape, key in (
            ("", _PLAIN, "rounded", "src"),
            *((f"-{layer}", _LAYER, layer, layer) for layer in _LAYERS),
        )
    ),
)


_WIDGET = late.compile(rb"<widget\s[^>]*?\b(?:id|ios-CFBundleIdentifier|android-packageName)\s*=")


class CordovaKind(HybridKind):
    """Reads Cordova projects."""

    name = "cordova"
    manifests = (("package.json", b""),)
    copies = ("platforms/android/app/build.gradle", "platforms/android/app/src/main/res/xml/config.xml")
    again = "let the framework's tools prepare the platforms again"

    def roots(self, tree: Tree) -> Iterable[str]:
        """Return the folders whose ``config.xml`` describes a widget; copies in the native halves are none.

        Those lie in ``platforms``, among an Android app's resources, beside an app's Info.plist, or name no ID.
        """
        for path in tree.named("config.xml"):
            data = flat(tree.read(path) or b"")
            folder = parent(path)
            copied = "platforms/" in f"{folder}/" or folder.endswith("/res/xml")
            copied = copied or any(
                name.endswith("Info.plist") and parent(name) == folder for name in tree.below(folder)
            )
            if _WIDGET.search(data) and b"w3.org/ns/widgets" in data and not copied:
                yield folder

    def read(self, files: Files) -> None:
        """Read IDs, versions and name; the pictures listed per platform are filled by the icon rooms."""
        files.keeps = "its tools make the Xcode project again, named after the display name"
        document = files.xml("config.xml")
        if document is None:
            return
        root = document.root
        for key, facet, platform in _ATTRIBUTES:
            files.own(facet, files.attribute("config.xml", root, key, document.source), platform)
        for key, facet, platform in _ATTRIBUTES:
            last = root.attribute("version") or root.attribute("id")
            if facet is Facet.VERSION_CODE and root.attribute(key) is None and last is not None:
                spot = place(files.path("config.xml"), document.source, last.end + 1, last.end + 1, "xml-double")
                scope = Scope(platform, files.folder)
                files.openings.append(Opening(facet, spot, f' {key}="', '"', scope, key))
        _offer_ids(files, root, document)
        # "Config.xml": android-versionCode, ios-CFBundleVersion.
        files.derive_builds(files.attribute("config.xml", root, "version", document.source), (10000, 100, 1))
        for element in root.find("name"):
            files.own(Facet.DISPLAY_NAME, files.content("config.xml", element, document))
            files.follow(Facet.DISPLAY_NAME, files.attribute("config.xml", element, "short", document.source))
        files.follow(Facet.DISPLAY_NAME, files.json_value("package.json", "displayName"))
        for name in config_copies(files, "config.xml"):
            self._copy(files, name)
        web_names(files, "www", "src", *_PAGES)
        icons = [icon for holder in (root, *root.find("platform")) for icon in holder.find("icon")]
        named = [name for icon in icons for key in ("src", *_LAYERS) if (name := icon.value(key))]
        tiles = list(_tiles(files, root))
        undrawn = [name for name in named if name[:1] not in "@#" and files.path(name) not in {t.file for t in tiles}]
        tiles = tiles or [
            Tile(files.path(name), edge, edge, shape, slot, offered=(platform, key, density))
            for name, edge, shape, slot, platform, key, density in _OFFERED
            if not named and files.data(name) is None
        ]
        if tiles or undrawn:
            home = IconHome(
                "tiles",
                "cordova",
                files.folder.rpartition("/")[2] or "app",
                "",
                files.folder,
                "icons of config.xml",
                tiles=tuple({tile.file: tile for tile in tiles}.values()),
                undrawn=tuple(dict.fromkeys(undrawn)),
            )
            files.icons.append(home)

    def _copy(self, files: Files, name: str) -> None:
        """Take in what a copy of the configuration repeats."""
        document = files.xml(name)
        if document is None or document.root.name != "widget":
            return
        for key, facet, _ in _ATTRIBUTES:
            files.follow(facet, files.attribute(name, document.root, key, document.source), compared=True)
        for element in document.root.find("name"):
            files.follow(Facet.DISPLAY_NAME, files.content(name, element, document), compared=True)

    def name_icons(self, project: Project, tree: Tree, home: IconHome, drawn: DrawnIcon) -> Draft:
        """Write icon elements for the pictures that the configuration does not name yet."""
        files, draft = Files(tree, project.folder), Draft()
        document = files.xml("config.xml")
        named: dict[tuple[str, str], list[str]] = {}
        for tile in home.tiles:
            if tile.offered and tile.file in drawn.files:
                platform, key, density = tile.offered
                relative = tile.file[len(files.folder) + 1 if files.folder else 0 :]
                first = [f'density="{density}"'] if density else []
                named.setdefault((platform, density), first).append(f'{key}="{relative}"')
        if document is None or not named:
            return draft
        root = document.root
        lines = {key: f"<icon {' '.join(said)} />" for key, said in named.items()}
        common = [line for (platform, _), line in lines.items() if not platform]
        android = [line for (platform, _), line in lines.items() if platform]
        holder = next((item for item in root.find("platform") if item.value("name") == "android"), None)
        if android and holder is None:
            common += ['<platform name="android">', *(f"    {line}" for line in android), "</platform>"]
        for element, inner in ((holder, android), (root, common)):
            if element is not None and inner:
                start, end, text = new_child(document, element, "\n".join(inner))
                draft.edits.append(span_edit(files.path("config.xml"), document.source, start, end, text, Facet.ICON))
        return draft

    def facts(self, project: Project, tree: Tree, flavor: Flavor) -> AppFacts:
        """Return what the preferences set for a platform."""
        files = Files(tree, project.folder)
        return preference_facts(files, "config.xml") if project.platform == "android" else AppFacts()

    def technical(self, files: Files, name: str, draft: Draft) -> None:
        """Change the npm package; native projects are named after the display name."""
        npm_rename(files, name, draft)


def _offer_ids(files: Files, root: Element, document: XmlDocument) -> None:
    """Offer the spot where a platform's own ID goes: behind the one for all."""
    shared = root.attribute("id")
    for key, facet, platform in _ATTRIBUTES[:2]:
        if shared is not None and root.attribute(key) is None:
            spot = place(files.path("config.xml"), document.source, shared.end + 1, shared.end + 1, "xml-double")
            files.openings.append(Opening(facet, spot, f' {key}="', '"', Scope(platform, files.folder), key))


def _tiles(files: Files, root: Element) -> Iterable[Tile]:
    for holder in (root, *root.find("platform")):
        platform = holder.value("name") if holder is not root else "all"
        for icon in holder.find("icon"):
            plain = "rounded" if platform == "android" else "full"
            for key, shape in (("src", plain), *((layer, layer) for layer in _LAYERS)):
                name = icon.value(key)
                stated = icon.value("width") or icon.value("height")
                factor = FACTORS.get(icon.value("density"))
                if factor is not None and not stated:
                    stated = str(round((_PLAIN if key == "src" else _LAYER) * factor))
                edge = stated or ("432" if key != "src" else "192" if platform == "android" else "1024")
                if name.endswith(".png") and inside(name) and edge.isdecimal() and int(edge) > 0:
                    yield Tile(
                        files.path(name), int(edge), int(edge), shape, f"{platform} {edge}", least=0 if stated else 48
                    )
