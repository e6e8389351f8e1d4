"""The launch screen of an Android app: its theme followed to colours and pictures.

Source: developer.android.com, "Splash screens" (theme attributes, also those of Android 12).
"""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator
from dataclasses import dataclass

from onomaxis.formats.source import SPACE, flat
from onomaxis.formats.xml import Attribute, Element, XmlDocument, new_child, parse_xml
from onomaxis.model import Edit, Note
from onomaxis.platforms import ANDROID_NS, DENSITIES
from onomaxis.projects.android.launch_theme import modern_theme
from onomaxis.projects.android.manifest import read_manifest
from onomaxis.projects.edits import place_edit, span_edit
from onomaxis.projects.launch import PICTURES, Launch, LaunchPicture, LaunchWish
from onomaxis.projects.places import Places
from onomaxis.projects.project import place
from onomaxis.tree import Tree, join, parent

_BACKGROUNDS = ("windowSplashScreenBackground",)
_SURFACES = ("windowBackground", "background")
_LOGOS = ("windowSplashScreenAnimatedIcon",)
# A drawable at least this large is the ground with the logo in it; a smaller one is the logo.
_FILLING = 200
# The logo of a layer list that has none: its edge in dp.
_EDGE = 128
_LAYER = '<item><bitmap {prefix}:gravity="center" {prefix}:src="@drawable/{name}" /></item>'


def launch_screen(tree: Tree, module: str, places: Places, flavor: str, wish: LaunchWish) -> Launch:
    """Return what puts *wish* on the launch screen of a flavor; *module* is the folder of the app's module."""
    found = Launch()
    _Screen(tree, module, places, flavor, wish, found).run()
    return found


def _names(name: str) -> Iterator[str]:
    """Yield a name, then the same with numbers: the first that nothing has yet is taken."""
    yield name
    yield from (f"{name}_{number}" for number in itertools.count(2))


