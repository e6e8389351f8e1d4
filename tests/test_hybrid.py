"""Cross-platform kinds, one by one: the survey, every file after a rename, a second run, the way back."""

from __future__ import annotations

import io
import json
import re
import shutil
import subprocess
from pathlib import Path

import pytest
from PIL import Image

import right
from conftest import commit_all, files, judge, memory, onomaxis, snapshot, text_of
from hybrids import KINDS, MANIFEST, spelled
from judges import check_lists, parse_errors
from onomaxis.checks.inspection import look_over
from onomaxis.demo import ART
from onomaxis.rename.rename import plan_rename
from onomaxis.surveys.survey import UNSTATED, read_projects, take_survey
from onomaxis.wishes import Wish
from onomaxis.writing.change import applied
from test_apple import plist
from xcode import pbxproj

OLD = ("org.x.shed", "Shed", "1.2.0", "7")
NEW = ("com.y.barn", "The Barn", "2.0.1", "9")


def made(folder: Path, contents: dict[str, str]) -> Path:
    root = files(folder, contents)
    commit_all(root)
    return root


def held(root: Path, wanted: dict[str, str]) -> dict[str, str]:
    """Return the present text of the files in *wanted*; line ends count."""
    return {path: (root / path).read_bytes().decode() for path in wanted if (root / path).exists()}


def rename(root: Path, values: tuple[str, str, str, str], *more: str):
    words = ["--id", values[0], "--name", values[1], "--version", values[2], "--build", values[3]]
    return onomaxis("rename", root, *words, "--json", *more)


@pytest.mark.parametrize("kind", KINDS)
def test_every_kind(tmp_path: Path, kind: str) -> None:
    """The survey says what was written; a rename reaches every file and nothing else; back is the same, without a journal."""
    root = made(tmp_path / "app", spelled(kind, *OLD))
    before = snapshot(root)
    survey = onomaxis("survey", root, "--json").json
    assert kind in survey["kinds"] and survey["disagreements"] == [] and {item["reason"] for item in survey["unresolved"]} <= {UNSTATED}
    assert {(a["platform"], a["id"], a["name"], a["version"], a["build"]) for a in survey["apps"]} == {(platform, *OLD) for platform in ("android", "ios")}
    done = rename(root, NEW)
    assert done.code == 0, done.err
    wanted = spelled(kind, *NEW)
    assert held(root, wanted) == wanted
    check_lists(root)
    assert sum(parse_errors(root).values()) == 0
    assert all(item["reason"] for item in done.json["residue"])
    again = rename(root, NEW).json
    assert (again["edits"], again["moves"], again["journal"]) == (0, [], "")
    shutil.rmtree(root / ".onomaxis")
    assert rename(root, OLD, "--allow-dirty").code == 0 and snapshot(root) == before


@pytest.mark.parametrize("kind", ["flutter", "react-native", "capacitor", "expo", "cordova", "nativescript", "tauri"])
def test_technical_names(tmp_path: Path, kind: str) -> None:
    """--project-name reaches packages, components, slugs and native projects as each framework's tools allow."""
    contents = spelled(kind, *OLD)
    root = made(tmp_path / "app", contents)
    before = snapshot(root)
    done = onomaxis("rename", root, "--project-name", "Barn", "--json")
    assert done.code == 0, done.err
    wanted = spelled(kind, *OLD, "Barn", "barn")
    if kind in ("tauri",):  # the Rust package is a library's name to others
        wanted["src-tauri/Cargo.toml"] = contents["src-tauri/Cargo.toml"]
    assert held(root, wanted) == wanted
    assert {(a["id"], a["name"]) for a in onomaxis("survey", root, "--json").json["apps"]} == {OLD[:2]}
    assert onomaxis("undo", root, "--yes").code == 0 and snapshot(root) == before


@pytest.mark.parametrize(
    ("kind", "file", "old", "new", "code"),
    [
        ("react-native", "app.json", '"name": "Shed"', '"name": "Other"', "components-differ"),
        ("react-native", "app.json", '"displayName": "Shed"', '"displayName": "Other"', "framework-name-differs"),
        ("capacitor", "capacitor.config.ts", "org.x.shed", "org.x.other", "framework-id-differs"),
        ("capacitor", "android/app/build.gradle", '"1.2.0"', '"1.3"', "versions-differ"),
    ],
)
def test_what_disagrees_is_said(tmp_path: Path, kind: str, file: str, old: str, new: str, code: str) -> None:
    """A framework's file that says otherwise than a native half is named, and a rename brings both together."""
    contents = spelled(kind, *OLD)
    assert old in contents[file]
    root = made(tmp_path / "app", {**contents, file: contents[file].replace(old, new)})
    assert code in {item["code"] for item in onomaxis("survey", root, "--json").json["disagreements"]}
    assert rename(root, NEW).code == 0
    codes = {item["code"] for item in onomaxis("survey", root, "--json").json["disagreements"]}
    assert codes == ({code} if code == "components-differ" else set())


