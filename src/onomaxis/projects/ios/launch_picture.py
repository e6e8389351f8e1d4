"""The picture of a launch screen that has none: an image set, and the view or key that shows it.

Source of the rules: Apple, "Specifying your app's launch screen", "UIImageName"; the asset catalog format reference
("Image set type"); the layout in which Interface Builder writes a view of a fixed size in the middle.
"""

from __future__ import annotations

import json
from collections.abc import Iterator

from onomaxis.formats.xml import Element, XmlDocument, new_child
from onomaxis.model import Note
from onomaxis.projects.edits import span_edit
from onomaxis.projects.ios.made_places import asset_catalog
from onomaxis.projects.launch import Launch, LaunchPicture
from onomaxis.tree import Tree

NAME = "LaunchLogo"
# Edge of the logo in points, as many pixels on a screen of each scale.
_EDGE = 168
_SCALES = (1, 2, 3)
# The view's size where a storyboard says none, in points: a phone's.
_USUAL = (393.0, 852.0)
# Where the middle of the logo may be, as a share of the height: the first that no label stands at.
_HEIGHTS = (0.5, 0.3, 0.7)


def image_set(tree: Tree, folder: str, found: Launch) -> bool:
    """Add an image set with the logo's pictures to the asset catalog below a folder; False where there is none."""
    catalog = asset_catalog(tree, folder)
    if not catalog:
        return False
    base = f"{catalog}/{NAME}.imageset"
    names = {scale: f"{NAME}{'' if scale == 1 else f'@{scale}x'}.png" for scale in _SCALES}
    images = [{"filename": name, "idiom": "universal", "scale": f"{scale}x"} for scale, name in names.items()]
    data = {"images": images, "info": {"author": "xcode", "version": 1}}
    text = json.dumps(data, indent=2, separators=(",", " : ")) + "\n"
    found.draft.created.append((f"{base}/Contents.json", text.encode()))
    found.pictures += [LaunchPicture("", f"{base}/{name}", size=_EDGE * scale) for scale, name in names.items()]
    return True


def image_view(tree: Tree, folder: str, path: str, document: XmlDocument, found: Launch) -> None:
    """Add a view with the logo in the middle of a storyboard's screen; a note where there is no room for one."""
    view = next((item for item in document.root.walk() if item.value("key") == "view" and item.name == "view"), None)
    if view is None:
        found.draft.notes.append(Note(path, "the launch screen has no view for the logo"))
        return
    if not image_set(tree, folder, found):
        found.draft.notes.append(Note(path, "there is no asset catalog for the logo"))
        return
    for edit in (_shown(document, view), _listed(document)):
        first, last, text = edit
        source = document.source
        found.draft.edits.append(span_edit(path, source, first, last, text, NAME))


def _shown(document: XmlDocument, view: Element) -> tuple[int, int, str]:
    """Return what adds the view: among its siblings, or with the list of them behind the view's frame."""
    used = {item.value("id") for item in document.root.walk()}
    id_ = next(f"oNx-Lg-{number:03}" for number in range(1000) if f"oNx-Lg-{number:03}" not in used)
    width, height = _size(view)
    x, y = (width - _EDGE) / 2, _middle(view, height) - _EDGE / 2
    flexible = " ".join(f'flexible{side}="YES"' for side in ("MinX", "MaxX", "MinY", "MaxY"))
    text = "\n".join(
        (
            f'<imageView clipsSubviews="YES" userInteractionEnabled="NO" contentMode="scaleAspectFit" image="{NAME}" '
            f'fixedFrame="YES" translatesAutoresizingMaskIntoConstraints="NO" id="{id_}">',
            f'    <rect key="frame" x="{x:g}" y="{y:g}" width="{_EDGE}" height="{_EDGE}"/>',
            f'    <autoresizingMask key="autoresizingMask" {flexible}/>',
            "</imageView>",
        )
    )
    siblings = next((item for item in view.children if item.name == "subviews"), None)
    if siblings is not None:
        return new_child(document, siblings, text)
    inner = "\n".join(("<subviews>", *(f"    {line}" for line in text.split("\n")), "</subviews>"))
    frame = [item for item in view.children if item.name in ("rect", "autoresizingMask")]
    if not frame:
        return new_child(document, view, inner)
    source, last = document.source, frame[-1]
    between = source.view[source.line_start(last.start) : last.start]
    return last.end, last.end, "".join(f"{source.newline}{between}{line}" for line in inner.split("\n"))


def _listed(document: XmlDocument) -> tuple[int, int, str]:
    """Return what names the picture among the document's resources."""
    image = f'<image name="{NAME}" width="{_EDGE}" height="{_EDGE}"/>'
    resources = next((item for item in document.root.children if item.name == "resources"), None)
    if resources is not None:
        return new_child(document, resources, image)
    return new_child(document, document.root, f"<resources>\n    {image}\n</resources>")


def _size(view: Element) -> tuple[float, float]:
    frame = next((item for item in view.children if item.name == "rect"), None)
    sides = [_number(frame.value(name)) for name in ("width", "height")] if frame is not None else [0.0, 0.0]
    return (sides[0], sides[1]) if min(sides) >= _EDGE else _USUAL


def _middle(view: Element, height: float) -> float:
    """Return where the middle of the logo goes: where it covers no label, else in the middle of the screen."""
    rows = list(_rows(view))
    for share in _HEIGHTS:
        top, bottom = height * share - _EDGE / 2, height * share + _EDGE / 2
        if all(last <= top or first >= bottom for first, last in rows):
            return height * share
    return height / 2


def _rows(view: Element) -> Iterator[tuple[float, float]]:
    """Yield where each label begins and ends, from the top."""
    for label in (item for item in view.walk() if item.name == "label"):
        frame = next((item for item in label.children if item.name == "rect"), None)
        if frame is not None:
            top = _number(frame.value("y"))
            yield top, top + _number(frame.value("height"))


def _number(text: str) -> float:
    try:
        return float(text)
    except ValueError:
        return 0.0
