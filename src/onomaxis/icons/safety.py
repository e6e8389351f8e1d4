"""What is looked at before any art is decoded or drawn: sizes, entities, references, scripts, multiplication."""

from __future__ import annotations

import re
from typing import NoReturn

from onomaxis import late
from onomaxis.errors import FormatError, InputError
from onomaxis.formats.xml import Element, parse_xml

# Decoded at four bytes a pixel this stays well below 300 MB.
MAXIMUM_PIXELS = 40_000_000
_MAXIMUM_BYTES = 64 * 1024 * 1024
_MAXIMUM_ELEMENTS = 200_000
_REFERENCE = late.compile(r"url\(\s*['\"]?\s*([^'\")\s]*)")
_EMBEDDED = late.compile(r"data:image/(?:png|jpe?g|gif|webp);base64,", re.IGNORECASE)


def check_svg(name: str, data: bytes) -> Element:
    """Refuse an SVG that could fetch, run or multiply anything; return its root element.

    Raises InputError: entities, scripts, references that leave the file, more than 200,000 elements once every
    ``use`` is expanded.
    """
    if len(data) > _MAXIMUM_BYTES:
        raise InputError("the file is too large for a piece of art", file=name)
    if b"<!ENTITY" in data:
        raise InputError(
            "the art declares entities, which are not expanded", file=name, remedy="Save it without them."
        )
    try:
        root = parse_xml(data).root
    except FormatError as error:
        raise InputError(error.message, file=name, line=error.line) from None
    if root.name != "svg":
        raise InputError("this is not an SVG: its top element is not “svg”", file=name)
    for element in root.walk():
        _check_element(name, element)
    _check_multiplication(name, root)
    return root


# What a drawing that came with the tree may not hold: a few bytes of it can keep a renderer busy for ever.
_COSTLY = frozenset({"filter", "image", "pattern", "mask", "text"})
_MAXIMUM_FOUND = 512 * 1024


def check_found_svg(data: bytes) -> None:
    """Refuse an SVG that lies in a project, which nobody handed over, more strictly. Raises InputError."""
    if len(data) > _MAXIMUM_FOUND:
        raise InputError("the drawing is too large to be shown")
    for element in check_svg("", data).walk():
        if element.name in _COSTLY:
            raise InputError(f"the drawing holds <{element.name}>, which is not shown")


def _check_element(name: str, element: Element) -> None:
    if element.name in ("script", "foreignObject", "iframe"):
        raise InputError(f"the art holds <{element.name}>, which is not run", file=name, remedy="Remove it.")
    for item in element.attributes:
        local = item.name.rpartition(":")[2].lower()
        targets = [item.value] if local == "href" else _REFERENCE.findall(item.value)
        for target in targets:
            _check_target(name, target)
    if element.name == "style":
        for target in _REFERENCE.findall(element.text):
            _check_target(name, target)
        if "@import" in element.text:
            raise InputError(
                "the art imports a style sheet, which is not fetched", file=name, remedy="Put it inline."
            )


def _check_target(name: str, target: str) -> None:
    if target and not target.startswith("#") and not _EMBEDDED.match(target):
        raise InputError(
            f"the art refers to “{target[:60]}”, which is not fetched", file=name, remedy="Embed it or remove it."
        )


def _check_multiplication(name: str, root: Element) -> None:
    """Count what is drawn once every ``use`` is expanded, without expanding it."""
    by_id = {value: element for element in root.walk() if (value := element.value("id"))}
    counts: dict[int, int] = {}

    def count(element: Element, above: tuple[int, ...]) -> int:
        key = id(element)
        if key in counts:
            return counts[key]
        if key in above or len(above) > 400:
            raise InputError("the art uses itself without end", file=name)
        inner = (*above, key)
        total = 1 + sum(count(child, inner) for child in element.children)
        if element.name == "use":
            target = next((a.value[1:] for a in element.attributes if a.name.rpartition(":")[2] == "href"), "")
            if target in by_id:
                total += count(by_id[target], inner)
        if total > _MAXIMUM_ELEMENTS:
            raise InputError("the art multiplies itself beyond 200,000 elements", file=name)
        counts[key] = total
        return total

    count(root, ())


def check_size(name: str, width: int, height: int) -> None:
    """Refuse a raster picture by the size that its header declares."""
    if width < 1 or height < 1 or width * height > MAXIMUM_PIXELS:
        refuse_size(name, f" ({width} x {height})")


def refuse_size(name: str, shown: str = "") -> NoReturn:
    """Raise the refusal of a picture that declares too many pixels."""
    raise InputError(
        f"the picture declares too many pixels{shown}; 40 million are the most",
        file=name,
        remedy="Scale it down; 1024 x 1024 is enough for every slot.",
    )
