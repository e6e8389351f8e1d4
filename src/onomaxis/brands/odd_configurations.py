"""Configurations that are called otherwise than their siblings: one build type of a flavor has another ID or name.

A build type may well differ from the one that ships, in every flavor alike (``.debug`` behind the ID): what most
flavors do is what is expected of each. Embedded products follow the app in every configuration (Apple, "Bundle IDs").
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping, Sequence, Set
from dataclasses import dataclass, field

from onomaxis.brands.subjects import FACETS, Subject
from onomaxis.flavor_names import flavor_word, same_flavor
from onomaxis.identity.file import IdentityFile
from onomaxis.model import HIDDEN_PARTS, Facet, Line, Note, Part, Piece, ShippedApp, Value
from onomaxis.projects.draft import Draft
from onomaxis.projects.literals import rewrite
from onomaxis.projects.project import build_type
from onomaxis.tree import Tree

KEYS = ("id", "name", "version", "build")
_LABELS = {
    "id": "ID",
    "name": "display name",
    "version": "version",
    "build": "build number",
    "icon": "icon",
    "profile": "provisioning profile",
}
# What belongs to configurations alone, and to no facet of a flavor: an icon set's name, a profile for an ID.
_FACETS = {"icon": Facet.ICON, "profile": Facet.BUNDLE_ID}
# What stands around the shipped value in another build type; None where it does not hold it.
_Relation = tuple[str, str] | None


@dataclass(frozen=True)
class Stray:
    """One facet of one configuration (or of *part*, embedded in it) that is not what its siblings make expected.

    ``value`` is what it is, ``beside`` the value that it was compared with. Of a value of the identity file ``named``
    is its name, ``takers`` are the configurations that take it from each place; a ``secret`` one is not shown.
    """

    subject: Subject
    flavor: str
    configuration: str
    part: str
    key: str
    value: Value
    wanted: str
    beside: Value
    named: str = ""
    secret: bool = False
    takers: Mapping[tuple[str, int], Set[str]] = field(default_factory=dict, compare=False)

    @property
    def label(self) -> str:
        """Which facet of what it is, as a message speaks of it."""
        if self.named:
            return f"value “{self.named}”"
        return f"{_LABELS[self.key]} of {self.part}" if self.part else _LABELS[self.key]

    @property
    def said(self) -> str:
        """What is wrong, in words."""
        if self.secret:
            return f"{self.configuration}: {self.label} is not what the flavor's other configurations say"
        if not self.wanted:
            both = f"{self.label} is “{self.value.text}”, that of another configuration is “{self.beside.text}”"
            return f"{self.configuration}: {both}: it is unclear which one is meant"
        return f"{self.configuration}: {self.label} is “{self.value.text}”, not “{self.wanted}”"


def strays(subject: Subject, file: IdentityFile | None = None) -> Iterator[Stray]:
    """Yield the facets of a subject's configurations that are off: from what *file* says, else from what ships."""
    flavors = [*([""] if subject.stands_alone else []), *subject.flavors]
    pairs = [(archived, other) for flavor in flavors for archived, other in _pairs(subject.of(flavor))]
    anchors = {(flavor, key): _anchor(subject, flavor, key, file) for flavor in flavors for key in KEYS}
    usual = _usual(pairs, anchors)
    for archived, other in pairs:
        for key in KEYS:
            value, beside, anchor = _value(other, key), _value(archived, key), anchors[other.flavor, key]
            if value is None or beside is None or (value.text == beside.text != anchor):
                continue  # what the flavor is called at all is not as it should be: told elsewhere
            if not other.flavor and value.text == beside.text:
                continue  # the app itself may be called the same in every build, whatever flavors append
            wanted = _expected(usual, _kind(other), key, anchor, value)
            if key == "id" and wanted == value.text == _said(subject, "", key, file):
                wanted = anchor  # the file says it of the app itself: the flavor's own was forgotten
            if wanted != value.text:
                yield Stray(subject, other.flavor, other.configuration, "", key, value, wanted, beside)
        yield from _parts(subject, archived, other)
    for flavor in subject.flavors:
        yield from _forgotten(subject, flavor, anchors, file)
    if subject.platform == "ios":
        yield from _icons(subject, file)
        yield from _profiles(subject)


def _said(subject: Subject, flavor: str, key: str, file: IdentityFile | None) -> str:
    """Return what the identity file says of a facet; empty where it says nothing."""
    return (file.variant(flavor, subject.singles, subject.platform).get(key) or "") if file is not None else ""


def _anchor(subject: Subject, flavor: str, key: str, file: IdentityFile | None) -> str:
    """Return what a flavor is called: by the file, else as it ships; where that is the app's own, by its others."""
    archived, *others = subject.of(flavor)
    value, plain = _value(archived, key), subject.value("", key)
    text = value.text if value is not None else ""
    said = _said(subject, flavor, key, file)
    if said or key not in ("id", "name") or not flavor or plain is None or text != plain.text:
        return said or text
    bare = {_kind(app): found.text for app in subject.of("") if (found := _value(app, key))}
    for other in others:
        own = _value(other, key)
        like = bare.get(_kind(other), plain.text)
        if own is not None and own.text != like and like.startswith(plain.text):
            return own.text.removesuffix(like[len(plain.text) :])
    return text


