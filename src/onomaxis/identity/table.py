"""A table of brands (CSV): a record a brand, a column a key below a flavor; what is blank is inherited.

Source of the form: RFC 4180, read by the standard library; the separator is told by the header.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator, Mapping, Sequence
from typing import Any, Literal, NamedTuple

from onomaxis import late
from onomaxis.errors import InputError
from onomaxis.formats.toml import FileLine, Path
from onomaxis.identity.schema import FLAVOR, TABLES, Key, nearest

FIRST = "flavor"
SEPARATORS = (",", ";", "\t")
# A longer cell is not text of a brand.
_LONGEST = 1 << 20


class Record(NamedTuple):
    """One record: its cells, and the 1-based lines at which it begins and ends."""

    cells: list[str]
    start: int
    end: int


def brands_of(path: str, data: bytes) -> Iterator[tuple[str, dict[str, Any], dict[Path, FileLine]]]:
    """Yield each brand's name, its table, and the lines of its keys. Raises InputError with file and line."""
    text = text_of_table(path, data)
    records = records_of(path, text)
    head = next(records, None)
    if head is None:
        raise InputError(
            "the table of brands is empty", file=path, line=1, remedy="Its first line names the columns."
        )
    columns = _columns(path, head)
    for record in records:
        if not any(cell.strip() for cell in record.cells):
            continue
        yield _brand(path, columns, record)


def text_of_table(path: str, data: bytes) -> str:
    """Return the text of a table. Raises InputError where it is not UTF-8."""
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = data.count(b"\n", 0, error.start) + 1
        remedy = "Save it as UTF-8 (in a spreadsheet: CSV UTF-8)."
        raise InputError("the table of brands is not UTF-8", file=path, line=line, remedy=remedy) from None


def separator_of(text: str) -> str:
    """Return what separates columns: what parts the first record most often."""
    first = text.partition("\n")[0]
    return max(SEPARATORS, key=first.count)


# What a spreadsheet would compute instead of show (OWASP, "CSV Injection"); a plain number is none.
_FORMULA = late.compile(r"'*(?=[=+\-@\t\r])(?![-+]?\d+(?:[.,]\d+)*\Z)")


def cell_of(text: str) -> str:
    """Return a cell that a spreadsheet shows as the text it is: with an apostrophe before what would be a formula."""
    return f"'{text}" if _FORMULA.match(text) else text


def cell_said(cell: str) -> str:
    """Return what a cell says; the inverse of :func:`cell_of`."""
    return cell[1:] if cell.startswith("'") and _FORMULA.match(cell) else cell


def records_of(path: str, text: str) -> Iterator[Record]:
    """Yield the records of a table, the header first. Raises InputError with file and line."""
    if "\0" in text:
        line = text.count("\n", 0, text.index("\0")) + 1
        raise InputError("the table of brands holds a NUL byte", file=path, line=line)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=separator_of(text), strict=True)
    start = 1
    while True:
        try:
            cells = next(reader, None)
        except csv.Error as error:
            said = f"the table cannot be read: {error}"
            raise InputError(said, file=path, line=start, remedy="Are all quotes closed?") from None
        if cells is None:
            return
        yield Record([cell_said(cell) for cell in cells], start, reader.line_num)
        start = reader.line_num + 1


def _columns(path: str, head: Record) -> list[tuple[str, ...]]:
    """Return the path of keys of each column. Raises InputError for an unknown or doubled one."""
    names = [cell.strip() for cell in head.cells]
    if names[:1] != [FIRST]:
        said = f"the first column is “{names[0] if names else ''}”, not “{FIRST}”"
        raise InputError(said, file=path, line=1, remedy="It names the brand, as the build does.")
    seen: dict[str, int] = {}
    for number, name in enumerate(names, 1):
        other = seen.setdefault(name, number)
        if other != number:
            raise InputError(f"columns {other} and {number} are both “{name}”", file=path, line=1)
    columns: list[tuple[str, ...]] = [()]
    for name in names[1:]:
        keys = tuple(name.split("."))
        if _kind(keys) is None:
            guess = nearest(name, list(known_columns(name)))
            remedy = (
                f"Did you mean “{guess}”?" if guess else "Columns are keys of a flavor: name, names.de, android.id."
            )
            raise InputError(f"there is no key “{name}” below a flavor", file=path, line=1, remedy=remedy)
        columns.append(keys)
    return columns


def _kind(keys: Sequence[str]) -> Key | None:
    """Return the kind of what a dotted key holds, None where a flavor has no such key or it is a table."""
    table, key = "flavor", Key("table", "", "flavor")
    for name in keys:
        if key.kind == "map":
            key = Key(key.of, "") if key.of not in TABLES else Key("table", "", key.of)
        else:
            found = TABLES.get(table, {}).get(name)
            if key.kind != "table" or found is None:
                return None
            key = found
        table = key.of
        if not name:
            return None
    return key if key.kind not in ("table", "map") else None


def known_columns(like: str = "") -> Iterator[str]:
    """Yield the columns that a table may have; of names and values that are free, what *like* says."""
    last = like.rpartition(".")[2] or "x"
    for head in ("", "android.", "ios."):
        for name, key in TABLES["platform"].items():
            if key.kind in ("table", "map"):
                free = key.kind == "map" and key.of not in TABLES
                inner = (last,) if free else tuple(TABLES.get(key.of, {}))
                lead = f"{last}." if key.kind == "map" and not free else ""
                yield from (f"{head}{name}.{lead}{item}" for item in inner)
            else:
                yield f"{head}{name}"