# What a framework's file makes its ID of (what stands before it, the expression), and which others it can be made.
IDS = ("com.y.barn", "org.x.barn", "org.shed")
SUMS = [
    ("const base = 'org.x';", "base + '.shed'", IDS), ("const base = 'org.x.sh';", "base + 'ed'", IDS), ("const base = 'org.x';", "`${base}.shed`", IDS),
    ("const a = 'org', b = 'x';", "a + '.' + b + '.shed'", IDS), ("const base = 'org.x'; const id = base + '.shed';", "id", IDS), ("", "' org.x.shed '.trim()", IDS),
    ("const make = () => 'org.x' + '.shed';", "make()", IDS), ("const base = 'org.x';", "(process.env.DEV ? 'org.x' : base) + '.shed'", IDS[1:]),
    ("", "['org.x', 'shed'].join('.')", IDS), ("", "'org.x'.concat('.shed')", IDS), ("", "atob('b3JnLnguc2hlZA==')", ()),
]  # fmt: skip


@pytest.mark.processes
@pytest.mark.parametrize(("head", "said", "others"), SUMS)
def test_a_framework_says_what_the_native_halves_say(tmp_path: Path, head: str, said: str, others: tuple[str, ...]) -> None:
    """An ID put together of several evaluates to the new one in the runtime too; where it cannot, nothing is renamed."""
    contents = {path: text for path, text in spelled("capacitor", *OLD).items() if not path.startswith("capacitor.config")}
    script = f"{head}\nconst more = 'org.x';\nconst config = {{ appId: {said}, appName: 'Shed', webDir: 'www' }};\nmodule.exports = config;\n"
    root = made(tmp_path / "app", {**contents, "capacitor.config.js": script})
    before = snapshot(root)
    for new in IDS:
        written = new in others
        done = onomaxis("rename", root, "--id", new, "--keep-code")
        assert done.code in ((0,) if written else (2, 3)) and ("capacitor.config.js:3" in done.err) != written, done.err
        text = f"{(root / 'capacitor.config.js').read_text()};console.log(module.exports.appId + ' ' + more)"
        ran = subprocess.run([judge("node"), "-e", text], capture_output=True, text=True, check=True).stdout
        assert ran == (f"{new} org.x\n" if written else "org.x.shed org.x\n")
        assert onomaxis("undo", root).code == (0 if written else 2) and snapshot(root) == before


GODOT = (
    '[preset.0]\n\nname="A"\nplatform="Android"\n\n[preset.0.options]\n\nversion/code=1\nversion/name="{0}"\npackage/unique_name="{1}"\n\n'
    '[preset.1]\n\nname="B"\nplatform="iOS"\n\n[preset.1.options]\n\napplication/bundle_identifier="org.x.shed"\napplication/short_version="{2}"\napplication/version="1"\n'
)
# What an engine's presets say (Android's version and ID, the phone's version; the project's version), what is asked, what they say then.
PRESETS = [
    (("", "org.x.$genname", "1.0"), "", ["--id", "org.y"], ("", "org.y", "1.0"), ""), (("", "org.x.$genname", ""), "", ["--version", "2.0"], ("2.0", "org.x.$genname", "2.0"), ""),
    (("", "org.x.$genname", "1.0"), "1.0", ["--version", "2.0"], ("", "org.x.$genname", "2.0"), "2.0"), (("", "org.x.$genname", ""), "", ["--name", "Barn"], ("", "org.x.shed", ""), ""),
    (("", "org.x.$genname", ""), "1.0", ["--version", "2.0"], ("", "org.x.$genname", ""), "2.0"), (("1.0", "org.x.$genname.app", "1.0"), "", ["--name", "Barn"], ("1.0", "org.x.shed.app", "1.0"), ""),
    (("1.0", "org.x.$genname", "1.0"), "", ["--name", "Barn", "--id", "org.y"], ("1.0", "org.y", "1.0"), ""),
]  # fmt: skip


@pytest.mark.parametrize(("before", "version", "words", "after", "version_after"), PRESETS)
def test_presets_that_leave_to_the_project(tmp_path: Path, before: tuple, version: str, words: list[str], after: tuple, version_after: str) -> None:
    """What a preset makes of the project's name or leaves to its version is read, changed where it stands, and an ID never by the way."""

    def written(said: tuple, number: str, name: str) -> dict[str, str]:
        ios = GODOT.format(*said).replace('org.x.shed"\napplication', f'{"org.y" if "--id" in words and said is after else "org.x.shed"}"\napplication')
        return {"export_presets.cfg": ios, "project.godot": f'[application]\n\nconfig/name="{name}"\nconfig/version="{number}"\n'}

    root = files(tmp_path / "g", written(before, version, "1 Shed!"))
    assert {app["id"] for app in onomaxis("survey", root, "--json").json["apps"]} == {"org.x.shed", before[1].replace("$genname", "shed")}
    assert onomaxis("rename", root, *words).code == 0
    assert held(root, written(after, version_after, "")) == written(after, version_after, "Barn" if "--name" in words else "1 Shed!")


SCRIPTED = '{"name": "n", "nativescript": {"id": "org.x.shed"}, "dependencies": {"tns-core-modules": "3"}}\n'
# The manifest of a project in the framework's first layout, what is asked, whether it can be done.
FIRST_LAYOUT = [
    (' android:versionCode="3" android:versionName="1.2"', ["--version", "2.0", "--build", "9"], 0), ("", ["--version", "2.0"], 3), ("", ["--name", "Barn"], 3),
    ("", ["--id", "org.y"], 0), ("", ["--id", "org.y", "--version", "2.0"], 0),
]  # fmt: skip


