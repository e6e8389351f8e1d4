"""How a service file gets into an app: as a resource of a target, in a folder of resources, or copied by a script."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator

from onomaxis import late
from onomaxis.formats.escapes import encode
from onomaxis.formats.openstep import Array, opening
from onomaxis.model import Note
from onomaxis.projects.draft import Draft
from onomaxis.projects.ios.insertion import Insertion, resource_lists
from onomaxis.projects.ios.phases import CopyPhase, out_of_resources, phase_of
from onomaxis.projects.ios.places import ApplePlaces
from onomaxis.projects.ios.project_file import Target, XcodeProject
from onomaxis.projects.services import GOOGLE_IOS, SERVICE_INPUT
from onomaxis.projects.services import SERVICE_SETTING as SETTING
from onomaxis.tree import Tree, inside, join

_PHASE = CopyPhase(
    "Copy the service file",
    [SERVICE_INPUT],
    [f"$(BUILT_PRODUCTS_DIR)/$(UNLOCALIZED_RESOURCES_FOLDER_PATH)/{GOOGLE_IOS}"],
    f'if [ -n "${SETTING}" ]; then cp "$SRCROOT/${SETTING}" "$SCRIPT_OUTPUT_FILE_0"; fi\n',
)
# A script that sees to service files itself names them and copies: one that names them alone may upload symbols.
_NAMED = late.compile(r"GoogleService")
_COPIES = late.compile(r"\b(?:cp|ditto|rsync|install|mv|ln|copy\w{0,20}|FileUtils)\b", re.IGNORECASE)
# What a script sets, what it asks for; where an app is built into, and where the project lies.
_SET = late.compile(r"^[ \t]*(?:export )?([A-Za-z_]\w{0,99})=[\"']?([^\"'\n;]{0,500})", re.MULTILINE)
_VARIABLE = late.compile(r"\$[({]?(\w{1,100})[)}]?")
_BUILT = late.compile(
    r"\$[({]?(?:BUILT_PRODUCTS_DIR|TARGET_BUILD_DIR|CODESIGNING_FOLDER_PATH|SCRIPT_\w{1,50}|DERIVED_\w{1,50})"
)
_ROOT = late.compile(r"\A\$[({]?(?:SRCROOT|PROJECT_DIR|SOURCE_ROOT)[)}]?/")
_WORD = late.compile(r"[^\s\"';=]{1,500}")
_DEEPEST = 5
_FILE = late.compile(r"(?<![\w./+-])[\w./+-]{1,200}\.\w{1,10}")
_FACET = "service"


def is_taken(tree: Tree, places: ApplePlaces, flavor: str, path: str) -> bool:
    """Tell whether a flavor's build takes a file into the app, as far as project file and scripts say."""
    project, target = places.reader.project, places.target
    if _is_brought(tree, project, target, path):
        return True
    return _is_ours(project, target) and not places.own(SETTING, flavor, project.from_start(path)).edits


def _is_brought(tree: Tree, project: XcodeProject, target: Target, path: str) -> bool:
    """Tell whether a file is among the resources, or some script but our own copies service files."""
    if _is_copied(project, target, path):
        return True
    sources = [item for text in _scripts(tree, project, target) for item in _sources(project, text)]
    return any(item is None or item.fullmatch(path) for item in sources)


def _sources(project: XcodeProject, text: str) -> Iterator[re.Pattern[str] | None]:
    """Yield where a script that copies service files takes them from, None where that cannot be determined.

    Variables that it sets once are what they are set to, all others any one name: which, a condition may say.
    """
    if not (_NAMED.search(text) and _COPIES.search(text)):
        return
    told = Counter(name for name, _ in _SET.findall(text))
    once = {name: value for name, value in _SET.findall(text) if told[name] == 1}
    for _ in range(_DEEPEST):
        text = _VARIABLE.sub(lambda found: once.get(found[1], found[0]), text)
    words = [word for word in _WORD.findall(text) if word.endswith(GOOGLE_IOS) and "/" in word]
    sources = [word for word in words if not _BUILT.search(word)]
    if not sources:
        yield None
    for word in sources:
        inner = _ROOT.sub("", word)
        if inner == word and word.startswith(("$", "/")):
            yield None
            continue
        parts = _VARIABLE.split(inner)  # texts and the names between them
        lead = f"{project.start}/" if project.start else ""
        yield re.compile("[^/]+".join(map(re.escape, (lead + parts[0], *parts[2::2]))))


def _is_copied(project: XcodeProject, target: Target, path: str) -> bool:
    """Tell whether a target copies a file into the app, by itself or with its folder."""
    if path in _left_out(project, target):
        return False
    return any(path == item or path.startswith(f"{item}/") for item in _copied(project, target))


def _copied(project: XcodeProject, target: Target) -> Iterator[str]:
    """Yield the files and folders that a target copies into the app."""
    yield from project.synchronized_folders(target)
    for phase in map(project.object, target.node.texts("buildPhases")):
        if phase.text("isa") in ("PBXResourcesBuildPhase", "PBXCopyFilesBuildPhase"):
            for key in (project.object(listed).text("fileRef") for listed in phase.texts("files")):
                path = project.path_of(key) if project.object(key).text("isa") == "PBXFileReference" else None
                yield from (path,) if path else ()


def _left_out(project: XcodeProject, target: Target) -> set[str]:
    """Return the files of synchronized folders that a target does not take (``membershipExceptions``)."""
    found: set[str] = set()
    for key in target.node.texts("fileSystemSynchronizedGroups"):
        folder = project.path_of(key)
        for item in map(project.object, project.object(key).texts("exceptions")):
            if folder is not None and item.text("target") == target.id:
                found |= {join(folder, name) for name in item.texts("membershipExceptions")}
    return found


