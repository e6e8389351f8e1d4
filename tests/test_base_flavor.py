"""The app that goes on as a flavor: the identity file speaks of it, and what it is called stands in one place."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
import yaml

import right
from conftest import files, memory, onomaxis, snapshot
from hybrids import spelled
from onomaxis.brands.flavors import plan_flavor
from onomaxis.brands.new_flavor import FlavorWish
from onomaxis.brands.retirement import plan_retirement
from onomaxis.writing.change import applied

KINDS = ["flutter", "react-native", "capacitor"]
ADDED = ["--id", "org.lendspan.mossgate", "--shown", "Mossgate", "--base", "lendspan"]


def grown(tmp_path: Path, kind: str) -> Path:
    """Return a project that has an identity file and two flavors, of which one is the app as it was."""
    root = files(tmp_path, spelled(kind, "org.lendspan", "Lend", "1.0.0", "3"))
    assert onomaxis("adopt", root).code == 0
    before = snapshot(root)
    done = onomaxis("flavor", "add", "mossgate", root, *ADDED)
    assert done.code == 0, done.err
    assert snapshot(root) != before
    return root


def named(root: Path, name: str) -> list[str]:
    """Return the files in which a display name stands."""
    return [str(path.relative_to(root)) for path in sorted(root.glob("ios/**/*")) if path.is_file() and name in path.read_text(errors="replace")]


@pytest.mark.parametrize("kind", KINDS)
def test_the_identity_file_speaks_of_it(tmp_path: Path, kind: str) -> None:
    """Right after it was made nothing is to be stamped, and no flavor is one that the file does not know."""
    root = grown(tmp_path, kind)
    text = (root / "onomaxis.toml").read_text()
    assert text.index("[flavors.lendspan]\n") < text.index("[flavors.mossgate]\n")
    assert onomaxis("stamp", root, "--json").json["files"] == []
    found = onomaxis("check", root, "--json").json["findings"]
    assert not [item for item in found if item["code"].startswith("FLAVOR")]


def test_a_later_name_of_its_own(tmp_path: Path) -> None:
    """Where the new flavor has no name, one that is stamped later is said in that flavor's file, the others' stay."""
    root = files(tmp_path, spelled("flutter", "org.lendspan", "Lend", "1.0.0", "3"))
    assert onomaxis("adopt", root).code == 0
    assert onomaxis("flavor", "add", "mossgate", root, "--id", "org.lendspan.mossgate", "--base", "lendspan").code == 0
    assert onomaxis("flavor", "add", "alderbank", root, "--id", "org.lendspan.alderbank").code == 0
    identity = root / "onomaxis.toml"
    identity.write_text(identity.read_text().replace("[flavors.mossgate]\n", '[flavors.mossgate]\nname = "Mossgate Shed"\n'))
    assert onomaxis("stamp", root).code == 0
    files_of = {path.stem: path.read_text() for path in root.glob("ios/**/*.xcconfig")}
    assert {name: text.count("BRAND_NAME = ") for name, text in files_of.items() if name in ("alderbank", "lendspan", "mossgate")} == {
        "alderbank": 1,
        "lendspan": 1,
        "mossgate": 1,
    }
    assert named(root, "Mossgate Shed") == [str(next(root.glob("ios/**/mossgate.xcconfig")).relative_to(root))]
    assert onomaxis("stamp", root, "--json").json["files"] == []
    assert onomaxis("flavor", "retire", "mossgate", root).code == 0
    assert named(root, "Mossgate Shed") == []


APP = """plugins { id("com.android.application") }
android {
    namespace = "org.lend"
    defaultConfig { applicationId = "org.lend" }
    flavorDimensions += listOf("brand", "env")
    productFlavors {
        create("alder") { dimension = "brand" }
        create("moss") {
            dimension = "brand"
            applicationIdSuffix = ".moss"
        } // the second
        create("beta") { dimension = "env" }
    }
}
"""
NEW_BLOCK = '        create("oak") {\n            dimension = "brand"\n'
LIBRARY = 'plugins { id("com.android.library") }\nandroid {\n    namespace = "org.lend.%s"\n    flavorDimensions += "brand"\n    productFlavors {\n%s    }\n}\n'
EACH = '        listOf("alder", "moss").forEach { create(it) { dimension = "brand" } }\n'
LIBRARIES = {
    "one by one": '        create("alder") { dimension = "brand" }\n        create("moss") { dimension = "brand" }\n',
    "in a loop": EACH,
    "others": '        create("free") { dimension = "brand" }\n',
}


@pytest.mark.parametrize("how", LIBRARIES)
@pytest.mark.parametrize("shared", [False, True])
def test_a_brand_stands_beside_the_brands_and_in_their_libraries(how: str, shared: bool) -> None:
    """Not behind the environments; a library that has its siblings has it too, and loses it with the last app that has."""
    manifest = '<manifest xmlns:android="http://schemas.android.com/apk/res/android"><application android:label="@string/app_name"/></manifest>'
    contents = {"app/build.gradle.kts": APP, "lib/build.gradle.kts": LIBRARY % ("lib", LIBRARIES[how]), "app/src/main/AndroidManifest.xml": manifest}
    contents["app/src/main/res/values/strings.xml"] = '<resources>\n    <string name="app_name">Lend</string>\n</resources>\n'
    contents |= {"settings.gradle.kts": f'include(":app", ":lib"{", " + chr(34) + ":other" + chr(34) if shared else ""})\n'}
    if shared:
        other = APP.replace("org.lend", "org.other").replace('"moss"', '"oak"').replace(".moss", ".oak")
        contents |= {"other/build.gradle.kts": other, "other/src/main/AndroidManifest.xml": manifest}
    tree = memory(contents)
    planned = plan_flavor(tree, FlavorWish("oak", id="org.oak", shown="Oak", app="org.lend"))
    after = applied(tree, planned.changes)
    script = (after.read("app/build.gradle.kts") or b"").decode()
    assert f'        }} // the second\n{NEW_BLOCK}            applicationId = "org.oak"' in script and script.index('"oak"') < script.index('"beta"')
    library = (after.read("lib/build.gradle.kts") or b"").decode()
    assert library == LIBRARY % ("lib", LIBRARIES[how] + (f"{NEW_BLOCK}        }}\n" if how != "others" else ""))
    assert any("which of them oak takes" in note.text for note in planned.notes) == (how == "others")
    gone = applied(after, plan_retirement(after, "oak", "org.lend").changes)
    kept = "lib/build.gradle.kts" if shared and how != "others" else ""
    assert {path for path in after.files if gone.read(path) != tree.read(path) and gone.read(path) is not None} == ({kept} if kept else set())


# Scripts of a package, and what they are with the first two flavors.
RUNS = {
    "react-native": (
        {"android": "react-native run-android", "ios": "react-native run-ios && echo done", "start": "react-native start"},
        {"android": "react-native run-android --mode={}Debug --appId={id}", "ios": "react-native run-ios --scheme=Shed-{} && echo done"},
    ),
    "capacitor": (
        {"phone": "npm run build && cap run android", "ios": "cap run ios --target=x"},
        {"phone": "npm run build && cap run android --flavor={}", "ios": "cap run ios --scheme=App-{} --target=x"},
    ),
    "flutter": ({"apk": "flutter build apk --release", "lint": "flutter analyze"}, {"apk": "flutter build apk --flavor={} --release"}),
}  # fmt: skip


@pytest.mark.parametrize("kind", KINDS)
def test_what_ran_the_app_runs_its_first_flavor(kind: str) -> None:
    """Scripts, and the framework's default; the second has scripts of its own; with the last one every byte is as before."""
    plain, wanted = RUNS[kind]
    contents: dict[str, str | bytes] = {**spelled(kind, "org.lendspan", "Lend", "1.0.0", "3")}
    package = json.loads(contents.get("package.json", "{}"))
    contents["package.json"] = json.dumps({**package, "scripts": plain}, indent=2) + "\n"
    if kind == "flutter":
        contents["pubspec.yaml"] = f"{contents['pubspec.yaml']}\nflutter: # ours\n\n  # icons\n  uses-material-design: true\n"
    tree = memory(contents)
    after = applied(tree, plan_flavor(tree, FlavorWish("moss", id="org.moss", shown="Moss", keep="lend")).changes)
    told = {key: text.format("lend", id="org.lendspan") for key, text in wanted.items()}
    told |= {f"{key}:moss": text.format("moss", id="org.moss") for key, text in wanted.items()}
    assert json.loads(after.read("package.json") or b"")["scripts"] == plain | told
    if kind == "flutter":
        assert yaml.safe_load(after.read("pubspec.yaml") or b"")["flutter"] == {"default-flavor": "lend", "uses-material-design": True}
    third = applied(after, plan_flavor(after, FlavorWish("oak", id="org.oak", shown="Oak")).changes)
    assert applied(third, plan_retirement(third, "oak").changes).read("package.json") == after.read("package.json")
    for name in ("moss", "lend"):
        after = applied(after, plan_retirement(after, name).changes)
    assert {path: after.read(path) for path in after.files} == {path: tree.read(path) for path in tree.files}


