"""The end of a flavor: its configurations, and the files that nothing but the flavor names."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

from onomaxis.flavor_names import flavor_word
from onomaxis.formats.escapes import encode
from onomaxis.formats.openstep import Text
from onomaxis.formats.plist import Plist, PlistString
from onomaxis.formats.source import Source
from onomaxis.formats.xcconfig import Include, parse_xcconfig
from onomaxis.model import Edit, Facet, Note
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import place_edit, span_edit
from onomaxis.projects.ios.flavors.pods import without
from onomaxis.projects.ios.flavors.schemes import schemes_of
from onomaxis.projects.ios.flavors.shared import BRAND_NAME, FALLBACK, Lists
from onomaxis.projects.ios.insertion import isa, items_out, line_span, object_entries
from onomaxis.projects.ios.project_file import Configuration, XcodeProject, flavor_of
from onomaxis.projects.ios.settings import ConfigurationFiles
from onomaxis.projects.ios.targets import TargetReader
from onomaxis.projects.ios.text_folders import SETTING, texts_in
from onomaxis.projects.project import Flavor, build_type, place
from onomaxis.projects.services import GOOGLE_IOS, SERVICE_INPUT, SERVICE_SETTING
from onomaxis.tree import Tree, inside, join, parent


def retire_flavor(project: XcodeProject, tree: Tree, gone: Flavor) -> Draft:
    """Remove a flavor's configurations from project and targets; with the files that belong to it alone.

    Files go where nothing but the flavor names them: its configuration files, schemes and icon sets.
    """
    draft, flavor = Draft(), gone.name
    source = project.document.source
    entries = object_entries(project)
    removed: list[Configuration] = []
    kept: list[Configuration] = []
    spans: list[tuple[int, int]] = []
    for listed, _, configurations in Lists(project):
        mine = [item for item in configurations if any(item.is_of(name) for name in gone.made or (flavor,))]
        removed += mine
        kept += [item for item in configurations if item not in mine]
        node = project.object(listed).get("buildConfigurations")
        spans += items_out(source, node, {item.id for item in mine})
        spans += [line_span(source, entries[item.id].key.start, entries[item.id].end) for item in mine]
        default = project.object(listed).get("defaultConfigurationName")
        if isinstance(default, Text) and default.value in {item.name for item in mine}:
            others = [item.name for item in configurations if item not in mine]
            if not others:
                said = f"all configurations of a list are of {flavor}: nothing would build after it"
                draft.refusals.append(Note(f"{project.path}:{source.line(default.start)}", said))
                continue
            draft.edits.append(_next_default(project, default, flavor, others))
    if not removed:
        return draft
    names = {item.name for item in removed}
    files = _configuration_files(project, tree, removed, kept, flavor)
    named = (key for key, path in project.paths.items() if path in files and key in entries)
    references = {key for key in named if isa(entries[key]) == "PBXFileReference"}
    spans += [line_span(source, entries[key].key.start, entries[key].end) for key in references]
    for holder in project.objects.values() if references else ():
        spans += items_out(source, holder.get("children"), references)
    files += list(schemes_of(tree, project, names))
    files += list(_icons_of(tree, project, removed, flavor))
    services, last = _services_of(tree, project, removed, flavor)
    files += services
    files += _texts_of(tree, project, removed)
    phases = {key for key, node in project.objects.items() if SERVICE_INPUT in node.texts("inputPaths")}
    if last:  # the phase copies nobody's any more
        spans += [line_span(source, entries[key].key.start, entries[key].end) for key in phases & entries.keys()]
        for target in project.targets:
            spans += items_out(source, target.node.get("buildPhases"), phases)
    draft.edits += [span_edit(project.path, source, a, b, b"") for a, b in dict.fromkeys(spans)]
    if not any(flavor_of(item.name) for item in kept):
        _unnamed(project, tree, gone.module, kept, draft)
    _unpodded(project, tree, names, draft)
    draft.removed += files
    return draft


def _configuration_files(
    project: XcodeProject, tree: Tree, removed: Sequence[Configuration], kept: Sequence[Configuration], flavor: str
) -> list[str]:
    """Return the configuration files that only this flavor's configurations stand on, with those they include."""
    bases = {item.base for item in removed if item.base} - {item.base for item in kept}
    files = [path for path in bases if flavor.casefold() in path.rpartition("/")[2].casefold()]
    return files + [path for path in _included(tree, files, flavor) if path not in files]


def _next_default(project: XcodeProject, default: Text, flavor: str, others: Sequence[str]) -> Edit:
    """Return the edit that lets a list build another configuration by default: one of the same build type, if any."""
    source = project.document.source
    kind = build_type(default.value, flavor)
    new = next((name for name in others if kind and kind in name.casefold()), others[0])
    return span_edit(project.path, source, default.start, default.end, encode("openstep", new))


