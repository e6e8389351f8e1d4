"""The identity file: what it refuses, adopting and stamping, values in every sort of place, templates, flavors."""

from __future__ import annotations

import json
import plistlib
import shutil
from pathlib import Path

import pytest
from PIL import Image

import right
from brands import FLAVORS, PLACES, SHARED, identity, project, toml
from conftest import commit_all, files, inline, memory, onomaxis, snapshot
from hybrids import KINDS, spelled
from judges import check_lists, parse_errors
from onomaxis.brands.stamp import stamp
from onomaxis.demo import copy_demo
from onomaxis.errors import InputError, RefusedError
from onomaxis.rename.rename import plan_rename
from onomaxis.surveys.survey import take_survey
from onomaxis.wishes import Wish
from test_any_tree import KTS, android
from xcode import pbxproj

NAME = "onomaxis.toml"


def made(folder: Path, contents: dict[str, str]) -> Path:
    root = files(folder, contents)
    commit_all(root)
    return root


def stamped(root: Path, *more: str) -> dict:
    done = onomaxis("stamp", root, "--json", "--allow-dirty", *more)
    assert done.code == 0, done.err
    return done.json


@pytest.mark.parametrize("which", ["lendspan", "counter", *KINDS, "brands"])
def test_adopt_then_stamp_changes_nothing(tmp_path: Path, which: str) -> None:
    """What adopt writes is what there is: stamping it leaves every byte, and writing it again gives the same file."""
    if which in ("lendspan", "counter"):
        root = copy_demo(str(tmp_path / "x"), counter=True) / ("counter" if which == "counter" else "")
        root = root if which == "counter" else shutil.move(str(root / "android"), str(tmp_path / "y" / "android")) and tmp_path / "y"
        if which == "lendspan":
            shutil.move(str(tmp_path / "x" / "ios"), str(root / "ios"))
    else:
        root = files(tmp_path / "x", project() if which == "brands" else spelled(which, "org.x.shed", "Shed", "1.2", "7"))
    before = snapshot(root)
    assert onomaxis("adopt", root, "--json").json["created"] == [NAME]
    text = (root / NAME).read_text()
    done = stamped(root)
    assert (done["files"], done["created"], done["removed"], done["notes"]) == ([], [], [], [])
    assert onomaxis("adopt", root).code == 3
    assert onomaxis("adopt", root, "--again", "--json").json["files"] == [] and (root / NAME).read_text() == text
    (root / NAME).unlink()
    assert snapshot(root) == before


@pytest.mark.parametrize("flavored", [True, False])
def test_values_in_every_place(tmp_path: Path, flavored: bool) -> None:
    """Each place reads its value, takes the new one so that its own reader gives it back, and then the old one again."""
    root = made(tmp_path / "x", project(flavored))
    rows = PLACES + SHARED
    rows = [row for row in rows if not row[0].startswith(('meta-data = "login', 'meta-data = "maps', 'plist = "LendspanServer'))]
    before = snapshot(root)
    (root / NAME).write_text(identity(rows))
    assert stamped(root)["files"] == []
    (root / NAME).write_text(identity(rows, 3))
    done = stamped(root)
    assert len(done["summary"]) == len(rows), done["summary"]
    check_lists(root)
    assert sum(parse_errors(root).values()) == 0
    assert json.loads((root / "config.json").read_text())["server"] == {"url": 'https://new.org/"y"', "days": 21}
    assert plistlib.loads((root / "ios/App/Info.plist").read_bytes())["Theme"] == {"Days": 21}
    assert stamped(root)["files"] == []
    (root / NAME).write_text(identity(rows))
    assert stamped(root)["files"]
    (root / NAME).unlink()
    changed = {path for path, state in snapshot(root).items() if state != before[path]}
    assert changed == {".env", "config.yaml", "gradle.properties"}  # quotes and escapes that a value needed stay


