"""What follows a rename beside code and configuration: shared names, files placed by package, copies, signing, variants."""

from __future__ import annotations

from pathlib import Path

import pytest

from compositions import NS, plist
from conftest import commit_all, files, onomaxis
from hybrids import spelled
from onomaxis.rename.plan import Plan
from onomaxis.rename.rename import plan_rename
from onomaxis.surveys.survey import take_survey
from onomaxis.tree import Tree
from onomaxis.wishes import Wish
from onomaxis.writing.change import applied
from test_any_tree import KTS, android
from xcode import pbxproj


def renamed(contents: dict[str, str], **wish: str) -> tuple[Plan, dict[str, str]]:
    """Plan a wish for a tree in memory; return the plan and every file as it will be."""
    tree = Tree.of({path: text.encode() for path, text in contents.items()})
    plan = plan_rename(take_survey(tree, wish.get("app", "")), Wish(**wish))  # type: ignore[arg-type]
    later = applied(tree, plan.changes)
    return plan, {path: (later.read(path) or b"").decode() for path in later.known}


# -- names that code of several platforms shares


def bridged(on_android: str, on_ios: str) -> dict[str, str]:
    """A framework's app whose halves meet in a channel named after the Android ID."""
    settings = {"PRODUCT_BUNDLE_IDENTIFIER": on_ios, "PRODUCT_NAME": "Runner", "INFOPLIST_FILE": "Runner/Info.plist"}
    return {
        "pubspec.yaml": "name: lend\nversion: 1.0.0+3\ndependencies:\n  flutter:\n    sdk: flutter\n",
        "lib/main.dart": f"const channel = MethodChannel('{on_android}/native');\n",
        "android/settings.gradle": "include ':app'\n",
        "android/app/build.gradle": f"apply plugin: 'com.android.application'\nandroid {{\n    namespace '{on_android}'\n    defaultConfig {{\n        applicationId '{on_android}'\n    }}\n}}\n",
        "android/app/src/main/AndroidManifest.xml": f'<manifest {NS}><application android:label="Lend"/></manifest>',
        "android/app/src/main/kotlin/Main.kt": f'package {on_android}\n\nval channel = "{on_android}/native"\nval own = "{on_android}.OPEN"\n',
        "ios/Runner.xcodeproj/project.pbxproj": pbxproj(["Release"], {"SDKROOT": "iphoneos"}, {"Runner": ("app", {"*": settings})}, {"Runner": "Runner"}),
        "ios/Runner/Info.plist": plist({"CFBundleDisplayName": "Lend"}),
        "ios/Runner/App.swift": f'let channel = FlutterMethodChannel(name: "{on_android}/native")\nlet own = "{on_ios}.queue"\n',
    }


@pytest.mark.parametrize(
    ("ids", "wish", "channel"),
    [
        (("org.lend_span", "org.lend-span"), {"android_id": "net.oak", "ios_id": "net.oak", "both_id": "net.oak"}, "net.oak"),
        (("org.lend_span", "org.lend-span"), {"android_id": "net.o_k", "ios_id": "net.o-k"}, "net.o_k"),
        (("org.lend_span", "org.lend-span"), {"android_id": "net.oak"}, "net.oak"),
        (("org.lend_span", "org.lend-span"), {"ios_id": "net.oak"}, "org.lend_span"),
        (("org.lend", "org.lend"), {"android_id": "net.oak", "ios_id": "net.oak", "both_id": "net.oak"}, "net.oak"),
        (("org.lend", "org.lend"), {"android_id": "net.one", "ios_id": "net.two"}, "org.lend"),
        (("org.lend", "org.lend"), {"android_id": "net.oak"}, "org.lend"),
        (("org.lend", "org.lend"), {"ios_id": "net.oak"}, "org.lend"),
    ],
)
def test_a_shared_name_changes_everywhere_or_nowhere(ids: tuple[str, str], wish: dict[str, str], channel: str) -> None:
    """The three ends of a channel are called the same after any rename; what is a platform's own follows that alone."""
    plan, after = renamed(bridged(*ids), **wish)
    ends = {text for path, text in after.items() if path.endswith((".dart", ".kt", ".swift"))}
    assert all(f"{channel}/native" in text and text.count("/native") == 1 for text in ends)
    new = {"android": wish.get("android_id", ids[0]), "ios": wish.get("ios_id", ids[1])}
    assert f'"{new["android"]}.OPEN"' in next(text for path, text in after.items() if path.endswith(".kt"))
    assert f'"{new["ios"]}.queue"' in after["ios/Runner/App.swift"]
    kept = channel == ids[0] and ids[0] == ids[1]
    assert any("stays in all its 3 places" in note.text for note in plan.notes) == kept
    named = [item for item in plan.residue if "everywhere or nowhere" in item.reason]
    assert bool(named) == kept


