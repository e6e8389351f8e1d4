"""Rules about references: what one file names stands where it says, and is this app's."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping

from onomaxis import late
from onomaxis.checks.context import Context
from onomaxis.checks.finding import Finding, Rule, rule
from onomaxis.checks.registry import check
from onomaxis.errors import FormatError
from onomaxis.formats.source import Source
from onomaxis.projects.dangling import Sort
from onomaxis.surveys.survey import kind_of

RULES: Mapping[Sort, Rule] = {
    Sort.CLASS: rule("REF01"),
    Sort.PACKAGE: rule("REF02"),
    Sort.FIXED: rule("REF03"),
    Sort.MANIFEST: rule("REF04"),
    Sort.AUTHORITY: rule("REF05"),
    Sort.HOST: rule("REF06"),
    Sort.COMPANION: rule("REF07"),
    Sort.SCHEME: rule("REF08"),
    Sort.MIXED: rule("REF09"),
    Sort.EXPORT: rule("REF10"),
    Sort.PODS: rule("REF11"),
    Sort.FILE: rule("REF12"),
    Sort.SCREEN: rule("REF13"),
    Sort.BASE: rule("REF14"),
    Sort.CONFIGURATION: rule("REF15"),
    Sort.GROUP: rule("REF16"),
    Sort.MODULE: rule("REF17"),
}
STARTED = rule("REF18")
COMPONENT = rule("REF19")


@check(*RULES.values())
def references(context: Context) -> Iterator[Finding]:
    """Ask every project what it names and what is not there."""
    for project in context.projects:
        for item in kind_of(project).broken(project, context.tree):
            yield Finding(RULES[item.sort], item.said, ((item.file, item.line),), item.flavor)


@check(COMPONENT)
def components(context: Context) -> Iterator[Finding]:
    """Compare the names under which code registers its root component and asks for it."""
    for found in context.disagreements("components-differ"):
        yield Finding(COMPONENT, found.message, found.at)


_SCRIPTS = late.compile(r"(?:\.ya?ml|\.sh|\.rb|\.mk|\.ps1|(?:\A|/)(?:package\.json|Makefile|Justfile|Rakefile))\Z")
_ID = r"([A-Za-z][\w-]*(?:\.[A-Za-z_][\w-]*)+)"
_STARTS = late.compile(
    rf"am start[^\n]*?-n\s*['\"]?{_ID}/"
    rf"|(?:pm clear|uninstall|monkey -p|pidof|simctl (?:launch|terminate|uninstall)\s+\S+)\s+['\"]?{_ID}"
    rf"|--(?:app-?id|bundle-?id|application-?id)[= ]['\"]?{_ID}",
    re.IGNORECASE,
)
_LONGEST = 400_000


@check(STARTED)
def started(context: Context) -> Iterator[Finding]:
    """Look for the IDs by which scripts start apps."""
    ids = {app.id.text for project in context.projects for app in project.brands() or project.apps if app.id}
    ids |= {app.id.text for project in context.projects for app in project.apps if app.id}
    parts = {p.id.text for project in context.projects for app in project.apps for p in app.parts if p.id}
    for path in context.tree.files if ids else ():
        data = context.tree.read(path) if _SCRIPTS.search(path) else None
        if data is None or len(data) > _LONGEST:
            continue
        try:
            source = Source.read(data)
        except FormatError:
            continue
        for match in _STARTS.finditer(source.view):
            said = next(filter(None, match.groups()))
            if said not in ids | parts and any(_near(said, id_) for id_ in ids):
                message = f"it starts {said}; the apps here are {', '.join(sorted(ids)[:3])}"
                yield Finding(STARTED, message, ((path, source.line(match.start())),))


def _near(one: str, other: str) -> bool:
    """Tell whether an ID is most likely meant to be an app of this tree: what it belongs to begins alike."""
    return (
        one.casefold().split(".")[:2] == other.casefold().split(".")[:2] or one.split(".")[-1] == other.split(".")[-1]
    )
