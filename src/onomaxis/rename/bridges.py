"""Names that code of several platforms shares: a channel between a framework and its halves changes whole or never.

Such a name is a string that begins with an ID and goes on (``org.app/native``, ``org.app.push``), spelled the same in
two of: the framework's own code, the Android half, the iOS half.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from typing import NamedTuple

from onomaxis import late
from onomaxis.model import Edit, Facet, Mention, Note
from onomaxis.projects.edits import place_edit
from onomaxis.projects.project import Project, base_id
from onomaxis.rename.targets import Target
from onomaxis.surveys.survey import Survey
from onomaxis.wishes import Renaming

_CODE = (".dart", ".kt", ".java", ".swift", ".m", ".mm", ".h", ".js", ".jsx", ".ts", ".tsx", ".cs")
_IDS = (Facet.APPLICATION_ID, Facet.BUNDLE_ID)
_REST = late.compile(rb"[./:][\w./:-]+")
_QUOTES = b"\"'`"


class Settled(NamedTuple):
    """What becomes of shared names: all edits, the texts that stay everywhere, what is to be said."""

    edits: list[Edit]
    kept: tuple[str, ...]
    notes: list[Note]


def settle_bridges(survey: Survey, targets: Sequence[Target], edits: Sequence[Edit]) -> Settled:
    """Return *edits* with every shared name changed in all its places or in none."""
    planned = {(edit.file, edit.start): edit for edit in edits}
    found = Settled(list(edits), (), [])
    for umbrella in {id(t.umbrella): t.umbrella for t in targets if t.umbrella is not None}.values():
        for text, places in sorted(_shared(survey, umbrella).items()):
            value = next(iter(places)).value
            news = {planned.get((item.place.file, item.place.start)) for item in places}
            told = {edit.new for edit in news if edit is not None}
            if not told or (len(told) == 1 and None not in news):
                continue
            new = _common(survey, umbrella, targets, value)
            here = {(item.place.file, item.place.start) for item in places}
            rest = [edit for edit in found.edits if (edit.file, edit.start) not in here]
            if new is None:
                at = min(item.place.at for item in places)
                said = f"“{text}” stays in all its {len(here)} places: code of several platforms shares it"
                found = Settled(rest, (*found.kept, text), [*found.notes, Note(at, said)])
            else:
                rest += [place_edit(survey.tree, item.place, new, item.facet) for item in places]
                found = found._replace(edits=rest)
    return found


def _shared(survey: Survey, umbrella: Project) -> dict[str, list[Mention]]:
    """Return the shared names, each with its places."""
    halves = [
        (project.folder, project.platform)
        for project in survey.projects
        if not project.umbrella and project.folder != umbrella.folder and _below(project.folder, umbrella.folder)
    ]
    groups: dict[str, list[Mention]] = defaultdict(list)
    for mention in survey.mentions:
        if (
            mention.owner is None
            and mention.place.file.endswith(_CODE)
            and _below(mention.place.file, umbrella.folder)
        ):
            text = bridge_at(survey.tree.read(mention.place.file) or b"", mention.place.start, mention.place.end)
            if text:
                groups[text].append(mention)
    found = {}
    for text, places in groups.items():
        domains = {next((p for f, p in halves if _below(item.place.file, f)), "") for item in places}
        if len(domains) > 1:
            found[text] = places
    return found


def bridge_at(data: bytes, start: int, end: int) -> str:
    """Return the whole string that an identifier begins, where it goes on behind it; empty where it is none."""
    rest = _REST.match(data, end)
    if rest is None or start == 0 or data[start - 1] not in _QUOTES:
        return ""
    return (data[start:end] + rest[0]).decode("utf-8", "replace")


def _common(survey: Survey, umbrella: Project, targets: Sequence[Target], value: str) -> str | None:
    """Return what an ID becomes for every platform that goes by it; None where they part, or one of them keeps it."""
    renamed = {target.project.platform: _applied(target.renamings, value) for target in targets}
    going_by = {
        project.platform
        for project in survey.projects
        if not project.umbrella and _below(project.folder, umbrella.folder)
        for app in project.apps
        if value in (app.id.text if app.id else "", base_id(project, app))
    }
    news = {renamed.get(platform) for platform in going_by}
    return news.pop() if len(news) == 1 else None


def _applied(renamings: Sequence[Renaming], value: str) -> str | None:
    return next((new for item in renamings if item.facet in _IDS and (new := item.apply(value))), None)


def _below(path: str, folder: str) -> bool:
    return not folder or path.startswith(f"{folder}/") or path == folder
