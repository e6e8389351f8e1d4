"""Places that are made where they are missing, and hostile texts in every kind of place: they read back, or are refused."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from brands import project
from compositions import plist
from conftest import commit_all, files, onomaxis, snapshot
from hybrids import spelled
from judges import check_lists
from onomaxis.brands.stamp import stamp
from onomaxis.errors import FormatError, InputError, OnomaxisError
from onomaxis.identity.schema import NAME
from onomaxis.projects.made_places import made_place
from onomaxis.projects.text_places import attribute_spot, constant_spot, env_spot, pointer_spot, property_spot
from onomaxis.tree import Tree
from onomaxis.writing.change import applied
from onomaxis.writing.planned import changeset_of
from test_any_tree import KTS, android
from xcode import pbxproj

SPOTS = {"env": env_spot, "pointer": pointer_spot, "property": property_spot, "attribute": attribute_spot}
# Selector, name, file, what is there (None: no file), and what the file is after it was made to read "a b".
MADE = [
    ("env", "KEY", ".env", None, 'KEY="a b"\n'),
    ("env", "KEY", ".env", "A=1", 'A=1\nKEY="a b"\n'),
    ("env", "KEY", ".env", "A=1\r\n", 'A=1\r\nKEY="a b"\r\n'),
    ("property", "a.key", "x.properties", "b=1\n", "b=1\na.key=a b\n"),
    ("pointer", "/a/b~1c", "x.json", None, '{\n  "a": {\n    "b/c": "a b"\n  }\n}\n'),
    ("pointer", "/a/b", "x.json", '{\n\t"a": {\n\t\t"c": 1\n\t}\n}\n', '{\n\t"a": {\n\t\t"c": 1,\n\t\t"b": "a b"\n\t}\n}\n'),
    ("pointer", "/a/b", "x.yaml", "a:\n    c: 1 # one\nd: 2\n", "a:\n    c: 1 # one\n    b: a b\nd: 2\n"),
    ("pointer", "/e/f", "x.yaml", "a:\n  c: 1\n", "a:\n  c: 1\ne:\n  f: a b\n"),
    ("pointer", "/e/f", "x.yml", None, "e:\n  f: a b\n"),
    ("attribute", "app@key", "x.xml", "<x><app b='1'/></x>", "<x><app key=\"a b\" b='1'/></x>"),
]


@pytest.mark.parametrize(("selector", "name", "path", "there", "wanted"), MADE)
def test_a_place_is_made_in_the_files_own_style(selector: str, name: str, path: str, there: str | None, wanted: str) -> None:
    """The file, its objects and lines are made as the file has them; the place reads what it was made with."""
    tree = Tree.of({path: there.encode()} if there is not None else {"other": b""})
    draft = made_place(tree, selector, name, path, "a b", "text")
    assert draft is not None
    later = applied(tree, changeset_of(draft).resolve(tree))
    assert (later.read(path) or b"").decode() == wanted
    assert SPOTS[selector](later, name, path).text == "a b"


@pytest.mark.parametrize(
    ("selector", "name", "path", "there"),
    [
        ("attribute", "gone@key", "x.xml", "<x/>"),
        ("attribute", "x@key", "x.xml", "<x>"),
        ("attribute", "x@key", "x.xml", None),
        ("pointer", "/a/b", "x.json", '{"a": 1}'),
        ("pointer", "/a", "x.json", "{"),
        ("pointer", "/a", "x.yaml", "a: [1"),
        ("constant", "A", "x.kt", ""),
    ],
)
def test_what_cannot_be_made(selector: str, name: str, path: str, there: str | None) -> None:
    """Where there is no room, or the file cannot be read, nothing is made."""
    assert made_place(Tree.of({path: there.encode()} if there is not None else {"o": b""}), selector, name, path, "x", "text") is None


# Place; how one flavor has it: lines of its block, or a file of its own, or settings of its configurations.
OWN_PLACES = {
    "build-field": ('            buildConfigField("String", "SERVER", "\\"https://mossgate.org\\"")\n', {}, {}),
    "placeholder": ('            manifestPlaceholders["SERVER"] = "https://mossgate.org"\n', {}, {}),
    "resource": ("", {"app/src/mossgate/res/values/strings.xml": '<resources>\n    <string name="server">https://mossgate.org</string>\n</resources>\n'}, {}),
    "setting": ("", {}, {"SERVER": "https://mossgate.org"}),
}


@pytest.mark.parametrize("kind", OWN_PLACES)
def test_a_place_is_made_beside_its_siblings(kind: str) -> None:
    """Where a flavor has the place of its own, those that lack it get theirs, and nobody else; without leave it is named."""
    line, more, settings = OWN_PLACES[kind]
    brands = ["alderbank", "mossgate", "pennywick"]
    name = "string/server" if kind == "resource" else "SERVER"
    blocks = "".join(
        f'        create("{b}") {{\n            dimension = "b"\n            applicationIdSuffix = ".{b}"\n{line if b == "mossgate" else ""}        }}\n'
        for b in brands
    )
    flavored = f'flavorDimensions += "b"\n    productFlavors {{\n{blocks}    }}'
    contents = android(KTS.format("", flavored)) | more
    if kind == "setting":
        names = ["Debug", "Release", *(f"{type_}-{b}" for b in brands for type_ in ("Debug", "Release"))]
        own = {n: {"PRODUCT_BUNDLE_IDENTIFIER": f"org.lendspan.{n.rpartition('-')[2].lower()}", **(settings if "mossgate" in n else {})} for n in names}
        contents = {"Lend.xcodeproj/project.pbxproj": pbxproj(names, {"SDKROOT": "iphoneos"}, {"Lend": ("app", own)})}
    said = "".join(f'[flavors.{b}.values]\nserver = "https://{b}.org"\n' for b in brands)
    for leave in (", create = true", ""):
        described = f'format = 1\n[values.server]\nplaces = [{{ {kind} = "{name}"{leave} }}]\n{said}'
        tree = Tree.of({path: text.encode() for path, text in {**contents, NAME: described}.items()})
        if not leave:
            with pytest.raises(InputError, match="alderbank") as raised:
                stamp(tree)
            assert "create = true" in raised.value.remedy
            continue
        later = applied(tree, stamp(tree).changes)
        told = "".join((later.read(path) or b"").decode() for path in later.known if path != NAME)
        assert [told.count(f"https://{b}.org") for b in brands] == [2 if kind == "setting" else 1] * 3, told
        assert kind != "resource" or later.read("app/src/main/res/values/strings.xml") == tree.read("app/src/main/res/values/strings.xml")
        assert stamp(later).empty


TABLES = """
[values.server]
places = [
  {{ env = "SERVER", file = "env/{{flavor}}.env", create = true }},
  {{ pointer = "/api/url", file = "config/{{flavor}}.json", create = true }},
]
[values.key]
places = [
  {{ meta-data = "org.maps.KEY", create = true }}, {{ plist = "Maps/Key", create = true }}, {{ resource = "string/maps_key", create = true }},
  {{ placeholder = "mapsKey", create = true }}, {{ build-field = "MAPS_KEY", create = true }}, {{ setting = "MAPS_KEY", create = true }},
  {{ property = "maps.key", file = "maps.properties", create = true, platform = "{shared}" }},
]
[values.tint]
type = "color"
places = [ {{ resource = "color/tint", create = true }}, {{ color-set = "Tint", create = true }} ]
[values.scheme]
places = [ {{ url-scheme = "org.lendspan.login", create = true }} ]
"""
BASE = '\n[app.values]\nserver = "https://l.example/?a=1&b=\'2\'"\nkey = "l k"\ntint = "#445566"\nscheme = "lendlogin"\n'
OWN = '\n[flavors.pennywick.values]\nserver = "https://p.example"\nkey = "p \\"k\\" & <x>"\nscheme = "pennylogin"\n'


@pytest.mark.parametrize("flavored", [False, True], ids=["one app", "flavors"])
def test_every_sort_of_place_is_made(tmp_path: Path, flavored: bool) -> None:
    """Stamping makes what is missing for the app and each flavor; a second stamp changes nothing, undo is exact."""
    contents = spelled("flutter", "org.lendspan", "Lend", "1.0.0", "3")
    root = files(tmp_path, {**contents, "ios/Runner/Assets.xcassets/Contents.json": "{}\n"})
    commit_all(root)
    if flavored:
        assert onomaxis("flavor", "add", "pennywick", root, "--id", "org.lendspan.pennywick", "--base", "lendspan").code == 0
    onomaxis("adopt", root, "--allow-dirty")
    identity = root / "onomaxis.toml"
    text = identity.read_text() + BASE + (OWN if flavored else "") + TABLES.format(shared="android")
    identity.write_text(text if not flavored else text.replace('  { property = "maps.key"', '# { property = "maps.key"'))
    commit_all(root)
    before = snapshot(root)
    done = onomaxis("stamp", root, "--json")
    assert done.code == 0, done.out + done.err
    assert any("made: plist Maps/Key" in line for line in done.json["summary"])
    assert onomaxis("stamp", root, "--allow-dirty", "--json").json["files"] == []
    assert not [item for item in onomaxis("check", root, "--json").json["findings"] if item["severity"] == "error"]
    check_lists(root)
    if flavored:
        assert "p" in json.loads((root / "config/pennywick.json").read_text())["api"]["url"]
        assert (root / "android/app/src/pennywick/res/values/strings.xml").read_text().count("&lt;x>") == 2
        assert "$(MAPS_KEY)" in (root / "ios/Runner/Info.plist").read_text()
    else:
        assert (root / "maps.properties").read_text() == "maps.key=l k\n" and (root / "env/main.env").exists()
    onomaxis("undo", root, "--allow-dirty")
    assert snapshot(root) == before


def test_a_key_that_no_flavor_varies(tmp_path: Path) -> None:
    """It is made once, where all find it; when a flavor gets a text of its own, it becomes a reference that each fills."""
    contents = spelled("flutter", "org.lendspan", "Lend", "1.0.0", "3")
    root = files(tmp_path, contents)
    commit_all(root)
    assert onomaxis("flavor", "add", "pennywick", root, "--id", "org.lendspan.pennywick", "--base", "lendspan").code == 0
    onomaxis("adopt", root, "--allow-dirty")
    identity, project = root / "onomaxis.toml", next(root.glob("ios/*.xcodeproj/project.pbxproj"))
    places = '[values.key]\nplaces = [{ plist = "Key", create = true }]\n'
    said = identity.read_text()
    identity.write_text(f'{said}\n[app.values]\nkey = "all & one"\n{places}')
    before = project.read_bytes()
    assert onomaxis("stamp", root, "--allow-dirty").code == 0
    listed = (root / "ios/Runner/Info.plist").read_text()
    assert "<string>all &amp; one</string>" in listed and project.read_bytes() == before
    assert onomaxis("stamp", root, "--allow-dirty", "--json").json["files"] == []
    identity.write_text(f'{said}\n[app.values]\nkey = "all & one"\n[flavors.pennywick.values]\nkey = "own"\n{places}')
    done = onomaxis("stamp", root, "--allow-dirty", "--json")
    assert done.code == 0 and any("refers to a build setting" in line for line in done.json["summary"]), done.out
    assert listed.replace("all &amp; one", "$(KEY)") == (root / "ios/Runner/Info.plist").read_text()
    text = "".join(path.read_text() for path in (project, *root.glob("ios/**/*.xcconfig")))
    assert "own" in text and "all & one" in text
    assert onomaxis("stamp", root, "--allow-dirty", "--json").json["files"] == []
    assert not [item for item in onomaxis("check", root, "--json").json["findings"] if item["severity"] == "error"]


# -- places that flavors share


# -- hostile texts

HOSTILE = ["plain", "a b", "it's", 'say "x"', "back\\slash", "$name ${x} $(y)", "a // b /* c */", "#{ruby} #hash", "50% of %s %d", "äöü €", "a\tb", "\\(swift)", "`tick`", "<x>&amp;", "'''", '"""', "end\\", "$", "{a: 1}", "yes", "- x", "@at ?q"]  # fmt: skip
PLACES = {
    "dart single": ("x.dart", "const a = 'old';\n", "constant"),
    "dart double": ("x.dart", 'const String a = "old";\n', "constant"),
    "dart raw": ("x.dart", "const a = r'old';\n", "constant"),
    "dart raw double": ("x.dart", 'const a = r"old";\n', "constant"),
    "dart lines": ("x.dart", "const a = '''old''';\n", "constant"),
    "kotlin": ("x.kt", 'const val a = "old"\n', "constant"),
    "kotlin raw": ("x.kt", 'val a = """old"""\n', "constant"),
    "swift": ("x.swift", 'let a = "old"\n', "constant"),
    "swift raw": ("x.swift", 'let a = #"old"#\n', "constant"),
    "swift lines": ("x.swift", 'let a = """\nold\n"""\n', "constant"),
    "java": ("x.java", 'static final String a = "old";\n', "constant"),
    "groovy single": ("x.gradle", "def a = 'old'\n", "constant"),
    "groovy double": ("x.gradle", 'def a = "old"\n', "constant"),
    "js single": ("x.js", "const a = 'old';\n", "constant"),
    "js double": ("x.ts", 'export const a: string = "old";\n', "constant"),
    "js template": ("x.ts", "const a = `old`;\n", "constant"),
    "objc": ("x.m", 'NSString *const a = @"old";\n', "constant"),
    "ruby": ("x.rb", "a = 'old'\n", "constant"),
    "env": (".env", "a=old\n", "env"),
    "env single": (".env", "a='old' # note\n", "env"),
    "env double": (".env", 'export a="old"\n', "env"),
    "properties": ("x.properties", "a = old\n", "property"),
    "json": ("x.json", '{"a": "old"}', "pointer"),
    "yaml": ("x.yaml", "a: old # note\n", "pointer"),
    "yaml single": ("x.yaml", "a: 'old'\n", "pointer"),
    "yaml double": ("x.yaml", 'a: "old"\n', "pointer"),
    "attribute": ("x.xml", "<a a='old'/>", "attribute"),
    "attribute double": ("x.xml", '<a a="old"/>', "attribute"),
}
REACH = {
    "constant": (constant_spot, "a"),
    "env": (env_spot, "a"),
    "property": (property_spot, "a"),
    "pointer": (pointer_spot, "/a"),
    "attribute": (attribute_spot, "a@a"),
}


