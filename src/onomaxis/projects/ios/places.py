"""Values of an Xcode target: build settings, property lists, entitlements, URL schemes, named colours, levels.

Source of the rules: Apple, "Build settings reference", "Information Property List", "Entitlements", asset catalog
format reference ("Named color type").
"""

from __future__ import annotations

import itertools
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from onomaxis import late
from onomaxis.errors import FormatError, InputError
from onomaxis.formats.escapes import encode
from onomaxis.formats.openstep import opening
from onomaxis.formats.plist import Plist, parse_plist
from onomaxis.formats.source import SPACE
from onomaxis.formats.xcconfig import parse_xcconfig
from onomaxis.formats.xml import Element, new_child, text_span
from onomaxis.model import Edit, Note, Place, Value
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import place_edit, span_edit
from onomaxis.projects.ios.color_places import color_spot
from onomaxis.projects.ios.flavors.common_file import in_common_file
from onomaxis.projects.ios.made_places import color_set, plist_member, setting_name, url_type, value_element
from onomaxis.projects.ios.pod_platform import with_platform
from onomaxis.projects.ios.project_file import Configuration, Target
from onomaxis.projects.ios.settings import Table, Undefined
from onomaxis.projects.ios.string_places import made_string, string_spot, table_and_key
from onomaxis.projects.ios.targets import TargetReader
from onomaxis.projects.places import Configured, Spot, gone, literal_spot, refusing
from onomaxis.projects.project import place
from onomaxis.tree import join, parent

_LEVELS = {"ios": "IPHONEOS_DEPLOYMENT_TARGET", "families": "TARGETED_DEVICE_FAMILY"}
_REFERENCE = late.compile(r"\$[({](\w+)[)}]\Z")