@pytest.mark.parametrize(("attributes", "words", "code"), FIRST_LAYOUT)
def test_values_without_a_place(tmp_path: Path, attributes: str, words: list[str], code: int) -> None:
    """Where nothing that is asked for has a place it is refused, never called done; beside what is done it is named."""
    manifest = f'<manifest xmlns:android="http://schemas.android.com/apk/res/android" package="__PACKAGE__"{attributes}/>\n'
    root = files(tmp_path / "n", {"package.json": SCRIPTED, "app/App_Resources/Android/AndroidManifest.xml": manifest})
    before = snapshot(root)
    done = onomaxis("rename", root, *words)
    assert done.code == code and "Nothing to change" not in done.err + done.out
    assert ("there is no place for the" in done.err) == ((not attributes and words[0] != "--id") or len(words) > 2)
    assert (snapshot(root) == before) == (code != 0)
    if attributes:
        assert (root / "app/App_Resources/Android/AndroidManifest.xml").read_text() == manifest.replace('"3"', '"9"').replace('"1.2"', '"2.0"')


@pytest.mark.processes
def test_a_configuration_in_json5(tmp_path: Path) -> None:
    """What the framework's own tools read is read and written in its own quotes; the runtime reads what was wished."""
    text = "{ // ours\n  expo: {\n    name: 'Shed', slug: \"shed\", version: '1.2.0',\n    ios: { bundleIdentifier: 'org.x.shed' }, android: { package: 'org.x.shed', versionCode: 7, },\n  },\n}\n"
    root = made(tmp_path / "app", {"package.json": spelled("expo", *OLD)["package.json"], "app.json": text})
    assert onomaxis("rename", root, "--id", "com.y.barn", "--name", "It's “Barn”", "--version", "2.0.0", "--build", "9").code == 0
    after = (root / "app.json").read_text()
    ran = subprocess.run([judge("node"), "-e", f"console.log(JSON.stringify((\n{after}\n).expo))"], capture_output=True, text=True, check=True)
    said = json.loads(ran.stdout)
    assert (said["name"], said["version"], said["ios"], said["android"]) == (
        "It's “Barn”", "2.0.0", {"bundleIdentifier": "com.y.barn", "buildNumber": "9"}, {"package": "com.y.barn", "versionCode": 9},
    )  # fmt: skip
    assert onomaxis("undo", root).code == 0 and (root / "app.json").read_text() == text


MANIFESTS = [
    (kind, path)
    for kind in KINDS
    for path in spelled(kind, *OLD)
    if path in ("package.json", "app.json", "pubspec.yaml", "capacitor.config.json", "config.xml")
]


@pytest.mark.parametrize(("kind", "manifest"), MANIFESTS)
def test_a_manifest_that_cannot_be_read_hides_no_framework(tmp_path: Path, kind: str, manifest: str) -> None:
    """Its native halves alone would be renamed, and the framework's tools would turn them back."""
    contents = spelled(kind, *OLD)
    contents[manifest] = contents[manifest].rstrip().rstrip("}").removesuffix("</widget>") + "\nx: [1"
    root = files(tmp_path, contents)
    before = snapshot(root)
    survey, found = onomaxis("survey", root, "--json").json, onomaxis("check", root, "--json").json["findings"]
    assert kind in survey["kinds"] and manifest in {item["file"] for item in survey["unresolved"] if item["facet"] == "file"}
    assert manifest in {item["at"][0]["file"] for item in found if item["code"] == "FILE01"}
    for words in (["--version", "9.9.9"], ["--name", "Barn"], ["--id", "org.y.barn"]):
        done = onomaxis("rename", root, *words)
        assert done.code == 3 and f"{manifest}:" in done.err and "Mend the file first" in done.err, done.err
    assert snapshot(root) == before


def test_computed_values_are_unresolved(tmp_path: Path) -> None:
    """An ID that code computes is named with its line, and a change of it is refused."""
    config = "import pkg from './x';\nexport default { name: 'Shed', android: { package: makeId(pkg) } };\n"
    root = made(tmp_path / "app", {"package.json": spelled("expo", *OLD)["package.json"], "app.config.ts": config})
    found = onomaxis("survey", root, "--json").json
    assert [(u["facet"], u["line"]) for u in found["unresolved"] if u["reason"] != UNSTATED] == [("android.application-id", 2)]
    nulls = [(app["platform"], key) for app in found["apps"] for key in ("id", "name", "version", "build", "icon") if app[key] is None]
    assert len(nulls) > 1 and {"ios.bundle-id", "version.code"} < {u["facet"] for u in found["unresolved"]}
    done = onomaxis("rename", root, "--android-id", "com.y.barn")
    assert done.code == 3 and "app.config.ts:2" in done.err and "“makeId” is not followed" in done.err


MISSING = '{\n    "expo": {\n        "name": "Shed",\n        "slug": "shed"\n    }\n}\n'


def test_missing_keys_are_added(tmp_path: Path) -> None:
    """A fresh managed project gets its objects and keys, in the file's own indentation, and stays valid JSON."""
    root = made(tmp_path / "app", {"package.json": spelled("expo", *OLD)["package.json"], "app.json": MISSING})
    done = rename(root, NEW)
    assert done.code == 0, done.err
    assert json.loads((root / "app.json").read_text())["expo"] == {
        "name": "The Barn",
        "slug": "shed",
        "version": "2.0.1",
        "ios": {"bundleIdentifier": "com.y.barn", "buildNumber": "9"},
        "android": {"package": "com.y.barn", "versionCode": 9},
    }
    assert rename(root, NEW).json["edits"] == 0


