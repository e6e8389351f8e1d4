"""What expressions come to: Gradle scripts and Xcode build settings, as tables."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import files
from onomaxis.survey.survey import take_survey
from onomaxis.tree import Tree

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
    (GROOVY, "def v() { '1.2' }", "v()", None),
    (GROOVY, "if (x) {\n  ext.v = '1'\n} else {\n  ext.v = '2'\n}", "v", None),
    (GROOVY, "def v = v", "v", None),
    (KOTLIN, "", '= if (x) "1" else "2"', None),
    (KOTLIN, "", "= undefinedName", None),
    (KOTLIN, "", "= libs.versions.nothing.get()", None),
]


@pytest.mark.parametrize(("path", "head", "expression", "wanted"), GRADLE)
def test_gradle_values(tmp_path: Path, path: str, head: str, expression: str, wanted: str | None) -> None:
    """A value that can be followed is resolved to its literals; any other is reported, never guessed."""
    kotlin = path.endswith(".kts")
    plugin = 'plugins { id("com.android.application") }' if kotlin else "apply plugin: 'com.android.application'"
    gap = "" if expression.startswith(".") else " "
    equals = "=" if kotlin else ""
    files(tmp_path, {
        "settings.gradle": 'include ":app"\n',
        "gradle.properties": "from.file=1.2-file\n",
        "gradle/libs.versions.toml": '[versions]\napp-version = "1.2-catalog"\n',
        "build.gradle": "apply from: 'more.gradle'\next {\n  rootVersion = '1.2-root'\n}\n",
        "more.gradle": "ext.appliedVersion = '1.2-applied'\n",
        path: f'{plugin}\n{head}\nandroid {{\n  namespace {equals} "a.b"\n  defaultConfig {{\n    applicationId {equals} "a.b"\n'
              f"    versionName{gap}{expression}\n  }}\n}}\n",
    })  # fmt: skip
    survey = take_survey(Tree.open(tmp_path))
    value = survey.apps[0].version
    assert (value.text if value else None) == wanted
    faults = [item for item in survey.unresolved if item.facet == "version.name"]
    assert bool(faults) == (wanted is None)
    assert all(item.file == path and item.line > 1 and item.reason for item in faults)
    if value is not None:
        literals = "".join((tmp_path / p.place.file).read_text()[p.place.start : p.place.end]
                           for p in value.pieces if p.place)  # fmt: skip
        assert all(part in wanted for part in literals.split(".")) and value.text == wanted


PBX = """// !$*UTF8*$!
{ objects = {
  P = { isa = PBXProject; buildConfigurationList = PL; mainGroup = G; targets = (T); };
  G = { isa = PBXGroup; children = (X, I); sourceTree = "<group>"; };
  X = { isa = PBXFileReference; path = Target.xcconfig; sourceTree = "<group>"; };
  I = { isa = PBXFileReference; path = Info.plist; sourceTree = "<group>"; };
  PL = { isa = XCConfigurationList; buildConfigurations = (PR); };
  PR = { isa = XCBuildConfiguration; name = Release; buildSettings = { BASE = org.lendspan; LEVEL = project; }; };
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
"""
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
]


@pytest.mark.parametrize(("settings", "wanted"), SETTINGS)
def test_build_settings(tmp_path: Path, settings: str, wanted: str | None) -> None:
    """Levels, references, operators, conditions and includes resolve as Xcode resolves them."""
    files(tmp_path, {
        "A.xcodeproj/project.pbxproj": PBX % settings,
        "Target.xcconfig": XCCONFIG,
        "Base.xcconfig": "INCLUDED = org.included // comment\nLEVEL = included\n",
        "Info.plist": '<plist version="1.0"><dict><key>CFBundleName</key><string>$(PRODUCT_NAME)</string></dict></plist>',
    })  # fmt: skip
    survey = take_survey(Tree.open(tmp_path))
    value = survey.apps[0].id
    assert (value.text if value else None) == wanted
    assert any(item.facet == "ios.bundle-id" for item in survey.unresolved) == (wanted is None)
