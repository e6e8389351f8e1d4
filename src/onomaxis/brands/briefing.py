"""A new brand at once: its table as an identity file has it, in a file of brands, as JSON, or as a row of a table."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any

from onomaxis.errors import InputError
from onomaxis.identity.file import IdentityFile
from onomaxis.identity.gathering import brands_in
from onomaxis.identity.schema import nearest
from onomaxis.identity.table import brands_of
from onomaxis.projects.neighbours.twins import plain_key


@dataclass(frozen=True)
class Briefing:
    """What is said of a new brand: its table, as ``[flavors.NAME]`` of an identity file has it."""

    table: Mapping[str, Any] = field(default_factory=dict)

    def text(self, key: str, inside: str = "") -> str:
        """Return a text of the table, or of one inside it; empty where it says none."""
        table = self.table.get(inside, {}) if inside else self.table
        return str(table.get(key, ""))

    def texts(self) -> Iterator[tuple[str, str]]:
        """Yield the values of the table by name, those of each platform after those of all."""
        for table in (self.table, *(self.table.get(platform, {}) for platform in ("android", "ios"))):
            for key in ("values", "colors"):
                yield from ((name, _said(value)) for name, value in table.get(key, {}).items())

    def declared(self, file: IdentityFile, given: Mapping[str, str]) -> dict[str, Any]:
        """Return the table as an identity file takes it: with the values that it declares, *given* ones among them.

        Others are no values of the file: they go where the neighbours have one of that name.
        """
        names = {plain_key(item.name): item.name for item in file.values}
        more = {names[plain_key(key)]: text for key, text in given.items() if plain_key(key) in names}
        found: dict[str, Any] = dict(self.table)
        if "values" in found or more:
            found["values"] = {**{k: v for k, v in found.get("values", {}).items() if k in names.values()}, **more}
        return found


def read_briefing(path: str, data: bytes, name: str) -> Briefing:
    """Return what a file says of a new brand. Raises InputError with file and line."""
    if path.endswith((".csv", ".tsv")):
        brands: dict[str, Any] = {known: brand for known, brand, _ in brands_of(path, data)}
    else:
        brands = dict(brands_in(path, _as_toml(path, data, name) if path.endswith(".json") else data))
    if name not in brands:
        known = ", ".join(brands) or "none"
        guess = nearest(name, tuple(brands))
        remedy = f"Did you mean {guess}?" if guess else f"It describes {known}. A brand is a table [flavors.{name}]."
        raise InputError(f"the briefing does not describe {name}", file=path, remedy=remedy)
    return Briefing(brands[name])


def _as_toml(path: str, data: bytes, name: str) -> bytes:
    """Return a JSON briefing as a file of brands: the whole of one, or the brand's table alone."""
    import tomlkit

    try:
        found = json.loads(data.decode("utf-8-sig"))
    except (ValueError, RecursionError) as error:
        line = getattr(error, "lineno", 1)
        raise InputError(f"the briefing is not JSON: {error}", file=path, line=line) from None
    if not isinstance(found, dict):
        raise InputError("the briefing is not an object", file=path, line=1)
    brands = found if "flavors" in found else {"flavors": {name: found}}
    try:
        return tomlkit.dumps(brands).encode()
    except (TypeError, ValueError) as error:  # null, which no brand says
        raise InputError(f"the briefing has a key that a brand cannot have: {error}", file=path, line=1) from None


def _said(value: object) -> str:
    return ("true" if value else "false") if isinstance(value, bool) else str(value)
