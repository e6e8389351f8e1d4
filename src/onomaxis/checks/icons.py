"""The checks of the family "icons": what the stores reject and what launchers show wrong."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

import numpy as np

from onomaxis.checks.context import Context
from onomaxis.checks.finding import Finding, rule, sorted_findings
from onomaxis.checks.registry import check
from onomaxis.errors import FormatError
from onomaxis.icons.geometry import MEASURED_AT, enclosing_circle, visible
from onomaxis.icons.headers import ico_edges, kind_of_bytes, picture_file
from onomaxis.icons.pixels import Picture, over, to_bytes
from onomaxis.icons.present import AndroidIcon, AppleEntry, AppleIcon, decode
from onomaxis.icons.slots import ADAPTIVE_API, LAYER_DP, LEGACY_DP, SAFE_DP
from onomaxis.icons.standing import has_own_icon, names_own_set, of_app
from onomaxis.model import IconHome, Tile
from onomaxis.platforms import DENSITIES
from onomaxis.projects.project import Project
from onomaxis.tree import Tree, join, parent

WRONG_SIZE = rule("ICON01")
MISSING = rule("ICON02")
STRAY = rule("ICON03")
ALPHA = rule("ICON04")
ROUNDED = rule("ICON05")
UNSAFE = rule("ICON06")
NO_ADAPTIVE = rule("ICON07")
NO_MONOCHROME = rule("ICON08")
NO_ROUND = rule("ICON09")
CONTRAST = rule("ICON10")
LEFTOVERS = rule("ICON11")
NO_SET = rule("ICON12")
UNFILLED = rule("ICON13")
NO_ICON = rule("ICON14")
MISLABELLED = rule("ICON15")
EMPTY_SET = rule("ICON16")
LACKS = rule("ICON17")
ART = rule("ICON18")
COVERED = rule("ICON19")


@check(ART)
def art_named(context: Context) -> Iterator[Finding]:
    """Look for the art of every brand before a stamp would draw from it."""
    file = context.file
    for _, flavor, brand in context.spoken():
        for key, said in (*brand.art.items(), *brand.launch.items()):
            path = join(parent(file.path), said.text) if file is not None else ""
            picture = key not in ("text", "background") or (key in brand.art and not said.text.startswith("#"))
            if picture and context.tree.named_file(path) is None:
                yield Finding(ART, context.tree.lacking(path, said.text), context.spot(said), flavor)


@check(
    WRONG_SIZE,
    MISSING,
    STRAY,
    ALPHA,
    ROUNDED,
    UNSAFE,
    NO_ADAPTIVE,
    NO_MONOCHROME,
    NO_ROUND,
    CONTRAST,
    LEFTOVERS,
    NO_SET,
    UNFILLED,
    NO_ICON,
    MISLABELLED,
    EMPTY_SET,
    LACKS,
    COVERED,
)
def declared(context: Context) -> Iterator[Finding]:
    """Check every launcher icon that the projects declare."""
    yield from check_icons(context.tree, context.projects)


def check_icons(tree: Tree, projects: Iterable[Project]) -> tuple[Finding, ...]:
    """Return what is wrong with the launcher icons that *projects* declare."""
    found: list[Finding] = []
    for project in projects:
        main = {home.module: AndroidIcon(tree, home) for home in reversed(project.icons) if not home.flavor}
        for home in project.icons:
            if home.flavor and not names_own_set(home) and not has_own_icon(tree, home):
                continue  # it shows the main icon
            if not home.flavor and not has_own_icon(tree, home) and _nobody_shows(tree, project, home):
                continue
            if home.style == "android-resource":
                said = _android(tree, home, main.get(home.module) if home.flavor else None)
            else:
                look = {"asset-catalog": _apple, "tiles": _tiles}.get(home.style)
                said = look(tree, home) if look else iter(())
            found.extend(item._replace(flavor=home.flavor) for item in said)
    return sorted_findings(found)


def _nobody_shows(tree: Tree, project: Project, main: IconHome) -> bool:
    """Tell whether every shipped app of a module has an icon of its own, so that the main one is not needed."""
    homes = [home for home in project.icons if home.flavor and home.module == main.module]
    own = [home for home in homes if home.style == "android-resource" and has_own_icon(tree, home)]
    shipped = [app for app in project.apps if app.module == main.module]
    return bool(shipped) and all(of_app(own, app, project.flavors) for app in shipped)


def _android(tree: Tree, home: IconHome, main: AndroidIcon | None) -> Iterator[Finding]:
    icon = AndroidIcon(tree, home)
    kind, name = icon.key
    above = main.adaptive() if main is not None else ""
    if main is not None and above and not icon.files(kind, name):  # layers of its own in the app's icon
        yield from _composition(AndroidIcon(tree, home, main.home.folder), above)
        return
    where = (home.owner.file, home.owner.line) if home.owner else (home.folder, 0)
    if not icon.files(kind, name):
        yield Finding(NO_ICON, f"@{home.name} is not in {home.folder}", (where,))
        return
    if home.round_name and not icon.files(kind, home.round_name):
        shown = main.files(kind, home.round_name)[:1] if main is not None else []
        said = f"@{kind}/{home.round_name} is the app's, for launchers that show round icons"
        yield from (Finding(COVERED, said, ((icon.files(kind, name)[0], 0), (path, 0))) for path in shown)
    if home.round_name and not (main or icon).files(kind, home.round_name):
        yield Finding(NO_ROUND, f"@{kind}/{home.round_name} is not in {home.folder}", (where,))
    for each in dict.fromkeys((name, home.round_name)):
        yield from _densities(tree, icon, kind, each, LEGACY_DP)
    yield from _lacking(icon, main)
    adaptive = icon.adaptive()
    if not adaptive and above:
        said = f"@{home.name} has pictures only: from Android 8 on {above} is shown"
        yield Finding(COVERED, said, ((icon.files(kind, name)[0], 0), (above, 1)))
        return
    if not adaptive:
        yield Finding(NO_ADAPTIVE, f"@{home.name} has pictures only", (where,))
        return
    layers = icon.layers()
    if "monochrome" not in layers:
        yield Finding(NO_MONOCHROME, f"@{home.name} has no monochrome layer", ((adaptive, 1),))
    for reference in layers.values():
        resource, _, layer = reference.removeprefix("@").partition("/")
        if resource in ("mipmap", "drawable"):
            yield from _densities(tree, icon, resource, layer, LAYER_DP)
    yield from _composition(icon, adaptive)


def _tiles(tree: Tree, home: IconHome) -> Iterator[Finding]:
    """Check single pictures: banners, what a web manifest lists."""
    where = (home.owner.file, home.owner.line) if home.owner else (home.folder, 0)
    for tile in home.tiles:
        data = tree.named_file(tile.file)
        if data is None:
            if not (home.replaced or tile.offered or tile.when):
                yield Finding(MISSING, f"{tile.slot}: {tile.file.rpartition('/')[2]} is missing", (where,))
            continue
        head = picture_file(data)
        if head is None:
            if tile.format != "svg" or kind_of_bytes(data) != "xml":
                yield Finding(MISSING, f"{tile.slot}: the file is not a picture", ((tile.file, 0),))
        elif tile.format in ("ico", "icns"):
            yield from _ico(tile, data)
        elif not _fits(head.width, head.height, tile):
            message = (
                f"{tile.slot}: {head.width} x {head.height} pixels, and {tile.width} x {tile.height} are asked for"
            )
            yield Finding(WRONG_SIZE, message, ((tile.file, 0),))


def _ico(tile: Tile, data: bytes) -> Iterator[Finding]:
    """Say which edges an icon of several pictures lacks."""
    edges = () if tile.least else ico_edges(data)
    lacking = [str(edge) for edge in tile.sizes if edges and edge not in edges]
    if lacking:
        yield Finding(WRONG_SIZE, f"{tile.slot}: no picture of {', '.join(lacking)} pixels", ((tile.file, 0),))


def _fits(width: int, height: int, tile: Tile) -> bool:
    if (width, height) == (tile.width, tile.height) or tile.slot == "launch screen":  # it has a size of its own
        return True
    return width == height and 0 < tile.least <= width


def _densities(tree: Tree, icon: AndroidIcon, kind: str, name: str, edge: int) -> Iterator[Finding]:
    """Check the pictures of one resource against the size of their density folder, and for doubles."""
    seen: dict[str, str] = {}
    factors = dict(DENSITIES)
    for path in icon.files(kind, name) if name else ():
        folder, file = path.rsplit("/", 1)
        if folder in seen:
            yield Finding(LEFTOVERS, f"{file} stands beside {seen[folder]}", ((path, 0),))
        seen[folder] = file
        head = picture_file(tree.read(path) or b"") if not path.endswith(".xml") else None
        if head is None:
            continue
        if not path.endswith((".jpg", f".{head.kind}", ".9.png")):
            yield Finding(MISLABELLED, f"{file} holds {head.kind.upper()} bytes", ((path, 0),))
        density = next((part for part in folder.rpartition("/")[2].split("-") if part in factors), "")
        wanted = round(edge * factors[density]) if density else 0
        if wanted and (head.width, head.height) != (wanted, wanted):
            message = f"{file} is {head.width} x {head.height} and should be {wanted} x {wanted} for {density}"
            yield Finding(WRONG_SIZE, message, ((path, 0),))


# Of fewer densities a person may have meant that the system scales them.
_MANY = 3


def _lacking(icon: AndroidIcon, main: AndroidIcon | None) -> Iterator[Finding]:
    """Compare the densities of an icon, its round form and its layers with all there are and with the main icon's."""
    kind, name = icon.key
    layers = (item.removeprefix("@").partition("/") for item in icon.layers().values())
    resources = {(resource, layer) for resource, _, layer in layers if resource in ("mipmap", "drawable")}
    if not (icon.adaptive() and icon.home.lowest >= ADAPTIVE_API):  # where nothing shows the old pictures
        resources |= {(kind, each) for each in (name, icon.home.round_name) if each}
    for resource, each in sorted(resources):
        own, usual = _covered(icon, resource, each), _covered(main, resource, each) if main else {}
        every = [density for density, _ in DENSITIES if len(own) >= _MANY or density in usual]
        missing = [density for density in every if density not in own]
        if own and missing and "" not in own:
            last = list(own.values())[-1]
            shown = ": the main picture shows there" if any(density in usual for density in missing) else ""
            yield Finding(LACKS, f"{each} has none for {', '.join(missing)}{shown}", ((last, 0),))


