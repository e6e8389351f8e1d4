"""Draw docs/road.png: the one-way road from files to a change and back.

Run: python tools/draw_road.py (needs Pillow)
"""

from __future__ import annotations

from pathlib import Path

from PIL import Image, ImageDraw, ImageFont

TARGET = Path(__file__).parent.parent / "docs" / "road.png"
STOPS = [
    ("tree", "files, listed once,\nread at most once"),
    ("projects", "android, ios, and\nframeworks over them"),
    ("surveys", "shipped apps, mentions,\ndisagreements"),
    ("targets", "rename, brands, icons:\nwhat becomes what"),
    ("plan", "one planned change:\nedits, moves, files"),
    ("proof", "the result read again,\nplanned again: nothing"),
    ("write", "journal, stage,\nrename into place"),
]
BUILT = [
    ("package", "recognised by its contents,\nread within bounds"),
    ("facts", "what it says of itself,\nreferences followed"),
    ("comparison", "the same identity; texts\nof other brands"),
    ("findings", "text, JSON, SARIF,\nallowances"),
    ("rehearsal", "what a store would\nanswer: a simulation"),
    ("ledger", "what was published,\nand is kept"),
]
BELOW = [
    ("formats", "spans and escapes, one reader a syntax"),
    ("identity", "the platforms' rules, the identity file"),
    ("model", "data only"),
]
# The height of the second road, in pixels.
SECOND = 180
INK, GREEN, PALE, LINE = "#20302a", "#2e6b4f", "#f4ecd8", "#8aa396"


def font(size: int, bold: bool = False) -> ImageFont.FreeTypeFont:
    """Return the face that Debian's fonts-dejavu-core brings."""
    name = "DejaVuSans-Bold.ttf" if bold else "DejaVuSans.ttf"
    return ImageFont.truetype(name, size)


def box(draw: ImageDraw.ImageDraw, left: int, top: int, width: int, height: int, title: str, text: str) -> None:
    """Draw one stop with its title and what it does."""
    draw.rounded_rectangle((left, top, left + width, top + height), 10, fill=PALE, outline=GREEN, width=3)
    draw.text((left + width / 2, top + 28), title, font=font(20, bold=True), fill=INK, anchor="mm")
    draw.multiline_text(
        (left + width / 2, top + height / 2 + 16), text, font=font(13), fill=INK, anchor="mm", align="center"
    )


def arrow(draw: ImageDraw.ImageDraw, points: list[tuple[float, float]], head: tuple[int, int]) -> None:
    """Draw a line with a head that points along *head*."""
    draw.line(points, fill=GREEN, width=3, joint="curve")
    x, y = points[-1]
    dx, dy = head
    draw.polygon(
        [(x, y), (x - 10 * dx - 6 * dy, y - 10 * dy - 6 * dx), (x - 10 * dx + 6 * dy, y - 10 * dy + 6 * dx)],
        fill=GREEN,
    )


def main() -> None:
    """Draw the picture."""
    width, gap, count = 178, 26, len(STOPS)
    image = Image.new("RGB", (40 + count * width + (count - 1) * gap + 40, 400 + SECOND), "white")
    draw = ImageDraw.Draw(image)
    lefts = [40 + index * (width + gap) for index in range(count)]
    draw.text(
        (40, 30),
        "One direction, no way back inside the program; every command that writes takes it",
        font=font(20, bold=True),
        fill=INK,
        anchor="lm",
    )
    for left, (title, text) in zip(lefts, STOPS, strict=True):
        box(draw, left, 70, width, 110, title, text)
    for left in lefts[:-1]:
        arrow(draw, [(left + width, 125), (left + width + gap - 4, 125)], (1, 0))
    start, end = lefts[-1] + width / 2, lefts[0] + width / 2
    arrow(draw, [(start, 180), (start, 228), (end, 228), (end, 186)], (0, -1))
    draw.rectangle(((start + end) / 2 - 215, 212, (start + end) / 2 + 215, 246), fill="white")
    draw.text(
        ((start + end) / 2, 229),
        "undo: the journal puts the old bytes back, after a look",
        font=font(15),
        fill=INK,
        anchor="mm",
    )
    draw.text(
        (40, 284), "And what was built is read on a road of its own", font=font(20, bold=True), fill=INK, anchor="lm"
    )
    for left, (title, text) in zip(lefts, BUILT, strict=False):
        box(draw, left, 316, width, 110, title, text)
    for left in lefts[: len(BUILT) - 1]:
        arrow(draw, [(left + width, 371), (left + width + gap - 4, 371)], (1, 0))
    draw.line((40, 272 + SECOND, image.width - 40, 272 + SECOND), fill=LINE, width=2)
    draw.text((40, 292 + SECOND), "below all of them", font=font(13), fill=INK, anchor="lm")
    third = (image.width - 80 - 2 * gap) // 3
    for index, (title, text) in enumerate(BELOW):
        box(draw, 40 + index * (third + gap), 308 + SECOND, third, 76, title, text)
    image.save(TARGET, optimize=True)


if __name__ == "__main__":
    main()
