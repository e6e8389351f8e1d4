"""What a build phase brings into an iOS app, service files and texts: read with another parser, scripts run by a real shell."""

from __future__ import annotations

import re
import shutil
import subprocess
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import pytest

import right
from conftest import files, memory, onomaxis, snapshot
from onomaxis.brands.flavors import plan_flavor
from onomaxis.brands.new_flavor import FlavorWish
from onomaxis.brands.retirement import plan_retirement
from onomaxis.brands.stamp import stamp
from onomaxis.writing.change import applied
from xcode import pbxproj, quoted
from xcode_judge import inspect, read_project

RESOURCES = "\t\tR000 /* Resources */ = {\n\t\t\tisa = PBXResourcesBuildPhase;\n\t\t\tfiles = (\n%s\t\t\t);\n\t\t};\n"
SCRIPT = '\t\tX000 /* Own */ = {\n\t\t\tisa = PBXShellScriptBuildPhase;\n\t\t\tfiles = ();\n\t\t\tshellPath = /bin/sh;\n\t\t\tshellScript = "%s";\n\t\t};\n'
GOOGLE = "GoogleService-Info.plist"
BRANDS = ("alderbank", "mossgate")
OUTPUT = f"$(BUILT_PRODUCTS_DIR)/$(UNLOCALIZED_RESOURCES_FOLDER_PATH)/{GOOGLE}"


def project(flavored: bool, listed: str = "", script: str = "", folder: str = "") -> dict[str, str | bytes]:
    """An app whose target copies what *listed* names, runs *script*, and takes a whole *folder*."""
    names = ["Debug", "Release", *(f"{kind}-{brand}" for brand in BRANDS for kind in ("Debug", "Release"))] if flavored else ["Debug", "Release"]
    own = {name: {"PRODUCT_BUNDLE_IDENTIFIER": ".".join(("org.lendspan", *name.split("-")[1:]))} for name in names}
    every = {"GENERATE_INFOPLIST_FILE": "YES", "INFOPLIST_KEY_CFBundleDisplayName": "Lend"}
    text = pbxproj(names, {"SDKROOT": "iphoneos"}, {"Lend": ("app", {"*": every, **own})}, folders={"Lend": folder} if folder else None)
    phases = "R000, X000" if script else "R000"
    more = RESOURCES % ("\t\t\t\tB000 /* listed */,\n" if listed else "") + (SCRIPT % script if script else "")
    if listed:
        more += f"\t\tB000 = {{isa = PBXBuildFile; fileRef = F900; }};\n\t\tF900 = {{isa = PBXFileReference; path = {listed}; sourceTree = SOURCE_ROOT; }};\n"
    text = text.replace("buildPhases = ();", f"buildPhases = ({phases});").replace("\t};\n\trootObject", f"{more}\t}};\n\trootObject")
    told = "".join(f'[flavors.{name}.services]\ngoogle-ios = "keys/{name}.plist"\n' for name in BRANDS if flavored)
    found: dict[str, str | bytes] = {"ios/Lend.xcodeproj/project.pbxproj": text, "keys/main.plist": right.service_plist("org.lendspan")}
    found |= {f"keys/{name}.plist": right.service_plist(f"org.lendspan.{name}") for name in BRANDS}
    return found | {"onomaxis.toml": f'format = 1\n[app.services]\ngoogle-ios = "keys/main.plist"\n{told}'}


def settings(objects: Mapping[str, Any]) -> dict[str, str]:
    """Return which file each configuration of the target names, by the project file alone."""
    target = next(item for item in objects.values() if item["isa"] == "PBXNativeTarget")
    items = [objects[key] for key in objects[target["buildConfigurationList"]]["buildConfigurations"]]
    return {item["name"]: item["buildSettings"].get("SERVICE_FILE", "") for item in items}


