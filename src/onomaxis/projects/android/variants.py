"""Which apps an Android module ships: one per combination of flavors, in the release build type.

Source of the rules: developer.android.com, "Configure build variants" (dimensions, priority of source sets,
suffixes) and the reference of ``ApplicationProductFlavor``.
"""

from __future__ import annotations

import itertools
import math
from collections import Counter
from collections.abc import Iterator, Sequence
from contextlib import suppress
from typing import NamedTuple

from onomaxis.flavor_names import combined
from onomaxis.formats.gradle import Script
from onomaxis.formats.gradle_statements import (
    BRANCHES,
    CREATORS,
    Setting,
    Statement,
    block_path,
    literal_text,
    mapped,
)
from onomaxis.formats.lexer import Token, items_of
from onomaxis.formats.xml import Attribute
from onomaxis.model import FLAVORS, Piece, Unresolved, Value
from onomaxis.projects.android.manifest import Manifest
from onomaxis.projects.android.modules import Module, setting_path
from onomaxis.projects.android.scope import IsNull, Unknown
from onomaxis.projects.android.script_filters import Filter, filters, leaves_out
from onomaxis.projects.android.values import Environment

RELEASE = "release"


class Variant(NamedTuple):
    """One combination of flavors, in the order of their dimensions."""

    flavors: tuple[str, ...]

    @property
    def name(self) -> str:
        """The combination as the build names it: ``freeNorth``."""
        return combined(self.flavors)

    def source_sets(self) -> tuple[str, ...]:
        """Return the source sets of the release variant, the winning one first."""
        names: list[str] = []
        if self.flavors:
            names.append(combined((*self.flavors, RELEASE)))
        names.append(RELEASE)
        if len(self.flavors) > 1:
            names.append(self.name)
        return (*names, *self.flavors, "main")


def variants(module: Module) -> tuple[Variant, ...]:
    """Return the flavor combinations of *module*; one empty combination when it has no flavors."""
    flavors = flavor_names(module)
    if not flavors:
        return (Variant(()),)
    dimensions = _dimensions(module)
    grouped: dict[str, list[str]] = {dimension: [] for dimension in dimensions}
    for flavor in flavors:
        grouped.setdefault(_dimension(module, flavor, dimensions), []).append(flavor)
    groups = [names for names in grouped.values() if names]
    if math.prod(map(len, groups)) > MOST_VARIANTS:
        groups = [names[:1] for names in groups]  # computed() says so
    return _kept(module, tuple(Variant(tuple(choice)) for choice in itertools.product(*groups)))[0]


def _kept(module: Module, found: tuple[Variant, ...]) -> tuple[tuple[Variant, ...], list[Filter]]:
    """Return the variants that the script's filters leave, and the filters that only the build knows."""
    dimensions = _dimensions(module)
    told: dict[str, str] = {name: _dimension(module, name, dimensions) for item in found for name in item.flavors}
    open_: list[Filter] = []
    for one in filters(module.file):
        try:
            left = tuple(
                item
                for item in found
                if not leaves_out(
                    module.file, module.environment, one, [(told[name], name) for name in item.flavors], RELEASE
                )
            )
        except Unknown:
            left = ()
        found, open_ = (left, open_) if left else (found, [*open_, one])
    return found, open_


# More combinations than any build that is run has.
MOST_VARIANTS = 4000


def _dimension(module: Module, flavor: str, dimensions: Sequence[str]) -> str:
    setting = module.find("productFlavors", flavor, "dimension")
    return literal_text(setting.value) if setting else (dimensions[0] if len(dimensions) == 1 else "")


# Calls that decide when the build runs which variants exist, or what their outputs are called.
_FILTERED = "which variants exist is decided when the build runs"
_NUMBERED = "the build number of each output is computed when the build runs"


def computed(module: Module) -> list[Unresolved]:
    """Return the places where a script changes variants by code: what is said of them here may not hold."""
    found = []
    source = module.file.script.source
    dimensions = _dimensions(module)
    sizes = Counter(_dimension(module, flavor, dimensions) for flavor in flavor_names(module))
    if math.prod(sizes.values()) > MOST_VARIANTS:
        said = f"its flavors make {math.prod(sizes.values())} combinations: only the first is looked at"
        found.append(Unresolved("variants", module.file.path, 1, "productFlavors", said))
    found += unread_flavors(module)
    unread = [(one.start, _FILTERED) for one in _kept(module, variants(module))[1]]
    numbered = [token.start for token in module.file.tokens if token.text == "versionCodeOverride"]
    for start, reason in [*unread, *((start, _NUMBERED) for start in numbered)]:
        text = source.line_around(start).strip()
        found.append(Unresolved("variants", module.file.path, source.line(start), text, reason))
    return found


