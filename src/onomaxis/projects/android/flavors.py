"""Flavors of a Gradle build: an entry of a flavor's own, a new flavor, the removal of one.

Source of the rules: developer.android.com, "Configure build variants" (flavors, dimensions, source sets).
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from onomaxis.flavor_names import same_flavor
from onomaxis.formats.escapes import encode
from onomaxis.formats.gradle import Script
from onomaxis.formats.gradle_statements import Statement, literal_text
from onomaxis.formats.source import Source
from onomaxis.model import Edit, Facet, Note
from onomaxis.projects.android.apps import ModuleReader
from onomaxis.projects.android.manifest import Manifest
from onomaxis.projects.android.resources import added_string, new_strings_file, qualifier_of, reference
from onomaxis.projects.android.script_values import filled_in
from onomaxis.projects.android.variants import (
    Variant,
    around,
    evaluate,
    flavor_containers,
    flavor_names,
    flavor_statements,
    variants,
)
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import place_edit, span_edit
from onomaxis.projects.project import Flavor
from onomaxis.tree import join

_SETTINGS = {
    Facet.APPLICATION_ID: "applicationId",
    Facet.VERSION_NAME: "versionName",
    Facet.VERSION_CODE: "versionCode",
}
_SUFFIXES = {Facet.APPLICATION_ID: "applicationIdSuffix", Facet.VERSION_NAME: "versionNameSuffix"}
DIMENSION = "brand"


class Style(NamedTuple):
    """How a script writes: its step of indentation, quote, whether it assigns with an equals sign."""

    newline: str
    step: str
    quote: str
    equals: str
    kotlin: bool

    def line(self, name: str, text: str, number: bool = False) -> str:
        """Return the setting of *name* as this script would write it."""
        syntax = "double-dollar" if self.quote == '"' else "single"
        value = text if number else f"{self.quote}{encode(syntax, text)}{self.quote}"
        return f"{name}{self.equals}{value}"


def style_of(script: Script) -> Style:
    """Read the style off a script."""
    view = script.source.view
    step = re.search(r"\{[^{\n]*+\n([ \t]++)\S", view)
    single, double = view.count("'"), view.count('"')
    assigns = re.search(r"\b(?:applicationId|versionName|minSdk|minSdkVersion|dimension)\s*=", view)
    return Style(
        script.source.newline,
        step[1] if step else "    ",
        '"' if script.kotlin or double >= single else "'",
        " = " if script.kotlin or assigns else " ",
        script.kotlin,
    )


def flavor_block(script: Script, flavor: str) -> Statement | None:
    """Return the statement that declares a flavor in a script, one with a block where there is any."""
    found = [item for name, item in flavor_statements(script) if name == flavor and not item.looped]
    return next((item for item in found if item.kind == "block"), found[0] if found else None)


def own_facet(reader: ModuleReader, flavor: Flavor, facet: Facet, text: str) -> Draft:
    """Give a flavor an entry of its own for *facet*."""
    flavors = flavor_names(reader.module)
    name = next((item for item in flavors if same_flavor(item, flavor.name)), flavor.name)
    if facet is Facet.DISPLAY_NAME:
        return _own_name(reader, name, text, flavor.locale)
    base = reader.brands()[0].id if facet is Facet.APPLICATION_ID else None
    if facet is Facet.APPLICATION_ID:
        suffix = _suffix(reader, name, "applicationIdSuffix")
        below = base is not None and text.startswith(base.text + ".")
        if base is not None and suffix and below and _suffix_setting(reader, name) is not None:
            return Draft(edits=[suffix_edit(reader, name, "applicationIdSuffix", text[len(base.text) :])])
    kept = _SUFFIXES.get(facet, "")
    suffix = _suffix(reader, name, kept) if kept else ""
    below = base is not None and text.startswith(base.text + ".")
    if base is not None and below and not suffix and _by_suffix(reader, name):
        return block_entry(reader, name, "applicationIdSuffix", text[len(base.text) :])
    if suffix and not text.endswith(suffix) and facet is Facet.APPLICATION_ID:
        edits = _id_for_suffix(reader, name, text)
        if edits:
            return Draft(edits=edits)
    if suffix and not text.endswith(suffix):
        said = f"flavor {name} appends “{suffix}”, so it cannot become “{text}”: change {kept} first"
        setting = reader.module.find("productFlavors", name, kept)
        place = around(reader.module, setting).value(setting.value).place.at if setting else reader.module.file.path
        return Draft(refusals=[Note(place, said)])
    written = text.removesuffix(suffix)
    return block_entry(reader, name, _SETTINGS[facet], written, facet is Facet.VERSION_CODE)


def _by_suffix(reader: ModuleReader, flavor: str) -> bool:
    """Tell whether the other flavors of the build make their IDs by suffixes."""
    others = [name for name in flavor_names(reader.module) if name != flavor]
    own = sum(reader.module.find("productFlavors", name, "applicationId") is not None for name in others)
    return sum(bool(_suffix(reader, name, "applicationIdSuffix")) for name in others) > own


def _suffix(reader: ModuleReader, flavor: str, name: str) -> str:
    setting = reader.module.find("productFlavors", flavor, name)
    value = evaluate(reader.module, setting, name, [])
    text = value.text if value is not None else ""
    return f".{text}" if text and name == "applicationIdSuffix" and not text.startswith(".") else text


def suffix_edit(reader: ModuleReader, flavor: str, name: str, text: str) -> Edit:
    """Return the edit of a flavor's suffix."""
    setting = reader.module.find("productFlavors", flavor, name)
    assert setting is not None
    value = around(reader.module, setting).value(setting.value)
    spot = value.origin
    old = literal_text(setting.value)
    written = text.removeprefix(".") if not old.startswith(".") else text
    source = reader.module.file.script.source
    return Edit(spot.file, spot.start, spot.end, source.raw(encode(spot.syntax, written)), Facet.APPLICATION_ID)


