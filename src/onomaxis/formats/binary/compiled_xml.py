"""Compiled XML as packages hold it. Source: ``ResourceTypes.h`` (``ResXMLTree_node``, ``ResXMLTree_attribute``)."""

from __future__ import annotations

from onomaxis.errors import FormatError
from onomaxis.formats.binary.reader import Reader
from onomaxis.formats.binary.string_pool import CHUNK as POOL
from onomaxis.formats.binary.string_pool import StringPool
from onomaxis.formats.binary.values import ANDROID, ATTRIBUTES, STRING, Node, Typed

_XML, _MAP, _START, _END = 0x0003, 0x0180, 0x0102, 0x0103
_DEEPEST = 400
_MOST_NODES = 200_000


def is_compiled(data: bytes) -> bool:
    """Tell whether a file begins as compiled XML does."""
    return data[:4] == b"\x03\x00\x08\x00"


def read_compiled(data: bytes, what: str = "the compiled XML") -> Node:
    """Return the top element. Raises FormatError."""
    reader = Reader(data, what)
    kind, header, size = reader.unpack("<HHI", 0)
    if kind != _XML or size > len(reader):
        raise FormatError(f"{what} is cut off or damaged")
    pool: StringPool | None = None
    names: tuple[int, ...] = ()
    top = Node("", {}, [])
    stack, count, at = [top], 0, header
    while at < size:
        kind, inner, long = reader.unpack("<HHI", at)
        if long < 8 or inner > long or at + long > size:
            raise FormatError(f"{what} is cut off or damaged")
        if kind == POOL:
            pool = StringPool(reader.part(at, long))
        elif kind == _MAP:
            names = reader.unpack(f"<{(long - inner) // 4}I", at + inner)
        elif kind == _START and pool is not None:
            node = _element(reader.part(at, long, what), inner, pool, names)
            stack[-1].children.append(node)
            stack.append(node)
            count += 1
        elif kind == _END and len(stack) > 1:
            stack.pop()
        if len(stack) > _DEEPEST or count > _MOST_NODES:
            raise FormatError(f"{what} nests or repeats its elements beyond all use")
        at += long
    if not top.children:
        raise FormatError(f"{what} holds no element")
    return top.children[0]


def _element(reader: Reader, header: int, pool: StringPool, names: tuple[int, ...]) -> Node:
    _, name, start, width, count = reader.unpack("<IIHHH", header)
    if count and width < 20:
        raise FormatError(f"{reader.what} has attributes of no size")
    attributes: dict[str, Typed] = {}
    for number in range(count):
        spot = header + start + number * width
        space, label, raw, _, _, kind, data = reader.unpack("<IIIHBBI", spot)
        text = pool.text(data) if kind == STRING else pool.text(raw)
        attributes.setdefault(_name(pool, names, space, label), Typed(kind, data, text))
    return Node(pool.text(name), attributes, [])


def _name(pool: StringPool, names: tuple[int, ...], space: int, label: int) -> str:
    """Return an attribute's name: by its resource ID where that is known, as the platform takes it."""
    known = ATTRIBUTES.get(names[label]) if label < len(names) else None
    if known:
        return known
    uri = pool.text(space)
    return pool.text(label) if uri in ("", ANDROID) else f"{uri}:{pool.text(label)}"
