"""What every cross-platform kind shares: a kind of its own says where it is, and reads its files."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence

from onomaxis.flavor_names import same_flavor
from onomaxis.formats.source import Source, flat
from onomaxis.model import Facet, Mention, Note, Role, Scope
from onomaxis.platforms import PLATFORMS
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import opening_edit
from onomaxis.projects.flavored_files import files_of, twin_files
from onomaxis.projects.frameworks.files import ID_OF, Files
from onomaxis.projects.frameworks.npm import npm_rename
from onomaxis.projects.frameworks.written_variants import add_variant, asked_variables, retire_variant
from onomaxis.projects.kind import Kind
from onomaxis.projects.neighbours.called import Called
from onomaxis.projects.occurrences import ending, language_of
from onomaxis.projects.ownership import standing
from onomaxis.projects.project import EVERY, Flavor, Hits, Occurrence, Project, place
from onomaxis.projects.run_lists import run_as, twins, without
from onomaxis.tree import Tree, join, parent
from onomaxis.wishes import Renaming, Wish

_EDITED = frozenset(
    ".json .json5 .html .htm .webmanifest .env .cfg .csproj .props .xml .plist .rc .cmake .cs .gd".split()
)
_EDITED_NAMES = ("CMakeLists.txt", ".env")


class HybridKind(Kind):
    """A kind of project over native halves. A kind of its own says where it is, and reads its files."""

    name = ""
    platform = ""
    ships: tuple[str, ...] = PLATFORMS
    # Files that the framework's tools make of its configuration, and what makes them again.
    copies: tuple[str, ...] = ()
    again: str = "let the framework's tools make it again"

    # Scripts of its configuration, which may make variants by the environment.
    scripts: tuple[str, ...] = ()

    # Manifests that the kind needs, with what tells by the text that a folder is of it where one is broken (empty:
    # another file tells).
    manifests: tuple[tuple[str, bytes], ...] = ()

    def roots(self, tree: Tree) -> Iterable[str]:
        """Return the folders of projects of this kind; what is told of a broken manifest is added."""
        raise NotImplementedError

    def read(self, files: Files) -> None:
        """Gather what the project's own files say."""
        raise NotImplementedError

    def technical(self, files: Files, name: str, draft: Draft) -> None:
        """Add what changes when the project itself is called *name*. By default the npm package's name."""
        npm_rename(files, name, draft)

    def find(self, tree: Tree) -> list[Project]:
        """Return the projects of this kind."""
        found: list[Project] = []
        for folder in dict.fromkeys((*self.roots(tree), *self._broken(tree))):
            files = Files(tree, folder)
            self.read(files)
            for name, _ in self.manifests:
                files.manifest(name)
            found.extend(files.projects(self.name, self.ships))
        return found

    def _broken(self, tree: Tree) -> Iterator[str]:
        """Yield the folders whose manifest cannot be read: they are projects of this kind all the same."""
        for name, telling in self.manifests:
            for path in tree.named(name) if telling else ():
                told = re.search(telling, flat(tree.read(path) or b""))
                if told and Files(tree, parent(path)).manifest(name) is None:
                    yield parent(path)

    def mentions(self, project: Project, path: str, source: Source, hits: Hits) -> list[Mention]:
        """Say what each occurrence in a file of the framework's is: code and configuration follow."""
        return [_mention(project, path, source, hit) for hit in hits]

    def prepare(self, project: Project, tree: Tree, aim: Wish) -> Draft:
        """State the ID of a platform that shall have its own, where the framework's file has one for all."""
        draft = Draft(notes=self._stale(project, tree, aim))
        present = next((app.id.text for app in project.apps if app.id is not None), "")
        if aim.id and aim.apart and present and present != aim.id and not aim.flavor:
            draft.edits += [opening_edit(tree, item, present) for item in project.own_ids[:1]]
        for first, text in self.opens_first(project, aim):
            draft.edits += [opening_edit(tree, item, text) for item in project.openings if item.facet is first]
        return draft

    def opens_first(self, project: Project, aim: Wish) -> Iterable[tuple[Facet, str]]:
        """Yield facets, with a text, that are written before others: both go into one object that is missing."""
        return ()

    def follow(self, project: Project, tree: Tree, renamings: Sequence[Renaming], aim: Wish) -> Draft:
        """Refused for a name in a language where the framework's files have no place for one."""
        known = {locale for app in project.apps for locale, _ in app.names}
        missing = [locale for locale, _ in aim.names if locale not in known and not project.umbrella]
        said = f"a {project.kind} file has no place for a name in {', '.join(missing)}"
        return Draft(refusals=[Note(project.folder or ".", said)] if missing else [])

    def _stale(self, project: Project, tree: Tree, aim: Wish) -> list[Note]:
        """Name the copies that the framework's tools make and git ignores, where they still say the old."""
        facets = {*ID_OF.values()} if aim.id else set()
        facets |= {Facet.DISPLAY_NAME} if aim.name is not None else set()
        wished = {aim.id, aim.name}
        said = {item.value.encode() for item in project.owners if item.facet in facets and item.value not in wished}
        found = []
        for name in self.copies:
            path = join(project.folder, name)
            data = tree.read(path) if path not in tree.known and tree.exists(path) else None
            if data and any(text in data for text in said):
                found.append(Note(path, f"a copy that git ignores still says the old: {self.again}"))
        return found

    def rename_project(self, project: Project, tree: Tree, name: str) -> Draft:
        """Change the names by which the framework's tools know the project."""
        draft = Draft()
        self.technical(Files(tree, project.folder), name, draft)
        return draft

    def variables(self, files: Files) -> frozenset[str]:
        """Return the variables of the environment by which the project's own configuration tells flavors apart."""
        return asked_variables(files, self.scripts)

    def add_variant(self, project: Project, tree: Tree, siblings: Sequence[Called], new: Called) -> Draft:
        """List a flavor wherever its siblings are listed, and give it the pages and settings that they have."""
        files = Files(tree, project.folder)
        draft = twins(tree, project.folder, siblings, new, self.variables(files))
        draft.join(twin_files(tree, project.folder, siblings, new))
        draft.join(self.written_variant(files, siblings, new))
        return draft

    def first_flavor(self, project: Project, tree: Tree, flavor: str, ways: Mapping[str, str]) -> Draft:
        """Let the package's scripts that run the app run the flavor: without one the tools find none, or several."""
        return run_as(tree, project.folder, {**ways, "flavor": flavor})

    def written_variant(self, files: Files, siblings: Sequence[Called], new: Called) -> Draft:
        """Return what writes a variant into the project's own configuration, as its siblings are written."""
        if not self.scripts:
            return Draft()
        self.read(files)
        return add_variant(files, self.scripts, [_as_stated(files, item) for item in siblings], new)

    def retire_flavor(self, project: Project, tree: Tree, flavor: Flavor) -> Draft:
        """Take a flavor out of the lists and the scripts, and its own pages and settings away."""
        if not project.umbrella:
            return Draft()
        files = Files(tree, project.folder)
        draft = without(tree, project.folder, flavor.name, self.variables(files))
        draft.removed += files_of(tree, project.folder, flavor.name)
        if self.scripts:
            self.read(files)
        names = list(dict.fromkeys(item.scope.flavor for item in files.owners if item.scope.flavor))
        draft.join(retire_variant(files, self.scripts, flavor.name, names))
        return draft

    def own_facet(self, project: Project, tree: Tree, flavor: Flavor, facet: Facet, text: str) -> Draft:
        """Refused: flavors of a generated half are branches of the framework's own configuration."""
        said = f"flavor {flavor.name} states no {facet} of its own in the {project.kind} file"
        return Draft(refusals=[Note(project.folder or ".", said)])


