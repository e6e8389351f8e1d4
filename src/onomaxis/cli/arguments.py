"""The parser of the command line: every command with its options, which stand in ``cli/options/``."""

from __future__ import annotations

import argparse
from collections.abc import Sequence

from onomaxis import __version__
from onomaxis.cli.options import changing, telling
from onomaxis.cli.options.shared import Parser


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
        telling.survey_options,
        changing.rename_options,
        changing.renumber_options,
        changing.icons_options,
        changing.proof_options,
        changing.adopt_options,
        changing.stamp_options,
        changing.flavor_options,
        telling.check_options,
        telling.inspect_options,
        telling.rehearse_options,
        telling.standins_options,
        telling.fingerprint_options,
        telling.ledger_options,
        changing.undo_options,
        telling.history_options,
        telling.report_options,
        telling.demo_options,
        telling.completion_options,
    ):
        add(commands)
    return parser


def parse(words: Sequence[str]) -> argparse.Namespace:
    """Parse a command line."""
    return build_parser().parse_args(words)


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
