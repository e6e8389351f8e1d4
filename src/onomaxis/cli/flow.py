"""The one road of every command that writes: guard, show, ask, write, report; with --dry-run just show."""

from __future__ import annotations

import argparse
import re
import sys
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Generic, TypeVar

from onomaxis.brands.next_steps import next_steps
from onomaxis.cli.layout import Cell, blank, heading, pairs, put
from onomaxis.cli.output import ask, confirm, count, make_console, print_diff, print_json, say, section
from onomaxis.cli.writing import report_left, show_diff, write_changes
from onomaxis.errors import RefusedError
from onomaxis.identity.schema import LEDGER, OWED
from onomaxis.model import Note, Owed
from onomaxis.surveys.survey import read_projects
from onomaxis.tree import Tree
from onomaxis.writing.change import FileChange, applied
from onomaxis.writing.guard import refuse_crossing, refuse_uncommitted, repository_notes, unprotected
from onomaxis.writing.planned import PlannedChange, with_notes
from onomaxis.writing.preview import patch, unified_diff
from onomaxis.writing.write import Labels, Written

if TYPE_CHECKING:
    from onomaxis.cli.console import SafeConsole

_SHOWN_FILES = 14
# Lines of a patch that is for a person to judge.
_SHOWN_LINES = 40
# Places of one reason that are shown of what still spells an old identity.
_SHOWN_PLACES = 3

Planned = TypeVar("Planned", bound=PlannedChange)


@dataclass(frozen=True)
class View(Generic[Planned]):
    """How one command speaks of its change.

    ``document`` gives the JSON document (the change, and its ID in the journal); ``show`` prints what will happen,
    ``aside`` what is to be said also where nothing does; ``left`` prints what stands after it; ``done`` is the last
    line's beginning.
    """

    document: Callable[[Planned, str], dict[str, Any]]
    show: Callable[[SafeConsole, Planned], None]
    aside: Callable[[SafeConsole, Planned], None]
    left: Callable[[SafeConsole, Planned], None]
    done: Callable[[Planned], str]
    question: str = "Write these changes?"


def _remember(tree: Tree, plan: PlannedChange) -> None:
    """Keep what was drawn from what."""
    if plan.pictures:
        from onomaxis.icons.memory import remember

        remember(tree.root, plan.pictures, plan.measured)


def carry_through(options: argparse.Namespace, tree: Tree, plan: Planned, view: View[Planned]) -> int:
    """Carry a planned change through; return the exit code."""
    refuse_crossing(tree.root, plan.changes)
    plan = with_notes(plan, repository_notes(tree.root, plan.changes))
    steps = next_steps(tree, plan)
    if options.dry_run:
        return _preview(options, plan, view, steps)
    if plan.empty:
        _remember(tree, plan)
        return _nothing(options, plan, view)
    written = asked_and_written(options, tree, plan, lambda console: view.show(console, plan), view.question)
    if options.json:
        print_json({**view.document(plan, written.id), "next": list(steps)})
    else:
        console = make_console(options)
        if not options.quiet:
            view.left(console, plan)
            _show_next(console, steps)
            blank(console)
        put(console, Cell(f"Done: {view.done(plan)}. Change {written.id}; onomaxis undo takes it back."))
    report_left(options, written)
    return 0


def asked_and_written(
    options: argparse.Namespace, tree: Tree, plan: PlannedChange, shown: Callable[[SafeConsole], None], question: str
) -> Written:
    """Write a planned change once a person has seen it and agreed, and nothing of theirs would be lost."""
    if not options.allow_dirty:
        refuse_uncommitted(tree.root, plan.changes)
    if not options.json and not options.quiet:
        shown(make_console(options, error=True))
    heed_published(options, tree, plan)
    confirm(options, question, lambda: unprotected(tree.root, plan.changes))
    labels = Labels(plan.title, plan.called_before, plan.called_after)
    written = write_changes(options, tree.root, plan.changes, labels)
    _remember(tree, plan)
    return written


