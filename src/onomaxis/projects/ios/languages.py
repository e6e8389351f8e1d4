"""A text in a language that an Xcode project does not have yet: strings, catalog, variant group, regions.

Source of the rules: Apple, "Localizing the display name of your app" (InfoPlist.strings, string catalogs) and the
layout in which Xcode writes ``knownRegions`` and ``PBXVariantGroup``.
"""

from __future__ import annotations

from typing import NamedTuple

from onomaxis.errors import FormatError
from onomaxis.formats.escapes import encode
from onomaxis.formats.json_members import new_members
from onomaxis.formats.jsonc import parse_json
from onomaxis.formats.openstep import Array, opening, parse_openstep
from onomaxis.model import Facet, Note
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import span_edit
from onomaxis.projects.ios.insertion import Insertion, resource_lists
from onomaxis.projects.ios.project_file import Target, XcodeProject
from onomaxis.projects.ios.targets import TargetReader
from onomaxis.tree import Tree, join, parent


class Entry(NamedTuple):
    """A text to be: its key in a table of strings, what it is; the facet that it says."""

    text: str
    key: str = "CFBundleDisplayName"
    table: str = "InfoPlist"
    facet: str = Facet.DISPLAY_NAME

    @property
    def file(self) -> str:
        """What the strings files of the table are called."""
        return f"{self.table}.strings"

    @property
    def line(self) -> str:
        """The entry as a strings file has it."""
        return f"{encode('openstep-entry', self.key)} = {encode('openstep-entry', self.text)};"


def localize(reader: TargetReader, target: Target, locale: str, text: Entry) -> Draft:
    """Return what gives a target's app a text in a language, with all that the project needs for a new one."""
    project, tree, draft = reader.project, reader.tree, Draft()
    known = {language.casefold(): path for language, path in reader.strings_files(target, text.table)}
    catalogs = reader.string_catalogs(target, text.table)
    if locale.casefold() in known:
        into_strings(tree, known[locale.casefold()], text, draft)
        return draft
    if catalogs:
        _into_catalog(tree, catalogs[0], locale, text, draft)
    else:
        _new_strings(reader, target, locale, text, draft)
    if not draft.refusals and (draft.edits or draft.created):
        add_region(project, locale, text.facet, draft)
    return draft


def into_strings(tree: Tree, path: str, text: Entry, draft: Draft) -> None:
    """Add the name to the strings file of a language that has one without it."""
    document = parse_openstep(tree.read(path) or b"")
    if any(entry.key.value == text.key for entry in document.top.entries):
        return
    source = document.source
    end = document.top.entries[-1].end if document.top.entries else len(source.view.rstrip())
    lead = source.newline if end else ""
    draft.edits.append(span_edit(path, source, end, end, f"{lead}{text.line}", text.facet))


def _into_catalog(tree: Tree, path: str, locale: str, text: Entry, draft: Draft) -> None:
    """Add the name in a language to a string catalog; with its key, where the catalog does not have that yet."""
    document = parse_json(tree.read(path) or b"")
    source, base = document.source, ("strings", text.key)
    unit = {"stringUnit": {"state": "translated", "value": text.text}}
    wanted: dict[tuple[str, ...], object] = {(*base, "localizations", locale): unit}
    if document.top.get(*base) is None:
        wanted = {(*base, "extractionState"): "manual", **wanted}
    for first, last, added in new_members(document, wanted):
        draft.edits.append(span_edit(path, source, first, last, added, text.facet))


def _new_strings(reader: TargetReader, target: Target, locale: str, text: Entry, draft: Draft) -> None:
    """Make the strings file of a language, and list it where the project lists such files."""
    project, tree = reader.project, reader.tree
    models = reader.strings_files(target, text.table)
    folders = project.synchronized_folders(target)
    group = _variant_group(project, target, text.file)
    if group is not None and models:
        language, model = models[0]
        path = model.replace(f"{language}.lproj/", f"{locale}.lproj/")
        _into_group(project, group, (language, locale), text, draft)
    elif models:
        path = join(parent(parent(models[0][1])), f"{locale}.lproj/{text.file}")
    elif folders:
        path = join(folders[0], f"{locale}.lproj/{text.file}")
    else:
        path = join(home_of(reader, target), f"{locale}.lproj/{text.file}")
        _new_group(project, target, path, (locale, text), draft)
    if tree.exists(path):
        draft.refusals.append(Note(path, "the file exists, but the project does not list it"))
    draft.created.append((path, f"{text.line}\n".encode()))


