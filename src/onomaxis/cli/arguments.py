"""The options of every command, in one place so that the same option reads the same everywhere."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from typing import Any, NoReturn

from onomaxis import __version__
from onomaxis.checks.families import FAMILIES
from onomaxis.errors import UsageError

Commands = Any  # argparse keeps the type of its sub-parser action private


class Parser(argparse.ArgumentParser):
    """A parser whose errors are exceptions, so that they can be told in either form."""

    def error(self, message: str) -> NoReturn:
        """Raise UsageError."""
        raise UsageError(message, self.format_usage())


def build_parser() -> argparse.ArgumentParser:
    """Return the parser with all commands. Only argparse is imported here, so that start-up stays fast."""
    parser = Parser(
        prog="onomaxis",
        description="Find every place a mobile app's identity is written, change all of them in one safe step, "
        "take it back.",
        epilog="Exit codes: 0 done or nothing to do; 1 check found errors; "
        "2 bad usage or bad input; 3 refused for safety; "
        "4 a fault of Onomaxis itself.",
    )
    parser.add_argument("--version", action="version", version=f"onomaxis {__version__}")
    commands = parser.add_subparsers(dest="command", metavar="COMMAND")
    for add in (
        _survey,
        _rename,
        _renumber,
        _icons,
        _proof,
        _adopt,
        _stamp,
        _flavor,
        _check,
        _inspect,
        _rehearse,
        _standins,
        _fingerprint,
        _ledger,
        _undo,
        _history,
        _report,
        _demo,
        _completion,
    ):
        add(commands)
    return parser


def parse(words: Sequence[str]) -> argparse.Namespace:
    """Parse a command line."""
    return build_parser().parse_args(words)


def _parser(commands: Commands, name: str, summary: str, more: str = "") -> argparse.ArgumentParser:
    parser: argparse.ArgumentParser = commands.add_parser(
        name, help=summary, description=f"{summary[:1].upper()}{summary[1:]}. {more}".strip()
    )
    return parser


def _common(parser: argparse.ArgumentParser, project: bool = True) -> None:
    if project:
        parser.add_argument("project", nargs="?", default=".", metavar="PROJECT", help="folder (default: this one)")
        parser.add_argument("--here", action="store_true", help="only this folder, also where it is part of a build")
    parser.add_argument("--json", action="store_true", help="one JSON document on standard output, nothing else")
    parser.add_argument("--quiet", action="store_true", help="no messages besides errors and results")
    parser.add_argument("--no-color", action="store_true", help="no colour (NO_COLOR and a pipe do the same)")
    parser.add_argument(
        "--color", choices=("auto", "always", "never"), default="auto", help="colour (default: on a terminal)"
    )
    parser.add_argument("--debug", action="store_true", help="show where a fault of Onomaxis happened")


# The rule stands in docs/promises.md too.
_ASKING = (
    "On a terminal it asks before it changes the project; a piped answer is read. Where there is neither and without "
    "--yes, it changes only files that a git work tree holds as they are. What you name the place of (--out) needs "
    "no answer."
)


def _writing(parser: argparse.ArgumentParser, published: bool = False) -> None:
    parser.epilog = _ASKING
    if published:
        parser.add_argument(
            "--published", action="store_true", help="change the ID or lower the build of an app that was published"
        )
    parser.add_argument("--dry-run", action="store_true", help="print the diff, moves and new files; write nothing")
    parser.add_argument("--allow-dirty", action="store_true", help="also touch files with uncommitted changes")
    parser.add_argument("--yes", action="store_true", help="do not ask before writing")
    parser.add_argument("--all", action="store_true", help="list every file, note and place that is left")


def _survey(commands: Commands) -> None:
    parser = _parser(commands, "survey", "show what the app is called, where that is written, what disagrees")
    _common(parser)
    parser.add_argument("--all", action="store_true", help="list every mention")
    parser.add_argument("--origins", action="store_true", help="of many apps too: every value with its place")
    parser.add_argument(
        "--app", metavar="NAME", default="", help="only this app: a module, target, folder, ID or name"
    )
    parser.add_argument("--flavor", metavar="F", default="", help="only this flavor, with all its combinations")
    parser.add_argument("--platform", choices=("android", "ios"), default="", help="only this platform")


def _locale_name(text: str) -> tuple[str, str]:
    locale, mark, name = text.partition("=")
    if not mark:
        raise argparse.ArgumentTypeError(f"“{text}” is not LOCALE=TEXT")
    return locale, name


def _rename(commands: Commands) -> None:
    parser = _parser(
        commands,
        "rename",
        "change identifiers, names and versions in one step",
        "Everything is computed and read again before the first byte is written; onomaxis undo takes it back.",
    )
    _common(parser)
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
    parser.add_argument("--flavor", metavar="F", default="", help="change only this flavor")
    parser.add_argument("--app", metavar="NAME", default="", help="the app to change, where there are several")
    _manner(parser)
    _writing(parser, published=True)


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


def _renumber(commands: Commands) -> None:
    parser = _parser(
        commands,
        "renumber",
        "change version and build number, also relative to today's",
        "Every platform of the app gets the same numbers; onomaxis undo takes it back.",
    )
    _common(parser)
    parser.add_argument(
        "--version", metavar="VERSION", help="a version, or which number of today's grows: major, minor or patch"
    )
    parser.add_argument(
        "--build",
        metavar="NUMBER",
        help="a build number; +N: so many more than today's highest; next: the next that nobody has used",
    )
    parser.add_argument("--flavor", metavar="F", default="", help="change only this flavor")
    parser.add_argument("--app", metavar="NAME", default="", help="the app to change, where there are several")
    parser.add_argument("--shared", action="store_true", help="write a version that libraries take theirs from, too")
    _writing(parser, published=True)


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


def _icons(commands: Commands) -> None:
    parser = _parser(
        commands,
        "icons",
        "draw the icon sets into the project",
        "From one piece of art, or from layers, to every slot that the project has; onomaxis undo takes it back.",
    )
    _common(parser)
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
    _writing(parser)


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


def _proof(commands: Commands) -> None:
    parser = _parser(commands, "proof", "draw the icons as home screens, settings and stores show them")
    _common(parser)
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
    parser.add_argument("--flavor", metavar="F", default="", help="only this flavor")
    parser.add_argument("--size", metavar="WxH", type=_size, default=(1280, 800), help="default: 1280x800")
    parser.add_argument("--appearance", choices=("light", "dark"), default="light", help="of the pages")


def _adopt(commands: Commands) -> None:
    parser = _parser(
        commands,
        "adopt",
        "write an identity file from what the project is called today",
        "The file is onomaxis.toml; stamping it right away changes nothing.",
    )
    _common(parser)
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
    parser.add_argument(
        "--strike", metavar="NAME", action="append", default=[], help="leave this value out (repeatable)"
    )
    _writing(parser)


def _stamp(commands: Commands) -> None:
    parser = _parser(
        commands,
        "stamp",
        "make the project as its identity file says",
        "Only what differs is written; a second run changes nothing; onomaxis undo takes it back.",
    )
    _common(parser)
    parser.add_argument(
        "--flavor",
        metavar="F",
        default="",
        help="become this flavor (a project whose build has no flavors), or bring only this one in step",
    )
    parser.add_argument(
        "--service",
        metavar="FILE",
        action="append",
        default=[],
        help="a newly downloaded service file: put in its place if it knows the app (repeatable)",
    )
    _writing(parser, published=True)


def _flavor(commands: Commands) -> None:
    parser = _parser(commands, "flavor", "list the flavors of all platforms, add one, retire one")
    inner = parser.add_subparsers(dest="what", metavar="WHAT", required=True)
    listing = _parser(inner, "list", "show what each flavor is called on each platform, with holes and clashes")
    _common(listing)
    listing.add_argument("--only-problems", action="store_true", help="only holes, clashes and what is not listed")
    adding = _parser(
        inner,
        "add",
        "add a flavor to the build of every platform",
        "What is there stays as it is; what the flavor is called comes from the options or the identity file.",
    )
    adding.add_argument("name", metavar="NAME", help="the flavor, as the builds shall name it")
    _common(adding)
    adding.add_argument("--id", metavar="ID", default="", help="its ID on all platforms")
    adding.add_argument("--id-suffix", metavar=".TEXT", default="", help="what its ID appends to the app's")
    adding.add_argument("--shown", metavar="TEXT", default="", help="its display name")
    adding.add_argument(
        "--platform", choices=("android", "ios"), action="append", default=[], help="only there (repeatable)"
    )
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
    _writing(adding)
    retiring = _parser(inner, "retire", "remove what belongs to a flavor alone")
    retiring.add_argument("name", metavar="NAME", help="the flavor")
    _common(retiring)
    _writing(retiring, published=True)
    for each in (listing, adding, retiring):
        each.add_argument("--app", metavar="NAME", default="", help="the app, where there are several")


_FAMILIES = tuple(dict.fromkeys(name for name in FAMILIES.values() if name != "packages"))


def _check(commands: Commands) -> None:
    parser = _parser(
        commands, "check", "is it consistent, is it ready for the stores", "Exit code 1 when errors are found."
    )
    _common(parser)
    parser.add_argument(
        "--only", choices=_FAMILIES, action="append", default=[], help="only this family of rules (repeatable)"
    )
    parser.add_argument("--flavor", metavar="F", default="", help="only what is about this flavor, or about all")
    parser.add_argument("--since", metavar="REV", default="", help="only what was not found at this revision of git")
    parser.add_argument(
        "--explain", metavar="CODE", default="", help="explain a rule, with an example, and check nothing"
    )
    parser.add_argument(
        "--publish", action="store_true", help="as for publication: a template's ID, name or icon is an error"
    )
    parser.add_argument(
        "--as", dest="form", choices=("text", "json", "sarif"), default="text", help="form of the report"
    )


def _report(commands: Commands) -> None:
    parser = _parser(
        commands,
        "report",
        "write one page that shows what every flavor is called",
        "It needs nothing beside itself: no network, no script to be read.",
    )
    _common(parser)
    parser.add_argument("--out", metavar="FILE", default="", help="the page (default: report.html)")
    parser.add_argument("--title", metavar="TEXT", default="", help="its title (default: the folder's name)")
    parser.add_argument("--since", metavar="REV", default="", help="with what changed since this revision of git")
    parser.add_argument("--publish", action="store_true", help="findings as for publication")


def _inspect(commands: Commands) -> None:
    parser = _parser(
        commands,
        "inspect",
        "what built packages are called, and whether that is what their project says",
        "Nothing is unpacked, written or run. Exit code 1 when errors are found.",
    )
    parser.add_argument(
        "packages",
        nargs="+",
        metavar="PACKAGE",
        help="an .apk, .apks, .aab, .ipa, .app, .xcarchive, or a folder of split APKs: told by what it holds",
    )
    parser.add_argument("--against", metavar="PROJECT", default="", help="compare with this project")
    parser.add_argument("--flavor", default="", help="the flavor that it must be (default: told by its ID)")
    parser.add_argument("--all", action="store_true", help="whole lists")
    parser.add_argument(
        "--as", dest="form", choices=("text", "json", "sarif"), default="text", help="form of the report"
    )
    _common(parser, project=False)


def _rehearse(commands: Commands) -> None:
    parser = _parser(
        commands,
        "rehearse",
        "hand built packages to a stand-in of the stores, which answers as a store would",
        "It is a simulation that ships with the tool: nothing is uploaded. Exit code 1 when a package is refused, "
        "2 when one cannot be read.",
    )
    parser.add_argument("packages", nargs="*", metavar="PACKAGE", help="what the build made, as inspect takes it")
    parser.add_argument(
        "--store", choices=("play", "appstore"), default="", help="the store (default: the one of the platform)"
    )
    parser.add_argument(
        "--against", metavar="PROJECT", default="", help="the packages' project (default: this folder)"
    )
    parser.add_argument("--flavor", default="", help="the flavor that each must be (default: told by its ID)")
    parser.add_argument(
        "--state", metavar="FOLDER", default="", help="where the stand-in keeps what it holds (default: a user's own)"
    )
    parser.add_argument("--ledger", action="store_true", help="write what was accepted into the project's ledger")
    parser.add_argument("--on", dest="day", metavar="DATE", default="", help="as on this day (default: today)")
    parser.add_argument("--show", action="store_true", help="what the stand-in holds")
    parser.add_argument("--close", metavar="VERSION", default="", help="close a version's train on the App Store")
    _common(parser, project=False)


def _standins(commands: Commands) -> None:
    parser = _parser(
        commands,
        "standins",
        "serve a stand-in console of services and developer portal on this machine",
        "They speak JSON over HTTP on the loopback address, and are simulations: docs/rehearsal.md.",
    )
    parser.add_argument("--port", type=int, default=0, metavar="N", help="the port (default: a free one, printed)")
    parser.add_argument("--state", metavar="FOLDER", default="", help="where they keep what they hold")
    _common(parser, project=False)


def _fingerprint(commands: Commands) -> None:
    parser = _parser(
        commands,
        "fingerprint",
        "show a keystore's certificates, and which of the project's files name them",
        "PKCS#12 and Java keystores. The password is asked for, or comes from the environment or a file.",
    )
    parser.add_argument("keystore", metavar="KEYSTORE", help="the keystore's file")
    _common(parser)
    parser.add_argument("--alias", metavar="NAME", default="", help="only this alias")
    secret = parser.add_mutually_exclusive_group()
    secret.add_argument("--password-env", metavar="NAME", default="", help="the environment variable that holds it")
    secret.add_argument("--password-file", metavar="FILE", default="", help="the file whose first line it is")


def _ledger(commands: Commands) -> None:
    parser = _parser(commands, "ledger", "keep what was published: build numbers, IDs, fingerprints")
    inner = parser.add_subparsers(dest="what", metavar="WHAT", required=True)
    listing = _parser(inner, "list", "show what was published")
    _common(listing)
    adding = _parser(inner, "add", "add a row for each app as it is built now", "Write it after publishing.")
    _common(adding)
    adding.add_argument("--date", metavar="DATE", default="", help="the day, such as 2026-05-31 (default: today)")
    adding.add_argument(
        "--platform", choices=("android", "ios"), action="append", default=[], help="only this one (repeatable)"
    )
    adding.add_argument(
        "--from",
        dest="packages",
        metavar="PACKAGE",
        action="append",
        default=[],
        help="what was published, as the built package says it (repeatable)",
    )
    adding.add_argument("--fingerprint", metavar="SHA256", default="", help="of the certificate it was signed with")
    adding.add_argument("--app", metavar="NAME", default="", help="the app, where there are several")
    _writing(adding)
    for each in (listing, adding):
        each.add_argument("--flavor", metavar="F", default="", help="only this flavor, or combination of flavors")


def _undo(commands: Commands) -> None:
    parser = _parser(commands, "undo", "take the last change back, or a named one")
    _common(parser)
    parser.add_argument("--change", metavar="ID", default="", help="the change to take back (default: the last one)")
    parser.add_argument(
        "--despite-changes", action="store_true", help="also put back files that were changed since (loses that)"
    )
    parser.add_argument(
        "--foreign-entry", action="store_true", help="also take back a change that is not known to be this user's"
    )
    _writing(parser)


def _history(commands: Commands) -> None:
    parser = _parser(commands, "history", "list the changes that can be taken back")
    _common(parser)


def _demo(commands: Commands) -> None:
    parser = _parser(commands, "demo", "copy the demo project to a folder and walk through the main job")
    parser.add_argument("folder", nargs="?", metavar="FOLDER", help="a new folder (default: one for temporary files)")
    _common(parser, project=False)


def _completion(commands: Commands) -> None:
    parser = _parser(
        commands,
        "completion",
        "print what makes a shell complete commands, options and values",
        "Such as: onomaxis completion bash >> ~/.bashrc",
    )
    parser.add_argument("shell", choices=("bash", "zsh", "fish", "powershell"), help="the shell")
    parser.set_defaults(json=False, quiet=False, no_color=False, debug=False)


def complete_values(parser: argparse.ArgumentParser) -> None:
    """Let options be completed with the flavors, apps and rules that there are."""
    from onomaxis.cli import completion

    values = {"flavor": completion.flavors, "app": completion.apps, "explain": completion.rules}
    for action in parser._actions:
        if isinstance(action, argparse._SubParsersAction):
            for inner in action.choices.values():
                complete_values(inner)
        elif action.dest in values and action.option_strings:
            action.completer = values[action.dest]  # type: ignore[attr-defined]
