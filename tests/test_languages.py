"""A name in a language that the app does not have yet: everything that it takes is made, on every kind of project."""

from __future__ import annotations

import json
import plistlib
import re
from pathlib import Path

import pytest

from compositions import NS, plist
from conftest import commit_all, files, memory, onomaxis, snapshot, text_of
from hybrids import spelled
from judges import check_lists
from onomaxis.brands.stamp import stamp
from onomaxis.checks.inspection import look_over
from onomaxis.rename.rename import plan_rename
from onomaxis.surveys.survey import take_survey
from onomaxis.tree import Tree
from onomaxis.wishes import Wish
from onomaxis.writing.change import applied
from test_any_tree import KTS, android
from xcode import pbxproj
from xcode_judge import read_project

CATALOG = '{\n  "sourceLanguage" : "en",\n  "strings" : {%s},\n  "version" : "1.0"\n}\n'
NAMED = '\n    "CFBundleDisplayName" : {\n      "localizations" : {\n        "en" : {\n          "stringUnit" : {\n            "state" : "translated",\n            "value" : "Lend"\n          }\n        }\n      }\n    }\n  '


def apple(folders: bool, extra: dict[str, str], regions: str = "") -> dict[str, str]:
    """An app with its name in the property list, whose project lists files or has synchronized folders."""
    settings = {"PRODUCT_BUNDLE_IDENTIFIER": "org.lendspan", "PRODUCT_NAME": "Lend", "INFOPLIST_FILE": "Lend/Info.plist"}
    project = pbxproj(["Debug", "Release"], {"SDKROOT": "iphoneos"}, {"Lend": ("app", {"*": settings})}, {"Lend": "Lend"} if folders else None)
    if not folders:
        project = project.replace("buildPhases = ();", "buildPhases = (R000);").replace(
            "\t};\n\trootObject", "\t\tR000 = {\n\t\t\tisa = PBXResourcesBuildPhase;\n\t\t\tfiles = (\n\t\t\t);\n\t\t};\n\t};\n\trootObject"
        )
    if regions:
        project = project.replace("mainGroup = G000;", f"knownRegions = ({regions});\n\t\t\tmainGroup = G000;")
    return {"Lend.xcodeproj/project.pbxproj": project, "Lend/Info.plist": plist({"CFBundleDisplayName": "Lend", "CFBundleVersion": "1"}), **extra}


def listed(contents: dict[str, str], group: str) -> dict[str, str]:
    """Let the project list strings files in a variant group, as *group* spells its objects."""
    path = "Lend.xcodeproj/project.pbxproj"
    text = contents[path].replace("files = (\n\t\t\t);", "files = (\n\t\t\t\tB111 /* InfoPlist.strings in Resources */,\n\t\t\t);")
    text = text.replace("children = ();", "children = (V111);").replace("\t};\n\trootObject", group + "\t};\n\trootObject")
    return {**contents, path: text}


