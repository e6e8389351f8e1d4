"""The files of one framework project: read by syntax, what they say gathered, and turned into projects.

A framework writes its identity in files of its own. Where the native halves stand in the tree, those files are copies
that must stay in step, and the halves ship; where they are generated, the framework's files own what ships.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from html import unescape
from typing import TYPE_CHECKING, TypeVar, cast

from onomaxis.flavor_names import made_of
from onomaxis.formats.escapes import decode
from onomaxis.formats.json_members import Keys, new_members
from onomaxis.formats.jsonc import JsonDocument, Node, parse_json
from onomaxis.formats.lexer import LANGUAGES, regions
from onomaxis.formats.script import ScriptFile
from onomaxis.formats.source import SPACE, Source
from onomaxis.formats.xml import Element, XmlDocument, parse_xml, text_span
from onomaxis.formats.yaml import YamlDocument, parse_yaml
from onomaxis.model import (
    Disagreement,
    Edit,
    Facet,
    IconHome,
    Mention,
    Opening,
    Piece,
    Place,
    Role,
    Scope,
    ShippedApp,
    Unresolved,
    Value,
)
from onomaxis.platforms import PLATFORMS
from onomaxis.projects.edits import place_edit
from onomaxis.projects.occurrences import ending
from onomaxis.projects.project import EVERY, Identifier, Project, guarded, place
from onomaxis.tree import Tree, join

if TYPE_CHECKING:
    from onomaxis.projects.frameworks.script_variants import Made

_T = TypeVar("_T")
# Files whose own tools read JSON5 (Expo, @expo/config).
_JSON5 = ("app.json", "app.config.json")
# Where a value will stand in a member that is only offered.
_VALUE = "VALUE"
ID_OF = {"android": Facet.APPLICATION_ID, "ios": Facet.BUNDLE_ID}
_HALVES = {"android": ("/build.gradle", "/build.gradle.kts"), "ios": ("/project.pbxproj",)}


@dataclass
class Files:
    """The files of one framework project: read by syntax, what they say gathered."""

    tree: Tree
    folder: str
    owners: list[Mention] = field(default_factory=list)
    openings: list[Opening] = field(default_factory=list)
    faults: list[Unresolved] = field(default_factory=list)
    disagreements: list[Disagreement] = field(default_factory=list)
    icons: list[IconHome] = field(default_factory=list)
    derived: dict[tuple[Facet, str], Value] = field(default_factory=dict)
    ships: tuple[str, ...] = ()
    label: str = ""
    keeps: str = ""
    _parsed: dict[str, object] = field(default_factory=dict)
    _made: dict[str, Made] = field(default_factory=dict)

    def path(self, name: str) -> str:
        """Return the path of a file of the project."""
        return join(self.folder, name)

    def data(self, name: str) -> bytes | None:
        """Return the bytes of a file that counts, None where there is none."""
        path = self.path(name)
        return self.tree.read(path) if path in self.tree.known else None

    def below(self, *endings: str) -> Iterator[str]:
        """Yield the names of the project's files that end so, relative to its folder."""
        start = len(self.folder) + 1 if self.folder else 0
        for path in self.tree.below(self.folder):
            if path.endswith(endings):
                yield path[start:]

    # -- documents

    def json(self, name: str) -> JsonDocument | None:
        """Return a parsed JSON file."""
        return self._document(name, lambda data: parse_json(data, name in _JSON5))

    def yaml(self, name: str) -> YamlDocument | None:
        """Return a parsed YAML file."""
        return self._document(name, parse_yaml)

    def xml(self, name: str) -> XmlDocument | None:
        """Return a parsed XML file."""
        return self._document(name, parse_xml)

    def manifest(self, name: str) -> JsonDocument | YamlDocument | None:
        """Return a framework's manifest, parsed as its ending says."""
        return self.yaml(name) if name.endswith(".yaml") else self.json(name)

    def script(self, name: str) -> ScriptFile | None:
        """Return the objects of a script."""
        return self._document(name, ScriptFile)

    def _document(self, name: str, parse: Callable[[bytes], _T]) -> _T | None:
        """Return a file as *parse* reads it, once; None where there is none or it cannot be read."""
        if name not in self._parsed:
            data = self.data(name)
            self._parsed[name] = guarded(self.path(name), self.faults, lambda: parse(data)) if data else None
        return cast("_T | None", self._parsed[name])

    # -- values

    def json_value(self, name: str, *path: str) -> Value | None:
        """Return the string or number at a path of keys."""
        document = self.json(name)
        node = document.top.get(*path) if document else None
        return self.string_at(name, document, node) if document is not None and node is not None else None

    def string_at(self, name: str, document: JsonDocument, node: Node) -> Value | None:
        """Return the string or number that a node of a JSON file is."""
        if isinstance(node.value, bool) or node.value is None:
            return None
        if node.kind == "string":
            spot = place(self.path(name), document.source, node.start + 1, node.end - 1, node.syntax)
        elif node.kind == "bare":
            spot = place(self.path(name), document.source, node.start, node.end, "number")
        else:
            return None
        return single(str(node.value), spot)

    def yaml_value(self, name: str, *path: str) -> Value | None:
        """Return the scalar at a path of keys."""
        document = self.yaml(name)
        found = document.get(*path) if document else None
        if document is None or found is None:
            return None
        return single(found.value, place(self.path(name), document.source, found.start, found.end, "yaml"))

    def attribute(self, name: str, element: Element, key: str, source: Source, namespace: str = "") -> Value | None:
        """Return an attribute's value."""
        found = element.attribute(key, namespace)
        if found is None:
            return None
        return single(found.value, place(self.path(name), source, found.start, found.end, found.syntax))

    def content(self, name: str, element: Element, document: XmlDocument) -> Value | None:
        """Return an element's text."""
        span = text_span(document, element)
        if span is None:
            return None
        syntax = "xml-cdata" if span[2] else "xml-text"
        return single(element.text.strip(SPACE), place(self.path(name), document.source, span[0], span[1], syntax))

    def matched(self, name: str, pattern: str, syntax: str) -> Iterator[Value]:
        """Yield what the group ``value`` of *pattern* finds in a file, line by line."""
        data = self.data(name)
        if not data:
            return
        source = Source.read(data)
        language = LANGUAGES.get(ending(name))
        comments = [r for r in regions(source.view, language) if r.kind == "comment"] if language else []
        for found in re.finditer(pattern, source.view, re.MULTILINE):
            if any(comment.start <= found.start("value") < comment.end for comment in comments):
                continue
            spot = place(self.path(name), source, found.start("value"), found.end("value"), syntax)
            text = unescape(spot.written) if syntax.startswith("xml") else decode(syntax, spot.written)
            yield single(text, spot)

    def script_values(self, name: str, facet: Facet, *path: str) -> list[tuple[str, Value]]:
        """Return what a script says at a path of keys: of each variant that says something else, of the app last."""
        if self.script(name) is None:
            return []
        from onomaxis.projects.frameworks.scripted import values_at  # what runs scripts is slow to load

        return values_at(self, name, facet, path)

    def made(self, name: str) -> Made:
        """Return the apps that a script makes."""
        from onomaxis.projects.frameworks.scripted import apps_of

        found = self._made.get(name)
        if found is None:
            found = self._made[name] = apps_of(self, name)
        return found

    # -- what they mean

    def own(
        self,
        facet: Facet,
        value: Value | None,
        platform: str = EVERY,
        role: Role = Role.OWNER,
        flavor: str = "",
        locale: str = "",
    ) -> Value | None:
        """Keep that *value* says *facet* for a platform, or for all."""
        if value is not None and value.text:
            scope = Scope(platform, self.folder, flavor, locale=locale)
            mention = Mention(facet, role, value.origin, value.text, scope, value)
            self.owners += [mention] if mention not in self.owners else []
        return value

    def follow(self, facet: Facet, value: Value | None, compared: bool = False) -> None:
        """Keep that *value* repeats the app's facet: it changes where it holds just that.

        Unless it is *compared* it may well say something else: a short name, a page's title.
        """
        if value is not None and value.text:
            scope = Scope(EVERY, self.folder)
            mention = Mention(facet, Role.FOLLOWER, value.origin, value.text, scope, value, compared=compared)
            self.owners.append(mention)

    def offer(self, name: str, keys: Keys, facet: Facet, platform: str, number: bool = False) -> None:
        """Offer the spot where a member of a JSON file goes that is missing, with the objects around it."""
        document = self.json(name)
        for at, _, text in new_members(document, {keys: _VALUE}) if document is not None else ():
            assert document is not None
            before, _, after = text.partition(_VALUE)
            if number:
                before, after = before.removesuffix('"'), after.removeprefix('"')
            spot = place(self.path(name), document.source, at, at, "number" if number else "json")
            self.openings.append(Opening(facet, spot, before, after, Scope(platform, self.folder), keys[-1]))

    def derive(self, facet: Facet, text: str, place: Place, platform: str) -> None:
        """Keep what the framework's tools make of another value, at *place*, where nothing states this one."""
        self.derived[facet, platform] = Value((Piece(text),), place)

    def derive_builds(
        self, version: Value | None, weights: Sequence[int], platforms: Sequence[str] = PLATFORMS
    ) -> None:
        """Keep the build numbers that tools make of a version: itself on iOS, a sum of weighted parts on Android."""
        if version is None:
            return
        if "ios" in platforms:
            self.derive(Facet.VERSION_CODE, version.text, version.place, "ios")
        parts = version.text.partition("-")[0].split(".")
        plain = all(part.isdecimal() and len(part) < 9 for part in parts) and len(parts) <= len(weights)
        if "android" in platforms and plain:
            number = sum(int(part) * weight for part, weight in zip(parts, weights, strict=False))
            self.derive(Facet.VERSION_CODE, str(number), version.place, "android")

    def projects(self, kind: str, ships: Sequence[str]) -> Iterator[Project]:
        """Yield the project over everything of the framework, then one per platform whose half is generated."""
        label = self.label or self.folder.rpartition("/")[2] or self.tree.root.name
        halves = [platform for platform in ships if self._has(platform)]
        above = tuple(item for item in self.owners if halves and item.scope.platform in (EVERY, *halves))
        yield Project(
            kind,
            self.folder,
            label,
            (),
            above,
            (),
            (),
            tuple(self.faults),
            tuple(self.disagreements),
            icons=tuple(self.icons),
            umbrella=True,
            keeps=self.keeps,
        )
        for platform in ships:
            if platform not in halves and self._generates(platform, halves):
                empty = Project(kind, self.folder, label, (), (), platform=platform, unresolved=tuple(self.faults))
                yield self._generated(empty, platform)

    def _generates(self, platform: str, halves: Sequence[str]) -> bool:
        """Tell whether a platform without a native half is one that the app ships for; the files may name them.

        Where another half stands in the tree this one was left out, unless the framework's file names an ID for it.
        """
        if self.ships:
            return platform in self.ships
        ids = [item.scope.platform for item in self.owners if item.facet in ID_OF.values()]
        if halves:
            return platform in ids
        offered = any(item.facet is ID_OF[platform] for item in self.openings)
        return not ids or platform in ids or EVERY in ids or offered

    def _has(self, platform: str) -> bool:
        return next(self.below(*_HALVES[platform]), None) is not None

    def _generated(self, common: Project, platform: str) -> Project:
        """Make the project of a platform whose native half is generated from the framework's files."""
        facet = ID_OF[platform]
        named = {item.scope.platform for item in self.owners if item.facet in ID_OF.values()}
        stated = platform in named
        apart = stated and not named >= {"android", "ios"}  # the ID for all is the other platform's
        owners = [
            item._replace(
                facet=facet if item.facet in ID_OF.values() else item.facet,
                scope=item.scope._replace(platform=platform, module=common.label),
            )
            for item in self.owners
            if item.scope.platform == platform
            or (item.scope.platform == EVERY and not (apart and item.facet in ID_OF.values()))
        ]
        flavors = list(dict.fromkeys(["", *(item.scope.flavor for item in owners)]))
        ids = [item.scope.flavor for item in owners if item.facet is facet and item.role is Role.OWNER]
        flavors = flavors[1:] if ids and all(ids) else flavors  # every app that ships is a flavor
        apps = tuple(_app(common, platform, flavor, owners, self.derived) for flavor in flavors)
        places = [
            item._replace(scope=item.scope._replace(platform=platform, module=common.label))
            for item in self.openings
            if item.scope.platform in (EVERY, platform)
        ]
        openings = tuple(item for item in places if not _owned(item, owners))
        own_ids = tuple(item for item in places if item.facet is facet and item not in openings)
        identifiers = tuple(Identifier(facet, app.id.text, common.label) for app in apps if app.id)
        return replace(
            common,
            apps=apps,
            owners=tuple(owners),
            openings=openings,
            own_ids=() if stated else own_ids,
            identifiers=identifiers,
            brands=lambda: tuple(app for app in apps if len(made_of(app.flavor, {*flavors} - {app.flavor})) < 2),
        )


