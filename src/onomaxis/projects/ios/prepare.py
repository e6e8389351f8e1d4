"""What is set right before a rename is planned: property lists that shall follow their setting, the signing team."""

from __future__ import annotations

from collections.abc import Iterator

from onomaxis.errors import FormatError
from onomaxis.formats.escapes import encode
from onomaxis.formats.openstep import Text
from onomaxis.formats.openstep import opening as openstep_opening
from onomaxis.formats.xcconfig import Setting, parse_xcconfig
from onomaxis.model import Edit, Facet, Note, Place, Value
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import place_edit, span_edit
from onomaxis.projects.ios.project_file import XcodeProject
from onomaxis.projects.ios.targets import Literal
from onomaxis.projects.ios.technical.settings import spots
from onomaxis.tree import Tree

_TEAM = "DEVELOPMENT_TEAM"


def unify(tree: Tree, literals: tuple[Literal, ...]) -> Draft:
    """Make property lists refer to the build setting that they override, and give the setting their value.

    Refused where two of them differ, because one setting cannot hold both.
    """
    draft = Draft()
    wanted: dict[tuple[str, int], tuple[Value, str, Place]] = {}
    for item in literals:
        spot = item.value.place
        draft.edits.append(place_edit(tree, spot, f"$({item.setting_name})", item.facet))
        draft.notes.append(Note(spot.at, f"{item.value.text} became $({item.setting_name})"))
        origin = item.setting.origin
        known = wanted.setdefault((origin.file, origin.start), (item.setting, item.value.text, spot))
        if known[1] != item.value.text:
            both = f"both {item.value.text} and the {known[1]} of {known[2].at}"
            said = f"{item.setting_name} cannot hold {both}: make them equal first"
            draft.refusals.append(Note(spot.at, said))
    for setting, text, _ in wanted.values():
        origin = setting.origin
        if setting.text != text:
            draft.edits.append(place_edit(tree, origin, text, Facet.VERSION_NAME))
            draft.notes.append(Note(origin.at, f"{setting.text} became {text}, as the property list said"))
    return draft


def set_team(tree: Tree, project: XcodeProject, target: str, team: str) -> Draft:
    """Write the signing team wherever one stands; where none does, into the app's configurations."""
    draft = Draft()
    source = project.document.source
    found = [spot.node for spot in spots(project) if spot.key == _TEAM]
    attributes = project.root.dict("attributes").dict("TargetAttributes") if project.root else None
    for entry in attributes.entries if attributes else ():
        node = getattr(entry.value, "get", lambda _: None)("DevelopmentTeam")
        found += [node] if isinstance(node, Text) else []
    for node in found:
        if node.value != team:
            new = source.raw(encode("openstep", team, source.text(node.start, node.end)))
            draft.edits.append(span_edit(project.path, source, node.start, node.end, new))
    files = list(_in_files(tree, project.folder, team))
    draft.edits += [edit for edit in files if edit is not None]
    if found or files:
        return draft
    for item in next((t.configurations for t in project.targets if t.name == target), ()):
        try:
            at, before, after = openstep_opening(project.document, item.settings, _TEAM)
        except FormatError:
            continue
        new = source.raw(before + encode("openstep", team) + after)
        draft.edits.append(span_edit(project.path, source, at, at, new))
    return draft


def _in_files(tree: Tree, folder: str, team: str) -> Iterator[Edit | None]:
    """Yield an edit for each team in a configuration file, None for one that is right already."""
    for path in tree.below(folder):
        if not path.endswith(".xcconfig"):
            continue
        parsed = parse_xcconfig(tree.read(path) or b"")
        for item in parsed.statements:
            if isinstance(item, Setting) and item.name == _TEAM:
                yield span_edit(path, parsed.source, item.start, item.end, team) if item.value != team else None
