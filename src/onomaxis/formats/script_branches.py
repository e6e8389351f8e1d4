"""The values that an expression of a script can have, a choice's branches one by one.

What is read: string and template literals, numbers, names declared in the same file (set again under an ``if``: a
branch), ``a + b``, ``a ?? 'b'``, ``a || 'b'``, choices ``c ? 'a' : 'b'``, calls of functions of the file (``if``,
``switch``), entries of constant tables, keys of JSON files that the script imports, ``String()`` and its
like, type assertions. Everything else raises :class:`Computed`.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, NamedTuple

from onomaxis.formats.escapes import decode_backslashes
from onomaxis.formats.lexer import LANGUAGES, Region, Token, tokens

if TYPE_CHECKING:
    from onomaxis.formats.script import ScriptFile

_CLOSING = {"{": "}", "(": ")", "[": "]"}
_DEEPEST = 24
# Calls that give back what they are given, and what may follow a value without changing it.
_WRAPPERS = frozenset(("String", "Number", "parseInt"))
_TRAILERS = (("toString", "(", ")"), ("trim", "(", ")"))


class Computed(Exception):
    """A value that is computed in a way that is not followed."""


@dataclass(frozen=True)
class Literal:
    """A stretch of text from one literal: view span of what may be rewritten, its syntax; no span where none may.

    ``file`` and ``keys`` say where it stands in a JSON file that the script imports, relative to the script.
    """

    text: str
    start: int = -1
    end: int = -1
    syntax: str = ""
    file: str = ""
    keys: tuple[str, ...] = ()


class Branch(NamedTuple):
    """One of the values that an expression can have; *condition* is empty for the last, the default one."""

    condition: str
    literals: tuple[Literal, ...]


class Reader:
    """Reads the values of one script's expressions."""

    def __init__(self, file: ScriptFile) -> None:
        self.file = file

    def whole(self, items: list[Token], depth: int = 0) -> list[Branch]:
        """Return what an expression can be. Raises Computed."""
        if depth > _DEEPEST:
            raise Computed("it refers to itself")
        items = _bare(items)
        choice = _split(items, "?")
        if choice is not None:
            return self._choice(*choice, depth)
        for mark in ("??", "||"):
            parts = _split(items, mark)
            if parts is not None:
                environment = parts[0] and parts[0][0].text == "process"
                return self.whole(parts[1] if environment else parts[0], depth + 1)
        parts = _split(items, "+")
        if parts is not None:
            return _joined(self.whole(parts[0], depth + 1), self.whole(parts[1], depth + 1))
        return self._one(items, depth)

    def _choice(self, condition: list[Token], rest: list[Token], depth: int) -> list[Branch]:
        yes_no = _split(rest, ":")
        if yes_no is None or not condition:
            raise Computed("a choice without an alternative")
        first = [_under(self._text(condition), item) for item in self.whole(yes_no[0], depth + 1)]
        return [*first, *self.whole(yes_no[1], depth + 1)]

    def _text(self, items: Sequence[Token]) -> str:
        return self.file.source.text(items[0].start, items[-1].end)

    def _one(self, items: list[Token], depth: int) -> list[Branch]:
        items = _without_trailer(items)
        if len(items) == 1:
            token = items[0]
            if token.kind == "string":
                return self._string(token, depth)
            if token.kind == "number":
                return [Branch("", (Literal(token.text, token.start, token.end, "number"),))]
            if token.kind == "name":
                return self._named(token.text, depth)
        if len(items) > 2 and items[0].kind == "name" and items[1].text == "(" and _matches(items[1:]):
            return self._called(items, depth)
        path = _access(items)
        if path is not None:
            return self._accessed(items[0].text, path, depth)
        raise Computed(f"“{self._text(items)[:60]}” is computed" if items else "nothing is said")

    # -- names

    def _named(self, name: str, depth: int) -> list[Branch]:
        value = self.file.declared(name)
        if value is None:
            module = self.file.taken(name)
            if module is not None:
                return [Branch("", (Literal("", file=module, keys=(name,)),))]
            raise Computed(f"“{name}” is not a constant of this file")
        found = self.whole(value, depth + 1)
        for position, again in self.file.assigned(name):
            conditions = self.file.conditions(position)
            if not conditions:
                raise Computed(f"“{name}” is set more than once")
            said = " && ".join(conditions)
            found = [*(_under(said, item) for item in self.whole(again, depth + 1)), *found]
        return found

    def _called(self, items: list[Token], depth: int) -> list[Branch]:
        if items[0].text in _WRAPPERS:
            comma = _split(items[2:-1], ",")
            return self.whole(comma[0] if comma is not None else items[2:-1], depth + 1)
        body = self.file.function(items[0].text)
        if not body:
            raise Computed(f"“{self._text(items)[:60]}” is computed")
        if body[0].text != "{":
            return self.whole(body, depth + 1)
        found, ended = self._returned(body[1:-1], "", depth + 1)
        if not ended:
            raise Computed(f"{items[0].text} does not always return a value")
        return found

    def _accessed(self, name: str, path: list[list[Token]], depth: int) -> list[Branch]:
        """Return an entry of a constant table, or of a JSON file that the script imports."""
        if name == "process":
            raise Computed(f"the environment decides it: {'.'.join(['process', *map(_key, path)])}")
        module = self.file.module(name)
        if module is not None:
            keys = tuple(_key(part) for part in path)
            if all(keys):
                return [Branch("", (Literal("", file=module, keys=keys),))]
        value = self.file.declared(name)
        if value is None:
            raise Computed(f"“{name}” is not a constant of this file")
        value = _bare(value)
        if value and value[0].text == "{":
            return self._entry(value, path, depth)
        inner = _access(value)
        if inner is None or depth > _DEEPEST:
            raise Computed(f"an entry of “{name}” is computed")
        return self._accessed(value[0].text, [*inner, *path], depth + 1)

    def _entry(self, table: list[Token], path: list[list[Token]], depth: int) -> list[Branch]:
        """Return the values at a path of keys in a table: of every entry, where a key is decided elsewhere."""
        if not path:
            return self.whole(table, depth + 1)
        members = _members(table)
        key = _key(path[0])
        if key:
            if key not in members:
                raise Computed(f"there is no entry {key}")
            return self._below(members[key], path[1:], depth)
        chosen = self.whole(path[0], depth + 1)
        default = "".join(item.text for item in chosen[-1].literals)
        if default not in members:
            raise Computed(f"there is no entry {default}")
        said = self._text(path[0])
        found = []
        for name, value in members.items():
            if name != default:
                found += [_under(f"{said} === '{name}'", item) for item in self._below(value, path[1:], depth)]
        return [*found, *self._below(members[default], path[1:], depth)]

    def _below(self, value: list[Token], path: list[list[Token]], depth: int) -> list[Branch]:
        if path and value and value[0].text == "{":
            return self._entry(value, path, depth + 1)
        if path:
            raise Computed("an entry is computed")
        return self.whole(value, depth + 1)

    # -- functions

    def _returned(self, body: list[Token], condition: str, depth: int) -> tuple[list[Branch], bool]:
        """Return what a block returns, and whether it always does. Raises Computed."""
        found: list[Branch] = []
        at = 0
        while at < len(body):
            word = body[at].text
            if word == "return":
                end = _statement(body, at + 1)
                found += [_under(condition, item) for item in self.whole(body[at + 1 : end], depth + 1)]
                return found, True
            if word == "if":
                close = _close(body, at + 1)
                said = _both(condition, self._text(body[at + 2 : close]))
                then, at = _branch(body, close + 1)
                branches, ended = self._returned(then, said, depth + 1)
                found += branches
                if at < len(body) and body[at].text == "else":
                    other, at = _branch(body, at + 1)
                    branches, other_ended = self._returned(other, condition, depth + 1)
                    found += branches
                    if ended and other_ended:
                        return found, True
            elif word == "switch":
                close = _close(body, at + 1)
                cases = body[close + 2 : _close(body, close + 1)]
                branches, ended = self._switched(self._text(body[at + 2 : close]), cases, condition, depth)
                found += branches
                if ended:
                    return found, True
                at = _close(body, close + 1) + 1
            elif word in ("const", "let", "var"):
                at = _statement(body, at + 1)
            elif word == ";":
                at += 1
            else:
                raise Computed(f"“{self._text(body[at : at + 4])}” stands in a function")
        return found, False

    def _switched(self, asked: str, cases: list[Token], condition: str, depth: int) -> tuple[list[Branch], bool]:
        found: list[Branch] = []
        default: list[Branch] = []
        labels: list[str] = []
        at = 0
        while at < len(cases):
            word = cases[at].text
            colon = next((i for i in range(at, len(cases)) if cases[i].text == ":"), len(cases))
            if word not in ("case", "default") or colon == len(cases):
                raise Computed("a case of a switch is not read")
            labels.append("" if word == "default" else f"{asked} === {self._text(cases[at + 1 : colon])}")
            at = colon + 1
            end = _case_end(cases, at)
            if end > at:
                body, _ = _branch(cases[:end], at) if cases[at].text == "{" else (cases[at:end], end)
                said = "" if "" in labels else _both(condition, " || ".join(labels))
                branches, ended = self._returned(body, said, depth + 1)
                if not ended:
                    raise Computed("a case of a switch returns nothing")
                default, found = (branches, found) if "" in labels else (default, [*found, *branches])
                labels = []
            at = end
        return [*found, *default], bool(default)

    def _string(self, token: Token, depth: int) -> list[Branch]:
        if not token.parts:
            syntax = {"'": "single", "`": "template"}.get(token.text[0], "double")
            return [Branch("", (Literal("", token.start + 1, token.end - 1, syntax),))]
        found = [Branch("", ())]
        for part in token.parts:
            if isinstance(part, Region):
                text = self.file.source.text(part.start, part.end)
                text = decode_backslashes(text) if "\\" in text else text
                found = _joined(found, [Branch("", (Literal(text, part.start, part.end, part.syntax),))])
            else:
                inner = [t for t in tokens(self.file.view, LANGUAGES[".ts"], *part) if t.kind != "newline"]
                found = _joined(found, self.whole(inner, depth + 1))
        return found


