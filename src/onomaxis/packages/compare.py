"""A package held against what its project says: facets, levels, values, services, links, permissions, signers."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from fnmatch import fnmatchcase

from onomaxis.brands.ledger import build_number, published, trimmed
from onomaxis.brands.readings import Reading, read_values, same_text
from onomaxis.checks import packaged as rules
from onomaxis.checks.finding import Finding, Rule
from onomaxis.errors import FormatError, InputError
from onomaxis.flavor_names import made_of
from onomaxis.identity.schema import LEDGER
from onomaxis.packages.expected import Expected, every_app
from onomaxis.packages.facts import Package, below, place
from onomaxis.packages.opening import digest_of
from onomaxis.packages.service_values import android_service, apple_service, service_file_of
from onomaxis.projects.project import Fact, goes_on
from onomaxis.projects.services import GOOGLE_ANDROID, link_files, read_service
from onomaxis.projects.text_places import pointer_spot
from onomaxis.surveys.survey import kind_of
from onomaxis.tree import Tree

Comparison = Callable[[Package, Expected], Iterator[Finding]]


def compared(package: Package, expected: Expected) -> Iterator[Finding]:
    """Yield every difference between a package and what its project says."""
    for comparison in (_facets, _number, _levels, _values, _services, _links, _declared, _signers, _debug, _parts):
        yield from comparison(package, expected)


def _found(package: Package, rule: Rule, expected: Expected, message: str, entry: str = "") -> Finding:
    return Finding(rule, message, place(package, entry), expected.flavor)


def _at(fact: Fact) -> str:
    return f"{fact.file}:{fact.line}" if fact.file else "the project"


def _shown(text: str | None) -> str:
    return f"“{text}”" if text is not None else "nothing"


# -- what the app is called


def _facets(package: Package, expected: Expected) -> Iterator[Finding]:
    wanted = expected.facet("id")
    if wanted is not None and package.id != f"{wanted.text}{expected.suffix}":
        said = f"the ID is {package.id}, {_at(wanted)} says {wanted.text}"
        yield _found(package, rules.UNKNOWN_ID, expected, said)
    for key, held in (("name", package.name), ("version", package.version), ("build", package.build)):
        wanted = expected.facet(key)
        # What build types add behind a version is theirs, as what they add to the ID.
        added = key == "version" and expected.suffix and wanted and str(held).startswith(wanted.text)
        added = added or (key == "build" and wanted is not None and _is_of_one_abi(package, held, wanted.text))
        if wanted is not None and held != wanted.text and not added:
            said = f"the {key} is {_shown(held)}, {_at(wanted)} says {_shown(wanted.text)}"
            yield _found(package, rules.FACET, expected, said, package.entries.get(key, ""))
    names = {_language(locale): text for locale, text in package.names.items()}
    homes = {_language(locale): package.entries.get(f"names:{locale}", "") for locale in package.names}
    for locale, wanted in expected.names.items():
        told = names.get(_language(locale), package.name)
        if told != wanted.text:
            said = f"the name in {locale} is {_shown(told)}, {_at(wanted)} says {_shown(wanted.text)}"
            home = homes.get(_language(locale)) or package.entries.get("names", "")
            yield _found(package, rules.FACET, expected, said, home)


def _number(package: Package, expected: Expected) -> Iterator[Finding]:
    """Yield what the ledger tells of the build number, but of this very package."""
    held = trimmed(build_number(package.build or ""))
    for row in published(expected.context.ledger) if held else ():
        alike = (row.platform, row.id) == (expected.platform, package.id) and trimmed(row.number) == held
        if alike and package.counts_with(row.version) and row.digest != digest_of(package):
            said = f"build {row.build} of {row.id} was published on {row.date} ({LEDGER}:{row.line})"
            yield _found(package, rules.NUMBER, expected, said)
            return


# Flutter's Gradle plug-in ("flutter.gradle", abiCodes): an APK of one processor's code gets its thousands in front.
_ABIS = {"armeabi-v7a": 1000, "arm64-v8a": 2000, "x86": 3000, "x86_64": 4000}


def _is_of_one_abi(package: Package, held: str | None, wanted: str) -> bool:
    """Tell whether a build number is the project's with the thousands of the only processor it is for."""
    names = (name for _, files in package.content.layers for name in files.names() if name.startswith("lib/"))
    abis = {name.split("/")[1] for name in names}
    if len(abis) != 1 or not (str(held).isdecimal() and wanted.isdecimal()):
        return False
    return int(str(held)) == int(wanted) + _ABIS.get(min(abis), 0)


