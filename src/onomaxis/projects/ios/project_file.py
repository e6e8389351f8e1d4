"""The object graph of an Xcode project file: targets, configurations, products, file paths."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import NamedTuple

from onomaxis import late
from onomaxis.errors import FormatError
from onomaxis.flavor_names import words_of
from onomaxis.formats.openstep import Dict, OpenStepDocument, parse_openstep
from onomaxis.platforms import STAGES
from onomaxis.projects.services import GOOGLE_IOS
from onomaxis.tree import join, parent

# Product type to what people call the product (Xcode, target templates).
PRODUCT_KINDS = {
    "com.apple.product-type.application": "app",
    "com.apple.product-type.application.on-demand-install-capable": "clip",
    "com.apple.product-type.application.messages": "app",
    "com.apple.product-type.application.watchapp": "watch app",
    "com.apple.product-type.application.watchapp2": "watch app",
    "com.apple.product-type.application.watchapp2-container": "watch container",
    "com.apple.product-type.app-extension": "extension",
    "com.apple.product-type.app-extension.messages": "extension",
    "com.apple.product-type.app-extension.messages-sticker-pack": "extension",
    "com.apple.product-type.app-extension.intents-service": "extension",
    "com.apple.product-type.extensionkit-extension": "extension",
    "com.apple.product-type.tv-app-extension": "extension",
    "com.apple.product-type.watchkit-extension": "watch extension",
    "com.apple.product-type.watchkit2-extension": "watch extension",
    "com.apple.product-type.bundle.unit-test": "unit tests",
    "com.apple.product-type.bundle.ui-testing": "UI tests",
    "com.apple.product-type.framework": "framework",
    "com.apple.product-type.library.static": "library",
    "com.apple.product-type.bundle": "bundle",
}


# What configurations are called that say how a build is made, not for whom.
_BUILD_TYPE = r"(?:debug|release|profile|ad[-_ ]?hoc|app[-_ ]?store|distribution)"
# Further stages of a build, beside which the plain types decide: ``Staging-Release`` is a flavor's release.
_STAGE = rf"(?:{'|'.join(STAGES)})"
_PATTERNS = (
    late.compile(rf"(?i:{_STAGE})[-_. ]?(?i:{_BUILD_TYPE})[-_. (]+(?P<flavor>.+?)\)?\Z"),
    late.compile(rf"(?i:{_BUILD_TYPE})(?:[-_. (]+|(?=[A-Z0-9]))(?P<flavor>.+?)\)?\Z"),
    late.compile(rf"(?P<flavor>.+?)(?:[-_. (]+(?i:{_BUILD_TYPE})\)?|(?<=[a-z0-9])(?-i:Debug|Release|Profile))\Z"),
    late.compile(rf"(?i:{_STAGE})[-_. (]+(?P<flavor>.+?)\)?\Z"),
    late.compile(rf"(?P<flavor>.+?)[-_. (]+(?i:{_STAGE})\)?\Z"),
)


# Longer ones are no names that people gave.
_LONGEST_NAME = 120


@lru_cache(maxsize=4096)
def flavor_of(configuration: str) -> str:
    """Return the flavor in a configuration's name: ``Release-alderbank`` and ``Alderbank Debug`` name one."""
    if len(configuration) > _LONGEST_NAME:
        return ""
    found = next((match for pattern in _PATTERNS if (match := pattern.match(configuration))), None)
    return found["flavor"] if found else ""


def stage_of(configuration: str) -> str:
    """Return the stage that a name speaks of beside the flavor: ``staging`` of ``Staging-alderbank``."""
    rest = configuration.replace(flavor_of(configuration), " ", 1)
    return next((word for part in words_of(rest) if (word := part.casefold()) in STAGES), "")


def flavors_named(names: Iterable[str]) -> dict[str, str]:
    """Return the flavor of each configuration of a project by its name.

    Where a flavor's configurations all speak of a stage, and of several, each stage is a combination of its own:
    ``Staging-alderbank`` beside ``Production-alderbank``, ``Alderbank Staging`` beside ``Alderbank Production``.
    """
    found = {name: flavor_of(name) for name in names}
    stages: dict[str, set[str]] = {}
    for name, flavor in found.items():
        stages.setdefault(flavor.casefold(), set()).add(stage_of(name))
    several = {flavor for flavor, spoken in stages.items() if flavor and len(spoken) > 1 and "" not in spoken}
    return {name: _untyped(name) if flavor.casefold() in several else flavor for name, flavor in found.items()}


def _untyped(configuration: str) -> str:
    """Return a configuration's name without what it says of the build's type."""
    return _TYPE.sub(lambda match: "-" if match[1] or match[2] else "", configuration).strip("-_. ()")


_TYPE = late.compile(
    rf"([-_. (]{{0,9}})(?:(?<![A-Za-z])(?i:{_BUILD_TYPE})|(?<=[a-z])(?:Debug|Release|Profile))(?![a-z])([-_. )]*)"
)


