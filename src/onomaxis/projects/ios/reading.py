"""An Xcode project as it is read: what its targets ship in each configuration, and what is embedded in them."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence, Set
from functools import cache
from typing import NamedTuple

from onomaxis.errors import FormatError
from onomaxis.model import HIDDEN_PARTS, Disagreement, Facet, IconHome, Part, ShippedApp
from onomaxis.projects.ios.icons import icon_homes
from onomaxis.projects.ios.project_file import Target, XcodeProject, flavor_of, stage_of
from onomaxis.projects.ios.schemes import archived_with
from onomaxis.projects.ios.settings import ConfigurationFiles
from onomaxis.projects.ios.targets import Identity, Literal, TargetReader, UndefinedId
from onomaxis.projects.project import Identifier, Project, main_id, unread
from onomaxis.tree import Tree, parent

_SHIPPED = ("app",)
_WITH_ICON = ("app", "watch app", "clip")
_SKIPPED_PARTS = ("framework", "library", "bundle", "product")


class Detail(NamedTuple):
    """What later steps need of a project: the parsed file, its identifiers, values that settings stand behind."""

    parsed: XcodeProject
    undefined: tuple[UndefinedId, ...] = ()
    literals: tuple[Literal, ...] = ()


def reader_of(parsed: XcodeProject, tree: Tree) -> TargetReader:
    """Return a reader of a project's targets; the same one for the same tree."""
    make = lambda: TargetReader(parsed, tree, ConfigurationFiles(tree))  # noqa: E731
    return tree.kept(("reader", parsed.path), make)


def read_project(path: str, tree: Tree) -> Project | None:
    """Return the project of one project file, with its fault where it cannot be read."""
    folder = parent(parent(path))
    label = parent(path).rpartition("/")[2].removesuffix(".xcodeproj")
    try:
        parsed = XcodeProject(path, tree.read(path) or b"", archived_with(tree, path))
    except FormatError as error:
        return Project("ios", folder, label, (), (), unresolved=(unread(path, error),), platform="ios")
    return _read(folder, parsed, tree)


def _read(folder: str, parsed: XcodeProject, tree: Tree) -> Project:
    files = ConfigurationFiles(tree)
    reader = TargetReader(parsed, tree, files)
    identities = _identities(parsed, reader)
    alone = [target for target in parsed.targets if not _companion(target, identities, parsed)]
    apps = tuple(app for target in alone if target.kind in _SHIPPED for app in _apps(target, identities, parsed))
    identifiers = tuple(dict.fromkeys(_identifiers(parsed, identities)))
    own = [target for target in alone if target.kind == "app"]
    return Project(
        "ios",
        folder,
        parsed.name,
        apps,
        tuple(reader.owners.values()),
        tuple(reader.openings.values()),
        identifiers,
        (*reader.faults, *files.faults),
        (*reader.disagreements, *_disagreements(apps)),
        Detail(parsed, tuple(reader.undefined), tuple(reader.literals)),
        platform="ios",
        brands=cache(lambda: tuple(app for target in own for app in _brands(target, identities, parsed))),
        icons=_icons(parsed, reader, identities),
    )


def _icons(parsed: XcodeProject, reader: TargetReader, identities: _Identities) -> tuple[IconHome, ...]:
    """Return the icon sets of all targets that show one, each once: as that of an app, not of its environments."""
    showing = [t for t in parsed.targets if t.kind in _WITH_ICON and t.id in identities]
    homes = (home for target in showing for home in icon_homes(reader, identities[target.id][1]))
    found: dict[tuple[str, str, str], IconHome] = {}
    for home in homes:
        key = (home.folder, home.name, home.flavor)
        there = found.get(key)
        if there is None or not home.module.startswith(there.module):
            found[key] = home
        elif home.references:  # one set, to be named by both targets
            found[key] = there._replace(references=(*there.references, *home.references))
    return tuple(found.values())


_Identities = dict[str, tuple[Identity, list[Identity]]]