def _suffix_setting(reader: ModuleReader, flavor: str) -> Statement | None:
    """Return where a flavor's block states the suffix of its ID, as a literal and without an ID of its own."""
    block = flavor_block(reader.module.file.script, flavor)
    setting = reader.module.find("productFlavors", flavor, "applicationIdSuffix")
    if block is None or setting is None or reader.module.find("productFlavors", flavor, "applicationId"):
        return None
    named = (item for item in block.children if item.name.rpartition(".")[2] == "applicationIdSuffix")
    plain = (item for item in named if item.value == list(setting.value) and len(item.value) == 1)
    return next((item for item in plain if literal_text(item.value)), None)


def _id_for_suffix(reader: ModuleReader, flavor: str, text: str) -> list[Edit]:
    """Return what turns a flavor's suffix into an ID of its own."""
    item = _suffix_setting(reader, flavor)
    if item is None:
        return []
    path, source = reader.module.file.path, reader.module.file.script.source
    spot = reader.module.environment.value(item.value).origin
    word = "applicationIdSuffix"
    first = source.offset(source.view.index(word, item.start))
    return [
        Edit(path, first, first + len(word), b"applicationId", Facet.APPLICATION_ID),
        Edit(path, spot.start, spot.end, source.raw(encode(spot.syntax, text)), Facet.APPLICATION_ID),
    ]


def made_of_several(flavor: str, flavors: Sequence[str]) -> str:
    """Say why nothing can be written into the block of a combination."""
    return f"{flavor} is made of {' and '.join(flavors)}, and a build script has no block for what they make together"


def block_entry(reader: ModuleReader, flavor: str, name: str, text: str, number: bool = False) -> Draft:
    """Add a setting to a flavor's block, after what it holds; one that a loop declares gets a block behind it."""
    module = reader.module
    files = (module.file, *module.environment.others)
    several = next((v.flavors for v in variants(module) if v.name == flavor and len(v.flavors) > 1), ())
    said = made_of_several(flavor, several) if several else ""
    for file in files:
        style = style_of(file.script)
        line = style.line(name, text, number)
        block = flavor_block(file.script, flavor)
        edit = None
        if block is not None and block.kind == "block" and block.body[1]:
            edit = inserted(file.path, file.script, block, [line])
        elif not several and (container := _looped_in(file.script, flavor)) is not None:
            head = f'getByName("{flavor}")' if style.kotlin else flavor
            edit = inserted(file.path, file.script, container, [f"{head} {{", f"{style.step}{line}", "}"])
        if edit is None:
            continue
        later = module.find("productFlavors", flavor, name)
        start = file.script.source.offset(later.statement.start) if later is not None else 0
        if later is None or not later.statement.looped or file is not module.file or start < edit.start:
            return Draft(edits=[edit])
        at = f"{file.path}:{file.script.source.line(later.statement.start)}"
        return Draft(refusals=[Note(at, f"what is said of every flavor here comes after what {flavor} says")])
    said = said or f"flavor {flavor} has no block of its own to write {name} into: give it one"
    return Draft(refusals=[Note(module.file.path, said)])


