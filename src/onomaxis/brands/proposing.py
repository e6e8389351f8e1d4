"""Values offered for an identity file: grouped by what they read, derived ones as templates, each place tried."""

from __future__ import annotations

import itertools
import re
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

from onomaxis.brands.adopt import bare, quoted
from onomaxis.brands.readings import Reading, read_values
from onomaxis.brands.subjects import Subject
from onomaxis.errors import OnomaxisError
from onomaxis.flavor_names import Singles, in_order, usual_name
from onomaxis.identity.reading import read_identity
from onomaxis.identity.schema import NAME
from onomaxis.projects.project import flavors_together
from onomaxis.projects.proposals import Proposed, in_files, texts_in_files, words_of
from onomaxis.surveys.survey import kind_of
from onomaxis.tree import Tree

# Texts that are shorter may be equal by chance.
_TELLING = 5


@dataclass
class Offer:
    """One value that is offered: its name, type, text, places; ``template`` where it follows from another one.

    Without a text it is one that flavors alone have: ``own`` says what each has.
    """

    name: str
    kind: str
    text: str
    secret: bool
    places: list[Mapping[str, str]] = field(default_factory=list)
    template: str = ""
    own: dict[str, str] = field(default_factory=dict)

    @property
    def shown(self) -> str:
        """What it reads, as it may be shown, and in how many places."""
        each = f"of {len(self.own)} flavor{'s' if len(self.own) != 1 else ''}"
        text = (self.template or self.text or each) if not self.secret else "••••"
        return f"{text} ({len(self.places)} place{'s' if len(self.places) != 1 else ''})"


def offers(tree: Tree, subjects: Sequence[Subject], identity: str, struck: Sequence[str] = ()) -> list[Offer]:
    """Return what brands usually vary in a project, but for the names *struck*; every place reads what it says.

    *identity* is the identity file's text without values: each place is tried against it.
    """
    found: dict[str, Offer] = {}
    every = list(_proposed(tree, subjects))
    for item in (item for item in every if not item.flavor):
        alike = [offer for offer in found.values() if offer.text == item.text]
        same = next((offer for offer in alike if len(item.text) >= _TELLING or offer.name == item.name), None)
        if same is not None:
            same.places += [item.place] if item.place not in same.places else []
            if len(item.name) < len(same.name) and item.name not in found:  # the shortest name says enough
                found[item.name] = found.pop(same.name)
                same.name = item.name
            continue
        name = _free(found, item.name)
        found[name] = Offer(name, item.kind, item.text, item.secret, [item.place])
    known = flavors_together([subject.project for subject in subjects])
    for offer in _of_flavors([item for item in every if item.flavor and _is_told(item.flavor, known, identity)]):
        found[_free(found, offer.name)] = offer
    for name, offer in found.items():
        offer.name = name
    kept = _tried(tree, [offer for offer in found.values() if offer.name not in struck], identity, known)
    kept = _as_one(tree, kept, identity)
    _derive(kept)
    kept += _with_names(tree, subjects, identity, struck, kept)
    _follow_ids(tree, kept, identity, subjects)
    return kept


def _with_names(
    tree: Tree, subjects: Sequence[Subject], identity: str, struck: Sequence[str], others: Sequence[Offer]
) -> list[Offer]:
    """Return the texts that hold the app's name among other words, each with a template that says so.

    What is offered among *others* is a value of its own already.
    """
    taken, told = {offer.name for offer in others}, [place for offer in others for place in offer.places]
    found: dict[tuple[str, str], Offer] = {}
    for subject in subjects:
        names = {"": subject.text("", "name") or "", **subject.names("")}
        texts = kind_of(subject.project).texts(subject.project, tree, subject.module)
        for item in itertools.chain(texts, texts_in_files(tree, "") if subject is subjects[0] else ()):
            field = f"name.{item.locale}" if item.locale in names and item.locale else "name"
            name = names.get(item.locale, "") or names[""]
            template = _named_in(item.text, name, field)
            if not template or item.place in told or len(found) >= _MOST_TEXTS:
                continue
            called = "-".join((*words_of(item.name), *filter(None, (item.locale.lower(),))))
            offer = found.setdefault((called, template), Offer(called, "text", "", False, template=template))
            offer.places += [item.place] if item.place not in offer.places else []
    kept = [
        offer for offer in found.values() if offer.name not in (*struck, *taken) and re.match(r"[a-z]", offer.name)
    ]
    by_name = Counter(offer.name for offer in kept)
    return [offer for offer in kept if by_name[offer.name] == 1 and _all_right(tree, [offer], identity)]


# So many texts with the name in them are offered at most; a shorter name may be a word of any text.
_MOST_TEXTS, _SHORTEST_NAME = 60, 4


