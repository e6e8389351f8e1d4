"""One picture at any size: markup drawn large once, or a raster, and reduced in linear light from its halves."""

from __future__ import annotations

import io
from dataclasses import dataclass, field
from functools import lru_cache

import numpy as np

from onomaxis.errors import InputError
from onomaxis.icons.pixels import Bytes, Picture, halves, resample, to_picture

# Markup is drawn at these edges once, and at larger sizes as it is. A renderer mixes the colours of an edge's pixels
# as bytes, which are not light: from pixels that are a few times smaller that does not show.
_MASTERS = (512, 1024)
# Pictures are reduced from a half that is so many times larger at least, down to halves of this edge.
_ABOVE, _SMALLEST_HALF = 3, 64


@dataclass
class Scaled:
    """Markup or a raster, with its halves once they are needed."""

    svg: str = ""
    raster: Picture | None = None
    _halves: dict[int, list[Picture]] = field(default_factory=dict)

    def at(self, width: int, height: int) -> Picture:
        """Draw it at a size in pixels."""
        size = max(width, height)
        if self.raster is not None:
            return resample(_near(self._of(0, self.raster), size), width, height)
        edge = next((edge for edge in _MASTERS if size * 2 <= edge), 0)
        if size in _MASTERS:
            edge = size
        if not edge:
            return to_picture(render_svg(self.svg, width, height))
        longer = max(width, height)
        wide, high = max(1, round(edge * width / longer)), max(1, round(edge * height / longer))
        found = self._halves.get(edge) or self._of(edge, to_picture(_large(self.svg, wide, high)))
        return resample(_near(found, size), width, height)

    def _of(self, edge: int, picture: Picture) -> list[Picture]:
        if edge not in self._halves:
            self._halves[edge] = halves(picture, _SMALLEST_HALF)
        return self._halves[edge]


def _near(found: list[Picture], size: int) -> Picture:
    """Return the smallest of the halves that is still well above a size."""
    above = [picture for picture in found if max(picture.shape[:2]) >= size * _ABOVE]
    return above[-1] if above else found[0]


@lru_cache(maxsize=4)
def _large(svg: str, width: int, height: int) -> Bytes:
    """Draw markup at a master's edge; the last ones are kept: several flavors may have the same art."""
    return render_svg(svg, width, height)


def render_svg(svg: str, width: int, height: int) -> Bytes:
    """Draw SVG markup at an exact size. No system fonts are used, so that the same art gives the same bytes."""
    import resvg_py
    from PIL import Image

    try:
        data = resvg_py.svg_to_bytes(svg_string=svg, width=width, height=height, skip_system_fonts=True)
        image = Image.open(io.BytesIO(bytes(data))).convert("RGBA")
    except Exception as error:
        raise InputError(f"the art cannot be drawn: {error}") from None
    if image.size != (width, height):
        image = image.resize((width, height), Image.Resampling.LANCZOS)
    return np.asarray(image)