GROUP = (
    "\t\tB111 = {isa = PBXBuildFile; fileRef = V111; };\n"
    '\t\tE111 /* en */ = {isa = PBXFileReference; lastKnownFileType = text.plist.strings; name = en; path = Lend/en.lproj/InfoPlist.strings; sourceTree = "<group>"; };\n'
    '\t\tV111 = {\n\t\t\tisa = PBXVariantGroup;\n\t\t\tchildren = (\n\t\t\t\tE111 /* en */,\n\t\t\t);\n\t\t\tname = InfoPlist.strings;\n\t\t\tsourceTree = "<group>";\n\t\t};\n'
)
ENGLISH = {"Lend/en.lproj/InfoPlist.strings": '"CFBundleDisplayName" = "Lend";\n'}
PKG = '{"name": "lend", "dependencies": {"expo": "54"}}'
APPS: dict[str, dict[str, str]] = {
    "string": android(KTS.format("", "")),
    "literal": {**android(KTS.format("", ""), strings="<resources/>"), "app/src/main/AndroidManifest.xml": f'<manifest {NS}><application android:label="Lend"/></manifest>'},
    "literal, no strings": {
        path: text
        for path, text in {**android(KTS.format("", "")), "app/src/main/AndroidManifest.xml": f'<manifest {NS}><application android:label="Tom\\\'s &amp; Co"/></manifest>'}.items()
        if not path.endswith("strings.xml")
    },
    "literal, name taken": {**android(KTS.format("", ""), strings='<resources><string name="app_name">Other</string></resources>'), "app/src/main/AndroidManifest.xml": f'<manifest {NS}><application android:label="Lend"/></manifest>'},
    "placeholder": {**android(KTS.format('manifestPlaceholders["shown"] = "Lend"', "")), "app/src/main/AndroidManifest.xml": f'<manifest {NS}><application android:label="${{shown}}"/></manifest>'},
    "placeholder in Groovy": {
        **android("android { namespace 'org.lendspan'\ndefaultConfig { applicationId 'org.lendspan'\nmanifestPlaceholders = [shown: 'Lend'] } }\n", kotlin=False),
        "app/src/main/AndroidManifest.xml": f'<manifest {NS}><application android:label="${{shown}}"/></manifest>',
    },
    "made by the script": android(KTS.format('resValue("string", "app_name", "Lend")', ""), strings="<resources/>"),
    "lists files": apple(False, {}),
    "lists files, knows regions": apple(False, {}, "en, Base"),
    "lists a group": listed(apple(False, ENGLISH, "en, Base"), GROUP),
    "folders": apple(True, {}, "en, Base"),
    "folders with strings": apple(True, ENGLISH, "en"),
    "catalog": apple(True, {"Lend/InfoPlist.xcstrings": CATALOG % NAMED}, "en"),
    "catalog without the key": apple(True, {"Lend/InfoPlist.xcstrings": CATALOG % ""}, "en"),
    "expo": {"app.json": '{\n  "expo": {\n    "name": "Lend",\n    "slug": "lend"\n  }\n}\n', "package.json": PKG},
    "expo with a language": {
        "app.json": '{\n  "expo": {\n    "name": "Lend",\n    "locales": {\n      "fr": "./fr.json"\n    }\n  }\n}\n',
        "fr.json": '{"ios": {"CFBundleDisplayName": "Prêt"}}',
        "package.json": PKG,
    },
    "expo with a bare file": {"app.json": '{"name": "Lend", "locales": {"pt-BR": "./pt.json"}}', "pt.json": '{\n  "other": "x"\n}\n', "package.json": PKG},
}  # fmt: skip


@pytest.mark.parametrize("rename", [False, True], ids=["alone", "with a new name"])
@pytest.mark.parametrize("kind", APPS)
def test_a_new_language(tmp_path: Path, kind: str, rename: bool) -> None:
    """The name reads back in the language, on every platform; the rest stays, judges read the files, undo is exact."""
    root = files(tmp_path, APPS[kind])
    commit_all(root)
    before = snapshot(root)
    old = onomaxis("survey", root, "--json").json["apps"]
    assert old and old[0]["name"] and "pt-BR" not in old[0]["names"]
    words = ["--locale-name", "pt-BR=Ferramentas"] + (["--name", "Oak & Ash"] if rename else [])
    done = onomaxis("rename", root, *words, "--json")
    assert done.code == 0, done.err + done.out
    now = onomaxis("survey", root, "--json").json["apps"]
    for app, was in zip(now, old, strict=True):
        assert app["names"]["pt-BR"] == "Ferramentas"
        assert app["name"] == ("Oak & Ash" if rename else was["name"]) and app["id"] == was["id"]
    project = root / "Lend.xcodeproj/project.pbxproj"
    if project.exists():
        assert "pt-BR" in read_project(project)["objects"]["P000"].get("knownRegions", [])
        check_lists(root)
    for path in root.rglob("*.strings"):
        assert "Ferramentas" in text_of(path) or "en.lproj" in str(path)
    for path in [*root.rglob("*.json"), *root.rglob("*.xcstrings")]:
        if ".onomaxis" not in path.parts:
            json.loads(path.read_text())
    assert all(plistlib.loads(path.read_bytes()) for path in root.rglob("Info.plist"))
    again = onomaxis("rename", root, *words, "--allow-dirty", "--json").json
    assert again["files"] == again["created"] == []
    onomaxis("undo", root, "--allow-dirty")
    assert snapshot(root) == before


