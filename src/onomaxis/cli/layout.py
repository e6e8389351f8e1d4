"""How output is laid out: nothing that people copy (an ID, a version, a place) is ever broken or cut.

A line is filled word by word; where a row of columns does not fit, it becomes a block, label above value. Code pages
without the marks used here get ASCII ones.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import TYPE_CHECKING, NamedTuple

from onomaxis import late
from onomaxis.visible import visible

if TYPE_CHECKING:
    from rich.console import Console

_ASCII = str.maketrans(
    {
        "→": "->",
        "…": "...",
        "—": "-",
        "–": "-",
        "“": '"',
        "”": '"',
        "’": "'",
        "‘": "'",
        "×": "x",
        "·": "-",
        "≥": ">=",
        "─": "-",
        "•": "*",
    }
)
# As far as the label of a row stands to the left, its value begins beside it.
_WIDEST_LABEL = 36


class Cell(NamedTuple):
    """A stretch of a line in one style."""

    text: str
    style: str = ""


def in_code_page(text: str, encoding: str) -> str:
    """Return a text that an encoding can show: marks in ASCII, what it lacks escaped."""
    try:
        text.encode(encoding or "ascii")
        return text
    except (UnicodeEncodeError, LookupError):
        return (
            text.translate(_ASCII)
            .encode(encoding or "ascii", "backslashreplace")
            .decode(encoding or "ascii", "replace")
        )


def safe(console: Console, text: str) -> str:
    """Return a text from a file as the console's stream can show it."""
    return in_code_page(visible(text), console.encoding)


def columns(text: str) -> int:
    """Return how many columns a text takes on a terminal."""
    from rich.cells import cell_len

    return len(text) if text.isascii() else cell_len(text)


def filled(text: str, width: int) -> Iterator[str]:
    """Yield a text in lines of at most *width* columns; a word that is wider stands alone in its line."""
    return (text[start:end].rstrip() for start, end in _spans(text, width, width))


def _spans(text: str, first: int, width: int) -> Iterator[tuple[int, int]]:
    """Yield where the lines of a text begin and end, the first of *first* columns, filled word by word."""
    start = position = 0
    room = first
    for word in re.split(r"(?<=[ \n])", text):
        end = position + len(word)
        body = word.rstrip(" \n")
        if position > start and columns(text[start:position] + body) > room:
            yield start, position
            start, room = position, width
        position = end
        if word.endswith("\n"):
            yield start, end - 1
            start, room = end, width
    yield start, position


def put(console: Console, *cells: Cell, indent: int = 0, hang: int = -1) -> None:
    """Print cells as one paragraph, filled to the console's width; further lines are indented by *hang*.

    What is too wide for its margin – a path – takes some of the margin.
    """
    from rich.text import Text

    hang = indent if hang < 0 else hang
    whole = Text()
    for cell in cells:
        whole.append(safe(console, cell.text), style=cell.style or None)
    for start, end in _spans(whole.plain, console.width - indent, console.width - hang):
        room = console.width - columns(whole.plain[start:end].rstrip())
        _line(console, Text(" " * min(hang if start else indent, max(room, 0))) + whole[start:end])


def _line(console: Console, line: object) -> None:
    from rich.text import Text

    assert isinstance(line, Text)
    line.rstrip()
    console.print(line, soft_wrap=True)


def blank(console: Console) -> None:
    """Print an empty line."""
    console.print()


def heading(console: Console, text: str) -> None:
    """Print a heading, an empty line above it."""
    blank(console)
    put(console, Cell(text, "bold"))


# The SHA-256 of a certificate, in two equal halves.
_DIGEST = late.compile(r"\b((?:[0-9A-F]{2}:){16})((?:[0-9A-F]{2}:){15}[0-9A-F]{2})\b")


