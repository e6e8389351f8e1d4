"""From art to what a slot shows: background, foreground, monochrome, the whole picture, its legacy shapes."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np

from onomaxis.errors import InputError
from onomaxis.icons.art import Art, load_art
from onomaxis.icons.geometry import LAYER_DP, MEASURED_AT, SAFE_DP, Circle, enclosing_circle, visible
from onomaxis.icons.look import Look, edge_colour, fitting_ground, look_at
from onomaxis.icons.pixels import Bytes, Picture, colour, flat, masked, over, to_bytes
from onomaxis.icons.slots import SHOWN_DP

_COLOUR = re.compile(r"#(?:([0-9a-fA-F]{3})|([0-9a-fA-F]{6}))\Z")
# More distinct levels of alpha or colour than this, and a silhouette would not be recognised.
_FULL = 250


@dataclass(frozen=True)
class IconWish:
    """What was asked for: paths of art, the inset (None for auto), shapes, strictness."""

    art: str = ""
    foreground: str = ""
    background: str = ""
    monochrome: str = ""
    legacy_art: str = ""
    ios_art: str = ""
    ios_dark: str = ""
    ios_tinted: str = ""
    inset: float | None = None
    legacy_shape: str = "rounded"
    slots: str = "keep"
    icon_name: str = ""
    platforms: tuple[str, ...] = ()
    apps: tuple[str, ...] = ()
    flavor: str = ""
    store_art: str = ""
    notification: str = ""
    strict: bool = False


@dataclass(frozen=True, slots=True)
class Warning:
    """Something a person should know about the art; ``code`` is stable."""

    code: str
    message: str
    file: str = ""


@dataclass(frozen=True)
class Fitted:
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
            inner = max(1, round(size * SHOWN_DP / LAYER_DP))
            inner += (size - inner) % 2
            border = (size - inner) // 2
            return np.pad(self.art.draw(inner), ((border, border), (border, border), (0, 0)), mode="edge")
        if self.scale == 1.0 and self.shift == (0.0, 0.0):
            return self.art.draw(size)
        return self.art.draw_at(size, self.scale, self.shift)


@dataclass(frozen=True)
class IconSet:
    """Everything that the slots are drawn from.

    ``ground`` is the background colour (sRGB bytes), ``background`` art for it; one of the two is set.
    """

    foreground: Fitted
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
            return silhouette(self.monochrome.draw(size))
        return self.foreground.draw(size)

    def full(self, size: int) -> Picture:
        """Draw the whole opaque square picture, as a launcher without a mask would show it."""
        if self.whole is not None:
            return over(self.whole.draw(size), flat(size, colour(*(self.ground or (255, 255, 255)))))
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
        if shape == "art":
            return (self.legacy or self.foreground.art).draw(size)
        return masked((self.legacy.draw(size) if self.legacy else self.full(size)), shape)

    def apple(self, size: int, appearance: str = "") -> Picture:
        """Draw the square for Apple's slots; ``dark`` and ``tinted`` need art of their own.

        It is opaque, but for a dark one on transparency: the system puts its own ground below (Apple, Human Interface
        Guidelines, "App icons").
        """
        if appearance == "dark" and self.ios_dark is not None:
            return self.ios_dark.draw(size)
        if appearance == "tinted" and self.ios_tinted is not None:
            return over(grey(self.ios_tinted.draw(size)), flat(size, colour(0, 0, 0)))
        ground = flat(size, colour(*(self.ground or (255, 255, 255))))
        return over(self.ios.draw(size) if self.ios else self.full(size), ground)

    def apple_pixels(self, size: int, appearance: str = "") -> Bytes:
        """Return the bytes of :meth:`apple`; opaque vector art is passed on as the renderer drew it."""
        art = None if appearance else self.ios or self.whole
        exact = art.exact(size) if art is not None else None
        return exact if exact is not None else to_bytes(self.apple(size, appearance))


def silhouette(picture: Picture) -> Picture:
    """Return a white picture with the alpha of *picture*: what themed launchers and notifications read."""
    return np.repeat(picture[..., 3:4], 4, axis=2)


def grey(picture: Picture) -> Picture:
    """Return *picture* without colour, by luminance (ITU-R BT.709)."""
    light = picture[..., :3] @ np.array([0.2126, 0.7152, 0.0722], dtype=np.float32)
    return np.concatenate([np.repeat(light[..., None], 3, axis=2), picture[..., 3:4]], axis=2)


def parse_colour(text: str) -> tuple[int, int, int] | None:
    """Read ``#RGB`` or ``#RRGGBB``; None when *text* is no colour."""
    match = _COLOUR.match(text)
    if not match:
        return None
    digits = "".join(char * 2 for char in match[1]) if match[1] else match[2]
    return int(digits[:2], 16), int(digits[2:4], 16), int(digits[4:], 16)


