"""The technical rename of Xcode projects: a judge of its own looks at every project before and after."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from conftest import commit_all, files, onomaxis, snapshot
from test_apple import plist
from xcode import pbxproj
from xcode_judge import inspect

BOTH = ["--id", "org.lendspan.toolshed", "--name", "Zoë & Co"]


def shipped(folder: Path) -> list[tuple]:
    """Return what is seen of every product of the iOS apps: no target's own name."""
    apps = [app for app in onomaxis("survey", folder, "--json").json["apps"] if app["platform"] != "android"]
    keys = ("id", "version", "build")
    return [(app["name"], *(item[key] for key in keys)) for app in apps for item in (app, *app["parts"])]


@pytest.mark.journeys
def test_everything_at_once_and_undone(demo: Path) -> None:
    """Identifiers, display name and technical name in one step are one change that undo takes back."""
    before, facts = snapshot(demo), inspect(demo)
    done = onomaxis("rename", demo, *BOTH, "--project-name", "Shed", "--json").json
    assert inspect(demo) == facts and shipped(demo)[0][:2] == ("Zoë & Co", "org.lendspan.toolshed")
    assert {path.name for path in (demo / "ios").glob("*.xcodeproj")} == {"Shed.xcodeproj"}
    assert any("speaks of it" in item["reason"] for item in done["residue"]) and done["journal"] == "0001"
    assert onomaxis("undo", demo, "--yes").code == 0 and snapshot(demo) == before


@pytest.mark.parametrize(
    ("name", "why"),
    [
        ("2fast", "digit"),
        ("class", "word of Swift"),
        ("SwiftUI", "hide the system"),
        ("a/b", "may not stand"),
        ("_", "no module name"),
        ("a$b", "read a sign"),
        (".x", "begin or end"),
        ("Config", "taken"),
    ],
)
def test_names_that_would_not_work(demo: Path, name: str, why: str) -> None:
    """A name without a working module, or one that is taken, is refused with its reason."""
    before = snapshot(demo)
    done = onomaxis("rename", demo / "ios", "--project-name", name)
    assert done.code in (2, 3) and why in done.err and snapshot(demo) == before


