"""What an app declares in a framework's own files: property lists and manifests of single projects, JSON objects.

Sources of the rules: Expo documentation, "Configure with app config"; Microsoft Learn, ".NET MAUI single project"
(platform folders); Apache Cordova documentation, "Config.xml" (preferences).
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from onomaxis.formats.jsonc import JsonDocument, Node
from onomaxis.formats.xml import Element
from onomaxis.platforms import ANDROID_NS
from onomaxis.projects.frameworks.files import Files
from onomaxis.projects.ios.facts import listed_facts
from onomaxis.projects.project import AppFacts, Fact

# A property list made of what the framework's file says, so that what it lacks is missing in the built app.
LISTED = "property-list"
_LINKS = ("applinks", "webcredentials")


def json_fact(files: Files, name: str, document: JsonDocument, node: Node) -> Fact:
    """Return a scalar of a JSON file as a fact."""
    text = str(node.value).lower() if isinstance(node.value, bool) else str(node.value)
    return Fact(text, files.path(name), document.source.line(node.start))


def json_list(files: Files, name: str, document: JsonDocument, top: Node | None) -> Iterator[tuple[str, Fact]]:
    """Yield every scalar of a JSON object with the keys that lead to it, as of a property list."""
    stack: list[tuple[str, Node]] = [("", top)] if top is not None else []
    while stack:
        base, node = stack.pop()
        if node.kind == "object":
            stack += [(f"{base}/{key}" if base else key, item) for key, item in node.members]
        elif node.kind == "array":
            stack += [(f"{base}/{number}", item) for number, item in enumerate(node.items)]
        else:
            yield base, json_fact(files, name, document, node)


def texts(node: Node | None) -> Iterable[Node]:
    """Return a text, or the texts of a list."""
    if node is None:
        return ()
    return node.items if node.kind == "array" else (node,)


def expo_facts(files: Files, name: str, start: tuple[str, ...], platform: str) -> AppFacts:
    """Return what a static app configuration declares for a platform."""
    document = files.json(name)
    top = document.top.get(*start) if document is not None and start else document.top if document else None
    if document is None or top is None:
        return AppFacts()

    def fact(node: Node) -> Fact:
        return json_fact(files, name, document, node)

    schemes = [fact(node) for path in (("scheme",), (platform, "scheme")) for node in texts(top.get(*path))]
    hosts: list[Fact] = []
    keys: dict[str, Fact] = {}
    switches: dict[str, Fact] = {}
    where = Fact("", files.path(name), 1)
    if platform == "ios":
        keys = dict(json_list(files, name, document, top.get("ios", "infoPlist")))
        answered = top.get("ios", "config", "usesNonExemptEncryption")
        if answered is not None:
            keys["ITSAppUsesNonExemptEncryption"] = fact(answered)
        for node in texts(top.get("ios", "associatedDomains")):
            kind, _, named = str(node.value).partition(":")
            if kind in _LINKS:
                hosts.append(fact(node)._replace(text=named.partition("?")[0]))
        switches[LISTED] = where
        map_key = top.get("ios", "config", "googleMapsApiKey")
        if map_key is not None:
            keys["GMSApiKey"] = fact(map_key)
    else:
        filters = top.get("android", "intentFilters")
        data = [entry for item in texts(filters) for entry in texts(item.get("data"))]
        for entry in data:
            scheme, host = entry.get("scheme"), entry.get("host")
            schemes += [fact(scheme)] if scheme is not None else []
            hosts += [fact(host)] if host is not None else []
        map_key = top.get("android", "config", "googleMaps", "apiKey")
        if map_key is not None:
            keys["com.google.android.geo.API_KEY"] = fact(map_key)
    return AppFacts(keys, tuple(schemes), tuple(hosts), switches, where)


def manifest_facts(files: Files, name: str) -> AppFacts:
    """Return what a manifest declares that the build takes as it is."""
    document = files.xml(name)
    if document is None:
        return AppFacts()
    keys: dict[str, Fact] = {}
    schemes: list[Fact] = []
    hosts: list[Fact] = []
    switches: dict[str, Fact] = {}

    def fact(element: Element, attribute: str) -> Fact | None:
        found = element.attribute(attribute, ANDROID_NS)
        return Fact(found.value, files.path(name), document.source.line(found.start)) if found else None

    for element in document.root.walk():
        if element.name == "meta-data" and (value := fact(element, "value")):
            keys.setdefault(element.value("name", ANDROID_NS), value)
        elif element.name == "data":
            schemes += [found] if (found := fact(element, "scheme")) else []
            hosts += [found] if (found := fact(element, "host")) else []
        elif element.name == "application" and (found := fact(element, "debuggable")):
            switches["debuggable"] = found
        elif element.name == "uses-sdk" and (found := fact(element, "targetSdkVersion")):
            switches["target-sdk"] = found
    return AppFacts(keys, tuple(schemes), tuple(hosts), switches, Fact("", files.path(name), 1))


def list_facts(files: Files, name: str) -> AppFacts:
    """Return what a property list declares that the build takes as it is."""
    keys = dict(listed_facts(files.tree, files.path(name)))
    if not keys:
        return AppFacts()
    schemes = tuple(fact for key, fact in keys.items() if "/CFBundleURLSchemes/" in key)
    return AppFacts(keys, schemes, (), {}, Fact("", files.path(name), 1))


def preference_facts(files: Files, name: str) -> AppFacts:
    """Return what the preferences of a widget's configuration set."""
    document = files.xml(name)
    switches: dict[str, Fact] = {}
    for element in document.root.walk() if document is not None else ():
        value = element.attribute("value") if element.name == "preference" else None
        if document is not None and value and element.value("name").casefold() == "android-targetsdkversion":
            switches["target-sdk"] = Fact(value.value, files.path(name), document.source.line(value.start))
    return AppFacts(switches=switches, where=Fact("", files.path(name), 1))
