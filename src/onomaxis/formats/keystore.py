"""Keystores: the certificates of every alias, from PKCS#12 files and Java keystores (JKS).

PKCS#12 (RFC 7292) is read by the cryptography package. The Java format has no public document; its layout is that of
OpenJDK's ``sun.security.provider.JavaKeyStore``: certificates stand in the open, a keyed digest guards the whole.
"""

from __future__ import annotations

import hashlib
import struct
from collections.abc import Iterator
from typing import NamedTuple

from onomaxis.errors import FormatError

_MAGIC = 0xFEEDFEED
_JCEKS = 0xCECECECE
# What OpenJDK mixes into the digest of the whole file.
_SALT = b"Mighty Aphrodite"


class Certificate(NamedTuple):
    """The certificate of one alias: its DER bytes; ``signs`` where the key to sign with stands beside it."""

    alias: str
    der: bytes
    signs: bool

    @property
    def sha1(self) -> str:
        """SHA-1 as capital hexadecimal pairs with colons."""
        return _pairs(hashlib.sha1(self.der, usedforsecurity=False).digest())

    @property
    def sha256(self) -> str:
        """SHA-256 as capital hexadecimal pairs with colons."""
        return _pairs(hashlib.sha256(self.der).digest())

    @property
    def key_hash(self) -> str:
        """SHA-1 in base64, as login services ask for it."""
        import base64

        return base64.b64encode(hashlib.sha1(self.der, usedforsecurity=False).digest()).decode()

    @property
    def subject(self) -> str:
        """Whom the certificate names (RFC 4514); empty when it cannot be read."""
        from cryptography import x509

        try:
            return x509.load_der_x509_certificate(self.der).subject.rfc4514_string()
        except ValueError:
            return ""

    @property
    def common_name(self) -> str:
        """The name that the certificate is known by; empty when it cannot be read."""
        from cryptography import x509

        try:
            names = x509.load_der_x509_certificate(self.der).subject.get_attributes_for_oid(x509.NameOID.COMMON_NAME)
        except ValueError:
            return ""
        return str(names[0].value) if names else ""

    @property
    def ends(self) -> str:
        """The last day on which the certificate holds (ISO 8601, UTC); empty when it cannot be read."""
        from cryptography import x509

        try:
            return x509.load_der_x509_certificate(self.der).not_valid_after_utc.date().isoformat()
        except ValueError:
            return ""

    @property
    def debug(self) -> bool:
        """True for the certificate that the Android tools make for debug builds (CN=Android Debug)."""
        return "CN=Android Debug" in self.subject


class WrongPasswordError(FormatError):
    """The password does not open the keystore."""


def der_of(data: bytes) -> bytes:
    """Return the DER bytes of a certificate in either form: those of PEM decoded, all else as it is."""
    import ssl

    try:
        return ssl.PEM_cert_to_DER_cert(data.decode("ascii").strip())
    except ValueError:
        return data


def _pairs(data: bytes) -> str:
    return data.hex(":").upper()


def read_keystore(data: bytes, password: str) -> tuple[Certificate, ...]:
    """Return the certificate of each alias, in file order. Raises FormatError, WrongPasswordError."""
    magic = struct.unpack(">I", data[:4])[0] if len(data) >= 4 else 0
    if magic == _JCEKS:
        raise FormatError("a JCEKS keystore is not read: convert it to PKCS#12 with keytool -importkeystore")
    if magic == _MAGIC:
        return _java(data, password)
    if data[:1] == b"\x30":
        return _pkcs12(data, password)
    raise FormatError("this is neither a PKCS#12 file nor a Java keystore")


def _pkcs12(data: bytes, password: str) -> tuple[Certificate, ...]:
    from cryptography.hazmat.primitives.serialization import Encoding, pkcs12

    try:
        store = pkcs12.load_pkcs12(data, password.encode("utf-8"))
    except ValueError as error:
        if "password" in str(error).lower() or "mac" in str(error).lower():
            raise WrongPasswordError("the password does not open the keystore") from None
        raise FormatError(f"the PKCS#12 file cannot be read: {error}") from None
    found = []
    for item, signs in ((store.cert, store.key is not None), *((cert, False) for cert in store.additional_certs)):
        if item is not None:
            name = (item.friendly_name or b"").decode("utf-8", "replace")
            der = item.certificate.public_bytes(Encoding.DER)
            if name or signs:
                found.append(Certificate(name or "1", der, signs))
    return tuple(found)


class _Bytes:
    def __init__(self, data: bytes) -> None:
        self.data = data
        self.at = 0

    def take(self, count: int) -> bytes:
        part = self.data[self.at : self.at + count]
        if count < 0 or len(part) < count:
            raise FormatError("the keystore ends too early")
        self.at += count
        return part

    def number(self, form: str) -> int:
        return int(struct.unpack(form, self.take(struct.calcsize(form)))[0])

    def text(self) -> str:
        """Read a modified UTF-8 string (java.io.DataInput); only what differs from UTF-8 is decoded apart."""
        raw = self.take(self.number(">H"))
        return (
            raw.replace(b"\xc0\x80", b"\0")
            .decode("utf-8", "surrogatepass")
            .encode("utf-16", "surrogatepass")
            .decode("utf-16", "replace")
        )


def _java(data: bytes, password: str) -> tuple[Certificate, ...]:
    digest = hashlib.sha1(password.encode("utf-16-be") + _SALT + data[:-20], usedforsecurity=False).digest()
    if digest != data[-20:]:
        raise WrongPasswordError("the password does not open the keystore")
    reader = _Bytes(data[4:-20])
    version = reader.number(">I")
    if version not in (1, 2):
        raise FormatError(f"the Java keystore has version {version}; 1 and 2 are read")
    return tuple(_entries(reader, version))


def _entries(reader: _Bytes, version: int) -> Iterator[Certificate]:
    for _ in range(reader.number(">I")):
        tag = reader.number(">I")
        alias = reader.text()
        reader.take(8)  # the time of creation
        if tag == 1:
            reader.take(reader.number(">I"))  # the private key, encrypted: it is not needed
            chain = [_certificate(reader, version) for _ in range(reader.number(">I"))]
            if chain:
                yield Certificate(alias, chain[0], True)
        elif tag == 2:
            yield Certificate(alias, _certificate(reader, version), False)
        else:
            raise FormatError(f"the keystore holds an entry of unknown kind {tag}")


def _certificate(reader: _Bytes, version: int) -> bytes:
    if version == 2:
        reader.text()  # the type, X.509
    return reader.take(reader.number(">I"))
