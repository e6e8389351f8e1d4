"""Every command with its options: a row each, in the order in which the help lists them.

A new command is a row here and a module of its name in ``cli/`` with ``execute``.
"""

from __future__ import annotations

import argparse
from collections.abc import Mapping

from onomaxis.checks.families import FAMILIES
from onomaxis.cli.options.shared import (
    BARE,
    COMMON,
    PUBLISHED,
    WRITING,
    Command,
    argument,
    flag,
    flavors,
    several,
    text,
)
from onomaxis.identity.schema import RIBBON_CORNERS
from onomaxis.platforms import PLATFORMS

_FAMILIES = tuple(dict.fromkeys(name for name in FAMILIES.values() if name != "packages"))
_PAST = "changes since a revision, and their history"
# Forms of a report.
FORMS = ("text", "json", "sarif", "markdown")


def _locale_name(text: str) -> tuple[str, str]:
    locale, mark, name = text.partition("=")
    if not mark:
        raise argparse.ArgumentTypeError(f"“{text}” is not LOCALE=TEXT")
    return locale, name


def _inset(text: str) -> float | str:
    try:
        return text if text == "auto" else float(text)
    except ValueError:
        raise argparse.ArgumentTypeError(f"“{text}” is neither auto nor a share such as 0.2") from None


def _day(text: str) -> str:
    """Check a day such as 2026-12-31."""
    import datetime

    try:
        return datetime.date.fromisoformat(text).isoformat()
    except ValueError:
        raise argparse.ArgumentTypeError(f"“{text}” is not a day such as 2026-12-31") from None


def _size(text: str) -> tuple[int, int]:
    width, mark, height = text.partition("x")
    if not mark or not width.isdecimal() or not height.isdecimal():
        raise argparse.ArgumentTypeError(f"“{text}” is not WxH, such as 1280x800")
    if not (320 <= int(width) <= 8000 and 200 <= int(height) <= 8000):
        raise argparse.ArgumentTypeError("a size from 320x200 to 8000x8000 can be drawn")
    return int(width), int(height)


_LEDGERS = "also read the ledger at this revision, such as origin/main (repeatable; all: every remote branch)"

