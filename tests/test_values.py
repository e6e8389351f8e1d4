"""What expressions come to: Gradle scripts and Xcode build settings, as tables."""

from __future__ import annotations

from pathlib import Path

import pytest

from compositions import plist
from conftest import files, onomaxis, snapshot
from onomaxis.identity.schema import NAME
from onomaxis.rename.rename import plan_rename
from onomaxis.surveys.survey import take_survey
from onomaxis.tree import Tree
from onomaxis.wishes import Wish
from onomaxis.writing.change import applied
from xcode import pbxproj

KOTLIN, GROOVY = "app/build.gradle.kts", "app/build.gradle"
# language, head of the script, expression of versionName, value (None: unresolved)
GRADLE = [
    (KOTLIN, "", '= "1.2"', "1.2"),
    (GROOVY, "", '"1.2"', "1.2"),
    (GROOVY, "", "'1.2'", "1.2"),
    (GROOVY, "", "= '1.2'", "1.2"),
    (GROOVY, "", '("1.2")', "1.2"),
    (KOTLIN, "", '.set("1.2")', "1.2"),
    (GROOVY, "", '= "1.2" // was "1.1"', "1.2"),
    (KOTLIN, 'val v = "1.2"', "= v", "1.2"),
    (KOTLIN, 'val v: String = "1.2"', "= v", "1.2"),
    (KOTLIN, 'val v by extra("1.2")', "= v", "1.2"),
    (KOTLIN, 'extra["v"] = "1.2"', '= extra["v"] as String', "1.2"),
    (KOTLIN, 'extra["v"] = "1.2"', '= project.extra["v"].toString()', "1.2"),
    (GROOVY, "def v = '1.2'", "v", "1.2"),
    (GROOVY, "ext.v = '1.2'", "project.ext.v", "1.2"),
    (GROOVY, "ext { v = '1.2' }", "ext.v", "1.2"),
    (GROOVY, "String v = '1.2'", "= v", "1.2"),
    (KOTLIN, "val major = 1\nval minor = 2", '= "$major.$minor"', "1.2"),
    (KOTLIN, "val major = 1\nval minor = 2", '= "${major}.${minor}"', "1.2"),
    (KOTLIN, "val major = 1", '= major.toString() + "." + "2"', "1.2"),
    (GROOVY, "def major = 1\ndef minor = 2", '"${major}.$minor"', "1.2"),
    (KOTLIN, "", '= "1." + (1 + 1)', "1.2"),
    (KOTLIN, "", '= property("from.file").toString()', "1.2-file"),
    (KOTLIN, "", '= findProperty("from.file") as String', "1.2-file"),
    (KOTLIN, "", '= (findProperty("missing") ?: "1.2") as String', "1.2"),
    (GROOVY, "", "project.findProperty('missing') ?: '1.2'", "1.2"),
    (GROOVY, "", "project.property('from.file')", "1.2-file"),
    (KOTLIN, "", "= libs.versions.app.version.get()", "1.2-catalog"),
    (GROOVY, "", "libs.versions.app.version.get()", "1.2-catalog"),
    (GROOVY, "", "rootProject.ext.rootVersion", "1.2-root"),
    (GROOVY, "", "rootVersion", "1.2-root"),
    (KOTLIN, "", '= rootProject.extra["rootVersion"] as String', "1.2-root"),
    (GROOVY, "", "appliedVersion", "1.2-applied"),
    (KOTLIN, "", '= System.getenv("V") ?: "1.2"', None),
    (KOTLIN, "", '= "git describe".execute()', None),
    (GROOVY, "def v() { '1.2' }", "v()", "1.2"),
    (GROOVY, "if (x) {\n  ext.v = '1'\n} else {\n  ext.v = '2'\n}", "v", None),
    (GROOVY, "def v = v", "v", None),
    (KOTLIN, "", '= if (x) "1" else "2"', None),
    (KOTLIN, "", "= undefinedName", None),
    (KOTLIN, "", "= libs.versions.nothing.get()", None),
    (GROOVY, "", "providers.gradleProperty('missing').orElse('1.2').get()", "1.2"),
    (KOTLIN, "", '= providers.gradleProperty("missing").getOrElse("1.2")', "1.2"),
    (KOTLIN, "", '= providers.gradleProperty("from.file").get()', "1.2-file"),
    (KOTLIN, "val fileVersion: String by project", "= fileVersion", "1.2-file"),
    (KOTLIN, "val rootVersion: String by rootProject.extra", "= rootVersion", "1.2-root"),
    (KOTLIN, 'val v by extra { "1.2" }', "= v", "1.2"),
    (KOTLIN, 'extra.set("v", "1.2")', '= extra.get("v") as String', "1.2"),
    (GROOVY, "ext.set('v', '1.2')", "ext.get('v')", "1.2"),
    (GROOVY, "ext.versions = [name: '1.2', code: 3]", "versions.name", "1.2"),
    (GROOVY, "def versions = [name: '1.2', code: 3]", "versions['name']", "1.2"),
    (GROOVY, "ext {\n versions = [\n  name: '1.2',\n  code: 3\n ]\n}", "project.ext.versions.name", "1.2"),
    (GROOVY, "", "rootProject.ext.rootMap.name", "1.2-map"),
    (KOTLIN, 'val versions = mapOf("name" to "1.2", "code" to 3)', '= versions["name"] as String', "1.2"),
    (KOTLIN, 'val versions = mapOf("name" to "1.1")', '= versions["other"] ?: "1.2"', "1.2"),
    (GROOVY, "def versions = [name: '1.1']", "versions.get('other') ?: '1.2'", "1.2"),
    (GROOVY, "def versions = [name: '1.1']", "versions['other']", None),
    (GROOVY, "def versions = [name: '1.1'] + more()", "versions['other'] ?: '1.2'", None),
    (KOTLIN, 'val versions = mapOf("name" to "1.2", "code" to 3)', '= versions.getValue("name")', "1.2"),
    (GROOVY, "", "project.hasProperty('from.file') ? project.property('from.file') : '1.2'", "1.2-file"),
    (GROOVY, "", "project.hasProperty('missing') ? missing : '1.2'", "1.2"),
    (KOTLIN, "", '= if (project.hasProperty("missing")) project.property("missing") as String else "1.2"', "1.2"),
    (GROOVY, "def props = new Properties()\nprops.load(new FileInputStream(file('version.properties')))", "props['NAME']", "1.2-props"),
    (
        GROOVY,
        "def propsFile = rootProject.file('app/version.properties')\ndef props = new Properties()\npropsFile.withInputStream { props.load(it) }",
        "props.getProperty('NAME')",
        "1.2-props",
    ),
    (GROOVY, "def props = new Properties()\nfile('version.properties').withReader('UTF-8') { reader -> props.load(reader) }", "props.NAME", "1.2-props"),
    (
        KOTLIN,
        'val props = java.util.Properties().apply { load(java.io.FileInputStream(rootProject.file("app/version.properties"))) }',
        '= props["NAME"] as String',
        "1.2-props",
    ),
    (KOTLIN, 'val props = Properties()\nprops.load(file("version.properties").inputStream())', '= props.getProperty("NAME")', "1.2-props"),
    (
        KOTLIN,
        'val props = Properties()\nval f = rootProject.file("local.properties")\nif (f.exists()) {\n props.load(f.inputStream())\n}',
        '= props.getProperty("app.version") ?: "0"',
        "1.2-local",
    ),
    (GROOVY, "def props = new Properties()\nprops.load(file('gone.properties').newDataInputStream())", "props.getProperty('NAME', '1.2')", "1.2"),
    (GROOVY, "import groovy.json.JsonSlurper\ndef pkg = new JsonSlurper().parseText(file('../package.json').text)", "pkg.version", "1.2-json"),
    (GROOVY, 'def pkg = new groovy.json.JsonSlurper().parse(file("$rootDir/package.json"))', "pkg['version']", "1.2-json"),
    (KOTLIN, 'val pkg = groovy.json.JsonSlurper().parse(file("../package.json")) as Map<*, *>', '= pkg["version"] as String', "1.2-json"),
    (KOTLIN, "", "= Versions.NAME", "1.2-src"),
    (KOTLIN, "", "= Config.App.name", "1.2-nested"),
    (KOTLIN, "", "= org.lendspan.build.Versions.NAME", "1.2-src"),
    (GROOVY, "", "Consts.VERSION", "1.2-java"),
    (KOTLIN, "", "= Logic.version", "1.2-logic"),
    (KOTLIN, "", "= Versions.joined", "1.2-src.9"),
    (GROOVY, 'apply from: "$rootDir/gradle/shared.gradle"', "sharedVersion", "1.2-shared"),
    (GROOVY, "apply from: rootProject.file('gradle/shared.gradle')", "sharedVersion", "1.2-shared"),
    (KOTLIN, 'apply(from = "../gradle/shared.gradle")', '= extra["sharedVersion"] as String', "1.2-shared"),
    (KOTLIN, "", "= deps.versions.app.get()", "1.2-deps"),
    (KOTLIN, "", "= inline.versions.app.get()", "1.2-inline"),
    (KOTLIN, "", "= libs.versions.rich.get()", "1.2-rich"),
    (GROOVY, "def code = 1\ndef minor = 2", "code + '.' + minor", "1.2"),
    (GROOVY, "", '"1." + 2.toString()', "1.2"),
    (KOTLIN, "val a = 1; val b = 2", '= "$a.$b"', "1.2"),
    (KOTLIN, 'val v = """1.2"""', "= v", "1.2"),
    (GROOVY, "def v = '''1.2'''", "v", "1.2"),
    (KOTLIN, 'val v = "1 2".split(" ").joinToString(".")', "= v", "1.2"),
    (GROOVY, "def v = 'git describe'.execute().text.trim()", "v", None),
    (KOTLIN, "", "= project.version.toString()", "1.2-project"),
    (GROOVY, 'version = "1.2"', "version", "1.2"),
    (KOTLIN, 'object Local { const val v = "1.2" }', "= Local.v", "1.2"),
    (KOTLIN, 'val String.x get() = "1"', '= "a".x', None),
    (GROOVY, 'def v = System.getProperty("x", "1.2")', "v", None),
    (KOTLIN, "", "= libs.versions.app.version.get().reversed()", None),
    (KOTLIN, 'fun name(): String = "1.2"', "= name()", "1.2"),
    (KOTLIN, 'fun name(): String { return listOf("1.2").first() }', "= name()", "1.2"),
    (KOTLIN, 'var v = "1.1"\nv = "1.2"', "= v", "1.2"),
]


