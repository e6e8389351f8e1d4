"""Every rule of every family but the icons': one tree in which all keep silent, and for each what makes it speak."""

from __future__ import annotations

import dataclasses
import datetime
import json
import plistlib
import re
import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest

from brands import FLAVORS, MANIFEST, PLIST, project
from conftest import commit_all, files, onomaxis
from onomaxis.brands.stamp import stamp
from onomaxis.checks.context import look
from onomaxis.checks.files import tried
from onomaxis.checks.finding import Finding, Rule, all_rules, rule_called, sorted_findings, with_causes
from onomaxis.checks.inspection import judged, look_over
from onomaxis.checks.registry import Check, every_rule
from onomaxis.demo import copy_demo
from onomaxis.errors import FormatError
from onomaxis.formats.keystore import Certificate, der_of
from onomaxis.tree import Tree
from packaged import profile, signer
from test_spoils import SPEAKS
from xcode import pbxproj, standing_on

NAME, LEDGER = "onomaxis.toml", "onomaxis.ledger.csv"
PRINT = ":".join(["AB"] * 32)
HEAD = "date,platform,flavor,id,version,build,fingerprint\n"
IDS = {
    "android": {"": "org.lendspan.app", "alderbank": "org.lendspan.app.alderbank", "mossgate": "org.lendspan.mossgate"},
    "ios": {"": "org.lendspan.app", "alderbank": "org.lendspan.alderbank", "mossgate": "org.lendspan.mossgate"},
}
IDENTITY = """format = 1

[app]
id = "org.lendspan.app"
name = "Lendspan"
version = "1.2"
build = 7

[app.services]
hosts = ["go.lendspan.org"]
fingerprints = ["PRINT"]

[flavors.alderbank]
id = "org.lendspan.alderbank"
name = "Alderbank"

[flavors.alderbank.android]
id = "org.lendspan.app.alderbank"

[flavors.mossgate]
id = "org.lendspan.mossgate"
name = "Mossgate"

[app.listing.en]
title = "Lendspan"
short = "Borrow what neighbours own"

[flavors.alderbank.listing.en]
title = "Alderbank"
full = "Alderbank lends tools."

[flavors.mossgate.listing.en]
title = "Mossgate: tools"
full = "Mossgate lends tools."

[values.server]
type = "url"
value = "https://main.lendspan.org"
places = [{ setting = "SERVER" }]

[values.logo]
type = "file"
value = "brand/logo.txt"
places = [{ file = "app/src/main/assets/logo.txt" }]
""".replace("PRINT", PRINT)
LINK = """        <activity android:name=".Link" android:exported="true"><intent-filter>
            <data android:scheme="https" android:host="go.lendspan.org"/><data android:scheme="fb100200"/>
        </intent-filter></activity>
        <meta-data android:name="com.google.android.gms.ads.APPLICATION_ID" android:value="ca-app-pub-1234567890123456~1234567890"/>
        <meta-data android:name="com.facebook.sdk.ApplicationId" android:value="100200"/>
        <meta-data android:name="com.google.android.geo.API_KEY" android:value="AIza@@"/>
        <provider android:name=".Files" android:authorities="${applicationId}.files"/>
    </application>""".replace("@@", "x" * 35)
MORE = """	<key>FacebookAppID</key>
	<string>100200</string>
	<key>ITSAppUsesNonExemptEncryption</key>
	<false/>
	<key>UIBackgroundModes</key>
	<array>
		<string>remote-notification</string>
	</array>
</dict>
</plist>
"""
ENTITLEMENTS = """<?xml version="1.0" encoding="UTF-8"?>
<plist version="1.0">
<dict>
	<key>aps-environment</key>
	<string>production</string>
	<key>com.apple.developer.associated-domains</key>
	<array>
		<string>applinks:go.lendspan.org</string>
	</array>
</dict>
</plist>
"""
SCHEME = '<Scheme><ArchiveAction buildConfiguration = "Release-{}"></ArchiveAction></Scheme>\n'


def google_android(app_id: str, number: str = "1000") -> str:
    client = {"client_info": {"android_client_info": {"package_name": app_id}}}
    return json.dumps({"project_info": {"project_number": number}, "client": [client]}, indent=2)


def google_ios(app_id: str, number: str = "1000") -> str:
    return PLIST.split("<dict>")[0] + (
        f"<dict>\n<key>BUNDLE_ID</key>\n<string>{app_id}</string>\n<key>GCM_SENDER_ID</key>\n<string>{number}</string>\n"
        "<key>REVERSED_CLIENT_ID</key>\n<string>com.googleusercontent.apps.1000</string>\n</dict>\n</plist>\n"
    )


