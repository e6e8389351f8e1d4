"""Launch screens: the brand's colour, line of text and logo where a project's launch screen has a place for them.

Sources of the rules: developer.android.com, "Splash screens" (theme attributes, also those of Android 12);
Apple, "Specifying your app's launch screen"; the frameworks' documentation of their entries.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING

from onomaxis.brands.subjects import Subject
from onomaxis.errors import FormatError, InputError
from onomaxis.formats.jsonc import parse_json
from onomaxis.formats.source import SPACE, flat
from onomaxis.formats.xml import Attribute, Element, XmlDocument, parse_xml
from onomaxis.model import Edit
from onomaxis.projects.edits import place_edit
from onomaxis.projects.ios.places import channels
from onomaxis.projects.project import Draft, place
from onomaxis.survey.survey import kind_of
from onomaxis.tree import Tree, join, parent

if TYPE_CHECKING:
    from onomaxis.icons.art import Art

_BACKGROUNDS = ("windowSplashScreenBackground",)
_SURFACES = ("windowBackground", "background")
_LOGOS = ("windowSplashScreenAnimatedIcon",)
_PICTURES = (".png", ".webp", ".jpg")
# A picture at least this large fills the screen; a smaller one is a logo on it.
_FILLING = 1000
# The share of a filling picture's shorter edge that the logo takes.
_SHARE = 0.36


@dataclass(frozen=True)
class LaunchWish:
    """What a launch screen shall show; an empty field is left as it is. ``logo`` is a path of art."""

    background: str = ""
    text: str = ""
    logo: str = ""


@dataclass
class Launch:
    """What putting a brand on launch screens gives: edits, pictures to be written, what has no place."""

    draft: Draft = field(default_factory=Draft)
    pictures: dict[str, tuple[int, int, bool]] = field(default_factory=dict)
    written: dict[str, bytes] = field(default_factory=dict)


def stamp_launch(tree: Tree, subject: Subject, flavor: str, wish: LaunchWish) -> Launch:
    """Return what puts *wish* on the launch screen of a flavor (``""``: the app itself)."""
    found = Launch()
    if subject.project.kind == "android":
        _Android(tree, subject, flavor, wish, found).run()
    elif subject.project.kind == "ios":
        _apple(tree, subject, flavor, wish, found)
    else:
        _framework(tree, subject, wish, found)
    if wish.logo and found.pictures:
        _draw(tree, wish, found)
    return found


# -- pictures


def _draw(tree: Tree, wish: LaunchWish, found: Launch) -> None:
    """Draw the logo into every picture: alone on transparency, or in the middle of the ground."""
    from onomaxis.icons.art import load_art

    art = load_art(Path(tree.root) / wish.logo)
    for path, (width, height, filling) in found.pictures.items():
        found.written[path] = _picture(art, width, height, wish.background if filling else "", path)


def _picture(art: Art, width: int, height: int, ground: str, path: str) -> bytes:
    import numpy as np

    from onomaxis.icons.encode import encoded
    from onomaxis.icons.pixels import colour, over

    edge = round(min(width, height) * (_SHARE if ground else 1.0))
    canvas = np.zeros((height, width, 4), dtype=np.float32)
    if ground:
        red, green, blue, _ = channels(ground)
        canvas[...] = colour(red, green, blue)
    logo = art.draw(max(edge, 1))
    top, left = (height - logo.shape[0]) // 2, (width - logo.shape[1]) // 2
    layer = np.zeros_like(canvas)
    layer[top : top + logo.shape[0], left : left + logo.shape[1]] = logo
    kind = "webp" if path.endswith(".webp") else "jpeg" if path.endswith(".jpg") else "png"
    return encoded(over(layer, canvas), kind, opaque=bool(ground))


def _size(data: bytes | None) -> tuple[int, int] | None:
    from onomaxis.icons.present import picture_file

    head = picture_file(data) if data else None
    return (head.width, head.height) if head else None


# -- Android


@dataclass
class _Android:
    tree: Tree
    subject: Subject
    flavor: str
    wish: LaunchWish
    found: Launch

    def run(self) -> None:
        """Follow the launcher activity's theme to what it shows before the app is there."""
        from onomaxis.brands.services import module_folder

        self.module = module_folder(self.subject)
        places = kind_of(self.subject.project).places(self.subject.project, self.tree, self.subject.module)
        assert places is not None
        self.places = places
        self.handled = False
        for path, document, item in self._items():
            name = item.value("name").rpartition(":")[2]
            text = item.text.strip(SPACE)
            if name in _BACKGROUNDS and self.wish.background:
                self._colored(path, document, item, text)
            elif name in _SURFACES:
                self._surface(path, document, item, text)
            elif name in _LOGOS:
                self._logo(text)
        if not self.handled:
            said = "its theme has no launch screen: name a windowBackground or windowSplashScreenBackground"
            self.found.draft.notes.append(f"{self.module or '.'}: {said}")

    def _theme(self) -> str:
        path = join(self.module, "src/main/AndroidManifest.xml")
        data = self.tree.read(path) if self.tree.exists(path) else None
        root = parse_xml(data).root if data else None
        namespace = "http://schemas.android.com/apk/res/android"
        application = next(root.find("application"), None) if root else None
        for activity in application.find("activity") if application is not None else ():
            launches = any(e.value("name", namespace).endswith(".LAUNCHER") for e in activity.walk())
            if launches and activity.value("theme", namespace):
                return activity.value("theme", namespace).rpartition("/")[2]
        return application.value("theme", namespace).rpartition("/")[2] if application is not None else ""

    def _items(self) -> Iterator[tuple[str, XmlDocument, Element]]:
        theme = self._theme()
        for path in self.tree.below(join(self.module, "src/main/res")):
            folder = parent(path).rpartition("/")[2]
            data = self.tree.read(path) if folder.split("-")[0] == "values" and path.endswith(".xml") else None
            if not data or not theme or theme.encode() not in flat(data):
                continue
            document = parse_xml(data)
            for style in document.root.find("style"):
                if style.value("name") == theme:
                    yield from ((path, document, item) for item in style.find("item"))

    def _colored(self, path: str, document: XmlDocument, item: Element, text: str) -> None:
        """Give a colour its new value: the resource's, or the literal."""
        self.handled = True
        if text.startswith("@color/"):
            self._resource(text.removeprefix("@color/"))
        elif self.flavor:
            self._shared(f"{path}:{document.source.line(item.start)}")
        else:
            start, end = item.inner_start, item.inner_end
            edit = place_edit(
                self.tree, place(path, document.source, start, end, "xml-text"), self.wish.background, ""
            )
            self.found.draft.edits += [edit] if text != self.wish.background else []

    def _resource(self, name: str) -> None:
        spot = self.places.spot("resource", f"color/{name}", "", self.flavor)
        if spot.text.upper() != self.wish.background.upper():
            made = spot.write(self.wish.background)
            self.found.draft.edits += made.edits
            self.found.draft.created += made.created
            self.found.draft.refusals += made.refusals

    def _shared(self, where: str) -> None:
        said = f"all flavors share this launch screen: {self.flavor} keeps it; let it refer to a colour resource"
        self.found.draft.notes.append(f"{where}: {said}")

    def _surface(self, path: str, document: XmlDocument, item: Element, text: str) -> None:
        if text.startswith("@color/") or text.startswith("#"):
            if self.wish.background:
                self._colored(path, document, item, text)
        elif text.startswith("@drawable/"):
            self._drawable(text.removeprefix("@drawable/"))

    def _files(self, kind: str, name: str) -> list[str]:
        folder = join(self.module, "src/main/res")
        pattern = re.compile(rf"{kind}(?:-[\w-]+)?/{re.escape(name)}\.(?:xml|png|webp|jpg)\Z")
        return [path for path in self.tree.below(folder) if pattern.fullmatch(path[len(folder) + 1 :])]

    def _mine(self, path: str) -> str:
        return path.replace("/src/main/", f"/src/{self.flavor}/") if self.flavor else path

    def _drawable(self, name: str) -> None:
        """Follow a drawable: pictures are drawn anew, a list's colour and picture are followed."""
        for path in self._files("drawable", name):
            self.handled = True
            data = self.tree.read(path) or b""
            if path.endswith(_PICTURES):
                size = _size(data)
                if size and self.wish.logo:
                    filling = self.wish.background if min(size) >= 200 else ""
                    self.found.pictures[self._mine(path)] = (*size, bool(filling))
                continue
            self._listed(path, parse_xml(data))

    def _listed(self, path: str, document: XmlDocument) -> None:
        """Set the first colour of a layer list; draw the picture that it shows."""
        namespace = "http://schemas.android.com/apk/res/android"
        colors: list[Attribute] = []
        for element in document.root.walk():
            for key in ("color", "drawable", "src"):
                attribute = element.attribute(key, namespace)
                text = attribute.value if attribute else ""
                if attribute is None:
                    continue
                if text.startswith(("#", "@color/", "@android:color/")):
                    colors.append(attribute)
                elif text.startswith(("@drawable/", "@mipmap/")):
                    self._logo(text)
        if not colors or not self.wish.background:
            return
        first = colors[0]
        if first.value.startswith("@color/"):
            self._resource(first.value.removeprefix("@color/"))
            return
        spot = place(path, document.source, first.start, first.end, first.syntax)
        if not self.flavor:
            if first.value.upper() != self.wish.background.upper():
                self.found.draft.edits.append(place_edit(self.tree, spot, self.wish.background, ""))
            return
        copy = self.tree.read(path) or b""
        own = copy[: spot.start] + self.wish.background.encode() + copy[spot.end :]
        self.found.written[self._mine(path)] = own

    def _logo(self, text: str) -> None:
        """Draw every picture of a resource anew; one that is a drawing of its own stays."""
        kind, _, name = text.removeprefix("@").partition("/")
        for path in self._files(kind, name) if self.wish.logo else ():
            self.handled = True
            size = _size(self.tree.read(path)) if path.endswith(_PICTURES) else None
            if size:
                self.found.pictures[self._mine(path)] = (*size, False)
            elif path.endswith(".xml"):
                self.found.draft.notes.append(
                    f"{path}: the logo is a vector drawable: it stays, give pictures instead"
                )