def test_where_there_is_no_place_for_a_language(tmp_path: Path) -> None:
    """A kind whose files have no place for a language refuses in so many words."""
    root = files(tmp_path, {"config.xml": '<widget id="org.lendspan" xmlns="http://www.w3.org/ns/widgets"><name>Lend</name></widget>'})
    commit_all(root)
    done = onomaxis("rename", root, "--locale-name", "de=Leihe")
    assert done.code == 3 and "no place for a name in de" in done.err
    script = files(tmp_path / "script", {"app.config.js": "export default { name: 'Lend' };\n", "package.json": PKG})
    commit_all(script)
    done = onomaxis("rename", script, "--locale-name", "de=Leihe")
    assert done.code == 3 and "locales/de.json" in done.err


def test_the_summary_names_what_changes_alone(tmp_path: Path) -> None:
    """A name that a flavor keeps in a language is not a part of what becomes of the app's."""
    brands = 'flavorDimensions += "brand"\nproductFlavors { create("alderbank") { dimension = "brand" }\ncreate("plain") { dimension = "brand" } }\n'
    strings = '<resources><string name="app_name">{}</string></resources>'
    contents = {**android(KTS.format("", brands)), "app/src/main/res/values-de/strings.xml": strings.format("Leihe")}
    contents |= {f"app/src/alderbank/res/{folder}/strings.xml": strings.format("Erle") for folder in ("values", "values-de")}
    root = files(tmp_path, contents)
    commit_all(root)
    done = onomaxis("rename", root, "--locale-name", "de=Schuppen", "--dry-run", "--quiet")
    loud = onomaxis("rename", root, "--locale-name", "de=Schuppen", "--dry-run")
    assert done.code == 0 and "Leihe → Schuppen" in loud.err and "Erle or" not in loud.err and "Erle" in loud.err


# -- values in a language

WORDS = {"plain": "Zum Scannen", "quoted": 'Sag "x" & <y>', "apostrophe": "in 't schuurtje", "lines": "a\tb äöü €"}
TEXTS = """
[app.values]
use = "To scan labels"
use-nl = %s
[values.use]
places = [{ plist = "NSCameraUsageDescription", create = true }, { string = "Localizable/hello there", create = true }]
[values.use-nl]
places = [
  { plist = "NSCameraUsageDescription", locale = "nl", create = true },
  { string = "Localizable/hello there", locale = "nl", create = true },
]
"""


def ours(root: Path, path: str, language: str) -> dict[str, str]:
    """Read a strings file or a catalog without the program's readers."""
    text = (root / path).read_text()
    if path.endswith(".xcstrings"):
        items = json.loads(text)["strings"].items()
        return {key: item["localizations"][language]["stringUnit"]["value"] for key, item in items if language in item["localizations"]}
    pairs = re.findall(r'"((?:[^"\\]|\\.)*)"\s*=\s*"((?:[^"\\]|\\.)*)";', text)
    return {key: json.loads(f'"{value}"'.replace("\t", "\\t")) for key, value in pairs}


@pytest.mark.parametrize("word", WORDS)
@pytest.mark.parametrize(
    ("kind", "folders", "extra", "group"),
    [
        ("new files", False, {}, ""),
        ("folders", True, {}, ""),
        ("group", False, ENGLISH, GROUP),
        ("catalogs", True, {"Lend/InfoPlist.xcstrings": CATALOG % NAMED, "Lend/Localizable.xcstrings": CATALOG % ""}, ""),
    ],
    ids=lambda item: item if isinstance(item, str) and "=" not in item else "",
)
def test_texts_of_apple_in_a_language(tmp_path: Path, kind: str, folders: bool, extra: dict[str, str], group: str, word: str) -> None:
    """A value in a new language stands in a file, a group, a region, a catalog, as an independent reader sees it."""
    contents = apple(folders, extra)
    root = files(tmp_path, listed(contents, group) if group else contents)
    onomaxis("adopt", root)
    identity = root / "onomaxis.toml"
    identity.write_text(identity.read_text() + TEXTS % json.dumps(WORDS[word], ensure_ascii=False))
    before = snapshot(root)
    done = onomaxis("stamp", root)
    assert done.code == 0, done.err
    ending = "Lend/{}.xcstrings" if kind == "catalogs" else "Lend/nl.lproj/{}.strings"
    assert ours(root, ending.format("InfoPlist"), "nl")["NSCameraUsageDescription"] == WORDS[word]
    assert ours(root, ending.format("Localizable"), "nl")["hello there"] == WORDS[word]
    assert plistlib.loads((root / "Lend/Info.plist").read_bytes())["NSCameraUsageDescription"] == "To scan labels"
    project = read_project(root / "Lend.xcodeproj/project.pbxproj")
    regions = next(item["knownRegions"] for item in project["objects"].values() if item.get("isa") == "PBXProject")
    assert "nl" in regions
    check_lists(root)
    assert onomaxis("stamp", root, "--json").json["files"] == []
    identity.write_text(identity.read_text().replace("use-nl = ", 'use-nl = "anders" #'))
    assert onomaxis("stamp", root).code == 0
    assert ours(root, ending.format("Localizable"), "nl")["hello there"] == "anders"
    onomaxis("undo", root)
    onomaxis("undo", root)
    assert {**snapshot(root), "onomaxis.toml": b""} == {**before, "onomaxis.toml": b""}


