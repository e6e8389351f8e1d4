"""What drawing gives: files to write, files to remove, edits, and what each image is for."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import NamedTuple

from onomaxis.errors import InputError
from onomaxis.icons.slots import LARGEST_EDGE
from onomaxis.icons.wish import Warning
from onomaxis.model import Edit
from onomaxis.workers import spread


class Image(NamedTuple):
    """One picture in one slot."""

    path: str
    width: int
    height: int
    platform: str
    slot: str
    flavor: str = ""


@dataclass
class Output:
    """Gathers what the platforms' rooms want written; pictures are drawn when all of them are known."""

    drawings: dict[str, Callable[[], bytes]] = field(default_factory=dict)
    written: dict[str, bytes] = field(default_factory=dict)
    drawn_from: dict[str, str] = field(default_factory=dict)
    measured: dict[str, object] = field(default_factory=dict)
    removed: set[str] = field(default_factory=set)
    edits: list[Edit] = field(default_factory=list)
    images: list[Image] = field(default_factory=list)
    warnings: list[Warning] = field(default_factory=list)

    def image(self, image: Image, draw: Callable[[], bytes]) -> None:
        """Write one picture, whose bytes *draw* makes. Raises InputError for a slot larger than any there is."""
        if max(image.width, image.height) > LARGEST_EDGE:
            said = f"a slot of {image.width} x {image.height} pixels is declared; no platform asks for so large a one"
            raise InputError(said, file=image.path)
        self.drawings[image.path] = draw
        self.images.append(image)

    def writes(self, path: str) -> bool:
        """Tell whether a file is to be written here."""
        return path in self.written or path in self.drawings

    def gather(self, other: Output) -> None:
        """Take in what another one gathered."""
        self.drawings |= other.drawings
        self.drawn_from |= other.drawn_from
        self.measured |= other.measured
        self.written |= other.written
        self.removed |= other.removed
        self.edits += other.edits
        self.images += other.images
        self.warnings += other.warnings

    def draw(self, most: int, tick: Callable[[int, int], None] | None = None) -> None:
        """Draw every picture, the large ones first, by up to *most* processes; *tick* gets how many of how many."""
        area = {image.path: image.width * image.height for image in self.images}
        paths = sorted(self.drawings, key=lambda path: (-area.get(path, 0), path))
        total = len(paths)
        report = (lambda done: tick(min(done, total), total)) if tick else None
        drawn = spread(paths, lambda path: self.drawings[path](), report, most)
        self.written |= dict(zip(paths, drawn, strict=True))
        self.drawings.clear()
