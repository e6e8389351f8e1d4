"""Art by home: each kind of home takes art that fills its edges and a drawing; each kind of art is drawn or said to be lost."""

from __future__ import annotations

import io
import json
import shutil
import xml.etree.ElementTree as ET
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from conftest import Templates, files, onomaxis, snapshot
from icon_arts import art_file, logo, photo
from icon_homes import HOMES, apple, picture, universal
from onomaxis.icons.present import decode
from onomaxis.icons.wish import IconWish
from test_art import opened, saved

pytestmark = pytest.mark.pictures


def drawn(root: Path, *words: object) -> dict:
    """Draw icons; the same again changes nothing, and ``check`` finds no error in what was drawn."""
    done = onomaxis("icons", root, *words, "--allow-dirty", "--json")
    assert done.code == 0, done.out
    after = snapshot(root)
    again = onomaxis("icons", root, *words, "--allow-dirty", "--json").json
    assert again["created"] == again["changed"] == again["removed"] == [] and snapshot(root) == after
    found = onomaxis("check", root, "--only", "icons", "--json").json["findings"]
    assert [item for item in found if item["severity"] == "error"] == []
    return done.json


@pytest.mark.parametrize("name", HOMES)
def test_every_home(name: str, tmp_path: Path) -> None:
    """The square of each home is the art itself, to its edges; a drawing is set on a ground, and never black by accident."""
    full, root = saved(tmp_path, photo(256), "full.png"), files(tmp_path / "full", HOMES[name])
    before = snapshot(root)
    done = drawn(root, "--art", full)
    squares = {"1024x1024", "all", "source", "app icon", "icon 1024", "project"}
    for image in done["images"]:
        path = tmp_path / "full" / image["path"]
        if path.suffix == ".png" and path.name != "icon-foreground.png" and any(part in image["slot"] for part in squares):
            wanted = np.asarray(photo(256).resize((64, 64), Image.Resampling.BOX)).astype(np.int16)
            if "foreground" in image["slot"] or "Android" in image["slot"] or "ground" in image["slot"]:
                continue
            with Image.open(path) as held:
                small = np.asarray(held.convert("RGB").resize((64, 64), Image.Resampling.BOX)).astype(np.int16)
            assert np.abs(small - wanted).mean() < 3, image
    assert onomaxis("undo", root, "--allow-dirty").code == 0 and snapshot(root) == before
    if not {image["platform"] for image in done["images"]} & {"ios", "watchos"}:
        return
    one = saved(tmp_path, logo(size=256), "logo.png")
    done = onomaxis("icons", files(tmp_path / "logo", HOMES[name]), "--art", one, "--background", "#F0E0D0", "--json").json
    for image in done["images"]:
        path = tmp_path / "logo" / image["path"]
        if path.suffix == ".png" and image["platform"] in ("ios", "watchos"):
            assert opened(path)[0, 0].tolist() == [0xF0, 0xE0, 0xD0, 255]


# Art: what is said of it on a home of both platforms, beside what every art of its kind is told.
FULL, FLAT, DRAWING = {"masked", "no-monochrome"}, {"no-monochrome"}, set()
SMALL = {"low-resolution"}
SAID: dict[str, set[str]] = {
    "full.jpg": FULL | SMALL,
    "full.png": FULL,
    "full-1500.png": FULL,
    "rounded.png": FULL | SMALL | {"rounded-corners"},
    "circle.png": SMALL | {"flat-monochrome"},
    "logo.png": SMALL,
    "white.png": SMALL,
    "flat.png": FLAT | SMALL,
    "flat-wide.png": FULL | SMALL,
    "one-colour.png": FLAT | SMALL,
    "oblong.png": FLAT | SMALL | {"not-square"},
    "grey.png": FULL | SMALL,
    "grey-16.png": FULL | SMALL,
    "palette.png": SMALL,
    "cmyk.jpg": FULL | SMALL,
    "turned.jpg": FULL | SMALL,
    "profile.png": FULL | SMALL,
    "full.webp": FULL | SMALL,
    "animated.gif": FULL | SMALL | {"first-frame"},
    "full.svg": FLAT,
    "millimetres.svg": FLAT,
    "points.svg": FLAT,
    "drawing.svg": DRAWING,
    "styled.svg": {"flat-monochrome"},
    "shaded-ground.svg": FULL,
    "text.svg": FLAT | {"text-in-art", "raster-layer"},
}


