"""The names that a web page shows, and the copies of configuration that tools leave beside the page."""

from __future__ import annotations

from collections.abc import Iterator

from onomaxis.model import Facet
from onomaxis.projects.frameworks.files import Files


def config_copies(files: Files, name: str) -> Iterator[str]:
    """Yield the copies of a configuration file that the tools left in the native halves, where they are kept."""
    for path in files.below(f"/{name}"):
        if path != name:
            yield path


def web_names(files: Files, *folders: str) -> None:
    """Take in the names that a web page shows: its title, and those of the manifest beside it."""
    for folder in folders:
        for manifest in ("manifest.json", "manifest.webmanifest", "site.webmanifest"):
            for key in ("name", "short_name"):
                value = files.json_value(f"{folder}/{manifest}", key)
                files.follow(Facet.DISPLAY_NAME, value, compared=key == "name")
        for value in files.matched(f"{folder}/index.html", r"<title>(?P<value>[^<]*)</title>", "xml-text"):
            files.follow(Facet.DISPLAY_NAME, value)
        touch = (
            r"""<meta\s+name=["'](?:apple-mobile-web-app-title|application-name)["']\s+content="(?P<value>[^"]*)\""""
        )
        for value in files.matched(f"{folder}/index.html", touch, "xml-double"):
            files.follow(Facet.DISPLAY_NAME, value)