@pytest.mark.parametrize("place", PLACES)
def test_hostile_texts_read_back(place: str) -> None:
    """Every text comes back as it was given, or is refused in words; what stands around it stays."""
    path, text, selector = PLACES[place]
    reach, name = REACH[selector]
    tree = Tree.of({path: text.encode()})
    lead, rest = text.split("old")
    written = 0
    for hostile in HOSTILE:
        spot = reach(tree, name, path)
        assert spot.text.strip() == "old"
        try:
            draft = spot.write(hostile)
            draft.refuse()
        except (FormatError, InputError, OnomaxisError) as error:
            assert error.message
            continue
        later = applied(tree, changeset_of(draft).resolve(tree))
        found = (later.read(path) or b"").decode()
        assert reach(later, name, path).text.strip() == hostile, found
        assert found.startswith(lead.rstrip("'\"\n")) and found.rstrip("\n").endswith(rest.strip("'\"\n ")), found
        written += 1
    assert written >= len(HOSTILE) // 2, place


ASKS = "android.permission.CAMERA"
PERMISSION = f"[values.camera]\ntype = 'boolean'\nplaces = [{{ permission = '{ASKS}' }}]\n"


def asked(main: bool, **flavors: bool) -> Tree:
    """Return the app, and what the identity file says of each flavor; *main*: the app itself asks for the permission."""
    contents = {path: text.encode() for path, text in project().items()}
    path = "app/src/main/AndroidManifest.xml"
    if main:
        contents[path] = contents[path].replace(b"    <application", f'    <uses-permission android:name="{ASKS}"/>\n    <application'.encode(), 1)
    tables = "".join(f"[flavors.{name}.values]\ncamera = {str(said).lower()}\n" for name, said in flavors.items())
    contents[NAME] = f"format = 1\n[app.values]\ncamera = {str(main).lower()}\n{tables}\n{PERMISSION}".encode()
    return Tree.of(contents)


