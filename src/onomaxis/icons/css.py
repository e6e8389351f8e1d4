"""What CSS writes in SVG art: colours, declarations, shares, lengths (CSS Color Module Level 4, SVG 1.1)."""

from __future__ import annotations

import re

from PIL import ImageColor


class Inexpressible(Exception):
    """The art uses something that a vector drawable cannot hold; the message says what."""


def parse_css_colour(text: str) -> tuple[str, float]:
    """Return six hexadecimal digits and the opacity of a CSS colour. Raises Inexpressible."""
    written = text.strip().lower()
    if written == "transparent":
        return "000000", 0.0
    if written in ImageColor.colormap:
        red, green, blue = ImageColor.getrgb(written)[:3]
        return f"{red:02x}{green:02x}{blue:02x}", 1.0
    match = re.fullmatch(r"#([0-9a-f]{3,8})", written)
    if match and len(match[1]) in (3, 4, 6, 8):
        digits = match[1] if len(match[1]) > 4 else "".join(char * 2 for char in match[1])
        return digits[:6], int(digits[6:], 16) / 255 if len(digits) == 8 else 1.0
    match = re.fullmatch(r"rgba?\(([^)]*)\)", written)
    if match:
        parts = [part for part in re.split(r"[\s,/]+", match[1].strip()) if part]
        if len(parts) in (3, 4):
            values = [round(share(part) * 255) if "%" in part else round(float(part)) for part in parts[:3]]
            digits = "".join(f"{max(0, min(255, value)):02x}" for value in values)
            return digits, share(parts[3]) if len(parts) == 4 else 1.0
    raise Inexpressible(f"the colour {text}")


def declarations(text: str) -> dict[str, str]:
    """Return the properties of a ``style`` attribute, or of a rule."""
    pairs = (item.partition(":") for item in text.split(";"))
    return {name.strip(): value.replace("!important", "").strip() for name, mark, value in pairs if mark}


def share(text: str) -> float:
    """Return a number, or a percentage as a share of one."""
    written = text.strip()
    return float(written[:-1]) / 100 if written.endswith("%") else float(written or 0)


def length(text: str) -> float:
    """Return a length in user units. Raises Inexpressible for other units."""
    match = re.match(r"\s*([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)\s*(px|%|[a-z]*)", text)
    if not match:
        return 0.0
    if match[2] not in ("", "px"):
        raise Inexpressible(f"the length {text}")
    return float(match[1])
