"""The style of each element of SVG art: inherited, presentation attributes, style sheet (SVG 1.1, chapter 6)."""

from __future__ import annotations

import re
from collections.abc import Iterator

from onomaxis import late
from onomaxis.formats.xml import Element
from onomaxis.icons.css import Inexpressible, declarations

INHERITED = {
    "fill": "black",
    "stroke": "none",
    "stroke-width": "1",
    "stroke-linecap": "butt",
    "stroke-linejoin": "miter",
    "stroke-miterlimit": "4",
    "fill-rule": "nonzero",
    "clip-rule": "nonzero",
    "fill-opacity": "1",
    "stroke-opacity": "1",
    "visibility": "visible",
    "color": "black",
    "stroke-dasharray": "none",
}
_OWN = {
    "opacity": "1",
    "clip-path": "none",
    "mask": "none",
    "filter": "none",
    "display": "inline",
    "mix-blend-mode": "normal",
    "marker-start": "none",
    "marker-mid": "none",
    "marker-end": "none",
}
_SELECTOR = late.compile(r"([\w-]*|\*)(?:([.#])([\w-]+))?")
_RULE = late.compile(r"(?<![^{}])([^{}]++)\{([^{}]*+)\}")


class Styles:
    """The style sheet of one piece of art, and what it makes of each element. Raises Inexpressible."""

    def __init__(self, root: Element) -> None:
        self.root = root
        self.sheet = list(self._sheet())

    def of(self, element: Element, above: dict[str, str]) -> dict[str, str]:
        """Return the style of an element: inherited, presentation attributes, style sheet, style attribute."""
        found = {**above, **_OWN}
        known = (*INHERITED, *_OWN)
        own = {name: value for name in known if (value := element.value(name))}
        classes = element.value("class").split()
        fitting: list[tuple[int, dict[str, str]]] = []
        for selector, body in self.sheet:
            match = _SELECTOR.fullmatch(selector)
            if match is None:
                raise Inexpressible(f"the style sheet's selector “{selector}”")
            tag, mark, name = match.groups()
            named = not mark or (mark == "." and name in classes) or (mark == "#" and name == element.value("id"))
            if tag in ("", "*", element.name) and named:
                weight = {".": 10, "#": 100}.get(mark or "", 0) + (tag not in ("", "*"))
                fitting.append((weight, body))
        for _, body in sorted(fitting, key=lambda item: item[0]):
            own.update(body)
        own.update(declarations(element.value("style")))
        found.update({name: value for name, value in own.items() if name in known and value != "inherit"})
        return found

    def _sheet(self) -> Iterator[tuple[str, dict[str, str]]]:
        for element in self.root.walk():
            if element.name == "style":
                text = re.sub(r"/\*.*?\*/", "", element.text, flags=re.DOTALL)
                if "@" in text:
                    raise Inexpressible("a style sheet with at-rules")
                for selectors, body in _RULE.findall(text):
                    for selector in selectors.split(","):
                        yield selector.strip(), declarations(body)
