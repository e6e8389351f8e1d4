"""The kind "expo": ``app.json`` and ``app.config``, with native halves kept or generated.

Source of the keys: Expo documentation, "Configure with app config" and its reference (app.json / app.config.js).
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence

from onomaxis.errors import InputError
from onomaxis.formats.json_members import new_members
from onomaxis.formats.jsonc import JsonDocument
from onomaxis.formats.script import ScriptObject
from onomaxis.model import Edit, Facet, IconHome, Note, Opening, Role, Scope
from onomaxis.platforms import PLATFORMS
from onomaxis.projects.dangling import Broken, Sort
from onomaxis.projects.draft import Draft
from onomaxis.projects.drawn import DrawnIcon
from onomaxis.projects.edits import span_edit
from onomaxis.projects.frameworks.declared import expo_facts, json_list
from onomaxis.projects.frameworks.expo_icons import icon_home, name_icons, picture_keys
from onomaxis.projects.frameworks.files import ID_OF, Files, value_edit
from onomaxis.projects.frameworks.hybrid import HybridKind
from onomaxis.projects.frameworks.npm import has_dependency, npm_name, npm_rename, packages
from onomaxis.projects.frameworks.react_native import component_names
from onomaxis.projects.frameworks.variants import USUAL, asked
from onomaxis.projects.frameworks.written_variants import (
    NAMED_FILE,
    add_variant,
    alike,
    branches,
    main_variant,
    own_value,
    says,
    turned,
)
from onomaxis.projects.launch import Launch, LaunchPicture, LaunchWish
from onomaxis.projects.neighbours.called import Called
from onomaxis.projects.project import EVERY, AppFacts, Flavor, Project, place
from onomaxis.projects.run_lists import first_profile
from onomaxis.projects.services import GOOGLE_ANDROID, GOOGLE_IOS
from onomaxis.tree import Tree, inside, join
from onomaxis.wishes import Renaming, Wish

_STATIC = ("app.json", "app.config.json")
_DYNAMIC = ("app.config.ts", "app.config.js", "app.config.cjs", "app.config.mjs")
# Key path, facet, platform; what is said for one platform stands before what is said for all.
_KEYS: tuple[tuple[tuple[str, ...], Facet, str], ...] = (
    (("ios", "bundleIdentifier"), Facet.BUNDLE_ID, "ios"),
    (("android", "package"), Facet.APPLICATION_ID, "android"),
    (("ios", "version"), Facet.VERSION_NAME, "ios"),
    (("android", "version"), Facet.VERSION_NAME, "android"),
    (("ios", "buildNumber"), Facet.VERSION_CODE, "ios"),
    (("android", "versionCode"), Facet.VERSION_CODE, "android"),
    (("name",), Facet.DISPLAY_NAME, EVERY),
    (("version",), Facet.VERSION_NAME, EVERY),
)
# What a missing value is written as: bare for a number.
_BARE = {("android", "versionCode")}
_WEB_NAMES = (("web", "name"), ("web", "shortName"))
# Where the texts of one language hold the app's name (Expo documentation, "Localization": app name).
_LOCAL_NAMES = (
    (("CFBundleDisplayName",), "ios"),
    (("ios", "CFBundleDisplayName"), "ios"),
    (("android", "app_name"), "android"),
)
# Keys of the configuration that name a file of the project.
_FILE_KEYS = frozenset(
    {"icon", "image", "favicon", "foregroundImage", "backgroundImage", "monochromeImage", "googleServicesFile"}
    | {"light", "dark", "tinted"}
)
_LAUNCH: tuple[tuple[str, ...], ...] = (
    ("expo", "splash"),
    ("expo", "android", "splash"),
    ("expo", "ios", "splash"),
    ("splash",),
)


class ExpoKind(HybridKind):
    """Reads Expo projects, managed or with native halves."""

    name = "expo"
    manifests = (("package.json", rb'"expo"\s*:'),)
    copies = ("android/app/build.gradle", "android/app/src/main/res/values/strings.xml")
    again = "let the framework's tools make the native projects again"
    scripts = _DYNAMIC

    def roots(self, tree: Tree) -> Iterable[str]:
        """Return the folders whose package depends on the framework and that have an app configuration."""
        for folder, document in packages(tree):
            configured = any(join(folder, name) in tree.known for name in (*_STATIC, *_DYNAMIC))
            if configured and has_dependency(document, "expo"):
                yield folder

    def read(self, files: Files) -> None:
        """Read the static configuration and the dynamic one, which wins; offer the keys that are missing."""
        for name in _DYNAMIC:
            read = [(facet, platform, branches(files, name, facet, path)) for path, facet, platform in _KEYS]
            main = next(
                (said for facet, _, found in read if facet in ID_OF.values() and (said := main_variant(found))), ""
            )
            for facet, platform, found in read:
                main = "" if main and files.made(name).default else main  # the script says which one it is
                for condition, value in sorted(turned(found, main), key=lambda item: bool(item[0])):
                    files.own(facet, value, platform, flavor=condition)
            self._localized_by_script(files, name)
            self._offer_dynamic(files, name)
        for name in _STATIC:
            start = _top(files, name)
            for path, facet, platform in _KEYS:
                role = Role.FOLLOWER if _is_lost(files, path) else Role.OWNER
                files.own(facet, files.json_value(name, *start, *path), platform, role)
            for path in _WEB_NAMES:
                files.follow(Facet.DISPLAY_NAME, files.json_value(name, *start, *path))
            self._localized(files, name, start)
            for path, facet, platform in _KEYS if not any(files.data(other) for other in _DYNAMIC) else ():
                if path[1:] != ("version",):
                    files.offer(name, (*start, *path), facet, platform, path in _BARE)

        for facet, key in ((Facet.VERSION_NAME, "version"), (Facet.DISPLAY_NAME, "name")):
            default = files.json_value("package.json", key)  # for what the configuration lacks
            if default is not None:
                for platform in PLATFORMS:
                    files.derive(facet, default.text, default.place, platform)
        static = _static(files)
        top = _top(files, static)
        home = icon_home(files, static, top, _DYNAMIC)
        files.icons += [home] if home is not None else []
        for path, platform in ((("ios", "icon"), "ios"), (("android", "icon"), "android"), (("icon",), EVERY)):
            files.own(Facet.ICON, files.json_value(static, *top, *path), platform)
        for keys, platform in picture_keys():
            files.own(Facet.ICON, files.json_value(static, *top, *keys), platform, Role.FOLLOWER)

    def _localized(self, files: Files, name: str, start: tuple[str, ...]) -> None:
        """Read the names in other languages, from the files that ``locales`` names or from its own objects."""
        document = files.json(name)
        listed = document.top.get(*start, "locales") if document is not None else None
        for language, node in listed.members if listed is not None else ():
            if node.kind == "object":
                self._language(files, name, (*start, "locales", language), language)
            else:
                self._language(files, str(node.value), (), language)

    def _localized_by_script(self, files: Files, name: str) -> None:
        file = files.script(name)
        holders = [*file.objects("locales"), *file.objects("expo", "locales")] if file is not None else []
        for member in (member for holder in holders for member in holder.members):
            if len(member.value) == 1 and member.value[0].kind == "string":
                self._language(files, member.value[0].text.strip("\"'`"), (), member.key)

    def _language(self, files: Files, name: str, start: tuple[str, ...], language: str) -> None:
        for path, platform in _LOCAL_NAMES if inside(name) else ():
            files.own(Facet.DISPLAY_NAME, files.json_value(name, *start, *path), platform, locale=language)

    def name_icons(self, project: Project, tree: Tree, home: IconHome, drawn: DrawnIcon) -> Draft:
        """Write the entries of pictures that the configuration does not name yet, and the ground of the layers."""
        files = Files(tree, project.folder)
        static = _static(files)
        return name_icons(files, static, _top(files, static), home, drawn)

    def _offer_dynamic(self, files: Files, name: str) -> None:
        file = files.script(name)
        for path, facet, platform in _KEYS:
            if file is None or len(path) != 2 or any(file.members(*path)) or any(file.members("expo", *path)):
                continue
            holders: list[ScriptObject] = [*file.objects(path[0]), *file.objects("expo", path[0])]
            if holders:
                at, before, after = file.opening(holders[0], path[1])
                syntax = "single"
                if path in _BARE:
                    before, after, syntax = before.removesuffix("'"), after.removeprefix("'"), "number"
                where = place(files.path(name), file.source, at, at, syntax)
                files.openings.append(Opening(facet, where, before, after, Scope(platform, files.folder), path[1]))

    def opens_first(self, project: Project, aim: Wish) -> Iterable[tuple[Facet, str]]:
        """Let an ID open the platform's object where a build number goes there too."""
        if aim.id and aim.build and project.platform in ID_OF:
            yield ID_OF[project.platform], aim.id

    def follow(self, project: Project, tree: Tree, renamings: Sequence[Renaming], aim: Wish) -> Draft:
        """Give the app its name in languages that it has none in yet: a file for each, which ``locales`` names."""
        draft, files = Draft(), Files(tree, project.folder)
        named: dict[tuple[str, ...], object] = {}
        for locale, text in aim.names:
            if not any(locale in dict(app.names) for app in project.apps):
                named |= _add_language(files, locale, text, draft)
        static = _static(files)
        document = files.json(static) if named else None
        if document is not None:
            draft.edits += _added(files, static, document, named, Facet.DISPLAY_NAME)
        return draft

    def launch(self, project: Project, tree: Tree, flavor: Flavor, wish: LaunchWish) -> Launch:
        """Set the splash entries of the configuration: colour, and the picture that it names."""
        files, found = Files(tree, project.folder), Launch()
        static = _static(files)
        document = files.json(static) if static else None
        if document is None:
            return super().launch(project, tree, flavor, wish)
        nodes = [node for keys in _LAUNCH if (node := document.top.get(*keys)) is not None]
        plugins = document.top.get(*_top(files, static), "plugins")
        for item in plugins.items if plugins is not None else ():
            if item.kind == "array" and len(item.items) == 2 and item.items[0].value == "expo-splash-screen":
                nodes.append(item.items[1])
        for node in nodes:
            ground, image = node.get("backgroundColor"), node.get("image")
            value = files.string_at(static, document, ground) if ground is not None else None
            if value is not None and wish.background and value.text.upper() != wish.background.upper():
                found.draft.edits.append(value_edit(tree, value, wish.background))
            target = join(project.folder, str(image.value)) if image is not None else ""
            if target and tree.exists(target):
                found.pictures.append(LaunchPicture(target, target))
        keys = (*_top(files, static), "splash")
        wanted = {} if nodes else _splash(files, keys, wish, found)
        found.draft.edits += _added(files, static, document, wanted)
        if not nodes and any(files.data(name) for name in _DYNAMIC):
            said = "a script completes the configuration: see to it that it keeps splash"
            found.draft.notes.append(Note(files.path(static), said))
        return found

    def has_variants(self, project: Project, tree: Tree) -> bool:
        """Tell whether a script makes the configuration: a static one knows no variants."""
        files = Files(tree, project.folder)
        return not project.umbrella and any(files.script(name) is not None for name in _DYNAMIC)

    def written_variant(self, files: Files, siblings: Sequence[Called], new: Called) -> Draft:
        """Write a variant in the scripts as its siblings are: those that the same variable asks for."""
        keys = [(path, facet) for path, facet, _ in _KEYS]
        if siblings:
            return add_variant(files, _DYNAMIC, alike(files, _DYNAMIC, keys, siblings), new)
        native = any(next(files.tree.below(files.path(half)), None) for half in ("android", "ios"))
        usual = all(asked(file, ()) == USUAL for name in _DYNAMIC if (file := files.script(name)) is not None)
        variable = USUAL.rpartition(".")[2]
        return first_profile(files.tree, files.folder, variable, new.name) if usual and not native else Draft()

    def own_facet(self, project: Project, tree: Tree, flavor: Flavor, facet: Facet, text: str) -> Draft:
        """Let the script say a value of its own for a variant."""
        keys = [path for path, known, platform in _KEYS if known is facet and platform in (EVERY, project.platform)]
        files = Files(tree, project.folder)
        self.read(files)
        untold = next((item for item in files.faults if item.facet is facet), None)
        if untold is not None:
            said = (
                f"what the app itself has there could not be determined, so {flavor.name} gets none: {untold.reason}"
            )
            return Draft(refusals=[Note(f"{untold.file}:{untold.line}", said)])
        draft = own_value(files, _DYNAMIC, keys, facet, text, flavor.name)
        return draft or super().own_facet(project, tree, flavor, facet, text)

    def facts(self, project: Project, tree: Tree, flavor: Flavor) -> AppFacts:
        """Return what the static configuration declares."""
        files = Files(tree, project.folder)
        static = _static(files)
        return expo_facts(files, static, _top(files, static), project.platform) if static else AppFacts()

    def broken(self, project: Project, tree: Tree) -> Iterator[Broken]:
        """Look for the files that the static configuration names."""
        files = Files(tree, project.folder)
        static = _static(files)
        document = files.json(static) if static and project.platform == "android" else None
        if document is None:
            return
        for key, fact in json_list(files, static, document, document.top):
            named = NAMED_FILE.fullmatch(fact.text)
            path = join(project.folder, fact.text)
            asked = key.rpartition("/")[2] in _FILE_KEYS or "/locales/" in f"/{key}"
            held = path and fact.text.endswith(".icon") and tree.exists(join(path, "icon.json"))  # a folder of layers
            if named and asked and path and not held and not tree.exists(path):
                said = f"{key.replace('/', '.')} is {fact.text}, and {tree.lacking(path)}"
                yield Broken(Sort.FILE, said, fact.file, fact.line)

    def service_home(self, project: Project, tree: Tree, platform: str) -> tuple[str, Draft] | None:
        """Return the file that the configuration names, or the usual one with the entry that names it."""
        files, draft = Files(tree, project.folder), Draft()
        name = GOOGLE_ANDROID if platform == "android" else GOOGLE_IOS
        static = _static(files)
        document = files.json(static) if static else None
        if document is None or any(files.data(other) for other in _DYNAMIC):
            said = f"the configuration is a script: let {platform}.googleServicesFile be ./{name}"
            draft.notes.append(Note(files.path(name), said))
            return files.path(name), draft
        keys = (*_top(files, static), platform, "googleServicesFile")
        stated = files.json_value(static, *keys)
        if stated is not None:
            path = files.path(stated.text)
            if not path or not inside(path):
                said = f"googleServicesFile leads out of the project: {stated.text}"
                raise InputError(said, file=stated.place.file, line=stated.place.line, remedy="Name a file in it.")
            return path, draft
        draft.edits += _added(files, static, document, {keys: f"./{name}"})
        return files.path(name), draft

    def technical(self, files: Files, name: str, draft: Draft) -> None:
        """Change slug, npm package and, with native halves, the component; name what is registered elsewhere."""
        for config in _STATIC:
            start = _top(files, config)
            slug = files.json_value(config, *start, "slug")
            if slug is not None and slug.text != npm_name(name, "a"):
                draft.edits.append(value_edit(files.tree, slug, npm_name(name, "a")))
                project = files.json_value(config, *start, "extra", "eas", "projectId")
                if project is not None:
                    said = "the slug is registered with this project: rename it there too"
                    draft.notes.append(Note(project.place.at, said))
        for value in component_names(files):
            named = value.place.file != files.path("app.json")
            if named and value.text not in ("main", name):
                draft.edits.append(value_edit(files.tree, value, re.sub(r"\W+", "", name, flags=re.ASCII) or name))
        npm_rename(files, name, draft)


