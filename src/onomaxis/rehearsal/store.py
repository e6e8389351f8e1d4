"""The stand-in of a store: it takes a package and answers as the platforms' public documents say a store answers."""

from __future__ import annotations

import datetime
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from onomaxis.brands.ledger import Published, build_number, trimmed
from onomaxis.identity.schema import LEDGER
from onomaxis.identity.store_levels import SDK_LEVELS, TARGET_LEVELS, asked
from onomaxis.packages.facts import Package
from onomaxis.rehearsal.answers import APPSTORE, PLAY, STORE_NAMES, STORE_OF, Answer, Reason, reason
from onomaxis.rehearsal.state import Build, Held, StoreState
from onomaxis.rehearsal.usage import USAGE

_LONGEST_NAME = 30
# Google Play Console Help, "Size limits": an APK; a bundle's base, packed. App Store Connect Help: an app, unpacked.
_MOST_APK, _MOST_BASE, _MOST_APP = 100 << 20, 200 << 20, 4 << 30
# Apple, "App icon sizes": the home screen's, of a telephone and of a tablet, in pixels.
_PHONE_EDGE, _TABLET_EDGE = 120, 152
_TAKEN = {PLAY: ("aab", "apk"), APPSTORE: ("ipa", "xcarchive")}


class Upload(NamedTuple):
    """A package that is handed in: the flavor that it is said to be, and the one that its ID tells."""

    package: Package
    store: str
    flavor: str | None
    wanted: str = ""
    wanted_id: str = ""
    digest: str = ""


def judge(
    upload: Upload, state: StoreState, ledger: Sequence[Published], day: datetime.date
) -> tuple[Answer, StoreState]:
    """Return what the store answers, and what it holds after it."""
    package, store = upload.package, upload.store
    held = state.held(store, package.id or "")
    reasons = [
        *_form(upload),
        *_flavor(upload),
        *_numbers(upload, held, ledger),
        *_signer(upload, held),
        *_ready(upload, day),
    ]
    answer = Answer(
        package.path,
        store,
        package.id,
        upload.flavor,
        package.version,
        package.build,
        tuple(reasons),
        tuple(_notes(package, held, ledger)),
    )
    if not answer.accepted:
        return answer, state
    build = Build(package.version or "", package.build or "", upload.digest)
    known = held or Held(package.id or "", upload.flavor or "", signer_of(package))
    app = Held(known.id, known.flavor, known.signer, (*known.builds, build), known.closed)
    return answer, state.with_app(store, app)


def signer_of(package: Package) -> str:
    """Return who signs a package: the certificate's SHA-256, or the team of an Apple app; empty where nobody says."""
    if package.platform == "android":
        return next((item.certificate.sha256 for item in package.certificates), "")
    if package.profile is not None and package.profile.team:
        return package.profile.team
    team = package.entitlements.get("com.apple.developer.team-identifier")
    whole = package.entitlements.get("application-identifier")  # the team's ten letters and digits, a dot, the ID
    prefix = whole.partition(".")[0] if isinstance(whole, str) else ""
    return team if isinstance(team, str) else prefix if len(prefix) == 10 else ""


def _form(upload: Upload) -> Iterator[Reason]:
    package, store = upload.package, upload.store
    if STORE_OF[package.platform] != store or package.kind not in _TAKEN[store]:
        kinds = " or ".join(_TAKEN[store])
        yield reason(store, "form", f"{STORE_NAMES[store]} takes {kinds}, not {package.kind}", "")
    lacking = [label for label in ("id", "version", "build") if not getattr(package, label)]
    if lacking:
        yield reason(store, "form", f"the package states no {', no '.join(lacking)}", package.main)
    elif not build_number(package.build or ""):
        yield reason(store, "form", f"the build number is “{package.build}”, which is none", package.main)
    if package.platform == "android" and not package.certificates:
        yield reason(store, "form", "the package is not signed", "META-INF")


def _flavor(upload: Upload) -> Iterator[Reason]:
    if upload.wanted and upload.package.id != upload.wanted_id:
        said = f"the package is {upload.package.id}, flavor {upload.wanted} is {upload.wanted_id}"
        yield reason(upload.store, "flavor-differs", said, upload.package.main)


# -- numbers


def _numbers(upload: Upload, held: Held | None, ledger: Sequence[Published]) -> Iterator[Reason]:
    package, store = upload.package, upload.store
    mine = build_number(package.build or "")
    if not mine:
        return
    taken = [(item.version, item.build) for item in (held.builds if held is not None else ())]
    platform = "android" if package.platform == "android" else "ios"
    told = [row for row in ledger if row.platform == platform and row.id == package.id]
    taken += [(row.version, row.build) for row in told]
    alike = [pair for pair in taken if package.counts_with(pair[0])]
    where = next((f"{LEDGER}:{row.line}" for row in told if row.build == package.build and row.line), "")
    if any(trimmed(build_number(build)) == trimmed(mine) for _, build in alike):
        said = f"build {package.build} of {package.id} was used{f' ({where})' if where else ''}"
        yield reason(store, "build-used", said, package.main)
    else:
        highest = max((build_number(build) for _, build in alike), default=())
        if highest and mine < highest:
            said = f"build {package.build} is lower than {'.'.join(map(str, highest))}, which {package.id} has"
            yield reason(store, "build-lower", said, package.main)
    yield from _train(upload, held)


def _train(upload: Upload, held: Held | None) -> Iterator[Reason]:
    package = upload.package
    for closed in held.closed if held is not None and upload.store == APPSTORE else ():
        mine = build_number(package.version or "")
        if package.version == closed or (mine and trimmed(mine) <= trimmed(build_number(closed))):
            said = f"version {closed} is closed: {package.version} is not higher"
            yield reason(upload.store, "train-closed", said, package.main)
            return


