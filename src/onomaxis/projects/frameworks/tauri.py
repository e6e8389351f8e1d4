"""The kind "tauri": ``tauri.conf.json``; the mobile halves are generated below ``gen``.

Source of the keys: Tauri documentation, "Configuration" (identifier, productName, version; version 1 below "tauri"),
"Configuration Files" (a platform's own file is merged over the one for all).
"""

from __future__ import annotations

from collections.abc import Iterable

from onomaxis import late
from onomaxis.model import Facet, IconHome, Tile, Value
from onomaxis.projects.frameworks.files import ID_OF, Files
from onomaxis.projects.frameworks.hybrid import HybridKind
from onomaxis.projects.frameworks.pages import web_names
from onomaxis.projects.project import Project
from onomaxis.tree import Tree, inside, parent
from onomaxis.wishes import Wish

_CONFIG = "tauri.conf.json"
# A platform's own file, and where it has its build number.
_HALVES = {
    "android": ("tauri.android.conf.json", ("bundle", "android", "versionCode")),
    "ios": ("tauri.ios.conf.json", ("bundle", "iOS", "bundleVersion")),
}
# The build number that the tools make of a version: "bundle > android > versionCode", "bundle > iOS > bundleVersion".
_WEIGHTS = (1_000_000, 1_000, 1)
# doc.rust-lang.org, "The Manifest Format": in the package's own table; one that a workspace gives is not followed.
_CRATE_VERSION = r"^\[package\][^\S\n]*(?:\n(?!\[)[^\n]*)*?\nversion[^\S\n]*=[^\S\n]*\"(?P<value>[^\"\n]+)\""
_KEYS = (
    (("identifier",), Facet.APPLICATION_ID),
    (("tauri", "bundle", "identifier"), Facet.APPLICATION_ID),
    (("productName",), Facet.DISPLAY_NAME),
    (("package", "productName"), Facet.DISPLAY_NAME),
)
_VERSIONS = (("version",), ("package", "version"))
_EDGES = {"32x32.png": 32, "64x64.png": 64, "128x128.png": 128, "128x128@2x.png": 256, "icon.png": 512}
# Microsoft, "Construct your Windows app's icon": logos of the store's package, named after their edge.
_LOGO = late.compile(r"(?:Square(\d{2,4})x\d{2,4}|Store)Logo\.png")
# Apple, "Icon Services": what an .icns file holds.
_ICNS = (32, 64, 128, 256, 512, 1024)
_ICO = (16, 24, 32, 48, 64, 256)


class TauriKind(HybridKind):
    """Reads Tauri projects."""

    name = "tauri"
    manifests = (("package.json", b""),)

    def roots(self, tree: Tree) -> Iterable[str]:
        """Return the folders that hold the folder with the configuration."""
        for path in tree.named(_CONFIG):
            yield parent(parent(path)) if parent(path).endswith("src-tauri") else parent(path)

    def read(self, files: Files) -> None:
        """Read the configuration, window titles and the list of icons."""
        files.keeps = "its tools make the Xcode project below gen again"
        name = next((item for item in (f"src-tauri/{_CONFIG}", _CONFIG) if files.data(item)), _CONFIG)
        for path, facet in _KEYS:
            files.own(facet, files.json_value(name, *path))
        crate = next(files.matched(_crate(parent(name)), _CRATE_VERSION, "raw"), None)
        files.derive_builds(files.own(Facet.VERSION_NAME, _version(files, name) or crate), _WEIGHTS)
        for platform, (base, build) in _HALVES.items():
            own = f"{parent(name)}/{base}" if parent(name) else base
            for path, facet in _KEYS:
                told = ID_OF[platform] if facet is Facet.APPLICATION_ID else facet
                files.own(told, files.json_value(own, *path), platform)
            version = files.own(Facet.VERSION_NAME, _version(files, own), platform)
            files.derive_builds(version, _WEIGHTS, (platform,))
            for file in (name, own):
                files.own(Facet.VERSION_CODE, files.json_value(file, *build), platform)
            files.offer(name, build, Facet.VERSION_CODE, platform, platform == "android")
        document = files.json(name)
        for start in (("app", "windows"), ("tauri", "windows")):
            windows = document.top.get(*start) if document else None
            for window in windows.items if windows is not None else ():
                title = window.get("title")
                if document is not None and title is not None and title.kind == "string":
                    files.follow(Facet.DISPLAY_NAME, files.string_at(name, document, title))
        for value in files.matched(_crate(parent(name)), r"^name *= *\"(?P<value>[\w-]+)\"", "raw"):
            files.label = value.text
            break
        web_names(files, "src", ".", "public")
        lists = [document.top.get(*at, "bundle", "icon") for at in ((), ("tauri",))] if document else []
        names = [str(item.value) for found in lists if found is not None for item in found.items]
        beside = sorted({f"{parent(icon)}/" for icon in names})
        lead = len(parent(name)) + 1 if parent(name) else 0
        names += [path[lead:] for path in files.below("Logo.png") if path[lead:].startswith(tuple(beside))]
        found = [tile for icon in dict.fromkeys(names) for tile in _tile(files, parent(name), icon)]
        tiles = list({tile.file: tile for tile in found}.values())
        if tiles:
            where = files.path(parent(name))
            label = files.label or "app"
            drawn = {tile.file for tile in tiles}
            listed = [files.path(f"{parent(name)}/{icon}" if parent(name) else icon) for icon in dict.fromkeys(names)]
            undrawn = tuple(path for path in listed if path not in drawn)
            home = IconHome("tiles", "tauri", label, "", where, "bundle icons", tiles=tuple(tiles), undrawn=undrawn)
            files.icons.append(home)

    def opens_first(self, project: Project, aim: Wish) -> Iterable[tuple[Facet, str]]:
        """Let Android's build number as it is today open "bundle" where that of iOS goes there too."""
        today = next((app.build.text for app in project.apps if app.build is not None), "")
        shut = project.platform == "android" and any('"bundle"' in item.before for item in project.openings)
        if shut and aim.build and today:
            yield Facet.VERSION_CODE, today


def _crate(folder: str) -> str:
    return f"{folder or '.'}/Cargo.toml"


def _version(files: Files, name: str) -> Value | None:
    """Return the version that a configuration states: its own, or that of the package file it names."""
    said = next(filter(None, (files.json_value(name, *path) for path in _VERSIONS)), None)
    if said is not None and said.text.endswith(".json"):
        return files.json_value(f"{parent(name)}/{said.text}", "version")
    return said


def _tile(files: Files, folder: str, name: str) -> Iterable[Tile]:
    base = name.rpartition("/")[2]
    path = files.path(f"{folder}/{name}" if folder else name)
    if base in _EDGES and inside(name):
        yield Tile(path, _EDGES[base], _EDGES[base], "card", f"bundle {_EDGES[base]}")
    elif (square := _LOGO.fullmatch(base)) and inside(name):
        edge = int(square[1] or 50)
        yield Tile(path, edge, edge, "rounded", f"store logo {edge}")
    elif base.endswith(".icns") and inside(name):
        yield Tile(path, 1024, 1024, "card", "bundle icns", "icns", _ICNS, least=128)
    elif base.endswith(".ico") and inside(name):
        yield Tile(path, 256, 256, "rounded", "bundle ico", "ico", _ICO, least=16)
