"""What icons look like and what is wrong with them: the proof picture, the checks, vector drawables read back."""

from __future__ import annotations

import io
import json
import shutil
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageDraw

from compositions import NS
from conftest import Templates, files, onomaxis
from onomaxis.checks.inspection import look_over
from onomaxis.checks.registry import every_rule
from onomaxis.demo import copy_demo
from onomaxis.icons.labels import LABELS, seen, width
from onomaxis.icons.pixels import to_bytes
from onomaxis.icons.scaled import render_svg
from onomaxis.icons.sheets.home import home_pages
from onomaxis.icons.sheets.lists import settings_pages, switcher_pages
from onomaxis.icons.sheets.paper import Paper
from onomaxis.icons.sheets.shown import Shown, all_shown, by_page, flavors_of
from onomaxis.icons.sheets.store import store_pages
from onomaxis.icons.vectors import VectorReader
from onomaxis.platforms import DENSITIES
from onomaxis.surveys.survey import read_projects
from onomaxis.tree import Tree
from test_icons import FRONT, LADDER, RES, SET, png

pytestmark = pytest.mark.pictures


def _drawn(folder: Path) -> None:
    copy_demo(str(folder))
    onomaxis("icons", folder, "--foreground", FRONT, "--background", "#2E6B4F")
    assert onomaxis("check", folder, "--only", "icons", "--json").json["findings"] == []


@pytest.fixture
def drawn(tmp_path: Path, template: Templates) -> Path:
    """The demo with a whole icon set, in which every check is silent."""
    return Path(shutil.copytree(template("drawn", _drawn), tmp_path / "drawn", symlinks=True))


def codes(folder: Path) -> set[str]:
    return {finding["code"] for finding in onomaxis("check", folder, "--only", "icons", "--json").json["findings"]}


def picture(size: int, alpha: bool = False) -> bytes:
    image = Image.open(io.BytesIO(png(size, size)))
    out = io.BytesIO()
    (image if alpha else image.convert("RGB")).save(out, "PNG")
    return out.getvalue()


def card() -> bytes:
    """A rounded card on white, as a store page shows it."""
    image = Image.new("RGB", (1024, 1024), "white")
    ImageDraw.Draw(image).rounded_rectangle((0, 0, 1023, 1023), 200, fill=(30, 90, 60))
    out = io.BytesIO()
    image.save(out, "PNG")
    return out.getvalue()


XML = RES + "/mipmap-anydpi-v26/ic_launcher.xml"
MANIFEST = "android/app/src/main/AndroidManifest.xml"


def replace(path: str, old: str, new: str) -> Callable[[Path], object]:
    return lambda demo: (demo / path).write_text((demo / path).read_text().replace(old, new))


def write(path: str, data: bytes | str) -> Callable[[Path], object]:
    return lambda demo: files(demo, {path: data})


FAULTS: dict[str, Callable[[Path], object]] = {
    "ICON01": write(f"{RES}/mipmap-hdpi/ic_launcher.png", picture(48, alpha=True)),
    "ICON02": lambda demo: (demo / SET / "AppIcon.png").unlink(),
    "ICON03": write(f"{SET}/stray.png", picture(20)),
    "ICON04": write(f"{SET}/AppIcon.png", picture(1024, alpha=True)),
    "ICON05": write(f"{SET}/AppIcon.png", card()),
    "ICON06": replace(f"{RES}/drawable-anydpi-v26/ic_launcher_foreground.xml", "M40,28L40,80", "M6,6L100,100"),
    "ICON07": lambda demo: (demo / XML).unlink(),
    "ICON08": lambda demo: (demo / XML).write_text("".join(line for line in (demo / XML).read_text().splitlines(True) if "monochrome" not in line)),
    "ICON09": replace(MANIFEST, "android:icon=", 'android:roundIcon="@mipmap/round" android:icon='),
    "ICON10": replace(f"{RES}/values/ic_launcher_background.xml", "#2E6B4F", "#F2EAD6"),
    "ICON11": lambda demo: shutil.copy(demo / RES / "mipmap-mdpi/ic_launcher.png", demo / RES / "mipmap-mdpi/ic_launcher.webp"),
    "ICON12": lambda demo: shutil.rmtree(demo / SET),
    "ICON13": replace(f"{SET}/Contents.json", '"images" : [', '"images" : [ {"idiom":"ipad","size":"76x76","scale":"2x"},'),
    "ICON16": replace(f"{SET}/Contents.json", '"filename" : "AppIcon.png",', ""),
    "ICON14": replace(MANIFEST, "@mipmap/ic_launcher", "@mipmap/nothing"),
    "ICON18": write("onomaxis.toml", b"format = 1\n[app.icon]\nart = 'art/nothing.svg'\n"),
    "ICON19": write("android/app/src/mossgate/res/mipmap-xxxhdpi/ic_launcher.png", picture(192)),
    "ICON17": lambda demo: (demo / RES / "mipmap-xhdpi/ic_launcher.png").unlink(),
    "ICON15": lambda demo: (demo / RES / "mipmap-mdpi/ic_launcher.png").rename(demo / RES / "mipmap-mdpi/ic_launcher.webp"),
}

