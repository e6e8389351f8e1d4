"""Small Xcode projects, built by code in the layout that Xcode writes."""

from __future__ import annotations

import re
from collections.abc import Mapping

PRODUCTS = {
    "app": ("com.apple.product-type.application", "app"),
    "widget": ("com.apple.product-type.app-extension", "appex"),
    "watch": ("com.apple.product-type.application", "app"),
    "tests": ("com.apple.product-type.bundle.unit-test", "xctest"),
}
Settings = Mapping[str, str]


def quoted(text: str) -> str:
    return text if text and all(char.isalnum() or char in "_./" for char in text) else '"' + text.replace("\\", "\\\\").replace('"', '\\"') + '"'


def pbxproj(
    configurations: list[str],
    project: Settings,
    targets: Mapping[str, tuple[str, Mapping[str, Settings]]],
    folders: Mapping[str, str] | None = None,
    bases: Mapping[str, str] | None = None,
) -> str:
    """Return a project file. *targets*: name to kind and the settings of each configuration (``*`` for all).

    *folders* gives targets a synchronized folder, *bases* a configuration file (the project's own under an empty name).
    """
    folders, bases = folders or {}, bases or {}
    lines = ["// !$*UTF8*$!", "{", "\tarchiveVersion = 1;", "\tobjectVersion = 56;", "\tobjects = {"]

    def settings(key: str, name: str, values: Settings, base: str = "") -> None:
        lines.extend([f"\t\t{key} /* {name} */ = {{", "\t\t\tisa = XCBuildConfiguration;"])
        if base in bases:
            lines.append(f"\t\t\tbaseConfigurationReference = F{list(bases).index(base):03d};")
        lines.append("\t\t\tbuildSettings = {")
        lines.extend(f"\t\t\t\t{quoted(k)} = {quoted(v)};" for k, v in sorted(values.items()))
        lines.extend(["\t\t\t};", f"\t\t\tname = {quoted(name)};", "\t\t};"])

    def listed(key: str, keys: list[str]) -> None:
        lines.extend([f"\t\t{key} = {{", "\t\t\tisa = XCConfigurationList;", "\t\t\tbuildConfigurations = ("])
        lines.extend(f"\t\t\t\t{item}," for item in keys)
        lines.extend(["\t\t\t);", "\t\t\tdefaultConfigurationName = Release;", "\t\t};"])

    keys = {name: f"T{number:022d}0" for number, name in enumerate(targets)}
    lines.extend(
        [
            "\t\tP000 = {",
            "\t\t\tisa = PBXProject;",
            "\t\t\tbuildConfigurationList = L000;",
            "\t\t\tmainGroup = G000;",
            f"\t\t\ttargets = ({', '.join(keys.values())});",
            "\t\t};",
            "\t\tG000 = {",
            "\t\t\tisa = PBXGroup;",
            f"\t\t\tchildren = ({', '.join([*(f'S{keys[name]}' for name in folders), *(f'F{at:03d}' for at in range(len(bases)))])});",
            '\t\t\tsourceTree = "<group>";',
            "\t\t};",
        ]
    )
    for at, path in enumerate(bases.values()):
        lines.append(f'\t\tF{at:03d} = {{isa = PBXFileReference; lastKnownFileType = text.xcconfig; path = {quoted(path)}; sourceTree = "<group>"; }};')
    for name, folder in folders.items():
        lines.extend(
            [
                f"\t\tS{keys[name]} = {{",
                "\t\t\tisa = PBXFileSystemSynchronizedRootGroup;",
                f"\t\t\tpath = {quoted(folder)};",
                '\t\t\tsourceTree = "<group>";',
                "\t\t};",
            ]
        )
    for number, name in enumerate(configurations):
        settings(f"C{number:03d}", name, project)
    listed("L000", [f"C{number:03d}" for number in range(len(configurations))])
    for at, (target, (kind, values)) in enumerate(targets.items(), 1):
        product, _ = PRODUCTS[kind]
        lines.extend(
            [
                f"\t\t{keys[target]} /* {target} */ = {{",
                "\t\t\tisa = PBXNativeTarget;",
                f"\t\t\tbuildConfigurationList = L{at:03d};",
                "\t\t\tbuildPhases = ();",
                "\t\t\tdependencies = ();",
                *([f"\t\t\tfileSystemSynchronizedGroups = (S{keys[target]});"] if target in folders else []),
                f"\t\t\tname = {quoted(target)};",
                f"\t\t\tproductName = {quoted(target)};",
                f"\t\t\tproductType = {quoted(product)};",
                "\t\t};",
            ]
        )
        mine = []
        for number, name in enumerate(configurations):
            mine.append(f"C{at:03d}{number:03d}")
            settings(mine[-1], name, {**values.get("*", {}), **values.get(name, {})}, target)
        listed(f"L{at:03d}", mine)
    lines.extend(["\t};", "\trootObject = P000;", "}", ""])
    return "\n".join(lines)


def standing_on(text: str, files: Mapping[str, str], target: int = 0) -> str:
    """Return a project file whose configurations stand each on a file of its own: configuration to path.

    *target* is the number of the target whose they are, from one; the project's own for nothing.
    """
    names = list(dict.fromkeys(files.values()))
    keys = {path: f"E{target}{number:03d}" for number, path in enumerate(names)}
    lead = f"C{target:03d}" if target else "C"
    for name, path in files.items():
        start = re.search(rf"\t\t{lead}\d{{3}} /\* {re.escape(name)} \*/ = {{\n\t\t\tisa = XCBuildConfiguration;\n", text)
        assert start is not None, name
        line = f"\t\t\tbaseConfigurationReference = {keys[path]} /* {path.rpartition('/')[2]} */;\n"
        text = text[: start.end()] + line + text[start.end() :]
    references = "".join(
        f'\t\t{key} = {{isa = PBXFileReference; lastKnownFileType = text.xcconfig; path = {quoted(path)}; sourceTree = "<group>"; }};\n'
        for path, key in keys.items()
    )
    head, group, rest = text.partition("\t\tG000 = {")
    return head + references + group + re.sub(r"children = \(", f"children = ({', '.join(keys.values())}, ", rest, count=1).replace(", )", ")", 1)
