"""Rules about the pictures that a store shows: they are there, and have the size and form that the store takes.

Sources: Play Console Help, "Add preview assets to showcase your app"; App Store Connect Help, "Screenshot
specifications", "App icon".
"""

from __future__ import annotations

from collections.abc import Iterator

from onomaxis.checks.context import Context, called
from onomaxis.checks.finding import Finding, Rule, rule
from onomaxis.checks.registry import check
from onomaxis.formats.binary.picture import HEAD, Picture, measure
from onomaxis.identity.file import SCREENSHOTS, Said
from onomaxis.tree import join, parent

MISSING = rule("LIST09")
SIZE = rule("LIST10")

_PNG, _JPEG = b"\x89PNG", b"\xff\xd8"
_MOST_ICON = 1024 * 1024
# Edges in pixels, portrait: a telephone's, then a tablet's.
_APPLE = frozenset(
    (
        (1320, 2868), (1290, 2796), (1260, 2736), (1284, 2778), (1242, 2688), (1206, 2622), (1179, 2556),
        (1170, 2532), (1125, 2436), (1080, 2340), (1242, 2208), (750, 1334), (640, 1136), (640, 960),
        (2064, 2752), (2048, 2732), (1668, 2420), (1668, 2388), (1640, 2360), (1488, 2266), (1668, 2224),
        (1536, 2048),
    )
)  # fmt: skip
_LEAST, _MOST = 320, 3840
_NUMBER = {"android": (2, 8), "ios": (1, 10)}
_EDGES = {
    ("android", "store-icon"): (512, 512),
    ("ios", "store-icon"): (1024, 1024),
    ("android", "feature"): (1024, 500),
}
_KEYS = {"android": ("store-icon", "feature", SCREENSHOTS), "ios": ("store-icon", SCREENSHOTS)}


@check(MISSING, SIZE)
def check_pictures(context: Context) -> Iterator[Finding]:
    """Check the listing's pictures of every flavor on its platforms."""
    for subject, flavor, brand in context.spoken():
        for language, table in brand.listing.items():
            label = f"{called(subject.platform, flavor)}, {language}"
            mine = {key: said for key, said in table.items() if key.startswith(_KEYS[subject.platform])}
            for key, said in mine.items():
                for broken, text in _of_picture(context, subject.platform, key, said):
                    yield Finding(broken, f"{label}: {said.text} {text}", context.spot(said), flavor)
            shots = [said for key, said in mine.items() if key.startswith(SCREENSHOTS)]
            least, most = _NUMBER[subject.platform]
            if shots and not least <= len(shots) <= most:
                text = f"{label}: {len(shots)} screenshots, the store takes {least} to {most}"
                yield Finding(SIZE, text, context.spot(shots[0]), flavor)


def _of_picture(context: Context, platform: str, key: str, said: Said) -> Iterator[tuple[Rule, str]]:
    path = join(parent(context.file.path), said.text) if context.file is not None else said.text
    data = context.tree.named_file(path)
    if data is None:
        why = context.tree.lacking(path, said.text)
        yield MISSING, "is not there" if why.startswith("there is no") else why.removeprefix(f"{said.text} ")
        return
    seen = measure(data[:HEAD]) if data[:4] == _PNG or data[:2] == _JPEG else None
    if seen is None:
        yield SIZE, "is neither PNG nor JPEG"
        return
    size = f"is {seen.width} x {seen.height}"
    edges = _EDGES.get((platform, key))
    if edges is not None and seen[:2] != edges:
        yield SIZE, f"{size}, {edges[0]} x {edges[1]} is asked for"
    if key.startswith(SCREENSHOTS):
        yield from ((SIZE, f"{size}, {text}") for text in _screenshot(platform, seen))
    if seen.alpha and (platform, key) != ("android", "store-icon"):
        yield SIZE, "has an alpha channel"
    if (platform, key) == ("android", "store-icon") and len(data) > _MOST_ICON:
        yield SIZE, f"has {len(data) >> 10:,} KB, 1,024 are the most"


def _screenshot(platform: str, seen: Picture) -> Iterator[str]:
    short, long = sorted(seen[:2])
    if platform == "ios":
        if (short, long) not in _APPLE:
            yield "no device that the store knows has that"
    elif short < _LEAST or long > _MOST:
        yield f"edges of {_LEAST} to {_MOST} are taken"
    elif long > 2 * short:
        yield "the longer edge is more than twice the shorter"