def test_what_a_platform_has_not_yet_is_made(tmp_path: Path) -> None:
    """A string resource that names the app, an attribute for the build number: created where there is none, once."""
    contents = spelled("nativescript", *OLD)
    del contents["App_Resources/Android/src/main/res/values/strings.xml"]
    contents["App_Resources/Android/src/main/res/values/styles.xml"] = "<resources/>\n"
    contents["App_Resources/iOS/Info.plist"] = contents["App_Resources/iOS/Info.plist"].replace(">Shed<", ">${PRODUCT_NAME}<")
    root = made(tmp_path / "script", contents)
    before = snapshot(root)
    new = (NEW[0], 'Zoë\'s "R&D"', *NEW[2:])
    done = rename(root, new)
    assert done.json["created"] == ["App_Resources/Android/src/main/res/values/strings.xml"]
    assert {a["name"] for a in onomaxis("survey", root, "--json").json["apps"]} == {new[1]} and rename(root, new).json["edits"] == 0
    assert onomaxis("undo", root, "--yes").code == 0 and snapshot(root) == before
    config = spelled("cordova", *OLD)["config.xml"].replace(' android-versionCode="7" ios-CFBundleVersion="7"', "")
    root = made(tmp_path / "cordova", {"config.xml": config})
    assert rename(root, NEW).code == 0
    assert 'version="2.0.1" android-versionCode="9" ios-CFBundleVersion="9"' in (root / "config.xml").read_text()


def png(edge: int, high: int = 0) -> bytes:
    held = io.BytesIO()
    Image.new("RGBA", (edge, high or edge), "#336699").save(held, "PNG")
    return held.getvalue()


LAYERED = '{"expo": {"name": "Shed", "icon": "./a/icon.png", "android": {"adaptiveIcon": {"foregroundImage": "./a/f.png", "backgroundImage": "a/b.png", "monochromeImage": "a/m.png", "backgroundColor": "#fff"}}, "web": {"favicon": "./a/fav.png"}}}'
CONFIG = """<widget id="a.b" xmlns="http://www.w3.org/ns/widgets"><name>x</name>
  <platform name="ios"><icon src="res/ios.png" width="180" height="180"/></platform>
  <platform name="android"><icon background="@color/x" foreground="res/f.png" density="xhdpi"/></platform>
</widget>
"""
# Kind: its files, then each picture with its edge and whether it is opaque.
ICONS: dict[str, tuple[dict[str, str], dict[str, tuple[int, bool]]]] = {
    "expo": (
        {"package.json": '{"dependencies": {"expo": "1"}}', "app.json": LAYERED},
        {"a/icon.png": (1024, True), "a/f.png": (1024, False), "a/b.png": (1024, True), "a/m.png": (1024, False), "a/fav.png": (48, False)},
    ),
    "cordova": ({"config.xml": CONFIG}, {"res/ios.png": (180, True), "res/f.png": (216, False)}),
    "tauri": (
        {
            "src-tauri/tauri.conf.json": '{"identifier": "a.b", "bundle": {"icon": ["icons/32x32.png", "icons/128x128@2x.png", "icons/icon.ico", "icons/icon.icns"]}}'
        },
        {"src-tauri/icons/32x32.png": (32, False), "src-tauri/icons/128x128@2x.png": (256, False), "src-tauri/icons/icon.ico": (256, False)},
    ),
    "nativescript": (
        {
            "nativescript.config.ts": "export default { id: 'a.b' };",
            "App_Resources/Android/src/main/AndroidManifest.xml": MANIFEST.replace("<application", '<application android:icon="@mipmap/ic_launcher"'),
            "App_Resources/Android/src/main/res/values/strings.xml": "<resources/>",
        },
        {"App_Resources/Android/src/main/res/mipmap-hdpi/ic_launcher.png": (72, False)},
    ),
    "flutter": ({**spelled("flutter", *OLD), "windows/runner/resources/app_icon.ico": "x"}, {"windows/runner/resources/app_icon.ico": (256, False)}),
}


@pytest.mark.parametrize("kind", ICONS)
@pytest.mark.pictures
def test_icons_of_each_kind(tmp_path: Path, kind: str) -> None:
    """Every picture that a kind's files name is drawn at its size and opacity; a second run changes nothing."""
    contents, wanted = ICONS[kind]
    root = made(tmp_path / "app", {**contents, **{path: png(8) for path in wanted if path.endswith(".png") and "mipmap" not in path}})
    words = ["--foreground", ART / "ladder-foreground.svg", "--background", "#7A3E2B"]
    done = onomaxis("icons", root, *words, "--json")
    assert done.code == 0, done.err
    for path, (edge, opaque) in wanted.items():
        with Image.open(root / path) as picture:
            assert max(picture.size) == edge, path
            assert (picture.convert("RGBA").getchannel("A").getextrema()[0] == 255) == opaque, path
    again = onomaxis("icons", root, *words, "--json", "--allow-dirty").json
    assert not again["changed"] and not again["created"] and not again["removed"]
    assert onomaxis("undo", root, "--yes").code == 0


SPEC = '"codegenConfig": {"name": "Spec", "type": "modules", "jsSrcsDir": "src", "android": {"javaPackageName": "com.lendlib"}}, '
LINK = "module.exports = { dependency: { platforms: { android: { packageImportPath: 'import com.lendlib.LendPackage;' } } } };\n"


