"""The files beside a project file that speak of its project, targets and modules, and how each changes.

Every rule takes a file and yields edits; a rule never touches a name that stands for something else (a type, a
display name, a library's module).
"""

from __future__ import annotations

import re
from bisect import bisect_right
from collections.abc import Callable, Iterator
from typing import NamedTuple

from onomaxis import late
from onomaxis.errors import FormatError, RefusedError
from onomaxis.formats.escapes import encode
from onomaxis.formats.jsonc import Node, parse_json
from onomaxis.formats.lexer import LANGUAGES, Region, regions
from onomaxis.formats.plist import is_binary_plist, parse_plist
from onomaxis.formats.source import Source
from onomaxis.formats.xcconfig import Setting, parse_xcconfig
from onomaxis.formats.xml import Attribute, Element, parse_xml
from onomaxis.model import Edit, Facet
from onomaxis.projects.edits import span_edit
from onomaxis.projects.ios.schemes import container_folder
from onomaxis.projects.ios.technical.names import Names, bytewise, either
from onomaxis.projects.ios.technical.settings import renamed
from onomaxis.projects.occurrences import ending, is_script_file, language_of
from onomaxis.tree import Tree, join, parent

_CLASS_KEYS = frozenset(
    """NSExtensionPrincipalClass NSPrincipalClass UISceneDelegateClassName UISceneClassName
    WKExtensionDelegateClassName CLKComplicationPrincipalClass EXPrincipalClass""".split()
)
_CODE = (".swift", ".m", ".mm", ".h", ".pch")
_SCRIPTS = frozenset(".yml .yaml .sh .json .js .cjs .mjs .ts .toml .rb .gitignore .mk .properties".split())
_SCRIPT_NAMES = frozenset({".gitignore", ".gitattributes"})


def companion_edits(tree: Tree, names: Names, project_file: str) -> Iterator[Edit]:
    """Yield the edits of every file of the tree that follows a technical rename."""
    below = f"{names.folder}/" if names.folder else ""
    declared = _declared(tree, names)
    for path in tree.files:
        for rule in _rules(path, path.startswith(below), below):
            data = tree.read(path)
            if data:
                yield from _read(rule, _File(path, data), _Context(names, project_file, declared))


class _File(NamedTuple):
    path: str
    data: bytes


class _Context(NamedTuple):
    names: Names
    project_file: str
    declared: frozenset[str]


_CONTAINERS = (".xcodeproj", ".xcworkspace")
_Rule = Callable[[_File, _Context], Iterator[Edit]]


def _rules(path: str, mine: bool, below: str) -> Iterator[_Rule]:
    """Yield the rules for a file, by its name.

    ``mine`` tells that it lies in the project's folder, which is ``below``. Lanes that build it may stand above.
    """
    name = path.rpartition("/")[2]
    above = parent(parent(path))
    if is_script_file(name) and name != "Podfile" and not mine and below.startswith(f"{above}/" if above else ""):
        yield _ruby
    if path.endswith((".xcscheme", ".xcworkspacedata")):
        yield _xcode_xml
    elif path.endswith(".xctestplan"):
        yield _test_plan
    elif not mine:
        pass
    elif is_script_file(name):
        yield _ruby
    elif path.endswith(".xcconfig"):
        yield _xcconfig
    elif path.endswith(_CODE):
        yield _code
    elif path.endswith((".storyboard", ".xib", "/contents")):
        yield _interface
    elif path.endswith(".plist"):
        yield _property_list
    if ending(path) in _SCRIPTS or name in _SCRIPT_NAMES or is_script_file(name):
        yield _mentioned


def _read(rule: _Rule, file: _File, context: _Context) -> Iterator[Edit]:
    """Apply a rule to a file; one that cannot be parsed is left as it is."""
    try:
        yield from list(rule(file, context))
    except FormatError:
        return


def _edit(
    path: str, source: Source, span: tuple[int, int], old: str, new: str, syntax: str = "raw"
) -> Iterator[Edit]:
    """Yield the edit of a view span from one value to another; one that stays keeps the way it is spelled.

    Raises RefusedError where the file's encoding has no such character: the name would be wrong in silence.
    """
    if new == old:
        return
    start, end = span
    try:
        raw = source.raw(encode(syntax, new, source.text(start, end)))
    except FormatError as error:
        remedy = "Choose another technical name, or store the file as UTF-8 first; nothing was changed."
        raise RefusedError(error.message, file=path, line=source.line(start), remedy=remedy) from None
    yield span_edit(path, source, start, end, raw, Facet.PROJECT_NAME)


# -- Xcode's own files


# Attributes of a scheme that hold a script or a path of the file system.
_SCRIPTED = ("scriptText", "customLLDBInitFile", "value", "customWorkingDirectory", "argument")


def _xcode_xml(file: _File, context: _Context) -> Iterator[Edit]:
    """Rewrite schemes and workspaces: the container of a reference decides whose target it names."""
    document = parse_xml(file.data)
    base = container_folder(file.path)
    for element in document.root.walk():
        mine = _is_container(element.value("ReferencedContainer"), base, context.project_file)
        for attribute in element.attributes:
            span = attribute.start, attribute.end
            new = _xcode_attribute(element, attribute, context.names, base, mine)
            yield from _edit(file.path, document.source, span, attribute.value, new, attribute.syntax)


