"""A change as a patch: the bytes that ``git apply`` takes, and that lead to the very tree that the command writes.

Source of the forms: git's documentation, "Generating patch text with -p" and "Binary patches" (git-diff, git-apply).
"""

from __future__ import annotations

import base64
import difflib
import hashlib
import zlib
from collections.abc import Iterable, Iterator, Sequence

from onomaxis import late
from onomaxis.writing.change import FileChange

_CONTEXT = 1
# From so many lines on, unchanged stretches are found line by line rather than by the best possible match.
_LONG = 2000
_ODD = late.compile(r'["\\\x00-\x1f\x7f]')
_LINE = 52  # bytes in a line of a binary patch
_LENGTHS = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz"
_ENDLESS = b"\\ No newline at end of file\n"


def patch(changes: Iterable[FileChange], pictures: bool = True) -> bytes:
    """Return the whole change as a patch; without *pictures* a file that is not text is only named."""
    return b"".join(line for change in changes for line in _one(change, pictures))


def unified_diff(changes: Iterable[FileChange]) -> str:
    """Return the patch as text; bytes that are no UTF-8 are lone surrogates (``surrogateescape``)."""
    return patch(changes).decode("utf-8", "surrogateescape")


def _one(change: FileChange, pictures: bool) -> Iterator[bytes]:
    source, target = change.source or change.target or "", change.target or change.source or ""
    mode = b"120000" if change.link else b"100644"
    yield b"diff --git " + _quoted("a/", source) + b" " + _quoted("b/", target) + b"\n"
    if change.source is None:
        yield b"new file mode " + mode + b"\n"
    if change.target is None:
        yield b"deleted file mode " + mode + b"\n"
    if change.moved:
        yield b"rename from " + _quoted("", source) + b"\nrename to " + _quoted("", target) + b"\n"
    if not change.edited and change.source is not None and change.target is not None:
        return
    before, after = change.before or b"", change.after or b""
    if b"\0" in before or b"\0" in after:
        yield from _binary(change, before, after) if pictures else (f"Binary file, {len(after)} bytes\n".encode(),)
        return
    if before == after:  # an empty file, new or removed
        return
    yield b"--- " + (b"/dev/null" if change.source is None else _headed("a/", source)) + b"\n"
    yield b"+++ " + (b"/dev/null" if change.target is None else _headed("b/", target)) + b"\n"
    yield from _hunks(_lines(before), _lines(after))


def _quoted(head: str, path: str) -> bytes:
    """Write a path as git does: in quotes, with escapes, where it holds what a patch could misread."""
    if not _ODD.search(path):
        return (head + path).encode("utf-8", "surrogateescape")
    data = (head + path).encode("utf-8", "surrogateescape")
    plain = (chr(byte) if 32 <= byte < 127 and byte not in b'"\\' else f"\\{byte:03o}" for byte in data)
    return f'"{"".join(plain)}"'.encode()


def _headed(head: str, path: str) -> bytes:
    """Write a path for the head of a hunk, where a space would end it without a tab behind the name."""
    written = _quoted(head, path)
    return written + b"\t" if b" " in written and not written.startswith(b'"') else written


def _lines(data: bytes) -> list[bytes]:
    """Split at line feeds only, so that carriage returns stay parts of their lines."""
    pieces = data.split(b"\n")
    return [piece + b"\n" for piece in pieces[:-1]] + ([pieces[-1]] if pieces[-1] else [])


def _hunks(before: Sequence[bytes], after: Sequence[bytes]) -> Iterator[bytes]:
    changed = list(_changed(before, after))
    while changed:
        group = [changed.pop(0)]
        while changed and changed[0][0] - group[-1][1] <= 2 * _CONTEXT:
            group.append(changed.pop(0))
        low, high = max(0, group[0][0] - _CONTEXT), min(len(before), group[-1][1] + _CONTEXT)
        shift, rest = group[0][2] - group[0][0], group[-1][3] - group[-1][1]
        yield f"@@ -{_span(low, high)} +{_span(low + shift, high + rest)} @@\n".encode()
        at = low
        for start, end, new_start, new_end in group:
            yield from _said(b" ", before[at:start])
            yield from _said(b"-", before[start:end])
            yield from _said(b"+", after[new_start:new_end])
            at = end
        yield from _said(b" ", before[at:high])


def _said(mark: bytes, lines: Sequence[bytes]) -> Iterator[bytes]:
    for line in lines:
        yield mark + line if line.endswith(b"\n") else mark + line + b"\n" + _ENDLESS


def _span(low: int, high: int) -> str:
    count = high - low
    return f"{low + 1 if count else low},{count}" if count != 1 else f"{low + 1}"


def _changed(before: Sequence[bytes], after: Sequence[bytes]) -> Iterator[tuple[int, int, int, int]]:
    """Yield the stretches that differ: their span in both."""
    head = next((at for at, (a, b) in enumerate(zip(before, after, strict=False)) if a != b), None)
    if head is None:
        head = min(len(before), len(after))
        if len(before) == len(after):
            return
    low, high = len(before), len(after)
    while low > head and high > head and before[low - 1] == after[high - 1]:
        low, high = low - 1, high - 1
    if low == high and low - head > _LONG:
        yield from _line_by_line(before, after, head, low)
        return
    matcher = difflib.SequenceMatcher(None, before[head:low], after[head:high], autojunk=False)
    for kind, start, end, new_start, new_end in matcher.get_opcodes():
        if kind != "equal":
            yield start + head, end + head, new_start + head, new_end + head


def _line_by_line(
    before: Sequence[bytes], after: Sequence[bytes], low: int, high: int
) -> Iterator[tuple[int, int, int, int]]:
    start = -1
    for at in range(low, high + 1):
        differs = at < high and before[at] != after[at]
        if differs and start < 0:
            start = at
        elif not differs and start >= 0:
            yield start, at, start, at
            start = -1


def _binary(change: FileChange, before: bytes, after: bytes) -> Iterator[bytes]:
    """Write a file that is not text as git's binary patch, which holds both versions."""
    old = "0" * 40 if change.source is None else _blob(before)
    new = "0" * 40 if change.target is None else _blob(after)
    same = "" if change.source is None or change.target is None else " 100644"
    yield f"index {old}..{new}{same}\nGIT binary patch\n".encode()
    for data in (after, before):
        yield f"literal {len(data)}\n".encode()
        packed = zlib.compress(data, 0)  # stored as it is: the same bytes on every machine
        for at in range(0, len(packed), _LINE):
            chunk = packed[at : at + _LINE]
            yield _LENGTHS[len(chunk) - 1].encode() + base64.b85encode(chunk, pad=True) + b"\n"
        yield b"\n"


def _blob(data: bytes) -> str:
    """Return the name under which git keeps a file's content."""
    return hashlib.sha1(b"blob %d\0" % len(data) + data, usedforsecurity=False).hexdigest()
