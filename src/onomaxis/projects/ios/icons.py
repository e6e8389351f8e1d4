"""Which icon set each target of an Xcode project shows, per configuration, and which one a flavor would get.

Source of the rules: Apple, "Build settings reference" (ASSETCATALOG_COMPILER_APPICON_NAME) and the asset catalog
format reference ("App icon type").
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import TYPE_CHECKING

from onomaxis.errors import FormatError
from onomaxis.flavor_names import Singles, combined, each_once, flavor_word, in_order, same_flavor, singles
from onomaxis.formats.openstep import opening
from onomaxis.model import Facet, IconHome, Opening, Scope, Value
from onomaxis.projects.project import place
from onomaxis.tree import parent

if TYPE_CHECKING:
    from onomaxis.projects.ios.targets import Identity, TargetReader

_SETTING = "ASSETCATALOG_COMPILER_APPICON_NAME"
_FLAT = "appiconset"
# Icons of other forms: layered ones of TV and of the headset, stickers, and the icon document of newer Xcode.
_OTHER_FORMS = ("brandassets", "solidimagestack", "stickersiconset", "icon")
_OTHER_PLATFORMS = {"tvos": "brandassets", "visionos": "solidimagestack"}


def icon_homes(reader: TargetReader, identities: Sequence[Identity]) -> Iterator[IconHome]:
    """Yield the icon sets of one target: those of its plain configurations, then one for each flavor.

    Where every configuration belongs to a flavor, a set that several flavors name is the app's own; one that several
    combinations name is that of the flavor that these, and they alone, have in common.
    """
    plain = [item for item in identities if not item.configuration.flavor]
    every = singles(item.configuration.flavor for item in identities)
    common = _in_common(identities, every)
    plain = plain or [item for item in identities if item.icon is not None and common.get(item.icon.text) == ""]
    mains = [home for item in plain if (home := icon_home(reader, item))]
    yield from {home.folder: home for home in mains}.values()
    yield from _of_several(reader, identities, {name: flavor for name, flavor in common.items() if flavor})
    release = next((home for home in mains if home.name == _release_icon(plain)), None)
    pattern = release or next((home for item in identities if (home := icon_home(reader, item))), None)
    if pattern is None or (mains and release is None):
        return
    shared = {*(home.name for home in mains), *(name for name, flavor in common.items() if flavor)}
    own = {home.name for home in mains}
    by_flavor: dict[str, list[Identity]] = {}
    for item in identities:
        name = item.configuration.flavor
        parts = every.parts(name) if item.icon is None or item.icon.text in own else frozenset[str]()
        for flavor in filter(None, each_once((*parts, name))):
            by_flavor.setdefault(flavor, []).append(item)
    for flavor, mine in by_flavor.items():
        shown = icon_home(reader, mine[0]) if mine[0].icon and common.get(mine[0].icon.text) else None
        if shown is not None:
            shown = shown._replace(name=flavor_word(common[shown.name]).sub("", shown.name).rstrip("-_. "))
        yield from _of_flavor(reader, shown or pattern, shared, flavor, mine)


def _of_several(
    reader: TargetReader, identities: Sequence[Identity], common: Mapping[str, str]
) -> Iterator[IconHome]:
    """Yield the sets that combinations of one flavor share."""
    found: dict[str, IconHome] = {}
    for item in identities:
        flavor = common.get(item.icon.text, "") if item.icon is not None else ""
        home = icon_home(reader, item) if flavor else None
        archived = item.target.release_of(item.configuration.flavor)
        if home is not None and (home.folder not in found or item.configuration == archived):
            found[home.folder] = home._replace(flavor=flavor)
    yield from found.values()


def _in_common(identities: Sequence[Identity], every: Singles) -> dict[str, str]:
    """Return the flavor whose icon set each is that several flavors or combinations name; none: the app's own.

    A set that is called after one of several flavors is not one that they have in common.
    """
    naming: dict[str, list[str]] = {}
    for item in identities:
        if item.icon is not None:
            naming.setdefault(item.icon.text, []).append(item.configuration.flavor)
    found: dict[str, str] = {}
    for name, flavors in naming.items():
        known = each_once(flavors)
        shared = frozenset.intersection(*(every.parts(flavor) for flavor in known or ("",)))
        if len(known) > 1 and shared:
            found[name] = combined(part for part in in_order(known[0], every) if part in shared)
        elif len(known) > 1 and not any(flavor_word(flavor).search(name) for flavor in known):
            found[name] = ""
    return found


def _release_icon(identities: Sequence[Identity]) -> str:
    """Return the icon of the configuration that archives."""
    if not identities:
        return ""
    release = identities[0].target.release()
    name = release.name if release else ""
    chosen = next((item for item in identities if item.configuration.name == name), identities[0])
    return chosen.icon.text if chosen.icon else ""


def _of_flavor(
    reader: TargetReader, main: IconHome, shared: set[str], flavor: str, identities: Sequence[Identity]
) -> Iterator[IconHome]:
    """Yield the sets that a flavor's configurations name alone; else the one it would get, and who must name it."""
    own = [item for item in identities if item.icon and item.icon.text not in shared]
    homes = {home.folder: home for item in own if (home := icon_home(reader, item))}
    references = tuple(_references(reader, flavor, [item for item in identities if item not in own]))
    if homes:
        yield from (home._replace(flavor=flavor) for home in homes.values())
    elif references and main.style == "asset-catalog":
        name = f"{main.name}-{flavor}"
        folder = f"{parent(main.folder)}/{name}.{_FLAT}"
        yield main._replace(flavor=flavor, folder=folder, name=name, references=references)