def _identities(project: XcodeProject, reader: TargetReader) -> _Identities:
    """Resolve every target in every configuration; the release one first."""
    found: _Identities = {}
    for target in project.targets:
        if target.kind in _SKIPPED_PARTS:
            continue
        release = target.release()
        every = {item.name: reader.identity(target, item) for item in target.configurations}
        if release is not None:
            found[target.id] = (every[release.name], list(every.values()))
    return found


def _identifiers(project: XcodeProject, identities: _Identities) -> Iterator[Identifier]:
    for target in project.targets:
        release, every = identities.get(target.id, (None, []))
        for identity in (release, *every):
            if identity and identity.id:
                yield Identifier(Facet.BUNDLE_ID, identity.id.text, target.name)


def _companion(target: Target, identities: _Identities, project: XcodeProject) -> bool:
    """Tell a watch app that comes with a phone app: embedded in one, or called below one."""
    if target.id not in identities or identities[target.id][0].platform != "watchos":
        return False
    own = identities[target.id][0].id
    for other in project.targets:
        if other.id == target.id or other.kind != "app" or other.id not in identities:
            continue
        above = identities[other.id][0]
        if target.id in other.embeds:
            return True
        if above.platform == "ios" and above.id and own and own.text.startswith(above.id.text + "."):
            return True
    return False


def _apps(target: Target, identities: _Identities, project: XcodeProject) -> Iterator[ShippedApp]:
    """Yield what a target ships: its release, other plain configurations that differ from it, and each flavor."""
    if target.id not in identities:
        yield ShippedApp("ios", target.name, "", "", project.name, None, None, None, None, None)
        return
    chosen = _chosen(target, identities[target.id][1])
    stages = _stages(chosen)
    for item in chosen:
        yield _app(target, item, identities, project)._replace(
            beside=_beside(item, stages), ships=not target.archived or item.configuration.name in target.archived
        )


def _chosen(target: Target, every: Sequence[Identity]) -> list[Identity]:
    """Return what ships of a target in all its configurations, of each flavor the main stage first."""
    by_name = {item.configuration.name: item for item in every}
    archives = target.release()
    if archives is None:
        return []
    release = by_name[archives.name]
    own = release.configuration.flavor
    usual = target.release_of(own) if own else None
    # a list whose default is some flavor's debug configuration ships that flavor once all the same
    stands = usual is None or usual == release.configuration or release.configuration.name in target.archived
    chosen = [release] if stands else []
    for item in every:
        name = item.configuration.name
        differs = _shown(item) != _shown(release) or name in target.archived
        if item is not release and name not in _USUAL and not flavor_of(name) and differs:
            chosen.append(item)
    for flavor in target.flavors():
        archived = target.release_of(flavor)
        if archived is not None and by_name[archived.name] not in chosen:
            chosen.append(by_name[archived.name])
    shown = {_told(item) for item in chosen}
    for name in target.archived:  # what any scheme archives ships, if it is called otherwise
        if name in by_name and flavor_of(name) and _told(by_name[name]) not in shown:
            chosen.append(by_name[name])
            shown.add(_told(by_name[name]))
    mates: dict[str, list[Identity]] = {}
    for item in chosen:
        mates.setdefault(_flavor(item), []).append(item)
    found: list[Identity] = []
    for some in mates.values():
        main = main_id(item.id.text for item in some if item.id is not None)
        found += sorted(some, key=lambda one: one.id is None or one.id.text != main)
    return found


def _stages(every: Sequence[Identity]) -> Mapping[str, Set[str]]:
    """Return the stages that the configurations of each flavor speak of; an empty one where some speak of none."""
    found: dict[str, set[str]] = {}
    for item in every:
        found.setdefault(_flavor(item), set()).add(stage_of(item.configuration.name))
    return found