def test_the_first_variant_of_a_script_gets_a_way_to_be_built() -> None:
    """It goes on from the published one and sets the variable that the script asks; with the variant it goes again."""
    script = 'module.exports = { name: "Lend", slug: "lend", ios: { bundleIdentifier: "org.lend" }, android: { package: "org.lend" } };\n'
    ways = {"cli": {}, "build": {"production": {}, "preview": {"distribution": "internal"}}}
    contents = {
        "app.config.js": script,
        "package.json": '{"dependencies": {"expo": "52", "react-native": "0.76"}}\n',
        "eas.json": json.dumps(ways, indent=2) + "\n",
    }
    tree = memory({**contents, "other.json": '{"build": {"a": {"outDir": "b"}}}\n'})
    steps = [tree]
    for name in ("moss", "oak"):
        steps.append(applied(steps[-1], plan_flavor(steps[-1], FlavorWish(name, id=f"org.{name}", shown=name.title())).changes))
        told = json.loads(steps[-1].read("eas.json") or b"")["build"]
        assert told[name] == {"extends": "production", "env": {"APP_VARIANT": name}}
        assert f'APP_VARIANT === "{name}"' in (steps[-1].read("app.config.js") or b"").decode()
    for name, before in (("oak", steps[1]), ("moss", tree)):
        last = steps.pop()
        gone = applied(last, plan_retirement(last, name).changes)
        assert {path: gone.read(path) for path in gone.files} == {path: before.read(path) for path in before.files}


