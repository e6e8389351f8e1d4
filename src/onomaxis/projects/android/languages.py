"""A display name in a language that an Android app has none in: its strings, where the name is not a string yet too.

Source of the rules: developer.android.com, "Support different languages and cultures": only resources have them.
"""

from __future__ import annotations

from collections.abc import Iterator

from onomaxis.flavor_names import made_of
from onomaxis.formats.escapes import decode, encode
from onomaxis.formats.gradle_statements import literal_text
from onomaxis.model import Facet, Note, ShippedApp
from onomaxis.projects.android import variants
from onomaxis.projects.android.apps import ModuleReader
from onomaxis.projects.android.flavors import own_string
from onomaxis.projects.android.manifest import Manifest
from onomaxis.projects.android.names import PLACEHOLDER
from onomaxis.projects.android.resources import (
    added_string,
    new_strings_file,
    qualifier_of,
    reference,
    string_name_at,
)
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import place_edit
from onomaxis.projects.project import Project
from onomaxis.tree import Tree, join, parent
from onomaxis.wishes import Wish

_STRING = ("android-text", "android-cdata", "android-entity-double", "android-entity-single")


def wished(project: Project, aim: Wish) -> Iterator[tuple[ShippedApp, str, str]]:
    """Yield each app with a language and text that it is to be called in and has no name in yet."""
    for locale, text in aim.names:
        for app in project.apps:
            if aim.flavor in ("", app.flavor) and locale not in dict(app.names) and app.name is not None:
                yield app, locale, text


def as_resource(reader: ModuleReader, app: ShippedApp) -> Draft:
    """Return what moves a name that is written into manifest or script to a string resource, as it is today.

    Nothing where it is one already, or where the script makes one.
    """
    manifest, draft = reader.manifest("main"), Draft()
    attribute = manifest.label() if manifest is not None else None
    if manifest is None or attribute is None or app.name is None or reference(attribute.value):
        return draft
    main = reader.table(reader.module, "main")
    taken = [entry.value.text for entry in main.entries("app_name")]
    name = "app_name" if not taken or taken == [app.name.text] else "shown_name"
    if not main.entries(name):
        found = own_string(reader, "main", name, app.name.text)
        draft.edits += found.edits
        draft.created += found.created
    if PLACEHOLDER.fullmatch(attribute.value):
        _refer(reader, manifest, attribute.value[2:-1], name, draft)
    else:
        draft.edits.append(place_edit(reader.tree, manifest.place(attribute), f"@string/{name}", Facet.DISPLAY_NAME))
    at = manifest.place(attribute).at
    draft.notes.append(Note(at, f"the display name moved to the string resource {name}, which has languages"))
    return draft


def _refer(reader: ModuleReader, manifest: Manifest, key: str, name: str, draft: Draft) -> None:
    """Let the script fill a placeholder with the resource."""
    tokens = variants.placeholder(reader.module, key, ())
    spot = reader.module.environment.place(tokens) if tokens else None
    if not tokens or spot is None or not literal_text(tokens):
        draft.refusals.append(Note(manifest.path, f"the script computes {key}: it cannot be given in a language"))
        return
    quote = spot.written[:1]
    if quote in ("'", '"'):
        written = encode("double-dollar" if quote == '"' else "single", f"@string/{name}")
        draft.edits.append(place_edit(reader.tree, spot, f"{quote}{written}{quote}", Facet.DISPLAY_NAME, "raw"))
    else:
        draft.edits.append(place_edit(reader.tree, spot, decode("double", f"@string/{name}"), Facet.DISPLAY_NAME))


def localize(project: Project, reader: ModuleReader, tree: Tree, aim: Wish, draft: Draft) -> None:
    """Add the names that are wished to *draft*: in the language's strings file, or a new one.

    A flavor with a name of its own goes on being called so in the new language: the app's entry would hide it there.
    """
    main, label = join(reader.module.folder, "src/main/res"), _label(reader)
    apps = {id(app): app for app, _, _ in wished(project, aim) if app.module == reader.module.name}.values()
    shared = {app.name.text for app in apps if app.name and f"{app.name.place.file}/".startswith(f"{main}/")}
    for app, locale, wanted in wished(project, aim):
        if app.module != reader.module.name or app.name is None:
            continue
        spot, own = app.name.place, bool(app.flavor and not aim.flavor and shared and app.name.text not in shared)
        text = app.name.text if own else wanted
        if spot.syntax in _STRING:
            name, folder = string_name_at(tree.read(spot.file) or b"", spot.start), parent(parent(spot.file))
        elif label and own:
            name, folder = label, join(reader.module.folder, f"src/{_brand(project, app)}/res")
        elif label:
            name, folder = label, main
        else:
            said = f"the Android name is not a string resource, so it cannot be given in {locale}"
            draft.refusals.append(Note(spot.at, said))
            continue
        path = join(folder, f"values-{qualifier_of(locale)}/strings.xml")
        if any(item[0] == path for item in draft.created) or any(edit.file == path for edit in draft.edits):
            continue
        if own:
            draft.notes.append(Note(path, f"“{text}” stays its name in {locale} too: the app's would hide it there"))
        data = tree.read(path) if path in tree.known else None
        if data is not None:
            draft.edits.append(added_string(path, data, name, text))
        else:
            model = tree.read(spot.file) if spot.file.endswith(".xml") else None
            draft.created.append((path, new_strings_file(model or b"<resources/>\n", name, text)))


def _brand(project: Project, app: ShippedApp) -> str:
    """Return the flavor that gives an app its name: of those that make it up, the one that is called so by itself."""
    brands = {item.flavor: item for item in project.brands() if item.module == app.module and item.flavor}
    parts = made_of(app.flavor, brands)
    named = (
        part for part in sorted(parts) if (name := brands[part].name) and app.name and name.text == app.name.text
    )
    return next(named, app.flavor)


def _label(reader: ModuleReader) -> str:
    """Return the string resource that the manifest's label refers to; empty where it refers to none."""
    manifest = reader.manifest("main")
    attribute = manifest.label() if manifest is not None else None
    return reference(attribute.value) if attribute is not None else ""
