"""Rules that matter with foreign content only: a second target, a flavor without a block, a language that keeps its name."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

import right
from conftest import files, memory, onomaxis
from icon_arts import logo, saved
from onomaxis.brands.stamp import stamp
from onomaxis.errors import FaultError, FormatError, RefusedError
from onomaxis.formats.escapes import encode, string_element
from onomaxis.formats.jsonc import parse_json
from onomaxis.formats.toml import parse_toml
from onomaxis.projects.frameworks.files import Files
from onomaxis.projects.frameworks.written_variants import retire_variant
from onomaxis.projects.services import link_files
from onomaxis.rename.rename import plan_rename
from onomaxis.surveys.survey import read_projects, take_survey
from onomaxis.wishes import Wish
from onomaxis.writing.change import applied
from onomaxis.writing.journal import Journal
from onomaxis.writing.planned import PlannedChange
from onomaxis.writing.proof import proved
from xcode import pbxproj

NAMES = ["Debug", "Release", "Debug-oak", "Release-oak"]


@pytest.mark.parametrize("order", [("Aid", "Lend"), ("Lend", "Aid")])
def test_a_flavor_of_one_target_leaves_the_others(order: tuple[str, str]) -> None:
    """A number of the target becomes its flavor's own, whichever target comes first; one that the project holds for all is refused."""

    def project(shared: dict[str, str], own: dict[str, str]) -> str:
        each = {n: {"PRODUCT_BUNDLE_IDENTIFIER": f"org.{n.lower()}", "GENERATE_INFOPLIST_FILE": "YES", "PRODUCT_NAME": n, **own} for n in order}
        return pbxproj(NAMES, {"SDKROOT": "iphoneos", **shared}, {n: ("app", {"*": each[n]}) for n in order})

    number, wish = {"CURRENT_PROJECT_VERSION": "7"}, Wish(app="Lend", flavor="oak", build="9", platforms=("ios",))
    survey = take_survey(memory({"L.xcodeproj/project.pbxproj": project({}, number)}), "Lend")
    after = take_survey(applied(survey.tree, plan_rename(survey, wish).changes))
    assert {(app.module, app.flavor): app.build.text for app in after.apps if app.build} == {
        ("Aid", ""): "7", ("Aid", "oak"): "7", ("Lend", ""): "7", ("Lend", "oak"): "9",
    }  # fmt: skip
    with pytest.raises(RefusedError, match="Aid takes its build number from here too"):
        plan_rename(take_survey(memory({"L.xcodeproj/project.pbxproj": project(number, {})}), "Lend"), wish)


MANIFEST = '<manifest xmlns:android="http://schemas.android.com/apk/res/android"><application android:label="@string/app_name"/></manifest>\n'
GRADLE = 'plugins { id("com.android.application") }\nandroid {\n    namespace = "org.oak"\n    defaultConfig {\n        applicationId = "org.oak"\n        buildConfigField("String", "API", "\\"a\\"")\n    }\n    flavorDimensions += "brand"\n    productFlavors {\n        create("elm") { dimension = "brand" }\n        create("ash")\n    }\n}\n'
VALUES = 'format = 1\n[values.api]\nvalue = "a"\nplaces = [{ build-field = "API" }]\n[flavors.elm.values]\napi = "e"\n[flavors.ash]\n'


def test_a_flavor_without_a_block_has_no_constant() -> None:
    """The flavor with a block gets its constant; one without is refused by its name, not half written."""
    contents = {"settings.gradle.kts": 'include(":app")\n', "app/build.gradle.kts": GRADLE, "app/src/main/AndroidManifest.xml": MANIFEST}
    tree = memory({**contents, "onomaxis.toml": VALUES})
    assert (
        'buildConfigField("String", "API", "\\"e\\"")\n        }\n        create("ash")'
        in (applied(tree, stamp(tree).changes).read("app/build.gradle.kts") or b"").decode()
    )
    with pytest.raises(RefusedError, match="h for ash"):
        stamp(memory({**contents, "onomaxis.toml": VALUES + '[flavors.ash.values]\napi = "h"\n'}))


