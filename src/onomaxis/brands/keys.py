"""Certificates that brands are signed with, as values: the keystores that an identity file names are opened here.

Source of the rules: developer.android.com, "Sign your app" (the debug keystore and its passwords).
"""

from __future__ import annotations

import os
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

from onomaxis.errors import FormatError, InputError
from onomaxis.formats.keystore import Certificate, read_keystore
from onomaxis.identity.declared import Keystore
from onomaxis.identity.file import Brand, IdentityFile
from onomaxis.identity.schema import NAME
from onomaxis.identity.templates import RELEASE, keystore_of, needed
from onomaxis.tree import Tree, join, parent

_DEBUG_PASSWORD = "android"


@dataclass(frozen=True)
class Keys:
    """Opens the keystores of a tree, each once; passwords come from the environment alone."""

    tree: Tree
    environment: Mapping[str, str] = field(default_factory=lambda: os.environ)
    _known: dict[Keystore, Mapping[str, str] | None] = field(default_factory=dict)

    def __call__(self, keystore: Keystore) -> Mapping[str, str] | None:
        """Return what templates call the keystore's certificate by; None while its password is not there.

        Raises InputError at the keystore's line where it is gone, locked with another password, or not told apart.
        """
        if keystore not in self._known:
            self._known[keystore] = self._opened(keystore)
        return self._known[keystore]

    def _opened(self, keystore: Keystore) -> Mapping[str, str] | None:
        password = self.environment.get(keystore.password) if keystore.password else _DEBUG_PASSWORD
        if password is None:
            return None
        path = join(parent(NAME), keystore.file)
        data = self.tree.named_file(path)
        if data is None:
            said = self.tree.lacking(path, keystore.file)
            raise _fault(keystore, said, "Paths start from the identity file's folder.")
        try:
            signing = [item for item in read_keystore(data, password) if item.signs]
        except FormatError as error:
            hint = "" if keystore.password else "Name the variable of its password: password-env."
            raise _fault(keystore, f"{keystore.file}: {error.message}", hint) from None
        return _names(keystore, _chosen(keystore, signing))


def _chosen(keystore: Keystore, signing: list[Certificate]) -> Certificate:
    known = ", ".join(item.alias for item in signing)
    found = [item for item in signing if keystore.alias in ("", item.alias)]
    if len(found) != 1:
        lacks = f"no alias “{keystore.alias}”" if keystore.alias else "several keys" if signing else "no key"
        said = f"{keystore.file} has {lacks}" + (f": {known}" if known else "")
        raise _fault(keystore, said, "Name one: alias." if known else "")
    if keystore.name == RELEASE and found[0].debug:
        said = f"{keystore.file} holds the certificate of debug builds: stores refuse what it signs"
        raise _fault(keystore, said, "Name the keystore that releases are signed with, or call it debug.")
    return found[0]


def _names(keystore: Keystore, certificate: Certificate) -> dict[str, str]:
    name = keystore.name
    found = {
        f"fingerprint.{name}.sha1": certificate.sha1,
        f"fingerprint.{name}.sha256": certificate.sha256,
        f"key-hash.{name}": certificate.key_hash,
    }
    return found | ({"key-hash": certificate.key_hash} if name == RELEASE else {})


def _fault(keystore: Keystore, message: str, remedy: str) -> InputError:
    return InputError(f"keystore “{keystore.name}”: {message}", file=NAME, line=keystore.line, remedy=remedy)


def locked(file: IdentityFile, brand: Brand) -> Iterator[tuple[str, Keystore]]:
    """Yield the values of a brand that lack a text because a keystore's password is not there, and the keystore."""
    for value in file.values:
        here = any(place.platform in ("", brand.platform) for place in value.places)
        if here and value.template and value.name not in brand.values:
            asked = {keystore_of(name) for name in needed(value.template)}
            yield from ((value.name, item) for name, item in brand.keystores.items() if name in asked)
