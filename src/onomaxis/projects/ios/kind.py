"""The kind "ios": Xcode projects."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from onomaxis.errors import FormatError
from onomaxis.formats.escapes import encode
from onomaxis.formats.source import Source
from onomaxis.model import (
    HIDDEN_PARTS,
    WHOLE_FILE,
    Aim,
    Disagreement,
    Edit,
    Facet,
    IconHome,
    Mention,
    Note,
    Part,
    Renaming,
    ShippedApp,
    Unresolved,
)
from onomaxis.projects.broken import Broken
from onomaxis.projects.draft import Draft
from onomaxis.projects.ios.derived import derived_tests
from onomaxis.projects.ios.icons import icon_homes
from onomaxis.projects.ios.mentions import classify
from onomaxis.projects.ios.project_file import Target, XcodeProject, flavor_of
from onomaxis.projects.ios.schemes import archived_with
from onomaxis.projects.ios.settings import ConfigurationFiles
from onomaxis.projects.ios.signing import needed_profiles
from onomaxis.projects.ios.targets import Identity, Literal, TargetReader, UndefinedId
from onomaxis.projects.kind import Kind
from onomaxis.projects.launch import Launch, LaunchWish
from onomaxis.projects.places import Places
from onomaxis.projects.project import AppFacts, Flavor, Hits, Identifier, Project
from onomaxis.projects.proposals import Proposed
from onomaxis.projects.pubspec import schemes_by_flavor
from onomaxis.tree import Tree, parent

_SHIPPED = ("app",)
_WITH_ICON = ("app", "watch app", "clip")
_SKIPPED_PARTS = ("framework", "library", "bundle", "product")


class IosKind(Kind):
    """Reads Xcode projects."""

    name = "ios"
    platform = "ios"

    def find(self, tree: Tree) -> list[Project]:
        """Return one project per ``project.pbxproj`` that builds anything."""
        found = []
        for path in tree.named("project.pbxproj"):
            project = _project(path, tree)
            if project:
                found.append(project)
        return found

    def mentions(self, project: Project, path: str, source: Source, hits: Hits) -> list[Mention]:
        """Say what each occurrence in a file is."""
        detail = project.detail
        known = detail.parsed.document if isinstance(detail, _Detail) and detail.parsed.path == path else None
        return classify(project.foreign, path, source, hits, known)

    def prepare(self, project: Project, tree: Tree, aim: Aim) -> Draft:
        """Make property lists follow their settings (``unify``) and write the signing team, where asked."""
        from onomaxis.projects.ios.prepare import set_team, unify
        from onomaxis.projects.ios.signing import other_teams

        assert isinstance(project.detail, _Detail)
        draft = unify(tree, project.detail.literals) if aim.unify else Draft()
        if aim.team:
            draft.edits += set_team(tree, project.detail.parsed, project.apps[0].module, aim.team).edits
            draft.notes += other_teams(project.apps, aim.team)
        return draft

    def rename_project(self, project: Project, tree: Tree, name: str) -> Draft:
        """Give project file, targets, schemes, folders and modules their new name."""
        from onomaxis.projects.ios.technical.rename import rename_project

        assert isinstance(project.detail, _Detail)
        return rename_project(project.detail.parsed.path, tree, project.apps[0].module, name)

    def own_facet(self, project: Project, tree: Tree, flavor: Flavor, facet: Facet, text: str) -> Draft:
        """Write the flavor's own setting into each of its configurations."""
        from onomaxis.projects.ios.flavors import own_facet

        assert isinstance(project.detail, _Detail)
        return own_facet(project.detail.parsed, tree, flavor, facet, text)

    def add_flavor(self, project: Project, tree: Tree, flavor: Flavor, id_: str, shown: str) -> Draft:
        """Add configurations, their files and a shared scheme."""
        from onomaxis.projects.ios.flavors import add_flavor

        assert isinstance(project.detail, _Detail)
        parsed = project.detail.parsed
        scheme = flavor.name if schemes_by_flavor(tree, parsed.path) else ""
        return add_flavor(parsed, tree, flavor, id_, shown, scheme)

    def retire_flavor(self, project: Project, tree: Tree, flavor: Flavor) -> Draft:
        """Take out the flavor's configurations, files and schemes."""
        from onomaxis.projects.ios.flavors import retire_flavor

        assert isinstance(project.detail, _Detail)
        return retire_flavor(project.detail.parsed, tree, flavor.module, flavor.name)

    def facts(self, project: Project, tree: Tree, flavor: Flavor) -> AppFacts:
        """Return what property list and entitlements declare."""
        from onomaxis.projects.ios.facts import app_facts

        assert isinstance(project.detail, _Detail)
        parsed = project.detail.parsed
        target = next(item for item in parsed.targets if item.name == flavor.module)
        return app_facts(_reader(parsed, tree), target, flavor.name)

    def broken(self, project: Project, tree: Tree) -> Iterator[Broken]:
        """Look for files, targets, configurations, companions, profiles, groups."""
        from onomaxis.projects.ios.references import References

        assert isinstance(project.detail, _Detail)
        parsed = project.detail.parsed
        yield from References(project, parsed, _reader(parsed, tree)).broken()

    def places(self, project: Project, tree: Tree, module: str) -> Places:
        """Read build settings, property lists, entitlements, URL schemes, named colours."""
        from onomaxis.projects.ios.places import ApplePlaces

        assert isinstance(project.detail, _Detail)
        parsed = project.detail.parsed
        target = next(item for item in parsed.targets if item.name == module)
        return ApplePlaces(_reader(parsed, tree), target)

    def proposals(self, project: Project, tree: Tree, module: str) -> Iterator[Proposed]:
        """Yield what the property list holds that brands usually vary."""
        from onomaxis.projects.ios.proposals import target_values

        assert isinstance(project.detail, _Detail)
        parsed = project.detail.parsed
        return target_values(_reader(parsed, tree), next(item for item in parsed.targets if item.name == module))

    def launch(self, project: Project, tree: Tree, flavor: Flavor, wish: LaunchWish) -> Launch:
        """Set the ground, label and picture of the launch screen that the property list names or describes."""
        from onomaxis.projects.ios.launch import Screen, launch_screen

        def read() -> dict[str, tuple[bool, str, str, str]]:
            names = {app.flavor: app for app in project.apps if app.module == flavor.module}
            facts = {name: self.facts(project, tree, Flavor(flavor.module, name)) for name in names}
            return {name: _launched(item) for name, item in facts.items()}

        said = tree.kept(("launch", project.key, flavor.module), read)
        mine = said.get(flavor.name) or _launched(self.facts(project, tree, flavor))
        listed, storyboard, color, image = mine
        shared = any(other == mine for name, other in said.items() if name != flavor.name)
        flavored = bool(flavor.name) or any(said)
        screen = Screen(storyboard, listed, color, image, shared, flavored)
        places = self.places(project, tree, flavor.module)
        return launch_screen(tree, project.folder, screen, places, flavor.name, wish)

    def follow(self, project: Project, tree: Tree, renamings: Sequence[Renaming], aim: Aim) -> Draft:
        """Add localized names that are missing where the language has a strings file; say where it has none."""
        draft = Draft()
        assert isinstance(project.detail, _Detail)
        draft.join(_localized(project, tree, aim))
        draft.notes += needed_profiles(project.apps, renamings)
        if aim.id and not aim.flavor:
            _write_undefined(project.detail, project, aim.id, draft)
        if not aim.flavor:
            draft.edits += derived_tests(tree, project, renamings)
        if aim.name is not None and not aim.flavor and project.apps and project.apps[0].name:
            _relabel(tree, project, project.apps[0].name.text, aim.name, draft)
        return draft


