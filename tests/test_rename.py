"""Rename from end to end: the demo under judges, relations between IDs, encodings, what stays."""

from __future__ import annotations

import plistlib
import re
import shutil
import subprocess
from collections.abc import Callable
from pathlib import Path

import pytest

from conftest import commit_all, files, onomaxis, snapshot, text_of
from judges import check_lists, compile_java, link_android, parse_errors, unresolved_imports

NAME = 'Zoë’s "R&D" <Möwe> 1'
THERE = ["--id", "org.lendspan.toolshed", "--name", NAME, "--version", "2.5.1", "--build", "42"]
BACK = ["--id", "org.lendspan.app", "--name", "Lendspan", "--version", "2.4.0", "--build", "41"]


def app_of(folder: Path, platform: str) -> dict:
    return next(app for app in onomaxis("survey", folder, "--json").json["apps"] if app["platform"] == platform)


def judged(demo: Path, app_id: str, label: str, work: Path) -> None:
    """Let every judge look at the demo, which must be called *app_id* and *label*."""
    variants_judged(demo, app_id, work)
    app = app_of(demo, "android")
    linked = link_android(demo / "android/app", app_id, app, work)
    assert {key: linked[key] for key in ("id", "version", "build", "label")} == {"id": app_id, "version": app["version"], "build": app["build"], "label": label}
    assert (app["id"], app["name"]) == (app_id, label)
    compile_java([demo / "android/app/src"], Path(linked["gen"]), work / "java")
    symbols = {name for path in (work / "java/headers").rglob("*.h") for name in re.findall(r"\bJava_\w+", path.read_text())}
    native = (demo / "android/app/src/main/cpp/scales.cpp").read_text()
    assert len(symbols) == 2 and symbols == set(re.findall(r"\bJava_\w+", native))
    classes = work / "java/classes"
    for name in re.findall(r"(?<=[\"L])[a-z]+(?:/[\w$]+)+", native):
        assert name.startswith("java/lang/") or (classes / f"{name}.class").exists()
    assert check_lists(demo / "ios") >= 15
    assert sum(parse_errors(demo).values()) == 0
    assert unresolved_imports(demo / "android", "org.lendspan") == set()
    ios = app_of(demo, "ios")
    assert (ios["id"], ios["name"]) == (app_id, label)
    assert [part["id"] for part in ios["parts"]] == [f"{app_id}.{part}" for part in ("widget", "watchkitapp", "notices", "tests")]


# Flavor, what it adds to the ID, its names where they are its own.
VARIANTS = [
    ("lendspan", "", {}),
    ("alderbank", ".alderbank", {"": "Alderbank Tools", "Plus": "Alderbank Tools Plus"}),
    ("mossgate", ".mossgate", {"": "Mossgate Shed", "Plus": "Mossgate Shed"}),
    ("pennywick", "", {"": "Pennywick Lends", "Plus": "Pennywick Lends"}),
]


def variants_judged(demo: Path, app_id: str, work: Path) -> None:
    """Link the merged resources of every variant, and compare what aapt2 reads with the survey and with the table."""
    apps = {app["flavor"]: app for app in onomaxis("survey", demo, "--json").json["apps"] if app["platform"] == "android"}
    made = re.search(r'resValue\("string", "app_name", "([^"]*)"\)', (demo / "android/app/build.gradle.kts").read_text())[1]
    main = apps["lendspanCommunity"]["name"]
    assert len(apps) == 8
    for flavor, added, names in VARIANTS:
        for tier in ("community", "plus"):
            app = apps[flavor + tier.title()]
            over = (tier, flavor, flavor + tier.title())
            linked = link_android(demo / "android/app", app_id, app, work / app["flavor"], over, made if flavor == "mossgate" else "")
            suffix = ".plus" if tier == "plus" else ""
            base = "org.lendspan.pennywick" if flavor == "pennywick" else app_id + added
            own = names.get("Plus" if tier == "plus" else "", main)
            assert {key: linked[key] for key in ("id", "version", "build", "label")} == {
                "id": base + suffix,
                "version": app["version"],
                "build": app["build"],
                "label": own,
            }
            assert (app["id"], app["name"]) == (base + suffix, own)
            assert app["version"].endswith("-plus") == (tier == "plus")


