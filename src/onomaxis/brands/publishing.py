"""The ledger as it grows, and the next build number that no platform or flavor has used."""

from __future__ import annotations

from collections.abc import Sequence

from onomaxis.brands.ledger import (
    COLUMNS,
    Published,
    build_number,
    check_row,
    mine,
    read_ledger,
    widened,
    without_lines,
    written,
)
from onomaxis.brands.subjects import Subject
from onomaxis.errors import InputError, RefusedError
from onomaxis.flavor_names import selects
from onomaxis.identity.schema import LEDGER
from onomaxis.model import Line
from onomaxis.past import file_at, remotes
from onomaxis.projects.project import variant_targets
from onomaxis.surveys.flavors import flavors_of, refuse_one_sided
from onomaxis.surveys.survey import Survey, read_projects
from onomaxis.tree import Tree
from onomaxis.writing.change import applied
from onomaxis.writing.changeset import Changeset
from onomaxis.writing.planned import PlannedChange
from onomaxis.writing.proof import fault, proved


def load_ledger(tree: Tree, refs: Sequence[str] = ()) -> tuple[Published, ...]:
    """Return the ledger of a tree; no rows where there is none.

    With *refs* what the ledgers of other revisions have beside it, in no line of this one: ``all`` are the remote
    branches. Nothing is checked out. Raises InputError for a revision that git does not know.
    """
    data = tree.required(LEDGER)
    rows = list(read_ledger(LEDGER, data)) if data is not None else []
    known = {row[:-1] for row in rows}
    for ref in dict.fromkeys(name for item in refs for name in (remotes(tree.root) if item == "all" else (item,))):
        held = file_at(tree.root, ref, LEDGER)
        for row in read_ledger(f"{ref}:{LEDGER}", held) if held is not None else ():
            if row[:-1] not in known:
                known.add(row[:-1])
                rows.append(row._replace(line=0))
    return tuple(rows)


def new_rows(
    subjects: Sequence[Subject],
    known: Sequence[Published],
    date: str,
    flavor: str,
    platforms: Sequence[str],
    fingerprint: str,
    standing: str = "",
    mark: str = "",
) -> list[Published]:
    """Return a row for each shipped app that is meant: of a flavor, every variant that ships.

    *standing* is the brand that the app itself is, where a tree becomes one after the other; *mark* stands where the
    digest would (``RESERVED``).

    Raises RefusedError for a number that was published before, and for a flavor that ships on some platforms alone.
    """
    rows: list[Published] = []
    refuse_one_sided([subject.project for subject in subjects], flavor, platforms)
    flavors = flavors_of(subject.project for subject in subjects)
    meant = [subject for subject in subjects if not platforms or subject.platform in platforms]
    for subject in meant:
        modules = {subject.module, *subject.targets, *variant_targets(subject.project)}
        shipped = [app for app in subject.project.apps if app.module in modules]
        own = [app for app in shipped if not flavor or selects(flavor, app.variant, flavors)]
        for app in own:
            if app.id is None or app.version is None or app.build is None:
                raise InputError(
                    f"the {subject.platform} app {app.flavor} has no ID, version or build number that can be told"
                )
            told = (app.id.text, app.version.text, app.build.text)
            row = Published(date, subject.platform, app.variant or standing, *told, fingerprint, mark)
            check_row(LEDGER, row)
            _refuse_used(known, row)
            rows.append(row)
    if not rows:
        others = dict.fromkeys(app.flavor for subject in subjects for app in subject.project.apps if app.flavor)
        advice = f"There are: {', '.join(others)}." if others else "Give the folder of an app's project."
        said = f"there is no shipped app “{flavor}” here" if flavor else "there is no shipped app here"
        raise InputError(said, remedy=advice)
    return rows


def checked(known: Sequence[Published], rows: Sequence[Published]) -> list[Published]:
    """Return rows as they may be added, each after those before it. Raises InputError, RefusedError."""
    for number, row in enumerate(rows):
        check_row(LEDGER, row)
        _refuse_used([*known, *rows[:number]], row)
    return list(rows)


