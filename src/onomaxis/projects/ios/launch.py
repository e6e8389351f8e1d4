"""The launch screen of an iOS app: a storyboard's ground, label and picture, or those that a property list names.

Source: Apple, "Specifying your app's launch screen".
"""

from __future__ import annotations

from typing import NamedTuple

from onomaxis.errors import InputError
from onomaxis.formats.color import channels
from onomaxis.formats.xml import XmlDocument, parse_xml
from onomaxis.model import Note
from onomaxis.projects.edits import place_edit, span_edit
from onomaxis.projects.ios.launch_picture import NAME, image_set, image_view
from onomaxis.projects.ios.places import ApplePlaces
from onomaxis.projects.launch import PICTURES, Launch, LaunchPicture, LaunchWish
from onomaxis.projects.project import place
from onomaxis.tree import Tree

# A picture at least this large fills the screen; a smaller one is a logo on it.
_FILLING = 1000


# The keys of a launch screen that a property list describes (Apple, "UILaunchScreen").
_SCREEN = "UILaunchScreen"
_COLOR, _IMAGE = f"{_SCREEN}/UIColorName", f"{_SCREEN}/UIImageName"
_GROUND = "LaunchGround"


class Screen(NamedTuple):
    """How an app is launched: the name of its storyboard, or what its property list names (``listed``).

    ``shared`` tells whether other flavors, or the app itself, are launched with the same; ``flavored`` whether there
    are flavors at all.
    """

    storyboard: str
    listed: bool
    color: str
    image: str
    shared: bool
    flavored: bool


def launch_screen(
    tree: Tree, folder: str, screen: Screen, places: ApplePlaces, flavor: str, wish: LaunchWish
) -> Launch:
    """Return what sets ground, label and picture of the launch screen of a project in *folder*."""
    found = Launch()
    if screen.listed and not screen.storyboard:
        _described(tree, folder, screen, places, flavor, wish, found)
        return found
    storyboard = screen.storyboard or "LaunchScreen"
    paths = [p for p in tree.below(folder) if p.rpartition("/")[2] == f"{storyboard}.storyboard"]
    if not paths and not screen.storyboard:
        _described(tree, folder, screen, places, flavor, wish, found)
        return found
    if not paths:
        found.draft.notes.append(Note(folder or ".", f"the launch storyboard {storyboard} is not there"))
        return found
    if flavor and screen.shared:
        said = f"all configurations share this launch screen: {flavor} keeps it; let UILaunchStoryboardName be a "
        found.draft.notes.append(Note(paths[0], f"{said}build setting that differs, such as $(LAUNCH_SCREEN)"))
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
            image_view(tree, folder, path, document, found)
        for view in views[:1]:
            _image_set(tree, folder, view.value("image"), found)
    return found


def _described(
    tree: Tree, folder: str, screen: Screen, places: ApplePlaces, flavor: str, wish: LaunchWish, found: Launch
) -> None:
    """Set what a property list's launch screen names: a colour set, and the pictures of an image set.

    What it does not name is made and named, where there are no flavors that would share it.
    """
    where = folder or "."
    if wish.text:
        found.draft.notes.append(Note(where, "a launch screen that a property list describes has no label"))
    new: dict[str, str] = {}
    differs = ", a build setting where flavors differ" if screen.flavored else ""
    try:
        if wish.background and screen.color:
            _named_color(screen, places, flavor, wish.background, found)
        elif wish.background and screen.flavored:
            found.draft.notes.append(Note(where, f"the launch screen names no colour: add {_COLOR}{differs}"))
        elif wish.background:
            _color_set(places, _GROUND, wish.background, found)
            new[_COLOR.rpartition("/")[2]] = _GROUND
    except InputError as error:
        found.draft.notes.append(Note(error.file or where, error.message))
    if wish.logo and screen.image and flavor and screen.shared:
        said = f"all configurations share the launch picture {screen.image}: {flavor} keeps it"
        found.draft.notes.append(Note(where, said))
    elif wish.logo and screen.image:
        _image_set(tree, folder, screen.image, found)
    elif wish.logo and not screen.flavored and image_set(tree, folder, found):
        new[_IMAGE.rpartition("/")[2]] = NAME
    elif wish.logo:
        said = f"the launch screen names no picture for the logo: add {_IMAGE}{differs}"
        found.draft.notes.append(Note(where, said))
    made = places.described(_SCREEN, new) if new else None
    if made is not None:
        found.draft.join(made)


def _named_color(screen: Screen, places: ApplePlaces, flavor: str, color: str, found: Launch) -> None:
    """Give the colour set of a ground its colour; one of a flavor's own where the list can name it for the flavor."""
    name = screen.color
    if flavor and screen.shared:
        name = f"{screen.color}-{flavor}"
        named = places.spot("plist", _COLOR, "", flavor).write(name)
        if named.refusals:
            said = f"all configurations share the launch colour {screen.color}: {flavor} keeps it; let the property "
            at = named.refusals[0].at
            found.draft.notes.append(
                Note(at, f"{said}list name a build setting that differs, such as $(LAUNCH_COLOR)")
            )
            return
        found.draft.join(named)
    _color_set(places, name, color, found)


def _color_set(places: ApplePlaces, name: str, color: str, found: Launch) -> None:
    """Give a colour set its colour; one that is missing is made. Raises InputError where there is no place for it."""
    try:
        spot = places.spot("color-set", name, "", "")
    except InputError:
        made = places.made("color-set", name, color, "color")
        if made is None:
            raise
        found.draft.join(made)
        return
    if channels(spot.text) != channels(color):
        found.draft.edits += spot.write(color).edits


def _ground(tree: Tree, places: ApplePlaces, path: str, document: XmlDocument, color: str, found: Launch) -> None:
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
        found.draft.edits.append(span_edit(path, source, ground.start, ground.end, new))


def _image_set(tree: Tree, folder: str, name: str, found: Launch) -> None:
    """Draw every picture of an image set at the size that it has."""
    mark = f"/{name}.imageset/"
    files = [p for p in tree.below(folder) if mark in f"/{p}" and p.endswith(PICTURES)]
    found.pictures += [LaunchPicture(path, path, _FILLING) for path in files]
    if not files:
        found.draft.notes.append(Note(folder or ".", f"the image set {name} holds no picture to draw anew"))
