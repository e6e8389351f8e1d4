"""Android in depth: every follower of an ID and of a code package, native code, libraries, scripts around the script."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

import pytest

from conftest import commit_all, files, memory, onomaxis, snapshot
from onomaxis.formats.source import Source
from onomaxis.projects.occurrences import occurrences
from onomaxis.surveys.survey import Survey, take_survey
from onomaxis.tree import Tree

NS = 'xmlns:android="http://schemas.android.com/apk/res/android"'
# Written with I for the application ID and C for the code package: what changes; what is written out stays.
FOLLOWERS: dict[str, str] = {
    "app/build.gradle": "apply plugin: 'com.android.application'\nandroid {\n  namespace 'a.b.ns'\n  testNamespace 'a.b.ns.test'\n"
    "  defaultConfig { applicationId 'I'\n testApplicationId 'I.test'\n versionCode 1\n versionName '1'\n"
    "    testInstrumentationRunner 'C.Runner'\n resValue 'string', 'authority', 'I.files'\n"
    "    buildConfigField 'String', 'AUTH', '\"I.provider\"' }\n"
    "  sourceSets { main { java.srcDirs = ['src/main/java', '../shared/src'] } }\n}\ndependencies { implementation 'a.b.id:lib:1.0' }\n",
    "app/src/main/AndroidManifest.xml": f'<manifest {NS} xmlns:tools="http://schemas.android.com/tools" android:sharedUserId="a.b.id.uid">'
    '<permission android:name="I.permission.X"/><application android:label="Shed" android:name="C.App" android:taskAffinity="I.task"'
    ' android:process="I.proc"><activity android:name="C.ui.Main"><intent-filter><data android:scheme="I" android:host="a.b.id"/>'
    '</intent-filter></activity><provider android:name="androidx.core.content.FileProvider" android:authorities="I.fileprovider"/>'
    '</application><instrumentation android:name="C.Runner" android:targetPackage="I"/></manifest>',
    "app/src/main/res/xml/shortcuts.xml": f'<shortcuts {NS}><shortcut><intent android:targetPackage="I" android:targetClass="C.ui.Main"/></shortcut></shortcuts>',
    "app/src/main/res/xml/account.xml": f'<account-authenticator {NS} android:accountType="I.account"/>',
    "app/src/main/res/xml/prefs.xml": f'<PreferenceScreen {NS}><C.ui.Card/><Preference android:fragment="C.ui.Main"/></PreferenceScreen>',
    "app/src/main/res/layout/main.xml": f'<layout {NS} xmlns:tools="http://schemas.android.com/tools" xmlns:own="http://schemas.android.com/apk/res/I">'
    '<data><import type="C.Model"/><variable name="m" type="C.ui.Card"/></data><C.ui.Card tools:context="C.ui.Main"><view class="C.ui.Card"/></C.ui.Card></layout>',
    "app/src/main/res/values/strings.xml": '<resources><string name="pkg">I</string><string name="url">https://x.org/s?id=I</string><string name="o">https://a.b.id/x</string></resources>',
    "app/src/main/java/a/b/code/App.java": "package C;\nimport a.b.ns.R;\nimport a.b.ns.databinding.MainBinding;\nimport static C.Model.X;\nimport C.ui.*;\n"
    '/** See {@link C.ui.Main} and a.b.code. */\npublic class App {\n String s = "C.ui.Main$$Binder", t = "C" + ".ui.Main", u = "I.ACTION", d = "LC/ui/Main;";\n'
    ' Class<?> c = Class.forName("C.Model");\n int r = a.b.ns.R.string.app_name;\n Object p = getSharedPreferences("a.b.id_preferences", 0), q = getSharedPreferences("a.b.id", 0);\n}\n',
    "app/src/main/java/a/b/code/Model.java": "package C;\npublic class Model { static int X; }\n",
    "app/src/main/java/a/b/code/ui/Main.kt": "package C.ui\nimport C.Model as M\nimport a.b.coder.Other\nclass Main { val x = C.Model() }\nclass Card\n",
    "app/src/main/kotlin/Flat.kt": "package C.flat\nimport C.Model\nclass Flat\n",
    "app/src/main/resources/META-INF/services/a.b.code.Model": "C.ui.Main\n",
    "app/src/main/cpp/one.cpp": '// a.b.code\nvoid Java_J_ui_Main_a_1b(JNIEnv* e) { e->FindClass("C/Model"); auto s = "(ZLjava/lang/String;[LC/ui/Main$In;)V"; }\n'
    'void Java_J_Model_f__LJ_Model_2(JNIEnv* e) {}\nvoid a_b_codec_x() {}\nconst char* p = "x/a/b/code/y";\n',
    "app/src/main/cpp/a_b_code_Model.h": "#ifndef _Included_J_Model\n#define _Included_J_Model\nvoid Java_J_Model_f(int);\n#endif\n",
    "app/schemas/a.b.code.Model/1.json": "{}\n",
    "shared/src/a/b/code/Shared.groovy": "package C\nclass Shared {}\n",
    "core/build.gradle": "apply plugin: 'com.android.library'\nandroid { namespace 'C.core' }\n",
    "core/src/main/java/a/b/code/core/Core.java": "package C.core;\nimport C.Model;\npublic class Core {}\n",
    "app/src/test/java/a/old/ExampleTest.java": "package C;\nimport C.Model;\npublic class ExampleTest {}\n",
    "app/lint-baseline.xml": '<issues><location file="src/main/java/C/ui/Main.kt" line="1"/></issues>',
    "app/src/main/baseline-prof.txt": "HSPLC/ui/Main;->a(LC/Model;)V\n",
    "app/proguard-rules.pro": "-keep class C.ui.** { *; }\n# a.b.code stays\n",
    "app/BUCK": 'android_build_config(package = "I")\nglob(["src/main/java/C/**"])\n',
    ".github/workflows/ci.yml": "run: adb shell am start -n I/C.ui.Main\n",
    "release/Appfile": 'package_name("I")\n',
    ".idea/runConfigurations/app.xml": '<option name="ACTIVITY_CLASS" value="C.ui.Main"/>',
    ".well-known/assetlinks.json": '[{"target":{"package_name":"a.b.id"}}]',
    "settings.gradle": "include ':app', ':core'\n",
}


def spelled(text: str, app_id: str, package: str) -> str:
    """Put an ID and a package into a text: dotted, as a path where a slash follows or stands before, as a symbol."""
    mangled = package.replace("_", "_1").replace(".", "_")
    text = re.sub(r"\bJava_J_|\bJava_J\b", lambda m: m[0].replace("J_", mangled + "_", 1) if m[0].endswith("J_") else m[0], text)
    text = re.sub(r"(?<=__L)J_|(?<=_Included_)J_", mangled + "_", text)
    text = re.sub(r"(?<![A-Za-z0-9_.])(L?|HSPL)C(?=/(?!C\.))(?<!I/C)", lambda m: m[1] + package.replace(".", "/"), text)
    text = re.sub(r"(?<![\w$])C(?=[.;\"\s:]|$)", package, text)
    return re.sub(r"(?<![\w$])I(?=[.\"'/\s<]|$)", app_id, text)


def test_every_follower(tmp_path: Path) -> None:
    """A new ID and a new code package reach every follower and nothing else; back again is byte-exact."""
    root = files(
        tmp_path / "p",
        {
            path: spelled(text, "a.b.id", "a.b.code").replace(
                "package a.b.code;\nimport a.b.code.Model;\npublic class ExampleTest", "package a.old;\nimport a.b.code.Model;\npublic class ExampleTest"
            )
            for path, text in FOLLOWERS.items()
        },
    )
    commit_all(root)
    before = snapshot(root)
    assert "the tests lie in a.old, the code in a.b.code" in str(onomaxis("survey", root, "--json").json["disagreements"])
    done = onomaxis("rename", root, "--android-id", "org.x_y.shed", "--code-package", "org.x_y.code", "--yes", "--json")
    assert done.code == 0, done.err
    places = {
        "/a/b/code": "/org/x_y/code",
        "services/a.b.code": "services/org.x_y.code",
        "schemas/a.b.code": "schemas/org.x_y.code",
        "/a_b_code_": "/org_x_1y_code_",
        "/a/old": "/org/x_y/code",
    }
    for path, text in FOLLOWERS.items():
        target = path
        for old, new in places.items():
            target = target.replace(old, new)
        assert (root / target).read_text() == spelled(text, "org.x_y.shed", "org.x_y.code"), path
    reasons = sorted(item["reason"].split(":")[0] for item in done.json["residue"])
    assert len(reasons) >= 10 and all(reasons)
    assert onomaxis("undo", root, "--yes").code == 0 and snapshot(root) == before


# Written with I where the application ID stands, C where a class is named that no source of the tree has.
NAMED: dict[str, str] = {
    "settings.gradle": "include ':app'\n",
    "app/build.gradle": "apply plugin: 'com.android.application'\nandroid { namespace 'a.b.id'\n defaultConfig { applicationId 'I' } }\n",
    "app/src/main/AndroidManifest.xml": f'<manifest {NS}><permission android:name="I.permission.X"/><application android:name="C.GenApp" android:label="x">'
    '<activity android:name="C.lib.Main" android:parentActivityName="C.lib.Up"/><provider android:name="C.lib.Files" android:authorities="I.files"/>'
    '<activity-alias android:name="I.Alias" android:targetActivity="C.lib.Main"/></application></manifest>',
    "app/src/main/res/layout/main.xml": f'<layout {NS}><data><variable name="m" type="C.gen.Model"/></data><C.lib.Card><fragment android:name="C.lib.List"/>'
    '<androidx.fragment.app.FragmentContainerView android:name="C.gen.Host"/><x app:layout_behavior="C.lib.Scroll" app:layoutManager="C.lib.Flow"/></C.lib.Card></layout>',
    "app/src/main/res/xml/shortcuts.xml": f'<shortcuts {NS}><intent android:action="I.OPEN" android:targetPackage="I" android:targetClass="C.lib.Main"/></shortcuts>',
    "app/src/main/java/a/b/id/App.java": 'package C;\npublic class App { Object o = Class.forName("C.gen.Model"), p = i.setClassName("I", "C.lib.Main"),'
    ' q = new ComponentName(c.get(), "C.lib.Main"); String s = "I.ACTION", t = "I"; }\n',
    "run.sh": "adb shell pm clear I\nadb shell am start -n I/C.lib.Main -a I.OPEN\nadb shell am start -n I/.lib.Main\n",
    "ci.yml": "package: I\nargs: [I, I.OPEN]\n",
    "app/proguard-rules.pro": "-keep class C.gen.** { *; }\n-keep class C.App\n",
}


def test_classes_are_told_by_their_place(tmp_path: Path) -> None:
    """--keep-code leaves what stands where a class is named, generated ones and a library's too; the rest is the ID."""

    def spell(text: str, app_id: str) -> str:
        return re.sub(r"\bI(?=[.;/\"'\s,\]]|$)", app_id, re.sub(r"\bC(?=[.;/\"\s]|$)", "a.b.id", text), flags=re.MULTILINE)

    root = files(tmp_path / "p", {path: spell(text, "a.b.id") for path, text in NAMED.items()})
    assert onomaxis("rename", root, "--android-id", "org.x.shed", "--keep-code").code == 0
    for path, text in NAMED.items():
        assert (root / path).read_text() == spell(text, "org.x.shed"), path


