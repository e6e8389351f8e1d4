"""A new flavor as its neighbours, a leaving one without a trace: files called after flavors, places that list them.

What most siblings have is made for the new one too: after the one that it shall be like, else after the one that is
most like the others. What only its owner can say is owed.
"""

from __future__ import annotations

import contextlib
import tomllib
from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import NamedTuple

from onomaxis import late
from onomaxis.errors import FormatError
from onomaxis.formats.jsonc import parse_json
from onomaxis.formats.source import Source, flat, looks_binary
from onomaxis.formats.xml import parse_xml
from onomaxis.identity.schema import OWED
from onomaxis.model import Edit, Note, Owed
from onomaxis.projects.draft import Draft
from onomaxis.projects.neighbours.called import Called, Names
from onomaxis.projects.neighbours.suggestions import suggestions
from onomaxis.projects.neighbours.texts import Cut, Lacking, applied_cuts, lacking, with_flavor, without_flavor
from onomaxis.projects.neighbours.twins import Owing, Twin, Twins, may_be_other
from onomaxis.projects.project import Project
from onomaxis.projects.siblings import majority
from onomaxis.surveys.survey import own_files
from onomaxis.tree import Tree, parent
from onomaxis.writing.change import FileChange

# Code, scripts and data, by how they are called.
LOOKED_AT = late.compile(
    r"(?:\.(?:dart|kt|kts|java|gradle|swift|m|ts|tsx|js|jsx|mjs|cjs|rb|py|sh|mk|ya?ml|json|jsonc|toml|properties"
    r"|xml|plist|xcconfig)|(?:\A|/)[A-Z]\w*file)\Z"
)
# Written by tools that list what they fetched.
_LOCKED = late.compile(r"(?:\A|/)(?:package-lock|npm-shrinkwrap|pnpm-lock|composer\.lock)[\w.]*\Z")
LONGEST = 400_000
# Built packages are made anew for each flavor.
_BUILT = late.compile(r"\.(?:apk|apks|aab|aar|ipa|xcarchive|app|dSYM|zip)\Z")
# Xcode projects name theirs: they come and go with the configurations.
_SETTINGS, _SCHEME = late.compile(r"\.xcconfig\Z"), late.compile(r"\.xcscheme\Z")
# Pictures and what holds them are drawn; what a service gives out is fetched there.
FETCHED = late.compile(r"(?:/|\A)(?:google-services\.json|GoogleService-Info\.plist)\Z")
DRAWN = late.compile(
    r"\.(?:png|webp|jpe?g|svg|pdf|ttf|otf)\Z"
    r"|/(?:mipmap|drawable)[^/]*/|\.(?:appiconset|imageset|launchimage|brandassets)/"
)

_ICONS = late.compile(r"/(?:mipmap|drawable)[^/]*/|\.appiconset/")
PICTURE = late.compile(r"\.(?:png|webp|jpe?g|svg|pdf)\Z")

# Tells whether a change may touch a path.
Allowed = Callable[[str], bool]


class Wanted(NamedTuple):
    """A new flavor, its siblings, the one that it is made after (empty: the most usual), its own values."""

    new: Called
    siblings: Sequence[Called]
    like: str = ""
    given: Mapping[str, str] = {}


def as_neighbours(tree: Tree, wanted: Wanted, allowed: Allowed) -> Draft:
    """Return what most siblings have, for a new flavor, with what is owed in it."""
    draft = Draft()
    if len(wanted.siblings) < 2:
        return draft
    alike = files_alike(tree, [*wanted.siblings, wanted.new])
    likes = _likes(wanted, alike)
    for paths in _common(alike, wanted, allowed):
        _make(tree, wanted, likes, paths, draft)
    names = Names([*wanted.siblings, wanted.new])
    for path, text, source in _texts(tree, wanted.siblings, allowed):
        if any(True for _ in names.spans(path)):  # what it holds is that one's
            continue
        with contextlib.suppress(FormatError):  # the file cannot say it: that it names the others alone is said
            cuts = with_flavor(text, path, wanted.siblings, likes, wanted.new, wanted.given)
            if cuts and _reads(path, applied_cuts(text, cuts)):
                draft.edits += list(_edits(path, source, text, cuts))
                draft.owed += _owed(path, text, cuts)
    return draft


