"""Rules about outside services: their files know the app, derived schemes agree, no test IDs are left in."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from fnmatch import fnmatchcase

from onomaxis import late
from onomaxis.brands.missing_flavors import knows_flavor
from onomaxis.brands.services import lies_with, module_folder
from onomaxis.brands.subjects import Subject
from onomaxis.checks.context import Context, at, called, whose
from onomaxis.checks.finding import Finding, rule
from onomaxis.checks.registry import check
from onomaxis.flavor_names import in_order
from onomaxis.identity.schema import OWED
from onomaxis.model import ShippedApp
from onomaxis.platforms import PLATFORM_NAMES
from onomaxis.projects.project import AppFacts, Fact
from onomaxis.projects.services import (
    GOOGLE_ANDROID,
    GOOGLE_IOS,
    ServiceFile,
    for_variant,
    link_files,
    read_service,
    service_files,
)
from onomaxis.surveys.survey import kind_of
from onomaxis.tree import join, parent

UNKNOWN = rule("SERVICE01")
MISSING = rule("SERVICE02")
PROJECTS = rule("SERVICE03")
REVERSED = rule("SERVICE04")
DERIVED = rule("SERVICE05")
KEY = rule("SERVICE06")
TEST_ADS = rule("SERVICE07")
LINKS = rule("SERVICE08")
PUSH = rule("SERVICE09")
HOSTS = rule("SERVICE10")
BROKEN = rule("SERVICE11")
GONE = rule("SERVICE12")
DEBUG = rule("SERVICE13")
LEFT = rule("SERVICE14")

# Declared IDs and the schemes that the SDK derives from them: key, form of the scheme.
_DERIVED = (("FacebookAppID", "fb{}"), ("com.facebook.sdk.ApplicationId", "fb{}"), ("facebook_app_id", "fb{}"))
# Keys with the form that the service gives them; None where only placeholders can be told.
_KEYS: Mapping[str, str | None] = {
    "com.google.android.geo.API_KEY": r"AIza[\w-]{35}",
    "com.google.android.maps.v2.API_KEY": r"AIza[\w-]{35}",
    "GMSApiKey": r"AIza[\w-]{35}",
    "FacebookAppID": r"\d{5,20}",
    "com.facebook.sdk.ApplicationId": r"\d{5,20}",
    "facebook_app_id": r"\d{5,20}",
    "FacebookClientToken": None,
    "com.facebook.sdk.ClientToken": None,
    "MBXAccessToken": None,
}
_PLACEHOLDER = late.compile(
    r"(?:your|insert|enter|replace|todo|changeme|xxx|<|\[|\{|\$\().*|.*(?:_here|api_key)\Z", re.IGNORECASE
)
_ADS = ("com.google.android.gms.ads.APPLICATION_ID", "GADApplicationIdentifier")
# The publisher under which the advertising SDK's documented test IDs stand.
_TEST_PUBLISHER = "ca-app-pub-3940256099942544"
_AD_FORM = late.compile(r"ca-app-pub-\d{16}~\d{10}\Z")


@check(UNKNOWN, MISSING, PROJECTS, REVERSED, DERIVED, KEY, TEST_ADS, LINKS, PUSH, HOSTS, BROKEN, GONE, DEBUG, LEFT)
def check_services(context: Context) -> Iterator[Finding]:
    """Check every service of every flavor."""
    known: dict[tuple[str, str], ServiceFile] = {}
    for subject in context.subjects:
        if subject.platform == "android":
            yield from _android(context, subject, known)
        else:
            yield from _ios(context, subject, known)
        for flavor in context.flavored(subject):
            yield from _declared(context, subject, flavor)
    for (platform, flavor), one in known.items():
        other = known.get(("ios", flavor)) if platform == "android" else None
        if other and one.project and other.project and one.project != other.project:
            said = f"{flavor or 'the app'}: project {one.project} on Android, {other.project} on iOS"
            spots = ((one.path, one.project_line), (other.path, other.project_line))
            yield Finding(PROJECTS, said, spots, flavor)
    yield from _named_files(context)
    yield from _hosts(context)
    yield from _links(context)


def _android(context: Context, subject: Subject, known: dict[tuple[str, str], ServiceFile]) -> Iterator[Finding]:
    module = module_folder(subject)
    files = service_files(context.tree, GOOGLE_ANDROID, module)
    for file in files:
        if file.fault:
            yield Finding(BROKEN, file.fault, ((file.path, file.fault_line or 1),))
    for app in subject.apps if files else ():
        if app.id is None:
            continue
        parts = in_order(app.flavor, subject.flavors)
        mine = for_variant(files, module, [app.flavor, *parts], "release")
        if mine is None and subject.project.kind != "android":  # the framework's tools look where they are told
            mine = next((file for file in files if file.knows(app.id.text)), files[0] if len(files) == 1 else None)
        beside = [name for name in parts if knows_flavor(context.subjects, "ios", name)]
        flavor = next(iter([*beside, *parts]), app.flavor)
        if mine is None:
            said = f"{called('android', app.flavor)} ({app.id.text}) has no service file"
            yield Finding(MISSING, said, at(app.id), flavor)
        elif not mine.knows(app.id.text) and not mine.fault:
            listed = ", ".join(entry.id for entry in mine.apps)
            said = f"{called('android', app.flavor)} is {app.id.text}; the file knows {listed}"
            yield Finding(UNKNOWN, said, ((mine.path, mine.apps[0].line), *at(app.id)), flavor)
        else:
            known.setdefault(("android", flavor.casefold()), mine)
            yield from _build_types(context, subject, app, flavor, files)


def _build_types(
    context: Context, subject: Subject, app: ShippedApp, flavor: str, files: Sequence[ServiceFile]
) -> Iterator[Finding]:
    """Look whether the service knows what the other build types of an app are called: ``org.lendspan.debug``."""
    suffixes, released = context.facts(subject, flavor).suffixes, app.configuration
    ends = suffixes[released].text if released in suffixes else ""
    whole = app.id.text if app.id else ""
    for build_type, suffix in suffixes.items() if whole.endswith(ends) else ():
        id_ = whole.removesuffix(ends) + suffix.text
        parts = in_order(app.flavor, subject.flavors)
        mine = for_variant(files, module_folder(subject), [app.flavor, *parts], build_type)
        if build_type != released and mine is not None and not mine.fault and not mine.knows(id_):
            said = f"{called('android', app.flavor)} in {build_type} is {id_}; the file knows " + ", ".join(
                entry.id for entry in mine.apps
            )
            yield Finding(DEBUG, said, ((mine.path, mine.apps[0].line), _spot(suffix)), flavor)


def _configurations(context: Context, subject: Subject, files: Sequence[ServiceFile]) -> Iterator[Finding]:
    """Where the service knows what some builds that are not shipped are called, look whether it knows all of them."""
    places = kind_of(subject.project).places(subject.project, context.tree, subject.module) if files else None
    every = places.configured("setting", "PRODUCT_BUNDLE_IDENTIFIER", "") if places is not None else []
    shipped = {item.value.text for item in every if item.ships}
    others = {item.value.text: item for item in every if item.value.text not in shipped}
    known = [id_ for id_ in others if any(file.knows(id_) for file in files)]
    for id_, item in others.items() if known else ():
        if id_ not in known:
            said = f"{called('ios', item.flavor)}: configuration {item.name} is {id_}; the service knows {known[0]}"
            yield Finding(DEBUG, said, at(item.value), item.flavor)


def _ios(context: Context, subject: Subject, known: dict[tuple[str, str], ServiceFile]) -> Iterator[Finding]:
    files = service_files(context.tree, GOOGLE_IOS, subject.project.folder)
    files += [
        found
        for path in context.tree.files
        if path.endswith(".plist") and re.search(r"GoogleService-Info[-_.][^/]+\.plist\Z", path)
        for found in service_files(context.tree, path.rpartition("/")[2], parent(path))
    ]
    for file in files:
        if file.fault:
            yield Finding(BROKEN, file.fault, ((file.path, file.fault_line or 1),))
    yield from _configurations(context, subject, files)
    for flavor in context.flavored(subject) if files else ():
        app = subject.of(flavor)[0] if subject.of(flavor) else None
        if app is None or app.id is None:
            continue
        knowing = [file for file in files if file.knows(app.id.text)]
        mine = next(iter(knowing), None)
        if mine is None:
            near = [file for file in files if lies_with(subject, file.path, flavor)]
            wrong = near[0] if near else files[0] if len(files) == 1 and not subject.flavors else None
            if wrong is not None and wrong.apps:
                said = f"{called('ios', flavor)} is {app.id.text}; the file knows {wrong.apps[0].id}"
                yield Finding(UNKNOWN, said, ((wrong.path, wrong.apps[0].line), *at(app.id)), flavor)
            elif not any(file.fault for file in near):
                said = f"{called('ios', flavor)} ({app.id.text}) has no service file"
                yield Finding(MISSING, said, at(app.id), flavor)
            continue
        known.setdefault(("ios", flavor.casefold()), mine)
        project, branch = subject.project, subject.branch(flavor)
        if not any(kind_of(project).takes_service(project, context.tree, branch, file.path) for file in knowing):
            said = f"{called('ios', flavor)}: the build does not take {mine.path} into the app"
            yield Finding(LEFT, said, ((mine.path, mine.apps[0].line),), flavor)
        facts = context.facts(subject, flavor)
        if mine.reversed and all(item.text != mine.reversed for item in facts.schemes):
            said = f"{called('ios', flavor)}: no URL scheme {mine.reversed}"
            yield Finding(REVERSED, said, ((mine.path, mine.reversed_line), _spot(facts.where)), flavor)


def _named_files(context: Context) -> Iterator[Finding]:
    """Check the service files that the identity file names, before stamping would put them in their places."""
    file = context.file
    for subject, flavor, brand in context.spoken():
        key = f"google-{subject.platform}"
        said = brand.files.get(key)
        general = file.brand("", subject.platform).files.get(key) if file is not None and subject.flavors else None
        if file is None or said is None or (flavor and said == general):
            continue
        path = join(parent(file.path), said.text)
        (named,) = context.spot(said)
        if context.tree.named_file(path) is None:
            yield Finding(GONE, context.tree.lacking(path, said.text), (named,), flavor)
            continue
        found = read_service(
            GOOGLE_ANDROID if subject.platform == "android" else path, context.tree.read(path) or b""
        )
        id_ = brand.get("id") or subject.text(flavor, "id") or ""
        if found.fault:
            yield Finding(BROKEN, f"{said.text}: {found.fault}", ((path, found.fault_line or 1), named), flavor)
        elif id_ and not found.knows(id_) and subject.bound(file, flavor):
            listed = ", ".join(entry.id for entry in found.apps)
            message = f"{called(subject.platform, flavor)} is {id_}; the file knows {listed}"
            yield Finding(UNKNOWN, message, ((path, found.apps[0].line), named), flavor)


def _spot(fact: Fact) -> tuple[str, int]:
    return fact.file, fact.line


def _declared(context: Context, subject: Subject, flavor: str) -> Iterator[Finding]:
    """Check the IDs, keys and switches that a flavor declares."""
    facts = context.facts(subject, flavor)
    for key, form in _DERIVED:
        declared = facts.keys.get(key)
        wanted = form.format(declared.text) if declared else ""
        near = [item for item in facts.schemes if item.text.startswith(form.format("")) and item.text[2:].isdigit()]
        if declared and near and all(item.text != wanted for item in near):
            said = f"{PLATFORM_NAMES[subject.platform]}: the scheme is {near[0].text}, the app ID asks for {wanted}"
            yield Finding(DERIVED, said, (_spot(near[0]), _spot(declared)), whose(flavor, near[0].file))
    for key, pattern in _KEYS.items():
        fact = facts.keys.get(key)
        if fact is None or fact.text == OWED:  # a rule of its own tells it
            continue
        if _PLACEHOLDER.match(fact.text) or (pattern and not re.fullmatch(pattern, fact.text)):
            yield Finding(KEY, f"{key} is “{_hidden(fact.text)}”", (_spot(fact),), whose(flavor, fact.file))
    for key in _ADS:
        fact = facts.keys.get(key)
        if fact and fact.text.startswith(_TEST_PUBLISHER):
            yield Finding(TEST_ADS, f"{key} is the SDK's test ID", (_spot(fact),), whose(flavor, fact.file))
        elif fact and not _AD_FORM.match(fact.text):
            yield Finding(KEY, f"{key} is “{_hidden(fact.text)}”", (_spot(fact),), whose(flavor, fact.file))
    yield from _push(facts, subject.module)


def _hidden(text: str) -> str:
    """Show enough of a key to find it, and no more."""
    return text if len(text) <= 12 or _PLACEHOLDER.match(text) else f"{text[:6]}…"


def _push(facts: AppFacts, target: str) -> Iterator[Finding]:
    asked = facts.switches.get("remote-notification")
    if asked and "push" not in facts.switches:
        spots = (_spot(asked), _spot(facts.switches.get("entitlements", facts.where)))
        yield Finding(
            PUSH, f"{target} asks for remote notifications, and its entitlements lack aps-environment", spots
        )


def _hosts(context: Context) -> Iterator[Finding]:
    file = context.file
    for subject in context.named if file is not None else ():
        assert file is not None
        for flavor in context.flavored(subject):
            brand = file.variant(flavor, subject.singles, subject.platform)
            facts = context.facts(subject, flavor)
            for host in brand.hosts:
                if not any(fnmatchcase(host.text, item.text) for item in facts.hosts):
                    said = f"{called(subject.platform, flavor)}: nothing opens it with links of {host.text}"
                    yield Finding(HOSTS, said, ((file.home(host.line), host.line), _spot(facts.where)), flavor)


def _links(context: Context) -> Iterator[Finding]:
    """Compare the association files of the tree with the apps that open links."""
    files = link_files(context.tree)
    for file in files:
        if file.fault:
            yield Finding(BROKEN, file.fault, ((file.path, 1),))
    for subject in context.named or context.subjects:
        mine = [file for file in files if file.platform == subject.platform and not file.fault]
        for flavor in context.flavored(subject) if mine else ():
            value = subject.value(flavor, "id")
            if value is None or not context.facts(subject, flavor).hosts:
                continue
            if not any(app.id == value.text for file in mine for app in file.apps):
                said = f"{called(subject.platform, flavor)} ({value.text}) is in none of the association files"
                yield Finding(LINKS, said, ((mine[0].path, 1), *at(value)), flavor)
