"""A stand-in developer portal: bundle IDs registered with capabilities, and provisioning profiles issued for them.

Profiles have the form of real ones, a property list in a signed message (CMS), and are signed by a certificate that
the stand-in makes for itself: no device trusts it.
"""

from __future__ import annotations

import datetime
import plistlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from onomaxis import late
from onomaxis.errors import InputError
from onomaxis.formats.self_signed import self_signed

TEAM = "LEND234567"
_ID = late.compile(r"[A-Za-z0-9-]+(?:\.[A-Za-z0-9-]+)+\Z")
# Capabilities, and the entitlement that each gives.
CAPABILITIES = {
    "push": "aps-environment",
    "app-groups": "com.apple.security.application-groups",
    "associated-domains": "com.apple.developer.associated-domains",
    "sign-in": "com.apple.developer.applesignin",
}
# How long a profile holds, in days; the day it begins is the caller's, so that nothing here depends on a clock.
_HOLDS = 365


@dataclass(frozen=True)
class Portal:
    """The portal: bundle IDs with their capabilities; ``key`` and ``certificate`` (PEM) sign its profiles."""

    ids: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    key: str = ""
    certificate: str = ""


def register_id(portal: Portal, bundle_id: str, capabilities: Sequence[str] = ()) -> Portal:
    """Return the portal with a bundle ID. Raises InputError for what is none."""
    if not _ID.match(bundle_id):
        raise InputError(
            f"“{bundle_id}” is not a bundle ID", remedy="It has parts with dots between them: org.lendspan.app."
        )
    for item in capabilities:
        if item not in CAPABILITIES:
            raise InputError(f"“{item}” is not a capability here", remedy=f"There are: {', '.join(CAPABILITIES)}.")
    known = tuple(dict.fromkeys((*portal.ids.get(bundle_id, ()), *capabilities)))
    return replace(portal, ids={**portal.ids, bundle_id: known})


def issue(portal: Portal, bundle_id: str, day: datetime.date) -> tuple[Portal, bytes]:
    """Return the portal, with a key of its own from now on, and a profile for a registered ID. Raises InputError."""
    if bundle_id not in portal.ids:
        raise InputError(f"{bundle_id} is not registered", remedy="Register it first.")
    if not portal.key:
        portal = _with_key(portal, day)
    start = datetime.datetime.combine(day, datetime.time())
    rights: dict[str, object] = {"application-identifier": f"{TEAM}.{bundle_id}", "get-task-allow": False}
    for capability in portal.ids[bundle_id]:
        rights[CAPABILITIES[capability]] = "production" if capability == "push" else ["*"]
    table = {
        "AppIDName": bundle_id.rpartition(".")[2],
        "Name": f"Rehearsal {bundle_id}",
        "TeamIdentifier": [TEAM],
        "TeamName": "Rehearsal",
        "CreationDate": start,
        "ExpirationDate": start + datetime.timedelta(days=_HOLDS),
        "Entitlements": rights,
    }
    return portal, _signed(portal, plistlib.dumps(table))


def _with_key(portal: Portal, day: datetime.date) -> Portal:
    from cryptography.hazmat.primitives import serialization
    from cryptography.hazmat.primitives.asymmetric import rsa

    key = rsa.generate_private_key(65537, 2048)
    certificate = self_signed(key, f"Rehearsal Distribution: Lendspan ({TEAM})", day, 10 * _HOLDS)
    plain = serialization.NoEncryption()
    form = serialization.PrivateFormat.PKCS8
    text = key.private_bytes(serialization.Encoding.PEM, form, plain).decode()
    return replace(portal, key=text, certificate=certificate.public_bytes(serialization.Encoding.PEM).decode())


def _signed(portal: Portal, body: bytes) -> bytes:
    from cryptography import x509
    from cryptography.hazmat.primitives import hashes, serialization
    from cryptography.hazmat.primitives.asymmetric import rsa
    from cryptography.hazmat.primitives.serialization import pkcs7

    try:
        key = serialization.load_pem_private_key(portal.key.encode(), None)
        certificate = x509.load_pem_x509_certificate(portal.certificate.encode())
    except ValueError:
        raise InputError("the portal's key cannot be read", remedy="Remove its state: it begins anew.") from None
    if not isinstance(key, rsa.RSAPrivateKey):
        raise InputError("the portal's key is of another kind than its own", remedy="Remove its state.")
    builder = pkcs7.PKCS7SignatureBuilder().set_data(body).add_signer(certificate, key, hashes.SHA256())
    return builder.sign(serialization.Encoding.DER, [pkcs7.PKCS7Options.Binary])
