"""Which journal entries were made in this checkout by this user: a seal, with a key kept in the user's state folder.

The seal is a door bell, no wall: an entry without one is never taken back unasked, and with one its paths are checked
all the same.
"""

from __future__ import annotations

import hashlib
import hmac
import os
import secrets
from pathlib import Path

_LENGTH = 32


def state_folder() -> Path:
    """Return the folder for this user's state (XDG Base Directory; ``platformdirs`` elsewhere)."""
    from platformdirs import user_state_path

    return user_state_path("onomaxis", appauthor=False)


def user_key(make: bool = False) -> bytes | None:
    """Return this user's key; with *make* it is made when there is none. None where it cannot be read or written."""
    path = state_folder() / "journal-key"
    try:
        data = path.read_bytes()
        return data if len(data) == _LENGTH else None
    except FileNotFoundError:
        pass
    except OSError:
        return None
    if not make:
        return None
    data = secrets.token_bytes(_LENGTH)
    try:
        path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        with open(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as handle:
            handle.write(data)
    except FileExistsError:
        return user_key()
    except OSError:
        return None
    return data


def seal(key: bytes, root: Path, entry: bytes) -> bytes:
    """Return the seal of an entry's text in a checkout."""
    where = os.fsencode(os.path.realpath(root))
    return hmac.new(key, where + b"\0" + entry, hashlib.sha256).hexdigest().encode()


def is_sealed(root: Path, entry: bytes, found: bytes | None) -> bool:
    """Tell whether *found* is the seal that this user made for an entry in this checkout."""
    key = user_key() if found else None
    return key is not None and found is not None and hmac.compare_digest(seal(key, root, entry), found.strip())
