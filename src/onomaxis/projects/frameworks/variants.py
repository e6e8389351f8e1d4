"""Variants of a configuration that is a script: which one is built, the environment decides.

``process.env.APP_VARIANT === 'mossgate'``, a name that was declared so, or a table that is asked by the variable:
what is said under such a condition is that variant's. A new variant is written as its sibling is, where the sibling
stands: an entry of a table, a case, an ``if``, a branch of a choice. Source of the usage: Expo documentation,
"Configure multiple app variants".
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from functools import lru_cache
from typing import NamedTuple

from onomaxis import late
from onomaxis.formats.lexer import Token
from onomaxis.formats.script import ScriptFile, ScriptObject
from onomaxis.formats.script_tokens import Computed, bare, block, case_end, closing
from onomaxis.formats.source import SPACE

# What is asked by convention where nothing is asked yet.
USUAL = "process.env.APP_VARIANT"
_ASKED = r"process\.env(?:\.\w++|\[\s*+['\"]\w++['\"]\s*+\])|[A-Za-z_$][\w$]*+"
_TEXT = r"(?P<quote>['\"`])(?P<name>[\w-]++)(?P=quote)"
_EQUAL = late.compile(rf"(?P<asked>{_ASKED})!?\s*+={{2,3}}\s*+{_TEXT}\Z")
_TURNED = late.compile(rf"{_TEXT}\s*+={{2,3}}\s*+(?P<asked>{_ASKED})\Z")
_VARIABLE = late.compile(r"process\.env(?:\.(\w++)|\[\s*+['\"](\w++)['\"]\s*+\])")
_NAME = late.compile(r"[A-Za-z_$][\w$]*\Z")


def variant_of(file: ScriptFile, condition: str) -> str:
    """Return the variant that a condition asks for; the condition itself where it asks for none by its name.

    Where several variables have to be so, the variants' names stand in a row, as a build calls combinations.
    """
    found = [_equality(file, part) for part in condition.split("&&")]
    names = [one[1] for one in found if one is not None]
    if len(names) < len(found) or (len(names) > 1 and not all(name.isalnum() for name in names)):
        return condition
    return names[0] + "".join(name[:1].upper() + name[1:] for name in names[1:])


def variables(file: ScriptFile) -> frozenset[str]:
    """Return the environment variables that a script asks for."""
    return frozenset(match[1] or match[2] for match in _VARIABLE.finditer(file.view))


def asked(file: ScriptFile, names: Sequence[str]) -> str:
    """Return what a script tells its variants by: what *names* are compared with, or a table is asked by.

    The usual variable where it does neither.
    """
    return next((said for said in _questions(file, names) if said), USUAL)


def _questions(file: ScriptFile, names: Sequence[str]) -> Iterator[str]:
    tokens = file.tokens
    spelled = [at for at, token in enumerate(tokens) if token.kind == "string" and token.text[1:-1] in names]
    for at in spelled[:_MOST]:
        found = [_equality(file, part.text) for part in _conditions(file, at)]
        yield from (_environment(file, one[0]) for one in found if one)
        if at and tokens[at - 1].text == "case":
            asked_for = file.asked(next(iter(file.around(at)[-1:]), 0), "switch")
            yield _environment(file, _written(file, asked_for)) if asked_for else ""
    opened = [at for at in range(1, len(tokens) - 1) if tokens[at].text == "[" and tokens[at - 1].kind == "name"]
    for at in opened[:_MOST]:
        if tokens[at + 1].kind == "name":
            yield _environment(file, _written(file, tokens[at + 1 : _last(tokens, at + 1) + 1]))


def _equality(file: ScriptFile, condition: str, depth: int = 0) -> tuple[str, str] | None:
    """Return what a condition compares with which variant; None where it does nothing else, or asks otherwise."""
    text = condition.strip()
    while text.startswith("(") and text.endswith(")"):
        text = text[1:-1].strip()
    match = _EQUAL.match(text) or _TURNED.match(text)
    if match is not None:
        return (match["asked"], match["name"]) if _environment(file, match["asked"]) else None
    if not _NAME.match(text) or depth:
        return None
    value = file.declared(text)
    return _equality(file, _written(file, value), depth + 1) if value else None


def _written(file: ScriptFile, items: Sequence[Token]) -> str:
    return file.source.text(items[0].start, items[-1].end)


@lru_cache(maxsize=64)
def _environment(file: ScriptFile, said: str) -> str:
    """Return the variable of the environment that an expression is, or is declared as; empty for any other."""
    text = said
    if not _VARIABLE.match(said):
        value = file.declared(said)
        try:
            text = _written(file, bare(value)) if value else _handed(file, said)
        except Computed:
            return ""
    match = _VARIABLE.match(text)
    rest = text[match.end() :].lstrip("! ") if match else "?"
    return match[0] if match and rest[:2] in ("", "??", "||") else ""


_TAKING = late.compile(
    r"\bfunction\s++(?P<named>\w++)\s*+\(\s*+(?P<first>\w++)"
    r"|\b(?:const|let|var)\s++(?P<arrow>\w++)\s*+=\s*+\(?\s*+(?P<only>\w++)[^=\n;]*+=>"
)


def _handed(file: ScriptFile, parameter: str) -> str:
    """Return the variable that a function is handed as its first parameter, wherever it is called; else nothing."""
    for match in _TAKING.finditer(file.view):
        if parameter not in (match["first"], match["only"]):
            continue
        name = re.escape(match["named"] or match["arrow"])
        calls = re.finditer(rf"(?<![\w.])(?<!function ){name}\(\s*+([^()\n]*+)\)", file.view)
        handed = {call[1].strip() for call in calls}
        if len(handed) == 1:
            return handed.pop()
    return ""


# -- where a variant stands


class Part(NamedTuple):
    """One piece of a script that is a variant's alone.

    *start* and *end* are its span, *at* is where a sibling's twin goes, between *before* and *after*; *cut* is the
    span that takes it out. *condition* is the span of a condition that names the variant by a name of its own.
    """

    start: int
    end: int
    at: int
    before: str
    after: str
    cut: tuple[int, int]
    condition: tuple[int, int] | None = None


class _Condition(NamedTuple):
    first: int
    last: int
    text: str


def parts_of(file: ScriptFile, name: str, siblings: Sequence[str]) -> list[Part]:
    """Return what of a script is said of one variant alone: none of it lies within another part."""
    found = [*_entries(file, name, {*siblings, name})]
    cases = [at for at, token in enumerate(file.tokens) if token.text == "case"][:_MOST]
    for at in cases:
        if at + 3 < len(file.tokens) and file.tokens[at + 1].text.strip("'\"`") == name:
            found += _case(file, at)
    for condition in _asking(file, name):
        found += _if(file, condition) or _choice(file, condition)
    found.sort(key=lambda part: (part.start, -part.end))
    outer: list[Part] = []
    for part in found:
        if not outer or part.start >= outer[-1].end:
            outer.append(part)
    return outer


def _entries(file: ScriptFile, name: str, known: set[str]) -> Iterator[Part]:
    """Yield the entries that are called after a variant, beside its siblings' or where the environment asks."""
    asked_ones = _asked_tables(file)
    for table in _tables(file.roots):
        listed = [member for member in table.members if member.value]
        keys = [member.key for member in listed]
        beside = table.start in asked_ones or len(known.intersection(keys)) >= min(2, len(known))
        if name not in keys or not beside:
            continue
        number = keys.index(name)
        start, end = listed[number].start, listed[number].value[-1].end
        last = max(at for at, key in enumerate(keys) if key in known)
        before = listed[number - 1].value[-1].end if number else table.start + 1
        follow = listed[number + 1].start if number + 1 < len(listed) else table.end - 1
        if number and _only(file, before, start, ","):
            cut = before, end
        elif _only(file, end, follow, ","):
            cut = start, follow
        else:  # what stands beside it is somebody's own
            comma = re.match(r"\s*,", file.view[end:follow])
            cut = start, end + (comma.end() if comma else 0)
        yield Part(start, end, listed[last].value[-1].end, f",{_lead(file, start)}", "", cut)


