"""``onomaxis inspect``: what built packages are called, and how that compares with their project."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

from onomaxis.cli.layout import Cell, blank, pairs, put
from onomaxis.cli.output import make_console, print_json
from onomaxis.cli.progress import working
from onomaxis.errors import InputError
from onomaxis.packages.document import as_document, findings_of
from onomaxis.packages.facts import Icon, Package
from onomaxis.packages.inspection import Inspection, inspect
from onomaxis.platforms import PLATFORM_NAMES

if TYPE_CHECKING:
    from onomaxis.cli.console import SafeConsole
    from onomaxis.tree import Tree

_MOST = 6


def execute(options: argparse.Namespace) -> int:
    """Run the command; the exit code is 1 when errors were found."""
    if options.flavor and not options.against:
        raise InputError("--flavor names a flavor of a project", remedy="Say which: --against PROJECT.")
    tree = None
    if options.against:
        options.project, options.here = options.against, False
        from onomaxis.cli.session import open_project

        tree = open_project(options)
    with working(options, "Reading packages"):
        found = inspect(options.packages, tree, options.flavor)
    if tree is not None and options.flavor:
        from onomaxis.cli.session import say_selected
        from onomaxis.surveys.survey import read_projects

        say_selected(options, read_projects(tree), options.flavor)
    form = "json" if options.json else options.form
    if form == "json":
        told = [_built_as(tree, flavor) for flavor in found.flavors]
        documents = [{**as_document(item), **built} for item, built in zip(found.packages, told, strict=True)]
        print_json({"packages": documents, "findings": findings_of(found.findings, found.packages)})
    elif form != "text":
        from onomaxis.checks.packaged import PACKAGE_RULES
        from onomaxis.checks.report import as_text

        sys.stdout.write(as_text(form, found.findings, PACKAGE_RULES))
    else:
        options.root = None  # packages are told as they were given
        _show(make_console(options), found, bool(options.against), options.each)
    return 1 if any(item.rule.severity == "error" for item in found.findings) else 0


def _built_as(tree: Tree | None, flavor: str | None) -> dict[str, str | None]:
    """Return which variant of its project a package is, and the key that joins platforms; null for none."""
    if tree is None:
        return {}
    if flavor is None:
        return {"flavor": None, "key": None}
    from onomaxis.surveys.survey import read_projects
    from onomaxis.surveys.variants import keys_of

    return {"flavor": flavor, "key": keys_of([flavor], read_projects(tree), tree)[0]}


def _show(console: SafeConsole, found: Inspection, compared: bool, each: bool) -> None:
    for number, (package, flavor) in enumerate(zip(found.packages, found.flavors, strict=True)):
        if number:
            blank(console)
        named = f", flavor {flavor}" if flavor else ""
        put(console, Cell(package.path, "bold"), Cell(f": {package.kind}, {PLATFORM_NAMES[package.platform]}{named}"))
        pairs(console, list(_rows(console, package)))
    from onomaxis.cli.findings import counted, show_findings

    if found.findings:
        blank(console)
    show_findings(console, found.findings, each=each)
    said = counted(found.findings)
    if said or compared or len(found.packages) > 1:
        put(console, Cell(said or "Nothing found: the packages match the project."))


def _rows(console: SafeConsole, package: Package) -> Iterator[tuple[str, str]]:
    """Yield label and text of what a person looks for first; long lists are cut, unless all is asked for."""
    yield "ID", package.id or "none"
    yield "name", package.name or "none"
    if package.names:
        yield "names", _some(console, [f"{locale}: {text}" for locale, text in package.names.items()])
    yield "version", f"{package.version or 'none'} ({package.build or 'no build number'})"
    yield "levels", f"from {package.min or '?'}, made for {package.target or '?'}"
    for label, texts in (
        ("icon", [_icon(item) for item in package.icons]),
        ("catalog", [package.catalog, *package.catalog_names] if package.catalog else []),
        ("permissions", list(package.permissions)),
        ("authorities", list(package.authorities)),
        ("hosts", list(package.hosts)),
        ("schemes", list(package.schemes)),
        ("meta-data", [f"{name} = {text}" for name, text in package.metadata.items()]),
        ("services", [f"{name} = {text}" for name, text in package.services.items()]),
        ("parts", [f"{item.kind} {item.id} {item.version} ({item.build})" for item in package.parts]),
        ("entitlements", list(package.entitlements)),
    ):
        if texts:
            yield label, _some(console, texts)
    if package.profile is not None:
        known = (package.profile.name, package.profile.app_id, package.profile.expires)
        yield "profile", ", ".join(text for text in known if text)
    for item in package.certificates:
        kind = " (development)" if item.debug else ""
        yield "signed by", f"{item.certificate.subject}{kind}, {' '.join(item.schemes)}"
        yield "SHA-256", item.certificate.sha256
    if not package.certificates:
        yield "signed by", "nobody"
    if package.debuggable or package.test_only:
        yield "made for", "tests only" if package.test_only else "debugging"


def _icon(item: Icon) -> str:
    size = f"{item.width}x{item.height}" if item.width else (item.color or "drawn")
    density = f" {item.density}" if item.density is not None else ""
    name = (item.path or "").rpartition("/")[2] if item.role == "apple" else item.role
    return f"{name}{density}: {size}{', alpha' if item.alpha else ''}"


def _some(console: SafeConsole, texts: Sequence[str]) -> str:
    shown = texts if console.every else texts[:_MOST]
    more = f" … and {len(texts) - len(shown)} more (--all)" if len(texts) > len(shown) else ""
    return "; ".join(shown) + more
