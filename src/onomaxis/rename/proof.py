"""The proof of a change before it is written: the tree as it would be is read again and compared with the wish."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

from onomaxis.errors import FaultError, FormatError
from onomaxis.formats.jsonc import parse_json
from onomaxis.formats.lexer import LANGUAGES, regions
from onomaxis.formats.openstep import parse_openstep
from onomaxis.formats.source import Source, detect_encoding, looks_binary
from onomaxis.formats.toml import parse_toml
from onomaxis.formats.xml import parse_xml
from onomaxis.formats.yaml import parse_yaml
from onomaxis.model import HIDDEN_PARTS, Facet, Renaming, ShippedApp, Value, Wish, same_flavor
from onomaxis.projects.project import Project
from onomaxis.rename.values import present
from onomaxis.writing.changeset import FileChange

_XML = (
    ".xml", ".plist", ".entitlements", ".storyboard", ".xib", ".xcscheme", ".xcworkspacedata", ".xcprivacy", ".svg",
    ".csproj", ".stringsdict", ".iml",
)  # fmt: skip
_PAIRS = (("(", ")"), ("[", "]"), ("{", "}"))
# What identifiers, versions and numbers are made of: no syntax gives these a meaning of their own in a value.
_WORD = re.compile(rb"[A-Za-z0-9_.-]++")


# -- the files


def prove_files(changes: Sequence[FileChange]) -> None:
    """Make sure that every edited file decodes and parses as it did before. Raises FaultError with file and line."""
    for change in changes:
        before, after = change.before, change.after
        if change.link or before is None or after is None or not change.edited:
            continue
        path = change.target or ""
        if looks_binary(before):
            continue
        if _WORD.sub(b"w", before) == _WORD.sub(b"w", after):
            continue  # words became words and nothing else: every mark, quote and line end stands where it stood
        was, now = detect_encoding(before), detect_encoding(after)
        if was != now and not before.isascii():
            raise _fault(path, 1, f"its encoding would change from {was[0]} to {now[0]}")
        parse = _parser(change.source or path)
        if parse is None:
            continue
        try:
            old = parse(before)
        except (FormatError, RecursionError):
            continue  # it was not readable before
        try:
            new = parse(after)
        except (FormatError, RecursionError) as error:
            line = error.line if isinstance(error, FormatError) else 1
            raise _fault(path, line, f"it could not be read any more ({error})") from None
        if old != new:
            raise _fault(path, 1, "its brackets would no longer pair as they did")


def _fault(path: str, line: int, message: str) -> FaultError:
    return FaultError(
        f"the change would not be right: {message}",
        file=path,
        line=line,
        remedy="Nothing was changed. This is a fault of Onomaxis: change this place by hand first.",
    )


_Parse = Callable[[bytes], object]


def _parser(path: str) -> _Parse | None:
    """Return what reads a file of this name; what it returns is the same for files of the same structure."""
    ending = "." + path.rpartition("/")[2].rpartition(".")[2]
    plain: dict[str, _Parse] = {
        ".pbxproj": parse_openstep, ".strings": parse_openstep, ".json": parse_json, ".json5": parse_json,
        ".xcstrings": parse_json, ".yaml": parse_yaml, ".yml": parse_yaml, ".toml": parse_toml,
        **dict.fromkeys(_XML, parse_xml),
    }  # fmt: skip
    if ending in plain:
        read = plain[ending]
        return lambda data: read(data) and None
    language = LANGUAGES.get(ending)
    if language is None:
        return None

    def balance(data: bytes) -> object:
        view = Source.read(data).view
        code: list[str] = []
        at = 0
        for region in regions(view, language):
            code.append(view[at : region.start])
            at = region.end
        text = "".join([*code, view[at:]])
        return tuple(text.count(one) - text.count(other) for one, other in _PAIRS)

    return balance


# -- what the apps are called


@dataclass(frozen=True)
class Meant:
    """What a wish means for one project: which of its apps, and what its identifiers become."""

    project: Project
    modules: frozenset[str]
    renamings: tuple[Renaming, ...]


def prove_apps(
    before: Sequence[Project], after: Sequence[Project], meant: Sequence[Meant], wish: Wish, technical: dict[str, str]
) -> None:
    """Compare what every shipped app is called after the change with what it was called and what was wished.

    An app that is meant reads as wished; every other app, flavor and facet reads as before. Raises FaultError.
    """
    if technical:  # names of modules, targets and folders change: compared by :func:`onomaxis.rename.rename`
        return
    by_key = {project.key: project for project in after}
    for project in before:
        if project.umbrella:
            continue
        now = by_key.get(project.key)
        aim = next((item for item in meant if item.project.key == project.key), None)
        later = {_key(app): app for app in now.apps} if now else {}
        for app in project.apps:
            if _key(app) not in later:
                raise _fault(project.folder or ".", 1, f"{_called(app)} would ship no more")
            mine = aim is not None and app.module in aim.modules
            for facet, old, new, wanted in _facets(project, app, later[_key(app)], aim if mine else None, wish):
                if new is not None and new.text not in wanted:
                    shown = " or ".join(f"“{text}”" for text in sorted(wanted)) or "no value"
                    at = new.place
                    raise _fault(at.file, at.line, f"{facet} of {_called(app)} would be “{new.text}”, not {shown}")
                if new is None and old is not None:
                    raise _fault(old.place.file, old.place.line, f"{facet} of {_called(app)} could be told no more")


_Row = tuple[str, Value | None, Value | None, set[str]]


def _facets(project: Project, old: ShippedApp, new: ShippedApp, aim: Meant | None, wish: Wish) -> Iterator[_Row]:
    """Yield each facet: its name, what it was, what it is to be, and what it may be."""
    name = present(project, Facet.DISPLAY_NAME, "")
    version, build = present(project, Facet.VERSION_NAME, ""), present(project, Facet.VERSION_CODE, "")
    yield "the ID", old.id, new.id, _identifiers(old.id, aim, wish, old)
    yield "the name", old.name, new.name, _wished(old.name, name, wish.name, aim, wish, old)
    yield "the version", old.version, new.version, _wished(old.version, version, wish.version, aim, wish, old)
    yield "the build number", old.build, new.build, _wished(old.build, build, wish.build, aim, wish, old)
    names, wishes = dict(old.names), dict(wish.locale_names)
    for locale, value in new.names:
        was: Value | None = names.get(locale)
        wanted = _wished(was, name, wish.name, aim, wish, old) | ({wishes[locale]} if locale in wishes else set())
        if was is not None or aim is None:
            yield f"the {locale} name", was, value, wanted
    parts = {part.target: part for part in new.parts}
    for part in old.parts:
        now = parts.get(part.target)
        if now is None or part.kind in HIDDEN_PARTS:
            continue
        yield f"the ID of {part.target}", part.id, now.id, _identifiers(part.id, aim, wish, old)
        mine = aim is not None and same_flavor(old.flavor, wish.flavor)
        loose = replace(wish, flavor="") if mine else wish
        for label, had, has, said, main in (
            ("the name", part.name, now.name, wish.name, name),
            ("the version", part.version, now.version, wish.version, part.version.text if part.version else None),
            ("the build number", part.build, now.build, wish.build, part.build.text if part.build else None),
        ):
            yield f"{label} of {part.target}", had, has, _wished(had, main, said, aim, loose, old)


def _identifiers(old: Value | None, aim: Meant | None, wish: Wish, app: ShippedApp) -> set[str]:
    """Return what an identifier may become: the one that it was, where nothing speaks of it."""
    if old is None:
        return {wish.android_id, wish.ios_id} - {""}
    if aim is None:
        return {old.text}
    own = [item for item in aim.renamings if item.facet in (Facet.APPLICATION_ID, Facet.BUNDLE_ID)]
    found = {text for item in own or aim.renamings if (text := item.apply(old.text))}
    if not own:  # no ID is meant, or none was stated: a namespace, or nothing, said it
        found |= {wish.android_id, wish.ios_id, old.text} - {""}
    if not found or (wish.flavor and not same_flavor(app.flavor, wish.flavor)):
        found |= {old.text}  # another ID, or one that a combination of flavors shares
    return found


def _wished(
    old: Value | None, main: str | None, new: str | None, aim: Meant | None, wish: Wish, app: ShippedApp
) -> set[str]:
    """Return what a value may become: the wished one where it was the app's, with what was around it; else itself."""
    kept = {old.text} if old is not None else set()
    if aim is None or not new:
        return kept if old is not None or not new or aim is None else {new}
    if wish.flavor:
        mine = same_flavor(app.flavor, wish.flavor)
        return (
            {new} | (kept if not mine else _around(old, main, new))
            if mine or wish.flavor in app.flavor
            else kept | {new}
        )
    if old is None:
        return {new}
    if old.text == main:
        return {new}
    return kept | {new} | _around(old, main, new)


def _around(old: Value | None, main: str | None, new: str) -> set[str]:
    """Return *old* with the app's value in it made the new one: a suffix stays."""
    if old is None or not main:
        return set()
    return {old.text.replace(main, new, 1)} if main in old.text else {old.text}


def _key(app: ShippedApp) -> tuple[str, ...]:
    return app.platform, app.module, app.flavor.casefold(), app.configuration


def _called(app: ShippedApp) -> str:
    return " ".join(filter(None, (app.platform, app.module, app.flavor)))