def built(root: Path, objects: Mapping[str, Any], file: str) -> str:
    """Run the script that copies, as Xcode does; return what lies in the app then."""
    target = next(item for item in objects.values() if item["isa"] == "PBXNativeTarget")
    phases = [objects[key] for key in target["buildPhases"] if objects[key]["isa"] == "PBXShellScriptBuildPhase"]
    (phase,) = phases
    assert phase["inputPaths"] == ["$(SRCROOT)/$(SERVICE_FILE)"] and phase["outputPaths"] == [OUTPUT]
    out = root / "built.plist"
    out.unlink(missing_ok=True)
    env = {"SRCROOT": str(root / "ios"), "SERVICE_FILE": file, "SCRIPT_OUTPUT_FILE_0": str(out), "PATH": "/usr/bin:/bin"}
    subprocess.run([phase["shellPath"], "-c", phase["shellScript"]], env=env, check=True)
    return out.read_text() if out.exists() else ""


def stamped(root: Path) -> dict[str, Any]:
    done = onomaxis("stamp", root, "--yes", "--json", "--allow-dirty")
    assert done.code == 0, done.err + done.out
    return done.json


def left(root: Path) -> list[str]:
    return [item["flavor"] for item in onomaxis("check", root, "--json").json["findings"] if item["code"] == "SERVICE14"]


@pytest.mark.parametrize("where", ["a", "a b/ü"])
def test_one_app_has_it_among_its_resources(tmp_path: Path, where: str) -> None:
    root = files(tmp_path / where, {**project(False), f"ios/Lend/{GOOGLE}": right.service_plist("org.lendspan")})
    assert left(root) == [""]
    stamped(root)
    inspect(root)
    objects = read_project(root / "ios/Lend.xcodeproj/project.pbxproj")["objects"]
    (listed,) = objects["R000"]["files"]
    reference = objects[objects[listed]["fileRef"]]
    assert (reference["path"], reference["sourceTree"]) == (f"Lend/{GOOGLE}", "<group>")
    assert objects[listed]["fileRef"] in objects["G000"]["children"] and left(root) == []
    assert stamped(root)["files"] == []
    assert onomaxis("undo", root, "--yes").code == 0 and left(root) == [""]


def test_each_flavor_s_own_is_copied_by_its_setting(tmp_path: Path) -> None:
    """What lies in the app is what the service knows that flavor by; one without a setting gets none; retired, its lines go."""
    root = files(tmp_path, project(True))
    stamped(root)
    inspect(root)
    objects = read_project(root / "ios/Lend.xcodeproj/project.pbxproj")["objects"]
    for name, file in settings(objects).items():
        brand = name.partition("-")[2]
        assert built(root, objects, file) == right.service_plist(".".join(filter(None, ("org.lendspan", brand)))), name
    assert built(root, objects, "") == ""
    assert left(root) == [] and stamped(root)["files"] == []
    assert onomaxis("flavor", "retire", "mossgate", root, "--yes", "--allow-dirty").code == 0
    inspect(root)
    after = (root / "ios/Lend.xcodeproj/project.pbxproj").read_text()
    assert "mossgate" not in after and after.count("SERVICE_FILE = ") == 4


OTHERS = {
    "a folder that goes into the app": (project(False, folder="Lend"), f"ios/Lend/{GOOGLE}"),
    "a folder reference": (project(False, listed="Lend"), f"ios/Lend/{GOOGLE}"),
    "a script that copies": (project(True, script="cp $SRCROOT/Lend/$BRAND/GoogleService-Info.plist $OUT"), f"ios/Lend/alderbank/{GOOGLE}"),
    "a script that is told the name": ({**project(True, script="sh tools/copy.sh GoogleService-Info.plist"), "ios/tools/copy.sh": "cp $1 $2"}, f"ios/Lend/alderbank/{GOOGLE}"),
    "a script in a file": ({**project(True, script="sh ${SRCROOT}/tools/copy.sh"), "ios/tools/copy.sh": "cp GoogleService-$1.plist $2"}, f"ios/Lend/alderbank/{GOOGLE}"),
}  # fmt: skip


@pytest.mark.parametrize("how", OTHERS)
def test_what_brings_it_already_is_left(tmp_path: Path, how: str) -> None:
    contents, place = OTHERS[how]
    brand = "alderbank" if "alderbank" in place else ""
    root = files(tmp_path, {**contents, place: right.service_plist(".".join(filter(None, ("org.lendspan", brand))))})
    assert left(root) == []
    stamped(root)
    assert (root / "ios/Lend.xcodeproj/project.pbxproj").read_text() == contents["ios/Lend.xcodeproj/project.pbxproj"]


