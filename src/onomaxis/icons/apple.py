"""Apple's icon sets: the slots that ``Contents.json`` lists, one large image, or every slot of the families.

Source of the rules: Apple, asset catalog format reference ("App icon type") and Human Interface Guidelines ("App
icons"):
opaque, square corners, tinted icons in grey.
"""

from __future__ import annotations

from functools import partial

from onomaxis.errors import FormatError, InputError
from onomaxis.formats.jsonc import JsonDocument, Node, parse_json, plain, written
from onomaxis.icons.encode import encoded
from onomaxis.icons.layers import IconSet
from onomaxis.icons.output import Image, Output
from onomaxis.icons.slots import APPLE, APPLE_STORE_ICON, FAMILY_IDIOMS, AppleSlot, slot_pixels
from onomaxis.icons.tiles import drawn_tile
from onomaxis.icons.wish import IconWish, Warning
from onomaxis.model import Edit, Facet, IconHome
from onomaxis.tree import Tree, inside, parent
from onomaxis.writing.changeset import apply_edits

_PLATFORM_IDIOMS = {"ios": "ios", "macos": "macos", "tvos": "tvos", "watchos": "watchos", "visionos": "ios"}
# What a target's platform asks for whatever its device families are, and idioms that a set keeps once it has them.
_IDIOMS_OF = {"macos": ("mac",), "watchos": ("watch", "watch-marketing")}
_KEPT_IDIOMS = ("mac", "watch", "car", "watch-marketing")
_EMPTY = b'{\n  "images" : [\n  ],\n  "info" : {\n    "author" : "xcode",\n    "version" : 1\n  }\n}\n'

Entry = dict[str, object]


