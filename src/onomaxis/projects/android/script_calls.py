"""Calls of a build script that are followed: on texts, lists, maps, files and the project itself.

Source: docs.gradle.org, "Project" and "ProviderFactory"; docs.groovy-lang.org (GDK), kotlinlang.org (collections,
scope functions).
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import replace

from onomaxis.errors import FormatError
from onomaxis.formats.jsonc import Node as JsonNode
from onomaxis.formats.jsonc import parse_json
from onomaxis.formats.properties import parse_properties
from onomaxis.formats.source import Source
from onomaxis.model import Piece
from onomaxis.projects.android.scope import Unknown
from onomaxis.projects.android.script_data import (
    LONGEST,
    TREE,
    Asker,
    Data,
    File,
    Function,
    Host,
    Nothing,
    Table,
    Text,
    as_boolean,
    as_number,
    computed,
    grown,
    joined,
    number_of,
    same,
    sure,
    table_of,
    text_call,
    text_of,
    told,
    truth,
)
from onomaxis.projects.project import place
from onomaxis.tree import join, parent

LISTS = frozenset(
    {"listOf", "mutableListOf", "arrayOf", "setOf", "linkedSetOf", "sequenceOf", "arrayListOf", "listOfNotNull"}
)
MAPS = frozenset({"mapOf", "mutableMapOf", "linkedMapOf", "hashMapOf"})
_STREAMS = frozenset({"FileInputStream", "FileReader", "InputStreamReader", "BufferedReader", "BufferedInputStream"})
# What a project is asked for one of its properties, or for a file.
ASKED = frozenset(
    {"property", "findProperty", "getProperty", "hasProperty", "gradleProperty", "get", "has", "getOrNull"}
    | {"file", "dir", "environmentVariable", "systemProperty", "fileContents", "getByName"}
)
_SCOPES = frozenset({"apply", "also", "with", "run", "let", "use", "tap", "configure"})
_OPENED = frozenset({"withInputStream", "withReader", "use", "withDataInputStream"})


def items(value: Data) -> list[Data]:
    """Return the items of a list, or the keys of a map. Raises Unknown for anything else."""
    if isinstance(value, list):
        return sure(value)
    if isinstance(value, Table):
        return [computed(key) for key in value.whole()]
    raise Unknown("what is gone through is not a list that is written here")


def turns(value: Data) -> list[Data]:
    """Return what a loop over a value is given, turn by turn: a map's pairs. Raises Unknown."""
    return _pairs(value) if isinstance(value, Table) else items(value)


def parts(value: Data) -> list[Data]:
    """Return what ``(a, b)`` takes from a value: a list's items, or a pair's key and value. Raises Unknown."""
    if isinstance(value, Table) and "key" in value.entries and "value" in value.entries:
        return [value.entries["key"], value.entries["value"]]
    return items(value)


def _pairs(table: Table) -> list[Data]:
    return [
        Table({"key": computed(key), "value": value, "first": computed(key), "second": value})
        for key, value in table.whole().items()
    ]


def made(ev: Asker, name: str, args: list[Data]) -> Data | None:
    """Return what a call by a name alone gives: a list, a map, a file, a property. None where it is not known."""
    if name in LISTS:
        return args
    if name in MAPS:
        return table_of(args)
    if name in ("Properties", "JsonSlurper", "Gson", "LinkedHashMap", "HashMap"):
        return Table({}, name)
    if name in _STREAMS and args:
        return args[0]
    if name == "File" and args:
        return file_of(ev, args[-1], parent_path(args[0])) if len(args) > 1 else file_of(ev, args[0], None)
    if name == "JSONObject" and args:
        return _json(ev, args[0])
    if name in ("String", "Integer") and args:
        return args[0]
    return _asked(ev, Host("project"), name, args) if name in ASKED - {"get", "has", "dir"} else None


def parent_path(value: Data) -> str:
    """Return the folder that a file is made in. Raises Unknown."""
    if isinstance(value, File):
        return value.path
    text = str(text_of(value))
    if not text.startswith(TREE):
        raise Unknown("a folder is computed when the build runs")
    return text.removeprefix(TREE)