def _owned(opening: Opening, owners: Iterable[Mention]) -> bool:
    return any(item.facet is opening.facet and item.role is Role.OWNER for item in owners)


def _app(
    common: Project, platform: str, flavor: str, owners: Sequence[Mention], derived: Mapping[tuple[Facet, str], Value]
) -> ShippedApp:
    def first(facet: Facet) -> Value | None:
        mine = [i for i in owners if i.facet is facet and i.role is Role.OWNER and not i.scope.locale]
        # What is said for the platform counts before what is said for all; the flavor's own before the default.
        found = [item for item in mine if item.scope.flavor == flavor] or [i for i in mine if not i.scope.flavor]
        return found[0].owner if found else derived.get((facet, platform))

    return ShippedApp(
        platform,
        common.label,
        flavor,
        "",
        common.label,
        first(ID_OF[platform]),
        first(Facet.DISPLAY_NAME),
        first(Facet.VERSION_NAME),
        first(Facet.VERSION_CODE),
        first(Facet.ICON),
        names=tuple(
            sorted((item.scope.locale, item.owner) for item in owners if item.scope.locale and item.owner is not None)
        ),
    )


def single(text: str, spot: Place) -> Value:
    """Return the value of one literal."""
    return Value((Piece(text, spot),), spot)


def value_edit(tree: Tree, value: Value, new: str) -> Edit:
    """Return the edit that writes a technical name in place of a literal."""
    return place_edit(tree, value.place, new, Facet.PROJECT_NAME)
