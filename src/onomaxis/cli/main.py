"""The entry point: builds the parser, runs one command, turns errors into messages and exit codes."""

from __future__ import annotations

import argparse
import gc
import importlib
import os
import sys
from collections.abc import Sequence

from onomaxis.cli import arguments
from onomaxis.errors import OnomaxisError


def main(argv: Sequence[str] | None = None) -> int:
    """Run one command; return its exit code."""
    parser = arguments.build_parser()
    if "_ARGCOMPLETE" in os.environ:
        import argcomplete

        argcomplete.autocomplete(parser)
    options = argparse.Namespace()
    try:
        options = parser.parse_args(argv)
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
    gc.disable()  # a short run makes no cycles worth looking for
    sys.exit(main())