@dataclass
class ApplePlaces:
    """Reads the places of one target."""

    reader: TargetReader
    target: Target
    _users: dict[str, dict[tuple[str, int], set[str]]] = field(default_factory=dict)

    def spot(self, selector: str, name: str, file: str, flavor: str, locale: str = "") -> Spot:
        """Return the place of a value for a flavor (``""``: the app itself). Raises InputError when it is gone."""
        mine, release = self._configurations(flavor)
        if selector == "level":
            found = self._setting(_LEVELS[name], mine, release, flavor)
            folder = self.reader.project.folder
            return found if name != "ios" else with_platform(self.reader.tree, folder, found, flavor)
        if selector == "setting":
            return self._setting(name, mine, release, flavor)
        if selector == "color-set":
            return color_spot(self.reader.tree, self.reader.project.folder, name, file, self.target.flavors())
        if selector == "string" or locale:
            return string_spot(self.reader, self.target, table_and_key(selector, name), locale, flavor)
        table = self.reader.table(self.target, release)
        if selector == "entitlement":
            path, plist = self._entitlements(table, file)
        else:
            path, plist = self._plist(table, file)
        keys = _scheme_path(plist, name, path) if selector == "url-scheme" else tuple(name.split("/"))
        return self._listed(path, plist, keys, mine, release, flavor)

    def made(
        self, selector: str, name: str, text: str, kind: str, locale: str = "", varied: bool = True, flavor: str = ""
    ) -> Draft | None:
        """Return what makes a place that is missing, so that it reads *text*; None where such a one is not made."""
        mine, release = self._configurations(flavor)
        every = mine if flavor else list(self.target.configurations)
        table = self.reader.table(self.target, release)
        if selector in ("setting", "level"):
            return self._own_setting(_LEVELS.get(name, name) if selector == "level" else name, every, text)
        if selector == "string" or locale:
            return made_string(self.reader, self.target, table_and_key(selector, name), locale, text)
        if selector == "color-set":
            return color_set(self.reader.tree, self.reader.project.folder, name, text)
        if selector == "entitlement":
            path, plist = self._entitlements(table, "")
            return plist_member(path, plist, tuple(name.split("/")), value_element(text, kind))
        path, plist = self._plist(table, "")
        flavored = bool(self.target.flavors()) and varied and not flavor
        referring = setting_name(name if selector == "plist" else f"{name}-scheme") if flavored else ""
        shown = f"$({referring})" if flavored else text
        if selector == "url-scheme":
            draft = url_type(path, plist, name, shown)
        else:
            element = value_element(shown, "" if flavored else kind)
            draft = plist_member(path, plist, tuple(name.split("/")), element)
        if draft is not None and flavored and self._resolved(referring, release) is None:
            draft.join(self._own_setting(referring, every, text))
        return draft

    def described(self, key: str, texts: Mapping[str, str]) -> Draft | None:
        """Return what adds *texts* to a dictionary of the property list, which is made where it is missing."""
        path, plist = self._plist(self.reader.table(self.target, self._configurations("")[1]), "")
        node = entry(plist, (key,))
        pairs = ((encode("xml-text", name), encode("xml-text", text)) for name, text in texts.items())
        written = "\n".join(f"<key>{name}</key>\n<string>{text}</string>" for name, text in pairs)
        if node is None:
            inner = "".join(f"\n\t{line}" for line in written.split("\n"))
            return plist_member(path, plist, (key,), f"<dict>{inner}\n</dict>")
        if node.name != "dict":
            return None
        source = plist.document.source
        first, last, added = new_child(plist.document, node, written)
        return Draft(edits=[span_edit(path, source, first, last, added, key)])

    def opened(self, selector: str, name: str) -> Draft | None:
        """Let a key of a property list refer to a build setting, which says everywhere what the key says now."""
        every, release = list(self.target.configurations), self._configurations("")[1]
        if selector not in ("plist", "url-scheme") or not self.target.flavors():
            return None
        path, plist = self._plist(self.reader.table(self.target, release), "")
        keys = _scheme_path(plist, name, path) if selector == "url-scheme" else tuple(name.split("/"))
        node = entry(plist, keys)
        span = text_span(plist.document, node) if node is not None and node.name == "string" else None
        referring = setting_name(name if selector == "plist" else f"{name}-scheme")
        if node is None or span is None or "$" in node.text or self._resolved(referring, release) is not None:
            return None
        source = plist.document.source
        at = source.offset(span[0]), source.offset(span[1])
        draft = Draft(edits=[Edit(path, *at, source.raw(f"$({referring})"))])
        draft.join(self._own_setting(referring, every, node.text))
        return draft

    def own(self, name: str, flavor: str, text: str) -> Draft:
        """Return what gives the configurations of a flavor, or the plain ones, a build setting of their own."""
        mine = [item for item in self._configurations(flavor)[0] if item.flavor == flavor or flavor]
        found = {item.name: self._resolved(name, item) for item in mine}
        wrong = [item for item in mine if (value := found[item.name]) is None or value.text != text]
        return self._own_setting(name, wrong, text) if wrong else Draft()

    def configured(self, selector: str, name: str, file: str) -> list[Configured]:
        """Return what a build setting, or the one that a key refers to, is in every configuration."""
        if selector in ("plist", "url-scheme"):
            path, plist = self._plist(self.reader.table(self.target, self._configurations("")[1]), file)
            keys = _scheme_path(plist, name, path) if selector == "url-scheme" else tuple(name.split("/"))
            node = entry(plist, keys)
            named = _REFERENCE.match(node.text.strip(SPACE)) if node is not None else None
            name = named[1] if named else ""
        elif selector != "setting":
            return []
        found = []
        for item in self.target.configurations if name else ():
            value = self._resolved(name, item)
            if value is not None:
                flavor = item.flavor
                ships = self._configurations(flavor)[1].name == item.name
                found.append(Configured(item.name, flavor, value, ships))
        return found

    def _configurations(self, flavor: str) -> tuple[list[Configuration], Configuration]:
        """Return the configurations that a flavor is built with, and the one of them that archives."""
        every = self.target.configurations
        mine = list(self.target.of(flavor))
        named = next((item.flavor for item in mine), "") or flavor
        release = self.target.release_of(named) if flavor else self.target.release()
        if release is None or not mine:
            release = self.target.release() or every[-1]
            mine = mine or list(every)
        return mine, release

    # -- build settings

    def _setting(self, name: str, mine: Sequence[Configuration], release: Configuration, flavor: str) -> Spot:
        value = self._resolved(name, release)
        if value is None:
            table = self.reader.table(self.target, release)
            known = [key for level in table.levels[:-1] for key in level]
            raise gone("build setting", name, self.reader.project.path, known)
        values = [found for item in mine if (found := self._resolved(name, item)) and found.text == value.text]
        users = self._used_by(name)
        spots = [(found, _origin(found)) for found in values]

        def write(new: str) -> Draft:
            if flavor and any(users[spot.file, spot.start] - {item.name for item in mine} for _, spot in spots):
                return self._own_setting(name, mine, new)
            edits = [place_edit(self.reader.tree, spot, new, "") for _, spot in spots]
            return Draft(edits=list(dict.fromkeys(edits)))

        return Spot(value.text, spots[0][1].file, spots[0][1].line, write)

    def _resolved(self, name: str, item: Configuration) -> Value | None:
        try:
            return self.reader.table(self.target, item).value(name)
        except Undefined as error:
            raise InputError(
                f"{name} refers to {error}, which is not defined", file=self.reader.project.path
            ) from None

    def _used_by(self, name: str) -> dict[tuple[str, int], set[str]]:
        """Return for each place that the setting comes from the configurations that take it from there."""
        if name not in self._users:
            found: dict[tuple[str, int], set[str]] = defaultdict(set)
            for item in self.target.configurations:
                value = self._resolved(name, item)
                if value is not None:
                    spot = _origin(value)
                    found[spot.file, spot.start].add(item.name)
            self._users[name] = found
        return self._users[name]

    def _own_setting(self, name: str, mine: Sequence[Configuration], text: str) -> Draft:
        """Write a setting into a flavor's own configurations."""
        own = self._own_file(name, mine)
        if own:
            parsed = parse_xcconfig(self.reader.tree.read(own) or b"")
            at, before, after = parsed.opening(name)
            text = f"{before}{encode('xcconfig', text)}{after}"
            return Draft(edits=[span_edit(own, parsed.source, at, at, text, name)])
        edits, rest = self._in_common_files(name, mine, text)
        draft = Draft(edits=edits)
        project = self.reader.project
        source = project.document.source
        for item in rest:
            present = item.settings.get(name)
            if present is not None:
                draft.edits.append(
                    span_edit(project.path, source, present.start, present.end, encode("openstep", text))
                )
                continue
            try:
                at, before, after = opening(project.document, item.settings, name)
            except FormatError:
                draft.refusals.append(
                    Note(project.path, f"configuration {item.name} has no settings to write beside")
                )
                continue
            new = source.raw(f"{before}{encode('openstep', text)}{after}")
            draft.edits.append(span_edit(project.path, source, at, at, new, name))
        return draft

    def _in_common_files(
        self, name: str, mine: Sequence[Configuration], text: str
    ) -> tuple[list[Edit], list[Configuration]]:
        """Return what says a setting in files that one flavor alone includes, and the configurations without such."""
        by_flavor: dict[str, list[Configuration]] = defaultdict(list)
        for item in mine:
            by_flavor[item.flavor.casefold()].append(item)
        edits: list[Edit] = []
        rest: list[Configuration] = []
        for flavor, items in by_flavor.items():
            whole = flavor and len(items) == len(self.target.of(flavor))
            meant = [(self.target, item) for item in items]
            tree, project = self.reader.tree, self.reader.project
            edit = in_common_file(project, tree, meant, name, text) if whole else None
            edits += [edit] if edit is not None else []
            rest += items if edit is None else []
        return edits, rest

    def _own_file(self, name: str, mine: Sequence[Configuration]) -> str:
        """Return the configuration file that is a flavor's own, where the setting comes from such files at all."""
        for item in mine:
            value = self._resolved(name, item)
            if value is None or not value.place.file.endswith(".xcconfig"):
                return ""
        bases = [self.reader.project.project_configurations.get(item.name) for item in mine]
        files = {join(parent(b.base), f"{b.flavor}.xcconfig") for b in bases if b is not None and b.base}
        found = files.pop() if len(files) == 1 else ""
        return found if found and self.reader.tree.exists(found) else ""

    # -- property lists

    def _plist(self, table: Table, file: str) -> tuple[str, Plist]:
        found = self.reader.plist(table)
        if file:
            return file, self._parsed(file)
        if found is None:
            raise InputError(f"target {self.target.name} has no property list", file=self.reader.project.path)
        return found

    def _entitlements(self, table: Table, file: str) -> tuple[str, Plist]:
        path = file or self.reader.file(table, "CODE_SIGN_ENTITLEMENTS")
        if not path:
            raise InputError(f"target {self.target.name} has no entitlements", file=self.reader.project.path)
        return path, self._parsed(path)

    def _parsed(self, path: str) -> Plist:
        data = self.reader.tree.named_file(path)
        if data is None:
            raise InputError("the property list is gone", file=path)
        try:
            return parse_plist(data)
        except FormatError as error:
            raise InputError(error.message, file=path, line=error.line) from None

    def _listed(
        self,
        path: str,
        plist: Plist,
        keys: tuple[str, ...],
        mine: Sequence[Configuration],
        release: Configuration,
        flavor: str,
    ) -> Spot:
        node = entry(plist, keys)
        if node is None or node.name not in ("string", "true", "false", "integer", "real"):
            known = ["/".join(item.path) for item in plist.strings()]
            known += [element.text for element in plist.top.walk() if element.name == "key"]
            raise gone("key", "/".join(keys), path, known)
        source = plist.document.source
        if node.name in ("true", "false"):
            spot = place(path, source, node.start, node.end, "raw")
            if flavor and not self._alone(path, flavor):
                shared = "all configurations share this property list"
                return refusing(node.name, spot, shared, lambda new: _switch(spot, new))
            return Spot(node.name, path, spot.line, lambda new: _switch(spot, new))
        span = text_span(plist.document, node)
        if span is None:
            raise InputError(f"the key {'/'.join(keys)} is empty", file=path, line=source.line(node.start))
        text = node.text.strip(SPACE) if node.name != "string" else node.text
        spot = place(path, source, span[0], span[1], "xml-cdata" if span[2] else "xml-text")
        named = _REFERENCE.match(text)
        if named:
            return self._setting(named[1], mine, release, flavor)
        if flavor and not self._alone(path, flavor):
            why = "all configurations share this property list: let the key refer to a build setting, such as $(NAME)"
            return refusing(text, spot, why, literal_spot(self.reader.tree, text, spot).write)
        return literal_spot(self.reader.tree, text, spot)

    def _alone(self, path: str, flavor: str) -> bool:
        """Tell whether a property list or entitlements file is a flavor's own."""
        users = set()
        for item in self.target.configurations:
            table = self.reader.table(self.target, item)
            if path in (self.reader.file(table, "INFOPLIST_FILE"), self.reader.file(table, "CODE_SIGN_ENTITLEMENTS")):
                users.add(item.name)
        return users <= {item.name for item in self.target.of(flavor)}


