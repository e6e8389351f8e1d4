"""Kinds of projects: one module each knows where that kind keeps its identity. They read; they write nothing.

A kind is registered by a line in :data:`KINDS`.
"""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache
from importlib import import_module
from typing import TYPE_CHECKING, NamedTuple

from onomaxis.platforms import BUILD_SCRIPTS

if TYPE_CHECKING:
    from onomaxis.projects.kind import Kind
    from onomaxis.tree import Tree


class Listed(NamedTuple):
    """A kind before it is loaded: its name, its class, and the files without one of which no project is of it.

    A file is named whole, or by its ending with a star before it.
    """

    name: str
    home: str
    signs: tuple[str, ...]


_WEB = ("manifest.json", "manifest.webmanifest", "site.webmanifest", "app.webmanifest")
KINDS: tuple[Listed, ...] = (
    Listed("android", "android.kind:AndroidKind", BUILD_SCRIPTS),
    Listed("ios", "ios.kind:IosKind", ("project.pbxproj",)),
    Listed(
        "capacitor",
        "frameworks.capacitor:CapacitorKind",
        tuple(f"capacitor.config.{e}" for e in ("ts", "js", "json")),
    ),
    Listed("expo", "frameworks.expo:ExpoKind", ("package.json",)),
    Listed("react-native", "frameworks.react_native:ReactNativeKind", ("package.json",)),
    Listed("flutter", "frameworks.flutter:FlutterKind", ("pubspec.yaml",)),
    Listed("cordova", "frameworks.cordova:CordovaKind", ("config.xml",)),
    Listed(
        "nativescript",
        "frameworks.nativescript:NativeScriptKind",
        ("nativescript.config.ts", "nativescript.config.js", "package.json"),
    ),
    Listed("maui", "frameworks.maui:MauiKind", ("*.csproj",)),
    Listed("multiplatform", "frameworks.multiplatform:MultiplatformKind", ("project.pbxproj",)),
    Listed("unity", "frameworks.unity:UnityKind", ("ProjectSettings.asset",)),
    Listed("godot", "frameworks.godot:GodotKind", ("export_presets.cfg",)),
    Listed("tauri", "frameworks.tauri:TauriKind", ("tauri.conf.json",)),
    Listed("web", "frameworks.web:WebKind", _WEB),
)


def kinds_in(tree: Tree) -> Iterator[Kind]:
    """Yield the kinds that may be in a tree, in the order in which they are registered; no other is loaded."""
    for listed in KINDS:
        if any(_shows(tree, sign) for sign in listed.signs):
            yield kind_named(listed.name)


def is_sign(name: str) -> bool:
    """Tell whether a file is one that shows a project of some kind."""
    signs = (sign for listed in KINDS for sign in listed.signs)
    return any(name.endswith(sign[1:]) if sign.startswith("*") else name == sign for sign in signs)


def _shows(tree: Tree, sign: str) -> bool:
    return tree.ending(sign[1:]) if sign.startswith("*") else bool(tree.named(sign))


@cache
def kind_named(name: str) -> Kind:
    """Return the kind of a name."""
    home = next(listed.home for listed in KINDS if listed.name == name)
    module, _, made = home.partition(":")
    kind: Kind = getattr(import_module(f"{__name__}.{module}"), made)()
    return kind
