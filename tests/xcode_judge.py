"""Is an Xcode project whole? Read with another parser, by rules of its own: nothing here uses the program.

:func:`inspect` raises for what is always wrong (a dangling object, a scheme that names no target) and returns the
facts that a rename must not change: which references, path settings and comments were right.
"""

from __future__ import annotations

import json
import re
import subprocess
import xml.etree.ElementTree as ET
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from conftest import judge

_TOKEN = re.compile(r'(?s)\s*("(?:[^"\\]|\\.)*"|[{}();=,]|<[^>]*>|[^\s{}();=,"]+)')
_REFERENCES = """fileRef children files buildPhases targets dependencies target targetProxy containerPortal buildRules
baseConfigurationReference buildConfigurations buildConfigurationList mainGroup productRefGroup productReference
fileSystemSynchronizedGroups packageProductDependencies packageReferences exceptions""".split()
_PATHS = ["INFOPLIST_FILE", "CODE_SIGN_ENTITLEMENTS", "SWIFT_OBJC_BRIDGING_HEADER", "GCC_PREFIX_HEADER"]


def read_project(path: Path) -> dict[str, Any]:
    """Read a project file through ``pl``, which prints every property list in one plain form."""
    done = subprocess.run([judge("pl")], input=path.read_bytes(), capture_output=True, check=False)
    assert done.returncode == 0 and done.stdout.strip(), f"{path}: {done.stderr.decode()}"
    tokens = iter(_TOKEN.findall(done.stdout.decode("utf-8", "replace")))

    def text(token: str) -> str:
        escapes = {"n": "\n", "t": "\t", "r": "\r"}
        plain = token[1:-1] if token[0] == '"' else token
        return re.sub(r"\\(?:U([0-9a-fA-F]{4})|(.))", lambda m: chr(int(m[1], 16)) if m[1] else escapes.get(m[2], m[2]), plain, flags=re.DOTALL)

    def value(token: str) -> Any:
        if token == "{":
            found: dict[str, Any] = {}
            while (key := next(tokens)) != "}":
                assert next(tokens) == "="
                found[text(key)] = value(next(tokens))
                assert next(tokens) == ";"
            return found
        if token == "(":
            items: list[Any] = []
            while (item := next(tokens)) != ")":
                if item != ",":
                    items.append(value(item))
            return items
        return text(token)

    return value(next(tokens))


def inspect(folder: Path) -> dict[str, set[str]]:
    """Check every project, scheme, workspace and test plan below *folder*; return the facts that must stay."""
    facts: dict[str, set[str]] = {"files": set(), "settings": set(), "comments": set(), "groups": set()}
    projects = {path.parent.resolve(): read_project(path) for path in sorted(folder.rglob("project.pbxproj"))}
    for container, whole in projects.items():
        _objects(container, whole, facts)
    for path in sorted([*folder.rglob("*.xcscheme"), *folder.rglob("*.xctestplan")]):
        _references(path, projects)
    for path in sorted(folder.rglob("contents.xcworkspacedata")):
        base = path.parent.parent
        for element in ET.parse(path).iter("FileRef"):
            kind, _, inner = element.get("location", "").partition(":")
            facts["groups"].add(f"{kind} {len(inner.split('/'))} {(base / inner).exists()}")
    return facts


def _objects(container: Path, whole: dict[str, Any], facts: dict[str, set[str]]) -> None:
    objects = whole["objects"]
    root = objects[whole["rootObject"]]
    for key, node in objects.items():
        for field in _REFERENCES:
            held = node.get(field, [])
            for reference in held if isinstance(held, list) else [held]:
                if node["isa"] == "PBXContainerItemProxy" and reference not in objects:
                    continue
                assert reference in objects or not re.fullmatch("[0-9A-F]{24}", reference), (key, field, reference)
        if node["isa"] == "PBXContainerItemProxy" and node.get("containerPortal") == whole["rootObject"]:
            target = objects.get(node["remoteGlobalIDString"], {})
            facts["settings"].add(f"proxy {key} {target.get('name') == node.get('remoteInfo')}")
        if node["isa"] == "XCBuildConfiguration":
            for name in _PATHS:
                _path_setting(container.parent, objects, key, node, name, facts)
    for key, path in _paths(container.parent / root.get("projectDirPath", ""), objects, root["mainGroup"]):
        facts["files"].add(f"{key} {path.exists()}")
    _comments(container / "project.pbxproj", objects, facts)


def _path_setting(base: Path, objects: dict, key: str, node: dict, name: str, facts: dict[str, set[str]]) -> None:
    written = node["buildSettings"].get(name, "").strip('"')
    owner = next((o["name"] for o in objects.values() if o["isa"].endswith("NativeTarget") and key in _mine(objects, o)), "")
    for variable, text in (("SRCROOT", str(base)), ("PROJECT_DIR", str(base)), ("TARGET_NAME", owner), ("TARGETNAME", owner), ("PRODUCT_NAME", owner)):
        written = re.sub(rf"\$[({{]{variable}[)}}]", text, written)
    if written and "$" not in written:
        facts["settings"].add(f"{key} {name} {(base / written).is_file()}")


