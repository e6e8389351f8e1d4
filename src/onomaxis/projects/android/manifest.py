"""What an Android manifest says of the app: package, versions, label, icon, launcher entries, components.

Source of the rules: developer.android.com, "App manifest overview" and the element pages below it.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from onomaxis.formats.escapes import decode_manifest
from onomaxis.formats.xml import Attribute, Element, XmlDocument, entity_span, parse_xml
from onomaxis.model import Piece, Place, Value
from onomaxis.platforms import ANDROID_NS
from onomaxis.projects.project import place

# Elements whose android:name is a class of the app, and other attributes that hold one.
COMPONENTS = frozenset({"application", "activity", "service", "receiver", "provider", "instrumentation"})
CLASS_ATTRIBUTES = frozenset(
    {
        "targetActivity",
        "parentActivityName",
        "backupAgent",
        "manageSpaceActivity",
        "appComponentFactory",
        "zygotePreloadName",
    }
)
# The same in resources (developer.android.com: "Fragments", "Navigation", "Data binding", "Create shortcuts",
# "Tools attributes"), and in the resources of libraries that are given a class by name.
RESOURCE_CLASSES = frozenset({"class", "fragment", "targetClass", "targetActivity"})
_NAMED_ONLY = frozenset(
    {"context", "layoutManager", "layout_behavior", "argType", "actionViewClass", "actionProviderClass"}
)
_NAMED = COMPONENTS | {"fragment", "FragmentContainerView", "dialog"}


def names_class(holder: str) -> bool:
    """Tell whether an attribute (``tag@name``) of a manifest or a resource holds the name of a class."""
    tag, _, attribute = holder.rpartition("@")
    tag, local = tag.rpartition(".")[2], attribute.rpartition(":")[2]
    if local == "name":
        return tag in _NAMED
    if local == "type":
        return tag in ("import", "variable")
    return local in CLASS_ATTRIBUTES | RESOURCE_CLASSES | _NAMED_ONLY


class Manifest(NamedTuple):
    """One manifest file, parsed."""

    path: str
    document: XmlDocument

    @property
    def root(self) -> Element:
        """The ``manifest`` element."""
        return self.document.root

    @property
    def application(self) -> Element | None:
        """The ``application`` element."""
        return next(self.root.find("application"), None)

    def place(self, attribute: Attribute) -> Place:
        """Return the span of an attribute's value."""
        return place(self.path, self.document.source, attribute.start, attribute.end, attribute.syntax)

    def value(self, attribute: Attribute) -> Value:
        """Return an attribute as a literal value."""
        spot = self.place(attribute)
        return Value((Piece(attribute.value, spot),), spot)

    def shown(self, attribute: Attribute) -> Value:
        """Return the text that an attribute shows to people, in which escapes mean what they mean in resources."""
        entity = entity_span(self.document, attribute.start, attribute.end)
        start, end, form = entity or (attribute.start, attribute.end, attribute.syntax.removeprefix("xml-"))
        kind = "manifest-entity" if entity else "manifest"
        spot = place(self.path, self.document.source, start, end, f"{kind}-{form}")
        return Value((Piece(decode_manifest(attribute.value), spot),), spot)

    def package(self) -> Attribute | None:
        """Return ``package=``, unless it is empty or a placeholder."""
        found = self.root.attribute("package")
        return found if found and found.value and "$" not in found.value else None

    def launchers(self) -> Iterator[tuple[Element, Element]]:
        """Yield each activity or alias that a launcher shows, with the intent filter that makes it so."""
        application = self.application
        if application is None:
            return
        for activity in application.children:
            if activity.name not in ("activity", "activity-alias"):
                continue
            for intent in activity.find("intent-filter"):
                names = {item.value("name", ANDROID_NS) for item in intent.children}
                if "android.intent.action.MAIN" in names and names & {
                    "android.intent.category.LAUNCHER",
                    "android.intent.category.LEANBACK_LAUNCHER",
                }:
                    yield activity, intent

    def launcher_theme(self) -> str:
        """Return the name of the theme that shows first: the launcher activity's own, else the application's."""
        application = self.application
        holders = [*(activity for activity, _ in self.launchers()), *([application] if application else [])]
        themes = (holder.value("theme", ANDROID_NS) for holder in holders)
        return next((theme.rpartition("/")[2] for theme in themes if theme), "")

    def label(self) -> Attribute | None:
        """Return the application's label."""
        application = self.application
        return application.attribute("label", ANDROID_NS) if application is not None else None

    def launcher_labels(self) -> list[tuple[str, Attribute]]:
        """Return the labels that launcher entries have of their own, with the component's name."""
        found: dict[str, Attribute] = {}
        for activity, intent in self.launchers():
            for element in (intent, activity):
                label = element.attribute("label", ANDROID_NS)
                if label:
                    found.setdefault(activity.value("name", ANDROID_NS), label)
                    break
        return list(found.items())

    def labels(self) -> list[Attribute]:
        """Return the application's label, then those of launcher entries."""
        own = self.label()
        return [*([own] if own else []), *(label for _, label in self.launcher_labels())]

    def relative_names(self) -> Iterator[Attribute]:
        """Yield class names written relative to the namespace: ``.Name`` or a bare ``Name``."""
        for element in self.root.walk():
            named = element.attribute("name", ANDROID_NS) if element.name in COMPONENTS else None
            for item in element.attributes:
                local = item.name.rpartition(":")[2]
                if (item is named or local in CLASS_ATTRIBUTES) and (
                    item.value.startswith(".") or "." not in item.value
                ):
                    yield item


def read_manifest(path: str, data: bytes) -> Manifest:
    """Parse a manifest. Raises FormatError."""
    return Manifest(path, parse_xml(data))
