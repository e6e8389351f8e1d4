"""Versions and builds over time, per app, as one drawing for the page: SVG, the same bytes for the same history."""

from __future__ import annotations

import base64
import io
import re
from collections.abc import Mapping, Sequence
from datetime import date
from typing import Any

from onomaxis.history.timeline import Event, steps

# More lines than this nobody tells apart; more labels on an axis nobody reads.
_MOST_LINES, _MOST_LABELS = 12, 14
_COLORS = ("#2e6b4f", "#7a3e2b", "#3e5c76", "#8a6d1d", "#6b4f7a", "#2f7f86")
_STYLES = ("-", "--", "-.", ":")

# The days on which an app got a value, and the values.
Told = Mapping[str, Sequence[tuple[str, str]]]


def history_picture(events: Sequence[Event]) -> str:
    """Return the drawing as an address for an image; empty where no version or build ever changed."""
    versions, builds = steps(events, "version"), steps(events, "build")
    if not any(versions.values()) and not any(builds.values()):
        return ""
    import matplotlib as mpl

    mpl.use("svg")
    from matplotlib import pyplot

    settings: Any = {"svg.hashsalt": "onomaxis", "svg.fonttype": "path", "font.size": 9, "axes.spines.top": False}
    with mpl.rc_context({**settings, "axes.spines.right": False}):
        figure, axes = pyplot.subplots(2, 1, figsize=(9, 5.2), sharex=True, layout="constrained")
        lines = _lines(versions, builds)
        drawn = lines[:_MOST_LINES]
        for axis, told, title in ((axes[0], versions, "version"), (axes[1], builds, "build number")):
            values = sorted({text for _, name in drawn for _, text in told.get(name, ())}, key=_number)
            for number, (label, name) in enumerate(drawn):
                days = [date.fromisoformat(day) for day, _ in told.get(name, ())]
                heights = [values.index(text) for _, text in told.get(name, ())]
                color, style = _COLORS[number % len(_COLORS)], _STYLES[number // len(_COLORS) % len(_STYLES)]
                axis.step(days, heights, style, where="post", marker="o", markersize=3, color=color, label=label)
            shown = range(0, len(values), max(1, -(-len(values) // _MOST_LABELS)))
            axis.set_yticks(list(shown), [values[at] for at in shown])
            axis.set_ylabel(title)
            axis.grid(axis="y", color="#dddddd", linewidth=0.6)
        rest = f"{len(drawn)} of {len(lines)} histories" if len(drawn) < len(lines) else None
        handles, labels = axes[0].get_legend_handles_labels()
        figure.legend(handles, labels, loc="outside lower left", ncols=3, frameon=False, fontsize=8, title=rest)
        figure.autofmt_xdate(rotation=0, ha="center")
        out = io.BytesIO()
        figure.savefig(out, format="svg", metadata={"Date": None, "Creator": None})
        pyplot.close(figure)
    return f"data:image/svg+xml;base64,{base64.b64encode(out.getvalue()).decode()}"


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