def _mine(objects: dict, target: dict) -> list[str]:
    return objects[target["buildConfigurationList"]]["buildConfigurations"]


def _paths(base: Path, objects: dict, group: str) -> Iterator[tuple[str, Path]]:
    for key in objects[group].get("children", []):
        node = objects[key]
        start = {"<group>": base}.get(node.get("sourceTree", ""))
        if start is None:
            continue
        here = start / node["path"] if "path" in node else start
        yield key, here
        yield from _paths(here, objects, key)


def _comments(path: Path, objects: dict, facts: dict[str, set[str]]) -> None:
    """Note for every comment on an object whether it says what the object is called."""
    for number, line in enumerate(path.read_text("utf-8").splitlines()):
        for key, said in re.findall(r"\b([0-9A-F]{24}) /\* (.*?) \*/", line):
            node = objects.get(key, {})
            node = objects.get(node.get("fileRef", ""), node)
            names = {node.get("name", ""), node.get("path", ""), node.get("path", "").rpartition("/")[2]}
            if node.get("isa") == "XCConfigurationList":
                owner = [o for o in objects.values() if o.get("buildConfigurationList") == key]
                names = {f'Build configuration list for {o["isa"]} "{o.get("name", path.parent.stem)}"' for o in owner}
            facts["comments"].add(f"{number} {key} {said.partition(' in ')[0] in names}")


def _references(path: Path, projects: dict[Path, dict]) -> None:
    """Every buildable of a scheme or test plan is a target of the container it names."""
    inner = next((p for p in path.parents if p.suffix in (".xcodeproj", ".xcworkspace")), path)
    if path.suffix == ".xctestplan":
        targets = [entry["target"] for entry in json.loads(path.read_text())["testTargets"]]
        found = [(t["containerPath"], t["identifier"], t["name"], "") for t in targets]
    else:
        tree = ET.parse(path)
        found = [
            (e.get("ReferencedContainer", ""), e.get("BlueprintIdentifier", ""), e.get("BlueprintName", ""), e.get("BuildableName", ""))
            for e in tree.iter("BuildableReference")
        ]
    for container, key, name, product in found:
        whole = projects.get((inner.parent / container.removeprefix("container:")).resolve())
        if whole is None:
            assert "Pods" in container or "node_modules" in container, f"{path}: {container} is not there"
            continue
        target = whole["objects"].get(key)
        if target is None:  # a scheme may outlive a target
            continue
        assert target["name"] == name, (path, target["name"], name)
        reference = whole["objects"].get(target.get("productReference", ""), {})
        assert not product or reference.get("path", product) == product, (path, reference, product)


def resolved(project: Path, target: str, configuration: str, key: str) -> str:
    """Return a build setting as the build would see it: target, project and its configuration file, references filled.

    A reader of its own: it knows no conditions and no operators, which the projects of the tests do not use here.
    """
    objects = read_project(project / "project.pbxproj")["objects"]
    root = next(node for node in objects.values() if node["isa"] == "PBXProject")
    mine = next(node for node in objects.values() if node["isa"] == "PBXNativeTarget" and node["name"] == target)
    levels: list[dict[str, str]] = [{"TARGET_NAME": target, "PRODUCT_NAME": target}]
    for node in (root, mine):
        names = objects[node["buildConfigurationList"]]["buildConfigurations"]
        chosen = next(objects[name] for name in names if objects[name]["name"] == configuration)
        base = objects.get(chosen.get("baseConfigurationReference", ""), {})
        if base:
            found = [path for path in project.parent.rglob(Path(base["path"]).name) if str(path).endswith(base["path"])]
            levels.append(_settings_file(found[0]) if found else {})
        levels.append({k: v for k, v in chosen["buildSettings"].items() if isinstance(v, str)})

    def fill(text: str, depth: int = 0) -> str:
        def one(match: re.Match[str]) -> str:
            value = next((level[match[1]] for level in reversed(levels) if match[1] in level), "")
            return fill(value, depth + 1) if depth < 20 else ""

        return re.sub(r"\$[({](\w+)[)}]", one, text)

    return fill(f"$({key})")


def _settings_file(path: Path) -> dict[str, str]:
    found: dict[str, str] = {}
    for line in path.read_text("utf-8").splitlines():
        include = re.match(r'#include\??\s+"(.*)"', line)
        if include:
            other = path.parent / include[1]
            found |= _settings_file(other) if other.exists() else {}
        setting = re.match(r"(\w+)\s*=\s*(.*?)\s*;?\s*(?://.*)?$", line)
        if setting:
            found[setting[1]] = setting[2]
    return found