def test_whose_name_a_source_set_holds(tmp_path: Path) -> None:
    """A flavor's strings are the flavor's, a build type's its configuration's, the main ones nobody's alone."""
    found = {f"app/src/{name}/res/values/strings.xml": right.resources(app_name=f"Oak {name}") for name in ("main", "elm", "debug")}
    root = files(tmp_path, {"settings.gradle.kts": 'include(":app")\n', "app/build.gradle.kts": GRADLE, "app/src/main/AndroidManifest.xml": MANIFEST, **found})
    mentions = onomaxis("survey", root, "--json").json["mentions"]
    told = {
        m["value"]: (m["scope"].get("flavor") or "", m["scope"].get("configuration") or "")
        for m in mentions
        if m["facet"] == "name.display" and "src/" in m["file"] and "strings" in m["file"]
    }
    assert told["Oak main"] == ("", "") and told["Oak elm"] == ("elm", "")
    assert told.get("Oak debug", ("", "debug")) == ("", "debug")


def test_ids_of_a_script_belong_to_their_platform(tmp_path: Path) -> None:
    """Each platform's ID in one script is that platform's facet."""
    script = "export default {\n  ios: { id: 'org.oak.ios' },\n  android: { id: 'org.oak.droid' },\n};\n"
    root = files(tmp_path, {"nativescript.config.ts": script, "package.json": '{"name": "oak", "main": "a"}\n'})
    mentions = {m["value"]: m["facet"] for m in onomaxis("survey", root, "--json").json["mentions"] if m["file"].endswith(".ts")}
    assert mentions == {"org.oak.ios": "ios.bundle-id", "org.oak.droid": "android.application-id"}


def test_the_ground_that_is_stated_stays(tmp_path: Path) -> None:
    """Art without a ground is drawn over the colour that the configuration states, and the colour is kept."""
    app = {
        "expo": {
            "name": "Oak",
            "slug": "oak",
            "icon": "./a/icon.png",
            "ios": {"bundleIdentifier": "org.oak"},
            "android": {"package": "org.oak", "adaptiveIcon": {"foregroundImage": "./a/f.png", "backgroundColor": "#123456"}},
        }
    }
    root = files(
        tmp_path,
        {
            "package.json": '{"dependencies": {"expo": "54.0.0"}}\n',
            "app.json": json.dumps(app, indent=2),
            "a/icon.png": saved(logo(size=64), "PNG"),
            "a/f.png": saved(logo(size=64), "PNG"),
            "art.png": saved(logo(size=512), "PNG"),
        },
    )
    done = onomaxis("icons", root, "--foreground", root / "art.png", "--json", "--allow-dirty")
    assert done.code == 0, done.err
    assert json.loads((root / "app.json").read_text())["expo"]["android"]["adaptiveIcon"]["backgroundColor"] == "#123456"
    assert "ground-chosen" not in {warning["code"] for warning in done.json["warnings"]}


def test_a_language_keeps_its_own_name(tmp_path: Path) -> None:
    """What a wish says of one language is said of no other; a name of its own there stays and is named."""
    found = {
        f"app/src/main/res/{folder}/strings.xml": right.resources(app_name=name)
        for folder, name in (("values", "Oak"), ("values-de", "Eiche"), ("values-fr", "Chêne"))
    }
    root = files(tmp_path, {"settings.gradle.kts": 'include(":app")\n', "app/build.gradle.kts": GRADLE, "app/src/main/AndroidManifest.xml": MANIFEST, **found})
    done = onomaxis("rename", root, "--name", "Elm", "--locale-name", "de=Ulme", "--allow-dirty")
    assert done.code == 0 and "Chêne" in done.out + done.err, done.err
    texts = {path.split("/")[-2]: data for path, data in ((p, (root / p).read_text()) for p in found)}
    assert "Elm" in texts["values"] and "Ulme" in texts["values-de"] and "Chêne" in texts["values-fr"]


def test_a_string_of_a_resource_script() -> None:
    assert encode("resource-script", 'a\tb "c"\n\\') == 'a\\tb ""c""\\n\\\\'


SCRIPT = 'plugins { id("com.android.application") }\nandroid {\n    namespace = "org.oak"\n    defaultConfig {\n        applicationId = "org.oak"\n        versionName = %s\n    }\n}\n'