def _included(tree: Tree, files: Sequence[str], flavor: str) -> Iterator[str]:
    """Yield the flavor's own file that its configurations' files include."""
    for path in files:
        for item in parse_xcconfig(tree.read(path) or b"").statements:
            if isinstance(item, Include):
                found = join(parent(path), item.path)
                if found and found.rpartition("/")[2].casefold() == f"{flavor}.xcconfig".casefold():
                    yield found


def _icons_of(tree: Tree, project: XcodeProject, removed: Sequence[Configuration], flavor: str) -> Iterator[str]:
    """Yield the files of the icon sets that only the removed configurations name."""
    reader, gone = TargetReader(project, tree, ConfigurationFiles(tree)), {item.id for item in removed}
    named: dict[str, list[bool]] = {}
    for target in project.targets:
        for item in target.configurations:
            name = reader.table(target, item).text("ASSETCATALOG_COMPILER_APPICON_NAME")
            named.setdefault(name, []).append(item.id in gone)
    for name in sorted(name for name, mine in named.items() if name and all(mine)):
        if flavor.casefold() in name.casefold():
            yield from (p for p in tree.below(project.folder) if f"/{name}.appiconset/" in p)


def _services_of(
    tree: Tree, project: XcodeProject, removed: Sequence[Configuration], flavor: str
) -> tuple[list[str], bool]:
    """Return the flavor's service files that no other configuration names; and whether nobody names any after it."""
    reader, gone = TargetReader(project, tree, ConfigurationFiles(tree)), {item.id for item in removed}
    named: dict[str, list[bool]] = {}
    for target in project.targets:
        for item in target.configurations:
            text = reader.table(target, item).text(SERVICE_SETTING)
            if text:
                named.setdefault(join(project.start, text), []).append(item.id in gone)
    mine = [path for path, each in named.items() if all(each) and flavor_word(flavor).search(path)]
    found = [path for path in mine if path.endswith(f"/{GOOGLE_IOS}") and inside(path) and tree.exists(path)]
    return found, bool(named) and all(all(each) for each in named.values())


def _texts_of(tree: Tree, project: XcodeProject, removed: Sequence[Configuration]) -> Iterator[str]:
    """Yield the texts by language that only the removed configurations name the folder of."""
    reader = TargetReader(project, tree, ConfigurationFiles(tree))
    named: dict[bool, set[str]] = {True: set(), False: set()}
    for target in project.targets:
        for item in target.configurations:
            named[item in removed].add(reader.table(target, item).text(SETTING))
    for folder in sorted(named[True] - named[False] - {""}):
        yield from (path for _, path in texts_in(tree, project, folder))


def _unnamed(project: XcodeProject, tree: Tree, target: str, kept: Sequence[Configuration], draft: Draft) -> None:
    """Put the name back into the property list when no flavor is left that says another."""
    own = [item.settings.get(BRAND_NAME) for item in project.project_configurations.values() if item in kept]
    texts = {node.value for node in own if isinstance(node, Text)}
    if len(texts) != 1 or len(own) != len([node for node in own if node is not None]):
        return
    reader = TargetReader(project, tree, ConfigurationFiles(tree))
    app = next(item for item in project.targets if item.name == target)
    plist = reader.plist(reader.table(app, next(item for item in app.configurations if item in kept)))
    entry = plist[1].string("CFBundleDisplayName") if plist else None
    if plist is None or entry is None or entry.value != f"$({BRAND_NAME})":
        return
    spot = place(plist[0], plist[1].document.source, entry.start, entry.end, entry.syntax)
    text = texts.pop()
    if text == FALLBACK:
        draft.edits.append(_key_out(plist[0], plist[1], entry))
    else:
        draft.edits.append(place_edit(tree, spot, text, Facet.DISPLAY_NAME))
    source = project.document.source
    for item in project.project_configurations.values():
        for entry_ in item.settings.entries:
            if item in kept and entry_.key.value == BRAND_NAME:
                start, end = line_span(source, entry_.key.start, entry_.end)
                draft.edits.append(span_edit(project.path, source, start, end, b""))


def _key_out(path: str, plist: Plist, entry: PlistString) -> Edit:
    """Take a key and its string out of a property list, with the lines that they stand on."""
    source = plist.document.source
    key = next(item for item in plist.top.walk() if item.name == "key" and item.text == entry.path[-1])
    start, end = source.whole_lines(key.start, source.view.index(">", entry.end) + 1)
    return span_edit(path, source, start, end, b"")


def _unpodded(project: XcodeProject, tree: Tree, names: set[str], draft: Draft) -> None:
    """Take the removed configurations out of the Podfile."""
    path = join(project.folder, "Podfile")
    data = tree.named_file(path)
    if data is None:
        return
    source = Source.read(data)
    cuts = without(source, names)
    draft.edits += [span_edit(path, source, a, b, b"") for a, b in cuts]
    for name in sorted(names):
        for match in re.finditer(rf"['\"]{re.escape(name)}['\"]", source.view):
            if not any(a <= match.start() < b for a, b in cuts):
                draft.notes.append(Note(f"{path}:{source.line(match.start())}", f"{name} is still named here"))
