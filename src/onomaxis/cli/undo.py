"""``onomaxis undo``: takes a change back."""

from __future__ import annotations

import argparse
from pathlib import Path

from onomaxis.cli.output import confirmed, count, print_json, say
from onomaxis.cli.session import repair
from onomaxis.cli.writing import show_diff
from onomaxis.errors import InputError
from onomaxis.writing.undo import chosen_entry, undo, undo_changes
from onomaxis.writing.write import locked

_REASON = "files that were changed since would be overwritten"


def execute(options: argparse.Namespace) -> int:
    """Run the command."""
    root = Path(options.project)
    if not root.is_dir():
        raise InputError("there is no such folder", file=options.project)
    root = root.resolve()
    repair(options, options.project)
    entry = chosen_entry(root, options.change)
    changes = undo_changes(root, entry, options.despite_changes)
    if options.dry_run:
        show_diff(options, changes)
        return 0
    say(options, f"Change {entry.id} ({entry.title}): {count(len(changes), 'file')} to put back")
    if not confirmed(options, "Put them back?", lambda: _REASON if options.despite_changes else ""):
        say(options, "Nothing was changed.")
        return 3
    with locked(root):
        journal = undo(root, entry, changes)
    if options.json:
        print_json({"undone": entry.id, "files": [c.target or c.source for c in changes], "journal": journal})
    else:
        print(f"Change {entry.id} was taken back: {count(len(changes), 'file')} as before.")
    return 0
