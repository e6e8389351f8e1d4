"""The text of one flavor made into another's: called after it, with what only that flavor can have marked as owed."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from typing import NamedTuple

from onomaxis import late
from onomaxis.identity.schema import OWED
from onomaxis.projects.neighbours.called import Called, Names, title
from onomaxis.projects.neighbours.literals import NUMBER, TEXT, WORD, Literal, is_choice, is_comment, literals

# Files in which a word without quotes is a text: data, settings, variables of a script.
_DATA = late.compile(r"(?:\.(?:ya?ml|env|properties|xcconfig|mk|sh|conf|ini)|(?:\A|/)(?:Makefile|\.env[^/]*))\Z")
# Catalogs are compiled for all flavors together: a text that is not a colour would end every build.
# What stands in one line, setting by setting.
_PARTS = late.compile(r"[^;,\n]+")
_NUMBER = late.compile(r"(?<![\w.])\d{1,30}(?![\w.])")
_FOR_ALL = late.compile(r"\.xcassets/")


# Flavors that are called as much else is: servers, scripts, plans.
_COMMON = frozenset(
    "dev development prod production stage staging qa uat test testing beta alpha demo free paid full lite pro plus "
    "premium basic standard default local internal external live preview canary nightly store play".split()
)


class Owing(NamedTuple):
    """A value that a new flavor has to be given: its line (from 0), what it is called, what stands there."""

    line: int
    key: str
    stands: str


class Twin(NamedTuple):
    """The text for the new flavor, and what in it is owed."""

    text: str
    owed: tuple[Owing, ...] = ()


class Twins:
    """Makes twins of one flavor's texts in a file."""

    def __init__(self, path: str, names: Names, model: str, new: Called, given: Mapping[str, str]) -> None:
        """*given* are the new flavor's own values by what they are called, however that is set apart."""
        self.path = path
        self.names = names
        self.model = model
        self.new = new
        self.given = {plain_key(key): text for key, text in given.items()}

    def twin(self, text: str, mates: Mapping[str, str]) -> Twin:
        """Return the twin of *text*, the model's; *mates* are what its siblings have in the same place."""
        known: dict[tuple[str, str], set[str]] = defaultdict(set)
        numbers: dict[tuple[str, str], set[int]] = defaultdict(set)
        comments = set[str]()
        for flavor, mate in {**mates, self.model: text}.items():
            for key, number in self._numbers(mate, flavor):
                numbers[key].add(number)
        for flavor, mate in mates.items():
            for line in mate.splitlines():
                if is_comment(line):
                    comments.add(self.names.braced(line.strip(), flavor))
                for key, item in self._framed(line, flavor):
                    known[key].add(self.names.braced(item.text, flavor))
        in_turn = {key: found for key, found in numbers.items() if _in_turn(found, mates)}
        lines, owed = list[str](), list[Owing]()
        for line in text.splitlines(keepends=True):
            if is_comment(line) and self.names.braced(line.strip(), self.model) not in comments:
                continue  # what is said of one alone
            made, owing = self._line(line, known, in_turn)
            owed += (Owing(len(lines), key, stands) for key, stands in owing)
            lines.append(made)
        return Twin("".join(lines), tuple(owed))

    def _framed(self, line: str, flavor: str) -> Iterator[tuple[tuple[str, str], Literal]]:
        """Yield the values of a line, each with what stands around it: alike in the siblings' lines."""
        items = list(literals(line))
        frame = self.names.braced(_blanked(line, items), flavor)
        frame = " ".join(frame.split()).rstrip(",; ")
        for item in items:
            yield (frame, self.names.braced(item.key, flavor)), item

    def _numbers(self, text: str, flavor: str) -> Iterator[tuple[tuple[str, str], int]]:
        for line in text.splitlines():
            for key, item in self._framed(line, flavor):
                if item.sort == NUMBER and item.text.isdecimal():
                    yield key, int(item.text)

    def _line(
        self, line: str, known: Mapping[tuple[str, str], set[str]], in_turn: Mapping[tuple[str, str], set[int]]
    ) -> tuple[str, list[tuple[str, str]]]:
        parts, at, owed = [], 0, list[tuple[str, str]]()
        for key, item in self._framed(line, self.model):
            said = self._own(line, item, known.get(key, set()))
            if said is None:
                continue
            said = str(max(in_turn[key]) + 1) if said == item.text and key in in_turn else said
            if said in (OWED, item.text):
                owed.append((self.names.renamed(item.key, self.model, self.new), said))
            parts += [self.names.renamed(line[at : item.start], self.model, self.new), said]
            at = item.end
        return "".join([*parts, self.names.renamed(line[at:], self.model, self.new)]), owed

    def _own(self, line: str, item: Literal, known: set[str]) -> str | None:
        """Return what a value becomes that the model has for itself alone; None for one that goes over as it is.

        What it shares with a sibling is its choice, and the new one's; a switch is that in any case.
        """
        given = self.given.get(plain_key(self.names.renamed(item.key, self.model, self.new))) if item.key else None
        braced = self.names.braced(item.text, self.model)
        if given is not None and braced == item.text and (item.sort != "number" or given.isdecimal()):
            return title(given, self.path, line[item.start - 1 : item.start])
        if braced != item.text or braced in known or is_choice(item.text) or not item.text.strip():
            return None
        text = item.sort == TEXT or (item.sort == WORD and _DATA.search(self.path))
        return OWED if text and not _FOR_ALL.search(self.path) else item.text

    def alike(self, text: str, mates: Mapping[str, str]) -> bool:
        """Tell whether half of what a text says is said in its siblings' too: it is not all text of its own."""
        theirs = {frame for flavor, mate in mates.items() for frame in self._frames(mate, flavor)}
        mine = list(self._frames(text, self.model))
        return sum(frame in theirs for frame in mine) * 2 >= len(mine)

    def _frames(self, text: str, flavor: str) -> Iterator[str]:
        lines = text.splitlines()
        for line in _PARTS.findall(text) if len(lines) == 1 else lines:
            if line.strip():
                blank = _NUMBER.sub("…", _blanked(line, list(literals(line))))
                yield self.names.braced(blank, flavor).strip()


def _in_turn(numbers: Collection[int], mates: Collection[str]) -> bool:
    """Tell whether siblings are numbered one after another: a new one has the next number."""
    return len(mates) > 1 and len(numbers) == len(mates) + 1 == max(numbers) - min(numbers) + 1


def may_be_other(flavors: Iterable[str], twin: Twin) -> bool:
    """Tell whether what is called after flavors may mean something else: by a common word, with values of its own."""
    return bool(twin.owed) and any(name.casefold() in _COMMON for name in flavors)


def plain_key(key: str) -> str:
    """Return what a value is called, however its words are set apart."""
    return re.sub(r"[-_. ]", "", key).casefold()


def _blanked(line: str, items: Sequence[Literal]) -> str:
    parts, at = [], 0
    for item in items:
        parts += [line[at : item.start], "…"]
        at = item.end
    return "".join([*parts, line[at:]])
