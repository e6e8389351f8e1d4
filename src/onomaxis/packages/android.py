"""What an APK, a set of APKs, or a bundle says of itself: manifest, resources, icons, signers.

Sources: developer.android.com, "App manifest overview", "Intents and intent filters", "Adaptive icons"; the
platform's ``ResourceTypes.h`` for densities.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from itertools import chain
from typing import NamedTuple

from onomaxis.errors import FormatError
from onomaxis.formats.binary.archive import Archive
from onomaxis.formats.binary.compiled_xml import is_compiled, read_compiled
from onomaxis.formats.binary.picture import HEAD, measure
from onomaxis.formats.binary.resource_protos import ProtoTable, read_proto_xml
from onomaxis.formats.binary.resource_table import ResourceTable
from onomaxis.formats.binary.signatures import signers_of
from onomaxis.formats.binary.values import ANY_DENSITY, COLORS, NO_DENSITY, STRING, Config, Node, Typed
from onomaxis.packages.facts import Icon, Package, Signed, Split
from onomaxis.packages.files import Content
from onomaxis.packages.resolving import Resolver

MANIFEST = "AndroidManifest.xml"
TABLE = "resources.arsc"
BUNDLE_MANIFEST = "base/manifest/AndroidManifest.xml"
BUNDLE_TABLE = "resources.pb"
# The strings that plug-ins of services make out of a service file, or ask for.
SERVICES = frozenset(
    (
        "google_app_id",
        "gcm_defaultSenderId",
        "default_web_client_id",
        "project_id",
        "google_api_key",
        "google_storage_bucket",
        "firebase_database_url",
        "facebook_app_id",
        "facebook_client_token",
    )
)
_LAYERS = ("foreground", "background", "monochrome")
_VIEW, _BROWSABLE = "android.intent.action.VIEW", "android.intent.category.BROWSABLE"
_MOST_XML = 16 * 1024 * 1024


class _Built(NamedTuple):
    """A package's manifest, those of its feature modules, its resources, and how a file that these name is read."""

    manifest: Node
    features: Sequence[Node]
    resources: Resolver
    content: Content
    lead: str
    table: str


def read_apks(path: str, kind: str, archives: Sequence[tuple[str, Archive]]) -> Package:
    """Read one APK, or several that make one package (the base, and its splits). Raises FormatError."""
    manifests = [read_compiled(archive.read(MANIFEST, _MOST_XML), lead + MANIFEST) for lead, archive in archives]
    bases = [number for number, manifest in enumerate(manifests) if "split" not in manifest.attributes]
    if len(bases) != 1:
        raise FormatError(
            "one of the APKs must be the base of the others" if not bases else "there are several bases"
        )
    first = bases[0]
    ordered = [archives[first], *(item for number, item in enumerate(archives) if number != first)]
    tables = [ResourceTable(archive.read(TABLE)) for _, archive in ordered if TABLE in archive]
    table = ordered[0][0] + TABLE if TABLE in ordered[0][1] else ""
    features = [node for node in manifests if "isFeatureSplit" in node.attributes]
    built = _Built(manifests[first], features, Resolver(tables), Content(ordered), "", table)
    splits = tuple(_split(lead, archive, node) for (lead, archive), node in zip(archives, manifests, strict=True))
    main = ordered[0][0] + MANIFEST
    return _package(path, kind, built, _signed(ordered[0][1]), main, splits if len(splits) > 1 else ())


def read_bundle(path: str, archive: Archive) -> Package:
    """Read an app bundle. Raises FormatError."""
    modules = sorted(
        name for name in archive.names() if name.count("/") == 2 and name.endswith(f"/manifest/{MANIFEST}")
    )
    manifests = {name: read_proto_xml(archive.read(name, _MOST_XML)) for name in modules}
    manifest = manifests.pop(BUNDLE_MANIFEST)
    tables = sorted(name for name in archive.names() if name.count("/") == 1 and name.endswith(f"/{BUNDLE_TABLE}"))
    tables.sort(key=lambda name: not name.startswith("base/"))
    resolver = Resolver([ProtoTable(archive.read(name)) for name in tables])
    features = tuple(manifests.values())
    built = _Built(manifest, features, resolver, Content([("", archive)]), "base/", next(iter(tables), ""))
    return _package(path, "aab", built, _signed(archive), BUNDLE_MANIFEST, ())


