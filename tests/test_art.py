"""The art that people really have: full to its edges, with rounded corners, on transparency, for one platform alone."""

from __future__ import annotations

import io
import re
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageDraw

from conftest import files, onomaxis, snapshot
from icon_arts import logo, photo, rounded
from onomaxis.icons.art import Art, filled, load_art
from onomaxis.icons.derive import build_icon_set
from onomaxis.icons.layers import Fitted
from onomaxis.icons.look import edge_colour, fitting_ground, look_at
from onomaxis.icons.pixels import to_bytes, to_picture
from onomaxis.icons.wish import IconWish

pytestmark = pytest.mark.pictures
RES, SET = "android/app/src/main/res", "ios/Lendspan/Assets.xcassets/AppIcon.appiconset"


def saved(folder: Path, picture: Image.Image, name: str) -> Path:
    out = io.BytesIO()
    picture.save(
        out,
        Path(name).suffix[1:].upper().replace("JPG", "JPEG"),
        **({"quality": 97} if name.endswith("jpg") else {"lossless": True} if name.endswith("webp") else {}),
    )
    return files(folder, {name: out.getvalue()}) / name


def opened(path: Path) -> np.ndarray:
    with Image.open(path) as image:
        return np.asarray(image.convert("RGBA")).astype(np.int16)


@pytest.mark.parametrize(("name", "more"), [("a.jpg", []), ("a.png", ["--background", "#2E6B4F"])], ids=["alone", "with a ground"])
def test_art_that_fills_its_edges(demo: Path, tmp_path: Path, name: str, more: list[str]) -> None:
    """Apple's picture is the art; Android shows it edge to edge, its edges continued; what is cut off is said."""
    art = saved(tmp_path, photo(), name)
    before = snapshot(demo)
    done = onomaxis("icons", demo, "--art", art, *more, "--json").json
    assert {"masked", "no-monochrome"} <= {item["code"] for item in done["warnings"]}
    original = opened(art)[..., :3]
    assert np.abs(opened(demo / SET / "AppIcon.png")[..., :3] - original).mean() < 1
    front = opened(demo / RES / "mipmap-xxxhdpi/ic_launcher_foreground.png")
    assert front.shape == (432, 432, 4) and (front[..., 3] == 255).all()
    reference = np.asarray(photo().resize((288, 288), Image.Resampling.BOX)).astype(np.int16)
    assert np.abs(front[72:-72, 72:-72, :3] - reference).mean() < 2
    assert (front[:72] == front[72]).all() and (front[:, -72:] == front[:, -73][:, None]).all()
    assert onomaxis("undo", demo).code == 0 and snapshot(demo) == before


def test_an_inset_sets_it_smaller_on_a_ground(demo: Path, tmp_path: Path) -> None:
    """Whoever asks for an inset gets it: the art whole, on its own edge's colour or the one that is given."""
    art = saved(tmp_path, photo(), "a.png")
    onomaxis("icons", demo, "--art", art, "--inset", "0.25", "--background", "#2E6B4F")
    front = opened(demo / RES / "mipmap-xxxhdpi/ic_launcher_foreground.png")
    assert (front[:100, :, 3] == 0).all() and (front[120:-120, 120:-120, 3] == 255).all()
    assert "#2E6B4F" in (demo / RES / "values/ic_launcher_background.xml").read_text()
    assert np.abs(opened(demo / SET / "AppIcon.png")[..., :3] - opened(art)[..., :3]).mean() < 1


@pytest.mark.parametrize("share", [0.05, 0.25])
def test_rounded_corners_are_filled(demo: Path, tmp_path: Path, share: float) -> None:
    """Nothing transparent, black or white is left in the corners; it is said."""
    art = saved(tmp_path, rounded(share), "a.png")
    done = onomaxis("icons", demo, "--art", art, "--json").json
    assert "rounded-corners" in {item["code"] for item in done["warnings"]}
    apple, square = opened(demo / SET / "AppIcon.png")[..., :3], np.asarray(photo()).astype(np.int16)
    assert np.abs(apple - square).mean() < 2 and np.abs(apple[:60, :60] - square[:60, :60]).max() < 90
    assert "ICON05" not in {item["code"] for item in onomaxis("check", demo, "--only", "icons", "--json").json["findings"]}


