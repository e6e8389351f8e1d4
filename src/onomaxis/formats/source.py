"""A file's bytes beside a text view of them in which one character is one byte.

Every reader works on :attr:`Source.view`: the content as UTF-8 bytes, each byte shown as one character
(Latin-1). A position in the view is therefore a byte position, whatever the characters mean, and files in
UTF-8, ASCII, Latin-1 or another one-byte encoding are read without any conversion. UTF-16 and UTF-32 files
are transcoded for the view, and :meth:`Source.offset` translates back.
"""

from __future__ import annotations

import codecs
import re
from bisect import bisect_left
from dataclasses import dataclass, field
from functools import cached_property

from onomaxis.errors import FormatError

_BOMS = (
    (codecs.BOM_UTF8, "utf-8"),
    (codecs.BOM_UTF32_LE, "utf-32-le"),
    (codecs.BOM_UTF32_BE, "utf-32-be"),
    (codecs.BOM_UTF16_LE, "utf-16-le"),
    (codecs.BOM_UTF16_BE, "utf-16-be"),
)


def detect_encoding(data: bytes) -> tuple[str, int]:
    """Return the codec name of *data* and the length of its byte order mark.

    Without a mark: UTF-16 when NUL bytes stand at only every other position of the head, UTF-8 when it decodes,
    else ``latin-1`` (which here means "bytes above 127 are carried along, not understood").
    """
    for mark, codec in _BOMS:
        if data.startswith(mark):
            return codec, len(mark)
    head = data[: 256 if len(data) >= 256 else len(data) // 2 * 2]
    even, odd = head[0::2].count(0), head[1::2].count(0)
    if odd > len(head) // 8 and not even:
        return "utf-16-le", 0
    if even > len(head) // 8 and not odd:
        return "utf-16-be", 0
    if data.isascii():
        return "utf-8", 0
    try:
        data.decode("utf-8")
    except UnicodeDecodeError:
        return "latin-1", 0
    return "utf-8", 0


def looks_binary(data: bytes) -> bool:
    """Tell whether *data* is no text: it holds a NUL byte near its start and is not UTF-16 or UTF-32."""
    return b"\0" in data[:8192] and detect_encoding(data)[0][:6] not in ("utf-16", "utf-32")


# From so many characters on, line ends are found once and kept.
_WORTH_AN_INDEX = 50_000


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
        if declared and not mark and not codec.startswith("utf-16"):
            codec = codecs.lookup(declared).name
        if codec.startswith(("utf-16", "utf-32")):
            try:
                text = data[mark:].decode(codec)
            except UnicodeDecodeError as error:
                raise FormatError(f"not valid {codec}: {error.reason}", line=1) from None
            return cls(data, codec, mark, text.encode("utf-8").decode("latin-1"))
        return cls(data, codec, mark, data[mark:].decode("latin-1"))

    @property
    def wide(self) -> bool:
        """True for encodings of two or four bytes a unit."""
        return self.codec.startswith(("utf-16", "utf-32"))

    @property
    def _inner(self) -> str:
        return "utf-8" if self.wide else self.codec

    def text(self, start: int, end: int) -> str:
        """Return the characters that the view positions *start* to *end* stand for."""
        return self.view[start:end].encode("latin-1").decode(self._inner, "replace")

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
        return self.mark + len(self.view[:position].encode("latin-1").decode("utf-8").encode(self.codec))

    def line(self, position: int) -> int:
        """Return the 1-based line of a view position."""
        if len(self.view) < _WORTH_AN_INDEX:
            return self.view.count("\n", 0, position) + 1
        return bisect_left(self._line_ends, position) + 1

    @cached_property
    def _line_ends(self) -> list[int]:
        return [match.start() for match in re.finditer("\n", self.view)]

    def column(self, position: int) -> int:
        """Return the 1-based column, in characters, of a view position."""
        return len(self.text(self.view.rfind("\n", 0, position) + 1, position)) + 1

    def line_around(self, position: int) -> str:
        """Return the line that holds a view position, without its line end."""
        start = self.view.rfind("\n", 0, position) + 1
        end = self.view.find("\n", position)
        return self.text(start, len(self.view) if end < 0 else end).rstrip("\r")

    @property
    def newline(self) -> str:
        """The line end that the first line of the file uses."""
        at = self.view.find("\n")
        return "\r\n" if at > 0 and self.view[at - 1] == "\r" else "\n"
