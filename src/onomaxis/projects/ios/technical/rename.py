"""The technical rename as a whole: what is called so, where it moves, and what must not change with it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace
from typing import NamedTuple

from onomaxis import late
from onomaxis.errors import FormatError
from onomaxis.formats.escapes import encode
from onomaxis.formats.openstep import Dict
from onomaxis.formats.openstep import opening as openstep_opening
from onomaxis.formats.yaml import parse_yaml
from onomaxis.model import HIDDEN_PARTS, Edit, Facet, Move, Note, Value
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import opening_edit, place_edit, span_edit
from onomaxis.projects.ios.project_file import Configuration, Target, XcodeProject
from onomaxis.projects.ios.settings import ConfigurationFiles
from onomaxis.projects.ios.targets import Forecast, TargetReader
from onomaxis.projects.ios.technical.companions import companion_edits
from onomaxis.projects.ios.technical.names import Follow, Names, check_name
from onomaxis.projects.ios.technical.objects import Texts, comment_edits, edits, put, rename_objects, script_edits
from onomaxis.projects.ios.technical.settings import FILE_SETTINGS, renamed, spots
from onomaxis.tree import Tree, parent

_UNSHIPPED = ("framework", "library", "bundle", "product", *HIDDEN_PARTS)


def rename_project(path: str, tree: Tree, app: str, name: str) -> Draft:
    """Return the change that gives the project file at *path* and its app target *app* the technical name *name*.

    Bundle identifiers and display names that are built from it keep their values. Raises InputError for a name
    that gives no module.
    """
    check_name(name)
    project = XcodeProject(path, tree.read(path) or b"")
    names = _names(project, tree, Follow(app, name))
    draft = Draft()
    if not names.targets and not names.moved:
        return draft
    _refuse_clashes(project, tree, names, draft)
    _say_generated(tree, names, draft)
    texts: Texts = {}
    rename_objects(project, names, texts)
    for spot in spots(project):
        put(texts, spot.node, renamed(names, spot.key, spot.node.value))
    companions = list(companion_edits(tree, names, path))
    _keep_values(project, tree, names, texts, draft)
    draft.edits += edits(project, texts)
    draft.edits += comment_edits(project, names, texts)
    draft.edits += script_edits(project, names)
    draft.edits += companions
    draft.edits += _neighbours(tree, project, names)
    draft.moves += _moves(tree, names)
    _say(project, tree, names, draft)
    return draft


# -- what is called so


def _names(project: XcodeProject, tree: Tree, follow: Follow) -> Names:
    targets = {target: new for target in _target_names(project) if (new := follow(target)) and new != target}
    apps = [target for target in project.targets if target.kind == "app"]
    new_project = follow(project.name) or (follow.new if len(apps) == 1 else project.name)
    if new_project != project.name:
        targets.setdefault(project.name, new_project)
    reader = TargetReader(project, tree, ConfigurationFiles(tree))
    before = _product_names(project, reader)
    names = Names(follow, project.folder, targets, {}, {}, {})
    products = {old: targets.get(old) or follow(old) for old, _ in before.values() if targets.get(old) or follow(old)}
    products = {old: new for old, new in products.items() if old != new}
    names = replace(names, products=products)
    later = TargetReader(project, tree, ConfigurationFiles(tree), forecast=_forecast(project, names, {}))
    after = _product_names(project, later)
    modules = {old[1]: after[key][1] for key, old in before.items() if old[1] != after[key][1] and old[1]}
    names = replace(names, modules=modules)
    return replace(names, moved=_moved(project, tree, reader, names, new_project))


def _target_names(project: XcodeProject) -> list[str]:
    found = [node for node in project.objects.values() if node.text("isa").endswith("Target")]
    return [node.text("name") for node in found if node.text("isa").startswith("PBX") and node.text("name")]


def _product_names(project: XcodeProject, reader: TargetReader) -> dict[tuple[str, str], tuple[str, str]]:
    """Return product and module name of every target in every configuration."""
    found = {}
    for target in project.targets:
        for item in target.configurations:
            table = reader.table(target, item)
            found[target.id, item.name] = (table.text("PRODUCT_NAME"), table.text("PRODUCT_MODULE_NAME"))
    return found


def _forecast(project: XcodeProject, names: Names, changed: Mapping[tuple[str, int], str]) -> Forecast:
    """Return how build settings will read: with every name in them replaced."""

    def setting(key: str, text: str, file: str, start: int) -> str:
        return changed.get((file, start)) or renamed(names, key, text)

    back = {names.path(old): old for old in names.moved}

    def today(path: str) -> str:
        known = max((new for new in back if path == new or path.startswith(new + "/")), key=len, default="")
        return back[known] + path[len(known) :] if known else path

    return Forecast(setting, names.targets, names.targets.get(project.name, project.name), today)


# -- what moves


def _moved(project: XcodeProject, tree: Tree, reader: TargetReader, names: Names, new_project: str) -> dict[str, str]:
    """Return every folder and file that takes a new name, with its new last segment."""
    moved: dict[str, str] = {}
    start = f"{project.folder}/" if project.folder else ""
    if new_project != project.name:
        moved[f"{start}{project.name}.xcodeproj"] = f"{new_project}.xcodeproj"
    for old, new in {project.name: new_project, names.follow.old: names.follow.new}.items():
        workspace = f"{start}{old}.xcworkspace"
        if old != new and any(tree.below(workspace)):
            moved[workspace] = f"{new}.xcworkspace"
    plans = (path for path in tree.below(project.folder) if path.endswith(".xctestplan"))
    for path in (*_scheme_files(project, tree), *plans):
        stem, dot, ending = path.rpartition("/")[2].rpartition(".")
        new = names.targets.get(stem) or names.follow(stem)
        if new and new != stem:
            moved[path] = new + dot + ending
    settings = list(_setting_files(project, reader))
    kept = {key for key, node in project.objects.items() if node.text("lastKnownFileType") == "folder"}
    known = {path for key, path in project.paths.items() if key not in kept}
    for path in sorted({*known, *settings}):
        if not path.startswith(start):
            continue
        there = project.folder
        for part in path[len(start) :].split("/"):
            there = f"{there}/{part}" if there else part
            if part in names.targets and there not in moved and next(tree.below(there), None):
                moved[there] = names.targets[part]
    for path in settings:
        name = path.rpartition("/")[2]
        new = _file_name(names, name)
        if new != name and path.startswith(start) and tree.exists(path):
            moved[path] = new
    return moved


def _file_name(names: Names, name: str) -> str:
    """Return the new name of a target's own file: the longest target name that it begins with gives way."""
    for old in sorted(names.targets, key=len, reverse=True):
        rest = name[len(old) :]
        if name.startswith(old) and rest[:1] in (".", "-", "_", " "):
            return names.targets[old] + rest
    stem, dot, rest = name.partition(".")
    return (names.follow(stem) or stem) + dot + rest


