"""A stand-in console of services: registers apps, gives their service files, and answers logins and push tokens.

Nothing here is a real service: numbers and keys are made from the IDs, so that the same registration gives the same
file. The files have the public form that the services' documentation describes.
"""

from __future__ import annotations

import hashlib
import json
import plistlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, NamedTuple

from onomaxis import late
from onomaxis.errors import InputError
from onomaxis.platforms import PLATFORMS

_ID = late.compile(r"[A-Za-z][A-Za-z0-9_-]*(?:\.[A-Za-z0-9_-]+)+\Z")
_SHA1 = late.compile(r"[0-9A-F]{40}\Z")
_SHA256 = late.compile(r"[0-9A-F]{64}\Z")


class Registered(NamedTuple):
    """One app that the console knows; ``fingerprints`` are those of its certificates, hexadecimal, no colons."""

    platform: str
    id: str
    fingerprints: tuple[str, ...] = ()


@dataclass(frozen=True)
class Console:
    """The console: one project, its apps by platform and ID."""

    project: str = "lend-rehearsal"
    apps: Mapping[tuple[str, str], Registered] = field(default_factory=dict)

    @property
    def number(self) -> str:
        """The project's number, which push tokens belong to."""
        return _digits(self.project, 12)


def _digits(text: str, count: int) -> str:
    return str(int(hashlib.sha256(text.encode("utf-8", "surrogatepass")).hexdigest(), 16))[:count]


def register(console: Console, platform: str, app_id: str, fingerprints: Sequence[str] = ()) -> Console:
    """Return the console with an app, or with more fingerprints of one. Raises InputError for what is none."""
    if platform not in PLATFORMS:
        raise InputError(f"“{platform}” is not a platform", remedy="android and ios are.")
    if not _ID.match(app_id):
        raise InputError(
            f"“{app_id}” is not an app ID", remedy="It has parts with dots between them: org.lendspan.app."
        )
    cleaned = tuple(item.replace(":", "").upper() for item in fingerprints)
    for item in cleaned:
        if not (_SHA1.match(item) or _SHA256.match(item)):
            raise InputError(f"“{item}” is not a fingerprint", remedy="Give a certificate's SHA-1 or SHA-256.")
    known = console.apps.get((platform, app_id), Registered(platform, app_id))
    app = known._replace(fingerprints=tuple(dict.fromkeys((*known.fingerprints, *cleaned))))
    return replace(console, apps={**console.apps, (platform, app_id): app})


def _known(console: Console, platform: str, app_id: str) -> Registered:
    app = console.apps.get((platform, app_id))
    if app is None:
        raise InputError(f"{app_id} is not registered for {platform}", remedy="Register it first.")
    return app


def service_file(console: Console, platform: str, app_id: str) -> tuple[str, bytes]:
    """Return name and bytes of the service file of an app. Raises InputError for one that is not registered."""
    app = _known(console, platform, app_id)
    if platform == "ios":
        table = {
            "BUNDLE_ID": app.id,
            "GCM_SENDER_ID": console.number,
            "GOOGLE_APP_ID": f"1:{console.number}:ios:{_mark(app)}",
            "PROJECT_ID": console.project,
            "API_KEY": _key(app),
            "REVERSED_CLIENT_ID": f"example.apps.{console.number}-{_mark(app)}",
        }
        return "GoogleService-Info.plist", plistlib.dumps(table)
    apps = [item for item in console.apps.values() if item.platform == "android"]
    document = {
        "project_info": {"project_number": console.number, "project_id": console.project},
        "client": [_client(console, item) for item in apps],
        "configuration_version": "1",
    }
    return "google-services.json", (json.dumps(document, indent=2) + "\n").encode()


def _mark(app: Registered) -> str:
    return hashlib.sha256(f"{app.platform} {app.id}".encode()).hexdigest()[:22]


def _key(app: Registered) -> str:
    return f"AIza{hashlib.sha256(f'key {app.platform} {app.id}'.encode()).hexdigest()[:35]}"


def _client(console: Console, app: Registered) -> dict[str, Any]:
    logins: list[dict[str, Any]] = [
        {
            "client_id": f"{console.number}-{_mark(app)}.apps.example",
            "client_type": 1,
            "android_info": {"package_name": app.id, "certificate_hash": item.lower()},
        }
        for item in app.fingerprints
        if len(item) == 40
    ]
    logins.append({"client_id": f"{console.number}-web.apps.example", "client_type": 3})
    return {
        "client_info": {
            "mobilesdk_app_id": f"1:{console.number}:android:{_mark(app)}",
            "android_client_info": {"package_name": app.id},
        },
        "oauth_client": logins,
        "api_key": [{"current_key": _key(app)}],
    }


def login(console: Console, platform: str, app_id: str, fingerprint: str = "") -> str:
    """Return why a login is refused, empty where it is not: app, and certificate on Android, must be known."""
    app = console.apps.get((platform, app_id))
    if app is None:
        return f"login refused: {app_id} is not registered"
    if platform == "android" and fingerprint.replace(":", "").upper() not in app.fingerprints:
        return f"login refused: no certificate {fingerprint or 'at all'} is known for {app_id}"
    return ""


def push(console: Console, platform: str, app_id: str, sender: str = "", app: str = "") -> str:
    """Return why a push token is refused, empty where it is not.

    *sender* and *app* are the project's number and the app's ID of the service, as the build holds them.
    """
    known = console.apps.get((platform, app_id))
    if known is None:
        return "push token refused: package not registered"
    if sender and sender != console.number:
        return f"push token refused: the build belongs to project {sender}, the app to {console.number}"
    mine = f"1:{console.number}:{platform}:{_mark(known)}"
    if app and app != mine:
        return f"push token refused: {app} is another app of the project than {app_id}"
    return ""
