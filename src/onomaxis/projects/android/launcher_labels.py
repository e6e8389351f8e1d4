"""The labels that launcher entries have of their own: a device shows them below the icon, not the application's.

Source: developer.android.com, "<activity>", android:label.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from typing import NamedTuple

from onomaxis.flavor_names import same_flavor
from onomaxis.formats.xml import Attribute
from onomaxis.model import Facet, Note, Value
from onomaxis.platforms import ANDROID_NS
from onomaxis.projects.android.apps import ModuleReader
from onomaxis.projects.android.flavors import own_placeholder, own_string
from onomaxis.projects.android.manifest import Manifest
from onomaxis.projects.android.names import PLACEHOLDER
from onomaxis.projects.android.resources import locale_of, qualifier_of, reference
from onomaxis.projects.android.variants import Variant, flavor_names
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import place_edit
from onomaxis.projects.project import Flavor

# What a label that was written out becomes, where a flavor needs one of its own.
_MOVED = "launcher_name"


class Entry(NamedTuple):
    """A launcher entry's own label in a manifest; ``only`` where the app has no other entry."""

    manifest: Manifest
    label: Attribute
    only: bool


def launcher_labels(reader: ModuleReader, flavor: Flavor, old: str, text: str) -> Draft:
    """Give a flavor's launcher entries the name *text* where they show *old*, or are the only ones of the app.

    What refers to the application's own label follows by itself. Nothing of other flavors changes.
    """
    name = next((item for item in flavor_names(reader.module) if same_flavor(item, flavor.name)), flavor.name)
    variant, draft = Variant((name,)), Draft()
    called = reader.display(variant)
    for entry in _entries(reader, variant):
        value, names = reader.label(entry.manifest, entry.label, variant)
        if value is None or (called.name is not None and value.origin == called.name.origin):
            continue
        shown = dict(names).get(flavor.locale, value)
        if shown.text == text or not (entry.only or shown.text == old):
            continue
        if not flavor.locale and _is_own(reader, entry, value):
            draft.edits.append(place_edit(reader.tree, value.place, text, Facet.DISPLAY_NAME))
        else:
            draft.join(_written(reader, entry, Flavor(flavor.module, name, flavor.locale), text))
    return draft


def _entries(reader: ModuleReader, variant: Variant) -> Iterator[Entry]:
    """Yield the labels of a variant's launcher entries, that of the winning source set for each."""
    found: dict[str, tuple[Manifest, Attribute]] = {}
    components: set[str] = set()
    for source_set in variant.source_sets():
        manifest = reader.manifest(source_set)
        if manifest is None:
            continue
        components |= {activity.value("name", ANDROID_NS) for activity, _ in manifest.launchers()}
        for component, label in manifest.launcher_labels():
            found.setdefault(component, (manifest, label))
    yield from (Entry(manifest, label, len(components) == 1) for manifest, label in found.values())


def _is_own(reader: ModuleReader, entry: Entry, value: Value) -> bool:
    """Tell whether a label stands in one place, which no other flavor takes its own from."""

    def takers() -> Counter[tuple[str, int]]:
        variants = [Variant(()), *(Variant((name,)) for name in flavor_names(reader.module))]
        labels = (reader.label(entry.manifest, entry.label, variant)[0] for variant in variants)
        return Counter((label.place.file, label.place.start) for label in labels if label is not None)

    key = ("launcher labels", reader.module.folder, entry.manifest.path, entry.label.start)
    counted = reader.tree.kept(key, takers)  # asked for each flavor of many
    return len(value.pieces) == 1 and counted[value.place.file, value.place.start] == 1


def _written(reader: ModuleReader, entry: Entry, flavor: Flavor, text: str) -> Draft:
    """Return what writes a label for one flavor alone, by the means that the manifest has."""
    manifest, label = entry.manifest, entry.label
    filled = PLACEHOLDER.fullmatch(label.value)
    if filled is not None and not flavor.locale:
        return own_placeholder(reader, flavor.name, filled[1], text)
    name = reference(label.value)
    if name:
        return _string(reader, flavor, name, text)
    if flavor.locale or PLACEHOLDER.search(label.value):
        spot = manifest.place(label)
        said = f"the launcher's label of {flavor.name} stays: “{label.value}” is not a string resource"
        return Draft(notes=[Note(spot.at, said)])
    draft = _string(reader, flavor, _MOVED, text)
    present = manifest.shown(label).text
    if not reader.table(reader.module, "main").entries(_MOVED):
        draft.join(own_string(reader, "main", _MOVED, present))
    spot = manifest.place(label)
    draft.edits.append(place_edit(reader.tree, spot, f"@string/{_MOVED}", Facet.DISPLAY_NAME))
    draft.notes.append(Note(spot.at, f"the launcher's label moved to the string resource {_MOVED}"))
    return draft


def _string(reader: ModuleReader, flavor: Flavor, name: str, text: str) -> Draft:
    """Write a string of the flavor's own: in a language anew where it has one."""
    for entry in reader.table(reader.module, flavor.name).entries(name):
        if entry.editable and (locale_of(entry.qualifier) if entry.qualifier else "") == flavor.locale:
            return Draft(edits=[place_edit(reader.tree, entry.value.place, text, Facet.DISPLAY_NAME)])
    return own_string(reader, flavor.name, name, text, qualifier_of(flavor.locale) if flavor.locale else "")