def test_values_of_a_flavor(tmp_path: Path) -> None:
    """A flavor's own value is written where only the flavor reads it; the app and the other flavor keep theirs."""
    root = made(tmp_path / "x", project())
    # Two ways to one place: the meta-data that names a string or a placeholder, the list that names a setting.
    twice = ('resource = "string/login', 'placeholder = "mapsKey', 'setting = "SERVER')
    for rows in ([row for row in PLACES if not row[0].startswith(twice)], [row for row in PLACES if row[0].startswith(twice)]):
        given = "\n".join(f"v{number} = {toml(row[3])}" for number, row in enumerate(rows))
        (root / NAME).write_text(identity(rows, more=f"\n[flavors.alderbank.values]\n{given}\n\n[flavors.mossgate]\n"))
        assert {line.partition(": ")[0] for line in stamped(root)["summary"]} == {f"alderbank v{n}" for n in range(len(rows))}
        check_lists(root)
        assert stamped(root)["files"] == []
        (root / NAME).write_text(identity(rows, more="\n[flavors.alderbank]\n\n[flavors.mossgate]\n"))
        assert len(stamped(root)["summary"]) == len(rows) and stamped(root)["files"] == []


def test_shared_places_are_never_written_for_one_flavor(tmp_path: Path) -> None:
    """A value that only a flavor gives, in a place that all flavors share: noted, and no byte moves."""
    rows = [row for row in SHARED if row[0].startswith(("level", "color-set", "property", "env", "constant", "pointer"))]
    given = "\n".join(f"v{number} = {toml(row[3])}" for number, row in enumerate(rows))
    text = identity(rows, more=f"\n[flavors.alderbank.values]\n{given}\n")
    text = "\n".join(line for line in text.splitlines() if not line.startswith("value = ")) + "\n"
    root = made(tmp_path / "x", {**project(), NAME: text})
    before = snapshot(root)
    done = stamped(root)
    assert len(done["notes"]) == len(rows) and done["files"] == [] and snapshot(root) == before


def test_stamping_a_template_for_each_customer(tmp_path: Path) -> None:
    """The template way: one tree becomes one customer after the other, then itself again, byte for byte."""
    root = made(tmp_path / "x", project(flavored=False))
    Image.new("RGB", (8, 8), "red").save(root / "app/src/main/res/logo.png")
    (root / "main.png").write_bytes((root / "app/src/main/res/logo.png").read_bytes())
    for name, size in (("good", 8), ("wide", 9)):
        Image.new("RGB", (size, 8), "blue").save(root / f"{name}.png")
    assert onomaxis("adopt", root, "--json").code == 0
    rows = [row for row in PLACES + SHARED if row[0].split()[0] in ("constant", "pointer", "resource") and ".yaml" not in row[0]]
    values = "\n".join(f"v{number} = {toml(row[3])}" for number, row in enumerate(rows))
    more = "\n".join(
        [
            "",
            "[values.login-id]",
            'pattern = "[0-9]+"',
            'value = "100"',
            "",
            "[values.scheme]",
            'template = "fb{login-id}"',
            'places = [{ url-scheme = "login" }]',
            "",
            "[values.logo]",
            'type = "file"',
            'value = "main.png"',
            'places = [{ file = "app/src/main/res/logo.png" }]',
            "",
            "[flavors.alderbank]",
            'id = "org.lendspan.alderbank"',
            'name = "Alder & Bank"',
            'code-package = "org.lendspan.app"',
            "",
            "[flavors.alderbank.values]",
            'login-id = "200"',
            'logo = "good.png"',
            values,
            "",
            "[flavors.mossgate]",
            'id = "org.lendspan.mossgate"',
            'name = "Mossgate"',
            "",
            "[flavors.mossgate.values]",
            'login-id = "300"',
            "",
        ]
    )
    text = (root / NAME).read_text()
    (root / NAME).write_text(text + identity(rows).removeprefix("format = 1") + more)
    commit_all(root)
    before = snapshot(root)
    assert stamped(root)["files"] == []
    for flavor, name, scheme in (("alderbank", "Alder & Bank", "fb200"), ("mossgate", "Mossgate", "fb300")):
        stamped(root, "--flavor", flavor)
        apps = onomaxis("survey", root, "--json").json["apps"]
        assert {(app["id"], app["name"]) for app in apps} == {(f"org.lendspan.{flavor}", name)}
        assert scheme in (root / "ios/App.xcodeproj/project.pbxproj").read_text()
        assert stamped(root, "--flavor", flavor)["files"] == []
    assert stamped(root)["files"] and snapshot(root) == before
    whole = (root / NAME).read_text()
    for old, new, said in (
        ('logo = "good.png"', 'logo = "wide.png"', "9 x 8 pixels, and 8 x 8"),
        ('logo = "good.png"', 'logo = "none.png"', "no file none.png"),
        ('logo = "good.png"', 'logo = "app/src/main/res/logo.png"', "the file that stamping replaces"),
        ('login-id = "200"', 'login-id = "2x0"', "“2x0” does not match [0-9]+"),
    ):
        (root / NAME).write_text(whole.replace(old, new))
        done = onomaxis("stamp", root, "--flavor", "alderbank", "--allow-dirty")
        line = (root / NAME).read_text().split(new)[0].count("\n") + 1
        assert done.code == 2 and said in done.err and f"{NAME}:{line}:" in done.err, done.err


