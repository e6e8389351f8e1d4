"""The entry point: builds the parser, runs one command, turns errors into messages and exit codes."""

from __future__ import annotations

import argparse
import importlib
import os
import sys
from collections.abc import Sequence

from onomaxis import __version__
from onomaxis.errors import OnomaxisError

_COMMANDS = ("survey", "rename", "undo", "history", "demo")


def build_parser() -> argparse.ArgumentParser:
    """Return the parser with all commands. Only argparse is imported here, so that start-up stays fast."""
    from onomaxis.cli import arguments

    parser = argparse.ArgumentParser(
        prog="onomaxis",
        description="Find every place a mobile app's identity is written, change all of them in one safe step, "
        "take it back.",
        epilog="Exit codes: 0 done or nothing to do; 2 bad usage or bad input; 3 refused for safety; "
        "4 a fault of Onomaxis itself.",
    )
    parser.add_argument("--version", action="version", version=f"onomaxis {__version__}")
    commands = parser.add_subparsers(dest="command", metavar="COMMAND", required=True)
    for name in _COMMANDS:
        arguments.add(name, commands)
    return parser


def main(argv: Sequence[str] | None = None) -> int:
    """Run one command; return its exit code."""
    parser = build_parser()
    if "_ARGCOMPLETE" in os.environ:
        import argcomplete

        argcomplete.autocomplete(parser)
    options = parser.parse_args(argv)
    try:
        command = importlib.import_module(f"onomaxis.cli.{options.command}")
        return int(command.execute(options))
    except OnomaxisError as error:
        print(f"onomaxis: {error}", file=sys.stderr)
        return error.exit_code
    except KeyboardInterrupt:
        print("onomaxis: interrupted; nothing was changed", file=sys.stderr)
        return 3
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except Exception as error:
        return _fault(error, getattr(options, "debug", False))


def _fault(error: Exception, debug: bool) -> int:
    if debug:
        import traceback

        traceback.print_exc()
    else:
        print(f"onomaxis: internal fault: {type(error).__name__}: {error} (--debug shows where)", file=sys.stderr)
    return 4


def run() -> None:
    """Run the command line and exit: the console script."""
    sys.exit(main())
