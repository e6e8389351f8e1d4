"""A text that speaks of flavors, with one more of them, or with one less: as it speaks of the others."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Collection, Iterator, Mapping, Sequence
from typing import NamedTuple

from onomaxis.projects.neighbours.blocks import Layout, Run, Series
from onomaxis.projects.neighbours.called import Called, Names
from onomaxis.projects.neighbours.lists import Item, addition, chains, entries, removal
from onomaxis.projects.neighbours.literals import is_comment, shape
from onomaxis.projects.neighbours.twins import Owing, Twins, may_be_other
from onomaxis.projects.siblings import majority


class Cut(NamedTuple):
    """A stretch of a text and what comes in its place; ``owed`` has lines counted from the first of the new text."""

    start: int
    end: int
    text: str
    owed: tuple[Owing, ...] = ()


def with_flavor(
    text: str, path: str, siblings: Sequence[Called], likes: Sequence[str], new: Called, given: Mapping[str, str]
) -> list[Cut]:
    """Return what lists a new flavor in a text wherever most of its siblings are listed.

    *likes* are the siblings that it is made after, the first that is there counts.
    """
    every = Names([*siblings, new], path)
    cuts: list[Cut] = []
    for chain in chains(text, every):
        named = [span.flavor for span in chain]
        if new.name not in named and majority(len(named), siblings):
            at, added = addition(text, chain, every, new)
            cuts.append(Cut(at, at, added))
    layout = Layout(text, every)
    starts = line_starts(layout)
    for items in _in_lines(text, layout, starts, [cut.start for cut in cuts]):
        texts = {item.flavor: text[item.start : item.end] for item in items}
        if new.name in texts or not majority(len(texts), siblings):
            continue
        model = next((name for name in likes if name in texts), items[-1].flavor)
        twin = Twins(path, every, model, new, given).twin(texts.pop(model), texts)
        if not may_be_other(texts, twin):
            gap = text[items[-2].end : items[-1].start]
            cuts.append(Cut(items[-1].end, items[-1].end, gap + twin.text, twin.owed))
    for series in layout.series():
        mine = series.by_flavor
        if new.name in mine or not majority(len(mine), siblings):
            continue
        model = model_of(series, likes)
        twins = Twins(path, every, model, new, given)
        mates = {name: "".join(layout.text(r.start, r.end) for r in runs) for name, runs in mine.items()}
        own = mates.pop(model)
        if not twins.alike(own, mates):
            continue
        twin = twins.twin(own, mates)
        if may_be_other(mine, twin):
            continue
        lead, made = layout.gap(series.runs), twin.text
        lines = lead.count("\n")
        owed = tuple(item._replace(line=item.line + lines) for item in twin.owed)
        cuts += appended(layout, starts, series, lead, made, owed)
    return sorted(cuts, key=lambda cut: (cut.start, cut.end))


class Lacking(NamedTuple):
    """What a text says of all flavors but one, or of most: where, of whom, whose is lacking; ``said`` in a block."""

    at: int
    named: tuple[str, ...]
    flavor: str
    said: str = ""


def lacking(text: str, path: str, flavors: Sequence[Called]) -> Iterator[Lacking]:
    """Yield the flavors that a text does not list where it lists the others, and what their own blocks leave out.

    In a block that all others have line by line, what every one of them says counts: what most say is a choice.
    """
    every = Names(flavors, path)
    layout = Layout(text, every)
    starts = line_starts(layout)
    found: list[tuple[int, dict[str, str]]] = []
    for chain in chains(text, every):
        found.append((chain[0].start, dict.fromkeys((item.flavor for item in chain), "")))
    for items in _in_lines(text, layout, starts, [at for at, _ in found]):
        found.append((items[0].start, {item.flavor: text[item.start : item.end] for item in items}))
    for series in layout.series(whole=False):
        said = {name: "".join(layout.text(r.start, r.end) for r in runs) for name, runs in series.by_flavor.items()}
        beside = layout.blocks_below(series.runs[0].above)  # told in another form
        found.append((starts[series.runs[0].start], dict.fromkeys(beside, "") | said))
    for at, said in found:
        texts = {name: own for name, own in said.items() if own}
        for item in flavors:
            if item.name in said or not majority(len(texts or said), range(len(flavors) - 1)):
                continue
            if texts:
                model, *_ = texts
                twins = Twins(path, every, model, item, {})
                mates = {name: own for name, own in texts.items() if name != model}
                if not twins.alike(texts[model], mates) or may_be_other(said, twins.twin(texts[model], mates)):
                    continue
            yield Lacking(at, tuple(texts or said), item.name)
    for series in layout.series():
        yield from _in_blocks(layout, starts, series, len(flavors))


def _in_blocks(layout: Layout, starts: Sequence[int], series: Series, number: int) -> Iterator[Lacking]:
    """Yield what each of the other flavors says in its block, and one does not."""
    blocks = {name: runs for name, runs in series.by_flavor.items() if any(r.end - r.start > 1 for r in runs)}
    if len(blocks) < 3 or len(blocks) < number:
        return
    said: dict[str, set[str]] = {}
    for name, runs in blocks.items():
        lines = (line for run in runs for line in layout.lines[run.start + 1 : run.end] if not is_comment(line))
        said[name] = {shape(line, layout.names, name) for line in lines if any(map(str.isalnum, line))}
    for name, runs in blocks.items():
        others = [lines for other, lines in said.items() if other != name]
        for line in sorted(set.intersection(*others) - said[name]):
            yield Lacking(starts[runs[0].start], tuple(other for other in blocks if other != name), name, line)


def _in_lines(text: str, layout: Layout, starts: Sequence[int], told: Sequence[int]) -> Iterator[list[Item]]:
    """Yield the lists of entries that stand in one line, of lines that no plain list is in."""
    plain = {bisect_right(starts, at) - 1 for at in told}
    for line in layout.shared_lines():
        if line not in plain:
            yield from entries(text, starts[line], starts[line + 1], layout.names)


def model_of(series: Series, likes: Sequence[str]) -> str:
    """Return whom a new entry is made after: one with lines below its first, where the last one has some.

    Those of one that has none are the next one's: ``case`` falls through.
    """
    last = series.runs[-1]
    fits = {run.flavor for run in series.runs if (run.end - run.start > 1) == (last.end - last.start > 1)}
    return next((name for name in likes if name in fits), last.flavor)


def appended(
    layout: Layout, starts: Sequence[int], series: Series, lead: str, made: str, owed: tuple[Owing, ...]
) -> list[Cut]:
    """Return the cuts that put a text behind a series; the entry that was the last ends as the others do."""
    *before, last = series.runs
    end = starts[last.end]
    held = layout.text(last.start, last.end)
    usual, now = _sign(layout, before[-1]), _sign(layout, last)
    cuts = []
    if usual != now:
        at = end - len(held) + _ends(held).at
        cuts.append(Cut(at, at + len(now), usual))
    newline = "\r\n" if "\r\n" in layout.lines[0] else "\n"
    found = _ends(made)
    bare = made[: found.at] + now + found.rest
    if not held.endswith("\n"):
        lead, bare = newline + lead, bare.rstrip("\r\n")
        owed = tuple(item._replace(line=item.line + 1) for item in owed)
    elif not bare.endswith("\n"):
        bare += newline
    return [*cuts, Cut(end, end, lead + bare, owed)]


def without_flavor(text: str, path: str, flavors: Sequence[Called], gone: str) -> list[Cut]:
    """Return what takes a flavor out of a text wherever it is listed as others are."""
    every = Names(flavors, path)
    found = list(chains(text, every))
    layout = Layout(text, every)
    starts = line_starts(layout)
    for items in _in_lines(text, layout, starts, [chain[0].start for chain in found]):
        said = {item.flavor: text[item.start : item.end] for item in items}
        found += [items] if _is_own(path, every, gone, said) else []
    cuts = [Cut(*removal(chain, gone), "") for chain in found if gone in {item.flavor for item in chain}]
    for series in layout.series():
        said = {name: "".join(layout.text(r.start, r.end) for r in runs) for name, runs in series.by_flavor.items()}
        for run in series.by_flavor.get(gone, ()) if _is_own(path, every, gone, said) else ():
            cuts += _taken_out(layout, starts, series, run)
    return sorted(dict.fromkeys(cuts), key=lambda cut: (cut.start, cut.end))


def _is_own(path: str, names: Names, gone: str, said: Mapping[str, str]) -> bool:
    """Tell whether an entry is a flavor's, and not something else that is called so."""
    if gone not in said:
        return True
    mates = {name: text for name, text in said.items() if name != gone}
    return not may_be_other(said, Twins(path, names, gone, Called(gone, {}, ""), {}).twin(said[gone], mates))