def test_places_follow_a_move_of_the_code_package(tmp_path: Path) -> None:
    """A renamed package takes its constants along: in the identity file, and where each customer has its own."""
    code = "app/src/main/java/org/lendspan/app"
    kinds = {f"{code}/Config.kt": 'package org.lendspan.app\n\nobject Config {\n    const val SERVER = "https://a.example"\n}\n'}
    build = "plugins { id 'com.android.application' }\nandroid { namespace 'org.lendspan.app'; defaultConfig { applicationId 'org.lendspan.app' } }\n"
    manifest = '<manifest xmlns:android="http://schemas.android.com/apk/res/android"><application android:label="Lendspan"/></manifest>\n'
    kinds |= {"settings.gradle": "include ':app'\n", "app/build.gradle": build, "app/src/main/AndroidManifest.xml": manifest}
    root = files(tmp_path, kinds)
    onomaxis("adopt", root)
    more = f"""
[app.values]
server = "https://a.example"
[values.server]
places = [{{ constant = "Config.SERVER", file = "{code}/Config.kt" }}]
[flavors.mossgate]
id = "org.lendspan.mossgate"
code-package = "org.lendspan.mossgate"
[flavors.mossgate.values]
server = "https://m.example"
"""
    with (root / NAME).open("a") as file:
        file.write(more)
    commit_all(root)
    before = snapshot(root)
    assert stamped(root)["files"] == []
    stamped(root, "--flavor", "mossgate")
    text = (root / "app/src/main/java/org/lendspan/mossgate/Config.kt").read_text()
    assert "package org.lendspan.mossgate" in text and "https://m.example" in text
    assert stamped(root, "--flavor", "mossgate")["files"] == []
    assert stamped(root)["files"] and snapshot(root) == before
    assert onomaxis("rename", root, "--id", "org.moss.shed", "--yes").code == 0
    assert 'file = "app/src/main/java/org/moss/shed/Config.kt"' in (root / NAME).read_text()
    assert stamped(root)["files"] == []


def test_what_is_no_id_or_number_is_said_at_its_line(tmp_path: Path) -> None:
    """What a platform does not allow is refused at the line that says so, with whose it is."""
    root = files(tmp_path / "x", project())
    text = "format = 1\n"
    for table, line, said in (
        ("[flavors.mossgate.android]", 'id = "org.9.x"', "mossgate on Android: “org.9.x” is not a valid Android application ID"),
        ("[flavors.alderbank.ios]", 'id = "org.al der"', "alderbank on iOS: “org.al der” is not a bundle identifier"),
        ("[flavors.alderbank.ios]", 'version = "one"', "alderbank on iOS: “one” is not a version for iOS"),
        ("[flavors.alderbank.android]", 'build = "many"', "alderbank on Android: “many” is not a version code"),
        ("[flavors.alderbank.ios.names]", 'de = "a\\nb"', "alderbank on iOS: the display name holds a control character"),
        ("[flavour.alderbank]", 'id = "a.b"', "Did you mean “flavors”?"),
    ):
        (root / NAME).write_text(f"{text}\n{table}\n{line}\n")
        before = snapshot(root)
        done = inline("stamp", root)
        at = 3 if said.startswith("Did") else 4
        assert done.code == 2 and said in done.err and f"{NAME}:{at}:" in done.err, done.err
        assert snapshot(root) == before