def entry(plist: Plist, keys: Sequence[str]) -> Element | None:
    """Return the element at a path of keys; numbers count an array's items."""
    node: Element | None = plist.top
    for key in keys:
        if node is None:
            return None
        if node.name == "array":
            node = node.children[int(key)] if key.isdecimal() and int(key) < len(node.children) else None
        elif node.name == "dict":
            pairs = itertools.pairwise(node.children)
            node = next((value for item, value in pairs if item.name == "key" and item.text == key), None)
        else:
            return None
    return node


def _scheme_path(plist: Plist, name: str, path: str) -> tuple[str, ...]:
    """Return the key path of a URL scheme: that of the entry of a name, or of a number."""
    types = entry(plist, ("CFBundleURLTypes",))
    known = []
    for number, item in enumerate(types.children if types is not None else ()):
        base = ("CFBundleURLTypes", str(number))
        label = entry(plist, (*base, "CFBundleURLName"))
        text = label.text if label is not None else str(number)
        known.append(text)
        if name in (text, str(number)):
            del item
            return (*base, "CFBundleURLSchemes", "0")
    raise gone("URL scheme", name, path, known)


def _origin(value: Value) -> Place:
    places = [piece for piece in value.pieces if piece.place and piece.text]
    return places[0].place or value.place if len(places) == 1 and places[0].text == value.text else value.place


def _switch(spot: Place, new: str) -> Draft:
    if new not in ("true", "false"):
        return Draft(refusals=[Note(spot.at, f"“{new}” is neither true nor false, as this key is")])
    return Draft(edits=[Edit(spot.file, spot.start, spot.end, f"<{new}/>".encode())])