def file_of(ev: Asker, value: Data, folder: str | None, root: bool = False) -> File:
    """Return the file that a value names. Raises Unknown."""
    if isinstance(value, File):
        return value
    text = str(text_of(value))
    if text.startswith(TREE):
        folder, text = "", text.removeprefix(TREE)
    path = join(ev.names.folder(ev.file, root) if folder is None else folder, text)
    if (text.startswith("/") and folder != "") or (".." in text and not path):
        raise Unknown(f"the file “{text}” lies outside of the project")
    return File(path)


def _asked(ev: Asker, of: Host, name: str, args: list[Data]) -> Data | None:
    """Return what a project gives: a property, a file, a provider."""
    if name not in ASKED or not args:
        return None
    if name in ("environmentVariable", "systemProperty"):
        raise Unknown("a variable of the environment decides it when the build runs")
    if name in ("file", "dir"):
        return file_of(ev, args[0], None, of.name == "rootProject")
    if name == "fileContents":
        return args[0]
    key = str(text_of(args[0]))
    found = ev.names.shared(key)
    if isinstance(found, Nothing) and ev.names.weighing:
        raise Unknown(f"“{key}” may be given when the build runs")
    if name in ("hasProperty", "has"):
        return not isinstance(found, Nothing)
    return Nothing(found.reason) if isinstance(found, Nothing) and found.kind == "missing" else found


def called(ev: Asker, of: Data, name: str, args: list[Data], named: Mapping[str, Data]) -> Data | None:
    """Return what a call on a value gives; None where it is not known. Raises Unknown."""
    last = args[-1] if args and isinstance(args[-1], Function) else None
    if isinstance(of, Function) and name in ("call", "invoke"):
        return ev.names.run(of, args, named)
    if last is not None and name in (_OPENED if isinstance(of, File) else _SCOPES):
        gives = ev.names.run(last, [of], {}, None if name in ("let", "also", "use") or isinstance(of, File) else of)
        return of if name in ("apply", "also", "tap") else gives
    if name in ("orElse", "getOrElse", "orNull", "isPresent", "takeIf") and not isinstance(of, Table):
        return _provided(ev, of, name, args)
    if isinstance(of, Nothing):
        if of.kind != "null":
            raise of.doubt()
        return of
    if named and name == "joinToString" and set(named) == {"separator"}:
        args = [named["separator"], *args]
    elif named:
        raise Unknown(f"{name}() is given arguments by their names")
    if isinstance(of, Host):
        return _of_host(ev, of, name, args)
    if isinstance(of, Text) and of.number and name == "times" and last is not None:
        return _with_closure(ev, [computed(at) for at in range(number_of(of))], "each", last, [])
    if isinstance(of, Text):
        return _of_text(ev, of, name, args, last)
    if isinstance(of, File):
        return _of_file(ev, of, name, args)
    if isinstance(of, Table):
        return _of_table(ev, of, name, args, last)
    return _of_list(ev, of, name, args, last) if isinstance(of, list) else None


def _provided(ev: Asker, of: Data, name: str, args: list[Data]) -> Data:
    if name == "isPresent":
        return not isinstance(of, Nothing)
    if name == "orNull":
        return of
    if name == "takeIf":
        return of if truth(ev.names.run(args[0], [of], {})) else Nothing("it is left out")  # type: ignore[arg-type]
    other = args[0] if args else Nothing("no other value")
    if isinstance(of, Nothing):
        return ev.names.run(other, [], {}) if isinstance(other, Function) else other
    return of


def _of_host(ev: Asker, of: Host, name: str, args: list[Data]) -> Data | None:
    if (
        of.name in ("Integer", "Long", "Int", "String")
        and name in ("parseInt", "valueOf", "parseLong", "toInteger")
        and args
    ):
        return Text(text_of(args[0]).pieces) if of.name == "String" else as_number(args[0])
    if of.name == "Boolean" and name in ("valueOf", "parseBoolean") and args:
        value = args[0]
        if isinstance(value, bool) or (isinstance(value, Nothing) and value.kind == "null"):
            return value is True
        return as_boolean(str(text_of(value)))
    if of.name == "String" and name == "format" and args:
        return _formatted(str(text_of(args[0])), args[1:])
    if of.name == "System":
        raise Unknown("a variable of the environment decides it when the build runs")
    if of.name == "JsonParser" and args:
        return _json(ev, args[0])
    if of.name[:1].isupper():
        return None
    return _asked(ev, of, name, args)


