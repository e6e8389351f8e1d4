"""One icon set into a whole project: which homes are filled, the store's pictures, references to a new name."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, replace

from onomaxis.changes.changeset import Changeset, FileChange
from onomaxis.changes.rewriting import rewrite
from onomaxis.errors import InputError, RefusedError
from onomaxis.icons.android import AndroidIcons
from onomaxis.icons.apple import AppleIcons
from onomaxis.icons.encode import encoded
from onomaxis.icons.layers import IconSet, IconWish, Warning, build_icon_set
from onomaxis.icons.output import Image, Output
from onomaxis.icons.pixels import Picture, colour, over, placed
from onomaxis.icons.slots import APPLE_STORE_ICON, FEATURE_GRAPHIC, STORE_ICON
from onomaxis.identity.words import JAVA
from onomaxis.model import Edit, Facet, IconHome, Mention
from onomaxis.projects.base import Project
from onomaxis.tree import Tree, inside, join

Tick = Callable[[str], None]


@dataclass(frozen=True)
class IconPlan:
    """A change of icons that can be shown, written and stored."""

    changes: tuple[FileChange, ...]
    images: tuple[Image, ...]
    warnings: tuple[Warning, ...]
    homes: tuple[IconHome, ...]


def plan_icons(tree: Tree, projects: list[Project], wish: IconWish, tick: Tick | None = None) -> IconPlan:
    """Draw the icons that *wish* asks for into every home the projects declare; nothing is written.

    Raises InputError for art that cannot be used, RefusedError for a project that cannot take it.
    """
    _check_name(wish)
    homes = _homes(tree, projects, wish)
    icons = build_icon_set(wish)
    out = Output(warnings=list(icons.warnings))
    for home in homes:
        if tick:
            tick(home.folder)
        _gather(out, _draw(tree, home, icons, wish))
    out.edits += _references(tree, projects, homes, wish)
    if wish.store_art:
        _store(tree, wish, icons, out)
    changeset = Changeset(
        tuple(dict.fromkeys(out.edits)),
        (),
        (),
        tuple(out.written.items()),
        tuple(sorted(out.removed - set(out.written))),
    )
    images = tuple(sorted(out.images, key=lambda image: (image.path, image.slot)))
    return IconPlan(changeset.resolve(tree), images, tuple(dict.fromkeys(out.warnings)), tuple(homes))


def _check_name(wish: IconWish) -> None:
    name = wish.icon_name
    if name and (not re.fullmatch(r"[a-z][a-z0-9_]*", name) or name in JAVA):
        raise InputError(
            f"“{name}” cannot name an icon: Android resources are named with lower-case letters, digits and "
            "underscores, and no word of Java"
        )
    if wish.notification and not re.fullmatch(r"[a-z][a-z0-9_]*", wish.notification):
        raise InputError(f"“{wish.notification}” cannot name a resource: lower-case letters, digits, underscores")
    if wish.inset is not None and not 0 <= wish.inset < 0.5:
        raise InputError(f"an inset of {wish.inset} leaves nothing: give a share from 0 to below 0.5")


def _homes(tree: Tree, projects: list[Project], wish: IconWish) -> list[IconHome]:
    """Return the homes to fill, in order; one per icon set."""
    found = [home for project in projects for home in project.icons]
    if wish.platforms:
        found = [home for home in found if home.platform in wish.platforms]
    else:
        found = [home for home in found if home.platform in ("android", "ios", "macos")]
    if wish.flavor:
        found = [flavored for home in found if (flavored := _of_flavor(projects, home, wish.flavor))]
    if not found:
        raise InputError(
            "no launcher icon is declared here that could be drawn",
            file=str(tree.root),
            remedy="Android names it in the manifest (android:icon), iOS in the build settings (app icon set name).",
        )
    return found


def _of_flavor(projects: list[Project], home: IconHome, flavor: str) -> IconHome | None:
    """Return the icon of one flavor: on Android the same resource in the flavor's own source set."""
    known = {app.flavor for project in projects for app in project.apps} | {
        owner.scope.flavor for project in projects for owner in project.owners
    }
    if flavor not in known:
        listed = ", ".join(sorted(name for name in known if name))
        raise InputError(
            f"there is no flavor “{flavor}” here",
            remedy=f"The flavors are: {listed}." if listed else "The project has no flavors.",
        )
    if home.style != "android-resource" or "/src/main/" not in f"/{home.folder}":
        return None
    return replace(home, flavor=flavor, folder=home.folder.replace("src/main/", f"src/{flavor}/", 1))