def _brand(
    path: str, columns: Sequence[tuple[str, ...]], record: Record
) -> tuple[str, dict[str, Any], dict[Path, FileLine]]:
    at = FileLine(record.start, path)
    if len(record.cells) > len(columns) and any(cell.strip() for cell in record.cells[len(columns) :]):
        said = f"the record has {len(record.cells)} cells, and there are {len(columns)} columns"
        raise InputError(said, file=path, line=at, remedy="Put quotes around a text that holds the separator.")
    name = record.cells[0].strip()
    if not FLAVOR.match(name):
        said = f"“{name}” names no flavor" if name else "the record names no flavor"
        raise InputError(said, file=path, line=at)
    brand: dict[str, Any] = {}
    lines: dict[Path, FileLine] = {("flavors", name): at}
    for keys, cell in zip(columns[1:], record.cells[1:], strict=False):
        text = cell.strip()
        if not text:
            continue
        if len(text) > _LONGEST:
            raise InputError(f"{'.'.join(keys)} is too long", file=path, line=at)
        holder = brand
        for key in keys[:-1]:
            holder = holder.setdefault(key, {})
        kind = _kind(keys)
        holder[keys[-1]] = text.split() if kind is not None and kind.kind == "list" else text
        lines[("flavors", name, *keys)] = at
        if isinstance(holder[keys[-1]], list):
            lines |= {("flavors", name, *keys, str(number)): at for number in range(len(holder[keys[-1]]))}
    return name, brand, lines


# -- writing


def flattened(brand: Any, head: str = "") -> dict[str, str]:
    """Return a brand's table as cells by column; items of a list are parted by line breaks."""
    cells: dict[str, str] = {}
    for key, value in brand.items():
        if isinstance(value, dict):
            cells |= flattened(value, f"{head}{key}.")
        else:
            cells[f"{head}{key}"] = "\n".join(map(str, value)) if isinstance(value, list) else _cell(value)
    return cells


def _cell(value: object) -> str:
    return ("true" if value else "false") if isinstance(value, bool) else str(value)


def new_table(brands: Mapping[str, Mapping[str, Any]]) -> bytes:
    """Return the table of some brands; a column for every key that any of them has."""
    rows = {name: flattened(brand) for name, brand in brands.items()}
    columns = [FIRST, *dict.fromkeys(key for cells in rows.values() for key in cells)]
    lines = [columns, *([name, *(cells.get(key, "") for key in columns[1:])] for name, cells in rows.items())]
    return "".join(_record(line, ",", "\n") for line in lines).encode("utf-8")


def rewritten_table(path: str, data: bytes, cells: Mapping[str, Mapping[str, str]]) -> bytes:
    """Return a table with some cells of some brands changed; records that none of it is in stay byte for byte.

    A brand that is not there is added at the end, a column that is not there behind the last.
    Raises InputError where the table cannot be read.
    """
    text = text_of_table(path, data)
    records = list(records_of(path, text))
    separator, newline = separator_of(text), "\r\n" if "\r\n" in text else "\n"
    columns = [cell.strip() for cell in records[0].cells]
    more = [key for changed in cells.values() for key in changed if key not in columns]
    columns += list(dict.fromkeys(more))
    lines = list(io.StringIO(text, newline=""))  # as the standard reader counts them
    written = [_record(columns, separator, newline) if more else "".join(lines[: records[0].end])]
    left = dict(cells)
    for record in records[1:]:
        changed = left.pop(record.cells[0].strip() if record.cells else "", None)
        if changed is None:
            written.append("".join(lines[record.start - 1 : record.end]))
            continue
        values = [*record.cells, *[""] * (len(columns) - len(record.cells))]
        for key, value in changed.items():
            values[columns.index(key)] = value
        written.append(_record(values, separator, newline))
    if left and not written[-1].endswith("\n"):
        written.append(newline)
    for name, changed in left.items():
        written.append(_record([name, *(changed.get(key, "") for key in columns[1:])], separator, newline))
    mark = b"\xef\xbb\xbf" if data.startswith(b"\xef\xbb\xbf") else b""
    return mark + "".join(written).encode("utf-8")


def without_brand(path: str, data: bytes, name: str) -> bytes:
    """Return a table without a brand's record. Raises InputError where the table cannot be read."""
    text = text_of_table(path, data)
    lines = list(io.StringIO(text, newline=""))  # as the standard reader counts them
    kept = [
        "".join(lines[record.start - 1 : record.end])
        for number, record in enumerate(records_of(path, text))
        if not number or not record.cells or record.cells[0].strip().casefold() != name.casefold()
    ]
    mark = b"\xef\xbb\xbf" if data.startswith(b"\xef\xbb\xbf") else b""
    return mark + "".join(kept).encode("utf-8")


def _record(cells: Sequence[str], separator: str, newline: str) -> str:
    out = io.StringIO(newline="")
    # The library does not put every end of line into quotes by itself.
    whole = any(mark in cell for cell in cells for mark in "\r\n")
    quoting: Literal[0, 1] = csv.QUOTE_ALL if whole else csv.QUOTE_MINIMAL
    csv.writer(out, delimiter=separator, lineterminator=newline, quoting=quoting).writerow(map(cell_of, cells))
    return out.getvalue()
