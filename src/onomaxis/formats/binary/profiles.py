"""Provisioning profiles: signed messages that hold a property list.

Source: Apple, "TN3125: Inside Code Signing: Provisioning Profiles".
"""

from __future__ import annotations

import datetime
from collections.abc import Mapping
from typing import Any, NamedTuple

from onomaxis.formats.binary.plist import read_any_plist
from onomaxis.formats.binary.signatures import read_message


class Profile(NamedTuple):
    """A provisioning profile: the application identifier it is for, team, name, end (ISO 8601, UTC).

    ``kind`` says what it is for: ``development``, ``ad hoc``, ``enterprise`` or ``store``.
    """

    app_id: str | None
    team: str | None
    name: str | None
    expires: str | None
    entitlements: Mapping[str, Any] = {}
    kind: str = "store"
    certificates: tuple[bytes, ...] = ()

    def is_for(self, bundle_id: str) -> bool:
        """Tell whether it is for a bundle identifier: its own, or one that its asterisk stands for."""
        own = (self.app_id or "").partition(".")[2]
        return bundle_id.startswith(own[:-1]) if own.endswith("*") else own == bundle_id


def read_profile(data: bytes, what: str) -> Profile:
    """Read a provisioning profile. Raises FormatError."""
    table = read_any_plist(read_message(data, what).content, what)
    rights = table.get("Entitlements")
    rights = rights if isinstance(rights, Mapping) else {}
    teams, ders = table.get("TeamIdentifier"), table.get("DeveloperCertificates")
    expires = table.get("ExpirationDate")
    until = f"{expires.isoformat()}Z" if isinstance(expires, datetime.datetime) else None
    app_id = rights.get("application-identifier") or rights.get("com.apple.application-identifier")
    return Profile(
        _text(app_id),
        next((text for text in teams if isinstance(text, str)), None) if isinstance(teams, list) else None,
        _text(table.get("Name")),
        until,
        rights,
        _kind(table, rights),
        tuple(der for der in ders if isinstance(der, bytes)) if isinstance(ders, list) else (),
    )


def _kind(table: Mapping[str, Any], rights: Mapping[str, Any]) -> str:
    if rights.get("get-task-allow") is True or rights.get("com.apple.security.get-task-allow") is True:
        return "development"
    if table.get("ProvisionsAllDevices") is True:
        return "enterprise"
    return "ad hoc" if "ProvisionedDevices" in table else "store"


def _text(value: Any) -> str | None:
    return value if isinstance(value, str) and value else None
