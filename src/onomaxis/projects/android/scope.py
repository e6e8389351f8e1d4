"""What an expression of a build script may ask for: the scripts, and who knows what their names stand for."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Protocol

from onomaxis.formats.gradle import Script
from onomaxis.formats.gradle_statements import Setting, literal_text
from onomaxis.formats.lexer import GROOVY, KOTLIN, Token, tokens
from onomaxis.model import Piece
from onomaxis.projects.android.access import Access
from onomaxis.projects.android.catalogs import Catalog
from onomaxis.projects.android.script_functions import Call, Declared, declared


class Unknown(Exception):
    """The expression is computed in a way that is not followed; the message says which."""


class NotSet(Unknown):
    """The name is set nowhere: an elvis default applies."""


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
        return id(token) in self._tokens

    @cached_property
    def declared(self) -> Declared:
        """What the script declares for itself: local variables, functions, closures."""
        return declared(tokens(self.script.source.view, KOTLIN if self.script.kotlin else GROOVY))

    @cached_property
    def _tokens(self) -> frozenset[int]:
        return frozenset(id(token) for item in self.settings for token in item.value)


def _plain(item: Setting) -> Setting:
    """Turn ``extra.set("x", v)`` into a setting of ``x``."""
    full = item.full
    if len(full) > 1 and full[-1] == "set" and full[-2] in ("ext", "extra") and len(item.value) > 2:
        name = literal_text(item.value[:1])
        if name and item.value[1].text == ",":
            path = tuple(full[:-1])
            return item._replace(value=item.value[2:]).called(path, name)
    return item


class Names(Protocol):
    """Who knows what names stand for: variables, properties, entries of maps, catalogs, constants."""

    own: ScriptFile
    catalogs: dict[str, Catalog]

    def bound(self, name: str) -> Piece | None:
        """Return what a name means where the expression stands, None where it is to be looked up."""

    def lookup(self, name: str, depth: int) -> tuple[Piece, ...]:
        """Return the pieces of a variable or property. Raises Unknown."""

    def entry(self, name: str, key: str, depth: int) -> tuple[Piece, ...] | None:
        """Return an entry of a map or of a loaded file; None where it is neither. Raises Unknown."""

    def entry_at(self, path: Access, depth: int) -> tuple[Piece, ...] | None:
        """Return what stands at a path into a loaded file; None where it is none. Raises Unknown."""

    def constant(self, parts: Sequence[str], depth: int) -> tuple[Piece, ...] | None:
        """Return the value of a constant of an object, None where nobody knows it. Raises Unknown."""

    def called(self, call: Call, depth: int) -> tuple[Piece, ...] | None:
        """Return what a function or closure of the scripts gives; None where it is none of theirs. Raises Unknown."""
