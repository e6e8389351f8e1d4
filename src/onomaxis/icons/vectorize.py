"""SVG art as a vector drawable, where it can be expressed as one; :class:`Inexpressible` says why where not.

Every transform is carried out on the points, so that the drawable holds plain paths in a viewport of 108.
Source of the format: developer.android.com, ``VectorDrawable``.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np

from onomaxis.errors import FormatError, InputError
from onomaxis.formats.xml import Element, parse_xml
from onomaxis.icons.css import Inexpressible, declarations, length, parse_css_colour, share
from onomaxis.icons.gradients import linear, radial
from onomaxis.icons.layers import Fitted, silhouette
from onomaxis.icons.matrix import (
    Matrix,
    Segment,
    bounds,
    number,
    numbers,
    parse_path,
    parse_transform,
    path_data,
    transformed,
)
from onomaxis.icons.outlines import outline
from onomaxis.icons.pixels import Picture, colour, flat, over, to_bytes, to_picture
from onomaxis.icons.ribbon import Ribbon
from onomaxis.icons.scaled import render_svg
from onomaxis.icons.slots import LAYER_DP, SHOWN_DP
from onomaxis.icons.stylesheet import INHERITED, Styles
from onomaxis.icons.vectors import VectorReader

# A longer attribute is lost when the resource is compiled (its length is stored in 15 bits).
MAXIMUM_ATTRIBUTE = 32_767
_SHAPES = frozenset({"path", "rect", "circle", "ellipse", "line", "polyline", "polygon"})
_SKIPPED = frozenset(
    {
        "defs",
        "title",
        "desc",
        "metadata",
        "style",
        "symbol",
        "linearGradient",
        "radialGradient",
        "clipPath",
        "namedview",
    }
)
# Where the drawable is drawn again and compared with the art, and the share of pixels that may differ by more than
# 16 levels.
COMPARED_AT = 216
_LEVELS = 16
_SHARE = 0.005


class _State(NamedTuple):
    """What a shape inherits on its way down: transform, style, opacity, clips around it."""

    matrix: Matrix
    style: dict[str, str]
    opacity: float = 1.0
    clips: tuple[str, ...] = ()


@dataclass
class _Writer:
    lines: list[str] = field(default_factory=list)

    def path(self, attributes: list[tuple[str, str]], inner: list[str], clips: tuple[str, ...]) -> None:
        """Add one path, in as many groups as it has clips."""
        pad = "    "
        for clip in clips:
            self.lines += [f"{pad}<group>", f'{pad}    <clip-path android:pathData="{clip}" />']
            pad += "    "
        written = "".join(f'\n{pad}    android:{name}="{value}"' for name, value in attributes)
        if inner:
            self.lines.append(f"{pad}<path{written}>")
            self.lines += [f"{pad}    {line}" for line in inner]
            self.lines.append(f"{pad}</path>")
        else:
            self.lines.append(f"{pad}<path{written} />")
        for _ in clips:
            pad = pad[4:]
            self.lines.append(f"{pad}</group>")


def vector_layer(fitted: Fitted, white: bool, ribbon: Ribbon | None = None) -> bytes:
    """Write art as a vector drawable, a silhouette when *white*, and prove it: drawn again, it looks like the art.

    A *ribbon* lies over it.

    Raises Inexpressible when it cannot be expressed, or would not look the same.
    """
    scale = SHOWN_DP / LAYER_DP if fitted.bleeds else fitted.scale
    data = Vectorizer(fitted.art.svg, white, fitted.bleeds).drawable(scale, fitted.shift)
    try:
        again = to_picture(render_svg(VectorReader(data, lambda name: name).svg(), COMPARED_AT, COMPARED_AT))
    except (FormatError, InputError) as error:
        raise Inexpressible(str(error)) from None
    drawn = fitted.sketch(COMPARED_AT)
    wanted = silhouette(drawn) if white else drawn
    if fitted.bleeds:
        border = round(COMPARED_AT * (1 - SHOWN_DP / LAYER_DP) / 2) + 1
        inner = slice(border, COMPARED_AT - border)
        if differing(again, wanted, _ROUGH) > _ROUGH_SHARE:
            raise Inexpressible("edges that are continued outward, but those of a rectangle below all else")
        again, wanted = np.ascontiguousarray(again[inner, inner]), wanted[inner, inner]
    share = differing(again, wanted)
    if share > _SHARE:
        raise Inexpressible(f"it exactly ({share:.1%} of its pixels would differ)")
    writer = _Writer()
    for fill, path in ribbon.paths() if ribbon is not None else ():
        writer.path([("fillColor", fill), ("pathData", path)], [], ())
    more = "".join(f"{line}\n" for line in writer.lines)
    return data.replace(b"</vector>\n", f"{more}</vector>\n".encode()) if more else data


# Outside of what is shown, how far a ground that goes on may be from edges that are repeated, and in what share.
_ROUGH, _ROUGH_SHARE = 56, 0.05


def differing(one: Picture, other: Picture, levels: int = _LEVELS) -> float:
    """Return the share of pixels that differ by more than so many levels in any channel, over a middle grey."""
    ground = flat(one.shape[0], colour(128, 128, 128))
    first, second = (to_bytes(over(picture, ground)).astype(np.int16) for picture in (one, other))
    return float((np.abs(first - second).max(axis=2) > levels).mean())


class Vectorizer:
    """Turns one SVG into the body of a vector drawable.

    *white* makes a silhouette of it. A rectangle that fills the art fills the whole layer when *extended*.
    """

    def __init__(self, svg: str, white: bool = False, extended: bool = False) -> None:
        self.extended = extended
        self.root = parse_xml(svg.encode("utf-8")).root
        self.white = white
        self.by_id = {name: element for element in self.root.walk() if (name := element.value("id"))}
        self.styles = Styles(self.root)
        self.out = _Writer()
        self.gradients = False

    def drawable(self, scale: float, shift: tuple[float, float]) -> bytes:
        """Write the drawable with the art in its place: share of the edge, shift of the centre.

        Raises Inexpressible.
        """
        try:
            state = _State(self._placed(scale, shift), dict(INHERITED))
            for child in self.root.children:
                self._element(child, state._replace(style=self.styles.of(self.root, state.style)), 0)
        except ValueError as error:
            raise Inexpressible(str(error)) from None
        if not self.out.lines:
            raise Inexpressible("nothing is painted")
        aapt = '\n    xmlns:aapt="http://schemas.android.com/aapt"' if self.gradients else ""
        head = (
            '<?xml version="1.0" encoding="utf-8"?>\n<vector xmlns:android="http://schemas.android.com/apk/res/android"'
            f'{aapt}\n    android:width="{LAYER_DP}dp"\n    android:height="{LAYER_DP}dp"\n'
            f'    android:viewportWidth="{LAYER_DP}"\n    android:viewportHeight="{LAYER_DP}">\n'
        )
        return (head + "\n".join(self.out.lines) + "\n</vector>\n").encode("utf-8")

    def _placed(self, scale: float, shift: tuple[float, float]) -> Matrix:
        box = numbers(self.root.value("viewBox"))
        width, height = (numbers(self.root.value(name)) for name in ("width", "height"))
        if len(box) != 4:
            if not width or not height:
                raise Inexpressible("the art has no size")
            box = [0.0, 0.0, width[0], height[0]]
        elif width and height and abs(width[0] * box[3] - height[0] * box[2]) > 0.01 * width[0] * box[3]:
            raise Inexpressible("its viewBox is letterboxed")
        factor = LAYER_DP * scale / max(box[2], box[3])
        centre = (LAYER_DP * (0.5 + shift[0]), LAYER_DP * (0.5 + shift[1]))
        return Matrix(
            factor,
            0,
            0,
            factor,
            centre[0] - factor * (box[0] + box[2] / 2),
            centre[1] - factor * (box[1] + box[3] / 2),
        )

    # -- elements

    def _element(self, element: Element, state: _State, depth: int) -> None:
        if element.name in _SKIPPED or depth > 60:
            return
        if element.name not in _SHAPES | {"g", "use", "a", "svg"}:
            raise Inexpressible(f"<{element.name}>")
        style = self.styles.of(element, state.style)
        if style["display"] == "none":
            return
        for name in ("mask", "filter", "marker-start", "marker-mid", "marker-end"):
            if style[name] != "none":
                raise Inexpressible(name)
        if style["mix-blend-mode"] != "normal":
            raise Inexpressible("a blend mode")
        matrix = state.matrix.then(parse_transform(element.value("transform")))
        opacity = state.opacity * share(style["opacity"])
        state = _State(matrix, style, opacity, state.clips)
        if element.name == "use":
            self._use(element, state, depth)
            return
        if style["clip-path"] != "none":
            state = state._replace(clips=(*state.clips, self._clip(style["clip-path"], state)))
        if element.name in _SHAPES:
            self._shape(element, state)
            return
        if share(style["opacity"]) < 1 and sum(child.name not in _SKIPPED for child in element.walk()) > 2:
            raise Inexpressible("opacity of a group of shapes")
        if element.name == "svg":
            raise Inexpressible("an <svg> inside the <svg>")
        for child in element.children:
            self._element(child, state, depth + 1)

    def _use(self, element: Element, state: _State, depth: int) -> None:
        reference = next((a.value for a in element.attributes if a.name.rpartition(":")[2] == "href"), "")
        target = self.by_id.get(reference.removeprefix("#"))
        if target is None:
            return
        x, y = (length(element.value(name)) for name in ("x", "y"))
        moved = state._replace(matrix=state.matrix.then(Matrix(e=x, f=y)))
        if state.style["clip-path"] != "none":
            moved = moved._replace(clips=(*moved.clips, self._clip(state.style["clip-path"], state)))
        if target.name == "symbol":
            if target.value("viewBox"):
                raise Inexpressible("a symbol with a viewBox")
            for child in target.children:
                self._element(child, moved._replace(style=self.styles.of(target, state.style)), depth + 1)
        else:
            self._element(target, moved, depth + 1)

    def _clip(self, reference: str, state: _State) -> str:
        name = re.fullmatch(r"url\(\s*['\"]?#([^'\")]+)['\"]?\s*\)", reference)
        target = self.by_id.get(name[1]) if name else None
        if target is None or target.name != "clipPath":
            raise Inexpressible("a clip path that is not there")
        shapes = [child for child in target.children if child.name in _SHAPES]
        if (
            len(shapes) != 1
            or len(shapes) != len(target.children)
            or target.value("clipPathUnits") == "objectBoundingBox"
        ):
            raise Inexpressible("a clip path of several shapes")
        style = self.styles.of(shapes[0], dict(INHERITED))
        if style["clip-rule"] != "nonzero" or style["clip-path"] != "none":
            raise Inexpressible("a clip path with the even-odd rule")
        matrix = state.matrix.then(parse_transform(target.value("transform")))
        matrix = matrix.then(parse_transform(shapes[0].value("transform")))
        return _bounded(path_data(transformed(outline(shapes[0]), matrix)))

    def _shape(self, element: Element, state: _State) -> None:
        style = state.style
        if style["visibility"] != "visible":
            return
        segments = outline(element)
        if not segments:
            return
        placed = transformed(segments, state.matrix)
        if self.extended and element.name == "rect" and self._fills(placed):
            placed = parse_path(f"M0,0h{LAYER_DP}v{LAYER_DP}h{-LAYER_DP}Z")
        attributes: list[tuple[str, str]] = []
        inner: list[str] = []
        both = style["fill"] != "none" and style["stroke"] != "none"
        if both and state.opacity < 1:
            raise Inexpressible("opacity over fill and stroke")
        self._paint("fill", state, segments, attributes, inner)
        if style["fill-rule"] == "evenodd" and style["fill"] != "none":
            attributes.append(("fillType", "evenOdd"))
        if style["stroke"] != "none" and length(style["stroke-width"]) > 0:
            self._stroke(state, segments, attributes, inner)
        if not attributes and not inner:
            return
        attributes.append(("pathData", _bounded(path_data(placed))))
        self.out.path(attributes, inner, tuple(_bounded(clip) for clip in state.clips))

    def _fills(self, placed: list[Segment]) -> bool:
        """Tell whether a rectangle with square corners covers the part of the layer that is shown."""
        border = (LAYER_DP - SHOWN_DP) / 2
        corners = {(round(x, 2), round(y, 2)) for _, points in placed for x, y in points}
        low, high = border + 0.01, LAYER_DP - border - 0.01
        apart = {(x, y) for x, y in corners if (x <= low or x >= high) and (y <= low or y >= high)}
        return len(corners) == 4 and apart == corners and len({x for x, _ in corners}) == 2

    def _stroke(
        self, state: _State, segments: list[Segment], attributes: list[tuple[str, str]], inner: list[str]
    ) -> None:
        style = state.style
        if style["stroke-dasharray"] not in ("none", "0"):
            raise Inexpressible("dashes")
        scale = state.matrix.uniform()
        if scale is None:
            raise Inexpressible("a stroke under unequal scale")
        self._paint("stroke", state, segments, attributes, inner)
        attributes.append(("strokeWidth", number(length(style["stroke-width"]) * scale)))
        for name, key, usual in (
            ("stroke-linecap", "strokeLineCap", "butt"),
            ("stroke-linejoin", "strokeLineJoin", "miter"),
            ("stroke-miterlimit", "strokeMiterLimit", "4"),
        ):
            if style[name] != usual:
                if style[name] in ("miter-clip", "arcs"):
                    raise Inexpressible(f"stroke-linejoin {style[name]}")
                attributes.append((key, style[name]))

    def _paint(
        self, kind: str, state: _State, segments: list[Segment], attributes: list[tuple[str, str]], inner: list[str]
    ) -> None:
        written = state.style[kind].strip()
        if written == "none":
            return
        opacity = state.opacity * share(state.style[f"{kind}-opacity"])
        if written.startswith("url("):
            name = re.match(r"url\(\s*['\"]?#([^'\")]+)", written)
            target = self.by_id.get(name[1]) if name else None
            if target is None:
                raise Inexpressible("a paint that is not there")
            inner += [
                f'<aapt:attr name="android:{kind}Color">',
                *self._gradient(target, state, segments, opacity),
                "</aapt:attr>",
            ]
            self.gradients = True
            return
        if written == "currentColor":
            written = state.style["color"]
        attributes.append((f"{kind}Color", self._colour(written, opacity)))

    def _colour(self, written: str, opacity: float) -> str:
        """Write a colour as Android does: alpha first, left out when it is full."""
        digits, alpha = parse_css_colour(written)
        share = round(alpha * opacity * 255)
        if self.white:
            digits = "ffffff"
        return f"#{digits.upper()}" if share >= 255 else f"#{share:02X}{digits.upper()}"

    # -- gradients

    def _gradient(self, target: Element, state: _State, segments: list[Segment], opacity: float) -> list[str]:
        if target.name not in ("linearGradient", "radialGradient"):
            raise Inexpressible(f"<{target.name}> as paint")
        chain = self._chain(target)

        def get(name: str, default: str) -> str:
            return next((value for element in chain if (value := element.value(name))), default)

        matrix = state.matrix
        if get("gradientUnits", "objectBoundingBox") == "objectBoundingBox":
            box = bounds(segments)
            if box is None or box[2] - box[0] < 1e-6 or box[3] - box[1] < 1e-6:
                raise Inexpressible("a gradient on a shape without area")
            matrix = matrix.then(Matrix(box[2] - box[0], 0, 0, box[3] - box[1], box[0], box[1]))
        matrix = matrix.then(parse_transform(get("gradientTransform", "")))
        tile = {"repeat": "repeat", "reflect": "mirror"}.get(get("spreadMethod", "pad"), "")
        head = linear(get, matrix) if target.name == "linearGradient" else radial(get, matrix)
        head += f' android:tileMode="{tile}"' if tile else ""
        stops = next((found for element in chain if (found := [c for c in element.children if c.name == "stop"])), [])
        if not stops:
            raise Inexpressible("a gradient without stops")
        lines = [f"<gradient {head}>"]
        last = 0.0
        for stop in stops:
            style = {"stop-color": "black", "stop-opacity": "1"}
            style.update({k: v for k in style if (v := stop.value(k))})
            style.update({k: v for k, v in declarations(stop.value("style")).items() if k in style})
            last = max(last, min(1.0, share(stop.value("offset") or "0")))
            colour = self._colour(style["stop-color"], opacity * share(style["stop-opacity"]))
            lines.append(f'    <item android:offset="{number(last)}" android:color="{colour}" />')
        return [*lines, "</gradient>"]

    def _chain(self, target: Element) -> list[Element]:
        """Return a gradient and those it takes its attributes from."""
        chain = [target]
        while len(chain) < 10:
            reference = next((a.value for a in chain[-1].attributes if a.name.rpartition(":")[2] == "href"), "")
            above = self.by_id.get(reference.removeprefix("#")) if reference else None
            if above is None or above in chain:
                break
            chain.append(above)
        return chain


def _bounded(data: str) -> str:
    if len(data) >= MAXIMUM_ATTRIBUTE:
        raise Inexpressible("a path of more than 32,767 characters")
    return data