@pytest.mark.parametrize(
    ("written", "reads"),
    [
        ('"1.4" + 2 * 3', "1.46"),
        (f"{'9' * 30} * 1", "9" * 30),
        (f"{'9' * 31} * 1", ""),
        ('"four" * 1', ""),
        ('"1.0".toString()', "1.0"),
        ('"1.0".trim().toString()', "1.0"),
        ('"1.0".get(2)', ""),
    ],
)
def test_what_an_expression_comes_to(written: str, reads: str) -> None:
    """Limits and calls with arguments are not followed: the value is told as unresolved, never guessed."""
    survey = take_survey(
        memory({"settings.gradle.kts": 'include(":app")\n', "app/build.gradle.kts": SCRIPT % written, "app/src/main/AndroidManifest.xml": MANIFEST})
    )
    versions = [app.version.text for app in survey.apps if app.version]
    assert (versions == [reads]) if reads else (versions == [] and any(item.facet.startswith("version") for item in survey.unresolved))


def test_no_proof_without_every_app() -> None:
    """A result in which another app is called otherwise, or is gone, is refused; with leave for it, it is not."""
    files_of = {"settings.gradle.kts": 'include(":app")\n', "app/build.gradle.kts": GRADLE, "app/src/main/AndroidManifest.xml": MANIFEST}
    before = read_projects(memory(files_of))
    for old, new in (("org.oak", "org.elm"), ('create("ash")', ""), ("com.android.application", "com.android.library")):
        after = read_projects(memory({**files_of, "app/build.gradle.kts": GRADLE.replace(old, new)}))
        with pytest.raises(FaultError):
            proved(before, after, PlannedChange())
        allowed = proved(before, after, PlannedChange(), lambda project, app, seen: {seen.new.text if seen.new else ""}, gone=lambda project, app: True)
        assert allowed.called_before != allowed.called_after
    assert proved(before, before, PlannedChange()).called_before


def test_association_files_name_apps_by_texts_alone() -> None:
    """A package that is not text, or of another form, names nobody; prints are read as they stand."""
    rows = [{"target": {"package_name": name, "sha256_cert_fingerprints": ["aa:bb"]}} for name in ("org.oak", 7, None)] + [{"target": {}}, {}]
    (file,) = link_files(memory({"web/.well-known/assetlinks.json": json.dumps(rows)}))
    assert [(app.id, app.certificates) for app in file.apps] == [("org.oak", ("AA:BB",))]


@pytest.mark.parametrize(("text", "between"), [('{"a": 1}', ": "), ('{"a":1}', ":"), ('{"a" : "b"}', " : "), ('{"a"\n: 1}', ": "), ("{}", ": ")])
def test_what_stands_behind_a_key(text: str, between: str) -> None:
    assert parse_json(text.encode()).colon == between


def test_a_string_of_several_arguments_is_no_format() -> None:
    plain, several = '<string name="a">', '<string name="a" formatted="false">'
    for text, head in (("at %s", plain), ("%s of %s", several), ("100%", plain)):
        assert string_element("a", text) == f"{head}{text}</string>"


def test_an_end_that_comes_too_soon_is_on_the_last_line() -> None:
    with pytest.raises(FormatError) as told:
        parse_toml(b"a = 1\nb = [\n1,\n")
    assert told.value.line == 4


LIBRARY = 'plugins {{ id("com.android.library") }}\nandroid {{ namespace = "org.{}" }}\n'


def test_the_library_that_is_named_moves_alone() -> None:
    contents = {"settings.gradle.kts": 'include(":oak", ":elm")\n'}
    for name in ("oak", "elm"):
        contents |= {f"{name}/build.gradle.kts": LIBRARY.format(name), f"{name}/src/main/java/org/{name}/A.kt": f"package org.{name}\n"}
    survey = take_survey(memory(contents), "elm")
    after = applied(survey.tree, plan_rename(survey, Wish(app="elm", code_package="org.ash")).changes)
    assert {path for path in after.known if path.endswith("A.kt")} == {"oak/src/main/java/org/oak/A.kt", "elm/src/main/java/org/ash/A.kt"}


BRANCHES = "const b = process.env.BRAND;\nmodule.exports = { appId: b === 'oak' ? 'org.oak' : b === 'elm' ? 'org.shed.elm' : 'org.shed', appName: 'Shed', webDir: 'oak' };\n"


