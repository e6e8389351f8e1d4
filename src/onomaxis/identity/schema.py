"""The identity file's schema as data: every table, every key, what it takes and what it means.

``onomaxis.toml`` is Onomaxis' own form. From this one table come the check of a file, the JSON Schema for editors
and the reference in docs/identity-file.md.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any, NamedTuple

from onomaxis import late
from onomaxis.platforms import PLATFORMS

NAME = "onomaxis.toml"
# What stands where a brand's text is still to be given: in its table, and where the project would say it.
OWED = "TO_BE_GIVEN"
LEDGER = "onomaxis.ledger.csv"
FORMAT = 1


class Key(NamedTuple):
    """One key: the kind of its value, what it means, and the words it is limited to.

    ``kind`` is ``text``, ``integer``, ``boolean``, ``scalar`` (any of the three), ``color``, ``table`` (``of`` names
    it), ``map`` (names to values of kind ``of``), ``list`` (items of kind ``of``); ``of`` may name a table.
    """

    kind: str
    says: str
    of: str = ""
    words: tuple[str, ...] = ()


# What the keys of a band across an icon begin with.
RIBBON = "ribbon"
# Where a band across an icon can lie.
RIBBON_CORNERS = ("bottom", "bottom-right", "bottom-left", "top", "top-right", "top-left")
# What a value can be checked as.
TYPES = ("text", "color", "url", "integer", "boolean", "dimension", "number", "file")

_IDENTITY = {
    "id": Key("text", "application ID and bundle identifier"),
    "id-suffix": Key("text", "what is appended to the ID of the table above, such as .alderbank"),
    "code-package": Key("text", "package of the Android code (default: stays as it is)"),
    "name": Key("text", "display name"),
    "names": Key("map", "display name by language (BCP 47)", "text"),
    "version": Key("text", "version"),
    "version-suffix": Key("text", "what is appended to the version of the table above"),
    "build": Key("scalar", "build number"),
    "icon": Key("table", "what the launcher icons are drawn from", "icon"),
    "ribbon": Key("word", "a word on a band across the icons, such as BETA; empty: drawn without one again"),
    "ribbon-color": Key("word", "colour of the band (default: #B3261E)"),
    "ribbon-ink": Key("word", "colour of its letters (default: #FFFFFF)"),
    "ribbon-corner": Key("word", "where the band lies (default: bottom)", words=RIBBON_CORNERS),
    "launch": Key("table", "what the launch screen shows", "launch"),
    "colors": Key("map", "colours by name: usable in templates, as values and as icon ground", "color"),
    "values": Key("map", "values by name; each is declared once below [values]", "scalar"),
    "services": Key("table", "what outside services know the app by", "services"),
    "listing": Key("map", "what a store shows, by language (BCP 47)", "listing"),
    "keystores": Key("map", "keystores by what they sign (debug, release, upload): templates name them", "keystore"),
}

TABLES: Mapping[str, Mapping[str, Key]] = {
    "": {
        "format": Key("integer", "version of this file's form: 1"),
        "app": Key("table", "what holds for every platform and flavor", "app"),
        "android": Key("table", "what differs on Android", "android"),
        "ios": Key("table", "what differs on iOS", "ios"),
        "flavors": Key("map", "one table per flavor, named as the build names it", "flavor"),
        "values": Key("map", "the places that a brand fills, by name", "value"),
        "include": Key("list", "files with brands of their own, [flavors.NAME] each: brands/*.toml", "text"),
        "brands": Key("text", "a table of brands (CSV): a column for each key, flavor first"),
        "allow": Key("list", "findings that are meant to be so", "allow"),
        "publish": Key("boolean", "check as for publication: a template's ID, name or icon is an error"),
    },
    "app": _IDENTITY,
    "android": {**_IDENTITY, "module": Key("text", "the module, where the build has several apps")},
    "ios": {**_IDENTITY, "target": Key("text", "the target, where the project has several apps")},
    "flavor": {
        **_IDENTITY,
        "dimension": Key("text", "what it varies, such as environment: where the builds do not tell it"),
        "android": Key("table", "what differs on Android", "platform"),
        "ios": Key("table", "what differs on iOS", "platform"),
    },
    "platform": _IDENTITY,
    "icon": {
        "art": Key("text", "SVG or PNG: the one picture all else is made from"),
        "foreground": Key("text", "Android's foreground layer"),
        "background": Key("text", "Android's background layer, or a colour"),
        "monochrome": Key("text", "Android's layer for themed home screens"),
        "legacy-art": Key("text", "art for launchers without adaptive icons"),
        "ios-art": Key("text", "art for Apple's slots"),
        "ios-dark": Key("text", "art for the dark appearance"),
        "ios-tinted": Key("text", "art for the tinted appearance"),
    },
    "launch": {
        "background": Key("color", "colour of the launch screen"),
        "logo": Key("text", "SVG or PNG drawn in the middle of the launch screen"),
        "text": Key("text", "the line of text on it, where the screen has one"),
    },
    "services": {
        "google-android": Key("text", "the google-services.json that belongs to this flavor"),
        "google-ios": Key("text", "the GoogleService-Info.plist that belongs to this flavor"),
        "hosts": Key("list", "hosts whose links open the app: deep links, associated domains", "text"),
        "fingerprints": Key("list", "SHA-256 fingerprints of the certificates that releases are signed with", "text"),
    },
    "listing": {
        "title": Key("text", "the app's name in the store (30 characters)"),
        "subtitle": Key("text", "the line below it on the App Store (30 characters)"),
        "short": Key("text", "the short description on Google Play (80 characters)"),
        "full": Key("text", "the description (4000 characters)"),
        "promotion": Key("text", "the App Store's promotional text (170 characters)"),
        "notes": Key("text", "what is new (500 characters on Google Play, 4000 on the App Store)"),
        "keywords": Key("text", "the App Store's keywords, with commas (100 characters)"),
        "store-icon": Key("text", "the icon's file: 512 x 512 for Google Play, 1024 x 1024 for the App Store"),
        "feature": Key("text", "the feature graphic's file for Google Play (1024 x 500)"),
        "screenshots": Key("list", "files of screenshots, in their order", "text"),
    },
    "keystore": {
        "file": Key("text", "the keystore, PKCS#12 or JKS"),
        "alias": Key("text", "the key's alias, where there are several"),
        "password-env": Key("text", "environment variable with its password (default: Android's for debug builds)"),
    },
    "value": {
        "type": Key("text", "what the value is checked as (default: text)", words=TYPES),
        "pattern": Key("text", "a regular expression that the whole value matches"),
        "value": Key("scalar", "the value where no other table gives one"),
        "template": Key(
            "text", "derived: {name} is another value, {fingerprint.release.sha1}, {key-hash.release} a key's"
        ),
        "files": Key("text", "many files of a brand at once: brands/{flavor}/drawable/*; places say their star too"),
        "places": Key("list", "where it stands", "place"),
        "secret": Key("boolean", "not shown in summaries and findings; a diff shows the file as it becomes"),
    },
    "place": {
        "resource": Key("text", "Android resource: string/x, color/x, dimen/x, bool/x, integer/x"),
        "meta-data": Key("text", "value of a manifest's meta-data of this name"),
        "placeholder": Key("text", "manifest placeholder"),
        "build-field": Key("text", "constant of the build script: buildConfigField of this name"),
        "property": Key("text", "key of a properties or .xcconfig file (default file: gradle.properties)"),
        "permission": Key("text", "Android permission, true where it is asked for: android.permission.CAMERA"),
        "level": Key("text", "platform level", words=("min-sdk", "target-sdk", "compile-sdk", "ios", "families")),
        "plist": Key("text", "key of the app's property list, with slashes below dictionaries: UIStatusBar/Style"),
        "entitlement": Key("text", "key of the app's entitlements, slashes below; items of arrays by number"),
        "setting": Key("text", "Xcode build setting, in the project or its configuration files"),
        "color-set": Key("text", "named colour of an asset catalog"),
        "url-scheme": Key("text", "URL scheme in the property list: the CFBundleURLName of its entry, or its number"),
        "string": Key("text", "text of the app's strings: TABLE/KEY, such as Localizable/greeting"),
        "label": Key("text", "user label or object ID of a storyboard's label"),
        "env": Key("text", "variable of an .env file"),
        "version-info": Key("text", "text of a Windows resource script's version block: CompanyName"),
        "constant": Key("text", "a constant's name, in its type where needed: Brand.server"),
        "pointer": Key("text", "JSON pointer into a JSON or YAML file: /server/url"),
        "attribute": Key("text", "attribute of an XML file's element: tag@attribute"),
        "file": Key("text", "the file; for assets the file itself; {flavor} stands for the flavor"),
        "platform": Key("text", "only this platform", words=PLATFORMS),
        "locale": Key("text", "language (BCP 47) of a resource, a string, or a property list's key"),
        "create": Key("boolean", "made where it is missing, in the file's own style"),
    },
    "allow": {
        "rule": Key("text", "code of the rule, such as NAME03"),
        "file": Key("text", "only findings in this file (default: any)"),
        "flavor": Key("text", "only findings about this flavor (default: any)"),
        "reason": Key("text", "why it is meant to be so"),
        "owner": Key("text", "who answers for it"),
        "until": Key("text", "the last day that it holds, such as 2026-12-31"),
    },
}
REQUIRED: Mapping[str, tuple[str, ...]] = {"": ("format",), "allow": ("rule", "reason"), "keystore": ("file",)}

# What says where a place is; ``file`` and ``platform`` only narrow it.
SELECTORS = tuple(key for key in TABLES["place"] if key not in ("file", "platform", "locale", "create"))

# Names of values: what a template can bear. A flavor is called as the build calls it.
WORD = late.compile(r"[A-Za-z][A-Za-z0-9_-]*\Z")
FLAVOR = late.compile(r"[^\W_](?:[^\\/:*?\"<>|\x00-\x1f\x7f]*[^\s.\\/:*?\"<>|\x00-\x1f\x7f])?\Z")
COLOR = late.compile(r"#(?:[0-9A-Fa-f]{3,4}|[0-9A-Fa-f]{6}|[0-9A-Fa-f]{8})\Z")


def nearest(word: str, known: Iterator[str] | tuple[str, ...] | list[str]) -> str:
    """Return the known word that *word* most likely means, or nothing."""
    import difflib

    found = difflib.get_close_matches(word, list(known), 1, 0.6)
    return found[0] if found else ""


def json_schema() -> dict[str, Any]:
    """Return the JSON Schema (draft 2020-12) of the identity file."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Onomaxis identity file",
        **_table_schema(""),
        "$defs": {name: _table_schema(name) for name in TABLES if name},
    }


