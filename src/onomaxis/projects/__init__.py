"""Kinds of projects: one module each knows where that kind keeps its identity. They read; they write nothing.

A kind registers itself by standing in :data:`KINDS`.
"""

from onomaxis.projects.android.kind import AndroidKind
from onomaxis.projects.frameworks.capacitor import CapacitorKind
from onomaxis.projects.frameworks.cordova import CordovaKind
from onomaxis.projects.frameworks.expo import ExpoKind
from onomaxis.projects.frameworks.flutter import FlutterKind
from onomaxis.projects.frameworks.godot import GodotKind
from onomaxis.projects.frameworks.maui import MauiKind
from onomaxis.projects.frameworks.multiplatform import MultiplatformKind
from onomaxis.projects.frameworks.nativescript import NativeScriptKind
from onomaxis.projects.frameworks.react_native import ReactNativeKind
from onomaxis.projects.frameworks.tauri import TauriKind
from onomaxis.projects.frameworks.unity import UnityKind
from onomaxis.projects.frameworks.web import WebKind
from onomaxis.projects.ios.kind import IosKind
from onomaxis.projects.kind import Kind

KINDS: tuple[Kind, ...] = (
    AndroidKind(),
    IosKind(),
    CapacitorKind(),
    ExpoKind(),
    ReactNativeKind(),
    FlutterKind(),
    CordovaKind(),
    NativeScriptKind(),
    MauiKind(),
    MultiplatformKind(),
    UnityKind(),
    GodotKind(),
    TauriKind(),
    WebKind(),
)
