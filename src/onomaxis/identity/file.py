"""The identity file: read, checked with lines, and asked what one flavor is called on one platform.

Inheritance is flat: app <- platform <- flavor <- flavor's platform.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any, NamedTuple

from onomaxis.errors import InputError
from onomaxis.flavor_names import Singles, in_order
from onomaxis.formats.toml import FileLine, Path, TomlDocument
from onomaxis.identity.declared import Allowed, DeclaredValue, Keystore, text_of
from onomaxis.identity.schema import COLOR, OWED, RIBBON, TABLES, Key
from onomaxis.identity.templates import NAME_IN, Patience, check_value, fill, keystore_of, needed
from onomaxis.platforms import PLATFORMS

# What the screenshots of a listing are called in its table, a number behind it.
SCREENSHOTS = "screenshots/"


class Said(NamedTuple):
    """One thing that the file says: its text, and its line."""

    text: str
    line: int


class Brand(NamedTuple):
    """What one flavor (``""``: the app itself) is called on one platform, all tables taken together.

    A facet that the file does not speak of is not in ``facets``: it is left as it is. ``wrong`` says of values that
    their type or pattern forbids what is wrong with each.
    """

    flavor: str
    platform: str
    facets: Mapping[str, Said]
    names: Mapping[str, Said]
    icon: Mapping[str, Said]
    launch: Mapping[str, Said]
    values: Mapping[str, Said]
    files: Mapping[str, Said]
    hosts: tuple[Said, ...]
    fingerprints: tuple[Said, ...]
    keystores: Mapping[str, Keystore]
    listing: Mapping[str, Mapping[str, Said]]
    wrong: tuple[Said, ...] = ()

    @property
    def art(self) -> Mapping[str, Said]:
        """What the icons are drawn from: files, and a colour of the ground."""
        return {key: said for key, said in self.icon.items() if not key.startswith(RIBBON)}

    def get(self, facet: str) -> str | None:
        """Return what a facet shall be, or None."""
        said = self.facets.get(facet)
        return said.text if said else None


# What a keystore's certificate is called by in templates, with what it reads; None where it cannot be opened now.
Opened = Callable[[Keystore], Mapping[str, str] | None]


def never_opened(keystore: Keystore) -> None:
    """Open no keystore: what templates take from one has no value."""
    return None


@dataclass(frozen=True)
class IdentityFile:
    """A checked identity file; ``path`` is relative to the tree's root, ``opened`` opens the keystores it names.

    ``standing`` is the flavor that the app itself is today, where one tree becomes one brand after the other.
    """

    path: str
    document: TomlDocument
    flavors: tuple[str, ...]
    values: tuple[DeclaredValue, ...]
    allowed: tuple[Allowed, ...]
    opened: Opened = field(default=never_opened, compare=False, repr=False)
    patience: Patience = field(default_factory=Patience, compare=False, repr=False)
    standing: str = ""
    _brands: dict[tuple[tuple[str, ...], str, str], Brand] = field(default_factory=dict, compare=False, repr=False)

    @property
    def top(self) -> Mapping[str, Any]:
        """The file's data."""
        return self.document.top

    def own(self, platform: str, key: str) -> str:
        """Return a text of a platform's own table: its module or target."""
        return str(self.top.get(platform, {}).get(key, ""))

    def line(self, *path: str) -> int:
        """Return the line of a path of keys; it knows its file (:meth:`home`)."""
        return self.document.line(path)

    def home(self, line: int) -> str:
        """Return the file that a line of this identity is of: brands may stand in files of their own."""
        return line.file if isinstance(line, FileLine) else self.path

    def brand(self, flavor: str, platform: str) -> Brand:
        """Return what *flavor* is called on *platform*; the app itself as the brand that the tree is today."""
        return self.as_app(self.standing, platform) if not flavor else self._brand((flavor,), platform)

    def as_brand(self, flavor: str) -> IdentityFile:
        """Return the file as it speaks of a tree that is a flavor today; empty: the app itself."""
        return replace(self, standing=flavor, _brands={})

    def as_app(self, flavor: str, platform: str) -> Brand:
        """Return what the app itself is called when it becomes a flavor, empty for itself.

        A name in a language that only repeats the app's own name goes with it: a brand that has another name is not
        called by the app's in English because a file of that language repeats it.
        """
        own = self._brand((), platform)
        brand = self._brand((flavor,), platform) if flavor else own
        if brand.get("name") == own.get("name"):
            return brand
        repeated = {
            at for at, said in own.names.items() if said.text == own.get("name") and brand.names.get(at) == said
        }
        return brand._replace(names={at: said for at, said in brand.names.items() if at not in repeated})

    def variant(self, name: str, flavors: Iterable[str], platform: str) -> Brand:
        """Return what holds for a shipped flavor, or for a combination of a build's *flavors*, on *platform*.

        Of a combination the flavor in front has the first word (developer.android.com, "Combine multiple product
        flavors with flavor dimensions"); what none of them says is the app's. A table of the combination itself has
        the last word. What a combination is called otherwise only the build can put together, with suffixes that the
        file may not know: of its facets and names there are no others.
        """
        parts = tuple(self.named(part) for part in in_order(name, flavors) if self.lists(part)) if name else ()
        named = self.table_of(name, flavors)
        if not name or parts == (named,) or (not parts and named):
            return self.brand(named or name, platform)
        if not named:
            return self._brand(parts, platform)._replace(facets={}, names={})
        brand = self._brand(parts, platform, named)
        own = [("flavors", named), ("flavors", named, platform)]
        spoken = {key.removesuffix("-suffix") for path in own for key in self._table(path)}
        facets = {key: said for key, said in brand.facets.items() if key in spoken}
        return brand._replace(facets=facets, names=self._merged(own, "names"))

    def _combined(self, parts: Sequence[str], platform: str, named: str) -> dict[str, Said]:
        """Return the facets of a combination: what its flavors append stands behind what any of them says."""
        facets: dict[str, Said] = {}
        self._facets(("app",), facets)
        self._facets((platform,), facets)
        own = [("flavors", named), ("flavors", named, platform)] if named else []
        tables: list[Path] = [path for part in parts for path in (("flavors", part, platform), ("flavors", part))]
        for path in reversed(tables):
            self._facets(path, facets, lambda key: not key.endswith("-suffix"))
        for path in tables:
            self._facets(path, facets, lambda key: key.endswith("-suffix"))
        for path in own:
            self._facets(path, facets)
        return facets

    def table_of(self, name: str, flavors: Iterable[str]) -> str:
        """Return the flavor of the file that has a name, or is a combination of the same flavors; empty for none."""
        if self.lists(name):
            return self.named(name)
        known = flavors if isinstance(flavors, Singles) else Singles(flavors)
        parts = known.parts(name)
        return next((own for own in self.flavors if known.parts(own) == parts), "") if len(parts) > 1 else ""

    def _brand(self, flavors: tuple[str, ...], platform: str, named: str = "") -> Brand:
        """Return what several flavors are called together, the first one with the first word.

        *named* is the table of what they make together, which has it before all of them.
        """
        key = (flavors, platform, named)
        if key not in self._brands:
            self._brands[key] = self._merge(flavors, platform, named)
        return self._brands[key]

    def _merge(self, parts: tuple[str, ...], platform: str, named: str) -> Brand:
        flavors = (named, *parts) if named else parts
        tables: list[Path] = [("app",), (platform,)]
        for name in reversed(flavors):
            own = ("flavors", self.named(name))
            tables += [own, (*own, platform)]
        flavor = next(iter(flavors), "")
        facets: dict[str, Said] = self._combined(parts, platform, named) if len(flavors) > 1 else {}
        for table in tables if len(flavors) < 2 else ():
            self._facets(table, facets)
        names = self._merged(tables, "names")
        services = self._merged(tables, "services")
        keystores = self._keystores(tables)
        values = self._values(tables, flavor, platform, facets, keystores, names)
        colors = {name: said.text for name, said in values.items() if COLOR.match(said.text) or said.text == OWED}
        icon = {key: _colored(said, colors) for key, said in self._merged(tables, "icon").items()}
        icon = {} if any(said.text == OWED for said in icon.values()) else icon  # it is drawn when that is given
        icon |= self._ribbon(tables)
        return Brand(
            flavor,
            platform,
            facets,
            names,
            icon,
            self._merged(tables, "launch"),
            values,
            services,
            self._listed(tables, "hosts"),
            self._listed(tables, "fingerprints"),
            keystores,
            self._listing(tables),
            tuple(self._wrong(values)),
        )

    def _ribbon(self, tables: list[Path]) -> dict[str, Said]:
        """Return the band that the icons wear, by the keys that say something of it; an empty word says: none."""
        keys = [key for key in TABLES["app"] if key.startswith(RIBBON)]
        told = ((key, table) for table in tables for key in keys if key in self._table(table))
        found = {key: Said(str(self._table(table)[key]), self.line(*table, key)) for key, table in told}
        return found if RIBBON in found else {}

    def level(self, flavors: Sequence[str], platform: str, keys: Sequence[tuple[str, ...]]) -> str:
        """Return which table has the last word on some keys: ``flavor-platform``, ``flavor``, ``platform``, ``app``.

        *flavors* are those that hold, the first one with the first word. Empty where no table says anything.
        """
        levels: list[tuple[str, Path]] = [("platform", (platform,)), ("app", ("app",))]
        for flavor in reversed(flavors):
            own = ("flavors", self.named(flavor))
            levels = [("flavor-platform", (*own, platform)), ("flavor", own), *levels]
        for level, table in levels:
            if any(path[-1] in self._table((*table, *path[:-1])) for path in keys):
                return level
        return ""

    def _listing(self, tables: list[Path]) -> dict[str, dict[str, Said]]:
        """Return the texts of a store listing by language, those of later tables over the others."""
        found: dict[str, dict[str, Said]] = {}
        for table in tables:
            for language in self._table((*table, "listing")):
                own = self._merged([(*table, "listing")], language)
                pictures = self._table((*table, "listing", language)).get("screenshots")
                if pictures is not None:  # a list counts whole
                    kept = found.get(language, {})
                    found[language] = {key: said for key, said in kept.items() if not key.startswith(SCREENSHOTS)}
                    for number, text in enumerate(pictures):
                        line = self.line(*table, "listing", language, "screenshots", str(number))
                        own[f"{SCREENSHOTS}{number}"] = Said(text, line)
                found.setdefault(language, {}).update(own)
        return found

    def _keystores(self, tables: list[Path]) -> dict[str, Keystore]:
        """Return the keystores by name: one that a later table gives counts whole."""
        found: dict[str, Keystore] = {}
        for table in tables:
            for name, data in self._table((*table, "keystores")).items():
                line = self.line(*table, "keystores", name)
                path, alias, password = (str(data.get(key, "")) for key in ("file", "alias", "password-env"))
                found[name] = Keystore(name, path, alias, password, line)
        return found

    def named(self, flavor: str) -> str:
        """Return a flavor's name as the file spells it."""
        return self._spelled.get(flavor.casefold(), flavor)

    def lists(self, flavor: str) -> bool:
        """Tell whether the file has a table of a flavor, in whatever case."""
        return flavor.casefold() in self._spelled

    @cached_property
    def _spelled(self) -> dict[str, str]:
        return {name.casefold(): name for name in reversed(self.flavors)}

    def _table(self, path: Path) -> Mapping[str, Any]:
        node: Any = self.top
        for part in path:
            node = node.get(part, {}) if isinstance(node, Mapping) else {}
        return node if isinstance(node, Mapping) else {}

    def _facets(self, table: Path, facets: dict[str, Said], chosen: Callable[[str], bool] = bool) -> None:
        data = self._table(table)
        plain = [key for key in data if chosen(key) and TABLES["app"].get(key, _OTHER).kind in ("text", "scalar")]
        for key in sorted(plain, key=lambda name: name.endswith("-suffix")):  # a suffix after what it is appended to
            said = Said(text_of(data[key]), self.line(*table, key))
            base = key.removesuffix("-suffix")
            if base == key:
                facets[key] = said
            elif base in facets:
                facets[base] = Said(facets[base].text + said.text, said.line)

    def _merged(self, tables: list[Path], key: str) -> dict[str, Said]:
        found: dict[str, Said] = {}
        for table in tables:
            for name, value in self._table((*table, key)).items():
                if not isinstance(value, list):
                    found[name] = Said(text_of(value), self.line(*table, key, name))
        return found

    def _listed(self, tables: list[Path], key: str) -> tuple[Said, ...]:
        """Return a list of services: the last table that gives one counts whole."""
        found: tuple[Said, ...] = ()
        for table in tables:
            items = self._table((*table, "services")).get(key)
            if items is not None:
                spots = ((*table, "services", key, str(number)) for number in range(len(items)))
                found = tuple(Said(item, self.line(*spot)) for item, spot in zip(items, spots, strict=True))
        return found

    def _values(
        self,
        tables: list[Path],
        flavor: str,
        platform: str,
        facets: Mapping[str, Said],
        keystores: Mapping[str, Keystore],
        names: Mapping[str, Said],
    ) -> dict[str, Said]:
        """Return every value: declared defaults, colours, what the tables give, and templates filled from them."""
        given = {
            item.name: Said(item.default, self.line("values", item.name, "value"))
            for item in self.values
            if item.default is not None
        }
        given |= self._merged(tables, "colors") | self._merged(tables, "values")
        known = {key: said.text for key, said in facets.items()} | {"flavor": flavor}
        known |= {key: said.text for key, said in given.items()}
        templates = {item.name: item for item in self.values if item.template and item.name not in given}
        asked = {keystore_of(name) for item in templates.values() for name in needed(item.template)}
        for name in {name for item in templates.values() for name in needed(item.template)} - known.keys():
            language = NAME_IN.match(name)
            if language and "name" in known:
                known[name] = names[language[1]].text if language[1] in names else known["name"]
        for keystore in (item for name, item in keystores.items() if name in asked):
            known |= self.opened(keystore) or {}
        for name, item in templates.items():
            text = fill(item.template, known, {key: value.template for key, value in templates.items()})
            if text is not None:
                given[name] = Said(text, self.line("values", name, "template"))
        return given

    def _wrong(self, given: Mapping[str, Said]) -> Iterator[Said]:
        """Yield what is wrong with values, at the line that gives each."""
        for item in self.values:
            said = given.get(item.name)
            if said is None or OWED in said.text:  # what is owed is told as such
                continue
            wrong = check_value(item.type, item.pattern, said.text, self.patience)
            if wrong:
                shown = "the value" if item.secret else f"“{said.text}”"
                yield Said(f"value “{item.name}”: {shown} {wrong}", said.line)

    def refuse_wrong(self) -> None:
        """Raise InputError where a type or pattern forbids a value of any brand: all of them are named."""
        brands = (self.brand(flavor, platform) for flavor in ("", *self.flavors) for platform in PLATFORMS)
        found = list(dict.fromkeys(said for brand in brands for said in brand.wrong))
        if found:
            more = [f"{self.home(said.line)}:{said.line}: {said.text}" for said in found[1:]]
            first = found[0]
            raise InputError("\n  ".join([first.text, *more]), file=self.home(first.line), line=first.line)


_OTHER = Key("", "")


def _colored(said: Said, colors: Mapping[str, str]) -> Said:
    """Let an icon's ground be a colour's name in braces."""
    match = re.fullmatch(r"\{([\w-]+)\}", said.text)
    return Said(colors.get(match[1], said.text), said.line) if match else said