@pytest.mark.parametrize("main", [False, True])
@pytest.mark.parametrize("alderbank", [False, True])
def test_a_permission_that_some_flavors_ask_for(main: bool, alderbank: bool) -> None:
    """Each flavor's manifest adds to the app's or takes out of it; the way back gives the bytes again."""
    before = asked(main, alderbank=alderbank, mossgate=main)
    after = applied(before, stamp(before).changes)
    assert stamp(after).empty and after.read("app/src/main/AndroidManifest.xml") == before.read("app/src/main/AndroidManifest.xml")
    own = after.read("app/src/alderbank/AndroidManifest.xml") if after.exists("app/src/alderbank/AndroidManifest.xml") else None
    assert (own is None) == (main == alderbank) and not after.exists("app/src/mossgate/AndroidManifest.xml")
    if own is not None:
        assert ASKS.encode() in own and (b'tools:node="remove"' in own) == main
        changed = asked(main, alderbank=main, mossgate=main).read(NAME)
        back = after.overlay({NAME: changed or b""}, ())
        later = applied(back, stamp(back).changes)
        assert stamp(later).empty and b"uses-permission" not in (later.read("app/src/alderbank/AndroidManifest.xml") or b"")


@pytest.mark.parametrize("wanted", [True, False])
def test_a_permission_of_the_app_itself(wanted: bool) -> None:
    """It is written beside the others, and goes with its line."""
    there, gone = asked(True), asked(False)
    path = "app/src/main/AndroidManifest.xml"
    start, goal = (gone, there) if wanted else (there, gone)
    tree = start.overlay({NAME: goal.read(NAME) or b""}, ())
    assert (applied(tree, stamp(tree).changes).read(path) or b"").replace(b" />", b"/>") == goal.read(path)