def _covered(icon: AndroidIcon, kind: str, name: str) -> dict[str, str]:
    """Return the densities that a resource has pictures for; an empty one for what serves every density."""
    found: dict[str, str] = {}
    for path in icon.files(kind, name):
        parts = path.split("/")[-2].split("-")[1:]
        density = next((part for part in parts if part in dict(DENSITIES)), "")
        if density or not any(part.startswith("v") for part in parts):
            found.setdefault(density, path)
    return found


def _composition(icon: AndroidIcon, adaptive: str) -> Iterator[Finding]:
    """Check what the layers show: the safe zone, and the contrast of the two."""
    front, back = icon.layer("foreground", MEASURED_AT), icon.layer("background", MEASURED_AT)
    if front is None:
        return
    opaque = bool((front[..., 3] > 0.98).all())
    if not opaque:
        circle = enclosing_circle(visible(to_bytes(front)))
        if circle is not None:
            reach = float(np.hypot(circle.x - 0.5, circle.y - 0.5)) + circle.radius
            if reach > SAFE_DP / LAYER_DP / 2 + 0.012:
                message = f"the foreground reaches {reach * 2 * LAYER_DP:.0f} dp across; {SAFE_DP} dp are safe"
                yield Finding(UNSAFE, message, ((adaptive, 1),))
    if back is not None and not opaque and contrast(front, back) < 1.25:
        yield Finding(CONTRAST, "the foreground can hardly be told from the background", ((adaptive, 1),))


