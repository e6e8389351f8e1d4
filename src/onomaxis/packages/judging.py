"""Packages held against their project: everything that takes the project to be read."""

from __future__ import annotations

from collections.abc import Sequence

from onomaxis.checks import packaged as rules
from onomaxis.checks.context import Context, look
from onomaxis.checks.finding import Finding
from onomaxis.checks.inspection import not_allowed
from onomaxis.errors import FormatError, InputError
from onomaxis.identity.file import IdentityFile
from onomaxis.packages.compare import compared
from onomaxis.packages.expected import PLATFORMS, Expected, as_stamped, every_app, expected_of
from onomaxis.packages.facts import Package, place
from onomaxis.packages.pictures import icon_findings
from onomaxis.packages.residue import residue
from onomaxis.tree import Tree


def judged(
    packages: Sequence[Package], project: Tree, flavor: str = ""
) -> tuple[list[Expected | None], list[Finding]]:
    """Return which app of the project each package is, and every difference that the project does not allow.

    Raises InputError for a flavor that the project does not have.
    """
    context = look(project)
    apps = [expected_of(context, package, flavor) for package in packages]
    found: list[Finding] = []
    for package, app in zip(packages, apps, strict=True):
        try:
            found += held_against(package, app) if app is not None else [_unknown(context, package)]
        except FormatError as error:  # an entry that nobody looked at before
            raise InputError(error.message, file=package.path, remedy="Nothing was unpacked or run.") from None
    if context.file is not None:
        found = _kept(context.file, found)
    return apps, found


def _kept(file: IdentityFile, findings: Sequence[Finding]) -> list[Finding]:
    """Leave out what the identity file allows, place by place: a text may be meant to be in one file alone."""
    found = []
    for item in findings:
        kept, _ = not_allowed(file, [item._replace(at=(spot,)) for spot in item.at])
        places = tuple(spot for one in kept for spot in one.at)
        found += [item._replace(at=places)] if places else []
    return found


def held_against(package: Package, app: Expected) -> list[Finding]:
    """Return every difference between a package and its app in the project as the brand makes it."""
    stamped = as_stamped(app) if _is_drawn(app) else app
    found = [*compared(package, stamped), *icon_findings(package, app, stamped)]
    return [*found, *residue(package, app)]


def _is_drawn(app: Expected) -> bool:
    """Tell whether the project as it lies may say less than the brand does: a template, or art to be drawn."""
    brand = app.brand
    return brand is not None and (app.flavor != app.app.flavor or bool(brand.icon))


def _unknown(context: Context, package: Package) -> Finding:
    platform = PLATFORMS[package.platform]
    known = dict.fromkeys(item.id for item in every_app(context) if item.platform == platform and item.id)
    listed = ", ".join(list(known)[:6]) + (" …" if len(known) > 6 else "")
    said = f"{package.id} is not an app of the project; it has {listed or 'none on this platform'}"
    return Finding(rules.UNKNOWN_ID, said, place(package))
