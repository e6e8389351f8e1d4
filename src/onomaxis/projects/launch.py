"""Launch screens as data: what one shall show, and what puts it there."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import NamedTuple

from onomaxis.projects.draft import Draft

PICTURES = (".png", ".webp", ".jpg")


class LaunchWish(NamedTuple):
    """What a launch screen shall show; an empty field is left as it is. ``logo`` is a path of art."""

    background: str = ""
    text: str = ""
    logo: str = ""


class LaunchPicture(NamedTuple):
    """A picture to draw the logo into, at the size that *source* has; *target* is the one that is written.

    From ``filling`` pixels of its shorter edge on it fills the screen: the logo stands in the middle of the ground.
    Zero: it never does. A picture that is not there yet has no source, but its edge as ``size``, in pixels.
    """

    source: str
    target: str
    filling: int = 0
    size: int = 0


@dataclass
class Launch:
    """What putting a brand on a launch screen gives: a draft, and the pictures to be drawn."""

    draft: Draft = field(default_factory=Draft)
    pictures: list[LaunchPicture] = field(default_factory=list)
