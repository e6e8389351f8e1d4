"""Named colours of an asset catalog as places of values.

Source of the form: Apple, asset catalog format reference, "Named color type".
"""

from __future__ import annotations

from collections.abc import Iterable

from onomaxis.errors import InputError
from onomaxis.flavor_names import flavor_word
from onomaxis.formats.color import channels
from onomaxis.formats.jsonc import JsonDocument, Node, parse_json
from onomaxis.model import Edit
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import span_edit
from onomaxis.projects.places import Spot, gone
from onomaxis.tree import Tree

_CHANNELS = ("red", "green", "blue", "alpha")


def color_spot(tree: Tree, folder: str, name: str, file: str, flavors: Iterable[str] = ()) -> Spot:
    """Return the spot of a named colour below a folder, or of the set in *file*. Raises InputError without one.

    A set in a folder that is called after one of the *flavors* is that flavor's own, and none of the app.
    """
    below = [path for path in tree.below(folder) if path.endswith(".colorset/Contents.json")]
    tail = f"/{name}.colorset/Contents.json"
    words = [flavor_word(flavor) for flavor in flavors]
    named = (path for path in below if f"/{path}".endswith(tail))
    above = {path: f"/{path[len(folder) :]}".removesuffix(tail) for path in named}
    path = file or next((path for path, at in above.items() if not any(word.search(at) for word in words)), "")
    if not path or not tree.exists(path):
        raise gone("colour set", name, folder, [item.split("/")[-2].removesuffix(".colorset") for item in below])
    return _plain(path, parse_json(tree.read(path) or b""))


def _plain(path: str, document: JsonDocument) -> Spot:
    """Return the spot of a colour set's plain colour, as ``#RRGGBB`` or ``#AARRGGBB``."""
    colors = document.top.get("colors")
    plain = [item for item in (colors.items if colors else ()) if item.get("appearances") is None]
    components = plain[0].get("color", "components") if plain else None
    nodes = {name: components.get(name) for name in _CHANNELS} if components else {}
    if any(nodes.get(name) is None for name in _CHANNELS[:3]):
        raise InputError("the colour set holds no colour in red, green and blue", file=path)
    numbers = {name: _channel(node) for name, node in nodes.items() if node is not None}
    alpha = numbers.get("alpha", 255)
    head = "" if alpha == 255 else f"{alpha:02X}"
    text = "#" + head + "".join(f"{numbers[name]:02X}" for name in _CHANNELS[:3])
    source = document.source

    def write(new: str) -> Draft:
        values = dict(zip(_CHANNELS, channels(new), strict=True))
        found: list[Edit] = []
        for name, node in nodes.items():
            if node is not None and values[name] != numbers[name]:
                body = source.raw(_like(node, values[name], name == "alpha"))
                found.append(span_edit(path, source, node.start, node.end, body))
        return Draft(edits=found)

    return Spot(text, path, source.line(components.start if components else 0), write)


def _channel(node: Node) -> int:
    text = str(node.value)
    if text.lower().startswith("0x"):
        return int(text, 16)
    return round(float(text) * 255) if "." in text or text in ("0", "1") else int(text)


def _like(node: Node, value: int, alpha: bool) -> str:
    """Write a channel as this set writes it: ``0xFF``, a share of one, or a whole number."""
    text = str(node.value)
    if text.lower().startswith("0x"):
        new = f"0x{value:02X}"
    elif "." in text or text in ("0", "1"):
        new = f"{value / 255:.3f}"
    else:
        new = str(value)
    return f'"{new}"' if node.kind == "string" else new