def _forgotten(
    subject: Subject, flavor: str, anchors: Mapping[tuple[str, str], str], file: IdentityFile | None
) -> Iterator[Stray]:
    """Yield what the configuration that ships takes from the app, while the flavor's others have their own.

    Where the identity file says it, that it differs is told already.
    """
    archived, *others = subject.of(flavor)
    for key in ("id", "name"):
        value, wanted = _value(archived, key), anchors[flavor, key]
        if value is not None and value.text != wanted and not _said(subject, flavor, key, file):
            beside = next(own for other in others if (own := _value(other, key)) and own.text.startswith(wanted))
            yield Stray(subject, flavor, archived.configuration, "", key, value, wanted, beside)


def _icons(subject: Subject, file: IdentityFile | None) -> Iterator[Stray]:
    """Yield the configurations whose icon set is not the one that their flavor shows.

    That is the one that most of its own configurations name, else the one that is called after it, else the one that
    most name over all; never one called after another flavor, nor the app's where the identity file gives the flavor
    art of its own. What flavors show alike in one build type (a marked icon while debugging) is meant, and so is what
    all configurations show. Where nothing tells which one it is, nothing is wanted.
    """
    own = {flavor: [app for app in subject.of(flavor) if app.icon is not None] for flavor in subject.flavors}
    apps = [app for mates in own.values() for app in mates]
    by_type = Counter((_kind(app), _form(app)) for app in apps)
    overall, usual = Counter(_form(app) for app in (*apps, *subject.of(""))), Counter[str]()
    for (kind, _), number in by_type.items():
        usual[kind] = max(usual[kind], number)
    shared = {app.icon.text for app in subject.of("") if app.icon is not None}
    words = {flavor: flavor_word(flavor) for flavor in own}

    def of_another(name: str, flavor: str) -> bool:
        return any(words[other].search(name) for other in own if not same_flavor(other, flavor))

    for flavor, mates in own.items():
        drawn = file is not None and _drawn_apart(file, subject.platform, flavor)
        names = Counter(app.icon.text for app in mates if app.icon is not None)
        word = words[flavor]
        mine = {name for name in names if word.search(name)}
        good = {name: number for name, number in names.items() if name in mine or not of_another(name, flavor)}
        good = {name: number for name, number in good.items() if not (drawn and name in shared)} or good
        wanted = _most(good) or _most({name: 1 for name in good if name in mine})
        wanted = wanted or _most({name: overall[word.sub("{}", name)] for name in good})
        shown = mates[0].icon.text if mates and mates[0].icon is not None else ""
        for app in mates if len(names) > 1 else ():
            common = by_type[_kind(app), _form(app)]
            meant = common > 1 and common == usual[_kind(app)]
            if app.icon is None or app.icon.text == (wanted or shown) or (meant and app.icon.text in good):
                continue
            one = wanted or shown
            beside = next(other.icon for other in mates if other.icon is not None and other.icon.text == one)
            yield Stray(subject, flavor, app.configuration, "", "icon", app.icon, wanted, beside)


def _form(app: ShippedApp) -> str:
    """Return how an icon set is called, the flavor in it left open."""
    name = app.icon.text if app.icon else ""
    return flavor_word(app.flavor).sub("{}", name) if app.flavor else name


def _most(counted: Mapping[str, int]) -> str:
    """Return what was counted most; empty where two were counted alike."""
    (first, number), (_, second), *_ = [*Counter(counted).most_common(2), ("", 0), ("", 0)]
    return first if number > second else ""


def _drawn_apart(file: IdentityFile, platform: str, flavor: str) -> bool:
    """Tell whether the identity file gives a flavor art that is not the app's."""
    return file.lists(flavor) and file.brand(file.named(flavor), platform).icon != file.brand("", platform).icon


def _profiles(subject: Subject) -> Iterator[Stray]:
    """Yield the configurations whose provisioning profile is not called after their flavor as most flavors' are.

    A profile names one App ID (Apple, TN3125): with another flavor's, the archive cannot be signed.
    """

    def form(app: ShippedApp, value: Value) -> str:
        text = value.text.replace(app.id.text, "{id}") if app.id else value.text
        return text.replace(app.flavor, "{flavor}")

    apps = [(app, value) for name in subject.flavors for app in subject.of(name) if (value := _value(app, "profile"))]
    usual: dict[str, Counter[str]] = defaultdict(Counter)
    for app, value in apps:
        usual[_kind(app)][form(app, value)] += 1
    for app, value in apps:
        (most, number), *rest = usual[_kind(app)].most_common()
        clear = number > 1 and (not rest or number > rest[0][1]) and "{" in most
        if clear and form(app, value) != most and app.id is not None:
            # A flavor's name may be a part of any word: what reads as wanted is right, however it was told.
            wanted = most.replace("{id}", app.id.text).replace("{flavor}", app.flavor)
            beside = next(other for mate, other in apps if _kind(mate) == _kind(app) and form(mate, other) == most)
            if wanted != value.text:
                yield Stray(subject, app.flavor, app.configuration, "", "profile", value, wanted, beside)


