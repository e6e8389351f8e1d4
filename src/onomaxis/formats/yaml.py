"""YAML with spans: the scalars of a document, by key path, through the standard parser's marks."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, NamedTuple

from onomaxis.errors import FormatError
from onomaxis.formats.source import Source

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


def parse_yaml(data: bytes) -> YamlDocument:
    """Parse the first document of a file. Raises FormatError with the line."""
    import yaml

    source = Source.read(data)
    text = source.text(0, len(source.view))
    try:
        node = yaml.compose(text, Loader=yaml.SafeLoader)
    except yaml.MarkedYAMLError as error:
        line = error.problem_mark.line + 1 if error.problem_mark else 1
        raise FormatError(f"not readable as YAML: {error.problem}", line=line) from None
    except (yaml.YAMLError, RecursionError) as error:
        raise FormatError(f"not readable as YAML: {error}", line=1) from None
    return YamlDocument(source, tuple(_scalars(node, (), text)) if node is not None else ())


def _scalars(node: Node, path: tuple[str, ...], text: str) -> Iterator[Scalar]:
    kind = type(node).__name__
    if kind == "ScalarNode":
        start, end = node.start_mark.index, node.end_mark.index
        if text.isascii():
            yield Scalar(path, node.value, start, end)
        else:
            before = len(text[:start].encode("utf-8"))
            yield Scalar(path, node.value, before, before + len(text[start:end].encode("utf-8")))
    elif kind == "MappingNode":
        for key, value in node.value:
            yield from _scalars(value, (*path, str(key.value)), text)
    else:
        for index, item in enumerate(node.value):
            yield from _scalars(item, (*path, str(index)), text)