def _common(alike: Sequence[Mapping[str, str]], wanted: Wanted, allowed: Allowed) -> Iterator[Mapping[str, str]]:
    """Yield the files that most siblings have, and the new flavor has not."""
    for paths in alike:
        first = next(iter(paths.values()))
        if wanted.new.name not in paths and majority(len(paths), wanted.siblings) and allowed(first):
            yield paths


def lacking_files(tree: Tree, wanted: Wanted, allowed: Allowed) -> Iterator[Note]:
    """Say which files siblings have and nobody made for the new one: pictures, texts that are each one's own."""
    if len(wanted.siblings) < 2:
        return
    names, missing = Names(wanted.siblings), dict[str, list[Mapping[str, str]]]()
    for paths in _common(files_alike(tree, [*wanted.siblings, wanted.new]), wanted, allowed):
        flavor, first = next(iter(paths.items()))
        home = parent(names.renamed(first, flavor, wanted.new))
        drawn = _ICONS.search(first) is not None and any(True for _ in tree.below(home))
        if not FETCHED.search(first) and not drawn:
            missing.setdefault(_top(paths, names), []).append(paths)
    yield from _lacking(missing, wanted)


def suggested(tree: Tree, wanted: Wanted, allowed: Allowed) -> Iterator[tuple[FileChange, list[Note]]]:
    """Yield the texts that name most siblings in a form that is not plain, and not the new one: a patch, its places.

    Nothing of it is certain, so a person judges it.
    """
    if len(wanted.siblings) < 2:
        return
    names = Names([*wanted.siblings, wanted.new])
    likes = _likes(wanted, files_alike(tree, [*wanted.siblings, wanted.new]))
    for path, text, source in _texts(tree, wanted.siblings, allowed):
        if any(True for _ in names.spans(path)):  # what it holds is that one's
            continue
        found = suggestions(text, path, wanted.siblings, likes, wanted.new, wanted.given)
        notes, cuts = list[Note](), list[Cut]()
        for item in found:
            shown = ", ".join(item.named[:3]) + (" and others" if len(item.named) > 3 else "")
            said = f"names {shown}, not {wanted.new.name}: "
            said += "a patch that adds it is proposed" if item.cuts else "add it there by hand"
            notes.append(Note(f"{path}:{text.count(chr(10), 0, item.at) + 1}", said))
            cuts += item.cuts
        if notes:
            data = source.data[: source.mark] + source.raw(applied_cuts(text, sorted(cuts)))
            yield FileChange(path, path, source.data, data), notes


def files_lacking(tree: Tree, flavors: Sequence[Called], allowed: Allowed) -> Iterator[tuple[str, str, str]]:
    """Yield the files that most flavors have and some lack: whose is lacking, its path, that of one that is there."""
    names = Names(flavors)
    for paths in files_alike(tree, flavors):
        flavor, first = next(iter(paths.items()))
        missing = [item for item in flavors if item.name not in paths]
        if missing and allowed(first) and majority(len(paths), range(len(flavors) - 1)):
            yield from ((item.name, names.renamed(first, flavor, item), first) for item in missing)


def texts_lacking(tree: Tree, flavors: Sequence[Called], allowed: Allowed) -> Iterator[tuple[str, int, Lacking]]:
    """Yield path, line and what a text says of the other flavors and not of one: in lists, cases, tables, blocks."""
    for path, text, _ in _texts(tree, flavors, allowed):
        if any(True for _ in Names(flavors, path).spans(path)):  # what it holds is that one's
            continue
        for item in lacking(text, path, flavors):
            yield path, text.count("\n", 0, item.at) + 1, item


def without_neighbour(tree: Tree, flavors: Sequence[Called], gone: str, allowed: Allowed) -> Draft:
    """Return what takes a flavor out wherever it is listed as others are, with the files that are its alone."""
    draft = Draft()
    for paths in files_alike(tree, flavors):
        mine = gone in paths and allowed(paths[gone]) and not _SCHEME.search(paths[gone])
        if mine and _is_own_file(tree, flavors, paths, gone):
            draft.removed.append(paths[gone])
    for path, text, source in _texts(tree, [item for item in flavors if item.name == gone], allowed):
        if path in draft.removed:
            continue
        cuts = without_flavor(text, path, flavors, gone)
        if cuts and _reads(path, applied_cuts(text, cuts)):
            draft.edits += _edits(path, source, text, cuts)
    return draft


