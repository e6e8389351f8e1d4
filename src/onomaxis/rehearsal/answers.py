"""What a store answers: reasons for refusing, each with its document, as data."""

from __future__ import annotations

from typing import NamedTuple

PLAY, APPSTORE = "play", "appstore"
STORES = (PLAY, APPSTORE)
STORE_NAMES = {PLAY: "Google Play", APPSTORE: "the App Store"}
# The store that takes a platform's packages.
STORE_OF = {"android": PLAY, "ios": APPSTORE, "macos": APPSTORE}

# The document behind each reason, by store where the two differ.
SOURCES = {
    "build-used": ("Android Developers, Version your app", "Apple, CFBundleVersion"),
    "build-lower": ("Android Developers, Version your app", "Apple, CFBundleVersion"),
    "certificate-differs": ("Android Developers, Sign your app", ""),
    "team-differs": ("", "App Store Connect Help, App transfer overview"),
    "certificate-debug": ("Android Developers, Sign your app", "Apple, Distribution signing certificates"),
    "debuggable": ("Android Developers, <application> debuggable", "Apple, TN2250: get-task-allow"),
    "extension-id": ("", "Apple, App Extension Programming Guide: CFBundleIdentifier"),
    "extension-version": ("", "Apple, App Extension Programming Guide: CFBundleVersion"),
    "icon-alpha": ("", "Apple, Human Interface Guidelines: App icons"),
    "icon-missing": ("Android Developers, <application> icon", "Apple, App icon sizes"),
    "name-length": (
        "Google Play Console Help, Store listing: app name",
        "App Store Connect Help, App information: Name",
    ),
    "usage-description": ("", "Apple, Requesting access to protected resources"),
    "size": ("Google Play Console Help, Size limits", "App Store Connect Help, Maximum build file sizes"),
    "train-closed": ("", "App Store Connect Help, CFBundleShortVersionString of a closed version"),
    "flavor-differs": ("docs/rehearsal.md, Flavors", "docs/rehearsal.md, Flavors"),
    "form": ("Android Developers, About app bundles", "App Store Connect Help, Upload builds"),
    "level": ("Google Play, Target API level requirements", "Apple Developer, Upcoming requirements"),
}


class Reason(NamedTuple):
    """Why a store refuses a package: code, words, document, the entry of the package that it is about."""

    code: str
    message: str
    source: str
    entry: str


class Answer(NamedTuple):
    """What a store answers to one package; ``notes`` are what it says and takes all the same.

    ``unread`` where the package could not be read at all.
    """

    package: str
    store: str
    id: str | None
    flavor: str | None
    version: str | None
    build: str | None
    reasons: tuple[Reason, ...]
    notes: tuple[str, ...] = ()
    unread: bool = False

    @property
    def accepted(self) -> bool:
        """True when the store takes the package."""
        return not self.reasons


def reason(store: str, code: str, message: str, entry: str, source: str = "") -> Reason:
    """Return a reason with its document."""
    return Reason(code, message, source or SOURCES[code][store == APPSTORE], entry)