def test_flavors_stay_out_of_a_folder_that_goes_into_the_app(tmp_path: Path) -> None:
    """Two files of one name there would be two for one place."""
    root = files(tmp_path, project(True, folder="Lend"))
    stamped(root)
    objects = read_project(root / "ios/Lend.xcodeproj/project.pbxproj")["objects"]
    assert {file for name, file in settings(objects).items() if "-" in name} == {f"Services/{name}/{GOOGLE}" for name in BRANDS}
    assert left(root) == []


@pytest.mark.parametrize("how", ["listed", "folder", "exceptions"])
def test_one_file_for_all_leaves_the_resources_where_flavors_have_their_own(tmp_path: Path, how: str) -> None:
    """Each flavor's app gets its own, the plain app the one that all had."""
    contents = project(True, listed=f"Lend/{GOOGLE}" if how == "listed" else "", folder="" if how == "listed" else "Lend")
    if how == "exceptions":
        text = str(contents["ios/Lend.xcodeproj/project.pbxproj"])
        target = text[: text.index("isa = PBXNativeTarget")].rstrip().splitlines()[-1].split()[0]
        made = f"\t\tE000 = {{isa = PBXFileSystemSynchronizedBuildFileExceptionSet; membershipExceptions = (Info.plist); target = {target}; }};\n"
        text = text.replace("isa = PBXFileSystemSynchronizedRootGroup;", "isa = PBXFileSystemSynchronizedRootGroup; exceptions = (E000);").replace(
            "\t};\n\trootObject", f"{made}\t}};\n\trootObject"
        )
        contents["ios/Lend.xcodeproj/project.pbxproj"] = text
    root = files(tmp_path, {**contents, f"ios/Lend/{GOOGLE}": right.service_plist("org.lendspan")})
    stamped(root)
    inspect(root)
    objects = read_project(root / "ios/Lend.xcodeproj/project.pbxproj")["objects"]
    for name, file in settings(objects).items():
        brand = name.partition("-")[2]
        assert built(root, objects, file) == right.service_plist(".".join(filter(None, ("org.lendspan", brand)))), name
    sets = [item["membershipExceptions"] for item in objects.values() if item["isa"].endswith("ExceptionSet")]
    assert objects["R000"]["files"] == [] and sets == {"listed": [], "folder": [[GOOGLE]], "exceptions": [["Info.plist", GOOGLE]]}[how]
    assert left(root) == [] and stamped(root)["files"] == []
    assert onomaxis("flavor", "retire", "mossgate", root, "--yes", "--allow-dirty").code == 0 and left(root) == []


@pytest.mark.parametrize("flavor", ["", "mossgate"])
def test_an_id_is_taken_from_a_service_file(tmp_path: Path, flavor: str) -> None:
    """The app, or a flavor, is called as the file knows it, and the file brought into it: one change, taken back as one."""
    contents = {path: data for path, data in project(bool(flavor)).items() if path.startswith("ios/")}
    root = files(tmp_path / "p", contents)
    new = files(
        tmp_path / "new",
        {"g.plist": right.service_plist("org.shed.tools"), "empty.plist": right.service_plist(""), "own.plist": right.service_plist("org.lendspan")},
    )
    wished = ("rename", root, "--id-from", new / "g.plist", "--allow-dirty", *(("--flavor", flavor) if flavor else ()))
    before = snapshot(root)
    refused = onomaxis("stamp", root, "--service", new / "g.plist", "--yes", *(("--flavor", flavor) if flavor else ()))
    assert refused.code == 2 and f"rename --id-from {new / 'g.plist'}" in refused.err and snapshot(root) == before
    for wrong, said in (
        (("--ios-id", "org.other"), "org.other is asked for"),
        (("--id-from", new / "own.plist"), "cannot be determined"),
        (("--id-from", root / "ios/Lend.xcodeproj/project.pbxproj"), "not a service file"),
    ):
        done = onomaxis(*wished, "--yes", *wrong)
        assert done.code == 2 and said in done.err and snapshot(root) == before, (wrong, done.err)
    assert onomaxis(*wished, "--yes").code == 0
    inspect(root)
    ids = {app["flavor"]: app["id"] for app in onomaxis("survey", root, "--json").json["apps"]}
    assert ids == ({"": "org.shed.tools"} if not flavor else {"": "org.lendspan", "alderbank": "org.lendspan.alderbank", flavor: "org.shed.tools"})
    assert left(root) == [] and "Nothing to change" in onomaxis(*wished, "--yes").err
    assert onomaxis("undo", root, "--yes").code == 0 and snapshot(root) == before