# A project called App, where little may follow. Zz is its technical name; a plain App is something else.
TARGETS = {
    "Zz": (
        "app",
        {
            "*": {
                "PRODUCT_BUNDLE_IDENTIFIER": "org.x.$(PRODUCT_NAME:rfc1034identifier)",
                "PRODUCT_NAME": "$(TARGET_NAME)",
                "INFOPLIST_FILE": "$(SRCROOT)/$(TARGET_NAME)/Info.plist",
                "CODE_SIGN_ENTITLEMENTS": "Zz/Zz.entitlements",
                "HEADER_SEARCH_PATHS": "$(PROJECT_DIR)/Zz/**",
                "ASSETCATALOG_COMPILER_APPICON_NAME": "AppIcon",
                "SHOWN": "App",
                "GCC_PREFIX_HEADER": "Zz/Zz-Prefix.pch",
                "PROVISIONING_PROFILE_SPECIFIER": "App",
            }
        },
    ),
    "AppIntents": ("widget", {"*": {"PRODUCT_BUNDLE_IDENTIFIER": "org.x.App.intents", "PRODUCT_NAME": "$(TARGET_NAME)"}}),
    "ZzTests": (
        "tests",
        {
            "*": {
                "PRODUCT_BUNDLE_IDENTIFIER": "org.x.$(TARGET_NAME)",
                "PRODUCT_NAME": "$(TARGET_NAME)",
                "TEST_HOST": "$(BUILT_PRODUCTS_DIR)/Zz.app/$(BUNDLE_EXECUTABLE_FOLDER_PATH)/Zz",
            }
        },
    ),
}
KEY = f"T{0:022d}0"
SCHEME = (
    '<Scheme version="1.7"><BuildAction><BuildableReference BlueprintIdentifier="%s" BuildableName="Zz.app" '
    'BlueprintName="Zz" ReferencedContainer="container:%sZz.xcodeproj"/><BuildableReference '
    'BlueprintIdentifier="gone" BuildableName="App.app" BlueprintName="App" ReferencedContainer="container:Pods/Pods.xcodeproj"/>'
    '<PreActions><ActionContent scriptText="cat &quot;${SRCROOT}/Zz/Info.plist&quot;&#10;echo &amp;&amp; done"/>'
    '<ActionContent title="a&#x41;&#10;b" scriptText="one&#10;two&#9;&apos;three&apos;"/></PreActions>'
    "</BuildAction></Scheme>\n"
)
FIXTURE: dict[str, str] = {
    "ios/Zz.xcodeproj/project.pbxproj": pbxproj(["Debug", "Release"], {"SDKROOT": "iphoneos"}, TARGETS, {"Zz": "Zz"}).replace(
        "\t\tP000 = {", f'\t\tE000 /* Exceptions for "Zz" folder in "ZzTests" target */ = {{isa = Exceptions; target = {KEY}; }};\n\t\tP000 = {{', 1
    ),
    "ios/Zz.xcodeproj/xcshareddata/xcschemes/Zz.xcscheme": SCHEME % (KEY, ""),
    "ios/Zz.xcworkspace/contents.xcworkspacedata": '<Workspace><FileRef location="group:Zz.xcodeproj"/></Workspace>\n',
    "All.xcworkspace/contents.xcworkspacedata": '<Workspace><FileRef location="group:ios/Zz.xcodeproj"/></Workspace>\n',
    "All.xcworkspace/xcshareddata/xcschemes/Everything.xcscheme": SCHEME % (KEY, "ios/"),
    "ios/Zz/Info.plist": plist(
        CFBundleDisplayName="App", CFBundleIdentifier="$(PRODUCT_BUNDLE_IDENTIFIER)", NSPrincipalClass="Zz.Delegate", CFBundleName="$(PRODUCT_NAME)"
    ),
    "ios/Zz/Zz.entitlements": plist(),
    "ios/Zz/Zz-Prefix.pch": "// none\n",
    "ios/Zz/Main.storyboard": '<document><a customModule="Zz"/><b customModule="AppLibrary"/><c title="App"/></document>\n',
    "ios/Zz/Delegate.swift": (
        "import Foundation\nimport AppLibrary\nimport class Zz.Delegate\n// import App\n@main class Delegate {\n"
        '    let a: Zz.Delegate\n    let b = "Zz.Delegate"\n    let c = "The App.Delegate"\n    let d = my.App.Delegate\n}\n'
    ),
    "ios/Zz/AppDelegate.m": '#import "Zz-Swift.h"\n#import <Zz/Zz-Swift.h>\n@import Zz;\n#import "AppDelegate.h"\n',
    "ios/Podfile": "target 'Zz' do\n  project 'Zz.xcodeproj'\n  pod 'App', :path => '../App'\n  target \"ZzTests\" do\n  end\nend\n",
    "ios/.gitignore": "Zz/Secrets.plist\n/Zz.xcworkspace/xcuserdata\nApplication/\n",
    "ci/build.yml": "- run: xcodebuild -workspace ios/Zz.xcworkspace -scheme Zz -derivedDataPath App\n- run: cat ios/Zz/Info.plist App/x\n",
    "fastlane/Fastfile": 'build(workspace: "ios/Zz.xcworkspace", scheme: "Zz")\nlabel("App")\n',
}
KEPT = {"org.x.$(PRODUCT_NAME:rfc1034identifier)": "org.x.App", "org.x.$(TARGET_NAME)": "org.x.AppTests"}


def called(name: str, kept: bool = False) -> dict[str, str]:
    """Return the fixture with its technical name; *kept* writes out the identifiers that were built from the old one."""
    found = {path.replace("Zz", name): text.replace("Zz", name) for path, text in FIXTURE.items()}
    for old, new in KEPT.items() if kept else ():
        found = {path: text.replace(f'"{old}"', new) for path, text in found.items()}
    return found


