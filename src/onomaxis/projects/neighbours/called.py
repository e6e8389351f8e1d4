"""How texts speak of flavors: by their IDs, by what they are shown as, by their names in any case."""

from __future__ import annotations

import contextlib
import re
from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import cached_property
from typing import NamedTuple

from onomaxis.errors import FormatError
from onomaxis.formats.escapes import encode
from onomaxis.projects.occurrences import language_of


class Called(NamedTuple):
    """A flavor as texts speak of it: its name, its ID on each platform, what it is shown as."""

    name: str
    ids: Mapping[str, str]
    shown: str

    def said_as(self, kind: str) -> str:
        """Return what the flavor is called in a way of speaking: a platform, ``shown`` or ``name``."""
        return {"name": self.name, "shown": self.shown}.get(kind) or self.ids.get(kind, "")


class Span(NamedTuple):
    """A stretch of a text that speaks of a flavor, and in which way: a platform (its ID), ``shown``, ``name``."""

    start: int
    end: int
    flavor: str
    kind: str


def snake(name: str) -> str:
    """Return a flavor's name as Dart files are called."""
    return re.sub(r"(?<=[a-z0-9])(?=[A-Z])", "_", name).lower()


def spelled(old: str, new: str) -> str:
    """Return a name with capitals as another one has them."""
    if old.isupper() and len(old) > 1:
        return new.upper()
    return new[:1].upper() + new[1:] if old[:1].isupper() else new


# What stands in front of an ID in names made of it (Apple, "App Groups Entitlement", "iCloud Container Identifiers
# Entitlement", "Merchant IDs Entitlement").
_GROUPS = r"(?<=\bgroup\.)|(?<=\biCloud\.)|(?<=\bmerchant\.)"


# A name ends before a capital, and before a build type (developer.android.com, "Configure build variants").
_ENDS = r"(?![a-z0-9])|(?=(?:debug|release|profile)(?![A-Za-z0-9]))"