def clean() -> dict[str, str]:
    """Return a white-label project that no rule has anything to say of."""
    found = project()
    found["app/src/main/AndroidManifest.xml"] = MANIFEST.replace("    </application>", LINK)
    found["app/src/main/assets/logo.txt"] = found["brand/logo.txt"] = "a logo\n"
    found["ios/App/Info.plist"] = PLIST.replace("</dict>\n</plist>\n", MORE).replace(
        "				<string>$(LOGIN_SCHEME)</string>",
        "				<string>fb100200</string>\n				<string>com.googleusercontent.apps.1000</string>",
    )
    found["ios/App/App.entitlements"] = ENTITLEMENTS
    for flavor in FLAVORS:
        found[f"app/src/{flavor}/res/values/strings.xml"] = f'<resources><string name="app_name">{flavor.title()}</string></resources>\n'
        found[f"app/src/{flavor}/google-services.json"] = google_android(IDS["android"][flavor])
        found[f"ios/App/{flavor}/GoogleService-Info.plist"] = google_ios(IDS["ios"][flavor])
        found[f"ios/App.xcodeproj/xcshareddata/xcschemes/{flavor}.xcscheme"] = SCHEME.format(flavor)
    found["ios/App/GoogleService-Info.plist"] = google_ios(IDS["ios"][""])
    links = [{"relation": ["x"], "target": {"package_name": id_, "sha256_cert_fingerprints": [PRINT]}} for id_ in IDS["android"].values()]
    found["web/.well-known/assetlinks.json"] = json.dumps(links, indent=1)
    found["web/.well-known/apple-app-site-association"] = json.dumps(
        {"applinks": {"details": [{"appIDs": [f"ABCDE12345.{id_}" for id_ in IDS["ios"].values()]}]}}, indent=1
    )
    found[LEDGER] = HEAD + f"2026-01-02,android,mossgate,org.lendspan.mossgate,1.1,6,{PRINT}\n"
    found[NAME] = IDENTITY
    return found


