"""YAML with spans: the scalars of a document, by key path, through the standard parser's marks."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, NamedTuple

from onomaxis import late
from onomaxis.errors import FormatError
from onomaxis.formats.source import Source, remembered

# The parser takes no surrogates: bytes above 127 pass through it as characters for private use, one each.
_SHIFT = 0xE000
_INTO = {0xDC00 + byte: _SHIFT + byte for byte in range(128, 256)}
_NESTING = late.compile(r"[\[\]{}]")
_STRETCH = late.compile("[\ue080-\ue0ff]+")
# The parser takes seconds for a megabyte; no file that owns an identity comes near it.
_LONGEST = 1 << 20
_MOST = 20_000
_DEEPEST = 100

if TYPE_CHECKING:
    from yaml.nodes import Node


class Scalar(NamedTuple):
    """One scalar: the keys that lead to it (positions in lists as numbers), value, view span as written."""

    path: tuple[str, ...]
    value: str
    start: int
    end: int


class YamlDocument(NamedTuple):
    """A parsed file: its source and every scalar value in order."""

    source: Source
    scalars: tuple[Scalar, ...]

    def get(self, *path: str) -> Scalar | None:
        """Return the scalar at a path of keys."""
        return next((item for item in self.scalars if item.path == path), None)

    def has(self, *path: str) -> bool:
        """Tell whether anything stands at a path of keys, or below it."""
        return any(item.path[: len(path)] == path for item in self.scalars)


@remembered(64, 1 << 17)
def parse_yaml(data: bytes) -> YamlDocument:
    """Parse the first document of a file. Raises FormatError with the line."""
    import yaml

    source = Source.read(data)
    if len(source.view) > _LONGEST:
        raise FormatError(f"this file is too long to be read as YAML ({len(source.view)} bytes)", line=1)
    _refuse_deep(source)
    try:
        node = yaml.compose(source.view.translate(_INTO), Loader=yaml.SafeLoader)
    except yaml.MarkedYAMLError as error:
        line = error.problem_mark.line + 1 if error.problem_mark else 1
        raise FormatError(f"not readable as YAML: {error.problem}", line=line) from None
    except (yaml.YAMLError, RecursionError) as error:
        raise FormatError(f"not readable as YAML: {error}", line=1) from None
    found = tuple(_scalars(source, node)) if node is not None else ()
    return YamlDocument(source, found)


def _refuse_deep(source: Source) -> None:
    """Refuse what is nested deeper than anybody writes: the parser's time grows with the square of the depth."""
    depth = 0
    for match in _NESTING.finditer(source.view):
        depth += 1 if match[0] in "[{" else -1
        if depth > _DEEPEST:
            raise FormatError("nested too deeply", line=source.line(match.start()))


def _scalars(source: Source, top: Node) -> Iterator[Scalar]:
    """Yield the scalars in order; what an alias stands for counts again, within bounds."""
    pending: list[tuple[Node, tuple[str, ...]]] = [(top, ())]
    seen = 0
    while pending:
        node, path = pending.pop()
        seen += 1
        if seen > _MOST or len(path) > _DEEPEST:
            raise FormatError("its aliases make more of it than can be read", line=node.start_mark.line + 1)
        kind = type(node).__name__
        if kind == "ScalarNode":
            yield Scalar(path, _text(source, node.value), node.start_mark.index, node.end_mark.index)
        elif kind == "MappingNode":
            inner = [(value, (*path, _text(source, str(key.value)))) for key, value in node.value]
            pending += reversed(inner)
        else:
            pending += reversed([(item, (*path, str(index))) for index, item in enumerate(node.value)])


def _text(source: Source, value: str) -> str:
    """Return the text of a scalar: stretches of bytes in the file's encoding, and what escapes stand for."""
    if value.isascii():
        return value
    return _STRETCH.sub(lambda match: source.decoded(bytes(ord(char) - _SHIFT for char in match[0])), value)
