"""A new flavor: configurations for project and targets, their files, a scheme."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Iterator, Mapping, Sequence

from onomaxis.errors import FormatError
from onomaxis.formats.escapes import encode
from onomaxis.formats.openstep import Array, Dict, Text, opening
from onomaxis.formats.source import Source
from onomaxis.identity.schema import OWED
from onomaxis.model import Facet, Note, Owed
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import place_edit, span_edit
from onomaxis.projects.ios.flavors.common_file import said_in_files
from onomaxis.projects.ios.flavors.copies import Copies, Lacking, copies_of, main_of, siblings_of
from onomaxis.projects.ios.flavors.naming import new_names
from onomaxis.projects.ios.flavors.pods import podfile_told
from onomaxis.projects.ios.flavors.renaming import Renaming
from onomaxis.projects.ios.flavors.schemes import flavor_schemes
from onomaxis.projects.ios.flavors.shared import BRAND_ID, BRAND_NAME, FALLBACK, Lists, NewFlavor, begins, recut
from onomaxis.projects.ios.insertion import Insertion, line_span, object_entries
from onomaxis.projects.ios.project_file import Configuration, Target, XcodeProject, flavor_of
from onomaxis.projects.ios.settings import ConfigurationFiles, Definition
from onomaxis.projects.ios.targets import Identity, TargetReader
from onomaxis.projects.project import Flavor, place
from onomaxis.projects.services import SERVICE_SETTING
from onomaxis.tree import Tree, join, parent

_SKIPPED = ("framework", "library", "bundle", "product")


def add_flavor(project: XcodeProject, tree: Tree, flavor: Flavor, id_: str, shown: str, scheme: str = "") -> Draft:
    """Add the configurations of a new flavor to the project and every target, with files and a shared scheme.

    *id_* and *shown* are the flavor's bundle identifier and display name (empty: as the app). Refused where the
    identifier or the name is written out in a property list that all configurations share.
    """
    model, templates = new_names(project, flavor.name, flavor.like)
    adding = Adding(project, tree, NewFlavor(flavor.name, id_, shown, templates, model, flavor.given))
    taken = [new for new in adding.new.templates if new in project.project_configurations]
    if taken or not adding.new.templates:
        said = f"the configuration {taken[0]} exists" if taken else "there is no configuration to start from"
        return Draft(refusals=[Note(project.path, said)])
    models = adding.new.templates.values()
    unread = [name for name in project.project_configurations if not flavor_of(name)]
    for name in unread if any(not flavor_of(model) for model in models) else ():
        if name not in models:
            adding.draft.notes.append(
                Note(project.path, f"{name} gets no flavor: it is not a build type that is known")
            )
    adding.run(flavor.module)
    adding.schemes(flavor.module, scheme)
    adding.draft.join(podfile_told(project, tree, adding.new.templates))
    return adding.draft


# What settings become; None for one that goes.
Settings = Mapping[str, str | None]


class Adding:
    """Gathers what a new flavor needs."""

    def __init__(self, project: XcodeProject, tree: Tree, new: NewFlavor) -> None:
        self.project = project
        self.tree = tree
        self.new = new
        self.draft = Draft()
        self.source = project.document.source
        self.entries = object_entries(project)
        self.reader = TargetReader(project, tree, ConfigurationFiles(tree))
        self.insertion = Insertion(project, "flavor", new.flavor, self.draft.edits)
        self.carriers: set[str] = set()
        self.copies = Copies()
        self.renaming = Renaming(project, tree, self.reader, new, self.copies, self.draft)
        self.references: dict[str, tuple[str, str]] = {}

    def identifier(self, *words: str) -> str:
        """Return an unused object identifier, the same on every machine."""
        return self.insertion.identifier(*words)

    def insert(self, position: int, text: str) -> None:
        """Add text at a view position."""
        self.insertion.insert(position, text)

    def run(self, main: str) -> None:
        """Copy each list's configurations; the project's get the flavor's file as their base."""
        app = next(target for target in self.project.targets if target.name == main)
        base = self._template_id(app)
        self.copies = copies_of(self.project, self.tree, app, self.reader, self.new)
        self.renaming = Renaming(self.project, self.tree, self.reader, self.new, self.copies, self.draft)
        self.draft.notes += self.copies.notes
        self.draft.owed += self.copies.owed
        self.carriers = set(self._carriers(base))
        named = self.named(app)
        carried = {*named, *self.carriers}
        siblings = siblings_of(self.project, app, self.reader, self.new)
        files = self._files(app)
        for copy in self.copies.files.values():
            self._create(copy.path, copy.data)
        listed_files = set(self.project.paths.values())  # what is only included needs no reference
        copies = ((old, copy.path) for old, copy in self.copies.files.items() if old in listed_files)
        copied = {old: self._referenced(path) for old, path in copies}
        self.refer()
        for listed, target, configurations in Lists(self.project):
            by_name = {item.name: item for item in configurations}
            made: list[tuple[str, str]] = []
            texts: list[str] = []
            for new, old in self.new.templates.items():
                if old not in by_name:
                    continue
                key = self.identifier(listed, new)
                settings = self._settings(target, by_name[old], base, app, named)
                if target is not None and target.kind not in _SKIPPED:
                    lacking = Lacking(target, self.reader, self.new, siblings)
                    settings = self._lacked(target, lacking(new, by_name[old], carried)) | settings
                file = (files.get(old) if target is None else None) or copied.get(by_name[old].base)
                texts.append(self._copied(by_name[old], key, new, settings, file))
                made.append((key, new))
            last = configurations[-1] if configurations else None
            if last is None or not texts:
                continue
            at = line_span(self.source, self.entries[last.id].key.start, self.entries[last.id].end)[1]
            self.insert(at, "".join(texts))
            self._listed(listed, made)

    def _lacked(self, target: Target, found: Mapping[str, str | None]) -> dict[str, str | None]:
        """Return what siblings' configurations say beyond their models; say what nobody can tell for the new one."""
        for key, text in found.items():
            if text == OWED:
                self.draft.owed.append(Owed(self.project.path, key))
            elif text is None:
                said = f"{key} of {target.name}: every flavor has its own, say what {self.new.flavor} has"
                self.draft.notes.append(Note(self.project.path, said))
        return {key: text for key, text in found.items() if text is not None}

    # -- what a configuration says

    def _template_id(self, app: Target) -> str:
        """Return the ID that the templates' archived configuration gives the app."""
        mine = [item for item in app.configurations if item.name in self.new.templates.values()]
        release = app.release()
        chosen = release if release in mine else main_of(self.reader, app, mine)
        value = self.reader.identity(app, chosen).id
        return value.text if value else ""

    def _settings(
        self, target: Target | None, old: Configuration, base: str, app: Target, named: Mapping[str, str]
    ) -> dict[str, str | None]:
        """Return the settings in which a new configuration differs from its model; None for one that it lacks."""
        found = self.renaming.of(target, old)
        if target is None or target.kind in _SKIPPED:
            return found
        identity = self.reader.identity(target, old)
        table = self.reader.table(target, old)
        if self.new.id and identity.id and base and begins(identity.id.text, base):
            if self._in_plist(identity):
                where = identity.id.place.at
                self.draft.refusals.append(Note(where, "the bundle identifier is written into the property list"))
            if not self._carried(table.define("PRODUCT_BUNDLE_IDENTIFIER")):
                found["PRODUCT_BUNDLE_IDENTIFIER"] = f"$({BRAND_ID}){identity.id.text[len(base) :]}"
        for item in old.settings.entries if self.new.id and base else ():
            key = item.key.value
            if key in found or not isinstance(item.value, Text) or "[" in key:
                continue
            text = table.text(key)
            if begins(text, base) and not self._carried(table.define(key)):
                found[key] = f"$({BRAND_ID}){text[len(base) :]}"
            elif "PROVISIONING" in key and text:
                self.draft.notes.append(Note(self.project.path, f"{key} of {target.name} is the app's still: {text}"))
        if target.id == app.id:
            found |= named
            if old.settings.text(SERVICE_SETTING):  # until its own file is there, its build says so
                found[SERVICE_SETTING] = self.project.from_start(self.project.service_place(app, self.new.flavor))
        return found

    def _carriers(self, base: str) -> Iterator[str]:
        """Yield the settings of the project's configuration files that hold the app's ID: the flavor says its own."""
        for copy in self.copies.files.values():
            yield from copy.keys
        files = ConfigurationFiles(self.tree)
        for name, item in self.project.project_configurations.items():
            if name in self.new.templates.values() and item.base and base:
                for key, definitions in files.level(item.base).items():
                    if definitions[-1].text == base:
                        yield key

    def _carried(self, found: tuple[Definition, int] | None) -> bool:
        """Tell whether a definition refers to a setting that carries the flavor's ID already, or stands in a copy."""
        if found is not None and found[0].place is not None and found[0].place.file in self.copies.files:
            return True
        return found is not None and any(
            f"$({key})" in found[0].text or f"${{{key}}}" in found[0].text for key in self.carriers
        )

    def _in_plist(self, identity: Identity) -> bool:
        """Tell whether an ID stands in the property list itself, where every configuration reads it."""
        return bool(identity.id and identity.id.place.file.endswith(".plist"))

    def named(self, app: Target) -> Mapping[str, str]:
        """Return the setting that carries the display name; make the property list refer to one where it does not."""
        if not self.new.name:
            return {}
        first = next(item for item in app.configurations if item.name in self.new.templates.values())
        if self.copies.says(self.reader.identity(app, first).name):
            return {}
        table = self.reader.table(app, first)
        plist = self.reader.plist(table)
        entry = plist[1].string("CFBundleDisplayName") if plist else None
        if plist is None or entry is None:
            if plist is None or table.text("GENERATE_INFOPLIST_FILE") == "YES":
                return {"INFOPLIST_KEY_CFBundleDisplayName": f"$({BRAND_NAME})"}
            path, parsed = plist
            start, end, before, after = parsed.opening("CFBundleDisplayName")
            source = parsed.document.source
            self.draft.edits.append(span_edit(path, source, start, end, f"{before}$({BRAND_NAME}){after}", "flavor"))
            return self._named_before(app, FALLBACK)
        found = re.fullmatch(r"\$[({](\w+)[)}]", entry.value)
        if found and found[1] not in ("PRODUCT_NAME", "TARGET_NAME", BRAND_NAME):
            return {found[1]: f"$({BRAND_NAME})"}
        if found and found[1] == BRAND_NAME:
            return {}
        path, source = plist[0], plist[1].document.source
        spot_ = place(path, source, entry.start, entry.end, entry.syntax)
        self.draft.edits.append(place_edit(self.tree, spot_, f"$({BRAND_NAME})", Facet.DISPLAY_NAME))
        return self._named_before(app, entry.value)

    def _named_before(self, app: Target, text: str) -> Mapping[str, str]:
        """Let today's configurations of the project go on saying the name that the property list said."""
        edits, rest = said_in_files(self.project, self.tree, app, BRAND_NAME, text, self.new.flavor)
        self.draft.edits += edits
        for item in rest:
            try:
                at, before, after = opening(self.project.document, item.settings, BRAND_NAME)
            except FormatError:
                self.draft.refusals.append(Note(self.project.path, f"configuration {item.name} has no settings"))
                continue
            if item.settings.get(BRAND_NAME) is None:
                self.insert(at, f"{before}{encode('openstep', text)}{after}")
        return {}

    # -- the text of objects

    def _copied(
        self,
        old: Configuration,
        key: str,
        name: str,
        settings: Mapping[str, str | None],
        file: tuple[str, str] | None,
    ) -> str:
        """Return the text of a configuration's copy, in the layout of its model."""
        entry = self.entries[old.id]
        begin, end = line_span(self.source, entry.key.start, entry.end)
        node = self.project.object(old.id)
        cuts = [(entry.key.start, entry.key.end, key)]
        cuts += [(a, b, f"/* {name} */") for a, b in _comment_after(self.source, entry.key.end, old.name)]
        written = node.get("name")
        if isinstance(written, Text):
            cuts.append((written.start, written.end, encode("openstep", name)))
        cuts += self.changed(old.settings, settings)
        if file is not None:
            reference = f"{file[0]} /* {file[1]} */"
            present = node.get("baseConfigurationReference")
            if isinstance(present, Text):
                follow = [b for _, b in _comment_after(self.source, present.end, "")]
                cuts.append((present.start, follow[0] if follow else present.end, reference))
            else:
                kind = next(item for item in node.entries if item.key.value == "isa")
                lead = self.source.view[self.source.line_start(kind.key.start) : kind.key.start]
                line = f"{self.source.newline}{lead}" if not lead.strip() else " "
                cuts.append((kind.end, kind.end, f"{line}baseConfigurationReference = {reference};"))
        text = recut(self.source, begin, end, cuts)
        return text if text.endswith("\n") else text + self.source.newline

    def changed(
        self, block: Dict, settings: Mapping[str, str | None], keep: bool = False
    ) -> list[tuple[int, int, str]]:
        """Return the cuts that give a block its changed settings (None: gone), and drop what only plain ones say.

        With *keep* nothing is dropped.
        """
        cuts: list[tuple[int, int, str]] = []
        for key, text in settings.items():
            written = encode("openstep", text or "")
            present = block.get(key)
            if text is None:
                entry = next(item for item in block.entries if item.key.value == key)
                cuts.append((*line_span(self.source, entry.key.start, entry.end), ""))
                continue
            if present is not None:
                cuts.append((present.start, present.end, written))
                continue
            try:
                at, before, after = opening(self.project.document, block, key)
            except FormatError:
                self.draft.refusals.append(
                    Note(self.project.path, "a configuration without settings gives no layout")
                )
                continue
            cuts.append((at, at, f"{before}{written}{after}"))
        for item in block.entries if not keep else ():
            if item.key.value in (BRAND_NAME, BRAND_ID) and item.key.value not in settings:
                cuts.append((*line_span(self.source, item.key.start, item.end), ""))
        return cuts

    def _listed(self, listed: str, made: Sequence[tuple[str, str]]) -> None:
        """Add the new configurations to their list."""
        node = self.project.object(listed).get("buildConfigurations")
        if not isinstance(node, Array) or not node.items:
            return
        self.insertion.append(node, [f"{key} /* {name} */" for key, name in made])

    # -- files

    def _files(self, app: Target) -> dict[str, tuple[str, str]]:
        """Make the flavor's configuration files; return the reference and name of each template's.

        None are needed where copies of the sibling's say all that the flavor is called.
        """
        first = next(item for item in app.configurations if item.name in self.new.templates.values())
        identity = self.reader.identity(app, first)
        wanted = ((self.new.id, identity.id), (self.new.name, identity.name))
        if self.copies.files and all(self.copies.says(value) for text, value in wanted if text):
            return {}
        bases = {item.name: item.base for item in self.project.project_configurations.values()}
        held = {bases.get(old, "") for old in self.new.templates.values()}
        if held <= self.copies.files.keys():  # what the sibling's own file does not say is said in its copy
            lines = [f"{BRAND_ID} = {self.new.id}"] if self.new.id and not self.copies.says(identity.id) else []
            if self.new.name and not self.copies.says(identity.name):
                lines.append(f"{BRAND_NAME} = {encode('xcconfig', self.new.name)}")
            files = {old: copy.saying(lines) if old in held else copy for old, copy in self.copies.files.items()}
            self.copies = self.copies._replace(files=files)
            return {}
        used = [bases[old] for old in self.new.templates.values() if bases.get(old)]
        folder = parent(used[0]) if used else join(self.project.folder, "Flavors")
        newline = self.source.newline
        flavor = self.new.flavor
        own = join(folder, f"{flavor}.xcconfig")
        lines = [f"// What {flavor} is called; its configurations refer to these."]
        lines += [f"{BRAND_ID} = {self.new.id}"] if self.new.id else []
        copied = {key for copy in self.copies.files.values() for key in copy.keys}
        lines += [f"{key} = $({BRAND_ID})" for key in sorted(self.carriers - copied)] if self.new.id else []
        lines += [f"{BRAND_NAME} = {encode('xcconfig', self.new.name)}"] if self.new.name else []
        self._create(own, (newline.join(lines) + newline).encode())
        found: dict[str, tuple[str, str]] = {}
        shared: dict[str, tuple[str, str]] = {}
        for new, old in self.new.templates.items():
            base = bases.get(old, "")
            base = self.copies.files[base].path if base in self.copies.files else base
            path = join(folder, f"{new}.xcconfig") if base else own
            if base:
                relative = posixpath.relpath(base, folder or ".") if base else ""
                text = f'#include "{relative}"{newline}#include "{flavor}.xcconfig"{newline}'
                self._create(path, text.encode())
            found[old] = shared.setdefault(path, ("", "")) if path in shared else self._referenced(path)
            shared[path] = found[old]
        return found

    def _create(self, path: str, data: bytes) -> None:
        if self.tree.exists(path):
            self.draft.refusals.append(Note(path, "the file exists"))
        self.draft.created.append((path, data))

    def _referenced(self, path: str) -> tuple[str, str]:
        """Make a file reference, which :meth:`refer` writes."""
        project = self.project
        assert project.root is not None
        key, name = self.identifier("file", path), path.rpartition("/")[2]
        start = project.start
        relative = posixpath.relpath(path, start or ".")
        attributes = {
            "lastKnownFileType": "text.xcconfig",
            "name": name,
            "path": relative,
            "sourceTree": "SOURCE_ROOT",
        }
        inner = " ".join(f"{k} = {encode('openstep', v)};" for k, v in attributes.items())
        self.references[key] = f"{key} /* {name} */ = {{isa = PBXFileReference; {inner} }};", name
        return key, name

    def refer(self) -> None:
        """Write the new file references: beside the others, and at the end of the main group."""
        project = self.project
        assert project.root is not None
        if not self.references:
            return
        group = project.root.text("mainGroup")
        self.insertion.add("PBXFileReference", [text for text, _ in self.references.values()], "PBXGroup")
        children = project.object(group).get("children")
        if isinstance(children, Array):
            self.insertion.append(children, [f"{key} /* {name} */" for key, (_, name) in self.references.items()])
        else:
            self.draft.refusals.append(Note(project.path, "the main group lists nothing"))

    def schemes(self, target: str, named: str) -> None:
        """Add shared schemes: copies of the model's with the new configurations; a plain one where there is none."""
        app = next(item for item in self.project.targets if item.name == target)
        made = flavor_schemes(self.tree, self.project, app, self.new, named, self.copies.respelled)
        for path, content in made.items():
            if self.tree.exists(path):
                self.draft.notes.append(Note(path, "the scheme exists and stays as it is"))
            else:
                self.draft.created.append((path, content))


def _comment_after(source: Source, end: int, text: str) -> Iterator[tuple[int, int]]:
    """Yield the span of the comment that names what was just written."""
    found = re.compile(r"[ \t]*(/\*[^*]*\*/)").match(source.view, end)
    if found:
        yield found.start(1), found.end(1)