def _draw(tree: Tree, home: IconHome, icons: IconSet, wish: IconWish) -> Output:
    if not inside(home.folder) or _leaves_root(tree, home.folder):
        raise RefusedError("a link leads out of the project", file=home.folder)
    if home.style == "android-resource":
        return AndroidIcons(tree, home, icons, wish).draw()
    return AppleIcons(tree, home, icons, wish).draw()


def _leaves_root(tree: Tree, folder: str) -> bool:
    """Tell whether a folder, or the nearest one above it that exists, leads out of the root by a link."""
    place = tree.root / folder
    while not place.exists() and place != tree.root:
        place = place.parent
    return not place.resolve().is_relative_to(tree.root.resolve())


def _gather(out: Output, other: Output) -> None:
    out.written |= other.written
    out.removed |= other.removed
    out.edits += other.edits
    out.images += other.images
    out.warnings += other.warnings


def _references(tree: Tree, projects: list[Project], homes: list[IconHome], wish: IconWish) -> list[Edit]:
    """Point the manifest and the build settings at the icon's new name."""
    if not wish.icon_name:
        return []
    edits: list[Edit] = []
    for home in homes:
        owners = [
            owner
            for project in projects
            for owner in project.owners
            if owner.facet is Facet.ICON and owner.value.rpartition("/")[2] == home.name.rpartition("/")[2]
        ]
        for owner in owners:
            if _same_platform(owner, home) and owner.owner is not None:
                kind = home.name.partition("/")[0]
                new = f"@{kind}/{wish.icon_name}" if home.style == "android-resource" else wish.icon_name
                edits.append(rewrite(tree, Facet.ICON, owner.owner, new).edit)
        edits += _round_reference(tree, home, wish)
    return edits


def _same_platform(owner: Mention, home: IconHome) -> bool:
    return (owner.scope.platform == "android") == (home.style == "android-resource")


def _round_reference(tree: Tree, home: IconHome, wish: IconWish) -> list[Edit]:
    if not home.round_name or home.owner is None:
        return []
    path = home.owner.file
    data = tree.read(path) or b""
    kind = home.name.partition("/")[0]
    old = f'"@{kind}/{home.round_name}"'.encode()
    at = data.find(old)
    new = f'"@{kind}/{wish.icon_name}_round"'.encode()
    return [Edit(path, at, at + len(old), new, Facet.ICON)] if at >= 0 else []


def _store(tree: Tree, wish: IconWish, icons: IconSet, out: Output) -> None:
    """Draw the store listing's pictures: two icons and the feature graphic, all without alpha."""
    folder = join("", wish.store_art)
    if not folder or not inside(wish.store_art) or _leaves_root(tree, folder):
        raise InputError("the folder for store art must lie inside the project", file=wish.store_art)
    pictures = (
        ("store-icon-512.png", STORE_ICON, STORE_ICON, icons.apple(STORE_ICON)),
        ("store-icon-1024.png", APPLE_STORE_ICON, APPLE_STORE_ICON, icons.apple(APPLE_STORE_ICON)),
        ("store-feature-1024x500.png", *FEATURE_GRAPHIC, _feature(icons)),
    )
    for name, width, height, picture in pictures:
        image = Image(f"{folder}/{name}", width, height, "store", name.removesuffix(".png"), wish.flavor)
        out.image(image, encoded(picture, opaque=True))


def _feature(icons: IconSet) -> Picture:
    """Draw the feature graphic: the foreground in the middle of a wide ground."""
    width, height = FEATURE_GRAPHIC
    square = over(icons.layer("foreground", width), icons.layer("background", width))
    if icons.whole is not None and icons.ground is not None:
        ground = placed(icons.whole.draw(height), width, height / width)
        square = over(ground, icons.layer("background", width))
    top = (width - height) // 2
    strip = square[top : top + height]
    return over(strip, strip * 0 + colour(*(icons.ground or (255, 255, 255))))
