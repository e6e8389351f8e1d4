"""Vector drawables read back: as SVG, so that existing icons can be shown and measured.

Source of the format: developer.android.com, ``VectorDrawable``; colours are ``#AARRGGBB``, alpha first.
"""

from __future__ import annotations

from collections.abc import Callable

from onomaxis import late
from onomaxis.errors import FormatError
from onomaxis.formats.xml import Element, parse_xml
from onomaxis.platforms import ANDROID_NS

_HEX = late.compile(r"#([0-9a-fA-F]{3,8})\Z")
Lookup = Callable[[str], str]


def hex_colour(text: str) -> tuple[str, float] | None:
    """Return ``#RRGGBB`` and opacity of an Android colour literal, or None when it is none."""
    match = _HEX.match(text.strip())
    if not match:
        return None
    digits = match[1]
    if len(digits) in (3, 4):
        digits = "".join(char * 2 for char in digits)
    if len(digits) == 6:
        return f"#{digits}", 1.0
    if len(digits) == 8:
        return f"#{digits[2:]}", int(digits[:2], 16) / 255
    return None


class VectorReader:
    """Turns one vector drawable into SVG markup; *lookup* resolves ``@color/…`` to a literal."""

    def __init__(self, data: bytes, lookup: Lookup) -> None:
        self.root = parse_xml(data).root
        if self.root.name != "vector":
            raise FormatError(f"this is not a vector drawable but <{self.root.name}>", line=1)
        self.lookup = lookup
        self.defs: list[str] = []

    def svg(self) -> str:
        """Return the markup. Raises FormatError when the drawable has no viewport."""
        try:
            width, height = (float(self._get(self.root, f"viewport{side}")) for side in ("Width", "Height"))
        except ValueError:
            raise FormatError("the vector drawable has no viewport", line=1) from None
        body = "".join(self._element(child) for child in self._clipped(self.root))
        alpha = self._get(self.root, "alpha")
        group = f'<g opacity="{alpha}">{body}</g>' if alpha else body
        defs = f"<defs>{''.join(self.defs)}</defs>" if self.defs else ""
        head = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width:g} {height:g}"'
        return f'{head} width="{width:g}" height="{height:g}">{defs}{group}</svg>'

    @staticmethod
    def _get(element: Element, name: str, default: str = "") -> str:
        return element.value(name, ANDROID_NS) or default

    def _clipped(self, parent: Element) -> list[Element]:
        """Return what a group draws; its clip paths are handled by :meth:`_group`."""
        return [child for child in parent.children if child.name in ("path", "group")]

    def _element(self, element: Element) -> str:
        return self._group(element) if element.name == "group" else self._path(element)

    def _group(self, element: Element) -> str:
        pivot_x, pivot_y = self._get(element, "pivotX", "0"), self._get(element, "pivotY", "0")
        move_x, move_y = self._get(element, "translateX", "0"), self._get(element, "translateY", "0")
        scale = f"{self._get(element, 'scaleX', '1')} {self._get(element, 'scaleY', '1')}"
        turn = self._get(element, "rotation", "0")
        transform = (
            f"translate({move_x} {move_y}) translate({pivot_x} {pivot_y}) rotate({turn}) scale({scale}) "
            f"translate({_negative(pivot_x)} {_negative(pivot_y)})"
        )
        body = "".join(self._element(child) for child in self._clipped(element))
        for clip in (child for child in element.children if child.name == "clip-path"):
            name = f"c{len(self.defs)}"
            self.defs.append(f'<clipPath id="{name}"><path d="{_quoted(self._get(clip, "pathData"))}"/></clipPath>')
            body = f'<g clip-path="url(#{name})">{body}</g>'
        return f'<g transform="{transform}">{body}</g>'

    def _path(self, element: Element) -> str:
        rule = "evenodd" if self._get(element, "fillType") == "evenOdd" else "nonzero"
        parts = [f'd="{_quoted(self._get(element, "pathData"))}"', f'fill-rule="{rule}"']
        parts += self._paint(element, "fill", "fillColor", self._get(element, "fillAlpha", "1"))
        parts += self._paint(element, "stroke", "strokeColor", self._get(element, "strokeAlpha", "1"))
        for name, attribute in (
            ("strokeWidth", "stroke-width"),
            ("strokeLineCap", "stroke-linecap"),
            ("strokeLineJoin", "stroke-linejoin"),
            ("strokeMiterLimit", "stroke-miterlimit"),
        ):
            value = self._get(element, name)
            if value:
                parts.append(f'{attribute}="{_quoted(value)}"')
        if not self._get(element, "strokeWidth"):
            parts.append('stroke-width="0"')
        return f"<path {' '.join(parts)}/>"

    def _paint(self, element: Element, kind: str, name: str, alpha: str) -> list[str]:
        gradient = self._gradient(element, name)
        if gradient:
            return [f'{kind}="url(#{gradient})"', f'{kind}-opacity="{alpha}"']
        written = self._get(element, name)
        colour = hex_colour(self.lookup(written) if written.startswith(("@", "?")) else written)
        if colour is None:
            return [f'{kind}="none"']
        return [f'{kind}="{colour[0]}"', f'{kind}-opacity="{colour[1] * float(alpha or 1):.4g}"']

    def _gradient(self, element: Element, name: str) -> str:
        """Turn an inline gradient (``aapt:attr``) into a definition; return its name."""
        for holder in element.children:
            if holder.name != "attr" or holder.value("name").rpartition(":")[2] != name:
                continue
            for node in holder.children:
                if node.name == "gradient":
                    return self._defined(node)
        return ""

    def _defined(self, node: Element) -> str:
        name = f"g{len(self.defs)}"
        kind = self._get(node, "type", "linear")
        spread = {"repeat": "repeat", "mirror": "reflect"}.get(self._get(node, "tileMode"), "pad")
        if kind == "radial":
            place = (
                f'cx="{self._get(node, "centerX", "0")}" cy="{self._get(node, "centerY", "0")}" '
                f'r="{self._get(node, "gradientRadius", "1")}"'
            )
        else:
            place = " ".join(
                f'{short}="{self._get(node, long, "0")}"'
                for short, long in (("x1", "startX"), ("y1", "startY"), ("x2", "endX"), ("y2", "endY"))
            )
        tag = "radialGradient" if kind == "radial" else "linearGradient"
        stops = "".join(self._stops(node))
        self.defs.append(
            f'<{tag} id="{name}" gradientUnits="userSpaceOnUse" spreadMethod="{spread}" {place}>{stops}</{tag}>'
        )
        return name

    def _stops(self, node: Element) -> list[str]:
        items = [(self._get(c, "offset", "0"), self._get(c, "color")) for c in node.children if c.name == "item"]
        if not items:
            ends = (("0", "startColor"), ("0.5", "centerColor"), ("1", "endColor"))
            items = [(offset, self._get(node, key)) for offset, key in ends if self._get(node, key)]
        stops = []
        for offset, written in items:
            colour = hex_colour(self.lookup(written) if written.startswith("@") else written) or ("#000000", 0.0)
            stops.append(f'<stop offset="{offset}" stop-color="{colour[0]}" stop-opacity="{colour[1]:.4g}"/>')
        return stops


def _negative(number: str) -> str:
    return number[1:] if number.startswith("-") else f"-{number}"


def _quoted(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;").replace('"', "&quot;")
