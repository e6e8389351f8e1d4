"""What a wish must keep to whatever it is for: readable project files, values that the platforms allow."""

from __future__ import annotations

from collections.abc import Sequence

from onomaxis.errors import RefusedError
from onomaxis.identity import rules
from onomaxis.model import Unresolved
from onomaxis.platforms import PLATFORMS
from onomaxis.projects import is_sign
from onomaxis.projects.project import Project
from onomaxis.surveys.survey import Survey
from onomaxis.wishes import Wish

# What an app is called stands in these too, beside the files that show what kind of project there is.
_BESIDE = frozenset(("AndroidManifest.xml", "Info.plist", "app.json"))


def refuse_unreadable(survey: Survey, wish: Wish, platforms: Sequence[str]) -> None:
    """Refuse while a project file cannot be read at all: its app would be forgotten. --app says it is not meant."""
    for project in survey.projects:
        if project.apps or wish.app or wish.targets or project.platform not in platforms:
            continue
        for item in project.unresolved:
            if item.whole and is_project_file(item):
                refuse_item(item, item.reason)


def refuse_item(item: Unresolved, reason: str) -> None:
    """Raise RefusedError for a place that cannot be resolved or read."""
    way = "Mend the file first" if item.whole else "Change this place by hand, or write the value as a literal"
    remedy = f"{way}; nothing was changed."
    raise RefusedError(reason, file=item.file, line=item.line, remedy=remedy)


def check_aims(aims: Sequence[tuple[Project, Wish]], both: str = "") -> None:
    """Check every value by the rules of the platforms concerned; *both* is one ID for all. Raises InputError."""
    android = any(project.platform == "android" for project, _ in aims)
    ios = any(project.platform == "ios" for project, _ in aims)
    if both:
        rules.both_ids(both, android, ios)
    for project, aim in aims:
        if aim.id and project.platform in PLATFORMS:
            (rules.bundle_id if project.platform == "ios" else rules.android_id)(aim.id)
    for aim in dict.fromkeys(aim for _, aim in aims):
        _check_values(aim, android, ios)


def _check_values(aim: Wish, android: bool, ios: bool) -> None:
    if aim.code_package:
        rules.code_package(aim.code_package)
    if aim.name is not None:
        rules.display_name(aim.name, ios)
    for tag, text in aim.names:
        rules.locale(tag)
        rules.display_name(text)
    if aim.project_name:
        rules.project_name(aim.project_name)
    if aim.version:
        rules.version_name(aim.version, ios)
    if aim.build:
        rules.build_number(aim.build, android, ios)


def is_project_file(item: Unresolved) -> bool:
    """Tell whether what cannot be read is one of the files that say what an app is called."""
    name = item.file.rpartition("/")[2]
    return name in _BESIDE or is_sign(name)
