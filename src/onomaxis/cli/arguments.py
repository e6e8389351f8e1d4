"""The parser of the command line: every command with its options, which stand in ``cli/options/``."""

from __future__ import annotations

import argparse
from collections.abc import Sequence

from onomaxis import __version__
from onomaxis.cli.options.commands import COMMANDS
from onomaxis.cli.options.shared import Parser, add_command
from onomaxis.cli.words import ShowWords

# The commands by what a person wants to do.
GROUPS = {
    "look": ("survey", "check", "proof", "report"),
    "change": ("rename", "renumber", "icons"),
    "brands": ("adopt", "stamp", "flavor"),
    "publish": ("inspect", "rehearse", "ledger", "fingerprint"),
    "take back": ("undo", "history"),
    "more": ("demo", "standins", "completion"),
}


class _Top(Parser):
    """The parser of the whole program, whose help shows the commands in groups."""

    def format_help(self) -> str:
        """Return the help: usage, commands by what they are for, options."""
        formatter = self._get_formatter()
        formatter.add_usage(self.usage, self._actions, self._mutually_exclusive_groups)
        formatter.add_text(self.description)
        commands = next(item for item in self._actions if isinstance(item, argparse._SubParsersAction))
        rows = {action.dest: action for action in commands._choices_actions}
        for title, names in GROUPS.items():
            formatter.start_section(title)
            formatter.add_arguments([rows[name] for name in names if name in rows])
            formatter.end_section()
        formatter.start_section("options")
        formatter.add_arguments([action for action in self._actions if action is not commands])
        formatter.end_section()
        formatter.add_text(self.epilog)
        return formatter.format_help()


def build_parser(only: str = "") -> argparse.ArgumentParser:
    """Return the parser with all commands, or with the one that is called, where *only* names one.

    Only argparse is imported here, so that start-up stays fast.
    """
    parser = _Top(
        prog="onomaxis",
        description="Find every place a mobile app's identity is written, change all of them in one safe step, "
        "take it back.",
        epilog="onomaxis COMMAND --help explains a command. Exit codes: 0 done or nothing to do; "
        "1 check found errors; 2 bad usage or bad input; 3 refused for safety; "
        "4 a fault of Onomaxis itself.",
    )
    parser.add_argument("--version", action="version", version=f"onomaxis {__version__}")
    parser.add_argument("--words", action=ShowWords, nargs=0, help="explain the words that the messages use")
    commands = parser.add_subparsers(dest="command", metavar="COMMAND", parser_class=Parser)
    for name, row in COMMANDS.items():
        if only not in COMMANDS or name == only:
            add_command(commands, name, row)
    return parser


def parse(words: Sequence[str]) -> argparse.Namespace:
    """Parse a command line."""
    return build_parser(words[0] if words else "").parse_args(words)


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
