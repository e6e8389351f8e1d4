"""The launch screen of an Android app: its theme followed to colours and pictures.

Source: developer.android.com, "Splash screens" (theme attributes, also those of Android 12).
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

from onomaxis.formats.source import SPACE, flat
from onomaxis.formats.xml import Attribute, Element, XmlDocument, parse_xml
from onomaxis.model import Note
from onomaxis.projects.android.manifest import ANDROID_NS, read_manifest
from onomaxis.projects.edits import place_edit
from onomaxis.projects.launch import PICTURES, Launch, LaunchPicture, LaunchWish
from onomaxis.projects.places import Places
from onomaxis.projects.project import place
from onomaxis.tree import Tree, join, parent

_BACKGROUNDS = ("windowSplashScreenBackground",)
_SURFACES = ("windowBackground", "background")
_LOGOS = ("windowSplashScreenAnimatedIcon",)
# A drawable at least this large is the ground with the logo in it; a smaller one is the logo.
_FILLING = 200


def launch_screen(tree: Tree, module: str, places: Places, flavor: str, wish: LaunchWish) -> Launch:
    """Return what puts *wish* on the launch screen of a flavor; *module* is the folder of the app's module."""
    found = Launch()
    _Screen(tree, module, places, flavor, wish, found).run()
    return found


@dataclass
class _Screen:
    tree: Tree
    module: str
    places: Places
    flavor: str
    wish: LaunchWish
    found: Launch
    handled: bool = False

    def run(self) -> None:
        """Follow the launcher activity's theme to what it shows before the app is there."""
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
            self.found.draft.notes.append(Note(self.module or ".", said))

    def _theme(self) -> str:
        path = join(self.module, "src/main/AndroidManifest.xml")
        data = self.tree.read(path) if self.tree.exists(path) else None
        return read_manifest(path, data).launcher_theme() if data else ""

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
            self.found.draft.join(made)

    def _shared(self, where: str) -> None:
        said = f"all flavors share this launch screen: {self.flavor} keeps it; let it refer to a colour resource"
        self.found.draft.notes.append(Note(where, said))

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
            if path.endswith(PICTURES):
                self.found.pictures.append(LaunchPicture(path, self._mine(path), _FILLING))
                continue
            self._listed(path, parse_xml(data))

    def _listed(self, path: str, document: XmlDocument) -> None:
        """Set the first colour of a layer list; draw the picture that it shows."""
        colors: list[Attribute] = []
        for element in document.root.walk():
            for key in ("color", "drawable", "src"):
                attribute = element.attribute(key, ANDROID_NS)
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
        self.found.draft.written[self._mine(path)] = own

    def _logo(self, text: str) -> None:
        """Draw every picture of a resource anew; one that is a drawing of its own stays."""
        kind, _, name = text.removeprefix("@").partition("/")
        for path in self._files(kind, name) if self.wish.logo else ():
            self.handled = True
            if path.endswith(PICTURES):
                self.found.pictures.append(LaunchPicture(path, self._mine(path)))
            elif path.endswith(".xml"):
                said = "the logo is a vector drawable: it stays, give pictures instead"
                self.found.draft.notes.append(Note(path, said))
