"""From the art that was given to an icon set: the layers, the ground, what masks cut off; the rest is derived."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np

from onomaxis import late
from onomaxis.errors import InputError
from onomaxis.icons.art import Art, load_art
from onomaxis.icons.geometry import MEASURED_AT, Circle, beyond_circle, border_colour, enclosing_circle, visible
from onomaxis.icons.layers import Fitted, IconSet
from onomaxis.icons.look import Look, edge_colour, fitting_ground, look_at
from onomaxis.icons.named_layers import named_layers
from onomaxis.icons.pixels import Bytes
from onomaxis.icons.ribbon import ribbon_of
from onomaxis.icons.slots import LAYER_DP, SAFE_DP, SHOWN_DP
from onomaxis.icons.wish import IconWish, Warning

_COLOUR = late.compile(r"#(?:([0-9a-fA-F]{3})|([0-9a-fA-F]{6}))\Z")
# More distinct levels of alpha or colour than this, and a silhouette would not be recognised.
_FULL = 250


def parse_colour(text: str) -> tuple[int, int, int] | None:
    """Read ``#RGB`` or ``#RRGGBB``; None when *text* is not a colour."""
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
    arts = {name: _load(path, wish, warnings) for name, path in art_paths(wish).items() if path}
    given = arts.get("foreground")
    if given is None and "art" in arts and (layers := _layers(arts["art"])):
        arts = {name: art for name, art in {**layers, **arts}.items() if name != "art"}
        if wish.background:
            arts = {name: art for name, art in arts.items() if art is not layers.get("background")}
        given = arts["foreground"]
    basis = given or arts.get("art")
    ground = parse_colour(wish.background) if wish.background else None
    if basis is None:
        return _partial(wish, arts, ground, today, warnings)
    look = look_at(basis)
    if look.card and given is None and wish.inset is None:
        basis, look = _cropped(basis, look.card, warnings)
        arts = {name: basis if art.name == basis.name else art for name, art in arts.items()}
    elif look.rounded and given is None:
        basis, look = _squared(basis, warnings)
        arts = {name: basis if art.name == basis.name else art for name, art in arts.items()}
    ground, back = _one_colour(ground, arts.get("background"))
    fills = given is None and look.opaque and basis.aspect == 1 and wish.inset != "auto"
    flat = fills and look.border is not None and (back is None and ground in (None, look.border))
    if ground is None and back is None:
        ground = _ground(arts.get("art") or basis, look, given is not None, today, warnings)
    if given is not None and look.opaque:
        warnings.append(Warning("opaque-foreground", "the foreground covers the background everywhere", given.name))
    if fills:
        foreground = _edge_to_edge(basis, look if flat else look._replace(border=None), wish, warnings)
    else:
        foreground = _placed(basis, look, wish, given is not None)
    monochrome = _monochrome(arts, foreground, look.opaque, warnings)
    covers = given is None and look.opaque and (fills or back is None)
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
        ribbon=ribbon_of(wish.ribbon, wish.ribbon_color, wish.ribbon_ink, wish.ribbon_corner),
    )


def _partial(
    wish: IconWish,
    arts: dict[str, Art],
    ground: tuple[int, int, int] | None,
    today: tuple[int, int, int] | None,
    warnings: list[Warning],
) -> IconSet:
    """Make the set of which only some parts have art; nothing else is drawn from it."""
    for name in ("ios_art", "ios_dark", "ios_tinted", "legacy_art"):
        if name in arts and look_at(arts[name]).rounded:
            arts[name], _ = _squared(arts[name], warnings)
    apple = arts.get("ios_art")
    look = look_at(apple) if apple is not None else None
    ground, back = _one_colour(ground, arts.get("background"))
    if ground is None and back is None and apple is not None and look is not None:
        ground = _ground(apple, look, False, today, warnings)
    given = arts.get("monochrome")
    return IconSet(
        None,
        ground,
        back,
        _monochrome_given(given) if given is not None else None,
        None,
        arts.get("legacy_art"),
        apple,
        arts.get("ios_dark"),
        arts.get("ios_tinted"),
        wish.legacy_shape,
        tuple(warnings),
        wish.parts,
    )


def _one_colour(
    ground: tuple[int, int, int] | None, back: Art | None
) -> tuple[tuple[int, int, int] | None, Art | None]:
    """Return a ground of art that is one opaque colour all over as that colour."""
    if ground is not None or back is None:
        return ground, back
    pixels = look_at(back).pixels
    found = border_colour(pixels)
    same = found is not None and not visible(pixels, found).any()
    return (found, None) if same else (None, back)