def _as_stated(files: Files, flavor: Called) -> Called:
    """Return a flavor as the framework's own files speak of it, where they do."""
    ids, shown = dict(flavor.ids), flavor.shown
    for owner in files.owners:
        if same_flavor(owner.scope.flavor, flavor.name) and owner.facet in ID_OF.values():
            ids |= {platform: owner.value for platform in ids if owner.scope.platform in (EVERY, platform)}
        elif same_flavor(owner.scope.flavor, flavor.name) and owner.facet is Facet.DISPLAY_NAME:
            shown = owner.value
    return flavor._replace(ids=ids, shown=shown)


def _mention(project: Project, path: str, source: Source, hit: Occurrence) -> Mention:
    facet = next((item.facet for item in project.identifiers if item.value == hit.identifier), Facet.APPLICATION_ID)
    spot = place(path, source, hit.start, hit.end, "raw")
    scope = Scope(EVERY, project.folder)
    stays = standing(path, source, hit, project.foreign)
    if stays is None and not _is_edited(path):
        stays = Role.OUTSIDE, "not a file of a known kind: change it by hand if it means this app"
    if stays is not None:
        return Mention(facet, stays[0], spot, hit.identifier, scope, reason=stays[1])
    return Mention(facet, Role.FOLLOWER, spot, hit.identifier, scope)


def _is_edited(path: str) -> bool:
    name = path.rpartition("/")[2]
    return ending(path) in _EDITED or name in _EDITED_NAMES or language_of(path) is not None
