"""Icons from end to end: slots exact, judges, idempotent, same bytes, undo; art that must be refused; pixels."""

from __future__ import annotations

import io
import json
import shutil
import struct
import subprocess
import zlib
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageCms

from conftest import commit_all, files, judge, onomaxis, snapshot
from onomaxis.demo import ART
from onomaxis.icons.art import load_art
from onomaxis.icons.pixels import resample, to_bytes, to_picture

pytestmark = pytest.mark.pictures

LADDER, FRONT = ART / "ladder.svg", ART / "ladder-foreground.svg"
RES = "android/app/src/main/res"
SET = "ios/Lendspan/Assets.xcassets/AppIcon.appiconset"


def png(width: int, height: int, colour: tuple[int, ...] = (200, 30, 30, 255), dot: bool = True) -> bytes:
    """Draw a small picture: a ground with a darker square in its middle."""
    image = Image.new("RGBA", (width, height), colour)
    if dot:
        image.paste((20, 20, 60, 255), (width // 3, height // 3, width * 2 // 3, height * 2 // 3))
    out = io.BytesIO()
    image.save(out, "PNG")
    return out.getvalue()


def link(demo: Path, work: Path) -> None:
    """Compile and link the app's resources; a leftover in another format or a double colour fails here."""
    aapt2 = judge("aapt2")
    work.mkdir(exist_ok=True)
    text = (demo / "android/app/src/main/AndroidManifest.xml").read_text().replace("<manifest ", '<manifest package="a.b" ', 1)
    (work / "AndroidManifest.xml").write_text(text)
    for words in (
        ["compile", "--dir", demo / RES, "-o", work / "c.zip"],
        [
            "link",
            "-I",
            "/usr/share/android-framework-res/framework-res.apk",
            "--manifest",
            work / "AndroidManifest.xml",
            "-o",
            work / "out.apk",
            work / "c.zip",
            "--warn-manifest-validation",
            "--min-sdk-version",
            24,
        ],
    ):
        done = subprocess.run([aapt2, *map(str, words)], capture_output=True, text=True)
        assert done.returncode == 0, done.stderr


@pytest.fixture
def arts(tmp_path: Path) -> Path:
    """A folder of art outside the project."""
    return files(tmp_path / "arts", {"flat.png": png(1024, 1024), "mono.png": png(432, 432, (0, 0, 0, 0)), "wide.png": png(900, 600), "small.png": png(96, 96)})


WAYS = {
    "one SVG": lambda arts: ["--art", LADDER],
    "one PNG": lambda arts: ["--art", arts / "flat.png", "--legacy-shape", "circle"],
    "three layers": lambda arts: ["--foreground", FRONT, "--background", "#2E6B4F", "--monochrome", FRONT],
    "layers with art": lambda arts: ["--foreground", FRONT, "--background", arts / "flat.png", "--slots", "full"],
    "everything": lambda arts: [
        "--art", FRONT, "--background", "#abc", "--ios-dark", FRONT, "--ios-tinted", FRONT, "--slots", "single", "--store-art", "store",
        "--notification", "ic_stat", "--legacy-art", LADDER, "--inset", "0.2",
    ],
    "a new name": lambda arts: ["--art", LADDER, "--icon-name", "ladder"],
}  # fmt: skip


@pytest.mark.parametrize("way", list(WAYS))
def test_every_slot_is_exact(demo: Path, arts: Path, tmp_path: Path, way: str) -> None:
    """Sizes, alpha, references, judges; a second run changes nothing; undo is exact; two projects get the same bytes."""
    words = WAYS[way](arts)
    before = snapshot(demo)
    twin = shutil.copytree(demo, tmp_path / "twin") if way == "one SVG" else None
    done = onomaxis("icons", demo, *words, "--json").json
    keys = ["images", "created", "changed", "removed", "warnings", "journal", "next"]
    assert list(done) == ["format", *keys] and done["journal"] == "0001"
    for image in done["images"]:
        if image["path"].endswith(".xml"):
            assert image["slot"] in ("foreground vector", "monochrome vector")
            continue
        with Image.open(demo / image["path"]) as opened:
            assert opened.size == (image["width"], image["height"])
            assert opened.mode == "RGB" or image["platform"] == "android" or "dark" in image["slot"], image
    link(demo, tmp_path / "linked")
    contents = next((demo / "ios").rglob("*.appiconset/Contents.json"))
    listed = [entry["filename"] for entry in json.loads(contents.read_text())["images"]]
    assert listed and {path.name for path in contents.parent.iterdir()} == {*listed, "Contents.json"}
    if way == "everything":
        assert len(listed) == 3 and (demo / "store/store-feature-1024x500.png").exists()
        assert sum(image["slot"].startswith("notification") for image in done["images"]) == 5
    if way == "a new name":
        assert '@mipmap/ladder"' in (demo / "android/app/src/main/AndroidManifest.xml").read_text()
        assert {a["icon"] for a in onomaxis("survey", demo, "--json").json["apps"]} == {"@mipmap/ladder", "ladder"}
        words = [word for word in words if word not in ("--icon-name", "ladder")]
    if way in ("one PNG", "everything", "a new name"):
        again = onomaxis("icons", demo, *words, "--json").json
        assert (again["created"], again["changed"], again["removed"], again["journal"]) == ([], [], [], "")
    if twin is not None:
        onomaxis("icons", twin, *WAYS[way](arts))
        assert snapshot(twin) == snapshot(demo)
    assert onomaxis("undo", demo).code == 0 and snapshot(demo) == before


def test_slots_keep_the_set_as_it_is(demo: Path, arts: Path) -> None:
    """Only missing file names are inserted, in the file's style; one file for two sizes is parted; strays go."""
    text = (
        '{"images":[\n\t{"idiom":"iphone","scale":"2x","size":"20x20"},\n\t{"idiom":"iphone","filename":"a.png",'
        '"scale":"3x","size":"20x20"},\n\t{"idiom":"ipad","filename":"a.png","scale":"2x","size":"83.5x83.5"},\n\t'
        '{"appearances":[{"appearance":"luminosity","value":"dark"}],"filename":"d.png","idiom":"universal",'
        '"platform":"ios","size":"1024x1024"}\n],"properties":{"x":1},"info":{"version":1,"author":"y"}}'
    )
    files(demo / SET, {"Contents.json": text, "a.png": png(60, 60), "d.png": png(9, 9), "stray.png": png(9, 9)})
    commit_all(demo)
    done = onomaxis("icons", demo, "--art", LADDER, "--platform", "ios", "--json").json
    found = json.loads((demo / SET / "Contents.json").read_text())
    assert [entry.get("filename") for entry in found["images"]] == ["AppIcon-40.png", "a.png", "AppIcon-167.png", None]
    assert found["images"][3]["appearances"] == [{"appearance": "luminosity", "value": "dark"}]
    assert found["properties"] == {"x": 1} and found["info"] == {"version": 1, "author": "y"}
    assert {Path(path).name for path in done["removed"]} == {"d.png", "stray.png", "AppIcon.png"}
    assert "appearance-removed" in {warning["code"] for warning in done["warnings"]}


SVG = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9">{}</svg>'
BOMB = "".join(
    f'<g id="g{n}">{f"<use href=#Qg{n - 1}#Q/>".replace("#Q", chr(34), 1).replace("#Q", chr(34)) * 10}</g>'.replace('"g', '"#g')
    if n
    else '<g id="g0"><path d="M0 0h9v9z"/></g>'
    for n in range(8)
)
HUGE = b"\x89PNG\r\n\x1a\n" + b"".join(
    struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))
    for kind, body in ((b"IHDR", struct.pack(">IIBBBBB", 30000, 30000, 8, 2, 0, 0, 0)), (b"IDAT", zlib.compress(b"\0" * 9)))
)
HOSTILE: list[tuple[str, str | bytes, str]] = [
    ("a.png", b"", "empty"), ("a.png", png(64, 64)[:200], "damaged"), ("a.png", HUGE, "too many pixels"), ("a.png", b"GIF87a nonsense", "picture"),
    ("a.png", "just text", "not a picture"), ("a.png", png(64, 64, (0, 0, 0, 0), dot=False), "transparent"),
    ("a.svg", SVG.format("<path d='M0 0"), "not well-formed"), ("a.svg", SVG.format('<script>x()</script><path d="M0 0h9v9z"/>'), "script"),
    ("a.svg", SVG.format('<image href="file:///etc/passwd"/>'), "not fetched"),
    ("a.svg", SVG.format('<rect width="9" height="9" style="fill:url(http://x/y#z)"/>'), "not fetched"),
    ("a.svg", SVG.format("<style>@import 'x.css';</style>"), "style sheet"),
    ("a.svg", "<!DOCTYPE svg [<!ENTITY a 'b'>]>" + SVG.format("&a;"), "entities"),
    ("a.svg", SVG.format('<g id="a"><use href="#a"/></g>'), "without end"), ("a.svg", SVG.format(BOMB.replace('id="#g', 'id="g')), "200,000"),
    ("a.svg", SVG.format(""), "shows nothing"), ("a.svg", '<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 0h9v9z"/></svg>', "no size"),
    ("a.svg", "<html/>", "not an SVG"),
]  # fmt: skip


