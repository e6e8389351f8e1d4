"""The white-label half of the demo: flavors added by the tool itself, a keystore made anew, faults put in by hand."""

from __future__ import annotations

import datetime
import json
from collections.abc import Callable
from pathlib import Path

from onomaxis.brands.flavors import add_flavor
from onomaxis.brands.new_flavor import FlavorWish
from onomaxis.demo import FLAVORS, KEYSTORE, PASSWORD
from onomaxis.formats.keystore import read_keystore
from onomaxis.formats.self_signed import self_signed
from onomaxis.tree import Tree
from onomaxis.writing.planned import Stages

_SHOWN = {"alderbank": "Alderbank Tools", "mossgate": "Mossgate Shed", "pennywick": "Pennywick Lends"}


def white_label(target: Path, overlay: Callable[[], None]) -> None:
    """Make the copied demo a white-label project; *overlay* copies the files that go with it."""
    for flavor in FLAVORS:
        _add(target, FlavorWish(flavor, shown=_SHOWN[flavor], app="org.lendspan.app", platforms=("ios",)))
        _add(target / "counter", FlavorWish(flavor, shown=f"{flavor.title()} Counter", only=True))
    overlay()
    _faults(target)
    make_keystore(target / KEYSTORE)
    _links(target)


def _add(folder: Path, wish: FlavorWish) -> None:
    stages = Stages(Tree.open(folder))
    add_flavor(stages, wish)
    for change in stages.changes:
        if change.target is not None and change.after is not None:
            path = folder / change.target
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_bytes(change.after)


def _faults(target: Path) -> None:
    """Put in what goes wrong by hand: a name that was copied, a version that was raised on one side alone."""
    for file, old, new in (
        ("ios/Config/mossgate.xcconfig", "BRAND_NAME = Mossgate Shed", "BRAND_NAME = Alderbank Tools"),
        ("ios/Config/Shared.xcconfig", "CURRENT_PROJECT_VERSION = 41", "CURRENT_PROJECT_VERSION = 40"),
        ("counter/ios/Flavors/pennywick.xcconfig", "org.lendspan.counter.pennywick", "org.lendspan.counter.penny"),
    ):
        path = target / file
        path.write_text(path.read_text("utf-8").replace(old, new), "utf-8")


def make_keystore(path: Path) -> None:
    """Make a key and a certificate that nobody else has."""
    from cryptography.hazmat.primitives.asymmetric import ec
    from cryptography.hazmat.primitives.serialization import BestAvailableEncryption, pkcs12

    key = ec.generate_private_key(ec.SECP256R1())
    certificate = self_signed(key, "Lendspan", datetime.date(2026, 1, 1), 365 * 30)
    secret = BestAvailableEncryption(PASSWORD.encode())
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(pkcs12.serialize_key_and_certificates(b"release", key, certificate, None, secret))


def _links(target: Path) -> None:
    """Write the association file of the app's web site, which trusts the new certificate."""
    certificate = read_keystore((target / KEYSTORE).read_bytes(), PASSWORD)[0]
    ids = ("org.lendspan.app", "org.lendspan.app.alderbank", "org.lendspan.app.mossgate", "org.lendspan.pennywick")
    statements = [
        {
            "relation": ["delegate_permission/common.handle_all_urls"],
            "target": {
                "namespace": "android_app",
                "package_name": id_,
                "sha256_cert_fingerprints": [certificate.sha256],
            },
        }
        for id_ in ids
    ]
    path = target / "web/.well-known/assetlinks.json"
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text(json.dumps(statements, indent=2) + "\n", "utf-8")