FAULTS = [
    ("", 1, "the key “format” is missing"),
    ("format = 2", 1, "reads format 1"),
    ("format = 1\n[app]\nid = ", 3, "not readable TOML"),
    ("format = 1\n\n[aap]\n", 3, "Did you mean “app”?"),
    ("format = 1\n[app]\nnmae = 'x'", 3, "Did you mean “name”?"),
    ("format = 1\n[app]\nname = 3", 3, "takes a text in quotes"),
    ("format = 1\n[app.colors]\nbrand = 'red'", 3, "takes a colour"),
    ("format = 1\n[flavors.Alder]\n[flavors.alder]", 3, "differ in case alone"),
    ("format = 1\n[app.values]\nserver = 'x'", 3, "no value “server” is declared"),
    ("format = 1\n[values.server]\ntype = 'uri'", 3, "Did you mean “url”?"),
    ("format = 1\n[values.server]\ntype = 'url'\nvalue = 'nope'", 4, "is not a URL"),
    ("format = 1\n[values.server]\npattern = '('", 3, "not a regular expression"),
    ("format = 1\n[values.a]\nvalue = 'x'\ntemplate = 'y'", 4, "both a value and a template"),
    ("format = 1\n[values.a]\ntemplate = '{bb}'\n[values.b]\nvalue='1'", 3, "there is no value “bb”"),
    ("format = 1\n[values.a]\ntemplate = '{b}'\n[values.b]\ntemplate = '{a}'", 3, "derived from itself"),
    ("format = 1\n[values.a]\nplaces = [\n  { plist = 'A', setting = 'B' },\n]", 4, "a place says one of"),
    ("format = 1\n[values.a]\nplaces = [{ env = 'A' }]", 3, "needs the file"),
    ("format = 1\n[[allow]]\nrule = 'X'", 2, "the key “reason” is missing"),
]


@pytest.mark.parametrize(("text", "line", "said"), FAULTS, ids=range(len(FAULTS)))
def test_what_an_identity_file_cannot_say(tmp_path: Path, text: str, line: int, said: str) -> None:
    """Every fault names file, line and what to do; nothing is written."""
    root = files(tmp_path / "x", {**project(), NAME: text})
    before = snapshot(root)
    done = inline("stamp", root)
    assert (done.code, done.out) == (2, "") and said in done.err and f"{NAME}:{line}:" in done.err, done.err
    assert snapshot(root) == before


@pytest.mark.parametrize(
    ("place", "said"),
    [
        ('resource = "string/logn"', "Did you mean “login”?"),
        ('resource = "bool/nope"', "There are: loans."),
        ('meta-data = "mapz"', "Did you mean “maps”?"),
        ('placeholder = "nope"', "There are: mapsKey."),
        ('build-field = "SERVR"', "“SERVER”"),
        ('plist = "LendspanServr"', "“LendspanServer”"),
        ('setting = "SERVR"', "“SERVER”"),
        ('color-set = "brandy"', "Brand"),
        ('url-scheme = "x"', "There are: login."),
        ('env = "SRVER", file = ".env"', "“SERVER”"),
        ('pointer = "/server/uri", file = "config.json"', "/server/url"),
        ('constant = "SERVER", file = "Brand.kt"', "declared twice"),
        ('constant = "servr", file = "Brand.swift"', "“server”"),
        ('pointer = "/a", file = "gone.json"', "is gone"),
        ('pointer = "/a", file = "../up.json"', "outside"),
    ],
)
def test_a_place_that_is_gone(tmp_path: Path, place: str, said: str) -> None:
    """The error names the identity file's line, the place, and what stands there instead."""
    root = files(tmp_path / "x", {**project(), NAME: identity([(place, "text", "x", "x")])})
    before = snapshot(root)
    done = inline("stamp", root)
    assert done.code == 2 and f"{NAME}:6: " in done.err and said in done.err and snapshot(root) == before, done.err


