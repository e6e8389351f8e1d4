"""Android's launcher icon: legacy pictures, adaptive layers, the resources that name them, old leftovers.

Source of the rules: developer.android.com, "Adaptive icons", "Create app icons", "App resources overview".
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator
from functools import partial

from onomaxis import late
from onomaxis.errors import FormatError, InputError, RefusedError
from onomaxis.formats.xml import new_child, parse_xml, text_span
from onomaxis.icons.art import Art
from onomaxis.icons.css import Inexpressible
from onomaxis.icons.encode import encoded
from onomaxis.icons.headers import kind_of_bytes
from onomaxis.icons.layers import Fitted, IconSet, silhouette
from onomaxis.icons.output import Image, Output
from onomaxis.icons.pixels import placed
from onomaxis.icons.slots import ADAPTIVE_API, LAYER_DP, LAYERS, LEGACY_DP, NOTIFICATION_DP
from onomaxis.icons.vectorize import vector_layer
from onomaxis.icons.wish import IconWish, Warning
from onomaxis.model import Edit, Facet, IconHome
from onomaxis.platforms import ANDROID_NS, DENSITIES
from onomaxis.tree import Tree, parent

_REFERENCE = late.compile(r"@(?:\+)?(mipmap|drawable|color)/([\w.]+)")


class AndroidIcons:
    """Draws one launcher icon into one resource folder."""

    def __init__(
        self, tree: Tree, home: IconHome, icons: IconSet, wish: IconWish, others: Iterable[str] = ()
    ) -> None:
        self.tree = tree
        self.home = home
        self.icons = icons
        self.wish = wish
        self.type, _, self.old_name = home.name.partition("/")
        self.name = wish.icon_name or self.old_name
        self.old_round = home.round_name
        self.round = f"{wish.icon_name}_round" if wish.icon_name and home.round_name else home.round_name
        self.out = Output()
        self.references: dict[str, str] = {}
        # Folders of other apps: their resources bear the same names and are their own.
        self.others = tuple(f"{folder}/" for folder in others)
        self.present = _resources(tree, home.folder)
        self.format = self._format()
        self.flavor = home.flavor

    def draw(self) -> Output:
        """Return everything to write and to remove; only the parts that have art where not all of them have."""
        if "foreground" in self.icons.parts:
            self._legacy()
            self._adaptive()
            if self.wish.notification:
                self._notification()
            self._leftovers()
        else:
            self._single_parts()
        return self.out

    def _single_parts(self) -> None:
        """Draw old pictures or single layers anew, beside what else the icon has today."""
        if "legacy" in self.icons.parts:
            self._legacy()
            for path in self.present.get((self.type, self.name), ()):
                twin = f"{path.rpartition('.')[0]}.{self.format}"
                if not path.endswith(".xml") and twin != path and self.out.writes(twin):
                    self.out.removed.add(path)
        for layer in ("background", "monochrome"):
            if layer not in self.icons.parts:
                continue
            files = list(self._adaptive_files())
            if not files:
                said = f"there is no adaptive icon here that the {layer} could be a layer of: give --art too"
                self.out.warnings.append(Warning("not-drawn", said, self.home.folder))
                continue
            if layer == "background" and self.icons.background is None:
                self.references[layer] = self._background_reference()
            else:
                self._layer(layer)
            for path in files:
                self.out.edits += layer_edits(path, self.tree.read(path) or b"", layer, self.references[layer])
        if self.wish.notification:
            self._notification()

    def _format(self) -> str:
        """Keep the file format that the icon has today, by its bytes."""
        for path in self.present.get((self.type, self.old_name), ()):
            found = kind_of_bytes(self.tree.read(path) or b"") if not path.endswith(".xml") else ""
            if found in ("png", "webp"):
                return path.rpartition(".")[2] if path.endswith((".png", ".webp")) else found
        return "png"

    def _put(self, folder: str, name: str, size: int, slot: str, draw: Callable[[], bytes]) -> None:
        path = f"{self.home.folder}/{folder}/{name}.{self.format}"
        self.out.image(Image(path, size, size, "android", slot, self.flavor), draw)

    def _legacy(self) -> None:
        shapes = [(self.name, self.icons.legacy_shape)]
        if self.round and self.round != self.name:
            shapes.append((self.round, "circle"))
        for name, shape in shapes:
            for density, factor in DENSITIES:
                size = round(LEGACY_DP * factor)
                draw = partial(self._legacy_file, size, shape)
                self._put(f"{self.type}-{density}", name, size, f"legacy {density}", draw)

    def _legacy_file(self, size: int, shape: str) -> bytes:
        return encoded(self.icons.legacy_picture(size, shape), self.format)

    def _layer_file(self, layer: str, size: int) -> bytes:
        return encoded(self.icons.layer(layer, size), self.format, opaque=layer == "background")

    def _adaptive(self) -> None:
        layers = ["foreground"]
        layers += ["background"] if self.icons.background is not None else []
        layers += ["monochrome"] if self.icons.monochrome is not None else []
        for layer in layers:
            self._layer(layer)
        ground = self.references.get("background") or self._background_reference()
        for name in dict.fromkeys((self.name, self.round or self.name)):
            path = f"{self.home.folder}/{self._adaptive_folder()}/{name}.xml"
            self.out.written[path] = self._adaptive_xml(ground, path)

    def _layer(self, layer: str) -> None:
        """Write one layer: a vector drawable where that can be, else a picture for each density."""
        if self._vector_layer(layer):
            return
        self.references[layer] = f"@{self.type}/{self.name}_{layer}"
        for density, factor in DENSITIES:
            size = round(LAYER_DP * factor)
            draw = partial(self._layer_file, layer, size)
            self._put(f"{self.type}-{density}", f"{self.name}_{layer}", size, f"{layer} {density}", draw)

    def _vector_layer(self, layer: str) -> bool:
        """Write a layer as a vector drawable where its art is SVG that can be expressed as one."""
        fitted = self.icons.monochrome if layer == "monochrome" else self.icons.foreground
        if layer == "background":
            fitted = Fitted(self.icons.background) if self.icons.background is not None else None
        name = f"{self.name}_{layer}"
        if fitted is None or not fitted.art.vector or self._used_elsewhere("drawable", name):
            return False
        if layer == "monochrome" and self.icons.ribbon is not None:
            return False  # a vector drawable cannot hold what is cut out
        data = self._vector(layer, fitted)
        if isinstance(data, str):
            reason = data
            message = f"the {layer} is drawn as pictures: a vector drawable cannot hold {reason}"
            self.out.warnings.append(Warning("raster-layer", message, fitted.art.name))
            return False
        path = f"{self.home.folder}/drawable-anydpi-v26/{name}.xml"
        self.out.images.append(Image(path, LAYER_DP, LAYER_DP, "android", f"{layer} vector", self.flavor))
        self.out.written[path] = data
        self.references[layer] = f"@drawable/{name}"
        return True

    def _vector(self, layer: str, fitted: Fitted) -> bytes | str:
        """Return a layer as a vector drawable, or what it cannot hold."""
        if layer not in self.icons.vectors:
            worn = self.icons.ribbon if layer == "foreground" else None
            try:
                self.icons.vectors[layer] = vector_layer(fitted, layer == "monochrome", worn)
            except Inexpressible as reason:
                self.icons.vectors[layer] = str(reason)
        return self.icons.vectors[layer]

    def _adaptive_folder(self) -> str:
        """Keep the folder of today's adaptive icon; a new one needs ``-v26`` while the minimum is lower."""
        for path in self.present.get((self.type, self.old_name), ()):
            folder = parent(path).rpartition("/")[2]
            if path.endswith(".xml") and folder in (f"{self.type}-anydpi-v26", f"{self.type}-anydpi"):
                return folder
        return f"{self.type}-anydpi" if self.home.lowest >= ADAPTIVE_API else f"{self.type}-anydpi-v26"

    def _adaptive_xml(self, ground: str, path: str) -> bytes:
        old = self.tree.read(path) if path in self.tree.known else None
        newline = "\r\n" if old and b"\r\n" in old else "\n"
        lines = [
            '<?xml version="1.0" encoding="utf-8"?>',
            '<adaptive-icon xmlns:android="http://schemas.android.com/apk/res/android">',
            f'    <background android:drawable="{ground}" />',
            f'    <foreground android:drawable="{self.references["foreground"]}" />',
        ]
        if self.icons.monochrome is not None:
            lines.append(f'    <monochrome android:drawable="{self.references["monochrome"]}" />')
        return newline.join([*lines, "</adaptive-icon>", ""]).encode("utf-8")

    def _background_reference(self) -> str:
        """Return what the adaptive icon's background refers to, and write it: a layer, or one colour resource."""
        red, green, blue = self.icons.ground or (255, 255, 255)
        value = f"#{red:02X}{green:02X}{blue:02X}"
        name = self._colour_name()
        existing = list(self._colour_entries(name))
        for path, start, end, now in existing:
            if now.upper() not in (value, "#FF" + value[1:]):
                self.out.edits.append(Edit(path, start, end, value.encode("ascii"), Facet.ICON))
                folder = parent(path).rpartition("/")[2]
                if folder != "values":
                    said = f"the ground {now} of {folder} follows: it is {value} as well"
                    self.out.warnings.append(Warning("ground-follows", said, path))
        if any(parent(path).endswith("/values") for path, *_ in existing):
            return f"@color/{name}"
        path = f"{self.home.folder}/values/{name}.xml"
        if path in self.tree.known:
            raise RefusedError("a file of this name exists already", file=path, remedy="Rename it first.")
        self.out.written[path] = (
            '<?xml version="1.0" encoding="utf-8"?>\n<resources>\n'
            f'    <color name="{name}">{value}</color>\n</resources>\n'
        ).encode()
        return f"@color/{name}"

    def _colour_name(self) -> str:
        """Use the colour that today's adaptive icon refers to; else a name that no other resource of colours has."""
        for path in self._adaptive_files():
            for kind, name in self._references(path):
                if kind == "color" and name.startswith(self.old_name) and any(self._colour_entries(name)):
                    return name
        wanted = f"{self.name}_background"
        return wanted if not any(self._colour_entries(wanted)) else f"{self.name}_ground"

    def _colour_entries(self, name: str) -> Iterator[tuple[str, int, int, str]]:
        """Find the ``<color>`` *name* in the values of every qualifier; yield file, byte span and present text."""
        mark = f'"{name}"'.encode()
        for path in self.tree.below(self.home.folder):
            kind = path[len(self.home.folder) + 1 :].partition("/")[0].split("-")[0]
            data = self.tree.read(path) if kind == "values" and path.endswith(".xml") else None
            if not data or mark not in data:
                continue
            try:
                document = parse_xml(data)
            except FormatError as error:
                raise FormatError(error.message, file=path, line=error.line) from None
            for element in document.root.children:
                if element.name == "color" and element.value("name") == name:
                    span = text_span(document, element)
                    if span:
                        source = document.source
                        yield path, source.offset(span[0]), source.offset(span[1]), element.text.strip()

    def _adaptive_files(self) -> Iterator[str]:
        """Yield today's adaptive icons of this name and its round sister, in every qualifier."""
        for name in dict.fromkeys((self.old_name, self.old_round)):
            for path in self.present.get((self.type, name), ()):
                if path.endswith(".xml") and b"<adaptive-icon" in (self.tree.read(path) or b""):
                    yield path

    def _references(self, path: str) -> list[tuple[str, str]]:
        text = (self.tree.read(path) or b"").decode("utf-8", "replace")
        return [(match[1], match[2]) for match in _REFERENCE.finditer(text)]

    def _leftovers(self) -> None:
        """Remove what would break the build or win over the new icon: other formats and qualifiers, unused layers."""
        names = [self.old_name, self.name]
        names += [name for name in (self.old_round, self.round) if name]
        names += [f"{self.name}_{layer}" for layer in LAYERS]
        for name in dict.fromkeys(names):
            for path in self.present.get((self.type, name), ()):
                if not self.out.writes(path):
                    self.out.removed.add(path)
        for layer in LAYERS:
            name = f"{self.name}_{layer}"
            vectors = self.present.get(("drawable", name), ())
            # A layer that is named now owns every file of its name; one that is not leaves what others may use.
            named = self.references.get(layer) == f"@drawable/{name}"
            mine = [path for path in vectors if named or path.endswith(f"-anydpi-v26/{name}.xml")]
            self.out.removed.update(path for path in mine if not self.out.writes(path))
        for path in list(self._adaptive_files()):
            for kind, name in self._references(path):
                if kind in ("drawable", "mipmap") and not self._used_elsewhere(kind, name):
                    self.out.removed.update(
                        old for old in self.present.get((kind, name), ()) if not self.out.writes(old)
                    )

    def _used_elsewhere(self, kind: str, name: str) -> bool:
        """Tell whether a resource is referred to outside the adaptive icons that are rewritten or removed."""
        mine = set(self._adaptive_files()) | set(self.present.get((kind, name), ()))
        needles = (f"@{kind}/{name}", f"R.{kind}.{name}")
        icons = tuple(f"/{icon}.xml" for icon in (self.old_name, self.name, self.old_round, self.round) if icon)
        pattern = re.compile("|".join(rf"{re.escape(needle)}(?!\w)" for needle in needles))
        for path, data in self.tree.holding(needles):
            if path.startswith(self.others) or (path.endswith(icons) and b"<adaptive-icon" in data):
                continue  # another app's, or this very icon in another source set
            if path not in mine and not self.out.writes(path) and pattern.search(data.decode("utf-8", "replace")):
                return True
        return False

    def _notification(self) -> None:
        """Draw the white silhouette for the status bar (24 dp, no padding asked for)."""
        source = self.icons.monochrome
        if source is None:
            raise InputError(
                "no notification icon can be drawn from opaque art: only its alpha would show, a white square",
                file=self.icons.foreground.art.name if self.icons.foreground else "",
                remedy="Give --monochrome with a silhouette on transparency.",
            )
        for density, factor in DENSITIES:
            size = round(NOTIFICATION_DP * factor)
            path = f"{self.home.folder}/drawable-{density}/{self.wish.notification}.png"
            image = Image(path, size, size, "android", f"notification {density}", self.flavor)
            self.out.image(image, partial(_silhouette_file, source.art, size))


