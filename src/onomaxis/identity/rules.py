"""The platforms' rules for identifiers, names and versions. Each check raises InputError and says what to do."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Callable
from typing import NamedTuple

from onomaxis import late
from onomaxis.errors import InputError
from onomaxis.identity.reserved import JAVA, KOTLIN

# developer.android.com, "Set the application ID": two segments or more, each begins with a letter, then
# letters, digits, underscores.
_ANDROID_SEGMENT = late.compile(r"[A-Za-z][A-Za-z0-9_]*\Z")
# Apple, "CFBundleIdentifier": letters, digits, hyphen, period.
_BUNDLE_ID = late.compile(r"[A-Za-z0-9-]+(?:\.[A-Za-z0-9-]+)*\Z")
# The maximum length of an application ID on the store and of a bundle ID (App Store Connect help).
_MAXIMUM_ID = {"Android": 255, "iOS": 155}
# developer.android.com, "Version your app": the greatest value the store allows.
_MAXIMUM_VERSION_CODE = 2_100_000_000
# App Store Connect help, "App information": the longest app name.
LONGEST_NAME = 30
_APPLE_VERSION = late.compile(r"[0-9]+(?:\.[0-9]+){0,2}\Z")
_REFERENCE = late.compile(r"\$[({]")


def android_id(value: str) -> str:
    """Check an Android application ID."""
    segments = value.split(".")
    if len(segments) < 2:
        raise InputError(f"“{value}” has one segment; an Android application ID has two or more, such as org.example")
    _segments(value, segments, "Android application ID")
    if len(value) > _MAXIMUM_ID["Android"]:
        raise InputError(f"the Android application ID is {len(value)} characters long; 255 is the most")
    return value


def code_package(value: str) -> str:
    """Check a code package: an application ID without a word that Java or Kotlin reserves."""
    segments = value.split(".")
    _segments(value, segments, "code package")
    for segment in segments:
        if segment in JAVA or segment in KOTLIN:
            language = "Java" if segment in JAVA else "Kotlin"
            raise InputError(
                f"“{value}” cannot be a code package: “{segment}” is a word of {language}",
                remedy="Give another package with --code-package, or leave the code where it is with --keep-code.",
            )
    return value


def _segments(value: str, segments: list[str], what: str) -> None:
    for segment in segments:
        if not _ANDROID_SEGMENT.match(segment):
            raise InputError(
                f"“{value}” is not a valid {what}: segment “{segment}” must begin with a letter and hold only "
                "letters a–z, digits and underscores",
                remedy="Give one ID per platform with --android-id and --ios-id." if "-" in segment else "",
            )


def bundle_id(value: str) -> str:
    """Check an iOS bundle identifier."""
    if not _BUNDLE_ID.match(value):
        raise InputError(
            f"“{value}” is not a bundle identifier: letters a–z, digits and hyphens, with single periods between",
            remedy="Give one ID per platform with --android-id and --ios-id." if "_" in value else "",
        )
    if len(value) > _MAXIMUM_ID["iOS"]:
        raise InputError(f"the bundle identifier is {len(value)} characters long; 155 is the most")
    return value


def both_ids(value: str, android: bool, ios: bool) -> None:
    """Check an ID given for all platforms that the project has."""
    for wanted, check, name in ((android, android_id, "Android"), (ios, bundle_id, "iOS")):
        if wanted:
            try:
                check(value)
            except InputError as error:
                advice = (
                    "Give one ID per platform with --android-id and --ios-id." if android and ios else error.remedy
                )
                raise InputError(f"{error.message} (on {name})", remedy=advice) from None


def display_name(value: str, ios: bool = False) -> str:
    """Check a display name: not blank, no control characters, whole characters.

    On iOS a property list's ``$(`` names a build setting, and nothing escapes it (Apple, "Build settings").
    """
    if ios and _REFERENCE.search(value):
        raise InputError(
            f"“{value}” cannot be a display name on iOS: Xcode would put a build setting in place of “$(” or “${{”"
        )
    if not value.strip():
        raise InputError("the display name is empty")
    for char in value:
        if unicodedata.category(char) in ("Cc", "Cs"):
            raise InputError(f"the display name holds a control character (U+{ord(char):04X})")
    return value


def project_name(text: str) -> None:
    """Raise InputError unless *text* can be a technical name (docs.gradle.org, "Naming recommendations")."""
    bad = next((char for char in text if char in '/\\:<>"?*|' or not char.isprintable()), "")
    if bad or text.startswith(".") or text.endswith(".") or not text.strip():
        said = f"“{bad}” may not stand in it" if bad else "it may not be blank, nor begin or end with a dot"
        raise InputError(f"“{text}” cannot be a technical name: {said}")


def team(value: str) -> str:
    """Check a signing team's ID (Apple, "Locate your Team ID": ten letters and digits)."""
    if not re.fullmatch(r"[A-Z0-9]{10}", value):
        raise InputError(f"“{value}” is not a team ID: ten capital letters and digits, such as A1B2C3D4E5")
    return value