@pytest.mark.parametrize(
    ("text", "path", "found"),
    [
        ('x = "a/b/c/D"', "x.cpp", ["slashed"]),
        ('x = "La/b/c/D;"', "x.cpp", ["slashed"]),
        ('x = "xa/b/c"', "x.cpp", []),
        ('x = "y/a/b/c"', "x.cpp", []),
        ('x = "java/a/b/c/"', "x.gradle", ["slashed"]),
        ('x = "La/b/c/D"', "x.cpp", []),
        ('x = "a/b/cd"', "x.cpp", []),
        ('x = "a/b/c.txt"', "x.java", []),
        ("Java_a_b_c_D_m", "x.h", ["jni"]),
        ("Java_a_b_c_1d_D_m", "x.h", []),
        ("Java_x_a_b_c_D", "x.h", []),
        ("a_b_c_D", "x.cc", ["jni"]),
        ("xa_b_c_D", "x.cc", []),
        ("a/b/c/D", "x.swift", []),
        ("`a`.b.c.D", "x.kt", ["raw"]),
        ("a.`b`.`c`", "x.kt", ["raw"]),
        ("`a.b.c`", "x.kt", ["raw"]),
    ],
)
def test_forms_of_a_package(text: str, path: str, found: list[str]) -> None:
    """Paths, descriptors and native symbols are found at token borders only; backticks are taken with their segment."""
    hits = occurrences(path, Source.read(text.encode()), ["a.b.c"], ["a.b.c"])
    assert [hit.syntax if hit.syntax in ("slashed", "jni") else "raw" for hit in hits] == found
    for hit in hits:
        assert text[hit.start : hit.end].count("`") % 2 == 0