@lru_cache(maxsize=64)
def _asked_tables(file: ScriptFile) -> frozenset[int]:
    """Return where the tables begin of which the environment decides an entry: ``brands[BRAND]``."""
    tokens, found = file.tokens, set()
    opened = [at for at in range(1, len(tokens) - 1) if tokens[at].text == "[" and tokens[at - 1].kind == "name"]
    for at in opened[:_MOST]:
        try:
            key = bare(tokens[at + 1 : closing(tokens, at)])
            value = bare(file.declared(tokens[at - 1].text) or [])
        except Computed:
            continue
        if key and value and value[0].text == "{" and _environment(file, _written(file, key)):
            found.add(value[0].start)
    return frozenset(found)


def _only(file: ScriptFile, start: int, end: int, mark: str) -> bool:
    """Tell whether nothing but white space and a mark stands somewhere: no comment, no word."""
    return file.view[start:end].replace(mark, "", 1).strip(SPACE) == ""


def _tables(objects: Sequence[ScriptObject]) -> Iterator[ScriptObject]:
    for item in objects:
        yield item
        yield from _tables([member.inner for member in item.members if member.inner])


def _lead(file: ScriptFile, start: int) -> str:
    """Return the white space that stands before a position: a line end with its indent, or a blank."""
    begin = _line(file, start)
    indent = file.view[begin:start]
    return " " if indent.strip(SPACE) or not begin else file.source.newline + indent


