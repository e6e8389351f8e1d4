"""A piece of art: an SVG that is drawn at every size anew, or a raster picture that is resampled."""

from __future__ import annotations

import io
import re
import warnings
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from onomaxis import late
from onomaxis.errors import InputError
from onomaxis.formats.xml import Element
from onomaxis.icons.matrix import numbers
from onomaxis.icons.named_layers import layer_alone
from onomaxis.icons.pixels import Bytes, Picture, placed, reduced, to_bytes, to_picture
from onomaxis.icons.safety import check_size, check_svg, refuse_size
from onomaxis.icons.scaled import Scaled, render_svg
from onomaxis.paths import read_named

if TYPE_CHECKING:
    from PIL import Image

# A raster picture is kept at this edge at most: no slot is larger.
_KEPT_EDGE = 2048
_LENGTH = late.compile(
    r"\s*+\+?((?:\d++(?:\.\d*+)?|\.\d++)(?:e[+-]?\d++)?)\s*+(px|pt|mm|cm|q|in|pc|r?em|ex|)\s*+\Z", re.IGNORECASE
)
# CSS Values and Units, "Absolute lengths": pixels of 1/96 inch; an em is 16 of them where no font is set.
_UNITS = {
    **{"": 1.0, "px": 1.0, "in": 96.0, "cm": 96 / 2.54, "mm": 96 / 25.4, "q": 96 / 101.6, "pt": 96 / 72, "pc": 16.0},
    **{"em": 16.0, "rem": 16.0, "ex": 8.0},
}


class Content(NamedTuple):
    """What a file of art holds: the markup of vector art, or the picture of the other kind."""

    svg: str = ""
    raster: Picture | None = None


@dataclass(frozen=True)
class Art:
    """Art from one file, which is read again where the art is only remembered and is to be drawn after all.

    ``edge`` is the longer edge in pixels that the file offers (0 for ``vector`` art); ``aspect`` width by height. Of
    ``squared`` art the rounded corners are filled with the colours beside them. ``part`` is what of the file it is:
    a layer by its name, a square of it (:meth:`cut_to`), all of it where empty.
    """

    name: str
    aspect: float
    edge: int
    vector: bool = False
    has_text: bool = False
    frames: int = 1
    squared: bool = False
    part: str = ""
    _content: dict[str, Content] = field(default_factory=dict, compare=False, repr=False)
    _drawn: dict[int, Picture] = field(default_factory=dict, compare=False, repr=False)
    _scaled: dict[str, Scaled] = field(default_factory=dict, compare=False, repr=False)

    @property
    def content(self) -> Content:
        """What the file holds. Raises InputError when it can no longer be read."""
        if self.name not in self._content:
            whole = load_art(self.name)
            self._content[self.name] = (whole.of_part(self.part) if self.part else whole).content
        return self._content[self.name]

    @property
    def svg(self) -> str:
        """The markup of vector art."""
        return self.content.svg if self.vector else ""

    def draw(self, size: int) -> Picture:
        """Draw the art into a square of *size* pixels; art that is not square is padded, never stretched."""
        if size not in self._drawn:
            self._drawn[size] = self._draw(size)
        return self._drawn[size]

    def of_part(self, part: str) -> Art:
        """Return a part of the art as art of its own: a layer, or a square."""
        content, square = self.content, numbers(part)
        if len(square) != 3:
            return self._as(part, Content(layer_alone(content.svg, part)), self.aspect, self.edge)
        if content.raster is None:
            return self._as(part, Content(_cut(content.svg, square)), 1.0, 0)
        left, top, edge = (round(share * content.raster.shape[1]) for share in square)
        pixels = np.ascontiguousarray(content.raster[top : top + edge, left : left + edge])
        return self._as(part, Content(raster=pixels), 1.0, round(self.edge * square[2]))

    def _as(self, part: str, content: Content, aspect: float, edge: int) -> Art:
        held = {self.name: content}
        return replace(self, part=part, aspect=aspect, edge=edge, _content=held, _drawn={}, _scaled={})

    def cut_to(self, left: float, top: float, edge: float) -> Art:
        """Return the square of the art that begins there, in shares of its width, with its corners filled."""
        return replace(self.of_part(f"{left:.5f} {top:.5f} {edge:.5f}"), squared=True)

    def measured(self, size: int) -> Bytes:
        """Return the bytes of :meth:`draw`."""
        return to_bytes(self.draw(size))

    def draw_bare(self, size: int) -> Picture:
        """Draw the art without padding; its longer edge takes *size* pixels."""
        wide = size if self.aspect >= 1 else max(1, round(size * self.aspect))
        high = size if self.aspect <= 1 else max(1, round(size / self.aspect))
        if "" not in self._scaled:
            self._scaled[""] = Scaled(*self.content)
        drawn = self._scaled[""].at(wide, high)
        return filled(drawn) if self.squared else drawn

    def draw_at(self, size: int, scale: float, shift: tuple[float, float]) -> Picture:
        """Draw the art smaller or larger, off the centre, into an empty square of *size* pixels.

        *scale* is the share of the square's edge that the art's longer edge takes, *shift* what its centre is moved
        by, in shares of the edge. Vector art is placed exactly, raster art to the pixel.
        """
        inner = self.nested(scale, shift)
        if inner:
            return self._scaled.setdefault(f"{scale} {shift}", Scaled(inner)).at(size, size)
        return placed(self.draw(max(1, round(size * scale))), size, scale, shift)

    def sketch(self, size: int, scale: float, shift: tuple[float, float]) -> Picture:
        """Draw as :meth:`draw_at` does, vector art straight at its size: its edges are those of the renderer."""
        inner = self.nested(scale, shift)
        drawn = to_picture(render_svg(inner, size, size)) if inner else self.draw_at(size, scale, shift)
        return filled(drawn) if inner and self.squared else drawn

    def nested(self, scale: float, shift: tuple[float, float]) -> str:
        """Return the markup of vector art in its place in a square of 1000 units; empty where there is none."""
        return _nested(self.svg, self.aspect, scale, shift) if self.svg else ""

    def _draw(self, size: int) -> Picture:
        picture = self.draw_bare(size)
        return picture if picture.shape[0] == picture.shape[1] else placed(picture, size, 1.0)