@pytest.mark.parametrize("name", SAID)
def test_every_art(name: str, tmp_path: Path) -> None:
    """What is drawn of it, what is said, and that vectors stay vectors."""
    root = files(tmp_path / "app", {**HOMES["android"], **apple(universal())})
    art = files(tmp_path, {name: art_file(name)}) / name
    done = onomaxis("icons", root, "--art", art, "--allow-dirty", "--json").json
    assert {item["code"] for item in done["warnings"]} == SAID[name]
    layer = [image for image in done["images"] if image["slot"].startswith("foreground")]
    vector = name.endswith(".svg") and "raster-layer" not in SAID[name]
    assert [image["slot"] for image in layer] == (
        ["foreground vector"] if vector else [f"foreground {d}" for d in ("hdpi", "mdpi", "xhdpi", "xxhdpi", "xxxhdpi")]
    )
    square = opened(root / "Lend/Assets.xcassets/AppIcon.appiconset/AppIcon-1024.png")
    assert square.shape == (1024, 1024, 4) and (square[..., 3] == 255).all()
    if name in ("full.png", "full.webp", "profile.png", "cmyk.jpg", "full.jpg"):
        wanted = np.asarray(photo(1024)).astype(np.int16)
        assert np.abs(square[..., :3] - wanted).mean() < 1.5
    if name == "turned.jpg":
        assert square[10, -10, 2] > 180  # the corner that was left and up
    if name == "grey-16.png":
        assert np.abs(square[512, :, 0] - np.linspace(0, 255, 1024)).max() < 3


def test_art_that_is_damaged(tmp_path: Path) -> None:
    """It is refused with the file, and nothing changes."""
    root = files(tmp_path / "app", HOMES["expo"])
    before = snapshot(root)
    done = onomaxis("icons", root, "--art", files(tmp_path, {"x.png": art_file("damaged.png")}) / "x.png", "--json")
    assert done.code == 2 and "damaged" in done.json["error"]["message"] and snapshot(root) == before


# -- what the projects' own files say afterwards


def test_expo_names_what_is_drawn(tmp_path: Path) -> None:
    """Entries that are missing are written, in the file's own style; those that are there keep their pictures' names."""
    art = saved(tmp_path, logo(size=256), "a.png")
    root = files(tmp_path / "a", HOMES["expo"])
    drawn(root, "--art", art, "--background", "#102030", "--ios-dark", art)
    expo = json.loads((root / "app.json").read_text())["expo"]
    assert expo["icon"] == "./assets/icon.png" and expo["web"] == {"favicon": "./assets/favicon.png"}
    assert expo["ios"]["icon"] == {"light": "./assets/icon.png", "dark": "./assets/icon-dark.png"}
    assert expo["android"]["adaptiveIcon"] == {
        "foregroundImage": "./assets/icon-foreground.png",
        "monochromeImage": "./assets/icon-monochrome.png",
        "backgroundColor": "#102030",
    }
    assert expo["splash"] == {"image": "./assets/splash-icon.png", "resizeMode": "contain", "backgroundColor": "#102030"}
    apps = onomaxis("survey", root, "--json").json["apps"]
    assert {app["icon"] for app in apps} == {"./assets/icon.png"}
    root = files(tmp_path / "b", HOMES["expo, named"])
    done = drawn(root, "--art", saved(tmp_path, photo(256), "b.png"))
    assert {"a/icon.png", "a/front.png", "assets/favicon.png"} <= set(done["created"])
    layer = json.loads((root / "app.json").read_text())["expo"]["android"]["adaptiveIcon"]
    assert layer["foregroundImage"] == "./a/front.png" and layer["backgroundColor"] != "#ffffff"