# -- files that lie where their package would

PLACED = {
    "sqldelight/org/lendspan/db/Tool.sq": "import org.lendspan.Kind;\n-- org.lendspan\nCREATE TABLE tool (kind TEXT AS Kind);\n",
    "graphql/org/lendspan/api/q.graphql": "query Q { a }\n",
    "resources/org/lendspan/texts/words_de.properties": "a=b\n",
    "rs/org/lendspan/blur.rs": "#pragma rs java_package_name(org.lendspan)\n",
    "resources/org/lendspan2/words.properties": "a=b\n",
    "assets/org/lendspan/a.txt": "x\n",
    "proto/tool.proto": 'package org.lendspan.wire;\noption java_package = "org.lendspan.wire";\n',
}
CODE = 'package org.lendspan\n\nval a = bundle("org.lendspan.texts.words")\nval b = open("org/lendspan/texts/words_de.properties")\nval c = open("org/lendspan/gone.txt")\n'


def test_files_placed_by_their_package() -> None:
    """Queries, bundles and scripts move with the package that their path spells; look-alikes, assets and wire names stay."""
    main = "app/src/main"
    held = {
        **android(KTS.format("", "")),
        f"{main}/java/org/lendspan/A.kt": CODE,
        f"{main}/java/org/lendspan/Kind.kt": "package org.lendspan\n\nenum class Kind\n",
    }
    plan, after = renamed({**held, **{f"{main}/{path}": text for path, text in PLACED.items()}}, android_id="net.oak")
    stays = ("lendspan2", "assets/", "proto/")
    assert {path[len(main) + 1 :] for path in after if path.startswith(main) and path.split("/")[3] not in ("java", "res", "AndroidManifest.xml")} == {
        path if any(word in path for word in stays) else path.replace("org/lendspan", "net/oak") for path in PLACED
    }
    assert after[f"{main}/sqldelight/net/oak/db/Tool.sq"] == PLACED["sqldelight/org/lendspan/db/Tool.sq"].replace("import org.lendspan", "import net.oak")
    assert after[f"{main}/rs/net/oak/blur.rs"] == "#pragma rs java_package_name(net.oak)\n"
    assert after[f"{main}/proto/tool.proto"] == 'package org.lendspan.wire;\noption java_package = "net.oak.wire";\n'
    assert after[f"{main}/java/net/oak/A.kt"].split("\n")[2:5] == [
        'val a = bundle("net.oak.texts.words")',
        'val b = open("net/oak/texts/words_de.properties")',
        'val c = open("org/lendspan/gone.txt")',
    ]
    reasons = {Path(item.file).name: item.reason for item in plan.residue}
    assert "wire" in reasons["tool.proto"] and "names no package" in reasons["A.kt"] and "comment" in reasons["Tool.sq"]


# -- copies of configuration