PBX = "ios/App.xcodeproj/project.pbxproj"
BUILD = "app/build.gradle.kts"
MAIN = "app/src/main/AndroidManifest.xml"
INFO = "ios/App/Info.plist"
RIGHTS = "ios/App/App.entitlements"
MOSS = "app/src/mossgate/res/values/strings.xml"
# Rule, file, what is replaced (a pattern; nothing: the whole file), by what.
ROWS = [
    ("ID01", BUILD, r'applicationId = "org.lendspan.mossgate"', 'applicationIdSuffix = ".alderbank"'),
    ("ID03", BUILD, r'applicationId = "org.lendspan.mossgate"', 'applicationId = "com.example.mossgate"'),
    ("ID04", BUILD, r'applicationId = "org.lendspan.mossgate"', 'applicationId = "mossgate"'),
    ("ID05", BUILD, r'applicationId = "org.lendspan.mossgate"', "applicationId = computed()"),
    ("ID06", MAIN, r"\$\{applicationId\}.files", "org.elsewhere.files"),
    ("ID07", NAME, r'id = "org.lendspan.mossgate"', 'id = "org.lendspan.moss"'),
    ("ID08", "app/src/test/java/com/elsewhere/ExampleUnitTest.kt", "", "package com.elsewhere\n\nclass ExampleUnitTest\n"),
    ("NAME01", MAIN, r' android:label="@string/app_name"', ""),
    ("NAME02", MOSS, "Mossgate", "My Application"),
    ("NAME03", MOSS, "Mossgate", "Mossgate and all of its neighbours"),
    ("NAME04", MOSS, "Mossgate", "Moss"),
    ("NAME05", NAME, 'name = "Mossgate"', 'name = "Moss"'),
    ("NAME06", "app/src/main/res/values-de/strings.xml", "", '<resources><string name="app_name">Leihe</string></resources>\n'),
    ("NAME07", MAIN, "@string/app_name", "${shownName}"),
    ("NAME08", MOSS, "Mossgate", "Mossgate lends tools"),
    ("VERSION02", BUILD, "versionCode = 7", "versionCode = 8"),
    ("VERSION03", PBX, "MARKETING_VERSION = 1.2;", 'MARKETING_VERSION = "1.2-beta";'),
    ("VERSION04", BUILD, "versionCode = 7", "versionCode = 2200000000"),
    ("VERSION05", NAME, 'version = "1.2"', 'version = "1.3"'),
    ("VERSION06", LEDGER, ",6,", ",7,"),
    ("VERSION07", INFO, "\t<key>Theme</key>", "\t<key>CFBundleVersion</key>\n\t<string>9</string>\n\t<key>Theme</key>"),
    ("VERSION08", BUILD, "versionCode = 7\n", "\n"),
    ("VERSION09", LEDGER, "org.lendspan.mossgate", "org.lendspan.moss"),
    ("FLAVOR01", NAME, r"\Z", '\n[flavors.pennywick]\nname = "P"\n'),
    ("FLAVOR02", NAME, r"\[flavors.mossgate[\w.]*\]\n.*\n.*\n", ""),
    ("FLAVOR03", PBX, r"(?s)(APPICON_NAME = )AppIcon(;(?:(?!APPICON).)*Debug-mossgate)", r"\1Other\2"),
    ("FLAVOR04", "app/src/mossgate/assets/links.txt", "", "open org.lendspan.app.alderbank now\n"),
    ("FLAVOR05", "ios/App.xcodeproj/xcshareddata/xcschemes/mossgate.xcscheme", None, ""),
    ("FLAVOR06", MOSS, "Mossgate", "Alderbank"),
    ("FILE03", PBX, r"(?m)^\t};\n", "<<<<<<< ours\n\t};\n=======\n\t}; \n>>>>>>> theirs\n"),
    ("FLAVOR08", PBX, r"(?s)\A(.*?IDENTIFIER = )org.lendspan.mossgate;", r"\1org.stray;"),
    ("FLAVOR09", PBX, r"(?s)\A(.*?MARKETING_VERSION = 1)\.2;", r"\1.3;"),
    ("FLAVOR09", PBX, r"(?s)\A(.*?APP_NAME = )Mossgate;", r"\1Mosgate;"),
    ("SERVICE01", "app/src/mossgate/google-services.json", "org.lendspan.mossgate", "org.lendspan.moss"),
    ("SERVICE01", "ios/App/mossgate/GoogleService-Info.plist", "org.lendspan.mossgate", "org.lendspan.moss"),
    ("SERVICE02", "app/src/mossgate/google-services.json", None, ""),
    ("SERVICE02", "ios/App/mossgate/GoogleService-Info.plist", None, ""),
    ("SERVICE03", "ios/App/mossgate/GoogleService-Info.plist", "1000</string>\n<key>REV", "2000</string>\n<key>REV"),
    ("SERVICE04", INFO, "com.googleusercontent.apps.1000", "com.googleusercontent.apps.9"),
    ("SERVICE05", INFO, "fb100200", "fb100201"),
    ("SERVICE05", MAIN, 'scheme="fb100200"', 'scheme="fb1"'),
    ("SERVICE06", MAIN, "AIzax+", "YOUR_API_KEY"),
    ("SERVICE06", MAIN, "1234567890~|~1234567890", "~x"),
    ("SERVICE07", MAIN, "ca-app-pub-1234567890123456~1234567890", "ca-app-pub-3940256099942544~3347511713"),
    ("SERVICE08", "web/.well-known/assetlinks.json", "org.lendspan.mossgate", "org.lendspan.moss"),
    ("SERVICE08", "web/.well-known/apple-app-site-association", "org.lendspan.mossgate", "org.lendspan.moss"),
    ("SERVICE09", RIGHTS, r"\t<key>aps-environment</key>\n.*\n", ""),
    ("SERVICE10", RIGHTS, "go.lendspan.org", "went.lendspan.org"),
    ("SERVICE10", MAIN, "go.lendspan.org", "went.lendspan.org"),
    ("SERVICE11", "app/src/mossgate/google-services.json", "", "{ nope"),
    ("SERVICE01", NAME, r"\Z", '\n[flavors.mossgate.android.services]\ngoogle-android = "app/src/alderbank/google-services.json"\n'),
    ("SERVICE11", NAME, r"\Z", '\n[flavors.mossgate.ios.services]\ngoogle-ios = "brand/logo.txt"\n'),
    ("SERVICE13", BUILD, r"    flavorDimensions", '    buildTypes { debug { applicationIdSuffix = "debug" } }\n    flavorDimensions'),
    ("SERVICE12", NAME, r"\Z", '\n[flavors.mossgate.android.services]\ngoogle-android = "brands/none.json"\n'),
    ("VALUE01", PBX, "https://main.lendspan.org", "https://other.lendspan.org"),
    ("VALUE02", NAME, 'setting = "SERVER"', 'setting = "SERVR"'),
    ("VALUE03", NAME, r"\Z", "\n[values.days]\nvalue = 14\nplaces = [{ constant = 'days', file = 'lib/brand.dart' }]\n[flavors.mossgate.values]\ndays = 21\n"),
    ("VALUE07", NAME, r"\Z", "\n[values.limit]\ntype = 'integer'\nvalue = 'many'\n"),
    ("VALUE04", "brand/logo.txt", "a logo", "another logo"),
    ("SIGN01", BUILD, r"    flavorDimensions", "    buildTypes { release { isDebuggable = true } }\n    flavorDimensions"),
    ("SIGN01", MAIN, "<application ", '<application android:debuggable="true" '),
    ("SIGN02", BUILD, r"    flavorDimensions", '    buildTypes { release { signingConfig = signingConfigs.getByName("debug") } }\n    flavorDimensions'),
    ("SIGN03", BUILD, r"    flavorDimensions", '    signingConfigs { create("release") { storePassword = "geheim" } }\n    flavorDimensions'),
    ("SIGN04", "web/.well-known/assetlinks.json", "(?s)(mossgate.*?)AB:AB", r"\1CD:AB"),
    ("SIGN05", RIGHTS, "production", "development"),
    ("SIGN09", "profiles/mossgate.mobileprovision", "", "no profile\n"),
    ("LIST01", BUILD, "targetSdk = 35", "targetSdk = 33"),
    ("LIST02", INFO, "Scan a tool’s label.", "TODO"),
    ("LIST03", INFO, r"\t<key>ITSApp.*\n.*\n", ""),
    ("LIST04", NAME, "Mossgate: tools", "Mossgate: tools of all neighbours"),
    ("LIST04", NAME, "Borrow what neighbours own", "Borrow " + "what neighbours own " * 5),
    ("LIST05", NAME, "Mossgate: tools", "Moss: tools"),
    ("LIST06", NAME, "Mossgate lends tools", "Alderbank lends tools"),
    ("LIST07", NAME, 'full = "Mossgate lends tools."\n', ""),
    ("LIST09", NAME, 'full = "Mossgate lends tools."\n', 'full = "Mossgate lends tools."\nscreenshots = ["gone.png", "gone2.png"]\n'),
    ("LIST10", NAME, 'full = "Mossgate lends tools."\n', 'full = "Mossgate lends tools."\nstore-icon = "onomaxis.toml"\n'),
    ("LIST08", NAME, "Borrow what neighbours own", "Borrow \U0001f528"),
    ("LIST08", NAME, 'title = "Mossgate: tools"', 'title = ""'),
    ("FILE01", MAIN, "</application>", ""),
    ("FILE01", "app/src/mossgate/res/values/strings.xml", "</resources>", "</resource"),
    ("FILE01", INFO, "</dict>", ""),
    ("FILE01", PBX, "};", ""),
    ("ALLOW01", NAME, r"\Z", '\n[[allow]]\nrule = "NAME02"\nreason = "none"\n'),
]
# Listings in folders: how each store's tools lay them, what is changed in one file of a right one, what is said of whom.
LAYS = {
    "android": (
        "store/{0}/android/{1}",
        {"title.txt": "{2}: tools", "short_description.txt": "Borrow", "full_description.txt": "{2} lends.", "changelogs/7.txt": "New"},
    ),
    "plain": ("store/android/{1}", {"title.txt": "Lendspan: tools", "short_description.txt": "Borrow", "full_description.txt": "Lends."}),
    "gradle": (
        "app/src/{0}/store",
        {"texts/{1}/title.txt": "{2}", "texts/{1}/short-description.txt": "Borrow", "texts/{1}/full-description.txt": "{2} lends."}
        | {"release-notes/{1}/7.txt": "New"},
    ),
    "ios": (
        "ios/store/{0}/{1}",
        {"name.txt": "{2}", "subtitle.txt": "Borrow", "description.txt": "{2} lends.", "keywords.txt": "tools,lend", "release_notes.txt": "New"},
    ),
}
LISTED: list[tuple[str, str, str | None, tuple[str, ...]]] = [
    ("android", "mossgate/android/de-DE/title.txt", "Mossgate: Werkzeug von allen und mehr", ("LIST04", "mossgate")),
    ("android", "mossgate/android/de-DE/changelogs/7.txt", "x" * 501, ("LIST04", "mossgate")),
    ("android", "alderbank/android/de-DE/title.txt", "Alder", ("LIST05", "alderbank")),
    ("plain", "store/android/de-DE/short_description.txt", None, ("LIST07", "")),
    ("gradle", "alderbank/store/texts/fr-FR/full-description.txt", "Chez Mossgate", ("LIST06", "alderbank")),
    ("gradle", "mossgate/store/release-notes/fr-FR/7.txt", "x" * 501, ("LIST04", "mossgate")),
    ("gradle", "mossgate/store/texts/fr-FR/short-description.txt", "a\nb", ("LIST08", "mossgate")),
    ("ios", "mossgate/en-US/keywords.txt", "tools," * 17, ("LIST04", "mossgate")),
    ("ios", "mossgate/en-US/description.txt", "", ("LIST08", "mossgate")),
    ("ios", "mossgate/en-US/subtitle.txt", "\n", ()),
]


