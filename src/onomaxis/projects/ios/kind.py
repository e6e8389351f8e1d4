"""The kind "ios": Xcode projects."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from typing import TYPE_CHECKING

from onomaxis import late
from onomaxis.flavor_names import same_flavor
from onomaxis.formats.escapes import encode
from onomaxis.formats.source import Source
from onomaxis.model import HIDDEN_PARTS, Edit, Facet, Mention, Note, ShippedApp
from onomaxis.projects.dangling import Broken
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import span_edit
from onomaxis.projects.ios.derived import derived_tests
from onomaxis.projects.ios.mentions import classify
from onomaxis.projects.ios.project_file import Target, XcodeProject
from onomaxis.projects.ios.reading import Detail, read_project, reader_of
from onomaxis.projects.ios.schemes import scheme_of
from onomaxis.projects.ios.signing import needed_profiles
from onomaxis.projects.ios.targets import TargetReader
from onomaxis.projects.ios.text_folders import is_parted
from onomaxis.projects.kind import Kind
from onomaxis.projects.launch import Launch, LaunchWish
from onomaxis.projects.project import AppFacts, Flavor, Hits, Project
from onomaxis.projects.proposals import Proposed
from onomaxis.projects.pubspec import schemes_by_flavor
from onomaxis.tree import Tree
from onomaxis.wishes import Renaming, Wish

if TYPE_CHECKING:
    from onomaxis.projects.ios.places import ApplePlaces


class IosKind(Kind):
    """Reads Xcode projects."""

    name = "ios"
    platform = "ios"

    def find(self, tree: Tree) -> list[Project]:
        """Return one project per ``project.pbxproj`` that builds anything."""
        found = []
        for path in tree.named("project.pbxproj"):
            project = read_project(path, tree)
            if project:
                found.append(project)
        return found

    def mentions(self, project: Project, path: str, source: Source, hits: Hits) -> list[Mention]:
        """Say what each occurrence in a file is."""
        detail = project.detail
        known = detail.parsed.document if isinstance(detail, Detail) and detail.parsed.path == path else None
        return classify(project.foreign, path, source, hits, known)

    def prepare(self, project: Project, tree: Tree, aim: Wish) -> Draft:
        """Make property lists follow their settings (``unify``) and write the signing team, where asked."""
        from onomaxis.projects.ios.prepare import set_team, unify
        from onomaxis.projects.ios.signing import other_teams

        detail = _detail(project)
        draft = unify(tree, detail.literals) if aim.unify else Draft()
        if aim.flavor and aim.names:
            for module in dict.fromkeys(app.module for app in project.apps):
                draft.join(self.part_texts(project, tree, Flavor(module, aim.flavor)))
        if aim.team:
            draft.edits += set_team(tree, detail.parsed, project.apps[0].module, aim.team).edits
            draft.notes += other_teams(project.apps, aim.team)
        return draft

    def part_texts(self, project: Project, tree: Tree, flavor: Flavor, shown: str = "") -> Draft:
        """Give the flavor a folder of texts that its configurations name."""
        from onomaxis.projects.ios.own_texts import part

        if shown and not is_parted(*_built(project, flavor.module)):
            return Draft()
        return part(self.places(project, tree, flavor.module), flavor.name, shown)

    def rename_project(self, project: Project, tree: Tree, name: str) -> Draft:
        """Give project file, targets, schemes, folders and modules their new name."""
        from onomaxis.projects.ios.technical.rename import rename_project

        return rename_project(_detail(project).parsed.path, tree, project.apps[0].module, name)

    def built_as(self, project: Project, tree: Tree, app: ShippedApp) -> Mapping[str, str]:
        """Return the shared scheme that archives a target in the app's configuration."""
        parsed = _detail(project).parsed
        target = next((item for item in parsed.targets if item.name == app.module), None)
        found = scheme_of(tree, parsed.path, target.id, app.configuration) if target is not None else ""
        return {"scheme": found} if found else {}

    def own_facet(self, project: Project, tree: Tree, flavor: Flavor, facet: Facet, text: str) -> Draft:
        """Write the flavor's own setting into each of its configurations."""
        from onomaxis.projects.ios.flavors import own_facet

        if flavor.locale and is_parted(*_built(project, flavor.module)):
            return _own_language(project, tree, flavor, text)
        return own_facet(_detail(project).parsed, tree, flavor, facet, text)

    def add_flavor(self, project: Project, tree: Tree, flavor: Flavor, id_: str, shown: str) -> Draft:
        """Add configurations, their files and a shared scheme."""
        from onomaxis.projects.ios.flavors import add_flavor

        parsed = _detail(project).parsed
        scheme = flavor.name if schemes_by_flavor(tree, parsed.path) else ""
        return add_flavor(parsed, tree, flavor, id_, shown, scheme)

    def retire_flavor(self, project: Project, tree: Tree, flavor: Flavor) -> Draft:
        """Take out the flavor's configurations, files and schemes."""
        from onomaxis.projects.ios.flavors import retire_flavor

        return retire_flavor(_detail(project).parsed, tree, flavor)

    def service_place(self, project: Project, flavor: Flavor) -> str:
        """Return the place beside the target's own files, outside of folders that go into the app whole."""
        parsed = _detail(project).parsed
        target = next((item for item in parsed.targets if item.name == flavor.module), None)
        return parsed.service_place(target, flavor.name) if target is not None else ""

    def takes_service(self, project: Project, tree: Tree, flavor: Flavor, path: str) -> bool:
        """Look among the resources, in folders that go into the app, in scripts."""
        from onomaxis.projects.ios.service_file import copies_resources, is_taken

        places = self.places(project, tree, flavor.module)
        said = copies_resources(places.reader.project, places.target)
        return not said or is_taken(tree, places, flavor.name, path)

    def bring_service(self, project: Project, tree: Tree, flavor: Flavor, path: str) -> Draft:
        """Add the file to the target's resources; of flavors the script that copies each one's."""
        from onomaxis.projects.ios.service_file import bring

        return bring(tree, self.places(project, tree, flavor.module), flavor.name, path)

    def facts(self, project: Project, tree: Tree, flavor: Flavor) -> AppFacts:
        """Return what property list and entitlements declare."""
        from onomaxis.projects.ios.facts import app_facts

        return app_facts(*_target(project, tree, flavor.module), flavor.name)

    def broken(self, project: Project, tree: Tree) -> Iterator[Broken]:
        """Look for files, targets, configurations, companions, profiles, groups."""
        from onomaxis.projects.ios.references import References

        if not isinstance(project.detail, Detail):
            return  # the project file could not be read, which is told
        parsed = project.detail.parsed
        yield from References(project, parsed, reader_of(parsed, tree)).broken()

    def places(self, project: Project, tree: Tree, module: str) -> ApplePlaces:
        """Read build settings, property lists, entitlements, URL schemes, named colours."""
        from onomaxis.projects.ios.places import ApplePlaces

        return ApplePlaces(*_target(project, tree, module))

    def proposals(self, project: Project, tree: Tree, module: str) -> Iterator[Proposed]:
        """Yield what the property list holds that brands usually vary."""
        from onomaxis.projects.ios.proposals import target_values

        return target_values(*_target(project, tree, module))

    def texts(self, project: Project, tree: Tree, module: str) -> Iterator[Proposed]:
        """Yield the strings of the app's own table."""
        from onomaxis.projects.ios.proposals import target_texts

        return target_texts(*_target(project, tree, module))

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

    def follow(self, project: Project, tree: Tree, renamings: Sequence[Renaming], aim: Wish) -> Draft:
        """Add localized names that are missing where the language has a strings file; say where it has none."""
        draft = Draft()
        draft.join(_localized(project, tree, aim))
        draft.notes += needed_profiles(project.apps, renamings)
        if aim.id and not aim.flavor:
            _write_undefined(_detail(project), project, aim.id, draft)
        if not aim.flavor:
            draft.edits += derived_tests(tree, project, renamings)
        if aim.name is not None and not aim.flavor and project.apps and project.apps[0].name:
            _relabel(tree, project, project.apps[0].name.text, aim.name, draft)
        return draft


