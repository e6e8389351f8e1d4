"""Flavors as teams make them by hand: a file of settings and an entry point for each, environments beside brands."""

from __future__ import annotations

import re
from collections import Counter
from pathlib import Path

import pytest
from PIL import Image

from compositions import plist
from conftest import files, onomaxis, snapshot
from icon_arts import saved
from onomaxis.identity.schema import NAME
from xcode import pbxproj, standing_on

OPAQUE = saved(Image.new("RGB", (1024, 1024), "teal"), "PNG")
CONTENTS = '{"images": [{"filename": "i.png", "idiom": "universal", "platform": "ios", "size": "1024x1024"}]}'
BRANDS = ("alderbank", "mossgate")
KINDS = ("Debug", "Release", "Profile")
GRADLE = """plugins {{
    id "com.android.application"
    id "dev.flutter.flutter-gradle-plugin"
}}
android {{
    namespace "org.lendspan"
    defaultConfig {{
        applicationId "org.lendspan"
        versionCode flutter.versionCode
        versionName flutter.versionName
    }}
    flavorDimensions {order}
    productFlavors {{
        dev {{
            dimension "env"
            applicationIdSuffix ".dev"
        }}
        prod {{
            dimension "env"
        }}
{brands}    }}
}}
"""
BRAND = """        {0} {{
            dimension "brand"
            applicationId "org.lendspan.{0}"
            resValue "string", "app_name", "{1}"
            manifestPlaceholders = [mapsKey: "AIza{0}", scheme: "{0}"]
        }}
"""
MANIFEST = """<manifest xmlns:android="http://schemas.android.com/apk/res/android">
    <application android:label="@string/app_name">
        <activity android:name=".MainActivity" android:exported="true">
            <intent-filter><action android:name="android.intent.action.MAIN"/><category android:name="android.intent.category.LAUNCHER"/></intent-filter>
        </activity>
    </application>
</manifest>
"""


def entry(name: str) -> str:
    return f"import 'app.dart';\n\nvoid main() => run(Flavor.{name});\n"


def launch(name: str) -> str:
    return f'    {{ "name": "{name} dev", "program": "lib/main_{name}.dart", "args": ["--flavor", "dev{name.title()}"] }}'


def settings(name: str) -> str:
    return (
        f'// Of {name}.\n#include "Generated.xcconfig"\n#include? "Pods/Target Support Files/Pods-Runner/Pods-Runner.debug-{name}.xcconfig"\n'
        f"BUNDLE_ID={'org.lendspan.' + name}\nDISPLAY_NAME = {name.title()} App // shown\nFLUTTER_TARGET = lib/main_{name}.dart\nFLAVOR = {name}\n"
        f"API_HOST = https:/$()/api.{name}.example\nGROUP = group.org.lendspan.{name}\nTIMEOUT = 30\n"
    )


def grown(order: tuple[str, str] = ("env", "brand"), level: str = "target") -> dict[str, str]:
    """Return the project; *level* tells where Xcode's configurations stand on the flavor's file."""
    brands = "".join(BRAND.format(name, f"{name.title()} App") for name in BRANDS)
    found = {
        "pubspec.yaml": "name: shed\nversion: 1.0.0+3\ndependencies:\n  flutter:\n    sdk: flutter\n",
        "lib/app.dart": "enum Flavor { alderbank, mossgate }\nvoid run(Flavor flavor) {}\n",
        "android/settings.gradle": "include ':app'\n",
        "android/app/build.gradle": GRADLE.format(order=", ".join(f'"{name}"' for name in order), brands=brands),
        "android/app/src/main/AndroidManifest.xml": MANIFEST,
        "ios/Runner/Info.plist": plist({"CFBundleDisplayName": "$(DISPLAY_NAME)", "CFBundleVersion": "$(FLUTTER_BUILD_NUMBER)"}),
        "ios/Runner/AppDelegate.swift": "import UIKit\n",
        "ios/Podfile": "project 'Runner', 'Debug-alderbank' => :debug, 'Debug-mossgate' => :debug\ntarget 'Runner' do\nend\n",
        ".vscode/launch.json": '{\n  // how to start\n  "configurations": [\n' + ",\n".join(map(launch, BRANDS)) + "\n  ]\n}\n",
    }
    names = [f"{kind}-{name}" for name in BRANDS for kind in KINDS]
    own: dict[str, dict[str, str]] = {name: {} for name in names}
    text = pbxproj(
        names,
        {"SDKROOT": "iphoneos"},
        {"Runner": ("app", {"*": {"INFOPLIST_FILE": "Runner/Info.plist", "PRODUCT_BUNDLE_IDENTIFIER": "$(BUNDLE_ID)", "PRODUCT_NAME": "Runner"}, **own})},
    )
    for name in BRANDS:
        found |= {f"ios/Flutter/{name}.xcconfig": settings(name), f"lib/main_{name}.dart": entry(name)}
    bases = {name: f"Flutter/{name.partition('-')[2]}.xcconfig" for name in names}
    found["ios/Runner.xcodeproj/project.pbxproj"] = standing_on(text, bases, 1 if level == "target" else 0)
    return found


