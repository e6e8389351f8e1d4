"""iOS in depth: every follower of a bundle identifier and of a name, watch apps, identifiers built from nothing."""

from __future__ import annotations

import json
import plistlib
import re
from pathlib import Path

import pytest

from conftest import commit_all, files, onomaxis, snapshot
from judges import check_lists
from onomaxis.projects.ios.project_file import XcodeProject
from xcode import pbxproj

HEAD = '<?xml version="1.0" encoding="UTF-8"?>\n<!DOCTYPE plist PUBLIC "-//Apple//DTD PLIST 1.0//EN" "http://www.apple.com/DTDs/PropertyList-1.0.dtd">\n'


def plist(**keys: object) -> str:
    """Write a property list as Xcode does: tabs, keys in the order given."""
    return plistlib.dumps(keys, sort_keys=False).decode()


def catalog(**names: str) -> str:
    units = {locale: {"stringUnit": {"state": "translated", "value": name}} for locale, name in names.items()}
    whole = {"sourceLanguage": "en", "strings": {"CFBundleDisplayName": {"localizations": units}}, "version": "1.0"}
    return json.dumps(whole, indent=2, separators=(",", " : "), ensure_ascii=False) + "\n"


SETTINGS = {
    "Shed": (
        "app",
        {
            "*": {
                "PRODUCT_BUNDLE_IDENTIFIER": "I",
                "PRODUCT_NAME": "$(TARGET_NAME)",
                "INFOPLIST_FILE": "Shed/Info.plist",
                "PROVISIONING_PROFILE_SPECIFIER": "AppStore org.x.shed",
            },
            "Staging": {"PRODUCT_BUNDLE_IDENTIFIER": "I.staging"},
        },
    ),
    "Service": ("widget", {"*": {"PRODUCT_BUNDLE_IDENTIFIER": "I.service", "INFOPLIST_FILE": "Service/Info.plist"}}),
    "Watch": (
        "watch",
        {
            "*": {
                "SDKROOT": "watchos",
                "PRODUCT_BUNDLE_IDENTIFIER": "$(APP_ID).watchkitapp",
                "APP_ID": "I",
                "INFOPLIST_KEY_WKCompanionAppBundleIdentifier": "I",
                "INFOPLIST_FILE": "Watch/Info.plist",
            }
        },
    ),
    "Tests": ("tests", {"*": {"PRODUCT_BUNDLE_IDENTIFIER": "org.y.$(TARGET_NAME:rfc1034identifier)"}}),
}
# Written with I for the bundle identifier and N for the name; what is written out stays.
FOLLOWERS: dict[str, str] = {
    "Shed.xcodeproj/project.pbxproj": pbxproj(
        ["Debug", "Release", "Staging"], {"SDKROOT": "iphoneos", "MARKETING_VERSION": "V", "CURRENT_PROJECT_VERSION": "B"}, SETTINGS, {"Shed": "Shed"}
    ),
    "Shed/Info.plist": plist(
        CFBundleIdentifier="$(PRODUCT_BUNDLE_IDENTIFIER)",
        CFBundleDisplayName="N",
        CFBundleVersion="B",
        CFBundleURLTypes=[{"CFBundleURLName": "I", "CFBundleURLSchemes": ["I", "shed"]}],
        BGTaskSchedulerPermittedIdentifiers=["I.refresh"],
        NSUserActivityTypes=["I.view"],
        UTExportedTypeDeclarations=[{"UTTypeIdentifier": "I.doc"}],
    ),
    "Shed/Shed.entitlements": plist(
        **{
            "com.apple.security.application-groups": ["group.org.x.shed"],
            "keychain-access-groups": ["$(AppIdentifierPrefix)org.x.shed"],
            "com.apple.developer.icloud-container-identifiers": ["iCloud.org.x.shed"],
            "com.apple.developer.associated-domains": ["applinks:org.x.shed"],
            "com.apple.developer.parent-application-identifiers": ["$(AppIdentifierPrefix)I"],
        }
    ),
    "Service/Info.plist": plist(CFBundleIdentifier="$(PRODUCT_BUNDLE_IDENTIFIER)", CFBundleShortVersionString="V", CFBundleVersion="B"),
    "Watch/Info.plist": plist(WKCompanionAppBundleIdentifier="I", NSExtension={"NSExtensionAttributes": {"WKAppBundleIdentifier": "I.watchkitapp"}}),
    "ExportOptions.plist": plist(provisioningProfiles={"I": "AppStore org.x.shed", "I.service": "AppStore org.x.shed.service"}),
    "Shed/App.swift": 'let log = Logger(subsystem: "I", category: "a")\nlet q = DispatchQueue(label: "I.queue")\nlet d = UserDefaults(suiteName: "group.org.x.shed")\n'
    'let n = Notification.Name("I.changed")\nlet o = "org.x.shedding"\n// org.x.shed\n',
    "Shed/Old.m": 'static NSString *const kId = @"I.key";\n',
    "Shed/InfoPlist.xcstrings": catalog(en="N", de="Schuppen"),
    "Shed/Base.lproj/Launch.storyboard": '<document><label text="N" id="a"/><label text="Nest Shed" id="b"/><button><state key="normal" title="N"/></button></document>\n',
    "Shed.xcodeproj/xcshareddata/xcschemes/Shed.xcscheme": '<Scheme><RemoteRunnable BundleIdentifier = "I"/><EnvironmentVariable key = "ID" value = "I"/></Scheme>\n',
    "release/Matchfile": 'app_identifier(["I", "I.service"])\n',
    "project.yml": "settings:\n  PRODUCT_BUNDLE_IDENTIFIER: I\n",
}


