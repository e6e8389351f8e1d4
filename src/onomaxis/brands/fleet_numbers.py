"""Versions and builds of many flavors in one step: each from its own today, or as a plan says.

A plan is a table (CSV): ``flavor``, ``version``, ``build``, perhaps ``platform``; what is blank stays as it is.
"""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

from onomaxis.brands.facets import stamp_identity
from onomaxis.brands.identity_after_rename import followed
from onomaxis.brands.ledger import Published, build_number
from onomaxis.brands.proof import of_stamp
from onomaxis.brands.subjects import (
    OWN_KEY,
    Subject,
    load_identity,
    refuse_unread,
    shared_flavors,
    subjects,
    subjects_of,
)
from onomaxis.errors import InputError
from onomaxis.flavor_names import same_flavor
from onomaxis.identity.reading import read_identity
from onomaxis.identity.schema import FORMAT, NAME, nearest
from onomaxis.identity.table import records_of, text_of_table
from onomaxis.platforms import PLATFORMS
from onomaxis.projects.draft import Draft
from onomaxis.rename.numbers import counted
from onomaxis.surveys.survey import kind_of, read_projects, some_projects
from onomaxis.tree import Tree
from onomaxis.writing.planned import PlannedChange, Stages
from onomaxis.writing.proof import prove_nothing_left, proved

_COLUMNS = ("flavor", "platform", "version", "build")


class Car(NamedTuple):
    """What one flavor gets: a version and a build, whole or relative; an empty one stays as it is."""

    flavor: str
    version: str
    build: str
    platform: str = ""
    file: str = ""
    line: int = 0


def read_train(path: str, data: bytes) -> list[Car]:
    """Read a plan of numbers. Raises InputError with file and line for what does not belong into it."""
    records = list(records_of(path, text_of_table(path, data)))
    columns = [cell.strip() for cell in records[0].cells] if records else []
    for name in columns:
        if name not in _COLUMNS or columns.count(name) > 1:
            guess = nearest(name, _COLUMNS)
            remedy = f"Did you mean “{guess}”?" if guess else f"Columns are {', '.join(_COLUMNS)}."
            raise InputError(f"a plan has no column “{name}”, or has it twice", file=path, line=1, remedy=remedy)
    if columns[:1] != ["flavor"]:
        raise InputError("the first column of a plan is “flavor”", file=path, line=1)
    cars: list[Car] = []
    for record in records[1:]:
        cells = [cell.strip() for cell in record.cells]
        if not any(cells):
            continue
        if len(cells) > len(columns):
            raise InputError("the record is longer than the header", file=path, line=record.start)
        told = dict(zip(columns, cells, strict=False))
        platform = told.get("platform", "")
        if platform not in ("", *PLATFORMS):
            raise InputError(f"“{platform}” is neither {' nor '.join(PLATFORMS)}", file=path, line=record.start)
        car = Car(told["flavor"], told.get("version", ""), told.get("build", ""), platform, path, record.start)
        if any(same_flavor(car.flavor, other.flavor) and platform == other.platform for other in cars):
            raise InputError(f"the flavor {car.flavor} stands here twice", file=path, line=record.start)
        cars.append(car)
    return cars


def plan_train(tree: Tree, cars: Sequence[Car], ledger: Sequence[Published], app: str = "") -> PlannedChange:
    """Plan the numbers of many flavors; what the identity file said rightly before it says rightly after.

    The result is read again: every flavor has its numbers, nothing else is called otherwise. Raises InputError for
    numbers that cannot be; FaultError where the result is not right.
    """
    before = some_projects(tree)
    file = load_identity(tree)
    there = [p for p in PLATFORMS if any(item.platform == p and item.apps and not item.umbrella for item in before)]
    named = dict.fromkeys(there, app) if app else None
    meant = subjects_of(file, before) if file is not None and not app else subjects(before, named)
    refuse_unread(meant)
    keys = {p: app or (file.own(p, OWN_KEY[p]) if file is not None else "") for p in (there if app else PLATFORMS)}
    wanted = read_identity(NAME, _numbers(keys, list(_told(meant, cars, ledger))).encode("utf-8"))
    stages = Stages(tree)
    stamp_identity(stages, wanted)
    contents = followed(tree, before, read_projects(stages.tree))
    stages.add_draft(Draft(written=contents))
    planned = stages.planned(
        f"renumber: {len(cars)} flavors", "Nothing to change: the project has these numbers already."
    )
    if planned.empty:
        return planned
    after = read_projects(stages.tree)
    planned = proved(before, after, planned, of_stamp(before, wanted))
    again = Stages(stages.tree)
    stamp_identity(again, wanted)
    prove_nothing_left(again.changes)
    return planned