def layer_edits(path: str, data: bytes, layer: str, reference: str) -> list[Edit]:
    """Return what makes an adaptive icon refer to *reference* for one of its layers; nothing else changes in it.

    Raises FormatError when it cannot be read.
    """
    try:
        document = parse_xml(data)
    except FormatError as error:
        raise FormatError(error.message, file=path, line=error.line) from None
    root, source = document.root, document.source
    prefix = next((name for name, uri in root.prefixes.items() if uri == ANDROID_NS), "android")
    element = f'<{layer} {prefix}:drawable="{reference}" />'
    today = next((child for child in root.children if child.name == layer), None)
    found = today.attribute("drawable", ANDROID_NS) if today is not None else None
    if found is not None:
        span, text = (found.start, found.end), reference
        if found.value == reference:
            return []
    elif today is not None:
        span, text = (today.start, today.end), element
    else:
        first, end, text = new_child(document, root, element)
        span = (first, end)
    return [Edit(path, source.offset(span[0]), source.offset(span[1]), source.raw(text), Facet.ICON)]


def _silhouette_file(art: Art, size: int) -> bytes:
    return encoded(silhouette(placed(art.draw(size), size, 1.0)))


def _resources(tree: Tree, folder: str) -> dict[tuple[str, str], list[str]]:
    """Index the files of a resource folder by type and name, over all qualifiers."""
    found: dict[tuple[str, str], list[str]] = {}
    for path in tree.below(folder):
        inner = path[len(folder) + 1 :].split("/")
        if len(inner) == 2:
            kind = inner[0].split("-")[0]
            found.setdefault((kind, inner[1].split(".")[0]), []).append(path)
    return found
