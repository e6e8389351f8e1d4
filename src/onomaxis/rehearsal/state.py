"""What a stand-in of a store holds: for each app who signs it, its builds, its closed trains. A folder of JSON files.

The folder is input like any other: it may have come from anywhere, and is checked before anything is believed.
"""

from __future__ import annotations

import hashlib
import json
import os
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any, NamedTuple

from onomaxis.errors import InputError
from onomaxis.paths import read_named
from onomaxis.rehearsal.answers import STORES
from onomaxis.writing.trust import state_folder

_MOST = 16 * 1024 * 1024
FORMAT = 1


class Build(NamedTuple):
    """One build that the store took."""

    version: str
    build: str
    digest: str


class Held(NamedTuple):
    """One app as the store holds it: ``signer`` is the first upload's certificate (SHA-256), or team."""

    id: str
    flavor: str
    signer: str
    builds: tuple[Build, ...] = ()
    closed: tuple[str, ...] = ()


@dataclass(frozen=True)
class StoreState:
    """The apps of each store, by ID."""

    apps: Mapping[tuple[str, str], Held] = field(default_factory=dict)

    def held(self, store: str, app_id: str) -> Held | None:
        """Return an app as a store holds it."""
        return self.apps.get((store, app_id))

    def with_app(self, store: str, app: Held) -> StoreState:
        """Return the state with an app in place of what was held of it."""
        return replace(self, apps={**self.apps, (store, app.id): app})


def default_folder(root: Path) -> Path:
    """Return where the state of a project lies when no folder is named: one a project, in the user's state folder."""
    key = hashlib.sha256(os.fsencode(os.path.realpath(root))).hexdigest()[:16]
    return state_folder() / "stores" / key


def read_state(folder: Path) -> StoreState:
    """Return what a folder holds; nothing where there is none yet. Raises InputError for what is not a state."""
    apps: dict[tuple[str, str], Held] = {}
    for store in STORES:
        path = folder / f"{store}.json"
        try:
            if not path.exists():
                continue
            document = json.loads(read_named(path, _MOST))
            for app in _read(document):
                apps[store, app.id] = app
        except (ValueError, KeyError, TypeError, RecursionError, AttributeError):
            remedy = "Remove the file: the stand-in begins anew."
            raise InputError("this is not a state of the stand-in", file=str(path), line=1, remedy=remedy) from None
        except OSError as error:
            raise InputError(f"the state cannot be read: {error.strerror}", file=str(path)) from None
    return StoreState(apps)


def _read(document: Any) -> list[Held]:
    if document["format"] != FORMAT:
        raise ValueError
    found = []
    for app in document["apps"]:
        builds = tuple(Build(_text(i["version"]), _text(i["build"]), _text(i["digest"])) for i in app["builds"])
        closed = tuple(_text(item) for item in app["closed"])
        found.append(Held(_text(app["id"]), _text(app["flavor"]), _text(app["signer"]), builds, closed))
    return found


def _text(value: Any) -> str:
    if not isinstance(value, str):
        raise TypeError
    return value


def write_state(folder: Path, state: StoreState) -> None:
    """Write a state. Raises InputError where the folder cannot be written."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        for store in STORES:
            mine = [app for (name, _), app in sorted(state.apps.items()) if name == store]
            path = folder / f"{store}.json"
            if mine or path.exists():
                apps = [
                    {**app._asdict(), "builds": [item._asdict() for item in app.builds], "closed": list(app.closed)}
                    for app in mine
                ]
                text = json.dumps({"format": FORMAT, "apps": apps}, ensure_ascii=False, indent=1) + "\n"
                fresh = path.with_name(f".{path.name}.{os.getpid()}")
                fresh.write_bytes(text.encode("utf-8", "backslashreplace"))
                fresh.replace(path)
    except OSError as error:
        said = f"the state cannot be written: {error.strerror}"
        raise InputError(said, file=str(folder), remedy="Name a folder: --state FOLDER.") from None