def test_a_script_of_expo_keeps_its_names(tmp_path: Path) -> None:
    """A configuration that is a program is read for the pictures it names, and never written."""
    script = "export default { name: 'Lend', icon: './art/icon.png', ios: { bundleIdentifier: 'org.lendspan' }, android: { package: 'org.lendspan' } };\n"
    root = files(tmp_path / "a", {"package.json": HOMES["expo"]["package.json"], "app.config.js": script, "art/icon.png": picture(64)})
    done = drawn(root, "--art", saved(tmp_path, photo(256), "a.png"))
    assert done["changed"] == ["art/icon.png"] and done["created"] == []


def test_maui_items(tmp_path: Path) -> None:
    """A drawing is a ground with a foreground; art that fills its edges has a picture of its own for Android's layer."""
    root = files(tmp_path / "a", HOMES["maui"])

    def items() -> list[dict[str, str]]:
        return [item.attrib for item in ET.fromstring((root / "Shed.csproj").read_bytes()).iter("MauiIcon")]

    drawn(root, "--art", saved(tmp_path, logo(size=256), "l.png"), "--background", "#102030")
    folder = "Resources\\AppIcon\\"
    assert items() == [{"Include": f"{folder}appicon.png", "ForegroundFile": f"{folder}appiconfg.png", "Color": "#102030"}]
    assert b"\r\n" in (root / "Shed.csproj").read_bytes() and not (root / "Resources/AppIcon/appicon.svg").exists()
    drawn(root, "--art", saved(tmp_path, photo(256), "p.png"))
    rest, android = items()
    assert rest["Include"] == f"{folder}appicon.png" and android["Include"] == f"{folder}Android\\appicon.png"
    assert rest["Condition"].endswith("!= 'android'") and android["Condition"].endswith("== 'android'")
    assert not (root / "Resources/AppIcon/appiconfg.png").exists()
    whole, layer = opened(root / "Resources/AppIcon/appicon.png"), opened(root / "Resources/AppIcon/Android/appicon.png")
    assert (layer[:170] == layer[170]).all() and not (whole[:170] == whole[170]).all()
    drawn(root, "--art", saved(tmp_path, logo(size=256), "l.png"), "--background", "#102030")
    assert {item["ForegroundFile"] for item in items()} == {f"{folder}appiconfg.png"} and len(items()) == 2
    assert not (root / "Resources/AppIcon/Android/appicon.png").exists()


def test_the_ground_of_maui_alone(tmp_path: Path) -> None:
    """A colour that is given alone becomes the items' colour and the ground's picture; the drawing stays as it is."""
    root = files(tmp_path / "a", HOMES["maui"])
    drawn(root, "--background", "#A04020")
    item = next(ET.fromstring((root / "Shed.csproj").read_bytes()).iter("MauiIcon")).attrib
    assert item["Color"] == "#A04020" and item["ForegroundFile"].endswith("appiconfg.svg") and item["Include"].endswith("appicon.png")
    assert (root / "Resources/AppIcon/appiconfg.svg").exists() and opened(root / "Resources/AppIcon/appicon.png")[0, 0].tolist() == [0xA0, 0x40, 0x20, 255]


def test_cordova_elements(tmp_path: Path) -> None:
    """Elements are written where there are none, into the platform's own where it stands already."""
    art = saved(tmp_path, logo(size=256), "a.png")
    held = str(HOMES["cordova, bare"]["config.xml"])
    for at, platform in enumerate(
        ("", '    <platform name="android">\n        <allow-intent href="market:*" />\n    </platform>\n', '    <platform name="android" />\n')
    ):
        root = files(tmp_path / str(at), {**HOMES["cordova, bare"], "config.xml": held.replace("</widget>", f"{platform}</widget>")})
        assert onomaxis("icons", root, "--art", art, "--allow-dirty").code == 0
        top = ET.fromstring((root / "config.xml").read_bytes())
        spaces = {"w": "http://www.w3.org/ns/widgets"}
        assert [icon.get("src") for icon in top.findall("w:icon", spaces)] == ["res/launcher/all.png"]
        (android,) = top.findall("w:platform", spaces)
        icons = android.findall("w:icon", spaces)  # its tools take layers by density alone
        assert [icon.get("density") for icon in icons] == ["mdpi", "hdpi", "xhdpi", "xxhdpi", "xxxhdpi"]
        for icon, factor in zip(icons, (1, 1.5, 2, 3, 4), strict=True):
            for name, edge in (("src", 48), ("foreground", 108), ("background", 108), ("monochrome", 108)):
                with Image.open(root / str(icon.get(name))) as picture:
                    assert picture.size == (edge * factor, edge * factor)


