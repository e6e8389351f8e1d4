"""What an app of an Xcode project declares: its property list and entitlements, settings filled in.

Source of the rules: Apple, "Information Property List", "Entitlements", "Supporting associated domains".
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from onomaxis.errors import FormatError
from onomaxis.formats.plist import Plist, is_binary_plist, parse_plist
from onomaxis.formats.xml import Element
from onomaxis.projects.ios.project_file import Target
from onomaxis.projects.ios.settings import Table, Undefined
from onomaxis.projects.ios.targets import TargetReader
from onomaxis.projects.project import AppFacts, Fact
from onomaxis.tree import Tree

# Keys that the build writes into the list, and that count here.
_GENERATED = (
    "INFOPLIST_KEY_NSCameraUsageDescription",
    "INFOPLIST_KEY_ITSAppUsesNonExemptEncryption",
    "INFOPLIST_KEY_UILaunchStoryboardName",
)
_DOMAINS = "com.apple.developer.associated-domains"


def app_facts(reader: TargetReader, target: Target, flavor: str) -> AppFacts:
    """Return what a flavor declares in the configuration that archives it."""
    named = next((name for name in target.flavors() if name.casefold() == flavor.casefold()), flavor)
    release = target.release_of(named) if named else target.release()
    if release is None:
        return AppFacts()
    table = reader.table(target, release)
    listed = reader.plist(table)
    keys: dict[str, Fact] = {}
    where = Fact("", reader.project.path, 1)
    if listed is not None:
        keys = dict(_flat(listed[0], listed[1], table))
        where = Fact("", listed[0], 1)
    for name in _GENERATED:
        if table.text(name):
            keys.setdefault(name.removeprefix("INFOPLIST_KEY_"), Fact(table.text(name), reader.project.path, 1))
    granted = _entitlements(reader, table)
    schemes = tuple(fact for key, fact in keys.items() if "/CFBundleURLSchemes/" in key)
    hosts = tuple(
        Fact(fact.text.partition(":")[2].partition("?")[0], fact.file, fact.line)
        for key, fact in granted.items()
        if key.startswith(f"{_DOMAINS}/") and fact.text.partition(":")[0] in ("applinks", "webcredentials")
    )
    switches: dict[str, Fact] = {}
    if "aps-environment" in granted:
        switches["push"] = granted["aps-environment"]
    for key, fact in keys.items():
        if key.startswith("UIBackgroundModes/") and fact.text == "remote-notification":
            switches["remote-notification"] = fact
    if any(key.startswith("UILaunchScreen") for key in keys) or _describes(listed, table):
        switches["UILaunchScreen"] = where
    path = reader.file(table, "CODE_SIGN_ENTITLEMENTS")
    switches["entitlements"] = Fact(path, path or reader.project.path, 1)
    return AppFacts(keys, schemes, hosts, switches, where)


def _describes(listed: tuple[str, Plist] | None, table: Table) -> bool:
    """Tell whether a property list describes a launch screen, be it an empty one, or the build makes one in it."""
    top = listed[1].top if listed is not None else None
    written = top is not None and any(item.name == "key" and item.text == "UILaunchScreen" for item in top.children)
    return written or table.text("INFOPLIST_KEY_UILaunchScreen_Generation") == "YES"


def _entitlements(reader: TargetReader, table: Table) -> Mapping[str, Fact]:
    path = reader.file(table, "CODE_SIGN_ENTITLEMENTS")
    data = reader.tree.named_file(path)
    if data is None or is_binary_plist(data):
        return {}
    try:
        return dict(_flat(path, parse_plist(data), table))
    except FormatError:
        return {}


def listed_facts(tree: Tree, path: str) -> Iterator[tuple[str, Fact]]:
    """Yield every scalar of a property list that no build setting fills in; nothing where it cannot be read."""
    data = tree.named_file(path)
    if data is None or is_binary_plist(data):
        return
    try:
        plist = parse_plist(data)
    except FormatError:
        return
    yield from _flat(path, plist, None)


def _flat(path: str, plist: Plist, table: Table | None) -> Iterator[tuple[str, Fact]]:
    """Yield every scalar with the keys that lead to it, references to build settings filled in."""
    stack: list[tuple[str, Element]] = [("", plist.top)]
    while stack:
        base, node = stack.pop()
        if node.name == "dict":
            children = node.children
            for index, item in enumerate(children[:-1]):
                if item.name == "key" and children[index + 1].name != "key":
                    stack.append((f"{base}/{item.text}" if base else item.text, children[index + 1]))
        elif node.name == "array":
            stack += [(f"{base}/{number}", item) for number, item in enumerate(node.children)]
        else:
            text = node.name if node.name in ("true", "false") else node.text
            yield base, Fact(_filled(text, table), path, plist.document.source.line(node.start))


def _filled(text: str, table: Table | None) -> str:
    if "$" not in text or table is None:
        return text
    try:
        return "".join(piece.text for piece in table.expand(text, None))
    except Undefined:
        return text