_TODAY = {"iw": "he", "in": "id", "ji": "yi"}


def _language(locale: str) -> str:
    """Return a language in one spelling: the platforms write old codes, and underscores, for some."""
    first, _, rest = locale.replace("_", "-").partition("-")
    return "-".join(filter(None, (_TODAY.get(first, first), rest))).casefold()


def _levels(package: Package, expected: Expected) -> Iterator[Finding]:
    subject = expected.subject
    if expected.alone:
        return
    module = subject.branch(expected.app.flavor).module
    reader = kind_of(subject.project).places(subject.project, expected.context.tree, module)
    levels = (
        (("min-sdk", "min", package.min), ("target-sdk", "target", package.target))
        if package.platform == "android"
        else (("ios", "min", package.min),)
    )
    if reader is None or package.platform == "macos":
        return
    for name, label, held in levels:
        try:
            spot = reader.spot("level", name, "", expected.app.flavor)
        except InputError:
            continue
        if spot.text.replace(".", "").isdecimal() and held is not None and not _same_level(held, spot.text):
            said = f"the {label} level is {held}, {spot.at} says {spot.text}"
            yield _found(package, rules.LEVEL, expected, said)


def _same_level(one: str, other: str) -> bool:
    return trimmed(build_number(one)) == trimmed(build_number(other))


# -- values of the brand


def _values(package: Package, expected: Expected) -> Iterator[Finding]:
    file = expected.context.file
    if file is None:
        return
    template = expected.flavor if not expected.app.flavor else ""
    try:
        readings = [item for item in read_values(expected.context.tree, file, template) if isinstance(item, Reading)]
    except InputError:  # a place that is gone: `check` says so
        return
    here = [item for item in readings if item.platform == expected.platform or not item.place.platform]
    mine = made_of(expected.app.flavor, expected.subject.flavors) or {expected.app.flavor}
    own = {(item.value.name, item.place) for item in here if item.flavor in mine}
    for item in here:  # what all flavors share is read for the app itself
        shared = not item.flavor and (item.value.name, item.place) not in own
        held = _held(package, item) if item.flavor in mine or shared else None
        if held is None or same_text(item.value.type, held, item.wanted):
            continue
        if item.place.selector == "level" and _same_level(held, item.wanted):
            continue
        shown = "another secret" if item.value.secret else _shown(held)
        wanted = "what is" if item.value.secret else item.wanted
        said = (
            f"{item.value.name} ({item.place.shown}) reads {shown}, {file.home(item.line)}:{item.line} says {wanted}"
        )
        yield _found(package, rules.VALUE, expected, said, package.entries.get(item.place.selector, ""))


def _held(package: Package, item: Reading) -> str | None:
    """Return what a place of a value reads in a package; None where it does not reach it, or cannot be determined."""
    selector, name = item.place.selector, item.place.name
    if selector == "pointer":
        return _in_file(package, name, item.spot.file)
    if package.platform == "android":
        if selector == "resource" and package.resources is not None:
            kind, _, own = name.partition("/")
            return package.resources.resource(kind, own)
        if selector == "meta-data":
            return package.metadata.get(name)
        if selector == "permission":
            return "true" if name in package.permissions else "false"
        return {"min-sdk": package.min, "target-sdk": package.target}.get(name) if selector == "level" else None
    if selector == "plist":
        return below(package.list, name)
    if selector == "url-scheme":
        return item.wanted if item.wanted in package.schemes else ", ".join(package.schemes)
    if selector == "entitlement":
        return below(package.entitlements, name) if package.entitlements else None
    return package.min if selector == "level" and name == "ios" else None


def _in_file(package: Package, pointer: str, path: str) -> str | None:
    """Return what a pointer reads in the package's own copy of a file: the only one that is called so."""
    name = path.rpartition("/")[2]
    found = [
        (files, entry)
        for _, files in package.content.layers
        for entry in files.names()
        if entry == name or entry.endswith(f"/{name}")
    ]
    if len(found) != 1:
        return None
    files, entry = found[0]
    try:
        return pointer_spot(Tree.of({path: files.read(entry, _MOST_JSON)}), pointer, path).text
    except (FormatError, InputError):
        return None


