"""What the commands share for output: colours, tables, JSON, the question before writing."""

from __future__ import annotations

import argparse
import json
import os
import sys
from collections.abc import Callable, Iterable
from typing import TYPE_CHECKING, Any

from onomaxis.cli.layout import Cell, filled, heading, in_code_page, pairs, put
from onomaxis.errors import RefusedError, StoppedError
from onomaxis.visible import visible

if TYPE_CHECKING:
    from onomaxis.cli.console import SafeConsole

_PIPE_WIDTH = 80


def print_json(document: dict[str, Any]) -> None:
    """Print one JSON document; ``format`` comes first. Lists of objects stand one object a line."""
    parts = [f"{json.dumps(key)}: {_json_value(value)}" for key, value in {"format": 1, **document}.items()]
    text = "{\n" + ",\n".join(parts) + "\n}"
    # A byte of a file name or a diff that is not UTF-8 stays distinct: as JSON's own escape.
    sys.stdout.buffer.write(text.encode("utf-8", "backslashreplace") + b"\n")
    sys.stdout.buffer.flush()


def _json_value(value: Any) -> str:
    write = json.JSONEncoder(ensure_ascii=False).encode
    if isinstance(value, list) and value:
        return "[\n" + ",\n".join("  " + write(item) for item in value) + "\n]"
    return write(value)


def make_console(options: argparse.Namespace, error: bool = False) -> SafeConsole:
    """Return a console for results, or for messages. Colour only where it is wanted, eighty columns in a pipe."""
    from onomaxis.cli.console import SafeConsole

    stream = sys.stderr if error else sys.stdout
    coloured = wants_colour(options, stream.isatty())
    stated = os.environ.get("COLUMNS", "")
    width = int(stated) if stated.isdecimal() and int(stated) > 0 else None if stream.isatty() else _PIPE_WIDTH
    console = SafeConsole(
        file=stream,
        no_color=not coloured,
        force_terminal=coloured,
        color_system="auto" if stream.isatty() or not coloured else "standard",
        width=width,
        highlight=False,
        soft_wrap=False,
        markup=False,
        emoji=False,
    )
    console.every = getattr(options, "all", False)
    console.root = getattr(options, "root", None)
    return console


def wants_colour(options: argparse.Namespace, terminal: bool) -> bool:
    """Tell whether output is coloured: by the option, else by the environment, else on terminals.

    Sources: no-color.org, force-color.org, bixense.com/clicolors (the variables and their order).
    """
    asked = getattr(options, "color", "auto")
    if options.no_color or asked == "never":
        return False
    if asked == "always":
        return True
    if os.environ.get("NO_COLOR"):
        return False
    if os.environ.get("FORCE_COLOR") or os.environ.get("CLICOLOR_FORCE", "0") != "0":
        return True
    return terminal and os.environ.get("CLICOLOR", "1") != "0"


def say(options: argparse.Namespace, text: str) -> None:
    """Print a message to standard error unless told to be quiet."""
    if not options.quiet and not options.json:
        tell(text)


def warn(options: argparse.Namespace, text: str) -> None:
    """Print a warning to standard error unless told to be quiet: beside a JSON document too."""
    if not options.quiet:
        tell(f"onomaxis: {text}")


def tell(text: str) -> None:
    """Print a message to standard error: filled to a terminal's width, in what its code page can show."""
    shown = in_code_page(visible(text), sys.stderr.encoding)
    if sys.stderr.isatty():
        import shutil

        width = shutil.get_terminal_size().columns
        shown = "\n".join(part for line in shown.split("\n") for part in _filled(line, width))
    print(shown, file=sys.stderr)


def _filled(line: str, width: int) -> Iterable[str]:
    body = line.lstrip(" ")
    indent = " " * (len(line) - len(body))
    return (f"{indent}{part}" for part in filled(body, width - len(indent))) if body else [""]


def count(number: int, noun: str, plural: str = "") -> str:
    """Return “1 file”, “2 files”."""
    return f"{number} {noun if number == 1 else plural or noun + 's'}"


def confirm(options: argparse.Namespace, question: str, unprotected: Callable[[], tuple[str, str]]) -> None:
    """Ask before writing, unless told not to. Raises StoppedError for a “no”.

    Without a terminal an answer that waits on standard input is read. Where there is none, the command line counts as
    the answer only if version control keeps every file concerned: *unprotected* says why it does not. Raises
    RefusedError then.
    """
    if options.yes:
        return
    if sys.stdin.isatty() and not options.json:
        return ask(question)
    answer = None if sys.stdin.isatty() else _waiting_answer()
    if answer:
        return _heed(answer)
    reason, way = unprotected()
    if reason:
        raise RefusedError(f"there is nobody to ask, and {reason}", remedy=f"{way}; nothing was changed.")


def ask(question: str) -> None:
    """Ask the person at the terminal. Raises StoppedError for anything but a “yes”.

    What stands in lines before the question is filled to the terminal's width.
    """
    before, _, last = question.rpartition("\n")
    if before:
        tell(before)
    print(f"{last} [y/N] ", end="", file=sys.stderr, flush=True)
    _heed(sys.stdin.readline())


def _heed(answer: str) -> None:
    if answer.strip().lower() not in ("y", "yes"):
        raise StoppedError("stopped; nothing was changed")


def _read_line() -> str:
    """Read below Python's buffers: a thread that waits in them would keep the program from ending."""
    try:
        return os.read(sys.stdin.fileno(), 1024).decode("utf-8", "replace").partition("\n")[0]
    except (OSError, ValueError):  # no real file: a test's
        return sys.stdin.readline()


# How long a pipe without an answer is waited for, in seconds: some CI systems leave one open for ever.
_PATIENCE = 0.5


def _waiting_answer() -> str:
    """Return the line that waits on standard input; empty when there is none soon."""
    import threading

    found: list[str] = []
    reader = threading.Thread(target=lambda: found.append(_read_line()), daemon=True)
    reader.start()
    reader.join(_PATIENCE)
    return found[0] if found else ""


def section(
    console: SafeConsole, title: str, rows: Iterable[tuple[str, str]], limit: int = 0, places: bool = True
) -> None:
    """Print a titled list of place and text; a place that is the whole project is not told.

    Without *places* the first column holds something else.
    """
    items = [("" if place in (".", "") else console.place(place) if places else place, text) for place, text in rows]
    if not items:
        return
    heading(console, title)
    shown = items[:limit] if limit else items
    pairs(console, shown)
    if len(items) > len(shown):
        put(console, Cell(f"… and {len(items) - len(shown)} more", "dim"), indent=2)


def print_diff(console: SafeConsole, lines: Iterable[str]) -> None:
    """Print the lines of a unified diff, in colour where the console has it."""
    from rich.text import Text

    for line in lines:
        style = {"+": "green", "-": "red", "@": "cyan", "d": "bold", "r": "bold", "n": "bold"}.get(line[:1], "")
        console.print(Text(in_code_page(line, console.encoding), style=style), soft_wrap=True)