RULES = [rule for rule in every_rule() if rule.family == "icons"]


NEIGHBOURHOODS = ("alderbank", "mossgate", "pennywick")


def test_a_flavor_with_layers_of_its_own_has_an_icon(drawn: Path) -> None:
    """One that changes a layer of the app's adaptive icon alone lacks nothing; the proof draws the two together."""
    front = (drawn / RES / "drawable-anydpi-v26/ic_launcher_foreground.xml").read_text().replace("M40,28L40,80", "M40,30L40,78")
    homes = [f"android/app/src/{flavor}/res/drawable-anydpi-v26/ic_launcher_foreground.xml" for flavor in ("alderbank", "mossgate")]
    files(drawn, dict.fromkeys(homes, front))
    said = {(item["code"], item["flavor"]) for item in onomaxis("check", drawn, "--json").json["findings"]}
    assert ("FLAVOR07", "pennywick") in said and not {("FLAVOR07", "alderbank"), ("ICON14", "alderbank"), ("ICON19", "alderbank")} & said
    every = [item for item in all_shown(Tree.open(drawn), read_projects(Tree.open(drawn))) if item.platform == "android"]
    pixels = {name: to_bytes(item.draw("plain", 64)).tobytes() for item in every for name in NEIGHBOURHOODS if item.flavor.startswith(name)}
    assert pixels["alderbank"] == pixels["mossgate"] != pixels["pennywick"]


@pytest.mark.parametrize("code", [rule.code for rule in RULES])
def test_each_rule_fires_on_its_fault(drawn: Path, code: str) -> None:
    """Every rule is silent on the good set (the fixture) and fires on one fault; exit code 1 on errors."""
    FAULTS[code](drawn)
    assert code in codes(drawn)
    severity = next(rule.severity for rule in RULES if rule.code == code)
    assert onomaxis("check", drawn, "--only", "icons").code == (1 if severity == "error" else 0)


LAUNCHER = f'<manifest {NS}><application android:icon="@mipmap/up" android:roundIcon="@mipmap/round"/></manifest>\n'
SCRIPT = 'plugins {{ id("com.android.application") }}\nandroid {{ defaultConfig {{ applicationId = "org.lendspan"; minSdk = {} }}\n{} }}\n'
BRANDS = 'flavorDimensions += "brand"\nproductFlavors { create("alderbank") { dimension = "brand" } }'
# folders and names (main's, then the flavor's), lowest level, what is said of which resource
HOLES = [
    ("all", [], 21, set()),
    ("no xhdpi", ["main mipmap-xhdpi/up"], 21, {"up has none for xhdpi"}),
    ("the round one has holes", ["main mipmap-mdpi/round", "main mipmap-hdpi/round"], 21, {"round has none for mdpi, hdpi"}),
    ("one alone is scaled", [f"main mipmap-{d}/{n}" for d in ("mdpi", "hdpi", "xhdpi", "xxhdpi") for n in ("up", "round")], 21, set()),
    (
        "a flavor of one density",
        [f"alderbank mipmap-{d}/up" for d in ("mdpi", "hdpi", "xhdpi", "xxhdpi")],
        21,
        {"up has none for mdpi, hdpi, xhdpi, xxhdpi: the main picture shows there"},
    ),
    ("a flavor without one", ["alderbank mipmap-xxhdpi/up"], 21, {"up has none for xxhdpi: the main picture shows there"}),
    ("a layer", ["main mipmap-mdpi/front"], 21, {"front has none for mdpi"}),
    ("nothing shows the old ones", ["main mipmap-xhdpi/up", "alderbank mipmap-xhdpi/up"], 26, set()),
]


@pytest.mark.parametrize(("gone", "lowest", "said"), [row[1:] for row in HOLES], ids=[row[0] for row in HOLES])
def test_densities_are_siblings(gone: list[str], lowest: int, said: set[str]) -> None:
    """An icon, its round form, its layers: compared with every density there is, and a flavor's with the main ones."""
    have: dict[str, bytes] = {"app/build.gradle.kts": SCRIPT.format(lowest, BRANDS).encode(), "app/src/main/AndroidManifest.xml": LAUNCHER.encode()}
    for density, factor in DENSITIES:
        for source_set, name, edge in (("main", "up", 48), ("main", "round", 48), ("main", "front", 108), ("alderbank", "up", 48)):
            if f"{source_set} mipmap-{density}/{name}" not in gone:
                have[f"app/src/{source_set}/res/mipmap-{density}/{name}.png"] = picture(round(edge * factor))
    adaptive = f'<adaptive-icon {NS}><background android:drawable="@color/x"/><foreground android:drawable="@mipmap/front"/></adaptive-icon>\n'
    for source_set in ("main", "alderbank"):
        have[f"app/src/{source_set}/res/mipmap-anydpi-v26/up.xml"] = adaptive.encode()
    found = look_over(Tree.of(have), ["icons"])[0]
    assert {item.message for item in found if item.rule.code == "ICON17"} == said


