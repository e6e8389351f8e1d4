"""A console on which text from files is only ever shown, never obeyed."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from rich.console import Console
from rich.segment import Segment

from onomaxis.cli.layout import in_code_page
from onomaxis.cli.standing import from_here
from onomaxis.visible import visible


class SafeConsole(Console):
    """Makes control characters visible in everything that is printed; the console's own codes are not text."""

    # Whether lists are shown whole.
    every: bool = False
    # The project that places belong to; None where they are told as they are.
    root: Path | None = None

    def place(self, place: str) -> str:
        """Return a place of the project as it is read from here."""
        return from_here(self.root, place)

    def on_broken_pipe(self) -> None:
        """Leave it to the program to end: here it would end with the exit code for findings."""
        raise BrokenPipeError

    def _render_buffer(self, buffer: Iterable[Segment]) -> str:
        encoding = self.encoding
        safe = (
            item if item.control else Segment(in_code_page(visible(item.text), encoding), item.style)
            for item in buffer
        )
        return super()._render_buffer(safe)