# What a container is asked that declares nothing.
_HARMLESS = frozenset(
    {"all", "configureEach", "matching", "whenObjectAdded", "named", "getByName", "println", "addAll", "removeAll"}
)


def unread_flavors(module: Module) -> list[Unresolved]:
    """Return the places that declare flavors, or may, in a way that is not followed: loops, calls, closures."""
    found = []
    for path, script in {item.path: item.script for item in (module.file, *module.environment.others)}.items():
        for child, reason in _unread_statements(script):
            line = script.source.line(child.start)
            text = script.source.line_around(child.start).strip()
            found.append(Unresolved(FLAVORS, path, line, text, reason))
    return list(dict.fromkeys(found))


def _unread_statements(script: Script) -> Iterator[tuple[Statement, str]]:
    for container in script.blocks("android", "productFlavors"):
        if container.name.rpartition(".")[2] not in _NO_FLAVORS and not container.looped:
            yield from ((child, reason) for child in container.children if (reason := _unread(child)))


def _unread(child: Statement) -> str:
    """Return why a statement in the container of flavors is not followed, empty where it is or declares none."""
    parts = child.name.split(".")
    if child.heavy:
        return "more is said of all flavors than is followed"
    if child.looped or CREATORS.intersection(parts) or parts[-1] in _HARMLESS or parts[0] in ("if", "else"):
        return _unread_name(child) if CREATORS.intersection(parts) else ""
    if child.kind == "block" and not child.name:
        return "" if literal_text(child.args) else "the flavor's name is computed"
    if child.kind == "block" and (len(parts) > 1 or parts[0] in BRANCHES):
        return "flavors are declared by a loop over what the build computes"
    if child.kind in ("set", "other") and (child.args or child.value) and child.name:
        return "a call that may declare a flavor is not followed"
    if child.kind == "block" and child.args:
        return "a call that may declare a flavor is not followed"
    return ""


def _unread_name(child: Statement) -> str:
    named = literal_text(child.args) or not child.args or child.args[0].kind not in ("name", "string")
    return "" if named else "the flavor's name is computed"


def flavor_names(module: Module) -> list[str]:
    """Return the flavors in the order they are declared."""
    found: dict[str, None] = {}
    for item in module.settings("productFlavors"):
        path = setting_path(item)
        label = path[2] if len(path) > 3 else literal_text(item.value) if path[-1] in CREATORS else ""
        if label and label not in CREATORS:
            found.setdefault(label)
    found |= dict.fromkeys(name for name, _ in flavor_statements(module.file.script))
    scripts = [item.script for item in (module.file, *module.environment.others)]
    unread = {child.name.split(".")[0] for script in scripts for child, _ in _unread_statements(script)}
    return [name for name in found if name not in _NO_FLAVORS and name not in unread]


def flavor_containers(script: Script) -> list[Statement]:
    """Return the blocks of a script that flavors are declared in, as they stand in the file."""
    found = script.blocks("android", "productFlavors")
    return [item for item in found if item.body[1] and item.name.rpartition(".")[2] not in _NO_FLAVORS]


def flavor_statements(script: Script) -> Iterator[tuple[str, Statement]]:
    """Yield every statement of a script that declares or opens one flavor, with the flavor's name."""
    for container in script.blocks("android", "productFlavors"):
        yield from _declared(container.children)
    for android in script.blocks("android"):
        for child in android.children:
            own = block_path(child)
            if own[0] == "productFlavors" and len(own) > 1 and own[1] not in _NO_FLAVORS:
                yield _named(child, own[1])


def _declared(level: Sequence[Statement]) -> Iterator[tuple[str, Statement]]:
    for child in level:
        own = block_path(child)
        if child.conditional and child.kind == "block" and own[0] in BRANCHES:
            yield from _declared(child.children)
        elif child.kind == "block" and len(own) == 1 and own[0] not in _NO_FLAVORS:
            yield _named(child, own[0])
        elif child.kind == "set" and CREATORS.intersection(child.name.split(".")) and literal_text(child.args):
            yield literal_text(child.args), child


def _named(child: Statement, name: str) -> tuple[str, Statement]:
    return literal_text(child.args) or name, child


# Calls on the container that speak of all flavors, or of some by a condition.
_NO_FLAVORS = frozenset(
    {"all", "configureEach", "each", "forEach", "whenObjectAdded", "matching", "named", "withType", ""} | CREATORS
)


