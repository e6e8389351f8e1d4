"""The icon in a package: sizes, densities, alpha, layers, and whether it shows the brand's art."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence

import numpy as np

from onomaxis import late
from onomaxis.checks import packaged as rules
from onomaxis.checks.finding import Finding
from onomaxis.errors import FormatError
from onomaxis.formats.binary.apple_png import is_apple_png, read_apple_png
from onomaxis.icons.pixels import ALIKE, COMPARED_AT, Picture, colour, difference, flat, resample, to_picture
from onomaxis.icons.present import AndroidIcon, AppleIcon, TileIcon, decode
from onomaxis.icons.sheets.shown import homes_of
from onomaxis.icons.slots import LEGACY_DP
from onomaxis.icons.vectors import hex_colour
from onomaxis.packages.expected import Expected, every_app
from onomaxis.packages.facts import Icon, Package, place
from onomaxis.platforms import DENSITIES

_LAYERS = ("foreground", "background", "monochrome")
_SCALED = late.compile(r"(\d{1,4}(?:\.\d{1,2})?)x\d{1,4}(?:\.\d{1,2})?(?:@(\d)x)?(?:~[a-z]{1,20})?\.png\Z")
_MOST_PICTURE = 32 * 1024 * 1024

Drawn = Callable[[str, int], Picture | None]


def icon_findings(package: Package, expected: Expected, stamped: Expected) -> Iterator[Finding]:
    """Yield what is wrong with the icon of a package; *stamped* is the app as stamping its flavor makes it."""
    yield from _forms(package, expected)
    yield from _layers(package, expected, stamped)
    yield from _art(package, expected, stamped)


def _found(package: Package, expected: Expected, message: str, entry: str = "") -> Finding:
    return Finding(rules.ICON, message, place(package, entry), expected.flavor)


def _forms(package: Package, expected: Expected) -> Iterator[Finding]:
    for icon in package.icons:
        if icon.path is None or icon.width is None:
            continue
        size = f"{icon.width} x {icon.height}"
        if icon.width != icon.height:
            yield _found(package, expected, f"the picture is {size}, no square", icon.path)
        elif icon.role in ("icon", "round") and isinstance(icon.density, int):
            wanted = round(LEGACY_DP * icon.density / 160)
            if icon.width < wanted:
                said = f"the picture is {size}, its density of {icon.density} asks for {wanted}"
                yield _found(package, expected, said, icon.path)
        elif icon.role == "apple":
            yield from _apple_form(package, expected, icon, size)
    if package.platform == "ios" and not package.icons and package.catalog is None:
        yield _found(package, expected, "it has no icon at all")
    named = package.list.get("CFBundleIcons")
    primary = named.get("CFBundlePrimaryIcon") if isinstance(named, Mapping) else None
    icon_name = (
        primary.get("CFBundleIconName") if isinstance(primary, Mapping) else package.list.get("CFBundleIconName")
    )
    if package.catalog_names and isinstance(icon_name, str) and icon_name not in package.catalog_names:
        yield _found(
            package, expected, f"the catalog has no icon “{icon_name}”, which the list names", package.catalog or ""
        )
    raster = [icon for icon in package.icons if icon.role == "icon"]
    if package.platform == "android" and not raster:
        yield _found(package, expected, "it has no launcher icon")


def _apple_form(package: Package, expected: Expected, icon: Icon, size: str) -> Iterator[Finding]:
    assert icon.path is not None
    match = _SCALED.search(icon.path)
    wanted = round(float(match[1]) * int(match[2] or 1)) if match else 0
    if wanted and icon.width != wanted:
        yield _found(package, expected, f"the picture is {size}, its name asks for {wanted}", icon.path)
    if shows_through(package, icon):
        yield _found(package, expected, "the picture has an alpha channel: the store refuses it", icon.path)


def shows_through(package: Package, icon: Icon) -> bool:
    """Tell whether an Apple icon has alpha that is more than the build tools' own form, which always has it."""
    if not icon.alpha or icon.path is None:
        return False
    files = package.content.holder(icon.path)
    data = files.read(icon.path, _MOST_PICTURE) if files is not None else b""
    if not is_apple_png(data):
        return True
    try:
        return bool((read_apple_png(data)[..., 3] < 255).any())
    except FormatError:
        return True


