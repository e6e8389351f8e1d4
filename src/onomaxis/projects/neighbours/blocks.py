"""A text as blocks of lines that speak of one flavor alone, told by indentation: so most languages are laid out.

A block is a line and what is indented below it, with the line that closes it. Of blocks inside each other the
outermost counts; blocks of one flavor that follow each other are a run. Runs of siblings that stand on one level and
begin alike are a series: what each flavor has there.
"""

from __future__ import annotations

import re
from bisect import bisect_left
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import NamedTuple

from onomaxis import late
from onomaxis.projects.neighbours.called import Names
from onomaxis.projects.neighbours.literals import is_comment, shape

_CLOSER = late.compile(r"[\]})]+[;,]?|end\b|fi\b|done\b|esac\b|</[\w:.-]+>")
# What opens a block that a word closes: Ruby, shells.
_OPENER = late.compile(r"\bdo\b(?:\s*\|[^|]*\|)?$|^(?:if|unless|case|def|class|module|begin|while|for)\b")
# One case of a shell's own form: its parenthesis closes nothing (POSIX, "Case Conditional Construct").
_CASE = late.compile(r"^[ \t]*+\(?[^()\s][^()\n]*+\)")
_STRINGS = late.compile(r'"(?:[^"\\]|\\.)*"|\'(?:[^\'\\]|\\.)*\'')
# How a block that stands in one line begins: up to the bracket behind what it is called.
_OPENING = late.compile(r"^([^{]{0,300}\{\w{1,30}\}[\"']?\)?\s?\{).*\}\Z", re.DOTALL)
_TAGGED = late.compile(r"\.(?:xml|plist|entitlements|html|storyboard)\Z")
_OPENED, _CLOSED = late.compile(r"<[A-Za-z](?:[^<>]*[^/<>])?>"), late.compile(r"</")
_TAB = 4
_LONGEST = 5_000
# Forms in which what belongs to an entry may stand as deep as the entry: what begins one, by the file's ending. The
# sources: TOML 1.0, "Table"; YAML 1.2, "Compact block collections"; Apple, "About Information Property List Files".
_ENTRIES = (
    (late.compile(r"\.(?:toml|ini|cfg|conf)\Z"), late.compile(r"\A[ \t]*+\[")),
    (late.compile(r"\.ya?ml\Z"), late.compile(r"\A[ \t]*+(?!-(?:[ \t]|$))")),
    (late.compile(r"\.(?:plist|entitlements)\Z"), late.compile(r"\A[ \t]*+<key>")),
)


class Run(NamedTuple):
    """Lines (from, to) that speak of one flavor alone, below the line *above* (-1: none).

    ``shape`` is how they begin, ``form`` the same without the values that speak of the flavor.
    """

    start: int
    end: int
    flavor: str
    above: int
    shape: str
    form: str


@dataclass(frozen=True)
class Series:
    """What each of some flavors has on one level of a text, in order; the last may end otherwise than the others."""

    runs: tuple[Run, ...]

    @cached_property
    def by_flavor(self) -> Mapping[str, list[Run]]:
        """The runs of each flavor."""
        found: dict[str, list[Run]] = defaultdict(list)
        for run in self.runs:
            found[run.flavor].append(run)
        return found


