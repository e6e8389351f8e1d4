"""The options of commands that change a project, and of the picture that shows its icons."""

from __future__ import annotations

import argparse

from onomaxis.cli.options.shared import Commands, command, common, flavors, writing
from onomaxis.platforms import PLATFORMS


def _locale_name(text: str) -> tuple[str, str]:
    locale, mark, name = text.partition("=")
    if not mark:
        raise argparse.ArgumentTypeError(f"“{text}” is not LOCALE=TEXT")
    return locale, name


def rename_options(commands: Commands) -> None:
    """Add ``rename``."""
    parser = command(
        commands,
        "rename",
        "change identifiers, names and versions in one step",
        "Everything is computed and read again before the first byte is written; onomaxis undo takes it back.",
    )
    common(parser)
    parser.add_argument("--id", metavar="ID", help="the new ID on all platforms")
    parser.add_argument("--android-id", metavar="ID", help="the new Android application ID")
    parser.add_argument("--ios-id", metavar="ID", help="the new iOS bundle identifier")
    code = parser.add_mutually_exclusive_group()
    code.add_argument(
        "--code-package",
        metavar="PKG",
        help="the new code package (default: the new Android ID, when the code package was the old one)",
    )
    code.add_argument(
        "--keep-code", action="store_true", help="identifiers only: namespace, packages and folders stay"
    )
    parser.add_argument("--name", metavar="TEXT", help="the new display name")
    parser.add_argument(
        "--locale-name",
        metavar="LOCALE=TEXT",
        action="append",
        default=[],
        type=_locale_name,
        help="the display name in one language (repeatable)",
    )
    parser.add_argument("--version", metavar="VERSION", help="the new version")
    parser.add_argument("--build", metavar="NUMBER", help="the new build number")
    _meant(parser)
    _manner(parser)
    writing(parser, published=True)


def _meant(parser: argparse.ArgumentParser) -> None:
    """Add the options that say what is changed: one flavor, one app, some platforms."""
    flavors(parser, "change only this flavor")
    parser.add_argument("--app", metavar="NAME", default="", help="the app to change, where there are several")
    parser.add_argument(
        "--platform", choices=PLATFORMS, action="append", default=[], help="change only this one (repeatable)"
    )


def _manner(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "--services", choices=("keep", "rewrite"), default="keep", help="service files: report, or edit"
    )
    parser.add_argument(
        "--project-name", metavar="NAME", help="the new technical name: Gradle build; Xcode project, targets, folders"
    )
    parser.add_argument("--team", metavar="ID", help="the signing team of the Xcode project (ten letters and digits)")
    parser.add_argument(
        "--unify", action="store_true", help="property lists refer to the version settings that they override"
    )
    parser.add_argument("--shared", action="store_true", help="write a version that libraries take theirs from, too")
    parser.add_argument(
        "--groups",
        choices=("keep", "rewrite"),
        default="keep",
        help="app groups and containers named after the ID: report (stored data stays reachable), or change",
    )
    parser.add_argument("--prose", action="store_true", help="comments and documents too")


def renumber_options(commands: Commands) -> None:
    """Add ``renumber``."""
    parser = command(
        commands,
        "renumber",
        "change version and build number, also relative to today's",
        "Every platform of the app gets the same numbers; onomaxis undo takes it back.",
    )
    common(parser)
    parser.add_argument(
        "--version", metavar="VERSION", help="a version, or which number of today's grows: major, minor or patch"
    )
    parser.add_argument(
        "--build",
        metavar="NUMBER",
        help="a build number; +N: so many more than today's highest; next: the next that nobody has used; "
        "with --flavor both count from the flavor's own",
    )
    _meant(parser)
    parser.add_argument("--every-flavor", action="store_true", help="each flavor from its own numbers")
    parser.add_argument("--plan", metavar="FILE", default="", help="a table (CSV): flavor, platform, version, build")
    parser.add_argument("--shared", action="store_true", help="write a version that libraries take theirs from, too")
    writing(parser, published=True)


def _inset(text: str) -> float | str:
    try:
        return text if text == "auto" else float(text)
    except ValueError:
        raise argparse.ArgumentTypeError(f"“{text}” is neither auto nor a share such as 0.2") from None


_ART = {
    "art": "SVG or PNG: the one picture all else is made from",
    "foreground": "Android's foreground layer",
    "monochrome": "Android's layer for themed home screens",
    "legacy-art": "art for launchers without adaptive icons",
    "ios-art": "art for Apple's slots",
    "ios-dark": "art for the dark appearance",
    "ios-tinted": "art for the tinted appearance",
}