# The largest file of settings that is looked into, in bytes.
_MOST_JSON = 4 * 1024 * 1024


# -- services


def _services(package: Package, expected: Expected) -> Iterator[Finding]:
    found = service_file_of(expected)
    if found is None:
        return
    path, data = found
    wanted = android_service(data, expected.id) if package.platform == "android" else apple_service(data)
    if wanted and not package.services:
        yield _found(
            package, rules.SERVICE, expected, f"none of the service's values is in it, {path} gives {len(wanted)}"
        )
        return
    for key, text in wanted.items():
        held = package.services.get(key)
        if held is not None and held != text:
            said = f"{key} is {_shown(held)}, {path} says {_shown(text)}"
            yield _found(package, rules.SERVICE, expected, said, package.entries.get("services", ""))


# -- links, permissions


def _links(package: Package, expected: Expected) -> Iterator[Finding]:
    facts = expected.facts
    wanted = {fact.text: fact for fact in facts.hosts if "$" not in fact.text and not fact.text.startswith("@")}
    if expected.brand is not None and expected.context.file is not None:
        home = expected.context.file.home
        wanted |= {said.text: Fact(said.text, home(said.line), said.line) for said in expected.brand.hosts}
    for host, fact in wanted.items():
        if not any(fnmatchcase(host, held) or held == host for held in package.reached):
            yield _found(package, rules.LINK, expected, f"{host} does not open the app, {_at(fact)} says so")
    schemes = {fact.text for fact in facts.schemes}
    plain = all(text.isascii() and "$" not in text and not text.startswith("@") for text in schemes)
    for fact in facts.schemes if plain else ():
        if fact.text not in (*package.schemes, *package.filtered):
            yield _found(package, rules.LINK, expected, f"the scheme {fact.text} is missing, {_at(fact)} says it")
    for host in package.web:  # libraries open links of schemes of their own, with hosts of their own
        strange = wanted and not any(fnmatchcase(one, host) or one == host for one in wanted)
        if strange and not _in_a_library(expected, host):
            said = f"{host} opens the app, and the project does not know it"
            yield _found(package, rules.LINK, expected, said)


def _in_a_library(expected: Expected, host: str) -> bool:
    """Tell whether a module that ships nothing itself opens a host: its manifest goes into the app's.

    Source: developer.android.com, "Manage manifest files".
    """
    tree, project = expected.context.tree, expected.subject.project
    apps = {f"{item.folder}/{app.module}/" for item in expected.context.projects for app in item.apps}
    inside = f"{project.folder}/" if project.folder else ""
    paths = (path for path in tree.named("AndroidManifest.xml") if path.startswith(inside))
    others = (path for path in paths if not path.startswith(tuple(app.lstrip("/") for app in apps)))
    return any(f'"{host}"'.encode() in (tree.read(path) or b"") for path in others)


def _declared(package: Package, expected: Expected) -> Iterator[Finding]:
    facts = expected.facts
    for fact in facts.permissions:
        if fact.text not in package.permissions and "$" not in fact.text:
            yield _found(package, rules.PERMISSION, expected, f"{fact.text} is missing, {_at(fact)} asks for it")
    if package.platform != "android":
        for key, fact in facts.keys.items():
            if key.startswith("NS") and key.endswith("UsageDescription") and key not in package.permissions:
                yield _found(package, rules.PERMISSION, expected, f"{key} is missing, {_at(fact)} gives it")
    apps = every_app(expected.context) if facts.authorities else ()
    ids = {item.id for item in apps if item.platform == package.platform} - {""}
    for fact in facts.authorities:
        for text in fact.text.split(";"):
            wanted = text.replace("${applicationId}", package.id or "")
            fixed = "$" not in text and not goes_on(text, package.id or "")
            if fixed and len(ids) > 1 and text in package.authorities:
                said = f"{text} is the same for {len(ids)} apps, {_at(fact)} states it"
                yield _found(package, rules.SHARED_AUTHORITY, expected, said)
            if wanted not in package.authorities and not {"$", "@"} & set(wanted):
                yield _found(package, rules.AUTHORITY, expected, f"{wanted} is missing, {_at(fact)} declares it")


