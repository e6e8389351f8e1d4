"""Where identity lives in each kind of project: small trees, and what the survey says of them."""

from __future__ import annotations

import plistlib
from pathlib import Path

import pytest

from conftest import files, memory
from onomaxis.errors import OnomaxisError
from onomaxis.model import ShippedApp
from onomaxis.projects.android.resources import locale_of, qualifier_of
from onomaxis.rename.rename import plan_rename
from onomaxis.surveys.survey import Survey, take_survey
from onomaxis.tree import Tree
from onomaxis.wishes import Wish
from onomaxis.writing.change import applied
from xcode import pbxproj

NS = 'xmlns:android="http://schemas.android.com/apk/res/android"'
MAIN = '<intent-filter {}><action android:name="android.intent.action.MAIN"/><category android:name="android.intent.category.LAUNCHER"/></intent-filter>'
SCRIPT = "apply plugin: 'com.android.application'\nandroid {{\n  namespace 'a.b'\n  defaultConfig {{ applicationId 'a.b'\n{} }}\n{}\n}}\n"


def values(**strings: str) -> str:
    return "<resources>" + "".join(f'<string name="{k}">{v}</string>' for k, v in strings.items()) + "</resources>"


def android(root: Path, application: str, extra: dict[str, str | bytes] | None = None, default: str = "", more: str = "") -> Survey:
    """Survey a small Android project whose manifest holds *application*."""
    files(
        root,
        {
            "settings.gradle": "include ':app'\n",
            "app/build.gradle": SCRIPT.format(default, more),
            "app/src/main/AndroidManifest.xml": f"<manifest {NS}>{application}</manifest>",
            **(extra or {}),
        },
    )
    return take_survey(Tree.open(root))


def only(survey: Survey) -> ShippedApp:
    assert len(survey.apps) == 1
    return survey.apps[0]


LABEL = "<application android:label={}>{}</application>"
MAIN_VALUES, FR = "app/src/main/res/values/s.xml", "app/src/main/res/values-fr/s.xml"
# how the name is given: application element, extra files, lines of defaultConfig, lines of android; name, file of its owner
NAMES: list[tuple[str, dict[str, str], str, str, str | None, str]] = [
    (LABEL.format('"Lend"', ""), {}, "", "", "Lend", "AndroidManifest.xml"),
    (LABEL.format("'@string/n'", ""), {MAIN_VALUES: values(n="Lend")}, "", "", "Lend", "s.xml"),
    (LABEL.format('"@string/n"', ""), {MAIN_VALUES: values(n="@string/m", m="@string/k", k="Lend")}, "", "", "Lend", "s.xml"),
    (LABEL.format('"${label}"', ""), {}, "manifestPlaceholders = [label: 'Lend']", "", "Lend", "build.gradle"),
    (LABEL.format('"${label}"', ""), {}, "manifestPlaceholders['label'] = 'Lend'", "", "Lend", "build.gradle"),
    (LABEL.format('"${label}"', ""), {MAIN_VALUES: values(n="Lend")}, "manifestPlaceholders = [label: '@string/n']", "", "Lend", "s.xml"),
    (LABEL.format('"${label}"', ""), {}, "", "", None, ""),
    (LABEL.format('"@string/n"', ""), {}, "resValue 'string', 'n', 'Lend'", "", "Lend", "build.gradle"),
    (LABEL.format('"@string/n"', ""), {}, "", "", None, ""),
    (LABEL.format('"App"', f'<activity android:label="Lend">{MAIN.format("")}</activity>'), {}, "", "", "App", "AndroidManifest.xml"),
    (LABEL.format('"App"', "<activity>" + MAIN.format('android:label="Lend"') + "</activity>"), {}, "", "", "App", "AndroidManifest.xml"),
    (LABEL.format('"App"', f'<activity/><activity-alias android:label="Lend">{MAIN.format("")}</activity-alias>'), {}, "", "", "App", "AndroidManifest.xml"),
    (LABEL.format('"@string/n"', ""), {MAIN_VALUES: values(n="Old"), "app/src/release/res/values/s.xml": values(n="Lend")}, "", "", "Lend", "s.xml"),
    (LABEL.format('"@string/n"', ""), {"app/other/values/s.xml": values(n="Lend")}, "", "sourceSets { main { res.srcDirs = ['other'] } }", "Lend", "s.xml"),
    (LABEL.format('"@string/n"', ""), {MAIN_VALUES: values(n="<b>Lend</b>")}, "", "", "Lend", "s.xml"),
    (LABEL.format('"@string/n"', ""), {MAIN_VALUES: values(n="It\\'s \\u004Cend")}, "", "", "It's Lend", "s.xml"),
]


@pytest.mark.parametrize(("application", "extra", "default", "more", "name", "owner"), NAMES)
def test_where_an_android_name_comes_from(
    tmp_path: Path, application: str, extra: dict[str, str], default: str, more: str, name: str | None, owner: str
) -> None:
    """The launcher's label is followed to the place that owns it, and renaming there reads back; else it is refused."""
    survey = android(tmp_path, application, dict(extra), default, more)
    app = only(survey)
    assert (app.name.text if app.name else None) == name
    if name:
        assert app.name is not None and app.name.origin.file.endswith(owner)
        plan = plan_rename(survey, Wish(name='Zoë & "x"'))
        assert [change.target for change in plan.changes] == [app.name.origin.file]
    else:
        assert any(item.facet == "name.display" for item in survey.unresolved)
        with pytest.raises(OnomaxisError):
            plan_rename(survey, Wish(name="New"))