def _is_container(reference: str, base: str, project_file: str) -> bool:
    return reference.startswith("container:") and join(base, reference[10:]) == parent(project_file)


def _xcode_attribute(element: Element, attribute: Attribute, names: Names, base: str, mine: bool) -> str:
    text, name = attribute.value, attribute.name
    if name == "BlueprintName" and mine:
        return names.targets.get(text, text)
    if name == "BuildableName" and mine:
        return names.product(text)
    if name in ("ReferencedContainer", "location", "reference", "filePath"):
        kind, mark, inner = text.partition(":")
        if mark and kind in ("container", "group", "self"):
            return f"{kind}:{_moved(names, base, inner)}"
    if name in _SCRIPTED:
        return names.script(text)
    return text


def _moved(names: Names, base: str, relative: str) -> str:
    full = join(base, relative) if relative else ""
    return names.node_path(relative, full) if full else relative


def _test_plan(file: _File, context: _Context) -> Iterator[Edit]:
    path, data = file
    names, project_file, _ = context
    document = parse_json(data)
    for node in document.top.walk():
        holder = node.get("containerPath")
        text = str(holder.value) if holder is not None else ""
        if holder is None or not _is_container(text, parent(path), project_file):
            continue
        changed = ((holder, f"container:{_moved(names, parent(path), text[10:])}"), *_named(node, names))
        for found, new in changed:
            yield from _edit(path, document.source, (found.start + 1, found.end - 1), str(found.value), new, "json")


def _named(node: Node, names: Names) -> Iterator[tuple[Node, str]]:
    name = node.get("name")
    if name is not None and name.kind == "string":
        yield name, names.targets.get(str(name.value), str(name.value))


def _xcconfig(file: _File, context: _Context) -> Iterator[Edit]:
    path, data = file
    names = context.names
    parsed = parse_xcconfig(data)
    for item in parsed.statements:
        if isinstance(item, Setting):
            new = renamed(names, item.name, item.value)
            yield from _edit(path, parsed.source, (item.start, item.end), item.value, new, "xcconfig")
            continue
        start = parsed.source.view.index('"', item.position) + 1
        end = parsed.source.view.index('"', start)
        yield from _edit(path, parsed.source, (start, end), item.path, names.pods(item.path))


def _property_list(file: _File, context: _Context) -> Iterator[Edit]:
    path, data = file
    names = context.names
    if is_binary_plist(data) or not any(module.encode() in data for module in names.modules):
        return
    plist = parse_plist(data)
    for item in plist.strings():
        if item.path[-1] in _CLASS_KEYS:
            new = names.qualified(item.value)
            yield from _edit(path, plist.document.source, (item.start, item.end), item.value, new, item.syntax)


def _interface(file: _File, context: _Context) -> Iterator[Edit]:
    """Rewrite the modules of custom classes in storyboards and data models; a library's module stays."""
    path, data = file
    names = context.names
    if not any(module.encode() in data for module in names.modules):
        return
    document = parse_xml(data)
    for element in document.root.walk():
        for attribute in element.attributes:
            text = attribute.value
            if attribute.name in ("customModule", "codeGenerationModule", "module"):
                new = names.modules.get(text, text)
            elif attribute.name in ("representedClassName", "customClassName"):
                new = names.qualified(text)
            else:
                continue
            yield from _edit(path, document.source, (attribute.start, attribute.end), text, new, attribute.syntax)


# -- code


def _declared(tree: Tree, names: Names) -> frozenset[str]:
    """Return the modules that share their name with a type or value: there ``Name.x`` is not the module."""
    wanted = either(names.modules)
    if not wanted:
        return frozenset()
    pattern = re.compile(
        rf"\b(?:class|struct|enum|protocol|actor|typealias|let|var|func|case|@interface)\s+({wanted})(?![\w.])".encode()
    )
    found: set[str] = set()
    for path in tree.below(names.folder):
        if path.endswith((".swift", ".h", ".m")):
            found.update(match[1].decode() for match in pattern.finditer(tree.read(path) or b""))
    return frozenset(found)


def _code(file: _File, context: _Context) -> Iterator[Edit]:
    path, data = file
    names, _, declared = context
    if not any(module.encode() in data for module in names.modules):
        return
    source = Source.read(data)
    marked = list(regions(source.view, LANGUAGES.get(ending(path), LANGUAGES[".h"])))
    starts = [region.start for region in marked]
    for start, end, old in _module_names(source.view, names, declared):
        index = bisect_right(starts, start) - 1
        region = marked[index] if index >= 0 and marked[index].end > start else None
        if region is None or _counts(source.view, region, start):
            yield from _edit(path, source, (start, end), old, names.modules[old])


def _counts(view: str, region: Region, start: int) -> bool:
    """Tell whether a name inside a literal is the module: a header's name, or the start of a class's name."""
    line = view[view.rfind("\n", 0, region.start) + 1 : region.start]
    included = re.search(r"#\s*(?:import|include)\s*[\"<]\Z", line)
    return region.kind == "string" and (bool(included) or region.start == start)