def _taken_out(layout: Layout, starts: Sequence[int], series: Series, run: Run) -> list[Cut]:
    at = series.runs.index(run)
    start, end = run.start, run.end
    before = series.runs[at - 1] if at else run
    if before.end == start and end - start > 1 and before.end - before.start == 1:  # the one before falls through
        end = start + 1
    elif at and _is_empty(layout.lines[series.runs[at - 1].end : start]):
        start = series.runs[at - 1].end
    elif not at and _is_empty(layout.lines[end : series.runs[1].start]):
        end = series.runs[1].start
    first, last = starts[start], starts[end]
    cuts = []
    kept = [other for other in series.runs if other.flavor != run.flavor]
    if at and run is series.runs[-1]:
        before = kept[-1]
        held = layout.text(before.start, before.end)
        usual, now = _sign(layout, before), _sign(layout, run)
        if usual != now:
            spot = starts[before.end] - len(held) + _ends(held).at
            cuts.append(Cut(spot, spot + len(usual), now))
        if end == len(layout.lines) and not layout.lines[-1].endswith("\n"):  # nor did the file end in a line break
            first -= len(layout.lines[start - 1]) - len(layout.lines[start - 1].rstrip("\r\n"))
    return [*cuts, Cut(first, last, "")]


def applied_cuts(text: str, cuts: Collection[Cut]) -> str:
    """Return a text with stretches replaced."""
    parts, at = [], 0
    for cut in cuts:
        parts += [text[at : cut.start], cut.text]
        at = cut.end
    return "".join([*parts, text[at:]])


def _is_empty(lines: Sequence[str]) -> bool:
    return all(not line.strip() for line in lines)


def line_starts(layout: Layout) -> list[int]:
    """Return where each line of a text begins, and where the last one ends."""
    found = [0]
    for line in layout.lines:
        found.append(found[-1] + len(line))
    return found


class _End(NamedTuple):
    """What ends an entry, and where; ``rest`` is what follows on its line: a comment, the end of the line."""

    at: int
    sign: str
    rest: str


def _ends(text: str) -> _End:
    line = text[text.rstrip("\r\n").rfind("\n") + 1 :]
    before = len(text) - len(line)
    for mark in (" //", " #", "\t//", "\t#"):
        at = line.rfind(mark)
        if at >= 0 and not {'"', "'"} & set(line[at:]):
            line = line[:at]
    code = text[: before + len(line.rstrip())]
    sign = code[-1:] if code.endswith((",", ";")) else ""
    return _End(len(code) - len(sign), sign, text[len(code) :])


def _sign(layout: Layout, run: Run) -> str:
    return _ends(layout.text(run.start, run.end)).sign
