"""The frameworks' own commands find after every change what was wished, and change nothing more (make test-clients)."""

from __future__ import annotations

import json
import os
import plistlib
import re
import shutil
import subprocess
from collections.abc import Callable
from pathlib import Path

import pytest

from conftest import THOROUGH, commit_all, files, judge, onomaxis, snapshot
from scripts import dressed, dressed_markup, rows

CLIENTS = Path(__file__).parent.parent / "build" / "clients" / "node_modules"
JUDGE = Path(__file__).with_name("clients") / "judge.js"
if not CLIENTS.exists():
    if os.environ.get("ONOMAXIS_NO_SKIP"):
        raise FileNotFoundError(f"{CLIENTS}: make clients installs the frameworks' commands")
    pytest.skip("the frameworks' commands are not installed: make clients", allow_module_level=True)

ART = Path(__file__).parent.parent / "src" / "onomaxis" / "demo" / "lendspan" / "art"
NEW = ("org.lendspan.tools", "Tool & Shed", "3.1.0", "31")
CAPACITOR, CORDOVA, EXPO = rows("capacitor"), rows("cordova"), rows("expo")
PACKAGE = '{"name": "lendspan", "version": "9.8.7", "dependencies": {"expo": "54.0.0"}}\n'
Make = Callable[[str, Callable[[Path], object]], Path]
SEEDS = range(6) if THOROUGH else range(2)  # none, and ways to lay a script out