def _line(file: ScriptFile, position: int) -> int:
    return file.view.rfind("\n", 0, position) + 1


def _before(file: ScriptFile, start: int) -> int:
    """Return where the white space begins that stands before a position alone on its line, the line's end with it."""
    begin = _line(file, start)
    if not begin or file.view[begin:start].strip(SPACE):
        return start
    return begin - (2 if file.view[begin - 2 : begin] == "\r\n" else 1)


def _case(file: ScriptFile, at: int) -> Iterator[Part]:
    """Yield a case of a switch, where it has statements of its own that do not run on into the next."""
    tokens, brace = file.tokens, next(iter(file.around(at)[-1:]), 0)
    asked_for = file.asked(brace, "switch")
    if not asked_for or not _environment(file, _written(file, asked_for)):
        return
    try:
        switch = tokens[: closing(tokens, brace)]
        end = case_end(switch, at + 3)
    except Computed:
        return
    ends = any(token.text in ("return", "break", "throw") for token in switch[at + 3 : end])
    if not ends or switch[at + 2].text != ":" or switch[at - 1].text == ":":
        return  # it runs on into the next, or shares its statements with the label above
    start, finish = tokens[at].start, tokens[end - 1].end
    yield Part(start, finish, finish, _lead(file, start), "", (_before(file, start), finish))


_EQUALS = ("=", "==", "===")


def _conditions(file: ScriptFile, at: int) -> Iterator[_Condition]:
    """Yield the comparisons that a string literal is a side of."""
    tokens, first, last = file.tokens, at, at
    while first and tokens[first - 1].text in _EQUALS:
        first -= 1
    if 0 < first < at:
        first = _first(tokens, first - 1)
        yield _Condition(first, at, _written(file, tokens[first : at + 1]))
    while last + 1 < len(tokens) and tokens[last + 1].text in _EQUALS:
        last += 1
    if at < last < len(tokens) - 1:
        last = _last(tokens, last + 1)
        yield _Condition(at, last, _written(file, tokens[at : last + 1]))


def _first(tokens: Sequence[Token], at: int) -> int:
    """Return where ``name.name['key']`` begins that ends at a token."""
    while at > 0:
        if tokens[at].text == "]":
            while at > 1 and tokens[at].text != "[":
                at -= 1
            at -= 1
        elif at > 1 and tokens[at - 1].text in (".", "?."):
            at -= 2
        else:
            break
    return at


def _last(tokens: Sequence[Token], at: int) -> int:
    """Return where ``name.name['key']`` ends that begins at a token."""
    while at + 2 < len(tokens):
        if tokens[at + 1].text in (".", "?."):
            at += 2
        elif tokens[at + 1].text == "[":
            while at + 1 < len(tokens) and tokens[at].text != "]":
                at += 1
        else:
            break
    return at