def icons_options(commands: Commands) -> None:
    """Add ``icons``."""
    parser = command(
        commands,
        "icons",
        "draw the icon sets into the project",
        "From one piece of art, or from layers, to every slot that the project has; onomaxis undo takes it back.",
    )
    common(parser)
    for name, meaning in _ART.items():
        parser.add_argument(f"--{name}", metavar="FILE", default="", help=meaning)
    parser.add_argument(
        "--background", metavar="FILE|COLOR", default="", help="Android's background layer, or a colour"
    )
    _drawing(parser)
    _targets(parser)
    parser.add_argument(
        "--store-art", metavar="FOLDER", default="", help="also draw the store listing's pictures here"
    )
    parser.add_argument(
        "--notification", metavar="NAME", default="", help="also draw a notification icon of this name"
    )
    writing(parser)


def _drawing(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "--inset",
        metavar="auto|FRACTION",
        type=_inset,
        default=None,
        help="share of the layer's edge left free on each side, or auto: the drawing in the safe zone "
        "(default: auto, but art that fills its edges is shown from edge to edge)",
    )
    parser.add_argument(
        "--legacy-shape", choices=("square", "rounded", "circle", "art"), default="rounded", help="shape of old icons"
    )
    parser.add_argument(
        "--slots",
        choices=("single", "full", "keep"),
        default="keep",
        help="iOS: one 1024 image, every slot, or the slots that the set has today (default)",
    )
    parser.add_argument("--icon-name", metavar="NAME", default="", help="a new name for the icon and its references")
    parser.add_argument("--strict", action="store_true", help="refuse art that is not square instead of padding it")


def _targets(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "--platform",
        choices=("android", "ios", "macos", "web", "windows"),
        action="append",
        default=[],
        help="only this platform (repeatable; default: those the project has)",
    )
    parser.add_argument(
        "--flavor",
        metavar="F",
        action="append",
        default=[],
        help="icons of its own for this flavor (repeatable; {flavor} in the name of a file stands for it)",
    )
    parser.add_argument(
        "--app",
        metavar="NAME",
        action="append",
        default=[],
        help="which app, where there are several: a module, target or folder (repeatable)",
    )
    parser.add_argument("--every-flavor", action="store_true", help="icons of its own for every flavor there is")


def _size(text: str) -> tuple[int, int]:
    width, mark, height = text.partition("x")
    if not mark or not width.isdecimal() or not height.isdecimal():
        raise argparse.ArgumentTypeError(f"“{text}” is not WxH, such as 1280x800")
    if not (320 <= int(width) <= 8000 and 200 <= int(height) <= 8000):
        raise argparse.ArgumentTypeError("a size from 320x200 to 8000x8000 can be drawn")
    return int(width), int(height)


def proof_options(commands: Commands) -> None:
    """Add ``proof``."""
    parser = command(commands, "proof", "draw the icons as home screens, settings and stores show them")
    common(parser)
    parser.add_argument(
        "--sheet",
        choices=("home", "switcher", "settings", "store", "masks"),
        action="append",
        default=[],
        help="only this sheet (repeatable; default: all)",
    )
    parser.add_argument(
        "--out",
        metavar="FILE.png",
        default="icon-proof.png",
        help="where (default: icon-proof.png); several sheets or pages get their names after it",
    )
    flavors(parser, "only this flavor, with all its combinations")
    parser.add_argument("--platform", choices=PLATFORMS, action="append", default=[], help="only there (repeatable)")
    parser.add_argument("--size", metavar="WxH", type=_size, default=(1280, 800), help="default: 1280x800")
    parser.add_argument("--appearance", choices=("light", "dark"), default="light", help="of the pages")


def adopt_options(commands: Commands) -> None:
    """Add ``adopt``."""
    parser = command(
        commands,
        "adopt",
        "write an identity file from what the project is called today",
        "The file is onomaxis.toml; stamping it right away changes nothing.",
    )
    common(parser)
    parser.add_argument("--app", metavar="NAME", default="", help="the app to describe, where there are several")
    parser.add_argument(
        "--again",
        action="store_true",
        help="bring a file that is there up to today; comments, values and all else in it stay",
    )
    parser.add_argument("--schema", action="store_true", help="print the file's JSON Schema for editors, and no more")
    parser.add_argument(
        "--values", action="store_true", help="take in the values that brands usually vary, with their places"
    )
    forms = parser.add_mutually_exclusive_group()
    forms.add_argument(
        "--split", action="store_true", help="write each brand into a file of its own: brands/NAME.toml"
    )
    forms.add_argument("--table", action="store_true", help="write the brands into a table: brands.csv")
    parser.add_argument(
        "--strike", metavar="NAME", action="append", default=[], help="leave this value out (repeatable)"
    )
    writing(parser)


