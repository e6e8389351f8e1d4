"""What a package says of itself, as data."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any, NamedTuple

from onomaxis.formats.binary.profiles import Profile
from onomaxis.packages.files import Content
from onomaxis.packages.resolving import Resolver

if TYPE_CHECKING:
    from onomaxis.formats.keystore import Certificate

_NOTHING: Mapping[str, Any] = {}


class Icon(NamedTuple):
    """One picture of the launcher icon in one configuration; ``density`` in dots per inch, ``any`` or ``none``.

    ``role`` is ``icon``, ``round``, ``foreground``, ``background``, ``monochrome`` or ``apple``; a layer that is a
    plain ``color`` has no path.
    """

    role: str
    density: int | str | None
    path: str | None
    width: int | None = None
    height: int | None = None
    alpha: bool | None = None
    color: str | None = None


class Part(NamedTuple):
    """A product inside an Apple app: ``extension``, ``watch`` or ``clip``."""

    kind: str
    id: str | None
    name: str | None
    version: str | None
    build: str | None
    path: str
    min: str | None = None
    entitlements: Mapping[str, Any] = {}
    profile: Profile | None = None


class Signed(NamedTuple):
    """A certificate that a package is signed with, and the schemes that carry it."""

    certificate: Certificate
    schemes: tuple[str, ...]

    @property
    def debug(self) -> bool:
        """True for the certificates of development: Android's debug key, Apple's for devices of a team."""
        subject = self.certificate.subject
        return self.certificate.debug or any(name in subject for name in ("CN=Apple Development", "CN=iPhone Dev"))


class Package(NamedTuple):
    """One package; values are text as it holds them, None where it says nothing.

    ``content`` is where its files lie; ``filtered`` are the schemes and ``reached`` the hosts of all its filters,
    ``web`` the hosts of web links; ``main`` is the manifest or property list in it, ``list`` that list's table,
    ``resources`` the tables of resources. ``entries`` tells where else than in ``main`` something is said: ``name``,
    ``names`` (``names:de`` of one language), ``services``, ``resource``.
    """

    path: str
    kind: str
    platform: str
    id: str | None
    name: str | None
    names: Mapping[str, str]
    version: str | None
    build: str | None
    min: str | None
    target: str | None
    debuggable: bool
    test_only: bool = False
    icons: tuple[Icon, ...] = ()
    permissions: tuple[str, ...] = ()
    authorities: tuple[str, ...] = ()
    hosts: tuple[str, ...] = ()
    schemes: tuple[str, ...] = ()
    filtered: tuple[str, ...] = ()
    reached: tuple[str, ...] = ()
    web: tuple[str, ...] = ()
    metadata: Mapping[str, str | None] = _NOTHING
    services: Mapping[str, str] = _NOTHING
    parts: tuple[Part, ...] = ()
    entitlements: Mapping[str, Any] = _NOTHING
    profile: Profile | None = None
    catalog: str | None = None
    catalog_names: tuple[str, ...] = ()
    certificates: tuple[Signed, ...] = ()
    content: Content = Content()
    main: str = ""
    list: Mapping[str, Any] = _NOTHING
    splits: tuple[Split, ...] = ()
    resources: Resolver | None = None
    entries: Mapping[str, str] = _NOTHING

    def counts_with(self, version: str) -> bool:
        """Tell whether builds of a version are counted together with this package's.

        On iOS each version counts its builds anew (Apple, CFBundleVersion); on macOS and Android all count together.
        """
        return self.platform != "ios" or version == self.version


Place = tuple[tuple[str, int], ...]


def place(package: Package, entry: str = "") -> Place:
    """Return where in a package something stands: its manifest or property list, where no entry is told."""
    return ((f"{package.path.rstrip('/')}/{entry or package.main}", 0),)


class Split(NamedTuple):
    """One of several APKs that make a package: where it is, what it says, the fingerprints of its signers."""

    path: str
    name: str
    id: str | None
    build: str | None
    certificates: tuple[str, ...]


def below(table: Mapping[str, Any], path: str) -> str | None:
    """Return what stands in a property list's table, as text: keys with slashes, items of arrays by number."""
    node: Any = table
    for key in path.split("/"):
        if isinstance(node, list):
            node = node[int(key)] if key.isdecimal() and int(key) < len(node) else None
        else:
            node = node.get(key) if isinstance(node, Mapping) else None
    if isinstance(node, bool):
        return "true" if node else "false"
    return str(node) if isinstance(node, str | int | float) else None
