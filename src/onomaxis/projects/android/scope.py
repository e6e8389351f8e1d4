"""The build scripts of a module as they are read: their settings, their tokens, the functions that they declare."""

from __future__ import annotations

import re
from bisect import bisect_left
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

from onomaxis import late
from onomaxis.formats.gradle import Script
from onomaxis.formats.gradle_expressions import Block, parameter_names, parameters, statements_of
from onomaxis.formats.gradle_statements import Setting, Statement, literal_text
from onomaxis.formats.lexer import GROOVY, KOTLIN, Token, enclosing, matching, tokens
from onomaxis.projects.android.script_changes import changed_by, changes
from onomaxis.projects.android.script_functions import functions_of

# Source: kotlinlang.org, "Data classes", "Classes" (primary constructors).
_CLASS = late.compile(r"\bclass[ \t]+([A-Z]\w*)[ \t]*\(([^(){}]{0,2000})\)", re.ASCII)
_PARAMETER = late.compile(r"(?:\A|,)\s*(?:(?:private|internal|public)\s+)?(?:va[lr]\s+)?(\w+)\s*:", re.ASCII)


class Unknown(Exception):
    """The expression is computed in a way that is not followed; the message says which."""


class NotSet(Unknown):
    """The name is set nowhere: an elvis default applies."""


class IsNull(NotSet):
    """There is no value, as the scripts say themselves."""


@dataclass
class ScriptFile:
    """A parsed script and its settings, by path."""

    path: str
    script: Script
    settings: tuple[Setting, ...] = ()

    def __post_init__(self) -> None:
        self.settings = tuple(_plain(item) for item in self.script.settings)

    def holds(self, token: Token) -> bool:
        """Tell whether a token, this very one, is of a value that the script sets."""
        return id(token) in self._held

    def span(self, found: Sequence[Token]) -> tuple[int, int]:
        """Return where an expression stands: in the loop that was written out, if one says it."""
        return self._spans.get(id(found), (found[0].start, found[-1].end))

    @cached_property
    def _spans(self) -> Mapping[int, tuple[int, int]]:
        return {id(item.value): item.statement.span for item in self.settings if item.statement.span[1]}

    def called(self, name: str) -> Sequence[Setting]:
        """Return the settings of a name, in order."""
        return self._by_name.get(name, ())

    def with_lines(self, found: Sequence[Token]) -> Sequence[Token]:
        """Return the tokens of a value with the line ends between them, where it stands in one piece."""
        first = bisect_left(self.tokens, found[0].start, key=lambda token: token.start)
        last = bisect_left(self.tokens, found[-1].end, key=lambda token: token.start)
        whole = self.tokens[first:last]
        plain = [token.start for token in whole if token.kind != "newline"]
        return whole if plain == [token.start for token in found if token.kind != "newline"] else found

    @cached_property
    def tokens(self) -> Sequence[Token]:
        """The script's tokens, line ends included."""
        return tokens(self.script.source.view, KOTLIN if self.script.kotlin else GROOVY)

    def around(self, position: int) -> list[tuple[int, int]]:
        """Return the braces around a position, as indices of tokens, the outermost first."""
        at = bisect_left(self.tokens, position, key=lambda token: token.start)
        found: list[tuple[int, int]] = []
        opening = self._open_before[min(at, len(self.tokens))]
        while opening >= 0:
            found.append((opening, self._closing.get(opening, len(self.tokens))))
            opening = self._open_before[opening]
        return found[::-1]

    def inner(self, opening: int, closing: int) -> tuple[int, tuple[str, ...]]:
        """Return where the statements of a block begin, and the names that it is given."""
        found = self._inner.get(opening)
        if found is None:
            params, rest = parameters(self.tokens[opening + 1 : closing])
            headed = len(rest) < closing - opening - 1
            found = (closing - len(rest), params if headed else _declared_params(self.tokens, opening))
            self._inner[opening] = found
        return found

    def statements(self, start: int, end: int) -> Sequence[tuple[int, int]]:
        """Return where the statements of a body begin and end, as indices of tokens."""
        found = self._statements.get(start)
        if found is None:
            spans = statements_of(self.tokens[start:end])
            found = self._statements[start] = [(start + begin, start + stop) for begin, stop in spans]
        return found

    @cached_property
    def _statements(self) -> dict[int, Sequence[tuple[int, int]]]:
        return {}

    @cached_property
    def _inner(self) -> dict[int, tuple[int, tuple[str, ...]]]:
        return {}

    @cached_property
    def _open_before(self) -> Sequence[int]:
        """The innermost brace that stands open before each token, -1 where none does."""
        waiting, found = [-1], []
        for at, token in enumerate(self.tokens):
            found.append(waiting[-1])
            if token.kind == "mark" and token.text == "{":
                waiting.append(at)
            elif token.kind == "mark" and token.text == "}" and len(waiting) > 1:
                self._closing[waiting.pop()] = at
                found[-1] = waiting[-1]
        return [*found, waiting[-1]]

    @cached_property
    def _closing(self) -> dict[int, int]:
        return {}

    @cached_property
    def functions(self) -> Mapping[str, Block | None]:
        """The functions that the script declares; None for a name that several have."""
        return functions_of(self.tokens)

    @cached_property
    def closures(self) -> Mapping[str, Block]:
        """The closures that the script gives a name once: ``def brand = { key -> … }``."""
        found: dict[str, Block | None] = {}
        for at, token in enumerate(self.tokens[:-2]):
            if token.kind == "name" and self.tokens[at + 1].text == "=" and self.tokens[at + 2].text == "{":
                params, body = parameters(self.tokens[at + 3 : matching(self.tokens, at + 2)])
                found[token.text] = None if token.text in found else Block(params, tuple(body))
        return {name: block for name, block in found.items() if block is not None}

    @cached_property
    def changing(self) -> Mapping[str, frozenset[str]]:
        """The variables that functions and closures with a name change, though they are not their own."""
        bodies = {**self.closures, **self.functions}
        return changed_by({name: block for name, block in bodies.items() if block is not None})

    @cached_property
    def last_changed(self) -> Mapping[str, int]:
        """Where each variable is changed last, as the index of a token: behind them all if a function does it."""
        called = dict.fromkeys((name for found in self.changing.values() for name in found), len(self.tokens))
        return {name: at for at, name in changes(self.tokens)} | called

    def repeats(self, opening: int) -> bool:
        """Tell whether the block of a brace may run several times, or later than where it stands."""
        before = opening - 1
        if before >= 0 and self.tokens[before].text == ")":
            before = enclosing(self.tokens, before) - 1
        if before < 0:
            return False
        head = self.tokens[before]
        return (
            head.text in REPEATED
            or (head.kind == "mark" and head.text in ("=", "(", ",", ":"))
            or bool(_declared_params(self.tokens, opening) or self._begins_function(before))
        )

    def _begins_function(self, at: int) -> bool:
        return at > 0 and self.tokens[at].text in self.functions and self.tokens[at - 1].kind == "name"

    @cached_property
    def classes(self) -> Mapping[str, Sequence[str]]:
        """The parameters of the classes that the script declares, in their order."""
        found = _CLASS.finditer(self.script.source.view)
        return {match[1]: _PARAMETER.findall(match[2]) for match in found}

    def copy_of(self, found: Sequence[Token]) -> Statement | None:
        """Return the copy of a statement that an expression is part of, as a loop wrote it out; None for no copy."""
        return next((self._copies[id(token)] for token in found if id(token) in self._copies), None)

    @cached_property
    def _copies(self) -> Mapping[int, Statement]:
        found: dict[int, Statement] = {}
        shared: set[int] = set()
        for item in self.settings:
            if item.statement.bound:
                for token in item.value:
                    key = id(token)
                    if found.setdefault(key, item.statement) is not item.statement:
                        shared.add(key)
        return {key: item for key, item in found.items() if key not in shared}

    @cached_property
    def _held(self) -> frozenset[int]:
        return frozenset(id(token) for item in self.settings for token in item.value)

    @cached_property
    def _by_name(self) -> Mapping[str, Sequence[Setting]]:
        found: dict[str, list[Setting]] = {}
        for item in self.settings:
            found.setdefault(item.full[-1], []).append(item)
        return found


