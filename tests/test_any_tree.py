"""Projects as they grow: what their scripts compute, whose apps they are, what launchers are called."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import commit_all, files, onomaxis, snapshot
from hybrids import spelled
from onomaxis.model import ShippedApp
from onomaxis.surveys.root import Located, located
from onomaxis.surveys.survey import Survey, take_survey
from onomaxis.tree import Tree
from xcode import pbxproj

MANIFEST = '<manifest xmlns:android="http://schemas.android.com/apk/res/android"><application android:label="@string/app_name">{}</application></manifest>'
ENTRY = '<intent-filter><action android:name="android.intent.action.MAIN"/><category android:name="android.intent.category.LAUNCHER"/></intent-filter>'
STRINGS = '<resources><string name="app_name">Lend</string></resources>'
JSON = '{"app": {"id": "org.lendspan", "a.b": "dotted"}, "version": {"name": "2.1", "code": 9}}'


def android(script: str, kotlin: bool = True, entries: str = "", strings: str = STRINGS) -> dict[str, str]:
    """A small app whose build script is *script*."""
    plugin = 'plugins { id("com.android.application") }\n' if kotlin else "plugins { id 'com.android.application' }\n"
    suffix = ".kts" if kotlin else ""
    return {
        f"settings.gradle{suffix}": 'include(":app")\n' if kotlin else "include ':app'\n",
        f"app/build.gradle{suffix}": plugin + script,
        "app/src/main/AndroidManifest.xml": MANIFEST.format(entries),
        "app/src/main/res/values/strings.xml": strings,
        "config.json": JSON,
    }


def survey(contents: dict[str, str]) -> Survey:
    return take_survey(Tree.of({path: text.encode() for path, text in contents.items()}))


def told(app: ShippedApp) -> tuple[str | None, ...]:
    return tuple(value.text if value else None for value in (app.id, app.name, app.version, app.build))


KTS = 'android {{ namespace = "org.lendspan"\n defaultConfig {{ applicationId = "org.lendspan"; versionName = "1.0"; versionCode = 3\n {} }}\n {} }}\n'
SLURP = 'val cfg = JsonSlurper().parse(file("../config.json")) as Map<String, Any>\n'
GROOVY_SLURP = 'def cfg = new JsonSlurper().parseText(file("../config.json").text)\n'
RES = "<resources/>"
# Script, whether it is Kotlin, the strings; ID, name, version, build.
SCRIPTS: list[tuple[str, bool, str, tuple[str | None, ...]]] = [
    (
        GROOVY_SLURP
        + "android { namespace 'a.b'\ndefaultConfig { applicationId cfg.app.id\nversionName cfg.version.name\nversionCode cfg.version.code as int } }",
        False,
        STRINGS,
        ("org.lendspan", "Lend", "2.1", "9"),
    ),
    (
        GROOVY_SLURP
        + "android { namespace 'a.b'\ndefaultConfig { applicationId cfg['app']['id']\nversionName \"${cfg.version.name}-x\"\nversionCode cfg.version.code } }",
        False,
        STRINGS,
        ("org.lendspan", "Lend", "2.1-x", "9"),
    ),
    (
        SLURP + 'val app = cfg["app"] as Map<String, Any>\nandroid { namespace = "a.b"\ndefaultConfig { applicationId = app["id"] as String\n'
        'versionName = (cfg["version"] as Map<*, *>)["name"] as String\nversionCode = 3 } }',
        True,
        STRINGS,
        ("org.lendspan", "Lend", "2.1", "3"),
    ),
    (
        SLURP + 'android { namespace = "a.b"\ndefaultConfig { applicationId = (cfg["app"] as Map<*, *>).getValue("a.b").toString()\nversionCode = 3 } }',
        True,
        STRINGS,
        ("dotted", "Lend", None, "3"),
    ),
    (SLURP + 'android { namespace = "a.b"\ndefaultConfig { applicationId = cfg["app"]["gone"] as String } }', True, STRINGS, (None, "Lend", None, None)),
    (KTS.format('resValue(type = "string", name = "app_name", value = "Lend")', ""), True, RES, ("org.lendspan", "Lend", "1.0", "3")),
    (KTS.format('resValue(value = "Lend", name = "app_name", type = "string")', ""), True, RES, ("org.lendspan", "Lend", "1.0", "3")),
    (KTS.format('resValue(\n"string",\n"app_name",\n"Lend",\n)', ""), True, RES, ("org.lendspan", "Lend", "1.0", "3")),
    (KTS.format('if (project.hasProperty("ci")) { versionCode = 7 }', ""), True, STRINGS, ("org.lendspan", "Lend", "1.0", None)),
    (KTS.format('if (project.hasProperty("ci")) { versionCode = 3 }', ""), True, STRINGS, ("org.lendspan", "Lend", "1.0", "3")),
    (KTS.format("", 'if (project.hasProperty("ci")) { defaultConfig.versionName = "9" }'), True, STRINGS, ("org.lendspan", "Lend", None, "3")),
]


@pytest.mark.parametrize(("script", "kotlin", "strings", "wanted"), SCRIPTS)
def test_what_a_script_computes(script: str, kotlin: bool, strings: str, wanted: tuple[str | None, ...]) -> None:
    """Values below the top of a JSON file, arguments by name, conditions: right, or unresolved with file and line."""
    found = survey(android(script, kotlin, strings=strings))
    (app,) = found.apps
    assert told(app) == wanted
    facets = ("android.application-id", "name.display", "version.name", "version.code")
    open_ = {item.facet for item in found.unresolved if item.file.startswith("app/build") and item.line}
    assert open_ >= {facet for facet, value in zip(facets, wanted, strict=True) if value is None and facet in script_facets(script)}


def script_facets(script: str) -> set[str]:
    """Return the facets that a script sets."""
    keys = {"applicationId": "android.application-id", "versionName": "version.name", "versionCode": "version.code"}
    return {facet for key, facet in keys.items() if key in script}


# -- launchers

ALONE = f'<activity android:name=".Main" android:label="Short">{ENTRY}</activity>'
TWO = f'<activity android:name=".Main" android:label="Lend">{ENTRY}</activity><activity-alias android:name=".Other" android:label="Shelf">{ENTRY}</activity-alias>'
PLAIN = f'<activity android:name=".Main">{ENTRY}</activity>'


# -- whose app it is


def apple(name: str, bundle: str, folder: str = "phone") -> dict[str, str]:
    settings = {"PRODUCT_BUNDLE_IDENTIFIER": bundle, "PRODUCT_NAME": "$(TARGET_NAME)", "GENERATE_INFOPLIST_FILE": "YES"}
    return {f"{folder}/{name}.xcodeproj/project.pbxproj": pbxproj(["Debug", "Release"], {"SDKROOT": "iphoneos"}, {name: ("app", {"*": settings})})}


@pytest.mark.parametrize(
    ("name", "bundle", "folder", "one"),
    [
        ("Other", "com.elsewhere.other", "phone", False),
        ("Lend", "com.elsewhere.other", "phone", True),
        ("Other", "org.lendspan.phone", "phone", True),
        ("Other", "ORG.Lendspan", "phone", True),
        ("Other", "com.elsewhere.other", ".", True),
    ],
)
def test_two_apps_or_one(tmp_path: Path, name: str, bundle: str, folder: str, one: bool) -> None:
    """What shares neither folder, name nor the beginning of the ID is asked about; an ID each, or one app, goes through."""
    root = files(tmp_path, {**android(KTS.format("", "")), **apple(name, bundle, folder)})
    commit_all(root)
    done = onomaxis("rename", root, "--id", "org.oakhollow", "--dry-run", "--json")
    assert done.code == (0 if one else 3)
    if not one:
        assert bundle in done.json["error"]["message"] and "--app" in done.json["error"]["remedy"]
        assert onomaxis("rename", root, "--app", name, "--id", "org.oakhollow", "--dry-run", "--json").json["files"] == [
            f"phone/{name}.xcodeproj/project.pbxproj"
        ]
        assert onomaxis("rename", root, "--android-id", "org.oakhollow", "--ios-id", "org.oak", "--dry-run", "--json").code == 0


# -- what follows, and what is named

SWIFT = (
    'let queue = "com.example.App.queue"\nlet macro = "COM_EXAMPLE_APP"\nlet path = "com/example/App"\nlet dashed = "com-example-App"\n'
    'let scheme = "com.example.app"\nlet icon = "com-example-App-dark"\nlet other = "com.example.Apple"\nlet pro = "com.example.App2"\n'
)


def test_every_spelling_is_named(tmp_path: Path) -> None:
    """Tests made from the ID follow; other cases and separators are listed with the reason; look-alikes are not."""
    ids = {"App": "com.example.App", "AppTests": "com.example.AppTests", "UITests": "com.example.App-UITests", "Apple": "com.example.Apple"}
    kinds = {name: "app" if name == "App" else "widget" if name == "Apple" else "tests" for name in ids}
    targets = {name: (kinds[name], {"*": {"PRODUCT_BUNDLE_IDENTIFIER": value, "PRODUCT_NAME": name}}) for name, value in ids.items()}
    root = files(tmp_path, {"App.xcodeproj/project.pbxproj": pbxproj(["Release"], {"SDKROOT": "iphoneos"}, targets), "App/a.swift": SWIFT})
    commit_all(root)
    done = onomaxis("rename", root, "--id", "org.lendspan", "--json").json
    project = (root / "App.xcodeproj/project.pbxproj").read_text()
    for wanted in ("= org.lendspan;", "= org.lendspanTests;", '"org.lendspan-UITests"', "= com.example.Apple;"):
        assert wanted in project
    assert 'queue = "org.lendspan.queue"' in (root / "App/a.swift").read_text()
    found = {item["line"]: item["reason"] for item in done["residue"] if item["file"].endswith("a.swift")}
    assert set(found) == {2, 3, 4, 5, 6}
    assert "case" in found[5] and "separators" in found[2] and "separators" in found[4] and "path" in found[3]
    again = onomaxis("rename", root, "--id", "com.example.App", "--allow-dirty", "--json").json
    assert again["residue"] == []
    assert (root / "App/a.swift").read_text() == SWIFT


def test_what_users_keep_stays_and_is_named(tmp_path: Path) -> None:
    """Stores on the device bear the old ID: preferences, databases; they stay, with that reason. All else follows."""
    lines = {
        'val a = "org.lendspan_preferences"': False,
        'val b = "org.lendspan.prefs"': False,
        'val c = "org.lendspan.tools.db"': False,
        'const val DATABASE_NAME: String = "org.lendspan.tools"': False,
        'val d = open(getSharedPreferences("org.lendspan.x", 0))': False,
        'val e = "/data/data/org.lendspan/files"': True,
        'val f = "org.lendspan.OPEN"': True,
        'val DATABASE_ACTION = "org.lendspan.DATABASE_CHANGED"': True,
    }
    source = "package org.lendspan\n\n" + "\n".join(lines) + "\n"
    root = files(tmp_path, {**android(KTS.format("", "")), "app/src/main/java/org/lendspan/Main.kt": source})
    commit_all(root)
    done = onomaxis("rename", root, "--id", "org.oakhollow", "--json").json
    after = (root / "app/src/main/java/org/oakhollow/Main.kt").read_text().splitlines()[2:]
    for old, new, follows in zip(lines, after, lines.values(), strict=True):
        assert new == (old.replace("org.lendspan", "org.oakhollow") if follows else old)
    named = {item["line"] - 3: item["reason"] for item in done["residue"] if item["file"].endswith("Main.kt")}
    assert set(named) == {at for at, follows in enumerate(lines.values()) if not follows}
    assert all("users' data" in reason for reason in named.values())


def test_a_package_that_is_not_the_modules(tmp_path: Path) -> None:
    """Code in a package equal to the old ID stays, line and folder together, where the namespace is another one; it is said."""
    script = KTS.format("", "").replace('namespace = "org.lendspan"', 'namespace = "org.core"')
    code = {"Main.kt": "package org.lendspan\n\nclass Main\n", "Use.kt": "package org.core\n\nimport org.lendspan.Main\n"}
    held = {"app/src/main/java/org/lendspan/Main.kt": code["Main.kt"], "app/src/main/java/org/core/Use.kt": code["Use.kt"]}
    root = files(tmp_path, {**android(script), **held})
    commit_all(root)
    done = onomaxis("rename", root, "--id", "org.oakhollow", "--json").json
    assert done["moves"] == [] and all((root / path).read_text() == text for path, text in held.items())
    reasons = {Path(item["file"]).name: item["reason"] for item in done["residue"]}
    assert "--code-package" in reasons["Main.kt"] and "not the module's own" in reasons["Use.kt"]


# -- from inside


@pytest.mark.parametrize("inside", ["driver", "driver/src/main", "app", "app/src/main/java"])
def test_from_inside_a_module(tmp_path: Path, inside: str) -> None:
    """The build around it is taken, which is said; the module is the app that changes, as with --app from the root."""
    second = {
        path.replace("app/", "driver/"): text.replace("org.lendspan", "org.lendspan.driver")
        for path, text in android(KTS.format("", "")).items()
        if path.startswith("app/")
    }
    code = {"app/src/main/java/org/lendspan/A.kt": "package org.lendspan\n", "driver/src/main/java/org/lendspan/driver/D.kt": "package org.lendspan.driver\n"}
    contents = {**android(KTS.format("", "")), **second, **code, "settings.gradle.kts": 'include(":app", ":driver")\n'}
    module = inside.split("/")[0]
    told_files = []
    for number, words in enumerate(([inside], [".", "--app", module])):
        root = files(tmp_path / str(number), contents)
        commit_all(root)
        done = onomaxis("rename", root / words[0], *words[1:], "--id", "org.oakhollow", "--json")
        assert done.code == 0 and ("is a part of the build" in done.err) == (number == 0)
        told_files.append((done.json["files"], done.json["moves"]))
        assert onomaxis("history", root / words[0], "--json").json["changes"]
        assert onomaxis("undo", root / words[0], "--allow-dirty").code == 0
    assert told_files[0] == told_files[1] and all(path.startswith(f"{module}/") for path in told_files[0][0])


def test_here_keeps_to_the_folder(tmp_path: Path) -> None:
    """With --here a module is looked at alone; a folder that is a build of its own is never left."""
    root = files(tmp_path, {**android(KTS.format("", "")), **apple("Lend", "org.lendspan")})
    done = onomaxis("survey", root / "app", "--here", "--json")
    assert len(done.json["apps"]) == 1 and done.err == ""
    assert located(root) is None and located(root / "phone") is None and located(root / "gone") is None
    assert located(root / "app/src") == Located(root.resolve(), "app")
    files(root, {"tools/.git/HEAD": "x", "tools/deep/a.txt": "x"})
    assert located(root / "tools/deep") is None


def test_a_name_that_is_not_known_is_not_guessed(tmp_path: Path) -> None:
    """Where the application's label cannot be followed, a launcher's own label does not stand in for it."""
    contents = android(KTS.format("", ""), entries=ALONE)
    contents["app/src/main/AndroidManifest.xml"] = contents["app/src/main/AndroidManifest.xml"].replace("@string/app_name", "${label}")
    found = survey(contents)
    assert found.apps[0].name is None and any(item.facet == "name.display" for item in found.unresolved)


@pytest.mark.parametrize("kind", ["react-native", "flutter"])
@pytest.mark.parametrize("named", ["org.lendspan.app", "android/app", "./android/app/", "app", "Lend"])
def test_an_app_is_named_beside_a_neighbour_of_its_platform(tmp_path: Path, kind: str, named: str) -> None:
    """By ID, folder, module or name the app changes on all its platforms; the other app below the framework does not."""
    apple = "org.lendspan.LendApp"  # what the halves are called: the same name, not the same ID
    contents = spelled(kind, "org.lendspan.app", "Lend", "1.0", "3")
    listed = next(path for path in contents if path.endswith("project.pbxproj"))
    contents[listed] = contents[listed].replace("org.lendspan.app", apple)
    contents["android/settings.gradle"] += 'include ":driver"\n'
    contents["android/driver/build.gradle"] = (
        'apply plugin: "com.android.application"\nandroid { namespace "org.lendspan.app.driver"\n  defaultConfig { applicationId "org.lendspan.app.driver" } }\n'
    )
    contents["android/driver/src/main/AndroidManifest.xml"] = (
        '<manifest xmlns:android="http://schemas.android.com/apk/res/android"><application android:label="Driver"/></manifest>\n'
    )
    root = files(tmp_path, contents)
    commit_all(root)
    before = snapshot(root)
    done = onomaxis("rename", root, "--app", named, "--id", "org.moss.shed", "--name", "Shed Moss", "--json")
    assert done.code == 0, done.out + done.err
    apps = {(app["platform"], app["module"]): (app["id"], app["name"]) for app in onomaxis("survey", root, "--json").json["apps"]}
    assert apps.pop(("android", "driver")) == ("org.lendspan.app.driver", "Driver")
    assert set(apps.values()) == {("org.moss.shed", "Shed Moss")} and len(apps) == 2
    assert all(snapshot(root)[path] == data for path, data in before.items() if "driver" in str(path))
    assert onomaxis("undo", root, "--allow-dirty").code == 0 and snapshot(root) == before
    other = onomaxis("rename", root, "--app", "android/driver", "--id", "org.moss.van", "--json").json
    assert all(path.startswith("android/driver/") for path in other["files"]) and other["files"]


RECORDS = [
    ('data class Brand(val key: String, val id: String)\n', 'listOf(Brand("oak", "org.oak"), Brand("elm", "org.elm")).forEach { create(it.key) { dimension = "b"; applicationId = it.id } }'),
    ('class Brand(val key: String, val plus: Boolean, val id: String = "x")\n', 'listOf(Brand("oak", true, "org.oak"), Brand(key = "elm", id = "org.elm", plus = false)).forEach { b -> create(b.key) { dimension = "b"; applicationId = b.id } }'),
    ("", 'mapOf("oak" to Brand(id = "org.oak"), "elm" to Brand(id = "org.elm")).forEach { (name, b) -> create(name) { dimension = "b"; applicationId = b.id } }'),
    ('data class Brand(\n    val key: String,\n    private val id: String,\n)\nval all = listOf(\n    Brand("oak", "org.oak"),\n    Brand("elm", "org.elm"),\n)\n', 'for (b in all) { create(b.key) { dimension = "b"; applicationId = b.id } }'),
    ('data class Brand(val key: String, val id: String)\n', 'listOf(Brand("oak", "org.oak"), Brand("elm", "org.elm")).forEach { (key, id) -> create(key) { dimension = "b"; applicationId = id } }'),
]  # fmt: skip


@pytest.mark.parametrize(("head", "loop"), RECORDS, ids=["positions", "names", "names alone", "declared", "taken apart"])
def test_flavors_from_records(tmp_path: Path, head: str, loop: str) -> None:
    """A loop over objects that the script makes is read, and what one of them is given is rewritten in its place."""
    script = head + KTS.format("", f'flavorDimensions += "b"\nproductFlavors {{ {loop} }}')
    root = files(tmp_path, android(script))
    path = root / "app/build.gradle.kts"
    before = path.read_text()
    apps = {app["flavor"]: app["id"] for app in onomaxis("survey", root, "--json").json["apps"]}
    assert apps == {"oak": "org.oak", "elm": "org.elm"}
    done = onomaxis("rename", root, "--flavor", "elm", "--id", "org.elmwood")
    assert done.code == 0, done.err
    assert path.read_text() == before.replace('"org.elm"', '"org.elmwood"')


def test_records_that_are_computed(tmp_path: Path) -> None:
    """What the build computes for a record is not a literal: it is said, and nothing is guessed."""
    for made in ("Brand(name(), id())", 'make("oak")', 'Brand.of("oak")'):
        script = KTS.format("", f"productFlavors {{ listOf({made}).forEach {{ create(it.key) {{ applicationId = it.id }} }} }}")
        found = survey(android("data class Brand(val key: String, val id: String)\n" + script))
        assert found.unresolved, made


RETIRED = [
    ('val all = listOf(\n    Brand("oak", "org.oak"),\n    Brand("elm", "org.elm"),\n)\n', 'all.forEach {', 'val all = listOf(\n    Brand("oak", "org.oak"),\n)\n'),
    ('val all = listOf(Brand("oak", "org.oak"), Brand(id = "org.elm", key = "elm"))\n', "all.forEach {", 'val all = listOf(Brand("oak", "org.oak"))\n'),
    ('val all = listOf(\n    Brand("elm", "org.elm"),\n    Brand("oak", "org.oak")\n)\n', "all.forEach {", 'val all = listOf(\n    Brand("oak", "org.oak")\n)\n'),
    ('val all = mapOf(\n    "oak" to Brand("oak", "org.oak"),\n    "elm" to Brand("elm", "org.elm"),\n)\n', "all.forEach { (_, it) ->", 'val all = mapOf(\n    "oak" to Brand("oak", "org.oak"),\n)\n'),
]  # fmt: skip


@pytest.mark.parametrize(("listed", "loop", "left"), RETIRED, ids=["lines", "one line", "the first", "a map"])
def test_a_record_goes_whole(tmp_path: Path, listed: str, loop: str, left: str) -> None:
    """A flavor that a record stands for is retired with all that the record is given, and nothing of the others'."""
    head = "data class Brand(val key: String, val id: String)\n"
    script = KTS.format("", f'flavorDimensions += "b"\nproductFlavors {{ {loop} create(it.key) {{ dimension = "b"; applicationId = it.id }} }} }}')
    root = files(tmp_path, android(head + listed + script))
    path = root / "app/build.gradle.kts"
    before = path.read_text()
    done = onomaxis("flavor", "retire", "elm", root)
    assert done.code == 0, done.err
    assert path.read_text() == before.replace(listed, left)
    assert {app["flavor"]: app["id"] for app in onomaxis("survey", root, "--json").json["apps"]} == {"oak": "org.oak"}