def test_bundles_of_pictures(tmp_path: Path) -> None:
    """Icons of several pictures hold each size; store logos beside them are drawn by their names; a bitmap one is read."""
    root = files(tmp_path / "a", HOMES["tauri"])
    done = drawn(root, "--art", saved(tmp_path, photo(256), "a.png"))
    assert {Path(image["path"]).name for image in done["images"]} >= {"icon.icns", "icon.ico", "Square44x44Logo.png"}
    with Image.open(root / "src-tauri/icons/icon.ico") as icon:
        assert {edge for edge, _ in icon.info["sizes"]} == {16, 24, 32, 48, 64, 256}
    with Image.open(root / "src-tauri/icons/icon.icns") as icon:
        assert {size[0] * size[2] for size in icon.info["sizes"]} >= {32, 64, 128, 256, 512, 1024}
    old = io.BytesIO()
    Image.new("RGB", (32, 32), "red").save(old, "ICO", sizes=[(16, 16), (32, 32)], bitmap_format="bmp")
    page = {**HOMES["web"], "favicon.ico": old.getvalue()}
    root = files(tmp_path / "b", page)
    found = onomaxis("check", root, "--only", "icons", "--json").json["findings"]
    assert not any("favicon.ico" in item["at"][0]["file"] for item in found)
    files(root, {"index.html": str(page["index.html"]).replace("16x16 32x32", "16x16 48x48")})
    found = onomaxis("check", root, "--only", "icons", "--json").json["findings"]
    assert [item["code"] for item in found if "favicon.ico" in item["at"][0]["file"]] == ["ICON01"]
    assert not any("favicon.png" in item["at"][0]["file"] for item in found)


def test_engines_name_their_pictures(tmp_path: Path) -> None:
    """Player settings refer to pictures by ID, presets by key: each is drawn as its slot asks."""
    art = saved(tmp_path, logo(size=256), "a.png")
    root = files(tmp_path / "u", HOMES["unity"])
    drawn(root, "--art", art, "--background", "#102030")
    icon, ground, front = (opened(root / f"Assets/Icon{at}.png") for at in range(3))
    assert icon.shape == (128, 128, 4) and ground.shape == front.shape == (432, 432, 4)
    assert ground[0, 0].tolist() == ground[216, 216].tolist() == [0x10, 0x20, 0x30, 255] and front[0, 0, 3] == 0
    root = files(tmp_path / "g", HOMES["godot"])
    drawn(root, "--art", art, "--background", "#102030")
    assert opened(root / "a/front.png")[0, 0, 3] == 0 and opened(root / "a/store.png").shape == (1024, 1024, 4)
    root = files(
        tmp_path / "s",
        {**HOMES["godot"], "project.godot": '[application]\n\nconfig/name="Lend"\nconfig/icon="res://icon.svg"\n', "icon.svg": art_file("full.svg")},
    )
    done = onomaxis("icons", root, "--art", art, "--allow-dirty", "--json").json
    assert any("SVG" in item["message"] for item in done["warnings"] if item["code"] == "not-drawn")
    done = drawn(root, "--art", files(tmp_path, {"d.svg": art_file("drawing.svg")}) / "d.svg", "--background", "#102030")
    assert "icon.svg" in done["changed"] and "#102030" in (root / "icon.svg").read_text()


# -- parts of an icon


@pytest.fixture
def both(tmp_path: Path, template: Templates) -> Path:
    """An app for both platforms with icons of its own."""

    def make(folder: Path) -> None:
        root = files(folder, {**HOMES["android"], **apple(universal("dark"))})
        onomaxis("icons", root, "--foreground", saved(tmp_path, logo(size=256), "first.png"), "--background", "#406080", "--allow-dirty")

    return Path(shutil.copytree(template("icons of both", make), tmp_path / "app"))


