"""The kind "android": Gradle builds with Android modules."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from functools import cache
from typing import NamedTuple

from onomaxis.formats.source import Source, flat
from onomaxis.model import Disagreement, Edit, Facet, Mention, Note, ShippedApp
from onomaxis.projects.android.apps import ModuleReader
from onomaxis.projects.android.icons import icon_homes
from onomaxis.projects.android.manifest import read_manifest
from onomaxis.projects.android.mentions import Names, classify
from onomaxis.projects.android.modules import Build, Module, build_name, find_builds
from onomaxis.projects.android.names import Reading
from onomaxis.projects.android.packages import (
    CodeIndex,
    index_sources,
    main_package,
    misplaced,
    placed_files,
    relocate,
    renamed_files,
    stale_test_packages,
    within,
)
from onomaxis.projects.android.resources import reference
from onomaxis.projects.android.sharing import other_users
from onomaxis.projects.android.variants import flavor_names
from onomaxis.projects.dangling import Broken
from onomaxis.projects.draft import Draft
from onomaxis.projects.kind import Kind
from onomaxis.projects.launch import Launch, LaunchWish
from onomaxis.projects.places import Places
from onomaxis.projects.project import AppFacts, Flavor, Hits, Identifier, Project, guarded
from onomaxis.projects.proposals import Proposed
from onomaxis.tree import Tree, join, parent
from onomaxis.wishes import Renaming, Wish

_NO_CODE = CodeIndex((), frozenset(), {})


class AndroidKind(Kind):
    """Reads Android projects."""

    name = "android"
    platform = "android"

    def find(self, tree: Tree) -> list[Project]:
        """Return one project per Gradle build with an Android module."""
        return [_project(build, tree) for build in find_builds(tree)]

    def index(self, project: Project, held: Mapping[str, bytes]) -> Project:
        """Index the sources, now that the files that hold an identifier are known."""
        names = _names(project)
        index = index_sources(project.folder, (*names.namespaces, *names.packages), held, names.placed)
        odd = [item for package in names.packages for item in misplaced(index, package)]
        return replace(project, detail=replace(names, index=index), disagreements=(*project.disagreements, *odd))

    def mentions(self, project: Project, path: str, source: Source, hits: Hits) -> list[Mention]:
        """Say what each occurrence in a file is."""
        return classify(_names(project), project.foreign, path, source, hits)

    def built_as(self, project: Project, tree: Tree, app: ShippedApp) -> Mapping[str, str]:
        """Return variant and bundle task (developer.android.com, "Build your app from the command line")."""
        build = app.configuration[:1].upper() + app.configuration[1:]
        variant = f"{app.flavor}{build}" if app.flavor else app.configuration
        folders = [f for f in _names(project).modules if (f.rpartition("/")[2] or "app") == app.module]
        if not folders or not variant:
            return {}
        inner = folders[0][len(project.folder) :].strip("/") if project.folder else folders[0]
        path = "".join(f":{part}" for part in inner.split("/") if part)
        return {"variant": variant, "task": f"{path}:bundle{variant[:1].upper()}{variant[1:]}"}

    def own_facet(self, project: Project, tree: Tree, flavor: Flavor, facet: Facet, text: str) -> Draft:
        """Write the flavor's own entry into its block, its name into its source set."""
        from onomaxis.projects.android.flavors import own_facet

        return own_facet(reader_of(project, tree, flavor.module), flavor, facet, text)

    def launcher_labels(self, project: Project, tree: Tree, flavor: Flavor, old: str, text: str) -> Draft:
        """Write the labels that launcher entries have of their own into the flavor's source set."""
        from onomaxis.projects.android.launcher_labels import launcher_labels

        return launcher_labels(reader_of(project, tree, flavor.module), flavor, old, text)

    def dimensions(self, project: Project, tree: Tree, module: str) -> Mapping[str, str]:
        """Return the dimension of each flavor."""
        from onomaxis.projects.android.flavors import dimensions

        return dimensions(reader_of(project, tree, module))

    def new_dimension(self, project: Project, tree: Tree, flavor: Flavor) -> str:
        """Return the dimension that is asked for, else the sibling's, else that of most with IDs of their own."""
        from onomaxis.projects.android.flavors import dimension_of

        return flavor.dimension or dimension_of(reader_of(project, tree, flavor.module), flavor.beside)

    def add_flavor(self, project: Project, tree: Tree, flavor: Flavor, id_: str, shown: str) -> Draft:
        """Add the flavor's block; its ID and name are entries of its own, made afterwards."""
        from onomaxis.projects.android.flavors import add_flavor

        return add_flavor(reader_of(project, tree, flavor.module), flavor)

    def retire_flavor(self, project: Project, tree: Tree, flavor: Flavor) -> Draft:
        """Take out the flavor's block and source sets."""
        from onomaxis.projects.android.retiring import retire_flavor

        return retire_flavor(reader_of(project, tree, flavor.module), flavor.name)

    def facts(self, project: Project, tree: Tree, flavor: Flavor) -> AppFacts:
        """Return what manifests and build script declare."""
        from onomaxis.projects.android.facts import app_facts

        return app_facts(reader_of(project, tree, flavor.module), flavor.name)

    def broken(self, project: Project, tree: Tree) -> Iterator[Broken]:
        """Look for classes, packages, authorities and modules."""
        from onomaxis.projects.android.references import References, missing_modules

        yield from missing_modules(tree, project.folder)
        for module in dict.fromkeys(app.module for app in project.apps):
            owned = (o.value for o in project.owners if o.facet is Facet.NAMESPACE and o.scope.module == module)
            reader = reader_of(project, tree, module)
            yield from References(project, tree, reader, next(owned, "")).broken()

    def places(self, project: Project, tree: Tree, module: str) -> Places:
        """Read resources, meta-data, placeholders, constants of the build, platform levels."""
        from onomaxis.projects.android.places import AndroidPlaces

        return AndroidPlaces(reader_of(project, tree, module), project.folder)

    def proposals(self, project: Project, tree: Tree, module: str) -> Iterator[Proposed]:
        """Yield what resources and meta-data of a module hold that brands usually vary."""
        from onomaxis.projects.android.proposals import module_values

        return module_values(reader_of(project, tree, module))

    def texts(self, project: Project, tree: Tree, module: str) -> Iterator[Proposed]:
        """Yield the string resources."""
        from onomaxis.projects.android.proposals import module_texts

        return module_texts(reader_of(project, tree, module))

    def launch(self, project: Project, tree: Tree, flavor: Flavor, wish: LaunchWish) -> Launch:
        """Follow the launcher activity's theme to its colours and pictures."""
        from onomaxis.projects.android.launch import launch_screen

        folder = reader_of(project, tree, flavor.module).module.folder
        return launch_screen(tree, folder, self.places(project, tree, flavor.module), flavor.name, wish)

    def prepare(self, project: Project, tree: Tree, aim: Wish) -> Draft:
        """Move a name that shall have languages, and is written out, into a resource first."""
        draft = Draft()
        if aim.names:
            from onomaxis.projects.android.languages import as_resource, wished

            for app in {app.module: app for app, _, _ in wished(project, aim)}.values():
                draft.join(as_resource(reader_of(project, tree, app.module), app))
        return draft

    def follow(self, project: Project, tree: Tree, renamings: Sequence[Renaming], aim: Wish) -> Draft:
        """Move package folders, complete relative class names, add localized names that are missing."""
        draft = Draft()
        names = _names(project)
        for renaming in renamings:
            if renaming.facet is Facet.CODE_PACKAGE:
                moved = relocate(tree, names.index, renaming.old, renaming.new, project.foreign)
                draft.moves.extend(moved.moves)
                here = {move.source for move in moved.moves}
                named = renamed_files(tree, names.index, project.folder, renaming.old, renaming.new)
                draft.moves.extend(move for move in named if move.source not in here)
                draft.refusals.extend(moved.clashes)
                draft.edits.extend(_absolute_names(project, tree, renaming))
        if aim.names:
            from onomaxis.projects.android.languages import localize

            for module in dict.fromkeys(app.module for app in project.apps):
                localize(project, reader_of(project, tree, module), tree, aim, draft)
        if not aim.shared:
            draft.refusals.extend(_shared_versions(project, tree, aim))
        return draft


