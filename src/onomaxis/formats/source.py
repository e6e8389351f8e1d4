"""A file's bytes beside a text view of them in which one character is one byte.

Every reader works on :attr:`Source.view`: the content's bytes, each shown as one character. A byte below 128 is the
ASCII character that it is; any other is a lone surrogate (U+DC80 to U+DCFF, as Python's ``surrogateescape`` makes
them). A surrogate is neither white space nor letter nor digit and has no case, so that ``strip``, ``\\s``, ``\\w`` or
``upper`` cannot take half of a letter for something it is not. A position in the view is a byte position, whatever
the characters mean, and files in UTF-8, ASCII, Latin-1 or another one-byte encoding are read without any conversion.
UTF-16, UTF-32 and the East Asian encodings of several bytes are transcoded for the view, and :meth:`Source.offset`
translates back.

:func:`view_of` and :func:`bytes_of` are the only ways in and out. :data:`HIGH` is the character class, for patterns,
of what is not ASCII.
"""

from __future__ import annotations

import codecs
import re
from bisect import bisect_right
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property, lru_cache, wraps
from itertools import accumulate
from typing import TypeVar, cast

from onomaxis.errors import FormatError

_BOMS = (
    (codecs.BOM_UTF8, "utf-8"),
    (codecs.BOM_UTF32_LE, "utf-32-le"),
    (codecs.BOM_UTF32_BE, "utf-32-be"),
    (codecs.BOM_UTF16_LE, "utf-16-le"),
    (codecs.BOM_UTF16_BE, "utf-16-be"),
)


_WIDE_MARKS = (codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)
_HEAD = 256
# What in a view is not ASCII, for use inside the brackets of a pattern.
HIGH = "\udc80-\udcff"
# The white space of syntaxes and markup: not what Unicode counts as such, which may be part of a name.
SPACE = " \t\r\n\f\v"


def view_of(data: bytes) -> str:
    """Return bytes as a view."""
    return data.decode("ascii", "surrogateescape")


def bytes_of(view: str) -> bytes:
    """Return the bytes that a stretch of a view stands for."""
    return view.encode("ascii", "surrogateescape")


def as_viewed(text: str) -> str:
    """Return *text* as it stands in the view of a UTF-8 file."""
    return view_of(text.encode("utf-8", "surrogateescape"))


def shown(view: str) -> str:
    """Return the text that a stretch of the view of a UTF-8 file stands for."""
    return view if view.isascii() else bytes_of(view).decode("utf-8", "surrogateescape")