def _detail(project: Project) -> Detail:
    """Return what the project file says, of a project of this kind."""
    assert isinstance(project.detail, Detail)
    return project.detail


def _built(project: Project, module: str) -> tuple[XcodeProject, Target]:
    """Return what the project file says, and one of its targets."""
    parsed = _detail(project).parsed
    return parsed, next(item for item in parsed.targets if item.name == module)


def _target(project: Project, tree: Tree, module: str) -> tuple[TargetReader, Target]:
    """Return the reader of the project file, and one of its targets."""
    parsed, target = _built(project, module)
    return reader_of(parsed, tree), target


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


def _localized(project: Project, tree: Tree, aim: Wish) -> Draft:
    """Add the names in languages that an app has none in yet."""
    draft = Draft()
    for locale, text in aim.names:
        for app in {app.module: app for app in project.apps}.values():
            if is_parted(*_built(project, app.module)):
                named = next((brand for brand in project.brands() if same_flavor(brand.flavor, aim.flavor)), app)
                if locale not in dict(named.names):
                    draft.join(_own_language(project, tree, Flavor(app.module, aim.flavor, locale), text))
            elif locale not in dict(app.names):
                from onomaxis.projects.ios.languages import Entry, localize

                draft.join(localize(*_target(project, tree, app.module), locale, Entry(text)))
                draft.notes += _taken_over(project, app, locale, text) if not aim.flavor else []
    return draft


def _own_language(project: Project, tree: Tree, flavor: Flavor, text: str) -> Draft:
    """Name an app, or a flavor of it, in a new language, where each flavor has texts of its own."""
    from onomaxis.projects.ios.languages import Entry
    from onomaxis.projects.ios.own_texts import new_language
    from onomaxis.projects.ios.places import ApplePlaces

    places = ApplePlaces(*_target(project, tree, flavor.module))
    return new_language(places, flavor.name, flavor.locale, Entry(text))


def _write_undefined(detail: Detail, project: Project, new: str, draft: Draft) -> None:
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
            said = f"the ID of {item.target} cannot be determined: {item.missing} is not defined"
            draft.refusals.append(Note(item.place.at, said))


_LABEL = late.compile(
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
                draft.edits.append(span_edit(path, source, match.start(2), match.end(2), written, Facet.DISPLAY_NAME))
