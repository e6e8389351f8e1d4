"""A report as one page that needs nothing beside itself: no network, no script to be read."""

from __future__ import annotations

from importlib.resources import files

from onomaxis.report.facts import ICON_EDGE, Report
from onomaxis.visible import visible

# What the title of each page ends with.
TITLE = ": what every flavor is called</title>"


def page_of(report: Report) -> str:
    """Return the page. What stands in a project's files is text in it, whatever it looks like."""
    from jinja2 import Environment, StrictUndefined

    environment = Environment(
        autoescape=True, undefined=StrictUndefined, trim_blocks=True, lstrip_blocks=True, finalize=_shown
    )
    environment.filters["breaks"] = _breaks
    source = files(__package__)
    template = environment.from_string(source.joinpath("page.html.j2").read_text("utf-8"))
    style = source.joinpath("page.css").read_text("utf-8")
    script = source.joinpath("page.js").read_text("utf-8")
    return template.render(report=report, style=style, script=script, edge=ICON_EDGE, title=TITLE)


def _shown(said: object) -> object:
    """Return text so that what would turn its direction, and control characters, can be seen; markup is ours."""
    return visible(said) if isinstance(said, str) and not hasattr(said, "__html__") else said


def _breaks(text: str, mark: str = "/") -> str:
    """Return a place that may go on in a new line behind its folders, an ID behind its dots."""
    from markupsafe import Markup, escape

    return Markup(f"{mark}<wbr>").join(escape(visible(part)) for part in text.split(mark))
