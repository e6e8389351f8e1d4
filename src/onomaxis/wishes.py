"""What is wished for: a renaming of one text, the wish of a command."""

from __future__ import annotations

from typing import NamedTuple

from onomaxis.model import Facet


class Renaming(NamedTuple):
    """What one identifier turns into: *old* and everything below it (``old.x``) for a facet."""

    facet: Facet
    old: str
    new: str

    def apply(self, value: str) -> str | None:
        """Return the new form of *value*, or None when it is not *old* and not below it."""
        if value == self.old:
            return self.new
        if value.startswith(self.old + "."):
            return self.new + value[len(self.old) :]
        return None


class Wish(NamedTuple):
    """What the app shall be called; an empty field is left as it is.

    ``both_id`` is set when one ID was given for all platforms; ``app`` picks one app by module or target; so do
    ``targets``, one a platform: platform, the project's folder, module or target. ``platforms`` are those that alone
    are meant; none: all.

    As it concerns the apps of one project it bears their ``platform``, and their flavor as the project spells it;
    ``apart`` says that the other platform keeps its own ID, or takes another.
    """

    android_id: str = ""
    ios_id: str = ""
    both_id: str = ""
    code_package: str = ""
    keep_code: bool = False
    name: str | None = None
    names: tuple[tuple[str, str], ...] = ()
    version: str = ""
    build: str = ""
    flavor: str = ""
    app: str = ""
    targets: tuple[tuple[str, str, str], ...] = ()
    platforms: tuple[str, ...] = ()
    services: str = "keep"
    groups: str = "keep"
    shared: bool = False
    project_name: str = ""
    team: str = ""
    unify: bool = False
    prose: bool = False
    platform: str = ""
    apart: bool = False

    @property
    def id(self) -> str:
        """The ID that is wished for on the platform that it concerns."""
        return self.id_on(self.platform)

    def on(self, platform: str) -> Wish:
        """Return the wish as it is for one platform alone."""
        android, ios = (self.id_on(name) if name == platform else "" for name in ("android", "ios"))
        return self._replace(platforms=(platform,), android_id=android, ios_id=ios, both_id="")

    def with_id(self, platform: str, text: str) -> Wish:
        """Return the wish with another ID for a platform."""
        return self._replace(android_id=text) if platform == "android" else self._replace(ios_id=text)

    def id_on(self, platform: str) -> str:
        """Return the ID that is wished for on a platform."""
        return {"android": self.android_id, "ios": self.ios_id}.get(platform, "")
