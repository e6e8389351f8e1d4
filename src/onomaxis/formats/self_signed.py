"""Certificates that stand for nobody: made here, signed by themselves, for demos and rehearsals."""

from __future__ import annotations

import datetime
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from cryptography.hazmat.primitives.asymmetric import ec, rsa
    from cryptography.x509 import Certificate


def self_signed(
    key: rsa.RSAPrivateKey | ec.EllipticCurvePrivateKey, owner: str, start: datetime.date, days: int
) -> Certificate:
    """Return a certificate of *key* for *owner* (its common name), valid for some days from *start* on."""
    from cryptography import x509
    from cryptography.hazmat.primitives import hashes
    from cryptography.x509.oid import NameOID

    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, owner)])
    begin = datetime.datetime.combine(start, datetime.time(), datetime.UTC)
    return (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(begin)
        .not_valid_after(begin + datetime.timedelta(days=days))
        .sign(key, hashes.SHA256())
    )
