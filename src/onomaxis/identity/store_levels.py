"""The platform levels that stores ask for, each with the day from which it holds, in the order of the days.

Sources: Google Play, "Target API level requirements for Google Play apps"; Apple Developer, "Upcoming requirements:
SDK minimum requirements" (the SDK that an app is built with).
"""

from __future__ import annotations

import datetime
from typing import NamedTuple


class Level(NamedTuple):
    """A level, the day from which a store asks for it, the document that says so."""

    level: int
    since: datetime.date
    source: str


_PLAY = "Google Play, Target API level requirements"
_APPLE = "Apple Developer, Upcoming requirements: SDK minimum requirements"
TARGET_LEVELS = (
    Level(33, datetime.date(2023, 8, 31), _PLAY),
    Level(34, datetime.date(2024, 8, 31), _PLAY),
    Level(35, datetime.date(2025, 8, 31), _PLAY),
)
SDK_LEVELS = (
    Level(17, datetime.date(2024, 4, 29), _APPLE),
    Level(18, datetime.date(2025, 4, 24), _APPLE),
    Level(26, datetime.date(2026, 4, 28), _APPLE),
)


def asked(levels: tuple[Level, ...], day: datetime.date) -> Level | None:
    """Return the level that holds on a day; None before all of them."""
    return next((item for item in reversed(levels) if item.since <= day), None)
