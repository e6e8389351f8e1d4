"""One lexer family for source code: where the comments and strings are, and tokens where they are needed.

A language is data (:class:`Language`). :func:`regions` finds comments and string bodies fast, so that a name can
be told apart by where it stands; :func:`tokens` splits the rest as well, for the block reader of build scripts.
Positions are view positions (bytes).
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import cache
from typing import NamedTuple

from onomaxis import late
from onomaxis.errors import FormatError
from onomaxis.formats.source import Source, shown


@dataclass(frozen=True, eq=False)
class StringStyle:
    """How a string literal opens and closes, whether it has escapes, what opens an interpolation, line breaks."""

    opening: str
    closing: str
    escapes: bool = True
    interpolation: str = ""
    multiline: bool = False
    syntax: str = "double"


@dataclass(frozen=True, eq=False)
class Language:
    """The lexical rules of one language."""

    name: str
    line_comments: tuple[str, ...]
    block_comments: tuple[tuple[str, str], ...]
    nested_comments: bool
    strings: tuple[StringStyle, ...]
    slashy: bool = False


_CHAR = StringStyle("'", "'", syntax="single")
_PLAIN = StringStyle('"', '"')
_C_COMMENTS = (("/*", "*/"),)

JAVA = Language("java", ("//",), _C_COMMENTS, False, (StringStyle('"""', '"""', multiline=True), _PLAIN, _CHAR))
KOTLIN = Language(
    "kotlin",
    ("//",),
    _C_COMMENTS,
    True,
    (
        StringStyle('"""', '"""', escapes=False, interpolation="${", multiline=True, syntax="kotlin-raw"),
        StringStyle('"', '"', interpolation="${", syntax="double-dollar"),
        _CHAR,
    ),
)
GROOVY = Language(
    "groovy",
    ("//", "#!"),
    _C_COMMENTS,
    False,
    (
        StringStyle('"""', '"""', interpolation="${", multiline=True, syntax="double-dollar"),
        StringStyle("'''", "'''", multiline=True, syntax="single"),
        StringStyle("$/", "/$", escapes=False, multiline=True, syntax="raw"),
        StringStyle('"', '"', interpolation="${", syntax="double-dollar"),
        _CHAR,
    ),
    slashy=True,
)
SWIFT = Language(
    "swift",
    ("//",),
    _C_COMMENTS,
    True,
    (
        StringStyle('#"""', '"""#', escapes=False, interpolation="\\#(", multiline=True, syntax="swift-raw"),
        StringStyle('#"', '"#', escapes=False, interpolation="\\#(", syntax="swift-raw"),
        StringStyle('"""', '"""', interpolation="\\(", multiline=True),
        StringStyle('"', '"', interpolation="\\("),
    ),
)
C = Language("c", ("//",), _C_COMMENTS, False, (_PLAIN, _CHAR))
DART = Language(
    "dart",
    ("//",),
    _C_COMMENTS,
    True,
    (
        StringStyle("r'''", "'''", escapes=False, multiline=True, syntax="raw-single"),
        StringStyle('r"""', '"""', escapes=False, multiline=True, syntax="raw-double"),
        StringStyle("'''", "'''", interpolation="${", multiline=True, syntax="single-dollar"),
        StringStyle('"""', '"""', interpolation="${", multiline=True, syntax="double-dollar"),
        StringStyle("r'", "'", escapes=False, syntax="raw-single"),
        StringStyle('r"', '"', escapes=False, syntax="raw-double"),
        StringStyle("'", "'", interpolation="${", syntax="single-dollar"),
        StringStyle('"', '"', interpolation="${", syntax="double-dollar"),
    ),
)
SCRIPT = Language(
    "script",
    ("//",),
    _C_COMMENTS,
    False,
    (StringStyle("`", "`", interpolation="${", multiline=True, syntax="template"), _PLAIN, _CHAR),
    slashy=True,
)
RUBY = Language(
    "ruby",
    ("#",),
    (("\n=begin", "\n=end"),),
    False,
    (
        StringStyle('"', '"', interpolation="#{", multiline=True, syntax="ruby-double"),
        StringStyle("'", "'", multiline=True, syntax="single"),
    ),
)
HASH = Language("hash", ("#",), (), False, ())
SQL = Language("sql", ("--",), _C_COMMENTS, False, (_CHAR, _PLAIN))
QUERY = Language("query", ("#",), (), False, (StringStyle('"""', '"""', multiline=True), _PLAIN))

LANGUAGES: dict[str, Language] = {
    ".java": JAVA,
    ".aidl": JAVA,
    ".kt": KOTLIN,
    ".kts": KOTLIN,
    ".groovy": GROOVY,
    ".gradle": GROOVY,
    ".swift": SWIFT,
    ".m": C,
    ".mm": C,
    ".h": C,
    ".hpp": C,
    ".c": C,
    ".cc": C,
    ".cpp": C,
    ".dart": DART,
    ".js": SCRIPT,
    ".jsx": SCRIPT,
    ".ts": SCRIPT,
    ".tsx": SCRIPT,
    ".rb": RUBY,
    ".pro": HASH,
    ".sq": SQL,
    ".sqm": SQL,
    ".proto": C,
    ".fbs": C,
    ".rs": C,
    ".graphql": QUERY,
    ".graphqls": QUERY,
}


class Region(NamedTuple):
    """A comment, or the body of a string literal between its quotes (stretches around interpolations)."""

    kind: str
    start: int
    end: int
    syntax: str = ""


class Given(NamedTuple):
    """A stretch of a string that stands elsewhere: its text, and where that is."""

    text: str
    origin: object = None


class Token(NamedTuple):
    """A token: kind is ``name``, ``number``, ``string``, ``mark`` or ``newline``.

    For a string, ``parts`` are its literal stretches (Region, or Given) and interpolated expressions (view spans).
    """

    kind: str
    start: int
    end: int
    text: str
    parts: tuple[Region | tuple[int, int] | Given, ...] = ()


@cache
def _starter(language: Language) -> re.Pattern[str]:
    """The pattern that finds where the next comment or string of *language* begins."""
    openings = list(language.line_comments)
    openings += [opening for opening, _ in language.block_comments]
    openings += [style.opening for style in language.strings]
    openings.sort(key=len, reverse=True)
    first = "".join({re.escape(opening[0]) for opening in openings})
    # A backtick-quoted name may hold any quote character, so it is stepped over as a whole.
    ticks = r"`[^`\n]*`|" if not any(opening[0] == "`" for opening in openings) else ""
    head = f"[{first}{'`' if ticks else ''}]"
    return re.compile(f"(?={head})(?:{ticks}{'|'.join(map(re.escape, openings))})")


@cache
def _by_opening(language: Language) -> dict[str, StringStyle]:
    return {style.opening: style for style in language.strings}


@cache
def _stops(style: StringStyle) -> re.Pattern[str]:
    """The pattern of what matters inside a string: its end, an escape, an interpolation, a line break."""
    marks = [re.escape(style.closing)]
    if style.interpolation:
        marks.insert(0, re.escape(style.interpolation))
    if style.escapes:
        marks.append(r"\\.")
    if not style.multiline:
        marks.append("\n")
    return re.compile("|".join(marks), re.DOTALL)


_CLOSERS = {"${": ("{", "}"), "#{": ("{", "}"), "\\(": ("(", ")"), "\\#(": ("(", ")")}
# A slash after one of these starts a regular expression literal, after anything else it divides.
_BEFORE_SLASHY = late.compile(r"(?:[=(,:\[!&|?{};~]|(?<!\+)\+|\breturn)\s*\Z")
_SLASHY = late.compile(r"/(?![/*\s])(?:[^/\\\n\[]|\\.|\[(?:[^\]\\\n]|\\.)*\])+/")


_DEEPEST = 40


def _skip_expression(view: str, at: int, style: StringStyle, language: Language, nested: int) -> int:
    """Return the position after the interpolated expression whose opening ends at *at*."""
    if nested > _DEEPEST:
        raise FormatError("expressions in strings are nested too deeply", line=view.count("\n", 0, at) + 1)
    opening, closing = _CLOSERS[style.interpolation]
    depth = 1
    starter = _starter(language)
    while at < len(view):
        char = view[at]
        if char == opening:
            depth += 1
        elif char == closing:
            depth -= 1
            if not depth:
                return at + 1
        elif char == "\n" and not style.multiline:
            return at
        else:
            match = starter.match(view, at)
            if match:
                at = _literal_end(view, match, language, nested + 1)
                continue
        at += 1
    return at


def _literal_end(view: str, match: re.Match[str], language: Language, depth: int) -> int:
    """Return the end of the comment or string that *match* starts."""
    style = _by_opening(language).get(match[0])
    if style:
        return _string(view, match.start(), style, language, depth)[1]
    if match[0].startswith("`"):
        return match.end()
    return _comment_end(view, match, language)


def _comment_end(view: str, match: re.Match[str], language: Language) -> int:
    mark = match[0]
    if mark in language.line_comments:
        end = view.find("\n", match.end())
        return len(view) if end < 0 else end
    closing = next(closing for opening, closing in language.block_comments if opening == mark)
    at = match.end()
    depth = 1
    while depth:
        end = view.find(closing, at)
        if end < 0:
            return len(view)
        if language.nested_comments:
            inner = view.find(mark, at, end)
            if inner >= 0:
                depth += 1
                at = inner + len(mark)
                continue
        depth -= 1
        at = end + len(closing)
    return at


def _string(
    view: str, start: int, style: StringStyle, language: Language, depth: int = 0
) -> tuple[list[Region | tuple[int, int]], int]:
    """Read the string at *start*; return its parts and the position after its closing quote."""
    parts: list[Region | tuple[int, int]] = []
    stops = _stops(style)
    begin = at = start + len(style.opening)
    while True:
        match = stops.search(view, at)
        if match is None or match[0] == "\n":
            end = match.start() if match else len(view)
            parts.append(Region("string", begin, end, style.syntax))
            return parts, end
        if match[0] == style.closing:
            end = match.start()
            while style.multiline and len(style.closing) == 3 and view.startswith(style.closing[0], end + 3):
                end += 1  # a raw string may end in quotes of its own
            parts.append(Region("string", begin, end, style.syntax))
            return parts, end + len(style.closing)
        if match[0] == style.interpolation:
            parts.append(Region("string", begin, match.start(), style.syntax))
            begin = at = _skip_expression(view, match.end(), style, language, depth)
            parts.append((match.end(), begin - 1))
            continue
        at = match.end()


def _is_slashy(view: str, at: int) -> re.Match[str] | None:
    before = view[max(0, at - 20) : at]
    return _SLASHY.match(view, at) if _BEFORE_SLASHY.search(before) else None


def regions(view: str, language: Language, start: int = 0, end: int | None = None) -> Iterator[Region]:
    """Yield the comments and string bodies of *view* in order."""
    starter = _starter(language)
    styles = _by_opening(language)
    limit = len(view) if end is None else end
    at = start
    if language.slashy:
        starter = re.compile(f"{starter.pattern}|/")
    while match := starter.search(view, at):
        if match.start() >= limit:
            return
        style = styles.get(match[0])
        if style:
            parts, at = _string(view, match.start(), style, language)
            for part in parts:
                if isinstance(part, Region):
                    yield part
                else:
                    yield from regions(view, language, *part)
        elif match[0].startswith("`"):
            at = match.end()
        elif match[0] == "/":
            slashy = _is_slashy(view, match.start())
            at = slashy.end() if slashy else match.end()
        else:
            at = _comment_end(view, match, language)
            yield Region("comment", match.start(), at)


_TOKEN = late.compile(
    r"""(?P<space>[ \t\r\f]+|\\\r?\n)
      |(?P<newline>\n)
      |(?P<name>`[^`\n]+`|[A-Za-z_$\udc80-\udcff][A-Za-z0-9_$\udc80-\udcff]*)
      |(?P<number>0[xX][0-9A-Fa-f_]+[lL]?|[0-9][0-9_]*(?:\.[0-9][0-9_]*)?[lLfFdD]?)
      |(?P<mark>\?:|\?\.|!!|::|->|\+\+|--|[-+*]=|<<|\.\.|==|!=|&&|\|\||.)""",
    re.VERBOSE | re.DOTALL,
)


def tokens(view: str, language: Language, start: int = 0, end: int | None = None) -> list[Token]:
    """Split *view* into tokens, without comments and white space."""
    found: list[Token] = []
    limit = len(view) if end is None else end
    starter = _starter(language)
    styles = _by_opening(language)
    at = start
    while at < limit:
        match = starter.match(view, at)
        style = styles.get(match[0]) if match else None
        if match and (style or not match[0].startswith("`")):
            if style:
                parts, after = _string(view, at, style, language)
                found.append(Token("string", at, after, shown(view[at:after]), tuple(parts)))
                at = after
            else:
                at = _comment_end(view, match, language)
            continue
        slashy = _is_slashy(view, at) if language.slashy and view[at] == "/" else None
        if slashy:
            found.append(Token("regex", at, slashy.end(), shown(slashy[0])))
            at = slashy.end()
            continue
        plain = _TOKEN.match(view, at, limit)
        if plain is None:
            break
        if plain.lastgroup != "space":
            found.append(Token(str(plain.lastgroup), at, plain.end(), shown(plain[0])))
        at = plain.end()
    return found