@pytest.mark.parametrize(
    ("picture", "opaque", "corners"),
    [(photo(), True, False), (rounded(), False, True), (rounded(0.5), False, False), (logo(), False, False), (Image.new("RGB", (64, 64), "red"), True, False)],
    ids=["photo", "rounded", "a circle", "logo", "one colour"],
)
def test_how_art_is_looked_at(tmp_path: Path, picture: Image.Image, opaque: bool, corners: bool) -> None:
    """Opaque or not, rounded or not; a circle is art of its own."""
    look = look_at(load_art(saved(tmp_path, picture, "a.png")))
    assert (look.opaque, look.rounded) == (opaque, corners)


def test_rows_are_filled_from_what_is_beside() -> None:
    """Each transparent end takes the nearest opaque colour of its row; opaque pixels stay."""
    pixels = np.zeros((3, 4, 4), dtype=np.uint8)
    pixels[0, 1] = (10, 20, 30, 255)
    pixels[0, 2] = (40, 50, 60, 255)
    pixels[2] = (70, 80, 90, 255)
    done = to_bytes(filled(to_picture(pixels)))
    assert done[0].tolist() == [[10, 20, 30, 255]] * 2 + [[40, 50, 60, 255]] * 2
    assert done[2].tolist() == [[70, 80, 90, 255]] * 4 and (done[..., 3] == 255).all()
    empty = np.zeros((2, 2, 4), dtype=np.float32)
    assert filled(empty) is empty


@pytest.mark.parametrize(
    ("colour", "dark"), [((20, 20, 20, 255), False), ((40, 90, 160, 255), False), ((255, 255, 255, 255), True), ((250, 220, 120, 255), True)]
)
def test_a_ground_that_fits(colour: tuple[int, ...], dark: bool) -> None:
    """Art shows on the ground that is chosen for it: pale below dark art, dark below light art."""
    red, green, blue = fitting_ground(np.asarray(logo(colour, 64)))
    assert (max(red, green, blue) < 130) == dark and (min(red, green, blue) > 200) == (not dark)


def test_a_logo_on_transparency(demo: Path, tmp_path: Path) -> None:
    """Today's ground is kept; where there is none one is chosen and named; it is never refused, never black by accident."""
    art = saved(tmp_path, logo(), "a.png")
    done = onomaxis("icons", demo, "--art", art, "--json").json
    chosen = next(item["message"] for item in done["warnings"] if item["code"] == "ground-chosen")
    ground = (demo / RES / "values/ic_launcher_background.xml").read_text()
    assert chosen.split(": ")[1][:7] in ground and "--background" in chosen
    onomaxis("icons", demo, "--art", art, "--background", "#804000", "--allow-dirty")
    done = onomaxis("icons", demo, "--art", saved(tmp_path, logo((255, 255, 255, 255)), "b.png"), "--allow-dirty", "--json").json
    assert "ground-chosen" not in {item["code"] for item in done["warnings"]}
    assert "#804000" in (demo / RES / "values/ic_launcher_background.xml").read_text()
    assert tuple(opened(demo / SET / "AppIcon.png")[0, 0, :3]) == (0x80, 0x40, 0x00)


def test_apple_art_alone(demo: Path, tmp_path: Path) -> None:
    """It draws Apple's icons, names those that it does not, and gives no advice about Android."""
    android = {path: mark for path, mark in snapshot(demo).items() if path.startswith("android")}
    done = onomaxis("icons", demo, "--ios-art", saved(tmp_path, photo(), "a.jpg"), "--json").json
    assert {item["platform"] for item in done["images"]} == {"ios"}
    assert {item["code"] for item in done["warnings"]} == {"not-drawn"} and "ic_launcher" in done["warnings"][0]["message"]
    assert {path: mark for path, mark in snapshot(demo).items() if path.startswith("android")} == android