def filled(picture: Picture) -> Picture:
    """Return a picture whose corners, where they are not opaque, take the colour that lies inwards of them.

    What is left without one takes the nearest opaque colour of its row. A shadow that shone through is gone.
    """
    solid = picture[..., 3] > 0.999
    rows = np.flatnonzero(solid.any(axis=1))
    if not rows.size:
        return picture
    first, last = solid.argmax(axis=1), solid.shape[1] - 1 - solid[:, ::-1].argmax(axis=1)
    nearest = rows[np.abs(np.arange(len(solid))[:, None] - rows[None, :]).argmin(axis=1)]
    columns = np.clip(np.arange(solid.shape[1])[None, :], first[nearest][:, None], last[nearest][:, None])
    done = np.where(solid[..., None], picture, picture[nearest[:, None], columns])
    half = min(solid.shape) // 2
    for turn in np.s_[:, :], np.s_[::-1, :], np.s_[:, ::-1], np.s_[::-1, ::-1]:
        opaque, seen, corner = solid[turn], picture[turn], done[turn][:half, :half]
        open_ = ~opaque[:half, :half]
        for step in range(1, half):
            if not open_.any():
                break
            inwards = np.s_[step : step + half, step : step + half]
            taken = open_ & opaque[inwards]
            corner[taken] = seen[inwards][taken]
            open_ &= ~opaque[inwards]
    return np.asarray(done, dtype=picture.dtype)


def load_art(path: str | Path) -> Art:
    """Read art from a file. Raises InputError when it is missing, broken, hostile or empty."""
    return art_of(str(path), art_data(path))


def art_data(path: str | Path) -> bytes:
    """Return the bytes of a file of art. Raises InputError where it cannot be read."""
    try:
        return read_named(path)
    except OSError as error:
        raise InputError(f"the art cannot be read: {error.strerror}", file=str(path)) from None


def art_of(name: str, data: bytes) -> Art:
    """Read the art of a file's bytes. Raises InputError when it is broken, hostile or empty."""
    if not data:
        raise InputError("the file is empty", file=name)
    head = data[:512].lstrip(b"\xef\xbb\xbf \t\r\n")
    if head[:2] == b"\x1f\x8b":
        raise InputError("compressed SVG is not read", file=name, remedy="Save it as plain SVG.")
    if head.startswith((b"<", b"\xff\xfe", b"\xfe\xff")):
        return _vector(name, data)
    return _raster(name, data)


def _vector(name: str, data: bytes) -> Art:
    root = check_svg(name, data)
    width, height = _svg_size(root)
    if width <= 0 or height <= 0:
        raise InputError("the art has no size: neither viewBox nor width and height", file=name)
    text = any(element.name in ("text", "tspan", "textPath") for element in root.walk())
    content = Content(_sized(_decoded(data), width, height))
    return Art(name, width / height, 0, vector=True, has_text=text, _content={name: content})


_ROOT_TAG = late.compile(r"""<(\w+:)?svg\b(?>(?:[^<>"']++|"[^"]*+"|'[^']*+')*)>""")
_VIEW_BOX = late.compile(r"""\sviewBox\s*=\s*["']([^"']*)["']""")
_PLACING = late.compile(r"""\s(?:x|y|width|height)\s*=\s*(?:"[^"]*"|'[^']*')""")


def _nested(svg: str, aspect: float, scale: float, shift: tuple[float, float]) -> str:
    """Set SVG markup that has a view box into one of 1000 x 1000 units; empty where its root is not found."""
    root = _ROOT_TAG.match(svg, max(0, svg.find("<svg")))
    if root is None or root[1] or "<!" in svg[: root.start()].replace("<!--", ""):
        return ""
    wide, high = (1000 * scale * min(1.0, aspect), 1000 * scale * min(1.0, 1 / aspect))
    left, top = 500 + 1000 * shift[0] - wide / 2, 500 + 1000 * shift[1] - high / 2
    tag = _PLACING.sub("", root[0])
    tag = f'<svg x="{left:.4f}" y="{top:.4f}" width="{wide:.4f}" height="{high:.4f}"{tag[4:]}'
    outer = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1000 1000">'
    end = svg.rfind("</svg>")
    closed = tag.endswith("/>") or end < 0
    return f"{outer}{tag}{'' if closed else svg[root.end() : end + 6]}</svg>"


