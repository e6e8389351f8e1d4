"""The identity file follows a rename in the same change: what it said rightly, it says rightly again; nothing else in it."""

from __future__ import annotations

import tomllib
from collections.abc import Callable
from pathlib import Path

import pytest

from conftest import commit_all, files, onomaxis, snapshot
from onomaxis.identity.schema import NAME
from xcode import pbxproj

SCRIPT = (
    "apply plugin: 'com.android.application'\nandroid {\n  namespace 'org.lendspan'\n  flavorDimensions 'd'\n"
    "  defaultConfig {\n    applicationId 'org.lendspan'\n    versionName '1.0'\n    versionCode 3\n  }\n"
    "  productFlavors {\n    alder { dimension 'd'\n applicationIdSuffix '.alder' }\n    moss { dimension 'd'\n applicationId 'org.lendspan.moss' }\n  }\n}\n"
)
MANIFEST = '<manifest xmlns:android="http://schemas.android.com/apk/res/android"><application android:label="Lendspan"/></manifest>'
IDENTITY = (
    '# kept\nformat = 1\n\n[app]\nid = \'org.lendspan\'  # as published\nname = "Lendspan"\nversion = "1.0"\nbuild = "3"\n\n'
    '[flavors.alder]\nid-suffix = ".alder"\n\n[flavors.moss]\nid = "org.lendspan.moss"\n'
)


@pytest.fixture
def shop(small: Callable[..., Path]) -> Path:
    """A build with two flavors, and an identity file that says just what it is called."""
    root = small(extra={"app/build.gradle": SCRIPT, "app/src/main/AndroidManifest.xml": MANIFEST, NAME: IDENTITY})
    commit_all(root)
    assert onomaxis("stamp", root, "--json").json["files"] == []
    return root


@pytest.mark.parametrize(
    ("words", "wanted"),
    [
        (["--id", "org.oakhollow"], {"id": "org.oakhollow"}),
        (["--name", 'Oak "Hollow"'], {"name": 'Oak "Hollow"'}),
        (["--version", "2.0", "--build", "9"], {"version": "2.0", "build": "9"}),
    ],
)
def test_it_follows(shop: Path, words: list[str], wanted: dict[str, str]) -> None:
    """Stamping right after a rename changes nothing; comments and all else stay; one undo takes back both."""
    before = snapshot(shop)
    done = onomaxis("rename", shop, *words, "--json").json
    assert NAME in done["files"] and not any(item["file"] == NAME for item in done["residue"])
    found = tomllib.loads((shop / NAME).read_text())
    assert wanted.items() <= found["app"].items() and found["flavors"]["alder"] == {"id-suffix": ".alder"}
    assert found["flavors"]["moss"]["id"] == ("org.oakhollow.moss" if "--id" in words else "org.lendspan.moss")
    assert "# kept" in (shop / NAME).read_text() and "# as published" in (shop / NAME).read_text()
    again = onomaxis("stamp", shop, "--allow-dirty", "--json")
    assert again.code == 0 and again.json["files"] == []
    assert onomaxis("undo", shop, "--allow-dirty").code == 0 and snapshot(shop) == before


def test_there_and_back(shop: Path) -> None:
    """A rename and its reverse give the same tree, the identity file included, also without the journal."""
    before = snapshot(shop)
    for journal in (True, False):
        for name in ("org.oakhollow", "org.lendspan"):
            onomaxis("rename", shop, "--id", name, "--allow-dirty")
            if not journal:
                for path in sorted((shop / ".onomaxis").rglob("*"), reverse=True):
                    path.unlink() if path.is_file() else path.rmdir()
        assert snapshot(shop) == before


@pytest.mark.parametrize("text", ["format = 1\n[app\n", "format = 1\n[app]\nid = 'org.lendspan'\ncolour = 'x'\n"])
def test_a_file_that_cannot_be_read(shop: Path, text: str) -> None:
    """It is left as it is, and that is said; the rename goes on."""
    files(shop, {NAME: text})
    commit_all(shop)
    done = onomaxis("rename", shop, "--id", "org.oakhollow", "--json")
    assert done.code == 0 and NAME not in done.json["files"] and (shop / NAME).read_text() == text
    assert any(NAME in note and "was not updated" in note for note in done.json["notes"])


def test_adopting_again_keeps_a_byte_order_mark(shop: Path) -> None:
    """What is brought up to today by hand keeps its mark as well."""
    (shop / NAME).write_bytes(("\ufeff" + IDENTITY.replace('"1.0"', '"0.9"')).encode())
    commit_all(shop)
    assert onomaxis("adopt", shop, "--again").code == 0
    assert (shop / NAME).read_bytes().decode() == "\ufeff" + IDENTITY


def test_a_target_that_is_called_otherwise(tmp_path: Path) -> None:
    """A technical name that the identity file finds its target by follows as well."""
    settings = {"PRODUCT_BUNDLE_IDENTIFIER": "org.lendspan", "PRODUCT_NAME": "Lendspan", "GENERATE_INFOPLIST_FILE": "YES"}
    project = pbxproj(["Release"], {"SDKROOT": "iphoneos"}, {"Lend": ("app", {"*": settings})})
    identity = 'format = 1\n\n[app]\nid = "org.lendspan"\n\n[ios]\ntarget = "Lend"\n'
    root = files(tmp_path / "x", {"Lend.xcodeproj/project.pbxproj": project, NAME: identity})
    commit_all(root)
    done = onomaxis("rename", root, "--project-name", "Oak", "--json")
    assert done.code == 0 and not any("was not updated" in note for note in done.json["notes"])
    assert (root / NAME).read_text() == identity.replace('"Lend"', '"Oak"')