def test_a_library_moves_alone(small: Callable[..., Path]) -> None:
    """--code-package moves a library where there is no app, or the one that --app names; several are told apart."""
    library = "apply plugin: 'com.android.library'\nandroid { if (agp >= 7) { namespace 'a.b.core' } }\n"
    extra = {"core/build.gradle": library, "core/src/main/java/a/b/core/K.kt": "package a.b.core\nclass K\n", "settings.gradle": "include ':app', ':core'\n"}
    root = small("a.b.app", extra=dict(extra))
    assert onomaxis("rename", root, "--code-package", "x.y", "--app", "core", "--yes").code == 0
    assert (root / "core/src/main/java/x/y/K.kt").read_text() == "package x.y\nclass K\n"
    assert (root / "app/src/main/java/a/b/app/App.kt").exists()
    (root / "app/build.gradle").write_text("apply plugin: 'com.android.library'\nandroid { namespace 'a.b.app' }\n")
    refused = onomaxis("rename", root, "--code-package", "z.z", "--yes", "--allow-dirty")
    assert refused.code == 3 and "several libraries" in refused.err


def surveyed(root: Path, contents: dict[str, str]) -> Survey:
    files(
        root,
        {
            "settings.gradle": "include ':app'\nincludeBuild('logic')\n",
            "app/src/main/AndroidManifest.xml": f"<manifest {NS}><application android:label='L'/></manifest>",
            **contents,
        },
    )
    return take_survey(Tree.open(root))