@pytest.mark.parametrize(("name", "content", "message"), HOSTILE)
def test_art_that_cannot_be_used_is_refused(demo: Path, tmp_path: Path, name: str, content: str | bytes, message: str) -> None:
    """One clear line, exit code 2, nothing written."""
    before = snapshot(demo)
    art = files(tmp_path / "art", {name: content}) / name
    done = onomaxis("icons", demo, "--art", art)
    assert done.code == 2 and message in done.err, done.err
    assert snapshot(demo) == before


OPTIONS = [
    ([], "no art was given"), (["--art", "nowhere.svg"], "cannot be read"), (["--foreground", FRONT, "--background", "#12"], "neither a colour"),
    (["--art", LADDER, "--inset", "0.5"], "leaves nothing"), (["--art", LADDER, "--inset", "x"], "neither auto"),
    (["--art", LADDER, "--icon-name", "Icon"], "cannot name an icon"), (["--art", LADDER, "--icon-name", "class"], "cannot name an icon"),
    (["--art", LADDER, "--notification", "ic_stat"], "white square"), (["--art", LADDER, "--store-art", "../out"], "inside the project"),
    (["--art", LADDER, "--flavor", "none"], "no flavor"), (["--art", LADDER, "--platform", "macos"], "no launcher icon"),
]  # fmt: skip


