"""Who signed, and whether it is still what was signed: the signing block of an APK, its older files, CMS messages.

Sources: source.android.com, "APK Signature Scheme v2" and "v3" (block, signer, rotation; IDs 0x7109871a, 0xf05368c0,
0x1b93ad61), "JAR signing" of the Java documentation; RFC 5652 (CMS).
"""

from __future__ import annotations

import hashlib
import struct
from collections.abc import Iterator, Mapping
from typing import Any, NamedTuple

from onomaxis.errors import FormatError
from onomaxis.formats.binary.archive import Archive
from onomaxis.formats.binary.reader import Reader

_MAGIC = b"APK Sig Block 42"
# Newest first: what a device that knows a scheme believes before the ones below.
SCHEMES = {0x1B93AD61: "v3.1", 0xF05368C0: "v3", 0x7109871A: "v2"}
_MOST_SIGNERS = 20
# Which digest of the contents a signature's algorithm signs ("Signature Algorithm IDs"); those over a hash tree, for
# file systems that check themselves, come beside one of these.
_DIGESTS = {
    **dict.fromkeys((0x0101, 0x0103, 0x0201, 0x0301), "sha256"),
    **dict.fromkeys((0x0102, 0x0104, 0x0202), "sha512"),
}
_CHUNK = 1024 * 1024
_SIGNATURE_FILES = (".RSA", ".DSA", ".EC")


class Signer(NamedTuple):
    """A signer of a signing block: its certificate (DER), and the digests of the contents by algorithm."""

    certificate: bytes
    digests: Mapping[int, bytes]


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
            found[scheme] = tuple(signer.certificate for signer in _signers(blocks[number]))
    old = tuple(_jar_signers(archive))
    return found | ({"v1": old} if old else {})


def changed_since(archive: Archive) -> str:
    """Return the scheme whose digest the contents of an APK do not have, empty where they have all that are known.

    Signature files (``v1``) and digests over a hash tree are not computed. Raises FormatError for a damaged block.
    """
    known: dict[str, bytes] = {}
    for number, block in _blocks(archive):
        for signer in _signers(block) if number in SCHEMES else ():
            for algorithm, digest in signer.digests.items():
                name = _DIGESTS.get(algorithm)
                if name is not None and digest != known.setdefault(name, known.get(name) or _digest(archive, name)):
                    return SCHEMES[number]
    return ""


def _digest(archive: Archive, name: str) -> bytes:
    """Return the digest of what stands before the signing block, of the directory and of the end, chunk by chunk.

    The end counts as if the directory began where the block does.
    """
    start, end = archive.directory_offset, archive.end_offset
    begin = start - Reader(archive.raw, "the signing block").number("<Q", start - 24) - 8
    tail = bytearray(archive.raw[end:])
    tail[16:20] = struct.pack("<I", begin & 0xFFFFFFFF)
    count, chunks = 0, bytearray()
    for section in (archive.raw[:begin], archive.raw[start:end], memoryview(tail)):
        for at in range(0, len(section), _CHUNK):
            part = section[at : at + _CHUNK]
            digest = hashlib.new(name, b"\xa5" + struct.pack("<I", len(part)))
            digest.update(part)
            chunks += digest.digest()
            count += 1
    return hashlib.new(name, b"\x5a" + struct.pack("<I", count) + chunks).digest()


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


def _signers(block: Reader) -> Iterator[Signer]:
    """Yield each signer with its first certificate: the one whose key signed, the newest of a rotation."""
    for number, signer in enumerate(_sequence(_prefixed(block, 0))):
        if number >= _MOST_SIGNERS:
            raise FormatError("the signing block names more signers than any device accepts")
        signed = _prefixed(signer, 0)
        digests = _prefixed(signed, 0)
        certificates = _prefixed(signed, 4 + len(digests))
        told = {item.number("<I", 0): bytes(_prefixed(item, 4).data) for item in _sequence(digests)}
        yield Signer(bytes(_prefixed(certificates, 0).data), told)


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
        raise FormatError(f"{what} is not a signed message that can be read") from error
    return Message(tuple(signers), content if isinstance(content, bytes) else b"")


def _is_meant(sid: Any, certificate: Any) -> bool:
    """Tell whether a signer's identifier means a certificate."""
    if sid.name == "issuer_and_serial_number":
        own = sid.chosen
        same = own["serial_number"].native == certificate.serial_number
        return bool(same and own["issuer"].dump() == certificate.issuer.dump())
    return bool(sid.chosen.native == certificate.key_identifier)