def reader_of(project: Project, tree: Tree, module: str) -> ModuleReader:
    """Return a reader of the one module that ships an app; the same one for the same tree."""
    return tree.kept(("reader", project.folder, module), lambda: _reader(project, tree, module))


def _reader(project: Project, tree: Tree, module: str) -> ModuleReader:
    builds = (build for build in find_builds(tree) if build.folder == project.folder)
    modules = [item for build in builds for item in build.modules]
    mine = next(item for item in modules if item.name == module and item.kind == "application")
    return ModuleReader(mine, [item for item in modules if item is not mine], tree, project.label)


def _shared_versions(project: Project, tree: Tree, aim: Wish) -> Iterator[Note]:
    """Say where a version that is to change is a library's version too."""
    wished = {Facet.VERSION_NAME: aim.version, Facet.VERSION_CODE: aim.build}
    for owner in project.owners:
        new = wished.get(owner.facet, "")
        if not new or owner.value == new or owner.owner is None:
            continue
        for spot in dict.fromkeys(piece.place for piece in owner.owner.pieces if piece.place):
            users = other_users(tree, project.folder, spot)
            if users:
                said = f"others take their version from here too: {', '.join(users)} (--shared writes it)"
                yield Note(spot.at, said)


def _names(project: Project) -> Names:
    assert isinstance(project.detail, Names)
    return project.detail


