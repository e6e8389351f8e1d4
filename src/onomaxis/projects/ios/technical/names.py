"""Which technical names turn into which, and how each form of them is rewritten: words, paths, products, modules."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

from onomaxis import late
from onomaxis.errors import InputError
from onomaxis.formats.source import as_viewed
from onomaxis.identity.reserved import SWIFT

# Names that say nothing of the app: only what is plainly derived from them follows (AppTests, not AppIntents).
GENERIC = frozenset({"app", "runner", "main", "demo", "ios", "mobile", "example", "client", "application", "test"})
_DERIVED = late.compile(r"(?:[ _-].*|(?:UI)?Tests?\Z)")
_BORDER = late.compile(r"[A-Z0-9 _.+-]")
# Modules of the platform that an app cannot shadow (Apple, framework reference).
_SYSTEM_MODULES = frozenset(
    """Swift SwiftUI UIKit AppKit Foundation Combine CoreData CoreGraphics Darwin Dispatch ObjectiveC XCTest Testing
    WatchKit WidgetKit StoreKit MapKit CloudKit Intents UserNotifications os""".split()
)
_PRODUCT_ENDINGS = ("app", "appex", "xctest", "framework", "bundle", "xcframework")


def module_name(product: str) -> str:
    """Return the module that a product's name makes (``:c99extidentifier``; Apple, "Build settings reference")."""
    return re.sub(r"\W", "_", product)


def check_name(name: str) -> None:
    """Refuse a technical name that gives no working module. Raises InputError with the reason."""
    module = module_name(name)
    if name[:1].isdigit():
        raise InputError(
            f"“{name}” cannot name an Xcode project: it begins with a digit, and no Swift module may",
            remedy="Put a letter first; users see the display name (--name), not this one.",
        )
    if module in SWIFT:
        raise InputError(
            f"“{name}” cannot name an Xcode project: its module {module} would be a word of Swift",
            remedy="Choose another technical name; users see the display name (--name).",
        )
    if module in _SYSTEM_MODULES:
        raise InputError(
            f"“{name}” cannot name an Xcode project: its module would hide the system's {module}",
            remedy="Choose another technical name; users see the display name (--name).",
        )
    if not module.strip("_"):
        raise InputError(f"“{name}” cannot name an Xcode project: it gives no module name")
    if "$" in name or "'" in name or "`" in name or any(ord(char) < 32 for char in name):
        raise InputError(f"“{name}” cannot name an Xcode project: build settings and scripts would read a sign in it")


class Follow(NamedTuple):
    """Which names derive from the old one: the name itself, and what it begins at a word's border."""

    old: str
    new: str

    def __call__(self, name: str) -> str:
        """Return what *name* turns into, an empty string when it has nothing to do with the old one."""
        if name == self.old:
            return self.new
        rest = name[len(self.old) :]
        if not name.startswith(self.old) or not _BORDER.match(rest):
            return ""
        if self.old.lower() in GENERIC and not _DERIVED.match(rest):
            return ""
        return self.new + rest


