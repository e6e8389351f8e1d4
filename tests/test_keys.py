"""Fingerprints and key hashes as values: from keystores that the identity file names, with passwords from the environment."""

from __future__ import annotations

import base64
import hashlib
from pathlib import Path

import pytest
from cryptography.hazmat.primitives.serialization import BestAvailableEncryption, Encoding, pkcs12

from brands import FLAVORS, project
from conftest import files, onomaxis
from onomaxis.brands.keys import Keys
from onomaxis.demo.brandmaking import PASSWORD, make_keystore
from onomaxis.errors import InputError
from onomaxis.identity.declared import Keystore
from onomaxis.tree import Tree

SAID = """format = 1

[app.keystores.release]
file = "keys/release.p12"
password-env = "LENDSPAN_KEYS"

[app.keystores.debug]
file = "keys/debug.p12"

[flavors.alderbank]
[flavors.mossgate.keystores.release]
file = "keys/mossgate.p12"
password-env = "MOSSGATE_KEYS"

[values.print]
template = "{fingerprint.release.sha256}"
places = [{ resource = "string/login" }]

[values.hash]
template = "kh:{key-hash}"
places = [{ placeholder = "mapsKey" }]

[values.debug]
template = "{fingerprint.debug.sha1}"
places = [{ resource = "string/made" }]
"""
ENV = {"LENDSPAN_KEYS": PASSWORD, "MOSSGATE_KEYS": PASSWORD}


def locked_with(path: Path, password: str) -> None:
    """Lock a keystore with another password, as Android's tools lock that of debug builds."""
    found = pkcs12.load_pkcs12(path.read_bytes(), PASSWORD.encode())
    assert found.key and found.cert
    data = pkcs12.serialize_key_and_certificates(b"androiddebugkey", found.key, found.cert.certificate, None, BestAvailableEncryption(password.encode()))  # type: ignore[arg-type]
    path.write_bytes(data)


@pytest.fixture(scope="module")
def keyed(tmp_path_factory: pytest.TempPathFactory) -> Path:
    root = files(tmp_path_factory.mktemp("keys") / "x", {**project(), "onomaxis.toml": SAID})
    for name in ("release", "mossgate", "debug"):
        make_keystore(root / f"keys/{name}.p12")
    locked_with(root / "keys/debug.p12", "android")
    return root


@pytest.fixture
def root(keyed: Path, tmp_path: Path) -> Path:
    import shutil

    return Path(shutil.copytree(keyed, tmp_path / "x"))


def der(root: Path, name: str, password: str = PASSWORD) -> bytes:
    found = pkcs12.load_pkcs12((root / f"keys/{name}.p12").read_bytes(), password.encode())
    assert found.cert
    return found.cert.certificate.public_bytes(Encoding.DER)


def test_certificates_are_stamped(root: Path) -> None:
    """Each flavor gets what its own certificate reads; the password is nowhere; a second stamp changes nothing."""
    done = onomaxis("stamp", root, env=ENV)
    assert done.code == 0, done.err
    for flavor, store in zip(FLAVORS, ("release", "mossgate"), strict=True):
        wanted = hashlib.sha256(der(root, store)).hexdigest().upper()
        text = (
            (root / f"app/src/{flavor}/res/values/strings.xml").read_text()
            if store == "mossgate"
            else (root / "app/src/main/res/values/strings.xml").read_text()
        )
        assert wanted in text.replace(":", "")
    build = (root / "app/build.gradle.kts").read_text()
    for store in ("release", "mossgate"):
        assert f"kh:{base64.b64encode(hashlib.sha1(der(root, store), usedforsecurity=False).digest()).decode()}" in build
    assert hashlib.sha1(der(root, "debug", "android"), usedforsecurity=False).digest().hex(":").upper() in build
    again = onomaxis("stamp", root, env=ENV)
    assert "Nothing to change" in again.err and PASSWORD not in done.out + done.err + again.out
    assert onomaxis("check", root, "--only", "values", env=ENV).out.strip() == "Nothing found: the project is consistent."


def test_without_the_password(root: Path) -> None:
    """Nothing is stamped over; checking says what it could not compare."""
    done = onomaxis("stamp", root, env={"LENDSPAN_KEYS": PASSWORD})
    assert done.code == 2 and "MOSSGATE_KEYS" in done.err and "onomaxis.toml:11" in done.err
    found = onomaxis("check", root, "--only", "values", "--json", env={"LENDSPAN_KEYS": PASSWORD}).json["findings"]
    said = {item["message"] for item in found if item["code"] == "VALUE06"}
    assert said == {"Android mossgate: “print” needs MOSSGATE_KEYS", "Android mossgate: “hash” needs MOSSGATE_KEYS"}


@pytest.mark.parametrize(
    ("old", "new", "said"),
    [
        ('file = "keys/release.p12"', 'file = "keys/none.p12"', "there is no file keys/none.p12"),
        ('file = "keys/release.p12"', 'file = "../release.p12"', "not a path within the project"),
        ('file = "keys/release.p12"', 'file = "keys/release.p12"\nalias = "other"', "no alias “other”: release"),
        ('file = "keys/release.p12"', 'file = "onomaxis.toml"', "keystore “release”: onomaxis.toml:"),
        ('file = "keys/debug.p12"', 'file = "keys/release.p12"', "Name the variable of its password"),
        ("{fingerprint.release.sha256}", "{fingerprint.upload.sha256}", "there is no keystore “upload”"),
        ("{fingerprint.release.sha256}", "{fingerprint.release.md5}", "there is no value “fingerprint.release.md5”"),
        ('file = "keys/debug.p12"\n', "", "the key “file” is missing"),
    ],
)
def test_keystores_that_cannot_be_used(root: Path, old: str, new: str, said: str) -> None:
    """What is wrong with a keystore stands at its line, and nothing is changed."""
    text = (root / "onomaxis.toml").read_text()
    assert old in text
    (root / "onomaxis.toml").write_text(text.replace(old, new, 1))
    done = onomaxis("stamp", root, env=ENV)
    assert done.code == 2 and said in done.err and "onomaxis.toml:" in done.err, done.err


def test_a_debug_certificate_is_no_release(root: Path) -> None:
    """What Android's tools made for debug builds is not taken for what releases are signed with."""
    from cryptography import x509
    from cryptography.hazmat.primitives import hashes
    from cryptography.x509.oid import NameOID

    key = pkcs12.load_pkcs12((root / "keys/release.p12").read_bytes(), PASSWORD.encode()).key
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Android Debug")])
    known = x509.load_der_x509_certificate(der(root, "release"))
    made = x509.CertificateBuilder().subject_name(name).issuer_name(name).public_key(known.public_key()).serial_number(7)
    made = made.not_valid_before(known.not_valid_before_utc).not_valid_after(known.not_valid_after_utc)
    certificate = made.sign(key, hashes.SHA256())  # type: ignore[arg-type]
    data = pkcs12.serialize_key_and_certificates(b"x", key, certificate, None, BestAvailableEncryption(b"android"))  # type: ignore[arg-type]
    tree = Tree.of({"keys/x.p12": data})
    assert "fingerprint.debug.sha1" in (Keys(tree, {})(Keystore("debug", "keys/x.p12", "", "", 1)) or {})
    with pytest.raises(InputError, match="stores refuse what it signs"):
        Keys(tree, {"P": "android"})(Keystore("release", "keys/x.p12", "", "P", 1))