@pytest.mark.processes
def test_demo_there_and_back(demo: Path, tmp_path: Path) -> None:
    """Rename passes every judge, is idempotent, and back again leaves the same bytes, with and without a journal."""
    before = snapshot(demo)
    judged(demo, "org.lendspan.app", "Lendspan", tmp_path / "w0")
    done = onomaxis("rename", demo, *THERE, "--json").json
    assert done["edits"] > 50 and len(done["moves"]) == 19 and done["journal"] == "0001"
    judged(demo, "org.lendspan.toolshed", NAME, tmp_path / "w1")
    again = onomaxis("rename", demo, *THERE, "--json").json
    assert (again["edits"], again["files"], again["moves"], again["journal"]) == (0, [], [], "")
    copy = shutil.copytree(demo, tmp_path / "copy", ignore=shutil.ignore_patterns(".onomaxis"))
    for folder, dirty in ((demo, []), (copy, ["--allow-dirty"])):
        assert onomaxis("rename", folder, *BACK, *dirty).code == 0
        assert snapshot(folder) == before
        assert subprocess.run(["git", "status", "--porcelain"], cwd=folder, capture_output=True).stdout == b""


def test_every_remaining_mention_is_listed(demo: Path) -> None:
    """After a rename every place that still holds the old ID as a token is residue, with a reason."""
    done = onomaxis("rename", demo, *THERE, "--json").json
    listed = {(item["file"], item["line"]) for item in done["residue"] if item["reason"]}
    standing = {
        (path.relative_to(demo).as_posix(), number)
        for path in demo.rglob("*")
        if path.is_file() and not {".git", ".onomaxis"} & set(path.relative_to(demo).parts) and path.suffix != ".png"
        for number, line in enumerate(text_of(path).split("\n"), 1)
        if "org.lendspan.app" in line
    }
    assert standing and standing <= listed
    reasons = {item["reason"].split(":")[0] for item in done["residue"]}
    assert "a comment (--prose changes it)" in reasons and "a document (--prose changes it)" in reasons
    assert "shared data is kept under this group" in reasons and "a provisioning profile" in reasons


def test_groups_prose_and_localized_names(demo: Path) -> None:
    """App groups change everywhere or nowhere; prose and localized names when asked."""
    onomaxis("rename", demo, *THERE, "--groups", "rewrite", "--prose", "--locale-name", "de=Werkhalle")
    held = {p for p in (demo / "ios").rglob("*") if p.is_file() and b"group.org.lendspan.toolshed" in p.read_bytes()}
    assert len(held) == 5
    assert "org.lendspan.app" not in (demo / "README.md").read_text()
    names = {app["flavor"]: app["names"]["de"] for app in onomaxis("survey", demo, "--json").json["apps"]}
    assert names[""] == names["lendspanPlus"] == "Werkhalle" and names["mossgatePlus"] == "Moostor"


STRINGS = '{head}<resources>{nl}\t<!-- org -->{nl}  <string name="app_name">{name}</string>{nl}</resources>'


@pytest.mark.parametrize(
    ("codec", "head", "nl", "name"),
    [
        ("utf-8", "", "\n", "Old"),
        ("utf-8-sig", '<?xml version="1.0"?>', "\r\n", "Old"),
        ("utf-16", '<?xml version="1.0" encoding="utf-16"?>', "\n", "Öld"),
        ("iso-8859-1", "<?xml version='1.0' encoding='ISO-8859-1'?>", "\r\n", "Öld"),
        ("utf-8", '<!DOCTYPE resources [<!ENTITY n "Old">]>', "\n", "&n;"),
        ("utf-8", "", "\r\n", "<![CDATA[Old]]>"),
        ("utf-8", "", "\n", '"Old"'),
        ("utf-8", "", "\n", "Ol\\u0064"),
    ],
)
def test_encodings_and_spellings_of_the_name(small: Callable[..., Path], codec: str, head: str, nl: str, name: str) -> None:
    """Only the name's bytes change, in the file's own encoding, and come back as they were written."""
    data = STRINGS.format(head=head, nl=nl, name=name).encode(codec)
    path = "app/src/main/res/values/strings.xml"
    root = small(extra={path: data})
    old = app_of(root, "android")["name"]
    assert old in ("Old", "Öld")
    assert onomaxis("rename", root, "--name", "Zoë & Co").code == 0
    changed = (root / path).read_bytes()
    wanted = "<![CDATA[Zoë & Co]]>" if "CDATA" in name else "Zoë &amp; Co"
    name = "Old" if "ENTITY" in head else name  # what the entity stands for is the name
    assert changed == data.replace(name.encode(codec).removeprefix(b"\xff\xfe"), wanted.encode(codec).removeprefix(b"\xff\xfe")) or (
        codec == "utf-8-sig" and changed.decode(codec) == data.decode(codec).replace(name, wanted)
    )
    assert app_of(root, "android")["name"] == "Zoë & Co"
    assert onomaxis("rename", root, "--name", old).code == 0
    assert (root / path).read_bytes() == data