def _looped_in(script: Script, flavor: str) -> Statement | None:
    """Return the container that a loop declares a flavor in, None where no loop does."""
    first = next((item for known, item in flavor_statements(script) if known == flavor), None)
    containers = flavor_containers(script)
    return containers[-1] if first is not None and first.looped and containers else None


def inserted(path: str, script: Script, block: Statement, lines: list[str]) -> Edit:
    """Return the edit that adds lines at the end of a block, one step deeper than the block itself."""
    source, style = script.source, style_of(script)
    start, end = block.body
    margin = _margin(source, block.start)
    inner = f"{margin}{style.step}"
    if "\n" not in source.view[start:end]:  # a block of one line is opened
        held = source.view[start:end].strip()
        own = [held] if held else []
        body = "".join(f"{style.newline}{inner}{line}" for line in [*own, *lines]) + style.newline + margin
        return span_edit(path, source, start, end, body)
    at = source.line_start(end)
    text = "".join(f"{inner}{line}{style.newline}" for line in lines)
    if source.view[at:end].strip():  # the brace closes a line that holds more: it gets one of its own
        at = at + len(source.view[at:end].rstrip())
        return span_edit(path, source, at, end, f"{style.newline}{text}{margin}")
    return span_edit(path, source, at, at, text)


def _margin(source: Source, position: int) -> str:
    begin = source.line_start(position)
    match = re.match(r"[ \t]*", source.view[begin:position])
    return match[0] if match else ""


# -- names


def _own_name(reader: ModuleReader, flavor: str, text: str, locale: str) -> Draft:
    """Write a flavor's display name: into its strings, or as the placeholder that the manifest asks for."""
    manifest, label = _label(reader, flavor)
    if manifest is None or not label:
        return Draft(refusals=[Note(reader.module.folder, "no manifest says where the display name stands")])
    if locale and not reference(label):
        return Draft(refusals=[Note(manifest.path, "the display name is not a string resource: it has no languages")])
    if label.startswith("${") and label.endswith("}"):
        return own_placeholder(reader, flavor, label[2:-1], text)
    name = reference(label)
    if not name:
        return _out_of_manifest(reader, manifest, flavor, text)
    return own_string(reader, flavor, name, text, qualifier_of(locale) if locale else "")


def own_placeholder(reader: ModuleReader, flavor: str, key: str, text: str) -> Draft:
    """Fill a placeholder of the manifest for one flavor, in its block."""
    file = reader.module.file
    quote = style_of(file.script).quote
    value = encode("double-dollar" if quote == '"' else "single", text)
    block = flavor_block(file.script, flavor)
    if block is None or not block.body[1]:
        return Draft(refusals=[Note(file.path, f"there is no block of flavor {flavor}")])
    return Draft(
        edits=[
            inserted(
                file.path, file.script, block, [f"manifestPlaceholders[{quote}{key}{quote}] = {quote}{value}{quote}"]
            )
        ]
    )


def _label(reader: ModuleReader, flavor: str) -> tuple[Manifest | None, str]:
    for source_set in Variant((flavor,)).source_sets():
        manifest = reader.manifest(source_set)
        for attribute in manifest.labels() if manifest else ():
            return manifest, attribute.value
    return None, ""


def _out_of_manifest(reader: ModuleReader, manifest: Manifest, flavor: str, text: str) -> Draft:
    """Move a name that the manifest writes out for all flavors to a string resource; give the flavor its own."""
    attribute = next(iter(manifest.labels()))
    main = reader.table(reader.module, "main")
    present = manifest.shown(attribute).text
    taken = [entry.value.text for entry in main.entries("app_name")]
    name = "app_name" if not taken or taken == [present] else "brand_name"
    draft = own_string(reader, flavor, name, text)
    if name == "brand_name" or not taken:
        found = own_string(reader, "main", name, present)
        draft.edits += found.edits
        draft.created += found.created
    spot = manifest.place(attribute)
    draft.edits.append(place_edit(reader.tree, spot, f"@string/{name}", Facet.DISPLAY_NAME))
    draft.notes.append(Note(spot.at, f"the display name moved to the string resource {name}"))
    return draft


def own_string(reader: ModuleReader, flavor: str, name: str, text: str, qualifier: str = "") -> Draft:
    """Add a string to a flavor's source set, in its strings file or a new one."""
    folder = f"values-{qualifier}" if qualifier else "values"
    path = join(reader.module.folder, f"src/{flavor}/res/{folder}/strings.xml")
    tree = reader.tree
    data = tree.named_file(path)
    if data is not None:
        return Draft(edits=[added_string(path, data, name, text)])
    model = next((entry.value.place.file for entry in reader.table(reader.module, "main").entries(name)), "")
    head = tree.read(model) if model else None
    return Draft(created=[(path, new_strings_file(head or b"<resources/>\n", name, text))])


