"""What adopt, stamp, flavor and ledger share: show a finished change, ask, write it, say how to take it back."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from onomaxis.cli.output import confirm, count, make_console, print_json, say, section
from onomaxis.cli.writing import report_left, show_diff, write_changes
from onomaxis.rename.proof import prove_files
from onomaxis.rename.rename import changed_tree, identity
from onomaxis.survey.survey import read_projects
from onomaxis.tree import Tree
from onomaxis.writing.changeset import FileChange
from onomaxis.writing.guard import refuse_crossing, refuse_uncommitted, repository_notes, unprotected
from onomaxis.writing.preview import unified_diff
from onomaxis.writing.write import Labels

_SHOWN_FILES = 14


@dataclass(frozen=True)
class Change:
    """A finished change: its title in the journal, its files, what it does in words, what to note."""

    title: str
    changes: tuple[FileChange, ...]
    summary: Sequence[str] = ()
    notes: Sequence[str] = ()
    nothing: str = "Nothing to change."


def settle(options: argparse.Namespace, tree: Tree, change: Change, **more: Any) -> int:
    """Carry a change through: preview with --dry-run, else guard, show, ask, write, report. Return the exit code."""
    refuse_crossing(tree.root, change.changes)
    change = replace(change, notes=[*change.notes, *repository_notes(tree.root, change.changes)])
    if options.dry_run:
        if options.json:
            print_json({**_document(change, ""), **more, "diff": unified_diff(change.changes)})
        elif not change.changes:
            say(options, change.nothing)
        else:
            show_diff(options, change.changes)
            if not options.quiet:
                _show(options, change)
        return 0
    prove_files(change.changes)
    if not change.changes:
        if options.json:
            print_json({**_document(change, ""), **more})
        else:
            say(options, change.nothing)
            if not options.quiet:
                _notes(options, change)
        return 0
    if not options.allow_dirty:
        refuse_uncommitted(tree.root, change.changes)
    if not options.json and not options.quiet:
        _show(options, change)
    confirm(options, "Write these changes?", lambda: unprotected(tree.root, change.changes))
    before = identity(read_projects(tree))
    after = identity(read_projects(changed_tree(tree, change.changes)))
    written = write_changes(options, tree.root, change.changes, Labels(change.title, before, after))
    if options.json:
        print_json({**_document(change, written.id), **more})
    else:
        print(f"\nDone: {_counted(change.changes)}. Change {written.id}; onomaxis undo takes it back.")
    report_left(options, written)
    return 0


def _document(change: Change, journal: str) -> dict[str, Any]:
    edited = [item for item in change.changes if item.edited and item.source and item.target]
    return {
        "files": [item.target for item in edited],
        "moves": [{"from": item.source, "to": item.target} for item in change.changes if item.moved],
        "created": [item.target for item in change.changes if item.source is None],
        "removed": [item.source for item in change.changes if item.target is None],
        "summary": list(change.summary),
        "notes": list(change.notes),
        "journal": journal,
    }


def _counted(changes: Sequence[FileChange]) -> str:
    numbers = {
        "changed": sum(bool(item.edited and item.source and item.target) for item in changes),
        "moved": sum(item.moved for item in changes),
        "new": sum(item.source is None for item in changes),
        "removed": sum(item.target is None for item in changes),
    }
    return ", ".join(f"{count(number, 'file')} {word}" for word, number in numbers.items() if number)


def _show(options: argparse.Namespace, change: Change) -> None:
    from rich.text import Text

    console = make_console(options, error=True)
    console.print(Text(f"To change: {_counted(change.changes)}", style="bold"))
    for line in change.summary:
        label, mark, rest = line.partition(": ")
        text = Text(f"  {label:<28}{' ' if mark else ''}")
        text.append(rest, style="green")
        console.print(text, soft_wrap=True)
    rows = [(item.target or item.source or "", _what(item)) for item in change.changes]
    section(console, "Files", rows, _SHOWN_FILES)
    _notes(options, change)


def _what(item: FileChange) -> str:
    if item.source is None:
        return "new"
    if item.target is None:
        return "removed"
    return f"moved from {item.source}" if item.moved else "changed"


def _notes(options: argparse.Namespace, change: Change) -> None:
    console = make_console(options, error=True)
    section(console, "Notes", ((note.partition(": ")[0], note.partition(": ")[2]) for note in change.notes))