RESOURCE = """
[app.values]
hello = "Hello"
hello-nl = "Hallo 't is er"
%s
[values.hello]
places = [{ resource = "string/hello", create = true }]
[values.hello-nl]
places = [{ resource = "string/hello", locale = "nl-BE", create = true }]
"""


@pytest.mark.parametrize("folder", ["", "values-nl-rBE", "values-b+nl+BE"])
def test_texts_of_android_in_a_language(tmp_path: Path, folder: str) -> None:
    """A resource in a language goes where the language already is, a flavor's into its own source set."""
    blocks = "flavorDimensions += 'b'\nproductFlavors { alderbank { dimension 'b' } }"
    res = "app/src/main/res"
    there = {f"{res}/{folder}/strings.xml": "<resources>\n    <string name='a'>b</string>\n</resources>\n"} if folder else {}
    root = files(tmp_path, {**android(KTS.format("", "")), "app/build.gradle.kts": "", "app/build.gradle": GROOVY % blocks, **there})
    (root / "app/build.gradle.kts").unlink()
    onomaxis("adopt", root)
    own = '[flavors.alderbank.values]\nhello-nl = "Dag"'
    with (root / "onomaxis.toml").open("a") as file:
        file.write(RESOURCE % own)
    done = onomaxis("stamp", root)
    assert done.code == 0, done.err
    path = root / res / (folder or "values-nl-rBE") / "strings.xml"
    assert ">Hallo \\'t is er<" in path.read_text() and path.read_text().count("<string ") == (2 if folder else 1)
    assert ">Dag<" in (root / "app/src/alderbank/res/values-nl-rBE/strings.xml").read_text()
    assert ">Hello<" in (root / res / "values/strings.xml").read_text()
    assert onomaxis("stamp", root, "--json").json["files"] == []


GROOVY = "plugins { id 'com.android.application' }\nandroid {\n  namespace 'org.lendspan'\n  defaultConfig { applicationId 'org.lendspan' }\n  %s\n}\n"
REFUSED = [
    ('{ env = "A", file = ".env", locale = "nl" }', 2, "“env” has no language"), ('{ plist = "A", locale = "n_l" }', 2, "not a language tag"),
    ('{ string = "greeting" }', 2, "it is TABLE/KEY"), ('{ string = "../x/greeting" }', 2, "it is TABLE/KEY"),
    ('{ plist = "A/B", locale = "nl", create = true }', 3, "A/B lies deeper"), ('{ plist = "A", locale = "nl" }', 2, "there is no text in nl “A”"),
    ('{ string = "Localizable/x", locale = "nl" }', 2, "there is no text in nl “x”"),
]  # fmt: skip


@pytest.mark.parametrize(("place", "code", "said"), REFUSED)
def test_texts_that_cannot_be_placed(tmp_path: Path, place: str, code: int, said: str) -> None:
    """What has no language, or no place in one, is refused with the line; nothing is written."""
    root = files(tmp_path, apple(True, ENGLISH))
    onomaxis("adopt", root)
    with (root / "onomaxis.toml").open("a") as file:
        file.write(f'[app.values]\nv = "x"\n[values.v]\nplaces = [{place}]\n')
    before = snapshot(root)
    done = onomaxis("stamp", root)
    assert done.code == code and said in " ".join(done.err.split()), done.err
    assert snapshot(root) == before