def test_a_flavor_comes_with_its_file_and_goes_with_it() -> None:
    """The phase goes with the last file that it copies: every byte is as before; beside others it stays."""
    bare = memory({path: data for path, data in project(True).items() if path.startswith("ios/")})
    own = memory({**{path: bare.read(path) or b"" for path in bare.files}, f"ios/Lend/alderbank/{GOOGLE}": right.service_plist("org.lendspan.alderbank")})
    beside = applied(own, stamp(own, services=(("x.plist", right.service_plist("org.lendspan.alderbank").encode()),)).changes)
    for tree in (bare, beside):
        wish = FlavorWish("oak", id="org.oak", shown="Oak", services=(("x.plist", right.service_plist("org.oak").encode()),))
        after = applied(tree, plan_flavor(tree, wish).changes)
        assert after.exists(f"ios/Lend/oak/{GOOGLE}") and b"Copy the service file" in (after.read("ios/Lend.xcodeproj/project.pbxproj") or b"")
        gone = applied(after, plan_retirement(after, "oak").changes)
        assert {path: gone.read(path) for path in gone.files} == {path: tree.read(path) for path in tree.files}


def test_what_only_names_it_brings_nothing(tmp_path: Path) -> None:
    """A script that uploads symbols, a folder that leaves the file out, a copying phase whose setting names another's file."""
    mine = {f"ios/Lend/alderbank/{GOOGLE}": right.service_plist("org.lendspan.alderbank")}
    uploads = project(True, script="Pods/tool/upload-symbols -gsp $SRCROOT/Lend/GoogleService-Info.plist -p ios $DWARF")
    assert left(files(tmp_path / "a", {**uploads, **mine})) == ["alderbank"]
    plain = {**project(False, folder="Lend"), f"ios/Lend/{GOOGLE}": right.service_plist("org.lendspan")}
    text = str(plain["ios/Lend.xcodeproj/project.pbxproj"])
    key = text.partition("fileSystemSynchronizedGroups = (S")[2].partition(")")[0]
    out = f"E000 = {{isa = PBXFileSystemSynchronizedBuildFileExceptionSet; membershipExceptions = ({quoted(GOOGLE)}); target = {key}; }};"
    text = text.replace("isa = PBXFileSystemSynchronizedRootGroup;", "isa = PBXFileSystemSynchronizedRootGroup;\n\t\t\texceptions = (E000);")
    plain["ios/Lend.xcodeproj/project.pbxproj"] = text.replace("\t};\n\trootObject", f"\t\t{out}\n\t}};\n\trootObject")
    assert left(files(tmp_path / "b", plain)) == [""]
    root = files(tmp_path / "c", project(True))
    stamped(root)
    path = root / "ios/Lend.xcodeproj/project.pbxproj"
    path.write_text(path.read_text().replace("Lend/mossgate/", "Lend/alderbank/"))
    assert left(root) == ["mossgate"]
    stamped(root)
    assert left(root) == []


# What a script copies, whether that is where the flavor's file lies (ios/Lend/alderbank).
LOOKS = [
    ("cp $SRCROOT/Config/$BRAND/GoogleService-Info.plist $OUT", False),
    ('FROM="${PROJECT_DIR}/Services/${BRAND}"\ncp -f "$FROM/GoogleService-Info.plist" "${BUILT_PRODUCTS_DIR}/${PRODUCT_NAME}.app"', False),
    ('FROM="${PROJECT_DIR}/Lend/${BRAND}"\ncp -f "$FROM/GoogleService-Info.plist" "${BUILT_PRODUCTS_DIR}/GoogleService-Info.plist"', True),
    ("NAME=GoogleService-Info.plist\nditto ${SRCROOT}/Lend/${BRAND}/${NAME} $OUT", True),
    (
        "if [ $CONFIGURATION = Debug ]; then cp $SRCROOT/Lend/test/GoogleService-Info.plist $OUT; else cp $SRCROOT/Lend/alderbank/GoogleService-Info.plist $OUT; fi",
        True,
    ),
    ("DIR=a\nDIR=b\ncp $SRCROOT/Lend/$DIR/GoogleService-Info.plist $OUT", True),  # which, nobody can tell
    ("cp $WHERE/GoogleService-Info.plist $OUT", True),
]


