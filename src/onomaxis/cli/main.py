"""The entry point: builds the parser, runs one command, turns errors into messages and exit codes."""

from __future__ import annotations

import argparse
import gc
import importlib
import io
import itertools
import os
import sys
from collections.abc import Sequence

from onomaxis.cli import arguments
from onomaxis.errors import FaultError, InputError, OnomaxisError, StoppedError, UsageError


def main(argv: Sequence[str] | None = None) -> int:
    """Run one command; return its exit code."""
    words = [_as_typed(word) for word in (sys.argv[1:] if argv is None else argv)]
    completing = "_ARGCOMPLETE" in os.environ
    parser = arguments.build_parser(words[0] if words and not completing else "")
    if completing:
        import argcomplete

        arguments.complete_values(parser)
        argcomplete.autocomplete(parser)
    options = argparse.Namespace()
    try:
        options = parser.parse_args(words)
        _refuse_gone()
        if options.command is None:
            return _alone(parser)
        command = importlib.import_module(f"onomaxis.cli.{options.command}")
        return int(command.execute(options))
    except OnomaxisError as error:
        if error.file and not _wants_json(words):
            from onomaxis.cli.standing import from_here

            root = getattr(options, "root", None)  # what the command line names is told as it was typed
            error.file = from_here(root, error.file) if root and (root / error.file).exists() else error.file
        return _told(words, error)
    except KeyboardInterrupt:
        stopped = StoppedError("interrupted; nothing was changed")
        stopped.kind = "interrupted"
        return _told(words, stopped)
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except Exception as error:
        if getattr(options, "debug", False):
            import traceback

            traceback.print_exc()
        said = f"internal fault: {type(error).__name__}: {error}"
        return _told(words, FaultError(f"{said} (--debug shows where)"))


def _refuse_gone() -> None:
    """Raise InputError where the folder that the shell stands in was removed: no path can be told from there."""
    try:
        os.getcwd()  # noqa: PTH109 (pathlib is not loaded yet)
    except FileNotFoundError:
        raise InputError("the current folder is gone", remedy="Go to a folder that exists.") from None


def _alone(parser: argparse.ArgumentParser) -> int:
    """Show what is here and what comes next; where there is no app, how to go on."""
    from onomaxis.cli.guide import greet

    plain = argparse.Namespace(project=".", no_color=False, color="auto", json=False, quiet=False)
    if not greet(plain):
        parser.print_usage()
        print("This folder holds no mobile app. Go to an app's folder, or name it: onomaxis survey FOLDER.")
        print("onomaxis --help lists the commands; onomaxis demo shows them at work on a project of its own.")
    return 0


def _as_typed(word: str) -> str:
    """Return an argument as UTF-8 where the locale could not decode it: terminals speak UTF-8, whatever it says."""
    if word.isascii():
        return word
    try:
        return os.fsencode(word).decode("utf-8")
    except (UnicodeDecodeError, UnicodeEncodeError):
        return word


def _told(words: Sequence[str], error: OnomaxisError) -> int:
    """Say what went wrong, as a document where the command line asks for one; return the exit code."""
    if _wants_json(words):
        from onomaxis.cli.output import print_json

        document = {
            "kind": error.kind,
            "message": error.message,
            "file": error.file,
            "line": error.line,
            "remedy": error.remedy,
            "exit": error.exit_code,
        }
        print_json({"error": document})
    else:
        from onomaxis.cli.output import tell

        usage = f"{error.usage}onomaxis: error: {error.message}" if isinstance(error, UsageError) else ""
        tell(usage or f"onomaxis: {error}")
    return error.exit_code


def _wants_json(words: Sequence[str]) -> bool:
    """Tell whether a command line, whole or not, asks for JSON."""
    given = list(words[: words.index("--")] if "--" in words else words)
    asked = any(len(word) > 3 and "--json".startswith(word) for word in given)
    return asked or "--as=json" in given or ("--as", "json") in itertools.pairwise(given)


def run() -> None:
    """Run the command line and exit: the console script."""
    gc.set_threshold(200_000, 10, 10)  # a short run makes no circles worth looking for, a long one many
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):  # a name that the terminal cannot show is escaped, never a fault
            stream.reconfigure(errors="backslashreplace")
    sys.exit(main())