def test_layers_of_art_that_bleeds(tmp_path: Path) -> None:
    """The layer shows the art in its visible middle at any size, and continues its edges to the border."""
    art = load_art(saved(tmp_path, photo(256), "a.png"))
    for size in (48, 81, 108, 162, 216, 433):
        drawn = Fitted(art, bleeds=True).draw(size)
        assert drawn.shape == (size, size, 4) and np.allclose(drawn[0], drawn[1]) and np.allclose(drawn[..., 3], 1, atol=1e-3)
    icons = build_icon_set(IconWish(art=art.name))
    assert icons.foreground.bleeds and icons.monochrome is None and icons.whole is not None
    assert icons.ground == edge_colour(look_at(art).pixels) and isinstance(icons.whole, Art)
    assert not build_icon_set(IconWish(art=str(saved(tmp_path, logo(), "l.png"))), (1, 2, 3)).foreground.bleeds


def test_a_preview_lists_pictures(demo: Path, tmp_path: Path) -> None:
    """Few pictures are named each with size and slot; many by families of slots."""
    art = saved(tmp_path, photo(256), "a.png")
    few = onomaxis("icons", demo, "--ios-art", art, "--dry-run").err
    assert re.search(rf"{SET}/AppIcon.png\s+1024 x 1024  ", few) and "android legacy" not in few
    many = onomaxis("icons", demo, "--art", art, "--slots", "full", "--dry-run").err
    assert "android legacy" in many and "5 pictures, 108 x 108 to 432 x 432" in many
    assert len(many.split("Pictures")[1].split("Warnings")[0].strip().split("\n")) < 20


@pytest.mark.parametrize(("picture", "mode"), [(logo(size=256), "RGBA"), (photo(256), "RGB")], ids=["on transparency", "opaque"])
def test_dark_art_keeps_its_transparency(demo: Path, tmp_path: Path, picture: Image.Image, mode: str) -> None:
    """The system puts its ground below a dark icon; a tinted one becomes grey levels, opaque."""
    art, dark = saved(tmp_path, photo(256), "a.png"), saved(tmp_path, picture, "d.png")
    done = onomaxis("icons", demo, "--art", art, "--ios-dark", dark, "--ios-tinted", dark, "--slots", "single", "--json").json
    by_slot = {item["slot"].split()[-1]: demo / item["path"] for item in done["images"] if item["platform"] == "ios"}
    with Image.open(by_slot["dark"]) as image:
        assert image.mode == mode and (mode == "RGB" or image.getpixel((0, 0))[3] == 0)
    tinted = opened(by_slot["tinted"])
    assert (tinted[..., 3] == 255).all() and np.abs(tinted[..., 0] - tinted[..., 1]).max() <= 1
    assert not {"ICON04"} & {item["code"] for item in onomaxis("check", demo, "--only", "icons", "--json").json["findings"]}


def test_a_flavor_takes_the_apps_ground(small: Callable[..., Path], tmp_path: Path) -> None:
    """A logo for a flavor without an icon of its own stands on the ground that the app's icon has."""
    script = (
        "apply plugin: 'com.android.application'\nandroid {\n  namespace 'a.b'\n  defaultConfig { applicationId 'a.b' }\n"
        "  productFlavors { alder { }\n moss { } }\n}\n"
    )
    manifest = '<manifest xmlns:android="http://schemas.android.com/apk/res/android"><application android:label="X" android:icon="@mipmap/icon"/></manifest>'
    root = small(extra={"app/build.gradle": script, "app/src/main/AndroidManifest.xml": manifest})
    art = saved(tmp_path, logo(size=256), "a.png")
    onomaxis("icons", root, "--art", art, "--background", "#804000")
    done = onomaxis("icons", root, "--art", art, "--flavor", "alder", "--json").json
    assert "ground-chosen" not in {item["code"] for item in done["warnings"]}
    assert "#804000" in (root / "app/src/alder/res/values/icon_background.xml").read_text()


def test_a_ground_that_the_art_has_already(tmp_path: Path) -> None:
    """Flat art on the very ground that is asked for is fitted into the safe zone, as without asking."""
    flat = Image.new("RGB", (256, 256), (255, 255, 255))
    ImageDraw.Draw(flat).rectangle((100, 100, 156, 156), fill=(20, 20, 20))
    path = str(saved(tmp_path, flat, "a.png"))
    assert not build_icon_set(IconWish(art=path, background="#FFFFFF")).foreground.bleeds
    assert build_icon_set(IconWish(art=path, background="#2E6B4F")).foreground.bleeds