@pytest.mark.parametrize(("script", "there"), LOOKS)
def test_a_script_that_looks_elsewhere_brings_nothing(tmp_path: Path, script: str, there: bool) -> None:
    root = files(
        tmp_path,
        {
            **project(True, script=script.replace('"', '\\"').replace("\n", "\\n")),
            f"ios/Lend/alderbank/{GOOGLE}": right.service_plist("org.lendspan.alderbank"),
        },
    )
    assert left(root) == ([] if there else ["alderbank"])


def test_a_new_file_lies_as_its_siblings(tmp_path: Path) -> None:
    """Where scripts take them from: not where a file would be put that has no siblings."""
    contents = project(True, script="cp $SRCROOT/Services/$BRAND-live/GoogleService-Info.plist $OUT")
    own = {f"ios/Services/{name}-live/{GOOGLE}": right.service_plist(f"org.lendspan.{name}") for name in ("alderbank", "mossgate")}
    root = files(tmp_path / "x", {**contents, **own})
    new = tmp_path / GOOGLE
    new.write_text(right.service_plist("org.lendspan.oakhollow"))
    done = onomaxis("flavor", "add", "oakhollow", root, "--id", "org.lendspan.oakhollow", "--name", "Oak", "--service", new, "--platform", "ios")
    assert done.code == 0 and (root / f"ios/Services/oakhollow-live/{GOOGLE}").is_file(), done.err
    assert left(root) == []


def test_a_downloaded_file_needs_no_identity_file(tmp_path: Path) -> None:
    """It is put where the flavor that it knows takes it from, and nothing else changes; who is meant must be clear."""
    root = files(tmp_path / "one", {path: data for path, data in project(True).items() if path != "onomaxis.toml"})
    new = tmp_path / "new.plist"
    new.write_text(right.service_plist("org.lendspan.mossgate"))
    for words, said in (
        ((), "there is no onomaxis.toml"),
        (("--service", new, "--flavor", "nobody"), "no flavor “nobody”"),
        (("--service", new, "--flavor", "alderbank"), "does not know alderbank"),
    ):
        done = onomaxis("stamp", root, *words, "--dry-run")
        assert done.code == 2 and said in done.err, done.err
    done = onomaxis("stamp", root, "--service", new, "--yes", "--json", "--allow-dirty").json
    assert (done["created"], done["files"]) == ([f"ios/Lend/mossgate/{GOOGLE}"], ["ios/Lend.xcodeproj/project.pbxproj"])
    found = settings(read_project(root / "ios/Lend.xcodeproj/project.pbxproj")["objects"])
    assert {name for name, file in found.items() if file} == {"Debug-mossgate", "Release-mossgate"}
    assert onomaxis("stamp", root, "--service", new, "--yes", "--json", "--allow-dirty").json["files"] == [] and not (root / "onomaxis.toml").exists()
    several = {f"{folder}/{path}": data for folder in ("a", "b") for path, data in project(False).items() if path.endswith("pbxproj")}
    done = onomaxis("stamp", files(tmp_path / "two", several), "--service", new, "--dry-run")
    assert done.code == 2 and "Run it in the folder of the one that is meant" in done.err


# -- texts by language

LISTED = (
    "\t\tB100 /* InfoPlist.strings in Resources */ = {isa = PBXBuildFile; fileRef = V100 /* InfoPlist.strings */; };\n"
    "\t\tV100 /* InfoPlist.strings */ = {\n\t\t\tisa = PBXVariantGroup;\n\t\t\tchildren = (\n\t\t\t\tF100 /* en */,\n\t\t\t\tF101 /* de */,\n\t\t\t);\n"
    '\t\t\tname = InfoPlist.strings;\n\t\t\tsourceTree = "<group>";\n\t\t};\n'
)
ENGLISH = {"CFBundleDisplayName": "Lend", "NSCameraUsageDescription": "To scan"}
GERMAN = {"CFBundleDisplayName": "Leih", "NSCameraUsageDescription": "Scannen"}


