"""A sign of life for what takes more than half a second: on a terminal only, gone when it is done."""

from __future__ import annotations

import argparse
import contextlib
import sys
import threading
from collections.abc import Iterator

# Seconds after which a person begins to wonder.
_SOON = 0.5


@contextlib.contextmanager
def working(options: argparse.Namespace, what: str) -> Iterator[None]:
    """Say what is being done while the block runs, where somebody watches and it takes long enough."""
    if options.quiet or options.json or not sys.stderr.isatty():
        yield
        return
    done = threading.Event()
    sign = threading.Thread(target=_show, args=(options, what, done), daemon=True)
    sign.start()
    try:
        yield
    finally:
        done.set()
        sign.join()


def _show(options: argparse.Namespace, what: str, done: threading.Event) -> None:
    if done.wait(_SOON):
        return
    from onomaxis.cli.output import make_console

    with make_console(options, error=True).status(f"{what} …"):
        done.wait()
