"""Values of the identity file in the configurations that do not ship: one of a flavor that says another flavor's.

A debug build may well use another server: how the value of each flavor stands to that which ships is counted by build
type, and what most do is what the stray one gets.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping, Sequence

from onomaxis.brands.odd_configurations import Stray
from onomaxis.brands.subjects import Subject
from onomaxis.errors import InputError
from onomaxis.identity.declared import DeclaredValue
from onomaxis.identity.file import IdentityFile
from onomaxis.model import Value
from onomaxis.projects.places import Configured
from onomaxis.projects.project import build_type
from onomaxis.surveys.survey import kind_of
from onomaxis.tree import Tree


def stray_values(tree: Tree, file: IdentityFile, subject: Subject) -> Iterator[Stray]:
    """Yield the configurations in which a value of the identity file is not what its siblings make expected."""
    if subject.targets:
        return  # each is a target, and what its configurations say of it is its own affair
    reader = kind_of(subject.project).places(subject.project, tree, subject.module)
    for value in file.values if reader is not None else ():
        for place in value.places:
            if place.platform not in ("", subject.platform) or reader is None:
                continue
            try:
                found = reader.configured(place.selector, place.name, place.file)
            except InputError:
                continue  # a place that is gone is told elsewhere
            yield from _strays(subject, value, found)


def _strays(subject: Subject, value: DeclaredValue, found: Sequence[Configured]) -> Iterator[Stray]:
    shipped = {item.flavor.casefold(): item.value for item in found if item.ships}
    alike: dict[str, Counter[str | None]] = defaultdict(Counter)
    for item in found:
        if not item.ships and item.flavor.casefold() in shipped:
            alike[build_type(item.name, item.flavor)][_relation(item, shipped)] += 1
    takers: dict[tuple[str, int], set[str]] = defaultdict(set)
    for item in found:
        for spot in (item.value.place, *(piece.place for piece in item.value.pieces if piece.place)):
            takers[spot.file, spot.start].add(item.name)
    for item in found:
        beside = shipped.get(item.flavor.casefold())
        if item.ships or beside is None:
            continue
        counted = alike[build_type(item.name, item.flavor)]
        text = _expected(item, counted, shipped)
        if text != item.value.text:
            yield Stray(
                subject,
                item.flavor,
                item.name,
                "",
                "value",
                item.value,
                text,
                beside,
                value.name,
                value.secret,
                takers,
            )


def _expected(item: Configured, counted: Counter[str | None], shipped: Mapping[str, Value]) -> str:
    """Return what a configuration should say; itself where it does not say what is another flavor's.

    A value that no flavor ships (a server on one's own machine) may well be meant so.
    """
    beside, text = shipped[item.flavor.casefold()], item.value.text
    others = {flavor: value.text for flavor, value in shipped.items() if flavor != item.flavor.casefold()}
    theirs = text in others.values() and beside.text not in others.values()
    named = any(flavor and flavor in text.casefold() for flavor in others)
    if _relation(item, shipped) is not None or not (theirs or named):
        return text
    forms = [form for form, _ in counted.most_common() if form is not None]
    if forms:
        return forms[0].replace("{}", beside.text, 1).replace("{flavor}", item.flavor)
    return beside.text if theirs else text


def _relation(item: Configured, shipped: Mapping[str, Value]) -> str | None:
    """Return how a value stands to the one that ships, or to its flavor's name: that in braces; None for another."""
    whole = shipped[item.flavor.casefold()].text
    before, held, after = item.value.text.partition(whole)
    if whole and held and "{" not in before + after:
        return f"{before}{{}}{after}"
    named = bool(item.flavor) and item.flavor in item.value.text and "{" not in item.value.text
    return item.value.text.replace(item.flavor, "{flavor}") if named else None