def speaking(folder: str = "") -> dict[str, str]:
    """Two flavors in two languages; the second one's texts are in UTF-16."""
    contents = {path: str(text) for path, text in project(True, folder=folder).items() if path.endswith("pbxproj")}
    text = contents["ios/Lend.xcodeproj/project.pbxproj"].replace(
        "\t\t\tfiles = (\n", "\t\t\tfiles = (\n\t\t\t\tB100 /* InfoPlist.strings in Resources */,\n", 1
    )
    more = "".join(
        f"\t\t{key} /* {lang} */ = {{isa = PBXFileReference; name = {lang}; path = Lend/{lang}.lproj/InfoPlist.strings; sourceTree = SOURCE_ROOT; }};\n"
        for key, lang in (("F100", "en"), ("F101", "de"))
    )
    contents["ios/Lend.xcodeproj/project.pbxproj"] = text if folder else text.replace("\t};\n\trootObject", f"{LISTED}{more}\t}};\n\trootObject")
    return contents


def said(root: Path, name: str = "Lend") -> dict[str, dict[str, dict[str, str]]]:
    """Run the phase for every configuration, as Xcode does; return what the app says by configuration and language."""
    objects = read_project(root / f"ios/{name}.xcodeproj/project.pbxproj")["objects"]
    target = next(item for item in objects.values() if item["isa"] == "PBXNativeTarget")
    (phase,) = [objects[key] for key in target["buildPhases"] if objects[key]["isa"] == "PBXShellScriptBuildPhase"]
    found: dict[str, dict[str, dict[str, str]]] = {}
    for item in (objects[key] for key in objects[target["buildConfigurationList"]]["buildConfigurations"]):
        out = root.parent / "built" / item["name"]
        out.mkdir(parents=True)
        env = {
            "SRCROOT": str(root / "ios"),
            "TEXTS_FOLDER": item["buildSettings"].get("TEXTS_FOLDER", ""),
            "TARGET_BUILD_DIR": str(out),
            "UNLOCALIZED_RESOURCES_FOLDER_PATH": "A b.app",
            "PATH": "/usr/bin:/bin",
        }
        for path in phase["inputPaths"]:  # declared, so it has to be there
            assert (root / path.replace("$(SRCROOT)", "ios").replace("$(TEXTS_FOLDER)", env["TEXTS_FOLDER"])).is_file(), (item["name"], path)
        subprocess.run([phase["shellPath"], "-c", phase["shellScript"]], env=env, check=True)
        made = {path.parent.name.removesuffix(".lproj"): path for path in out.glob("A b.app/*.lproj/InfoPlist.strings")}
        assert {f"$(TARGET_BUILD_DIR)/$(UNLOCALIZED_RESOURCES_FOLDER_PATH)/{lang}.lproj/InfoPlist.strings" for lang in made} == {*phase["outputPaths"]}
        read = {lang: path.read_bytes() for lang, path in made.items()}
        found[item["name"]] = {
            lang: dict(re.findall(r'"(\w+)" = "([^"]*)";', data.decode("utf-16" if data[:2] == b"\xff\xfe" else "utf-8")))
            for lang, data in sorted(read.items())
        }
    shutil.rmtree(root.parent / "built")
    return found