@pytest.mark.parametrize(
    ("script", "old", "new"),
    [
        ("kotlin", "minSdk = flutter.minSdkVersion", "minSdk = 26"),
        ("groovy", "minSdkVersion flutter.minSdkVersion", "minSdkVersion 26"),
        ("groovy", "minSdk = flutter.minSdkVersion", "minSdk = 26"),
    ],
)
def test_a_level_that_the_framework_gave(script: str, old: str, new: str) -> None:
    """The number takes the place of the framework's default; other expressions that cannot be determined are refused."""
    path = "app/build.gradle.kts" if script == "kotlin" else "app/build.gradle"
    plugin = 'plugins { id("com.android.application") }' if script == "kotlin" else "apply plugin: 'com.android.application'"
    text = f"{plugin}\nandroid {{\n    namespace = 'org.lendspan'\n    defaultConfig {{\n        {old}\n    }}\n}}\n".replace("'", '"')
    said = b"format = 1\n[values.least]\ntype = 'integer'\nvalue = 26\nplaces = [{ level = 'min-sdk' }]\n"
    tree = Tree.of({path: text.encode(), "app/src/main/AndroidManifest.xml": b"<manifest/>", NAME: said})
    after = applied(tree, stamp(tree).changes)
    assert after.read(path) == text.replace(old, new).encode() and stamp(after).empty
    other = tree.overlay({path: text.replace("flutter.minSdkVersion", "computed()").encode()}, ())
    with pytest.raises(InputError, match="cannot be determined"):
        stamp(other)


