"""Walking over a script's tokens: brackets, statements, blocks, the keys and entries of object literals."""

from __future__ import annotations

from onomaxis.formats.lexer import BRACKETS, Token, matching, nesting

_DEEPEST = 60
# What may follow a value without changing it.
_TRAILERS = (("toString", "(", ")"), ("trim", "(", ")"))


class Computed(Exception):
    """A value that is computed in a way that is not followed."""


class Decided(Computed):
    """A value that the environment decides, with nothing for when it says nothing."""


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


def key_of(items: list[Token]) -> str:
    """Return the key that tokens spell; empty where it is decided elsewhere."""
    if len(items) == 1 and items[0].kind == "string" and "${" not in items[0].text:
        return items[0].text.strip("\"'`")
    return ""


def access_path(items: list[Token]) -> list[list[Token]] | None:
    """Return the keys of ``name.key[expression]…``, each as tokens; None where it is no such path."""
    if len(items) < 3 or items[0].kind != "name":
        return None
    path: list[list[Token]] = []
    at = 1
    while at < len(items):
        if items[at].text in (".", "?.") and at + 1 < len(items) and items[at + 1].kind == "name":
            path.append([items[at + 1]._replace(kind="string", text=f"'{items[at + 1].text}'", parts=())])
            at += 2
        elif items[at].text == "[":
            close = closing(items, at)
            path.append(items[at + 1 : close])
            at = close + 1
        else:
            return None
    return path


def without_trailer(items: list[Token]) -> list[Token]:
    """Take calls off the end that give back the text that they are called on."""
    end = len(items)
    while end > 4 and tuple(item.text for item in items[end - 3 : end]) in _TRAILERS and items[end - 4].text == ".":
        end -= 4
    return items[:end]


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


def split_at(items: list[Token], mark: str) -> tuple[list[Token], list[Token]] | None:
    """Split at the first *mark* that stands outside every bracket; ``??`` may be two marks in the token list."""
    depth = 0
    for at, token in enumerate(items):
        depth += nesting(token)
        if depth:
            continue
        follow = items[at + 1].text if at + 1 < len(items) else ""
        doubled = token.text == "?" and follow == "?"
        if mark == "??" and doubled:
            return items[:at], items[at + 2 :]
        if token.text == mark and not (mark == "?" and (doubled or (at and items[at - 1].text == "?"))):
            return items[:at], items[at + 1 :]
    return None
