"""The icons that a project has today: layers, legacy pictures and Apple's slots, read as pictures."""

from __future__ import annotations

import io
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np

from onomaxis.errors import FormatError, InputError
from onomaxis.formats.jsonc import parse_json, plain
from onomaxis.formats.source import Source
from onomaxis.formats.xml import parse_xml
from onomaxis.icons.headers import kind_of_bytes, picture_file
from onomaxis.icons.pixels import Picture, colour, flat, placed, resample, to_picture
from onomaxis.icons.safety import MAXIMUM_PIXELS, check_found_svg
from onomaxis.icons.scaled import render_svg
from onomaxis.icons.slots import slot_pixels
from onomaxis.icons.standing import resource_files
from onomaxis.icons.vectors import VectorReader, hex_colour
from onomaxis.model import IconHome
from onomaxis.platforms import ANDROID_NS, DENSITIES
from onomaxis.tree import Tree, inside, parent

# From the finest to the coarsest.
_BUCKETS = (*reversed(("ldpi", "tvdpi", *dict(DENSITIES))), "nodpi", "")


def decode(data: bytes) -> Picture | None:
    """Decode a picture; None when it is damaged or declares too many pixels."""
    from PIL import Image

    if kind_of_bytes(data) == "xml":
        return _drawn_svg(data)
    head = picture_file(data)
    if head is None or head.width * head.height > MAXIMUM_PIXELS:
        return None
    try:
        with Image.open(io.BytesIO(data)) as image:
            return to_picture(np.asarray(image.convert("RGBA")))
    except Exception:
        return None


def _drawn_svg(data: bytes) -> Picture | None:
    """Draw an SVG that is one picture of an icon; None where it is none, or is not to be trusted."""
    try:
        check_found_svg(data)
        return to_picture(render_svg(Source.read(data).view, _SVG_EDGE, _SVG_EDGE))
    except (InputError, FormatError):
        return None


_SVG_EDGE = 512


