"""Names of flavors, and of what several of them make together: whatever a build puts between them."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from functools import cached_property, lru_cache
from types import MappingProxyType

from onomaxis import late


def same_flavor(one: str, other: str) -> bool:
    """Tell whether two flavor names mean the same one: Gradle and Xcode projects often differ in case alone."""
    return one.casefold() == other.casefold()


def flavor_word(flavor: str) -> re.Pattern[str]:
    """Return what finds a flavor in a name: as a word of its own in any case, or as a part of one in camel case."""
    big = re.escape(flavor[:1].upper() + flavor[1:])
    whole = rf"(?<![A-Za-z0-9])(?i:{re.escape(flavor)})(?![a-z0-9])"
    return re.compile(rf"{whole}|(?<=[a-z0-9]){big}(?![a-z0-9])")


# What builds put between the flavors of a combination: nothing but a capital, or one of these.
_BETWEEN = "-_. "
_WORD = late.compile(r"[A-Z]+(?![a-z])|[A-Z]?[^A-Z\-_. ]+")


class Singles(tuple[str, ...]):
    """Flavors of one dimension each; it keeps what combinations it was asked for are made of.

    ``ranks`` tell the place of a flavor's dimension, by its name in small letters, where a build says it.
    """

    ranks: Mapping[str, int] = MappingProxyType({})

    @cached_property
    def by_fold(self) -> dict[str, str]:
        """The flavors by their names in small letters."""
        return _by_fold(self)

    @cached_property
    def _made(self) -> dict[str, frozenset[str]]:
        return {}

    def parts(self, shipped: str) -> frozenset[str]:
        """Return the flavors that a combination is made of, itself where it is one of them."""
        if shipped not in self._made:
            self._made[shipped] = _parts(shipped, self.by_fold)
        return self._made[shipped]


def made_of(shipped: str, known: Iterable[str]) -> frozenset[str]:
    """Return the flavors of *known* that a shipped combination is made of: itself, or several in a row.

    Source: developer.android.com, "Configure build variants": names stand in a row, capitals from the second on.
    Configurations of Xcode have dashes, underscores, points or blanks between.
    """
    return known.parts(shipped) if isinstance(known, Singles) else _parts(shipped, _by_fold(known))


def selects(asked: str, shipped: str, known: Iterable[str]) -> bool:
    """Tell whether what is shipped is the flavor that is asked for, or a combination with all that is asked for.

    *asked* may be a combination itself, its flavors in any order; of *known* what is a combination itself counts as
    the flavors that it is made of.
    """
    if same_flavor(asked, shipped):
        return True
    known = known if isinstance(known, Singles) else singles(known)
    parts = known.parts(asked)
    return bool(parts) and parts <= known.parts(shipped)


def in_order(shipped: str, known: Iterable[str]) -> list[str]:
    """Return the flavors that a shipped combination is made of, the one that wins first.

    That is the one whose dimension a build says first; where none says it, the one in front.
    """
    ranks = known.ranks if isinstance(known, Singles) else {}
    fold = shipped.casefold()
    return sorted(
        made_of(shipped, known), key=lambda name: (ranks.get(name.casefold(), len(ranks)), fold.find(name.casefold()))
    )


def combined(flavors: Iterable[str]) -> str:
    """Return what several flavors are called together, as Gradle calls it; one is called as it is."""
    first, *others = (*flavors, "")
    return first + "".join(name[:1].upper() + name[1:] for name in others)


def usual_name(name: str, known: Iterable[str]) -> str:
    """Return what a flavor, or a combination in whatever form a build calls it, is called in an identity file."""
    return combined(in_order(name, known)) or name


def singles(names: Iterable[str], declared: Iterable[str] = ()) -> Singles:
    """Return the flavors of one dimension each that names are made of, in order, after those that are *declared*.

    A name that others make together is none, unless a build declares it. Where names are combinations throughout
    (``alderbankStaging``, ``alderbankProduction``, ``mossgateStaging`` and so on), what they are made of is told by
    what comes back.
    """
    return _singles(each_once(names), each_once(declared))


@lru_cache(maxsize=256)
def _singles(names: tuple[str, ...], declared: tuple[str, ...]) -> Singles:
    by_fold, fixed = _by_fold([*declared, *names]), _by_fold(declared)
    plain = [name for fold, name in by_fold.items() if fold in fixed or not _is_made(name, fold, by_fold)]
    pairs = _product([name for name in plain if name.casefold() not in fixed and len(words_of(name)) > 1])
    tails = [pairs[name][1] for name in plain if name in pairs]
    whole = each_once([*(pairs[name][0] if name in pairs else name for name in plain), *tails])
    return Singles(whole) if whole == tuple(by_fold.values()) else _singles(whole, declared)


def _is_made(name: str, fold: str, by_fold: Mapping[str, str]) -> bool:
    """Tell whether others make a name together."""
    return len(_parts(name, by_fold, but=fold)) > 1


def each_once(names: Iterable[str]) -> tuple[str, ...]:
    """Return names without those that differ from one before them in case alone, and without empty ones."""
    return tuple(_by_fold(name for name in names if name).values())


def _by_fold(names: Iterable[str]) -> dict[str, str]:
    found: dict[str, str] = {}
    for name in names:
        found.setdefault(name.casefold(), name)
    return found


def words_of(name: str) -> list[str]:
    """Return the words of a name in camel case, or with something between."""
    return _WORD.findall(name)


def _product(names: Sequence[str]) -> dict[str, tuple[str, str]]:
    """Return what names are made of, where each of some heads stands before each of some tails; nothing elsewhere.

    At least two of both are asked for, and three of four combinations: some may not be built. Of several ways to cut
    the names the one that tells most of them is taken.
    """
    ways = ((1, False), (1, True), (2, False), (2, True))
    return max((_crossed(names, number, front) for number, front in ways), key=len)


def _crossed(names: Sequence[str], number: int, front: bool) -> dict[str, tuple[str, str]]:
    every = {name: _cut(name, number, front) for name in names if len(words_of(name)) > number}
    core = list(every.values())
    while core:  # what comes once alone on either side makes no dimension
        heads, tails = (Counter(pair[side].casefold() for pair in core) for side in (0, 1))
        kept = [pair for pair in core if heads[pair[0].casefold()] > 1 and tails[pair[1].casefold()] > 1]
        if len(kept) == len(core):
            if len(core) * 4 < len(heads) * len(tails) * 3:
                return {}
            return {name: pair for name, pair in every.items() if pair[front].casefold() in (heads, tails)[front]}
        core = kept
    return {}


def _cut(name: str, number: int, front: bool) -> tuple[str, str]:
    """Cut a name before its last words, or behind its first ones."""
    words = words_of(name)
    lead = words[:number] if front else words[:-number]
    at = 0
    for word in lead:
        at = name.index(word, at) + len(word)
    tail = name[at:].lstrip(_BETWEEN)
    return name[:at], tail[:1].lower() + tail[1:] if name[at : at + 1] not in _BETWEEN else tail


# A longer name is not a combination that people gave: nothing is looked for in it.
_LONGEST = 200


def _parts(text: str, by_fold: Mapping[str, str], but: str = "") -> frozenset[str]:
    fold = text.casefold()
    cuts = [at for at in range(1, len(text)) if text[at] in _BETWEEN or text[at].isupper()]
    if not cuts or len(text) > _LONGEST:
        return frozenset({by_fold[fold]}) if fold in by_fold and fold != but else frozenset()
    known: dict[int, frozenset[str]] = {}  # what the rest from a position on is made of, told once

    def rest(start: int) -> frozenset[str]:
        if start not in known:
            known[start] = told(start)
        return known[start]

    def told(start: int) -> frozenset[str]:
        fold = text[start:].casefold()
        whole = by_fold.get(fold)
        if whole is not None and fold != but:
            return frozenset({whole})
        for at in reversed(cuts):  # the longest name first
            name = by_fold.get(text[start:at].casefold()) if at > start else None
            inner = rest(at + (text[at] in _BETWEEN)) if name else frozenset[str]()
            if name and inner:
                return inner | {name}
        return frozenset()

    return rest(0)
