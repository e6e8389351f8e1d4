"""The options of commands that tell something, and of those that keep or rehearse."""

from __future__ import annotations

from onomaxis.checks.families import FAMILIES
from onomaxis.cli.options.shared import Commands, command, common, flavors, writing
from onomaxis.platforms import PLATFORMS


def survey_options(commands: Commands) -> None:
    """Add ``survey``."""
    parser = command(commands, "survey", "show what the app is called, where that is written, what disagrees")
    common(parser)
    parser.add_argument("--all", action="store_true", help="list every mention")
    parser.add_argument("--origins", action="store_true", help="of many apps too: every value with its place")
    parser.add_argument(
        "--app", metavar="NAME", default="", help="only this app: a module, target, folder, ID or name"
    )
    flavors(parser, "only this flavor, with all its combinations")
    parser.add_argument("--platform", choices=PLATFORMS, default="", help="only this platform")
    past = parser.add_argument_group("what changed since a revision, and when")
    past.add_argument("--history", action="store_true", help="when what apps are called changed, by commit")
    past.add_argument("--facet", metavar="WHAT", default="", help="with --history: only this facet, such as version")
    past.add_argument(
        "--since", metavar="REV", default="", help="what apps are called otherwise than there; REV... where it parted"
    )
    past.add_argument(
        "--as", dest="form", choices=("text", "json", "markdown"), default="text", help="how to tell it"
    )
    past.add_argument("--exit-code", action="store_true", help="exit code 1 when anything differs")
    past.add_argument(
        "--guard",
        metavar="WHAT",
        default="",
        help="exit code 1 when one of these differs, 3 when nobody can tell: id, name, version, build, icon, values, "
        "services, permissions (with commas)",
    )


_FAMILIES = tuple(dict.fromkeys(name for name in FAMILIES.values() if name != "packages"))


def check_options(commands: Commands) -> None:
    """Add ``check``."""
    parser = command(
        commands, "check", "is it consistent, is it ready for the stores", "Exit code 1 when errors are found."
    )
    common(parser)
    parser.add_argument(
        "--only", choices=_FAMILIES, action="append", default=[], help="only this family of rules (repeatable)"
    )
    flavors(parser, "only what is about this flavor, or about all")
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


def report_options(commands: Commands) -> None:
    """Add ``report``."""
    parser = command(
        commands,
        "report",
        "write one page that shows what every flavor is called",
        "It needs nothing beside itself: no network, no script to be read.",
    )
    common(parser)
    parser.add_argument("--out", metavar="FILE", default="", help="the page (default: report.html)")
    parser.add_argument("--title", metavar="TEXT", default="", help="its title (default: the folder's name)")
    parser.add_argument("--since", metavar="REV", default="", help="with what changed since this revision of git")
    parser.add_argument("--history", action="store_true", help="with versions and builds over time")
    parser.add_argument("--publish", action="store_true", help="findings as for publication")


def inspect_options(commands: Commands) -> None:
    """Add ``inspect``."""
    parser = command(
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
    flavors(parser, "the flavor that it must be (default: told by its ID)")
    parser.add_argument("--all", action="store_true", help="whole lists")
    parser.add_argument(
        "--as", dest="form", choices=("text", "json", "sarif"), default="text", help="form of the report"
    )
    common(parser, project=False)


def rehearse_options(commands: Commands) -> None:
    """Add ``rehearse``."""
    parser = command(
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
    flavors(parser, "the flavor that each must be (default: told by its ID)")
    parser.add_argument(
        "--state", metavar="FOLDER", default="", help="where the stand-in keeps what it holds (default: a user's own)"
    )
    parser.add_argument("--ledger", action="store_true", help="write what was accepted into the project's ledger")
    parser.add_argument("--on", dest="day", metavar="DATE", default="", help="as on this day (default: today)")
    parser.add_argument("--show", action="store_true", help="what the stand-in holds")
    parser.add_argument("--close", metavar="VERSION", default="", help="close a version's train on the App Store")
    common(parser, project=False)
    writing(parser)


def standins_options(commands: Commands) -> None:
    """Add ``standins``."""
    parser = command(
        commands,
        "standins",
        "serve a stand-in console of services and developer portal on this machine",
        "They speak JSON over HTTP on the loopback address, and are simulations: docs/rehearsal.md.",
    )
    parser.add_argument("--port", type=int, default=0, metavar="N", help="the port (default: a free one, printed)")
    parser.add_argument("--state", metavar="FOLDER", default="", help="where they keep what they hold")
    common(parser, project=False)


def fingerprint_options(commands: Commands) -> None:
    """Add ``fingerprint``."""
    parser = command(
        commands,
        "fingerprint",
        "show a keystore's certificates, and which of the project's files name them",
        "PKCS#12 and Java keystores. The password is asked for, or comes from the environment or a file.",
    )
    parser.add_argument("keystore", metavar="KEYSTORE", help="the keystore's file")
    common(parser)
    parser.add_argument("--alias", metavar="NAME", default="", help="only this alias")
    secret = parser.add_mutually_exclusive_group()
    secret.add_argument("--password-env", metavar="NAME", default="", help="the environment variable that holds it")
    secret.add_argument("--password-file", metavar="FILE", default="", help="the file whose first line it is")


def ledger_options(commands: Commands) -> None:
    """Add ``ledger``."""
    parser = command(commands, "ledger", "keep what was published: build numbers, IDs, fingerprints")
    inner = parser.add_subparsers(dest="what", metavar="WHAT", required=True)
    listing = command(inner, "list", "show what was published")
    common(listing)
    adding = command(inner, "add", "add a row for each app as it is built now", "Write it after publishing.")
    common(adding)
    adding.add_argument("--date", metavar="DATE", default="", help="the day, such as 2026-05-31 (default: today)")
    adding.add_argument(
        "--platform", choices=PLATFORMS, action="append", default=[], help="only this one (repeatable)"
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
    writing(adding)
    for each in (listing, adding):
        flavors(each, "only this flavor, with all its combinations")


def history_options(commands: Commands) -> None:
    """Add ``history``."""
    parser = command(commands, "history", "list the changes that can be taken back")
    common(parser)


def demo_options(commands: Commands) -> None:
    """Add ``demo``."""
    parser = command(commands, "demo", "copy the demo project to a folder and walk through the main job")
    parser.add_argument("folder", nargs="?", metavar="FOLDER", help="a new folder (default: one for temporary files)")
    common(parser, project=False)


def completion_options(commands: Commands) -> None:
    """Add ``completion``."""
    parser = command(
        commands,
        "completion",
        "print what makes a shell complete commands, options and values",
        "Such as: onomaxis completion bash >> ~/.bashrc",
    )
    parser.add_argument("shell", choices=("bash", "zsh", "fish", "powershell"), help="the shell")
    parser.set_defaults(json=False, quiet=False, no_color=False, debug=False)
