"""Values of an Android module: resources, meta-data, placeholders, constants of the build, platform levels.

Source of the rules: developer.android.com, "App resources overview", "Configure build variants", "<meta-data>".
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

from onomaxis import late
from onomaxis.errors import InputError
from onomaxis.formats.escapes import UNFORMATTED, conversions, decode_android, decode_backslashes, encode
from onomaxis.formats.gradle_statements import Setting, literal_text, mapped
from onomaxis.formats.lexer import Token
from onomaxis.formats.source import SPACE
from onomaxis.formats.xml import Element, XmlDocument, indentation, new_child, parse_xml, text_span
from onomaxis.model import Note, Place, Value
from onomaxis.platforms import ANDROID_NS
from onomaxis.projects.android.apps import ModuleReader
from onomaxis.projects.android.flavors import flavor_block, inserted, made_of_several, style_of
from onomaxis.projects.android.modules import setting_path
from onomaxis.projects.android.permissions import permission_spot
from onomaxis.projects.android.resources import qualifier_of, qualifiers_of
from onomaxis.projects.android.scope import Unknown
from onomaxis.projects.android.variants import field_arguments, flavor_names, variants
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import place_edit, span_edit
from onomaxis.projects.places import Configured, Spot, gone, literal_spot, refusing
from onomaxis.projects.project import guarded, place
from onomaxis.projects.text_places import property_spot
from onomaxis.tree import join, parent

# The file that a kind of resource usually stands in.
_FILES = {"string": "strings", "color": "colors", "dimen": "dimens", "bool": "bools", "integer": "integers"}
_LEVELS = {
    "min-sdk": ("minSdk", "minSdkVersion"),
    "target-sdk": ("targetSdk", "targetSdkVersion"),
    "compile-sdk": ("compileSdk", "compileSdkVersion"),
}


# What a placeholder or a constant of the build can be called.
_NAME = late.compile(r"[A-Za-z_][\w.-]*", re.ASCII)


@dataclass
class AndroidPlaces:
    """Reads the places of one module."""

    reader: ModuleReader
    root: str = ""

    def spot(self, selector: str, name: str, file: str, flavor: str, locale: str = "") -> Spot:
        """Return the place of a value for a flavor (``""``: the app itself). Raises InputError when it is gone."""
        own = self._names_of_flavors.get(flavor.casefold(), "")
        if selector == "resource":
            kind, _, entry = name.partition("/")
            return self._resource(kind, entry, own, locale)
        if selector == "meta-data":
            return self._meta_data(name, own)
        if selector == "placeholder":
            return self._placeholder(name, own)
        if selector == "build-field":
            return self._build_field(name, own)
        if selector == "level":
            return self._level(name, own)
        if selector == "permission":
            return permission_spot(self.reader, name, own)
        return property_spot(self.reader.tree, name, file or join(self.root, "gradle.properties"))

    def configured(self, selector: str, name: str, file: str) -> list[Configured]:
        """Return nothing: a build type of a Gradle build is not a configuration of a flavor's own."""
        return []

    def made(
        self, selector: str, name: str, text: str, kind: str, locale: str = "", varied: bool = True, flavor: str = ""
    ) -> Draft | None:
        """Return what makes a place that is missing, so that it reads *text*; None where such a one is not made."""
        if selector in ("placeholder", "build-field") and not _NAME.fullmatch(name):
            return None
        file = self.reader.module.file
        quote = style_of(file.script).quote
        written = f"{quote}{encode('double-dollar' if quote == chr(34) else 'single', text)}{quote}"
        if selector == "resource":
            sort, _, entry = name.partition("/")
            if flavor:
                return self._added(sort, entry, self._names_of_flavors[flavor.casefold()], text, "", locale)
            return self._made_resource(sort, entry, text, locale)
        if selector == "meta-data":
            return self._made_meta_data(name, text) if not flavor else None
        if selector == "placeholder":
            return self._made_line(f"manifestPlaceholders[{quote}{name}{quote}] = {written}", flavor)
        if selector == "build-field":
            sort = {"boolean": "boolean", "integer": "int"}.get(kind, "String")
            code = text if sort != "String" else f'"{encode("double", text)}"'
            code = encode("double-dollar" if quote == '"' else "single", code)
            call = f"buildConfigField({quote}{sort}{quote}, {quote}{name}{quote}, {quote}{code}{quote})"
            return self._made_line(call, flavor)
        if selector == "level" and name != "compile-sdk":
            return self._made_line(f"{_LEVELS[name][0]}{style_of(file.script).equals}{text}", flavor)
        return None

    def opened(self, selector: str, name: str) -> Draft | None:
        """Return nothing: every flavor's resources and settings stand before those of all."""
        return None

    def _made_line(self, line: str, flavor: str) -> Draft | None:
        """Add a line to what all flavors are built with, or to one of them."""
        if flavor:
            return self._line(self._names_of_flavors.get(flavor.casefold(), flavor), line)
        file = self.reader.module.file
        block = next((item for item in file.script.blocks("android", "defaultConfig") if item.body[1]), None)
        return Draft(edits=[inserted(file.path, file.script, block, [line])]) if block is not None else None

    def _made_meta_data(self, name: str, text: str) -> Draft | None:
        """Add meta-data to the application; where there are flavors it refers to a string, which each can have."""
        manifest = self.reader.manifest("main")
        application = manifest.application if manifest is not None else None
        if manifest is None or application is None:
            return None
        draft, value = Draft(), text
        if flavor_names(self.reader.module):
            entry = re.sub(r"\W+", "_", name, flags=re.ASCII).strip("_").lower()
            value = f"@string/{entry}"
            draft = self._added("string", entry, "main", text, "")
        prefix = next((key for key, uri in application.prefixes.items() if uri == ANDROID_NS), "android")
        called, read = encode("xml-double", name), encode("xml-double", value)
        written = f'<meta-data {prefix}:name="{called}" {prefix}:value="{read}"/>'
        source = manifest.document.source
        first, last, added = new_child(manifest.document, application, written)
        draft.edits.append(span_edit(manifest.path, source, first, last, added, name))
        return draft

    @cached_property
    def _names_of_flavors(self) -> dict[str, str]:
        every = (*flavor_names(self.reader.module), *self._combinations)
        return {name.casefold(): name for name in every}

    @cached_property
    def _combinations(self) -> dict[str, tuple[str, ...]]:
        """The flavors of each variant, the one that wins first."""
        return {item.name: item.flavors for item in variants(self.reader.module) if len(item.flavors) > 1}

    def _scopes(self, flavor: str) -> list[tuple[str, ...]]:
        """Return the blocks of a script that a flavor or a combination takes settings from, the winning one first."""
        flavors = self._combinations.get(flavor, (flavor,) if flavor else ())
        return [*(("productFlavors", name) for name in flavors), ("defaultConfig",)]

    def _source_sets(self, flavor: str) -> tuple[str, ...]:
        """Return the source sets of a flavor or a combination, the winning one first."""
        return (*((flavor,) if flavor else ()), *self._combinations.get(flavor, ()), "main")

    # -- resources

    def _made_resource(self, kind: str, name: str, text: str, locale: str) -> Draft:
        """Add a resource for all flavors; in a language only where there is one for every other language.

        Source: developer.android.com, "Localize your app": an app without the default of a resource that it asks for
        does not run.
        """
        if locale and not any(self._entries(kind, name, "main")):
            said = f"{kind}/{name} has no text for all other languages: give it a place without locale"
            return Draft(refusals=[Note(self.reader.module.folder or ".", said)])
        model = next((path for path, _ in self._documents("main") if path.endswith(f"/{_FILES[kind]}.xml")), "")
        return self._added(kind, name, "main", text, model if locale else "", locale)

    def _resource(self, kind: str, name: str, flavor: str, locale: str = "") -> Spot:
        generated = self._generated(kind, name, flavor) if not locale else None
        if generated is not None:
            return generated
        sets = self._source_sets(flavor)
        found = ((item, spot) for item in sets for spot in self._entries(kind, name, item, locale))
        source_set, first = next(found, ("", None))
        if first is None:
            known = list(self._names(kind, locale))
            where = "src/main/res" if not locale else f"src/main/res/values-{qualifier_of(locale)}"
            raise gone(f"{kind} resource", name, join(self.reader.module.folder, where), known)
        if source_set == (flavor or "main"):
            return first
        write = lambda new: self._added(kind, name, flavor, new, first.file, locale)  # noqa: E731
        return Spot(first.text, first.file, first.line, write)

    def _documents(self, source_set: str, locale: str = "") -> Iterator[tuple[str, XmlDocument]]:
        wanted = qualifiers_of(locale) if locale else ("",)
        for path, qualifier in self.reader.table(self.reader.module, source_set).paths():
            data = self.reader.tree.read(path) if qualifier in wanted else None
            document = guarded(path, [], lambda data=data: parse_xml(data)) if data else None  # type: ignore[misc]
            if document is not None:
                yield path, document

    def _names(self, kind: str, locale: str) -> Iterator[str]:
        for _, document in self._documents("main", locale):
            yield from (e.value("name") for e in document.root.children if _kind_of(e) == kind)

    def _entries(self, kind: str, name: str, source_set: str, locale: str = "") -> Iterator[Spot]:
        mark = name.encode()
        for path, document in self._documents(source_set, locale):
            if mark not in document.source.data:
                continue
            for element in document.root.children:
                if _kind_of(element) == kind and element.value("name") == name:
                    yield self._entry(path, document, element, kind)

    def _entry(self, path: str, document: XmlDocument, element: Element, kind: str) -> Spot:
        span = text_span(document, element)
        if span is None:
            spot = place(path, document.source, element.start, element.end, "none")
            return refusing(element.text, spot, "markup stands inside the resource")
        text = decode_android(element.text) if kind == "string" else element.text.strip(SPACE)
        syntax = "cdata" if span[2] else "text"
        spot = place(path, document.source, span[0], span[1], f"{'android' if kind == 'string' else 'xml'}-{syntax}")
        return literal_spot(self.reader.tree, text, spot)

    def _generated(self, kind: str, name: str, flavor: str) -> Spot | None:
        """Return what ``resValue(kind, name, …)`` of the flavor's block, or the default's, makes."""
        for scope in self._scopes(flavor):
            for item in self.reader.module.settings(*scope):
                parts = field_arguments(item, "resValue")
                if parts and literal_text(parts[0]) == kind and literal_text(parts[1]) == name:
                    shared = bool(flavor) and scope[-1] != flavor
                    quote = style_of(self.reader.module.file.script).quote
                    line = f"resValue({quote}{kind}{quote}, {quote}{name}{quote}, {{}})"
                    return self._gradle(parts[2], flavor if shared else "", line)
        return None

    def _added(self, kind: str, name: str, flavor: str, text: str, model: str, locale: str = "") -> Draft:
        """Add a resource to a flavor's source set: to the file of its kind, or a new one."""
        there = next((parent(path) for path, _ in self._documents(flavor, locale)), "") if locale else ""
        usual = f"values-{qualifier_of(locale)}" if locale else "values"
        folder = there or join(self.reader.module.folder, f"src/{flavor}/res/{usual}")
        path = f"{folder}/{model.rpartition('/')[2] or _FILES[kind] + '.xml'}"
        tree = self.reader.tree
        written = encode("android-text" if kind == "string" else "xml-text", text)
        more = UNFORMATTED if kind == "string" and conversions(text) > 1 else ""
        line = f'<{kind} name="{name}"{more}>{written}</{kind}>'
        data = tree.named_file(path)
        if data is None:
            source = parse_xml(tree.read(model) or b"<resources/>").source
            newline = source.newline
            head = f'<?xml version="1.0" encoding="utf-8"?>{newline}' if source.view.startswith("<?xml") else ""
            body = f"{head}<resources>{newline}    {line}{newline}</resources>{newline}"
            return Draft(created=[(path, body.encode())])
        document = parse_xml(data)
        if not document.root.children:
            return Draft(refusals=[Note(path, "the file holds no resource to write beside")])
        last = document.root.children[-1]
        lead = document.source.newline + indentation(document.source, last.start)
        return Draft(edits=[span_edit(path, document.source, last.end, last.end, lead + line, f"{kind}/{name}")])

    # -- the manifest

    def _meta_data(self, name: str, flavor: str) -> Spot:
        known: list[str] = []
        for source_set in self._source_sets(flavor):
            manifest = self.reader.manifest(source_set)
            for element in manifest.root.walk() if manifest else ():
                if element.name != "meta-data":
                    continue
                label = element.value("name", ANDROID_NS)
                known.append(label)
                value = element.attribute("value", ANDROID_NS) or element.attribute("resource", ANDROID_NS)
                if manifest is None or label != name or value is None:
                    continue
                named = re.fullmatch(r"@(string|color|dimen|bool|integer)/([\w.]+)", value.value)
                if named:
                    return self._resource(named[1], named[2], flavor)
                if value.value.startswith("${") and value.value.endswith("}"):
                    return self._placeholder(value.value[2:-1], flavor)
                spot = manifest.place(value)
                if flavor and source_set != flavor:
                    why = "all flavors share this manifest: let the meta-data refer to a resource or a placeholder"
                    return refusing(value.value, spot, why, literal_spot(self.reader.tree, value.value, spot).write)
                return literal_spot(self.reader.tree, value.value, spot)
        manifest = self.reader.manifest("main")
        raise gone("meta-data", name, manifest.path if manifest else self.reader.module.folder, known)

    def _placeholder(self, key: str, flavor: str) -> Spot:
        quote = style_of(self.reader.module.file.script).quote
        line = f"manifestPlaceholders[{quote}{key}{quote}] = {{}}"
        for scope in self._scopes(flavor):
            for item in self.reader.module.settings(*scope):
                path = setting_path(item)
                value: Sequence[Token] | None = None
                if path[-2:] == ("manifestPlaceholders", key):
                    value = item.value
                elif "anifestPlaceholders" in "".join(path[-2:]):
                    value = mapped(item.value, key)
                if value:
                    return self._gradle(value, flavor if scope[-1] != flavor else "", line)
        paths = [setting_path(item) for item in self.reader.module.settings()]
        known = [path[-1] for path in paths if path[-2:-1] == ("manifestPlaceholders",)]
        raise gone("placeholder", key, self.reader.module.file.path, known)

    # -- the build script

    def _build_field(self, name: str, flavor: str) -> Spot:
        known: list[str] = []
        for scope in self._scopes(flavor):
            for item in self.reader.module.settings(*scope):
                parts = field_arguments(item, "buildConfigField")
                if len(parts) != 3:
                    continue
                known.append(literal_text(parts[1]))
                if literal_text(parts[1]) == name:
                    shared = bool(flavor) and scope[-1] != flavor
                    return self._field(item, parts, flavor if shared else "")
        raise gone("constant of the build", name, self.reader.module.file.path, known)

    def _field(self, item: Setting, parts: Sequence[Sequence[Token]], flavor: str) -> Spot:
        """Return a ``buildConfigField``: its third argument is Java code, a string in quotes of its own."""
        value = self._value(parts[2])
        kind, name = literal_text(tuple(parts[0])), literal_text(tuple(parts[1]))
        quoted = kind == "String"
        text = value.text
        if quoted and re.fullmatch(r'".*"', text, re.DOTALL):
            text = decode_backslashes(text[1:-1])
        spot = value.origin
        script = self.reader.module.file.script
        quote = style_of(script).quote

        def code(new: str) -> str:
            return f'"{encode("double", new)}"' if quoted else new

        def write(new: str) -> Draft:
            if not flavor:
                return Draft(edits=[place_edit(self.reader.tree, spot, code(new), "")])
            written = encode("double-dollar" if quote == '"' else "single", code(new))
            call = f"buildConfigField({quote}{kind}{quote}, {quote}{name}{quote}, {quote}{written}{quote})"
            return self._line(flavor, call)

        return Spot(text, spot.file, spot.line, write)

    def _level(self, name: str, flavor: str) -> Spot:
        module = self.reader.module
        for key in _LEVELS[name]:
            for scope in (*self._scopes(flavor), ()):
                item = module.find(*scope, key)
                if item is not None:
                    shared = flavor if flavor not in scope else ""
                    equals = style_of(module.file.script).equals
                    line = f"{key}{equals}{{}}"
                    return self._default(item, shared, line) or self._gradle(item.value, shared, line, number=True)
        raise gone("level", name, module.file.path, [key for key in _LEVELS if module.find("defaultConfig", key)])

    def _default(self, item: Setting, flavor: str, line: str) -> Spot | None:
        """Return the spot of a level that the framework's tools give (``flutter.minSdkVersion``)."""
        text = "".join(token.text for token in item.value)
        if not re.fullmatch(r"flutter\.\w+", text):
            return None
        spot = self.reader.module.environment.place(item.value)

        def write(new: str) -> Draft:
            if flavor:
                return self._line(flavor, line.replace("{}", new))
            return Draft(edits=[place_edit(self.reader.tree, spot, new, "", "number")])

        return Spot(text, spot.file, spot.line, write)

    def _value(self, found: Sequence[Token]) -> Value:
        try:
            return self.reader.module.environment.value(found)
        except Unknown as error:
            spot = self.reader.module.environment.place(found)
            raise InputError(f"the value cannot be determined: {error}", file=spot.file, line=spot.line) from None

    def _gradle(self, found: Sequence[Token], flavor: str, line: str, number: bool = False) -> Spot:
        """Return the spot of an expression; with *flavor* a line of the flavor's own is written instead."""
        value = self._value(found)
        spot = value.origin if len([p for p in value.pieces if p.place and p.text]) <= 1 else value.place
        quote = style_of(self.reader.module.file.script).quote

        def write(new: str) -> Draft:
            if not flavor:
                return Draft(edits=[place_edit(self.reader.tree, spot, new, "", _number_syntax(spot, number))])
            syntax = "double-dollar" if quote == '"' else "single"
            text = new if number else f"{quote}{encode(syntax, new)}{quote}"
            return self._line(flavor, line.replace("{}", text))

        return Spot(value.text, spot.file, spot.line, write)

    def _line(self, flavor: str, line: str) -> Draft:
        file = self.reader.module.file
        block = flavor_block(file.script, flavor)
        if block is None or not block.body[1]:
            why = f"there is no block of flavor {flavor} to write into"
            several = self._combinations.get(flavor, ())
            return Draft(refusals=[Note(file.path, made_of_several(flavor, several) if several else why)])
        return Draft(edits=[inserted(file.path, file.script, block, [line])])


def _number_syntax(spot: Place, number: bool) -> str:
    return "number" if number and spot.syntax == "gradle-expression" else ""


def _kind_of(element: Element) -> str:
    return element.value("type") if element.name == "item" else element.name
