"""What is built, by what it varies: brand, environment, tier; told alike of every platform."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace
from functools import cache
from typing import NamedTuple

from onomaxis.errors import OnomaxisError
from onomaxis.flavor_names import combined, in_order, same_flavor, words_of
from onomaxis.identity.schema import NAME
from onomaxis.model import ShippedApp
from onomaxis.platforms import PUBLISHED, STAGES
from onomaxis.projects import kind_named
from onomaxis.projects.project import Project, build_type, variant_targets
from onomaxis.surveys.beside import Beside
from onomaxis.surveys.flavors import flavors_of
from onomaxis.tree import Tree

# What flavors vary where the build has no name for it: environments, and all else.
ENVIRONMENT, FLAVOR = "environment", "flavor"


class Variant(NamedTuple):
    """What one shipped app is built as: the flavor of each dimension, and the build type.

    ``name`` is what it is called, ``key`` the same in small letters and in one order on all platforms.
    """

    name: str
    flavors: Mapping[str, str]
    build_type: str
    key: str


def told_dimensions(tree: Tree) -> Mapping[str, str]:
    """Return what flavors vary by the word of the identity file; nothing where that is not right: told elsewhere."""
    return tree.kept("dimensions told", lambda: _told_dimensions(tree))


def _told_dimensions(tree: Tree) -> dict[str, str]:
    data = tree.named_file(NAME)
    if data is None:
        return {}
    from onomaxis.identity.gathering import files_named
    from onomaxis.identity.reading import read_identity

    if all(b"dimension" not in (tree.read(path) or b"") for path in (NAME, *files_named(NAME, data, Beside(tree)))):
        return {}

    try:
        tables = read_identity(NAME, data, around=Beside(tree), strict=False).top.get("flavors", {})
    except OnomaxisError:
        return {}
    return {name: table["dimension"] for name, table in tables.items() if "dimension" in table}


def dimensions_of(projects: Iterable[Project], tree: Tree) -> dict[str, str]:
    """Return what each flavor varies, by its name in small letters: as one platform says it, it holds for all.

    The identity file has the last word.
    """
    found: dict[str, str] = {}
    for project in projects:
        for module in dict.fromkeys(app.module for app in project.apps):
            known = kind_named(project.kind).dimensions(project, tree, module)
            found |= {name.casefold(): text for name, text in known.items() if text}
    return found | {name.casefold(): text for name, text in told_dimensions(tree).items()}


def variants_of(projects: Sequence[Project], tree: Tree) -> list[Variant]:
    """Return what each shipped app of the projects is, in their order.

    Where a platform tells one flavor of a dimension and not the other (a ``Staging`` beside a plain ``Release``), the
    one that is left of what the other platform has is meant; of several the one that is published.
    """
    apps = [app for project in projects for app in project.apps]
    known, varied = flavors_of(projects), dimensions_of(projects, tree)
    told = [_told(app.variant, known, varied) for app in apps]
    members = _members(known, varied)
    for platform in dict.fromkeys(app.platform for app in apps):
        mine = [flavors for app, flavors in zip(apps, told, strict=True) if app.platform == platform]
        for dimension, name in _left(mine, members).items():
            for flavors in mine:
                flavors.setdefault(dimension, name)
    return [_variant(app, flavors) for app, flavors in zip(apps, told, strict=True)]


def keys_of(names: Iterable[str], projects: Sequence[Project], tree: Tree) -> list[str]:
    """Return the key of each of some variants by what it is called, in whatever form a build or a ledger calls it."""
    known, varied = flavors_of(projects), dimensions_of(projects, tree)
    return [_key(_told(name, known, varied)) for name in names]


def together(names: Sequence[str], projects: Sequence[Project], tree: Tree) -> list[str]:
    """Return what some flavors mean side by side: each by itself, those of several dimensions together.

    *names* are spelled as people do; what they make together is called as a build calls it.
    """
    known, varied = flavors_of(projects), dimensions_of(projects, tree)
    groups: dict[str, list[str]] = {}
    for name in names:
        told = _told(name, known, varied)
        groups.setdefault("+".join(told), []).append(name)
    if len(groups) < 2:
        return list(names)
    built = {_key(_told(a.variant, known, varied)): a.variant for p in projects for a in p.apps}
    keys = (_key(_told(combined(parts), known, varied)) for parts in itertools.product(*groups.values()))
    return [built.get(key, key) for key in keys]


def environments(names: Iterable[str], projects: Sequence[Project], tree: Tree) -> set[str]:
    """Return those of some flavors that vary what a stage varies (``staging``), in whatever words."""
    varied = dimensions_of(projects, tree)
    named = {dimension for name, dimension in varied.items() if name in STAGES}
    return {n for n in names if n.casefold() in STAGES or varied.get(n.casefold()) in named}


def _key(flavors: Mapping[str, str]) -> str:
    return "+".join(flavors[dimension].casefold() for dimension in sorted(flavors))


def _told(variant: str, known: Sequence[str], varied: Mapping[str, str]) -> dict[str, str]:
    """Return the flavors that a variant is made of, by dimension."""
    found: dict[str, str] = {}
    named = {dimension for name, dimension in varied.items() if name in STAGES}
    others = [dimension for dimension in dict.fromkeys(varied.values()) if dimension not in named]
    for name in in_order(variant, known) or [variant] * bool(variant):
        stage = name.casefold() in STAGES
        guess = (next(iter(named), ENVIRONMENT)) if stage else others[0] if len(others) == 1 else FLAVOR
        dimension = varied.get(name.casefold(), guess)
        number = 2
        while dimension in found:
            dimension, number = f"{guess} {number}", number + 1
        found[dimension] = name
    return found


def _variant(app: ShippedApp, flavors: Mapping[str, str]) -> Variant:
    kind = app.configuration
    for name in (app.flavor, *app.beside):
        kind = build_type(kind, name) if name else kind
    return Variant(app.flavor if not app.beside else app.variant, dict(flavors), kind.casefold(), _key(flavors))


def with_flavors_told(projects: Sequence[Project], tree: Tree) -> list[Project]:
    """Give projects the flavors that nothing in their own configurations tells.

    That is what the identity file calls a flavor of some dimension; and in Xcode projects what targets are called by,
    a brand each, or an environment: a target is a brand's where another platform has a flavor of its name.
    """
    told = tuple(told_dimensions(tree))
    projects = [replace(project, told=told) for project in projects] if told else list(projects)
    ranks = _ranks(projects)
    projects = [replace(project, ranks=ranks) for project in projects] if ranks else projects
    built = flavors_of(p for p in projects if p.platform != "ios")
    others = {name.casefold(): name for name in (*told, *built)}
    projects = [_targets_told(project, others) if project.platform == "ios" else project for project in projects]
    if not built or not any(app.variant for p in projects if p.platform == "ios" for app in p.apps):
        return projects
    varied = dimensions_of(projects, tree)
    members = _members(flavors_of(projects), varied)
    return [_left_told(project, members, varied) if project.platform == "ios" else project for project in projects]


def _ranks(projects: Iterable[Project]) -> dict[str, int]:
    """Return the place of each flavor's dimension in the names of Gradle's variants, by its name in small letters."""
    rows = (in_order(app.flavor, p.flavors) for p in projects if p.kind == "android" for app in p.apps if app.flavor)
    return {name.casefold(): rank for row in rows if len(row) > 1 for rank, name in enumerate(row)}


def _targets_told(project: Project, others: Mapping[str, str]) -> Project:
    above = variant_targets(project)
    named = {app.module.casefold() for app in project.apps} & others.keys()
    others = others if len(named) > 1 else {}  # a single target is the app's, whatever it is called

    def told(app: ShippedApp) -> ShippedApp:
        base = above.get(app.module, app.module)
        rest = words_of(app.module.removeprefix(base)) if base != app.module else []
        brand = others.get(base.casefold(), "") if not app.flavor else ""
        more = [name for name in (brand, combined(word.casefold() for word in rest)) if name]
        return app._replace(beside=(*more, *app.beside)) if more else app

    return _with_apps(project, told)


def _members(known: Iterable[str], varied: Mapping[str, str]) -> dict[str, dict[str, str]]:
    """Return the flavors of each dimension by their names in small letters."""
    members: dict[str, dict[str, str]] = {}
    for name in known:
        for dimension in _told(name, (name,), varied):
            members.setdefault(dimension, {})[name.casefold()] = name
    return members


def _left(told: Iterable[Mapping[str, str]], members: Mapping[str, Mapping[str, str]]) -> dict[str, str]:
    """Return the flavor of each dimension that is left where some of it are told: of several the one published."""
    every = list(told)
    left: dict[str, str] = {}
    for dimension, names in members.items():
        mine = {flavors[dimension].casefold() for flavors in every if dimension in flavors}
        rest = [name for fold, name in names.items() if fold not in mine] if mine else []
        rest = [name for name in rest if name.casefold() in PUBLISHED] if len(rest) > 1 else rest
        if len(rest) == 1:
            left[dimension] = rest[0]
    return left


def _left_told(project: Project, members: Mapping[str, Mapping[str, str]], varied: Mapping[str, str]) -> Project:
    """Give plain configurations what is left of a dimension that the configurations beside them are called by."""
    known = project.flavors
    named = ((app, name) for app in project.apps for name in app.beside)
    stages = {n.casefold() for app, n in named if n.casefold() in STAGES or same_flavor(n, app.configuration)}
    told = [_told(app.variant, known, varied) for app in project.apps]
    beside = [{dimension: name for dimension, name in own.items() if name.casefold() in stages} for own in told]
    left = _left(beside, members)

    def meant(app: ShippedApp) -> ShippedApp:
        own = _told(app.variant, known, varied)
        return app._replace(beside=(*app.beside, *(name for dimension, name in left.items() if dimension not in own)))

    return _with_apps(project, meant) if left else project


def _with_apps(project: Project, told: Callable[[ShippedApp], ShippedApp]) -> Project:
    """Return a project whose apps, in every configuration, are told anew."""
    apps = tuple(told(app) for app in project.apps)
    if apps == project.apps:
        return project
    return replace(project, apps=apps, brands=cache(lambda: tuple(told(app) for app in project.brands())))
