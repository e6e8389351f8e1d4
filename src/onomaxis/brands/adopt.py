"""An identity file from what a project is called today: written so that stamping it changes nothing."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence, Set
from functools import partial
from typing import Any

from onomaxis.brands.documents import Documents, with_brand
from onomaxis.brands.subjects import OWN_KEY, Subject
from onomaxis.brands.worn import differences
from onomaxis.flavor_names import each_once, in_order, usual_name
from onomaxis.identity.file import IdentityFile
from onomaxis.identity.schema import FLAVOR, FORMAT, WORD
from onomaxis.platforms import PLATFORMS
from onomaxis.projects.project import flavors_together, goes_on
from onomaxis.rename.targets import with_name
from onomaxis.tree import Tree

_KEYS = ("id", "code-package", "name", "version", "build")
_SUFFIXED = ("id", "version")
Facts = dict[str, str]


def adopted(subjects: Sequence[Subject], names: Mapping[str, str], apart: Iterable[str] = ()) -> str:
    """Return the text of an identity file; *names* are modules and targets that must be named to be found again.

    *apart* are platforms whose apps are others than those that are meant: nothing is said of them.
    """
    lines = [
        "# What the app is called, on every platform and in every flavor. onomaxis stamp applies it to the project;",
        "# onomaxis check reports what differs. Inheritance: app <- platform <- flavor <- flavor's platform.",
        f"format = {FORMAT}",
    ]
    silent: dict[str, Facts] = {platform: {} for platform in apart}
    first = {subject.platform: subject for subject in reversed(subjects)}  # halves of one app say the same
    base = silent | {item: _alike(first[item], partial(_facts, first[item])) for item in PLATFORMS if item in first}
    locales = silent | {item: _alike(first[item], first[item].names) for item in PLATFORMS if item in first}
    shared, own = _common(base)
    shared_names, own_names = _common(locales)
    lines += _table("app", shared, shared_names)
    for platform in dict.fromkeys(subject.platform for subject in subjects):
        head = {OWN_KEY[platform]: names[platform]} if platform in names else {}
        lines += _table(platform, head | own[platform], own_names[platform], optional=True)
    for flavor in _flavors(subjects):
        lines += _flavor(subjects, flavor, base, locales)
    return "\n".join(lines) + "\n"


def _facts(subject: Subject, flavor: str) -> Facts:
    main = subject.main_of(flavor)
    texts = {key: subject.text(main, key) for key in _KEYS if not flavor or key != "code-package"}
    return {key: text for key, text in texts.items() if text}


def _of_several(subject: Subject, name: str) -> bool:
    return len(subject.singles.parts(name)) > 1


def _apart(subject: Subject, combination: str) -> Facts:
    """Return what a combination is called otherwise than what its flavors are called tells."""
    built = subject.built_as(combination)
    mains = [subject.main_of(part) for part in subject.singles.parts(combination)]
    keys = ("name",) if built in subject.made else ("id", "name", "version", "build")
    texts = {key: subject.text(built, key) or "" for key in keys} if built and built not in mains else {}
    told = {key: [subject.text(main, key) or "" for main in mains if main] for key in texts}
    return {
        key: text for key, text in texts.items() if text and not any(_along(key, text, main) for main in told[key])
    }


def _along(key: str, text: str, main: str) -> bool:
    """Tell whether a combination goes along with the main one of its flavor: a name or an ID that goes on from it."""
    longer = goes_on(text, main) if key == "id" else key == "name" and bool(with_name(text, main, main))
    return bool(main) and (text == main or longer)


def _alike(subject: Subject, told: Callable[[str], Facts]) -> Facts:
    """Return what is told of the app itself; of one that is built in flavors alone, what all of them say alike.

    One that is in plain configurations, with others for its stages beside them, is the app itself.
    """
    plain = [name for name in subject.flavors if len(subject.targets) == 1 and not subject.branch(name).name]
    if subject.stands_alone or plain:
        return told(next(iter(plain), ""))
    first, *more = (told(flavor) for flavor in subject.flavors)
    return {key: text for key, text in first.items() if all(other.get(key) == text for other in more)}


def _common(tables: Mapping[str, Facts]) -> tuple[Facts, dict[str, Facts]]:
    """Part what every platform says alike from what differs."""
    everywhere = list(tables.values())
    first = everywhere[0] if everywhere else {}
    shared = {
        key: text
        for key, text in first.items()
        if all(table.get(key) == text for table in everywhere) or key == "code-package"
    }
    return shared, {
        platform: {key: text for key, text in table.items() if key not in shared}
        for platform, table in tables.items()
    }


def _flavors(subjects: Sequence[Subject]) -> list[str]:
    """Return what gets a table: each flavor, and the combinations that are called what none of them tells."""
    known = flavors_together([subject.project for subject in subjects])
    every = [(subject, name) for subject in subjects for name in (*subject.flavors, *subject.made)]
    alone = [part for subject, name in every for part in in_order(name, subject.singles) or [name]]
    several = [name for subject, name in every if _of_several(subject, name) and _apart(subject, name)]
    return [name for name in each_once((*alone, *(usual_name(n, known) for n in several))) if FLAVOR.match(name)]


def _flavor(
    subjects: Sequence[Subject], flavor: str, base: Mapping[str, Facts], locales: Mapping[str, Facts]
) -> Iterator[str]:
    """Yield the tables of one flavor: what it says otherwise than the app."""
    having = [subject for subject in subjects if subject.main_of(flavor)]
    several = any(_of_several(subject, flavor) for subject in having)
    facts = {s.platform: _apart(s, flavor) if several else _facts(s, flavor) for s in having}
    differing = _in_full(facts, {platform: _differing(told, base[platform]) for platform, told in facts.items()})
    names = (
        {}
        if several
        else {
            s.platform: {k: v for k, v in s.names(s.main_of(flavor)).items() if locales[s.platform].get(k) != v}
            for s in having
        }
    )
    silent: dict[str, Facts] = {platform: {} for platform in base.keys() - {s.platform for s in subjects}}
    shared, own = _common({**differing, **silent})
    shared_names, own_names = _common({**names, **silent})
    yield from _table(f"flavors.{bare(flavor)}", shared, shared_names)
    for platform in own:
        told = own_names.get(platform, {})
        yield from _table(f"flavors.{bare(flavor)}.{platform}", own[platform], told, optional=True)


def _differing(facts: Facts, base: Facts) -> Facts:
    """Return what a flavor says otherwise; an ID or version that goes on from the app's as a suffix."""
    found: Facts = {}
    for key, text in facts.items():
        above = base.get(key, "")
        if text == above:
            continue
        rest = text[len(above) :] if above and text.startswith(above) else ""
        if key in _SUFFIXED and rest[:1] in (".", "-", "_", "+"):
            found[f"{key}-suffix"] = rest
        else:
            found[key] = text
    return found