def test_reports(demo: Path) -> None:
    """Text, JSON and SARIF say the same; places are files of the project."""
    (demo / SET / "AppIcon.png").write_bytes(picture(60, alpha=True))
    text, found = (onomaxis("check", demo, "--only", "icons", "--each"), onomaxis("check", demo, "--only", "icons", "--as", "json").json["findings"])
    assert text.code == 1 and all(item["code"] in text.out and item["message"] in text.out for item in found)
    assert {"ICON01", "ICON04", "ICON07"} <= {item["code"] for item in found}
    sarif = json.loads(onomaxis("check", demo, "--only", "icons", "--as", "sarif").out)
    run = sarif["runs"][0]
    assert sarif["version"] == "2.1.0" and {rule["id"] for rule in run["tool"]["driver"]["rules"]} == {
        "FILE01",
        "FILE02",
        "FILE03",
        *(rule.code for rule in RULES),
    }
    assert [result["ruleId"] for result in run["results"]] == [item["code"] for item in found]
    for result in run["results"]:
        place = result["locations"][0]["physicalLocation"]
        assert (demo / place["artifactLocation"]["uri"]).exists()
        assert run["tool"]["driver"]["rules"][result["ruleIndex"]]["id"] == result["ruleId"]


def test_proof_shows_what_the_project_has(drawn: Path, tmp_path: Path) -> None:
    """Each sheet has the size asked for and its own name, is the same each time, and changes when an icon changes."""
    out = tmp_path / "proof.png"
    words = ["proof", drawn, "--out", out, "--size", "900x600", "--json"]
    found = onomaxis(*words).json["files"]
    assert {item["sheet"] for item in found} == {"home", "switcher", "settings", "store", "masks"}
    assert all(Path(item["path"]).name.startswith(f"proof-{item['sheet']}") for item in found)
    first = {item["path"]: Path(item["path"]).read_bytes() for item in found}
    for item in found:
        with Image.open(item["path"]) as image:
            assert image.size == (item["width"], item["height"]) == (900, 600)
            assert len(image.convert("RGB").getcolors(1 << 20)) > 50
    settings = [item for item in found if item["sheet"] == "settings"]
    assert onomaxis(*words, "--sheet", "settings").json["files"] == settings and all(
        Path(item["path"]).read_bytes() == first[item["path"]] for item in settings
    )
    onomaxis("icons", drawn, "--foreground", FRONT, "--background", "#803020", "--platform", "android", "--allow-dirty")
    onomaxis(*words, "--sheet", "store", "--sheet", "masks")
    assert all(Path(item["path"]).read_bytes() != first[item["path"]] for item in found if item["page"] == 1 and item["sheet"] in ("store", "masks"))
    masks = onomaxis(*words, "--sheet", "masks").json["files"]
    assert [(item["path"], item["page"]) for item in masks] == [(out.as_posix(), 1)] and out.exists()
    light = out.read_bytes()
    assert onomaxis(*words, "--sheet", "masks", "--appearance", "dark").code == 0 and out.read_bytes() != light
    assert onomaxis("proof", drawn, "--size", "9x9").code == 2
    assert onomaxis("proof", drawn, "--out", tmp_path / "no" / "x.png").code == 2


def test_proof_has_a_row_for_a_flavor_with_pictures(small: Callable[..., Path], tmp_path: Path) -> None:
    """A flavor without pictures has no row of its own; one with pictures has. Each is shown with the icon it takes."""
    script = (
        "apply plugin: 'com.android.application'\nandroid {\n  namespace 'a.b'\n  defaultConfig { applicationId 'a.b' }\n"
        "  productFlavors { alder { }\n moss { } }\n}\n"
    )
    manifest = '<manifest xmlns:android="http://schemas.android.com/apk/res/android"><application android:label="X" android:icon="@mipmap/icon"/></manifest>'
    root = small(extra={"app/build.gradle": script, "app/src/main/AndroidManifest.xml": manifest})
    onomaxis("icons", root, "--art", LADDER)
    onomaxis("icons", root, "--foreground", FRONT, "--background", "#803020", "--flavor", "alder")
    done = onomaxis("proof", root, "--out", tmp_path / "p.png", "--sheet", "masks", "--json").json
    assert [item["flavors"] for item in done["files"]] == [["", "alder"]]
    tree = Tree.open(root)
    shown = {item.flavor: item for item in all_shown(tree, read_projects(tree))}
    middle = {name: to_bytes(item.draw("plain", 48))[6, 24].tolist() for name, item in shown.items()}
    assert middle["alder"] != middle["moss"] and middle["alder"][:3] == [0x80, 0x30, 0x20]