def heed_published(options: argparse.Namespace, tree: Tree, plan: PlannedChange) -> None:
    """Ask before a published app's ID is changed or its number lowered; ``--yes`` is not an answer to that.

    Raises StoppedError for a “no”, RefusedError where there is nobody to ask.
    """
    if getattr(options, "published", True) or tree.required(LEDGER) is None:
        return
    from onomaxis.brands.ledger import published
    from onomaxis.brands.published import losses
    from onomaxis.brands.publishing import load_ledger
    from onomaxis.brands.tree_brand import ids_of_brands

    later = applied(tree, plan.changes)
    found = losses(read_projects(tree), read_projects(later), published(load_ledger(tree)), ids_of_brands(later))
    if not found:
        return
    messages = [loss.message for loss in found]
    if not sys.stdin.isatty() or options.json:
        remedy = "Pass --published to change it anyway; nothing was changed."
        raise RefusedError("\n  ".join(messages), file=LEDGER, line=found[0].row.line, remedy=remedy)
    ask("\n".join([*messages, "Change it anyway?"]))


def _show_next(console: SafeConsole, steps: Sequence[str]) -> None:
    """Print what is left for a person to do outside the files."""
    if steps:
        heading(console, "What to do next")
        for step in steps:
            put(console, Cell(step), indent=2, hang=2)


def _preview(options: argparse.Namespace, plan: Planned, view: View[Planned], steps: Sequence[str]) -> int:
    if options.json:
        print_json({**view.document(plan, ""), "next": list(steps), "diff": unified_diff(plan.changes)})
        return 0
    if plan.empty:
        return _nothing(options, plan, view)
    console = make_console(options, error=True)
    first = sys.stdout.isatty()  # a person reads the summary first, and leafs through the diff
    if not options.quiet and first:
        view.show(console, plan)
        view.left(console, plan)
        _show_next(console, steps)
        blank(console)
    show_diff(options, plan.changes)
    if not options.quiet and not first:
        view.show(console, plan)
        view.left(console, plan)
        _show_next(console, steps)
    return 0


def _nothing(options: argparse.Namespace, plan: Planned, view: View[Planned]) -> int:
    if options.json:
        print_json({**view.document(plan, ""), "next": []})
        return 0
    say(options, plan.nothing)
    if not options.quiet:
        view.aside(make_console(options, error=True), plan)
    return 0


# -- the view of a change that is not of a kind of its own


def plain_view(**more: Any) -> View[PlannedChange]:
    """Return the view of adopt, stamp, flavor and ledger; *more* goes into the JSON document."""
    return View(lambda plan, journal: {**document(plan, journal), **more}, show, show_notes, show_residue, done)


def document(plan: PlannedChange, journal: str) -> dict[str, Any]:
    """Return a change as the JSON document that docs/json.md describes."""
    edited = [item for item in plan.changes if item.edited and item.source and item.target]
    return {
        "files": [item.target for item in edited],
        "moves": [{"from": item.source, "to": item.target} for item in plan.changes if item.moved],
        "created": [item.target for item in plan.changes if item.source is None],
        "removed": [item.source for item in plan.changes if item.target is None],
        "summary": [str(line) for line in plan.summary],
        "notes": [str(note) for note in plan.notes],
        "owed": [{"at": item.at, "key": item.key, "neighbours": item.kept} for item in plan.owed],
        "proposed": unified_diff(plan.proposed),
        "residue": residue_document(plan),
        "journal": journal,
    }


def done(plan: PlannedChange) -> str:
    """Say how many files a change touches, by what happens to them."""
    numbers = {
        "changed": sum(bool(item.edited and item.source and item.target) for item in plan.changes),
        "moved": sum(item.moved for item in plan.changes),
        "new": sum(item.source is None for item in plan.changes),
        "removed": sum(item.target is None for item in plan.changes),
    }
    return ", ".join(f"{count(number, 'file')} {word}" for word, number in numbers.items() if number)