def _in_full(facts: Mapping[str, Facts], differing: Mapping[str, Facts]) -> dict[str, Facts]:
    """Say in full what all platforms say alike, where it goes on from the app's on some of them alone."""
    found = dict(differing)
    for key in _SUFFIXED:
        suffix = f"{key}-suffix"
        alike = len({told.get(key) for told in facts.values()}) == 1 and all(
            {key, suffix} & told.keys() for told in found.values()
        )
        if alike and len({told.get(suffix) for told in found.values()}) > 1:
            for platform, told in found.items():
                rest = {name: text for name, text in told.items() if name not in (key, suffix)}
                found[platform] = {key: facts[platform][key], **rest}
    return found


def _table(name: str, facts: Mapping[str, str], names: Mapping[str, str], optional: bool = False) -> Iterator[str]:
    if not facts and not names and optional:
        return
    yield ""
    if facts or not names:
        yield f"[{name}]"
        yield from (f"{key} = {quoted(text)}" for key, text in facts.items())
    if names:
        if facts:
            yield ""
        yield f"[{name}.names]"
        yield from (f"{bare(locale)} = {quoted(text)}" for locale, text in sorted(names.items()))


def bare(key: str) -> str:
    """Return a key as TOML takes it: bare where it may be, else in quotes."""
    return key if WORD.match(key) else quoted(key)


def quoted(text: str) -> str:
    """Write a basic string (toml.io, "String"): JSON's escapes are a part of TOML's."""
    return json.dumps(text, ensure_ascii=False).replace("\x7f", "\\u007f")


