"""The kind "web": what a browser installs of a hybrid app. Today its icons: those its own files refer to.

Source of the rules: W3C, "Web Application Manifest" (icons, purpose), HTML standard (link types icon and
apple-touch-icon).
"""

from __future__ import annotations

import re
from collections.abc import Iterator

from onomaxis import late
from onomaxis.errors import FormatError
from onomaxis.formats.jsonc import Node, parse_json
from onomaxis.model import IconHome, Tile
from onomaxis.projects.kind import Kind
from onomaxis.projects.project import Project
from onomaxis.tree import Tree, inside, join, parent

_MANIFESTS = ("manifest.json", "manifest.webmanifest", "site.webmanifest", "app.webmanifest")
_LINK = late.compile(rb"<link\b[^>]*>", re.IGNORECASE)
_ATTRIBUTE = late.compile(rb"""(rel|href|sizes)\s*=\s*["']([^"']*)["']""", re.IGNORECASE)
_FORMATS = {"png": "png", "webp": "webp", "ico": "ico", "svg": "svg", "jpg": "jpeg", "jpeg": "jpeg"}
_ICO_EDGES = (16, 32, 48)
_FAVICON, _TOUCH = 32, 180
# A page that states no size takes a square of any, from this edge on.
_LEAST = 16


class WebKind(Kind):
    """Reads web app manifests and the pages beside them."""

    name = "web"
    platform = "web"

    def find(self, tree: Tree) -> list[Project]:
        """Return one project per web app manifest that lists icons."""
        found = []
        for path in tree.named(*_MANIFESTS):
            tiles = {tile.file: tile for tile in (*_page_tiles(tree, path), *_manifest_tiles(tree, path))}
            if tiles:
                folder = parent(path)
                home = IconHome(
                    "tiles",
                    "web",
                    folder.rpartition("/")[2] or "web",
                    "",
                    folder,
                    "web icons",
                    tiles=tuple(tiles.values()),
                )
                found.append(Project("web", folder, home.module, (), (), icons=(home,), platform="web"))
        return found


def _manifest_tiles(tree: Tree, path: str) -> Iterator[Tile]:
    """Yield the icons that a manifest lists; one size each, the largest of ``any`` being 512."""
    try:
        top = parse_json(tree.read(path) or b"").top
    except FormatError:
        return
    icons = top.get("icons")
    if icons is None or icons.kind != "array" or top.get("manifest_version") is not None:
        return  # no list of icons, or a browser extension
    for item in icons.items:
        yield from _listed(path, item)


def _listed(path: str, item: Node) -> Iterator[Tile]:
    name = item.text("src").partition("?")[0]
    form = _FORMATS.get(name.rpartition(".")[2].lower(), "")
    if not form or not inside(name.lstrip("/")) or ":" in name:
        return
    edges = _edges(item.text("sizes"))
    edge = max(edges, default=512)
    shape = "maskable" if "maskable" in item.text("purpose").split() else "rounded"
    where, least = join(parent(path), name.lstrip("/")), 0 if edges else _LEAST
    yield Tile(where, edge, edge, shape, f"manifest {edge} {shape}", form, edges or _ICO_EDGES, least=least)


def _page_tiles(tree: Tree, path: str) -> Iterator[Tile]:
    """Yield the icons that the page beside a manifest links to."""
    folder = parent(path)
    page = join(folder, "index.html")
    data = tree.read(page) if page in tree.known else None
    for link in _LINK.findall(data or b""):
        found = {key.lower().decode(): value.decode("utf-8", "replace") for key, value in _ATTRIBUTE.findall(link)}
        rel, name = found.get("rel", "").lower().split(), found.get("href", "").partition("?")[0].lstrip("/")
        form = _FORMATS.get(name.rpartition(".")[2].lower(), "")
        touch = "apple-touch-icon" in rel
        if not form or ":" in name or not inside(name) or not (touch or "icon" in rel):
            continue
        edges = _edges(found.get("sizes", ""))
        edge = max(edges, default=_TOUCH if touch else _FAVICON)
        shape = "full" if touch else "rounded"
        slot = f"touch icon {edge}" if touch else f"favicon {edge}"
        sizes = edges or _ICO_EDGES
        yield Tile(join(folder, name), edge, edge, shape, slot, form, sizes, least=0 if edges else _LEAST)


def _edges(sizes: str) -> tuple[int, ...]:
    """Return the edges that ``sizes="16x16 32x32"`` states, without doubles, in order."""
    found = (size.partition("x")[0] for size in sizes.lower().split())
    return tuple(sorted({int(edge) for edge in found if edge.isdecimal() and int(edge) > 0}))
