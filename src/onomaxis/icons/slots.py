"""The slot tables of the platforms, as data with their sources."""

from __future__ import annotations

from typing import NamedTuple

LEGACY_DP = 48
# developer.android.com, "Adaptive icons": its layers, the edge of one, and of the part that a mask shows.
LAYERS = ("background", "foreground", "monochrome")
LAYER_DP = 108
SHOWN_DP = 72
# The circle of that part which every mask shows (the same page): the safe zone.
SAFE_DP = 66
NOTIFICATION_DP = 24
APPLE_STORE_ICON = 1024
# Store listing requirements of both stores: icons and feature graphic; name, width, height; none may have alpha.
STORE = (
    ("store-icon-512", 512, 512),
    ("store-icon-1024", APPLE_STORE_ICON, APPLE_STORE_ICON),
    ("store-feature-1024x500", 1024, 500),
)
ADAPTIVE_API = 26


class AppleSlot(NamedTuple):
    """One entry of an icon set: idiom, size in points, scale, and what the watch adds."""

    idiom: str
    size: str
    scale: str
    role: str = ""
    subtype: str = ""

    @property
    def pixels(self) -> int:
        """The edge in pixels."""
        return slot_pixels(self.size, self.scale)


def slot_pixels(size: str, scale: str) -> int:
    """Return the pixels of ``"83.5x83.5"`` at ``"2x"``; without a scale the size is in pixels."""
    points = float(size.partition("x")[0] or 0)
    factor = float(scale.rstrip("x")) if scale else 1.0
    return round(points * factor)


def _slots(idiom: str, *sizes: tuple[str, str]) -> tuple[AppleSlot, ...]:
    return tuple(AppleSlot(idiom, f"{size}x{size}", scale) for size, scale in sizes)


# Apple, Human Interface Guidelines, "App icons", and the asset catalog format reference, "App icon type".
APPLE: dict[str, tuple[AppleSlot, ...]] = {
    "iphone": _slots(
        "iphone",
        ("20", "2x"),
        ("20", "3x"),
        ("29", "2x"),
        ("29", "3x"),
        ("40", "2x"),
        ("40", "3x"),
        ("60", "2x"),
        ("60", "3x"),
    ),
    "ipad": _slots(
        "ipad",
        ("20", "1x"),
        ("20", "2x"),
        ("29", "1x"),
        ("29", "2x"),
        ("40", "1x"),
        ("40", "2x"),
        ("76", "1x"),
        ("76", "2x"),
        ("83.5", "2x"),
    ),
    "ios-marketing": _slots("ios-marketing", ("1024", "1x")),
    "car": _slots("car", ("60", "2x"), ("60", "3x")),
    "mac": _slots(
        "mac",
        ("16", "1x"),
        ("16", "2x"),
        ("32", "1x"),
        ("32", "2x"),
        ("128", "1x"),
        ("128", "2x"),
        ("256", "1x"),
        ("256", "2x"),
        ("512", "1x"),
        ("512", "2x"),
    ),
    "watch": (
        AppleSlot("watch", "24x24", "2x", "notificationCenter", "38mm"),
        AppleSlot("watch", "27.5x27.5", "2x", "notificationCenter", "42mm"),
        AppleSlot("watch", "33x33", "2x", "notificationCenter", "45mm"),
        AppleSlot("watch", "29x29", "2x", "companionSettings"),
        AppleSlot("watch", "29x29", "3x", "companionSettings"),
        AppleSlot("watch", "40x40", "2x", "appLauncher", "38mm"),
        AppleSlot("watch", "44x44", "2x", "appLauncher", "40mm"),
        AppleSlot("watch", "46x46", "2x", "appLauncher", "41mm"),
        AppleSlot("watch", "50x50", "2x", "appLauncher", "44mm"),
        AppleSlot("watch", "51x51", "2x", "appLauncher", "45mm"),
        AppleSlot("watch", "54x54", "2x", "appLauncher", "49mm"),
        AppleSlot("watch", "86x86", "2x", "quickLook", "38mm"),
        AppleSlot("watch", "98x98", "2x", "quickLook", "42mm"),
        AppleSlot("watch", "108x108", "2x", "quickLook", "44mm"),
        AppleSlot("watch", "117x117", "2x", "quickLook", "45mm"),
        AppleSlot("watch", "129x129", "2x", "quickLook", "49mm"),
    ),
    "watch-marketing": _slots("watch-marketing", ("1024", "1x")),
}

# Xcode's TARGETED_DEVICE_FAMILY to the idioms of an icon set.
FAMILY_IDIOMS = {"1": ("iphone", "ios-marketing"), "2": ("ipad", "ios-marketing"), "4": ("watch", "watch-marketing")}

# Apple, Human Interface Guidelines, "App icons" (macOS): a rounded card of 824 in a canvas of 1024 pixels.
MAC_CARD = 824 / 1024
MAC_RADIUS = 185.4 / 824
# No platform asks for a longer edge; a file that declares one is damaged or hostile.
LARGEST_EDGE = 5120
# The share of the edge that a maskable icon shows under every mask (W3C, "Web Application Manifest").
MASKABLE = 0.8
