"""The words of the job as data: place, piece, value, mention, shipped app, edit, move. No behaviour of a kind."""

from __future__ import annotations

from enum import StrEnum
from typing import NamedTuple

from onomaxis.flavor_names import combined


class Facet(StrEnum):
    """One part of what an app is called."""

    APPLICATION_ID = "android.application-id"
    NAMESPACE = "android.namespace"
    CODE_PACKAGE = "android.code-package"
    BUNDLE_ID = "ios.bundle-id"
    DISPLAY_NAME = "name.display"
    PROJECT_NAME = "name.project"
    VERSION_NAME = "version.name"
    VERSION_CODE = "version.code"
    ICON = "icon"
    APP_GROUP = "ios.app-group"


class Role(StrEnum):
    """What a mention is to its facet."""

    OWNER = "owner"
    FOLLOWER = "follower"
    OUTSIDE = "outside"
    PROSE = "prose"


class Scope(NamedTuple):
    """Where a value counts: platform, module or target, flavor, build type or configuration, locale."""

    platform: str = ""
    module: str = ""
    flavor: str = ""
    configuration: str = ""
    locale: str = ""


class Place(NamedTuple):
    """A byte span of a file, and the name of the syntax that a new value must be written in.

    ``line`` and ``column`` are 1-based; ``written`` is the text of the span.
    """

    file: str
    start: int
    end: int
    line: int
    column: int
    written: str
    syntax: str

    @property
    def at(self) -> str:
        """``file:line``, as printed."""
        return f"{self.file}:{self.line}"


class Piece(NamedTuple):
    """A stretch of a value's text and the literal it comes from; None where it cannot be edited.

    ``before`` and ``after`` are what else the literal's expression holds around this stretch: the literal is
    rewritten as ``before + new text + after``.
    """

    text: str
    place: Place | None = None
    before: str = ""
    after: str = ""


class Value(NamedTuple):
    """A resolved value: its pieces in order, and the whole expression that was resolved.

    ``place`` is where the value is set (the owner); it may be replaced by a literal as a last resort.
    """

    pieces: tuple[Piece, ...]
    place: Place

    @property
    def text(self) -> str:
        """The value as the build sees it."""
        return "".join(piece.text for piece in self.pieces)

    @property
    def is_written(self) -> bool:
        """True where a literal says it; what tools make of another value is none."""
        return any(piece.place for piece in self.pieces)

    @property
    def origin(self) -> Place:
        """The literal that a person would edit: the only editable piece, else the whole expression."""
        places = [piece.place for piece in self.pieces if piece.place and piece.text]
        return places[0] if len(places) == 1 else self.place


# What stands for the facet where some of an app's flavors cannot be read.
FLAVORS = "flavors"
# What stands for the facet where a whole file cannot be read.
WHOLE_FILE = "file"
# The same for one in which a merge was not resolved.
UNMERGED = "merge"


class Unresolved(NamedTuple):
    """A value that is computed in a way that is not followed; ``blocking`` where its facet cannot be changed then."""

    facet: str
    file: str
    line: int
    text: str
    reason: str
    blocking: bool = True

    @property
    def whole(self) -> bool:
        """True where a whole file cannot be read, not just one value in it."""
        return self.facet in (WHOLE_FILE, UNMERGED)


class Mention(NamedTuple):
    """One place that writes a facet. ``reason`` says why it would stay, for roles that do not change.

    One that is not ``compared`` may well say something else: a short name, a page's title.
    """

    facet: Facet
    role: Role
    place: Place
    value: str
    scope: Scope = Scope()
    owner: Value | None = None
    reason: str = ""
    compared: bool = True


class Opening(NamedTuple):
    """A spot where a missing entry that would own *facet* can be inserted.

    The bytes written are ``before`` + the value in *syntax* + ``after`` at ``place.start``.
    """

    facet: Facet
    place: Place
    before: str
    after: str
    scope: Scope = Scope()
    shown: str = ""


# Parts that are built beside an app and never shipped.
HIDDEN_PARTS = ("unit tests", "UI tests")


class Signing(NamedTuple):
    """How a target is signed: style, team, named identity, profile, versioning system; empty where nothing is set.

    ``place`` is where the profile, else the identity, else the team is set.
    """

    style: str
    team: str
    identity: str
    profile: str
    versioning: str
    place: Place | None

    @property
    def manual(self) -> bool:
        """True where a profile is named, or none is made by itself."""
        return bool(self.profile) or self.style.casefold() == "manual"


class Part(NamedTuple):
    """A product embedded in a shipped app: extension, watch app, clip, test bundle."""

    target: str
    kind: str
    id: Value | None
    name: Value | None
    version: Value | None
    build: Value | None
    signing: Signing | None = None