@pytest.mark.parametrize(("words", "message"), OPTIONS)
def test_options_that_cannot_be_met(demo: Path, words: list[object], message: str) -> None:
    """Bad options are a message that says what to do."""
    done = onomaxis("icons", demo, *words)
    assert done.code == 2 and message in done.err, done.err


def test_non_square_small_and_flavored_art(small: Callable[..., Path], arts: Path) -> None:
    """Padding and enlarging are warned of; a flavor gets pictures in its own source set; a link is not followed."""
    script = (
        "apply plugin: 'com.android.application'\nandroid {\n  namespace 'a.b'\n  defaultConfig { applicationId 'a.b' }\n"
        "  productFlavors { alder { }\n moss { } }\n}\n"
    )
    manifest = (
        '<manifest xmlns:android="http://schemas.android.com/apk/res/android"><application android:label="X" '
        'android:icon="@drawable/icon" android:roundIcon="@drawable/icon_round"/></manifest>'
    )
    root = small(extra={"app/build.gradle": script, "app/src/main/AndroidManifest.xml": manifest})
    done = onomaxis("icons", root, "--art", arts / "wide.png", "--flavor", "alder", "--json").json
    assert {warning["code"] for warning in done["warnings"]} == {"not-square", "low-resolution", "no-monochrome"}
    assert all(path.startswith("app/src/alder/res/") for path in done["created"]) and len(done["created"]) == 18
    assert onomaxis("icons", root, "--art", arts / "wide.png", "--strict").code == 2
    (root / "app/src/moss").symlink_to(arts)
    assert onomaxis("icons", root, "--art", arts / "small.png", "--flavor", "moss").code == 3


def test_resampling_is_in_linear_light_without_fringes() -> None:
    """Fine stripes average to linear grey; a shape on transparency keeps its colour at the edge; flat stays flat."""
    stripes = np.zeros((64, 64, 4), np.uint8)
    stripes[..., 3] = 255
    stripes[:, ::2, :3] = 255
    assert set(to_bytes(resample(to_picture(stripes), 16, 16))[..., 0].ravel()) == {188}
    dot = np.zeros((64, 64, 4), np.uint8)
    dot[20:40, 20:40] = (200, 30, 30, 255)
    for size in (48, 24, 10, 100):
        drawn = to_bytes(resample(to_picture(dot), size, size))
        shown = drawn[drawn[..., 3] > 40]
        assert shown.size and np.abs(shown[:, :3].astype(int) - (200, 30, 30)).max() <= 2
    flat = np.full((50, 50, 4), (10, 120, 250, 255), np.uint8)
    for size in (7, 33, 49, 75, 150):
        assert (to_bytes(resample(to_picture(flat), size, size)) == (10, 120, 250, 255)).all()


def test_colour_of_the_art_is_honoured(tmp_path: Path) -> None:
    """16-bit grey, palettes, orientation and embedded profiles arrive in sRGB."""
    grey = Image.fromarray(np.full((8, 8), 32768, np.uint16))
    grey.save(tmp_path / "grey.png")
    assert abs(int(to_bytes(load_art(tmp_path / "grey.png").draw(8))[0, 0, 0]) - 128) <= 1
    palette = Image.new("P", (8, 8), 1)
    palette.putpalette([0, 0, 0, 255, 0, 0])
    palette.save(tmp_path / "palette.png")
    assert tuple(to_bytes(load_art(tmp_path / "palette.png").draw(8))[0, 0]) == (255, 0, 0, 255)
    turned = Image.new("RGB", (20, 10), "red")
    exif = Image.Exif()
    exif[0x0112] = 6
    turned.save(tmp_path / "turned.jpg", exif=exif)
    assert load_art(tmp_path / "turned.jpg").aspect == 0.5
    lab = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    Image.new("RGB", (8, 8), (10, 200, 30)).save(tmp_path / "profile.png", icc_profile=lab)
    assert np.abs(to_bytes(load_art(tmp_path / "profile.png").draw(8))[0, 0, :3].astype(int) - (10, 200, 30)).max() <= 1