@pytest.mark.parametrize(
    ("words", "touched"),
    [
        (["--monochrome", "art"], {"ic_launcher_monochrome.webp"}),
        (["--background", "#A04020"], {"ic_launcher_background.xml"}),
        (["--background", "full"], {"ic_launcher_background.webp", "ic_launcher.xml", "ic_launcher_round.xml"}),
        (["--legacy-art", "full"], {"ic_launcher.webp", "ic_launcher_round.webp"}),
        (["--ios-dark", "art"], {"AppIcon-1024-dark.png", "Contents.json"}),
        (["--ios-tinted", "art"], {"AppIcon-1024-tinted.png", "Contents.json"}),
        (["--ios-art", "full"], {"AppIcon-1024.png"}),
    ],
)
def test_one_part_alone(both: Path, tmp_path: Path, words: list[str], touched: set[str]) -> None:
    """Each option suffices for what it covers; all else stays byte for byte, and what is not drawn is named."""
    arts = {"art": saved(tmp_path, logo((200, 30, 30, 255), 256).rotate(180), "art.png"), "full": saved(tmp_path, photo(256), "full.png")}
    before = snapshot(both)
    done = drawn(both, *(arts.get(word, word) for word in words))
    after = snapshot(both)
    assert {Path(path).name for path in before.keys() | after.keys() if before.get(path) != after.get(path) and not path.endswith("/")} == touched
    assert "not-drawn" in {item["code"] for item in done["warnings"]}
    text = (both / "app/src/main/res/mipmap-anydpi-v26/ic_launcher.xml").read_text()
    assert text.count("<monochrome") == text.count("<foreground") == text.count("<background") == 1


def test_a_part_without_its_icon(tmp_path: Path) -> None:
    """A layer for an icon without layers, a dark slot in a set of sizes: said, with what to do."""
    art = saved(tmp_path, logo(size=256), "a.png")
    root = files(tmp_path / "a", HOMES["android, old"])
    done = onomaxis("icons", root, "--monochrome", art, "--allow-dirty", "--json").json
    assert done["images"] == [] and any("no adaptive icon" in item["message"] for item in done["warnings"])
    root = files(tmp_path / "b", HOMES["ios, every slot"])
    done = onomaxis("icons", root, "--ios-dark", art, "--allow-dirty", "--json").json
    assert done["changed"] == [] and any("--slots single" in item["message"] for item in done["warnings"])
    assert IconWish().parts == frozenset() and "dark" in IconWish(ios_dark="x").parts


def test_a_ground_follows_into_every_qualifier(both: Path, tmp_path: Path) -> None:
    """A colour of the night and of a version become the new ground as well, and it is said."""
    for folder in ("values-night", "values-v31"):
        files(
            both,
            {
                f"app/src/main/res/{folder}/colors.xml": '<resources>\n    <color name="ic_launcher_background">#000000</color>\n    <color name="x">#000000</color>\n</resources>\n'
            },
        )
    done = drawn(both, "--background", "#A04020")
    assert sum(item["code"] == "ground-follows" for item in done["warnings"]) == 2
    for folder in ("values-night", "values-v31"):
        text = (both / f"app/src/main/res/{folder}/colors.xml").read_text()
        assert text.count("#A04020") == text.count("#000000") == 1


def test_one_platform_of_a_framework(tmp_path: Path) -> None:
    """Of one list of pictures for several platforms those of the platform that was asked for are drawn."""
    art = saved(tmp_path, logo(size=256), "a.png")
    for platform, names in (
        ("ios", {"icon.png", "splash-icon.png"}),
        ("android", {"icon.png", "icon-foreground.png", "icon-monochrome.png", "splash-icon.png"}),
        ("web", {"favicon.png"}),
    ):
        root = files(tmp_path / platform, HOMES["expo"])
        done = onomaxis("icons", root, "--art", art, "--platform", platform, "--allow-dirty", "--json").json
        assert {Path(image["path"]).name for image in done["images"]} == names