# -- signing


def _signers(package: Package, expected: Expected) -> Iterator[Finding]:
    """Hold the certificate against fingerprints, service and association files.

    What is uploaded as a bundle is signed anew by the store: only the identity file's own fingerprints count for it.
    """
    sha256 = {item.certificate.sha256 for item in package.certificates}
    sha1 = {item.certificate.sha1.replace(":", "").lower() for item in package.certificates}
    if package.platform != "android" or expected.suffix:
        return
    brand, file = expected.brand, expected.context.file
    prints = brand.fingerprints if brand is not None else ()
    if prints and file is not None:
        known = {said.text.upper() for said in prints}
        if not package.certificates:
            yield _found(
                package,
                rules.CERTIFICATE,
                expected,
                f"it is not signed, {file.home(prints[0].line)}:{prints[0].line} says with what",
            )
        elif not sha256 & known:
            said = f"SHA-256 {_one(sha256)} is none of those at {file.home(prints[0].line)}:{prints[0].line}"
            yield _found(package, rules.CERTIFICATE, expected, said)
    if not package.certificates or package.kind == "aab":
        return
    service = service_file_of(expected)
    for app in read_service(GOOGLE_ANDROID, service[1]).apps if service is not None else ():
        if app.id == expected.id and app.certificates and not sha1 & set(app.certificates):
            assert service is not None
            said = f"{service[0]}:{app.line} knows other certificates for {app.id}, not SHA-1 {_one(sha1)}"
            yield _found(package, rules.CERTIFICATE, expected, said)
    for link in link_files(expected.context.tree):
        mine = [app for app in link.apps if link.platform == "android" and app.id == expected.id and app.certificates]
        if mine and not any(sha256 & set(app.certificates) for app in mine):
            said = f"{link.path}:{mine[0].line} trusts other certificates for {expected.id}, not {_one(sha256)}"
            yield _found(package, rules.CERTIFICATE, expected, said)


def _one(prints: set[str]) -> str:
    return min(prints, default="none")


def _debug(package: Package, expected: Expected) -> Iterator[Finding]:
    if expected.suffix:
        return
    if package.debuggable:
        yield _found(package, rules.DEBUGGABLE, expected, "it can be debugged")
    if package.test_only:
        yield _found(package, rules.DEBUGGABLE, expected, "it is for tests only (testOnly)")
    for item in package.certificates:
        if item.debug:
            yield _found(package, rules.DEBUG_KEY, expected, f"the signer is {item.certificate.subject}")


# -- what lies in an Apple app


def _parts(package: Package, expected: Expected) -> Iterator[Finding]:
    known = {part.id.text: part for part in expected.app.parts if part.id is not None}
    for part in package.parts:
        entry = f"{part.path}/Info.plist"
        if not str(part.id).startswith(f"{package.id}."):
            yield _found(
                package, rules.PART, expected, f"{part.id} does not begin with the app's ID, {package.id}", entry
            )
        elif known and part.id not in known:
            said = f"the {part.kind} is {part.id}, the project has {', '.join(known)}"
            yield _found(package, rules.PART, expected, said, entry)
        for label, mine, whole in (("version", part.version, package.version), ("build", part.build, package.build)):
            if mine != whole:
                yield _found(package, rules.PART, expected, f"{part.id}: {label} {mine}, the app has {whole}", entry)
    for owner, path, profile in (
        (package.id, package.main, package.profile),
        *((part.id, f"{part.path}/Info.plist", part.profile) for part in package.parts),
    ):
        if profile is None or profile.app_id is None:
            continue
        team, _, named = profile.app_id.partition(".")
        if not (named == owner or (named.endswith("*") and str(owner).startswith(named[:-1]))):
            yield _found(package, rules.PROFILE, expected, f"the profile is for {named}, the app is {owner}", path)
        signing = expected.app.signing
        if owner == package.id and signing is not None and signing.team and profile.team not in (None, signing.team):
            said = f"the profile's team is {profile.team or team}, the project's {signing.team}"
            yield _found(package, rules.PROFILE, expected, said, path)
