"""Several packages of one call, and the APKs of one package: do they agree."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

from onomaxis.packages.facts import Package, place

if TYPE_CHECKING:
    from onomaxis.checks.finding import Finding
    from onomaxis.packages.expected import Expected

_STORES = {"android": "Google Play", "ios": "the App Store", "macos": "the Mac App Store"}


def splits_agree(package: Package) -> Iterator[Finding]:
    """Yield where the APKs of one package differ in what must be one."""
    if not package.splits:
        return
    from onomaxis.checks import packaged as rules
    from onomaxis.checks.finding import Finding

    base = next(item for item in package.splits if not item.name)
    for split in package.splits:
        for label, mine, whole in (
            ("ID", split.id, base.id),
            ("build", split.build, base.build),
            ("certificate", ", ".join(split.certificates), ", ".join(base.certificates)),
        ):
            if mine != whole:
                said = f"{label} {mine or 'none'}, the base has {whole or 'none'}"
                yield Finding(rules.SPLITS, said, place(package, f"{split.path}/AndroidManifest.xml"))


def agree(packages: Sequence[Package], expected: Sequence[Expected | None]) -> Iterator[Finding]:
    """Yield where packages of one call get in each other's way, or the platforms of a flavor differ."""
    if len(packages) < 2:
        return
    from onomaxis.checks import packaged as rules
    from onomaxis.checks.finding import Finding

    seen: dict[tuple[str, str | None, str | None], Package] = {}
    for package in packages:
        key = (package.platform, package.id, package.build)
        known, platform = seen.setdefault(key, package), package.platform
        if known is not package:
            said = f"{package.id}, build {package.build}, is in {known.path} too: {_STORES[platform]} takes one"
            yield Finding(rules.TWICE, said, place(package))
    flavors: dict[str, list[tuple[Package, Expected]]] = {}
    for package, item in zip(packages, expected, strict=True):
        if item is not None:
            flavors.setdefault(item.flavor.casefold(), []).append((package, item))
    for pairs in flavors.values():
        yield from _halves(pairs)


def _halves(pairs: Sequence[tuple[Package, Expected]]) -> Iterator[Finding]:
    """Compare a flavor's platforms in what the project says alike of both."""
    android = next((pair for pair in pairs if pair[0].platform == "android"), None)
    apple = next((pair for pair in pairs if pair[0].platform == "ios"), None)
    if android is None or apple is None:
        return
    from onomaxis.checks import packaged as rules
    from onomaxis.checks.finding import Finding

    for key in ("id", "name", "version", "build"):
        said = [pair[1].facet(key) for pair in (android, apple)]
        held = [getattr(pair[0], key) for pair in (android, apple)]
        alike = None not in said and len({fact.text for fact in said if fact is not None}) == 1
        if alike and held[0] != held[1]:
            message = f"{key}: {held[0]} on Android, {held[1]} on iOS ({apple[0].path})"
            yield Finding(rules.HALVES, message, place(android[0]), android[1].flavor)
