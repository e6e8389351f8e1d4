"""An entry of a flavor's own: a setting in the file that its configurations share, else in each of them."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence

from onomaxis.formats.escapes import encode
from onomaxis.formats.source import Source
from onomaxis.formats.xcconfig import Include, parse_xcconfig
from onomaxis.model import Edit, Facet, Note
from onomaxis.projects.draft import Draft
from onomaxis.projects.ios.flavors.adding import Adding, NewFlavor, begins
from onomaxis.projects.ios.flavors.shared import BRAND_NAME
from onomaxis.projects.ios.project_file import Configuration, Target, XcodeProject, flavor_of
from onomaxis.projects.ios.settings import ConfigurationFiles
from onomaxis.projects.ios.targets import Identity, TargetReader
from onomaxis.projects.project import Flavor
from onomaxis.tree import Tree, join, parent

_SETTING = {Facet.VERSION_NAME: "MARKETING_VERSION", Facet.VERSION_CODE: "CURRENT_PROJECT_VERSION"}
_KEY = {Facet.VERSION_NAME: "CFBundleShortVersionString", Facet.VERSION_CODE: "CFBundleVersion"}
Pairs = list[tuple[Configuration, dict[str, str]]]


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
        pairs = _same(project, reader, app, mine, facet, text)
    else:
        pairs = _same(project, reader, app, mine, facet, text)
        refusal = _not_by_setting(reader, app, mine[0], facet)
        shared = None if refusal else _in_shared_file(project, tree, pairs, name)
        if refusal is not None or shared is not None:
            return Draft(refusals=[refusal]) if refusal is not None else Draft(edits=[shared] if shared else [])
    for item, settings in pairs:
        for start, end, written in adding.changed(item.settings, settings, keep=True):
            source = project.document.source
            edit = Edit(project.path, source.offset(start), source.offset(end), source.raw(written), facet)
            adding.draft.edits.append(edit)
    return adding.draft


def _same(
    project: XcodeProject, reader: TargetReader, app: Target, mine: Sequence[Configuration], facet: Facet, text: str
) -> Pairs:
    """Return the configurations that take a new value with the app: an ID with what follows it, versions in step."""
    archived = app.release_of(flavor_of(mine[0].name))
    base = _text(reader.identity(app, archived), facet) if archived else ""
    pairs: Pairs = []
    for other in project.targets:
        for item in other.configurations:
            if flavor_of(item.name).casefold() != flavor_of(mine[0].name).casefold():
                continue
            own = _text(reader.identity(other, item), facet)
            if facet is Facet.BUNDLE_ID and base and begins(own, base):
                pairs.append((item, {"PRODUCT_BUNDLE_IDENTIFIER": text + own[len(base) :]}))
            elif facet in _SETTING and (item in mine or (base and own == base)):
                pairs.append((item, {_SETTING[facet]: text}))
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


def _in_shared_file(project: XcodeProject, tree: Tree, pairs: Pairs, flavor: str) -> Edit | None:
    """Return the edit of the one file that all configurations of a flavor include and no others do, if it decides.

    One place says it then, not one a configuration.
    """
    mine = {item.name for item, _ in pairs}
    above = project.project_configurations
    bases = [item.base for target in project.targets for item in target.configurations if item.name in mine]
    bases += [item.base for name, item in above.items() if name in mine]
    others = {item.base for target in project.targets for item in target.configurations if item.name not in mine}
    others |= {item.base for name, item in above.items() if name not in mine}
    used = [set(_included(tree, base)) for base in bases if base]
    taken = {path for base in others if base for path in _included(tree, base)}
    common = set.intersection(*used) - taken if used else set()
    (key, text), *_ = (pair for _, settings in pairs for pair in settings.items())
    blocks = [item.settings for item, _ in pairs] + [item.settings for name, item in above.items() if name in mine]
    if not common or any(block.get(key) is not None for block in blocks):
        return None
    path = min(common, key=lambda item: (flavor.casefold() not in item.casefold(), item))
    data = tree.read(path) or b""
    source = Source.read(data)
    lead = "" if not source.view or source.view.endswith("\n") else source.newline
    line = source.raw(f"{lead}{key} = {encode('xcconfig', text)}{source.newline}")
    later = ConfigurationFiles(tree.overlay({path: data + line}, ()))
    said = [later.level(base).get(key, []) for base in bases if base]
    reached = len(used) >= len(mine) and all(found and found[-1].text == text for found in said)
    return Edit(path, len(data), len(data), line, key) if reached else None


def _included(tree: Tree, path: str, above: Iterable[str] = ()) -> Iterator[str]:
    """Yield a configuration file and every file that it includes."""
    if not tree.exists(path) or path in above:
        return
    yield path
    for statement in parse_xcconfig(tree.read(path) or b"").statements:
        if isinstance(statement, Include):
            yield from _included(tree, join(parent(path), statement.path), [*above, path])