def contrast(front: Picture, back: Picture) -> float:
    """Return the contrast ratio (WCAG 2, relative luminance) of the foreground's content with what lies below."""
    shown = front[..., 3] > 0.5
    if not shown.any():
        return 1.0
    weights = np.array([0.2126, 0.7152, 0.0722], dtype=np.float32)
    above = float((over(front, back)[shown][:, :3] @ weights).mean())
    below = float((back[shown][:, :3] @ weights).mean())
    light, dark = max(above, below), min(above, below)
    return (light + 0.05) / (dark + 0.05)


def _apple(tree: Tree, home: IconHome) -> Iterator[Finding]:
    icon = AppleIcon(tree, home)
    where = (home.owner.file, home.owner.line) if home.owner else (home.folder, 0)
    if not tree.exists(icon.path):
        yield Finding(NO_SET, f"there is no icon set “{home.name}”", (where,))
        return
    try:
        entries = icon.entries()
    except FormatError as error:
        yield Finding(NO_SET, f"the icon set cannot be read: {error.message}", ((icon.path, error.line),))
        return
    if entries and not any(entry.file for entry in entries):
        yield Finding(EMPTY_SET, f"{len(entries)} slots of “{home.name}” are empty", ((icon.path, 1),))
        return
    named = {entry.file for entry in entries}
    for entry in entries:
        label = " ".join(part for part in (entry.idiom, entry.size, entry.appearance) if part)
        if not entry.file and entry.appearance:
            continue  # the system derives that appearance
        if not entry.file:
            yield Finding(UNFILLED, f"slot {label} has no picture", ((icon.path, entry.line),))
            continue
        data = tree.named_file(entry.file)
        if data is None:
            yield Finding(
                MISSING, f"slot {label}: {entry.file.rpartition('/')[2]} is missing", ((icon.path, entry.line),)
            )
            continue
        yield from _slot(entry.file, data, entry, label)
    for path in tree.below(home.folder):
        if path not in named and path.lower().endswith((".png", ".jpg", ".jpeg")):
            yield Finding(STRAY, f"{path.rpartition('/')[2]} is in no slot", ((path, 0),))