class AppleIcons:
    """Draws one icon set."""

    def __init__(self, tree: Tree, home: IconHome, icons: IconSet, wish: IconWish) -> None:
        self.tree = tree
        self.home = home
        self.icons = icons
        self.wish = wish
        self.out = Output()
        self.path = f"{home.folder}/Contents.json"
        data = tree.named_file(self.path)
        self.is_new = data is None
        try:
            self.document: JsonDocument = parse_json(data or _EMPTY)
        except FormatError as error:
            raise InputError(error.message, file=self.path, line=error.line) from None
        self.used: dict[str, tuple[int, str]] = {}

    def draw(self) -> Output:
        """Return everything to write and to remove."""
        node = self.document.top.get("images")
        entries = [plain(item) for item in node.items] if node is not None else []
        old: list[Entry] = [dict(item) for item in entries if isinstance(item, dict)]
        mode = self.wish.slots if old else "single"
        kept = self._kept(old)
        wanted = {"keep": kept, "single": self._single(), "full": self._full(kept)}[mode]
        final = [self._filled(entry) for entry in wanted]
        self._write_contents(node, old, final)
        self._orphans()
        if self.wish.icon_name and self.wish.icon_name != self.home.name:
            self._rename_set()
        return self.out

    def _rename_set(self) -> None:
        """Carry the whole set over into a folder of the new name."""
        target = f"{parent(self.home.folder)}/{self.wish.icon_name}.appiconset"
        if any(True for _ in self.tree.below(target)):
            raise InputError(
                "an icon set of this name exists already", file=target, remedy="Give another --icon-name."
            )
        contents = self.out.written.pop(self.path, None) or apply_edits(
            self.path, self.tree.read(self.path) or b"", self.out.edits
        )
        for path in [path for path in self.out.drawings if path.startswith(self.home.folder + "/")]:
            self.out.drawings[target + path[len(self.home.folder) :]] = self.out.drawings.pop(path)
        self.out.written[f"{target}/Contents.json"] = contents
        self.out.edits.clear()
        self.out.removed = set(self.tree.below(self.home.folder))
        self.out.images = [
            image._replace(path=target + image.path[len(self.home.folder) :]) for image in self.out.images
        ]

    # -- which slots

    def _kept(self, entries: list[Entry]) -> list[Entry]:
        """Keep the entries of today; an appearance without art keeps its slot and loses the old picture."""
        kept = []
        for entry in entries:
            appearance = _appearance(entry)
            if appearance and not self._has_art(appearance) and entry.get("filename") and "light" in self.icons.parts:
                said = f"the {appearance} icon showed the old art, its slot was emptied: give --ios-{appearance}"
                self.out.warnings.append(Warning("appearance-removed", said, self.path))
                kept.append(_without_name(entry))
                continue
            kept.append(entry)
        listed = {_appearance(entry) for entry in kept}
        single = [entry for entry in kept if entry.get("idiom") == "universal" and not _appearance(entry)]
        for appearance in ("dark", "tinted"):
            if not self._has_art(appearance) or appearance in listed:
                continue
            if single:
                kept.append(_with_appearance({k: v for k, v in single[0].items() if k != "filename"}, appearance))
            else:
                said = f"the set has a slot for each size, and none for a {appearance} icon: --slots single makes one"
                self.out.warnings.append(Warning("not-drawn", said, self.path))
        return kept

    def _has_art(self, appearance: str) -> bool:
        art = {"dark": self.icons.ios_dark, "tinted": self.icons.ios_tinted}.get(appearance)
        return art is not None

    def _single(self) -> list[Entry]:
        if self.home.platform == "macos":  # macOS knows no single size
            return [_entry(slot) for slot in APPLE["mac"]]
        platform = _PLATFORM_IDIOMS.get(self.home.platform, "ios")
        base: Entry = {"idiom": "universal", "platform": platform, "size": "1024x1024"}
        found = [base]
        found += [_with_appearance(base, name) for name in ("dark", "tinted") if self._has_art(name)]
        return found

    def _full(self, kept: list[Entry]) -> list[Entry]:
        """Return every slot of the target's families, else of the idioms that the set has today."""
        present = [str(entry.get("idiom")) for entry in kept]
        idioms = list(_IDIOMS_OF.get(self.home.platform, ()))
        if not idioms:
            idioms = [idiom for family in self.home.families for idiom in FAMILY_IDIOMS.get(family, ())]
        if not idioms:
            idioms = [name for name in present if name in APPLE] or ["iphone", "ipad", "ios-marketing"]
        idioms += [name for name in present if name in _KEPT_IDIOMS]
        ordered = [name for name in APPLE if name in idioms]
        return [_entry(slot) for name in ordered for slot in APPLE[name]]

    # -- filling

    def _filled(self, entry: Entry) -> Entry:
        """Draw the picture of one slot; give the entry a file name where it has none of its own size."""
        size, scale = str(entry.get("size", "")), str(entry.get("scale", ""))
        pixels = slot_pixels(size, scale) if size else APPLE_STORE_ICON
        if pixels <= 0:
            return entry
        appearance = _appearance(entry)
        name = str(entry.get("filename", ""))
        if (appearance or "light") not in self.icons.parts or (appearance and not self._has_art(appearance)):
            if name:
                self.used[name] = (pixels, appearance)
            return entry
        # What is drawn otherwise needs a file of its own.
        drawn = (pixels, "card" if entry.get("idiom") == "mac" else appearance)
        if not name or "/" in name or "\\" in name or not inside(name) or self.used.get(name, drawn) != drawn:
            name = self._new_name(pixels, appearance)
            name = name if self.used.get(name, drawn) == drawn else self._new_name(*drawn)
        self.used[name] = drawn
        path = f"{self.home.folder}/{name}"
        slot = " ".join(part for part in (str(entry.get("idiom", "")), size, scale, appearance) if part)
        image = Image(path, pixels, pixels, self.home.platform, slot, self.home.flavor)
        if self.out.writes(path):
            self.out.images.append(image)
        else:
            self.out.image(image, partial(self._file, entry.get("idiom") == "mac", pixels, appearance))
        return entry if entry.get("filename") == name else _named(entry, name)

    def _file(self, desktop: bool, pixels: int, appearance: str) -> bytes:
        """Draw one slot: macOS shows the picture as it is, so it is a card with a margin; all else is square.

        It is opaque too, but for a dark one that is drawn on transparency.
        """
        if desktop:
            return encoded(drawn_tile(self.icons, "card", pixels, pixels))
        drawn = self.icons.apple(pixels, appearance)
        clear = appearance == "dark" and bool((drawn[..., 3] < 1).any())
        return encoded(drawn, opaque=not clear)

    def _new_name(self, pixels: int, appearance: str) -> str:
        base = "".join(char if char.isalnum() or char in "-_" else "-" for char in self.home.name)
        return "-".join(part for part in (base, str(pixels), appearance) if part) + ".png"

    def _write_contents(self, node: Node | None, old: list[Entry], final: list[Entry]) -> None:
        """Edit ``Contents.json``: only the file names that are missing, or the list where slots change."""
        if self.is_new:
            info = {"author": "xcode", "version": 1}
            self.out.written[self.path] = (written(self.document, {"images": final, "info": info}, 0) + "\n").encode(
                "utf-8"
            )
            return
        if final == old:
            return
        source = self.document.source
        if node is None:
            raise InputError("the icon set lists no images", file=self.path)
        same_slots = [_without_name(entry) for entry in old] == [_without_name(entry) for entry in final]
        if not same_slots:
            text = written(self.document, final, 1)
            self._edit(node.start, node.end, text)
            return
        for item, before, after in zip(node.items, old, final, strict=True):
            if before != after:
                text = written(self.document, after, _depth(source.view, item.start, self.document.indent))
                self._edit(item.start, item.end, text)

    def _edit(self, start: int, end: int, text: str) -> None:
        source = self.document.source
        self.out.edits.append(Edit(self.path, source.offset(start), source.offset(end), source.raw(text), Facet.ICON))

    def _orphans(self) -> None:
        """Remove pictures in the set that no slot refers to any more."""
        for path in self.tree.below(self.home.folder):
            name = path[len(self.home.folder) + 1 :]
            if "/" not in name and name.lower().endswith((".png", ".jpg", ".jpeg")) and name not in self.used:
                self.out.removed.add(path)