def _split(lead: str, archive: Archive, manifest: Node) -> Split:
    name, build = _said(manifest, "split") or "", _build(manifest)
    signed = tuple(item.certificate.sha256 for item in _signed(archive))
    return Split(lead.rstrip("/"), name, _said(manifest, "package"), build, signed)


def _said(node: Node | None, name: str) -> str | None:
    """Return an attribute that is not a reference."""
    value = node.attributes.get(name) if node is not None else None
    return value.shown() if value is not None else None


def _build(manifest: Node) -> str | None:
    """Return the version code: of both halves, where there is an upper one."""
    low, high = _said(manifest, "versionCode"), _said(manifest, "versionCodeMajor")
    if low is None or high in (None, "0") or not (low.isdecimal() and str(high).isdecimal()):
        return low
    return str((int(str(high)) << 32) | int(low))


def _signed(archive: Archive) -> tuple[Signed, ...]:
    """Return the certificates that the newest scheme carries, with every scheme that carries them too."""
    found = signers_of(archive)
    newest = next(iter(found.values()), ())
    if not newest:
        return ()
    from onomaxis.formats.keystore import Certificate

    return tuple(
        Signed(Certificate("", der, True), tuple(sorted(name for name, ders in found.items() if der in ders)))
        for der in dict.fromkeys(newest)
    )


def _package(
    path: str, kind: str, built: _Built, signed: tuple[Signed, ...], main: str, splits: tuple[Split, ...]
) -> Package:
    manifest, resources = built.manifest, built.resources
    manifests = (manifest, *built.features)
    applications = [node for item in manifests for node in item.named("application")]
    application = manifest.first("application") or Node("application", {}, [])
    label = application.attributes.get("label")
    entries = dict.fromkeys(("names", "services", "resource"), built.table)
    if label is not None and label.refers:
        entries["name"] = built.table
    levels = manifest.first("uses-sdk") or Node("uses-sdk", {}, [])
    package = Package(
        path=path,
        kind=kind,
        platform="android",
        id=_said(manifest, "package"),
        name=resources.text(label),
        names=_names(resources, label),
        version=_text(resources, manifest, "versionName"),
        build=_build(manifest),
        min=_text(resources, levels, "minSdkVersion"),
        target=_text(resources, levels, "targetSdkVersion"),
        debuggable=_text(resources, application, "debuggable") == "true",
        test_only=_text(resources, application, "testOnly") == "true",
        icons=tuple(_icons(built, application)),
        metadata=_metadata(applications, resources),
        services=resources.strings(SERVICES),
        certificates=signed,
        content=built.content,
        main=main,
        splits=splits,
        resources=resources,
        entries=entries,
    )
    return _with_declared(package, manifests, applications, resources)


def _text(resources: Resolver, node: Node, name: str) -> str | None:
    return resources.text(node.attributes.get(name))


# What these open is told by hosts.
_WEB = frozenset({"http", "https"})


def _with_declared(
    package: Package, manifests: Sequence[Node], applications: Sequence[Node], resources: Resolver
) -> Package:
    """Return a package with what it asks for, provides, and is opened by; feature modules' manifests count too.

    Source: developer.android.com, "Overview of Play Feature Delivery": they are merged where a module is installed.
    """
    permissions = ("uses-permission", "uses-permission-sdk-23")
    asked = [node for item in manifests for node in item.named(*permissions)]
    providers = [node for item in applications for node in item.named("provider")]
    provided = (_text(resources, node, "authorities") or "" for node in providers)
    filters = [data for item in applications for data in _opened_from_outside(item, resources)]
    every = [node for item in applications for node in item.walk() if node.name == "data"]
    web = [data for data in filters if {_text(resources, node, "scheme") for node in data} & _WEB]

    def all_of(name: str, nodes: Iterable[Node]) -> tuple[str, ...]:
        return _once(_text(resources, node, name) for node in nodes)

    return package._replace(
        permissions=all_of("name", asked),
        authorities=_once(one for texts in provided for one in texts.split(";")),
        hosts=all_of("host", chain.from_iterable(filters)),
        schemes=tuple(text for text in all_of("scheme", chain.from_iterable(filters)) if text not in _WEB),
        filtered=all_of("scheme", every),
        reached=all_of("host", every),
        web=all_of("host", chain.from_iterable(web)),
    )


