"""The mapping of configurations in a Ruby script beside an Xcode project: ``project 'App', 'Debug-oak' => :debug``.

Source: the syntax reference of the dependency manager that reads the file ("Podfile syntax reference", project).
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence, Set
from typing import NamedTuple

from onomaxis.formats.lexer import RUBY, Token, matching, nesting, tokens
from onomaxis.formats.source import Source
from onomaxis.model import Note
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import span_edit
from onomaxis.projects.ios.flavors.shared import MARK
from onomaxis.projects.ios.project_file import XcodeProject
from onomaxis.tree import Tree, join


class Pair(NamedTuple):
    """What one configuration is: its name, that, indices of its first and last token, how the key is written.

    The *form* holds the name's place: ``'{}' =>``, ``:'{}' =>``, ``'{}':``.
    """

    name: str
    kind: str
    first: int
    last: int
    form: str


def pairs_of(found: Sequence[Token]) -> Iterator[Pair]:
    """Yield the pairs of a configuration and what it is, as they stand in a token list (Ruby, "Hash")."""
    marks = [token.text for token in found]
    for at, token in enumerate(found):
        quote = token.text[:1] if token.kind == "string" else ""
        symbol = at > 0 and marks[at - 1] == ":"
        rest = marks[at + 1 : at + 5]
        arrow = rest[:3] == ["=", ">", ":"] and bool(quote or symbol)
        colon = rest[:2] == [":", ":"] and token.kind in ("string", "name") and not symbol
        last = at + (4 if arrow else 3)
        if not (arrow or colon) or last >= len(found) or found[last].kind != "name":
            continue
        name, around = (token.text[1:-1], quote) if quote else (token.text, "'")
        key = f"{around}{{}}{around}"
        form = f"{':' if symbol else ''}{key} =>" if arrow else f"{key}:"
        yield Pair(name, marks[last], at - symbol, last, form)


def without(source: Source, names: Set[str]) -> list[tuple[int, int]]:
    """Return the spans to cut so that the configurations in *names* are mapped no more.

    A pair goes with the comma behind it, the last one of a list with the comma before it; a pair that has a line to
    itself goes with the line. A line that was written for flavors alone goes when all of its pairs do.
    """
    view = source.view
    found = [token for token in tokens(view, RUBY) if token.kind != "newline"]
    ours = re.compile(rf"^project '[^'\n]*'(?P<pairs>[^\n]*) {MARK}\r?\n", re.MULTILINE)
    whole = [m.span() for m in ours.finditer(view) if set(re.findall(r"'([^']*)' =>", m["pairs"])) <= names]
    cuts = list(whole)
    free = [
        pair
        for pair in pairs_of(found)
        if pair.name in names and not any(a <= found[pair.first].start < b for a, b in whole)
    ]
    for first, last in _runs(found, free):
        start, end = found[first].start, found[last].end
        before = found[first - 1] if first else None
        if last + 1 < len(found) and found[last + 1].text == ",":
            cuts.append(_tidy(view, start, found[last + 1].end))
        elif before and before.text == ",":
            lead = view[before.end : start]
            cuts += [(before.start, end)] if not lead.strip() else [before[1:3], _tidy(view, start, end)]
        else:
            cuts.append((start, end))
    return _merged(cuts)


def _runs(found: Sequence[Token], pairs: Sequence[Pair]) -> Iterator[tuple[int, int]]:
    """Join pairs that follow each other with nothing but a comma between them: first and last token of each run."""
    runs: list[tuple[int, int]] = []
    for pair in pairs:
        if runs and pair.first == runs[-1][1] + 2 and found[pair.first - 1].text == ",":
            runs[-1] = runs[-1][0], pair.last
        else:
            runs.append((pair.first, pair.last))
    yield from runs


def _tidy(view: str, start: int, end: int) -> tuple[int, int]:
    """Widen a span to its whole line where nothing else stands on it, else over the white space on one side."""
    begin = view.rfind("\n", 0, start) + 1
    stop = end
    while view[stop : stop + 1] in (" ", "\t"):
        stop += 1
    if view[stop : stop + 1] not in ("", "\n", "\r"):
        return start, stop
    if not view[begin:start].strip(" \t"):
        following = view.find("\n", stop)
        return begin, len(view) if following < 0 else following + 1
    while view[start - 1] in (" ", "\t"):
        start -= 1
    return start, stop


def _merged(cuts: list[tuple[int, int]]) -> list[tuple[int, int]]:
    merged: list[tuple[int, int]] = []
    for start, end in sorted(cuts):
        if merged and start <= merged[-1][1]:
            merged[-1] = merged[-1][0], max(end, merged[-1][1])
        else:
            merged.append((start, end))
    return merged


def podfile_told(project: XcodeProject, tree: Tree, templates: Mapping[str, str]) -> Draft:
    """Tell CocoaPods which new configurations are for debugging: it takes every unknown one for a release.

    *templates* are the configurations that the new ones were made from.
    """
    draft = Draft()
    path = join(project.folder, "Podfile")
    data = tree.named_file(path)
    debug = [new for new, old in templates.items() if "debug" in old.lower()]
    if data is None or not debug:
        return draft
    source = Source.read(data)
    view = source.view
    found = [token for token in tokens(view, RUBY) if token.kind != "newline"]
    call = next((at for at, token in enumerate(found) if token.text == "project" and _begins(view, token)), None)
    at: int | None
    if call is None:
        first = re.search(r"^(?:abstract_)?target\b", view, re.MULTILINE)
        at = first.start() if first else len(view)
        added = "".join(f", '{name}' => :debug" for name in debug)
        text = f"project '{project.name}'{added} {MARK}{source.newline}"
    else:
        at, text = _beside(source, found, call, templates, debug)
    if at is None and "#{" in view:
        return draft  # made of a list of names, which speaks of the new one as of its siblings
    if at is None:
        spot = f"{path}:{source.line(found[call or 0].start)}"
        draft.notes.append(Note(spot, f"say here what is for debugging, by hand: {', '.join(debug)}"))
    else:
        draft.edits.append(span_edit(path, source, at, at, text, "flavor"))
    return draft


def _begins(view: str, token: Token) -> bool:
    return not view[view.rfind("\n", 0, token.start) + 1 : token.start].strip(" \t")


def _beside(
    source: Source, found: Sequence[Token], call: int, templates: Mapping[str, str], debug: Sequence[str]
) -> tuple[int | None, str]:
    """Return where new configurations are mapped behind those that are, and how: as their templates are.

    No place where the list is computed.
    """
    view = source.view
    name = call + 1 + (found[call + 1].text == "(") if call + 1 < len(found) else call
    follow = name + 1
    if found[name].kind != "string":
        return None, ""
    if follow >= len(found) or found[follow].text != ",":
        return found[name].end, "".join(f", '{new}' => :debug" for new in debug)
    every = list(pairs_of(found))
    pairs, opened = _inline(every, follow + 1), _opened(found, follow + 1)
    if not pairs and opened is not None:
        pairs = [pair for pair in every if opened < pair.first < matching(found, opened)]
    if not pairs and opened is None:
        pairs = _in_call(view, found, every, follow + 1)
    if not pairs and opened is None:
        return None, ""
    kinds = {pair.name: pair.kind for pair in pairs}
    wanted = {new: kinds[old] for new, old in templates.items() if old in kinds}
    wanted |= {new: "debug" for new in debug if new not in wanted}
    if "release" in kinds.values():  # they are told as well
        wanted |= {new: "release" for new in templates if new not in wanted}
    if not pairs:
        inner = ", ".join(f"'{new}' => :{kind}" for new, kind in wanted.items())
        return found[opened or 0].end, inner
    last = pairs[-1]
    begin = view.rfind("\n", 0, found[last.first].start) + 1
    indent = view[begin : found[last.first].start]
    lead = f",{source.newline}{indent}" if not indent.strip(" \t") else ", "
    return found[last.last].end, "".join(f"{lead}{last.form.format(new)} :{kind}" for new, kind in wanted.items())


def _inline(every: Sequence[Pair], at: int) -> list[Pair]:
    """Return the pairs that follow each other from a token on, with nothing but commas between them."""
    found: list[Pair] = []
    for pair in every:
        if pair.first == (found[-1].last + 2 if found else at):
            found.append(pair)
    return found


def _in_call(view: str, found: Sequence[Token], every: Sequence[Pair], at: int) -> list[Pair]:
    """Return the last pairs that follow each other in the arguments of a call, in whatever they are put together."""
    depth, end = 0, at
    while end < len(found) and (depth > 0 or "\n" not in view[found[end - 1].end : found[end].start]):
        depth += nesting(found[end])
        end += 1
    inner = [pair for pair in every if at <= pair.first < end]
    starts = [pair.first for pair in inner if not any(other.last + 2 == pair.first for other in inner)]
    return _inline(inner, starts[-1]) if starts else []


def _opened(found: Sequence[Token], at: int) -> int | None:
    """Return the brace that opens the mapping at a token: there, or where the constant of that name is set."""
    texts = [token.text for token in found]
    if texts[at : at + 1] == ["{"]:
        return at
    if at >= len(found) or found[at].kind != "name" or texts[at + 1 : at + 2] in (["."], ["("], ["["], ["="]):
        return None
    set_at = [i for i in range(at) if texts[i : i + 3] == [texts[at], "=", "{"]]
    return set_at[0] + 2 if len(set_at) == 1 else None
