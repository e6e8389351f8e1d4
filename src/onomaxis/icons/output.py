"""What drawing gives: files to write, files to remove, edits, and what each image is for."""

from __future__ import annotations

from dataclasses import dataclass, field

from onomaxis.icons.layers import Warning
from onomaxis.model import Edit


@dataclass(frozen=True, slots=True)
class Image:
    """One picture in one slot."""

    path: str
    width: int
    height: int
    platform: str
    slot: str
    flavor: str = ""


@dataclass
class Output:
    """Gathers what the platforms' rooms want written."""

    written: dict[str, bytes] = field(default_factory=dict)
    removed: set[str] = field(default_factory=set)
    edits: list[Edit] = field(default_factory=list)
    images: list[Image] = field(default_factory=list)
    warnings: list[Warning] = field(default_factory=list)

    def image(self, image: Image, data: bytes) -> None:
        """Write one picture."""
        self.written[image.path] = data
        self.images.append(image)