def _is_own_file(tree: Tree, flavors: Sequence[Called], paths: Mapping[str, str], gone: str) -> bool:
    """Tell whether a file is a flavor's, and not something else's that is called so."""
    texts = {name: found[1] for name, path in paths.items() if (found := _text(tree, path)) is not None}
    own = texts.pop(gone, None)
    names = Names(flavors, paths[gone])
    twin = Twin("", (Owing(0, "", ""),))  # what is not text is each one's own
    if own is not None:
        twin = Twins(paths[gone], names, gone, Called(gone, {}, ""), {}).twin(own, texts)
    return not may_be_other(paths, twin)


def staying(
    tree: Tree, flavors: Sequence[Called], gone: Called, allowed: Allowed, prose: bool = False
) -> Iterator[Note]:
    """Yield what still speaks of a flavor that is gone: files called after it, lines that name it, of *prose* too."""
    names, fold = Names([item._replace(shown="") for item in flavors]), gone.name.casefold()
    told: dict[str, Note] = {}
    for path in tree.files:
        if fold not in path.casefold() or not allowed(path) or path in own_files(tree):
            continue
        parts = path.split("/")
        for number, part in enumerate(parts, 1):
            if any(span.flavor == gone.name for span in names.spans(part)):
                top = "/".join(parts[:number])
                told.setdefault(
                    top, Note(top, f"is named after {gone.name} and was kept: delete it if nothing reads it")
                )
                break
    yield from told.values()
    for path, text, _ in _texts(tree, [gone], allowed, prose):
        lines = [
            n for n, line in enumerate(text.split("\n"), 1) if any(s.flavor == gone.name for s in names.spans(line))
        ]
        if lines and not any(path == top or path.startswith(f"{top}/") for top in told):
            more = {1: "", 2: ", on another line too"}.get(len(lines), f", on {len(lines) - 1} more lines too")
            yield Note(f"{path}:{lines[0]}", f"still names {gone.name}{more}")


def own_paths(projects: Sequence[Project], meant: Sequence[Project]) -> Allowed:
    """Return what tells whether a path does not lie in the folder of another app that is not meant."""
    own = [f"{project.folder}/" for project in meant]
    apart = {f"{item.folder}/" for item in projects if item.folder and (item.apps or item.umbrella)}
    others = tuple(folder for folder in apart if not any(mine.startswith(folder) for mine in own))
    return lambda path: not path.startswith(others)


def _likes(wanted: Wanted, alike: Sequence[Mapping[str, str]]) -> list[str]:
    """Return the siblings by how much they have of what most have; first the one that is asked for."""
    usual = [paths for paths in alike if majority(len(paths), wanted.siblings)]
    names = [item.name for item in wanted.siblings]
    return sorted(names, key=lambda name: (name != wanted.like, -sum(name in paths for paths in usual)))


def files_alike(tree: Tree, flavors: Sequence[Called], settings: bool = False) -> list[dict[str, str]]:
    """Return the files that are called after flavors and differ in that alone, each by its flavor.

    Files of build settings come and go with the configurations that name them: they count with *settings* alone.
    """
    names = Names([item._replace(shown="") for item in flavors])
    fold = [item.name.casefold() for item in flavors]
    own = own_files(tree)
    found: dict[str, dict[str, str]] = defaultdict(dict)
    for path in tree.files:
        low = path.casefold()
        if not any(name in low for name in fold) or path in own or _BUILT.search(path):
            continue
        if not settings and _SETTINGS.search(path):
            continue
        named = list(dict.fromkeys(span.flavor for span in names.spans(path)))
        if len(named) == 1:
            found[names.braced(path, named[0])].setdefault(named[0], path)
    return [paths for paths in found.values() if len(paths) > 1]


def _make(tree: Tree, wanted: Wanted, likes: Sequence[str], paths: Mapping[str, str], draft: Draft) -> None:
    """Make a new flavor's file, where its siblings' show what it says."""
    model = next((name for name in likes if name in paths), "")
    if not model or DRAWN.search(paths[model]) or FETCHED.search(paths[model]):
        return
    texts = {name: _text(tree, path) for name, path in paths.items()}
    own = texts.pop(model)
    if own is None:
        return
    source, text = own
    path = paths[model]
    names = Names([*wanted.siblings, wanted.new], path)
    target = Names([item._replace(shown="") for item in wanted.siblings]).renamed(path, model, wanted.new)
    twins = Twins(target, names, model, wanted.new, wanted.given)
    mates = {name: other[1] for name, other in texts.items() if other is not None}
    if target == path or tree.exists(target) or not mates or not twins.alike(text, mates):
        return
    try:
        twin = twins.twin(text, mates)
        data = source.data[: source.mark] + source.raw(twin.text)
    except FormatError:
        return
    if not _reads(target, twin.text) or may_be_other(paths, twin):
        return
    draft.created.append((target, data))
    draft.owed += _owed(target, "", [Cut(0, 0, twin.text, twin.owed)])