def _setting_files(project: XcodeProject, reader: TargetReader) -> Iterator[str]:
    for target in project.targets:
        for item in target.configurations:
            table = reader.table(target, item)
            for key in FILE_SETTINGS:
                path = reader.file(table, key)
                if path:
                    yield path


def _scheme_files(project: XcodeProject, tree: Tree) -> Iterator[str]:
    """Yield the shared schemes of the project, and those of workspaces that name its container."""
    own = parent(project.path) + "/"
    for path in tree.files:
        if path.endswith(".xcscheme"):
            data = tree.read(path) or b""
            if path.startswith(own) or (f"{project.name}.xcodeproj".encode() in data and ".xcworkspace/" in path):
                yield path


def _moves(tree: Tree, names: Names) -> Iterator[Move]:
    """Yield the move of every file below what moves, those that git ignores as well: a folder moves as a whole."""
    for old in names.moved:
        below = list(tree.on_disk(old)) or ([old] if tree.exists(old) else [])
        for path in below:
            if names.path(path) != path:
                yield Move(path, names.path(path))


# -- what must not happen


def _refuse_clashes(project: XcodeProject, tree: Tree, names: Names, draft: Draft) -> None:
    taken = {name for name in _target_names(project) if name not in names.targets}
    for old, new in names.targets.items():
        if new in taken:
            draft.refusals.append(Note(project.path, f"there is already a target “{new}” beside “{old}”"))
    for old, new in names.moved.items():
        there = f"{parent(old)}/{new}" if parent(old) else new
        if there.lower() != old.lower() and (tree.exists(there) or next(tree.below(there), None)):
            draft.refusals.append(Note(there, f"this name is taken, {old} cannot move there"))