KINDS = ["listing", "flavors"]


def listed(lay: str) -> dict[str, str]:
    """A third flavor makes what most have a rule."""
    folder, texts = LAYS[lay]
    every = [(name, language) for name in ("alderbank", "mossgate", "lendspan") for language in ("en-US", "de-DE", "fr-FR")]
    return {
        f"{folder}/{file}".format(name, language): f"{text.format(name, language, name.title())}\n" for name, language in every for file, text in texts.items()
    }


@pytest.mark.parametrize("row", LISTED, ids=lambda row: row[1])
def test_a_listing_in_folders(row: tuple[str, str, str | None, tuple[str, ...]]) -> None:
    """Told by its form, judged as the identity file's is: a right one is met with silence, each fault is told of its flavor."""
    lay, place, text, said = row
    have = clean() | listed(lay)
    assert look_over(Tree.of({path: data.encode() for path, data in have.items()}), KINDS)[0] == ()
    hit = [path for path in have if place in path]
    assert hit
    have = {path: text if path in hit and text is not None else data for path, data in have.items() if path not in hit or text is not None}
    found, _ = look_over(Tree.of({path: data.encode() for path, data in have.items()}), KINDS)
    assert [(item.rule.code, item.flavor) for item in found] == [*filter(None, [said])], found


@pytest.mark.parametrize(
    ("kept", "key", "what"), [("app/", 'target = "Lender"', "Lender is named for iOS"), ("ios/", 'module = "desk"', "desk is named for Android")]
)
def test_an_app_that_lies_elsewhere_is_told_of(kept: str, key: str, what: str) -> None:
    """A platform that has no project here is nothing to stop for, and nothing to keep silent about either."""
    half = {path: data.encode() for path, data in clean().items() if path.startswith(kept) or "/" not in path}
    table = "[ios]" if "target" in key else "[android]"
    said = f"format = 1\n\n{table}\n{key}\n".encode()
    tree = Tree.of(half | {"onomaxis.toml": said})
    found = [item for item in look_over(tree, ["platforms"])[0] if item.rule.code == "PLATFORM05"]
    assert [(item.at, item.message.startswith(what)) for item in found] == [((("onomaxis.toml", 4),), True)]
    assert [note.at for note in stamp(tree).notes if note.text == found[0].message] == ["onomaxis.toml:4"]
    assert not [item for item in look_over(Tree.of(half | {"onomaxis.toml": b"format = 1\n"}), ["platforms"])[0] if item.rule.code == "PLATFORM05"]


