"""Lists of ways to run an app: an editor's launch configurations, a package's scripts; one way for each flavor.

What names a flavor to the build tools counts, not a word that happens to be the same: ``--flavor name``, the variant
or scheme that is asked for, the task of a variant, the flavor's entry point, the variable of the environment that the
app's own configuration asks for. Sources: docs.flutter.dev, "Set up Flutter flavors"; developer.android.com, "Build
your app from the command line" (tasks are called by variant).
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterator, Mapping, Sequence, Set

from onomaxis import late
from onomaxis.errors import FormatError
from onomaxis.formats.json_members import new_members
from onomaxis.formats.jsonc import JsonDocument, Node, parse_json, written
from onomaxis.formats.xml import parse_xml
from onomaxis.model import Edit
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import span_edit
from onomaxis.projects.neighbours.called import Called, renamed, snake
from onomaxis.tree import Tree, join

LAUNCHES = ".vscode/launch.json"
_LISTS = ((LAUNCHES, "configurations"), ("package.json", "scripts"))
# JetBrains, "Run/debug configurations": shared ones stand in the folder .run, or with the project's other settings.
_RUNS = (".run", ".idea/runConfigurations")
# docs.expo.dev, "Configure EAS Build with eas.json": what a way to build says, whatever its name.
_OF_PROFILES = frozenset({"extends", "distribution", "developmentClient", "channel", "autoIncrement", "env"})
_KEY = late.compile(r'"(?:[^"\\\n]|\\.)*"\s*:\s*$')
# What runs an app that has no flavors, and what it says of one: by the flavor, its Android ID, its scheme in Xcode.
# Sources: the documentation of each framework's command line.
_PLAIN_RUNS = (
    (r"react-native run-android", "--mode={flavor}Debug --appId={id}"),
    (r"react-native run-ios", "--scheme={scheme}"),
    (r"expo run:android", "--variant={flavor}Debug --app-id={id}"),
    (r"expo run:ios", "--scheme={scheme}"),
    (r"cap run android", "--flavor={flavor}"),
    (r"cap run ios", "--scheme={scheme}"),
    (r"flutter (?:run|build (?:apk|appbundle|ios|ipa))", "--flavor={flavor}"),
)
_TOLD = late.compile(r"(?: --(?:mode|variant|flavor|scheme|appId|app-id)=(?:[\w.-]+|\\\"[^\"\\]*\\\"))+")
# That a command names one already; no command goes on for longer.
_ASKS_FOR_ONE = r"[^;&|]{0,1000}--(?:mode|variant|flavor|scheme)\b"
# What names some flavor, whichever it is.
_FLAVORED = late.compile(r"--flavor|\bmain_\w+\.dart")


def _big(name: str) -> str:
    return name[:1].upper() + name[1:]


def twins(
    tree: Tree, folder: str, siblings: Sequence[Called], new: Called, variables: Set[str] = frozenset()
) -> Draft:
    """Return what lists a new flavor wherever siblings are listed: as the one that is named most, names replaced.

    *variables* of the environment are those by which the app's own configuration tells its flavors apart.
    """
    draft = Draft()
    for path, document, holder in _holders(tree, folder, variables):
        if any(_names(entry, new.name, variables) for entry in _entries(holder)):
            continue
        listed = {s.name: [entry for entry in _entries(holder) if _names(entry, s.name, variables)] for s in siblings}
        model = max(siblings, key=lambda s: len(listed[s.name]), default=None)  # the first of those named most
        if model is None or not listed[model.name]:
            continue
        found = listed[model.name]
        text = "".join(_twin(document, holder, item, model, new) for item in found)
        draft.edits.append(span_edit(path, document.source, found[-1][1].end, found[-1][1].end, text))
    return draft


def names_flavors(tree: Tree, path: str) -> bool:
    """Tell whether a list of launch configurations names flavors."""
    document = _parsed(tree, path)
    holder = document.top.get("configurations") if document else None
    return any(_FLAVORED.search(text) for item in (holder.items if holder else ()) for text in _strings(item))


def appended(tree: Tree, path: str, entry: Mapping[str, object]) -> Draft:
    """Return what adds a launch configuration to a list that names no flavor yet; nothing where there is no list."""
    document = _parsed(tree, path)
    holder = document.top.get("configurations") if document else None
    if document is None or holder is None or holder.kind != "array" or not holder.items:
        return Draft()
    if any(_FLAVORED.search(text) for item in holder.items for text in _strings(item)):
        return Draft()
    end = holder.items[-1].end
    lead, newline = _lead(document, holder), document.source.newline
    text = f",{lead}" + written(document, dict(entry), 0).replace(newline, lead if "\n" in lead else newline)
    return Draft(edits=[span_edit(path, document.source, end, end, text)])


def run_as(tree: Tree, folder: str, ways: Mapping[str, str]) -> Draft:
    """Let a package's scripts that run an app without flavors run its first: *ways* says how tools call it."""
    draft, path = Draft(), join(folder, "package.json")
    for node in _scripts(tree, path):
        source, text = node[0].source, node[0].source.view[node[1].start : node[1].end]
        for command, options in _PLAIN_RUNS:
            wanted = re.findall(r"\{(\w+)\}", options)
            if not all(ways.get(name) for name in wanted):
                continue
            words = {name: way if re.fullmatch(r"[\w.-]+", way) else f'\\"{way}\\"' for name, way in ways.items()}
            for found in re.finditer(rf"\b{command}(?![\w:-])(?!{_ASKS_FOR_ONE})", text):
                at = node[1].start + found.end()
                draft.edits.append(span_edit(path, source, at, at, f" {options.format(**words)}"))
    return draft


