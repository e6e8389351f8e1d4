"""The one file that all configurations of a flavor include, and no others: a setting said there is said once."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from onomaxis.formats.escapes import encode
from onomaxis.formats.source import Source
from onomaxis.formats.xcconfig import Include, parse_xcconfig
from onomaxis.model import Edit
from onomaxis.projects.ios.project_file import Configuration, Target, XcodeProject
from onomaxis.projects.ios.settings import ConfigurationFiles
from onomaxis.projects.ios.targets import TargetReader
from onomaxis.tree import Tree, join, parent


def in_common_file(
    project: XcodeProject, tree: Tree, meant: Sequence[tuple[Target, Configuration]], key: str, text: str
) -> Edit | None:
    """Return the edit that says *key* in a flavor's common file.

    *meant* are targets in configurations of one flavor; all of them must say *text* then. None where no file is
    theirs alone, or where another place decides.
    """
    flavor = meant[0][1].flavor.casefold()
    above = project.project_configurations
    lists = [list(above.values()), *(target.configurations for target in project.targets)]
    others = {item.base for items in lists for item in items if item.flavor.casefold() != flavor}
    taken = {path for base in others if base for path in included_files(tree, base)}
    own = {item.name for _, item in meant}
    for bases in ([above[name].base for name in own if name in above], [item.base for _, item in meant]):
        used = [set(included_files(tree, base)) for base in bases]
        common = set.intersection(*used) - taken if used else set()
        for path in sorted(common, key=lambda item: (flavor not in item.casefold(), item)):
            edit, data = _line(tree.read(path) or b"", path, key, text)
            later = tree.overlay({path: data}, ())
            reader = TargetReader(project, later, ConfigurationFiles(later))
            said = [reader.table(target, item).define(key) for target, item in meant]
            if all(found is not None and found[0].text == text for found in said):
                return edit
    return None


def said_in_files(
    project: XcodeProject, tree: Tree, app: Target, key: str, text: str, beside: str
) -> tuple[list[Edit], list[Configuration]]:
    """Return the edits by which flavors say *key* in a file of their own, and the project's other configurations.

    The flavor *beside* which it is said is in neither: it says its own.
    """
    edits: list[Edit] = []
    rest: list[Configuration] = []
    by_flavor: dict[str, list[Configuration]] = {}
    for item in project.project_configurations.values():
        by_flavor.setdefault(item.flavor.casefold(), []).append(item)
    reader = TargetReader(project, tree, ConfigurationFiles(tree))
    for flavor, items in by_flavor.items():
        if flavor and flavor == beside.casefold():
            continue
        names = {item.name for item in items}
        meant = [(app, item) for item in app.configurations if item.name in names]
        said = any(reader.table(app, item).define(key) for _, item in meant)
        edit = in_common_file(project, tree, meant, key, text) if flavor and meant and not said else None
        edits += [edit] if edit is not None else []
        rest += items if edit is None else []
    return edits, rest


def _line(data: bytes, path: str, key: str, text: str) -> tuple[Edit, bytes]:
    """Return the edit that adds a setting at a file's end, and what the file is then."""
    source = Source.read(data)
    lead = "" if not source.view or source.view.endswith("\n") else source.newline
    line = source.raw(f"{lead}{key} = {encode('xcconfig', text)}{source.newline}")
    return Edit(path, len(data), len(data), line, key), data + line


def included_files(tree: Tree, path: str, above: Iterable[str] = ()) -> Iterator[str]:
    """Yield a configuration file and every file that it includes."""
    if not path or not tree.exists(path) or path in above:
        return
    yield path
    for statement in parse_xcconfig(tree.read(path) or b"").statements:
        if isinstance(statement, Include):
            yield from included_files(tree, join(parent(path), statement.path), [*above, path])