BODY = "android {\n namespace 'a.b'\n defaultConfig {\n applicationId 'a.b'\n versionName '1'\n }\n}\n"
# Where a module's settings come from: files, and what the app is then.
AROUND = [
    ({"app/build.gradle": "apply plugin: 'com.android.application'\napply from: '../c.gradle'\n", "c.gradle": BODY}, ("a.b", "1")),
    (
        {
            "app/build.gradle": "apply plugin: 'com.android.application'\napply from: \"$rootDir/c.gradle\"\nandroid { defaultConfig { versionName '2' } }\n",
            "c.gradle": BODY,
        },
        ("a.b", "2"),
    ),
    (
        {
            "app/build.gradle": f"apply plugin: 'com.android.application'\n{BODY}",
            "build.gradle": "subprojects { android { defaultConfig { versionName '3' } } }\n",
        },
        ("a.b", "1"),
    ),
    (
        {
            "app/build.gradle": "apply plugin: 'com.android.application'\nandroid { namespace 'a.b' }\n",
            "build.gradle": "subprojects { afterEvaluate { android { defaultConfig { versionName '3' } } } }\n",
        },
        ("a.b", "3"),
    ),
    (
        {
            "app/build.gradle.kts": 'plugins { id("lend.app") }\nandroid { namespace = "a.b" }\n',
            "logic/src/main/kotlin/lend.app.gradle.kts": 'plugins { id("com.android.application") }\nandroid { defaultConfig { versionName = "4" } }\n',
        },
        ("a.b", "4"),
    ),
    (
        {
            "app/build.gradle": "plugins { id 'lend.app' }\nandroid { namespace 'a.b' }\n",
            "buildSrc/src/main/groovy/lend.app.gradle": "plugins { id 'com.android.application' }\nandroid { defaultConfig { versionName '5' } }\n",
        },
        ("a.b", "5"),
    ),
]


@pytest.mark.parametrize(("contents", "wanted"), AROUND)
def test_settings_made_by_other_scripts(tmp_path: Path, contents: dict[str, str], wanted: tuple[str, str]) -> None:
    """Applied scripts, convention plug-ins and the root's blocks set what the module's own script does not."""
    (app,) = surveyed(tmp_path, contents).apps
    assert (app.id and app.id.text, app.version and app.version.text) == wanted


