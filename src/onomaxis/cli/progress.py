"""A sign of life for what takes more than half a second: on a terminal only, gone when it is done."""

from __future__ import annotations

import argparse
import contextlib
import itertools
import os
import sys
import threading
from collections.abc import Callable, Iterator

from onomaxis.cli.layout import in_code_page
from onomaxis.cli.output import make_console

Tick = Callable[[int, int], None]
# Waits for an event so many seconds at most, and tells whether it has come.
Wait = Callable[[threading.Event, float], bool]

# Seconds after which a person begins to wonder, and between two signs.
_SOON, _NEXT = 0.5, 0.1
_SIGNS = "-\\|/"


@contextlib.contextmanager
def working(options: argparse.Namespace, what: str, wait: Wait = threading.Event.wait) -> Iterator[None]:
    """Say what is being done while the block runs, where somebody watches and it takes long enough.

    The block may fork helpers: no sign is being written at that moment, so that a helper inherits no stream that a
    thread, which it does not have, would hold for ever.
    """
    if options.quiet or options.json or not sys.stderr.isatty():
        yield
        return
    done, pen = threading.Event(), threading.Lock()
    if hasattr(os, "register_at_fork"):
        os.register_at_fork(before=pen.acquire, after_in_parent=pen.release, after_in_child=pen.release)
    text = in_code_page(f"{what} …", sys.stderr.encoding)
    sign = threading.Thread(target=_show, args=(text, done, pen, wait), daemon=True)
    sign.start()
    try:
        yield
    finally:
        done.set()
        sign.join()


def _show(text: str, done: threading.Event, pen: threading.Lock, wait: Wait) -> None:
    if wait(done, _SOON):
        return
    for sign in itertools.cycle(_SIGNS):
        with pen:
            sys.stderr.write(f"\r{sign} {text}")
            sys.stderr.flush()
        if wait(done, _NEXT):
            break
    with pen:
        sys.stderr.write(f"\r{' ' * (len(text) + 2)}\r")
        sys.stderr.flush()


@contextlib.contextmanager
def drawing(options: argparse.Namespace, what: str = "Drawing") -> Iterator[Tick | None]:
    """Show how much is drawn, on a terminal. The bar has no thread of its own: helpers are forked meanwhile."""
    if options.quiet or options.json or not sys.stderr.isatty():
        yield None
        return
    from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn

    columns = (TextColumn(what), BarColumn(), MofNCompleteColumn())
    console = make_console(options, error=True)
    with Progress(*columns, console=console, transient=True, auto_refresh=False) as progress:
        task = progress.add_task("", total=None)

        def tick(done: int, total: int) -> None:
            progress.update(task, completed=done, total=total, refresh=True)

        yield tick