# fmt: off
COMMANDS: Mapping[str, Command] = {
    "survey": Command("show what the app is called, where that is written, what disagrees", "", (
        *COMMON,
        flag("--all", "list every mention"),
        flag("--origins", "of many apps too: every value with its place"),
        text("--app", "NAME", "only this app: a module, target, folder, ID or name"),
        flavors("only this flavor, with all its combinations"),
        text("--platform", None, "only this platform", choices=PLATFORMS),
        flag("--history", "when what apps are called changed, by commit", section=_PAST),
        text("--facet", "WHAT", "with --history: only this facet, such as version", section=_PAST),
        text("--since", "REV", "what differs from that revision; REV... where the branch began", section="what "
            "changed since a revision, and when"),
        text("--as", None, "how to tell it", choices=("text", "json", "markdown"), default="text", section="what "
            "changed since a revision, and when", dest="form"),
        flag("--exit-code", "exit code 1 when anything differs", section=_PAST),
        text("--guard", "WHAT", "exit code 1 when one of these differs, 3 when it is unknown: id, name, version, "
            "build, icon, values, services, permissions (with commas)", section=_PAST),
    )),
    "rename": Command("change identifiers, names and versions in one step",
        "Everything is computed and read again before the first byte is written; onomaxis undo takes it back.", (
        *COMMON,
        text("--id", "ID", "the new ID on all platforms", default=None),
        text("--android-id", "ID", "the new Android application ID", default=None),
        text("--ios-id", "ID", "the new iOS bundle identifier", default=None),
        several("--id-from", "FILE", "the new ID is the one that this service file knows; it is put in its place too "
            "(repeatable)"),
        text("--code-package", "PKG", "the new code package (default: the new Android ID, when the code package was "
            "the old one)", default=None, one_of=1),
        flag("--keep-code", "identifiers only: namespace, packages and folders stay", one_of=1),
        text("--name", "TEXT", "the new display name", default=None),
        several("--locale-name", "LOCALE=TEXT", "the display name in one language (repeatable)", type=_locale_name),
        text("--version", "VERSION", "the new version", default=None),
        text("--build", "NUMBER", "the new build number", default=None),
        flavors("change only this flavor"),
        text("--app", "NAME", "the app to change, where there are several"),
        several("--platform", None, "change only this one (repeatable)", choices=PLATFORMS),
        text("--services", None, "service files: report, or edit", choices=("keep", "rewrite"), default="keep"),
        text("--project-name", "NAME", "the new technical name: Gradle build; Xcode project, targets, "
            "folders", default=None),
        text("--team", "ID", "the signing team of the Xcode project (ten letters and digits)", default=None),
        flag("--unify", "property lists refer to the version settings that they override"),
        flag("--shared", "write a version that libraries take theirs from, too"),
        text("--groups", None, "app groups and containers named after the ID: report (stored data stays reachable), "
            "or change", choices=("keep", "rewrite"), default="keep"),
        flag("--prose", "comments and documents too"),
        *PUBLISHED,
    )),
    "renumber": Command("change version and build number, also relative to today's",
        "Every platform of the app gets the same numbers; onomaxis undo takes it back.", (
        *COMMON,
        text("--version", "VERSION", "a version, or which part of today's version grows: major, minor or "
            "patch", default=None),
        text("--build", "NUMBER", "a build number; +N: N more than today's highest; next: the next that nobody "
            "has used; with --flavor both count from the flavor's own", default=None),
        flavors("change only this flavor"),
        text("--app", "NAME", "the app to change, where there are several"),
        several("--platform", None, "change only this one (repeatable)", choices=PLATFORMS),
        flag("--every-flavor", "each flavor from its own numbers"),
        text("--plan", "FILE", "a table (CSV): flavor, platform, version, build"),
        text("--min-sdk", "LEVEL", "the lowest Android level that the app runs on"),
        text("--target-sdk", "LEVEL", "the Android level that it targets"),
        text("--deployment-target", "VERSION", "the lowest iOS version, such as 16.4"),
        several("--ledger-ref", "REV", _LEDGERS),
        flag("--shared", "write a version that libraries take theirs from, too"),
        *PUBLISHED,
    )),
    "icons": Command("draw the icon sets into the project",
        "Draws every slot that the project has, from one piece of art or from layers; onomaxis undo takes it back.", (
        *COMMON,
        text("--art", "FILE", "SVG or PNG: the one picture all else is made from"),
        text("--foreground", "FILE", "Android's foreground layer"),
        text("--monochrome", "FILE", "Android's layer for themed home screens"),
        text("--legacy-art", "FILE", "art for launchers without adaptive icons"),
        text("--ios-art", "FILE", "art for Apple's slots"),
        text("--ios-dark", "FILE", "art for the dark appearance"),
        text("--ios-tinted", "FILE", "art for the tinted appearance"),
        text("--background", "FILE|COLOR", "Android's background layer, or a colour"),
        text("--inset", "auto|FRACTION", "share of the layer's edge left free on each side, or auto: the drawing in "
            "the safe zone (default: auto, but art that fills its edges is shown from edge to "
            "edge)", default=None, type=_inset),
        text("--legacy-shape", None, "shape of old "
            "icons", choices=("square", "rounded", "circle", "art"), default="rounded"),
        text("--slots", None, "iOS: one 1024 image, every slot, or the slots that the set has today "
            "(default)", choices=("single", "full", "keep"), default="keep"),
        text("--icon-name", "NAME", "a new name for the icon and its references"),
        flag("--strict", "refuse art that is not square instead of padding it"),
        several("--platform", None, "only this platform (repeatable; default: those the project "
            "has)", choices=("android", "ios", "macos", "web", "windows")),
        several("--flavor", "F", "icons of its own for this flavor (repeatable; {flavor} in the name of a file "
            "stands for it)"),
        several("--app", "NAME", "which app, where there are several: a module, target or folder (repeatable)"),
        flag("--every-flavor", "icons of its own for every flavor there is"),
        text("--ribbon", "WORD", "a band across the icons that says this, such as BETA"),
        text("--ribbon-color", "COLOR", "the band's colour (default: #B3261E)"),
        text("--ribbon-ink", "COLOR", "the colour of its letters (default: #FFFFFF)"),
        text("--ribbon-corner", None, "where it lies (default: bottom)", choices=RIBBON_CORNERS, default=""),
        text("--store-art", "FOLDER", "also draw the store listing's pictures here"),
        text("--notification", "NAME", "also draw a notification icon of this name"),
        *WRITING,
    )),
    "proof": Command("draw the icons as home screens, settings and stores show them", "", (
        *COMMON,
        several("--sheet", None, "only this sheet (repeatable; default: "
            "all)", choices=("home", "switcher", "settings", "store", "masks")),
        text("--out", "FILE.png", "where (default: icon-proof.png); several sheets or pages get their names after "
            "it", default="icon-proof.png"),
        flavors("only this flavor, with all its combinations"),
        several("--platform", None, "only there (repeatable)", choices=PLATFORMS),
        text("--size", "WxH", "default: 1280x800", default=(1280, 800), type=_size),
        text("--appearance", None, "of the pages", choices=("light", "dark"), default="light"),
    )),
    "adopt": Command("write an identity file from what the project is called today",
        "Writes onomaxis.toml; stamping it unchanged changes nothing.", (
        *COMMON,
        text("--app", "NAME", "the app to describe, where there are several"),
        flag("--again", "bring a file that is there up to today; comments, values and all else in it stay"),
        flag("--schema", "print the file's JSON Schema for editors, and no more"),
        flag("--values", "also find the values that differ between brands, with their places"),
        flag("--split", "write each brand into a file of its own: brands/NAME.toml", one_of=1),
        flag("--table", "write the brands into a table: brands.csv", one_of=1),
        several("--strike", "NAME", "leave this value out (repeatable)"),
        *WRITING,
    )),
    "stamp": Command("apply the identity file to the project",
        "Only what differs is written; a second run changes nothing; onomaxis undo takes it back.", (
        *COMMON,
        several("--flavor", "F", "become this flavor (a project whose build has no flavors), or bring only this one "
            "in step"),
        flag("--missing", "also add the flavors that the file has and a build lacks (after a merge)"),
        text("--into", "FOLDER", "leave the project as it is and make a branded copy of it in FOLDER/F (--flavor is "
            "repeatable then)"),
        flag("--every-flavor", "with --into: a copy for each flavor of the file"),
        flag("--only-brand", "with --into: leave nothing of other brands; exit code 1 if anything is left"),
        flag("--with-identity", "with --into: the identity file, its brands and the ledger too"),
        several("--service", "FILE", "a newly downloaded service file: put in its place if it knows the app, also "
            "without an identity file (repeatable)"),
        *PUBLISHED,
    )),
    "flavor": Command("list the flavors of all platforms, show one, add one, retire one", "", (), {
        "list": Command("show what each flavor is called on each platform, with holes and clashes", "", (
            *COMMON,
            text("--as", None, "matrix: JSON for a CI system's "
                "jobs", choices=("table", "matrix"), default="table", dest="form"),
            text("--changed-since", "REV", "matrix: only what changed since then"),
            flag("--only-problems", "only holes, clashes and what is not listed"),
            text("--app", "NAME", "the app, where there are several"),
        )),
        "add": Command("add a flavor to the build of every platform",
            "Existing flavors stay; the new one's ID and name come from the options or the identity file.", (
            argument("name", "NAME", "the name of the flavor in the builds"),
            *COMMON,
            text("--id", "ID", "its ID on all platforms"),
            text("--id-suffix", ".TEXT", "what its ID appends to the app's"),
            text("--name", "TEXT", "its display name", also="--shown", dest="shown"),
            several("--platform", None, "only there (repeatable)", choices=PLATFORMS),
            text("--like", "FLAVOR", "made after this one (default: the one most like the others)"),
            several("--value", "KEY=TEXT", "a value that each flavor has for itself (repeatable)"),
            text("--from", "FILE", "all its keys, as a flavor's table: TOML, JSON, or a row of a CSV table",
                dest="briefing"),
            text("--base", "NAME", "for the first flavor of a build: keep the app as this flavor"),
            text("--dimension", "NAME", "what it varies, where an Android build has several"),
            flag("--only-flavors", "for the first flavor of a build: give up the app without a flavor"),
            text("--art", "FILE", "SVG or PNG that its icons are drawn from"),
            text("--background", "FILE|COLOR", "ground of its icons"),
            several("--service", "FILE", "its service file (repeatable)"),
            *WRITING,
            text("--app", "NAME", "the app, where there are several"),
        )),
        "show": Command("show every value of a flavor, and the line that sets it", "", (
            argument("name", "NAME", "the flavor"),
            *COMMON,
            flag("--reveal", "show values that are secret"),
            text("--app", "NAME", "the app, where there are several"),
        )),
        "retire": Command("remove what belongs to a flavor alone", "", (
            argument("name", "NAME", "the flavor"),
            *COMMON,
            *PUBLISHED,
            text("--app", "NAME", "the app, where there are several"),
        )),
    }),
    "check": Command("is it consistent, is it ready for the stores", "Exit code 1 when errors are found.", (
        *COMMON,
        several("--only", None, "only this family of rules (repeatable)", choices=_FAMILIES),
        flavors("only what is about this flavor, or about all"),
        text("--since", "REV", "only what was not found at this revision of git"),
        several("--ledger-ref", "REV", _LEDGERS),
        text("--on", "DATE", "the day that allowances are judged by (default: today)", default=None, type=_day),
        text("--profiles", "FOLDER", "a folder of provisioning profiles and certificates beside the project"),
        text("--explain", "CODE", "explain a rule, with an example, and check nothing"),
        flag("--each", "every finding by itself, not grouped by what to do"),
        flag("--fix", "correct what differs from the identity file, as stamp does; then check again"),
        flag("--publish", "as for publication: a template's ID, name or icon is an error"),
        text("--as", None, "form of the report", choices=FORMS, default="text", dest="form"),
        *WRITING,
    )),
    "inspect": Command("read built packages, and compare them with their project",
        "Nothing is unpacked, written or run. Exit code 1 when errors are found.", (
        argument("packages", "PACKAGE", "an .apk, .apks, .aab, .ipa, .app, .xcarchive, or a folder of split APKs: "
            "recognised by its contents", nargs="+"),
        text("--against", "PROJECT", "compare with this project"),
        flavors("the flavor that it must be (default: told by its ID)"),
        flag("--all", "whole lists"),
        flag("--each", "every finding by itself, not grouped by what to do"),
        text("--as", None, "form of the report", choices=FORMS, default="text", dest="form"),
        *BARE,
    )),
    "rehearse": Command("try built packages on a simulated store, which answers as a store would",
        "It is a simulation that ships with the tool: nothing is uploaded. Exit code 1 when a package is refused, 2 "
            "when one cannot be read.", (
        argument("packages", "PACKAGE", "what the build made, as inspect takes it", nargs="*"),
        text("--store", None, "the store (default: the one of the platform)", choices=("play", "appstore")),
        text("--against", "PROJECT", "the packages' project (default: this folder)"),
        flavors("the flavor that each must be (default: told by its ID)"),
        text("--state", "FOLDER", "where the stand-in keeps what it holds (default: a user's own)"),
        flag("--ledger", "write what was accepted into the project's ledger"),
        text("--on", "DATE", "as on this day (default: today)", default=None, dest="day", type=_day),
        flag("--show", "what the stand-in holds"),
        text("--close", "VERSION", "close a version's train on the App Store"),
        *BARE,
        *WRITING,
    )),
    "standins": Command("serve a stand-in console of services and developer portal on this machine",
        "Simulations that take JSON over HTTP on the loopback address: docs/rehearsal.md.", (
        text("--port", "N", "the port (default: a free one, printed)", default=0, type=int),
        text("--state", "FOLDER", "where they keep what they hold"),
        *BARE,
    )),
    "fingerprint": Command("show a keystore's certificates, and which of the project's files name them",
        "PKCS#12 and Java keystores. The password is asked for, or comes from the environment or a file.", (
        argument("keystore", "KEYSTORE", "the keystore's file"),
        *COMMON,
        text("--alias", "NAME", "only this alias"),
        text("--password-env", "NAME", "the environment variable that holds it", one_of=1),
        text("--password-file", "FILE", "the file whose first line it is", one_of=1),
    )),
    "ledger": Command("record what was published: build numbers, IDs, fingerprints", "", (), {
        "list": Command("show what was published", "", (
            *COMMON,
            flavors("only this flavor, with all its combinations"),
        )),
        "add": Command("add a row for each app as it is built now", "Write it after publishing.", (
            *COMMON,
            text("--date", "DATE", "the day, such as 2026-05-31 (default: today)"),
            several("--platform", None, "only this one (repeatable)", choices=PLATFORMS),
            several("--from", "PACKAGE", "what was published, as the built package says it "
                "(repeatable)", dest="packages"),
            text("--fingerprint", "SHA256", "of the certificate it was signed with"),
            flag("--reserve", "reserve the build numbers for future builds, so that no other branch takes them"),
            text("--app", "NAME", "the app, where there are several"),
            *WRITING,
            flavors("only this flavor, with all its combinations"),
        )),
    }),
    "undo": Command("take the last change back, or a named one", "", (
        *COMMON,
        text("--change", "ID", "the change to take back (default: the last one)"),
        flag("--despite-changes", "also put back files that were changed since (loses that)"),
        flag("--foreign-entry", "also take back a change that is not known to be this user's"),
        *WRITING,
    )),
    "history": Command("list the changes that can be taken back", "", (
        *COMMON,
    )),
    "report": Command("write one page that shows what every flavor is called",
        "The page is one file: it needs no network and no script.", (
        *COMMON,
        text("--out", "FILE", "the page (default: report.html)"),
        text("--title", "TEXT", "its title (default: the app's name)"),
        text("--since", "REV", "also show what changed since this revision of git"),
        text("--release", "FROM..TO", "the sheet of a release: each app at both revisions (a FILE.md is Markdown)"),
        flag("--history", "with versions and builds over time"),
        flag("--publish", "findings as for publication"),
    )),
    "demo": Command("copy the demo project to a folder and walk through the main job", "", (
        argument("folder", "FOLDER", "a new folder (default: one for temporary files)", nargs="?"),
        flag("--all", "whole outputs, not the lines that matter"),
        *BARE,
    )),
    "completion": Command("print what makes a shell complete commands, options and values",
        "Such as: onomaxis completion bash >> ~/.bashrc", (
        argument("shell", None, "the shell", choices=("bash", "zsh", "fish", "powershell")),
    )),
}
# fmt: on
