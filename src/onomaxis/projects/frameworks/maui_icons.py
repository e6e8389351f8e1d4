"""The icon's source in a .NET MAUI project: the ``MauiIcon`` items, from which the build draws every slot.

Source of the rules: Microsoft Learn, "Add an app icon to a .NET MAUI app project" (Include, ForegroundFile, Color; on
Android Include becomes the background layer of the adaptive icon, ForegroundFile its foreground).
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from onomaxis.formats.escapes import encode
from onomaxis.formats.xml import Element, XmlDocument, indentation
from onomaxis.model import Edit, Facet, IconHome, Note, Tile
from onomaxis.projects.draft import Draft
from onomaxis.projects.drawn import DrawnIcon
from onomaxis.projects.edits import span_edit
from onomaxis.projects.frameworks.files import Files
from onomaxis.tree import inside

# The build scales the source down to every slot: one large square serves.
_EDGE, _LEAST = 1024, 192
_ANDROID = "$([MSBuild]::GetTargetPlatformIdentifier('$(TargetFramework)'))"
_FRONT = "fg"


class _Item(NamedTuple):
    """One ``MauiIcon`` item: where it stands, what it includes, for Android or for all others (empty: for all)."""

    file: str
    document: XmlDocument
    element: Element
    source: str
    platform: str


def _items(files: Files) -> Iterator[_Item]:
    for name in list(files.below(".csproj")):
        document = files.xml(name) if "/" not in name else None
        for group in document.root.find("ItemGroup") if document else ():
            for element in group.find("MauiIcon"):
                source = element.value("Include").replace("\\", "/")
                if document is not None and source and inside(source) and "$(" not in source and "*" not in source:
                    said = (element.value("Condition") + group.value("Condition")).lower().replace(" ", "")
                    other = "!='android'" in said or ("ios" in said or "windows" in said)
                    platform = "other" if other else "android" if "android" in said else ""
                    yield _Item(name, document, element, source, platform)


def icon_home(files: Files) -> IconHome | None:
    """Return the pictures that the items need: a ground and a drawing, or the art, and its layer for Android."""
    items = list(_items(files))
    if not items:
        return None
    base = _base(items)
    wanted = (
        ("", "background", "layered", "icon source, ground"),
        (_FRONT, "foreground", "layered", "icon source, drawing"),
        ("", "full", "filled", "icon source"),
        ("/", "foreground", "filled", "icon source of Android"),
    )
    tiles = tuple(
        Tile(files.path(_variant(base, kind)), _EDGE, _EDGE, shape, slot, least=_LEAST, when=when)
        for kind, shape, when, slot in wanted
    )
    label = files.folder.rpartition("/")[2] or "app"
    ground = next((colour for item in items if (colour := item.element.value("Color"))), "")
    return IconHome("tiles", "maui", label, "", files.folder, "MauiIcon", tiles=tiles, ground=ground)


def _separator(item: _Item) -> str:
    """Return what parts folders in an item today: the framework's templates write backslashes."""
    named = item.element.value("Include")
    return "/" if "/" in named and "\\" not in named else "\\"


def _front(item: _Item) -> str:
    return item.element.value("ForegroundFile").replace("\\", "/")


def _base(items: list[_Item]) -> str:
    """Return the name of the icon's picture without its ending: that of the item that is not Android's own."""
    first = next((item for item in items if item.platform != "android"), items[0])
    return first.source.rpartition(".")[0]


def _variant(base: str, kind: str) -> str:
    """Return the file of a variant; a platform's own keeps the name, which the manifest refers to, in a folder."""
    folder, _, name = base.rpartition("/")
    if kind == "/":
        return f"{folder}/Android/{name}.png" if folder else f"Android/{name}.png"
    return f"{base}{kind}.png"


def name_icons(files: Files, drawn: DrawnIcon) -> Draft:
    """Return what makes the items name the pictures that were drawn, with the ground as their colour."""
    items, draft = list(_items(files)), Draft()
    if not items:
        return draft
    base = _base(items)
    for item in items:
        wanted = {"Include": _variant(base, ""), "ForegroundFile": _variant(base, _FRONT), "Color": drawn.ground}
        if drawn.form == "layered" and files.path(wanted["ForegroundFile"]) not in drawn.files:
            del wanted["ForegroundFile"]  # the ground alone was drawn
        if drawn.form == "filled":
            wanted["ForegroundFile"] = ""
            wanted["Include"] = _variant(base, "/" if item.platform == "android" else "")
        if files.path(wanted["Include"]) not in drawn.files:
            del wanted["Include"]
        draft.edits += _attributes(files, item, wanted)
        left = [(item.source, "Include"), (_front(item), "ForegroundFile")]
        draft.removed += [
            files.path(name)
            for name, key in left
            if name and inside(name) and key in wanted and _is_alone(files, items, name)
        ]
    if drawn.form == "filled" and not any(item.platform for item in items):
        draft.edits += _sibling(files, items[0], _variant(base, "/"), drawn.ground)
    elif drawn.form == "filled" and not any(item.platform == "android" for item in items):
        said = "there is no icon item for Android alone: its launcher will cut a sixth off each side of the art"
        draft.notes.append(Note(files.path(items[0].file), said))
    return draft


def _is_alone(files: Files, items: list[_Item], name: str) -> bool:
    """Tell whether a picture is named by the icon's items alone, so that it goes when they name another."""
    base = name.rpartition("/")[2]
    own = sum(named.rpartition("/")[2] == base for item in items for named in (item.source, _front(item)))
    return sum(data.count(base.encode()) for _, data in files.tree.holding((base,))) == own


def _attributes(files: Files, item: _Item, wanted: dict[str, str]) -> Iterator[Edit]:
    """Set, add or take out attributes of an item; what is right already stays as it is written."""
    source, element = item.document.source, item.element
    for name, value in wanted.items():
        found, text = element.attribute(name), value if name == "Color" else value.replace("/", _separator(item))
        if found is not None and found.value.replace("\\", "/").upper() == text.replace("\\", "/").upper():
            continue
        if found is not None and text:
            span, new = (found.start, found.end), encode(found.syntax, text)
        elif found is not None and name == "ForegroundFile":
            start = source.view.rindex(name, element.start, found.start)
            before = len(source.view[:start].rstrip())
            span, new = (before, found.end + 1), ""
        elif found is None and text:
            after = element.attributes[-1].end + 1
            span, new = (after, after), f' {name}="{encode("xml-double", text)}"'
        else:
            continue
        yield span_edit(files.path(item.file), source, span[0], span[1], new, Facet.ICON)


def _sibling(files: Files, item: _Item, include: str, ground: str) -> Iterator[Edit]:
    """Part one item for all platforms: Android gets one of its own, whose picture continues the art's edges."""
    source, element = item.document.source, item.element
    path = files.path(item.file)
    at = source.offset(element.start + len(f"<{element.tag}"))
    yield Edit(path, at, at, source.raw(f" Condition=\"{_ANDROID} != 'android'\""), Facet.ICON)
    colour = f' Color="{ground}"' if ground else ""
    where = encode("xml-double", include.replace("/", _separator(item)))
    text = f'<MauiIcon Condition="{_ANDROID} == \'android\'" Include="{where}"{colour} />'
    yield span_edit(
        path,
        source,
        element.end,
        element.end,
        f"{source.newline}{indentation(source, element.start)}{text}",
        Facet.ICON,
    )
