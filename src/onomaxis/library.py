"""The library: what a shop builds gates of its own from. Every function takes a project's folder and returns data.

Results are frozen; what is wrong with the input is an :class:`onomaxis.errors.OnomaxisError` with file and line.
Nothing is written by any of them but :func:`write`.
"""

from __future__ import annotations

from collections.abc import Sequence
from os import PathLike
from pathlib import Path

from onomaxis.brands.identity_after_rename import with_identity
from onomaxis.brands.stamp import stamp as plan_stamp
from onomaxis.brands.subjects import load_identity
from onomaxis.checks.finding import Finding
from onomaxis.checks.inspection import look_over
from onomaxis.history.changed import since as history_since
from onomaxis.history.differences import Differences
from onomaxis.history.timeline import Event, facet_of
from onomaxis.history.timeline import timeline as history_timeline
from onomaxis.identity.file import IdentityFile
from onomaxis.packages.inspection import Inspection
from onomaxis.packages.inspection import inspect as inspect_packages
from onomaxis.rename.plan import Plan
from onomaxis.rename.rename import plan_rename
from onomaxis.surveys.survey import Survey, take_survey
from onomaxis.tree import Tree
from onomaxis.wishes import Wish
from onomaxis.writing.guard import refuse_crossing, refuse_uncommitted
from onomaxis.writing.planned import PlannedChange
from onomaxis.writing.write import Labels, carry_out, locked

Place = str | PathLike[str]


def survey(project: Place, app: str = "") -> Survey:
    """Return everything that a project is called, and where that is written.

    *app* names a module, target, folder, ID or name, where a repository holds several.
    Raises InputError when there is no project of a known kind.

    >>> found = survey(project)
    >>> sorted({app.platform for app in found.apps})
    ['android', 'ios']
    >>> app = next(app for app in found.apps if app.platform == "ios" and not app.flavor)
    >>> app.id.text, app.name.text, app.version.text
    ('org.lendspan.app', 'Lendspan', '2.4.0')
    >>> sorted({variant.key for variant in found.variants})[:2]
    ['', 'alderbank+community']
    >>> len(found.mentions) > 100
    True
    """
    return take_survey(Tree.open(Path(project)), app)


def plan(project: Place, wish: Wish) -> Plan:
    """Return what a rename would change, proved by a second reading; nothing is written.

    Raises InputError or RefusedError for a wish that cannot be, FaultError where the result would not be right.

    >>> change = plan(project, Wish(name="Tool Shed", version="2.5.0"))
    >>> change.empty
    False
    >>> all(item.before != item.after or item.moved for item in change.changes)
    True
    >>> change.residue[0].reason != ""
    True
    """
    found = survey(project, wish.app)
    return with_identity(found, plan_rename(found, wish))


def stamp(project: Place, flavor: str = "") -> PlannedChange:
    """Return what makes a project as its identity file says; nothing is written. Raises as :func:`plan`."""
    return plan_stamp(Tree.open(Path(project)), flavor)


def write(project: Place, change: PlannedChange, dirty: bool = False) -> str:
    """Write a planned change, journalled; return its number, by which ``onomaxis undo`` takes it back.

    Raises RefusedError for files that have changes of their own that git does not know, but with *dirty*.

    >>> change = plan(project, Wish(build="99"))
    >>> write(project, change, dirty=True)
    '0001'
    >>> plan(project, Wish(build="99")).empty
    True
    """
    root = Tree.open(Path(project)).root
    refuse_crossing(root, change.changes)
    if not dirty:
        refuse_uncommitted(root, change.changes)
    labels = Labels(change.title, change.called_before, change.called_after or change.called_before)
    with locked(root):
        return carry_out(root, change.changes, labels).id


def check(project: Place, only: Sequence[str] = (), flavor: str = "", publish: bool = False) -> tuple[Finding, ...]:
    """Return what is wrong with a project; *only* names families of rules, *publish* checks as for publication.

    >>> findings = check(project)
    >>> [item.rule.code for item in findings if item.rule.severity == "error"][:1] != []
    True
    """
    return look_over(Tree.open(Path(project)), only, flavor, publish)[0]


def inspect(packages: Sequence[Place], against: Place | None = None, flavor: str = "") -> Inspection:
    """Return what built packages are called; compared with a project where one is named.

    Raises InputError for what is not a package, or is made to mislead.
    """
    tree = Tree.open(Path(against)) if against is not None else None
    return inspect_packages([str(item) for item in packages], tree, flavor)


def identity_file(project: Place) -> IdentityFile | None:
    """Return a project's identity, of whatever files it is put together, or None.

    >>> identity_file(project) is None  # before onomaxis adopt has written one
    True
    """
    return load_identity(Tree.open(Path(project)))


def since(project: Place, revision: str) -> Differences:
    """Return what apps are called otherwise than at a revision of git. Raises InputError where git cannot tell."""
    return history_since(Tree.open(Path(project)), revision)[0]


def timeline(project: Place, facet: str = "", revision: str = "HEAD") -> list[Event]:
    """Return when what apps are called changed, the newest first. Raises InputError where git cannot tell."""
    return history_timeline(Tree.open(Path(project)).root, facet_of(facet), revision)


__all__ = [
    "Differences",
    "Event",
    "Finding",
    "IdentityFile",
    "Inspection",
    "Plan",
    "PlannedChange",
    "Survey",
    "Wish",
    "check",
    "identity_file",
    "inspect",
    "plan",
    "since",
    "stamp",
    "survey",
    "timeline",
    "write",
]
