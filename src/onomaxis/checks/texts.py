"""Rules about the texts of a store listing: length and form, one brand's name in another's, missing languages.

Sources of the limits: Play Console Help, "Create and set up your app" and "Best practices for your store listing";
App Store Connect Help, "App information", "Platform version information".
"""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping
from typing import NamedTuple

from onomaxis import late
from onomaxis.brands.subjects import Subject
from onomaxis.checks.context import Context, called
from onomaxis.checks.finding import Finding, rule
from onomaxis.checks.listing_files import ListingText, listing_texts
from onomaxis.checks.registry import check
from onomaxis.flavor_names import flavor_word
from onomaxis.identity.file import SCREENSHOTS, Brand, IdentityFile
from onomaxis.projects.siblings import majority
from onomaxis.surveys.flavors import flavors_of
from onomaxis.surveys.halves import home_of

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
_NEEDED = ("title", "short", "full")
_ONE_LINE = ("title", "subtitle", "short", "keywords")
_EMOJI = late.compile("[\U0001f000-\U0001faff\u2600-\u27bf\ufe0f]")


class _Text(NamedTuple):
    """One text of a listing: of which flavor and platform, in which language, what it is, what it says and where."""

    subject: Subject
    flavor: str
    language: str
    key: str
    text: str
    spot: tuple[tuple[str, int], ...]

    @property
    def label(self) -> str:
        """As a message speaks of it."""
        return f"{called(self.subject.platform, self.flavor)}, {self.language}: {self.key}"


@check(LENGTH, TITLE, OTHERS, LANGUAGE, FORM)
def check_texts(context: Context) -> Iterator[Finding]:
    """Check the listing of every flavor on its platforms: what the identity file says, what folders of texts say."""
    told = [text for item in context.spoken() for text in _texts(context, *item)]
    kept = _kept(context)
    texts = [*told, *kept.values()]
    for text in texts:
        yield from _form(text)
        yield from _title(text)
        yield from _others(text, texts)
    if context.file is not None:
        yield from _languages(context, context.file, told)
    yield from _languages_of_folders(kept)


def _texts(context: Context, subject: Subject, flavor: str, brand: Brand) -> Iterator[_Text]:
    for language, table in brand.listing.items():
        for key, said in table.items():
            if key in _LONGEST[subject.platform]:
                yield _Text(subject, flavor, language, key, said.text, context.spot(said))


def _kept(context: Context) -> dict[ListingText, _Text]:
    """Return the texts of folders with whose they are.

    Delivery scripts lay an empty file for what a store can do without: that is not text.
    """
    texts = [item for item in listing_texts(context.tree) if item.text.strip() or item.key in _NEEDED]
    whose = {root: _whose(context, *root) for root in {(item.root, item.platform) for item in texts}}
    return {
        item: _Text(owner[0], owner[1], item.language, item.key, item.text, ((item.path, 1),))
        for item in texts
        if (owner := whose[item.root, item.platform]) is not None
    }


def _whose(context: Context, root: str, platform: str) -> tuple[Subject, str] | None:
    """Return whose a listing's folder is: the app's that lies nearest, the flavor's that its path names."""
    homes = [(home_of(context.projects, s.project), s) for s in context.subjects if s.platform == platform]
    around = [(home, s) for home, s in homes if not home or f"{root}/".startswith(f"{home}/")]
    nearest = max((len(home) for home, _ in around), default=0)
    mine = [subject for home, subject in around if len(home) == nearest]
    if len(mine) != 1:
        return None
    known = [*mine[0].flavors, *flavors_of(context.projects), *(context.file.flavors if context.file else ())]
    return mine[0], max((name for name in known if flavor_word(name).search(root)), key=len, default="")


def _form(text: _Text) -> Iterator[Finding]:
    longest = _LONGEST[text.subject.platform][text.key]
    length = len(text.text.strip())
    if length > longest:
        yield Finding(LENGTH, f"{text.label} has {length} characters, {longest} are taken", text.spot, text.flavor)
    if not length:
        yield Finding(FORM, f"{text.label} is empty", text.spot, text.flavor)
    elif text.key in _ONE_LINE and re.search(r"[\r\n\t]", text.text.strip("\r\n")):
        yield Finding(FORM, f"{text.label} has several lines", text.spot, text.flavor)
    elif text.key in ("title", "short") and text.subject.platform == "android" and _EMOJI.search(text.text):
        yield Finding(FORM, f"{text.label} holds an emoji", text.spot, text.flavor)


def _title(text: _Text) -> Iterator[Finding]:
    if text.key != "title" or not text.text.strip():
        return
    app = next(iter(text.subject.of(text.flavor)), None)
    names = text.subject.names(text.flavor)
    local = names.get(text.language) or names.get(text.language.partition("-")[0]) or ""
    local = local or (app.name.text if app is not None and app.name is not None else "")
    if local and local.casefold() not in text.text.casefold():
        said = f"{text.label} is “{text.text.strip()}”, the app is called “{local}”"
        yield Finding(TITLE, said, text.spot, text.flavor)


def _others(text: _Text, texts: list[_Text]) -> Iterator[Finding]:
    """Look for other brands' names; a name that is a part of the flavor's own is its own."""
    own = {text.flavor.casefold(), *_names(text.subject, text.flavor)}
    for flavor in dict.fromkeys(item.flavor for item in texts if item.flavor and item.flavor != text.flavor):
        for name in {flavor.casefold(), *_names(text.subject, flavor)} if text.flavor else ():
            mine = any(name in item for item in own if item)
            if len(name) > 2 and not mine and re.search(rf"(?<!\w){re.escape(name)}(?!\w)", text.text.casefold()):
                yield Finding(OTHERS, f"{text.label} names {flavor}", text.spot, text.flavor)
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


def _languages_of_folders(kept: Mapping[ListingText, _Text]) -> Iterator[Finding]:
    """Compare the languages of the app's own listing with each other; flavors' files are compared as all theirs are.

    What is new is each release's, and not compared.
    """
    own = {item: text for item, text in kept.items() if not text.flavor and item.key != "notes"}
    for root in dict.fromkeys(item.root for item in own):
        languages: dict[str, dict[str, _Text]] = defaultdict(dict)
        for item, text in own.items():
            if item.root == root:
                languages[item.language][item.key] = text
        counted = Counter(key for keys in languages.values() for key in keys)
        for language, keys in languages.items():
            lacking = [key for key, number in counted.items() if key not in keys and majority(number, languages)]
            if lacking:
                first = next(iter(keys.values()))
                said = f"{called(first.subject.platform, '')}, {language}: no {', '.join(lacking)}"
                yield Finding(LANGUAGE, said, first.spot)