def apps(root: Path) -> dict[tuple[str, str], tuple[str, str]]:
    return {(app["platform"], app["flavor"]): (app["id"], app["name"]) for app in onomaxis("survey", root, "--json").json["apps"]}


ADDED = ["--id", "org.lendspan.pennywick", "--shown", "Pennywick App", "--json"]


def test_the_only_flavor_as_a_model(tmp_path: Path) -> None:
    """Made from a build's one flavor, the new one shares what is not called by that flavor."""
    contents = {path: text for path, text in grown().items() if "mossgate" not in path}
    names = [f"{kind}-alderbank" for kind in KINDS]
    base = {"BUNDLE_ID": "org.lendspan.alderbank", "DISPLAY_NAME": "Alderbank App"}
    contents["ios/Runner.xcodeproj/project.pbxproj"] = pbxproj(
        names,
        {},
        {"Runner": ("app", {"*": {"INFOPLIST_FILE": "Runner/Info.plist", "PRODUCT_BUNDLE_IDENTIFIER": "$(BUNDLE_ID)", "TEAM_FILE": "Team.txt"}})},
        bases={"": "Shared.xcconfig", "Runner": "Brand.xcconfig"},
    )
    contents["ios/Shared.xcconfig"] = "TIMEOUT = 30\n"
    contents["ios/Brand.xcconfig"] = '#include "Shared.xcconfig"\n' + "".join(f"{key} = {text}\n" for key, text in base.items()) + "HOST = a.example\n"
    root = files(tmp_path, contents)
    done = onomaxis("flavor", "add", "pennywick", root, "--platform", "ios", *ADDED)
    assert done.code == 0, done.err
    made = (root / "ios/Brand-pennywick.xcconfig").read_text()
    assert made == '#include "Shared.xcconfig"\nBUNDLE_ID = org.lendspan.pennywick\nDISPLAY_NAME = Pennywick App\nHOST = a.example\n'
    assert apps(root)["ios", "pennywick"] == ("org.lendspan.pennywick", "Pennywick App")
    assert apps(root)["ios", "alderbank"] == ("org.lendspan.alderbank", "Alderbank App")
    assert "HOST: as alderbank has it still" in str(done.json["notes"])


def test_settings_that_say_the_flavor(tmp_path: Path) -> None:
    """In the project file itself what is the flavor's name becomes the new one's, and what is called after it."""
    names = [f"{kind}-{name}" for name in BRANDS for kind in KINDS]
    own = {
        name: {
            "PRODUCT_BUNDLE_IDENTIFIER": f"org.lendspan.{name.partition('-')[2]}",
            "FLAVOR": name.partition("-")[2].upper(),
            "FLUTTER_TARGET": f"lib/main_{name.partition('-')[2]}.dart",
            "CODE_SIGN_ENTITLEMENTS": f"Runner-{name.partition('-')[2]}.entitlements",
        }
        for name in names
    }
    contents = {
        **grown(),
        "ios/Runner.xcodeproj/project.pbxproj": pbxproj(names, {}, {"Runner": ("app", {"*": {"INFOPLIST_FILE": "Runner/Info.plist"}, **own})}),
    }
    contents["ios/Runner/Info.plist"] = plist({"CFBundleDisplayName": "Lend"})
    root = files(tmp_path, contents)
    done = onomaxis("flavor", "add", "pennywick", root, "--platform", "ios", "--id", "org.lendspan.pennywick", "--json")
    assert done.code == 0, done.err
    text = (root / "ios/Runner.xcodeproj/project.pbxproj").read_text()
    assert text.count("FLAVOR = PENNYWICK;") == text.count("FLUTTER_TARGET = lib/main_pennywick.dart;") == 3
    assert text.count('"Runner-pennywick.entitlements"') == 3
    assert apps(root)["ios", "pennywick"][0] == "org.lendspan.pennywick"


