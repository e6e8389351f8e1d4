"""Who signed: the signing block of an APK, its older signature files, and CMS messages.

Sources: source.android.com, "APK Signature Scheme v2" and "v3" (block, signer, rotation; IDs 0x7109871a, 0xf05368c0,
0x1b93ad61), "JAR signing" of the Java documentation; RFC 5652 (CMS).
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, NamedTuple

from onomaxis.errors import FormatError
from onomaxis.formats.binary.archive import Archive
from onomaxis.formats.binary.reader import Reader

_MAGIC = b"APK Sig Block 42"
# Newest first: what a device that knows a scheme believes before the ones below.
SCHEMES = {0x1B93AD61: "v3.1", 0xF05368C0: "v3", 0x7109871A: "v2"}
_MOST_SIGNERS = 20
_SIGNATURE_FILES = (".RSA", ".DSA", ".EC")


class Message(NamedTuple):
    """A signed CMS message: the certificates of its signers (DER), and what it holds."""

    signers: tuple[bytes, ...]
    content: bytes


def signers_of(archive: Archive) -> dict[str, tuple[bytes, ...]]:
    """Return the certificates (DER) of the signers of an APK by scheme, the newest scheme first.

    Raises FormatError for a block or signature that is cut off or damaged.
    """
    found: dict[str, tuple[bytes, ...]] = {}
    blocks = dict(_blocks(archive))
    for number, scheme in SCHEMES.items():
        if number in blocks:
            found[scheme] = tuple(_signers(blocks[number]))
    old = tuple(_jar_signers(archive))
    return found | ({"v1": old} if old else {})


def _blocks(archive: Archive) -> Iterator[tuple[int, Reader]]:
    """Yield ID and value of each pair in the block before the directory."""
    end = archive.directory_offset
    if end < 32 or bytes(archive.raw[end - 16 : end]) != _MAGIC:
        return
    reader = Reader(archive.raw, "the signing block")
    size = reader.number("<Q", end - 24)
    start = end - size - 8
    if size < 24 or start < 0 or reader.number("<Q", start) != size:
        raise FormatError("the signing block is cut off or damaged")
    at = start + 8
    while at < end - 24:
        long = reader.number("<Q", at)
        if long < 4 or at + 8 + long > end - 24:
            raise FormatError("the signing block is cut off or damaged")
        yield reader.number("<I", at + 8), reader.part(at + 12, long - 4)
        at += 8 + long


def _signers(block: Reader) -> Iterator[bytes]:
    """Yield the first certificate of each signer: the one whose key signed, the newest of a rotation."""
    for number, signer in enumerate(_sequence(_prefixed(block, 0))):
        if number >= _MOST_SIGNERS:
            raise FormatError("the signing block names more signers than any device accepts")
        signed = _prefixed(signer, 0)
        digests = _prefixed(signed, 0)
        certificates = _prefixed(signed, 4 + len(digests))
        yield bytes(_prefixed(certificates, 0).data)


def _prefixed(reader: Reader, at: int) -> Reader:
    return reader.part(at + 4, reader.number("<I", at))


def _sequence(reader: Reader) -> Iterator[Reader]:
    at = 0
    while at < len(reader):
        item = _prefixed(reader, at)
        yield item
        at += 4 + len(item)


def _jar_signers(archive: Archive) -> Iterator[bytes]:
    for name in archive.names():
        folder, _, last = name.rpartition("/")
        if folder == "META-INF" and last.upper().endswith(_SIGNATURE_FILES):
            yield from read_message(archive.read(name, 1024 * 1024), name).signers


def read_message(data: bytes, what: str) -> Message:
    """Read a signed message. Raises FormatError for what is none."""
    from asn1crypto import cms

    try:
        signed: Any = cms.ContentInfo.load(data, strict=False)["content"]
        certificates = [item.chosen for item in signed["certificates"] if item.name == "certificate"]
        signers = []
        for signer in signed["signer_infos"]:
            sid = signer["sid"]
            for certificate in certificates:
                if _is_meant(sid, certificate):
                    signers.append(certificate.dump())
                    break
        content = signed["encap_content_info"]["content"].native
    except (ValueError, TypeError, KeyError, AttributeError, RecursionError, OverflowError) as error:
        raise FormatError(f"{what} is no signed message that can be read") from error
    return Message(tuple(signers), content if isinstance(content, bytes) else b"")


def _is_meant(sid: Any, certificate: Any) -> bool:
    """Tell whether a signer's identifier means a certificate."""
    if sid.name == "issuer_and_serial_number":
        own = sid.chosen
        same = own["serial_number"].native == certificate.serial_number
        return bool(same and own["issuer"].dump() == certificate.issuer.dump())
    return bool(sid.chosen.native == certificate.key_identifier)
