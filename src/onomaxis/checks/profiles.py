"""Rules about provisioning profiles and certificates, in the tree or beside: when they end, which IDs they are for.

Source: Apple, "TN3125: Inside Code Signing: Provisioning Profiles".
"""

from __future__ import annotations

import datetime
from collections import defaultdict
from collections.abc import Iterator, Mapping

from onomaxis.checks.context import Context, at, called
from onomaxis.checks.finding import Finding, rule
from onomaxis.checks.registry import check
from onomaxis.errors import FormatError
from onomaxis.formats.binary.profiles import Profile, read_profile
from onomaxis.formats.keystore import Certificate, der_of
from onomaxis.model import Facet
from onomaxis.projects.siblings import majority

EXPIRED = rule("SIGN06")
EXPIRES = rule("SIGN07")
UNMATCHED = rule("SIGN08")
UNREADABLE = rule("SIGN09")
# A profile is told of so many days before it ends.
_SOON = datetime.timedelta(days=30)
ENDINGS = (".mobileprovision", ".provisionprofile", ".cer")
MOST = 4 * 1024 * 1024
# How the certificates begin that Apple gives for signing (developer.apple.com, "Certificates overview").
_SIGNERS = ("Apple D", "iPhone D", "3rd Party Mac Developer", "Developer ID ", "Mac Developer")


@check(EXPIRED, EXPIRES, UNMATCHED, UNREADABLE)
def check_profiles(context: Context) -> Iterator[Finding]:
    """Check the profiles of a tree by the day of the look and by the IDs that are built."""
    profiles: dict[str, Profile] = {}
    mine = (path for path in context.tree.files if path.endswith(ENDINGS))
    kept = {**{path: context.tree.read(path) or b"" for path in mine}, **context.beside}
    for path, data in kept.items():
        if not path.endswith(".cer"):
            try:
                profiles[path] = read_profile(data[:MOST], path)
            except FormatError as error:
                yield Finding(UNREADABLE, f"it is not a provisioning profile: {error.message}", ((path, 0),))
    for path, profile in profiles.items():
        ends = [Certificate("", der, False).ends for der in profile.certificates]
        known = {"the profile": (profile.expires or "")[:10], "its certificate": max(filter(None, ends), default="")}
        for what, end in known.items():
            yield from _ending(path, f"{what} for {profile.app_id}", end, context.on)
    for path, data in kept.items():
        if path.endswith(".cer"):
            one = Certificate("", der_of(data[:MOST]), False)
            if (name := one.common_name).startswith(_SIGNERS):
                yield from _ending(path, f"the certificate “{name}”", one.ends, context.on)
    if profiles:
        yield from _unmatched(context, profiles)


def _ending(path: str, what: str, end: str, on: str) -> Iterator[Finding]:
    """Say whether something has ended on a day, or ends soon."""
    if on and end and end < on:
        yield Finding(EXPIRED, f"{what} ended on {end}", ((path, 0),))
    elif on and end and end <= (datetime.date.fromisoformat(on) + _SOON).isoformat():
        yield Finding(EXPIRES, f"{what} ends on {end}", ((path, 0),))


def _unmatched(context: Context, profiles: Mapping[str, Profile]) -> Iterator[Finding]:
    """Compare profiles and IDs: one for an ID that nothing has, an ID without one that its siblings have."""
    identifiers = (item for project in context.projects for item in project.identifiers)
    every = {item.value for item in identifiers if item.facet is Facet.BUNDLE_ID}
    shipped: dict[str, tuple[str, tuple[tuple[str, int], ...]]] = {}
    for _, app in context.apps():
        if app.platform == "ios" and app.id is not None:
            shipped.setdefault(app.id.text, (app.flavor, at(app.id)))
            every |= {part.id.text for part in app.parts if part.id is not None}
    for path, profile in profiles.items() if shipped else ():
        if profile.app_id and not any(profile.is_for(id_) for id_ in {*every, *shipped}):
            yield Finding(UNMATCHED, f"no app here has the ID that it is for: {profile.app_id}", ((path, 0),))
    by_kind: dict[str, set[str]] = defaultdict(set)
    for profile in profiles.values():
        by_kind[profile.kind].update(id_ for id_ in shipped if profile.is_for(id_))
    for kind, having in by_kind.items():
        for id_ in shipped if majority(len(having), shipped) else ():
            if id_ not in having:
                flavor, spots = shipped[id_]
                said = f"{called('ios', flavor)}: {id_} has no {kind} profile here, {len(having)} other IDs have one"
                yield Finding(UNMATCHED, said, spots, flavor)