@pytest.mark.parametrize("said", ["spec", "link", "both"])
def test_a_library_s_package_is_followed_where_its_top_names_it(said: str) -> None:
    """What finds the native half of a library names its package: there and back, byte for byte."""
    contents = {
        "package.json": '{"name": "lendlib", %s"peerDependencies": {"react-native": "*"}}\n' % (SPEC if said != "link" else ""),
        "android/settings.gradle": "rootProject.name = 'lendlib'\n",
        "android/build.gradle": "apply plugin: 'com.android.library'\nandroid {\n  namespace 'com.lendlib'\n}\n",
        "android/src/main/AndroidManifest.xml": "<manifest/>\n",
        "android/src/main/java/com/lendlib/LendPackage.kt": "package com.lendlib\nclass LendPackage\n",
    }
    contents |= {"react-native.config.js": LINK} if said != "spec" else {}
    tree = memory(contents)
    later = applied(tree, plan_rename(take_survey(tree), Wish(code_package="org.shed.lib")).changes)
    assert not [path for path in later.files if b"com.lendlib" in (later.read(path) or b"")]
    assert b"import org.shed.lib.LendPackage;" in (later.read("react-native.config.js") or b"import org.shed.lib.LendPackage;")
    back = applied(later, plan_rename(take_survey(later), Wish(code_package="com.lendlib")).changes)
    assert {path: back.read(path) for path in back.files} == {path: tree.read(path) for path in tree.files}


# As templates are published: what nobody has filled in is a note, a folder of layers is an icon, a launch picture has its own size.
FRESH: dict[str, dict[str, str | bytes]] = {
    "nativescript": {
        "package.json": '{"name": "@x/template-blank", "dependencies": {"@nativescript/core": "~9.1.0"}}\n',
        "App_Resources/Android/app.gradle": "android {\n  defaultConfig {\n    versionCode 1\n    versionName \"1.0.0\"\n  }\n}\n",
        "App_Resources/iOS/Info.plist": right.plist({"CFBundleDisplayName": "${PRODUCT_NAME}", "CFBundleShortVersionString": "1.0.0", "CFBundleVersion": "1.0.0"}),
    },
    "expo": {
        "package.json": '{"dependencies": {"expo": "1", "react-native": "1"}}',
        "app.json": '{"expo": {"name": "HelloWorld", "slug": "t", "version": "1.0.0", "icon": "./i.png", "ios": {"icon": "./a/expo.icon"}, "plugins": [["expo-splash-screen", {"image": "./a/splash.png"}]]}}',
        "a/expo.icon/icon.json": "{}", "i.png": png(1024), "a/splash.png": png(228, 213),
    },
    "cordova": {"config.xml": '<widget id="org.apache.cordova.hellocordova" version="1.0.0" xmlns="http://www.w3.org/ns/widgets"><name>Hello Cordova</name></widget>\n', "www/index.html": "<html><head><title>Hello World</title></head></html>\n"},
}  # fmt: skip


@pytest.mark.parametrize("kind", FRESH)
def test_a_fresh_template_is_nobody_s_fault(kind: str) -> None:
    tree = memory(FRESH[kind])
    assert {project.kind for project in read_projects(tree)} == {kind}
    found = look_over(tree)[0]
    assert found and {item.rule.severity for item in found} == {"note"}, [(item.rule.code, item.message) for item in found if item.rule.severity != "note"]


OLD_GRADLE = """def localProperties = new Properties()
def file = rootProject.file('local.properties')
if (file.exists()) {
    file.withReader('UTF-8') { reader -> localProperties.load(reader) }
}
def flutterVersionCode = localProperties.getProperty('flutter.versionCode')
if (flutterVersionCode == null) {
    flutterVersionCode = '1'
}
def flutterVersionName = localProperties.getProperty('flutter.versionName')
if (flutterVersionName == null) {
    flutterVersionName = '1.0'
}
"""


def test_the_version_in_a_pubspec(tmp_path: Path) -> None:
    """Older build scripts take it too; a build number is added where there is none; quotes and comments stay."""
    contents = spelled("flutter", *OLD)
    gradle = (
        contents["android/app/build.gradle"]
        .replace("flutter.versionCode", "flutterVersionCode.toInteger()")
        .replace("flutter.versionName", "flutterVersionName")
    )
    pubspec = contents["pubspec.yaml"].replace("version: 1.2.0+7 #", "version: '1.2.0' #")
    root = made(tmp_path / "app", {**contents, "android/app/build.gradle": OLD_GRADLE + gradle, "pubspec.yaml": pubspec})
    done = onomaxis("rename", root, "--version", "1.3.0", "--build", "12")
    assert done.code == 0, done.err
    assert "version: '1.3.0+12' # both stores" in (root / "pubspec.yaml").read_text()
    apps = onomaxis("survey", root, "--json").json["apps"]
    assert {(a["version"], a["build"], a["origin"]["build"]) for a in apps} == {("1.3.0", "12", "pubspec.yaml:3")}


# What each kind's own tools take as a version, and what they refuse.
FORMS = [
    ("flutter", ("2.4.0", "2.4.0-rc.1"), ("2.4", "2", "02.4.0")), ("expo", ("2.4.0",), ()), ("tauri", ("2.4.0",), ("2.4",)), ("godot", ("2.4", "2", "2.4.0"), ("2.4-beta",)),
    ("maui", ("2.4", "2.4.0"), ("2", "2.4-beta")),
]  # fmt: skip