def test_a_resource_in_a_language_needs_one_for_all_others(tmp_path: Path) -> None:
    """An app whose resource stands in one language only would not run in the others: nothing is made."""
    root = files(tmp_path, android(KTS.format("", "")))
    onomaxis("adopt", root)
    with (root / "onomaxis.toml").open("a") as file:
        file.write('[app.values]\nv = "x"\n[values.v]\nplaces = [{ resource = "string/only", locale = "nl", create = true }]\n')
    before = snapshot(root)
    done = onomaxis("stamp", root)
    assert done.code == 3 and "no text for all other languages" in " ".join(done.err.split()), done.err
    assert snapshot(root) == before


def test_a_text_that_all_configurations_share(tmp_path: Path) -> None:
    """Flavors of an Xcode project share their texts: one wish for all is written, two are refused by name."""
    names = [f"{kind}-{flavor}" for flavor in ("alderbank", "mossgate") for kind in ("Debug", "Release")]
    own = {name: {"PRODUCT_BUNDLE_IDENTIFIER": f"org.lendspan.{name.split('-')[1]}"} for name in names}
    settings = {"PRODUCT_NAME": "Lend", "INFOPLIST_FILE": "Lend/Info.plist"}
    project = pbxproj(names, {"SDKROOT": "iphoneos"}, {"Lend": ("app", {"*": settings, **own})}, {"Lend": "Lend"})
    strings = {"Lend/nl.lproj/Localizable.strings": '"hi" = "oud";\n'}
    root = files(tmp_path, {"Lend.xcodeproj/project.pbxproj": project, "Lend/Info.plist": plist({"CFBundleDisplayName": "Lend"}), **strings})
    onomaxis("adopt", root)
    place = '[values.hi]\nplaces = [{ string = "Localizable/hi", locale = "nl" }]\n'
    with (root / "onomaxis.toml").open("a") as file:
        file.write(f'[app.values]\nhi = "nieuw"\n{place}')
    assert onomaxis("stamp", root).code == 0
    assert (root / "Lend/nl.lproj/Localizable.strings").read_text() == '"hi" = "nieuw";\n'
    with (root / "onomaxis.toml").open("a") as file:
        file.write('[flavors.mossgate.values]\nhi = "mos"\n')
    done = onomaxis("stamp", root)
    assert done.code == 3 and "mos for mossgate" in " ".join(done.err.split()), done.err


@pytest.mark.parametrize("kind", ["flutter", "react-native", "capacitor", "expo", "multiplatform"])
def test_two_new_languages_at_once(kind: str) -> None:
    """Neither takes the other's place, in resources, project file and configuration; the same wish changes nothing more."""
    tree = memory(spelled(kind, "org.x.shed", "Shed", "1.2.0", "7"))
    wish = Wish(names=(("de", "Schuppen"), ("fr", "Hangar")))
    later = applied(tree, plan_rename(take_survey(tree), wish).changes)
    survey = take_survey(later)
    assert {tuple((locale, value.text) for locale, value in app.names) for app in survey.apps} == {(("de", "Schuppen"), ("fr", "Hangar"))}
    assert plan_rename(survey, wish).empty


def test_texts_that_flavors_share_are_nobody_s_own_name(branded: Path) -> None:
    """Each flavor with a name of its own is named with its languages, the app itself is not; an error only for publication."""
    tree = Tree.open(branded)

    def found(tree: Tree, publish: bool = False) -> dict[str, tuple[str, str]]:
        items = [item for item in look_over(tree, ["names"], publish=publish)[0] if item.rule.code == "NAME10"]
        return {item.flavor: (item.rule.severity, item.message.partition(", and is called ")[2]) for item in items}

    said = "“Leihspanne” in de, “Lendspan” in en, “Prêt d’outils” in fr"
    assert found(tree) == dict.fromkeys(("alderbank", "mossgate", "pennywick"), ("note", said))
    assert {severity for severity, _ in found(tree, publish=True).values()} == {"error"}
    assert found(applied(tree, stamp(tree).changes), publish=True) == {}
    files = [path for path in tree.files if path.endswith("InfoPlist.strings")]
    assert len(files) > 1
    assert found(tree.overlay(dict.fromkeys(files, b"/* no name */\n"), ())) == {}
