"""What was measured of art, in a form that can be kept: the same art with the same options is not measured again.

What is kept is plain data: where each layer stands in its square, the ground, what a person should know, the layers
that are vector drawables. Art is named by the part of the icon that it is for; its file is read only when something
is to be drawn after all.
"""

from __future__ import annotations

import base64
from collections.abc import Mapping
from typing import Any

from onomaxis.icons.art import Art
from onomaxis.icons.derive import art_paths
from onomaxis.icons.layers import Fitted, IconSet
from onomaxis.icons.ribbon import ribbon_of
from onomaxis.icons.wish import IconWish, Warning

_FITTED = ("foreground", "monochrome")
_ARTS = ("background", "whole", "legacy", "ios", "ios_dark", "ios_tinted")


def kept(wish: IconWish, icons: IconSet) -> dict[str, object]:
    """Return an icon set as data that JSON holds."""
    parts = {path: part for part, path in reversed(art_paths(wish).items()) if path}

    def art(item: Art | None) -> list[object] | None:
        if item is None:
            return None
        return [
            parts[item.name],
            item.aspect,
            item.edge,
            item.vector,
            item.has_text,
            item.frames,
            item.squared,
            item.part,
        ]

    def fitted(item: Fitted | None) -> list[object] | None:
        return [art(item.art), float(item.scale), *map(float, item.shift), item.bleeds] if item is not None else None

    return {
        **{name: fitted(getattr(icons, name)) for name in _FITTED},
        **{name: art(getattr(icons, name)) for name in _ARTS},
        "ground": [int(level) for level in icons.ground] if icons.ground is not None else None,
        "warnings": [[item.code, item.message, parts.get(item.file, ""), item.file] for item in icons.warnings],
        "parts": sorted(icons.parts),
        "vectors": {
            layer: ["", said] if isinstance(said, str) else [base64.b64encode(said).decode("ascii"), ""]
            for layer, said in icons.vectors.items()
        },
    }


def taken(wish: IconWish, told: object) -> IconSet | None:
    """Return the icon set of a wish from what was kept of it; None where that is not whole."""
    try:
        return _taken(wish, told) if isinstance(told, dict) else None
    except (LookupError, AttributeError, TypeError, ValueError, OverflowError):
        return None


def _taken(wish: IconWish, told: Mapping[str, Any]) -> IconSet:
    paths = art_paths(wish)
    known: dict[Art, Art] = {}

    def art(item: list[Any] | None) -> Art | None:
        if item is None:
            return None
        name, aspect, edge, vector, has_text, frames, squared, part = item
        if not paths[name]:
            raise ValueError(name)
        flags = (float(aspect), int(edge), bool(vector), bool(has_text), int(frames), bool(squared), str(part))
        return known.setdefault(made := Art(paths[name], *flags), made)

    def fitted(item: list[Any] | None) -> Fitted | None:
        held = art(item[0]) if item is not None else None
        if item is None or held is None:
            return None
        return Fitted(held, float(item[1]), (float(item[2]), float(item[3])), bool(item[4]))

    ground = told["ground"]
    red, green, blue = ground if ground is not None else (0, 0, 0)
    warnings = [Warning(code, said, paths[part] if part else file) for code, said, part, file in told["warnings"]]
    held = told["vectors"].items()
    return IconSet(
        fitted(told["foreground"]),
        (int(red), int(green), int(blue)) if ground is not None else None,
        art(told["background"]),
        fitted(told["monochrome"]),
        art(told["whole"]),
        art(told["legacy"]),
        art(told["ios"]),
        art(told["ios_dark"]),
        art(told["ios_tinted"]),
        wish.legacy_shape,
        warnings=tuple(warnings),
        parts=frozenset(map(str, told["parts"])),
        ribbon=ribbon_of(wish.ribbon, wish.ribbon_color, wish.ribbon_ink, wish.ribbon_corner),
        vectors={layer: base64.b64decode(data) if data else str(said) for layer, (data, said) in held},
    )
