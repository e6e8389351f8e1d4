"""``onomaxis undo``: takes a change back, first of all one that was interrupted."""

from __future__ import annotations

import argparse
from pathlib import Path

from onomaxis.cli.output import confirm, count, print_json, say, warn
from onomaxis.cli.session import locate
from onomaxis.cli.writing import report_left, show_diff
from onomaxis.errors import InputError, RefusedError
from onomaxis.writing.journal import Entry
from onomaxis.writing.preview import unified_diff
from onomaxis.writing.recover import recover, waiting
from onomaxis.writing.undo import chosen_entry, foreign_reason, refuse_foreign, undo, undo_changes
from onomaxis.writing.write import locked

_REASON = "files that were changed later would be overwritten"


def execute(options: argparse.Namespace) -> int:
    """Run the command."""
    locate(options)
    root = Path(options.project)
    if not root.is_dir():
        raise InputError("there is no such folder", file=options.project)
    root = root.resolve()
    begun = waiting(root)
    if begun is not None and (options.foreign_entry or not foreign_reason(root, begun)):
        return _finish(options, root, begun)
    if begun is not None:
        warn(options, f"change {begun.id} was interrupted, and may have come with the repository: it is left alone")
    entry = chosen_entry(root, options.change)
    if not options.foreign_entry:
        refuse_foreign(root, entry)
    if entry.state != "done":
        raise InputError(f"change {entry.id} was never finished", remedy="Pass --foreign-entry to take it back.")
    changes = undo_changes(root, entry, options.despite_changes)
    if options.dry_run and options.json:
        files = [change.target or change.source for change in changes]
        document = {"undone": entry.id, "files": files, "left": [], "journal": "", "diff": unified_diff(changes)}
        print_json(document)
        return 0
    if options.dry_run:
        show_diff(options, changes)
        return 0
    say(options, f"Change {entry.id} ({entry.title}): {count(len(changes), 'file')} to put back")
    confirm(options, "Put them back?", lambda: (_REASON if options.despite_changes else "", "Pass --yes"))
    with locked(root):
        written = undo(root, entry, changes)
    if options.json:
        files = [change.target or change.source for change in changes]
        print_json({"undone": entry.id, "files": files, "left": list(written.left), "journal": written.id})
    else:
        print(f"Change {entry.id} was taken back: {count(len(changes), 'file')} as before.")
        report_left(options, written)
    return 0


def _finish(options: argparse.Namespace, root: Path, entry: Entry) -> int:
    """Take back a change that was interrupted: that, and nothing else."""
    if options.change and options.change.lstrip("0") != entry.id.lstrip("0"):
        raise RefusedError(
            f"an interrupted change waits: {entry.id}, {entry.title}",
            remedy="onomaxis undo takes it back; do that first. Nothing was changed.",
        )
    files = sorted({path for record in entry.records for path in (record.source, record.target) if path})
    if options.dry_run:
        say(options, f"The interrupted change {entry.id} ({entry.title}) would be taken back.")
        if options.json:
            print_json({"undone": entry.id, "files": files, "left": [], "journal": ""})
        else:
            print("\n".join(files))
        return 0
    say(options, f"Change {entry.id} ({entry.title}) was interrupted: {count(len(entry.records), 'file')}")
    confirm(options, "Take it back?", lambda: ("", ""))
    with locked(root):
        done = recover(root, entry)
    if options.json:
        print_json({"undone": entry.id, "files": files, "left": [], "journal": ""})
    else:
        print(f"{done[0].upper()}{done[1:]}.")
    return 0
