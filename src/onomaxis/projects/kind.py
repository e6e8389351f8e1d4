"""What every kind of project offers: the road above this floor knows kinds only by this class."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterator, Mapping, Sequence
from typing import TYPE_CHECKING

from onomaxis.formats.source import Source
from onomaxis.model import Facet, IconHome, Mention, Note, ShippedApp, Value
from onomaxis.projects.dangling import Broken
from onomaxis.projects.draft import Draft
from onomaxis.projects.drawn import DrawnIcon
from onomaxis.projects.launch import Launch, LaunchWish
from onomaxis.projects.places import Places
from onomaxis.projects.project import AppFacts, Flavor, Hits, Project
from onomaxis.projects.proposals import Proposed
from onomaxis.tree import Tree
from onomaxis.wishes import Renaming, Wish

if TYPE_CHECKING:
    from onomaxis.projects.neighbours.called import Called


class Kind(ABC):
    """A kind of project. It must find its projects; what it says nothing of is left as it is."""

    name: str
    platform: str = ""

    @abstractmethod
    def find(self, tree: Tree) -> list[Project]:
        """Return the projects of this kind in *tree*."""

    def index(self, project: Project, held: Mapping[str, bytes]) -> Project:
        """Complete *project* with what only the files that hold an identifier of it can tell."""
        return project

    def mentions(self, project: Project, path: str, source: Source, hits: Hits) -> list[Mention]:
        """Say what each occurrence in a file of *project* is."""
        return []

    def prepare(self, project: Project, tree: Tree, aim: Wish) -> Draft:
        """Return what is to be set right before anything is renamed."""
        return Draft()

    def follow(self, project: Project, tree: Tree, renamings: Sequence[Renaming], aim: Wish) -> Draft:
        """Return what must change beside the mentions when *renamings* are carried out."""
        return Draft()

    def rename_project(self, project: Project, tree: Tree, name: str) -> Draft:
        """Return what must change so that the project itself, not what it ships, is called *name*."""
        return Draft()

    def own_facet(self, project: Project, tree: Tree, flavor: Flavor, facet: Facet, text: str) -> Draft:
        """Give a flavor that takes a facet from the app an entry of its own. Refused where there is no place."""
        return Draft()

    def part_texts(self, project: Project, tree: Tree, flavor: Flavor, shown: str = "") -> Draft:
        """Give a flavor texts by language that are its alone, where those of all lie in one place; they stay.

        A new flavor, called *shown*, gets its own where others have theirs.
        """
        return Draft()

    def launcher_labels(self, project: Project, tree: Tree, flavor: Flavor, old: str, text: str) -> Draft:
        """Let launcher entries with names of their own follow a flavor's name from *old* to *text*."""
        return Draft()

    def dimensions(self, project: Project, tree: Tree, module: str) -> Mapping[str, str]:
        """Return what each flavor varies, by name; nothing where the kind knows no dimensions."""
        return {}

    def add_flavor(self, project: Project, tree: Tree, flavor: Flavor, id_: str, shown: str) -> Draft:
        """Add a flavor of a module or target, called *id_* and *shown*, beside those that there are."""
        return Draft()

    def first_flavor(self, project: Project, tree: Tree, flavor: str, ways: Mapping[str, str]) -> Draft:
        """Let what runs the app run the first flavor that it is built as; *ways* are its ``id`` and ``scheme``."""
        return Draft()

    def add_variant(self, project: Project, tree: Tree, siblings: Sequence[Called], new: Called) -> Draft:
        """Add a flavor wherever the framework's own files, and the lists beside them, speak of its siblings."""
        return Draft()

    def new_dimension(self, project: Project, tree: Tree, flavor: Flavor) -> str:
        """Return what a new flavor would vary; empty where nothing is varied apart."""
        return flavor.dimension

    def has_variants(self, project: Project, tree: Tree) -> bool:
        """Tell whether the project's own configuration can make flavors of what it ships."""
        return bool(self.platform) and not project.umbrella

    def retire_flavor(self, project: Project, tree: Tree, flavor: Flavor) -> Draft:
        """Return what takes a flavor out again, with the files that belong to it alone."""
        return Draft()

    def facts(self, project: Project, tree: Tree, flavor: Flavor) -> AppFacts:
        """Return what one flavor of a module or target declares; an empty table where the kind tells nothing."""
        return AppFacts()

    def built_as(self, project: Project, tree: Tree, app: ShippedApp) -> Mapping[str, str]:
        """Return what the platform's build tools call an app: ``variant``, ``task``, ``scheme``."""
        return {}

    def statements(self, project: Project, tree: Tree) -> Iterator[tuple[Facet, Value]]:
        """Yield what files say of the app beside its owners: copies that nobody else compares."""
        return iter(())

    def broken(self, project: Project, tree: Tree) -> Iterator[Broken]:
        """Yield what the project's files name and what is not there, or is not this app's."""
        return iter(())

    def places(self, project: Project, tree: Tree, module: str) -> Places | None:
        """Return the reader of a module's places for values; None where the kind has none of its own."""
        return None

    def proposals(self, project: Project, tree: Tree, module: str) -> Iterator[Proposed]:
        """Yield the values of a module that brands usually vary."""
        return iter(())

    def texts(self, project: Project, tree: Tree, module: str) -> Iterator[Proposed]:
        """Yield the texts that a module shows, in every language that it has them in."""
        return iter(())

    def name_icons(self, project: Project, tree: Tree, home: IconHome, drawn: DrawnIcon) -> Draft:
        """Return what the project's own files must say once the pictures of one of its icon homes are drawn."""
        return Draft()

    def service_home(self, project: Project, tree: Tree, platform: str) -> tuple[str, Draft] | None:
        """Return where the project itself looks for a platform's service file, and what makes it look there.

        None where the platform's own tools find the file.
        """
        return None

    def service_place(self, project: Project, flavor: Flavor) -> str:
        """Return where a flavor's service file is put that replaces none; empty where the kind has no such place."""
        return ""

    def takes_service(self, project: Project, tree: Tree, flavor: Flavor, path: str) -> bool:
        """Tell whether a build brings a service file into the app; True where nobody can tell."""
        return True

    def bring_service(self, project: Project, tree: Tree, flavor: Flavor, path: str) -> Draft:
        """Return what lets a build bring a flavor's service file into the app, where nothing does so yet."""
        return Draft()

    def launch(self, project: Project, tree: Tree, flavor: Flavor, wish: LaunchWish) -> Launch:
        """Return what puts a brand on the launch screen of a flavor (``""``: the app itself)."""
        said = f"no launch screen is read in a {project.kind} project"
        return Launch(Draft(notes=[Note(project.folder or ".", said)]))