# What stands around the script: settings, scripts above and beside it, properties, catalogs, buildSrc, other files.
AROUND = {
    "settings.gradle": "include ':app'\nincludeBuild 'build-logic'\ndependencyResolutionManagement { versionCatalogs {\n"
    "create('deps') { from(files('config/other.toml')) }\ncreate('inline') { version('app', '1.2-inline') } } }\n",
    "gradle.properties": "from.file=1.2-file\nfileVersion=1.2-file\n",
    "local.properties": "app.version=1.2-local\n",
    "gradle/libs.versions.toml": '[versions]\napp-version = "1.2-catalog"\nrich = { strictly = "1.2-rich" }\n',
    "config/other.toml": '[versions]\napp = "1.2-deps"\n',
    "gradle/shared.gradle": "ext.sharedVersion = '1.2-shared'\n",
    "build.gradle": "version = '1.2-project'\napply from: 'more.gradle'\next {\n  rootVersion = '1.2-root'\n"
    "  rootMap = [name: '1.2-map']\n}\nallprojects { version = '1.2-project' }\n",
    "more.gradle": "ext.appliedVersion = '1.2-applied'\n",
    "app/version.properties": "NAME=1.2-props\n",
    "package.json": '{"name":"x","version": "1.2-json"}',
    "buildSrc/src/main/kotlin/org/lendspan/build/Versions.kt": "package org.lendspan.build\n\nobject Versions {\n"
    '    const val NAME = "1.2-src"\n    private const val PATCH = 9\n    const val joined = "$NAME.$PATCH"\n}\n',
    "buildSrc/src/main/kotlin/Config.kt": 'object Config {\n    object App {\n        val name: String = "1.2-nested"\n    }\n}\n',
    "buildSrc/src/main/java/Consts.java": 'public final class Consts {\n    public static final String VERSION = "1.2-java";\n}\n',
    "build-logic/src/main/kotlin/Logic.kt": 'object Logic { const val version = "1.2-logic" }\n',
}


