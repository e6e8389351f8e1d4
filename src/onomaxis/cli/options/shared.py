"""What the commands' options share: the parser, what every command takes, what every command that writes takes."""

from __future__ import annotations

import argparse
from typing import Any, NoReturn

from onomaxis.errors import UsageError

Commands = Any  # argparse keeps the type of its sub-parser action private


class Parser(argparse.ArgumentParser):
    """A parser whose errors are exceptions, so that they can be told in either form."""

    def error(self, message: str) -> NoReturn:
        """Raise UsageError."""
        raise UsageError(message, self.format_usage())


def command(commands: Commands, name: str, summary: str, more: str = "") -> argparse.ArgumentParser:
    """Add a command, described by a line and what more is to be said."""
    parser: argparse.ArgumentParser = commands.add_parser(
        name, help=summary, description=f"{summary[:1].upper()}{summary[1:]}. {more}".strip()
    )
    return parser


def common(parser: argparse.ArgumentParser, project: bool = True) -> None:
    """Add what every command takes."""
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


def writing(parser: argparse.ArgumentParser, published: bool = False) -> None:
    """Add what every command that writes takes."""
    parser.epilog = _ASKING
    if published:
        parser.add_argument(
            "--published", action="store_true", help="change the ID or lower the build of an app that was published"
        )
    parser.add_argument("--dry-run", action="store_true", help="print the diff, moves and new files; write nothing")
    parser.add_argument("--allow-dirty", action="store_true", help="also touch files with uncommitted changes")
    parser.add_argument("--yes", action="store_true", help="do not ask before writing")
    parser.add_argument("--all", action="store_true", help="list every file, note and place that is left")