def test_profiles_in_the_tree(tmp_path: Path) -> None:
    """Their ends by a day, whose they are by the IDs that are built; an asterisk is for all, an extension's is not a stranger."""
    ids = ["org.lendspan.app", "org.lendspan.alderbank", "org.lendspan.mossgate"]

    def kept(id_: str, **more: object) -> bytes:
        rights = {"application-identifier": f"LEND234567.{id_}", **({"get-task-allow": True} if "dev" in more else {})}
        return profile(tmp_path, Name=id_, ExpirationDate=datetime.datetime(2026, 12, 31), Entitlements=rights, **more)

    def said(on: str, have: dict[str, bytes]) -> set[tuple[str, str, str]]:
        tree = Tree.of(
            {path: data.encode() for path, data in clean().items()}
            | {f"profiles/{path}{'' if '.' in path else '.mobileprovision'}": data for path, data in have.items()}
        )
        found, _ = judged(dataclasses.replace(look(tree), on=on), ["signing"])
        return {(item.rule.code, item.flavor, item.at[0][0].rpartition("/")[2]) for item in found}

    every = {id_.rpartition(".")[2]: kept(id_) for id_ in ids}
    assert said("2026-11-30", every) == said("", every) == set()
    ends = {f"{name}.mobileprovision" for name in every}
    assert said("2026-12-01", every) == {("SIGN07", "", name) for name in ends}
    assert said("2027-01-01", every) == {("SIGN06", "", name) for name in ends}
    del every["mossgate"]
    assert {item[:2] for item in said("", every)} == {("SIGN08", "mossgate")}
    assert said("", every | {"all": kept("org.lendspan.*")}) == set()
    assert {item[:2] for item in said("", every | {"all": kept("org.lendspan.*", dev=True)})} == {("SIGN08", "mossgate")}
    assert ("SIGN08", "", "old.mobileprovision") in said("", every | {"old": kept("org.lendspan.old")})
    root, beside = files(tmp_path / "app", clean()), files(tmp_path / "beside", {"old.mobileprovision": kept("org.lendspan.old"), "notes.txt": "x"})
    named = onomaxis("check", root, "--profiles", beside, "--on", "2026-11-30", "--json").json["findings"]
    assert [item["at"][0]["file"] for item in named if item["code"] == "SIGN08"] == [f"{beside.as_posix()}/old.mobileprovision"]
    assert onomaxis("check", root, "--profiles", tmp_path / "nowhere").code == 2
    pem = signer(tmp_path)[1].read_bytes()
    mine, others = Certificate("", der_of(pem), True), signer(tmp_path, "Tools of the city")[1].read_bytes()
    after = (datetime.date.fromisoformat(mine.ends) + datetime.timedelta(1)).isoformat()
    for on, code in (("", None), (mine.ends, "SIGN07"), (after, "SIGN06")):
        assert said(on, {"own.cer": pem, "der.cer": mine.der, "tls.cer": others, "no.cer": b"x"}) == {
            (code, "", f"{name}.cer") for name in ("own", "der") if code
        }


FAMILIES = ["ids", "names", "versions", "flavors", "services", "values", "signing", "listing"]


def codes(root: Path) -> list[str]:
    """Return what the rules find; the whole program is driven by test_publishing.py."""
    found, _ = look_over(Tree.open(root), FAMILIES)
    for item in found:
        assert item.at and all(file and (root / file).exists() for file, _ in item.at), item
    return [item.rule.code for item in found]


def test_a_clean_project(tmp_path: Path) -> None:
    """Every rule is looked at, none speaks; a note that all is well."""
    root = files(tmp_path / "x", clean())
    assert codes(root) == []
    done = onomaxis("check", root, *[w for n in FAMILIES for w in ("--only", n)])
    assert (done.code, done.out.strip()) == (0, "Nothing found: the project is consistent.")


@pytest.mark.parametrize("row", ROWS, ids=lambda row: f"{row[0]}-{row[1].rpartition('/')[2]}")
def test_each_rule_speaks(tmp_path: Path, row: tuple[str, str, str | None, str]) -> None:
    """One change to the clean project makes the rule speak; the identity file can allow it, with a reason."""
    code, path, old, new = row
    contents = clean()
    if old:
        changed = re.sub(old, new.replace("\\", "\\\\") if "\\1" not in new else new, contents[path])
        assert changed != contents[path]
        contents[path] = changed
    elif old is None:
        del contents[path]
    else:
        contents[path] = new
    root = files(tmp_path / "x", contents)
    found = codes(root)
    assert code in found, found
    if code != "ALLOW01":
        text = (root / NAME).read_text() + f'\n[[allow]]\nrule = "{code}"\nreason = "meant so"\n'
        (root / NAME).write_text(text)
        assert code not in codes(root)