def _asking(file: ScriptFile, name: str) -> Iterator[_Condition]:
    """Yield every condition that asks for a variant and nothing else, by comparing or by a name declared so."""
    tokens = file.tokens
    spelled = [at for at, token in enumerate(tokens) if token.kind == "string" and token.text[1:-1] == name][:_MOST]
    for at in spelled:
        for condition in _conditions(file, at):
            if variant_of(file, condition.text) == name:
                yield condition
    near = {index for at in spelled for index in range(max(1, at - _NEAR), at)}
    named = {tokens[index].text for index in near if tokens[index - 1].text in _DECLARING}
    own = {text for text in named if variant_of(file, text) == name}
    for at, token in enumerate(tokens):
        if token.text in own and (not at or tokens[at - 1].text not in (*_DECLARING, ".")):
            yield _Condition(at, at, token.text)


_DECLARING = ("const", "let", "var")
# So many literals are looked at, and so many tokens before one for the name that is declared with it: a file may have
# come from anywhere.
_MOST, _NEAR = 200, 14


def _if(file: ScriptFile, condition: _Condition) -> list[Part]:
    """Return the statement that runs under a condition alone; nothing where it decides something else.

    Nor where a comment stands between it and the ``else`` that would go with it.
    """
    tokens, first, last = file.tokens, condition.first, condition.last
    around = [tokens[index].text for index in (first - 2, first - 1)] if first > 1 else []
    if around != ["if", "("] or last + 2 >= len(tokens) or tokens[last + 1].text != ")":
        return []
    try:
        body, end = block(tokens, last + 2)
    except Computed:
        return []
    if not body or end > len(tokens):
        return []
    start, finish = tokens[first - 2].start, tokens[end - 1].end
    follow = tokens[end].start if end < len(tokens) else finish
    plain = _only(file, finish, follow, "")
    joint = file.view[finish:follow] if plain and "\n" in file.view[finish:follow] else _lead(file, start)
    cut = (start, follow) if plain else (_before(file, start), finish)
    if end + 1 < len(tokens) and tokens[end].text == "else":
        joint, cut = " else ", (start, tokens[end + 1].start)
        plain = _only(file, finish, cut[1], "else")
    elif first > 3 and tokens[first - 3].text == "else":
        joint, cut = " else ", (tokens[first - 4].end, finish)
        plain = _only(file, cut[0], start, "else")
    named = _own_name(file, condition)
    return [Part(start, finish, start, "", joint, cut, named)] if plain or joint != " else " else []


def _choice(file: ScriptFile, condition: _Condition) -> list[Part]:
    """Return ``condition ? value :``, where nothing before the condition takes part in it."""
    tokens, first, last = file.tokens, condition.first, condition.last
    if last + 2 >= len(tokens) or tokens[last + 1].text != "?" or tokens[last + 2].text in ("?", "."):
        return []
    before = tokens[first - 1].text if first else ""
    if before not in ("=", "(", "[", "{", ",", ":", "return", "=>", ">", "?", "default", ""):
        return []
    at, depth = last + 2, 1
    try:
        while at < len(tokens):
            text = tokens[at].text
            depth += (text == "?") - (text == ":")
            if depth == 0:
                break
            if text in (")", "]", "}", ";", ","):
                return []
            at = closing(tokens, at) + 1 if text in ("{", "(", "[") else at + 1
    except Computed:
        return []
    if at + 1 >= len(tokens):
        return []
    start, end, follow = tokens[first].start, tokens[at].end, tokens[at + 1].start
    if not _only(file, end, follow, ""):
        return []
    return [Part(start, end, start, "", file.view[end:follow], (start, follow), _own_name(file, condition))]


def _own_name(file: ScriptFile, condition: _Condition) -> tuple[int, int] | None:
    one = file.tokens[condition.first]
    return (one.start, one.end) if condition.first == condition.last else None


def twin_text(file: ScriptFile, part: Part, renamed: Callable[[str], str], question: str) -> str:
    """Return a sibling's part for another variant; *question* stands for a name that asks for the sibling."""
    if part.condition is None:
        return f"{part.before}{renamed(file.source.text(part.start, part.end))}{part.after}"
    start, end = part.condition
    head, tail = file.source.text(part.start, start), file.source.text(end, part.end)
    return f"{part.before}{renamed(head)}{question}{renamed(tail)}{part.after}"