def version_name(value: str, ios: bool) -> str:
    """Check a version name; on iOS it is one to three integers (Apple, CFBundleShortVersionString)."""
    if not value.strip() or any(unicodedata.category(char).startswith("C") for char in value):
        raise InputError("the version is empty or holds a control character")
    if ios and not _APPLE_VERSION.match(value):
        raise InputError(
            f"“{value}” is not a version for iOS: one to three integers with periods between, such as 2.4.0",
            remedy="Android alone takes any text: run the command on the Android project's folder.",
        )
    return value


class Form(NamedTuple):
    """What versions a tool takes: what tells one, in words, and who says so."""

    tells: Callable[[str], bool]
    words: str
    source: str


_SEMVER = late.compile(r"(?:0|[1-9]\d*)\.(?:0|[1-9]\d*)\.(?:0|[1-9]\d*)(?:[-+][0-9A-Za-z.+-]+)?", re.ASCII)
_NUMBERS = late.compile(r"\d+(?:\.\d+)*", re.ASCII)
_TO_THREE = late.compile(r"\d+(?:\.\d+){1,2}", re.ASCII)


def _semantic(text: str) -> bool:
    return _SEMVER.fullmatch(text) is not None


def _numbers(text: str) -> bool:
    return _NUMBERS.fullmatch(text) is not None


def _to_three(text: str) -> bool:
    return _TO_THREE.fullmatch(text) is not None


# Files whose tools take versions of one form alone, by name or ending; of three numbers with what semver lets follow.
VERSION_FORMS = {
    "pubspec.yaml": Form(_semantic, "three numbers", "dart.dev, The pubspec file"),
    "package.json": Form(_semantic, "three numbers", "docs.npmjs.com, package.json"),
    "Cargo.toml": Form(_semantic, "three numbers", "doc.rust-lang.org, The manifest format"),
    "tauri.conf.json": Form(_semantic, "three numbers", "semver.org, which the framework's schema asks for"),
    "project.godot": Form(_numbers, "numbers with periods between", "Godot, EditorExportPreset::get_version"),
    ".csproj": Form(_to_three, "two or three numbers", "learn.microsoft.com, .NET MAUI single project"),
}


def version_in(file: str, value: str) -> str:
    """Check a version by what the tools that read *file* take. Raises InputError."""
    name = file.rpartition("/")[2]
    form = VERSION_FORMS.get(name) or VERSION_FORMS.get(f".{name.rpartition('.')[2]}")
    if form is not None and not form.tells(value):
        raise InputError(
            f"“{value}” is not a version for {name}: its tools take {form.words}, such as 2.4.0",
            file=file,
            remedy=f"Give it so; nothing was changed. Source: {form.source}.",
        )
    return value


def build_number(value: str, android: bool, ios: bool) -> str:
    """Check a build number: a positive integer on Android, one to three integers on iOS."""
    if android and not (value.isascii() and value.isdecimal() and 0 < int(value) <= _MAXIMUM_VERSION_CODE):
        raise InputError(f"“{value}” is not a version code for Android: an integer from 1 to 2100000000")
    if ios and not _APPLE_VERSION.match(value):
        raise InputError(f"“{value}” is not a build number for iOS: one to three integers with periods between")
    return value


def locale(value: str) -> str:
    """Check a language tag (BCP 47: language, script, region)."""
    if not re.fullmatch(r"[A-Za-z]{2,3}(?:-[A-Za-z]{4})?(?:-(?:[A-Za-z]{2}|\d{3}))?", value):
        raise InputError(f"“{value}” is not a language tag such as de, pt-BR or zh-Hans")
    return value