def _references(reader: TargetReader, flavor: str, identities: Sequence[Identity]) -> Iterator[Value | Opening]:
    """Yield what must name a flavor's icon: its own setting where it has one, else a new one in its configuration."""
    for item in identities:
        owner = item.icon and reader.owners.get((Facet.ICON, item.icon.origin.file, item.icon.origin.start))
        if item.icon and owner and same_flavor(owner.scope.flavor, item.configuration.flavor):
            yield item.icon
            continue
        document, settings = reader.project.document, item.configuration.settings
        try:
            at, before, after = opening(document, settings, _SETTING)
        except FormatError:  # a configuration without any setting: nothing shows how one would be written
            continue
        spot = place(reader.project.path, document.source, at, at, "openstep")
        scope = Scope("ios", item.target.name, flavor, item.configuration.name)
        yield Opening(Facet.ICON, spot, before, after, scope, _SETTING)


def icon_home(reader: TargetReader, identity: Identity) -> IconHome | None:
    """Return the icon set that a target names in a configuration, whether it exists yet or not."""
    if identity.icon is None or not identity.icon.text:
        return None
    project, tree, name = reader.project, reader.tree, identity.icon.text
    below = list(tree.below(project.folder))
    catalogs = sorted({path.partition(".xcassets/")[0] for path in below if ".xcassets/" in path})
    mark = f"/{identity.target.name}/"

    def nearest(form: str) -> str:
        wanted = f"/{name}.{form}/"
        found = {path[: f"/{path}".index(wanted) + len(wanted) - 2] for path in below if wanted in f"/{path}"}
        near = [folder for folder in found if mark in f"/{folder}"] or sorted(found)
        return min(near, key=lambda folder: (folder.count("/"), folder)) if near else ""

    families = reader.table(identity.target, identity.configuration).text("TARGETED_DEVICE_FAMILY", "")
    home = IconHome(
        "asset-catalog",
        identity.platform,
        identity.target.name,
        "",
        nearest(_FLAT),
        name,
        identity.icon.place,
        families=tuple(part.strip() for part in families.split(",") if part.strip()),
    )
    forms = dict.fromkeys((_OTHER_PLATFORMS.get(identity.platform, "icon"), *_OTHER_FORMS))
    other = next((folder for form in forms if (folder := nearest(form))), "")
    if other and (not home.folder or other.endswith(".icon")):
        return home._replace(style="foreign", folder=other)
    if identity.platform in _OTHER_PLATFORMS and not home.folder:
        return None
    if not home.folder and catalogs:
        own = [path for path in catalogs if mark in f"/{path}"] or catalogs
        return home._replace(folder=f"{own[0]}.xcassets/{name}.{_FLAT}")
    return home if home.folder else None