def _refuse_used(known: Sequence[Published], row: Published) -> None:
    kept = next((item for item in known if row.reserved and item.reserved and item.key == row.key), None)
    if kept is not None:
        raise RefusedError(f"build {row.build} of {row.id} is reserved already", file=LEDGER, line=kept.line)
    before = mine(known, row.platform, row.flavor, row.id)
    last = before[-1] if before else None
    if last is None:
        return
    who = f"{row.platform} {row.flavor}".strip()
    if any(item.number == row.number for item in before):
        raise RefusedError(f"{who} build {row.build} was published before", file=LEDGER, line=last.line)
    if row.number < last.number:
        raise RefusedError(
            f"{who} build {row.build} is lower than the published {last.build}", file=LEDGER, line=last.line
        )
    if row.id not in {item.id for item in before}:
        raise RefusedError(
            f"{who} is {row.id} now and was published as {last.id}: the store takes it for a new app",
            file=LEDGER,
            line=last.line,
            remedy="Restore the published ID, or delete its rows from the ledger.",
        )


def grown(data: bytes | None, rows: Sequence[Published]) -> bytes:
    """Return the ledger's bytes with rows added; what reserved their numbers goes, everything else stays."""
    if data is None:
        return written(rows).encode("utf-8")
    met = {row.key for row in rows}
    gone = {row.line for row in read_ledger(LEDGER, data) if row.reserved and row.key in met}
    data = without_lines(widened(data.decode("utf-8")), gone).encode("utf-8")
    newline = "\r\n" if b"\r\n" in data else "\n"
    lead = b"" if data.endswith(b"\n") else newline.encode()
    return data + lead + written(rows, newline, head=False).encode("utf-8")


def ledger_change(tree: Tree, rows: Sequence[Published]) -> PlannedChange:
    """Plan what adds rows to a tree's ledger."""
    data = tree.required(LEDGER)
    changes = Changeset(written=((LEDGER, grown(data, rows)),)).resolve(tree)
    said = [Line(f"{row.platform} {row.flavor}".strip(), f"{row.id} {row.version} ({row.build})") for row in rows]
    done = "reserved" if any(row.reserved for row in rows) else "published"
    plan = PlannedChange(changes, 0, tuple(said), title=f"ledger: {len(rows)} {done}")
    later = applied(tree, changes)
    met = {row.key for row in rows}
    before = (row for row in load_ledger(tree) if not (row.reserved and row.key in met))
    kept = [row[:-1] for row in (*before, *rows)]

    def kept_all() -> None:
        if [row[:-1] for row in load_ledger(later)] != kept:
            raise fault(LEDGER, 1, "a row could not be read back")

    return proved(read_projects(tree), read_projects(later), plan, first=kept_all)


def next_build(survey: Survey, known: Sequence[Published], flavor: str = "") -> str:
    """Return the lowest build number above every one that an app has or a ledger names.

    Of a *flavor*, its variants count, and what else has an ID of theirs: a store takes it for the same app. Where the
    build does not know it, the app itself is that brand.
    """
    brands = flavors_of(survey.projects)
    own = [app for app in survey.apps if flavor and selects(flavor, app.variant, brands)]
    ids = {(app.platform, app.id.text) for app in own or survey.apps if app.id}
    apps = [app for app in survey.apps if not own or app in own or (app.id and (app.platform, app.id.text) in ids)]
    rows = [
        row for row in known if not flavor or selects(flavor, row.flavor, brands) or (row.platform, row.id) in ids
    ]
    numbers = [row.number for row in rows]
    numbers += [number for app in apps if app.build and (number := build_number(app.build.text))]
    if not numbers:
        raise InputError("there is no build number here to count from", remedy="Give it whole, such as --build 1.")
    highest = max(numbers)
    return ".".join(map(str, [*highest[:-1], highest[-1] + 1]))


__all__ = ["COLUMNS", "checked", "grown", "ledger_change", "load_ledger", "new_rows", "next_build"]