def _formatted(form: str, args: list[Data]) -> Text:
    """Return a text by a form of plain fields: ``%s``, ``%d``, ``%02d``."""
    rest = list(args)

    def field(match: re.Match[str]) -> str:
        if not rest:
            raise Unknown("a form has more fields than values")
        text = str(text_of(rest.pop(0)))
        return text.rjust(int(match[2] or 0), "0" if match[1] else " ")

    if re.search(r"%(?!0?\d?[sd])", form):
        raise Unknown("a form is not read")
    return computed(re.sub(r"%(0?)(\d?)[sd]", field, form))


def _of_text(ev: Asker, of: Text, name: str, args: list[Data], last: Function | None) -> Data | None:
    if name in ("map", "replaceFirstChar", "ifEmpty", "ifBlank") and last is not None:
        if name.startswith("if"):
            return of if (str(of).strip() if name == "ifBlank" else str(of)) else ev.names.run(last, [], {})
        if name == "map":
            return ev.names.run(last, [of], {})
        first = text_of(ev.names.run(last, [computed(str(of)[:1])], {}))
        return computed(str(first) + str(of)[1:])
    if name in ("format", "formatted"):
        return _formatted(str(of), args)
    return text_call(of, name, args, ev.file.script.kotlin)


def _read(ev: Asker, path: str) -> bytes | None:
    """Return a file's bytes, None where there is none. Raises Unknown for one that each machine has of its own.

    Source: developer.android.com, "Configure your build" (``local.properties`` is not checked in).
    """
    data = ev.names.read(path)
    if data is None and path.rpartition("/")[2] == "local.properties":
        raise Unknown("local.properties is written on each machine")
    return data


def _of_file(ev: Asker, of: File, name: str, args: list[Data]) -> Data | None:
    if name in ("exists", "isFile", "canRead", "asFile", "file", "dir"):
        if name in ("file", "dir") and args:
            return file_of(ev, args[0], of.path)
        if name == "asFile":
            return of
        return _read(ev, of.path) is not None or (name != "isFile" and ev.names.is_folder(of.path))
    if name in ("isDirectory", "isDir"):
        return ev.names.is_folder(of.path)
    if name in ("text", "readText", "getText", "asText"):
        return _content(ev, of)
    if name in (
        "path",
        "absolutePath",
        "canonicalPath",
        "inputStream",
        "reader",
        "bufferedReader",
        "newInputStream",
        "newDataInputStream",
        "newReader",
        "toPath",
        "toString",
    ):
        return of
    if name in ("parentFile", "parent"):
        return File(parent(of.path))
    return of if name == "get" and not args else None


def _content(ev: Asker, of: File) -> Text:
    """Return what a text file holds; the white space around it is not a part of what may be replaced."""
    data = _read(ev, of.path)
    if data is None:
        raise Unknown(f"{of.path or 'the file'} is not there")
    try:
        source = Source.read(data)
    except FormatError as error:
        raise Unknown(f"{of.path} is not text") from error
    view = source.view
    if len(view) > LONGEST:
        raise Unknown(f"{of.path} is too long for a value")
    start = len(view) - len(view.lstrip())
    end = max(len(view.rstrip()), start)
    body = Piece(source.text(start, end), place(of.path, source, start, end, "raw"))
    pieces = (Piece(source.text(0, start)), body, Piece(source.text(end, len(view))))
    return Text(tuple(piece for piece in pieces if piece.text) or (body,), path=of.path)


