"""What shared schemes name: targets and configurations of the project, one flavor's in all actions.

Source of the rules: Apple, "Customizing the build schemes for a project".
"""

from __future__ import annotations

from collections.abc import Iterator

from onomaxis.errors import FormatError
from onomaxis.flavor_names import flavor_word
from onomaxis.formats.xml import Element, XmlDocument, parse_xml
from onomaxis.projects.dangling import Broken, Sort
from onomaxis.projects.ios.project_file import XcodeProject
from onomaxis.projects.ios.schemes import container_folder
from onomaxis.tree import Tree, join, parent


def scheme_references(tree: Tree, parsed: XcodeProject) -> Iterator[Broken]:
    """Yield what the schemes of a project name wrongly."""
    for path in tree.files:
        if not path.endswith(".xcscheme"):
            continue
        try:
            document = parse_xml(tree.read(path) or b"")
        except FormatError:
            continue
        mine = [item for item in _references(document) if _is_mine(parsed, item, path)]
        if mine:
            yield from _targets(parsed, path, document, mine)
            yield from _actions(parsed, path, document)


def _references(document: XmlDocument) -> Iterator[Element]:
    return (item for item in document.root.walk() if item.name == "BuildableReference")


def _is_mine(parsed: XcodeProject, reference: Element, path: str) -> bool:
    container = reference.value("ReferencedContainer").removeprefix("container:")
    return join(container_folder(path), container) == parent(parsed.path)


def _tested(element: Element) -> bool:
    """Tell whether a reference is to tests: those that are gone are left out when the scheme runs."""
    above = element.parent
    return above is not None and (above.name == "TestableReference" or _tested(above))


def _targets(parsed: XcodeProject, path: str, document: XmlDocument, mine: list[Element]) -> Iterator[Broken]:
    there = {target.id: target.name for target in parsed.targets}
    for item in mine:
        key, name = item.value("BlueprintIdentifier"), item.value("BlueprintName")
        other = key not in there and bool(parsed.object(key).text("isa"))  # an aggregate, say
        if other or _tested(item) or there.get(key) == name or (key not in there and name in there.values()):
            continue
        what = f"which is called {there[key]}" if key in there else "and there is none"
        said = f"the scheme names target {name or key}, {what}"
        yield Broken(Sort.SCHEME, said, path, document.source.line(item.start))
        return


def _actions(parsed: XcodeProject, path: str, document: XmlDocument) -> Iterator[Broken]:
    line = document.source.line
    uses: dict[str, tuple[str, int]] = {}
    for action in document.root.children:
        named = action.value("buildConfiguration")
        if named and named not in parsed.project_configurations:
            said = f"{action.name} is built as {named}, and there is no such configuration"
            yield Broken(Sort.SCHEME, said, path, line(action.start))
        elif named:
            uses.setdefault(parsed.flavor_named(named), (action.name, line(action.start)))
    called = path.rpartition("/")[2]
    own = next((flavor for flavor in uses if flavor and flavor_word(flavor).search(called)), "")
    if own and len(uses) > 1:
        other, (name, at) = next((flavor, use) for flavor, use in uses.items() if flavor != own)
        said = f"{name} is built for {other or 'the app itself'}, the scheme is {own}'s"
        yield Broken(Sort.MIXED, said, path, at, own)