def _scripts(tree: Tree, path: str) -> Iterator[tuple[JsonDocument, Node]]:
    document = _parsed(tree, path)
    holder = document.top.get("scripts") if document else None
    for _, node in holder.members if document is not None and holder is not None else ():
        if document is not None and isinstance(node.value, str):
            yield document, node


def _plain_again(path: str, document: JsonDocument, entry: _Entry, name: str) -> list[Edit]:
    """Return what lets a script that is called after no flavor, and ran the last one, run the app again."""
    key, node = entry
    text, found = document.source.view[node.start : node.end], []
    for command, _ in _PLAIN_RUNS if key and name.casefold() not in key.casefold() else ():
        for match in re.finditer(rf"\b{command}(?P<told>{_TOLD.pattern})", text):
            start, end = (node.start + at for at in match.span("told"))
            found.append(span_edit(path, document.source, start, end, b""))
    return found


def without(tree: Tree, folder: str, name: str, variables: Set[str] = frozenset()) -> Draft:
    """Return what takes a flavor out of the lists, and its own run configurations away."""
    draft = Draft()
    for path, document, holder in _holders(tree, folder, variables):
        entries = list(_entries(holder))
        named = [_names(entry, name, variables) for entry in entries]
        rest = (entry for entry, mine in zip(entries, named, strict=True) if not mine)
        others = any(_TOLD.search(said) for entry in rest for said in _strings(entry[1]))
        again: list[list[Edit]] = [[] for _ in entries]
        for number, entry in enumerate(entries) if not others else ():
            again[number] = _plain_again(path, document, entry, name) if named[number] else []
        draft.edits += [edit for edits in again for edit in edits]
        gone = [mine and not edits for mine, edits in zip(named, again, strict=True)]
        for start, end in _cuts(document, holder, gone):
            draft.edits.append(span_edit(path, document.source, start, end, b""))
    for where in _RUNS:
        for path in tree.below(join(folder, where)):
            if path.endswith(".xml") and _runs(tree.read(path) or b"", name):
                draft.removed.append(path)
    return draft


def _runs(data: bytes, name: str) -> bool:
    """Tell whether a run configuration builds a flavor."""
    try:
        elements = parse_xml(data).root.walk()
    except FormatError:
        return False
    return any(item.value("name") == "buildFlavor" and item.value("value") == name for item in elements)


def _holders(tree: Tree, folder: str, variables: Set[str]) -> Iterator[tuple[str, JsonDocument, Node]]:
    for file, key in (*_LISTS, *_profiles(tree, folder, variables)):
        path = join(folder, file)
        document = _parsed(tree, path)
        holder = document.top.get(key) if document else None
        if document is not None and holder is not None and _entries(holder):
            yield path, document, holder


def _profiles(tree: Tree, folder: str, variables: Set[str]) -> Iterator[tuple[str, str]]:
    """Yield the files of ways to build, by their form: named objects, one of which sets a variable that is asked."""
    for path in tree.below(folder) if variables else ():
        name = path[len(folder) + 1 if folder else 0 :]
        if "/" in name or not name.endswith(".json") or any(name == file for file, _ in _LISTS):
            continue
        document = _parsed(tree, path)
        for key, holder in document.top.members if document else ():
            if any(_set_here(entry, variables) for _, entry in holder.members):
                yield name, key


