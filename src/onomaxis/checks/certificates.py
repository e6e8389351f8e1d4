"""A keystore's certificates against what the tree says of them: service files, association files, identity file."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from onomaxis.formats.keystore import Certificate
from onomaxis.identity.file import IdentityFile
from onomaxis.platforms import PLATFORMS
from onomaxis.projects.services import GOOGLE_ANDROID, link_files, read_service
from onomaxis.tree import Tree


class Trust(NamedTuple):
    """One place that names certificates for an app: which of the keystore's it names, and how many others."""

    file: str
    line: int
    app: str
    aliases: tuple[str, ...]
    others: int


def trusted(tree: Tree, file: IdentityFile | None, certificates: Sequence[Certificate]) -> tuple[Trust, ...]:
    """Return every place of a tree that names certificates, and which of *certificates* it names."""
    found: list[Trust] = []
    by_sha1 = {item.sha1.replace(":", "").lower(): item.alias for item in certificates}
    by_sha256 = {item.sha256: item.alias for item in certificates}
    for path in tree.named(GOOGLE_ANDROID):
        for app in read_service(path, tree.read(path) or b"").apps:
            found.append(_trust(path, app.line, app.id, app.certificates, by_sha1))
    for link in link_files(tree):
        for app in link.apps if link.platform == "android" else ():
            found.append(_trust(link.path, app.line, app.id, app.certificates, by_sha256))
    for flavor in ("", *(file.flavors if file else ())):
        for platform in PLATFORMS if file is not None else ():
            assert file is not None
            said = file.brand(flavor, platform).fingerprints
            if said:
                texts = tuple(item.text.upper() for item in said)
                found.append(_trust(file.home(said[0].line), said[0].line, flavor or "app", texts, by_sha256))
    return tuple(dict.fromkeys(found))


def _trust(path: str, line: int, app: str, hashes: Sequence[str], known: dict[str, str]) -> Trust:
    mine = tuple(dict.fromkeys(known[item] for item in hashes if item in known))
    return Trust(path, line, app, mine, len([item for item in hashes if item not in known]))
