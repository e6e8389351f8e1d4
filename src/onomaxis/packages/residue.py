"""What belongs to other brands, sought in every file of a package.

An ID, a host, a name, a service's value or a scheme counts as another brand's where it stands alone: no letter,
digit, ``_``, ``-`` or dotted part joins it to something longer that is known. Of IDs the longest known one counts: a
class of the project's own code package is none, an ID of a brand below that package is.
"""

from __future__ import annotations

import contextlib
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import NamedTuple

from onomaxis import late
from onomaxis.brands.readings import value_spot
from onomaxis.checks import packaged as rules
from onomaxis.checks.context import Context
from onomaxis.checks.finding import Finding
from onomaxis.errors import InputError
from onomaxis.flavor_names import made_of, same_flavor
from onomaxis.identity.schema import OWED
from onomaxis.model import Facet
from onomaxis.packages.expected import Expected, every_app
from onomaxis.packages.facts import Package, place
from onomaxis.packages.search import LEAST, Search
from onomaxis.packages.service_values import android_service, apple_service
from onomaxis.packages.texts import is_silent, texts
from onomaxis.projects.services import GOOGLE_ANDROID, GOOGLE_IOS, read_service
from onomaxis.tree import Tree

# A file that is larger is searched through, but taken apart no more: its texts' borders are guessed.
_LARGE = 64 * 1024 * 1024
_COMMON_SCHEMES = frozenset({"http", "https", "file", "content", "mailto", "tel", "sms", "geo", "market", "data"})


class Mark(NamedTuple):
    """A text that is one brand's own: what it is, and whose."""

    text: str
    kind: str
    flavor: str


@dataclass(frozen=True)
class Marks:
    """What to seek in a package, and the longer texts that are its own."""

    others: tuple[Mark, ...]
    own: frozenset[str]
    code: frozenset[str]
    secret: frozenset[str] = field(default_factory=frozenset)


def marks_for(expected: Expected) -> Marks:
    """Return what belongs to the other brands of a project, and not to this one."""
    every: dict[str, set[tuple[str, str]]] = {}
    own: set[str] = set()
    base = expected.context
    named = base.file.flavors if base.file is not None else ()
    services = _services(base.tree)
    singles = frozenset({*named, *(flavor for subject in base.subjects for flavor in subject.flavors)})
    for item in every_app(base):
        mine = _is_mine(item.flavor, expected, singles)
        if item.alone and not item.flavor:  # what no build tells apart from its flavors
            own |= {text for text, _ in _texts_of(item, services)}
        if not item.flavor and not item.subject.ships_alone and expected.flavor:
            continue
        if not item.flavor and expected.flavor and not expected.app.flavor:
            continue  # of a template the app itself is not a brand: its sources say what the last stamp left
        if item.alone and not mine and _is_of_all(item):
            continue
        found = set(_texts_of(item, services))
        if mine:
            own |= {text for text, _ in found}
        else:
            every.setdefault(item.flavor, set()).update(found)
    own |= {text for text, _ in _texts_of(expected, services)}
    told = {text for found in every.values() for text, _ in found}
    every.setdefault("", set()).update(pair for pair in _of_base(expected) if pair[0] not in told)
    code = {
        entry.value
        for project in base.projects
        for entry in project.identifiers
        if entry.facet in (Facet.CODE_PACKAGE, Facet.NAMESPACE)
    }
    secret = {item.name for item in (base.file.values if base.file is not None else ()) if item.secret}
    once: dict[tuple[str, bool], dict[str, Mark]] = {}
    for flavor, found in every.items():
        for text, kind in sorted(found, key=lambda pair: (pair[0], _order(pair[1]), pair[1])):
            if text not in own:
                once.setdefault((text, kind == "scheme"), {}).setdefault(flavor, Mark(text, kind, flavor))
    marks = [mark for alike in once.values() for mark in _shared(base, alike)]
    marks.append(Mark(OWED, "mark", ""))
    return Marks(
        tuple(sorted(marks, key=lambda mark: (-len(mark.text), mark))),
        frozenset(own),
        frozenset(code),
        frozenset(secret),
    )


def _is_of_all(item: Expected) -> bool:
    """Tell whether a flavor is called as the app is, by the identity file: it varies a tier, or an environment."""
    file, brand = item.context.file, item.brand
    return file is None or brand is None or brand.get("name") == file.brand("", item.platform).get("name")


def _shared(context: Context, alike: Mapping[str, Mark]) -> Iterable[Mark]:
    """Return one mark for what several combinations share that one flavor is in, else each flavor's own."""
    common = context.common(tuple(alike))
    first = min(alike.values(), key=lambda mark: (_order(mark.kind), mark))
    return (first._replace(flavor=common),) if common else alike.values()


# What a text is told as, where it is several things.
_KINDS = ("ID", "host", "scheme", "name", "value", "service")


def _order(kind: str) -> int:
    return _KINDS.index(kind.partition(" ")[0])