def refreshed(tree: Tree, file: IdentityFile, subjects: Sequence[Subject]) -> dict[str, bytes]:
    """Return the identity's files with today's IDs, names and versions; comments, values and all else in them stay.

    What differs alike on every platform is written where the flavor's own table is, else into the platform's.
    """
    documents, standing = Documents(tree, file), file.standing
    for flavor in ("", *(f for f in _flavors(subjects) if file.lists(f))):
        named = file.named(flavor) if flavor else standing
        having = [s for s in subjects if not flavor or s.main_of(flavor)]
        brands = [(s, file.variant(named, s.singles, s.platform)) for s in having]
        found = [item for s, brand in brands for item in differences(s, brand, s.main_of(flavor))]
        holder = documents.of(named) if named else documents.main
        for key, locale in sorted({(item.key, item.locale) for item in found}):
            wrong = {item.subject.platform for item in found if (item.key, item.locale) == (key, locale)}
            bring_up(holder, ["flavors", named] if named else ["app"], having, wrong, flavor, key, locale)
        if not flavor:  # what flavors inherit is read again
            file = documents.identity().as_brand(standing)
    base_facts = {s.platform: _facts(s, "") for s in subjects}
    locales = {s.platform: s.names("") for s in subjects}
    missing = [flavor for flavor in _flavors(subjects) if not file.lists(flavor)]
    texts = {flavor: "\n".join(_flavor(subjects, flavor, base_facts, locales)) + "\n" for flavor in missing}
    contents = documents.contents()
    for flavor, text in texts.items():
        place, data = with_brand(tree, file, flavor, text.lstrip("\n"), contents)
        contents[place] = data
    return contents


def bring_up(
    document: Any, base: Sequence[str], having: Sequence[Subject], wrong: Set[str], flavor: str, key: str, locale: str
) -> None:
    """Write one facet for the platforms on which the file is wrong: where it stands, so that no table outdoes it.

    It goes into the table that all platforms share where they say it alike, else into that of each.
    """
    subjects = [subject for subject in having if flavor or subject.stands_alone]
    mains = {s.platform: s.main_of(flavor) for s in subjects}
    today = {
        s.platform: s.names(mains[s.platform]).get(locale) if locale else s.text(mains[s.platform], key)
        for s in subjects
    }
    tables = {platform: [platform] if base[0] == "app" else [*base, platform] for platform in today}
    own = {platform for platform, path in tables.items() if _states(document, path, key, locale)}
    sharing = [text for platform, text in today.items() if platform not in own]
    alike = len({*sharing}) == 1 and (sharing[0] is not None)
    if key == "code-package":
        alike = True
    for platform in sorted(wrong & today.keys()):
        text = today[platform]
        if text is not None:
            _set(document, base if platform not in own and alike else tables[platform], key, locale, text)


def _states(document: Any, path: Sequence[str], key: str, locale: str) -> bool:
    """Tell whether a table states a key, or a suffix that would be appended to it."""
    table = document
    for part in (*path, *(["names"] if locale else [])):
        table = table.get(part, {})
    return (locale or key) in table or (not locale and f"{key}-suffix" in table)


def _set(document: Any, path: Sequence[str], key: str, locale: str, text: str) -> None:
    """Write one key, making the tables on the way; a suffix beside it would be appended to it, and goes."""
    import tomlkit

    table = document
    for part in (*path, *(["names"] if locale else [])):
        if part not in table:
            table[part] = tomlkit.table()
        table = table[part]
    old = table.get(locale or key)
    quoted = old.as_string() if isinstance(old, tomlkit.items.String) else ""
    plain = quoted.startswith("'") and not quoted.startswith("'''") and not set(text) & set("'\n\r")
    table[locale or key] = tomlkit.string(text, literal=True) if plain else text
    if f"{key}-suffix" in table:
        del table[f"{key}-suffix"]


def alike_halves(subjects: Sequence[Subject]) -> tuple[Subject, ...]:
    """Return the apps without halves of a platform (macOS beside iOS) that are called otherwise than its first."""
    first = {subject.platform: subject for subject in reversed(subjects)}
    return tuple(item for item in subjects if _facts(item, "") == _facts(first[item.platform], ""))