@pytest.mark.parametrize(
    ("pods", "now"),
    [
        ("platform :ios, '16.0'\n", "platform :ios, '17.0'\n"),
        ('  platform(:ios, "15")\n', '  platform(:ios, "17.0")\n'),
        ("# platform :ios, '15.0'\n", "# platform :ios, '15.0'\n"),
        ("platform :ios, min_version\n", "platform :ios, min_version\n"),
        ("platform :ios, '17'\n", "platform :ios, '17'\n"),
    ],
)
def test_the_level_of_pods_follows(pods: str, now: str) -> None:
    """Deployment target and Podfile change together; what is not a literal, or says the same, stays."""
    contents = {path: text.encode() for path, text in project(flavored=False).items()}
    said = b"format = 1\n[values.least]\nvalue = '17.0'\nplaces = [{ level = 'ios' }]\n"
    tree = Tree.of({**contents, "ios/Podfile": pods.encode(), NAME: said})
    after = applied(tree, stamp(tree).changes)
    assert after.read("ios/Podfile") == now.encode() and stamp(after).empty


def test_one_flavor_below_the_level_of_pods() -> None:
    """One flavor cannot lower what pods of all are built for: it is said where that stands."""
    contents = {path: text.encode() for path, text in project().items()}
    said = b"format = 1\n[flavors.mossgate.values]\nleast = '15.0'\n[values.least]\nplaces = [{ level = 'ios' }]\n"
    tree = Tree.of({**contents, "ios/Podfile": b"platform :ios, '16.0'\n", NAME: said})
    plan = stamp(tree)
    assert [(note.at, note.text) for note in plan.notes] == [("ios/Podfile:1", "pods are built for 16.0, and mossgate is for 15.0: lower it here")]


def test_a_list_that_all_share_refers_to_what_differs() -> None:
    """Where each flavor has a text and the app itself none, the key that all share becomes a reference that each one fills."""
    names = [f"{type_}-{brand}" for brand in ("alderbank", "mossgate") for type_ in ("Debug", "Release")]
    own = {name: {"PRODUCT_NAME": "Lend", "INFOPLIST_FILE": "App/Info.plist"} for name in names}
    said = "".join(f'[flavors.{b}.values]\nserver = "https://{b}.org"\n' for b in ("alderbank", "mossgate"))
    contents = {
        "Lend.xcodeproj/project.pbxproj": pbxproj(names, {"SDKROOT": "iphoneos"}, {"Lend": ("app", own)}),
        "App/Info.plist": plist({"Server": "https://old"}),
        NAME: f'format = 1\n[values.server]\nplaces = [{{ plist = "Server", create = true }}]\n{said}',
    }
    tree = Tree.of({path: text.encode() for path, text in contents.items()})
    later = applied(tree, stamp(tree).changes)
    assert b"$(SERVER)" in (later.read("App/Info.plist") or b"")
    text = (later.read("Lend.xcodeproj/project.pbxproj") or b"").decode()
    assert [text.count(f'SERVER = "https://{b}.org"') for b in ("alderbank", "mossgate")] == [2, 2] and stamp(later).empty