def _taken_over(project: Project, app: ShippedApp, locale: str, text: str) -> list[Note]:
    """Say which flavors a new language takes their names: the texts of a property list know no configurations."""
    mine = [item for item in project.apps if item.module == app.module and item.name]
    main = next((item.name for item in mine if not item.flavor), None)
    own = [item.flavor for item in mine if main and item.name and item.flavor and item.name.text != main.text]
    said = f"{', '.join(own)} are called “{text}” in {locale} too: flavors of an Xcode project share these texts"
    return [Note(main.place.at, said)] if main and own else []


def _launched(facts: AppFacts) -> tuple[bool, str, str, str]:
    """Return whether a property list describes a launch screen, and what it names: storyboard, colour, image."""
    keys = ("UILaunchStoryboardName", "UILaunchScreen/UIColorName", "UILaunchScreen/UIImageName")
    storyboard, color, image = (facts.keys[key].text if key in facts.keys else "" for key in keys)
    return "UILaunchScreen" in facts.switches, storyboard, color, image


def _localized(project: Project, tree: Tree, aim: Aim) -> Draft:
    """Add the names in languages that an app has none in yet."""
    draft = Draft()
    for locale, text in aim.names:
        for app in {app.module: app for app in project.apps}.values():
            if locale not in dict(app.names):
                from onomaxis.projects.ios.languages import localize

                parsed = project.detail.parsed  # type: ignore[attr-defined]
                target = next(item for item in parsed.targets if item.name == app.module)
                draft.join(localize(_reader(parsed, tree), target, locale, text))
                draft.notes += _taken_over(project, app, locale, text) if not aim.flavor else []
    return draft


@dataclass(frozen=True)
class _Detail:
    """What later steps need of a project: the parsed file, its identifiers, values that settings stand behind."""

    parsed: XcodeProject
    undefined: tuple[UndefinedId, ...] = ()
    literals: tuple[Literal, ...] = ()


