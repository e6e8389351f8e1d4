"""What adding and retiring a flavor share: lists of configurations, spans of whole lines, the settings of a brand."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import NamedTuple

from onomaxis.formats.source import Source
from onomaxis.identity.schema import OWED
from onomaxis.projects.ios.project_file import Configuration, Target, XcodeProject
from onomaxis.projects.neighbours.twins import plain_key

BRAND_ID, BRAND_NAME = "BRAND_ID", "BRAND_NAME"
# What says that the property list had no name of its own: in braces, which the lists themselves never use here.
FALLBACK = "${PRODUCT_NAME}"
# What marks a line of the Podfile that was written for flavors alone.
MARK = "# flavors"


@dataclass(frozen=True)
class Lists:
    """The configuration lists of a project: whose they are (None: the project's own), and what they hold."""

    project: XcodeProject

    def __iter__(self) -> Iterator[tuple[str, Target | None, tuple[Configuration, ...]]]:
        project = self.project
        assert project.root is not None
        own = project.root.text("buildConfigurationList")
        yield own, None, project.configurations(own)
        targets = {target.id: target for target in project.targets}
        for key in project.root.texts("targets"):
            listed = project.object(key).text("buildConfigurationList")
            yield listed, targets.get(key), project.configurations(listed)


class NewFlavor(NamedTuple):
    """What a flavor's configurations are made from: *templates* are today's configurations by their new names.

    They are those of the flavor *model*, in all its combinations; of none where they are the plain ones.
    """

    flavor: str
    id: str
    name: str
    templates: Mapping[str, str]
    model: str = ""
    given: tuple[tuple[str, str], ...] = ()

    def value(self, key: str) -> str:
        """Return what the flavor has in a setting of its own: what was given for it, else the mark."""
        return next((text for name, text in self.given if plain_key(name) == plain_key(key)), OWED)


def begins(text: str, base: str) -> bool:
    """Tell whether an identifier is *base*, or lies below it."""
    return text == base or text.startswith(f"{base}.")


def recut(source: Source, begin: int, end: int, cuts: Sequence[tuple[int, int, str]]) -> str:
    """Return the text from *begin* to *end* with stretches replaced."""
    parts: list[str] = []
    at = begin
    for start, stop, text in sorted(cuts):
        parts += [source.text(at, start), text]
        at = stop
    parts.append(source.text(at, end))
    return "".join(parts)
