"""A new brand's table in the identity file: what is said of it, and what its siblings' tables show to be owed."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from typing import Any

from onomaxis.brands.new_flavor import FlavorWish, listed_as, plain_name, wanted_id
from onomaxis.brands.subjects import Subject
from onomaxis.identity.file import IdentityFile
from onomaxis.identity.schema import OWED
from onomaxis.projects.neighbours.called import Called, Names
from onomaxis.projects.siblings import majority


def table_of(file: IdentityFile, built: Sequence[Subject], wish: FlavorWish, siblings: Sequence[Called]) -> str:
    """Return the new flavor's table: what its briefing says, and its ID as the others' tables have theirs."""
    import tomlkit

    said = wish.briefing.declared(file, wish.given)
    table: dict[str, Any] = {}
    if not said.get("id") and not said.get("id-suffix"):
        table |= _own_id(file, built, wish)
    table |= {"name": wish.shown} if wish.shown else {}
    whole = {**table, **said}
    for keys, text in _owed(file, siblings, listed_as(file, built, wish)):
        holder = whole
        for key in keys[:-1]:
            holder = holder.setdefault(key, {})
        holder.setdefault(keys[-1], text)
    return tomlkit.dumps({"flavors": {wish.name: whole}}).rstrip("\n")


# What siblings have each for itself, or alike but for their names.
_THEIRS = ("values", "names")


def _owed(file: IdentityFile, siblings: Sequence[Called], new: Called) -> Iterator[tuple[tuple[str, ...], str]]:
    """Yield the values and names in languages that most siblings' tables give, with what the new one's gives.

    As theirs where these differ in the brand alone, else the mark of what is owed; what some share is inherited.
    """
    names = Names(siblings)
    tables = {item.name: file.top["flavors"][file.named(item.name)] for item in siblings if file.lists(item.name)}
    plain = {item.name for item in file.values if item.type != "file" and not item.template}
    told: dict[tuple[str, ...], dict[str, str]] = defaultdict(dict)
    for name, table in tables.items():
        for head in ((), ("android",), ("ios",)):
            inner = table.get(head[0], {}) if head else table
            for kind in _THEIRS:
                for key, value in inner.get(kind, {}).items():
                    if kind == "names" or key in plain:
                        told[(*head, kind, key)][name] = str(value)
    for keys, texts in told.items():
        if not majority(len(texts), tables):
            continue
        braced = [names.braced(text, name) for name, text in texts.items()]
        first, text = next(iter(texts.items()))
        if len(set(braced)) == 1 and braced[0] != text:
            yield keys, names.renamed(text, first, new)
        elif len(set(braced)) == len(braced):
            yield keys, OWED


def _own_id(file: IdentityFile, built: Sequence[Subject], wish: FlavorWish) -> dict[str, Any]:
    """Return how a table says the new flavor's ID: by what goes behind the app's, whole, by platform."""
    if wish.id:
        return {"id": wish.id}
    ids = {subject.platform: wanted_id(file, subject, wish) for subject in built}
    suffixes = {id_.removeprefix(s.text("", "id") or "?") for s, id_ in zip(built, ids.values(), strict=True)}
    suffix = wish.suffix or next(iter(suffixes), f".{plain_name(wish.name)}")
    if len(suffixes) < 2 and suffix.startswith("."):
        return {"id-suffix": suffix}
    if len(set(ids.values())) == 1:
        return {"id": next(iter(ids.values()))}
    return {platform: {"id": id_} for platform, id_ in ids.items()}