# -- signers


def _signer(upload: Upload, held: Held | None) -> Iterator[Reason]:
    package, store = upload.package, upload.store
    mine = signer_of(package)
    if held is not None and held.signer and mine != held.signer:
        if store == PLAY:
            said = f"the certificate is {mine or 'none'}, the first upload's is {held.signer}"
            yield reason(store, "certificate-differs", said, "META-INF")
        else:
            said = f"the team is {mine or 'none'}, the first upload's is {held.signer}"
            yield reason(store, "team-differs", said, package.main)
    for item in package.certificates:
        if item.debug:
            said = f"it is signed for development: {item.certificate.subject}"
            yield reason(store, "certificate-debug", said, package.main if store == APPSTORE else "META-INF")


# -- what a store looks at in the package itself


def _ready(upload: Upload, day: datetime.date) -> Iterator[Reason]:
    package, store = upload.package, upload.store
    if package.debuggable or package.test_only:
        said = "the package is for tests only (testOnly)" if package.test_only else "the package can be debugged"
        yield reason(store, "debuggable", said, package.main)
    if package.name is not None and len(package.name) > _LONGEST_NAME:
        said = f"the name “{package.name}” has {len(package.name)} characters, {_LONGEST_NAME} at most"
        yield reason(store, "name-length", said, package.main)
    yield from _level(upload, day)
    yield from _size(package, store)
    if package.platform == "android":
        if not any(item.role == "icon" for item in package.icons):
            yield reason(store, "icon-missing", "the application has no icon", package.main)
    else:
        yield from _apple_icons(package, store)
        yield from _extensions(package, store)
        yield from _usage(package, store)


def _level(upload: Upload, day: datetime.date) -> Iterator[Reason]:
    package = upload.package
    wanted = asked(TARGET_LEVELS if package.platform == "android" else SDK_LEVELS, day)
    text = package.target if package.platform != "android" else package.target or package.min or "1"
    if wanted is None or package.platform == "macos" or text is None:
        return
    number = build_number(text.removeprefix("iphoneos"))
    if number and number[0] < wanted.level:
        what = "targets level" if package.platform == "android" else "is built with SDK"
        said = f"it {what} {text}, {wanted.level} is asked for since {wanted.since.isoformat()}"
        yield reason(upload.store, "level", said, package.main, wanted.source)


def _size(package: Package, store: str) -> Iterator[Reason]:
    most = {"apk": _MOST_APK, "aab": _MOST_BASE}.get(package.kind, _MOST_APP)
    size = 0
    for _, files in package.content.layers:
        for name in files.names():
            if package.kind != "aab" or name.startswith("base/"):
                size += files.packed(name) if package.kind in ("apk", "aab") else files.size(name)
    if size > most:
        yield reason(store, "size", f"it takes {size >> 20:,} MB, {most >> 20:,} at most", "")


def _apple_icons(package: Package, store: str) -> Iterator[Reason]:
    from onomaxis.packages.pictures import shows_through  # loads NumPy: only to look at pixels

    for item in package.icons:
        if item.path is not None and shows_through(package, item):
            yield reason(store, "icon-alpha", "the icon has an alpha channel", item.path)
    if package.platform == "macos" or (package.catalog is not None and not package.icons):
        return
    families = package.list.get("UIDeviceFamily")
    families = families if isinstance(families, list) and families else [1]
    edges = {item.width for item in package.icons if item.width == item.height}
    for family, edge, device in ((1, _PHONE_EDGE, "iPhone"), (2, _TABLET_EDGE, "iPad")):
        if family in families and edge not in edges and (family == 1 or package.catalog is None):
            yield reason(
                store, "icon-missing", f"no icon of exactly {edge} x {edge} pixels for {device}", package.main
            )


def _extensions(package: Package, store: str) -> Iterator[Reason]:
    for part in package.parts:
        entry = f"{part.path}/Info.plist"
        if not str(part.id).startswith(f"{package.id}."):
            said = f"{part.id} does not begin with the app's ID, {package.id}"
            yield reason(store, "extension-id", said, entry)
        for label, mine, whole in (("version", part.version, package.version), ("build", part.build, package.build)):
            if mine != whole:
                yield reason(store, "extension-version", f"{part.id}: {label} {mine}, the app has {whole}", entry)


def _usage(package: Package, store: str) -> Iterator[Reason]:
    for key in package.permissions:
        text = package.list.get(key)
        if not (isinstance(text, str) and text.strip()):
            yield reason(store, "usage-description", f"{key} is empty", package.main)
    name = package.list.get("CFBundleExecutable")
    path = package.main.removesuffix("Info.plist") + (f"MacOS/{name}" if package.platform == "macos" else str(name))
    files = package.content.holder(path)
    if files is None or not isinstance(name, str):
        return
    found: set[bytes] = set()
    tail = b""
    for part in files.chunks(path):
        found |= {mark for mark in USAGE if mark in tail + part}
        tail = part[-64:]
    for mark in sorted(found):
        if not any(key in package.permissions for key in USAGE[mark]):
            said = f"the program names {mark.decode()}, and {USAGE[mark][0]} is missing"
            yield reason(store, "usage-description", said, path)


def _notes(package: Package, held: Held | None, ledger: Sequence[Published]) -> Iterator[str]:
    known = (held is not None and held.builds) or any(row.id == package.id for row in ledger)
    yield "an update" if known else "a new app"
    if package.kind == "apk":
        yield "new apps are published as bundles (.aab); an APK is taken for apps of before August 2021"