class Layout:
    """The lines of a text, how deep they stand, what they speak of."""

    def __init__(self, text: str, names: Names) -> None:
        self.names = names
        self.lines = text.splitlines(keepends=True)
        self.depths = [_depth(line, names.path) for line in self.lines]
        self._tags = _TAGGED.search(names.path) is not None
        self._cases = re.search(r"\besac\b", text) is not None

    @cached_property
    def _said(self) -> list[tuple[int, frozenset[str]]]:
        """The lines that speak of flavors, with whose; one that no person wrote tells nothing."""
        lines = ((at, line) for at, line in enumerate(self.lines) if len(line) <= _LONGEST)
        found = ((at, frozenset(s.flavor for s in self.names.spans(line))) for at, line in lines)
        return [(at, said) for at, said in found if said]

    @cached_property
    def _at(self) -> list[int]:
        return [at for at, _ in self._said]

    def shared_lines(self) -> list[int]:
        """Return the lines that speak of several flavors."""
        return [at for at, said in self._said if len(said) > 1]

    def blocks_below(self, above: int) -> set[str]:
        """Return the flavors that have a block below a line."""
        return {run.flavor for run in self.every if run.above == above}

    def named_below(self, above: int) -> set[str]:
        """Return the flavors that have a block below a line, or that a line directly below it speaks of."""
        return self.blocks_below(above).union(*(said for at, said in self._said if self.above[at] == above))

    @cached_property
    def _same_until(self) -> list[int]:
        """Of each line that speaks: the first one from there on that speaks of another flavor as well, or alone."""
        found = [len(self._said)] * len(self._said)
        for at in range(len(self._said) - 1, -1, -1):
            said = self._said[at][1]
            if len(said) > 1:
                found[at] = at
            elif at + 1 < len(self._said):
                found[at] = found[at + 1] if self._said[at + 1][1] == said else at + 1
        return found

    @cached_property
    def above(self) -> list[int]:
        """The line that each one stands below, -1 for none."""
        found, open_ = [], [-1]
        for at, depth in enumerate(self.depths):
            if depth < 0:
                found.append(open_[-1])
                continue
            while open_[-1] >= 0 and self.depths[open_[-1]] >= depth:
                open_.pop()
            found.append(open_[-1])
            open_.append(at)
        return found

    @cached_property
    def _brackets(self) -> list[int]:
        found = [0]
        for line in self.lines:
            code = _STRINGS.sub("", line)
            code = _CASE.sub("", code) if self._cases else code
            tags = len(_OPENED.findall(line)) - len(_CLOSED.findall(line)) if self._tags else 0
            found.append(found[-1] + sum((c in "([{") - (c in ")]}") for c in code) + tags)
        return found

    @cached_property
    def _inner(self) -> list[int]:
        """Where what is indented below each line ends."""
        found, open_ = [len(self.lines)] * len(self.lines), list[int]()
        last = 0
        for at, depth in enumerate(self.depths):
            if depth < 0:
                continue
            while open_ and self.depths[open_[-1]] >= depth:
                found[open_.pop()] = last + 1
            open_.append(at)
            last = at
        for at in open_:
            found[at] = last + 1
        return found

    def end_of(self, at: int) -> int:
        """Return where the block of a line ends; nothing (-1) where it does not close."""
        end = self._inner[at]
        if end < len(self.lines) and self.depths[end] == self.depths[at]:
            closes = _CLOSER.match(self.lines[end].strip())
            word = closes is not None and closes[0][:1] not in "])}"
            tag = closes is not None and closes[0].startswith("</")
            opened = self._brackets[end] > self._brackets[at]
            if closes is not None and (
                (opened and not word)
                or (word and not tag and _OPENER.search(self.lines[at].strip()))
                or (tag and self.lines[at].lstrip().startswith(f"<{closes[0][2:-1]}"))
            ):
                end += 1
        return end if self._brackets[end] == self._brackets[at] else -1

    def whose(self, start: int, end: int) -> str:
        """Return the flavor that lines speak of alone; empty where they speak of several, or of none."""
        first = bisect_left(self._at, start)
        if first == len(self._at) or self._at[first] >= end:
            return ""
        until = self._same_until[first]
        alone = until == len(self._at) or (until > first and self._at[until] >= end)
        return next(iter(self._said[first][1])) if alone else ""

    @cached_property
    def every(self) -> list[Run]:
        """The runs of a text, in order."""
        return list(self._runs())

    def _runs(self) -> Iterator[Run]:
        at, held = 0, None
        for line in self._at:
            if line < at:
                continue
            found = self._outermost(line)
            if found is None or found[0] < at:
                continue
            start, end = found
            flavor = self.whose(start, end)
            above = self.above[start]
            depth = self.depths[start]
            if held is not None and held.end == start and held.flavor == flavor and self.depths[held.start] == depth:
                only_said = all(map(is_comment, self.lines[held.start : held.end]))
                shape, form = self._shapes(start, line, flavor) if only_said else (held.shape, held.form)
                held = held._replace(end=end, shape=shape, form=form)
            else:
                if held is not None:
                    yield held
                held = Run(start, end, flavor, above, *self._shapes(start, line, flavor))
            at = end
        if held is not None:
            yield held

    def _outermost(self, line: int) -> tuple[int, int] | None:
        found = None
        at = line
        while at >= 0:
            end = self.end_of(at)
            if end >= 0 and not self.whose(at, end):
                break
            found = (at, end) if end >= 0 else found
            at = self.above[at]
        return found

    def _shapes(self, start: int, line: int, flavor: str) -> tuple[str, str]:
        lines = list(dict.fromkeys((start, line)))
        both = ([shape(self.lines[at], self.names, flavor, bare) for at in lines] for bare in (False, True))
        told, bare = ("\n".join(_OPENING.sub(r"\1…}", text) for text in texts) for texts in both)
        return told, bare

    def series(self, whole: bool = True) -> list[Series]:
        """Return the runs that stand on one level and begin alike, those of two flavors at least.

        Not *whole*: something else may stand between them, which belongs to one of them or is another's.
        """
        found: dict[tuple[int, str], list[Run]] = defaultdict(list)
        for run in self.every:
            found[run.above, run.shape].append(run)
        alike = (Series(tuple(runs)) for runs in self._joined(found.values()) if not self._all_comments(runs))
        return [series for series in alike if len(series.by_flavor) > 1 and (not whole or self._is_whole(series))]

    def _joined(self, every: Iterable[list[Run]]) -> Iterator[list[Run]]:
        """Join runs that begin alike but for their values, where each flavor has one: ``ALDERBANK("a.example")``."""
        by_form: dict[tuple[int, str], list[list[Run]]] = defaultdict(list)
        for runs in every:
            by_form[runs[0].above, runs[0].form].append(runs)
        for (_, form), groups in by_form.items():
            flavors = [flavor for runs in groups for flavor in {run.flavor for run in runs}]
            if "{" in form and len(groups) > 1 and len(set(flavors)) == len(flavors):
                yield sorted((run for runs in groups for run in runs), key=lambda run: run.start)
            else:
                yield from groups

    def _all_comments(self, runs: Sequence[Run]) -> bool:
        return all(is_comment(line) for run in runs for line in self.lines[run.start : run.end])

    def _is_whole(self, series: Series) -> bool:
        """Tell whether what belongs to each run stands in it: nothing that speaks of none stands between two."""
        return not any(
            line in self._mute for one, other in pairwise(series.runs) for line in range(one.end, other.start)
        )

    @cached_property
    def _mute(self) -> set[int]:
        """The lines of code that are in no run and speak of nobody."""
        found = {at for at, line in enumerate(self.lines) if line.strip() and not is_comment(line)}
        found -= {at for run in self.every for at in range(run.start, run.end)}
        return found - set(self._at)

    def text(self, start: int, end: int) -> str:
        """Return the text of lines."""
        return "".join(self.lines[start:end])

    def gap(self, runs: Sequence[Run]) -> str:
        """Return the empty lines between the last two runs, none where something else stands there."""
        if len(runs) < 2:
            return ""
        between = self.lines[runs[-2].end : runs[-1].start]
        return "".join(between) if all(not line.strip() for line in between) else ""


def _depth(line: str, path: str) -> int:
    """Return how deep a line stands, -1 for an empty one; what belongs to an entry is half a step below it."""
    if not line.strip():
        return -1
    lead = line[: len(line) - len(line.lstrip(" \t"))]
    begins = next((begins for form, begins in _ENTRIES if form.search(path)), None)
    return 2 * len(lead.expandtabs(_TAB)) + (begins is not None and not begins.match(line))