_PROJECT_CALL = late.compile(r"\bProject\s*+\(")


def _say_generated(tree: Tree, names: Names, draft: Draft) -> None:
    """Say that a generated project will be made again under its old name."""
    for path in tree.below(names.folder):
        if parent(path) == names.folder and _generates(path, tree, names):
            said = "the Xcode project is generated from this file: change the names of its targets there"
            draft.notes.append(Note(path, said))


def _generates(path: str, tree: Tree, names: Names) -> bool:
    """Tell by its form whether a project is made from a file: it lists a target of the old name."""
    if path.endswith((".yml", ".yaml")):
        try:
            document = parse_yaml(tree.read(path) or b"")
        except FormatError:
            return False
        return any(document.has("targets", old) for old in names.targets)
    if path.endswith(".swift"):
        text = (tree.read(path) or b"").decode("utf-8", "replace")
        return bool(_PROJECT_CALL.search(text)) and any(f'"{old}"' in text for old in names.targets)
    return False


# -- what keeps its value


class _Moment(NamedTuple):
    """One target in one configuration, read before and after."""

    target: Target
    configuration: Configuration


def _keep_values(project: XcodeProject, tree: Tree, names: Names, texts: Texts, draft: Draft) -> None:
    """Write out the identifiers, names and files that would change because they are built from a technical name."""
    changed = {(project.path, project.document.source.offset(node.start)): new for node, new in texts.values()}
    now = TargetReader(project, tree, ConfigurationFiles(tree))
    later = TargetReader(project, tree, ConfigurationFiles(tree), forecast=_forecast(project, names, changed))
    for target in project.targets:
        for item in target.configurations:
            moment = _Moment(target, item)
            _keep_setting(project, names, moment, now, later, texts, draft)
            old, new = now.identity(target, item), later.identity(target, item)
            if old.id and new.id and old.id.text != new.id.text and _computed_here(old.id):
                _literal(tree, old.id, draft, "bundle identifier")
            if target.kind not in _UNSHIPPED and old.name and (new.name is None or old.name.text != new.name.text):
                _keep_name(project, tree, moment, old.name, now, draft)


def _computed_here(value: Value) -> bool:
    """Tell whether a property list builds the identifier itself, not by the setting that is made for it."""
    return value.place.syntax.startswith("xml") and "PRODUCT_BUNDLE_IDENTIFIER" not in value.place.written


def _keep_setting(
    project: XcodeProject,
    names: Names,
    moment: _Moment,
    now: TargetReader,
    later: TargetReader,
    texts: Texts,
    draft: Draft,
) -> None:
    before, after = now.table(moment.target, moment.configuration), later.table(moment.target, moment.configuration)
    for key in ("PRODUCT_BUNDLE_IDENTIFIER", "INFOPLIST_KEY_CFBundleDisplayName", "INFOPLIST_KEY_CFBundleName"):
        wanted = before.text(key)
        if wanted and after.text(key) != wanted:
            _write(project, moment, key, wanted, texts, draft)
    for key in FILE_SETTINGS:
        full, there = now.file(before, key), later.file(after, key)
        if full and there != names.path(full):
            start = len(project.folder) + 1 if project.folder and full.startswith(project.folder + "/") else 0
            _write(project, moment, key, names.path(full)[start:], texts, draft)