def _decoded(data: bytes) -> str:
    from onomaxis.formats.source import Source

    source = Source.read(data)
    return re.sub(r"<\?xml[^>]*\?>", "", source.text(0, len(source.view)), count=1)


def _svg_size(root: Element) -> tuple[float, float]:
    """Return width and height in pixels: stated, or after the view box; 0 where there is neither."""
    box = numbers(root.value("viewBox"))
    wide, high = (box[2], box[3]) if len(box) == 4 else (0.0, 0.0)
    width, height = _length(root.value("width")), _length(root.value("height"))
    if wide > 0 and high > 0:
        if width <= 0 and height <= 0:
            return wide, high
        return width or height * wide / high, height or width * high / wide
    return width, height


def _length(text: str) -> float:
    """Return a length in pixels; 0 for none, and for a share of something outside."""
    match = _LENGTH.match(text)
    return float(match[1]) * _UNITS[match[2].lower()] if match else 0.0


def _sized(svg: str, width: float, height: float) -> str:
    """Give the root of SVG markup a view box and a size in pixels, whatever units it is written in."""
    root = _ROOT_TAG.search(svg)
    if root is None:
        return svg
    box = "" if _VIEW_BOX.search(root[0]) else f' viewBox="0 0 {width:g} {height:g}"'
    return _with_root(svg, root, _PLACING.sub("", root[0]), f' width="{width:g}" height="{height:g}"{box}')


def _cut(svg: str, square: Sequence[float]) -> str:
    """Cut the view box of sized SVG markup down to a square of it: left, top and edge in shares of its width."""
    root = _ROOT_TAG.search(svg)
    box = numbers(found[1]) if root is not None and (found := _VIEW_BOX.search(root[0])) else []
    if root is None or len(box) != 4:
        return svg
    left, top, edge = (box[2] * share for share in square)
    said = f' width="{edge:g}" height="{edge:g}" viewBox="{box[0] + left:g} {box[1] + top:g} {edge:g} {edge:g}"'
    return _with_root(svg, root, _VIEW_BOX.sub("", _PLACING.sub("", root[0])), said)


def _with_root(svg: str, root: re.Match[str], tag: str, attributes: str) -> str:
    start = len(f"<{root[1] or ''}svg")
    return f"{svg[: root.start()]}{tag[:start]}{attributes}{tag[start:]}{svg[root.end() :]}"


def _raster(name: str, data: bytes) -> Art:
    from PIL import Image, ImageOps, UnidentifiedImageError

    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            opened = Image.open(io.BytesIO(data), formats=("PNG", "JPEG", "WEBP", "GIF", "BMP"))
            check_size(name, *opened.size)
            opened.load()
        image = ImageOps.exif_transpose(opened)
    except UnidentifiedImageError:
        raise InputError(
            "this is not a picture that can be read", file=name, remedy="Give SVG, PNG, JPEG or WebP."
        ) from None
    except Image.DecompressionBombError:
        refuse_size(name)
    except InputError:
        raise
    except Exception as error:
        raise InputError(f"the picture is damaged: {error}", file=name) from None
    pixels = np.asarray(_in_srgb(image))
    if not pixels[..., 3].any():
        raise InputError("the art is fully transparent", file=name)
    picture = reduced(pixels, _KEPT_EDGE)
    frames = int(getattr(opened, "n_frames", 1))
    content = Content(raster=picture)
    return Art(name, image.width / image.height, max(image.size), frames=frames, _content={name: content})


def _in_srgb(image: Image.Image) -> Image.Image:
    """Return *image* as 8-bit RGBA in sRGB: embedded profiles honoured, 16-bit grey and palettes converted."""
    from PIL import Image, ImageCms

    profile = image.info.get("icc_profile")
    if image.mode.startswith("I") or image.mode == "F":
        values = np.asarray(image, dtype=np.float64)
        top = 65535.0 if values.max() > 255 else 255.0
        image = Image.fromarray(np.rint(values / top * 255).astype(np.uint8))
    if image.mode in ("P", "PA", "LA", "1") or "transparency" in image.info:
        image = image.convert("RGBA")
    if profile and image.mode in ("RGB", "RGBA", "L", "CMYK"):
        try:
            source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
            alpha = image.getchannel("A") if image.mode == "RGBA" else None
            base = image.convert("RGB") if image.mode == "RGBA" else image
            converted = ImageCms.profileToProfile(base, source, ImageCms.createProfile("sRGB"), outputMode="RGB")
            if converted is not None:
                converted = converted.convert("RGBA")
                if alpha is not None:
                    converted.putalpha(alpha)
                return converted
        except (ImageCms.PyCMSError, OSError):
            pass
    return image.convert("RGBA")