# -- a new flavor, and the end of one


def add_flavor(reader: ModuleReader, flavor: Flavor) -> Draft:
    """Add the block of a new flavor after the last one; the container and a dimension where there are none."""
    declared = dict.fromkeys((*_declared_dimensions(reader), *filter(None, dimensions(reader).values())))
    if flavor.dimension and declared and flavor.dimension not in declared:
        said = f"there is no dimension {flavor.dimension} here; there are {', '.join(declared)}"
        return Draft(refusals=[Note(reader.module.file.path, said)])
    dimension = flavor.dimension or dimension_of(reader, flavor.beside, flavor.name)
    siblings = [name for name in flavor_names(reader.module) if same_flavor(name, flavor.beside)] or [
        name for name, text in dimensions(reader).items() if text == dimension
    ]
    instead, draft = [], Draft()
    for library in libraries(reader):
        known = dimensions(library)
        if any(same_flavor(name, flavor.name) for name in known):
            continue
        theirs = next((text for name, text in known.items() if any(same_flavor(name, s) for s in siblings)), None)
        if theirs is not None:
            draft.join(_added(library, flavor.name, theirs))
        elif any(text in ("", dimension) for text in known.values()):
            found = _instead(reader, dimension, siblings)
            instead += [name for name in found if name not in instead]
            draft.notes += [] if found else [_untold(library, flavor.name)]
    draft.join(_added(reader, flavor.name, dimension, instead))
    draft.notes += _unfilled(reader, flavor)
    return draft


def _instead(reader: ModuleReader, dimension: str, siblings: Sequence[str]) -> list[str]:
    """Return whose libraries a flavor takes that these lack: as a sibling does, else as the app did without flavors.

    Source: developer.android.com, "Configure build variants": ``matchingFallbacks``, ``missingDimensionStrategy``.
    """
    for name in siblings:
        setting = reader.module.find("productFlavors", name, "matchingFallbacks")
        if setting is not None:
            return [text for token in setting.value if (text := literal_text([token]))]
    for setting in reader.module.every("defaultConfig", "missingDimensionStrategy"):
        varied, *names = [text for token in setting.value if (text := literal_text([token]))] or [""]
        if varied == dimension:
            return names
    return []


def _untold(library: ModuleReader, flavor: str) -> Note:
    """Name a library that has flavors of the same dimension, and no way to tell which of them a new one takes."""
    known = ", ".join(dimensions(library))
    said = f"this library is built as {known}: which of them {flavor} takes, matchingFallbacks in its block must say"
    return Note(library.module.file.path, said)


def libraries(reader: ModuleReader) -> Iterator[ModuleReader]:
    """Yield the readers of the modules beside an app that have flavors and are no apps themselves."""
    every = (reader.module, *reader.others)
    for other in reader.others:
        if other.kind != "application" and flavor_names(other):
            rest = [item for item in every if item is not other]
            yield ModuleReader(other, rest, reader.tree, reader.project)


def _unfilled(reader: ModuleReader, flavor: Flavor) -> Iterator[Note]:
    """Say what every sibling of a new flavor fills in, and nobody for all: without it the build may not work."""
    varied = dimensions(reader)
    mine = flavor.dimension or dimension_of(reader, flavor.beside)
    siblings = [name for name, dimension in varied.items() if dimension in ("", mine)]
    told = [{place for (place, _), _ in filled_in(reader, name)} for name in siblings]
    general = {place for (place, _), _ in filled_in(reader, "")}
    label = ("resource", _label(reader, flavor.name)[1].removeprefix("@"))  # the display name, which is written apart
    lacking = set.intersection(*told) - general - {label} if told else set()
    if lacking:
        names = ", ".join(sorted(name for _, name in lacking))
        shown = ", ".join(siblings[:3]) + (f" and {len(siblings) - 3} more" if len(siblings) > 3 else "")
        said = f"{shown} fill in {names}; {flavor.name} does not yet"
        yield Note(reader.module.file.path, said)