def _table_schema(name: str) -> dict[str, Any]:
    schema: dict[str, Any] = {
        "type": "object",
        "additionalProperties": False,
        "properties": {key: {"description": item.says, **_kind_schema(item)} for key, item in TABLES[name].items()},
    }
    if name in REQUIRED:
        schema["required"] = list(REQUIRED[name])
    return schema


_PLAIN: Mapping[str, Mapping[str, Any]] = {
    "text": {"type": "string"},
    "word": {"type": "string"},
    "integer": {"type": "integer"},
    "boolean": {"type": "boolean"},
    "scalar": {"type": ["string", "integer", "number", "boolean"]},
    "color": {"type": "string", "pattern": "^#([0-9A-Fa-f]{3,4}|[0-9A-Fa-f]{6}|[0-9A-Fa-f]{8})$"},
}


def _kind_schema(key: Key) -> dict[str, Any]:
    if key.kind == "table":
        return {"$ref": f"#/$defs/{key.of}"}
    inner = dict(_PLAIN[key.of]) if key.of in _PLAIN else {"$ref": f"#/$defs/{key.of}"}
    if key.kind == "map":
        return {"type": "object", "additionalProperties": inner}
    if key.kind == "list":
        return {"type": "array", "items": inner}
    return {**_PLAIN[key.kind], **({"enum": list(key.words)} if key.words else {})}
