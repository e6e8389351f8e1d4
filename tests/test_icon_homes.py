"""Which icons a project has: of each flavor on both platforms, other forms, single pictures; and drawing into them."""

from __future__ import annotations

import io
import json
import os
import struct
from collections.abc import Callable
from pathlib import Path

import pytest
from PIL import Image

from conftest import commit_all, files, onomaxis, snapshot
from onomaxis.demo import ART
from onomaxis.surveys.survey import read_projects
from onomaxis.tree import Tree
from onomaxis.workers import spread
from xcode import pbxproj

pytestmark = pytest.mark.pictures

ART_ = ["--art", ART / "ladder.svg", "--allow-dirty", "--yes"]
ICON, ID = "ASSETCATALOG_COMPILER_APPICON_NAME", "PRODUCT_BUNDLE_IDENTIFIER"
NAMES = ["Debug", "Release", "Debug-alderbank", "Release-alderbank", "Debug-mossgate", "Release-mossgate"]
LIST = json.dumps({"images": [{"idiom": "universal", "platform": "ios", "size": "1024x1024"}], "info": {}})


def apple(root: Path, configurations: list[str], settings: dict[str, dict[str, str]], platform: str = "iphoneos") -> Path:
    """Write a project with one app target Lend and one icon set AppIcon."""
    files(
        root,
        {
            "Lend.xcodeproj/project.pbxproj": pbxproj(configurations, {"SDKROOT": platform}, {"Lend": ("app", settings)}),
            "Lend/Assets.xcassets/AppIcon.appiconset/Contents.json": LIST,
        },
    )
    return root


def test_a_flavor_gets_a_set_of_its_own_on_ios(tmp_path: Path) -> None:
    """A set named after the main one, referred to by that flavor's configurations alone; existing ones are used."""
    own = {name: {ICON: "Moss"} for name in NAMES if "mossgate" in name}
    root = apple(tmp_path, NAMES, {"*": {ICON: "AppIcon", ID: "a.b"}, "Release-alderbank": {ID: "a.alder"}, **own})
    before = snapshot(root)
    apps = onomaxis("survey", root, "--json").json["apps"]
    assert [(app["flavor"], app["configuration"], app["id"], app["icon"]) for app in apps] == [
        ("", "Release", "a.b", "AppIcon"),
        ("alderbank", "Release-alderbank", "a.alder", "AppIcon"),
        ("mossgate", "Release-mossgate", "a.b", "Moss"),
    ]
    done = onomaxis("icons", root, *ART_, "--flavor", "Alderbank", "--json").json
    assert {image["path"] for image in done["images"]} == {"Lend/Assets.xcassets/AppIcon-alderbank.appiconset/AppIcon-alderbank-1024.png"}
    icons = {app["flavor"]: app["icon"] for app in onomaxis("survey", root, "--json").json["apps"]}
    assert icons == {"": "AppIcon", "alderbank": "AppIcon-alderbank", "mossgate": "Moss"}
    assert (root / "Lend.xcodeproj/project.pbxproj").read_text().count('= "AppIcon-alderbank";') == 2
    assert onomaxis("icons", root, *ART_, "--flavor", "alderbank", "--json").json["changed"] == []
    kept = onomaxis("icons", root, *ART_, "--json").json
    assert [warning["code"] for warning in kept["warnings"] if "keeps" in warning["code"]] == ["flavor-keeps"]
    moss = onomaxis("icons", root, *ART_, "--flavor", "mossgate", "--json").json
    assert all("/Moss.appiconset/" in path for path in moss["created"]) and moss["changed"] == []
    for _ in range(3):
        assert onomaxis("undo", root, "--allow-dirty", "--yes").code == 0
    assert snapshot(root) == before