def test_localized_names_and_qualifiers(tmp_path: Path) -> None:
    """Languages are told from other qualifiers; a name in a language is changed or added there alone."""
    table = {
        "de": "de",
        "pt-rBR": "pt-BR",
        "b+sr+Latn": "sr-Latn",
        "mcc310-en": "en",
        "night": "",
        "v21": "",
        "sw600dp": "",
        "fil": "fil",
        "en-rGB-land": "en-GB",
    }
    assert {key: locale_of(key) for key in table} == table
    assert [qualifier_of(tag) for tag in ("de", "pt-BR", "sr-Latn", "zh-Hant-TW")] == ["de", "pt-rBR", "b+sr+Latn", "b+zh+Hant+TW"]
    survey = android(
        tmp_path,
        LABEL.format('"@string/n"', ""),
        {MAIN_VALUES: values(n="Lend"), FR: values(n="Prêt", x="y"), "app/src/main/res/values-night/s.xml": values(n="Lend")},
    )
    assert [(tag, value.text) for tag, value in only(survey).names] == [("fr", "Prêt")]
    plan = plan_rename(survey, Wish(name="New", names=(("fr", "Neuf"), ("es", "Nuevo"))))
    after = {change.target: change.after for change in plan.changes}
    assert b">Neuf<" in (after[FR] or b"") and b">y<" in (after[FR] or b"")
    assert b">Nuevo<" in (after["app/src/main/res/values-es/strings.xml"] or b"")
    assert b">New<" in (after["app/src/main/res/values-night/s.xml"] or b"")


LAYOUTS = {
    "catalog alias": (
        {
            "app/build.gradle.kts": 'plugins { alias(libs.plugins.app.android) }\nandroid { namespace = "a.b"; defaultConfig { applicationId = "a.b" } }',
            "gradle/libs.versions.toml": '[plugins]\napp-android = { id = "com.android.application", version = "8" }\n',
        },
        "a.b",
    ),
    "convention plugin": (
        {"app/build.gradle.kts": 'plugins { id("org.lendspan.convention") }\nandroid { namespace = "a.b"; defaultConfig { applicationId = "a.c" } }'},
        "a.c",
    ),
    "dotted path": (
        {"app/build.gradle.kts": 'plugins { id("com.android.application") }\nandroid.namespace = "a.b"\nandroid.defaultConfig.applicationId = "a.d"'},
        "a.d",
    ),
    "configure extension": (
        {
            "app/build.gradle.kts": 'plugins { id("com.android.application") }\nconfigure<ApplicationExtension> { namespace = "a.b"\n defaultConfig { applicationId = "a.e" } }'
        },
        "a.e",
    ),
    "namespace alone": ({"app/build.gradle.kts": 'plugins { id("com.android.application") }\nandroid { namespace = "a.f" }'}, "a.f"),
    "manifest package": (
        {
            "app/build.gradle": "apply plugin: 'com.android.application'\nandroid { }",
            "app/src/main/AndroidManifest.xml": f'<manifest {NS} package="a.g"><application android:label="X"/></manifest>',
        },
        "a.g",
    ),
    "multiplatform": (
        {
            "app/build.gradle.kts": 'plugins { id("com.android.application") }\nandroid { namespace = "a.h" }',
            "app/src/androidMain/AndroidManifest.xml": f'<manifest {NS}><application android:label="X"/></manifest>',
        },
        "a.h",
    ),
    "set in a branch": (
        {"app/build.gradle": "apply plugin: 'com.android.application'\nandroid { namespace 'a.b'\n if (x) { defaultConfig { applicationId 'a.i' } } }"},
        None,
    ),
    "suffix of the release": (
        {
            "app/build.gradle": "apply plugin: 'com.android.application'\nandroid { namespace 'a.b'\n defaultConfig { applicationId 'a.b' }\n buildTypes { release { applicationIdSuffix 'pro' } } }"
        },
        "a.b.pro",
    ),
}


@pytest.mark.parametrize("layout", list(LAYOUTS))
def test_layouts_of_android_projects(tmp_path: Path, layout: str) -> None:
    """Plug-ins by alias or convention, dotted settings, extensions, old manifests, other source sets."""
    contents, wanted = LAYOUTS[layout]
    files(tmp_path, {"settings.gradle": "include ':app'\n", **contents})
    app = only(take_survey(Tree.open(tmp_path)))
    assert (app.id.text if app.id else None) == wanted
    if layout in ("multiplatform", "manifest package"):
        assert app.name is not None and app.name.text == "X"


