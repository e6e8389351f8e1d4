"""What was drawn of an icon, for the configuration that has to name it."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class DrawnIcon:
    """The pictures of one home that are drawn, and what stands below the layers.

    ``ground`` is ``#RRGGBB``, empty where the background is a picture of its own. The layers of art that ``bleeds``
    show it in their visible middle and continue its edges outward. ``layered``: the art is a drawing on transparency.
    """

    files: frozenset[str]
    ground: str = ""
    bleeds: bool = False
    layered: bool = False