# What an app says of a library that has other flavors, the library's flavors; what each new flavor's block says then.
TAKEN = {
    "as the app without flavors": ('missingDimensionStrategy("brand", "free")', {"free": "brand"}, 'matchingFallbacks += listOf("free")'),
    "as that, of several": ("missingDimensionStrategy('brand', 'free', 'paid')", {"free": "brand", "paid": "brand"}, "matchingFallbacks = ['free', 'paid']"),
    "by another dimension": ('missingDimensionStrategy("tier", "free")', {"free": "tier"}, ""),
    "by its own dimension": ('missingDimensionStrategy("shop", "base")', {"base": "shop", "oak": "shop"}, ""),
}


@pytest.mark.parametrize("how", TAKEN)
def test_first_flavors_take_the_libraries_that_the_app_took(how: str) -> None:
    """Their blocks say which, where they differ; a library with a flavor called so gives the dimension its name."""
    said, theirs, line = TAKEN[how]
    kotlin = '"' in said
    named = ".kts" if kotlin else ""
    app = 'plugins { id("com.android.application") }\nandroid {\n    namespace = "org.lend"\n    defaultConfig {\n        applicationId = "org.lend"\n        SAID\n    }\n}\n'.replace(
        "SAID", said
    )
    quote = '"' if kotlin else "'"
    each = "".join(f'        create("{name}") {{ dimension = "{varied}" }}\n' for name, varied in theirs.items())
    library = LIBRARY.replace('"brand"', f'"{next(iter(theirs.values()))}"') % ("lib", each)
    manifest = '<manifest xmlns:android="http://schemas.android.com/apk/res/android"><application android:label="Lend"/></manifest>'
    tree = memory(
        {
            f"app/build.gradle{named}": app.replace('"', quote),
            "lib/build.gradle.kts": library,
            "app/src/main/AndroidManifest.xml": manifest,
            "settings.gradle": "include ':app', ':lib'\n",
        }
    )
    planned = plan_flavor(tree, FlavorWish("oak", id="org.oak", keep="base"))
    after = applied(tree, planned.changes)
    script, added = ((after.read(path) or b"").decode() for path in (f"app/build.gradle{named}", "lib/build.gradle.kts"))
    own = "shop" if "shop" in said else "brand"
    for name in ("base", "oak"):
        block = script.partition(f"create({quote}{name}{quote}) {{" if kotlin else f"{name} {{")[2].partition("}")[0]
        assert f"dimension = {quote}{own}{quote}" in block and (line in block if line else "matchingFallbacks" not in block), (name, script)
    assert added == library and not [note for note in planned.notes if "takes" in note.text]
    gone = applied(after, plan_retirement(after, "oak").changes)
    assert "oak" not in (gone.read(f"app/build.gradle{named}") or b"").decode()


NEXT = {
    ("flavor", "add", "oakhollow", "--id", "org.oak", "--name", "Oak"): ["Register org.oak with Apple", "for org.oak, org.oak.plus.", "service files of org.oak", "onomaxis stamp --service", "Run pod install in ios"],
    ("rename", "--platform", "ios", "--id", "org.moss"): ["Register org.moss, org.moss.staging with Apple", "service files of org.moss, org.moss.staging.", "onomaxis stamp --service"],
    ("rename", "--name", "Shed", "--version", "3.0", "--build", "99"): [],
    ("rename", "--project-name", "Shed"): ["Run pod install in ios"],
}  # fmt: skip


@pytest.mark.parametrize("words", NEXT)
def test_what_is_left_for_a_person(demo: Path, words: tuple[str, ...]) -> None:
    """Each line only where it is so, before and after writing, as JSON and in words; nothing where nothing changes."""
    (demo / "onomaxis.toml").write_text('format = 1\n[app]\nname = "Lendspan"\n')
    (demo / "ios/Lendspan/GoogleService-Info.plist").write_text(right.service_plist("org.lendspan.app"))
    at = 3 if words[0] == "flavor" else 1
    lead, more = words[:at], (*words[at:], "--allow-dirty", "--json")
    told = onomaxis(*lead, demo, *more, "--dry-run")
    assert told.code == 0, told.out
    assert len(told.json["next"]) == len(NEXT[words]) and all(part in line for part, line in zip(NEXT[words], told.json["next"], strict=True)), told.json[
        "next"
    ]
    shown = onomaxis(*lead, demo, *more[:-1], "--dry-run")
    assert ("What to do next" in shown.out + shown.err) == bool(NEXT[words])
    assert onomaxis(*lead, demo, *more).json["next"] == told.json["next"]