def show(console: SafeConsole, plan: PlannedChange) -> None:
    """Print what a change does: in words, then by file."""
    put(console, Cell(f"To change: {done(plan)}", "bold"))
    show_summary(console, plan)
    most = 0 if console.every else _SHOWN_FILES
    section(console, "Files", [(item.target or item.source or "", _what(item)) for item in plan.changes], most)
    show_owed(console, plan.owed)
    show_notes(console, plan)
    show_proposed(console, plan.proposed)


def show_proposed(console: SafeConsole, proposed: Sequence[FileChange]) -> None:
    """Print what a person may want besides, as the patch that git applies."""
    if not proposed:
        return
    heading(console, "Not written, for you to decide (git apply takes this patch)")
    lines = patch(proposed, pictures=False).decode("utf-8", "replace").splitlines()
    most = len(lines) if console.every else _SHOWN_LINES
    print_diff(console, (line.rstrip("\r") for line in lines[:most]))
    if len(lines) > most:
        put(console, Cell(f"… and {count(len(lines) - most, 'more line')} (--all shows them)"))


def show_owed(console: SafeConsole, owed: Sequence[Owed]) -> None:
    """Print values that are to be given, those of one file together."""
    files: dict[tuple[str, bool], list[Owed]] = {}
    for item in owed:
        files.setdefault((Note(item.at, "").file, item.kept), []).append(item)
    rows = []
    for (_, kept), items in files.items():
        keys = ", ".join(dict.fromkeys(item.key or "a value" for item in items))
        rows.append((items[0].at, f"{keys} (a neighbour's until then)" if kept else keys))
    section(console, f"Values to be given ({OWED} stands there)", rows)


def show_summary(console: SafeConsole, plan: PlannedChange) -> None:
    """Print the lines of a change's summary, their labels in one column."""
    pairs(console, plan.summary, styles=("", "green"))


def _what(item: FileChange) -> str:
    if item.source is None:
        return "new"
    if item.target is None:
        return "removed"
    return f"moved from {item.source}" if item.moved else "changed"


def show_notes(console: SafeConsole, plan: PlannedChange) -> None:
    """Print what is to be said of a change: of many notes alike the first ones, unless all are asked for."""
    every = console.every
    alike: dict[str, list[Note]] = {}
    for note in plan.notes:
        alike.setdefault(_form(note), []).append(note)
    rows: list[tuple[str, str]] = []
    for notes in alike.values():
        shown = notes if every or len(notes) <= _ALIKE + 1 else notes[:_ALIKE]
        rows += shown
        if len(shown) < len(notes):
            rows.append(("", f"… and {len(notes) - len(shown)} more like these (--all lists them)"))
    section(console, "Notes", rows)


def residue_document(plan: PlannedChange) -> list[dict[str, Any]]:
    """Return what still spells an old identity as docs/json.md describes it."""
    return [{"file": item.file, "line": item.line, "text": item.text, "reason": item.reason} for item in plan.residue]


def show_residue(console: SafeConsole, plan: PlannedChange, whose: str = "another brand") -> None:
    """Print what still bears another identity: each reason with its number and its first places."""
    residue = plan.residue
    if not residue:
        return
    reasons = Counter(item.reason for item in residue)
    heading(console, f"Still there: {count(len(residue), 'mention')} of {whose}")
    for reason, number in reasons.most_common():
        put(console, Cell(f"{number:>4} ×  "), Cell(reason, "bold"), indent=2, hang=10)
        mine = [item for item in residue if item.reason == reason]
        shown = mine if console.every else [item for item in mine if not item.loose][:_SHOWN_PLACES]
        places = ((console.place(f"{item.file}:{item.line}"), item.text) for item in shown)
        pairs(console, places, indent=10)
        if len(shown) < len(mine):
            left = f"… and {len(mine) - len(shown)} more (--all)" if shown else "--all lists them"
            put(console, Cell(left, "dim"), indent=10)


# Notes of one form that are shown, where there are many.
_ALIKE = 3


def _form(note: Note) -> str:
    """Return what a note says apart from the names, IDs and languages in it."""
    return re.sub(r"“[^”]*”|\b[\w-]+(?:\.[\w-]+)+\b", "…", note.text)