@pytest.mark.parametrize(("kind", "right", "wrong"), FORMS)
def test_versions_in_the_form_of_each_owner(tmp_path: Path, kind: str, right: tuple[str, ...], wrong: tuple[str, ...]) -> None:
    """A version that the owner's tools refuse is not written; the advice works when it is followed."""
    contents = spelled(kind, *OLD)
    android = {path: text for path, text in contents.items() if not path.startswith("ios/")}
    if kind == "godot":
        android |= {"export_presets.cfg": GODOT.format("", "org.x.shed", ""), "project.godot": 'config/name="Shed"\nconfig/version="1.2.0"\n'}
    root = files(tmp_path / "x", android)
    before = snapshot(root)
    for version in wrong:
        done = onomaxis("rename", root, "--version", version, "--platform", "android")
        assert done.code == 2 and "2.4.0" in done.err and snapshot(root) == before, (version, done)
    if kind != "flutter":  # whose iOS half is not there
        done = onomaxis("rename", root, "--version", "2.4.0", "--platform", "android")
        assert done.code == 3 and "iOS takes its version from here too" in done.err and snapshot(root) == before, done
    for version in right:
        assert onomaxis("rename", root, "--version", version, "--android-id", "org.x.shed", *(["--platform", "android"] if kind == "flutter" else [])).code in (
            0,
            2,
        ), version


def test_a_flutter_app_as_its_tools_make_it(tmp_path: Path) -> None:
    """IDs that differ by platform's rules, tests, a desktop half: one rename brings all together."""
    contents = spelled("flutter", "com.x.helloApp", "hello_app", "1.0.0", "1", "Runner", "hello_app")
    for path in [path for path in contents if path.startswith("android/")]:
        contents[path.replace("helloApp", "hello_app")] = contents.pop(path).replace("com.x.helloApp", "com.x.hello_app")
    own = {"PRODUCT_NAME": "$(TARGET_NAME)", "INFOPLIST_FILE": "Runner/Info.plist"}
    tests = {"PRODUCT_BUNDLE_IDENTIFIER": "com.x.helloApp.RunnerTests", "MARKETING_VERSION": "1.0"}
    ios = {"Runner": ("app", {"*": {**own, "PRODUCT_BUNDLE_IDENTIFIER": "com.x.helloApp"}}), "RunnerTests": ("tests", {"*": tests})}
    mac = pbxproj(["Release"], {"SDKROOT": "macosx"}, {"Runner": ("app", {"*": {"INFOPLIST_FILE": "Runner/Info.plist"}})})
    based = "\t\t\tbaseConfigurationReference = X1;\n\t\t\tbuildSettings = {\n\t\t\t\tINFOPLIST"
    reference = "\t\tX1 = {isa = PBXFileReference; path = Runner/Configs/AppInfo.xcconfig; sourceTree = SOURCE_ROOT; };\n\t\tP000 = {"
    listed = {
        "CFBundleIdentifier": "$(PRODUCT_BUNDLE_IDENTIFIER)",
        "CFBundleShortVersionString": "$(FLUTTER_BUILD_NAME)",
        "CFBundleVersion": "$(FLUTTER_BUILD_NUMBER)",
    }
    contents |= {
        "ios/Runner.xcodeproj/project.pbxproj": pbxproj(["Release"], {"SDKROOT": "iphoneos"}, ios),
        "ios/Runner/Info.plist": plist(CFBundleDisplayName="Hello App", CFBundleName="hello_app", **listed),
        "macos/Runner.xcodeproj/project.pbxproj": mac.replace("\t\t\tbuildSettings = {\n\t\t\t\tINFOPLIST", based).replace("\t\tP000 = {", reference),
        "macos/Runner/Configs/AppInfo.xcconfig": "PRODUCT_NAME = hello_app\nPRODUCT_BUNDLE_IDENTIFIER = com.x.helloApp\n",
        "macos/Runner/Info.plist": plist(CFBundleName="$(PRODUCT_NAME)", **listed),
    }
    root = made(tmp_path / "app", contents)
    before = snapshot(root)
    found = onomaxis("survey", root, "--json").json
    assert {(a["platform"], a["id"], a["name"]) for a in found["apps"]} == {
        ("android", "com.x.hello_app", "hello_app"),
        ("ios", "com.x.helloApp", "Hello App"),
        ("macos", "com.x.helloApp", "hello_app"),
    }
    done = rename(root, NEW, "--project-name", "ToolBarn")
    assert done.code == 0 and done.json["residue"] == [], done.err
    found = onomaxis("survey", root, "--json").json
    assert {(a["id"], a["name"], a["version"], a["build"]) for a in found["apps"]} == {NEW} and found["disagreements"] == []
    assert " = com.y.barn.RunnerTests;" in (root / "ios/Runner.xcodeproj/project.pbxproj").read_text()
    held_still = [
        path for path in root.rglob("*") if path.is_file() and ".git" not in path.parts and ".onomaxis" not in path.parts and "hello" in text_of(path)
    ]
    assert held_still == [] and "name: tool_barn\n" in (root / "pubspec.yaml").read_text()
    assert onomaxis("undo", root, "--yes").code == 0 and snapshot(root) == before


@pytest.mark.parametrize(
    ("words", "why"), [([], "no number"), (["--build", "+0"], "not a step"), (["--build", "+x"], "not a step"), (["--version", "next"], "neither a version")]
)
def test_renumber_says_what_is_wrong(demo: Path, words: list[str], why: str) -> None:
    done = onomaxis("renumber", demo, *words)
    assert done.code == 2 and why in done.err


