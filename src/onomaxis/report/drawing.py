"""Versions and builds over time, per app, as one drawing for the page: the same for the same history."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from datetime import date
from typing import NamedTuple

from onomaxis.history.timeline import Event, steps

# More lines than this nobody tells apart; more labels on an axis nobody reads.
_MOST_LINES, _MOST_LABELS, _MOST_DAYS = 12, 14, 6
_COLORS = ("#2e8b62", "#b0563c", "#4f7ea6", "#a8842a", "#8a68a0", "#38a1a9")
_DASHES = ("", "7 3", "7 3 2 3", "2 3")
# Where the two panels stand, in units of the drawing; the legend stands below, so many names in a row.
_WIDTH, _LEFT, _RIGHT = 900, 128, 860
_PANELS = ((24, 224), (254, 454))
_LEGEND, _ROW, _IN_A_ROW, _APART = 508, 20, 2, 376.0

# The days on which an app got a value, and the values.
Told = Mapping[str, Sequence[tuple[str, str]]]


class Label(NamedTuple):
    """A text of an axis, and where along the axis it stands."""

    at: float
    text: str


class Curve(NamedTuple):
    """What one app was: the path of its line, its points, how both are drawn."""

    path: str
    points: tuple[tuple[float, float], ...]
    color: str
    dash: str


class Panel(NamedTuple):
    """One of the two diagrams: its title, its edges, its values, its curves."""

    title: str
    top: float
    bottom: float
    values: tuple[Label, ...]
    curves: tuple[Curve, ...]


class Key(NamedTuple):
    """A line of the legend: where it stands, what it names, how that is drawn."""

    x: float
    y: float
    text: str
    color: str
    dash: str


class Drawing(NamedTuple):
    """Everything that the page draws of the history, in units of its view; ``left`` and ``right`` bound the diagrams.

    ``rest`` says how many histories there are, where not all are drawn.
    """

    width: float
    height: float
    left: float
    right: float
    panels: tuple[Panel, ...]
    days: tuple[Label, ...]
    legend: tuple[Key, ...]
    rest: str = ""


def history_drawing(events: Sequence[Event]) -> Drawing | None:
    """Return the drawing; None where no version or build ever changed."""
    versions, builds = steps(events, "version"), steps(events, "build")
    if not any(versions.values()) and not any(builds.values()):
        return None
    lines = _lines(versions, builds)
    drawn = lines[:_MOST_LINES]
    days = sorted({day for told in (versions, builds) for _, name in drawn for day, _ in told.get(name, ())})
    first, last = (date.fromisoformat(days[at]).toordinal() for at in (0, -1))

    def across(day: str) -> float:
        share = (date.fromisoformat(day).toordinal() - first) / (last - first) if last > first else 0.5
        return round(_LEFT + 12 + share * (_RIGHT - _LEFT - 24), 1)

    panels = tuple(
        _panel(title, told, [name for _, name in drawn], edges, {day: across(day) for day in days})
        for title, told, edges in zip(("version", "build number"), (versions, builds), _PANELS, strict=True)
    )
    marked = days[:: max(1, -(-len(days) // _MOST_DAYS))]
    keys = tuple(
        Key(_LEFT + n % _IN_A_ROW * _APART, _LEGEND + n // _IN_A_ROW * float(_ROW), label, *_style(n))
        for n, (label, _) in enumerate(drawn)
    )
    rest = f"{len(drawn)} of {len(lines)} histories" if len(drawn) < len(lines) else ""
    height = keys[-1].y + (2 if rest else 1) * _ROW
    labels = tuple(Label(across(day), day) for day in marked)
    return Drawing(_WIDTH, height, _LEFT, _RIGHT, panels, labels, keys, rest)


def _panel(
    title: str, told: Told, names: Sequence[str], edges: tuple[int, int], across: Mapping[str, float]
) -> Panel:
    top, bottom = edges
    values = sorted({text for name in names for _, text in told.get(name, ())}, key=_number)
    heights = {
        text: round(bottom - 10 - at * (bottom - top - 20) / max(1, len(values) - 1), 1)
        for at, text in enumerate(values)
    }
    curves = []
    for number, name in enumerate(names):
        points = tuple((across[day], heights[text]) for day, text in told.get(name, ()))
        path = "".join(f"H{x:g}V{y:g}" if at else f"M{x:g} {y:g}" for at, (x, y) in enumerate(points))
        curves.append(Curve(path, points, *_style(number)))
    shown = values[:: max(1, -(-len(values) // _MOST_LABELS))]
    return Panel(title, top, bottom, tuple(Label(heights[text], text) for text in shown), tuple(curves))


def _style(number: int) -> tuple[str, str]:
    """Return colour and dashes of a line."""
    return _COLORS[number % len(_COLORS)], _DASHES[number // len(_COLORS) % len(_DASHES)]


def _lines(versions: Told, builds: Told) -> list[tuple[str, str]]:
    """Return a label and an app for each history that differs: lines that lie on each other are drawn once."""
    alike: dict[tuple[tuple[tuple[str, str], ...], ...], list[str]] = {}
    for name in sorted({*versions, *builds}):
        alike.setdefault((tuple(versions.get(name, ())), tuple(builds.get(name, ()))), []).append(name)
    return [
        (f"{names[0]} and {len(names) - 1} more" if names[1:] else names[0], names[0]) for names in alike.values()
    ]


def _number(text: str) -> tuple[tuple[int, ...], str]:
    return tuple(int(part) for part in re.findall(r"\d{1,9}", text)[:6]), text