@dataclass
class AndroidIcon:
    """One launcher icon of a resource folder; *fallback* is the main folder, which flavors fall back on.

    They do file by file: what the main folder has for a qualifier that the own one lacks is there all the same, so
    that an adaptive icon of the app covers a flavor's pictures (developer.android.com, "Providing resources").
    """

    tree: Tree
    home: IconHome
    fallback: str = ""
    _found: dict[tuple[str, str], list[str]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        for folder in dict.fromkeys((self.home.folder, self.fallback or self.home.folder)):
            for key, paths in resource_files(self.tree, folder).items():
                own = {parent(path).rpartition("/")[2] for path in self._found.get(key, ())}
                more = [path for path in paths if parent(path).rpartition("/")[2] not in own]
                self._found.setdefault(key, []).extend(more)

    @property
    def key(self) -> tuple[str, str]:
        """Type and name of the icon's resource."""
        kind, _, name = self.home.name.partition("/")
        return kind, name

    def files(self, kind: str, name: str) -> list[str]:
        """Return the files of a resource in every qualifier."""
        return self._found.get((kind, name), [])

    def adaptive(self, name: str = "") -> str:
        """Return the file of the adaptive icon, or an empty string."""
        kind, own = self.key
        for path in self.files(kind, name or own):
            if path.endswith(".xml") and b"<adaptive-icon" in (self.tree.read(path) or b""):
                return path
        return ""

    def layers(self) -> dict[str, str]:
        """Return the layers of the adaptive icon: name to reference (``@mipmap/x``, ``@color/x``, ``#RRGGBB``)."""
        path = self.adaptive()
        if not path:
            return {}
        try:
            root = parse_xml(self.tree.read(path) or b"").root
        except FormatError:
            return {}
        return {child.name: child.value("drawable", ANDROID_NS) for child in root.children}

    def layer(self, name: str, size: int) -> Picture | None:
        """Draw a layer at *size* pixels; None when there is none or it cannot be read."""
        reference = self.layers().get(name, "")
        return self.drawn(reference, size) if reference else None

    def legacy(self, size: int, name: str = "") -> Picture | None:
        """Draw the legacy picture at *size* pixels, from the densest one that there is."""
        kind, own = self.key
        rasters = [path for path in self.files(kind, name or own) if not path.endswith(".xml")]
        return self._raster(rasters, size)

    def drawn(self, reference: str, size: int) -> Picture | None:
        """Draw what a reference or colour stands for."""
        literal = hex_colour(self.colour(reference))
        if literal is not None:
            digits = literal[0].lstrip("#")
            pixel = colour(*(int(digits[at : at + 2], 16) for at in (0, 2, 4)))
            return flat(size, pixel * np.float32(literal[1]))
        kind, _, name = reference.removeprefix("@").rpartition(":")[2].partition("/")
        paths = self.files(kind, name)
        vectors = [path for path in paths if path.endswith(".xml")]
        rasters = [path for path in paths if not path.endswith(".xml")]
        for path in vectors:
            picture = self._vector(path, size)
            if picture is not None:
                return picture
        return self._raster(rasters, size)

    def colour(self, reference: str, depth: int = 0) -> str:
        """Resolve ``@color/x`` to a literal through any chain; a literal is returned as it is."""
        if not reference.startswith("@color/") or depth > 8:
            return {"@android:color/white": "#FFFFFF", "@android:color/black": "#000000"}.get(reference, reference)
        name = reference.removeprefix("@color/")
        mark = f'"{name}"'.encode()
        for folder in dict.fromkeys((self.home.folder, self.fallback or self.home.folder)):
            for path in self.tree.below(f"{folder}/values"):
                data = self.tree.read(path) if path.endswith(".xml") else None
                if data and mark in data:
                    try:
                        for element in parse_xml(data).root.children:
                            if element.name == "color" and element.value("name") == name:
                                return self.colour(element.text.strip(), depth + 1)
                    except FormatError:
                        continue
        return reference

    def _vector(self, path: str, size: int) -> Picture | None:
        try:
            svg = VectorReader(self.tree.read(path) or b"", self.colour).svg()
            return to_picture(render_svg(svg, size, size))
        except (FormatError, InputError, ValueError):
            return None

    def _raster(self, paths: list[str], size: int) -> Picture | None:
        ordered = sorted(paths, key=lambda path: _bucket(path))
        for path in ordered:
            picture = decode(self.tree.read(path) or b"")
            if picture is not None:
                square = picture.shape[0] == picture.shape[1]
                return resample(picture, size, size) if square else placed(picture, size, 1.0)
        return None


def _bucket(path: str) -> int:
    qualifiers = path.rpartition("/")[0].rpartition("/")[2].split("-")
    return next((number for number, name in enumerate(_BUCKETS) if name in qualifiers), len(_BUCKETS))


class AppleEntry(NamedTuple):
    """One slot of an icon set as ``Contents.json`` lists it."""

    file: str
    pixels: int
    idiom: str
    size: str
    appearance: str
    line: int


@dataclass
class AppleIcon:
    """One icon set."""

    tree: Tree
    home: IconHome

    @property
    def path(self) -> str:
        """The set's ``Contents.json``."""
        return f"{self.home.folder}/Contents.json"

    def entries(self) -> list[AppleEntry]:
        """Return the slots. Raises FormatError when the file cannot be read."""
        data = self.tree.named_file(self.path)
        if data is None:
            return []
        document = parse_json(data)
        node = document.top.get("images")
        found = []
        for item in node.items if node else ():
            size, scale, name = item.text("size"), item.text("scale"), item.text("filename")
            value = plain(item)
            pixels = slot_pixels(size, scale) if size else 0
            file = f"{self.home.folder}/{name}" if name and inside(name) and "/" not in name else ""
            line = document.source.line(item.start)
            found.append(AppleEntry(file, pixels, item.text("idiom"), size, _appearance(value), line))
        return found

    def picture(self, size: int, appearance: str = "") -> Picture | None:
        """Draw the icon at *size* pixels from its largest slot of an appearance."""
        try:
            entries = [item for item in self.entries() if item.file and item.appearance == appearance]
        except FormatError:
            return None
        for entry in sorted(entries, key=lambda item: -item.pixels):
            picture = decode(self.tree.read(entry.file) or b"")
            if picture is not None:
                return resample(picture, size, size)
        return None


def _appearance(value: object) -> str:
    found = value.get("appearances") if isinstance(value, dict) else None
    for item in found if isinstance(found, list) else ():
        if isinstance(item, dict) and item.get("appearance") == "luminosity":
            return str(item.get("value", ""))
    return ""


def tile_today(tree: Tree, path: str, size: int) -> Picture | None:
    """Draw a single picture of today, *size* pixels high at most; None where there is none."""
    data = tree.read(path) if path in tree.known else None
    picture = decode(data) if data else None
    return placed(picture, size, 1.0) if picture is not None else None


class TileIcon(NamedTuple):
    """The icon that a home's single pictures make: layers, and Apple's square in its appearances."""

    tree: Tree
    home: IconHome

    def layer(self, name: str, size: int) -> Picture | None:
        """Draw an adaptive layer at *size* pixels; the ground is the stated colour where it is no picture."""
        picture = self._of(name, size)
        ground = hex_colour(self.home.ground) if picture is None and name == "background" else None
        if ground is None:
            return picture
        digits = ground[0].lstrip("#")
        return flat(size, colour(*(int(digits[at : at + 2], 16) for at in (0, 2, 4))))

    def picture(self, size: int, appearance: str = "") -> Picture | None:
        """Draw the square for Apple's home screens."""
        if appearance:
            return self._of(f"apple-{appearance}", size)
        own = self._of("apple", size)
        return own if own is not None else self._of("full", size)

    def _of(self, shape: str, size: int) -> Picture | None:
        """Draw the largest picture of a shape."""
        found = [tile for tile in self.home.tiles if tile.shape == shape and tile.file in self.tree.known]
        best = max(found, key=lambda tile: tile.width, default=None)
        return tile_today(self.tree, best.file, size) if best is not None else None
