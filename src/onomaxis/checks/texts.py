"""Rules about the texts that a store shows: their length and form, one brand's name in another's, missing languages.

Sources of the limits: Play Console Help, "Create and set up your app" and "Best practices for your store listing";
App Store Connect Help, "App information", "Platform version information".
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Mapping
from typing import NamedTuple

from onomaxis import late
from onomaxis.brands.subjects import Subject
from onomaxis.checks.context import Context, called
from onomaxis.checks.finding import Finding, rule
from onomaxis.checks.registry import check
from onomaxis.identity.file import SCREENSHOTS, Brand, IdentityFile, Said

LENGTH = rule("LIST04")
TITLE = rule("LIST05")
OTHERS = rule("LIST06")
LANGUAGE = rule("LIST07")
FORM = rule("LIST08")

# Characters (code points) that each store takes of a text; None where it has no such text.
_LONGEST: Mapping[str, Mapping[str, int]] = {
    "android": {"title": 30, "short": 80, "full": 4000, "notes": 500},
    "ios": {"title": 30, "subtitle": 30, "promotion": 170, "full": 4000, "notes": 4000, "keywords": 100},
}
_ONE_LINE = ("title", "subtitle", "short", "keywords")
_EMOJI = late.compile("[\U0001f000-\U0001faff\u2600-\u27bf\ufe0f]")


class _Text(NamedTuple):
    """One text of a listing: of which flavor and platform, in which language, what it is."""

    subject: Subject
    flavor: str
    language: str
    key: str
    said: Said

    @property
    def label(self) -> str:
        """As a message speaks of it."""
        return f"{called(self.subject.platform, self.flavor)}, {self.language}: {self.key}"


@check(LENGTH, TITLE, OTHERS, LANGUAGE, FORM)
def check_texts(context: Context) -> Iterator[Finding]:
    """Check the listing of every flavor on its platforms."""
    file = context.file
    if file is None:
        return
    texts = [text for item in context.spoken() for text in _texts(*item)]
    for text in texts:
        yield from _form(file, text)
        yield from _title(file, text)
        yield from _others(file, text, texts)
    yield from _languages(context, file, texts)


def _texts(subject: Subject, flavor: str, brand: Brand) -> Iterator[_Text]:
    for language, table in brand.listing.items():
        for key, said in table.items():
            if key in _LONGEST[subject.platform]:
                yield _Text(subject, flavor, language, key, said)


def _form(file: IdentityFile, text: _Text) -> Iterator[Finding]:
    longest = _LONGEST[text.subject.platform][text.key]
    length = len(text.said.text.strip())
    spot = ((file.home(text.said.line), text.said.line),)
    if length > longest:
        yield Finding(LENGTH, f"{text.label} has {length} characters, {longest} are taken", spot, text.flavor)
    if not length:
        yield Finding(FORM, f"{text.label} is empty", spot, text.flavor)
    elif text.key in _ONE_LINE and re.search(r"[\r\n\t]", text.said.text.strip("\n")):
        yield Finding(FORM, f"{text.label} has several lines", spot, text.flavor)
    elif text.key in ("title", "short") and text.subject.platform == "android" and _EMOJI.search(text.said.text):
        yield Finding(FORM, f"{text.label} holds an emoji", spot, text.flavor)


def _title(file: IdentityFile, text: _Text) -> Iterator[Finding]:
    if text.key != "title":
        return
    app = next(iter(text.subject.of(text.flavor)), None)
    name = app.name if app is not None else None
    local = text.subject.names(text.flavor).get(text.language) or (name.text if name is not None else "")
    if local and local.casefold() not in text.said.text.casefold():
        said = f"{text.label} is “{text.said.text}”, the app is called “{local}”"
        yield Finding(TITLE, said, ((file.home(text.said.line), text.said.line),), text.flavor)


def _others(file: IdentityFile, text: _Text, texts: list[_Text]) -> Iterator[Finding]:
    """Look for other brands' names; a name that is a part of the flavor's own is its own."""
    own = {text.flavor.casefold(), *_names(text.subject, text.flavor)}
    for flavor in dict.fromkeys(item.flavor for item in texts if item.flavor and item.flavor != text.flavor):
        for name in {flavor.casefold(), *_names(text.subject, flavor)} if text.flavor else ():
            mine = any(name in item for item in own if item)
            if (
                len(name) > 2
                and not mine
                and re.search(rf"(?<!\w){re.escape(name)}(?!\w)", text.said.text.casefold())
            ):
                said = f"{text.label} names {flavor}"
                yield Finding(OTHERS, said, ((file.home(text.said.line), text.said.line),), text.flavor)
                return


def _names(subject: Subject, flavor: str) -> set[str]:
    app = next(iter(subject.of(flavor)), None)
    main = subject.value("", "name")
    shared = main.text.casefold() if main is not None else ""
    names = {value.text.casefold() for value in (app.name, *(v for _, v in app.names)) if value} if app else set()
    return names - {shared, ""}


def _pictured(file: IdentityFile, subject: Subject, flavor: str) -> set[tuple[str, str]]:
    """Return the languages in which a listing has pictures, and which."""
    listing = file.variant(flavor, subject.singles, subject.platform).listing
    return {
        (language, key.partition("/")[0])
        for language, table in listing.items()
        for key in table
        if key in ("store-icon", "feature") or key.startswith(SCREENSHOTS)
    }


def _languages(context: Context, file: IdentityFile, texts: list[_Text]) -> Iterator[Finding]:
    for subject in context.named:
        mine = [item for item in texts if item.subject is subject]
        having = {
            flavor: {(i.language, i.key) for i in mine if i.flavor == flavor} | _pictured(file, subject, flavor)
            for flavor in context.flavored(subject)
        }
        having = {flavor: found for flavor, found in having.items() if flavor or len(having) == 1}
        counted = Counter(item for found in having.values() for item in found)
        for flavor, found in having.items():
            lacking = sorted(
                item for item, number in counted.items() if number * 2 >= len(having) and item not in found
            )
            if lacking:
                listed = ", ".join(f"{key} in {language}" for language, key in lacking[:3])
                more = f" and {len(lacking) - 3} more" if len(lacking) > 3 else ""
                line = file.line("flavors", file.named(flavor)) if flavor else 1
                said = f"{called(subject.platform, flavor)} has no {listed}{more}"
                yield Finding(LANGUAGE, said, ((file.home(line), line),), flavor)