@pytest.mark.parametrize(
    ("code", "path", "old", "new"),
    [
        ("ID02", "ios/Lendspan.xcodeproj/project.pbxproj", r'"\$\(LENDSPAN_BASE_ID\).widget"', "org.elsewhere.widget"),
        ("VERSION01", "ios/LendspanNotices/Info.plist", r"\$\(CURRENT_PROJECT_VERSION\)", "40"),
    ],
)
def test_rules_about_embedded_products(tmp_path: Path, code: str, path: str, old: str, new: str) -> None:
    """The demo's extensions are in step with the app until one is not."""
    root = copy_demo(str(tmp_path / "x"))
    assert code not in codes(root)
    text = (root / path).read_text()
    assert re.search(old, text), text
    (root / path).write_text(re.sub(old, new, text))
    assert code in codes(root)


def test_what_is_whole_and_not_edited_is_no_fault() -> None:
    """A binary property list, a large file, an include that a later step makes: said by survey, no broken file."""
    have: dict[str, bytes] = {path: text.encode() for path, text in clean().items()}
    have[INFO] = plistlib.dumps(plistlib.loads(have[INFO]), fmt=plistlib.FMT_BINARY)
    own = {"PRODUCT_NAME": "L", "PRODUCT_BUNDLE_IDENTIFIER": "org.lendspan.secret", "INFOPLIST_FILE": "secret/Info.plist"}
    lone = pbxproj(["Release"], {"SDKROOT": "iphoneos"}, {"L": ("app", {"*": own})})
    del have[NAME]
    have["secret/L.xcodeproj/project.pbxproj"] = standing_on(lone, {"Release": "Own.xcconfig"}, 0).encode()
    have["secret/Own.xcconfig"] = b'#include "Secrets.xcconfig"\n'
    assert any("Secrets" in item.text for project in look(Tree.of(have)).projects for item in project.unresolved)
    tree = Tree.of(have)
    tree.large.add("dump.sql")
    tree.unreadable["dump.sql"] = "it is larger than what is edited"
    assert not [item for item in look_over(tree, ["ids"])[0] if item.rule.code == "FILE01"]
    tree.unreadable["app/build.gradle.kts"] = "Permission denied"
    assert [item.at for item in look_over(tree, ["ids"])[0] if item.rule.code == "FILE01"] == [(("app/build.gradle.kts", 0),)]


def test_a_rule_that_fails_is_named_and_ends_nothing() -> None:
    """Its codes and where it failed, and nothing of what the file says; what it found before and what others find stays."""
    context = look(Tree.of({path: text.encode() for path, text in clean().items()}))

    def failing(_: object) -> Iterator[Finding]:
        yield Finding(rule, "found before", ((BUILD, 1),))
        raise ValueError("geheim")

    rule = every_rule()[-1]
    before, last = tried(Check((rule,), failing), context)
    assert before.message == "found before" and last.rule.code == "FILE02"
    assert last.message.startswith(f"{rule.code}: ValueError in failing (test_checks.py:") and "geheim" not in last.message

    def refusing(_: object) -> Iterator[Finding]:
        raise FormatError("no text", file=BUILD, line=3)

    (found,) = tried(Check((rule,), refusing), context)
    assert (found.rule.code, found.message, found.at) == ("FILE01", "no text", ((BUILD, 3),))


def test_every_rule_has_a_row() -> None:
    """No rule stands without a test that makes it speak."""
    rules = {rule.code for rule in every_rule() if rule.family != "icons"}
    elsewhere = {
        "FILE02",
        "FLAVOR07",
        "FLAVOR14",
        "VALUE05",
        "VALUE06",
        "VALUE08",
        "ID02",
        "ID10",
        "NAME10",
        "VERSION01",
        "VERSION10",
        "ALLOW02",
        "REF14",
        "SERVICE14",
        "PLATFORM05",
        "SIGN06",
        "SIGN07",
        "SIGN08",
        *SPEAKS,
    }  # in tests of their own
    assert rules == {row[0] for row in ROWS} | elsewhere


@pytest.mark.parametrize("rule", all_rules().values(), ids=lambda rule: rule.code)
def test_every_rule_is_explained(rule: Rule) -> None:
    """A fault as it stands in a file, and something else that mends it; the rule's own words beside them."""
    assert rule_called(rule.code.lower()) == rule and rule.fault and rule.mend and rule.fault != rule.mend


def test_a_rule_explained_by_the_program(tmp_path: Path) -> None:
    """No project is needed; a rule that there is not is a usage error with the nearest one."""
    done = onomaxis("check", "--explain", "REF07", cwd=tmp_path)
    assert done.code == 0 and all(word in done.out for word in ("REF07", "watch app", "source", "fault", "mend"))
    assert onomaxis("check", "--explain", "REF07", "--json", cwd=tmp_path).json["code"] == "REF07"
    wrong = onomaxis("check", "--explain", "REF7", cwd=tmp_path)
    assert wrong.code == 2 and "Did you mean REF" in wrong.err