def _once(texts: Iterator[str | None]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(text for text in texts if text))


def _names(resources: Resolver, label: Typed | None) -> dict[str, str]:
    found = {locale: resources.text(label, locale) for locale in sorted(set(resources.languages(label)))}
    return {locale: text for locale, text in found.items() if text is not None}


def _opened_from_outside(application: Node, resources: Resolver) -> Iterator[list[Node]]:
    """Yield the data of each filter through which a link from outside opens the app."""
    for activity in application.named("activity", "activity-alias"):
        for item in activity.named("intent-filter"):
            actions = {resources.text(node.attributes.get("name")) for node in item.named("action")}
            categories = {resources.text(node.attributes.get("name")) for node in item.named("category")}
            if _VIEW in actions and _BROWSABLE in categories:
                yield list(item.named("data"))


def _metadata(applications: Sequence[Node], resources: Resolver) -> Mapping[str, str | None]:
    found: dict[str, str | None] = {}
    for node in (node for item in applications for node in item.named("meta-data")):
        name = resources.text(node.attributes.get("name"))
        value = node.attributes.get("value") or node.attributes.get("resource")
        if name:
            found.setdefault(name, resources.text(value))
    return found


# -- icons


def _icons(built: _Built, application: Node) -> Iterator[Icon]:
    rows: dict[tuple[str, int | str | None, str | None, str | None], Icon] = {}
    for attribute, role in (("icon", "icon"), ("roundIcon", "round")):
        for item in _of_icon(built, role, application.attributes.get(attribute)):
            rows.setdefault((item.role, item.density, item.path, item.color), item)
    order = ("icon", "round", *_LAYERS)
    yield from sorted(rows.values(), key=lambda item: (order.index(item.role), _dots(item.density)))


def _dots(density: int | str | None) -> int:
    return density if isinstance(density, int) else 1 << 16


def _of_icon(built: _Built, role: str, value: Typed | None, depth: int = 0) -> Iterator[Icon]:
    """Yield the pictures that a value stands for, in every density; of an adaptive icon its layers too."""
    for config, end in _innermost(built.resources, value):
        if end.kind in COLORS:
            yield Icon(role, _density(config), None, color=end.shown())
        elif end.kind == STRING and end.text:
            path = built.lead + end.text
            yield _measured(built, role, config, path)
            if depth == 0:
                yield from _layers(built, path)


def _innermost(resources: Resolver, value: Typed | None) -> Iterator[tuple[Config, Typed]]:
    """Yield a value's ends that differ in density and level alone."""
    if value is None:
        return
    pending = [(Config(), value, 0)]
    while pending:
        config, item, far = pending.pop(0)
        if not item.refers:
            yield config, item
        elif far < 8:
            pending = [(c, v, far + 1) for c, v in _below(resources, config, item.data)] + pending
            if len(pending) > 2000:
                raise FormatError("the icon's references lead in circles")


def _below(resources: Resolver, outer: Config, identifier: int) -> list[tuple[Config, Typed]]:
    """Return what a reference leads to: in its own density where there is that, else drawn to fit, else in all."""
    every = [(c, v) for c, v in resources.values(identifier) if not c.locale and not c.more]
    same = [item for item in every if item[0].density == outer.density] if outer.density else []
    return same or [item for item in every if outer.density and item[0].density == ANY_DENSITY] or every


def _density(config: Config) -> int | str:
    if config.density in (ANY_DENSITY, NO_DENSITY):
        return "any" if config.density == ANY_DENSITY else "none"
    return config.density or 160


def _measured(built: _Built, role: str, config: Config, path: str) -> Icon:
    files = built.content.holder(path)
    seen = measure(files.head(path, HEAD)) if files is not None else None
    return Icon(role, _density(config), path, *(seen or (None, None, None)))


def _layers(built: _Built, path: str) -> Iterator[Icon]:
    files = built.content.holder(path)
    if files is None or not path.endswith(".xml"):
        return
    data = files.read(path, _MOST_XML)
    top = read_compiled(data, path) if is_compiled(data) else read_proto_xml(data)
    if top.name != "adaptive-icon":
        return
    for layer in top.named(*_LAYERS):
        drawn = next((node for node in layer.walk() if "drawable" in node.attributes), None)
        if drawn is not None:
            yield from _of_icon(built, layer.name, drawn.attributes["drawable"], depth=1)