def _write(project: XcodeProject, moment: _Moment, key: str, text: str, texts: Texts, draft: Draft) -> None:
    """Write a setting's value out, in the target's own configuration."""
    own = moment.configuration.settings.get(key)
    if own is not None:
        put(texts, own, text)
        node, _ = texts.get(getattr(own, "start", -1), (None, ""))
        line = project.document.source.line(getattr(own, "start", 0))
        if node is not None:
            draft.notes.append(Note(f"{project.path}:{line}", f"{node.value} was replaced by a literal: {text}"))
        return
    settings: Dict = moment.configuration.settings
    try:
        at, before, after = openstep_opening(project.document, settings, key)
    except FormatError as error:
        draft.refusals.append(
            Note(f"{project.path}:{error.line}", f"{key} of {moment.target.name} would change: {error}")
        )
        return
    source = project.document.source
    new = source.raw(before + encode("openstep", text) + after)
    draft.edits.append(span_edit(project.path, source, at, at, new, Facet.PROJECT_NAME))
    draft.notes.append(
        Note(f"{project.path}:{source.line(at)}", f"{key} = {text} is now written for {moment.target.name}")
    )


def _keep_name(
    project: XcodeProject, tree: Tree, moment: _Moment, value: Value, now: TargetReader, draft: Draft
) -> None:
    """Keep what users read under the icon: it was built from the technical name."""
    if value.place.syntax.startswith("xml") and "$" in value.place.written:
        entry = next((o for o in now.owners.values() if o.owner is value), None)
        if entry is not None:
            _literal(tree, value, draft, "display name")
            return
    openings = [item for item in now.openings.values() if item.scope.module == moment.target.name]
    for opening in openings:
        edit = opening_edit(tree, opening, value.text)
        if edit not in draft.edits:
            draft.edits.append(edit)
            said = f"the display name “{value.text}” followed from the product: written out"
            draft.notes.append(Note(opening.place.at, said))
    if not openings:
        draft.notes.append(
            Note(moment.target.name, f"the display name “{value.text}” follows from the product's name")
        )


def _literal(tree: Tree, value: Value, draft: Draft, what: str) -> None:
    spot = value.place
    new = place_edit(tree, spot, value.text, Facet.PROJECT_NAME)
    if new not in draft.edits:
        draft.edits.append(new)
        draft.notes.append(Note(spot.at, f"{spot.written} was replaced by a literal, so that the {what} stays"))


# -- other projects, and what to say


def _neighbours(tree: Tree, project: XcodeProject, names: Names) -> Iterator[Edit]:
    """Yield the edits of other project files in the tree that refer to this one or to a file that moves."""
    for path in tree.named("project.pbxproj"):
        if path == project.path:
            continue
        try:
            other = XcodeProject(path, tree.read(path) or b"")
        except FormatError:
            continue
        texts: Texts = {}
        for key, node in other.objects.items():
            full = other.path_of(key) or ""
            if full and node.text("path") and names.path(full) != full:
                put(texts, node.get("path"), names.node_path(node.text("path"), full))
        yield from edits(other, texts)
        yield from comment_edits(other, names, texts)


def _say(project: XcodeProject, tree: Tree, names: Names, draft: Draft) -> None:
    start = f"{names.folder}/" if names.folder else ""
    for stale in ("Podfile.lock", "Pods/Manifest.lock"):
        if tree.exists(start + stale):
            draft.notes.append(
                Note(f"{start}{stale}", "made for the old target names: install the dependencies anew")
            )
            break
    else:
        if tree.exists(f"{start}Podfile"):
            said = "install the dependencies anew, so that their project has the new names"
            draft.notes.append(Note(f"{start}Podfile", said))
    for target in project.targets:
        products = {spot.node.value for spot in spots(project) if spot.key == "PRODUCT_NAME"}
        own = target.node.text("productName")
        if target.name in names.targets and own and own in products and own not in names.products:
            draft.notes.append(Note(project.path, f"the product {own} of {target.name} keeps its name"))
