"""Build settings that hold a technical name, and the ones whose value must not change with it.

Source of the keys: Apple, "Build settings reference".
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import NamedTuple

from onomaxis import late
from onomaxis.formats.openstep import Array, Dict, Text
from onomaxis.projects.ios.project_file import XcodeProject
from onomaxis.projects.ios.technical.names import Names
from onomaxis.projects.ios.text_folders import SETTING as TEXTS_SETTING
from onomaxis.projects.services import SERVICE_SETTING

# A setting's name without its conditions.
_KEY = late.compile(r"[A-Za-z_]\w*")
# Settings that name one file of a target: it moves with its target's name in it.
FILE_SETTINGS = ("INFOPLIST_FILE", "CODE_SIGN_ENTITLEMENTS", "SWIFT_OBJC_BRIDGING_HEADER", "GCC_PREFIX_HEADER")
_PATHS = frozenset(
    {
        *FILE_SETTINGS,
        SERVICE_SETTING,
        "DEVELOPMENT_ASSET_PATHS",
        "HEADER_SEARCH_PATHS",
        "USER_HEADER_SEARCH_PATHS",
        "FRAMEWORK_SEARCH_PATHS",
        "LIBRARY_SEARCH_PATHS",
        "SWIFT_INCLUDE_PATHS",
        "MODULEMAP_FILE",
        "MODULEMAP_PRIVATE_FILE",
        "EXPORTED_SYMBOLS_FILE",
        "ORDER_FILE",
        "INFOPLIST_OTHER_PREPROCESSOR_FLAGS",
        "OTHER_LDFLAGS",
        "OTHER_CFLAGS",
        "OTHER_SWIFT_FLAGS",
    }
)
_PRODUCT_PATHS = frozenset({"TEST_HOST", "BUNDLE_LOADER"})
_CLASSES = frozenset({"INFOPLIST_KEY_NSPrincipalClass", "INFOPLIST_KEY_NSExtensionPrincipalClass"})


class Spot(NamedTuple):
    """One setting: its key, its literal, and the owner's identifier in the project file."""

    key: str
    node: Text
    owner: str


def spots(project: XcodeProject) -> Iterator[Spot]:
    """Yield every literal of every build setting of a project file."""
    for owner, node in project.objects.items():
        if node.text("isa") == "XCBuildConfiguration":
            yield from _spots(owner, node.dict("buildSettings"))


def _spots(owner: str, settings: Dict) -> Iterator[Spot]:
    for entry in settings.entries:
        key = _KEY.match(entry.key.value)
        items = entry.value.items if isinstance(entry.value, Array) else [entry.value]
        for item in items:
            if key and isinstance(item, Text):
                yield Spot(key[0], item, owner)


def renamed(names: Names, key: str, text: str) -> str:
    """Return what the value *text* of the setting *key* turns into; the same where it holds no technical name."""
    rule = _rule(names, key)
    return rule(text) if rule else text


def _rule(names: Names, key: str) -> Callable[[str], str] | None:
    if key == "PRODUCT_NAME":
        return lambda text: names.products.get(text, text)
    if key in ("PRODUCT_MODULE_NAME", "IBSC_MODULE"):
        return lambda text: names.modules.get(text, text)
    if key in ("TEST_TARGET_NAME", "EXECUTABLE_NAME"):
        return lambda text: names.targets.get(text, text)
    if key == "SWIFT_OBJC_INTERFACE_HEADER_NAME":
        return lambda text: interface_header(names, text)
    if key in _CLASSES:
        return names.qualified
    if key in _PRODUCT_PATHS:
        return names.products_in
    if key == TEXTS_SETTING:  # a folder
        return lambda text: names.paths_in(f"{text}/").removesuffix("/")
    if key in _PATHS:
        return lambda text: names.pods(names.paths_in(text))
    return None


def interface_header(names: Names, text: str) -> str:
    """Return the new name of the header that a module's Swift code is seen through (``Old-Swift.h``)."""
    module = text.removesuffix("-Swift.h")
    return f"{names.modules[module]}-Swift.h" if module != text and module in names.modules else text