def build_icon_set(wish: IconWish, today: tuple[int, int, int] | None = None) -> IconSet:
    """Load the art and derive the layers that were not given; *today* is the ground of the icon that is there.

    Raises InputError with what to supply.
    """
    warnings: list[Warning] = []
    arts = {name: _load(path, wish, warnings) for name, path in _paths(wish).items() if path}
    given = arts.get("foreground")
    basis = given or arts.get("art") or arts.get("ios_art")
    if basis is None:
        raise InputError(
            "no art was given", remedy="Give --art FILE, or the layers with --foreground and --background."
        )
    look = look_at(basis)
    if look.rounded and given is None:
        basis, look = _squared(basis, warnings)
        arts = {name: basis if art.name == basis.name else art for name, art in arts.items()}
    ground = parse_colour(wish.background) if wish.background else None
    back = arts.get("background")
    framed = look.border is None or (bool(wish.background) and ground != look.border)
    bleeds = given is None and look.opaque and basis.aspect == 1 and framed
    if ground is None and back is None:
        ground = _ground(arts.get("art") or basis, look, given is not None, today, warnings)
    if given is not None and look.opaque:
        warnings.append(Warning("opaque-foreground", "the foreground covers the background everywhere", given.name))
    foreground = _bleeding(basis, wish, warnings) if bleeds else _placed(basis, look, wish, given is not None)
    monochrome = _monochrome(arts, foreground, look.opaque, warnings)
    covers = given is None and look.opaque and (bleeds or back is None)
    return IconSet(
        foreground,
        ground,
        back,
        monochrome,
        basis if covers else None,
        arts.get("legacy_art"),
        arts.get("ios_art"),
        arts.get("ios_dark"),
        arts.get("ios_tinted"),
        wish.legacy_shape,
        tuple(warnings),
    )


def _squared(art: Art, warnings: list[Warning]) -> tuple[Art, Look]:
    """Fill rounded corners: stores and launchers cut their own, and transparent ones turn black or white."""
    said = "its corners are rounded: they are filled with the colours beside them; art with square corners is better"
    warnings.append(Warning("rounded-corners", said, art.name))
    squared = replace(art, squared=True, _drawn={})
    return squared, look_at(squared)


def _ground(
    art: Art, look: Look, layered: bool, today: tuple[int, int, int] | None, warnings: list[Warning]
) -> tuple[int, int, int]:
    """Return the ground: the colour of the art's border, else today's, else one that fits the art, which is said."""
    border = look_at(art).border if layered else look.border
    if border is not None:
        return border
    if look.opaque:
        return edge_colour(look.pixels)
    if today is not None:
        return today
    chosen = fitting_ground(look.pixels)
    shown = "#{:02X}{:02X}{:02X}".format(*chosen)
    said = f"no ground was given: {shown} was taken, which fits the art; --background chooses another"
    warnings.append(Warning("ground-chosen", said, art.name))
    return chosen


def _bleeding(art: Art, wish: IconWish, warnings: list[Warning]) -> Fitted:
    """Show art that fills its edges from edge to edge, or as much smaller as the inset asks."""
    if wish.inset is not None:
        return Fitted(art, 1 - 2 * wish.inset)
    cut = 1 - math.pi / 4
    said = (
        f"a round mask cuts its corners off, {cut:.0%} of the art; --inset 0.2 shows all of it, smaller, on a ground"
    )
    warnings.append(Warning("masked", said, art.name))
    return Fitted(art, bleeds=True)