def spelled(text: str, bundle: str, name: str, version: str, build: str) -> str:
    for mark, value in (("I", bundle), ("N", name), ("V", version), ("B", build)):
        text = re.sub(rf'(?<=[>" )]){mark}(?=[<";.])(?!\.lproj)', value, text)
    return text


def test_every_follower(tmp_path: Path) -> None:
    """ID, name, version and build reach every follower; data that users have, profiles and look-alikes stay."""
    old, new = ("org.x.shed", "Shed", "1.2", "7"), ("com.y.barn", "Barn", "2.0", "9")
    root = files(tmp_path / "p", {path: spelled(text.replace("IDENTIFIER: I", 'IDENTIFIER: "I"'), *old) for path, text in FOLLOWERS.items()})
    commit_all(root)
    before = snapshot(root)
    apps = onomaxis("survey", root, "--json").json["apps"]
    assert [(app["module"], app["configuration"], app["id"], app["names"]) for app in apps] == [
        ("Shed", "Release", "org.x.shed", {"de": "Schuppen", "en": "Shed"}),
        ("Shed", "Staging", "org.x.shed.staging", {"de": "Schuppen", "en": "Shed"}),
    ]
    assert ("Watch", "watch app", "org.x.shed.watchkitapp") in [(part["target"], part["kind"], part["id"]) for part in apps[0]["parts"]]
    done = onomaxis("rename", root, "--id", new[0], "--name", new[1], "--version", new[2], "--build", new[3], "--yes", "--json")
    assert done.code == 0, done.err
    for path, text in FOLLOWERS.items():
        assert (root / path).read_text() == spelled(text.replace("IDENTIFIER: I", 'IDENTIFIER: "I"'), *new), path
    assert check_lists(root) >= 7 and all(item["reason"] for item in done.json["residue"])
    assert onomaxis("rename", root, "--locale-name", "fr=Grange", "--locale-name", "de=Scheune", "--yes", "--allow-dirty").code == 0
    assert (root / "Shed/InfoPlist.xcstrings").read_text() == catalog(en="Barn", de="Scheune", fr="Grange")
    for _ in range(2):
        assert onomaxis("undo", root, "--yes", "--allow-dirty").code == 0
    assert snapshot(root) == before


@pytest.mark.parametrize(
    ("targets", "wanted", "code"),
    [
        ({"A": ("app", "a.$(TEAM).x"), "W": ("widget", "a.$(TEAM).x.w"), "T": ("tests", "a.$(TEAM).t")}, {"A": "n.e.w", "W": "n.e.w.w"}, 0),
        ({"A": ("app", "a.x"), "T": ("tests", "a.$(TEAM).t")}, {"A": "n.e.w"}, 0),
        ({"A": ("app", "a.x"), "W": ("widget", "b.$(TEAM).w")}, {}, 3),
    ],
)
def test_identifiers_built_from_nothing(tmp_path: Path, targets: dict[str, tuple[str, str]], wanted: dict[str, str], code: int) -> None:
    """An ID over a setting that nobody defines is unresolved; renaming writes it, or says why it cannot."""
    made = {name: (kind, {"*": {"PRODUCT_BUNDLE_IDENTIFIER": text}}) for name, (kind, text) in targets.items()}
    root = files(tmp_path, {"A.xcodeproj/project.pbxproj": pbxproj(["Debug", "Release"], {"SDKROOT": "iphoneos"}, made)})
    assert onomaxis("survey", root, "--json").json["unresolved"]
    done = onomaxis("rename", root, "--id", "n.e.w", "--yes", "--allow-dirty")
    assert done.code == code, done.err
    text = (root / "A.xcodeproj/project.pbxproj").read_text()
    for value in wanted.values():
        assert text.count(f"PRODUCT_BUNDLE_IDENTIFIER = {value};") == 2
    assert ("TEAM is not defined" in done.out + done.err) and (code or '"a.$(TEAM).t"' in text)


