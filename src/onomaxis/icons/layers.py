"""From art to what a slot shows: background, foreground, monochrome, the whole picture, its legacy shapes."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np

from onomaxis.icons.art import Art
from onomaxis.icons.pixels import Picture, colour, flat, masked, over
from onomaxis.icons.ribbon import Ribbon
from onomaxis.icons.slots import LAYER_DP, SHOWN_DP
from onomaxis.icons.wish import EVERYTHING, Warning


class Fitted(NamedTuple):
    """Art with its place in a square: share of the edge that it takes, shift of its centre.

    Art that ``bleeds`` fills what a launcher shows of the layer, and its edges are continued outward from there.
    """

    art: Art
    scale: float = 1.0
    shift: tuple[float, float] = (0.0, 0.0)
    bleeds: bool = False

    def draw(self, size: int) -> Picture:
        """Draw into an empty square of *size* pixels."""
        if self.bleeds:
            return _continued(self.art.draw(_inner(size)), size)
        if self.scale == 1.0 and self.shift == (0.0, 0.0):
            return self.art.draw(size)
        return self.art.draw_at(size, self.scale, self.shift)

    def sketch(self, size: int) -> Picture:
        """Draw vector art as :meth:`draw` does, but straight at its size, to be compared with such a drawing."""
        if self.bleeds:
            return _continued(self.art.sketch(_inner(size), 1.0, (0.0, 0.0)), size)
        return self.art.sketch(size, self.scale, self.shift)


def _inner(size: int) -> int:
    """Return the edge of what a launcher shows of a layer of *size* pixels."""
    inner = max(1, round(size * SHOWN_DP / LAYER_DP))
    return inner + (size - inner) % 2


def _continued(picture: Picture, size: int) -> Picture:
    """Continue the edges of a picture outward to a square of *size* pixels."""
    border = (size - picture.shape[0]) // 2
    return np.pad(picture, ((border, border), (border, border), (0, 0)), mode="edge")


@dataclass(frozen=True)
class IconSet:
    """Everything that the slots are drawn from.

    ``ground`` is the background colour (sRGB bytes), ``background`` art for it; one of the two is set. ``parts`` says
    what of the icon has art: without ``foreground`` only single layers or appearances are drawn.
    """

    foreground: Fitted | None
    ground: tuple[int, int, int] | None
    background: Art | None
    monochrome: Fitted | None
    whole: Art | None
    legacy: Art | None
    ios: Art | None
    ios_dark: Art | None
    ios_tinted: Art | None
    legacy_shape: str
    warnings: tuple[Warning, ...] = ()
    parts: frozenset[str] = EVERYTHING
    ribbon: Ribbon | None = None
    # The vector drawable of a layer, or what keeps it from being one, once it was asked for.
    vectors: dict[str, bytes | str] = field(default_factory=dict, compare=False, repr=False)
    _pictures: dict[tuple[str, int], Picture] = field(default_factory=dict, compare=False, repr=False)

    def layer(self, name: str, size: int) -> Picture:
        """Draw the layer ``foreground``, ``background`` or ``monochrome`` at *size* pixels (108 dp)."""
        if name == "background":
            if self.background is not None:
                return over(self.background.draw(size), flat(size, colour(*(self.ground or (255, 255, 255)))))
            return flat(size, colour(*(self.ground or (255, 255, 255))))
        if name == "monochrome":
            if self.monochrome is None:
                raise ValueError("there is no monochrome layer")
            plain = silhouette(self.monochrome.draw(size))
            return self.ribbon.cut(plain) if self.ribbon is not None else plain
        if self.foreground is None:
            raise ValueError("there is no foreground layer")
        return self._worn(self.foreground.draw(size), LAYER_DP)

    def _worn(self, picture: Picture, shown: float = SHOWN_DP) -> Picture:
        """Return a picture of the middle *shown* dp with the ribbon that the icon wears, if it does."""
        return self.ribbon.over(picture, shown) if self.ribbon is not None else picture

    @property
    def form(self) -> str:
        """Whether it is ``layered``, a drawing on a ground, or ``filled`` by art that is opaque to its edges."""
        return "layered" if self.whole is None else "filled"

    @property
    def bleeds(self) -> bool:
        """Whether the art fills its edges, and Android's layers continue them outward."""
        return self.foreground is not None and self.foreground.bleeds

    def full(self, size: int) -> Picture:
        """Draw the whole opaque square picture, as a launcher without a mask would show it."""
        if self.whole is not None:
            return self._worn(over(self.whole.draw(size), flat(size, colour(*(self.ground or (255, 255, 255))))))
        return self.cropped(size, SHOWN_DP)

    def cropped(self, size: int, shown: float) -> Picture:
        """Draw the middle *shown* dp of the layers' 108 at *size* pixels."""
        key = (f"{shown:g} dp", size)
        if key not in self._pictures:
            edge = round(size * LAYER_DP / shown / 2) * 2
            edge += (edge - size) % 2
            both = over(self.layer("foreground", edge), self.layer("background", edge))
            start = (edge - size) // 2
            self._pictures[key] = np.ascontiguousarray(both[start : start + size, start : start + size])
        return self._pictures[key]

    def legacy_picture(self, size: int, shape: str) -> Picture:
        """Draw the picture for launchers without adaptive icons, cut to a shape; ``art`` leaves it as it is."""
        art = self.legacy or (self.foreground.art if self.foreground is not None else None)
        if shape == "art" and art is not None:
            return self._worn(art.draw(size))
        return masked((self._worn(self.legacy.draw(size)) if self.legacy else self.full(size)), shape)

    def apple(self, size: int, appearance: str = "") -> Picture:
        """Draw the square for Apple's slots; ``dark`` and ``tinted`` need art of their own.

        It is opaque, but for a dark one on transparency: the system puts its own ground below (Apple, Human Interface
        Guidelines, "App icons").
        """
        if appearance == "dark" and self.ios_dark is not None:
            return self._worn(self.ios_dark.draw(size))
        if appearance == "tinted" and self.ios_tinted is not None:
            return over(grey(self._worn(self.ios_tinted.draw(size))), flat(size, colour(0, 0, 0)))
        ground = flat(size, colour(*(self.ground or (255, 255, 255))))
        return over(self._worn(self.ios.draw(size)) if self.ios else self.full(size), ground)


def silhouette(picture: Picture) -> Picture:
    """Return a white picture with the alpha of *picture*: what themed launchers and notifications read."""
    return np.repeat(picture[..., 3:4], 4, axis=2)


def grey(picture: Picture) -> Picture:
    """Return *picture* without colour, by luminance (ITU-R BT.709)."""
    light = picture[..., :3] @ np.array([0.2126, 0.7152, 0.0722], dtype=np.float32)
    return np.concatenate([np.repeat(light[..., None], 3, axis=2), picture[..., 3:4]], axis=2)
