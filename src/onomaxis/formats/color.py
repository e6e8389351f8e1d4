"""Colours as text: ``#RGB``, ``#ARGB``, ``#RRGGBB`` and ``#AARRGGBB`` (developer.android.com, "Color resources")."""

from __future__ import annotations


def channels(color: str) -> tuple[int, int, int, int]:
    """Return red, green, blue and alpha (0 to 255) of a colour. Raises ValueError for a text that is none."""
    body = color.removeprefix("#")
    if len(body) in (3, 4):
        body = "".join(char * 2 for char in body)
    alpha = int(body[:2], 16) if len(body) == 8 else 255
    red, green, blue = (int(body[-6:][i : i + 2], 16) for i in (0, 2, 4))
    return red, green, blue, alpha
