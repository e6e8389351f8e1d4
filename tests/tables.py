"""A writer of resource tables and compiled XML in every form that the platform reads: it knows nothing of the readers."""

from __future__ import annotations

import struct
from collections.abc import Mapping, Sequence

STRING, REFERENCE, DECIMAL, BOOLEAN = 3, 1, 0x10, 0x12


def chunk(kind: int, head: bytes, body: bytes) -> bytes:
    return struct.pack("<HHI", kind, 8 + len(head), 8 + len(head) + len(body)) + head + body


def pool(texts: Sequence[str], wide: bool = False) -> bytes:
    offsets, data = [], b""
    for text in texts:
        offsets.append(len(data))
        if wide:
            units = text.encode("utf-16-le")
            count = len(units) // 2
            data += (struct.pack("<HH", 0x8000 | count >> 16, count & 0xFFFF) if count > 0x7FFF else struct.pack("<H", count)) + units + b"\0\0"
        else:
            body = text.encode()
            for count in (len(text.encode("utf-16-le")) // 2, len(body)):
                data += bytes([0x80 | count >> 8, count & 0xFF]) if count > 0x7F else bytes([count])
            data += body + b"\0"
    data += b"\0" * (-len(data) % 4)
    head = struct.pack("<5I", len(texts), 0, 0 if wide else 0x100, 28 + 4 * len(offsets), 0)
    return chunk(1, head, struct.pack(f"<{len(offsets)}I", *offsets) + data)


def config(locale: str = "", density: int = 0, level: int = 0, night: bool = False, size: int = 64) -> bytes:
    parts = locale.split("-") if locale else []
    language = parts[0].encode() if parts else b""
    script = next((part.encode() for part in parts[1:] if len(part) == 4), b"")
    region = next((part.encode() for part in parts[1:] if len(part) == 2), b"")
    data = bytearray(size)
    struct.pack_into("<I", data, 0, size)
    if len(language) == 3:  # three letters, five bits each
        one, two, three = (letter - ord("a") for letter in language)
        data[8], data[9] = 0x80 | three << 2 | two >> 3, (two & 7) << 5 | one
    else:
        data[8 : 8 + len(language)] = language
    data[10 : 10 + len(region)] = region
    struct.pack_into("<H", data, 14, density)
    struct.pack_into("<H", data, 24, level)
    if size > 29 and night:
        data[29] = 0x20
    if size >= 48:
        data[36 : 36 + len(script)] = script
    return bytes(data)


def type_chunk(number: int, entries: Mapping[int, bytes], count: int, settings: bytes, form: str = "plain") -> bytes:
    """Return the values of a type in one configuration; *form* is ``plain``, ``short`` or ``sparse``."""
    body, offsets = b"", {}
    for index in sorted(entries):
        offsets[index] = len(body)
        body += entries[index]
    if form == "sparse":
        table = b"".join(struct.pack("<HH", index, at // 4) for index, at in offsets.items())
        flags, size = 1, len(offsets)
    elif form == "short":
        table = struct.pack(f"<{count}H", *(offsets[i] // 4 if i in offsets else 0xFFFF for i in range(count)))
        table += b"\0" * (-len(table) % 4)
        flags, size = 2, count
    else:
        table = struct.pack(f"<{count}I", *(offsets.get(i, 0xFFFFFFFF) for i in range(count)))
        flags, size = 0, count
    head = struct.pack("<BBHII", number, flags, 0, size, 20 + len(settings) + len(table)) + settings
    return chunk(0x0201, head, table + body)


def entry(key: int, kind: int, data: int, compact: bool = False) -> bytes:
    if compact:
        return struct.pack("<HHI", key, kind << 8 | 0x0008, data)
    return struct.pack("<HHI", 8, 0, key) + struct.pack("<HBBI", 8, 0, kind, data)


def table(
    strings: Sequence[str], kinds: Sequence[str], keys: Sequence[str], types: Sequence[bytes], wide: bool = False, package: str = "org.lendspan"
) -> bytes:
    names, labels = pool(kinds, True), pool(keys)
    head = struct.pack("<I", 0x7F) + package.encode("utf-16-le").ljust(256, b"\0") + struct.pack("<5I", 288, 0, 288 + len(names), 0, 0)
    body = chunk(0x0200, head, names + labels + b"".join(types))
    return chunk(2, struct.pack("<I", 1), pool(strings, wide) + body)


Element = tuple[str, Sequence[tuple[str, int, int, int]], Sequence["Element"]]


def compiled(name: str, attributes: Sequence[tuple[str, int, int, int]], wide: bool = True, nested: int = 1) -> bytes:
    """Return compiled XML of one element, or *nested* in one another: name, resource ID, type, data of each attribute."""
    labels = list(dict.fromkeys(attributes))
    strings, ids = [label for label, *_ in labels], [identifier for _, identifier, _, _ in labels]
    open_, close = _tags((name, attributes, ()), strings, len(strings))
    return _document([*strings, name], ids, open_ * nested + close * nested, wide)


def document(top: Element, wide: bool = True, strings: Sequence[str] = ()) -> bytes:
    """Return compiled XML of elements in one another; *strings* are further ones, numbered on from the attributes' names."""
    attributes: dict[str, int] = {}
    names: dict[str, None] = {}

    def gather(element: Element) -> None:
        names[element[0]] = None
        attributes.update({label: identifier for label, identifier, _, _ in element[1]})
        for child in element[2]:
            gather(child)

    gather(top)
    pooled = [*attributes, *strings, *(name for name in names if name not in attributes)]

    def body(element: Element) -> bytes:
        open_, close = _tags(element, pooled, pooled.index(element[0]))
        return open_ + b"".join(body(child) for child in element[2]) + close

    return _document(pooled, list(attributes.values()), body(top), wide)


def _tags(element: Element, strings: Sequence[str], name: int) -> tuple[bytes, bytes]:
    rows = b"".join(struct.pack("<IIIHBBI", 0xFFFFFFFF, strings.index(label), 0xFFFFFFFF, 8, 0, kind, data) for label, _, kind, data in element[1])
    head = struct.pack("<IIII", 1, 0xFFFFFFFF, 0xFFFFFFFF, name)
    open_ = struct.pack("<HHI", 0x0102, 16, 36 + len(rows)) + head + struct.pack("<HHHHHH", 20, 20, len(element[1]), 0, 0, 0) + rows
    return open_, struct.pack("<HHI", 0x0103, 16, 24) + head


def _document(strings: Sequence[str], ids: Sequence[int], body: bytes, wide: bool) -> bytes:
    return chunk(3, b"", pool(strings, wide) + chunk(0x0180, b"", struct.pack(f"<{len(ids)}I", *ids)) + body)
