"""Which variables the statements of a build script may change, told by their tokens alone.

A statement that is not followed makes these unknown, and nothing else. Source: docs.groovy-lang.org, "Operators" and
GDK (List, Map); kotlinlang.org, "Collection write operations".
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from itertools import pairwise

from onomaxis.formats.gradle_expressions import Block
from onomaxis.formats.lexer import Token, enclosing

ASSIGNS = frozenset({"=", "+=", "-=", "*="})
_STEPS = frozenset({"++", "--"})
_HEADS = frozenset({"if", "while", "switch", "when", "return"})
# Calls that change what they are asked of.
CHANGES = frozenset(
    (
        "also apply tap let run "  # what their block asks for is that
        "load put putAll add addAll addAt set setProperty plusAssign putAt putIfAbsent computeIfAbsent merge store "
        "remove removeAt removeAll removeIf removeLast retainAll clear leftShift push pop swap append insert "
        "sort sortBy unique reverse shuffle"
    ).split()
)


def changed_in(found: Sequence[Token]) -> frozenset[str]:
    """Return the names of the variables that tokens give a value, count, or ask to change."""
    return frozenset(name for _, name in changes(found))


def changes(found: Sequence[Token]) -> Iterator[tuple[int, str]]:
    """Yield where a variable may be changed, by the index of a token, and its name; what is declared there is new."""
    for at, token in enumerate(found):
        text = token.text if token.kind in ("mark", "name") else ""
        if text in ASSIGNS:
            if found[at - 1 : at] and found[at - 1].text == ")":  # (a, b) = …
                for inner in range(max(enclosing(found, at - 1), 0), at):
                    if found[inner].kind == "name":
                        yield at, found[inner].text
            root = _root(found, at - 1)
            if root >= 0 and not _is_new(found, root, at):
                yield at, found[root].text.strip("`")
        elif text in _STEPS or text == "<<":
            before = _root(found, at - 1)
            after = at + 1 if text in _STEPS and before < 0 and found[at + 1 : at + 2] else before
            if after >= 0 and found[after].kind == "name":
                yield at, found[after].text.strip("`")
        elif text in CHANGES and at > 1 and found[at - 1].text in (".", "?."):
            root = _root(found, at - 2)
            if root >= 0:
                yield at, found[root].text.strip("`")


def _root(found: Sequence[Token], at: int) -> int:
    """Return the index of the name that a path begins with which ends at *at* (``a.b[0].c``); -1 where none does."""
    while at >= 0:
        if found[at].kind == "mark" and found[at].text in (")", "]"):
            at = enclosing(found, at) - 1
            continue
        if found[at].kind != "name":
            return -1
        if at > 1 and found[at - 1].text in (".", "?."):
            at -= 2
            continue
        return at
    return -1


def _is_new(found: Sequence[Token], root: int, at: int) -> bool:
    """Tell ``def a =``, ``String a =`` and an argument's name (``f(a = 1)``) from a variable that gets a value."""
    before = found[root - 1] if root else None
    if root != at - 1 or before is None:
        return False
    if before.text == "(":
        return root > 1 and found[root - 2].kind == "name" and found[root - 2].text not in _HEADS
    if before.text == ":":  # val a: String =, fun f(a: String = …), and no case of a switch
        return root > 2 and found[root - 3].text in ("val", "var", "(", ",")
    return (before.kind == "name" and before.text not in ("else", "in")) or before.text in (",", ">")


# Stands for whatever a function is given.
ARGUMENTS = "()"


def changed_by(functions: Mapping[str, Block]) -> Mapping[str, frozenset[str]]:
    """Return what each function may change that is not its own, calls of others included."""
    direct: dict[str, frozenset[str]] = {}
    calls: dict[str, set[str]] = {}
    for name, block in functions.items():
        changed = changed_in(block.body) - _declared(block.body)
        given = {ARGUMENTS} if changed.intersection(block.params) else set()
        direct[name] = changed.difference(block.params) | given
        calls[name] = {token.text for token in block.body if token.kind == "name" and token.text in functions}
    found: dict[str, frozenset[str]] = {}
    for name in functions:
        waiting, seen = [name], {name}
        while waiting:
            for other in calls[waiting.pop()] - seen:
                seen.add(other)
                waiting.append(other)
        found[name] = frozenset().union(*(direct[other] for other in seen))
    return {name: changed for name, changed in found.items() if changed}


def _declared(body: Sequence[Token]) -> set[str]:
    return {
        token.text
        for before, token in pairwise(body)
        if token.kind == "name" and before.kind == "name" and before.text not in ("return", "else", "in")
    }