ICON, PROFILE = "ASSETCATALOG_COMPILER_APPICON_NAME", "PROVISIONING_PROFILE_SPECIFIER"
# What a setting says for Alderbank and Mossgate, and what it says for a new flavor (None: nothing); what check finds of it then.
EACH_ITS_OWN = [
    (ICON, ("AppIcon-alderbank", "AppIcon-mossgate"), "AppIcon-pennywick", "ICON12"), (ICON, ("Leaf", "Twig"), None, "FLAVOR07"), (ICON, ("AppIcon", "AppIcon"), "AppIcon", ""),
    (PROFILE, ("Lend Alderbank Store", "Lend Mossgate Store"), "Lend Pennywick Store", ""), (PROFILE, ("One", "Two"), None, ""), (PROFILE, ("", ""), "", ""),
]  # fmt: skip


@pytest.mark.parametrize("where", ["project file", "configuration files"])
@pytest.mark.parametrize(("key", "said", "wanted", "finding"), EACH_ITS_OWN)
def test_what_each_flavor_has_of_its_own_is_not_copied(tmp_path: Path, key: str, said: tuple[str, str], wanted: str | None, finding: str, where: str) -> None:
    """A profile or an icon set is never another brand's: it gets the new name, or is left out and named; no sister is blamed."""
    names = [f"{kind}-{name}" for name in BRANDS[:2] for kind in ("Debug", "Release")]
    texts = dict(zip(BRANDS[:2], said, strict=True))
    usual = {"PRODUCT_NAME": "Lend", "GENERATE_INFOPLIST_FILE": "YES", "MARKETING_VERSION": "1.0", "CURRENT_PROJECT_VERSION": "3"}
    shown = "INFOPLIST_KEY_CFBundleDisplayName"
    own = {name: {"PRODUCT_BUNDLE_IDENTIFIER": f"org.lendspan.{name.partition('-')[2]}", shown: name.partition("-")[2].title()} for name in names}
    contents: dict[str, str | bytes] = {}
    for name in names if said[0] else ():
        brand = name.partition("-")[2]
        if where == "project file":
            own[name][key] = texts[brand]
        else:
            contents[f"Configs/{name}.xcconfig"] = f"BRAND = {brand}\n{key} = {texts[brand]}\n"
    project = pbxproj(names, {}, {"Lend": ("app", {"*": usual, **own})}, {"Lend": "Lend"})
    stands = {name: f"Configs/{name}.xcconfig" for name in names if f"Configs/{name}.xcconfig" in contents}
    contents["Lend.xcodeproj/project.pbxproj"] = standing_on(project, stands) if stands else project
    for icon in {*texts.values()} - {""} if key == ICON else ():
        contents[f"Lend/A.xcassets/{icon}.appiconset/i.png"] = OPAQUE
        contents[f"Lend/A.xcassets/{icon}.appiconset/Contents.json"] = CONTENTS
    root = files(tmp_path, contents)
    assert onomaxis("check", root, "--json").json["findings"] == []
    done = onomaxis("flavor", "add", "pennywick", root, "--id", "org.lendspan.pennywick", "--shown", "Pennywick", "--json")
    assert done.code == 0, done.err
    files_ = [path for path in root.rglob("*") if path.suffix in (".xcconfig", ".pbxproj")]
    found = re.findall(rf'(?m)^\s*{key} = "?([^"\n;]*)"?;?$', "\n".join(path.read_text() for path in files_))
    new = Counter(found) - Counter(text for text in said for _ in ("Debug", "Release"))
    assert set(new) == ({wanted} if wanted else set()), found
    assert any(key in note for note in done.json["notes"]) == (wanted is None)
    findings = onomaxis("check", root, "--json").json["findings"]
    codes = {f["code"] for f in findings} - ({"FLAVOR12"} if wanted is None else set())  # a key that the others have
    assert codes == ({finding} if finding else set()) and {f["flavor"] for f in findings} <= {"pennywick"}


OWN = {
    ".env.{0}": "API_URL=https://api.{0}.example\nDSN=https://k@o1.example/{1}\nPLAIN=yes\n",
    "config/{0}.json": '{{\n  "server": {{ "host": "h{1}.{0}.example" }},\n  "colors": {{ "primary": "#10203{1}" }},\n  "$schema": "https://x.example/s.json"\n}}\n',
    "lib/brands/{0}_config.dart": "class {2}Config {{\n  static const supportEmail = 'help@{0}.example';\n}}\n",
}
# The value's name, what flavor number N called F has, its place.
VALUES = {
    "api-url": ("https://api.{0}.example", '{ env = "API_URL", file = ".env.{flavor}" }'),
    "dsn": ("https://k@o1.example/{1}", '{ env = "DSN", file = ".env.{flavor}" }'),
    "host": ("h{1}.{0}.example", '{ pointer = "/server/host", file = "config/{flavor}.json" }'),
    "primary": ("#10203{1}", '{ pointer = "/colors/primary", file = "config/{flavor}.json" }'),
    "support-email": ("help@{0}.example", '{ constant = "supportEmail", file = "lib/brands/{flavor}_config.dart" }'),
}