def _layers(art: Art) -> dict[str, Art]:
    """Return the layers that a drawing names, where a foreground and another one are among them."""
    names = named_layers(art.svg) if art.vector else frozenset[str]()
    return {name: art.of_part(name) for name in names} if "foreground" in names and len(names) > 1 else {}


def _cropped(art: Art, card: tuple[float, float, float], warnings: list[Warning]) -> tuple[Art, Look]:
    """Take the margin off a finished card, and fill its corners: every launcher cuts a shape of its own."""
    said = f"it is a finished card with a margin: the middle {card[2]:.0%} are taken, its rounded corners filled"
    warnings.append(Warning("card", f"{said}; --inset auto leaves it a drawing", art.name))
    cropped = art.cut_to(*card)
    return cropped, look_at(cropped)


def _squared(art: Art, warnings: list[Warning]) -> tuple[Art, Look]:
    """Fill rounded corners: stores and launchers cut their own, and transparent ones turn black or white."""
    said = "its corners are rounded: they are filled with the colours beside them; art with square corners is better"
    warnings.append(Warning("rounded-corners", said, art.name))
    squared = replace(art, squared=True, _drawn={}, _scaled={})
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


def _edge_to_edge(art: Art, look: Look, wish: IconWish, warnings: list[Warning]) -> Fitted:
    """Show art that fills its edges in all that a launcher shows of the layer, or as much smaller as was asked.

    Around art with a border of one colour the ground of that colour goes on; else its edges are continued outward.
    """
    if isinstance(wish.inset, float):
        return Fitted(art, 1 - 2 * wish.inset)
    lost = beyond_circle(visible(look.pixels, look.border))
    if lost > _LEAST_CUT:
        said = f"a round mask cuts off {lost:.0%} of the art"
        remedy = (
            "--inset 0.2 shows all of it, smaller, on a ground" if look.border is None else "--inset auto fits it"
        )
        warnings.append(Warning("masked", f"{said}, at its corners; {remedy}", art.name))
    return Fitted(art, SHOWN_DP / LAYER_DP) if look.border is not None else Fitted(art, bleeds=True)


# A smaller share of the drawing than this is an edge's last pixels.
_LEAST_CUT = 0.002


def _placed(art: Art, look: Look, wish: IconWish, layered: bool) -> Fitted:
    shown = visible(
        look.pixels if art.aspect == 1 else art.measured(MEASURED_AT), look.border if look.opaque else None
    )
    circle = enclosing_circle(shown)
    if circle is None:
        raise InputError("the art shows nothing: it is transparent, or all one colour", file=art.name)
    inset = wish.inset if isinstance(wish.inset, float) else None
    return _fitted(art, circle, inset, shrink_only=layered)


def art_paths(wish: IconWish) -> dict[str, str]:
    """Return the file of each part of an icon that has art, empty for the others."""
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
        raise InputError(f"“{path}” is neither a colour such as #2E6B4F nor a file")
    art = load_art(path)
    if abs(art.aspect - 1) > 0.01:
        message = f"the art is not square ({art.aspect:.2f} to 1)"
        if wish.strict:
            raise InputError(message, file=path, remedy="Make it square, or leave --strict out to have it padded.")
        warnings.append(Warning("not-square", f"{message}: it is padded to a square", path))
    if art.has_text:
        said = "its text is lost: fonts differ from machine to machine, and none is used; turn it into paths"
        warnings.append(Warning("text-in-art", said, path))
    if art.frames > 1:
        said = f"the picture is animated: the first of its {art.frames} frames is drawn"
        warnings.append(Warning("first-frame", said, path))
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
        return _monochrome_given(given)
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


def _monochrome_given(art: Art) -> Fitted:
    """Place a silhouette as it is drawn, smaller where it leaves the safe zone."""
    circle = enclosing_circle(visible(art.measured(MEASURED_AT)))
    if circle is None:
        raise InputError("the monochrome layer shows nothing", file=art.name)
    return _fitted(art, circle, None, shrink_only=True)


# The share of a drawing that may be lost in its silhouette, and how far a colour is another one (levels of 255).
_LOST, _OTHER_COLOUR = 0.1, 60


def lost_in_silhouette(pixels: Bytes) -> float:
    """Return which share of what shows differs in colour from the most of it: inside a silhouette it is not seen."""
    shown = pixels[pixels[..., 3] >= _FULL][:, :3].astype(np.int16)
    if not shown.size:
        return 0.0
    most = np.median(shown, axis=0)
    return float((np.abs(shown - most).max(axis=1) > _OTHER_COLOUR).mean())