def _is_mine(flavor: str, expected: Expected, singles: frozenset[str]) -> bool:
    """Tell whether a flavor is the package's own brand: itself, one that it is made of, one made of it.

    A tier or an environment is not a brand where the identity file lists the brands.
    """
    mine, other = made_of(expected.flavor, singles), made_of(flavor, singles)
    if same_flavor(flavor, expected.flavor) or not (mine and other):
        return same_flavor(flavor, expected.flavor)
    file = expected.context.file
    brands = {name.casefold() for name in file.flavors} if file is not None else set()
    shared = {name.casefold() for name in mine & other}
    return bool(shared & brands) or mine <= other or other <= mine


def _texts_of(item: Expected, services: Mapping[str, list[tuple[str, bytes]]]) -> Iterator[tuple[str, str]]:
    """Yield what is one app's own, and what each is."""
    for key in ("id", "name"):
        fact = item.facet(key)
        if fact is not None:
            yield fact.text, "ID" if key == "id" else "name"
    for fact in item.names.values():
        yield fact.text, "name"
    for part in item.app.parts:
        if part.id is not None:
            yield part.id.text, "ID"
    facts = item.facts if item.flavor == item.app.flavor else None
    for kind, found in (("host", facts.hosts), ("scheme", facts.schemes)) if facts is not None else ():
        yield from ((fact.text, kind) for fact in found if not {"$", "@", "*"} & set(fact.text))
    yield from _of_brand(item)
    for path, data in services.get(item.id, ()):
        found_in = android_service(data, item.id) if path.endswith(".json") else apple_service(data)
        yield from ((text, f"service value {name}") for name, text in found_in.items() if len(text) > 5)


def _services(tree: Tree) -> dict[str, list[tuple[str, bytes]]]:
    """Return the service files of a tree by the IDs that they know, path and bytes."""
    found: dict[str, list[tuple[str, bytes]]] = {}
    for path in tree.named(GOOGLE_ANDROID, GOOGLE_IOS):
        data = tree.read(path) or b""
        for app in read_service(path, data).apps:
            found.setdefault(app.id, []).append((path, data))
    return found


def _of_brand(item: Expected) -> Iterator[tuple[str, str]]:
    if item.brand is None or item.context.file is None:
        return
    for said in item.brand.hosts:
        yield said.text, "host"
    if not item.flavor:
        return
    types = {value.name: value.type for value in item.context.file.values}
    for name, said in item.brand.values.items():
        if types.get(name, "text") in ("text", "url") and _tells(said.text):
            yield said.text, f"value {name}"


def _tells(text: str) -> bool:
    """Tell whether a value is nobody's but one brand's: neither a short one nor a colour."""
    return len(text) > 5 and not text.startswith("#") and any(map(str.isalnum, text))


def _of_base(expected: Expected) -> Iterator[tuple[str, str]]:
    """Yield what the app itself has where the brand has a value of its own: the identity file's, the sources'.

    A plain word is none: the app's own name stands in packages and classes of all.
    """
    file, brand, tree = expected.context.file, expected.brand, expected.context.tree
    if file is None or brand is None or not expected.flavor:
        return
    base = file.brand("", expected.platform).values
    for value in file.values:
        mine = brand.values.get(value.name)
        if mine is None or value.type not in ("text", "url"):
            continue
        texts = [base[value.name].text] if value.name in base else []
        for where in value.places if expected.app.flavor and not expected.alone else ():
            if where.platform in ("", expected.platform) and "{flavor}" not in f"{where.file}{where.name}":
                with contextlib.suppress(InputError):  # the app itself has none
                    texts.append(value_spot(tree, file, value, where, expected.subject, where.file, "").text)
        for text in texts:
            if text != mine.text and _tells(text) and not text.isalpha() and not {"$", "@"} & set(text):
                yield text, f"value {value.name}"


def residue(package: Package, expected: Expected) -> Iterator[Finding]:
    """Yield what of other brands stands in a package: each text once, with the entries in which it stands."""
    marks = marks_for(expected)
    places: dict[Mark, list[str]] = {}
    for mark, entry in _everywhere(package, marks):
        places.setdefault(mark, []).append(entry)
    for mark, entries in places.items():
        hidden = mark.kind.removeprefix("value ") in marks.secret
        said = f"{'a secret' if hidden else f'“{mark.text}”'} is the {mark.kind} of {mark.flavor or 'the app itself'}"
        at = tuple(spot for entry in dict.fromkeys(entries) for spot in place(package, entry))
        if mark.text == OWED:
            number = f"{len(at)} files" if len(at) > 1 else "a file"
            yield Finding(rules.UNGIVEN, f"{OWED} stands in {number} of the package", at, expected.flavor)
            continue
        yield Finding(rules.RESIDUE, said, at, expected.flavor)


