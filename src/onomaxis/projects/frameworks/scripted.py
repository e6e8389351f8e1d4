"""What configuration scripts say of the apps that they make, as values with their places: the scripts are run."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Protocol

from onomaxis.formats.jsonc import JsonDocument, Node
from onomaxis.formats.script import ScriptFile
from onomaxis.model import Facet, Piece, Unresolved, Value
from onomaxis.projects.frameworks.script_data import Absent, Data, Doubt, Table, Text, text_of
from onomaxis.projects.frameworks.script_machine import Machine, Script, data_of
from onomaxis.projects.frameworks.script_variants import UNASKED, Made, at, made_by
from onomaxis.tree import Tree, join, parent


class Documents(Protocol):
    """The files of a project, for the scripts among them (:class:`~onomaxis.projects.frameworks.files.Files`)."""

    tree: Tree
    folder: str
    faults: list[Unresolved]

    def path(self, name: str) -> str:
        """Return the path of a file of the project."""

    def script(self, name: str) -> ScriptFile | None:
        """Return the objects of a script."""

    def json(self, name: str) -> JsonDocument | None:
        """Return a parsed JSON file."""

    def string_at(self, name: str, document: JsonDocument, node: Node) -> Value | None:
        """Return the string or number that a node of a JSON file is."""

    def made(self, name: str) -> Made:
        """Return the apps that a script makes."""


def values_at(files: Documents, name: str, facet: Facet, path: tuple[str, ...]) -> list[tuple[str, Value]]:
    """Return what a script says at a path of keys: of each variant that says something else, of the app last."""
    made = files.made(name)
    own = at(made.apps[""], path)
    found: list[tuple[str, Value]] = []
    for variant, data in made.apps.items():
        said = at(data, path)
        others = [own, *(at(made.apps[part], path) for part in made.parts.get(variant, ()))]
        if variant in made.others:
            if not isinstance(said, Text) or UNASKED in str(said):
                continue
            others = [at(other, path) for name, other in made.apps.items() if name != variant]
        if variant and any(_same(said, other) for other in others):
            continue
        if not variant and isinstance(said, Absent) and said.asked in made.variables.values():
            continue  # there is no app but its variants
        value = _value_of(files, name, facet, said, len(made.apps) > 1)
        if value is not None:
            found.append((variant, value))
    return [*found[1:], *found[:1]] if found and not found[0][0] else found


def apps_of(files: Documents, name: str) -> Made:
    """Return the apps that a script makes."""
    scripts: dict[str, Script | None] = {}  # read once for all runs

    def read(path: str) -> bytes | None:
        return files.tree.read(path) if path in files.tree.known else None

    def machine(environment: Mapping[str, str]) -> Machine:
        return Machine(read, lambda path: _json_data(files, path), files.tree.below, environment, scripts)

    path = files.path(name)
    made = made_by(machine, path, lambda: _given(files, name))
    if made.cut:
        said = f"it makes more than {len(made.apps)} apps: the others are not looked at"
        files.faults.append(Unresolved("variants", path, 1, name, said))
    return made


def _json_data(files: Documents, path: str) -> Data | None:
    name = path[len(files.folder) + 1 :] if files.folder and path.startswith(f"{files.folder}/") else path
    document = files.json(name) if files.path(name) == path else None

    def piece(node: Node) -> Piece | None:
        value = files.string_at(name, document, node) if document is not None else None
        return value.pieces[0] if value is not None else None

    return data_of(document.top, piece) if document is not None else None


def _given(files: Documents, name: str) -> Data:
    """Return what the framework's tools call a configuration script with: the static configuration beside it."""
    for other in ("app.json", "app.config.json"):
        config = _json_data(files, files.path(join(parent(name), other)))
        if isinstance(config, Table):
            return Table({"config": config.entries.get("expo", config)})
    return Table({"config": Table()})


def _value_of(files: Documents, name: str, facet: Facet, said: Data, several: bool) -> Value | None:
    """Return a value that a script says; what cannot be determined is kept as that."""
    if isinstance(said, Absent) and not said.asked:
        return None
    text = text_of(said)
    if isinstance(text, Text) and text.asked and facet is Facet.VERSION_CODE:
        text = Doubt(f"the environment decides it: process.env.{text.asked}", text.spot or text.pieces[0].place)
    if isinstance(text, Doubt):
        spot, path, line, written = text.spot, files.path(name), 1, name
        if spot is not None:
            path, line, written = spot.file, spot.line, spot.written
        fault = Unresolved(facet, path, line, " ".join(written.split())[:120], text.reason)
        files.faults += [fault] if fault not in files.faults else []
        return None
    placed = [piece.place for piece in text.pieces if piece.place]
    spot = placed[0] if len(placed) == 1 and len(text.pieces) == 1 else text.spot or next(iter(placed), None)
    if spot is None:
        return None
    if spot.syntax == "script-expression" and several:
        spot = spot._replace(syntax="none")
    return Value(text.pieces, spot)


def _same(said: Data, other: Data) -> bool:
    """Tell whether a value has no literal that another one has not: else it must change along with it."""
    if isinstance(said, Text) and isinstance(other, Text):
        places = {piece.place for piece in other.pieces} | {None}
        return str(said) == str(other) and all(piece.place in places for piece in said.pieces)
    return type(said) is type(other) and not isinstance(said, Text)
