"""Files of outside services in a tree: which app IDs they know, and which certificates and project they name.

Sources of the rules: the services' documentation of ``google-services.json`` (its places by variant) and
``GoogleService-Info.plist``; developer.android.com, "Verify Android App Links" (``assetlinks.json``); Apple,
"Supporting associated domains" (``apple-app-site-association``).
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

from onomaxis.errors import FormatError
from onomaxis.formats.binary.plist import read_any_plist
from onomaxis.formats.jsonc import JsonDocument, Node, parse_json
from onomaxis.formats.plist import is_binary_plist, parse_plist
from onomaxis.tree import Tree, join

GOOGLE_ANDROID = "google-services.json"
GOOGLE_IOS = "GoogleService-Info.plist"
# The build setting that says which service file a configuration of an Xcode target takes: our own.
SERVICE_SETTING = "SERVICE_FILE"
# What tells the build phase that copies it.
SERVICE_INPUT = f"$(SRCROOT)/$({SERVICE_SETTING})"
ASSET_LINKS = "assetlinks.json"
ASSOCIATION = "apple-app-site-association"


class ServiceApp(NamedTuple):
    """One app that a service file knows: its ID, where that stands, the certificates named for it (SHA-1, hex)."""

    id: str
    line: int
    certificates: tuple[str, ...] = ()


class ServiceFile(NamedTuple):
    """One file of a service; ``project`` is its project number, ``reversed`` the URL scheme that it asks for."""

    path: str
    platform: str
    apps: tuple[ServiceApp, ...]
    project: str = ""
    project_line: int = 0
    reversed: str = ""
    reversed_line: int = 0
    fault: str = ""
    fault_line: int = 0

    def knows(self, app_id: str) -> bool:
        """Tell whether the service knows an app."""
        return any(app.id == app_id for app in self.apps)


class LinkFile(NamedTuple):
    """An association file: app IDs with where they stand, and for Android the fingerprints (SHA-256) per app."""

    path: str
    platform: str
    apps: tuple[ServiceApp, ...]
    fault: str = ""


def read_service(path: str, data: bytes) -> ServiceFile:
    """Read one service file; what is wrong with it stands in ``fault``."""
    platform = "android" if path.endswith(".json") else "ios"
    try:
        return _google_android(path, data) if platform == "android" else _google_ios(path, data)
    except FormatError as error:
        return ServiceFile(path, platform, (), fault=error.message, fault_line=error.line)


def _google_android(path: str, data: bytes) -> ServiceFile:
    document = parse_json(data)
    clients = document.top.get("client")
    apps = []
    for client in clients.items if clients is not None else ():
        node = client.get("client_info", "android_client_info", "package_name")
        if node is not None and isinstance(node.value, str):
            apps.append(ServiceApp(node.value, document.source.line(node.start), tuple(_hashes(client))))
    number = document.top.get("project_info", "project_number")
    fault = "" if apps else "it names no app"
    return ServiceFile(path, "android", tuple(apps), *_number(document, number), fault=fault, fault_line=1)


def _hashes(client: Node) -> Iterator[str]:
    logins = client.get("oauth_client")
    for login in logins.items if logins is not None else ():
        found = login.get("android_info", "certificate_hash")
        if found is not None and isinstance(found.value, str):
            yield found.value.replace(":", "").lower()


def _number(document: JsonDocument, node: Node | None) -> tuple[str, int]:
    return (str(node.value), document.source.line(node.start)) if node is not None else ("", 0)


def _google_ios(path: str, data: bytes) -> ServiceFile:
    if is_binary_plist(data):
        table = read_any_plist(data, path)
        texts = {key: value for key, value in table.items() if isinstance(value, str)}
        apps = (ServiceApp(texts["BUNDLE_ID"], 1),) if "BUNDLE_ID" in texts else ()
        numbers = (texts.get("GCM_SENDER_ID", ""), 1, texts.get("REVERSED_CLIENT_ID", ""), 1)
        return ServiceFile(path, "ios", apps, *numbers, "" if apps else "it names no app", 1)
    plist = parse_plist(data)
    line = plist.document.source.line

    def text(key: str) -> tuple[str, int]:
        found = plist.string(key)
        return (found.value, line(found.start)) if found else ("", 0)

    app_id, at = text("BUNDLE_ID")
    apps = (ServiceApp(app_id, at),) if app_id else ()
    fault = "" if apps else "it names no app"
    return ServiceFile(path, "ios", apps, *text("GCM_SENDER_ID"), *text("REVERSED_CLIENT_ID"), fault, 1)


def service_files(tree: Tree, name: str, folder: str) -> list[ServiceFile]:
    """Return the service files of a name below a folder."""
    inside = f"{folder}/" if folder else ""
    return [read_service(path, tree.read(path) or b"") for path in tree.named(name) if path.startswith(inside)]


def for_variant(
    files: Sequence[ServiceFile], module: str, flavors: Sequence[str], build_type: str
) -> ServiceFile | None:
    """Return the file that a variant of an Android module is built with: the most special place that has one.

    *flavors* are the combination's name and its flavors, the winning one first.
    """
    capital = build_type[:1].upper() + build_type[1:]
    forms = ("src/{0}{1}", "src/{0}/{2}", "src/{2}/{0}", "src/{0}")
    folders = [form.format(flavor, capital, build_type) for flavor in flavors if flavor for form in forms]
    known = {file.path: file for file in files}
    paths = (
        join(join(module, folder) if folder else module, GOOGLE_ANDROID)
        for folder in [*folders, f"src/{build_type}", ""]
    )
    return next((known[path] for path in paths if path in known), None)


def link_files(tree: Tree) -> list[LinkFile]:
    """Return the association files of a tree."""
    found = []
    for path in tree.named(ASSET_LINKS, ASSOCIATION):
        reader = _asset_links if path.endswith(ASSET_LINKS) else _association
        platform = "android" if path.endswith(ASSET_LINKS) else "ios"
        try:
            found.append(LinkFile(path, platform, tuple(reader(parse_json(tree.read(path) or b"")))))
        except FormatError as error:
            found.append(LinkFile(path, platform, (), error.message))
    return found


def _asset_links(document: JsonDocument) -> Iterator[ServiceApp]:
    for statement in document.top.items:
        target = statement.get("target")
        name = target.get("package_name") if target is not None else None
        prints = target.get("sha256_cert_fingerprints") if target is not None else None
        if name is not None and isinstance(name.value, str):
            hashes = tuple(str(item.value).upper() for item in (prints.items if prints is not None else ()))
            yield ServiceApp(name.value, document.source.line(name.start), hashes)


def _association(document: JsonDocument) -> Iterator[ServiceApp]:
    """Yield the app IDs of an association file, their team prefix taken off (``TEAM123456.org.example``)."""
    for node in document.top.walk():
        if node.kind == "string" and isinstance(node.value, str):
            prefix, dot, rest = node.value.partition(".")
            if dot and len(prefix) == 10 and prefix.isalnum() and prefix.isupper():
                yield ServiceApp(rest, document.source.line(node.start))
