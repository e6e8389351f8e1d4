"""Which flavors a project has, and which one a person means: spelled as the build spells it."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence

from onomaxis.errors import InputError, RefusedError
from onomaxis.flavor_names import Singles, each_once, in_order, same_flavor
from onomaxis.identity.schema import nearest
from onomaxis.platforms import PLATFORM_NAMES, PLATFORMS, STAGES
from onomaxis.projects.project import Project, flavors_together


def flavors_of(projects: Iterable[Project]) -> Singles:
    """Return the flavors that projects build, draw icons or set anything for, each once; no combinations of them."""
    every = tuple(projects)
    return every[0].flavors if len(every) == 1 else flavors_together(every)


def spelled_flavor(projects: Iterable[Project], flavor: str) -> str:
    """Return a flavor, or a combination that a build knows by itself, as a build spells it; empty for none."""
    every = tuple(projects)
    built = each_once(name for project in every for name in project.built)
    return next((name for name in (*built, *flavors_of(every)) if same_flavor(name, flavor)), "")


def refuse_one_sided(
    projects: Iterable[Project], flavor: str, platforms: Collection[str], combined: bool = True, alone: bool = False
) -> None:
    """Refuse a flavor that one platform builds and another one, with flavors of its own, does not.

    What is asked for would be done on one side only. *platforms* are those that alone are meant (none: all). A
    platform without any flavor has but the app itself, which stays. What several flavors make together counts where
    it is *combined*, one that a build has in combinations alone does not where it must stand *alone*.

    Raises RefusedError.
    """
    built: dict[str, list[Project]] = {}
    for project in projects:
        if project.platform in (platforms or PLATFORMS) and project.apps:
            built.setdefault(project.platform, []).append(project)
    names = {platform: built_flavors(found) for platform, found in built.items()}
    has = {
        p: _has(built[p], flavor, alone) or (combined and bool(in_order(flavor, flavors_of(built[p]))))
        for p, known in names.items()
        if known
    }
    if flavor and any(has.values()) and not all(has.values()):
        mine, other = (next(p for p, had in has.items() if had is wanted) for wanted in (True, False))
        listed = f"The flavors of {PLATFORM_NAMES[other]} are: {', '.join(sorted(names[other]))}."
        remedy = f"Say --platform {mine} where that one alone is meant. {listed}"
        said = f"{PLATFORM_NAMES[mine]} builds a flavor “{flavor}”, {PLATFORM_NAMES[other]} does not"
        raise RefusedError(said, remedy=remedy)


def _has(projects: Sequence[Project], flavor: str, alone: bool) -> bool:
    if not alone:
        return bool(spelled_flavor(projects, flavor))
    known = [name for project in projects for name in project.built or project.flavors]
    return any(same_flavor(flavor, name) for name in known)


def built_flavors(projects: Sequence[Project]) -> tuple[str, ...]:
    """Return the flavors of projects, less the stages that only configurations of other flavors speak of."""
    stages = {name for project in projects for app in project.apps for name in app.beside if name in STAGES}
    stages -= {name for project in projects for name in project.built}
    return tuple(name for name in flavors_of(projects) if name not in stages)


def known_flavor(projects: Sequence[Project], flavor: str, also: Iterable[str] = (), combined: bool = False) -> str:
    """Return the flavor that is meant, as the build spells it; *also* are flavors that an identity file alone names.

    Raises InputError where there is none, and for a combination of several, but where those are *combined*.
    """
    names = list(dict.fromkeys((*flavors_of(projects), *also)))
    own = spelled_flavor(projects, flavor) or next((name for name in names if same_flavor(name, flavor)), "")
    parts = in_order(flavor, names)
    if own or not flavor or (combined and parts):
        return own or flavor
    if parts:
        said = f"“{flavor}” is not a flavor, but what {' and '.join(parts)} make together"
        raise InputError(said, remedy=f"Name one of them: {', '.join(parts)}.")
    guess = nearest(flavor, names)
    known = f"The flavors are: {', '.join(sorted(names))}." if names else "The project has no flavors."
    remedy = f"Did you mean “{guess}”?" if guess else known
    raise InputError(f"there is no flavor “{flavor}” here", remedy=remedy)
