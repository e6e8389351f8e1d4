"""A planned change: what every wish becomes, whatever it was. It can be shown, proved, written and stored."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import TypeVar

from onomaxis.model import Line, Note, Owed, Residue
from onomaxis.projects.draft import Draft
from onomaxis.tree import Tree
from onomaxis.writing.change import FileChange, applied, followed_by
from onomaxis.writing.changeset import Changeset


@dataclass(frozen=True)
class PlannedChange:
    """A change as pure data: its files, what it does in words, what is to be said of it.

    ``edits`` counts the places that get a new text. ``title`` is what the journal calls it, ``nothing`` what is said
    where there is nothing to do. ``called_before`` and ``called_after`` are what all apps are called
    (:func:`onomaxis.surveys.identity.identity_of`) in the tree that it starts from, and in the one it leads to.
    ``residue`` is what still spells an old identity after it, ``owed`` the values that it leaves open,
    ``proposed`` what a person may want besides: it is shown as a patch over the changed tree, and never written.
    ``pictures`` says of drawn ones, by path, what they are drawn from and what they are, as digests; ``measured``
    what was measured of their art, by its digest.
    """

    changes: tuple[FileChange, ...] = ()
    edits: int = 0
    summary: tuple[Line, ...] = ()
    notes: tuple[Note, ...] = ()
    title: str = ""
    nothing: str = "Nothing to change."
    called_before: str = ""
    called_after: str = ""
    pictures: Mapping[str, tuple[str, str]] = field(default_factory=dict)
    measured: Mapping[str, object] = field(default_factory=dict)
    residue: tuple[Residue, ...] = ()
    owed: tuple[Owed, ...] = ()
    proposed: tuple[FileChange, ...] = ()

    @property
    def empty(self) -> bool:
        """True when there is nothing to do."""
        return not self.changes


_Planned = TypeVar("_Planned", bound=PlannedChange)


@dataclass
class Stages:
    """A change made in stages: the tree as it will be, and what leads to it so far."""

    tree: Tree
    changes: tuple[FileChange, ...] = ()
    edits: int = 0
    notes: list[Note] = field(default_factory=list)
    summary: list[Line] = field(default_factory=list)
    pictures: dict[str, tuple[str, str]] = field(default_factory=dict)
    measured: dict[str, object] = field(default_factory=dict)
    owed: list[Owed] = field(default_factory=list)

    def add(self, changes: Iterable[FileChange], edits: int = 0, notes: Iterable[Note] = ()) -> None:
        """Take in the changes of one stage, which start from the tree that the stages before lead to."""
        changes = tuple(changes)
        self.edits += edits
        self.note(notes)
        if changes:
            self.changes = followed_by(self.changes, changes)
            self.tree = applied(self.tree, changes)

    def draws(self, plan: PlannedChange) -> None:
        """Take in what a plan says of its pictures, to be remembered."""
        self.pictures |= plan.pictures
        self.measured |= plan.measured

    def add_plan(self, plan: PlannedChange) -> None:
        """Take in a change that was planned for the tree as it will be."""
        self.add(plan.changes, plan.edits, plan.notes)
        self.say(plan.summary)
        self.draws(plan)

    def add_draft(self, draft: Draft) -> None:
        """Take in a draft. Raises RefusedError for what cannot be done."""
        draft.refuse()
        self.add(changeset_of(draft).resolve(self.tree), places(draft), draft.notes)
        self.owed += draft.owed

    def say(self, lines: Iterable[Line]) -> None:
        """Add lines to the summary, each once."""
        self.summary += [line for line in dict.fromkeys(lines) if line not in self.summary]

    def note(self, notes: Iterable[Note]) -> None:
        """Add notes, each once."""
        self.notes += [note for note in dict.fromkeys(notes) if note not in self.notes]

    def planned(self, title: str, nothing: str = "Nothing to change.") -> PlannedChange:
        """Return the whole of the stages as one planned change."""
        summary, notes = tuple(self.summary), tuple(self.notes)
        whole = PlannedChange(self.changes, self.edits, summary, notes, title, nothing)
        owed = tuple(dict.fromkeys(self.owed))
        return replace(whole, pictures=dict(self.pictures), measured=dict(self.measured), owed=owed)


def changeset_of(draft: Draft) -> Changeset:
    """Return a draft as a changeset: edits, moves and removals each once."""
    return Changeset(
        tuple(dict.fromkeys(draft.edits)),
        tuple(dict.fromkeys(draft.moves)),
        tuple(draft.created),
        tuple(draft.written.items()),
        tuple(dict.fromkeys(draft.removed)),
    )


def places(draft: Draft) -> int:
    """Return how many places a draft edits."""
    return len({(edit.file, edit.start, edit.end) for edit in draft.edits})


def with_notes(plan: _Planned, notes: Iterable[Note]) -> _Planned:
    """Return a planned change with more to be said of it."""
    return replace(plan, notes=tuple(dict.fromkeys([*plan.notes, *notes])))