def test_every_flavor_with_art_of_its_own(small: Callable[..., Path], tmp_path: Path) -> None:
    """``{flavor}`` stands for each flavor; what is drawn does not depend on how many processes draw."""
    root = small(
        extra={
            "app/build.gradle": "apply plugin: 'com.android.application'\nandroid { namespace 'a.b'\nflavorDimensions 'd'\n"
            "productFlavors { alder { dimension 'd'\nmanifestPlaceholders = [icon: '@mipmap/ic_alder'] }\n moss { dimension 'd' } }\n"
            "defaultConfig { applicationId 'a.b'\nmanifestPlaceholders = [icon: '@mipmap/ic_main'] } }\n",
            "app/src/main/AndroidManifest.xml": '<manifest xmlns:android="http://schemas.android.com/apk/res/android"><application android:icon="${icon}"/></manifest>',
            "app/src/debug/res/mipmap-mdpi/ic_main.png": b"x",
        }
    )
    for name, colour in (("alder", "#204060"), ("moss", "#406020")):
        files(tmp_path / "art", {f"{name}.svg": (ART / "ladder.svg").read_text().replace("</svg>", f'<path fill="{colour}" d="M40 40h9v9z"/></svg>')})
    words = ["icons", root, "--art", tmp_path / "art/{flavor}.svg", "--allow-dirty", "--yes", "--json"]
    together = onomaxis(*words, "--every-flavor").json
    assert {path.split("/")[2] for path in together["created"]} == {"alder", "moss"}
    assert any(path.endswith("ic_alder.png") for path in together["created"])
    first = snapshot(root)
    onomaxis("undo", root, "--allow-dirty", "--yes")
    for name in ("alder", "moss"):
        onomaxis(*words, "--flavor", name)
    assert snapshot(root) == first
    main = onomaxis("icons", root, *ART_, "--json").json
    assert {w["code"] for w in main["warnings"]} >= {"flavor-keeps", "source-set-keeps"}
    assert "no flavor" in onomaxis(*words, "--flavor", "nowhere").json["error"]["message"]
    assert onomaxis(*words, "--every-flavor", "--store-art", "store").code == 2
    stored = onomaxis(*words, "--every-flavor", "--store-art", "store/{flavor}").json["created"]
    assert "store/moss/store-icon-512.png" in stored and len(stored) == 6


