"""Values in files of every platform: .env files, constants in code, pointers into JSON and YAML, XML attributes."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

from onomaxis import late
from onomaxis.errors import FormatError, InputError
from onomaxis.formats.escapes import decode, encode
from onomaxis.formats.jsonc import Node, parse_json
from onomaxis.formats.lexer import LANGUAGES, Region, Token, matching, tokens
from onomaxis.formats.properties import parse_properties
from onomaxis.formats.source import SPACE, Source
from onomaxis.formats.xcconfig import Setting, parse_xcconfig
from onomaxis.formats.xml import parse_xml, text_span
from onomaxis.formats.yaml import parse_yaml
from onomaxis.model import Edit, Note
from onomaxis.projects.draft import Draft
from onomaxis.projects.places import Spot, gone, literal_spot
from onomaxis.projects.project import place
from onomaxis.tree import Tree

_ENV = late.compile(r"^[ \t]*(?:export[ \t]+)?([A-Za-z_][\w.]*)[ \t]*=[ \t]*([^\r\n]*)", re.MULTILINE)
BARE = late.compile(r"true|false|null|-?\d+(?:\.\d+)?")


def contents(tree: Tree, path: str) -> bytes:
    """Return a file's bytes. Raises InputError when there is none."""
    data = tree.named_file(path)
    if data is None:
        raise InputError("the file of a value is gone", file=path, remedy="Correct its place in the identity file.")
    return data


def env_spot(tree: Tree, name: str, path: str) -> Spot:
    """Return a variable of an ``.env`` file, quoted or not."""
    source = Source.read(contents(tree, path))
    entries = {match[1]: match for match in _ENV.finditer(source.view)}
    match = entries.get(name)
    if match is None:
        raise gone("variable", name, path, entries)
    start, written = match.start(2), match[2]
    quoted = re.match(r"([\"'])((?:[^\"'\\]|\\.|(?!\1)[\"'])*)\1", written)
    if quoted:
        begin, end = start + 1, start + 1 + len(quoted[2])
        syntax = "double-dollar" if quoted[1] == '"' else "single"
        spot = place(path, source, begin, end, syntax)
        return literal_spot(tree, decode(syntax, spot.written), spot)
    end = start + len(re.split(r"(?<![ \t])[ \t]++#", written)[0].rstrip(SPACE))
    spot = place(path, source, start, end, "raw")

    def write(new: str) -> Draft:
        return Draft(edits=[Edit(path, spot.start, spot.end, source.raw(env_text(new)))])

    return Spot(spot.written, path, spot.line, write)


def env_text(text: str) -> str:
    """Return a text as an ``.env`` file takes it: in quotes where it needs them."""
    return text if re.fullmatch(r"[^\s#\"'`$\\]*", text) else f'"{encode("double-dollar", text)}"'


def env_names(data: bytes) -> list[str]:
    """Return the variables of an ``.env`` file. Raises FormatError for what is not text."""
    return list(dict.fromkeys(match[1] for match in _ENV.finditer(Source.read(data).view)))


_VERSION_INFO = late.compile(r'\bVALUE[ \t]+"(\w+)"[ \t]*,[ \t]*"((?:[^"\r\n]|"")*)"')


def version_info_spot(tree: Tree, name: str, path: str) -> Spot:
    """Return a text of the version block of a resource script (Microsoft, "VERSIONINFO resource")."""
    source = Source.read(contents(tree, path))
    found = {match[1]: match for match in _VERSION_INFO.finditer(source.view)}
    match = found.get(name)
    if match is None:
        raise gone("text", name, path, found)
    spot = place(path, source, match.start(2), match.end(2), "raw")

    def write(new: str) -> Draft:
        if re.search(r"[\r\n\\]", new):
            return Draft(
                refusals=[Note(spot.at, f"“{new}” has a line end or a backslash, which would mean another text")]
            )
        return Draft(edits=[Edit(path, spot.start, spot.end, source.raw(new.replace('"', '""')))])

    return Spot(spot.written.replace('""', '"'), path, spot.line, write)


def property_spot(tree: Tree, name: str, path: str) -> Spot:
    """Return an entry of a properties file, or a setting of an Xcode configuration file."""
    if path.endswith(".xcconfig"):
        settings = parse_xcconfig(contents(tree, path))
        found = {item.name: item for item in settings.statements if isinstance(item, Setting)}
        if name not in found:
            raise gone("setting", name, path, found)
        item = found[name]
        return literal_spot(tree, item.value, place(path, settings.source, item.start, item.end, "xcconfig"))
    parsed = parse_properties(contents(tree, path))
    entry = parsed.get(name)
    if entry is None:
        raise gone("property", name, path, (item.key for item in parsed.entries))
    return literal_spot(tree, entry.value, place(path, parsed.source, entry.start, entry.end, "properties"))