def _variant_group(project: XcodeProject, target: Target, file: str) -> str | None:
    """Return the variant group of the property list's texts among a target's resources."""
    for phase in target.node.texts("buildPhases"):
        for build_file in project.object(phase).texts("files"):
            key = project.object(build_file).text("fileRef")
            group = project.object(key)
            if group.text("isa") == "PBXVariantGroup" and group.text("name") == file:
                return key
    return None


def _reference(key: str, locale: str, path: str, tree: str = '"<group>"') -> str:
    name, where = encode("openstep", locale), encode("openstep", path)
    inner = f"isa = PBXFileReference; lastKnownFileType = text.plist.strings; name = {name}; path = {where};"
    return f"{key} /* {locale} */ = {{{inner} sourceTree = {tree}; }};"


def _into_group(project: XcodeProject, group: str, languages: tuple[str, str], text: Entry, draft: Draft) -> None:
    """Add a language's file to a variant group, with the path that its sibling's reference has."""
    language, locale = languages
    node = project.object(group)
    children = node.get("children")
    sibling = next(
        (path for key in node.texts("children") if f"{language}.lproj" in (path := project.object(key).text("path"))),
        f"{language}.lproj/{text.file}",
    )
    insertion = Insertion(project, text.facet, "language", draft.edits)
    key = insertion.identifier(group, locale)
    path = sibling.replace(f"{language}.lproj", f"{locale}.lproj")
    insertion.add("PBXFileReference", [_reference(key, locale, path)], "PBXVariantGroup")
    if isinstance(children, Array):
        insertion.append(children, [f"{key} /* {locale} */"])


def home_of(reader: TargetReader, target: Target) -> str:
    """Return the folder of a target's property list, else the one that is called as the target."""
    release = target.release()
    listed = reader.file(reader.table(target, release), "INFOPLIST_FILE") if release is not None else ""
    return parent(listed) if listed else join(reader.project.folder, target.name)


def _new_group(project: XcodeProject, target: Target, path: str, made: tuple[str, Entry], draft: Draft) -> None:
    """Make a variant group with one language, among the main group's children and the target's resources."""
    locale, text = made
    lists = resource_lists(project, target, parent(parent(path)))
    if lists is None:
        said = f"{target.name} has no list of resources: add the language in Xcode first"
        draft.refusals.append(Note(project.path, said))
        return
    insertion = Insertion(project, text.facet, "language", draft.edits)
    file, group = (insertion.identifier(kind, target.name, text.file) for kind in ("file", "group"))
    insertion.add("PBXFileReference", [_reference(file, locale, *lists.place(project, path))], "PBXGroup")
    lines = [
        f"{group} /* {text.file} */ = {{",
        "\tisa = PBXVariantGroup;",
        "\tchildren = (",
        f"\t\t{file} /* {locale} */,",
        "\t);",
        f"\tname = {text.file};",
        '\tsourceTree = "<group>";',
        "};",
    ]
    insertion.add_lines("PBXVariantGroup", lines, "PBXGroup")
    lists.add(insertion, group, text.file, insertion.identifier("build", target.name, text.file))


def add_region(project: XcodeProject, locale: str, facet: str, draft: Draft) -> None:
    """Add the language to those that the project knows."""
    if project.root is None:
        return
    listed = project.root.get("knownRegions")
    insertion = Insertion(project, facet, "language", draft.edits)
    if isinstance(listed, Array):
        if locale not in project.root.texts("knownRegions"):
            insertion.append(listed, [encode("openstep", locale)])
        return
    try:
        at, before, after = opening(project.document, project.root, "knownRegions")
    except FormatError:
        return
    own = project.root.text("developmentRegion") or "en"
    regions = ", ".join(encode("openstep", item) for item in dict.fromkeys((own, "Base", locale)))
    insertion.insert(at, f"{before}({regions}){after}")
