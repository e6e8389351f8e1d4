"""The whole of an inspection: packages read, each held against its app, all of them against one another."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import TYPE_CHECKING, NamedTuple

from onomaxis.packages.facts import Package, place
from onomaxis.packages.opening import open_package
from onomaxis.packages.together import agree, splits_agree

if TYPE_CHECKING:
    from onomaxis.checks.finding import Finding
    from onomaxis.packages.expected import Expected
    from onomaxis.tree import Tree

Tick = Callable[[int], None]


class Inspection(NamedTuple):
    """What packages say of themselves, and what is wrong with them; flavors as far as they are known."""

    packages: tuple[Package, ...]
    flavors: tuple[str | None, ...]
    findings: tuple[Finding, ...]


def inspect(
    paths: Sequence[str], project: Tree | None = None, flavor: str = "", tick: Tick | None = None
) -> Inspection:
    """Read packages, and hold them against a project. Raises InputError for what is not a package, or no flavor."""
    packages = []
    for number, path in enumerate(paths):
        packages.append(open_package(path))
        if tick:
            tick(number + 1)
    found = [finding for package in packages for finding in (*splits_agree(package), *_still_signed(package))]
    apps: Sequence[Expected | None] = [None] * len(packages)
    if project is not None:
        from onomaxis.packages.judging import judged

        apps, differences = judged(packages, project, flavor)
        found += differences
    found += agree(packages, apps)
    flavors = tuple(app.flavor if app is not None else None for app in apps)
    if not found:
        return Inspection(tuple(packages), flavors, ())
    from onomaxis.checks.finding import sorted_findings

    return Inspection(tuple(packages), flavors, sorted_findings(found))


def _still_signed(package: Package) -> Iterator[Finding]:
    """Yield the APKs whose bytes are not those that were signed."""
    if not any(set(item.schemes) - {"v1"} for item in package.certificates) or package.kind == "aab":
        return
    from onomaxis.checks import packaged as rules
    from onomaxis.checks.finding import Finding
    from onomaxis.formats.binary.archive import Archive
    from onomaxis.formats.binary.signatures import changed_since

    for lead, archive in package.content.layers:
        scheme = changed_since(archive) if isinstance(archive, Archive) else ""
        if scheme:
            said = f"its contents do not match the digest that scheme {scheme} signs"
            yield Finding(rules.CHANGED, said, place(package, f"{lead}AndroidManifest.xml" if lead else ""))