def every_flavor(tree: Tree, meant: Sequence[Subject], version: str, build: str) -> list[Car]:
    """Return what each flavor of some apps gets alike: every one from its own numbers.

    Where an Android build has several dimensions, the brands are the flavors that other platforms have too, else
    those of the first dimension.
    """
    names: dict[str, str] = {}
    for subject in meant:
        known = kind_of(subject.project).dimensions(subject.project, tree, subject.module)
        elsewhere = [known[name] for name in shared_flavors(subject, meant) if name in known]
        first = next(iter([*elsewhere, *(known[name] for name in subject.flavors if name in known)]), "")
        for name in subject.flavors:
            if known.get(name, first) == first:
                names.setdefault(name.casefold(), name)
    return [Car(name, version, build) for name in names.values()]


class _Numbers(NamedTuple):
    flavor: str
    platforms: tuple[str, ...]
    version: str
    build: str


def _told(meant: Sequence[Subject], cars: Sequence[Car], ledger: Sequence[Published]) -> Iterator[_Numbers]:
    """Yield what each flavor's numbers are to be, counted from its own."""
    for car in cars:
        having = [s for s in meant if s.of(car.flavor) and car.platform in ("", s.platform)]
        if not having:
            known = sorted({name for subject in meant for name in subject.flavors})
            guess = nearest(car.flavor, known)
            remedy = f"Did you mean “{guess}”?" if guess else f"The flavors are: {', '.join(known) or 'none'}."
            raise InputError(f"no build has a flavor “{car.flavor}”", file=car.file, line=car.line, remedy=remedy)
        apps = [subject.of(car.flavor)[0] for subject in having]
        try:
            build = _next(having, car.flavor, ledger) if car.build == "next" else car.build
            version, build = counted(car.version, build, apps)
        except InputError as error:
            said = f"{car.flavor}: {error.message}"
            raise InputError(said, file=car.file, line=car.line, remedy=error.remedy) from None
        yield _Numbers(car.flavor, tuple(subject.platform for subject in having), version, build)


def _next(having: Sequence[Subject], flavor: str, ledger: Sequence[Published]) -> str:
    """Return the lowest build above all that a flavor has, or the ledger names for it."""
    ids = {app.id.text for subject in having for app in subject.of(flavor)[:1] if app.id}
    numbers = [row.number for row in ledger if row.id in ids or same_flavor(row.flavor, flavor)]
    today = [app.build.text for subject in having for app in subject.of(flavor)[:1] if app.build]
    numbers += [number for text in today if (number := build_number(text))]
    if not numbers:
        raise InputError("there is no build number to count from", remedy="Give it whole, such as --build 1.")
    highest = max(numbers)
    return ".".join(map(str, [*highest[:-1], highest[-1] + 1]))


def _numbers(keys: Mapping[str, str], told: Sequence[_Numbers]) -> str:
    """Return an identity that says these numbers and no more: what is stamped."""
    lines = [f"format = {FORMAT}"]
    for platform, name in keys.items():
        lines += [f"[{platform}]", f"{OWN_KEY[platform]} = {json.dumps(name)}"] if name else []
    by_flavor: dict[str, list[_Numbers]] = {}
    for item in told:
        by_flavor.setdefault(item.flavor.casefold(), []).append(item)
    for items in by_flavor.values():
        lines.append(f"[flavors.{json.dumps(items[0].flavor)}]")
        for item in items:
            for platform in item.platforms:
                lines.append(f"[flavors.{json.dumps(items[0].flavor)}.{platform}]")
                lines += [f"{key} = {json.dumps(text)}" for key, text in _facets(item).items()]
    return "\n".join(lines) + "\n"


def _facets(item: _Numbers) -> Mapping[str, str]:
    return {key: text for key, text in (("version", item.version), ("build", item.build)) if text}