def _appearance(entry: Entry) -> str:
    """Return ``dark``, ``tinted`` or empty."""
    found = entry.get("appearances")
    if isinstance(found, list):
        for item in found:
            if isinstance(item, dict) and item.get("appearance") == "luminosity":
                return str(item.get("value", ""))
    return ""


def _with_appearance(entry: Entry, name: str) -> Entry:
    return {"appearances": [{"appearance": "luminosity", "value": name}], **entry}


def _entry(slot: AppleSlot) -> Entry:
    entry: Entry = {"idiom": slot.idiom}
    if slot.role:
        entry["role"] = slot.role
    entry["scale"] = slot.scale
    entry["size"] = slot.size
    if slot.subtype:
        entry["subtype"] = slot.subtype
    return entry


def _named(entry: Entry, name: str) -> Entry:
    """Give an entry its file name, in its alphabetical place where the entry's keys are in order."""
    if "filename" in entry:
        return {key: name if key == "filename" else value for key, value in entry.items()}
    keys = list(entry)
    named = {**entry, "filename": name}
    return dict(sorted(named.items())) if keys == sorted(keys) else {"filename": name, **entry}


def _without_name(entry: Entry) -> Entry:
    return {key: value for key, value in entry.items() if key != "filename"}


def _depth(view: str, position: int, indent: str) -> int:
    """Return how many steps a position's line is indented."""
    start = view.rfind("\n", 0, position) + 1
    lead = len(view[start:position]) - len(view[start:position].lstrip())
    return lead // max(len(indent), 1)
