"""Where a text speaks of most flavors alike in a form that is not plain: what one more flavor might look like there.

Such a text is never changed: the suggestion is a patch that a person reads, mends and applies.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from itertools import pairwise, takewhile
from typing import NamedTuple

from onomaxis import late
from onomaxis.projects.neighbours.blocks import Layout, Run, Series
from onomaxis.projects.neighbours.called import Called, Names, Span
from onomaxis.projects.neighbours.lists import depths
from onomaxis.projects.neighbours.texts import Cut, appended, line_starts, model_of
from onomaxis.projects.neighbours.twins import Twins
from onomaxis.projects.siblings import majority

# What closes an entry of a line, and what parts two, nothing more: signs, a conjunction.
_CLOSING = "\"'`)]}"
_PARTS = late.compile(r"\W*(?:\b(?:and|or)\b\W*)?\Z")


class Suggestion(NamedTuple):
    """A place that names flavors and not a new one: where, which, and what might be written, if that is clear."""

    at: int
    named: tuple[str, ...]
    cuts: tuple[Cut, ...] = ()


def suggestions(
    text: str, path: str, siblings: Sequence[Called], likes: Sequence[str], new: Called, given: Mapping[str, str]
) -> Iterator[Suggestion]:
    """Yield where most siblings are named, on one line or in blocks that begin alike, and a new flavor is not.

    *likes* are the siblings that an entry is made after, the first that is there counts.
    """
    found = _found(Layout(text, Names([*siblings, new], path)), siblings, likes, new, given)
    yield from sorted(found)


def _found(
    layout: Layout, siblings: Sequence[Called], likes: Sequence[str], new: Called, given: Mapping[str, str]
) -> Iterator[Suggestion]:
    names = layout.names
    starts = line_starts(layout)
    for line in layout.shared_lines():
        spans = list(names.spans(layout.lines[line]))
        named = tuple(dict.fromkeys(span.flavor for span in spans))
        if new.name not in named and majority(len(named), siblings):
            added = _on_line(layout.lines[line], spans, names, new)
            at = starts[line] + (added[0] if added else 0)
            yield Suggestion(starts[line], named, (Cut(at, at, added[1]),) if added else ())
    for series, whole in _alike(layout):
        mine = series.by_flavor
        if new.name in layout.named_below(series.runs[0].above) or not majority(len(mine), siblings):
            continue
        last = series.runs[-1]
        if whole:
            model = model_of(series, likes)
            mates = {name: "".join(layout.text(r.start, r.end) for r in runs) for name, runs in mine.items()}
            twin = Twins(names.path, names, model, new, given).twin(mates.pop(model), mates)
            cuts = tuple(appended(layout, starts, series, layout.gap(series.runs), twin.text, ()))
        else:  # what stands between two may be the first one's: a copy of both goes in front of the last
            before = series.runs[-2]
            copy = names.renamed(layout.text(before.start, last.start), before.flavor, new)
            cuts = (Cut(starts[last.start], starts[last.start], copy),)
        yield Suggestion(starts[series.runs[0].start], tuple(mine), cuts)


def _alike(layout: Layout) -> Iterator[tuple[Series, bool]]:
    """Yield the blocks that begin alike, and whether nothing else stands between them: first those of one level."""
    there, whole = layout.series(whole=False), layout.series()
    yield from ((series, series in whole) for series in there)
    told = {run.shape for series in there for run in series.runs}
    apart: dict[str, list[Run]] = defaultdict(list)
    for run in layout.every:
        apart[run.shape].append(run)
    for shape, runs in apart.items():
        series = Series(tuple(runs))
        if shape not in told and len(series.by_flavor) > 1:
            yield series, True


def _on_line(line: str, spans: Sequence[Span], names: Names, new: Called) -> tuple[int, str] | None:
    """Return what names a new flavor on a line that names others, and where.

    Behind the last one, where two others have nothing but signs between what leads to each of them; else before it,
    as a copy of the one before: whatever belongs to that one.
    """
    items = list[Span]()
    for span in spans:
        if items and items[-1].flavor == span.flavor:
            items[-1] = items[-1]._replace(end=span.end)
        else:
            items.append(span)
    if len(items) > len({item.flavor for item in items}):  # what each of them is there for nobody can tell
        return None
    *_, before, last = items
    lead = min(_lead(line, one, other) for one, other in pairwise(items))
    for one, other in pairwise(items):
        between = line[one.end : other.start]
        parts = between[: len(between) - lead]
        closing = parts[: len(parts) - len(parts.lstrip(_CLOSING))]
        if _PARTS.match(parts) and line.startswith(closing, last.end):
            return last.end, between + names.renamed_part(line, last.start, last.end, last.flavor, new)
    start, end = before.start - lead, last.start - lead
    open_ = depths(line[start:end])
    if lead and min(open_) >= 0 and open_[-1] == 0:
        return end, names.renamed_part(line, start, end, before.flavor, new)
    return None


def _lead(line: str, one: Span, other: Span) -> int:
    """Return how many characters lead to both of two names: they are alike from the names back."""
    pairs = zip(reversed(line[one.end : other.start]), reversed(line[: one.start]), strict=False)
    return sum(1 for _ in takewhile(lambda pair: pair[0] == pair[1], pairs))