# Calls whose closure runs for each of several, or when the rest of the script has run; and loops.
REPEATED = frozenset(
    (
        "each forEach onEach eachWithIndex forEachIndexed onEachIndexed eachLine all configureEach withType matching "
        "times upto downto step repeat for while do collect map flatMap collectEntries associate associateWith "
        "associateBy find findAll filter any every none inject fold reduce variantFilter beforeVariants onVariants "
        "afterEvaluate projectsEvaluated finalizeDsl doFirst doLast whenReady allprojects subprojects"
    ).split()
)


def _plain(item: Setting) -> Setting:
    """Turn ``extra.set("x", v)`` into a setting of ``x``."""
    full = item.full
    if len(full) > 1 and full[-1] == "set" and full[-2] in ("ext", "extra") and len(item.value) > 2:
        name = literal_text(item.value[:1])
        if name and item.value[1].text == ",":
            path = tuple(full[:-1])
            return item._replace(value=item.value[2:]).called(path, name)
    return item


def _declared_params(found: Sequence[Token], at: int) -> tuple[str, ...]:
    """Return the parameters of the function whose body begins at *at*; none where it is not a function."""
    first = at
    while first > 0 and found[first - 1].kind != "newline":
        first -= 1
    opening = next((index for index in range(first, at) if found[index].text == "("), at)
    heads = {token.text for token in found[first:opening]}
    if heads & {"fun", "def"}:
        return parameter_names(found[opening + 1 : matching(found, opening)])
    if "for" not in heads:
        return ()
    head = found[opening + 1 : matching(found, opening)]
    end = next((index for index, token in enumerate(head) if token.text in ("in", ":")), 0)
    names = tuple(token.text for token in head[:end] if token.kind == "name")
    return names if head[:1] and head[0].text == "(" else names[-1:]