def _placed(art: Art, look: Look, wish: IconWish, layered: bool) -> Fitted:
    shown = visible(
        look.pixels if art.aspect == 1 else art.measured(MEASURED_AT), look.border if look.opaque else None
    )
    circle = enclosing_circle(shown)
    if circle is None:
        raise InputError("the art shows nothing: it is transparent, or all one colour", file=art.name)
    return _fitted(art, circle, wish.inset, shrink_only=layered)


def _paths(wish: IconWish) -> dict[str, str]:
    background = "" if wish.background and parse_colour(wish.background) else wish.background
    return {
        "art": wish.art,
        "foreground": wish.foreground,
        "background": background,
        "monochrome": wish.monochrome,
        "legacy_art": wish.legacy_art,
        "ios_art": wish.ios_art,
        "ios_dark": wish.ios_dark,
        "ios_tinted": wish.ios_tinted,
    }


def _load(path: str, wish: IconWish, warnings: list[Warning]) -> Art:
    if path.startswith("#") and not Path(path).exists():
        raise InputError(f"“{path}” is no colour such as #2E6B4F, and no file")
    art = load_art(path)
    if abs(art.aspect - 1) > 0.01:
        message = f"the art is not square ({art.aspect:.2f} to 1)"
        if wish.strict:
            raise InputError(message, file=path, remedy="Make it square, or leave --strict out to have it padded.")
        warnings.append(Warning("not-square", f"{message}: it is padded to a square", path))
    if art.has_text:
        warnings.append(Warning("text-in-art", "text depends on fonts, and none is used: turn it into paths", path))
    if 0 < art.edge < 1024:
        warnings.append(
            Warning("low-resolution", f"the art is {art.edge} pixels wide; the largest slot (1024) is blown up", path)
        )
    return art


def _fitted(art: Art, circle: Circle, inset: float | None, shrink_only: bool) -> Fitted:
    """Scale art so that what is visible fits the safe circle, or by the inset asked for."""
    if inset is not None:
        return Fitted(art, 1 - 2 * inset)
    radius = SAFE_DP / LAYER_DP / 2
    distance = np.hypot(circle.x - 0.5, circle.y - 0.5) + circle.radius
    if shrink_only and distance <= radius + 1e-6:
        return Fitted(art)
    scale = radius / circle.radius
    if shrink_only:
        scale = min(scale, 1.0)
    return Fitted(art, scale, ((0.5 - circle.x) * scale, (0.5 - circle.y) * scale))


def _monochrome(arts: dict[str, Art], foreground: Fitted, opaque: bool, warnings: list[Warning]) -> Fitted | None:
    """Return the monochrome layer: given, or derived from the foreground's alpha; None with a warning otherwise."""
    given = arts.get("monochrome")
    if given is not None:
        circle = enclosing_circle(visible(given.measured(MEASURED_AT)))
        if circle is None:
            raise InputError("the monochrome layer shows nothing", file=given.name)
        return _fitted(given, circle, None, shrink_only=True)
    if opaque:
        warnings.append(
            Warning(
                "no-monochrome",
                "the art is opaque, so no monochrome layer can be derived and themed home screens will not theme the "
                "icon: give --monochrome with a silhouette on transparency",
                foreground.art.name,
            )
        )
        return None
    lost = lost_in_silhouette(foreground.art.measured(MEASURED_AT))
    if lost > _LOST:
        warnings.append(
            Warning(
                "flat-monochrome",
                f"{lost:.0%} of the drawing is told apart by colour alone, which a themed home screen does not show: "
                "give --monochrome with a silhouette",
                foreground.art.name,
            )
        )
    return foreground


# The share of a drawing that may be lost in its silhouette, and how far a colour is another one (levels of 255).
_LOST, _OTHER_COLOUR = 0.1, 60


def lost_in_silhouette(pixels: Bytes) -> float:
    """Return which share of what shows differs in colour from the most of it: inside a silhouette it is not seen."""
    shown = pixels[pixels[..., 3] >= _FULL][:, :3].astype(np.int16)
    if not shown.size:
        return 0.0
    most = np.median(shown, axis=0)
    return float((np.abs(shown - most).max(axis=1) > _OTHER_COLOUR).mean())