@pytest.mark.parametrize(
    ("old", "new", "right"),
    [("org.oak", "org.barn", False), ("'org.shed.elm'", "'org.barn.elm'", True), ("'org.shed.elm'", "'org.barn'", False), ("'Shed'", "'Other'", False)],
)
def test_a_variant_of_a_script_is_as_it_was_or_goes_on(old: str, new: str, right: bool) -> None:
    """What a framework's file says of a flavor is that flavor's, though no build has it: another app's ID is a fault."""
    native = {
        "android/app/build.gradle": 'plugins { id "com.android.application" }\nandroid { namespace "org.shed"\n defaultConfig { applicationId "org.shed" } }\n'
    }
    native |= {
        "android/settings.gradle": "include ':app'\n",
        "package.json": "{}",
        "android/app/src/main/AndroidManifest.xml": MANIFEST.replace("@string/app_name", "Shed"),
    }
    become = {**native, "android/app/build.gradle": native["android/app/build.gradle"].replace('applicationId "org.shed"', 'applicationId "org.barn"')}
    before = read_projects(memory({**native, "capacitor.config.js": BRANCHES}))
    after = read_projects(memory({**become, "capacitor.config.js": BRANCHES.replace("'org.shed',", "'org.barn',").replace(old, new)}))
    plan = PlannedChange((), 0)
    if right:
        assert proved(before, after, plan, allowed=lambda *_: {"org.barn", "Shed"}) is not None
    else:
        with pytest.raises(FaultError, match="no app would be"):
            proved(before, after, plan, allowed=lambda *_: {"org.barn", "Shed"})


def test_what_still_names_a_variant_is_said() -> None:
    """What is the variant's alone goes; the other words that name it are told with their lines, and nothing else is."""
    files_ = Files(memory({"capacitor.config.js": BRANCHES}), "")
    draft = retire_variant(files_, ("capacitor.config.js",), "oak", ["oak", "elm"])
    assert len(draft.edits) == 1 and [note.at for note in draft.notes] == ["capacitor.config.js:2"]


def test_pictures_of_one_platform_are_all_that_a_widget_has() -> None:
    """Where a configuration names a picture for any platform, none is offered beside it."""
    head = '<widget id="org.shed" version="1.0.0" xmlns="http://www.w3.org/ns/widgets"><name>Shed</name>'
    for inner, offered in (('<platform name="ios"><icon src="a.svg"/></platform>', False), ("", True)):
        homes = [home for project in read_projects(memory({"config.xml": f"{head}{inner}</widget>"})) for home in project.icons]
        assert any(tile.offered for home in homes for tile in home.tiles) == offered


def test_marks_beside_a_change(tmp_path: Path) -> None:
    """A mark stands until it is taken away."""
    root = files(tmp_path / "app", {"config.xml": '<widget id="org.shed" version="1.0.0" xmlns="http://www.w3.org/ns/widgets"><name>Shed</name></widget>'})
    assert onomaxis("rename", root, "--version", "2.0.0").code == 0
    journal = Journal(root)
    entry = journal.entries()[0]
    journal.mark(entry, "seen")
    assert journal.marked(entry, "seen")
    journal.unmark(entry, "seen")
    assert not journal.marked(entry, "seen")


@pytest.mark.parametrize(("package", "severity"), [("com.getcapacitor.myapp", "note"), ("org.elder", "warning")])
def test_example_tests_stay_until_a_package_is_asked_for(tmp_path: Path, package: str, severity: str) -> None:
    """An ID that moves the code leaves tests in a package of their own; ``--code-package`` moves them, also alone."""
    manifest = MANIFEST.replace("@string/app_name", "Oak")
    contents = {"settings.gradle.kts": 'include(":app")\n', "app/build.gradle.kts": GRADLE, "app/src/main/AndroidManifest.xml": manifest}
    contents |= {"app/src/main/java/org/oak/A.java": "package org.oak;\n", f"app/src/test/java/{package.replace('.', '/')}/T.java": f"package {package};\n"}
    root = files(tmp_path / "app", contents)
    found = [item for item in onomaxis("check", root, "--json").json["findings"] if item["code"] == "ID08"]
    assert [item["severity"] for item in found] == [severity]
    survey = take_survey(memory(contents))
    moved = applied(survey.tree, plan_rename(survey, Wish(android_id="org.ash")).changes)
    assert moved.read(f"app/src/test/java/{package.replace('.', '/')}/T.java") == f"package {package};\n".encode()
    for word in ("org.oak", "org.ash"):
        alone = applied(survey.tree, plan_rename(survey, Wish(code_package=word)).changes)
        assert alone.read(f"app/src/test/java/{word.replace('.', '/')}/T.java") == f"package {word};\n".encode()