def test_flavors_have_names_of_their_own_in_every_language(tmp_path: Path) -> None:
    """By option and by identity file, in known languages and new ones: only the one that is meant says otherwise."""
    root = files(tmp_path / "ä b", speaking())
    for lang, texts, encoding in (("en", ENGLISH, "utf-8"), ("de", GERMAN, "utf-16")):
        path = root / f"ios/Lend/{lang}.lproj/InfoPlist.strings"
        path.parent.mkdir(parents=True)
        path.write_bytes("".join(f'"{key}" = "{text}";\n' for key, text in texts.items()).encode(encoding))
    before = snapshot(root)
    change = ("rename", root, "--flavor", "mossgate", "--locale-name", "de=Moos", "--allow-dirty", "--yes")
    assert onomaxis(*change).code == 0
    inspect(root)
    plain, moss = {"de": GERMAN, "en": ENGLISH}, {"de": {**GERMAN, "CFBundleDisplayName": "Moos"}, "en": ENGLISH}
    assert said(root) == {name: moss if "mossgate" in name else plain for name in said(root)}
    assert "Nothing to change" in onomaxis(*change).err
    objects = read_project(root / "ios/Lend.xcodeproj/project.pbxproj")["objects"]
    assert objects["R000"]["files"] == [] and "B100" not in objects and "V100" in objects
    parted = snapshot(root)
    assert onomaxis("undo", root, "--yes").code == 0 and snapshot(root) == before
    assert onomaxis(*change).code == 0 and snapshot(root) == parted

    assert onomaxis("rename", root, "--flavor", "alderbank", "--locale-name", "it=Presta", "--allow-dirty", "--yes").code == 0
    now = said(root)
    assert {name: texts["it"] for name, texts in now.items()} == {name: {"CFBundleDisplayName": "Presta"} if "alder" in name else {} for name in now}
    assert {name: texts["de"] for name, texts in now.items()} == {name: moss["de"] if "moss" in name else GERMAN for name in now}
    assert onomaxis("adopt", root).code == 0 and onomaxis("stamp", root, "--json").json["files"] == []

    identity = (root / "onomaxis.toml").read_text()
    (root / "onomaxis.toml").write_text(
        identity + '\n[flavors.mossgate.names]\nit = "Musco"\nen = "Moss"\n'
        if "[flavors.mossgate.names]" not in identity
        else re.sub(r"(\[flavors\.mossgate(?:\.ios)?\.names\]\n)", r'\1it = "Musco"\nen = "Moss"\n', identity)
    )
    assert stamped(root)["files"] and stamped(root)["files"] == []
    assert {lang: texts["CFBundleDisplayName"] for lang, texts in said(root)["Release-mossgate"].items()} == {"de": "Moos", "en": "Moss", "it": "Musco"}

    (root / "onomaxis.toml").unlink()
    assert onomaxis("flavor", "add", "oak", root, "--id", "org.oak", "--shown", "Oak", "--yes", "--allow-dirty").code == 0
    assert {texts.get("CFBundleDisplayName") for texts in said(root)["Debug-oak"].values()} == {"Oak", None}
    here = said(root)
    assert onomaxis("rename", root, "--project-name", "Shed", "--yes", "--allow-dirty").code == 0
    inspect(root)
    assert said(root, "Shed") == here
    for name in ("oak", "alderbank", "mossgate"):
        assert onomaxis("flavor", "retire", name, root, "--yes", "--allow-dirty").code == 0
    assert not [path for path in (root / "ios/Shed").iterdir() if path.name in ("oak", *BRANDS)]
    assert said(root, "Shed") == {"Debug": here["Debug"], "Release": here["Release"]}


@pytest.mark.parametrize("how", ["catalog", "folder"])
def test_texts_that_cannot_be_parted_are_left(tmp_path: Path, how: str) -> None:
    contents = speaking("Lend" if how == "folder" else "")
    if how == "catalog":
        catalog = '{"sourceLanguage": "en", "strings": {"CFBundleDisplayName": {"localizations": {"de": {"stringUnit": {"state": "translated", "value": "Leih"}}}}}, "version": "1.0"}\n'
        contents["ios/Lend/InfoPlist.xcstrings"] = catalog
        contents["ios/Lend.xcodeproj/project.pbxproj"] = (
            contents["ios/Lend.xcodeproj/project.pbxproj"]
            .replace("fileRef = V100", "fileRef = F102")
            .replace(
                "\t};\n\trootObject", "\t\tF102 = {isa = PBXFileReference; path = Lend/InfoPlist.xcstrings; sourceTree = SOURCE_ROOT; };\n\t};\n\trootObject"
            )
        )
    else:
        contents["ios/Lend/de.lproj/InfoPlist.strings"] = '"CFBundleDisplayName" = "Leih";\n'
    root = files(tmp_path, contents)
    before = snapshot(root)
    done = onomaxis("rename", root, "--flavor", "mossgate", "--locale-name", "de=Moos", "--yes", "--allow-dirty")
    assert done.code == 3 and ("string catalog" in done.err or "move it out of the folder" in done.err), done.err
    assert snapshot(root) == before