def test_copies_that_are_kept(tmp_path: Path) -> None:
    """Copies in the native halves follow; those that git ignores are named, as what must be made again."""
    contents = spelled("capacitor", "org.lendspan", "Lend", "1.0", "3")
    copy = "android/app/src/main/assets"
    contents |= {
        f"{copy}/capacitor.config.json": '{\n\t"appId": "org.lendspan",\n\t"appName": "Lend"\n}\n',
        f"{copy}/public/index.html": "<title>Lend</title>\n",
    }
    contents |= {
        "ios/App/App/capacitor.config.json": '{"appId": "org.lendspan"}',
        ".gitignore": "/ios/App/App/capacitor.config.json\n",
        f"{copy}/public/app.bundle": "org.lendspan\n",
    }
    root = files(tmp_path, contents)
    commit_all(root)
    done = onomaxis("rename", root, "--id", "net.oak", "--name", "Oak", "--json").json
    assert (root / copy / "capacitor.config.json").read_text() == '{\n\t"appId": "net.oak",\n\t"appName": "Oak"\n}\n'
    assert (root / copy / "public/index.html").read_text() == "<title>Oak</title>\n"
    assert any(note.startswith("ios/App/App/capacitor.config.json") and "copy it" in note for note in done["notes"])
    assert any("compiled copy" in item["reason"] for item in done["residue"])


def test_platforms_that_the_tools_made() -> None:
    """A kept platform folder changes with the configuration, its copy of it as well."""
    widget = '<widget id="org.lendspan" version="1.0" xmlns="http://www.w3.org/ns/widgets"><name>Lend</name></widget>'
    native = {
        f"platforms/{path}": text
        for path, text in spelled("multiplatform", "org.lendspan", "Lend", "1.0", "3").items()
        if path.startswith("app/") or path == "settings.gradle"
    }
    _, after = renamed({**native, "config.xml": widget, "platforms/app/src/main/res/xml/config.xml": widget}, android_id="net.oak", name="Oak")
    assert after["config.xml"] == after["platforms/app/src/main/res/xml/config.xml"] == widget.replace("org.lendspan", "net.oak").replace("Lend<", "Oak<")


# -- signing

SIGNED = {
    "CODE_SIGN_STYLE": "Manual",
    "DEVELOPMENT_TEAM": "ABCDE12345",
    "CODE_SIGN_IDENTITY": "Apple Distribution: Lendspan (ABCDE12345)",
    "PROVISIONING_PROFILE_SPECIFIER": "Lendspan Store",
    "VERSIONING_SYSTEM": "apple-generic",
}


def signed(settings: dict[str, str]) -> dict[str, str]:
    app = {"PRODUCT_BUNDLE_IDENTIFIER": "org.lendspan", "PRODUCT_NAME": "Lend", **settings}
    return {"Lend.xcodeproj/project.pbxproj": pbxproj(["Debug", "Release"], {"SDKROOT": "iphoneos"}, {"Lend": ("app", {"*": app})})}


def test_signing_is_told(tmp_path: Path) -> None:
    """The survey shows how an app is signed; a rename says which profile is needed anew, a new team what is not its."""
    root = files(tmp_path, signed(SIGNED))
    (app,) = onomaxis("survey", root, "--json").json["apps"]
    assert app["signing"] == {
        "style": "Manual",
        "team": "ABCDE12345",
        "identity": SIGNED["CODE_SIGN_IDENTITY"],
        "profile": "Lendspan Store",
        "versioning": "apple-generic",
    }
    assert "profile Lendspan Store" in onomaxis("survey", root).out
    plan, _ = renamed(signed(SIGNED), ios_id="net.oak")
    assert any("profile “Lendspan Store” was made for org.lendspan: net.oak needs one" in note.text for note in plan.notes)
    plan, after = renamed(signed(SIGNED), team="ZZZZZ99999")
    texts = [note.text for note in plan.notes]
    assert any("is of team ABCDE12345" in text for text in texts) and any("team ZZZZZ99999 needs one" in text for text in texts)
    assert after["Lend.xcodeproj/project.pbxproj"].count("DEVELOPMENT_TEAM = ZZZZZ99999;") == 2
    for quiet in ({"CODE_SIGN_STYLE": "Automatic", "DEVELOPMENT_TEAM": "ABCDE12345"}, {}):
        assert not [note for note in renamed(signed(quiet), ios_id="net.oak")[0].notes if "profile" in note.text]


# -- a plain word is not a name
