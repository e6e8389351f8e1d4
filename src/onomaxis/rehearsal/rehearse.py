"""Packages handed to the stand-in one after the other: each is judged after the one before was taken."""

from __future__ import annotations

import datetime
from collections.abc import Callable, Sequence
from typing import NamedTuple

from onomaxis.brands.ledger import Published, published
from onomaxis.checks.context import Context
from onomaxis.errors import FormatError, InputError
from onomaxis.packages.expected import expected_of
from onomaxis.packages.facts import Package
from onomaxis.packages.opening import digest_of, open_package
from onomaxis.rehearsal.answers import APPSTORE, STORE_OF, Answer, reason
from onomaxis.rehearsal.state import StoreState
from onomaxis.rehearsal.store import Upload, judge

Tick = Callable[[int], None]


class Rehearsed(NamedTuple):
    """What the stand-in answered, what it holds now, and the ledger's rows for what it took."""

    answers: tuple[Answer, ...]
    state: StoreState
    rows: tuple[Published, ...]

    @property
    def unread(self) -> bool:
        """True where a package could not be read."""
        return any(answer.unread for answer in self.answers)


def rehearse(
    paths: Sequence[str],
    state: StoreState,
    day: datetime.date,
    store: str = "",
    context: Context | None = None,
    flavor: str = "",
    tick: Tick | None = None,
) -> Rehearsed:
    """Hand packages in. *context* is their project, *flavor* the one that they must be.

    Raises InputError for a flavor that the project does not have. A package that cannot be read gets an answer too.
    """
    answers: list[Answer] = []
    rows: list[Published] = []
    known = published(context.ledger) if context is not None else ()
    for number, path in enumerate(paths, 1):
        try:
            package = open_package(path)
        except InputError as error:
            answers.append(_unread(path, store, error))
            continue
        upload = _upload(package, store or STORE_OF[package.platform], context, flavor)
        try:
            answer, state = judge(upload, state, (*known, *rows), day)
        except FormatError as error:  # an entry that nobody looked at before
            answers.append(_unread(path, upload.store, error))
            continue
        answers.append(answer)
        if answer.accepted:
            rows.append(row_of(package, upload.flavor or "", day.isoformat(), upload.digest))
        if tick:
            tick(number)
    return Rehearsed(tuple(answers), state, tuple(rows))


def _unread(path: str, store: str, error: InputError) -> Answer:
    chosen = store or APPSTORE
    said = (reason(chosen, "form", error.message, ""),)
    return Answer(path, chosen, None, None, None, None, said, unread=True)


def _upload(package: Package, store: str, context: Context | None, flavor: str) -> Upload:
    upload = Upload(package, store, None, digest=digest_of(package))
    if context is None:
        return upload
    app = expected_of(context, package, flavor)
    if flavor and app is not None:
        return upload._replace(flavor=app.flavor, wanted=flavor, wanted_id=app.id)
    return upload._replace(flavor=app.flavor if app is not None else None)


def row_of(package: Package, flavor: str, date: str, digest: str) -> Published:
    """Return the ledger's row for a package that was published."""
    android = package.platform == "android"
    signer = next((item.certificate.sha256 for item in package.certificates), "") if android else ""
    return Published(
        date,
        "android" if android else "ios",
        flavor,
        package.id or "",
        package.version or "",
        package.build or "",
        signer,
        digest,
    )


def closed(state: StoreState, version: str, flavor: str = "") -> StoreState:
    """Return the state with a version's train closed: of each app that the App Store has in it, or of a flavor's.

    Raises InputError where none has it.
    """
    here = [app for (store, _), app in state.apps.items() if store == APPSTORE]
    mine = [
        app
        for app in here
        if any(build.version == version for build in app.builds)
        and (not flavor or app.flavor.casefold() == flavor.casefold())
    ]
    if not mine:
        known = sorted({build.version for app in here for build in app.builds})
        raise InputError(
            f"the App Store's stand-in holds no build of version {version}",
            remedy=f"It holds: {', '.join(known) or 'none'}.",
        )
    for app in mine:
        trains = tuple(dict.fromkeys((*app.closed, version)))
        state = state.with_app(APPSTORE, app._replace(closed=trains))
    return state
