"""Functions of a build script: ``def brand(name) { … }``, ``fun brand(name: String): Properties { … }``."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from onomaxis.formats.gradle_expressions import Block, parameter_defaults, parameter_names, statements_of
from onomaxis.formats.lexer import Token, matching


def functions_of(tokens: Sequence[Token]) -> Mapping[str, Block | None]:
    """Return the functions that tokens declare, by name; None for a name that several have."""
    found: dict[str, Block | None] = {}
    for at, token in enumerate(tokens[:-2]):
        if token.kind == "name" and tokens[at + 1].text == "(" and _introduces(tokens, at):
            name = token.text.strip("`")
            found[name] = None if name in found else _function(tokens, at)
    return found


def _function(tokens: Sequence[Token], at: int) -> Block | None:
    close = matching(tokens, at + 1)
    start = close + 1
    while start < len(tokens) and tokens[start].text not in ("{", "=", ";", "}"):
        start += 1
    if start >= len(tokens) or tokens[start].text not in ("{", "="):
        return None
    names = parameter_names(tokens[at + 2 : close])
    defaults = parameter_defaults(tokens[at + 2 : close])
    if tokens[start].text == "{":
        return Block(names, tuple(tokens[start + 1 : matching(tokens, start)]), defaults)
    rest = tokens[start + 1 :]
    begin, end = next(iter(statements_of(rest)), (0, 0))
    return Block(names, tuple(rest[begin:end]), defaults) if end else None


def _introduces(tokens: Sequence[Token], at: int) -> bool:
    """Tell whether a name before a parenthesis is declared there: ``fun x(``, ``fun Project.x(``, ``def x(``."""
    first = _first(tokens, at)
    heads = {token.text for token in tokens[first:at]}
    if "fun" in heads:
        return True
    if first == at or any(token.kind != "name" for token in tokens[first:at]):
        return False
    close = matching(tokens, at + 1)
    return close + 1 < len(tokens) and tokens[close + 1].text == "{"


def _first(tokens: Sequence[Token], at: int) -> int:
    """Return the index of the first token of the statement that *at* stands in."""
    while at > 0 and tokens[at - 1].kind != "newline" and tokens[at - 1].text not in ("{", "}", ";", "->", "("):
        at -= 1
    return at
