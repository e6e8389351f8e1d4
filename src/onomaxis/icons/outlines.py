"""Basic shapes of SVG art as paths (SVG 1.1, "Basic shapes")."""

from __future__ import annotations

from onomaxis.formats.xml import Element
from onomaxis.icons.css import Inexpressible, length
from onomaxis.icons.matrix import Segment, numbers, parse_path


def outline(element: Element) -> list[Segment]:
    """Return the outline of a basic shape or path, in its own coordinates. Raises ValueError."""

    def get(name: str) -> float:
        return length(element.value(name))

    if element.name == "path":
        return parse_path(element.value("d"))
    if element.name == "circle":
        return _ellipse(get("cx"), get("cy"), get("r"), get("r"))
    if element.name == "ellipse":
        return _ellipse(get("cx"), get("cy"), get("rx"), get("ry"))
    if element.name == "line":
        return [("M", ((get("x1"), get("y1")),)), ("L", ((get("x2"), get("y2")),))]
    if element.name in ("polyline", "polygon"):
        values = numbers(element.value("points"))
        points = list(zip(values[::2], values[1::2], strict=False))
        if len(points) < 2:
            return []
        found: list[Segment] = [("M", (points[0],)), *(("L", (point,)) for point in points[1:])]
        return [*found, ("Z", ())] if element.name == "polygon" else found
    return _rectangle(element)


def _ellipse(cx: float, cy: float, rx: float, ry: float) -> list[Segment]:
    if rx <= 0 or ry <= 0:
        return []
    return parse_path(
        f"M{cx - rx},{cy}A{rx},{ry} 0 0 1 {cx},{cy - ry}A{rx},{ry} 0 0 1 {cx + rx},{cy}"
        f"A{rx},{ry} 0 0 1 {cx},{cy + ry}A{rx},{ry} 0 0 1 {cx - rx},{cy}Z"
    )


def _rectangle(element: Element) -> list[Segment]:
    x, y, width, height = (length(element.value(name)) for name in ("x", "y", "width", "height"))
    if "%" in element.value("width") + element.value("height"):
        raise Inexpressible("sizes in percent")
    if width <= 0 or height <= 0:
        return []
    rx, ry = element.value("rx"), element.value("ry")
    radius_x = min(length(rx or ry), width / 2)
    radius_y = min(length(ry or rx), height / 2)
    if radius_x <= 0 or radius_y <= 0:
        return parse_path(f"M{x},{y}h{width}v{height}h{-width}Z")
    arc = f"a{radius_x},{radius_y} 0 0 1 "
    wide, high = width - 2 * radius_x, height - 2 * radius_y
    return parse_path(
        f"M{x + radius_x},{y}h{wide}{arc}{radius_x},{radius_y}v{high}{arc}{-radius_x},{radius_y}h{-wide}"
        f"{arc}{-radius_x},{-radius_y}v{-high}{arc}{radius_x},{-radius_y}Z"
    )
