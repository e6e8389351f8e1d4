"""The values of a line, in whatever language: quoted, numbers, what stands behind a key or between tags."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from onomaxis import late
from onomaxis.projects.neighbours.called import Names

TEXT, NUMBER, WORD = "text", "number", "word"
_WORDS = frozenset("true false yes no on off null nil none void".split())
_QUOTED = r'"(?P<double>(?:[^"\\\n]|\\.)*)"|\'(?P<single>(?:[^\'\\\n]|\\.)*)\''
_VALUES = late.compile(
    r"(?P<key>(?:\"(?:[^\"\\\n]|\\.)*\"|'(?:[^'\\\n]|\\.)*')(?=\]?[ \t]*+(?::(?!:)|=>|=(?!=))))"
    rf"|{_QUOTED}|>(?P<inner>[^<>\n]*[^<>\s][^<>\n]*)</"
    r"|(?<![\w.#%/:-])(?P<number>-?(?:0[xX][\dA-Fa-f_]+|\d[\d_]*(?:\.\d+)*)[LfFuU]?)(?![\w.%])"
    r"|[\w\"'\])] ?[:=] ?(?P<word>[A-Za-z_][\w.]*+)(?=[ \t]*(?:[,;)}\]\r\n]|$))"
)
# A key and what is said of it without quotes: data, settings, variables of a script.
_BARE = late.compile(
    r"\s*(?:-\s+)?(?:export\s+|set\s+)?[\w.\[\]=*\"'/-]+?\s*(?::(?=\s)|[:?+]?=)\s*(?P<bare>[^\s\"'\[\]{}(),;][^\"'\[\]{}(),;\n]*?)[,;]?\s*(?:\s[#].*)?$"
)
_INNER = late.compile(r"\\?[\"']([^\"'\\]++)\\?[\"']")
_COMMENT = late.compile(r"\s*(?://|#|\*|/\*|<!--|--)")
# What stands between the name of a value and the value: ``"host" to "…"``, ``name="host">…``, ``HOST: …``.
_BETWEEN = ("=>", ":=", "?=", "+=", " to", ":", "=", "(", ",", ">")
_NEAR = 200
_NAME = late.compile(r"[A-Za-z_][\w.-]{0,99}\Z")


class Literal(NamedTuple):
    """One value of a line: where it stands, its text, its sort, what it is called (empty: nobody tells)."""

    start: int
    end: int
    text: str
    sort: str
    key: str


def literals(line: str) -> Iterator[Literal]:
    """Yield the values of a line in order; none of one that is a comment."""
    if is_comment(line):
        return
    found = False
    for match in _VALUES.finditer(line):
        group = str(match.lastgroup)
        start, end = match.span(group)
        if group == "key":
            continue
        if group in (NUMBER, WORD):
            found = found or group == WORD
            yield Literal(start, end, match[group], group, _key(line, start))
            continue
        found = True
        inner = _INNER.fullmatch(match[group])
        if inner is not None:  # a text that holds its own quotes
            start, end = start + inner.start(1), start + inner.end(1)
        yield Literal(start, end, line[start:end], TEXT, _key(line, match.start()))
    bare = _BARE.match(line) if not found else None
    if bare is not None and not _VALUES.fullmatch(bare["bare"]):
        start, end = bare.span("bare")
        yield Literal(start, end, bare["bare"], WORD, _key(line, start))


def _key(line: str, at: int) -> str:
    before = line[max(0, at - _NEAR) : at].rstrip("[(\"'\\ \t")
    sign = next((sign for sign in _BETWEEN if before.endswith(sign)), "")
    before = before.removesuffix(sign).rstrip()
    inner = before.rstrip("\"'])\\")
    found = _NAME.search(inner)
    if found is None:
        return ""
    first, behind = inner[found.start() - 1 : found.start()], before[len(inner) : len(inner) + 1]
    return found[0] if behind not in ('"', "'") or first == behind else ""  # the end of a text is not a name


def is_comment(line: str) -> bool:
    """Tell whether a line is a comment and nothing else."""
    return _COMMENT.match(line) is not None


def is_choice(text: str) -> bool:
    """Tell whether a value is one of a few that anybody may choose: a switch."""
    return text.casefold() in _WORDS


def shape(line: str, names: Names, flavor: str, bare: bool = False) -> str:
    """Return a line with its values blanked, but for those that speak of the flavor, and the flavor in braces.

    A *bare* one has no value at all.
    """
    parts, at = [], 0
    for item in literals(line):
        if bare or names.braced(item.text, flavor) == item.text:
            parts += [line[at : item.start], "…"]
            at = item.end
    whole = names.braced("".join([*parts, line[at:]]), flavor)
    return " ".join(whole.split()).rstrip(",; ")