def run(*words: object, cwd: Path, brand: str = "", variable: str = "BRAND") -> str:
    """Run a command of a framework's; what it objects to fails the test."""
    env = {**os.environ, "NODE_PATH": str(CLIENTS), "CI": "1", "CAPACITOR_TELEMETRY": "0", **({variable: brand} if brand else {})}
    done = subprocess.run(list(map(str, words)), cwd=cwd, env=env, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout + done.stderr
    return done.stdout


def said(command: str, root: Path, brand: str = "", more: object = "") -> object:
    return json.loads(run(judge("node"), JUDGE, command, root, *([more] if more else []), cwd=root, brand=brand, variable="APP_VARIANT"))


def apps(root: Path) -> dict[str, tuple[str | None, ...]]:
    """Return what survey says of the app itself on each platform: ID, name, version, build number."""
    return {app["platform"]: tuple(app[key] for key in ("id", "name", "version", "build")) for app in onomaxis("survey", root, "--json").json["apps"]}


def renamed(root: Path, **wished: str) -> None:
    """Rename a project that is committed, and commit it again."""
    words = (word for key, text in wished.items() for word in (f"--{key}", text))
    done = onomaxis("rename", root, *words)
    assert done.code == 0, done.err
    commit_all(root)


def changed(root: Path) -> str:
    return subprocess.run(["git", "status", "--short"], cwd=root, capture_output=True, text=True, check=True).stdout


def linked(root: Path) -> Path:
    (root / "node_modules").symlink_to(CLIENTS)
    return files(root, {".gitignore": "node_modules\n"})


# -- Capacitor


def shell(folder: Path) -> None:
    """Make an app with both native halves by the framework's command."""
    versions = dict.fromkeys(("@capacitor/core", "@capacitor/android", "@capacitor/ios"), "7.4.4")
    config = {"appId": "org.lendspan.app", "appName": "Lendspan", "webDir": "www"}
    package = json.dumps({"name": "lendspan", "version": "2.4.0", "dependencies": versions})
    files(folder, {"package.json": package, "www/index.html": "<html></html>\n", "capacitor.config.json": json.dumps(config)})
    linked(folder)
    for platform in ("android", "ios"):
        run(CLIENTS / ".bin" / "cap", "add", platform, cwd=folder)
    (folder / "capacitor.config.json").unlink()


def hybrid(tmp_path: Path, template: Make, name: str, seed: int = 0) -> tuple[Path, list[str]]:
    """Return an app with one of the configurations, committed; and the values that its variable may have."""
    row = CAPACITOR[name]
    script = dressed(row["script"], f"{seed}{name}" if seed and name != "json" else "")
    root = Path(shutil.copytree(template("capacitor", shell), tmp_path / name, symlinks=True))
    files(root, {row.get("file", "capacitor.config.ts"): script, **row.get("files", {})})
    run(CLIENTS / ".bin" / "cap", "update", cwd=root)  # where the framework lies from here
    commit_all(root)
    return root, ["", *row.get("values", ())]


def configured(root: Path, brand: str) -> tuple[str, str]:
    """Return the ID and the name that the framework's command reads for a brand."""
    found = json.loads(run(CLIENTS / ".bin" / "cap", "config", "--json", cwd=root, brand=brand))["app"]
    return found["appId"], found["appName"]


@pytest.mark.processes
@pytest.mark.parametrize("seed", SEEDS)
@pytest.mark.parametrize("name", CAPACITOR)
def test_capacitor_reads_what_was_wished(tmp_path: Path, template: Make, name: str, seed: int) -> None:
    """The app itself as wished; a variant goes on from its ID, or is as before. Copying it again changes nothing."""
    root, brands = hybrid(tmp_path, template, name, seed)
    before = {brand: configured(root, brand) for brand in brands}
    assert {app[:2] for app in apps(root).values()} == {before[""]}
    renamed(root, id=NEW[0], name="Shed")
    old = before[""]
    for brand, (id_, title) in before.items():
        wanted = NEW[0] if id_ == old[0] else id_.replace(f"{old[0]}.", f"{NEW[0]}.")
        assert configured(root, brand) == (wanted, "Shed" if title == old[1] else title), brand
    for command in ("copy", "update"):
        run(CLIENTS / ".bin" / "cap", command, cwd=root)
    copies = [json.loads(path.read_text())["appId"] for path in root.rglob("capacitor.config.json") if "node_modules" not in path.parts]
    assert changed(root) == "" and said("parse", root) == [] and set(copies) == {NEW[0]}
    assert {app[:2] for app in apps(root).values()} == {(NEW[0], "Shed")}


@pytest.mark.processes
@pytest.mark.parametrize("name", [name for name, row in CAPACITOR.items() if row.get("values")])
def test_capacitor_reads_a_flavor_of_its_own(tmp_path: Path, template: Make, name: str) -> None:
    """A flavor that the builds know as well is renamed in the script too, added there, taken away; others as before."""
    root, brands = hybrid(tmp_path, template, name)
    before = {brand: configured(root, brand) for brand in brands}
    base = next((brand for brand in brands[1:] if before[brand] == before[""]), "base")  # what the script builds by default
    for brand, (id_, title) in before.items():
        if brand not in ("", base):
            assert onomaxis("flavor", "add", brand, root, "--base", base, "--id", id_, "--shown", title).code == 0
    commit_all(root)
    whole = snapshot(root)
    done = onomaxis("flavor", "add", "oakhollow", root, "--id", "org.lendspan.oak", "--shown", "Oak")
    new, told = configured(root, "oakhollow"), "change" in done.err and "oakhollow" in done.err
    assert done.code == 0 and (new[0] == "org.lendspan.oak" or (name == "template" and told)), done.err
    assert {brand: configured(root, brand) for brand in brands} == before and said("parse", root) == []
    assert onomaxis("flavor", "retire", "oakhollow", root, "--allow-dirty").code == 0
    assert snapshot(root) == whole
    if name != "template":
        renamed(root, flavor=brands[1], id="org.lendspan.zed", name="Zed")
        assert {brand: configured(root, brand) for brand in brands} == before | {brands[1]: ("org.lendspan.zed", "Zed")}


@pytest.mark.processes
def test_capacitor_reads_what_the_identity_file_says(tmp_path: Path, template: Make) -> None:
    """A brand that is stamped is called so in the script as well, and only that brand."""
    root, brands = hybrid(tmp_path, template, "switch")
    for brand, (id_, title) in {brand: configured(root, brand) for brand in brands[1:]}.items():
        assert onomaxis("flavor", "add", brand, root, "--base", "base", "--id", id_, "--shown", title).code == 0
    assert onomaxis("adopt", root).code == 0
    file, before = root / "onomaxis.toml", {brand: configured(root, brand) for brand in brands}
    file.write_text(file.read_text().replace("org.lendspan.alder", "org.lendspan.zed").replace("Alderbank", "Zed"))
    commit_all(root)
    assert onomaxis("stamp", root).code == 0
    assert {brand: configured(root, brand) for brand in brands} == before | {"alderbank": ("org.lendspan.zed", "Zed")}
    assert [item for item in onomaxis("check", root, "--json").json["findings"] if item["code"] == "PLATFORM03"] == []
    script = root / "capacitor.config.ts"
    script.write_text(script.read_text().replace("org.lendspan.zed", "org.lendspan.wrong"))
    (found,) = (item for item in onomaxis("check", root, "--json").json["findings"] if item["code"] == "PLATFORM03")
    assert found["flavor"] == "alderbank"
    assert onomaxis("rename", root, "--flavor", "alderbank", "--id", "org.lendspan.zed", "--allow-dirty").code == 0
    assert configured(root, "alderbank") == ("org.lendspan.zed", "Zed")


# -- Cordova


def made_native(root: Path) -> dict[str, tuple[str, ...]]:
    """Return what the framework's platforms write: ID, name, version and build number of each."""
    said("cordova", root)
    main = root / "platforms/android/app/src/main"
    manifest, strings = (main / "AndroidManifest.xml").read_text(), (main / "res/values/strings.xml").read_text()
    gradle = json.loads((root / "platforms/android/cdv-gradle-config.json").read_text())
    plist = plistlib.loads(next((root / "platforms/ios").glob("*/*-Info.plist")).read_bytes())
    project = next((root / "platforms/ios").glob("*.xcodeproj/project.pbxproj")).read_text()
    shown = re.search(r'name="app_name">([^<]*)<', strings)[1].replace("&amp;", "&")
    android = (gradle["PACKAGE_NAMESPACE"], shown, *(re.search(rf'android:{key}="([^"]*)"', manifest)[1] for key in ("versionName", "versionCode")))
    ids = set(re.findall(r'PRODUCT_BUNDLE_IDENTIFIER = "?([\w.]+)"?;', project))
    shutil.rmtree(root / "platforms")
    return {"android": android, "ios": (*ids, plist["CFBundleDisplayName"], plist["CFBundleShortVersionString"], plist["CFBundleVersion"])}


@pytest.mark.processes
@pytest.mark.parametrize("seed", SEEDS)
@pytest.mark.parametrize("name", CORDOVA)
def test_cordova_makes_what_was_wished(tmp_path: Path, name: str, seed: int) -> None:
    """Its platforms are made and prepared before and after a rename, and after icons were drawn: as survey says."""
    script = dressed_markup(CORDOVA[name]["script"].lstrip(), f"{seed}{name}" if seed else "")
    root = files(tmp_path / name, {"config.xml": script, "package.json": '{"name": "lendspan"}', "www/index.html": "<html></html>"})
    commit_all(root)
    before = made_native(root)
    short = {"ios": before["ios"][:1] + ("Lendspan",) + before["ios"][2:]} if name == "apart" else {}  # the home screen's
    assert apps(root) == before | short
    renamed(root, id=NEW[0], name=NEW[1], version=NEW[2], build=NEW[3])
    ids = made_native(root)
    assert apps(root) == ids or name == "apart"
    assert ids["android"][1:] == NEW[1:] and ids["ios"][2:] == NEW[2:] and ids["android"][0] == NEW[0] == ids["ios"][0]
    drawn = onomaxis("icons", root, "--art", ART / "ladder.svg", "--monochrome", ART / "ladder-foreground.svg")
    assert drawn.code == 0 and made_native(root) == ids


# -- Expo


@pytest.mark.processes
@pytest.mark.parametrize("seed", SEEDS)
def test_expo_evaluates_what_is_said(tmp_path: Path, seed: int) -> None:
    """The framework's own evaluator reads for every value of the variable what survey says."""
    scripts = {name: row for name, row in EXPO.items() if "plugins:" not in row["script"]}  # of packages that are not here
    for name, row in scripts.items():
        files(
            tmp_path / name, {"package.json": PACKAGE, "app.config.js": dressed(f"{row['script']}\n", f"{seed}{name}" if seed else ""), **row.get("files", {})}
        )
    found = said("expo", linked(tmp_path), more=json.dumps({name: ["", *row.get("values", ())] for name, row in scripts.items()}))
    for name, values in found.items():
        row, apps = scripts[name], onomaxis("survey", tmp_path / name, "--json").json["apps"]
        told = {(app["platform"], app["flavor"]): [app[key] for key in ("id", "name", "version", "build")] for app in apps}
        rest = next((flavor for _, flavor in told if flavor.startswith("not (")), "")
        for value, platform in ((value, platform) for value, halves in values.items() for platform in halves):
            wanted = values[value][platform]
            if wanted[0] is None or (value and row.get("unnamed")):
                continue
            default = f"not ({value})" == rest or not value
            mine = told.get((platform, value)) or told[platform, "" if default else rest]
            assert all(one == other for one, other in zip(mine, wanted, strict=True) if one is not None or not row.get("untold")), (name, value, platform)


STATIC = '{"expo": {"name": "Lendspan", "slug": "lendspan", "version": "1.2.0", "ios": {"bundleIdentifier": "org.lendspan.app", "buildNumber": "7"}, "android": {"package": "org.lendspan.app", "versionCode": 7}}}\n'
DYNAMIC = "export default ({ config }) => ({ ...config, name: 'Lendspan', ios: { ...config.ios, bundleIdentifier: 'org.lendspan.app' } });\n"


@pytest.mark.processes
@pytest.mark.parametrize("scripts", [{"app.json": STATIC}, {"app.json": STATIC, "app.config.ts": DYNAMIC}])
@pytest.mark.parametrize("native", [False, True])
def test_expo_generates_what_was_wished(tmp_path: Path, scripts: dict[str, str], native: bool) -> None:
    """Native halves are generated as wished; where they were there, generating them again finds nothing to change."""
    template = CLIENTS / "expo-template-bare-minimum"
    root = linked(files(tmp_path / "app", {"package.json": PACKAGE, **scripts}))
    if native:
        said("generate", root, more=template)
    commit_all(root)
    renamed(root, id=NEW[0], name="Shed", version=NEW[2], build=NEW[3])
    said("generate", root, more=template)
    left = [
        line for line in subprocess.run(["git", "diff", "-U0"], cwd=root, capture_output=True, text=True, check=True).stdout.splitlines() if line[:1] == "+"
    ]
    # The technical names are not what was wished: --project-name changes them.
    assert [line for line in left if not line.startswith("+++") and "PRODUCT_NAME" not in line and "rootProject.name" not in line] == []
    assert apps(root) == dict.fromkeys(("android", "ios"), (NEW[0], "Shed", *NEW[2:])) and said("parse", root) == []


# -- React Native


@pytest.mark.processes
@pytest.mark.parametrize(
    ("wished", "wanted"),
    [
        ({"id": "org.lendspan.tools", "name": "Shed"}, ("org.lendspan.tools", "org.lendspan.tools", "HelloWorld.xcodeproj")),
        ({"code-package": "org.lendspan.code"}, ("org.lendspan.code", "com.helloworld", "HelloWorld.xcodeproj")),
        ({"project-name": "ToolShed"}, ("com.helloworld", "com.helloworld", "ToolShed.xcodeproj")),
        ({"android-id": "org.lendspan.droid", "ios-id": "org.lendspan.phone"}, ("org.lendspan.droid", "org.lendspan.droid", "HelloWorld.xcodeproj")),
    ],
)
def test_react_native_finds_what_was_wished(tmp_path: Path, wished: dict[str, str], wanted: tuple[str, str, str]) -> None:
    """The framework's command finds package, ID, start activity and Xcode project of its bare template."""
    root = Path(shutil.copytree(CLIENTS / "expo-template-bare-minimum", tmp_path / "app"))
    files(
        root,
        {
            "package.json": '{"name": "HelloWorld", "dependencies": {"react-native": "0.81.0"}}\n',
            "app.json": '{"name": "HelloWorld", "displayName": "HelloWorld"}\n',
        },
    )
    commit_all(root)
    assert said("react-native", root) == {"package": "com.helloworld", "id": "com.helloworld", "activity": ".MainActivity", "project": "HelloWorld.xcodeproj"}
    renamed(root, **wished)
    found = said("react-native", root)
    assert (found["package"], found["id"], found["project"], found["activity"]) == (*wanted, ".MainActivity")


# -- NativeScript


@pytest.mark.processes
@pytest.mark.parametrize("own", ["", "\n  ios: { id: brand === 'alder' ? 'org.lendspan.alder.ios' : 'org.lendspan.ios' },"])
def test_nativescript_reads_what_was_wished(tmp_path: Path, own: str) -> None:
    """Each variant's IDs are what survey says; the app itself is renamed alone, and so is a variant."""
    head = "import { NativeScriptConfig } from '@nativescript/core';\nconst brand = process.env.APP_VARIANT;\n"
    script = (
        f"{head}export default {{\n  id: brand === 'alder' ? 'org.lendspan.alder' : 'org.lendspan.app',\n  appPath: 'src',{own}\n}} as NativeScriptConfig;\n"
    )
    root = files(tmp_path / "app", {"nativescript.config.ts": script, "package.json": '{"dependencies": {"@nativescript/core": "8.0.0"}}\n'})
    commit_all(root)

    def ids() -> dict[str, object]:
        found = {variant: said("nativescript", root, variant) for variant in ("", "alder")}
        for app in onomaxis("survey", root, "--json").json["apps"]:
            assert app["id"] == found[app["flavor"]][app["platform"]], app
        return found

    before = ids()
    renamed(root, id=NEW[0])
    assert ids() == before | {"": dict.fromkeys(("android", "ios"), NEW[0])}
    renamed(root, flavor="alder", id="org.lendspan.zed")
    assert ids() == {"": dict.fromkeys(("android", "ios"), NEW[0]), "alder": dict.fromkeys(("android", "ios"), "org.lendspan.zed")}


# -- what each of the judges must catch


def test_the_judges_catch_a_wrong_value(tmp_path: Path, template: Make) -> None:
    """A value that is wrong, or a script that is broken, is not what they are told it is."""
    root, _ = hybrid(tmp_path, template, "plain")
    script = root / "capacitor.config.ts"
    script.write_text(script.read_text().replace("org.lendspan.app", "org.lendspan.wrong"))
    assert configured(root, "") == ("org.lendspan.wrong", "Lendspan")
    script.write_text(script.read_text().replace("};", "", 1))
    assert said("parse", root)
    widget = files(tmp_path / "c", {"config.xml": CORDOVA["plain"]["script"].replace("2.4.0", "2.4.1"), "package.json": "{}", "www/index.html": ""})
    assert made_native(widget)["android"] == ("org.lendspan.app", "Lendspan", "2.4.1", "20401")
    linked(files(tmp_path / "e", {"package.json": PACKAGE, "app.json": STATIC.replace('"versionCode": 7', '"versionCode": 8')}))
    assert said("expo", tmp_path, more='{"e": [""]}')["e"][""]["android"] == ["org.lendspan.app", "Lendspan", "1.2.0", "8"]
