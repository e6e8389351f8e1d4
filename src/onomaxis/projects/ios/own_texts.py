"""Texts of a property list that every flavor has for itself: its name in each language, what it asks permission with.

A target has one ``InfoPlist.strings`` a language for all its configurations. Where flavors are called otherwise in a
language, each configuration names a folder of such files by a setting, and a phase copies them into the app.
"""

from __future__ import annotations

from collections.abc import Sequence

from onomaxis.formats.escapes import encode
from onomaxis.formats.openstep import Array, Text, parse_openstep
from onomaxis.model import Facet, Note
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import span_edit
from onomaxis.projects.ios.insertion import Insertion
from onomaxis.projects.ios.languages import Entry, add_region, home_of, into_strings
from onomaxis.projects.ios.phases import CopyPhase, out_of_resources, phase_of
from onomaxis.projects.ios.places import ApplePlaces
from onomaxis.projects.ios.text_folders import FILE, SETTING, is_parted
from onomaxis.tree import join, parent

_FACET = "texts"
_INPUT = "$(SRCROOT)/$({})/{}.lproj/{}"
_OUTPUT = "$(TARGET_BUILD_DIR)/$(UNLOCALIZED_RESOURCES_FOLDER_PATH)/{}.lproj/{}"
_SCRIPT = f"""if [ -n "${SETTING}" ]; then
  for texts in "$SRCROOT/${SETTING}"/*.lproj; do
    if [ -f "$texts/{FILE}" ]; then
      into="$TARGET_BUILD_DIR/$UNLOCALIZED_RESOURCES_FOLDER_PATH/${{texts##*/}}"
      mkdir -p "$into" && cp "$texts/{FILE}" "$into/{FILE}"
    fi
  done
fi
"""
# What a language has for a flavor that is not called otherwise there.
_NOTHING = "/* Nothing is called otherwise in this language. */\n"

Texts = Sequence[tuple[str, str]]


def part(places: ApplePlaces, flavor: str, shown: str = "") -> Draft:
    """Return what gives a flavor texts of its own, which say what they say for all so far, but for the name *shown*.

    Where the first one gets them the texts of all others are copied by the same phase. Nothing where it has them.
    Where the app has no such texts yet, there is a folder for them then.
    """
    reader, target = places.reader, places.target
    project, tree = reader.project, reader.tree
    mine = target.of(flavor)
    release = target.release_of(flavor) if mine else None
    if release is None:
        return Draft()
    texts = reader.strings_files(target, configuration=release)
    folders = {parent(parent(path)) for _, path in texts}
    refusal = _refusal(places, texts, folders)
    if refusal:
        return Draft(refusals=[refusal])
    shared = folders.pop() if folders else home_of(reader, target)
    apart = is_parted(project, target)
    others = [item for item in target.configurations if item not in mine]
    if apart and all(reader.table(target, item).text(SETTING) != project.from_start(shared) for item in others):
        return Draft()
    own = join(shared, flavor)
    draft = places.own(SETTING, flavor, project.from_start(own))
    data = {language: _named(tree.read(path) or b"", shown) for language, path in texts}
    draft.created += [(join(own, f"{language}.lproj/{FILE}"), text) for language, text in data.items()]
    if apart:
        return draft
    for name in dict.fromkeys(("", *target.flavors())):
        if name.casefold() != flavor.casefold():
            draft.join(places.own(SETTING, name, project.from_start(shared)))
    paths = {path for _, path in texts}

    def listed(key: str) -> bool:
        return any(project.path_of(child) in paths for child in project.object(key).texts("children"))

    draft.edits += out_of_resources(project, target, listed, _FACET)
    draft.edits += _phase([language for language, _ in texts]).added(project, target, _FACET)
    return draft


def _named(data: bytes, shown: str) -> bytes:
    """Return the texts of a language with another display name, where they say one."""
    document = parse_openstep(data)
    entries = [item.value for item in document.top.entries if item.key.value == "CFBundleDisplayName"]
    for node in entries[-1:] if shown else ():
        if isinstance(node, Text):
            edit = span_edit(FILE, document.source, node.start, node.end, encode("openstep-entry", shown))
            return data[: edit.start] + edit.new + data[edit.end :]
    return data


def _refusal(places: ApplePlaces, texts: Texts, folders: set[str]) -> Note | None:
    """Say why a target's texts cannot be parted."""
    reader, target = places.reader, places.target
    catalogs = reader.string_catalogs(target)
    if catalogs:
        said = "a string catalog has the texts of all flavors: let InfoPlist.strings files say them for this target"
        return Note(catalogs[0], said)
    whole = [
        path
        for _, path in texts
        for folder in reader.project.synchronized_folders(target)
        if path.startswith(f"{folder}/")
    ]
    if whole and not is_parted(reader.project, target):
        return Note(whole[0], "it lies in a folder that goes into every flavor's app: move it out of the folder")
    return Note(texts[0][1], "languages lie in several folders: put them side by side") if len(folders) > 1 else None


def _phase(languages: Sequence[str]) -> CopyPhase:
    inputs = [_INPUT.format(SETTING, language, FILE) for language in languages]
    return CopyPhase(
        "Copy the flavor's own texts", inputs, [_OUTPUT.format(item, FILE) for item in languages], _SCRIPT
    )


def new_language(places: ApplePlaces, flavor: str, locale: str, entry: Entry) -> Draft:
    """Return what gives a flavor a text in a language that it has none in yet, where each has texts of its own.

    The others get a file that says nothing: what a phase declares to copy must be there for all.
    """
    reader, target = places.reader, places.target
    project, draft = reader.project, Draft()
    release = target.release_of(flavor) if flavor else target.release()
    named = {reader.table(target, item).text(SETTING) for item in target.configurations}
    own = reader.table(target, release).text(SETTING) if release is not None else ""
    for folder in sorted(named - {""}):
        path = join(join(project.start, folder), f"{locale}.lproj/{FILE}")
        if not reader.tree.exists(path):
            draft.created.append((path, (f"{entry.line}\n" if folder == own else _NOTHING).encode()))
        elif folder == own:
            into_strings(reader.tree, path, entry, draft)
    phase = phase_of(project, target, f"$({SETTING})")
    insertion = Insertion(project, Facet.DISPLAY_NAME, _FACET)
    for name, form in (
        ("inputPaths", _INPUT.format(SETTING, locale, FILE)),
        ("outputPaths", _OUTPUT.format(locale, FILE)),
    ):
        listed = phase.get(name) if phase is not None and path not in phase.texts(name) else None
        if isinstance(listed, Array):
            insertion.append(listed, [encode("openstep", form)])
    draft.edits += insertion.edits
    add_region(project, locale, Facet.DISPLAY_NAME, draft)
    return draft