@pytest.mark.parametrize(("path", "head", "expression", "wanted"), GRADLE)
def test_gradle_values(tmp_path: Path, path: str, head: str, expression: str, wanted: str | None) -> None:
    """A value that can be followed is resolved to its literals; any other is reported, never guessed."""
    kotlin = path.endswith(".kts")
    plugin = 'plugins { id("com.android.application") }' if kotlin else "apply plugin: 'com.android.application'"
    gap = "" if expression.startswith(".") else " "
    equals = "=" if kotlin else ""
    files(
        tmp_path,
        {
            **AROUND,
            path: f'{plugin}\n{head}\nandroid {{\n  namespace {equals} "a.b"\n  defaultConfig {{\n    applicationId {equals} "a.b"\n'
            f"    versionName{gap}{expression}\n  }}\n}}\n",
        },
    )
    survey = take_survey(Tree.open(tmp_path))
    value = survey.apps[0].version
    assert (value.text if value else None) == wanted
    faults = [item for item in survey.unresolved if item.facet == "version.name"]
    assert bool(faults) == (wanted is None)
    assert all(item.file == path and item.line > 1 and item.reason for item in faults)
    if value is not None:
        literals = "".join((tmp_path / p.place.file).read_text()[p.place.start : p.place.end] for p in value.pieces if p.place)
        assert all(part in wanted for part in literals.split(".")) and value.text == wanted
        # Renaming writes where the value is owned, and reads back: no copy of it is left behind.
        plan = plan_rename(survey, Wish(version="7.8"))
        again = take_survey(applied(survey.tree, plan.changes)).apps[0].version
        assert again is not None and again.text == "7.8" and plan.changes