def first_profile(tree: Tree, folder: str, variable: str, name: str) -> Draft:
    """Return what adds a way to build the first variant, where a list of such ways sets no variable yet.

    It goes on from the one that is published.
    """
    draft = Draft()
    for path in tree.below(folder):
        inner = path[len(folder) + 1 if folder else 0 :]
        document = _parsed(tree, path) if "/" not in inner and inner.endswith(".json") else None
        ways = document.top.get("build") if document is not None else None
        if document is None or ways is None:
            continue
        if not any(key in _OF_PROFILES for _, way in ways.members for key, _ in way.members):
            continue
        names = [key for key, _ in ways.members]
        if name in names or any(_set_here(way, {variable}) for _, way in ways.members):
            continue
        model = "production" if "production" in names else names[-1]
        wanted = {("build", name, "extends"): model, ("build", name, "env", variable): name}
        for start, end, text in new_members(document, wanted):
            draft.edits.append(span_edit(path, document.source, start, end, text))
    return draft


def _set_here(entry: Node, variables: Set[str]) -> list[object]:
    """Return what an entry sets the variables to."""
    return [value.value for node in entry.walk() for key, value in node.members if key in variables]


def _parsed(tree: Tree, path: str) -> JsonDocument | None:
    data = tree.named_file(path)
    try:
        return parse_json(data) if data else None
    except FormatError:
        return None


_Entry = tuple[str, Node]


def _entries(holder: Node) -> list[_Entry]:
    """Return what a list holds: its items, or its members with their keys."""
    return [("", item) for item in holder.items] or list(holder.members)


def _strings(node: Node) -> list[str]:
    return [item.value for item in node.walk() if isinstance(item.value, str)]


def _names(entry: _Entry, name: str, variables: Set[str]) -> bool:
    """Tell whether an entry names a flavor to the build tools."""
    if name in _set_here(entry[1], variables):
        return True
    said = " ".join(_strings(entry[1]))
    big = re.escape(_big(name))
    ends = r"(?![a-z0-9])"
    before = r"(?:=|\s+)[\"']?(?:[^\s\"',]{0,99}[-_. ])?"
    word = rf"(?:{re.escape(name)}|{big}|[a-z][A-Za-z0-9]{{0,99}}?{big})"  # the whole, or a part of a combination
    option = rf"--?(?:flavor|mode|variant|configuration|scheme){before}{word}{ends}"
    task = rf"(?:assemble|bundle|install|publish)(?:[A-Z][A-Za-z0-9]{{0,99}}?)?{big}{ends}"
    point = rf"\bmain_{re.escape(snake(name))}\.dart\b"
    asked = rf"\b(?:{'|'.join(map(re.escape, sorted(variables))) or '(?!)'})=[\"']?{re.escape(name)}(?![\w-])"
    return re.search(f"{option}|{task}|{point}|{asked}", said) is not None


def _twin(document: JsonDocument, holder: Node, entry: _Entry, model: Called, new: Called) -> str:
    """Return the text of a sibling's entry for another flavor, with what separates it from the one before."""
    key, node = entry
    text = document.source.text(node.start, node.end)
    if holder.kind == "array":
        return f",{_lead(document, holder)}{renamed(text, model, new, _in_json)}"
    name, text = renamed(key, model, new), renamed(text, model, new)
    named = json.dumps(name if name != key else f"{key}:{new.name}", ensure_ascii=False)
    return f",{_lead(document, holder)}{named}{document.colon}{text}"


def _in_json(title: str) -> str:
    return json.dumps(title, ensure_ascii=False)[1:-1]


def _lead(document: JsonDocument, holder: Node) -> str:
    """Return what stands before an entry of a list: a new line and its indent, or a blank in a list on one line."""
    first = _start(document, holder, 0)
    between = document.source.view[holder.start + 1 : first]
    return document.source.newline + between[between.rfind("\n") + 1 :] if "\n" in between else " "


def _start(document: JsonDocument, holder: Node, index: int) -> int:
    """Return where an entry begins: its key, where it has one."""
    entries = _entries(holder)
    if holder.kind == "array":
        return entries[index][1].start
    before = entries[index - 1][1].end if index else holder.start + 1
    found = _KEY.search(document.source.view[before : entries[index][1].start])
    return before + found.start() if found else before


def _cuts(document: JsonDocument, holder: Node, gone: Sequence[bool]) -> Iterator[tuple[int, int]]:
    """Yield the spans that take entries out with the comma that belongs to each."""
    entries = _entries(holder)
    kept = [index for index, out in enumerate(gone) if not out]
    for index, out in enumerate(gone):
        if not out:
            continue
        if any(other < index for other in kept):
            yield entries[index - 1][1].end, entries[index][1].end
        elif index + 1 < len(entries):
            yield _start(document, holder, index), _start(document, holder, index + 1)
        else:
            yield _start(document, holder, index), entries[index][1].end