def test_only_what_ships_is_listed(tmp_path: Path) -> None:
    """A half that was left out is not an app; one that the framework generates beside a kept half is."""
    android = {path: text for path, text in spelled("capacitor", *OLD).items() if not path.startswith("ios/")}
    root = made(tmp_path / "capacitor", android)
    assert [a["platform"] for a in onomaxis("survey", root, "--json").json["apps"]] == ["android"]
    root = made(
        tmp_path / "expo",
        {**spelled("expo", *OLD), **{p: t for p, t in spelled("capacitor", *OLD).items() if p.startswith("android/")}, ".gitignore": "ios/\n"},
    )
    assert [a["platform"] for a in onomaxis("survey", root, "--json").json["apps"]] == ["android", "ios"]
    assert rename(root, NEW).code == 0
    assert {(a["id"], a["version"]) for a in onomaxis("survey", root, "--json").json["apps"]} == {(NEW[0], NEW[2])}


SETTINGS = "ProjectSettings/ProjectSettings.asset"


@pytest.mark.parametrize("platform", ["android", "ios"])
@pytest.mark.parametrize("kind", KINDS)
def test_values_of_one_platform_alone(tmp_path: Path, kind: str, platform: str) -> None:
    """Each value becomes that platform's, the other one keeps its own; where one place is both's, it is refused and nothing changes."""
    for at, (option, facet, new) in enumerate([("--name", "name", "Barn"), ("--version", "version", "3.0.0"), ("--build", "build", "99")]):
        root = files(tmp_path / f"p{at}", spelled(kind, *OLD))
        before = {app["platform"]: app[facet] for app in onomaxis("survey", root, "--json").json["apps"]}
        done = onomaxis("rename", root, option, new, "--platform", platform)
        after = {app["platform"]: app[facet] for app in onomaxis("survey", root, "--json").json["apps"]}
        assert done.code in (0, 3) and "fault of Onomaxis" not in done.err, done.err
        assert after == (before | {platform: new} if not done.code else before), (option, done.err)


@pytest.mark.parametrize(("word", "code"), [("--name=Barn", 3), ("--version=9.0.0", 3), ("--build=99", 3), ("--id=org.y.barn", 3)])
def test_two_apps_that_have_nothing_to_do_with_each_other(tmp_path: Path, word: str, code: int) -> None:
    """An Android and an iOS app of one repository are not one app because each is its platform's only one."""
    halves = spelled("capacitor", *OLD)
    native = {path: text for path, text in halves.items() if path.startswith(("android/", "ios/"))}
    other = {path: text.replace("org.x.shed", "com.z.loan").replace("Shed", "Loan") for path, text in native.items()}
    apart = {path.replace("android/", "counter/", 1): text for path, text in native.items() if path.startswith("android/")}
    apart |= {path.replace("ios/", "member/", 1).replace("Shed", "Loan"): text for path, text in other.items() if path.startswith("ios/")}
    root = files(tmp_path / "apart", apart)
    before = snapshot(root)
    done = onomaxis("rename", root, word)
    assert done.code == code and "look like two apps" in done.err and snapshot(root) == before, done.err
    for command in (("adopt",), ("flavor", "list")):
        refused = onomaxis(*command, root)
        assert refused.code == 3 and "they would be taken for one" in refused.err and snapshot(root) == before, refused.err
    assert onomaxis("adopt", root, "--app", "org.x.shed").code == 0  # what it says is not said of the other one
    assert onomaxis("stamp", root, "--json").json["files"] == []
    assert onomaxis("rename", root, word, "--platform", "android").code == 0
    beside = {path: text if path.startswith("android/") else other[path] for path, text in native.items()}
    assert onomaxis("rename", files(tmp_path / "beside", beside), word).code == 0, "android and ios beside each other are one app"


@pytest.mark.parametrize(
    ("said", "package", "version"), [(', "version": "2.4.0"', "1.0.0", "2.4.0"), (', "version": "../package.json"', "3.4.5", "3.4.5"), ("", "1.0.0", "0.1.0")]
)
def test_what_tauri_makes_of_a_version(tmp_path: Path, said: str, package: str, version: str) -> None:
    """It is the configuration's, the package's that it names, or the crate's; build numbers follow until they are stated."""
    root = made(
        tmp_path / "app",
        {
            "src-tauri/tauri.conf.json": f'{{"identifier": "org.x.shed", "productName": "Shed"{said}}}\n',
            "src-tauri/tauri.ios.conf.json": '{"identifier": "org.x.phone"}\n',
            "package.json": f'{{"name": "shed", "version": "{package}"}}\n',
            "src-tauri/Cargo.toml": '[build-dependencies.x]\nversion = "9"\n\n[package]\nname = "shed"\nversion = "0.1.0"\n',
        },
    )
    major, minor, patch = map(int, version.split("."))

    def apps() -> dict[str, tuple[str, ...]]:
        return {app["platform"]: (app["id"], app["version"], app["build"]) for app in onomaxis("survey", root, "--json").json["apps"]}

    assert apps() == {"android": ("org.x.shed", version, str(major * 10**6 + minor * 1000 + patch)), "ios": ("org.x.phone", version, version)}
    assert not [item for item in onomaxis("check", root, "--json").json["findings"] if item["code"] == "VERSION08"]
    assert rename(root, NEW).code == 0
    assert apps() == dict.fromkeys(("android", "ios"), (NEW[0], *NEW[2:]))


