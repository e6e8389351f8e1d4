"""A band across icons: inside the safe circle wherever it lies, on every picture, the same as outlines, gone again."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from conftest import files, onomaxis, snapshot
from onomaxis.icons.derive import build_icon_set
from onomaxis.icons.layers import IconSet
from onomaxis.icons.pixels import to_bytes, to_picture
from onomaxis.icons.ribbon import CORNERS, ribbon_of
from onomaxis.icons.scaled import render_svg
from onomaxis.icons.tiles import drawn_tile
from onomaxis.icons.vectorize import differing, vector_layer
from onomaxis.icons.vectors import VectorReader
from onomaxis.icons.wish import IconWish

ART = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10"><circle cx="5" cy="5" r="4.5" fill="#2E6B4F"/></svg>'
FULL = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10"><path d="M0 0H10V10H0z" fill="#2E6B4F"/><path d="M0 0H10L0 10z" fill="#C8A24A"/></svg>'
SIZE = 216


@pytest.fixture
def art(tmp_path: Path) -> dict[str, str]:
    files(tmp_path, {"front.svg": ART, "full.svg": FULL})
    return {"front": str(tmp_path / "front.svg"), "full": str(tmp_path / "full.svg")}


def sets(art: dict[str, str], how: str, **ribbon: str) -> tuple[IconSet, IconSet]:
    """Return a set without a band and the same with it."""
    if how == "layers":
        wish = IconWish(foreground=art["front"], background="#F4ECD8", ios_dark=art["front"], ios_tinted=art["front"], legacy_art=art["full"])
    else:
        wish = IconWish(art=art["full"], ios_art=art["full"])
    return build_icon_set(wish), build_icon_set(wish._replace(ribbon="BETA", **ribbon))


def changed(one: np.ndarray, other: np.ndarray) -> np.ndarray:
    return (np.abs(to_bytes(one).astype(int) - to_bytes(other).astype(int)) > 8).any(axis=2)


def reach(mask: np.ndarray, shown: float) -> float:
    """Return how far from the middle anything is, in dp, where the picture shows so many."""
    height, width = mask.shape
    rows, columns = np.nonzero(mask)
    return float(np.hypot(rows + 0.5 - height / 2, columns + 0.5 - width / 2).max() * shown / min(height, width))


@pytest.mark.parametrize("corner", CORNERS)
@pytest.mark.parametrize("how", ["layers", "full"])
def test_it_lies_inside_the_safe_circle_on_every_picture(art: dict[str, str], how: str, corner: str) -> None:
    """And nothing else of any picture changes; 66 of a layer's 108 dp are safe, a launcher shows 72."""
    plain, worn = sets(art, how, ribbon_corner=corner)
    pictures = {"full": 72.0, "square": 72.0, "apple": 72.0, "foreground": 108.0}
    pictures |= {"monochrome": 108.0, "apple-dark": 72.0, "apple-tinted": 72.0} if how == "layers" else {}
    for shape, shown in pictures.items():
        one, other = (drawn_tile(icons, shape, SIZE, SIZE) for icons in (plain, worn))
        mask = changed(one, other)
        assert mask.sum() > SIZE and reach(mask, shown) <= 33.8, (shape, reach(mask, shown))
        rows, columns = np.nonzero(mask)
        side = (rows.mean() > SIZE / 2, columns.mean() / SIZE)
        assert side[0] == corner.startswith("bottom") and abs(side[1] - (0.62 if "right" in corner else 0.38 if "left" in corner else 0.5)) < 0.1, (shape, side)


def test_pictures_and_outlines_are_the_same(art: dict[str, str]) -> None:
    """The vector drawable of the foreground, drawn by itself, is what a picture of the layer shows."""
    for corner in CORNERS:
        _, worn = sets(art, "layers", ribbon_corner=corner)
        assert worn.foreground is not None
        data = vector_layer(worn.foreground, False, worn.ribbon)
        again = to_picture(render_svg(VectorReader(data, lambda name: name).svg(), SIZE, SIZE))
        assert differing(again, worn.layer("foreground", SIZE)) < 0.01
        assert data != vector_layer(worn.foreground, False)