def test_a_revision_that_a_clone_lacks(tmp_path: Path) -> None:
    """A partial clone is told so; nothing is fetched, whatever command its configuration names for that."""
    root = files(tmp_path / "whole", clean())
    commit_all(root)
    subprocess.run(["git", "-C", root, "config", "uploadpack.allowFilter", "true"], check=True)
    part = tmp_path / "part"
    subprocess.run(["git", "clone", "-q", "--no-checkout", "--filter=blob:none", root.as_uri(), part], check=True)
    files(part, clean())
    subprocess.run(["git", "-C", part, "config", "remote.origin.uploadpack", f"touch {tmp_path / 'ran'}; git-upload-pack"], check=True)
    done = onomaxis("check", part, "--since", "HEAD")
    assert done.code == 2 and "HEAD" in done.err and not (tmp_path / "ran").exists()


def test_only_what_is_new_since_a_revision(tmp_path: Path) -> None:
    """What was found before stays unsaid, wherever it moved in its file; what is new ends with code 1."""
    contents = clean()
    contents[MOSS] = contents[MOSS].replace("Mossgate", "My Application")
    root = files(tmp_path / "x", contents)
    commit_all(root)
    assert onomaxis("check", root, "--publish", *ONLY).code == 1
    (root / MOSS).write_text("<!-- moved -->\n\n" + (root / MOSS).read_text())
    done = onomaxis("check", root, "--publish", "--since", "HEAD", *ONLY)
    assert done.code == 0 and re.fullmatch(r"Nothing new since HEAD; \d findings known before", done.out.strip())
    path = root / "app/src/mossgate/google-services.json"
    path.write_text(path.read_text().replace("org.lendspan.mossgate", "org.lendspan.moss"))
    done = onomaxis("check", root, "--publish", "--since", "HEAD", "--json", *ONLY)
    assert done.code == 1 and [item["code"] for item in done.json["findings"]] == ["SERVICE01"]
    for revision in ("nope", "--output=x"):
        assert onomaxis("check", root, f"--since={revision}").code == 2
    (tmp_path / "plain").mkdir()
    assert onomaxis("check", tmp_path / "plain", "--since", "HEAD").code == 2


ONLY = [word for family in FAMILIES for word in ("--only", family)]


def shot(width: int, height: int, mode: str = "RGB", form: str = "PNG") -> bytes:
    import io

    from PIL import Image

    out = io.BytesIO()
    Image.new(mode, (width, height)).save(out, form)
    return out.getvalue()


PICTURES = [
    ("android", "store-icon", [shot(512, 512, "RGBA")], ""), ("android", "store-icon", [shot(500, 500)], "500 x 500"),
    ("ios", "store-icon", [shot(1024, 1024)], ""), ("ios", "store-icon", [shot(1024, 1024, "RGBA")], "alpha"),
    ("android", "feature", [shot(1024, 500, form="JPEG")], ""), ("android", "feature", [shot(1024, 500, "RGBA")], "alpha"),
    ("android", "feature", [shot(1024, 512)], "1024 x 500 is asked for"), ("ios", "feature", [b"not looked at"], ""),
    ("android", "screenshots", [shot(1080, 1920)] * 2, ""), ("android", "screenshots", [shot(1080, 1920)], "1 screenshots"),
    ("android", "screenshots", [shot(1080, 1920)] * 9, "9 screenshots"), ("android", "screenshots", [shot(1080, 2400)] * 2, "twice the shorter"),
    ("android", "screenshots", [shot(300, 500)] * 2, "320 to 3840"), ("android", "screenshots", [shot(1080, 1920, "RGBA")] * 2, "alpha"),
    ("ios", "screenshots", [shot(1320, 2868)], ""), ("ios", "screenshots", [shot(2868, 1320)], ""),
    ("ios", "screenshots", [shot(1000, 2000)], "no device"), ("ios", "screenshots", [b"GIF89a"], "neither PNG nor JPEG"),
]  # fmt: skip


@pytest.mark.parametrize(("platform", "key", "pictures", "said"), PICTURES)
def test_pictures_of_a_listing(platform: str, key: str, pictures: list[bytes], said: str) -> None:
    """Each has the size, form and number that its store takes; what is wrong is said of flavor, language, file."""
    names = [f"store/{number}.png" for number in range(len(pictures))]
    value = json.dumps(names) if key == "screenshots" else json.dumps(names[0])
    contents = clean()
    contents[NAME] = f"{contents[NAME]}\n[flavors.alderbank.{platform}.listing.de]\n{key} = {value}\n"
    tree = Tree.of({**{name: text.encode() for name, text in contents.items()}, **dict(zip(names, pictures, strict=True))})
    found = [item for item in look_over(tree, ["listing"])[0] if item.rule.code == "LIST10"]
    assert bool(found) == bool(said) and all(said in item.message and "alderbank, de" in item.message for item in found), found


def test_a_configuration_that_the_service_does_not_know_where_it_knows_others() -> None:
    """Debug builds with IDs of their own: silence where none is registered, and where all are."""
    import right

    contents = right.native()
    debug = {flavor: f"org.lendspan.{flavor}.debug" for flavor in right.FLAVORS}
    every = {f"ios/Lend/{flavor}/Debug/GoogleService-Info.plist": right.service_plist(id_) for flavor, id_ in debug.items()}
    every["ios/Lend/Debug/GoogleService-Info.plist"] = right.service_plist("org.lendspan.debug")
    one = dict(list(every.items())[:1])
    for more, lacking in (({}, 0), (every, 0), (one, 3)):
        tree = Tree.of({name: text.encode() for name, text in {**contents, **more}.items()})
        found = [item for item in look_over(tree, ["services"])[0] if item.rule.code == "SERVICE13"]
        assert len(found) == lacking and all("Debug" in item.message for item in found), found