def test_one_platform_of_a_shared_id(tmp_path: Path) -> None:
    """Where one line holds the ID of both platforms, one alone is refused; over native halves the copy stays, and is said."""
    root = made(tmp_path / "tauri", spelled("tauri", *OLD))
    before = snapshot(root)
    done = onomaxis("rename", root, "--android-id", "com.y.barn")
    assert done.code == 3 and "tauri.conf.json:4" in done.err and "iOS takes its ID" in done.err and snapshot(root) == before
    engine = made(tmp_path / "unity", spelled("unity", *OLD))
    onomaxis("rename", engine, "--android-id", "com.y.barn")
    assert [line.split(": ")[1] for line in (engine / SETTINGS).read_text().split("\n")[7:10]] == ["com.y.barn", "org.x.shed", "org.x.shed"]
    over = made(tmp_path / "capacitor", spelled("capacitor", *OLD))
    done = onomaxis("rename", over, "--android-id", "com.y.barn", "--json").json
    assert any("capacitor.config.ts:4" in note and "stays" in note for note in done["notes"])
    assert "appId: 'org.x.shed'" in (over / "capacitor.config.ts").read_text()


def test_a_repository_of_several_kinds(tmp_path: Path) -> None:
    """Each app is a project of its own; one is picked by folder or name, and no other's file changes."""
    other = ("org.x.shed.two", "Two", "1.0", "1")
    root = made(
        tmp_path / "repo",
        {
            **{f"one/{path}": text for path, text in spelled("flutter", *OLD).items()},
            **{f"two/{path}": text for path, text in spelled("react-native", *other, "Two", "two").items()},
            **{f"three/{path}": text for path, text in spelled("expo", "org.z.three", "Three", "1.0", "1").items()},
        },
    )
    assert set(onomaxis("survey", root, "--json").json["kinds"]) == {"android", "ios", "flutter", "react-native", "expo"}
    before = snapshot(root)
    refused = rename(root, NEW)
    assert refused.code == 3 and "several" in refused.out and "--app" in refused.out and snapshot(root) == before
    assert rename(root / "one", NEW).code == 0
    after = snapshot(root)
    assert {path for path in before if before.get(path) != after.get(path) and not path.endswith("/")} <= {p for p in before if p.startswith("one/")}
    wanted = {f"one/{path}": text for path, text in spelled("flutter", *NEW).items()}
    assert {path: text_of(root / path) for path in wanted} == wanted


@pytest.mark.parametrize(("kind", "file"), [("flutter", "pubspec.yaml"), ("tauri", "tauri.conf.json")])
def test_a_version_that_its_tools_refuse(tmp_path: Path, kind: str, file: str) -> None:
    """Two numbers are a version for the stores, and none for a file whose tools take three: refused, and the advice works."""
    root = made(tmp_path / "app", spelled(kind, *OLD))
    before = snapshot(root)
    done = onomaxis("rename", root, "--version", "1.3")
    assert done.code == 2 and file in done.err and "three numbers" in done.err and snapshot(root) == before
    assert onomaxis("rename", root, "--version", "1.3.0").code == 0


@pytest.mark.parametrize("script", ["build.gradle", "build.gradle.kts"])
def test_debug_builds_of_react_native_flavors_are_listed(tmp_path: Path, script: str) -> None:
    """From the first flavor on: the app's own and the new one, a second one behind; each goes with its flavor, the list with the last."""
    kotlin = script.endswith("kts")
    gradle = 'android {\n    namespace = "org.x.shed"\n    defaultConfig {\n        applicationId = "org.x.shed"\n        versionCode = 7\n        versionName = "1.2"\n    }\n}\n'
    hint = 'debuggableVariants = ["liteDebug", "liteDebugOptimized"]' if kotlin else 'debuggableVariants = ["liteDebug"]'  # as templates have it
    react = f"react {{\n    // {hint}\n    autolinkLibrariesWithApp()\n}}\n\n"
    contents = {
        path: data for path, data in spelled("react-native", "org.x.shed", "Shed", "1.2", "7").items() if not path.startswith("android/app/build.gradle")
    }
    root = files(tmp_path, {**contents, f"android/app/{script}": f"{react}{gradle}"})
    path = root / "android/app" / script

    def listed() -> list[str]:
        found = re.findall(r"^ +debuggableVariants = (?:\[|listOf\()(.*)[\])]$", path.read_text(), re.MULTILINE)
        assert len(found) < 2 and ("listOf" in path.read_text()) == (kotlin and bool(found))
        names = re.findall(r'"(\w+)"', found[0]) if found else []
        assert not kotlin or names[1::2] == [f"{name}Optimized" for name in names[::2]]
        return names[::2] if kotlin else names

    add = ("flavor", "add", "oak", root, "--platform", "android", "--name", "Oak", "--allow-dirty")
    assert onomaxis(*add, "--base", "shed").code == 0 and listed() == ["shedDebug", "oakDebug"]
    assert onomaxis("flavor", "add", "elm", root, "--platform", "android", "--name", "Elm", "--allow-dirty").code == 0
    assert listed() == ["shedDebug", "oakDebug", "elmDebug"]
    for gone, left in (("oak", ["shedDebug", "elmDebug"]), ("elm", ["shedDebug"])):
        assert onomaxis("flavor", "retire", gone, root, "--allow-dirty").code == 0 and listed() == left
