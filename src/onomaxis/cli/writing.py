"""What the commands that write share: the diff on a terminal or a pipe, and writing under the lock with progress."""

from __future__ import annotations

import argparse
import contextlib
import os
import shutil
import subprocess
import sys
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from onomaxis.cli.output import make_console, print_diff, warn
from onomaxis.writing.change import FileChange
from onomaxis.writing.preview import patch
from onomaxis.writing.write import Labels, Written, carry_out, locked

if TYPE_CHECKING:
    from onomaxis.cli.console import SafeConsole

_WORTH_SHOWING = 200


def show_diff(options: argparse.Namespace, changes: tuple[FileChange, ...]) -> None:
    """Print a change as a diff: in colour for people, byte for byte for programs."""
    console = make_console(options)
    if sys.stdout.isatty():
        text = patch(changes, pictures=False).decode("utf-8", "replace")
        lines = (line.rstrip("\r") for line in text.split("\n")[:-1])
        with paged(console):
            print_diff(console, lines)
        return
    sys.stdout.flush()
    sys.stdout.buffer.write(patch(changes))
    sys.stdout.buffer.flush()


@contextlib.contextmanager
def paged(console: SafeConsole) -> Iterator[None]:
    """Show what is printed in the block through the person's pager, as git does, where one is set or found."""
    pager = os.environ.get("PAGER", "less" if shutil.which("less") else "cat")
    if pager in ("", "cat") or not sys.stdin.isatty():
        yield
        return
    with console.capture() as captured:
        yield
    environment = {"LESS": "FRX", **os.environ}  # git-config, "core.pager": leave at once where all fits
    try:
        subprocess.run(pager, shell=True, input=captured.get().encode("utf-8"), check=False, env=environment)
    except OSError:
        sys.stdout.write(captured.get())


def report_left(options: argparse.Namespace, written: Written) -> None:
    """Say which emptied folders could not be removed."""
    for folder in written.left:
        warn(options, f"{folder}: the folder is empty now and could not be removed; remove it by hand")


def write_changes(options: argparse.Namespace, root: Path, changes: Sequence[FileChange], labels: Labels) -> Written:
    """Write under the lock, with a progress bar for a large change on a terminal."""
    with locked(root):
        if options.quiet or options.json or not sys.stderr.isatty() or len(changes) < _WORTH_SHOWING:
            return carry_out(root, changes, labels)
        from rich.progress import Progress

        with Progress(console=make_console(options, error=True), transient=True) as progress:
            task = progress.add_task("Writing", total=len(changes))
            return carry_out(root, changes, labels, lambda number: progress.update(task, completed=number))