PBX = """// !$*UTF8*$!
{ objects = {
  P = { isa = PBXProject; buildConfigurationList = PL; mainGroup = G; targets = (T); };
  G = { isa = PBXGroup; children = (X, I, Y); sourceTree = "<group>"; };
  Y = { isa = PBXFileReference; path = Project.xcconfig; sourceTree = "<group>"; };
  X = { isa = PBXFileReference; path = Target.xcconfig; sourceTree = "<group>"; };
  I = { isa = PBXFileReference; path = Info.plist; sourceTree = "<group>"; };
  PL = { isa = XCConfigurationList; buildConfigurations = (PR); };
  PR = { isa = XCBuildConfiguration; name = Release; baseConfigurationReference = Y; buildSettings = { BASE = org.lendspan; LEVEL = project; BOTH = project; }; };
  T = { isa = PBXNativeTarget; name = "Lend Span"; buildConfigurationList = TL; buildPhases = (); dependencies = ();
        productType = "com.apple.product-type.application"; };
  TL = { isa = XCConfigurationList; buildConfigurations = (TR); defaultConfigurationName = Release; };
  TR = { isa = XCBuildConfiguration; name = Release; baseConfigurationReference = X; buildSettings = {
    %s
    INFOPLIST_FILE = Info.plist; }; };
}; rootObject = P; }
"""
XCCONFIG = """#include "Base.xcconfig"
#include? "Missing.xcconfig"
LEVEL = target-file
FROM_FILE = $(BASE).file
LOOP = $(LOOP2)
LOOP2 = $(LOOP)
SDK[sdk=iphoneos*] = device
SDK[sdk=iphonesimulator*] = simulator
CONF[config=Debug] = debug
CONF[config=Release] = release
SPACED   =    org.spaced   // a comment
SEMI = org.semi;
EMPTY =
NAMED = all
NAMED[config=Release] = config
ARCHED[arch=arm64] = arm
TWO[sdk=iphoneos*][arch=arm64] = both
WILD[sdk=*] = any
WILD[sdk=iphoneos*] = device
"""
PROJECT_XCCONFIG = "ONLY_PROJECT_FILE = project-file\nBOTH = project-file\nLEVEL = project-file\n"
# build settings of the target, resolved bundle ID (None: unresolved)
SETTINGS = [
    ("PRODUCT_BUNDLE_IDENTIFIER = org.lendspan.app;", "org.lendspan.app"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "org.lendspan.my-app";', "org.lendspan.my-app"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "$(BASE).app";', "org.lendspan.app"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "${BASE}.app";', "org.lendspan.app"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "$(FROM_FILE)";', "org.lendspan.file"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "$(INCLUDED).x";', "org.included.x"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.$(LEVEL)";', "a.target-file"),
    ('LEVEL = target; PRODUCT_BUNDLE_IDENTIFIER = "a.$(LEVEL)";', "a.target"),
    ('LEVEL = "$(inherited).more"; PRODUCT_BUNDLE_IDENTIFIER = "a.$(LEVEL)";', "a.target-file.more"),
    ('BASE = "$(inherited).own"; PRODUCT_BUNDLE_IDENTIFIER = "$(BASE)";', "org.lendspan.own"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.$(PRODUCT_NAME:rfc1034identifier)";', "a.Lend-Span"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.$(PRODUCT_NAME:c99extidentifier:lower)";', "a.lend_span"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.$(TARGET_NAME:rfc1034identifier:upper)";', "a.LEND-SPAN"),
    ('PRODUCT_NAME = Other; PRODUCT_BUNDLE_IDENTIFIER = "a.$(PRODUCT_NAME)";', "a.Other"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.$(NOTHING:default=b)";', "a.b"),
    ('WHICH = BASE; PRODUCT_BUNDLE_IDENTIFIER = "$($(WHICH)).c";', "org.lendspan.c"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.$(SDK)";', "a.device"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.$(CONF)";', "a.release"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.$(CONFIGURATION:lower)";', "a.release"),
    ('PRODUCT_BUNDLE_IDENTIFIER = a.x; "PRODUCT_BUNDLE_IDENTIFIER[sdk=iphoneos*]" = a.device;', "a.device"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.$(NOTHING)";', None),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.$(DEVELOPMENT_TEAM)";', None),
    ('PRODUCT_BUNDLE_IDENTIFIER = "$(LOOP)";', None),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.${LEVEL}";', "a.target-file"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "$(BASE).${LEVEL}.x";', "org.lendspan.target-file.x"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "$(DEEP)";', "org.deep.x"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "$(SPACED)";', "org.spaced"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "$(SEMI)";', "org.semi"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.$(ONLY_PROJECT_FILE)";', "a.project-file"),
    ('ONLY_PROJECT_FILE = "$(inherited)-t"; PRODUCT_BUNDLE_IDENTIFIER = "a.$(ONLY_PROJECT_FILE)";', "a.project-file-t"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.$(BOTH)";', "a.project"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.$(NAMED)";', "a.config"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.$(ARCHED)";', "a.arm"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.$(TWO)";', "a.both"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.$(WILD)";', "a.device"),
    ('X = 1; Y = "$(X)$(X)"; PRODUCT_BUNDLE_IDENTIFIER = "a.b$(Y)";', "a.b11"),
    ('X = "$(Y)"; Y = z; PRODUCT_BUNDLE_IDENTIFIER = "a.$(X)";', "a.z"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.$(PROJECT_NAME)";', "a.A"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.$(TARGET_NAME:identifier)";', "a.Lend_Span"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.$(TARGET_NAME:c99extidentifier)";', "a.Lend_Span"),
    ('PRODUCT_NAME = "1 x"; PRODUCT_BUNDLE_IDENTIFIER = "a.$(PRODUCT_NAME:c99extidentifier)";', "a._1_x"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.$(BASE:upper:lower)";', "a.org.lendspan"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.$(EMPTY:default=d)";', "a.d"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.b$(EMPTY)";', "a.b"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.$(BASE:default=d)";', "a.org.lendspan"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.$(PRODUCT_NAME:rfc1034identifier:lower)";', "a.lend-span"),
    ('WHICH = AS; PRODUCT_BUNDLE_IDENTIFIER = "$(B$(WHICH)E).c";', "org.lendspan.c"),
    ('PRODUCT_NAME = "$(TARGET_NAME)"; PRODUCT_BUNDLE_IDENTIFIER = "a.$(PRODUCT_NAME:rfc1034identifier)";', "a.Lend-Span"),
    ('PRODUCT_NAME = "Zo\\U00eb"; PRODUCT_BUNDLE_IDENTIFIER = "a.$(PRODUCT_NAME:rfc1034identifier)";', "a.Zo-"),
    ('"PRODUCT_BUNDLE_IDENTIFIER[config=Debug]" = a.debug; PRODUCT_BUNDLE_IDENTIFIER = a.all;', "a.all"),
    ('"PRODUCT_BUNDLE_IDENTIFIER[sdk=macosx*]" = a.mac; PRODUCT_BUNDLE_IDENTIFIER = a.phone;', "a.phone"),
    ('PRODUCT_BUNDLE_IDENTIFIER = "a.$(DEVELOPMENT_TEAM).b";', None),
    ('PRODUCT_BUNDLE_IDENTIFIER = "$(A";', "$(A"),
]


@pytest.mark.parametrize(("settings", "wanted"), SETTINGS)
def test_build_settings(tmp_path: Path, settings: str, wanted: str | None) -> None:
    """Levels, references, operators, conditions and includes resolve as Xcode resolves them."""
    files(
        tmp_path,
        {
            "A.xcodeproj/project.pbxproj": PBX % settings,
            "Target.xcconfig": XCCONFIG,
            "Base.xcconfig": '#include "deep/Deep.xcconfig"\nINCLUDED = org.included // comment\nLEVEL = included\n',
            "deep/Deep.xcconfig": '#include "../Deeper.xcconfig"\n',
            "Deeper.xcconfig": "DEEP = org.deep.x\n",
            "Project.xcconfig": PROJECT_XCCONFIG,
            "Info.plist": '<plist version="1.0"><dict><key>CFBundleName</key><string>$(PRODUCT_NAME)</string></dict></plist>',
        },
    )
    survey = take_survey(Tree.open(tmp_path))
    value = survey.apps[0].id
    assert (value.text if value else None) == wanted
    assert any(item.facet == "ios.bundle-id" for item in survey.unresolved) == (wanted is None)
    # A new ID is written so that it resolves to itself, whatever the old one was made of.
    plan = plan_rename(survey, Wish(ios_id="x.y-z"))
    again = take_survey(applied(survey.tree, plan.changes)).apps[0].id
    assert again is not None and again.text == "x.y-z"


SPELLED = ["{}", "./{}", "$(SRCROOT)/{}", "${SRCROOT}/{}", "$(PROJECT_DIR)/{}", "$(SOURCE_ROOT)/App/../{}", "{root}/{}", '"{}"']


@pytest.mark.parametrize("folder", ["", "ios/"])
@pytest.mark.parametrize("spelled", SPELLED)
def test_a_file_that_settings_name(tmp_path: Path, spelled: str, folder: str) -> None:
    """However a setting spells its path: one flavor's value is not written into a list of all, and a missing list is told."""
    root = tmp_path / "x"
    names = [f"{type_}-{brand}" for brand in ("alderbank", "mossgate") for type_ in ("Debug", "Release")]

    def path(name: str) -> str:
        return spelled.replace("{root}", str(root / folder.rstrip("/"))).replace("{}", f"App/{name}")

    settings = {"PRODUCT_NAME": "Lend", "INFOPLIST_FILE": path("Info.plist"), "CODE_SIGN_ENTITLEMENTS": path("App.entitlements")}
    own = {name: {"PRODUCT_BUNDLE_IDENTIFIER": f"org.lendspan.{name.partition('-')[2]}", **settings} for name in names}
    described = 'format = 1\n[values.server]\nplaces = [{ %s = "Server" }]\n[flavors.alderbank.values]\nserver = "https://alderbank.org"\n'
    lists = {f"{folder}App/{name}": plist({"CFBundleDisplayName": "Lend", "Server": "https://old"}) for name in ("Info.plist", "App.entitlements")}
    project = {f"{folder}Lend.xcodeproj/project.pbxproj": pbxproj(names, {"SDKROOT": "iphoneos"}, {"Lend": ("app", own)})}
    for place, name in (("plist", "Info.plist"), ("entitlement", "App.entitlements")):
        files(root, {**project, **lists, NAME: described % place})
        before = snapshot(root)
        done = onomaxis("stamp", root, "--flavor", "alderbank", "--allow-dirty")
        assert done.code == 3 and f"{folder}App/{name}" in done.err and snapshot(root) == before, done.err
    (root / folder / "App/App.entitlements").unlink()
    told = [item["message"] for item in onomaxis("check", root, "--json").json["findings"] if "there is no file" in item["message"]]
    assert bool(told) is ("{root}" not in spelled), told  # a whole path is of somebody's machine
