"""A flavor that a build knows in combinations alone (``alderbankStaging``): a rename of it is one of each of them."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from typing import NamedTuple

from onomaxis.errors import RefusedError
from onomaxis.flavor_names import each_once, same_flavor, selects
from onomaxis.model import Facet, Note, ShippedApp
from onomaxis.platforms import PLATFORM_NAMES, PLATFORMS
from onomaxis.projects.project import Project, goes_on
from onomaxis.rename.targets import SAID, value_of, with_name
from onomaxis.surveys.flavors import flavors_of
from onomaxis.wishes import Wish


class Steps(NamedTuple):
    """What a wish comes to, one after the other, and what of it leaves a combination as it is."""

    wishes: tuple[Wish, ...]
    notes: tuple[Note, ...] = ()


def steps_of(projects: Sequence[Project], wish: Wish) -> Steps:
    """Return the wishes that a wish for a flavor comes to: itself, where every build knows it by itself.

    Raises RefusedError where the IDs of the combinations do not tell which part of them is the flavor's.
    """
    if not wish.flavor or wish.targets:
        return Steps((wish,))
    known = flavors_of(projects)
    plain: list[str] = []
    wishes: list[Wish] = []
    notes: list[Note] = []
    for platform in wish.platforms or PLATFORMS:
        here = [p for p in projects if p.platform == platform and p.apps and not p.umbrella]
        built = each_once(name for project in here for name in project.built)
        mine = [name for name in built if selects(wish.flavor, name, known)]
        targets = [name for project in here for name in _targets_of(project, wish.flavor)]
        if not (mine or targets) and any(same_flavor(n, wish.flavor) for p in here for a in p.apps for n in a.beside):
            raise _within_others(here, wish, platform)
        if not mine and targets:
            wishes += [wish.on(platform)._replace(flavor="", app=name) for name in targets]
        elif not mine or any(same_flavor(name, wish.flavor) for name in built):
            plain.append(platform)
        else:
            found = _of_each(here, wish.on(platform), mine)
            wishes += found.wishes
            notes += found.notes
    if not wishes:
        return Steps((wish,))
    whole = tuple(platform for platform in plain if any(p.platform == platform and p.apps for p in projects))
    first = [wish._replace(platforms=whole)] if whole else []
    return Steps((*first, *wishes), tuple(notes))


def _within_others(here: Sequence[Project], wish: Wish, platform: str) -> RefusedError:
    """Return the refusal of a stage that has no configurations of its own: those of other flavors speak of it."""
    app = next(a for p in here for a in p.apps if any(same_flavor(name, wish.flavor) for name in a.beside))
    whose = "other flavors, such as" if app.flavor else f"{app.module}, the configuration"
    said = f"on {PLATFORM_NAMES[platform]} “{wish.flavor}” is a stage of {whose} {app.configuration}"
    other = next(name for name in PLATFORMS if name != platform)
    remedy = f"Say --platform {other} where {PLATFORM_NAMES[other]} alone is meant; nothing was changed."
    return RefusedError(said, remedy=remedy)


def _targets_of(project: Project, flavor: str) -> list[str]:
    """Return the targets that are called by a flavor, each in all of its configurations."""
    told: dict[str, list[bool]] = {}
    for app in project.apps:
        mine = not app.flavor and any(same_flavor(name, flavor) for name in app.beside)
        told.setdefault(app.module, []).append(mine)
    return [module for module, mine in told.items() if all(mine)]


def _of_each(here: Sequence[Project], wish: Wish, names: Sequence[str]) -> Steps:
    """Return a wish for each combination: with its own end of the ID, and what it has in common with the main one."""
    apps = [next(a for p in here for a in p.brands() if same_flavor(a.flavor, name)) for name in names]
    platform = apps[0].platform
    base = _base(here, wish, apps)
    main = next((app for app in apps if app.id is not None and app.id.text == base), apps[0])
    wishes, notes = [], []
    for app in apps:
        one = wish._replace(flavor=app.flavor)
        if wish.id_on(platform):
            one = one.with_id(platform, wish.id_on(platform) + (app.id.text[len(base) :] if app.id else ""))
        kept = [facet for facet in _wished(wish) if _text(app, facet) != _text(main, facet)]
        name = with_name(_text(app, Facet.DISPLAY_NAME), _text(main, Facet.DISPLAY_NAME), wish.name or "")
        if name:
            kept = [facet for facet in kept if facet is not Facet.DISPLAY_NAME]
        for facet in kept:
            said = f"the {SAID[facet]} of {app.flavor} stays “{_text(app, facet)}”"
            value = value_of(app, facet)
            notes.append(Note(value.origin.at if value else ".", f"{said} (--flavor '{app.flavor}' changes it)"))
        one = one._replace(
            name=None if Facet.DISPLAY_NAME in kept else name or wish.name,
            version="" if Facet.VERSION_NAME in kept else wish.version,
            build="" if Facet.VERSION_CODE in kept else wish.build,
        )
        if one.id_on(platform) or one.names or any(_wished(one)):
            wishes.append(one)
    return Steps(tuple(wishes), tuple(notes))


def _wished(wish: Wish) -> list[Facet]:
    """Return the facets that a wish speaks of, beside the ID."""
    asked = ((Facet.DISPLAY_NAME, wish.name), (Facet.VERSION_NAME, wish.version), (Facet.VERSION_CODE, wish.build))
    return [facet for facet, text in asked if text]


def _text(app: ShippedApp, facet: Facet) -> str:
    value = value_of(app, facet)
    return value.text if value is not None else ""


def _base(here: Sequence[Project], wish: Wish, apps: Sequence[ShippedApp]) -> str:
    """Return the ID that the combinations of a flavor go on from."""
    ids = [app.id.text.split(".") if app.id is not None else [] for app in apps]
    base = ".".join(words[0] for words in itertools.takewhile(_alike, zip(*ids, strict=False)))
    if not wish.id_on(apps[0].platform):
        return base
    others = [app.id.text for p in here for app in p.brands() if app.flavor not in {a.flavor for a in apps} if app.id]
    if not base or any(goes_on(other, base) for other in others):
        listed = ", ".join(app.flavor for app in apps)
        platform = PLATFORM_NAMES[apps[0].platform]
        raise RefusedError(
            f"{platform} builds {wish.flavor} as {listed}, and their IDs have nothing in common that is its own",
            remedy=f"Rename each: --flavor '{apps[0].flavor}' --platform {apps[0].platform}. Nothing was changed.",
        )
    return base


def _alike(words: Sequence[str]) -> bool:
    return len(set(words)) == 1