def detect_encoding(data: bytes) -> tuple[str, int]:
    """Return the codec name of *data* and the length of its byte order mark.

    Without a mark: UTF-16 when NUL bytes stand at only every other position of the head, UTF-8 when it decodes,
    else ``latin-1`` (which here means "bytes above 127 are carried along, not understood").
    """
    for mark, codec in _BOMS:
        if data.startswith(mark):
            return codec, len(mark)
    head = data[: 256 if len(data) >= 256 else len(data) // 4 * 4 or len(data) // 2 * 2]
    nulls = [head[at::4].count(0) for at in range(4)]
    even, odd = nulls[0] + nulls[2], nulls[1] + nulls[3]
    if len(head) % 4 == 0 and nulls[1] == nulls[2] == nulls[3] == len(head) // 4 > nulls[0]:
        return "utf-32-le", 0
    if len(head) % 4 == 0 and nulls[0] == nulls[1] == nulls[2] == len(head) // 4 > nulls[3]:
        return "utf-32-be", 0
    if odd > len(head) // 8 and odd > 8 * even:
        return "utf-16-le", 0
    if even > len(head) // 8 and even > 8 * odd:
        return "utf-16-be", 0
    if data.isascii():
        return "utf-8", 0
    try:
        data.decode("utf-8")
    except UnicodeDecodeError:
        return "latin-1", 0
    return "utf-8", 0


def flat(data: bytes) -> bytes:
    """Return a file's bytes as its view has them, for a search in bytes: UTF-16 and UTF-32 as UTF-8."""
    if b"\0" not in data[:_HEAD] and data[:2] not in _WIDE_MARKS:
        return data
    codec, mark = detect_encoding(data)
    return data[mark:].decode(codec, "ignore").encode("utf-8", "ignore") if _is_wide(codec) else data


def looks_binary(data: bytes) -> bool:
    """Tell whether *data* is not text: it holds a NUL byte near its start and is not UTF-16 or UTF-32."""
    return b"\0" in data[:8192] and detect_encoding(data)[0][:6] not in ("utf-16", "utf-32")


# Encodings of several bytes whose second byte may look like ASCII (python.org, "Standard Encodings").
_EAST_ASIAN = ("gb", "hz", "big5", "cp932", "cp936", "cp949", "cp950", "shift_jis", "euc_", "johab")
# Encodings that switch between character sets: a character's bytes depend on what was before.
_SWITCHING = ("iso2022", "hz", "utf_7", "utf-7")


def _is_wide(codec: str) -> bool:
    return codec.startswith(("utf-16", "utf-32", *_EAST_ASIAN))


def _known(declared: str) -> str:
    """Return the codec of an encoding that a file states. Raises FormatError for one that cannot be edited in."""
    try:
        info = codecs.lookup(declared)
        "a".encode(info.name)
    except (LookupError, UnicodeError, ValueError):
        raise FormatError(f"unknown encoding {declared}", line=1) from None
    if info.name.replace("_", "-").startswith(("utf-16", "utf-32")):
        raise FormatError(f"it says that it is {declared}, and is not", line=1)
    if info.name.startswith(_SWITCHING):
        raise FormatError(f"the encoding {declared} is not edited", line=1)
    return info.name


# From so many characters on, the beginnings of lines are found once and kept.
_WORTH_AN_INDEX = 5_000


def unmerged(data: bytes) -> int:
    """Return the line at which git's marks of an unresolved conflict begin, 0 where there are none.

    What stands between them is two files at once. Source: git-merge, "How conflicts are presented".
    """
    if b"<<<<<<< " not in data:
        return 0
    first = 0 if data.startswith(b"<<<<<<< ") else data.find(b"\n<<<<<<< ") + 1
    middle = data.find(b"\n=======", first)
    marked = (first or data.startswith(b"<<<<<<< ")) and 0 < middle < data.find(b"\n>>>>>>> ", middle)
    return data.count(b"\n", 0, first) + 1 if marked else 0


@dataclass(frozen=True)
class Source:
    """One file as bytes and as a byte-wise text view.

    ``codec`` is the encoding of *data*; ``mark`` the length of its byte order mark, which the view leaves out.
    """

    data: bytes
    codec: str = "utf-8"
    mark: int = 0
    view: str = field(default="", repr=False)

    @classmethod
    def read(cls, data: bytes, declared: str | None = None) -> Source:
        """Make a source of *data*; *declared* is an encoding that the file states about itself.

        Raises FormatError when the bytes do not decode in the encoding found.
        """
        codec, mark = detect_encoding(data)
        if declared and not mark and not codec.startswith(("utf-16", "utf-32")):
            codec = _known(declared)
        if not _is_wide(codec):
            return cls(data, codec, mark, view_of(data[mark:]))
        try:
            text = data[mark:].decode(codec)
            same = text.encode(codec) == data[mark:]
            view = view_of(text.encode("utf-8"))
        except UnicodeError as error:
            reason = getattr(error, "reason", "")
            raise FormatError(f"not valid {codec}: {reason}", line=1) from None
        if not same:  # another spelling of the same characters: an edit could not keep it
            raise FormatError(f"its {codec} is not written as it would be written again", line=1)
        return cls(data, codec, mark, view)

    @cached_property
    def wide(self) -> bool:
        """True for encodings in which a character of ASCII is not always the one byte that it is."""
        return _is_wide(self.codec)

    @cached_property
    def _inner(self) -> str:
        return "utf-8" if self.wide else self.codec

    def text(self, start: int, end: int) -> str:
        """Return the characters that the view positions *start* to *end* stand for."""
        part = self.view[start:end]
        return part if part.isascii() else bytes_of(part).decode(self._inner, "replace")

    def decoded(self, data: bytes) -> str:
        """Return the characters that bytes of the view stand for."""
        return data.decode(self._inner, "replace")

    def raw(self, text: str) -> bytes:
        """Encode *text* as this file writes it. Raises FormatError when the encoding has no such character."""
        try:
            if self.codec == "latin-1" and not text.isascii():
                raise UnicodeEncodeError("latin-1", text, 0, len(text), "encoding of the file is not known")
            return text.encode(self.codec)
        except UnicodeEncodeError as error:
            raise FormatError(f"“{text}” cannot be written in this file's encoding ({error.reason})") from None

    def offset(self, position: int) -> int:
        """Translate a view position into a byte offset in :attr:`data`."""
        if not self.wide:
            return position + self.mark
        return self.mark + len(bytes_of(self.view[:position]).decode("utf-8").encode(self.codec))

    def line(self, position: int) -> int:
        """Return the 1-based line of a view position."""
        if len(self.view) < _WORTH_AN_INDEX:
            return self.view.count("\n", 0, position) + 1
        return bisect_right(self._next_lines, position) + 1

    @cached_property
    def _next_lines(self) -> list[int]:
        return list(accumulate(len(line) + 1 for line in self.view.split("\n")))

    def line_start(self, position: int) -> int:
        """Return the view position at which the line of another one begins."""
        return self.view.rfind("\n", 0, position) + 1

    def whole_lines(self, start: int, end: int, tail: str = "") -> tuple[int, int]:
        """Return the span of the lines that hold a span and nothing else; the span itself where they hold more.

        *tail* is a pattern of what goes with it behind: a comma, a semicolon.
        """
        begin = self.line_start(start)
        after = re.compile(rf"[ \t]*+{tail}[ \t]*+(?:\r?\n|\Z)").match(self.view, end)
        return (begin, after.end()) if after is not None and not self.view[begin:start].strip() else (start, end)

    def column(self, position: int) -> int:
        """Return the 1-based column, in characters, of a view position."""
        start = self.line_start(position)
        return (position - start if self.view.isascii() else len(self.text(start, position))) + 1

    def line_around(self, position: int) -> str:
        """Return the line that holds a view position, without its line end."""
        start = self.line_start(position)
        end = self.view.find("\n", position)
        return self.text(start, len(self.view) if end < 0 else end).rstrip("\r")

    @property
    def newline(self) -> str:
        """The line end that the first line of the file uses."""
        at = self.view.find("\n")
        return "\r\n" if at > 0 and self.view[at - 1] == "\r" else "\n"


_Reader = TypeVar("_Reader", bound=Callable[..., object])


def remembered(most: int, largest: int) -> Callable[[_Reader], _Reader]:
    """Keep the last documents that a reader made, *most* of them, of files of up to *largest* bytes.

    A document is never changed, so the one that was read for some bytes is the one for the same bytes again. Large
    ones are not kept: a tree full of them would fill the memory.
    """

    def around(read: _Reader) -> _Reader:
        kept = lru_cache(maxsize=most)(read)

        @wraps(read)
        def reading(data: bytes, *args: object, **named: object) -> object:
            return (kept if len(data) <= largest else read)(data, *args, **named)

        return cast("_Reader", reading)  # it takes what the reader takes, which the bound cannot say

    return around
