"""What the rules look at: the projects of a tree, what each flavor declares, the identity file, the ledger."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from onomaxis.brands.ledger import Published, read_ledger
from onomaxis.brands.subjects import Subject, subjects_of
from onomaxis.brands.tree_brand import becomes_brands, identity_of_tree
from onomaxis.flavor_names import made_of
from onomaxis.identity.file import Brand, IdentityFile, Said
from onomaxis.identity.schema import LEDGER
from onomaxis.model import Disagreement, ShippedApp, Value
from onomaxis.platforms import PLATFORM_NAMES, PLATFORMS
from onomaxis.projects.project import AppFacts, Project
from onomaxis.surveys.flavors import flavors_of
from onomaxis.surveys.halves import across
from onomaxis.surveys.survey import kind_of, some_projects
from onomaxis.tree import Tree


@dataclass
class Context:
    """One look at a tree. ``named`` are the apps that the identity file speaks of, ``subjects`` all there are.

    ``on`` is the day of the look (``2026-12-31``): allowances that ended before allow nothing; empty: none has ended.
    ``beside`` are profiles and certificates outside of the tree that a person named, by their paths.
    """

    tree: Tree
    projects: tuple[Project, ...]
    file: IdentityFile | None
    named: tuple[Subject, ...]
    subjects: tuple[Subject, ...]
    ledger: tuple[Published, ...]
    on: str = ""
    beside: Mapping[str, bytes] = field(default_factory=dict)
    _facts: dict[tuple[str, str, str], AppFacts] = field(default_factory=dict)

    def facts(self, subject: Subject, flavor: str) -> AppFacts:
        """Return what a flavor of an app declares."""
        key = (subject.project.folder, f"{subject.platform} {subject.module}", flavor)
        if key not in self._facts:
            named = subject.branch(flavor)
            self._facts[key] = kind_of(subject.project).facts(subject.project, self.tree, named)
        return self._facts[key]

    def apps(self) -> Iterator[tuple[Subject, ShippedApp]]:
        """Yield every shipped app with the subject that it is a variant of."""
        for subject in self.subjects:
            yield from ((subject, app) for app in subject.apps)

    def flavored(self, subject: Subject) -> Iterator[str]:
        """Yield the flavors that a subject ships: those of the build, the app itself where there are none."""
        shipped = {app.flavor for app in subject.apps}
        if "" in shipped or not subject.flavors:
            yield ""
        yield from subject.flavors

    def unbuilt(self) -> Iterator[tuple[Subject, str, Brand]]:
        """Yield the brands of the identity file that a tree can become and is not, on each platform."""
        file = self.file
        if file is not None and becomes_brands(file, self.named):
            for subject in self.named:
                yield from (
                    (subject, name, file.as_app(name, subject.platform))
                    for name in file.flavors
                    if name != file.standing
                )

    def spoken(self) -> Iterator[tuple[Subject, str, Brand]]:
        """Yield what the identity file says of everything that ships, and of the brands that a tree can become."""
        file = self.file
        if file is not None:
            for subject in self.named:
                for flavor in self.flavored(subject):
                    yield subject, flavor, file.variant(flavor, subject.singles, subject.platform)
        yield from self.unbuilt()

    def spot(self, said: Said) -> tuple[tuple[str, int], ...]:
        """Return where the identity file says something."""
        return ((self.file.home(said.line), said.line),) if self.file is not None else ()

    def common(self, flavors: Sequence[str]) -> str:
        """Return the flavor that several combinations have in common; none where there is none, or more than one."""
        known = flavors_of(self.projects)
        if len(flavors) == 1:
            return flavors[0]
        parts = frozenset.intersection(*(made_of(flavor, known) for flavor in flavors))
        return next(iter(parts)) if len(parts) == 1 else ""

    def disagreements(self, *codes: str) -> Iterator[Disagreement]:
        """Yield the disagreements of some codes, within projects and across them."""
        every = [item for project in self.projects for item in project.disagreements]
        yield from (item for item in dict.fromkeys([*every, *across(self.projects)]) if item.code in codes)


def look(tree: Tree) -> Context:
    """Take everything in. Raises InputError for an identity file or a ledger that is not right."""
    projects = tuple(some_projects(tree))
    file = identity_of_tree(tree, projects, strict=False)
    named = subjects_of(file, projects) if file is not None else ()
    whole = {(subject.project.key, module): subject for subject in named for module in subject.targets}
    every = (
        whole.get((project.key, module)) or Subject(project, project.platform, module)
        for project in projects
        if project.apps and not project.umbrella and project.platform in PLATFORMS
        for module in dict.fromkeys(app.module for app in project.apps)
    )
    once = {(subject.project.key, subject.module): subject for subject in every}
    data = tree.required(LEDGER)
    subjects = tuple(once.values())
    return Context(tree, projects, file, named, subjects, read_ledger(LEDGER, data) if data is not None else ())


def at(value: Value | None, *others: Value | None) -> tuple[tuple[str, int], ...]:
    """Return where values are written."""
    return tuple(dict.fromkeys((v.origin.file, v.origin.line) for v in (value, *others) if v is not None))


def called(platform: str, flavor: str) -> str:
    """Return how a message speaks of a flavor on a platform."""
    return f"{PLATFORM_NAMES.get(platform, platform)} {flavor}".strip()


def in_a_row(names: Sequence[str]) -> str:
    """Return up to three names, and how many more there are."""
    return ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")


def whose(flavor: str, file: str) -> str:
    """Return the flavor that a finding is about: none, where the file is not the flavor's own."""
    return flavor if flavor and flavor.casefold() in file.casefold() else ""