def test_what_cannot_be_drawn_is_named(tmp_path: Path) -> None:
    """The message speaks of the kind of project that is there."""
    odd = str(HOMES["maui"]["Shed.csproj"]).replace("appicon.svg", "*.svg")
    done = onomaxis("icons", files(tmp_path / "a", {**HOMES["maui"], "Shed.csproj": odd}), "--art", saved(tmp_path, logo(size=64), "a.png"), "--json")
    assert done.code == 2 and "MauiIcon" in done.json["error"]["remedy"] and "iOS" not in done.json["error"]["remedy"]


# -- the helpers


# -- what is not to be lost, or trusted


@pytest.mark.parametrize(
    "words", [["--icon-name", "other"], ["--store-art", "store"], ["--background", "#102030", "--notification", "bell"]], ids=["name", "store", "notification"]
)
def test_what_needs_whole_art(both: Path, tmp_path: Path, words: list[str]) -> None:
    """A new name, the store's pictures, a status icon cannot be made from a part: refused before anything is drawn."""
    part = words if "--background" in words else [*words, "--ios-dark", saved(tmp_path, logo(size=64), "d.png")]
    before = snapshot(both)
    done = onomaxis("icons", both, *part, "--allow-dirty", "--json")
    assert done.code == 2 and "whole icon" in done.json["error"]["message"] and snapshot(both) == before


def test_a_status_icon_from_a_silhouette_alone(both: Path, tmp_path: Path) -> None:
    """The silhouette is all that it needs."""
    done = drawn(both, "--monochrome", saved(tmp_path, logo(size=256), "m.png"), "--notification", "bell")
    assert sum(image["slot"].startswith("notification") for image in done["images"]) == 5


def test_an_adaptive_icon_without_layers(both: Path) -> None:
    """A file that holds none yet gets its layer; one that is damaged is named with its line."""
    path = "app/src/main/res/mipmap-anydpi-v26/ic_launcher.xml"
    files(both, {path: '<adaptive-icon xmlns:android="http://schemas.android.com/apk/res/android"></adaptive-icon>'})
    onomaxis("icons", both, "--background", "#102030", "--allow-dirty")
    assert "<background " in (both / path).read_text()
    files(both, {path: "<adaptive-icon\n<"})
    done = onomaxis("icons", both, "--background", "#304050", "--allow-dirty", "--json")
    assert done.code == 2 and done.json["error"]["file"] == path


@pytest.mark.parametrize("name", ["./art/icon.jpg", "../shared/icon.png"])
def test_a_picture_that_is_named_and_not_drawn(tmp_path: Path, name: str) -> None:
    """It keeps its old art, and that is said."""
    document = json.loads(str(HOMES["expo"]["app.json"]))
    document["expo"]["icon"] = name
    root = files(tmp_path / "a", {**HOMES["expo"], "app.json": json.dumps(document, indent=2)})
    done = onomaxis("icons", root, "--art", saved(tmp_path, photo(128), "a.png"), "--allow-dirty", "--json").json
    assert [item["file"] for item in done["warnings"] if item["code"] == "not-drawn"] == [name]


def test_a_picture_that_is_somebody_elses(tmp_path: Path) -> None:
    """A file that stands where a new one would go is not written over; a source that others name is not removed."""
    root = files(tmp_path / "a", {**HOMES["expo"], "assets/favicon.png": picture(16)})
    done = onomaxis("icons", root, "--art", saved(tmp_path, photo(128), "a.png"), "--allow-dirty", "--json").json
    assert "assets/favicon.png" not in {*done["changed"], *done["created"]}
    page = {"Main.xaml": '<Image Source="appiconfg.svg"/>\n'}
    root = files(tmp_path / "b", {**HOMES["maui"], **page})
    done = onomaxis("icons", root, "--art", saved(tmp_path, photo(128), "b.png"), "--allow-dirty", "--json").json
    assert done["removed"] == ["Resources/AppIcon/appicon.svg"]


@pytest.mark.parametrize(
    "body", ['<filter id="f"><feTurbulence numOctaves="1000000000"/></filter><rect width="9" height="9" filter="url(#f)"/>', "<path d='M0 0'/>" * 60000]
)
def test_a_costly_drawing_of_the_tree_is_not_shown(body: str) -> None:
    """A cloned repository cannot keep the program busy by an icon."""
    assert decode(f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9">{body}</svg>'.encode()) is None
    assert decode(art_file("full.svg")) is not None
