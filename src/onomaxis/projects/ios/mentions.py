"""What a bundle identifier found in a file of an iOS project means there."""

from __future__ import annotations

from bisect import bisect_right
from typing import NamedTuple

from onomaxis.formats.openstep import OpenStepDocument, Text, parse_openstep
from onomaxis.formats.source import Source
from onomaxis.model import Facet, Mention, Piece, Role, Scope, Value
from onomaxis.projects.occurrences import ending, language_of
from onomaxis.projects.ownership import standing
from onomaxis.projects.project import Hits, Occurrence, place

_EDITED = frozenset(
    """.swift .m .mm .h .plist .entitlements .xcconfig .xcscheme .storyboard .xib .strings .stringsdict
    .xcprivacy .pbxproj .c .cpp""".split()
)
# Prefixes that make an identifier the name of shared data (Apple, "Entitlements").
_GROUP_PREFIXES = ("group.", "iCloud.", "merchant.", "pass.")
_GROUP_KEYS = frozenset(
    {
        "com.apple.security.application-groups",
        "keychain-access-groups",
        "com.apple.developer.icloud-container-identifiers",
        "com.apple.developer.ubiquity-container-identifiers",
        "com.apple.developer.ubiquity-kvstore-identifier",
    }
)
GROUP_REASON = "shared data is kept under this group: --groups rewrite changes it everywhere"


class BundleIds(NamedTuple):
    """The bundle identifiers of an Xcode project: the apps', then everybody's."""

    apps: tuple[str, ...]
    all: tuple[str, ...]


def classify(
    foreign: tuple[str, ...], path: str, source: Source, hits: Hits, known: OpenStepDocument | None = None
) -> list[Mention]:
    """Say what each occurrence is; *known* is the file as parsed, where it was."""
    literals = _literals(path, source, known)
    return [_one(foreign, path, source, hit, literals) for hit in hits]


def _literals(path: str, source: Source, known: OpenStepDocument | None) -> list[Text]:
    """Return the strings of a project file in order, so that an occurrence is edited within its literal."""
    if not path.endswith(".pbxproj"):
        return []
    if known is not None and known.source.data != source.data:  # the file as it will be
        known = None
    found = [node for _, node in (known or parse_openstep(source.data)).texts()]
    return sorted(found, key=lambda node: node.start)


def _one(foreign: tuple[str, ...], path: str, source: Source, hit: Occurrence, literals: list[Text]) -> Mention:
    scope = Scope("ios")
    facet = Facet.APP_GROUP if _is_group(source, hit) else Facet.BUNDLE_ID
    spot = place(path, source, hit.start, hit.end, "raw")
    stays = standing(path, source, hit, foreign) or _kept(path, source, hit)
    if stays:
        return Mention(facet, stays[0], spot, hit.identifier, scope, reason=stays[1])
    if facet is Facet.APP_GROUP:
        return Mention(facet, Role.OUTSIDE, spot, hit.identifier, scope, reason=GROUP_REASON)
    if not literals:
        return Mention(facet, Role.FOLLOWER, spot, hit.identifier, scope)
    return _in_project_file(path, source, hit, literals, scope)


def _in_project_file(path: str, source: Source, hit: Occurrence, literals: list[Text], scope: Scope) -> Mention:
    spot = place(path, source, hit.start, hit.end, "raw")
    index = bisect_right([node.start for node in literals], hit.start) - 1
    node = literals[index] if index >= 0 and literals[index].end >= hit.end else None
    if node is None:
        return Mention(
            Facet.BUNDLE_ID, Role.PROSE, spot, hit.identifier, scope, reason="a comment of the project file"
        )
    key = source.view[max(0, node.start - 80) : node.start].rpartition("\n")[2].strip()
    if key.startswith(("PROVISIONING_PROFILE", '"PROVISIONING_PROFILE')):
        reason = "a provisioning profile: a new one is needed for the new ID"
        return Mention(Facet.BUNDLE_ID, Role.OUTSIDE, spot, hit.identifier, scope, reason=reason)
    whole = place(path, source, node.start, node.end, "openstep")
    before, _, after = node.value.partition(hit.identifier)
    value = Value((Piece(hit.identifier, whole, before, after),), whole)
    return Mention(Facet.BUNDLE_ID, Role.FOLLOWER, spot, hit.identifier, scope, value)


def _is_group(source: Source, hit: Occurrence) -> bool:
    return source.view[max(0, hit.start - 12) : hit.start].endswith(_GROUP_PREFIXES) or hit.holder in _GROUP_KEYS


def _kept(path: str, source: Source, hit: Occurrence) -> tuple[Role, str] | None:
    if ending(path) not in _EDITED and language_of(path) is None:
        return Role.OUTSIDE, "not a file of a known kind: change it by hand if it means this app"
    if hit.context == "element" and hit.before.strip() and b"<key>provisioningProfiles</key>" in source.data:
        return Role.OUTSIDE, "a provisioning profile: a new one is needed for the new ID"
    if hit.holder in ("com.apple.developer.associated-domains",):
        return Role.OUTSIDE, "an associated domain: the site must name the new ID too"
    return None