@pytest.mark.parametrize(
    ("platform", "form", "drawn"),
    [
        ("iphoneos", "AppIcon.icon/icon.json", False),
        ("appletvos", "Lend/Assets.xcassets/AppIcon.brandassets/Contents.json", False),
        ("watchos", "", True),
        ("macosx", "", True),
    ],
)
def test_forms_of_apple_icons(tmp_path: Path, platform: str, form: str, drawn: bool) -> None:
    """Layered icons are named and left alone; watch and desktop sets get every slot of theirs, the latter as cards."""
    root = apple(tmp_path, ["Release"], {"*": {ICON: "AppIcon", ID: "a.b"}}, platform)
    if form:
        (root / "Lend/Assets.xcassets/AppIcon.appiconset/Contents.json").unlink()
        files(root, {form: "{}"})
    done = onomaxis("icons", root, *ART_, "--slots", "full", "--json")
    assert done.code == (0 if drawn else 2)
    if not drawn:
        assert "form that is not drawn" in done.json["error"]["message"]
        return
    sizes = {image["width"] for image in done.json["images"]}
    assert sizes == (
        {16, 32, 64, 128, 256, 512, 1024} if platform == "macosx" else {48, 55, 66, 58, 87, 80, 88, 92, 100, 102, 108, 172, 196, 216, 234, 258, 1024}
    )
    picture = Image.open(root / done.json["images"][0]["path"])
    assert picture.mode == ("RGBA" if platform == "macosx" else "RGB")
    if platform == "macosx":
        assert picture.getpixel((0, 0))[3] == 0 and picture.getpixel((picture.width // 2,) * 2)[3] == 255
    assert onomaxis("check", root, "--only", "icons").code == 0


def test_single_pictures(small: Callable[..., Path]) -> None:
    """A TV banner that the manifest asks for; what a web manifest and its page refer to, in their formats and shapes."""
    root = small(
        extra={
            "app/src/main/AndroidManifest.xml": '<manifest xmlns:android="http://schemas.android.com/apk/res/android"><application android:icon="@mipmap/ic" android:banner="@drawable/tv"/></manifest>',
            "app/src/main/res/drawable/tv.xml": "<shape/>",
            "www/manifest.json": '{"icons": [{"src": "i/192.png", "sizes": "192x192"}, {"src": "i/m.webp", "sizes": "512x512", "purpose": "maskable"},'
            ' {"src": "https://example.org/x.png"}, {"src": "../../out.png"}]}',
            "www/index.html": '<link rel="shortcut icon" href="favicon.ico"><link href="/touch.png" rel="apple-touch-icon">',
            "extension/manifest.json": '{"manifest_version": 3, "icons": [{"src": "e.png"}]}',
        }
    )
    commit_all(root)
    front = ["--foreground", ART / "ladder-foreground.svg", "--background", "#1F4D3A", "--yes", "--json"]
    done = onomaxis("icons", root, *front).json
    made = {image["path"]: (image["width"], image["height"]) for image in done["images"] if "mipmap" not in image["path"]}
    assert made["app/src/main/res/drawable-xhdpi/tv.png"] == (320, 180)
    assert {path: size for path, size in made.items() if path.startswith("www")} == {
        "www/i/192.png": (192, 192),
        "www/i/m.webp": (512, 512),
        "www/favicon.ico": (32, 32),
        "www/touch.png": (180, 180),
    }
    assert "app/src/main/res/drawable/tv.xml" in done["removed"] and not (root / "out.png").exists()
    ico = (root / "www/favicon.ico").read_bytes()
    assert struct.unpack("<HHH", ico[:6]) == (0, 1, 3)
    assert Image.open(io.BytesIO(ico)).info["sizes"] == {(16, 16), (32, 32), (48, 48)}
    assert Image.open(root / "www/touch.png").mode == "RGB" and Image.open(root / "www/i/192.png").getpixel((0, 0))[3] == 0
    maskable = Image.open(root / "www/i/m.webp").convert("RGB")
    assert maskable.getpixel((0, 0)) == (0x1F, 0x4D, 0x3A)
    reach = max(((x - 256) ** 2 + (y - 256) ** 2) ** 0.5 for x in range(512) for y in range(512) if maskable.getpixel((x, y)) != (0x1F, 0x4D, 0x3A))
    assert 0.9 * 0.4 * 512 < reach <= 0.41 * 512
    banner = Image.open(root / "app/src/main/res/drawable-xhdpi/tv.png").convert("RGB")
    assert banner.getpixel((2, 2)) == (0x1F, 0x4D, 0x3A) and len(banner.getcolors(9999)) > 20
    assert onomaxis("icons", root, *front, "--allow-dirty").json["changed"] == []
    web = onomaxis("icons", root, *front, "--platform", "web", "--dry-run").json
    assert {image["platform"] for image in web["images"]} == {"web"}
    (root / "www/i/192.png").write_bytes((root / "www/touch.png").read_bytes())
    assert "180 x 180 pixels, and 192 x 192" in onomaxis("check", root, "--only", "icons").out


def test_slots_beyond_any_platform(small: Callable[..., Path]) -> None:
    """A declared size that would fill the memory is refused with the file, and nothing is written."""
    root = small(extra={"www/manifest.json": '{"icons": [{"src": "b.png", "sizes": "30000x30000"}]}'})
    before = snapshot(root)
    refused = onomaxis("icons", root, *ART_, "--platform", "web")
    assert refused.code == 2 and "www/b.png: a slot of 30000 x 30000" in refused.err and snapshot(root) == before
    apple(root, ["Release"], {"*": {ICON: "AppIcon", ID: "a.b"}})
    contents = root / "Lend/Assets.xcassets/AppIcon.appiconset/Contents.json"
    contents.write_text(LIST.replace("1024x1024", "30000x30000"))
    assert onomaxis("icons", root, *ART_, "--platform", "ios").code == 2


@pytest.mark.usefixtures("processors")
def test_a_helper_that_dies_is_replaced() -> None:
    """Its work is done in this process: killed for want of memory, say."""
    if not hasattr(os, "fork"):
        pytest.skip("helpers are threads here")
    parent = os.getpid()

    def work(number: int) -> int:
        if os.getpid() != parent and number == 3:
            os.kill(os.getpid(), 9)
        return number * number

    assert spread(range(6), work) == [number * number for number in range(6)]


@pytest.mark.usefixtures("processors")
def test_spread_work_comes_back_in_order() -> None:
    """Results stand in the items' order; the first item's fault is raised; ticks end at the total."""
    seen: list[int] = []
    assert spread(range(7), lambda n: n * n, seen.append) == [n * n for n in range(7)]
    assert seen[-1] >= 7 and seen == sorted(seen)

    def fails(number: int) -> int:
        if number in (3, 4):
            raise ValueError(str(number))
        return number

    with pytest.raises(ValueError, match="3"):
        spread(range(6), fails)
    assert not [home for project in read_projects(Tree.open(Path(__file__).parent)) for home in project.icons]


def test_several_apps_are_told_apart(small: Callable[..., Path]) -> None:
    """One art does not go to every app of a repository; a picked app's icon leaves the other's files alone."""
    manifest = '<manifest xmlns:android="http://schemas.android.com/apk/res/android"><application android:icon="@mipmap/ic"/></manifest>'
    layers = '<adaptive-icon><foreground android:drawable="@drawable/ic_foreground"/></adaptive-icon>'
    extra: dict[str, str | bytes] = {"settings.gradle": "include ':app', ':shop'\n", "app/src/main/AndroidManifest.xml": manifest}
    extra |= {
        "shop/build.gradle": "apply plugin: 'com.android.application'\nandroid { namespace 'c.d' }\n",
        "shop/src/main/AndroidManifest.xml": manifest,
        "shop/src/main/res/mipmap-anydpi-v26/ic.xml": layers,
    }
    root = small(extra=extra)
    refused = onomaxis("icons", root, *ART_)
    assert refused.code == 3 and "app (app), shop (shop)" in refused.err
    assert onomaxis("icons", root, *ART_, "--app", "stop").code == 2
    for app in ("shop", "app"):
        done = onomaxis("icons", root, *ART_, "--app", app, "--json").json
        assert {path.split("/")[0] for path in (*done["created"], *done["removed"], *done["changed"])} == {app}
    both = onomaxis("icons", root, *ART_, "--app", "app", "--app", "shop", "--json").json
    assert both["created"] == both["changed"] == both["removed"] == []