def _texts(
    tree: Tree, called: Sequence[Called], allowed: Allowed, prose: bool = False
) -> Iterator[tuple[str, str, Source]]:
    """Yield the files that name more than half of some flavors, with their texts: code, data, or all (*prose*)."""
    names = [item.name.casefold().encode() for item in called]
    own = own_files(tree)
    for path in tree.files:
        if not (prose or LOOKED_AT.search(path)) or _LOCKED.search(path) or path in own or not allowed(path):
            continue
        data = tree.read(path) or b""
        folded = flat(data).lower() if len(data) <= LONGEST else b""
        if sum(name in folded for name in names) * 2 > len(names):
            found = _text(tree, path)
            if found is not None:
                yield path, found[1], found[0]


def _text(tree: Tree, path: str) -> tuple[Source, str] | None:
    """Return a file's text, where an edit can write every byte of it again."""
    data = tree.read(path)
    if data is None or len(data) > LONGEST or looks_binary(data):
        return None
    try:
        source = Source.read(data)
        text = source.text(0, len(source.view))
        return (source, text) if source.raw(text) == data[source.mark :] else None
    except FormatError:
        return None


def _reads(path: str, text: str) -> bool:
    """Tell whether a changed file is still one of its kind, where that can be told."""
    try:
        if path.endswith((".json", ".jsonc")):
            parse_json(text.encode())
        elif path.endswith((".xml", ".plist")):
            parse_xml(text.encode())
        elif path.endswith(".toml"):
            tomllib.loads(text)
    except (FormatError, tomllib.TOMLDecodeError, RecursionError):
        return False
    return True


def _edits(path: str, source: Source, text: str, cuts: Iterable[Cut]) -> Iterator[Edit]:
    for cut in cuts:
        start = source.mark + len(source.raw(text[: cut.start]))
        end = start + len(source.raw(text[cut.start : cut.end]))
        yield Edit(path, start, end, source.raw(cut.text), "flavor")


def _owed(path: str, text: str, cuts: Sequence[Cut]) -> Iterator[Owed]:
    """Yield what is owed in a file, with its lines as they will be."""
    shift = 0
    for cut in cuts:
        line = text.count("\n", 0, cut.start) + 1 + shift
        yield from (Owed(f"{path}:{line + item.line}", item.key, item.stands != OWED) for item in cut.owed)
        shift += cut.text.count("\n") - text.count("\n", cut.start, cut.end)


def _top(paths: Mapping[str, str], names: Names) -> str:
    """Return the first folder, or the file, that is called after a flavor: it stands for what is in it."""
    flavor, path = next(iter(paths.items()))
    parts = path.split("/")
    at = next(n for n, part in enumerate(parts, 1) if n == len(parts) or any(True for _ in names.spans(part)))
    return names.braced("/".join(parts[:at]), flavor)


def _lacking(missing: Mapping[str, Sequence[Mapping[str, str]]], wanted: Wanted) -> Iterator[Note]:
    """Say which files siblings have and nobody can make for the new one."""
    for top, every in missing.items():
        having = [item.name for item in wanted.siblings if any(item.name in paths for paths in every)]
        shown = ", ".join(having[:3]) + (" and others" if len(having) > 3 else "")
        first = next(paths[having[0]] for paths in every if having[0] in paths)
        parts = first.split("/")[: top.count("/") + 1]
        drawn = sum(PICTURE.search(next(iter(paths.values()))) is not None for paths in every)
        whole = len(parts) == first.count("/") + 1
        what = [f"{drawn} picture{'s' if drawn > 1 else ''}"] if drawn and not whole else []
        files = len(every) - drawn
        what += [f"{files} file{'s' if files > 1 else ''}"] if files and not whole else []
        of = f" ({' and '.join(what)})" if what else ""
        yield Note("/".join(parts), f"{shown} have their own{of}; {wanted.new.name} has none yet")
