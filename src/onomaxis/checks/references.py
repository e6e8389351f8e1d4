"""Rules about references: what one file names stands where it says, and is this app's."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping

from onomaxis import late
from onomaxis.checks.context import Context
from onomaxis.checks.finding import Finding, Rule
from onomaxis.checks.registry import check
from onomaxis.errors import FormatError
from onomaxis.formats.source import Source
from onomaxis.projects.broken import Sort
from onomaxis.surveys.survey import kind_of

_MANIFEST = "developer.android.com, App manifest overview"
_XCODE = "Apple, Build settings reference"


def _rule(number: int, severity: str, title: str, remedy: str, source: str) -> Rule:
    return Rule(f"REF{number:02d}", severity, title, remedy, source)


RULES: Mapping[Sort, Rule] = {
    Sort.CLASS: _rule(
        1, "error", "A file names a class that is not there", "Correct the name, or bring the class back.", _MANIFEST
    ),
    Sort.PACKAGE: _rule(
        2,
        "error",
        "A shortcut or intent goes to another app",
        "Write the app's ID, or leave targetPackage to the build.",
        "developer.android.com, Create shortcuts",
    ),
    Sort.FIXED: _rule(
        3,
        "warning",
        "A fixed ID is right for one variant alone",
        "Let it follow the ID: a placeholder, a resource, a file for each flavor.",
        "developer.android.com, Configure build variants",
    ),
    Sort.MANIFEST: _rule(
        4,
        "error",
        "A manifest of one source set is of another package",
        "Take its package out: the build gives it.",
        _MANIFEST,
    ),
    Sort.AUTHORITY: _rule(
        5,
        "error",
        "Code asks for an authority that no provider has",
        "Write the authority that the manifest declares.",
        "developer.android.com, FileProvider",
    ),
    Sort.HOST: _rule(
        6, "error", "Tests run in an app that is not built here", "Name the app's product and target.", _XCODE
    ),
    Sort.COMPANION: _rule(
        7,
        "error",
        "A watch app belongs to another app's ID",
        "Let it refer to the app's ID: each configuration has its own.",
        "Apple, WKCompanionAppBundleIdentifier",
    ),
    Sort.SCHEME: _rule(
        8,
        "error",
        "A scheme names a target or configuration that is not there",
        "Correct the scheme.",
        "Apple, Customizing the build schemes for a project",
    ),
    Sort.MIXED: _rule(
        9,
        "error",
        "A flavor's scheme builds another flavor in one of its actions",
        "Give every action the flavor's own configuration.",
        "Apple, Customizing the build schemes for a project",
    ),
    Sort.EXPORT: _rule(
        10,
        "error",
        "The export's profiles are not those of what is embedded",
        "Name one profile for each product of the app, and its team.",
        "Apple, Distributing your app for beta testing and releases",
    ),
    Sort.PODS: _rule(
        11,
        "error",
        "The Podfile speaks of a target or configuration that the project does not have so",
        "Correct the Podfile.",
        "the package manager's guide, Podfile syntax",
    ),
    Sort.FILE: _rule(
        12,
        "error",
        "A build setting names a file that is not there",
        "Correct the path, or bring the file back.",
        _XCODE,
    ),
    Sort.SCREEN: _rule(
        13,
        "error",
        "The property list names a storyboard that is not there",
        "Correct the name, or bring it back.",
        "Apple, Information Property List",
    ),
    Sort.BASE: _rule(
        14,
        "error",
        "A flavor's configuration is built with another flavor's file",
        "Give it the flavor's own configuration file.",
        _XCODE,
    ),
    Sort.CONFIGURATION: _rule(
        15, "error", "A configuration is missing that its siblings have", "Add it, or take it out everywhere.", _XCODE
    ),
    Sort.GROUP: _rule(
        16,
        "error",
        "What is embedded is in no app group of its app",
        "Write the group of both alike; case counts.",
        "Apple, Configuring app groups",
    ),
    Sort.MODULE: _rule(
        17,
        "error",
        "The build includes a module that is not there",
        "Take it out, or bring its folder back.",
        "developer.android.com, Configure your build",
    ),
}
STARTED = _rule(
    18,
    "warning",
    "A script starts an app by an ID that none here has",
    "Write the app's ID.",
    "developer.android.com, Android Debug Bridge; Apple, simctl",
)
COMPONENT = _rule(
    19,
    "error",
    "Code of the platforms asks for another component than is registered",
    "Write one name on all sides.",
    "reactnative.dev, AppRegistry",
)


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
