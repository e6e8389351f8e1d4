"""Kinds of projects: one module each knows where that kind keeps its identity. They read; they write nothing.

A kind registers itself by standing in :data:`KINDS`.
"""

from onomaxis.projects.android.kind import AndroidKind
from onomaxis.projects.base import Kind
from onomaxis.projects.capacitor import CapacitorKind
from onomaxis.projects.cordova import CordovaKind
from onomaxis.projects.expo import ExpoKind
from onomaxis.projects.flutter import FlutterKind
from onomaxis.projects.godot import GodotKind
from onomaxis.projects.ios.kind import IosKind
from onomaxis.projects.maui import MauiKind
from onomaxis.projects.multiplatform import MultiplatformKind
from onomaxis.projects.nativescript import NativeScriptKind
from onomaxis.projects.react_native import ReactNativeKind
from onomaxis.projects.tauri import TauriKind
from onomaxis.projects.unity import UnityKind
from onomaxis.projects.web import WebKind

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