def _pairs(apps: Sequence[ShippedApp]) -> Iterator[tuple[ShippedApp, ShippedApp]]:
    yield from ((apps[0], other) for other in apps[1:])


def _value(app: ShippedApp | Part, key: str) -> Value | None:
    if key == "icon":
        return app.icon if isinstance(app, ShippedApp) else None
    if key == "profile":
        named = app.signing if app.signing is not None and app.signing.profile else None
        return Value((Piece(named.profile, named.place),), named.place) if named and named.place else None
    return {"id": app.id, "name": app.name, "version": app.version, "build": app.build}[key]


def _kind(app: ShippedApp) -> str:
    return build_type(app.configuration, app.flavor)


_Usual = dict[tuple[str, str], Counter[_Relation]]


def _usual(pairs: Sequence[tuple[ShippedApp, ShippedApp]], anchors: Mapping[tuple[str, str], str]) -> _Usual:
    """Count, by build type and facet, how the value of each flavor stands to what the flavor is called."""
    found: _Usual = defaultdict(Counter)
    for _, other in pairs:
        for key in KEYS:
            value, anchor = _value(other, key), anchors[other.flavor, key]
            if value is not None and anchor:
                found[_kind(other), key][_relation(value.text, anchor)] += 1
    return found


def _relation(text: str, shipped: str) -> _Relation:
    before, found, after = text.partition(shipped)
    return (before, after) if found else None


def _expected(usual: _Usual, kind: str, key: str, anchor: str, value: Value) -> str:
    """Return what a value should be, by what most flavors do; itself where nothing can be told."""
    counted = usual[kind, key]
    own = _relation(value.text, anchor)
    told = [(relation, number) for relation, number in counted.most_common() if relation is not None]
    clear = told and sum(counted.values()) > 1 and (len(told) == 1 or told[0][1] > told[1][1])
    if clear:
        before, after = told[0][0] or ("", "")
        return f"{before}{anchor}{after}"
    if key in ("version", "build") and sum(counted.values()) == 1 and own != ("", ""):
        return anchor  # one app alone: its versions are the same in every build
    return value.text


def _parts(subject: Subject, archived: ShippedApp, other: ShippedApp) -> Iterator[Stray]:
    """Yield what is embedded in a configuration, and does not follow its app as in the one that ships."""
    shipped = {part.target: part for part in archived.parts if part.kind not in HIDDEN_PARTS}
    for part in other.parts:
        model = shipped.get(part.target)
        if model is None:
            continue
        for key in ("id", "version", "build"):
            value, whole = _value(part, key), _value(other, key)
            first, above = _value(model, key), _value(archived, key)
            if value is None or whole is None or first is None or above is None:
                continue
            rest = first.text.removeprefix(above.text)
            if first.text.startswith(above.text) and (key == "id" or not rest) and value.text != whole.text + rest:
                wanted = whole.text + rest
                yield Stray(subject, other.flavor, other.configuration, part.target, key, value, wanted, whole)


# -- repair


def in_step(tree: Tree, found: Sequence[Stray]) -> tuple[Draft, list[Line]]:
    """Return what gives strays the values that are expected, where they stand in a place of their own."""
    draft, lines = Draft(), []
    every = {id(item.subject): _places(item.subject) for item in {id(i.subject): i for i in found}.values()}
    for item in found:
        if not item.wanted:
            draft.notes.append(Note(item.value.origin.at, item.said))
            continue
        places = item.takers or every[id(item.subject)]
        mine = {item.configuration}
        own = [p for p in item.value.pieces if p.place and places[p.place.file, p.place.start] == mine]
        whole = places[item.value.place.file, item.value.place.start] == mine
        kept = tuple(piece if piece in own else piece._replace(place=None) for piece in item.value.pieces)
        facet = FACETS[item.key][item.subject.platform] if item.key in FACETS else _FACETS.get(item.key, Facet.ICON)
        if not own and not whole:
            draft.notes.append(Note(item.value.origin.at, f"{item.said}: others share the place"))
            continue
        done = rewrite(tree, facet, Value(kept, item.value.place), item.wanted)
        draft.edits.append(done.edit)
        shown = "put right" if item.secret else f"{item.value.text} → {item.wanted}"
        lines.append(Line(f"{item.configuration} {item.label}", shown))
    return draft, lines


def _places(subject: Subject) -> dict[tuple[str, int], set[str]]:
    """Return, for every place that a value comes from, the configurations that take theirs from it."""
    found: dict[tuple[str, int], set[str]] = defaultdict(set)
    for app in subject.brands:
        holders: list[ShippedApp | Part] = [app, *app.parts]
        for holder in holders:
            for value in filter(None, (_value(holder, key) for key in _LABELS)):
                for spot in (value.place, *(piece.place for piece in value.pieces if piece.place)):
                    found[spot.file, spot.start].add(app.configuration)
    return found