def stamp_options(commands: Commands) -> None:
    """Add ``stamp``."""
    parser = command(
        commands,
        "stamp",
        "make the project as its identity file says",
        "Only what differs is written; a second run changes nothing; onomaxis undo takes it back.",
    )
    common(parser)
    parser.add_argument(
        "--flavor",
        metavar="F",
        action="append",
        default=[],
        help="become this flavor (a project whose build has no flavors), or bring only this one in step",
    )
    parser.add_argument(
        "--into",
        metavar="FOLDER",
        default="",
        help="leave the project as it is and make a branded copy of it in FOLDER/F (--flavor is repeatable then)",
    )
    parser.add_argument("--every-flavor", action="store_true", help="with --into: a copy for each flavor of the file")
    parser.add_argument(
        "--service",
        metavar="FILE",
        action="append",
        default=[],
        help="a newly downloaded service file: put in its place if it knows the app (repeatable)",
    )
    writing(parser, published=True)


def flavor_options(commands: Commands) -> None:
    """Add ``flavor``."""
    parser = command(commands, "flavor", "list the flavors of all platforms, show one, add one, retire one")
    inner = parser.add_subparsers(dest="what", metavar="WHAT", required=True)
    listing = command(inner, "list", "show what each flavor is called on each platform, with holes and clashes")
    common(listing)
    listing.add_argument(
        "--as", dest="form", choices=("table", "matrix"), default="table", help="matrix: JSON for a CI system's jobs"
    )
    listing.add_argument("--changed-since", metavar="REV", default="", help="matrix: only what changed since then")
    listing.add_argument("--only-problems", action="store_true", help="only holes, clashes and what is not listed")
    adding = _adding_options(inner)
    showing = command(inner, "show", "show everything that holds for a flavor, and what says so")
    showing.add_argument("name", metavar="NAME", help="the flavor")
    common(showing)
    showing.add_argument("--reveal", action="store_true", help="show values that are secret")
    retiring = command(inner, "retire", "remove what belongs to a flavor alone")
    retiring.add_argument("name", metavar="NAME", help="the flavor")
    common(retiring)
    writing(retiring, published=True)
    for each in (listing, adding, showing, retiring):
        each.add_argument("--app", metavar="NAME", default="", help="the app, where there are several")


def _adding_options(inner: Commands) -> argparse.ArgumentParser:
    """Add ``flavor add``."""
    adding = command(
        inner,
        "add",
        "add a flavor to the build of every platform",
        "What is there stays as it is; what the flavor is called comes from the options or the identity file.",
    )
    adding.add_argument("name", metavar="NAME", help="the flavor, as the builds shall name it")
    common(adding)
    adding.add_argument("--id", metavar="ID", default="", help="its ID on all platforms")
    adding.add_argument("--id-suffix", metavar=".TEXT", default="", help="what its ID appends to the app's")
    adding.add_argument("--name", "--shown", dest="shown", metavar="TEXT", default="", help="its display name")
    adding.add_argument("--platform", choices=PLATFORMS, action="append", default=[], help="only there (repeatable)")
    adding.add_argument(
        "--base", metavar="NAME", default="", help="first flavor of a build: the app goes on as this flavor"
    )
    adding.add_argument(
        "--dimension", metavar="NAME", default="", help="what it varies, where an Android build has several"
    )
    adding.add_argument(
        "--only-flavors", action="store_true", help="first flavor of a build: the app itself ships no more"
    )
    adding.add_argument("--art", metavar="FILE", default="", help="SVG or PNG that its icons are drawn from")
    adding.add_argument("--background", metavar="FILE|COLOR", default="", help="ground of its icons")
    adding.add_argument(
        "--service", metavar="FILE", action="append", default=[], help="its service file (repeatable)"
    )
    writing(adding)
    return adding


def undo_options(commands: Commands) -> None:
    """Add ``undo``."""
    parser = command(commands, "undo", "take the last change back, or a named one")
    common(parser)
    parser.add_argument("--change", metavar="ID", default="", help="the change to take back (default: the last one)")
    parser.add_argument(
        "--despite-changes", action="store_true", help="also put back files that were changed since (loses that)"
    )
    parser.add_argument(
        "--foreign-entry", action="store_true", help="also take back a change that is not known to be this user's"
    )
    writing(parser)
