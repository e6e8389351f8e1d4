"""The settings by which a flavor's own configurations call it, as a new flavor's have them."""

from __future__ import annotations

from functools import cached_property

from onomaxis.flavor_names import flavor_word
from onomaxis.formats.openstep import Text
from onomaxis.identity.schema import OWED
from onomaxis.model import Note, Owed
from onomaxis.projects.draft import Draft
from onomaxis.projects.ios.flavors.copies import OWN, PROFILES, Copies, Told, named_in_files, settings_of
from onomaxis.projects.ios.flavors.shared import NewFlavor, begins
from onomaxis.projects.ios.project_file import Configuration, Target, XcodeProject, flavor_of
from onomaxis.projects.ios.targets import TargetReader
from onomaxis.tree import Tree, join


class Renaming:
    """Tells what settings of a model become; what is open is said in a draft."""

    def __init__(
        self, project: XcodeProject, tree: Tree, reader: TargetReader, new: NewFlavor, copies: Copies, draft: Draft
    ) -> None:
        self._project = project
        self._tree = tree
        self._reader = reader
        self._new = new
        self._copies = copies
        self._draft = draft

    def of(self, target: Target | None, old: Configuration) -> dict[str, str | None]:
        """Return the settings by which a flavor's own configuration calls it, as the new flavor's has them.

        What is each flavor's own and cannot be determined for the new one is left out: the sibling's would be wrong.
        """
        texts = [(e.key.value, e.value.value) for e in old.settings.entries if isinstance(e.value, Text)]
        found: dict[str, str | None] = {}
        whose = target.name if target is not None else "the project"
        for key, text in texts:
            if self._is_own(target, key, text):
                found[key] = None
                said = f"{key} of {whose} is left out: {self._sibling} has “{text}”, say what {self._new.flavor} has"
                self._draft.notes.append(Note(self._project.path, said))
        sibling = self._copies.sibling
        for key, text in texts if target is not None and sibling is not None else ():
            named = sibling is not None and (begins(text, sibling.id) or text == sibling.name)
            if target is None or key in found or named or self._copies.speaks_of(text):
                continue
            if self._told(target, old).own(key, text):
                found[key] = self._new.value(key)
                self._draft.owed += [Owed(self._project.path, key)] if found[key] == OWED else []
        for key, renamed in settings_of(self._copies, self._new, texts, self._is_alone):
            if renamed is not None:
                found[key] = renamed
            elif "PROVISIONING" not in key:
                said = f"{key} of {whose} is {self._sibling}'s still: {dict(texts)[key]}"
                self._draft.notes.append(Note(self._project.path, said))
        return found

    @cached_property
    def _used(self) -> set[str]:
        return named_in_files(self._project, self._tree)

    def _told(self, target: Target, old: Configuration) -> Told:
        return Told(target, self._reader, self._new, self._used, {old.name})

    def _is_alone(self, text: str) -> bool:
        """Tell whether a text names a file that the sibling alone has: nobody makes the new one's then."""
        word = flavor_word(self._sibling)
        alike = [self._copies.respelled(text, self._new._replace(flavor=name)) or "" for name in self._flavors]
        return bool(word.search(text)) and sum(self._is_there(other) for other in alike) == 1

    @cached_property
    def _flavors(self) -> list[str]:
        return list(dict.fromkeys(filter(None, map(flavor_of, self._project.project_configurations))))

    def _is_there(self, text: str) -> bool:
        return bool(text) and not text.startswith(("/", "$")) and self._tree.exists(join(self._project.start, text))

    def _is_own(self, target: Target | None, key: str, text: str) -> bool:
        """Tell whether a setting of the model is its flavor's alone, and does not show by the name whose it is."""
        name = key.partition("[")[0]
        if self._copies.sibling is None or not text or name not in OWN or self._copies.speaks_of(text):
            return False
        every = target.configurations if target is not None else self._project.project_configurations.values()
        others = [item.settings.text(key) for item in every if item.name not in self._new.templates.values()]
        return any(other not in ("", text) for other in others) or (name in PROFILES and not any(others))

    @property
    def _sibling(self) -> str:
        return self._copies.sibling.flavor if self._copies.sibling is not None else ""