def _dimensions(module: Module) -> list[str]:
    found: list[str] = []
    for item in module.settings():
        if setting_path(item)[-1] in ("flavorDimensions", "dimensions") and "flavorDimensions" in item.full:
            found.extend(text for token in item.value if (text := literal_text([token])))
    return list(dict.fromkeys(found))


def evaluate(module: Module, item: Setting | None, facet: str, faults: list[Unresolved]) -> Value | None:
    """Evaluate a setting; what cannot be followed goes to *faults* with file and line."""
    if item is None or not item.value:
        return None
    reason = "it is set under a condition"
    try:
        if not item.conditional:
            return around(module, item).value(item.value)
    except Unknown as error:
        if isinstance(error, IsNull) and facet.endswith("Suffix"):
            return Value((), module.environment.place(item.value))
        reason = str(error)
    spot = module.environment.place(item.value)
    faults.append(Unresolved(facet, spot.file, spot.line, spot.written, reason))
    return None


def around(module: Module, item: Setting) -> Environment:
    """Return where names are looked up for a setting: inside a flavor's block ``name`` is the flavor's."""
    path = setting_path(item)
    inside = path[:2] == ("android", "productFlavors") and len(path) > 3
    asked = inside and any(token.kind == "string" or token.text in ("name", "it") for token in item.value)
    return module.environment.named(path[2]) if asked else module.environment


def joined(parts: list[Value]) -> Value:
    """Join a value and its suffixes; the place is the first one's."""
    pieces: tuple[Piece, ...] = tuple(piece for part in parts for piece in part.pieces)
    return Value(pieces, parts[0].place)


def field_arguments(item: Setting, call: str) -> list[tuple[Token, ...]]:
    """Return kind, name and value that a call is given, by place or by name; nothing where it is another one."""
    if setting_path(item)[-1] != call:
        return []
    named: dict[str, tuple[Token, ...]] = {}
    parts = items_of(item.value)
    parts = [part for part in parts if part]
    for at, part in enumerate(parts):
        label = part[0].text if len(part) > 2 and part[0].kind == "name" and part[1].text in ("=", ":") else ""
        named[label or _FIELD[at % len(_FIELD)]] = part[2:] if label else part
    return [named[name] for name in _FIELD] if set(named) == set(_FIELD) else []


# The parameters of ``resValue`` and ``buildConfigField`` (Android Gradle plugin API, ``VariantDimension``).
_FIELD = ("type", "name", "value")


def _filling(module: Module, flavors: tuple[str, ...]) -> Iterator[Setting]:
    """Yield the settings of placeholders, the strongest first: the release type's, a flavor's, the default's."""
    for scope in (("buildTypes", RELEASE), *(("productFlavors", name) for name in flavors), ("defaultConfig",)):
        items = [
            item for item in module.settings(*scope) if "anifestPlaceholders" in "".join(setting_path(item)[-2:])
        ]
        yield from reversed(items)  # what is said last counts


def placeholder(module: Module, key: str, flavors: tuple[str, ...]) -> tuple[Token, ...] | None:
    """Return the expression that a script fills the manifest placeholder *key* with, where it stands by itself."""
    for item in _filling(module, flavors):
        found = item.value if setting_path(item)[-2:] == ("manifestPlaceholders", key) else mapped(item.value, key)
        if found:
            return found
    return None


def _is_whole(item: Setting) -> bool:
    """Tell a map of placeholders, however it is made, from a single one and from a call's named arguments."""
    if len(item.value) > 1 and item.value[1].text == ":":
        return False
    return "anifestPlaceholders" in setting_path(item)[-1] or setting_path(item)[-1] == "putAll"


def filled(module: Module, key: str, flavors: tuple[str, ...]) -> Value | None:
    """Return what a script fills a placeholder with, None where none does. Raises Unknown where nobody can tell."""
    for item in _filling(module, flavors):
        here = around(module, item)
        own = setting_path(item)[-2:] == ("manifestPlaceholders", key)
        found = item.value if own else mapped(item.value, key)
        value = here.value(found) if found else here.entry(item.value, key) if _is_whole(item) else None
        if value is not None and item.conditional:
            raise Unknown("it is set under a condition")
        if value is not None:
            return value
    return None


def manifest_value(module: Module, manifest: Manifest, attribute: Attribute, flavors: tuple[str, ...]) -> Value:
    """Return what a manifest's attribute refers to; a placeholder is followed to the script that fills it."""
    text = attribute.value
    if text.startswith("${") and text.endswith("}"):
        with suppress(Unknown):
            found = filled(module, text[2:-1], flavors)
            if found is not None:
                return found
    return manifest.value(attribute)
