"""Values that a build script reads from a file: a properties file or a JSON file that a variable is loaded from.

Followed are the ordinary ways: ``props.load(new FileInputStream(file("x.properties")))``, a stream or reader block
around the call, ``Properties().apply { load(…) }``, ``JsonSlurper().parse(file("x.json"))``.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise
from typing import NamedTuple

from onomaxis import late
from onomaxis.errors import FormatError
from onomaxis.formats.gradle import Script
from onomaxis.formats.gradle_statements import literal_text
from onomaxis.formats.jsonc import parse_json
from onomaxis.formats.lexer import GROOVY, KOTLIN, Token, tokens
from onomaxis.formats.properties import parse_properties
from onomaxis.model import Piece
from onomaxis.projects.project import place
from onomaxis.tree import Tree, join, parent

_ROOT = late.compile(r"\$\{?(?:rootProject\.(?:projectDir|rootDir)|rootDir|project\.rootDir)\}?/?")
_OWN = late.compile(r"\$\{?(?:project\.projectDir|projectDir|layout\.projectDirectory)\}?/?")
_ROOT_NAMES = frozenset({"rootProject", "rootDir"})
_FILE = late.compile(r"[\w./$ {}-]*\.(?:properties|json|version|env|gradle|kts)\Z")


class LoadedFile(NamedTuple):
    """A file that a variable is loaded from: its path, and its bytes (None while it does not exist)."""

    path: str
    data: bytes | None

    def entry(self, *keys: str) -> Piece | None:
        """Return the value at a path of keys, which only JSON has more than one of. None where there is none."""
        if self.data is None:
            return None
        if self.path.endswith(".json"):
            return self._json_entry(keys) or self._json_entry(tuple(part for key in keys for part in key.split(".")))
        key = ".".join(keys)
        properties = parse_properties(self.data)
        found = properties.get(key)
        if found is None:
            return None
        return Piece(found.value, place(self.path, properties.source, found.start, found.end, "properties"))

    def _json_entry(self, keys: tuple[str, ...]) -> Piece | None:
        try:
            document = parse_json(self.data or b"")
        except FormatError:
            return None
        node = document.top.get(*keys)
        if node is None or node.kind not in ("string", "bare"):
            return None
        inset, syntax = (1, "json") if node.kind == "string" else (0, "number")
        spot = place(self.path, document.source, node.start + inset, node.end - inset, syntax)
        return Piece(str(node.value), spot)


def loaded_files(script: Script, path: str, name: str, root: str, tree: Tree) -> list[LoadedFile]:
    """Return the files that the variable *name* of a script at *path* is loaded from; *root* is the build's."""
    view = script.source.view
    if name not in view or not any(word in view for word in ("load", "JsonSlurper")):
        return []
    found = tokens(view, KOTLIN if script.kotlin else GROOVY)
    files = dict.fromkeys(
        target for expression in _expressions(found, name) if (target := _file(found, expression, path, root))
    )
    return [LoadedFile(file, tree.read(file) if tree.exists(file) else None) for file in files]


def _expressions(found: list[Token], name: str) -> Iterator[list[Token]]:
    """Yield the tokens that say what a variable is loaded from."""
    for at, token in enumerate(found):
        following = [item.text for item in found[at + 1 : at + 4]]
        if token.text != name or token.kind != "name":
            continue
        if following[:3] == [".", "load", "("] or following[:3] == ["?.", "load", "("]:
            inner = _group(found, at + 3)
            yield [*inner, *_around(found, at, inner)]
        elif following[:1] in (["="], [":"]) and (at == 0 or found[at - 1].text not in (".", "?.")):
            statement = _statement(found, at)
            texts = [item.text for item in statement]
            if "JsonSlurper" in texts or ("Properties" in texts and "load" in texts):
                yield statement