BRACKETS = {"(": ")", "[": "]", "{": "}"}
_CLOSES = frozenset(BRACKETS.values())


def nesting(token: Token) -> int:
    """Return 1 for a bracket that opens, -1 for one that closes, 0 for any other token."""
    return (token.text in BRACKETS) - (token.text in _CLOSES) if token.kind == "mark" else 0


def matching(items: Sequence[Token], at: int) -> int:
    """Return the index of the bracket that closes the one at *at*; the number of tokens where none does."""
    depth = 0
    for index in range(at, len(items)):
        depth += nesting(items[index])
        if depth == 0:
            return index
    return len(items)


def level_of(items: Sequence[Token]) -> list[int]:
    """Return the indices of the tokens that stand in no bracket, the brackets' own included."""
    at, indices = 0, []
    while at < len(items):
        indices.append(at)
        at = matching(items, at) + 1 if nesting(items[at]) > 0 else at + 1
    return indices


def item_end(items: Sequence[Token], at: int, marks: Sequence[str] = (",", ")", "]")) -> int:
    """Return where the item of a list ends that begins at *at*: at one of *marks* on its level, or with all of it."""
    while 0 <= at < len(items):
        if items[at].kind == "mark" and items[at].text in marks:
            return at
        at = matching(items, at) + 1 if nesting(items[at]) > 0 else at + 1
    return max(at, 0)


