"""Gradients of SVG art as a vector drawable writes them: their ends carried through every transform."""

from __future__ import annotations

from collections.abc import Callable

from onomaxis.icons.css import Inexpressible, share
from onomaxis.icons.matrix import Matrix, number

Get = Callable[[str, str], str]


def linear(get: Get, matrix: Matrix) -> str:
    """Place a linear gradient: its lines of equal colour are transformed, so skewing is exact too."""
    x1, y1, x2, y2 = (
        share(get(name, default)) for name, default in (("x1", "0"), ("y1", "0"), ("x2", "1"), ("y2", "0"))
    )
    start, end = matrix.point(x1, y1), matrix.point(x2, y2)
    across = (matrix.a * -(y2 - y1) + matrix.c * (x2 - x1), matrix.b * -(y2 - y1) + matrix.d * (x2 - x1))
    normal = (across[1], -across[0])
    length = normal[0] ** 2 + normal[1] ** 2
    if length < 1e-12:
        raise Inexpressible("a gradient without length")
    reach = ((end[0] - start[0]) * normal[0] + (end[1] - start[1]) * normal[1]) / length
    end = (start[0] + normal[0] * reach, start[1] + normal[1] * reach)
    values = zip(("startX", "startY", "endX", "endY"), (*start, *end), strict=True)
    return 'android:type="linear" ' + " ".join(f'android:{name}="{number(value)}"' for name, value in values)


def radial(get: Get, matrix: Matrix) -> str:
    """Place a radial gradient. Raises Inexpressible for one that is stretched or has a focal point."""
    cx, cy, r = (share(get(name, "0.5")) for name in ("cx", "cy", "r"))
    if abs(share(get("fx", str(cx))) - cx) > 1e-6 or abs(share(get("fy", str(cy))) - cy) > 1e-6:
        raise Inexpressible("a radial gradient with a focal point")
    scale = matrix.uniform()
    if scale is None:
        raise Inexpressible("a stretched radial gradient")
    x, y = matrix.point(cx, cy)
    return (
        f'android:type="radial" android:centerX="{number(x)}" android:centerY="{number(y)}" '
        f'android:gradientRadius="{number(r * scale)}"'
    )