def _statement(found: list[Token], at: int) -> list[Token]:
    """Return the tokens of a declaration: to the end of its line, blocks and brackets included."""
    depth, end = 0, at
    while end < len(found):
        token = found[end]
        depth += (token.text in "([{") - (token.text in ")]}") if token.kind == "mark" else 0
        if depth <= 0 and token.kind == "newline" and (end + 1 >= len(found) or found[end + 1].text != "."):
            break
        end += 1
    return found[at:end]


def _group(found: list[Token], at: int) -> list[Token]:
    """Return the tokens inside the parentheses that open at *at*."""
    depth, end = 0, at
    while end < len(found):
        depth += (found[end].text in "([{") - (found[end].text in ")]}") if found[end].kind == "mark" else 0
        if depth == 0:
            break
        end += 1
    return found[at + 1 : end]


def _around(found: list[Token], at: int, inner: Sequence[Token]) -> list[Token]:
    """Return what stands before the block that a call stands in, where its argument is that block's parameter."""
    if any(token.kind == "string" for token in inner):
        return []
    depth = 0
    for index in range(at - 1, -1, -1):
        text = found[index].text if found[index].kind == "mark" else ""
        depth += (text == "}") - (text == "{")
        if depth < 0:
            start = index
            while start > 0 and found[start - 1].kind != "newline" and found[start - 1].text not in ("{", "}", ";"):
                start -= 1
            before = found[start:index]
            return before if not before or before[0].text not in ("if", "else") else []
    return []


def _file(found: list[Token], expression: Sequence[Token], path: str, root: str, depth: int = 0) -> str:
    """Return the path of the one file that an expression names, through variables of the script."""
    at_root = any(token.text in _ROOT_NAMES for token in expression)
    for token in expression:
        text = _text(token) if token.kind == "string" else ""
        if text and _FILE.match(text):
            if _ROOT.search(text):
                return join(root, _ROOT.sub("", text))
            return join(root if at_root else parent(path), _OWN.sub("", text))
    names = [token.text for token in expression if token.kind == "name"]
    for name in dict.fromkeys(names) if depth < 3 else ():
        for at, token in enumerate(found):
            assigned = [item.text for item in found[at + 1 : at + 2]] == ["="]
            if token.text == name and token.kind == "name" and assigned and found[at - 1].text not in (".", "?."):
                named = _file(found, _statement(found, at)[2:], path, root, depth + 1)
                if named:
                    return named
    return ""


def named_file(script: Script, expression: Sequence[Token], path: str, root: str) -> str:
    """Return the path of the file that an expression of the script at *path* names, or nothing."""
    found = tokens(script.source.view, KOTLIN if script.kotlin else GROOVY)
    return _file(found, expression, path, root)


def _text(token: Token) -> str:
    return literal_text([token]) or token.text.strip("\"'")


def map_keys(found: Sequence[Token]) -> list[str]:
    """Return the keys of a map literal: ``[k: v]``, ``mapOf("k" to v)``."""
    pairs = pairwise(found)
    names = ((literal_text([key]) or (key.text if key.kind == "name" else ""), mark.text) for key, mark in pairs)
    return [name for name, mark in names if name and mark in (":", "to")]


def mapped(found: Sequence[Token], key: str) -> tuple[Token, ...] | None:
    """Return the value of *key* in a map literal: ``[k: v]``, ``mapOf("k" to v)``, ``put("k", v)``."""
    for index, token in enumerate(found[:-2]):
        name = literal_text([token]) or (token.text if token.kind == "name" else "")
        if name == key and found[index + 1].text in (":", "to", ","):
            value: list[Token] = []
            depth = 0
            for part in found[index + 2 :]:
                if depth == 0 and part.kind == "mark" and part.text in (",", ")", "]"):
                    break
                depth += (part.text in "([{") - (part.text in ")]}") if part.kind == "mark" else 0
                value.append(part)
            return tuple(item for item in value if item.kind != "newline") or None
    return None