def _under(condition: str, branch: Branch) -> Branch:
    return branch._replace(condition=_both(condition, branch.condition))


def _both(outer: str, inner: str) -> str:
    return f"{outer} && {inner}" if outer and inner and outer != inner else outer or inner


def _without_trailer(items: list[Token]) -> list[Token]:
    """Take calls off the end that give back the text that they are called on."""
    texts = tuple(item.text for item in items[-3:])
    if len(items) > 4 and texts in _TRAILERS and items[-4].text == ".":
        return _without_trailer(items[:-4])
    return items


def _access(items: list[Token]) -> list[list[Token]] | None:
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
            close = _close(items, at)
            path.append(items[at + 1 : close])
            at = close + 1
        else:
            return None
    return path


def _key(items: list[Token]) -> str:
    """Return the key that tokens spell; empty where it is decided elsewhere."""
    if len(items) == 1 and items[0].kind == "string" and "${" not in items[0].text:
        return items[0].text.strip("\"'`")
    return ""


def _members(table: list[Token]) -> dict[str, list[Token]]:
    """Return the entries of an object literal."""
    found: dict[str, list[Token]] = {}
    at = 1
    while at < len(table) - 1:
        end = at
        while end < len(table) - 1 and table[end].text != ",":
            end = _close(table, end) + 1 if table[end].text in _CLOSING else end + 1
        if end - at > 2 and table[at + 1].text == ":":
            found[table[at].text.strip("\"'")] = table[at + 2 : end]
        at = end + 1
    return found


