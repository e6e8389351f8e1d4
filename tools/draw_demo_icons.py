"""Draw the launcher icons of the demo project: a ladder on a green field, in plain Python, the same bytes every time.

Run: python tools/draw_demo_icons.py
"""

from __future__ import annotations

import struct
import zlib
from pathlib import Path

FIELD = (46, 107, 79)
LADDER = (244, 236, 216)
DEMO = Path(__file__).parent.parent / "src/onomaxis/demo/lendspan"
SIZES = {"mdpi": 48, "hdpi": 72, "xhdpi": 96, "xxhdpi": 144, "xxxhdpi": 192}


def in_ladder(x: float, y: float) -> bool:
    """Tell whether a point of the unit square lies on the ladder."""
    rail = 0.30 <= x <= 0.37 or 0.63 <= x <= 0.70
    rung = 0.30 <= x <= 0.70 and any(abs(y - at) <= 0.03 for at in (0.32, 0.46, 0.60, 0.74))
    return 0.2 <= y <= 0.84 and (rail or rung)


def pixels(size: int, samples: int = 4) -> bytes:
    """Return the rows of an RGB picture, each led by its PNG filter byte."""
    rows = bytearray()
    for row in range(size):
        rows.append(0)
        for column in range(size):
            hits = sum(
                in_ladder((column + (i + 0.5) / samples) / size, (row + (j + 0.5) / samples) / size)
                for i in range(samples)
                for j in range(samples)
            )
            share = hits / samples**2
            rows.extend(round(a + (b - a) * share) for a, b in zip(FIELD, LADDER, strict=True))
    return bytes(rows)


def png(size: int) -> bytes:
    """Return a PNG of *size* x *size* pixels, without an alpha channel."""

    def chunk(kind: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    head = struct.pack(">IIBBBBB", size, size, 8, 2, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", head)
        + chunk(b"IDAT", zlib.compress(pixels(size), 9))
        + chunk(b"IEND", b"")
    )


def main() -> None:
    """Write the icons of both platforms."""
    for density, size in SIZES.items():
        (DEMO / f"android/app/src/main/res/mipmap-{density}/ic_launcher.png").write_bytes(png(size))
    (DEMO / "ios/Lendspan/Assets.xcassets/AppIcon.appiconset/AppIcon.png").write_bytes(png(1024))


if __name__ == "__main__":
    main()
