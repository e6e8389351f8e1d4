"""The old name wherever else people see it: it follows where it is shown, beside launcher and store."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from onomaxis.model import Edit, Facet
from onomaxis.projects.edits import place_edit
from onomaxis.projects.project import Project
from onomaxis.projects.shown_names import ENDINGS, ROOT_WIDGETS, needle, shown_names
from onomaxis.rename.targets import Target
from onomaxis.surveys.survey import Survey


def shown_edits(survey: Survey, targets: Sequence[Target], taken: Sequence[Edit]) -> Iterator[Edit]:
    """Yield the edits of titles and labels that equal an app's old name; *taken* are the edits made already."""
    spans = {(edit.file, edit.start) for edit in taken}
    for target in targets:
        item = target.becoming(Facet.DISPLAY_NAME)
        if item is None or item.old is None or item.old == item.new or not needle(item.old):
            continue
        wanted = {
            path: data
            for path, data in survey.tree.holding([needle(item.old), *ROOT_WIDGETS])
            if path.endswith(ENDINGS) and _of_target(survey.projects, target, path)
        }
        for found in shown_names(wanted, item.old):
            spot = found.place
            if (spot.file, spot.start) not in spans:
                spans.add((spot.file, spot.start))
                yield place_edit(survey.tree, spot, item.new, Facet.DISPLAY_NAME)


def _of_target(projects: Sequence[Project], target: Target, path: str) -> bool:
    """Tell whether a file belongs to the app that is renamed: below its framework's folder, or its module's."""
    folders = [project.folder for project in projects if project.identifiers or project.umbrella]
    holding = [folder for folder in folders if not folder or path.startswith(f"{folder}/")]
    own = {target.project.folder, *({target.umbrella.folder} if target.umbrella is not None else ())}
    if not holding or max(holding, key=len) not in own:
        return False
    others = {
        app.module
        for project in projects
        if project.folder in own
        for app in project.apps
        if app.module not in target.modules and app.platform == target.project.platform
    }
    return not any(f"/{module}/" in f"/{path}" for module in others)