PROJECT = """{{ objects = {{
  P = {{ isa = PBXProject; buildConfigurationList = PL; mainGroup = G; targets = (T, W); }};
  G = {{ isa = PBXGroup; children = (S, V); sourceTree = "<group>"; }};
  S = {{ isa = PBXFileSystemSynchronizedRootGroup; path = App; sourceTree = "<group>"; }};
  V = {{ isa = PBXVariantGroup; name = InfoPlist.strings; children = (VD); sourceTree = "<group>"; }};
  VD = {{ isa = PBXFileReference; name = de; path = Lang/de.lproj/InfoPlist.strings; sourceTree = "<group>"; }};
  PL = {{ isa = XCConfigurationList; buildConfigurations = (PR); }};
  PR = {{ isa = XCBuildConfiguration; name = Release; buildSettings = {{ }}; }};
  T = {{ isa = PBXNativeTarget; name = App; buildConfigurationList = TL; buildPhases = (R, E); dependencies = ();
        fileSystemSynchronizedGroups = (S); productReference = TP; productType = "com.apple.product-type.application"; }};
  R = {{ isa = PBXResourcesBuildPhase; files = (RB); }}; RB = {{ isa = PBXBuildFile; fileRef = V; }};
  E = {{ isa = PBXCopyFilesBuildPhase; files = (EB); }}; EB = {{ isa = PBXBuildFile; fileRef = WP; }};
  TL = {{ isa = XCConfigurationList; buildConfigurations = (TR); }};
  TR = {{ isa = XCBuildConfiguration; name = Release; baseConfigurationReferenceAnchor = S;
         baseConfigurationReferenceRelativePath = App.xcconfig; buildSettings = {{ {settings} }}; }};
  W = {{ isa = PBXNativeTarget; name = Widget; buildConfigurationList = WL; buildPhases = (); dependencies = ();
        productReference = WP; productType = "com.apple.product-type.app-extension"; }};
  WL = {{ isa = XCConfigurationList; buildConfigurations = (WR); }};
  WR = {{ isa = XCBuildConfiguration; name = Release; buildSettings = {{ PRODUCT_BUNDLE_IDENTIFIER = "a.b.widget"; MARKETING_VERSION = 1.0; }}; }};
}}; rootObject = P; }}
"""


def plist(**entries: str) -> str:
    body = "".join(f"<key>{k}</key><string>{v}</string>" for k, v in entries.items())
    return f'<plist version="1.0"><dict>{body}</dict></plist>'


OWN = {"PRODUCT_BUNDLE_IDENTIFIER": "org.lendspan.app", "PRODUCT_NAME": "Lend", "INFOPLIST_FILE": "App/Info.plist"}


@pytest.mark.parametrize(
    ("settings", "platform"),
    [
        ({"SDKROOT": "macosx"}, "macos"), ({"SDKROOT": "macosx10.15"}, "macos"), ({"SDKROOT": "/Developer/SDKs/MacOSX10.5.sdk"}, "macos"),
        ({"SDKROOT": "auto", "SUPPORTED_PLATFORMS": "macosx"}, "macos"), ({"MACOSX_DEPLOYMENT_TARGET": "11.0"}, "macos"), ({"SDKROOT": "iphoneos13.0"}, "ios"), ({}, "ios"),
        ({"MACOSX_DEPLOYMENT_TARGET": "11.0", "IPHONEOS_DEPLOYMENT_TARGET": "15.0"}, "ios"), ({"SDKROOT": "appletvos17.2"}, "tvos"), ({"SDKROOT": "xros"}, "visionos"),
    ],
)  # fmt: skip
def test_what_an_apple_app_runs_on(settings: dict[str, str], platform: str) -> None:
    """By its SDK, in the spellings of old projects too; a list that is empty and closed in one tag takes a name."""
    lists = {"App/Info.plist": '<?xml version="1.0"?>\n<plist version="1.0">\n<dict/>\n</plist>\n'}
    tree = memory({"L.xcodeproj/project.pbxproj": pbxproj(["Debug", "Release"], settings, {"Lend": ("app", {"*": OWN})}), **lists})
    survey = take_survey(tree)
    assert [app.platform for app in survey.apps] == [platform]
    later = applied(tree, plan_rename(survey, Wish(name="Shed")).changes)
    assert plistlib.loads(later.read("App/Info.plist") or b"") == {"CFBundleDisplayName": "Shed"}


def test_copies_of_a_widgets_configuration_are_no_apps() -> None:
    """Beside an app's property list, among Android's resources, or without an ID; the one of the project itself is one."""
    widget = '<widget id="org.lendspan.app" version="1.2.0" xmlns="http://www.w3.org/ns/widgets"><name>Lend</name></widget>'
    native = {
        "ios/App.xcodeproj/project.pbxproj": pbxproj(["Release"], {"SDKROOT": "iphoneos"}, {"App": ("app", {"*": OWN})}),
        "ios/App/Info.plist": "<plist><dict></dict></plist>",
    }
    for path, text, number in (
        ("ios/App/config.xml", widget, 1),
        ("web/config.xml", widget.replace(' id="org.lendspan.app"', ""), 1),
        ("app/src/main/res/xml/config.xml", widget, 1),
        ("web/config.xml", widget, 3),
    ):
        assert len(take_survey(memory({**native, path: text})).apps) == number, path
