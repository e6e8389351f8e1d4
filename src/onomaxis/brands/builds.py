"""What a CI system builds: an entry for each shipped app, as the platforms' build tools call it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

from onomaxis.model import ShippedApp
from onomaxis.projects.project import Project
from onomaxis.surveys.survey import kind_of
from onomaxis.surveys.variants import variants_of
from onomaxis.tree import Tree

Chosen = Callable[[Project, ShippedApp], bool]


def builds(tree: Tree, projects: Sequence[Project], chosen: Chosen = lambda *_: True) -> Iterator[dict[str, str]]:
    """Yield an entry for each shipped app that is *chosen*; what is not known of it is left out."""
    keys = iter(variants_of(projects, tree))
    for project in projects:
        for app, variant in ((app, next(keys)) for app in project.apps):
            if not chosen(project, app):
                continue
            told = {
                "flavor": app.flavor,
                "key": variant.key,
                "platform": app.platform,
                "id": app.id.text if app.id else "",
                "name": app.name.text if app.name else "",
                "version": app.version.text if app.version else "",
                "build": app.build.text if app.build else "",
                "module": app.module,
                **kind_of(project).built_as(project, tree, app),
                "configuration": app.configuration,
            }
            yield {key: text for key, text in told.items() if text}