# -- constants


def constant_spot(tree: Tree, name: str, path: str) -> Spot:
    """Return the literal that a constant is declared with: ``NAME = "…"``, ``name: "…"``, in a type where named."""
    data = contents(tree, path)
    ending = "." + path.rpartition(".")[2]
    if ending not in LANGUAGES:
        raise InputError(f"constants in {ending} files are not read", file=path)
    source = Source.read(data)
    found = [item for item in tokens(source.view, LANGUAGES[ending]) if item.kind != "newline"]
    *holders, last = name.split(".")
    spans: list[Sequence[Token]] = [found]
    for holder in holders:
        spans = [inner for span in spans for inner in _bodies(span, holder)]
    declared = [(token, value) for span in spans for token, value in _declarations(span)]
    hits = [value for token, value in declared if token.text.strip("`") == last]
    if not hits:
        known = [token.text for token, _ in declared if re.match(r"[A-Za-z_]", token.text)]
        raise gone("constant", name, path, [".".join([*holders, item]) for item in known])
    if len(hits) > 1:
        line = source.line(hits[1].start)
        raise InputError(f"constant “{name}” is declared twice", file=path, line=line, remedy="Name its type too.")
    return _literal(tree, path, source, hits[0])


def _bodies(found: Sequence[Token], holder: str) -> Iterator[Sequence[Token]]:
    """Yield what stands in the braces after a name."""
    for index, token in enumerate(found):
        if token.kind != "name" or token.text != holder:
            continue
        start = index + 1
        while start < len(found) and found[start].text not in ("{", ";", ")"):
            start += 1
        if start < len(found) and found[start].text == "{":
            yield found[start + 1 : matching(found, start)]


def _declarations(found: Sequence[Token]) -> Iterator[tuple[Token, Token]]:
    """Yield each name with the literal that it is declared with."""
    for index, token in enumerate(found):
        if token.kind not in ("name", "string") or index + 2 >= len(found):
            continue
        at = index + 1
        if found[at].text == ":" and found[at + 1].kind == "name" and at + 2 < len(found):
            after = at + 2  # a type between: name: String = …, name: string | null = …
            while (after < len(found) and found[after].text in ("?", "|", "!")) or _is_type(found, after):
                after += 1
            at = after if after < len(found) and found[after].text == "=" else at
        sign = 1 if at + 1 < len(found) and found[at + 1].text in ("@", "-") else 0
        value = found[at + 1 + sign] if at + 1 + sign < len(found) else None
        if found[at].text in ("=", ":") and value is not None and _is_literal(value):
            yield token, value


def _is_type(found: Sequence[Token], at: int) -> bool:
    return at < len(found) and found[at].kind == "name" and found[at - 1].text == "|"


def _is_literal(token: Token) -> bool:
    return token.kind in ("string", "number") or token.text in ("true", "false", "YES", "NO")


def _literal(tree: Tree, path: str, source: Source, token: Token) -> Spot:
    if token.kind != "string":
        spot = place(path, source, token.start, token.end, "raw")
        text = {"YES": "true", "NO": "false"}.get(token.text, token.text)

        def write(new: str) -> Draft:
            bare = {"true": "YES", "false": "NO"}.get(new, new) if token.text in ("YES", "NO") else new
            if not BARE.fullmatch(new):
                return Draft(
                    refusals=[Note(spot.at, f"“{new}” is neither a number nor true or false, as this place is")]
                )
            return Draft(edits=[Edit(path, spot.start, spot.end, source.raw(bare))])

        return Spot(text, path, spot.line, write)
    region = _whole(source, token)
    if region is None or _interpolated(source, region):
        line = source.line(token.start)
        raise InputError("the constant is computed: it is not a plain literal", file=path, line=line)
    if path.endswith(".swift") and token.text.lstrip("#").startswith('"""'):
        region = _one_line(path, source, region)
    spot = place(path, source, region.start, region.end, region.syntax)
    return literal_spot(tree, decode(region.syntax, spot.written), spot)


def _whole(source: Source, token: Token) -> Region | None:
    """Return the body of a string; a dollar sign that a raw string cannot hold otherwise belongs to it."""
    regions = [part for part in token.parts if isinstance(part, Region)]
    others = [source.text(*part).strip() for part in token.parts if not isinstance(part, Region)]
    if not regions or any(text not in ("'$'", '"$"') for text in others):
        return None
    return regions[0]._replace(end=regions[-1].end)


