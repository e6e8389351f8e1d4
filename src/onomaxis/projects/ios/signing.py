"""What signing asks for when an app gets another ID or another team.

Source of the rules: Apple, "TN3125: Inside Code Signing: Provisioning Profiles" (a profile names one App ID and one
team) and "Build settings reference" (Signing, Versioning; a certificate's name ends in its team).
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from onomaxis import late
from onomaxis.model import HIDDEN_PARTS, Facet, Note, ShippedApp, Signing, Value
from onomaxis.projects.ios.settings import Table
from onomaxis.wishes import Renaming

# A certificate's name: "Apple Distribution: Company (TEAM123456)".
_TEAM = late.compile(r"\(([A-Z0-9]{10})\)\Z")


_SIGNING = (
    "CODE_SIGN_STYLE",
    "DEVELOPMENT_TEAM",
    "CODE_SIGN_IDENTITY",
    "PROVISIONING_PROFILE_SPECIFIER",
    "PROVISIONING_PROFILE",
)


def signing_of(table: Table) -> Signing | None:
    """Return how a configuration is signed; None where it says nothing of that."""
    said = {key: table.text(key) for key in _SIGNING}
    if not any(said.values()):
        return None
    found = (table.define(key) for key in (*_SIGNING[3:], "CODE_SIGN_IDENTITY", "DEVELOPMENT_TEAM") if said[key])
    spot = next((item[0].place for item in found if item is not None and item[0].place is not None), None)
    style, team, identity, *profiles = said.values()
    profile = next(filter(None, profiles), "")
    return Signing(style, team, identity, profile, table.text("VERSIONING_SYSTEM"), spot)


def needed_profiles(apps: Iterable[ShippedApp], renamings: Sequence[Renaming]) -> list[Note]:
    """Name the profiles that were made for an ID which is renamed."""
    found = []
    for id_, signing in _signed(apps):
        new = next((n for item in renamings if item.facet is Facet.BUNDLE_ID and (n := item.apply(id_.text))), None)
        if new is not None and signing.manual and signing.place is not None:
            named = f"profile “{signing.profile}” was" if signing.profile else "signing is manual: the profile was"
            found.append(Note(signing.place.at, f"{named} made for {id_.text}: {new} needs one of its own"))
    return list(dict.fromkeys(found))


def other_teams(apps: Iterable[ShippedApp], team: str) -> list[Note]:
    """Name the identities and profiles that belong to another team than the one that shall sign."""
    found = []
    for _, signing in _signed(apps):
        named = _TEAM.search(signing.identity)
        if signing.place is None:
            continue
        if named and named[1] != team:
            said = f"the identity “{signing.identity}” is of team {named[1]}: name one of team {team}"
            found.append(Note(signing.place.at, said))
        if signing.profile and signing.team != team:
            of = f" of team {signing.team}" if signing.team else ""
            said = f"profile “{signing.profile}”{of} stays: team {team} needs one of its own"
            found.append(Note(signing.place.at, said))
    return list(dict.fromkeys(found))


def _signed(apps: Iterable[ShippedApp]) -> Iterator[tuple[Value, Signing]]:
    for app in apps:
        if app.id is not None and app.signing is not None:
            yield app.id, app.signing
        for part in app.parts:
            if part.id is not None and part.signing is not None and part.kind not in HIDDEN_PARTS:
                yield part.id, part.signing