class Configuration(NamedTuple):
    """One build configuration of a project or target; ``flavor`` is what it is of, a combination perhaps."""

    id: str
    name: str
    settings: Dict
    base: str
    flavor: str = ""

    def is_of(self, flavor: str) -> bool:
        """Tell whether it is a flavor's, in whatever case; be it as one stage of it, or as a stage by itself."""
        return flavor.casefold() in self.flavors

    @property
    def flavors(self) -> set[str]:
        """What it may be asked for as, in small letters."""
        return {
            self.flavor.casefold(),
            flavor_of(self.name).casefold(),
            *([] if self.flavor else [self.name.casefold()]),
        }


@dataclass(frozen=True, eq=False)
class Target:
    """One native target."""

    id: str
    name: str
    kind: str
    product: str
    configurations: tuple[Configuration, ...]
    default: str
    embeds: tuple[str, ...]
    depends: tuple[str, ...]
    node: Dict
    archived: tuple[str, ...] = ()

    def release(self) -> Configuration | None:
        """Return the configuration that archives.

        That is ``Release``, else what a shared scheme archives with, else the list's default, else the first that a
        release is spoken of in, else the last.
        """
        names = {item.name: item for item in self.configurations}
        spoken = [item for item in self.configurations if "release" in item.name.lower()]
        last = next(iter(spoken), self.configurations[-1] if self.configurations else None)
        archived = next((names[name] for name in self.archived if name in names), None)
        return names.get("Release") or archived or names.get(self.default) or last

    def flavors(self) -> tuple[str, ...]:
        """Return the flavors that the configurations' names speak of, in order."""
        return tuple(dict.fromkeys(item.flavor for item in self.configurations if item.flavor))

    def of(self, flavor: str) -> Sequence[Configuration]:
        """Return the configurations of a flavor, in whatever case it is spelled."""
        return self._by_flavor.get(flavor.casefold(), ())

    @cached_property
    def _by_flavor(self) -> dict[str, list[Configuration]]:
        found: dict[str, list[Configuration]] = {}
        for item in self.configurations:
            for flavor in item.flavors:
                found.setdefault(flavor, []).append(item)
        return found

    def release_of(self, flavor: str) -> Configuration | None:
        """Return the configuration that archives a flavor."""
        mine = [item for item in self.of(flavor) if item.flavor == flavor] or list(self.of(flavor))
        return next((item for item in mine if "release" in item.name.lower()), mine[-1] if mine else None)