# -- Apple


def _apple(tree: Tree, subject: Subject, flavor: str, wish: LaunchWish, found: Launch) -> None:
    """Set the launch storyboard's ground, label and picture."""
    from onomaxis.projects.project import Flavor

    facts = kind_of(subject.project).facts(subject.project, tree, Flavor(subject.module, flavor))
    named = facts.keys.get("UILaunchStoryboardName")
    name = f"{named.text if named else 'LaunchScreen'}.storyboard"
    paths = [p for p in tree.below(subject.project.folder) if p.rpartition("/")[2] == name]
    if not paths:
        found.draft.notes.append(f"{subject.project.folder or '.'}: there is no launch storyboard")
        return
    if flavor and subject.of(flavor):
        said = f"all configurations share this launch screen: {flavor} keeps it"
        found.draft.notes.append(f"{paths[0]}: {said}")
        return
    path = paths[0]
    document = parse_xml(tree.read(path) or b"")
    if wish.text:
        label = next((e for e in document.root.walk() if e.name == "label" and e.attribute("text")), None)
        text = label.attribute("text") if label else None
        if text is None:
            found.draft.notes.append(f"{path}: the launch screen has no label")
        elif text.value != wish.text:
            spot = place(path, document.source, text.start, text.end, text.syntax)
            found.draft.edits.append(place_edit(tree, spot, wish.text, ""))
    if wish.background:
        _ground(tree, subject, path, document, wish.background, found)
    if wish.logo:
        views = [e for e in document.root.walk() if e.name == "imageView" and e.value("image")]
        if not views:
            found.draft.notes.append(f"{path}: the launch screen has no image view for the logo")
        for view in views[:1]:
            _image_set(tree, subject, view.value("image"), found)