def test_values_in_files_of_flavors(tmp_path: Path) -> None:
    """Environment files, JSON and constants that each flavor has of its own are offered with the flavor in their path."""
    contents = {path: text for path, text in grown().items() if not path.startswith("ios/")}
    for number, name in enumerate(BRANDS):
        contents |= {path.format(name): text.format(name, number, name.title()) for path, text in OWN.items()}
    root = files(tmp_path, contents)
    done = onomaxis("adopt", root, "--values")
    assert done.code == 0, done.err
    text = (root / NAME).read_text()
    for number, name in enumerate(BRANDS):
        values = set(text.partition(f"[flavors.{name}.values]\n")[2].partition("\n\n")[0].splitlines())
        assert {f'{key} = "{said.format(name, number)}"' for key, (said, _) in VALUES.items()} <= values
    for key, (_, place) in VALUES.items():
        assert place in text.partition(f"[values.{key}]\n")[2].partition("\n[")[0], key
    assert "schema" not in text and "plain" not in text
    assert onomaxis("stamp", root, "--json").json["files"] == []
    (root / NAME).write_text(text.replace("https://api.mossgate.example", "https://api.moss.example").replace("#102031", "#999999"))
    assert onomaxis("stamp", root).code == 0
    assert "https://api.moss.example" in (root / ".env.mossgate").read_text() and "#999999" in (root / "config/mossgate.json").read_text()
    assert (root / ".env.alderbank").read_text() == OWN[".env.{0}"].format("alderbank", 0)


def test_where_else_siblings_are_named(tmp_path: Path) -> None:
    """Lists in code and data that name the siblings alike get the new one, prose is said; what names one by chance stays."""
    contents = grown()
    contents["lib/flavors.dart"] = (
        "// alderbank and mossgate\nenum F {\n  alderbank,\n  mossgate,\n}\nconst one = 'alderbank';\nconst other = 'a mossgate tree';\n"
    )
    contents["tool/build.sh"] = "for f in alderbank mossgate; do build $f; done\n"
    contents["android/app/build.gradle"] += 'ext.files = [\n    alderbankdebug: ".env.alderbank",\n    mossgatedebug: ".env.mossgate",\n]\n'
    contents["README.md"] = "alderbank, mossgate\n"
    contents["data/all.json"] = '{ "flavors": ["alderbank", "mossgate", "pennywick"] }\n'
    done = onomaxis("flavor", "add", "pennywick", files(tmp_path, contents), *ADDED)
    assert done.code == 0, done.err
    named = [note.partition(": ")[0] for note in done.json["notes"] if "not pennywick: a patch that adds it is proposed" in note]
    assert named == ["lib/flavors.dart:1"]  # prose
    assert "-// alderbank and mossgate\n+// alderbank and mossgate and pennywick\n" in done.json["proposed"]
    wanted = {
        "android/app/build.gradle": '    mossgatedebug: ".env.mossgate",\n    pennywickdebug: ".env.pennywick",\n]',
        "lib/app.dart": "enum Flavor { alderbank, mossgate, pennywick }",
        "lib/flavors.dart": "  alderbank,\n  mossgate,\n  pennywick,\n}\nconst one = 'alderbank';\n",
        "tool/build.sh": "for f in alderbank mossgate pennywick; do",
    }
    assert [path for path, text in wanted.items() if text not in (tmp_path / path).read_text()] == []


def test_numbers_that_all_flavors_take_from_one_place(tmp_path: Path) -> None:
    """Where every flavor gets the same number, the place that all take it from is changed; where not, it is refused."""
    contents = grown()
    contents["ios/Runner/Info.plist"] = plist({"CFBundleVersion": "$(FLUTTER_BUILD_NUMBER)", "CFBundleShortVersionString": "$(FLUTTER_BUILD_NAME)"})
    root = files(tmp_path, contents)
    before = snapshot(root)
    done = onomaxis("renumber", root, "--version", "minor", "--build", "next", "--every-flavor")
    assert done.code == 0, done.err
    after = snapshot(root)
    assert {path for path in after if before.get(path) != after[path] and not path.startswith(".onomaxis")} == {"pubspec.yaml"}
    assert "version: 1.1.0+4\n" in (root / "pubspec.yaml").read_text()
    shown = {(app["version"], app["build"]) for app in onomaxis("survey", root, "--json").json["apps"]}
    assert shown == {("1.1.0", "4")}
    (root / "plan.csv").write_text("flavor,build\nalderbank,7\nmossgate,8\n")
    done = onomaxis("renumber", root, "--plan", root / "plan.csv")
    assert done.code == 3 and "CFBundleVersion" in done.err
    (root / "plan.csv").write_text("flavor,build\nalderbank,7\n")
    assert onomaxis("renumber", root, "--plan", root / "plan.csv").code == 3
    assert "version: 1.1.0+4\n" in (root / "pubspec.yaml").read_text()