def test_many_flavors_make_pages(tmp_path: Path) -> None:
    """Six of a platform stand on a page, whatever the other platform has; what no sheet shows is an empty page."""

    def one(platform: str, number: int) -> Shown:
        return Shown(platform, f"f{number}", f"Flavor {number}", lambda look, size: None, lambda size: None)

    shown = [one("android", number) for number in range(13)] + [one("ios", number) for number in range(2)]
    pages = by_page(shown, 6)
    assert [[item.flavor for item in page if item.platform == "android"] for page in pages] == [[f"f{n}" for n in range(a, min(a + 6, 13))] for a in (0, 6, 12)]
    assert [sum(item.platform == "ios" for item in page) for page in pages] == [2, 0, 0]
    for draw in (home_pages, switcher_pages, settings_pages, store_pages):
        assert [flavors for _, flavors in draw(shown, Paper(640, 400), "x")] == [flavors_of(page) for page in pages]
        assert len(draw([], Paper(640, 400), "x")) == 1


def test_names_are_cut_as_home_screens_cut_them() -> None:
    """What fits is whole; what does not ends in an ellipsis and fits; an unknown script has a width as well."""
    for platform, rule in LABELS.items():
        assert seen("Lendspan", platform) == "Lendspan" and seen("", platform) == ""
        for name in ("Alderbank Tools", "Nachbarschaftswerkzeug", "Библиотека инструментов", "道具図書館の貸出窓口", "W" * 30, "i" * 90):
            cut = seen(name, platform)
            assert cut.endswith("…") and name.startswith(cut[:-1].rstrip()) and width(cut, rule.face, rule.size) <= rule.room
    assert seen("A long name of a desktop", "windows") == "A long name of a desktop"
    assert width("iiii", LABELS["ios"].face, 12) < width("WWWW", LABELS["ios"].face, 12)


VECTOR = (
    '<vector xmlns:android="http://schemas.android.com/apk/res/android" xmlns:aapt="http://schemas.android.com/aapt" '
    'android:width="108dp" android:height="108dp" android:viewportWidth="100" android:viewportHeight="100">{}</vector>'
)
SQUARE = 'android:pathData="M20,20h60v60h-60z"'
VECTORS = [
    (f'<path {SQUARE} android:fillColor="#FF0000"/>', (255, 0, 0, 255)),
    (f'<path {SQUARE} android:fillColor="#80FF0000"/>', (255, 0, 0, 128)),
    (f'<path {SQUARE} android:fillColor="#F00" android:fillAlpha="0.5"/>', (255, 0, 0, 128)),
    (f'<path {SQUARE} android:fillColor="@color/brand"/>', (0, 255, 0, 255)),
    (f'<path {SQUARE} android:strokeColor="#0000FF" android:strokeWidth="90"/>', (0, 0, 255, 255)),
    (f'<group android:translateX="90"><path {SQUARE} android:fillColor="#F00"/></group>', (0, 0, 0, 0)),
    (f'<group android:rotation="45" android:pivotX="50" android:pivotY="50"><path {SQUARE} android:fillColor="#F00"/></group>', (255, 0, 0, 255)),
    (f'<group><clip-path android:pathData="M0,0h10v10h-10z"/><path {SQUARE} android:fillColor="#F00"/></group>', (0, 0, 0, 0)),
    (
        f'<path {SQUARE}><aapt:attr name="android:fillColor"><gradient android:type="linear" android:startX="0" '
        'android:startY="0" android:endX="100" android:endY="0" android:startColor="#FF0000" android:endColor="#FF0000"/>'
        "</aapt:attr></path>",
        (255, 0, 0, 255),
    ),
    ('<path android:fillType="evenOdd" android:fillColor="#F00" android:pathData="M20,20h60v60h-60zM40,40h20v20h-20z"/>', (0, 0, 0, 0)),
]


@pytest.mark.parametrize(("body", "wanted"), VECTORS)
def test_vector_drawables_are_read_back(body: str, wanted: tuple[int, int, int, int]) -> None:
    """Fills, alpha first, strokes, groups, clips, gradients and fill rules arrive at the centre pixel."""
    svg = VectorReader(VECTOR.format(body).encode(), lambda name: "#00FF00" if name == "@color/brand" else name).svg()
    pixels = render_svg(svg, 50, 50)
    assert np.abs(pixels[25, 25].astype(int) - wanted).max() <= 2