def test_a_fault_is_told_once(branded: Path) -> None:
    """By what to do, each rule and each place once; one by one where asked; what a stamp mends is mended, and the rest told."""
    found = onomaxis("check", branded, "--json").json["findings"]
    text = onomaxis("check", branded).out
    causes = {item["code"]: item["fault"].split()[0] for item in found}
    assert not [rule for rule in every_rule() for code in rule.within.split() if rule_called(code).within]  # a cause has none
    assert causes["FLAVOR04"] == "SERVICE01" and causes["VERSION02"] == "VERSION05" and "also found by FLAVOR13, NAME04" in text
    codes = list(dict.fromkeys(item["fault"].split()[0] for item in found))
    assert [line.split()[1] for line in text.splitlines() if re.match(r"(?:error|warning|note) ", line)] == codes
    shared = [item for item in found if item["code"] == "VALUE01" and item["at"][0]["file"] == "ios/Config/Shared.xcconfig"]
    assert len(shared) == 3 and len({item["fault"] for item in shared}) == 1 and "so for mossgate, pennywick too" in text
    names = [item for item in found if item["code"] == "NAME05"]
    assert f"and {len(names) - 4} more faults of this kind (--each lists all)" in text
    each = onomaxis("check", branded, "--each").out
    assert len(re.findall(r"(?m)^(?:error|warning|note) ", each)) == len(found) and len(text) < len(each)
    results = json.loads(onomaxis("check", branded, "--as", "sarif").out)["runs"][0]["results"]
    assert [item["partialFingerprints"]["fault/v1"] for item in results] == [item["fault"] for item in found]
    mended = sum(item["remedy"] == "Run onomaxis stamp." or "onomaxis stamp does" in item["remedy"] for item in found)
    assert f"onomaxis check --fix mends {mended} findings" in text
    told = onomaxis("check", branded, "--fix", "--dry-run", "--json")
    assert told.code == 0 and told.json["findings"] == [] and onomaxis("check", branded, "--json").json["findings"] == found
    done = onomaxis("check", branded, "--fix", "--yes")
    assert done.code == 0 and "Nothing found: the project is consistent." in done.out
    (branded / "android/app/src/mossgate/google-services.json").unlink()
    (branded / "services/mossgate.json").write_text((branded / "services/pennywick.json").read_text())
    assert onomaxis("check", branded, "--fix", "--yes").code == 2
    (branded / "onomaxis.toml").unlink()
    assert "onomaxis adopt writes it" in onomaxis("check", branded, "--fix").err
    for words in (("--since", "HEAD"), ("--as", "sarif")):
        assert "not together with --since" in onomaxis("check", branded, "--fix", *words).err


def test_a_part_of_a_fault_that_was_known_stands_by_itself() -> None:
    """One line, two rules: one fault as long as its cause is told of, and on that line alone."""
    strong, part, other = (Finding(rule_called(code), f"{code} {line}", (("f.xml", line),)) for code, line in (("NAME05", 3), ("NAME04", 3), ("NAME04", 4)))
    found = sorted_findings([part, strong, other])
    assert [item.fault for item in found] == ["NAME05 f.xml:3", "NAME05 f.xml:3", "NAME04 f.xml:4"]
    assert [item.fault for item in with_causes(found[1:])] == ["NAME04 f.xml:3", "NAME04 f.xml:4"]


def test_an_allowance_has_an_owner_and_an_end(tmp_path: Path) -> None:
    """On its last day it holds; after it what it allowed is found again, with whose it is; an end that is not a day is refused."""
    root = files(tmp_path, {**project(), "onomaxis.toml": ""})
    (root / "onomaxis.toml").unlink()
    assert onomaxis("adopt", root).code == 0
    codes = {item["code"] for item in onomaxis("check", root, "--json").json["findings"]}
    assert "LIST03" in codes
    told = (root / "onomaxis.toml").read_text()
    allow = '\n[[allow]]\nrule = "LIST03"\nreason = "asked at every upload"\nowner = "Ada"\nuntil = "%s"\n'
    (root / "onomaxis.toml").write_text(told + allow % "2026-03-31")

    def found(on: str) -> dict[str, str]:
        return {
            item["code"]: item["message"] for item in onomaxis("check", root, "--json", "--on", on).json["findings"] if item["code"] in ("LIST03", "ALLOW02")
        }

    assert found("2026-03-31") == {} and found("2026-04-01").keys() == {"LIST03", "ALLOW02"}
    assert found("2026-04-01")["ALLOW02"] == "LIST03 was allowed until 2026-03-31, allowed by Ada: asked at every upload"
    assert onomaxis("check", root, "--on", "tomorrow").code == 2
    (root / "onomaxis.toml").write_text(told + allow % "2026-13-01")
    done = onomaxis("check", root)
    assert done.code == 2 and "“2026-13-01” is not a day" in done.err
