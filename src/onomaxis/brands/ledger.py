"""The ledger: one row for every build that was published, in ``onomaxis.ledger.csv`` at the project's root."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterator, Sequence, Set
from typing import NamedTuple

from onomaxis import late
from onomaxis.errors import InputError
from onomaxis.identity.table import cell_of, cell_said
from onomaxis.platforms import PLATFORMS

COLUMNS = ("date", "platform", "flavor", "id", "version", "build", "fingerprint", "digest")
# Ledgers from before packages were kept have no digest.
_BEFORE = COLUMNS[:-1]
# git-scm.com, git-merge, "How conflicts are presented".
_MERGING = late.compile(r"(?:<{7}|>{7}|\|{7})(?: |\Z)|={7}\r?\Z")
_DATE = late.compile(r"\d{4}-\d{2}-\d{2}\Z")
_DIGEST = late.compile(r"sha256:[0-9a-f]{64}\Z")
# In the place of a digest: a build number that is kept for a build that is not published yet.
RESERVED = "reserved"
_PRINT = late.compile(r"(?:[0-9A-F]{2}:){31}[0-9A-F]{2}\Z")


class Published(NamedTuple):
    """One published build; ``line`` is its line in the file, ``digest`` that of its package (``sha256:…``).

    A row whose digest is the word ``reserved`` keeps a number for a build that is still to be published.
    """

    date: str
    platform: str
    flavor: str
    id: str
    version: str
    build: str
    fingerprint: str
    digest: str = ""
    line: int = 0

    @property
    def number(self) -> tuple[int, ...]:
        """The build number as numbers, to be compared."""
        return build_number(self.build)

    @property
    def reserved(self) -> bool:
        """True for a number that is only kept."""
        return self.digest == RESERVED

    @property
    def key(self) -> tuple[str, str, str, tuple[int, ...]]:
        """Whose number it is, and which: a store accepts it once."""
        return self.platform, self.flavor.casefold(), self.id, trimmed(self.number)


def build_number(text: str) -> tuple[int, ...]:
    """Return a build number (``41`` or ``1.2.3``) as numbers; an empty tuple where it is none."""
    return tuple(int(part) for part in text.split(".")) if re.fullmatch(r"\d+(?:\.\d+)*", text) else ()


def trimmed(number: tuple[int, ...]) -> tuple[int, ...]:
    """Return a number without zeros at its end: 2.0 is 2."""
    end = len(number)
    while end > 1 and number[end - 1] == 0:
        end -= 1
    return number[:end]


def read_ledger(path: str, data: bytes) -> tuple[Published, ...]:
    """Read a ledger. Raises InputError with the line for what does not belong into it."""
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise InputError("the ledger is not UTF-8", file=path, line=1) from None
    merging = next((n for n, line in enumerate(text.split("\n"), 1) if _MERGING.match(line)), 0)
    if merging:
        said = "a merge of the ledger is not resolved"
        raise InputError(said, file=path, line=merging, remedy="Keep each row of both sides once.")
    reader = csv.reader(io.StringIO(text, newline=""))
    head = next(reader, [])
    if tuple(head) not in (COLUMNS, _BEFORE):
        raise InputError(f"the ledger's first line is not {','.join(COLUMNS)}", file=path, line=1)
    rows = []
    for cells in reader:
        if not cells:
            continue
        if len(cells) != len(head):
            said = f"this row has {len(cells)} columns, the heading has {len(head)}"
            raise InputError(said, file=path, line=reader.line_num)
        row = Published._make([*map(cell_said, cells), *[""] * (len(COLUMNS) - len(head)), reader.line_num])
        check_row(path, row)
        rows.append(row)
    return tuple(rows)


def check_row(path: str, row: Published) -> None:
    """Check one row. Raises InputError."""

    def fault(message: str) -> InputError:
        return InputError(message, file=path, line=row.line)

    if not _DATE.match(row.date):
        raise fault(f"“{row.date}” is not a date such as 2026-05-31")
    if row.platform not in PLATFORMS:
        raise fault(f"“{row.platform}” is neither android nor ios")
    if not build_number(row.build):
        raise fault(f"“{row.build}” is not a build number")
    if row.fingerprint and not _PRINT.match(row.fingerprint):
        raise fault("the fingerprint is not a SHA-256 in capital hexadecimal pairs with colons")
    if row.digest and not row.reserved and not _DIGEST.match(row.digest):
        raise fault("the digest is none such as sha256: and 64 hexadecimal digits")


def written(rows: Sequence[Published], newline: str = "\n", head: bool = True) -> str:
    """Return rows as text."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator=newline)
    if head:
        writer.writerow(COLUMNS)
    writer.writerows([cell_of(str(cell)) for cell in row[:-1]] for row in rows)
    return out.getvalue()


def widened(text: str) -> str:
    """Return a ledger's text with all of today's columns: those that a row lacks are empty; all else stays."""
    if tuple(next(csv.reader(io.StringIO(text.removeprefix("\ufeff"), newline="")), [])) != _BEFORE:
        return text
    lines = _lines(text)
    reader = csv.reader(io.StringIO(text, newline=""))
    for number, cells in enumerate(reader):
        line = lines[reader.line_num - 1]
        body = line.rstrip("\r\n")
        more = f",{COLUMNS[-1]}" if number == 0 else ","
        lines[reader.line_num - 1] = (body + more if cells else body) + line[len(body) :]
    return "".join(lines)


def without_lines(text: str, gone: Set[int]) -> str:
    """Return a ledger's text without some of its lines, as rows count them."""
    return "".join(line for number, line in enumerate(_lines(text), 1) if number not in gone)


def _lines(text: str) -> list[str]:
    """Return lines as the csv reader counts them."""
    return re.findall(r"[^\n]*\n|[^\n]+", text)


def told_twice(rows: Sequence[Published]) -> Iterator[tuple[Published, Published]]:
    """Yield rows of one app that tell of one build number twice, each with the first that does.

    A number may be reserved, and published as what it was reserved for.
    """
    first: dict[object, Published] = {}
    for row in rows:
        known = first.setdefault((row.reserved, row.key), row)
        if known is not row:
            yield known, row


def published(rows: Sequence[Published]) -> tuple[Published, ...]:
    """Return the rows of what was published: without those that reserve a number."""
    return tuple(row for row in rows if not row.reserved)


def mine(rows: Sequence[Published], platform: str, flavor: str, id_: str = "") -> list[Published]:
    """Return what was published of one flavor on one platform, the last one last.

    Rows without a flavor are those of the one that bears their ID: what is told of plain configurations may change.
    """
    here = [row for row in published(rows) if row.platform == platform]
    found = [row for row in here if row.flavor.casefold() == flavor.casefold()]
    found = found or [row for row in here if not row.flavor and row.id == id_]
    return sorted(found, key=lambda row: (row.number, row.date))