def test_versions_that_libraries_share(small: Callable[..., Path]) -> None:
    """A version that a library takes too is refused with its users, and written with --shared."""
    toml = '[versions]\nlend = "1.0"\n[libraries]\nlib = { module = "a:b", version.ref = "lend" }\n'
    script = (
        "apply plugin: 'com.android.application'\nandroid { namespace 'a.b'\n defaultConfig { versionName libs.versions.lend.get()\n versionCode code } }\n"
    )
    root = small(extra={"app/build.gradle": script + 'def code = 3\ndependencies { implementation "x:y:$code" }\n', "gradle/libs.versions.toml": toml})
    for words, user in ((["--version", "2.0"], "gradle/libs.versions.toml:4"), (["--build", "4"], "app/build.gradle:6")):
        refused = onomaxis("rename", root, *words, "--yes", "--allow-dirty")
        assert refused.code == 3 and user in refused.err
        assert onomaxis("rename", root, *words, "--yes", "--allow-dirty", "--shared").code == 0
    assert '"2.0"' in (root / "gradle/libs.versions.toml").read_text() and "code = 4" in (root / "app/build.gradle").read_text()


def test_variants_that_code_decides(tmp_path: Path) -> None:
    """Filters and computed build numbers are reported with their line; a condition around a flavor's ID is not guessed."""
    script = "apply plugin: 'com.android.application'\nandroid { namespace 'a.b'\n flavorDimensions 'd'\n productFlavors { x { dimension 'd'\n if (y) { applicationId 'q.r' } } }\n"
    survey = surveyed(
        tmp_path,
        {
            "app/build.gradle": script
            + " variantFilter { v -> v.ignore = true }\n applicationVariants.all { it.outputs.each { o -> o.versionCodeOverride = 7 } }\n}\n"
        },
    )
    assert [(item.facet, item.line) for item in survey.unresolved if item.facet == "variants"] == [("variants", 6), ("variants", 7)]
    assert any(item.facet == "android.application-id" and item.line == 5 for item in survey.unresolved)


# What stands in productFlavors, and behind it; each flavor's ID, None where a condition decides it.
CONDITIONS = [
    ("oak { if (project.hasProperty('dev')) { applicationIdSuffix '.dev' } }\nash { applicationIdSuffix '.ash' }", "", {"oak": None, "ash": "org.x.ash"}),
    ("oak { applicationIdSuffix '.oak' }\nif (project.hasProperty('all')) { ash { applicationIdSuffix '.ash' } }", "", {"oak": "org.x.oak", "ash": None}),
    (
        "oak { }\nash { }",
        "productFlavors.all { f ->\n if (f.name != 'ash') {\n f.applicationIdSuffix '.' + f.name\n }\n}",
        {"oak": "org.x.oak", "ash": "org.x"},
    ),
    ("oak { }\nash { }", "productFlavors.all { f ->\n f.applicationIdSuffix '.' + f.name\n}", {"oak": "org.x.oak", "ash": "org.x.ash"}),
    ("oak { applicationId 'org.oak'\n if (CI) { applicationId 'org.ci' } }\nash { }", "", {"oak": None, "ash": "org.x"}),
]


@pytest.mark.parametrize(("flavors", "behind", "wanted"), CONDITIONS)
def test_what_a_condition_decides_is_not_told(flavors: str, behind: str, wanted: dict[str, str | None]) -> None:
    """A suffix or an ID below an ``if`` is nobody's for certain: the ID is null, with file and line; no flavor is made up."""
    script = f"apply plugin: 'com.android.application'\nandroid {{\n namespace 'org.x'\n defaultConfig {{ applicationId 'org.x' }}\n flavorDimensions 'b'\n productFlavors {{\n{flavors}\n}}\n{behind}\n}}\n"
    survey = take_survey(memory({"app/build.gradle": script, "app/src/main/AndroidManifest.xml": f"<manifest {NS}><application/></manifest>"}))
    assert {app.flavor: app.id.text if app.id else None for app in survey.apps} == wanted
    assert bool([item for item in survey.unresolved if item.file == "app/build.gradle" and item.line > 6]) is (None in wanted.values())