def test_a_silhouette_shows_the_word() -> None:
    """Of a drawing that covers all, the letters and a rim around the band are left out; the band itself is there."""
    ribbon = ribbon_of("I", corner="bottom")
    assert ribbon is not None
    alpha = ribbon.cut(np.ones((SIZE, SIZE, 4), dtype=np.float32))[..., 3]
    middle, low = SIZE // 2, round(SIZE * (54 + 17.5) / 108)
    assert alpha[low, middle] < 0.1 and alpha[low, middle + 20] > 0.9 and alpha[low, SIZE - 2] > 0.9
    row = alpha[low] < 0.1
    assert int(np.diff(row.astype(int)).clip(0).sum()) == 3  # the rim at both ends, the letter between


@pytest.mark.parametrize(("said", "message"), [
    ({"text": "BETA", "corner": "middle"}, "does not lie at"), ({"text": "字"}, "has no letter"), ({"text": "BETA", "color": "red"}, "is not a colour"),
    ({"text": "MUCH TOO LONG FOR IT"}, "characters"), ({"text": "   "}, "characters"),
])  # fmt: skip
def test_what_cannot_be_drawn_is_refused(said: dict[str, str], message: str) -> None:
    with pytest.raises(Exception, match=message):
        ribbon_of(**said)
    assert ribbon_of("") is None


GRADLE = """plugins { id("com.android.application") }
android {
    namespace = "org.lend"
    defaultConfig { applicationId = "org.lend"; minSdk = 24 }
    flavorDimensions += listOf("brand", "stage")
    productFlavors {
        create("alder") { dimension = "brand"; applicationIdSuffix = ".alder" }
        create("moss") { dimension = "brand"; applicationIdSuffix = ".moss" }
        create("live") { dimension = "stage" }
        create("beta") { dimension = "stage"; applicationIdSuffix = ".beta" }
    }
}
"""
IDENTITY = """format = 1
[app]
id = "org.lend"
icon = { foreground = "art/front.svg", background = "#F4ECD8" }
[flavors.alder]
id-suffix = ".alder"
icon = { foreground = "art/other.svg" }
[flavors.moss]
id-suffix = ".moss"
[flavors.live]
[flavors.beta]
id-suffix = ".beta"
"""


def test_an_environment_s_icons_wear_it_and_lose_it_again(tmp_path: Path) -> None:
    """Drawn from each brand's own art, beside it; with an empty word they are the brand's own, byte for byte."""
    manifest = (
        '<manifest xmlns:android="http://schemas.android.com/apk/res/android"><application android:icon="@mipmap/ic_launcher" android:label="Lend"/></manifest>'
    )
    contents = {"settings.gradle.kts": 'include(":app")\n', "app/build.gradle.kts": GRADLE, "app/src/main/AndroidManifest.xml": manifest}
    root = files(tmp_path, {**contents, "art/front.svg": ART, "art/other.svg": ART.replace("2E6B4F", "7A3E2B"), "onomaxis.toml": IDENTITY})
    assert onomaxis("stamp", root, "--yes").code == 0
    before = snapshot(root)
    (root / "onomaxis.toml").write_text(IDENTITY + 'ribbon = "BETA"\nribbon-corner = "top-right"\n')
    done = onomaxis("stamp", root, "--yes", "--json")
    assert done.code == 0, done.err
    made = {path.split("/src/")[1].split("/")[0] for path in snapshot(root).keys() - before.keys() if "/src/" in path}
    assert made == {"beta", "alderBeta"} and {path for path in before if snapshot(root)[path] != before[path]} == {"onomaxis.toml"}
    assert onomaxis("stamp", root, "--json").json["files"] == []
    pictures = {name: (root / f"app/src/{name}/res/mipmap-xhdpi/ic_launcher.png").read_bytes() for name in ("main", "alder", "beta", "alderBeta")}
    assert len(set(pictures.values())) == 4
    (root / "onomaxis.toml").write_text(IDENTITY + 'ribbon = ""\n')
    assert onomaxis("stamp", root, "--yes").code == 0
    for own, theirs in (("beta", "main"), ("alderBeta", "alder")):
        for path in (root / f"app/src/{own}/res").rglob("*"):
            if path.is_file():
                assert path.read_bytes() == (root / f"app/src/{theirs}/res" / path.relative_to(root / f"app/src/{own}/res")).read_bytes(), path
    refused = onomaxis("icons", root, "--monochrome", root / "art/front.svg", "--ribbon", "BETA")
    assert refused.code == 2 and "--ribbon needs art for the whole icon" in refused.err
