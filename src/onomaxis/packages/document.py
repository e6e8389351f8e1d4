"""Packages as JSON: the document is a contract, see docs/json.md."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from onomaxis.packages.facts import Package

if TYPE_CHECKING:
    from onomaxis.checks.finding import Finding

_ICON = ("role", "density", "path", "width", "height", "alpha")


def as_document(package: Package) -> dict[str, Any]:
    """Return one package; what it does not say is null, or an empty list or object."""
    profile = package.profile
    return {
        "path": package.path,
        "kind": package.kind,
        "platform": package.platform,
        "id": package.id,
        "name": package.name,
        "names": dict(package.names),
        "version": package.version,
        "build": package.build,
        "min": package.min,
        "target": package.target,
        "debuggable": package.debuggable,
        "icons": [{name: getattr(item, name) for name in _ICON} for item in package.icons],
        "permissions": list(package.permissions),
        "authorities": list(package.authorities),
        "hosts": list(package.hosts),
        "schemes": list(package.schemes),
        "metadata": dict(package.metadata),
        "services": dict(package.services),
        "parts": [
            {name: getattr(item, name) for name in ("kind", "id", "name", "version", "build", "path")}
            for item in package.parts
        ],
        "entitlements": dict(package.entitlements),
        "profile": {name: getattr(profile, name) for name in ("app_id", "team", "name", "expires")}
        if profile
        else None,
        "catalog": package.catalog is not None,
        "certificates": [
            {
                "sha1": item.certificate.sha1,
                "sha256": item.certificate.sha256,
                "subject": item.certificate.subject,
                "scheme": list(item.schemes),
                "debug": item.debug,
            }
            for item in package.certificates
        ],
    }


def findings_of(findings: Sequence[Finding], packages: Sequence[Package]) -> list[dict[str, Any]]:
    """Return findings, each place as the package and the entry in it."""
    return [
        {
            "code": item.rule.code,
            "severity": item.rule.severity,
            "title": item.rule.title,
            "message": item.message,
            "flavor": item.flavor,
            "at": [_spot(file, packages) for file, _ in item.at],
            "remedy": item.rule.remedy,
            "fault": item.fault,
        }
        for item in findings
    ]


def _spot(place: str, packages: Sequence[Package]) -> dict[str, str]:
    paths = [item.path for item in packages if place.startswith(f"{item.path.rstrip('/')}/")]
    path = max(paths, key=len, default="")
    return {"package": path, "entry": place[len(path.rstrip("/")) + 1 :]}