# What a launch picture that the configuration names anew is called, and its edge in pixels (Expo documentation,
# "Splash screen and app icon": 1024 x 1024).
_LAUNCH_PICTURE, _LAUNCH_EDGE = "assets/launch-logo.png", 1024


def _splash(files: Files, keys: tuple[str, ...], wish: LaunchWish, found: Launch) -> dict[tuple[str, ...], object]:
    """Return the splash entries of a configuration that has none yet."""
    wanted: dict[tuple[str, ...], object] = {}
    if wish.logo and files.data(_LAUNCH_PICTURE) is None:
        wanted[(*keys, "image")] = f"./{_LAUNCH_PICTURE}"
        wanted[(*keys, "resizeMode")] = "contain"
        found.pictures.append(LaunchPicture("", files.path(_LAUNCH_PICTURE), size=_LAUNCH_EDGE))
    if wish.background:
        wanted[(*keys, "backgroundColor")] = wish.background
    return wanted


def _added(
    files: Files, name: str, document: JsonDocument, wanted: Mapping[tuple[str, ...], object], facet: str = ""
) -> Iterator[Edit]:
    """Yield what adds members to a JSON file of the project."""
    for first, last, text in new_members(document, wanted):
        yield span_edit(files.path(name), document.source, first, last, text, facet)


