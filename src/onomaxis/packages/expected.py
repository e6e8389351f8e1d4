"""Which app of a project a package is, and what the project says of it: its identity file, else its sources."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from onomaxis.brands.stamp import stamp
from onomaxis.brands.subjects import Subject
from onomaxis.checks.context import Context, look
from onomaxis.errors import InputError, OnomaxisError
from onomaxis.flavor_names import made_of, selects
from onomaxis.identity.file import Brand
from onomaxis.model import ShippedApp, Value
from onomaxis.packages.facts import Package
from onomaxis.projects.project import AppFacts, Fact, Project
from onomaxis.tree import Tree
from onomaxis.writing.change import applied

# A package's platform, as projects call it.
PLATFORMS = {"android": "android", "ios": "ios", "macos": "ios"}


class Expected(NamedTuple):
    """One shipped app of a project. ``brand`` is what the identity file says of it, None where it says nothing.

    ``context`` is the project, of a template as stamping its flavor makes it. ``suffix`` is what the package's build
    type appends to the ID: not the release that is published.
    """

    context: Context
    subject: Subject
    flavor: str
    app: ShippedApp
    brand: Brand | None
    suffix: str = ""

    @property
    def platform(self) -> str:
        """The platform, as projects call it."""
        return self.subject.platform

    @property
    def facts(self) -> AppFacts:
        """What the sources declare."""
        return AppFacts() if self.alone else self.context.facts(self.subject, self.app.flavor)

    @property
    def alone(self) -> bool:
        """Whether nothing of the platform is in the tree: the identity file alone says what the app is."""
        return not self.subject.project.kind

    @property
    def id(self) -> str:
        """The ID of the release."""
        said = self.facet("id")
        return said.text if said is not None else ""

    def facet(self, key: str) -> Fact | None:
        """Return what a facet shall be, and where that is said."""
        said = self.brand.facets.get(key) if self.brand is not None else None
        if said is not None and self.context.file is not None:
            return Fact(said.text, self.context.file.home(said.line), said.line)
        values = {"id": self.app.id, "name": self.app.name, "version": self.app.version, "build": self.app.build}
        return _fact(values[key])

    @property
    def names(self) -> dict[str, Fact]:
        """The names in languages."""
        found = {locale: _fact(value) for locale, value in self.app.names if locale != "Base"}
        known = {locale: fact for locale, fact in found.items() if fact is not None}
        if self.brand is not None and self.context.file is not None:
            home = self.context.file.home
            known |= {key: Fact(said.text, home(said.line), said.line) for key, said in self.brand.names.items()}
        return known


def _fact(value: Value | None) -> Fact | None:
    return Fact(value.text, value.origin.file, value.origin.line) if value is not None else None


def every_app(context: Context) -> Iterator[Expected]:
    """Yield every app that a project ships; of a template, what each flavor of its identity file makes of it.

    Of a platform whose project is not in the tree that file is all there is.
    """
    file = context.file
    for subject, app in context.apps():
        templates = file.flavors if file is not None and not subject.flavors and subject in context.named else ()
        brand = None
        parts = made_of(app.variant, subject.singles) if app.variant else {""}
        if file is not None and subject in context.named and any(not part or file.lists(part) for part in parts):
            brand = file.variant(app.variant, subject.singles, subject.platform)
        yield Expected(context, subject, app.variant, app, brand)
        for name in templates:
            assert file is not None
            yield Expected(context, subject, name, app, file.brand(name, subject.platform))
    absent = {"android", "ios"} - {project.platform for project in context.projects}
    for platform in absent if file is not None else ():
        assert file is not None
        project = Project("", "", file.path, (), (), platform=platform)
        for name in ("", *file.flavors):
            app = ShippedApp(platform, "", name, "", file.path, None, None, None, None, None)
            yield Expected(context, Subject(project, platform, ""), name, app, file.brand(name, platform))


def expected_of(context: Context, package: Package, flavor: str = "") -> Expected | None:
    """Return the app that a package is: the flavor's that is named, else the one of its ID. None where there is none.

    Raises InputError for a flavor that the project does not have on the package's platform.
    """
    platform = PLATFORMS[package.platform]
    here = [item for item in every_app(context) if item.platform == platform]
    if flavor:
        mine = [item for item in here if selects(flavor, item.flavor, item.subject.singles)]
        if not mine:
            known = ", ".join(dict.fromkeys(item.flavor for item in here if item.flavor)) or "none"
            raise InputError(
                f"the {platform} app has no flavor {flavor}", file=str(context.tree.root), remedy=f"It has {known}."
            )
        here = mine
    called_so = [item for item in here if item.id == package.id]
    if called_so:  # a template that was stamped is called as its flavor: the flavor is what is meant
        return next((item for item in called_so if item.flavor), called_so[0])
    for item in here:
        for suffix in item.facts.suffixes.values() if platform == "android" else ():
            if f"{item.id}{suffix.text}" == package.id:
                return Expected(item.context, item.subject, item.flavor, item.app, item.brand, suffix.text)
    return here[0] if flavor else None


def as_stamped(expected: Expected) -> Expected:
    """Return the app in the project as stamping its flavor makes it; as it is where that cannot be done.

    What the sources say, and what icons show, is then the brand's, of a template too.
    """
    file = expected.context.file
    if file is None or expected.brand is None:
        return expected
    flavor = file.named(expected.flavor) if file.lists(expected.flavor) else ""  # a combination: what all are made of
    try:
        tree: Tree = applied(expected.context.tree, stamp(expected.context.tree, flavor).changes)
        context = look(tree)
    except OnomaxisError:  # `check` and `stamp` say why: here what stands in the project is compared
        return expected
    for item in every_app(context):
        same = (item.subject.module, item.platform) == (expected.subject.module, expected.platform)
        if same and item.app.flavor == expected.app.flavor:
            return Expected(context, item.subject, expected.flavor, item.app, expected.brand, expected.suffix)
    return expected