class XcodeProject:
    """One parsed ``project.pbxproj``. Raises FormatError when it is not a project file."""

    def __init__(self, path: str, data: bytes, archived: Mapping[str, tuple[str, ...]] | None = None) -> None:
        """*archived*: target identifier to the configurations that shared schemes archive it with."""
        self.path = path
        self.archived = archived or {}
        self.folder = parent(parent(path))
        self.name = parent(path).rpartition("/")[2].removesuffix(".xcodeproj")
        self.document: OpenStepDocument = parse_openstep(data)
        self.objects = {
            entry.key.value: entry.value
            for entry in self.document.top.dict("objects").entries
            if isinstance(entry.value, Dict)
        }
        self.root = self.objects.get(self.document.top.text("rootObject"))
        if self.root is None:
            raise FormatError("the project file has no root object", line=1)

    def object(self, key: str) -> Dict:
        """Return the object with identifier *key*, an empty one if there is none."""
        return self.objects.get(key) or Dict()

    def configurations(self, list_id: str) -> tuple[Configuration, ...]:
        """Return the build configurations of a configuration list."""
        found = []
        for key in self.object(list_id).texts("buildConfigurations"):
            node = self.object(key)
            base = node.text("baseConfigurationReference")
            path = (self.path_of(base) or "") if base else self._anchored(node)
            name = node.text("name")
            found.append(Configuration(key, name, node.dict("buildSettings"), path, self.flavor_named(name)))
        return tuple(found)

    def flavor_named(self, configuration: str) -> str:
        """Return the flavor of a configuration by its name."""
        found = self._flavors.get(configuration)
        return flavor_of(configuration) if found is None else found

    @cached_property
    def _flavors(self) -> dict[str, str]:
        nodes = (node for node in self.objects.values() if node.text("isa") == "XCBuildConfiguration")
        return flavors_named(node.text("name") for node in nodes)

    def _anchored(self, node: Dict) -> str:
        """Return the configuration file that a synchronized group names by anchor and relative path."""
        relative = node.text("baseConfigurationReferenceRelativePath")
        anchor = self.path_of(node.text("baseConfigurationReferenceAnchor")) if relative else None
        return join(anchor, relative) if anchor is not None else ""

    @cached_property
    def project_configurations(self) -> dict[str, Configuration]:
        """The configurations of the project itself, by name."""
        assert self.root is not None
        return {item.name: item for item in self.configurations(self.root.text("buildConfigurationList"))}

    @cached_property
    def targets(self) -> tuple[Target, ...]:
        """The native targets in the project's order."""
        assert self.root is not None
        return tuple(self._targets(self.root))

    def _targets(self, root: Dict) -> Iterator[Target]:
        products = {
            node.text("productReference"): key
            for key, node in self.objects.items()
            if node.text("isa") == "PBXNativeTarget"
        }
        for key in root.texts("targets"):
            node = self.object(key)
            if node.text("isa") != "PBXNativeTarget":
                continue
            configuration_list = node.text("buildConfigurationList")
            yield Target(
                key,
                node.text("name"),
                PRODUCT_KINDS.get(node.text("productType"), "product"),
                node.text("productName"),
                self.configurations(configuration_list),
                self.object(configuration_list).text("defaultConfigurationName"),
                tuple(self._embedded(node, products)),
                tuple(self.object(item).text("target") for item in node.texts("dependencies")),
                node,
                tuple(self.archived.get(key, ())),
            )

    def _embedded(self, target: Dict, products: dict[str, str]) -> Iterator[str]:
        """Yield the targets whose products a target copies into itself."""
        for phase in target.texts("buildPhases"):
            node = self.object(phase)
            if node.text("isa") != "PBXCopyFilesBuildPhase":
                continue
            for build_file in node.texts("files"):
                reference = self.object(build_file).text("fileRef")
                if reference in products:
                    yield products[reference]

    @cached_property
    def paths(self) -> dict[str, str]:
        """The path of every file and group, relative to the tree's root; left out where it lies outside."""
        keys = dict.fromkeys((*self._folders, *self.objects))
        return {key: path for key in keys if (path := self.path_of(key)) is not None}

    def path_of(self, key: str) -> str | None:
        """Return the path of one file or group, relative to the tree's root; None where it lies outside."""
        node, folder = self.object(key), self._folders.get(key)
        if folder is not None:
            return self._here(node, folder)
        path = node.text("path")  # a file that stands in no group, but says where it is
        return join(self.start, path) if path and node.text("sourceTree") == "SOURCE_ROOT" else None

    @cached_property
    def start(self) -> str:
        """The folder that paths of the project start from: ``SRCROOT``."""
        assert self.root is not None
        return join(self.folder, self.root.text("projectDirPath"))

    @cached_property
    def _folders(self) -> dict[str, str]:
        """The folder that every file and group is told from: that of the group around it."""
        assert self.root is not None
        found: dict[str, str] = {}
        pending: list[tuple[str, str]] = [(self.root.text("mainGroup"), self.start)]
        while pending:
            key, folder = pending.pop()
            if key in found:
                continue
            found[key] = folder
            node = self.object(key)
            if node.unread:  # only strings: no group
                continue
            here = self._here(node, folder)
            pending.extend((child, here) for child in node.texts("children") if here is not None)
        return found

    def _here(self, node: Dict, folder: str) -> str | None:
        base = {"<group>": folder, "SOURCE_ROOT": self.start}.get(node.text("sourceTree"))
        path = node.text("path")
        return base if base is None or not path else join(base, path)

    def localized(self, target: Target, name: str) -> list[tuple[str, str]]:
        """Return the language and path of each localized copy of *name* among a target's resources."""
        found = []
        for phase in target.node.texts("buildPhases"):
            for build_file in self.object(phase).texts("files"):
                group = self.object(self.object(build_file).text("fileRef"))
                if group.text("isa") == "PBXVariantGroup" and group.text("name") == name:
                    for child in group.texts("children"):
                        path = self.path_of(child) or ""
                        folder = parent(path).rpartition("/")[2]
                        if folder.endswith(".lproj"):
                            found.append((folder.removesuffix(".lproj"), path))
        return found

    def resources(self, target: Target, ending: str) -> list[str]:
        """Return the paths of a target's resources whose names end so."""
        found = []
        for phase in target.node.texts("buildPhases"):
            for build_file in self.object(phase).texts("files"):
                path = self.path_of(self.object(build_file).text("fileRef")) or ""
                if path.endswith(ending):
                    found.append(path)
        for folder in self.synchronized_folders(target):
            found.append(f"{folder}/{ending.lstrip('/')}")
        return found

    def synchronized_folders(self, target: Target) -> list[str]:
        """Return the folders whose files belong to a target without being listed (objectVersion 70 and newer)."""
        keys = target.node.texts("fileSystemSynchronizedGroups")
        return [path for key in keys if (path := self.path_of(key)) is not None]

    def service_place(self, target: Target, flavor: str) -> str:
        """Return where a service file is put that no other one stands for.

        All files in a synchronized folder go into the app: two flavors' of one name would be two for one place.
        """
        folder = join(self.folder, target.name)
        shared = any(f"{folder}/".startswith(f"{item}/") for item in self.synchronized_folders(target))
        if shared and (flavor or target.flavors()):
            return join(join(join(self.folder, "Services"), flavor or "main"), GOOGLE_IOS)
        return join(join(folder, flavor), GOOGLE_IOS)

    def from_start(self, path: str) -> str:
        """Return a path as ``SRCROOT`` leads to it."""
        return path[len(self.start) + 1 :] if self.start and path.startswith(f"{self.start}/") else path