def _add_language(files: Files, locale: str, text: str, draft: Draft) -> dict[tuple[str, ...], object]:
    """Add a language's file; return what the configuration must name it by, where it does not yet."""
    name = f"locales/{locale}.json"
    static, keys = _static(files), {tuple(path): text for path, _ in _LOCAL_NAMES[1:]}
    document = files.json(static) if static else None
    listed = (*_top(files, static), "locales", locale)
    if document is None or any(files.data(other) for other in _DYNAMIC):
        said = f"the configuration is a script: let its locales name {name} for {locale}, and name it again here"
        draft.refusals.append(Note(files.folder or ".", said))
        return {}
    stated = files.json_value(static, *listed)
    path = stated.text if stated is not None else name
    texts = files.json(path) if files.data(path) is not None else None
    if texts is not None:
        draft.edits += _added(files, path, texts, dict(keys), Facet.DISPLAY_NAME)
    else:
        inner = {"ios": {"CFBundleDisplayName": text}, "android": {"app_name": text}}
        draft.created.append((files.path(path), (json.dumps(inner, indent=2, ensure_ascii=False) + "\n").encode()))
    return {listed: f"./{name}"} if stated is None else {}


def _is_lost(files: Files, path: tuple[str, ...]) -> bool:
    """Tell whether a script gives a configuration without what the static one says at a path of keys."""
    name = next((item for item in _DYNAMIC if files.script(item) is not None), "")
    return bool(name) and not says(files, name, path)


def _static(files: Files) -> str:
    """Return the static configuration's name, empty where there is none."""
    return next((name for name in _STATIC if files.json(name) is not None), "")


def _top(files: Files, name: str) -> tuple[str, ...]:
    document = files.json(name)
    return ("expo",) if document is not None and document.top.get("expo") is not None else ()
