"""The launch screen of an iOS app: a storyboard's ground, its label and its picture.

Source: Apple, "Specifying your app's launch screen".
"""

from __future__ import annotations

from onomaxis.errors import InputError
from onomaxis.formats.color import channels
from onomaxis.formats.xml import XmlDocument, parse_xml
from onomaxis.model import Edit, Note
from onomaxis.projects.edits import place_edit
from onomaxis.projects.launch import PICTURES, Launch, LaunchPicture, LaunchWish
from onomaxis.projects.places import Places
from onomaxis.projects.project import place
from onomaxis.tree import Tree

# A picture at least this large fills the screen; a smaller one is a logo on it.
_FILLING = 1000


def launch_screen(tree: Tree, folder: str, storyboard: str, places: Places, flavor: str, wish: LaunchWish) -> Launch:
    """Return what sets the ground, label and picture of the launch *storyboard* of a project in *folder*."""
    found = Launch()
    paths = [p for p in tree.below(folder) if p.rpartition("/")[2] == f"{storyboard}.storyboard"]
    if not paths:
        found.draft.notes.append(Note(folder or ".", "there is no launch storyboard"))
        return found
    if flavor:
        said = f"all configurations share this launch screen: {flavor} keeps it"
        found.draft.notes.append(Note(paths[0], said))
        return found
    path = paths[0]
    document = parse_xml(tree.read(path) or b"")
    if wish.text:
        label = next((e for e in document.root.walk() if e.name == "label" and e.attribute("text")), None)
        text = label.attribute("text") if label else None
        if text is None:
            found.draft.notes.append(Note(path, "the launch screen has no label"))
        elif text.value != wish.text:
            spot = place(path, document.source, text.start, text.end, text.syntax)
            found.draft.edits.append(place_edit(tree, spot, wish.text, ""))
    if wish.background:
        _ground(tree, places, path, document, wish.background, found)
    if wish.logo:
        views = [e for e in document.root.walk() if e.name == "imageView" and e.value("image")]
        if not views:
            found.draft.notes.append(Note(path, "the launch screen has no image view for the logo"))
        for view in views[:1]:
            _image_set(tree, folder, view.value("image"), found)
    return found


def _ground(tree: Tree, places: Places, path: str, document: XmlDocument, color: str, found: Launch) -> None:
    view = next((e for e in document.root.walk() if e.value("key") == "view"), None)
    ground = next((e for e in view.children if e.value("key") == "backgroundColor"), None) if view else None
    if ground is None:
        found.draft.notes.append(Note(path, "the launch screen's view states no colour"))
        return
    if ground.value("name"):
        try:
            spot = places.spot("color-set", ground.value("name"), "", "")
        except InputError as error:
            found.draft.notes.append(Note(path, error.message))
            return
        if channels(spot.text) != channels(color):
            found.draft.edits += spot.write(color).edits
        return
    red, green, blue, alpha = channels(color)
    numbers = " ".join(
        f'{name}="{value / 255:.4g}"'
        for name, value in (("red", red), ("green", green), ("blue", blue), ("alpha", alpha))
    )
    text = f'<color key="backgroundColor" {numbers} colorSpace="custom" customColorSpace="sRGB"/>'
    source = document.source
    if source.text(ground.start, ground.end) != text:
        new = source.raw(text)
        found.draft.edits.append(Edit(path, source.offset(ground.start), source.offset(ground.end), new))


def _image_set(tree: Tree, folder: str, name: str, found: Launch) -> None:
    """Draw every picture of an image set at the size that it has."""
    mark = f"/{name}.imageset/"
    files = [p for p in tree.below(folder) if mark in f"/{p}" and p.endswith(PICTURES)]
    found.pictures += [LaunchPicture(path, path, _FILLING) for path in files]
    if not files:
        found.draft.notes.append(Note(folder or ".", f"the image set {name} holds no picture to draw anew"))