def test_modes_links_and_mixed_line_ends_survive(small: Callable[..., Path], tmp_path: Path) -> None:
    """An executable file stays executable, a link stays a link, mixed and missing line ends stay."""
    code = b"package org.lendspan.app\r\n\nclass Mixed // no end"
    root = small(extra={"app/src/main/java/org/lendspan/app/Mixed.kt": code, "app/tool.gradle": "// org.lendspan.app\n"})
    (root / "app/src/main/java/org/lendspan/app/Mixed.kt").chmod(0o750)
    (root / "link.kt").symlink_to("app/src/main/java/org/lendspan/app/App.kt")
    outside = files(tmp_path / "outside", {"X.kt": "package org.lendspan.app\n"})
    (root / "away").symlink_to(outside)
    before = snapshot(root)
    onomaxis("rename", root, "--id", "org.lendspan.mossgate")
    moved = root / "app/src/main/java/org/lendspan/mossgate/Mixed.kt"
    assert moved.read_bytes() == code.replace(b".app", b".mossgate") and moved.stat().st_mode & 0o777 == 0o750
    assert (root / "link.kt").is_symlink() and (outside / "X.kt").read_text() == "package org.lendspan.app\n"
    onomaxis("undo", root)
    assert snapshot(root) == before


def test_an_id_below_the_names_of_other_apps(small: Callable[..., Path]) -> None:
    """Another app of the repository whose ID begins with this one's is never touched, and --app picks one."""
    other = (
        'apply plugin: "com.android.application"\nandroid { namespace "org.lendspan.app.desk"\n  defaultConfig { applicationId "org.lendspan.app.desk"\n  } }\n'
    )
    manifest = '<manifest xmlns:android="http://schemas.android.com/apk/res/android"><application android:label="D"/></manifest>'
    code = "package org.lendspan.app.desk\n"
    root = small(extra={"desk/build.gradle": other, "desk/src/main/AndroidManifest.xml": manifest, "desk/src/main/java/org/lendspan/app/desk/Desk.kt": code})
    refused = onomaxis("rename", root, "--id", "org.lendspan.mossgate")
    assert refused.code == 3 and "--app" in refused.err and "desk" in refused.err
    assert onomaxis("rename", root, "--id", "org.lendspan.mossgate", "--app", "app").code == 0
    assert (root / "desk/build.gradle").read_text() == other
    assert (root / "desk/src/main/java/org/lendspan/app/desk/Desk.kt").read_text() == code
    assert {app["id"] for app in onomaxis("survey", root, "--json").json["apps"]} == {"org.lendspan.mossgate", "org.lendspan.app.desk"}


FLAVORED = """plugins { id("com.android.application") }
android {
    namespace = "org.lendspan.app"
    flavorDimensions += listOf("place", "price")
    defaultConfig { applicationId = "org.lendspan.app"; versionCode = 7; versionName = "1.0" }
    productFlavors {
        create("alderbank") { dimension = "place"; applicationIdSuffix = ".alderbank" }
        create("mossgate") { dimension = "place"; applicationId = "org.mossgate.tools"; versionName = "3.0" }
        register("free") { dimension = "price"; versionNameSuffix = "-free" }
        register("paid") { dimension = "price" }
    }
    buildTypes { release { applicationIdSuffix = ".r" } }
}
"""


def test_missing_entries_are_inserted(demo: Path, small: Callable[..., Path]) -> None:
    """A display name, version or ID that nothing sets yet is written where it belongs, in the file's style."""
    plist = demo / "ios/Lendspan/Info.plist"
    data = plist.read_bytes().replace(b"\t<key>CFBundleDisplayName</key>\n\t<string>Lendspan</string>\n", b"")
    plist.write_bytes(data)
    commit_all(demo)
    onomaxis("rename", demo, "--name", "Shed & Co")
    assert plistlib.loads(plist.read_bytes())["CFBundleDisplayName"] == "Shed & Co"
    assert b"\n\t<key>CFBundleDisplayName</key>\n\t<string>Shed &amp; Co</string>\n" in plist.read_bytes()
    onomaxis("rename", demo, "--locale-name", "fr=Pont", "--android-id", "a.b", "--dry-run")
    bare = "apply plugin: 'com.android.application'\nandroid {\n    namespace 'org.lendspan.app'\n    defaultConfig {\n        minSdkVersion 24\n    }\n}\n"
    root = small(extra={"app/build.gradle": bare})
    onomaxis("rename", root, "--id", "org.lendspan.mossgate", "--keep-code", "--version", "1.1", "--build", "5")
    app = app_of(root, "android")
    assert (app["id"], app["version"], app["build"]) == ("org.lendspan.mossgate", "1.1", "5")
    assert onomaxis("rename", root, "--locale-name", "pt-BR=Galpão").code == 0
    assert 'name="app_name">Galpão<' in (root / "app/src/main/res/values-pt-rBR/strings.xml").read_text()
    onomaxis("undo", root)
    assert not (root / "app/src/main/res/values-pt-rBR").exists()