def _beside(item: Identity, stages: Mapping[str, Set[str]]) -> tuple[str, ...]:
    """Return the stage that a configuration speaks of, where its flavor has several."""
    mine = stage_of(item.configuration.name)
    return (mine,) if mine and len(stages.get(_flavor(item), ())) > 1 else ()


def _flavor(item: Identity) -> str:
    return item.configuration.flavor.casefold()


def _told(item: Identity) -> tuple[str, ...]:
    return (_flavor(item), *_shown(item))


def _app(target: Target, item: Identity, identities: _Identities, project: XcodeProject) -> ShippedApp:
    """Return what a target ships in one configuration, with everything embedded in it."""
    name = item.configuration.name
    parts = tuple(_parts(target, name, identities, project, set()))
    return ShippedApp(
        item.platform,
        target.name,
        item.configuration.flavor,
        name,
        project.name,
        item.id,
        item.name,
        item.version,
        item.build,
        item.icon,
        item.names,
        parts,
        signing=item.signing,
    )


def _brands(target: Target, identities: _Identities, project: XcodeProject) -> Iterator[ShippedApp]:
    """Yield what a target is called in every configuration; of each flavor the archived one first."""
    release, every = identities.get(target.id, (None, []))
    chosen = _chosen(target, every) if release is not None else []
    first, stages = {_flavor(item): item for item in reversed(chosen)}, _stages(chosen)
    ordered = sorted(every, key=lambda item: item is not first.get(_flavor(item)))
    for item in ordered if release is not None else ():
        yield _app(target, item, identities, project)._replace(beside=_beside(item, stages))


_USUAL = ("Debug", "Release", "Profile")


def _shown(item: Identity) -> tuple[str, ...]:
    return tuple(value.text if value else "" for value in (item.id, item.name))


def _parts(
    target: Target, configuration: str, identities: _Identities, project: XcodeProject, seen: set[str]
) -> Iterator[Part]:
    """Yield what is embedded in a target, then the test bundles that depend on it, as a configuration builds them."""
    for other in project.targets:
        tests = other.kind in HIDDEN_PARTS and target.id in other.depends
        watch = other.kind == "app" and other.id != target.id and _companion(other, identities, project)
        if other.id in seen or not (other.id in target.embeds or tests or watch) or other.id not in identities:
            continue
        seen.add(other.id)
        release, every = identities[other.id]
        part = next((item for item in every if item.configuration.name == configuration), release)
        kind = "watch app" if other.kind == "app" else other.kind
        yield Part(other.name, kind, part.id, part.name, part.version, part.build, part.signing)
        yield from _parts(other, configuration, identities, project, seen)


def _disagreements(apps: tuple[ShippedApp, ...]) -> Iterator[Disagreement]:
    """Name embedded products whose ID or version does not follow the app's (Apple, "Bundle IDs", App extensions)."""
    for app in apps:
        for part in app.parts:
            if app.id and part.id and part.kind not in HIDDEN_PARTS:
                if not part.id.text.startswith(app.id.text + "."):
                    yield Disagreement(
                        "part-id-differs",
                        f"{part.kind} {part.target} is {part.id.text}, not below {app.id.text}",
                        ((part.id.place.file, part.id.place.line), (app.id.place.file, app.id.place.line)),
                    )
                elif "extension" in part.kind and "." in part.id.text[len(app.id.text) + 1 :]:
                    yield Disagreement(
                        "part-id-too-deep",
                        f"{part.kind} {part.target} is {part.id.text}: one segment after {app.id.text} is the most",
                        ((part.id.place.file, part.id.place.line), (app.id.place.file, app.id.place.line)),
                    )
                for facet, mine, whole in (("version", part.version, app.version), ("build", part.build, app.build)):
                    if mine and whole and mine.text != whole.text:
                        yield Disagreement(
                            f"part-{facet}-differs",
                            f"{part.kind} {part.target} has {facet} {mine.text}, {app.module} has {whole.text}",
                            ((mine.place.file, mine.place.line), (whole.place.file, whole.place.line)),
                        )
