"""What was drawn of an icon, for the configuration that has to name it."""

from __future__ import annotations

from typing import NamedTuple


class DrawnIcon(NamedTuple):
    """The pictures of one home that are drawn, and what stands below the layers.

    ``ground`` is ``#RRGGBB``, empty where the background is a picture of its own. ``form`` is ``layered`` for a
    drawing on a ground, ``filled`` for art that is opaque to its edges.
    """

    files: frozenset[str]
    ground: str = ""
    form: str = "layered"