@dataclass(frozen=True)
class Names:
    """The maps of one technical rename. ``moved`` maps paths from the tree's root to their new last segment."""

    follow: Follow
    folder: str
    targets: Mapping[str, str]
    products: Mapping[str, str]
    modules: Mapping[str, str]
    moved: Mapping[str, str]

    # -- paths

    def path(self, path: str) -> str:
        """Return where a file or folder of the tree will be."""
        parts = path.split("/")
        there = ""
        found = []
        for part in parts:
            there = f"{there}/{part}" if there else part
            found.append(self.moved.get(there, part))
        return "/".join(found)

    def node_path(self, written: str, full: str) -> str:
        """Return a path relative to a group, when *full* is what it means: moves keep the depth of every file."""
        if not full:
            return written
        parts = written.split("/")
        tail = next((len(parts) - at for at in range(len(parts) - 1, -1, -1) if parts[at] in ("..", ".")), 0)
        kept, named = (parts[: len(parts) - tail + 1], parts[len(parts) - tail + 1 :]) if tail else ([], parts)
        now = self.path(full).split("/")
        return "/".join([*kept, *now[len(now) - len(named) :]]) if named else written

    @cached_property
    def _places(self) -> dict[str, str]:
        """Moved paths below the project's folder, as settings and scripts write them."""
        start = f"{self.folder}/" if self.folder else ""
        return {
            old[len(start) :]: self.path(old)[len(start) :]
            for old in sorted(self.moved, key=len, reverse=True)
            if old.startswith(start)
        }

    @cached_property
    def _path_pattern(self) -> re.Pattern[str] | None:
        if not self._places:
            return None
        root = r"\$[({]?(?:SRCROOT|PROJECT_DIR|SOURCE_ROOT)[)}]?/|\./"
        several = "|".join(re.escape(place) for place in self._places)
        return re.compile(
            rf"(?:(?<=[\"'\s=(:,])|(?<!.)|(?P<root>{root}))(?P<place>{several})(?=(?P<after>[/\"'\s\\),]|\Z))"
        )

    def paths_in(self, text: str) -> str:
        """Rewrite the moved paths in a setting or a script: after the project's folder, or as a word with a slash."""

        def one(match: re.Match[str]) -> str:
            place = match["place"]
            if not match["root"] and "/" not in place and "." not in place and match["after"] != "/":
                return match[0]
            return (match["root"] or "") + self._places[place]

        return self._path_pattern.sub(one, text) if self._path_pattern else text

    # -- products, modules, generated support libraries

    def product(self, name: str) -> str:
        """Return the new file name of a product (``Old.app``, ``libOld.a``), or the same."""
        stem, dot, ending = name.rpartition(".")
        if dot and ending in _PRODUCT_ENDINGS:
            return f"{self.products.get(stem, stem)}.{ending}"
        if dot and ending == "a" and stem.startswith("lib"):
            return f"lib{self.products.get(stem[3:], stem[3:])}.a"
        return name

    def products_in(self, text: str) -> str:
        """Rewrite a path into a product: ``$(BUILT_PRODUCTS_DIR)/Old.app/Old``."""
        return "/".join(self.products.get(part, self.product(part)) for part in text.split("/"))

    @cached_property
    def _pods(self) -> re.Pattern[str]:
        names = sorted({*self.targets, *map(module_name, self.targets)}, key=len, reverse=True)
        several = "|".join(re.escape(name) for name in names)
        word = r"[A-Za-z0-9\udc80-\udcff]"
        return re.compile(rf"(?<!{word})(?:lib)?Pods(?P<names>(?:[-_](?:{several}))+)(?!{word})")

    def pods(self, text: str) -> str:
        """Rewrite the names of support libraries that are generated per target (``Pods-Old``, ``Pods_Old``)."""
        known = {**{module_name(old): module_name(new) for old, new in self.targets.items()}}

        def one(match: re.Match[str]) -> str:
            rest, found = match["names"], match[0][: -len(match["names"])]
            for mark, name in re.findall(rf"([-_])({'|'.join(map(re.escape, self._longest))})", rest):
                found += mark + (self.targets[name] if mark == "-" and name in self.targets else known[name])
            return found

        return self._pods.sub(one, text) if "Pods" in text and self.targets else text

    @cached_property
    def _longest(self) -> list[str]:
        return sorted({*self.targets, *map(module_name, self.targets)}, key=len, reverse=True)

    def qualified(self, text: str) -> str:
        """Rewrite a class name that begins with a module (``Old.SceneDelegate``)."""
        module, dot, rest = text.partition(".")
        return f"{self.modules[module]}.{rest}" if dot and module in self.modules and rest[:1].isupper() else text

    def script(self, text: str) -> str:
        """Rewrite what a build script says: moved paths, project files, support libraries, products."""
        found = self.pods(self.paths_in(text))
        for old, new in self.products.items():
            found = re.sub(rf"(?<=/){re.escape(old)}\.(app|appex|xctest|framework)\b", rf"{_literal(new)}.\1", found)
        return found


def _literal(text: str) -> str:
    return text.replace("\\", r"\\")


def bytewise(several: Mapping[str, str]) -> dict[str, str]:
    """Return a map whose keys are spelled as in a :class:`Source` view, one character a byte."""
    return {as_viewed(old): new for old, new in several.items()}


def either(candidates: Iterable[str]) -> str:
    """Return a pattern for one of *candidates*, the longest first."""
    return "|".join(re.escape(name) for name in sorted(candidates, key=len, reverse=True))