def pairs(
    console: Console, rows: Iterable[tuple[str, str]], indent: int = 2, styles: tuple[str, str] = ("cyan", "")
) -> None:
    """Print labels and texts: in two columns where all labels are short, else each text below its label.

    On a terminal a digest that does not fit is broken in its middle; programs that read it get it whole.
    """
    items = [(safe(console, label), text) for label, text in rows]
    if not items:
        return
    widest = max(columns(label) for label, _ in items)
    room = console.width - indent - widest - 2
    beside = widest <= max(_WIDEST_LABEL, console.width // 3) and room >= 24
    for label, text in items:
        longest = max((columns(word) for word in safe(console, text).split()), default=0)
        if console.is_terminal and longest > room and _DIGEST.search(text):
            text = _DIGEST.sub(r"\1\n\2", text)
            longest = max(columns(word) for word in text.split())
        if not text:
            put(console, Cell(label, styles[0]), indent=indent)
        elif beside and longest <= room:
            padded = label + " " * (widest - columns(label))
            _beside(console, padded, text, indent, styles)
        elif not label:
            put(console, Cell(text, styles[1]), indent=indent)
        elif columns(label) + 2 + columns(text) + indent <= console.width:
            put(console, Cell(f"{label} ", styles[0]), Cell(f" {text}", styles[1]), indent=indent)
        else:
            put(console, Cell(label, styles[0]), indent=indent)
            put(console, Cell(text, styles[1]), indent=min(indent + 4, max(console.width - longest, indent)))


def _beside(console: Console, label: str, text: str, indent: int, styles: tuple[str, str]) -> None:
    from rich.text import Text

    start = indent + columns(label) + 2
    for number, part in enumerate(filled(safe(console, text), console.width - start)):
        line = Text(" " * indent)
        line.append(label if not number else " " * columns(label), style=styles[0] if not number else None)
        line.append("  ")
        line.append(part, style=styles[1] or None)
        _line(console, line)


def table(console: Console, titles: Sequence[str], rows: Sequence[Sequence[Cell]], indent: int = 0) -> bool:
    """Print rows in columns as wide as they need; print nothing and return False where they do not fit."""
    texts = [[safe(console, cell.text) for cell in row] for row in rows]
    heads = [safe(console, title) for title in titles]
    widths = [max(columns(text) for text in column) for column in zip(heads, *texts, strict=True)]
    if indent + sum(widths) + 2 * (len(widths) - 1) > console.width:
        return False
    lines = [[Cell(head, "bold") for head in heads], *rows] if any(heads) else list(rows)
    for row, shown in zip(lines, [heads, *texts] if any(heads) else texts, strict=True):
        cells = zip(row, shown, widths, strict=True)
        padded = [Cell(text + " " * (width - columns(text) + 2), cell.style) for cell, text, width in cells]
        _plain_line(console, padded, indent)
    return True


def below(console: Console, rows: Sequence[Sequence[Cell]], indent: int = 0) -> bool:
    """Print each row's first cell alone, the others in columns below it; print nothing where those do not fit."""
    texts = [[safe(console, cell.text) for cell in row[1:]] for row in rows]
    widths = [max(columns(text) for text in column) for column in zip(*texts, strict=True)]
    if indent + 2 + sum(widths) + 2 * (len(widths) - 1) > console.width:
        return False
    for row, shown in zip(rows, texts, strict=True):
        if row[0].text:
            put(console, row[0], indent=indent)
        cells = zip(row[1:], shown, widths, strict=True)
        padded = [Cell(text + " " * (width - columns(text) + 2), cell.style) for cell, text, width in cells]
        _plain_line(console, padded, indent + 2)
    return True


def _plain_line(console: Console, cells: Sequence[Cell], indent: int) -> None:
    from rich.text import Text

    line = Text(" " * indent)
    for cell in cells:
        line.append(cell.text, style=cell.style or None)
    _line(console, line)


def blocks(console: Console, titles: Sequence[str], rows: Sequence[Sequence[Cell]], indent: int = 0) -> None:
    """Print each row as a block: its first cell, and below it label and value of all that are not empty."""
    for row in rows:
        put(console, row[0], indent=indent)
        known = [(title, cell) for title, cell in zip(titles[1:], row[1:], strict=True) if cell.text]
        widest = max((columns(title) for title, _ in known), default=0)
        for title, cell in known:
            _beside(console, title + " " * (widest - columns(title)), cell.text, indent + 2, ("dim", cell.style))


def listed(values: Mapping[str, int] | Sequence[str], most: int = 3) -> str:
    """Return names in a row, and how many more there are."""
    names = list(values)
    return ", ".join(names[:most]) + (f" and {len(names) - most} more" if len(names) > most else "")
