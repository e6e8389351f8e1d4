"""Flavors that a text lists one after another, with the same between any two: ``[alderbank, mossgate]``."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Sequence
from itertools import pairwise
from typing import NamedTuple

from onomaxis import late
from onomaxis.projects.neighbours.called import Called, Names

# What stands between two where nothing else shows that they are a list, but for quotes and what leads to an ID.
_BETWEEN = late.compile(r"[\"'`:%]*+(?:\s*+(?:,|\|\|?|;|&|\+)\s*+|\s++)[\"'`:]*+\Z")
# What parts two that are led by the same: ``Brand.alderbank, Brand.mossgate``.
_PARTS = late.compile(r"\s*+(?:,|\|\|?|;)\s*+")
_SEPARATES = r"\s,;|&+"
_LONGEST = 80


class Item(NamedTuple):
    """One entry of a list: where it stands, whose it is, what it says with its flavor in braces."""

    start: int
    end: int
    flavor: str
    said: str


def chains(text: str, names: Names) -> Iterator[list[Item]]:
    """Yield the lists of a text: each flavor once, all spoken of alike, the same between any two of them."""
    held: list[Item] = []
    gap = ""
    for item in _items(text, names):
        if held:
            raw = text[held[-1].end : item.start]
            between = " ".join(raw.split())
            fits = len(raw) <= _LONGEST and raw.count("\n") < 2 and item.said == held[0].said
            fits = fits and item.flavor not in {other.flavor for other in held} and _closes(raw)
            if fits and (len(held) == 1 or between == gap):
                gap = between
                held.append(item)
                continue
            if _is_list(text, held):
                yield held
                held = []
            elif fits:  # the first of them stood apart
                held, gap = [held[-1], item], between
                continue
        held = [item]
    if _is_list(text, held):
        yield held


def _items(text: str, names: Names) -> Iterator[Item]:
    """Yield what is said of a flavor at once, until another one is spoken of or the line ends."""
    start = end = 0
    flavor = ""
    for span in names.spans(text):
        if flavor == span.flavor and "\n" not in text[end : span.start] and span.start - end <= _LONGEST:
            end = span.end
            continue
        if flavor:
            yield Item(start, end, flavor, names.braced(text[start:end], flavor))
        start, end, flavor = span.start, span.end, span.flavor
    if flavor:
        yield Item(start, end, flavor, names.braced(text[start:end], flavor))


def _is_list(text: str, items: Sequence[Item]) -> bool:
    raws = [text[one.end : other.start] for one, other in pairwise(items)]
    if not raws or all("\n" in raw for raw in raws):  # each on a line of its own: they are blocks
        return False
    parts = re.split(rf"[{_SEPARATES}]", raws[0])
    around = text.startswith(parts[0], items[-1].end) and text.endswith(parts[-1], 0, items[0].start)
    core = raws[0][len(parts[0]) : len(raws[0]) - len(parts[-1])]
    return around and (
        len(items) > 2 or _BETWEEN.fullmatch(raws[0]) is not None or _PARTS.fullmatch(core) is not None
    )


def _closes(between: str) -> bool:
    """Tell whether brackets are as before behind a stretch: one more of it leaves them so."""
    return sum((c in "([{") - (c in ")]}") for c in between) == 0


def addition(text: str, chain: Sequence[Item], names: Names, new: Called) -> tuple[int, str]:
    """Return what lists a new flavor behind the others, and where."""
    raws = Counter(text[one.end : other.start] for one, other in pairwise(chain))
    last = chain[-1]
    inner = text[max(0, last.start - 1) : last.end]  # a quote before it tells how a name is written
    made = names.renamed(inner, last.flavor, new)[1 if last.start else 0 :]
    return last.end, f"{raws.most_common(1)[0][0]}{made}"


def removal(chain: Sequence[Item], gone: str) -> tuple[int, int]:
    """Return the stretch that takes a flavor out of a list with what stands between it and the one before."""
    at = next(number for number, item in enumerate(chain) if item.flavor == gone)
    return (chain[at - 1].end, chain[at].end) if at else (chain[0].start, chain[1].start)