def _everywhere(package: Package, marks: Marks) -> Iterator[tuple[Mark, str]]:
    """Yield the marks of other brands with the entries in which they stand."""
    sought = [mark for mark in marks.others if len(mark.text) >= LEAST and _is_sought(mark)]
    schemes = {mark.text: mark for mark in marks.others if mark.kind == "scheme"}
    for scheme in dict.fromkeys((*package.schemes, *package.filtered)):
        if scheme in schemes and scheme not in marks.own:
            yield schemes[scheme], package.main
    if not sought:
        return
    needles = _needles(sought)
    search = Search(needles)
    for lead, files in package.content.layers:
        for name in files.names():
            if is_silent(files.head(name, 16)):
                continue
            found = [mark for needle in search.found_in(files.chunks(name)) for mark in needles[needle]]
            if found:
                whole = files.read(name) if files.size(name) <= _LARGE else b""
                yield from ((mark, lead + name) for mark in _in_file(lead + name, whole, found, marks))


def _is_sought(mark: Mark) -> bool:
    return mark.kind != "scheme" or mark.text not in _COMMON_SCHEMES


_ENCODINGS = ("utf-8", "utf-16-le")


def _forms(mark: Mark) -> tuple[str, ...]:
    """Return how a text is sought: a scheme only with what follows one."""
    return (f"{mark.text}://" if mark.kind == "scheme" else mark.text,)


def _needles(marks: Iterable[Mark]) -> dict[bytes, list[Mark]]:
    """Return the bytes of each text, in one byte a character and in two; a scheme only with what follows one."""
    found: dict[bytes, list[Mark]] = {}
    for mark in marks:
        for text in _forms(mark):
            for encoding in _ENCODINGS:
                found.setdefault(text.encode(encoding, "surrogatepass"), []).append(mark)
    return found


def _in_file(entry: str, data: bytes, found: list[Mark], marks: Marks) -> Iterator[Mark]:
    """Yield what of the candidates stands alone in a file; of one too large to be read, all of them."""
    if not data:
        yield from dict.fromkeys(found)
        return
    known = _known(marks)
    pending = dict.fromkeys(found)
    needles = [text.encode(form, "surrogatepass") for mark in pending for text in _forms(mark) for form in _ENCODINGS]
    for text in texts(entry, data, needles):
        for mark in [mark for mark in pending if mark.text in text]:
            of_code = mark.text in marks.code and entry.endswith(".dex")
            if not of_code and _stands_alone(mark, text, known, marks):
                del pending[mark]
                yield mark
        if not pending:
            return


def _known(marks: Marks) -> frozenset[str]:
    """Return all IDs and packages: what a dotted name can belong to."""
    return frozenset({mark.text for mark in marks.others if mark.kind == "ID"} | marks.own | marks.code)


_JOINED = late.compile(r"[A-Za-z0-9_-]")
_DOTTED = late.compile(r"[A-Za-z0-9_.-]+")


# What stands before an ID to make another of it: groups, containers, a team (Apple, "Entitlements").
_OWNED = late.compile(r"(?:group|iCloud|merchant|pass|[A-Z0-9]{10})\.")


def _stands_alone(mark: Mark, text: str, known: frozenset[str], marks: Marks) -> bool:
    """Tell whether a text stands somewhere as itself."""
    sought = f"{mark.text}://" if mark.kind == "scheme" else mark.text
    at = text.find(sought)
    while at >= 0:
        end = at + len(sought)
        before, after = text[at - 1 : at] if at else "", text[end : end + 1]
        joined = bool(_JOINED.match(before)) or (mark.kind != "scheme" and bool(_JOINED.match(after)))
        if not joined and not _belongs_elsewhere(mark, text, at, known, marks):
            return True
        at = text.find(sought, at + 1)
    return False


def _belongs_elsewhere(mark: Mark, text: str, at: int, known: frozenset[str], marks: Marks) -> bool:
    """Tell whether a text is part of something longer: the package's own, or a class of the code package."""
    if any(mine.find(mark.text) >= 0 and text.startswith(mine, at - mine.find(mark.text)) for mine in marks.own):
        return True
    if mark.kind not in ("ID", "host"):
        return False
    begin = at
    while begin and _DOTTED.match(text[begin - 1]):
        begin -= 1
    if mark.kind == "host":
        return begin < at and text[at - 1] == "." and text[begin:at].strip(".-") != "www"
    match = _DOTTED.match(text, begin)
    token = match[0].rstrip(".") if match else ""
    above = any(mine.startswith(f"{mark.text}.") for mine in marks.own)
    if begin < at and _OWNED.fullmatch(text[begin:at]) and not above:
        token = token[at - begin :]
    elif begin < at:  # a longer name ends in it: no ID begins within another
        return True
    if token != mark.text and above:
        return True  # below an ID that the package's own is below too: a task, a group that all of them share
    owner = max((one for one in known if token == one or token.startswith(f"{one}.")), key=len, default="")
    return owner != mark.text or (owner in marks.code and token != owner)