def _named_in(text: str, name: str, field: str) -> str:
    """Return a text as a template of the name that it holds among other words; empty where it does not."""
    word = rf"(?<!\w){re.escape(name)}(?!\w)"
    if len(name) < _SHORTEST_NAME or text.strip() == name or not re.search(word, text):
        return ""
    escaped = text.replace("{", "{{").replace("}", "}}")
    return re.sub(word, lambda _: f"{{{field}}}", escaped)


def _follow_ids(tree: Tree, found: Sequence[Offer], identity: str, subjects: Sequence[Subject]) -> None:
    """Let a value that is made of the app's ID, of each flavor's in each flavor, follow from it: ``group.{id}``."""
    for offer in found:
        flavor, text = next(iter(offer.own.items())) if not offer.text and offer.own else ("", offer.text)
        ids = {subject.text(subject.main_of(flavor), "id") or "" for subject in subjects} - {""}
        made = (text.replace(id_, "{id}") for id_ in ids if text == id_ or _follows(text, id_))
        for template in made if not offer.template else ():
            whole = replace(offer, text="", template=template, own={})
            if _all_right(tree, [whole], identity):
                offer.text, offer.template, offer.own = "", template, {}
                break


def _is_told(flavor: str, known: Singles, identity: str) -> bool:
    """Tell whether an identity file has a table of a flavor, or of what it is made of."""
    return all(f"[flavors.{bare(name)}]" in identity for name in known.parts(flavor) or {flavor})


def _free(found: Mapping[str, Offer], name: str) -> str:
    """Return a name that no offer has yet."""
    names = (f"{name}-{number}" if number > 1 else name for number in itertools.count(1))
    return next(item for item in names if item not in found)


def _of_flavors(items: Sequence[Proposed]) -> Iterator[Offer]:
    """Yield what flavors alone have, places that read the same for each of them together."""
    by_place: dict[tuple[str, tuple[tuple[str, str], ...]], Offer] = {}
    for item in items:
        key = item.name, tuple(item.place.items())
        offer = by_place.setdefault(key, Offer(item.name, item.kind, "", item.secret, [item.place]))
        offer.own[item.flavor] = item.text
    joined: dict[tuple[tuple[str, str], ...], Offer] = {}
    for offer in by_place.values():
        same = joined.setdefault(tuple(sorted(offer.own.items())), offer)
        if same is not offer:
            same.places += offer.places
            same.name = min(same.name, offer.name, key=len)
    yield from joined.values()


def _proposed(tree: Tree, subjects: Sequence[Subject]) -> Iterator[Proposed]:
    for subject in subjects:
        yield from kind_of(subject.project).proposals(subject.project, tree, subject.module)
    yield from in_files(tree, list(dict.fromkeys(flavor for subject in subjects for flavor in subject.flavors)))


def _derive(found: Sequence[Offer]) -> None:
    """Let a value that holds another one's text follow from it: ``fb{login-id}``."""
    for offer in found:
        for other in found:
            telling = len(other.text) >= 2 * _TELLING and other.kind == "text" and not (other.template or other.own)
            telling = telling and not offer.own
            if other is not offer and telling and _follows(offer.text, other.text):
                offer.template = offer.text.replace(other.text, f"{{{other.name}}}")
                break


def _follows(text: str, other: str) -> bool:
    """Tell whether a text is made of another one with something around it, not by chance: ``fb`` and a number."""
    before, found, after = text.partition(other)
    glued = before[-1:].isalnum() and before[-1:].isdigit() == other[:1].isdigit()
    return bool(found) and other not in after and "{" not in text and not glued and not after[:1].isalnum()


def _tried(tree: Tree, found: Sequence[Offer], identity: str, known: Singles) -> list[Offer]:
    """Keep the places that read what they are said to; learn what flavors have of their own."""
    kept = []
    for offer in found:
        offer.places = [place for place in offer.places if _holds(tree, offer, place, identity)]
        if offer.places:
            kept.append(offer)
    by_name = {offer.name: offer for offer in kept}
    for item in _readings(tree, identity + tables(kept)):
        if item.flavor and not item.right:
            by_name[item.value.name].own.setdefault(item.flavor, item.spot.text)
    kept += _parted(tree, kept, identity)
    for offer in kept:
        raw = offer.own
        offer.own = by_dimension(raw, offer.text, known)
        if offer.own != raw and not _all_right(tree, [offer], identity):
            offer.own = raw
    return kept


def _all_right(tree: Tree, found: Sequence[Offer], identity: str) -> bool:
    """Tell whether every place of some values reads what it is said to."""
    try:
        return all(item.right for item in _readings(tree, identity + tables(found)))
    except OnomaxisError:
        return False