class _Read(NamedTuple):
    """One module as it was read."""

    module: Module
    reader: ModuleReader
    reading: Reading
    namespace: str


def _project(build: Build, tree: Tree) -> Project:
    label = build.folder.rpartition("/")[2] or tree.root.name
    found = [_read(build, module, tree, label) for module in build.modules]
    apps = tuple(app for item in found for app in item.reading.apps)
    identifiers = list(dict.fromkeys(_identifiers(found, tree)))
    stale = list(_stale_tests(found, identifiers, tree))
    named, unnamed = build_name(build.folder, tree)
    faults = dict.fromkeys((*build.faults, *unnamed, *(fault for item in found for fault in item.reading.faults)))
    shipping = [item.reader for item in found if item.reading.apps]
    return Project(
        "android",
        build.folder,
        label,
        apps,
        (*(owner for item in found for owner in item.reading.owners.values()), *named),
        tuple(opening for item in found for opening in item.reading.openings),
        (*identifiers, *(identifier for identifier, _ in stale)),
        tuple(faults),
        (
            *(said for item in found for said in item.reading.disagreements.values()),
            *_authority_disagreements(found, tree),
            *(said for _, said in stale),
        ),
        _names_of(build, identifiers, [identifier.value for identifier, _ in stale], tree),
        icons=tuple(home for reader in shipping for home in icon_homes(reader)),
        platform="android",
        brands=cache(lambda: tuple(app for reader in shipping for app in reader.brands())),
        brand_names=cache(lambda: tuple(name for reader in shipping for name in flavor_names(reader.module))),
    )


def _read(build: Build, module: Module, tree: Tree, label: str) -> _Read:
    reader = ModuleReader(module, [other for other in build.modules if other is not module], tree, label)
    reading = reader.read()
    namespace = reader.namespace()
    return _Read(module, reader, reading, namespace.text if namespace else "")


def _names_of(build: Build, identifiers: list[Identifier], stale: list[str], tree: Tree) -> Names:
    packages = {*_values(identifiers, Facet.NAMESPACE), *_values(identifiers, Facet.CODE_PACKAGE)}
    return Names(
        _values(identifiers, Facet.APPLICATION_ID),
        _values(identifiers, Facet.NAMESPACE),
        (*_values(identifiers, Facet.CODE_PACKAGE), *stale),
        _NO_CODE,
        tuple(sorted((module.folder for module in build.modules), key=len, reverse=True)),
        tuple(file for module in build.modules for file in placed_files(tree, module.folder, packages)),
    )