def _one_line(path: str, source: Source, region: Region) -> Region:
    """Return the one line of a string that stands between lines of quotes; the line ends are none of its text."""
    lines = source.view[region.start : region.end].split("\n")
    if len(lines) != 3 or lines[0].strip() or lines[2].strip():
        line = source.line(region.start)
        raise InputError("the constant has several lines", file=path, line=line, remedy="Write it as one line.")
    start = region.start + len(lines[0]) + 1
    indent = len(lines[2]) if lines[1].startswith(lines[2]) else 0
    return region._replace(start=start + indent, end=start + len(lines[1].rstrip("\r")))


def _interpolated(source: Source, region: Region) -> bool:
    pattern = r"(?<!\\)\$(?!\{['\"]\$['\"]\})[A-Za-z_{]"
    return region.syntax in ("double-dollar", "single-dollar", "kotlin-raw") and bool(
        re.search(pattern, source.view[region.start : region.end])
    )


# -- pointers and attributes


def pointer_spot(tree: Tree, pointer: str, path: str) -> Spot:
    """Return what a JSON pointer (RFC 6901) leads to in a JSON or YAML file; its type stays."""
    keys = [part.replace("~1", "/").replace("~0", "~") for part in pointer.split("/")[1:]]
    data = contents(tree, path)
    try:
        if path.endswith((".yaml", ".yml")):
            return _in_yaml(tree, pointer, keys, path, data)
        document = parse_json(data)
    except FormatError as error:
        raise InputError(error.message, file=path, line=error.line) from None
    node: Node | None = document.top
    above = document.top
    for key in keys:
        above = node or above
        if node is not None and node.kind == "array" and key.isdecimal():
            node = node.items[int(key)] if int(key) < len(node.items) else None
        else:
            node = node.get(key) if node is not None else None
    if node is None or node.kind not in ("string", "bare"):
        raise gone("entry", pointer, path, (f"/{'/'.join([*keys[:-1], name])}" for name, _ in above.members))
    if node.kind == "string":
        return literal_spot(tree, str(node.value), place(path, document.source, node.start + 1, node.end - 1, "json"))
    spot = place(path, document.source, node.start, node.end, "raw")
    return Spot(spot.written, path, spot.line, lambda new: _bare(path, spot.start, spot.end, new, document.source))


def _in_yaml(tree: Tree, pointer: str, keys: Sequence[str], path: str, data: bytes) -> Spot:
    document = parse_yaml(data)
    found = document.get(*keys)
    if found is None:
        raise gone("entry", pointer, path, (f"/{'/'.join(item.path)}" for item in document.scalars))
    spot = place(path, document.source, found.start, found.end, "yaml")
    if BARE.fullmatch(spot.written):
        return Spot(found.value, path, spot.line, lambda new: _bare(path, spot.start, spot.end, new, document.source))
    return literal_spot(tree, found.value, spot)


def _bare(path: str, start: int, end: int, new: str, source: Source) -> Draft:
    if not BARE.fullmatch(new):
        return Draft(refusals=[Note(path, f"“{new}” is neither a number nor true or false, as this place is")])
    return Draft(edits=[Edit(path, start, end, source.raw(new))])


def attribute_spot(tree: Tree, name: str, path: str) -> Spot:
    """Return an attribute (``tag@attribute``) or the text (``tag``) of the first such element of an XML file."""
    data = contents(tree, path)
    tag, _, key = name.partition("@")
    try:
        document = parse_xml(data)
    except FormatError as error:
        raise InputError(error.message, file=path, line=error.line) from None
    known: list[str] = []
    for element in document.root.walk():
        known += [f"{element.tag}@{item.name}" for item in element.attributes]
        if element.tag != tag and element.name != tag:
            continue
        if not key:
            span = text_span(document, element)
            if span is not None:
                syntax = "xml-cdata" if span[2] else "xml-text"
                return literal_spot(
                    tree, element.text.strip(SPACE), place(path, document.source, span[0], span[1], syntax)
                )
        for item in element.attributes:
            if item.name == key:
                return literal_spot(tree, item.value, place(path, document.source, item.start, item.end, item.syntax))
    raise gone("attribute", name, path, known)


def label_spot(tree: Tree, name: str, path: str) -> Spot:
    """Return the text of a storyboard's label: by its user label or its object identifier."""
    document = parse_xml(contents(tree, path))
    known: list[str] = []
    for element in document.root.walk():
        text = element.attribute("text") or element.attribute("title")
        if element.name not in ("label", "button", "textField", "navigationItem") or text is None:
            continue
        names = [element.value("userLabel"), element.value("id")]
        known += [item for item in names if item]
        if name in names:
            return literal_spot(tree, text.value, place(path, document.source, text.start, text.end, text.syntax))
    raise gone("label", name, path, known)
