"""Write the outlines of a face's letters as data: what ribbons on icons are lettered with.

Run by hand with a face of the Roboto family (Apache License 2.0; its text lies beside the data):
``python tools/ribbon_letters.py RobotoCondensed-Bold.ttf``. Needs the package fonttools, which the program does not.
"""

from __future__ import annotations

import json
import sys
import unicodedata
from pathlib import Path

from fontTools.pens.svgPathPen import SVGPathPen  # type: ignore[import-not-found]
from fontTools.ttLib import TTFont  # type: ignore[import-not-found]

TARGET = Path(__file__).parent.parent / "src/onomaxis/icons/faces/ribbon-letters.json"
# Latin with its accents, Greek, Cyrillic; without what nobody sees.
RANGES = ((0x20, 0x7E), (0xA1, 0x17F), (0x384, 0x3CE), (0x400, 0x45F))


def main() -> None:
    """Write each letter's advance and path, in units of the em with the y axis upward."""
    font = TTFont(sys.argv[1])
    glyphs, names = font.getGlyphSet(), font.getBestCmap()
    letters = {}
    for first, last in RANGES:
        for code in range(first, last + 1):
            if code in names and unicodedata.category(chr(code)) != "Cf":
                pen = SVGPathPen(glyphs, ntos=lambda value: f"{value:g}")
                glyphs[names[code]].draw(pen)
                letters[chr(code)] = [glyphs[names[code]].width, pen.getCommands()]
    capital = font["OS/2"].sCapHeight
    TARGET.write_text(
        json.dumps({"em": font["head"].unitsPerEm, "capital": capital, "letters": letters}, separators=(",", ":"))
        + "\n"
    )


if __name__ == "__main__":
    main()