def test_flavors_are_brought_in_step(tmp_path: Path) -> None:
    """Identifiers, names, versions of built-in flavors: own entries are edited, missing ones made, nothing else moves."""
    root = made(tmp_path / "x", project())
    more = "\n".join(
        f'[flavors.{flavor}]\nid = "org.lendspan.new.{flavor}"\nname = "New {flavor} & Co"\nversion = "3.{number}"\nbuild = 4{number}\n'
        for number, flavor in enumerate(FLAVORS)
    )
    (root / NAME).write_text("format = 1\n" + more)
    stamped(root)
    check_lists(root)
    apps = onomaxis("survey", root, "--json").json["apps"]
    for number, flavor in enumerate(FLAVORS):
        mine = {(a["id"], a["name"], a["version"], a["build"]) for a in apps if a["flavor"] == flavor}
        assert mine == {(f"org.lendspan.new.{flavor}", f"New {flavor} & Co", f"3.{number}", f"4{number}")}
    assert {(a["id"], a["name"]) for a in apps if not a["flavor"]} == {("org.lendspan.app", "Lendspan")}
    assert stamped(root)["files"] == []
    assert onomaxis("undo", root, "--yes").code == 0 and not (root / "app/src/alderbank").exists()
    (root / NAME).write_text("format = 1\n" + more + '[flavors.pennywick]\nname = "P"\n')
    done = onomaxis("stamp", root, "--flavor", "pennywick")
    assert done.code == 3 and "flavor add pennywick" in done.err


@pytest.mark.parametrize("kind", ["expo", "cordova", "tauri"])
def test_generated_halves_are_stamped(tmp_path: Path, kind: str) -> None:
    """Where the native halves are generated a flavor is a table of the identity file, and the framework's files become it."""
    root = made(tmp_path / "x", spelled(kind, "org.x.shed", "Shed", "1.2", "7"))
    before = snapshot(root)
    assert onomaxis("adopt", root, "--quiet").code == 0
    done = onomaxis("flavor", "add", "oakhollow", root, "--shown", "Oak & Co", "--json")
    assert done.code == 0 and done.json["files"] == [NAME] and "it is stamped" in done.json["notes"][0]
    for flavor, want in (("oakhollow", ("org.x.shed.oakhollow", "Oak & Co")), ("", ("org.x.shed", "Shed"))):
        stamped(root, *(["--flavor", flavor] if flavor else []))
        assert {(a["id"], a["name"]) for a in onomaxis("survey", root, "--json").json["apps"]} == {want}
    (root / NAME).unlink()
    assert snapshot(root) == before


def test_adopting_again_keeps_what_is_there(tmp_path: Path) -> None:
    """A file that is there is brought up to today: comments, values and allowances stay, suffixes too where they still hold."""
    root = made(tmp_path / "x", project())
    assert onomaxis("adopt", root, "--quiet").code == 0
    text = "# ours\n" + (root / NAME).read_text() + '\n[values.days]\nvalue = 3 # three\n\n[[allow]]\nrule = "LIST03"\nreason = "so"\n'
    (root / NAME).unlink()
    assert onomaxis("rename", root, "--id", "org.lendspan.shed", "--name", "The Shed", "--version", "3.0", "--quiet").code == 0
    (root / NAME).write_text(text)
    assert onomaxis("check", root, "--only", "ids").code == 1
    assert onomaxis("adopt", root, "--again", "--quiet", "--allow-dirty").code == 0
    assert stamped(root)["files"] == []
    now = (root / NAME).read_text()
    kept = text.replace('"org.lendspan.app"', '"org.lendspan.shed"', 1).replace('"Lendspan"', '"The Shed"', 1).replace('version = "1.2"', 'version = "3.0"', 1)
    assert now.startswith("# ours\n") and "value = 3 # three" in now and 'id-suffix = ".alderbank"' in now
    assert set(now.splitlines()) - set(kept.splitlines()) <= {'code-package = "org.lendspan.shed"', 'id = "org.lendspan.shed"'}


SHARED_IDS = """format = 1
[app]
id = "org.lendspan"
[flavors.alderbank]
name = "Alder"
[flavors.mossgate]
name = "Moss"
"""


