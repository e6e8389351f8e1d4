"""The mapping of configurations in a Ruby script beside an Xcode project: ``project 'App', 'Debug-oak' => :debug``.

Source: the syntax reference of the dependency manager that reads the file ("Podfile syntax reference", project).
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence, Set
from typing import NamedTuple

from onomaxis import late
from onomaxis.formats.lexer import RUBY, Token, tokens
from onomaxis.formats.source import Source
from onomaxis.model import Edit
from onomaxis.projects.draft import Draft
from onomaxis.projects.ios.flavors.shared import MARK
from onomaxis.projects.ios.project_file import XcodeProject
from onomaxis.tree import Tree, join


class Pair(NamedTuple):
    """One ``'name' => :kind``: indices of its first and last token."""

    name: str
    first: int
    last: int


def pairs_of(found: Sequence[Token]) -> Iterator[Pair]:
    """Yield the pairs of a configuration and what it is, as they stand in a token list."""
    marks = [token.text for token in found]
    for at, token in enumerate(found):
        maps = token.kind == "string" and marks[at + 1 : at + 4] == ["=", ">", ":"]
        if maps and len(found) > at + 4 and found[at + 4].kind == "name":
            yield Pair(token.text[1:-1], at, at + 4)


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
    data = tree.read(path) if tree.exists(path) else None
    debug = [new for new, old in templates.items() if "debug" in old.lower()]
    if data is None or not debug:
        return draft
    source = Source.read(data)
    found = re.search(r"^[ \t]*project[ \t(]+(['\"])[^'\"\n]+\1", source.view, re.MULTILINE)
    if found is None:
        first = re.search(r"^(?:abstract_)?target\b", source.view, re.MULTILINE)
        at = first.start() if first else len(source.view)
        added = "".join(f", '{name}' => :debug" for name in debug)
        text = f"project '{project.name}'{added} {MARK}{source.newline}"
    else:
        at, text = _beside(source, found.end(), templates, debug)
    draft.edits.append(Edit(path, source.offset(at), source.offset(at), source.raw(text), "flavor"))
    return draft


_MAPPED = late.compile(
    r"(?P<before>[\s,{]*)(?P<quote>['\"])(?P<name>[^'\"\n]+)['\"](?P<arrow>\s*=>\s*:)(?P<kind>\w+)"
)


def _beside(source: Source, at: int, templates: Mapping[str, str], debug: Sequence[str]) -> tuple[int, str]:
    """Return where new configurations are mapped behind those that are, and how: as their templates are."""
    pairs: list[re.Match[str]] = []
    while (match := _MAPPED.match(source.view, pairs[-1].end() if pairs else at)) is not None:
        pairs.append(match)
    kinds = {match["name"]: match["kind"] for match in pairs}
    wanted = {new: kinds[old] for new, old in templates.items() if old in kinds}
    wanted |= {new: "debug" for new in debug if new not in wanted}
    if not pairs:
        braces = re.compile(r"[ \t]*,[ \t]*\{").match(source.view, at)
        if braces:
            return braces.end(), "".join(f"{source.newline}  '{name}' => :{kind}," for name, kind in wanted.items())
        return at, "".join(f", '{name}' => :{kind}" for name, kind in wanted.items())
    last = pairs[-1]
    lead = last["before"].replace("{", ",").strip(" \t") if "\n" in last["before"] else ", "
    lead = "," + last["before"].partition(",")[2] if len(pairs) > 1 else lead if lead.startswith(",") else f",{lead}"
    quote, arrow = last["quote"], last["arrow"]
    return last.end(), "".join(f"{lead}{quote}{name}{quote}{arrow}{kind}" for name, kind in wanted.items())