OWN = {
    "Shed": ("app", {"*": {"PRODUCT_BUNDLE_IDENTIFIER": "org.x.shed", "INFOPLIST_FILE": "Shed/Info.plist", "DEVELOPMENT_TEAM": "OLDOLDOLD1"}}),
    "Service": ("widget", {"*": {"PRODUCT_BUNDLE_IDENTIFIER": "org.x.shed.service", "INFOPLIST_FILE": "Service/Info.plist"}}),
    "Tests": ("tests", {"*": {"PRODUCT_BUNDLE_IDENTIFIER": "org.x.tests", "INFOPLIST_FILE": "Tests/Info.plist", "MARKETING_VERSION": "1.0"}}),
}


def own(tmp_path: Path, service: str, configurations: tuple[str, ...] = ("Debug", "Release"), extra: dict[str, str] | None = None) -> Path:
    """Make a project whose property lists hold versions of their own beside the settings."""
    settings = {"SDKROOT": "iphoneos", "MARKETING_VERSION": "1.0", "CURRENT_PROJECT_VERSION": "7"}
    root = files(
        tmp_path / "own",
        {
            "Own.xcodeproj/project.pbxproj": pbxproj(list(configurations), settings, OWN),
            "Shed/Info.plist": plist(CFBundleShortVersionString="1.2", CFBundleVersion="$(CURRENT_PROJECT_VERSION)"),
            "Service/Info.plist": plist(CFBundleShortVersionString=service, CFBundleVersion="7"),
            "Tests/Info.plist": plist(CFBundleShortVersionString="1.0"),
            "Team.xcconfig": "DEVELOPMENT_TEAM = OLDOLDOLD1 // ours\n",
            **(extra or {}),
        },
    )
    commit_all(root)
    return root


def test_two_versions_for_one_setting_are_refused(tmp_path: Path) -> None:
    """One setting cannot hold what two property lists say."""
    root = own(tmp_path, "1.3")
    before = snapshot(root)
    done = onomaxis("rename", root, "--unify")
    assert done.code == 3 and "cannot hold both" in done.err and "Service/Info.plist:" in done.err and snapshot(root) == before


@pytest.mark.parametrize(("team", "code"), [("NEWNEWNEW2", 0), ("short", 2)])
def test_the_signing_team(tmp_path: Path, team: str, code: int) -> None:
    """The team is written wherever one stands, and nowhere else; without --team it stays."""
    root = own(tmp_path, "1.2")
    assert onomaxis("rename", root, "--name", "Barn").code == 0
    assert (root / "Own.xcodeproj/project.pbxproj").read_text().count("OLDOLDOLD1") == 2
    done = onomaxis("rename", root, "--team", team, "--allow-dirty")
    assert done.code == code, done.err
    if code == 0:
        assert (root / "Own.xcodeproj/project.pbxproj").read_text().count(team) == 2
        assert (root / "Team.xcconfig").read_text() == f"DEVELOPMENT_TEAM = {team} // ours\n"


def test_a_long_name_is_said(tmp_path: Path) -> None:
    """A name of more than 30 characters is written, and the store's limit is said."""
    root = own(tmp_path, "1.2")
    done = onomaxis("rename", root, "--name", "A shed that is shared by very many", "--json").json
    assert any("34 characters" in note and "30" in note for note in done["notes"])


def test_an_extension_too_deep_is_said(demo: Path) -> None:
    """An extension's ID is one segment longer than its app's."""
    path = demo / "ios/Lendspan.xcodeproj/project.pbxproj"
    path.write_text(path.read_text().replace("(LENDSPAN_BASE_ID).widget", "(LENDSPAN_BASE_ID).a.widget"))
    assert "part-id-too-deep" in {item["code"] for item in onomaxis("survey", demo, "--json").json["disagreements"]}


