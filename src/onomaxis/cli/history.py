"""``onomaxis history``: the changes that the journal keeps."""

from __future__ import annotations

import argparse
from pathlib import Path

from onomaxis.cli.layout import Cell, put
from onomaxis.cli.output import count, make_console, print_json, say, warn
from onomaxis.cli.session import locate
from onomaxis.errors import InputError
from onomaxis.writing.journal import Entry, Journal


def execute(options: argparse.Namespace) -> int:
    """Run the command."""
    locate(options)
    root = Path(options.project)
    if not root.is_dir():
        raise InputError("there is no such folder", file=options.project)
    journal = Journal(root.resolve())
    entries = journal.entries()
    damaged = journal.damaged()
    undone = {entry.undoes: entry.id for entry in entries if entry.undoes}
    if options.json:
        print_json({"changes": [_document(entry, undone) for entry in entries], "damaged": damaged})
        return 0
    for name in damaged:
        warn(options, f"change {name} cannot be read: its entry is damaged, or came from elsewhere")
    if not entries:
        say(options, "No change has been made here yet.")
        return 0
    _show(options, entries, undone)
    return 0


def _document(entry: Entry, undone: dict[str, str]) -> dict[str, object]:
    files = [record.target or record.source for record in entry.records]
    return {
        "id": entry.id,
        "title": entry.title,
        "files": files,
        "undoes": entry.undoes,
        "undone_by": undone.get(entry.id, ""),
        "state": entry.state,
        "own": entry.own,
    }


def _show(options: argparse.Namespace, entries: list[Entry], undone: dict[str, str]) -> None:
    console = make_console(options)
    for entry in reversed(entries):
        state = f"undone by {undone[entry.id]}" if entry.id in undone else ""
        if entry.state != "done":
            state = "interrupted: onomaxis undo takes it back"
        elif not entry.own:
            state = state or "not known to be made by you"
        numbers = f"{count(len(entry.records), 'file')}{f'; {state}' if state else ''}"
        put(console, Cell(f"{entry.id}  ", "bold"), Cell(entry.title), hang=6)
        put(console, Cell(numbers, "dim"), indent=6)