class Names:
    """Finds flavors in texts. What several are shown as, or what is shown of the app itself, tells none apart."""

    def __init__(self, flavors: Sequence[Called], path: str = "", title: Callable[[str], str] | None = None) -> None:
        """*path* tells how a shown name is written; a *title* given says it instead."""
        self.flavors = {item.name: item for item in flavors}
        self.path = path
        self._title = title

    @cached_property
    def _shown(self) -> dict[str, str]:
        counted = Counter(item.shown for item in self.flavors.values() if item.shown)
        once = {item.shown: item.name for item in self.flavors.values() if counted[item.shown] == 1}
        forms = {form: name for shown, name in once.items() for form in self._forms(shown)}
        return forms

    def _forms(self, shown: str) -> set[str]:
        if self._title is not None:
            return {self._title(shown)}
        found = {shown}
        for quote in ("", '"', "'"):
            with contextlib.suppress(FormatError):  # this file cannot say it there
                found.add(title(shown, self.path, quote))
        return found

    @cached_property
    def _ids(self) -> dict[str, tuple[str, str]]:
        every = [id_ for item in self.flavors.values() for id_ in item.ids.values() if id_]
        found: dict[str, tuple[str, str]] = {}
        for item in self.flavors.values():
            for platform, id_ in item.ids.items():
                if id_ and not any(other.startswith(f"{id_}.") for other in every):  # another goes on from it
                    found.setdefault(id_, (item.name, platform))
        return found

    @cached_property
    def _points(self) -> dict[str, str]:
        """What entry points are called after flavors (docs.flutter.dev, "Set up Flutter flavors")."""
        return {f"main_{snake(name)}.dart": name for name in self.flavors}

    @cached_property
    def _fold(self) -> dict[str, str]:
        return {name.casefold(): name for name in self.flavors}

    @cached_property
    def _pattern(self) -> re.Pattern[str]:
        def one_of(texts: Sequence[str]) -> str:
            return "|".join(re.escape(text) for text in sorted(texts, key=len, reverse=True)) or "(?!)"

        names = list(self.flavors)
        big = [name[:1].upper() + name[1:] for name in names]
        return re.compile(
            rf"(?P<id>(?:(?<![\w.-])|{_GROUPS})(?:{one_of([*self._ids])})(?![\w-]))"
            rf"|(?P<shown>(?<!\w)(?:{one_of([*self._shown])})(?!\w))"
            rf"|(?P<point>\b(?:{one_of([*self._points])}))"
            rf"|(?P<name>(?:(?<![A-Za-z0-9])(?i:{one_of(names)})|(?<=[a-z0-9])(?:{one_of(big)}))(?:{_ENDS}))"
        )

    def spans(self, text: str) -> Iterator[Span]:
        """Yield what speaks of flavors in a text, in order."""
        for match in self._pattern.finditer(text):
            kind, said = str(match.lastgroup), match[0]
            if kind == "id":
                flavor, kind = self._ids[said]
            elif kind == "shown":
                flavor = self._shown[said]
            else:
                flavor = self._points[said] if kind == "point" else self._fold[said.casefold()]
            yield Span(match.start(), match.end(), flavor, kind)

    def written(self, text: str, span: Span, new: Called) -> str:
        """Return what stands in a span's place for another flavor; the text itself where that is called nothing."""
        said = text[span.start : span.end]
        if span.kind == "name":
            return spelled(said, new.name)
        if span.kind == "point":
            return f"main_{snake(new.name)}.dart"
        called = new.said_as(span.kind)
        if not called:
            return said
        if span.kind != "shown":
            return called
        if self._title is not None:
            return self._title(called)
        return title(called, self.path, text[span.start - 1 : span.start])

    def renamed(self, text: str, model: str, new: Called) -> str:
        """Return a text that speaks of *model* as it speaks of *new*."""
        return self._filled(text, lambda span: self.written(text, span, new) if span.flavor == model else None)

    def renamed_part(self, text: str, start: int, end: int, model: str, new: Called) -> str:
        """Return a stretch of a text, renamed; a quote before it tells how a name is written."""
        before = max(0, start - 1)
        return self.renamed(text[before:end], model, new)[start - before :]

    def braced(self, text: str, flavor: str) -> str:
        """Return a text with what it says of a flavor in braces: alike for all that say the same of themselves."""
        return self._filled(text, lambda span: f"{{{span.kind}}}" if span.flavor == flavor else None)

    def _filled(self, text: str, put: Callable[[Span], str | None]) -> str:
        parts, at = [], 0
        for span in self.spans(text):
            said = put(span)
            if said is not None:
                parts += [text[at : span.start], said]
                at = span.end
        return "".join([*parts, text[at:]])


def renamed(text: str, model: Called, new: Called, title: Callable[[str], str] | None = None) -> str:
    """Return the text of an entry for another flavor.

    What a flavor is shown as belongs into titles alone: *title* tells how it is written there.
    """
    return Names([model if title is not None else model._replace(shown="")], "", title or str).renamed(
        text, model.name, new
    )


# How a text is written where no quotes stand around it, by the file's ending.
_BARE = (
    (".properties", "properties"),
    (".xcconfig", "xcconfig"),
    (".plist", "xml-text"),
    (".html", "xml-text"),
    (".entitlements", "xml-text"),
    (".yaml", "yaml"),
    (".yml", "yaml"),
)
_JSON = (".json", ".webmanifest", ".arb", ".xcstrings")


def title(text: str, path: str, quote: str) -> str:
    """Return how a shown name is written in a file behind a quote, or behind none."""
    if path.endswith(".xml"):
        syntax = {'"': "xml-double", "'": "xml-single"}.get(quote, "android-text" if "/res/" in path else "xml-text")
    elif path.endswith(_JSON):
        syntax = "json"
    elif quote in ("'", '"'):
        language = language_of(path)
        styles = [style for style in language.strings if style.opening == quote] if language is not None else []
        plain = "double" if quote == '"' else "single"
        syntax = (styles[0].syntax or plain) if styles else plain
    else:
        syntax = next((known for ending, known in _BARE if path.endswith(ending)), "raw")
    return encode(syntax, text)
