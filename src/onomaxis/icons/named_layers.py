"""One drawing that holds an icon's layers, each a group that is called after what it is."""

from __future__ import annotations

from collections.abc import Iterator

from onomaxis import late
from onomaxis.formats.xml import Element, parse_xml
from onomaxis.icons.slots import LAYERS

# An element's own name, and what drawing programs call a layer (SVG 2, "id"; their own namespaces for the label).
_LABELS = ("id", "label", "data-name")
# What draws nothing where it stands (SVG 2, "never-rendered elements"), and is referred to from elsewhere.
_NOT_DRAWN = frozenset(
    "defs style symbol linearGradient radialGradient pattern clipPath mask marker filter title desc metadata".split()
)
_HIDDEN = late.compile(r"""\s(?:display\s*=\s*["']none["']|visibility\s*=\s*["']hidden["'])""")
_HIDDEN_STYLE = late.compile(r"(?:display\s*:\s*none|visibility\s*:\s*hidden)\s*;?")


def named_layers(svg: str) -> frozenset[str]:
    """Return the layers that markup has groups for, however their names are spelled."""
    return frozenset(_found(parse_xml(svg.encode()).root))


def layer_alone(svg: str, layer: str) -> str:
    """Return the markup of one layer: without the others, and shown where it was hidden.

    What belongs to no layer goes with the foreground.
    """
    document = parse_xml(svg.encode())
    source, root = document.source, document.root
    layers = _found(root)
    own = layers.pop(layer, root)
    gone = layers.values() if layer == "foreground" else _beside(root, own)
    tag = (own.start, own.end if own.empty else own.inner_start)
    shown = _HIDDEN_STYLE.sub("", _HIDDEN.sub("", source.text(*tag)))
    parts, at = [], 0
    for start, end, text in sorted([(*tag, shown), *((item.start, item.end, "") for item in gone)]):
        parts += [source.text(at, start), text]
        at = end
    return "".join([*parts, source.text(at, len(source.view))])


def _found(root: Element) -> dict[str, Element]:
    """Return the groups that are layers, the first of each name; a layer inside of another one is a part of that."""
    found: dict[str, Element] = {}
    for child in root.children:
        said = {item.value.casefold() for item in child.attributes if item.name.rpartition(":")[2] in _LABELS}
        name = next((name for name in LAYERS if name in said), "")
        if name and name not in found:
            found[name] = child
        elif child.name == "g":
            found = {**_found(child), **found}
    return found


def _beside(element: Element, own: Element) -> Iterator[Element]:
    """Yield what is drawn below an element, and not below *own*."""
    for child in element.children:
        if child is own or child.name in _NOT_DRAWN:
            continue
        if child.start < own.start and own.end <= child.end:
            yield from _beside(child, own)
        else:
            yield child
