"""A change as it is put together: what a kind, a place or a stage adds to it; drafts are joined here alone."""

from __future__ import annotations

from dataclasses import dataclass, field

from onomaxis.errors import RefusedError
from onomaxis.model import Edit, Move, Note, Owed

_CLOSING = b"</resources>"


@dataclass
class Draft:
    """Edits, moves, new files, files written whole, removals; refusals forbid all of it, notes are said of it.

    ``owed`` are the values that it leaves open.
    """

    edits: list[Edit] = field(default_factory=list)
    moves: list[Move] = field(default_factory=list)
    created: list[tuple[str, bytes]] = field(default_factory=list)
    written: dict[str, bytes] = field(default_factory=dict)
    removed: list[str] = field(default_factory=list)
    refusals: list[Note] = field(default_factory=list)
    notes: list[Note] = field(default_factory=list)
    owed: list[Owed] = field(default_factory=list)

    def join(self, other: Draft) -> None:
        """Take in what *other* holds. A resource file that both make gets the entries of both.

        Other new files that differ are refused: one of them would be lost.
        """
        self.edits += other.edits
        self.moves += other.moves
        self.written |= other.written
        self.removed += other.removed
        self.refusals += other.refusals
        self.notes += other.notes
        self.owed += other.owed
        for path, data in other.created:
            self._create(path, data)

    def _create(self, path: str, data: bytes) -> None:
        at = next((number for number, (name, _) in enumerate(self.created) if name == path), None)
        if at is None:
            self.created.append((path, data))
            return
        known = self.created[at][1]
        if known == data:
            return
        if _CLOSING not in data or _CLOSING not in known:
            self.refusals.append(Note(path, "two changes make this new file: create it by hand first"))
            return
        body = data[data.index(b"<resources>") + len(b"<resources>") : data.index(_CLOSING)].strip(b"\r\n")
        newline = b"\r\n" if b"\r\n" in data else b"\n"
        head, tail = known.split(_CLOSING)
        joined = head + (body + newline if body not in head else b"") + _CLOSING + tail
        self.created[at] = (path, joined)

    def refuse(self) -> None:
        """Raise RefusedError where anything in the draft is refused."""
        if self.refusals:
            first, *more = dict.fromkeys(self.refusals)
            message = "\n  ".join([f"this cannot be done safely: {first.text}", *map(str, more)])
            raise RefusedError(message, file=first.file, line=first.line, remedy="Nothing was changed.")
