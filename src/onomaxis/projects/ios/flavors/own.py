"""An entry of a flavor's own: a setting in the file that its configurations share, else in each of them."""

from __future__ import annotations

import re
from collections.abc import Sequence

from onomaxis.model import Facet, Note
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import span_edit
from onomaxis.projects.ios.flavors.adding import Adding
from onomaxis.projects.ios.flavors.common_file import in_common_file
from onomaxis.projects.ios.flavors.shared import BRAND_NAME, NewFlavor, begins
from onomaxis.projects.ios.project_file import Configuration, Target, XcodeProject
from onomaxis.projects.ios.targets import Identity, TargetReader
from onomaxis.projects.project import Flavor
from onomaxis.tree import Tree

_SETTING = {Facet.VERSION_NAME: "MARKETING_VERSION", Facet.VERSION_CODE: "CURRENT_PROJECT_VERSION"}
_KEY = {Facet.VERSION_NAME: "CFBundleShortVersionString", Facet.VERSION_CODE: "CFBundleVersion"}
Pairs = list[tuple[Target, Configuration, dict[str, str]]]


def own_facet(project: XcodeProject, tree: Tree, flavor: Flavor, facet: Facet, text: str) -> Draft:
    """Write a flavor's own setting into each of its configurations."""
    target, name = flavor.module, flavor.name
    if flavor.locale:
        said = (
            f"the {flavor.locale} name stands in one file for all configurations: flavor {name} has none of its own"
        )
        return Draft(refusals=[Note(project.path, said)])
    app = next(item for item in project.targets if item.name == target)
    mine = [item for item in app.configurations if item.is_of(name)]
    adding = Adding(project, tree, NewFlavor(name, "", text, {item.name: item.name for item in mine}))
    reader = adding.reader
    if facet is Facet.DISPLAY_NAME:
        carried = adding.named(app)
        keys = carried or {BRAND_NAME: text}
        pairs = [(app, item, dict.fromkeys(keys, text)) for item in mine]
    elif facet is Facet.BUNDLE_ID:
        pairs = _same(project, reader, app, mine, facet, text)
    else:
        pairs = _same(project, reader, app, mine, facet, text)
        refusal = _not_by_setting(reader, app, mine[0], facet)
        if refusal is not None:
            return Draft(refusals=[refusal])
    told = {pair for _, _, settings in pairs for pair in settings.items()}
    meant = [(owner, item) for owner, item, _ in pairs]
    shared = (
        in_common_file(project, tree, meant, *told.pop()) if len(told) == 1 and facet is not Facet.BUNDLE_ID else None
    )
    if shared is not None:
        adding.draft.edits.append(shared)
        return adding.draft
    for _, item, settings in pairs:
        for start, end, written in adding.changed(item.settings, settings, keep=True):
            source = project.document.source
            edit = span_edit(project.path, source, start, end, written, facet)
            adding.draft.edits.append(edit)
    return adding.draft


def _same(
    project: XcodeProject, reader: TargetReader, app: Target, mine: Sequence[Configuration], facet: Facet, text: str
) -> Pairs:
    """Return the configurations that take a new value with the app: an ID with what follows it, versions in step."""
    archived = app.release_of(mine[0].flavor)
    base = _text(reader.identity(app, archived), facet) if archived else ""
    pairs: Pairs = []
    apart = {item.id for item in project.targets if item.kind == app.kind and item is not app} - {*app.embeds}
    for other in (item for item in project.targets if item.id not in apart):  # another app keeps its own
        for item in other.configurations:
            if item.name not in {one.name for one in mine}:
                continue
            own = _text(reader.identity(other, item), facet)
            if facet is Facet.BUNDLE_ID and base and begins(own, base):
                pairs.append((other, item, {"PRODUCT_BUNDLE_IDENTIFIER": text + own[len(base) :]}))
            elif facet in _SETTING and (item in mine or (base and own == base)):
                pairs.append((other, item, {_SETTING[facet]: text}))
    return pairs


def _text(identity: Identity, facet: Facet) -> str:
    value = {Facet.BUNDLE_ID: identity.id, Facet.VERSION_NAME: identity.version, Facet.VERSION_CODE: identity.build}[
        facet
    ]
    return value.text if value is not None else ""


def _not_by_setting(reader: TargetReader, app: Target, item: Configuration, facet: Facet) -> Note | None:
    """Return why a build setting of the flavor's own would not reach the app: its list does not refer to it."""
    plist = reader.plist(reader.table(app, item))
    entry = plist[1].string(_KEY[facet]) if plist else None
    setting = _SETTING[facet]
    if plist is None or entry is None or not entry.value or re.search(rf"\$[({{]{setting}[)}}:]", entry.value):
        return None
    said = f"{_KEY[facet]} is “{entry.value}” here for all flavors: let it be $({setting}), and state that setting"
    return Note(f"{plist[0]}:{plist[1].document.source.line(entry.start)}", said)