class ShippedApp(NamedTuple):
    """One installable result: platform x module or target x flavor, in one configuration.

    ``beside`` are the flavors of other dimensions that the configuration or the target is called by (``staging`` of
    ``Staging-alderbank``), where there are several. ``ships`` is False where schemes archive others alone.
    """

    platform: str
    module: str
    flavor: str
    configuration: str
    project: str
    id: Value | None
    name: Value | None
    version: Value | None
    build: Value | None
    icon: Value | None
    names: tuple[tuple[str, Value], ...] = ()
    parts: tuple[Part, ...] = ()
    launchers: tuple[Launcher, ...] = ()
    signing: Signing | None = None
    beside: tuple[str, ...] = ()
    ships: bool = True

    @property
    def variant(self) -> str:
        """What is built: the flavor, and those that are told beside it, called as Gradle would."""
        return combined(filter(None, (self.flavor, *self.beside)))


class Launcher(NamedTuple):
    """A launcher entry with a label of its own; ``only`` where the app has no other entry."""

    component: str
    label: Value
    names: tuple[tuple[str, Value], ...] = ()
    only: bool = False


class Tile(NamedTuple):
    """One picture file that a kind declares: its size in pixels, its shape, what it is for, its format.

    ``shape``: ``full`` (the opaque square), ``art`` (the foreground on transparency), ``rounded`` or ``circle`` (the
    square cut to it), ``maskable`` (the content inside the inner circle of 80 %), ``card`` (a desktop's rounded card
    with its margin), ``wide`` (the foreground in the middle of a wide ground), or one of the adaptive layers,
    ``foreground``, ``background``, ``monochrome``, or Apple's square in one of its appearances (``apple``,
    ``apple-dark``, ``apple-tinted``). ``sizes`` are an ICO file's edges. From ``least`` on a square of
    any size will do: the framework's tools scale it. ``offered`` are the keys of the configuration under which a
    picture that it does not name yet would be written. ``when`` limits a picture to art that is ``layered`` (a
    drawing on a ground) or ``filled`` (opaque to its edges).
    """

    file: str
    width: int
    height: int
    shape: str
    slot: str
    format: str = "png"
    sizes: tuple[int, ...] = ()
    least: int = 0
    offered: tuple[str, ...] = ()
    when: str = ""


class IconHome(NamedTuple):
    """Where a project keeps one launcher icon: declared by its kind, filled by the icon rooms.

    ``style`` is ``android-resource`` (``folder`` is the ``res`` folder, ``name`` is ``mipmap/ic_launcher``),
    ``asset-catalog`` (``folder`` is the icon set's), ``tiles`` (``tiles`` lists every picture; the files ``replaced``
    give way to them), or ``foreign`` (``folder`` is of a form that is not drawn). ``owner`` is the reference that
    names it. ``families`` are the device families of the target, ``lowest`` the lowest API level. ``references`` are
    the spots that must name this home once it is filled, because today they name another. ``ground`` is the colour
    below a drawing that the project's own files state today, ``undrawn`` are pictures that they name and that
    are of a form, or in a place, that is not drawn.
    """

    style: str
    platform: str
    module: str
    flavor: str
    folder: str
    name: str
    owner: Place | None = None
    round_name: str = ""
    lowest: int = 0
    families: tuple[str, ...] = ()
    tiles: tuple[Tile, ...] = ()
    replaced: tuple[str, ...] = ()
    references: tuple[Value | Opening, ...] = ()
    ground: str = ""
    undrawn: tuple[str, ...] = ()


class Disagreement(NamedTuple):
    """Two places that should say the same and do not; ``flavor`` where that is one flavor's."""

    code: str
    message: str
    at: tuple[tuple[str, int], ...]
    flavor: str = ""


class Residue(NamedTuple):
    """A mention of an old identity that still stands, and why; ``loose``: it most likely means something else."""

    file: str
    line: int
    text: str
    reason: str
    loose: bool = False


class Note(NamedTuple):
    """What a change leaves to say: the place (``file:line``, a file, a folder, an option), and the words."""

    at: str
    text: str

    @property
    def file(self) -> str:
        """The place without its line."""
        head, _, line = self.at.rpartition(":")
        return head if head and line.isdecimal() else self.at

    @property
    def line(self) -> int:
        """The line, 0 where none is told."""
        line = self.at.rpartition(":")[2]
        return int(line) if self.file != self.at else 0

    def __str__(self) -> str:
        """``at: text``; what is about the whole project has no place to tell."""
        return f"{self.at}: {self.text}" if self.at not in ("", ".") else self.text


class Owed(NamedTuple):
    """A value that only its owner can give: the place (``file:line``), what it is called (empty: nobody tells).

    Until then a mark stands there, or, ``kept``, what a neighbour has.
    """

    at: str
    key: str
    kept: bool = False


class Line(NamedTuple):
    """One line of a summary: what becomes another thing, and how."""

    label: str
    text: str

    def __str__(self) -> str:
        """``label: text``."""
        return f"{self.label}: {self.text}"


class Edit(NamedTuple):
    """Replace the bytes *start* to *end* of *file* by *new*."""

    file: str
    start: int
    end: int
    new: bytes
    facet: str = ""


class Move(NamedTuple):
    """Rename one file inside the root."""

    source: str
    target: str
