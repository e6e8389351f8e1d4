"""The shipped apps of an Android application module, and the places that own what they are called."""

from __future__ import annotations

from onomaxis.formats.gradle_statements import Setting, Statement
from onomaxis.model import Facet, Mention, Opening, Piece, Place, Role, Scope, ShippedApp, Value
from onomaxis.platforms import ANDROID_NS
from onomaxis.projects.android import variants
from onomaxis.projects.android.names import NameReader, Reading
from onomaxis.projects.android.variants import RELEASE, Variant, evaluate, joined, manifest_value
from onomaxis.projects.project import place

# Where the main source set stands in multiplatform modules and in projects older than the Gradle layout.
_VERSION_FACETS = ((Facet.VERSION_NAME, "versionName"), (Facet.VERSION_CODE, "versionCode"))


class ModuleReader(NameReader):
    """Reads one module: namespace and versions for all kinds, apps for application modules."""

    def read(self) -> Reading:
        """Return everything the module owns."""
        namespace = self.namespace()
        if self.module.kind == "application":
            for variant in variants.variants(self.module):
                self.found.apps.append(self.app(variant, namespace))
            self.found.faults += variants.computed(self.module)
            self._flavor_owners()
            self._missing_entries(namespace)
        return self.found

    def brands(self) -> tuple[ShippedApp, ...]:
        """Return what the app is called without any flavor, and with each flavor alone; build types left out."""
        plain = ModuleReader(self.module, self.others, self.tree, self.project, plain=True)
        plain._manifests, plain._tables = self._manifests, self._tables  # what was read counts for both
        namespace = plain.namespace()
        flavors = variants.flavor_names(self.module)
        return tuple(plain.app(Variant(names), namespace) for names in ((), *((name,) for name in flavors)))

    # -- identifiers

    def namespace(self) -> Value | None:
        """Return the namespace: the script's, else the main manifest's package."""
        item = self.module.find("namespace")
        if item is not None and item.conditional and len(self.module.every("namespace")) == 1:
            # Set where the build tool is new enough to know it: there is no other value it could have.
            item = item._replace(conditional=False)
        value = self._own(Facet.NAMESPACE, item, Scope("android", self.module.name))
        manifest = self.manifest("main")
        package = manifest.package() if manifest else None
        if manifest and package:
            own = manifest.value(package)
            self.found.own(
                Mention(
                    Facet.NAMESPACE,
                    Role.OWNER if value is None else Role.FOLLOWER,
                    own.place,
                    own.text,
                    Scope("android", self.module.name),
                    own,
                )
            )
            return value or own
        return value

    def _own(self, facet: Facet, item: Setting | None, scope: Scope) -> Value | None:
        value = evaluate(self.module, item, facet, self.found.faults)
        if value is not None and scope.flavor and item is not None and not self._is_its_own(item, value):
            spots = [piece.place for piece in value.pieces]
            if not all(spot is not None and self._stands_in(item.statement, spot) for spot in spots):
                return value
            scope = Scope(scope.platform, scope.module)  # one literal of a loop says it of all
        if value is not None:
            self.found.own(Mention(facet, Role.OWNER, value.origin, value.text, scope, value))
        return value

    def _is_its_own(self, item: Setting, value: Value) -> bool:
        """Tell whether what a loop says of a flavor has a literal that no other one has: not what it is called by."""
        if not item.statement.looped:
            return True
        return any(piece.place and not self._is_shared(item.statement, piece.place) for piece in value.pieces)

    def _is_shared(self, said: Statement, spot: Place) -> bool:
        file = self.module.file
        if spot.file != file.path or self._stands_in(said, spot):
            return spot.file == file.path
        source = file.script.source
        called = [label for _, one in variants.flavor_statements(file.script) if one.looped for label in one.args[:1]]
        return any(source.offset(token.start) <= spot.start < source.offset(token.end) for token in called)

    def _stands_in(self, said: Statement, spot: Place) -> bool:
        source = self.module.file.script.source
        inside = source.offset(said.start) <= spot.start < source.offset(said.end)
        return spot.file == self.module.file.path and inside

    def layered(self, facet: Facet, name: str, variant: Variant) -> Value | None:
        """Return *name* of the first flavor that sets it, else the default's."""
        for flavor in variant.flavors:
            item = self.module.find("productFlavors", flavor, name)
            if item:
                return self._own(facet, item, Scope("android", self.module.name, flavor))
        return self._own(facet, self.module.find("defaultConfig", name), Scope("android", self.module.name))

    def _flavor_owners(self) -> None:
        """Own what flavors and the default set beside the value that wins, so that nothing set is overlooked."""
        for facet, name in (*_VERSION_FACETS, (Facet.APPLICATION_ID, "applicationId")):
            self._own(facet, self.module.find("defaultConfig", name), Scope("android", self.module.name))
        for flavor in variants.flavor_names(self.module):
            scope = Scope("android", self.module.name, flavor)
            for facet, name in (*_VERSION_FACETS, (Facet.APPLICATION_ID, "applicationId")):
                self._own(facet, self.module.find("productFlavors", flavor, name), scope)

    def suffixed(self, base: Value | None, name: str, variant: Variant) -> Value | None:
        """Append the suffixes of the flavors and, in what ships, of the release build type."""
        if base is None:
            return None
        parts = [base]
        scopes = [*(("productFlavors", flavor) for flavor in variant.flavors), ("buildTypes", RELEASE)]
        scopes = scopes[:-1] if self.plain else scopes
        for scope in scopes:
            item = self.module.find(*scope, name)
            suffix = evaluate(self.module, item, name, self.found.faults)
            if suffix is None and item is not None:
                return None  # what it makes of the whole, nobody can tell
            if suffix and suffix.text:
                dotted = name == "applicationIdSuffix" and not suffix.text.startswith(".")
                parts += [Value((Piece("."),), suffix.place)] if dotted else []
                parts.append(suffix)
        return joined(parts)

    # -- apps

    def app(self, variant: Variant, namespace: Value | None) -> ShippedApp:
        """Resolve one variant."""
        own_id = self.layered(Facet.APPLICATION_ID, "applicationId", variant)
        places = (("defaultConfig",), *(("productFlavors", flavor) for flavor in variant.flavors))
        declared = any(self.module.find(*path, "applicationId") for path in places)
        base = own_id if own_id or declared else namespace
        version = self.layered(Facet.VERSION_NAME, "versionName", variant) or self._manifest_version("versionName")
        build = self.layered(Facet.VERSION_CODE, "versionCode", variant) or self._manifest_version("versionCode")
        named = self.display(variant)
        self.launchers_differ(named)
        return ShippedApp(
            "android",
            self.module.name,
            variant.name,
            RELEASE,
            self.project,
            self.suffixed(base, "applicationIdSuffix", variant),
            named.name,
            self.suffixed(version, "versionNameSuffix", variant),
            build,
            self.icon(variant),
            tuple(named.names),
            launchers=named.launchers,
        )

    def _manifest_version(self, name: str) -> Value | None:
        manifest = self.manifest("main")
        attribute = manifest.root.attribute(name, ANDROID_NS) if manifest else None
        if manifest is None or attribute is None:
            return None
        value = manifest.value(attribute)
        facet = Facet.VERSION_NAME if name == "versionName" else Facet.VERSION_CODE
        self.found.own(Mention(facet, Role.OWNER, value.place, value.text, Scope("android", self.module.name), value))
        return value

    def icon(self, variant: Variant) -> Value | None:
        """Return the icon reference of the winning manifest."""
        for name in variant.source_sets():
            manifest = self.manifest(name)
            application = manifest.application if manifest else None
            attribute = application.attribute("icon", ANDROID_NS) if application is not None else None
            if manifest and attribute:
                value = manifest_value(self.module, manifest, attribute, variant.flavors)
                self.found.own(
                    Mention(
                        Facet.ICON, Role.OWNER, value.origin, value.text, Scope("android", self.module.name), value
                    )
                )
                return value
        return None

    def _missing_entries(self, namespace: Value | None) -> None:
        """Offer a place for an application ID or a version that the script does not set."""
        blocks = list(self.module.file.script.blocks("android", "defaultConfig"))
        block = blocks[0] if blocks else None
        if block is None or not block.body[1] or not block.children:
            return
        script = self.module.file.script
        source = script.source
        first = block.children[0].start
        line_start = source.line_start(first)
        margin = source.view[line_start:first]
        if margin.strip():
            return
        equals = " = " if script.kotlin or "=" in source.line_around(first) else " "
        quote = '"' if script.kotlin or '"' in source.view[block.body[0] : block.body[1]] else "'"
        for facet, name in ((Facet.APPLICATION_ID, "applicationId"), *_VERSION_FACETS):
            if self.module.find("defaultConfig", name):
                continue
            text = facet != Facet.VERSION_CODE
            syntax = ("double-dollar" if quote == '"' else "single") if text else "number"
            mark = quote if text else ""
            spot = place(self.module.file.path, source, first, first, syntax)
            self.found.openings.append(
                Opening(
                    facet,
                    spot,
                    f"{name}{equals}{mark}",
                    f"{mark}{source.newline}{margin}",
                    Scope("android", self.module.name),
                    name,
                )
            )
