"""The console and the portal as they are kept: one file of JSON each, in the folder of the stand-ins' state."""

from __future__ import annotations

import json
import os
from pathlib import Path
from typing import Any, NamedTuple

from onomaxis.errors import InputError
from onomaxis.paths import read_named
from onomaxis.rehearsal.portal import Portal
from onomaxis.rehearsal.services import Console, Registered

_FILE = "offices.json"
_MOST = 16 * 1024 * 1024


class Offices(NamedTuple):
    """A console of services and a developer portal."""

    console: Console = Console()
    portal: Portal = Portal()


def read_offices(folder: Path) -> Offices:
    """Return what a folder holds; empty ones where there are none yet. Raises InputError for what is none."""
    path = folder / _FILE
    try:
        if not path.exists():
            return Offices()
        document = json.loads(read_named(path, _MOST))
        apps = [_registered(item) for item in document["apps"]]
        console = Console(_text(document["project"]), {(app.platform, app.id): app for app in apps})
        ids = {_text(item["id"]): tuple(_text(one) for one in item["capabilities"]) for item in document["ids"]}
        return Offices(console, Portal(ids, _text(document["key"]), _text(document["certificate"])))
    except (ValueError, KeyError, TypeError, RecursionError, AttributeError):
        remedy = "Remove the file: the stand-ins begin anew."
        raise InputError("this is not a state of the stand-ins", file=str(path), line=1, remedy=remedy) from None
    except OSError as error:
        raise InputError(f"the stand-ins' state cannot be read: {error.strerror}", file=str(path)) from None


def _registered(item: Any) -> Registered:
    return Registered(_text(item["platform"]), _text(item["id"]), tuple(_text(one) for one in item["fingerprints"]))


def _text(value: Any) -> str:
    if not isinstance(value, str):
        raise TypeError
    return value


def write_offices(folder: Path, offices: Offices) -> None:
    """Keep them, readable for this user alone: the portal's key is among it. Raises InputError where that fails."""
    console, portal = offices
    document = {
        "format": 1,
        "project": console.project,
        "apps": [app._asdict() for _, app in sorted(console.apps.items())],
        "ids": [{"id": name, "capabilities": known} for name, known in sorted(portal.ids.items())],
        "key": portal.key,
        "certificate": portal.certificate,
    }
    path = folder / _FILE
    fresh = path.with_name(f".{path.name}.{os.getpid()}")
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with open(os.open(fresh, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w", encoding="utf-8") as file:
            file.write(json.dumps(document, indent=1) + "\n")
        fresh.replace(path)
    except OSError as error:
        said = f"the stand-ins' state cannot be written: {error.strerror}"
        raise InputError(said, file=str(folder), remedy="Name a folder: --state FOLDER.") from None
