"""The art that people really have: full to its edges, with rounded corners, on transparency, for one platform alone."""

from __future__ import annotations

import io
import json
from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageDraw

from conftest import files, onomaxis
from icon_arts import logo, photo, rounded
from onomaxis.icons.art import filled, load_art
from onomaxis.icons.derive import build_icon_set
from onomaxis.icons.look import look_at
from onomaxis.icons.measured import kept, taken
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


LAYERS = """<svg xmlns="http://www.w3.org/2000/svg" xmlns:d="urn:d" viewBox="0 0 108 108"><style>.w{{fill:#fff}}</style>
<g transform="translate(2 0)"><g id="Foreground"><path class="w" d="M38,40h28v28h-28z"/></g></g><!-- é -->
{background}<g d:label="monochrome" style="fill:red;display:none"><path d="M44,44h20v20h-20z"/></g></svg>"""
GROUND = '<rect id="background" width="108" height="108" fill="#205080"/>'


@pytest.mark.parametrize(("background", "asked", "ground"), [(GROUND, "", (32, 80, 128)), (GROUND, "#102030", (16, 32, 48)), ("", "#102030", (16, 32, 48))])
def test_one_drawing_with_layers_is_art_for_each(tmp_path: Path, background: str, asked: str, ground: tuple[int, int, int]) -> None:
    """Each is drawn without the others, a hidden one as well; what is given besides counts before it, and no layer is kept for the whole."""
    art = files(tmp_path, {"a.svg": LAYERS.format(background=background)}) / "a.svg"
    wish = IconWish(art=str(art), background=asked)
    icons = build_icon_set(wish, None)
    assert icons.ground == ground and icons.background is None and icons.form == "layered"
    front, silhouette = icons.layer("foreground", 108), icons.layer("monochrome", 108)
    shown = [np.argwhere(picture[..., 3] > 0.5) for picture in (front, silhouette)]
    assert [(box.min(axis=0).tolist(), box.max(axis=0).tolist()) for box in shown] == [([40, 40], [67, 67]), ([44, 44], [63, 63])]
    assert (to_bytes(front)[54, 54] == 255).all()
    again = taken(wish, json.loads(json.dumps(kept(wish, icons))))
    assert again is not None and np.array_equal(again.layer("monochrome", 108), silhouette) and np.array_equal(again.full(64), icons.full(64))


@pytest.mark.parametrize("vector", [False, True])
@pytest.mark.parametrize(("margin", "card"), [(100, True), (190, True), (260, False)])
def test_a_finished_card_loses_its_margin(tmp_path: Path, vector: bool, margin: int, card: bool) -> None:
    """Its rounded corners and the shadow below it too; with much around it, it is a drawing like any other."""
    edge, low = 1024 - 2 * margin, margin + 12
    if vector:
        box = 'x="{0}" y="{1}" width="{2}" height="{2}" rx="{3}"'
        shapes = f'<rect {box.format(margin, low, edge, edge // 5)} opacity=".2"/><rect {box.format(margin, margin, edge, edge // 5)} fill="#1e5a8c"/>'
        art = files(tmp_path, {"a.svg": f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1024 1024">{shapes}</svg>'}) / "a.svg"
    else:
        picture = Image.new("RGBA", (1024, 1024))
        for top, colour in ((low, (0, 0, 0, 50)), (margin, (30, 90, 140, 255))):
            ImageDraw.Draw(picture).rounded_rectangle((margin, top, margin + edge - 1, top + edge - 1), edge // 5, fill=colour)
        art = saved(tmp_path, picture, "a.png")
    icons = build_icon_set(IconWish(art=str(art)), None)
    assert ("card" in {item.code for item in icons.warnings}) == card == (icons.form == "filled")
    assert build_icon_set(IconWish(art=str(art), inset="auto"), None).form == "layered"
    whole = to_bytes(icons.full(256)).astype(np.int16)
    assert (np.abs(whole[..., :3] - (30, 90, 140)).max() <= 2) == card


def test_corners_and_rows_are_filled_from_what_is_beside() -> None:
    """Each transparent end takes the nearest opaque colour of its row, a corner that of what lies inwards; opaque pixels stay."""
    corner = np.zeros((8, 8, 4), dtype=np.uint8)
    corner[..., 0], corner[..., 3] = np.arange(8) * 10, 255
    corner[0, 0] = corner[0, 1] = corner[1, 0] = (0, 0, 0, 90)
    assert to_bytes(filled(to_picture(corner)))[:2, :2, 0].tolist() == [[10, 20], [10, 10]]
    pixels = np.zeros((3, 4, 4), dtype=np.uint8)
    pixels[0, 1] = (10, 20, 30, 255)
    pixels[0, 2] = (40, 50, 60, 255)
    pixels[2] = (70, 80, 90, 255)
    done = to_bytes(filled(to_picture(pixels)))
    assert done[0].tolist() == [[10, 20, 30, 255]] * 2 + [[40, 50, 60, 255]] * 2
    assert done[2].tolist() == [[70, 80, 90, 255]] * 4 and (done[..., 3] == 255).all()
    empty = np.zeros((2, 2, 4), dtype=np.float32)
    assert filled(empty) is empty


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
