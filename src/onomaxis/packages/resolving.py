"""Values of resources, followed to their end: through references, in the default configuration or in a language.

Source: developer.android.com, "App resources overview" (how the best-matching resource is found).
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from onomaxis.formats.binary.values import REFERENCE, Config, Resources, Typed

# References that lead on further than this lead in a circle.
_FARTHEST = 24


class Resolver:
    """The tables of a package as one; where several have a resource in one configuration, the first counts."""

    def __init__(self, tables: Sequence[Resources]) -> None:
        self._tables = tables

    def values(self, identifier: int) -> list[tuple[Config, Typed]]:
        """Return the values of a resource in every configuration."""
        found: dict[tuple[Config, int], tuple[Config, Typed]] = {}
        for table in self._tables:
            for number, (config, value) in enumerate(table.values(identifier)):
                found.setdefault((config, number if config.more else 0), (config, value))
        return list(found.values())

    def end(self, value: Typed | None, locale: str = "") -> Typed | None:
        """Follow a value to what it stands for. None where it leads nowhere, or in a circle."""
        for _ in range(_FARTHEST):
            if value is None or not value.refers:
                return value
            value = self._best(value.data, locale)
        return None

    def text(self, value: Typed | None, locale: str = "") -> str | None:
        """Return what a value says, as text."""
        end = self.end(value, locale)
        return end.shown() if end is not None else None

    def languages(self, value: Typed | None) -> Iterator[str]:
        """Yield the languages in which something on the way has a value of its own."""
        pending = [value.data] if value is not None and value.refers else []
        seen: set[int] = set()
        while pending:
            identifier = pending.pop()
            if identifier in seen or len(seen) > _FARTHEST:
                continue
            seen.add(identifier)
            for config, inner in self.values(identifier):
                if config.locale and not config.more:
                    yield config.locale
                if inner.refers:
                    pending.append(inner.data)

    def resource(self, kind: str, name: str) -> str | None:
        """Return a resource as text, in the default configuration; None where there is none of that name."""
        for table in self._tables:
            found = table.named(kind, frozenset((name,)))
            if name in found:
                return self.text(Typed(REFERENCE, found[name]))
        return None

    def strings(self, names: frozenset[str]) -> dict[str, str]:
        """Return the strings of some names, in the default configuration."""
        found: dict[str, str] = {}
        for table in self._tables:
            for name, identifier in table.named("string", names).items():
                text = self.text(Typed(REFERENCE, identifier))
                if text is not None:
                    found.setdefault(name, text)
        return found

    def _best(self, identifier: int, locale: str) -> Typed | None:
        found = self.values(identifier)
        ranked = sorted(found, key=lambda item: _rank(item[0], locale))
        return ranked[0][1] if ranked and _rank(ranked[0][0], locale)[0] < _OTHER else None


_OTHER = 9


def _rank(config: Config, locale: str) -> tuple[int, bool, int, int]:
    """Rank a configuration: the language asked for, its parents, none; then what is for all devices."""
    parents = [locale.rsplit("-", cut)[0] for cut in range(locale.count("-") + 1)] if locale else []
    far = parents.index(config.locale) if config.locale in parents else _OTHER - 1 if not config.locale else _OTHER
    return far, config.more, config.level, config.density