def _close(items: list[Token], at: int) -> int:
    """Return the position of the bracket that closes the one at *at*. Raises Computed."""
    depth = 0
    for index in range(at, len(items)):
        if items[index].kind == "mark":
            depth += (items[index].text in _CLOSING) - (items[index].text in _CLOSING.values())
        if depth == 0:
            return index
    raise Computed("a bracket is not closed")


def _statement(body: list[Token], at: int) -> int:
    """Return where the statement ends that goes on at *at*: before a semicolon, or the word that begins another."""
    start = at
    while at < len(body) and body[at].text != ";":
        if at > start and body[at].text in ("return", "if", "switch", "const", "let", "var", "case", "default"):
            break
        at = _close(body, at) + 1 if body[at].text in _CLOSING else at + 1
    return at


def _branch(body: list[Token], at: int) -> tuple[list[Token], int]:
    """Return the tokens of the block or statement at *at*, and the position behind it."""
    if at < len(body) and body[at].text == "{":
        close = _close(body, at)
        return body[at + 1 : close], close + 1
    if at < len(body) and body[at].text == "if":
        close = _close(body, at + 1)
        _, end = _branch(body, close + 1)
        while end < len(body) and body[end].text == "else":
            _, end = _branch(body, end + 1)
        return body[at:end], end
    end = _statement(body, at + 1)
    return body[at:end], end + (end < len(body) and body[end].text == ";")


def _case_end(cases: list[Token], at: int) -> int:
    while at < len(cases) and cases[at].text not in ("case", "default"):
        at = _close(cases, at) + 1 if cases[at].text in _CLOSING else at + 1
    return at


def _joined(left: list[Branch], right: list[Branch]) -> list[Branch]:
    """Combine two lists of branches; where both depend on one condition, they are taken together."""
    found = []
    for one in left:
        same = [other for other in right if one.condition and other.condition == one.condition]
        plain = [other for other in right if not other.condition]
        for other in same or (plain if one.condition and plain else right):
            found.append(Branch(one.condition or other.condition, (*one.literals, *other.literals)))
    return found


def _bare(items: list[Token]) -> list[Token]:
    """Take type assertions and outer parentheses away."""
    for at, token in enumerate(items):
        if at and token.text in ("as", "satisfies"):
            return _bare(items[:at])
    if len(items) > 2 and items[0].text == "(" and items[-1].text == ")" and _matches(items):
        return _bare(items[1:-1])
    return items


def _matches(items: list[Token]) -> bool:
    depth = 0
    for at, token in enumerate(items):
        depth += (token.text == "(") - (token.text == ")")
        if depth == 0:
            return at == len(items) - 1
    return False


def _split(items: list[Token], mark: str) -> tuple[list[Token], list[Token]] | None:
    """Split at the first *mark* that stands outside every bracket; ``??`` may be two marks in the token list."""
    depth = 0
    for at, token in enumerate(items):
        if token.kind == "mark":
            depth += (token.text in _CLOSING) - (token.text in _CLOSING.values())
        if depth:
            continue
        follow = items[at + 1].text if at + 1 < len(items) else ""
        doubled = token.text == "?" and follow == "?"
        if mark == "??" and doubled:
            return items[:at], items[at + 2 :]
        if token.text == mark and not (mark == "?" and (doubled or (at and items[at - 1].text == "?"))):
            return items[:at], items[at + 1 :]
    return None
