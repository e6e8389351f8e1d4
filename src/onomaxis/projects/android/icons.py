"""Where an Android module keeps its launcher icons and its TV banner: of the app itself and of each flavor.

Source of the rules: developer.android.com, "<application>" (icon, roundIcon, banner) and "Build banners for TV".
"""

from __future__ import annotations

from collections.abc import Iterator

from onomaxis.formats.xml import Attribute, Element
from onomaxis.model import Facet, IconHome, Tile
from onomaxis.platforms import ANDROID_NS, FACTORS
from onomaxis.projects.android import variants
from onomaxis.projects.android.apps import ModuleReader
from onomaxis.projects.android.manifest import Manifest
from onomaxis.tree import Tree, join, parent

# A banner is 160 x 90 dp, and 320 x 180 pixels are asked for (xhdpi).
_BANNER_DP = (160, 90)


def icon_homes(reader: ModuleReader) -> Iterator[IconHome]:
    """Yield the homes of the app's icon and banner, and of those that each flavor has or would have."""
    main = next(_of_flavor(reader, ""), None)
    if main is None:
        return
    yield main
    yield from _banners(reader, "", main.folder)
    for flavor in (*variants.flavor_names(reader.module), *_combinations(reader)):
        for home in _of_flavor(reader, flavor):
            yield home
            yield from _banners(reader, flavor, home.folder)


def _combinations(reader: ModuleReader) -> Iterator[str]:
    """Yield the combinations of flavors that have resources of their own."""
    for variant in variants.variants(reader.module):
        folders = reader.table(reader.module, variant.name).folders if len(variant.flavors) > 1 else ()
        if any(True for folder in folders for _ in reader.tree.below(folder)):
            yield variant.name


def _of_flavor(reader: ModuleReader, flavor: str) -> Iterator[IconHome]:
    """Yield the icon that the manifest of a flavor names, else the main one, in the flavor's own resources."""
    found = _named(reader, flavor, "icon")
    if found is None:
        return
    manifest, application, attribute = found
    value = variants.manifest_value(reader.module, manifest, attribute, (flavor,) if flavor else ())
    kind, _, name = value.text.removeprefix("@").partition("/")
    if kind not in ("mipmap", "drawable") or not name:
        return
    rounded = application.attribute("roundIcon", ANDROID_NS)
    round_name = (
        variants.manifest_value(reader.module, manifest, rounded, (flavor,) if flavor else ()).text if rounded else ""
    )
    setting = reader.module.find("defaultConfig", "minSdk") or reader.module.find("defaultConfig", "minSdkVersion")
    lowest = variants.evaluate(reader.module, setting, Facet.ICON, [])
    yield IconHome(
        "android-resource",
        "android",
        reader.module.name,
        flavor,
        _folder(reader, flavor, manifest, kind, name),
        f"{kind}/{name}",
        value.origin,
        round_name.rpartition("/")[2],
        int(lowest.text) if lowest and lowest.text.isdecimal() else 0,
    )


def _named(reader: ModuleReader, flavor: str, attribute: str) -> tuple[Manifest, Element, Attribute] | None:
    """Return the manifest that says an attribute of the application: the flavor's, else the main one."""
    for source_set in dict.fromkeys((flavor or "main", "main")):
        manifest = reader.manifest(source_set)
        application = manifest.application if manifest else None
        found = application.attribute(attribute, ANDROID_NS) if application is not None else None
        if manifest is not None and application is not None and found is not None:
            return manifest, application, found
    return None


def _folder(reader: ModuleReader, flavor: str, manifest: Manifest, kind: str, name: str) -> str:
    """Return the resource folder that holds the icon, or that should: the flavor's own, else one that has any."""
    source_set = flavor or "main"
    folders = reader.table(reader.module, source_set).folders
    holding = [path for path in folders if _has(reader.tree, path, kind, name)]
    if flavor and not holding:
        main = _named(reader, "", "icon")
        other_name = main is not None and main[2].value != f"@{kind}/{name}"
        shared = [path for path in reader.table(reader.module, "main").folders if _has(reader.tree, path, kind, name)]
        if other_name and shared:
            return shared[0]
        return folders[0]
    present = [path for path in folders if any(True for _ in reader.tree.below(path))]
    return (holding or present or [join(parent(manifest.path), "res")])[0]


def _has(tree: Tree, folder: str, kind: str, name: str) -> bool:
    return any(_is_file_of(path, folder, kind, name) for path in tree.below(folder))


def _is_file_of(path: str, folder: str, kind: str, name: str) -> bool:
    inner = path[len(folder) + 1 :].split("/")
    return len(inner) == 2 and inner[0].split("-")[0] == kind and inner[1].split(".")[0] == name


def _banners(reader: ModuleReader, flavor: str, folder: str) -> Iterator[IconHome]:
    """Yield the home of the banner that a TV launcher shows, where the manifest names one."""
    manifest = reader.manifest("main")
    if manifest is None:
        return
    for element in manifest.root.walk():
        attribute = element.attribute("banner", ANDROID_NS)
        kind, _, name = attribute.value.removeprefix("@").partition("/") if attribute else ("", "", "")
        if attribute is None or kind not in ("mipmap", "drawable"):
            continue
        files = [path for path in reader.tree.below(folder) if _is_file_of(path, folder, kind, name)]
        pictures = [path for path in files if path.endswith((".png", ".webp", ".jpg"))]
        chosen = pictures or [f"{folder}/{kind}-xhdpi/{name}.png"]
        tiles = tuple(_banner(path) for path in chosen)
        replaced = tuple(path for path in files if path not in chosen)
        yield IconHome(
            "tiles",
            "android",
            reader.module.name,
            flavor,
            folder,
            f"{kind}/{name}",
            manifest.place(attribute),
            tiles=tiles,
            replaced=replaced,
        )
        return


def _banner(path: str) -> Tile:
    density = next((part for part in path.split("/")[-2].split("-") if part in FACTORS), "xhdpi")
    width, height = (round(edge * FACTORS[density]) for edge in _BANNER_DP)
    form = path.rpartition(".")[2].replace("jpg", "jpeg")
    return Tile(path, width, height, "wide", f"TV banner {density}", form)
