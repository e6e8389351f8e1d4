"""An entry of a flavor's own: a setting in each of its configurations."""

from __future__ import annotations

from onomaxis.model import Edit, Facet, Note
from onomaxis.projects.draft import Draft
from onomaxis.projects.ios.flavors.adding import Adding, NewFlavor, begins
from onomaxis.projects.ios.flavors.shared import BRAND_NAME
from onomaxis.projects.ios.project_file import XcodeProject, flavor_of
from onomaxis.projects.project import Flavor
from onomaxis.tree import Tree

_SETTING = {Facet.VERSION_NAME: "MARKETING_VERSION", Facet.VERSION_CODE: "CURRENT_PROJECT_VERSION"}


def own_facet(project: XcodeProject, tree: Tree, flavor: Flavor, facet: Facet, text: str) -> Draft:
    """Write a flavor's own setting into each of its configurations."""
    target, name = flavor.module, flavor.name
    if flavor.locale:
        said = (
            f"the {flavor.locale} name stands in one file for all configurations: flavor {name} has none of its own"
        )
        return Draft(refusals=[Note(project.path, said)])
    app = next(item for item in project.targets if item.name == target)
    mine = [item for item in app.configurations if flavor_of(item.name).casefold() == name.casefold()]
    adding = Adding(project, tree, NewFlavor(name, "", text, {item.name: item.name for item in mine}))
    reader = adding.reader
    if facet is Facet.DISPLAY_NAME:
        carried = adding.named(app)
        keys = carried or {BRAND_NAME: text}
        pairs = [(item, dict.fromkeys(keys, text)) for item in mine]
    elif facet is Facet.BUNDLE_ID:
        archived = app.release_of(flavor_of(mine[0].name))
        value = reader.identity(app, archived).id if archived else None
        base = value.text if value else ""
        pairs = []
        for other in project.targets:
            for item in other.configurations:
                own = reader.identity(other, item).id if flavor_of(item.name).casefold() == name.casefold() else None
                if own is not None and base and begins(own.text, base):
                    pairs.append((item, {"PRODUCT_BUNDLE_IDENTIFIER": text + own.text[len(base) :]}))
    else:
        pairs = [(item, {_SETTING[facet]: text}) for item in mine]
    for item, settings in pairs:
        for start, end, written in adding.changed(item.settings, settings):
            source = project.document.source
            edit = Edit(project.path, source.offset(start), source.offset(end), source.raw(written), facet)
            adding.draft.edits.append(edit)
    return adding.draft