def test_the_app_itself_is_not_missed_where_there_are_flavors_alone(tmp_path: Path) -> None:
    """The list shows no hole for the app itself on a platform that builds nothing without a flavor."""
    done = onomaxis("flavor", "list", files(tmp_path, grown()))
    assert done.code == 0 and "missing" not in done.out and "Missing" not in done.out


@pytest.mark.parametrize("codec", ["utf-8", "utf-8-sig", "utf-16"])
@pytest.mark.parametrize("newline", ["\n", "\r\n"], ids=["lf", "crlf"])
def test_copies_of_settings_in_any_encoding(tmp_path: Path, codec: str, newline: str) -> None:
    """What stands around the names in a sibling's file is copied byte for byte, in the file's own encoding."""
    root = files(tmp_path, grown())
    text = '// Möwe {0}\n#include "Größe.xcconfig"\n#include? "Übrige-{0}.xcconfig"\nBUNDLE_ID = org.lendspan.{0} // ключ\nDISPLAY_NAME = {1} App\nMOTTO = Für {2}\n'
    (root / "ios/Flutter/Größe.xcconfig").write_text("SIZE = 3\n")
    for name in BRANDS:
        held = text.format(name, name.title(), "alle").replace("\n", newline)
        (root / f"ios/Flutter/{name}.xcconfig").write_bytes(held.encode(codec))
    done = onomaxis("flavor", "add", "pennywick", root, *ADDED)
    assert done.code == 0, done.err
    made = (root / "ios/Flutter/pennywick.xcconfig").read_bytes()
    assert made.decode(codec) == text.format("pennywick", "Pennywick", "alle").replace("\n", newline).replace("// Möwe pennywick", "// Möwe alderbank")
    assert apps(root)["ios", "pennywick"] == ("org.lendspan.pennywick", "Pennywick App")


@pytest.mark.parametrize("level", ["target", "project"])
@pytest.mark.parametrize("told", ["ID", "name"])
def test_what_a_siblings_file_does_not_say(tmp_path: Path, level: str, told: str) -> None:
    """Where the ID or the name stands in the project file, the new flavor's own file says it beside the copy."""
    names = [f"{kind}-{name}" for name in BRANDS for kind in KINDS]
    literal = {
        name: {"PRODUCT_BUNDLE_IDENTIFIER": f"org.lendspan.{name.partition('-')[2]}"}
        if told == "name"
        else {"DISPLAY_NAME": f"{name.partition('-')[2].title()} App"}
        for name in names
    }
    every = {"INFOPLIST_FILE": "Info.plist", **({"PRODUCT_BUNDLE_IDENTIFIER": "$(BUNDLE_ID)"} if told == "ID" else {})}
    text = pbxproj(names, {}, {"Lend": ("app", {"*": every, **literal})})
    text = standing_on(text, {name: f"Config/{name.partition('-')[2]}.xcconfig" for name in names}, 1 if level == "target" else 0)
    contents = {"Info.plist": plist({"CFBundleDisplayName": "$(DISPLAY_NAME)"}), "Lend.xcodeproj/project.pbxproj": text}
    for name in BRANDS:
        said = f"BUNDLE_ID = org.lendspan.{name}\n" if told == "ID" else f"DISPLAY_NAME = {name.title()} App\n"
        contents[f"Config/{name}.xcconfig"] = f"{said}HOST = {name}.example\n"
    root = files(tmp_path, contents)
    before, earlier = apps(root), snapshot(root)
    done = onomaxis("flavor", "add", "pennywick", root, *ADDED)
    assert done.code == 0, done.err
    assert apps(root) == {**before, ("ios", "pennywick"): ("org.lendspan.pennywick", "Pennywick App")}
    assert onomaxis("flavor", "retire", "pennywick", root).code == 0
    assert {path: held for path, held in snapshot(root).items() if not path.startswith(".onomaxis")} == earlier