def items_of(tokens: Sequence[Token]) -> list[tuple[Token, ...]]:
    """Return the items of a list, split at its commas, without line ends; nothing between two commas is one too."""
    found: list[tuple[Token, ...]] = []
    start = 0
    while start <= len(tokens):
        end = item_end(tokens, start, (",",))
        found.append(tuple(token for token in tokens[start:end] if token.kind != "newline"))
        start = end + 1
    return found


def enclosing(items: Sequence[Token], at: int) -> int:
    """Return the index of the innermost bracket that stands open before *at*; -1 where none does."""
    depth = 0
    for index in range(at - 1, -1, -1):
        depth -= nesting(items[index])
        if depth < 0:
            return index
    return -1


def unpaired(items: Iterable[Token]) -> list[Token]:
    """Return the brackets that have no partner: those that close nothing, then those that stay open."""
    odd: list[Token] = []
    waiting: list[Token] = []
    for item in items:
        step = nesting(item)
        if step > 0:
            waiting.append(item)
        elif step < 0 and waiting and BRACKETS[waiting[-1].text] == item.text:
            waiting.pop()
        elif step < 0:
            odd.append(item)
    return odd + waiting


def refuse_unpaired(items: Sequence[Token], source: Source) -> None:
    """Raise FormatError at the first string that does not end, else at the first bracket that has no partner."""
    for item in items:
        if item.kind == "string" and item.text[:1] in ("'", '"'):
            quotes = item.text[:3] if item.text[:3] in ("'''", '"""') else item.text[0]
            if len(item.text) < 2 * len(quotes) or not item.text.endswith(quotes):
                raise FormatError("a string does not end here", line=source.line(item.start))
    for item in unpaired(items):
        said = (
            f"the bracket “{item.text}” is not closed"
            if item.text in BRACKETS
            else f"“{item.text}” closes no bracket"
        )
        raise FormatError(said, line=source.line(item.start))
