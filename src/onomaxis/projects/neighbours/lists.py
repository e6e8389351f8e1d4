"""Flavors that a text lists one after another, with the same between any two: ``[alderbank, mossgate]``."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Sequence
from itertools import accumulate, pairwise
from typing import NamedTuple

from onomaxis import late
from onomaxis.projects.neighbours.called import Called, Names
from onomaxis.projects.neighbours.literals import shape

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
            fits = 0 < len(raw) <= _LONGEST and raw.count("\n") < 2 and item.said == held[0].said
            fits = fits and item.flavor not in {other.flavor for other in held} and depths(raw)[-1] == 0
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
    if not _ends_there(text, items[0].start - len(parts[-1]), items[-1].end + len(parts[0])):
        return False
    core = raws[0][len(parts[0]) : len(raws[0]) - len(parts[-1])]
    return around and (
        len(items) > 2 or _BETWEEN.fullmatch(raws[0]) is not None or _PARTS.fullmatch(core) is not None
    )


def _ends_there(text: str, start: int, end: int) -> bool:
    """Tell whether nothing goes on behind a list as an entry of pairs does: ``"alderbank" to …``, ``"a": …``."""
    before = text[max(0, start - _LONGEST) : start].rstrip(" \t")
    behind = text[end : end + _LONGEST].lstrip(" \t")
    if behind[:1].isalnum() or behind[:1] == "_" or (behind[:1] == "=" and behind[:2] != "=>"):
        return False
    return not (behind[:1] == ":" and before[-1:] == ":")


def depths(text: str) -> list[int]:
    """Return how many brackets are open behind each character of a stretch."""
    return list(accumulate((c in "([{") - (c in ")]}") for c in text))


def addition(text: str, chain: Sequence[Item], names: Names, new: Called) -> tuple[int, str]:
    """Return what lists a new flavor behind the others, and where."""
    raws = Counter(text[one.end : other.start] for one, other in pairwise(chain))
    last = chain[-1]
    made = names.renamed_part(text, last.start, last.end, last.flavor, new)
    return last.end, f"{raws.most_common(1)[0][0]}{made}"


def removal(chain: Sequence[Item], gone: str) -> tuple[int, int]:
    """Return the stretch that takes a flavor out of a list with what stands between it and the one before."""
    at = next(number for number, item in enumerate(chain) if item.flavor == gone)
    return (chain[at - 1].end, chain[at].end) if at else (chain[0].start, chain[1].start)


def entries(text: str, start: int, end: int, names: Names) -> Iterator[list[Item]]:
    """Yield the lists in brackets of a line whose entries speak of one flavor each, whatever else each says.

    ``mapOf("alderbank" to 1, "mossgate" to 5)``: entries stand between commas, and are alike but for their values.
    """
    for spans in _brackets(text, start, end):
        held: list[Item] = []
        for first, last in spans:
            said = {span.flavor for span in names.spans(text[first:last])}
            flavor = next(iter(said)) if len(said) == 1 else ""
            item = Item(first, last, flavor, shape(text[first:last], names, flavor))
            fits = bool(flavor) and all(item.said == other.said and flavor != other.flavor for other in held)
            if not fits and len(held) > 1:
                yield held
            held = [*held, item] if fits else [item] if flavor else []
        if len(held) > 1:
            yield held


_TOKEN = late.compile(r"\"(?:[^\"\\]|\\.)*\"|'(?:[^'\\]|\\.)*'|[\[({\])},]")


def _brackets(text: str, start: int, end: int) -> Iterator[list[tuple[int, int]]]:
    """Yield for each pair of brackets in a stretch what stands between its commas, without the blanks around."""
    open_: list[tuple[int, list[tuple[int, int]]]] = []
    for token in _TOKEN.finditer(text, start, end):
        if token[0] in "[({":
            open_.append((token.end(), []))
        elif token[0] in "])},":
            if not open_:
                continue
            first, found = open_.pop()
            inner = text[first : token.start()]
            if inner.strip():
                lead = len(inner) - len(inner.lstrip())
                found.append((first + lead, first + len(inner.rstrip())))
            if token[0] == ",":
                open_.append((token.end(), found))
            else:
                yield found