def _ground(tree: Tree, subject: Subject, path: str, document: XmlDocument, color: str, found: Launch) -> None:
    view = next((e for e in document.root.walk() if e.value("key") == "view"), None)
    ground = next((e for e in view.children if e.value("key") == "backgroundColor"), None) if view else None
    if ground is None:
        found.draft.notes.append(f"{path}: the launch screen's view states no colour")
        return
    if ground.value("name"):
        places = kind_of(subject.project).places(subject.project, tree, subject.module)
        assert places is not None
        try:
            spot = places.spot("color-set", ground.value("name"), "", "")
        except InputError as error:
            found.draft.notes.append(f"{path}: {error.message}")
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


def _image_set(tree: Tree, subject: Subject, name: str, found: Launch) -> None:
    """Draw every picture of an image set at the size that it has."""
    mark = f"/{name}.imageset/"
    files = [p for p in tree.below(subject.project.folder) if mark in f"/{p}" and p.endswith(_PICTURES)]
    for path in files:
        size = _size(tree.read(path))
        if size:
            found.pictures[path] = (*size, min(size) >= _FILLING)
    if not files:
        found.draft.notes.append(
            f"{subject.project.folder or '.'}: the image set {name} holds no picture to draw anew"
        )


# -- frameworks whose native halves are generated

_ENTRIES: Sequence[tuple[str, ...]] = (
    ("expo", "splash"), ("expo", "android", "splash"), ("expo", "ios", "splash"), ("splash",),
)  # fmt: skip


def _framework(tree: Tree, subject: Subject, wish: LaunchWish, found: Launch) -> None:
    """Set the splash entries of an Expo configuration: colour, and the picture that it names."""
    path = join(subject.project.folder, "app.json")
    data = tree.read(path) if tree.exists(path) else None
    try:
        document = parse_json(data) if data else None
    except FormatError:
        document = None
    if document is None:
        found.draft.notes.append(
            f"{subject.project.folder or '.'}: no launch screen is read in a {subject.project.kind} project"
        )
        return
    nodes = [node for keys in _ENTRIES if (node := document.top.get(*keys)) is not None]
    plugins = document.top.get("expo", "plugins")
    for item in plugins.items if plugins is not None else ():
        if item.kind == "array" and len(item.items) == 2 and item.items[0].value == "expo-splash-screen":
            nodes.append(item.items[1])
    for node in nodes:
        ground, image = node.get("backgroundColor"), node.get("image")
        if ground is not None and wish.background and str(ground.value).upper() != wish.background.upper():
            source = document.source
            start, end = source.offset(ground.start + 1), source.offset(ground.end - 1)
            found.draft.edits.append(Edit(path, start, end, source.raw(wish.background)))
        target = join(subject.project.folder, str(image.value)) if image is not None else ""
        size = _size(tree.read(target)) if target and tree.exists(target) else None
        if size and wish.logo:
            found.pictures[target] = (*size, False)
    if not nodes:
        found.draft.notes.append(f"{path}: the configuration has no splash entry")