def test_a_project_called_app(tmp_path: Path) -> None:
    """Where everything is called App, just what is the project's, a target's or the module's follows."""
    folder = files(tmp_path / "app", called("App"))
    commit_all(folder)
    facts = inspect(folder)
    done = onomaxis("rename", folder, "--project-name", "Shed", "--json")
    assert done.code == 0, done.err
    wanted = called("Shed", kept=True)
    found = {path: (folder / path).read_text() for path in wanted if (folder / path).exists()}
    assert found == wanted and not (folder / "ios/App").exists()
    after = inspect(folder)
    assert after == facts
    notes = " ".join(done.json["notes"])
    assert "org.x.$(TARGET_NAME) was replaced by a literal: org.x.AppTests" in notes and "Podfile: install" in notes


def test_two_modules_share_their_name_with_a_type(tmp_path: Path) -> None:
    """``Shed.size`` is the type's where one is called like the module; imports still follow."""
    swift = "import Shed\nenum Shed { static let Size = 1 }\nlet a = Shed.Size\n"
    settings = {"Shed": ("app", {"*": {"PRODUCT_BUNDLE_IDENTIFIER": "org.x", "PRODUCT_NAME": "$(TARGET_NAME)"}})}
    folder = files(
        tmp_path / "shed",
        {
            "Shed.xcodeproj/project.pbxproj": pbxproj(["Release"], {}, settings, {"Shed": "Sources"}),
            "Sources/a.swift": swift,
            "project.yml": "targets:\n  Shed:\n    type: application\n",
        },
    )
    commit_all(folder)
    done = onomaxis("rename", folder, "--project-name", "Barn", "--json").json
    assert (folder / "Sources/a.swift").read_text() == swift.replace("import Shed", "import Barn")
    assert any("project.yml" in note and "generated" in note for note in done["notes"])
    assert any(item["file"] == "project.yml" for item in done["residue"])


def test_ignored_files_and_case(tmp_path: Path, demo: Path) -> None:
    """A name that differs in case alone works, and a folder moves with what git ignores in it."""
    (demo / ".gitignore").write_text((demo / ".gitignore").read_text() + "Secrets.plist\n")
    (demo / "ios/Lendspan/Secrets.plist").write_text("mine")
    commit_all(demo)
    before = snapshot(demo)
    done = onomaxis("rename", demo, "--project-name", "LENDSPAN", "--json")
    assert done.code == 0 and (demo / "ios/LENDSPAN/Secrets.plist").read_text() == "mine"
    assert not (demo / "ios/Lendspan").exists() and json.dumps(done.json["moves"]).count("Secrets") == 2
    assert onomaxis("undo", demo, "--yes").code == 0 and snapshot(demo) == before


def test_a_name_that_a_file_cannot_hold(tmp_path: Path) -> None:
    """An import in a file of an old encoding is refused with its line, not passed over."""
    settings = {"Shed": ("app", {"*": {"PRODUCT_BUNDLE_IDENTIFIER": "org.x", "PRODUCT_NAME": "$(TARGET_NAME)", "GENERATE_INFOPLIST_FILE": "YES"}})}
    root = files(
        tmp_path / "shed",
        {
            "Shed.xcodeproj/project.pbxproj": pbxproj(["Release"], {}, settings, {"Shed": "Sources"}),
            "Sources/a.swift": "// f\u00fcr alle\nimport Shed\n".encode("latin-1"),
        },
    )
    commit_all(root)
    before = snapshot(root)
    done = onomaxis("rename", root, "--project-name", "Möwe")
    assert done.code == 3 and "Sources/a.swift:2" in done.err and snapshot(root) == before
    assert onomaxis("rename", root, "--project-name", "Barn").code == 0
    assert (root / "Sources/a.swift").read_bytes() == "// f\u00fcr alle\nimport Barn\n".encode("latin-1")