def _reader(parsed: XcodeProject, tree: Tree) -> TargetReader:
    """Return a reader of a project's targets; the same one for the same tree."""
    make = lambda: TargetReader(parsed, tree, ConfigurationFiles(tree))  # noqa: E731
    return tree.kept(("reader", parsed.path), make)


def _project(path: str, tree: Tree) -> Project | None:
    folder = parent(parent(path))
    label = parent(path).rpartition("/")[2].removesuffix(".xcodeproj")
    try:
        parsed = XcodeProject(path, tree.read(path) or b"", archived_with(tree, path))
    except FormatError as error:
        fault = Unresolved(WHOLE_FILE, path, error.line or 1, "", error.message)
        return Project("ios", folder, label, (), (), unresolved=(fault,), platform="ios")
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
        _Detail(parsed, tuple(reader.undefined), tuple(reader.literals)),
        platform="ios",
        brands=lambda: tuple(app for target in own for app in _brands(target, identities, parsed)),
        icons=_icons(parsed, reader, identities),
    )


def _icons(parsed: XcodeProject, reader: TargetReader, identities: _Identities) -> tuple[IconHome, ...]:
    """Return the icon sets of all targets that show one, each once."""
    showing = [t for t in parsed.targets if t.kind in _WITH_ICON and t.id in identities]
    homes = (home for target in showing for home in icon_homes(reader, identities[target.id][1]))
    return tuple({(home.folder, home.name, home.flavor): home for home in homes}.values())


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
    release, every = identities[target.id]
    by_name = {item.configuration.name: item for item in every}
    chosen = [release]
    for item in every:
        name = item.configuration.name
        differs = _shown(item) != _shown(release) or name in target.archived
        if item is not release and name not in _USUAL and not flavor_of(name) and differs:
            chosen.append(item)
    for flavor in target.flavors():
        archived = target.release_of(flavor)
        if archived is not None and by_name[archived.name] not in chosen:
            chosen.append(by_name[archived.name])
    for item in chosen:
        yield _app(target, item, identities, project)


def _app(target: Target, item: Identity, identities: _Identities, project: XcodeProject) -> ShippedApp:
    """Return what a target ships in one configuration, with everything embedded in it."""
    name = item.configuration.name
    parts = tuple(_parts(target, name, identities, project, set()))
    return ShippedApp(
        item.platform,
        target.name,
        flavor_of(name),
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
    first = {flavor: target.release_of(flavor) for flavor in target.flavors()} | {"": target.release()}
    ordered = sorted(every, key=lambda item: item.configuration != first.get(flavor_of(item.configuration.name)))
    return (_app(target, item, identities, project) for item in ordered if release is not None)


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


def _write_undefined(detail: _Detail, project: Project, new: str, draft: Draft) -> None:
    """Write the wished ID where the app's is built from a setting that nobody defines; its parts follow."""
    apps = {app.module for app in project.apps if app.id is None}
    bases = {item.text for item in detail.undefined if item.target in apps}
    for item in detail.undefined:
        base = next((text for text in sorted(bases, key=len, reverse=True) if item.text.startswith(text)), "")
        said = f"{item.text} was replaced by a literal: {item.missing} is not defined in the project"
        if item.target in apps or (base and item.text[len(base) :].startswith(".")):
            text = encode(item.place.syntax, new + item.text[len(base) :], item.place.written)
            draft.edits.append(
                Edit(item.place.file, item.place.start, item.place.end, text.encode(), Facet.BUNDLE_ID)
            )
            draft.notes.append(Note(item.place.at, said))
        elif item.kind in HIDDEN_PARTS:
            draft.notes.append(Note(item.place.at, f"the ID of {item.target} stays: {item.missing} is not defined"))
        else:
            said = f"the ID of {item.target} cannot be told: {item.missing} is not defined"
            draft.refusals.append(Note(item.place.at, said))


_LABEL = re.compile(
    r"""<(?:label|button|state|navigationItem|barButtonItem)\b[^<>]*?\s(?:text|title)=(["'])(.*?)\1""", re.DOTALL
)


def _relabel(tree: Tree, project: Project, old: str, new: str, draft: Draft) -> None:
    """Change the labels of storyboards that show exactly the old name, the launch screen's among them."""
    if old == new:
        return
    needle = encode("xml-double", old).encode()
    for path in tree.below(project.folder):
        data = tree.read(path) if path.endswith((".storyboard", ".xib")) else None
        if not data or needle not in data:
            continue
        source = Source.read(data)
        for match in _LABEL.finditer(source.view):
            syntax = "xml-double" if match[1] == '"' else "xml-single"
            if source.text(match.start(2), match.end(2)) == encode(syntax, old):
                written = source.raw(encode(syntax, new))
                span = source.offset(match.start(2)), source.offset(match.end(2))
                draft.edits.append(Edit(path, *span, written, Facet.DISPLAY_NAME))
