"""What an Apple app says of itself: property lists, localized names, icons, embedded products, signature, profile.

Sources: Apple, "Information Property List", "Bundle Programming Guide" (layouts of bundles, ``.lproj`` folders),
"TN3125: Inside Code Signing: Provisioning Profiles".
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

from onomaxis import late
from onomaxis.errors import FormatError
from onomaxis.formats.binary.archive import MOST_BYTES
from onomaxis.formats.binary.catalog import catalog_names
from onomaxis.formats.binary.code_signature import CodeSignature, read_code_signature
from onomaxis.formats.binary.picture import HEAD, measure
from onomaxis.formats.binary.plist import read_any_plist
from onomaxis.formats.binary.profiles import Profile, read_profile
from onomaxis.packages.facts import Icon, Package, Part, Signed
from onomaxis.packages.files import Content, Files, Inner

INFO = "Info.plist"
CATALOG = "Assets.car"
SERVICE = "GoogleService-Info.plist"
_PROFILES = ("embedded.mobileprovision", "embedded.provisionprofile")
_DOMAINS = "com.apple.developer.associated-domains"
_MOST_LIST = 16 * 1024 * 1024
# Folders of embedded products, and what lies in them.
_EMBEDDED = {"PlugIns": "extension", "Extensions": "extension", "Watch": "watch", "AppClips": "clip"}
_PRODUCT = late.compile(
    r"^((?:[^/]+/)*?)(PlugIns|Extensions|Watch|AppClips)/([^/]+\.(?:appex|app))/(?:Contents/)?Info\.plist$"
)
_VARIANT = late.compile(r"(@[23]x)?(~\w+)?\.png")
# Folders of languages from before BCP 47.
_OLD_LANGUAGES = {
    "English": "en",
    "French": "fr",
    "German": "de",
    "Japanese": "ja",
    "Dutch": "nl",
    "Italian": "it",
    "Spanish": "es",
}


def read_app(path: str, kind: str, files: Files, root: str) -> Package:
    """Read the app whose bundle is the folder *root* of *files* (``Payload/Lendspan.app/``). Raises FormatError."""
    app = _Bundle(files, root)
    info, signature = app.info, app.signature()
    if "$(" in str(info.get("CFBundleIdentifier")):
        raise FormatError(f"{app.lead}{INFO} is a project's: no build filled it in")
    names = dict(sorted(app.names().items()))
    entitlements = signature.entitlements if signature is not None else {}
    hosts = _once(host for item in _texts(entitlements.get(_DOMAINS)) if (host := _host(item)))
    return Package(
        path=path,
        kind=kind,
        platform="macos" if "MacOSX" in _texts(info.get("CFBundleSupportedPlatforms")) or app.deep else "ios",
        id=_text(info.get("CFBundleIdentifier")),
        name=app.name(),
        names={language: text for language, (text, _) in names.items()},
        version=_text(info.get("CFBundleShortVersionString")),
        build=_text(info.get("CFBundleVersion")),
        min=_text(info.get("MinimumOSVersion")) or _text(info.get("LSMinimumSystemVersion")),
        target=_text(info.get("DTPlatformVersion")) or _text(info.get("DTSDKName")),
        debuggable=entitlements.get("get-task-allow") is True or entitlements.get(_MAC_DEBUG) is True,
        icons=tuple(app.icons()),
        permissions=tuple(key for key in info if key.startswith("NS") and key.endswith("UsageDescription")),
        hosts=hosts,
        reached=hosts,
        web=hosts,
        schemes=_once(scheme for item in _tables(info.get("CFBundleURLTypes")) for scheme in _schemes(item)),
        services=app.services(),
        parts=tuple(_parts(files, root)),
        entitlements={key: plain(value) for key, value in entitlements.items()},
        profile=app.profile(),
        catalog=app.found(CATALOG),
        catalog_names=app.catalog_names(),
        certificates=_signed(signature),
        content=Content([("", files)]),
        main=app.lead + INFO,
        list=info,
        entries={f"names:{language}": entry for language, (_, entry) in names.items()}
        | {"services": app.found(SERVICE) or ""},
    )


_MAC_DEBUG = "com.apple.security.get-task-allow"


class _Bundle:
    """A bundle: of the flat layout, or with its files in ``Contents``."""

    def __init__(self, files: Files, root: str) -> None:
        self.deep = f"{root}Contents/{INFO}" in files
        self.root = root
        self.lead = f"{root}Contents/" if self.deep else root
        self.files = Inner(files, self.lead)
        if INFO not in self.files:
            raise FormatError(f"{self.lead}{INFO} is missing")
        self.info = read_any_plist(self.files.read(INFO, _MOST_LIST), self.lead + INFO)
        self.resources = "Resources/" if self.deep else ""

    def found(self, name: str) -> str | None:
        """Return the path of a resource in the package, None where there is none."""
        return self.lead + self.resources + name if self.resources + name in self.files else None

    def catalog_names(self) -> tuple[str, ...]:
        """Return the names in the compiled catalog."""
        path = self.resources + CATALOG
        small = path in self.files and self.files.size(path) <= MOST_BYTES
        return catalog_names(self.files.read(path)) if small else ()

    def name(self) -> str | None:
        """Return what the app is called, in the language it was made in."""
        return _text(self.info.get("CFBundleDisplayName")) or _text(self.info.get("CFBundleName"))

    def names(self) -> dict[str, tuple[str, str]]:
        """Return what the app is called in languages that say so, with the entries that do."""
        found: dict[str, tuple[str, str]] = {}
        for name in self.files.names():
            language, slash, last = name.removeprefix(self.resources).partition(".lproj/")
            if slash and last == "InfoPlist.strings" and "/" not in language:
                table = read_any_plist(self.files.read(name, _MOST_LIST), self.lead + name)
                _add_name(found, language, table, self.lead + name)
        tables = self.resources + "InfoPlist.loctable"
        if tables in self.files:
            every = read_any_plist(self.files.read(tables, _MOST_LIST), self.lead + tables)
            for language, table in every.items():
                if isinstance(table, Mapping):
                    _add_name(found, language, table, self.lead + tables)
        return found

    def signature(self) -> CodeSignature | None:
        """Return what the executable is signed with."""
        name = _text(self.info.get("CFBundleExecutable")) or ""
        path = f"MacOS/{name}" if self.deep else name
        if not name or path not in self.files:
            return None
        return read_code_signature(lambda at, count: self.files.window(path, at, count))

    def profile(self) -> Profile | None:
        """Return the provisioning profile that is embedded."""
        path = next((name for name in _PROFILES if name in self.files), None)
        return read_profile(self.files.read(path, _MOST_LIST), self.lead + path) if path else None

    def services(self) -> dict[str, str]:
        """Return what the service file says."""
        path = self.resources + SERVICE
        if path not in self.files:
            return {}
        table = read_any_plist(self.files.read(path, _MOST_LIST), self.lead + path)
        return {key: text for key, value in table.items() if (text := _text(value)) is not None}

    def icons(self) -> Iterator[Icon]:
        """Yield the pictures that the list names, in every scale and for every kind of device."""
        names: list[str] = []
        for key in ("CFBundleIcons", "CFBundleIcons~ipad"):
            table = self.info.get(key)
            primary = table.get("CFBundlePrimaryIcon") if isinstance(table, Mapping) else None
            names += _texts(primary.get("CFBundleIconFiles")) if isinstance(primary, Mapping) else []
        names += _texts(self.info.get("CFBundleIconFiles")) + _texts(self.info.get("CFBundleIconFile"))
        own = [name for name in self.files.names() if "/" not in name.removeprefix(self.resources)]
        for base in dict.fromkeys(names):
            stem = self.resources + base.removesuffix(".png")
            for name in own:
                if name == stem or (name.startswith(stem) and _VARIANT.fullmatch(name[len(stem) :])):
                    seen = measure(self.files.head(name, HEAD))
                    yield Icon("apple", None, self.lead + name, *(seen or (None, None, None)))


def _parts(files: Files, root: str) -> Iterator[Part]:
    for path in sorted(name for name in files.names() if name.startswith(root)):
        match = _PRODUCT.match(path[len(root) :])
        if match is None or (match[3].endswith(".appex") != (_EMBEDDED[match[2]] == "extension")):
            continue
        own = f"{root}{match[1]}{match[2]}/{match[3]}/"
        bundle = _Bundle(files, own)
        signature = bundle.signature()
        yield Part(
            kind=_EMBEDDED[match[2]],
            id=_text(bundle.info.get("CFBundleIdentifier")),
            name=bundle.name(),
            version=_text(bundle.info.get("CFBundleShortVersionString")),
            build=_text(bundle.info.get("CFBundleVersion")),
            path=own.rstrip("/"),
            min=_text(bundle.info.get("MinimumOSVersion")),
            entitlements=signature.entitlements if signature is not None else {},
            profile=bundle.profile(),
        )


def _signed(signature: CodeSignature | None) -> tuple[Signed, ...]:
    ders = signature.signers if signature is not None else ()
    if not ders:
        return ()
    from onomaxis.formats.keystore import Certificate

    return tuple(Signed(Certificate("", der, True), ("code",)) for der in dict.fromkeys(ders))


def _add_name(found: dict[str, tuple[str, str]], folder: str, table: Mapping[str, Any], entry: str) -> None:
    text = _text(table.get("CFBundleDisplayName")) or _text(table.get("CFBundleName"))
    language = _OLD_LANGUAGES.get(folder, folder).replace("_", "-")
    if text is not None and language not in ("Base", "LocProvenance"):
        found[language] = text, entry


def _host(domain: str) -> str:
    """Return the host of an associated domain: ``applinks:lend.example?mode=developer`` is one of its forms."""
    return domain.partition(":")[2].partition("?")[0]


def _schemes(table: Mapping[str, Any]) -> list[str]:
    return _texts(table.get("CFBundleURLSchemes"))


def _once(texts: Iterator[str]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(texts))


def _tables(value: Any) -> list[Mapping[str, Any]]:
    return [item for item in value if isinstance(item, Mapping)] if isinstance(value, list) else []


def _texts(value: Any) -> list[str]:
    """Return the texts of a list, or a text alone."""
    items = value if isinstance(value, list) else [value]
    return [item for item in items if isinstance(item, str)]


def _text(value: Any) -> str | None:
    """Return a value as text; None for what holds several."""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, int | float | str):
        return str(value)
    return None


def plain(value: Any) -> Any:
    """Return a property list's value as JSON has it: dates in ISO 8601, data in hexadecimal."""
    if isinstance(value, Mapping):
        return {str(key): plain(inner) for key, inner in value.items()}
    if isinstance(value, list):
        return [plain(inner) for inner in value]
    if isinstance(value, bytes):
        return value.hex()
    return value if isinstance(value, bool | int | float | str) else str(value)
