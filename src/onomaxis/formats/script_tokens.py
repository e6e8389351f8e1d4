"""Walking over a script's tokens: brackets, statements, blocks, the keys and entries of object literals."""

from __future__ import annotations

from onomaxis.formats.lexer import BRACKETS, Token, matching, nesting

_DEEPEST = 60


class Computed(Exception):
    """A value that is computed in a way that is not followed."""


def closing(items: list[Token], at: int) -> int:
    """Return the position of the bracket that closes the one at *at*. Raises Computed."""
    found = matching(items, at)
    if found == len(items):
        raise Computed("a bracket is not closed")
    return found


def statement_end(body: list[Token], at: int) -> int:
    """Return where the statement ends that goes on at *at*: before a semicolon, or the word that begins another."""
    start = at
    while at < len(body) and body[at].text != ";":
        if at > start and body[at].text in ("return", "if", "switch", "const", "let", "var", "case", "default"):
            break
        at = closing(body, at) + 1 if body[at].text in BRACKETS else at + 1
    return at


def block(body: list[Token], at: int, depth: int = 0) -> tuple[list[Token], int]:
    """Return the tokens of the block or statement at *at*, and the position behind it. Raises Computed."""
    if depth > _DEEPEST:
        raise Computed("statements are nested too deeply")
    if at < len(body) and body[at].text == "{":
        close = closing(body, at)
        return body[at + 1 : close], close + 1
    if at < len(body) and body[at].text == "if":
        close = closing(body, at + 1)
        _, end = block(body, close + 1, depth + 1)
        while end < len(body) and body[end].text == "else":
            _, end = block(body, end + 1, depth + 1)
        return body[at:end], end
    end = statement_end(body, at + 1)
    return body[at:end], end + (end < len(body) and body[end].text == ";")


def case_end(cases: list[Token], at: int) -> int:
    """Return where the statements of a case end: before the next label."""
    while at < len(cases) and cases[at].text not in ("case", "default"):
        at = closing(cases, at) + 1 if cases[at].text in BRACKETS else at + 1
    return at


def members(table: list[Token]) -> dict[str, list[Token]]:
    """Return the entries of an object literal."""
    found: dict[str, list[Token]] = {}
    at = 1
    while at < len(table) - 1:
        end = at
        while end < len(table) - 1 and table[end].text != ",":
            end = closing(table, end) + 1 if table[end].text in BRACKETS else end + 1
        if end - at > 2 and table[at + 1].text == ":":
            found[table[at].text.strip("\"'")] = table[at + 2 : end]
        at = end + 1
    return found


def bare(items: list[Token]) -> list[Token]:
    """Take type assertions and outer parentheses away."""
    for _ in range(_DEEPEST):
        items = items[: _asserted(items)]
        while len(items) > 1 and items[-1].text == "!":  # it is not null, says whoever wrote it
            items = items[:-1]
        if len(items) < 3 or items[0].text != "(" or items[-1].text != ")" or not is_enclosed(items):
            return items
        items = items[1:-1]
    raise Computed("parentheses are nested too deeply")


def _asserted(items: list[Token]) -> int:
    """Return where a type assertion begins that is outside every bracket; the end where there is none."""
    depth = 0
    for at, token in enumerate(items):
        depth += nesting(token)
        if at and depth == 0 and token.kind == "name" and token.text in ("as", "satisfies"):
            return at
    return len(items)


def is_enclosed(items: list[Token]) -> bool:
    """Tell whether the bracket that tokens begin with is closed by the last of them."""
    return bool(items) and nesting(items[0]) > 0 and matching(items, 0) == len(items) - 1
