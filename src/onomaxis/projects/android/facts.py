"""What an Android app declares: meta-data, links that open it, whether it can be debugged, how it is signed.

Source of the rules: developer.android.com, "<meta-data>", "<data>", "<application>", "Sign your app".
"""

from __future__ import annotations

from collections.abc import Iterator

from onomaxis import late
from onomaxis.errors import InputError
from onomaxis.formats.xml import Element
from onomaxis.platforms import ANDROID_NS, TOOLS_NS
from onomaxis.projects.android.apps import ModuleReader
from onomaxis.projects.android.flavors import dimensions
from onomaxis.projects.android.manifest import Manifest
from onomaxis.projects.android.modules import setting_path
from onomaxis.projects.android.places import AndroidPlaces
from onomaxis.projects.android.variants import RELEASE, evaluate
from onomaxis.projects.places import Spot
from onomaxis.projects.project import AppFacts, Fact

_PERMISSIONS = ("uses-permission", "uses-permission-sdk-23")
_RESOURCE = late.compile(r"@((?:string|bool|integer)/[\w.]+)\Z")


def app_facts(reader: ModuleReader, flavor: str) -> AppFacts:
    """Return what one flavor declares in its release build; the flavor's manifest counts before the main one."""
    places = AndroidPlaces(reader)
    keys: dict[str, Fact] = {}
    schemes: list[Fact] = []
    hosts: list[Fact] = []
    authorities: list[Fact] = []
    permissions: dict[str, Fact | None] = {}
    switches: dict[str, Fact] = dict(_script_switches(reader))
    where = Fact("", reader.module.file.path, 1)
    for source_set in (RELEASE, *((flavor,) if flavor else ()), "main"):
        manifest = reader.manifest(source_set)
        if manifest is None:
            continue
        if source_set == "main":
            where = Fact("", manifest.path, 1)
        for element in manifest.root.walk():
            if element.name == "meta-data":
                name = element.value("name", ANDROID_NS)
                fact = _fact(places, manifest, element, "value", flavor)
                if name and fact:
                    keys.setdefault(name, fact)
            elif element.name == "data":
                schemes += [fact] if (fact := _fact(places, manifest, element, "scheme", flavor)) else []
                hosts += [fact] if (fact := _fact(places, manifest, element, "host", flavor)) else []
            elif element.name == "provider" and not _taken_out(element):
                authorities += [f] if (f := _fact(places, manifest, element, "authorities", flavor)) else []
            elif element.name in _PERMISSIONS and (f := _fact(places, manifest, element, "name", flavor)):
                permissions.setdefault(f.text, None if _taken_out(element) else f)
            elif element.name == "application":
                debuggable = _fact(places, manifest, element, "debuggable", flavor)
                if debuggable:
                    switches.setdefault("debuggable", debuggable)
    keys |= dict(_strings(reader, places, flavor, keys))
    asked = tuple(fact for fact in permissions.values() if fact is not None)
    suffixes = dict(_suffixes(reader))
    return AppFacts(keys, tuple(schemes), tuple(hosts), switches, where, suffixes, asked, tuple(authorities))


def _taken_out(element: Element) -> bool:
    """Tell whether a manifest takes an element out of those below it."""
    return element.value("node", TOOLS_NS) in ("remove", "removeAll")


def _fact(places: AndroidPlaces, manifest: Manifest, element: Element, name: str, flavor: str) -> Fact | None:
    """Return an attribute after resources and placeholders; as it is written where they cannot be determined."""
    attribute = element.attribute(name, ANDROID_NS)
    if attribute is None:
        return None
    line = manifest.document.source.line(attribute.start)
    text = attribute.value
    spot: Spot | None = None
    try:
        named = _RESOURCE.match(text)
        if named:
            spot = places.spot("resource", named[1], "", flavor)
        elif text.startswith("${") and text.endswith("}") and text != "${applicationId}":
            spot = places.spot("placeholder", text[2:-1], "", flavor)
    except InputError:
        return None if _elsewhere(places, text, flavor) else Fact(text, manifest.path, line)
    return Fact(spot.text, spot.file, spot.line) if spot else Fact(text, manifest.path, line)


def _elsewhere(places: AndroidPlaces, text: str, flavor: str) -> bool:
    """Tell whether other flavors fill what this one leaves open: those of another dimension, or all but the app."""
    named = _RESOURCE.match(text)
    kind, name = ("resource", named[1]) if named else ("placeholder", text[2:-1])
    varied = dimensions(places.reader)
    for other, dimension in varied.items():
        try:
            if not flavor or dimension != varied.get(flavor, dimension):
                places.spot(kind, name, "", other)
                return True
        except InputError:
            continue
    return False


# Strings by whose name a login SDK finds its scheme (developers' documentation of the SDK).
_SCHEME_STRINGS = ("fb_login_protocol_scheme", "facebook_app_id")


def _strings(
    reader: ModuleReader, places: AndroidPlaces, flavor: str, known: dict[str, Fact]
) -> Iterator[tuple[str, Fact]]:
    for name in _SCHEME_STRINGS:
        if reader.table(reader.module, "main").entries(name):
            spot = places.spot("resource", f"string/{name}", "", flavor)
            yield name, Fact(spot.text, spot.file, spot.line)


def _suffixes(reader: ModuleReader) -> Iterator[tuple[str, Fact]]:
    """Yield what each build type appends to the ID, with its dot."""
    for item in reader.module.settings("buildTypes"):
        *_, build_type, name = setting_path(item)
        suffix = evaluate(reader.module, item, name, []) if name == "applicationIdSuffix" else None
        if suffix and suffix.text:
            yield build_type, Fact(f".{suffix.text.removeprefix('.')}", suffix.place.file, suffix.place.line)


def _script_switches(reader: ModuleReader) -> Iterator[tuple[str, Fact]]:
    """Yield what the build script says of the release build type, and the level it is made for."""
    module = reader.module
    for names, key in (
        ((("buildTypes", RELEASE, "debuggable"), ("buildTypes", RELEASE, "isDebuggable")), "debuggable"),
        ((("buildTypes", RELEASE, "signingConfig"),), "signing"),
        ((("defaultConfig", "targetSdk"), ("defaultConfig", "targetSdkVersion")), "target-sdk"),
    ):
        for path in names:
            item = module.find(*path)
            if item is not None and item.value:
                spot = module.environment.place(item.value)
                text = "".join(token.text for token in item.value)
                yield key, Fact(text, spot.file, spot.line)
                break
    for item in module.settings("signingConfigs"):
        *_, owner, name = setting_path(item)
        if owner == "debug":  # every SDK makes its debug keystore with the same password
            continue
        if name in ("storePassword", "keyPassword") and item.value and item.value[0].kind == "string":
            spot = module.environment.place(item.value)
            if len(item.value) == 1 and len(item.value[0].parts) == 1 and spot.written.strip("\"'"):
                yield "password", Fact("", spot.file, spot.line)