def _added(reader: ModuleReader, flavor: str, dimension: str, instead: Sequence[str] = ()) -> Draft:
    """Add a flavor's block to a module's script; it takes the libraries of those *instead* that lack it."""
    file = reader.module.file
    script, style = file.script, style_of(file.script)
    head = f'create("{flavor}")' if script.kotlin else flavor
    inner = [style.line("dimension", dimension)]
    if instead:
        names = ", ".join(f"{style.quote}{name}{style.quote}" for name in instead)
        inner.append(f"matchingFallbacks {f'+= listOf({names})' if script.kotlin else f'= [{names}]'}")
    containers = flavor_containers(script)
    if not containers:
        own = [item for _, item in flavor_statements(script) if not item.looped]
        android = next((item for item in script.blocks("android") if item.body[1]), None)
        if own and android is not None:  # flavors that are made one by one, outside a container
            block = [f"productFlavors.create({style.quote}{flavor}{style.quote}) {{"]
            lines = [*block, *(f"{style.step}{line}" for line in inner), "}"]
            return Draft(edits=[inserted(file.path, script, android, lines)])
        if flavor_names(reader.module):
            said = "this module's flavors are declared in another script: add the new one there"
            return Draft(refusals=[Note(file.path, said)])
        return _first_flavor(reader, head, inner, style, dimension)
    block = [f"{head} {{", *(f"{style.step}{line}" for line in inner), "}"]
    last, at = _last_of(reader, dimension)
    if last is None:
        return Draft(edits=[inserted(file.path, script, containers[-1], block)])
    text = "".join(f"{_margin(script.source, last.start)}{line}{style.newline}" for line in block)
    return Draft(edits=[span_edit(file.path, script.source, at, at, text)])


def _last_of(reader: ModuleReader, dimension: str) -> tuple[Statement | None, int]:
    """Return the block of a dimension's last flavor, where others stand behind it; and where its lines end."""
    varied, script = dimensions(reader), reader.module.file.script
    found = [(name, item) for name, item in flavor_statements(script) if item.kind == "block"]
    mine = [item for name, item in found if varied.get(name) == dimension]
    last = max(mine, key=lambda item: item.end, default=None)
    behind = [item for _, item in found if last is not None and item.start > last.end]
    if last is None or last.looped or last.conditional or not behind or not dimension:
        return None, 0
    view = script.source.view
    rest = re.compile(r"[ \t]*+;?[ \t]*+(?://[^\n]*+)?\n").match(view, last.end)
    alone = not view[script.source.line_start(last.start) : last.start].strip()
    return (last, rest.end()) if rest and alone else (None, 0)


def _first_flavor(reader: ModuleReader, head: str, inner: list[str], style: Style, dimension: str) -> Draft:
    file = reader.module.file
    android = next((item for item in file.script.blocks("android") if item.body[1]), None)
    if android is None:
        return Draft(refusals=[Note(file.path, "there is no android block to declare flavors in")])
    quoted = f"{style.quote}{dimension}{style.quote}"
    declared = f"flavorDimensions += {quoted}" if style.kotlin else f"flavorDimensions {quoted}"
    step = style.step
    block = [f"{head} {{", *(f"{step}{line}" for line in inner), "}"]
    lines = [declared, "productFlavors {", *(f"{step}{line}" for line in block), "}"]
    return Draft(edits=[inserted(file.path, file.script, android, lines)])


def dimensions(reader: ModuleReader) -> dict[str, str]:
    """Return the dimension of each flavor, empty where it states none."""
    found = {}
    for flavor in flavor_names(reader.module):
        setting = reader.module.find("productFlavors", flavor, "dimension")
        found[flavor] = literal_text(setting.value) if setting else ""
    return found


def dimension_of(reader: ModuleReader, beside: str, name: str = "") -> str:
    """Return the dimension of a new flavor: that of its sibling, else the one where most have IDs of their own.

    The first flavor's is that of a library which has a flavor called so.
    """
    known = dimensions(reader)
    sibling = next((text for name, text in known.items() if text and same_flavor(name, beside)), "")
    if sibling:
        return sibling
    branded = Counter(
        text
        for flavor, text in known.items()
        if text and any(reader.module.find("productFlavors", flavor, key) for key in _OWN_ID)
    )
    usual = next(iter(branded.most_common(1)), ("", 0))[0] or next(filter(None, known.values()), "")
    if usual or (usual := next(iter(_declared_dimensions(reader)), "")):
        return usual
    theirs = (dimensions(library) for library in libraries(reader))
    return next((text for each in theirs for known, text in each.items() if text and known == name), DIMENSION)


# What gives a flavor an ID of its own: it tells a brand from a mere variant.
_OWN_ID = ("applicationId", "applicationIdSuffix")


def _declared_dimensions(reader: ModuleReader) -> Iterator[str]:
    for item in reader.module.settings():
        if "flavorDimensions" in item.full:
            yield from (text for token in item.value if (text := literal_text([token])))