def _of_table(ev: Asker, of: Table, name: str, args: list[Data], last: Function | None) -> Data | None:
    if name == "load" and args:
        loaded = _properties(ev, args[0])
        of.entries.update(loaded.entries)
        of.said = loaded.said
        return of
    if name in ("putAll", "plusAssign") and args and isinstance(args[0], Table):
        of.entries.update(args[0].whole())
        return of
    if name == "remove" and len(args) == 1:
        of.whole()
        return of.entries.pop(str(text_of(args[0])), Nothing("it is not in the map"))
    if of.said == "JsonSlurper" or (name in ("parse", "parseText", "fromJson") and args):
        return _json(ev, args[0]) if name in ("parse", "parseText", "parseFile", "fromJson") and args else None
    if name in ("put", "set", "setProperty") and len(args) == 2:
        of.entries[str(text_of(args[0]))] = args[1]
        return of
    if name in _GETTERS and args:
        found = of.entries.get(str(text_of(args[0])))
        if found is None and len(args) > 1 and of.whole() is not None:
            return ev.names.run(last, [], {}) if last is not None else args[1]
        return ev.entry(of, str(text_of(args[0])))
    if name in ("containsKey", "has", "contains") and args:
        key = str(text_of(args[0]))
        return key in of.entries or key in of.whole()
    if of.live and name[:3] in ("get", "set", "is") and name[3:4].isupper():
        key = name[3].lower() + name[4:]
        if name.startswith("set") and args:
            of.entries[key] = args[0]
        return of.get(key)
    if name in ("size", "isEmpty", "isNotEmpty"):
        return computed(len(of.whole())) if name == "size" else bool(of.whole()) == (name == "isNotEmpty")
    if name in ("keys", "keySet", "values", "entries", "entrySet"):
        return (
            items(of) if name in ("keys", "keySet") else list(of.whole().values()) if name == "values" else turns(of)
        )
    if name in ("toMap", "toMutableMap", "clone"):
        return replace(of, entries=dict(of.entries), live=False)
    if name in ("asMap", "getAsJsonObject"):
        return of
    if last is None:
        return None
    pairs = turns(of)
    if len(last.block.params) == 2:
        pairs = [[computed(key), value] for key, value in of.whole().items()]
    return _of_list(ev, pairs, name, args, last)


_GETTERS = frozenset(
    {
        "get",
        "getValue",
        "getProperty",
        "getOrDefault",
        "getOrElse",
        "getString",
        "getInt",
        "getLong",
        "getJSONObject",
        "getJSONArray",
    }
    | {"getAsJsonObject", "optString", "optInt"}
)


def _of_list(ev: Asker, of: list[Data], name: str, args: list[Data], last: Function | None) -> Data | None:
    if name in ("add", "plusAssign", "addAll") and len(args) == 1:
        of[:] = grown(of, items(args[0]) if name == "addAll" else args)
        return True
    of = sure(of)
    if last is not None:
        return _with_closure(ev, of, name, last, args[:-1])
    if name in ("join", "joinToString"):
        return joined(of, str(text_of(args[0])) if args else ", " if name == "joinToString" else "")
    if name in ("first", "last", "firstOrNull", "head"):
        return (of[-1] if name == "last" else of[0]) if of else Nothing("the list is empty")
    if name in ("get", "getAt", "getOrNull", "elementAt") and args:
        at = number_of(args[0])
        return told(of[at]) if at < len(of) else Nothing("the list is shorter")
    if name in ("size", "length", "count"):
        return computed(len(of))
    if name in ("isEmpty", "isNotEmpty"):
        return bool(of) == (name == "isNotEmpty")
    if name in ("contains", "containsAll") and args:
        wanted = items(args[0]) if name == "containsAll" else args[:1]
        return all(any(same(item, one) for item in of) for one in wanted)
    if name == "second" and len(of) > 1:
        return of[1]
    if name in ("reverse", "reversed"):
        return of[::-1]
    if name in _ORDERED and not args:
        return _ordered(of, name)
    if name in ("drop", "take", "dropLast") and len(args) == 1:
        count = number_of(args[0])
        return of[count:] if name == "drop" else of[:count] if name == "take" else of[: max(len(of) - count, 0)]
    if name in ("tail", "init"):
        return of[1:] if name == "tail" else of[:-1]
    if name in ("toList", "asList", "iterator"):
        return of
    return [*of] if name == "toMutableList" else None


_ORDERED = frozenset({"sum", "max", "min", "maxOrNull", "minOrNull", "sorted", "sort", "unique", "distinct", "toSet"})


