"""What the commands share for output: colours, tables, JSON, the question before writing."""

from __future__ import annotations

import argparse
import json
import os
import sys
from collections.abc import Callable, Iterable
from typing import TYPE_CHECKING, Any

from onomaxis.cli.visible import visible
from onomaxis.errors import RefusedError, StoppedError

if TYPE_CHECKING:
    from rich.console import Console
    from rich.table import Table

_PIPE_WIDTH = 220
_PLACE_WIDTH = 84


def print_json(document: dict[str, Any]) -> None:
    """Print one JSON document; ``format`` comes first. Lists of objects stand one object a line."""
    parts = [f"{json.dumps(key)}: {_json_value(value)}" for key, value in {"format": 1, **document}.items()]
    text = "{\n" + ",\n".join(parts) + "\n}"
    # What is no character (a byte of a file name or a diff that is no UTF-8) stays told apart: as JSON's own escape.
    sys.stdout.buffer.write(text.encode("utf-8", "backslashreplace") + b"\n")
    sys.stdout.buffer.flush()


def _json_value(value: Any) -> str:
    if isinstance(value, list) and value:
        return "[\n" + ",\n".join("  " + json.dumps(item, ensure_ascii=False) for item in value) + "\n]"
    return json.dumps(value, ensure_ascii=False)


def make_console(options: argparse.Namespace, error: bool = False) -> Console:
    """Return a console for results, or for messages. Colour only on a terminal that wants it."""
    from onomaxis.cli.console import SafeConsole

    stream = sys.stderr if error else sys.stdout
    plain = options.no_color or bool(os.environ.get("NO_COLOR")) or not stream.isatty()
    width = None if stream.isatty() else _PIPE_WIDTH
    return SafeConsole(
        file=stream,
        no_color=plain,
        force_terminal=None if not plain else False,
        width=width,
        highlight=False,
        soft_wrap=False,
        markup=False,
        emoji=False,
    )


def say(options: argparse.Namespace, text: str) -> None:
    """Print a message to standard error unless told to be quiet."""
    if not options.quiet and not options.json:
        print(visible(text), file=sys.stderr)


def warn(options: argparse.Namespace, text: str) -> None:
    """Print a warning to standard error unless told to be quiet: beside a JSON document too."""
    if not options.quiet:
        print(f"onomaxis: {visible(text)}", file=sys.stderr)


def count(number: int, noun: str, plural: str = "") -> str:
    """Return “1 file”, “2 files”."""
    return f"{number} {noun if number == 1 else plural or noun + 's'}"


def confirm(options: argparse.Namespace, question: str, unprotected: Callable[[], str]) -> None:
    """Ask before writing, unless told not to. Raises StoppedError for a “no”.

    Without a terminal an answer that waits on standard input is read. Where there is none, the command line counts as
    the answer only if version control keeps every file concerned: *unprotected* says why it does not. Raises
    RefusedError then.
    """
    if options.yes:
        return
    if sys.stdin.isatty() and not options.json:
        print(f"{question} [y/N] ", end="", file=sys.stderr, flush=True)
        return _heed(sys.stdin.readline())
    answer = None if sys.stdin.isatty() else _waiting_answer()
    if answer:
        return _heed(answer)
    reason = unprotected()
    if reason:
        raise RefusedError(
            f"there is nobody to ask, and {reason}", remedy="Commit them first, or pass --yes; nothing was changed."
        )


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


def section(console: Console, title: str, rows: Iterable[tuple[str, str]], limit: int = 0) -> None:
    """Print a titled list of place and text, the places in one column."""
    from rich.text import Text

    items = list(rows)
    if not items:
        return
    console.print()
    console.print(Text(title, style="bold"))
    shown = items[:limit] if limit else items
    if console.is_terminal:
        console.print(_grid(shown))
    else:
        width = min(max(len(place) for place, _ in shown), _PLACE_WIDTH)
        for place, text in shown:
            console.print(f"  {place.ljust(width)}  {text}".rstrip(), soft_wrap=True)
    if len(items) > len(shown):
        console.print(Text(f"  … and {len(items) - len(shown)} more", style="dim"))


def _grid(rows: list[tuple[str, str]]) -> Table:
    """Lay out places and texts in two columns; a long text goes on below itself."""
    from rich.table import Table
    from rich.text import Text

    grid = Table.grid(padding=(0, 2, 0, 0))
    grid.add_column(width=0)
    grid.add_column(style="cyan", overflow="fold", max_width=_PLACE_WIDTH)
    grid.add_column(overflow="fold")
    for place, text in rows:
        grid.add_row("", Text(place), Text(text))
    return grid


def print_diff(console: Console, lines: Iterable[str]) -> None:
    """Print the lines of a unified diff, in colour where the console has it."""
    from rich.text import Text

    for line in lines:
        style = {"+": "green", "-": "red", "@": "cyan", "d": "bold", "r": "bold", "n": "bold"}.get(line[:1], "")
        console.print(Text(line, style=style), soft_wrap=True)
