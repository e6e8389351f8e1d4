"""Places of values of an Apple target that are made where they are missing: keys, schemes, settings, colours.

Source of the rules: Apple, "Information Property List", "CFBundleURLTypes", "Named color", "Build settings".
"""

from __future__ import annotations

import itertools
import json
import re

from onomaxis.formats.color import channels
from onomaxis.formats.escapes import encode
from onomaxis.formats.plist import Plist
from onomaxis.formats.xml import Element, new_child
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import span_edit
from onomaxis.tree import Tree, parent


def plist_member(path: str, plist: Plist, keys: tuple[str, ...], written: str) -> Draft | None:
    """Return what puts a value (as XML) at a path of keys, with the dictionaries above it that are missing."""
    node, depth = plist.top, 0
    while depth < len(keys) - 1 and (below := _member(node, keys[depth])) is not None:
        node, depth = below, depth + 1
    if node.name != "dict" or _member(node, keys[depth]) is not None:
        return None
    for key in reversed(keys[depth + 1 :]):
        inner = "".join(f"\n\t{line}" for line in f"<key>{encode('xml-text', key)}</key>\n{written}".split("\n"))
        written = f"<dict>{inner}\n</dict>"
    text = f"<key>{encode('xml-text', keys[depth])}</key>\n{written}"
    source = plist.document.source
    first, last, added = new_child(plist.document, node, text)
    return Draft(edits=[span_edit(path, source, first, last, added, "/".join(keys))])


def _member(node: Element, key: str) -> Element | None:
    pairs = itertools.pairwise(node.children)
    return next((after for item, after in pairs if item.name == "key" and item.text == key), None)


def value_element(text: str, kind: str) -> str:
    """Return a value as an element of a property list."""
    if kind == "boolean" and text in ("true", "false"):
        return f"<{text}/>"
    if kind == "integer" and re.fullmatch(r"-?\d+", text):
        return f"<integer>{text}</integer>"
    return f"<string>{encode('xml-text', text)}</string>"


def url_type(path: str, plist: Plist, name: str, scheme: str) -> Draft | None:
    """Return what adds a URL type with one scheme."""
    written = (
        f"<dict>\n\t<key>CFBundleURLName</key>\n\t<string>{encode('xml-text', name)}</string>\n"
        f"\t<key>CFBundleURLSchemes</key>\n\t<array>\n\t\t<string>{encode('xml-text', scheme)}</string>\n"
        "\t</array>\n</dict>"
    )
    listed = _member(plist.top, "CFBundleURLTypes")
    if listed is None:
        inner = "".join(f"\n\t{line}" for line in written.split("\n"))
        return plist_member(path, plist, ("CFBundleURLTypes",), f"<array>{inner}\n</array>")
    source = plist.document.source
    first, last, added = new_child(plist.document, listed, written)
    return Draft(edits=[span_edit(path, source, first, last, added, name)])


def asset_catalog(tree: Tree, folder: str) -> str:
    """Return the first asset catalog below a folder, empty where there is none."""
    return next((parent(path) for path in tree.below(folder) if path.endswith(".xcassets/Contents.json")), "")


def color_set(tree: Tree, folder: str, name: str, color: str) -> Draft | None:
    """Return what adds a named colour to the first asset catalog below a folder."""
    catalog = asset_catalog(tree, folder)
    if not catalog:
        return None
    red, green, blue, alpha = channels(color)
    parts = {"alpha": f"{alpha / 255:.3f}", "blue": f"0x{blue:02X}", "green": f"0x{green:02X}", "red": f"0x{red:02X}"}
    inner = {"color": {"color-space": "srgb", "components": parts}, "idiom": "universal"}
    data = {"colors": [inner], "info": {"author": "xcode", "version": 1}}
    text = json.dumps(data, indent=2, separators=(",", " : ")) + "\n"
    return Draft(created=[(f"{catalog}/{name}.colorset/Contents.json", text.encode())])


def setting_name(key: str) -> str:
    """Return the build setting that a key of a property list refers to, where flavors differ in it."""
    return re.sub(r"\W+", "_", re.sub(r"(?<=[a-z0-9])(?=[A-Z])", "_", key), flags=re.ASCII).strip("_").upper()