def _ordered(of: list[Data], name: str) -> Data | None:
    """Return what depends on the order of a list's items: of numbers, or of texts. Raises Unknown for others."""
    texts = [text_of(item) for item in of]
    if not texts or len({text.number for text in texts}) > 1:
        raise Unknown(f"{name}() of such a list is not followed")
    keys: list[int] | list[str] = [number_of(text) for text in texts] if texts[0].number else [*map(str, texts)]
    if name == "sum":
        return computed(sum(number_of(text) for text in texts)) if texts[0].number else joined(of)
    pairs = sorted(zip(keys, range(len(of)), strict=True))
    if name in ("unique", "distinct", "toSet"):
        pairs = sorted(dict(reversed(pairs)).items(), key=lambda pair: pair[1])
    found = [of[at] for _, at in pairs]
    if name in ("sort", "unique"):
        of[:] = found  # these two change the list
    return found[-1] if name.startswith("max") else found[0] if name.startswith("min") else found


def _with_closure(ev: Asker, of: list[Data], name: str, closure: Function, args: list[Data]) -> Data | None:
    def give(item: Data) -> Data:
        spread = isinstance(item, list) and len(closure.block.params) == len(item) > 1
        return ev.names.run(closure, item if spread and isinstance(item, list) else [item], {})

    if name in ("find", "first", "firstOrNull", "singleOrNull", "last", "single"):
        order = reversed(of) if name == "last" else of
        return next((item for item in order if truth(give(item))), Nothing("no item fits"))
    if name in ("findAll", "filter", "filterNot"):
        return [item for item in of if truth(give(item)) == (name != "filterNot")]
    if name in ("collect", "map", "flatMap", "collectMany"):
        found = [give(item) for item in of]
        return [part for item in found for part in items(item)] if name in ("flatMap", "collectMany") else found
    if name in ("any", "every", "all", "none"):
        answers = (truth(give(item)) for item in of)
        return any(answers) if name == "any" else not any(answers) if name == "none" else all(answers)
    if name in ("each", "forEach"):
        for item in of:
            give(item)
        return of
    if name in ("eachWithIndex", "forEachIndexed"):
        for at, item in enumerate(of):
            numbered = [item, computed(at)]
            ev.names.run(closure, numbered if name == "eachWithIndex" else numbered[::-1], {})
        return of
    if name in ("collectEntries", "associate", "associateWith", "associateBy"):
        entries: dict[str, Data] = {}
        for item in of:
            value = give(item)
            if name == "associateWith":
                entries[str(text_of(item))] = value
            elif name == "associateBy":
                entries[str(text_of(value))] = item
            elif isinstance(value, Table):
                entries |= value.entries
            elif isinstance(value, list) and len(value) == 2:
                entries[str(text_of(value[0]))] = value[1]
            else:
                return None
        return Table(entries)
    if name == "joinToString":
        return joined([give(item) for item in of], str(text_of(args[0])) if args else ", ")
    return None


def _properties(ev: Asker, value: Data) -> Table:
    """Return what a properties file holds; one that is not there holds nothing."""
    if not isinstance(value, File):
        raise Unknown("which file is loaded is computed when the build runs")
    data = _read(ev, value.path)
    properties = parse_properties(data) if data is not None else None
    entries: dict[str, Data] = {}
    for entry in properties.entries if properties is not None else ():
        assert properties is not None
        spot = place(value.path, properties.source, entry.start, entry.end, "properties")
        entries[entry.key] = Text((Piece(entry.value, spot),))
    return Table(entries, value.path)


def _json(ev: Asker, value: Data) -> Data:
    """Return what a JSON file holds, each value with its place."""
    path = value.path if isinstance(value, File | Text) else ""
    data = ev.names.read(path) if path else None
    if data is None:
        raise Unknown("which file is read is computed when the build runs")
    try:
        document = parse_json(data)
    except FormatError as error:
        raise Unknown(f"{path} is not JSON") from error

    def data_of(node: JsonNode) -> Data:
        if node.kind == "object":
            return Table({key: data_of(value) for key, value in node.members}, path)
        if node.kind == "array":
            return [data_of(item) for item in node.items]
        if isinstance(node.value, bool):
            return node.value
        if node.value is None:
            return Nothing(f"it is null in {path}")
        inset, syntax = (1, "json") if node.kind == "string" else (0, "number")
        spot = place(path, document.source, node.start + inset, node.end - inset, syntax)
        return Text((Piece(str(node.value), spot),), node.kind != "string")

    return data_of(document.top)