def _stale_tests(
    found: list[_Read], identifiers: list[Identifier], tree: Tree
) -> Iterator[tuple[Identifier, Disagreement]]:
    """Yield the packages that a generator's example tests were left in, with what is to be said of them."""
    known = (*_values(identifiers, Facet.NAMESPACE), *_values(identifiers, Facet.CODE_PACKAGE))
    for item in found:
        folder = item.module.folder
        for package, path in stale_test_packages(tree, folder, known) if item.reading.apps else ():
            said = f"the tests lie in {package}, the code in {main_package(tree, folder, item.namespace)}"
            identifier = Identifier(Facet.CODE_PACKAGE, package, item.module.name, tests=True)
            yield identifier, Disagreement("test-package-differs", said, ((path, 1),))


def _identifiers(found: list[_Read], tree: Tree) -> Iterator[Identifier]:
    for item in found:
        name = item.module.name
        for app in item.reading.apps:
            if app.id:
                yield Identifier(Facet.APPLICATION_ID, app.id.text, name)
        for owner in item.reading.owners.values():
            if owner.facet is Facet.APPLICATION_ID:
                yield Identifier(Facet.APPLICATION_ID, owner.value, name)
        if item.namespace:
            yield Identifier(Facet.NAMESPACE, item.namespace, name)
            yield Identifier(Facet.CODE_PACKAGE, main_package(tree, item.module.folder, item.namespace), name)


def _values(identifiers: list[Identifier], facet: Facet) -> tuple[str, ...]:
    return tuple(dict.fromkeys(item.value for item in identifiers if item.facet is facet))


def _absolute_names(project: Project, tree: Tree, renaming: Renaming) -> Iterator[Edit]:
    """Write a relative class name in full where namespace and class no longer move together."""
    for owner in project.owners:
        if owner.facet is not Facet.NAMESPACE:
            continue
        new_namespace = renaming.apply(owner.value) or owner.value
        for path in _manifests(project, tree, owner):
            data = tree.read(path)
            if data is None or b"ndroid:" not in flat(data):
                continue
            manifest = read_manifest(path, data)
            for attribute in manifest.relative_names():
                full = f"{owner.value}.{attribute.value.lstrip('.')}"
                wanted = renaming.apply(full) or full
                if f"{new_namespace}.{attribute.value.lstrip('.')}" == wanted:
                    continue
                spot = manifest.place(attribute)
                written = wanted[len(new_namespace) :] if within(wanted, new_namespace) else wanted
                yield Edit(path, spot.start, spot.end, written.encode("utf-8"), Facet.CODE_PACKAGE)


def _manifests(project: Project, tree: Tree, owner: Mention) -> list[str]:
    folder = parent(owner.place.file)
    if owner.place.file.endswith(".xml"):
        return [owner.place.file]
    return [path for path in tree.below(folder) if path.endswith("/AndroidManifest.xml") and "/src/" in path]


def _authority_disagreements(found: list[_Read], tree: Tree) -> Iterator[Disagreement]:
    """Name provider authorities written out that begin with none of the app's identifiers."""
    for item in found:
        path = join(item.module.folder, "src/main/AndroidManifest.xml")
        data = tree.read(path) if path in tree.known else None
        ids = [app.id.text for app in item.reading.apps if app.id]
        if not data or b"authorities" not in flat(data) or not ids:
            continue
        manifest = guarded(path, [], lambda p=path, d=data: read_manifest(p, d))  # type: ignore[misc]
        if manifest is None:  # reported with the module already
            continue
        for element in manifest.root.walk():
            for attribute in element.attributes:
                value = attribute.value
                if not attribute.name.endswith(":authorities") or "$" in value or reference(value):
                    continue
                if not any(within(value, known) for known in (*ids, item.namespace)):
                    spot = manifest.place(attribute)
                    yield Disagreement(
                        "authority-differs",
                        f"provider authority {value} does not begin with the application ID",
                        ((spot.file, spot.line),),
                    )