def by_dimension(own: Mapping[str, str], text: str, known: Singles) -> dict[str, str]:
    """Return what flavors have of their own, said of what makes it so: an environment's text once, not of each brand.

    *own* are texts by flavor and combination, *text* is everybody else's; those that have it too may be among them.
    """
    alone = {name: said for name, said in own.items() if len(known.parts(name)) < 2}
    told = {name: said for name, said in alone.items() if said != text}
    several = {usual_name(name, known): said for name, said in own.items() if name not in alone}

    def left(more: Mapping[str, str]) -> dict[str, str]:
        every = {**told, **more}
        wins = {n: next((every[part] for part in in_order(n, known) if part in every), text) for n in several}
        return {name: said for name, said in several.items() if wins[name] != said}

    ways: list[dict[str, str]] = [{}]
    sides: list[set[str]] = []
    for part in dict.fromkeys(part for name in several for part in in_order(name, known)):
        mates = {other for name in several if part in known.parts(name) for other in known.parts(name)} - {part}
        side = next((s for s in sides if not s & mates), None)
        if side is None:
            sides.append({part})
        else:
            side.add(part)
    for side in sides:
        counted = {p: Counter(t for n, t in several.items() if p in known.parts(n)) for p in side}
        usual = {p: max(each, key=lambda said: (each[said], said == text)) for p, each in counted.items()}
        ways.append({part: said for part, said in usual.items() if part not in told and said != text})
    best = min(ways, key=lambda more: len(more) + len(left(more)))
    return {**told, **best, **left(best)}


def _as_one(tree: Tree, kept: Sequence[Offer], identity: str) -> list[Offer]:
    """Join values that read the same for everybody, one with a text for all and one that flavors alone have."""
    found: list[Offer] = []
    for offer in sorted(kept, key=lambda item: not item.text):
        for same in found if offer.own and not offer.text else ():
            alike = all(same.own.get(name, same.text) == text for name, text in offer.own.items())
            joined = replace(same, places=[*same.places, *offer.places], name=min(same.name, offer.name, key=len))
            if alike and same.kind == offer.kind and _all_right(tree, [joined], identity):
                same.places, same.name = joined.places, joined.name
                break
        else:
            found.append(offer)
    return found


def _parted(tree: Tree, kept: Sequence[Offer], identity: str) -> Iterator[Offer]:
    """Take places out of values that flavors vary, where those do not vary; yield them as values of their own."""
    by_name = {offer.name: offer for offer in kept}
    fixed: dict[str, Offer] = {}
    for item in list(_readings(tree, identity + tables(kept))):
        offer = by_name[item.value.name]
        place = {item.place.selector: item.place.name, **({"file": item.place.file} if item.place.file else {})}
        if not item.right and place in offer.places and len(offer.places) > 1:
            offer.places.remove(place)
            own = fixed.setdefault(offer.name, Offer(f"{offer.name}-shared", offer.kind, offer.text, offer.secret))
            own.places.append(place)
    yield from fixed.values()


def _holds(tree: Tree, offer: Offer, place: Mapping[str, str], identity: str) -> bool:
    """Tell whether a place reads what it is said to; flavors are asked only where nothing but flavors is built."""
    alone = tables([Offer(offer.name, offer.kind, offer.text, False, [place], own={} if offer.text else offer.own)])
    try:
        found = list(_readings(tree, identity.partition("\n[flavors.")[0] + "\n" + alone)) if offer.text else []
        found = found or list(_readings(tree, identity + alone))
    except OnomaxisError:
        return False
    return bool(found) and all(item.right for item in found if not (item.flavor and offer.text))


def _readings(tree: Tree, text: str) -> Iterator[Reading]:
    file = read_identity(NAME, text.encode())
    yield from (item for item in read_values(tree, file) if isinstance(item, Reading))


def tables(found: Sequence[Offer]) -> str:
    """Return the tables of an identity file that declare values and say what the app and its flavors have."""
    if not found:
        return ""
    told = [f"{offer.name} = {quoted(offer.text)}" for offer in found if offer.text and not offer.template]
    lines = ["", "[app.values]", *told] if told else []
    flavors = dict.fromkeys(flavor for offer in found for flavor in offer.own)
    for flavor in flavors:
        lines += ["", f"[flavors.{bare(flavor)}.values]"]
        lines += [f"{offer.name} = {quoted(offer.own[flavor])}" for offer in found if flavor in offer.own]
    for offer in found:
        lines += ["", f"[values.{offer.name}]"]
        lines += [f'type = "{offer.kind}"'] if offer.kind not in ("text", "url") else []
        lines += [f"template = {quoted(offer.template)}"] if offer.template else []
        lines += ["secret = true"] if offer.secret else []
        inner = [", ".join(f"{key} = {quoted(text)}" for key, text in place.items()) for place in offer.places]
        lines += [f"places = [{{ {inner[0]} }}]"] if len(inner) == 1 else []
        lines += ["places = [", *(f"  {{ {text} }}," for text in inner), "]"] if len(inner) > 1 else []
    return "\n".join(lines) + "\n"