@dataclass
class _Screen:
    tree: Tree
    module: str
    places: Places
    flavor: str
    wish: LaunchWish
    found: Launch
    handled: bool = False
    modern: bool = False
    drawn: str = ""
    made: str = ""
    color: str = ""
    shown: str = ""
    ground: str = ""

    def run(self) -> None:
        """Follow the launcher activity's theme to what it shows before the app is there."""
        for path, document, item in self._items():
            name = item.value("name").rpartition(":")[2]
            text = item.text.strip(SPACE)
            self.modern = self.modern or name in (*_BACKGROUNDS, *_LOGOS)
            if name in _BACKGROUNDS and self.wish.background:
                self._colored(path, document, item, text)
            elif name in _SURFACES:
                self._surface(path, document, item, text)
            elif name in _LOGOS:
                self._logo(text)
        if self.handled and self.drawn and not self.modern:
            self._modern()
        if not self.handled:
            self._missing()

    def _modern(self) -> bool:
        """Say the same for Android 12 and later; tell whether there was a theme to say it in."""
        draft = modern_theme(self.tree, self.module, self._theme(), self._mine, self.shown, self.ground)
        self.found.draft.join(draft)
        return bool(draft.created)

    def _missing(self) -> None:
        """Give the app's own theme that says nothing of a launch screen that of Android 12; else say what lacks."""
        said = "its theme has no launch screen: name a windowBackground or windowSplashScreenBackground"
        if any(True for _ in self._items()) and (self.wish.background or self.wish.logo):
            self._new_parts()
            if self._modern():
                said = "shown from Android 12 on; before it nothing changes: name a windowBackground in its theme"
        self.found.draft.notes.append(Note(self.module or ".", said))

    def _new_parts(self) -> None:
        if self.wish.background:
            self._new_color()
        if self.wish.logo:
            self.shown = f"@drawable/{self._new_logo()}"

    def _theme(self) -> str:
        path = join(self.module, "src/main/AndroidManifest.xml")
        data = self.tree.named_file(path)
        return read_manifest(path, data).launcher_theme() if data else ""

    def _items(self) -> Iterator[tuple[str, XmlDocument, Element]]:
        theme = self._theme()
        for path in (path for folder in self._folders() for path in self.tree.below(folder)):
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
        elif self.flavor and self._mine(path) != path:
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

    def _folders(self) -> list[str]:
        """Return the resource folders of the app and of the flavor, whose own stand before the app's."""
        return [join(self.module, f"src/{name}/res") for name in ("main", self.flavor) if name]

    def _files(self, kind: str, name: str) -> list[str]:
        """Return the files of a resource: the app's, else those that only the flavor has."""
        pattern = re.compile(rf"{kind}(?:-[\w-]+)?/{re.escape(name)}\.(?:xml|png|webp|jpg)\Z")
        for folder in self._folders():
            start = len(folder) + 1
            if found := [path for path in self.tree.below(folder) if pattern.fullmatch(path[start:])]:
                return found
        return []

    def _mine(self, path: str) -> str:
        """Return where the flavor has a file of its own in place of the app's; a file of its own stays."""
        main = join(self.module, "src/main") + "/"
        own = bool(self.flavor) and path.startswith(main)
        return join(self.module, f"src/{self.flavor}/{path[len(main) :]}") if own else path

    def _drawable(self, name: str) -> None:
        """Follow a drawable: pictures are drawn anew, a list's colour and picture are followed."""
        files = self._files("drawable", name)
        if not files and (self.wish.background or self.wish.logo):
            self._new_list(name)
        for path in files:
            self.handled = True
            if path.endswith(PICTURES):
                self.found.pictures.append(LaunchPicture(path, self._mine(path), _FILLING))
                continue
            own = self._mine(path)
            mine = own if self.tree.exists(own) else path
            self._listed(mine, own, parse_xml(self.tree.read(mine) or b""))

    def _listed(self, path: str, own: str, document: XmlDocument) -> None:
        """Set the first colour of a layer list; draw the picture that it shows, or add one that it lacks.

        What a flavor says itself goes into its *own* file: a copy of the app's, where it has none yet.
        """
        self.drawn = self.drawn or path
        colors: list[Attribute] = []
        logos = 0
        for element in document.root.walk():
            for key in ("color", "drawable", "src"):
                attribute = element.attribute(key, ANDROID_NS)
                text = attribute.value if attribute else ""
                if attribute is None:
                    continue
                if text.startswith(("#", "@color/", "@android:color/", "?")):
                    colors.append(attribute)
                elif text.startswith(("@drawable/", "@mipmap/")):
                    logos += 1
                    self.shown = text
                    self._logo(text)
        edits = self._ground(path, document, colors)
        if self.wish.logo and not logos and document.root.name == "layer-list" and document.root.children:
            edits.append(self._layer(path, document))
        if path == own:
            self.found.draft.edits += edits
        elif edits:
            copy = self.tree.read(path) or b""
            for edit in sorted(edits, key=lambda item: -item.start):
                copy = copy[: edit.start] + edit.new + copy[edit.end :]
            self.found.draft.written[own] = copy

    def _ground(self, path: str, document: XmlDocument, colors: list[Attribute]) -> list[Edit]:
        """Return the edit that gives a list's ground its colour; a colour resource is written where it stands."""
        if not colors or not self.wish.background:
            return []
        first = colors[0]
        if first.value.startswith("@color/"):
            self.ground = first.value
            self._resource(first.value.removeprefix("@color/"))
            return []
        if first.value.upper() == self.wish.background.upper():
            return []
        spot = place(path, document.source, first.start, first.end, first.syntax)
        takes_colors = first.name.endswith(":color")
        new = self.wish.background if takes_colors else f"@color/{self._new_color()}"
        return [place_edit(self.tree, spot, new, "")]

    def _new_color(self) -> str:
        """Return the colour resource of the ground, made here: an item's drawable takes a reference alone."""
        if not self.color:
            folder = join(self.module, "src/main/res/values")
            known = b"".join(self.tree.read(path) or b"" for path in self.tree.below(folder))
            self.color = next(name for name in _names("launch_ground") if f'"{name}"'.encode() not in known)
            line = f'    <color name="{self.color}">{self.wish.background}</color>'
            text = f'<?xml version="1.0" encoding="utf-8"?>\n<resources>\n{line}\n</resources>\n'
            self.found.draft.created.append((self._mine(join(folder, f"{self.color}.xml")), text.encode()))
        self.ground = f"@color/{self.color}"
        return self.color

    def _new_list(self, name: str) -> None:
        """Make the drawable that the theme names and that is not there: the ground, and the logo over it."""
        self._new_parts()
        self.handled, self.drawn = True, name
        lines = [f'<item android:drawable="{self.ground}" />'] if self.ground else []
        lines += [_LAYER.format(prefix="android", name=self.made)] if self.made else []
        body = "".join(f"    {line}\n" for line in lines)
        head = f'<?xml version="1.0" encoding="utf-8"?>\n<layer-list xmlns:android="{ANDROID_NS}">\n'
        path = self._mine(join(self.module, f"src/main/res/drawable/{name}.xml"))
        if not self.tree.exists(path):
            self.found.draft.created.append((path, f"{head}{body}</layer-list>\n".encode()))

    def _new_logo(self) -> str:
        """Return the drawable of the logo, made here: its pictures are drawn in every density."""
        if not self.made:
            self.made = self._free_name()
            for density, scale in DENSITIES:
                target = self._mine(join(self.module, f"src/main/res/drawable-{density}/{self.made}.png"))
                self.found.pictures.append(LaunchPicture("", target, size=round(_EDGE * scale)))
        return self.made

    def _layer(self, path: str, document: XmlDocument) -> Edit:
        """Return the edit that adds the logo over all that a list shows."""
        name = self._new_logo()
        self.shown = f"@drawable/{name}"
        source, root = document.source, document.root
        prefix = next((key for key, uri in root.prefixes.items() if uri == ANDROID_NS), "android")
        first, last, added = new_child(document, root, _LAYER.format(prefix=prefix, name=name))
        return span_edit(path, source, first, last, added)

    def _free_name(self) -> str:
        return next(name for name in _names("launch_logo") if not self._files("drawable", name))

    def _logo(self, text: str) -> None:
        """Draw every picture of a resource anew; one that is a drawing of its own stays."""
        kind, _, name = text.removeprefix("@").partition("/")
        for path in self._files(kind, name) if self.wish.logo else ():
            self.handled = True
            if path.endswith(PICTURES):
                self.found.pictures.append(LaunchPicture(path, self._mine(path)))
            elif path.endswith(".xml") and (inner := _inset(self.tree.read(path) or b"")):
                self._logo(inner)
            elif path.endswith(".xml"):
                said = "the logo is a vector drawable: it stays, give pictures instead"
                self.found.draft.notes.append(Note(path, said))


def _inset(data: bytes) -> str:
    """Return what a drawable shows with room around it; nothing where it is another sort of drawable."""
    root = parse_xml(data).root
    return root.value("drawable", ANDROID_NS) if root.name == "inset" else ""