def _layers(package: Package, expected: Expected, stamped: Expected) -> Iterator[Finding]:
    """Compare densities and layers with the project's."""
    homes = homes_of(stamped.context.projects, stamped.subject.project, stamped.app, stamped.context.tree)
    if homes is None or homes[0].style != "android-resource":
        return
    icon = AndroidIcon(stamped.context.tree, homes[0], homes[1].folder)
    held = {item.role for item in package.icons}
    for layer in _LAYERS:
        if icon.layers().get(layer) and layer not in held:
            yield _found(package, expected, f"the adaptive icon's {layer} is missing, {icon.adaptive()} names one")
    if package.kind in ("apk", "aab"):
        own = {item.density for item in package.icons if item.role == "icon"}
        dots = {name: round(160 * share) for name, share in DENSITIES}
        drawn = {folder.rpartition("/")[2] for path in icon.files(*icon.key) for folder in (path.rpartition("/")[0],)}
        lacking = [name for name, value in dots.items() if f"{icon.key[0]}-{name}" in drawn and value not in own]
        if lacking and own:
            yield _found(package, expected, f"the icon lacks {', '.join(lacking)}, which the project has")


# -- the art


def _art(package: Package, expected: Expected, stamped: Expected) -> Iterator[Finding]:
    wanted = drawing_of(stamped)
    if wanted is None:
        return
    for role in ("icon", "foreground", "background", "apple"):
        best = _best(package, role)
        held = _picture(package, best) if best is not None else None
        mine = wanted(role, COMPARED_AT) if held is not None else None
        if best is None or held is None or mine is None or difference(held, mine) <= ALIKE:
            continue
        other = _looks_like(expected, role, held)
        shown = f"it shows that of {other}" if other else "it shows another picture"
        yield Finding(
            rules.PICTURE,
            f"the {'icon' if role == 'apple' else role} is not the brand's: {shown}",
            place(package, best.path or ""),
            expected.flavor,
        )


def drawing_of(item: Expected) -> Drawn | None:
    """Return what draws an app's icon as its project has it, by role; None where it has none that is read."""
    tree = item.context.tree
    homes = homes_of(item.context.projects, item.subject.project, item.app, tree)
    if homes is None:
        return None
    home, main = homes
    if home.style == "android-resource":
        icon = AndroidIcon(tree, home, main.folder)
        return lambda role, size: icon.legacy(size) if role == "icon" else icon.layer(role, size)
    if home.style == "tiles":
        tiles = TileIcon(tree, home)
        return lambda role, size: tiles.picture(size) if role in ("icon", "apple") else tiles.layer(role, size)
    apple = AppleIcon(tree, home)
    return lambda role, size: apple.picture(size) if role == "apple" else None


def _best(package: Package, role: str) -> Icon | None:
    """Return the largest picture of a role, or its colour."""
    mine = [item for item in package.icons if item.role == role and (item.width or item.color)]
    return max(mine, key=lambda item: item.width or 0, default=None)


def _picture(package: Package, icon: Icon) -> Picture | None:
    if icon.color is not None:
        literal = hex_colour(icon.color)
        if literal is None:
            return None
        digits = literal[0].lstrip("#")
        return flat(COMPARED_AT, colour(*(int(digits[at : at + 2], 16) for at in (0, 2, 4))) * np.float32(literal[1]))
    files = package.content.holder(icon.path or "")
    data = files.read(icon.path or "", _MOST_PICTURE) if files is not None else b""
    try:
        found = to_picture(read_apple_png(data)) if is_apple_png(data) else decode(data)
    except FormatError:
        return None
    return resample(found, COMPARED_AT, COMPARED_AT) if found is not None else None


def _looks_like(expected: Expected, role: str, held: Picture) -> str:
    """Return the other flavor whose icon a picture is, empty where it is nobody's."""
    others: Sequence[Expected] = [item for item in every_app(expected.context) if item.flavor != expected.flavor]
    for item in others:
        drawn = drawing_of(item) if item.platform == expected.platform and item.flavor == item.app.flavor else None
        picture = drawn(role, COMPARED_AT) if drawn is not None else None
        if picture is not None and difference(held, picture) <= ALIKE:
            return item.flavor or "the app itself"
    return ""