def _module_names(view: str, names: Names, declared: frozenset[str]) -> Iterator[tuple[int, int, str]]:
    """Yield where code names a module: imports, generated headers, qualified types, names of classes in strings."""
    back = bytewise({module: module for module in names.modules})
    several = either(back)
    kinds = "typealias|struct|class|enum|protocol|let|var|func|actor"
    patterns = [
        rf"(?:^|;)[ \t]*(?:@[\w()]+[ \t]+|(?:public|internal|package|private|fileprivate)[ \t]+)*"
        rf"import[ \t]+(?:(?:{kinds})[ \t]+)?(?P<name>{several})(?=[.\s;]|\Z)",
        rf"@import[ \t]+(?P<name>{several})(?=[.;])",
        rf"#[ \t]*(?:import|include)[ \t]*[\"<](?:[^\"<>\n]*/)?(?P<name>{several})(?=-Swift\.h[\">])",
        rf"#[ \t]*(?:import|include)[ \t]*[\"<](?P<name>{several})(?=/)",
        rf"__has_include\([\"<](?:[^\"<>\n]*/)?(?P<name>{several})(?=-Swift\.h[\">])",
        rf"\bcanImport\((?P<name>{several})(?=\))",
    ]
    qualified = [module for module in back if back[module] not in declared]
    if qualified:
        patterns.append(rf"(?<![\w.@\udc80-\udcff])(?P<name>{either(qualified)})(?=\.[A-Z])")
    seen: set[int] = set()
    for pattern in patterns:
        for match in re.finditer(pattern, view, re.MULTILINE):
            if match.start("name") not in seen:
                seen.add(match.start("name"))
                yield match.start("name"), match.end("name"), back[match["name"]]


# -- scripts


def _ruby(file: _File, context: _Context) -> Iterator[Edit]:
    """Rewrite targets and schemes in build scripts written in Ruby; a library called the same stays."""
    path, data = file
    names = context.names
    source = Source.read(data)
    language = language_of(path) or LANGUAGES[".rb"]
    for region in regions(source.view, language):
        text = source.text(region.start, region.end)
        if region.kind != "string" or text not in names.targets:
            continue
        line = source.view[source.line_start(region.start) : region.start]
        if _TARGET_CALL.search(line) or (path.endswith("Podfile") and _COMPARED.search(line)):
            yield from _edit(path, source, (region.start, region.end), text, names.targets[text], region.syntax)


_TARGET_CALL = late.compile(
    r"\b(?:target|abstract_target|project|workspace|xcodeproj|scheme|app_scheme|targets)\b\s*(?::|=>|=|\()?\s*\[?\s*[\"']\Z"
)
_COMPARED = late.compile(r"(?:==|!=|include\?\(?)\s*[\"']\Z")


def _places(names: Names, path: str) -> Iterator[tuple[str, str]]:
    """Yield the moved paths as a script may write them without doubt: from the root, or from its own folder.

    A single word may be anything, but in an ignore file it is a path.
    """
    start = f"{parent(path)}/" if parent(path) else ""
    for old, new in names.moved.items():
        if old.endswith((*_CONTAINERS, ".xcscheme")):
            continue
        for written in {old, old.removeprefix(start)}:
            if "/" in written or (path.endswith(".gitignore") and old.startswith(start)):
                yield written, new


def _mentioned(file: _File, context: _Context) -> Iterator[Edit]:
    """Rewrite what any script says without doubt: project and workspace files, moved paths, ``-scheme Old``."""
    path, data = file
    names = context.names
    source = Source.read(data)
    view = source.view
    found: dict[int, tuple[int, str]] = {}
    files = bytewise({old.rpartition("/")[2]: new for old, new in names.moved.items() if old.endswith(_CONTAINERS)})
    for old, new in list(files.items()):  # a workspace that is made when dependencies are fetched
        files.setdefault(old.replace(".xcodeproj", ".xcworkspace"), new.replace(".xcodeproj", ".xcworkspace"))
    targets, products = bytewise(names.targets), bytewise(names.products)
    for pattern, several in (
        (rf"(?<![\w.\udc80-\udcff-])(?P<name>{either(files)})(?![\w\udc80-\udcff-])", files),
        (rf"(?<=-scheme )[\"']?(?P<name>{either(targets)})(?=[\"'\s]|\Z)", targets),
        (rf"(?<=/)(?P<name>{either(products)})(?=\.app\b)", products),
    ):
        for match in re.finditer(pattern, view) if several else ():
            found[match.start("name")] = match.end("name"), several[match["name"]]
    for written, new in bytewise(dict(_places(names, path))).items():
        for match in re.finditer(rf"(?<![\w.\udc80-\udcff-]){re.escape(written)}(?=[/\"'\s]|\Z)", view):
            found[match.end() - len(written.rpartition("/")[2])] = match.end(), new
    for start, (end, new) in found.items():
        yield from _edit(path, source, (start, end), source.text(start, end), new)