@pytest.mark.parametrize("platform", ["android", "ios"])
def test_two_flavors_do_not_become_one_app(platform: str) -> None:
    """Flavors with IDs of their own do not both take the app's, which the identity file gives those that say none."""
    flavors = ("alderbank", "mossgate")
    names = [f"{type_}-{flavor}" for flavor in flavors for type_ in ("Debug", "Release")]
    own = {name: {"PRODUCT_BUNDLE_IDENTIFIER": f"org.{name.partition('-')[2]}", "PRODUCT_NAME": "Lend", "GENERATE_INFOPLIST_FILE": "YES"} for name in names}
    blocks = "".join(f'create("{flavor}") {{ dimension = "b"; applicationId = "org.{flavor}" }}\n' for flavor in flavors)
    contents = {
        "android": android(KTS.format("", f'flavorDimensions += "b"\nproductFlavors {{\n{blocks}}}')),
        "ios": {"Lend.xcodeproj/project.pbxproj": pbxproj(names, {"SDKROOT": "iphoneos"}, {"Lend": ("app", own)})},
    }[platform]
    tree = memory({**contents, NAME: SHARED_IDS})
    with pytest.raises(RefusedError, match=r"would have the ID org\.lendspan, and so has") as raised:
        stamp(tree)
    assert raised.value.file and raised.value.line
    with pytest.raises(RefusedError, match=r"mossgate would have the ID org\.alderbank"):
        plan_rename(take_survey(tree), Wish(android_id="org.alderbank", ios_id="org.alderbank", flavor="mossgate"))


def test_what_belongs_to_one_brand_never_takes_the_apps_value() -> None:
    """Where every configuration is a flavor's, the app's value is not a flavor's own one; nor is a colour in a brand's folder the app's."""
    names = [f"{type_}-{flavor}" for flavor in ("alderbank", "mossgate") for type_ in ("Debug", "Release")]
    own = {name: {"PRODUCT_NAME": "Lend", "SERVER": f"https://{name.partition('-')[2]}.org"} for name in names}
    color = '{"colors": [{"idiom": "universal", "color": {"color-space": "srgb", "components": {"red": "1.000", "green": "1.000", "blue": "1.000"}}}]}'
    contents = {
        "Lend.xcodeproj/project.pbxproj": pbxproj(names, {"SDKROOT": "iphoneos"}, {"Lend": ("app", own)}),
        "Brands/Alderbank/A.xcassets/Tint.colorset/Contents.json": color,
        "Shared/A.xcassets/Tint.colorset/Contents.json": color,
    }
    said = "".join(f'[flavors.{flavor}.values]\nserver = "https://{flavor}.org"\n' for flavor in ("alderbank", "mossgate"))
    described = f'format = 1\n[app.values]\nserver = "https://app.org"\n[values.server]\nplaces = [{{ setting = "SERVER" }}]\n{said}'
    assert stamp(memory({**contents, NAME: described})).empty
    tint = 'format = 1\n[app.values]\ntint = "#102030"\n[values.tint]\ntype = "color"\nplaces = [{ color-set = "Tint" }]\n'
    assert [change.target for change in stamp(memory({**contents, NAME: tint})).changes] == ["Shared/A.xcassets/Tint.colorset/Contents.json"]
    del contents["Shared/A.xcassets/Tint.colorset/Contents.json"]
    with pytest.raises(InputError, match="no colour set “Tint”"):
        stamp(memory({**contents, NAME: tint}))


@pytest.mark.parametrize(("name", "key"), [("Lendspan", ""), ("Lendspan for desks", '[ios]\ntarget = "ios"\n')])
def test_a_desktop_half_beside_the_phone_s(tmp_path: Path, name: str, key: str) -> None:
    """One that is called alike is the same app; one that is called otherwise is left alone, and no stamp writes it over."""
    contents = dict(right.flutter())
    half = "macos/Runner/Configs/AppInfo.xcconfig"
    contents[half] = contents[half].replace("PRODUCT_NAME = Lendspan", f"PRODUCT_NAME = {name}")
    root = files(tmp_path, contents)
    done = onomaxis("adopt", root)
    assert done.code == 0 and ("its ID or name differs from the app's beside it" in done.err) == bool(key)
    told = (root / NAME).read_text()
    assert told.count("[ios]") == bool(key) and key in told
    before = snapshot(root)
    assert "Nothing to change" in onomaxis("stamp", root, "--allow-dirty").err and snapshot(root) == before