def _slot(path: str, data: bytes, entry: AppleEntry, label: str) -> Iterator[Finding]:
    pixels = entry.pixels
    head = picture_file(data)
    if head is None:
        yield Finding(MISSING, f"slot {label}: the file is not a picture", ((path, 0),))
        return
    if pixels and (head.width, head.height) != (pixels, pixels):
        message = f"slot {label}: {head.width} x {head.height} pixels, and {pixels} x {pixels} are asked for"
        yield Finding(WRONG_SIZE, message, ((path, 0),))
    if entry.idiom == "mac":  # macOS shows the picture as it is, corners and all
        return
    if head.alpha and not entry.appearance:
        yield Finding(ALPHA, f"slot {label}: the picture has an alpha channel", ((path, 0),))
    if _baked_corners(data):
        yield Finding(ROUNDED, f"slot {label}: the corners are cut", ((path, 0),))


def _baked_corners(data: bytes) -> bool:
    """Tell whether the four corners are alike but unlike the middle of every edge: a rounded card on a ground."""
    picture = decode(data)
    if picture is None or min(picture.shape[:2]) < 16:
        return False
    high, wide = picture.shape[0] // 2, picture.shape[1] // 2
    rows, columns = (0, 0, -1, -1, 0, -1, high, high), (0, -1, 0, -1, wide, wide, 0, -1)
    corners, edges = np.split(to_bytes(picture[rows, columns][None]).astype(np.int16)[0], 2)
    alike = np.abs(corners - corners[0]).max() <= 12
    return bool(alike and (np.abs(edges - corners[0]).max(axis=1) > 40).all())