def test_where_files_of_a_project_stand() -> None:
    """By the groups around them, or from the root where they say so; a group that holds itself, or is held twice, counts once."""
    rows = {
        "G0": "isa = PBXGroup; children = (G1, F1, G2, F9, ); sourceTree = \"<group>\";",
        "G1": "isa = PBXGroup; children = (F2, G0, G3, ); path = App; sourceTree = \"<group>\";",
        "G2": "isa = PBXGroup; children = (F3, F2, ); name = Shown; sourceTree = \"<group>\";",
        "G3": "isa = PBXGroup; children = (F4, ); path = Deep; sourceTree = SOURCE_ROOT;",
        "G4": "isa = PBXGroup; path = empty; sourceTree = \"<group>\";",
        "F1": "isa = PBXFileReference; path = top.swift; sourceTree = \"<group>\";",
        "F2": "isa = PBXFileReference; path = a.swift; sourceTree = \"<group>\";",
        "F3": "isa = PBXFileReference; path = b.swift; sourceTree = SOURCE_ROOT;",
        "F4": "isa = PBXFileReference; path = c.swift; sourceTree = \"<group>\";",
        "F5": "isa = PBXFileReference; path = lone.swift; sourceTree = SOURCE_ROOT;",
        "F6": "isa = PBXFileReference; path = lost.swift; sourceTree = \"<group>\";",
        "F9": "isa = PBXFileReference; path = usr/lib.dylib; sourceTree = SDKROOT;",
        "P0": "isa = PBXProject; mainGroup = G0; targets = (); buildConfigurationList = L0;",
    }  # fmt: skip
    text = "// !$*UTF8*$!\n{\n\tobjects = {\n" + "".join(f"\t\t{key} = {{{row}}};\n" for key, row in rows.items()) + "\t};\n\trootObject = P0;\n}\n"
    project = XcodeProject("ios/App.xcodeproj/project.pbxproj", text.encode())
    wanted = {
        "G0": "ios", "G1": "ios/App", "G2": "ios", "G3": "ios/Deep", "F1": "ios/top.swift", "F2": "ios/a.swift", "F3": "ios/b.swift", "F4": "ios/Deep/c.swift",
        "F5": "ios/lone.swift",
    }  # fmt: skip
    assert {key: project.path_of(key) for key in rows if project.path_of(key) is not None} == wanted
    fresh = XcodeProject("ios/App.xcodeproj/project.pbxproj", text.encode())
    assert {key: path for key, path in fresh.paths.items() if key in rows} == wanted
    assert project.path_of("none") is None


# What the ID and the version say without a condition and for devices; what both are after a rename; how often check warns.
CONDITIONS = [
    ("org.x.shed", "org.x.shed", "com.y.barn", "com.y.barn", 0), ("org.x.shed.sim", "org.x.shed", "com.y.barn.sim", "com.y.barn", 0),
    ("org.x.other", "org.x.shed", "org.x.other", "com.y.barn", 1), ("", "org.x.shed", "", "com.y.barn", 0),
    ("$(BASE).shed", "org.x.shed", "com.y.barn", "com.y.barn", 0),
]  # fmt: skip


@pytest.mark.parametrize(("plain", "device", "plain_after", "device_after", "warned"), CONDITIONS)
def test_settings_under_a_condition(tmp_path: Path, plain: str, device: str, plain_after: str, device_after: str, warned: int) -> None:
    """What a setting says under another condition changes with it where both say one thing; else it is named, and stays."""

    def project(ids: tuple[str, str], versions: tuple[str, str]) -> str:
        own = {"PRODUCT_BUNDLE_IDENTIFIER": ids[0], "PRODUCT_BUNDLE_IDENTIFIER[sdk=iphoneos*]": ids[1], "BASE": "org.x", "PRODUCT_NAME": "Shed"}
        own |= {
            "MARKETING_VERSION": versions[0],
            "MARKETING_VERSION[arch=arm64]": versions[1],
            "CURRENT_PROJECT_VERSION": "3",
            "GENERATE_INFOPLIST_FILE": "YES",
        }
        return pbxproj(["Debug", "Release"], {"SDKROOT": "iphoneos"}, {"Shed": ("app", {"*": own})})

    root = files(tmp_path / "p", {"Shed.xcodeproj/project.pbxproj": project((plain, device), ("1.0", "1.0"))})
    assert [f["code"] for f in onomaxis("check", root, "--json").json["findings"]].count("ID10") == warned
    done = onomaxis("rename", root, "--id", "com.y.barn", "--version", "2.0", "--json")
    assert done.code == 0 and any("under another condition" in note for note in done.json["notes"]) == warned, done
    assert (root / "Shed.xcodeproj/project.pbxproj").read_text() == project((plain_after, device_after), ("2.0", "2.0"))