def copies_resources(project: XcodeProject, target: Target) -> bool:
    """Tell whether a project file says at all what goes into an app."""
    return bool(resource_lists(project, target, "") or project.synchronized_folders(target))


def _scripts(tree: Tree, project: XcodeProject, target: Target) -> Iterator[str]:
    """Yield the scripts that a target runs but our own, each with the files that it calls."""
    for key in target.node.texts("buildPhases"):
        phase = project.object(key)
        if phase.text("isa") != "PBXShellScriptBuildPhase" or SERVICE_INPUT in phase.texts("inputPaths"):
            continue
        text = phase.text("shellScript")
        for name in dict.fromkeys(_FILE.findall(re.sub(r"\$[({]?(?:SRCROOT|PROJECT_DIR)[)}]?/", "", text))):
            path = join(project.start, name)
            data = tree.named_file(path) if inside(path) and tree.exists(path) else None
            text += "\n" + (data or b"").decode("utf-8", "replace")
        yield text


def bring(tree: Tree, places: ApplePlaces, flavor: str, path: str) -> Draft:
    """Return what lets a build bring a service file into the app; nothing where it does so already."""
    project, target = places.reader.project, places.target
    if _is_brought(tree, project, target, path):
        return Draft()
    if any(_NAMED.search(text) and _COPIES.search(text) for text in _scripts(tree, project, target)):
        return Draft(notes=[Note(path, "a script of the build copies service files, and not from there: move it")])
    lists = resource_lists(project, target, path.rpartition("/")[0])
    if lists is None:
        return Draft(notes=[Note(path, "add it to the app in Xcode: the target has no list of resources")])
    if flavor or target.flavors():
        whole = next((item for item in tree.named(GOOGLE_IOS) if _is_copied(project, target, item)), "")
        return _parted(places, path, whole) if whole else _by_setting(places, flavor, path)
    insertion = Insertion(project, _FACET, "service")
    key = insertion.identifier("file", target.name, path)
    where, start = lists.place(project, path)
    told = "isa = PBXFileReference; lastKnownFileType = text.plist.xml;"
    named = f"name = {encode('openstep', GOOGLE_IOS)}; " if "/" in where else ""
    written = f"{told} {named}path = {encode('openstep', where)}; sourceTree = {start};"
    insertion.add("PBXFileReference", [f"{key} /* {GOOGLE_IOS} */ = {{{written} }};"], "PBXGroup")
    lists.add(insertion, key, GOOGLE_IOS, insertion.identifier("build", target.name, path))
    return Draft(edits=insertion.edits)


def _parted(places: ApplePlaces, path: str, whole: str) -> Draft:
    """Take the one file of all flavors out of the resources, and let each have it by its setting.

    The build would copy two files to one place. A flavor's own is named after that, in a step of its own.
    """
    project, target = places.reader.project, places.target
    insertion = Insertion(project, _FACET, _FACET)
    cuts = list(out_of_resources(project, target, lambda key: project.path_of(key) == whole, _FACET))
    _except(project, target, whole, insertion)
    if not cuts and not insertion.edits:
        said = f"{whole} lies in a folder that goes into every flavor's app: move it out of the folder"
        return Draft(notes=[Note(path, said)])
    draft = Draft(edits=[*cuts, *insertion.edits])
    for name in dict.fromkeys(("", *target.flavors())):
        draft.join(_by_setting(places, name, whole))
    return draft


def _except(project: XcodeProject, target: Target, path: str, insertion: Insertion) -> None:
    """Let a synchronized folder leave a file out of a target (``membershipExceptions``)."""
    for key in target.node.texts("fileSystemSynchronizedGroups"):
        folder, group = project.path_of(key), project.object(key)
        if folder is None or not path.startswith(f"{folder}/"):
            continue
        name = encode("openstep", path[len(folder) + 1 :])
        sets = [item for item in map(project.object, group.texts("exceptions")) if item.text("target") == target.id]
        listed = next((node for item in sets if isinstance(node := item.get("membershipExceptions"), Array)), None)
        if listed is not None:
            insertion.append(listed, [name])
            continue
        isa = "PBXFileSystemSynchronizedBuildFileExceptionSet"
        made = insertion.identifier("exceptions", target.name, folder)
        lines = [
            f"{made} /* {isa} */ = {{",
            f"\tisa = {isa};",
            "\tmembershipExceptions = (",
            f"\t\t{name},",
            "\t);",
            f"\ttarget = {target.id} /* {target.name} */;",
            "};",
        ]
        insertion.add_lines(isa, lines, "PBXGroup")
        exceptions = group.get("exceptions")
        if isinstance(exceptions, Array):
            insertion.append(exceptions, [f"{made} /* {isa} */"])
        else:
            at, before, after = opening(project.document, group, "exceptions")
            insertion.insert(at, f"{before}({made} /* {isa} */){after}")


def _is_ours(project: XcodeProject, target: Target) -> bool:
    """Tell whether the script that copies by a setting is a target's."""
    return phase_of(project, target, SERVICE_INPUT) is not None


def _by_setting(places: ApplePlaces, flavor: str, path: str) -> Draft:
    """Say in a flavor's configurations which file is its own, and copy it in a phase of the target."""
    project, target = places.reader.project, places.target
    draft = places.own(SETTING, flavor, project.from_start(path))
    if not _is_ours(project, target):
        draft.edits += _PHASE.added(project, target, _FACET)
    return draft
